"""A line that looks while one types, and the list of what was found under it."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QListWidget, QWidget

from gwiazda.desktop.widgets.guard import Guarded


class Finds(Protocol):
    """What a line looks for: it is told which row is taken, and that one leaves."""

    def take(self, row: int) -> None: ...

    def leave(self) -> None: ...


class FoundList(QListWidget):
    """What was found; the keys stay in the line."""

    def __init__(self, name: str, owner: Finds) -> None:
        super().__init__()
        self.setObjectName("found")
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.itemClicked.connect(lambda item: owner.take(self.row(item)))

    def step(self, by: int) -> None:
        """The next or the one before, round and round."""
        if self.count():
            self.setCurrentRow((self.currentRow() + by) % self.count())


class SearchLine(Guarded, QLineEdit):
    """The arrows go through what was found, Enter takes it, Escape leaves."""

    def __init__(self, name: str, example: str, found: FoundList, owner: Finds, parent: QWidget) -> None:
        super().__init__(parent)
        self._found, self._owner = found, owner
        self.setPlaceholderText(example)
        self.setAccessibleName(name)
        self.setMaxLength(200)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self._owner.leave()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._found.step(1 if event.key() == Qt.Key.Key_Down else -1)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            # Not passed on: what lies under it would take the same key at once.
            event.accept()
            self._owner.take(self._found.currentRow())
        else:
            super().keyPressEvent(event)
