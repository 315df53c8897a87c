"""What the eye can pick out: points, spots, slits and areas, against what lies around them.

Sources
-------
[1] IALA Recommendation E200-2: E = 0.242·10⁻⁶·(1 + √(0.4·L))² lx, for an observer who isn't looking for it; a fifth of
    it is the fit of S. Hecht to M. Knoll, R. Tousey, E. Hulburt, JOSA 36 (1946).
[2] H. Blackwell, "Contrast thresholds of the human eye", JOSA 36 (1946), with a field factor: seen from 3 % of dark
    surroundings on (0.05 cd/m² added), from 1 % where they are lit.
[3] A. Ricco (1877): below an angle, luminance times solid angle is what counts.
"""

from __future__ import annotations

import math

CONTRAST, DARK_CD_M2 = (0.03, 0.01), 0.05
CONTRAST_CD_M2 = (0.3, 3.0)  # where it begins to fall, and where it has fallen
SEARCHED = 0.2  # of the threshold, for one who looks for it
JUST, CLEARLY, STRIKING = 1.0, 100.0, 1000.0  # times the threshold of a point
PANE_CLEAR = 5.0  # times what lies around a pane: clearly lit
SLIT = 0.79  # of the critical angle: a long line's width that is seen as well as an area


def point_threshold_lx(background_cd_m2: float) -> float:
    """Illuminance (lx) at the eye at which a point of light is just seen before a background [1]_.

    Parameters
    ----------
    background_cd_m2 : float
        Luminance of what lies behind the point, cd/m².

    Returns
    -------
    float
        Illuminance at the eye, lx.
    """
    return 0.242e-6 * (1.0 + math.sqrt(0.4 * background_cd_m2)) ** 2


def point_words(times: float) -> str:
    """What a point of so many times the threshold is to one who looks at the model.

    Parameters
    ----------
    times : float
        Illuminance at the eye over the threshold.

    Returns
    -------
    str
        Words for it.
    """
    if times < JUST:
        return "not seen"
    return "just seen" if times < CLEARLY else ("clearly seen" if times < STRIKING else "striking")


def visible_luminance(hull_cd_m2: float) -> float:
    """The least luminance (cd/m²) of an area that shows on a hull of luminance ``hull_cd_m2`` [2]_.

    Parameters
    ----------
    hull_cd_m2 : float
        Luminance of the hull around, cd/m².

    Returns
    -------
    float
        Luminance beside it that shows, cd/m².
    """
    return contrast(hull_cd_m2) * (hull_cd_m2 + DARK_CD_M2)


def contrast(hull_cd_m2: float) -> float:
    """The least contrast that shows on a hull of luminance ``hull_cd_m2`` (cd/m²): an eye in the light sees finer steps [2]_.

    Parameters
    ----------
    hull_cd_m2 : float
        Luminance of the hull around, cd/m².

    Returns
    -------
    float
        Least difference over the hull's luminance, no unit.
    """
    low, high = (math.log(x) for x in CONTRAST_CD_M2)
    lit = min(max((math.log(max(hull_cd_m2, 1e-9)) - low) / (high - low), 0.0), 1.0)
    return CONTRAST[0] + (CONTRAST[1] - CONTRAST[0]) * lit


def critical_angle_rad(hull_cd_m2: float) -> float:
    """Diameter (rad) of the smallest spot that is seen as an area is [3]_: 11′ before 0.32 cd/m².

    Parameters
    ----------
    hull_cd_m2 : float
        Luminance of the hull around, cd/m².

    Returns
    -------
    float
        Angle, rad.
    """
    point = SEARCHED * point_threshold_lx(hull_cd_m2)
    return math.sqrt(4.0 * point / (math.pi * visible_luminance(hull_cd_m2)))


def visible_spot(hull_cd_m2: float, solid_angle_sr: float) -> float:
    """The least luminance (cd/m²) of a spot of some solid angle (sr) that shows [3]_.

    Parameters
    ----------
    hull_cd_m2 : float
        Luminance of the hull around, cd/m².
    solid_angle_sr : float
        Solid angle of the spot from the eye, sr.

    Returns
    -------
    float
        Least luminance of the spot, cd/m².
    """
    least = visible_luminance(hull_cd_m2)
    point = SEARCHED * point_threshold_lx(hull_cd_m2)
    return least * max(1.0, point / (max(solid_angle_sr, 1e-15) * least))


def visible_slit(hull_cd_m2: float, width_mm: float, distance_m: float) -> float:
    """The least luminance (cd/m²) of a long line of some width that shows: 15 times an area's for 0.1 mm at 0.6 m.

    Parameters
    ----------
    hull_cd_m2 : float
        Luminance of the hull around, cd/m².
    width_mm : float
        Width of the line, mm.
    distance_m : float
        From the eye, m.

    Returns
    -------
    float
        Least luminance of the line, cd/m².
    """
    width = width_mm * 1e-3 / distance_m
    return visible_luminance(hull_cd_m2) * max(1.0, SLIT * critical_angle_rad(hull_cd_m2) / max(width, 1e-12))
