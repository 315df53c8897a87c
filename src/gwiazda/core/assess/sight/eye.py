"""What an eye at a window sees: how much of the inside, which lamps, and the wedge it looks into."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.light.sightline import Gate, blocked, seen_share, through_opening
from gwiazda.core.plan.frame import NORMALS, PLANES, Side
from gwiazda.core.plan.lookup import lamps_by_section, section_of
from gwiazda.core.plan.model import Opening, Plan

Array = npt.NDArray[np.float64]


class Sight(NamedTuple):
    """Share of the inside that is seen (0 to 1), ids of the lamps in plain sight, and the wedge between the rays past
    both edges of the opening: four corners along the view's two axes on the model (mm), or None where the view looks
    straight at the opening."""

    share: float
    lamps: tuple[str, ...]
    wedge: tuple[tuple[float, float], ...] | None = None


def lamps_seen(plan: Plan, opening: Opening, eye: Array) -> tuple[str, ...]:
    """The lamps of an opening's section that an eye (3,), mm, sees straight through it, nothing of the section standing between."""
    section = section_of(plan, opening.section)
    _, _, axis = PLANES[opening.side]
    wall, out = float(opening.at[axis]), float(NORMALS[opening.side][axis])
    if (eye[axis] - wall) * out <= 0:
        return ()  # behind the wall
    gate = Gate(axis, wall, *_edges(opening))
    homes = lamps_by_section(plan.sections, plan.lamps)
    inside = [p for p in plan.lamps if homes.get(p.id) == section.id]
    if not inside:
        return ()
    at = np.array([p.at for p in inside], dtype=float)
    seen = through_opening(eye, at, gate)
    for thing in section.obstacles if seen.any() else ():
        corner = np.array(thing.box.at, dtype=float)
        seen &= ~blocked(eye, at, corner, corner + np.array(thing.box.size))
    return tuple(p.id for p, shown in zip(inside, seen, strict=True) if shown)


def _edges(opening: Opening) -> tuple[Array, Array]:
    """The corners of an opening's rectangle, lowest and highest."""
    oh, ov, _ = PLANES[opening.side]
    half = np.zeros(3)
    half[oh], half[ov] = opening.width_mm / 2, opening.height_mm / 2
    return np.array(opening.at) - half, np.array(opening.at) + half


def sight_at(plan: Plan, opening: Opening, side: Side, u_mm: float, v_mm: float) -> Sight:
    """What an eye sees through an opening.

    Parameters
    ----------
    side : the view the eye is placed in; it lies at the opening's depth in that view
    u_mm, v_mm : float
        The eye along the view's two axes on the model.
    """
    h, v, d = PLANES[side]
    section = section_of(plan, opening.section)
    low = np.array(section.box.at)
    high = low + np.array(section.box.size)
    eye = np.array(opening.at, dtype=float)
    eye[h], eye[v] = u_mm, v_mm
    normal = np.array([float(n) for n in NORMALS[opening.side]])
    axis = int(np.argmax(np.abs(normal)))
    wall = float(opening.at[axis])
    o_low, o_high = _edges(opening)
    if (eye[axis] - wall) * normal[axis] <= 0:
        return Sight(0.0, ())  # behind the wall
    share = seen_share(eye, low, high, Gate(axis, wall, o_low, o_high))
    seen = lamps_seen(plan, opening, eye)
    if axis == d:
        return Sight(share, seen)
    along = v if axis == h else h
    far = float(low[axis] if wall > (low[axis] + high[axis]) / 2 else high[axis])
    reach = [
        min(max(eye[along] + (edge - eye[along]) * (far - eye[axis]) / (wall - eye[axis]), low[along]), high[along])
        for edge in (o_low[along], o_high[along])
    ]
    corners = []
    for place, depth in ((o_low[along], wall), (o_high[along], wall), (reach[1], far), (reach[0], far)):
        model = {along: float(place), axis: depth}
        corners.append((model[h], model[v]))
    return Sight(share, seen, tuple(corners))
