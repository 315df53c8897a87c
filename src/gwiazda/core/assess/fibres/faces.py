"""Dots found in the drawing of a panel's face."""

from __future__ import annotations

from gwiazda.core.errors import PlanError
from gwiazda.core.fibre.panel import MOST_DOTS, Spot, in_rows
from gwiazda.core.plan.outline.svg_clean import svg_size
from gwiazda.core.plan.outline.svg_shapes import closed_shapes

MOST_SHARE = 0.3  # of the picture's width: a larger circle is a dial and no dot


def circles_in(data: bytes) -> tuple[Spot, ...]:
    """The circles of an SVG drawing, as shares of its size.

    Raises
    ------
    PlanError
        Where there is none, or the drawing can't be read.
    """
    size = svg_size(data)
    if size is None or min(size) <= 0:
        raise PlanError("Panel picture", "the drawing has no size", "an SVG with a width and height, or a view box")
    wide, high = size
    out = []
    for s in closed_shapes(data):
        if s.kind == "round" and max(s.width, s.height) < 1.25 * min(s.width, s.height) and s.width < MOST_SHARE * wide:
            out.append(Spot((s.left + s.width / 2) / wide, (s.top + s.height / 2) / high, s.width / wide, ""))
    if not out:
        raise PlanError("Panel picture", "there is no circle in it", "circles, one for each dot")
    if len(out) > MOST_DOTS:
        raise PlanError("Panel picture", f"it has {len(out)} circles", f"up to {MOST_DOTS}")
    return in_rows(tuple(out))
