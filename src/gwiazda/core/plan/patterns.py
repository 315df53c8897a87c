"""Openings many at a time: grids, rings, and the same on the other side."""

from __future__ import annotations

import math
from collections.abc import Iterable

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits import add_openings, add_row, fresh_ids, wall_place, window
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.models import PLANES, Opening, Plan, Section, Side


def add_grid(
    plan: Plan, section: Section, side: Side, start: tuple[float, float], end: tuple[float, float], columns: int, rows: int,
    template: Opening | None = None,
) -> tuple[Plan, list[str]]:  # fmt: skip
    """Rows of windows one above the other, from one corner to the other (view coordinates, mm)."""
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
        ring.append(first.model_copy(update={"id": item_id, "at": at}))
    return add_openings(plan, ring), ids


OTHER_SIDE: dict[Side, Side] = {"port": "starboard", "starboard": "port", "bow": "stern", "stern": "bow"}


def copy_to_other_side(plan: Plan, ids: Iterable[str]) -> tuple[Plan, list[str]]:
    """The same openings on the wall across: port to starboard, bow to stern, and back; all of them lit as they are."""
    made: list[str] = []
    for item_id in ids:
        item = find(plan, item_id)
        if not isinstance(item, Opening) or item.side not in OTHER_SIDE:
            continue
        section = find(plan, item.section)
        assert isinstance(section, Section)
        h, v, _ = PLANES[item.side]
        copy = window(plan, section, OTHER_SIDE[item.side], item.at[h], item.at[v], item)
        plan = add_openings(plan, (copy,))
        made.append(copy.id)
    if not made:
        raise PlanError(
            "Copy to the other side", "no opening on a side wall is picked", "openings to port, starboard, bow or stern"
        )
    return plan, made
