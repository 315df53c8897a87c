"""What plans have learned of parts, as CSV: a row a part and a plan. The next plan begins with it, less sure than the one it was read on."""

from __future__ import annotations

import math
from collections.abc import Mapping

from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import Catalogue, Known
from gwiazda.core.parts.materials import COAT_SPREAD
from gwiazda.core.parts.spreads import BAG
from gwiazda.core.statistics.beliefs import elsewhere
from gwiazda.core.tables import read_figure, read_under, write_table

Learnt = Mapping[tuple[str, str, str], Known]  # by plan, kind, part
COLUMNS = ("plan", "kind", "part", "shift", "sigma", "readings")
COMMON = ("light", "volts", "coat")  # what another plan's next bag or pot has of it
MOST_ROWS = 10_000
LIKE = "Szron,light,chip-0603-warm,0.12,0.06,9"


def learned_from_csv(text: str) -> dict[tuple[str, str, str], Known]:
    """What was learned from CSV with a heading row.

    Raises
    ------
    PlanError
        Naming the row and what is accepted.
    """
    found: dict[tuple[str, str, str], Known] = {}
    for number, row in read_under(text, "What was learned", COLUMNS, MOST_ROWS):
        where = f"What was learned, row {number}"
        if len(row) != len(COLUMNS) or row[1] not in COMMON or not row[2]:
            raise PlanError(
                where, "it isn’t a plan, a kind, a part, how far it is off, how sure, and by how many readings", LIKE
            )
        shift, sigma, readings = (
            read_figure(cell, where, low, high)
            for cell, low, high in zip(row[3:], (-5.0, 1e-4, 0.0), (5.0, 5.0, 1e6), strict=True)
        )
        found[row[0], row[1], row[2]] = Known(shift, sigma, int(readings))
    return found


def learned_to_csv(learned: Learnt) -> str:
    """CSV with a heading row, by plan, kind and part."""
    return write_table(
        COLUMNS, [(*key, f"{k.shift:.6g}", f"{k.sigma:.6g}", str(k.readings)) for key, k in sorted(learned.items())]
    )


def known_elsewhere(learned: Learnt, catalogue: Catalogue, without: str = "") -> dict[tuple[str, str], Known]:
    """What plans have learned of parts, for a plan that hasn't read them itself.

    Parameters
    ----------
    learned
        By plan, kind and part.
    catalogue
        The parts.
    without
        A plan whose own readings don't count.
    """
    found: dict[tuple[str, str], list[Known]] = {}
    for (plan, kind, part), known in learned.items():
        if plan != without:
            found.setdefault((kind, part), []).append(known)
    out = {}
    for (kind, part), every in found.items():
        tau = _house(catalogue, kind, part)
        if tau > 0.0:
            shift, sigma = elsewhere([(k.shift, min(k.sigma, tau)) for k in every], tau)
            out[kind, part] = Known(shift, sigma, sum(k.readings for k in every))
    return out


def _house(catalogue: Catalogue, kind: str, part: str) -> float:
    """How far the next bag or pot strays before anything is read; 0 for what the catalogue hasn't got."""
    if kind == "coat":
        return COAT_SPREAD if part in catalogue.coats else 0.0
    lamp = catalogue.lamps.get(part)
    if lamp is None:
        return 0.0
    return BAG if kind == "light" else math.sqrt(0.5) * catalogue.families[lamp.family].spread_v / 2.0
