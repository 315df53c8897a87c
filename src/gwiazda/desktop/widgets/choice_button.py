"""Something to choose, as a button of two lines: what it is with one figure, and under it what comes of it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFontMetrics, QPaintEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy

from gwiazda.desktop.theme.fonts import figure_font
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import WRAP, frame_painter, theme_of

SIDE, TOP = 9, 5
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop


class ChoiceButton(Guarded, QPushButton):
    """``title`` and a ``figure`` at the right of it, ``outcome`` below, in the colour of what serves or of what is to be looked at.

    The one that is there ``now`` is marked; one that is ``blocked`` can't be taken, and says why in its tip.
    """

    def __init__(
        self,
        title: str,
        figure: str,
        outcome: str,
        tip: str,
        now: bool = False,
        blocked: bool = False,
        fine: bool = True,
    ) -> None:
        super().__init__()
        self.title, self.figure, self.outcome = title, figure, outcome
        self.now, self.blocked, self.fine = now, blocked, fine
        self.setObjectName("offer")
        self.setText(f"{title}{', as it is now' if now else ''}: {outcome}{f', {figure}' if figure else ''}")
        self.setToolTip(tip)
        policy = QSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.setEnabled(not blocked and not now)

    def sizeHint(self) -> QSize:
        return QSize(120, self.heightForWidth(240))

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        metrics = QFontMetrics(figure_font(13))
        below = metrics.boundingRect(0, 0, max(width - 2 * SIDE, 40), 10_000, int(WRAP), self.outcome).height()
        return self.fontMetrics().height() + below + 2 * TOP + 1

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = frame_painter(self)
        palette = theme_of(self)
        if self.now:
            painter.setPen(palette.colour("live"))
            painter.setBrush(palette.colour("live", 34))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        area = QRectF(self.rect()).adjusted(SIDE, TOP, -SIDE, -TOP)
        painter.setFont(figure_font(12))
        painter.setPen(palette.colour("muted"))
        painter.drawText(area, RIGHT, self.figure)
        painter.setFont(self.font())
        painter.setPen(palette.colour("muted" if self.blocked else "ink"))
        painter.drawText(area, LEFT, self.title)
        line = self.fontMetrics().height() + 1
        painter.setFont(figure_font(13))
        ink = "muted" if self.blocked else ("fine_ink" if self.fine else "look_ink")
        painter.setPen(palette.colour(ink))
        painter.drawText(area.adjusted(0, scaled(1) + line, 0, 4), WRAP | LEFT, self.outcome)
        painter.end()
