"""Wires and fibres led clear of the panes: ways along middle, roof or floor tried, the one that crosses least taken."""

from __future__ import annotations

from collections.abc import Sequence

from gwiazda.core.assess.loom.crossing import crossings
from gwiazda.core.assess.loom.savings import woven
from gwiazda.core.assess.states import Assessment
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import housed
from gwiazda.core.plan.model import Plan, Point, Section

OFF_MM = 1.0  # from a wall


def _ways(section: Section, at: Point) -> tuple[tuple[Point, ...], ...]:
    """Ways to try from a place in a section or on its skin: straight, into the middle at its own height, along the roof, along the
    floor."""
    box = section.box
    x = min(max(at[0], box.at[0] + OFF_MM), box.at[0] + box.size[0] - OFF_MM)
    y = box.centre[1]
    low, high = box.at[2] + OFF_MM, box.at[2] + box.size[2] - OFF_MM
    z = min(max(at[2], low), high)
    edge = min(max(at[1], box.at[1] + OFF_MM), box.at[1] + box.size[1] - OFF_MM)
    return (
        (), ((x, y, z),), ((x, edge, high), (x, y, high)), ((x, edge, low), (x, y, low)), ((x, y, high),), ((x, y, low),),
    )  # fmt: skip


def tucked(catalogue: Catalogue, plan: Plan, found: Assessment, ids: Sequence[str]) -> Plan:
    """The plan with the leads of these lamps, and the fibres of these dots, led so that they cross as little as can be."""
    by_id = {s.id: s for s in plan.sections}
    home = housed(plan.sections, plan.lamps)
    lamps = {p.id: p for p in plan.lamps}
    dots = {d.id: d for d in plan.dots}
    for i in ids:
        if i in lamps and home.get(i, "") in by_id:
            at, section = lamps[i].at, by_id[home[i]]
        elif i in dots and dots[i].section in by_id:
            at, section = dots[i].at, by_id[dots[i].section]
        else:
            continue
        tried = []
        for k, way in enumerate(_ways(section, at)):
            rounded = tuple((round(a, 2), round(b, 2), round(c, 2)) for a, b, c in way)
            after = edits.set_lead(plan, [i], way=rounded) if i in lamps else edits.set_fields(plan, [i], way=rounded)
            loom = woven(after, found)
            over = sum(c.share for c in crossings(catalogue, after, loom) if c.run.startswith(f"{i}.") or c.run == i)
            tried.append((round(over, 4), k, after))
        plan = min(tried, key=lambda t: t[:2])[2]
    return plan
