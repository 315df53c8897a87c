"""Whether two lights look alike: brightness and colour against what an eye just notices.

Sources
-------
[1] CIE 1976 uniform chromaticity scale: u' = 4X/(X + 15Y + 3Z), v' = 9Y/(X + 15Y + 3Z).
[2] CIE TN 001:2014: circles in u'v' of radius 0.0011·n stand for n-step ellipses; about three steps are noticed side by side.
[3] Weber's law: two fields that touch differ to the eye from 1 to 2 % on; lights apart, seen one after the other, from about a tenth
    (house value).
"""

from __future__ import annotations

import math

import numpy as np

from gwiazda.core.colour.colour import XYZ_TO_SRGB

STEP_UV = 0.0011
NOTICED_STEPS = 3.0
NOTICED_SHARE = 0.10
Rgb = tuple[float, float, float]


def chromaticity(rgb: Rgb) -> tuple[float, float]:
    """CIE 1976 u', v' of a linear sRGB colour [1]_; equal-energy white for black.

    Parameters
    ----------
    rgb : Rgb
        Linear sRGB.

    Returns
    -------
    tuple[float, float]
        u', v'.
    """
    x, y, z = (float(k) for k in np.linalg.solve(XYZ_TO_SRGB, np.asarray(rgb, dtype=float)))
    below = x + 15.0 * y + 3.0 * z
    if below <= 0.0:
        return 4.0 / 19.0, 9.0 / 19.0
    return 4.0 * x / below, 9.0 * y / below


def colour_steps(a: Rgb, b: Rgb) -> float:
    """How far two colours are apart in steps of 0.0011 in u'v' [2]_.

    Parameters
    ----------
    a : Rgb
        Linear sRGB.
    b : Rgb
        Linear sRGB.

    Returns
    -------
    float
        Number of steps that one just sees.
    """
    (u, v), (p, q) = chromaticity(a), chromaticity(b)
    return math.hypot(u - p, v - q) / STEP_UV


def brighter_by(a: float, b: float) -> float:
    """How much brighter the brighter of two is, as a share of the other; infinite where one is dark and the other isn't.

    Parameters
    ----------
    a : float
        Light of the one, not below zero.
    b : float
        Light of the other, in the same unit.

    Returns
    -------
    float
        Share, 0 for two alike.
    """
    low, high = sorted((a, b))
    if high <= 0.0:
        return 0.0
    return high / low - 1.0 if low > 0.0 else math.inf
