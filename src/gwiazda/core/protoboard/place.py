"""A netlist laid out on a board of holes: rows given to nets round the chip, parts across them or along a row over a cut, tried many times with a seed.

Sources
-------
[1] House rules of the bench: a chip stands across the tracks with a cut under each pair of pins; a part whose far end goes to one lead alone lies along
    its row over a cut; all others stand across the tracks; what is still apart is joined by links on top.
"""

from __future__ import annotations

import random
from collections.abc import Sequence
from typing import NamedTuple

from gwiazda.core.errors import PlanError
from gwiazda.core.protoboard.layout import Component, Hole, Kind, Layout, Placed, between, body, faults, joined, wanted

MOST_PARTS = 20  # besides one chip and the leads
SPANS = {
    "axial": (3, 4, 5, 6, 2, 1),
    "diode": (3, 4, 5, 2),
    "disc": (1, 2),
    "can": (1, 2),
}  # pitches between the pins, the likeliest first
ALONG = {"axial": 3, "diode": 3, "disc": 2, "can": 2}  # along a row over a cut, which takes a hole between
TRIES = 600
PATIENCE = 80  # tries without a smaller board after which it is good enough
LINK_COST, CUT_COST = 6.0, 1.0  # holes of area that one link, one cut is worth


class _Segment:
    """A piece of a track with its net."""

    __slots__ = ("first", "last", "net", "row")

    def __init__(self, row: int, first: int, last: int, net: str) -> None:
        self.row, self.first, self.last, self.net = row, first, last, net


class _Board:
    """A board being filled."""

    def __init__(self, columns: int, rows: int) -> None:
        self.columns, self.rows = columns, rows
        self.segments: list[_Segment] = []
        self.placed: list[Placed] = []
        self.cuts: list[Hole] = []
        self.links: list[tuple[Hole, Hole]] = []
        self.taken: set[Hole] = set()

    def of(self, net: str) -> list[_Segment]:
        return [s for s in self.segments if s.net == net]

    def put(self, part: Component, holes: tuple[Hole, ...]) -> None:
        placed = Placed(part, holes)
        self.placed.append(placed)
        self.taken.update(body(placed))

    def free(self, cells: Sequence[Hole]) -> bool:
        return all(c not in self.taken and 0 <= c[0] < self.columns and 0 <= c[1] < self.rows for c in cells)

    def cut(self, hole: Hole) -> None:
        self.cuts.append(hole)
        self.taken.add(hole)


class _Sorted(NamedTuple):
    """A netlist by what is done with its parts."""

    chip: Component | None
    threes: tuple[Component, ...]
    inline: tuple[tuple[Component, int], ...]  # with the pin whose net goes to a lead alone
    twos: tuple[Component, ...]
    leads: tuple[Component, ...]


def laid_out(components: Sequence[Component], kind: Kind = "strip", seed: int = 1, tries: int = TRIES) -> Layout:
    """A board for a netlist, the smallest of many tries; checked against the netlist by its holes.

    Parameters
    ----------
    components : Sequence[Component]
        The parts with the nets of their pins: at most one chip and twenty others, besides leads.
    kind : str
        Strip board, or pad board.
    seed : int
        Of the tries.
    tries : int
        How many.

    Returns
    -------
    Layout
        The board.

    Raises
    ------
    PlanError
        For more than one chip or twenty parts, or where no try came out.
    """
    chips = [c for c in components if c.shape == "dip"]
    others = [c for c in components if c.shape not in ("dip", "lead")]
    if len(chips) > 1 or len(others) > MOST_PARTS:
        raise PlanError(
            "The board",
            f"{len(chips)} chips and {len(others)} parts are too many",
            f"one chip and up to {MOST_PARTS} parts on one board",
        )
    parts = _sorted(components)
    dice = random.Random(seed)
    best: tuple[float, Layout] | None = None
    since = 0
    for k in range(tries):
        since += 1
        if best is not None and since > PATIENCE:
            break
        made = _try(parts, kind, dice, 5 + k % 6)
        if made is None or next(faults(made), None) is not None or joined(made) != wanted(components):
            continue
        cost = made.columns * made.rows + LINK_COST * len(made.links) + CUT_COST * len(made.cuts)
        if best is None or cost < best[0]:
            best, since = (cost, made), 0
    if best is None:
        raise PlanError("The board", "no layout was found", "fewer parts on one board, or two boards")
    return best[1]


def _sorted(components: Sequence[Component]) -> _Sorted:
    count: dict[str, int] = {}
    led: set[str] = set()
    for c in components:
        for net in c.nets:
            count[net] = count.get(net, 0) + 1
        if c.shape == "lead":
            led.add(c.nets[0])
    twos = [c for c in components if c.shape in SPANS]
    inline = {c.ref: pin for c in twos for pin in (0, 1) if c.nets[pin] in led and count[c.nets[pin]] == 2}
    return _Sorted(
        next((c for c in components if c.shape == "dip"), None),
        tuple(c for c in components if c.shape == "to92"),
        tuple((c, inline[c.ref]) for c in twos if c.ref in inline),
        tuple(c for c in twos if c.ref not in inline),
        tuple(c for c in components if c.shape == "lead"),
    )


def _try(parts: _Sorted, kind: Kind, dice: random.Random, side: int) -> Layout | None:
    """One board, or None where something found no place."""
    chip = parts.chip
    pins = len(chip.nets) // 2 if chip is not None else 0
    along = max((ALONG[c.shape] for c, _ in parts.inline), default=0) + 2
    left = side + (along if parts.inline else 0)
    columns = left + (4 + left if chip is not None else side)
    blocks: list[tuple[str, object]] = [("chip", chip)] if chip is not None else []
    blocks += [("three", t) for t in parts.threes]
    held = set(chip.nets if chip is not None else ()) | {n for t in parts.threes for n in t.nets}
    ends = {c.nets[pin] for c, pin in parts.inline}
    singles = {n for c in (*parts.twos, *parts.leads) for n in c.nets} | {c.nets[1 - pin] for c, pin in parts.inline}
    rows_for = [n for n in sorted(singles - held - ends) if n]
    # Each part along a row wants a piece of its net that ends at an edge.
    room = dict.fromkeys(held, 0)
    if chip is not None:
        for n in chip.nets:
            room[n] = room.get(n, 0) + 1
    need: dict[str, int] = {}
    for c, pin in parts.inline:
        need[c.nets[1 - pin]] = need.get(c.nets[1 - pin], 0) + 1
    for net, count in need.items():
        have = room.get(net, 0) + (2 if net in rows_for else 0)
        rows_for += [net] * -(-max(count - have, 0) // 2)
    # A rail of its own for what much hangs on, so that what goes across has a row within reach.
    hangs: dict[str, int] = {}
    for c in (*parts.twos, *parts.threes, *parts.leads):
        for net in c.nets:
            hangs[net] = hangs.get(net, 0) + 1
    half = pins if chip is not None else 0
    both = set(chip.nets[:half]) & set(chip.nets[half:]) if chip is not None else set()  # on both sides of the chip
    rows_for += [
        n
        for n, count in sorted(hangs.items())
        if n in held and dice.random() < (0.9 if n in both else min(0.1 + 0.15 * count, 0.8))
    ]
    rows_for += [n for n in sorted(both) if n and n not in hangs and dice.random() < 0.9]
    blocks += [("row", n) for n in rows_for]
    dice.shuffle(blocks)
    board = _Board(columns, sum(pins if k == "chip" else 3 if k == "three" else 1 for k, _ in blocks))
    row = 0
    threes: list[tuple[Component, int]] = []
    for what, of in blocks:
        if what == "chip":
            assert chip is not None
            _put_chip(board, chip, left, row)
            row += pins
        elif what == "three":
            assert isinstance(of, Component)
            turned = dice.random() < 0.5
            board.segments += [_Segment(row + k, 0, columns - 1, of.nets[2 - k if turned else k]) for k in range(3)]
            threes.append((of, -row - 1 if turned else row))
            row += 3
        else:
            board.segments.append(_Segment(row, 0, columns - 1, str(of)))
            row += 1
    ok = (
        all(_put_three(board, t, at, dice) for t, at in threes)
        and all(_put_along(board, c, pin, dice) for c, pin in dice.sample(parts.inline, len(parts.inline)))
        and all(_put_across(board, c, dice) for c in dice.sample(parts.twos, len(parts.twos)))
        and _link(board, dice)
        and all(_put_lead(board, c) for c in parts.leads)
    )
    return _finished(board, kind) if ok else None


def _put_chip(board: _Board, chip: Component, left: int, row: int) -> None:
    """A chip across the tracks: pins down its left side, up its right, a cut between each pair."""
    n = len(chip.nets) // 2
    holes = [(left, row + k) for k in range(n)] + [(left + 3, row + n - 1 - k) for k in range(n)]
    board.put(chip, tuple(holes))
    for k in range(n):
        board.cuts.append((left + 1, row + k))
        board.segments += [
            _Segment(row + k, 0, left, chip.nets[k]), _Segment(row + k, left + 2, board.columns - 1, chip.nets[2 * n - 1 - k]),
        ]  # fmt: skip


def _put_three(board: _Board, part: Component, at: int, dice: random.Random) -> bool:
    """A transistor across its three rows, one way round or the other."""
    turned, row = at < 0, (-at - 1 if at < 0 else at)
    for column in dice.sample(range(board.columns), board.columns):
        cells = [(column, row + k) for k in range(3)]
        if board.free(cells):
            board.put(part, tuple(reversed(cells)) if turned else tuple(cells))
            return True
    return False


def _put_along(board: _Board, part: Component, pin: int, dice: random.Random) -> bool:
    """A part along a row, over a cut: its far end gets the rest of the track to the edge."""
    span = ALONG[part.shape]
    near, far = part.nets[1 - pin], part.nets[pin]
    options = [s for s in board.of(near) if s.last == board.columns - 1 or s.first == 0]
    for s in dice.sample(options, len(options)):
        for outward in (1, -1):
            if (outward > 0 and s.last != board.columns - 1) or (outward < 0 and s.first != 0):
                continue
            columns = range(s.last, s.first - 1, -1) if outward > 0 else range(s.first, s.last + 1)
            for column in columns:
                end = column + outward * span
                cells = between((column, s.row), (end, s.row))
                rest = between((end + outward, s.row), (board.columns - 1 if outward > 0 else 0, s.row))
                if not board.free([*cells, *rest]) or not 0 <= end + outward < board.columns:
                    continue
                holes = ((column, s.row), (end, s.row))
                board.put(part, holes if pin == 1 else (holes[1], holes[0]))
                board.cut((column + outward, s.row))
                if outward > 0:
                    board.segments.append(_Segment(s.row, column + 2, board.columns - 1, far))
                    s.last = column
                else:
                    board.segments.append(_Segment(s.row, 0, column - 2, far))
                    s.first = column
                return True
    return False


def _put_across(board: _Board, part: Component, dice: random.Random) -> bool:
    """A part from a row of its one net to a row of its other, in one column."""
    spans = SPANS[part.shape]
    options = []
    for a in board.of(part.nets[0]):
        for b in board.of(part.nets[1]):
            if abs(a.row - b.row) in spans:
                low, high = max(a.first, b.first), min(a.last, b.last)
                rank = spans.index(abs(a.row - b.row))
                options += [(rank + 2.0 * dice.random(), c, a.row, b.row) for c in range(low, high + 1)]
    for _, column, first, second in sorted(options):
        placed = Placed(part, ((column, first), (column, second)))
        if board.free(body(placed)):
            board.put(part, placed.holes)
            return True
    return False


def _link(board: _Board, dice: random.Random) -> bool:
    """Pieces of a net that are apart joined by links, the shortest first."""
    used = {h for p in board.placed for h in p.holes}
    for net in dict.fromkeys(s.net for s in board.segments if s.net):
        pieces = [
            s
            for s in board.of(net)
            if any(h[1] == s.row and s.first <= h[0] <= s.last for h in used) or _last_of(board, s)
        ]
        groups = [[s] for s in pieces]
        idle = [s for s in board.of(net) if s not in pieces]  # a rail that nothing is on yet may join what is far apart
        while len(groups) > 1:
            found = _nearest(board, groups, dice)
            while found is None and idle:
                groups.append([idle.pop()])
                found = _nearest(board, groups, dice)
            if found is None:
                return False
            _, column, a, b, i, j = found
            board.links.append(((column, a), (column, b)))
            board.taken.update(between((column, a), (column, b)))
            groups[i] += groups.pop(j)
    return True


def _last_of(board: _Board, segment: _Segment) -> bool:
    """Whether a piece is the only one of its net: a lead may still go there."""
    return len(board.of(segment.net)) == 1


def _nearest(
    board: _Board, groups: list[list[_Segment]], dice: random.Random
) -> tuple[float, int, int, int, int, int] | None:
    best: tuple[float, int, int, int, int, int] | None = None
    for i, one in enumerate(groups):
        for j in range(i + 1, len(groups)):
            for a in one:
                for b in groups[j]:
                    for column in range(max(a.first, b.first), min(a.last, b.last) + 1):
                        cost = abs(a.row - b.row) + dice.random()
                        if (
                            (best is None or cost < best[0])
                            and a.row != b.row
                            and board.free(between((column, a.row), (column, b.row)))
                        ):
                            best = (cost, column, a.row, b.row, i, j)
    return best


def _put_lead(board: _Board, lead: Component) -> bool:
    """A wire that leaves the board, as near to an edge as there is a hole."""
    used = {h for p in board.placed for h in p.holes} | {h for pair in board.links for h in pair}
    options = []
    for s in board.of(lead.nets[0]):
        if len(board.of(lead.nets[0])) > 1 and not any(h[1] == s.row and s.first <= h[0] <= s.last for h in used):
            continue  # a piece that nothing is on is joined to nothing
        options += [(min(c, board.columns - 1 - c), c, s.row) for c in range(s.first, s.last + 1)]
    for _, column, row in sorted(options):
        if board.free([(column, row)]):
            board.put(lead, ((column, row),))
            return True
    return False


def _finished(board: _Board, kind: Kind) -> Layout:
    """The board cut down to what is used of it, columns that nothing is in left out; on pad board the runs of wire in place of tracks and cuts."""
    rows = [c[1] for p in board.placed for c in p.holes] + [h[1] for pair in board.links for h in pair]
    top, foot = min(rows), max(rows)
    pins = {h for p in board.placed for h in p.holes} | {h for pair in board.links for h in pair}
    # A cut with nothing beyond it is none.
    cuts = [
        (x, y) for x, y in board.cuts if any(h[1] == y and h[0] < x for h in pins) and any(h[1] == y and h[0] > x for h in pins)
    ]  # fmt: skip
    busy = {c[0] for p in board.placed for c in body(p)} | {h[0] for h in pins} | {x for x, _ in cuts}
    kept = {x: k for k, x in enumerate(sorted(x for x in busy if 0 <= x < board.columns))}
    edge = 1 if min(busy) < 0 else 0  # a can that stands out over the edge wants a column of its own there

    def moved(hole: Hole) -> Hole:
        return kept[hole[0]] + edge, hole[1] - top

    placed = tuple(Placed(p.part, tuple(moved(h) for h in p.holes)) for p in board.placed)
    links = tuple((moved(a), moved(b)) for a, b in board.links)
    size = (len(kept) + edge + (1 if max(busy) >= board.columns else 0), foot - top + 1)
    if kind == "strip":
        return Layout(kind, *size, placed, tuple(moved(c) for c in cuts), links)
    runs = []
    for s in board.segments:
        on = [moved(h)[0] for h in pins if h[1] == s.row and s.first <= h[0] <= s.last]
        if len(on) > 1:
            runs.append((s.row - top, min(on), max(on)))
    return Layout(kind, *size, placed, (), links, tuple(runs))
