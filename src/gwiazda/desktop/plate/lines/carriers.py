"""Carriers on the works side: their sheets as they stand, the holes for their lamps, their notches."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.assess.carriers.standing import design_of
from gwiazda.core.carrier.design import others, sheets_of
from gwiazda.core.carrier.pieces import holes_in
from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.lookup import lamps_on
from gwiazda.core.plan.model import Carrier, Plan
from gwiazda.core.quantities import counted
from gwiazda.desktop.plate.lines.works import Works
from gwiazda.desktop.plate.sheet import box_on_sheet

HANDLE_PX = 3.5
LEAST_PX = 1.4  # a sheet seen edge-on


def paint_carriers(painter: QPainter, works: Works) -> None:
    """Every carrier: its sheets filled, what stands edge-on as a bar, lamp holes as rings; handles on the one that is picked."""
    p, w, side = works.palette, works.window, works.view.side
    chosen = set(works.selection)
    for c in works.plan.carriers:
        if not works.draws(c.id):
            continue
        strong = c.id in chosen
        box = box_on_sheet(side, c.low, c.size)
        outer = QRectF(w.to_px(box.left(), box.top()), w.to_px(box.right(), box.bottom())).normalized()
        design = design_of(works.assessment.catalogue, c, works.plan.lamps)
        try:
            sheets = sheets_of(design)
        except ValueError:
            sheets = ()
        painter.setPen(QPen(p.colour("choice" if strong else "ink", 255 if strong else 170), 1.6 if strong else 1.0))
        painter.setBrush(p.colour("carrier", 120 if strong else 90))
        for sheet in sheets:
            low, size = sheet.box
            area = box_on_sheet(side, low, size)
            rect = QRectF(w.to_px(area.left(), area.top()), w.to_px(area.right(), area.bottom())).normalized()
            flat_x, flat_y = max(LEAST_PX - rect.width(), 0) / 2, max(LEAST_PX - rect.height(), 0) / 2
            painter.drawRect(rect.adjusted(-flat_x, -flat_y, flat_x, flat_y))
        u, v = others(design.axis)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for hole in holes_in(design, sheets[0]) if sheets else ():
            at = list(c.at)
            at[u], at[v] = hole.u, hole.v
            x, y, _ = to_sheet(side, (at[0], at[1], at[2]))
            r = max(hole.wide / 2 * w.scale, 1.5)
            painter.drawEllipse(w.to_px(x, y), r, r)
        if strong:
            painter.setPen(QPen(p.colour("choice"), 1.2, Qt.PenStyle.DashLine))
            painter.drawRect(outer)
            painter.setPen(QPen(p.colour("choice"), 1.2))
            painter.setBrush(p.colour("paper"))
            for corner in (outer.topLeft(), outer.topRight(), outer.bottomLeft(), outer.bottomRight()):
                painter.drawRect(QRectF(corner - QPointF(HANDLE_PX, HANDLE_PX), corner + QPointF(HANDLE_PX, HANDLE_PX)))


def describe_carrier(plan: Plan, item: Carrier) -> str:
    """One line about a carrier for the hover."""
    held = len(lamps_on(item, plan.lamps))
    size = " × ".join(f"{s:g}" for s in item.size)
    return f"{item.name or item.form} · {size} mm · {counted(held, 'lamp')} on it"
