"""Light through what should be tight: skins, seams, rings around lenses; and whether anyone would see it.

Sources
-------
[1] Optical density: D = −log₁₀ T; densities of layers add.
[2] H. Blackwell, "Contrast thresholds of the human eye", JOSA 36 (1946), with a field factor: seen from 3 % of the
    surroundings on, of a dark surrounding from 0.05 cd/m² · 3 % on.
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]

CONTRAST, DARK_CD_M2 = 0.03, 0.05
BLUR_ARCMIN = 1.0  # a line narrower than this looks as wide, and fainter by as much
MOST_COATS = 12


def transmitted(density: Array | float) -> Array:
    """Share of light through an optical density [1]_."""
    return np.asarray(10.0 ** -np.asarray(density, dtype=float))


def leak_luminance(inside_lx: Array | float, density: Array | float) -> Array:
    """Luminance (cd/m²) of a wall's outside, lit from inside with ``inside_lx``: E·10^(−D)/π."""
    return np.asarray(np.asarray(inside_lx) * transmitted(density) / np.pi)


def visible_luminance(hull_cd_m2: float) -> float:
    """The least luminance (cd/m²) that shows on a hull of luminance ``hull_cd_m2`` [2]_."""
    return CONTRAST * (hull_cd_m2 + DARK_CD_M2)


def line_factor(width_mm: float, distance_m: float) -> float:
    """What a thin bright line loses to the eye's blur: its width over that of ``BLUR_ARCMIN``, at most 1."""
    blur_mm = math.tan(math.radians(BLUR_ARCMIN / 60.0)) * distance_m * 1e3
    return min(width_mm / blur_mm, 1.0)


def coats_needed(inside_lx: float, rest_density: float, coat_density: float, visible_cd_m2: float) -> int:
    """Coats that bring a leak below what is seen, over a rest density; 0 when none is needed.

    Raises ValueError for a coat that blocks nothing.
    """
    if not coat_density > 0.0:
        raise ValueError("the coat blocks nothing")
    if inside_lx <= 0.0:
        return 0
    need = math.log10(inside_lx / (math.pi * visible_cd_m2)) - rest_density
    return max(0, math.ceil(need / coat_density - 1e-9))
