"""Carriers as they stand in their sections: their designs from plan and catalogue, and the sheets that shade."""

from __future__ import annotations

from gwiazda.core.assess.lamp.fit import half_sizes
from gwiazda.core.assess.lamp.modified_lamp import body_mm
from gwiazda.core.carrier.design import Design, Hole, Points, others, sheets_of
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import Side, face_number
from gwiazda.core.plan.lookup import lamps_on
from gwiazda.core.plan.model import Box, Carrier, Lamp, Obstacle, Plan, Section, copy_unchecked
from gwiazda.core.plan.outline.outlines import inset

PLAY_MM = 0.3  # between a carrier and the wall it goes past
WIRE_HOLE_MM = 1.2  # for the two leads of a chip
SEAT_MM = 0.1  # over a lamp's body, for the hole it is pushed into
ON_TOP = ("chip", "strip", "block", "filament")  # they lie on the sheet; the others are pushed through it
BEHIND_LAMP_MM = 0.02
FROM_SIDE: dict[int, Side] = {0: "bow", 1: "port", 2: "top"}  # the view that shows a sheet across each axis
UNKNOWN_SHEET_MM = 0.5


def thickness_mm(catalogue: Catalogue, carrier: Carrier) -> float:
    """Of its sheet; what the catalogue hasn't got counts as half a mm."""
    sheet = catalogue.sheets.get(carrier.sheet)
    return sheet.thick_mm if sheet is not None else UNKNOWN_SHEET_MM


def axis_of(carrier: Carrier) -> tuple[int, int]:
    """The axis its lamps look along, and which way."""
    face = face_number(carrier.facing)
    return face // 2, 1 if face % 2 else -1


@memoize(slots=2, by=lambda catalogue, carrier, lamps: carrier.id, places=1024)
def design_of(catalogue: Catalogue, carrier: Carrier, lamps: tuple[Lamp, ...]) -> Design:
    """A carrier with a hole for each of ``lamps`` that it holds; not yet cut to the section's profile."""
    axis, sign = axis_of(carrier)
    u, v = others(axis)
    holes = []
    for lamp in lamps_on(carrier, lamps):
        part = catalogue.lamps.get(lamp.part)
        if part is None:
            continue
        if part.form in ON_TOP:
            wide = high = WIRE_HOLE_MM
            rounded = True
        else:
            length, width, _ = body_mm(catalogue, lamp)
            wide, high = length + SEAT_MM, width + SEAT_MM
            rounded = part.form in ("round", "flat-top", "tube-tipped")
        holes.append(Hole(lamp.at[u], lamp.at[v], wide, high, rounded, lamp.id))
    return Design(
        carrier.form, carrier.low, carrier.size, axis, sign, thickness_mm(catalogue, carrier), carrier.divider,
        carrier.notch_mm, carrier.tabs, tuple(holes),
    )  # fmt: skip


def profile_of(section: Section, axis: int) -> Points:
    """The inside of a section's outline as a sheet across ``axis`` meets it, with room to slide; empty where none is drawn."""
    side = FROM_SIDE[axis]
    outline = next((o for o in section.outlines if o.side == side), None)
    if outline is None:
        return ()
    try:
        return inset(outline.points, section.wall_mm + PLAY_MM)
    except GwiazdaError:
        return ()


def cut_to_profile(design: Design, section: Section) -> Design:
    """A design whose main sheet keeps within its section's outline."""
    return design._replace(profile=profile_of(section, design.axis))


@memoize(slots=2, by=lambda catalogue, carrier, held: carrier.id, places=1024)
def _standing(catalogue: Catalogue, carrier: Carrier, held: tuple[Lamp, ...]) -> tuple[Obstacle, ...]:
    """Its sheets as bodies that stand in the section for good. Lamps sit in or on the main one, whatever its place: their light isn't
    cut off by what holds them."""
    design = design_of(catalogue, carrier, held)
    try:
        sheets = sheets_of(design)
    except ValueError:
        return ()
    out = []
    for k, sheet in enumerate(sheets):
        at = sheet.at
        if sheet.main:
            backs = [
                design.sign * p.at[design.axis] - half_sizes(catalogue, p)[design.axis]
                for p in held
                if p.part in catalogue.lamps
            ]
            at = design.sign * min([design.sign * at, *(b - sheet.thick / 2 - BEHIND_LAMP_MM for b in backs)])
        low, size = sheet._replace(at=at).box
        name = f"{carrier.name or carrier.form}, {sheet.name}"[:80]
        out.append(Obstacle(id=f"{carrier.id[:72]}.{k + 1}", kind="bulkhead", name=name, box=Box(at=low, size=size)))
    return tuple(out)


@memoize(slots=4)
def _furnished(
    catalogue: Catalogue, sections: tuple[Section, ...], carriers: tuple[Carrier, ...], lamps: tuple[Lamp, ...]
) -> tuple[Section, ...]:
    return tuple(
        _with(catalogue, s, tuple(c for c in carriers if c.section == s.id), lamps) if any(c.section == s.id for c in carriers) else s
        for s in sections
    )  # fmt: skip


def _with(catalogue: Catalogue, section: Section, carriers: tuple[Carrier, ...], lamps: tuple[Lamp, ...]) -> Section:
    """A section with its carriers' sheets; the very same while none of them moves, so that what is kept of it stays kept."""
    made = tuple(o for c in carriers for o in _standing(catalogue, c, lamps_on(c, lamps)))
    return _same(section, made)


@memoize(slots=2, by=lambda section, made: section.id, places=1024, same=lambda a, b: a is b or a == b)
def _same(section: Section, made: tuple[Obstacle, ...]) -> Section:
    return copy_unchecked(section, obstacles=(*section.obstacles, *made))


def furnished(catalogue: Catalogue, plan: Plan) -> Plan:
    """The plan with what its carriers put into the sections among the obstacles there: what light, fit and sight are reckoned in. The
    plan itself where there are none. Nothing that is kept or edited is made from it."""
    if not plan.carriers:
        return plan
    return _plan(plan, _furnished(catalogue, plan.sections, plan.carriers, plan.lamps))


@memoize(slots=4)
def _plan(plan: Plan, sections: tuple[Section, ...]) -> Plan:
    return copy_unchecked(plan, sections=sections)
