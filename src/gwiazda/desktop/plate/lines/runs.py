"""Fibres and their dots on the works side: the ways in teal, bends that cost light marked, dots in the colour they show."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from gwiazda.core.assess.fibres.ways import led_through, way_of
from gwiazda.core.assess.states import Assessment, TipState
from gwiazda.core.assess.view_index import dot_shapes
from gwiazda.core.fibre.light import BEND_RATIOS
from gwiazda.core.plan.frame import PLANES, SHEET, Side, to_sheet
from gwiazda.core.plan.lookup import lamps_table
from gwiazda.core.plan.model import Dot, Panel, Plan
from gwiazda.core.plan.naming import feeder_name, name_of
from gwiazda.core.quantities import figure
from gwiazda.core.space.run import Run
from gwiazda.desktop.plate.lines.works import Works, lit_colour
from gwiazda.desktop.plate.sheet import decoded
from gwiazda.desktop.theme.palette import Palette

LEAST_DOT_PX = 2.2
MOST_WAYS = 1200  # drawn at once; beyond, only those picked
FACE_OPACITY = 0.55
FULL_CD = 0.005  # a tip so bright is drawn in its full colour


def tip_colour(tip: TipState, palette: Palette) -> QColor:
    """A tip as bright as it will be: over three decades, for what is wanted of tips spans as many."""
    return lit_colour(tip.rgb, min(tip.cd / FULL_CD, 1.0) ** 0.6, palette)


def sheet_points(run: Run, side: Side) -> np.ndarray:
    """The points of a way on a view's sheet (N, 2), mm."""
    h, v, _ = PLANES[side]
    a, b, _ = SHEET[side]
    found: np.ndarray = run.points[:, [h, v]] * np.array([a, b])
    return found


def way_in(works_plan: Plan, dot: Dot, fibre_mm: float) -> Run | None:
    """The way of a dot's fibre as the plan has it now; None while it is on no lamp."""
    lamp = lamps_table(works_plan.lamps).get(dot.lamp)
    return way_of(dot, lamp, fibre_mm, led_through(works_plan).get(dot.id, ())) if lamp is not None else None


def paint_runs(painter: QPainter, works: Works) -> None:
    """The ways of fibres, those picked (or on a lamp that is) stronger."""
    fibres, p, w = works.assessment.catalogue.fibres, works.palette, works.window
    chosen = set(works.selection)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    shown = [d for d in works.plan.dots if d.lamp and d.fibre in fibres and _draws(works, d)]
    if len(shown) > MOST_WAYS:
        shown = [d for d in shown if d.id in chosen or d.lamp in chosen]
    for dot in shown:
        thick = fibres[dot.fibre].diameter_mm
        run = way_in(works.plan, dot, thick)
        if run is None:
            continue
        strong = dot.id in chosen or dot.lamp in chosen
        wide = min(max(thick * w.scale, 0.9), 5.0)
        painter.setPen(QPen(p.colour("fibre", 255 if strong else 120), wide + (0.9 if strong else 0.0)))
        points = sheet_points(run, works.view.side)
        painter.drawPolyline(QPolygonF([w.to_px(x, y) for x, y in points.tolist()]))
        tip = works.assessment.tips.get(dot.id)
        if tip is not None and (tip.creased or (tip.tightest < BEND_RATIOS[1] and dot.bent != "lit edge" and strong)):
            _bend(painter, works, run, thick, tip.creased)


def _bend(painter: QPainter, works: Works, run: Run, thick: float, creased: bool) -> None:
    """A mark where a fibre creases or turns too tight: a square for what stops, a triangle for what deserves a look."""
    worst = min(run.bends, key=lambda b: b.radius_mm, default=None)
    if worst is None:
        return
    x, y, _ = to_sheet(works.view.side, worst.at)
    c = works.window.to_px(x, y)
    painter.setPen(QPen(works.palette.colour("ink"), 1))
    painter.setBrush(works.palette.colour("stop" if creased else "look"))
    if creased:
        painter.drawRect(QRectF(c.x() - 4, c.y() - 4, 8, 8))
    else:
        painter.drawPolygon(QPolygonF([c + QPointF(0, -5), c + QPointF(5, 4), c + QPointF(-5, 4)]))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _draws(works: Works, dot: Dot) -> bool:
    """A fibre moves with its dot and with its lamp."""
    if works.only is not None:
        return dot.id in works.only or dot.lamp in works.only
    return dot.id not in works.skip and dot.lamp not in works.skip


def paint_panels(painter: QPainter, works: Works) -> None:
    """The faces of panels that are turned to the viewer, and their frames."""
    chosen = set(works.selection)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for panel in works.plan.panels:
        if panel.side == works.view.side and works.draws(panel.id):
            face = decoded(works.pictures.get(panel.picture or "", b""))
            if face is not None:
                painter.setOpacity(FACE_OPACITY)
                painter.drawImage(panel_rect(works, panel), face)
                painter.setOpacity(1.0)
            strong = panel.id in chosen
            painter.setPen(
                QPen(works.palette.colour("choice" if strong else "fibre"), 2 if strong else 1, Qt.PenStyle.DashLine)
            )
            painter.drawRect(panel_rect(works, panel))


def panel_rect(works: Works, panel: Panel) -> QRectF:
    """A panel's face on the plate, px."""
    x, y, _ = to_sheet(works.view.side, panel.at)
    a = works.window.to_px(x - panel.width_mm / 2, y - panel.height_mm / 2)
    b = works.window.to_px(x + panel.width_mm / 2, y + panel.height_mm / 2)
    return QRectF(a, b)


def paint_dots(painter: QPainter, works: Works) -> None:
    """The dots that face the viewer as discs as bright as they will be, those edge-on as short bars."""
    fibres, p, w = works.assessment.catalogue.fibres, works.palette, works.window
    dots = works.plan.dots
    if works.only is not None:
        dots = tuple(d for d in dots if d.id in works.only)
    if not dots:
        return
    shapes = dot_shapes(works.assessment.catalogue, dots, works.view.side)
    by_id = {d.id: d for d in dots}
    chosen = set(works.selection)
    frames = []
    for dot_id, rect, facing in zip(shapes.ids, shapes.rects.tolist(), shapes.facing.tolist(), strict=True):
        if not works.draws(dot_id):
            continue
        c = w.to_px((rect[0] + rect[2]) / 2, (rect[1] + rect[3]) / 2)
        if not (-10 < c.x() < w.width + 10 and -10 < c.y() < w.height + 10):
            continue
        dot, tip = by_id[dot_id], works.assessment.tips.get(dot_id)
        thick = fibres[dot.fibre].diameter_mm if dot.fibre in fibres else 0.5
        r = max(thick / 2 * w.scale, LEAST_DOT_PX)
        dark = tip is None or tip.creased
        painter.setPen(QPen(p.colour("stop" if dark else "fibre"), 1.2))
        painter.setBrush(p.colour("pane_dark") if tip is None else tip_colour(tip, p))
        if facing:
            painter.drawEllipse(c, r, r)
        else:
            painter.drawRect(QRectF(c.x() - 1.5, c.y() - 1.5, 3, 3))
        if dot_id in chosen:
            frames.append(QRectF(c.x() - r - 4, c.y() - r - 4, 2 * r + 8, 2 * r + 8))
    if frames:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(p.colour("choice"), 2))
        painter.drawRects(frames)


def describe_dot(plan: Plan, assessment: Assessment, dot: Dot) -> str:
    """One line about a dot for the hover."""
    tip = assessment.tips.get(dot.id)
    name = name_of(plan, dot.id)
    if tip is None:
        return f"{name} · on no lamp, dark"
    if tip.creased:
        return f"{name} · creased, dark"
    away = f"{tip.reached * 100:.0f} % of what is wanted" if math.isfinite(tip.reached) else ""
    return f"{name} · {figure(tip.cd * 1e3, 2)} mcd, {away} · {dot.fibre}, {tip.length_mm:.0f} mm from {feeder_name(plan, dot)}"
