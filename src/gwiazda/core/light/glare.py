"""How the eye spreads light: every light as a sum of Gaussians in closed form.

The point spread is the CIE general disability glare function for an age of 35, fitted by six Gaussians: within
8 % of the light it sends beyond any angle from 0.1° to 10°; what falls inside 0.1° is in the narrowest.

Sources
-------
[1] CIE 146:2002, CIE equations for disability glare.
[2] M. Abramowitz, I. Stegun, Handbook of Mathematical Functions, 7.1.28 (error function, error below 3e-7).
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

Array32 = npt.NDArray[np.float32]
Array = npt.NDArray[np.float64]

SIGMA_ARCMIN = (1.5, 5.0, 14.0, 40.0, 120.0, 400.0)
WEIGHT = (0.6493, 0.1928, 0.0773, 0.0388, 0.0164, 0.0254)


def sigmas_mm(distance_m: float) -> Array:
    """The six widths (mm on the model) seen from ``distance_m``."""
    return np.tan(np.radians(np.array(SIGMA_ARCMIN) / 60.0)) * distance_m * 1000.0


def erf(x: npt.NDArray[np.floating]) -> Array32:
    """Error function in single precision [2]_; error below 3e-6."""
    # Beyond 5 it is 1 in single precision, and the sixteenth power would overflow.
    a = np.minimum(np.abs(x), 5.0).astype(np.float32)
    p = a * np.float32(0.0000430638)
    for c in (0.0002765672, 0.0001520143, 0.0092705272, 0.0422820123, 0.0705230784):
        p += np.float32(c)
        p *= a
    p += np.float32(1.0)
    p *= p
    p *= p
    p *= p
    p *= p
    found: Array32 = np.copysign(1.0 - 1.0 / p, x).astype(np.float32)
    return found


def edge_profiles(low: Array, high: Array, sigma: Array, pixels: int) -> Array32:
    """Share of a blurred slab at each pixel centre.

    Parameters
    ----------
    low, high : (N,) arrays
        Slab edges in px.
    sigma : (K,) array
        Blur widths in px.
    pixels : int

    Returns
    -------
    (K·N, pixels) array: ½·[erf((x − low)/√2σ) − erf((x − high)/√2σ)].
    """
    x = np.arange(pixels, dtype=np.float32) + np.float32(0.5)
    scale = (1.0 / (math.sqrt(2.0) * sigma)).astype(np.float32)
    rows = []
    for s in scale:
        a = (x[None, :] - low[:, None].astype(np.float32)) * s
        b = (x[None, :] - high[:, None].astype(np.float32)) * s
        rows.append(0.5 * (erf(a) - erf(b)))
    return np.concatenate(rows) if rows else np.zeros((0, pixels), np.float32)


def spread(
    x0: Array,
    x1: Array,
    y0: Array,
    y1: Array,
    luminance: Array,
    sigma_px: Array,
    weights: Array,
    width: int,
    height: int,
) -> Array32:
    """Luminance picture (height, width) of rectangles blurred by a sum of Gaussians: one matrix product.

    All places in px; ``luminance`` (N,) in cd/m².
    """
    if len(luminance) == 0:
        return np.zeros((height, width), np.float32)
    # A row of windows shares its upper and lower edges: summed along the row first, it costs as much as one window.
    rows, row_of = _groups(y0, y1)
    columns, column_of = _groups(x0, x1)
    if len(columns) < len(rows):
        return _spread_rows(y0, y1, columns, column_of, luminance, sigma_px, weights, height, width).T
    return _spread_rows(x0, x1, rows, row_of, luminance, sigma_px, weights, width, height)


def _groups(low: Array, high: Array) -> tuple[Array, npt.NDArray[np.intp]]:
    """Distinct pairs (G, 2), and for each item the number of its pair."""
    numbers: dict[tuple[float, float], int] = {}
    index = [numbers.setdefault(pair, len(numbers)) for pair in zip(low.tolist(), high.tolist(), strict=True)]
    return np.array(list(numbers)), np.array(index, dtype=np.intp)


WIDE_PX = 8.0  # blurs wider than this are worked out at every eighth of their width and interpolated
REACH = 4.5  # widths beyond which an edge is flat in single precision


def _slabs(
    low: Array, high: Array, row_of: npt.NDArray[np.intp], rows: int, luminance: Array, sigma: float, pixels: int
) -> Array32:
    """Blurred slabs summed along the rows they belong to: (rows, pixels)."""
    out = np.zeros((rows, pixels), np.float32)
    scale = np.float32(1.0 / (math.sqrt(2.0) * sigma))
    if sigma > WIDE_PX:
        step = max(1, int(sigma / 8.0))
        coarse = np.arange(0, pixels + step, step, dtype=np.float32)
        a = erf((coarse[None] - low[:, None].astype(np.float32)) * scale)
        a -= erf((coarse[None] - high[:, None].astype(np.float32)) * scale)
        share = np.zeros((rows, len(low)), np.float32)
        share[row_of, np.arange(len(low))] = 0.5 * luminance
        summed = share @ a
        fine = np.arange(pixels, dtype=np.float32) + np.float32(0.5)
        for r in range(rows):
            out[r] = np.interp(fine, coarse, summed[r])
        return out
    reach = REACH * sigma
    first = np.floor(low - reach).astype(np.intp)
    wide = int(np.ceil((high - low).max() + 2.0 * reach)) + 2
    if wide * 2 > pixels:
        first, wide = np.zeros(len(low), np.intp), pixels
    index = first[:, None] + np.arange(wide)[None]
    x = index.astype(np.float32) + np.float32(0.5)
    value = erf((x - low[:, None].astype(np.float32)) * scale) - erf((x - high[:, None].astype(np.float32)) * scale)
    value *= (0.5 * luminance).astype(np.float32)[:, None]
    inside = (index >= 0) & (index < pixels)
    flat = (row_of[:, None] * pixels + index)[inside]
    return np.bincount(flat, value[inside], minlength=rows * pixels).astype(np.float32).reshape(rows, pixels)


def _spread_rows(
    low: Array, high: Array, rows: Array, row_of: npt.NDArray[np.intp], luminance: Array, sigma: Array, weights: Array,
    width: int, height: int,
) -> Array32:  # fmt: skip
    """Rectangles from ``low`` to ``high`` along the rows they belong to: (height, width)."""
    count = len(rows)
    summed = [
        np.float32(w) * _slabs(low, high, row_of, count, luminance, float(s), width)
        for s, w in zip(sigma, weights, strict=True)
    ]
    down = edge_profiles(rows[:, 0], rows[:, 1], sigma, height)
    return np.ascontiguousarray(down.T @ np.concatenate(summed))


def disc_strips(cx: float, cy: float, radius: float, strips: int) -> tuple[Array, Array, Array, Array]:
    """A disc as rectangles: (x0, x1, y0, y1), each as wide as keeps the area of its slice exactly."""
    edges = np.linspace(-radius, radius, strips + 1)
    clipped = np.clip(edges / radius, -1.0, 1.0)
    # Area to the left of y: r²·(asin t + t·√(1 − t²)).
    area = radius**2 * (np.arcsin(clipped) + clipped * np.sqrt(1.0 - clipped**2))
    half = np.diff(area) / np.diff(edges) / 2.0
    return cx - half, cx + half, cy + edges[:-1], cy + edges[1:]
