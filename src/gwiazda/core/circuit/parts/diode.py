"""A lamp as a diode with series resistance: V(I) = n·Vt·ln(1 + I/Is) + Rs·I.

Sources
-------
[1] W. Shockley, "The theory of p-n junctions", Bell Syst. Tech. J. 28 (1949), with an ohmic series term.
[2] R. Corless, D. Jeffrey, "The Wright omega function", LNCS 2385 (2002).
[3] F. Fritsch, R. Shafer, W. Crowley, "Solution of the transcendental equation w·exp(w) = x",
    Comm. ACM 16 (1973): the fourth-order step.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]

BOLTZMANN_J_PER_K = 1.380649e-23
CHARGE_C = 1.602176634e-19
VT_300K = BOLTZMANN_J_PER_K * 300.0 / CHARGE_C  # 25.852 mV


def parameters_from_points(v20_v: float, v1_v: float, rs_ohm: float, vt: float = VT_300K) -> tuple[float, float]:
    """Ideality factor and saturation current from two data-sheet points.

    Parameters
    ----------
    v20_v, v1_v : float
        Forward voltage (V) at 20 mA and at 1 mA.
    rs_ohm : float
        Slope resistance (Ω) at 20 mA.
    vt : float
        Thermal voltage kT/q (V).

    Returns
    -------
    n, is_a : float
        Ideality factor; saturation current (A).

    Raises
    ------
    ValueError
        When the series resistance leaves no room for a junction between the points.
    """
    n = (v20_v - v1_v - 0.019 * rs_ohm) / (vt * math.log(20.0))
    if not n > 0:
        raise ValueError("the two points and the slope leave no junction voltage")
    return n, 0.020 / math.expm1((v20_v - 0.020 * rs_ohm) / (n * vt))


def forward_voltage(i_a: Array | float, n: float, is_a: float, rs_ohm: float, vt: float = VT_300K) -> Array | float:
    """Forward voltage (V) at current ``i_a`` (A, any shape, ≥ 0) [1]_.

    Parameters
    ----------
    i_a : array or float
        Current, A, any shape, not below zero.
    n : float
        Ideality factor of the chain (of all its dies together), no unit.
    is_a : float
        Saturation current, A.
    rs_ohm : float
        Series resistance, Ω.
    vt : float
        Thermal voltage k·T/q, V.

    Returns
    -------
    array or float
        Forward voltage, V, shape of ``i_a``.
    """
    return n * vt * np.log1p(np.asarray(i_a) / is_a) + rs_ohm * np.asarray(i_a)


class Junction(NamedTuple):
    """A diode by its parameters: ideality, saturation current (A), series resistance (Ω). Several dies side by side count as one larger one."""

    n: float
    is_a: float
    rs_ohm: float

    def volts(self, current_a: float) -> float:
        """Forward voltage (V) at one current (A): ``forward_voltage``, ten times as fast for a single number.

        Parameters
        ----------
        current_a : float
            Current, A, not below zero.

        Returns
        -------
        float
            Forward voltage, V.
        """
        return self.n * VT_300K * math.log1p(current_a / self.is_a) + self.rs_ohm * current_a


def wright_omega(u: Array, guess: Array | None = None) -> Array:
    """Real Wright omega function: the w with w + ln w = u, any shape; relative error below 1e-14 [2]_ [3]_.

    ``guess`` is the answer for a nearby ``u``, where there is one; it saves a step.

    Parameters
    ----------
    u : array
        Any shape.
    guess : array or None
        The answer for a nearby ``u``, of its shape; it saves a step.

    Returns
    -------
    array
        w, shape of ``u``.
    """
    u = np.asarray(u, dtype=float)
    if u.size == 0:
        return u.copy()
    if float(u.min()) > 2.0:
        if guess is None or float(guess.min()) <= 0.0 or float(np.abs(u - guess - np.log(guess)).max()) > 1.0:
            guess = u - (1.0 - 1.0 / u) * np.log(u)
        return _omega_steps(u, guess)
    low = u < -20.0
    x = np.maximum(u, -20.0)
    e = np.exp(np.minimum(x, 1.5))
    w = _omega_steps(x, np.where(x > 1.5, x - np.log(np.maximum(x, 1.0)), e / (1.0 + 0.6 * e)))
    # Far below, w = e^u(1 − e^u + …): two terms are exact to double precision from −20 down.
    e = np.exp(np.minimum(u, -20.0))
    return np.where(low, e * (1.0 - e), w)


def _omega_steps(x: Array, w: Array) -> Array:
    """Fourth-order steps [3]_ until the next one would change nothing."""
    for _ in range(6):
        r = x - w
        r -= np.log(w)
        s = 1.0 + w
        t = s + (2.0 / 3.0) * r
        t *= s
        t += t
        far = float(np.abs(r).max()) > 1e-3
        # w·(1 + r/s·(t − r)/(t − 2r))
        factor = t - r
        factor *= r
        t -= 2.0 * r
        t *= s
        factor /= t
        factor += 1.0
        w = factor * w
        if not far:
            break
        np.maximum(w, 1e-300, out=w)
    return w
