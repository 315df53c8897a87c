"""The ways into a section, open and closed, and what gets where through them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.plan.frame import FACE_WORDS, PLANES, Face, face_number
from gwiazda.core.plan.model import Opening, Plan, Section
from gwiazda.core.plan.naming import name_of
from gwiazda.core.space.reach import Array

# Thickness (mm) of what has to get in, the widest first; house values.
TOOLS = (("fingers", 15.0), ("an iron", 6.0), ("tweezers", 3.0))
OPEN = "open"  # the glazing that is a bare hole


class WayIn(NamedTuple):
    """A rectangle (mm) in a wall of a section that one gets in by: its name, or the opening that it is."""

    name: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    opening: str = ""

    def called(self, plan: Plan) -> str:
        """Its name."""
        return name_of(plan, self.opening) if self.opening else self.name


def lid_of(section: Section) -> WayIn:
    """The whole wall that is open until a section is closed."""
    h, v, _ = PLANES[section.lid]
    size = (section.box.size[h], section.box.size[v])
    return in_wall(section, section.lid, (size[0] / 2.0, size[1] / 2.0), size, f"its open {FACE_WORDS[section.lid]}")


def ways_in(section: Section, openings: Sequence[Opening], closed: bool = True) -> tuple[WayIn, ...]:
    """The open wall of a section that isn't closed, or can be opened; its hatch; those of its openings that nothing is set into."""
    out = []
    if not closed or section.closure.opens or section.closure.removable:
        out.append(lid_of(section))
    hatch = section.closure.hatch
    if hatch is not None:
        out.append(in_wall(section, hatch.face, hatch.at, hatch.size, f"the hatch in its {FACE_WORDS[hatch.face]}"))
    for o in openings:
        if o.hole and (o.glazing or section.glazing) == OPEN and not o.into:
            h, v, _ = PLANES[o.side]
            at = (o.at[h] - section.box.at[h], o.at[v] - section.box.at[v])
            out.append(in_wall(section, o.side, at, (o.width_mm, o.height_mm), "")._replace(opening=o.id))
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
