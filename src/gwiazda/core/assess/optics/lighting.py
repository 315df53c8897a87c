"""From lamps at their currents to windows, hot spots and leaks: the stage of light."""

from __future__ import annotations

import math
import os
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.lamp.lamp_models import known_lamps
from gwiazda.core.assess.lamp.modified_lamp import back_share, worked
from gwiazda.core.assess.optics.cavities import Frame, box_of, found, frame_of
from gwiazda.core.assess.optics.cross_illumination import CrossIllumination, cross_illumination_of
from gwiazda.core.assess.optics.emitters import thrown_back
from gwiazda.core.assess.optics.joints import Joint, Port, joints_of, ports_by_section
from gwiazda.core.assess.optics.leaks import LeakScene, leaks_of
from gwiazda.core.assess.optics.lit_sections import LitSection, boards_for, cells_for, in_row, lit_section_of
from gwiazda.core.assess.states import LampState, Leak, OpeningState, SectionState, Strays
from gwiazda.core.assess.uncertainty import Influences, evenness_band, influences_of, light_sigmas, placed_sigma
from gwiazda.core.light.photometry import evenness
from gwiazda.core.memo import memoize, same_figures, same_value
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import built_into, lamps_by_section, looked_at_from, openings_by_section
from gwiazda.core.plan.model import Lamp, Opening, Passage, Plan, Section
from gwiazda.core.radiosity.fineness import CELLS, QUICK_CELLS

Array = npt.NDArray[np.float64]
HOT_FROM_CD_M2 = 0.05  # a pane darker than this has no hot spot anyone could see


def joints_in(
    catalogue: Catalogue, sections: tuple[Section, ...], openings: tuple[Opening, ...], kit_material: str
) -> tuple[Joint, ...]:
    """The plan's joints; kept while sections and the holes between them are the same. Walls count between sections with
    openings, which light from next door could show in."""
    return _shown_joints(joints_of(catalogue, sections, _holes(openings), kit_material), _occupied(openings))


@memoize(slots=8)
def _shown_joints(joints: tuple[Joint, ...], occupied: frozenset[str]) -> tuple[Joint, ...]:
    return tuple(j for j in joints if all(side.section in occupied for side in j.sides))


@memoize(slots=8)
def _occupied(openings: tuple[Opening, ...]) -> frozenset[str]:
    return frozenset({o.section for o in openings} | {o.into for o in openings if o.into})


@memoize(slots=8)
def _holes(openings: tuple[Opening, ...]) -> tuple[Opening, ...]:
    return tuple(o for o in openings if o.into)


@memoize(slots=8, gathers=True)
def _grouped(
    catalogue: Catalogue, sections: tuple[Section, ...], openings: tuple[Opening, ...], lamps: tuple[Lamp, ...],
    joints: tuple[Joint, ...],
) -> tuple[tuple[Section, tuple[Opening, ...], tuple[Lamp, ...], tuple[Port, ...]], ...]:  # fmt: skip
    """What belongs to each section: its openings, the lamps inside it and those that throw light back into it, its ports."""
    homes = lamps_by_section(sections, lamps)
    inside: dict[str, list[Lamp]] = {}
    entered, by_id = built_into(sections, lamps), {s.id: s for s in sections}
    for lamp in lamps:
        home = homes.get(lamp.id)
        if home is not None:
            inside.setdefault(home, []).append(lamp)
        elif lamp.mount == "outside" and back_share(catalogue, lamp) > 0.0 and (behind := entered.get(lamp.id)):
            inside.setdefault(behind, []).append(thrown_back(lamp, by_id[behind]))
    grouped, ports = openings_by_section(openings), ports_by_section(joints)
    return tuple((s, grouped.get(s.id, ()), tuple(inside.get(s.id, ())), ports.get(s.id, ())) for s in sections)


def lit_sections_of(
    catalogue: Catalogue, sections: tuple[Section, ...], openings: tuple[Opening, ...], lamps: tuple[Lamp, ...],
    kit_material: str = "light-grey", cells: int = CELLS,
) -> dict[str, LitSection]:  # fmt: skip
    """Every section as a room with its own openings and lamps, cut into about so many cells."""
    joints = joints_in(catalogue, sections, openings, kit_material)
    frames = _frames(catalogue, sections, openings, lamps, kit_material, cells)
    _solve_ahead(
        frames,
        [
            partial(lit_section_of, catalogue, s, own, inside, kit_material, ports, cells)
            for s, own, inside, ports in _grouped(catalogue, sections, openings, lamps, joints)
        ],
    )
    return _rooms_of(catalogue, sections, openings, lamps, kit_material, joints, cells)


def to_solve(catalogue: Catalogue, plan: Plan, cells: int = CELLS) -> int:
    """How many sections of a plan have no enclosure yet: each takes some twenty milliseconds."""
    return sum(
        found(f) is None for f in _frames(catalogue, plan.sections, plan.openings, plan.lamps, plan.kit.material, cells)
    )


@memoize(gathers=True)
def _frames(
    catalogue: Catalogue, sections: tuple[Section, ...], openings: tuple[Opening, ...], lamps: tuple[Lamp, ...],
    kit_material: str, cells: int,
) -> tuple[Frame, ...]:  # fmt: skip
    known = known_lamps(catalogue, lamps)
    out = []
    for s, own, inside, ports in _grouped(
        catalogue, sections, openings, known, joints_in(catalogue, sections, openings, kit_material)
    ):
        boards = boards_for(catalogue, s, own, inside, ports, kit_material, cells)
        out.append(frame_of(catalogue, s, own, ports, kit_material, boards, cells_for(inside, ports, cells))[0])
    return tuple(out)


MANY, AT_ONCE = 3, min(4, os.cpu_count() or 1)


def _solve_ahead(frames: Sequence[Frame], rooms: Sequence[Callable[[], LitSection]]) -> None:
    """Solve the enclosures that aren't kept yet and light their rooms, a few at once: most of the work is in libraries
    that let others run. Enclosures first, so that one that several sections share is solved once."""
    # With few cells most of it is Python, and threads would wait for each other.
    missing = {f for f in frames if f.cells > QUICK_CELLS and found(f) is None}
    if len(missing) >= MANY and AT_ONCE > 1:
        from concurrent.futures import ThreadPoolExecutor  # not needed for the first picture

        with ThreadPoolExecutor(AT_ONCE, "light") as pool:
            list(pool.map(box_of, dict.fromkeys(f for f in frames if f in missing)))
            list(pool.map(lambda room: room(), (room for f, room in zip(frames, rooms, strict=True) if f in missing)))


@memoize(gathers=True)
def _rooms_of(
    catalogue: Catalogue, sections: tuple[Section, ...], openings: tuple[Opening, ...], lamps: tuple[Lamp, ...],
    kit_material: str, joints: tuple[Joint, ...], cells: int,
) -> dict[str, LitSection]:  # fmt: skip
    return {
        s.id: lit_section_of(catalogue, s, own, inside, kit_material, ports, cells)
        for s, own, inside, ports in _grouped(catalogue, sections, openings, lamps, joints)
    }


class Lighting(NamedTuple):
    sections: dict[str, SectionState]
    openings: dict[str, OpeningState]
    leaks: tuple[Leak, ...]


def _hot_spots(
    room: LitSection, flux: Array, luminance: Array, spill: CrossIllumination | None
) -> tuple[Array, list[str]]:
    """Brightest over mean of every pane, and the lamp in plain sight behind it."""
    count = len(room.openings)
    hot, sight = np.ones(count), [""] * count
    if not count or not len(flux):
        return hot, sight
    direct = sum(
        (each.points[:count] * lm for each, lm in zip(room.lights, flux, strict=True)), start=np.zeros((count, 1))
    )
    peak, mean = direct.max(axis=1), direct.mean(axis=1)
    for shade in room.shades:
        if shade.window < count:
            under = shade.points @ flux
            peak[shade.window], mean[shade.window] = under.max(), under.mean()
    walls = (room.cells_per_lm @ flux)[room.behind]
    even = room.lux @ flux - mean
    extra = spill.luminance[:, 0] if spill is not None else 0.0
    brightest = room.show[:, 0] * (peak + even) + room.show[:, 1] * walls + extra
    shown = room.sights * flux
    if shown.any():
        brightest = brightest + shown.max(axis=1)
        for i in np.flatnonzero(shown.max(axis=1) > luminance):
            sight[i] = room.lamps[int(shown[i].argmax())].id
    bright = luminance > HOT_FROM_CD_M2
    hot = np.where(bright, brightest / np.where(bright, luminance, 1.0), 1.0)
    return np.maximum(hot, 1.0), sight


@memoize(slots=3, by=lambda catalogue, key, *_: key, places=4096, same=same_figures)
def _lit_room(
    catalogue: Catalogue, key: str, room: LitSection, burning: tuple[float, ...], strays: tuple[Strays, ...],
    asked_lm: tuple[float, ...], spill: CrossIllumination | None,
) -> tuple[SectionState, dict[str, OpeningState]]:  # fmt: skip
    """One section's windows under its lamps: their light (lm), the volts over their resistors, the light asked of them."""
    flux, asked = np.array(burning), np.array(asked_lm)
    luminance = room.luminance_per_lm @ flux if len(flux) else np.zeros(len(room.openings))
    own = luminance
    if spill is not None:
        luminance = luminance + spill.luminance[:, 0]
    hot, sight = _hot_spots(room, flux, luminance, spill)
    found = influences(catalogue, room, flux, strays)
    sigma, sigmas, lean = light_sigmas(catalogue, room, found)
    openings = {
        o.id: OpeningState(o.id, key, v, h, s, e, lean)
        for o, v, h, s, e in zip(room.openings, luminance.tolist(), hot.tolist(), sight, sigmas, strict=True)
    }
    total = float(room.weight.sum())
    mean = float(room.weight @ luminance) / total if total > 0 else 0.0
    # A window dimmed on purpose does not count against the row.
    full = in_row(room.openings)
    row = evenness(luminance[full]) if mean > 0 else None
    even = evenness_band(room, flux, found, full) if row is not None and found is not None else (0.0, 0.0)
    shown = [i for i in range(len(room.openings)) if room.lit[i]]
    hottest = max(shown, key=lambda i: hot[i], default=None)
    state = SectionState(
        key,
        room.area_m2,
        room.reflectance,
        float(flux.sum()),
        mean,
        float(room.mean_per_lm @ asked) if len(asked) else 0.0,
        row[0] if row else None,
        room.openings[int(np.flatnonzero(full)[row[1]])].id if row else None,
        int(room.lit.sum()),
        sum(not o.into for o in room.openings),
        sum(p.mount == "inside" for p in room.lamps),
        float(hot[hottest]) if hottest is not None else 1.0,
        room.openings[hottest].id if hottest is not None else None,
        float(np.max(luminance - own)) if spill is not None and len(own) else 0.0,
        sigma,
        *_thrown_back(room, flux),
        *even,
        lean,
    )
    return state, openings


def influences(catalogue: Catalogue, room: LitSection, flux: Array, strays: Sequence[Strays]) -> Influences | None:
    """What a room's luminance strays by, under lamps of so much light (lm) whose currents stray so."""
    placed = placed_sigma(_direct_share(room, flux))
    return influences_of(catalogue, room, flux, np.array(strays, dtype=float).reshape(-1, 3), placed)


def _direct_share(room: LitSection, flux: Array) -> float:
    """Of the light that falls on a section's panes, the share that comes straight from its lamps."""
    count = len(room.openings)
    if not count or not len(flux):
        return 0.0
    direct = math.fsum(
        float(each.points[:count].mean(axis=1).sum()) * lm for each, lm in zip(room.lights, flux.tolist(), strict=True)
    )
    total = float((room.lux @ flux).sum())
    return min(direct / total, 1.0) if total > 0 else 0.0


def _thrown_back(room: LitSection, flux: Array) -> tuple[float, str | None]:
    """Mean luminance (cd/m²) of a section's windows by lamps that are pushed through its walls, and the one that gives most of it."""
    behind = [j for j, p in enumerate(room.lamps) if p.mount == "outside"]
    if not behind or not room.weight.any():
        return 0.0, None
    each = room.mean_per_lm[behind] * flux[behind]
    return float(each.sum()), room.lamps[behind[int(each.argmax())]].id


def light_of(
    catalogue: Catalogue,
    plan: Plan,
    rooms: dict[str, LitSection],
    lamps: Mapping[str, LampState],
    wanted: Mapping[str, float],
) -> Lighting:
    """Windows, hot spots and leaks of all sections."""
    joints = joints_in(catalogue, plan.sections, plan.openings, plan.kit.material)
    flux = {p.id: np.array([lamps[p.id].flux_lm]) for room in rooms.values() for p in room.lamps} if joints else {}
    spills = cross_illumination_of(catalogue, rooms, joints, flux, 1)
    sections: dict[str, SectionState] = {}
    openings: dict[str, OpeningState] = {}
    for key, room in rooms.items():
        states = [lamps[p.id] for p in room.lamps]
        state, own = _lit_room(
            catalogue, key, room, tuple(s.flux_lm for s in states), tuple(s.current_sigma for s in states),
            tuple(worked(catalogue, p).flux_lm * wanted[p.id] for p in room.lamps), spills.get(key),
        )  # fmt: skip
        sections[key] = state
        openings.update(own)
    return Lighting(sections, openings, _leaks(catalogue, plan, rooms, lamps, spills, sections))


def _leaks(
    catalogue: Catalogue, plan: Plan, rooms: dict[str, LitSection], lamps: Mapping[str, LampState], spills: dict[str, CrossIllumination],
    states: dict[str, SectionState],
) -> tuple[Leak, ...]:  # fmt: skip
    """Leaks of all sections; those of a section of which nothing has changed are taken again."""
    leaks: list[Leak] = []
    for key, room in rooms.items():
        flux = np.array([[lamps[p.id].flux_lm] for p in room.lamps]).reshape(-1, 1)
        scene = LeakScene(
            catalogue, plan.sections, plan.openings if key in spills else (), plan.room, plan.kit.material, channels_of(plan.passages),
            looked_at_from(plan, "bottom"),
        )  # fmt: skip
        leaks += _section_leaks(scene, key, room, flux, spills.get(key), states[key].mean_cd_m2)
    return tuple(sorted(leaks, key=lambda leak: -leak.times))


@memoize(slots=8)
def channels_of(passages: tuple[Passage, ...]) -> tuple[Passage, ...]:
    """The passages that are filed into a wall."""
    return tuple(p for p in passages if p.make == "channel")


@memoize(slots=3, by=lambda scene, key, *_: key, places=4096, same=same_value)
def _section_leaks(
    scene: LeakScene, key: str, room: LitSection, flux: Array, spill: CrossIllumination | None, mean: float
) -> tuple[Leak, ...]:
    return leaks_of(scene, {key: room}, {key: flux}, {key: spill} if spill is not None else {}, {key: mean})
