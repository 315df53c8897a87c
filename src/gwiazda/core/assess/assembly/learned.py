"""Minutes learned from what steps took: of panes, joints, lamps, fibres, by the middle of what was noted."""

from __future__ import annotations

from collections.abc import Sequence
from statistics import median

from gwiazda.core.assess.assembly.step import Step
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Plan, copy_unchecked

LEAST = 0.1  # min for one: what is noted as less was noted wrongly


def learned(plan: Plan, catalogue: Catalogue, steps: Sequence[Step]) -> dict[str, float]:
    """Fields of the plan's effort with the minutes that were really taken for one of each, where any were noted."""
    took = {d.step: d.minutes for d in plan.done if d.minutes is not None}
    each: dict[str, list[float]] = {}
    for s in steps:
        minutes = took.get(s.key)
        if minutes is None or not s.field or not s.many:
            continue
        one = (minutes - catalogue.work[s.kind].set_min) / s.many
        each.setdefault(s.field, []).append(max(one, LEAST))
    return {field: round(median(values), 2) for field, values in each.items()}


def took(plan: Plan, key: str, minutes: float) -> Plan:
    """The plan with the minutes that a step took, in its last record."""
    last = next((d.id for d in reversed(plan.done) if d.step == key), "")
    return copy_unchecked(
        plan, done=tuple(copy_unchecked(d, minutes=minutes) if d.id == last else d for d in plan.done)
    )
