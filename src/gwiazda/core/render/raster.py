"""Polygons on a pixel grid."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


def polygon_mask(points: Array, width: int, height: int) -> npt.NDArray[np.bool_]:
    """Pixels whose centre lies inside a polygon (even-odd rule).

    Parameters
    ----------
    points : (N, 2) array
        Corners in px (x right, y down).
    width, height : int

    Returns
    -------
    (height, width) bool array.
    """
    out = np.zeros((height, width), bool)
    x, y = points[:, 0], points[:, 1]
    # Nothing but the polygon's own rows and columns is looked at.
    top, bottom = max(0, int(np.ceil(y.min() - 0.5))), min(height, int(np.ceil(y.max() - 0.5)))
    left, right = (int(np.clip(np.ceil(f(x) - 0.5), 0, width)) for f in (np.min, np.max))
    if bottom <= top or right <= left:
        return out
    toggles = np.zeros((bottom - top, right - left + 1), np.uint8)
    x2, y2 = np.roll(x, -1), np.roll(y, -1)
    for xa, ya, xb, yb in zip(x, y, x2, y2, strict=True):
        if ya == yb:
            continue
        low, high = (ya, yb) if ya < yb else (yb, ya)
        first, last = max(0, int(np.ceil(low - 0.5))), min(height - 1, int(np.ceil(high - 0.5)) - 1)
        if last < first:
            continue
        rows = np.arange(first, last + 1)
        crossing = xa + (rows + 0.5 - ya) * (xb - xa) / (yb - ya)
        column = np.clip(np.ceil(crossing - 0.5), left, right).astype(np.intp)
        toggles[rows - top, column - left] ^= 1
    out[top:bottom, left:right] = np.bitwise_xor.accumulate(toggles[:, :-1], axis=1)
    return out


def inside_polygon(polygon: Array, x: float, y: float) -> bool:
    """Whether a place of the sheet lies within a polygon (even-odd).

    Parameters
    ----------
    polygon : array
        Corners (M, 2), mm.
    x : float
        Place, mm.
    y : float
        Place, mm.

    Returns
    -------
    bool
        True within.
    """
    return bool(within(polygon, np.array([[x, y]]))[0])


def within(polygon: Array, places: Array) -> npt.NDArray[np.bool_]:
    """Which of places (N, 2) lie within a polygon (M, 2), by even and odd.

    Parameters
    ----------
    polygon : array
        Corners (M, 2).
    places : array
        Places (N, 2), in the same unit.

    Returns
    -------
    array of bool
        True (N,) within.
    """
    x, y = places[:, :1], places[:, 1:]
    x1, y1 = polygon[:, 0], polygon[:, 1]
    x2, y2 = np.roll(x1, -1), np.roll(y1, -1)
    crosses = (y1 > y) != (y2 > y)
    with np.errstate(divide="ignore", invalid="ignore"):
        at = x1 + (y - y1) * (x2 - x1) / (y2 - y1)
    return np.asarray(np.count_nonzero(crosses & (x < at), axis=1) % 2 == 1)
