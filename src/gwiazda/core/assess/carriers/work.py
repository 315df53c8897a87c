"""What a carrier takes to make."""

from __future__ import annotations

from gwiazda.core.assess.carriers.standing import design_of
from gwiazda.core.carrier.design import sheets_of
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Carrier

DRILL_MIN = 5.0  # a bracket of the kit is marked and drilled
UNKNOWN_PIECE_MIN = 5.0


def pieces_minutes(catalogue: Catalogue, carrier: Carrier) -> tuple[int, float]:
    """How many pieces a carrier has, and the minutes of hands on that they take."""
    if not carrier.own:
        return 1, DRILL_MIN
    sheet = catalogue.sheets.get(carrier.sheet)
    try:
        count = len(sheets_of(design_of(catalogue, carrier, ())))
    except ValueError:
        count = 1
    return count, count * (sheet.piece_min if sheet is not None else UNKNOWN_PIECE_MIN)
