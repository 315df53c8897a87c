"""What is judged of the light that lamps throw back through the walls they are pushed through."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gwiazda.core.assess.lamp.modified_lamp import back_share
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import with_fields
from gwiazda.core.light.visibility import visible_luminance
from gwiazda.core.plan.lookup import built_into, section_of
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of

MUCH = 0.1  # of what a section's windows show: more of another lamp's light changes how they look


def _share(section_id: str) -> Callable[[Assessment], float]:
    """How much of a lit section's windows is thrown back, over what may be; of one that isn't lit, over what is seen."""

    def measure(assessment: Assessment) -> float:
        s = assessment.sections.get(section_id)
        if s is None or s.back_cd_m2 <= 0.0:
            return 0.0
        if s.mean_cd_m2 > 1.001 * s.back_cd_m2:
            return s.back_cd_m2 / s.mean_cd_m2 / MUCH
        return s.back_cd_m2 / visible_luminance(assessment.hull_cd_m2)

    return measure


def thrown_back(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Lamps pushed through a wall whose backs light the section behind it."""
    entered = built_into(plan.sections, plan.lamps)
    for s in assessment.sections.values():
        measure = _share(s.id)
        times = measure(assessment)
        if times < 1.0 or s.back_lamp is None:
            continue
        mine = tuple(
            p.id for p in plan.lamps if entered.get(p.id) == s.id and back_share(assessment.catalogue, p) > 0.0
        )
        name, room = name_of(plan, s.back_lamp), section_of(plan, s.id).name
        lit = s.mean_cd_m2 > 1.001 * s.back_cd_m2
        what = (
            f"{times * MUCH * 100:.0f} % of what its windows show"
            if lit
            else "its windows glow, and it has no lamp of its own"
        )
        yield Finding(
            "thrown-back", "look", "lamp", s.back_lamp, times,
            f"{name} throws light back into {room}: {what}.",
            (Fix("Putty behind it" if len(mine) == 1 else f"Putty behind all {len(mine)}", with_fields(mine, behind="putty")),
             Fix("Fit it from outside, late", with_fields((s.back_lamp,), late=True))),
            measure, "× of what may be", also=tuple(i for i in mine if i != s.back_lamp),
        )  # fmt: skip


BACK_RULES = (thrown_back,)
