"""The kit on the plate as it is at a step: how far each section is, closed ones shut."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, Qt
from PySide6.QtGui import QBrush, QPainter, QPen, QPolygonF

from gwiazda.core.assess.view_index import section_polygons
from gwiazda.core.plan.frame import PLANES, face_number, to_sheet
from gwiazda.desktop.plate.lines.marks import paint_tag
from gwiazda.desktop.stations.build.days import days_of, stage_of, stages_at
from gwiazda.desktop.widgets.sign import paint_sign

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

SIGN_PX = 9.0
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
    if document.step:
        _paint_reach(painter, plate)
    painter.restore()


def _paint_reach(painter: QPainter, plate: Plate) -> None:
    """At the step that is picked: walls that are open, and a sign where something is still got at or isn't."""
    document, p, side = plate.document, plate.palette_, plate.view.side
    stage = stage_of(document)
    depth = PLANES[side][2]
    for s in document.plan.sections:
        face = stage.opened.get(s.id)
        if face is None or PLANES[face][2] == depth:
            continue  # closed, or seen straight on
        low, high = list(s.box.at), [a + b for a, b in zip(s.box.at, s.box.size, strict=True)]
        across = PLANES[face][2]
        low[across] = high[across] = high[across] if face_number(face) % 2 else low[across]
        ends = [plate.extent.to_px(*to_sheet(side, (c[0], c[1], c[2]))[:2]) for c in (low, high)]
        painter.setPen(QPen(p.colour("live"), 3, Qt.PenStyle.DotLine))
        painter.drawLine(*ends)
    painter.setPen(QPen(p.colour("card"), 1))
    for sign in stage.signs:
        right, down, _ = to_sheet(side, sign.at)
        paint_sign(painter, plate.extent.to_px(right, down), sign.state, p, SIGN_PX)
