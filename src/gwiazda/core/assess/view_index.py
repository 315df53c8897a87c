"""Where the items of a view are: found by place, in microseconds, however many there are."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import NORMALS, OPPOSITE, PLANES, SHEET, Side, from_sheet, to_sheet
from gwiazda.core.plan.lookup import section_of, standing
from gwiazda.core.plan.model import Carrier, Dot, Fitting, Hub, Lamp, Opening, Passage, Plan, Section
from gwiazda.core.plan.outline.oblique import seen_from
from gwiazda.core.render.raster import inside_polygon

Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Shapes:
    """Items of one kind in a view: ids and rectangles (N, 4) left, top, right, bottom in sheet mm."""

    ids: tuple[str, ...]
    rects: Array
    facing: npt.NDArray[np.bool_]

    @cached_property
    def number(self) -> dict[str, int]:
        """Place of each id."""
        return {item: i for i, item in enumerate(self.ids)}


@memoize(slots=8)
def opening_shapes(openings: tuple[Opening, ...], sections: tuple[Section, ...], side: Side) -> Shapes:
    """Openings that face the viewer as they are, those in a skin that turns towards him as they look from there, those edge-on as bars; those
    on the far side are left out."""
    h, v, _ = PLANES[side]
    ids, rects, facing = [], [], []
    away = OPPOSITE[side]
    home = {s.id: s for s in sections}
    for o in openings:
        if o.side == away:
            continue
        oh, ov, _ = PLANES[o.side]
        half = [0.0, 0.0, 0.0]
        half[oh], half[ov] = o.width_mm / 2, o.height_mm / 2
        if o.side != side and o.section in home and (seen := seen_from(home[o.section], o, side)) is not None:
            half[h], half[v] = seen.half_h, seen.half_v
        x, y, _ = to_sheet(side, o.at)
        ids.append(o.id)
        rects.append((x - half[h], y - half[v], x + half[h], y + half[v]))
        facing.append(o.side == side)
    return Shapes(tuple(ids), np.array(rects, dtype=float).reshape(-1, 4), np.array(facing, dtype=bool))


@memoize(slots=8)
def lamp_shapes(catalogue: Catalogue, lamps: tuple[Lamp, ...], side: Side) -> Shapes:
    """Lamps as squares of their body's size, centred on their place; long ones, as strips are, as long and wide as they lie there."""
    parts = catalogue.lamps
    h, v, _ = PLANES[side]
    rects = []
    for lamp in lamps:
        x, y, _ = to_sheet(side, lamp.at)
        part = parts.get(lamp.part)
        across = up = (part.face_mm if part is not None else 2.0) / 2
        if part is not None and part.shape.long:
            from gwiazda.core.assess.lamp.fit import half_sizes  # only where one lies there: a start waits for it else

            half = half_sizes(catalogue, lamp)
            across, up = half[h], half[v]
        rects.append((x - across, y - up, x + across, y + up))
    return Shapes(tuple(p.id for p in lamps), np.array(rects, dtype=float).reshape(-1, 4), np.ones(len(lamps), bool))


@memoize(slots=8)
def dot_shapes(catalogue: Catalogue, dots: tuple[Dot, ...], side: Side) -> Shapes:
    """Dots that face the viewer or are seen edge-on, as squares of their fibre's size; those on the far side are left out."""
    away, parts = OPPOSITE[side], catalogue.fibres
    ids, rects, facing = [], [], []
    for d in dots:
        if d.side == away:
            continue
        x, y, _ = to_sheet(side, d.at)
        half = (parts[d.fibre].diameter_mm if d.fibre in parts else 0.5) / 2
        ids.append(d.id)
        rects.append((x - half, y - half, x + half, y + half))
        facing.append(d.side == side)
    return Shapes(tuple(ids), np.array(rects, dtype=float).reshape(-1, 4), np.array(facing, dtype=bool))


@memoize(slots=8)
def loom_shapes(passages: tuple[Passage, ...], hubs: tuple[Hub, ...], side: Side) -> Shapes:
    """Passages and hubs as squares about their places."""
    ids, rects = [], []
    places: tuple[Passage | Hub, ...] = (*hubs, *passages)
    for item in places:
        x, y, _ = to_sheet(side, item.at)
        half = (item.width_mm / 2, item.height_mm / 2) if isinstance(item, Passage) else (1.0, 1.0)
        ids.append(item.id)
        rects.append((x - half[0], y - half[1], x + half[0], y + half[1]))
    return Shapes(tuple(ids), np.array(rects, dtype=float).reshape(-1, 4), np.ones(len(ids), bool))


@memoize(slots=8)
def carrier_shapes(carriers: tuple[Carrier, ...], side: Side) -> Shapes:
    """Carriers as the rectangles of their boxes."""
    h, v, _ = PLANES[side]
    rects = []
    for c in carriers:
        x, y, _ = to_sheet(side, c.at)
        rects.append((x - c.size[h] / 2, y - c.size[v] / 2, x + c.size[h] / 2, y + c.size[v] / 2))
    return Shapes(
        tuple(c.id for c in carriers), np.array(rects, dtype=float).reshape(-1, 4), np.ones(len(carriers), bool)
    )


@memoize(slots=8)
def fitting_polygons(fittings: tuple[Fitting, ...], side: Side) -> tuple[tuple[str, Array, float], ...]:
    """Fittings as a view's sheet shows them, with their height towards the viewer."""
    _, _, d = PLANES[side]
    a, b, c = SHEET[side]
    return tuple(
        (f.id, np.array(f.seen(side)) * np.array([a, b]), max(c * f.low[d], c * (f.low[d] + f.size[d])))
        for f in fittings
    )


def _fitting_at(plan: Plan, side: Side, x: float, y: float, slack: float) -> str | None:
    """The fitting at a place of the sheet that is nearest to the viewer and before all sections there; a thin one is met a little beside it too."""
    if not standing(plan):
        return None
    behind = max(
        (height for _, polygon, height in section_polygons(plan.sections, side) if inside_polygon(polygon, x, y)),
        default=-np.inf,
    )
    here = [
        (near, name)
        for name, polygon, near in fitting_polygons(standing(plan), side)
        if _meets(polygon, x, y, slack) and near > behind
    ]
    return max(here)[1] if here else None


def _meets(polygon: Array, x: float, y: float, slack: float) -> bool:
    """Whether a place lies in a polygon, or no more than ``slack`` beside its edge."""
    if inside_polygon(polygon, x, y):
        return True
    a, b = polygon, np.roll(polygon, -1, axis=0)
    run, off = b - a, np.array([x, y]) - a
    share = np.clip((run * off).sum(axis=1) / np.maximum((run * run).sum(axis=1), 1e-12), 0.0, 1.0)
    return bool(np.linalg.norm(off - share[:, None] * run, axis=1).min() <= slack)


@memoize(slots=8)
def section_polygons(sections: tuple[Section, ...], side: Side) -> tuple[tuple[str, Array, float], ...]:
    """Outlines of a view on its sheet, with their height towards the viewer, lowest first."""
    _, _, d = PLANES[side]
    a, b, c = SHEET[side]
    out = []
    for section in sections:
        for outline in section.drawn(side):
            toward = max(c * section.box.at[d], c * (section.box.at[d] + section.box.size[d]))
            out.append((section.id, np.array(outline.points) * np.array([a, b]), toward))
    return tuple(sorted(out, key=lambda row: row[2]))


@memoize(slots=4)
def hidden_lamps(lamps: tuple[Lamp, ...], sections: tuple[Section, ...], side: Side) -> frozenset[str]:
    """Lamps seen themselves that a section stands before in this view, as a starboard light from port."""
    return _hidden(tuple(p for p in lamps if p.mount == "outside"), sections, side)


@memoize(slots=4)
def _hidden(lamps: tuple[Lamp, ...], sections: tuple[Section, ...], side: Side) -> frozenset[str]:
    polygons = section_polygons(sections, side)
    out = set()
    for lamp in lamps:
        x, y, toward = to_sheet(side, lamp.at)
        if any(height > toward and inside_polygon(polygon, x, y) for _, polygon, height in polygons):
            out.add(lamp.id)
    return frozenset(out)


def _nearest(shapes: Shapes, x: float, y: float, slack: float, last: frozenset[str] = frozenset()) -> str | None:
    if not shapes.ids:
        return None
    r = shapes.rects
    dx = np.maximum(np.maximum(r[:, 0] - x, x - r[:, 2]), 0.0)
    dy = np.maximum(np.maximum(r[:, 1] - y, y - r[:, 3]), 0.0)
    distance = np.maximum(dx, dy)
    centre = np.abs((r[:, 0] + r[:, 2]) / 2 - x) + np.abs((r[:, 1] + r[:, 3]) / 2 - y)
    rank = distance + 1e-3 * centre
    if last:
        rank = rank + np.array([slack if i in last else 0.0 for i in shapes.ids])
    best = int(np.argmin(rank))
    return shapes.ids[best] if distance[best] <= slack else None


def hit(catalogue: Catalogue, plan: Plan, side: Side, x: float, y: float, slack_mm: float) -> str | None:
    """The topmost item at a place of the sheet (mm): dots, lamps, hubs and passages, openings, carriers, fittings, sections."""
    found: str | None = _nearest(dot_shapes(catalogue, plan.dots, side), x, y, slack_mm) if plan.dots else None
    found = found or (
        _nearest(
            lamp_shapes(catalogue, plan.lamps, side), x, y, slack_mm, hidden_lamps(plan.lamps, plan.sections, side)
        )
        or _nearest(loom_shapes(plan.passages, plan.hubs, side), x, y, slack_mm)
        or _nearest(opening_shapes(plan.openings, plan.sections, side), x, y, slack_mm / 2)
        or _panel_at(plan, side, x, y, slack_mm)
        or _nearest(carrier_shapes(plan.carriers, side), x, y, slack_mm / 2)
        or _fitting_at(plan, side, x, y, slack_mm / 2)
        or section_at(plan, side, x, y)
    )
    return found


def _panel_at(plan: Plan, side: Side, x: float, y: float, slack: float) -> str | None:
    """A panel whose frame runs by a place: within it one picks dots and what lies behind."""
    for panel in plan.panels:
        if panel.side == side:
            px, py, _ = to_sheet(side, panel.at)
            dx, dy = abs(x - px) - panel.width_mm / 2, abs(y - py) - panel.height_mm / 2
            if max(dx, dy) <= slack and (abs(dx) <= slack or abs(dy) <= slack):
                return panel.id
    return None


@memoize(slots=8)
def _section_bounds(sections: tuple[Section, ...], side: Side) -> Array:
    """Bounds (N, 4) of ``section_polygons``, so that few of them are looked at closely."""
    rows = [(*p.min(axis=0), *p.max(axis=0)) for _, p, _ in section_polygons(sections, side)]
    return np.array(rows, dtype=float).reshape(-1, 4)


def section_at(plan: Plan, side: Side, x: float, y: float) -> str | None:
    """The section nearest to the viewer whose outline holds a place of the sheet."""
    bounds = _section_bounds(plan.sections, side)
    polygons = section_polygons(plan.sections, side)
    within = (bounds[:, 0] <= x) & (x <= bounds[:, 2]) & (bounds[:, 1] <= y) & (y <= bounds[:, 3])
    for i in np.flatnonzero(within)[::-1]:
        section_id, polygon, _ = polygons[i]
        if inside_polygon(polygon, x, y):
            return str(section_id)
    return None


def inside_rect(catalogue: Catalogue, plan: Plan, side: Side, area: tuple[float, float, float, float]) -> list[str]:
    """Lamps, dots, openings, hubs, passages, carriers and fittings whose centres lie in an area of the sheet (left, top, right, bottom, mm)."""
    found: list[str] = []
    for shapes in (
        lamp_shapes(catalogue, plan.lamps, side), dot_shapes(catalogue, plan.dots, side),
        opening_shapes(plan.openings, plan.sections, side), loom_shapes(plan.passages, plan.hubs, side),
        carrier_shapes(plan.carriers, side),
    ):  # fmt: skip
        if not shapes.ids:
            continue
        r = shapes.rects
        x, y = (r[:, 0] + r[:, 2]) / 2, (r[:, 1] + r[:, 3]) / 2
        within = (x >= area[0]) & (x <= area[2]) & (y >= area[1]) & (y <= area[3])
        found += [shapes.ids[i] for i in np.flatnonzero(within)]
    for name, polygon, _ in fitting_polygons(standing(plan), side):
        (x0, y0), (x1, y1) = polygon.min(axis=0), polygon.max(axis=0)
        if area[0] <= (x0 + x1) / 2 <= area[2] and area[1] <= (y0 + y1) / 2 <= area[3]:
            found.append(name)
    return found


def proud_of_skin(plan: Plan, side: Side, x: float, y: float) -> tuple[float, float, float]:
    """The place (mm) of something seen itself at a place of a view's sheet: just off the skin that faces the viewer."""
    h, v, d = PLANES[side]
    place = [0.0, 0.0, 0.0]
    place[h], place[v] = (round(value, 1) for value in from_sheet(side, x, y))
    section_id = section_at(plan, side, x, y)
    if section_id is not None:
        section = section_of(plan, section_id)
        outward = NORMALS[side][d]
        low, size = section.box.at[d], section.box.size[d]
        place[d] = (low + size if outward > 0 else low) + outward * (section.wall_mm + 1.0)
    return place[0], place[1], place[2]
