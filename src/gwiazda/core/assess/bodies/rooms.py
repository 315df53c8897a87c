"""Whether bodies stand in their sections: where, or why not; and what would."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.bodies.sizes import Body, bodies_of, source_sizes
from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.lamp.fit import half_sizes
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import built_into, section_of
from gwiazda.core.plan.model import (
    Box,
    Feed,
    Obstacle,
    Plan,
    Section,
    Supply,
    copy_unchecked,
)
from gwiazda.core.quantities import figure
from gwiazda.core.space.boxes import Array, Placed, short_of, stand, ways_round

SLACK_MM = 1.0  # of a holder: they differ by more from one shop to the next
SAME_VOLTS = 0.15  # of the nominal voltage: resistors are chosen anew
GROWS = 1.5  # times as long, wide or high: a base made larger still is another base
LEAST_HELD = 0.25  # of what the cells hold now: less is no way out
EASILY = 0.4  # of the current at which half its capacity is lost: more is too much for evenings


class Room(NamedTuple):
    """Whether a body stands in its section: ``box`` where it does, else why it doesn't; ``put`` where it has its place in the plan."""

    body: Body
    box: Box | None
    why: str
    put: bool = False


def put_of(section: Section, body: Body) -> Obstacle | None:
    """The place a body has in its section, where it was given one: by name, else something of its kind that is nothing else's."""
    named = next((o for o in section.obstacles if o.of == body.of), None)
    return named or next((o for o in section.obstacles if o.kind == body.kind and not o.of), None)


@memoize(slots=8)
def taken_in(catalogue: Catalogue, plan: Plan, section_id: str) -> Array:
    """What stands in a section for good, (N, 2, 3) in mm: obstacles that are kept, carriers, the bodies of lamps."""
    section = section_of(furnished(catalogue, plan), section_id)
    boxes = [(o.box.at, tuple(a + s for a, s in zip(o.box.at, o.box.size, strict=True))) for o in section.obstacles if o.action == "keep"]  # fmt: skip
    homes = built_into(plan.sections, plan.lamps)
    for lamp in plan.lamps:
        if homes.get(lamp.id) == section_id and lamp.part in catalogue.lamps:
            half = half_sizes(catalogue, lamp)
            boxes.append(tuple(tuple(p + s * h for p, h in zip(lamp.at, half, strict=True)) for s in (-1, 1)))  # type: ignore[arg-type]
    return np.array(boxes, dtype=float).reshape(-1, 2, 3)


def rooms_of(catalogue: Catalogue, plan: Plan) -> tuple[Room, ...]:
    """Each body that is to stand in a section, and whether it does: all of a section at once, beside what stands there."""
    return _rooms(catalogue, plan)


@memoize(slots=8)
def _rooms(catalogue: Catalogue, plan: Plan) -> tuple[Room, ...]:
    out: list[Room] = []
    bodies = bodies_of(catalogue, plan)
    for section in plan.sections:
        mine = [b for b in bodies if b.section == section.id]
        if not mine:
            continue
        put = [(b, place) for b in mine if (place := put_of(section, b)) is not None]
        out += [_put(b, place) for b, place in put]
        placed = {b.of for b, _ in put}
        out += _found(section, taken_in(catalogue, plan, section.id), [b for b in mine if b.of not in placed])
    return tuple(out)


def _put(body: Body, place: Obstacle) -> Room:
    """Where it was put: as large a place as it needs, or one that was made for another."""
    needs = min(
        (sorted(s) for s in body.sizes),
        key=lambda s: max(a - b for a, b in zip(s, sorted(place.box.size), strict=True)),
    )
    if all(a <= b + SLACK_MM for a, b in zip(needs, sorted(place.box.size), strict=True)):
        return Room(body, place.box, "", put=True)
    words = (" × ".join(figure(x, 3) for x in sorted(size, reverse=True)) for size in (needs, place.box.size))
    return Room(body, None, "it needs {} mm, and its place there has {}".format(*words), put=True)


def _found(section: Section, taken: Array, bodies: Sequence[Body]) -> list[Room]:
    """Places for all of them at once; where there is none, for one after the other, and why not for the rest."""
    if not bodies:
        return []
    at, size = section.box.at, section.box.size
    together = stand(at, size, taken, [b.sizes for b in bodies])
    if together is not None:
        return [Room(b, _box(p), "") for b, p in zip(bodies, together, strict=True)]
    out = []
    for b in bodies:
        alone = stand(at, size, taken, [b.sizes])
        if alone is None:
            out.append(Room(b, None, _why(section, b)))
            continue
        corner, extent = np.array(alone[0].low), np.array(alone[0].size)
        taken = np.concatenate([taken, np.array([[corner, corner + extent]])])
        out.append(Room(b, _box(alone[0]), ""))
    return out


def _box(placed: Placed) -> Box:
    return Box(at=placed.low, size=placed.size)


AXIS_WORDS = ("long", "wide", "high")


def _why(section: Section, body: Body) -> str:
    over, axis, needs, there = short_of(section.box.size, body.sizes)
    if over > 0:
        return f"it needs {figure(needs, 3)} mm and {section.name} is {figure(there, 3)} mm {AXIS_WORDS[axis]} inside"
    return f"what stands in {section.name} already leaves no place for it"


def larger(plan: Plan, body: Body) -> tuple[tuple[int, float], ...]:
    """Along which axes (0 = x, 1 = y, 2 = z; one, or two) and by how much (mm) the section would have to be larger for a body that an empty one
    has no room for; nothing where it has, and for a section with windows or lamps, whose shape is the kit's."""
    section = section_of(plan, body.section)
    room = section.box.size
    if (
        any(o.section == section.id for o in plan.openings)
        or section.id in built_into(plan.sections, plan.lamps).values()
    ):
        return ()
    found = []
    for size in body.sizes:
        for way in ways_round(size):
            over = tuple((k, float(math.ceil(way[k] - room[k] - 1e-9))) for k in range(3) if way[k] > room[k])
            if not over:
                return ()
            if len(over) <= 2 and all(way[k] <= GROWS * room[k] for k, _ in over):
                found.append((len(over), sum(by for _, by in over), over))
    return min(found)[2] if found else ()


def goes_in(catalogue: Catalogue, plan: Plan, feed: Feed, supply: Supply) -> bool:
    """Whether a source would stand where its feed is at home, beside what stands there; its own present place counts as free."""
    sizes = source_sizes(catalogue, supply)
    if not sizes or not feed.home:
        return True
    return _goes_in(catalogue, plan, Body(feed.id, "", feed.home, sizes, "pack"))


@memoize(slots=256)
def _goes_in(catalogue: Catalogue, plan: Plan, body: Body) -> bool:
    section = section_of(plan, body.section)
    others = [
        r.box for r in rooms_of(catalogue, plan) if r.body.section == section.id and r.body.of != body.of and not r.put
    ]
    taken = taken_in(catalogue, without(plan, section, body), section.id)
    more = [(b.at, tuple(a + s for a, s in zip(b.at, b.size, strict=True))) for b in others if b is not None]
    taken = np.concatenate([taken, np.array(more, dtype=float).reshape(-1, 2, 3)])
    return stand(section.box.at, section.box.size, taken, [body.sizes]) is not None


def instead(catalogue: Catalogue, plan: Plan, feed: Feed, draw_a: float) -> tuple[Supply, ...]:
    """Cells of about the same voltage that bear what is drawn (A), hold a quarter of what is there at least and would stand where a feed is
    at home; those that hold most first."""
    now = catalogue.sources.get(feed.supply.part)
    if now is None:
        return ()
    volts, found = now.nominal_v * feed.supply.in_series, []
    for part in catalogue.sources.values():
        cells = round(volts / part.nominal_v)
        if (
            part.kind != "battery"
            or part.id == now.id
            or cells < 1
            or abs(cells * part.nominal_v - volts) > SAME_VOLTS * volts
        ):
            continue
        if draw_a > EASILY * part.i50_a or part.capacity_mah < LEAST_HELD * now.capacity_mah:
            continue
        supply = Supply(part=part.id, in_series=cells)
        if goes_in(catalogue, plan, feed, supply):
            found.append((part.capacity_mah, supply))
    return tuple(s for _, s in sorted(found, key=lambda x: -x[0]))


def without(plan: Plan, section: Section, body: Body) -> Plan:
    """The plan with a body taken from its place."""
    now = put_of(section, body)
    if now is None:
        return plan
    left = copy_unchecked(section, obstacles=tuple(o for o in section.obstacles if o is not now))
    return copy_unchecked(plan, sections=tuple(left if s.id == section.id else s for s in plan.sections))
