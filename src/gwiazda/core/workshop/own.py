"""New things of the user's own: a lamp fitted to its data sheet, a paint measured on swatches."""

from __future__ import annotations

import re

from gwiazda.core.circuit.parts.datasheet import Fit
from gwiazda.core.colour.swatch import Swatch
from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lamps import Family, LampPart
from gwiazda.core.parts.lights import LightKind
from gwiazda.core.parts.materials import Coat
from gwiazda.core.workshop.workshop import Workshop

DRY_H = 12.0


def _stem(name: str, otherwise: str) -> str:
    return re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower()[:60] or otherwise


def with_swatch(workshop: Workshop, name: str, swatch: Swatch, reflectance: float) -> tuple[Workshop, str]:
    """A measured paint among the coats; returns its id too."""
    coat_id = f"my-{_stem(name, 'paint')}"
    made = Coat(
        coat_id, name, "paint", round(swatch.density, 3), reflectance, DRY_H, "measured", round(swatch.spread, 3)
    )
    return workshop.with_coat(made), coat_id


def _new_id(catalogue: Catalogue, name: str) -> str:
    stem = _stem(name, "part")
    part_id, number = f"my-{stem}", 2
    while part_id in catalogue.lamps:
        part_id, number = f"my-{stem}-{number}", number + 1
    return part_id


def with_fitted(
    workshop: Workshop, part: LampPart, name: str, fit: Fit, beam_deg: float, axial_mcd: float, rated_ma: float
) -> tuple[Workshop, str]:
    """A part like ``part`` with a diode fitted to its data sheet, as measured; returns its id too."""
    catalogue = workshop.catalogue
    part_id = _new_id(catalogue, name)
    base = catalogue.families[part.family]
    family = Family(
        f"own-{part_id}", fit.volts(0.020), fit.volts(0.001), fit.rs_ohm, base.spread_v, base.k, base.knee, base.k_low,
        "measured",
    )  # fmt: skip
    made = part._replace(
        id=part_id, name=name, family=family.id, beam_deg=beam_deg, axial_mcd=axial_mcd, rated_ma=rated_ma, basis="measured",
        body="",
    )  # fmt: skip
    return workshop.with_lamps({part_id: made}, {family.id: family}), part_id


def with_kind_of_light(workshop: Workshop, kind: LightKind, name: str, means: str, colour: str) -> tuple[Workshop, str]:
    """A kind of light of one's own, made from another: its name, what carries it first, its colour; returns its id too.

    Raises
    ------
    PlanError
        Without a name.
    """
    name = " ".join(name.split())[:80]
    if not name:
        raise PlanError("Your kind of light", "it has no name", "a name such as “Stairwell lamp”")
    first = tuple(dict.fromkeys(m for m in (means, *kind.means) if m))
    colours = kind.colours if colour in kind.colours or not colour else (colour,)
    made = kind._replace(
        id=f"my-{_stem(name, 'light')}", name=name, group="your own", means=first, colours=colours, basis="measured"
    )
    return workshop.with_light_kind(made), made.id
