"""The log beside the plan: what was read, mixed, moved, decided, spent; hung on a section, a lamp, a step."""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.model.base import Id, Model, Name80
from gwiazda.core.plan.model.build import Moment, Text
from gwiazda.core.plan.refs import Ref

EntryKind = Literal[
    "note", "reading", "coat", "mix", "move", "leak", "decision", "hours", "cost", "asked", "agreed", "changed"
]


class Entry(Model, frozen=True, kw_only=True):
    """A line of the log.

    A ``reading`` says ``what`` was measured at ``place`` (a lamp, resistor or source) and its ``value`` (V, A, or how a lamp looks: 0
    dark, .5 dim, 1 as it should, 2 too bright); one that is ``settled`` is of the time before a fault was mended. ``hours`` and
    ``cost`` have a value. ``photo`` names a picture of the file. ``asked``, ``agreed`` and ``changed`` are of a commission.
    """

    id: Id
    at: Moment = ""
    kind: EntryKind = "note"
    text: Text = ""
    section: Annotated[Name80, Ref("sections")] = ""
    lamp: Annotated[Name80, Ref("lamps")] = ""
    step: Annotated[str, Meta(max_length=160)] = ""
    what: Literal["", "volts", "amps", "lit"] = ""
    place: Name80 = ""
    value: Annotated[float, Meta(ge=-1e6, le=1e6)] | None = None
    settled: bool = False
    photo: Name80 = ""

    def __post_init__(self) -> None:
        if self.kind == "reading" and (not self.what or not self.place or self.value is None):
            raise ValueError("a reading says what was measured, where, and its value")
