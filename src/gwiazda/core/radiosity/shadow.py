"""Thin sheets inside of a box, and what they stand before."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.radiosity.formfactors import in_plane

Array = npt.NDArray[np.float64]


class Baffle(NamedTuple):
    """A thin sheet across ``axis`` at a place (mm), from ``low`` to ``high`` along the two other axes, in axis order."""

    axis: int
    at: float
    low: tuple[float, float]
    high: tuple[float, float]
    reflectance: float


def blocked(start: Array, end: Array, baffles: Sequence[Baffle]) -> npt.NDArray[np.bool_]:
    """Whether a baffle stands between points (…, 3) and (…, 3), broadcast; touching its plane doesn't count.

    Parameters
    ----------
    start : array
        Points (…, 3), mm.
    end : array
        Points (…, 3), mm, broadcast against them.
    baffles : Sequence[Baffle]
        Boxes that may stand between.

    Returns
    -------
    array of bool
        True where one does.
    """
    out = np.zeros(np.broadcast_shapes(start.shape, end.shape)[:-1], dtype=bool)
    for baffle in baffles:
        out |= _parted([start[..., k] for k in range(3)], [end[..., k] for k in range(3)], baffle)
    return out


def _parted(start: Sequence[Array], end: Sequence[Array], baffle: Baffle) -> npt.NDArray[np.bool_]:
    """Whether a baffle stands between places, given by their three coordinates, each broadcast against the others."""
    a, b = start[baffle.axis] - baffle.at, end[baffle.axis] - baffle.at
    inside = np.asarray(a * b < -1e-9)
    with np.errstate(divide="ignore", invalid="ignore"):
        t = a / (a - b)
        for k, low, high in zip(in_plane(baffle.axis), baffle.low, baffle.high, strict=True):
            met = start[k] + t * (end[k] - start[k])
            inside &= (met >= low) & (met <= high)
    return inside


Pairs = tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]
LOOSE_MM = 0.01  # by which single precision may err
RAYS, LEAST_RAYS = 8, 2  # between two cells: fewer where there are many sheets, whose errors even out


def spread_points(k: npt.NDArray[Any] | int, first: float) -> tuple[Array, Array]:
    """The k-th points of a well-spread sequence over a square from −1 to 1, in no rows: along and across.

    Parameters
    ----------
    k : array or int
        Number in the sequence, or numbers of any shape.
    first : float
        Where the sequence begins, 0 to 1.

    Returns
    -------
    tuple[array, array]
        Along and across, −1 to 1, of the shape of ``k``.
    """
    u, v = (np.asarray((first + k * turn) % 1.0 * 2.0 - 1.0) for turn in (0.7548776662466927, 0.5698402909980532))
    return u, v


def spread_over(centre: Array, half: Array, k: int, first: float) -> Array:
    """The k-th of a well-spread sequence of points in each of some rectangles: (n, 3).

    Parameters
    ----------
    centre : array
        Middles of n rectangles (n, 3), mm.
    half : array
        Half their sizes (n, 3), 0 along the axis they lie across, mm.
    k : int
        Number in the sequence.
    first : float
        Where the sequence begins, 0 to 1.

    Returns
    -------
    array
        Points (n, 3), mm.
    """
    u, v = spread_points(k, first)
    # A rectangle has two axes it extends along: the first takes u, the second v.
    flat = half == 0.0
    along = np.where(np.cumsum(~flat, axis=1) == 1, u, v)
    return np.asarray(centre + np.where(flat, 0.0, half * along))


def seen_share(a: Array, a_half: Array, b: Array, b_half: Array, baffles: Sequence[Baffle]) -> Array:
    """Share of rays between points of each of ``a`` and points of each of ``b`` that nothing blocks: (A, B).

    Parameters
    ----------
    a : array
        Middles of A rectangles (A, 3), mm.
    a_half : array
        Half their sizes (A, 3), mm.
    b : array
        Middles of B rectangles (B, 3), mm.
    b_half : array
        Half their sizes (B, 3), mm.
    baffles : Sequence[Baffle]
        Boxes that may stand between.

    Returns
    -------
    array
        Share (A, B), 0 to 1.
    """
    free = np.zeros((len(a), len(b)))
    rays = max(RAYS // max((len(baffles) + 1) // 2, 1), LEAST_RAYS)
    pairs = [near_pairs(a, a_half, b, b_half, baffle) for baffle in baffles]
    for k in range(rays):
        p, q = spread_over(a, a_half, k, 0.5).T, spread_over(b, b_half, k, 0.21).T
        stopped = np.zeros(free.size, dtype=bool)
        for baffle, (i, j) in zip(baffles, pairs, strict=True):
            crossed = _parted([x[i] for x in p], [x[j] for x in q], baffle)
            stopped[i[crossed] * len(b) + j[crossed]] = True
        free += ~stopped.reshape(free.shape)
    return np.asarray(free / rays)


def near_pairs(a: Array, a_half: Array, b: Array, b_half: Array, baffle: Baffle) -> Pairs:
    """The pairs of ``a`` and ``b`` between which a baffle may stand, whichever points of the two are taken.

    Parameters
    ----------
    a : array
        Middles of A rectangles (A, 3), mm.
    a_half : array
        Half their sizes (A, 3), mm.
    b : array
        Middles of B rectangles (B, 3), mm.
    b_half : array
        Half their sizes (B, 3), mm.
    baffle : Baffle
        What may stand between.

    Returns
    -------
    Pairs
        Their numbers in ``a`` and in ``b``, (P,) each; some may come twice.
    """
    axis = baffle.axis
    (a_low, a_high), (b_low, b_high) = (
        [(m + s * h).astype(np.float32).T for s in (-1.0, 1.0)] for m, h in ((a, a_half), (b, b_half))
    )
    at, found = np.float32(baffle.at), []
    for way in (1.0, -1.0):
        # Of each how near and how far it lies, on this side of the plane and on the other; one may reach over it.
        rows = np.flatnonzero(np.maximum(way * (a_low[axis] - at), way * (a_high[axis] - at)) > 0.0)
        columns = np.flatnonzero(np.minimum(way * (b_low[axis] - at), way * (b_high[axis] - at)) < 0.0)
        a_ends = [np.maximum(way * (x[axis, rows] - at), 0.0) for x in (a_low, a_high)]
        b_ends = [np.maximum(way * (at - x[axis, columns]), 0.0) for x in (b_low, b_high)]
        a_near, a_far = np.minimum(*a_ends)[:, None], np.maximum(*a_ends)[:, None]
        b_near, b_far = np.minimum(*b_ends), np.maximum(*b_ends)
        # How far from a to b the plane is met, as a share.
        first, last = a_near / (a_near + b_far), a_far / (a_far + b_near)
        may = np.ones(first.shape, dtype=bool)
        for k, low, high in zip(in_plane(axis), baffle.low, baffle.high, strict=True):
            start, away = a_low[k, rows][:, None], b_low[k, columns] - a_low[k, rows][:, None]
            may &= start + np.minimum(first * away, last * away) <= high + LOOSE_MM
            start, away = a_high[k, rows][:, None], b_high[k, columns] - a_high[k, rows][:, None]
            may &= start + np.maximum(first * away, last * away) >= low - LOOSE_MM
        i, j = np.nonzero(may)
        found.append((rows[i], columns[j]))
    i, j = (np.concatenate(x) for x in zip(*found, strict=True))
    return i, j
