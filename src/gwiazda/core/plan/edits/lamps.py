"""Edits of lamps."""

from __future__ import annotations

from collections.abc import Iterable

from gwiazda.core.plan.edits.items import copy_checked, inside_of, replace, unused
from gwiazda.core.plan.model import Lamp, Plan, Wanted, copy_unchecked


def add_lamp(plan: Plan, lamp: Lamp) -> Plan:
    unused(plan, lamp.id)
    return copy_unchecked(plan, lamps=(*plan.lamps, lamp))


def set_wanted(plan: Plan, ids: Iterable[str], wanted: Wanted) -> Plan:
    """Set the wanted look of lamps; a section passes it on to all lamps inside it."""
    chosen = set(ids)
    chosen |= inside_of(plan, {s.id for s in plan.sections if s.id in chosen})
    return replace(plan, {lamp.id: copy_checked(lamp, wanted=wanted) for lamp in plan.lamps if lamp.id in chosen})
