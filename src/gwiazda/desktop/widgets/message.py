"""The strip at the foot of the plate that says one sentence, and may offer one thing to do about it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QWidget

MESSAGE_MS = 7_000
WIDEST, MARGIN = 760, 14


class MessageStrip(QFrame):
    """A stop stays until it is closed; what is only said goes by itself."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("message")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 6, 8, 6)
        self.label = QLabel()
        self.label.setWordWrap(True)
        self.label.setAccessibleName("Message")
        layout.addWidget(self.label, 1)
        self.action = QPushButton()
        self.action.hide()
        self.action.clicked.connect(self._act)
        self._take: Callable[[], object] | None = None
        layout.addWidget(self.action)
        close = QPushButton("Close")
        close.setToolTip("Close this message")
        close.clicked.connect(self.hide)
        layout.addWidget(close)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def say(self, sentence: str, kind: str, action: tuple[str, Callable[[], object]] | None) -> None:
        self.label.setText(sentence)
        self.setProperty("kind", kind)
        self.style().unpolish(self)
        self.style().polish(self)
        self._take = action[1] if action is not None else None
        self.action.setVisible(action is not None)
        if action is not None:
            self.action.setText(action[0])
        self.show()
        self.place()
        self.raise_()
        self._timer.stop()
        if kind != "stop" and action is None:
            self._timer.start(MESSAGE_MS)

    def place(self) -> None:
        """Keep to the foot of the parent."""
        parent = self.parentWidget()
        width = min(parent.width() - 40, WIDEST)
        self.setFixedWidth(width)
        self.adjustSize()
        self.move((parent.width() - width) // 2, parent.height() - self.height() - MARGIN)

    def _act(self) -> None:
        take, self._take = self._take, None
        self.hide()
        if take is not None:
            take()
