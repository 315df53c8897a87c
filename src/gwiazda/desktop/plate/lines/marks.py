"""Marks on the plate: labels and the wipe."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPen

from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import SMALL_PX, Palette


def tag_size(text: str) -> QSizeF:
    """How large a label is, px."""
    return QSizeF(QFontMetrics(text_font(SMALL_PX)).horizontalAdvance(text) + 16, 22)


def paint_tag(painter: QPainter, at: QPointF, text: str, palette: Palette, dark: bool = False) -> QRectF:
    """A small label on the plate; returns where it is."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(text_font(SMALL_PX))
    box = QRectF(at, tag_size(text))
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
