"""The works side of the plate: drawing, sections, openings, lamps and strings, painted in batches."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QPainter, QPen, QPolygonF, QRadialGradient

from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.view_index import hidden_lamps, lamp_shapes, opening_shapes, section_polygons
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.plan.frame import PLANES, SHEET, rect_on_sheet, to_sheet
from gwiazda.core.plan.lookup import find, lamp_of, opening_of, section_of, standing
from gwiazda.core.plan.model import (
    Hatch,
    Lamp,
    Opening,
    Plan,
    Section,
    View,
    lamps_in,
)
from gwiazda.core.quantities import figure
from gwiazda.core.render.tone import to_srgb
from gwiazda.desktop.plate.sheet import Window, box_on_sheet
from gwiazda.desktop.theme.palette import Palette

LEAST_LAMP_PX = 4.5
LONG = 1.6  # times as long as wide: a lamp is drawn as it lies, not as a disc
MOST_GLOWS = 400
GLOW_RATIO = 2.0  # drawn at twice the size, for screens of more than one pixel to a point
GRID_STEPS_MM = (1.0, 5.0, 10.0, 50.0, 100.0, 500.0)
DETAIL_PX = 2.0  # panes smaller than this are drawn without outline or antialiasing


@dataclass(frozen=True)
class Works:
    """All that the works side shows."""

    plan: Plan
    assessment: Assessment
    view: View
    window: Window
    palette: Palette
    selection: tuple[str, ...]
    skip: frozenset[str] = frozenset()  # left out, as what is being dragged is of the picture behind it
    only: frozenset[str] | None = None  # nothing but these
    pictures: Mapping[str, bytes] = field(default_factory=dict)

    def draws(self, item_id: str) -> bool:
        return item_id not in self.skip and (self.only is None or item_id in self.only)


def grid_step_mm(scale: float) -> float:
    """The finest grid whose squares are at least 9 px."""
    return next((s for s in GRID_STEPS_MM if s * scale >= 9.0), GRID_STEPS_MM[-1])


PALER = 0.06  # of the way to white


@memoize_by_value(256)
def lamp_colour(rgb: tuple[float, float, float], palette: Palette) -> QColor:
    """A lamp's own colour on the screen, its hue kept: as bright as the screen has it, dimmed in the dark room.

    A light so bright is a little paler than its colour; a curve on each channel would turn red into magenta.
    """
    full = np.array(rgb) / max(rgb)
    shown = to_srgb((full + PALER * (1.0 - full)) * (1.0 if palette.name == "bench" else 0.45))
    return QColor.fromRgbF(*(float(c) for c in shown))


def lit_colour(rgb: tuple[float, float, float], share: float, palette: Palette) -> QColor:
    """A lamp's disc as bright as it will be: from the night's colour to its own.

    The eye sees a tenth of the light as about a third as bright.
    """
    level = min(max(share, 0.0), 1.0) ** 0.45
    full, dark = lamp_colour(rgb, palette), palette.colour("night")
    pairs = ((full.redF(), dark.redF()), (full.greenF(), dark.greenF()), (full.blueF(), dark.blueF()))
    return QColor.fromRgbF(*(d + (f - d) * level for f, d in pairs))


def paint_ground(painter: QPainter, works: Works, drawing: QImage | None) -> None:
    """Paper, grid, drawing, sections and openings: what stays while a lamp is dragged."""
    w = works.window
    painter.fillRect(0, 0, w.width, w.height, works.palette.colour("paper"))
    _grid(painter, works)
    if drawing is not None:
        # On the dark-room plate the drawing has to step back.
        shown = 1.0 - (works.view.drawing.fade if works.view.drawing else 0.0)
        painter.setOpacity((0.82 if works.palette.name == "bench" else 0.28) * shown)
        painter.drawImage(0, 0, drawing)
        painter.setOpacity(1.0)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    _sections(painter, works, drawing is not None)
    if standing(works.plan):
        from gwiazda.desktop.plate.lines.fittings import paint_fittings  # builds on this module

        paint_fittings(painter, works, drawing is not None)
    _openings(painter, works)


def paint_dragged(painter: QPainter, works: Works) -> None:
    """Only what is dragged, over the picture of the rest."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    _openings(painter, works)
    _lamps_and_fibres(painter, works)


def paint_lamps(painter: QPainter, works: Works) -> None:
    """Strings and lamps, over the ground."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    _strings(painter, works)
    _lamps_and_fibres(painter, works)


def _lamps_and_fibres(painter: QPainter, works: Works) -> None:
    """Fibres lie under lamps, their dots over them."""
    plan = works.plan
    if plan.carriers:
        from gwiazda.desktop.plate.lines.carriers import paint_carriers  # builds on this module

        paint_carriers(painter, works)
    if not (plan.dots or plan.panels or plan.passages or plan.hubs):
        _lamps(painter, works)
        return
    from gwiazda.desktop.plate.lines.runs import paint_dots, paint_panels, paint_runs  # builds on this module
    from gwiazda.desktop.plate.lines.wires import paint_places  # builds on this module

    paint_runs(painter, works)
    _lamps(painter, works)
    paint_panels(painter, works)
    paint_dots(painter, works)
    paint_places(painter, works)


def _grid(painter: QPainter, works: Works) -> None:
    w = works.window
    step = grid_step_mm(w.scale)
    left, top = w.to_mm(0, 0)
    right, bottom = w.to_mm(w.width, w.height)
    lines = []
    for i in range(int(np.ceil(left / step)), int(np.floor(right / step)) + 1):
        x = (i * step - w.left_mm) * w.scale
        lines.append(QLineF(x, 0, x, w.height))
    for i in range(int(np.ceil(top / step)), int(np.floor(bottom / step)) + 1):
        y = (i * step - w.top_mm) * w.scale
        lines.append(QLineF(0, y, w.width, y))
    painter.setPen(QPen(works.palette.colour("grid"), 1))
    painter.drawLines(lines)


def _sections(painter: QPainter, works: Works, has_drawing: bool) -> None:
    p, chosen = works.palette, set(works.selection)
    paint = {s.id: s.colour for s in works.plan.sections if s.colour and p.name == "bench"}
    for section_id, polygon, _ in section_polygons(works.plan.sections, works.view.side):
        shape = QPolygonF([works.window.to_px(x, y) for x, y in polygon])
        painter.setBrush(Qt.BrushStyle.NoBrush if has_drawing else QBrush(p.colour("section")))
        if section_id in paint:
            tone = QColor(paint[section_id])
            tone.setAlpha(90 if has_drawing else 255)
            painter.setBrush(tone)
        painter.setPen(QPen(p.colour("ink", 90 if has_drawing else 200), 1))
        if section_id in chosen:
            painter.setBrush(p.colour("choice", 26))
            painter.setPen(QPen(p.colour("choice"), 2))
        painter.drawPolygon(shape)
        if section_id in chosen:
            wall = _wall(tuple(map(tuple, polygon.tolist())), section_of(works.plan, section_id).wall_mm)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(p.colour("choice", 120), 1, Qt.PenStyle.DotLine))
            painter.drawPolygon(QPolygonF([works.window.to_px(x, y) for x, y in wall]))
    for section in works.plan.sections:
        if section.id in chosen:
            box = box_on_sheet(works.view.side, section.box.at, section.box.size)
            rect = QRectF(works.window.to_px(box.left(), box.top()), works.window.to_px(box.right(), box.bottom()))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(p.colour("choice"), 1, Qt.PenStyle.DashLine))
            painter.drawRect(rect)
            _dimensions(painter, works, section, rect)
        hatch = section.closure.hatch
        if hatch is not None and hatch.face == works.view.side:
            _hatch(painter, works, section, hatch)
        for obstacle in section.obstacles:
            area = box_on_sheet(works.view.side, obstacle.box.at, obstacle.box.size)
            rect = QRectF(works.window.to_px(area.left(), area.top()), works.window.to_px(area.right(), area.bottom()))
            kept_there = obstacle.action == "keep"
            painter.setPen(QPen(p.colour("ink"), 1, Qt.PenStyle.SolidLine if kept_there else Qt.PenStyle.DotLine))
            painter.setBrush(QBrush(p.colour("ink", 70), Qt.BrushStyle.BDiagPattern) if kept_there else QBrush())
            painter.drawRect(rect)


def _hatch(painter: QPainter, works: Works, section: Section, hatch: Hatch) -> None:
    """A hatch as seen from the side it is in: its opening, with a notch for a fingernail."""
    x, y, w, d = rect_on_sheet(hatch.face, section.box.at, hatch.at, hatch.size)
    rect = QRectF(works.window.to_px(x, y), works.window.to_px(x + w, y + d))
    painter.setPen(QPen(works.palette.colour("ink"), 1.4, Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(rect)
    nail = min(8.0, rect.width() / 4)
    painter.drawLine(QLineF(rect.right() - 4, rect.center().y() - nail, rect.right() - 4, rect.center().y() + nail))


@memoize_by_value(64)
def _wall(points: tuple[tuple[float, float], ...], wall_mm: float) -> tuple[tuple[float, float], ...]:
    """The inside of the wall along an outline; nothing where the wall leaves no inside."""
    from gwiazda.core.plan.outline.outlines import inset

    try:
        return inset(points, wall_mm)
    except GwiazdaError:
        return ()


def _dimensions(painter: QPainter, works: Works, section: Section, rect: QRectF) -> None:
    """Width and height of the selected section's inner box along its edges."""
    from gwiazda.desktop.theme.fonts import figure_font

    h, v, _ = PLANES[works.view.side]
    painter.setFont(figure_font(12))
    painter.setPen(works.palette.colour("choice"))
    across, down = f"{figure(section.box.size[h], 4)}", f"{figure(section.box.size[v], 4)} mm"
    painter.drawText(QRectF(rect.left(), rect.top() - 18, rect.width(), 16), Qt.AlignmentFlag.AlignCenter, across)
    painter.drawText(QPointF(rect.right() + 5, rect.center().y() + 4), down)


def _openings(painter: QPainter, works: Works) -> None:
    openings = works.plan.openings
    if works.only is not None:
        # What is dragged is little: the tables of all the rest would be made anew for every step.
        openings = tuple(i for item in works.only if isinstance(i := find(works.plan, item), Opening))
    shapes = opening_shapes(openings, works.plan.sections, works.view.side)
    if not shapes.ids:
        return
    p, w = works.palette, works.window
    origin = np.array([w.left_mm, w.top_mm, w.left_mm, w.top_mm])
    px = (shapes.rects - origin) * w.scale
    # A pane seen edge-on is a bar two px thick.
    flat = np.maximum(2.0 - (px[:, 2:] - px[:, :2]), 0.0) / 2
    px = np.hstack([px[:, :2] - flat, px[:, 2:] + flat])
    shown = (px[:, 2] > 0) & (px[:, 0] < w.width) & (px[:, 3] > 0) & (px[:, 1] < w.height)
    if works.skip:
        shown &= np.array([works.draws(i) for i in shapes.ids], dtype=bool)
    fills: dict[str, list[QRectF]] = {}
    rounds: dict[str, list[QRectF]] = {}
    others: list[tuple[str, Opening, QRectF]] = []
    lenses: list[tuple[Opening, QRectF]] = []
    chosen: list[QRectF] = []
    selected = set(works.selection)
    small = float(np.mean(px[:, 3] - px[:, 1])) < DETAIL_PX
    by_id = {o.id: o for o in openings} if len(openings) < 1500 or not small else {}
    for k in np.flatnonzero(shown).tolist():
        left, top, right, bottom = px[k].tolist()
        rect = QRectF(left, top, right - left, bottom - top)
        opening = by_id.get(shapes.ids[k]) or opening_of(works.plan, shapes.ids[k])
        kind = "dark" if opening.lit == 0 else ("dim" if opening.lit < 1 else "lit")
        if opening.lens is not None and shapes.facing[k] and not small:
            lenses.append((opening, rect))
        if shapes.facing[k] and opening.shape in ("slot", "traced"):
            others.append((kind, opening, rect))
        else:
            into = rounds if opening.shape == "round" and shapes.facing[k] else fills
            into.setdefault(kind, []).append(rect)
        if shapes.ids[k] in selected:
            chosen.append(rect.adjusted(-2.5, -2.5, 2.5, 2.5))
    colours = _pane_colours(p)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, not small)
    painter.setPen(Qt.PenStyle.NoPen if small else QPen(p.colour("ink", 210), 0.9))
    for kind, rects in fills.items():
        painter.setBrush(colours[kind])
        painter.drawRects(rects)
    for kind, rects in rounds.items():
        painter.setBrush(colours[kind])
        for rect in rects:
            painter.drawEllipse(rect)
    a, b, _ = SHEET[works.view.side]
    for kind, opening, rect in others:
        painter.setBrush(colours[kind])
        if opening.shape == "slot":
            radius = min(rect.width(), rect.height()) / 2
            painter.drawRoundedRect(rect, radius, radius)
        else:
            middle = rect.center()
            painter.drawPolygon(
                QPolygonF([middle + QPointF(a * h * rect.width(), b * v * rect.height()) for h, v in opening.points])
            )
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for opening, rect in lenses:
        _lens(painter, works, opening, rect)
    _frame(painter, p, chosen)


def _pane_colours(p: Palette) -> dict[str, QColor]:
    lit, dark = QColor(p.pane), QColor(p.pane_dark)
    red, green, blue = (
        0.55 * a + 0.45 * b
        for a, b in ((lit.redF(), dark.redF()), (lit.greenF(), dark.greenF()), (lit.blueF(), dark.blueF()))
    )
    return {"lit": lit, "dim": QColor.fromRgbF(red, green, blue), "dark": dark}


def _lens(painter: QPainter, works: Works, opening: Opening, rect: QRectF) -> None:
    """The lip behind a lens as a dotted ring, and the glint of its dome; silver on its back fills it grey."""
    assert opening.lens is not None
    p, lip = works.palette, opening.lens.lip_mm * works.window.scale
    painter.setBrush(p.colour("muted") if opening.lens.backed else Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(p.colour("ink", 150), 0.9, Qt.PenStyle.DotLine))
    painter.drawEllipse(rect.adjusted(lip, lip, -lip, -lip))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(p.colour("paper"), 1.4))
    inner = rect.adjusted(rect.width() * 0.18, rect.height() * 0.18, -rect.width() * 0.18, -rect.height() * 0.18)
    painter.drawArc(inner, 100 * 16, 60 * 16)


def _frame(painter: QPainter, palette: Palette, rects: list[QRectF]) -> None:
    if rects:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(palette.colour("choice"), 2))
        painter.drawRects(rects)


def _strings(painter: QPainter, works: Works) -> None:
    """A thin line along each string of several lamps."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(works.palette.colour("wire_plus"), 1.4))
    for item in (x for feed in works.plan.feeds for x in feed.items):
        points = [to_sheet(works.view.side, lamp_of(works.plan, leaf.lamp).at) for leaf in lamps_in(item)]
        painter.drawPolyline(QPolygonF([works.window.to_px(x, y) for x, y, _ in points]))


@memoize_by_value(256)
def _glow(rgb: int, radius: float, reach: float) -> QImage:
    """The halo of a lamp as a picture: a gradient drawn each time takes ten times as long."""
    size = int(np.ceil(2 * reach * GLOW_RATIO)) + 2
    image = QImage(size, size, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    inner, outer = QColor(rgb), QColor(rgb)
    inner.setAlpha(170)
    outer.setAlpha(0)
    centre = QPointF(size / 2, size / 2)
    gradient = QRadialGradient(centre, reach * GLOW_RATIO)
    gradient.setColorAt(min(radius / reach, 0.95), inner)
    gradient.setColorAt(1.0, outer)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(gradient)
    painter.drawEllipse(centre, reach * GLOW_RATIO, reach * GLOW_RATIO)
    painter.end()
    return image


def _lamps(painter: QPainter, works: Works) -> None:
    lamps = works.plan.lamps
    if works.only is not None:
        lamps = tuple(i for item in works.only if isinstance(i := find(works.plan, item), Lamp))
    shapes = lamp_shapes(works.assessment.catalogue, lamps, works.view.side)
    p, w = works.palette, works.window
    selected = set(works.selection)
    chosen = []
    # Among hundreds of lamps the halos run together and say nothing.
    glows = len(works.plan.lamps) <= MOST_GLOWS or w.scale > 3.0
    behind = hidden_lamps(lamps, works.plan.sections, works.view.side)
    pairs = list(zip(lamps, shapes.rects, strict=True))
    for lamp, rect in sorted(pairs, key=lambda pair: pair[0].id not in behind):
        if not works.draws(lamp.id):
            continue
        centre = w.to_px((rect[0] + rect[2]) / 2, (rect[1] + rect[3]) / 2)
        wide, high = ((rect[k + 2] - rect[k]) / 2 * w.scale for k in (0, 1))
        if not (-20 - wide < centre.x() < w.width + 20 + wide and -20 - high < centre.y() < w.height + 20 + high):
            continue
        radius = max(min(wide, high), LEAST_LAMP_PX)
        body = QRectF(
            centre.x() - max(wide, radius), centre.y() - max(high, radius), 2 * max(wide, radius), 2 * max(high, radius)
        )
        state = works.assessment.lamps.get(lamp.id)
        colour = lamp_colour(state.rgb, p) if state else p.colour("pane_dark")
        if glows and state and state.current_a > 0 and lamp.id not in behind:
            reach = radius + 3 + 9 * min(state.share, 1.0) ** 0.4
            glow = _glow(colour.rgb(), round(radius * 2) / 2, round(reach * 2) / 2)
            half = glow.width() / (2 * GLOW_RATIO)
            painter.drawImage(QRectF(centre.x() - half, centre.y() - half, 2 * half, 2 * half), glow)
        painter.setPen(QPen(p.colour("ink"), 1.1))
        painter.setBrush(colour)
        if lamp.id in behind:
            painter.setPen(QPen(p.colour("ink", 110), 1.0, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        if lamp.mount == "fibre":
            painter.drawRoundedRect(QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius), 2, 2)
        elif max(wide, high) > LONG * radius:
            painter.drawRoundedRect(body, 2, 2)
        elif lamp.mount == "inside":
            painter.drawEllipse(centre, radius, radius)
        else:
            # Seen itself: a diamond, so that it isn't taken for one behind the wall.
            r = radius * 1.25
            painter.drawPolygon(QPolygonF([centre + QPointF(*d) for d in ((0, -r), (r, 0), (0, r), (-r, 0))]))
        _aim(painter, works, lamp, centre, radius)
        if lamp.id in selected:
            chosen.append(body.adjusted(-4, -4, 4, 4))
    _frame(painter, p, chosen)


def _aim(painter: QPainter, works: Works, lamp: Lamp, centre: QPointF, radius: float) -> None:
    """A short tick the way the lamp looks; none when it looks at the viewer or away, or all round."""
    if lamp.frosted_cap:
        return
    x, y, _ = to_sheet(works.view.side, lamp.aim)
    length = (x * x + y * y) ** 0.5
    full = sum(a * a for a in lamp.aim) ** 0.5
    if length > 0.2 * full:
        unit = QPointF(x / length, y / length)
        painter.drawLine(centre + unit * radius, centre + unit * (radius + 5.0))
