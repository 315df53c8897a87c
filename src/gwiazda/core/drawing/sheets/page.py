"""A page as marks in mm from its upper left corner; what is larger than a page is laid over several."""

from __future__ import annotations

import math
import textwrap
from collections.abc import Sequence
from typing import Literal, NamedTuple

MARGIN_MM, HEAD_MM, FOOT_MM = 12.0, 12.0, 14.0
OVERLAP_MM = 10.0
STACK_MM = 8.0  # for the name of each of several drawings on one sheet
BAR_MM = 100.0
NARROW_MM = 180.0  # paper narrower than this has the words about its bar below it


class Paper(NamedTuple):
    """A size of paper (mm)."""

    id: str
    name: str
    width_mm: float
    height_mm: float

    @property
    def turned(self) -> Paper:
        """The same sheet lying on its side."""
        return Paper(self.id, self.name, self.height_mm, self.width_mm)

    @property
    def room(self) -> tuple[float, float]:
        """What is left for the content (mm)."""
        return self.width_mm - 2 * MARGIN_MM, self.height_mm - 2 * MARGIN_MM - HEAD_MM - FOOT_MM


PAPERS = {
    "a4": Paper("a4", "A4", 210.0, 297.0),
    "letter": Paper("letter", "Letter", 215.9, 279.4),
    "a5": Paper("a5", "A5", 148.0, 210.0),
}


class SheetMark(NamedTuple):
    """Something on a page: a line or outline through points, a disc (point and radius), or a text (point, height of letters).

    ``fill`` is its shade, 0 black to 1 white, or None; ``wide`` the line's width (mm), 0 for none.
    """

    kind: Literal["line", "outline", "disc", "text"]
    points: tuple[tuple[float, float], ...]
    size: float = 0.0
    text: str = ""
    fill: float | None = None
    wide: float = 0.15
    dashed: bool = False
    bold: bool = False
    middle: bool = False


def line(*points: tuple[float, float], wide: float = 0.15, dashed: bool = False) -> SheetMark:
    return SheetMark("line", points, wide=wide, dashed=dashed)


def outline(
    points: Sequence[tuple[float, float]], fill: float | None = None, wide: float = 0.2, dashed: bool = False
) -> SheetMark:
    return SheetMark("outline", tuple(points), fill=fill, wide=wide, dashed=dashed)


def rect(x: float, y: float, w: float, h: float, fill: float | None = None, wide: float = 0.2) -> SheetMark:
    return outline(((x, y), (x + w, y), (x + w, y + h), (x, y + h)), fill, wide)


def disc(x: float, y: float, radius: float, fill: float | None = None, wide: float = 0.15) -> SheetMark:
    return SheetMark("disc", ((x, y),), radius, fill=fill, wide=wide)


def text(x: float, y: float, words: str, size: float = 3.0, bold: bool = False, middle: bool = False) -> SheetMark:
    return SheetMark("text", ((x, y),), size, words, bold=bold, middle=middle)


def cross(x: float, y: float, arm: float = 1.2) -> tuple[SheetMark, SheetMark]:
    return line((x - arm, y), (x + arm, y), wide=0.1), line((x, y - arm), (x, y + arm), wide=0.1)


class Page(NamedTuple):
    """``body`` is drawn shifted by ``shift`` and only within the page's room; ``frame`` as it is. ``kinds``: what sheets are on it."""

    title: str
    frame: tuple[SheetMark, ...]
    body: tuple[SheetMark, ...]
    shift: tuple[float, float]
    paper: Paper
    kinds: tuple[str, ...] = ()


class Drawing(NamedTuple):
    """Content before it is laid onto pages: marks from its own upper left corner, and its size (mm). ``plain``: a table or words, of which nobody
    expects a scale. ``kinds``: what sheets it is of."""

    title: str
    marks: tuple[SheetMark, ...]
    width_mm: float
    height_mm: float
    true_size: bool = True
    plain: bool = False
    kinds: tuple[str, ...] = ()


def stacked(drawings: Sequence[Drawing], paper: Paper) -> list[Drawing]:
    """Small drawings one below the other on a sheet, each under its own name, as many as there is room for."""
    out: list[Drawing] = []
    here: list[Drawing] = []

    def close() -> None:
        if len(here) == 1:
            out.append(here[0])
        elif here:
            marks: list[SheetMark] = []
            y = 0.0
            for d in here:
                marks.append(text(0.0, y + 4.0, d.title, 3.4, bold=True))
                marks += [m._replace(points=tuple((a, b + y + STACK_MM) for a, b in m.points)) for m in d.marks]
                y += d.height_mm + STACK_MM
            names = list(dict.fromkeys(d.title.split(":")[0] for d in here))
            title = ", ".join(names) if len(names) > 1 else f"{names[0]}: {len(here)} of them"
            kinds = tuple(dict.fromkeys(k for d in here for k in d.kinds))
            out.append(
                Drawing(title, tuple(marks), max(d.width_mm for d in here), y, here[0].true_size, here[0].plain, kinds)
            )
        here.clear()

    before: tuple[object, ...] = ()
    for d in drawings:
        high = _room_for(d, paper)
        if not high:
            close()
            out.append(d)
            continue
        full = sum(x.height_mm + STACK_MM for x in here) + d.height_mm + STACK_MM > high
        # Tables go together whatever they are of; what is cut out stays with its own.
        mine = (high, d.plain, () if d.plain else d.kinds)
        if full or before != mine:
            close()
        before = mine
        here.append(d)
    close()
    return out


def _room_for(d: Drawing, paper: Paper) -> float:
    """How high the sheet is (mm) on which a drawing may stand with others: upright, or of one that is wider than that, lying on its side and going on
    to the next; 0 where it stands alone."""
    room_w, room_h = paper.room
    if not (d.true_size or d.plain):
        return 0.0
    lying = paper.turned.room[1]
    if d.width_mm <= room_w:
        return room_h if d.height_mm + STACK_MM <= room_h else 0.0
    return lying if d.true_size and d.height_mm + STACK_MM <= lying else 0.0


def _tiles(drawing: Drawing, paper: Paper) -> tuple[int, int]:
    """Pages across and down that a drawing takes."""
    room_w, room_h = paper.room
    across = 1 if drawing.width_mm <= room_w else math.ceil((drawing.width_mm - OVERLAP_MM) / (room_w - OVERLAP_MM))
    down = 1 if drawing.height_mm <= room_h else math.ceil((drawing.height_mm - OVERLAP_MM) / (room_h - OVERLAP_MM))
    return across, down


def laid(drawing: Drawing, paper: Paper) -> list[Page]:
    """The pages of a drawing: one where it fits, else as few as it takes, upright or lying on their side, overlapping, with
    crosses to join them by."""
    if math.prod(_tiles(drawing, paper.turned)) < math.prod(_tiles(drawing, paper)):
        paper = paper.turned
    room_w, room_h = paper.room
    across, down = _tiles(drawing, paper)
    pages = []
    for row in range(down):
        for column in range(across):
            number = row * across + column + 1
            title = drawing.title if across * down == 1 else f"{drawing.title} ({number} of {across * down})"
            left = column * (room_w - OVERLAP_MM)
            top = row * (room_h - OVERLAP_MM)
            shift = (MARGIN_MM - left, MARGIN_MM + HEAD_MM - top)
            body = drawing.marks
            if across * down > 1:
                body = (*body, *_registers(across, down, room_w, room_h))
            pages.append(Page(title, _frame(title, paper, drawing), body, shift, paper, drawing.kinds))
    return pages


def _registers(across: int, down: int, room_w: float, room_h: float) -> list[SheetMark]:
    """Crosses in the middle of every overlap, on both pages that share it."""
    out: list[SheetMark] = []
    for column in range(1, across):
        x = column * (room_w - OVERLAP_MM) + OVERLAP_MM / 2
        for row in range(down):
            for share in (0.08, 0.92):
                out += cross(x, row * (room_h - OVERLAP_MM) + share * room_h, 4.0)
    for row in range(1, down):
        y = row * (room_h - OVERLAP_MM) + OVERLAP_MM / 2
        for column in range(across):
            for share in (0.08, 0.92):
                out += cross(column * (room_w - OVERLAP_MM) + share * room_w, y, 4.0)
    return out


def _frame(title: str, paper: Paper, drawing: Drawing) -> tuple[SheetMark, ...]:
    """The heading, and the bar to check the printer by, where there is something to measure."""
    y = paper.height_mm - MARGIN_MM - 3.0
    marks = [text(MARGIN_MM, MARGIN_MM + 5.0, title, 4.2, bold=True)]
    if drawing.plain:
        return tuple(marks)
    marks.append(line((MARGIN_MM, y), (MARGIN_MM + BAR_MM, y), wide=0.3))
    for k in range(11):
        tall = 3.0 if k in (0, 5, 10) else 1.6
        marks.append(line((MARGIN_MM + 10 * k, y), (MARGIN_MM + 10 * k, y - tall), wide=0.2))
    words = "This bar is 100 mm long. Measure it before you cut: print at 100 %, not fitted to the page."
    if not drawing.true_size:
        words = "Not to scale. The bar is 100 mm long, as on the other sheets."
    first, rest = words.split(". ")[0] + ".", ". ".join(words.split(". ")[1:])
    if paper.width_mm < NARROW_MM:
        marks.append(text(MARGIN_MM, y + 4.0, f"{first} {rest}", 2.1))
        return tuple(marks)
    marks.append(text(MARGIN_MM + BAR_MM + 4, y, first, 2.6))
    marks.append(text(MARGIN_MM + BAR_MM + 4, y + 3.4, rest, 2.6))
    return tuple(marks)


LETTER_MM = 1.65  # a letter's width in a table, about
ROW_MM, LINE_MM, TABLE_HEAD_MM, BOX_MM = 5.0, 3.6, 8.0, 3.0


def table(
    title: str, columns: Sequence[tuple[str, float]], rows: Sequence[Sequence[str]], paper: Paper,
    ticked: Sequence[bool] | None = None,
) -> list[Drawing]:  # fmt: skip
    """A table as drawings of a page each; columns by heading and width (mm). What is longer than its column goes on below. With ``ticked`` there is a box
    before each row, filled where it is done."""
    room_w, room_h = paper.room
    cells = [[wrapped(cell, wide) for (_, wide), cell in zip(columns, row, strict=True)] for row in rows]
    tall = [ROW_MM + LINE_MM * (max((len(c) for c in row), default=1) - 1) for row in cells]
    pages: list[list[int]] = [[]]
    for k, high in enumerate(tall):
        if pages[-1] and TABLE_HEAD_MM + sum(tall[i] for i in pages[-1]) + high > room_h:
            pages.append([])
        pages[-1].append(k)
    out = []
    for here in pages:
        marks: list[SheetMark] = []
        x = 0.0
        for name, wide in columns:
            marks.append(text(x, 4.0, name, 3.0, bold=True))
            x += wide
        marks.append(line((0.0, 5.6), (room_w, 5.6), wide=0.2))
        y = 10.0
        for k in here:
            x = 0.0
            for (_, wide), lines in zip(columns, cells[k], strict=True):
                marks += [text(x, y + LINE_MM * n, words, 2.8) for n, words in enumerate(lines)]
                x += wide
            if ticked is not None:
                done = ticked[k] if k < len(ticked) else False
                marks.append(rect(0.4, y - 2.6, BOX_MM, BOX_MM, fill=0.3 if done else None, wide=0.25))
            y += tall[k]
            marks.append(line((0.0, y - ROW_MM + 1.3), (room_w, y - ROW_MM + 1.3), wide=0.05))
        name = title if len(pages) == 1 or not here else f"{title}, {here[0] + 1} to {here[-1] + 1}"
        out.append(Drawing(name, tuple(marks), room_w, TABLE_HEAD_MM + sum(tall[k] for k in here), False, True))
    return out


def wrapped(words: str, wide: float) -> list[str]:
    """Words in as many lines as a column takes; what has no space is parted where the column ends."""
    most = max(int(wide / LETTER_MM), 3)
    return textwrap.wrap(words, most) or [""]
