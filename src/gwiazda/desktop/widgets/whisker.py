"""How sure a figure is, drawn in one manner wherever it stands: a line from its 5 to its 95 % value with feet, and a dot at the middle."""

from __future__ import annotations

import math
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from gwiazda.desktop.theme.fonts import figure_font, text_font
from gwiazda.desktop.theme.palette import SMALL_PX
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import theme_of

FOOT = 4.0


def paint_whisker(
    painter: QPainter, ends: tuple[float, float], y: float, colour: QColor, beyond: bool = False, middle: float | None = None,
    under: QColor | None = None,
) -> None:  # fmt: skip
    """A whisker between two ends (px) at a height; an arrow in place of its right foot where it goes ``beyond`` what is drawn; ``under`` it
    another colour, where what lies behind is bright here and dark there."""
    low, high = ends
    if under is not None:
        painter.setPen(QPen(under, 3.4))
        painter.drawLine(QPointF(low, y), QPointF(high, y))
        for x in (low, high):
            painter.drawLine(QPointF(x, y - FOOT), QPointF(x, y + FOOT))
    painter.setPen(QPen(colour, 1.4))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawLine(QPointF(low, y), QPointF(high, y))
    painter.drawLine(QPointF(low, y - FOOT), QPointF(low, y + FOOT))
    if beyond:
        painter.drawPolyline([QPointF(high - 3, y - FOOT), QPointF(high, y), QPointF(high - 3, y + FOOT)])
    else:
        painter.drawLine(QPointF(high, y - FOOT), QPointF(high, y + FOOT))
    if middle is not None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawEllipse(QPointF(middle, y), 3.2, 3.2)


class Change(NamedTuple):
    """A figure before and after: each its middle, 5 and 95 % value; as words, by how many readings."""

    name: str
    before: tuple[float, float, float]
    after: tuple[float, float, float]
    words: str
    tip: str = ""


class BeforeAfter(Guarded, QWidget):
    """Figures before and after readings: two whiskers a figure on one axis of its own, the words beside them."""

    ROW = 40

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.changes: tuple[Change, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Before and after the readings")

    def show_changes(self, changes: tuple[Change, ...]) -> None:
        """Other figures."""
        self.changes = changes
        self.setFixedHeight(scaled(self.ROW) * len(changes))
        self.setVisible(bool(changes))
        self.setAccessibleDescription("; ".join(f"{c.name}: {c.words}" for c in changes))
        self.setToolTip("\n".join(c.tip for c in changes if c.tip))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(scaled(200), scaled(self.ROW) * len(self.changes))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        p, row = theme_of(self), scaled(self.ROW)
        for n, c in enumerate(self.changes):
            top, width = n * row, float(self.width())
            painter.setFont(text_font(SMALL_PX))
            painter.setPen(p.colour("ink"))
            metrics = painter.fontMetrics()
            painter.setFont(figure_font(SMALL_PX))
            said = painter.fontMetrics().horizontalAdvance(c.words)
            painter.setPen(p.colour("muted"))
            line = QRectF(0, top, width, row * 0.45)
            painter.drawText(line, int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter), c.words)
            painter.setFont(text_font(SMALL_PX))
            painter.setPen(p.colour("ink"))
            name = metrics.elidedText(c.name, Qt.TextElideMode.ElideRight, max(int(width - said - 8), 30))
            painter.drawText(line, int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter), name)
            ends = [math.log(max(x, 1e-12)) for x in (*c.before, *c.after)]
            left, right = min(ends), max(*ends, min(ends) + 1e-6)

            def px(value: float, left: float = left, right: float = right, width: float = width) -> float:
                return 6.0 + (width - 12.0) * (math.log(max(value, 1e-12)) - left) / (right - left)

            for (middle, low, high), share, colour in ((c.before, 0.58, "muted"), (c.after, 0.82, "live")):
                paint_whisker(painter, (px(low), px(high)), top + row * share, p.colour(colour), middle=px(middle))
        painter.end()
