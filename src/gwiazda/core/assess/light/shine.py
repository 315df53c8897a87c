"""What shines of a plan that is walked round: panes, points, walls and seams that glow, and what lights its outside."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.carrier.standing import furnished
from gwiazda.core.assess.lamp.kinds import known_lamps
from gwiazda.core.assess.lamp.lampwork import ALL_ROUND, worked
from gwiazda.core.assess.light.glows import Glow, Key, by_key, glows_of, sources_of
from gwiazda.core.assess.light.leaks import walls_lx
from gwiazda.core.assess.light.lenses import face_shown_mm
from gwiazda.core.assess.light.lighting import joints_in, rooms_of
from gwiazda.core.assess.light.rooms import Spill, spill_of, tinted
from gwiazda.core.assess.light.rows import parted
from gwiazda.core.assess.light.solids import Model
from gwiazda.core.assess.loom.crossing import shaded as wires_over
from gwiazda.core.assess.states import Assessment
from gwiazda.core.light.photometry import beam_order
from gwiazda.core.plan.frame import NORMALS, Side
from gwiazda.core.plan.model import Plan

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]

SIDES: tuple[Side, ...] = ("port", "starboard", "top", "bow", "stern")


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
    of their key; walls and seams that glow."""

    keys: tuple[Key, ...]
    panes: Array
    points: Points
    lamps: Array
    lamp_key: npt.NDArray[np.int64]
    glows: tuple[Glow, ...] = ()


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

    glows: list[Glow] = []
    behind = dict(sources_of(catalogue, lamps, found))
    for name, room in rooms.items():
        spill = spills.get(name)
        here = [found.lamps[p.id] for p in room.lamps]
        keyed, light, led = by_key(room, [(s.channel, s.rgb) for s in here], [s.flux_lm for s in here], spill, every)
        if keyed:
            glows += glows_of(
                catalogue, room, walls_lx(room, light, led), keyed, SIDES, inner.sections, plan.room.lux, plan.kit.plastic, behind
            )  # fmt: skip
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
    for glow in glows:
        key_of(glow.key)
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
        shining, shine_key, tuple(glows),
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
