"""The user's own kinds of lights as JSON, out and in again: the same fields as the generic ones have."""

from __future__ import annotations

import json
import typing
from collections.abc import Iterable
from typing import Any

import msgspec

from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.parts.lights import LightKind

MOST = 500
_FIELDS = typing.get_type_hints(LightKind)


def kinds_to_json(kinds: Iterable[LightKind]) -> str:
    """Kinds as JSON that ``kinds_from_json`` reads again; what is at its default is left out."""
    usual = LightKind._field_defaults
    rows = [{k: v for k, v in kind._asdict().items() if k not in usual or v != usual[k]} for kind in kinds]
    return json.dumps({"light_kinds": rows}, indent=1, ensure_ascii=False) + "\n"


def _kind(row: Any, where: str) -> LightKind:
    if not isinstance(row, dict) or not {"id", "name", "group"} <= set(row) <= set(_FIELDS):
        raise PlanError(where, "has other fields than a kind of light", ", ".join(LightKind._fields))
    read: dict[str, Any] = {}
    for name, value in row.items():
        try:
            read[name] = msgspec.convert(value, _FIELDS[name])
        except msgspec.ValidationError as error:
            raise PlanError(where, f"{name}: {error}", "as the generic kinds have it") from None
    kind = LightKind(**read)
    catalogue = built_in()
    if not kind.id.startswith("my-") or len(kind.id) > 80 or not kind.name.strip() or len(kind.name) > 80:
        raise PlanError(where, f"“{kind.id[:60]}”", "an id that begins with my-, and a name")
    colours = {p.colour for p in catalogue.lamps.values()}
    if not kind.colours or not set(kind.colours) <= colours:
        raise PlanError(where, f"the colours {', '.join(kind.colours)[:60]}", ", ".join(sorted(colours)))
    if not kind.means or not set(kind.means) <= set(catalogue.light_means):
        raise PlanError(where, f"the means {', '.join(kind.means)[:60]}", ", ".join(catalogue.light_means))
    numbers = (kind.real_cd, kind.real_cd_m2, kind.real_m, *kind.arc)
    if (
        not all(abs(x) <= 1e9 for x in numbers)
        or min(kind.real_cd, kind.real_cd_m2) < 0.0
        or not 1e-3 <= kind.real_m <= 1e4
    ):
        raise PlanError(where, "a figure out of range", "intensities from 0 on, a size of 1 mm to 10 km")
    return kind


def kinds_from_json(text: str) -> dict[str, LightKind]:
    """Own kinds of lights by id.

    Raises
    ------
    PlanError
        That names the row and what is wrong with it; nothing is taken in then.
    """
    try:
        rows = json.loads(text)["light_kinds"]
        assert isinstance(rows, list) and len(rows) <= MOST
    except (ValueError, KeyError, TypeError, AssertionError, RecursionError):
        raise PlanError("Own kinds of lights", "the file can't be read", "one written by Gwiazda") from None
    found = (_kind(row, f"Own kinds of lights, row {number}") for number, row in enumerate(rows, 1))
    return {kind.id: kind for kind in found}
