"""Marks on the plate: labels, the wipe, what an empty plate says."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import SMALL_PX, Palette

EMPTY_LINES = (
    "An empty plate.",
    "Drop the kit’s drawing or a photo here (PNG, JPEG, SVG, PDF), or paste one; K then calibrates it.",
    "Or draw the first section at once: T traces an outline, B drags a rectangle over the part that is lit as one room.",
    "Then R drags a row of windows along it, and L puts a lamp behind them.",
)


def paint_tag(painter: QPainter, at: QPointF, text: str, palette: Palette, dark: bool = False) -> QRectF:
    """A small label on the plate; returns where it is."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    font = text_font(SMALL_PX)
    painter.setFont(font)
    width = painter.fontMetrics().horizontalAdvance(text) + 16
    box = QRectF(at.x(), at.y(), width, 22)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(0, 0, 0, 120) if dark else palette.colour("card", 225))
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(palette.colour("night_ink") if dark else palette.colour("muted"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
    return box


def paint_wipe(painter: QPainter, cut: int, handle: QRectF, height: int, palette: Palette) -> None:
    """The wipe and its handle."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(palette.colour("live"), 2))
    painter.drawLine(QPointF(cut, 0), QPointF(cut, height))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.colour("live"))
    painter.drawRoundedRect(handle, 13, 13)
    painter.setPen(QPen(palette.colour("live_ink"), 2))
    middle = handle.center()
    for dx in (-5, 0, 5):
        painter.drawLine(QPointF(middle.x() + dx, middle.y() - 9), QPointF(middle.x() + dx, middle.y() + 9))


def paint_empty(painter: QPainter, width: int, height: int, palette: Palette) -> None:
    """What an empty plate says."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    box = QRectF(0, 0, min(460.0, width - 40.0), 142.0)
    box.moveCenter(QPointF(width * 0.5, height * 0.5))
    painter.setPen(QPen(palette.colour("line"), 1))
    painter.setBrush(palette.colour("card", 245))
    painter.drawRoundedRect(box, 8, 8)
    painter.setPen(palette.colour("ink"))
    painter.setFont(text_font(16))
    inner = box.adjusted(18, 14, -18, -12)
    painter.drawText(inner, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, EMPTY_LINES[0])
    painter.setFont(text_font(13))
    flags = Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
    painter.drawText(inner.adjusted(0, 26, 0, 0), flags, "\n".join(EMPTY_LINES[1:]))
