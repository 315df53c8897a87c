"""Turns among threads: what is worked out on one thread waits while another shows its picture.

Python runs one thread at a time. A picture of 5 ms that is painted while a plan is assessed takes 30, as each of its
hundred calls waits for its turn again. So the thread that shows says when it does, and the others let it go first.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

LONGEST_S = 0.1  # a showing that takes longer is not waited for: the work would never be done


class OvertakenError(Exception):
    """What is being worked out is asked for anew already: nobody waits for it any more."""


class _Turns:
    def __init__(self) -> None:
        self.shower: int | None = None
        self.work = threading.local()
        self.free = threading.Event()
        self.free.set()


_turns = _Turns()


@contextmanager
def showing() -> Iterator[None]:
    """While inside, work on other threads waits where it next can; within another one it does nothing."""
    if _turns.shower is not None:
        yield
        return
    _turns.free.clear()
    _turns.shower = threading.get_ident()
    try:
        yield
    finally:
        _turns.shower = None
        _turns.free.set()


@contextmanager
def stoppable(stopped: Callable[[], bool]) -> Iterator[None]:
    """While inside, work on this thread ends where it next gives way once ``stopped`` says so."""
    before = getattr(_turns.work, "stopped", None)
    _turns.work.stopped = stopped
    try:
        yield
    finally:
        _turns.work.stopped = before


def give_way() -> None:
    """Wait while another thread shows its picture; called often by what takes long.

    Raises
    ------
    OvertakenError
        When nobody waits for this work any more.
    """
    stopped = getattr(_turns.work, "stopped", None)
    if stopped is not None and stopped():
        raise OvertakenError
    shower = _turns.shower
    if shower is not None and shower != threading.get_ident():
        _turns.free.wait(LONGEST_S)
