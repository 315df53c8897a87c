"""Edits of dots, bundles and panels."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.items import copy_checked, fresh_ids, replace, set_fields
from gwiazda.core.plan.edits.lamps import add_lamp
from gwiazda.core.plan.frame import PLANES, SHEET
from gwiazda.core.plan.lookup import bundle_table, dot_of, item_of, section_of
from gwiazda.core.plan.model import Bundle, Dot, Lamp, Model, Panel, Plan, Point, Wanted, copy_unchecked

DEEP_MM = 30.0  # behind the skin, where a new fibre lamp is put that belongs to no section


def add_dots(plan: Plan, dots: Iterable[Dot]) -> Plan:
    """More dots."""
    return copy_unchecked(plan, dots=(*plan.dots, *dots))


def row_of_dots(plan: Plan, model: Dot, start: Point, end: Point, count: int, stem: str) -> tuple[Plan, list[str]]:
    """Dots like ``model`` in a row, evenly between two places; returns the plan and their ids.

    Raises
    ------
    PlanError
        For no dots or more than 2,000.
    """
    if not 1 <= count <= 2000:
        raise PlanError("Row of dots", f"{count} dots", "1 to 2,000")
    ids = fresh_ids(plan, stem, count)
    made = []
    for k, dot_id in enumerate(ids):
        t = k / (count - 1) if count > 1 else 0.0
        x, y, z = (round(a + (b - a) * t, 4) for a, b in zip(start, end, strict=True))
        made.append(copy_unchecked(model, id=dot_id, at=(x, y, z), lamp="", pinned=False, way=()))
    return add_dots(plan, made), ids


def pin(plan: Plan, ids: Iterable[str], lamp_id: str) -> Plan:
    """Put dots onto a lamp for good ("" lets them go); the lamp feeds fibres from then on."""
    ids = list(ids)
    plan = set_fields(plan, ids, lamp=lamp_id, pinned=bool(lamp_id))
    return feed_fibres(plan, [lamp_id]) if lamp_id else plan


def feed_fibres(plan: Plan, ids: Iterable[str]) -> Plan:
    """Let lamps feed fibres alone, as bright as their tips want."""
    changed: dict[str, Model] = {}
    for lamp in plan.lamps:
        if lamp.id in set(ids) and lamp.mount != "fibre":
            changed[lamp.id] = copy_checked(lamp, mount="fibre", wanted=Wanted(look="normal"))
    return replace(plan, changed)


def fibre_lamp(plan: Plan, ids: Sequence[str], part: str) -> tuple[Plan, str]:
    """A lamp of ``part`` for dots, behind their middle and facing them; they are put onto it.

    Raises
    ------
    PlanError
        Without dots.
    """
    dots = [dot_of(plan, i) for i in ids]
    if not dots:
        raise PlanError("Fibre lamp", "no dot is picked", "one dot or more")
    at = [sum(d.at[a] for d in dots) / len(dots) for a in range(3)]
    first = dots[0]
    axis, toward = PLANES[first.side][2], SHEET[first.side][2]
    at[axis] -= toward * DEEP_MM
    if first.section:
        box = section_of(plan, first.section).box
        for a in range(3):
            low, size = box.at[a], box.size[a]
            margin = min(1.5, size / 4)
            at[a] = min(max(at[a], low + margin), low + size - margin)
        # As far behind the dots as the section is deep: bends are the wider for it.
        low, size = box.at[axis], box.size[axis]
        at[axis] = low + size / 8 if toward > 0 else low + size * 7 / 8
    aim = [0.0, 0.0, 0.0]
    aim[axis] = float(toward)
    lamp_id = fresh_ids(plan, f"{first.section or 'fibre'}.fibre")[0]
    lamp = Lamp(
        id=lamp_id, part=part, at=(round(at[0], 2), round(at[1], 2), round(at[2], 2)), aim=(aim[0], aim[1], aim[2]),
        mount="fibre", channel=first.channel,
    )  # fmt: skip
    plan = add_lamp(plan, lamp)
    return set_fields(plan, ids, lamp=lamp_id), lamp_id


def set_bundle(plan: Plan, lamp_id: str, **fields: Any) -> Plan:
    """Set how the fibres on a lamp are held."""
    old = bundle_table(plan.bundles).get(lamp_id)
    if old is not None:
        return copy_unchecked(plan, bundles=tuple(copy_checked(b, **fields) if b is old else b for b in plan.bundles))
    new = copy_checked(Bundle(id=fresh_ids(plan, "bundle")[0], lamp=lamp_id), **fields)
    return copy_unchecked(plan, bundles=(*plan.bundles, new))


def add_panel(plan: Plan, panel: Panel) -> Plan:
    """Another panel."""
    return copy_unchecked(plan, panels=(*plan.panels, panel))


def panel_place(panel: Panel, across: float, down: float) -> Point:
    """The place (mm) of a point of a panel's picture, as shares of its width and height from its upper left corner."""
    h, v, _ = PLANES[panel.side]
    a, b, _ = SHEET[panel.side]
    at = list(panel.at)
    at[h] += a * (across - 0.5) * panel.width_mm
    at[v] += b * (down - 0.5) * panel.height_mm
    return round(at[0], 4), round(at[1], 4), round(at[2], 4)


def resize_panel(plan: Plan, panel_id: str, **fields: float) -> Plan:
    """Another width or height; its dots keep their places on the face."""
    old = item_of(plan.panels, panel_id, "panel")
    new = copy_checked(old, **fields)
    h, v, _ = PLANES[old.side]
    changed: dict[str, Model] = {panel_id: new}
    for d in plan.dots:
        if d.panel == panel_id:
            at = list(d.at)
            at[h] = round(new.at[h] + (at[h] - old.at[h]) * new.width_mm / old.width_mm, 4)
            at[v] = round(new.at[v] + (at[v] - old.at[v]) * new.height_mm / old.height_mm, 4)
            changed[d.id] = copy_unchecked(d, at=(at[0], at[1], at[2]))
    return replace(plan, changed)


def fill_panel(
    plan: Plan, panel_id: str, spots: Iterable[tuple[float, float, str]], model: Dot
) -> tuple[Plan, list[str]]:
    """Dots like ``model`` at the spots (across, down, colour) of a panel in place of those that it had."""
    panel = item_of(plan.panels, panel_id, "panel")
    plan = copy_unchecked(plan, dots=tuple(d for d in plan.dots if d.panel != panel_id))
    spots = list(spots)
    ids = fresh_ids(plan, f"{panel_id}.dot", len(spots)) if spots else []
    made = [
        copy_checked(model, id=i, at=panel_place(panel, across, down), side=panel.side, section=panel.section, panel=panel_id,
               colour=colour, lamp="", pinned=False, way=())
        for i, (across, down, colour) in zip(ids, spots, strict=True)
    ]  # fmt: skip
    return add_dots(plan, made), ids
