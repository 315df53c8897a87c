"""What can still be got at in a section once it is closed: by which of its ways in, with what."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.assembly.contents import contents_of
from gwiazda.core.memo import memoize
from gwiazda.core.plan.frame import FACE_WORDS, PLANES, Face, face_number
from gwiazda.core.plan.model import Plan, Section
from gwiazda.core.plan.naming import names_of
from gwiazda.core.quantities import counted
from gwiazda.core.space.reach import Array, reaches

# Thickness (mm) of what has to get in, the widest first; house values.
TOOLS = (("fingers", 15.0), ("an iron", 6.0), ("tweezers", 3.0))
OPEN = "open"  # the glazing that is a bare hole


class WayIn(NamedTuple):
    """An opening that stays when a section is closed: its name, and its rectangle's corners (mm)."""

    name: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]


def ways_in(plan: Plan, section: Section) -> tuple[WayIn, ...]:
    """The hatch of a section, and its openings that nothing is set into."""
    out = []
    hatch = section.closure.hatch
    if hatch is not None:
        out.append(in_wall(section, hatch.face, hatch.at, hatch.size, f"the hatch in its {FACE_WORDS[hatch.face]}"))
    for o in contents_of(plan)[section.id].openings:
        if o.hole and (o.glazing or section.glazing) == OPEN and not o.into:
            h, v, _ = PLANES[o.side]
            at = (o.at[h] - section.box.at[h], o.at[v] - section.box.at[v])
            out.append(in_wall(section, o.side, at, (o.width_mm, o.height_mm), names_of(plan, [o.id])))
    return tuple(out)


def in_wall(section: Section, face: Face, at: tuple[float, ...], size: tuple[float, ...], name: str) -> WayIn:
    """A rectangle in a wall of a section, by its middle from the box's lowest corner, mm."""
    h, v, across = PLANES[face]
    low, high = list(section.box.at), list(section.box.at)
    far = face_number(face) % 2
    low[across] = high[across] = section.box.at[across] + (section.box.size[across] if far else 0.0)
    for axis, centre, wide in ((h, at[0], size[0]), (v, at[1], size[1])):
        middle = section.box.at[axis] + centre
        low[axis], high[axis] = middle - wide / 2.0, middle + wide / 2.0
    return WayIn(name, (low[0], low[1], low[2]), (high[0], high[1], high[2]))


def blocks_in(section: Section) -> Array:
    """What stands in a section in the way of a tool: lowest and highest corners (N, 2, 3), mm."""
    kept = [o.box for o in section.obstacles if o.action == "keep"]
    return np.array([(b.at, [p + d for p, d in zip(b.at, b.size, strict=True)]) for b in kept], dtype=float).reshape(
        -1, 2, 3
    )


@memoize(slots=4)
def reach_of(plan: Plan, section_id: str) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """With what each lamp of a closed section can still be got at, straight through one of its ways in; lamps that nothing reaches last.

    Returns
    -------
    tuple
        For each tool, and "" for none, the lamps for which it is the widest that gets there.
    """
    c = contents_of(plan)[section_id]
    ways = ways_in(plan, c.section)
    blocks = blocks_in(c.section)
    found: dict[str, list[str]] = {name: [] for name in (*(name for name, _ in TOOLS), "")}
    for lamp in c.lamps:
        at = np.array(lamp.at, dtype=float)
        best = next(
            (name for name, wide in TOOLS for w in ways if reaches(at, np.array(w.low), np.array(w.high), blocks, wide)), ""
        )  # fmt: skip
        found[best].append(lamp.id)
    return tuple((name, tuple(ids)) for name, ids in found.items() if ids)


def reach_words(plan: Plan, section_id: str) -> str:
    """What of it is still got at by its ways in, in a sentence's part; empty where it has none, or no lamps."""
    section = contents_of(plan)[section_id].section
    ways = ways_in(plan, section)
    if not ways:
        return ""
    parts = [
        f"{name} to {names_of(plan, ids, 4)}" if name else f"nothing to {names_of(plan, ids, 4)}"
        for name, ids in reach_of(plan, section_id)
    ]
    by = ways[0].name if len(ways) == 1 else f"{ways[0].name} and {counted(len(ways) - 1, 'open window')}"
    return f"by {by}: {', '.join(parts)}" if parts else ""
