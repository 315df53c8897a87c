"""What a view shows in the dark: the assessment's lights laid on the view's sheet, channel by channel."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.assessment import channel_of, known_lamps
from gwiazda.core.assess.lampwork import worked
from gwiazda.core.assess.leaks import face_maps, seam_strips, walls_lx
from gwiazda.core.assess.lighting import joints_in, rooms_of
from gwiazda.core.assess.rooms import Room, Spill, spill_of, tinted
from gwiazda.core.assess.skin import outside_reflectance
from gwiazda.core.assess.states import Assessment
from gwiazda.core.light.leak import visible_luminance
from gwiazda.core.light.render import ChannelLight, Surface, Wash
from gwiazda.core.light.tone import hull_luminance
from gwiazda.core.parts.catalogue import lamp_parts
from gwiazda.core.plan.lookup import kept, same_pieces
from gwiazda.core.plan.models import FACE_NAMES, NORMALS, PLANES, SHEET, Lamp, Opening, Plan, Section, Side, to_sheet
from gwiazda.core.plan.outlines import strips

Array = npt.NDArray[np.float64]
Rgb = tuple[float, float, float]
Key = tuple[str, Rgb]


def channels_of(found: Assessment) -> tuple[str, ...]:
    """All channels of a plan, in the order of its lamps."""
    return tuple(dict.fromkeys(lamp.channel for lamp in found.lamps.values()))


@kept(slots=8)
def _surfaces(sections: tuple[Section, ...], side: Side, kit_plastic: str) -> tuple[Surface, ...]:
    _, _, d = PLANES[side]
    seen_from = {"starboard": "port"}.get(side, side)
    out = []
    for section in sections:
        for outline in section.outlines:
            if outline.side != seen_from:
                continue
            a, b, c = SHEET[side]
            points = np.array(outline.points) * np.array([a, b])
            low, high = section.box.at[d], section.box.at[d] + section.box.size[d]
            back = outside_reflectance(section, kit_plastic)
            out.append(Surface(points, max(c * low, c * high) + section.wall_mm, back))
    return tuple(out)


SLICES = 12  # of a pane that isn't a rectangle


@lru_cache(maxsize=4096)
def _pane_strips(o: Opening) -> tuple[tuple[float, float, float, float], ...]:
    """A pane as rectangles about its centre on its view's sheet (left, right, top, bottom, mm), their area its own."""
    w, h = o.width_mm, o.height_mm
    if o.shape == "rect":
        return ((-w / 2, w / 2, -h / 2, h / 2),)
    a, b, _ = SHEET[o.side]
    if o.shape == "traced":
        points = tuple((a * p * w, b * q * h) for p, q in o.points)
    else:
        # A slot is half an ellipse at each end, apart by what its longer side has over; an ellipse has none over.
        short = min(w, h) if o.shape == "slot" else 0.0
        half = [(w / 2 - (w - short) / 2, h / 2 - (h - short) / 2)] if short else [(w / 2, h / 2)]
        rx, ry = half[0]
        gap_x, gap_y = w / 2 - rx, h / 2 - ry
        turn = [2.0 * math.pi * (i + 0.5) / 48 for i in range(48)]
        points = tuple(
            (math.copysign(gap_x, math.cos(t)) + rx * math.cos(t), math.copysign(gap_y, math.sin(t)) + ry * math.sin(t))
            for t in turn
        )
    found = strips(points, SLICES)
    area = sum((x1 - x0) * (y1 - y0) for x0, x1, y0, y1 in found)
    k = math.sqrt(o.area_mm2 / area) if area > 0 else 1.0
    return tuple((x0 * k, x1 * k, y0 * k, y1 * k) for x0, x1, y0, y1 in found)


def surfaces_of(plan: Plan, side: Side) -> tuple[Surface, ...]:
    """The faces of the sections turned to the viewer: their outlines, as far out as box and wall reach."""
    return _surfaces(plan.sections, side, plan.kit.plastic)


class _Lights:
    """Lights of a view, gathered by channel and colour."""

    def __init__(self) -> None:
        self.panes: dict[Key, list[tuple[float, float, float, float]]] = {}
        self.pane_cd: dict[Key, list[float]] = {}
        self.discs: dict[Key, list[tuple[float, float, float, float]]] = {}
        self.disc_cd: dict[Key, list[float]] = {}
        self.washes: dict[Key, list[Wash]] = {}

    def pane(self, key: Key, o: Opening, side: Side, cd_m2: float) -> None:
        right, down, _ = to_sheet(side, o.at)
        if o.shape == "round" and o.width_mm == o.height_mm:
            self.discs.setdefault(key, []).append((right, down, o.width_mm / 2, float("inf")))
            self.disc_cd.setdefault(key, []).append(cd_m2)
            return
        cut = _pane_strips(o)
        self.panes.setdefault(key, []).extend((right + x0, right + x1, down + y0, down + y1) for x0, x1, y0, y1 in cut)
        self.pane_cd.setdefault(key, []).extend([cd_m2] * len(cut))

    def face(self, key: Key, lamp: Lamp, side: Side, cd_m2: float) -> None:
        """A lamp's own face behind a pane."""
        right, down, _ = to_sheet(side, lamp.at)
        self.discs.setdefault(key, []).append((right, down, lamp_parts()[lamp.part].face_mm / 2, float("inf")))
        self.disc_cd.setdefault(key, []).append(cd_m2)

    def patch(self, key: Key, side: Side, rects: Array, cd_m2: Array) -> None:
        """Parts of a wall that glow: corners (n, 4) low h, low v, high h, high v on the model."""
        a, b, _ = SHEET[side]
        x, y = np.sort(a * rects[:, [0, 2]], axis=1), np.sort(b * rects[:, [1, 3]], axis=1)
        self.panes.setdefault(key, []).extend(map(tuple, np.column_stack([x, y]).tolist()))
        self.pane_cd.setdefault(key, []).extend(cd_m2.tolist())

    def add(self, other: _Lights) -> None:
        for name in ("panes", "pane_cd", "discs", "disc_cd", "washes"):
            mine = getattr(self, name)
            for key, values in getattr(other, name).items():
                mine.setdefault(key, []).extend(values)

    def channels(self) -> tuple[ChannelLight, ...]:
        keys = dict.fromkeys([*self.panes, *self.discs, *self.washes])
        return tuple(
            ChannelLight(
                channel,
                rgb,
                np.array(self.panes.get((channel, rgb), []), dtype=float).reshape(-1, 4),
                np.array(self.pane_cd.get((channel, rgb), []), dtype=float),
                np.array(self.discs.get((channel, rgb), []), dtype=float).reshape(-1, 4),
                np.array(self.disc_cd.get((channel, rgb), []), dtype=float),
                tuple(self.washes.get((channel, rgb), [])),
            )
            for channel, rgb in keys
        )


def scene_of(plan: Plan, found: Assessment, side: Side) -> tuple[ChannelLight, ...]:
    """Lights of a view, one entry for each colour of each channel, at the currents of the assessment."""
    lamps = known_lamps(plan.lamps)
    out = _Lights()
    rooms = rooms_of(plan.sections, plan.openings, lamps, plan.kit.plastic, found.cells)
    joints = joints_in(plan.sections, plan.openings, plan.kit.plastic)
    every: dict[Key, int] = {}
    spills: dict[str, Spill] = {}
    if joints:
        states = [found.lamps[p.id] for room in rooms.values() for p in room.lamps]
        for state in states:
            every.setdefault((state.channel, state.rgb), len(every))
        split = {x.id: np.eye(len(every))[every[(x.channel, x.rgb)]] * x.flux_lm for x in states}
        spills = spill_of(rooms, joints, split, len(every))
    for name, room in rooms.items():
        out.add(_room_lights(plan, room, found, spills.get(name), tuple(every), side))
    for lamp in lamps:
        if lamp.mount == "outside":
            state = found.lamps[lamp.id]
            key = (channel_of(lamp, None), state.rgb)
            _outside(lamp, state.axial_cd, side, key, out.discs, out.disc_cd, out.washes)
    return out.channels()


# Lights of the rooms of the last plans, taken again where nothing of a room has changed.
_shown: dict[tuple[str, Side], tuple[tuple[object, ...], _Lights]] = {}
MOST_SHOWN = 10_000


def _room_lights(
    plan: Plan, room: Room, found: Assessment, spill: Spill | None, every: tuple[Key, ...], side: Side
) -> _Lights:
    """What one room shows in a view: panes, lamps in plain sight, walls and seams that glow."""
    states = tuple(found.lamps[p.id] for p in room.lamps)
    inputs = (room, *states, plan.room.lux, plan.kit.plastic)
    place = (room.section.id, side)
    last = _shown.get(place)
    if last is not None and spill is None and same_pieces(last[0][0], plan.sections):
        old = last[0][1:]
        if (
            len(old) == len(inputs)
            and all(a is b or a == b for a, b in zip(old[-2:], inputs[-2:], strict=True))
            and all(a is b for a, b in zip(old[:-2], inputs[:-2], strict=True))
        ):
            return last[1]
    out = _Lights()
    own: dict[Key, int] = {}
    for state in states:
        own.setdefault((state.channel, state.rgb), len(own))
    keys = list(dict.fromkeys([*own, *every])) if spill is not None else list(own)
    column = {key: i for i, key in enumerate(keys)}
    light = np.zeros((len(room.lamps), len(keys)))
    for i, state in enumerate(states):
        light[i, column[(state.channel, state.rgb)]] = state.flux_lm
    if spill is not None:
        order = [every.index(key) if key in every else -1 for key in keys]
        spill = Spill(*(np.where(np.array(order) >= 0, x[:, order], 0.0) for x in spill))
    shown = room.luminance_per_lm @ light + (spill.luminance if spill is not None else 0.0)
    facing = [i for i, o in enumerate(room.openings) if o.side == side and room.lit[i]]
    for i in facing:
        o = room.openings[i]
        if o.tints and room.lamps:
            for j, p in enumerate(room.lamps):
                value = float(room.luminance_per_lm[i, j] * states[j].flux_lm)
                out.pane((states[j].channel, tinted(p, o.tints).rgb), o, side, value)
            continue
        for key, value in zip(keys, shown[i].tolist(), strict=True):
            if value > 0.0:
                out.pane(key, o, side, value)
    for i, j in zip(*np.nonzero(room.sights), strict=True):
        if room.openings[i].side == side:
            key = (states[j].channel, tinted(room.lamps[j], room.openings[i].tints).rgb)
            out.face(key, room.lamps[j], side, float(room.sights[i, j] * states[j].flux_lm))
    if keys:
        _leaking(plan, room, light, spill, keys, side, out)
    if spill is None:
        if len(_shown) > MOST_SHOWN:
            _shown.clear()
        _shown[place] = ((plan.sections, *inputs), out)
    return out


LEAST_SHOWN = 0.05  # of what is seen on a hull: fainter leaks are left out of the picture


def _leaking(
    plan: Plan, room: Room, light: Array, spill: Spill | None, keys: list[Key], side: Side, out: _Lights
) -> None:
    """Walls and seams of a section that glow towards the viewer."""
    section = room.section
    walls = walls_lx(room, light, spill)
    if not walls.any():
        return
    hull = hull_luminance(plan.room.lux, outside_reflectance(section, plan.kit.plastic))
    least = LEAST_SHOWN * visible_luminance(hull)
    for m in face_maps(room, walls, plan.kit.plastic, plan.sections, least):
        if FACE_NAMES[m.face] == side:
            shown = m.luminance.sum(axis=1) > least
            for k in np.flatnonzero(m.luminance.any(axis=0)):
                out.patch(keys[k], side, m.rects[shown], m.luminance[shown, k])
    for seam in section.seams:
        for key, column in zip(keys, walls.T, strict=True):
            if column.any():
                rects, values = seam_strips(room, column, seam, side)
                if len(values) and float(values.max()) > least:
                    out.patch(key, side, rects, values)


def _outside(
    lamp: Lamp,
    axial_cd: float,
    side: Side,
    key: Key,
    discs: dict[Key, list[tuple[float, float, float, float]]],
    disc_cd: dict[Key, list[float]],
    washes: dict[Key, list[Wash]],
) -> None:
    """A lamp that is seen itself: its face as a disc of its intensity over its area, and its wash on the hull."""
    part = lamp_parts()[lamp.part]
    order = 0.0 if lamp.frosted_cap else worked(lamp).order
    aim = np.array(lamp.aim) / np.linalg.norm(lamp.aim)
    toward_eye = 1.0 if lamp.frosted_cap else max(float(aim @ np.array(NORMALS[side])), 0.0)
    at = to_sheet(side, lamp.at)
    intensity = axial_cd * toward_eye**order
    if intensity > 0:
        radius = part.face_mm / 2
        discs.setdefault(key, []).append((at[0], at[1], radius, at[2]))
        disc_cd.setdefault(key, []).append(intensity / (np.pi * (radius * 1e-3) ** 2))
    if lamp.frosted_cap:
        # Even all round: towards the hull, that is a lamp of no preferred direction looking straight at it.
        washes.setdefault(key, []).append(Wash(at, (0.0, 0.0, -1.0), 0.0, axial_cd))
    else:
        sheet_aim = to_sheet(side, (float(aim[0]), float(aim[1]), float(aim[2])))
        washes.setdefault(key, []).append(Wash(at, sheet_aim, order, axial_cd))
