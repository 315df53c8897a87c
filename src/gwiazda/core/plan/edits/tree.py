"""Edits of the tree that hangs on a feed, by where things are in it: put before, move, split, join, take out.

A *target* is the id of a part (or of a lamp) next to which, or of a feed or branching part into which something goes. A
lamp that hangs nowhere has a string of its own made first.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.circuit import add_feed, off, set_supply
from gwiazda.core.plan.edits.items import copy_checked, fresh_ids
from gwiazda.core.plan.lookup import circuit_part, find, string_of
from gwiazda.core.plan.model import (
    BRANCHING,
    CircuitNode,
    Feed,
    Fuse,
    Lamp,
    LampRef,
    Load,
    Parallel,
    Plan,
    Regulated,
    Resistor,
    Series,
    Switch,
    Switched,
    Wire,
    copy_unchecked,
    lamps_in,
    parts_in,
)

KINDS: dict[str, Callable[[str], CircuitNode]] = {
    "resistor": lambda i: Resistor(id=i),
    "fuse": lambda i: Fuse(id=i),
    "switch": lambda i: Switch(id=i),
    "wire": lambda i: Wire(id=i),
    "motor": lambda i: Load(id=i, part="motor-3v"),
    "sound": lambda i: Load(id=i, part="sound-chip"),
    "regulator": lambda i: Regulated(id=i),
    "output": lambda i: Switched(id=i),
    "stage": lambda i: Switched(id=i, part="npn-small"),
}


def id_of(node: CircuitNode) -> str:
    """What a part is called: a lamp's own id, or the part's."""
    return node.lamp if isinstance(node, LampRef) else node.id


Change = Callable[[CircuitNode, bool], tuple[CircuitNode, ...]]


def mapped(items: tuple[CircuitNode, ...], change: Change, strung: bool = False) -> tuple[CircuitNode, ...]:
    """A tree with each part replaced by what ``change`` makes of it, from the leaves up; what is empty then goes.

    ``change`` is told whether the part is in a string (what it gives follows one another) or side by side with others.
    """
    out: list[CircuitNode] = []
    for item in items:
        kept: CircuitNode = item
        if isinstance(item, BRANCHING):
            inner = mapped(item.items, change, isinstance(item, Series))
            if len(inner) != len(item.items) or any(a is not b for a, b in zip(inner, item.items, strict=True)):
                kept = copy_unchecked(item, items=inner)
                if isinstance(kept, (Series, Parallel)) and not kept.holds_something:
                    continue
        out += change(kept, strung)
    return tuple(out)


def _with_trees(plan: Plan, change: Change) -> Plan:
    feeds = []
    for feed in plan.feeds:
        items = mapped(feed.items, change)
        head = tuple(x for h in feed.head for x in change(h, True))
        same = len(items) == len(feed.items) and all(a is b for a, b in zip(items, feed.items, strict=True))
        same = same and len(head) == len(feed.head) and all(a is b for a, b in zip(head, feed.head, strict=True))
        feeds.append(feed if same else copy_unchecked(feed, items=items, head=head))
    if all(a is b for a, b in zip(feeds, plan.feeds, strict=True)):
        return plan
    return copy_unchecked(plan, feeds=tuple(feeds))


def set_part(plan: Plan, part_id: str, **fields: Any) -> Plan:
    """Set fields of a part of the circuit.

    Raises
    ------
    PlanError
        When it isn't there, or has no such field.
    """
    part = circuit_part(plan, part_id)
    if part is None:
        raise PlanError(f"Part {part_id}", "isn't in the circuit", "a part that is")
    if unlike := set(fields) - set(part.__struct_fields__):
        raise PlanError(f"Part {part_id}", f"has no {', '.join(sorted(unlike))}", ", ".join(part.__struct_fields__))
    return _with_trees(plan, lambda x, _: (copy_checked(x, **fields),) if x is part else (x,))


def take_out(plan: Plan, ids: Iterable[str]) -> Plan:
    """Take parts of circuits out. What hung on a regulator or an output hangs where that hung; lamps stay lamps of the plan."""
    gone = set(ids)

    def change(x: CircuitNode, strung: bool) -> tuple[CircuitNode, ...]:
        if id_of(x) not in gone or isinstance(x, LampRef):
            return (x,)
        if not isinstance(x, (Regulated, Switched)):
            return ()
        if strung and len(x.items) > 1:
            return (Parallel(id=x.id, items=x.items),)
        return x.items

    return _with_trees(plan, change)


def _placed(plan: Plan, target: str) -> Plan:
    """The plan with a string made for a lamp that had none."""
    if isinstance(find(plan, target), Lamp) and string_of(plan, target) is None:
        return put_into(plan, plan.feeds[0].id, own_string(plan, target))
    return plan


def put_before(plan: Plan, target: str, kind: str) -> tuple[Plan, str]:
    """Put a new part in series right before a target; a feed's goes by its source. Returns the part's id.

    What branches (regulator, output, stage) takes what it is put before onto its output; a load, which stands by itself,
    goes beside.

    Raises
    ------
    PlanError
        For what can't be put there.
    """
    plan = _placed(plan, target)
    new_id = fresh_ids(plan, kind)[0]
    new = KINDS[kind](new_id)
    feed = next((f for f in plan.feeds if f.id == target), None)
    if feed is not None:
        return _put_on_feed(plan, feed, new), new_id
    if isinstance(new, Load):
        return put_into(plan, _home_of(plan, target), new), new_id
    if isinstance(new, (Regulated, Switched)):
        # Before the whole string: between its resistor and its lamp a regulator makes no sense.
        target = _string_around(plan, target) or target
    string = fresh_ids(plan, "string")[0]

    def change(x: CircuitNode, strung: bool) -> tuple[CircuitNode, ...]:
        if id_of(x) != target:
            return (x,)
        if isinstance(new, (Regulated, Switched)):
            return (copy_unchecked(new, items=(x,)),)
        if isinstance(x, Series):
            return (copy_unchecked(x, items=(new, *x.items)),)
        return (new, x) if strung else (Series(id=string, items=(new, x)),)

    after = _with_trees(plan, change)
    if after is plan:
        raise PlanError(f"Part {target}", "isn't in the circuit", "a part or lamp that is")
    return after, new_id


def _string_around(plan: Plan, target: str) -> str:
    """The id of the innermost string with a lamp or resistor in it; empty when it is in none."""
    found = ""
    for feed in plan.feeds:
        for x in parts_of(feed):
            if isinstance(x, Series) and any(
                isinstance(y, (LampRef, Resistor)) and id_of(y) == target for y in x.items
            ):
                found = x.id
            if isinstance(x, Series) and any(
                isinstance(y, Parallel) and any(isinstance(z, LampRef) and z.lamp == target for z in y.items)
                for y in x.items
            ):
                found = x.id  # it shares a resistor with others
    return found


def _put_on_feed(plan: Plan, feed: Feed, new: CircuitNode) -> Plan:
    if isinstance(new, (Fuse, Switch, Wire)):
        # The fuse first: what is behind it is what it guards.
        head = (new, *feed.head) if isinstance(new, Fuse) else (*feed.head, new)
        return _feed(plan, feed, head=head)
    if isinstance(new, Resistor):
        raise PlanError(
            "Resistor", "would lie across the source or before everything", "a place before a lamp or a string"
        )
    return _feed(plan, feed, items=(*feed.items, new))


def _feed(plan: Plan, feed: Feed, **fields: Any) -> Plan:
    return copy_unchecked(plan, feeds=tuple(copy_unchecked(f, **fields) if f is feed else f for f in plan.feeds))


def _home_of(plan: Plan, target: str) -> str:
    """The id of the branch or feed that a target hangs on side by side with others."""
    home = ""

    def look(items: tuple[CircuitNode, ...], side: str) -> None:
        nonlocal home
        for x in items:
            if id_of(x) == target:
                home = side
            if isinstance(x, Series):
                look(x.items, side)
            elif isinstance(x, BRANCHING):
                look(x.items, x.id)

    for feed in plan.feeds:
        look(feed.items, feed.id)
    return home or plan.feeds[0].id


def put_into(plan: Plan, home: str, item: CircuitNode) -> Plan:
    """Hang something on a feed, on the output of a regulator or switch, or side by side with others."""
    for feed in plan.feeds:
        if feed.id == home:
            return _feed(plan, feed, items=(*feed.items, item))
    part = circuit_part(plan, home)
    if not isinstance(part, BRANCHING):
        raise PlanError(f"Part {home}", "nothing can be hung on it", "a source, a regulator, an output, a group")
    return _with_trees(plan, lambda x, _: (copy_unchecked(part, items=(*part.items, item)),) if x is part else (x,))


def hang_into(plan: Plan, lamp_ids: Iterable[str], target: str) -> Plan:
    """Move lamps: into the string of a lamp or resistor, right behind it; onto a feed, regulator, output or group with a
    resistor each; onto a series behind its last.

    Raises
    ------
    PlanError
        When the target isn't there.
    """
    chosen = [i for i in dict.fromkeys(lamp_ids) if isinstance(find(plan, i), Lamp) and i != target]
    if not chosen:
        return plan
    plan = _placed(plan, target)
    part = circuit_part(plan, target)
    feed = next((f for f in plan.feeds if f.id == target), None)
    if feed is None and part is None and string_of(plan, target) is None:
        raise PlanError(f"Part {target}", "isn't in the circuit", "a part, lamp or source that is")
    turned = {leaf.lamp: leaf for f in plan.feeds for x in f.items for leaf in lamps_in(x)}
    leaves = tuple(turned.get(i, LampRef(lamp=i)) for i in chosen)
    free = off(plan, set(chosen))
    if feed is not None or isinstance(part, (Regulated, Switched)) or (isinstance(part, Parallel) and _own_each(part)):
        if feed is not None and feed.id == plan.feeds[0].id:
            return free
        for lamp_id in chosen:
            free = put_into(free, target, own_string(free, lamp_id))
        return free
    if isinstance(part, (Series, Parallel)):
        for leaf in leaves:
            if circuit_part(free, target) is None:
                return plan  # all that it held is on its way into it
            free = put_into(free, target, leaf)
        return free
    string = fresh_ids(plan, "string")[0]
    grouped = {id_of(x) for f in plan.feeds for item in f.items for p in parts_in(item) if isinstance(p, Parallel)
               for x in p.items}  # fmt: skip

    def change(x: CircuitNode, strung: bool) -> tuple[CircuitNode, ...]:
        if id_of(x) != target:
            return (x,)
        # Behind it in its string, beside it in its group; a bare one becomes the first of a string.
        return (x, *leaves) if strung or target in grouped else (Series(id=string, items=(x, *leaves)),)

    return _with_trees(free, change)


def _own_each(part: Parallel) -> bool:
    """Whether those side by side have a resistor each, and don't share one before them."""
    return any(isinstance(x, Series) for x in part.items)


def own_string(plan: Plan, lamp_id: str) -> Series:
    """A string of one lamp with a resistor of its own, with the lamp's fixed value where it has one."""
    lamp = find(plan, lamp_id)
    new_id = fresh_ids(plan, f"{lamp_id[:66]}.own")[0]
    ohm = lamp.resistor_ohm if isinstance(lamp, Lamp) else None
    return Series(id=new_id, items=(Resistor(id=f"{new_id[:76]}.r", ohm=ohm), LampRef(lamp=lamp_id)))


def keep_first(plan: Plan, lamp_id: str) -> Plan:
    """Take a lamp that hangs in several places out of all but the first."""
    seen = False

    def change(x: CircuitNode, _: bool) -> tuple[CircuitNode, ...]:
        nonlocal seen
        if isinstance(x, LampRef) and x.lamp == lamp_id:
            if seen:
                return ()
            seen = True
        return (x,)

    return _with_trees(plan, change)


def own_source(plan: Plan, part_id: str) -> Plan:
    """Hang a load on a source of its own, of AA cells by its voltage."""
    part = circuit_part(plan, part_id)
    if not isinstance(part, Load):
        raise PlanError(f"Part {part_id}", "is no motor or module", "a load of the circuit")
    plan = take_out(plan, [part_id])
    plan, new_id = add_feed(plan, "aa-alkaline")
    return put_into(set_supply(plan, new_id, in_series=2), new_id, part)


def regulate(plan: Plan, part_id: str, volts: float) -> Plan:
    """Put a regulator that holds ``volts`` before a part."""
    part = circuit_part(plan, part_id)
    if part is None:
        raise PlanError(f"Part {part_id}", "isn't in the circuit", "a part that is")
    plan, new_id = put_before(plan, part_id, "regulator")
    return set_part(plan, new_id, volts=volts, part="regulator-adjustable")


def split(plan: Plan, string_id: str, behind: str) -> Plan:
    """Part a string behind one of its lamps: what follows becomes a string beside it, with a resistor to be chosen.

    Raises
    ------
    PlanError
        When nothing follows there.
    """
    part = circuit_part(plan, string_id)
    at = next((i for i, x in enumerate(part.items) if id_of(x) == behind), -1) if isinstance(part, Series) else -1
    if not isinstance(part, Series) or not any(lamps_in(x) for x in part.items[at + 1 :]) or at < 0:
        raise PlanError(f"String {string_id}", f"nothing follows behind {behind}", "a lamp with others behind it")
    new_id = fresh_ids(plan, "string")[0]
    rest = Series(id=new_id, items=(Resistor(id=f"{new_id}.r"), *part.items[at + 1 :]))
    home = _home_of(plan, string_id)
    kept = copy_unchecked(part, items=part.items[: at + 1])
    plan = _with_trees(plan, lambda x, _: (kept,) if x is part else (x,))
    return put_into(plan, home, rest)


def group_switch(plan: Plan, ids: Iterable[str], kind: str) -> tuple[Plan, str]:
    """One switch, regulator, output or stage for several strings and lamps: they hang on it side by side from then on.

    Raises
    ------
    PlanError
        When nothing of a circuit is among them.
    """
    plan_ids = list(dict.fromkeys(ids))
    if kind in ("motor", "sound"):
        return put_before(plan, plan_ids[0], kind)  # it stands by itself, beside them
    for i in plan_ids:
        plan = _placed(plan, i)
    tops = []
    for i in plan_ids:
        top = string_of(plan, i) if isinstance(find(plan, i), Lamp) else circuit_part(plan, i)
        if (
            top is not None
            and isinstance(top, (Series, Parallel, LampRef, Load, Regulated, Switched))
            and top not in tops
        ):
            tops.append(top)
    feed = next((f for f in plan.feeds if any(x in f.items for x in tops)), None)
    if not tops or feed is None:
        raise PlanError("Group", "no lamp or string of a source is picked", "lamps or strings to be worked together")
    tops = [x for x in feed.items if x in tops]
    new_id = fresh_ids(plan, kind)[0]
    new = KINDS[kind](new_id)
    if isinstance(new, (Regulated, Switched)):
        made: CircuitNode = copy_unchecked(new, items=tuple(tops))
    elif len(tops) == 1:
        inner = tops[0].items if isinstance(tops[0], Series) else (tops[0],)
        name = tops[0].id if isinstance(tops[0], Series) else f"{new_id}.s"
        made = Series(id=name, items=(new, *inner))
    else:
        side = Parallel(id=f"{new_id}.p", items=tuple(tops))
        made = Series(id=f"{new_id}.s", items=(new, side))
    items: list[CircuitNode] = []
    for x in feed.items:
        if x is tops[0]:
            items.append(made)
        elif x not in tops:
            items.append(x)
    return _feed(plan, feed, items=tuple(items)), new_id


def parts_of(feed: Feed) -> tuple[CircuitNode, ...]:
    """All that is in a feed."""
    return tuple(x for item in (*feed.head, *feed.items) for x in parts_in(item))


def set_pair(plan: Plan, lamp_id: str, how: str, a_ohm: float, b_ohm: float) -> Plan:
    """Two resistors for a lamp's string in place of its first: one after the other (``series``) or side by side.

    Raises
    ------
    PlanError
        When the lamp has no string with a resistor.
    """
    plan = _placed(plan, lamp_id)
    string = _string_around(plan, lamp_id)
    part = circuit_part(plan, string) if string else None
    first = next((x for x in part.items if isinstance(x, Resistor)), None) if isinstance(part, Series) else None
    if first is None or not isinstance(part, Series):
        raise PlanError(f"Lamp {lamp_id}", "has no resistor in its string", "a string with one")
    other = fresh_ids(plan, f"{first.id[:70]}.b")[0]
    two: tuple[CircuitNode, ...] = (copy_unchecked(first, ohm=a_ohm), Resistor(id=other, ohm=b_ohm))
    if how == "parallel":
        two = (Parallel(id=f"{other[:76]}.p", items=two),)
    items = tuple(y for x in part.items for y in (two if x is first else (x,)))
    return _with_trees(plan, lambda x, _: (copy_unchecked(part, items=items),) if x is part else (x,))
