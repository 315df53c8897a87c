"""Wires on the works side: passages and hubs as they lie, and at the Wire station the way of every wire."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from gwiazda.core.assess.states import Assessment, WireRun
from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.model import Hub, Passage, Plan
from gwiazda.core.quantities import counted
from gwiazda.desktop.plate.lines.works import Works
from gwiazda.desktop.theme.fonts import figure_font
from gwiazda.desktop.theme.palette import Palette

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

LEAST_PX = 5.0
MOST_WIRES, MOST_TAGS = 600, 24


def passage_state(assessment: Assessment, passage_id: str) -> str:
    """How a passage does: “fine”, “look” or “stop”."""
    state = assessment.loom.passages.get(passage_id)
    if state is None or not state.runs:
        return "fine"
    if state.full:
        return "look" if state.fits else "stop"
    return "look" if state.fill > state.comfortable else "fine"


def paint_places(painter: QPainter, works: Works) -> None:
    """Passages as rings, hubs as squares."""
    p, w = works.palette, works.window
    chosen = set(works.selection)
    for passage in works.plan.passages:
        if not works.draws(passage.id):
            continue
        x, y, _ = to_sheet(works.view.side, passage.at)
        c, r = w.to_px(x, y), max(passage.width_mm / 2 * w.scale, LEAST_PX)
        state = passage_state(works.assessment, passage.id)
        painter.setPen(QPen(p.colour("choice" if passage.id in chosen else "ink"), 2 if passage.id in chosen else 1.2))
        painter.setBrush(p.colour("paper" if state == "fine" else state))
        painter.drawEllipse(c, r, r)
        painter.setBrush(p.colour("wire_plus"))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(c + QPointF(-1.6, 0), 1.5, 1.5)
        painter.setBrush(p.colour("wire_minus"))
        painter.drawEllipse(c + QPointF(1.6, 0), 1.5, 1.5)
    for hub in works.plan.hubs:
        if not works.draws(hub.id):
            continue
        x, y, _ = to_sheet(works.view.side, hub.at)
        c = w.to_px(x, y)
        painter.setPen(QPen(p.colour("choice" if hub.id in chosen else "ink"), 2 if hub.id in chosen else 1.2))
        painter.setBrush(p.colour("live" if hub.board else "card"))
        painter.drawRect(QRectF(c.x() - 5, c.y() - 5, 10, 10))


def wire_colour(run: WireRun, palette: Palette):  # type: ignore[no-untyped-def]
    """The colour a wire is drawn in: by what it is, not by its insulation, so that plus and minus are told apart."""
    if run.kind == "fibre":
        return palette.colour("fibre")
    return palette.colour("wire_minus" if run.end == "minus" else "wire_plus")


def paint_wires(painter: QPainter, plate: Plate, cut: int) -> None:
    """The ways of all wires at the Wire station; those of what is picked stronger. Trunks are wide."""
    document, palette, side = plate.document, plate.palette_, plate.view.side
    loom = document.assessment.loom
    if not loom.runs or document.assessed_plan is not document.plan:
        return
    chosen = set(document.marked)
    painter.save()
    painter.setClipRect(0, 0, cut, plate.height())
    painter.setBrush(Qt.BrushStyle.NoBrush)
    runs = list(loom.runs.values())
    picked = [
        r for r in runs if chosen & {*r.lamps, *(r.through or ())} or any(r.id.startswith(f"{i}.") for i in chosen)
    ]
    shown = runs if len(runs) <= MOST_WIRES else [r for r in runs if r.kind == "trunk"]
    for strong, group in ((False, shown), (True, picked)):
        for run in group:
            if run.kind == "fibre" or run.through is None:
                continue
            colour = wire_colour(run, palette)
            colour.setAlpha(255 if strong else 70)
            painter.setPen(
                QPen(colour, (2.6 if run.kind == "trunk" else 1.6) if strong or run.kind == "trunk" else 1.0)
            )
            points = [plate.extent.to_px(*to_sheet(side, p)[:2]) for p in run.points]
            # Plus and minus of a lamp lie side by side.
            off = QPointF(0.0, 1.3 if run.end == "minus" else -1.3)
            painter.drawPolyline(QPolygonF([q + off for q in points]))
    painter.setFont(figure_font(12))
    for run in picked if len(picked) <= MOST_TAGS else []:
        if run.kind == "lead" and run.tag and run.through is not None:
            x, y, _ = to_sheet(side, run.points[0])
            at = plate.extent.to_px(x, y) + QPointF(8, -6 if run.end == "plus" else 12)
            painter.setPen(palette.colour("ink"))
            painter.drawText(at, run.tag)
    for passage in document.plan.passages:
        state = loom.passages.get(passage.id)
        if state is not None and state.runs:
            x, y, _ = to_sheet(side, passage.at)
            at = plate.extent.to_px(x, y)
            plate.paint_tag(painter, at + QPointF(9, -9), str(len(state.runs)))
    painter.restore()


def describe_place(plan: Plan, assessment: Assessment, item: Passage | Hub) -> str:
    """One line about a passage or hub for the hover."""
    if isinstance(item, Hub):
        joints = [j for j in assessment.loom.joints if j.id.startswith(f"{item.id}.")]
        joined = sum(len(j.wires) for j in joints)
        return f"{item.name or item.id} · {counted(len(joints), 'joint')} of {counted(joined, 'wire')}"
    state = assessment.loom.passages.get(item.id)
    size = f"{item.width_mm:g} mm" if item.shape == "round" else f"{item.width_mm:g} × {item.height_mm:g} mm"
    if state is None:
        return f"{item.name or item.id} · {size}"
    return f"{item.name or item.id} · {size} · {counted(len(state.runs), 'wire')}, {state.fill * 100:.0f} % full"
