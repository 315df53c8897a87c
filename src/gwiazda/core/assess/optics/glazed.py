"""What an opening is closed with, as light meets it."""

from __future__ import annotations

from gwiazda.core.assess.optics.lenses import lens_pane
from gwiazda.core.assess.optics.skin import material_of
from gwiazda.core.light.glazing import Pane, stack
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Opening, Section


def pane_of(catalogue: Catalogue, opening: Opening, section: Section, lining: float, kit_material: str) -> Pane:
    """An opening's glazing with the diffusers behind it; nothing comes through one the catalogue hasn't got.

    Without a hole it is the wall itself, bare of paint on both sides, with the film that was laid on it.
    """
    if opening.lens is not None and not opening.into:
        names: tuple[str, ...] = ()
    else:
        names = (opening.glazing or ("open" if opening.into else section.glazing),)
    if not opening.hole:
        names = (opening.glazing,) if opening.glazing else ()
    if not opening.into:
        names += section.soften if opening.soften is None else opening.soften
    table = catalogue.glazings
    if any(n not in table for n in names):
        return Pane(0.0, 1.0, lining)
    # The diffusers are behind the glazing, so light from inside meets them first.
    layers = [
        Pane(g.transmittance, g.scattered, g.reflectance, g.straight) for g in (table[n] for n in reversed(names))
    ]
    if opening.lens is not None:
        layers.append(lens_pane(catalogue, opening, lining))
    if not opening.hole:
        material = catalogue.materials.get(material_of(section, kit_material))
        if material is None:
            return Pane(0.0, 1.0, lining)
        film = material.film(section.wall_mm)
        # What colours a plastic scatters in it: only clear ones let one look through.
        wall = Pane(film.transmittance, 0.0 if material.surface_density > 0 else 1.0, film.reflectance)
        layers.insert(len(layers) - (1 if opening.glazing else 0), wall)
    return stack(tuple(layers))
