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
    first, last = np.array(low), np.array(low) + np.array(room) - np.array(body)
    if (last < first - TOUCH_MM).any():
        return np.zeros((0, 3))
    along = []
    for k in range(3):
        at = np.concatenate([[first[k]], taken[:, 1, k]]) if len(taken) else first[k : k + 1]
        along.append(np.unique(at[(at >= first[k] - TOUCH_MM) & (at <= last[k] + TOUCH_MM)]))
    z, y, x = np.meshgrid(along[2], along[1], along[0], indexing="ij")
    at = np.column_stack([x.ravel(), y.ravel(), z.ravel()])
    if len(taken):
        clear = np.ones(len(at), dtype=bool)
        for one in taken:
            clear &= ((at >= one[1] - TOUCH_MM) | (at + np.array(body) <= one[0] + TOUCH_MM)).any(axis=1)
        at = at[clear]
    return at


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
    found = _stand(low, room, taken, [bodies[i] for i in order], left)
    if found is None:
        return None
    by = dict(zip(order, found, strict=True))
    return tuple(by[i] for i in range(len(bodies)))


def _stand(
    low: Size, room: Size, taken: Array, bodies: Sequence[Sequence[Size]], left: list[int]
) -> list[Placed] | None:
    if not bodies:
        return []
    for placed in _places(low, room, taken, bodies[0]):
        left[0] -= 1
        if left[0] < 0:
            return None
        corner = np.array(placed.low)
        more = np.concatenate([taken, np.array([[corner, corner + np.array(placed.size)]])])
        rest = _stand(low, room, more, bodies[1:], left)
        if rest is not None:
            return [placed, *rest]
    return None


def _places(low: Size, room: Size, taken: Array, sizes: Sequence[Size]) -> Iterator[Placed]:
    for which, size in enumerate(sizes):
        for turned in ways_round(size):
            for x, y, z in free_places(low, room, taken, turned).tolist():
                yield Placed((x, y, z), turned, which)


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
