"""Elements that couple several nodes, or bend in their own way: a linear regulator, a bipolar transistor, a motor.

They can't fold into branches. Each gives the currents that enter it at its terminals, and how these change with the
voltages there; Newton adds them to the equations of the nodes.

Sources
-------
[1] J. J. Ebers, J. L. Moll, "Large-signal behavior of junction transistors", Proc. IRE 42 (1954): transport form.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.circuit.parts.motor import Motor, ramp

Array = npt.NDArray[np.float64]

STEEPEST_A = 1e3  # junctions go on as straight lines from here: no overflow on the way, no current is as large
WAKES_V = 1.0  # a regulator's own current is full from here on


class Regulator(NamedTuple):
    """Linear regulator from ``vin`` to ``vout`` against ``gnd``; its current counts out of ``vout``.

    ``volts`` is what it holds (V), or input less ``dropout_v`` where that is lower; ``ohms`` is its output resistance
    (Ω, above zero); ``quiescent_a`` (A) runs from ``vin`` to ``gnd``. It sends current out and takes none in.
    """

    id: str
    vin: str
    vout: str
    gnd: str
    volts: float
    dropout_v: float = 2.0
    quiescent_a: float = 0.005
    ohms: float = 0.05

    @property
    def terminals(self) -> tuple[str, ...]:
        """Its nodes, in the order of ``stamp``."""
        return self.vin, self.vout, self.gnd

    def values_ok(self) -> str:
        """Empty, or which values are accepted."""
        ok = self.volts > 0 and self.ohms > 0 and self.dropout_v >= 0 and self.quiescent_a >= 0
        return "" if ok else "volts and ohms above zero, dropout and own current not below"

    def stamp(
        self, at: Array, vt: float, volts: Array, ohms: Array, n: Array, is_a: Array, soft_v: float = 0.0
    ) -> tuple[Array, Array]:
        """Currents (A) into the terminals, (S, 3), and their slopes (A/V) by the voltages there, (S, 3, 3).

        ``at``: (S, 3) array, V. The element's values are (S,) or (1,) arrays. Its bends (into dropout, to nothing sent)
        are rounded over ``soft_v`` (V): Newton finds its way round them with it where it can't without.

        Parameters
        ----------
        at : array
            Voltages at its terminals (S, 3), V.
        vt : float
            Thermal voltage, V (not used).
        volts : array
            Voltage it holds (S,) or (1,), V.
        ohms : array
            Output resistance (S,) or (1,), Ω.
        n : array
            Ideality (S,) or (1,) (not used).
        is_a : array
            Saturation current (S,) or (1,), A (not used).
        soft_v : float
            Over how many volts its bends are rounded, V.

        Returns
        -------
        tuple[array, array]
            Currents into the terminals (S, 3), A, and their slopes (S, 3, 3), A/V.
        """
        vin, vout = at[:, 0] - at[:, 2], at[:, 1] - at[:, 2]
        # Held: the lesser of what it is set to and what comes in less the dropout, at least nothing.
        over, over_slope = ramp(volts - (vin - self.dropout_v), soft_v)
        held, held_slope = ramp(volts - over, soft_v)
        follows = held_slope * over_slope
        sent, sent_slope = ramp(held - vout, soft_v)
        out = sent / ohms
        by_in, by_out = sent_slope * follows / ohms, -sent_slope / ohms
        own = self.quiescent_a * np.clip(vin / WAKES_V, 0.0, 1.0)
        own_by_in = np.where((vin > 0) & (vin < WAKES_V), self.quiescent_a / WAKES_V, 0.0)
        currents = np.stack([out + own, -out, -own], axis=1)
        slopes = np.zeros((len(at), 3, 3))
        slopes[:, 0, 0], slopes[:, 0, 1] = by_in + own_by_in, by_out
        slopes[:, 1, 0], slopes[:, 1, 1] = -by_in, -by_out
        slopes[:, 2, 0] = -own_by_in
        slopes[:, :, 2] = -slopes[:, :, 0] - slopes[:, :, 1]  # only differences of voltage count
        return currents, slopes

    @staticmethod
    def own_current(currents: Array) -> Array:
        """(S,) current of the element, from (S, 3) currents into its terminals.

        Parameters
        ----------
        currents : array
            Currents into its terminals (S, 3), A.

        Returns
        -------
        array
            Current through it (S,), A.
        """
        return -currents[:, 1]


class Transistor(NamedTuple):
    """NPN transistor (Ebers and Moll, transport form [1]); its current counts into the collector.

    ``n`` is the ideality, ``is_a`` the saturation current (A), ``beta`` and ``beta_reverse`` the current gains.
    """

    id: str
    collector: str
    base: str
    emitter: str
    is_a: float = 1e-14
    n: float = 1.0
    beta: float = 150.0
    beta_reverse: float = 4.0

    @property
    def terminals(self) -> tuple[str, ...]:
        """Its nodes, in the order of ``stamp``."""
        return self.collector, self.base, self.emitter

    def values_ok(self) -> str:
        """Empty, or which values are accepted."""
        ok = self.is_a > 0 and self.n > 0 and self.beta > 0 and self.beta_reverse > 0
        return "" if ok else "is, n and both gains above zero"

    def stamp(
        self, at: Array, vt: float, volts: Array, ohms: Array, n: Array, is_a: Array, soft_v: float = 0.0
    ) -> tuple[Array, Array]:
        """As of a regulator: (S, 3) currents into collector, base and emitter, and their (S, 3, 3) slopes.

        Parameters
        ----------
        at : array
            Voltages at collector, base and emitter (S, 3), V.
        vt : float
            Thermal voltage, V.
        volts : array
            Not used.
        ohms : array
            Not used.
        n : array
            Ideality of its junctions (S,) or (1,).
        is_a : array
            Saturation current of its junctions (S,) or (1,), A.
        soft_v : float
            Not used: its bends are smooth.

        Returns
        -------
        tuple[array, array]
            Currents into the terminals (S, 3), A, and their slopes (S, 3, 3), A/V.
        """
        scale = n * vt
        forward, g_forward = _junction((at[:, 1] - at[:, 2]) / scale, is_a)
        backward, g_backward = _junction((at[:, 1] - at[:, 0]) / scale, is_a)
        g_forward, g_backward = g_forward / scale, g_backward / scale
        collector = forward - backward * (1.0 + 1.0 / self.beta_reverse)
        base = forward / self.beta + backward / self.beta_reverse
        slopes = np.zeros((len(at), 3, 3))
        slopes[:, 0, 0] = g_backward * (1.0 + 1.0 / self.beta_reverse)
        slopes[:, 0, 2] = -g_forward
        slopes[:, 1, 0], slopes[:, 1, 2] = -g_backward / self.beta_reverse, -g_forward / self.beta
        slopes[:, :, 1] = -slopes[:, :, 0] - slopes[:, :, 2]
        slopes[:, 2, :] = -slopes[:, 0, :] - slopes[:, 1, :]
        return np.stack([collector, base, -collector - base], axis=1), slopes

    @staticmethod
    def own_current(currents: Array) -> Array:
        """(S,) current of the element, from (S, 3) currents into its terminals.

        Parameters
        ----------
        currents : array
            Currents into its terminals (S, 3), A.

        Returns
        -------
        array
            Current of its collector (S,), A.
        """
        return currents[:, 0]


Stamped = Regulator | Transistor | Motor


def _junction(x: Array, is_a: Array) -> tuple[Array, Array]:
    """is·(eˣ − 1) and its slope by x; a straight line from ``STEEPEST_A`` on."""
    last = np.log(STEEPEST_A / is_a)
    grown = is_a * np.exp(np.minimum(x, last))
    return grown * (1.0 + np.maximum(x - last, 0.0)) - is_a, grown
