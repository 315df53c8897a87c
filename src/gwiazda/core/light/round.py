"""A model seen from anywhere: what is where in the picture, and the light that falls on it.

By compiled loops once they are there (``load_kernel``), by NumPy until then; both give the same.
"""

from __future__ import annotations

import itertools
import os
from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.light.solid import Eye, normals_of
from gwiazda.core.turns import OvertakenError, give_way

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]
Ids = npt.NDArray[np.int32]
NEAR_MM = 1.0
THREADS = min(4, os.cpu_count() or 1)
ALL_ROUND = -1.0

_raster: Callable[..., None] | None = None
_shade: Callable[..., None] | None = None


def load_kernel() -> None:
    """Import the compiled loops (some seconds the first time on a machine)."""
    global _raster, _shade
    from gwiazda.core.light.round_kernel import raster_rows, shade_rows

    # Compiled for these kinds of array with the first call, kept on the disk from then on.
    ids, depth = np.full((2, 2), -1, np.int32), np.zeros((2, 2), np.float32)
    raster_rows(np.zeros((1, 3, 3)), 0, depth, ids, 0, 2)
    three = np.zeros(3)
    shade_rows(
        ids, depth, np.ones((2, 2), np.bool_), three, three, three, three, 1.0, np.zeros((1, 3)), np.zeros((1, 8)), np.zeros(1, np.int64), np.zeros((1, 2, 3)),
        np.ones(1, np.int64), np.zeros((1, 2), np.int64), np.zeros((1, 3, 3)), 0.0, np.zeros((1, 2, 2), np.float32), 0, 2,
    )  # fmt: skip
    _raster, _shade = raster_rows, shade_rows


def kernel_loaded() -> bool:
    """Whether the compiled loops are there already."""
    return _raster is not None


def without_kernel() -> None:
    """Go back to NumPy, as on a machine that has just started."""
    global _raster, _shade
    _raster = _shade = None


class Buffers(NamedTuple):
    """``ids`` (H, W): the number of the triangle seen, −1 for none; ``depth`` (H, W): one over its depth, 1/mm, 0 for none."""

    ids: Ids
    depth: Array32


class Bodies(NamedTuple):
    """What casts shadows, as a tree.

    Its boxes (N, 2, 3) in the order they are walked, where to go on when one is missed (N,), which of the triangles (T, 3, 3) lie in
    it (N, 2; none but in leaves).
    """

    boxes: Array
    skips: npt.NDArray[np.int64]
    spans: npt.NDArray[np.int64]
    triangles: Array


LEAF = 6  # triangles in a box that is not parted any further


def bodies_of(triangles: Array) -> Bodies:
    """The tree of triangles (T, 3, 3): each box parted at the median of its longest side."""
    middle = triangles.mean(axis=1)
    order: list[int] = []
    boxes: list[tuple[Array, Array]] = []
    skips: list[int] = []
    spans: list[tuple[int, int]] = []

    def grow(mine: npt.NDArray[np.intp]) -> None:
        node = len(boxes)
        points = triangles[mine].reshape(-1, 3)
        boxes.append((points.min(axis=0), points.max(axis=0)))
        skips.append(0)
        spans.append((0, 0))
        if len(mine) <= LEAF:
            spans[node] = (len(order), len(order) + len(mine))
            order.extend(mine.tolist())
        else:
            axis = int(np.ptp(middle[mine], axis=0).argmax())
            ranked = mine[np.argsort(middle[mine, axis], kind="stable")]
            grow(ranked[: len(ranked) // 2])
            grow(ranked[len(ranked) // 2 :])
        skips[node] = len(boxes)

    if len(triangles):
        grow(np.arange(len(triangles)))
    return Bodies(
        np.array(boxes).reshape(-1, 2, 3), np.array(skips, dtype=np.int64), np.array(spans, dtype=np.int64).reshape(-1, 2),
        np.ascontiguousarray(triangles[np.array(order, dtype=np.intp)]),
    )  # fmt: skip


def drawn(eye: Eye, triangles: Array) -> Buffers:
    """Triangles (T, 3, 3), seen from their front alone, into numbers and depths of the picture."""
    ids = np.full((eye.height, eye.width), -1, np.int32)
    depth = np.zeros((eye.height, eye.width), np.float32)
    if not len(triangles):
        return Buffers(ids, depth)
    px = eye.project(triangles)
    front = np.einsum("ij,ij->i", normals_of(triangles), eye.place - triangles[:, 0]) > 0
    front &= (px[..., 2] > NEAR_MM).all(axis=1)
    shown = px[front]
    shown[..., 2] = 1.0 / shown[..., 2]
    numbers = np.flatnonzero(front).astype(np.int32)
    if _raster is not None:
        raster = _raster
        _in_bands(eye.height, lambda a, b: raster(shown, 0, depth, ids, a, b))
    else:
        _raster_numpy(shown, depth, ids)
    seen = ids >= 0
    ids[seen] = numbers[ids[seen]]
    return Buffers(ids, depth)


def _in_bands(height: int, job: Callable[[int, int], Any]) -> None:
    """A job on bands of rows, a few at once: compiled loops let others run."""
    from gwiazda.core.light.night import workers

    edges = np.linspace(0, height, THREADS + 1).astype(int).tolist()
    others = [workers().submit(job, a, b) for a, b in itertools.pairwise(edges[1:])]
    job(edges[0], edges[1])
    for other in others:
        other.result()


def _raster_numpy(px: Array, depth: Array32, ids: Ids) -> None:
    """The same as ``raster_rows``, a triangle at a time."""
    height, width = ids.shape
    for t, ((x0, y0, w0), (x1, y1, w1), (x2, y2, w2)) in enumerate(px.tolist()):
        area = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)
        ya, yb = max(0, int(np.ceil(min(y0, y1, y2) - 0.5))), min(height - 1, int(np.floor(max(y0, y1, y2) - 0.5)))
        xa, xb = max(0, int(np.ceil(min(x0, x1, x2) - 0.5))), min(width - 1, int(np.floor(max(x0, x1, x2) - 0.5)))
        if area == 0.0 or yb < ya or xb < xa:
            continue
        if t % 64 == 0:
            give_way()
        cy, cx = np.arange(ya, yb + 1)[:, None] + 0.5, np.arange(xa, xb + 1)[None] + 0.5
        a = ((x1 - cx) * (y2 - cy) - (x2 - cx) * (y1 - cy)) / area
        b = ((x2 - cx) * (y0 - cy) - (x0 - cx) * (y2 - cy)) / area
        c = 1.0 - a - b
        w = (a * w0 + b * w1 + c * w2).astype(np.float32)
        part = depth[ya : yb + 1, xa : xb + 1]
        nearer = (a >= 0) & (b >= 0) & (c >= 0) & (w > part)
        part[nearer] = w[nearer]
        ids[ya : yb + 1, xa : xb + 1][nearer] = t


def places_of(eye: Eye, depth: Array32) -> Array:
    """Where on the model each pixel lies: (H, W, 3) mm; nonsense where nothing is."""
    y, x = np.mgrid[0 : eye.height, 0 : eye.width]
    with np.errstate(divide="ignore"):
        far = np.where(depth > 0, 1.0 / np.maximum(depth, 1e-12), 0.0)
    return np.asarray(eye.place + far[..., None] * eye.rays(x, y))


def shaded(eye: Eye, seen: Buffers, normals: Array, lamps: Array, layer: npt.NDArray[np.int64], layers: int, bodies: Bodies, least: float, quick: bool = False, overtaken: Callable[[], bool] = lambda: False) -> Array32:  # fmt: skip
    """Illuminance (layers, H, W), lx, of what is seen under lamps.

    Parameters
    ----------
    normals : (T, 3) array
        By the numbers in ``seen``; numbers beyond are left dark.
    lamps : (L, 8) array
        Place (mm), aim (of length 1), order of the beam (below 0: even all round), intensity on the axis (cd).
    layer : (L,) array
        Which layer each adds to.
    least : float
        Lux below which nothing is looked at.
    overtaken : callable
        Asked between lamps where there is no kernel; raises OvertakenError when it says so.
    quick : bool
        Straight through, for pictures of few pixels; without the kernel also without shadows, which would take seconds.
    """
    out = np.zeros((layers, eye.height, eye.width), np.float32)
    if not len(lamps):
        return out
    if _shade is None:
        _shade_numpy(eye, seen, normals, lamps, layer, bodies, least, out, not quick, overtaken)
        return out
    if quick:
        everywhere = np.ones(seen.ids.shape, np.bool_)
        _shade_in_bands(
            _Axes(eye.place, *eye.axes, eye.focal), seen, everywhere, normals, lamps, layer, bodies, least, out
        )
        return out
    # Every other pixel each way first: light is smooth but where one thing ends and another begins, and there each pixel is worked out.
    half = Buffers(np.ascontiguousarray(seen.ids[::2, ::2]), np.ascontiguousarray(seen.depth[::2, ::2]))
    small = eye._replace(width=half.ids.shape[1], height=half.ids.shape[0], focal=eye.focal / 2)
    few = np.zeros((layers, *half.ids.shape), np.float32)
    everywhere = np.ones(half.ids.shape, np.bool_)
    _shade_in_bands(_off_centre(small, eye), half, everywhere, normals, lamps, layer, bodies, least, few)
    h, w = seen.ids.shape
    edge = np.repeat(np.repeat(half.ids, 2, axis=0), 2, axis=1)[:h, :w] != seen.ids
    rim = np.zeros(half.ids.shape, np.bool_)
    # Where light itself has an edge (a shadow's), its neighbours are worked out as well.
    for plane in few:
        if plane.any():
            change = np.abs(np.diff(plane, axis=1)) > STEEP * np.maximum(plane[:, 1:], plane[:, :-1])
            rim[:, 1:] |= change
            rim[:, :-1] |= change
            change = np.abs(np.diff(plane, axis=0)) > STEEP * np.maximum(plane[1:], plane[:-1])
            rim[1:] |= change
            rim[:-1] |= change
    edge |= np.repeat(np.repeat(rim, 2, axis=0), 2, axis=1)[:h, :w]
    for k in range(layers):
        if few[k].any():
            out[k] = np.repeat(np.repeat(few[k], 2, axis=0), 2, axis=1)[:h, :w]
    out[:, edge] = 0.0
    _shade_in_bands(_Axes(eye.place, *eye.axes, eye.focal), seen, edge, normals, lamps, layer, bodies, least, out)
    return out


STEEP = 0.2  # of the brighter of two neighbours: a larger change is an edge of light


class _Axes(NamedTuple):
    place: Array
    right: Array
    down: Array
    ahead: Array
    focal: float


def _off_centre(small: Eye, eye: Eye) -> _Axes:
    """The axes for every other pixel of an eye's picture: the first of each pair, not the middle between them."""
    right, down, ahead = small.axes
    shift = (0.5 * (eye.width / 2 - small.width), 0.5 * (eye.height / 2 - small.height))
    u, v = (-0.25 - shift[0]) / small.focal, (-0.25 - shift[1]) / small.focal
    return _Axes(small.place, right, down, ahead + u * right + v * down, small.focal)


def _shade_in_bands(
    axes: _Axes, seen: Buffers, wanted: npt.NDArray[np.bool_], normals: Array, lamps: Array, layer: npt.NDArray[np.int64], bodies: Bodies,
    least: float, out: Array32,
) -> None:  # fmt: skip
    shade = _shade
    assert shade is not None
    _in_bands(
        seen.ids.shape[0],
        lambda a, b: shade(seen.ids, seen.depth, wanted, *axes, normals, lamps, layer, bodies.boxes, bodies.skips, bodies.spans, bodies.triangles, least, out, a, b),
    )  # fmt: skip


def _shade_numpy(
    eye: Eye, seen: Buffers, normals: Array, lamps: Array, layer: npt.NDArray[np.int64], bodies: Bodies, least: float, out: Array32, shadows: bool = True,
    overtaken: Callable[[], bool] = lambda: False,
) -> None:  # fmt: skip
    """The same as ``shade_rows``; shadows by boxes and triangles for all pixels of a lamp at once.

    Raises
    ------
    OvertakenError
        When ``overtaken`` says so.
    """
    rows, columns = np.nonzero((seen.ids >= 0) & (seen.ids < len(normals)))
    n = normals[seen.ids[rows, columns]]
    far = 1.0 / seen.depth[rows, columns].astype(float)
    p = eye.place + far[:, None] * eye.rays(columns, rows) + 0.05 * n
    for i, lamp in enumerate(lamps):
        give_way()
        if overtaken():
            raise OvertakenError
        d = lamp[:3] - p
        r2 = (d * d).sum(axis=1)
        facing = (n * d).sum(axis=1)
        with np.errstate(divide="ignore", invalid="ignore"):
            lux = np.where((facing > 0) & (r2 > 1e-6), lamp[7] * 1e6 * facing / r2**1.5, 0.0)
            if lamp[6] >= 0:
                lux = lux * np.maximum(-(d @ lamp[3:6]) / np.sqrt(r2), 0.0) ** lamp[6]
        lit = np.flatnonzero(np.nan_to_num(lux) >= least)
        if len(lit):
            if shadows:
                lit = lit[~blocked(p[lit], lamp[:3], bodies)]
            out[layer[i], rows[lit], columns[lit]] += lux[lit].astype(np.float32)


def blocked(p: Array, q: Array, bodies: Bodies) -> npt.NDArray[np.bool_]:
    """Which of places (N, 3) have a triangle between them and ``q``."""
    out = np.zeros(len(p), dtype=bool)
    d = q - p
    safe = np.where(np.abs(d) < 1e-12, 1e-12, d)
    waiting = [(0, np.arange(len(p)))] if len(bodies.boxes) else []
    while waiting:
        node, which = waiting.pop()
        which = which[~out[which]]
        low, high = bodies.boxes[node]
        a, b = (low - p[which]) / safe[which], (high - p[which]) / safe[which]
        enter, leave = np.minimum(a, b).max(axis=1), np.maximum(a, b).min(axis=1)
        which = which[np.maximum(enter, 0.0) <= np.minimum(leave, 1.0)]
        if not len(which):
            continue
        first, last = bodies.spans[node].tolist()
        if first == last:
            waiting += [(node + 1, which), (int(bodies.skips[node + 1]), which)]
        for t in range(first, last):
            v0, v1, v2 = bodies.triangles[t]
            e1, e2 = v1 - v0, v2 - v0
            h = np.cross(d[which], e2)
            det = h @ e1
            # Level with the triangle: never a hit, whatever comes out.
            f = 1.0 / np.where(np.abs(det) > 1e-12, det, 1e-12)
            s = p[which] - v0
            u = f * (s * h).sum(axis=1)
            k = np.cross(s, e1)
            v = f * (d[which] * k).sum(axis=1)
            at = f * (k @ e2)
            hit = (np.abs(det) > 1e-12) & (u >= 0) & (u <= 1) & (v >= 0) & (u + v <= 1) & (at > 1e-6) & (at < 1 - 1e-6)
            out[which[hit]] = True
    return out
