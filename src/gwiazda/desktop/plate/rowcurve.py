"""Along the row: the luminance of every window of a row as a curve over the drawing, with its target and its darkest."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from gwiazda.core.assess.aims import EVENNESS_AIM
from gwiazda.core.assess.view_index import lamp_shapes, opening_shapes
from gwiazda.core.plan.decks import Deck, decks_of
from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.lookup import opening_of
from gwiazda.core.plan.model import Lamp, Opening, Section
from gwiazda.core.quantities import figure
from gwiazda.desktop.theme.fonts import figure_font
from gwiazda.desktop.theme.palette import Palette

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

TALL_PX, ABOVE_PX, LEAST, LEAST_PX = 46.0, 12.0, 3, 90.0


def row_of(plate: Plate) -> Deck | None:
    """The row that what is picked belongs to, in the view that is shown: the picked opening's own, or the longest."""
    document, side = plate.document, plate.view.side
    plan, assessment = document.plan, document.assessment
    for item in document.selected_items():
        home = item.id if isinstance(item, Section) else None
        if isinstance(item, Opening):
            home = item.section
        elif isinstance(item, Lamp):
            state = assessment.lamps.get(item.id)
            home = state.section if state else None
        rows = [d for d in decks_of(plan.sections, plan.openings) if d.section == home and d.side == side]
        own = [d for d in rows if item.id in d.ids]
        best = max(own or rows, key=lambda d: len(d.ids), default=None)
        if best is not None and len(best.ids) >= LEAST:
            return best
    return None


def _free_place(plate: Plate, above: float, below: float, left: float, right: float) -> float:
    """Foot (px) of the curve's card, over or under its row, where it covers the fewest lamps and windows."""
    assessment = plate.document.assessment
    plan, side = plate.document.plan, plate.view.side
    rects = np.concatenate(
        [
            lamp_shapes(assessment.catalogue, plan.lamps, side).rects,
            opening_shapes(plan.openings, plan.sections, side).rects,
        ]
    )
    places = [plate.extent.to_px((r[0] + r[2]) / 2, (r[1] + r[3]) / 2) for r in rects]
    x, y = np.array([q.x() for q in places]), np.array([q.y() for q in places])
    within = y[(x > left - 14) & (x < right + 14)]
    tall = TALL_PX + 30.0
    best, least = above - ABOVE_PX, math.inf
    for step in range(14):
        for foot in (above - ABOVE_PX - 16.0 * step, below + ABOVE_PX + tall + 16.0 * step):
            if not (tall + 48.0 < foot < plate.height() - 48.0):
                continue
            covered = int(((within > foot - tall - 4) & (within < foot + 10)).sum())
            # Near to its row, unless something is hidden by it.
            cost = covered * 10.0 + step
            if cost < least:
                best, least = foot, cost
    return best


def _dotted(painter: QPainter, p: Palette, points: list[QPointF]) -> None:
    """The curve, with a dot a window."""
    painter.setPen(QPen(p.colour("live"), 2))
    painter.drawPolyline(QPolygonF(points))
    painter.setPen(QPen(p.colour("ink"), 1))
    painter.setBrush(p.colour("live"))
    for at in points:
        painter.drawEllipse(at, 2.2, 2.2)


def _ring(painter: QPainter, p: Palette, at: QPointF, too_dark: bool) -> None:
    """Round the darkest window."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(p.colour("stop" if too_dark else "ink"), 1.6))
    painter.drawEllipse(at, 5.0, 5.0)


def paint_row(painter: QPainter, plate: Plate, cut: int) -> None:
    """The curve of the row that belongs to what is picked."""
    from gwiazda.core.assess.uncertainty import band

    row = row_of(plate)
    if row is None:
        return
    document, side, p = plate.document, plate.view.side, plate.palette_
    assessment = document.assessment
    openings = [opening_of(document.plan, i) for i in row.ids]
    # A window dark or dimmed on purpose is left out: the curve is about the light that reaches the row.
    shown = [
        (o, assessment.openings[o.id].luminance_cd_m2) for o in openings if o.lit == 1.0 and o.id in assessment.openings
    ]
    state = assessment.sections.get(row.section)
    if len(shown) < LEAST or state is None or max(v for _, v in shown) <= 0:
        return
    px = [plate.extent.to_px(*to_sheet(side, o.at)[:2]) for o, _ in shown]
    values = np.array([v for _, v in shown])
    mean = float(values.mean())
    top = max(float(values.max()), state.wanted_cd_m2) * 1.15
    ends = np.array([band(v, assessment.openings[o.id].sigma, assessment.openings[o.id].lean) for o, v in shown])
    top = max(top, float(ends.max()) * 1.05)
    left, right = min(q.x() for q in px) - 8, max(q.x() for q in px) + 8
    if min(right, cut) - max(left, 0.0) < LEAST_PX:
        return
    half = max(o.height_mm for o, _ in shown) * plate.extent.scale / 2
    foot = _free_place(plate, min(q.y() for q in px) - half, max(q.y() for q in px) + half, left, right)

    def level(cd_m2: float) -> float:
        return foot - TALL_PX * cd_m2 / top

    painter.save()
    painter.setClipRect(QRectF(0, 0, cut, plate.height()))
    painter.setPen(QPen(p.colour("live", 150), 1, Qt.PenStyle.DotLine))
    for at in (px[0], px[-1]):
        painter.drawLine(QPointF(at.x(), at.y()), QPointF(at.x(), foot))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(p.colour("card", 235))
    card = QRectF(left - 8, foot - TALL_PX - 24, right - left + 16, TALL_PX + 30)
    painter.drawRoundedRect(card, 5, 5)
    # The band the row should stay in: from the aim of evenness to as much above the mean.
    painter.setBrush(p.colour("fine", 60))
    painter.drawRect(
        QRectF(QPointF(left, level(mean * (2.0 - EVENNESS_AIM))), QPointF(right, level(mean * EVENNESS_AIM)))
    )
    painter.setPen(QPen(p.colour("muted"), 1))
    painter.drawLine(QPointF(left, foot), QPointF(right, foot))
    if state.wanted_cd_m2 > 0:
        painter.setPen(QPen(p.colour("ink"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(left, level(state.wanted_cd_m2)), QPointF(right, level(state.wanted_cd_m2)))
    order = sorted(range(len(px)), key=lambda i: px[i].x())
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(p.colour("live", 55))
    under = [QPointF(px[i].x(), level(float(ends[i, 0]))) for i in order]
    over = [QPointF(px[i].x(), level(float(ends[i, 1]))) for i in reversed(order)]
    painter.drawPolygon(QPolygonF(under + over))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    points = [
        QPointF(q.x(), level(v)) for q, v in sorted(zip(px, values.tolist(), strict=True), key=lambda r: r[0].x())
    ]
    _dotted(painter, p, points)
    worst = int(values.argmin())
    _ring(painter, p, QPointF(px[worst].x(), level(float(values[worst]))), bool(values[worst] < EVENNESS_AIM * mean))
    painter.setFont(figure_font(12))
    painter.setPen(p.colour("ink"))
    words = f"darkest {figure(float(values[worst]))} of {figure(mean)} cd/m², {values[worst] / mean:.2f} · {row.name}"
    room = int(min(right, cut - 4) - left)
    shown_words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, max(room, 40))
    painter.drawText(QPointF(left, foot - TALL_PX - 9), shown_words)
    painter.restore()
