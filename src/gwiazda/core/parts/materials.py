"""What is worked with: glazings, lenses, sheet, paints, what kits are made of, adhesives, fibres, drills."""

from __future__ import annotations

import math
from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

from gwiazda.core.colour.hue import Wall
from gwiazda.core.light.scatter import Film, kubelka_munk
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.parts.tables import Basis, table_of

# One sigma of a density, of its typical value: of a coat (by the hand that lays it on), of a material (by the batch).
COAT_SPREAD, MATERIAL_SPREAD = 0.25, 0.15
LN10 = math.log(10.0)


class Glazing(NamedTuple):
    """Shares of light: through, scattered of what goes through, thrown back; ``straight`` through, seen straight on (as
    the diffuse share where it is left at 0)."""

    id: str
    name: str
    transmittance: float
    scattered: float
    reflectance: float
    straight: float = 0.0
    bought: str = ""  # what it is cut from; “liquid” where it is filled in
    basis: Basis = "typical"


class LensPart(NamedTuple):
    """What a lens is made from: its light as a glazing's, refractive index, dome (height over width) as it usually comes out, minutes of
    hands on, and hours of curing, once and for each mm of dome."""

    id: str
    name: str
    transmittance: float
    scattered: float
    reflectance: float
    straight: float
    refraction: float
    dome: float
    each_min: float
    wait_h: float = 0.0
    wait_h_mm: float = 0.0
    basis: Basis = "typical"


class SheetPart(NamedTuple):
    """A sheet that carriers are cut from, or the walls of a printed one; minutes to cut, drill and glue a piece."""

    id: str
    name: str
    thick_mm: float
    piece_min: float
    basis: Basis = "typical"


class Lining(NamedTuple):
    """What the inside is finished with: coats of a paint or a sheet; the bare plastic where ``coat`` is empty."""

    id: str
    name: str
    coat: str


class Coat(NamedTuple):
    """What blocks light, a coat of paint, a sheet, or a mm of a mass like putty.

    Whites scatter (``scatter``, ``absorb`` for each coat or mm), the others absorb (``density``, with the diffuse
    ``reflectance`` of the dry coat). ``spread`` is one sigma of the density, as a share, where it was measured. At 20 °C it may be handled after
    ``dry_h``, and takes the next coat after ``next_h`` (as long where that is 0); ``water``: damp air slows it.
    """

    id: str
    name: str
    kind: Literal["paint", "sheet", "mass"]
    density: float
    reflectance: float
    dry_h: float = 0.0
    basis: Basis = "typical"
    spread: float = 0.0
    scatter: float = 0.0
    absorb: float = 0.0
    conducts: bool = False
    next_h: float = 0.0
    water: bool = False

    def film(self, count: int, thickness_mm: float = 1.0) -> Film:
        """So many coats of it, a sheet of it, or so many mm."""
        amount = {"paint": float(count), "sheet": 1.0, "mass": thickness_mm}[self.kind]
        sigma = self.spread / self.density if self.spread and self.density else COAT_SPREAD
        if self.scatter > 0.0:
            t, r = kubelka_munk(self.scatter, self.absorb, amount)
            return Film(t, r, True, sigma * (1.0 - t) / LN10)
        t = 10.0 ** -(self.density * amount)
        return Film(t, min(self.reflectance, 1.0 - t), False, sigma * self.density * amount)


class MaterialKind(NamedTuple):
    """What materials of a kind have in common at the bench: whether they conduct, from where on they soften beside a joint (°C; 0: they
    don't), how long a hole takes against one in plastic, what to mind, and how else they are joined."""

    id: str
    name: str
    conducts: bool = False
    softens_c: float = 0.0
    softening: str = ""
    drill_times: float = 1.0
    drilling: str = ""
    joining: str = ""
    care: str = ""
    closings: tuple[str, ...] = ()  # that only this kind can have


@memoize_by_value()
def material_kinds() -> Mapping[str, MaterialKind]:
    """All kinds of material, by id."""
    return table_of("materials", MaterialKind, "kinds")


class Material(NamedTuple):
    """What a kit or a part of it is made of: what a wall lets through, and its diffuse reflectance outside. ``colour`` is the tint its light
    takes on (empty for a grey or a white), ``strength`` how much of it, 0 to 1."""

    id: str
    name: str
    kind: str
    density_per_mm: float
    reflectance: float
    basis: Basis = "typical"
    surface_density: float = 0.0
    scatter_per_mm: float = 0.0
    absorb_per_mm: float = 0.0
    colour: str = ""
    strength: float = 0.0

    @property
    def made(self) -> MaterialKind:
        """What its kind is like."""
        return material_kinds()[self.kind]

    @property
    def said(self) -> str:
        """Its name as one says it: plastics are known by their colour."""
        return f"{self.name} plastic" if self.kind == "plastic" else self.name

    def hue(self, wall_mm: float) -> Wall:
        """A wall of it as what colours light."""
        return Wall(self.density_per_mm, self.scatter_per_mm, self.absorb_per_mm, self.colour, self.strength, wall_mm)

    def film(self, wall_mm: float) -> Film:
        """A wall of it."""
        if self.scatter_per_mm > 0.0:
            t, r = kubelka_munk(self.scatter_per_mm, self.absorb_per_mm, wall_mm)
            return Film(t, r, True, MATERIAL_SPREAD * (1.0 - t) / LN10)
        density = self.surface_density + self.density_per_mm * wall_mm
        t = 10.0**-density
        return Film(t, min(self.reflectance, 1.0 - t), False, MATERIAL_SPREAD * density)

    @property
    def outside(self) -> float:
        """Diffuse reflectance as seen from outside."""
        return self.film(3.0).reflectance if self.scatter_per_mm > 0.0 else self.reflectance


class Adhesive(NamedTuple):
    """What holds: hours until handled, built upon, fully cured; what it attacks and how, where it is weak, and what it is the usual
    choice for (body, clear, fibre, lamp, wire, paint, moving parts); how it comes apart again."""

    id: str
    name: str
    handle_h: float
    next_h: float
    full_h: float
    takes_apart: str
    attacks: Mapping[str, str] = MappingProxyType({})
    weak: tuple[str, ...] = ()
    first_for: tuple[str, ...] = ()
    care: str = ""
    bonds: tuple[str, ...] = ()  # all it holds, where it melts one material only; empty for most things
    needs_light: bool = False  # sets only where light reaches the joint
    mind: str = ""  # the caution at its use


class FibrePart(NamedTuple):
    """A bare optical fibre; ``tint`` is the colour of its body, empty for a clear one."""

    id: str
    name: str
    diameter_mm: float
    tint: str = ""
    basis: Basis = "typical"


class DrillPart(NamedTuple):
    """A drill of one's own, of a size that no table has; ``diameter_mm``."""

    id: str
    name: str
    diameter_mm: float
    basis: Basis = "typical"
