"""The nearly closed cavity in one formula: what the solver is checked against, and what a hand reckons with.

Sources
-------
[1] Integrating-sphere theory for a closed diffuse cavity: E = Φ/(A·(1 − ρ̄)); e.g. D. Goebel,
    "Generalized integrating-sphere theory", Appl. Opt. 6 (1967).
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


def cavity_illuminance(flux_lm: float, area_m2: float, mean_reflectance: float) -> float:
    """Mean illuminance (lx) of the walls of a nearly closed cavity [1]_.

    Parameters
    ----------
    flux_lm : float
        Light of the lamps, lm.
    area_m2 : float
        Area of all walls, m².
    mean_reflectance : float
        Area mean of what they throw back, 0 to below 1.

    Returns
    -------
    float
        Illuminance, lx.
    """
    return flux_lm / (area_m2 * (1.0 - mean_reflectance))


def flux_for_illuminance(lux: float, area_m2: float, mean_reflectance: float) -> float:
    """Flux (lm) that brings a nearly closed cavity to ``lux``; the inverse of ``cavity_illuminance``.

    Parameters
    ----------
    lux : float
        Illuminance wanted, lx.
    area_m2 : float
        Area of all walls, m².
    mean_reflectance : float
        Area mean of what they throw back, 0 to below 1.

    Returns
    -------
    float
        Light, lm.
    """
    return lux * area_m2 * (1.0 - mean_reflectance)


def mean_reflectance(box_area_m2: float, lining: float, pane_area_m2: Array, pane_reflectance: Array) -> float:
    """Area mean of the reflectance of a lined box with panes set into its walls.

    Where panes overlap to more than the box, they count as the whole of it.

    Parameters
    ----------
    box_area_m2 : float
        Inner area of the box, m².
    lining : float
        Reflectance of its lining, 0 to 1.
    pane_area_m2 : array
        Area of each pane (W,), m².
    pane_reflectance : array
        Reflectance of each pane (W,), 0 to 1.

    Returns
    -------
    float
        Reflectance, 0 to 1.
    """
    panes = float(np.sum(pane_area_m2))
    if panes <= 0.0:
        return lining
    share = min(panes / box_area_m2, 1.0)
    return lining * (1.0 - share) + share * float(np.sum(pane_area_m2 * pane_reflectance)) / panes
