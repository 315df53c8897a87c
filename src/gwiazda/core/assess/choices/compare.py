"""Side by side: linings for a section, and the fewest coats that keep it tight."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.optics.leaks import LeakScene, leaks_of
from gwiazda.core.assess.optics.lighting import channels_of, lit_sections_of
from gwiazda.core.assess.optics.lit_sections import LitSection, in_row, lit_section_of
from gwiazda.core.assess.states import Assessment, Leak
from gwiazda.core.light.photometry import evenness
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import looked_at_from, section_of
from gwiazda.core.plan.model import Layer, Plan

SCHOOLS_OF_LINING = ("flat-white", "silver", "flat-black", "bare")
MOST_COATS = 8


class LiningRow(NamedTuple):
    """A section lined so, its lamps as they burn now: mean luminance, darkest over mean, worst leak over what is seen."""

    lining: str
    name: str
    mean_cd_m2: float
    evenness: float | None
    leak_times: float


def _scene(plan: Plan, assessment: Assessment) -> LeakScene:
    return LeakScene(
        assessment.catalogue,
        plan.sections,
        plan.openings,
        plan.room,
        plan.kit.material,
        channels_of(plan.passages),
        looked_at_from(plan, "bottom"),
    )


def _room_of(plan: Plan, assessment: Assessment, section_id: str) -> LitSection | None:
    plan = furnished(assessment.catalogue, plan)
    lamps = tuple(p for p in plan.lamps if p.id in assessment.lamps)
    return lit_sections_of(
        assessment.catalogue, plan.sections, plan.openings, lamps, plan.kit.material, assessment.cells
    ).get(section_id)


def _walls(leaks: Iterable[Leak]) -> tuple[float, float]:
    """The worst wall: how many times what is seen, likely and at its 95 % value."""
    walls = [x for x in leaks if x.kind == "wall"]
    return max((x.times for x in walls), default=0.0), max((x.safe_times for x in walls), default=0.0)


def compare_linings(plan: Plan, assessment: Assessment, section_id: str) -> tuple[LiningRow, ...]:
    """The schools of lining for one section, with the light its lamps give now."""
    room = _room_of(plan, assessment, section_id)
    if room is None:
        return ()
    catalogue, scene = assessment.catalogue, _scene(plan, assessment)
    flux = np.array([[assessment.lamps[p.id].flux_lm] for p in room.lamps]).reshape(-1, 1)
    out = []
    for lining in SCHOOLS_OF_LINING:
        section = edits.copy_checked(room.section, lining=lining)
        other = lit_section_of(
            catalogue, section, room.openings, room.lamps, plan.kit.material, room.cavity.ports, assessment.cells
        )
        light = (other.luminance_per_lm @ flux)[:, 0] if len(room.lamps) else np.zeros(len(room.openings))
        full = in_row(room.openings)
        mean = float(other.weight @ light / other.weight.sum()) if other.weight.sum() > 0 else 0.0
        row = evenness(light[full])
        worst, _ = _walls(leaks_of(scene, {section_id: other}, {section_id: flux}, {}, {section_id: mean}))
        out.append(LiningRow(lining, catalogue.linings[lining].name, mean, row[0] if row else None, worst))
    return tuple(out)


class CoatRow(NamedTuple):
    """So many coats of a paint inside, and the worst wall they leave, over what is seen; and how many are safe, which
    hide it at the 95 % value too (0 where ``MOST_COATS`` don't)."""

    coat: str
    name: str
    coats: int
    times: float
    safe_coats: int = 0


def fewest_coats(plan: Plan, assessment: Assessment, section_id: str) -> tuple[CoatRow, ...]:
    """For each block paint, the fewest coats inside, in place of those there are, that keep all walls below what is seen.

    The lamps as they burn now, the light inside as it is: what lies under the lining changes it little. A paint that
    ``MOST_COATS`` coats of don't keep tight is left out.
    """
    room = _room_of(plan, assessment, section_id)
    if room is None or section_id not in assessment.sections:
        return ()
    scene = _scene(plan, assessment)
    flux = np.array([[assessment.lamps[p.id].flux_lm] for p in room.lamps]).reshape(-1, 1)
    mean = assessment.sections[section_id].mean_cd_m2
    out = []
    for coat in assessment.catalogue.coats.values():
        if coat.kind != "paint" or coat.scatter > 0.0:
            continue
        row: CoatRow | None = None
        for count in range(MOST_COATS + 1):
            now = room._replace(section=section_of(with_coats(plan, section_id, coat.id, count), section_id))
            worst, safe = _walls(leaks_of(scene, {section_id: now}, {section_id: flux}, {}, {section_id: mean}))
            if worst < 1.0 and row is None:
                row = CoatRow(coat.id, coat.name, count, worst)
            if safe < 1.0 and row is not None:
                row = row._replace(safe_coats=count)
                break
        if row is not None:
            out.append(row)
    return tuple(sorted(out, key=lambda r: (r.coats, r.times)))


def with_coats(plan: Plan, section_id: str, coat: str, count: int) -> Plan:
    """A section with nothing inside but so many coats of one paint under its lining."""
    layers = (Layer(coat=coat, coats=count),) if count else ()
    return edits.set_fields(plan, [section_id], inside=layers)
