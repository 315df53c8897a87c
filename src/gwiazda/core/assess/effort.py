"""What it takes: holes, panes, joints and hours, from the plan and the user's own minutes."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import Lamp, Opening, Plan, lamps_in

OUTSIDE = "outside"


class Effort(NamedTuple):
    """Work on a section or a feature (its id in ``of``). ``holes`` are drilled or cut; panes scraped free need none."""

    of: str
    holes: int
    panes: int
    lamps: int
    joints: int
    hours: float


def _tally(plan: Plan, of_opening: Callable[[Opening], str], of_lamp: Callable[[Lamp], str]) -> dict[str, Effort]:
    """A lamp has two joints, its resistor one more (one a string, counted with its first lamp)."""
    minutes = {"drill": plan.effort.drill_min, "mask": plan.effort.mask_min, "scratch": plan.effort.scratch_min}
    schools = {s.id: s.school for s in plan.sections}
    behind = {leaf.lamp for f in plan.feeds for item in f.items for leaf in lamps_in(item)[1:]}
    out: dict[str, Effort] = {}
    for o in plan.openings:
        key, school = of_opening(o), schools[o.section]
        e = out.get(key) or Effort(key, 0, 0, 0, 0, 0.0)
        out[key] = e._replace(
            holes=e.holes + (school == "drill"), panes=e.panes + 1, hours=e.hours + minutes[school] / 60.0
        )
    for lamp in plan.lamps:
        key = of_lamp(lamp)
        joints = 2 if lamp.id in behind else 3
        e = out.get(key) or Effort(key, 0, 0, 0, 0, 0.0)
        each = (joints * plan.effort.joint_min + plan.effort.lamp_min) / 60.0
        out[key] = e._replace(lamps=e.lamps + 1, joints=e.joints + joints, hours=e.hours + each)
    return out


def effort_of(plan: Plan) -> tuple[Effort, ...]:
    """Effort of each section, and of the lamps outside under the name "outside"."""
    homes = lamps_by_section(plan.sections, plan.lamps)
    found = _tally(plan, lambda o: o.section, lambda p: homes.get(p.id) or OUTSIDE)
    return tuple(found[key] for key in [*(s.id for s in plan.sections), OUTSIDE] if key in found)


def feature_effort_of(plan: Plan) -> tuple[Effort, ...]:
    """Effort of each feature, and of what belongs to none under an empty name.

    Openings and lamps belong to their section's feature unless they name one of their own.
    """
    homes = lamps_by_section(plan.sections, plan.lamps)
    of_section = {s.id: s.feature for s in plan.sections}
    found = _tally(
        plan,
        lambda o: o.feature or of_section[o.section],
        lambda p: p.feature or of_section.get(homes.get(p.id) or "", ""),
    )
    return tuple(found[key] for key in [*(f.id for f in plan.features), ""] if key in found)
