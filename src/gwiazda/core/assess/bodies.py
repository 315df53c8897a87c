"""What has a body and is to stand in a section: cells with their holder, boards, regulators, motors, sound modules; and whether it does."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.heat import homes_of
from gwiazda.core.assess.lamp.fit import half_sizes
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue, SourcePart
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import built_into, section_of
from gwiazda.core.plan.model import (
    Box,
    Feed,
    Load,
    Obstacle,
    Plan,
    Regulated,
    Section,
    Supply,
    Switch,
    copy_unchecked,
    parts_in,
)
from gwiazda.core.plan.model.section import ObstacleKind
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure
from gwiazda.core.space.boxes import Array, Placed, Size, free_places, short_of, stand, ways_round

SLACK_MM = 1.0  # of a holder: they differ by more from one shop to the next
SAME_VOLTS = 0.15  # of the nominal voltage: resistors are chosen anew
GROWS = 1.5  # times as long, wide or high: a base made larger still is another base
LEAST_HELD = 0.25  # of what the cells hold now: less is no way out
EASILY = 0.4  # of the current at which half its capacity is lost: more is too much for evenings
MOST_ALONG, MOST_HIGH = (
    3,
    2,
)  # cells end to end, and one upon another, in what is sold as holders or put together of them


class Body(NamedTuple):
    """One thing that needs room: of which source, board or part it is the body (``of``), where it is to stand, the sizes it
    may have (mm), and what it is among obstacles."""

    of: str
    name: str
    section: str
    sizes: tuple[Size, ...]
    kind: ObstacleKind


class Room(NamedTuple):
    """Whether a body stands in its section: ``box`` where it does, else why it doesn't; ``put`` where it has its place in the plan."""

    body: Body
    box: Box | None
    why: str
    put: bool = False


def holder_sizes(part: SourcePart, cells: int) -> tuple[Size, ...]:
    """The sizes (mm) so many cells have with their holder, in each way they may lie side by side, end to end, one upon another.

    Parameters
    ----------
    part : SourcePart
        A battery.
    cells : int
        How many.

    Returns
    -------
    tuple[tuple[float, float, float], ...]
        Length, width, height in mm; the flattest and shortest first. Empty where the part has no size.
    """
    (x, y, z), (longer, wider, each) = part.size_mm, part.holder_mm
    if not x:
        return ()
    found = []
    for high in range(1, min(MOST_HIGH, cells) + 1):
        for along in range(1, min(MOST_ALONG, cells) + 1):
            wide = -(-cells // (high * along))
            if (
                (wide - 1) * high * along < cells
                and (high - 1) * wide * along < cells
                and (along - 1) * wide * high < cells
            ):
                found.append((along * (x + longer), wide * (y + each) + wider, high * (z + each)))
    return tuple(sorted(set(found), key=lambda s: (s[2], s[0])))


def source_sizes(catalogue: Catalogue, supply: Supply) -> tuple[Size, ...]:
    """The sizes (mm) a source may have that stands with the model; an adapter stays outside and has none."""
    part = catalogue.sources.get(supply.part)
    if part is None or part.kind != "battery":
        return ()
    return holder_sizes(part, supply.in_series * supply.in_parallel)


def bodies_of(catalogue: Catalogue, plan: Plan) -> tuple[Body, ...]:
    """What the plan says stands in a section and has a size, one of each."""

    def found() -> Iterator[Body]:
        for feed in plan.feeds:
            part = catalogue.sources.get(feed.supply.part)
            count = feed.supply.in_series * feed.supply.in_parallel
            name = f"{f'{count} × ' if count > 1 else ''}{part.name}" if part is not None else feed.supply.part
            yield Body(feed.id, name, feed.home, source_sizes(catalogue, feed.supply), "pack")
        for node, home in homes_of(plan.feeds):
            if isinstance(node, Regulated):
                regulator = catalogue.regulators.get(node.part)
                yield Body(node.id, name_of(plan, node.id), home, _one(regulator), "regulator")
            elif isinstance(node, Load):
                load = catalogue.loads.get(node.part)
                kind: ObstacleKind = "speaker" if load is not None and load.kind == "sound" else "motor"
                yield Body(node.id, name_of(plan, node.id), home, _one(load), kind)
        for switch in switches_of(plan):
            if switch.home:
                part_of = catalogue.switches[switch.kind]
                yield Body(switch.id, name_of(plan, switch.id), switch.home, _one(part_of), "switch")
        for board in plan.boards:
            made = catalogue.boards.get(board.part)
            name = board.name or (made.name if made is not None else board.part)
            yield Body(board.id, name, board.home, _one(made), "board")

    return tuple(b for b in found() if b.section and b.sizes)


def switches_of(plan: Plan) -> Iterator[Switch]:
    """Every switch of the circuit."""
    for feed in plan.feeds:
        for item in (*feed.head, *feed.items):
            yield from (x for x in parts_in(item) if isinstance(x, Switch))


NEAR_MM = 10.0  # steel so near to a reed takes half of the magnet's reach


class ReedReach(NamedTuple):
    """How deep a reed lies behind the outside of its section, through which face (mm), whether steel is near it, and from how far
    each magnet closes it there."""

    depth_mm: float
    axis: int
    sign: int
    steel: bool
    reach_mm: tuple[tuple[str, float], ...]

    @property
    def works(self) -> tuple[str, ...]:
        """The magnets that close it through the wall."""
        return tuple(name for name, reach in self.reach_mm if reach >= self.depth_mm)


def reed_of(catalogue: Catalogue, plan: Plan, switch: Switch) -> ReedReach | None:
    """How a magnet reaches a reed that has its place: through the wall it lies nearest to, from its own axis; None for other switches."""
    section = next((s for s in plan.sections if s.id == switch.home), None)
    place = next((o for o in section.obstacles if o.of == switch.id), None) if section is not None else None
    part = catalogue.switches[switch.kind]
    if section is None or place is None or not part.reach_mm:
        return None
    box, room = place.box, section.box
    gaps = [
        (gap, axis, sign)
        for axis in range(3)
        for gap, sign in (
            (box.at[axis] - room.at[axis], -1),
            (room.at[axis] + room.size[axis] - box.at[axis] - box.size[axis], 1),
        )
    ]
    # To the middle of its glass: from a wall that it lies along it is nearer than from one it points at.
    depth, axis, sign = min((max(gap, 0.0) + section.wall_mm + box.size[a] / 2.0, a, way) for gap, a, way in gaps)
    steel = any(
        o.kind in ("pack", "motor", "engine") and o.id != place.id and _apart(o.box, box) <= NEAR_MM
        for o in section.obstacles
    )
    share = 0.5 if steel else 1.0
    return ReedReach(depth, axis, sign, steel, tuple((name, reach * share) for name, reach in part.reach_mm.items()))


def _apart(a: Box, b: Box) -> float:
    gaps = (max(q - p - s, p - q - t, 0.0) for p, s, q, t in zip(a.at, a.size, b.at, b.size, strict=True))
    return float(np.linalg.norm(list(gaps)))


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


def _one(part: object) -> tuple[Size, ...]:
    size: Size = getattr(part, "size_mm", (0.0, 0.0, 0.0))
    return (size,) if size[0] else ()


def put_of(section: Section, body: Body) -> Obstacle | None:
    """The place a body has in its section, where it was given one: by name, else something of its kind that is nothing else's."""
    named = next((o for o in section.obstacles if o.of == body.of), None)
    return named or next((o for o in section.obstacles if o.kind == body.kind and not o.of), None)


@memoize(slots=8)
def _taken(catalogue: Catalogue, plan: Plan, section_id: str) -> Array:
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
        out += _found(section, _taken(catalogue, plan, section.id), [b for b in mine if b.of not in placed])
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


def larger(plan: Plan, body: Body) -> tuple[int, float] | None:
    """Along which axis (0 = x, 1 = y, 2 = z) and by how much (mm) the section would have to be larger for a body that an empty one has no room for;
    None where it has, and for a section with windows or lamps, whose shape is the kit's."""
    section = section_of(plan, body.section)
    room = section.box.size
    if (
        any(o.section == section.id for o in plan.openings)
        or section.id in built_into(plan.sections, plan.lamps).values()
    ):
        return None
    found = []
    for size in body.sizes:
        for way in ways_round(size):
            over = [k for k in range(3) if way[k] > room[k]]
            if len(over) == 1 and way[over[0]] <= GROWS * room[over[0]]:
                found.append((math.ceil(way[over[0]] - room[over[0]] - 1e-9), over[0]))
            elif not over:
                return None
    if not found:
        return None
    more, axis = min(found)
    return axis, float(more)


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
    taken = _taken(catalogue, _without(plan, section, body), section.id)
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


def _without(plan: Plan, section: Section, body: Body) -> Plan:
    """The plan with a body taken from its place."""
    now = put_of(section, body)
    if now is None:
        return plan
    left = copy_unchecked(section, obstacles=tuple(o for o in section.obstacles if o is not now))
    return copy_unchecked(plan, sections=tuple(left if s.id == section.id else s for s in plan.sections))


def put_there(catalogue: Catalogue, plan: Plan, of: str) -> Plan:
    """Give a body the place that is found for it, anew where it has one that is too small: an obstacle of its section, which
    light, lamps and wires keep clear of. The plan itself where there is none."""
    body = next((b for b in bodies_of(catalogue, plan) if b.of == of), None)
    if body is None:
        return plan
    plan = _without(plan, section_of(plan, body.section), body)
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
    taken = _taken(catalogue, _without(plan, section, body), section.id)
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
