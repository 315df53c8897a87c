"""Finding things in a plan by id, with the tables kept for as long as the plan's pieces are the very same."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from typing import Any, TypeVar

import numpy as np

from gwiazda.core.errors import GoneError
from gwiazda.core.memo import memoize
from gwiazda.core.plan.frame import PLANES, Side, face_number
from gwiazda.core.plan.model import (
    BRANCHING,
    PLACED,
    TIMED,
    Bundle,
    Carrier,
    CircuitNode,
    Dot,
    Feed,
    Fitting,
    Item,
    Lamp,
    LampRef,
    Light,
    Node,
    Opening,
    Passage,
    Plan,
    Resistor,
    Section,
    Series,
    Timed,
    Tube,
    lamps_in,
    parts_in,
)

SLACK_MM = 1e-6
M = TypeVar("M")


@memoize(slots=4, by=lambda group: type(group[0]).__name__ if group else "", places=32)
def _table(group: tuple[Any, ...]) -> dict[str, Any]:
    return {item.id: item for item in group}


def item_of(group: tuple[M, ...], item_id: str, noun: str) -> M:
    """The one of a group that has this id.

    Raises
    ------
    GoneError
        When there is none.
    """
    try:
        return _table(group)[item_id]  # type: ignore[no-any-return]
    except KeyError:
        raise GoneError(noun, item_id) from None


def find(plan: Plan, item_id: str) -> Item | None:
    """Whatever has a place on the plate of that id, or None."""
    for kind in PLACED:
        item: Item | None = _table(getattr(plan, kind.group)).get(item_id)
        if item is not None:
            return item
    return None


@memoize()
def _part_table(feeds: tuple[Feed, ...]) -> dict[str, tuple[Node, Feed]]:
    return {
        part.id: (part, feed)
        for feed in feeds
        for item in (*feed.head, *feed.items)
        for part in parts_in(item)
        if not isinstance(part, LampRef)
    }


def circuit_part(plan: Plan, part_id: str) -> Node | None:
    """The part of a circuit of that id (no lamp), or None."""
    found = _part_table(plan.feeds).get(part_id)
    return found[0] if found is not None else None


def feed_with(plan: Plan, part_id: str) -> Feed | None:
    """The feed that a part of a circuit is in, or the feed itself by its id."""
    found = _part_table(plan.feeds).get(part_id)
    return found[1] if found is not None else next((f for f in plan.feeds if f.id == part_id), None)


def lamps_behind(plan: Plan, part_id: str) -> tuple[str, ...]:
    """Lamps that a part of a circuit has to do with: on it, in its string, or all of a feed for what all goes through."""
    found: tuple[str, ...] = ()
    for i, feed in enumerate(plan.feeds):
        if any(x.id == part_id for x in feed.head):
            hung = {leaf.lamp for f in plan.feeds for item in f.items for leaf in lamps_in(item)}
            mine = tuple(leaf.lamp for item in feed.items for leaf in lamps_in(item))
            return mine + (tuple(p.id for p in plan.lamps if p.id not in hung) if i == 0 else ())
        for item in feed.items:
            for x in parts_in(item):
                own = not isinstance(x, LampRef) and x.id == part_id
                around = isinstance(x, Series) and any(not isinstance(y, LampRef) and y.id == part_id for y in x.items)
                if (own or around) and (lamps := tuple(leaf.lamp for leaf in lamps_in(x))):
                    found = lamps  # the innermost comes last
    return found


def timed(plan: Plan, item_id: str) -> Timed | None:
    """The cue, channel, trigger or board of that id, or None: what belongs to time has no place on the plate."""
    for kind in TIMED:
        item: Timed | None = _table(getattr(plan, kind.group)).get(item_id)
        if item is not None:
            return item
    return None


def light(plan: Plan, item_id: str) -> Light | None:
    """The light of that id, or None: it is where its parts are."""
    found: Light | None = _table(plan.lights).get(item_id)
    return found


def light_of(plan: Plan, light_id: str) -> Light:
    return item_of(plan.lights, light_id, "light")


@memoize(gathers=True)
def _parts_table(
    lamps: tuple[Lamp, ...], openings: tuple[Opening, ...], dots: tuple[Dot, ...]
) -> dict[str, tuple[str, ...]]:
    found: dict[str, list[str]] = {}
    for group in (lamps, openings, dots):
        for part in group:
            if part.light:
                found.setdefault(part.light, []).append(part.id)
    return {key: tuple(parts) for key, parts in found.items()}


def parts_of(plan: Plan, light_id: str) -> tuple[str, ...]:
    """The lamps, openings and dots that say they belong to a light, in this order."""
    return _parts_table(plan.lamps, plan.openings, plan.dots).get(light_id, ())


def whole_light(plan: Plan, part_id: str) -> Light | None:
    """The light that a part is of, where its parts make one thing."""
    part = find(plan, part_id)
    owner = light(plan, part.light) if isinstance(part, (Lamp, Opening, Dot)) and part.light else None
    return owner if owner is not None and owner.whole else None


def fed_alone(plan: Plan, parts: Iterable[str]) -> set[str]:
    """The lamps for fibres that feed nothing but these dots."""
    mine = set(parts)
    fed = {d.lamp for d in plan.dots if d.id in mine and d.lamp}
    shared = {d.lamp for d in plan.dots if d.id not in mine}
    return {p.id for p in plan.lamps if p.id in fed - shared and p.mount == "fibre"}


def with_parts(plan: Plan, ids: Iterable[str]) -> list[str]:
    """Ids with those of lights replaced by their parts, each once, in order."""
    out: dict[str, None] = {}
    for item_id in ids:
        out.update(dict.fromkeys(parts_of(plan, item_id) if light(plan, item_id) is not None else (item_id,)))
    return list(out)


def known(plan: Plan, item_id: str) -> bool:
    """Whether anything of the plan that can be picked has that id."""
    return any(f(plan, item_id) is not None for f in (find, feed_with, timed, light))


def lamps_table(lamps: tuple[Lamp, ...]) -> dict[str, Lamp]:
    """Lamps by id."""
    return _table(lamps)


def lamp_of(plan: Plan, lamp_id: str) -> Lamp:
    return item_of(plan.lamps, lamp_id, "lamp")


def dot_of(plan: Plan, dot_id: str) -> Dot:
    return item_of(plan.dots, dot_id, "dot")


@memoize()
def bundle_table(bundles: tuple[Bundle, ...]) -> dict[str, Bundle]:
    """What is decided of the bundle on each lamp, by the lamp's id."""
    return {b.lamp: b for b in reversed(bundles)}


@memoize()
def dots_by_lamp(dots: tuple[Dot, ...]) -> dict[str, tuple[Dot, ...]]:
    """Dots grouped by the lamp they are on, in plan order; those on none are left out."""
    groups: dict[str, list[Dot]] = {}
    for dot in dots:
        if dot.lamp:
            groups.setdefault(dot.lamp, []).append(dot)
    return {key: tuple(group) for key, group in groups.items()}


def section_of(plan: Plan, section_id: str) -> Section:
    return item_of(plan.sections, section_id, "section")


def open_sections(plan: Plan) -> frozenset[str]:
    """Sections that something closes, and that aren't closed for good yet."""
    sealed = {s.section for s in plan.seals}
    return frozenset(s.id for s in plan.sections if s.closure.by not in ("", "open") and s.id not in sealed)


def opening_of(plan: Plan, opening_id: str) -> Opening:
    return item_of(plan.openings, opening_id, "opening")


@memoize()
def _string_table(feeds: tuple[Feed, ...]) -> dict[str, CircuitNode]:
    return {leaf.lamp: item for feed in feeds for item in feed.items for leaf in lamps_in(item)}


def string_of(plan: Plan, lamp_id: str) -> CircuitNode | None:
    """What hangs on a feed with this lamp in it, or None when it has a resistor of its own."""
    return _string_table(plan.feeds).get(lamp_id)


@memoize()
def lamps_by_section(
    sections: tuple[Section, ...], lamps: tuple[Lamp, ...], mounts: tuple[str, ...] = ("inside",)
) -> dict[str, str | None]:
    """Which section's inner box each lamp that lights it is in: lamp id → section id, None when in none.

    The smallest box wins where boxes overlap. ``mounts`` are those that count: a lamp for fibres sits inside and lights
    nothing there.
    """
    inside = [lamp for lamp in lamps if lamp.mount in mounts]
    if not inside:
        return {}
    ordered = sorted(sections, key=lambda s: s.box.size[0] * s.box.size[1] * s.box.size[2])
    if not ordered:
        return dict.fromkeys(lamp.id for lamp in inside)
    at = np.array([lamp.at for lamp in inside])
    low = np.array([s.box.at for s in ordered]) - SLACK_MM
    high = low + np.array([s.box.size for s in ordered]) + 2 * SLACK_MM
    within = np.ones((len(inside), len(ordered)), dtype=bool)
    for axis in range(3):  # an axis at a time: all three in one array take ten times as long
        a = at[:, axis, None]
        within &= (a >= low[:, axis]) & (a <= high[:, axis])
    first = np.where(within.any(axis=1), within.argmax(axis=1), -1).tolist()
    return {lamp.id: ordered[i].id if i >= 0 else None for lamp, i in zip(inside, first, strict=True)}


BEHIND_MM, BEFORE_MM, BESIDE_MM = 3.0, 8.0, 0.1


def lamps_on(carrier: Carrier, lamps: tuple[Lamp, ...]) -> tuple[Lamp, ...]:
    """The lamps that a carrier holds: those that stand in it or on it, or a little behind in their holes."""
    axis, sign = face_number(carrier.facing) // 2, 1.0 if face_number(carrier.facing) % 2 else -1.0
    out = []
    for lamp in lamps:
        if lamp.mount == "outside":
            continue
        off = [p - a for p, a in zip(lamp.at, carrier.at, strict=True)]
        beside = all(abs(off[k]) <= carrier.size[k] / 2 + BESIDE_MM for k in range(3) if k != axis)
        along, half = sign * off[axis], carrier.size[axis] / 2
        if beside and -half - BEHIND_MM <= along <= half + BEFORE_MM:
            out.append(lamp)
    return tuple(out)


NEAR_MM = 1000.0  # of a section: what stands anywhere on a model is wired through the nearest


@memoize()
def housed(sections: tuple[Section, ...], items: tuple[Lamp, ...]) -> dict[str, str]:
    """Which section each lamp is wired from, however it is mounted: the smallest it lies in, else the nearest; "" for none near."""
    if not items or not sections:
        return {i.id: "" for i in items}
    ordered = sorted(sections, key=lambda s: s.box.size[0] * s.box.size[1] * s.box.size[2])
    at = np.array([i.at for i in items])[:, None, :]
    low = np.array([s.box.at for s in ordered])
    high = low + np.array([s.box.size for s in ordered])
    away = np.linalg.norm(np.maximum(np.maximum(low - at, at - high), 0.0), axis=2)
    away[away <= SLACK_MM] = 0.0
    best = away.argmin(axis=1)
    return {
        i.id: ordered[k].id if gap <= NEAR_MM else ""
        for i, k, gap in zip(items, best.tolist(), away.min(axis=1).tolist(), strict=True)
    }


def find_near(sections: tuple[Section, ...], at: tuple[float, float, float]) -> str:
    """The section a place lies in or is nearest to; "" for none near."""

    def away(s: Section) -> tuple[float, float]:
        gaps = (max(a - x, x - a - d, 0.0) for x, a, d in zip(at, s.box.at, s.box.size, strict=True))
        return round(math.hypot(*gaps), 6), math.prod(s.box.size)

    best = min(sections, key=away, default=None)
    return best.id if best is not None and away(best)[0] <= NEAR_MM else ""


ON_WALL_MM = 12.0  # off a section's box, beyond its wall: a lamp seen itself sits on it and goes with it


@memoize()
def on_walls(sections: tuple[Section, ...], lamps: tuple[Lamp, ...]) -> dict[str, str]:
    """The section whose wall each lamp that is seen itself sits on or in; those that stand elsewhere are left out."""
    seen = tuple(p for p in lamps if p.mount == "outside")
    by_id = {s.id: s for s in sections}
    out = {}
    for p in seen:
        s = by_id.get(housed(sections, seen)[p.id])
        if s is None:
            continue
        off = [max(a - x, x - a - d, 0.0) for x, a, d in zip(p.at, s.box.at, s.box.size, strict=True)]
        if math.hypot(*off) <= ON_WALL_MM + s.wall_mm:
            out[p.id] = s.id
    return out


@memoize()
def built_into(sections: tuple[Section, ...], lamps: tuple[Lamp, ...]) -> dict[str, str | None]:
    """The section that each lamp is set, wired and tested with: the one it lies in; of one that is seen itself the one its leads enter,
    as it is pushed through from inside before that is closed. None for one that is fitted late, or where there is no section."""
    inside = lamps_by_section(sections, lamps, ("inside", "fibre"))
    enters = housed(sections, tuple(p for p in lamps if p.mount == "outside" and not p.late))
    return {p.id: inside.get(p.id) or enters.get(p.id) or None for p in lamps}


def _joints(node: CircuitNode) -> Iterator[tuple[str, int]]:
    """Lamps of a part of the tree with the joints that each brings."""
    first = True
    if isinstance(node, Series):
        resistors = sum(isinstance(x, Resistor) for x in node.items)
        for x in node.items:
            for lamp, count in _joints(x):
                alone = isinstance(x, LampRef)
                yield lamp, (count + resistors if first else (1 if alone else count))
                first = False
    elif isinstance(node, LampRef):
        yield node.lamp, 2
    elif isinstance(node, BRANCHING):
        for x in node.items:
            yield from _joints(x)


@memoize()
def joints_by_lamp(feeds: tuple[Feed, ...]) -> dict[str, int]:
    """How many joints each lamp brings to the solder.

    One on its own has three with its resistor: to plus, between them, to minus. In a string each further lamp brings one; side by
    side each has two ends of its own.
    """
    return {lamp: n for f in feeds for item in f.items for lamp, n in _joints(item)}


def same_plan(a: Plan, b: Plan) -> bool:
    """Whether two plans are equal; what they share is not looked through."""
    if a is b:
        return True
    for name in a.__struct_fields__:
        x, y = getattr(a, name), getattr(b, name)
        if x is y:
            continue
        if isinstance(x, tuple) and isinstance(y, tuple):
            if len(x) != len(y) or not all(i is j or i == j for i, j in zip(x, y, strict=True)):
                return False
        elif x != y:
            return False
    return True


@memoize()
def openings_by_section(openings: tuple[Opening, ...]) -> dict[str, tuple[Opening, ...]]:
    """Openings grouped by section id, in plan order."""
    groups: dict[str, list[Opening]] = {}
    for opening in openings:
        groups.setdefault(opening.section, []).append(opening)
    return {key: tuple(group) for key, group in groups.items()}


def looked_at_from(plan: Plan, side: Side) -> bool:
    """Whether a plan has a view from a side."""
    return any(v.side == side for v in plan.views)


@memoize(slots=8)
def _standing(fittings: tuple[Fitting, ...], passages: tuple[Passage, ...]) -> tuple[Fitting, ...]:
    made = tuple(_as_fitting(p, p.tube) for p in passages if p.tube is not None)
    return (*fittings, *made) if made else fittings


def standing(plan: Plan) -> tuple[Fitting, ...]:
    """What stands on the outside as a solid: fittings, and the tubes of stands by their passages' ids."""
    return _standing(plan.fittings, plan.passages)


def _as_fitting(passage: Passage, tube: Tube) -> Fitting:
    """A tube as it is drawn: in the view along which it leans least, as thick as it is wide."""
    lean = [abs(a - b) for a, b in zip(passage.at, tube.to, strict=True)]
    side: Side = "port" if lean[1] <= min(lean[0], lean[2]) + 1e-9 else "bow" if lean[0] <= lean[2] else "top"
    h, v, _ = PLANES[side]
    x, y, z = ((a + b) / 2.0 for a, b in zip(passage.at, tube.to, strict=True))
    u, w = tube.to[h] - passage.at[h], tube.to[v] - passage.at[v]
    length, half = max(math.hypot(u, w), 1e-6), tube.outer_mm / 2.0
    ends = ((-u / 2.0, -w / 2.0), (u / 2.0, w / 2.0))
    across = (-w / length * half, u / length * half)
    points = tuple(
        (p + s * across[0], q + s * across[1])
        for (p, q), s in ((ends[0], -1), (ends[0], 1), (ends[1], 1), (ends[1], -1))
    )
    return Fitting(
        id=passage.id, name=passage.name, section=passage.section, side=side, at=(x, y, z), points=points, thick_mm=tube.outer_mm
    )  # fmt: skip


SMALL = 8  # lamps and dots: a handful, done in an evening or two


def is_small(plan: Plan) -> bool:
    """Whether a plan is a handful of lights, or none yet."""
    return len(plan.lamps) + len(plan.dots) <= SMALL
