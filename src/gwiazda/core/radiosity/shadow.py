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
    shape = np.broadcast_shapes(start.shape, end.shape)[:-1]
    out = np.zeros(shape, dtype=bool)
    for baffle in baffles:
        u, v = in_plane(baffle.axis)
        a, b = start[..., baffle.axis] - baffle.at, end[..., baffle.axis] - baffle.at
        between = a * b < -1e-9
        with np.errstate(divide="ignore", invalid="ignore"):
            t = a / (a - b)
            pu = start[..., u] + t * (end[..., u] - start[..., u])
            pv = start[..., v] + t * (end[..., v] - start[..., v])
        inside = (pu >= baffle.low[0]) & (pu <= baffle.high[0]) & (pv >= baffle.low[1]) & (pv <= baffle.high[1])
        out |= between & inside
    return out


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
    out = np.zeros((len(a), len(b)))
    rays = max(RAYS // max((len(baffles) + 1) // 2, 1), LEAST_RAYS)
    for k in range(rays):
        out += ~blocked(spread_over(a, a_half, k, 0.5)[:, None], spread_over(b, b_half, k, 0.21)[None], baffles)
    return np.asarray(out / rays)
