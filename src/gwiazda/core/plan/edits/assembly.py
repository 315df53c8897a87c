"""Edits of how a kit is put together: orders, steps of one's own, evenings."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date
from typing import Any

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.items import copy_checked, fresh_ids
from gwiazda.core.plan.model import OwnStep, Plan, SectionOrder, StepDay, copy_unchecked


def set_orders(plan: Plan, **fields: Any) -> Plan:
    """Change the kit's choices of order."""
    return copy_unchecked(plan, orders=copy_checked(plan.orders, **fields))


FIRST_YEAR, LAST_YEAR = 2000, 2200


def real_day(text: str, what: str) -> None:
    """Raise PlanError for a date that no calendar has; an empty one is none, and others than dates are refused by the gate."""
    if not re.fullmatch(r"\d{4}-\d{2}-\d{2}", text):
        return
    try:
        if FIRST_YEAR <= date.fromisoformat(text).year <= LAST_YEAR:
            return
    except ValueError:
        pass
    raise PlanError(what, f"“{text}” is in no calendar", "a date such as 2026-12-01")


def set_bench(plan: Plan, **fields: Any) -> Plan:
    """Change the evenings at the bench."""
    real_day(str(fields.get("begins", "")), "Begins on")
    return copy_unchecked(plan, bench=copy_checked(plan.bench, **fields))


def set_order(plan: Plan, section: str, **fields: Any) -> Plan:
    """Change what of a section's order differs from the kit's; forgotten where nothing does.

    Raises
    ------
    PlanError
        When the section isn't there.
    """
    if all(s.id != section for s in plan.sections):
        raise PlanError(f"Section {section}", "isn’t there", "a section of the plan")
    old = next((o for o in plan.section_orders if o.section == section), None)
    if old is None:
        old = SectionOrder(id=fresh_ids(plan, "order")[0], section=section)
    new = copy_checked(old, **fields)
    rest = tuple(o for o in plan.section_orders if o.section != section)
    plain = SectionOrder(id=new.id, section=section)
    return copy_unchecked(plan, section_orders=rest if new == plain else (*rest, new))


def add_own_step(plan: Plan, name: str, **fields: Any) -> tuple[Plan, str]:
    """A step of one's own; returns the plan and its id."""
    real_day(str(fields.get("arrives", "")), "Arrives on")
    new_id = fresh_ids(plan, "step")[0]
    step = copy_checked(OwnStep(id=new_id, name=name), **fields)
    return copy_unchecked(plan, own_steps=(*plan.own_steps, step)), new_id


def put_on_day(plan: Plan, steps: Sequence[str], day: str) -> Plan:
    """Steps not before a day; an empty one lets them go where they fit.

    Raises
    ------
    PlanError
        For a date that no calendar has.
    """
    real_day(day, "Put on")
    rest = tuple(x for x in plan.step_days if x.step not in set(steps))
    if not day:
        return copy_unchecked(plan, step_days=rest)
    ids = fresh_ids(plan, "day", len(steps))
    put = tuple(copy_checked(StepDay(id=i, step=k, day="2026-01-01"), day=day) for i, k in zip(ids, steps, strict=True))
    return copy_unchecked(plan, step_days=(*rest, *put))


def once_more(plan: Plan) -> Plan:
    """The same kit again: all that was decided and learned, nothing done, closed or written down yet."""
    name = f"{plan.kit.name}, once more"[:200]
    return copy_unchecked(
        plan, kit=copy_unchecked(plan.kit, name=name), step_days=(), done=(), seals=(), log=(), learned=()
    )


def set_effort(plan: Plan, **fields: Any) -> Plan:
    """Change the user's own minutes."""
    return copy_unchecked(plan, effort=copy_checked(plan.effort, **fields))


def set_own_step(plan: Plan, step_id: str, **fields: Any) -> Plan:
    """Change a step of one's own; raises PlanError when it isn't there."""
    real_day(str(fields.get("arrives", "")), "Arrives on")
    if all(o.id != step_id for o in plan.own_steps):
        raise PlanError(f"Step {step_id}", "isn’t there", "a step of one’s own")
    return copy_unchecked(
        plan, own_steps=tuple(copy_checked(o, **fields) if o.id == step_id else o for o in plan.own_steps)
    )
