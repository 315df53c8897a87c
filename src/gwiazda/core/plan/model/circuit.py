"""How lamps hang on their sources: feeds, one a source, each a tree of what hangs between its two rails.

A lamp that no feed names has a resistor of its own on the first feed, so most plans need no tree at all.
"""

from collections.abc import Iterator
from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.model.base import LIMIT_MM, Id, Model, Name80, Name100, Ohm, Part
from gwiazda.core.plan.refs import Ref

Teeth = Annotated[int, Meta(ge=1, le=1000)]


class Supply(Model, frozen=True, kw_only=True):
    """One source; ``volts`` sets an adapter whose voltage is adjustable."""

    part: Part = "block-9v"
    in_series: Annotated[int, Meta(ge=1, le=40)] = 1
    in_parallel: Annotated[int, Meta(ge=1, le=40)] = 1
    volts: Annotated[float, Meta(gt=0, le=60)] | None = None


class Node(Model, tag_field="is", frozen=True, kw_only=True):
    """A place in the tree."""


class LampRef(Node, tag="lamp", frozen=True, kw_only=True):
    """A lamp of the plan, by its id; ``reversed``: the wrong way round."""

    lamp: Annotated[Id, Ref("lamps", "drop")]
    reversed: bool = False


class Resistor(Node, tag="resistor", frozen=True, kw_only=True):
    """``ohm`` is left out where Gwiazda chooses it for the lamps in series with it."""

    id: Id
    ohm: Ohm | None = None


class Fuse(Node, tag="fuse", frozen=True, kw_only=True):
    """``rated_a`` is its value; its own resistance falls with it."""

    id: Id
    rated_a: Annotated[float, Meta(gt=0, le=20)] = 0.5


class Switch(Node, tag="switch", frozen=True, kw_only=True):
    """``group`` names those that are worked together; ``home`` is the section it stands in."""

    id: Id
    kind: Part = "slide"
    group: Name80 = ""
    closed: bool = True
    home: Annotated[Name80, Ref("sections")] = ""


class Wire(Node, tag="wire", frozen=True, kw_only=True):
    """A run of wire that counts by its resistance: ``length_mm`` there and back."""

    id: Id
    awg: Annotated[int, Meta(ge=18, le=44)] = 30
    length_mm: Annotated[float, Meta(gt=0, le=LIMIT_MM)] = 300.0


class Load(Node, tag="load", frozen=True, kw_only=True):
    """A motor or a sound module. ``gears``: teeth of each pair, driver first; ``flyback``: a diode across it; ``home`` is
    the section it sits in, where its source is if none."""

    id: Id
    part: Part = "motor-3v"
    flyback: bool = False
    home: Annotated[Name80, Ref("sections")] = ""
    gears: Annotated[tuple[tuple[Teeth, Teeth], ...], Meta(max_length=12)] = ()


class Series(Node, tag="series", frozen=True, kw_only=True):
    """One after another."""

    id: Id
    items: "tuple[CircuitNode, ...]"

    @property
    def holds_something(self) -> bool:
        """Whether there is anything left that takes current: without it, it goes."""
        return any(holds(x) for x in self.items)


class Parallel(Node, tag="parallel", frozen=True, kw_only=True):
    """Side by side."""

    id: Id
    items: "tuple[CircuitNode, ...]"

    @property
    def holds_something(self) -> bool:
        """Whether there is anything left that takes current: without it, it goes."""
        return any(holds(x) for x in self.items)


class Regulated(Node, tag="regulated", frozen=True, kw_only=True):
    """A linear regulator and what hangs on its output, side by side; ``home`` is the section it sits in, the base if none."""

    id: Id
    part: Part = "regulator-classic"
    volts: Annotated[float, Meta(gt=0, le=60)] = 5.0
    home: Annotated[Name80, Ref("sections")] = ""
    items: "tuple[CircuitNode, ...]" = ()


class Switched(Node, tag="switched", frozen=True, kw_only=True):
    """What an output, a transistor stage or a relay switches, side by side.

    ``drive`` is the output that drives a stage; ``ohm`` the resistor at its base, chosen where it is left out; ``chip``
    names outputs of one board, whose currents add up.
    """

    id: Id
    part: Part = "pin-5v"
    drive: Part = "pin-5v"
    on: bool = True
    ohm: Ohm | None = None
    channel: Annotated[Name80, Ref("channels")] = ""
    chip: Name80 = ""
    items: "tuple[CircuitNode, ...]" = ()


CircuitNode = Series | Parallel | LampRef | Resistor | Fuse | Switch | Wire | Load | Regulated | Switched
SeriesMain = Fuse | Switch | Wire
BRANCHING = (Series, Parallel, Regulated, Switched)


def holds(node: CircuitNode) -> bool:
    """Whether a part of the tree takes current, or is a thing that others are hung on."""
    if isinstance(node, (Series, Parallel)):
        return node.holds_something
    return isinstance(node, (LampRef, Load, Regulated, Switched))


def lamps_in(node: CircuitNode) -> tuple[LampRef, ...]:
    """The lamps of a part of the tree, in order."""
    if isinstance(node, LampRef):
        return (node,)
    if isinstance(node, BRANCHING):
        return tuple(lamp for item in node.items for lamp in lamps_in(item))
    return ()


def parts_in(node: CircuitNode) -> "Iterator[CircuitNode]":
    """A part of the tree and all below it."""
    yield node
    if isinstance(node, BRANCHING):
        for item in node.items:
            yield from parts_in(item)


class Feed(Model, frozen=True, kw_only=True):
    """A source and what hangs on it, side by side between its rails; ``head`` is what all of its current goes through.

    ``home`` is the section the source sits in, the base or the table if none.
    """

    id: Id
    name: Name100 = ""
    supply: Supply = Supply()
    items: Annotated[tuple[CircuitNode, ...], Meta(max_length=20_000)] = ()
    head: Annotated[tuple[SeriesMain, ...], Meta(max_length=20)] = ()
    home: Annotated[Name80, Ref("sections")] = ""
    hours_a_day: Annotated[float, Meta(gt=0, le=24)] = 2.0


class ResistorStock(Model, frozen=True, kw_only=True):
    """What resistors are at hand: a series, or the user's own stock."""

    series: Literal["E6", "E12", "E24", "E96", "stock"] = "E12"
    spare_share: Annotated[float, Meta(ge=0, le=1)] = 0.1
