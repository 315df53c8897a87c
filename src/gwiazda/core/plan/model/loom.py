"""The ways for wires and fibres: passages between sections, hubs where leads are joined, and the wires themselves."""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.model.base import Id, Model, Name80, Name100, Part, Point, SizeMm
from gwiazda.core.plan.refs import Ref

WireColour = Literal["", "red", "black", "white", "yellow", "green", "blue", "brown", "grey", "copper"]
RunWay = Annotated[tuple[Point, ...], Meta(max_length=40)]


TubeMaterial = Literal["metal", "plastic", "wood"]
TubeFixed = Literal["", "glue", "screws", "push fit"]


class Tube(Model, frozen=True, kw_only=True):
    """What a passage is led through where the parts it joins stand apart: the tube of a stand.

    The passage's ``at`` is one end of it, ``to`` the other; its bore is the passage's width. ``fixed``: how it holds;
    ``comes_off``: the model is lifted off it. ``carries``: the side of the circuit that a metal one is itself the conductor of.
    """

    to: Point
    outer_mm: SizeMm = 8.0
    material: TubeMaterial = "metal"
    fixed: TubeFixed = ""
    comes_off: bool = False
    carries: Literal["", "plus", "minus"] = ""

    @property
    def conductor(self) -> str:
        """Which side of the circuit it carries; only metal does."""
        return self.carries if self.material == "metal" else ""


class Passage(Model, frozen=True, kw_only=True):
    """A way for wires from one section to another, or out of the kit where ``into`` is empty.

    ``width_mm`` by ``height_mm`` is its clear size (``width_mm`` the bore where it is round), ``length_mm`` how long it is.
    ``make``: as it is, drilled, filed wider, a notch in an edge, a channel in a wall; that takes ``take_mm`` off a wall of
    ``wall_mm``. A hinge needs ``slack_mm`` at both ends of its swing. ``look``: hidden in something, seen, or dressed as
    something of the prototype. ``cover``: what is laid over a channel, as a strip of sheet or putty (a coat of the catalogue). ``tube``: that of a stand.
    """

    id: Id
    name: Name100 = ""
    section: Annotated[Id, Ref("sections", "cascade")]
    into: Annotated[Name80, Ref("sections", "cascade", "clear")] = ""
    at: Point
    shape: Literal["round", "rect"] = "round"
    width_mm: SizeMm = 3.0
    height_mm: SizeMm = 3.0
    length_mm: Annotated[float, Meta(ge=0, le=10_000)] = 2.0
    make: Literal["as it is", "drill", "file", "notch", "channel"] = "drill"
    take_mm: Annotated[float, Meta(ge=0, le=100)] = 0.0
    wall_mm: Annotated[float, Meta(ge=0, le=100)] = 0.0
    joint: Literal["fixed", "hinge"] = "fixed"
    slack_mm: Annotated[float, Meta(ge=0, le=1000)] = 0.0
    look: Literal["hidden", "seen", "dressed"] = "hidden"
    connector: Part | None = None
    cover: Name80 = ""
    tube: Tube | None = None

    def __post_init__(self) -> None:
        if self.into and self.into == self.section:
            raise ValueError("a passage leads from a section to another one")
        if self.tube is not None and self.width_mm >= self.tube.outer_mm:
            raise ValueError("the bore is as wide as its tube")


class Hub(Model, frozen=True, kw_only=True):
    """A place in a section where leads of one net are joined: pluses, minuses, or both; one lead of each goes on from it.

    ``board``: the section is a module with its own board there, resistors and all, and a pigtail of two leads.
    """

    id: Id
    name: Name100 = ""
    section: Annotated[Id, Ref("sections", "cascade")]
    at: Point
    joins: Literal["plus", "minus", "both"] = "both"
    board: bool = False


class Lead(Model, frozen=True, kw_only=True):
    """What is decided of one lead of a lamp: its wire, colour and tag, the passages it is to go through, and the places it
    lies at on its first stretch. All of it may be left to the loom."""

    id: Id
    lamp: Annotated[Id, Ref("lamps", "cascade")]
    end: Literal["plus", "minus"] = "plus"
    wire: Part | None = None
    colour: WireColour = ""
    tag: Annotated[str, Meta(max_length=12)] = ""
    through: Annotated[tuple[Annotated[Id, Ref("passages", "drop")], ...], Meta(max_length=40)] = ()
    way: RunWay = ()


class Loom(Model, frozen=True, kw_only=True):
    """What all wires have in common: the usual wire, spare leads of each section for later lights, how two wires are
    insulated where they are joined, and whether joints are soldered on the bench before the lamp goes in. ``resistors``: each at its lamps, or all of
    a source on a board of holes with tracks or with pads."""

    wire: Part = "enamel-34"
    spare: Annotated[int, Meta(ge=0, le=20)] = 0
    insulate: Literal["heat-shrink", "liquid insulation"] = "heat-shrink"
    bench_first: bool = True
    relief: Literal["knot", "glue", "none"] = "knot"
    resistors: Literal["at the lamps", "strip board", "pad board"] = "at the lamps"
