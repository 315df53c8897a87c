"""Which way an opening really faces: its side, turned with its section's outline at that place.

A window in a slanted front or a rounded bow is on one side in the plan; seen from another side it shows as much of itself as the skin is
turned there.
"""

from __future__ import annotations

import itertools
import math
from typing import NamedTuple

from gwiazda.core.memo import memoize
from gwiazda.core.plan.frame import NORMALS, PLANES, Side
from gwiazda.core.plan.model import Opening, Section

STEEPEST = 4.0  # of the skin against the side's own plane: beyond, it is another side's
SHOWN_FROM = 0.03  # of a pane's size: less is a line
VIEW_OF = {frozenset({0, 2}): "port", frozenset({0, 1}): "top", frozenset({1, 2}): "bow"}
Vector = tuple[float, float, float]


class Facing(NamedTuple):
    """``normal`` of the skin at an opening, outward, of length 1; ``across`` and ``up`` are its two directions along the skin for a mm
    each of the side's own view."""

    normal: Vector
    across: Vector
    up: Vector


def skin_at(section: Section, at: Vector, depth: int, along: int, outward: int) -> tuple[float, float] | None:
    """Where the skin lies along one axis (mm) at a place of another, and how far it goes along that for a mm along the other.

    From the outline that shows both axes; the outermost of its edges there. None where none does, or it doesn't reach so far.
    """
    view = VIEW_OF[frozenset({depth, along})]
    found: tuple[float, float] | None = None
    for outline in (x for x in section.outlines if x.side == view):
        h, _, _ = PLANES[outline.side]
        a, d = (0, 1) if h == along else (1, 0)
        place = at[along]
        for p, q in itertools.pairwise((*outline.points, outline.points[0])):
            low, high = sorted((p[a], q[a]))
            if high - low < 1e-9 or not low <= place <= high:
                continue
            slope = (q[d] - p[d]) / (q[a] - p[a])
            reached = p[d] + (place - p[a]) * slope
            if found is None or reached * outward > found[0] * outward:
                found = reached, slope
    return found


def _slope(section: Section, at: Vector, depth: int, along: int, outward: int) -> float:
    """How far the skin goes along ``depth`` for a mm along another axis; 0 where no outline shows it."""
    found = skin_at(section, at, depth, along, outward)
    return max(-STEEPEST, min(found[1], STEEPEST)) if found is not None else 0.0


def tilt_deg(section: Section, side: Side, at: Vector) -> float:
    """How far the skin of a side is turned from it at a place, degrees."""
    h, v, d = PLANES[side]
    outward = NORMALS[side][d]
    return math.degrees(math.atan(math.hypot(*(_slope(section, at, d, along, outward) for along in (h, v)))))


@memoize(slots=2, by=lambda section, o: o.id, places=65_536)
def facing_of(section: Section, o: Opening) -> Facing:
    """Which way an opening faces."""
    h, v, d = PLANES[o.side]
    outward = NORMALS[o.side][d]
    across, up, normal = [0.0] * 3, [0.0] * 3, [0.0] * 3
    first, second = _slope(section, o.at, d, h, outward), _slope(section, o.at, d, v, outward)
    across[h], across[d] = 1.0, first
    up[v], up[d] = 1.0, second
    normal[d], normal[h], normal[v] = outward * 1.0, -outward * first, -outward * second
    length = sum(n * n for n in normal) ** 0.5
    return Facing(
        (normal[0] / length, normal[1] / length, normal[2] / length),
        (across[0], across[1], across[2]),
        (up[0], up[1], up[2]),
    )


class Seen(NamedTuple):
    """An opening as a view shows it: its half size along the view's two axes (mm), and its area there (mm²)."""

    half_h: float
    half_v: float
    area_mm2: float


def seen_from(section: Section, o: Opening, side: Side) -> Seen | None:
    """How an opening looks from a side it isn't on; None where it is turned away or edge-on."""
    facing = facing_of(section, o)
    toward = sum(a * b for a, b in zip(facing.normal, NORMALS[side], strict=True))
    h, v, _ = PLANES[side]
    if toward <= 1e-6:
        return None
    half = [(o.width_mm * abs(facing.across[k]) + o.height_mm * abs(facing.up[k])) / 2 for k in (h, v)]
    # Of the parallelogram that a mm across and a mm up span, what faces that way.
    turned = abs(facing.across[h] * facing.up[v] - facing.across[v] * facing.up[h])
    area = o.area_mm2 * turned
    if turned < SHOWN_FROM or min(half) <= 0.0:
        return None
    return Seen(half[0], half[1], area)
