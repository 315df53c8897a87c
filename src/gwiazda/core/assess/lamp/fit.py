"""Does it fit: a lamp's body, leads, bend and glue against the gap it is meant for.

House allowances (mm): chips take 0.6 for wire and solder behind; leaded lamps 2.5 for the bend of their leads, or 1.2
with the leads folded flat along the wall; 0.3 of glue or tape for all.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from gwiazda.core.assess.lamp.modified_lamp import body_mm, worked
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lamps import LampPart
from gwiazda.core.plan.model import Box, Lamp, Section, copy_unchecked

GLUE_MM = 0.3
SAME_BODY_MM = 0.5
BOW_MM = 0.2  # a seam closes over this much too little and bows open


class Fit(NamedTuple):
    """``clearance_mm`` below zero: that much too thick. ``notch_mm`` would let it in; ``bows`` is about the seam.

    ``too_long_mm``: how far a strip or a filament sticks out of the section along the way it lies. ``across``: it is its width that is
    tightest, turned as well as it can be, and not what it takes along its axis.
    """

    needed_mm: float
    gap_mm: float
    clearance_mm: float
    notch_mm: float
    bows: bool
    touches: tuple[str, ...]
    too_long_mm: float = 0.0
    across: bool = False


FOLDED_MM = 1.2  # leads folded flat along the wall: their bend and their thickness


def leads_mm(part: LampPart, bend_deg: float = 0.0) -> float:
    """Room a lamp's leads take behind it along its axis; with its head bent they leave sideways, and at 90° lie flat behind it."""
    straight = part.shape.leads_mm
    turn = math.radians(bend_deg)
    return max(straight * math.cos(turn), min(straight, FOLDED_MM * math.sin(turn)))


def needed_mm(part: LampPart, height_mm: float, bend_deg: float = 0.0) -> float:
    """Room a lamp takes along its axis: body, leads and glue."""
    return height_mm + leads_mm(part, bend_deg) + GLUE_MM


def axis_of(aim: tuple[float, float, float]) -> int:
    """The model axis nearest to an aim."""
    x, y, z = abs(aim[0]), abs(aim[1]), abs(aim[2])
    return 0 if x >= y and x >= z else (1 if y >= z else 2)


def lies_along(lamp: Lamp) -> int:
    """The model axis a long body lies along: along the model, or across it where the lamp looks along."""
    return 1 if axis_of(lamp.aim) == 0 else 0


def longest_mm(catalogue: Catalogue, lamp: Lamp) -> float:
    """The longest side of a lamp's body, not yet filed: cheaply, for those that are small anyway."""
    length, width, height = catalogue.lamps[lamp.part].size_mm
    return max(length * lamp.units, width, height)


def half_sizes(catalogue: Catalogue, lamp: Lamp) -> tuple[float, float, float]:
    """Half the body's extent (mm) along x, y and z; round ones and chips count as turned any way round."""
    length, width, height = body_mm(catalogue, lamp)
    axis = axis_of(lamp.aim)
    half = [max(length, width) / 2] * 3
    if catalogue.lamps[lamp.part].shape.long:
        half = [width / 2] * 3
        half[lies_along(lamp)] = length / 2
    half[axis] = height / 2
    return half[0], half[1], half[2]


def _overlaps(a: Box, low: list[float], high: list[float]) -> bool:
    return all(p < h and p + s > b for p, s, b, h in zip(a.at, a.size, low, high, strict=True))


SEAT_MM = 0.3  # behind a body: what is as near as this holds it


class Gap(NamedTuple):
    """Clear room along a lamp's axis, mm; behind what holds it, where something does (None: its back is to a wall)."""

    clear: float
    behind: float | None


def gap_of(catalogue: Catalogue, section: Section, lamp: Lamp) -> Gap:
    """Clear room along the lamp's axis: the inner box, less what is kept of the obstacles beside it there. Where one of them holds it, its
    leads go through that and take room behind it."""
    axis = axis_of(lamp.aim)
    half = half_sizes(catalogue, lamp)
    low = [c - h for c, h in zip(lamp.at, half, strict=True)]
    high = [c + h for c, h in zip(lamp.at, half, strict=True)]
    low[axis], high[axis] = section.box.at[axis], section.box.at[axis] + section.box.size[axis]
    sign = 1.0 if lamp.aim[axis] > 0 else -1.0
    back = lamp.at[axis] - sign * half[axis]
    lower, upper = low[axis], high[axis]
    behind: float | None = None
    for obstacle in section.obstacles:
        if obstacle.action == "keep" and _overlaps(obstacle.box, low, high):
            start, end = obstacle.box.at[axis], obstacle.box.at[axis] + obstacle.box.size[axis]
            near, far = (end, start) if sign > 0 else (start, end)
            if abs(near - back) <= SEAT_MM and sign * (lamp.at[axis] - near) > 0:
                room = sign * (
                    far - (section.box.at[axis] if sign > 0 else section.box.at[axis] + section.box.size[axis])
                )
                behind = room if behind is None else min(behind, room)
            if end <= lamp.at[axis]:
                lower = max(lower, end)
            elif start >= lamp.at[axis]:
                upper = min(upper, start)
            else:
                return Gap(0.0, behind)
    return Gap(upper - lower, behind)


def fit_of(catalogue: Catalogue, section: Section, lamp: Lamp, others: tuple[Lamp, ...] = ()) -> Fit:
    """How a lamp fits its section; ``others`` are the section's other lamps."""
    parts = catalogue.lamps
    part = parts[lamp.part]
    needed = needed_mm(part, worked(catalogue, lamp).height_mm, lamp.bend_deg)
    gap, behind = gap_of(catalogue, section, lamp)
    if behind is not None:
        needed -= min(max(behind, 0.0), leads_mm(part, lamp.bend_deg))
    clearance = gap - needed
    touches = tuple(o.id for o in others if o.part in parts and touch(catalogue, lamp, o))
    too_long = 0.0
    if part.shape.long:
        along = lies_along(lamp)
        reach, low, size = body_mm(catalogue, lamp)[0] / 2, section.box.at[along], section.box.size[along]
        too_long = max(low - (lamp.at[along] - reach), lamp.at[along] + reach - low - size, 0.0)
    width, room = _across(catalogue, section, lamp)
    across = room - width < min(clearance, 0.0)
    if across:
        needed, gap, clearance = width, room, room - width
    return Fit(needed, gap, clearance, max(-clearance, 0.0), -clearance > BOW_MM, touches, too_long, across)


def _across(catalogue: Catalogue, section: Section, lamp: Lamp) -> tuple[float, float]:
    """What is tightest across a lamp's axis: a side of its body and the section's room for it (mm), with the body turned about its axis so
    that it goes in best."""
    length, width, _ = body_mm(catalogue, lamp)
    axis = axis_of(lamp.aim)
    if catalogue.lamps[lamp.part].shape.long:
        along = lies_along(lamp)
        sides, rooms = [width], [section.box.size[k] for k in range(3) if k not in (axis, along)]
    else:
        sides, rooms = sorted((length, width)), sorted(section.box.size[k] for k in range(3) if k != axis)
    return min(zip(sides, rooms, strict=True), key=lambda pair: pair[1] - pair[0])


ABOVE_DIE, KEPT_MM = 0.65, 0.4  # of a moulded body's width lies over its die; so much of it is left


def most_filed_mm(part: LampPart, sanded: bool) -> float:
    """How much may be filed off a lamp's top before its die or bond wire is reached (mm, house values): none of a chip, whose die lies right
    under its face; where the dome is off already, that much less."""
    if not part.shape.moulded:
        return 0.0
    wide = min(part.size_mm[:2])
    dome = wide / 2.0 if sanded and part.shape.domed else 0.0
    return max(ABOVE_DIE * wide - KEPT_MM - dome, 0.0)


def touch(catalogue: Catalogue, a: Lamp, b: Lamp) -> bool:
    """Whether two lamps are in each other's way. Colours of one body share its place."""
    body = catalogue.lamps[a.part].body
    if a.id == b.id or (body and body == catalogue.lamps[b.part].body and math.dist(a.at, b.at) < SAME_BODY_MM):
        return False
    return all(
        abs(p - q) < h + k
        for p, q, h, k in zip(a.at, b.at, half_sizes(catalogue, a), half_sizes(catalogue, b), strict=True)
    )


def _smaller(part: LampPart, than: LampPart) -> bool:
    return part.size_mm[2] < than.size_mm[2] or max(part.size_mm[:2]) < max(than.size_mm[:2])


def smaller_parts(catalogue: Catalogue, section: Section, lamp: Lamp) -> list[LampPart]:
    """Parts of the same colour that fit where this one doesn't, largest first."""
    mine = catalogue.lamps[lamp.part]
    found = []
    for part in catalogue.lamps.values():
        if part.colour == mine.colour and _smaller(part, mine):
            other = copy_unchecked(lamp, part=part.id, sanded=False, filed_mm=0.0)
            if fit_of(catalogue, section, other).clearance_mm >= 0:
                found.append(part)
    return sorted(found, key=lambda p: -p.size_mm[2])
