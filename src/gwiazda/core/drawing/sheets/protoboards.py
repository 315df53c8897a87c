"""Boards of holes at true size: from above, from below as the tracks show, mirrored; with parts, cuts, links and wires as tables."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from gwiazda.core.assess.show.protoboards import MadeBoard, made_boards, parts_list
from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets.page import Drawing, Paper, SheetMark, disc, line, outline, rect, table, text
from gwiazda.core.errors import PlanError
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.plan.model import Plan
from gwiazda.core.protoboard.layout import PITCH_MM, Component, Hole, Kind, Layout, Placed
from gwiazda.core.protoboard.place import laid_out
from gwiazda.core.quantities import counted

EDGE_MM = 6.0  # of paper round a board, for the letters of its rows and the numbers of its columns
HOLE_MM, TRACK_MM, LETTER_MM = 1.0, 2.0, 1.5
GREY, PALE = 0.82, 0.93
EVERY = 5  # columns between two numbers


@memoize_by_value()
def layout_of(components: tuple[Component, ...], kind: Kind) -> Layout:
    """The board for a netlist; the same each time.

    Raises
    ------
    PlanError
        Where it has too many parts, or no layout is found.
    """
    return laid_out(components, kind)


def row_letter(row: int) -> str:
    """What a row is called: A to Z, then AA."""
    return ("" if row < 26 else chr(64 + row // 26)) + chr(65 + row % 26)


def hole_name(hole: Hole) -> str:
    """What a hole is called: “C7”."""
    return f"{row_letter(hole[1])}{hole[0] + 1}"


class _Side:
    """Places of holes on paper (mm), from above or from below."""

    def __init__(self, layout: Layout, below: bool) -> None:
        self.layout, self.below = layout, below

    def at(self, hole: Hole | tuple[float, float]) -> tuple[float, float]:
        column = self.layout.columns - 1 - hole[0] if self.below else hole[0]
        return EDGE_MM + (column + 0.5) * PITCH_MM, EDGE_MM + (hole[1] + 0.5) * PITCH_MM


def board_drawing(layout: Layout, below: bool, title: str = "") -> Drawing:
    """A board at true size: its parts from above, or its tracks, cuts and joints from below, mirrored as it lies in the hand.

    Parameters
    ----------
    layout : Layout
        The board.
    below : bool
        Whether it is seen from below.
    title : str
        Of the drawing.

    Returns
    -------
    Drawing
        Marks in mm.
    """
    side = _Side(layout, below)
    wide, high = layout.size_mm
    marks = [rect(EDGE_MM, EDGE_MM, wide, high, wide=0.25), *_tracks(layout, side), *_names(layout, side)]
    pins = {h for p in layout.placed for h in p.holes} | {h for pair in layout.links for h in pair}
    for row in range(layout.rows):
        for column in range(layout.columns):
            if (column, row) not in layout.cuts:
                solid = below and (column, row) in pins
                marks.append(disc(*side.at((column, row)), HOLE_MM / 2, fill=0.0 if solid else 1.0, wide=0.06))
    for hole in layout.cuts:
        x, y = side.at(hole)
        marks += [
            disc(x, y, 1.05, fill=1.0, wide=0.15), line((x - 0.7, y - 0.7), (x + 0.7, y + 0.7), wide=0.25), line((x - 0.7, y + 0.7), (x + 0.7, y - 0.7), wide=0.25),
        ]  # fmt: skip
    for a, b in layout.links:
        marks.append(line(side.at(a), side.at(b), wide=0.35, dashed=below))
        marks += [disc(*side.at(h), 0.35, fill=0.0, wide=0.0) for h in (a, b)]
    for p in layout.placed:
        marks += _pins_below(p, side) if below else _part(p, side)
    return Drawing(title, tuple(marks), wide + 2 * EDGE_MM, high + 2 * EDGE_MM)


def _tracks(layout: Layout, side: _Side) -> Iterator[SheetMark]:
    """Tracks between their cuts, or bare wire from pad to pad."""
    if layout.kind == "strip":
        for row in range(layout.rows):
            ends = [-1, *sorted(x for x, y in layout.cuts if y == row), layout.columns]
            for a, b in itertools.pairwise(ends):
                if b - a > 1:
                    yield _bar(side, row, a + 1, b - 1, TRACK_MM, GREY if side.below else PALE)
        return
    for row in range(layout.rows):
        for column in range(layout.columns):
            yield disc(*side.at((column, row)), TRACK_MM / 2, fill=PALE, wide=0.0)
    for row, first, last in layout.runs:
        yield _bar(side, row, first, last, 0.6, 0.45 if side.below else GREY)


def _bar(side: _Side, row: int, first: int, last: int, wide: float, fill: float) -> SheetMark:
    (x0, y), (x1, _) = side.at((first, row)), side.at((last, row))
    low, high = min(x0, x1) - wide / 2, max(x0, x1) + wide / 2
    return rect(low, y - wide / 2, high - low, wide, fill=fill, wide=0.0)


def _names(layout: Layout, side: _Side) -> Iterator[SheetMark]:
    for row in range(layout.rows):
        _, y = side.at((0, row))
        yield text(EDGE_MM / 2, y + 0.6, row_letter(row), 1.8, middle=True)
    for column in range(layout.columns):
        if column == 0 or (column + 1) % EVERY == 0:
            x, _ = side.at((column, 0))
            yield text(x, EDGE_MM - 1.0, str(column + 1), 1.8, middle=True)


def _pins_below(p: Placed, side: _Side) -> list[SheetMark]:
    """What tells where one is, from below: pin 1 of a chip, the plus of a can, each wire by its number."""
    if p.part.shape == "dip":
        x, y = side.at(p.holes[0])
        return [rect(x - 0.95, y - 0.95, 1.9, 1.9, wide=0.25)]
    if p.part.shape == "lead":
        return _wire(p, side)
    if p.part.shape == "can":
        x, y = side.at(p.holes[0])
        return [text(x, y - 0.75, "+", LETTER_MM, middle=True)]
    return []


def _wire(p: Placed, side: _Side) -> list[SheetMark]:
    """A wire that leaves the board: a ring with its number."""
    x, y = side.at(p.holes[0])
    return [disc(x, y, 1.1, fill=1.0, wide=0.3), text(x, y + 0.45, p.part.ref[1:], 1.25, bold=True, middle=True)]


def _part(p: Placed, side: _Side) -> list[SheetMark]:
    """A part from above."""
    points = [side.at(h) for h in p.holes]
    (x0, y0), (x1, y1) = points[0], points[-1]
    middle = ((x0 + x1) / 2, (y0 + y1) / 2)
    shape = p.part.shape
    if shape == "lead":
        return _wire(p, side)
    if shape == "dip":
        return _chip(p, points)
    if shape == "to92":
        r = 2.3
        flat = outline([(middle[0] - 0.9, middle[1] - r), (middle[0] + 0.7, middle[1] - r), (middle[0] + 1.6, middle[1] - 0.9), (middle[0] + 1.6, middle[1] + 0.9), (middle[0] + 0.7, middle[1] + r), (middle[0] - 0.9, middle[1] + r)], fill=1.0)  # fmt: skip
        dots = [disc(x, y, 0.3, fill=0.0, wide=0.0) for x, y in points]
        return [
            flat,
            *dots,
            text(middle[0] + 2.9, middle[1] + 0.5, p.part.ref, LETTER_MM, middle=True),
            text(x0, y0 - 0.7, "1", 1.1, middle=True),
        ]
    if shape == "can":
        return [
            disc(*middle, 2.5, fill=1.0, wide=0.2), disc(x0, y0, 0.3, fill=0.0, wide=0.0), disc(x1, y1, 0.3, fill=0.0, wide=0.0),
            text(x0 + 1.1, y0 + 0.6, "+", 2.0, bold=True, middle=True), text(middle[0] - 1.2, middle[1] + 0.5, p.part.ref, 1.2, middle=True),
        ]  # fmt: skip
    return _lying(p, points)


def _lying(p: Placed, points: list[tuple[float, float]]) -> list[SheetMark]:
    """A part with two legs: lying where they are far enough apart, standing over the first else."""
    (x0, y0), (x1, y1) = points
    middle = ((x0 + x1) / 2, (y0 + y1) / 2)
    along = abs(x1 - x0) + abs(y1 - y0)
    level = abs(y1 - y0) < 1e-9
    marks = [line((x0, y0), (x1, y1), wide=0.25), *(disc(x, y, 0.3, fill=0.0, wide=0.0) for x, y in points)]
    if p.part.shape != "disc" and along < 2.9 * PITCH_MM:
        marks += [disc(x0, y0, 1.15, fill=1.0, wide=0.2), text(x0, y0 + 0.5, p.part.ref, 1.2, middle=True)]
        if p.part.shape == "diode":
            marks.append(_ring(points, level, 0.85))
        return marks
    long, thick = (
        (3.6, 2.2)
        if p.part.shape == "axial"
        else (3.2, 1.8)
        if p.part.shape == "diode"
        else (min(along * 0.8, 3.0), 1.6)
    )
    w, h = (long, thick) if level else (thick, long)
    marks.append(rect(middle[0] - w / 2, middle[1] - h / 2, w, h, fill=1.0))
    if p.part.shape == "diode":
        marks.append(_ring(points, level, 0.62))
    marks.append(text(middle[0], middle[1] + 0.5, p.part.ref, 1.3, middle=True))
    return marks


def _ring(points: list[tuple[float, float]], level: bool, share: float) -> SheetMark:
    """The ring of a diode, towards its minus."""
    (x0, y0), (x1, y1) = points
    x, y = x0 + share * (x1 - x0), y0 + share * (y1 - y0)
    return line((x, y - 0.9), (x, y + 0.9), wide=0.5) if level else line((x - 0.9, y), (x + 0.9, y), wide=0.5)


def _chip(p: Placed, points: list[tuple[float, float]]) -> list[SheetMark]:
    low = (min(x for x, _ in points) + 0.7, min(y for _, y in points) - 1.2)
    high = (max(x for x, _ in points) - 0.7, max(y for _, y in points) + 1.2)
    middle = (low[0] + high[0]) / 2
    legs = [disc(x, y, 0.4, fill=0.0, wide=0.0) for x, y in points]
    return [
        rect(low[0], low[1], high[0] - low[0], high[1] - low[1], fill=1.0), outline([(middle - 0.8, low[1]), (middle, low[1] + 0.8), (middle + 0.8, low[1])]),
        *legs, disc(low[0] + 0.9, low[1] + 1.2, 0.35, fill=0.0, wide=0.0), text(middle, (low[1] + high[1]) / 2 + 0.6, p.part.ref, 1.8, bold=True, middle=True),
    ]  # fmt: skip


def protoboard_sheets(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """All boards of holes of a plan: each from above and from below, then what goes onto it."""
    out: list[Drawing] = []
    for board in made_boards(plan, assessment):
        if not board.components:
            continue
        try:
            layout = layout_of(board.components, board.kind)
        except PlanError as error:
            out += table(board.name, (("what stands in the way", 180.0),), [(str(error),)], paper)
            continue
        size = f"{counted(layout.columns, 'hole')} by {layout.rows}"
        out.append(board_drawing(layout, False, f"{board.name}: from above, {size}"))
        out.append(board_drawing(layout, True, f"{board.name}: from below, mirrored"))
        out += _tables(board, layout, plan, paper)
    return out


def _tables(board: MadeBoard, layout: Layout, plan: Plan, paper: Paper) -> list[Drawing]:
    parts = [(*row, _holes_of(layout, row[0])) for row in parts_list(board, plan.drawer.series)]
    out = table(
        f"{board.name}: parts", (("mark", 30.0), ("what", 50.0), ("how to tell", 50.0), ("holes", 54.0)), parts, paper
    )
    cuts = ", ".join(hole_name(h) for h in sorted(layout.cuts, key=lambda h: (h[1], h[0])))
    links = ", ".join(f"{hole_name(a)} to {hole_name(b)}" for a, b in layout.links)
    runs = ", ".join(f"{hole_name((a, row))} to {hole_name((b, row))}" for row, a, b in layout.runs)
    done = (("cut the track at", cuts), ("bare wire on top", links), ("bare wire below", runs))
    work = [x for x in done if x[1]]
    if work:
        out += table(f"{board.name}: before the parts", (("do", 40.0), ("from hole to hole", 144.0)), work, paper)
    wires = [(p.part.ref, hole_name(p.holes[0]), p.part.value) for p in layout.placed if p.part.shape == "lead"]
    out += table(f"{board.name}: wires", (("mark", 20.0), ("hole", 24.0), ("leads", 140.0)), wires, paper)
    if board.notes:
        out += table(f"{board.name}: mind", (("mind", 184.0),), [(n,) for n in board.notes], paper)
    return out


def _holes_of(layout: Layout, refs: str) -> str:
    at = {p.part.ref: p.holes for p in layout.placed}
    return ", ".join(
        f"{hole_name(at[r][0])} to {hole_name(at[r][-1])}" if len(at[r]) == 2 else f"from {hole_name(at[r][0])}"
        for r in refs.split(", ")
    )
