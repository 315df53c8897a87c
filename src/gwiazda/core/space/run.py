"""A fibre's or wire's way in space: straight stretches joined by round bends, their lengths, angles and radii."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Place = tuple[float, float, float]
STRAIGHT_DEG = 1.0  # less is no bend
PIECES = 8  # of a bend as it is drawn


class Bend(NamedTuple):
    """A turn: where (mm), by how much (degrees), how wide (mm), and which of the way's places it rounds."""

    at: Place
    degrees: float
    radius_mm: float
    corner: int


class Run(NamedTuple):
    """A way: its points with the bends drawn out (N, 3), its length (mm) and its bends."""

    points: Array
    length_mm: float
    bends: tuple[Bend, ...]


def run_through(places: Sequence[Place], radius_mm: float) -> Run:
    """The way through places (mm), each corner rounded with ``radius_mm``.

    Where there is no room for that, as wide as half of the shorter stretch beside it allows, or all of it at the two ends.
    Rounding shortens the way: by 2·R·tan(θ/2) − R·θ at a corner that turns by θ.

    Parameters
    ----------
    places : Sequence[Place]
        Two or more places of the model, mm.
    radius_mm : float
        Radius of its bends, mm.

    Returns
    -------
    Run
        The way with its length (mm) and bends.

    Raises
    ------
    ValueError
        For fewer than two places or a radius that isn't above zero.
    """
    if len(places) < 2 or radius_mm <= 0:
        raise ValueError("a way has two places or more, and its bends have a radius")
    raw = np.array(places, dtype=float)
    moved = np.linalg.norm(np.diff(raw, axis=0), axis=1) > 1e-9
    keep = np.concatenate([[True], moved])
    corners, p = np.flatnonzero(keep), raw[keep]
    if len(p) < 2:
        return Run(np.vstack([raw[:1], raw[:1]]), 0.0, ())
    steps = np.diff(p, axis=0)
    lengths = np.linalg.norm(steps, axis=1)
    ways = steps / lengths[:, None]
    out: list[Array] = [p[:1]]
    total, bends = float(lengths.sum()), []
    for i in range(1, len(p) - 1):
        turn = math.acos(float(np.clip(ways[i - 1] @ ways[i], -1.0, 1.0)))
        if math.degrees(turn) < STRAIGHT_DEG:
            out.append(p[i : i + 1])
            continue
        room = min(lengths[i - 1] * (1.0 if i == 1 else 0.5), lengths[i] * (1.0 if i == len(p) - 2 else 0.5))
        half = math.tan(min(turn, math.radians(179.0)) / 2.0)
        back = min(radius_mm * half, float(room))  # from the corner to where the bend begins
        radius = back / half
        total -= 2.0 * back - radius * turn
        bends.append(Bend(tuple(p[i].tolist()), math.degrees(turn), radius, int(corners[i])))
        out.append(_arc(p[i], ways[i - 1], ways[i], back, radius, turn))
    out.append(p[-1:])
    return Run(np.concatenate(out), total, tuple(bends))


def _arc(corner: Array, before: Array, after: Array, back: float, radius: float, turn: float) -> Array:
    """Points (PIECES + 1, 3) of the round bend at a corner."""
    start = corner - back * before
    aside = after - before * float(before @ after)
    norm = float(np.linalg.norm(aside))
    if norm < 1e-9:
        return np.vstack([start, corner, corner + back * after])
    aside = aside / norm
    angle = np.linspace(0.0, turn, PIECES + 1)[:, None]
    found: Array = start + radius * (np.sin(angle) * before + (1.0 - np.cos(angle)) * aside)
    return found


def tightest(run: Run) -> Bend | None:
    """The bend of the smallest radius, or None on a straight way.

    Parameters
    ----------
    run : Run
        A way.

    Returns
    -------
    Bend or None
        Its tightest bend, or None.
    """
    return min(run.bends, key=lambda b: b.radius_mm, default=None)


def distance_mm(points: Array, place: Place) -> float:
    """How near a way (N, 3) comes to a place (mm).

    Parameters
    ----------
    points : array
        Points of the way (N, 3), mm.
    place : Place
        A place of the model, mm.

    Returns
    -------
    float
        Distance, mm.
    """
    a, step, at = points[:-1], np.diff(points, axis=0), np.asarray(place, dtype=float)
    length = (step**2).sum(axis=1)
    t = np.clip(((at - a) * step).sum(axis=1) / np.where(length > 0, length, 1.0), 0.0, 1.0)
    return float(np.linalg.norm(a + step * t[:, None] - at, axis=1).min())
