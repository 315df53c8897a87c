"""Edits of sections: made from a rectangle, their plain outlines, what is in them."""

from __future__ import annotations

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.items import Vector, copy_checked, fresh_ids, replace, unused
from gwiazda.core.plan.frame import NORMALS, PLANES, Side
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Box, Hatch, Outline, Plan, Section, copy_unchecked


def add_section(plan: Plan, section: Section) -> Plan:
    unused(plan, section.id)
    return copy_unchecked(plan, sections=(*plan.sections, section))


def box_section(
    plan: Plan, side: Side, low: tuple[float, float], high: tuple[float, float], depth_mm: float
) -> Section:
    """A section from a rectangle drawn in a view: walls of 1.2 mm around the inner box, centred in depth."""
    h, v, d = PLANES[side]
    wall = 1.2
    at, size = [0.0, 0.0, 0.0], [0.0, 0.0, 0.0]
    for axis, a, b in ((h, low[0], high[0]), (v, low[1], high[1])):
        first, last = min(a, b), max(a, b)
        if last - first <= 2 * wall + 0.5:
            raise PlanError(
                "Section", f"{last - first:.1f} mm leaves no room inside its walls", "at least 3 mm each way"
            )
        at[axis], size[axis] = first + wall, last - first - 2 * wall
    at[d], size[d] = -depth_mm / 2, depth_mm
    item_id = fresh_ids(plan, "section")[0]
    section = Section(
        id=item_id,
        name=f"Section {int(item_id.rsplit('.', 1)[1])}",
        box=Box(at=(at[0], at[1], at[2]), size=(size[0], size[1], size[2])),
    )
    return outline_from_box(section)


def outline_from_box(section: Section) -> Section:
    """Give a section the plain outlines of its own box plus the wall, in the views from port and from above."""
    wall = section.wall_mm
    low = [a - wall for a in section.box.at]
    high = [a + s + wall for a, s in zip(section.box.at, section.box.size, strict=True)]
    outlines = []
    sides: tuple[Side, ...] = ("port", "top")
    for side in sides:
        h, v, _ = PLANES[side]
        outlines.append(
            Outline(
                side=side,
                points=((low[h], low[v]), (high[h], low[v]), (high[h], high[v]), (low[h], high[v])),
            )
        )
    return copy_unchecked(section, outlines=tuple(outlines))


def set_hatch(plan: Plan, section_id: str, hatch: Hatch | None) -> Plan:
    """A section with another hatch for its cells, or none; it lies within its face.

    Raises
    ------
    PlanError
        Where it is larger than the face, with how large that is.
    """
    section = section_of(plan, section_id)
    if hatch is not None:
        h, v, _ = PLANES[hatch.face]
        at = list(hatch.at)
        for k, axis in enumerate((h, v)):
            room, wide = section.box.size[axis], hatch.size[k]
            if wide > room + 1e-6:
                raise PlanError(
                    "Hatch", f"{wide:g} mm is more than the {room:g} mm of that wall inside", f"up to {room:g} mm"
                )
            at[k] = min(max(at[k], wide / 2), room - wide / 2)
        hatch = copy_unchecked(hatch, at=(at[0], at[1]))
    closure = copy_checked(section.closure, hatch=hatch)
    return replace(plan, {section_id: copy_unchecked(section, closure=closure)})


def grow_section(plan: Plan, section_id: str, axis: int, by_mm: float) -> Plan:
    """A section made larger inside along an axis (0 = x, 1 = y, 2 = z): both ways, in height downwards, its outlines stretched with it."""
    section = section_of(plan, section_id)
    size, at = list(section.box.size), list(section.box.at)
    size[axis] += by_mm
    shift = by_mm if axis == 2 else by_mm / 2.0
    at[axis] -= shift

    def stretched(value: float, first: float, last: float) -> float:
        """Along what the outline itself spans: its lower end goes down by the shift, the other up by the rest."""
        share = (value - first) / (last - first) if last > first else 0.0
        return round(value - shift + share * by_mm, 4)

    outlines = []
    for o in section.outlines:
        planes = PLANES[o.side][:2]
        if axis not in planes:
            outlines.append(o)
            continue
        k = planes.index(axis)
        first, last = min(p[k] for p in o.points), max(p[k] for p in o.points)
        points = tuple(
            (stretched(p[0], first, last), p[1]) if k == 0 else (p[0], stretched(p[1], first, last)) for p in o.points
        )
        outlines.append(copy_unchecked(o, points=points))
    box = Box(at=(at[0], at[1], at[2]), size=(size[0], size[1], size[2]))
    grown = copy_unchecked(section, box=box, outlines=tuple(outlines))
    return copy_unchecked(plan, sections=tuple(grown if s.id == section_id else s for s in plan.sections))


def wall_place(section: Section, side: Side, h_mm: float, v_mm: float) -> Vector:
    """The place on a section's inner wall of that side, at the view's two coordinates."""
    h, v, d = PLANES[side]
    at = [0.0, 0.0, 0.0]
    at[h], at[v] = h_mm, v_mm
    far = side in ("port", "top", "bow")
    at[d] = section.box.at[d] + (section.box.size[d] if far else 0.0)
    return (at[0], at[1], at[2])


def skin_place(section: Section, side: Side, h_mm: float, v_mm: float) -> Vector:
    """The place on a section's outer skin of that side: its inner wall and the wall's thickness."""
    x, y, z = wall_place(section, side, h_mm, v_mm)
    a, b, c = (n * section.wall_mm for n in NORMALS[side])
    return (round(x + a, 6), round(y + b, 6), round(z + c, 6))
