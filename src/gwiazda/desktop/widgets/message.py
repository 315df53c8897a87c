"""The line under the plate: one sentence, and maybe one thing to do about it; else what the tool in hand is for."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QFontMetrics, QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QSizePolicy, QWidget

from gwiazda.core.errors import printable
from gwiazda.desktop.widgets.guard import Guarded

HEIGHT = 38


def in_two_lines(text: str, metrics: QFontMetrics, room: int) -> str:
    """A text broken once where it is longer than so many px; what two lines don't hold is cut, and stands in the tip."""
    if room <= 40 or metrics.horizontalAdvance(text) <= room:
        return text
    words = text.split(" ")
    first = next((k for k in range(len(words) - 1, 0, -1) if metrics.horizontalAdvance(" ".join(words[:k])) <= room), 1)
    rest = metrics.elidedText(" ".join(words[first:]), Qt.TextElideMode.ElideRight, room)
    return f"{' '.join(words[:first])}\n{rest}"


class MessageLine(Guarded, QFrame):
    """Has a place of its own. What it says goes with the next action; what it offers, with the next change of the plan."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("message")
        self.setFixedHeight(HEIGHT)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(10, 1, 4, 1)
        self.label = QLabel()
        self.label.setAccessibleName("Message")
        self.label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.label.setTextFormat(Qt.TextFormat.PlainText)
        self.label.setWordWrap(True)
        layout.addWidget(self.label, 1)
        self.action = QPushButton()
        self.action.clicked.connect(self._act)
        self._take: Callable[[], object] | None = None
        layout.addWidget(self.action)
        self.close_button = QPushButton("Close")
        self.close_button.setToolTip("Close this message")
        self.close_button.clicked.connect(self.clear)
        layout.addWidget(self.close_button)
        # What is worth doing next stands where a sentence would, while nothing is being said.
        self.next_button = QPushButton()
        self.next_button.setObjectName("next")
        self.next_button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.next_button.clicked.connect(lambda: self._next() if self._next is not None else None)
        layout.insertWidget(1, self.next_button, 1)
        self._next: Callable[[], object] | None = None
        self._next_words = ""
        self._sentence, self._hint = "", ""
        self.kind = ""
        self._show()

    def sizeHint(self) -> QSize:
        return QSize(200, HEIGHT)

    @property
    def text(self) -> str:
        """What is being said; nothing while only the hint stands there."""
        return self._sentence

    def set_hint(self, hint: str) -> None:
        self._hint = hint
        self._show()

    def say(self, sentence: str, kind: str, action: tuple[str, Callable[[], object]] | None) -> None:
        self._sentence, self.kind = printable(sentence), kind
        self._take = action[1] if action is not None else None
        if action is not None:
            self.action.setText(action[0])
        self._show()

    def offer(self, words: str, tip: str, take: Callable[[], object] | None) -> None:
        """Say what is worth doing next, and what a click on it does; empty: nothing is."""
        self._next_words, self._next = words, take
        self.next_button.setToolTip(tip)
        self.next_button.setAccessibleName(words)
        self._show()

    def acted(self, changed: bool) -> None:
        """Something was done: what was said goes; what was offered stays until the plan ``changed``."""
        if self._sentence and (self._take is None or changed):
            self.clear()

    def clear(self) -> None:
        self._sentence, self.kind, self._take = "", "", None
        self._show()

    def _show(self) -> None:
        said = bool(self._sentence)
        self.action.setVisible(self._take is not None)
        self.close_button.setVisible(said)
        self.next_button.setVisible(not said and self._next is not None)
        if self.property("kind") != self.kind:
            self.setProperty("kind", self.kind)
            for part in (self, self.label):
                self.style().unpolish(part)
                self.style().polish(part)
        self.layout().activate()  # type: ignore[union-attr]
        self._elide()

    def _elide(self) -> None:
        text = self._sentence or self._hint
        shown = in_two_lines(text, self.label.fontMetrics(), self.label.width())
        self.label.setText(shown)
        self.label.setToolTip(text if shown != text else "")
        self.label.setAccessibleDescription(text)
        room = self.next_button.width() - 20
        self.next_button.setText(in_two_lines(self._next_words, self.next_button.fontMetrics(), room))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.layout().activate()  # type: ignore[union-attr]
        self._elide()

    def _act(self) -> None:
        take = self._take
        self.clear()
        if take is not None:
            take()
