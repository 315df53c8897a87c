"""From luminance to the screen: the eye's adaptation, a tone curve, sRGB.

Sources
-------
[1] E. Reinhard et al., "Photographic tone reproduction for digital images", ACM TOG 21 (2002): x/(1 + x).
    On the luminance alone; a curve on each channel would turn amber yellow and blue cyan.
[2] IEC 61966-2-1: sRGB.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.memo import memoize, same_value

TABLE_BITS = 16  # exponent and upper mantissa of a non-negative float32


def hull_luminance(lux: float, reflectance: float) -> float:
    """Luminance (cd/m²) of a matt hull in a room of ``lux``: ρ·E/π.

    Parameters
    ----------
    lux : float
        Illuminance of the room, lx.
    reflectance : float
        Of the hull, 0 to 1.

    Returns
    -------
    float
        Luminance, cd/m².
    """
    return reflectance * lux / math.pi


def middle_luminance(hull_cd_m2: float, exposure_ev: float) -> float:
    """Luminance (cd/m²) shown at half of full scale.

    House model of adaptation: the eye settles between the hull and the dark, so that an unlit hull stays dark
    on the screen from moonlight to workshop light; ``exposure_ev`` shifts it by factors of two.

    Parameters
    ----------
    hull_cd_m2 : float
        Luminance of the hull, cd/m².
    exposure_ev : float
        Powers of two by which the picture is brighter.

    Returns
    -------
    float
        Luminance, cd/m².
    """
    return float(20.0 * (hull_cd_m2 + 0.05) ** 0.7 * 2.0**-exposure_ev)


def to_srgb(linear: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """SRGB code value (0–1) of a linear one [2]_.

    Parameters
    ----------
    linear : array
        Linear values, 0 to 1, any shape.

    Returns
    -------
    array
        Code values, 0 to 1, of that shape.
    """
    x = np.clip(linear, 0.0, 1.0)
    return np.where(x <= 0.0031308, 12.92 * x, 1.055 * x ** (1 / 2.4) - 0.055)


def from_srgb(code: npt.NDArray[Any]) -> npt.NDArray[np.float64]:
    """Linear value (0–1) of an sRGB code value (0–1) [2]_.

    Parameters
    ----------
    code : array
        Code values, 0 to 1, any shape.

    Returns
    -------
    array
        Linear values, 0 to 1, of that shape.
    """
    return np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)


class ScreenTable(NamedTuple):
    """Two tables indexed by the upper bits of a float32 (``bits >> 15``), 65,536 entries each.

    ``scale``: what a luminance (cd/m²) is multiplied with to be shown, 0 to 1 of full scale; ``code``: the sRGB code value
    (0–255) of a linear one. A step between neighbours is below 0.4 %.
    """

    scale: npt.NDArray[np.float32]
    code: npt.NDArray[np.uint8]


@memoize(slots=8, same=same_value)
def screen_table(middle_cd_m2: float) -> ScreenTable:
    """The tone curve [1]_, on the luminance: colours are scaled with it, so their hue stays.

    Parameters
    ----------
    middle_cd_m2 : float
        Luminance shown at half of full scale, cd/m².

    Returns
    -------
    ScreenTable
        Factor and code value by luminance.
    """
    # The middle of each bucket, so that rounding is even.
    bits = (np.arange(1 << TABLE_BITS, dtype=np.uint32) << np.uint32(15)) + np.uint32(1 << 14)
    with np.errstate(invalid="ignore", over="ignore"):
        value = bits.view(np.float32).astype(float)
        scale = np.where(np.isfinite(value), 1.0 / (value + middle_cd_m2), 0.0)
        code = to_srgb(np.where(np.isfinite(value), value, 1.0)) * 255.0 + 0.5
    return ScreenTable(np.nan_to_num(scale).astype(np.float32), code.astype(np.uint8))


def into_gamut(rgb: npt.NDArray[np.float32], luminance: npt.NDArray[np.float32]) -> None:
    """Mix what is brighter than the screen in one colour with white of its luminance, in place: (3, …) and (…).

    Parameters
    ----------
    rgb : array
        Linear sRGB (3, …), 1 for full scale, written to.
    luminance : array
        Luminance of each (…), 1 for full scale.
    """
    most = rgb.max(axis=0)
    over = most > 1.0
    if over.any():
        y = np.minimum(luminance[over], np.float32(1.0))
        rgb[:, over] = y + (rgb[:, over] - y) * ((1.0 - y) / np.maximum(most[over] - y, 1e-12))
