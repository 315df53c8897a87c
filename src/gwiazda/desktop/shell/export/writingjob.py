"""Writes something large on a thread of its own, and says how far it is."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gwiazda.desktop.longjob import LongJob, Progress


class WritingJob(LongJob):
    """One file being written: a moving picture, a bench book."""

    said = Signal(str, bool)  # words, and whether it is done

    def __init__(
        self, what: str, path: Path, write: Callable[[Progress], object], parent: QObject | None = None
    ) -> None:
        super().__init__(what, write, parent)
        self.advanced.connect(lambda share: self.said.emit(f"{what}: {share * 100:.0f} % done.", False))
        self.made.connect(lambda _: self.said.emit(f"Written: {path.name}.", True))
        self.stopped.connect(lambda: self.said.emit(f"{what}: stopped; nothing is written.", True))
