"""A button that says what it does and what would come of it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy, QStyle, QStyleOptionButton, QWidget

from gwiazda.desktop.theme.fonts import figure_font
from gwiazda.desktop.theme.palette import BENCH, THEMES, Palette
from gwiazda.desktop.widgets.guard import Guarded


def theme_of(widget: QWidget) -> Palette:
    """The palette of the window a widget is in."""
    return THEMES.get(str(widget.window().property("theme")), BENCH)


class OfferButton(Guarded, QPushButton):
    """An offer: its words to the left, what it would come to at the right, never cut off."""

    def __init__(self, words: str) -> None:
        super().__init__(words)
        self.words, self.outcome, self.state = words, "", "look"
        self.setObjectName("offer")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    def show_outcome(self, outcome: str, state: str) -> None:
        self.outcome, self.state = outcome, state
        # The whole of it is what is spoken and what tests read.
        self.setText(f"{self.words}: {outcome}")

    def paintEvent(self, event: QPaintEvent) -> None:
        option = QStyleOptionButton()
        self.initStyleOption(option)
        option.text = ""
        painter = QPainter(self)
        self.style().drawControl(QStyle.ControlElement.CE_PushButton, option, painter, self)
        palette = theme_of(self)
        area = QRectF(self.rect()).adjusted(9, 0, -9, 0)
        painter.setFont(figure_font(13))
        width = painter.fontMetrics().horizontalAdvance(self.outcome)
        painter.setPen(palette.colour(f"{self.state}_ink"))
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self.outcome)
        painter.setFont(self.font())
        painter.setPen(palette.colour("ink"))
        left = painter.fontMetrics().elidedText(self.words, Qt.TextElideMode.ElideRight, int(area.width() - width - 8))
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, left)
        painter.end()
