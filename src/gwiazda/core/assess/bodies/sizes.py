"""What has a body and is to stand in a section: cells with their holder, boards, regulators, motors, sound modules, switches; and their sizes."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from gwiazda.core.assess.heat import homes_of
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.electrics import SocketPart, SourcePart
from gwiazda.core.plan.model import (
    Load,
    Plan,
    Regulated,
    Supply,
    Switch,
    parts_in,
)
from gwiazda.core.plan.model.section import ObstacleKind
from gwiazda.core.plan.naming import name_of
from gwiazda.core.space.boxes import Size

MOST_ALONG, MOST_HIGH = (
    3,
    2,
)  # cells end to end, and one upon another, in what is sold as holders or put together of them


class Body(NamedTuple):
    """One thing that needs room: of which source, board or part it is the body (``of``), where it is to stand, the sizes it
    may have (mm), and what it is among obstacles."""

    of: str
    name: str
    section: str
    sizes: tuple[Size, ...]
    kind: ObstacleKind


def holder_sizes(part: SourcePart, cells: int) -> tuple[Size, ...]:
    """The sizes (mm) so many cells have with their holder, in each way they may lie side by side, end to end, one upon another.

    Parameters
    ----------
    part : SourcePart
        A battery.
    cells : int
        How many.

    Returns
    -------
    tuple[tuple[float, float, float], ...]
        Length, width, height in mm; the flattest and shortest first. Empty where the part has no size.
    """
    (x, y, z), (longer, wider, each) = part.size_mm, part.holder_mm
    if not x:
        return ()
    found = []
    for high in range(1, min(MOST_HIGH, cells) + 1):
        for along in range(1, min(MOST_ALONG, cells) + 1):
            wide = -(-cells // (high * along))
            if (
                (wide - 1) * high * along < cells
                and (high - 1) * wide * along < cells
                and (along - 1) * wide * high < cells
            ):
                found.append((along * (x + longer), wide * (y + each) + wider, high * (z + each)))
    return tuple(sorted(set(found), key=lambda s: (s[2], s[0])))


def source_sizes(catalogue: Catalogue, supply: Supply) -> tuple[Size, ...]:
    """The sizes (mm) a source may have that stands with the model; an adapter stays outside and has none."""
    part = catalogue.sources.get(supply.part)
    if part is None or part.kind != "battery":
        return ()
    return holder_sizes(part, supply.in_series * supply.in_parallel)


def socket_of(catalogue: Catalogue, supply: Supply) -> SocketPart | None:
    """What the plug of an adapter goes into, of a source that has one."""
    part = catalogue.sources.get(supply.part)
    return catalogue.sockets.get(part.socket) if part is not None else None


def bodies_of(catalogue: Catalogue, plan: Plan) -> tuple[Body, ...]:
    """What the plan says stands in a section and has a size, one of each."""

    def found() -> Iterator[Body]:
        for feed in plan.feeds:
            part = catalogue.sources.get(feed.supply.part)
            count = feed.supply.in_series * feed.supply.in_parallel
            name = f"{f'{count} × ' if count > 1 else ''}{part.name}" if part is not None else feed.supply.part
            socket = socket_of(catalogue, feed.supply)
            if socket is not None:
                yield Body(feed.id, f"{socket.name}, for {name}", feed.home, (socket.size_mm,), "socket")
            else:
                yield Body(feed.id, name, feed.home, source_sizes(catalogue, feed.supply), "pack")
        for node, home in homes_of(plan.feeds):
            if isinstance(node, Regulated):
                regulator = catalogue.regulators.get(node.part)
                yield Body(node.id, name_of(plan, node.id), home, _one(regulator), "regulator")
            elif isinstance(node, Load):
                load = catalogue.loads.get(node.part)
                kind: ObstacleKind = "speaker" if load is not None and load.kind == "sound" else "motor"
                yield Body(node.id, name_of(plan, node.id), home, _one(load), kind)
        for switch in switches_of(plan):
            if switch.home:
                part_of = catalogue.switch(switch.kind)
                yield Body(switch.id, name_of(plan, switch.id), switch.home, _one(part_of), "switch")
        for board in plan.boards:
            made = catalogue.boards.get(board.part)
            name = board.name or (made.name if made is not None else board.part)
            yield Body(board.id, name, board.home, _one(made), "board")

    return tuple(b for b in found() if b.section and b.sizes)


def switches_of(plan: Plan) -> Iterator[Switch]:
    """Every switch of the circuit."""
    for feed in plan.feeds:
        for item in (*feed.head, *feed.items):
            yield from (x for x in parts_in(item) if isinstance(x, Switch))


def _one(part: object) -> tuple[Size, ...]:
    size: Size = getattr(part, "size_mm", (0.0, 0.0, 0.0))
    return (size,) if size[0] else ()
