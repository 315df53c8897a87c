"""Where to cut a hatch into a closed section: the smallest that lets the tool get there, least seen, clear of panes, dots, passages, neighbours."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.assembly.contents import contents_of
from gwiazda.core.assess.reach.ways_in import blocks_in, in_wall
from gwiazda.core.memo import memoize
from gwiazda.core.plan.frame import FACE_NAMES, NORMALS, PLANES, Face
from gwiazda.core.plan.lookup import standing
from gwiazda.core.plan.model import Hatch, Plan, Point, Section
from gwiazda.core.plan.naming import name_of
from gwiazda.core.space.reach import reaches

Array = npt.NDArray[np.float64]
SIZES_MM = (10.0, 14.0, 18.0, 24.0, 32.0)  # across: an iron's or tweezers' room, then fingers'
CLEAR_MM = 2.0  # from its edge to a pane, a hole or an edge of the wall: its lip sits there
BLADE_MM = 15.0  # room before a wall that a blade needs
STEP_MM = 4.0
UNSEEN: dict[Face, float] = {
    "bottom": 0.0,
    "stern": 2.0,
    "bow": 2.5,
    "top": 3.0,
    "starboard": 4.0,
    "port": 4.0,
}  # how much a wall is looked at, a house order


class Cut(NamedTuple):
    """A hatch that would do: how much it is seen, behind what it hides ("" for nothing)."""

    hatch: Hatch
    seen: float
    behind: str

    @property
    def edge_mm(self) -> float:
        """Its edge all round."""
        return 2.0 * sum(self.hatch.size)


@memoize(slots=8)
def hatch_for(plan: Plan, section_id: str, place: Point, wide_mm: float) -> Cut | None:
    """The least seen, then the smallest hatch through which something ``wide_mm`` thick gets to a place (mm) straight; None where there is none."""
    c = contents_of(plan)[section_id]
    section, blocks = c.section, blocks_in(c.section)
    found: list[tuple[float, float, Cut]] = []
    for face in FACE_NAMES:
        kept = _kept(plan, section, face)
        hidden = _hidden(plan, section, face)
        if kept is None:
            continue
        for size in SIZES_MM:
            for at in _places(section, face, size, place):
                if _meets(kept, at, size):
                    continue
                behind = next((name for name, low, high in hidden if _within(at, size, low, high)), "")
                seen = 0.5 if behind else UNSEEN[face]
                if found and (seen, size) >= found[0][:2]:
                    continue
                cut = in_wall(section, face, at, (size, size), "")
                if reaches(np.array(place), np.array(cut.low), np.array(cut.high), blocks, wide_mm):
                    found = [(seen, size, Cut(Hatch(face=face, at=at, size=(size, size)), seen, behind))]
    return found[0][2] if found else None


def _places(section: Section, face: Face, size: float, place: Point) -> list[tuple[float, float]]:
    """Middles of a hatch on a wall, nearest to what is to be got at first."""
    h, v, _ = PLANES[face]
    half = size / 2.0 + CLEAR_MM
    spans = []
    for axis in (h, v):
        wide = section.box.size[axis]
        if wide < 2.0 * half:
            return []
        count = max(2, min(40, math.ceil((wide - 2.0 * half) / STEP_MM) + 1))
        spans.append(np.linspace(half, wide - half, count))
    own = (place[h] - section.box.at[h], place[v] - section.box.at[v])
    every = [(float(a), float(b)) for a in spans[0] for b in spans[1]]
    return sorted(every, key=lambda p: math.dist(p, own))


def _kept(plan: Plan, section: Section, face: Face) -> Array | None:
    """What a hatch must not meet on a wall, as rectangles (N, 4: low, high) from the box's corner; None where another section lies against it."""
    h, v, across = PLANES[face]
    sign = sum(NORMALS[face])
    corner, size = section.box.at, section.box.size
    wall = corner[across] + (size[across] if sign > 0 else 0.0)
    out = []
    for s in plan.sections:
        near = s.box.at[across] if sign > 0 else s.box.at[across] + s.box.size[across]
        gap = (near - wall) * sign - section.wall_mm - s.wall_mm
        if s.id != section.id and -size[across] < gap < BLADE_MM:
            (a, b), (c, d) = ((s.box.at[k], s.box.at[k] + s.box.size[k]) for k in (h, v))
            out.append((a, c, b, d))
    out += [
        (o.at[h] - o.width_mm / 2, o.at[v] - o.height_mm / 2, o.at[h] + o.width_mm / 2, o.at[v] + o.height_mm / 2)
        for o in plan.openings
        if o.section == section.id and o.side == face
    ]
    points = [d.at for d in plan.dots if d.section == section.id and d.side == face]
    points += [
        p.at
        for p in plan.passages
        if section.id in (p.section, p.into) and abs(p.at[across] - wall) < 2.0 * section.wall_mm + 1.0
    ]
    points += [
        p.at for p in plan.lamps if p.mount == "outside" and abs(p.at[across] - wall) < 2.0 * section.wall_mm + 1.0
    ]
    out += [(p[h] - 2.0, p[v] - 2.0, p[h] + 2.0, p[v] + 2.0) for p in points]
    rects = np.array(out, dtype=float).reshape(-1, 4) - np.array([corner[h], corner[v]] * 2)
    whole = (rects[:, 0] <= 0) & (rects[:, 1] <= 0) & (rects[:, 2] >= size[h]) & (rects[:, 3] >= size[v])
    return None if whole.any() else rects


def _hidden(plan: Plan, section: Section, face: Face) -> list[tuple[str, tuple[float, float], tuple[float, float]]]:
    """What stands on a wall from outside and hides it: its name, its corners from the box's."""
    h, v, across = PLANES[face]
    sign = sum(NORMALS[face])
    outer = section.box.at[across] + (section.box.size[across] + section.wall_mm if sign > 0 else -section.wall_mm)
    out = []
    for f in standing(plan):
        near = f.low[across] if sign > 0 else f.low[across] + f.size[across]
        if abs(near - outer) <= 2.0:
            low = (f.low[h] - section.box.at[h], f.low[v] - section.box.at[v])
            out.append((name_of(plan, f.id), low, (low[0] + f.size[h], low[1] + f.size[v])))
    return out


def _meets(kept: Array, at: tuple[float, float], size: float) -> bool:
    half = size / 2.0 + CLEAR_MM
    apart = (
        (kept[:, 2] <= at[0] - half)
        | (kept[:, 0] >= at[0] + half)
        | (kept[:, 3] <= at[1] - half)
        | (kept[:, 1] >= at[1] + half)
    )
    return bool((~apart).any())


def _within(at: tuple[float, float], size: float, low: tuple[float, float], high: tuple[float, float]) -> bool:
    half = size / 2.0
    return all(low[k] <= at[k] - half and at[k] + half <= high[k] for k in (0, 1))
