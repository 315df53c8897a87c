"""A channel's lights and washes as a layer of the night picture. Places are on the view's sheet, in mm."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.render.glare import WEIGHT, Blur, Rects, disc_strips, sigmas_mm, spread
from gwiazda.core.render.night import Layer, cropped
from gwiazda.core.render.raster import polygon_mask, within
from gwiazda.core.turns import give_way

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]
ALIKE = 1e-3
_GRID = np.stack(np.meshgrid(np.linspace(-0.9, 0.9, 10), np.linspace(-0.9, 0.9, 10))).reshape(2, -1)
DISC: Array = _GRID[:, (_GRID**2).sum(axis=0) <= 1.0]  # places spread over a disc of radius 1


class Camera(NamedTuple):
    """How the sheet lies on the picture: px = (mm − origin) · scale; ``distance_m`` to the eye."""

    width: int
    height: int
    origin_mm: tuple[float, float]
    scale: float
    distance_m: float


class Surface(NamedTuple):
    """A hull face turned to the viewer: polygon (N, 2) on the sheet, height towards the viewer, reflectance."""

    polygon: Array
    toward_mm: float
    reflectance: float


class Wash(NamedTuple):
    """What lights the hull from outside: place and aim on the sheet (right, down, towards), beam, cd.

    ``soft``: a row of lit panes taken together; what falls of it is worked out on half as many pixels each way.
    """

    at: tuple[float, float, float]
    aim: tuple[float, float, float]
    order: float
    axial_cd: float
    soft: bool = False


@dataclass(frozen=True, eq=False)
class ChannelLight:
    """What one colour of one channel shows in a view.

    Panes (N, 4): left, top, right, bottom; discs (M, 4): right, down, radius, height towards the viewer (mm; infinite
    for what lies in the hull itself).
    """

    channel: str
    rgb: tuple[float, float, float]
    panes: Array
    pane_cd_m2: Array
    discs: Array
    disc_cd_m2: Array
    washes: tuple[Wash, ...] = ()

    def same_as(self, other: ChannelLight) -> bool:
        """Whether nobody could tell the two apart: the same places, and every light within a thousandth.

        On one battery every lamp's current shifts a little when any other changes; a code value on the screen is
        four thousandths at the least.

        Parameters
        ----------
        other : ChannelLight
            Light of the same channel.

        Returns
        -------
        bool
            True where they show alike.
        """
        give_way()
        return (
            self.channel == other.channel
            and self.rgb == other.rgb
            and np.array_equal(self.panes, other.panes)
            and np.array_equal(self.discs, other.discs)
            and bool(np.all(np.abs(self.pane_cd_m2 - other.pane_cd_m2) <= ALIKE * np.abs(other.pane_cd_m2)))
            and bool(np.all(np.abs(self.disc_cd_m2 - other.disc_cd_m2) <= ALIKE * np.abs(other.disc_cd_m2)))
            and len(self.washes) == len(other.washes)
            and all(
                a[:3] == b[:3] and abs(a.axial_cd - b.axial_cd) <= ALIKE * b.axial_cd
                for a, b in zip(self.washes, other.washes, strict=True)
            )
        )


class Bodies(NamedTuple):
    """Bodies that light can't pass.

    ``boxes`` (N, 2, 3): lowest and highest right, down, towards the viewer, mm; ``outlines``: of each (K, 2) on the sheet where it isn't a
    plain box.
    """

    boxes: Array
    outlines: tuple[Array | None, ...]


NO_BODIES = Bodies(np.zeros((0, 2, 3)), ())


class _Hull(NamedTuple):
    """The pixels (N,) on a face, row by row: number in the picture, row, column, height towards the viewer (mm)."""

    flat: npt.NDArray[np.intp]
    rows: npt.NDArray[np.intp]
    columns: npt.NDArray[np.intp]
    toward: Array32


class Relief:
    """The faces turned to the viewer, as pixels: height towards the viewer and reflectance (0 off the hull)."""

    def __init__(self, surfaces: tuple[Surface, ...], camera: Camera, bodies: Bodies = NO_BODIES) -> None:
        self.surfaces, self.bodies, self.camera = surfaces, bodies, camera
        x, y = [s.polygon[:, 0] for s in surfaces], [s.polygon[:, 1] for s in surfaces]
        self._extents = [np.array([f(p) for p in of]) for of in (x, y) for f in (np.min, np.max)]
        self._toward = np.array([s.toward_mm for s in surfaces])
        self._masks: dict[int, npt.NDArray[np.bool_]] = {}
        self._half: Relief | None = None
        self._hull: _Hull | None = None
        self.toward = np.full((camera.height, camera.width), -np.inf, np.float32)
        self.reflectance = np.zeros((camera.height, camera.width), np.float32)
        for surface in sorted(surfaces, key=lambda s: s.toward_mm):
            points = (surface.polygon - np.array(camera.origin_mm)) * camera.scale
            inside = polygon_mask(points, camera.width, camera.height)
            self.toward[inside] = surface.toward_mm
            self.reflectance[inside] = surface.reflectance

    def mask(self, number: int) -> npt.NDArray[np.bool_] | None:
        """The pixels of a body's outline; None for one that is a plain box.

        Parameters
        ----------
        number : int
            Number of the body.

        Returns
        -------
        array of bool or None
            True for the pixels (H, W) within; or None.
        """
        outline = self.bodies.outlines[number]
        if outline is None:
            return None
        if number not in self._masks:
            points = (outline - np.array(self.camera.origin_mm)) * self.camera.scale
            self._masks[number] = polygon_mask(points, self.camera.width, self.camera.height)
        return self._masks[number]

    @property
    def hull(self) -> _Hull:
        """The pixels that a face is seen at."""
        if self._hull is None:
            flat = np.flatnonzero(np.isfinite(self.toward))
            rows, columns = np.divmod(flat, self.toward.shape[1])
            self._hull = _Hull(flat, rows, columns, self.toward.ravel()[flat])
        return self._hull

    @property
    def half(self) -> Relief:
        """The same on half as many pixels each way, all of it throwing back all light."""
        if self._half is None:
            c = self.camera
            small = Camera((c.width + 1) // 2, (c.height + 1) // 2, c.origin_mm, c.scale / 2, c.distance_m)
            self._half = Relief((), small, self.bodies)
            self._half.toward = self.toward[::2, ::2]
            self._half.reflectance = np.isfinite(self._half.toward).astype(np.float32)
        return self._half

    def share_in_sight(self, x: Array, y: Array, toward_mm: float) -> float:
        """Share of places (N,) on the sheet (mm) that no face stands before, ``toward_mm`` up from it.

        By the outlines, not by the pixels: a light on the very edge of a face shows alike at any magnification.

        Parameters
        ----------
        x : array
            Places along the sheet (N,), mm.
        y : array
            Places up the sheet (N,), mm.
        toward_mm : float
            How far the places are towards the eye, mm.

        Returns
        -------
        float
            Share, 0 to 1.
        """
        left, right, top, bottom = self._extents
        near = np.flatnonzero(
            (self._toward > toward_mm) & (left <= x.max()) & (right >= x.min()) & (top <= y.max()) & (bottom >= y.min())
        )
        if not len(near):
            return 1.0
        places = np.column_stack([x, y])
        hidden = np.any([within(self.surfaces[i].polygon, places) for i in near], axis=0)
        return float(1.0 - hidden.mean())


def _lists() -> list[Array]:
    return []


def render(light: ChannelLight, camera: Camera, relief: Relief, least_cd_m2: float) -> Layer | None:
    """The layer of one channel, cropped where it stays below ``least_cd_m2``; None when all of it does.

    Parameters
    ----------
    light : ChannelLight
        Rectangles of one channel with their luminance.
    camera : Camera
        How the sheet lies in the picture.
    relief : Relief
        What stands before what.
    least_cd_m2 : float
        Luminance below which nothing is kept, cd/m².

    Returns
    -------
    Layer or None
        The layer, or None.
    """
    sigma = sigmas_mm(camera.distance_m) * camera.scale
    # Pictures are sampled at pixel centres: half a pixel of spread keeps a light smaller than a pixel at its
    # intensity wherever it lies (within 3 %).
    sigma = np.sqrt(sigma**2 + 0.5**2)
    ox, oy = camera.origin_mm
    x0, x1, y0, y1, value = _lists(), _lists(), _lists(), _lists(), _lists()
    if len(light.panes):
        p = (light.panes - np.array([ox, ox, oy, oy])) * camera.scale
        for column, into in zip(p.T, (x0, x1, y0, y1), strict=True):
            into.append(column)
        value.append(light.pane_cd_m2)
    for (cx, cy, radius, toward), luminance in zip(light.discs, light.disc_cd_m2, strict=True):
        seen = relief.share_in_sight(cx + radius * DISC[0], cy + radius * DISC[1], toward)
        if seen <= 0.0:
            continue
        r = radius * camera.scale
        strips = int(np.clip(np.ceil(2 * r), 1, 24))
        a, b, c, d = disc_strips((cx - ox) * camera.scale, (cy - oy) * camera.scale, r, strips)
        for column, into in zip((a, b, c, d), (x0, x1, y0, y1), strict=True):
            into.append(column)
        value.append(np.full(strips, luminance * seen))
    if value:
        rects = Rects(*(np.concatenate(v) for v in (x0, x1, y0, y1)))
        give_way()
        size = (camera.width, camera.height)
        blurred = spread(rects, np.concatenate(value), Blur(sigma, np.array(WEIGHT)), size)
        picture = np.ascontiguousarray(blurred)
        give_way()
    else:
        picture = np.zeros((camera.height, camera.width), np.float32)
    for wash in light.washes:
        if not wash.soft:
            give_way()
            _add_wash(picture, wash, camera, relief, least_cd_m2)
    _add_soft(picture, light.washes, relief, least_cd_m2)
    return cropped(light.channel, light.rgb, picture, least_cd_m2)


def _twice(picture: Array32) -> Array32:
    """Twice as many rows, each new one half-way between its neighbours."""
    out = np.repeat(picture, 2, axis=0)
    out[1:-1:2] = (picture[:-1] + picture[1:]) / 2
    return out


def _add_soft(picture: Array32, washes: tuple[Wash, ...], relief: Relief, least: float) -> None:
    """What rows of lit panes throw on what stands around them: smooth, so half the pixels each way are enough."""
    soft = [w for w in washes if w.soft]
    if not soft:
        return
    half = relief.half
    falls = np.zeros((half.camera.height, half.camera.width), np.float32)
    for wash in soft:
        give_way()
        _add_wash(falls, wash, half.camera, half, least)
    if falls.any():
        h, w = picture.shape
        picture += _twice(_twice(falls).T).T[:h, :w] * relief.reflectance


def _add_wash(picture: Array32, wash: Wash, camera: Camera, relief: Relief, least: float) -> None:
    """Luminance ρ·E/π of the hull lit by a bare lamp, added within the reach where it can be seen."""
    px = (
        (wash.at[0] - camera.origin_mm[0]) * camera.scale,
        (wash.at[1] - camera.origin_mm[1]) * camera.scale,
    )
    # cos β/r² = h/r³, at most 0.385/ρ² at distance ρ whatever the height h: that bounds the reach.
    reach_mm = 1000.0 * np.sqrt(0.385 * wash.axial_cd / (np.pi * least))
    reach = reach_mm * camera.scale
    left, right = int(max(0, px[0] - reach)), int(min(camera.width, px[0] + reach + 1))
    top, bottom = int(max(0, px[1] - reach)), int(min(camera.height, px[1] + reach + 1))
    if right <= left or bottom <= top:
        return
    across = ((np.arange(left, right, dtype=np.float32) + 0.5 - px[0]) / camera.scale).astype(np.float32)
    down = ((np.arange(top, bottom, dtype=np.float32) + 0.5 - px[1]) / camera.scale).astype(np.float32)
    # Only the hull's pixels are looked at, and of those only what is below the lamp and near enough to show.
    hull = relief.hull
    first, last = np.searchsorted(hull.rows, (top, bottom))
    height = np.float32(wash.at[2]) - hull.toward[first:last]  # how far the lamp stands above the face
    columns = hull.columns[first:last]
    here = np.flatnonzero((height > 0) & (columns >= left) & (columns < right))
    flat, height = hull.flat[first:last][here], height[here]
    du, dv = across[columns[here] - left], down[hull.rows[first:last][here] - top]
    reflectance = relief.reflectance.ravel()[flat]
    r2 = du * du + dv * dv + height * height
    np.maximum(r2, 1e-4, out=r2)
    r = np.sqrt(r2)
    floor = np.pi * least * 0.25
    near = np.flatnonzero(np.float32(wash.axial_cd * 1e6) * height / (r2 * r) * reflectance > floor)
    flat = flat[near]
    height, du, dv, r2, r, reflectance = (v[near] for v in (height, du, dv, r2, r, reflectance))
    length = float(np.sqrt(sum(a * a for a in wash.aim)))
    a, b, c = (x / length for x in wash.aim)
    share = (a * du + b * dv - c * height) / r
    np.clip(share, 0.0, 1.0, out=share)
    if wash.order not in (0.0, 1.0):
        share = share ** np.float32(wash.order)
    elif wash.order == 0.0:
        share[:] = 1.0
    lux = np.float32(wash.axial_cd * 1e6) * share * height / (r2 * r)
    lit = np.flatnonzero(lux * reflectance > floor)
    if len(relief.bodies.boxes) and len(lit):
        lit = lit[~_shaded(wash, (du[lit], dv[lit], -height[lit]), relief)]
    picture.ravel()[flat[lit]] += lux[lit] * reflectance[lit] / np.float32(np.pi)


def _on_mask(mask: npt.NDArray[np.bool_], camera: Camera, right: Array32, down: Array32) -> npt.NDArray[np.bool_]:
    """Whether places of the sheet (mm) are on a mask; off the picture they aren't."""
    x, y = (right - camera.origin_mm[0]) * camera.scale, (down - camera.origin_mm[1]) * camera.scale
    on = np.asarray((x >= 0) & (y >= 0) & (x < mask.shape[1]) & (y < mask.shape[0]))
    on[on] = mask[y[on].astype(np.intp), x[on].astype(np.intp)]
    return on


def _crosses(polygon: Array, a: tuple[Array32, ...], b: tuple[Array32, ...]) -> npt.NDArray[np.bool_]:
    """Whether the lines from places to places cross any edge of a polygon."""
    out = np.zeros(len(a[0]), dtype=bool)
    dx, dy = b[0] - a[0], b[1] - a[1]
    for (px, py), (qx, qy) in zip(polygon, np.roll(polygon, -1, axis=0), strict=True):
        ex, ey = np.float32(qx - px), np.float32(qy - py)
        # Both ends of the edge on either side of the line, and both ends of the line on either side of the edge.
        p = dx * (np.float32(py) - a[1]) - dy * (np.float32(px) - a[0])
        q = dx * (np.float32(qy) - a[1]) - dy * (np.float32(qx) - a[0])
        r = ex * (a[1] - np.float32(py)) - ey * (a[0] - np.float32(px))
        s = ex * (b[1] - np.float32(py)) - ey * (b[0] - np.float32(px))
        out |= (p * q < 0) & (r * s < 0)
    return out


HAIR_MM = 0.01
GRAZE_MM = 0.05  # how far before a face a body may stand and still not shade it: its own does


def _shaded(wash: Wash, ways: tuple[Array32, Array32, Array32], relief: Relief) -> npt.NDArray[np.bool_]:
    """Which of the ways (N,) from a lamp to the pixels it lights, mm right, down and towards the viewer, a body stands in.

    By the slab test for its box; what passes through that is blocked where it begins on the body's outline or crosses it.
    """
    at = np.array(wash.at, dtype=np.float32)
    near = at + np.minimum([float(w.min()) for w in ways], 0.0)
    far = at + np.maximum([float(w.max()) for w in ways], 0.0)
    # A way along a slab is as one that leaves it nearly nowhere: what it meets then lies beyond all else.
    inverse = [np.float32(1.0) / np.where(np.abs(w) < 1e-6, np.float32(1e-6), w) for w in ways]
    graze = 1.0 - GRAZE_MM / np.sqrt(sum(w * w for w in ways))
    blocked = np.zeros(len(ways[0]), dtype=bool)
    for number, (low, high) in enumerate(relief.bodies.boxes):
        if np.any(low >= far) or np.any(high <= near):
            continue
        outline = relief.mask(number)
        inside = bool(np.all((at > low + GRAZE_MM) & (at < high - GRAZE_MM)))
        if inside and outline is not None:
            inside = bool(_on_mask(outline, relief.camera, at[:1], at[1:2])[0])
        if inside:
            continue
        enter = np.full(len(ways[0]), -np.inf, dtype=np.float32)
        leave = np.full(len(ways[0]), np.inf, dtype=np.float32)
        for axis in range(3):
            a = np.float32(low[axis] - at[axis]) * inverse[axis]
            b = np.float32(high[axis] - at[axis]) * inverse[axis]
            np.maximum(enter, np.minimum(a, b), out=enter)
            np.minimum(leave, np.maximum(a, b), out=leave)
        meets = ~blocked & (enter < leave) & (leave > 1e-6) & (enter < graze)
        if outline is None:
            blocked |= meets
            continue
        which = np.flatnonzero(meets)
        # A hair further at both ends: an outline that fills its box begins and ends right on its edges.
        hair = HAIR_MM / GRAZE_MM * (1.0 - graze[which])
        first, last = np.maximum(enter[which] - hair, 0.0), np.minimum(leave[which] + hair, graze[which])
        x, y = ways[0][which], ways[1][which]
        first, last = first.astype(np.float32), last.astype(np.float32)
        begins, ends = (at[0] + first * x, at[1] + first * y), (at[0] + last * x, at[1] + last * y)
        polygon = relief.bodies.outlines[number]
        assert polygon is not None
        blocked[which] = _on_mask(outline, relief.camera, *begins) | _crosses(polygon, begins, ends)
    return blocked
