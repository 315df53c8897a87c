"""Form factors between axis-parallel rectangles, in closed form, whole grids of them at a time.

A rectangle pair's exchange area A₁·F₁₂ (mm²) is a signed sum, over the corners of both, of one function of the
differences of their coordinates. On grids that function is worked out once at every pair of lines.

Sources
-------
[1] J. Howell, A catalog of radiation heat transfer configuration factors: C-13 (parallel rectangles) and C-16
    (perpendicular rectangles). Terms that cancel in the sums are left out here.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


class Grid(NamedTuple):
    """Rectangles in one axis-parallel plane, cut from lines.

    ``axis`` is that of the plane's normal, ``at`` its place (mm), ``faces`` +1 or −1: the way it looks. ``u`` and ``v``
    are the lines along the two other axes, in axis order: (n + 1,) and (m + 1,), or (W, 2) each for W separate
    rectangles.
    """

    axis: int
    at: float
    faces: int
    u: Array
    v: Array


def in_plane(axis: int) -> tuple[int, int]:
    """The two axes of a plane, in order.

    Parameters
    ----------
    axis : int
        0, 1 or 2.

    Returns
    -------
    tuple[int, int]
        The two others, rising.
    """
    return ((1, 2), (0, 2), (0, 1))[axis]


def _parallel(u: Array, v: Array, apart: float) -> Array:
    """The corner function of [1] C-13; ``u`` and ``v`` differences along the two axes, broadcast."""
    z2 = apart * apart
    u2, v2 = u * u, v * v
    a, b = np.sqrt(u2 + z2), np.sqrt(v2 + z2)
    found = v * a * np.arctan(v / a)
    found += u * b * np.arctan(u / b)
    found -= 0.5 * z2 * np.log(u2 + (v2 + z2))
    return np.asarray(found)


def _perpendicular(u: Array, c2: Array) -> Array:
    """The corner function of [1] C-16; ``u`` along the shared axis, ``c2`` the squared distance across it."""
    u2 = u * u
    c = np.sqrt(c2)
    found = u * c * np.arctan2(u, c)
    found += 0.25 * (u2 - c2) * np.log(np.maximum(u2 + c2, 1e-30))
    return np.asarray(found)


def _diff(values: Array, axis: int) -> Array:
    """``np.diff``, at a tenth of its overhead: a box takes dozens of them."""
    upper: list[slice] = [slice(None)] * values.ndim
    lower = list(upper)
    upper[axis], lower[axis] = slice(1, None), slice(None, -1)
    return np.asarray(values[tuple(upper)] - values[tuple(lower)])


def _cells(corner: Array) -> Array:
    """Signed differences along the last four axes: from lines (n + 1 each) to cells (n each)."""
    for axis in (-1, -2, -3, -4):
        corner = _diff(corner, axis)
    return np.maximum(corner, 0.0) / (2.0 * np.pi)


def exchange(a: Grid, b: Grid) -> Array:
    """Exchange areas A·F (mm²) between the cells of two grids; nothing where they don't face each other.

    Parameters
    ----------
    a, b : Grid
        ``b`` is cut from lines; ``a`` too, or a set of W rectangles.

    Returns
    -------
    (cells of a, cells of b) array, cells numbered along v first. A cell that reaches behind the other's plane counts
    with what lies before it, when the plane is one of its lines; otherwise clipped lines take the rest away.
    """
    many = a.u.ndim == 2
    au, av = (a.u, a.v) if many else (a.u[None], a.v[None])
    count_a = au.shape[0] * (au.shape[1] - 1) * (av.shape[1] - 1)
    count_b = (len(b.u) - 1) * (len(b.v) - 1)
    if a.axis == b.axis:
        apart = (b.at - a.at) * a.faces
        if a.faces == b.faces or apart <= 0:
            return np.zeros((count_a, count_b))
        du = au[:, :, None] - b.u[None, None, :]
        dv = av[:, :, None] - b.v[None, None, :]
        found = _cells(_parallel(du[:, :, None, :, None], dv[:, None, :, None, :], apart))
        return found.reshape(count_a, count_b)
    shared = 3 - a.axis - b.axis
    # Lines of each along the shared axis, and across it as distances before the other's plane.
    a_first = in_plane(a.axis)[0] == shared
    b_first = in_plane(b.axis)[0] == shared
    a_s, a_d = (au, av) if a_first else (av, au)
    b_s, b_d = (b.u, b.v) if b_first else (b.v, b.u)
    a_d = np.maximum((a_d - b.at) * b.faces, 0.0)
    b_d = np.maximum((b_d - a.at) * a.faces, 0.0)
    ds = a_s[:, :, None] - b_s[None, None, :]
    c2 = a_d[:, :, None] ** 2 + b_d[None, None, :] ** 2
    # (rectangle, a shared, a across, b shared, b across); rising lines may be falling distances, hence the signs.
    corner = _perpendicular(ds[:, :, None, :, None], c2[:, None, :, None, :])
    found = _cells(corner * (b.faces * a.faces))
    if not a_first:
        found = found.swapaxes(1, 2)
    if not b_first:
        found = found.swapaxes(3, 4)
    return found.reshape(count_a, count_b)


SMALL = 0.25  # half a rectangle over its distance: below, its middle stands for all of it (1 % of a near cell's share)


def exchange_of_small(a: Grid, b: Grid) -> Array:
    """As ``exchange``, for W rectangles of which most are small against their distance from the other's plane.

    Those count with their middle: the same corner functions, differentiated along both sides of the rectangle. It takes
    a sixth of the time.

    Parameters
    ----------
    a : Grid
        W rectangles.
    b : Grid
        Cells cut from lines.

    Returns
    -------
    array
        Exchange areas (W, cells of b), mm².
    """
    if a.axis == b.axis and (a.faces == b.faces or (b.at - a.at) * a.faces <= 0):
        return np.zeros((len(a.u), (len(b.u) - 1) * (len(b.v) - 1)))
    middle = np.column_stack([a.u.mean(axis=1), a.v.mean(axis=1)])
    half = np.column_stack([a.u[:, 1] - a.u[:, 0], a.v[:, 1] - a.v[:, 0]]) / 2.0
    if a.axis == b.axis:
        away = np.full(len(a.u), abs(b.at - a.at))
    else:
        away = (middle[:, in_plane(a.axis).index(b.axis)] - b.at) * b.faces
    small = half.max(axis=1) <= SMALL * away
    found = np.empty((len(a.u), (len(b.u) - 1) * (len(b.v) - 1)))
    if not small.all():
        found[~small] = exchange(a._replace(u=a.u[~small], v=a.v[~small]), b)
    if small.any():
        area = 4.0 * half[small].prod(axis=1)
        found[small] = _seen_from(middle[small], away[small], a, b).reshape(len(area), -1) * area[:, None]
    return found


def _seen_from(middle: Array, away: Array, a: Grid, b: Grid) -> Array:
    """Form factors from points (W, 2) in the plane of ``a`` to the cells of ``b``: (W, n, m)."""
    if a.axis == b.axis:
        u, v = (middle[:, i, None] - line[None] for i, line in enumerate((b.u, b.v)))
        z2 = (away**2)[:, None]
        p, q = np.sqrt(u * u + z2), np.sqrt(v * v + z2)
        corner = (u / p)[:, :, None] * np.arctan(v[:, None, :] / p[:, :, None])
        corner += (v / q)[:, None, :] * np.arctan(u[:, :, None] / q[:, None, :])
        sign = 1.0
    else:
        shared = 3 - a.axis - b.axis
        b_first = in_plane(b.axis)[0] == shared
        b_s, b_d = (b.u, b.v) if b_first else (b.v, b.u)
        u = middle[:, in_plane(a.axis).index(shared), None] - b_s[None]
        across = np.maximum((b_d - a.at) * a.faces, 0.0)
        c = np.sqrt((away**2)[:, None] + (across**2)[None])
        corner = (away[:, None] / c)[:, None, :] * np.arctan(u[:, :, None] / c[:, None, :])
        if not b_first:
            corner = corner.swapaxes(1, 2)
        # Along the shared axis both differences run one way; across it, distance falls where lines rise on a far face.
        sign = float(a.faces)
    return np.maximum(sign * _diff(_diff(corner, 1), 2), 0.0) / (2.0 * np.pi)


def _offsets(n: int) -> npt.NDArray[np.intp]:
    """How far apart cells i and k of n are, as places in a table from −(n − 1) to n − 1."""
    i = np.arange(n)
    return np.asarray(i[:, None] - i[None, :] + n - 1)


def evenly_parallel(sizes: tuple[float, float], counts: tuple[int, int], apart: float) -> Array:
    """``exchange`` of two opposite faces cut alike and evenly: it depends on how many cells two are apart, no more.

    ``sizes`` (mm) and ``counts`` along u and v; returns (cells, cells).

    Parameters
    ----------
    sizes : tuple[float, float]
        Size along u and v, mm.
    counts : tuple[int, int]
        Cells along u and v.
    apart : float
        Distance of the two faces, mm.

    Returns
    -------
    array
        Exchange areas (cells, cells), mm².
    """
    (a, b), (n, m) = sizes, counts
    u, v = (np.asarray(np.arange(-k, k + 1) * (size / k), dtype=float) for size, k in ((a, n), (b, m)))
    corner = _parallel(u[:, None], v[None, :], apart)
    table = np.maximum(_diff(_diff(_diff(_diff(corner, 0), 0), 1), 1), 0.0) / (2.0 * np.pi)
    i, j = _offsets(n), _offsets(m)
    return np.asarray(table[i[:, None, :, None], j[None, :, None, :]]).reshape(n * m, n * m)


def evenly_perpendicular(shared: tuple[float, int], a: tuple[float, int], b: tuple[float, int]) -> Array:
    """``exchange`` of two faces at right angles, both from the edge they meet in, cut evenly and alike along it.

    Each argument is (size in mm, count). Returns (n shared, n of a, n shared, n of b).

    Parameters
    ----------
    shared : tuple[float, int]
        Size (mm) and cells along the edge they meet in.
    a : tuple[float, int]
        Size (mm) and cells of the first, away from the edge.
    b : tuple[float, int]
        Size (mm) and cells of the second, away from the edge.

    Returns
    -------
    array
        Exchange areas (n shared, n of a, n shared, n of b), mm².
    """
    n = shared[1]
    u: Array = np.asarray(np.arange(-n, n + 1) * (shared[0] / n), dtype=float)
    x, y = (np.linspace(0.0, size, k + 1) for size, k in (a, b))
    c2: Array = np.asarray(x[:, None] ** 2 + y[None, :] ** 2, dtype=float)
    corner = _perpendicular(u[:, None, None], c2[None])
    # Signs: one difference along each of the two across, two along the shared axis.
    table = -_diff(_diff(_diff(_diff(corner, 0), 0), 1), 2)
    table = np.maximum(table, 0.0) / (2.0 * np.pi)
    return np.asarray(table[_offsets(n)].transpose(0, 2, 1, 3))
