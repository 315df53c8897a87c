"""Inside of a section: how bright each window gets for each lumen of each lamp.

Until the radiosity solver comes (behind the same function), the mean follows the formula of a nearly closed
cavity, and the spread between windows an estimate: the direct light of each lamp at each window plus an even
bounce. Nothing shades anything.

Sources
-------
[1] Integrating-sphere theory for a closed diffuse cavity: E = Φ/(A·(1 − ρ̄)); e.g. D. Goebel,
    "Generalized integrating-sphere theory", Appl. Opt. 6 (1967).
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from gwiazda.core.light.photometry import illuminance_lx

Array = npt.NDArray[np.float64]


def cavity_illuminance(flux_lm: float, area_m2: float, mean_reflectance: float) -> float:
    """Mean illuminance (lx) of the walls of a nearly closed cavity [1]_."""
    return flux_lm / (area_m2 * (1.0 - mean_reflectance))


def flux_for_illuminance(lux: float, area_m2: float, mean_reflectance: float) -> float:
    """Flux (lm) that brings a nearly closed cavity to ``lux``; the inverse of ``cavity_illuminance``."""
    return lux * area_m2 * (1.0 - mean_reflectance)


def mean_reflectance(box_area_m2: float, lining: float, pane_area_m2: Array, pane_reflectance: Array) -> float:
    """Area mean of the reflectance of a lined box with panes set into its walls.

    Where panes overlap to more than the box, they count as the whole of it.
    """
    panes = float(np.sum(pane_area_m2))
    if panes <= 0.0:
        return lining
    share = min(panes / box_area_m2, 1.0)
    return lining * (1.0 - share) + share * float(np.sum(pane_area_m2 * pane_reflectance)) / panes


def window_illuminance_per_lumen(
    area_m2: float,
    rho: float,
    pane_mm: Array,
    pane_normal: Array,
    pane_area_m2: Array,
    lamp_mm: Array,
    lamp_aim: Array,
    lamp_order: Array,
) -> Array:
    """Illuminance (lx) of each window for 1 lm of each lamp.

    Parameters
    ----------
    area_m2, rho : float
        Inner area of the box and its mean reflectance.
    pane_mm, pane_normal : (W, 3) arrays
        Centres of the windows (mm), unit normals into the box.
    pane_area_m2 : (W,) array
        Weight of each window in the mean.
    lamp_mm, lamp_aim : (L, 3) arrays; lamp_order : (L,) array
        A negative order stands for light all round (a frosted cap).

    Returns
    -------
    (W, L) array. Its area-weighted mean over the windows is the cavity formula for every lamp; the spread is an
    estimate (see the module).
    """
    windows, lamps = len(pane_mm), len(lamp_mm)
    mean = cavity_illuminance(1.0, area_m2, rho)
    if not windows or not lamps:
        return np.zeros((windows, lamps))
    forward = np.maximum(lamp_order, 0.0)
    axial = np.where(lamp_order < 0, 1.0 / (4.0 * np.pi), (forward + 1.0) / (2.0 * np.pi))
    direct = illuminance_lx(axial, forward, lamp_mm[None], lamp_aim[None], pane_mm[:, None], pane_normal[:, None])
    if (lamp_order < 0).any():
        back = illuminance_lx(axial, forward, lamp_mm[None], -lamp_aim[None], pane_mm[:, None], pane_normal[:, None])
        direct = np.where(lamp_order < 0, direct + back, direct)
    shape = direct + rho * mean
    weight = pane_area_m2 / pane_area_m2.sum() if pane_area_m2.sum() > 0 else np.full(windows, 1.0 / windows)
    centre = weight @ shape
    return mean * shape / np.where(centre > 0, centre, 1.0)
