"""Folded strings as branches: current as a monotone function of voltage, in closed form where it has one."""

from __future__ import annotations

import copy
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.circuit.parts.diode import wright_omega

Array = npt.NDArray[np.float64]
Indices = npt.NDArray[np.intp]

LEAST_OHM = 1e-6  # stands for a joint without resistance: 1 µV at 1 A


class Folded(NamedTuple):
    """Which elements make up which branch, as flat index arrays.

    ``order`` and ``sign`` list the elements branch by branch, ``starts`` where each branch begins in them;
    ``diodes`` and ``diode_starts`` the same for the diodes of the branches that have any (``diode_branch``), and
    ``diode_of`` each diode's place in ``diode_branch``.
    """

    vt: float
    order: Indices
    sign: Array
    starts: Indices
    diode_branch: Indices
    diodes: Indices
    diode_starts: Indices
    diode_of: Indices


def _sums(values: Array, starts: npt.NDArray[np.intp]) -> Array:
    """Sums over consecutive slices of the last axis; slices of one length are added as they lie, which is faster."""
    branches, width = len(starts), values.shape[1]
    each = width // branches
    if each * branches == width and each <= 4 and (branches == 1 or bool(np.all(np.diff(starts) == each))):
        out = values[:, ::each].copy()
        for k in range(1, each):
            out += values[:, k::each]
        return out
    return np.add.reduceat(values, starts, axis=1)


class Branches:
    """Branch current as a function of branch voltage, for given element values ((S or 1, elements) arrays)."""

    def __init__(self, net: Folded, volts: Array, ohms: Array, n: Array, is_a: Array) -> None:
        self.net = net
        self.volts, self.ohms, self.is_a = volts, ohms, is_a
        self.a = n * net.vt
        self.line: tuple[Array, Array] | None = None
        self.omega: Array | None = None  # of the last call, to start the next one from
        if not len(net.order):
            self.resistance = self.siemens = self.emf = np.zeros((1, 0))
            return
        order, starts = net.order, net.starts
        self.resistance = np.maximum(_sums(ohms[:, order], starts), LEAST_OHM)
        self.siemens = 1.0 / self.resistance
        self.emf = _sums(volts[:, order] * net.sign, starts) if volts.any() else np.zeros((1, len(starts)))
        lit, d = net.diode_branch, net.diodes
        if not len(lit):
            return
        self.each_a, self.each_is = self.a[:, d], is_a[:, d]
        log_is = np.log(self.each_is)
        self.sum_a = _sums(self.each_a, net.diode_starts)
        self.log_is = _sums(self.each_a * log_is, net.diode_starts) / self.sum_a
        single = len(d) == len(lit)
        self.alike_is = self.each_is if single else np.exp(self.log_is)
        r = self.resistance[:, lit]
        self.shift = np.log(r / self.sum_a) + self.log_is + r * self.alike_is / self.sum_a
        self.per_a, self.a_per_r = 1.0 / self.sum_a, self.sum_a / r
        spread = net.diode_of
        self.exact = single or bool(np.all(np.abs(self.each_is / self.alike_is[:, spread] - 1.0) < 1e-12))
        if self.exact:
            return
        self.least_is = np.minimum.reduceat(self.each_is, net.diode_starts, axis=1)

    def fresh(self) -> Branches:
        """The same values without what the last solve left behind."""
        again = copy.copy(self)
        again.omega = None
        return again

    def start_line(self) -> tuple[Array, Array]:
        """Conductance (S) and offset (V) of each branch as it would be around 2 mA, to start from."""
        if self.line is not None:
            return self.line
        around = 2e-3
        conductance, offset = 1.0 / self.resistance, -self.emf
        lit = self.net.diode_branch
        if len(lit):
            count = max(conductance.shape[0], offset.shape[0], self.sum_a.shape[0], self.log_is.shape[0])
            conductance = np.broadcast_to(conductance, (count, conductance.shape[1])).copy()
            offset = np.broadcast_to(offset, conductance.shape).copy()
            slope = self.sum_a / around
            conductance[:, lit] = 1.0 / (self.resistance[:, lit] + slope)
            offset[:, lit] += self.sum_a * (np.log(around) - self.log_is) - slope * around
        self.line = conductance, offset
        return self.line

    def current(self, v: Array) -> tuple[Array, Array]:
        """Current (A) and its slope (S) at branch voltage ``v`` (S, branches).

        Parameters
        ----------
        v : array
            Voltage across each branch (S, branches), V.

        Returns
        -------
        tuple[array, array]
            Current (S, branches), A, and its slope dI/dV of the same shape, S.
        """
        v = v + self.emf
        i = v * self.siemens
        slope = np.empty_like(i)
        slope[:] = self.siemens
        lit = self.net.diode_branch
        if not len(lit):
            return i, slope
        across = v[:, lit]
        w = wright_omega(across * self.per_a + self.shift, self.omega)
        self.omega = w
        current = self.a_per_r * w
        current -= self.alike_is
        slope_lit = w + 1.0
        np.divide(w, slope_lit, out=slope_lit)
        slope_lit *= self.siemens[:, lit]
        if not self.exact:
            current, slope_lit = self._mixed(across, current, self.resistance[:, lit])
        i[:, lit] = current
        slope[:, lit] = slope_lit
        return i, slope

    def _mixed(self, v: Array, current: Array, r: Array) -> tuple[Array, Array]:
        """Diodes of different kinds in one string: from the closed form of their mean to the exact sum."""
        starts, spread = self.net.diode_starts, self.net.diode_of
        lowest = -self.least_is * (1.0 - 1e-12)
        slope = np.zeros_like(current)
        for _ in range(60):
            current = np.maximum(current, lowest)
            each = current[:, spread]
            sums = np.add.reduceat(self.each_a * np.log1p(each / self.each_is), starts, axis=1)
            slope = 1.0 / (r + np.add.reduceat(self.each_a / (each + self.each_is), starts, axis=1))
            error = r * current + sums - v
            # Newton on a concave function from below overshoots at most to the axis; half-way is safe there.
            step = np.maximum(-error * slope, -0.9 * (current + self.least_is))
            current = current + step
            if np.all(np.abs(step) <= 1e-14 * np.abs(current) + 1e-22):
                break
        return np.maximum(current, lowest), slope
