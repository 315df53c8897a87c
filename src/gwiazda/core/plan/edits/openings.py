"""Edits of openings: single ones and rows."""

from __future__ import annotations

from collections.abc import Iterable

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.items import fresh_ids, taken_ids
from gwiazda.core.plan.edits.sections import wall_place
from gwiazda.core.plan.frame import Side
from gwiazda.core.plan.model import Opening, Plan, Section, copy_unchecked


def add_openings(plan: Plan, openings: Iterable[Opening]) -> Plan:
    new = tuple(openings)
    sections = {s.id for s in plan.sections}
    taken = taken_ids(plan)
    for opening in new:
        if opening.id in taken:
            raise PlanError(f"Id {opening.id}", "is in use already", "an id that nothing else has")
        taken.add(opening.id)
        if opening.section not in sections:
            raise PlanError(f"Opening {opening.id}", f"there is no section “{opening.section}”", "an id of a section")
    return copy_unchecked(plan, openings=(*plan.openings, *new))


def window(
    plan: Plan, section: Section, side: Side, h_mm: float, v_mm: float, template: Opening | None = None
) -> Opening:
    """A new window on a section's wall, shaped like ``template`` or 3 × 3 mm."""
    item_id = fresh_ids(plan, f"{section.id}.window")[0]
    at = wall_place(section, side, h_mm, v_mm)
    if template is None:
        return Opening(id=item_id, section=section.id, at=at, side=side)
    return copy_unchecked(template, id=item_id, section=section.id, at=at, side=side)


def add_row(
    plan: Plan,
    section: Section,
    side: Side,
    start: tuple[float, float],
    end: tuple[float, float],
    count: int,
    template: Opening | None = None,
) -> tuple[Plan, list[str]]:
    """A row of ``count`` windows from ``start`` to ``end`` (view coordinates, mm), evenly spaced.

    Returns the new plan and the ids of the row, in order.
    """
    if not 1 <= count <= 1000:
        raise PlanError("Row of windows", f"{count} windows", "1 to 1000")
    ids = fresh_ids(plan, f"{section.id}.window", count)
    first = window(plan, section, side, *start, template)
    row = []
    for i, item_id in enumerate(ids):
        t = i / (count - 1) if count > 1 else 0.0
        h, v = (a + t * (b - a) for a, b in zip(start, end, strict=True))
        row.append(copy_unchecked(first, id=item_id, at=wall_place(section, side, h, v)))
    return add_openings(plan, row), ids
