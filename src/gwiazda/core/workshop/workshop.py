"""The workshop: what is the user's own and not a plan's. Loaded and saved in one place, for window and command line alike.

``parts.csv`` holds the user's lamps, ``coats.json`` paints measured on swatches, ``resistors.csv`` what is in the drawer. A file that can't be read is set aside
under another name and said: nothing is ever written over it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path
from types import MappingProxyType

from gwiazda.core.errors import GwiazdaError, PlanFileError
from gwiazda.core.files import clear_parts, set_aside, write_atomically
from gwiazda.core.parts.catalogue import Catalogue, Coat, Family, LampPart, built_in
from gwiazda.core.workshop.coats_json import coats_from_json, coats_to_json
from gwiazda.core.workshop.parts_csv import parts_from_csv, parts_to_csv
from gwiazda.core.workshop.stock_csv import stock_from_csv, stock_to_csv

PARTS, COATS, STOCK = "parts.csv", "coats.json", "resistors.csv"
MAX_BYTES = 2**20


@dataclass(frozen=True)
class Workshop:
    """The user's own lamps with their diode families, coats, and resistors in stock (Ω: how many); a value, as plans are."""

    lamps: Mapping[str, LampPart] = field(default_factory=lambda: MappingProxyType({}))
    families: Mapping[str, Family] = field(default_factory=lambda: MappingProxyType({}))
    coats: Mapping[str, Coat] = field(default_factory=lambda: MappingProxyType({}))
    stock: Mapping[float, int] = field(default_factory=lambda: MappingProxyType({}))

    @cached_property
    def catalogue(self) -> Catalogue:
        """The generic catalogue with the user's own behind it."""
        if not (self.lamps or self.families or self.coats or self.stock):
            return built_in()
        resistors = tuple(sorted(ohm for ohm, count in self.stock.items() if count > 0))
        return built_in().with_own(self.lamps, self.families, self.coats, resistors)

    def with_lamps(self, lamps: Mapping[str, LampPart], families: Mapping[str, Family]) -> Workshop:
        """More lamps, in place of those of the same id."""
        merged = {**self.lamps, **lamps}
        used = {p.family for p in merged.values()}
        kept = {k: v for k, v in {**self.families, **families}.items() if k in used}
        return replace(self, lamps=MappingProxyType(merged), families=MappingProxyType(kept))

    def with_stock(self, stock: Mapping[float, int]) -> Workshop:
        """Other resistors in stock."""
        return replace(self, stock=MappingProxyType(dict(stock)))

    def with_coat(self, coat: Coat) -> Workshop:
        """One more coat, in place of that of the same id."""
        return replace(self, coats=MappingProxyType({**self.coats, coat.id: coat}))


def read_text(path: Path) -> str:
    """Text of a file of the user's; raises PlanFileError for what can't be read."""
    try:
        if path.stat().st_size > MAX_BYTES:
            raise PlanFileError(path.name, f"{path.stat().st_size / 2**20:.0f} MB", "a list of up to 1 MB")
        return path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        reason = error.strerror if isinstance(error, OSError) else "not UTF-8 text"
        raise PlanFileError(path.name, f"can't be read ({reason})", "a file in UTF-8") from None


def load_workshop(folder: Path) -> tuple[Workshop, tuple[str, ...]]:
    """The workshop kept in a folder, and a sentence for each file that couldn't be read and is set aside."""
    workshop, said = Workshop(), []
    for name in (PARTS, COATS, STOCK):
        path = folder / name
        clear_parts(path)
        if not path.exists():
            continue
        try:
            text = read_text(path)
            if name == PARTS:
                workshop = workshop.with_lamps(*parts_from_csv(text))
            elif name == STOCK:
                workshop = workshop.with_stock(stock_from_csv(text))
            else:
                workshop = replace(workshop, coats=MappingProxyType(dict(coats_from_json(text))))
        except GwiazdaError as error:
            moved = set_aside(path)
            where = (
                f"it is kept as {moved.name}"
                if moved
                else "it stays where it is, and nothing of yours is written there"
            )
            said.append(f"{name} can't be read: {error} Nothing is lost: {where}.")
    return workshop, tuple(said)


def save_workshop(workshop: Workshop, folder: Path) -> None:
    """Keep a workshop in a folder, each file whole or as it was; raises PlanFileError when it can't be written."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, text in (
        (PARTS, parts_to_csv(workshop.lamps.values(), workshop.catalogue) if workshop.lamps else ""),
        (COATS, coats_to_json(workshop.coats.values()) if workshop.coats else ""),
        (STOCK, stock_to_csv(workshop.stock) if workshop.stock else ""),
    ):
        path = folder / name
        if text:
            write_atomically(path, text.encode())
        elif path.exists():
            path.unlink()
