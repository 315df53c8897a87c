"""The log beside the plan: what was read, mixed, moved, decided, spent; hung on a section, a lamp, a step."""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.frame import Side
from gwiazda.core.plan.model.assembly import Moment, Text
from gwiazda.core.plan.model.base import Id, Model, Name80, Share
from gwiazda.core.plan.refs import Ref

EntryKind = Literal[
    "note", "reading", "coat", "mix", "move", "leak", "decision", "hours", "cost", "asked", "agreed", "changed"
]


CurvePart = Annotated[float, Meta(ge=-5.0, le=5.0)]
Spot = tuple[Share, Share]  # of a photo's width and height, from its upper left


class PhotoMark(Model, frozen=True, kw_only=True):
    """Where the middle of something that shines (an opening, a fibre's tip, a lamp seen itself) lies on a photo."""

    on: Id
    at: Spot


class Laid(Model, frozen=True, kw_only=True):
    """How a photo of the lit model lies on a view, and what in it is known: a patch of grey at ``grey``, of a reflectance, in a light of
    ``grey_lux`` (lx; None where there is no such patch). ``steps``: the middles of the first and the last
    patch of a printed grey card, where it is a photo of that. ``curve`` is its camera's, where it was told by such a card: gamma, toe, shoulder."""

    side: Side = "port"
    marks: Annotated[tuple[PhotoMark, ...], Meta(max_length=40)] = ()
    grey: Spot = (0.5, 0.5)
    grey_reflectance: Annotated[float, Meta(gt=0.0, le=1.0)] = 0.18
    grey_lux: Annotated[float, Meta(gt=0.0, le=200_000.0)] | None = None
    curve: tuple[CurvePart, CurvePart, CurvePart] | None = None
    steps: tuple[Spot, Spot] | None = None

    @property
    def holds_something(self) -> bool:
        return bool(self.marks) or self.steps is not None


class PaneTold(Model, frozen=True, kw_only=True):
    """What a photo says of an opening, over what was predicted of it by the house; one sigma of its logarithm beside what
    the photo's exposure does to all of them."""

    on: Id
    ratio: Annotated[float, Meta(gt=0.0, le=1e6)]
    sigma: Annotated[float, Meta(gt=0.0, le=5.0)] = 0.1


class LogEntry(Model, frozen=True, kw_only=True):
    """A line of the log.

    A ``reading`` says ``what`` was measured at ``place`` (a lamp, resistor or source) and its ``value`` (V, A, or how a lamp looks: 0
    dark, .5 dim, 1 as it should, 2 too bright; lx 100 mm before a bare lamp, on its axis; cd/m² of an opening); one that is ``settled``
    is of the time before a fault was mended. ``hours`` and ``cost`` have a value, ``coat`` may have one: how many it took until nothing
    shone through. ``said`` is what the house predicted when it was read, ``make`` what it was read on. ``photo`` names a picture of the file, ``laid`` how it lies on a view, ``told`` what it says of openings,
    ``exposure`` how much light it took in (s at ISO 100 and f/1), ``merged`` whether it is of several exposures. ``asked``, ``agreed`` and ``changed`` are of a
    commission.
    """

    id: Id
    at: Moment = ""
    kind: EntryKind = "note"
    text: Text = ""
    section: Annotated[Name80, Ref("sections")] = ""
    lamp: Annotated[Name80, Ref("lamps")] = ""
    light: Annotated[Name80, Ref("lights")] = ""
    step: Annotated[str, Meta(max_length=160)] = ""
    what: Literal["", "volts", "amps", "lit", "lux", "cd_m2"] = ""
    place: Name80 = ""
    value: Annotated[float, Meta(ge=-1e6, le=1e6)] | None = None
    settled: bool = False
    photo: Name80 = ""
    laid: Laid | None = None
    exposure: Annotated[float, Meta(gt=0.0, le=1e9)] | None = None
    merged: bool = False
    told: Annotated[tuple[PaneTold, ...], Meta(max_length=50_000)] = ()
    said: Annotated[float, Meta(ge=0.0, le=1e9)] | None = None
    make: Annotated[str, Meta(max_length=400)] = ""

    def __post_init__(self) -> None:
        if self.kind == "reading" and (not self.what or not self.place or self.value is None):
            raise ValueError("a reading says what was measured, where, and its value")
