"""Does it fit: a lamp's body, leads, bend and glue against the gap it is meant for.

House allowances (mm): chips take 0.6 for wire and solder behind; leaded lamps 2.5 for the bend of their leads, or 1.2
with the leads folded flat along the wall; 0.3 of glue or tape for all.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.lampwork import worked
from gwiazda.core.parts.catalogue import LampPart, lamp_parts
from gwiazda.core.plan.models import Box, Lamp, Section

GLUE_MM = 0.3
LEADS_MM = {
    "chip": 0.6,
    "strip": 0.4,
    "round": 2.5,
    "flat-top": 2.5,
    "tube-tipped": 2.5,
    "rectangular": 2.5,
    "square": 2.5,
    "wedge": 3.0,
}
BOW_MM = 0.2  # a seam closes over this much too little and bows open


class Fit(NamedTuple):
    """``clearance_mm`` below zero: that much too thick. ``notch_mm`` would let it in; ``bows`` is about the seam."""

    needed_mm: float
    gap_mm: float
    clearance_mm: float
    notch_mm: float
    bows: bool
    touches: tuple[str, ...]


def needed_mm(part: LampPart, height_mm: float) -> float:
    """Room a lamp takes along its axis: body, leads and glue."""
    return height_mm + LEADS_MM.get(part.form, 2.5) + GLUE_MM


def axis_of(aim: tuple[float, float, float]) -> int:
    """The model axis nearest to an aim."""
    return int(np.argmax(np.abs(aim)))


def _overlaps(a: Box, low: list[float], high: list[float]) -> bool:
    return all(p < h and p + s > b for p, s, b, h in zip(a.at, a.size, low, high, strict=True))


def gap_mm(section: Section, lamp: Lamp, part: LampPart) -> float:
    """Clear room along the lamp's axis: the inner box, less what is kept of the obstacles beside it there."""
    axis = axis_of(lamp.aim)
    half = max(part.size_mm[0], part.size_mm[1]) / 2
    low = [c - half for c in lamp.at]
    high = [c + half for c in lamp.at]
    low[axis], high[axis] = section.box.at[axis], section.box.at[axis] + section.box.size[axis]
    lower, upper = low[axis], high[axis]
    for obstacle in section.obstacles:
        if obstacle.action == "keep" and _overlaps(obstacle.box, low, high):
            start, end = obstacle.box.at[axis], obstacle.box.at[axis] + obstacle.box.size[axis]
            if end <= lamp.at[axis]:
                lower = max(lower, end)
            elif start >= lamp.at[axis]:
                upper = min(upper, start)
            else:
                return 0.0
    return upper - lower


def fit_of(section: Section, lamp: Lamp, others: tuple[Lamp, ...] = ()) -> Fit:
    """How a lamp fits its section; ``others`` are the section's other lamps."""
    parts = lamp_parts()
    part = parts[lamp.part]
    needed = needed_mm(part, worked(lamp).height_mm)
    gap = gap_mm(section, lamp, part)
    clearance = gap - needed
    radius = math.hypot(part.size_mm[0], part.size_mm[1]) / 2
    touches = []
    for other in others:
        if other.id != lamp.id and other.part in parts:
            size = parts[other.part].size_mm
            if math.dist(lamp.at, other.at) < radius + math.hypot(size[0], size[1]) / 2:
                touches.append(other.id)
    return Fit(needed, gap, clearance, max(-clearance, 0.0), -clearance > BOW_MM, tuple(touches))


def smaller_parts(section: Section, lamp: Lamp) -> list[LampPart]:
    """Parts of the same colour that fit where this one doesn't, largest first."""
    mine = lamp_parts()[lamp.part]
    found = []
    for part in lamp_parts().values():
        if part.colour == mine.colour and part.size_mm[2] < mine.size_mm[2]:
            other = lamp.model_copy(update={"part": part.id, "sanded": False, "filed_mm": 0.0})
            if fit_of(section, other).clearance_mm >= 0:
                found.append(part)
    return sorted(found, key=lambda p: -p.size_mm[2])
