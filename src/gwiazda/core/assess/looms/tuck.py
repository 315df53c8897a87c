"""Wires and fibres led clear of the panes: ways along middle, roof or floor tried, the one that crosses least taken."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from gwiazda.core.assess.fibres.ways import led_through, way_of
from gwiazda.core.assess.looms.crossing import crossings
from gwiazda.core.assess.looms.savings import woven
from gwiazda.core.assess.states import Assessment, LoomState
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import housed, lamps_table
from gwiazda.core.plan.model import Plan, Point, Section
from gwiazda.core.space.run import distance_mm

OFF_MM = 1.0  # from a wall
CLEAR_MM = 8.0  # of what is hot


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


def _around(section: Section, hot: Point | None) -> tuple[tuple[Point, ...], ...]:
    """Ways past a place, a little beyond what is near it, as far as the section has room."""
    if hot is None:
        return ()
    out = []
    for axis in (1, 2):
        for step in (2.0 * CLEAR_MM, -2.0 * CLEAR_MM):
            at = list(hot)
            low, high = section.box.at[axis] + OFF_MM, section.box.at[axis] + section.box.size[axis] - OFF_MM
            at[axis] = min(max(at[axis] + step, low), high)
            out.append(((at[0], at[1], at[2]),))
    return tuple(out)


def tucked(
    catalogue: Catalogue, plan: Plan, assessment: Assessment, ids: Sequence[str], clear_of: Point | None = None
) -> Plan:
    """The plan with the leads of these lamps, and the fibres of these dots, led so that they cross as little as can be.

    ``clear_of`` is a place they had better not come near, as a hot part.
    """
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
        for k, way in enumerate((*_ways(section, at), *_around(section, clear_of))):
            rounded = tuple((round(a, 2), round(b, 2), round(c, 2)) for a, b, c in way)
            after = edits.set_lead(plan, [i], way=rounded) if i in lamps else edits.set_fields(plan, [i], way=rounded)
            loom = woven(after, assessment)
            over = sum(c.share for c in crossings(catalogue, after, loom) if c.run.startswith(f"{i}.") or c.run == i)
            if clear_of is not None:
                near = min((distance_mm(p, clear_of) for p in _ways_of(catalogue, after, loom, i)), default=math.inf)
                over += 10.0 if near < CLEAR_MM else 0.0
            tried.append((round(over, 4), k, after))
        plan = min(tried, key=lambda t: t[:2])[2]
    return plan


def _ways_of(catalogue: Catalogue, plan: Plan, loom: LoomState, item_id: str) -> list[np.ndarray]:
    """The ways of a lamp's leads, or of a dot's fibre."""
    runs = [np.array(r.points) for r in loom.runs.values() if r.kind == "lead" and r.id.startswith(f"{item_id}.")]
    for d in plan.dots:
        lamp = lamps_table(plan.lamps).get(d.lamp)
        if d.id == item_id and lamp is not None and d.fibre in catalogue.fibres:
            thick = catalogue.fibres[d.fibre].diameter_mm
            runs.append(way_of(d, lamp, thick, led_through(plan).get(d.id, ())).points)
    return runs
