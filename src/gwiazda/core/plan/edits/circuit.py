"""Edits of the circuit: sources, strings, resistors."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.items import copy_checked, fresh_ids, replace, taken_ids
from gwiazda.core.plan.lookup import find, string_of
from gwiazda.core.plan.model import (
    CircuitNode,
    Feed,
    Lamp,
    LampRef,
    Model,
    Parallel,
    Plan,
    Resistor,
    Series,
    copy_unchecked,
    lamps_in,
    parts_in,
)
from gwiazda.core.plan.refs import without


def set_supply(plan: Plan, feed_id: str = "", **fields: Any) -> Plan:
    """Set fields of a feed's source; of the first one's when none is named."""
    feeds = tuple(
        copy_unchecked(f, supply=copy_checked(f.supply, **fields)) if f.id == (feed_id or plan.feeds[0].id) else f
        for f in plan.feeds
    )
    return copy_unchecked(plan, feeds=feeds)


def set_feed(plan: Plan, feed_id: str, **fields: Any) -> Plan:
    """Set fields of a feed itself: its name, the hours a day it is lit."""
    return copy_unchecked(plan, feeds=tuple(copy_checked(f, **fields) if f.id == feed_id else f for f in plan.feeds))


def add_feed(plan: Plan, part: str) -> tuple[Plan, str]:
    """Another source; nothing hangs on it yet."""
    new_id = fresh_ids(plan, "supply")[0]
    feed = Feed(id=new_id, name=f"Source {len(plan.feeds) + 1}")
    plan = copy_unchecked(plan, feeds=(*plan.feeds, feed))
    return set_supply(plan, new_id, part=part), new_id


def drop_feed(plan: Plan, feed_id: str) -> Plan:
    """Take a source away; what hung on it hangs on the first, with resistors of its own.

    Raises PlanError for the only one.
    """
    if len(plan.feeds) == 1:
        raise PlanError("Source", "it is the only one", "another source beside it")
    return copy_unchecked(plan, feeds=tuple(f for f in plan.feeds if f.id != feed_id))


def off(plan: Plan, lamp_ids: set[str], least: int = 1) -> Plan:
    """Lamps taken out of whatever they hang in; strings of nothing but lamps with fewer than ``least`` of them left go."""
    feeds = []
    for feed in plan.feeds:
        left = without(feed, {"lamps": lamp_ids})
        assert left is not None
        items = tuple(x for x in left.items if x in feed.items or not only_lamps(x) or len(lamps_in(x)) >= least)
        feeds.append(left if items == left.items else copy_unchecked(left, items=items))
    if all(a is b for a, b in zip(feeds, plan.feeds, strict=True)):
        return plan
    return copy_unchecked(plan, feeds=tuple(feeds))


def only_lamps(item: CircuitNode) -> bool:
    """Whether there are but lamps and resistors in a part of the tree: what a lamp on its own has too."""
    return all(isinstance(x, (Series, Parallel, LampRef, Resistor)) for x in parts_in(item))


def _hang(plan: Plan, feed_id: str, item: CircuitNode) -> Plan:
    feeds = tuple(copy_unchecked(f, items=(*f.items, item)) if f.id == feed_id else f for f in plan.feeds)
    return copy_unchecked(plan, feeds=feeds)


def feed_of(plan: Plan, lamp_id: str) -> Feed:
    """The feed a lamp hangs on."""
    for feed in plan.feeds:
        if any(leaf.lamp == lamp_id for item in feed.items for leaf in lamps_in(item)):
            return feed
    return plan.feeds[0]


def wire_in_series(plan: Plan, lamp_ids: Iterable[str]) -> Plan:
    """One string of these lamps, in the order given, taken out of whatever strings they were in."""
    chosen = tuple(dict.fromkeys(i for i in lamp_ids if isinstance(find(plan, i), Lamp)))
    if len(chosen) < 2:
        raise PlanError("String", f"{len(chosen)} lamp selected", "two or more lamps")
    feed = feed_of(plan, chosen[0]).id
    plan = wire_singly(plan, chosen)
    plan = off(plan, set(chosen))
    stem = re.sub(r"\.\d+$", "", chosen[0]).rsplit(".", 1)[0] or "string"
    new_id = fresh_ids(plan, f"{stem}.string")[0]
    return _hang(plan, feed, _string(new_id, chosen, None))


def _string(item_id: str, lamps: tuple[str, ...], ohm: float | None) -> Series:
    return Series(id=item_id, items=(Resistor(id=f"{item_id[:78]}.r", ohm=ohm), *(LampRef(lamp=i) for i in lamps)))


def wire_side_by_side(plan: Plan, lamp_ids: Iterable[str]) -> Plan:
    """These lamps side by side behind one resistor that they share."""
    chosen = tuple(dict.fromkeys(i for i in lamp_ids if isinstance(find(plan, i), Lamp)))
    if len(chosen) < 2:
        raise PlanError("Side by side", f"{len(chosen)} lamp selected", "two or more lamps")
    feed = feed_of(plan, chosen[0]).id
    plan = off(wire_singly(plan, chosen), set(chosen))
    stem = re.sub(r"\.\d+$", "", chosen[0]).rsplit(".", 1)[0] or "group"
    new_id = fresh_ids(plan, f"{stem}.group")[0]
    side = Parallel(id=f"{new_id[:76]}.p", items=tuple(LampRef(lamp=i) for i in chosen))
    return _hang(plan, feed, Series(id=new_id, items=(Resistor(id=f"{new_id[:78]}.r"), side)))


def wire_singly(plan: Plan, lamp_ids: Iterable[str]) -> Plan:
    """Give each of these lamps a resistor of its own again, on the feed it hangs on."""
    chosen = [i for i in dict.fromkeys(lamp_ids) if isinstance(find(plan, i), Lamp)]
    first = plan.feeds[0].id
    homes = {i: feed_of(plan, i).id for i in chosen}
    plan = off(plan, set(chosen), least=2)
    for lamp_id, home in homes.items():
        if home != first:
            plan = hang_on(plan, [lamp_id], home)
    return plan


def hang_on(plan: Plan, lamp_ids: Iterable[str], feed_id: str) -> Plan:
    """Let lamps hang on a feed, each with a resistor of its own."""
    chosen = [i for i in dict.fromkeys(lamp_ids) if isinstance(find(plan, i), Lamp)]
    plan = off(plan, set(chosen), least=2)
    if feed_id == plan.feeds[0].id:
        return plan
    taken = taken_ids(plan)
    for lamp_id in chosen:
        new_id = next(n for k in range(10_000) if (n := f"{lamp_id[:70]}.own{k or ''}") not in taken)
        taken.add(new_id)
        plan = _hang(plan, feed_id, _string(new_id, (lamp_id,), None))
    return plan


def put_on_rails(plan: Plan, lamp_ids: Iterable[str]) -> Plan:
    """Let lamps that have their resistors built in hang straight between the rails of their feed."""
    chosen = [i for i in dict.fromkeys(lamp_ids) if isinstance(find(plan, i), Lamp)]
    homes = {i: feed_of(plan, i).id for i in chosen}
    plan = off(plan, set(chosen), least=2)
    plan = replace(
        plan, {i: copy_unchecked(lamp, resistor_ohm=None) for i in chosen if isinstance(lamp := find(plan, i), Lamp)}
    )
    for lamp_id, home in homes.items():
        plan = _hang(plan, home, LampRef(lamp=lamp_id))
    return plan


def set_resistor(plan: Plan, lamp_ids: Iterable[str], ohm: float | None) -> Plan:
    """Fix the resistor of the lamps' strings (or of the lamps themselves); None lets Gwiazda choose again."""
    chosen = set(lamp_ids)
    changed: dict[str, Model] = {}
    strung: set[str] = set()
    for feed in plan.feeds:
        items = []
        for item in feed.items:
            mine = {leaf.lamp for leaf in lamps_in(item)}
            strung |= mine
            items.append(_with_resistor(item, ohm) if chosen & mine else item)
        if any(a is not b for a, b in zip(items, feed.items, strict=True)):
            changed[feed.id] = copy_unchecked(feed, items=tuple(items))
    for lamp in plan.lamps:
        if lamp.id in chosen and lamp.id not in strung:
            changed[lamp.id] = copy_checked(lamp, resistor_ohm=ohm)
    return replace(plan, changed)


def _with_resistor(item: CircuitNode, ohm: float | None) -> CircuitNode:
    """The first resistor of a string set; one put before it where it has none."""
    if isinstance(item, Series):
        for i, part in enumerate(item.items):
            if isinstance(part, Resistor):
                return copy_unchecked(item, items=(*item.items[:i], copy_checked(part, ohm=ohm), *item.items[i + 1 :]))
        return copy_unchecked(item, items=(copy_checked(Resistor(id=f"{item.id[:78]}.r"), ohm=ohm), *item.items))
    return item


def reverse(plan: Plan, lamp_id: str) -> Plan:
    """Turn a lamp round in its string, the wrong way or back. One with a resistor of its own gets a string to be turned in."""
    if string_of(plan, lamp_id) is None:
        new_id = fresh_ids(plan, f"{lamp_id[:70]}.own")[0]
        lamp = find(plan, lamp_id)
        ohm = lamp.resistor_ohm if isinstance(lamp, Lamp) else None
        plan = _hang(plan, plan.feeds[0].id, _string(new_id, (lamp_id,), ohm))
    feeds = tuple(copy_unchecked(f, items=tuple(_reversed(x, lamp_id) for x in f.items)) for f in plan.feeds)
    return copy_unchecked(plan, feeds=feeds)


def _reversed(item: CircuitNode, lamp_id: str) -> CircuitNode:
    if isinstance(item, LampRef):
        return copy_unchecked(item, reversed=not item.reversed) if item.lamp == lamp_id else item
    if isinstance(item, (Series, Parallel)):
        return copy_unchecked(item, items=tuple(_reversed(x, lamp_id) for x in item.items))
    return item
