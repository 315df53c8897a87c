"""What an eye anywhere sees of a plan in the dark, and what lies at a place of its picture."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.light.glows import Glow, Key
from gwiazda.core.assess.light.shine import Lights, Points
from gwiazda.core.assess.light.skin import outside_reflectance
from gwiazda.core.assess.light.solids import Model
from gwiazda.core.assess.states import Assessment
from gwiazda.core.light import round as around
from gwiazda.core.light.glare import WEIGHT, sigmas_mm, spread
from gwiazda.core.light.night import NightPicture, cropped
from gwiazda.core.light.solid import Eye
from gwiazda.core.light.tone import hull_luminance, middle_luminance
from gwiazda.core.plan.frame import NORMALS, PLANES, Side
from gwiazda.core.plan.model import Plan
from gwiazda.core.turns import give_way

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]

POINT_PROUD_MM = 1.5  # a point that is no deeper than this under what is seen shows
SMALL_PX = 2.5  # panes smaller than this are drawn as points are
FACING = 0.6  # cosine: a face of the skin belongs to the side it looks to


FROM_ABOVE = (
    0.62  # of a room's light comes from above, the rest from all round: house value, for the eye to read the form by
)


def room_share(normals: Array) -> Array:
    """Share of a room's horizontal illuminance that falls on faces of these normals: (…,)."""
    return np.asarray((1.0 - FROM_ABOVE) * 0.5 + FROM_ABOVE * (1.0 + normals[..., 2]) / 2.0 + (1.0 - FROM_ABOVE) * 0.5)


class Looked(NamedTuple):
    """A model in the picture of an eye: what is seen where."""

    eye: Eye
    model: Model
    seen: around.Buffers


def looked_at(model: Model, eye: Eye) -> Looked:
    """What an eye sees of a model."""
    return Looked(eye, model, around.drawn(eye, model.triangles))


def night_around(
    plan: Plan, found: Assessment, looked: Looked, lights: Lights, tone: Array32 | None = None, weights: Mapping[str, float] | None = None,
    overtaken: Callable[[], bool] = lambda: False,
) -> NightPicture:  # fmt: skip
    """The night picture from an eye: the room's light on the hull, and a layer for each colour of each channel; with ``weights`` all of it
    at once, quicker and no longer to be dimmed.

    ``tone`` (H, W): how strongly each pixel throws light back against its bare plastic, as a drawing has it; 1 where none is given. ``overtaken`` is asked
    where it takes long; raises OvertakenError when it says so.
    """
    eye, model, seen = looked
    catalogue, count = found.catalogue, len(model.skins)
    rho = np.array([outside_reflectance(catalogue, s, plan.kit.plastic) for s in model.sections])
    on = (seen.ids >= 0) & (seen.ids < count)
    back = np.zeros(seen.ids.shape, np.float32)
    back[on] = rho[model.section[seen.ids[on]]] if len(rho) else 0.0
    if tone is not None:
        back = back * tone
    room = np.zeros(seen.ids.shape, np.float32)
    solid_seen = seen.ids >= 0
    room[solid_seen] = room_share(model.normals[seen.ids[solid_seen]])
    unlit = np.where(seen.ids >= count, np.float32(0.12), back)
    hull = (unlit * room * np.float32(hull_luminance(plan.room.lux, 1.0))).astype(np.float32)
    least = middle_luminance(found.hull_cd_m2, plan.room.exposure_ev) * 0.25 / 255 / 12.92
    if weights is not None:
        return NightPicture(_at_once(plan, looked, lights, weights, hull, back, least))
    falls = around.shaded(
        eye,
        seen,
        model.normals[:count],
        lights.lamps,
        lights.lamp_key,
        len(lights.keys),
        model.bodies,
        least * math.pi,
        overtaken=overtaken,
    )
    layers = []
    glowing = _glowing(looked, lights.glows)
    for k, key in enumerate(lights.keys):
        give_way()
        picture = falls[k] * back / np.float32(np.pi)
        for g in glowing:
            if g.key == key:
                picture[g.rows, g.columns] += g.cd_m2
        _add_panes(
            picture,
            looked,
            lights.panes[:, k],
            [i for i, x in enumerate(lights.points.keys) if x == key],
            lights.points,
        )
        layer = cropped(key[0], key[1], picture, least)
        if layer is not None:
            layers.append(layer)
    return NightPicture(hull, layers)


QUICK = 12.0  # times brighter than the least that shows: fainter light is left out while the picture moves


def _at_once(
    plan: Plan, looked: Looked, lights: Lights, weights: Mapping[str, float], hull: Array32, back: Array32, least: float
) -> Array32:  # fmt: skip
    """All channels at their weights as one picture (3, H, W), for while it moves: as red, green and blue instead of channel by channel."""
    eye, model, seen = looked
    count = len(model.skins)
    rgb = np.array([np.array(key[1]) * weights.get(key[0], 1.0) for key in lights.keys]).reshape(-1, 3)
    out = np.empty((3, *seen.ids.shape), np.float32)
    out[:] = hull
    if not len(lights.keys):
        return out
    colours = list(dict.fromkeys(key[1] for key in lights.keys))
    number = np.array([colours.index(key[1]) for key in lights.keys], dtype=np.int64)
    lamps = lights.lamps.copy()
    if len(lamps):
        lamps[:, 7] *= np.array([weights.get(key[0], 1.0) for key in lights.keys])[lights.lamp_key]
    falls = around.shaded(
        eye, seen, model.normals[:count], lamps, number[lights.lamp_key], len(colours), model.bodies, least * math.pi * QUICK, quick=True
    )  # fmt: skip
    for colour, fallen in zip(colours, falls, strict=True):
        if fallen.any():
            thrown = fallen * back / np.float32(np.pi)
            for c in range(3):
                out[c] += np.float32(colour[c]) * thrown
    panes = lights.panes @ rgb
    points = lights.points
    share = np.array([rgb[lights.keys.index(key)] for key in points.keys]).reshape(-1, 3)
    for g in _glowing(looked, lights.glows):
        out[:, g.rows, g.columns] += rgb[lights.keys.index(g.key)].astype(np.float32)[:, None] * g.cd_m2
    for c in range(3):
        mine = np.flatnonzero(share[:, c] > 0).tolist() if len(share) else []
        _add_panes(
            out[c], looked, panes[:, c], mine, points._replace(cd=points.cd * share[:, c] if len(share) else points.cd)
        )
    return out


class Glowing(NamedTuple):
    """A glow as an eye sees it: its key, the pixels and their luminance."""

    key: Key
    rows: npt.NDArray[np.intp]
    columns: npt.NDArray[np.intp]
    cd_m2: Array32


def _glowing(looked: Looked, glows: Sequence[Glow]) -> list[Glowing]:
    """Walls and seams that glow, their cells laid on the skin behind them."""
    eye, model, seen = looked
    count = len(model.skins)
    seen_at_all = np.bincount(seen.ids.ravel() + 1, minlength=len(model.normals) + 1)[1 : count + 1] > 0
    numbers = {s.id: i for i, s in enumerate(model.sections)}
    faces: dict[tuple[str, Side], npt.NDArray[np.bool_]] = {}
    for glow in glows:
        if (glow.section, glow.side) not in faces:
            mine = seen_at_all & (model.section == numbers[glow.section])
            mine[mine] = model.normals[:count][mine] @ np.array(NORMALS[glow.side], dtype=float) > FACING
            if mine.any():
                faces[glow.section, glow.side] = mine
    if not faces:
        return []
    some = np.zeros(len(model.normals) + 1, dtype=bool)  # the last one for where nothing is
    some[:count] = np.any(list(faces.values()), axis=0)
    rows, columns = np.nonzero(some[seen.ids])
    ids = seen.ids[rows, columns]
    places = eye.place + eye.rays(columns, rows) / seen.depth[rows, columns, None]
    out = []
    for glow in glows:
        if (glow.section, glow.side) in faces:
            here = np.flatnonzero(faces[glow.section, glow.side][ids])
            h, v, _ = PLANES[glow.side]
            value = _laid(glow, eye.distance_mm / eye.focal, places[here, h], places[here, v])
            out.append(Glowing(glow.key, rows[here], columns[here], value))
    return out


def _laid(glow: Glow, px_mm: float, across: Array, up: Array) -> Array32:
    """The luminance of a glow at places of its side; what is narrower than ``px_mm`` spread to that, with the light it has."""
    a, b, c, d = glow.rects.T
    wide, high = np.maximum(c - a, px_mm), np.maximum(d - b, px_mm)
    value = glow.cd_m2 * (c - a) * (d - b) / (wide * high)
    low_x, high_x = (a + c - wide) / 2, (a + c + wide) / 2
    low_y, high_y = (b + d - high) / 2, (b + d + high) / 2
    xs, ys = np.unique([low_x, high_x]), np.unique([low_y, high_y])
    table = np.zeros((len(ys) + 1, len(xs) + 1), np.float32)
    corners = [np.searchsorted(xs, low_x), np.searchsorted(xs, high_x), np.searchsorted(ys, low_y), np.searchsorted(ys, high_y)]  # fmt: skip
    for i0, i1, j0, j1, light in zip(*(x.tolist() for x in corners), value.tolist(), strict=True):
        table[j0 + 1 : j1 + 1, i0 + 1 : i1 + 1] += light
    return np.asarray(table[np.searchsorted(ys, up, "right"), np.searchsorted(xs, across, "right")])


def _add_panes(picture: Array32, looked: Looked, shown: Array, mine: list[int], points: Points) -> None:
    """Panes of luminance ``shown`` (openings,) and the points ``mine``: the panes as they are seen, and the eye's glare around them and
    around points."""
    eye, model, seen = looked
    count = len(model.skins)
    rects = []
    if shown.any() and len(model.pane_of):
        rows, columns = np.nonzero(seen.ids >= count)
        which = model.pane_of[seen.ids[rows, columns] - count]
        value = shown[which]
        lit = value > 0
        rows, columns, which, value = rows[lit], columns[lit], which[lit], value[lit]
        pixels = np.bincount(which, minlength=len(shown))
        large = pixels >= SMALL_PX**2
        big = large[which]
        # The narrowest part of the eye's spread is within a pixel: that light stays where the pane is.
        picture[rows[big], columns[big]] += (WEIGHT[0] * value[big]).astype(np.float32)
        some = np.flatnonzero(pixels)
        if len(some):
            x = np.bincount(which, columns + 0.5, minlength=len(shown))[some] / pixels[some]
            y = np.bincount(which, rows + 0.5, minlength=len(shown))[some] / pixels[some]
            square = np.bincount(which, (columns + 0.5) ** 2, minlength=len(shown))[some] / pixels[some] - x**2
            wide = np.sqrt(12.0 * np.maximum(square, 1 / 12))
            here = np.column_stack([x, y, wide, pixels[some] / wide, shown[some]])
            _spread(picture, eye, here[large[some]], first=1)
            rects.append(here[~large[some]])
    if mine:
        rects.append(_points_seen(looked, points, mine))
    if rects:
        _spread(picture, eye, np.concatenate(rects), first=0)


def _spread(picture: Array32, eye: Eye, rects: Array, first: int) -> None:
    """Rectangles (N, 5: middle right, down, width, height px, luminance) as the eye spreads them, from the ``first`` of its widths on."""
    if not len(rects):
        return
    px_mm = eye.focal / eye.distance_mm
    sigma = np.sqrt((sigmas_mm(eye.distance_mm / 1000.0) * px_mm) ** 2 + 0.25)[first:]
    x, y, w, h, value = rects.T
    picture += spread(
        x - w / 2, x + w / 2, y - h / 2, y + h / 2, value, sigma, np.array(WEIGHT)[first:], eye.width, eye.height
    )


def _points_seen(looked: Looked, points: Points, mine: list[int]) -> Array:
    """Points as squares of their width, with what they send towards the eye; those hidden left out."""
    eye, _, seen = looked
    at, aim = points.at[mine], points.aim[mine]
    px = eye.project(at)
    to_eye = eye.place - at
    to_eye = to_eye / np.linalg.norm(to_eye, axis=1, keepdims=True)
    cos = (to_eye * aim).sum(axis=1)
    order = points.order[mine]
    cd = points.cd[mine] * np.where(order < 0, 1.0, np.maximum(cos, 0.0) ** np.maximum(order, 0.0))
    x, y = px[:, 0], px[:, 1]
    inside = (x >= 0) & (y >= 0) & (x < eye.width) & (y < eye.height) & (px[:, 2] > 1.0) & (cd > 0)
    out = []
    for n in np.flatnonzero(inside):
        w = seen.depth[int(y[n]), int(x[n])]
        if w > 0 and 1.0 / w < px[n, 2] - POINT_PROUD_MM:
            continue
        wide = max(points.wide[mine[n]] * eye.focal / px[n, 2], 1e-3)
        area_m2 = (points.wide[mine[n]] * 1e-3) ** 2
        out.append((x[n], y[n], wide, wide, cd[n] / area_m2))
    return np.array(out).reshape(-1, 5)


def eye_for(
    model: Model, azimuth_deg: float, height_deg: float, distance_mm: float, width: int, height: int, near: float = 1.0
) -> Eye:  # fmt: skip
    """An eye that has all of a model in its picture at ``near`` 1, nearer the larger it is; never inside it."""
    low, high = model.box
    radius = max(model.radius, 1.0)
    distance = max(distance_mm, radius * 1.15)
    focal = 0.47 * min(width / (2 * radius) * 1.9, height / (2 * radius) * 2.6) * distance
    across, tall = math.hypot(*(high - low)[:2].tolist()) / 2, float(high[2] - low[2]) / 2
    if tall > across:
        # Higher than it is wide: the cylinder around it has to be within the picture, at its nearest.
        up = math.radians(height_deg)
        for side, end in ((1.0, 1.0), (1.0, -1.0), (-1.0, 1.0), (-1.0, -1.0)):
            depth = distance - side * across * math.cos(up) - end * tall * math.sin(up)
            reach = abs(end * tall * math.cos(up) - side * across * math.sin(up))
            focal = min(focal, 0.47 * height * max(depth, 1.0) / max(reach, 1e-6))
    focal *= near
    middle = (low + high) / 2
    return Eye(
        azimuth_deg, height_deg, distance, (float(middle[0]), float(middle[1]), float(middle[2])), focal, width, height
    )


def item_at(looked: Looked, x: int, y: int) -> str | None:
    """The opening or section seen at a pixel."""
    _, model, seen = looked
    if not (0 <= y < seen.ids.shape[0] and 0 <= x < seen.ids.shape[1]):
        return None
    t = int(seen.ids[y, x])
    if t < 0:
        return None
    if t >= len(model.skins):
        return model.openings[int(model.pane_of[t - len(model.skins)])].id
    return model.sections[int(model.section[t])].id
