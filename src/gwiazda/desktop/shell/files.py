"""New, open, save, take out, recover: everything between the window and the disk."""

from __future__ import annotations

import shutil
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.files import free_name, read_plain, shown_name, write_atomically
from gwiazda.core.plan.storage import MAX_PICTURE, MAX_TOTAL, PlanFile
from gwiazda.desktop.shell import autosave, recent
from gwiazda.desktop.shell.export.exporting import Exporting
from gwiazda.desktop.shell.ownthings import OwnThings
from gwiazda.desktop.tasks import PlanTask

KILLED_MS = 500  # what was killed is gone in less
PDF_MS = 25_000
PICTURES = (".png", ".jpg", ".jpeg", ".svg", ".pdf")

if TYPE_CHECKING:
    from PySide6.QtCore import QProcess

    from gwiazda.desktop.shell.window import MainWindow

FILTER = "Gwiazda plan (*.gwiazda *.json)"


class Files(Exporting, OwnThings):
    """The window's dealings with files. Nothing is asked that can be taken back, and nothing is lost."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        self.pdf_process: QProcess | None = None
        self._pdf_folder = Path()
        self.reading: PlanTask[Any] = PlanTask(window.document, "picture", "The picture", window)
        self.slot = autosave.Slot(None)  # where unsaved changes of the plan that is open are kept
        self._sitting = 0  # which of the plans opened that slot is of
        self._offered: Path | None = None  # what a killed session left for the plan that is open

    def sit(self) -> None:
        """Begin a slot for the plan that was opened; what is in the one before stays, to be offered again."""
        document = self.window.document
        if document.opened != self._sitting:
            self._sitting, self._offered = document.opened, None
            self.slot.leave()
            self.slot = autosave.Slot(document.path)

    def _leave(self, then: Callable[[], object]) -> None:
        """Go on to another plan; unsaved changes stay in the autosave and are offered back."""
        recent.leave(self.window)
        document = self.window.document
        if not document.dirty:
            self.slot.drop()
            then()
            return
        if not self.keep_unsaved():
            return
        file = PlanFile(document.plan, dict(document.pictures))
        was_demo, path, slot = document.is_demo, document.path, self.slot
        then()
        if document.plan is not file.plan:
            self.window.show_message(
                f"{file.plan.kit.name} had unsaved changes.",
                "info",
                ("Go back to it", lambda: self._leave(lambda: self._restore(file, path, slot.place, was_demo))),
            )

    def _restore(self, file: PlanFile, path: Path | None, place: Path, as_demo: bool = False) -> None:
        self.window.document.take_file(file, path, as_demo)
        self.window.document.mark_unsaved()
        if self.autosave_now():
            autosave.forget(place)

    def keep_unsaved(self) -> bool:
        """Put unsaved changes where they are found again, before they go out of sight; False where one would rather stay."""
        if self.autosave_now():
            return True
        words = f"{self.window.message.text} What isn’t saved would be lost."
        return self.ask("Nothing is kept", words, ("Go on and lose it", "Stay here")) == "Go on and lose it"

    def ask(self, title: str, words: str, answers: tuple[str, ...]) -> str:
        """Ask what can’t be taken back; the last answer is the one that changes nothing."""
        from PySide6.QtWidgets import QMessageBox

        box = QMessageBox(QMessageBox.Icon.Warning, title, words, parent=self.window)
        buttons = {box.addButton(a, QMessageBox.ButtonRole.ActionRole): a for a in answers}
        last = next(b for b, a in buttons.items() if a == answers[-1])
        box.setDefaultButton(last)
        box.setEscapeButton(last)
        box.exec()
        return next((a for b, a in buttons.items() if b is box.clickedButton()), answers[-1])

    def new(self) -> None:
        self._leave(self.window.document.new)

    def take_started(self, file: PlanFile) -> None:
        """A plan made from a shape, in place of the one that is open; on an empty plate that can be undone."""
        document, plate = self.window.document, self.window.plate
        empty = not (document.plan.sections or document.plan.lamps or document.plan.dots)
        if empty and document.path is None and not document.is_demo:
            document.edit("New from a shape", lambda plan: file.plan)
            plate.fit_view()
            return

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
        from gwiazda.core.plan.edits import views

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
        from gwiazda.desktop.plate.drawings import take_in

        try:
            take_in(self.reading, path, self.put_picture)
        except GwiazdaError as error:
            self.window.show_message(str(error), "stop")

    def take_pdf(self, path: Path) -> None:
        """Put the first page of a PDF behind the view, at the size it has on paper; read in a process of its own."""
        import tempfile

        from PySide6.QtCore import QProcess, QTimer

        from gwiazda.desktop.shell import pdf_page

        if not path.is_file() or path.stat().st_size > MAX_PICTURE:
            accepted = f"a PDF of up to {MAX_PICTURE // 2**20} MB"
            self.window.show_message(f"{path.name} can’t be taken. It takes {accepted}.", "stop")
            return
        self._let_go_of_pdf()
        out = Path(tempfile.mkdtemp(prefix="gwiazda-")) / "page.png"
        process = QProcess(self.window)
        self.pdf_process, self._pdf_folder = process, out.parent

        def done(code: int) -> None:
            error = bytes(process.readAllStandardError().data()).decode(errors="replace").strip().splitlines()
            printed = bytes(process.readAllStandardOutput().data()).decode(errors="replace").strip()
            if code != 0 or not out.exists():
                reason = error[-1] if error and code == 2 else "reading it took too long or too much memory"
                self.window.show_message(f"{path.name}: {reason}. It takes a PDF with a page to show.", "stop")
            else:
                from gwiazda.desktop.plate.drawings import take_picture

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

        process.finished.connect(lambda code, how: done(code if how == QProcess.ExitStatus.NormalExit else 9))
        self.window.show_message(f"Reading {path.name}…")
        process.start(sys.executable, ["-m", pdf_page.__name__, str(path), str(out)])
        QTimer.singleShot(PDF_MS, process, process.kill)

    def _let_go_of_pdf(self) -> None:
        """Stop a PDF that is being read: another one is, or the window closes under it."""
        process, self.pdf_process = self.pdf_process, None
        if process is not None:
            process.finished.disconnect()
            process.kill()
            process.waitForFinished(KILLED_MS)
            process.deleteLater()
            shutil.rmtree(self._pdf_folder, ignore_errors=True)

    def ask_picture_file(self) -> None:
        if path := self._which("Drawing or photo of the kit", f"Pictures ({' '.join('*' + p for p in PICTURES)})"):
            self.take_picture_file(path)

    def paste(self) -> None:
        """Put a picture from the clipboard behind the view."""
        from PySide6.QtWidgets import QApplication

        from gwiazda.desktop.plate.drawings import png_of, take_picture

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
        left = autosave.waiting(path)
        if left is not None:
            place, file = left
            self._offered = place
            self.window.show_message(
                f"An earlier session ended without saving {file.plan.kit.name}.",
                "info",
                ("Take it up again", lambda: self._leave(lambda: self._restore(file, path, place))),
            )
        elif path is None:
            self._offer_of_others()

    def _offer_of_others(self) -> None:
        """With nothing open: a plan opened lately that was left with unsaved changes."""
        for other in recent.paths():
            if autosave.waiting(other) is not None:
                words = f"{other.name} was left with unsaved changes."
                self.window.show_message(words, "info", ("Open it", partial(self.open, other)))
                return

    def ask_open(self) -> None:
        if path := self._which("Open a plan", FILTER):
            self.open(path)

    def save(self) -> bool:
        if self.window.document.path is None:
            return self.ask_save()
        return self._save(self.window.document.path)

    def _save(self, path: Path) -> bool:
        document = self.window.document
        if document.changed_on_disk(path) and not self._keep_theirs(path):
            return False
        if not document.save(path):
            return False
        self.slot.drop()
        self.slot = autosave.Slot(path)
        if self._offered is not None:
            autosave.decline(self._offered)
            self._offered = None
        recent.add(path)
        recent.leave(self.window)
        return True

    def _keep_theirs(self, path: Path) -> bool:
        """A file that somebody else has written since it was opened: both are kept, or nothing is written."""
        words = f"{shown_name(path)} was changed by another window or program since it was opened here."
        both, mine = "Save, and keep the other beside it", "Save under another name…"
        answer = self.ask("Changed meanwhile", words, (both, mine, "Don’t save now"))
        if answer == both:
            try:
                beside = free_name(path, "other")
                write_atomically(beside, read_plain(path, MAX_TOTAL))
            except GwiazdaError as error:
                self.window.show_message(str(error), "stop")
                return False
            return True
        if answer == mine:
            self.ask_save()
        return False

    def ask_save(self) -> bool:
        named = bool(self.window.document.plan.kit.name.strip())
        path = self._where_to("Save the plan", self.offered_name("" if named else "plan", ".gwiazda"), FILTER)
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
        if document.edit("Import a cue sheet", lambda plan: read_cues(plan, text)):
            self.window.show_message(f"{len(document.plan.cues)} cues of {path.name} are in the plan now.")

    def once_more(self) -> None:
        """A new plan from the one that is open: all that was decided and learned, nothing done yet. The old one is kept in
        the autosave while it isn't saved."""
        from gwiazda.core.plan import edits

        document = self.window.document
        if not document.plan.sections and not document.plan.lamps:
            self.window.show_message("There is nothing to build again yet.")
            return

        def take() -> None:
            document.take_file(PlanFile(edits.once_more(document.plan), document.pictures), None)
            document.mark_unsaved()

        self._leave(take)
        self.window.show_message("A new plan of the same kit: nothing is done, closed or written down yet.")

    def autosave_now(self) -> bool:
        """Put unsaved changes into the autosave; False, with a message, where that fails."""
        document = self.window.document
        if not document.dirty:
            return True
        try:
            self.slot.write(PlanFile(document.plan, document.pictures))
        except (GwiazdaError, OSError) as error:
            self.window.show_message(f"The autosave failed: {error}", "stop")
            return False
        return True

    def close(self) -> bool:
        """Leave the plan for good; False where its changes couldn’t be kept and one would rather stay."""
        if not self.window.document.dirty:
            self.slot.drop()
        elif self.keep_unsaved():
            self.slot.leave()
        else:
            return False
        self._let_go_of_pdf()
        return True
