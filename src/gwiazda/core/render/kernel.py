"""The fused night-picture kernel, compiled by numba: sum of moving layers and screen table in one pass over rows.

Imported only off the start path: numba takes about half a second to import, and some seconds to compile the
first time (the result is cached on disk). Until then ``night`` draws with NumPy.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit, void
from numba import types as nt

_F = nt.float32
_SIGNATURE = void(
    nt.Array(_F, 3, "C", readonly=True),
    nt.Array(_F, 1, "C", readonly=True),
    nt.Array(nt.int64, 2, "C", readonly=True),
    nt.Array(_F, 2, "C", readonly=True),
    nt.Array(_F, 1, "C", readonly=True),
    nt.Array(nt.uint8, 1, "C", readonly=True),
    nt.Array(nt.uint8, 3, "C"),
    nt.int64,
    nt.int64,
)


@njit(_SIGNATURE, nogil=True, cache=True, fastmath={"contract", "reassoc"}, error_model="numpy")
def compose_rows(
    base: Any, data: Any, boxes: Any, coefficients: Any, scale: Any, code: Any, out: Any, row0: int, row1: int
) -> None:
    """Rows ``row0`` to ``row1`` of the picture.

    Shapes: base (3, H, W) cd/m²; data flat layer pixels; boxes (N, 5) offset, y0, x0, height, width;
    coefficients (N, 3); scale and code (65536,), see ``tone.ScreenTable``; out (H, W, 4) as B, G, R, 255.

    Parameters
    ----------
    base : array
        What is there without the layers (3, H, W), cd/m².
    data : array
        Pixels of all layers, one after another.
    boxes : array
        Offset into ``data``, y0, x0, height, width of each layer (N, 5).
    coefficients : array
        Red, green, blue of each layer (N, 3).
    scale : array
        Factor by luminance (65536,).
    code : array
        Code value by luminance (65536,).
    out : array
        Picture (H, W, 4) as B, G, R, 255, written to.
    row0 : int
        First row.
    row1 : int
        Row after the last.
    """
    width = base.shape[2]
    red = np.empty(width, np.float32)
    green = np.empty(width, np.float32)
    blue = np.empty(width, np.float32)
    luma = np.empty(width, np.float32)
    layers = boxes.shape[0]
    for y in range(row0, row1):
        for x in range(width):
            red[x] = base[0, y, x]
            green[x] = base[1, y, x]
            blue[x] = base[2, y, x]
        for n in range(layers):
            top = y - boxes[n, 1]
            if top < 0 or top >= boxes[n, 3]:
                continue
            start = boxes[n, 0] + top * boxes[n, 4]
            left = boxes[n, 2]
            wide = boxes[n, 4]
            line = data[start : start + wide]
            cr, cg, cb = coefficients[n, 0], coefficients[n, 1], coefficients[n, 2]
            r, g, b = red[left : left + wide], green[left : left + wide], blue[left : left + wide]
            for x in range(wide):
                v = line[x]
                r[x] += cr * v
                g[x] += cg * v
                b[x] += cb * v
        for x in range(width):
            luma[x] = np.float32(0.2126) * red[x] + np.float32(0.7152) * green[x] + np.float32(0.0722) * blue[x]
        l_bits = luma.view(np.uint32)
        for x in range(width):
            k = scale[(l_bits[x] >> 15) & 0xFFFF]
            r0, g0, b0, y0 = red[x] * k, green[x] * k, blue[x] * k, luma[x] * k
            most = max(r0, g0, b0)
            if most > np.float32(1.0):
                # Brighter than the screen in one colour: mixed with white of its luminance.
                y0 = min(y0, np.float32(1.0))
                share = (np.float32(1.0) - y0) / max(most - y0, np.float32(1e-12))
                r0, g0, b0 = y0 + (r0 - y0) * share, y0 + (g0 - y0) * share, y0 + (b0 - y0) * share
            red[x], green[x], blue[x] = r0, g0, b0
        r_bits = red.view(np.uint32)
        g_bits = green.view(np.uint32)
        b_bits = blue.view(np.uint32)
        for x in range(width):
            out[y, x, 0] = code[(b_bits[x] >> 15) & 0xFFFF]
            out[y, x, 1] = code[(g_bits[x] >> 15) & 0xFFFF]
            out[y, x, 2] = code[(r_bits[x] >> 15) & 0xFFFF]
            out[y, x, 3] = 255
