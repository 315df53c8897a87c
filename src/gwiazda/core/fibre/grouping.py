"""Which point goes onto which lamp: least fibre, bundles that fit, points of one wish together.

The cost of a point on a lamp is the fibre it takes (mm) and ``EVEN_MM`` for each octave that its wish is away from what that
lamp serves, so that one current suits all points of a lamp. What a lamp serves is the mean of its points' wishes: points are
given to lamps and wishes worked out anew a few times, and the cheapest round is kept (the iteration of Lloyd [1]).

Few points are given to lamps by integer programming [2], many as an assignment of points to places on lamps [3], with what
must go together put first.

Sources
-------
[1] S. P. Lloyd, "Least squares quantization in PCM", IEEE Trans. Inf. Theory 28 (1982).
[2] HiGHS, through ``scipy.optimize.milp``.
[3] The rectangular assignment problem, ``scipy.optimize.linear_sum_assignment``.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.fibre.bundle import fibres_by_hand

Array = npt.NDArray[np.float64]
Numbers = npt.NDArray[np.intp]
EVEN_MM = 25.0  # of fibre that an octave between two points on one lamp is worth
ROUNDS = 4
SMALL = 900  # pairs of point and lamp that integer programming takes in a moment
BLOCKED = 1e7


class Wishes(NamedTuple):
    """The task of N points and M lamps.

    ``length_mm`` (N, M) of fibre from each point to each lamp, ``allowed`` (N, M) by colour and channel, ``need`` (N,) light each
    point wants over what the lamp would give it, ``thick_mm`` (N,) of the fibres, ``face_mm`` (M,) of the lamps,
    ``together`` (N,) the same number for points that act together, −1 for those on their own, and ``fixed`` (N,) the lamp of
    a point that is pinned, −1 for the others.
    """

    length_mm: Array
    allowed: npt.NDArray[np.bool_]
    need: Array
    thick_mm: Array
    face_mm: Array
    together: Numbers
    fixed: Numbers


class Grouping(NamedTuple):
    """``lamp`` (N,) of each point, −1 where none has room or suits; ``fibre_mm`` in all and ``cost_mm`` with what is uneven."""

    lamp: Numbers
    fibre_mm: float
    cost_mm: float


def room_left(face_mm: float, thick_mm: Sequence[float]) -> float:
    """Share of a bundle's place on a lamp's face that is left (below 0: too many), for fibres of these thicknesses (mm).

    Parameters
    ----------
    face_mm : float
        Diameter of the lamp's face, mm.
    thick_mm : Sequence[float]
        Outer diameter of each fibre (N,), mm.

    Returns
    -------
    float
        Share of the face, 1 where nothing lies on it.
    """
    if not len(thick_mm):
        return 1.0
    used = 0.0
    for d in set(thick_mm):
        most = fibres_by_hand(face_mm, d)
        used += sum(1 for t in thick_mm if t == d) / max(most, 1)  # one thicker than the face takes all of it
    return 1.0 - used


def group(wishes: Wishes) -> Grouping:
    """Points onto lamps. Points that nothing suits are left without a lamp; a bundle never gets more than fits.

    Parameters
    ----------
    wishes : Wishes
        Points with what each wants, lamps with what each has room for.

    Returns
    -------
    Grouping
        Which point goes to which lamp.
    """
    n, m = wishes.length_mm.shape
    if not n or not m:
        return Grouping(np.full(n, -1, dtype=np.intp), 0.0, 0.0)
    best: Grouping | None = None
    for start in _beginnings(wishes):
        level = start
        for _ in range(ROUNDS):
            cost = wishes.length_mm + EVEN_MM * np.abs(np.log2(wishes.need)[:, None] - level[None, :])
            cost = np.where(wishes.allowed, cost, BLOCKED)
            lamp = _exact(cost, wishes) if n * m <= SMALL else _quick(cost, wishes)
            found = _worth(lamp, wishes)
            if best is not None and not _better(found, best):
                break
            best = found
            level = _middle(wishes.need, lamp, m)
    assert best is not None
    return best


def _better(a: Grouping, b: Grouping) -> bool:
    """More points on lamps, or as many for less."""
    on_a, on_b = np.count_nonzero(a.lamp >= 0), np.count_nonzero(b.lamp >= 0)
    return bool(on_a > on_b or (on_a == on_b and a.cost_mm < b.cost_mm - 1e-9))


def _beginnings(w: Wishes) -> list[Array]:
    """What lamps serve to begin with: all the same; and where wishes differ, each a part of them, whichever lies best for it."""
    from scipy.optimize import linear_sum_assignment  # heavy: at its first use

    octaves, m = np.log2(w.need), w.length_mm.shape[1]
    same = np.full(m, float(np.median(octaves)))
    if float(np.ptp(octaves)) < 1e-9 or m < 2:
        return [same]
    parts = [p for p in np.array_split(np.argsort(octaves, kind="stable"), m) if len(p)]
    far = np.array([w.length_mm[p].mean(axis=0) for p in parts])
    rows, columns = linear_sum_assignment(far)
    level = same.copy()
    for g, j in zip(rows, columns, strict=True):
        level[j] = float(np.median(octaves[parts[g]]))
    return [same, level]


def _middle(need: Array, lamp: Numbers, m: int) -> Array:
    """What each lamp serves, as octaves: the middle one of its points, that of all where it has none."""
    octaves = np.log2(need)
    whole = float(np.median(octaves))
    return np.array([float(np.median(octaves[lamp == j])) if (lamp == j).any() else whole for j in range(m)])


def _worth(lamp: Numbers, w: Wishes) -> Grouping:
    on = np.flatnonzero(lamp >= 0)
    fibre = float(w.length_mm[on, lamp[on]].sum())
    level = _middle(w.need, lamp, w.length_mm.shape[1])
    uneven = float(np.abs(np.log2(w.need)[on] - level[lamp[on]]).sum())
    return Grouping(lamp, fibre, fibre + EVEN_MM * uneven)


def _shares(w: Wishes) -> Array:
    """The share (N, M) of a lamp's bundle that a point's fibre takes; all of it where it is as thick as the face or thicker."""
    faces, thick = np.unique(w.face_mm), np.unique(w.thick_mm)
    table = {(f, d): fibres_by_hand(f, d) for f in faces.tolist() for d in thick.tolist()}
    most = np.array([[table[(f, d)] for f in w.face_mm.tolist()] for d in thick.tolist()], dtype=float)
    each = 1.0 / np.maximum(most, 1.0)
    found: Array = each[np.searchsorted(thick, w.thick_mm)]
    return found


def _units(w: Wishes) -> list[Numbers]:
    """Points that go together, as lists of their numbers."""
    out = [np.flatnonzero(w.together == g) for g in np.unique(w.together[w.together >= 0])]
    return [*out, *(np.array([i]) for i in np.flatnonzero(w.together < 0))]


def _exact(cost: Array, w: Wishes) -> Numbers:
    """By integer programming: each unit of points on one lamp or, at a high price, on none."""
    from scipy.optimize import Bounds, LinearConstraint, milp  # heavy: at its first use
    from scipy.sparse import csr_array, hstack, identity

    units, share = _units(w), _shares(w)
    u, m = len(units), cost.shape[1]
    price = np.array([[cost[k, j].sum() for j in range(m)] for k in units])
    size = np.array([[share[k, j].sum() for j in range(m)] for k in units])
    for row, k in enumerate(units):
        fixed = w.fixed[k][w.fixed[k] >= 0]
        if len(fixed):
            keep = fixed[0]
            price[row] = np.where(np.arange(m) == keep, np.minimum(price[row], BLOCKED / 10.0), BLOCKED * 10.0)
    none = np.array([len(k) * BLOCKED / 2.0 for k in units])
    open_ = price < BLOCKED
    c = np.concatenate([np.where(open_, price, 0.0).ravel(), none])
    once = hstack([csr_array(np.kron(np.eye(u), np.ones((1, m)))), identity(u)])
    within = np.zeros((m, u * m + u))
    for j in range(m):
        within[j, np.arange(u) * m + j] = size[:, j]
    top = np.concatenate([open_.ravel().astype(float), np.ones(u)])
    found = milp(
        c, integrality=np.ones(len(c)), bounds=Bounds(0, top),
        constraints=[LinearConstraint(once, 1, 1), LinearConstraint(within, -np.inf, 1.0 + 1e-9)],
        options={"time_limit": 1.0, "mip_rel_gap": 1e-4},
    )  # fmt: skip
    if found.x is None:
        return _quick(cost, w)
    taken = found.x[: u * m].reshape(u, m)
    lamp = np.full(len(w.need), -1, dtype=np.intp)
    for row, k in enumerate(units):
        j = int(taken[row].argmax())
        if taken[row, j] > 0.5:
            lamp[k] = j
    return lamp


def _quick(cost: Array, w: Wishes) -> Numbers:
    """What goes together first, the largest first, onto the cheapest lamp with room; the rest as an assignment to places."""
    from scipy.optimize import linear_sum_assignment  # heavy: at its first use

    n, m = cost.shape
    lamp, share, left = np.full(n, -1, dtype=np.intp), _shares(w), np.ones(m)

    def put(k: Numbers, j: int) -> None:
        lamp[k] = j
        left[j] -= share[k, j].sum()

    fixed = [k for k in _units(w) if (w.fixed[k] >= 0).any()]
    for k in fixed:
        put(k, int(w.fixed[k].max()))
    done = lamp >= 0
    several = sorted((k for k in _units(w) if len(k) > 1 and not done[k].any()), key=len, reverse=True)
    for k in several:
        price = cost[k].sum(axis=0)
        room = share[k].sum(axis=0) <= left + 1e-9
        price = np.where(room & (price < BLOCKED), price, np.inf)
        if np.isfinite(price).any():
            put(k, int(price.argmin()))
    together = np.zeros(n, dtype=bool)
    for k in several:
        together[k] = True
    # Thick fibres first: a place for a thin one is none for them.
    for d in np.unique(w.thick_mm)[::-1]:
        mine = np.flatnonzero((w.thick_mm == d) & (lamp < 0) & ~together)
        if not len(mine):
            continue
        places = np.array(
            [int((left[j] + 1e-9) / share[mine[0], j]) if share[mine[0], j] <= 1.0 else 0 for j in range(m)]
        )
        column = np.repeat(np.arange(m), np.minimum(places, len(mine)))
        if not len(column):
            continue
        rows, cols = linear_sum_assignment(cost[np.ix_(mine, column)])
        for i, j in zip(mine[rows], column[cols], strict=True):
            if cost[i, j] < BLOCKED:
                put(np.array([i]), int(j))
    return lamp
