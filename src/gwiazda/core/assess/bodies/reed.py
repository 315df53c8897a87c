"""Whether a magnet outside works a reed switch through its wall."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import (
    Box,
    Plan,
    Switch,
)

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
    part = catalogue.switch(switch.kind)
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
