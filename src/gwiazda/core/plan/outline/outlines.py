"""Working on outlines: arcs, straight runs, mirrors, insets, points along a curve. Coordinates in mm of one view."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.frame import polygon_area
from gwiazda.core.plan.model import Point2

SAGITTA_MM = 0.05  # an arc's chords lie this close to it
RUN_STEP_DEG = 15.0


def arc(start: Point2, via: Point2, end: Point2, sagitta_mm: float = SAGITTA_MM) -> tuple[Point2, ...]:
    """Points of the circle's arc from ``start`` through ``via`` to ``end``, the start left out and the end kept.

    Three points on one line give the straight run. The chords lie within ``sagitta_mm`` of the arc.
    """
    (ax, ay), (bx, by), (cx, cy) = start, via, end
    d = 2.0 * (ax * (by - cy) + bx * (cy - ay) + cx * (ay - by))
    size = max(math.dist(start, via), math.dist(via, end))
    if size == 0.0 or abs(d) < 1e-6 * size * size:
        return (end,)
    a2, b2, c2 = ax * ax + ay * ay, bx * bx + by * by, cx * cx + cy * cy
    ux = (a2 * (by - cy) + b2 * (cy - ay) + c2 * (ay - by)) / d
    uy = (a2 * (cx - bx) + b2 * (ax - cx) + c2 * (bx - ax)) / d
    radius = math.hypot(ax - ux, ay - uy)
    first, middle, last = (math.atan2(y - uy, x - ux) for x, y in (start, via, end))
    sweep = (last - first) % (2.0 * math.pi)
    if (middle - first) % (2.0 * math.pi) > sweep:
        sweep -= 2.0 * math.pi
    step = 2.0 * math.acos(max(1.0 - sagitta_mm / radius, 0.5))
    count = min(max(2, math.ceil(abs(sweep) / step)), 180)
    inner = [first + sweep * i / count for i in range(1, count)]
    return (*((ux + radius * math.cos(t), uy + radius * math.sin(t)) for t in inner), end)


def length(points: Sequence[Point2]) -> float:
    """Length of an open run of points."""
    return sum(math.dist(a, b) for a, b in pairwise(points))


def straight_run(start: Point2, toward: Point2, within_deg: float = 3.0) -> Point2:
    """``toward`` brought onto the nearest multiple of 15° seen from ``start``, if it is that close to one."""
    angle = math.degrees(math.atan2(toward[1] - start[1], toward[0] - start[0]))
    nearest = round(angle / RUN_STEP_DEG) * RUN_STEP_DEG
    if abs(angle - nearest) > within_deg:
        return toward
    t = math.radians(nearest)
    along = (toward[0] - start[0]) * math.cos(t) + (toward[1] - start[1]) * math.sin(t)
    return run_of(start, nearest, along)


def run_of(start: Point2, angle_deg: float, length_mm: float) -> Point2:
    """The end of a straight run of that length and direction."""
    t = math.radians(angle_deg)
    return (round(start[0] + length_mm * math.cos(t), 6), round(start[1] + length_mm * math.sin(t), 6))


def mirrored_half(points: Sequence[Point2]) -> tuple[Point2, ...]:
    """Half an outline closed by its mirror image across the line from its first to its last point.

    Raises PlanError when there is nothing to mirror.
    """
    if len(points) < 3 or points[0] == points[-1]:
        raise PlanError("Mirror", f"{len(points)} corners", "half an outline: three corners or more, both ends apart")
    (ax, ay), (bx, by) = points[0], points[-1]
    ux, uy = bx - ax, by - ay
    length2 = ux * ux + uy * uy

    def across(p: Point2) -> Point2:
        t = ((p[0] - ax) * ux + (p[1] - ay) * uy) / length2
        return (2.0 * (ax + t * ux) - p[0], 2.0 * (ay + t * uy) - p[1])

    return (*points, *(across(p) for p in reversed(points[1:-1])))


def inset(points: Sequence[Point2], wall_mm: float) -> tuple[Point2, ...]:
    """An outline offset inwards by the wall's thickness, its corners kept sharp; the largest piece where it falls apart.

    Raises PlanError when nothing is left, or the outline crosses itself.
    """
    from shapely import Polygon

    polygon = Polygon(points)
    if not polygon.is_valid:
        raise PlanError("Outline", "crosses itself", "an outline that doesn't")
    inner = polygon.buffer(-wall_mm, join_style="mitre")
    pieces = sorted(getattr(inner, "geoms", [inner]), key=lambda g: -g.area)
    if not pieces or pieces[0].is_empty:
        raise PlanError("Outline", "leaves no room inside its walls", f"an outline wider than {2 * wall_mm:g} mm")
    return tuple((float(x), float(y)) for x, y in pieces[0].exterior.coords[:-1])


def simplified(points: Sequence[Point2], tolerance_mm: float) -> tuple[Point2, ...]:
    """An outline with as few corners as stay within ``tolerance_mm`` of it (Douglas and Peucker)."""
    from shapely import Polygon

    found = Polygon(points).simplify(tolerance_mm, preserve_topology=True)
    return tuple((float(x), float(y)) for x, y in found.exterior.coords[:-1])


def along(points: Sequence[Point2], count: int) -> tuple[tuple[Point2, float], ...]:
    """``count`` places at even distance along an open curve, ends included, each with the curve's direction (degrees).

    One place lies in the middle. Raises PlanError for a curve of no length.
    """
    from shapely import LineString

    if len(points) < 2 or LineString(points).length <= 0.0:
        raise PlanError("Openings along a curve", "the curve has no length", "two points apart or more")
    if not 1 <= count <= 1000:
        raise PlanError("Openings along a curve", f"{count} openings", "1 to 1000")
    line = LineString(points)
    out = []
    for i in range(count):
        at = line.length * (i / (count - 1) if count > 1 else 0.5)
        here = line.interpolate(at)
        a, b = (line.interpolate(min(max(at + d, 0.0), line.length)) for d in (-1e-3, 1e-3))
        out.append(((float(here.x), float(here.y)), math.degrees(math.atan2(b.y - a.y, b.x - a.x))))
    return tuple(out)


def spans(points: tuple[Point2, ...], level: float) -> list[tuple[float, float]]:
    """Horizontal spans of a polygon at a level (even-odd)."""
    hits = []
    n = len(points)
    for i in range(n):
        (ah, av), (bh, bv) = points[i], points[(i + 1) % n]
        if (av > level) != (bv > level):
            hits.append(ah + (level - av) * (bh - ah) / (bv - av))
    hits.sort()
    return list(zip(hits[::2], hits[1::2], strict=False))


def strips(points: Sequence[Point2], count: int) -> tuple[tuple[float, float, float, float], ...]:
    """A polygon as level rectangles (low h, high h, low v, high v), as many as ``count`` slices cut from it.

    Each is as wide as its slice is at mid height; all are widened alike, so that their area is the polygon's.
    """
    low, high = min(p[1] for p in points), max(p[1] for p in points)
    step = (high - low) / count
    out = []
    for i in range(count):
        v = low + i * step
        out += [(a, b, v, v + step) for a, b in spans(tuple(points), v + step / 2)]
    area = sum((b - a) * step for a, b, _, _ in out)
    if area <= 0.0:
        return ()
    k = polygon_area(points) / area
    return tuple(((a + b) / 2 - (b - a) * k / 2, (a + b) / 2 + (b - a) * k / 2, v0, v1) for a, b, v0, v1 in out)
