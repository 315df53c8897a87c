"""The ways a compiled network comes to rest: Newton on its nodes, and the long ways where that finds none.

Sources
-------
[1] C. T. Kelley, D. E. Keyes, "Convergence analysis of pseudo-transient continuation", SIAM J. Numer. Anal. 35 (1998).
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np
import numpy.typing as npt

from gwiazda.core.circuit.branches import Branches, Folded
from gwiazda.core.circuit.stamps import Stamped
from gwiazda.core.circuit.topology import Chain, Layout
from gwiazda.core.errors import CircuitError

Array = npt.NDArray[np.float64]
Values = tuple[Array, Array, Array, Array]  # volts, ohms, ideality, saturation current

LEAST_SIEMENS = 1e-12  # keeps a node that only blocked diodes reach from floating
SETTLED_A = 1e-9  # a thousandth of what Kirchhoff's current law is asked to hold to
LOST = ("Circuit", "no operating point was found", "a network whose currents settle")
RUSH, FARTHEST_V = 40, 20.0
SOFT_V = (0.0, 1e-2, 1e-4, 1e-6, 0.0)
IN_TIME = 400


class Newton:
    """What the ways to rest need of a compiled network; ``network.Network`` fills it."""

    nodes: tuple[str, ...]
    vt: float
    _layout: Layout
    _chains: tuple[Chain, ...]
    _folded: Folded
    _stamps: Sequence[tuple[int, Stamped]]
    _free_nodes: npt.NDArray[np.intp]
    _hubs: npt.NDArray[np.intp]
    _hub_p: npt.NDArray[np.intp]
    _hub_q: npt.NDArray[np.intp]
    _stamp_hubs: npt.NDArray[np.intp]
    _incidence: Array | None
    _triplets: tuple[npt.NDArray[np.intp], npt.NDArray[np.intp], Array]

    def _rush(
        self, branch: Branches, node_v: Array, count: int, values: Values
    ) -> tuple[Array, Array, npt.NDArray[np.bool_]]:
        """Full steps without looking back: with regulators, whose bends halved steps crawl along, they mostly arrive.

        Returns node voltages and branch currents, and which of the points have come to rest.
        """
        free, p, q = len(self._free_nodes), self._hub_p, self._hub_q
        hub_v = node_v[:, self._hubs]
        conductance, drop = branch.start_line()
        start = -self._gather((hub_v[:, p] - hub_v[:, q] - drop) * conductance)
        hub_v[:, :free] += self._step(np.broadcast_to(conductance, (count, len(p))), start)
        done = np.zeros(count, dtype=bool)
        for _ in range(RUSH):
            current, slope = branch.current(hub_v[:, p] - hub_v[:, q])
            stamped, extra = self._stamped(values, hub_v)
            residual = self._gather(current, stamped)
            worst = np.abs(residual).max(axis=1)
            done = worst <= 1e-9 * np.abs(current).max(axis=1, initial=0.0) + 1e-13
            step = np.clip(self._step(slope, -residual, extra), -FARTHEST_V, FARTHEST_V)
            if done.all():
                # One step more, as Newton doubles the digits, where it doesn't lead over a bend.
                last = hub_v.copy()
                last[:, :free] += step
                last_current = branch.current(last[:, p] - last[:, q])[0]
                last_residual = self._gather(last_current, self._stamped(values, last)[0])
                better = (np.abs(last_residual).max(axis=1) < worst)[:, None]
                hub_v, current = np.where(better, last, hub_v), np.where(better, last_current, current)
                break
            hub_v[:, :free] += step
        node_v = node_v.copy()
        node_v[:, self._hubs] = hub_v
        return node_v, np.array(np.broadcast_to(current, (count, len(p)))), done

    def _one_by_one(
        self, node_v: Array, values: Values, count: int, which: npt.NDArray[np.intp] | None = None, patient: bool = True
    ) -> tuple[Array, Array, int]:
        """Points (``which`` of them) each on its own, from where the one before came to rest.

        The long ways are taken where Newton finds none; without patience such a point is not a number.

        Raises
        ------
        CircuitError
            When one of them has no operating point that any of the ways leads to.
        """
        node_v, most = node_v.copy(), 0
        currents = np.zeros((count, len(self._chains)))
        before: Array | None = None
        for s in range(count) if which is None else which.tolist():
            volts, ohms, n, is_a = (v if len(v) == 1 else v[s : s + 1] for v in values)
            own = (volts, ohms, n, is_a)
            branch = Branches(self._folded, volts, ohms, n, is_a)
            start = node_v[s : s + 1].copy()
            warm = start.copy()
            if before is not None:
                warm[:, self._free_nodes] = before[:, self._free_nodes]
            try:
                found, current, steps = self._one(branch, warm, start, own, before is not None, patient)
            except CircuitError:
                if patient:
                    raise
                node_v[s], currents[s] = np.nan, np.nan
                continue
            node_v[s], currents[s], most, before = found[0], current[0], max(most, steps), found
        return node_v, currents, most

    def _one(
        self, branch: Branches, warm: Array, start: Array, own: Values, known: bool, patient: bool
    ) -> tuple[Array, Array, int]:
        """One point: from its neighbour's voltages, from straight lines, in time, or with its sources turned up.

        Raises
        ------
        CircuitError
            When none of these finds it.
        """
        if known:
            try:
                return self._newton(branch, warm, 1, own, from_here=True)
            except CircuitError:
                pass
        try:
            return self._newton(branch, start.copy(), 1, own)
        except CircuitError:
            if not patient:
                raise
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
        """One point with a make-believe capacitor at each node, as if it were switched on and left to settle [1].

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
                enough = 1e-9 * max(float(np.abs(current).max(initial=0.0)), 1e-6) + 1e-13
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
            enough = 1e-12 * np.maximum(np.abs(current).max(axis=1, initial=0.0), 1e-9) + 1e-15
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
                hub_v, current, slope = trial, trial_current, trial_slope
                residual, worst = trial_residual, trial_worst
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
