"""Small drawn icons of the tools."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QIcon, QPainter, QPen, QPixmap, QPolygonF

from gwiazda.desktop.theme.palette import Palette

SIZE = 24


def _pick(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("ink"))
    p.drawPolygon(
        QPolygonF(
            [QPointF(*q) for q in ((7, 4), (7, 18), (10.6, 14.8), (13, 20), (15.2, 19), (12.8, 14), (17.5, 13.6))]
        )
    )


def _section(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("section"))
    p.drawRect(QRectF(4, 7, 16, 11))
    pen = QPen(ink)
    pen.setStyle(Qt.PenStyle.DotLine)
    p.setPen(pen)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawRect(QRectF(7, 10, 10, 5))


def _window(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("pane"))
    p.drawRect(QRectF(7, 6, 10, 12))
    p.drawLine(QLineF(12, 6, 12, 18))


def _row(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("pane"))
    for x in (3, 9.5, 16):
        p.drawRect(QRectF(x, 8, 5, 8))


def _lamp(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("live"))
    p.drawEllipse(QPointF(12, 12), 4.5, 4.5)
    for a, b in (((12, 2.5), (12, 5)), ((12, 19), (12, 21.5)), ((2.5, 12), (5, 12)), ((19, 12), (21.5, 12))):
        p.drawLine(QPointF(*a), QPointF(*b))


def _light(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(c.colour("glow"))
    p.drawPie(QRectF(0.5, 0.5, 23, 23), -50 * 16, 100 * 16)
    p.setPen(ink)
    p.setBrush(c.colour("live"))
    p.drawEllipse(QPointF(10.5, 12), 4.6, 4.6)
    p.drawLine(QPointF(5.9, 7), QPointF(5.9, 17))
    p.drawLine(QPointF(5.9, 12), QPointF(2.5, 12))


def _point(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("live"))
    p.drawPolygon(QPolygonF([QPointF(*q) for q in ((12, 3), (17, 8.5), (12, 14), (7, 8.5))]))
    p.drawLine(QPointF(12, 14), QPointF(12, 20))
    p.drawLine(QPointF(7, 20.5), QPointF(17, 20.5))


def _calibrate(p: QPainter, ink: QPen, c: Palette) -> None:
    p.drawLine(QLineF(4, 15, 20, 15))
    for x, h in ((4, 5), (8, 2.5), (12, 4), (16, 2.5), (20, 5)):
        p.drawLine(QLineF(x, 15, x, 15 - h))


def _level(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("section"))
    p.drawRoundedRect(QRectF(3, 9, 18, 7), 3, 3)
    p.setBrush(c.colour("live"))
    p.drawEllipse(QPointF(12, 12.5), 2.4, 2.0)


def _trace(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(Qt.BrushStyle.NoBrush)
    points = [QPointF(*q) for q in ((4, 18), (6, 7), (15, 5), (20, 12), (13, 17))]
    p.drawPolyline(QPolygonF(points))
    p.setBrush(c.colour("card"))
    for q in points:
        p.drawEllipse(q, 1.8, 1.8)


def _brush(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("pane"))
    p.drawRect(QRectF(3, 9, 5, 7))
    p.setBrush(c.colour("pane_dark"))
    p.drawRect(QRectF(9.5, 9, 5, 7))
    p.setBrush(c.colour("pane"))
    p.drawRect(QRectF(16, 9, 5, 7))
    p.drawLine(QLineF(4, 20, 20, 20))


def _eye(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("card"))
    p.drawEllipse(QPointF(12, 12), 8.5, 5.2)
    p.setBrush(c.colour("ink"))
    p.drawEllipse(QPointF(12, 12), 2.6, 2.6)


def _throw(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("glow"))
    p.drawPolygon(QPolygonF([QPointF(*q) for q in ((5, 6), (20, 10), (20, 20), (12, 20))]))
    p.setBrush(c.colour("live"))
    p.drawEllipse(QPointF(5, 6), 3, 3)


def _square(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("section"))
    p.drawPolygon(QPolygonF([QPointF(*q) for q in ((4, 8), (20, 4), (18, 20), (6, 17))]))
    p.setPen(QPen(c.colour("live"), 1.4, Qt.PenStyle.DashLine))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawRect(QRectF(5, 6, 14, 12))


def _crop(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("section"))
    p.drawRect(QRectF(7, 7, 10, 10))
    for a, b in (((7, 3), (7, 7)), ((3, 7), (7, 7)), ((17, 17), (17, 21)), ((17, 17), (21, 17))):
        p.drawLine(QPointF(*a), QPointF(*b))


def _align(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("section"))
    p.drawRect(QRectF(4, 3, 11, 6))
    p.drawRect(QRectF(4, 15, 11, 6))
    p.setPen(QPen(c.colour("choice"), 1.6, Qt.PenStyle.DashLine))
    p.drawLine(QLineF(18, 2, 18, 22))
    p.setBrush(c.colour("live"))
    p.drawEllipse(QPointF(18, 6), 2.2, 2.2)
    p.drawEllipse(QPointF(18, 18), 2.2, 2.2)


def _wand(p: QPainter, ink: QPen, c: Palette) -> None:
    p.drawLine(QLineF(5, 20, 14, 10))
    p.setPen(QPen(c.colour("choice"), 1.4, Qt.PenStyle.DashLine))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPolygon(QPolygonF([QPointF(*q) for q in ((10, 4), (20, 5), (21, 14), (15, 15))]))


def _cut(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("pane"))
    p.drawPolygon(QPolygonF([QPointF(*q) for q in ((5, 8), (15, 5), (20, 12), (16, 18), (6, 17))]))


def _curve(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("pane"))
    for x, y in ((3, 13), (9.5, 7), (16, 13)):
        p.drawRect(QRectF(x, y, 5, 5))


def _dot(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setPen(QPen(c.colour("fibre"), 1.8))
    p.drawPolyline(QPolygonF([QPointF(*q) for q in ((3, 20), (9, 19), (12, 15), (15, 9))]))
    p.setPen(ink)
    p.setBrush(c.colour("live"))
    p.drawEllipse(QPointF(16, 7), 3.2, 3.2)


def _panel(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("section"))
    p.drawRect(QRectF(3, 5, 18, 14))
    p.setBrush(c.colour("live"))
    for x in (7.5, 12, 16.5):
        for y in (9.5, 14.5):
            p.drawEllipse(QPointF(x, y), 1.3, 1.3)


def _passage(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("section"))
    p.drawRect(QRectF(3, 4, 6, 16))
    p.drawRect(QRectF(15, 4, 6, 16))
    p.setPen(QPen(c.colour("wire_plus"), 1.8))
    p.drawLine(QLineF(5, 10.5, 19, 10.5))
    p.setPen(QPen(c.colour("wire_minus"), 1.8))
    p.drawLine(QLineF(5, 13.5, 19, 13.5))


def _stand(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setPen(ink)
    p.setBrush(c.colour("section"))
    p.drawPolygon(QPolygonF([QPointF(2, 3), QPointF(22, 3), QPointF(18, 8.5), QPointF(6, 8.5)]))
    p.drawRect(QRectF(3, 18, 18, 4))
    p.drawLine(QLineF(10, 8.5, 10, 18))
    p.drawLine(QLineF(14, 8.5, 14, 18))
    p.setPen(QPen(c.colour("wire_plus"), 1.6))
    p.drawLine(QLineF(12, 6, 12, 20))


def _hub(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setPen(QPen(c.colour("wire_plus"), 1.6))
    for x, y in ((4, 5), (4, 12), (4, 19)):
        p.drawLine(QLineF(x, y, 12, 12))
    p.drawLine(QLineF(12, 12, 21, 12))
    p.setPen(ink)
    p.setBrush(c.colour("card"))
    p.drawRect(QRectF(9.5, 9.5, 5, 5))


def _way(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setPen(QPen(c.colour("fibre"), 1.8))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPolyline(QPolygonF([QPointF(*q) for q in ((3, 18), (9, 18), (9, 8), (16, 8), (21, 4))]))
    p.setPen(ink)
    p.setBrush(c.colour("card"))
    for x, y in ((9, 18), (9, 8), (16, 8)):
        p.drawRect(QRectF(x - 1.8, y - 1.8, 3.6, 3.6))


def _carrier(p: QPainter, ink: QPen, c: Palette) -> None:
    p.setBrush(c.colour("carrier"))
    p.drawRect(QRectF(3, 13, 18, 3))
    p.drawRect(QRectF(4.5, 16, 2, 4.5))
    p.drawRect(QRectF(17.5, 16, 2, 4.5))
    p.setBrush(c.colour("live"))
    for x in (8.0, 16.0):
        p.drawRect(QRectF(x - 2, 9.5, 4, 3.5))


_DRAW: dict[str, Callable[[QPainter, QPen, Palette], None]] = {
    "pick": _pick, "light": _light, "section": _section, "window": _window, "row": _row, "lamp": _lamp, "point": _point,
    "calibrate": _calibrate, "level": _level, "trace": _trace, "brush": _brush, "eye": _eye, "throw": _throw, "square": _square,
    "crop": _crop, "align": _align, "wand": _wand, "cut": _cut, "curve": _curve, "dot": _dot, "panel": _panel, "passage": _passage, "stand": _stand, "hub": _hub, "way": _way, "carrier": _carrier,
}  # fmt: skip


def tool_icon(tool_id: str, palette: Palette, ratio: float = 2.0) -> QIcon:
    """The icon of a tool in the theme's colours."""
    pixmap = QPixmap(QSize(SIZE, SIZE) * ratio)
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    ink = QPen(QBrush(palette.colour("ink")), 1.5)
    ink.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    painter.setPen(ink)
    try:
        _DRAW[tool_id](painter, ink, palette)
    finally:
        painter.end()  # a painter left open on what is taken away ends the process
    return QIcon(pixmap)
