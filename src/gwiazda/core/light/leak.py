"""Light through what should be tight: skins, seams, rings around lenses.

Sources
-------
[1] Optical density: D = −log₁₀ T; densities of layers add where they absorb.
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
MOST_COATS = 12


def transmitted(density: Array | float) -> Array:
    """Share of light through an optical density [1]_ (any shape).

    Parameters
    ----------
    density : array or float
        Optical density, any shape.

    Returns
    -------
    array
        Share of light (0 to 1), shape of ``density``.
    """
    return np.asarray(10.0 ** -np.asarray(density, dtype=float))


def density_of(transmittance: float) -> float:
    """Optical density of a share of light let through; 30 for none at all.

    Parameters
    ----------
    transmittance : float
        Share of light let through, 0 to 1.

    Returns
    -------
    float
        Optical density, no unit.
    """
    return -math.log10(max(transmittance, 1e-30))


def leak_luminance(inside_lx: Array | float, density: Array | float) -> Array:
    """Luminance (cd/m²) of a wall's outside, lit from inside with ``inside_lx``: E·10^(−D)/π.

    Parameters
    ----------
    inside_lx : array or float
        Illuminance of the wall's inner face, lx, any shape.
    density : array or float
        Optical density of wall and coats, broadcast against it.

    Returns
    -------
    array
        Luminance of the outer face, cd/m², of the shape they broadcast to.
    """
    return np.asarray(np.asarray(inside_lx) * transmitted(density) / np.pi)


def coats_needed(inside_lx: float, rest_density: float, coat_density: float, visible_cd_m2: float) -> int:
    """Coats that bring a leak below what is seen, over a rest density; 0 when none is needed.

    Parameters
    ----------
    inside_lx : float
        Illuminance of the inner face, lx.
    rest_density : float
        Optical density of what is there already.
    coat_density : float
        Optical density of one coat, above zero.
    visible_cd_m2 : float
        Least luminance that is seen, cd/m².

    Returns
    -------
    int
        Number of coats.

    Raises
    ------
    ValueError
        For a coat that blocks nothing.
    """
    if not coat_density > 0.0:
        raise ValueError("the coat blocks nothing")
    if inside_lx <= 0.0:
        return 0
    need = math.log10(inside_lx / (math.pi * visible_cd_m2)) - rest_density
    return max(0, math.ceil(need / coat_density - 1e-9))


def white_coats_needed(times: float, scatter: float) -> int:
    """Coats of a scattering white that bring a leak down ``times``: (r − 1)/S, at least 0.

    Parameters
    ----------
    times : float
        How many times the leak must be weaker.
    scatter : float
        S of one coat in T = 1/(1 + S·coats), above zero.

    Returns
    -------
    int
        Number of coats.
    """
    return max(0, math.ceil((times - 1.0) / scatter - 1e-9))
