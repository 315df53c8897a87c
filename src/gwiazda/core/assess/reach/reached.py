"""With what each lamp and joint of a section is got at, while it is open and once it is closed."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.assembly.contents import contents_of
from gwiazda.core.assess.reach.ways_in import TOOLS, blocks_in, ways_in
from gwiazda.core.assess.states import Assessment, JointState
from gwiazda.core.memo import memoize
from gwiazda.core.plan.model import Lamp, Opening, Plan, Point, Section
from gwiazda.core.plan.naming import names_of
from gwiazda.core.quantities import counted
from gwiazda.core.space.reach import reaches

SOFTENED_MM = 25.0  # an iron nearer to plastic already in place softens it


class Spot(NamedTuple):
    """A lamp, or a joint (``joint``), in a section: the widest tool that gets there while it is open and once it is closed ("" for none);
    ``near_mm``: plastic nearest to a joint."""

    id: str
    section: str
    at: Point
    joint: bool
    open: str
    closed: str
    near_mm: float = 0.0

    def by(self, closed: bool) -> str:
        """The widest tool that gets there."""
        return self.closed if closed else self.open

    def soldered(self, closed: bool) -> bool:
        """Whether an iron gets there."""
        return self.by(closed) in IRON


IRON = ("fingers", "an iron")  # what is wide enough for fingers is so for an iron


def widest_tool(section: Section, openings: tuple[Opening, ...], at: Point, closed: bool) -> str:
    """The widest tool that gets to a place (mm) in a section, open or closed; "" for none."""
    blocks, place = blocks_in(section), np.array(at, dtype=float)
    ways = [(np.array(w.low), np.array(w.high)) for w in ways_in(section, openings, closed)]
    return next(
        (name for name, wide in TOOLS if any(reaches(place, low, high, blocks, wide) for low, high in ways)), ""
    )


@memoize(slots=2, by=lambda section, openings, lamps, joints: section.id, places=2_000)
def _spots(
    section: Section, openings: tuple[Opening, ...], lamps: tuple[Lamp, ...], joints: tuple[JointState, ...]
) -> tuple[Spot, ...]:
    kept: dict[tuple[Point, bool], str] = {}

    def widest(at: Point, closed: bool) -> str:
        if (at, closed) not in kept:
            kept[at, closed] = widest_tool(section, openings, at, closed)
        return kept[at, closed]

    out = [Spot(p.id, section.id, p.at, False, widest(p.at, False), widest(p.at, True)) for p in lamps]
    out += [Spot(j.id, section.id, j.at, True, widest(j.at, False), widest(j.at, True), j.near_mm) for j in joints]
    return tuple(out)


@memoize(slots=2)
def spots_of(plan: Plan, assessment: Assessment) -> tuple[Spot, ...]:
    """Every lamp and joint inside a section, with what gets there.

    Returns
    -------
    tuple[Spot, ...]
        Section by section; lamps that sit in a wall are got at from outside and left out.
    """
    joints: dict[str, list[JointState]] = {}
    for j in assessment.loom.joints:
        joints.setdefault(j.section, []).append(j)
    out: list[Spot] = []
    for key, c in contents_of(plan).items():
        inside = tuple(p for p in c.lamps if p.mount != "outside")
        here = tuple(j for j in joints.get(key, ()) if c.section.box.contains(j.at, 0.5))
        out += _spots(c.section, c.openings, inside, here)
    return tuple(out)


def reach_words(plan: Plan, section_id: str) -> str:
    """What of a closed section is still got at by its ways in, in a sentence's part; empty where it has none, or no lamps."""
    c = contents_of(plan)[section_id]
    ways = ways_in(c.section, c.openings)
    if not ways:
        return ""
    found: dict[str, list[str]] = {name: [] for name in (*(name for name, _ in TOOLS), "")}
    for spot in _spots(c.section, c.openings, c.lamps, ()):
        found[spot.closed].append(spot.id)
    parts = [
        f"{name} to {names_of(plan, ids, 4)}" if name else f"nothing to {names_of(plan, ids, 4)}"
        for name, ids in found.items()
        if ids
    ]
    by = (
        ways[0].called(plan)
        if len(ways) == 1
        else f"{ways[0].called(plan)} and {counted(len(ways) - 1, 'open window')}"
    )
    return f"by {by}: {', '.join(parts)}" if parts else ""
