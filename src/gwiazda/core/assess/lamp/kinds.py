"""What lamps of one kind have in common: the part as it is worked, as a diode and as a light.

A large plan has thousands of lamps and a few dozen kinds of them: what belongs to the kind is worked out once.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from gwiazda.core.assess.electrics.junctions import Junction, junctions
from gwiazda.core.assess.lamp.modified_lamp import ModifiedLamp, worked_part
from gwiazda.core.light.photometry import Droop
from gwiazda.core.memo import memoize, memoize_by_value
from gwiazda.core.parts.catalogue import Catalogue, LampPart
from gwiazda.core.plan.model import Lamp


@memoize()
def known_lamps(catalogue: Catalogue, lamps: tuple[Lamp, ...]) -> tuple[Lamp, ...]:
    """The lamps whose part the catalogue has."""
    table = catalogue.lamps
    return lamps if all(p.part in table for p in lamps) else tuple(p for p in lamps if p.part in table)


class Kind(NamedTuple):
    """A lamp without its place: rated current (A) of all its units, diodes in series, light at rated current."""

    part: LampPart
    rated_a: float
    droop: Droop
    junctions: tuple[Junction, ...]
    light: ModifiedLamp


@memoize(slots=1, by=lambda kind, ohm: (id(kind), ohm), places=4096)
def _wired(kind: Kind, ohm: float) -> Kind:
    first, *rest = kind.junctions
    return kind._replace(junctions=(first._replace(rs_ohm=first.rs_ohm + ohm), *rest))


def wired(kinds: Mapping[str, Kind], extra_ohm: Mapping[str, float]) -> Mapping[str, Kind]:
    """Kinds of lamps with what their wires add (Ω) counted with their own resistance; the same object for all that are alike."""
    return {i: _wired(k, extra_ohm[i]) if i in extra_ohm else k for i, k in kinds.items()} if extra_ohm else kinds


@memoize_by_value(4096)
def _kind(catalogue: Catalogue, part_id: str, units: int, cap: bool, sanded: bool, filed_mm: float, tint: str) -> Kind:
    part = catalogue.lamps[part_id]
    return Kind(
        part,
        part.rated_ma * 1e-3 * units,
        catalogue.families[part.family].droop,
        junctions(catalogue, part, units),
        worked_part(part, cap, sanded, filed_mm, tint, units),
    )


def kind_of(catalogue: Catalogue, lamp: Lamp) -> Kind:
    """The kind of a lamp; its part must be in the catalogue. The same object for all of a kind."""
    return _kind(catalogue, lamp.part, lamp.units, lamp.frosted_cap, lamp.sanded, lamp.filed_mm, lamp.tint)
