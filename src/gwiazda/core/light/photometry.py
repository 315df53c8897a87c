"""Light from a lamp: beam, flux, intensity, illuminance; and what is done to a lamp's head.

Sources
-------
[1] Lambertian order from the half-intensity angle: any optical wireless text, e.g. J. Kahn, J. Barry,
    "Wireless infrared communications", Proc. IEEE 85 (1997).
[2] S. Karpov, "ABC-model for interpretation of internal quantum efficiency", Opt. Quant. Electron. 47 (2015):
    efficiency peaks between droop (Auger) and non-radiative recombination at small currents; house exponents.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.memo import memoize_by_value

Array = npt.NDArray[np.float64]

FROSTED_CAP_TRANSMITTANCE = 0.76  # house value: a frosted drop over the lens, both faces scattering


@memoize_by_value(256)
def beam_order(beam_deg: float) -> float:
    """Exponent m of I(α) = I0·cos^m α for a full half-intensity angle ``beam_deg`` (degrees, 0 to 180) [1]_.

    Parameters
    ----------
    beam_deg : float
        Full angle between the directions of half intensity, degrees, 0 to 180.

    Returns
    -------
    float
        Exponent m; 1 for 120°.
    """
    return math.log(0.5) / math.log(math.cos(math.radians(beam_deg) / 2))


def beam_flux_lm(axial_cd: float, order: float) -> float:
    """Flux (lm) of I0·cos^m into the front half space: 2π·I0/(m + 1).

    Parameters
    ----------
    axial_cd : float
        Intensity on the axis, cd.
    order : float
        Exponent m of cosᵐ, 0 at the least.

    Returns
    -------
    float
        Luminous flux, lm.
    """
    return 2.0 * math.pi * axial_cd / (order + 1.0)


def beam_profile(order: float, angle_rad: Array) -> Array:
    """Intensity over that on the axis, cos^m α, at angles (rad, any shape); all round for a negative order.

    Parameters
    ----------
    order : float
        Exponent m of cosᵐ; below zero for one that shines evenly all round.
    angle_rad : array
        Angles from the axis, rad, any shape.

    Returns
    -------
    array
        Share of the axial intensity, shape of ``angle_rad``.
    """
    if order < 0:
        return np.ones_like(angle_rad)
    return np.asarray(np.maximum(np.cos(angle_rad), 0.0) ** order)


class Droop(NamedTuple):
    """Light against current: (I/I_rated)^k down to the share ``knee`` of the rated current, ``k_low`` below it [2]_."""

    k: float
    knee: float = 0.0
    k_low: float = 1.0


def relative_light(current_a: Array | float, rated_a: Array | float, droop: Droop) -> Array:
    """Light at a current as a share of that at the rated one [2]_; none in reverse.

    Parameters
    ----------
    current_a, rated_a : arrays or floats that broadcast
        Currents, A.
    droop : Droop

    Returns
    -------
    Array of shares, 1 at the rated current; continuous at the knee.
    """
    share = np.maximum(np.asarray(current_a, dtype=float) / rated_a, 0.0)
    if droop.knee <= 0.0:
        return np.asarray(share**droop.k)
    below = droop.knee**droop.k * (share / droop.knee) ** droop.k_low
    return np.where(share >= droop.knee, share**droop.k, below)


def light_share(current_a: float, rated_a: float, droop: Droop) -> float:
    """``relative_light`` for one current: ten times as fast as an array of one.

    Parameters
    ----------
    current_a : float
        Current, A.
    rated_a : float
        Current at which the light is 1, A.
    droop : Droop
        How the light falls short of the current.

    Returns
    -------
    float
        Light over that at the rated current.
    """
    share = max(current_a / rated_a, 0.0)
    if share >= droop.knee:
        return float(share**droop.k)
    return float(droop.knee**droop.k * (share / droop.knee) ** droop.k_low)


def current_for_light(share: float, rated_a: float, droop: Droop) -> float:
    """Current (A) that gives ``share`` of the light at ``rated_a``; the inverse of ``relative_light``.

    Parameters
    ----------
    share : float
        Light over that at the rated current.
    rated_a : float
        Rated current, A.
    droop : Droop
        How the light falls short of the current.

    Returns
    -------
    float
        Current, A.
    """
    at_knee = droop.knee**droop.k if droop.knee > 0.0 else 0.0
    if share >= at_knee:
        return float(rated_a * share ** (1.0 / droop.k))
    return float(rated_a * droop.knee * (share / at_knee) ** (1.0 / droop.k_low))


def illuminance_lx(
    axial_cd: Array | float, order: Array | float, at_mm: Array, aim: Array, patch_mm: Array, normal: Array
) -> Array:
    """Direct illuminance of small patches: I0·cos^m α·cos β/r².

    Parameters
    ----------
    axial_cd, order : float or arrays that broadcast with the rest
    at_mm, aim : (…, 3) arrays
        Place of the lamp (mm) and its aim (any length above zero).
    patch_mm, normal : (…, 3) arrays
        Places of the patches (mm) and unit normals towards the light.

    Returns
    -------
    (…) array, lx. Zero behind the lamp and behind the patch.
    """
    d = np.asarray(patch_mm, dtype=float) - at_mm
    r2 = np.maximum(np.einsum("...i,...i->...", d, d), 1e-6)
    r = np.sqrt(r2)
    unit_aim = np.asarray(aim, dtype=float)
    unit_aim = unit_aim / np.linalg.norm(unit_aim, axis=-1, keepdims=True)
    cos_a = np.clip(np.einsum("...i,...i->...", d, unit_aim) / r, 0.0, 1.0)
    cos_b = np.clip(-np.einsum("...i,...i->...", d, np.asarray(normal, dtype=float)) / r, 0.0, 1.0)
    return np.asarray(axial_cd * cos_a**order * cos_b / (r2 * 1e-6))


def evenness(luminance: Array) -> tuple[float, int] | None:
    """Darkest over mean of a row (N,), and which is the darkest; None for fewer than two, or no light at all.

    Parameters
    ----------
    luminance : array
        Luminances of a row (N,), cd/m².

    Returns
    -------
    tuple[float, int] or None
        Ratio (0 to 1) and the number of the darkest; or None.
    """
    if len(luminance) < 2 or not float(luminance.mean()) > 0.0:
        return None
    darkest = int(luminance.argmin())
    return float(luminance[darkest] / luminance.mean()), darkest
