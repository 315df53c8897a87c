"""One immutable plan and one catalogue go in, one assessment comes out.

Stages: rooms and fibres (geometry) → wanted light → loom → circuits (currents, resistors, loads) → light → meters. Each is kept for as
long as what it reads is the very same; ``assess`` is a function of its arguments alone.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

from gwiazda.core.assess.aims import Looks
from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.electrics.junctions import forward_v
from gwiazda.core.assess.electrics.stage import Current, circuits_of, wanted_currents
from gwiazda.core.assess.electrics.straying import current_spreads
from gwiazda.core.assess.fibres.section_tips import section_tips
from gwiazda.core.assess.fibres.tips import fibres_of, tips_of, wanted_of_lamps
from gwiazda.core.assess.fibres.ways import led_through
from gwiazda.core.assess.known import as_known, as_read
from gwiazda.core.assess.lamp.lamp_models import LampModel, known_lamps, lamp_model_of, wired
from gwiazda.core.assess.lamp.realism import hull_of, looks_of
from gwiazda.core.assess.looms.crossing import crossings, shaded
from gwiazda.core.assess.looms.weave import loom_of
from gwiazda.core.assess.meters import Assessed, meters_of
from gwiazda.core.assess.optics.lighting import Lighting, light_of, lit_sections_of
from gwiazda.core.assess.optics.lit_sections import LitSection
from gwiazda.core.assess.show.scoring import score_of
from gwiazda.core.assess.show.show import effects_of, mean_current_share_of
from gwiazda.core.assess.states import Assessment, LampState, Strays
from gwiazda.core.circuit.shelf import shelf_of
from gwiazda.core.light.photometry import light_share
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import Lamp, Plan
from gwiazda.core.radiosity.fineness import CELLS

LEAST_SHARE = 1e-4  # of the rated light; below this a lamp counts as off and no resistor is sized for it


def channel_of(lamp: Lamp, section: str | None, flashes: bool = False) -> str:
    """The channel a lamp plays on: its own, or its section's. One that flashes by itself keeps no time with others."""
    return (lamp.id if flashes else lamp.channel) or section or ("fibre" if lamp.mount == "fibre" else "outside")


def _wanted_share(
    lamp: Lamp, kind: LampModel, transmittance: float, per_lm: float, tips: float | None, looks: Looks
) -> float:
    """Light wanted of a lamp, as a share of that at its rated current (it may be more than 1).

    ``transmittance`` and ``per_lm`` (cd/m² for 1 lm of each of its lamps) are its room's; 0 where it has none. ``tips`` is the
    share that the points on its fibres want, None where there are none.
    """
    want = lamp.wanted
    if want.current_ma is not None:
        return light_share(want.current_ma * 1e-3, kind.rated_a, kind.droop)
    look_here = looks.cd_m2 if lamp.mount == "inside" else looks.mcd
    if want.look == "full":
        return 1.0
    if lamp.mount == "fibre" and want.look is not None and tips is not None:
        return tips
    if want.mcd is not None or lamp.mount != "inside":
        mcd = want.mcd if want.mcd is not None else look_here.get(want.look or "normal", 0.0)
        if want.cd_m2 is not None:
            # A luminance asked of a bare lamp is that of its own face.
            mcd = want.cd_m2 * math.pi * (kind.part.face_mm * 1e-3) ** 2 / 4.0 * 1e3
        return mcd * 1e-3 / kind.light.axial_cd
    cd_m2 = want.cd_m2 if want.cd_m2 is not None else look_here[want.look or "normal"]
    if transmittance <= 0.0:
        return 1.0  # nothing to light: as bright as its rated current makes it
    # All lamps of a room give the same light: one value of resistor for all that are alike.
    flux = cd_m2 / per_lm if per_lm > 0 else 0.0
    return flux / kind.light.flux_lm


def _wanted(
    lamps: tuple[Lamp, ...], kinds: Mapping[str, LampModel], homes: Mapping[str, str | None], rooms: Mapping[str, LitSection],
    tips: Mapping[str, float], looks: Looks,
) -> dict[str, float]:  # fmt: skip
    """Light wanted of each lamp over that at its rated current."""
    per_lm = {key: sum(room.mean_of.values()) for key, room in rooms.items()}
    through = {key: room.transmittance if room.lamps else 0.0 for key, room in rooms.items()}
    wanted: dict[str, float] = {}
    for lamp in lamps:
        home = homes.get(lamp.id) or ""
        share = _wanted_share(
            lamp, kinds[lamp.id], through.get(home, 0.0), per_lm.get(home, 0.0), tips.get(lamp.id), looks
        )
        wanted[lamp.id] = max(share, LEAST_SHARE)
    return wanted


def assess(plan: Plan, catalogue: Catalogue, cells: int = CELLS) -> Assessment:
    """Assess a plan with a catalogue, its sections cut into about so many cells.

    Never raises for a plan that loads: what can't be reckoned is left dark and found later.
    """
    catalogue = as_known(catalogue, plan)
    plan = furnished(catalogue, plan)
    lamps = known_lamps(catalogue, plan.lamps)
    kinds = {p.id: lamp_model_of(catalogue, p) for p in lamps}
    homes = lamps_by_section(plan.sections, plan.lamps)
    rooms = lit_sections_of(catalogue, plan.sections, plan.openings, lamps, plan.kit.material, cells)
    fibres = fibres_of(catalogue, plan.dots, plan.bundles, lamps, led_through(plan))
    hull = hull_of(catalogue, plan)
    wanted = _wanted(lamps, kinds, homes, rooms, wanted_of_lamps(fibres, kinds), looks_of(catalogue, plan))
    shelf = shelf_of(plan.drawer.series, catalogue.resistors)
    wired_a = wanted_currents(lamps, kinds, wanted)
    loom = loom_of(catalogue, plan, lamps, wired_a)
    score = score_of(catalogue, plan, lamps, kinds, wired_a)
    mean_current_share = mean_current_share_of(score, lamps)
    circuits = circuits_of(
        catalogue, plan.feeds, shelf, lamps, wired(kinds, loom.extra_ohm), wanted, mean_current_share
    )
    spreads = current_spreads(catalogue, plan.feeds, plan.drawer.series, circuits.branches, kinds)
    states = as_read(catalogue, _lamp_states(lamps, kinds, homes, circuits.lamps, wanted, spreads))
    light = light_of(catalogue, plan, rooms, states, wanted)
    over = crossings(catalogue, plan, loom)
    light = _shaded(plan, light, shaded(over))
    tips = tips_of(fibres, states) | section_tips(catalogue, plan.dots, rooms, states)
    supply = circuits.feeds[plan.feeds[0].id]
    effects = effects_of(score, plan, states, circuits.branches, circuits.parts, circuits.feeds, mean_current_share)
    return Assessment(
        states,
        circuits.branches,
        light.sections,
        light.openings,
        supply,
        meters_of(catalogue, plan, Assessed(circuits.feeds, circuits.branches, light, states, tips, loom, effects)),
        plan.room,
        hull,
        light.leaks,
        cells,
        catalogue,
        circuits.feeds,
        circuits.parts,
        tips,
        fibres.bundles,
        loom,
        over,
        effects,
    )


def _shaded(plan: Plan, light: Lighting, share: Mapping[str, float]) -> Lighting:
    """Panes with what wires on them take away, and the means of their sections."""
    if not share:
        return light
    panes = {
        i: o._replace(luminance_cd_m2=o.luminance_cd_m2 * (1.0 - share[i])) if i in share else o
        for i, o in light.openings.items()
    }
    sections = dict(light.sections)
    for key in {light.openings[i].section for i in share if i in light.openings}:
        mine = [o for o in plan.openings if o.section == key and o.lit > 0 and o.id in panes]
        before = sum(o.area_mm2 * light.openings[o.id].luminance_cd_m2 for o in mine)
        after = sum(o.area_mm2 * panes[o.id].luminance_cd_m2 for o in mine)
        if before > 0:
            sections[key] = sections[key]._replace(mean_cd_m2=sections[key].mean_cd_m2 * after / before)
    return light._replace(openings=panes, sections=sections)


SURE = (0.0, 0.0, 0.0)


def _lamp_states(
    lamps: tuple[Lamp, ...], kinds: Mapping[str, LampModel], homes: Mapping[str, str | None],
    currents: Mapping[str, Current], wanted: Mapping[str, float], spreads: Mapping[str, Strays],
) -> dict[str, LampState]:  # fmt: skip
    """Lamps as they will burn. Those of a kind at one current are worked out once: large plans have thousands."""
    burning: dict[tuple[int, float], tuple[float, float]] = {}
    out: dict[str, LampState] = {}
    for lamp in lamps:
        lamp_id = lamp.id
        kind, at, home = kinds[lamp_id], currents[lamp_id], homes.get(lamp_id)
        key = (id(kind), at.current_a)
        found = burning.get(key)
        if found is None:
            found = burning[key] = (
                light_share(at.current_a, kind.rated_a, kind.droop),
                forward_v(kind.junctions, max(at.current_a, 0.0)),
            )
        share, volts = found
        light, part = kind.light, kind.part
        out[lamp_id] = LampState(
            lamp_id, part.id, home, at.branch, channel_of(lamp, home, part.flash_hz > 0), at.current_a, at.wanted_a, kind.rated_a,
            volts, at.resistor_ohm, light.flux_lm * share, light.axial_cd * share, share, wanted[lamp_id], light.rgb,
            part.colour, at.fresh_a, at.feed, at.reversed, spreads.get(lamp_id, SURE),
        )  # fmt: skip
    return out
