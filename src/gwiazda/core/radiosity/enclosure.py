"""Light inside a lined box: radiosity on its six faces, its windows and its baffles.

The faces are cut into near-square cells. What the cells exchange, and what each window gets of each cell, depends on
box, lining, windows and baffles alone and is worked out once; a lamp that moves costs its direct light and a product.

Sources
-------
[1] C. Goral, K. Torrance, D. Greenberg, B. Battaile, "Modeling the interaction of light between diffuse surfaces",
    SIGGRAPH 1984: E = E_direct + F·(ρ·E).
[2] M. Cohen, J. Wallace, Radiosity and Realistic Image Synthesis (1993): gathering once more at the receiver.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any, NamedTuple

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

LEAST_REFLECTANCE = 1e-4
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


class Enclosure(NamedTuple):
    """A box ready for lamps.

    ``grids`` are its faces and the two sides of each baffle, ``start`` the number of their first cells. ``root`` (N, N)
    is the inverse of the system's Cholesky factor, ``bounced`` uses it; ``gather`` (W, N) turns direct illuminance of
    the cells into what they and their bounces send to the windows.
    """

    size: Array
    grids: tuple[Grid, ...]
    start: tuple[int, ...]
    centre: Array
    normal: Array
    area: Array  # mm²
    half: Array  # (N, 3) half sizes
    reflectance: Array
    root: Array32
    gather: Array32
    reach: Array32  # (W, N) exchange areas of windows and cells, mm²
    windows: Windows
    window_area: Array
    baffles: tuple[Baffle, ...]
    middle: Array  # (W, 3) of the windows
    pane_half: Array
    sampling: Sampling
    fine: Array32  # (W, N, K) of what reaches a window from a cell, the share that comes from each of K points of it; empty without baffles


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


def _overlap(lines: Array, low: Array, high: Array) -> Array:
    """Length of each interval of ``lines`` within each of W ranges: (W, n)."""
    return np.asarray(np.maximum(np.minimum(lines[1:], high[:, None]) - np.maximum(lines[:-1], low[:, None]), 0.0))


def enclosure(
    size_mm: Sequence[float],
    lining: Sequence[float],
    windows: Windows = NO_WINDOWS,
    baffles: Sequence[Baffle] = (),
    cells: int = CELLS,
) -> Enclosure:
    """A box cut into cells, its exchange solved [1]_.

    Parameters
    ----------
    size_mm : three sizes along x, y, z
    lining : six reflectances
        Of the faces x0, x1, y0, y1, z0, z1 (x1 is the end of the x axis).
    windows : Windows
        They throw back by their own reflectance; what they let out is left to the caller.
    baffles : thin sheets inside
    cells : int
        About how many cells the faces are cut into, more of them where ``finer`` says so; errors fall with it (see
        ``docs/computation.md``).

    Returns
    -------
    Enclosure
        The box, ready for any lamps.
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
    reflectance = np.empty(len(area))
    for i, (a, b) in enumerate(itertools.pairwise(start)):
        reflectance[a:b] = lining[i] if i < 6 else baffles[(i - 6) // 2].reflectance
    _let_windows_in(reflectance, windows, grids, start, area)
    between = _exchanges(grids, start, plain=not baffles)
    if baffles:
        seen = seen_share(centre, half, centre, half, baffles)
        between *= (seen + seen.T) / 2.0
        between = _closed(between, area)
    # In terms of the light the cells throw back, X = ρ·E, the system is symmetric and positive: (A/ρ − A·F)·X = A·E_direct.
    back = np.maximum(reflectance, LEAST_REFLECTANCE)
    system = -between
    system[np.diag_indices_from(system)] += area / back
    # Single precision: a millionth is far below what cells of this size can tell, in half the memory.
    try:
        root = _inverse_factor(system.astype(np.float32))
    except np.linalg.LinAlgError:
        # Walls that throw back all but everything: too near to singular for single precision.
        root = _inverse_factor(system).astype(np.float32)
    window_area = (windows.high - windows.low).prod(axis=1)
    to_windows = _to_windows(windows, grids, start)
    middle, pane_half = panes_of(size, windows)
    sampling = CLOSE if cells >= CELLS else AT_A_GLANCE
    fine = np.zeros((len(window_area), 0, 0), np.float32)
    if baffles and len(window_area):
        fine = _fine(middle, pane_half, centre, half, baffles, sampling.cell)
        to_windows *= fine.sum(axis=2)
    share = (to_windows / np.maximum(window_area, 1e-12)[:, None]).astype(np.float32)
    gather = ((share @ root.T) @ root) * area.astype(np.float32)
    return Enclosure(
        size, grids, start, centre, normal, area, half, back, root, gather,
        to_windows.astype(np.float32), windows, window_area, tuple(baffles), middle, pane_half, sampling, fine,
    )  # fmt: skip


def _let_windows_in(
    reflectance: Array, windows: Windows, grids: Sequence[Grid], start: Sequence[int], area: Array
) -> None:
    """Of the cells that windows lie in, mix what windows throw back into what the lining does."""
    for face in range(6):
        mine = np.flatnonzero(windows.face == face)
        if len(mine):
            g, a, b = grids[face], start[face], start[face + 1]
            over_u = _overlap(g.u, windows.low[mine, 0], windows.high[mine, 0])
            over_v = _overlap(g.v, windows.low[mine, 1], windows.high[mine, 1])
            covered = (over_u[:, :, None] * over_v[:, None, :]).reshape(len(mine), -1) / area[a:b]
            share = covered.sum(axis=0)
            # Where windows overlap they count as side by side.
            covered /= np.maximum(share, 1.0)
            reflectance[a:b] = reflectance[a:b] * (1.0 - np.minimum(share, 1.0)) + windows.back[mine] @ covered


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


def gathered(box: Enclosure, window: int, sheets: Sequence[Baffle]) -> tuple[Array, float]:
    """A window with sheets before it.

    What direct light of the cells and its bounces send there (N,), for 1 lx of each; and the share of the window that
    a sheet stands straight behind.

    Parameters
    ----------
    box : Enclosure
        The box cut into N cells.
    window : int
        Number of the window.
    sheets : Sequence[Baffle]
        What stands before it, beside the box's own.

    Returns
    -------
    tuple[array, float]
        Weights of the cells (N,), and a share (0 to 1).
    """
    middle, half = box.middle[window : window + 1], box.pane_half[window : window + 1]
    seen = seen_share(middle, half, box.centre, box.half, [*box.baffles, *sheets])
    share = (box.reach[window : window + 1] * seen / max(float(box.window_area[window]), 1e-12)).astype(np.float32)
    row = ((share @ box.root.T) @ box.root) * box.area.astype(np.float32)
    low, high = box.windows.low[window], box.windows.high[window]
    covered = 0.0
    for sheet in sheets:
        wide = np.maximum(np.minimum(high, sheet.high) - np.maximum(low, sheet.low), 0.0)
        covered += float(wide.prod() / max((high - low).prod(), 1e-12))
    return np.asarray(row[0], dtype=float), min(covered, 1.0)


def only(box: Enclosure, window: int, sheets: Sequence[Baffle] = ()) -> Enclosure:
    """The same enclosure with one window, and more sheets in it, for the direct light on that window.

    Parameters
    ----------
    box : Enclosure
        The box with its windows.
    window : int
        Number of the one to keep.
    sheets : Sequence[Baffle]
        What else stands in it.

    Returns
    -------
    Enclosure
        Another box.
    """
    w, one = box.windows, slice(window, window + 1)
    return box._replace(
        windows=Windows(w.face[one], w.low[one], w.high[one], w.back[one]), middle=box.middle[one],
        pane_half=box.pane_half[one], baffles=(*box.baffles, *sheets),
    )  # fmt: skip


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


SIDE = 64  # of a block that LAPACK takes as it is


def _inverse_factor(system: Array | Array32) -> Any:
    """Inverse of the lower Cholesky factor of a symmetric positive matrix, by halves.

    Products of matrices do nearly all of it: a fifth of the time that LAPACK takes for factor and inverse.

    Raises
    ------
    numpy.linalg.LinAlgError
        When the matrix isn't positive, as far as its precision can tell.
    """
    n = len(system)
    if n <= SIDE:
        return np.linalg.inv(np.linalg.cholesky(system))
    k = n // 2
    first = _inverse_factor(system[:k, :k])
    below = system[k:, :k] @ first.T
    second = _inverse_factor(system[k:, k:] - below @ below.T)
    out = np.zeros_like(system)
    out[:k, :k], out[k:, k:] = first, second
    out[k:, :k] = -second @ (below @ first)
    return out


def bounced(box: Enclosure, direct: Array) -> Array32:
    """Illuminance of the cells with all bounces, from the direct one: (N, L), lx.

    Parameters
    ----------
    box : Enclosure
        The box cut into N cells.
    direct : array
        Direct illuminance (N, L), lx.

    Returns
    -------
    array
        Illuminance (N, L), lx.
    """
    sent = (box.area[:, None] * direct).astype(np.float32)
    return np.asarray(box.root.T @ (box.root @ sent) / box.reflectance[:, None].astype(np.float32))


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
