"""Drills for fibres and other holes: metric ones by 0.05 mm, numbered ones, and fractions of an inch.

Sources
-------
[1] ASME B94.11M: diameters of numbered twist drills 80 to 50, mm; fractional ones by 1/64 in.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from fractions import Fraction
from typing import NamedTuple

NUMBERED = (
    .343, .368, .406, .457, .508, .533, .572, .610, .635, .660, .711, .742, .787, .813, .838, .889, .914, .940, .965, .991,
    1.016, 1.041, 1.067, 1.092, 1.181, 1.321, 1.397, 1.511, 1.613, 1.702, 1.778,
)  # fmt: skip
FIRST_NUMBER = 80
METRIC_STEP_MM, METRIC_LEAST_MM = 0.05, 0.20
INCH_MM, PARTS_OF_INCH, WIDEST_INCH = 25.4, 64, 0.5
LOOSE_MM, LOOSE_SHARE = 0.12, 0.06  # so much wider than the hole a drill that isn't metric may be
OVER_MM, OVER_THICK_MM, THICK_MM = 0.05, 0.10, 1.5


class Drill(NamedTuple):
    """The hole wanted (mm), and the drills for it.

    The metric one, the numbered one (0 where none is near), the next fraction of an inch and one's own (empty where none is near).
    """

    hole_mm: float
    metric_mm: float
    number: int
    number_mm: float
    inch: str = ""
    inch_mm: float = 0.0
    own: str = ""
    own_mm: float = 0.0


def loose(hole: float) -> float:
    """How much wider than a hole a drill may be.

    Parameters
    ----------
    hole : float
        Diameter of the hole, mm.

    Returns
    -------
    float
        mm.
    """
    return max(LOOSE_MM, LOOSE_SHARE * hole)


def drill_for(fibre_mm: float, own: Sequence[tuple[str, float]] = ()) -> Drill:
    """Drills for a fibre: a hair over its own size, the next at or above of each kind.

    Parameters
    ----------
    fibre_mm : float
        Outer diameter of the fibre, mm.
    own : sequence of (str, float)
        Drills of one's own: what they are called, and their diameters in mm.

    Returns
    -------
    Drill
        Metric and numbered drill.

    Raises
    ------
    ValueError
        For a size that is not above zero.
    """
    if fibre_mm <= 0:
        raise ValueError("a fibre has a size above zero")
    return drill_of(fibre_mm + (OVER_THICK_MM if fibre_mm >= THICK_MM else OVER_MM), own)


def drill_of(hole: float, own: Sequence[tuple[str, float]] = ()) -> Drill:
    """Drills for a hole of so many mm: the next at or above of each kind.

    Parameters
    ----------
    hole : float
        Diameter of the hole, mm.
    own : sequence of (str, float)
        Drills of one's own: what they are called, and their diameters in mm.

    Returns
    -------
    Drill
        Metric and numbered drill, that in fractions of an inch, and the smallest of one's own that is near.
    """
    metric = max(math.ceil(hole / METRIC_STEP_MM - 1e-9) * METRIC_STEP_MM, METRIC_LEAST_MM)
    k = next((i for i, d in enumerate(NUMBERED) if d >= hole - 1e-9), None)
    parts = max(math.ceil(hole / INCH_MM * PARTS_OF_INCH - 1e-9), 1)
    inch_mm = parts / PARTS_OF_INCH * INCH_MM
    near = inch_mm - hole <= loose(hole) and inch_mm <= WIDEST_INCH * INCH_MM
    inch = (f"{Fraction(parts, PARTS_OF_INCH)} in", round(inch_mm, 3)) if near else ("", 0.0)
    mine = min(((mm, name) for name, mm in own if -1e-9 <= mm - hole <= loose(hole)), default=(0.0, ""))
    if k is None or NUMBERED[k] - hole > LOOSE_MM:
        return Drill(hole, round(metric, 3), 0, 0.0, *inch, mine[1], mine[0])
    return Drill(hole, round(metric, 3), FIRST_NUMBER - k, NUMBERED[k], *inch, mine[1], mine[0])
