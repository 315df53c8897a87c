"""The walk-round picture's loops, compiled by numba: triangles into depth and numbers, and light on what is seen, with shadows.

Imported only off the start path, like ``kernel``; until then ``round`` does the same with NumPy.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numba import njit

GRAZE_MM = 0.05


@njit(nogil=True, cache=True, error_model="numpy")
def raster_rows(px: Any, first: int, depth: Any, ids: Any, row0: int, row1: int) -> None:
    """Triangles into rows of a picture.

    ``px`` (T, 3, 3): right, down, 1/depth; ``depth`` (H, W): 1/mm; ``ids`` (H, W), numbered from ``first`` on. What is nearer wins; centres of
    pixels count.
    """
    width = ids.shape[1]
    for t in range(px.shape[0]):
        x0, y0, w0 = px[t, 0, 0], px[t, 0, 1], px[t, 0, 2]
        x1, y1, w1 = px[t, 1, 0], px[t, 1, 1], px[t, 1, 2]
        x2, y2, w2 = px[t, 2, 0], px[t, 2, 1], px[t, 2, 2]
        area = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)
        if area == 0.0:
            continue
        top, bottom = min(y0, y1, y2), max(y0, y1, y2)
        left, right = min(x0, x1, x2), max(x0, x1, x2)
        ya, yb = max(row0, math.ceil(top - 0.5)), min(row1 - 1, math.floor(bottom - 0.5))
        xa, xb = max(0, math.ceil(left - 0.5)), min(width - 1, math.floor(right - 0.5))
        inverse = 1.0 / area
        for y in range(ya, yb + 1):
            cy = y + 0.5
            for x in range(xa, xb + 1):
                cx = x + 0.5
                a = ((x1 - cx) * (y2 - cy) - (x2 - cx) * (y1 - cy)) * inverse
                b = ((x2 - cx) * (y0 - cy) - (x0 - cx) * (y2 - cy)) * inverse
                c = 1.0 - a - b
                if a < 0.0 or b < 0.0 or c < 0.0:
                    continue
                w = a * w0 + b * w1 + c * w2
                if w > depth[y, x]:
                    depth[y, x] = w
                    ids[y, x] = first + t


@njit(nogil=True, cache=True, error_model="numpy")
def _blocked(p: Any, q: Any, boxes: Any, skips: Any, spans: Any, triangles: Any) -> bool:
    """Whether any triangle stands between two places: down the tree of boxes (N, 2, 3), then the triangles in the leaves that are met."""
    dx, dy, dz = q[0] - p[0], q[1] - p[1], q[2] - p[2]
    s = 0
    while s < boxes.shape[0]:
        enter, leave = 0.0, 1.0
        miss = False
        for axis in range(3):
            d = dx if axis == 0 else (dy if axis == 1 else dz)
            low, high = boxes[s, 0, axis] - p[axis], boxes[s, 1, axis] - p[axis]
            if abs(d) < 1e-12:
                if low > 0.0 or high < 0.0:
                    miss = True
                    break
                continue
            a, b = low / d, high / d
            if a > b:
                a, b = b, a
            enter, leave = max(enter, a), min(leave, b)
            if enter > leave:
                miss = True
                break
        if miss:
            s = skips[s]
            continue
        for t in range(spans[s, 0], spans[s, 1]):
            ax, ay, az = triangles[t, 0, 0], triangles[t, 0, 1], triangles[t, 0, 2]
            e1x, e1y, e1z = triangles[t, 1, 0] - ax, triangles[t, 1, 1] - ay, triangles[t, 1, 2] - az
            e2x, e2y, e2z = triangles[t, 2, 0] - ax, triangles[t, 2, 1] - ay, triangles[t, 2, 2] - az
            hx, hy, hz = dy * e2z - dz * e2y, dz * e2x - dx * e2z, dx * e2y - dy * e2x
            det = e1x * hx + e1y * hy + e1z * hz
            if abs(det) < 1e-12:
                continue
            f = 1.0 / det
            sx, sy, sz = p[0] - ax, p[1] - ay, p[2] - az
            u = f * (sx * hx + sy * hy + sz * hz)
            if u < 0.0 or u > 1.0:
                continue
            qx, qy, qz = sy * e1z - sz * e1y, sz * e1x - sx * e1z, sx * e1y - sy * e1x
            v = f * (dx * qx + dy * qy + dz * qz)
            if v < 0.0 or u + v > 1.0:
                continue
            at = f * (e2x * qx + e2y * qy + e2z * qz)
            if 1e-6 < at < 1.0 - 1e-6:
                return True
        s += 1
    return False


@njit(nogil=True, cache=True, error_model="numpy")
def shade_rows(
    ids: Any, depth: Any, wanted: Any, place: Any, right: Any, down: Any, ahead: Any, focal: float, normals: Any, lamps: Any, layer: Any, boxes: Any,
    skips: Any, spans: Any, triangles: Any, least: float, out: Any, row0: int, row1: int,
) -> None:  # fmt: skip
    """Illuminance (lx) of what rows ``row0`` to ``row1`` show, added to out (C, H, W).

    ``lamps`` (L, 8): place, aim (of length 1), order (below 0: all round), cd; ``layer`` (L,) which of C. Nothing below ``least`` is looked
    at closely. ``wanted`` (H, W): pixels that are worked out. ``normals`` (T, 3) by number; numbers from len(normals) on are left dark.
    """
    height, width = ids.shape
    p = np.empty(3)
    q = np.empty(3)
    for y in range(row0, row1):
        v = (y + 0.5 - height / 2.0) / focal
        for x in range(width):
            t = ids[y, x]
            if t < 0 or t >= normals.shape[0] or not wanted[y, x]:
                continue
            u = (x + 0.5 - width / 2.0) / focal
            far = 1.0 / depth[y, x]
            nx, ny, nz = normals[t, 0], normals[t, 1], normals[t, 2]
            for k in range(3):
                p[k] = place[k] + far * (ahead[k] + u * right[k] + v * down[k])
            p[0], p[1], p[2] = p[0] + GRAZE_MM * nx, p[1] + GRAZE_MM * ny, p[2] + GRAZE_MM * nz
            for i in range(lamps.shape[0]):
                dx, dy, dz = lamps[i, 0] - p[0], lamps[i, 1] - p[1], lamps[i, 2] - p[2]
                r2 = dx * dx + dy * dy + dz * dz
                facing = nx * dx + ny * dy + nz * dz
                if facing <= 0.0 or r2 < 1e-6:
                    continue
                r = math.sqrt(r2)
                lux = lamps[i, 7] * 1e6 * facing / (r2 * r)
                if lux < least:
                    continue
                if lamps[i, 6] >= 0.0:
                    cos = -(lamps[i, 3] * dx + lamps[i, 4] * dy + lamps[i, 5] * dz) / r
                    if cos <= 0.0:
                        continue
                    lux *= cos ** lamps[i, 6]
                    if lux < least:
                        continue
                q[0], q[1], q[2] = lamps[i, 0], lamps[i, 1], lamps[i, 2]
                if not _blocked(p, q, boxes, skips, spans, triangles):
                    out[layer[i], y, x] += lux
