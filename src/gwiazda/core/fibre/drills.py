"""Drills for fibres and other holes: metric ones by 0.05 mm, and numbered ones.

Sources
-------
[1] ASME B94.11M: diameters of numbered twist drills 80 to 50, mm.
"""

from __future__ import annotations

import math
from typing import NamedTuple

NUMBERED = (
    .343, .368, .406, .457, .508, .533, .572, .610, .635, .660, .711, .742, .787, .813, .838, .889, .914, .940, .965, .991,
    1.016, 1.041, 1.067, 1.092, 1.181, 1.321, 1.397, 1.511, 1.613, 1.702, 1.778,
)  # fmt: skip
FIRST_NUMBER = 80
METRIC_STEP_MM, METRIC_LEAST_MM = 0.05, 0.20
OVER_MM, OVER_THICK_MM, THICK_MM = 0.05, 0.10, 1.5


class Drill(NamedTuple):
    """The hole wanted (mm), the metric drill for it, and the numbered one (0 where none is near)."""

    hole_mm: float
    metric_mm: float
    number: int
    number_mm: float


def drill_for(fibre_mm: float) -> Drill:
    """Drills for a fibre: a hair over its own size, the next at or above of each kind.

    Parameters
    ----------
    fibre_mm : float
        Outer diameter of the fibre, mm.

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
    return drill_of(fibre_mm + (OVER_THICK_MM if fibre_mm >= THICK_MM else OVER_MM))


def drill_of(hole: float) -> Drill:
    """Drills for a hole of so many mm: the next at or above of each kind.

    Parameters
    ----------
    hole : float
        Diameter of the hole, mm.

    Returns
    -------
    Drill
        Metric and numbered drill.
    """
    metric = max(math.ceil(hole / METRIC_STEP_MM - 1e-9) * METRIC_STEP_MM, METRIC_LEAST_MM)
    k = next((i for i, d in enumerate(NUMBERED) if d >= hole - 1e-9), None)
    if k is None or NUMBERED[k] - hole > 0.12:
        return Drill(hole, round(metric, 3), 0, 0.0)
    return Drill(hole, round(metric, 3), FIRST_NUMBER - k, NUMBERED[k])
