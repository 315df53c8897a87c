"""Panes laid over what the room's light shows: each throws back its own share."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from gwiazda.core.render.layers import Camera

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]


def _cover(low: float, high: float, count: int) -> tuple[slice, Array]:
    """The pixels an interval lies on, and the share of each that it covers."""
    first, last = max(int(np.floor(low)), 0), min(int(np.ceil(high)), count)
    edges = np.arange(first, max(last, first))
    return slice(first, max(last, first)), np.clip(np.minimum(edges + 1.0, high) - np.maximum(edges, low), 0.0, 1.0)


def lay(picture: Array32, camera: Camera, rects: Array, rect_values: Array, discs: Array, disc_values: Array) -> None:
    """Put panes in place of what lies under them, their edges soft by a pixel.

    Parameters
    ----------
    picture : array
        (H, W), written to.
    camera : Camera
        How the sheet lies on it.
    rects : array
        Left, right, top, bottom on the sheet (N, 4), mm.
    rect_values : array
        Value of each (N,).
    discs : array
        Middle right and down, radius (M, 4), mm; the last isn't used.
    disc_values : array
        Value of each (M,).
    """
    high, wide = picture.shape
    ox, oy = camera.origin_mm
    for (left, right, top, bottom), value in zip(rects.tolist(), rect_values.tolist(), strict=True):
        xs, cx = _cover((left - ox) * camera.scale, (right - ox) * camera.scale, wide)
        ys, cy = _cover((top - oy) * camera.scale, (bottom - oy) * camera.scale, high)
        if len(cx) and len(cy):
            share = (cy[:, None] * cx[None, :]).astype(np.float32)
            part = picture[ys, xs]
            part += share * (np.float32(value) - part)
    for (x, y, radius, _), value in zip(discs.tolist(), disc_values.tolist(), strict=True):
        cx, cy, r = (x - ox) * camera.scale, (y - oy) * camera.scale, radius * camera.scale
        x0, x1 = max(int(cx - r - 1), 0), min(int(cx + r + 2), wide)
        y0, y1 = max(int(cy - r - 1), 0), min(int(cy + r + 2), high)
        if x1 > x0 and y1 > y0:
            off = np.hypot(np.arange(x0, x1)[None, :] + 0.5 - cx, np.arange(y0, y1)[:, None] + 0.5 - cy)
            share = np.clip(r + 0.5 - off, 0.0, 1.0).astype(np.float32)
            part = picture[y0:y1, x0:x1]
            part += share * (np.float32(value) - part)
