"""Looks compared with three resistors, as CSV: a row a comparison, oldest first. A person's own brightness follows from them."""

from __future__ import annotations

from collections.abc import Sequence

from gwiazda.core.errors import PlanError
from gwiazda.core.light.staircase import ANSWERS, Comparison
from gwiazda.core.tables import read_figure, read_under, write_table

COLUMNS = ("left", "middle", "right", "answer", "held")
MOST_ROWS, MOST_LEVEL = 2_000, 1e6
LIKE = "0.5,0.8,1.3,middle,a 3 mm lamp"


def comparisons_from_csv(text: str) -> tuple[Comparison, ...]:
    """Comparisons from CSV with a heading row.

    Raises
    ------
    PlanError
        Naming the row and what is accepted.
    """
    found = []
    for number, row in read_under(text, "Looks compared", COLUMNS, MOST_ROWS):
        where = f"Looks compared, row {number}"
        if len(row) != len(COLUMNS) or row[3] not in ANSWERS:
            raise PlanError(where, "it isn’t three levels, an answer and what was held", LIKE)
        a, b, c = (read_figure(cell, where, 1.0 / MOST_LEVEL, MOST_LEVEL) for cell in row[:3])
        if not a < b < c:
            raise PlanError(where, "its levels don’t rise from left to right", LIKE)
        found.append(Comparison((a, b, c), row[3], row[4]))
    return tuple(found)


def comparisons_to_csv(comparisons: Sequence[Comparison]) -> str:
    """CSV with a heading row."""
    return write_table(COLUMNS, [(*(f"{v:.6g}" for v in c.levels), c.answer, c.setup) for c in comparisons])
