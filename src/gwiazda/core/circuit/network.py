"""Networks of sources, resistors, lamps and diodes: any shape, one operating point or thousands at once.

The elements are compiled once. Ideal sources that lead to the ground fix the voltage of their nodes. Elements
that follow one another with nothing else joining between them fold into one branch, whose current is a
monotone function of its voltage; with its diodes alike this has a closed form (the Wright omega function). What
is left are Kirchhoff's equations at the nodes where branches meet, solved by damped Newton. Elements that couple
several nodes (``stamps``) add their currents and slopes to these equations.

Sources
-------
[1] C.-W. Ho, A. Ruehli, P. Brennan, "The modified nodal approach to network analysis", IEEE CAS 22 (1975).
[3] C. T. Kelley, D. E. Keyes, "Convergence analysis of pseudo-transient continuation", SIAM J. Numer. Anal. 35 (1998).
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
from gwiazda.core.circuit.diode import VT_300K
from gwiazda.core.circuit.elements import Diode, Element, Resistor, Source, check
from gwiazda.core.circuit.stamps import Regulator, Stamped, Transistor
from gwiazda.core.circuit.topology import Chain, Layout, lay_out
from gwiazda.core.errors import CircuitError

Array = npt.NDArray[np.float64]
__all__ = ["Diode", "Element", "Network", "Operating", "Regulator", "Resistor", "Source", "Transistor"]

Values = tuple[Array, Array, Array, Array]  # volts, ohms, ideality, saturation current

LEAST_SIEMENS = 1e-12  # keeps a node that only blocked diodes reach from floating
DENSE_UP_TO = 200
SETTLED_A = 1e-9  # a thousandth of what Kirchhoff's current law is asked to hold to
LOST = ("Circuit", "no operating point was found", "a network whose currents settle")
SOFT_V = (0.0, 1e-2, 1e-4, 1e-6, 0.0)
IN_TIME = 400
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
        """One of the points alone."""
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


class Network:
    """A compiled network.

    Parameters
    ----------
    elements : sequence of Source, Resistor, Diode, Regulator, Transistor
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
    ) -> Operating:
        """Operating points.

        Parameters
        ----------
        volts, ohms, n, is_a : (S, elements) or (elements,) arrays, optional
            Source EMF (V; what a regulator holds), resistance of every element (Ω; in series for diodes, of the
            output for regulators), ideality and saturation current (A), in the order of ``elements``; what is left out keeps the compiled value.
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
        at_once = max(1, AT_ONCE // max(1, len(self._chains)))
        if count > at_once:
            return self._solve_in_parts(count, at_once, volts, ohms, n, is_a)
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
        if len(self._free_nodes):
            try:
                node_v, current, steps = self._newton(branch, node_v.copy(), count, (volts_, ohms_, n_, is_))
            except CircuitError:
                # One of them is hard: each on its own, so that only that one takes the long way.
                node_v, current, steps = self._one_by_one(node_v, (volts_, ohms_, n_, is_), count)
        else:
            current = branch.current(node_v[:, self._p] - node_v[:, self._q])[0]
            steps = 0
        return self._answer(
            (volts_, ohms_, n_, is_), node_v, np.broadcast_to(current, (count, len(self._chains))), steps
        )

    def _solve_in_parts(self, count: int, at_once: int, *values: Array | None) -> Operating:
        """Many points, as many at once as stay in the processor's cache: a third of the time of all at once."""
        parts = []
        for first in range(0, count, at_once):
            cut = slice(first, first + at_once)
            given = (None if a is None or np.ndim(a) < 2 or len(a) == 1 else np.asarray(a)[cut] for a in values)
            single = (a if a is not None and (np.ndim(a) < 2 or len(a) == 1) else None for a in values)
            parts.append(self.solve(*(b if a is None else a for a, b in zip(given, single, strict=True))))
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

    def _one_by_one(self, node_v: Array, values: Values, count: int) -> tuple[Array, Array, int]:
        """Points each on its own, from where the one before came to rest; the long ways where Newton finds none.

        Raises
        ------
        CircuitError
            When one of them has no operating point that any of the ways leads to.
        """
        node_v, most = node_v.copy(), 0
        currents = np.zeros((count, len(self._chains)))
        before: Array | None = None
        for s in range(count):
            volts, ohms, n, is_a = (v if len(v) == 1 else v[s : s + 1] for v in values)
            own = (volts, ohms, n, is_a)
            branch = Branches(self._folded, volts, ohms, n, is_a)
            start = node_v[s : s + 1].copy()
            warm = start.copy()
            if before is not None:
                warm[:, self._free_nodes] = before[:, self._free_nodes]
            found, current, steps = self._one(branch, warm, start, own, before is not None)
            node_v[s], currents[s], most, before = found[0], current[0], max(most, steps), found
        return node_v, currents, most

    def _one(self, branch: Branches, warm: Array, start: Array, own: Values, known: bool) -> tuple[Array, Array, int]:
        """One point: from its neighbour's voltages, from straight lines, in time, or with its sources turned up."""
        if known:
            try:
                return self._newton(branch, warm, 1, own, from_here=True)
            except CircuitError:
                pass
        try:
            return self._newton(branch, start.copy(), 1, own)
        except CircuitError:
            pass
        try:
            return self._newton_in_time(branch, start.copy(), own)
        except CircuitError:
            return self._newton_in_steps(*own)

    def _newton_in_steps(self, volts: Array, ohms: Array, n: Array, is_a: Array) -> tuple[Array, Array, int]:
        """One point with its sources turned up little by little from nothing, where all is dark and still."""
        node_v = np.zeros((1, len(self.nodes)))
        current, total = np.zeros((1, len(self._chains))), 0
        for share in (0.0, 0.01, 0.03, 0.06, 0.1, 0.15, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0):
            branch = Branches(self._folded, volts * share, ohms, n, is_a)
            for node, terms in self._layout.known.items():
                node_v[:, node] = sum(sign * share * volts[:, element] for element, sign in terms)
            values = (volts * share, ohms, n, is_a)
            node_v, current, steps = self._newton(branch, node_v, 1, values, from_here=True)
            total += steps
        return node_v, current, total

    def _newton_in_time(self, branch: Branches, node_v: Array, values: Values) -> tuple[Array, Array, int]:
        """One point with a make-believe capacitor at each node, as if it were switched on and left to settle [3].

        Where Newton jumps to and fro between the pieces of regulators and transistors, time goes one way. Where it comes
        to rest nowhere, the bends of regulators are rounded, ever less, and sharp in the end.

        Raises
        ------
        CircuitError
            When it doesn't come to rest.
        """
        free, p, q = len(self._free_nodes), self._hub_p, self._hub_q
        hub_v = node_v[:, self._hubs].copy()
        hub_v[:, :free] = 0.0
        total = 0
        for soft_v in SOFT_V:
            damping, rest = 1.0, False
            current, slope = branch.current(hub_v[:, p] - hub_v[:, q])
            stamped, extra = self._stamped(values, hub_v, soft_v)
            residual = self._gather(current, stamped)
            worst = float(np.abs(residual).max())
            for _ in range(IN_TIME):
                total += 1
                enough = 1e-9 * max(float(np.abs(current).max()), 1e-6) + 1e-13
                if worst <= enough:
                    rest = True
                    break
                step = np.clip(self._step(slope, -residual, extra, damping), -1.0, 1.0)
                trial = hub_v.copy()
                trial[:, :free] += step
                new_current, new_slope = branch.current(trial[:, p] - trial[:, q])
                new_stamped, new_extra = self._stamped(values, trial, soft_v)
                new_residual = self._gather(new_current, new_stamped)
                new_worst = float(np.abs(new_residual).max())
                if new_worst > 1.2 * worst and damping < 1e6:
                    damping = max(4.0 * damping, 1e-6)
                    continue
                # Longer steps in time as long as that goes well.
                damping = damping * (0.4 if new_worst < worst else 1.2) if damping > 1e-11 else 0.0
                hub_v, current, slope, extra, residual, worst = (
                    trial, new_current, new_slope, new_extra, new_residual, new_worst,
                )  # fmt: skip
            if soft_v == 0.0 and (rest or worst <= 10.0 * SETTLED_A):
                node_v[:, self._hubs] = hub_v
                return node_v, current, total
        raise CircuitError(*LOST)

    def _newton(
        self, branch: Branches, node_v: Array, count: int, values: Values, from_here: bool = False, soft_v: float = 0.0
    ) -> tuple[Array, Array, int]:
        """Damped Newton on the free nodes: a step is halved for those points whose residual it would raise.

        Starts from a network of straight lines, or ``from_here``: from the voltages given.

        Raises
        ------
        CircuitError
            When no step leads on.
        """
        free = len(self._free_nodes)
        p, q = self._hub_p, self._hub_q
        hub_v = node_v[:, self._hubs]
        if not from_here:
            conductance, drop = branch.start_line()
            start = -self._gather((hub_v[:, p] - hub_v[:, q] - drop) * conductance)
            hub_v[:, :free] += self._step(np.broadcast_to(conductance, (count, len(p))), start)
        current, slope = branch.current(hub_v[:, p] - hub_v[:, q])
        stamped, extra = self._stamped(values, hub_v, soft_v)
        residual = self._gather(current, stamped)
        worst = np.abs(residual).max(axis=1)
        steps = 0
        for steps in range(1, 121):  # noqa: B007
            enough = 1e-12 * np.maximum(np.abs(current).max(axis=1), 1e-9) + 1e-15
            unsettled = worst > enough
            if not unsettled.any():
                break
            step = self._step(slope, -residual, extra)
            trial = hub_v.copy()
            trial[:, :free] += step
            share = np.ones(count)
            for _ in range(40):
                trial_current, trial_slope = branch.current(trial[:, p] - trial[:, q])
                trial_stamped, trial_extra = self._stamped(values, trial, soft_v)
                trial_residual = self._gather(trial_current, trial_stamped)
                trial_worst = np.abs(trial_residual).max(axis=1)
                worse = unsettled & (trial_worst > worst * (1.0 - 1e-4 * share))
                if not worse.any():
                    break
                share = np.where(worse, share / 2, share)
                trial[:, :free] = hub_v[:, :free] + share[:, None] * step
            better = trial_worst < worst
            if extra is not None and trial_extra is not None:
                extra = np.where(better[:, None], trial_extra, extra)
            if better.all():
                hub_v, current, slope, residual, worst = (
                    trial,
                    trial_current,
                    trial_slope,
                    trial_residual,
                    trial_worst,
                )
                continue
            # A point that no share of its step betters is where rounding ends it, or it has no answer.
            if (unsettled & ~better & (worst > 1e3 * enough + SETTLED_A)).any():
                raise CircuitError(*LOST)
            if not (unsettled & better).any():
                break
            keep = ~better[:, None]
            hub_v, current, slope, residual = (
                np.where(keep, old, new)
                for old, new in (
                    (hub_v, trial),
                    (current, trial_current),
                    (slope, trial_slope),
                    (residual, trial_residual),
                )
            )
            worst = np.where(better, trial_worst, worst)
        else:
            raise CircuitError(*LOST)
        node_v[:, self._hubs] = hub_v
        return node_v, current, steps

    def _stamped(self, values: Values, hub_v: Array, soft_v: float = 0.0) -> tuple[Array | None, Array | None]:
        """Currents into the terminals of stamped elements (S, terminals) and their slopes (S, 9 a stamp), if any."""
        if not self._stamps:
            return None, None
        currents, slopes, at = [], [], 0
        for i, element in self._stamps:
            count = len(element.terminals)
            volts, ohms, n, is_a = (v[:, i] for v in values)
            into, by = element.stamp(hub_v[:, self._stamp_hubs[at : at + count]], self.vt, volts, ohms, n, is_a, soft_v)
            currents.append(into)
            slopes.append(by.reshape(len(by), -1))
            at += count
        return np.concatenate(currents, axis=1), np.concatenate(slopes, axis=1)

    @cached_property
    def _stamp_places(self) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:
        """Row and column (hub numbers) of each slope that ``_stamped`` gives."""
        rows, cols, at = [], [], 0
        for _, element in self._stamps:
            own = self._stamp_hubs[at : at + len(element.terminals)]
            rows.append(np.repeat(own, len(own)))
            cols.append(np.tile(own, len(own)))
            at += len(own)
        return np.concatenate(rows), np.concatenate(cols)

    def _gather(self, branch_current: Array, stamped: Array | None = None) -> Array:
        """Current leaving each free node, (S, free)."""
        if self._incidence is not None:
            out: Array = branch_current @ self._incidence.T
        else:
            rows, cols, data = self._triplets
            out = np.zeros((branch_current.shape[0], len(self._free_nodes)))
            for s in range(out.shape[0]):
                out[s] = np.bincount(rows, branch_current[s, cols] * data, minlength=out.shape[1])
        if stamped is not None:
            free = self._stamp_hubs < len(self._free_nodes)
            out = np.broadcast_to(out, (max(len(out), len(stamped)), out.shape[1])).copy()
            for column, node in zip(stamped[:, free].T, self._stamp_hubs[free].tolist(), strict=True):
                out[:, node] += column
        return out

    def _step(self, slope: Array, right: Array, extra: Array | None = None, damping: float = 0.0) -> Array:
        """Solve the nodal conductance matrix for each point: (S, branches), (S, free) → (S, free).

        ``damping`` (S) is added from each node to the ground.

        Raises
        ------
        CircuitError
            When the matrix has no inverse.
        """
        size = len(self._free_nodes)
        if size == 1 and extra is None:
            assert self._incidence is not None
            return np.asarray(right / (slope @ (self._incidence[0] ** 2) + LEAST_SIEMENS + damping)[:, None])
        if self._incidence is not None:
            out = np.empty_like(right)
            chunk = max(1, 4_000_000 // (size * max(size, slope.shape[1])))
            for a in range(0, right.shape[0], chunk):
                part = slice(a, a + chunk)
                matrix = (self._incidence * slope[part, None, :]) @ self._incidence.T
                matrix[:, range(size), range(size)] += LEAST_SIEMENS + damping
                if extra is not None:
                    rows, cols = self._stamp_places
                    free = (rows < size) & (cols < size)
                    for column, row, col in zip(
                        extra[part][:, free].T, rows[free].tolist(), cols[free].tolist(), strict=True
                    ):
                        matrix[:, row, col] += column
                try:
                    out[part] = np.linalg.solve(matrix, right[part, :, None])[:, :, 0]
                except np.linalg.LinAlgError:
                    raise CircuitError(*LOST) from None
            return out
        return self._sparse_step(slope, right, extra, damping)

    def _sparse_step(self, slope: Array, right: Array, extra: Array | None = None, damping: float = 0.0) -> Array:
        from scipy.sparse import coo_array, csc_array, eye_array
        from scipy.sparse.linalg import splu

        rows, cols, data = self._triplets
        size = right.shape[1]
        incidence = csc_array((data, (rows, cols)), shape=(size, slope.shape[1]))
        out = np.empty_like(right)
        for s in range(right.shape[0]):
            matrix = (incidence * slope[s]) @ incidence.T + (LEAST_SIEMENS + damping) * eye_array(size)
            if extra is not None:
                at_rows, at_cols = self._stamp_places
                free = (at_rows < size) & (at_cols < size)
                matrix = matrix + coo_array((extra[s, free], (at_rows[free], at_cols[free])), shape=(size, size))
            out[s] = splu(csc_array(matrix)).solve(right[s])
        return out

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
        """Volts by node of one of the points."""
        return dict(zip(self.nodes, answer.volts[point].tolist(), strict=True))

    def element_currents(self, answer: Operating, point: int = 0) -> dict[str, float]:
        """Amps by element of one of the points."""
        return {e.id: c for e, c in zip(self.elements, answer.currents[point].tolist(), strict=True)}
