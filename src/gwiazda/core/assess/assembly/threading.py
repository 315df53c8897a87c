"""Which sections the wires of each go through on their way to their source: those are closed once the wires are in them."""

from __future__ import annotations

from collections import deque

from gwiazda.core.assess.looms.lines import lines_of
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import built_into
from gwiazda.core.plan.model import Feed, Lamp, Passage, Plan, Section


@memoize(slots=2)
def _crossed(
    catalogue: Catalogue,
    sections: tuple[Section, ...],
    passages: tuple[Passage, ...],
    feeds: tuple[Feed, ...],
    lamps: tuple[Lamp, ...],
) -> dict[str, tuple[str, ...]]:
    homes = built_into(sections, lamps)
    out: dict[str, dict[str, None]] = {}
    for line in lines_of(catalogue, feeds, lamps)[0]:
        for lamp in line.lamps:
            home = homes.get(lamp)
            if home:
                out.setdefault(home, {}).update(dict.fromkeys(_on_the_way(passages, home, line.home)))
    return {home: tuple(found) for home, found in out.items()}


def _on_the_way(passages: tuple[Passage, ...], start: str, goal: str) -> list[str]:
    """The rooms from one to another by the fewest passages, as far as the first plug: there the wires part. Without the first; none where there is no way."""
    came: dict[str, tuple[str, Passage]] = {}
    queue, seen = deque([start]), {start}
    while queue and goal not in seen:
        room = queue.popleft()
        for p in passages:
            if room in (p.section, p.into):
                other = p.into if room == p.section else p.section
                if other not in seen:
                    seen.add(other)
                    came[other] = (room, p)
                    queue.append(other)
    if goal not in came:
        return []
    rooms = [goal]
    plugs = []
    while rooms[-1] != start:
        room, p = came[rooms[-1]]
        plugs.append(p.connector is not None)
        rooms.append(room)
    rooms.reverse()
    plugs.reverse()
    parted = plugs.index(True) + 1 if True in plugs else len(rooms)
    return [r for r in rooms[1:parted] if r]


def threaded_through(catalogue: Catalogue, plan: Plan) -> dict[str, tuple[str, ...]]:
    """For each section that nothing of comes off once it is closed: the sections whose wires must be in it by then."""
    if not plan.passages:
        return {}
    crossed = _crossed(catalogue, plan.sections, plan.passages, plan.feeds, plan.lamps)
    late = {o.section for o in plan.section_orders if o.late}
    sealed = [s.id for s in plan.sections if s.closure.by and s.closure.sealed and s.id not in late]
    found = {x: tuple(y for y, way in crossed.items() if x in way and y != x and y not in late) for x in sealed}
    return {x: ys for x, ys in found.items() if ys}
