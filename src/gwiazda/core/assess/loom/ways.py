"""Passages as the ways of a graph; where sources sit; the way of fibres from section to section."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gwiazda.core.loom.fill import clear_mm2
from gwiazda.core.loom.routes import Place, Run, Way, route
from gwiazda.core.memo import kept
from gwiazda.core.plan.lookup import housed
from gwiazda.core.plan.model import Dot, Lamp, Passage, Section


def ways_of(passages: Sequence[Passage]) -> tuple[Way, ...]:
    """Passages as edges between rooms; outside is the room ""."""
    return tuple(
        Way(p.id, p.section, p.into, p.at, p.length_mm, clear_mm2(p.shape == "round", p.width_mm, p.height_mm))
        for p in passages
    )


def valid_way(passages: Mapping[str, Passage], through: Sequence[str], start: str, goal: str) -> bool:
    """Whether passages, one after the other, lead from a room to another without coming by a room twice."""
    room, seen = start, {start}
    for i in through:
        p = passages.get(i)
        if p is None or room not in (p.section, p.into):
            return False
        room = p.into if room == p.section else p.section
        if room in seen:
            return False
        seen.add(room)
    return room == goal


def source_place(sections: Sequence[Section], home: str) -> Place | None:
    """Where a source is in its section: in the middle of a pack or board that stands there, else of the section."""
    section = next((s for s in sections if s.id == home), None)
    if section is None:
        return None
    bodies = [o for o in section.obstacles if o.kind in ("pack", "board")]
    return bodies[0].box.centre if bodies else section.box.centre


@kept(slots=4)
def fibre_routes(
    passages: tuple[Passage, ...], sections: tuple[Section, ...], lamps: tuple[Lamp, ...], dots: tuple[Dot, ...]
) -> dict[str, tuple[str, ...]]:
    """The passages of each fibre from its lamp's section to its dot's, shortest first; those within one section have none.

    Fibres go before wires: they bend less willingly, and take the straight way.
    """
    if not passages or not dots:
        return {}
    home = housed(sections, lamps)
    by_id = {p.id: p for p in lamps}
    runs = [
        Run(d.id, home[d.lamp], d.section, by_id[d.lamp].at, d.at, 0.0)
        for d in dots if d.lamp in by_id and d.section and home[d.lamp] and home[d.lamp] != d.section
    ]  # fmt: skip
    if not runs:
        return {}
    found = route(ways_of(passages), runs)
    return {i: through for i, through in found.through.items() if through}
