"""Edits of fittings: masts, cranes and the like, from an outline drawn in a view."""

from __future__ import annotations

import math
from collections.abc import Sequence

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.items import fresh_ids, unused
from gwiazda.core.plan.frame import PLANES, Side, polygon_area
from gwiazda.core.plan.model import Fitting, Plan, Section, copy_unchecked

THINNEST_MM, THICKEST_MM = 0.5, 4.0  # a fitting just drawn is as thick as it is narrow, within these


def fitting_from(
    plan: Plan, side: Side, points: Sequence[tuple[float, float]], thick_mm: float | None = None
) -> Fitting:
    """A fitting from an outline in a view, on the section nearest to it, in the middle of that one's depth.

    Raises
    ------
    PlanError
        For an outline without an area.
    """
    if len(points) < 3 or polygon_area(points) < 1e-3:
        raise PlanError("Fitting", "this outline has no area", "three corners or more around it")
    h, v, d = PLANES[side]
    low, high = ([end(p[i] for p in points) for i in (0, 1)] for end in (min, max))
    middle = [(a + b) / 2 for a, b in zip(low, high, strict=True)]
    home = min(plan.sections, key=lambda s: (_away(s, h, v, low, high), s.box.size[d]), default=None)
    at = [0.0, 0.0, 0.0]
    at[h], at[v] = (round(m, 4) for m in middle)
    at[d] = round(home.box.centre[d], 4) if home is not None else 0.0
    narrow = min(b - a for a, b in zip(low, high, strict=True))
    return Fitting(
        id=fresh_ids(plan, "fitting")[0], name="", section=home.id if home is not None else "", side=side, at=(at[0], at[1], at[2]),
        points=tuple((round(p - at[h], 4), round(q - at[v], 4)) for p, q in points),
        thick_mm=thick_mm if thick_mm is not None else round(min(max(narrow, THINNEST_MM), THICKEST_MM), 2),
    )  # fmt: skip


def _away(section: Section, h: int, v: int, low: Sequence[float], high: Sequence[float]) -> float:
    """How far a section's outside lies from a rectangle of a view, mm."""
    gaps = []
    for axis, a, b in ((h, low[0], high[0]), (v, low[1], high[1])):
        first, last = (
            section.box.at[axis] - section.wall_mm,
            section.box.at[axis] + section.box.size[axis] + section.wall_mm,
        )
        gaps.append(max(first - b, a - last, 0.0))
    return math.hypot(*gaps)


def add_fitting(plan: Plan, fitting: Fitting) -> Plan:
    """A fitting more.

    Raises
    ------
    PlanError
        Where its id is taken.
    """
    unused(plan, fitting.id)
    return copy_unchecked(plan, fittings=(*plan.fittings, fitting))
