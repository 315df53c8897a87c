"""A small brushed motor with permanent magnets: its current by the voltage over it, with what it turns.

Sources
-------
[1] V = I·Ra + E, E as the speed, torque as the current: Ra = Vn/I_stall, n = n0·(V − I·Ra)/(Vn − I0·Ra) (any text on machines).
[2] A gear train asks for about the same torque at any speed, a propeller or disc in air for one that goes with the speed squared.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
DRAG = (
    0.01  # of the running current, from standing to the nominal voltage: what gears ask for rises a little with speed
)


class Motor(NamedTuple):
    """A motor between ``a`` and ``b``; its current counts from a to b.

    ``nominal_v`` and ``running_a`` are those it is made for, ``idle_a`` what it takes with nothing to turn, ``winding_ohm``
    that of its winding; ``geared``: the same torque at any speed, else as of a disc in air.
    """

    id: str
    a: str
    b: str
    nominal_v: float
    running_a: float
    idle_a: float
    winding_ohm: float
    geared: bool = False

    @property
    def terminals(self) -> tuple[str, ...]:
        """Its nodes, in the order of ``stamp``."""
        return self.a, self.b

    def values_ok(self) -> str:
        """Empty, or which values are accepted."""
        ok = self.nominal_v > 0 and 0 <= self.idle_a <= self.running_a and self.winding_ohm > 0 < self.running_a
        return (
            ""
            if ok and self.turning_v > 0
            else "volts and amps above zero, held fast more amps than running, idle fewer"
        )

    @property
    def turning_v(self) -> float:
        """What is left over its winding's loss at the nominal voltage (V): it goes with the speed."""
        return self.nominal_v - self.running_a * self.winding_ohm

    def current(self, volts: Array, soft_v: float = 0.0) -> tuple[Array, Array]:
        """Current (A) and its slope (A/V) at voltages over it [1]_, [2]_: below what moves it the winding alone, either way round.

        Above it I = I0 + (In − I0)·(n/nn)², or In all along where it is ``geared``.

        Parameters
        ----------
        volts : array
            Voltage across the motor, any shape, V.
        soft_v : float
            Over how many volts the bend where it starts is rounded, V.

        Returns
        -------
        tuple[array, array]
            Current, A, and its slope, A/V, both of the shape of ``volts``.
        """
        still = self.running_a * (1.0 - DRAG) if self.geared else self.idle_a
        by_turns = 0.0 if self.geared else (self.running_a - self.idle_a) / self.turning_v**2
        size, way = np.abs(volts), np.sign(volts)
        over = size - still * self.winding_ohm
        moves, moves_slope = ramp(over, soft_v)
        # What goes with the speed, x: (1 + Ra·drag)·x + Ra·by_turns·x² is what is over.
        k = 1.0 + self.winding_ohm * (DRAG * self.running_a / self.turning_v if self.geared else 0.0)
        root = np.sqrt(k * k + 4.0 * self.winding_ohm * by_turns * moves)
        current = (size - 2.0 * moves / (k + root)) / self.winding_ohm
        slope = (1.0 - moves_slope / root) / self.winding_ohm
        return way * current, slope

    def stamp(
        self, at: Array, vt: float, volts: Array, ohms: Array, n: Array, is_a: Array, soft_v: float = 0.0
    ) -> tuple[Array, Array]:
        """Currents (A) into its two terminals (S, 2), and their slopes (A/V) by the voltages there (S, 2, 2).

        Parameters
        ----------
        at : array
            Voltages at its two terminals (S, 2), V.
        vt : float
            Thermal voltage, V (not used).
        volts : array
            Nominal voltage (S,) or (1,), V (not used).
        ohms : array
            Winding resistance (S,) or (1,), Ω (not used).
        n : array
            Ideality (S,) or (1,) (not used).
        is_a : array
            Saturation current (S,) or (1,), A (not used).
        soft_v : float
            Over how many volts its bends are rounded, V.

        Returns
        -------
        tuple[array, array]
            Currents into the terminals (S, 2), A, and their slopes (S, 2, 2), A/V.
        """
        current, slope = self.current(at[:, 0] - at[:, 1], soft_v)
        slopes = np.stack([slope, -slope, -slope, slope], axis=1).reshape(-1, 2, 2)
        return np.stack([current, -current], axis=1), slopes

    @staticmethod
    def own_current(currents: Array) -> Array:
        """(S,) current of the element, from (S, 2) currents into its terminals.

        Parameters
        ----------
        currents : array
            Currents into its terminals (S, 2), A.

        Returns
        -------
        array
            Current through it (S,), A.
        """
        return currents[:, 0]


def ramp(x: Array, soft_v: float) -> tuple[Array, Array]:
    """max(x, 0) and its slope, its bend rounded over ``soft_v``.

    Parameters
    ----------
    x : array
        Any shape, V.
    soft_v : float
        Over how many volts the bend is rounded; 0 for a sharp one.

    Returns
    -------
    tuple[array, array]
        max(x, 0) and its slope, both of the shape of ``x``.
    """
    if soft_v <= 0.0:
        return np.maximum(x, 0.0), np.where(x > 0.0, 1.0, 0.0)
    y = np.clip(x / soft_v, -500.0, 500.0)
    return np.where(x > 500.0 * soft_v, x, soft_v * np.log1p(np.exp(y))), 1.0 / (1.0 + np.exp(-y))
