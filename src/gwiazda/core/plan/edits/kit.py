"""Edits of the kit, the room and the drawer of resistors."""

from __future__ import annotations

from typing import Any

from gwiazda.core.plan.edits.items import copy_checked
from gwiazda.core.plan.model import Plan, copy_unchecked


def set_kit(plan: Plan, **fields: Any) -> Plan:
    return copy_unchecked(plan, kit=copy_checked(plan.kit, **fields))


def set_room(plan: Plan, **fields: Any) -> Plan:
    return copy_unchecked(plan, room=copy_checked(plan.room, **fields))


def set_drawer(plan: Plan, **fields: Any) -> Plan:
    return copy_unchecked(plan, drawer=copy_checked(plan.drawer, **fields))
