"""Where sections meet: holes from one into another, and walls back to back that let a little through."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.optics.skin import skin_density
from gwiazda.core.light.leak import transmitted
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import PLANES, face_number
from gwiazda.core.plan.model import Opening, Section
from gwiazda.core.radiosity.formfactors import in_plane

APART_MM = 1.5  # besides both walls: parts further apart than this don't count as touching
LEAST_SHARE = 1e-5  # a wall that lets less through is tight
LEAST_AREA_MM2 = 4.0


class Port(NamedTuple):
    """One side of a joint, in the section it belongs to: face 0 to 5, corners on it (mm from the box's corner)."""

    section: str
    face: int
    low: tuple[float, float]
    high: tuple[float, float]
    back: float  # reflectance inwards; below zero: as the lining


class Joint(NamedTuple):
    """``through``: share of the light on one side that comes out of the other, both ways alike."""

    id: str
    kind: str  # "hole" or "wall"
    through: float
    sides: tuple[Port, Port]


def face_of(opening: Opening) -> int:
    return face_number(opening.side)


def _holes(sections: dict[str, Section], openings: tuple[Opening, ...]) -> list[Joint]:
    out = []
    for o in openings:
        home, other = sections[o.section], sections.get(o.into)
        if other is None or o.lit <= 0.0:
            continue
        face = face_of(o)
        h, v, _ = PLANES[o.side]
        half = {h: o.width_mm / 2, v: o.height_mm / 2}
        # A hole of another shape counts as a rectangle of its area.
        k = (o.area_mm2 * o.lit / (o.width_mm * o.height_mm)) ** 0.5
        axes = in_plane(face // 2)
        sides = []
        for section, its_face in ((home, face), (other, face ^ 1)):
            low = tuple(o.at[a] - k * half[a] - section.box.at[a] for a in axes)
            high = tuple(o.at[a] + k * half[a] - section.box.at[a] for a in axes)
            size = tuple(section.box.size[a] for a in axes)
            low = tuple(max(x, 0.0) for x in low)
            high = tuple(min(x, s) for x, s in zip(high, size, strict=True))
            if low[0] < high[0] and low[1] < high[1]:
                sides.append(Port(section.id, its_face, (low[0], low[1]), (high[0], high[1]), 0.0))
        if len(sides) == 2:
            out.append(Joint(o.id, "hole", 1.0, (sides[0], sides[1])))
    return out


def _walls(sections: tuple[Section, ...], densities: tuple[float, ...]) -> list[Joint]:
    low = np.array([s.box.at for s in sections])
    high = low + np.array([s.box.size for s in sections])
    wall = np.array([s.wall_mm for s in sections])
    density = np.array(densities)
    out = []
    for axis in range(3):
        u, v = in_plane(axis)
        gap = low[None, :, axis] - high[:, None, axis]  # from i's far end to j's near end
        over = [
            np.minimum(high[:, None, a], high[None, :, a]) - np.maximum(low[:, None, a], low[None, :, a])
            for a in (u, v)
        ]
        close = (gap >= -0.5) & (gap <= wall[:, None] + wall[None, :] + APART_MM)
        meets = close & (over[0] > 0) & (over[1] > 0) & (over[0] * over[1] > LEAST_AREA_MM2)
        through = transmitted(density[:, None] + density[None, :])
        for i, j in zip(*np.nonzero(meets & (through > LEAST_SHARE)), strict=True):
            a, b = max(low[i, u], low[j, u]), min(high[i, u], high[j, u])
            c, d = max(low[i, v], low[j, v]), min(high[i, v], high[j, v])
            sides = [
                Port(
                    sections[k].id, face,
                    (float(a - low[k, u]), float(c - low[k, v])), (float(b - low[k, u]), float(d - low[k, v])), -1.0,
                )
                for k, face in ((i, 2 * axis + 1), (j, 2 * axis))
            ]  # fmt: skip
            out.append(Joint(f"{sections[i].id}|{sections[j].id}", "wall", float(through[i, j]), (sides[0], sides[1])))
    return out


@memoize(slots=8)
def joints_of(
    catalogue: Catalogue, sections: tuple[Section, ...], openings: tuple[Opening, ...], kit_material: str
) -> tuple[Joint, ...]:
    """All joints of a plan; ``openings`` are those that lead into another section."""
    by_id = {s.id: s for s in sections}
    holes = _holes(by_id, openings)
    if len(sections) < 2:
        return tuple(holes)
    densities = tuple(skin_density(catalogue, s, kit_material) for s in sections)
    return (*holes, *_walls(sections, densities))


@memoize(slots=8)
def covered_faces(
    sections: tuple[Section, ...],
) -> dict[tuple[str, int], tuple[tuple[float, float, float, float], ...]]:
    """Parts of faces that another section stands against, and that nobody sees: (low u, low v, high u, high v), mm."""
    out: dict[tuple[str, int], list[tuple[float, float, float, float]]] = {}
    if len(sections) > 1:
        for joint in _walls(sections, (0.0,) * len(sections)):
            for port in joint.sides:
                out.setdefault((port.section, port.face), []).append((*port.low, *port.high))
    return {key: tuple(rects) for key, rects in out.items()}


def ports_by_section(joints: tuple[Joint, ...]) -> dict[str, tuple[Port, ...]]:
    """The ports of every section that has any, in the order of the joints."""
    out: dict[str, list[Port]] = {}
    for joint in joints:
        for port in joint.sides:
            out.setdefault(port.section, []).append(port)
    return {key: tuple(ports) for key, ports in out.items()}
