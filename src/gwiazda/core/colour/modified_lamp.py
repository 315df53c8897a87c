"""A lamp as it is after work on it: capped, sanded, filed, tinted; its beam, light and colour at rated current."""

from __future__ import annotations

import math
from typing import NamedTuple

from gwiazda.core.colour.colour import linear_srgb, spectrum_of, xyz
from gwiazda.core.colour.tint import transmission
from gwiazda.core.light.lens import Front, through_front
from gwiazda.core.light.photometry import FROSTED_CAP_TRANSMITTANCE, beam_flux_lm, beam_order
from gwiazda.core.memo import memoize_by_value

SANDED_BEAM_DEG, SANDED_FLUX = 110.0, 0.85  # house values: dome off, left matt
FILED_FLUX = 0.95
LOWEST_MM = 0.3  # what filing leaves
ALL_ROUND = -1.0  # stands for the order of a lamp under a frosted cap


class Body(NamedTuple):
    """A lamp as it comes: size (mm), beam (full angle, degrees), intensity on the axis (mcd), flux (lm) and spectrum, at rated current.

    ``domed``: half a ball on top. ``flux_lm``: all of its light where the dome throws more than its beam. ``spectrum`` as (name, value) pairs.
    """

    size_mm: tuple[float, float, float]
    domed: bool
    beam_deg: float
    axial_mcd: float
    flux_lm: float
    spectrum: tuple[tuple[str, float], ...]


class Work(NamedTuple):
    """What was done to it; ``units`` of a strip; the lens ``front`` of it."""

    cap: bool = False
    sanded: bool = False
    filed_mm: float = 0.0
    tint: str = ""
    units: int = 1
    front: Front | None = None


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


@memoize_by_value(4096)
def modified(body: Body, work: Work) -> ModifiedLamp:
    """A lamp's beam and light after such work.

    Parameters
    ----------
    body : Body
    work : Work

    Returns
    -------
    ModifiedLamp

    Notes
    -----
    A beam of order m around its axis has I(0) = Φ·(m + 1)/(2π); what leaves evenly all round Φ/(4π). Shares lost are house values.
    """
    order = beam_order(body.beam_deg)
    beam = beam_flux_lm(body.axial_mcd * 1e-3, order) * work.units
    flux = max(beam, body.flux_lm * work.units)
    share, height = beam / flux, body.size_mm[2]
    if work.sanded:
        flux, share = flux * SANDED_FLUX, 1.0  # what went sideways in the dome leaves through the flat
        order = min(order, beam_order(SANDED_BEAM_DEG))
        if body.domed:
            height -= body.size_mm[0] / 2  # the dome is half a ball
    elif work.filed_mm > 0:
        flux *= FILED_FLUX
    height = max(height - work.filed_mm, LOWEST_MM)
    spectrum = spectrum_of(dict(body.spectrum))
    if work.tint:
        seen = spectrum * transmission(work.tint)
        flux *= float(xyz(seen)[1] / xyz(spectrum)[1])
        spectrum = seen
    if work.front is not None and not work.cap:
        bare = flux * (share + (1.0 - share) / (order + 1.0))
        order, flux, axial = through_front(min(body.size_mm[:2]), order, bare, work.front)
        even, beam = flux / (4.0 * math.pi), flux * (order + 1.0) / (2.0 * math.pi)
        share = min(max((axial - even) / (beam - even), 0.0), 1.0) if beam > even else 1.0
    if work.cap:
        flux *= FROSTED_CAP_TRANSMITTANCE
        order, share, axial = ALL_ROUND, 1.0, flux / (4.0 * math.pi)
    else:
        axial = flux * (share * (order + 1.0) / (2.0 * math.pi) + (1.0 - share) / (4.0 * math.pi))
    return ModifiedLamp(order, flux, axial, linear_srgb(spectrum), height, share)
