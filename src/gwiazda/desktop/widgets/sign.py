"""The sign of a state: a disc where it is fine, a triangle where it deserves a look, a square where it stops."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPolygonF

from gwiazda.core.assess.states import State
from gwiazda.desktop.theme.palette import Palette


def paint_sign(painter: QPainter, centre: QPointF, state: State, palette: Palette, size: float = 10.0) -> None:
    """A state's sign, so many px across, with the pen that is set."""
    half = size / 2.0
    painter.setBrush(palette.colour(state))
    if state == "fine":
        painter.drawEllipse(centre, half, half)
    elif state == "look":
        k = size / 10.0
        painter.drawPolygon(
            QPolygonF([centre + QPointF(0, -6 * k), centre + QPointF(6 * k, 5 * k), centre + QPointF(-6 * k, 5 * k)])
        )
    else:
        painter.drawRect(QRectF(centre.x() - half, centre.y() - half, size, size))
