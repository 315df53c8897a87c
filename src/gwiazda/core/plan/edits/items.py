"""Edits of whatever has an id: set, move, copy, delete. What refers to what comes from ``plan.refs``."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any, TypeVar, get_type_hints

import msgspec

from gwiazda.core.errors import PlanError
from gwiazda.core.memo import memoize, memoize_by_value
from gwiazda.core.plan.frame import PLANES
from gwiazda.core.plan.lookup import (
    circuit_part,
    fed_alone,
    find,
    lamps_by_section,
    lamps_on,
    light,
    on_walls,
    parts_of,
    whole_light,
    with_parts,
)
from gwiazda.core.plan.model import (
    GROUP_OF,
    GROUPS,
    OF_SECTION,
    Box,
    Dot,
    Item,
    Lamp,
    Model,
    Panel,
    Passage,
    Plan,
    Section,
    copy_unchecked,
)
from gwiazda.core.plan.refs import nested, references, renamed, without
from gwiazda.core.plan.refusal import refusal_of

M = TypeVar("M", bound=Model)
Vector = tuple[float, float, float]


@memoize_by_value()
def _hints(kind: type) -> dict[str, Any]:
    return get_type_hints(kind, include_extras=True)


def copy_checked(item: M, **fields: Any) -> M:
    """A copy with some fields set, validated; raises PlanError with the field's name when one is refused."""
    hints, taken = _hints(type(item)), {}
    for name, value in fields.items():
        try:
            taken[name] = msgspec.convert(msgspec.to_builtins(value), hints[name])
        except (msgspec.ValidationError, ValueError) as error:
            found = refusal_of(hints[name], msgspec.to_builtins(value), error)
            inner = "".join(f".{p + 1}" if isinstance(p, int) else f".{p}" for p in found.path)
            shown = f"{value!r}" if isinstance(value, (str, int, float)) and len(str(value)) <= 60 else "a value"
            where = f"{getattr(item, 'id', type(item).__name__.lower())}, {name}{inner}"
            raise PlanError(where, f"{shown} is refused", found.words) from None
    try:
        return msgspec.structs.replace(item, **taken)
    except ValueError as error:
        raise PlanError(f"{getattr(item, 'id', type(item).__name__.lower())}", str(error)) from None


def replace(plan: Plan, changed: Mapping[str, Model]) -> Plan:
    """Put new versions of items in place, by id."""
    kinds = {type(item) for item in changed.values()}
    update = {
        name: tuple(changed.get(item.id, item) for item in group)
        for name in GROUPS
        if (group := getattr(plan, name)) and type(group[0]) in kinds
    }
    return copy_unchecked(plan, **update) if update else plan


def as_edit(before: Plan, after: Plan) -> Callable[[Plan], Plan]:
    """The edit that turns ``before`` into ``after``: it sets what differs, and shares all else with the plan it is given."""
    fields = {n: getattr(after, n) for n in Plan.__struct_fields__ if getattr(after, n) is not getattr(before, n)}
    return lambda plan: copy_unchecked(plan, **fields) if fields else plan


def set_fields(plan: Plan, ids: Iterable[str], **fields: Any) -> Plan:
    """Set the same fields on each of the named items that has them."""
    changed: dict[str, Model] = {}
    for item_id in ids:
        item = find(plan, item_id)
        if item is not None and all(name in item.__struct_fields__ for name in fields):
            changed[item_id] = copy_checked(item, **fields)
    return replace(plan, changed)


@memoize(slots=8)
def _ids_in(group: tuple[Any, ...]) -> frozenset[str]:
    return frozenset({i.id for i in group} | {n.id for i in group for n in nested(i)})


def taken_ids(plan: Plan) -> set[str]:
    """All ids of a plan, those of things within things among them."""
    return set().union(*(_ids_in(getattr(plan, name)) for name in GROUPS))


def fresh_ids(plan: Plan, stem: str, count: int = 1) -> list[str]:
    """``stem.01``, ``stem.02`` … continuing after the highest number in use."""
    stem = stem[:74]
    pattern = re.compile(re.escape(stem) + r"\.(\d+)$")
    highest = max((int(m.group(1)) for i in taken_ids(plan) if (m := pattern.match(i))), default=0)
    return [f"{stem}.{highest + n:02d}" for n in range(1, count + 1)]


def unused(plan: Plan, item_id: str) -> None:
    if item_id in taken_ids(plan):
        raise PlanError(f"Id {item_id}", "is in use already", "an id that nothing else has")


def _shifted(point: Vector, delta: Vector) -> Vector:
    return (point[0] + delta[0], point[1] + delta[1], point[2] + delta[2])


def _moved_box(box: Box, delta: Vector) -> Box:
    return copy_unchecked(box, at=_shifted(box.at, delta))


def _moved(item: Item, delta: Vector) -> Item:
    if isinstance(item, Section):
        outlines = []
        for outline in item.outlines:
            h, v, _ = PLANES[outline.side]
            points = tuple((a + delta[h], b + delta[v]) for a, b in outline.points)
            outlines.append(copy_unchecked(outline, points=points))
        update: dict[str, Any] = {"box": _moved_box(item.box, delta), "outlines": tuple(outlines)}
        if item.obstacles:
            update["obstacles"] = tuple(copy_unchecked(o, box=_moved_box(o.box, delta)) for o in item.obstacles)
        return copy_unchecked(item, **update)
    if isinstance(item, Dot) and item.way:
        return copy_unchecked(item, at=_shifted(item.at, delta), way=tuple(_shifted(p, delta) for p in item.way))
    if isinstance(item, Passage) and item.tube is not None:
        return _stood(item, delta, delta)
    return copy_unchecked(item, at=_shifted(item.at, delta))


def _stood(passage: Passage, at: Vector, to: Vector) -> Passage:
    """A stand with its two ends shifted."""
    assert passage.tube is not None
    first, last = _shifted(passage.at, at), _shifted(passage.tube.to, to)
    tube = copy_unchecked(passage.tube, to=last)
    return copy_unchecked(passage, at=first, tube=tube, length_mm=round(math.dist(first, last), 3))


def _stands_moved(plan: Plan, chosen: set[str], whole: set[str], delta: Vector) -> dict[str, Model]:
    """Stands of which one end moves, or which are moved themselves: they keep to both of their sections, and grow longer or shorter."""
    out: dict[str, Model] = {}
    for p in plan.passages:
        if p.tube is None or (p.section in whole and p.into in whole):
            continue
        reach = [abs(a - b) for a, b in zip(p.at, p.tube.to, strict=True)]
        axis = reach.index(max(reach))
        along = tuple(d if k == axis else 0.0 for k, d in enumerate(delta))
        across = tuple(0.0 if k == axis else d for k, d in enumerate(delta))
        if p.section in whole:
            out[p.id] = _stood(p, delta, across)  # type: ignore[arg-type]
        elif p.into in whole:
            out[p.id] = _stood(p, (0.0, 0.0, 0.0), along)  # type: ignore[arg-type]
        elif p.id in chosen:
            out[p.id] = _stood(p, across, across)  # type: ignore[arg-type]
    return out


def move(plan: Plan, ids: Iterable[str], delta: Vector) -> Plan:
    """Move items by ``delta`` mm; a light takes its parts along, a section takes what belongs to it along, a panel its dots, a carrier its lamps."""
    chosen = set(with_parts(plan, ids))
    whole = {s.id for s in plan.sections if s.id in chosen}
    if whole:
        chosen |= inside_of(plan, whole)
    faces = {p.id for p in plan.panels if p.id in chosen}
    if faces:
        chosen |= {d.id for d in plan.dots if d.panel in faces}
    for carrier in plan.carriers:
        if carrier.id in chosen:
            chosen |= {p.id for p in lamps_on(carrier, plan.lamps)}
    changed: dict[str, Model] = {}
    for item_id in chosen:
        item = find(plan, item_id)
        if item is not None:
            changed[item_id] = _moved(item, delta)
    plan = replace(plan, changed | _stands_moved(plan, chosen, whole, delta))
    return with_leads(plan, chosen, lambda at: _shifted(at, delta)) if whole else plan


def set_axis(plan: Plan, ids: Iterable[str], axis: int, value: float) -> Plan:
    """Put what has a place at ``value`` mm along one axis (0 = x, 1 = y, 2 = z)."""
    changed: dict[str, Model] = {}
    for item_id in ids:
        item = find(plan, item_id)
        if item is not None and not isinstance(item, Section):
            at = list(item.at)
            at[axis] = value
            changed[item_id] = copy_checked(item, at=tuple(at))
            if isinstance(item, Passage) and item.tube is not None:
                changed[item_id] = _stood(copy_checked(item, at=tuple(at)), (0.0, 0.0, 0.0), (0.0, 0.0, 0.0))
    return replace(plan, changed)


def _stem(item_id: str) -> str:
    return re.sub(r"\.\d+$", "", item_id)


def duplicate(plan: Plan, ids: Iterable[str], delta: Vector) -> tuple[Plan, list[str]]:
    """Copies of what has a place, whole sections among it, moved by ``delta``; returns the plan and the new ids."""
    plan, names, made = copied(plan, ids, delta)
    return plan, [names[i] for i in made]


def copied(plan: Plan, ids: Iterable[str], delta: Vector) -> tuple[Plan, dict[str, str], list[str]]:
    """Copies as ``duplicate`` makes them: the plan, the new id of each thing and of what it holds, and what was copied.

    What is copied together refers to its like among the copies; a hole copied without the section it leads into leads
    outside. Of a light that is one thing all of it is copied. A copied lamp gets a resistor of its own.
    """
    chosen = with_parts(plan, ids)
    section_ids = {s.id for s in plan.sections if s.id in set(chosen)}
    chosen += [i for i in sorted(inside_of(plan, section_ids)) if i not in chosen]
    lights = {owner.id: owner for i in chosen if (owner := whole_light(plan, i)) is not None}
    chosen = list(dict.fromkeys([*chosen, *(part for light_id in lights for part in parts_of(plan, light_id))]))
    items = [item for i in chosen if (item := find(plan, i)) is not None]
    items.sort(key=lambda item: not isinstance(item, (Section, Panel)))
    taken = taken_ids(plan)
    names: dict[str, str] = {}

    def fresh(stem: str) -> str:
        stem = stem[:74]
        number = 1
        while f"{stem}.{number:02d}" in taken:
            number += 1
        taken.add(f"{stem}.{number:02d}")
        return f"{stem}.{number:02d}"

    for item in items:
        stem = _stem(item.id)
        if not isinstance(item, (Section, Lamp)) and item.section in names:
            stem = f"{names[item.section]}.{stem.rsplit('.', 1)[-1]}"
        names[item.id] = fresh(stem)
        for inner in nested(item):
            own = inner.id.removeprefix(f"{item.id}.")
            names[inner.id] = fresh(f"{names[item.id]}.{_stem(own)}")
    names.update({light_id: fresh(_stem(light_id)) for light_id in lights})
    made: dict[str, list[Item]] = {name: [] for name in GROUP_OF.values()}
    for item in items:
        copy = renamed(_moved(item, delta), names)
        if isinstance(copy, Section):
            copy = copy_unchecked(copy, name=f"{copy.name[:95]} copy")
        made[_group_of(copy)].append(copy)
    plan = copy_unchecked(plan, **{name: (*getattr(plan, name), *new) for name, new in made.items() if new})
    twins = tuple(copy_unchecked(renamed(owner, names), name=f"{owner.name[:95]} copy") for owner in lights.values())
    plan = copy_unchecked(plan, lights=(*plan.lights, *twins)) if twins else plan
    return plan, names, [item.id for item in items]


def _group_of(item: Item) -> str:
    return GROUP_OF[type(item)]


INDOORS = ("inside", "fibre")


def _channels_of(plan: Plan, lights: set[str], fed: set[str]) -> set[str]:
    """The channels that these lights alone play on, and the lamps that are ``fed`` with them."""
    if not lights:
        return set()
    parts = [p for group in (plan.lamps, plan.dots) for p in group]
    mine = {p.channel for p in parts if p.light in lights and p.channel}
    others = {p.channel for p in parts if p.light not in lights and p.id not in fed}
    driven = {target for feed in plan.feeds for ref, target in references(feed) if ref.to == "channels"}
    return mine - others - driven


def with_leads(plan: Plan, lamps: set[str], place: Callable[[Vector], Vector]) -> Plan:
    """The ways of these lamps' leads, as led by hand, put where ``place`` says: they go along with their section."""
    led = {x.id: copy_unchecked(x, way=tuple(map(place, x.way))) for x in plan.leads if x.way and x.lamp in lamps}
    return copy_unchecked(plan, leads=tuple(led.get(x.id, x) for x in plan.leads)) if led else plan


def inside_of(plan: Plan, section_ids: set[str]) -> set[str]:
    """Ids of what belongs to these sections: openings, dots, panels, hubs, carriers, fittings, passages from them, the lamps inside, and
    those seen themselves that sit on their walls."""
    inside = {**lamps_by_section(plan.sections, plan.lamps, INDOORS), **on_walls(plan.sections, plan.lamps)}
    groups: list[tuple[Any, ...]] = [getattr(plan, k.group) for k in OF_SECTION]
    return {x.id for group in groups for x in group if x.section in section_ids} | {
        lamp for lamp, section in inside.items() if section in section_ids
    }


def delete(plan: Plan, ids: Iterable[str]) -> Plan:
    """Take items out, and with them what can't be without them; a section takes its openings and lamps along, a light its parts.

    Of a light that is one thing nothing stays where any part of it goes; with a light goes the lamp that fed it alone, and the channel it alone played on.

    Of a circuit its parts go and its lamps stay; its source does too.
    """
    gone_ids = set(ids) - {f.id for f in plan.feeds}
    if any(circuit_part(plan, i) is not None for i in gone_ids):
        from gwiazda.core.plan.edits.tree import take_out  # builds on these edits itself

        plan = take_out(plan, gone_ids)
    gone_ids |= inside_of(plan, {s.id for s in plan.sections if s.id in gone_ids})
    whole = {owner.id for i in gone_ids if (owner := whole_light(plan, i)) is not None}
    gone_ids |= whole
    lights = {i for i in gone_ids if light(plan, i) is not None}
    parts = {part for light_id in lights for part in parts_of(plan, light_id)}
    idle = fed_alone(plan, parts)
    gone_ids |= parts | idle | _channels_of(plan, lights, idle)
    groups = {name: getattr(plan, name) for name in GROUPS}
    gone = {name: {i.id for i in group if i.id in gone_ids} for name, group in groups.items()}
    kept_groups = {
        name: tuple(i for i in group if i.id not in gone[name]) if gone[name] else group
        for name, group in groups.items()
    }
    while True:
        more = False
        for name, group in kept_groups.items():
            left = tuple(k for i in group if (k := without(i, gone)) is not None)
            if len(left) != len(group) or any(a is not b for a, b in zip(left, group, strict=True)):
                lost = {i.id for i in group} - {i.id for i in left}
                gone[name] |= lost
                more = more or bool(lost)
                kept_groups[name] = left
        if not more:
            break
    update = {name: group for name, group in kept_groups.items() if group is not groups[name]}
    return copy_unchecked(plan, **update) if update else plan
