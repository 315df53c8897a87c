"""Why a value is refused: found by the model's own types and limits, in the words of the bench."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator
from operator import ge, gt, le, lt
from typing import Any, NamedTuple

import msgspec
from msgspec import inspect

from gwiazda.core.memo import memoize_by_value

Path = tuple[str | int, ...]
_FIGURES = (inspect.FloatType, inspect.IntType)
_LISTS = (inspect.VarTupleType, inspect.ListType)
_BOUNDS: tuple[tuple[str, str, Callable[[float, float], bool]], ...] = (
    ("ge", "not below", ge), ("gt", "above", gt), ("le", "up to", le), ("lt", "below", lt),
)  # fmt: skip


class Refusal(NamedTuple):
    """Where in the value (field names and numbers) something is refused, and what would be accepted, in plain words."""

    path: Path
    words: str


def refusal_of(kind: Any, value: Any, error: Exception) -> Refusal:
    """What of a value of built-in types a model refuses; ``error`` is what converting it raised."""
    found = next(_refused(_info(kind), value, ()), None)
    if found is not None:
        return found
    own = error.__cause__ if isinstance(error, msgspec.ValidationError) else error
    return Refusal((), str(own) if own is not None else "something in it is not what it should be")


@memoize_by_value()
def _info(kind: Any) -> inspect.Type:
    return inspect.type_info(kind)


def _refused(kind: inspect.Type, value: Any, path: Path) -> Iterator[Refusal]:
    """All that is refused, in the order of the fields."""
    if isinstance(kind, inspect.Metadata):
        yield from _refused(kind.type, value, path)
    elif isinstance(kind, inspect.UnionType):
        yield from _of_union(kind, value, path)
    elif isinstance(kind, inspect.StructType):
        yield from _of_struct(kind, value, path)
    elif isinstance(kind, inspect.LiteralType):
        if value not in kind.values:
            yield Refusal(path, "one of the words for it")
    elif not _fits(kind, value):
        yield Refusal(path, _noun(kind))
    elif isinstance(kind, _FIGURES) and not _is_finite(value):
        yield Refusal(path, "a finite number")
    elif isinstance(kind, _FIGURES):
        for name, words, holds in _BOUNDS:
            bound = getattr(kind, name)
            if bound is not None and not holds(value, bound):
                yield Refusal(path, f"a number {words} {bound:g}")
    elif isinstance(kind, inspect.StrType):
        yield from _of_text(kind, value, path)
    elif isinstance(kind, inspect.TupleType):
        if len(value) != len(kind.item_types):
            yield Refusal(path, f"{len(kind.item_types)} entries")
        for k, (inner, entry) in enumerate(zip(kind.item_types, value, strict=False)):
            yield from _refused(inner, entry, (*path, k))
    elif isinstance(kind, _LISTS):
        if kind.max_length is not None and len(value) > kind.max_length:
            yield Refusal(path, f"up to {kind.max_length} entries")
        if kind.min_length is not None and len(value) < kind.min_length:
            yield Refusal(path, f"{kind.min_length} entries")
        for k, entry in enumerate(value):
            yield from _refused(kind.item_type, entry, (*path, k))
    elif isinstance(kind, inspect.DictType):
        for key, entry in value.items():
            yield from _refused(kind.key_type, key, (*path, str(key)))
            yield from _refused(kind.value_type, entry, (*path, str(key)))


def _of_text(kind: inspect.StrType, value: str, path: Path) -> Iterator[Refusal]:
    if kind.max_length is not None and len(value) > kind.max_length:
        yield Refusal(path, f"up to {kind.max_length} letters")
    elif kind.min_length is not None and len(value) < kind.min_length:
        yield Refusal(path, f"{kind.min_length} letter or more")
    elif kind.pattern is not None and not re.search(kind.pattern, value):
        one_line = "x00" in kind.pattern
        yield Refusal(path, "letters on one line, without control characters" if one_line
                      else "letters, digits, dots, dashes and underscores, or a colour such as #8a6f4d")  # fmt: skip


def _of_struct(kind: inspect.StructType, value: Any, path: Path) -> Iterator[Refusal]:
    if not isinstance(value, dict):
        yield Refusal(path, "an object")
        return
    fields = {f.encode_name: f for f in kind.fields}
    for name, field in fields.items():
        if name in value:
            yield from _refused(field.type, value[name], (*path, name))
        elif field.required:
            yield Refusal(path, f"the field “{name}” is missing")
    for name in value:
        if name not in fields and name != kind.tag_field:
            yield Refusal(path, f"the field “{name}” is not known")
    try:
        msgspec.convert(value, kind.cls)
    except (msgspec.ValidationError, ValueError) as error:
        own = error.__cause__ if isinstance(error, msgspec.ValidationError) else error
        if own is not None:  # what a model says of itself
            yield Refusal(path, str(own))


def _of_union(kind: inspect.UnionType, value: Any, path: Path) -> Iterator[Refusal]:
    structs = [t for t in kind.types if isinstance(t, inspect.StructType)]
    if isinstance(value, dict) and structs:
        tag = structs[0].tag_field
        meant = [t for t in structs if tag is None or t.tag == value.get(tag)]
        if not meant:
            yield Refusal((*path, tag) if tag in value and tag is not None else path, "one of the words for it"
                          if tag in value else f"the field “{tag}” is missing")  # fmt: skip
        else:
            yield from _of_struct(meant[0], value, path)
        return
    fitting = [t for t in kind.types if _fits(t, value)]
    if not fitting:
        yield Refusal(path, " or ".join(dict.fromkeys(_noun(t) for t in kind.types)))
        return
    each = [list(_refused(t, value, path)) for t in fitting]
    if all(each):
        yield from each[0]


def _is_finite(value: float) -> bool:
    try:
        return math.isfinite(value)
    except OverflowError:  # a whole number of more digits than are ever written
        return False


def _fits(kind: inspect.Type, value: Any) -> bool:
    """Whether a value is of the built-in type that a kind is written as."""
    if isinstance(kind, inspect.Metadata):
        return _fits(kind.type, value)
    if isinstance(kind, inspect.FloatType):
        return isinstance(value, (int, float)) and not isinstance(value, bool)
    if isinstance(kind, inspect.IntType):
        return (isinstance(value, int) or (isinstance(value, float) and value.is_integer())) and not isinstance(
            value, bool
        )
    for kinds, types in ((inspect.BoolType, bool), (inspect.NoneType, type(None)), (inspect.StrType, str), (inspect.LiteralType, (str, int)),
                         ((*_LISTS, inspect.TupleType), (list, tuple)), ((inspect.DictType, inspect.StructType), dict)):  # fmt: skip
        if isinstance(kind, kinds):
            return isinstance(value, types)
    return True


def _noun(kind: inspect.Type) -> str:
    if isinstance(kind, inspect.Metadata):
        return _noun(kind.type)
    nouns = {inspect.FloatType: "a number", inspect.IntType: "a whole number", inspect.StrType: "a text", inspect.BoolType: "true or false",
             inspect.NoneType: "nothing", inspect.LiteralType: "one of the words for it", inspect.TupleType: "a list", inspect.VarTupleType: "a list",
             inspect.ListType: "a list", inspect.DictType: "an object", inspect.StructType: "an object"}  # fmt: skip
    return nouns.get(type(kind), "something else")
