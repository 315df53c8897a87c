"""One immutable plan and one catalogue go in, one assessment comes out.

Stages: rooms (geometry) → wanted light → circuits (currents, resistors, loads) → light → meters. Each is kept for as
long as what it reads is the very same; ``assess`` is a function of its arguments alone.
"""

from __future__ import annotations

import math

from gwiazda.core.assess.circuit.junctions import forward_v, junctions
from gwiazda.core.assess.circuit.stage import Current, circuits_of
from gwiazda.core.assess.lamp.lampwork import rated_a, worked
from gwiazda.core.assess.light.lighting import light_of, rooms_of
from gwiazda.core.assess.light.rooms import Room
from gwiazda.core.assess.meters import meters_of
from gwiazda.core.assess.states import Assessment, LampState
from gwiazda.core.light.enclosure import CELLS
from gwiazda.core.light.photometry import light_share
from gwiazda.core.light.tone import hull_luminance
from gwiazda.core.memo import kept, same_value
from gwiazda.core.parts.catalogue import Catalogue, LampPart
from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import Lamp, Look, Plan

# What the words mean: mean luminance of windows for a lamp inside, axial intensity for a lamp that is seen itself.
LOOK_CD_M2: dict[Look, float] = {"barely": 3.0, "soft": 12.0, "normal": 30.0, "bright": 80.0}
LOOK_MCD: dict[Look, float] = {"barely": 1.0, "soft": 5.0, "normal": 20.0, "bright": 80.0}
LEAST_SHARE = 1e-4  # of the rated light; below this a lamp counts as off and no resistor is sized for it


def channel_of(lamp: Lamp, section: str | None) -> str:
    """The channel a lamp plays on: its own, or its section's."""
    return lamp.channel or section or "outside"


@kept()
def known_lamps(catalogue: Catalogue, lamps: tuple[Lamp, ...]) -> tuple[Lamp, ...]:
    """The lamps whose part the catalogue has."""
    table = catalogue.lamps
    return lamps if all(p.part in table for p in lamps) else tuple(p for p in lamps if p.part in table)


def _wanted_share(catalogue: Catalogue, lamp: Lamp, part: LampPart, room: Room | None) -> float:
    """Light wanted of a lamp, as a share of that at its rated current (it may be more than 1)."""
    want = lamp.wanted
    if want.current_ma is not None:
        return light_share(want.current_ma * 1e-3, rated_a(catalogue, lamp), catalogue.families[part.family].droop)
    look_here = LOOK_CD_M2 if lamp.mount == "inside" else LOOK_MCD
    if want.look == "full":
        return 1.0
    if want.mcd is not None or lamp.mount == "outside":
        mcd = want.mcd if want.mcd is not None else look_here.get(want.look or "normal", 0.0)
        if want.cd_m2 is not None:
            # A luminance asked of a bare lamp is that of its own face.
            mcd = want.cd_m2 * math.pi * (part.face_mm * 1e-3) ** 2 / 4.0 * 1e3
        return mcd * 1e-3 / worked(catalogue, lamp).axial_cd
    cd_m2 = want.cd_m2 if want.cd_m2 is not None else look_here[want.look or "normal"]
    if room is None or room.transmittance <= 0.0 or not room.lamps:
        return 1.0  # nothing to light: as bright as its rated current makes it
    # All lamps of a room give the same light: one value of resistor for all that are alike.
    per_lm = sum(room.mean_of.values())
    flux = cd_m2 / per_lm if per_lm > 0 else 0.0
    return flux / worked(catalogue, lamp).flux_lm


def assess(plan: Plan, catalogue: Catalogue, cells: int = CELLS) -> Assessment:
    """Assess a plan with a catalogue, its sections cut into about so many cells.

    Never raises for a plan that loads: what can't be reckoned is left dark and found later.
    """
    parts = catalogue.lamps
    lamps = known_lamps(catalogue, plan.lamps)
    homes = lamps_by_section(plan.sections, plan.lamps)
    rooms = rooms_of(catalogue, plan.sections, plan.openings, lamps, plan.kit.plastic, cells)
    wanted: dict[str, float] = {}
    for lamp in lamps:
        home = homes.get(lamp.id)
        share = _wanted_share(catalogue, lamp, parts[lamp.part], rooms.get(home) if home else None)
        wanted[lamp.id] = max(share, LEAST_SHARE)
    circuits = circuits_of(catalogue, plan.feeds, plan.drawer.series, lamps, wanted)
    states = {p.id: _lamp_state(p, catalogue, homes.get(p.id), circuits.lamps[p.id], wanted[p.id]) for p in lamps}
    light = light_of(catalogue, plan, rooms, states, wanted)
    supply = circuits.feeds[plan.feeds[0].id]
    plastic = catalogue.plastics.get(plan.kit.plastic)
    rho = plastic.reflectance if plastic else 0.5
    return Assessment(
        states,
        circuits.rungs,
        light.sections,
        light.openings,
        supply,
        meters_of(catalogue, circuits.feeds, light, states, plan),
        plan.room,
        hull_luminance(plan.room.lux, rho),
        rho,
        light.leaks,
        cells,
        catalogue,
        circuits.feeds,
    )


# A plan of two thousand lamps is assessed anew for every step of a drag: what has not changed is taken again.
@kept(slots=3, by=lambda lamp, *_: lamp.id, places=50_000, same=same_value)
def _lamp_state(lamp: Lamp, catalogue: Catalogue, home: str | None, at: Current, wanted: float) -> LampState:
    part = catalogue.lamps[lamp.part]
    rated = rated_a(catalogue, lamp)
    share = light_share(at.current_a, rated, catalogue.families[part.family].droop)
    light = worked(catalogue, lamp)
    return LampState(
        lamp.id,
        part.id,
        home,
        at.rung,
        channel_of(lamp, home),
        at.current_a,
        at.sizing.wanted_a,
        rated,
        forward_v(junctions(catalogue, part, lamp.units), max(at.current_a, 0.0)),
        at.sizing.resistor_ohm,
        light.flux_lm * share,
        light.axial_cd * share,
        share,
        wanted,
        light.rgb,
        part.colour,
        at.fresh_a,
        at.feed,
        at.reversed,
    )
