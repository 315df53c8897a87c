"""Edits: Plan → Plan. Each shares everything it did not touch, and is checked where a value is new."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import Any, TypeVar

from pydantic import ValidationError

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.lookup import find, lamps_by_section
from gwiazda.core.plan.models import (
    PLANES,
    Box,
    Feature,
    Item,
    Lamp,
    LampString,
    Model,
    Opening,
    Outline,
    Plan,
    Section,
    Side,
    Wanted,
)

M = TypeVar("M", bound=Model)
Vector = tuple[float, float, float]


def sentence_of(error: ValidationError) -> str:
    """The first complaint of pydantic in plain words."""
    first = error.errors()[0]
    message = str(first["msg"]).removeprefix("Value error, ")
    return message[:1].lower() + message[1:]


def revise(item: M, **fields: Any) -> M:
    """A copy with some fields set, validated; raises PlanError with the field's name when one is refused."""
    data = dict(item.__dict__)
    data.update(fields)
    try:
        return type(item).model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        field = ".".join(str(part) for part in first["loc"]) or "value"
        name = getattr(item, "id", type(item).__name__.lower())
        raise PlanError(f"{name}, {field}", f"{first.get('input')!r} is refused", sentence_of(error)) from None


def set_kit(plan: Plan, **fields: Any) -> Plan:
    return plan.model_copy(update={"kit": revise(plan.kit, **fields)})


def set_supply(plan: Plan, **fields: Any) -> Plan:
    return plan.model_copy(update={"supply": revise(plan.supply, **fields)})


def set_room(plan: Plan, **fields: Any) -> Plan:
    return plan.model_copy(update={"room": revise(plan.room, **fields)})


def set_drawer(plan: Plan, **fields: Any) -> Plan:
    return plan.model_copy(update={"drawer": revise(plan.drawer, **fields)})


def replace(plan: Plan, changed: Mapping[str, Model]) -> Plan:
    """Put new versions of sections, openings, lamps or strings in place, by id."""
    update: dict[str, Any] = {}
    kinds: set[type[Model]] = {type(item) for item in changed.values()}
    for name, kind in (
        ("sections", Section),
        ("openings", Opening),
        ("lamps", Lamp),
        ("strings", LampString),
    ):
        if kind in kinds:
            group = getattr(plan, name)
            update[name] = tuple(changed.get(item.id, item) for item in group)
    return plan.model_copy(update=update) if update else plan


def set_fields(plan: Plan, ids: Iterable[str], **fields: Any) -> Plan:
    """Set the same fields on each of the named items that has them."""
    changed: dict[str, Model] = {}
    for item_id in ids:
        item = find(plan, item_id)
        if item is not None and all(name in type(item).model_fields for name in fields):
            changed[item_id] = revise(item, **fields)
    return replace(plan, changed)


def taken_ids(plan: Plan) -> set[str]:
    return {
        item.id
        for group in (plan.views, plan.sections, plan.openings, plan.lamps, plan.strings, plan.features)
        for item in group
    }


def fresh_ids(plan: Plan, stem: str, count: int = 1) -> list[str]:
    """``stem.01``, ``stem.02`` … continuing after the highest number in use."""
    pattern = re.compile(re.escape(stem) + r"\.(\d+)$")
    highest = max((int(m.group(1)) for i in taken_ids(plan) if (m := pattern.match(i))), default=0)
    return [f"{stem}.{highest + n:02d}" for n in range(1, count + 1)]


def add_lamp(plan: Plan, lamp: Lamp) -> Plan:
    _unused(plan, lamp.id)
    return plan.model_copy(update={"lamps": (*plan.lamps, lamp)})


def add_openings(plan: Plan, openings: Iterable[Opening]) -> Plan:
    new = tuple(openings)
    sections = {s.id for s in plan.sections}
    taken = taken_ids(plan)
    for opening in new:
        if opening.id in taken:
            raise PlanError(f"Id {opening.id}", "is in use already", "an id that nothing else has")
        taken.add(opening.id)
        if opening.section not in sections:
            raise PlanError(f"Opening {opening.id}", f"there is no section “{opening.section}”", "an id of a section")
    return plan.model_copy(update={"openings": (*plan.openings, *new)})


def add_section(plan: Plan, section: Section) -> Plan:
    _unused(plan, section.id)
    return plan.model_copy(update={"sections": (*plan.sections, section)})


def _unused(plan: Plan, item_id: str) -> None:
    if item_id in taken_ids(plan):
        raise PlanError(f"Id {item_id}", "is in use already", "an id that nothing else has")


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
    return section.model_copy(update={"outlines": tuple(outlines)})


def wall_place(section: Section, side: Side, h_mm: float, v_mm: float) -> Vector:
    """The place on a section's inner wall of that side, at the view's two coordinates."""
    h, v, d = PLANES[side]
    at = [0.0, 0.0, 0.0]
    at[h], at[v] = h_mm, v_mm
    far = side in ("port", "top", "bow")
    at[d] = section.box.at[d] + (section.box.size[d] if far else 0.0)
    return (at[0], at[1], at[2])


def window(
    plan: Plan, section: Section, side: Side, h_mm: float, v_mm: float, template: Opening | None = None
) -> Opening:
    """A new window on a section's wall, shaped like ``template`` or 3 × 3 mm."""
    item_id = fresh_ids(plan, f"{section.id}.window")[0]
    at = wall_place(section, side, h_mm, v_mm)
    if template is None:
        return Opening(id=item_id, section=section.id, at=at, side=side)
    return template.model_copy(update={"id": item_id, "section": section.id, "at": at, "side": side})


def add_row(
    plan: Plan,
    section: Section,
    side: Side,
    start: tuple[float, float],
    end: tuple[float, float],
    count: int,
    template: Opening | None = None,
) -> tuple[Plan, list[str]]:
    """A row of ``count`` windows from ``start`` to ``end`` (view coordinates, mm), evenly spaced.

    Returns the new plan and the ids of the row, in order.
    """
    if not 1 <= count <= 1000:
        raise PlanError("Row of windows", f"{count} windows", "1 to 1000")
    ids = fresh_ids(plan, f"{section.id}.window", count)
    first = window(plan, section, side, *start, template)
    row = []
    for i, item_id in enumerate(ids):
        t = i / (count - 1) if count > 1 else 0.0
        h, v = (a + t * (b - a) for a, b in zip(start, end, strict=True))
        row.append(first.model_copy(update={"id": item_id, "at": wall_place(section, side, h, v)}))
    return add_openings(plan, row), ids


def add_feature(plan: Plan, purpose: str) -> Plan:
    """Another feature of that purpose, named after it."""
    item_id = fresh_ids(plan, f"feature.{purpose.replace(' ', '-')}")[0]
    feature = revise(Feature(id=item_id, name=purpose.capitalize()), purpose=purpose)
    return plan.model_copy(update={"features": (*plan.features, feature)})


def set_feature(plan: Plan, feature_id: str, **fields: Any) -> Plan:
    """Set fields of a feature."""
    features = tuple(revise(f, **fields) if f.id == feature_id else f for f in plan.features)
    return plan.model_copy(update={"features": features})


def set_feature_look(plan: Plan, feature_id: str, look: str) -> Plan:
    """Set a feature's look, and let the lamps that belong to it want it."""
    plan = set_feature(plan, feature_id, look=look)
    homes = lamps_by_section(plan.sections, plan.lamps)
    of_section = {s.id: s.feature for s in plan.sections}
    mine = [p.id for p in plan.lamps if (p.feature or of_section.get(homes.get(p.id) or "", "")) == feature_id]
    return set_wanted(plan, mine, Wanted.model_validate({"look": look}))


def drop_feature(plan: Plan, feature_id: str) -> Plan:
    """Take a feature out; what belonged to it stays, and belongs to none."""
    update: dict[str, Any] = {"features": tuple(f for f in plan.features if f.id != feature_id)}
    for name in ("sections", "openings", "lamps"):
        group = getattr(plan, name)
        if any(i.feature == feature_id for i in group):
            update[name] = tuple(i.model_copy(update={"feature": ""}) if i.feature == feature_id else i for i in group)
    return plan.model_copy(update=update)


def assign_feature(plan: Plan, ids: Iterable[str], feature_id: str) -> Plan:
    """Let items belong to a feature ("" to none). What lies in a section belongs to its section's unless it says otherwise."""
    if feature_id and not any(f.id == feature_id for f in plan.features):
        raise PlanError("Feature", f"there is no feature “{feature_id}”", "a feature of the plan")
    return set_fields(plan, ids, feature=feature_id)


def contents(plan: Plan, section_ids: set[str]) -> set[str]:
    """Ids of the openings of these sections and of the lamps inside them."""
    inside = lamps_by_section(plan.sections, plan.lamps)
    return {o.id for o in plan.openings if o.section in section_ids} | {
        lamp for lamp, section in inside.items() if section in section_ids
    }


def _shifted(point: Vector, delta: Vector) -> Vector:
    return (point[0] + delta[0], point[1] + delta[1], point[2] + delta[2])


def _moved_box(box: Box, delta: Vector) -> Box:
    return box.model_copy(update={"at": _shifted(box.at, delta)})


def _moved(item: Item, delta: Vector) -> Item:
    if isinstance(item, Section):
        outlines = []
        for outline in item.outlines:
            h, v, _ = PLANES[outline.side]
            points = tuple((a + delta[h], b + delta[v]) for a, b in outline.points)
            outlines.append(outline.model_copy(update={"points": points}))
        update: dict[str, Any] = {"box": _moved_box(item.box, delta), "outlines": tuple(outlines)}
        if item.obstacles:
            update["obstacles"] = tuple(o.model_copy(update={"box": _moved_box(o.box, delta)}) for o in item.obstacles)
        return item.model_copy(update=update)
    return item.model_copy(update={"at": _shifted(item.at, delta)})


def move(plan: Plan, ids: Iterable[str], delta: Vector) -> Plan:
    """Move items by ``delta`` mm; a section takes its openings and lamps along."""
    chosen = set(ids)
    whole = {s.id for s in plan.sections if s.id in chosen}
    if whole:
        chosen |= contents(plan, whole)
    changed: dict[str, Model] = {}
    for item_id in chosen:
        item = find(plan, item_id)
        if item is not None:
            changed[item_id] = _moved(item, delta)
    return replace(plan, changed)


def set_axis(plan: Plan, ids: Iterable[str], axis: int, value: float) -> Plan:
    """Put lamps and openings at ``value`` mm along one axis (0 = x, 1 = y, 2 = z)."""
    changed: dict[str, Model] = {}
    for item_id in ids:
        item = find(plan, item_id)
        if isinstance(item, (Lamp, Opening)):
            at = list(item.at)
            at[axis] = value
            changed[item_id] = revise(item, at=tuple(at))
    return replace(plan, changed)


def duplicate(plan: Plan, ids: Iterable[str], delta: Vector) -> tuple[Plan, list[str]]:
    """Copies of openings, lamps and whole sections, moved by ``delta``; returns the plan and the new ids.

    A copied lamp gets a resistor of its own; strings are not copied.
    """
    chosen = list(dict.fromkeys(ids))
    section_ids = {s.id for s in plan.sections if s.id in set(chosen)}
    chosen += [i for i in sorted(contents(plan, section_ids)) if i not in chosen]
    renamed: dict[str, str] = {}
    new_ids: list[str] = []
    for item_id in sorted(chosen, key=lambda i: not isinstance(find(plan, i), Section)):
        item = find(plan, item_id)
        if item is None:
            continue
        stem = re.sub(r"\.\d+$", "", item.id)
        copy = _moved(item, delta)
        if isinstance(copy, Section):
            new_id = fresh_ids(plan, stem)[0]
            renamed[item.id] = new_id
            plan = add_section(plan, copy.model_copy(update={"id": new_id, "name": f"{copy.name} copy"}))
        elif isinstance(copy, Opening):
            home = renamed.get(copy.section, copy.section)
            new_id = fresh_ids(plan, f"{home}.{stem.rsplit('.', 1)[-1]}")[0]
            plan = add_openings(plan, (copy.model_copy(update={"id": new_id, "section": home}),))
        else:
            new_id = fresh_ids(plan, stem)[0]
            plan = add_lamp(plan, copy.model_copy(update={"id": new_id}))
        new_ids.append(new_id)
    return plan, new_ids


def delete(plan: Plan, ids: Iterable[str]) -> Plan:
    """Take items out; a section takes its openings and lamps along, a string its missing lamps."""
    gone = set(ids)
    gone |= contents(plan, {s.id for s in plan.sections if s.id in gone})
    gone |= {o.id for o in plan.openings if o.into in gone}
    strings = []
    for string in plan.strings:
        left = tuple(lamp for lamp in string.lamps if lamp not in gone)
        if left and string.id not in gone:
            same = len(left) == len(string.lamps)
            strings.append(string if same else string.model_copy(update={"lamps": left}))
    update = {
        "sections": tuple(s for s in plan.sections if s.id not in gone),
        "openings": tuple(o for o in plan.openings if o.id not in gone),
        "lamps": tuple(lamp for lamp in plan.lamps if lamp.id not in gone),
        "strings": tuple(strings),
    }
    kept = {k: v for k, v in update.items() if len(v) != len(getattr(plan, k)) or k == "strings"}
    return plan.model_copy(update=kept)


def wire_in_series(plan: Plan, lamp_ids: Iterable[str]) -> Plan:
    """One string of these lamps, in the order given, taken out of whatever strings they were in."""
    chosen = tuple(dict.fromkeys(i for i in lamp_ids if isinstance(find(plan, i), Lamp)))
    if len(chosen) < 2:
        raise PlanError("String", f"{len(chosen)} lamp selected", "two or more lamps")
    plan = wire_singly(plan, chosen)
    stem = re.sub(r"\.\d+$", "", chosen[0]).rsplit(".", 1)[0] or "string"
    string = LampString(id=fresh_ids(plan, f"{stem}.string")[0], lamps=chosen)
    return plan.model_copy(update={"strings": (*plan.strings, string)})


def wire_singly(plan: Plan, lamp_ids: Iterable[str]) -> Plan:
    """Give each of these lamps a resistor of its own again."""
    chosen = set(lamp_ids)
    strings = []
    for string in plan.strings:
        left = tuple(lamp for lamp in string.lamps if lamp not in chosen)
        if len(left) == len(string.lamps):
            strings.append(string)
        elif len(left) > 1:
            strings.append(string.model_copy(update={"lamps": left}))
    return plan.model_copy(update={"strings": tuple(strings)})


def set_resistor(plan: Plan, lamp_ids: Iterable[str], ohm: float | None) -> Plan:
    """Fix the resistor of the lamps' strings (or of the lamps themselves); None lets Gwiazda choose again."""
    chosen = set(lamp_ids)
    changed: dict[str, Model] = {}
    strung: set[str] = set()
    for string in plan.strings:
        strung |= set(string.lamps)
        if chosen & set(string.lamps):
            changed[string.id] = revise(string, resistor_ohm=ohm)
    for lamp in plan.lamps:
        if lamp.id in chosen and lamp.id not in strung:
            changed[lamp.id] = revise(lamp, resistor_ohm=ohm)
    return replace(plan, changed)


def set_wanted(plan: Plan, ids: Iterable[str], wanted: Wanted) -> Plan:
    """Set the wanted look of lamps; a section passes it on to all lamps inside it."""
    chosen = set(ids)
    chosen |= contents(plan, {s.id for s in plan.sections if s.id in chosen})
    return replace(plan, {lamp.id: revise(lamp, wanted=wanted) for lamp in plan.lamps if lamp.id in chosen})
