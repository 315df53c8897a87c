"""How a source holds out: time from depth of discharge, and adapters under load.

Sources
-------
[1] Rate-dependent capacity C(I) = C0/(1 + I/I50): house form of the usual rate curves in cell data sheets.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from gwiazda.core.quantities import YEAR_H

Array = npt.NDArray[np.float64]

DARK_SHARE = 0.5  # of the first light; below it the model counts as run down


def capacity_ah(current_a: Array | float, capacity0_ah: float, i50_a: float) -> Array:
    """Capacity (Ah) that can be drawn at ``current_a`` (A) [1]_.

    Parameters
    ----------
    current_a : array or float
        Current drawn, A, any shape.
    capacity0_ah : float
        Capacity at a current of next to nothing, Ah.
    i50_a : float
        Current at which half of it is left, A.

    Returns
    -------
    array
        Capacity, Ah, shape of ``current_a``.
    """
    return np.asarray(capacity0_ah / (1.0 + np.asarray(current_a) / i50_a))


def hours_at_depth(
    depth: Array, current_a: Array, capacity0_ah: float, i50_a: float, lost_a_year: float = 0.0
) -> Array:
    """Time (h) until each depth of discharge, from the current drawn there.

    Parameters
    ----------
    depth, current_a : (N,) arrays
        Of discharge, 0 to 1; A drawn there.
    capacity0_ah, i50_a : float
        As of ``capacity_ah``.
    lost_a_year : float
        Share that a cell loses by itself in a year.

    Returns
    -------
    (N,) array
        From 0 on: dD/dt = I/C(I) + what it loses by itself, by the trapezoid rule. Infinite from where neither is.
    """
    current = np.maximum(current_a, 1e-15)
    rate = 1.0 / (current / capacity_ah(current, capacity0_ah, i50_a) + lost_a_year / YEAR_H)
    steps = 0.5 * (rate[1:] + rate[:-1]) * np.diff(depth)
    hours = np.concatenate([[0.0], np.cumsum(steps)])
    return np.where(hours > 1e9, np.inf, hours)


def first_crossing(hours: Array, values: Array, limit: float) -> float:
    """Hour at which ``values`` first falls below ``limit`` (linear between points); inf when it doesn't.

    Parameters
    ----------
    hours : array
        Moments (N,), h, rising.
    values : array
        What is watched (N,).
    limit : float
        The value it must not fall below, in the unit of ``values``.

    Returns
    -------
    float
        Hour of the first crossing, h; inf for none.
    """
    below = np.flatnonzero(values < limit)
    if not len(below):
        return float("inf")
    i = int(below[0])
    if i == 0:
        return float(hours[0])
    a, b = values[i - 1], values[i]
    if not np.isfinite(hours[i]):
        return float("inf")  # next to nothing is drawn
    t = (a - limit) / (a - b)
    return float(hours[i - 1] + t * (hours[i] - hours[i - 1]))


def unregulated(nominal_v: float, rated_a: float) -> tuple[float, float]:
    """EMF (V) and resistance (Ω) of an unregulated adapter: 1.4 × nominal at no load, nominal at rated current.

    Parameters
    ----------
    nominal_v : float
        Voltage on its label, V.
    rated_a : float
        Current on its label, A.

    Returns
    -------
    tuple[float, float]
        EMF, V, and resistance, Ω.
    """
    return 1.4 * nominal_v, 0.4 * nominal_v / rated_a
