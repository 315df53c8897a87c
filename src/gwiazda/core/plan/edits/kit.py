"""Edits of the kit, the room and the drawer of resistors."""

from __future__ import annotations

from typing import Any

from gwiazda.core.plan.edits.items import copy_checked
from gwiazda.core.plan.model import Plan, ViewingConditions, copy_unchecked


def set_kit(plan: Plan, **fields: Any) -> Plan:
    return copy_unchecked(plan, kit=copy_checked(plan.kit, **fields))


def new_plan() -> Plan:
    """An empty plan as one begins: its words for a look follow the room it is for."""
    return Plan(room=ViewingConditions(looks="room"))


def set_room(plan: Plan, **fields: Any) -> Plan:
    return copy_unchecked(plan, room=copy_checked(plan.room, **fields))


def set_drawer(plan: Plan, **fields: Any) -> Plan:
    return copy_unchecked(plan, drawer=copy_checked(plan.drawer, **fields))
