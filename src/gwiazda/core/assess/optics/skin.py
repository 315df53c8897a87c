"""Skins: what lies between the light inside a section and the eye outside, layer by layer."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.light.leak import density_of
from gwiazda.core.light.scatter import Film, backed, through
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.materials import MaterialKind, material_kinds
from gwiazda.core.plan.frame import FACE_NAMES
from gwiazda.core.plan.model import Patch, Section

NOTHING = Film(1.0, 0.0, False)
UNKNOWN_BACK = 0.5


class SkinLayer(NamedTuple):
    """One layer: where it is (lining, inside, wall, outside), its name, how much of it, and its light."""

    where: str
    id: str
    name: str
    amount: str
    film: Film

    @property
    def density(self) -> float:
        """Optical density of the layer by itself."""
        return density_of(self.film.transmittance)

    @property
    def reflectance(self) -> float:
        return self.film.reflectance


def material_of(section: Section, kit_material: str) -> str:
    return section.material or kit_material


def made_of(catalogue: Catalogue, section: Section, kit_material: str) -> MaterialKind:
    """The kind of material a section is of; plastic where the catalogue hasn't got it."""
    material = catalogue.materials.get(material_of(section, kit_material))
    return material.made if material is not None else material_kinds()["plastic"]


def _counted(count: int) -> str:
    return f"{count} coat{'s' if count != 1 else ''}"


def _lining_layer(catalogue: Catalogue, section: Section, lining_id: str) -> list[SkinLayer]:
    lining = catalogue.linings.get(lining_id)
    coat = catalogue.coats.get(lining.coat) if lining is not None else None
    if lining is None or coat is None:
        return []
    words = _counted(section.lining_coats) if coat.kind == "paint" else ""
    return [SkinLayer("lining", lining.id, lining.name, words, coat.film(section.lining_coats))]


def _lining_on(section: Section, face: int | None) -> str:
    if face is not None:
        for other in section.face_linings:
            if FACE_NAMES.index(other.face) == face:
                return other.lining
    return section.lining


def skin_of(
    catalogue: Catalogue, section: Section, kit_material: str, face: int | None = None
) -> tuple[SkinLayer, ...]:
    """A section's layers from inside out, of one face or of all that aren't lined otherwise; what the catalogue hasn't
    got blocks nothing."""
    out = _lining_layer(catalogue, section, _lining_on(section, face))
    for where, layers in (("inside", section.inside), ("outside", section.outside)):
        if where == "outside":
            material = catalogue.materials.get(material_of(section, kit_material))
            if material is not None:
                name, words = material.said, f"{section.wall_mm:g} mm"
                out.append(SkinLayer("wall", material.id, name, words, material.film(section.wall_mm)))
        for layer in reversed(layers) if where == "inside" else layers:
            coat = catalogue.coats.get(layer.coat)
            if coat is not None:
                out.append(SkinLayer(where, coat.id, coat.name, _counted(layer.coats), coat.film(layer.coats)))
    return tuple(out)


def skin_density(catalogue: Catalogue, section: Section, kit_material: str, face: int | None = None) -> float:
    """Optical density of a section's wall: all its layers together."""
    return density_of(through(x.film for x in skin_of(catalogue, section, kit_material, face)))


def skin_sigma(catalogue: Catalogue, section: Section, kit_material: str) -> float:
    """Standard deviation of that density: coats err together, by one hand, and apart from the wall."""
    layers = skin_of(catalogue, section, kit_material)
    coats = sum(x.film.sigma for x in layers if x.where != "wall")
    wall = sum(x.film.sigma for x in layers if x.where == "wall")
    return float((coats**2 + wall**2) ** 0.5)


def lining_reflectance(catalogue: Catalogue, section: Section, kit_material: str, face: int | None = None) -> float:
    """What the inside of a wall throws back: its lining with what lies under it."""
    layers = skin_of(catalogue, section, kit_material, face)
    lining = catalogue.linings.get(_lining_on(section, face))
    if lining is None:
        return 0.0
    behind = 0.0
    for layer in reversed([x for x in layers if x.where != "outside"]):
        behind = backed(layer.film, behind)
    return min(behind, 0.98)


def bare_reflectance(catalogue: Catalogue, material_id: str) -> float:
    """Diffuse reflectance of the bare material as seen in room light."""
    material = catalogue.materials.get(material_id)
    return material.outside if material is not None else UNKNOWN_BACK


def outside_reflectance(catalogue: Catalogue, section: Section, kit_material: str) -> float:
    """Diffuse reflectance of a section as seen in room light: its outside coats over its material."""
    back = bare_reflectance(catalogue, material_of(section, kit_material))
    for layer in section.outside:
        coat = catalogue.coats.get(layer.coat)
        if coat is not None:
            back = backed(coat.film(layer.coats), back)
    return back


def material_film(catalogue: Catalogue, coat_id: str, count: int, thickness_mm: float) -> Film:
    """The light of what is laid on locally: coats of paint, a sheet, or so many mm of a mass."""
    coat = catalogue.coats.get(coat_id)
    return coat.film(count, thickness_mm) if coat is not None else NOTHING


def coat_density(catalogue: Catalogue, coat_id: str, count: int, thickness_mm: float) -> float:
    return density_of(material_film(catalogue, coat_id, count, thickness_mm).transmittance)


def patch_density(catalogue: Catalogue, patch: Patch) -> float:
    """Optical density that a patch adds to the wall it is laid on."""
    return coat_density(catalogue, patch.coat, patch.coats, patch.thickness_mm)
