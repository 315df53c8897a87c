"""What an eye anywhere sees of a plan in the dark, and what lies at a place of its picture."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.night.glows import Glow, Key
from gwiazda.core.assess.night.shine import Lights
from gwiazda.core.assess.night.solids import Model
from gwiazda.core.assess.night.unlit import unlit_shares
from gwiazda.core.assess.optics.skin import bare_reflectance, outside_reflectance
from gwiazda.core.assess.sight.through import seen_through, stopped
from gwiazda.core.assess.states import Assessment
from gwiazda.core.memo import memoize, same_value
from gwiazda.core.plan.frame import NORMALS, PLANES, Side
from gwiazda.core.plan.model import Plan
from gwiazda.core.render import backdrop
from gwiazda.core.render import round as around
from gwiazda.core.render.glare import WEIGHT, Blur, Rects, sigmas_mm, spread_apart
from gwiazda.core.render.night import NightPicture, cropped
from gwiazda.core.render.solid import Eye
from gwiazda.core.render.tone import hull_luminance, middle_luminance
from gwiazda.core.turns import OvertakenError, give_way

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]

POINT_PROUD_MM = 1.5  # a point that is no deeper than this under what is seen shows
SMALL_PX = 2.5  # panes smaller than this are drawn as points are
FACING = 0.6  # cosine: a face of the skin belongs to the side it looks to


# Of a room's light comes from above, the rest from all round: house value, for the eye to read the form by.
FROM_ABOVE = 0.62
GLASS = 0.12  # reflectance of an unlit pane that leads into another section


def room_share(normals: Array) -> Array:
    """Share of a room's horizontal illuminance that falls on faces of these normals: (…,)."""
    return np.asarray((1.0 - FROM_ABOVE) * 0.5 + FROM_ABOVE * (1.0 + normals[..., 2]) / 2.0 + (1.0 - FROM_ABOVE) * 0.5)


class Looked(NamedTuple):
    """A model in the picture of an eye: what is seen where."""

    eye: Eye
    model: Model
    seen: around.Buffers
    shown: around.Shown


def looked_at(model: Model, eye: Eye) -> Looked:
    """What an eye sees of a model."""
    seen = around.drawn(eye, model.triangles, model.normals)
    return Looked(eye, model, seen, around.shown(eye, seen))


def night_around(
    plan: Plan, assessment: Assessment, looked: Looked, lights: Lights, tone: Array32 | None = None, weights: Mapping[str, float] | None = None,
    haste: around.Haste = around.AT_LEISURE,
) -> NightPicture:  # fmt: skip
    """The night picture from an eye: the room's light on the hull, and a layer for each colour of each channel; with ``weights`` all of it
    at once, sooner and no longer to be dimmed, where it moves without the faintest light.

    ``tone`` (N,): how strongly each pixel of ``looked.shown`` throws light back against its bare plastic, as a drawing has it; 1 where none is given.
    Raises OvertakenError when ``haste`` says so.
    """
    eye, model, seen, shown = looked
    catalogue, count = assessment.catalogue, len(model.skins)
    material = plan.kit.material
    rho = np.array(
        [outside_reflectance(catalogue, s, material) for s in model.sections]
        + [bare_reflectance(catalogue, material)] * len(model.fittings)
    )
    # Of each triangle; panes throw nothing back that lamps outside give.
    bare = np.zeros(len(model.normals), np.float32)
    bare[:count] = rho[model.section] if len(rho) else 0.0
    back = bare[shown.ids] if tone is None else bare[shown.ids] * tone
    room = (room_share(model.normals) * hull_luminance(1.0, 1.0)).astype(np.float32)
    hull = backdrop.around(eye, float(model.triangles[..., 2].min(initial=0.0))).copy()
    shares = unlit_shares(catalogue, plan.sections, plan.openings, material)
    glass = np.array(
        [0.0] * count + [shares.get(model.openings[i].id, GLASS) for i in model.pane_of.tolist()], np.float32
    )
    hull.ravel()[shown.flat] = room[shown.ids] * np.where(shown.ids < count, back, glass[shown.ids])
    lux = plan.room.lux if haste.darkest_lux is None else min(haste.darkest_lux, plan.room.lux)
    darkest = hull_luminance(lux, bare_reflectance(catalogue, material))
    least = middle_luminance(darkest, plan.room.exposure_ev) * 0.25 / 255 / 12.92
    if weights is not None:
        if haste.quick:
            least *= QUICK
        return NightPicture(hull, lux=plan.room.lux, lit=_at_once(looked, lights, weights, back, least, haste))
    under = around.Shining(lights.lamps, lights.lamp_key, len(lights.keys))
    falls = around.fallen(eye, shown, under, model.bodies, least * math.pi, haste._replace(quick=False))
    layers = []
    thrown = back / np.float32(np.pi)
    glowing = _glowing(looked, lights.glows)
    panes, spots, shining = _panes_seen(looked), _points_seen(looked, lights), _shine_of(looked, lights)
    for k, key in enumerate(lights.keys):
        give_way()
        if haste.overtaken():
            raise OvertakenError
        picture = np.zeros(seen.ids.shape, np.float32)
        picture.ravel()[shown.flat] = falls[k] * thrown
        for g in glowing:
            if g.key == key:
                picture.ravel()[g.flat] += g.cd_m2
        _add_panes(
            picture[None], looked, panes, shining[:, k : k + 1], spots, (lights.points.key == k).astype(float)[:, None]
        )
        layer = cropped(key[0], key[1], picture, least)
        if layer is not None:
            layers.append(layer)
    return NightPicture(hull, layers, lux=plan.room.lux)


QUICK = 12.0  # times brighter than the least that shows: fainter light is left out while the picture moves


def _at_once(
    looked: Looked, lights: Lights, weights: Mapping[str, float], back: Array32, least: float, haste: around.Haste
) -> Array32:  # fmt: skip
    """All channels at their weights as one picture (3, H, W): red, green and blue instead of channel by channel.

    ``back``: what each pixel of ``looked.shown`` throws back.
    """
    eye, model, seen, shown = looked
    out = np.zeros((3, *seen.ids.shape), np.float32)
    if not len(lights.keys):
        return out
    rgb = np.array([np.array(key[1]) * weights.get(key[0], 1.0) for key in lights.keys])
    lamps = np.repeat(lights.lamps, 3, axis=0)
    lamps[:, 7] *= rgb[lights.lamp_key].ravel()
    shining = around.Shining(lamps, np.arange(len(lamps)) % 3, 3)
    falls = around.fallen(eye, shown, shining, model.bodies, least * math.pi, haste)
    flat = out.reshape(3, -1)
    for c in range(3):
        flat[c, shown.flat] += falls[c] * (back / np.float32(np.pi))
    for g in _glowing(looked, lights.glows):
        for c, share in enumerate(rgb[lights.keys.index(g.key)].tolist()):
            flat[c, g.flat] += np.float32(share) * g.cd_m2
    share = rgb[lights.points.key]
    _add_panes(out, looked, _panes_seen(looked), _shine_of(looked, lights) @ rgb, _points_seen(looked, lights), share)
    return out


class Glowing(NamedTuple):
    """A glow as an eye sees it: its key, the pixels (row by row) and their luminance."""

    key: Key
    flat: npt.NDArray[np.intp]
    cd_m2: Array32


def _glowing(looked: Looked, glows: Sequence[Glow]) -> list[Glowing]:
    """Walls and seams that glow, their cells laid on the skin behind them."""
    found = (_glow_seen(looked, glow, number) for number, glow in enumerate(glows))
    return [x for x in found if len(x.flat)]


@memoize(slots=1, by=lambda looked, glow, number: number, places=256)
def _glow_seen(looked: Looked, glow: Glow, number: int) -> Glowing:
    """One of them, kept while neither it nor the sight changes."""
    eye, shown = looked.eye, looked.shown
    here = _turned_to(looked, glow.section, glow.side)
    h, v, _ = PLANES[glow.side]
    value = _laid(glow, eye.distance_mm / eye.focal, shown.places[h, here], shown.places[v, here])
    return Glowing(glow.key, shown.flat[here], value)


@memoize(slots=1, by=lambda looked, section, side: (section, side), places=512, same=same_value)
def _turned_to(looked: Looked, section: str, side: Side) -> npt.NDArray[np.intp]:
    """Which of the pixels shown are of a section's skin that is turned to a side."""
    model, count = looked.model, len(looked.model.skins)
    number = next(i for i, s in enumerate(model.sections) if s.id == section)
    faces = np.zeros(len(model.normals), dtype=bool)
    faces[:count] = (model.section == number) & (model.normals[:count] @ np.array(NORMALS[side], dtype=float) > FACING)
    return np.flatnonzero(faces[looked.shown.ids])


def _laid(glow: Glow, px_mm: float, across: Array32, up: Array32) -> Array32:
    """The luminance of a glow at places of its side; what is narrower than ``px_mm`` spread to that, with the light it has."""
    a, b, c, d = glow.rects.T
    wide, high = np.maximum(c - a, px_mm), np.maximum(d - b, px_mm)
    value = glow.cd_m2 * (c - a) * (d - b) / (wide * high)
    low_x, high_x = (a + c - wide) / 2, (a + c + wide) / 2
    low_y, high_y = (b + d - high) / 2, (b + d + high) / 2
    xs, ys = np.unique([low_x, high_x]), np.unique([low_y, high_y])
    # Each cell is where two steps up and two down cross: summed over rows and columns they are the cells laid over each other.
    i0, i1 = np.searchsorted(xs, low_x) + 1, np.searchsorted(xs, high_x) + 1
    j0, j1 = np.searchsorted(ys, low_y) + 1, np.searchsorted(ys, high_y) + 1
    shape = len(ys) + 1, len(xs) + 1
    at = np.ravel_multi_index((np.concatenate([j0, j1, j0, j1]), np.concatenate([i0, i1, i1, i0])), shape)
    steps = np.bincount(at, np.concatenate([value, value, -value, -value]), minlength=shape[0] * shape[1]).reshape(
        shape
    )
    table = steps.cumsum(axis=0).cumsum(axis=1)
    table[table < 1e-9 * value.max()] = 0.0
    return np.asarray(table[np.searchsorted(ys, up, "right"), np.searchsorted(xs, across, "right")], np.float32)


class Panes(NamedTuple):
    """Panes as an eye sees them: the pixels of all (row by row) and the opening each belongs to; for every opening its count of pixels; the
    rectangles (middle right, down, width, height px) that stand for it in the eye's glare, one, or several where it looks slanted, and whose they are."""

    flat: npt.NDArray[np.intp]
    which: npt.NDArray[np.int32]
    pixels: npt.NDArray[np.intp]
    rects: Array
    whose: npt.NDArray[np.intp]


SLANT_PX, MOST_BANDS = 4.0, 12  # a pane that leans by more than this is several bands in the eye's glare


def _boxed(piece: npt.NDArray[Any], pieces: int, columns: Array, rows: Array) -> tuple[Array, Array]:
    """Rectangles (P, 4) with the middle, width and area of so many pieces of pixels, and how far each leans over its height, px."""
    pixels = np.bincount(piece, minlength=pieces)
    some = np.maximum(pixels, 1)
    x, y = (np.bincount(piece, a, minlength=pieces) / some for a in (columns, rows))
    across, along, both = (
        np.bincount(piece, a * b, minlength=pieces) / some - m
        for a, b, m in ((columns, columns, x * x), (rows, rows, y * y), (columns, rows, x * y))
    )
    wide, high = (np.sqrt(12.0 * np.maximum(s, 1 / 12)) for s in (across, along))
    lean = np.abs(both) / np.maximum(along, 1 / 12) * high
    return np.column_stack([x, y, wide, pixels / wide]), lean


def _panes_seen(looked: Looked) -> Panes:
    """The panes in an eye's picture."""
    eye, model, _, shown = looked
    count, openings = len(model.skins), len(model.openings)
    here = np.flatnonzero(shown.ids >= count)
    flat = shown.flat[here]
    rows, columns = np.divmod(flat, eye.width)
    which = model.pane_of[shown.ids[here] - count] if len(model.pane_of) else np.zeros(0, np.int32)
    pixels = np.bincount(which, minlength=openings)
    columns, rows = columns + 0.5, rows + 0.5
    rects, lean = _boxed(which, openings, columns, rows)
    bands = np.clip(np.ceil(lean / SLANT_PX), 1, MOST_BANDS).astype(np.intp)
    if (bands == 1).all():
        return Panes(flat, which, pixels, rects, np.arange(openings))
    first = np.cumsum(bands) - bands
    lows, highs = np.full(openings, np.inf), np.full(openings, -np.inf)
    np.minimum.at(lows, which, rows)
    np.maximum.at(highs, which, rows)
    place = (rows - lows[which] + 0.5) / (highs[which] - lows[which] + 1.0)
    rects, _ = _boxed(first[which] + (place * bands[which]).astype(np.intp), int(bands.sum()), columns, rows)
    return Panes(flat, which, pixels, rects, np.repeat(np.arange(openings), bands))


def _add_panes(out: Array32, looked: Looked, panes: Panes, shown: Array, points: Spots, share: Array) -> None:
    """Panes of luminance ``shown`` (openings, C) and points, of which ``share`` (N, C) goes to each picture of ``out`` (C, H, W): the panes as
    they are seen, and the eye's glare around them and around points."""
    lit = (shown > 0).any(axis=1) & (panes.pixels > 0)
    large = lit & (panes.pixels >= SMALL_PX**2)
    here = np.flatnonzero(large[panes.which])
    flat, which = panes.flat[here], panes.which[here]
    for c in range(len(out)):
        # The narrowest part of the eye's spread is within a pixel: that light stays where the pane is.
        out[c].ravel()[flat] += (WEIGHT[0] * shown[which, c]).astype(np.float32)
    first, last = (np.flatnonzero(some[panes.whose]) for some in (large, lit & ~large))
    bright = (share[points.number] > 0).any(axis=1)
    value = share[points.number[bright]] * points.cd_m2[bright, None]
    of = np.concatenate([first, last])
    rects = np.concatenate([panes.rects[of], points.rects[bright]])
    if len(rects):
        _spread(out, looked.eye, rects, np.concatenate([shown[panes.whose[of]], value]), len(first))


def _spread(out: Array32, eye: Eye, rects: Array, light: Array, large: int) -> None:
    """Rectangles (N, 4: middle right, down, width, height px) of luminance (N, C) as the eye spreads them; the first ``large`` without the
    narrowest of its widths."""
    px_mm = eye.focal / eye.distance_mm
    sigma = np.sqrt((sigmas_mm(eye.distance_mm / 1000.0) * px_mm) ** 2 + 0.25)
    weights = np.repeat(np.array(WEIGHT)[:, None], len(rects), axis=1)
    weights[0, :large] = 0.0
    x, y, w, h = rects.T
    spread_apart(out, Rects(x - w / 2, x + w / 2, y - h / 2, y + h / 2), light, Blur(sigma, weights))


class Spots(NamedTuple):
    """Points that an eye sees: their numbers, the square (middle right, down, width, height px) and the luminance of each."""

    number: npt.NDArray[np.intp]
    rects: Array
    cd_m2: Array


def _shine_of(looked: Looked, lights: Lights) -> Array:
    """Luminance (openings, keys) of panes from an eye: clear ones show the wall on which the line of sight ends."""
    if not lights.insides:
        return lights.panes
    return np.maximum(lights.panes + seen_through(lights.insides, looked.eye.place, lights.panes.shape), 0.0)


def _points_seen(looked: Looked, lights: Lights) -> Spots:
    """Points as squares of their width, with what they send towards the eye; those hidden left out. One behind a pane is seen where that pane
    is before it."""
    eye, model, seen = looked.eye, looked.model, looked.seen
    points = lights.points
    px = eye.project(points.at)
    to_eye = eye.place - points.at
    to_eye = to_eye / np.linalg.norm(to_eye, axis=1, keepdims=True)
    cos = (to_eye * points.aim).sum(axis=1)
    cd = points.cd * np.where(points.order < 0, 1.0, np.maximum(cos, 0.0) ** np.maximum(points.order, 0.0))
    x, y = px[:, 0], px[:, 1]
    number = np.flatnonzero((x >= 0) & (y >= 0) & (x < eye.width) & (y < eye.height) & (px[:, 2] > 1.0) & (cd > 0))
    rows, columns = y[number].astype(int), x[number].astype(int)
    # One over the depth: what stands before a point is larger than the point's own.
    free = seen.depth[rows, columns] <= 1.0 / np.maximum(px[number, 2] - POINT_PROUD_MM, 1e-6)
    which = seen.ids[rows, columns] - len(model.skins)
    before = (
        np.where(which >= 0, model.pane_of[np.maximum(which, 0)], -1)
        if len(model.pane_of)
        else np.full(len(number), -1)
    )
    behind = points.pane[number]
    number = number[np.where(behind >= 0, before == behind, free)]
    number = number[~stopped(lights.insides, eye.place, points.at[number], points.pane[number])]
    wide = np.maximum(points.wide[number] * eye.focal / px[number, 2], 1e-3)
    return Spots(
        number, np.column_stack([x[number], y[number], wide, wide]), cd[number] / (points.wide[number] * 1e-3) ** 2
    )


LEVEL_DEG, MARGIN = 20.0, 0.47  # of the picture's half sizes, a little less than all
ROUND = 24  # directions in which it has to fit


@memoize(slots=8, same=same_value)
def _reach(model: Model, distance_mm: float, height_deg: float) -> tuple[float, float]:
    """How far a model reaches across and up from the middle of an eye's picture, whichever way round it is: tangents."""
    points = model.corners - model.middle
    turns = np.radians(np.arange(ROUND) * 360.0 / ROUND)
    up = math.radians(height_deg)
    # Towards the eye, and across it, of each corner at each turn.
    near = np.outer(np.sin(turns), points[:, 0]) + np.outer(np.cos(turns), points[:, 1])
    across = np.outer(np.cos(turns), points[:, 0]) - np.outer(np.sin(turns), points[:, 1])
    depth = np.maximum(distance_mm - near * math.cos(up) - points[:, 2] * math.sin(up), 1.0)
    return float(np.abs(across / depth).max()), float(
        np.abs((points[:, 2] * math.cos(up) - near * math.sin(up)) / depth).max()
    )


def eye_for(
    model: Model, azimuth_deg: float, height_deg: float, distance_mm: float, width: int, height: int, near: float = 1.0
) -> Eye:  # fmt: skip
    """An eye that has all of a model in its picture at ``near`` 1, nearer the larger it is; never inside it.

    A turn never changes the scale; nor does a look up or down by less than ``LEVEL_DEG``.
    """
    distance = max(distance_mm, max(model.radius, 1.0) * 1.15)
    focal = math.inf
    for up in (height_deg,) if abs(height_deg) > LEVEL_DEG else (-LEVEL_DEG, 0.0, LEVEL_DEG):
        across, tall = _reach(model, distance, up)
        focal = min(focal, MARGIN * width / max(across, 1e-6), MARGIN * height / max(tall, 1e-6))
    focal *= near
    x, y, z = model.middle.tolist()
    return Eye(azimuth_deg, height_deg, distance, (x, y, z), focal, width, height)


def item_at(looked: Looked, x: int, y: int) -> str | None:
    """The opening, section or fitting seen at a pixel."""
    model, seen = looked.model, looked.seen
    if not (0 <= y < seen.ids.shape[0] and 0 <= x < seen.ids.shape[1]):
        return None
    t = int(seen.ids[y, x])
    if t < 0:
        return None
    if t >= len(model.skins):
        return model.openings[int(model.pane_of[t - len(model.skins)])].id
    return model.parts[int(model.section[t])].id
