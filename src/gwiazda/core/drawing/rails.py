"""Rails and rungs: where everything of the plan's circuits is drawn, the plus rail above, the minus rail below.

A feed's source stands at the left, then what all goes through, then its strings as rungs. What is alike is drawn once,
with how many it stands for, as soon as the room asks for it. Lengths are in units of a screen's pixels at 100 % text.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.rail_blocks import Block, BlockMaker
from gwiazda.core.drawing.rail_marks import Label, RailMark, Sheet, StringPlace
from gwiazda.core.drawing.rail_pen import RailPen
from gwiazda.core.memo import memoize
from gwiazda.core.plan.model import Feed, Fuse, Plan, Switch, Wire, lamps_in

SOURCE, HEAD_PART, LEFT, LABEL, UNDER = 74.0, 44.0, 14.0, 16.0, 9.0
NAMED_UNDER = 40.0  # room for the tag and the names under each string, on paper
COLUMNS = (104.0, 92.0, 82.0, 74.0, 66.0, 56.0, 48.0, 40.0, 34.0, 30.0, 26.0, 22.0)
COMFORTABLE = 56.0  # wider columns only where they cost no more rows
LEAST = (34.0, 40.0, 30.0, 22.0)  # column by how much is folded: narrower ones can't be told apart
SCALES = (1.5, 1.25, 1.0, 0.85, 0.72)


class _Feed(NamedTuple):
    feed: Feed
    blocks: tuple[Block, ...]


def _feeds(plan: Plan, assessment: Assessment, fold: int, scale: float) -> list[_Feed]:
    maker = BlockMaker(plan, assessment, fold, scale)
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


def _rows(one: _Feed, column: float, width: float) -> list[list[Block]]:
    """A feed's blocks in rows that are no wider than the sheet."""
    rows: list[list[Block]] = [[]]
    x = LEFT + SOURCE + HEAD_PART * len(one.feed.head)
    for b in one.blocks:
        if x + b.w * column > width - 10 and rows[-1]:
            rows.append([])
            x = LEFT + 12
        rows[-1].append(b)
        x += b.w * column
    return rows


def _height(row: Iterable[Block], scale: float, under: float) -> float:
    return LABEL + max(max((b.h for b in row), default=0.0), 44.0 * scale) + under


def _laid(
    feeds: Sequence[_Feed], names: Mapping[str, str], column: float, width: float, scale: float, fold: int, under: float
) -> Sheet:
    pen, y, widest = RailPen(column, scale), 2.0, 0.0
    for one in feeds:
        rows = _rows(one, column, width)
        left = sum(b.current_a * b.number for b in one.blocks)
        before: tuple[float, float] | None = None
        for k, row in enumerate(rows):
            top = y + LABEL
            bottom = y + _height(row, scale, under) - under
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
                if under > UNDER and b.lamps:
                    pen.strings.append(StringPlace(x, bottom + 3.0, b.w * column, under - 6.0, b.lamps))
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
            y = bottom + under
            pen.rows.append(y)
    return Sheet(
        tuple(pen.marks), tuple(pen.leads), tuple(pen.labels), widest + 8, y, column, fold, tuple(pen.strings), tuple(pen.rows)
    )  # fmt: skip


def _source(pen: RailPen, feed: Feed, top: float, bottom: float, total: float) -> float:
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


def _name(pen: RailPen, row: Sequence[Block], start: float, column: float, y: float, names: Mapping[str, str]) -> None:
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
def rails_of(plan: Plan, assessment: Assessment, width: float, height: float, named: bool = False) -> Sheet:
    """The plan's circuits on a sheet of so much room, folded as little as that takes; higher than it where nothing else fits.

    The assessment is the plan's. ``named``: with room for the names of its lamps under each string, in columns wide enough for them.
    """
    under, narrowest = (NAMED_UNDER, COMFORTABLE) if named else (UNDER, 0.0)
    names = {s.id: s.name for s in plan.sections}
    lowest: tuple[float, Sequence[_Feed], float, float, int] | None = None
    for fold, least in enumerate(LEAST):
        for scale in SCALES:
            feeds = _feeds(plan, assessment, fold, scale)
            fewest = sum(len(_rows(one, COMFORTABLE, width)) for one in feeds)
            for column in COLUMNS:
                if column < max(least, narrowest):
                    break
                if column > COMFORTABLE and sum(len(_rows(one, column, width)) for one in feeds) > fewest:
                    continue
                need = sum(_height(row, scale, under) for one in feeds for row in _rows(one, column, width)) + 2.0
                fits = all(b.w * column <= width - 24 for one in feeds for b in one.blocks)
                if need <= height and fits:
                    return _laid(feeds, names, column, width, scale, fold, under)
                if fits and (lowest is None or need < lowest[0] - 1.0):
                    lowest = (need, feeds, column, scale, fold)
    if lowest is not None:
        return _laid(lowest[1], names, lowest[2], width, lowest[3], lowest[4], under)
    fold, scale, column = len(LEAST) - 1, SCALES[-1], COLUMNS[-1]
    return _laid(_feeds(plan, assessment, fold, scale), names, column, width, scale, fold, under)
