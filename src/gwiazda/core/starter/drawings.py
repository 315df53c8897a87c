"""A drawing of its own behind each view of a plan from a shape: outlines with panel lines, decks and details to be seen and traced over.

Lines are made of the sections' outlines alone: a rim inside each, joints at even steps, a level line, hubs in what is round. Sizes are by eye.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING, NamedTuple

from gwiazda.core.plan.frame import SHEET, Side
from gwiazda.core.plan.model import Drawing, Plan, Section, View, copy_unchecked

if TYPE_CHECKING:
    from shapely.geometry.base import BaseGeometry

MARGIN_MM = 12.0
RIM_MM, JOINT_SHARE, LEAST_JOINT_MM = (
    1.4,
    0.075,
    7.0,
)  # a line inside the edge; joints at this share of the length, no nearer than that
ROUND = 0.9  # of the circle round it that a shape fills: a wheel, a drum from ahead
TONES = ("#e6e2d6", "#dcd8cb", "#d2cfc3")
INK, THIN = "#4a4d4a", "#8d8f88"
Point2 = tuple[float, float]


class _Sheet(NamedTuple):
    """What is drawn on one view: its origin and size in mm, and the marks."""

    origin: Point2
    width: float
    height: float
    marks: tuple[str, ...]


def _path(points: Iterable[Point2], origin: Point2, close: bool) -> str:
    steps = " ".join(
        f"{'M' if k == 0 else 'L'}{x + origin[0]:.2f} {y + origin[1]:.2f}" for k, (x, y) in enumerate(points)
    )
    return steps + (" Z" if close else "")


def _lines(shape: BaseGeometry) -> Iterator[list[Point2]]:
    """The runs of a geometry, whatever it is made of."""
    for part in getattr(shape, "geoms", [shape]):
        if part.is_empty or part.geom_type not in ("LineString", "LinearRing", "Polygon"):
            continue
        ring = part.exterior if part.geom_type == "Polygon" else part
        yield [(float(x), float(y)) for x, y in ring.coords]


def _details(polygon: BaseGeometry, long_mm: float) -> Iterator[list[Point2]]:
    """Rim, joints and a level line of one outline; a hub and a tyre of a round one."""
    from shapely.geometry import LineString

    left, low, right, high = polygon.bounds
    wide, tall = right - left, high - low
    inner = polygon.buffer(-min(RIM_MM, min(wide, tall) / 6.0), join_style=2)
    if inner.is_empty:
        return
    yield from _lines(inner)
    circle = math.pi * (max(wide, tall) / 2.0) ** 2
    if polygon.area >= ROUND * circle:
        for share in (0.62, 0.25):
            yield from _lines(polygon.centroid.buffer(share * min(wide, tall) / 2.0, 24))
        return
    step = max(JOINT_SHARE * long_mm, LEAST_JOINT_MM)
    for k in range(1, int(wide / step)):
        x = left + k * wide / max(int(wide / step), 1)
        yield from _lines(inner.intersection(LineString([(x, low - 1.0), (x, high + 1.0)])))
    if tall > 2.0 * LEAST_JOINT_MM:
        for share in (0.3, 0.72) if tall > 0.09 * long_mm else (0.5,):
            y = low + share * tall
            yield from _lines(inner.intersection(LineString([(left - 1.0, y), (right + 1.0, y)])))


def _outlines(sections: Iterable[Section], side: Side) -> list[list[Point2]]:
    """Outlines on a side's sheet, the farthest from the viewer first."""
    a, b, c = SHEET[side]
    rows = []
    for s in sections:
        depth = {"port": 1, "starboard": 1, "top": 2, "bottom": 2, "bow": 0, "stern": 0}[side]
        near = max(c * s.box.at[depth], c * (s.box.at[depth] + s.box.size[depth]))
        rows += [(near, [(a * h, b * v) for h, v in o.points]) for o in s.drawn(side)]
    return [points for _, points in sorted(rows, key=lambda r: r[0])]


def _sheet(plan: Plan, side: Side) -> _Sheet | None:
    from shapely.geometry import Polygon

    shapes = _outlines(plan.sections, side)
    if not shapes:
        return None
    xs, ys = [x for s in shapes for x, _ in s], [y for s in shapes for _, y in s]
    origin = (MARGIN_MM - min(xs), MARGIN_MM - min(ys))
    long_mm = max(max(xs) - min(xs), max(ys) - min(ys))
    marks = []
    for k, points in enumerate(shapes):
        marks.append(
            f'<path d="{_path(points, origin, True)}" fill="{TONES[k % len(TONES)]}" stroke="{INK}" stroke-width="0.5"/>'
        )
        polygon = Polygon(points).buffer(0)
        thin = " ".join(_path(run, origin, False) for run in _details(polygon, long_mm))
        if thin:
            marks.append(f'<path d="{thin}" fill="none" stroke="{THIN}" stroke-width="0.22"/>')
    width, height = max(xs) - min(xs) + 2 * MARGIN_MM, max(ys) - min(ys) + 2 * MARGIN_MM
    return _Sheet(origin, width, height, tuple(marks))


def drawn(plan: Plan) -> tuple[Plan, dict[str, bytes]]:
    """A plan with a drawing behind each of its views that shows anything, true to scale; and the pictures by name."""
    views: list[View] = []
    pictures: dict[str, bytes] = {}
    for view in plan.views:
        sheet = _sheet(plan, view.side)
        if sheet is None:
            views.append(view)
            continue
        name = f"{view.side}.svg"
        size = f'width="{sheet.width:.2f}mm" height="{sheet.height:.2f}mm" viewBox="0 0 {sheet.width:.2f} {sheet.height:.2f}"'
        body = "\n".join(sheet.marks)
        pictures[name] = f'<svg xmlns="http://www.w3.org/2000/svg" {size}>\n{body}\n</svg>\n'.encode()
        origin = (round(sheet.origin[0], 4), round(sheet.origin[1], 4))
        views.append(copy_unchecked(view, drawing=Drawing(picture=name, mm_per_unit=1.0, origin=origin)))
    return copy_unchecked(plan, views=tuple(views)), pictures
