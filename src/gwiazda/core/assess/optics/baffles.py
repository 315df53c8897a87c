"""What stands in a section's light: kept obstacles and the bodies of lamps, as sheets."""

from __future__ import annotations

from collections.abc import Sequence

from gwiazda.core.assess.lamp.fit import axis_of, half_sizes, longest_mm
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Lamp, Obstacle, Section
from gwiazda.core.radiosity.beams import OFF_WALL_MM
from gwiazda.core.radiosity.formfactors import in_plane
from gwiazda.core.radiosity.shadow import Baffle

Rect = tuple[int, tuple[float, float], tuple[float, float]]  # a window: face, corners on it
Row = tuple[int, tuple[float, float], tuple[float, float], float]  # and its reflectance

BODY_REFLECTANCE = 0.5  # of a lamp's body, a strip's carrier or a board, seen from behind: house value
BOARD_MM = 15.0  # from this length on a body counts in the bounces too, as a baffle
NEAR_WALL_MM = 3.0  # a board nearer than this to a wall without windows is no more than paint on it
THIN_MM, MOST_SHEETS, MOST_BOARDS = 2.0, 12, 6


def baffles_of(section: Section, lining: float) -> tuple[Baffle, ...]:
    """What is kept of the obstacles, as sheets lined like the rest: thin ones as one, thick ones as their six sides."""
    out = []
    for obstacle in section.obstacles:
        if obstacle.action == "keep":
            out += _sheets(obstacle, section, lining)
    # The largest shade the most; each one more costs rays between all cells.
    out.sort(key=lambda b: -(b.high[0] - b.low[0]) * (b.high[1] - b.low[1]))
    return tuple(out[:MOST_SHEETS])


def _sheets(obstacle: Obstacle, section: Section, lining: float) -> list[Baffle]:
    corner, room = section.box.at, section.box.size
    low = [min(max(a - c, 0.0), r) for a, c, r in zip(obstacle.box.at, corner, room, strict=True)]
    high = [
        min(max(a + s - c, 0.0), r) for a, s, c, r in zip(obstacle.box.at, obstacle.box.size, corner, room, strict=True)
    ]
    size = [b - a for a, b in zip(low, high, strict=True)]
    if sum(s > 0.2 for s in size) < 2:
        return []
    thin = min(range(3), key=lambda i: size[i])
    places = [(thin, (low[thin] + high[thin]) / 2)]
    if size[thin] > THIN_MM:
        places = [(axis, at) for axis in range(3) for at in (low[axis], high[axis])]
    out = []
    for axis, at in places:
        u, v = in_plane(axis)
        # A sheet in a wall's own plane is that wall.
        if 1e-3 < at < room[axis] - 1e-3 and size[u] > 0.2 and size[v] > 0.2:
            out.append(Baffle(axis, at, (low[u], low[v]), (high[u], high[v]), lining))
    return out


def body_sheet(catalogue: Catalogue, lamp: Lamp, section: Section) -> Baffle | None:
    """The back of a lamp's body as a sheet across the way it looks, mm from the box's corner: what it shades."""
    axis = axis_of(lamp.aim)
    sign = 1.0 if lamp.aim[axis] > 0 else -1.0
    half = half_sizes(catalogue, lamp)
    size, corner = section.box.size, section.box.at
    off = min(OFF_WALL_MM * 2, size[axis] / 4)
    at = min(max(lamp.at[axis] - corner[axis] - sign * half[axis], off), size[axis] - off)
    u, v = in_plane(axis)
    low = tuple(max(lamp.at[a] - corner[a] - half[a], 0.0) for a in (u, v))
    high = tuple(min(lamp.at[a] - corner[a] + half[a], size[a]) for a in (u, v))
    if high[0] - low[0] < 1e-3 or high[1] - low[1] < 1e-3:
        return None
    return Baffle(axis, at, (low[0], low[1]), (high[0], high[1]), BODY_REFLECTANCE)


def over_window(sheet: Baffle, rows: Sequence[Row], size: Sequence[float], reach_mm: float) -> list[int]:
    """Windows that lie under a sheet, or as near to its rim as it is off their wall, within ``reach_mm`` of it."""
    out: list[int] = []
    gaps = {2 * sheet.axis + end: abs(sheet.at - size[sheet.axis] * end) for end in (0, 1)}
    near_faces = {face for face, gap in gaps.items() if gap <= reach_mm}
    if not near_faces:
        return out
    for i, (face, low, high, _) in enumerate(rows):
        if face in near_faces:
            gap = gaps[face]
            near = all(a - gap < d and c < b + gap for a, b, c, d in zip(sheet.low, sheet.high, low, high, strict=True))
            if near:
                out.append(i)
    return out


def boards_of(catalogue: Catalogue, section: Section, rows: Sequence[Row], lamps: Sequence[Lamp]) -> tuple[Baffle, ...]:
    """Strips, blocks and other long bodies that shade: as baffles between which the light goes to and fro.

    One that lies on a wall without windows under it is no more than paint.
    """
    out = []
    for lamp in lamps:
        if longest_mm(catalogue, lamp) < BOARD_MM or 2.0 * max(half_sizes(catalogue, lamp)) < BOARD_MM:
            continue
        sheet = body_sheet(catalogue, lamp, section)
        if sheet is None:
            continue
        room = section.box.size[sheet.axis]
        free = NEAR_WALL_MM < sheet.at < room - NEAR_WALL_MM
        if free or over_window(sheet, rows, section.box.size, NEAR_WALL_MM * 5):
            out.append(sheet)
    return tuple(out[:MOST_BOARDS])
