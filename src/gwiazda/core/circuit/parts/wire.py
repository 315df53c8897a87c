"""Round copper wire by its gauge: size, resistance, and what it may carry.

Sources
-------
[1] ASTM B258: diameters of American wire gauges.
[2] IEC 60028: resistivity of annealed copper at 20 °C.
"""

from __future__ import annotations

import math

RESISTIVITY_OHM_M = 1.724e-8
BUNDLED_A_MM2 = 5.0  # in a bundle or a closed model; twice that lying free


def diameter_mm(awg: int) -> float:
    """Bare diameter (mm) of a gauge [1].

    Parameters
    ----------
    awg : int
        Gauge; −1 is 2/0, −2 is 3/0.

    Returns
    -------
    float
        Bare diameter, mm.
    """
    return float(0.127 * 92.0 ** ((36 - awg) / 39.0))


def area_mm2(awg: int) -> float:
    """Cross-section (mm²) of a gauge.

    Parameters
    ----------
    awg : int
        Gauge.

    Returns
    -------
    float
        Cross-section of the metal, mm².
    """
    return math.pi * diameter_mm(awg) ** 2 / 4.0


def ohm_per_m(awg: int) -> float:
    """Resistance (Ω/m) at 20 °C [2].

    Parameters
    ----------
    awg : int
        Gauge.

    Returns
    -------
    float
        Resistance of one metre of copper at 20 °C, Ω/m.
    """
    return RESISTIVITY_OHM_M / (area_mm2(awg) * 1e-6)


def limit_a(awg: int, free: bool = False) -> float:
    """Current (A) a gauge may carry, bundled or lying ``free``.

    Parameters
    ----------
    awg : int
        Gauge.
    free : bool
        Whether it lies free in air, not in a bundle.

    Returns
    -------
    float
        Current, A.
    """
    return area_mm2(awg) * BUNDLED_A_MM2 * (2.0 if free else 1.0)
