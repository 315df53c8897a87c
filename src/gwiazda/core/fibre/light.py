"""Light from a lamp's face through a PMMA fibre to its tip, and where it is lost.

Sources
-------
[1] Etendue of a step-index fibre: what enters within its numerical aperture (0.5, 30° of half-angle) is guided; a lamp's
    face radiates as cosᵐ of the angle.
[2] House values of hobby fibre: 0.25 dB/m, a core 0.02 mm smaller than the fibre, ends cut 0.9 and polished 0.96, bends.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

NA, HALF_ANGLE = 0.5, math.radians(30.0)
LOSS_DB_M = 0.25
CLADDING_MM = 0.02
CUT, POLISHED = 0.9, 0.96
BUTTED, SLEEVED = 1.0, 0.6
OVERHEATED_DB = 3.0
# Loss of a 90° bend (dB) by its radius over the fibre's diameter, and what paint, glue or a sleeve make of it.
BEND_RATIOS, BEND_DB, HELD_DB = (6.0, 10.0, 15.0, 25.0), (3.0, 1.0, 0.3, 0.05), (4.5, 2.5, 1.2, 0.5)
CREASE = 6.0  # bent colder and tighter than this it whitens, and stays dark


def guided_share(order: float) -> float:
    """Share of a cosᵐ emitter's light within the fibre's acceptance [1]."""
    return 1.0 - float(math.cos(HALF_ANGLE) ** (order + 1.0))


def coupled_share(fibre_mm: float, face_mm: float, order: float, alignment: float = BUTTED) -> float:
    """Share of a lamp's light that one fibre on its evenly lit, flat round face takes in.

    Raises
    ------
    ValueError
        For a fibre thicker than the face or thinner than its own cladding.
    """
    if not CLADDING_MM < fibre_mm <= face_mm:
        raise ValueError("a fibre is thicker than its cladding and no thicker than the face")
    core = ((fibre_mm - CLADDING_MM) / fibre_mm) ** 2
    return (fibre_mm / face_mm) ** 2 * guided_share(order) * core * alignment


def bend_db(radius_over_d: float, held: bool = False, degrees: float = 90.0) -> float:
    """Loss (dB) of a bend made warm, by its radius over the fibre's diameter; infinite for what creases.

    In free air next to nothing is lost from ten diameters on: the table is for one that lies in a model; ``held`` by paint,
    glue or a sleeve. The angle matters little: a turn twice as far costs a fifth more.
    """
    if radius_over_d < CREASE:
        return math.inf
    table = HELD_DB if held else BEND_DB
    loss = math.exp(float(np.interp(math.log(radius_over_d), np.log(BEND_RATIOS), np.log(table))))
    if radius_over_d > BEND_RATIOS[-1]:
        loss *= BEND_RATIOS[-1] / radius_over_d
    return loss * (1.0 + 0.2 * math.log2(max(degrees, 1e-9) / 90.0)) if degrees > 22.5 else loss * degrees / 90.0


class Loss(NamedTuple):
    """Where light is lost on its way, as factors one after the other; ``flux_lm`` is what leaves the tip."""

    coupling: float
    near_end: float
    length: float
    bends: float
    sleeve: float
    far_end: float
    flux_lm: float


def at_tip(
    flux_lm: float, fibre_mm: float, face_mm: float, order: float, length_mm: float, bends_db: float = 0.0,
    alignment: float = BUTTED, ends: tuple[float, float] = (CUT, CUT), overheated: bool = False,
) -> Loss:  # fmt: skip
    """Light (lm) that leaves a fibre's tip, with each loss on the way.

    Parameters
    ----------
    flux_lm : float
        Of the lamp (lm); ``order`` is its m, ``face_mm`` its flat face.
    length_mm, bends_db : float
        Of the fibre, and the sum of its bends' losses (infinite: creased, dark).
    """
    coupling = coupled_share(fibre_mm, face_mm, order, alignment)
    length = 10.0 ** (-LOSS_DB_M * length_mm * 1e-3 / 10.0)
    bends = 10.0 ** (-bends_db / 10.0) if math.isfinite(bends_db) else 0.0
    sleeve = 10.0 ** (-OVERHEATED_DB / 10.0) if overheated else 1.0
    out = flux_lm * coupling * ends[0] * length * bends * sleeve * ends[1]
    return Loss(coupling, ends[0], length, bends, sleeve, ends[1], out)


def tip_cd(flux_lm: float, order: float, mixed: float = 0.0) -> float:
    """Intensity (cd) on the axis of a tip that gives ``flux_lm``: a straight fibre keeps the lamp's angles, bends and rough
    ends ``mixed`` them (0 to 1) towards even over its aperture."""
    kept = flux_lm * (order + 1.0) / (2.0 * math.pi * guided_share(order))
    even = flux_lm / (math.pi * NA**2)
    return kept + mixed * (even - kept)
