"""A plan with its resistors as they are soldered in: they don't follow the lamps any more."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.lookup import string_of
from gwiazda.core.plan.model import BRANCHING, CircuitNode, Lamp, Plan, Resistor, copy_unchecked


def as_built(plan: Plan, assessment: Assessment, only: Collection[str] | None = None) -> Plan:
    """The plan with every resistor as it was chosen, or those alone that lamps (``only``, by id) hang on."""
    mine = [b for b in assessment.branches.values() if only is None or any(i in only for i in b.lamps)]
    chosen = {b.resistor: b.resistor_ohm for b in mine if b.resistor}
    feeds = tuple(copy_unchecked(f, items=tuple(_with_ohms(x, chosen) for x in f.items)) for f in plan.feeds)
    lamps = tuple(_soldered(plan, p, assessment) if only is None or p.id in only else p for p in plan.lamps)
    return copy_unchecked(plan, feeds=feeds, lamps=lamps)


def _soldered(plan: Plan, lamp: Lamp, assessment: Assessment) -> Lamp:
    state = assessment.lamps.get(lamp.id)
    if state is None or state.resistor_ohm <= 0.0 or string_of(plan, lamp.id) is not None:
        return lamp
    return copy_unchecked(lamp, resistor_ohm=state.resistor_ohm)


def _with_ohms(node: CircuitNode, ohms: Mapping[str, float]) -> CircuitNode:
    if isinstance(node, Resistor):
        return copy_unchecked(node, ohm=ohms[node.id]) if ohms.get(node.id, 0.0) > 0.0 else node
    if isinstance(node, BRANCHING):
        return copy_unchecked(node, items=tuple(_with_ohms(x, ohms) for x in node.items))
    return node
