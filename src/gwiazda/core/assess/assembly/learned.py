"""Minutes learned from what steps took: of panes, joints, lamps, fibres. What was noted moves the house's minutes, it doesn't replace them."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.assess.assembly.step import Step
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Effort, Plan, copy_unchecked
from gwiazda.core.statistics.beliefs import moved, widened

LEAST = 0.1  # min for one: what is noted as less was noted wrongly
PEOPLE, EVENINGS = (
    0.6,
    0.3,
)  # one sigma of the logarithm: from one pair of hands to another, from one evening to the next; house values
Z95 = 1.645


class LearnedMinutes(NamedTuple):
    """Minutes for one of a kind: the house's, what is thought now, from where to where the next one falls nine times in ten, by how many notes."""

    house: float
    minutes: float
    low: float
    high: float
    notes: int


def learned(plan: Plan, catalogue: Catalogue, steps: Sequence[Step]) -> Mapping[str, LearnedMinutes]:
    """Fields of the plan's effort with the minutes that one of each takes, where any were noted.

    By hand: one note of three times the house's minutes, its stray .3 and hands' .6, moves the logarithm by 1/.09 of 1/.09 + 1/.36, so .8 of ln 3.
    """
    took = {d.step: d.minutes for d in plan.done if d.minutes is not None}
    house = Effort()
    each: dict[str, list[float]] = {}
    for s in steps:
        minutes = took.get(s.key)
        if minutes is None or not s.field or not s.many:
            continue
        one = (minutes - catalogue.work[s.kind].set_min) / s.many
        each.setdefault(s.field, []).append(math.log(max(one, LEAST) / max(float(getattr(house, s.field)), LEAST)))
    out = {}
    for field, ratios in each.items():
        before = max(float(getattr(house, field)), LEAST)
        shift, spread, unsure = moved(ratios, EVENINGS, PEOPLE)
        half = Z95 * widened(math.hypot(spread, unsure), len(ratios) + 3)
        middle = before * math.exp(shift)
        out[field] = LearnedMinutes(
            before, round(middle, 2), round(middle * math.exp(-half), 2), round(middle * math.exp(half), 2), len(ratios)
        )
    return out


def took(plan: Plan, key: str, minutes: float) -> Plan:
    """The plan with the minutes that a step took, in its last record."""
    last = next((d.id for d in reversed(plan.done) if d.step == key), "")
    return copy_unchecked(
        plan, done=tuple(copy_unchecked(d, minutes=minutes) if d.id == last else d for d in plan.done)
    )
