"""The kit on the plate as it is at a step: how far each section is, closed ones shut."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, Qt
from PySide6.QtGui import QBrush, QPainter, QPen, QPolygonF

from gwiazda.core.assess.view_index import section_polygons
from gwiazda.desktop.plate.lines.marks import paint_tag
from gwiazda.desktop.stations.build.days import days_of, stages_at

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

SHUT = ("closed", "seam filled", "covered", "painted", "unmasked", "scratched", "trimmed", "joined")


def paint_stages(painter: QPainter, plate: Plate, cut: int) -> None:
    """A tag on each section that says how far it is; what isn't begun is hatched, what is closed is framed."""
    document, p = plate.document, plate.palette_
    if not document.plan.sections:
        return
    days = days_of(document)
    stages = stages_at(days, document.step)
    picked = next((s.section for s in days.steps if s.key == document.step), "")
    painter.save()
    painter.setClipRect(QRect(0, 0, cut, plate.height()))
    tags: list[tuple[QPointF, str]] = []
    for section_id, polygon, _ in section_polygons(document.plan.sections, plate.view.side):
        shape = QPolygonF([plate.extent.to_px(x, y) for x, y in polygon])
        stage = stages.get(section_id, "")
        if not stage:
            painter.setPen(QPen(p.colour("muted"), 1, Qt.PenStyle.DashLine))
            painter.setBrush(QBrush(p.colour("muted", 60), Qt.BrushStyle.BDiagPattern))
            painter.drawPolygon(shape)
        elif stage in SHUT:
            painter.setPen(QPen(p.colour("fine"), 2.4))
            painter.setBrush(p.colour("card", 120))
            painter.drawPolygon(shape)
        if section_id == picked:
            painter.setPen(QPen(p.colour("live"), 3))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolygon(shape)
        box = shape.boundingRect()
        if box.width() > 40:
            tags.append((QPointF(box.center().x() - 34, box.top() + 4), stage or "not begun"))
    for at, words in tags:
        paint_tag(painter, at, words, p)
    painter.restore()
