"""Writes something large on a thread of its own, and says how far it is."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gwiazda.core.errors import GwiazdaError
from gwiazda.desktop.shell.export.preview import Progress, StoppedError

SAY_S = 0.25  # between one figure and the next


class WritingJob(QObject):
    """One file being written: a moving picture, a bench book."""

    said = Signal(str, bool)  # words, and whether it is done
    failed = Signal(str)

    def __init__(
        self, what: str, path: Path, write: Callable[[Progress], object], parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._what, self._path, self._write = what, path, write
        self._stop = threading.Event()
        self._told = 0.0
        self._thread = threading.Thread(target=self._run, name="writing", daemon=True)

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
            self.said.emit(f"{self._what}: {share * 100:.0f} % done.", False)
        return not self._stop.is_set()

    def _run(self) -> None:
        try:
            self._write(self._progress)
            self.said.emit(f"Written: {self._path.name}.", True)
        except StoppedError:
            self.said.emit(f"{self._what}: stopped; nothing is written.", True)
        except GwiazdaError as error:
            self.failed.emit(str(error))
        except RuntimeError:
            pass  # the window went away
        except Exception as error:
            logging.getLogger(__name__).exception("%s", self._what)
            self.failed.emit(f"{self._what} could not be written ({type(error).__name__}).")
