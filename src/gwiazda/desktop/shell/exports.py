"""What goes out of a plan: lists, sheets, circuits, cue sheets, pictures, the bench book."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.files import write_atomically
from gwiazda.core.plan.storage import PlanFile
from gwiazda.desktop.shell.ownthings import CSV

if TYPE_CHECKING:
    from gwiazda.core.assess.states import Assessment
    from gwiazda.core.plan.model import Plan
    from gwiazda.desktop.shell.preview import Progress
    from gwiazda.desktop.shell.window import MainWindow

TURNS = (36, 72)  # frames of a turntable


class TakeOut:
    """The part of the window's dealings with files that writes what others read."""

    window: MainWindow

    if TYPE_CHECKING:  # asked of the window's files, of which this is a part

        def _folder(self) -> str: ...

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
        from gwiazda.core.plan.model import copy_unchecked
        from gwiazda.desktop.shell.paper import write_sheets

        document = self.window.document
        document.assess_now()
        plan, assessment = document.plan, document.assessment

        def write() -> None:
            if path.suffix.lower() == ".pdf":
                only = copy_unchecked(plan, carriers=named(plan, ids))
                write_sheets(only, assessment, path, only=["carriers"])
            else:
                write_atomically(path, carriers_file(plan, assessment, path.name, ids))

        self._written(path, write)

    def ask_sheets(self) -> None:
        if path := self._where_to("Sheets at true size", "sheets.pdf", "Sheets (*.pdf *.svg)"):
            self.write_sheets(path)

    def write_sheets(self, path: Path) -> None:
        from PySide6.QtCore import QSettings

        from gwiazda.desktop.shell.paper import write_sheets

        document = self.window.document
        document.assess_now()
        self._written(
            path, lambda: write_sheets(document.plan, document.assessment, path, str(QSettings().value("paper", "a4")))
        )

    def ask_cues(self) -> None:
        if path := self._where_to(
            "Cue sheet", "cues.csv", "Cue sheet (*.csv *.json);;Header for a controller (*.h);;Brief (*.md)"
        ):
            self.write_cues(path)

    def write_cues(self, path: Path) -> None:
        """The show as a cue sheet, a C header or a brief, by the suffix."""
        from gwiazda.core.exchange.shows import show_text

        self._table(path, lambda plan, assessment: show_text(plan, assessment, path.name))

    def ask_pins(self) -> None:
        if path := self._where_to("Pin table", "pins.csv", CSV):
            self.write_pins(path)

    def write_pins(self, path: Path) -> None:
        from gwiazda.core.exchange.brief import pin_table

        self._table(path, pin_table)

    def ask_currents(self) -> None:
        if path := self._where_to("Currents of the show", "currents.csv", CSV):
            self.write_currents(path)

    def write_currents(self, path: Path) -> None:
        from gwiazda.core.exchange.brief import current_report

        self._table(path, current_report)

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
        from gwiazda.desktop.shell.preview import write_preview

        document, window = self.window.document, self.window
        document.assess_now()
        if not document.assessment.effects.moves:
            window.show_message("Nothing moves yet: add a cue to a channel first.")
            return
        file, assessment, view = PlanFile(document.plan, document.pictures), document.assessment, window.plate.view.id
        self._begin(
            "Moving picture",
            path,
            lambda told: write_preview(file, assessment, path, view, seconds=seconds, progress=told),
        )

    def ask_book(self) -> None:
        if path := self._where_to("Bench book", "bench-book.pdf", "PDF (*.pdf)"):
            self.write_book(path)

    def write_book(self, path: Path) -> None:
        """The bench book, beside the work; it can be stopped."""
        from PySide6.QtCore import QSettings

        from gwiazda.desktop.shell.book import write_book

        document = self.window.document
        document.assess_now()
        file, assessment = PlanFile(document.plan, document.pictures), document.assessment
        paper = str(QSettings().value("paper", "a4"))
        self._begin("Bench book", path, lambda told: write_book(file, assessment, path, paper, told))

    def _begin(self, what: str, path: Path, write: Callable[[Progress], object]) -> None:
        """Write something large on a thread of its own, saying how far it is, with a way to stop it."""
        from gwiazda.desktop.shell.writingjob import WritingJob

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
        from gwiazda.desktop.shell.turntable import write_round

        document, view = self.window.document, self.window.plate.round
        document.assess_now()
        file, assessment = PlanFile(document.plan, document.pictures), document.assessment
        azimuth, height, near = view.azimuth, view.height_deg, view.near
        weights = dict(self.window.plate.night.weights)
        self._begin(
            "The round", path, lambda told: write_round(file, assessment, path, size, azimuth, height, near, frames, told, weights)
        )  # fmt: skip

    def ask_picture(self) -> None:
        if path := self._where_to("Night picture", "night.png", "PNG (*.png)"):
            self.write_picture(path)

    def write_picture(self, path: Path) -> None:
        from gwiazda.desktop.shell.pictures import write_night

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

    def _where_to(self, title: str, name: str, kinds: str) -> Path | None:
        """The file to write, ``name`` proposed, or None when the user thinks better of it."""
        return self._where_and_how(title, name, kinds)[0]

    def _where_and_how(self, title: str, name: str, kinds: str) -> tuple[Path | None, str]:
        """The same, and which of the kinds was picked."""
        from PySide6.QtWidgets import QFileDialog

        path, kind = QFileDialog.getSaveFileName(self.window, title, str(Path(self._folder()) / name), kinds)
        return (Path(path) if path else None), kind

    def _written(self, path: Path, write: Callable[[], object]) -> None:
        try:
            write()
        except GwiazdaError as error:
            self.window.show_message(str(error), "stop")
        else:
            self.window.show_message(f"Written: {path.name}.")
