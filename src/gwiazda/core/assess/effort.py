"""What it takes: holes, panes, joints and hours, from the plan and the user's own minutes."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.plan.lookup import lamps_by_section, openings_by_section
from gwiazda.core.plan.models import Plan


class SectionEffort(NamedTuple):
    """``holes`` are drilled or cut; panes scraped free need none."""

    section: str
    holes: int
    panes: int
    lamps: int
    joints: int
    hours: float


def effort_of(plan: Plan) -> tuple[SectionEffort, ...]:
    """Effort of each section, and of the lamps outside under the name "outside".

    A lamp has two joints, its resistor one more (one a string); the joint with the rail counts with it.
    """
    homes = lamps_by_section(plan.sections, plan.lamps)
    openings = openings_by_section(plan.openings)
    strung = {lamp: s.id for s in plan.strings for lamp in s.lamps}
    minutes = {"drill": plan.effort.drill_min, "mask": plan.effort.mask_min, "scratch": plan.effort.scratch_min}
    out = []
    for section_id in [*(s.id for s in plan.sections), "outside"]:
        section = next((s for s in plan.sections if s.id == section_id), None)
        if section is None:
            lamps = [p.id for p in plan.lamps if homes.get(p.id) is None]
        else:
            lamps = [i for i, home in homes.items() if home == section_id]
        panes = len(openings.get(section_id, ()))
        school = section.school if section else "drill"
        resistors = len({strung.get(i, i) for i in lamps})
        joints = 2 * len(lamps) + resistors
        total = panes * minutes[school] + joints * plan.effort.joint_min + len(lamps) * plan.effort.lamp_min
        if panes or lamps:
            out.append(
                SectionEffort(section_id, panes if school == "drill" else 0, panes, len(lamps), joints, total / 60.0)
            )
    return tuple(out)
