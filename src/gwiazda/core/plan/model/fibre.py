"""Points of light fed by fibres, the bundles of fibres on lamps, and panels of many points."""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.frame import Side
from gwiazda.core.plan.model.base import Id, Model, Name80, Name100, Part, PictureName, Point, SizeMm
from gwiazda.core.plan.model.lamp import Tint
from gwiazda.core.plan.refs import Ref

DotColour = Literal["", "white", "warm white", "red", "orange", "amber", "green", "blue"]
Way = Annotated[tuple[Point, ...], Meta(max_length=40)]


class Dot(Model, frozen=True, kw_only=True):
    """A point of light: a hole in the skin, the tip of a fibre in it, and the fibre's way to a lamp.

    ``hole`` is drilled for the fibre, or given with the part, ``hole_mm`` wide. ``smoke`` counts coats of smoke on the tip;
    ``glow_mm`` is the length behind it that is scratched to glow sideways. Dots of one ``group`` go onto one lamp.
    ``pinned``: it stays on its lamp when dots are grouped again. ``way`` are the places it is led through, lamp first, each
    turn with a radius of ``bend_mm`` or as wide as there is room; ``held``: painted, glued or sleeved along the way, so that
    bends lose more. ``fed`` by the section: its other end looks into the light that is there anyway, and needs no lamp.
    """

    id: Id
    at: Point
    side: Side = "port"
    section: Annotated[Name80, Ref("sections", "cascade")] = ""
    panel: Annotated[Name80, Ref("panels")] = ""
    name: Name80 = ""
    fibre: Part = "fibre-0.5"
    hole: Literal["drilled", "given"] = "drilled"
    hole_mm: SizeMm | None = None
    tip: Literal["flush", "domed"] = "flush"
    tint: Tint = ""
    smoke: Annotated[int, Meta(ge=0, le=8)] = 0
    glow_mm: Annotated[float, Meta(ge=0, le=1000)] = 0.0
    colour: DotColour = ""
    group: Name80 = ""
    channel: Annotated[Name80, Ref("channels")] = ""
    wanted_mcd: Annotated[float, Meta(gt=0, le=1e5)] = 2.0
    lamp: Annotated[Name80, Ref("lamps")] = ""
    pinned: bool = False
    way: Way = ()
    bend_mm: SizeMm | None = None
    bent: Literal["warm", "cold", "lit edge"] = "warm"
    held: bool = False
    slack_mm: Annotated[float, Meta(ge=0, le=2000)] = 20.0
    trim: Literal["now", "after painting"] = "after painting"
    light: Annotated[Name80, Ref("lights", "cascade")] = ""
    fed: Literal["lamp", "section"] = "lamp"

    def __post_init__(self) -> None:
        if self.hole == "given" and self.hole_mm is None:
            raise ValueError("a hole that is given has a size: hole_mm")


class Bundle(Model, frozen=True, kw_only=True):
    """How the fibres on a lamp are held: butted to its face or in a sleeve with a gap, their ends cut or polished, fed one by
    one and then bundled, or bundled first and trimmed together."""

    id: Id
    lamp: Annotated[Id, Ref("lamps", "cascade")]
    joined: Literal["butted", "sleeve"] = "butted"
    ends: Literal["cut", "polished"] = "cut"
    overheated: bool = False
    fed: Literal["loose then bundled", "bundled then trimmed"] = "loose then bundled"


class Panel(Model, frozen=True, kw_only=True):
    """A face with many points: its picture laid over a part of a side, ``at`` its centre; printed so exactly
    (``tolerance_mm``) that a hole further off shows beside its printed lamp."""

    id: Id
    name: Name100
    section: Annotated[Name80, Ref("sections", "cascade")] = ""
    side: Side = "port"
    at: Point
    width_mm: SizeMm = 20.0
    height_mm: SizeMm = 10.0
    picture: PictureName | None = None
    tolerance_mm: Annotated[float, Meta(gt=0, le=10)] = 0.2
