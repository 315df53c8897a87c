"""From luminance to the screen: the eye's adaptation, a tone curve, sRGB.

Sources
-------
[1] E. Reinhard et al., "Photographic tone reproduction for digital images", ACM TOG 21 (2002): x/(1 + x).
[2] IEC 61966-2-1: sRGB.
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

TABLE_BITS = 16  # exponent and upper mantissa of a non-negative float32


def hull_luminance(lux: float, reflectance: float) -> float:
    """Luminance (cd/m²) of a matt hull in a room of ``lux``: ρ·E/π."""
    return reflectance * lux / math.pi


def middle_luminance(hull_cd_m2: float, exposure_ev: float) -> float:
    """Luminance (cd/m²) shown at half of full scale.

    House model of adaptation: the eye settles between the hull and the dark, so that an unlit hull stays dark
    on the screen from moonlight to workshop light; ``exposure_ev`` shifts it by factors of two.
    """
    return float(20.0 * (hull_cd_m2 + 0.05) ** 0.7 * 2.0**-exposure_ev)


def to_srgb(linear: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """sRGB code value (0–1) of a linear one [2]_."""
    x = np.clip(linear, 0.0, 1.0)
    return np.where(x <= 0.0031308, 12.92 * x, 1.055 * x ** (1 / 2.4) - 0.055)


def screen_table(middle_cd_m2: float) -> npt.NDArray[np.uint8]:
    """Code value (0–255) for every float32 luminance, indexed by ``bits >> 15`` [1]_.

    65,536 entries; a step between neighbours is below 0.4 % of the luminance.
    """
    # The middle of each bucket, so that rounding is even.
    bits = (np.arange(1 << TABLE_BITS, dtype=np.uint32) << np.uint32(15)) + np.uint32(1 << 14)
    with np.errstate(invalid="ignore", over="ignore"):
        value = bits.view(np.float32).astype(float) / middle_cd_m2
        shown = np.where(np.isfinite(value), value / (1.0 + value), 1.0)
    return (to_srgb(np.nan_to_num(shown, nan=1.0)) * 255.0 + 0.5).astype(np.uint8)
