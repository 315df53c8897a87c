"""The gate: every edit passes it, and what it changed is checked as a file's plan would be."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any, get_type_hints

import msgspec

from gwiazda.core.errors import PlanError
from gwiazda.core.memo import memoize, memoize_by_value
from gwiazda.core.plan.model import BY_GROUP, GROUPS, Plan, lamps_in
from gwiazda.core.plan.refs import kind_of, nested, references
from gwiazda.core.plan.refusal import refusal_of


def _finite(value: Any) -> bool:
    """Whether all numbers in built-in values are finite: msgspec's limits catch them, but not where there are none."""
    if isinstance(value, float):
        return math.isfinite(value)
    if isinstance(value, dict):
        return all(map(_finite, value.values()))
    if isinstance(value, (list, tuple)):
        return all(map(_finite, value))
    return True


@memoize_by_value()
def _decoder(kind: Any) -> Any:
    return msgspec.json.Decoder(kind)


def check_item(item: Any) -> None:
    """Raise PlanError when a value in a model is refused, naming the item and the field."""
    try:
        # Written and read in one go, as a file would have it; what isn't finite is written as nothing.
        if _decoder(kind_of(item)).decode(msgspec.json.encode(item)) == item:
            return
    except (msgspec.ValidationError, ValueError):
        pass  # below it is named
    data = msgspec.to_builtins(item)
    try:
        if not _finite(data):
            raise ValueError("a number is not finite")
        msgspec.convert(data, type(item))
    except (msgspec.ValidationError, ValueError) as error:
        found = refusal_of(type(item), data, error)
        name = getattr(item, "id", type(item).__name__.lower())
        path, value = list(found.path), data
        for k, part in enumerate(found.path):
            try:
                value = value[part]
            except (KeyError, IndexError, TypeError):
                value = None
            if isinstance(value, dict) and isinstance(value.get("id"), str):
                name, path = value["id"], list(found.path[k + 1 :])  # what is held has a name of its own
        field = ".".join(str(p + 1) if isinstance(p, int) else p for p in path)
        shown = f"{value!r}" if isinstance(value, (str, int, float)) and value != data else ""
        if shown and len(shown) > 60:
            shown = f"{len(str(value))} letters"
        where = f"{name}, {field}" if field else str(name)
        raise PlanError(where, f"{shown} is refused" if shown else found.words, found.words if shown else "") from None


def _ids(plan: Plan) -> Iterator[str]:
    for name in GROUPS:
        for item in getattr(plan, name):
            yield item.id
            if name in ("sections", "feeds"):
                for inner in nested(item):
                    yield inner.id


@memoize(slots=16)
def _known(group: tuple[Any, ...]) -> frozenset[str]:
    return frozenset(i.id for i in group)


@memoize(slots=4)
def _nested(group: tuple[Any, ...]) -> tuple[str, ...]:
    return tuple(inner.id for item in group for inner in nested(item))


def _check_ids(plan: Plan) -> None:
    """Raise PlanError when an id is used twice. Sets of what has not changed are taken again."""
    inner = [_nested(group) for group in (plan.sections, plan.feeds)]
    count = sum(len(getattr(plan, name)) for name in GROUPS) + sum(map(len, inner))
    if len(frozenset().union(*(_known(getattr(plan, name)) for name in GROUPS), *inner)) == count:
        return
    seen: set[str] = set()
    for item_id in _ids(plan):
        if item_id in seen:
            raise PlanError(f"Id {item_id}", "is used twice", "an id for each thing")
        seen.add(item_id)


def _new_in(group: tuple[Any, ...], old: tuple[Any, ...]) -> list[Any]:
    """What of a group isn't in the old one."""
    if len(group) == len(old):  # as most edits leave it: each in its place
        return [item for item, was in zip(group, old, strict=True) if item is not was]
    there = {id(i) for i in old}
    return [item for item in group if id(item) not in there]


def _same_ids(plan: Plan, before: Plan) -> bool:
    """Whether a plan can be told at a glance to have the ids of another, each in its place."""
    for name in GROUPS:
        group, old = getattr(plan, name), getattr(before, name)
        if group is old:
            continue
        if name in ("sections", "feeds") or len(group) != len(old):
            return False
        if any(item is not was and item.id != was.id for item, was in zip(group, old, strict=True)):
            return False
    return True


def _check_references(plan: Plan, before: Plan | None) -> None:
    for name in GROUPS:
        group = getattr(plan, name)
        for item in group if before is None else _new_in(group, getattr(before, name)):
            for ref, target in references(item):
                if target and target not in _known(getattr(plan, ref.to)):
                    raise PlanError(
                        f"{BY_GROUP[name].noun.capitalize()} {item.id}",
                        f"names the {BY_GROUP[ref.to].noun} “{target}”, which isn't there",
                        f"a {BY_GROUP[ref.to].noun} of the plan",
                    )


DEEPEST = 40  # parts within parts: nobody builds a tenth of it, and every walk of the tree stays shallow


def _check_depth(feeds: tuple[Any, ...]) -> None:
    """Raise PlanError where parts of a circuit are nested without end."""
    for feed in feeds:
        level: list[Any] = list(feed.items)
        for _ in range(DEEPEST):
            level = [x for item in level for x in getattr(item, "items", ())]
            if not level:
                break
        else:
            raise PlanError(
                f"Circuit of {feed.id}", f"parts lie more than {DEEPEST} deep in one another", "a shallower one"
            )


def check_consistent(plan: Plan, before: Plan | None = None) -> None:
    """Raise PlanError when ids are used twice or something refers to what isn't there.

    With ``before``, a plan that is consistent, only what is new is looked at.
    """
    if before is None or plan.feeds is not before.feeds:
        _check_depth(plan.feeds)
    if before is not None and _same_ids(plan, before):
        _check_references(plan, before)
    else:
        _check_ids(plan)
        gone = before is None or any(_known(getattr(before, n)) - _known(getattr(plan, n)) for n in GROUPS)
        _check_references(plan, None if gone else before)
    if before is None or plan.feeds is before.feeds:
        return  # a file from elsewhere may hang a lamp twice: that is found, and the rest worked out
    hung: set[str] = set()
    for feed in plan.feeds:
        for item in feed.items:
            for leaf in lamps_in(item):
                if leaf.lamp in hung:
                    raise PlanError(f"Lamp {leaf.lamp}", "hangs in two places of the circuit", "one place")
                hung.add(leaf.lamp)


@memoize_by_value()
def most_of(group: str) -> int:
    """How many of a group a plan may hold: what its model says."""
    hint = get_type_hints(Plan, include_extras=True)[group]
    return next(m.max_length for m in hint.__metadata__ if isinstance(m, msgspec.Meta) and m.max_length is not None)


def validate_edit(before: Plan, after: Plan) -> Plan:
    """``after``, if all that it changed is as a plan file may have it.

    Raises
    ------
    PlanError
        Naming the item and the field, what was found there, what is accepted.
    """
    if after is before:
        return after
    for name in after.__struct_fields__:
        old, new = getattr(before, name), getattr(after, name)
        if old is new or name == "version":
            continue
        if name in GROUPS:
            if len(new) > most_of(name):
                raise PlanError("Plan", f"{len(new)} {name}", f"up to {most_of(name)}")
            for item in _new_in(new, old):
                check_item(item)
        else:
            check_item(new)
    if not after.views:
        raise PlanError("Plan", "it has no view", "at least one")
    check_consistent(after, before)
    return after
