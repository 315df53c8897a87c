"""Edits of stands: passages that are led through a tube between parts that stand apart."""

from __future__ import annotations

import math
from typing import Any

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.items import copy_checked, replace
from gwiazda.core.plan.edits.loom import add_passage
from gwiazda.core.plan.lookup import item_of, section_of
from gwiazda.core.plan.model import Passage, Plan, Point, Section, Tube, copy_unchecked

THIN_WALL_MM = 0.2  # the thinnest wall of a tube
USUAL_WALL_MM = 1.0
LONGEST_MM = 1000.0


def axis_between(a: Section, b: Section) -> int:
    """The axis along which two sections stand farthest apart: a stand's."""
    gaps = [
        max(q - (p + s), p - (q + t)) for p, s, q, t in zip(a.box.at, a.box.size, b.box.at, b.box.size, strict=True)
    ]
    return max(range(3), key=gaps.__getitem__)


def _end(section: Section, other: Section, axis: int) -> float:
    """Where a tube ends in a section, along its axis: at the inner face that is turned to the other."""
    low, size = section.box.at[axis], section.box.size[axis]
    return low if other.box.centre[axis] < section.box.centre[axis] else low + size


def _inside(section: Section, point: Point, axis: int, margin: float) -> Point:
    """A place within a section's walls across an axis, as near as it goes."""
    out = list(point)
    for k in range(3):
        if k != axis:
            low, size = section.box.at[k], section.box.size[k]
            m = min(margin, size / 2.0)
            out[k] = min(max(point[k], low + m), low + size - m)
    return (out[0], out[1], out[2])


def ends_between(a: Section, b: Section, at: Point, to: Point, outer_mm: float) -> tuple[Point, Point]:
    """The two ends of a tube from one section to another, near the places named: on the inner faces turned to each other."""
    axis = axis_between(a, b)
    out = []
    for section, other, place in ((a, b, at), (b, a, to)):
        x = list(_inside(section, place, axis, outer_mm / 2.0))
        x[axis] = _end(section, other, axis)
        out.append((round(x[0], 3), round(x[1], 3), round(x[2], 3)))
    return out[0], out[1]


def _with_length(passage: Passage, tube: Tube) -> Passage:
    return copy_checked(passage, tube=tube, length_mm=round(min(math.dist(passage.at, tube.to), 10_000.0), 3))


def add_stand(plan: Plan, section: str, into: str, at: Point | None = None, to: Point | None = None, outer_mm: float = 8.0, **fields: Any) -> tuple[Plan, str]:  # fmt: skip
    """A stand between two sections: a tube with a bore that leads go through; returns the plan and its id.

    Raises
    ------
    PlanError
        Where a section isn't there, or they don't stand apart.
    """
    plan, new_id = add_passage(
        plan, section, into, at, name="Stand", width_mm=max(outer_mm - 2.0 * USUAL_WALL_MM, 0.5 * outer_mm)
    )
    a, b = section_of(plan, section), section_of(plan, into)
    place = at or item_of(plan.passages, new_id, "passage").at
    first, last = ends_between(a, b, place, to or place, outer_mm)
    if math.dist(first, last) < 0.1:
        raise PlanError(
            "Stand",
            f"{a.name} and {b.name} lie on each other: there is nothing for it to bridge",
            "two parts with a gap between them",
        )
    plan = replace(
        plan,
        {
            new_id: _with_length(
                copy_unchecked(item_of(plan.passages, new_id, "passage"), at=first), Tube(to=last, outer_mm=outer_mm)
            )
        },
    )
    return (set_tube(plan, new_id, **fields) if fields else plan), new_id


def set_tube(plan: Plan, passage_id: str, **fields: Any) -> Plan:
    """Set fields of a stand's tube, and ``bore_mm``; its length follows.

    Raises
    ------
    PlanError
        Where the passage is no stand, or its bore leaves no wall.
    """
    passage = item_of(plan.passages, passage_id, "passage")
    if passage.tube is None:
        raise PlanError("Stand", f"{passage.name or passage.id} has no tube", "a stand")
    bore = fields.pop("bore_mm", passage.width_mm)
    tube = copy_checked(passage.tube, **fields)
    if bore > tube.outer_mm - 2.0 * THIN_WALL_MM:
        raise PlanError(
            "Stand", f"a bore of {bore:g} mm leaves no wall in a tube of {tube.outer_mm:g} mm",
            f"a bore up to {tube.outer_mm - 2.0 * THIN_WALL_MM:g} mm",
        )  # fmt: skip
    return replace(plan, {passage_id: _with_length(copy_checked(passage, width_mm=bore), tube)})


def fit_stand(plan: Plan, passage_id: str) -> Plan:
    """Set both ends of a stand to the sections it joins, where they are now."""
    passage = item_of(plan.passages, passage_id, "passage")
    if passage.tube is None or not passage.into:
        return plan
    a, b = section_of(plan, passage.section), section_of(plan, passage.into)
    at, to = ends_between(a, b, passage.at, passage.tube.to, passage.tube.outer_mm)
    return replace(
        plan, {passage_id: _with_length(copy_unchecked(passage, at=at), copy_unchecked(passage.tube, to=to))}
    )


def make_stand(plan: Plan, passage_id: str) -> Plan:
    """Lead a passage through a tube, from the one section to the other."""
    passage = item_of(plan.passages, passage_id, "passage")
    if not passage.into:
        raise PlanError("Stand", "it leads out of the kit", "a passage between two parts")
    outer = max(round(passage.width_mm + 2.0 * USUAL_WALL_MM, 2), 1.0)
    plan = replace(plan, {passage_id: copy_unchecked(passage, shape="round", tube=Tube(to=passage.at, outer_mm=outer))})
    return fit_stand(plan, passage_id)
