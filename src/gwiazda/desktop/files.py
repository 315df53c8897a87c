"""New, open, save, take out, recover: everything between the window and the disk."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan.edits import views
from gwiazda.core.plan.storage import MAX_PICTURE, PlanFile
from gwiazda.desktop import autosave, recent
from gwiazda.desktop.ownthings import OwnThings
from gwiazda.desktop.takeout import TakeOut

PDF_MS = 25_000
PICTURES = (".png", ".jpg", ".jpeg", ".svg", ".pdf")

if TYPE_CHECKING:
    from PySide6.QtCore import QProcess

    from gwiazda.desktop.window import MainWindow

FILTER = "Gwiazda plan (*.gwiazda *.json)"


class Files(TakeOut, OwnThings):
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

    def autosave_now(self) -> None:
        """Put unsaved changes into the autosave."""
        if self.window.document.dirty:
            try:
                autosave.write(
                    PlanFile(self.window.document.plan, self.window.document.pictures), self.window.document.path
                )
            except (GwiazdaError, OSError) as error:
                self.window.show_message(f"The autosave failed: {error}", "stop")
