"""The user's own resistors, as one would jot them down."""

from __future__ import annotations

import re
from collections.abc import Mapping

from gwiazda.core.errors import PlanError, QuantityError
from gwiazda.core.quantities import letter_code, parse_resistance_ohm

MOST_VALUES, MOST_OF_ONE = 500, 100_000


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
