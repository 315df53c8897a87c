"""The user's own resistors: what is in the drawer, as CSV, and as one would jot it down."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping

from gwiazda.core.errors import PlanError, QuantityError
from gwiazda.core.quantities import letter_code, parse_resistance_ohm

COLUMNS = ("ohm", "count")
MOST_VALUES, MOST_OF_ONE = 500, 100_000


def stock_from_csv(text: str) -> dict[float, int]:
    """Values (Ω) and how many of each, from CSV with a heading row.

    Raises
    ------
    PlanError
        Naming the row and what is accepted.
    """
    rows = [r for r in csv.reader(io.StringIO(text)) if any(c.strip() for c in r)]
    if not rows or [c.strip().lower() for c in rows[0]] != list(COLUMNS):
        raise PlanError("Stock, row 1", "the heading isn't " + ", ".join(COLUMNS), ", ".join(COLUMNS))
    stock: dict[float, int] = {}
    for number, row in enumerate(rows[1:], 2):
        try:
            ohm = parse_resistance_ohm(row[0], f"Stock, row {number}")
            count = int(row[1]) if len(row) > 1 and row[1].strip() else 1
        except (QuantityError, ValueError) as error:
            raise PlanError(f"Stock, row {number}", str(error), "a resistance and how many, such as 4k7,20") from None
        _put(stock, ohm, count, f"Stock, row {number}")
    return stock


def stock_to_csv(stock: Mapping[float, int]) -> str:
    """CSV with a heading row, rising."""
    return "\n".join([",".join(COLUMNS), *(f"{ohm:.6g},{count}" for ohm, count in sorted(stock.items()))]) + "\n"


def _put(stock: dict[float, int], ohm: float, count: int, where: str) -> None:
    if not 0 <= count <= MOST_OF_ONE:
        raise PlanError(where, f"{count} of one value", f"0 to {MOST_OF_ONE}")
    value = float(f"{ohm:.6g}")
    stock[value] = stock.get(value, 0) + count
    if len(stock) > MOST_VALUES:
        raise PlanError(where, f"more than {MOST_VALUES} values", f"up to {MOST_VALUES}")


def read_stock(text: str) -> dict[float, int]:
    """``220 x20, 470, 1k × 5`` as values and counts; one of each where no number is said. Empty for none.

    Raises
    ------
    QuantityError
        Naming the piece that is no resistance.
    """
    stock: dict[float, int] = {}
    for piece in filter(None, (p.strip() for p in re.split(r"[;,\n]+", text))):
        match = re.fullmatch(r"(.+?)(?:\s*[x×*]\s*(\d{1,6}))?", piece)
        assert match is not None
        try:
            _put(stock, parse_resistance_ohm(match[1], "Stock"), int(match[2] or 1), "Stock")
        except PlanError as error:
            raise QuantityError("Stock", str(error), "values with how many: 220 x20, 470, 1k") from None
    return stock


def stock_words(stock: Mapping[float, int]) -> str:
    """As ``read_stock`` reads it: “220 × 20, 470, 1k × 5”."""
    return ", ".join(letter_code(o) + (f" × {n}" if n != 1 else "") for o, n in sorted(stock.items()))
