"""The walk-round picture's loops, compiled by numba: triangles into depth and numbers, and light on what is seen, with shadows.

Imported only off the start path, like ``kernel``; until then ``round`` does the same with NumPy.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numba import njit

from gwiazda.core.render.solid import TIE

GRAZE_MM = 0.05


@njit(nogil=True, cache=True, error_model="numpy")
def raster_rows(px: Any, numbers: Any, depth: Any, ids: Any, row0: int, row1: int) -> None:
    """Triangles into rows of a picture.

    ``px`` (T, 3, 3): right, down, 1/depth; ``depth`` (H, W): 1/mm; ``ids`` (H, W), by their ``numbers`` (T,). What is nearer wins,
    the first of those that are equally near; centres of pixels count.

    Parameters
    ----------
    px : array
        Right (px), down (px) and 1/depth (1/mm) of each corner (T, 3, 3).
    numbers : array
        Number of each triangle (T,).
    depth : array
        1/depth of each pixel (H, W), 1/mm, written to.
    ids : array
        Number of each pixel (H, W), written to.
    row0 : int
        First row.
    row1 : int
        Row after the last.
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
                if w > depth[y, x] * TIE:
                    depth[y, x] = w
                    ids[y, x] = numbers[t]


@njit(nogil=True, cache=True, error_model="numpy", inline="always")
def _hit(p: Any, dx: float, dy: float, dz: float, frames: Any, t: int) -> bool:
    """Whether the way from ``p`` by (dx, dy, dz) goes through a triangle.

    In its own frame (T, 3, 4) its corners are (0, 0), (1, 0) and (0, 1) of the plane 0 (Baldwin & Weber 2016, J. Computer Graphics
    Techniques 5(3)).
    """
    here = frames[t, 2, 0] * p[0] + frames[t, 2, 1] * p[1] + frames[t, 2, 2] * p[2] + frames[t, 2, 3]
    along = frames[t, 2, 0] * dx + frames[t, 2, 1] * dy + frames[t, 2, 2] * dz
    if (here > 0.0) == (here + along > 0.0):
        return False
    at = -here / along
    if at <= 1e-6 or at >= 1.0 - 1e-6:
        return False
    x, y, z = p[0] + at * dx, p[1] + at * dy, p[2] + at * dz
    u = frames[t, 0, 0] * x + frames[t, 0, 1] * y + frames[t, 0, 2] * z + frames[t, 0, 3]
    if u < 0.0 or u > 1.0:
        return False
    v = frames[t, 1, 0] * x + frames[t, 1, 1] * y + frames[t, 1, 2] * z + frames[t, 1, 3]
    inside: bool = v >= 0.0 and u + v <= 1.0
    return inside


@njit(nogil=True, cache=True, error_model="numpy")
def _blocker(p: Any, q: Any, boxes: Any, skips: Any, spans: Any, frames: Any) -> int:
    """A triangle that stands between two places, -1 for none: down the tree of boxes (N, 2, 3), then the triangles in the leaves that are met."""
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
            if _hit(p, dx, dy, dz, frames, t):
                return t
        s += 1
    return -1


# A face no light of a lamp falls on; one with so much in between that the tree is walked for each place.
NEVER, WALK = -1, -2
MOST = 48  # triangles in between that are looked at one by one
SLACK_MM = 0.01


@njit(nogil=True, cache=True, error_model="numpy")
def _planes_round(q: Any, p: Any, around: Any) -> None:
    """Into ``around`` (5, 4), from its third row on, the planes through a lamp and each edge of a face ``p`` (3, 3), outward."""
    for i in range(3):
        j, k = (i + 1) % 3, (i + 2) % 3
        ax, ay, az = p[i, 0] - q[0], p[i, 1] - q[1], p[i, 2] - q[2]
        bx, by, bz = p[j, 0] - q[0], p[j, 1] - q[1], p[j, 2] - q[2]
        mx, my, mz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
        size = math.sqrt(mx * mx + my * my + mz * mz)
        if size < 1e-12:
            mx, my, mz, size = 0.0, 0.0, 0.0, 1.0
        if mx * (p[k, 0] - q[0]) + my * (p[k, 1] - q[1]) + mz * (p[k, 2] - q[2]) > 0.0:
            size = -size
        mx, my, mz = mx / size, my / size, mz / size
        around[2 + i, 0], around[2 + i, 1], around[2 + i, 2] = mx, my, mz
        around[2 + i, 3] = mx * q[0] + my * q[1] + mz * q[2] + SLACK_MM


@njit(nogil=True, cache=True, error_model="numpy")
def _box_beyond(around: Any, box: Any) -> bool:
    """Whether a box (3, 2) lies wholly beyond one of the planes."""
    for f in range(5):
        a, b, c = around[f, 0], around[f, 1], around[f, 2]
        nearest = a * box[0 if a > 0.0 else 1, 0] + b * box[0 if b > 0.0 else 1, 1] + c * box[0 if c > 0.0 else 1, 2]
        if nearest > around[f, 3]:
            return True
    return False


@njit(nogil=True, cache=True, error_model="numpy")
def _triangle_beyond(around: Any, corners: Any) -> bool:
    """Whether a triangle (3, 3) lies wholly beyond one of the planes."""
    for f in range(5):
        a, b, c, d = around[f, 0], around[f, 1], around[f, 2], around[f, 3]
        if (
            a * corners[0, 0] + b * corners[0, 1] + c * corners[0, 2] > d
            and a * corners[1, 0] + b * corners[1, 1] + c * corners[1, 2] > d
            and a * corners[2, 0] + b * corners[2, 1] + c * corners[2, 2] > d
        ):
            return True
    return False


@njit(nogil=True, cache=True, error_model="numpy")
def _hides_whole(q: Any, p: Any, frames: Any, m: int) -> bool:
    """Whether a triangle stands between a lamp and all three corners of a face."""
    hidden = 0
    while hidden < 3 and _hit(
        p[hidden], q[0] - p[hidden, 0], q[1] - p[hidden, 1], q[2] - p[hidden, 2], frames, m
    ):  # fmt: skip
        hidden += 1
    return hidden == 3


@njit(nogil=True, cache=True, error_model="numpy")
def shafts_of(
    q: Any, faces: Any, normals: Any, boxes: Any, skips: Any, spans: Any, frames: Any, triangles: Any, code: Any
) -> Any:
    """What may stand between a lamp and each of faces (T, 3, 3): members (M,), numbers into ``triangles``; the first is a 0.

    ``code`` (T,) becomes NEVER, WALK, or where in the members the face's count stands, its blockers behind it. All of a face's light runs
    in the tetrahedron between it and the lamp: what lies wholly beyond one of its planes is never in the way.

    Parameters
    ----------
    q : array
        The lamp's place (3,), mm.
    faces : array
        Corners of the faces (T, 3, 3), mm.
    normals : array
        Normals of the faces (T, 3).
    boxes : array
        Low and high corners of the tree's boxes.
    skips : array
        Where the walk goes on beyond each box.
    spans : array
        Which triangles each box holds.
    frames : array
        Planes of each triangle, for the line's test.
    triangles : array
        Corners of what may stand between, mm.
    code : array
        (T,), written to.

    Returns
    -------
    array
        Members (M,).
    """
    members = np.zeros(4096, np.int32)
    used = 1
    around = np.empty((5, 4))
    p = np.empty((3, 3))
    found = np.empty(MOST, np.int32)
    for t in range(faces.shape[0]):
        nx, ny, nz = normals[t, 0], normals[t, 1], normals[t, 2]
        high = nx * q[0] + ny * q[1] + nz * q[2]
        low = nx * faces[t, 0, 0] + ny * faces[t, 0, 1] + nz * faces[t, 0, 2] + GRAZE_MM
        if high <= low - SLACK_MM:
            code[t] = NEVER
            continue
        for i in range(3):
            p[i, 0], p[i, 1], p[i, 2] = (
                faces[t, i, 0] + GRAZE_MM * nx,
                faces[t, i, 1] + GRAZE_MM * ny,
                faces[t, i, 2] + GRAZE_MM * nz,
            )
        around[0, 0], around[0, 1], around[0, 2], around[0, 3] = -nx, -ny, -nz, -low + SLACK_MM
        around[1, 0], around[1, 1], around[1, 2], around[1, 3] = nx, ny, nz, high + SLACK_MM
        _planes_round(q, p, around)
        count, s = 0, 0
        while s < boxes.shape[0]:
            if _box_beyond(around, boxes[s]):
                s = skips[s]
                continue
            for m in range(spans[s, 0], spans[s, 1]):
                if _triangle_beyond(around, triangles[m]):
                    continue
                if _hides_whole(q, p, frames, m):
                    count = -1
                    break
                if count < MOST:
                    found[count] = m
                count += 1
            if count < 0:
                break
            s += 1
        if count < 0:
            code[t] = NEVER
        elif count == 0:
            code[t] = 0
        elif count > MOST:
            code[t] = WALK
        else:
            if used + count + 1 > members.shape[0]:
                more = np.zeros(2 * members.shape[0], np.int32)
                more[:used] = members[:used]
                members = more
            code[t] = used
            members[used] = count
            for i in range(count):
                members[used + 1 + i] = found[i]
            used += count + 1
    return members[:used].copy()


@njit(nogil=True, cache=True, error_model="numpy")
def shine_on(
    ids: Any, places: Any, normals: Any, beam: Any, boxes: Any, skips: Any, spans: Any, frames: Any, code: Any, members: Any, least: float, out: Any
) -> None:  # fmt: skip
    """Illuminance (lx) of places (3, N) on the faces ``ids`` (N,) under one lamp of 1 cd: out (N,).

    ``beam`` (7,): place, aim (of length 1), order (below 0: all round). Below ``least`` nothing is looked at closely. ``normals`` (T, 3);
    numbers from T on are left dark. ``code`` (T,) and ``members``: the lamp's shafts; with no code the tree is walked for every place.

    Parameters
    ----------
    ids : array
        Face of each place (N,).
    places : array
        Places (3, N), mm.
    normals : array
        Normals of the faces (T, 3).
    beam : array
        The lamp (7,).
    boxes : array
        Low and high corners of the tree's boxes.
    skips : array
        Where the walk goes on beyond each box.
    spans : array
        Which triangles each box holds.
    frames : array
        Planes of each triangle, for the line's test.
    code : array
        The lamp's shafts by face (T,).
    members : array
        What ``code`` points into (M,).
    least : float
        Illuminance below which nothing is looked at closely, lx.
    out : array
        Illuminance (N,), lx for 1 cd, written to.
    """
    p = np.empty(3)
    q = beam[:3]
    last = -1  # what stood before the lamp at one place stands there at the next as a rule
    for n in range(ids.shape[0]):
        t = ids[n]
        if t >= normals.shape[0]:
            continue
        shaft = code[t] if t < code.shape[0] else WALK
        if shaft == NEVER:
            continue
        nx, ny, nz = normals[t, 0], normals[t, 1], normals[t, 2]
        p[0], p[1], p[2] = places[0, n] + GRAZE_MM * nx, places[1, n] + GRAZE_MM * ny, places[2, n] + GRAZE_MM * nz
        dx, dy, dz = q[0] - p[0], q[1] - p[1], q[2] - p[2]
        r2 = dx * dx + dy * dy + dz * dz
        facing = nx * dx + ny * dy + nz * dz
        if facing <= 0.0 or r2 < 1e-6:
            continue
        r = math.sqrt(r2)
        lux = 1e6 * facing / (r2 * r)
        if lux < least:
            continue
        if beam[6] >= 0.0:
            cos = -(beam[3] * dx + beam[4] * dy + beam[5] * dz) / r
            if cos <= 0.0:
                continue
            lux *= cos if beam[6] == 1.0 else cos ** beam[6]
            if lux < least:
                continue
        if last >= 0 and _hit(p, dx, dy, dz, frames, last):
            continue
        last = -1
        if shaft == WALK:
            last = _blocker(p, q, boxes, skips, spans, frames)
        else:
            for k in range(shaft + 1, shaft + 1 + members[shaft]):
                if _hit(p, dx, dy, dz, frames, members[k]):
                    last = members[k]
                    break
        if last < 0:
            out[n] = lux


@njit(nogil=True, cache=True, error_model="numpy")
def shine_all(
    ids: Any, places: Any, normals: Any, beams: Any, cd: Any, boxes: Any, skips: Any, spans: Any, frames: Any, codes: Any, members: Any, least: float,
    out: Any, first: int, last: int,
) -> None:  # fmt: skip
    """The same under lamps ``first`` to ``last`` of ``beams`` (L, 7) with their ``cd`` (L, C), added to out (C, N); ``codes`` (L, T).

    Parameters
    ----------
    ids : array
        Face of each place (N,).
    places : array
        Places (3, N), mm.
    normals : array
        Normals of the faces (T, 3).
    beams : array
        The lamps (L, 7).
    cd : array
        Intensity of each lamp in each picture (L, C), cd.
    boxes : array
        Low and high corners of the tree's boxes.
    skips : array
        Where the walk goes on beyond each box.
    spans : array
        Which triangles each box holds.
    frames : array
        Planes of each triangle, for the line's test.
    codes : array
        Shafts of each lamp by face (L, T).
    members : array
        What ``codes`` point into.
    least : float
        Illuminance below which nothing is looked at closely, lx.
    out : array
        Illuminance (C, N), lx, added to.
    first : int
        First lamp.
    last : int
        Lamp after the last.
    """
    lux = np.empty(ids.shape[0], np.float32)
    for i in range(first, last):
        lux[:] = 0.0
        shine_on(
            ids, places, normals, beams[i], boxes, skips, spans, frames, codes[i], members, least / cd[i].max(), lux
        )
        for c in range(cd.shape[1]):
            if cd[i, c] > 0.0:
                for n in range(ids.shape[0]):
                    out[c, n] += cd[i, c] * lux[n]
