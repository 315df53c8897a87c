"""What shines of a plan that is walked round: panes, points, walls and seams that glow, and what lights its outside."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.carrier.standing import furnished
from gwiazda.core.assess.lamp.kinds import known_lamps
from gwiazda.core.assess.lamp.lampwork import ALL_ROUND, worked
from gwiazda.core.assess.light.glows import Glow, Key, Rgb, by_key, glows_of, sources_of
from gwiazda.core.assess.light.leaks import walls_lx
from gwiazda.core.assess.light.lenses import face_shown_mm
from gwiazda.core.assess.light.lighting import joints_in, rooms_of
from gwiazda.core.assess.light.rooms import Room, Spill, spill_of
from gwiazda.core.assess.light.rows import parted
from gwiazda.core.assess.light.solids import Model
from gwiazda.core.assess.light.through import Inside, clear_panes, colour_kept, inside_of, lobes_of
from gwiazda.core.assess.loom.crossing import shaded as wires_over
from gwiazda.core.assess.states import Assessment
from gwiazda.core.light.photometry import beam_order
from gwiazda.core.plan.frame import NORMALS, Side
from gwiazda.core.plan.model import Dot, Lamp, Plan

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]

SIDES: tuple[Side, ...] = ("port", "starboard", "top", "bow", "stern")


class Points(NamedTuple):
    """Lights that are seen themselves: places (N, 3), aims (N, 3), orders (N,), intensities on the axis (N,), widths (N,), ids, colours, and the numbers (N,) of
    their keys.

    ``pane`` (N,): the number of the opening through which a light is seen, and through that alone; −1 for what is outside.
    """

    at: Array
    aim: Array
    order: Array
    cd: Array
    wide: Array
    ids: tuple[str, ...]
    rgb: tuple[Rgb, ...]
    key: npt.NDArray[np.intp]
    pane: npt.NDArray[np.intp]


class Lights(NamedTuple):
    """What shines: luminance (openings, keys) of panes by the model's order; points; lamps (L, 8) that light the outside, with the number
    of their key; walls and seams that glow."""

    keys: tuple[Key, ...]
    panes: Array
    points: Points
    lamps: Array
    lamp_key: npt.NDArray[np.int64]
    glows: tuple[Glow, ...] = ()
    insides: tuple[Inside, ...] = ()  # rooms that are seen into through clear panes


class _Seen(NamedTuple):
    """A light that is seen itself, as ``Points`` has them."""

    at: Array
    aim: Array
    order: float
    cd: float
    wide: float
    name: str
    key: Key
    pane: int = -1


class _Gathered:
    """What shines of a plan, as it is found."""

    def __init__(self, found: Assessment, model: Model) -> None:
        self.found, self.model, self.catalogue = found, model, found.catalogue
        self.number: dict[Key, int] = {}
        self.cells: list[tuple[int, int, float]] = []
        self.points: list[_Seen] = []
        self.glows: list[Glow] = []
        self.insides: list[Inside] = []
        self.place = {o.id: i for i, o in enumerate(model.openings)}
        self.dark = wires_over(found.crossings)

    def key(self, key: Key) -> int:
        return self.number.setdefault(key, len(self.number))

    def panes_of(self, room: Room, spill: Spill | None, every: list[Key]) -> None:
        """What a room's panes show straight on, and lenses with a lamp behind them."""
        for k, o in enumerate(room.openings):
            i = self.place.get(o.id)
            if i is None or not (room.lit[k] or (len(room.glows) and room.glows[k])):
                continue
            left = 1.0 - self.dark.get(o.id, 0.0)
            for j, p in enumerate(room.lamps):
                state = self.found.lamps[p.id]
                value = float(room.luminance_per_lm[k, j]) * state.flux_lm * left
                key = (state.channel, colour_kept(self.catalogue, room, k, p)[1] or state.rgb)
                if value > 0:
                    self.cells.append((i, self.key(key), value))
                if o.lens is not None and room.sights[k, j] > 0:
                    wide = face_shown_mm(self.catalogue, o, p, self.catalogue.lamps[p.part])
                    cd = float(room.sights[k, j]) * state.flux_lm * math.pi * (wide * 0.5e-3) ** 2
                    self.points.append(_Seen(self.model.at[i], self.model.normal[i], LENS_ORDER, cd, wide, o.id, key))
            if spill is not None:
                for key, value in zip(every, (spill.luminance[k] * left).tolist(), strict=True):
                    if value > 0:
                        self.cells.append((i, self.key(key), value))

    def clear_panes_of(self, room: Room, walls: Array, keyed: list[Key]) -> None:
        """What is seen through a room's clear panes: its walls, and its lamps where they stand."""
        mine = [k for k in clear_panes(room).tolist() if room.openings[k].id in self.place]
        for colours in dict.fromkeys(room.colours[k] for k in mine):
            alike = np.array([k for k in mine if room.colours[k] == colours], dtype=np.intp)
            numbers = [self.place[room.openings[k].id] for k in alike.tolist()]
            left = np.array([1.0 - self.dark.get(room.openings[k].id, 0.0) for k in alike.tolist()])
            shares, keys = [], []
            for key in keyed:
                own = next((p for p in room.lamps if self._key_of(p) == key), None)
                kept, rgb = colour_kept(self.catalogue, room, int(alike[0]), own) if own is not None else (1.0, None)
                shares.append(kept)
                keys.append(self.key((key[0], rgb or key[1])))
            self.insides.append(inside_of(room, alike, walls, left[:, None] * np.array(shares), keys, numbers))
            for p in room.lamps:
                self._lamp_in(room, p, alike, numbers, left)

    def _key_of(self, p: Lamp) -> Key:
        return self.found.lamps[p.id].channel, self.found.lamps[p.id].rgb

    def _lamp_in(self, room: Room, p: Lamp, alike: npt.NDArray[np.intp], numbers: list[int], left: Array) -> None:
        state, wide = self.found.lamps[p.id], self.catalogue.lamps[p.part].face_mm
        kept, rgb = colour_kept(self.catalogue, room, int(alike[0]), p)
        for lobe in lobes_of(self.catalogue, p, room.cavity.corner) if state.flux_lm > 0 else ():
            for k, i, share in zip(alike.tolist(), numbers, (left * kept).tolist(), strict=True):
                o = room.openings[k]
                cd = lobe.cd * state.flux_lm * share * o.lit * room.cavity.panes[k].clear
                self.points.append(
                    _Seen(lobe.at, lobe.aim, lobe.order, cd, wide, o.id, (state.channel, rgb or state.rgb), i)
                )

    def outside(self, lamps: tuple[Lamp, ...], dots: tuple[Dot, ...]) -> None:
        """Lamps that are seen themselves, and tips of fibres."""
        for p in lamps:
            if p.mount == "outside":
                order = ALL_ROUND if p.frosted_cap else worked(self.catalogue, p).order
                aim = np.array(p.aim, dtype=float)
                self.points.append(_Seen(np.array(p.at, dtype=float), aim / np.linalg.norm(aim), order, self.found.lamps[p.id].axial_cd, self.catalogue.lamps[p.part].face_mm, p.id, self._key_of(p)))  # fmt: skip
        for d in dots:
            tip = self.found.tips.get(d.id)
            if tip is not None and tip.cd > 0:
                fibre = self.catalogue.fibres.get(d.fibre)
                wide = fibre.diameter_mm if fibre is not None else 0.5
                self.points.append(_Seen(np.array(d.at, dtype=float), np.array(NORMALS[d.side], dtype=float), beam_order(2 * tip.half_angle_deg), tip.cd, wide, d.id, (tip.channel, tip.rgb)))  # fmt: skip


LENS_ORDER = 4.0  # how a lamp behind a lens falls off to the sides: house value


def lights_of(plan: Plan, found: Assessment, model: Model) -> Lights:
    """The lights of a plan at the currents of its assessment."""
    catalogue, all_of = found.catalogue, _Gathered(found, model)
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
    behind = dict(sources_of(catalogue, lamps, found))
    for name, room in rooms.items():
        spill = spills.get(name)
        here = [found.lamps[p.id] for p in room.lamps]
        keyed, light, led = by_key(room, [(s.channel, s.rgb) for s in here], [s.flux_lm for s in here], spill, every)
        all_of.panes_of(room, spill, every)
        if keyed:
            walls = walls_lx(room, light, led)
            all_of.glows += glows_of(
                catalogue, room, walls, keyed, SIDES, inner.sections, plan.room.lux, plan.kit.plastic, behind
            )
            all_of.clear_panes_of(room, walls, keyed)
    all_of.outside(lamps, plan.dots)
    points = all_of.points
    for key in (*(p.key for p in points), *(g.key for g in all_of.glows)):
        all_of.key(key)
    keys = tuple(all_of.number)
    panes = np.zeros((len(model.openings), len(keys)))
    for i, k, value in all_of.cells:
        panes[i, k] += value
    shining, shine_key = _shining(plan, model, panes, points, all_of.number)
    return Lights(
        keys, panes, _points(points, all_of.number), shining, shine_key, tuple(all_of.glows), tuple(all_of.insides)
    )


def _points(points: list[_Seen], number: dict[Key, int]) -> Points:
    at, aim = (np.array([getattr(x, n) for x in points], dtype=float).reshape(-1, 3) for n in ("at", "aim"))
    order, cd, wide = (np.array([getattr(x, n) for x in points], dtype=float) for n in ("order", "cd", "wide"))
    pane = np.array([x.pane for x in points], dtype=np.intp)
    key = np.array([number[x.key] for x in points], dtype=np.intp)
    return Points(at, aim, order, cd, wide, tuple(x.name for x in points), tuple(x.key[1] for x in points), key, pane)


def _shining(
    plan: Plan, model: Model, panes: Array, points: list[_Seen], number: dict[Key, int]
) -> tuple[Array, npt.NDArray[np.int64]]:  # fmt: skip
    """What throws light on the outsides: lamps that are seen themselves, and rows of lit panes as diffuse sources of I = L·A."""
    rows: list[tuple[float, ...]] = []
    keys: list[int] = []
    outside = {p.id for p in plan.lamps if p.mount == "outside"}
    for x in points:
        if x.name in outside and x.cd > 0:
            rows.append((*x.at.tolist(), *x.aim.tolist(), x.order, x.cd))
            keys.append(number[x.key])
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
