"""A lamp as it is after the bench has had its way: capped, sanded, filed, tinted."""

from __future__ import annotations

import math
from typing import NamedTuple

from gwiazda.core.colour.colour import linear_srgb, spectrum_of, xyz
from gwiazda.core.colour.tint import transmission
from gwiazda.core.light.photometry import FROSTED_CAP_TRANSMITTANCE, beam_flux_lm, beam_order
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.parts.catalogue import Catalogue, LampPart
from gwiazda.core.plan.model import Lamp

SANDED_BEAM_DEG, SANDED_FLUX = 110.0, 0.85  # house values: dome off, left matt
FILED_FLUX = 0.95
ALL_ROUND = -1.0  # stands for the order of a lamp under a frosted cap


class ModifiedLamp(NamedTuple):
    """At rated current: order of the beam (−1 all round), flux (lm), intensity on the axis (cd), colour, height (mm).

    ``beam_share`` of the flux leaves in the beam, the rest sideways out of the body, evenly all round.
    """

    order: float
    flux_lm: float
    axial_cd: float
    rgb: tuple[float, float, float]
    height_mm: float
    beam_share: float = 1.0


@memoize_by_value(1024)
def _worked(
    size: tuple[float, float, float],
    domed: bool,
    beam_deg: float,
    axial_mcd: float,
    flux_lm: float,
    light: tuple[tuple[str, float], ...],
    cap: bool,
    sanded: bool,
    filed_mm: float,
    tint: str,
    units: int,
) -> ModifiedLamp:
    order = beam_order(beam_deg)
    beam = beam_flux_lm(axial_mcd * 1e-3, order) * units
    flux = max(beam, flux_lm * units)
    share, height = beam / flux, size[2]
    if sanded:
        flux, share = flux * SANDED_FLUX, 1.0  # what went sideways in the dome leaves through the flat
        order = min(order, beam_order(SANDED_BEAM_DEG))
        if domed:
            height -= size[0] / 2  # the dome is half a ball
    elif filed_mm > 0:
        flux *= FILED_FLUX
    height = max(height - filed_mm, 0.3)
    spectrum = spectrum_of(dict(light))
    if tint:
        seen = spectrum * transmission(tint)
        flux *= float(xyz(seen)[1] / xyz(spectrum)[1])
        spectrum = seen
    if cap:
        flux *= FROSTED_CAP_TRANSMITTANCE
        order = ALL_ROUND
    if cap:
        axial, share = flux / (4.0 * math.pi), 1.0
    else:
        axial = flux * (share * (order + 1.0) / (2.0 * math.pi) + (1.0 - share) / (4.0 * math.pi))
    return ModifiedLamp(order, flux, axial, linear_srgb(spectrum), height, share)


def worked_part(part: LampPart, cap: bool, sanded: bool, filed_mm: float, tint: str, units: int) -> ModifiedLamp:
    """A part's light at rated current after such work; so many units of a strip."""
    # Values and not the id: the user's own parts may change under theirs.
    light = tuple(sorted(part.spectrum.items()))
    return _worked(
        part.size_mm,
        part.shape.domed,
        part.beam_deg,
        part.axial_mcd,
        part.flux_lm,
        light,
        cap,
        sanded,
        filed_mm,
        tint,
        units,
    )


@memoize_by_value(4096)
def _of(
    catalogue: Catalogue, part: str, cap: bool, sanded: bool, filed_mm: float, tint: str, units: int
) -> ModifiedLamp:
    return worked_part(catalogue.lamps[part], cap, sanded, filed_mm, tint, units)


def worked(catalogue: Catalogue, lamp: Lamp) -> ModifiedLamp:
    """The lamp's light at rated current; its part must be in the catalogue."""
    return _of(catalogue, lamp.part, lamp.frosted_cap, lamp.sanded, lamp.filed_mm, lamp.tint, lamp.units)


def rated_a(catalogue: Catalogue, lamp: Lamp) -> float:
    """Rated current (A) of the lamp, all its units together."""
    return catalogue.lamps[lamp.part].rated_ma * 1e-3 * lamp.units


def body_mm(catalogue: Catalogue, lamp: Lamp) -> tuple[float, float, float]:
    """Length, width and height of the body (mm), all units of a strip together, as worked."""
    length, width, _ = catalogue.lamps[lamp.part].size_mm
    return length * lamp.units, width, worked(catalogue, lamp).height_mm


def plain(part: LampPart) -> ModifiedLamp:
    """The part as it comes."""
    return worked_part(part, False, False, 0.0, "", 1)
