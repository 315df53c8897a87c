"""From points of a data sheet's curve to the parameters of a diode.

Sources
-------
[1] V(I) = n·Vt·ln(1 + I/Is) + Rs·I, as in ``diode``; far above Is it is linear in n·Vt, n·Vt·ln Is and Rs.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.circuit.parts.diode import VT_300K
from gwiazda.core.errors import PlanError
from gwiazda.core.quantities import figure


class Fit(NamedTuple):
    """Parameters, and how far (V, root mean square) the curve passes from the points."""

    n: float
    is_a: float
    rs_ohm: float
    miss_v: float

    def volts(self, current_a: float) -> float:
        """Forward voltage (V) at a current (A).

        Parameters
        ----------
        current_a : float
            Current, A, above zero.

        Returns
        -------
        float
            Forward voltage, V.
        """
        return self.n * VT_300K * math.log1p(current_a / self.is_a) + self.rs_ohm * current_a


def fit_points(points: Sequence[tuple[float, float]], rs_ohm: float = 5.0) -> Fit:
    """Least-squares fit of [1]_ to points (current A, forward voltage V).

    Two points leave the series resistance open, and ``rs_ohm`` is taken for it; from three on it is fitted, never
    below zero.

    Parameters
    ----------
    points : Sequence[tuple[float, float]]
        Pairs of current (A) and forward voltage (V), two at the least.
    rs_ohm : float
        Series resistance taken where two points leave it open, Ω.

    Returns
    -------
    Fit
        The fitted diode.

    Raises
    ------
    PlanError
        When the points make no diode.
    """
    from scipy.optimize import lsq_linear

    accepted = "two points or more, the voltage rising with the current, such as 1 mA 2.65 V, 20 mA 3.1 V"
    points = sorted(points)
    current, volts = np.array([p[0] for p in points]), np.array([p[1] for p in points])
    if len(points) < 2 or len(set(current.tolist())) < 2:
        raise PlanError("Data sheet", f"{len(points)} different points", accepted)
    if not (np.isfinite(current).all() and np.isfinite(volts).all() and (current > 0).all() and (volts > 0).all()):
        raise PlanError("Data sheet", "a point is not above zero", accepted)
    if not (np.diff(volts) > 0).all():
        raise PlanError("Data sheet", "the voltage doesn't rise with the current", accepted)
    log = np.log(current)
    if len(points) == 2:
        left = volts - rs_ohm * current
        slope = (left[1] - left[0]) / (log[1] - log[0])
        offset, rs = left[0] - slope * log[0], rs_ohm
    else:
        columns = np.column_stack([log, np.ones_like(log), current])
        slope, offset, rs = lsq_linear(columns, volts, bounds=([1e-6, -np.inf, 0.0], np.inf)).x
    if not slope > 1e-4:
        raise PlanError("Data sheet", f"{figure(rs)} Ω in series leave no junction between the points", accepted)
    found = Fit(float(slope / VT_300K), float(math.exp(-offset / slope)), float(rs), 0.0)
    miss = np.array([found.volts(float(i)) for i in current]) - volts
    return found._replace(miss_v=float(np.sqrt(np.mean(miss**2))))
