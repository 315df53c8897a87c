"""One immutable plan goes in, one assessment comes out.

Stages: rooms (geometry) → wanted light → currents → resistors → network → light → run time → meters. Each is kept
for as long as the pieces of plan it reads are the very same (``kept``), or its numbers are (``solve_rungs``).
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.lampwork import rated_a, worked
from gwiazda.core.assess.lighting import light_of, rooms_of
from gwiazda.core.assess.meters import meters_of
from gwiazda.core.assess.rooms import Room
from gwiazda.core.assess.states import (
    Assessment,
    LampState,
    RungState,
    SupplyState,
)
from gwiazda.core.assess.wiring import (
    DEPTHS,
    Feed,
    RungKey,
    Sizing,
    Solved,
    feed_of,
    forward_v,
    junctions,
    rungs_of,
    size_resistor,
    solve_rungs,
)
from gwiazda.core.light.enclosure import CELLS
from gwiazda.core.light.photometry import (
    current_for_light,
    relative_light,
)
from gwiazda.core.light.tone import hull_luminance
from gwiazda.core.parts.catalogue import LampPart, families, lamp_parts, plastics, sources
from gwiazda.core.plan.lookup import kept, lamps_by_section
from gwiazda.core.plan.models import Lamp, Look, Plan
from gwiazda.core.power.discharge import DARK_SHARE, first_crossing, hours_at_depth

Array = npt.NDArray[np.float64]

# What the words mean: mean luminance of windows for a lamp inside, axial intensity for a lamp that is seen itself.
LOOK_CD_M2: dict[Look, float] = {"barely": 3.0, "soft": 12.0, "normal": 30.0, "bright": 80.0}
LOOK_MCD: dict[Look, float] = {"barely": 1.0, "soft": 5.0, "normal": 20.0, "bright": 80.0}
LEAST_SHARE = 1e-4  # of the rated light; below this a lamp counts as off and no resistor is sized for it


def channel_of(lamp: Lamp, section: str | None) -> str:
    """The channel a lamp plays on: its own, or its section's."""
    return lamp.channel or section or "outside"


def known_lamps(lamps: tuple[Lamp, ...]) -> tuple[Lamp, ...]:
    """The lamps whose part the catalogue has."""
    return _known_lamps(lamps, lamp_parts())


@kept()
def _known_lamps(lamps: tuple[Lamp, ...], table: dict[str, LampPart]) -> tuple[Lamp, ...]:
    return lamps if all(p.part in table for p in lamps) else tuple(p for p in lamps if p.part in table)


def _wanted_share(lamp: Lamp, part: LampPart, room: Room | None) -> float:
    """Light wanted of a lamp, as a share of that at its rated current (it may be more than 1)."""
    want = lamp.wanted
    if want.current_ma is not None:
        return float((want.current_ma * 1e-3 / rated_a(lamp)) ** families()[part.family].k)
    look_here = LOOK_CD_M2 if lamp.mount == "inside" else LOOK_MCD
    if want.look == "full":
        return 1.0
    if want.mcd is not None or lamp.mount == "outside":
        mcd = want.mcd if want.mcd is not None else look_here.get(want.look or "normal", 0.0)
        if want.cd_m2 is not None:
            # A luminance asked of a bare lamp is that of its own face.
            mcd = want.cd_m2 * math.pi * (part.face_mm * 1e-3) ** 2 / 4.0 * 1e3
        return mcd * 1e-3 / worked(lamp).axial_cd
    cd_m2 = want.cd_m2 if want.cd_m2 is not None else look_here[want.look or "normal"]
    if room is None or room.transmittance <= 0.0 or not room.lamps:
        return 1.0  # nothing to light: as bright as its rated current makes it
    # All lamps of a room give the same light: one value of resistor for all that are alike.
    per_lm = sum(room.mean_of.values())
    flux = cd_m2 / per_lm if per_lm > 0 else 0.0
    return flux / worked(lamp).flux_lm


def assess(plan: Plan, cells: int = CELLS) -> Assessment:
    """Assess a plan, its sections cut into about so many cells. Never raises for a plan that loads: what can't be reckoned is left dark and found later."""
    parts, table = lamp_parts(), families()
    lamps = known_lamps(plan.lamps)
    by_id = {lamp.id: lamp for lamp in lamps}
    homes = lamps_by_section(plan.sections, plan.lamps)
    rooms = rooms_of(plan.sections, plan.openings, lamps, plan.kit.plastic, cells)

    wanted: dict[str, float] = {}
    for lamp in lamps:
        home = homes.get(lamp.id)
        wanted[lamp.id] = max(_wanted_share(lamp, parts[lamp.part], rooms.get(home) if home else None), LEAST_SHARE)

    source = sources().get(plan.supply.part)
    feed = feed_of(plan.supply, source) if source else None
    rungs = [(rung, tuple(i for i in rung.lamps if i in by_id)) for rung in rungs_of(plan.lamps, plan.strings)]
    rungs = [(rung, ids) for rung, ids in rungs if ids]
    sizings: list[Sizing] = []
    for rung, ids in rungs:
        each = [parts[by_id[i].part] for i in ids]
        currents = [
            current_for_light(min(wanted[i], 1.0), rated_a(by_id[i]), table[part.family].k)
            for i, part in zip(ids, each, strict=True)
        ]
        sizings.append(
            size_resistor(
                feed.volts if feed else 0.0,
                tuple(j for i, p in zip(ids, each, strict=True) for j in junctions(p, by_id[i].units)),
                sum(currents) / len(currents),
                plan.drawer.series,
                rung.fixed_ohm,
                min(rated_a(by_id[i]) for i in ids),
            )
        )
    keys = tuple(
        (s.resistor_ohm, tuple(j for i in ids for j in junctions(parts[by_id[i].part], by_id[i].units)))
        for s, (_, ids) in zip(sizings, rungs, strict=True)
    )
    solved = solve_rungs(feed, keys) if feed else Solved(np.zeros(len(rungs)), np.zeros((0, len(rungs))), np.zeros(0))

    lamp_states: dict[str, LampState] = {}
    rung_states: dict[str, RungState] = {}
    for (rung, ids), s, current in zip(rungs, sizings, solved.now.tolist(), strict=True):
        rung_states[rung.id] = RungState(
            rung.id,
            ids,
            s.wanted_a,
            s.needed_ohm,
            s.resistor_ohm,
            s.chosen,
            s.headroom_v,
            current,
            current**2 * s.resistor_ohm,
        )
        for i in ids:
            lamp_states[i] = _kept_lamp_state(
                by_id[i], parts[by_id[i].part], homes.get(i), rung.id, s, current, wanted[i]
            )
    light = light_of(plan, rooms, lamp_states, wanted)
    lights = tuple(
        tuple((parts[by_id[i].part].colour, parts[by_id[i].part].family, rated_a(by_id[i]),
               worked(by_id[i]).flux_lm) for i in ids)
        for _, ids in rungs
    )  # fmt: skip
    duties = tuple(min(parts[by_id[i].part].duty for i in ids) for _, ids in rungs)
    supply = _supply(feed, keys, lights, duties)
    plastic = plastics().get(plan.kit.plastic)
    rho = plastic.reflectance if plastic else 0.5
    return Assessment(
        lamp_states,
        rung_states,
        light.sections,
        light.openings,
        supply,
        meters_of(supply, light, lamp_states, plan),
        plan.room,
        hull_luminance(plan.room.lux, rho),
        rho,
        light.leaks,
        cells,
    )


# States of the last plans, taken again for lamps and sections of which nothing has changed: a plan of two thousand
# lamps is assessed anew for every step of a drag.
_lamp_states: dict[str, tuple[tuple[object, ...], LampState]] = {}
MOST_KEPT = 50_000


def _kept_lamp_state(
    lamp: Lamp, part: LampPart, home: str | None, rung: str, sizing: Sizing, current: float, wanted: float
) -> LampState:
    key = (part, home, rung, sizing, current, wanted)
    kept_one = _lamp_states.get(lamp.id)
    if kept_one is not None and kept_one[0][0] is lamp and kept_one[0][1:] == key:
        return kept_one[1]
    state = _lamp_state(lamp, part, home, rung, sizing, current, wanted)
    if len(_lamp_states) > MOST_KEPT:
        _lamp_states.clear()
    _lamp_states[lamp.id] = ((lamp, *key), state)
    return state


def _lamp_state(
    lamp: Lamp, part: LampPart, home: str | None, rung: str, sizing: Sizing, current: float, wanted: float
) -> LampState:
    rated = rated_a(lamp)
    share = max(current / rated, 0.0) ** families()[part.family].k
    return LampState(
        lamp.id,
        part.id,
        home,
        rung,
        channel_of(lamp, home),
        current,
        sizing.wanted_a,
        rated,
        forward_v(junctions(part, lamp.units), max(current, 0.0)),
        sizing.resistor_ohm,
        worked(lamp).flux_lm * share,
        worked(lamp).axial_cd * share,
        share,
        wanted,
        worked(lamp).rgb,
        part.colour,
    )


Lit = tuple[str, str, float, float]  # colour, diode family, rated current (A), light at it (lm)


@lru_cache(maxsize=8)
def _supply(
    feed: Feed | None, keys: tuple[RungKey, ...], lights: tuple[tuple[Lit, ...], ...], duties: tuple[float, ...]
) -> SupplyState:
    """Load on the supply, all lamps lit, and for a battery its evening: light and voltage along the hours.

    Lamps that flash by themselves count with their share of the time (``duties``, one a rung) in what is used up.
    """
    if feed is None:
        return SupplyState("unknown supply", 0.0, 0.0, 0.0, 0.0, False)
    solved = solve_rungs(feed, keys)
    draw = float(solved.now.sum())
    terminal = feed.volts - feed.ohms * draw
    state = SupplyState(feed.part.name, feed.volts, terminal, draw, feed.limit_a, bool(feed.along_v))
    if not feed.along_v or draw <= 0:
        return state
    hours = hours_at_depth(DEPTHS, solved.along @ np.array(duties), feed.capacity_ah, feed.i50_a)
    colours: dict[str, Array] = {}
    for i, rung in enumerate(lights):
        for colour, family, rated, flux in rung:
            each = relative_light(solved.along[:, i], rated, families()[family].k) * flux
            colours[colour] = each + colours.get(colour, 0.0)
    light = np.sum(list(colours.values()), axis=0)
    light = light / light[0] if light[0] > 0 else light
    dark = first_crossing(hours, light, DARK_SHARE)
    empty = min(first_crossing(hours, solved.terminal_v, feed.cutoff_v), float(hours[-1]))
    outs = {name: first_crossing(hours, c / c[0], DARK_SHARE) for name, c in colours.items() if c[0] > 0}
    first = min(outs, key=lambda name: outs[name], default="")
    return state._replace(
        hours=min(dark, empty),
        ends="half its light" if dark <= empty else "the cells' end",
        first_out=first if first and math.isfinite(outs[first]) and len(outs) > 1 else "",
        curve_hours=hours,
        curve_light=light,
        curve_terminal_v=solved.terminal_v,
        curve_colours={name: c / c[0] for name, c in colours.items() if c[0] > 0},
    )
