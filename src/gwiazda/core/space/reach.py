"""Whether something stiff gets from an opening in a wall to a place inside a box in a straight line, past what stands there."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
SEAT_MM = 0.5  # what is as near as this is what it sits on
ACROSS = 11  # lines tried along each side of the opening


def reaches(place: Array, low: Array, high: Array, blocks: Array, wide_mm: float) -> bool:
    """Whether a round tool of some thickness gets to a place: one of many straight lines from the opening to it is free.

    It comes to a point at its end: the last half of its thickness before the place takes no room.

    Parameters
    ----------
    place : Array
        (3,) where it is to get, mm.
    low, high : Array
        (3,) corners of the opening, a rectangle across one axis, mm.
    blocks : Array
        (N, 2, 3) lowest and highest corners of what stands in the way, mm; one that holds the place itself is what it sits on.
    wide_mm : float
        Thickness of the tool, mm.

    Returns
    -------
    bool
        True where it gets there.
    """
    half = wide_mm / 2.0
    sides = [k for k in range(3) if high[k] - low[k] > 1e-9]
    if len(sides) != 2 or any(high[k] - low[k] < wide_mm - 1e-9 for k in sides):
        return False
    # Many across the opening, and the one straight before the place: down a narrow slot it is the only one.
    along = [
        np.append(np.linspace(low[k] + half, high[k] - half, ACROSS), min(max(place[k], low[k] + half), high[k] - half)) for k in sides
    ]  # fmt: skip
    a, b = np.meshgrid(*along, indexing="ij")
    start = np.tile(np.asarray(low, dtype=float), (a.size, 1))
    start[:, sides[0]], start[:, sides[1]] = a.ravel(), b.ravel()
    away = place - start
    far = np.linalg.norm(away, axis=1, keepdims=True)
    tip = start + away * np.maximum(1.0 - (half + SEAT_MM) / np.maximum(far, 1e-9), 0.0)
    free = np.ones(len(start), dtype=bool)
    for block_low, block_high in np.asarray(blocks, dtype=float).reshape(-1, 2, 3):
        if ((place >= block_low - SEAT_MM) & (place <= block_high + SEAT_MM)).all():
            continue
        free &= ~_crosses(start, tip, block_low - half, block_high + half)
    return bool(free.any())


def _crosses(start: Array, end: Array, low: Array, high: Array) -> npt.NDArray[np.bool_]:
    """Which segments from ``start`` (N, 3) to ``end`` go through a box."""
    way = end - start
    with np.errstate(divide="ignore", invalid="ignore"):
        near, far = (low - start) / way, (high - start) / way
    still = np.abs(way) < 1e-12
    within = (start >= low) & (start <= high)
    first = np.where(still, np.where(within, -np.inf, np.inf), np.minimum(near, far)).max(axis=1)
    last = np.where(still, np.where(within, np.inf, -np.inf), np.maximum(near, far)).min(axis=1)
    return np.asarray((first <= last) & (last >= 0.0) & (first <= 1.0))
