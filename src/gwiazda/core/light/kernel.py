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
    nt.Array(nt.uint8, 1, "C", readonly=True),
    nt.Array(nt.uint8, 3, "C"),
    nt.int64,
    nt.int64,
)


@njit(_SIGNATURE, nogil=True, cache=True, fastmath={"contract", "reassoc"}, error_model="numpy")
def compose_rows(
    base: Any, data: Any, boxes: Any, coefficients: Any, table: Any, out: Any, row0: int, row1: int
) -> None:
    """Rows ``row0`` to ``row1`` of the picture.

    Shapes: base (3, H, W) cd/m²; data flat layer pixels; boxes (N, 5) offset, y0, x0, height, width;
    coefficients (N, 3); table (65536,); out (H, W, 4) as B, G, R, 255.
    """
    width = base.shape[2]
    red = np.empty(width, np.float32)
    green = np.empty(width, np.float32)
    blue = np.empty(width, np.float32)
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
        r_bits = red.view(np.uint32)
        g_bits = green.view(np.uint32)
        b_bits = blue.view(np.uint32)
        for x in range(width):
            out[y, x, 0] = table[(b_bits[x] >> 15) & 0xFFFF]
            out[y, x, 1] = table[(g_bits[x] >> 15) & 0xFFFF]
            out[y, x, 2] = table[(r_bits[x] >> 15) & 0xFFFF]
            out[y, x, 3] = 255
