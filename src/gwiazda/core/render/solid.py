"""Solids from outlines: a section's silhouettes from the side, from above and from ahead, intersected slice by slice.

At every place along x the outline from the side says from where to where the solid goes up, the one from above how far it goes across; the one
from ahead is what its slices look like, fitted into that rectangle. So it looks from the side and from above just as it was drawn.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Span = tuple[float, float]
Ring = Array  # (K, 2) y and z of a slice, 0 to 1 each, against the clock as seen from ahead

EDGE = 1e-4  # mm inside an interval: where spans are read, so that corners belong to one side
MOST_SLICES = 96
RECTANGLE: Ring = np.array([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]])


def normals_of(triangles: Array) -> Array:
    """Normals (T, 3) of triangles (T, 3, 3).

    Parameters
    ----------
    triangles : array
        Corners (T, 3, 3), mm.

    Returns
    -------
    array
        Normals (T, 3), of length 1.
    """
    n = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    length = np.linalg.norm(n, axis=1, keepdims=True)
    return np.asarray(np.divide(n, length, out=np.zeros_like(n), where=length > 1e-12))


def spans_at(polygons: Sequence[Array], place: float) -> list[Span]:
    """From where to where polygons (each (N, 2)) go along their second axis at a place of the first (even-odd), joined where they meet.

    Parameters
    ----------
    polygons : Sequence[array]
        Corners (N, 2) of each.
    place : float
        Where along the first axis.

    Returns
    -------
    list[Span]
        Pairs of low and high end, rising.
    """
    found: list[Span] = []
    for p in polygons:
        a, b = p, np.roll(p, -1, axis=0)
        crosses = (a[:, 0] > place) != (b[:, 0] > place)
        if crosses.any():
            q, r = a[crosses], b[crosses]
            at = np.sort(q[:, 1] + (place - q[:, 0]) * (r[:, 1] - q[:, 1]) / (r[:, 0] - q[:, 0]))
            found += [(float(x), float(y)) for x, y in zip(at[::2], at[1::2], strict=False) if y - x > 1e-9]
    found.sort()
    joined: list[Span] = []
    for low, high in found:
        if joined and low <= joined[-1][1] + 1e-9:
            joined[-1] = (joined[-1][0], max(joined[-1][1], high))
        else:
            joined.append((low, high))
    return joined


def ring_of(polygon: Array | None, most: int = 28) -> Ring:
    """A slice's shape from an outline seen from ahead (y, z), 0 to 1 each way; a rectangle where none is drawn.

    Parameters
    ----------
    polygon : array or None
        Corners (N, 2), or None.
    most : int
        Corners at the most.

    Returns
    -------
    Ring
        The shape.
    """
    if polygon is None or len(polygon) < 3:
        return RECTANGLE
    low, size = polygon.min(axis=0), np.ptp(polygon, axis=0)
    if min(size) <= 1e-9:
        return RECTANGLE
    ring = (polygon - low) / size
    if len(ring) > most:
        ring = ring[np.unique(np.linspace(0, len(ring) - 1, most).round().astype(int))]
    area = 0.5 * float(np.sum(ring[:, 0] * np.roll(ring[:, 1], -1) - np.roll(ring[:, 0], -1) * ring[:, 1]))
    return np.asarray(ring if area > 0 else ring[::-1])


def cuts_of(side: Sequence[Array], above: Sequence[Array], first: float, last: float, most: int = MOST_SLICES) -> Array:
    """Where along x slices are cut: at every corner of the outlines, thinned to so many.

    Parameters
    ----------
    side : Sequence[array]
        Outlines seen from the side (N, 2), mm.
    above : Sequence[array]
        Outlines seen from above (N, 2), mm.
    first : float
        Low end along x, mm.
    last : float
        High end along x, mm.
    most : int
        Cuts at the most.

    Returns
    -------
    array
        Places along x, rising, mm.
    """
    corners = [p[:, 0] for p in (*side, *above)]
    at = np.concatenate([*corners, [first, last]]) if corners else np.array([first, last])
    at = np.unique(np.round(np.clip(at, first, last), 4))
    if len(at) > most:
        at = at[np.unique(np.linspace(0, len(at) - 1, most).round().astype(int))]
    return at


def solid(
    side: Sequence[Array], above: Sequence[Array], ahead: Array | None, low: Sequence[float], high: Sequence[float], most: int = MOST_SLICES
) -> Array:  # fmt: skip
    """Triangles (T, 3, 3) of a section.

    Parameters
    ----------
    side, above : sequences of (N, 2) arrays
        Outlines in (x, z) and (x, y), mm; empty where none is drawn.
    ahead : (N, 2) array or None
        Outline in (y, z).
    low, high : (3,) sequences
        The box that stands in where an outline is missing, mm.
    most : int
        Slices at the most.

    Returns
    -------
    Empty where there is nothing of any size.
    """
    flat = [p for p in (*side, *above) if len(p) >= 3]
    first = float(low[0]) if not flat else min(float(p[:, 0].min()) for p in flat)
    last = float(high[0]) if not flat else max(float(p[:, 0].max()) for p in flat)
    if last - first < 1e-6:
        return np.zeros((0, 3, 3))
    ring = ring_of(ahead)
    cuts = cuts_of(side, above, first, last, most)
    parts: list[Array] = []
    before: list[tuple[float, Array]] = []
    for a, b in itertools.pairwise(cuts.tolist()):
        step = min(EDGE, (b - a) / 4)
        begin, end = _slices(side, above, low, high, ring, a + step), _slices(side, above, low, high, ring, b - step)
        now: list[tuple[float, Array]] = []
        if len(begin) != len(end):
            begin = end = _slices(side, above, low, high, ring, (a + b) / 2)
        for p, q in zip(begin, end, strict=True):
            parts.append(_tube(p, float(a), q, float(b)))
            now.append((float(b), q))
            if not any(abs(x - a) < 1e-9 and np.abs(r - p).max() < 10 * EDGE + 1e-3 for x, r in before):
                parts.append(_cap(p, float(a), False))
        for x, r in before:
            if not any(np.abs(r - p).max() < 10 * EDGE + 1e-3 for p in begin):
                parts.append(_cap(r, x, True))
        before = now
    parts += [_cap(r, x, True) for x, r in before]
    if not parts:
        return np.zeros((0, 3, 3))
    out = np.concatenate(parts)
    size = np.linalg.norm(np.cross(out[:, 1] - out[:, 0], out[:, 2] - out[:, 0]), axis=1)
    return np.asarray(out[size > 1e-9])


def _slices(
    side: Sequence[Array], above: Sequence[Array], low: Sequence[float], high: Sequence[float], ring: Ring, x: float
) -> list[Array]:
    """The slices (K, 2) of a solid at a place along it: one for each way up and across that it goes there."""
    up = spans_at(side, x) if side else [(float(low[2]), float(high[2]))]
    across = spans_at(above, x) if above else [(float(low[1]), float(high[1]))]
    return [
        np.column_stack([y0 + ring[:, 0] * (y1 - y0), z0 + ring[:, 1] * (z1 - z0)])
        for y0, y1 in across
        for z0, z1 in up
    ]


def _at(slice_: Array, x: float) -> Array:
    return np.column_stack([np.full(len(slice_), x), slice_])


def _tube(p: Array, a: float, q: Array, b: float) -> Array:
    """The skin between two slices."""
    first, last = _at(p, a), _at(q, b)
    f1, l1 = np.roll(first, -1, axis=0), np.roll(last, -1, axis=0)
    # Rings run against the clock seen from ahead (y to the left there is port): outward is to their right going aft.
    return np.concatenate([np.stack([first, f1, l1], axis=1), np.stack([first, l1, last], axis=1)])


def _cap(p: Array, x: float, ahead: bool) -> Array:
    """A slice as a face, turned ahead or astern; fanned from its middle."""
    ring = _at(p, x)
    middle = np.broadcast_to(ring.mean(axis=0), ring.shape)
    following = np.roll(ring, -1, axis=0)
    return np.stack([middle, ring, following] if ahead else [middle, following, ring], axis=1)


def slab(outline: Array, thick_mm: float) -> Array:
    """An outline (N, 2) with a thickness: triangles (T, 3, 3) in along, across (the middle at 0) and up, mm.

    Parameters
    ----------
    outline : array
        Corners (N, 2), mm.
    thick_mm : float
        Thickness, mm.

    Returns
    -------
    array
        Triangles (T, 3, 3), mm.
    """
    (first, _), (last, _) = outline.min(axis=0), outline.max(axis=0)
    t = thick_mm / 2
    around = np.array([(first, -t), (last, -t), (last, t), (first, t)])
    return solid([outline], [around], None, (first, -t, 0.0), (last, t, 0.0))


def parted(triangles: Array, longest_mm: float) -> tuple[Array, npt.NDArray[np.intp]]:
    """Triangles (T, 3, 3) halved across their longest edges until none is longer than ``longest_mm``.

    The parts (N, 3, 3), and of which triangle each is, in their order.

    Parameters
    ----------
    triangles : array
        Corners (T, 3, 3), mm.
    longest_mm : float
        Longest edge that may stay, mm.

    Returns
    -------
    tuple[array, array of int]
        Triangles (N, 3, 3), mm, and the number (N,) of the one each comes from.
    """
    of = np.arange(len(triangles))
    while len(triangles):
        edges = np.linalg.norm(np.roll(triangles, -1, axis=1) - triangles, axis=2)
        long = edges.max(axis=1) > longest_mm
        if not long.any():
            break
        n, k = np.arange(len(triangles)), edges.argmax(axis=1)
        a, b, c = triangles[n, k], triangles[n, (k + 1) % 3], triangles[n, (k + 2) % 3]
        middle = (a + b) / 2
        first = np.where(long[:, None, None], np.stack([a, middle, c], axis=1), triangles)
        there = np.column_stack([np.ones_like(long), long]).ravel()
        triangles = np.stack([first, np.stack([middle, b, c], axis=1)], axis=1).reshape(-1, 3, 3)[there]
        of = np.repeat(of, 2)[there]
    return triangles, of


def thin_pane(middle: Array, across: Array, up: Array, normal: Array, ring: Array, proud_mm: float) -> Array:
    """Triangles (K − 2, 3, 3) of a pane on a skin: ``ring`` (K, 2) in mm along its two directions, a little proud of it.

    Parameters
    ----------
    middle : array
        Its middle on the skin (3,), mm.
    across : array
        Its first direction (3,), of length 1.
    up : array
        Its second direction (3,), of length 1.
    normal : array
        Outwards (3,), of length 1.
    ring : array
        Corners along the two directions (K, 2), mm.
    proud_mm : float
        How far it stands out of the skin, mm.

    Returns
    -------
    array
        Triangles (K − 2, 3, 3), mm.
    """
    at = middle + ring[:, :1] * across + ring[:, 1:] * up + normal * proud_mm
    fan = np.stack([np.broadcast_to(at[0], (len(at) - 2, 3)), at[1:-1], at[2:]], axis=1)
    n = np.cross(fan[:, 1] - fan[:, 0], fan[:, 2] - fan[:, 0]).sum(axis=0)
    return fan if float(n @ normal) >= 0 else fan[:, ::-1]


# Of one over the depth: faces this near to one another, as where solids stand in each other, are one, and the first of them is seen.
TIE = 1.0 + 2e-5


class Eye(NamedTuple):
    """Where the model is looked at from.

    Round it by ``azimuth_deg`` (0 from port, 90 from ahead), up by ``height_deg``, ``distance_mm`` from ``target``; ``focal`` px for 1 mm at
    1 mm.
    """

    azimuth_deg: float
    height_deg: float
    distance_mm: float
    target: tuple[float, float, float]
    focal: float
    width: int
    height: int

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        """Right, down and ahead (away from the eye) as directions of the model."""
        a, h = math.radians(self.azimuth_deg), math.radians(self.height_deg)
        # From port the bow lies on the left: right is astern.
        out = np.array([math.sin(a) * math.cos(h), math.cos(a) * math.cos(h), math.sin(h)])
        right = np.array([-math.cos(a), math.sin(a), 0.0])
        ahead = -out
        return right, np.cross(ahead, right), ahead

    @property
    def place(self) -> Array:
        """The eye's own place, mm."""
        return np.array(self.target) - self.axes[2] * self.distance_mm

    def project(self, points: Array) -> Array:
        """Points (…, 3) as px right, px down, and depth along the view (mm).

        Parameters
        ----------
        points : array
            Places of the model (…, 3), mm.

        Returns
        -------
        array
            Right (px), down (px) and depth (mm) (…, 3).
        """
        right, down, ahead = self.axes
        d = points - self.place
        depth = d @ ahead
        safe = np.where(np.abs(depth) < 1e-6, 1e-6, depth)
        return np.stack(
            [self.width / 2 + self.focal * (d @ right) / safe, self.height / 2 + self.focal * (d @ down) / safe, depth],
            axis=-1,
        )

    def rays(self, x: npt.ArrayLike, y: npt.ArrayLike) -> Array:
        """Directions (…, 3) through pixels, for 1 mm of depth.

        Parameters
        ----------
        x : array or float
            Columns, px, any shape.
        y : array or float
            Rows, px, of the same shape.

        Returns
        -------
        array
            Directions (…, 3), mm.
        """
        right, down, ahead = self.axes
        u = (np.asarray(x) + 0.5 - self.width / 2) / self.focal
        v = (np.asarray(y) + 0.5 - self.height / 2) / self.focal
        return np.asarray(ahead + u[..., None] * right + v[..., None] * down)
