"""Skins: what lies between the light inside a section and the eye outside, layer by layer."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.parts.catalogue import coats, linings, plastics
from gwiazda.core.plan.models import FACE_NAMES, Patch, Section


class SkinLayer(NamedTuple):
    """One layer: where it is (lining, inside, plastic, outside), its name, how much of it, density, reflectance."""

    where: str
    id: str
    name: str
    amount: str
    density: float
    reflectance: float


def plastic_of(section: Section, kit_plastic: str) -> str:
    return section.plastic or kit_plastic


def skin_of(section: Section, kit_plastic: str) -> tuple[SkinLayer, ...]:
    """A section's layers from inside out; what the catalogue hasn't got blocks nothing."""
    out = []
    lining = linings().get(section.lining)
    if lining is not None:
        count = 0 if lining.density == 0.0 else section.lining_coats
        words = f"{count} coat{'s' if count != 1 else ''}" if count else ""
        out.append(SkinLayer("lining", lining.id, lining.name, words, lining.density * count, lining.reflectance))
    for where, layers in (("inside", section.inside), ("outside", section.outside)):
        if where == "outside":
            plastic = plastics().get(plastic_of(section, kit_plastic))
            if plastic is not None:
                density = plastic.density_per_mm * section.wall_mm
                out.append(
                    SkinLayer("plastic", plastic.id, f"{plastic.name} plastic", f"{section.wall_mm:g} mm", density, plastic.reflectance)
                )  # fmt: skip
        for layer in reversed(layers) if where == "inside" else layers:
            coat = coats().get(layer.coat)
            if coat is not None:
                words = f"{layer.coats} coat{'s' if layer.coats != 1 else ''}"
                out.append(SkinLayer(where, coat.id, coat.name, words, coat.density * layer.coats, coat.reflectance))
    return tuple(out)


def skin_density(section: Section, kit_plastic: str) -> float:
    """Optical density of a section's wall: all its layers together."""
    return sum(layer.density for layer in skin_of(section, kit_plastic))


def lining_difference(section: Section, face: int) -> float:
    """What a face lined otherwise blocks more, or less, than the rest of its section."""
    table = linings()
    rest = table.get(section.lining)
    for other in section.face_linings:
        lining = table.get(other.lining)
        if FACE_NAMES.index(other.face) == face and lining is not None and rest is not None:
            return (lining.density - rest.density) * section.lining_coats
    return 0.0


def outside_reflectance(section: Section, kit_plastic: str) -> float:
    """Diffuse reflectance of a section as seen in room light: its last outside coat, or its plastic."""
    layers = skin_of(section, kit_plastic)
    return next((x.reflectance for x in reversed(layers) if x.where in ("outside", "plastic")), 0.5)


def material_density(coat_id: str, count: int, thickness_mm: float) -> float:
    """Density of what is laid on locally: coats of paint, a sheet, or so many mm of a mass."""
    coat = coats().get(coat_id)
    if coat is None:
        return 0.0
    return coat.density * {"paint": float(count), "sheet": 1.0, "mass": thickness_mm}[coat.kind]


def patch_density(patch: Patch) -> float:
    return material_density(patch.coat, patch.coats, patch.thickness_mm)
