"""Openings many at a time: grids, rings, and the same on the other side."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits import add_openings, add_row, copy_checked, fresh_ids, wall_place, window
from gwiazda.core.plan.frame import OPPOSITE, PLANES, Side
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Opening, Plan, Section, Shape, copy_unchecked
from gwiazda.core.plan.outline.outlines import along
from gwiazda.core.plan.outline.shapes import crossing


def add_grid(
    plan: Plan, section: Section, side: Side, start: tuple[float, float], end: tuple[float, float], grid: tuple[int, int],
    template: Opening | None = None,
) -> tuple[Plan, list[str]]:  # fmt: skip
    """Rows of windows one above the other, (columns, rows) from one corner to the other (view coordinates, mm)."""
    columns, rows = grid
    if not (1 <= rows <= 200 and 1 <= columns <= 1000 and rows * columns <= 5000):
        raise PlanError("Grid of windows", f"{columns} × {rows}", "up to 1000 × 200 and 5000 in all")
    ids: list[str] = []
    for i in range(rows):
        v = start[1] + (end[1] - start[1]) * (i / (rows - 1) if rows > 1 else 0.0)
        plan, made = add_row(plan, section, side, (start[0], v), (end[0], v), columns, template)
        ids += made
    return plan, ids


def add_ring(
    plan: Plan, section: Section, side: Side, centre: tuple[float, float], radius_mm: float, count: int,
    template: Opening | None = None,
) -> tuple[Plan, list[str]]:  # fmt: skip
    """Windows evenly round a circle on one wall (view coordinates, mm), the first to the right of its centre."""
    if not (2 <= count <= 1000 and 0 < radius_mm <= 1e4):
        raise PlanError("Ring of windows", f"{count} windows on {radius_mm:g} mm", "2 to 1000 on a radius above zero")
    ids = fresh_ids(plan, f"{section.id}.window", count)
    first = window(plan, section, side, *centre, template)
    ring = []
    for i, item_id in enumerate(ids):
        t = 2.0 * math.pi * i / count
        at = wall_place(section, side, centre[0] + radius_mm * math.cos(t), centre[1] + radius_mm * math.sin(t))
        ring.append(copy_unchecked(first, id=item_id, at=at))
    return add_openings(plan, ring), ids


def add_along(
    plan: Plan, section: Section, side: Side, curve: Sequence[tuple[float, float]], count: int, template: Opening | None = None
) -> tuple[Plan, list[str]]:  # fmt: skip
    """Openings at even distance along a curve drawn on one wall (view coordinates, mm); they stay upright."""
    places = along(curve, count)
    ids = fresh_ids(plan, f"{section.id}.window", count)
    first = window(plan, section, side, *places[0][0], template)
    made = [
        copy_unchecked(first, id=i, at=wall_place(section, side, *at)) for i, (at, _) in zip(ids, places, strict=True)
    ]
    return add_openings(plan, made), ids


def traced_opening(
    plan: Plan, section: Section, side: Side, points: Sequence[tuple[float, float]], shape: Shape = "traced"
) -> Opening:
    """An opening from its outline on a wall (view coordinates, mm).

    Raises PlanError for an outline of no size or one that crosses itself.
    """
    low_h, low_v = min(p[0] for p in points), min(p[1] for p in points)
    width, height = max(p[0] for p in points) - low_h, max(p[1] for p in points) - low_v
    if len(points) < 3 or not (width > 0.05 and height > 0.05):
        raise PlanError("Opening", "its outline has no size", "three corners or more, 0.05 mm apart at least")
    where = crossing(tuple(points))
    if where is not None:
        raise PlanError(
            "Opening", f"its outline crosses itself at {where[0]:.1f}, {where[1]:.1f} mm", "one that doesn't"
        )
    centre = (low_h + width / 2, low_v + height / 2)
    shares = tuple((round((h - centre[0]) / width, 5), round((v - centre[1]) / height, 5)) for h, v in points)
    plain = window(plan, section, side, *centre)
    return copy_checked(
        plain, shape=shape, width_mm=round(width, 3), height_mm=round(height, 3),
        points=shares if shape == "traced" else (),
    )  # fmt: skip


MOST_SHARE = 0.25  # of a section's outline; a larger shape is a part of the kit and no window
LEAST_MM = 0.15


def openings_from_shapes(
    plan: Plan, section: Section, side: Side, shapes: Iterable[tuple[Shape, Sequence[tuple[float, float]]]]
) -> tuple[Plan, list[str]]:
    """Openings from closed shapes drawn on one wall (view coordinates, mm): those that lie within the section's outline.

    Of shapes within one another the innermost counts: a frame holds its pane. What coincides with an opening that is
    there already is left out. Raises PlanError when none is left.
    """
    from shapely import Polygon, box

    h, v, _ = PLANES[side]
    outline = next((o.points for o in section.drawn(side)), None)
    at, size = section.box.at, section.box.size
    hull = Polygon(outline).buffer(0) if outline else box(at[h], at[v], at[h] + size[h], at[v] + size[v])
    fitting = []
    for kind, points in shapes:
        polygon = Polygon(points).buffer(0)
        a, b, c, d = polygon.bounds if not polygon.is_empty else (0.0, 0.0, 0.0, 0.0)
        if min(c - a, d - b) >= LEAST_MM and polygon.area <= MOST_SHARE * hull.area and hull.contains(polygon):
            fitting.append((kind, points, polygon))
    there = [(o.at[h], o.at[v]) for o in plan.openings if o.section == section.id and o.side == side]
    made: list[str] = []
    # Largest first, and each only if it holds none of the smaller ones.
    fitting.sort(key=lambda f: -f[2].area)
    for i, (kind, points, polygon) in enumerate(fitting):
        if any(polygon.contains(other.representative_point()) for _, _, other in fitting[i + 1 :]):
            continue
        opening = traced_opening(plan, section, side, points, kind)
        near = min(opening.width_mm, opening.height_mm) / 4
        if any(math.dist((opening.at[h], opening.at[v]), other) < near for other in there):
            continue
        plan = add_openings(plan, (opening,))
        made.append(opening.id)
    if not made:
        raise PlanError(
            f"Openings of {section.name}", "the drawing has no further closed shape within its outline",
            "an SVG with the windows drawn as closed shapes",
        )  # fmt: skip
    return plan, made


def copy_to_other_side(plan: Plan, ids: Iterable[str]) -> tuple[Plan, list[str]]:
    """The same openings on the wall across: port to starboard, bow to stern, and back; all of them lit as they are."""
    made: list[str] = []
    for item_id in ids:
        item = find(plan, item_id)
        if not isinstance(item, Opening) or PLANES[item.side][2] == 2:
            continue
        section = find(plan, item.section)
        assert isinstance(section, Section)
        h, v, _ = PLANES[item.side]
        copy = window(plan, section, OPPOSITE[item.side], item.at[h], item.at[v], item)
        plan = add_openings(plan, (copy,))
        made.append(copy.id)
    if not made:
        raise PlanError(
            "Copy to the other side", "no opening on a side wall is picked", "openings to port, starboard, bow or stern"
        )
    return plan, made
