"""A button that says what it does and what would come of it."""

from __future__ import annotations

from PySide6.QtCore import QRect, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy, QStyle, QStyleOptionButton, QWidget

from gwiazda.desktop.theme.fonts import figure_font
from gwiazda.desktop.theme.palette import BENCH, THEMES, Palette
from gwiazda.desktop.widgets.guard import Guarded

SIDE, GAP = 9, 8  # px: beside the words, before the outcome
WRAP = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft


def theme_of(widget: QWidget) -> Palette:
    """The palette of the window a widget is in."""
    return THEMES.get(str(widget.window().property("theme")), BENCH)


def frame_painter(button: QPushButton) -> QPainter:
    """A painter on a button whose frame is drawn already; its words are one's own."""
    option = QStyleOptionButton()
    button.initStyleOption(option)
    option.text = ""
    painter = QPainter(button)
    button.style().drawControl(QStyle.ControlElement.CE_PushButton, option, painter, button)
    return painter


class OfferButton(Guarded, QPushButton):
    """An offer: its words to the left, what it would come to at the right, never cut off."""

    def __init__(self, words: str) -> None:
        super().__init__(words)
        self.words, self.outcome, self.state = words, "", "look"
        self.setObjectName("offer")
        policy = QSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)

    def show_words(self, words: str) -> None:
        """Other words, with nothing come of them yet."""
        self.words, self.outcome = words, ""
        self.setText(words)
        self.updateGeometry()

    def show_outcome(self, outcome: str, state: str) -> None:
        self.outcome, self.state = outcome, state
        # The whole of it is what is spoken and what tests read.
        self.setText(f"{self.words}: {outcome}")
        self.updateGeometry()

    def heightForWidth(self, width: int) -> int:
        one_line, lines = self.sizeHint().height(), self._words_height(width)
        return one_line + max(lines - self.fontMetrics().height(), 0)

    def hasHeightForWidth(self) -> bool:
        return True

    def _words_height(self, width: int) -> int:
        """px that the words take, in as many lines as it takes."""
        beside = QFontMetrics(figure_font(13)).horizontalAdvance(self.outcome) if self.outcome else 0
        room = max(width - 2 * SIDE - beside - GAP, 40)
        return self.fontMetrics().boundingRect(QRect(0, 0, room, 10_000), WRAP, self.words).height()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = frame_painter(self)
        palette = theme_of(self)
        area = QRectF(self.rect()).adjusted(SIDE, 0, -SIDE, 0)
        painter.setFont(figure_font(13))
        width = painter.fontMetrics().horizontalAdvance(self.outcome)
        painter.setPen(palette.colour(f"{self.state}_ink"))
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self.outcome)
        painter.setFont(self.font())
        painter.setPen(palette.colour("ink"))
        left = area.adjusted(0, 0, -(width + GAP), 0)
        painter.drawText(left, WRAP, self.words)
        painter.end()
