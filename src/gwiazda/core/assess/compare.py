"""Side by side: linings for a section, and the fewest coats that keep it tight."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.leaks import leaks_of
from gwiazda.core.assess.lighting import rooms_of
from gwiazda.core.assess.rooms import room_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.parts.catalogue import coats, linings
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.models import Layer, Plan

SCHOOLS_OF_LINING = ("flat-white", "silver", "flat-black", "bare")
MOST_COATS = 8


class LiningRow(NamedTuple):
    """A section lined so, its lamps as they burn now: mean luminance, darkest over mean, worst leak over what is seen."""

    lining: str
    name: str
    mean_cd_m2: float
    evenness: float | None
    leak_times: float


def compare_linings(plan: Plan, found: Assessment, section_id: str) -> tuple[LiningRow, ...]:
    """The schools of lining for one section, with the light its lamps give now."""
    known = rooms_of(
        plan.sections, plan.openings, tuple(p for p in plan.lamps if p.id in found.lamps), plan.kit.plastic, found.cells
    )
    if section_id not in known:
        return ()
    room = known[section_id]
    flux = np.array([[found.lamps[p.id].flux_lm] for p in room.lamps]).reshape(-1, 1)
    out = []
    for lining in SCHOOLS_OF_LINING:
        lined = edits.set_fields(plan, [section_id], lining=lining)
        section = section_of(lined, section_id)
        other = room_of(section, room.openings, room.lamps, room.cavity.ports, found.cells)
        light = (other.luminance_per_lm @ flux)[:, 0] if len(room.lamps) else np.zeros(len(room.openings))
        full = np.array([o.lit == 1.0 and not o.into for o in room.openings], dtype=bool)
        mean = float(other.weight @ light / other.weight.sum()) if other.weight.sum() > 0 else 0.0
        evenness = float(light[full].min() / light[full].mean()) if full.sum() > 1 and light[full].mean() > 0 else None
        leaks = leaks_of(lined, {section_id: other}, {section_id: flux}, {}, {section_id: mean})
        worst = max((x.times for x in leaks if x.kind == "wall"), default=0.0)
        out.append(LiningRow(lining, linings()[lining].name, mean, evenness, worst))
    return tuple(out)


class CoatRow(NamedTuple):
    """So many coats of a paint inside, and the worst wall they leave, over what is seen."""

    coat: str
    name: str
    coats: int
    times: float


def fewest_coats(plan: Plan, found: Assessment, section_id: str) -> tuple[CoatRow, ...]:
    """For each block paint, the fewest coats inside, in place of those there are, that keep all walls below what is seen.

    The lamps as they burn now; coats under the lining don't change the light inside. A paint that ``MOST_COATS`` coats
    of don't keep tight is left out.
    """
    lamps = tuple(p for p in plan.lamps if p.id in found.lamps)
    room = rooms_of(plan.sections, plan.openings, lamps, plan.kit.plastic, found.cells).get(section_id)
    if room is None or section_id not in found.sections:
        return ()
    flux = np.array([[found.lamps[p.id].flux_lm] for p in room.lamps]).reshape(-1, 1)
    mean = found.sections[section_id].mean_cd_m2
    out = []
    for coat in coats().values():
        if coat.kind != "paint" or coat.reflectance > 0.8:
            continue
        for count in range(MOST_COATS + 1):
            tried = with_coats(plan, section_id, coat.id, count)
            now = room._replace(section=section_of(tried, section_id))
            leaks = leaks_of(tried, {section_id: now}, {section_id: flux}, {}, {section_id: mean})
            worst = max((x.times for x in leaks if x.kind == "wall"), default=0.0)
            if worst < 1.0:
                out.append(CoatRow(coat.id, coat.name, count, worst))
                break
    return tuple(sorted(out, key=lambda r: (r.coats, r.times)))


def with_coats(plan: Plan, section_id: str, coat: str, count: int) -> Plan:
    """A section with nothing inside but so many coats of one paint under its lining."""
    layers = (Layer(coat=coat, coats=count),) if count else ()
    return edits.set_fields(plan, [section_id], inside=layers)
