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
# Loss of a 90° bend (dB) by its radius over the fibre's diameter, and what paint, glue or a sleeve make of it [2].
BEND_RATIOS, BEND_DB, HELD_DB = (6.0, 10.0, 15.0, 25.0), (3.0, 1.0, 0.3, 0.05), (4.5, 2.5, 1.2, 0.5)
GLOW_DB_MM, GLOW_OUT = 0.1, 0.5
MIX_CUT, MIX_POLISHED = 0.3, 0.1  # how far an end spreads the light over the fibre's aperture
DOME_DEG = 45.0  # half of the cone that leaves a tip melted round
CREASE = 6.0  # bent colder and tighter than this it whitens, and stays dark


def guided_share(order: float) -> float:
    """Share of a cosᵐ emitter's light within the fibre's acceptance [1].

    Parameters
    ----------
    order : float
        Exponent m of the emitter's cosᵐ.

    Returns
    -------
    float
        Share of its light, 0 to 1.
    """
    return 1.0 - float(math.cos(HALF_ANGLE) ** (order + 1.0))


def coupled_share(fibre_mm: float, face_mm: float, order: float, alignment: float = BUTTED) -> float:
    """Share of a lamp's light that one fibre on its evenly lit, flat round face takes in.

    Parameters
    ----------
    fibre_mm : float
        Outer diameter of the fibre, mm.
    face_mm : float
        Diameter of the lamp's face, mm.
    order : float
        Exponent m of the lamp's cosᵐ.
    alignment : float
        Share left by a face that isn't met squarely, 0 to 1.

    Returns
    -------
    float
        Share of the lamp's light, 0 to 1.

    Raises
    ------
    ValueError
        For a fibre thicker than the face or thinner than its own cladding.
    """
    if not CLADDING_MM < fibre_mm <= face_mm:
        raise ValueError("a fibre is thicker than its cladding and no thicker than the face")
    core = ((fibre_mm - CLADDING_MM) / fibre_mm) ** 2
    return (fibre_mm / face_mm) ** 2 * guided_share(order) * core * alignment


def domed_share(fibre_mm: float, aside_mm: float, face_mm: float, order: float) -> float:
    """Share of a domed lamp's beam that one fibre takes in, its middle ``aside_mm`` from the lamp's axis.

    The die with its cup is no point: its rays are traced through the dome (``dome``), and those that meet the fibre's core
    within its aperture go in. All fibres of a bundle together never take more than the beam has.

    Parameters
    ----------
    fibre_mm, aside_mm, face_mm : float
        Diameter of the fibre, distance of its middle from the lamp's axis, diameter of the dome (mm).
    order : float
        The beam's m, of cosᵐ.

    Returns
    -------
    float
        Share, 0 to 1.

    Raises
    ------
    ValueError
        For a fibre thinner than its own cladding.
    """
    from gwiazda.core.fibre.dome import share_into

    core_mm = _core_mm(fibre_mm)
    half_deg = math.degrees(math.acos(0.5 ** (1.0 / order)))
    return share_into(core_mm, aside_mm, face_mm, half_deg)


def _core_mm(fibre_mm: float) -> float:
    """Diameter of a fibre's core, mm.

    Raises
    ------
    ValueError
        For a fibre thinner than its own cladding.
    """
    if fibre_mm <= CLADDING_MM:
        raise ValueError("a fibre is thicker than its cladding")
    return fibre_mm - CLADDING_MM


def _bend_of(radius_over_d: float, table: tuple[float, ...]) -> float:
    """Loss (dB) of a 90° bend by a table, going on beyond its ends: as between its last two, and with the radius."""
    x, y = np.log(BEND_RATIOS), np.log(table)
    at = math.log(max(radius_over_d, 1.0))
    if at < x[0]:
        return math.exp(float(y[0] + (y[0] - y[1]) / (x[0] - x[1]) * (at - x[0])))
    loss = math.exp(float(np.interp(at, x, y)))
    return loss * min(BEND_RATIOS[-1] / radius_over_d, 1.0)


def bend_db(radius_over_d: float, held: bool = False, degrees: float = 90.0, warm: bool = True) -> float:
    """Loss (dB) of a bend, by its radius over the fibre's diameter; infinite for one bent cold and tighter than it bears.

    In free air next to nothing is lost from ten diameters on: the table is for one that lies in a model; ``held`` by paint,
    glue or a sleeve. The angle matters little: a turn twice as far costs a fifth more; under 45° the loss goes with it.
    Made ``warm`` the fibre may turn tighter than in the table: the loss goes on rising as between its last two entries.

    Parameters
    ----------
    radius_over_d : float
        Radius of the bend over the fibre's diameter.
    held : bool
        Whether paint, glue or a sleeve touches it.
    degrees : float
        By how much it turns, degrees.
    warm : bool
        Whether it was bent warm.

    Returns
    -------
    float
        Loss, dB.
    """
    if degrees <= 0.0:
        return 0.0
    if radius_over_d < CREASE and not warm:
        return math.inf
    loss = _bend_of(radius_over_d, BEND_DB)
    if held:
        tight = radius_over_d < BEND_RATIOS[0]
        loss = loss * HELD_DB[0] / BEND_DB[0] if tight else _bend_of(radius_over_d, HELD_DB)
    turn = max(degrees, 45.0) / 90.0
    return loss * float(turn ** math.log2(1.2)) * min(degrees / 45.0, 1.0)


class Loss(NamedTuple):
    """Where light is lost on its way, as factors one after the other.

    ``flux_lm`` is what leaves the tip, ``side_lm`` what a scratched length sends out sideways on the way, ``bend_lm`` what
    leaves it at its bends.
    """

    coupling: float
    near_end: float
    length: float
    bends: float
    sleeve: float
    side: float
    far_end: float
    tip: float
    flux_lm: float
    side_lm: float
    bend_lm: float


class Course(NamedTuple):
    """A fibre from end to end.

    Its length (mm); the loss of all its bends (dB, infinite: creased, dark); the share let through by the end at the lamp and the one at the
    tip; whether the tip was overheated; the length of scratched skin (mm); the share that tint and smoke on the tip let through.
    """

    length_mm: float
    bends_db: float = 0.0
    ends: tuple[float, float] = (CUT, CUT)
    overheated: bool = False
    glow_mm: float = 0.0
    tip: float = 1.0


def losses(flux_lm: float, coupling: float, course: Course) -> Loss:
    """The losses along a fibre that takes in ``coupling`` of a lamp's light (lm).

    Scratched skin loses a decibel each 10 mm, half of
    it out of the fibre and half back into the hull [2]; so it is with what bends lose. What leaves the tip and the side is never more than went in.

    Parameters
    ----------
    flux_lm : float
        Light of the lamp, lm.
    coupling : float
        Share of it that the fibre takes in.
    course : Course
        The fibre.

    Returns
    -------
    Loss
        What each loss leaves, as a share, and the light at the tip and out of the side, lm.
    """
    length_mm, bends_db, ends, overheated, glow_mm, tip = course
    length = 10.0 ** (-LOSS_DB_M * length_mm * 1e-3 / 10.0)
    bends = 10.0 ** (-bends_db / 10.0) if math.isfinite(bends_db) else 0.0
    sleeve = 10.0 ** (-OVERHEATED_DB / 10.0) if overheated else 1.0
    side = 10.0 ** (-GLOW_DB_MM * glow_mm / 10.0)
    there = flux_lm * coupling * ends[0] * length * bends * sleeve
    return Loss(
        coupling, ends[0], length, bends, sleeve, side, ends[1], tip, there * side * ends[1] * tip,
        there * (1.0 - side) * GLOW_OUT, flux_lm * coupling * ends[0] * length * (1.0 - bends) * GLOW_OUT,
    )  # fmt: skip


def at_tip(
    flux_lm: float, fibre_mm: float, face_mm: float, order: float, course: Course, alignment: float = BUTTED
) -> Loss:
    """Light (lm) that leaves a fibre's tip, with each loss on the way.

    Parameters
    ----------
    flux_lm : float
        Light of the lamp, lm.
    fibre_mm : float
        Outer diameter of the fibre, mm.
    face_mm : float
        Diameter of the lamp's flat face, mm.
    order : float
        Exponent m of the lamp's cosᵐ.
    course : Course
        The fibre.
    alignment : float
        Share left by a face that isn't met squarely, 0 to 1.

    Returns
    -------
    Loss
        What each loss leaves, as a share, and the light at the tip, lm.
    """
    coupling = coupled_share(fibre_mm, face_mm, order, alignment)
    return losses(flux_lm, coupling, course)


def taken_in_lm(lux: float, fibre_mm: float) -> float:
    """Light (lm) that a fibre's end takes in where light comes from all sides alike, as in a lit section.

    Of what falls evenly from all sides on a small face the share within half an angle a is sin² a: E·A·NA² [1]_.

    Parameters
    ----------
    lux : float
        Illuminance there, lx.
    fibre_mm : float
        Outer diameter of the fibre, mm.

    Returns
    -------
    float
        Light within the core and its aperture, lm.

    Raises
    ------
    ValueError
        For a fibre thinner than its own cladding.
    """
    core_m = _core_mm(fibre_mm) * 1e-3
    return lux * math.pi * core_m**2 / 4.0 * NA**2


def mixing(bends_db: float, polished: bool) -> float:
    """How far (0 to 1) bends and ends have spread the light evenly over the fibre's aperture.

    What a bend loses it has mixed as well [2].

    Parameters
    ----------
    bends_db : float
        Loss of all its bends, dB.
    polished : bool
        Whether its ends are polished.

    Returns
    -------
    float
        Share, 0 to 1.
    """
    kept = 10.0 ** (-bends_db / 10.0) if math.isfinite(bends_db) else 0.0
    return 1.0 - kept * (1.0 - (MIX_POLISHED if polished else MIX_CUT))


def tip_cd(flux_lm: float, order: float, mixed: float = 0.0, domed: bool = False) -> float:
    """Intensity (cd) on the axis of a tip that gives ``flux_lm``.

    A straight fibre keeps the lamp's angles, bends and rough ends ``mixed`` them (0 to 1) towards even over its aperture. A tip melted to a dome sends it evenly into a wider cone.

    Parameters
    ----------
    flux_lm : float
        Light out of the tip, lm.
    order : float
        Exponent m of the lamp's cosᵐ.
    mixed : float
        How far its light is spread over the aperture, 0 to 1.
    domed : bool
        Whether the tip is melted to a dome.

    Returns
    -------
    float
        Intensity on the axis, cd.
    """
    if domed:
        return flux_lm / (math.pi * math.sin(math.radians(DOME_DEG)) ** 2)
    kept = flux_lm * (order + 1.0) / (2.0 * math.pi * guided_share(order))
    even = flux_lm / (math.pi * NA**2)
    return kept + mixed * (even - kept)
