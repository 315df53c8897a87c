"""What of a box is geometry alone: its cells, what they exchange, and what each window gets of each cell.

Reflectances don't enter: a box lined or glazed otherwise has the same shape.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.radiosity.fineness import CELLS
from gwiazda.core.radiosity.formfactors import (
    Grid,
    evenly_parallel,
    evenly_perpendicular,
    exchange,
    exchange_of_small,
    in_plane,
)
from gwiazda.core.radiosity.shadow import Baffle, blocked, near_pairs, seen_share, spread_over, spread_points

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]

LEAST_CELLS = 2  # along an axis
FACES = ((0, 0), (0, 1), (1, 0), (1, 1), (2, 0), (2, 1))  # (axis, end) of x0, x1, y0, y1, z0, z1


class Sampling(NamedTuple):
    """How closely shadows of baffles are looked at.

    ``cell``: points of a cell, for the light that goes straight from it to a window. ``window``: points along each side of
    a window; ``near``: at least so many along each side of a cell near a lamp.
    """

    cell: int
    window: int
    near: int


CLOSE, AT_A_GLANCE = Sampling(16, 24, 8), Sampling(4, 12, 4)


class Windows(NamedTuple):
    """W rectangles in the faces: face number, corners (W, 2) along the face's axes (mm), reflectance inwards."""

    face: npt.NDArray[np.intp]
    low: Array
    high: Array
    back: Array


NO_WINDOWS = Windows(np.zeros(0, np.intp), np.zeros((0, 2)), np.zeros((0, 2)), np.zeros(0))


class BoxShape(NamedTuple):
    """A box cut into N cells, ready for any lining.

    Its grids, where each one's cells begin; the cells' middles, normals, areas (mm²) and half sizes; what they exchange (N, N) and what W windows get
    of them (W, N), mm²; the windows' middles and half sizes; how closely shadows were looked at.
    """

    size: Array
    grids: tuple[Grid, ...]
    start: tuple[int, ...]
    centre: Array
    normal: Array
    area: Array
    half: Array
    between: Array
    to_windows: Array
    middle: Array
    pane_half: Array
    sampling: Sampling
    fine: Array32


def shape_of(size_mm: Sequence[float], windows: Windows, baffles: Sequence[Baffle], cells: int) -> BoxShape:
    """The geometry of a box with its windows and what stands in it.

    Parameters
    ----------
    size_mm : Sequence[float]
        Sizes along x, y, z, mm.
    windows : Windows
        Rectangles in its faces; what they throw back doesn't matter here.
    baffles : Sequence[Baffle]
        Thin sheets inside.
    cells : int
        About how many cells the faces are cut into.

    Returns
    -------
    BoxShape
        Ready for any lining.
    """
    size = np.asarray(size_mm, dtype=float)
    lines = _lines(size.tolist(), baffles, cells)
    grids = _grids(size, lines, baffles)
    parts = [_cells_of(g) for g in grids]
    counts = [len(p[0]) for p in parts]
    start = tuple(int(s) for s in np.concatenate([[0], np.cumsum(counts)]))
    centre, half = (np.concatenate([p[i] for p in parts]) for i in (0, 1))
    normal = np.zeros_like(centre)
    for g, a, b in zip(grids, start, start[1:], strict=False):
        normal[a:b, g.axis] = g.faces
    area = 4.0 * np.prod(np.where(half == 0.0, 1.0, half), axis=1)
    between = _exchanges(grids, start, plain=not baffles)
    if baffles:
        seen = seen_share(centre, half, centre, half, baffles)
        between *= (seen + seen.T) / 2.0
        between = _closed(between, area)
    to_windows = _to_windows(windows, grids, start)
    middle, pane_half = panes_of(size, windows)
    sampling = CLOSE if cells >= CELLS else AT_A_GLANCE
    fine = np.zeros((len(windows.face), 0, 0), np.float32)
    if baffles and len(windows.face):
        fine = _fine(middle, pane_half, centre, half, baffles, sampling.cell)
        to_windows *= fine.sum(axis=2)
    return BoxShape(
        size, grids, start, centre, normal, area, half, between, to_windows, middle, pane_half, sampling, fine
    )


SLENDER, MOST_FINER = 12.0, 3.5


def finer(size_mm: Sequence[float]) -> float:
    """How many times as many cells a flat or a slender box is cut into.

    Light that goes far between near walls bounces often, and errs with each bounce by what a cell is too coarse: the
    cells of a flat box are half as large as it is thick, a slender one has more along it.

    Parameters
    ----------
    size_mm : Sequence[float]
        The three sizes of the box, mm.

    Returns
    -------
    float
        Factor, 1 at the least.
    """
    a, b, c = size_mm
    thick, long = min(size_mm), max(size_mm)
    flat = 2.0 * (a * b + b * c + a * c) / (thick / 2.0) ** 2 / CELLS
    slender = long / thick / 10.0 if long >= SLENDER * thick else 1.0
    return min(max(flat, slender, 1.0), MOST_FINER)


def _lines(size: Sequence[float], baffles: Sequence[Baffle], cells: int) -> tuple[Array, Array, Array]:
    """Lines along x, y and z that make about ``cells`` near-square cells; baffles lie on lines."""
    a, b, c = size
    cells = round(cells * finer(size))
    low, high = 1e-3 * min(size), max(size)
    counts = [LEAST_CELLS] * 3
    for _ in range(40):
        h = (low + high) / 2.0
        counts = [max(LEAST_CELLS, round(s / h)) for s in (a, b, c)]
        total = 2 * (counts[0] * counts[1] + counts[1] * counts[2] + counts[0] * counts[2])
        low, high = (h, high) if total > cells else (low, h)
    out = []
    for axis in range(3):
        marks = {0.0, float(size[axis])}
        for baffle in baffles:
            if baffle.axis == axis:
                marks.add(baffle.at)
            else:
                i = in_plane(baffle.axis).index(axis)
                marks |= {baffle.low[i], baffle.high[i]}
        inside = sorted(m for m in marks if 0.0 <= m <= size[axis])
        step = size[axis] / counts[axis]
        pieces = [
            np.linspace(p, q, max(1, round((q - p) / step)) + 1)[:-1]
            for p, q in itertools.pairwise(inside)
            if q - p > 1e-6
        ]
        out.append(np.concatenate([*pieces, [float(size[axis])]]))
    return out[0], out[1], out[2]


def _grids(size: Array, lines: tuple[Array, Array, Array], baffles: Sequence[Baffle]) -> tuple[Grid, ...]:
    grids = []
    for axis, end in FACES:
        u, v = in_plane(axis)
        grids.append(Grid(axis, float(size[axis]) * end, -1 if end else 1, lines[u], lines[v]))
    for baffle in baffles:
        u, v = in_plane(baffle.axis)
        spans = []
        for i, along in enumerate((u, v)):
            line = lines[along]
            spans.append(line[(line >= baffle.low[i] - 1e-6) & (line <= baffle.high[i] + 1e-6)])
        for side in (1, -1):
            grids.append(Grid(baffle.axis, baffle.at, side, spans[0], spans[1]))
    return tuple(grids)


def _cells_of(grid: Grid) -> tuple[Array, Array]:
    """Centres (n, 3) and half sizes (n, 3) of a grid's cells."""
    u, v = in_plane(grid.axis)
    n, m = len(grid.u) - 1, len(grid.v) - 1
    centre, half = np.empty((n, m, 3)), np.zeros((n, m, 3))
    centre[..., grid.axis] = grid.at
    centre[..., u] = ((grid.u[:-1] + grid.u[1:]) / 2.0)[:, None]
    centre[..., v] = ((grid.v[:-1] + grid.v[1:]) / 2.0)[None]
    half[..., u] = (np.diff(grid.u) / 2.0)[:, None]
    half[..., v] = (np.diff(grid.v) / 2.0)[None]
    return centre.reshape(-1, 3), half.reshape(-1, 3)


def overlap(lines: Array, low: Array, high: Array) -> Array:
    """Length of each interval of ``lines`` within each of W ranges.

    Parameters
    ----------
    lines : array (n + 1,)
        Ends of n intervals in a row, mm.
    low, high : array (W,)
        The ranges, mm.

    Returns
    -------
    array (W, n)
        Lengths, mm; 0 where they don't meet.
    """
    return np.asarray(np.maximum(np.minimum(lines[1:], high[:, None]) - np.maximum(lines[:-1], low[:, None]), 0.0))


def _to_windows(windows: Windows, grids: Sequence[Grid], start: Sequence[int]) -> Array:
    """What each window exchanges with each cell, with nothing between: (W, N), mm²."""
    out = np.zeros((len(windows.face), start[-1]))
    for face in range(6):
        mine = np.flatnonzero(windows.face == face)
        if not len(mine):
            continue
        g = grids[face]
        pane = Grid(
            g.axis, g.at, g.faces,
            np.column_stack([windows.low[mine, 0], windows.high[mine, 0]]),
            np.column_stack([windows.low[mine, 1], windows.high[mine, 1]]),
        )  # fmt: skip
        for j, other in enumerate(grids):
            if j != face:
                out[mine, start[j] : start[j + 1]] = exchange_of_small(pane, other)
    return out


def _fine(
    middle: Array, pane_half: Array, centre: Array, half: Array, baffles: Sequence[Baffle], count: int
) -> Array32:
    """Of what windows and cells would exchange with nothing between, what each of ``count`` points of the cells still does: (W, N, count)."""
    points = points_of(centre, half, count)
    cells = np.arange(len(centre))
    out = np.zeros((len(middle), len(centre), count), np.float32)
    to, across = (np.argmin(x, axis=1) for x in (pane_half, half))  # the axis each lies across
    may = np.zeros((len(middle), len(centre)), dtype=bool)
    for baffle in baffles:
        may[near_pairs(middle, pane_half, centre, half, baffle)] = True
    for w in range(len(middle)):
        # Another point of the window for each cell and each of its points, so that their errors even out.
        u, v = spread_points(np.arange(len(centre) * count) + w * 7, 0.21)
        along = [a for a in range(3) if a != to[w]]
        pane = np.tile(middle[w], (len(u), 1))
        pane[:, along[0]] += u * pane_half[w, along[0]]
        pane[:, along[1]] += v * pane_half[w, along[1]]
        way = pane.reshape(len(centre), count, 3) - points
        kernel = np.abs(way[:, :, to[w]] * np.take_along_axis(way, across[:, None, None], 2)[:, :, 0])
        kernel /= np.maximum((way**2).sum(axis=2), 1e-6) ** 2
        seen = np.ones(kernel.shape, dtype=bool)
        near = np.flatnonzero(may[w])
        seen[near] = ~blocked(points[near], points[near] + way[near], baffles)
        out[w, cells] = kernel * seen / np.maximum(kernel.sum(axis=1, keepdims=True), 1e-12)
    return out


def points_of(centre: Array, half: Array, count: int) -> Array:
    """Points spread over cells: (N, K, 3).

    Parameters
    ----------
    centre : array
        Middles of N cells (N, 3), mm.
    half : array
        Half sizes of the cells (N, 3), 0 along the axis they lie across, mm.
    count : int
        Points K of each.

    Returns
    -------
    array
        Points (N, K, 3), mm.
    """
    return np.stack([spread_over(centre, half, k, 0.5) for k in range(count)], axis=1)


def _exchanges(grids: tuple[Grid, ...], start: tuple[int, ...], plain: bool) -> Array:
    """Exchange areas (mm²) of all cells: (N, N). In a plain box, evenly cut, faces across are mirror images."""
    between = np.zeros((start[-1], start[-1]))
    corner: dict[tuple[int, int], Array] = {}
    for i in range(len(grids)):
        for j in range(i + 1, len(grids)):
            a, b = grids[i], grids[j]
            if not plain:
                block = exchange(a, b)
            elif a.axis == b.axis:
                ends = (float(a.u[-1]), float(a.v[-1]))
                block = evenly_parallel(ends, (len(a.u) - 1, len(a.v) - 1), abs(b.at - a.at))
            else:
                key = (a.axis, b.axis)
                if key not in corner:
                    corner[key] = _corner(grids[2 * a.axis], grids[2 * b.axis])
                block = corner[key]
                if a.faces < 0:
                    block = np.flip(block, 2 + in_plane(b.axis).index(a.axis))
                if b.faces < 0:
                    block = np.flip(block, in_plane(a.axis).index(b.axis))
                block = block.reshape(start[i + 1] - start[i], -1)
            between[start[i] : start[i + 1], start[j] : start[j + 1]] = block
            between[start[j] : start[j + 1], start[i] : start[i + 1]] = block.T
    return between


def _corner(a: Grid, b: Grid) -> Array:
    """Exchange of two faces that meet at the origin: (cells of a along u, v, cells of b along u, v)."""
    shared = 3 - a.axis - b.axis
    a_first, b_first = (in_plane(g.axis)[0] == shared for g in (a, b))
    along = a.u if a_first else a.v
    across = [g.v if first else g.u for g, first in ((a, a_first), (b, b_first))]
    block = evenly_perpendicular(*((float(line[-1]), len(line) - 1) for line in (along, *across)))
    if not a_first:
        block = block.swapaxes(0, 1)
    return block if b_first else block.swapaxes(2, 3)


def _closed(between: Array, area: Array) -> Array:
    """Exchange areas scaled, alike both ways, until each cell exchanges as much as it has area: rays thin out a little."""
    for _ in range(8):
        total = np.maximum(between.sum(axis=1), 1e-12)
        k = np.sqrt(np.clip(area / total, 0.25, 4.0))
        between = between * k[:, None] * k[None, :]
    return between


def panes_of(size: Array, windows: Windows) -> tuple[Array, Array]:
    """Middles and half sizes (W, 3) of windows in the box.

    Parameters
    ----------
    size : array
        Size of the box (3,), mm.
    windows : Windows
        W windows on its faces.

    Returns
    -------
    tuple[array, array]
        Middles and half sizes (W, 3) each, mm.
    """
    middle, half = np.zeros((len(windows.face), 3)), np.zeros((len(windows.face), 3))
    for face, (axis, end) in enumerate(FACES):
        mine = windows.face == face
        u, v = in_plane(axis)
        middle[mine, axis] = size[axis] * end
        for i, along in enumerate((u, v)):
            middle[mine, along] = (windows.low[mine, i] + windows.high[mine, i]) / 2.0
            half[mine, along] = (windows.high[mine, i] - windows.low[mine, i]) / 2.0
    return middle, half
