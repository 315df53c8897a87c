"""Networks of sources, resistors, lamps and diodes: any shape, one operating point or thousands at once.

The elements are compiled once. Ideal sources that lead to the ground fix the voltage of their nodes. Elements
that follow one another with nothing else joining between them fold into one branch, whose current is a
monotone function of its voltage; with its diodes alike this has a closed form (the Wright omega function). What
is left are Kirchhoff's equations at the nodes where branches meet, solved by damped Newton. Elements that couple
several nodes (``stamps``) add their currents and slopes to these equations.

Sources
-------
[1] C.-W. Ho, A. Ruehli, P. Brennan, "The modified nodal approach to network analysis", IEEE CAS 22 (1975).
[2] T. Banwell, A. Jayakumar, "Exact analytical solution for current flow through diode with series
    resistance", Electron. Lett. 36 (2000).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from gwiazda.core.circuit.branches import Branches, Folded
from gwiazda.core.circuit.elements import Diode, Element, Resistor, Source, check
from gwiazda.core.circuit.newton import Newton, Values
from gwiazda.core.circuit.parts.diode import VT_300K
from gwiazda.core.circuit.parts.motor import Motor
from gwiazda.core.circuit.stamps import Regulator, Stamped, Transistor
from gwiazda.core.circuit.topology import Chain, Layout, lay_out
from gwiazda.core.errors import CircuitError

Array = npt.NDArray[np.float64]
__all__ = ["Diode", "Element", "Motor", "Network", "Operating", "Regulator", "Resistor", "Source", "Transistor"]


DENSE_UP_TO = 200
AT_ONCE = 12_000  # branch points solved together: their arrays fit the second-level cache


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
    _values: Values

    @cached_property
    def volts(self) -> Array:
        """(S, nodes) array, V against the ground."""
        # At first use: most callers want currents only.
        return self._network._inner_volts(self._values, self._hub_volts.copy(), self.currents)

    def at(self, point: int) -> Operating:
        """One of the points alone.

        Parameters
        ----------
        point : int
            Number of the point, 0 for the first.

        Returns
        -------
        Operating
            That point as an answer of its own.
        """
        cut = slice(point, point + 1)
        volts, ohms, n, is_a = (v if len(v) == 1 else v[cut] for v in self._values)
        return Operating(
            self.currents[cut], self.iterations, self._hub_volts[cut], self._network, (volts, ohms, n, is_a)
        )


def _numbered(layout: Layout, own: Sequence[int], count: int) -> Layout:
    """A layout of some of ``count`` elements with the numbers they have among all, terminals after the last one."""
    if len(own) == count:
        return layout

    def as_all(i: int) -> int:
        return own[i] if i < len(own) else count + i - len(own)

    return layout._replace(
        known={node: tuple((as_all(i), s) for i, s in terms) for node, terms in layout.known.items()},
        chains=tuple(c._replace(links=tuple((as_all(i), s) for i, s in c.links)) for c in layout.chains),
        ideal_currents=tuple(
            (as_all(i), tuple((as_all(j), s) for j, s in terms)) for i, terms in layout.ideal_currents
        ),
    )


class Network(Newton):
    """A compiled network.

    Parameters
    ----------
    elements : sequence of Source, Resistor, Diode, Regulator, Transistor, Motor
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
        check(self.elements)
        # Numbers as in ``elements``, but for the stamped ones, which have the last columns inside.
        pairs = [(i, e) for i, e in enumerate(self.elements) if not isinstance(e, Stamped)]
        self._stamps = [(i, e) for i, e in enumerate(self.elements) if isinstance(e, Stamped)]
        terminals = [t for _, e in self._stamps for t in e.terminals]
        layout = _numbered(lay_out([e for _, e in pairs], ground, terminals), [i for i, _ in pairs], len(elements))
        self._layout: Layout = layout
        self.nodes = layout.nodes
        index = {node: i for i, node in enumerate(layout.nodes)}
        chains = layout.chains
        self._chains: tuple[Chain, ...] = chains
        self.ohms = np.array([e.rs if isinstance(e, Diode) else getattr(e, "ohms", 0.0) for e in elements])
        self.volts = np.array([getattr(e, "volts", 0.0) for e in elements])
        self.n = np.array([getattr(e, "n", 0.0) for e in elements])
        self.is_a = np.array([getattr(e, "is_a", 1.0) for e in elements])

        self._spread = np.repeat(np.arange(len(chains)), [len(c.links) for c in chains])
        self._ideal = [
            (i, np.array([j for j, _ in terms], dtype=np.intp), np.array([s for _, s in terms]))
            for i, terms in layout.ideal_currents
        ]
        lit = [[i for i, _ in c.links if isinstance(self.elements[i], Diode)] for c in chains]
        counts = [len(d) for d in lit if d]
        # Chain elements, branch by branch, so that sums over a branch are sums over a slice.
        self._folded = Folded(
            vt,
            np.array([i for c in chains for i, _ in c.links], dtype=np.intp),
            np.array([s for c in chains for _, s in c.links], dtype=float),
            np.cumsum([0, *(len(c.links) for c in chains)][:-1]).astype(np.intp),
            np.array([b for b, d in enumerate(lit) if d], dtype=np.intp),
            np.array([i for d in lit for i in d], dtype=np.intp),
            np.cumsum([0, *counts][:-1]).astype(np.intp),
            np.repeat(np.arange(len(counts)), counts),
        )

        place = {index[node]: k for k, node in enumerate(layout.free)}
        self._p = np.array([index[c.start] for c in chains], dtype=np.intp)
        self._q = np.array([index[c.end] for c in chains], dtype=np.intp)
        self._free_nodes = np.array(list(place), dtype=np.intp)
        # Newton works on the few nodes where branches end, numbered anew: the free ones first.
        stamped = [index[t] for t in terminals]
        ends = list(dict.fromkeys([*place, *self._p.tolist(), *self._q.tolist(), *stamped]))
        self._hubs = np.array(ends, dtype=np.intp)
        hub = {node: k for k, node in enumerate(ends)}
        self._hub_p = np.array([hub[i] for i in self._p.tolist()], dtype=np.intp)
        self._hub_q = np.array([hub[i] for i in self._q.tolist()], dtype=np.intp)
        self._stamp_hubs = np.array([hub[t] for t in stamped], dtype=np.intp)
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
        self._nominal: Branches | None = None

    def solve(
        self,
        volts: Array | None = None,
        ohms: Array | None = None,
        n: Array | None = None,
        is_a: Array | None = None,
        patient: bool = True,
    ) -> Operating:
        """Operating points.

        Parameters
        ----------
        volts, ohms, n, is_a : (S, elements) or (elements,) arrays, optional
            Source EMF (V; what a regulator holds), resistance of every element (Ω; in series for diodes, of the
            output for regulators), ideality and saturation current (A), in the order of ``elements``; what is left out keeps the compiled value.
            A source compiled with 0 Ω stays ideal.
        patient : bool
            Whether points that Newton doesn't find are looked for in the long ways; else they are not a number.

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
        at_once = max(1, AT_ONCE // max(1, len(self._chains)))
        if count > at_once:
            return self._solve_in_parts(count, at_once, patient, volts, ohms, n, is_a)
        volts_, ohms_, n_, is_ = (
            np.atleast_2d(base if a is None else np.asarray(a, dtype=float))
            for a, base in ((volts, self.volts), (ohms, self.ohms), (n, self.n), (is_a, self.is_a))
        )
        if given:
            branch = Branches(self._folded, volts_, ohms_, n_, is_)
        else:
            if self._nominal is None:
                self._nominal = Branches(self._folded, volts_, ohms_, n_, is_)
                self._nominal.start_line()
            branch = self._nominal.fresh()
        node_v = np.zeros((count, len(self.nodes)))
        for node, terms in self._layout.known.items():
            for element, sign in terms:
                node_v[:, node] += sign * volts_[:, element]
        if len(self._free_nodes) and self._stamps:
            node_v, current, steps = self._rest(branch, node_v, count, (volts_, ohms_, n_, is_), patient)
        elif len(self._free_nodes):
            try:
                node_v, current, steps = self._newton(branch, node_v.copy(), count, (volts_, ohms_, n_, is_))
            except CircuitError:
                # One of them is hard: each on its own, so that only that one takes the long way.
                node_v, current, steps = self._one_by_one(node_v, (volts_, ohms_, n_, is_), count, None, patient)
        else:
            current = branch.current(node_v[:, self._p] - node_v[:, self._q])[0]
            steps = 0
        return self._answer(
            (volts_, ohms_, n_, is_), node_v, np.broadcast_to(current, (count, len(self._chains))), steps
        )

    def _rest(
        self, branch: Branches, node_v: Array, count: int, values: Values, patient: bool
    ) -> tuple[Array, Array, int]:
        """Points of a network with regulators or transistors: most in a rush, the rest one by one."""
        try:
            rushed, current, done = self._rush(branch, node_v.copy(), count, values)
        except CircuitError:
            rushed, current, done = node_v, np.zeros((count, len(self._chains))), np.zeros(count, dtype=bool)
        if done.all():
            return rushed, current, 1
        left = np.flatnonzero(~done)
        slow, slow_current, steps = self._one_by_one(node_v, values, count, left, patient)
        rushed[left], current[left] = slow[left], slow_current[left]
        return rushed, current, steps

    def _solve_in_parts(self, count: int, at_once: int, patient: bool, *values: Array | None) -> Operating:
        """Many points, as many at once as stay in the processor's cache: a third of the time of all at once."""
        parts = []
        for first in range(0, count, at_once):
            cut = slice(first, first + at_once)
            given = (None if a is None or np.ndim(a) < 2 or len(a) == 1 else np.asarray(a)[cut] for a in values)
            single = (a if a is not None and (np.ndim(a) < 2 or len(a) == 1) else None for a in values)
            own = [b if a is None else a for a, b in zip(given, single, strict=True)]
            parts.append(self.solve(own[0], own[1], own[2], own[3], patient))
        full = [
            np.atleast_2d(b if a is None else np.asarray(a, dtype=float))
            for a, b in zip(values, (self.volts, self.ohms, self.n, self.is_a), strict=True)
        ]
        return Operating(
            np.concatenate([p.currents for p in parts]),
            max(p.iterations for p in parts),
            np.concatenate([p._hub_volts for p in parts]),
            self,
            (full[0], full[1], full[2], full[3]),
        )

    # -- back to elements and nodes ----------------------------------------------------------------------

    def _answer(self, values: Values, node_v: Array, current: Array, steps: int) -> Operating:
        count = node_v.shape[0]
        out = np.zeros((count, len(self.elements)))
        if len(self._folded.order):
            out[:, self._folded.order] = current[:, self._spread] * self._folded.sign
        into = self._stamped(values, node_v[:, self._hubs])[0]
        if into is not None:
            out = np.concatenate([out, np.broadcast_to(into, (count, into.shape[1]))], axis=1)
            at = len(self.elements)
            for i, e in self._stamps:
                out[:, i] = e.own_current(out[:, at : at + len(e.terminals)])
                at += len(e.terminals)
        for element, terms, signs in self._ideal:
            # What the known node's other elements take away comes through the source.
            out[:, element] = out[:, terms] @ signs
        return Operating(out[:, : len(self.elements)], steps, node_v, self, values)

    def _inner_volts(self, values: Values, node_v: Array, currents: Array) -> Array:
        """Walk along each chain from its start, losing each element's own voltage on the way.

        The current of a blocked diode says nothing of its voltage; blocked ones share what is left for them evenly.
        """
        volts, ohms, n, is_a = values
        number = self._layout.number
        for chain in self._chains:
            if not chain.inner:
                continue
            at = node_v[:, number[chain.start]].copy()
            ohmic = {i: sign * (currents[:, i] * ohms[:, i] - volts[:, i]) for i, sign in chain.links}
            diodes = [i for i, _ in chain.links if self.n[i]]
            left = at - node_v[:, number[chain.end]] - sum(ohmic.values())
            for (i, _), node in zip(chain.links[:-1], chain.inner, strict=True):
                at = at - ohmic[i]
                if self.n[i]:
                    ratio = currents[:, i] / is_a[:, i]
                    forward = n[:, i] * self.vt * np.log1p(np.maximum(ratio, -0.5))
                    at = at - np.where(ratio < -0.5, left / len(diodes), forward)
                node_v[:, number[node]] = at
        return node_v

    def node_volts(self, answer: Operating, point: int = 0) -> dict[str, float]:
        """Volts by node of one of the points.

        Parameters
        ----------
        answer : Operating
            What ``solve`` gave.
        point : int
            Number of the point, 0 for the first.

        Returns
        -------
        dict[str, float]
            Volts by node, against the ground.
        """
        return dict(zip(self.nodes, answer.volts[point].tolist(), strict=True))

    def element_currents(self, answer: Operating, point: int = 0) -> dict[str, float]:
        """Amps by element of one of the points.

        Parameters
        ----------
        answer : Operating
            What ``solve`` gave.
        point : int
            Number of the point, 0 for the first.

        Returns
        -------
        dict[str, float]
            Amps by element, from its first node to its second.
        """
        return {e.id: c for e, c in zip(self.elements, answer.currents[point].tolist(), strict=True)}
