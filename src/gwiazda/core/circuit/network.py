"""Networks of sources, resistors, lamps and diodes: any shape, one operating point or thousands at once.

The elements are compiled once. Ideal sources that lead to the ground fix the voltage of their nodes. Elements
that follow one another with nothing else joining between them fold into one branch, whose current is a
monotone function of its voltage; with its diodes alike this has a closed form (the Wright omega function). What
is left are Kirchhoff's equations at the nodes where branches meet, solved by damped Newton.

Sources
-------
[1] C.-W. Ho, A. Ruehli, P. Brennan, "The modified nodal approach to network analysis", IEEE CAS 22 (1975).
[2] T. Banwell, A. Jayakumar, "Exact analytical solution for current flow through diode with series
    resistance", Electron. Lett. 36 (2000).
"""

from __future__ import annotations

import copy
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from gwiazda.core.circuit.diode import VT_300K, wright_omega
from gwiazda.core.circuit.topology import Chain, Layout, lay_out
from gwiazda.core.errors import CircuitError

Array = npt.NDArray[np.float64]

LEAST_OHM = 1e-6  # stands for a joint without resistance: 1 µV at 1 A
LEAST_SIEMENS = 1e-12  # keeps a node that only blocked diodes reach from floating
DENSE_UP_TO = 200


@dataclass(frozen=True)
class Source:
    """EMF (V) with internal resistance (Ω); its current counts out of ``plus``."""

    id: str
    plus: str
    minus: str
    volts: float
    ohms: float = 0.0

    @property
    def ends(self) -> tuple[str, str]:
        # Along the direction in which the current counts: in at minus, out at plus.
        return self.minus, self.plus


@dataclass(frozen=True)
class Resistor:
    """Resistance (Ω) between ``a`` and ``b``; its current counts from a to b."""

    id: str
    a: str
    b: str
    ohms: float

    @property
    def ends(self) -> tuple[str, str]:
        return self.a, self.b


@dataclass(frozen=True)
class Diode:
    """Lamp or diode: ideality ``n``, saturation current ``is_a`` (A), series resistance ``rs`` (Ω)."""

    id: str
    anode: str
    cathode: str
    n: float
    is_a: float
    rs: float
    kind: str = "led"

    @property
    def ends(self) -> tuple[str, str]:
        return self.anode, self.cathode


Element = Source | Resistor | Diode


@dataclass(frozen=True)
class Operating:
    """Answer of one or more operating points; S = 1 for a single one.

    Attributes
    ----------
    currents : (S, elements) array, A, in the order of ``Network.elements``.
    volts : (S, nodes) array, V against the ground, in the order of ``Network.nodes``.
    iterations : Newton steps of the slowest point.
    """

    currents: Array
    iterations: int
    _hub_volts: Array
    _network: Network
    _branch: _Branches

    @cached_property
    def volts(self) -> Array:
        # At first use: most callers want currents only.
        return self._network._inner_volts(self._branch, self._hub_volts.copy(), self.currents)


class Network:
    """A compiled network.

    Parameters
    ----------
    elements : sequence of Source, Resistor, Diode
    ground : str
        The node all voltages count from.
    vt : float
        Thermal voltage (V).

    Raises
    ------
    CircuitError
        For values that no element can have, ids used twice, or ideal sources that contradict one another.
    """

    def __init__(self, elements: Sequence[Element], ground: str = "0", vt: float = VT_300K) -> None:
        self.elements = tuple(elements)
        self.vt = vt
        _check(self.elements)
        layout = lay_out(self.elements, ground)
        self._layout: Layout = layout
        self.nodes = layout.nodes
        index = {node: i for i, node in enumerate(layout.nodes)}
        chains = layout.chains
        self._chains: tuple[Chain, ...] = chains
        self.ohms = np.array([e.rs if isinstance(e, Diode) else e.ohms for e in elements])
        self.volts = np.array([e.volts if isinstance(e, Source) else 0.0 for e in elements])
        self.n = np.array([e.n if isinstance(e, Diode) else 0.0 for e in elements])
        self.is_a = np.array([e.is_a if isinstance(e, Diode) else 1.0 for e in elements])

        # Chain elements, branch by branch, so that sums over a branch are sums over a slice.
        self._order = np.array([i for c in chains for i, _ in c.links], dtype=np.intp)
        self._sign = np.array([s for c in chains for _, s in c.links], dtype=float)
        self._starts = np.cumsum([0, *(len(c.links) for c in chains)][:-1]).astype(np.intp)
        self._spread = np.repeat(np.arange(len(chains)), [len(c.links) for c in chains])
        self._ideal = [
            (i, np.array([j for j, _ in terms], dtype=np.intp), np.array([s for _, s in terms]))
            for i, terms in layout.ideal_currents
        ]
        lit = [[i for i, _ in c.links if isinstance(self.elements[i], Diode)] for c in chains]
        self._diode_branch = np.array([b for b, d in enumerate(lit) if d], dtype=np.intp)
        self._diodes = np.array([i for d in lit for i in d], dtype=np.intp)
        self._diode_starts = np.cumsum([0, *(len(d) for d in lit if d)][:-1]).astype(np.intp)
        self._diode_of = np.repeat(np.arange(len(self._diode_branch)), [len(d) for d in lit if d])

        self._free = layout.free
        place = {index[node]: k for k, node in enumerate(layout.free)}
        self._p = np.array([index[c.start] for c in chains], dtype=np.intp)
        self._q = np.array([index[c.end] for c in chains], dtype=np.intp)
        self._free_nodes = np.array(list(place), dtype=np.intp)
        incidence = np.zeros((len(place), len(chains))) if len(place) <= DENSE_UP_TO else None
        rows, cols, data = [], [], []
        for b, chain in enumerate(chains):
            for node, sign in ((chain.start, 1.0), (chain.end, -1.0)):
                k = place.get(index[node])
                if k is not None:
                    rows.append(k)
                    cols.append(b)
                    data.append(sign)
        self._triplets = (np.array(rows, dtype=np.intp), np.array(cols, dtype=np.intp), np.array(data))
        if incidence is not None:
            np.add.at(incidence, (self._triplets[0], self._triplets[1]), self._triplets[2])
        self._incidence = incidence
        self._nominal: _Branches | None = None

    # -- one branch each ---------------------------------------------------------------------------------

    def solve(
        self,
        volts: Array | None = None,
        ohms: Array | None = None,
        n: Array | None = None,
        is_a: Array | None = None,
    ) -> Operating:
        """Operating points.

        Parameters
        ----------
        volts, ohms, n, is_a : (S, elements) or (elements,) arrays, optional
            Source EMF (V), resistance of every element (Ω; series resistance for diodes), ideality and
            saturation current (A), in the order of ``elements``; what is left out keeps the compiled value.
            A source compiled with 0 Ω stays ideal.

        Returns
        -------
        Operating

        Raises
        ------
        CircuitError
            When Newton does not settle.
        """
        given = [np.atleast_2d(a) for a in (volts, ohms, n, is_a) if a is not None]
        count = max((a.shape[0] for a in given), default=1)
        volts_, ohms_, n_, is_ = (
            np.atleast_2d(base if a is None else np.asarray(a, dtype=float))
            for a, base in ((volts, self.volts), (ohms, self.ohms), (n, self.n), (is_a, self.is_a))
        )
        if given:
            branch = _Branches(self, volts_, ohms_, n_, is_)
        else:
            self._nominal = self._nominal or _Branches(self, volts_, ohms_, n_, is_)
            branch = self._nominal.fresh()
        node_v = np.zeros((count, len(self.nodes)))
        for node, terms in self._layout.known.items():
            for element, sign in terms:
                node_v[:, node] += sign * volts_[:, element]
        if len(self._free_nodes):
            node_v, current, steps = self._newton(branch, node_v, count)
        else:
            current = branch.current(node_v[:, self._p] - node_v[:, self._q])[0]
            steps = 0
        return self._answer(branch, node_v, np.broadcast_to(current, (count, len(self._chains))), steps)

    def _newton(self, branch: _Branches, node_v: Array, count: int) -> tuple[Array, Array, int]:
        free, p, q = self._free_nodes, self._p, self._q
        conductance, drop = branch.start_line()
        v_branch = node_v[:, p] - node_v[:, q]
        start = -self._gather((v_branch - drop) * conductance)
        node_v[:, free] += self._step(np.broadcast_to(conductance, (count, len(p))), start)
        current, slope = branch.current(node_v[:, p] - node_v[:, q])
        residual = self._gather(current)
        worst = np.max(np.abs(residual), axis=1)
        for step_no in range(1, 121):
            scale = np.maximum(np.max(np.abs(current), axis=1), 1e-9)
            open_points = worst > 1e-12 * scale + 1e-15
            if not open_points.any():
                return node_v, current, step_no
            step = self._step(slope, -residual)
            share = np.where(open_points, 1.0, 0.0)
            for halving in range(40):
                trial = node_v.copy()
                trial[:, free] += share[:, None] * step
                trial_current, trial_slope = branch.current(trial[:, p] - trial[:, q])
                trial_residual = self._gather(trial_current)
                trial_worst = np.max(np.abs(trial_residual), axis=1)
                worse = open_points & (trial_worst > worst * (1.0 - 1e-4 * share))
                if not worse.any() or halving == 39:
                    break
                share = np.where(worse, share / 2, share)
            stuck = open_points & (trial_worst >= worst)
            if (stuck & (worst > 1e-9 * scale + 1e-12)).any() and halving == 39:
                break
            if not (open_points & ~stuck).any():
                # Rounding is all that is left.
                return node_v, current, step_no
            keep = stuck[:, None]
            node_v = np.where(keep, node_v, trial)
            current = np.where(keep, current, trial_current)
            slope = np.where(keep, slope, trial_slope)
            residual = np.where(keep, residual, trial_residual)
            worst = np.where(stuck, worst, trial_worst)
        raise CircuitError("Circuit", "no operating point was found", "a network whose currents settle")

    def _gather(self, branch_current: Array) -> Array:
        """Current leaving each free node, (S, free)."""
        if self._incidence is not None:
            return branch_current @ self._incidence.T
        rows, cols, data = self._triplets
        out = np.zeros((branch_current.shape[0], len(self._free_nodes)))
        for s in range(out.shape[0]):
            out[s] = np.bincount(rows, branch_current[s, cols] * data, minlength=out.shape[1])
        return out

    def _step(self, slope: Array, right: Array) -> Array:
        """Solve the nodal conductance matrix for each point: (S, branches), (S, free) → (S, free)."""
        size = len(self._free_nodes)
        if size == 1:
            assert self._incidence is not None
            return np.asarray(right / (slope @ (self._incidence[0] ** 2) + LEAST_SIEMENS)[:, None])
        if self._incidence is not None:
            out = np.empty_like(right)
            chunk = max(1, 4_000_000 // (size * max(size, slope.shape[1])))
            for a in range(0, right.shape[0], chunk):
                part = slice(a, a + chunk)
                matrix = (self._incidence * slope[part, None, :]) @ self._incidence.T
                matrix[:, range(size), range(size)] += LEAST_SIEMENS
                out[part] = np.linalg.solve(matrix, right[part, :, None])[:, :, 0]
            return out
        return self._sparse_step(slope, right)

    def _sparse_step(self, slope: Array, right: Array) -> Array:
        from scipy.sparse import csc_array, eye_array
        from scipy.sparse.linalg import splu

        rows, cols, data = self._triplets
        size = right.shape[1]
        incidence = csc_array((data, (rows, cols)), shape=(size, slope.shape[1]))
        out = np.empty_like(right)
        for s in range(right.shape[0]):
            matrix = (incidence * slope[s]) @ incidence.T + LEAST_SIEMENS * eye_array(size)
            out[s] = splu(csc_array(matrix)).solve(right[s])
        return out

    # -- back to elements and nodes ----------------------------------------------------------------------

    def _answer(self, branch: _Branches, node_v: Array, current: Array, steps: int) -> Operating:
        count = node_v.shape[0]
        out = np.zeros((count, len(self.elements)))
        if len(self._order):
            out[:, self._order] = current[:, self._spread] * self._sign
        for element, terms, signs in self._ideal:
            # What the known node's other elements take away comes through the source.
            out[:, element] = out[:, terms] @ signs
        return Operating(out, steps, node_v, self, branch)

    def _inner_volts(self, branch: _Branches, node_v: Array, currents: Array) -> Array:
        for chain in self._chains:
            at = node_v[:, self._layout.index[chain.start]].copy()
            for (i, sign), node in zip(chain.links[:-1], chain.inner, strict=True):
                at = at - branch.drop(i, sign, currents[:, i])
                node_v[:, self._layout.index[node]] = at
        return node_v

    def node_volts(self, answer: Operating, point: int = 0) -> dict[str, float]:
        return dict(zip(self.nodes, answer.volts[point].tolist(), strict=True))

    def element_currents(self, answer: Operating, point: int = 0) -> dict[str, float]:
        return {e.id: c for e, c in zip(self.elements, answer.currents[point].tolist(), strict=True)}


class _Branches:
    """Branch current as a function of branch voltage, for given element values ((S or 1, elements) arrays)."""

    def __init__(self, net: Network, volts: Array, ohms: Array, n: Array, is_a: Array) -> None:
        self.net = net
        self.volts, self.ohms, self.is_a = volts, ohms, is_a
        self.a = n * net.vt
        self.omega: Array | None = None  # of the last call, to start the next one from
        if not len(net._order):
            self.resistance = self.emf = np.zeros((1, 0))
            return
        order, starts = net._order, net._starts
        self.resistance = np.maximum(np.add.reduceat(ohms[:, order], starts, axis=1), LEAST_OHM)
        self.emf = np.add.reduceat(volts[:, order] * net._sign, starts, axis=1)
        lit, d = net._diode_branch, net._diodes
        if not len(lit):
            return
        self.each_a, self.each_is = self.a[:, d], is_a[:, d]
        log_is = np.log(self.each_is)
        self.sum_a = np.add.reduceat(np.broadcast_to(self.each_a, np.broadcast_shapes(self.each_a.shape, log_is.shape)), net._diode_starts, axis=1)
        self.log_is = np.add.reduceat(self.each_a * log_is, net._diode_starts, axis=1) / self.sum_a
        self.alike_is = np.exp(self.log_is)
        r = self.resistance[:, lit]
        self.shift = np.log(r / self.sum_a) + self.log_is + r * self.alike_is / self.sum_a
        spread = net._diode_of
        self.exact = bool(np.all(np.abs(self.each_is / self.alike_is[:, spread] - 1.0) < 1e-12))
        self.least_is = np.minimum.reduceat(self.each_is, net._diode_starts, axis=1)

    def fresh(self) -> _Branches:
        """The same values without what the last solve left behind."""
        again = copy.copy(self)
        again.omega = None
        return again

    def start_line(self) -> tuple[Array, Array]:
        """Conductance (S) and offset (V) of each branch as it would be around 2 mA, to start from."""
        around = 2e-3
        conductance, offset = 1.0 / self.resistance, -self.emf
        lit = self.net._diode_branch
        if len(lit):
            count = max(conductance.shape[0], offset.shape[0], self.sum_a.shape[0], self.log_is.shape[0])
            conductance = np.broadcast_to(conductance, (count, conductance.shape[1])).copy()
            offset = np.broadcast_to(offset, conductance.shape).copy()
            slope = self.sum_a / around
            conductance[:, lit] = 1.0 / (self.resistance[:, lit] + slope)
            offset[:, lit] += self.sum_a * (np.log(around) - self.log_is) - slope * around
        return conductance, offset

    def current(self, v: Array) -> tuple[Array, Array]:
        """Current (A) and its slope (S) at branch voltage ``v`` (S, branches)."""
        v = v + self.emf
        i = v / self.resistance
        slope = np.broadcast_to(1.0 / self.resistance, i.shape).copy()
        lit = self.net._diode_branch
        if not len(lit):
            return i, slope
        r, a = self.resistance[:, lit], self.sum_a
        w = wright_omega(v[:, lit] / a + self.shift, self.omega)
        self.omega = w
        current = a / r * w - self.alike_is
        slope_lit = w / (r * (1.0 + w))
        if not self.exact:
            current, slope_lit = self._mixed(v[:, lit], current, r)
        i[:, lit] = current
        slope[:, lit] = slope_lit
        return i, slope

    def _mixed(self, v: Array, current: Array, r: Array) -> tuple[Array, Array]:
        """Diodes of different kinds in one string: from the closed form of their mean to the exact sum."""
        starts, spread = self.net._diode_starts, self.net._diode_of
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

    def drop(self, element: int, sign: float, current: Array) -> Array:
        """Voltage lost along one element of a chain, walking with ``sign`` (A in the element's own direction)."""
        own = current * self.ohms[:, element] - self.volts[:, element]
        if self.net.n[element]:
            ratio = np.maximum(current / self.is_a[:, element], -1.0 + 1e-12)
            own = own + self.a[:, element] * np.log1p(ratio)
        return sign * own


def _check(elements: Sequence[Element]) -> None:
    seen: set[str] = set()
    for e in elements:
        if e.id in seen:
            raise CircuitError(f"Element {e.id}", "the id is used twice", "an id for each element")
        seen.add(e.id)
        a, b = e.ends
        if a == b:
            raise CircuitError(f"Element {e.id}", f"both ends are at node {a}", "two different nodes")
        if isinstance(e, Diode):
            ok = e.n > 0 and e.is_a > 0 and e.rs >= 0
            accepted = "n and is above zero, rs not below"
        elif isinstance(e, Resistor):
            ok, accepted = e.ohms >= 0, "ohms not below zero"
        else:
            ok, accepted = e.ohms >= 0, "ohms not below zero"
        if not ok or not np.isfinite([v for v in vars(e).values() if isinstance(v, float)]).all():
            raise CircuitError(f"Element {e.id}", "a value is out of range", accepted)
