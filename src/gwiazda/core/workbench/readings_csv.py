"""Readings as a table."""

from __future__ import annotations

import csv
import io

from gwiazda.core.errors import PlanError
from gwiazda.core.workbench.diagnosis import Reading

COLUMNS = ("what", "at", "value")
WORDS = {"lit": 1.0, "yes": 1.0, "on": 1.0, "bright": 2.0, "dim": 0.5, "dark": 0.0, "no": 0.0, "off": 0.0}


def read_readings(text: str) -> tuple[Reading, ...]:
    """Readings of a table: ``what,at,value`` with volts (V), amps (A) or lit (lit, dim, dark).

    Raises
    ------
    PlanError
        Naming the line.
    """
    rows = csv.reader(io.StringIO(text.lstrip("\ufeff")))
    out: list[Reading] = []
    heading = next(rows, None)
    if heading is None or [h.strip().lower() for h in heading] != list(COLUMNS):
        raise PlanError("Readings, line 1", "the heading is another", ",".join(COLUMNS))
    for row in rows:
        where = f"Readings, line {rows.line_num}"
        if not any(x.strip() for x in row):
            continue
        if len(row) != 3:
            raise PlanError(where, f"{len(row)} cells", "three: " + ",".join(COLUMNS))
        what, at, text_ = (x.strip() for x in row)
        if what not in ("volts", "amps", "lit"):
            raise PlanError(where, f"“{what}” is not measured here", "volts, amps or lit")
        if what == "lit" and text_.lower() in WORDS:
            value = WORDS[text_.lower()]
        else:
            try:
                value = float(text_)
            except ValueError:
                raise PlanError(where, f"“{text_}” is not a number", "V, A, or lit, bright, dim, dark") from None
        out.append(Reading(what, at, value))  # type: ignore[arg-type]
    return tuple(out)
