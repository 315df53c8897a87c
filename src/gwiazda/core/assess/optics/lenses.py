"""Lenses of a plan: what they are made from, the light their seat leaves, how they look with their lamps."""

from __future__ import annotations

from gwiazda.core.light.glazing import Pane
from gwiazda.core.light.lens import falls_off, focal_mm, shown_mm
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lamps import LampPart
from gwiazda.core.parts.materials import LensPart
from gwiazda.core.plan.frame import NORMALS, PLANES
from gwiazda.core.plan.model import Lamp, Lens, Opening


def lens_of(catalogue: Catalogue, opening: Opening) -> LensPart | None:
    """What an opening's lens is made from; None where it has none, or one the catalogue hasn't got."""
    return catalogue.lenses.get(opening.lens.made) if opening.lens is not None else None


def width_mm(opening: Opening) -> float:
    """The lens's diameter: its own, or the hole's smaller size."""
    own = opening.lens.width_mm if opening.lens is not None else None
    return own if own is not None else min(opening.width_mm, opening.height_mm)


def dome_mm(lens: Lens, wide_mm: float, part: LensPart) -> float:
    """How far a lens of that width stands out: as made, or as such lenses usually come out."""
    return lens.dome_mm if lens.dome_mm > 0.0 else part.dome * wide_mm


def hole_share(opening: Opening) -> float:
    """Share of the opening that the bearing lip leaves open behind the lens."""
    if opening.lens is None:
        return 1.0
    lip = 2.0 * opening.lens.lip_mm
    return max(opening.width_mm - lip, 0.0) * max(opening.height_mm - lip, 0.0) / (opening.width_mm * opening.height_mm)


def lens_pane(catalogue: Catalogue, opening: Opening, lining: float) -> Pane:
    """A lens as light meets it from inside: what its lip covers throws back as the lining does, and silver on its back is tight."""
    part = lens_of(catalogue, opening)
    if part is None or (opening.lens is not None and opening.lens.backed):
        return Pane(0.0, 1.0, lining)
    share = hole_share(opening)
    back = part.reflectance * share + min(lining, 1.0) * (1.0 - share)
    return Pane(part.transmittance * share, part.scattered, back, part.straight * share)


def behind_mm(opening: Opening, lamp: Lamp) -> float:
    """From the opening's plane back to a lamp's place."""
    normal = NORMALS[opening.side]
    return abs(sum((a - b) * n for a, b, n in zip(opening.at, lamp.at, normal, strict=True)))


def face_shown_mm(catalogue: Catalogue, opening: Opening, lamp: Lamp, part: LampPart) -> float:
    """Diameter of the spot that a lamp straight behind an opening shows in it: its own face, or what a lens makes of it."""
    lens = lens_of(catalogue, opening)
    if lens is None or lens.refraction == 1.0:
        return part.face_mm
    return shown_mm(part.face_mm, *_seat(opening, lamp, lens))


def _seat(opening: Opening, lamp: Lamp, lens: LensPart) -> tuple[float, float, float]:
    """What is open of a lens, from it back to a lamp, and its focal length (mm)."""
    wide = width_mm(opening)
    hole = wide - 2.0 * (opening.lens.lip_mm if opening.lens is not None else 0.0)
    assert opening.lens is not None
    return max(hole, 0.1), behind_mm(opening, lamp), focal_mm(wide, dome_mm(opening.lens, wide, lens), lens.refraction)


def order_aside(catalogue: Catalogue, opening: Opening, lamp: Lamp, part: LampPart) -> float:
    """How a lens with a lamp behind it falls off to the sides: the m of cosᵐ."""
    lens = lens_of(catalogue, opening)
    if lens is None:
        return 1.0
    return falls_off(part.face_mm, *_seat(opening, lamp, lens))


def spot_at(opening: Opening, lamp: Lamp) -> tuple[float, float, float]:
    """Where that spot lies: a lens brings it to its own middle, a pane leaves it before the lamp."""
    if opening.lens is None:
        return lamp.at
    return opening.at


def stands_out(opening: Opening, side: str) -> bool:
    """Whether a dome is seen from the side in a view, edge-on."""
    return PLANES[opening.side][2] != PLANES[side][2]  # type: ignore[index]
