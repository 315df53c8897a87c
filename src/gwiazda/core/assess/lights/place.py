"""Where a light goes that is placed in a view: on which side, on the outline or on the skin that faces one, and its image across."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple, cast

from gwiazda.core.assess.view_index import section_at
from gwiazda.core.parts.lights import LightKind
from gwiazda.core.plan.edits.sections import skin_place, wall_place
from gwiazda.core.plan.edits.twins import image_of
from gwiazda.core.plan.frame import NORMALS, OPPOSITE, PLANES, Side, from_sheet
from gwiazda.core.plan.lookup import find, find_near, light_of, parts_of, section_of
from gwiazda.core.plan.model import Dot, Lamp, Opening, Plan, Section
from gwiazda.core.plan.outline.oblique import skin_at

PROUD_MM = 1.0  # off the skin, where a lamp stands that is seen itself
PAIR_SHARE = 0.7  # of half a section's breadth, where the lamps of a pair sit that are placed from the side
MIDDLE_MM = 0.05
Point = tuple[float, float, float]


class Spot(NamedTuple):
    """A place on the outer skin: the side it faces, where (mm), and the section whose wall it is in, empty for none."""

    side: Side
    at: Point
    section: str

    @property
    def middle(self) -> bool:
        """Whether it lies on the middle line of the model."""
        return abs(self.at[1]) < MIDDLE_MM

    def off(self, mm: float) -> Point:
        """The place so far outside of the skin."""
        x, y, z = (round(a + n * mm, 3) for a, n in zip(self.at, NORMALS[self.side], strict=True))
        return x, y, z


def _edges(section: Section, side: Side) -> Iterator[tuple[tuple[float, float], tuple[float, float]]]:
    for outline in section.drawn(side):
        yield from zip(outline.points, (*outline.points[1:], outline.points[0]), strict=True)


def _box_at(plan: Plan, side: Side, u: float, v: float) -> str:
    """The section nearest to the viewer that isn't drawn in a view, and whose box with its walls lies at a place of it; "" for none."""
    h, w, d = PLANES[side]
    toward = sum(NORMALS[side])
    there = [
        s for s in plan.sections
        if not s.drawn(side)
        and all(s.box.at[a] - s.wall_mm <= x <= s.box.at[a] + s.box.size[a] + s.wall_mm for a, x in ((h, u), (w, v)))
    ]  # fmt: skip
    return max(there, key=lambda s: toward * (s.box.at[d] + (s.box.size[d] if toward > 0 else 0.0))).id if there else ""


def snapped(plan: Plan, side: Side, x: float, y: float, reach_mm: float) -> tuple[float, float, str]:
    """A place of a view's sheet in the view's coordinates, on the nearest outline where it lies beside all and one is in reach; and the section
    it is in or on, empty for none."""
    u, v = from_sheet(side, x, y)
    here = section_at(plan, side, x, y)
    if here is not None:
        return u, v, here
    box = _box_at(plan, side, u, v)
    if box:
        return u, v, box
    best: tuple[float, float, float, str] | None = None
    for section in plan.sections:
        for a, b in _edges(section, side):
            run = (b[0] - a[0], b[1] - a[1])
            square = run[0] ** 2 + run[1] ** 2
            t = min(max(((u - a[0]) * run[0] + (v - a[1]) * run[1]) / square, 0.0), 1.0) if square > 0 else 0.0
            p, q = a[0] + t * run[0], a[1] + t * run[1]
            away = math.hypot(u - p, v - q)
            if away <= reach_mm and (best is None or away < best[0]):
                best = away, p, q, section.id
    return (best[1], best[2], best[3]) if best is not None else (u, v, "")


def _face(kind: LightKind, side: Side) -> Side:
    """The side of the model a kind sits on when it is placed in a view: the one that is looked at where it may sit there, else the usual one
    that is seen edge-on."""
    faces = cast("tuple[Side, ...]", kind.faces) or (side,)
    if side in faces:
        return side
    edge_on = [f for f in faces if f != OPPOSITE[side]]
    return edge_on[0] if edge_on else faces[0]


def _in_view(side: Side, at: Point) -> tuple[float, float]:
    h, v, _ = PLANES[side]
    return at[h], at[v]


def spot_at(plan: Plan, kind: LightKind, side: Side, x: float, y: float, reach_mm: float = 3.0) -> Spot:
    """Where a light of a kind goes that is placed at a place of a view's sheet (mm)."""
    u, v, home = snapped(plan, side, x, y, reach_mm)
    h, w, d = PLANES[side]
    face = _face(kind, side)
    at = [0.0, 0.0, 0.0]
    at[h], at[w] = round(u, 1), round(v, 1)
    section = section_of(plan, home) if home else None
    toward = 1 if sum(NORMALS[side]) > 0 else -1
    if section is not None:
        low, size = section.box.at[d], section.box.size[d]
        if face == side:
            at[d] = skin_place(section, side, u, v)[d]
        elif d == 1 and kind.pair:
            at[d] = round(low + size / 2 + toward * PAIR_SHARE * size / 2, 1)
        else:
            at[d] = round(low + size / 2, 1)
        axis = PLANES[face][2]
        if axis in (h, w):
            place = (at[0], at[1], at[2])
            skin = skin_at(section, place, axis, w if axis == h else h, sum(NORMALS[face]))
            at[axis] = (
                round(skin[0], 1) if skin is not None else skin_place(section, face, *_in_view(face, place))[axis]
            )
    if kind.centre and d == 1 and (face != side or section is None):
        at[1] = 0.0
    return Spot(face, (at[0], at[1], at[2]), home)


def across(plan: Plan, spot: Spot) -> Spot | None:
    """The image of a place on the other side of the model; None in its middle, or where there is no section for it."""
    if spot.middle:
        return None
    x, y, z = spot.at
    side = OPPOSITE[spot.side] if PLANES[spot.side][2] == 1 else spot.side
    home = image_of(plan, {}, spot.section)
    return Spot(side, (x, -y, z), home) if home or not spot.section else None


def faced(aim: Point) -> Side:
    """The side of the model that a lamp looks out of."""
    k = max(range(3), key=lambda i: abs(aim[i]))
    return next(s for s, n in NORMALS.items() if n[k] == (1 if aim[k] > 0 else -1))


def spot_of(plan: Plan, light_id: str) -> Spot | None:
    """Where a light is: the place of the first of its parts; None for one without."""
    for part_id in parts_of(plan, light_id):
        part = find(plan, part_id)
        if isinstance(part, Lamp):
            side = faced(part.aim)
            x, y, z = (round(a - n * PROUD_MM, 3) for a, n in zip(part.at, NORMALS[side], strict=True))
            return Spot(side, (x, y, z), find_near(plan.sections, part.at))
        if isinstance(part, Dot):
            return Spot(part.side, part.at, part.section)
        if isinstance(part, Opening):
            h, v, _ = PLANES[part.side]
            home = section_of(plan, part.section)
            return Spot(part.side, skin_place(home, part.side, part.at[h], part.at[v]), part.section)
    light_of(plan, light_id)
    return None


def in_wall(plan: Plan, spot: Spot) -> Point:
    """The place on its section's inner wall."""
    h, v, _ = PLANES[spot.side]
    return wall_place(section_of(plan, spot.section), spot.side, spot.at[h], spot.at[v])
