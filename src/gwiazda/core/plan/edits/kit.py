"""Edits of the kit, the room and the drawer of resistors."""

from __future__ import annotations

from typing import Any

from gwiazda.core.plan.edits.items import revise
from gwiazda.core.plan.model import Plan, altered


def set_kit(plan: Plan, **fields: Any) -> Plan:
    return altered(plan, kit=revise(plan.kit, **fields))


def set_room(plan: Plan, **fields: Any) -> Plan:
    return altered(plan, room=revise(plan.room, **fields))


def set_drawer(plan: Plan, **fields: Any) -> Plan:
    return altered(plan, drawer=revise(plan.drawer, **fields))
