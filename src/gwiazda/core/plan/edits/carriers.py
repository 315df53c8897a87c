"""Edits of what holds lamps."""

from __future__ import annotations

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.items import unused
from gwiazda.core.plan.model import Carrier, Plan, copy_unchecked


def add_carrier(plan: Plan, carrier: Carrier) -> Plan:
    """A carrier into its section.

    Raises
    ------
    PlanError
        Where the section isn't there, or its id is taken.
    """
    unused(plan, carrier.id)
    if not any(s.id == carrier.section for s in plan.sections):
        raise PlanError("Carrier", f"there is no section “{carrier.section}”", "a section of the plan")
    return copy_unchecked(plan, carriers=(*plan.carriers, carrier))
