"""Rails and rungs: where everything of the plan's circuits is drawn, the plus rail above, the minus rail below.

A feed's source stands at the left, then what all goes through, then its strings as rungs. What is alike is drawn once,
with how many it stands for, as soon as the room asks for it. Lengths are in units of a screen's pixels at 100 % text.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.assess.states import Assessment
from gwiazda.core.memo import memoize
from gwiazda.core.plan.lookup import lamp_of
from gwiazda.core.plan.model import (
    BRANCHING,
    CircuitNode,
    Feed,
    Fuse,
    LampRef,
    Load,
    Parallel,
    Plan,
    Resistor,
    Series,
    Switch,
    Switched,
    Wire,
    lamps_in,
)

SLOT = {"resistor": 34.0, "lamp": 23.0, "fuse": 28.0, "switch": 28.0, "wire": 18.0, "load": 28.0}
BOX, STAGE, BUS = 25.0, 32.0, 8.0
SOURCE, HEAD_PART, LEFT, LABEL, UNDER = 74.0, 44.0, 14.0, 16.0, 9.0
COLUMNS = (104.0, 92.0, 82.0, 74.0, 66.0, 56.0, 48.0, 40.0, 34.0, 30.0, 26.0, 22.0)
COMFORTABLE = 56.0  # wider columns only where they cost no more rows
LEAST = (34.0, 40.0, 30.0, 22.0)  # column by how much is folded: narrower ones can't be told apart
SCALES = (1.5, 1.25, 1.0, 0.85, 0.72)


class RailMark(NamedTuple):
    """Something that is drawn and can be picked: a symbol in its rectangle, for so many of its kind.

    ``id`` is that of a part, of a lamp, or of a feed; ``lamps`` those it stands for.
    """

    kind: str
    id: str
    x: float
    y: float
    w: float
    h: float
    lamps: tuple[str, ...] = ()
    number: int = 1
    turned: bool = False
    flat: bool = False  # drawn along a rail


class Lead(NamedTuple):
    """A piece of wire with its current (A); ``role`` says which rail it belongs to, if any."""

    x0: float
    y0: float
    x1: float
    y1: float
    current_a: float
    role: str = "wire"


class Label(NamedTuple):
    """Words over a stretch of a rail."""

    x: float
    y: float
    w: float
    text: str


class Sheet(NamedTuple):
    """The whole drawing, and how it came to fit: width of a column, how much is folded (0: nothing)."""

    marks: tuple[RailMark, ...]
    leads: tuple[Lead, ...]
    labels: tuple[Label, ...]
    width: float
    height: float
    column: float
    folded: int


class _Block(NamedTuple):
    """A part of the tree as it is drawn: in columns wide, so high, its current, what it stands for."""

    kind: str
    id: str
    w: float
    h: float
    current_a: float
    lamps: tuple[str, ...] = ()
    items: tuple[_Block, ...] = ()
    number: int = 1
    turned: bool = False
    sign: object = None
    home: str = ""


class _Maker:
    """Makes blocks of the tree's parts; ``fold``: 0 none, 1 alike ones of a section, 2 alike ones, 3 of one kind."""

    def __init__(self, plan: Plan, assessment: Assessment, fold: int, scale: float) -> None:
        self.plan, self.assessment, self.fold, self.scale = plan, assessment, fold, scale
        self.ohms = {r.resistor: r.resistor_ohm for r in assessment.branches.values() if r.resistor}

    def home(self, lamp_id: str) -> str:
        state = self.assessment.lamps.get(lamp_id)
        return (state.section or "") if state is not None else ""

    def lamp(self, lamp_id: str, turned: bool) -> _Block:
        state = self.assessment.lamps.get(lamp_id)
        current = state.current_a if state is not None else 0.0
        part = state.part if state is not None else lamp_of(self.plan, lamp_id).part
        sign = ("lamp", part, turned, f"{current:.3g}" if self.fold < 3 else "")
        return _Block(
            "lamp",
            lamp_id,
            1.0,
            SLOT["lamp"] * self.scale,
            current,
            (lamp_id,),
            (),
            1,
            turned,
            sign,
            self.home(lamp_id),
        )

    def leaf(self, kind: str, part_id: str, sign: object = None) -> _Block:
        state = self.assessment.parts.get(part_id)
        return _Block(
            kind, part_id, 1.0, SLOT[kind] * self.scale, state.current_a if state is not None else 0.0,
            sign=sign if sign is not None else (kind, part_id),
        )  # fmt: skip

    def single(self, lamp_id: str) -> _Block:
        """A lamp with a resistor of its own."""
        lamp, state = self.lamp(lamp_id, False), self.assessment.lamps.get(lamp_id)
        ohm = state.resistor_ohm if state is not None else 0.0
        if ohm <= 0:
            return lamp
        resistor = _Block(
            "resistor", lamp_id, 1.0, SLOT["resistor"] * self.scale, lamp.current_a, (lamp_id,),
            sign=("resistor", f"{ohm:.4g}" if self.fold < 3 else ""),
        )  # fmt: skip
        return self.stack("single", lamp_id, (resistor, lamp))

    def block(self, node: CircuitNode) -> _Block:
        if isinstance(node, LampRef):
            return self.lamp(node.lamp, node.reversed)
        if isinstance(node, Resistor):
            ohm = node.ohm or self.ohms.get(node.id, 0.0)
            return self.leaf("resistor", node.id, ("resistor", f"{ohm:.4g}"))
        for leaf, name in ((Fuse, "fuse"), (Switch, "switch"), (Wire, "wire"), (Load, "load")):
            if isinstance(node, leaf):
                return self.leaf(name, node.id)
        assert isinstance(node, BRANCHING)
        blocks = self.folded([self.block(x) for x in node.items])
        if isinstance(node, Series):
            return self.stack("series", node.id, tuple(self.block(x) for x in node.items))
        current = sum(b.current_a * b.number for b in blocks)
        wide, high = sum(b.w for b in blocks), max((b.h for b in blocks), default=0.0)
        lamps = tuple(i for b in blocks for i in b.lamps)
        home = blocks[0].home if blocks else ""
        if isinstance(node, Parallel):
            return _Block("parallel", node.id, max(wide, 1.0), high + 2 * BUS, current, lamps, blocks, home=home)
        state = self.assessment.parts.get(node.id)
        flows = state.current_a if state is not None else current
        kind: str = "regulator"
        box, stage = BOX * self.scale, STAGE * self.scale
        extra = box + BUS
        if isinstance(node, Switched):
            drive = self.assessment.catalogue.drives.get(node.part)
            kind = drive.kind if drive is not None else "pin"
            extra = box + BUS if kind == "pin" else stage + 2 * BUS
        return _Block(kind, node.id, max(wide, 1.6), high + extra, flows, lamps, blocks, home=home)

    def stack(self, kind: str, block_id: str, items: tuple[_Block, ...]) -> _Block:
        first = next((b.current_a * b.number for b in items if b.lamps), items[0].current_a if items else 0.0)
        lamps = tuple(i for b in items if b.kind != "resistor" for i in b.lamps)
        plain = all(b.kind in ("resistor", "lamp") for b in items)
        sign = (kind, *(b.sign for b in items)) if plain else (kind, block_id)
        home = next((b.home for b in items if b.home), "")
        return _Block(
            kind, block_id, max((b.w for b in items), default=1.0), sum(b.h for b in items), first, lamps, items, 1, False,
            ("string", *sign[1:]) if plain else sign, home,
        )  # fmt: skip

    def folded(self, blocks: Sequence[_Block]) -> tuple[_Block, ...]:
        """Alike ones side by side as one."""
        if not self.fold:
            return tuple(blocks)
        groups: dict[object, list[_Block]] = {}
        for b in blocks:
            groups.setdefault((b.sign or b.id, b.home if self.fold == 1 else ""), []).append(b)
        out = []
        for same in groups.values():
            first = same[0]
            if len(same) > 1 and first.sign is not None:
                out.append(first._replace(number=len(same), lamps=tuple(i for b in same for i in b.lamps)))
            else:
                out += same
        return tuple(out)


class _Buses(NamedTuple):
    """Where blocks side by side hang: the ends of what they are on, and their own two buses, downwards."""

    top: float
    bottom: float
    upper_y: float
    lower_y: float


class _Pen:
    """Collects marks, leads and labels while blocks are put in their places."""

    def __init__(self, column: float, scale: float) -> None:
        self.column, self.scale, self.box, self.stage = column, scale, BOX * scale, STAGE * scale
        self.marks: list[RailMark] = []
        self.leads: list[Lead] = []
        self.labels: list[Label] = []

    def lead(self, x0: float, y0: float, x1: float, y1: float, current_a: float, role: str = "wire") -> None:
        if abs(x1 - x0) + abs(y1 - y0) > 0.01:
            self.leads.append(Lead(x0, y0, x1, y1, abs(current_a), role))

    def put(self, b: _Block, x: float, top: float, bottom: float, on_rail: bool, count: int = 1, lamps: tuple[str, ...] = ()) -> None:  # fmt: skip
        """A block with its left edge at ``x``, from its upper connection at ``top`` to its lower one at ``bottom``."""
        centre = x + self.column / 2
        count *= b.number
        current = b.current_a * count
        if b.kind in ("series", "single"):
            y = top
            for i, item in enumerate(b.items):
                last = i == len(b.items) - 1
                inner = self._share(b, item, i) if b.number > 1 else item.lamps
                self.put(item, x, y, bottom if last else y + item.h, on_rail and last, count, inner)
                y += item.h
            return
        if b.kind == "parallel":
            self._side(b.items, x, _Buses(top, bottom, top + BUS, bottom - BUS), count)
            return
        if b.kind in ("regulator", "pin"):
            wide = max(b.w * self.column, 1.6 * self.column) - 6
            self.lead(centre, top, centre, top + 3, current)
            self.marks.append(RailMark(b.kind, b.id, x + 3, top + 3, wide, self.box - 5, b.lamps))
            bus = top + self.box + 2
            self.lead(centre, top + self.box - 2, centre, bus, current)
            low = bottom if on_rail else bottom - BUS
            self._side(b.items, x, _Buses(bus, bottom, bus, low), count, upper=False, on_rail=on_rail)
            return
        if b.kind in ("npn", "mosfet", "relay"):
            low = bottom - self.stage
            self._side(b.items, x, _Buses(top, low, top + BUS, low - BUS / 2), count)
            self.marks.append(RailMark(b.kind, b.id, centre - 15, low + 2, 30, self.stage - 6, b.lamps))
            middle = low + 2 + (self.stage - 6) / 2
            self.lead(centre, low, centre, middle - 12, current)
            self.lead(centre, middle + 12, centre, bottom, current)
            return
        end = top + b.h
        k = max(self.scale, 1.0)
        side = min(16.0 * k, self.column - 6, b.h - 3)
        middle = (top + end) / 2
        sizes = {"lamp": (side, side), "resistor": (12.0 * k, b.h - 8), "fuse": (10.0 * k, b.h - 8), "switch": (18.0, b.h - 8),
                 "wire": (10.0, b.h - 4), "load": (18.0, 18.0)}  # fmt: skip
        w, h = sizes[b.kind]
        h = min(h, b.h - 3)
        self.lead(centre, top, centre, middle - h / 2, current)
        self.lead(centre, middle + h / 2, centre, bottom, current)
        self.marks.append(
            RailMark(b.kind, b.id, centre - w / 2, middle - h / 2, w, h, lamps or b.lamps, count, b.turned)
        )

    @staticmethod
    def _share(b: _Block, item: _Block, index: int) -> tuple[str, ...]:
        """Of a string that stands for several: the lamps in this place of each."""
        each = len(b.lamps) // b.number
        if item.kind != "lamp":
            return b.lamps
        place = sum(1 for x in b.items[:index] if x.kind == "lamp")
        return tuple(b.lamps[k * each + place] for k in range(b.number)) if each else b.lamps

    def _side(
        self, items: Sequence[_Block], x: float, buses: _Buses, count: int, upper: bool = True, on_rail: bool = False
    ) -> None:
        """Blocks side by side between two buses; the first is straight below where they are joined."""
        top, bottom, upper_y, lower_y = buses
        half, total = self.column / 2, sum(b.current_a * b.number for b in items) * count
        if upper:
            self.lead(x + half, top, x + half, upper_y, total)
        if not on_rail:
            self.lead(x + half, lower_y, x + half, bottom, total)
        at, left = x, total
        for i, b in enumerate(items):
            own = b.current_a * b.number * count
            self.put(b, at, upper_y, bottom if on_rail else lower_y, on_rail, count)
            left -= own
            if i < len(items) - 1:
                after = at + b.w * self.column
                self.lead(at + half, upper_y, after + half, upper_y, left)
                if not on_rail:
                    self.lead(at + half, lower_y, after + half, lower_y, left)
                at = after


class _Feed(NamedTuple):
    feed: Feed
    blocks: tuple[_Block, ...]


def _feeds(plan: Plan, assessment: Assessment, fold: int, scale: float) -> list[_Feed]:
    maker = _Maker(plan, assessment, fold, scale)
    named = {leaf.lamp for f in plan.feeds for item in f.items for leaf in lamps_in(item)}
    order = {s.id: i for i, s in enumerate(plan.sections)}
    out = []
    for i, feed in enumerate(plan.feeds):
        blocks = [maker.block(x) for x in feed.items]
        if i == 0:
            singles = sorted(
                (p.id for p in plan.lamps if p.id not in named), key=lambda k: order.get(maker.home(k), len(order))
            )
            blocks += [maker.single(k) for k in singles]
        out.append(_Feed(feed, maker.folded(blocks)))
    return out


def _rows(one: _Feed, column: float, width: float) -> list[list[_Block]]:
    """A feed's blocks in rows that are no wider than the sheet."""
    rows: list[list[_Block]] = [[]]
    x = LEFT + SOURCE + HEAD_PART * len(one.feed.head)
    for b in one.blocks:
        if x + b.w * column > width - 10 and rows[-1]:
            rows.append([])
            x = LEFT + 12
        rows[-1].append(b)
        x += b.w * column
    return rows


def _height(row: Iterable[_Block], scale: float) -> float:
    return LABEL + max(max((b.h for b in row), default=0.0), 44.0 * scale) + UNDER


def _laid(
    feeds: Sequence[_Feed], names: Mapping[str, str], column: float, width: float, scale: float, fold: int
) -> Sheet:
    pen, y, widest = _Pen(column, scale), 2.0, 0.0
    for one in feeds:
        rows = _rows(one, column, width)
        left = sum(b.current_a * b.number for b in one.blocks)
        before: tuple[float, float] | None = None
        for k, row in enumerate(rows):
            top = y + LABEL
            bottom = y + _height(row, scale) - UNDER
            x = LEFT + 12
            if k == 0:
                x = _source(pen, one.feed, top, bottom, left)
            elif before is not None:
                # Both rails come down from the row above along the left edge.
                pen.lead(4, before[0], 4, top, left, "plus")
                pen.lead(9, before[1], 9, bottom, left, "minus")
                pen.lead(4, top, x + column / 2, top, left, "plus")
                pen.lead(9, bottom, x + column / 2, bottom, left, "minus")
            start = x
            for i, b in enumerate(row):
                own = b.current_a * b.number
                pen.put(b, x, top, bottom, True)
                left -= own
                after = x + b.w * column
                if i < len(row) - 1:
                    pen.lead(x + column / 2, top, after + column / 2, top, left, "plus")
                    pen.lead(x + column / 2, bottom, after + column / 2, bottom, left, "minus")
                x = after
            _name(pen, row, start, column, y, names)
            if k < len(rows) - 1:
                before = (top, bottom)
                pen.lead(4, top, LEFT + 12 if k else LEFT + 24, top, left, "plus")
                pen.lead(9, bottom, LEFT + 12 if k else LEFT + 24, bottom, left, "minus")
            widest = max(widest, x)
            y = bottom + UNDER
    return Sheet(tuple(pen.marks), tuple(pen.leads), tuple(pen.labels), widest + 8, y, column, fold)


def _source(pen: _Pen, feed: Feed, top: float, bottom: float, total: float) -> float:
    """The source between its rails and what all of its current goes through; where the first rung begins."""
    centre, x = LEFT + 24.0, LEFT + SOURCE - 14.0
    middle = (top + bottom) / 2
    pen.marks.append(RailMark("source", feed.id, centre - 20, middle - 12, 40, 24))
    pen.lead(centre, top, centre, middle - 6, total, "plus")
    pen.lead(centre, middle + 6, centre, bottom, total, "minus")
    at = centre
    for part in feed.head:
        kind = {Fuse: "fuse", Switch: "switch", Wire: "wire"}[type(part)]
        pen.lead(at, top, x + 8, top, total, "plus")
        pen.marks.append(RailMark(kind, part.id, x + 8, top - 7, 28, 14, flat=True))
        at, x = x + 36, x + HEAD_PART
    start = x + 14.0
    pen.lead(at, top, start + pen.column / 2, top, total, "plus")
    pen.lead(centre, bottom, start + pen.column / 2, bottom, total, "minus")
    return start


def _name(pen: _Pen, row: Sequence[_Block], start: float, column: float, y: float, names: Mapping[str, str]) -> None:
    """Names of sections over the rungs that light them."""
    x, first, home = start, start, row[0].home if row else ""
    for b in [*row, None]:
        here = b.home if b is not None else None
        if here != home:
            words = names.get(home, "outside" if home == "" else home)
            pen.labels.append(Label(first + 3, y, x - first - 4, words))
            first, home = x, here or ""
        x += b.w * column if b is not None else 0.0


@memoize(slots=4)
def rails_of(plan: Plan, assessment: Assessment, width: float, height: float) -> Sheet:
    """The plan's circuits on a sheet of so much room, folded as little as that takes; higher than it where nothing else fits.

    The assessment is the plan's.
    """
    names = {s.id: s.name for s in plan.sections}
    lowest: tuple[float, Sequence[_Feed], float, float, int] | None = None
    for fold, least in enumerate(LEAST):
        for scale in SCALES:
            feeds = _feeds(plan, assessment, fold, scale)
            fewest = sum(len(_rows(one, COMFORTABLE, width)) for one in feeds)
            for column in COLUMNS:
                if column < least:
                    break
                if column > COMFORTABLE and sum(len(_rows(one, column, width)) for one in feeds) > fewest:
                    continue
                need = sum(_height(row, scale) for one in feeds for row in _rows(one, column, width)) + 2.0
                fits = all(b.w * column <= width - 24 for one in feeds for b in one.blocks)
                if need <= height and fits:
                    return _laid(feeds, names, column, width, scale, fold)
                if fits and (lowest is None or need < lowest[0] - 1.0):
                    lowest = (need, feeds, column, scale, fold)
    if lowest is not None:
        return _laid(lowest[1], names, lowest[2], width, lowest[3], lowest[4])
    fold, scale, column = len(LEAST) - 1, SCALES[-1], COLUMNS[-1]
    return _laid(_feeds(plan, assessment, fold, scale), names, column, width, scale, fold)
