"""Tables as CSV, in and out: one reader and one writer for all of them.

What is written opens in a spreadsheet as text and never as a formula (a cell that begins with ``= + - @``, a tab or a
line end, and is no number, gets an apostrophe before it), and is read back as it was.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence

from gwiazda.core.errors import PlanError

_FORMULA = ("=", "+", "-", "@", "\t", "\r", "\n")
_SHIELDED = tuple("'" + c for c in _FORMULA)
_NUMBER = re.compile(r"[+-]?\d[\d.,]*(?:[eE][+-]?\d+)?")
LONGEST_CELL = 20_000


def shielded(value: object) -> str:
    """A cell that no spreadsheet takes for a formula; control characters but tab and line ends are left out."""
    text = "".join(c for c in str(value) if c >= " " or c in "\t\r\n")
    harmless = len(text) == 1 or _NUMBER.fullmatch(text)  # a dash, a number
    return f"'{text}" if text.startswith((*_FORMULA, *_SHIELDED)) and not harmless else text


def bare(cell: str) -> str:
    """A cell as it was before it was shielded."""
    return cell[1:] if cell.startswith("'") and cell[1:].startswith((*_FORMULA, *_SHIELDED)) else cell


class Table:
    """A table being written, row by row, its heading first."""

    def __init__(self, columns: Sequence[str]) -> None:
        self._stream = io.StringIO()
        self._writer = csv.writer(self._stream, lineterminator="\n")
        self.row(columns)

    def row(self, cells: Iterable[object]) -> None:
        """One more row."""
        self._writer.writerow([shielded(c) for c in cells])

    def text(self) -> str:
        """The table as CSV."""
        return self._stream.getvalue()


def write_table(columns: Sequence[str], rows: Iterable[Iterable[object]]) -> str:
    """CSV with a heading row."""
    table = Table(columns)
    for row in rows:
        table.row(row)
    return table.text()


def read_rows(text: str, what: str, most: int = 100_000, delimiters: str = ",") -> list[tuple[int, list[str]]]:
    """Rows that aren't empty, with the numbers of their lines; cells parted by whichever of ``delimiters`` the heading has most of.

    Raises
    ------
    PlanError
        Where a quote is not closed, a cell is endless or there are too many rows.
    """
    text = text.lstrip("\ufeff")
    first = text.partition("\n")[0]
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=max(delimiters, key=first.count))
    found: list[tuple[int, list[str]]] = []
    try:
        for row in reader:
            number = reader.line_num
            if any(len(c) > LONGEST_CELL for c in row):
                raise PlanError(f"{what}, row {number}", "a cell has no end: is a quote left open?", "a table as CSV")
            if any(c.strip() for c in row):
                found.append((number, [bare(c) for c in row]))
            if len(found) > most:
                raise PlanError(what, f"more than {most} rows", f"up to {most}")
    except csv.Error:
        raise PlanError(what, "a cell has no end: is a quote left open?", "a table as CSV") from None
    return found


def read_under(text: str, what: str, columns: Sequence[str], most: int) -> list[tuple[int, list[str]]]:
    """Rows under a heading that must be these columns, with the numbers of their lines.

    Raises
    ------
    PlanError
        For another heading, and as ``read_rows`` does.
    """
    rows = read_rows(text, what, most + 1)
    if not rows or [c.strip().lower() for c in rows[0][1]] != list(columns):
        raise PlanError(f"{what}, row 1", "the heading isn’t " + ", ".join(columns), ", ".join(columns))
    return rows[1:]


def read_figure(text: str, where: str, low: float, high: float) -> float:
    """A figure of a table, with a point or a comma.

    Raises
    ------
    PlanError
        For what is no number or out of bounds, with those.
    """
    try:
        value = float(text.strip().replace(",", "."))
    except ValueError:
        raise PlanError(where, f"“{text[:40]}” is not a number", f"{low:g} to {high:g}") from None
    if not low <= value <= high:
        raise PlanError(where, f"{value:g} is out of range", f"{low:g} to {high:g}")
    return value
