"""References between the things of a plan, declared on the field that holds them.

What refers to what, what a delete does to it, and what a copy of it refers to: all of it is read off the models'
annotations, once. A new kind of thing declares its fields and is known here.
"""

from __future__ import annotations

import types
import typing
from collections.abc import Hashable, Iterator, Mapping
from typing import Annotated, Any, Literal, NamedTuple, TypeVar, Union

import msgspec

from gwiazda.core.memo import memoize_by_value

M = TypeVar("M", bound=msgspec.Struct)


class Ref(NamedTuple):
    """A field that names an item of the plan's group ``to``; an empty one names none.

    ``on_delete`` of what it names: the item goes too, the field is cleared, or the entry is taken out of its tuple.
    ``on_copy`` of the item without what it names: it goes on naming the same, or nothing.
    """

    to: str
    on_delete: Literal["cascade", "clear", "drop"] = "clear"
    on_copy: Literal["keep", "clear"] = "keep"


class Field(NamedTuple):
    """How a field of a model matters here: it refers, or it holds models that may."""

    name: str
    ref: Ref | None
    many: bool


def _unwrapped(hint: Any) -> tuple[Any, Ref | None]:
    ref = None
    while typing.get_origin(hint) is Annotated:
        ref = next((x for x in hint.__metadata__ if isinstance(x, Ref)), ref)
        hint = hint.__origin__
    return hint, ref


def _is_model(hint: Any) -> bool:
    hint, _ = _unwrapped(hint)
    if typing.get_origin(hint) in (Union, types.UnionType):
        return any(_is_model(a) for a in typing.get_args(hint))
    return isinstance(hint, type) and issubclass(hint, msgspec.Struct)


@memoize_by_value()
def fields_of(kind: Hashable) -> tuple[Field, ...]:
    """The fields of a model that refer to something or hold models, in order."""
    out = []
    for name, hint in typing.get_type_hints(typing.cast(Any, kind), include_extras=True).items():
        if name.startswith("__"):
            continue
        inner, ref = _unwrapped(hint)
        if ref is not None:
            out.append(Field(name, ref, False))
        elif typing.get_origin(inner) is tuple:
            entry = typing.get_args(inner)[0]
            _, ref = _unwrapped(entry)
            if ref is not None or _is_model(entry):
                out.append(Field(name, ref, True))
        elif _is_model(inner):
            out.append(Field(name, None, False))
    return tuple(out)


def kind_of(item: Any) -> Any:
    """The class of an item."""
    return type(item)


def references(item: Any) -> Iterator[tuple[Ref, str]]:
    """All that an item and the models in it refer to."""
    for field in fields_of(kind_of(item)):
        value = getattr(item, field.name)
        if value is None or value == "":
            continue
        for entry in value if field.many else (value,):
            if field.ref is not None:
                yield field.ref, entry
            else:
                yield from references(entry)


def nested(item: Any) -> Iterator[Any]:
    """The models held by an item, however deep, that have an id of their own."""
    for field in fields_of(kind_of(item)):
        if field.ref is not None:
            continue
        value = getattr(item, field.name)
        for entry in value if field.many else (value,):
            if entry is None:
                continue
            if "id" in entry.__struct_fields__:
                yield entry
            yield from nested(entry)


def without(item: M, gone: Mapping[str, set[str]]) -> M | None:
    """An item after what it refers to in ``gone`` (ids by group) is deleted; None when it goes too."""
    changed: dict[str, Any] = {}
    for field in fields_of(kind_of(item)):
        value = getattr(item, field.name)
        if field.ref is not None:
            lost = gone.get(field.ref.to, set())
            if field.many:
                left = tuple(x for x in value if x not in lost)
                if len(left) != len(value):
                    if not left:
                        return None
                    changed[field.name] = left
            elif value in lost:
                if field.ref.on_delete != "clear":
                    return None
                changed[field.name] = ""
        elif field.many:
            kept = tuple(k for x in value if (k := without(x, gone)) is not None)
            if len(kept) != len(value) or any(a is not b for a, b in zip(kept, value, strict=True)):
                changed[field.name] = kept
        elif value is not None:
            kept_one = without(value, gone)
            if kept_one is not value:
                changed[field.name] = kept_one
    if not changed:
        return item
    found = msgspec.structs.replace(item, **changed)
    return found if getattr(found, "holds_something", True) else None


def renamed(item: M, names: Mapping[str, str]) -> M:
    """A copy of an item with ids and references renamed; what it refers to outside of ``names`` is kept or cleared."""
    changed: dict[str, Any] = {}
    if "id" in item.__struct_fields__:
        changed["id"] = names[item.id]  # type: ignore[attr-defined]
    for field in fields_of(kind_of(item)):
        value = getattr(item, field.name)
        if field.ref is not None:
            other = "" if field.ref.on_copy == "clear" else None
            rename = [names.get(x, x if other is None or not x else other) for x in (value if field.many else (value,))]
            changed[field.name] = tuple(rename) if field.many else rename[0]
        elif field.many:
            changed[field.name] = tuple(renamed(x, names) for x in value)
        elif value is not None:
            changed[field.name] = renamed(value, names)
    return msgspec.structs.replace(item, **changed) if changed else item
