"""Boxes that are to stand in a box, clear of what stands there already.

Sources
-------
[1] Pushed towards one corner as far as it goes, a box touches the wall or another box along each axis; so of all places
    only those need be looked at whose low corner is on the wall or on the far face of what stands there ("normal
    patterns": N. Christofides, C. Whitlock, "An algorithm for two-dimensional cutting problems", Oper. Res. 25 (1977)).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import permutations
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Size = tuple[float, float, float]
TOUCH_MM = 1e-6
MOST_TRIES = 4000  # places looked at before a search for several gives up


class Placed(NamedTuple):
    """A box in its place: low corner and size along the axes, mm; ``which`` of the sizes it was offered in."""

    low: Size
    size: Size
    which: int


def ways_round(size: Size) -> tuple[Size, ...]:
    """The up to six ways a box can stand; the flattest first, then the longest along x.

    Parameters
    ----------
    size : tuple[float, float, float]
        Its three edges, mm.

    Returns
    -------
    tuple[tuple[float, float, float], ...]
        Sizes along the axes, mm, each once.
    """
    found = {(a, b, c) for a, b, c in permutations(size)}
    return tuple(sorted(found, key=lambda s: (s[2], -s[0])))


def free_places(low: Size, room: Size, taken: Array, body: Size) -> Array:
    """Low corners (K, 3), mm, where a box stands free, the lowest first; empty where there is none.

    Parameters
    ----------
    low, room : tuple[float, float, float]
        Low corner and size of the box it stands in, mm.
    taken : numpy.ndarray
        What stands there, (N, 2, 3): low and high corners, mm.
    body : tuple[float, float, float]
        Its size along the axes, mm.

    Returns
    -------
    numpy.ndarray
        All places pushed towards the low corner [1]: if there is none among them, there is none at all.
    """
    return np.array(list(_free(low, room, taken.tolist(), body)), dtype=float).reshape(-1, 3)


def _free(low: Size, room: Size, taken: Sequence[Sequence[Sequence[float]]], body: Size) -> Iterator[Size]:
    """The places one by one: height by height, at each only what stands that high counts, and in each line across the gaps along it."""
    last = [low[k] + room[k] - body[k] for k in range(3)]
    if any(last[k] < low[k] - TOUCH_MM for k in range(3)):
        return
    for z in _pushed(low[2], last[2], taken, 2):
        here = [t for t in taken if t[0][2] < z + body[2] - TOUCH_MM and t[1][2] > z + TOUCH_MM]
        for y in _pushed(low[1], last[1], here, 1):
            line = sorted(
                (t[0][0], t[1][0]) for t in here if t[0][1] < y + body[1] - TOUCH_MM and t[1][1] > y + TOUCH_MM
            )
            x = low[0]
            for begins, ends in line:
                if begins >= x + body[0] - TOUCH_MM and x <= last[0] + TOUCH_MM:
                    yield x, y, z
                x = max(x, ends)
            if x <= last[0] + TOUCH_MM:
                yield x, y, z


def _pushed(low: float, last: float, taken: Sequence[Sequence[Sequence[float]]], axis: int) -> list[float]:
    """Where a box may lie along an axis, pushed against the wall or against something there."""
    at = {low, *(t[1][axis] for t in taken)}
    return sorted(v for v in at if low - TOUCH_MM <= v <= last + TOUCH_MM)


def stand(low: Size, room: Size, taken: Array, bodies: Sequence[Sequence[Size]]) -> tuple[Placed, ...] | None:
    """Places for several boxes at once, each in one of its sizes and any way round; None where none are found.

    For one box that is exact; for several the largest is placed first and taken back where the rest then finds no room,
    within a limit of tries.

    Parameters
    ----------
    low, room : tuple[float, float, float]
        Low corner and size of the box they stand in, mm.
    taken : numpy.ndarray
        What stands there, (N, 2, 3): low and high corners, mm.
    bodies : sequence
        Of each box the sizes it may have, mm; the first that goes in is taken.

    Returns
    -------
    tuple[Placed, ...] or None
        In the order of ``bodies``.
    """
    order = sorted(range(len(bodies)), key=lambda i: -max((a * b * c for a, b, c in bodies[i]), default=0.0))
    left = [MOST_TRIES]
    found = _stand(low, room, taken.tolist(), [bodies[i] for i in order], left)
    if found is None:
        return None
    by = dict(zip(order, found, strict=True))
    return tuple(by[i] for i in range(len(bodies)))


def _stand(
    low: Size, room: Size, taken: list[list[list[float]]], bodies: Sequence[Sequence[Size]], left: list[int]
) -> list[Placed] | None:
    if not bodies:
        return []
    for which, size in enumerate(bodies[0]):
        for turned in ways_round(size):
            for place in _free(low, room, taken, turned):
                left[0] -= 1
                if left[0] < 0:
                    return None
                high = [p + s for p, s in zip(place, turned, strict=True)]
                rest = _stand(low, room, [*taken, [list(place), high]], bodies[1:], left)
                if rest is not None:
                    return [Placed(place, turned, which), *rest]
    return None


def short_of(room: Size, sizes: Sequence[Size]) -> tuple[float, int, float, float]:
    """By how much the best of sizes is too large for an empty box.

    Parameters
    ----------
    room : tuple[float, float, float]
        Size of the box, mm.
    sizes : sequence
        The sizes it may have, mm.

    Returns
    -------
    tuple[float, int, float, float]
        mm it is too large by, at least 0; along which axis; what it needs there and what there is, mm.
    """
    tries = [max((s[k] - room[k], k, s[k], room[k]) for k in range(3)) for size in sizes for s in ways_round(size)]
    over, axis, needs, there = min(tries)
    return max(over, 0.0), axis, needs, there
