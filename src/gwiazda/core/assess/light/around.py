"""A plan as a solid to walk round: sections from their outlines, panes and points on their skins, and the light they show from an eye."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.carrier.standing import furnished
from gwiazda.core.assess.lamp.kinds import known_lamps
from gwiazda.core.assess.lamp.lampwork import ALL_ROUND, worked
from gwiazda.core.assess.light.lenses import face_shown_mm
from gwiazda.core.assess.light.lighting import joints_in, rooms_of
from gwiazda.core.assess.light.rooms import Spill, spill_of, tinted
from gwiazda.core.assess.light.rows import parted
from gwiazda.core.assess.light.skin import outside_reflectance
from gwiazda.core.assess.loom.crossing import shaded as wires_over
from gwiazda.core.assess.states import Assessment
from gwiazda.core.light import round as around
from gwiazda.core.light.glare import WEIGHT, sigmas_mm, spread
from gwiazda.core.light.night import NightPicture, cropped
from gwiazda.core.light.photometry import beam_order
from gwiazda.core.light.solid import Eye, normals_of, solid, thin_pane
from gwiazda.core.light.tone import hull_luminance, middle_luminance
from gwiazda.core.memo import kept
from gwiazda.core.plan.frame import NORMALS, PLANES
from gwiazda.core.plan.model import Opening, Plan, Section
from gwiazda.core.turns import give_way

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]
Rgb = tuple[float, float, float]
Key = tuple[str, Rgb]

PROUD_MM = 0.15  # of the skin: so that a pane is seen before what it lies on
POINT_PROUD_MM = 1.5  # a point that is no deeper than this under what is seen shows
FEW_SLICES = 12  # for each section of a plan of hundreds
SMALL_PX = 2.5  # panes smaller than this are drawn as points are
TURN = 16  # corners of a round pane


class Model(NamedTuple):
    """``skins`` (T, 3, 3) in the sections' order, ``section`` (T,) their numbers; panes behind them: ``pane`` (P', 3, 3) and ``pane_of`` (P',)
    numbers into ``openings``; ``at`` and ``normal`` (O, 3) of each opening on its skin."""

    sections: tuple[Section, ...]
    skins: Array
    section: npt.NDArray[np.int32]
    openings: tuple[Opening, ...]
    pane: Array
    pane_of: npt.NDArray[np.int32]
    at: Array
    normal: Array
    normals: Array  # (T + P', 3)
    bodies: around.Bodies

    @property
    def triangles(self) -> Array:
        """Skins and panes, by the numbers of the picture."""
        return np.concatenate([self.skins, self.pane])

    @property
    def middle(self) -> Array:
        """The middle of its box, mm."""
        low, high = self.box
        return np.asarray((low + high) / 2)

    @property
    def box(self) -> tuple[Array, Array]:
        """Its lowest and highest corner, mm."""
        points = self.skins.reshape(-1, 3)
        if not len(points):
            return np.array([-50.0, -20.0, -20.0]), np.array([50.0, 20.0, 20.0])
        return points.min(axis=0), points.max(axis=0)

    @property
    def radius(self) -> float:
        """Of the ball around it, mm."""
        low, high = self.box
        return float(np.linalg.norm(high - low) / 2)


@kept(slots=2, by=lambda section, most: section.id, places=4096)
def _skin(section: Section, most: int) -> Array:
    """A section's triangles. An outline without area, or none at all, leaves its inner box with walls around it."""
    drawn: dict[str, list[Array]] = {"port": [], "top": [], "bow": []}
    for o in section.outlines:
        side = {"starboard": "port", "stern": "bow"}.get(o.side, o.side)
        points = np.array(o.points, dtype=float)
        if min(np.ptp(points, axis=0)) > 1e-6:
            drawn[side].append(points)
    low = [a - section.wall_mm for a in section.box.at]
    high = [a + s + section.wall_mm for a, s in zip(section.box.at, section.box.size, strict=True)]
    found = solid(drawn["port"], drawn["top"], drawn["bow"][0] if drawn["bow"] else None, low, high, most)
    return found if len(found) else solid([], [], None, low, high)


def _ring(o: Opening) -> Array:
    """A pane's outline about its middle, mm, along its side's two axes."""
    w, h = o.width_mm / 2, o.height_mm / 2
    if o.shape == "traced":
        return np.array(o.points) * [o.width_mm, o.height_mm]
    if o.shape == "rect":
        return np.array([(-w, -h), (w, -h), (w, h), (-w, h)])
    turn = 2.0 * np.pi * (np.arange(TURN) + 0.5) / TURN
    if o.shape == "round":
        return np.column_stack([w * np.cos(turn), h * np.sin(turn)])
    short = min(w, h)
    c, s = np.cos(turn), np.sin(turn)
    return np.column_stack([np.copysign(w - short, c) + short * c, np.copysign(h - short, s) + short * s])


def _on_skin(section: Section, skin: Array, openings: Sequence[Opening]) -> tuple[Array, Array]:
    """Where openings lie on a skin and which way it faces there: (O, 3) each; by a ray from far outside, straight at their side. What meets
    no skin stays on its side's wall."""
    at, normal = np.array([o.at for o in openings], dtype=float).reshape(-1, 3), np.zeros((len(openings), 3))
    faces = normals_of(skin)
    for side in {o.side for o in openings}:
        mine = [i for i, o in enumerate(openings) if o.side == side]
        n, (h, v, d) = np.array(NORMALS[side], dtype=float), PLANES[side]
        normal[mine] = n
        wall = section.box.at[d] + (section.box.size[d] if n[d] > 0 else 0.0) + n[d] * section.wall_mm
        towards = np.flatnonzero(faces @ n > 0.05)
        tri = skin[towards]
        p = at[mine]
        a, b, c = (tri[:, k][:, [h, v]] for k in range(3))
        area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (c[:, 0] - a[:, 0]) * (b[:, 1] - a[:, 1])
        area = np.where(np.abs(area) < 1e-12, np.inf, area)
        x, y = p[:, h, None], p[:, v, None]
        u = ((x - a[:, 0]) * (c[:, 1] - a[:, 1]) - (c[:, 0] - a[:, 0]) * (y - a[:, 1])) / area
        w = ((b[:, 0] - a[:, 0]) * (y - a[:, 1]) - (x - a[:, 0]) * (b[:, 1] - a[:, 1])) / area
        inside = (u >= -1e-6) & (w >= -1e-6) & (u + w <= 1 + 1e-6)
        deep = tri[:, 0, d] + u * (tri[:, 1, d] - tri[:, 0, d]) + w * (tri[:, 2, d] - tri[:, 0, d])
        deep = np.where(inside, deep * n[d], -np.inf)
        if deep.shape[1]:
            best = deep.argmax(axis=1)
            for k, i in enumerate(mine):
                if np.isfinite(deep[k, best[k]]):
                    at[i, d] = deep[k, best[k]] * n[d]
                    normal[i] = faces[towards[best[k]]]
                else:
                    at[i, d] = wall
        else:
            at[mine, d] = wall
    return at, normal


def _directions(o: Opening, normal: Array) -> tuple[Array, Array]:
    """A pane's two directions along its skin, each for a mm of its side's own view."""
    h, v, d = PLANES[o.side]
    across, up = np.zeros(3), np.zeros(3)
    across[h] = up[v] = 1.0
    if abs(normal[d]) > 0.2:
        across[d], up[d] = -normal[h] / normal[d], -normal[v] / normal[d]
    return across, up


@kept(slots=4)
def model_of(sections: tuple[Section, ...], openings: tuple[Opening, ...]) -> Model:
    """The solid of a plan with its openings on it; kept while neither changes."""
    most = FEW_SLICES if len(sections) > 100 else 96
    skins = [_skin(s, most) for s in sections]
    owner = np.repeat(np.arange(len(skins)), [len(s) for s in skins]).astype(np.int32)
    whole = np.concatenate(skins) if skins else np.zeros((0, 3, 3))
    shown = tuple(o for o in openings if not o.into)
    at, normal = np.zeros((len(shown), 3)), np.zeros((len(shown), 3))
    by_section: dict[str, list[int]] = {}
    for i, o in enumerate(shown):
        by_section.setdefault(o.section, []).append(i)
    for s, skin in zip(sections, skins, strict=True):
        mine = by_section.get(s.id, [])
        if mine:
            at[mine], normal[mine] = _on_skin(s, skin, [shown[i] for i in mine])
    panes, pane_of = [], []
    for i, o in enumerate(shown):
        across, up = _directions(o, normal[i])
        part = thin_pane(at[i], across, up, normal[i], _ring(o), PROUD_MM)
        panes.append(part)
        pane_of += [i] * len(part)
    pane = np.concatenate(panes) if panes else np.zeros((0, 3, 3))
    normals = np.concatenate([normals_of(whole), normals_of(pane)])
    return Model(
        sections, whole, owner, shown, pane, np.array(pane_of, dtype=np.int32), at, normal, normals, around.bodies_of(whole, owner)
    )  # fmt: skip


class Points(NamedTuple):
    """Lights that are seen themselves: places (N, 3), aims (N, 3), orders (N,), intensities on the axis (N,), widths (N,), ids, keys."""

    at: Array
    aim: Array
    order: Array
    cd: Array
    wide: Array
    ids: tuple[str, ...]
    keys: tuple[Key, ...]


class Lights(NamedTuple):
    """What shines: luminance (openings, keys) of panes by the model's order; points; lamps (L, 8) that light the outside, with the number
    of their key."""

    keys: tuple[Key, ...]
    panes: Array
    points: Points
    lamps: Array
    lamp_key: npt.NDArray[np.int64]


def lights_of(plan: Plan, found: Assessment, model: Model) -> Lights:
    """The lights of a plan at the currents of its assessment."""
    catalogue = found.catalogue
    inner = furnished(catalogue, plan)
    lamps = known_lamps(catalogue, plan.lamps)
    rooms = rooms_of(catalogue, inner.sections, inner.openings, lamps, plan.kit.plastic, found.cells)
    joints = joints_in(catalogue, inner.sections, inner.openings, plan.kit.plastic)
    spills: dict[str, Spill] = {}
    every: list[Key] = []
    if joints:
        states = [found.lamps[p.id] for room in rooms.values() for p in room.lamps]
        every = list(dict.fromkeys((s.channel, s.rgb) for s in states))
        split = {s.id: np.eye(len(every))[every.index((s.channel, s.rgb))] * s.flux_lm for s in states}
        spills = spill_of(rooms, joints, split, len(every))
    dark = wires_over(found.crossings)
    number: dict[Key, int] = {}
    cells: list[tuple[int, int, float]] = []
    place = {o.id: i for i, o in enumerate(model.openings)}
    points: list[tuple[Array, Array, float, float, float, str, Key]] = []

    def key_of(key: Key) -> int:
        return number.setdefault(key, len(number))

    for name, room in rooms.items():
        spill = spills.get(name)
        for k, o in enumerate(room.openings):
            i = place.get(o.id)
            if i is None or not (room.lit[k] or (len(room.glows) and room.glows[k])):
                continue
            left = 1.0 - dark.get(o.id, 0.0)
            for j, p in enumerate(room.lamps):
                state = found.lamps[p.id]
                value = float(room.luminance_per_lm[k, j]) * state.flux_lm * left
                rgb = tinted(catalogue, p, room.colours[k]).rgb if room.colours[k] else state.rgb
                if value > 0:
                    cells.append((i, key_of((state.channel, rgb)), value))
                if room.sights[k, j] > 0:
                    wide = face_shown_mm(catalogue, o, p, catalogue.lamps[p.part])
                    cd = float(room.sights[k, j]) * state.flux_lm * math.pi * (wide * 0.5e-3) ** 2
                    points.append((model.at[i], model.normal[i], 4.0, cd, wide, o.id, (state.channel, rgb)))
            if spill is not None:
                for key, value in zip(every, (spill.luminance[k] * left).tolist(), strict=True):
                    if value > 0:
                        cells.append((i, key_of(key), value))
    for p in lamps:
        if p.mount == "outside":
            state = found.lamps[p.id]
            order = ALL_ROUND if p.frosted_cap else worked(catalogue, p).order
            aim = np.array(p.aim, dtype=float)
            points.append((np.array(p.at, dtype=float), aim / np.linalg.norm(aim), order, state.axial_cd, catalogue.lamps[p.part].face_mm, p.id, (state.channel, state.rgb)))  # fmt: skip
    tips = [(d, found.tips[d.id]) for d in plan.dots if d.id in found.tips and found.tips[d.id].cd > 0]
    for d, tip in tips:
        fibre = catalogue.fibres.get(d.fibre)
        wide = fibre.diameter_mm if fibre is not None else 0.5
        points.append((np.array(d.at, dtype=float), np.array(NORMALS[d.side], dtype=float), beam_order(2 * tip.half_angle_deg), tip.cd, wide, d.id, (tip.channel, tip.rgb)))  # fmt: skip
    for point in points:
        key_of(point[6])
    keys = tuple(number)
    panes = np.zeros((len(model.openings), len(keys)))
    for i, k, value in cells:
        panes[i, k] += value
    shining, shine_key = _shining(plan, found, model, panes, points, number)
    at = np.array([x[0] for x in points]).reshape(-1, 3)
    return Lights(
        keys, panes,
        Points(at, np.array([x[1] for x in points]).reshape(-1, 3), np.array([x[2] for x in points]), np.array([x[3] for x in points]),
               np.array([x[4] for x in points]), tuple(x[5] for x in points), tuple(x[6] for x in points)),
        shining, shine_key,
    )  # fmt: skip


def _shining(
    plan: Plan, found: Assessment, model: Model, panes: Array, points: list[tuple[Array, Array, float, float, float, str, Key]], number: dict[Key, int]
) -> tuple[Array, npt.NDArray[np.int64]]:  # fmt: skip
    """What throws light on the outsides: lamps that are seen themselves, and rows of lit panes as diffuse sources of I = L·A."""
    rows: list[tuple[float, ...]] = []
    keys: list[int] = []
    outside = {p.id for p in plan.lamps if p.mount == "outside"}
    for at, aim, order, cd, _, name, key in points:
        if name in outside and cd > 0:
            rows.append((*at.tolist(), *aim.tolist(), order, cd))
            keys.append(number[key])
    groups: dict[tuple[str, str], list[int]] = {}
    for i, o in enumerate(model.openings):
        if panes[i].any():
            groups.setdefault((o.section, o.side), []).append(i)
    for mine in groups.values():
        for part in parted(model.at[mine]):
            here = [mine[k] for k in part]
            cd = panes[here] * np.array([model.openings[i].area_mm2 * 1e-6 for i in here])[:, None]
            whole = cd.sum(axis=1)
            if whole.sum() <= 0:
                continue
            middle = whole @ model.at[here] / whole.sum()
            aim = model.normal[here].mean(axis=0)
            aim = aim / max(float(np.linalg.norm(aim)), 1e-9)
            for k in np.flatnonzero(cd.sum(axis=0)).tolist():
                rows.append((*(middle + 0.3 * aim).tolist(), *aim.tolist(), 1.0, float(cd[:, k].sum())))
                keys.append(k)
    return np.array(rows, dtype=float).reshape(-1, 8), np.array(keys, dtype=np.int64)


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
    for k, key in enumerate(lights.keys):
        give_way()
        picture = falls[k] * back / np.float32(np.pi)
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
    for c in range(3):
        mine = np.flatnonzero(share[:, c] > 0).tolist() if len(share) else []
        _add_panes(
            out[c], looked, panes[:, c], mine, points._replace(cd=points.cd * share[:, c] if len(share) else points.cd)
        )
    return out


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
    focal = 0.47 * min(width / (2 * radius) * 1.9, height / (2 * radius) * 2.6) * distance * near
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
