"""Lamps of a plan as they are after work on them."""

from __future__ import annotations

from gwiazda.core.colour.modified_lamp import Body, ModifiedLamp, Work, modified
from gwiazda.core.light.lens import Front, focal_mm
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lamps import LampPart
from gwiazda.core.plan.model import Lamp

AS_IT_COMES = Work()


def worked_part(part: LampPart, work: Work) -> ModifiedLamp:
    """A part's light at rated current after such work."""
    # Values and not the id: the user's own parts may change under theirs.
    light = tuple(sorted(part.spectrum.items()))
    return modified(Body(part.size_mm, part.shape.domed, part.beam_deg, part.axial_mcd, part.flux_lm, light), work)


SEAT_MM = 0.5  # from the back of a lens of its own to a lamp's face


def front_mm(catalogue: Catalogue, lamp: Lamp) -> float:
    """Diameter (mm) of what is seen of a lamp from the front: the lens of its own, or its face."""
    face = catalogue.lamps[lamp.part].face_mm
    if lamp.lens is None:
        return face
    return lamp.lens.width_mm if lamp.lens.width_mm is not None else face


def _front(catalogue: Catalogue, lamp: Lamp) -> Front | None:
    part = catalogue.lenses.get(lamp.lens.made) if lamp.lens is not None else None
    if lamp.lens is None or part is None:
        return None
    wide = front_mm(catalogue, lamp)
    dome = lamp.lens.dome_mm if lamp.lens.dome_mm > 0.0 else part.dome * wide
    hole = max(wide - 2.0 * lamp.lens.lip_mm, 0.1)
    through, straight = (0.0, 0.0) if lamp.lens.backed else (part.transmittance, part.straight or part.transmittance)
    return Front(hole, focal_mm(wide, dome, part.refraction), SEAT_MM, through, straight)


def work_on(catalogue: Catalogue, lamp: Lamp) -> Work:
    """What was done to a lamp of a plan."""
    front = _front(catalogue, lamp) if lamp.lens is not None else None
    return Work(lamp.frosted_cap, lamp.sanded, lamp.filed_mm, lamp.tint, lamp.units, front)


def back_share(catalogue: Catalogue, lamp: Lamp) -> float:
    """Share of a lamp's light that it throws back through the wall it is pushed through, into the section its leads enter; none where
    something is put behind it."""
    if lamp.mount != "outside" or lamp.behind or lamp.late or lamp.part not in catalogue.lamps:
        return 0.0
    part = catalogue.lamps[lamp.part]
    if lamp.lens is not None and part.shape.back_sides:
        return part.shape.back_sides
    return part.shape.back_frosted if part.lens == "frosted" else part.shape.back_clear


@memoize_by_value(4096)
def _of(catalogue: Catalogue, part: str, work: Work) -> ModifiedLamp:
    return worked_part(catalogue.lamps[part], work)


def worked(catalogue: Catalogue, lamp: Lamp) -> ModifiedLamp:
    """The lamp's light at rated current; its part must be in the catalogue."""
    return _of(catalogue, lamp.part, work_on(catalogue, lamp))


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
