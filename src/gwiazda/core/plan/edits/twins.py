"""Sections turned round or copied to the other side of the model, with all that is in them."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from functools import partial

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits import inside_of, replace, taken_ids, with_leads
from gwiazda.core.plan.edits.items import copied, copy_checked
from gwiazda.core.plan.edits.lights import free_name
from gwiazda.core.plan.frame import FACE_NAMES, OPPOSITE, PLANES, Face, face_number
from gwiazda.core.plan.lookup import find, light, light_of, parts_of
from gwiazda.core.plan.model import (
    Box,
    Carrier,
    Dot,
    Fitting,
    Hatch,
    Item,
    Lamp,
    LampRef,
    Light,
    Model,
    Opening,
    Panel,
    Passage,
    Patch,
    Plan,
    Section,
    copy_unchecked,
    lamps_in,
    parts_in,
)
from gwiazda.core.plan.refs import renamed

Triple = tuple[float, float, float]


def _flip(point: Triple, axis: int, plane: float) -> Triple:
    out = list(point)
    out[axis] = round(2.0 * plane - out[axis], 6)
    return (out[0], out[1], out[2])


def _flip_box(box: Box, axis: int, plane: float) -> Box:
    at = list(box.at)
    at[axis] = round(2.0 * plane - at[axis] - box.size[axis], 6)
    return copy_unchecked(box, at=(at[0], at[1], at[2]))


def _face(face: Face, axis: int) -> Face:
    i = FACE_NAMES.index(face)
    return FACE_NAMES[i ^ 1] if i // 2 == axis else face


def _flip_hatch(hatch: Hatch, box: Box, axis: int) -> Hatch:
    own, at = FACE_NAMES.index(hatch.face) // 2, list(hatch.at)
    if own != axis:
        k = [a for a in range(3) if a != own].index(axis)
        at[k] = box.size[axis] - at[k]
    return copy_unchecked(hatch, face=_face(hatch.face, axis), at=(at[0], at[1]))


def _flip_patch(patch: Patch, box: Box, axis: int) -> Patch:
    own = FACE_NAMES.index(patch.face) // 2
    low, high = list(patch.low), list(patch.high)
    if axis != own:
        k = [a for a in range(3) if a != own].index(axis)
        low[k], high[k] = box.size[axis] - high[k], box.size[axis] - low[k]
    return copy_unchecked(patch, face=_face(patch.face, axis), low=(low[0], low[1]), high=(high[0], high[1]))


def mirrored(item: Item, axis: int, plane_mm: float) -> Item:
    """A section, opening or lamp as its image in the plane at ``plane_mm`` across an axis (0 = x, 1 = y, 2 = z)."""
    if isinstance(item, Section):
        outlines = []
        for outline in item.outlines:
            h, v, _ = PLANES[outline.side]
            sh, sv = (-1.0 if a == axis else 1.0 for a in (h, v))
            th, tv = (2.0 * plane_mm if a == axis else 0.0 for a in (h, v))
            outlines.append(
                copy_unchecked(
                    outline, points=tuple((round(th + sh * p, 6), round(tv + sv * q, 6)) for p, q in outline.points)
                )
            )
        return copy_unchecked(
            item,
            box=_flip_box(item.box, axis, plane_mm),
            outlines=tuple(outlines),
            closure=item.closure
            if item.closure.hatch is None
            else copy_unchecked(item.closure, hatch=_flip_hatch(item.closure.hatch, item.box, axis)),
            patches=tuple(_flip_patch(q, item.box, axis) for q in item.patches),
            face_linings=tuple(copy_unchecked(q, face=_face(q.face, axis)) for q in item.face_linings),
            seams=tuple(copy_unchecked(q, face=_face(q.face, axis)) for q in item.seams),
            obstacles=tuple(copy_unchecked(o, box=_flip_box(o.box, axis, plane_mm)) for o in item.obstacles),
        )
    update: dict[str, object] = {"at": _flip(item.at, axis, plane_mm)}
    if isinstance(item, (Opening, Dot, Panel)) and PLANES[item.side][2] == axis:
        update["side"] = OPPOSITE[item.side]
    if isinstance(item, Dot) and item.way:
        update["way"] = tuple(_flip(p, axis, plane_mm) for p in item.way)
    if isinstance(item, Passage) and item.tube is not None:
        update["tube"] = copy_unchecked(item.tube, to=_flip(item.tube.to, axis, plane_mm))
    if isinstance(item, (Opening, Fitting)):
        h, v, _ = PLANES[item.side]
        if item.points and axis in (h, v):
            update["points"] = tuple((-p, q) if axis == h else (p, -q) for p, q in item.points)
    if isinstance(item, Carrier):
        update["facing"], update["enters"] = _face(item.facing, axis), _face(item.enters, axis)
        u, v = (a for a in range(3) if a != face_number(item.facing) // 2)
        along = u if item.size[u] >= item.size[v] else v
        if item.divider is not None and axis == along:
            update["divider"] = -item.divider
    if isinstance(item, Lamp):
        update["aim"] = _flip(item.aim, axis, 0.0)
    return copy_unchecked(item, **update)


def turn_round(plan: Plan, ids: Iterable[str], axis: int) -> Plan:
    """Sections mirrored about their own middle along an axis, with their openings and lamps.

    The middle is that of the outlines, or of the inner box where none shows the axis.
    """
    changed: dict[str, Model] = {}
    for section_id in dict.fromkeys(ids):
        section = find(plan, section_id)
        if not isinstance(section, Section):
            continue
        seen = [
            p[0] if PLANES[o.side][0] == axis else p[1]
            for o in section.outlines
            if axis in PLANES[o.side][:2]
            for p in o.points
        ]
        plane = (min(seen) + max(seen)) / 2.0 if seen else section.box.centre[axis]
        mine = {section_id, *inside_of(plan, {section_id})}
        for item_id in mine:
            item = find(plan, item_id)
            assert item is not None
            changed[item_id] = mirrored(item, axis, plane)
        plan = with_leads(plan, mine, partial(_flip, axis=axis, plane=plane))
    if not changed:
        raise PlanError("Mirror", "no section is picked", "one section or more")
    return replace(plan, changed)


def other_hand(name: str) -> str:
    """A name for the image of something on the other side."""
    for a, b in (("port", "starboard"), ("starboard", "port"), ("left", "right"), ("right", "left")):
        swapped, count = re.subn(rf"\b{a}\b", b, name, flags=re.IGNORECASE)
        if count:
            return swapped[:1].upper() + swapped[1:] if name[:1].isupper() else swapped
    return f"{name}, other side"


def copy_across(plan: Plan, ids: Iterable[str]) -> tuple[Plan, list[str]]:
    """Copies of sections on the other side of the model's middle (y → −y), with all that belongs to them; and the new sections' ids.

    Lamps on their walls, ways with what they lead into, dots, lenses, circuits, leads and steps go along.

    Raises PlanError for a section that lies across the middle: its copy would lie in itself.
    """
    sections = [s for i in dict.fromkeys(ids) if isinstance(s := find(plan, i), Section)]
    if not sections:
        raise PlanError("Copy to the other side", "no section is picked", "one section or more")
    for s in sections:
        if s.box.at[1] < 0.0 < s.box.at[1] + s.box.size[1]:
            raise PlanError(
                f"Copy of {s.name}", "it lies across the middle of the model", "a section to one side of y = 0"
            )
    chosen = {s.id for s in sections}
    into = [w.id for w in plan.passages if w.into in chosen and w.section not in chosen]
    before = plan
    plan, names, copied_ids = copied(plan, [*(s.id for s in sections), *into], (0.0, 0.0, 0.0))
    changed: dict[str, Model] = {
        names[x.id]: copy_unchecked(mine, name=other_hand(x.name)[:100], twin=x.id)
        for x in before.lights
        if x.id in names and (mine := light(plan, names[x.id])) is not None
    }
    firsts = {x.id: copy_unchecked(x, twin=names[x.id]) for x in before.lights if x.id in names and not x.twin}
    plan = replace(plan, firsts)
    for old in copied_ids:
        item = find(plan, names[old])
        assert item is not None
        flipped = mirrored(item, 1, 0.0)
        if isinstance(flipped, Section):
            flipped = copy_unchecked(flipped, name=other_hand(flipped.name.removesuffix(" copy"))[:100])
        elif isinstance(flipped, (Passage, Opening)):
            was = find(before, old)
            assert isinstance(was, (Passage, Opening))
            other = image_of(before, names, was.into)
            flipped = copy_unchecked(flipped, into=other if other != flipped.section else "")
        changed[item.id] = flipped
    plan = _with_belongings(replace(plan, changed), before, names)
    return plan, [names[s.id] for s in sections]


def image_of(plan: Plan, names: Mapping[str, str], section_id: str) -> str:
    """A section on the other side: its copy by ``names``, its image, itself where it lies across the middle; "" for none."""
    if not section_id or section_id in names:
        return names.get(section_id, "")
    s = find(plan, section_id)
    assert isinstance(s, Section)
    if s.box.at[1] < 0.0 < s.box.at[1] + s.box.size[1]:
        return section_id
    image = _flip_box(s.box, 1, 0.0)
    near = (t.id for t in plan.sections if all(abs(a - b) <= ALIKE_MM for a, b in zip(t.box.at, image.at, strict=True)))
    return next(near, "")


ALIKE_MM = 0.5
HANDS = {"port": "starboard", "starboard": "port"}


def _with_belongings(plan: Plan, before: Plan, names: dict[str, str]) -> Plan:
    """A plan with what hangs together with copied lamps and sections copied too: circuits, bundles, leads, orders, one's own steps."""
    taken = taken_ids(plan)

    def fresh(old: str) -> str:
        stem, number = re.sub(r"\.\d+$", "", old)[:74], 1
        while f"{stem}.{number:02d}" in taken:
            number += 1
        taken.add(f"{stem}.{number:02d}")
        return f"{stem}.{number:02d}"

    feeds = []
    for feed in before.feeds:
        more = []
        for item in feed.items:
            lamps = [leaf.lamp for leaf in lamps_in(item)]
            if lamps and all(lamp in names for lamp in lamps):
                own = {x.id: fresh(x.id) for x in parts_in(item) if not isinstance(x, LampRef)}
                more.append(renamed(item, {**names, **own}))
        feeds.append(copy_unchecked(feed, items=(*feed.items, *more)) if more else feed)
    bundles = [copy_unchecked(b, id=fresh(b.id), lamp=names[b.lamp]) for b in before.bundles if b.lamp in names]
    leads = [
        copy_unchecked(
            x, id=fresh(x.id), lamp=names[x.lamp], tag="", through=tuple(names.get(w, w) for w in x.through),
            way=tuple(_flip(p, 1, 0.0) for p in x.way),
        )
        for x in before.leads if x.lamp in names
    ]  # fmt: skip
    orders = [
        copy_unchecked(o, id=fresh(o.id), section=names[o.section], hand=HANDS.get(o.hand, ""))
        for o in before.section_orders
        if o.section in names
    ]
    mine = [o for o in before.own_steps if o.section in names]
    steps = {o.id: fresh(o.id) for o in mine}

    def key(step: str) -> str:
        section, _, rest = step.partition(":")
        return f"{names.get(section, section)}:{steps.get(rest, rest) if section == 'own' else rest}"

    own_steps = [
        copy_unchecked(o, id=steps[o.id], section=names[o.section], after=tuple(map(key, o.after)), before=tuple(map(key, o.before)))
        for o in mine
    ]  # fmt: skip
    return copy_unchecked(
        plan, feeds=tuple(feeds), bundles=(*plan.bundles, *bundles), leads=(*plan.leads, *leads),
        section_orders=(*plan.section_orders, *orders), own_steps=(*plan.own_steps, *own_steps),
    )  # fmt: skip


def add_twin(plan: Plan, light_id: str) -> tuple[Plan, str]:
    """The image of a light on the other side of the model, with all its parts, each the other's twin; returns the plan and its id.

    Raises
    ------
    PlanError
        Where it has its twin, or lies in the middle.
    """
    first = light_of(plan, light_id)
    parts = parts_of(plan, light_id)
    if first.twin:
        raise PlanError(first.name, "it has its twin already", "a light without one")
    if not parts:
        raise PlanError(first.name, "it has no parts yet that could be mirrored", "a light that has its place")
    if all(abs(getattr(find(plan, i), "at", (0.0, 1.0))[1]) < MIDDLE_MM for i in parts):
        raise PlanError(first.name, "it lies in the middle of the model", "a light to one side of it")
    plan, names, made = copied(copy_unchecked(plan, lights=_as_whole(plan, light_id)), parts, (0.0, 0.0, 0.0))
    changed: dict[str, Model] = {}
    for old in made:
        item = find(plan, names[old])
        assert item is not None
        image, home = mirrored(item, 1, 0.0), getattr(item, "section", "")
        if home and not (there := image_of(plan, {}, home)):
            raise PlanError(
                first.name, "there is no section on the other side for it", "a section there, as a copy of this one"
            )
        changed[item.id] = copy_unchecked(image, section=there) if home else image
    twin_id = names[light_id]
    name = free_name(plan, other_hand(first.name))
    changed[twin_id] = copy_checked(light_of(plan, twin_id), name=name, twin=light_id, whole=first.whole)
    changed[light_id] = copy_unchecked(first, twin=twin_id)
    return replace(plan, changed), twin_id


def _as_whole(plan: Plan, light_id: str) -> tuple[Light, ...]:
    """The lights, this one as one thing, as what is copied whole."""
    return tuple(copy_unchecked(x, whole=True) if x.id == light_id else x for x in plan.lights)


MIDDLE_MM = 0.05  # off the middle of the model: nearer, a thing is its own image
