"""A model seen from anywhere: what is where in the picture, and the light that falls on it.

By compiled loops once they are there (``load_kernel``), by NumPy until then; both give the same.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.memo import memoize, same_value
from gwiazda.core.render.compiled import compiled
from gwiazda.core.render.night import workers
from gwiazda.core.render.solid import TIE, Eye, normals_of
from gwiazda.core.turns import OvertakenError, give_way

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]
Ids = npt.NDArray[np.int32]
NEAR_MM = 1.0
THREADS = min(4, os.cpu_count() or 1)

_raster: Callable[..., None] | None = None
_shine: Callable[..., None] | None = None
_shine_all: Callable[..., None] | None = None
_shaft: Callable[..., npt.NDArray[np.int32]] | None = None


def _loops() -> tuple[Any, ...]:
    from gwiazda.core.render import round_kernel  # compiled, or read from the disk, as it is imported

    return round_kernel.raster_rows, round_kernel.shine_on, round_kernel.shine_all, round_kernel.shafts_of


def load_kernel() -> None:
    """Import the compiled loops (some seconds the first time on a machine), where there is room to keep them."""
    global _raster, _shine, _shine_all, _shaft
    loops = compiled(_loops)
    if loops is None:
        return
    _raster, _shine, _shine_all, _shaft = loops
    # Compiled for these kinds of array with the first call, kept on the disk from then on.
    eye, bodies = Eye(0.0, 0.0, 9.0, (0.0, 0.0, 0.0), 1.0, 2, 2), bodies_of(np.eye(3)[None])
    lamps = np.array([[0.0, 0.0, 9.0, 0.0, 0.0, -1.0, 1.0, 1.0]])
    for quick in (False, True):
        fallen(
            eye,
            shown(eye, drawn(eye, bodies.faces)),
            Shining(lamps, np.zeros(1, np.int64), 1),
            bodies,
            1.0,
            Haste(quick),
        )


def kernel_loaded() -> bool:
    """Whether the compiled loops are there already."""
    return _raster is not None


def without_kernel() -> None:
    """Go back to NumPy, as on a machine that has just started."""
    global _raster, _shine, _shine_all, _shaft
    _raster = _shine = _shine_all = _shaft = None


class Buffers(NamedTuple):
    """``ids`` (H, W): the number of the triangle seen, −1 for none; ``depth`` (H, W): one over its depth, 1/mm, 0 for none."""

    ids: Ids
    depth: Array32


class Bodies(NamedTuple):
    """What casts shadows, as a tree.

    Its boxes (N, 2, 3) in the order they are walked, where to go on when one is missed (N,), which of the triangles (T, 3, 3) lie in
    it (N, 2; none but in leaves), the frame (T, 3, 4) of each of those. ``faces`` (F, 3, 3) and ``normals`` (F, 3): the
    same skin as it is seen and numbered.
    """

    boxes: Array
    skips: npt.NDArray[np.int64]
    spans: npt.NDArray[np.int64]
    frames: Array
    triangles: Array
    faces: Array
    normals: Array


LEAF = 6  # triangles in a box that is not parted any further


def bodies_of(triangles: Array, faces: Array | None = None) -> Bodies:
    """The tree of triangles (T, 3, 3): each box parted at the median of its longest side.

    ``faces``: the same skin as it is seen, where that is in other parts.

    Parameters
    ----------
    triangles : array
        Corners (T, 3, 3), mm.
    faces : array or None
        Corners of the skin as it is seen (F, 3, 3), mm.

    Returns
    -------
    Bodies
        Boxes, and which triangles lie in each.
    """
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
    inner = np.ascontiguousarray(triangles[np.array(order, dtype=np.intp)])
    faces = triangles if faces is None else faces
    return Bodies(
        np.array(boxes).reshape(-1, 2, 3), np.array(skips, dtype=np.int64), np.array(spans, dtype=np.int64).reshape(-1, 2), _frames(inner), inner,
        faces, normals_of(faces),
    )  # fmt: skip


def _frames(triangles: Array) -> Array:
    """From the model to each triangle's own frame (T, 3, 4): along its two edges, 0 to 1, and out of its plane; one without area is nowhere."""
    a, e1, e2 = triangles[:, 0], triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    n = np.cross(e1, e2)
    size2 = (n * n).sum(axis=1)[:, None]
    flat = size2 < 1e-18
    size2 = np.where(flat, 1.0, size2)
    rows = np.stack([np.cross(e2, n) / size2, np.cross(n, e1) / size2, n / np.sqrt(size2)], axis=1)
    out = np.concatenate([rows, -(rows * a[:, None]).sum(axis=2, keepdims=True)], axis=2)
    out[flat[:, 0]] = [[0.0, 0.0, 0.0, 0.0], [0.0, 0.0, 0.0, 0.0], [0.0, 0.0, 0.0, 1.0]]
    return np.ascontiguousarray(out)


def drawn(eye: Eye, triangles: Array, normals: Array | None = None) -> Buffers:
    """Triangles (T, 3, 3), seen from their front alone, into numbers and depths of the picture; their ``normals`` where they are known.

    Parameters
    ----------
    eye : Eye
        Where it is looked from.
    triangles : array
        Corners (T, 3, 3), mm.
    normals : array or None
        Normals (T, 3), of length 1.

    Returns
    -------
    Buffers
        Number of the face and depth (mm) of each pixel (H, W).
    """
    ids = np.full((eye.height, eye.width), -1, np.int32)
    depth = np.zeros((eye.height, eye.width), np.float32)
    if not len(triangles):
        return Buffers(ids, depth)
    px = eye.project(triangles)
    out = normals_of(triangles) if normals is None else normals
    front = np.einsum("ij,ij->i", out, eye.place - triangles[:, 0]) > 0
    front &= (px[..., 2] > NEAR_MM).all(axis=1)
    near = px[front]
    near[..., 2] = 1.0 / near[..., 2]
    numbers = np.flatnonzero(front).astype(np.int32)
    if _raster is not None:
        raster = _raster
        _in_bands(eye.height, lambda a, b: raster(near, numbers, depth, ids, a, b))
    else:
        _raster_numpy(near, numbers, depth, ids)
    return Buffers(ids, depth)


BANDS = 4  # for each thread: the model lies in the middle, what is above and below it takes no time


def _in_bands(height: int, job: Callable[[int, int], Any]) -> None:
    """A job on bands of rows, a few at once: compiled loops let others run."""
    edges = np.linspace(0, height, BANDS * THREADS + 1).astype(int).tolist()
    list(workers().map(job, edges[:-1], edges[1:]))


def _raster_numpy(px: Array, numbers: Ids, depth: Array32, ids: Ids) -> None:
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
        nearer = (a >= 0) & (b >= 0) & (c >= 0) & (w > part * np.float32(TIE))
        part[nearer] = w[nearer]
        ids[ya : yb + 1, xa : xb + 1][nearer] = numbers[t]


class Shown(NamedTuple):
    """The pixels where anything is seen: their number row by row (N,), the triangle's (N,), where on the model they lie (3, N), mm."""

    flat: npt.NDArray[np.intp]
    ids: Ids
    places: Array32


def shown(eye: Eye, seen: Buffers) -> Shown:
    """What an eye's picture shows, pixel by pixel.

    Parameters
    ----------
    eye : Eye
        Where it is looked from.
    seen : Buffers
        What ``drawn`` gave.

    Returns
    -------
    Shown
        Which pixels show something, where that is (mm) and of which face.
    """
    flat = np.flatnonzero(seen.ids.ravel() >= 0)
    rows, columns = np.divmod(flat, eye.width)
    far = (1.0 / seen.depth.ravel()[flat]).astype(np.float32)
    u = (columns + 0.5 - eye.width / 2).astype(np.float32) * (far / np.float32(eye.focal))
    v = (rows + 0.5 - eye.height / 2).astype(np.float32) * (far / np.float32(eye.focal))
    places = np.empty((3, len(flat)), np.float32)
    for k, (place, right, down, ahead) in enumerate(zip(eye.place, *eye.axes, strict=True)):
        np.multiply(far, np.float32(ahead), out=places[k])
        places[k] += u * np.float32(right) + v * np.float32(down) + np.float32(place)
    return Shown(flat, seen.ids.ravel()[flat], places)


MANY = 400_000  # faces times lamps: more are not looked through beforehand
KEPT = 8_000_000  # pixels times lamps: more are not kept from one picture to the next
TOGETHER = 12  # lamps that are worked out one after the other, their pictures side by side in memory
Beam = tuple[float, ...]  # place (mm), aim (of length 1), order (below 0: even all round)
NO_SHAFTS = (np.zeros(0, np.int32), np.zeros(1, np.int32))


@memoize(slots=1, by=lambda bodies, place: place, places=512, same=same_value)
def _shafts_of(bodies: Bodies, place: Beam) -> tuple[npt.NDArray[np.int32], npt.NDArray[np.int32]]:
    """What may stand between a lamp and each face, wherever the eye is: see ``round_kernel.shafts_of``."""
    assert _shaft is not None
    code = np.empty(len(bodies.faces), np.int32)
    members = _shaft(np.array(place), bodies.faces, bodies.normals, *bodies[:5], code)
    return code, members


@memoize(slots=1, by=lambda eye, shown, bodies, beam, *_: beam, places=96, same=same_value)
def _lux_of(eye: Eye, shown: Shown, bodies: Bodies, beam: Beam, least: float, shafts: bool, shadows: bool) -> Array32:
    """Illuminance (N,), lx, of what an eye sees under one lamp of 1 cd."""
    if _shine is None:
        return _lux_numpy(shown, bodies, np.array(beam), least, shadows)
    out = np.zeros(len(shown.ids), np.float32)
    between = _shafts_of(bodies, beam[:3]) if shafts else NO_SHAFTS
    _shine(shown.ids, shown.places, bodies.normals, np.array(beam), *bodies[:4], *between, least, out)
    return out


class Shining(NamedTuple):
    """Lamps (L, 8): place (mm), aim (of length 1), order of the beam (below 0: even all round), intensity on the axis (cd).

    ``layer`` (L,): which layer each adds to; how many ``layers`` there are.
    """

    lamps: Array
    layer: npt.NDArray[np.int64]
    layers: int


class Haste(NamedTuple):
    """How much a picture hurries.

    ``quick``: for pictures of few pixels while they move, which are not kept; without the kernel no shadows, which would take seconds.
    ``overtaken`` is asked where it takes long: whether nobody waits any more. ``darkest_lux`` is the darkest room in which it is to be shown: what doesn't
    show there is left out; None for the model's own.
    """

    quick: bool = False
    overtaken: Callable[[], bool] = lambda: False
    darkest_lux: float | None = None


AT_LEISURE = Haste()


def fallen(
    eye: Eye, shown: Shown, shining: Shining, bodies: Bodies, least: float, haste: Haste = AT_LEISURE
) -> Array32:
    """Illuminance (layers, N), lx, of what is seen under lamps.

    Parameters
    ----------
    eye : Eye
        Where it is looked from.
    shown : Shown
        What is seen, N pixels of it.
    shining : Shining
        The lamps.
    bodies : Bodies
        What is seen and what casts shadows; numbers in ``shown`` beyond its faces are left dark.
    least : float
        Lux below which nothing is looked at.
    haste : Haste
        Whether it moves; asked between lamps where there is no kernel.

    Returns
    -------
    (layers, N) array
        Illuminance, lx.

    Raises
    ------
    OvertakenError
        When ``overtaken`` says so.
    """
    (lamps, layer, layers), quick, overtaken = shining, haste.quick, haste.overtaken
    if not len(lamps) or not len(shown.ids):
        return np.zeros((layers, len(shown.ids)), np.float32)
    # Lights of one place and aim (a row of panes, lit by several channels) are looked at together.
    beams, which = np.unique(lamps[:, :7], axis=0, return_inverse=True)
    sums = np.bincount(which.ravel() * layers + layer, lamps[:, 7], minlength=len(beams) * layers)
    cd = np.asarray(sums, np.float64).reshape(-1, layers)
    beams, cd = beams[cd.any(axis=1)], cd[cd.any(axis=1)]
    if not len(beams):  # all of them are out
        return np.zeros((layers, len(shown.ids)), np.float32)
    shafts = len(bodies.faces) * len(beams) <= MANY
    if quick and _shine_all is not None:
        return _at_once(shown, beams, cd, bodies, least, shafts)
    look = _lux_of.function if quick or len(beams) * len(shown.ids) > KEPT else _lux_of

    def lux(some: range) -> Array32:
        """What these beams give: (layers, N).

        Raises
        ------
        OvertakenError
            As above.
        """
        each = np.empty((len(some), len(shown.ids)), np.float32)
        for row, i in enumerate(some):
            give_way()
            if _shine is None and overtaken():
                raise OvertakenError
            # To a power of two, so that what is kept serves a lamp dimmed a little as well.
            cut = 2.0 ** np.floor(np.log2(least / cd[i].max())) if least > 0 else 0.0
            each[row] = look(
                eye, shown, bodies, tuple(beams[i].tolist()), float(cut), shafts, not quick or _shine is not None
            )
        return np.asarray(cd[some.start : some.stop].T.astype(np.float32) @ each)

    parts = [range(a, min(a + TOGETHER, len(beams))) for a in range(0, len(beams), TOGETHER)]
    return np.asarray(sum((workers().map if _shine is not None else map)(lux, parts)))


@memoize(slots=2, same=same_value)
def _shafts_beside(bodies: Bodies, places: Array) -> tuple[npt.NDArray[np.int32], npt.NDArray[np.int32]]:
    """The shafts of lamps (L, 3) one beside the other: codes (L, F) and members."""
    every = [_shafts_of(bodies, tuple(place)) for place in places.tolist()]
    starts = np.cumsum([0, *(len(members) for _, members in every)])[:-1, None]
    codes = np.array([code for code, _ in every])
    return np.where(codes >= 0, codes + starts, codes).astype(np.int32), np.concatenate(
        [members for _, members in every]
    )


def _at_once(shown: Shown, beams: Array, cd: Array, bodies: Bodies, least: float, shafts: bool) -> Array32:
    """What lamps give, in as few calls as there are threads; nothing is kept of it."""
    assert _shine_all is not None
    shine = _shine_all
    codes, members = (
        _shafts_beside(bodies, beams[:, :3].copy()) if shafts else (np.zeros((len(beams), 0), np.int32), NO_SHAFTS[1])
    )

    def some(first: int, last: int) -> Array32:
        out = np.zeros((cd.shape[1], len(shown.ids)), np.float32)
        shine(shown.ids, shown.places, bodies.normals, beams, cd, *bodies[:4], codes, members, least, out, first, last)
        return out

    edges = np.linspace(0, len(beams), THREADS + 1).astype(int).tolist()
    return np.asarray(sum(workers().map(some, edges[:-1], edges[1:])))


def _lux_numpy(shown: Shown, bodies: Bodies, beam: Array, least: float, shadows: bool) -> Array32:
    """The same as ``round_kernel.shine_on``; shadows by boxes and triangles for all places at once."""
    out = np.zeros(len(shown.ids), np.float32)
    here = np.flatnonzero(shown.ids < len(bodies.faces))
    n = bodies.normals[shown.ids[here]]
    p = shown.places[:, here].T + 0.05 * n
    d = beam[:3] - p
    r2 = (d * d).sum(axis=1)
    facing = (n * d).sum(axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        lux = np.where((facing > 0) & (r2 > 1e-6), 1e6 * facing / r2**1.5, 0.0)
        if beam[6] >= 0:
            lux = lux * np.maximum(-(d @ beam[3:6]) / np.sqrt(r2), 0.0) ** beam[6]
    lit = np.flatnonzero((np.nan_to_num(lux) >= least) & (lux > 0))
    if shadows and len(lit):
        lit = lit[~blocked(p[lit], beam[:3], bodies)]
    out[here[lit]] = lux[lit]
    return out


def blocked(p: Array, q: Array, bodies: Bodies) -> npt.NDArray[np.bool_]:
    """Which of places (N, 3) have a triangle between them and ``q``.

    Parameters
    ----------
    p : array
        Places (N, 3), mm.
    q : array
        The place they look to (3,), mm.
    bodies : Bodies
        What may stand between.

    Returns
    -------
    array of bool
        True (N,) where something does.
    """
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
