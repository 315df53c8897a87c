"""Marks of a sheet painted: on paper, and small on a card."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from gwiazda.core.drawing.sheets.page import SheetMark
from gwiazda.core.drawing.sheets.polarity import HIGH, WIDE, polarity_picture
from gwiazda.core.parts.lamps import LampForm
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.sizes import text_factor
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import theme_of

FONT_PX = 100  # letters are drawn large and scaled: a font has whole px only
BLACK = QColor("#000000")
PX_PER_MM = 2.6  # of a picture on a card


def paint_mark(painter: QPainter, m: SheetMark, ink: QColor = BLACK) -> None:
    """A mark, with the painter's unit at 1 mm; shades are between ink and its opposite."""
    if m.kind == "text":
        _words(painter, m, ink)
        return
    pen = QPen(ink, m.wide) if m.wide > 0 else QPen(Qt.PenStyle.NoPen)
    pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
    if m.dashed:
        pen.setDashPattern([6.0, 4.0])
    painter.setPen(pen)
    painter.setBrush(_shade(ink, m.fill) if m.fill is not None else Qt.BrushStyle.NoBrush)
    points = [QPointF(x, y) for x, y in m.points]
    if m.kind == "disc":
        painter.drawEllipse(points[0], m.size, m.size)
    elif m.kind == "outline":
        painter.drawPolygon(QPolygonF(points))
    else:
        painter.drawPolyline(QPolygonF(points))


def _shade(ink: QColor, fill: float) -> QColor:
    if ink == BLACK:
        level = round(255 * fill)
        return QColor(level, level, level)
    shade = QColor(ink)
    shade.setAlphaF((1.0 - fill) * 0.6)
    return shade


def _words(painter: QPainter, m: SheetMark, ink: QColor) -> None:
    painter.save()
    painter.setPen(ink)
    weight = text_font().Weight.DemiBold if m.bold else text_font().Weight.Normal
    painter.setFont(text_font(FONT_PX, weight, plain=True))
    x, y = m.points[0]
    painter.translate(x, y)
    painter.scale(m.size / FONT_PX, m.size / FONT_PX)
    left = -painter.fontMetrics().horizontalAdvance(m.text) / 2 if m.middle else 0.0
    painter.drawText(QPointF(left, 0.0), m.text)
    painter.restore()


class PolarityPicture(Guarded, QWidget):
    """Which end of a lamp is plus, drawn."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._form: LampForm | None = None
        self.setFixedSize(self.sizeHint())

    def sizeHint(self) -> QSize:
        scale = PX_PER_MM * text_factor()
        return QSize(round(WIDE * scale), round(HIGH * scale))

    def show_form(self, form: LampForm | None, words: str) -> None:
        """A form of lamp, and in words what the picture shows; None where there is nothing to tell apart."""
        self._form = form
        self.setVisible(form is not None)
        self.setAccessibleName(f"Which end is plus: {words}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._form is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(self.width() / WIDE, self.height() / HIGH)
        for mark in polarity_picture(self._form):
            # Small on a screen, lines would fade.
            paint_mark(painter, mark._replace(wide=max(mark.wide, 0.45)), theme_of(self).colour("ink"))
        painter.end()
