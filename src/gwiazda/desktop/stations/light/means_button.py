"""What may carry a light, as a button of two lines: what it is and the minutes, and under it what comes of it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy, QStyle, QStyleOptionButton

from gwiazda.core.assess.lights.choices import Choice, outcome_words
from gwiazda.desktop.theme.fonts import figure_font
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import WRAP, theme_of

SIDE, TOP = 9, 5
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop


class MeansButton(Guarded, QPushButton):
    """A means with its outcome; the one there is marked, one that can't be taken greyed with its reason."""

    def __init__(self, choice: Choice) -> None:
        super().__init__()
        self.choice = choice
        self.outcome = outcome_words(choice)
        self.minutes = f"{choice.minutes:.0f} min" if choice.minutes >= 0.5 and not choice.blocked else ""
        self.setObjectName("offer")
        now = ", as it is now" if choice.now else ""
        self.setText(f"{choice.means.name}{now}: {self.outcome}{f', {self.minutes}' if self.minutes else ''}")
        parts = f"; {', '.join(choice.parts)}" if choice.parts else ""
        self.setToolTip(choice.blocked or f"{choice.means.about or choice.means.name}{parts}; {choice.later}.")
        policy = QSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.setEnabled(not choice.blocked and not choice.now)

    def sizeHint(self) -> QSize:
        return QSize(120, self.heightForWidth(240))

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        metrics = QFontMetrics(figure_font(13))
        below = metrics.boundingRect(0, 0, max(width - 2 * SIDE, 40), 10_000, int(WRAP), self.outcome).height()
        return self.fontMetrics().height() + below + 2 * TOP + 1

    def paintEvent(self, event: QPaintEvent) -> None:
        option = QStyleOptionButton()
        self.initStyleOption(option)
        option.text = ""
        painter = QPainter(self)
        self.style().drawControl(QStyle.ControlElement.CE_PushButton, option, painter, self)
        palette, choice = theme_of(self), self.choice
        if choice.now:
            painter.setPen(palette.colour("live"))
            painter.setBrush(palette.colour("live", 34))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        area = QRectF(self.rect()).adjusted(SIDE, TOP, -SIDE, -TOP)
        painter.setFont(figure_font(12))
        painter.setPen(palette.colour("muted"))
        painter.drawText(area, RIGHT, self.minutes)
        painter.setFont(self.font())
        painter.setPen(palette.colour("muted" if choice.blocked else "ink"))
        painter.drawText(area, LEFT, choice.means.name)
        line = self.fontMetrics().height() + 1
        painter.setFont(figure_font(13))
        ink = "muted" if choice.blocked else ("fine_ink" if choice.fine else "look_ink")
        painter.setPen(palette.colour(ink))
        painter.drawText(area.adjusted(0, scaled(1) + line, 0, 4), WRAP | LEFT, self.outcome)
        painter.end()
