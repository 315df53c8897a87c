"""Layers of paint and plastic: what goes through and what comes back, in what scatters and in what absorbs.

Sources
-------
[1] P. Kubelka, F. Munk, "Ein Beitrag zur Optik der Farbanstriche", Z. techn. Phys. 12 (1931).
[2] G. Stokes (1862): two layers with reflections between them, T = T₁T₂/(1 − R₁R₂).
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import NamedTuple


class Film(NamedTuple):
    """A layer: shares of diffuse light through and back (alike from both sides), and whether it scatters.

    ``sigma`` is the standard deviation of log₁₀ T, from how far such a layer strays from its typical value.
    """

    transmittance: float
    reflectance: float
    scatters: bool
    sigma: float = 0.0


def kubelka_munk(scatter: float, absorb: float, thickness: float) -> tuple[float, float]:
    """Transmittance and reflectance of a scattering layer [1]_.

    Parameters
    ----------
    scatter, absorb : float
        S and K for each unit of thickness (a coat, a mm); S above 0.
    thickness : float
        In that unit, from 0 on.

    Returns
    -------
    T, R : float
        Shares of diffuse light; T + R is 1 where K is 0, and less where it isn't.
    """
    if thickness <= 0.0:
        return 1.0, 0.0
    a = 1.0 + absorb / scatter
    b = math.sqrt(a * a - 1.0)
    x = b * scatter * thickness
    if x < 1e-9:
        sd = scatter * thickness
        return 1.0 / (1.0 + sd), sd / (1.0 + sd)
    if x > 300.0:
        return 0.0, 1.0 / (a + b)
    below = a * math.sinh(x) + b * math.cosh(x)
    return b / below, math.sinh(x) / below


def over(front: tuple[float, float], back: tuple[float, float]) -> tuple[float, float]:
    """One layer before another, reflections between them counted [2]_: T of both, R seen from the first's side.

    Parameters
    ----------
    front : tuple[float, float]
        T and R (shares, 0 to 1) of the layer in front.
    back : tuple[float, float]
        T and R of the one behind.

    Returns
    -------
    tuple[float, float]
        T and R of both together.
    """
    t1, r1 = front
    t2, r2 = back
    between = 1.0 - r1 * r2
    return t1 * t2 / between, r1 + t1 * t1 * r2 / between


def through(films: Iterable[Film]) -> float:
    """Share of light through layers in order, with what goes to and fro between them [2]_.

    Between two that throw little back (black on dark plastic) densities as good as add; a white lining on light plastic
    lets through nearly twice as much as that.

    Parameters
    ----------
    films : Iterable[Film]
        Layers in the order the light meets them.

    Returns
    -------
    float
        Share, 0 to 1.
    """
    stacked = (1.0, 0.0)
    for film in films:
        # From the far side: what the layers so far throw back into the new one counts.
        t, r = film.transmittance, film.reflectance
        between = 1.0 - stacked[1] * r
        stacked = (stacked[0] * t / between, r + t * t * stacked[1] / between)
    return stacked[0]


def backed(front: Film, behind: float) -> float:
    """Reflectance of a layer with something of reflectance ``behind`` under it: R + T²·R_b/(1 − R·R_b) [2]_.

    Parameters
    ----------
    front : Film
        The layer in front.
    behind : float
        Reflectance of what lies behind, 0 to 1.

    Returns
    -------
    float
        Reflectance of both, 0 to 1.
    """
    return over(front[:2], (0.0, behind))[1]
