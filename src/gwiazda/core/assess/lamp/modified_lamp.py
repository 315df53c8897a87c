"""Lamps of a plan as they are after work on them."""

from __future__ import annotations

from gwiazda.core.colour.modified_lamp import Body, ModifiedLamp, Work, modified
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.parts.catalogue import Catalogue, LampPart
from gwiazda.core.plan.model import Lamp

AS_IT_COMES = Work()


def worked_part(part: LampPart, work: Work) -> ModifiedLamp:
    """A part's light at rated current after such work."""
    # Values and not the id: the user's own parts may change under theirs.
    light = tuple(sorted(part.spectrum.items()))
    return modified(Body(part.size_mm, part.shape.domed, part.beam_deg, part.axial_mcd, part.flux_lm, light), work)


def work_on(lamp: Lamp) -> Work:
    """What was done to a lamp of a plan."""
    return Work(lamp.frosted_cap, lamp.sanded, lamp.filed_mm, lamp.tint, lamp.units)


@memoize_by_value(4096)
def _of(catalogue: Catalogue, part: str, work: Work) -> ModifiedLamp:
    return worked_part(catalogue.lamps[part], work)


def worked(catalogue: Catalogue, lamp: Lamp) -> ModifiedLamp:
    """The lamp's light at rated current; its part must be in the catalogue."""
    return _of(catalogue, lamp.part, work_on(lamp))


def rated_a(catalogue: Catalogue, lamp: Lamp) -> float:
    """Rated current (A) of the lamp, all its units together."""
    return catalogue.lamps[lamp.part].rated_ma * 1e-3 * lamp.units


def body_mm(catalogue: Catalogue, lamp: Lamp) -> tuple[float, float, float]:
    """Length, width and height of the body (mm), all units of a strip together, as worked."""
    length, width, _ = catalogue.lamps[lamp.part].size_mm
    return length * lamp.units, width, worked(catalogue, lamp).height_mm


def plain(part: LampPart) -> ModifiedLamp:
    """The part as it comes."""
    return worked_part(part, AS_IT_COMES)
