"""Closed shapes of an SVG drawing, in its own units: outlines for sections, panes for openings.

The bytes are those kept with a plan: scripts, entities and outside links were taken out when they came in.
"""

from __future__ import annotations

import io
import math
import xml.etree.ElementTree as ET
from typing import NamedTuple

import numpy as np

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.frame import polygon_area
from gwiazda.core.plan.model import Point2, Shape
from gwiazda.core.plan.outline.svg_clean import clean_svg

MOST_SHAPES = 5000
MOST_CORNERS = 200_000
CURVE_STEPS = 12
ALIKE = 0.03  # a shape counts as a rectangle, an ellipse or a slot when this share of its area differs at most


class ClosedShape(NamedTuple):
    """``points`` in drawing units (right, down); ``kind`` by what it looks like."""

    kind: Shape
    points: tuple[Point2, ...]
    left: float
    top: float
    width: float
    height: float


def closed_shapes(data: bytes) -> tuple[ClosedShape, ...]:
    """All closed shapes of an SVG, in the order drawn; transforms applied, curves as short chords.

    Raises PlanError for what can't be read.
    """
    from svgelements import SVG, Path
    from svgelements import Shape as SvgShape

    try:
        root = ET.fromstring(clean_svg(data, "SVG").data)
        if root.get("viewBox"):
            # In units of its own view box, which is what the plate measures the drawing in.
            _, _, width, height = (float(v) for v in root.get("viewBox", "").replace(",", " ").split())
            root.set("width", f"{width:g}")
            root.set("height", f"{height:g}")
        drawing = SVG.parse(io.StringIO(ET.tostring(root, encoding="unicode")), reify=True)
        found = [e for e in drawing.elements() if isinstance(e, SvgShape)]
    except Exception as error:  # a parser given what strangers write raises whatever it meets
        raise PlanError("SVG", f"its shapes can't be read ({error})", "a plain SVG") from None
    out: list[ClosedShape] = []
    corners = 0
    for element in found:
        try:
            path = element if isinstance(element, Path) else Path(element)
            parts = [_flattened(Path(part)) for part in path.as_subpaths()]
        except Exception as error:
            raise PlanError("SVG", f"one of its shapes can't be read ({error})", "a plain SVG") from None
        for points in parts:
            if points is not None:
                corners += len(points)
                if corners > MOST_CORNERS:
                    raise PlanError(
                        "SVG", f"its closed shapes have more than {MOST_CORNERS} corners", "a plainer drawing"
                    )
                out.append(shape_of(points))
            if len(out) > MOST_SHAPES:
                raise PlanError("SVG", f"more than {MOST_SHAPES} closed shapes", "a drawing of the kit with fewer")
    return tuple(out)


def _flattened(path) -> tuple[Point2, ...] | None:  # type: ignore[no-untyped-def]
    """A closed subpath as a polygon; None when it is open or has no area."""
    from svgelements import Close, Line, Move

    points: list[Point2] = []
    closed = False
    for segment in path:
        if isinstance(segment, Move):
            if segment.end is not None:
                points.append((float(segment.end.x), float(segment.end.y)))
        elif isinstance(segment, Close):
            closed = True
        elif isinstance(segment, Line):
            points.append((float(segment.end.x), float(segment.end.y)))
        else:
            for i in range(1, CURVE_STEPS + 1):
                at = segment.point(i / CURVE_STEPS)
                points.append((float(at.x), float(at.y)))
    if len(points) > 1 and math.dist(points[0], points[-1]) < 1e-6 * (1.0 + abs(points[0][0])):
        points.pop()
        closed = True
    flat = all(math.isfinite(c) for p in points for c in p)
    if not closed or not flat or len(points) < 3 or polygon_area(points) <= 1e-9:
        return None
    return tuple(points)


def shape_of(points: tuple[Point2, ...]) -> ClosedShape:
    """A polygon, and what it looks like: rectangle, ellipse, slot, or none of them."""
    from shapely import Point, Polygon, affinity, box

    left, top = min(p[0] for p in points), min(p[1] for p in points)
    width, height = max(p[0] for p in points) - left, max(p[1] for p in points) - top
    mine = Polygon(points)
    if not mine.is_valid:  # one that crosses itself is none of those; to sort out its crossings takes their square
        return ClosedShape("traced", points, left, top, width, height)
    cx, cy = left + width / 2, top + height / 2
    short = min(width, height)
    core = box(left, top, left + width, top + height).buffer(-short / 2 * 0.999)
    ideal: tuple[tuple[Shape, object], ...] = (
        ("rect", box(left, top, left + width, top + height)),
        ("round", affinity.scale(Point(cx, cy).buffer(1.0, 32), width / 2, height / 2)),
        ("slot", core.buffer(short / 2 * 0.999)),
    )
    kind: Shape = "traced"
    for name, shape in ideal:
        if mine.symmetric_difference(shape).area < ALIKE * mine.area:
            kind = name
            break
    return ClosedShape(kind, points, left, top, width, height)


def _inside(points: tuple[Point2, ...], x: float, y: float) -> bool:
    """Whether a place lies inside of a polygon, one that crosses itself too: by how often its line is crossed on the way out."""
    u, v = np.array(points).T
    un, vn = np.roll(u, -1), np.roll(v, -1)
    spans = (v > y) != (vn > y)
    with np.errstate(divide="ignore", invalid="ignore"):
        beyond = spans & (x < u + (un - u) * (y - v) / (vn - v))
    return bool(np.count_nonzero(beyond) % 2)


def smallest_around(shapes: tuple[ClosedShape, ...], x: float, y: float) -> ClosedShape | None:
    """The smallest closed shape that holds a place (drawing units); None where none does."""
    holding = [
        s
        for s in shapes
        if s.left <= x <= s.left + s.width and s.top <= y <= s.top + s.height and _inside(s.points, x, y)
    ]
    return min(holding, key=lambda s: polygon_area(s.points), default=None)
