"""A plan from the side, as a small picture."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from gwiazda.core.plan.model import Plan
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import theme_of


class Silhouette(Guarded, QWidget):
    """The shape from the side, its windows as they will be: dark, dim, lit."""

    def __init__(self, name: str, tall: int) -> None:
        super().__init__()
        self.plan = Plan()
        self.setFixedHeight(tall)
        self.setAccessibleName(name)

    def paintEvent(self, event: QPaintEvent) -> None:
        palette = theme_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.colour("night"))
        painter.drawRoundedRect(self.rect(), 5, 5)
        shapes = [o.points for s in self.plan.sections for o in s.outlines if o.side == "port"]
        if not shapes:
            painter.end()
            return
        xs, zs = [h for p in shapes for h, _ in p], [v for p in shapes for _, v in p]
        wide, tall = max(xs) - min(xs), max(zs) - min(zs)
        scale = min((self.width() - 40) / max(wide, 1.0), (self.height() - 24) / max(tall, 1.0))
        left, foot = (self.width() + (max(xs) + min(xs)) * scale) / 2, (self.height() + (max(zs) + min(zs)) * scale) / 2

        def at(h: float, v: float) -> QPointF:
            return QPointF(left - h * scale, foot - v * scale)

        painter.setPen(QPen(palette.colour("bar_muted"), 1))
        painter.setBrush(palette.colour("bar_line"))
        for points in shapes:
            painter.drawPolygon(QPolygonF([at(*p) for p in points]))
        painter.setPen(Qt.PenStyle.NoPen)
        for o in self.plan.openings:
            if o.side != "port":
                continue
            middle, w, h = at(o.at[0], o.at[2]), max(o.width_mm * scale, 1.5), max(o.height_mm * scale, 1.5)
            colour = palette.colour("live" if o.lit > 0 else "night")
            colour.setAlphaF(1.0 if o.lit in (0.0, 1.0) else 0.55)
            painter.setBrush(colour)
            painter.drawRect(QRectF(middle.x() - w / 2, middle.y() - h / 2, w, h))
        painter.end()
