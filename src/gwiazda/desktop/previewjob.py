"""Writes a moving picture on a thread of its own, and says how far it is."""

from __future__ import annotations

import threading
import time
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan.storage import PlanFile
from gwiazda.desktop.preview import StoppedError, write_preview

if TYPE_CHECKING:
    from gwiazda.core.assess.states import Assessment

SAY_S = 0.25  # between one figure and the next


class PreviewJob(QObject):
    """One picture being written."""

    said = Signal(str, bool)  # words, and whether it is done
    failed = Signal(str)

    def __init__(
        self, file: PlanFile, found: Assessment, path: Path, view_id: str, seconds: float, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._job = (file, found, path, view_id, seconds)
        self._stop = threading.Event()
        self._told = 0.0
        self._thread = threading.Thread(target=self._run, name="preview", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        self._stop.set()

    @property
    def running(self) -> bool:
        return self._thread.is_alive()

    def _progress(self, share: float) -> bool:
        now = time.monotonic()
        if now - self._told > SAY_S and share < 1.0:
            self._told = now
            self.said.emit(f"Moving picture: {share * 100:.0f} % done.", False)
        return not self._stop.is_set()

    def _run(self) -> None:
        file, found, path, view_id, seconds = self._job
        try:
            write_preview(file, found, path, view_id, seconds=seconds, progress=self._progress)
            self.said.emit(f"Written: {path.name}.", True)
        except StoppedError:
            self.said.emit("The moving picture was stopped; nothing is written.", True)
        except GwiazdaError as error:
            self.failed.emit(str(error))
        except RuntimeError:
            pass  # the window went away
        except Exception as error:
            self.failed.emit(f"The moving picture could not be written ({type(error).__name__}).")
