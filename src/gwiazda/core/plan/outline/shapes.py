"""Sections from a shape and its sizes, with no drawing at all; and inner boxes from outlines."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from typing import Literal

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits import fresh_ids
from gwiazda.core.plan.frame import DRAWN_AS, PLANES, Side
from gwiazda.core.plan.model import Box, Outline, Plan, Point2, Section, copy_unchecked
from gwiazda.core.plan.outline.outlines import inset, spans

Shape = Literal["box", "tube", "disc", "wedge", "dome"]
SHAPES: tuple[Shape, ...] = ("box", "tube", "disc", "wedge", "dome")
WALL_MM = 1.2
ARC_STEPS = 36


def ellipse(ch: float, cv: float, a: float, b: float, start: float = 0.0, end: float = 360.0) -> tuple[Point2, ...]:
    steps = max(8, round(ARC_STEPS * (end - start) / 360.0))
    full = end - start >= 360.0
    angles = [math.radians(start + (end - start) * i / steps) for i in range(steps if full else steps + 1)]
    return tuple((ch + a * math.cos(t), cv + b * math.sin(t)) for t in angles)


def rectangle(h0: float, h1: float, v0: float, v1: float) -> tuple[Point2, ...]:
    return ((h0, v0), (h1, v0), (h1, v1), (h0, v1))


def section_from_shape(
    plan: Plan, shape: Shape, length_mm: float, breadth_mm: float, height_mm: float, name: str = "",
    at: tuple[float, float, float] = (0.0, 0.0, 0.0),
) -> Section:  # fmt: skip
    """A section of a simple shape, its outer sizes given, standing on ``at`` (middle of its underside), mm.

    The inner box is the largest one that fits for sure: the sizes less the walls for a box; the square inscribed in
    a tube or disc; half the length and height of a wedge; 0.7 of a dome's breadth and 0.6 of its height.
    """
    wall = WALL_MM
    for what, size in (("length", length_mm), ("breadth", breadth_mm), ("height", height_mm)):
        if not size > 2 * wall + 0.5:
            raise PlanError(
                f"{shape.capitalize()}, {what}", f"{size:g} mm leaves no room inside its walls", "3 mm or more"
            )
    x, y, z = at
    x0, x1 = x - length_mm / 2, x + length_mm / 2
    y0, y1 = y - breadth_mm / 2, y + breadth_mm / 2
    z1 = z + height_mm
    outlines: dict[Side, tuple[Point2, ...]] = {
        "port": rectangle(x0, x1, z, z1),
        "top": rectangle(x0, x1, y0, y1),
        "bow": rectangle(y0, y1, z, z1),
    }
    share = (1.0, 1.0, 1.0)
    lift = 0.5
    if shape == "tube":
        outlines["bow"] = ellipse(y, (z + z1) / 2, breadth_mm / 2, height_mm / 2)
        share = (1.0, math.sqrt(0.5), math.sqrt(0.5))
    elif shape == "disc":
        outlines["top"] = ellipse(x, y, length_mm / 2, breadth_mm / 2)
        share = (math.sqrt(0.5), math.sqrt(0.5), 1.0)
    elif shape == "wedge":
        outlines["port"] = ((x0, z), (x1, z), (x0, z1))
        share, lift = (0.5, 1.0, 0.5), 0.25
    elif shape == "dome":
        outlines["port"] = ellipse(x, z, length_mm / 2, height_mm, 0.0, 180.0)
        outlines["bow"] = ellipse(y, z, breadth_mm / 2, height_mm, 0.0, 180.0)
        outlines["top"] = ellipse(x, y, length_mm / 2, breadth_mm / 2)
        share, lift = (0.7, 0.7, 0.6), 0.3
    inner = [max(s * k - 2 * wall, 0.5) for s, k in zip((length_mm, breadth_mm, height_mm), share, strict=True)]
    middle_x = x0 + length_mm * 0.25 if shape == "wedge" else x
    corner = (middle_x - inner[0] / 2, y - inner[1] / 2, z + height_mm * lift - inner[2] / 2)
    item_id = fresh_ids(plan, "section")[0]
    number = int(item_id.rsplit(".", 1)[1])
    return Section(
        id=item_id,
        name=name or f"{shape.capitalize()} {number}",
        box=Box(at=corner, size=(inner[0], inner[1], inner[2])),
        outlines=tuple(Outline(side=side, points=points) for side, points in outlines.items()),
        wall_mm=wall,
    )


def crossing(points: Sequence[Point2]) -> Point2 | None:
    """Where a closed outline crosses or touches itself; None when it doesn't."""
    from shapely import Polygon, is_valid_reason

    if len(points) < 4:
        return None
    reason = str(is_valid_reason(Polygon(points)))
    place = re.search(r"Self-intersection\[(\S+) (\S+)\]", reason)
    return (float(place.group(1)), float(place.group(2))) if place else None


LEVELS = 48


def inner_rectangle(points: tuple[Point2, ...], wall_mm: float) -> tuple[float, float, float, float]:
    """The largest level rectangle inside an outline set in by its wall: (low h, low v, high h, high v).

    Searched over 48 levels; its sides are limited by the outline's spans at every level it reaches. Raises
    PlanError when no room is left.
    """
    inner = inset(points, wall_mm)
    low_v, high_v = min(p[1] for p in inner), max(p[1] for p in inner)
    step = (high_v - low_v) / LEVELS
    # A hair inside at both ends, where a level edge of the outline has no span of its own.
    levels = [min(max(low_v + i * step, low_v + 1e-6), high_v - 1e-6) for i in range(LEVELS + 1)]
    rows = [max(spans(inner, v), key=lambda s: s[1] - s[0], default=(0.0, 0.0)) for v in levels]
    best, found = 0.0, None
    for i in range(LEVELS):
        left, right = rows[i]
        for j in range(i + 1, LEVELS + 1):
            left, right = max(left, rows[j][0]), min(right, rows[j][1])
            if right <= left:
                break
            area = (right - left) * (levels[j] - levels[i])
            if area > best:
                best, found = area, (left, levels[i], right, levels[j])
    if found is None:
        raise PlanError("Outline", "leaves no room inside its walls", f"an outline wider than {2 * wall_mm:g} mm")
    # In tenths of a millimetre, towards the inside.
    return (
        math.ceil(found[0] * 10.0 - 1e-4) / 10.0, math.ceil(found[1] * 10.0 - 1e-4) / 10.0,
        math.floor(found[2] * 10.0 + 1e-4) / 10.0, math.floor(found[3] * 10.0 + 1e-4) / 10.0,
    )  # fmt: skip


def traced_section(plan: Plan, side: Side, points: tuple[Point2, ...], depth_mm: float, name: str = "") -> Section:
    """A section from an outline traced in a view, its inner box proposed from it; raises PlanError where it crosses itself."""
    if len(points) < 3:
        raise PlanError("Outline", f"{len(points)} points", "three or more")
    where = crossing(points)
    if where is not None:
        raise PlanError("Outline", f"crosses itself at {where[0]:.1f}, {where[1]:.1f} mm", "an outline that doesn't")
    h, v, d = PLANES[side]
    h0, v0, h1, v1 = inner_rectangle(points, WALL_MM)
    at, size = [0.0, 0.0, 0.0], [0.0, 0.0, 0.0]
    at[h], at[v], at[d] = h0, v0, -depth_mm / 2
    size[h], size[v], size[d] = h1 - h0, v1 - v0, depth_mm
    item_id = fresh_ids(plan, "section")[0]
    section = Section(
        id=item_id,
        name=name or f"Section {int(item_id.rsplit('.', 1)[1])}",
        box=Box(at=(at[0], at[1], at[2]), size=(size[0], size[1], size[2])),
    )
    # Seen from elsewhere it is as long and as high as it was traced, and as deep as its box.
    ends = [(at[k] - WALL_MM, at[k] + size[k] + WALL_MM) for k in range(3)]
    ends[h], ends[v] = ((min(p[i] for p in points), max(p[i] for p in points)) for i in (0, 1))
    outer: dict[Side, tuple[Point2, ...]] = {}
    sides: tuple[Side, ...] = ("port", "top")
    for other in sides:
        oh, ov, _ = PLANES[other]
        outer[other] = rectangle(*ends[oh], *ends[ov])
    outer[DRAWN_AS[side]] = points
    return copy_unchecked(section, outlines=tuple(Outline(side=s, points=p) for s, p in outer.items()))


def box_from_outlines(section: Section) -> Box:
    """The inner box its outlines leave room for: the largest rectangle of each, and where two say it, the narrower.

    An axis that no outline shows stays as it is. Raises PlanError when nothing is left.
    """
    low, high = list(section.box.at), [a + s for a, s in zip(section.box.at, section.box.size, strict=True)]
    limits: dict[int, tuple[float, float]] = {}
    for outline in section.outlines:
        h, v, _ = PLANES[outline.side]
        h0, v0, h1, v1 = inner_rectangle(outline.points, section.wall_mm)
        for axis, a, b in ((h, h0, h1), (v, v0, v1)):
            old = limits.get(axis, (a, b))
            limits[axis] = (max(old[0], a), min(old[1], b))
    for axis, (a, b) in limits.items():
        if b - a < 0.5:
            raise PlanError("Inner box", "the outlines leave no room in common", "outlines of the same part")
        low[axis], high[axis] = a, b
    size = (high[0] - low[0], high[1] - low[1], high[2] - low[2])
    return Box(at=(low[0], low[1], low[2]), size=size)
