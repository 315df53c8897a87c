"""Lights put together: the parts that each means takes, for a kind of light, at a place."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import NamedTuple

from gwiazda.core.assess.fibres import sharing
from gwiazda.core.assess.lamp.lamp_models import known_lamps
from gwiazda.core.assess.lamp.realism import looks_of
from gwiazda.core.assess.lights.kinds import kind_of
from gwiazda.core.assess.lights.place import PROUD_MM, Spot, across, in_wall
from gwiazda.core.errors import PlanError
from gwiazda.core.fibre.grouping import room_left
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lamps import LampPart
from gwiazda.core.parts.lights import LightKind, LightMeans
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import NORMALS, PLANES
from gwiazda.core.plan.lookup import dots_by_lamp, lamp_of, light_of, section_of
from gwiazda.core.plan.model import (
    Dot,
    Lamp,
    Lens,
    Light,
    Opening,
    Plan,
    Tint,
    TintCoat,
    Wanted,
    copy_unchecked,
)
from gwiazda.core.plan.model.lamp import Look
from gwiazda.core.plan.naming import channel_name
from gwiazda.core.plan.real_windows import MOST_OF_WALL

LEAST_MM = 0.8  # of a lens or a hole that is made by hand
THICKEST_MM = 1.5  # of a fibre: a thicker one doesn't bend within a section
MOST_MM = 8.0  # of a point: beyond it is a window
ALL_ROUND_DEG = 200.0  # from such an arc on a bare chip gets a frosted cap
ROW_SHARE, PITCH = 0.85, 1.9  # of a wall's length that a row takes, and of a window from one to the next
MOST_IN_ROW = 60
WHITES = ("warm white", "cool white", "neutral white")
DOT_COLOURS = {"cool white": "white", "neutral white": "white", "yellow-green": "green"}
TINTS = {"amber": "orange", "yellow-green": "green"}
INSTEAD = {"orange": "amber", "yellow-green": "green"}  # the nearest colour that more forms come in
CHIPS_MM = 1.7  # the largest chip that goes behind a lens


class Kept(NamedTuple):
    """What another means keeps of a light: the channel it is on, the lamp of its own, the intensity asked of it as a figure (mcd)."""

    channel: str = ""
    lamp_id: str = ""
    asked_mcd: float | None = None


class Order(NamedTuple):
    """What is to be made: the light (in the plan already), its kind, colour and size (mm, true to scale), where, and what is kept."""

    light: Light
    kind: LightKind
    colour: str
    true_mm: float
    spot: Spot
    kept: Kept

    @property
    def look(self) -> Look:
        return self.light.look


def true_mm(kind: LightKind, scale: float) -> float:
    """The real one's size on the model (mm)."""
    return kind.real_m * 1000.0 / scale


def colour_at(kind: LightKind, y_mm: float) -> str:
    """The colour of a light of that kind: of a pair in two colours by its side."""
    return kind.colours[-1] if len(kind.colours) > 1 and kind.pair and y_mm < 0 else kind.colours[0]


def _lamp_part(catalogue: Catalogue, wanted: Callable[[LampPart], bool], colour: str, size_mm: float) -> LampPart:
    """The lamp of a colour whose face is nearest to a size; the generic ones first where two are as near."""
    fit = [
        p for p in catalogue.lamps.values()
        if p.colour == colour and not p.body and not p.rectified and p.flash_hz == 0 and wanted(p)
    ]  # fmt: skip
    if not fit and colour in INSTEAD:
        return _lamp_part(catalogue, wanted, INSTEAD[colour], size_mm)
    if not fit:
        raise PlanError("Light", f"no such lamp is {colour}", "another way to carry it")
    return min(fit, key=lambda p: (round(abs(math.log(p.face_mm / max(size_mm, 0.1))), 3), p.lens != "clear", p.id))


def _own_lamp(plan: Plan, order: Order, part: LampPart, **fields: object) -> Plan:
    x, y, z = NORMALS[order.spot.side]
    lamp_id = order.kept.lamp_id or edits.fresh_ids(plan, f"{order.spot.section or 'outside'}.light")[0]
    made = Lamp(
        id=lamp_id, part=part.id, at=order.spot.off(PROUD_MM), aim=(float(x), float(y), float(z)), mount="outside",
        wanted=Wanted(look=order.look) if order.kept.asked_mcd is None else Wanted(mcd=order.kept.asked_mcd), channel=order.kept.channel, light=order.light.id, behind="putty" if order.kind.putty else "",
    )  # fmt: skip
    made = copy_unchecked(made, **fields)
    if order.kept.lamp_id:
        old = lamp_of(plan, order.kept.lamp_id)
        made = copy_unchecked(made, name=old.name, wanted=old.wanted, resistor_ohm=old.resistor_ohm, late=old.late)
        return edits.replace(plan, {old.id: made})
    return edits.add_lamp(plan, made)


def _lens_of(width_mm: float) -> Lens:
    """A lens as one makes it in that size: a drop of white glue, a bead, or carved from sprue."""
    made = "glue" if width_mm <= 2.0 else ("bead" if width_mm <= 4.0 else "sprue")
    return Lens(made=made, width_mm=width_mm, lip_mm=round(min(0.1 * width_mm, 0.5), 2))


def _lens(catalogue: Catalogue, plan: Plan, order: Order) -> Plan:
    wide = round(min(max(order.true_mm, LEAST_MM), MOST_MM), 1)
    part = _lamp_part(
        catalogue, lambda p: p.form == "chip" and p.face_mm <= max(wide, 0.6), order.colour, min(wide, CHIPS_MM)
    )
    return _own_lamp(plan, order, part, lens=_lens_of(wide))


def _pushed(catalogue: Catalogue, plan: Plan, order: Order) -> Plan:
    def body(p: LampPart) -> bool:
        return p.form in ("round", "flat-top", "tube-tipped")

    return _own_lamp(plan, order, _lamp_part(catalogue, body, order.colour, order.true_mm))


def _chip(catalogue: Catalogue, plan: Plan, order: Order) -> Plan:
    part = _lamp_part(catalogue, lambda p: p.form == "chip", order.colour, min(max(order.true_mm, 0.8), CHIPS_MM))
    return _own_lamp(plan, order, part, frosted_cap=order.kind.arc_deg >= ALL_ROUND_DEG)


def _strip(catalogue: Catalogue, plan: Plan, order: Order) -> Plan:
    volts = catalogue.sources[plan.supply.part].nominal_v if plan.supply.part in catalogue.sources else 12.0
    made_for = 12.0 if volts > 8.0 else 5.0

    def strip(p: LampPart) -> bool:
        return p.form == "strip" and p.volts == made_for

    return _own_lamp(plan, order, _lamp_part(catalogue, strip, order.colour, 8.0))


def _fibre_for(catalogue: Catalogue, size_mm: float) -> str:
    clear = [f for f in catalogue.fibres.values() if not f.tint and f.diameter_mm <= THICKEST_MM]
    return min(clear, key=lambda f: abs(math.log(f.diameter_mm / max(size_mm, 0.05)))).id


def _dot(catalogue: Catalogue, plan: Plan, order: Order) -> Dot:
    dot_id = edits.fresh_ids(plan, f"{order.spot.section or 'outside'}.tip")[0]
    asked = order.kept.asked_mcd
    made = Dot(
        id=dot_id, at=order.spot.at, side=order.spot.side, section=order.spot.section, fibre=_fibre_for(catalogue, order.true_mm),
        wanted_mcd=asked if asked is not None else looks_of(catalogue, plan).point(order.look), channel=order.kept.channel, light=order.light.id,
    )  # fmt: skip
    return edits.copy_checked(made, colour=DOT_COLOURS.get(order.colour, order.colour))


def fed(catalogue: Catalogue, plan: Plan, ids: Iterable[str]) -> Plan:
    """Dots on a lamp for fibres that suits them and has room, the nearest; or on one of their own behind them."""
    for dot_id in ids:
        dot = next(d for d in plan.dots if d.id == dot_id)
        thick = catalogue.fibres[dot.fibre].diameter_mm
        there = dots_by_lamp(plan.dots)
        near = sorted(
            (p for p in known_lamps(catalogue, plan.lamps) if p.mount == "fibre" and p.channel == dot.channel
             and sharing.suits(catalogue, dot, p)), key=lambda p: math.dist(p.at, dot.at),
        )  # fmt: skip
        for lamp in near:
            sizes = tuple(
                catalogue.fibres[d.fibre].diameter_mm for d in there.get(lamp.id, ()) if d.fibre in catalogue.fibres
            )
            if room_left(catalogue.lamps[lamp.part].face_mm, (*sizes, thick)) >= 0.0:
                plan = edits.set_fields(plan, [dot_id], lamp=lamp.id)
                break
        else:
            plan, _ = edits.fibre_lamp(plan, [dot_id], sharing.lamp_for(dot))
    return plan


def _tip(catalogue: Catalogue, plan: Plan, order: Order) -> Plan:
    dot = _dot(catalogue, plan, order)
    return fed(catalogue, edits.add_dots(plan, (dot,)), (dot.id,))


def _tint_of(catalogue: Catalogue, plan: Plan, order: Order) -> Tint:
    """The clear colour that makes a section's light the one that is wanted; none for white."""
    if order.colour in WHITES:
        return ""
    lit = [p for p in plan.lamps if p.mount == "inside" and p.part in catalogue.lamps]
    inside = {catalogue.lamps[p.part].colour for p in lit if _within(plan, order.spot.section, p)}
    return "" if inside == {order.colour} else TINTS.get(order.colour, order.colour)  # type: ignore[return-value]


def _within(plan: Plan, section_id: str, lamp: Lamp) -> bool:
    from gwiazda.core.plan.lookup import lamps_by_section

    return lamps_by_section(plan.sections, plan.lamps).get(lamp.id) == section_id


def _section_tip(catalogue: Catalogue, plan: Plan, order: Order) -> Plan:
    dot = _dot(catalogue, plan, order)
    dot = copy_unchecked(dot, fed="section", colour="", channel="", tint=_tint_of(catalogue, plan, order))
    return edits.add_dots(plan, (dot,))


def _hole(catalogue: Catalogue, plan: Plan, order: Order, width: float, height: float, lens: Lens | None) -> Plan:
    tint = _tint_of(catalogue, plan, order)
    home = section_of(plan, order.spot.section)
    h, v, _ = PLANES[order.spot.side]
    wide, high = (round(min(x, MOST_OF_WALL * home.box.size[a]), 2) for x, a in ((width, h), (height, v)))
    round_ = order.kind.placing == "point"
    made = Opening(
        id=edits.fresh_ids(plan, f"{home.id}.light")[0], section=home.id, side=order.spot.side, at=in_wall(plan, order.spot),
        shape="round" if round_ else "rect", width_mm=max(wide, 0.1), height_mm=max(min(wide, high) if round_ else high, 0.1),
        lens=lens, tints=(TintCoat(colour=tint, coats=2),) if tint else (), light=order.light.id,
    )  # fmt: skip
    return edits.add_openings(plan, (made,))


def _spill(catalogue: Catalogue, plan: Plan, order: Order) -> Plan:
    wide = round(min(max(order.true_mm, LEAST_MM), MOST_MM), 1)
    home = section_of(plan, order.spot.section)
    h, v, _ = PLANES[order.spot.side]
    wide = min(wide, round(MOST_OF_WALL * min(home.box.size[h], home.box.size[v]), 2))
    return _hole(catalogue, plan, order, wide, wide, _lens_of(wide))


def _opening(catalogue: Catalogue, plan: Plan, order: Order) -> Plan:
    wide = max(order.true_mm, LEAST_MM)
    return _hole(catalogue, plan, order, wide, wide * (0.8 if order.kind.placing == "room" else 1.0), None)


def row_of(plan: Plan, spot: Spot, wide_mm: float) -> tuple[tuple[float, float], tuple[float, float], int]:
    """From where to where a row goes along the wall that a place is in (the view's coordinates), and how many fit."""
    home = section_of(plan, spot.section)
    h, v, _ = PLANES[spot.side]
    low, size = home.box.at[h], home.box.size[h]
    length = max(size * ROW_SHARE - wide_mm, 0.0)
    count = max(min(int(length / (PITCH * wide_mm)) + 1, MOST_IN_ROW), 1)
    middle, level = low + size / 2, min(max(spot.at[v], home.box.at[v] + 0.5), home.box.at[v] + home.box.size[v] - 0.5)
    half = length / 2 if count > 1 else 0.0
    return (round(middle - half, 2), round(level, 2)), (round(middle + half, 2), round(level, 2)), count


def _windows(catalogue: Catalogue, plan: Plan, order: Order) -> Plan:
    from gwiazda.core.plan.real_windows import usual_window

    home = section_of(plan, order.spot.section)
    pane = copy_unchecked(usual_window(plan.kit, home, order.spot.side), light=order.light.id)
    start, end, count = row_of(plan, order.spot, pane.width_mm)
    return edits.add_row(plan, home, order.spot.side, start, end, count, pane)[0]


def _tips(catalogue: Catalogue, plan: Plan, order: Order) -> Plan:
    model = _dot(catalogue, plan, order)
    start, end, count = row_of(plan, order.spot, max(order.true_mm, 1.5))
    h, v, _ = PLANES[order.spot.side]
    ends = []
    for a, b in (start, end):
        at = list(order.spot.at)
        at[h], at[v] = a, b
        ends.append((at[0], at[1], at[2]))
    plan, ids = edits.row_of_dots(plan, model, ends[0], ends[1], count, f"{order.spot.section or 'outside'}.tip")
    return fed(catalogue, plan, ids)


Maker = Callable[[Catalogue, Plan, Order], Plan]
MAKERS: dict[str, Maker] = {
    "lens": _lens, "pushed": _pushed, "chip": _chip, "strip": _strip, "tip": _tip, "section-tip": _section_tip, "spill": _spill,
    "opening": _opening, "windows": _windows, "tips": _tips,
}  # fmt: skip


def means_of(catalogue: Catalogue, means_id: str) -> LightMeans:
    """A means by its id; raises PlanError for one that the catalogue hasn't got."""
    found = catalogue.light_means.get(means_id)
    if found is None or means_id not in MAKERS:
        raise PlanError("Light", f"nothing called “{means_id}” carries a light", ", ".join(catalogue.light_means))
    return found


def needs(catalogue: Catalogue, plan: Plan, means: LightMeans, spot: Spot) -> str:
    """Why a light can't be carried so there, in a few words; empty where it can."""
    in_section = means.feeds == "section" or means.id == "tips"
    if in_section and not spot.section:
        return "it isn’t on a section"
    if means.feeds == "section" and means.id not in ("windows", "opening") and not lit(plan, spot.section):
        return f"{section_of(plan, spot.section).name} isn’t lit"
    return ""


def lit(plan: Plan, section_id: str) -> bool:
    """Whether a lamp lights a section from inside."""
    from gwiazda.core.plan.lookup import lamps_by_section

    return section_id in lamps_by_section(plan.sections, plan.lamps).values()


def usual_means(catalogue: Catalogue, plan: Plan, kind: LightKind, spot: Spot) -> LightMeans:
    """What usually carries such a light there: the first of its kind's that is possible and not far larger than true to scale."""
    true = true_mm(kind, plan.kit.scale)
    there = [m for i in kind.means if not needs(catalogue, plan, m := means_of(catalogue, i), spot)]
    if not there:
        raise PlanError(kind.name, "nothing can carry it here", "a place on a section")
    least = {"pushed": 1.8, "lens": LEAST_MM, "chip": 0.5, "tip": 0.25}
    near = [m for m in there if least.get(m.id, 0.0) <= max(2.0 * true, 1.0)]
    return (near or there)[0]


def built(catalogue: Catalogue, plan: Plan, light_id: str, means_id: str, spot: Spot, kept: Kept = Kept()) -> Plan:  # noqa: B008
    """A light of the plan, without parts so far, carried so.

    Raises
    ------
    PlanError
        Where it can't be carried so there.
    """
    light, means = light_of(plan, light_id), means_of(catalogue, means_id)
    kind = kind_of(catalogue, light.kind)
    why = needs(catalogue, plan, means, spot)
    if why:
        raise PlanError(light.name, f"{means.name}: {why}", "another means, or another place")
    order = Order(light, kind, colour_at(kind, spot.at[1]), true_mm(kind, plan.kit.scale), spot, kept)
    plan = MAKERS[means_id](catalogue, plan, order)
    return edits.set_light(plan, light_id, means=means_id, whole=means.whole)


def place(
    catalogue: Catalogue, plan: Plan, kind_id: str, spot: Spot, means_id: str = "", alone: bool = False
) -> tuple[Plan, list[str]]:
    """A light of a kind at a place, of a pair with its twin on the other side unless it is to stay ``alone``; returns the plan and the ids.

    Raises
    ------
    PlanError
        Where it can't be carried there.
    """
    kind = kind_of(catalogue, kind_id)
    means = means_id or usual_means(catalogue, plan, kind, spot).id
    spots = [spot, *([image] if kind.pair and not alone and (image := across(plan, spot)) is not None else [])]
    ids = []
    plan, channel = rhythm_of(catalogue, plan, kind) if means_of(catalogue, means).feeds != "section" else (plan, "")
    for s in spots:
        plan, light_id = edits.add_light(
            plan,
            kind.id,
            name_for(plan, kind, s, len(spots) > 1),
            look=kind.look,
            sources_show=kind.sources_show,
            animated=bool(channel),
        )
        plan = built(catalogue, plan, light_id, means, s, Kept(channel))
        ids.append(light_id)
    if len(ids) == 2:
        for a, b in (ids, ids[::-1]):
            plan = edits.set_light(plan, a, twin=b)
    return plan, ids


HANDS = {"vehicle": ("Left", "Right")}


def name_for(plan: Plan, kind: LightKind, spot: Spot, paired: bool) -> str:
    """What a new light is called: of a pair with its hand."""
    if not (paired or kind.pair) or spot.middle:
        return kind.name if not kind.pair else kind.one
    port, starboard = HANDS.get(plan.kit.kind, ("Port", "Starboard"))
    return f"{port if spot.at[1] > 0 else starboard} {kind.one[:1].lower()}{kind.one[1:]}"


def rhythm_of(catalogue: Catalogue, plan: Plan, kind: LightKind) -> tuple[Plan, str]:
    """A channel for a light of a kind, in that kind's rhythm; none where it is steady."""
    pattern = catalogue.prototypes.get(kind.rhythm)
    if pattern is None:
        return plan, ""
    plan, channel = edits.add_channel(plan, free_channel(plan, kind.name))
    return edits.add_cue(plan, [channel], edits.ready(pattern.does))[0], channel


def free_channel(plan: Plan, name: str) -> str:
    """A name for a channel that no other has."""
    taken, found, number = {channel_name(plan, c.id) for c in plan.channels}, name, 2
    while found in taken:
        found, number = f"{name} {number}", number + 1
    return found
