"""The workshop: what is the user's own and not a plan's. Loaded and saved in one place, for window and command line alike.

``parts.csv`` holds the user's lamps, ``coats.json`` paints measured on swatches, ``light_kinds.json`` kinds of lights of one's own, ``own.csv`` other parts of one's own, ``drawer.csv`` what is in the drawer (``resistors.csv`` in older
workshops), ``kept.csv`` what of it plans have laid aside, ``brightness.csv`` the looks one has compared, ``learned.csv`` what readings of plans taught of parts. A file that can't be read is set aside under another name and said: nothing is ever written
over it.
"""

from __future__ import annotations

import logging
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from gwiazda.core.errors import GwiazdaError, PlanFileError
from gwiazda.core.files import clear_parts, fingerprint, make_folder, read_plain, set_aside, write_atomically
from gwiazda.core.parts.catalogue import NOTHING_READ, Catalogue, Known, built_in
from gwiazda.core.parts.lamps import Family, LampPart
from gwiazda.core.parts.lights import LightKind
from gwiazda.core.parts.materials import Coat
from gwiazda.core.workshop.drawer_csv import Held, Key, drawer_from_csv, drawer_to_csv, resistors_of, with_resistors

if TYPE_CHECKING:
    from gwiazda.core.light.staircase import BrightnessScale, Comparison
    from gwiazda.core.workshop.learned_csv import Learnt
    from gwiazda.core.workshop.own_parts import OwnPart

PARTS, COATS, LIGHTS, OWN, DRAWER, KEPT, COMPARED, LEARNED = (
    "parts.csv", "coats.json", "light_kinds.json", "own.csv", "drawer.csv", "kept.csv", "brightness.csv", "learned.csv",
)  # fmt: skip
FILES = (PARTS, COATS, LIGHTS, OWN, DRAWER, KEPT, COMPARED, LEARNED)
OLD_DRAWER = "resistors.csv"
MAX_BYTES = 2**20


@dataclass(frozen=True)
class Workshop:
    """The user's own lamps with their diode families, coats, kinds of lights, other parts, what is in the drawer, what of it each plan (by its kit's
    name) keeps, the looks they have compared, oldest first, and what readings of plans taught of parts; a value, as plans are."""

    lamps: Mapping[str, LampPart] = field(default_factory=lambda: MappingProxyType({}))
    families: Mapping[str, Family] = field(default_factory=lambda: MappingProxyType({}))
    coats: Mapping[str, Coat] = field(default_factory=lambda: MappingProxyType({}))
    light_kinds: Mapping[str, LightKind] = field(default_factory=lambda: MappingProxyType({}))
    own: Mapping[str, OwnPart] = field(default_factory=lambda: MappingProxyType({}))
    drawer: Mapping[Key, Held] = field(default_factory=lambda: MappingProxyType({}))
    kept: Mapping[str, Mapping[Key, float]] = field(default_factory=lambda: MappingProxyType({}))
    compared: tuple[Comparison, ...] = ()
    learned: Learnt = field(default_factory=lambda: MappingProxyType({}))

    @cached_property
    def stock(self) -> Mapping[float, int]:
        """Resistors in the drawer: value (Ω) and how many."""
        return MappingProxyType(resistors_of(self.drawer))

    @cached_property
    def scale(self) -> BrightnessScale:
        """How much brighter than usual its user wants what a word says, by the looks they have compared."""
        from gwiazda.core.light.staircase import estimate  # at a start most have compared none

        return estimate(self.compared)

    @cached_property
    def catalogue(self) -> Catalogue:
        """The generic catalogue with the user's own behind it."""
        found = self._parts
        if self.compared:
            found = found.with_scale(self.scale.value)
        return found.with_known(self.known()) if self.learned else found

    def catalogue_for(self, plan: str) -> Catalogue:
        """The catalogue for a plan: what it has learned itself it holds itself."""
        if not any(key[0] == plan for key in self.learned):
            return self.catalogue
        if plan not in self._for:
            self._for[plan] = self.catalogue.with_known(self.known(plan))
        return self._for[plan]

    @cached_property
    def _for(self) -> dict[str, Catalogue]:
        return {}

    def known(self, without: str = "") -> Mapping[tuple[str, str], Known]:
        """What readings of plans, one left out, say of parts to the others."""
        if not self.learned:
            return NOTHING_READ
        from gwiazda.core.workshop.learned_csv import known_elsewhere  # at a start most have learned nothing

        return known_elsewhere(self.learned, self._parts, without)

    @cached_property
    def _parts(self) -> Catalogue:
        if not (self.lamps or self.families or self.coats or self.stock or self.light_kinds or self.own):
            return built_in()
        tables: dict[str, dict[str, Any]] = {
            "lamps": {**self.lamps}, "families": {**self.families}, "coats": {**self.coats}, "light_kinds": {**self.light_kinds}
        }  # fmt: skip
        if self.own:
            from gwiazda.core.workshop.own_parts import KINDS, entry_of  # at a start most have none
        for part in self.own.values():
            tables.setdefault(KINDS[part.kind].table, {})[part.id] = entry_of(part, built_in())
        resistors = tuple(sorted(ohm for ohm, count in self.stock.items() if count > 0))
        return built_in().with_own(tables, resistors)

    def with_lamps(self, lamps: Mapping[str, LampPart], families: Mapping[str, Family]) -> Workshop:
        """More lamps, in place of those of the same id."""
        merged = {**self.lamps, **lamps}
        used = {p.family for p in merged.values()}
        kept = {k: v for k, v in {**self.families, **families}.items() if k in used}
        return replace(self, lamps=MappingProxyType(merged), families=MappingProxyType(kept))

    def with_stock(self, stock: Mapping[float, int]) -> Workshop:
        """Other resistors in stock."""
        return self.with_drawer(with_resistors(self.drawer, stock))

    def with_drawer(self, drawer: Mapping[Key, Held]) -> Workshop:
        """Another drawer, parts by their keys."""
        return self._beside(replace(self, drawer=MappingProxyType(dict(drawer))))

    def with_kept(self, plan: str, parts: Mapping[Key, float]) -> Workshop:
        """What a plan keeps from now on, in place of what it kept; nothing gives all of it back."""
        others = {name: p for name, p in self.kept.items() if name != plan}
        kept = {**others, plan: MappingProxyType(dict(parts))} if parts else others
        return self._beside(replace(self, kept=MappingProxyType(kept)))

    def _beside(self, other: Workshop) -> Workshop:
        """Another workshop with this one's catalogue where its resistors are the same: counting lamps changes no light."""
        if other.stock == self.stock:
            other.__dict__["catalogue"] = self.catalogue
        return other

    def kept_by_others(self, plan: str, key: Key) -> float:
        """How many of a part other plans keep: pieces or metres."""
        return sum(parts.get(key, 0.0) for name, parts in self.kept.items() if name != plan)

    def with_compared(self, compared: Sequence[Comparison]) -> Workshop:
        """Other looks compared, oldest first."""
        return replace(self, compared=tuple(compared))

    def with_learned(self, plan: str, learned: Mapping[tuple[str, str], Known]) -> Workshop:
        """What a plan has learned of parts, in place of what it had; nothing takes all of it back."""
        others = {key: k for key, k in self.learned.items() if key[0] != plan}
        mine = {(plan, kind, part): k for (kind, part), k in learned.items()}
        return replace(self, learned=MappingProxyType({**others, **mine}))

    def with_coat(self, coat: Coat) -> Workshop:
        """One more coat, in place of that of the same id."""
        return replace(self, coats=MappingProxyType({**self.coats, coat.id: coat}))

    def with_own_part(self, part: OwnPart) -> Workshop:
        """One more part of one's own, in place of that of the same id."""
        return replace(self, own=MappingProxyType({**self.own, part.id: part}))

    def without_own_part(self, part_id: str) -> Workshop:
        """A part of one's own out of the catalogue."""
        return replace(self, own=MappingProxyType({i: p for i, p in self.own.items() if i != part_id}))

    def with_light_kind(self, kind: LightKind) -> Workshop:
        """One more kind of light, in place of that of the same id."""
        return replace(self, light_kinds=MappingProxyType({**self.light_kinds, kind.id: kind}))


def read_text(path: Path) -> str:
    """Text of a file of the user's; raises PlanFileError for what can't be read."""
    data = read_plain(path, MAX_BYTES, "a list")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise PlanFileError(path.name, "can't be read (not UTF-8 text)", "a file in UTF-8") from None


def _with_file(workshop: Workshop, name: str, text: str) -> Workshop:
    """A workshop with what one of its files holds; most have few of them, so each is read by what is loaded then."""
    if name == PARTS:
        from gwiazda.core.workshop.parts_csv import parts_from_csv

        return workshop.with_lamps(*parts_from_csv(text))
    if name == DRAWER:
        return workshop.with_drawer(drawer_from_csv(text))
    if name == LIGHTS:
        from gwiazda.core.workshop.kinds_json import kinds_from_json

        return replace(workshop, light_kinds=MappingProxyType(kinds_from_json(text)))
    if name == OWN:
        from gwiazda.core.workshop.own_parts import own_from_csv

        return replace(workshop, own=MappingProxyType(own_from_csv(text)))
    if name == COMPARED:
        from gwiazda.core.workshop.comparisons_csv import comparisons_from_csv

        return workshop.with_compared(comparisons_from_csv(text))
    if name == LEARNED:
        from gwiazda.core.workshop.learned_csv import learned_from_csv

        return replace(workshop, learned=MappingProxyType(learned_from_csv(text)))
    if name == COATS:
        from gwiazda.core.workshop.coats_json import coats_from_json

        return replace(workshop, coats=MappingProxyType(dict(coats_from_json(text))))
    from gwiazda.core.workshop.kept_csv import kept_from_csv

    for plan, parts in kept_from_csv(text).items():
        workshop = workshop.with_kept(plan, parts)
    return workshop


def load_workshop(folder: Path) -> tuple[Workshop, tuple[str, ...]]:
    """The workshop kept in a folder, and a sentence for each file that couldn't be read and is set aside."""
    workshop, said = Workshop(), []
    drawer = DRAWER if (folder / DRAWER).exists() else OLD_DRAWER
    for name in (drawer if n == DRAWER else n for n in FILES):
        path = folder / name
        clear_parts(path)
        if not path.exists():
            continue
        try:
            text = read_text(path)
            workshop = _with_file(workshop, DRAWER if name == drawer else name, text)
        except Exception as error:  # whatever stands in it: a broken list stops no start
            if not isinstance(error, GwiazdaError):
                logging.getLogger(__name__).exception("%s", path)
                error = PlanFileError(name, f"something in it is not as it should be ({type(error).__name__})")
            moved = set_aside(path)
            where = (
                f"it is kept as {moved.name}"
                if moved
                else "it stays where it is, and nothing of yours is written there"
            )
            said.append(f"{name} can't be read: {error} Nothing is lost: {where}.")
    return workshop, tuple(said)


def state_of(folder: Path) -> tuple[str | None, ...]:
    """What the files of a workshop hold, to be told from what they held before."""
    return tuple(fingerprint(folder / name) for name in FILES)


def save_workshop(workshop: Workshop, folder: Path) -> None:
    """Keep a workshop in a folder, each file whole or as it was; raises PlanFileError when it can't be written."""
    from gwiazda.core.workshop.coats_json import coats_to_json
    from gwiazda.core.workshop.comparisons_csv import comparisons_to_csv
    from gwiazda.core.workshop.kept_csv import kept_to_csv
    from gwiazda.core.workshop.kinds_json import kinds_to_json
    from gwiazda.core.workshop.learned_csv import learned_to_csv
    from gwiazda.core.workshop.own_parts import own_to_csv
    from gwiazda.core.workshop.parts_csv import parts_to_csv

    make_folder(folder)
    for name, text in (
        (PARTS, parts_to_csv(workshop.lamps.values(), workshop.catalogue) if workshop.lamps else ""),
        (COATS, coats_to_json(workshop.coats.values()) if workshop.coats else ""),
        (LIGHTS, kinds_to_json(workshop.light_kinds.values()) if workshop.light_kinds else ""),
        (OWN, own_to_csv(workshop.own.values()) if workshop.own else ""),
        (DRAWER, drawer_to_csv(workshop.drawer.values()) if workshop.drawer else ""),
        (KEPT, kept_to_csv(workshop.kept) if workshop.kept else ""),
        (COMPARED, comparisons_to_csv(workshop.compared) if workshop.compared else ""),
        (LEARNED, learned_to_csv(workshop.learned) if workshop.learned else ""),
        (OLD_DRAWER, ""),  # what it held is in the drawer now
    ):
        path = folder / name
        if text:
            write_atomically(path, text.encode())
        elif path.exists():
            try:
                path.unlink()
            except OSError as error:
                raise PlanFileError(
                    name, f"can't be emptied ({error.strerror})", "a folder that may be written"
                ) from None
