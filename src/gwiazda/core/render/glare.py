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
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from numpy.fft import irfft, rfft, rfftfreq

from gwiazda.core.memo import memoize, same_value

Array32 = npt.NDArray[np.float32]
Array = npt.NDArray[np.float64]

SIGMA_ARCMIN = (1.5, 5.0, 14.0, 40.0, 120.0, 400.0)
WEIGHT = (0.6493, 0.1928, 0.0773, 0.0388, 0.0164, 0.0254)


class Rects(NamedTuple):
    """Rectangles: their left, right, upper and lower edges (N,), px."""

    x0: Array
    x1: Array
    y0: Array
    y1: Array


class Blur(NamedTuple):
    """A sum of Gaussians: the width of each (S,) or, of each light, (S, N), px; the share of the light in it, of the same shape."""

    sigma_px: Array
    weights: Array


def sigmas_mm(distance_m: float) -> Array:
    """The six widths (mm on the model) seen from ``distance_m``.

    Parameters
    ----------
    distance_m : float
        From the eye to the model, m.

    Returns
    -------
    array
        Standard deviations (6,), mm.
    """
    return np.tan(np.radians(np.array(SIGMA_ARCMIN) / 60.0)) * distance_m * 1000.0


def erf(x: npt.NDArray[np.floating]) -> Array32:
    """Error function in single precision [2]_; error below 3e-6.

    Parameters
    ----------
    x : array
        Any shape.

    Returns
    -------
    array
        Error function, shape of ``x``.
    """
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


def spread(rects: Rects, luminance: Array, blur: Blur, size: tuple[int, int]) -> Array32:
    """Luminance picture of rectangles blurred by a sum of Gaussians: one matrix product.

    Parameters
    ----------
    rects : Rects
        N of them, px.
    luminance : array
        Of each rectangle (N,), cd/m².
    blur : Blur
        Widths and shares (S,).
    size : tuple[int, int]
        Width and height of the picture, px.

    Returns
    -------
    array
        Luminance (height, width), cd/m².
    """
    width, height = size
    if len(luminance) == 0:
        return np.zeros((height, width), np.float32)
    # A row of windows shares its upper and lower edges: summed along the row first, it costs as much as one window.
    rows, row_of = _groups(rects.y0, rects.y1)
    columns, column_of = _groups(rects.x0, rects.x1)
    if len(columns) < len(rows):
        return _spread_rows((rects.y0, rects.y1), columns, column_of, luminance, blur, (height, width)).T
    return _spread_rows((rects.x0, rects.x1), rows, row_of, luminance, blur, size)


def _groups(low: Array, high: Array) -> tuple[Array, npt.NDArray[np.intp]]:
    """Distinct pairs (G, 2), and for each item the number of its pair."""
    numbers: dict[tuple[float, float], int] = {}
    index = [numbers.setdefault(pair, len(numbers)) for pair in zip(low.tolist(), high.tolist(), strict=True)]
    return np.array(list(numbers)), np.array(index, dtype=np.intp)


REACH = 4.5  # widths beyond which an edge is flat in single precision
NARROW_PX = 4.0  # blurs narrower than this are worked out edge by edge
WIDE_PX = 64.0  # blurs wider than this are worked out at every eighth of their width and interpolated


def _slabs(
    low: Array, high: Array, row_of: npt.NDArray[np.intp], rows: int, light: Array, sigma: Array, pixels: int
) -> list[Array32]:
    """Blurred slabs summed along the rows they belong to, for each width of ``sigma``: (rows, pixels) each.

    A slab's share at x is ½·[erf((x − low)/√2σ) − erf((x − high)/√2σ)]; within 0.5 % of its peak.
    """
    middle = [i for i, s in enumerate(sigma) if NARROW_PX <= s <= WIDE_PX]
    between = dict(zip(middle, _middle(low, high, row_of, rows, light, sigma[middle], pixels), strict=True))
    return [
        between[i] if i in between else (_narrow if s < NARROW_PX else _wide)(
            low, high, row_of, rows, light, float(s), pixels
        )
        for i, s in enumerate(sigma)
    ]  # fmt: skip


def _middle(
    low: Array, high: Array, row_of: npt.NDArray[np.intp], rows: int, light: Array, sigma: Array, pixels: int
) -> list[Array32]:
    """Slabs put on the pixels between which they lie, light and place kept, then blurred in the frequency domain."""
    if not len(sigma):
        return []
    pad = int(REACH * float(sigma.max())) + 3
    size = -(-(pixels + 2 * pad) // 128) * 128  # a length without large prime factors
    places, steps = [], []
    for edge, sign in ((low, 1.0), (high, -1.0)):
        # Node j stands for the centre of pixel j − pad. A step at e, weighed by hats one pixel to either side,
        # rises over the three nodes around it.
        at = np.clip(edge - 0.5, -pad, pixels + pad - 3.0) + pad
        k = np.floor(at)
        f = at - k
        first, last = (1.0 - f) ** 2 / 2.0, f**2 / 2.0
        flat = row_of * size + k.astype(np.intp)
        for i, rise in enumerate((first, 1.0 - first - last, last)):
            places.append(flat + i)
            steps.append(sign * light * rise)
    laid = np.bincount(np.concatenate(places), np.concatenate(steps), minlength=rows * size).reshape(rows, size)
    spectrum = rfft(np.cumsum(laid, axis=1), axis=1)
    turns = 2.0 * math.pi * rfftfreq(size)
    # The hats have themselves spread the light by a sixth of a square pixel, on the mean of all places.
    return [
        irfft(spectrum * np.exp(-0.5 * (s**2 - 1.0 / 6.0) * turns**2), size, axis=1)[:, pad : pad + pixels].astype(
            np.float32
        )
        for s in sigma.tolist()
    ]


def _wide(
    low: Array, high: Array, row_of: npt.NDArray[np.intp], rows: int, light: Array, sigma: float, pixels: int
) -> Array32:
    scale = np.float32(1.0 / (math.sqrt(2.0) * sigma))
    step = max(1, int(sigma / 8.0))
    coarse = np.arange(0, pixels + step, step, dtype=np.float32)
    a = erf((coarse[None] - low[:, None].astype(np.float32)) * scale)
    a -= erf((coarse[None] - high[:, None].astype(np.float32)) * scale)
    share = np.zeros((rows, len(low)), np.float32)
    share[row_of, np.arange(len(low))] = 0.5 * light
    summed = share @ a
    fine = np.arange(pixels, dtype=np.float32) + np.float32(0.5)
    return np.array([np.interp(fine, coarse, row) for row in summed], dtype=np.float32).reshape(rows, pixels)


def _narrow(
    low: Array, high: Array, row_of: npt.NDArray[np.intp], rows: int, light: Array, sigma: float, pixels: int
) -> Array32:
    scale = np.float32(1.0 / (math.sqrt(2.0) * sigma))
    reach = REACH * sigma
    first = np.floor(low - reach).astype(np.intp)
    wide = int(np.ceil((high - low).max() + 2.0 * reach)) + 2
    if wide * 2 > pixels:
        first, wide = np.zeros(len(low), np.intp), pixels
    index = first[:, None] + np.arange(wide)[None]
    x = index.astype(np.float32) + np.float32(0.5)
    value = erf((x - low[:, None].astype(np.float32)) * scale) - erf((x - high[:, None].astype(np.float32)) * scale)
    value *= (0.5 * light).astype(np.float32)[:, None]
    inside = (index >= 0) & (index < pixels)
    flat = (row_of[:, None] * pixels + index)[inside]
    return np.bincount(flat, value[inside], minlength=rows * pixels).astype(np.float32).reshape(rows, pixels)


def _spread_rows(
    ends: tuple[Array, Array], rows: Array, row_of: npt.NDArray[np.intp], luminance: Array, blur: Blur, size: tuple[int, int]
) -> Array32:  # fmt: skip
    """Rectangles between their ends along the rows they belong to: (height, width) of ``size`` (width, height)."""
    count, (width, height) = len(rows), size
    along = _slabs(*ends, row_of, count, luminance, blur.sigma_px, width)
    down = _slabs(rows[:, 0], rows[:, 1], np.arange(count), count, np.ones(count), blur.sigma_px, height)
    weighed = [np.float32(w) * a for w, a in zip(blur.weights, along, strict=True)]
    return np.ascontiguousarray(np.concatenate(down).T @ np.concatenate(weighed))


SMOOTH_PX = 12.0  # blurs wider than this are worked out at a third of their width


def spread_apart(out: Array32, rects: Rects, luminance: Array, blur: Blur) -> None:
    """As ``spread``, for rectangles that share no edges and shine in several colours at once: added to pictures (C, H, W) of ``luminance`` (N, C).

    Narrow blurs are laid down one light at a time, within their reach; wide ones, which are smooth, worked
    out at a third of their width and interpolated by cubics: within 0.3 % of their peak.

    Parameters
    ----------
    out : array
        Pictures that the light is added to (C, H, W), cd/m².
    rects : Rects
        N of them, px.
    luminance : array
        Of each rectangle in each picture (N, C), cd/m².
    blur : Blur
        Widths and shares (S, N), each light's own.
    """
    if not len(luminance):
        return
    (x0, x1, y0, y1), (sigma_px, weights) = rects, blur
    height, width = out.shape[1:]
    narrow, smooth = sigma_px < NARROW_PX, sigma_px > SMOOTH_PX
    for which, step in ((~narrow & ~smooth, 1), (smooth, int(min(sigma_px[smooth], default=3.0) / 3.0))):
        if not which.any():
            continue
        along = _shares(x0, x1, sigma_px[which], _nodes(width, step))
        over = _shares(y0, y1, sigma_px[which], _nodes(height, step)) * weights[which].reshape(-1, 1).astype(np.float32)
        light = np.tile(luminance, (int(which.sum()), 1)).T.astype(np.float32)
        # All colours in one product, one above the other.
        grid = (light[:, None, :] * over.T[None]).reshape(-1, over.shape[0]) @ along
        if step > 1:
            grid = grid @ _finer(width, step).T
            for c, rows in enumerate(grid.reshape(len(out), -1, width)):
                out[c] += _finer(height, step) @ rows
        else:
            out += grid.reshape(out.shape)
    if narrow.any():
        _laid_down(out, rects, luminance, Blur(sigma_px[narrow], weights[narrow]))


def _laid_down(out: Array32, rects: Rects, light: Array, blur: Blur) -> None:
    """Rectangles with their narrow blurs added to pictures (C, H, W), one after the other, each within its reach."""
    (x0, x1, y0, y1), (sigma, weights) = rects, blur
    height, width = out.shape[1:]
    reach = REACH * float(sigma.max())
    left, top = np.floor(x0 - reach).astype(int), np.floor(y0 - reach).astype(int)
    wide, high = (int(np.ceil((b - a).max() + 2 * reach)) + 2 for a, b in ((x0, x1), (y0, y1)))
    along = _shares(x0 - left, x1 - left, sigma, _nodes(wide, 1)).reshape(len(sigma), -1, wide)
    over = _shares(y0 - top, y1 - top, sigma, _nodes(high, 1)).reshape(len(sigma), -1, high) * weights[
        ..., None
    ].astype(np.float32)
    light32 = light.astype(np.float32)
    for n, (i, j) in enumerate(zip(top.tolist(), left.tolist(), strict=True)):
        a, b, c, d = max(-i, 0), min(height - i, high), max(-j, 0), min(width - j, wide)
        if a < b and c < d:
            patch = over[:, n, a:b].T @ along[:, n, c:d]
            out[:, i + a : i + b, j + c : j + d] += light32[n, :, None, None] * patch


@memoize(slots=8, same=same_value)
def _shares(low: Array, high: Array, sigma: Array, at: Array) -> Array32:
    """Share of slabs, blurred, at places: (S·N, P), width after width."""
    scale = (1.0 / (math.sqrt(2.0) * sigma))[:, None, None]
    a = erf((at - low[:, None]) * scale)
    a -= erf((at - high[:, None]) * scale)
    return np.asarray(0.5 * a, np.float32).reshape(-1, len(at))


def _nodes(pixels: int, step: int) -> Array:
    """Middles of every ``step``-th pixel, one before the first and two beyond the last."""
    first, last = (-step, pixels + 2 * step) if step > 1 else (0, pixels)
    return np.asarray(np.arange(first, last, step) + 0.5, np.float64)


@memoize(slots=8, same=same_value)
def _finer(pixels: int, step: int) -> Array32:
    """From nodes to pixels by cubics through the four nodes around each: (pixels, nodes)."""
    at = np.arange(pixels)
    first = at // step
    f = (at % step) / step
    out = np.zeros((pixels, len(_nodes(pixels, step))), np.float32)
    for k, share in enumerate(
        (
            -f * (f - 1) * (f - 2) / 6,
            (f + 1) * (f - 1) * (f - 2) / 2,
            -(f + 1) * f * (f - 2) / 2,
            (f + 1) * f * (f - 1) / 6,
        )
    ):
        out[at, first + k] = share
    return out


def disc_strips(cx: float, cy: float, radius: float, strips: int) -> Rects:
    """A disc as rectangles, each as wide as keeps the area of its slice exactly.

    Parameters
    ----------
    cx : float
        Middle, px.
    cy : float
        Middle, px.
    radius : float
        Radius, px.
    strips : int
        How many.

    Returns
    -------
    Rects
        So many of them, px.
    """
    edges = np.linspace(-radius, radius, strips + 1)
    clipped = np.clip(edges / radius, -1.0, 1.0)
    # Area to the left of y: r²·(asin t + t·√(1 − t²)).
    area = radius**2 * (np.arcsin(clipped) + clipped * np.sqrt(1.0 - clipped**2))
    half = np.diff(area) / np.diff(edges) / 2.0
    return Rects(cx - half, cx + half, cy + edges[:-1], cy + edges[1:])
