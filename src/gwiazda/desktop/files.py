"""New, open, save, take out, recover: everything between the window and the disk."""

from __future__ import annotations

import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.files import write_atomically
from gwiazda.core.plan.edits import views
from gwiazda.core.plan.storage import MAX_PICTURE, PlanFile
from gwiazda.desktop import autosave, recent
from gwiazda.desktop.ownthings import CSV, OwnThings

PDF_MS = 25_000
PICTURES = (".png", ".jpg", ".jpeg", ".svg", ".pdf")

if TYPE_CHECKING:
    from PySide6.QtCore import QProcess

    from gwiazda.core.assess.states import Assessment
    from gwiazda.core.plan.model import Plan
    from gwiazda.desktop.preview import Progress
    from gwiazda.desktop.window import MainWindow

FILTER = "Gwiazda plan (*.gwiazda *.json)"


TURNS = (36, 72)  # frames of a turntable


class Files(OwnThings):
    """The window's dealings with files. Nothing is asked that can be taken back, and nothing is lost."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        self.pdf_process: QProcess | None = None

    def _leave(self, then: Callable[[], object]) -> None:
        """Go on to another plan; unsaved changes stay in the autosave and are offered back."""
        recent.leave(self.window)
        if not self.window.document.dirty:
            then()
            return
        file = PlanFile(self.window.document.plan, dict(self.window.document.pictures))
        was_demo, path = self.window.document.is_demo, self.window.document.path
        then()
        if self.window.document.plan is not file.plan:
            self.window.show_message(
                f"{file.plan.kit.name} had unsaved changes.",
                "info",
                ("Go back to it", lambda: self._restore(file, path, was_demo)),
            )

    def _restore(self, file: PlanFile, path: Path | None, as_demo: bool = False) -> None:
        self.window.document.take_file(file, path, as_demo)
        self.window.document.mark_unsaved()

    def new(self) -> None:
        self._leave(self.window.document.new)

    def take_started(self, file: PlanFile) -> None:
        """A plan made from a shape, in place of the one that is open."""

        def take() -> None:
            self.window.document.take_file(file, None)
            self.window.document.mark_unsaved()

        self._leave(take)

    def open_demo(self, name: str = "szron") -> None:
        from gwiazda.demos import path_of

        self._leave(lambda: self.window.document.open(path_of(name), as_demo=True))

    def open(self, path: str | Path) -> None:
        """Open a plan; a picture goes behind the view instead."""
        path = Path(path)
        if path.suffix.lower() in PICTURES:
            self.take_picture_file(path)
            return
        self._leave(lambda: self._open(path))

    def put_picture(
        self, name: str, data: bytes, size: tuple[float, float], dropped: int = 0, length_mm: float = 200.0
    ) -> None:
        """Put a picture behind the view that is shown."""
        document, view = self.window.document, self.window.plate.view
        name = document.add_picture(name, data)
        if document.edit("Put a drawing behind", lambda plan: views.put_drawing(plan, view.id, name, *size, length_mm)):
            self.window.plate.fit_view()
            self.window.set_station("measure")
            left = f" {dropped} scripts or outside links in it were left out." if dropped else ""
            self.window.show_message(
                f"{name} lies behind {view.name}.{left} Press K and drag along something whose length you know."
            )

    def take_picture_file(self, path: Path) -> None:
        if path.suffix.lower() == ".pdf":
            self.take_pdf(path)
            return
        from gwiazda.desktop.drawings import read_picture

        try:
            self.put_picture(*read_picture(path))
        except GwiazdaError as error:
            self.window.show_message(str(error), "stop")

    def take_pdf(self, path: Path) -> None:
        """Put the first page of a PDF behind the view, at the size it has on paper; read in a process of its own."""
        import tempfile

        from PySide6.QtCore import QProcess, QTimer

        if not path.is_file() or path.stat().st_size > MAX_PICTURE:
            accepted = f"a PDF of up to {MAX_PICTURE // 2**20} MB"
            self.window.show_message(f"{path.name} can’t be taken. It takes {accepted}.", "stop")
            return
        out = Path(tempfile.mkdtemp(prefix="gwiazda-")) / "page.png"
        process = QProcess(self.window)
        self.pdf_process = process

        def done(code: int) -> None:
            error = bytes(process.readAllStandardError().data()).decode(errors="replace").strip().splitlines()
            printed = bytes(process.readAllStandardOutput().data()).decode(errors="replace").strip()
            if code != 0 or not out.exists():
                reason = error[-1] if error and code == 2 else "reading it took too long or too much memory"
                self.window.show_message(f"{path.name}: {reason}. It takes a PDF with a page to show.", "stop")
            else:
                from gwiazda.desktop.drawings import take_picture

                try:
                    name, data, size, _ = take_picture(
                        f"{path.stem[:80] or 'page'}.png".replace(" ", "-"), out.read_bytes()
                    )
                    self.put_picture(name, data, size, length_mm=size[0] * float(printed))
                except GwiazdaError as refused:
                    self.window.show_message(str(refused), "stop")
            out.unlink(missing_ok=True)
            out.parent.rmdir()
            process.deleteLater()
            self.pdf_process = None

        process.finished.connect(
            lambda code, _status: done(code if process.exitStatus() == QProcess.ExitStatus.NormalExit else 9)
        )
        self.window.show_message(f"Reading {path.name}…")
        process.start(sys.executable, ["-m", "gwiazda.desktop.pdf_page", str(path), str(out)])
        QTimer.singleShot(PDF_MS, process, process.kill)

    def ask_picture_file(self) -> None:
        if path := self._which("Drawing or photo of the kit", f"Pictures ({' '.join('*' + p for p in PICTURES)})"):
            self.take_picture_file(path)

    def paste(self) -> None:
        """Put a picture from the clipboard behind the view."""
        from PySide6.QtWidgets import QApplication

        from gwiazda.desktop.drawings import png_of, take_picture

        image = QApplication.clipboard().image()
        if image.isNull():
            self.window.show_message("There is no picture on the clipboard. Copy a drawing or a photo first.", "stop")
            return
        try:
            self.put_picture(*take_picture("pasted.png", png_of(image)))
        except GwiazdaError as error:
            self.window.show_message(str(error), "stop")

    def _open(self, path: Path) -> None:
        if self.window.document.open(path):
            recent.add(path)
            recent.come_back(self.window)
            self.offer_recovery()

    def offer_recovery(self) -> None:
        """Offer what a killed session left for the plan that is open."""
        path = self.window.document.path
        file = autosave.waiting(path)
        if file is not None:
            self.window.show_message(
                f"An earlier session ended without saving {file.plan.kit.name}.",
                "info",
                ("Take it up again", lambda: self._restore(file, path)),
            )

    def ask_open(self) -> None:
        if path := self._which("Open a plan", FILTER):
            self.open(path)

    def save(self) -> bool:
        if self.window.document.path is None:
            return self.ask_save()
        return self._save(self.window.document.path)

    def _save(self, path: Path) -> bool:
        old = self.window.document.path
        if not self.window.document.save(path):
            return False
        autosave.drop(old)
        autosave.drop(path)
        recent.add(path)
        recent.leave(self.window)
        return True

    def ask_save(self) -> bool:
        name = self.window.document.plan.kit.name.lower().replace(" ", "-") or "plan"
        path = self._where_to("Save the plan", f"{name}.gwiazda", FILTER)
        if path is None:
            return False
        return self._save(path if path.suffix else path.with_name(f"{path.name}.gwiazda"))

    def _folder(self) -> str:
        return str(self.window.document.path.parent) if self.window.document.path else str(Path.home())

    def _which(self, title: str, kinds: str) -> Path | None:
        """The file to open, or None when the user thinks better of it."""
        from PySide6.QtWidgets import QFileDialog

        path, _ = QFileDialog.getOpenFileName(self.window, title, self._folder(), kinds)
        return Path(path) if path else None

    def _where_to(self, title: str, name: str, kinds: str) -> Path | None:
        """The file to write, ``name`` proposed, or None when the user thinks better of it."""
        return self._where_and_how(title, name, kinds)[0]

    def _where_and_how(self, title: str, name: str, kinds: str) -> tuple[Path | None, str]:
        """The same, and which of the kinds was picked."""
        from PySide6.QtWidgets import QFileDialog

        path, kind = QFileDialog.getSaveFileName(self.window, title, str(Path(self._folder()) / name), kinds)
        return (Path(path) if path else None), kind

    def ask_shopping(self) -> None:
        if path := self._where_to("Shopping list", "shopping.csv", CSV):
            self.write_shopping(path)

    def write_shopping(self, path: Path) -> None:
        from gwiazda.core.exchange.report import shopping_csv

        self.window.document.assess_now()
        document = self.window.document
        text = shopping_csv(document.plan, document.assessment, document.workshop)
        self._written(path, lambda: write_atomically(path, text.encode()))

    def ask_circuit(self) -> None:
        if path := self._where_to("Circuits", "circuits.svg", "Circuits (*.svg *.pdf *.csv *.json)"):
            self.write_circuit(path)

    def write_circuit(self, path: Path) -> None:
        from gwiazda.desktop.stations.wire.sheets import write_circuit

        document = self.window.document
        document.assess_now()
        self._written(path, lambda: write_circuit(document.plan, document.assessment, path))

    def ask_fibres(self) -> None:
        if path := self._where_to("Fibres: cut, drill, buy, map", "fibres.csv", CSV):
            from gwiazda.core.exchange.fibres import fibre_table

            self._table(path, fibre_table)

    def ask_loom(self) -> None:
        if path := self._where_to("Wires and joints", "loom.csv", CSV):
            from gwiazda.core.exchange.looms import loom_table

            self._table(path, loom_table)

    def _table(self, path: Path, text_of: Callable[[Plan, Assessment], str]) -> None:
        document = self.window.document
        document.assess_now()
        self._written(path, lambda: write_atomically(path, text_of(document.plan, document.assessment).encode()))

    def ask_carriers(self, ids: Sequence[str] = ()) -> None:
        if path := self._where_to(
            "What holds the lamps", "carriers.svg", "Patterns (*.svg *.pdf *.dxf);;Solid to print (*.stl)"
        ):
            self.write_carriers(path, ids)

    def write_carriers(self, path: Path, ids: Sequence[str] = ()) -> None:
        """Carriers at true size, all of them or those named: a pattern as SVG, DXF or PDF, a solid as STL."""
        from gwiazda.core.exchange.carriers import carriers_file, named
        from gwiazda.core.plan.model import altered
        from gwiazda.desktop.sheets.paper import write_sheets

        document = self.window.document
        document.assess_now()
        plan, found = document.plan, document.assessment

        def write() -> None:
            if path.suffix.lower() == ".pdf":
                only = altered(plan, carriers=named(plan, ids))
                write_sheets(only, found, path, only=["carriers"])
            else:
                write_atomically(path, carriers_file(plan, found, path.name, ids))

        self._written(path, write)

    def ask_sheets(self) -> None:
        if path := self._where_to("Sheets at true size", "sheets.pdf", "Sheets (*.pdf *.svg)"):
            self.write_sheets(path)

    def write_sheets(self, path: Path) -> None:
        from PySide6.QtCore import QSettings

        from gwiazda.desktop.sheets.paper import write_sheets

        document = self.window.document
        document.assess_now()
        self._written(
            path, lambda: write_sheets(document.plan, document.assessment, path, str(QSettings().value("paper", "a4")))
        )

    def ask_cues_in(self) -> None:
        if path := self._which("Cue sheet", "Cue sheets (*.csv *.json)"):
            self.take_in_cues(path)

    def take_in_cues(self, path: Path) -> None:
        """A cue sheet in place of the plan's cues, as one step that can be undone."""
        from gwiazda.core.exchange.cues import read_cues
        from gwiazda.core.workshop.workshop import read_text

        document = self.window.document
        try:
            text = read_text(path)
        except GwiazdaError as error:
            self.window.show_message(str(error), "stop")
            return
        if document.edit("Take in a cue sheet", lambda plan: read_cues(plan, text)):
            self.window.show_message(f"{len(document.plan.cues)} cues of {path.name} are in the plan now.")

    def ask_cues(self) -> None:
        if path := self._where_to(
            "Cue sheet", "cues.csv", "Cue sheet (*.csv *.json);;Header for a controller (*.h);;Brief (*.md)"
        ):
            self.write_cues(path)

    def write_cues(self, path: Path) -> None:
        """The show as a cue sheet, a C header or a brief, by the suffix."""
        from gwiazda.core.exchange.shows import show_text

        document = self.window.document
        document.assess_now()
        self._written(
            path,
            lambda: write_atomically(path, show_text(document.plan, document.assessment, path.name).encode()),
        )

    def ask_pins(self) -> None:
        if path := self._where_to("Pin table", "pins.csv", CSV):
            self.write_pins(path)

    def write_pins(self, path: Path) -> None:
        from gwiazda.core.exchange.brief import pin_table

        document = self.window.document
        document.assess_now()
        self._written(path, lambda: write_atomically(path, pin_table(document.plan, document.assessment).encode()))

    def ask_currents(self) -> None:
        if path := self._where_to("Currents of the show", "currents.csv", CSV):
            self.write_currents(path)

    def write_currents(self, path: Path) -> None:
        from gwiazda.core.exchange.brief import current_report

        document = self.window.document
        document.assess_now()
        self._written(path, lambda: write_atomically(path, current_report(document.plan, document.assessment).encode()))

    def once_more(self) -> None:
        """A new plan from the one that is open: all that was decided and learned, nothing done yet. The old one is kept in
        the autosave while it isn't saved."""
        from gwiazda.core.plan import edits

        document = self.window.document
        if not document.plan.sections and not document.plan.lamps:
            self.window.show_message("There is nothing to build once more yet.")
            return
        self.autosave_now()
        document.take_file(PlanFile(edits.once_more(document.plan), document.pictures), None)
        document.mark_unsaved()
        self.window.show_message("The same kit once more: nothing is done, closed or written down yet.")

    def ask_steps(self) -> None:
        if path := self._where_to("Steps and evenings", "steps.csv", "Steps (*.csv);;Calendar (*.ics)"):
            self.write_steps(path)

    def write_steps(self, path: Path) -> None:
        """The build as a table, or its evenings as a calendar, by the suffix."""
        from gwiazda.core.exchange.evenings import calendar_ics, steps_csv
        from gwiazda.desktop.stations.build.days import days_of

        document = self.window.document
        days = days_of(document)
        if days.calendar is None:
            self.window.show_message(days.fault, "stop")
            return
        plan, catalogue, calendar = document.plan, document.catalogue, days.calendar
        if path.suffix.lower() == ".ics":
            data = calendar_ics(plan, catalogue, days.steps, calendar)
        else:
            data = steps_csv(plan, catalogue, days.steps, calendar, days.now).encode()
        self._written(path, lambda: write_atomically(path, data))

    def ask_preview(self) -> None:
        if path := self._where_to("Moving picture", "show.gif", "Moving picture (*.gif *.png)"):
            self.write_preview(path)

    def write_preview(self, path: Path, seconds: float = 10.0) -> None:
        """The show of the view on the plate as a moving picture; it is made beside the work, and can be stopped."""
        from gwiazda.desktop.preview import write_preview

        document, window = self.window.document, self.window
        document.assess_now()
        if not document.assessment.effects.moves:
            window.show_message("Nothing moves yet: add a cue to a channel first.")
            return
        file, found, view = PlanFile(document.plan, document.pictures), document.assessment, window.plate.view.id
        self._begin(
            "Moving picture", path, lambda told: write_preview(file, found, path, view, seconds=seconds, progress=told)
        )

    def ask_book(self) -> None:
        if path := self._where_to("Bench book", "bench-book.pdf", "PDF (*.pdf)"):
            self.write_book(path)

    def write_book(self, path: Path) -> None:
        """The bench book, beside the work; it can be stopped."""
        from PySide6.QtCore import QSettings

        from gwiazda.desktop.sheets.book import write_book

        document = self.window.document
        document.assess_now()
        file, found = PlanFile(document.plan, document.pictures), document.assessment
        paper = str(QSettings().value("paper", "a4"))
        self._begin("Bench book", path, lambda told: write_book(file, found, path, paper, told))

    def _begin(self, what: str, path: Path, write: Callable[[Progress], object]) -> None:
        """Write something large on a thread of its own, saying how far it is, with a way to stop it."""
        from gwiazda.desktop.writingjob import WritingJob

        window = self.window
        job = self.writing = WritingJob(what, path, write, window)
        job.said.connect(lambda words, done: window.show_message(words, "info", None if done else ("Stop", job.stop)))
        job.failed.connect(lambda words: window.show_message(words, "stop"))
        job.start()

    def ask_round(self) -> None:
        kinds = ["Picture (*.png)", *(f"Turntable of {n} frames (*.gif *.apng)" for n in TURNS)]
        path, kind = self._where_and_how("The model from anywhere", "round.png", ";;".join(kinds))
        if path is not None:
            self.write_round(path, frames=TURNS[max(kinds.index(kind) - 1, 0)] if kind in kinds else TURNS[0])

    def write_round(self, path: Path, size: tuple[int, int] = (1280, 720), frames: int = TURNS[0]) -> None:
        """The model as one stands before it, or a turntable from there; made beside the work, and can be stopped."""
        from gwiazda.desktop.turntable import write_round

        document, view = self.window.document, self.window.plate.round
        document.assess_now()
        file, found = PlanFile(document.plan, document.pictures), document.assessment
        azimuth, height, near = view.azimuth, view.height_deg, view.near
        weights = dict(self.window.plate.night.weights)
        self._begin(
            "The round", path, lambda told: write_round(file, found, path, size, azimuth, height, near, frames, told, weights)
        )  # fmt: skip

    def ask_picture(self) -> None:
        if path := self._where_to("Night picture", "night.png", "PNG (*.png)"):
            self.write_picture(path)

    def write_picture(self, path: Path) -> None:
        from gwiazda.desktop.pictures import write_night

        file = PlanFile(self.window.document.plan, self.window.document.pictures)
        self._written(
            path,
            lambda: write_night(
                file,
                path,
                self.window.plate.view.id,
                (1920, 1080),
                self.window.plate.night.weights,
                self.window.document.catalogue,
            ),
        )

    def _written(self, path: Path, write: Callable[[], object]) -> None:
        try:
            write()
        except GwiazdaError as error:
            self.window.show_message(str(error), "stop")
        else:
            self.window.show_message(f"Written: {path.name}.")

    def autosave_now(self) -> None:
        """Put unsaved changes into the autosave."""
        if self.window.document.dirty:
            try:
                autosave.write(
                    PlanFile(self.window.document.plan, self.window.document.pictures), self.window.document.path
                )
            except (GwiazdaError, OSError) as error:
                self.window.show_message(f"The autosave failed: {error}", "stop")
