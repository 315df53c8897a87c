"""How lamps hang on their sources: feeds, one a source, each a tree of what hangs between its two rails.

A lamp that no feed names has a resistor of its own on the first feed, so most plans need no tree at all.
"""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.model.base import Id, Model, Name80, Name100, Ohm, Part
from gwiazda.core.plan.refs import Ref


class Supply(Model, frozen=True, kw_only=True):
    """One source; ``volts`` sets an adapter whose voltage is adjustable."""

    part: Part = "block-9v"
    in_series: Annotated[int, Meta(ge=1, le=40)] = 1
    in_parallel: Annotated[int, Meta(ge=1, le=40)] = 1
    volts: Annotated[float, Meta(gt=0, le=60)] | None = None


class Node(Model, tag_field="is", frozen=True, kw_only=True):
    """A place in the tree."""


class Hung(Node, tag="lamp", frozen=True, kw_only=True):
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
    """``group`` names those that are worked together."""

    id: Id
    kind: Literal["slide", "push", "reed"] = "slide"
    group: Name80 = ""
    closed: bool = True


class Series(Node, tag="series", frozen=True, kw_only=True):
    """One after another."""

    id: Id
    items: "tuple[Hangs, ...]"

    @property
    def holds_something(self) -> bool:
        """Whether a lamp is left in it: without one it goes."""
        return any(True for _ in lamps_in(self))


class Parallel(Node, tag="parallel", frozen=True, kw_only=True):
    """Side by side."""

    id: Id
    items: "tuple[Hangs, ...]"

    @property
    def holds_something(self) -> bool:
        """Whether a lamp is left in it: without one it goes."""
        return any(True for _ in lamps_in(self))


Hangs = Series | Parallel | Hung | Resistor | Fuse | Switch


def lamps_in(node: Hangs) -> tuple[Hung, ...]:
    """The lamps of a part of the tree, in order."""
    if isinstance(node, Hung):
        return (node,)
    if isinstance(node, (Series, Parallel)):
        return tuple(lamp for item in node.items for lamp in lamps_in(item))
    return ()


class Feed(Model, frozen=True, kw_only=True):
    """A source and what hangs on it, side by side between its rails."""

    id: Id
    name: Name100 = ""
    supply: Supply = Supply()
    items: Annotated[tuple[Hangs, ...], Meta(max_length=20_000)] = ()


class Drawer(Model, frozen=True, kw_only=True):
    """What resistors are at hand."""

    series: Literal["E6", "E12", "E24", "E96"] = "E12"
    spare_share: Annotated[float, Meta(ge=0, le=1)] = 0.1
