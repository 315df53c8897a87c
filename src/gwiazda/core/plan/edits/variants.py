"""Named alternatives of a section or a circuit: kept, put in place of what is there, chosen with a reason.

A variant holds what a plan file would hold of its subject alone. Put in place, it brings back just that: what else was changed in the
plan meanwhile stays, and what it refers to that is no longer there is left out.
"""

from __future__ import annotations

import json
from typing import Any

from gwiazda.core.errors import GwiazdaError, PlanError
from gwiazda.core.memo import memoize, same_value
from gwiazda.core.plan.edits.circuit import off, only_lamps
from gwiazda.core.plan.edits.items import copy_checked, delete, fresh_ids, inside_of, taken_ids
from gwiazda.core.plan.edits.log import add_entry
from gwiazda.core.plan.lookup import fed_alone, light, parts_of
from gwiazda.core.plan.model import IN_VARIANT, CircuitNode, Feed, Plan, Variant, copy_unchecked, lamps_in
from gwiazda.core.plan.refs import nested, references, renamed, without
from gwiazda.core.plan.storage import piece_from_json, plan_to_json

MOST_BYTES = 2_000_000


def subject_of(plan: Plan, subject: str) -> str:
    """What kind of variant there can be of something: "section", "circuit", or "" for none."""
    if any(s.id == subject for s in plan.sections):
        return "section"
    return "circuit" if any(f.id == subject for f in plan.feeds) else ""


def _mine(plan: Plan, section_id: str) -> set[str]:
    """All that belongs to a section, itself among it, what is said of its lamps, and the lights that lie in it alone."""
    mine = {section_id, *inside_of(plan, {section_id})}
    lights = {x.id for x in plan.lights if x.whole and (parts := parts_of(plan, x.id)) and mine.issuperset(parts)}
    mine |= lights | fed_alone(plan, (part for light_id in lights for part in parts_of(plan, light_id)))
    return mine | {x.id for group in (plan.bundles, plan.leads) for x in group if x.lamp in mine}


def _own_nodes(feed: Feed, lamps: set[str]) -> tuple[CircuitNode, ...]:
    """What hangs on a feed with these lamps and no others, and nothing but resistors."""
    return tuple(
        x for x in feed.items if only_lamps(x) and (here := {leaf.lamp for leaf in lamps_in(x)}) and here <= lamps
    )


def piece_of(plan: Plan, subject: str) -> Plan:
    """A section with all in it and its strings, or a circuit, as a plan of its own.

    Raises
    ------
    PlanError
        For what is neither.
    """
    kind = subject_of(plan, subject)
    if kind == "circuit":
        return Plan(feeds=tuple(f for f in plan.feeds if f.id == subject))
    if kind != "section":
        raise PlanError("Variant", f"“{subject}” is no section and no source", "pick a section or a source first")
    mine = _mine(plan, subject)
    groups: dict[str, Any] = {name: tuple(x for x in getattr(plan, name) if x.id in mine) for name in IN_VARIANT}
    lamps = {p.id for p in groups["lamps"]}
    feeds = tuple(Feed(id=f.id, items=_own_nodes(f, lamps)) for f in plan.feeds)
    return Plan(feeds=tuple(f for f in feeds if f.items) or feeds[:1], **groups)


def pieces_of(plan: Plan, subject: str) -> dict[str, Any]:
    """The same in built-in values, as a plan file has it."""
    found: dict[str, Any] = json.loads(plan_to_json(piece_of(plan, subject)))
    if len(json.dumps(found)) > MOST_BYTES:
        raise PlanError("Variant", "what belongs to it takes more than 2 MB", "a smaller section")
    return found


@memoize(slots=64, same=same_value)
def _read(pieces: str) -> Plan:
    return piece_from_json(pieces)


def piece_in(variant: Variant) -> Plan:
    """A variant's piece as a plan; raises PlanError for one that can't be read."""
    return _read(json.dumps(variant.pieces))


def keep_variant(plan: Plan, subject: str, name: str, at: str = "") -> tuple[Plan, str]:
    """What is there now, kept under a name as an alternative; one of that name and subject is replaced. Returns its id too."""
    name = " ".join(name.split())[:80]
    if not name:
        raise PlanError("Variant", "it has no name", "a word or two: two lamps, shared resistor")
    pieces = pieces_of(plan, subject)
    old = next((v for v in plan.variants if v.subject == subject and v.name == name), None)
    if old is not None:
        new = copy_checked(old, pieces=pieces, at=at)
        return copy_unchecked(plan, variants=tuple(new if v is old else v for v in plan.variants)), old.id
    made = copy_checked(
        Variant(id=fresh_ids(plan, "variant")[0], name=name, subject=subject),
        of=subject_of(plan, subject), at=at, pieces=pieces,
    )  # fmt: skip
    return copy_unchecked(plan, variants=(*plan.variants, made)), made.id


def variant_of(plan: Plan, variant_id: str) -> Variant:
    found = next((v for v in plan.variants if v.id == variant_id), None)
    if found is None:
        raise PlanError("Variant", f"there is no variant “{variant_id}”", "one of the plan")
    return found


def stands(plan: Plan, variant: Variant) -> bool:
    """Whether a variant is what the plan has now, in whatever order."""
    if not subject_of(plan, variant.subject):
        return False
    try:
        piece = piece_in(variant)
    except GwiazdaError:
        return False
    now = piece_of(plan, variant.subject)
    return all(same_things(getattr(piece, name), getattr(now, name)) for name in (*IN_VARIANT, "feeds"))


def same_things(a: tuple[Any, ...], b: tuple[Any, ...]) -> bool:
    """Whether two groups hold the same things, what hangs on a source in whatever order."""

    def by_id(group: tuple[Any, ...]) -> dict[str, Any]:
        return {
            x.id: copy_unchecked(x, items=tuple(sorted(x.items, key=repr))) if isinstance(x, Feed) else x for x in group
        }

    return len(a) == len(b) and by_id(a) == by_id(b)


def with_variant(plan: Plan, variant_id: str) -> Plan:
    """The plan with a variant in place of what is there."""
    variant = variant_of(plan, variant_id)
    piece = piece_in(variant)
    return _with_circuit(plan, piece) if variant.of == "circuit" else _with_section(plan, variant.subject, piece)


def _cleaned(item: Any, plan: Plan) -> Any:
    """An item without what it refers to that the plan hasn't got; None where it can't be without that.

    A part whose light was taken apart since belongs to none.
    """
    if getattr(item, "light", "") and light(plan, item.light) is None:
        item = copy_unchecked(item, light="")
    gone: dict[str, set[str]] = {}
    for ref, target in references(item):
        if target and all(x.id != target for x in getattr(plan, ref.to)):
            gone.setdefault(ref.to, set()).add(target)
    return without(item, gone) if gone else item


def _with_circuit(plan: Plan, piece: Plan) -> Plan:
    feed = piece.feeds[0]
    elsewhere = {leaf.lamp for f in plan.feeds if f.id != feed.id for item in f.items for leaf in lamps_in(item)}
    left = without(feed, {"lamps": elsewhere}) if elsewhere else feed
    there = any(f.id == feed.id for f in plan.feeds)
    bare = copy_unchecked(plan, feeds=tuple(f for f in plan.feeds if f.id != feed.id))
    left = _cleaned(_apart(left or Feed(id=feed.id), bare), plan)
    feeds = tuple(left if f.id == feed.id else f for f in plan.feeds) if there else (*plan.feeds, left)
    return copy_unchecked(plan, feeds=feeds)


def _apart(item: Any, plan: Plan) -> Any:
    """An item whose parts have ids that nothing of the plan has."""
    taken = taken_ids(plan)
    clash = {x.id for x in nested(item) if x.id in taken}
    if not clash:
        return item
    names = {x.id: x.id for x in nested(item)} | {item.id: item.id}
    for old in sorted(clash):
        number = 2
        while f"{old[:74]}.{number}" in taken or f"{old[:74]}.{number}" in names.values():
            number += 1
        names[old] = f"{old[:74]}.{number}"
    return renamed(item, names)


def _with_section(plan: Plan, subject: str, piece: Plan) -> Plan:
    now = _mine(plan, subject) if subject_of(plan, subject) else set()
    comes = {x.id for name in IN_VARIANT for x in getattr(piece, name)}
    old_lamps = {p.id for p in plan.lamps if p.id in now}
    # What hangs them on their sources goes first: the strings of the variant come in its place.
    own = {f.id: _own_nodes(f, old_lamps) for f in plan.feeds}
    place = {f.id: f.items.index(own[f.id][0]) if own[f.id] else len(f.items) for f in plan.feeds}
    plan = copy_unchecked(
        plan, feeds=tuple(copy_unchecked(f, items=tuple(x for x in f.items if x not in own[f.id])) for f in plan.feeds)
    )
    plan = delete(plan, now - comes)
    others = taken_ids(
        copy_unchecked(plan, **{name: tuple(x for x in getattr(plan, name) if x.id not in now) for name in IN_VARIANT})
    )
    clash = sorted((comes - now) & others)
    if clash:
        raise PlanError(
            "Variant", f"“{clash[0]}” is the name of something else in the plan now", "give that another name first"
        )
    for name in IN_VARIANT:
        new = {x.id: x for x in getattr(piece, name)}
        if new or any(x.id in now for x in getattr(plan, name)):
            kept_items = tuple(new.pop(x.id, x) for x in getattr(plan, name))
            plan = copy_unchecked(plan, **{name: (*kept_items, *new.values())})
    for name in IN_VARIANT:
        group = tuple(k for x in getattr(plan, name) if (k := _cleaned(x, plan) if x.id in comes else x) is not None)
        plan = copy_unchecked(plan, **{name: group})
    new_lamps = {p.id for p in piece.lamps}
    hung = {leaf.lamp for f in plan.feeds for x in f.items for leaf in lamps_in(x)}
    plan = off(plan, {i for i in old_lamps - new_lamps if i in hung})
    for feed in piece.feeds:
        home = feed.id if any(f.id == feed.id for f in plan.feeds) else plan.feeds[0].id
        carrier = without(copy_unchecked(feed, head=()), {"lamps": hung}) if hung else copy_unchecked(feed, head=())
        items = tuple(x for x in (carrier.items if carrier is not None else ()) if lamps_in(x))
        holder = _apart(copy_unchecked(feed, head=(), items=items), plan)
        plan = copy_unchecked(
            plan,
            feeds=tuple(
                copy_unchecked(f, items=(*f.items[: place[home]], *holder.items, *f.items[place[home] :]))
                if f.id == home
                else f
                for f in plan.feeds
            ),
        )
    return plan


def choose_variant(plan: Plan, variant_id: str, reason: str, at: str = "") -> Plan:
    """Decide for a variant: it comes in place of what is there, which is kept as a variant itself where it isn't one yet; the decision and
    its reason go into the log.

    Raises
    ------
    PlanError
        Without a reason.
    """
    reason = " ".join(reason.split())
    if not reason:
        raise PlanError("Decision", "it has no reason", "a few words on why")
    chosen = variant_of(plan, variant_id)
    others = [v for v in plan.variants if v.subject == chosen.subject]
    if subject_of(plan, chosen.subject) and not any(stands(plan, v) for v in others):
        plan, _ = keep_variant(plan, chosen.subject, f"before {chosen.name}"[:80], at)
    plan = with_variant(plan, variant_id)
    plan = copy_unchecked(
        plan,
        variants=tuple(
            v if v.subject != chosen.subject
            else copy_checked(v, chosen=v.id == variant_id, reason=reason if v.id == variant_id else v.reason)
            for v in plan.variants
        ),
    )  # fmt: skip
    against = ", ".join(v.name for v in others if v.id != variant_id)
    words = f"{chosen.name}{f' (against {against})' if against else ''}: {reason}"
    section = chosen.subject if chosen.of == "section" and any(s.id == chosen.subject for s in plan.sections) else ""
    return add_entry(plan, "decision", words[:2000], at=at, section=section)[0]


def drop_variant(plan: Plan, variant_id: str) -> Plan:
    """Forget a variant."""
    variant_of(plan, variant_id)
    return copy_unchecked(plan, variants=tuple(v for v in plan.variants if v.id != variant_id))
