"""Reading a table of the catalogue: entries by id."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from types import MappingProxyType
from typing import Any, Literal, TypeVar

Basis = Literal["typical", "measured"]
P = TypeVar("P")


def _read(kind: Callable[..., P], rows: Iterable[Mapping[str, Any]]) -> dict[str, P]:
    """Entries by id; a field the kind hasn't got raises TypeError, so a data file can't drift from its class."""
    return {r["id"]: kind(**{k: tuple(v) if isinstance(v, list) else v for k, v in r.items()}) for r in rows}


def data_of(name: str) -> Any:
    """A data file of the catalogue as it stands."""
    return json.loads((Path(__file__).parent / "data" / f"{name}.json").read_text(encoding="utf-8"))


def table_of(name: str, kind: Callable[..., P], key: str = "") -> Mapping[str, P]:
    """A table of a data file, entries by id; under its own name where no other ``key`` is said."""
    return MappingProxyType(_read(kind, data_of(name)[key or name]))
