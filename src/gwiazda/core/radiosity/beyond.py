"""Direct light of a lamp through a hole into the box beyond: an edged patch there, where what bounces comes through evenly.

Places are mm from the lowest corner of the box beyond; the lamp lies outside of it.

Sources
-------
[1] M. Cohen, J. Wallace, Radiosity and Realistic Image Synthesis (1993), direct light and visibility by sampling.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.radiosity.beams import Beams, illuminance
from gwiazda.core.radiosity.direct import window_points
from gwiazda.core.radiosity.enclosure import Enclosure
from gwiazda.core.radiosity.formfactors import in_plane
from gwiazda.core.radiosity.shadow import Baffle
from gwiazda.core.radiosity.shape import FACES

Array = npt.NDArray[np.float64]
RAYS, SAMPLES = 32, 24  # a side: of the hole, for the cells; of a window, for the edge of the shadow across it
HAIR = 1e-9


class Gate(NamedTuple):
    """A rectangle across ``axis`` at a place (mm), from ``low`` to ``high`` along the two other axes, in axis order."""

    axis: int
    at: float
    low: tuple[float, float]
    high: tuple[float, float]


class Straight(NamedTuple):
    """For 1 lm of the lamp: direct illuminance (lx) of windows (W,) and cells (N,), and the light (lm) that gets through."""

    windows: Array
    cells: Array
    passed_lm: float


def _through(start: Array, end: Array, gate: Gate) -> npt.NDArray[np.bool_]:
    """Whether ways from ``start`` to ``end`` (…, 3), broadcast, go through a gate that lies between them."""
    u, v = in_plane(gate.axis)
    a, b = start[..., gate.axis] - gate.at, end[..., gate.axis] - gate.at
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.where(a == b, 1.0, a / (a - b))
    inside = np.ones(np.broadcast_shapes(start.shape, end.shape)[:-1], dtype=bool)
    for axis, low, high in zip((u, v), gate.low, gate.high, strict=True):
        p = start[..., axis] + t * (end[..., axis] - start[..., axis])
        inside &= (p >= low - HAIR) & (p <= high + HAIR)
    return inside


def _landing(box: Enclosure, start: Array, way: Array) -> tuple[npt.NDArray[np.intp], Array]:
    """The cell that each of rays (R, 3) in a box meets first, and where it does (R, 3)."""
    with np.errstate(divide="ignore", invalid="ignore"):
        reach = np.where(way > 0, (box.size - start) / way, np.where(way < 0, -start / way, np.inf))
    axis = np.argmin(reach, axis=1)
    rows = np.arange(len(start))
    t = np.maximum(reach[rows, axis], 0.0)
    grid = 2 * axis + (way[rows, axis] > 0)
    for k, baffle in enumerate(box.baffles):
        with np.errstate(divide="ignore", invalid="ignore"):
            s = (baffle.at - start[:, baffle.axis]) / way[:, baffle.axis]
            at = start + s[:, None] * way
            meets = (s > HAIR) & (s < t)
            for along, low, high in zip(in_plane(baffle.axis), baffle.low, baffle.high, strict=True):
                meets &= (at[:, along] >= low) & (at[:, along] <= high)
        t = np.where(meets, s, t)
        # Of its two sides the one that looks against the ray.
        grid = np.where(meets, 6 + 2 * k + (way[:, baffle.axis] > 0), grid)
    hit = start + t[:, None] * way
    cell = np.zeros(len(start), dtype=np.intp)
    for number, g in enumerate(box.grids):
        mine = np.flatnonzero(grid == number)
        if len(mine):
            u, v = in_plane(g.axis)
            i, j = (
                np.clip(np.searchsorted(line, hit[mine, a], side="right") - 1, 0, len(line) - 2)
                for line, a in ((g.u, u), (g.v, v))
            )
            cell[mine] = box.start[number] + i * (len(g.v) - 1) + j
    return cell, hit


def straight(
    box: Enclosure, face: int, beams: Beams, share: Array, hole: tuple[Gate, Gate], before: Sequence[Baffle] = ()
) -> Straight:
    """What a lamp next door sends straight through a hole [1]_.

    Parameters
    ----------
    box : Enclosure
        The box beyond.
    face : int
        Of it, that the hole is in (0 to 5).
    beams : Beams
        The lamp as beams, L of them, outside of the box.
    share : (L,) array
        Of the lamp's light in each.
    hole : two gates
        Where the light goes in, and where it comes out in the box's face; what meets the sides between them isn't counted.
    before : baffles
        That stand between the lamp and the hole.

    Returns
    -------
    Straight
        The cells get all of ``passed_lm`` together; the windows lie in the cells.
    """
    into, out = hole
    u, v = in_plane(out.axis)
    step = (np.arange(RAYS) + 0.5) / RAYS
    places = np.empty((RAYS * RAYS, 3))
    places[:, out.axis] = out.at
    for axis, along in zip((u, v), np.meshgrid(step, step, indexing="ij"), strict=True):
        i = (u, v).index(axis)
        places[:, axis] = out.low[i] + (out.high[i] - out.low[i]) * along.ravel()
    # The side that looks at the lamp.
    normal = np.zeros_like(places)
    normal[:, out.axis] = 1.0 if FACES[face][1] else -1.0
    lux = illuminance(places, normal, beams, before) * share
    lux *= _through(beams.at[None], places[:, None], into)
    each_mm2 = (out.high[0] - out.low[0]) * (out.high[1] - out.low[1]) / len(places)
    ray, lamp = np.nonzero(lux)
    windows, cells = np.zeros(len(box.windows.face)), np.zeros(len(box.area))
    if not len(ray):
        return Straight(windows, cells, 0.0)
    light = lux[ray, lamp] * each_mm2  # in lm·1e6
    cell, hit = _landing(box, places[ray], places[ray] - beams.at[lamp])
    cells = np.bincount(cell, light, minlength=len(cells)) / box.area
    for k in _lit_windows(box, cell, hit):
        points, facing = window_points(box, SAMPLES, np.array([k]))
        at = illuminance(points, facing, beams, [*before, *box.baffles]) * share
        for gate in hole:
            at *= _through(beams.at[None], points[:, None], gate)
        windows[k] = at.sum(axis=1).mean()
    return Straight(windows, cells, float(light.sum()) * 1e-6)


def _lit_windows(box: Enclosure, cell: npt.NDArray[np.intp], hit: Array) -> npt.NDArray[np.intp]:
    """The windows that lie where rays landed, a cell's width around counted in."""
    out = []
    for face, (axis, _) in enumerate(FACES):
        here = (cell >= box.start[face]) & (cell < box.start[face + 1])
        mine = np.flatnonzero(box.windows.face == face)
        if not len(mine) or not here.any():
            continue
        along = list(in_plane(axis))
        slack = 2.0 * box.half[box.start[face]][along]
        low, high = hit[here][:, along].min(axis=0) - slack, hit[here][:, along].max(axis=0) + slack
        near = (box.windows.low[mine] <= high).all(axis=1) & (box.windows.high[mine] >= low).all(axis=1)
        out.append(mine[near])
    return np.concatenate(out) if out else np.zeros(0, np.intp)
