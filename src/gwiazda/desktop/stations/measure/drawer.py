"""Measure: each section as a block with its inner box, to one scale."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPen, QPolygonF

from gwiazda.core.quantities import figure
from gwiazda.desktop.stations.drawer import StationDrawer


class MeasureDrawer(StationDrawer):
    title = "Measure"

    def subtitle(self) -> str:
        plan = self.document.plan
        lit = sum(o.lit > 0 for o in plan.openings)
        return (
            f"inner boxes to one scale · {len(plan.openings)} openings, {lit} lit"
            if plan.sections
            else "no section yet"
        )

    def paint_body(self, painter: QPainter, body: QRectF) -> None:
        plan, p = self.document.plan, self.palette_
        if not plan.sections:
            self.words(painter, body, "Press B and drag a rectangle on the plate: the first section.")
            return
        sections, cell = self.columns(painter, body, list(plan.sections), 5, lambda s: s.box.size[0])
        longest = max(1.0, *(s.box.size[0] + 0.5 * s.box.size[1] for s in sections))
        tallest = max(1.0, *(s.box.size[2] + 0.25 * s.box.size[1] for s in sections))
        room_h = body.height() - 34
        scale = min((cell - 18) / longest, room_h / tallest)
        chosen = set(self.document.selection)
        for i, section in enumerate(sections):
            left = body.left() + i * cell
            a, b, c = (k * scale for k in section.box.size)
            base = body.top() + room_h
            sx, sy = b * 0.5, b * 0.25
            front = QRectF(left, base - c, a, c)
            top = QPolygonF(
                [
                    front.topLeft(),
                    front.topRight(),
                    front.topRight() + QPointF(sx, -sy),
                    front.topLeft() + QPointF(sx, -sy),
                ]
            )
            end = QPolygonF(
                [
                    front.topRight(),
                    front.bottomRight(),
                    front.bottomRight() + QPointF(sx, -sy),
                    front.topRight() + QPointF(sx, -sy),
                ]
            )
            painter.setPen(
                QPen(p.colour("choice" if section.id in chosen else "ink"), 1.6 if section.id in chosen else 1)
            )
            for shape, fill in ((top, "card"), (end, "line"), (None, "section")):
                painter.setBrush(p.colour(fill))
                if shape is None:
                    painter.drawRect(front)
                else:
                    painter.drawPolygon(shape)
            self.words(painter, QRectF(left, body.bottom() - 33, cell - 8, 17), section.name, "ink", bold=True)
            x, y, z = section.box.size
            self.words(
                painter,
                QRectF(left, body.bottom() - 16, cell - 8, 16),
                f"{figure(x, 4)} × {figure(y, 4)} × {figure(z, 4)} mm",
            )
            self.places.append(
                (
                    QRectF(left - 4, body.top(), cell - 4, body.height()),
                    section.id,
                    f"{section.name}: inner box {figure(x, 4)} × {figure(y, 4)} × {figure(z, 4)} mm",
                )
            )
