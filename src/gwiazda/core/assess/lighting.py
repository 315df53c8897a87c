"""From lamps at their currents to windows, hot spots and leaks: the stage of light."""

from __future__ import annotations

from collections.abc import Mapping
from operator import is_
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.cavities import found
from gwiazda.core.assess.joints import Joint, joints_of, ports_by_section
from gwiazda.core.assess.lampwork import worked
from gwiazda.core.assess.leaks import Leak, leaks_of
from gwiazda.core.assess.rooms import Room, Spill, room_of, spill_of
from gwiazda.core.assess.states import LampState, OpeningState, SectionState
from gwiazda.core.light.enclosure import CELLS
from gwiazda.core.parts.catalogue import LampPart, coats, lamp_parts, linings, plastics
from gwiazda.core.plan.lookup import kept, lamps_by_section, openings_by_section, same_pieces
from gwiazda.core.plan.models import Lamp, Opening, Plan, Section

Array = npt.NDArray[np.float64]
MOST_KEPT = 50_000
HOT_FROM_CD_M2 = 0.05  # a pane darker than this has no hot spot anyone could see


def joints_in(sections: tuple[Section, ...], openings: tuple[Opening, ...], kit_plastic: str) -> tuple[Joint, ...]:
    """The plan's joints; kept while sections and the holes between them are the same. Walls count between sections with
    openings, which light from next door could show in."""
    return _shown_joints(joints_of(sections, _holes(openings), kit_plastic), _occupied(openings))


@kept(slots=8)
def _shown_joints(joints: tuple[Joint, ...], occupied: frozenset[str]) -> tuple[Joint, ...]:
    return tuple(j for j in joints if all(side.section in occupied for side in j.sides))


@kept(slots=8)
def _occupied(openings: tuple[Opening, ...]) -> frozenset[str]:
    return frozenset({o.section for o in openings} | {o.into for o in openings if o.into})


@kept(slots=8)
def _holes(openings: tuple[Opening, ...]) -> tuple[Opening, ...]:
    return tuple(o for o in openings if o.into)


def rooms_of(
    sections: tuple[Section, ...], openings: tuple[Opening, ...], lamps: tuple[Lamp, ...], kit_plastic: str = "light-grey",
    cells: int = CELLS,
) -> dict[str, Room]:  # fmt: skip
    """Every section as a room with its own openings and lamps, cut into about so many cells."""
    return _rooms_of(sections, openings, lamps, lamp_parts(), joints_in(sections, openings, kit_plastic), cells)


_solved: list[tuple[object, ...]] = []  # sections, openings and plastic of the last plan that had nothing to solve


def to_solve(plan: Plan, cells: int = CELLS) -> int:
    """How many sections of a plan have no enclosure yet: each takes some twenty milliseconds."""
    now = (plan.sections, plan.openings, plan.kit.plastic, cells)
    if _solved and all(map(same_pieces, _solved[0], now)):
        return 0
    grouped = openings_by_section(plan.openings)
    ports = ports_by_section(joints_in(plan.sections, plan.openings, plan.kit.plastic))
    shown = [s for s in plan.sections if s.id in grouped]
    missing = sum(found(s, grouped[s.id], ports.get(s.id, ()), cells) is None for s in shown)
    _solved[:] = [] if missing else [now]
    return missing


@kept()
def _rooms_of(
    sections: tuple[Section, ...], openings: tuple[Opening, ...], lamps: tuple[Lamp, ...], parts: dict[str, LampPart],
    joints: tuple[Joint, ...], cells: int,
) -> dict[str, Room]:  # fmt: skip
    homes = lamps_by_section(sections, lamps)
    inside: dict[str, list[Lamp]] = {}
    for lamp in lamps:
        home = homes.get(lamp.id)
        if home is not None:
            inside.setdefault(home, []).append(lamp)
    grouped, ports = openings_by_section(openings), ports_by_section(joints)
    return {
        s.id: room_of(s, grouped.get(s.id, ()), tuple(inside.get(s.id, ())), ports.get(s.id, ()), cells)
        for s in sections
    }


class Light(NamedTuple):
    sections: dict[str, SectionState]
    openings: dict[str, OpeningState]
    leaks: tuple[Leak, ...]


def _hot_spots(room: Room, flux: Array, luminance: Array, spill: Spill | None) -> tuple[Array, list[str]]:
    """Brightest over mean of every pane, and the lamp in plain sight behind it."""
    count = len(room.openings)
    hot, sight = np.ones(count), [""] * count
    if not count or not len(flux):
        return hot, sight
    direct = np.zeros((count, 1))
    lights = room.cavity.lights_of(room.lamps)
    for each, lm in zip(lights, flux, strict=True):
        direct = direct + each.points[:count] * lm
    scattered, straight = room.show[:, 0], room.show[:, 1]
    walls = (room.cells_per_lm @ flux)[room.behind]
    even = np.array([each.windows[:count] for each in lights]).T @ flux - direct.mean(axis=1)
    extra = spill.luminance[:, 0] if spill is not None else 0.0
    brightest = scattered * (direct.max(axis=1) + even) + straight * walls + extra
    shown = room.sights * flux
    if shown.any():
        brightest = brightest + shown.max(axis=1)
        for i in np.flatnonzero(shown.max(axis=1) > luminance):
            sight[i] = room.lamps[int(shown[i].argmax())].id
    bright = luminance > HOT_FROM_CD_M2
    hot = np.where(bright, brightest / np.where(bright, luminance, 1.0), 1.0)
    return np.maximum(hot, 1.0), sight


_lit: dict[str, tuple[tuple[Any, ...], SectionState, dict[str, OpeningState]]] = {}


def _lit_room(
    key: str, room: Room, states: tuple[LampState, ...], shares: tuple[float, ...], spill: Spill | None
) -> tuple[SectionState, dict[str, OpeningState]]:
    """One section's windows under its lamps."""
    flux = np.array([s.flux_lm for s in states])
    asked = np.array([worked(p).flux_lm * w for p, w in zip(room.lamps, shares, strict=True)])
    luminance = room.luminance_per_lm @ flux if len(flux) else np.zeros(len(room.openings))
    own = luminance
    if spill is not None:
        luminance = luminance + spill.luminance[:, 0]
    hot, sight = _hot_spots(room, flux, luminance, spill)
    openings = {
        o.id: OpeningState(o.id, key, v, h, s)
        for o, v, h, s in zip(room.openings, luminance.tolist(), hot.tolist(), sight, strict=True)
    }
    total = float(room.weight.sum())
    mean = float(room.weight @ luminance) / total if total > 0 else 0.0
    evenness, darkest = None, None
    # A window dimmed on purpose does not count against the row.
    full = np.array([o.lit == 1.0 and not o.into for o in room.openings], dtype=bool)
    if full.sum() > 1 and mean > 0:
        among = luminance[full]
        evenness = float(among.min() / among.mean())
        darkest = room.openings[int(np.flatnonzero(full)[int(among.argmin())])].id
    shown = [i for i in range(len(room.openings)) if room.lit[i]]
    hottest = max(shown, key=lambda i: hot[i], default=None)
    state = SectionState(
        key,
        room.area_m2,
        room.reflectance,
        float(flux.sum()),
        mean,
        float(room.mean_per_lm @ asked) if len(asked) else 0.0,
        evenness,
        darkest,
        int(room.lit.sum()),
        sum(not o.into for o in room.openings),
        len(room.lamps),
        float(hot[hottest]) if hottest is not None else 1.0,
        room.openings[hottest].id if hottest is not None else None,
        float(np.max(luminance - own)) if spill is not None and len(own) else 0.0,
    )
    return state, openings


def light_of(plan: Plan, rooms: dict[str, Room], lamps: Mapping[str, LampState], wanted: Mapping[str, float]) -> Light:
    """Windows, hot spots and leaks of all sections."""
    joints = joints_in(plan.sections, plan.openings, plan.kit.plastic)
    flux = {p.id: np.array([lamps[p.id].flux_lm]) for room in rooms.values() for p in room.lamps} if joints else {}
    spills = spill_of(rooms, joints, flux, 1)
    sections: dict[str, SectionState] = {}
    openings: dict[str, OpeningState] = {}
    for key, room in rooms.items():
        states = tuple(lamps[p.id] for p in room.lamps)
        shares = tuple(wanted[p.id] for p in room.lamps)
        spill = spills.get(key)
        last = _lit.get(key)
        if last is None or not _unchanged(last[0], (room, states, shares, spill)):
            last = ((room, states, shares, spill), *_lit_room(key, room, states, shares, spill))
            if len(_lit) > MOST_KEPT:
                _lit.clear()
            _lit[key] = last
        sections[key] = last[1]
        openings.update(last[2])
    return Light(sections, openings, _leaks(plan, rooms, lamps, spills, sections))


def _unchanged(a: tuple[Any, ...], b: tuple[Any, ...]) -> bool:
    if a[0] is not b[0] or a[2] != b[2] or not all(map(is_, a[1], b[1])):
        return False
    x, y = a[3], b[3]
    return x is y or (x is not None and y is not None and _near(x.luminance, y.luminance) and _near(x.cells, y.cells))


def _near(a: Array, b: Array) -> bool:
    return a.shape == b.shape and bool(np.allclose(a, b, rtol=1e-4, atol=0.0))


_leaking: dict[str, tuple[tuple[Any, ...], tuple[Leak, ...]]] = {}


def _leaks(
    plan: Plan, rooms: dict[str, Room], lamps: Mapping[str, LampState], spills: dict[str, Spill], states: dict[str, SectionState]
) -> tuple[Leak, ...]:  # fmt: skip
    """Leaks of all sections; those of a section of which nothing has changed are taken again."""
    leaks: list[Leak] = []
    tables = (coats(), linings(), plastics())
    for key, room in rooms.items():
        flux = np.array([[lamps[p.id].flux_lm] for p in room.lamps]).reshape(-1, 1)
        now = (room, plan.sections, plan.room, plan.kit.plastic, tables, flux, spills.get(key))
        last = _leaking.get(key)
        if (
            last is None
            or not all(map(is_, last[0][:1], now[:1]))
            or not same_pieces(last[0][1], now[1])
            or last[0][2:4] != now[2:4]
            or not all(map(is_, last[0][4], now[4]))
            or not np.array_equal(last[0][5], flux)
            or not _unchanged((None, (), (), last[0][6]), (None, (), (), now[6]))
        ):
            one = leaks_of(plan, {key: room}, {key: flux}, spills, {key: states[key].mean_cd_m2})
            if len(_leaking) > MOST_KEPT:
                _leaking.clear()
            last = (now, one)
            _leaking[key] = last
        leaks += last[1]
    return tuple(sorted(leaks, key=lambda leak: -leak.times))
