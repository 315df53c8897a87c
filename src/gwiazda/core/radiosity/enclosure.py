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
from gwiazda.core.radiosity.formfactors import Grid
from gwiazda.core.radiosity.shadow import Baffle, seen_share
from gwiazda.core.radiosity.shape import NO_WINDOWS, BoxShape, Sampling, Windows, overlap, shape_of

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]

LEAST_REFLECTANCE = 1e-4


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


def enclosure(
    size_mm: Sequence[float],
    lining: Sequence[float],
    windows: Windows = NO_WINDOWS,
    baffles: Sequence[Baffle] = (),
    cells: int = CELLS,
    shape: BoxShape | None = None,
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
    shape : BoxShape, optional
        Of this box with these windows and baffles, where it is known already.

    Returns
    -------
    Enclosure
        The box, ready for any lamps.
    """
    s = shape if shape is not None else shape_of(size_mm, windows, baffles, cells)
    reflectance = np.empty(len(s.area))
    for i, (a, b) in enumerate(itertools.pairwise(s.start)):
        reflectance[a:b] = lining[i] if i < 6 else baffles[(i - 6) // 2].reflectance
    _let_windows_in(reflectance, windows, s.grids, s.start, s.area)
    # In terms of the light the cells throw back, X = ρ·E, the system is symmetric and positive: (A/ρ − A·F)·X = A·E_direct.
    back = np.maximum(reflectance, LEAST_REFLECTANCE)
    system = -s.between
    system[np.diag_indices_from(system)] += s.area / back
    # Single precision: a millionth is far below what cells of this size can tell, in half the memory.
    try:
        root = _inverse_factor(system.astype(np.float32))
    except np.linalg.LinAlgError:
        # Walls that throw back all but everything: too near to singular for single precision.
        root = _inverse_factor(system).astype(np.float32)
    window_area = (windows.high - windows.low).prod(axis=1)
    share = (s.to_windows / np.maximum(window_area, 1e-12)[:, None]).astype(np.float32)
    gather = ((share @ root.T) @ root) * s.area.astype(np.float32)
    return Enclosure(
        s.size, s.grids, s.start, s.centre, s.normal, s.area, s.half, back, root, gather,
        s.to_windows.astype(np.float32), windows, window_area, tuple(baffles), s.middle, s.pane_half, s.sampling, s.fine,
    )  # fmt: skip


def _let_windows_in(
    reflectance: Array, windows: Windows, grids: Sequence[Grid], start: Sequence[int], area: Array
) -> None:
    """Of the cells that windows lie in, mix what windows throw back into what the lining does."""
    for face in range(6):
        mine = np.flatnonzero(windows.face == face)
        if len(mine):
            g, a, b = grids[face], start[face], start[face + 1]
            over_u = overlap(g.u, windows.low[mine, 0], windows.high[mine, 0])
            over_v = overlap(g.v, windows.low[mine, 1], windows.high[mine, 1])
            covered = (over_u[:, :, None] * over_v[:, None, :]).reshape(len(mine), -1) / area[a:b]
            share = covered.sum(axis=0)
            # Where windows overlap they count as side by side.
            covered /= np.maximum(share, 1.0)
            reflectance[a:b] = reflectance[a:b] * (1.0 - np.minimum(share, 1.0)) + windows.back[mine] @ covered


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
