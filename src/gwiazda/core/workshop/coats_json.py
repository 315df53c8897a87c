"""The user's own measured coats as JSON, out and in again."""

from __future__ import annotations

import json
from collections.abc import Iterable

from gwiazda.core.errors import PlanError
from gwiazda.core.parts.materials import Coat

MOST = 1000


def coats_to_json(coats: Iterable[Coat]) -> str:
    """Coats as JSON that ``coats_from_json`` reads again."""
    return json.dumps({"coats": [c._asdict() for c in coats]}, indent=1, ensure_ascii=False) + "\n"


def coats_from_json(text: str) -> dict[str, Coat]:
    """Own coats by id; raises PlanError that names the row and what is wrong with it, and takes nothing in then."""
    try:
        rows = json.loads(text)["coats"]
        assert isinstance(rows, list) and len(rows) <= MOST
    except (ValueError, KeyError, TypeError, AssertionError, RecursionError):
        raise PlanError("Own coats", "the file can't be read", "one written by Gwiazda") from None
    out: dict[str, Coat] = {}
    for number, row in enumerate(rows, 1):
        where = f"Own coats, row {number}"
        try:
            if not isinstance(row, dict) or any(isinstance(v, (list, dict)) for v in row.values()):
                raise TypeError
            coat = Coat(**row)
            numbers = (coat.density, coat.reflectance, coat.dry_h, coat.spread, coat.scatter, coat.absorb, coat.next_h)
            good = all(isinstance(v, (int, float)) and abs(v) <= 1e6 for v in numbers)  # not so for what is no number
        except TypeError:
            raise PlanError(where, "has other fields than a coat", ", ".join(Coat._fields)) from None
        if not good or not (
            0 <= coat.density <= 20
            and coat.density + coat.scatter > 0
            and 0 <= coat.scatter <= 50
            and 0 <= coat.absorb <= 50
            and 0 <= coat.reflectance < 1
            and coat.spread >= 0
            and min(coat.dry_h, coat.next_h) >= 0
        ):
            raise PlanError(where, "a density or reflectance out of range", "density 0 to 20, reflectance 0 to 1")
        if not isinstance(coat.id, str) or not coat.id.startswith("my-") or coat.kind not in ("paint", "sheet", "mass"):
            raise PlanError(where, f"“{coat.id}”", "an id that begins with my-, of paint, sheet or mass")
        out[coat.id] = coat
    return out
