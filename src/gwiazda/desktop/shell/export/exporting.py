"""The window's side of exports: where to, written at once or beside the work."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan.storage import PlanFile
from gwiazda.desktop.shell.export.exports import BY_ID, Export, Job, Options

if TYPE_CHECKING:
    from gwiazda.desktop.shell.export.sheet import ExportSheet
    from gwiazda.desktop.shell.export.writingjob import WritingJob
    from gwiazda.desktop.shell.window import MainWindow


class Exporting:
    """The part of the window's dealings with files that writes what others read."""

    window: MainWindow
    writing: WritingJob | None = None
    export_sheet: ExportSheet | None = None

    if TYPE_CHECKING:  # asked of the window's files, of which this is a part

        def _folder(self) -> str: ...

    def open_exports(self) -> None:
        """Show all that can go out, with what each is for."""
        from gwiazda.desktop.shell.export.sheet import ExportSheet

        self.export_sheet = ExportSheet(self.window)
        self.export_sheet.show()

    def ask_export(self, export_id: str, **options: Any) -> None:
        """Ask where to, and write it."""
        export = BY_ID[export_id]
        if lack := export.lacks(self.window.document.plan):
            self.window.show_message(lack)
            return
        if path := self._where_to(export.label, self.offered_name(export.id, export.suffixes[0]), kinds_of(export)):
            self.write_export(export_id, path, **options)

    def ask_carriers(self, ids: list[str]) -> None:
        """Ask where some carriers go, and write them."""
        self.ask_export("carriers", ids=ids)

    def write_export(self, export_id: str, path: Path, **options: Any) -> None:
        """Write an export of the plan as it is; a long one beside the work, with a way to stop it."""
        export, job = BY_ID[export_id], self.job(export_id, path, **options)
        if lack := export.lacks(job.plan):
            self.window.show_message(lack)
            return
        try:
            export.check(path)
        except GwiazdaError as error:
            self.window.show_message(str(error), "stop")
            return
        if export.long:
            self._begin(export, job)
        else:
            self._written(path, lambda: export.write(job))

    def job(self, export_id: str, path: Path, **options: Any) -> Job:
        """What is to be written, from the plan and the view that are shown."""
        from PySide6.QtCore import QSettings

        document, plate = self.window.document, self.window.plate
        document.assess_now()
        how = Options(
            view=plate.view.id, azimuth=plate.round.azimuth, height=plate.round.height_deg, near=plate.round.near,
            paper=str(QSettings().value("paper", "a4")), weights=dict(plate.night.weights),
            day=document.clock().date().isoformat(),
        )  # fmt: skip
        file = PlanFile(document.plan, document.pictures)
        return Job(
            file, document.catalogue, document.workshop, path, replace(how, **options), given=document.assessment
        )

    def _begin(self, export: Export, job: Job) -> None:
        """Write something large on a thread of its own, saying how far it is, with a way to stop it."""
        from gwiazda.desktop.shell.export.writingjob import WritingJob

        window = self.window
        writing = self.writing = WritingJob(
            export.label, job.path, lambda told: export.write(replace(job, told=told)), window
        )
        writing.said.connect(
            lambda words, done: window.show_message(words, "info", None if done else ("Stop", writing.stop))
        )
        writing.failed.connect(lambda words: window.show_message(words, "stop"))
        writing.start()

    def offered_name(self, what: str, suffix: str) -> str:
        """The name that is proposed for a file: the kit's, and what it is."""
        kit = re.sub(r"[^\w]+", "-", self.window.document.plan.kit.name.lower()).strip("-_")[:60]
        return "-".join(x for x in (kit, what) if x) + suffix

    def _where_to(self, title: str, name: str, kinds: str) -> Path | None:
        """The file to write, ``name`` proposed, or None when the user thinks better of it."""
        from PySide6.QtWidgets import QFileDialog

        path, _ = QFileDialog.getSaveFileName(self.window, title, str(Path(self._folder()) / name), kinds)
        return Path(path) if path else None

    def _written(self, path: Path, write: Any) -> None:
        try:
            write()
        except GwiazdaError as error:
            self.window.show_message(str(error), "stop")
        else:
            self.window.show_message(f"Written: {path.name}.")


def kinds_of(export: Export) -> str:
    """What the file dialog offers: all forms of an export, then each."""
    every = " ".join(f"*{s}" for s in export.suffixes)
    each = [f"{s[1:].upper()} (*{s})" for s in export.suffixes] if len(export.suffixes) > 1 else []
    return ";;".join([f"{export.label} ({every})", *each])
