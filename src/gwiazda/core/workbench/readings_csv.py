"""Readings as a table."""

from __future__ import annotations

from gwiazda.core.errors import PlanError, QuantityError
from gwiazda.core.quantities import parse_number
from gwiazda.core.tables import read_rows
from gwiazda.core.workbench.hypotheses import Measurement

MOST_ROWS = 10_000
MOST = 1000.0  # V or A
COLUMNS = ("what", "at", "value")
WORDS = {"lit": 1.0, "yes": 1.0, "on": 1.0, "bright": 2.0, "dim": 0.5, "dark": 0.0, "no": 0.0, "off": 0.0}


def read_readings(text: str) -> tuple[Measurement, ...]:
    """Readings of a table: ``what,at,value`` with volts (V), amps (A) or lit (lit, dim, dark).

    Raises
    ------
    PlanError
        Naming the line.
    """
    rows = read_rows(text, "Readings", MOST_ROWS)
    out: list[Measurement] = []
    heading = rows[0][1] if rows else []
    if [h.strip().lower() for h in heading] != list(COLUMNS):
        raise PlanError("Readings, line 1", "the heading is another", ",".join(COLUMNS))
    for line, row in rows[1:]:
        where = f"Readings, line {line}"
        if len(row) != 3:
            raise PlanError(where, f"{len(row)} cells", "three: " + ",".join(COLUMNS))
        what, at, text_ = (x.strip() for x in row)
        if what not in ("volts", "amps", "lit"):
            raise PlanError(where, f"“{what}” is not measured here", "volts, amps or lit")
        if what == "lit" and text_.lower() in WORDS:
            value = WORDS[text_.lower()]
        else:
            try:
                value = parse_number(text_, where, -MOST, MOST)
            except QuantityError:
                raise PlanError(where, f"“{text_}” is not a number", "V, A, or lit, bright, dim, dark") from None
        out.append(Measurement(what, at, value))  # type: ignore[arg-type]
    return tuple(out)
