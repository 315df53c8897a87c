"""New things of the user's own: a lamp fitted to its data sheet, a paint measured on swatches."""

from __future__ import annotations

import re

from gwiazda.core.circuit.datasheet import Fit
from gwiazda.core.light.swatch import Swatch
from gwiazda.core.parts.catalogue import Coat, Family, LampPart
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


def with_fitted(
    workshop: Workshop, part: LampPart, name: str, fit: Fit, beam_deg: float, axial_mcd: float, rated_ma: float
) -> tuple[Workshop, str]:
    """A part like ``part`` with a diode fitted to its data sheet, as measured; returns its id too."""
    catalogue = workshop.catalogue
    stem = _stem(name, "part")
    part_id, number = f"my-{stem}", 2
    while part_id in catalogue.lamps:
        part_id, number = f"my-{stem}-{number}", number + 1
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
