"""The generic catalogue: all parts by id, read from data files.

Every entry carries ``basis``: ``typical`` (house value) or ``measured`` (the user's own).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Any, NamedTuple

from gwiazda.core.errors import PlanError
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.parts.electrics import (
    BoardPart,
    DrivePart,
    LoadPart,
    RegulatorPart,
    SocketPart,
    SourcePart,
    SwitchPart,
    WirePart,
)
from gwiazda.core.parts.lamps import Family, LampPart
from gwiazda.core.parts.lights import LightKind, LightMeans
from gwiazda.core.parts.materials import (
    Adhesive,
    Coat,
    DrillPart,
    FibrePart,
    Glazing,
    LensPart,
    Lining,
    Material,
    SheetPart,
)
from gwiazda.core.parts.tables import data_of, table_of


class Prototype(NamedTuple):
    """A ready pattern: ``does`` as in a plan file, the ``rule`` it follows, the ``kind`` of kit it belongs to (empty: any)."""

    id: str
    name: str
    kind: str
    rule: str
    does: Mapping[str, Any]


class WorkPart(NamedTuple):
    """A kind of step of a build: minutes for each of what it counts, and once; hours left alone; ``care`` names the caution, ``session`` the
    kind of work it is done in one go with."""

    id: str
    name: str
    each_min: float = 0.0
    set_min: float = 0.0
    wait_h: float = 0.0
    care: str = ""
    session: str = ""


class SessionPart(NamedTuple):
    """A kind of work that is done in one go: minutes to set up for it and put away after, and for that once more the same evening (0: as long)."""

    id: str
    name: str
    set_min: float
    again_min: float = 0.0


class Known(NamedTuple):
    """What readings say of a thing: how far it is off what the house says of it, and one sigma of what remains unknown.

    Both are of the natural logarithm; in V for forward voltages.
    """

    shift: float
    sigma: float
    readings: int = 0


NOTHING_READ: Mapping[tuple[str, str], Known] = MappingProxyType({})


@dataclass(frozen=True, eq=False)
class Catalogue:
    """All parts by id: a value that never changes. Another part makes another catalogue.

    ``depths`` are the depths of discharge at which ``SourcePart.open_v`` is given; ``own`` names the ids that are the
    user's. ``brightness_scale`` is how much brighter than usual the user wants what a word for brightness says.
    """

    families: Mapping[str, Family]
    lamps: Mapping[str, LampPart]
    sources: Mapping[str, SourcePart]
    glazings: Mapping[str, Glazing]
    linings: Mapping[str, Lining]
    coats: Mapping[str, Coat]
    materials: Mapping[str, Material]
    regulators: Mapping[str, RegulatorPart]
    drives: Mapping[str, DrivePart]
    loads: Mapping[str, LoadPart]
    fibres: Mapping[str, FibrePart]
    wires: Mapping[str, WirePart]
    boards: Mapping[str, BoardPart]
    prototypes: Mapping[str, Prototype]
    work: Mapping[str, WorkPart]
    sessions: Mapping[str, SessionPart]
    cares: Mapping[str, str]
    adhesives: Mapping[str, Adhesive]
    lenses: Mapping[str, LensPart]
    sheets: Mapping[str, SheetPart]
    switches: Mapping[str, SwitchPart]
    sockets: Mapping[str, SocketPart]
    drills: Mapping[str, DrillPart]
    light_kinds: Mapping[str, LightKind]
    light_means: Mapping[str, LightMeans]
    depths: tuple[float, ...]
    own: frozenset[str] = frozenset()
    resistors: tuple[float, ...] = ()  # Ω, rising: what the user has in stock
    brightness_scale: float = 1.0
    known: Mapping[tuple[str, str], Known] = field(
        default_factory=lambda: NOTHING_READ
    )  # what readings say of things, by kind and id
    before: Catalogue | None = None  # without what was read in one plan, where that is laid over it
    house: Catalogue | None = None  # without what was read in any

    @property
    def base(self) -> Catalogue:
        """The catalogue as it is without what was read in one plan."""
        return self.before or self

    def switch(self, kind: str) -> SwitchPart:
        """A switch of a kind; a slide switch where the kind isn't known here."""
        return self.switches.get(kind) or self.switches["slide"]

    def with_own(self, own: Mapping[str, Mapping[str, Any]], resistors: tuple[float, ...] = ()) -> Catalogue:
        """A catalogue with the user's own behind the generic ones: entries by table (“lamps”, “sources”) and id; ``resistors`` (Ω) are those
        in stock, rising."""
        tables = {name: MappingProxyType({**getattr(self, name), **more}) for name, more in own.items() if more}
        return replace(self, **tables, own=frozenset(i for more in own.values() for i in more), resistors=resistors)  # type: ignore[arg-type]

    def with_scale(self, brightness_scale: float) -> Catalogue:
        """A catalogue by which words for brightness mean so many times what they usually do."""
        return replace(self, brightness_scale=brightness_scale)

    @property
    def unread(self) -> Catalogue:
        """The catalogue without anything that was read: the house's values alone."""
        base = self.base
        return base.house or base

    def with_known(self, known: Mapping[tuple[str, str], Known]) -> Catalogue:
        """A catalogue with what readings say beside what the house does."""
        return replace(self, known=MappingProxyType(dict(known)), house=self.house or self)


@memoize_by_value()
def built_in() -> Catalogue:
    """The generic parts alone."""

    return Catalogue(
        table_of("families", Family), table_of("lamps", LampPart), table_of("sources", SourcePart), table_of("glazings", Glazing),
        table_of("linings", Lining), table_of("coats", Coat), table_of("materials", Material), table_of("regulators", RegulatorPart),
        table_of("drives", DrivePart), table_of("loads", LoadPart), table_of("fibres", FibrePart), table_of("wires", WirePart),
        table_of("boards", BoardPart), table_of("prototypes", Prototype),
        table_of("work", WorkPart, "steps"), table_of("work", SessionPart, "sessions"), MappingProxyType(data_of("work")["cares"]), table_of("adhesives", Adhesive),
        table_of("lenses", LensPart), table_of("sheets", SheetPart), table_of("switches", SwitchPart), table_of("sockets", SocketPart), MappingProxyType({}), table_of("light_kinds", LightKind),
        table_of("light_means", LightMeans), tuple(data_of("sources")["depth"]),
    )  # fmt: skip


def unknown(what: str, part: str, known: Iterable[str]) -> PlanError:
    """The error for a part the catalogue hasn't got, with the nearest names it has."""
    import difflib

    near = difflib.get_close_matches(part, list(known), n=3, cutoff=0.4) or list(known)[:3]
    return PlanError(what, f"the catalogue has no part “{part}”", "a catalogue part such as " + ", ".join(near))
