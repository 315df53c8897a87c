"""Which lamps hang together, and between which nets: what the wires have to join."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import (
    BRANCHING,
    CircuitNode,
    Feed,
    Lamp,
    LampRef,
    Load,
    Parallel,
    Regulated,
    Resistor,
    Switched,
    lamps_in,
)


class Line(NamedTuple):
    """Lamps in series (or hung together) from a plus net to a minus net, and the section where those nets begin."""

    lamps: tuple[str, ...]
    home: str
    plus: str
    minus: str


class Tie(NamedTuple):
    """Two wires from where a source is to where a regulator of it sits, or a motor or sound module, with its current."""

    id: str
    home: str
    to: str
    plus: str
    minus: str
    lamps: tuple[str, ...]
    current_a: float = 0.0


@memoize()
def lines_of(
    catalogue: Catalogue, feeds: tuple[Feed, ...], lamps: tuple[Lamp, ...]
) -> tuple[tuple[Line, ...], tuple[Tie, ...]]:
    """All lines of a plan: those in its trees, and lamps on their own on the first feed."""
    known = {p.id for p in lamps}
    lines: list[Line] = []
    ties: list[Tie] = []
    seen: set[str] = set()
    for feed in feeds:
        for item in feed.items:
            for found in _walk(item, feed.home, f"{feed.id}+", f"{feed.id}-", catalogue):
                if isinstance(found, Tie):
                    ties.append(found)
                    continue
                mine = tuple(i for i in found.lamps if i in known and i not in seen)
                seen.update(mine)
                if mine:
                    lines.append(found._replace(lamps=mine))
    first = feeds[0]
    lines += [Line((p.id,), first.home, f"{first.id}+", f"{first.id}-") for p in lamps if p.id not in seen]
    return tuple(lines), tuple(ties)


def _walk(node: CircuitNode, home: str, plus: str, minus: str, catalogue: Catalogue) -> Iterator[Line | Tie]:
    if isinstance(node, Regulated):
        to = node.home or home
        if to != home:
            lamps = tuple(leaf.lamp for x in node.items for leaf in lamps_in(x))
            yield Tie(node.id, home, to, plus, minus, lamps)
        for item in node.items:
            yield from _walk(item, to, node.id, minus, catalogue)
    elif isinstance(node, Load):
        kind = catalogue.loads.get(node.part)
        if node.home and node.home != home:
            yield Tie(node.id, home, node.home, plus, minus, (), kind.running_a if kind is not None else 0.0)
    elif isinstance(node, Switched):
        drive = catalogue.drives.get(node.part)
        pin = drive is None or drive.kind == "pin"  # others sit in the minus side
        for item in node.items:
            yield from _walk(item, home, node.id if pin else plus, minus if pin else node.id, catalogue)
    elif isinstance(node, Parallel) and not any(isinstance(x, Resistor) for x in node.items):
        for item in node.items:
            yield from _walk(item, home, plus, minus, catalogue)
    elif isinstance(node, (LampRef, *BRANCHING)):
        inner = [x for x in getattr(node, "items", ()) if isinstance(x, (Regulated, Switched, Load))]
        if inner:
            for item in inner:
                yield from _walk(item, home, plus, minus, catalogue)
        elif lamps_in(node):
            yield Line(tuple(leaf.lamp for leaf in lamps_in(node)), home, plus, minus)
