"""Passages as the ways of a graph; where sources sit; the way of fibres from section to section."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.loom.fill import clear_mm2
from gwiazda.core.loom.routes import Place, Routed, Run, Way, route
from gwiazda.core.memo import memoize, same_figures, same_value
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


@memoize(slots=8, same=same_figures)
def routed(ways: tuple[Way, ...], runs: tuple[Run, ...], taken_mm2: tuple[tuple[str, float], ...] = ()) -> Routed:
    """Runs over ways, kept: most of what is done to a plan moves no wire."""
    return route(ways, runs, taken_mm2=dict(taken_mm2))


class Strand(NamedTuple):
    """What of a dot its way from section to section is about: not how it is bent, tinted or led within one."""

    id: str
    lamp: str
    fibre: str
    section: str
    at: Place


@memoize(slots=4)
def strands_of(dots: tuple[Dot, ...]) -> tuple[Strand, ...]:
    """The dots that may come from another section: those with a lamp, in a section."""
    return tuple(Strand(d.id, d.lamp, d.fibre, d.section, d.at) for d in dots if d.lamp and d.section)


@memoize(slots=4, same=same_value)
def fibre_routes(
    passages: tuple[Passage, ...], sections: tuple[Section, ...], lamps: tuple[Lamp, ...], strands: tuple[Strand, ...]
) -> dict[str, tuple[str, ...]]:
    """The passages of each fibre from its lamp's section to its dot's, shortest first; those within one section have none.

    Fibres go before wires: they bend less willingly, and take the straight way.
    """
    if not passages or not strands:
        return {}
    home = housed(sections, lamps)
    by_id = {p.id: p for p in lamps}
    runs = [
        Run(d.id, home[d.lamp], d.section, by_id[d.lamp].at, d.at, 0.0)
        for d in strands if d.lamp in by_id and home[d.lamp] and home[d.lamp] != d.section
    ]  # fmt: skip
    if not runs:
        return {}
    found = routed(ways_of(passages), tuple(runs))
    return {i: through for i, through in found.through.items() if through}
