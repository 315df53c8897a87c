"""Edits that rules offer, made from ids and fields."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from gwiazda.core.assess.states import PartState
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Plan

Edit = Callable[[Plan], Plan]


def with_part(part_id: str, **fields: Any) -> Edit:
    """Set fields of a part of the circuit."""
    return lambda plan: edits.set_part(plan, part_id, **fields)


def with_fields(ids: Iterable[str], **fields: Any) -> Edit:
    """Set fields of what has a place on the plate."""
    chosen = tuple(ids)
    return lambda plan: edits.set_fields(plan, chosen, **fields)


def without(*item_ids: str) -> Edit:
    """Take something out."""
    return lambda plan: edits.delete(plan, item_ids)


def with_loom(**fields: Any) -> Edit:
    """Set what all wires have in common."""
    return lambda plan: edits.set_loom(plan, **fields)


def with_source(feed_id: str, **fields: Any) -> Edit:
    """Set fields of a feed's source."""
    return lambda plan: edits.set_supply(plan, feed_id, **fields)


def closed_by(section_id: str, by: str, glue: str = "") -> Edit:
    """Close a section otherwise: by what, and with which glue where it is glued."""

    def edit(plan: Plan) -> Plan:
        closure = edits.copy_checked(section_of(plan, section_id).closure, by=by, glue=glue)
        return edits.set_fields(plan, [section_id], closure=closure)

    return edit


def most_a(part: PartState) -> float:
    """The most that flows through a part (A): now, or while the source is fresh."""
    return max(abs(part.current_a), abs(part.fresh_a))
