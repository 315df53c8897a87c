"""Fields that many forms share: a name, a place, the light it belongs to, parts of the catalogue to choose from."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from gwiazda.core.plan import edits
from gwiazda.core.plan.model import LIMIT_MM, Plan
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Entries, Text, millimetres

AXES = (
    ("Fore and aft", "x: its place from stern to bow"),
    ("Sideways", "y: its place to port, negative to starboard"),
    ("Up", "z: how high it is"),
)


def parts(table: str, *first: tuple[str, str]) -> Callable[[Any], Entries]:
    """Entries of a choice: those given, then a table of the catalogue."""
    return lambda owner: [*first, *((p.id, p.name) for p in getattr(owner.document.catalogue, table).values())]


def sections(*first: tuple[str, str]) -> Callable[[Any], Entries]:
    """Entries of a choice: those given, then the plan's sections."""
    return lambda owner: [*first, *((s.id, s.name) for s in owner.document.plan.sections)]


def name_field(of: str, example: str = "") -> Field:
    """What a thing is called."""
    return Field(
        "name", "Name", Text(100, placeholder=example), f"What the {of} is called everywhere", f"Name the {of}"
    )


def nth(path: str, index: int) -> Callable[[Any], Any]:
    """A ``get`` that reads one of the numbers of an attribute."""
    return lambda item: getattr(item, path)[index]


def _at_axis(axis: int) -> Callable[[Plan, list[Any], float], Plan]:
    return lambda plan, items, value: edits.set_axis(plan, [i.id for i in items], axis, value)


def place_fields() -> tuple[Field, ...]:
    """Where things are on the model, axis by axis."""
    return tuple(
        Field(
            f"at[{axis}]", label, millimetres(-LIMIT_MM, LIMIT_MM), f"{words}, mm on the model", "Change place",
            get=nth("at", axis), put=_at_axis(axis),
        )
        for axis, (label, words) in enumerate(AXES)
    )  # fmt: skip


LIGHT = Field(
    "light", "Light it belongs to",
    Choice(lambda owner: [("", "none of its own"), *((f.id, f.name) for f in owner.document.plan.lights)]),
    "Which of the plan’s lights it is a part of; what lies in a section belongs to its section’s unless it says otherwise",
    "Change the light it belongs to",
    put=lambda plan, items, value: edits.assign_light(plan, [i.id for i in items], value),
    shown=lambda owner: bool(owner.document.plan.lights),
)  # fmt: skip
