"""Which part to take for a lamp: what fits its place and gives the wanted light, easiest first."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.assess.lamp.fit import fit_of
from gwiazda.core.assess.lamp.modified_lamp import plain, worked
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lamps import LampPart
from gwiazda.core.plan.model import Lamp, Section, copy_unchecked

EASY_CHIP_MM = 1.2  # a chip at least so large on both sides is soldered without a loupe


class Choice(NamedTuple):
    """A part as it comes. ``clearance_mm`` is the room left in its place, below zero how much too thick it is; None
    outside of sections."""

    part: LampPart
    clearance_mm: float | None
    bright_enough: bool

    @property
    def serves(self) -> bool:
        """Whether it fits and reaches the wanted light."""
        return self.bright_enough and (self.clearance_mm is None or self.clearance_mm >= 0)


def choices(catalogue: Catalogue, lamp: Lamp, section: Section | None, wanted_share: float) -> tuple[Choice, ...]:
    """All parts for a lamp's place: those that serve first, then by the colour it has now, by ease, by name.

    ``wanted_share`` is the light wanted over that of the part it has now at its rated current; 0 where nothing is known
    of it. ``section`` is where it lies inside, if it does.
    """
    now = catalogue.lamps.get(lamp.part)
    wanted_lm = worked(catalogue, lamp).flux_lm * wanted_share if now is not None else 0.0
    found = []
    for part in catalogue.lamps.values():
        as_it_comes = copy_unchecked(lamp, part=part.id, sanded=False, filed_mm=0.0)
        clearance = fit_of(catalogue, section, as_it_comes).clearance_mm if section is not None else None
        found.append(Choice(part, clearance, plain(part).flux_lm >= wanted_lm))

    def order(c: Choice) -> tuple[bool, bool, bool, str]:
        easy = c.part.shape.pads and min(c.part.size_mm[:2]) >= EASY_CHIP_MM
        return not c.serves, now is not None and c.part.colour != now.colour, not easy, c.part.name

    return tuple(sorted(found, key=order))
