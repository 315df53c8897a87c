"""Bodies given their place, and turned: edits of the obstacles of a section."""

from __future__ import annotations

import numpy as np

from gwiazda.core.assess.bodies.mounts import mounted
from gwiazda.core.assess.bodies.rooms import put_of, rooms_of, taken_in, without
from gwiazda.core.assess.bodies.sizes import bodies_of, switches_of
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import (
    Box,
    Obstacle,
    Plan,
    copy_unchecked,
)
from gwiazda.core.space.boxes import free_places, ways_round


def put_there(catalogue: Catalogue, plan: Plan, of: str) -> Plan:
    """Give a body the place that is found for it, anew where it has one that is too small: an obstacle of its section, which
    light, lamps and wires keep clear of. The plan itself where there is none."""
    body = next((b for b in bodies_of(catalogue, plan) if b.of == of), None)
    if body is None:
        return plan
    plan = without(plan, section_of(plan, body.section), body)
    at_wall = mounted(catalogue, plan, of)
    if at_wall is not plan:
        return at_wall
    room = next(r for r in rooms_of(catalogue, plan) if r.body.of == of)
    if room.box is None:
        return plan
    section = section_of(plan, body.section)
    made = Obstacle(
        id=edits.fresh_ids(plan, f"{section.id}.{body.kind}")[0], kind=body.kind, name=body.name[:80], box=room.box,
        reached=body.kind == "pack", of=of,
    )  # fmt: skip
    return edits.set_fields(plan, [section.id], obstacles=(*section.obstacles, made))


def turned(catalogue: Catalogue, plan: Plan, of: str) -> Plan:
    """A body that has a place the next way round that stands free, as near as it goes; the plan itself where there is only one way."""
    body = next((b for b in bodies_of(catalogue, plan) if b.of == of), None)
    section = section_of(plan, body.section) if body is not None else None
    now = put_of(section, body) if section is not None and body is not None else None
    if section is None or body is None or now is None:
        return plan
    taken = taken_in(catalogue, without(plan, section, body), section.id)
    ways = [w for size in body.sizes for w in ways_round(size)]
    at = next((i for i, w in enumerate(ways) if np.allclose(w, now.box.size, atol=0.05)), -1)
    for k in range(1, len(ways)):
        way = ways[(at + k) % len(ways)]
        places = free_places(section.box.at, section.box.size, taken, way)
        if len(places):
            x, y, z = places[np.abs(places - np.array(now.box.at)).sum(axis=1).argmin()].tolist()
            new = copy_unchecked(now, box=Box(at=(x, y, z), size=way), of=of)
            return edits.set_fields(
                plan, [section.id], obstacles=tuple(new if o is now else o for o in section.obstacles)
            )
    return plan


def against_the_wall(plan: Plan, switch_id: str, axis: int, sign: int) -> Plan:
    """A switch that has its place moved along an axis until it touches the wall."""
    switch = next((x for x in switches_of(plan) if x.id == switch_id), None)
    if switch is None or not switch.home:
        return plan
    section = section_of(plan, switch.home)
    now = next((o for o in section.obstacles if o.of == switch_id), None)
    if now is None:
        return plan
    at = list(now.box.at)
    at[axis] = section.box.at[axis] + (section.box.size[axis] - now.box.size[axis] if sign > 0 else 0.0)
    moved = copy_unchecked(now, box=copy_unchecked(now.box, at=(at[0], at[1], at[2])))
    new = (moved if o is now else o for o in section.obstacles)
    return edits.set_fields(plan, [section.id], obstacles=tuple(new))
