"""Threads beside that of the interface: one job at a time, and only the newest of those waiting. ``tasks`` builds on it."""

from __future__ import annotations

import logging
import threading
import time
import traceback
import weakref
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal

from gwiazda.core.turns import OvertakenError, stoppable

log = logging.getLogger(__name__)


def failure_words(what: str, trace: str) -> str:
    """A fault of ours in one sentence; the trace is in the log."""
    kind = trace.strip().splitlines()[-1].partition(":")[0].rpartition(".")[2] if trace.strip() else "unknown"
    return f"{what} could not be worked out ({kind}). The plan is as it was."


_threads: weakref.WeakSet[threading.Thread] = weakref.WeakSet()


def wait_for_threads(longest_s: float) -> bool:
    """Give what was let go of a moment to end, as at the very end of the program; whether all of it has."""
    until = time.monotonic() + longest_s
    for thread in list(_threads):
        thread.join(max(until - time.monotonic(), 0.0))
    return not any(t.is_alive() for t in _threads)


class NewestWins(QObject):
    """Runs jobs on a thread of its own. A job that was not started yet is dropped when a newer one comes.

    One that runs ends early where it gives way: when this is closed, and, if it is ``hasty``, when a newer one waits.
    ``done`` carries the result of a job, ``failed`` the text of an exception; both arrive on the thread of the
    receiver.
    """

    done = Signal(object)
    failed = Signal(str)

    def __init__(self, name: str, parent: QObject | None = None, hasty: bool = False) -> None:
        super().__init__(parent)
        self._hasty = hasty
        self._condition = threading.Condition()
        self._next: Callable[[], Any] | None = None
        self._busy = False
        self._closing = False
        self._thread = threading.Thread(target=self._loop, name=name, daemon=True)
        _threads.add(self._thread)
        self._thread.start()

    def submit(self, job: Callable[[], Any]) -> None:
        with self._condition:
            self._next = job
            self._condition.notify()

    @property
    def idle(self) -> bool:
        with self._condition:
            return self._next is None and not self._busy

    @property
    def overtaken(self) -> bool:
        """Whether a newer job waits behind the one that runs."""
        with self._condition:
            return self._next is not None or self._closing

    def close(self) -> None:
        """Stop, without waiting: nothing is sent from here on, and the job that runs ends where it next gives way."""
        with self._condition:
            self._closing = True
            self._next = None
            self._condition.notify()

    def _unwanted(self) -> bool:
        return self._closing or (self._hasty and self._next is not None)

    def _loop(self) -> None:
        while True:
            with self._condition:
                self._busy = False
                while self._next is None and not self._closing:
                    self._condition.wait()
                if self._closing:
                    return
                job, self._next, self._busy = self._next, None, True
            assert job is not None
            try:
                with stoppable(self._unwanted):
                    result = job()
            except OvertakenError:
                pass
            except Exception:
                if self._closing:
                    return  # at the very end of the program nothing can be handed to other threads any more
                log.exception("%s", self._thread.name)
                self._send(self.failed, traceback.format_exc(limit=-3))
            else:
                if result is not None:
                    self._send(self.done, result)

    def _send(self, signal: Any, value: Any) -> None:
        # Under the lock, so that nothing is sent once ``close`` has come back: the receiver may be gone then.
        with self._condition:
            if not self._closing:
                try:
                    signal.emit(value)
                except RuntimeError:
                    # The window went away while the job ran.
                    self._closing = True
