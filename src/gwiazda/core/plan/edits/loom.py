"""Edits of passages, hubs, leads and what all wires have in common."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import Any

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.items import copy_checked, fresh_ids
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Hub, Lead, Passage, Plan, Point, Section, copy_unchecked

MIDDLE_MM = 2.0  # how far from a wall a hub is put where it is asked for nowhere in particular


def between(a: Section, b: Section) -> Point:
    """The place half-way between two sections: where their boxes lie opposite, else between their middles."""
    out = []
    for axis in range(3):
        (low_a, size_a), (low_b, size_b) = (a.box.at[axis], a.box.size[axis]), (b.box.at[axis], b.box.size[axis])
        low, high = max(low_a, low_b), min(low_a + size_a, low_b + size_b)
        # Opposite each other it is the middle of what they share, apart it is the middle of the gap.
        out.append(round((low + high) / 2.0, 2))
    return (out[0], out[1], out[2])


def gap_mm(a: Section, b: Section) -> float:
    """How far two sections' rooms are apart; 0 where they touch or overlap."""
    apart = (
        max(low_b - (low_a + size_a), low_a - (low_b + size_b), 0.0)
        for low_a, size_a, low_b, size_b in zip(a.box.at, a.box.size, b.box.at, b.box.size, strict=True)
    )
    return math.hypot(*apart)


def length_between(a: Section, b: Section | None) -> float:
    """How long a passage out of a section is, mm: through both walls, and over all of the gap where they lie farther apart (a pylon, a
    stand)."""
    if b is None:
        return a.wall_mm
    return round(max(a.wall_mm + b.wall_mm, gap_mm(a, b)), 2)


def add_passage(plan: Plan, section: str, into: str, at: Point | None = None, **fields: Any) -> tuple[Plan, str]:
    """A passage between two sections (``into`` "" leads out of the kit); returns the plan and its id.

    Raises
    ------
    PlanError
        Where a section isn't there, or is named twice.
    """
    known = {s.id for s in plan.sections}
    for i in (section, into):
        if i and i not in known:
            raise PlanError("Passage", f"there is no section “{i}”", "sections of the plan")
    if section == into:
        raise PlanError("Passage", "it leads from a section into itself", "two sections")
    a = section_of(plan, section)
    if at is None:
        x, y, _ = a.box.centre
        at = between(a, section_of(plan, into)) if into else (x, y, a.box.at[2])
    wall = length_between(a, section_of(plan, into) if into else None)
    new_id = fresh_ids(plan, f"{section}.passage")[0]
    name = f"{a.name} to {section_of(plan, into).name if into else 'the outside'}"
    passage = copy_checked(
        Passage(id=new_id, section=section, into=into, at=at, name=name[:100], length_mm=wall), **fields
    )
    return copy_unchecked(plan, passages=(*plan.passages, passage)), new_id


def add_hub(
    plan: Plan, section: str, joins: str = "both", at: Point | None = None, board: bool = False
) -> tuple[Plan, str]:
    """A hub in a section, in its middle a little over the floor unless a place is given; returns the plan and its id."""
    box = section_of(plan, section).box
    place = at if at is not None else (box.centre[0], box.centre[1], box.at[2] + min(MIDDLE_MM, box.size[2] / 2))
    new_id = fresh_ids(plan, f"{section}.hub")[0]
    name = f"Hub in {section_of(plan, section).name}"
    hub = copy_checked(Hub(id=new_id, section=section, at=place, name=name[:100]), joins=joins, board=board)
    return copy_unchecked(plan, hubs=(*plan.hubs, hub)), new_id


def set_lead(plan: Plan, lamp_ids: Iterable[str], ends: Sequence[str] = ("plus", "minus"), **fields: Any) -> Plan:
    """Decide something of leads of lamps: wire, colour, tag, passages, places. What is left as the loom has it is forgotten."""
    leads = list(plan.leads)
    where = {(x.lamp, x.end): k for k, x in enumerate(leads)}
    lamp_ids = list(lamp_ids)
    new = [(i, e) for i in lamp_ids for e in ends if (i, e) not in where]
    ids = iter(fresh_ids(plan, "lead", len(new))) if new else iter(())
    for i in lamp_ids:
        for e in ends:
            k = where.get((i, e))  # type: ignore[arg-type]
            old = leads[k] if k is not None else Lead(id=next(ids), lamp=i, end=e)  # type: ignore[arg-type]
            changed = copy_checked(old, **fields)
            if k is not None:
                leads[k] = changed
            else:
                leads.append(changed)
    plain = {(x.wire, x.colour, x.tag, x.through, x.way): x for x in (Lead(id="plain", lamp="plain"),)}
    kept = tuple(x for x in leads if (x.wire, x.colour, x.tag, x.through, x.way) not in plain)
    return copy_unchecked(plan, leads=kept)


def set_loom(plan: Plan, **fields: Any) -> Plan:
    """Set what all wires have in common."""
    return copy_unchecked(plan, loom=copy_checked(plan.loom, **fields))
