"""What lamps of one kind have in common: the part as it is worked, as a diode and as a light.

A large plan has thousands of lamps and a few dozen kinds of them: what belongs to the kind is worked out once.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from gwiazda.core.assess.electrics.junctions import junctions
from gwiazda.core.assess.lamp.modified_lamp import work_on, worked_part
from gwiazda.core.circuit.parts.diode import Junction
from gwiazda.core.colour.modified_lamp import ModifiedLamp, Work
from gwiazda.core.light.photometry import Droop
from gwiazda.core.memo import memoize, memoize_by_value
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lamps import LampPart
from gwiazda.core.plan.model import Lamp


@memoize()
def known_lamps(catalogue: Catalogue, lamps: tuple[Lamp, ...]) -> tuple[Lamp, ...]:
    """The lamps whose part the catalogue has."""
    table = catalogue.lamps
    return lamps if all(p.part in table for p in lamps) else tuple(p for p in lamps if p.part in table)


class LampModel(NamedTuple):
    """A lamp without its place: rated current (A) of all its units, diodes in series, light at rated current."""

    part: LampPart
    rated_a: float
    droop: Droop
    junctions: tuple[Junction, ...]
    light: ModifiedLamp


@memoize(slots=1, by=lambda kind, ohm: (id(kind), ohm), places=4096)
def _wired(kind: LampModel, ohm: float) -> LampModel:
    first, *rest = kind.junctions
    return kind._replace(junctions=(first._replace(rs_ohm=first.rs_ohm + ohm), *rest))


def wired(kinds: Mapping[str, LampModel], extra_ohm: Mapping[str, float]) -> Mapping[str, LampModel]:
    """Kinds of lamps with what their wires add (Ω) counted with their own resistance; the same object for all that are alike."""
    return {i: _wired(k, extra_ohm[i]) if i in extra_ohm else k for i, k in kinds.items()} if extra_ohm else kinds


@memoize_by_value(4096)
def _model(catalogue: Catalogue, part_id: str, work: Work) -> LampModel:
    part = catalogue.lamps[part_id]
    return LampModel(
        part,
        part.rated_ma * 1e-3 * work.units,
        catalogue.families[part.family].droop,
        junctions(catalogue, part, work.units),
        worked_part(part, work),
    )


def lamp_model_of(catalogue: Catalogue, lamp: Lamp) -> LampModel:
    """What a lamp has in common with all of its kind; its part must be in the catalogue. The same object for all of them."""
    return _model(catalogue, lamp.part, work_on(catalogue, lamp))
