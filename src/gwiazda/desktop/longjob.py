"""Something long on a thread of its own that says how far it is and can be stopped."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QCoreApplication, QObject, Signal

from gwiazda.core.errors import GwiazdaError, StoppedError

SAY_S = 0.25  # between one figure and the next
QUIT_S = 3.0  # that the end of the program waits for it
Progress = Callable[[float], bool]


class LongJob(QObject):
    """One long job: ``advanced`` says the share that is done, ``made`` what came of it."""

    advanced = Signal(float)
    made = Signal(object)
    stopped = Signal()
    failed = Signal(str)

    def __init__(self, what: str, job: Callable[[Progress], Any], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._what, self._job = what, job
        self._stop = threading.Event()
        self._told = 0.0
        self._thread = threading.Thread(target=self._run, name=what.lower(), daemon=True)

    def start(self) -> None:
        application = QCoreApplication.instance()
        if application is not None:
            application.aboutToQuit.connect(self._quit)
        self._thread.start()

    def _quit(self) -> None:
        """The program ends: what it has begun elsewhere is called off first, or it would be waited for."""
        self.stop()
        self._thread.join(QUIT_S)

    def stop(self) -> None:
        self._stop.set()

    @property
    def running(self) -> bool:
        return self._thread.is_alive()

    def _progress(self, share: float) -> bool:
        now = time.monotonic()
        if now - self._told > SAY_S and share < 1.0:
            self._told = now
            self.advanced.emit(share)
        return not self._stop.is_set()

    def _run(self) -> None:
        try:
            found = self._job(self._progress)
            self.made.emit(found)
        except StoppedError:
            self.stopped.emit()
        except GwiazdaError as error:
            self.failed.emit(str(error))
        except RuntimeError:
            pass  # the window went away
        except Exception as error:
            logging.getLogger(__name__).exception("%s", self._what)
            self.failed.emit(f"{self._what} could not be done ({type(error).__name__}).")
