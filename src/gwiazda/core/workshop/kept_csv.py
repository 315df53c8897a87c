"""What plans have laid aside of the drawer, as CSV: a row a part."""

from __future__ import annotations

from collections.abc import Mapping

from gwiazda.core.errors import PlanError, QuantityError
from gwiazda.core.quantities import parse_number
from gwiazda.core.tables import read_under, write_table
from gwiazda.core.workshop.drawer_csv import KINDS, MOST_OF_ONE, Key, key_of

COLUMNS = ("plan", "kind", "part", "count")
MOST_ROWS = 10_000


def kept_from_csv(text: str) -> dict[str, dict[Key, float]]:
    """Parts by plan from CSV with a heading row.

    Raises
    ------
    PlanError
        Naming the row and what is accepted.
    """
    out: dict[str, dict[Key, float]] = {}
    for number, row in read_under(text, "Kept parts", COLUMNS, MOST_ROWS):
        where = f"Kept parts, row {number}"
        if len(row) != len(COLUMNS) or row[1] not in KINDS:
            raise PlanError(where, "it isn’t a plan, a kind, a part and how many", "Szron,lamp,led-3mm-white,4")
        try:
            count = parse_number(row[3], where, 0, MOST_OF_ONE)
        except QuantityError as error:
            raise PlanError(where, error.found, "Szron,lamp,led-3mm-white,4") from None
        parts = out.setdefault(row[0], {})
        key = key_of(row[1], row[2])
        parts[key] = parts.get(key, 0.0) + count
    return out


def kept_to_csv(kept: Mapping[str, Mapping[Key, float]]) -> str:
    """CSV with a heading row, by plan, kind and part."""
    return write_table(
        COLUMNS,
        [(plan, *key, f"{n:g}") for plan, parts in sorted(kept.items()) for key, n in sorted(parts.items())],
    )
