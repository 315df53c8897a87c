"""A lens in a hole, and the lamp behind it: how much of the lens flashes as bright as the lamp's own face.

Sources
-------
[1] Thin lenses (E. Hecht, Optics): a plano-convex one of surface radius R has f = R/(n − 1).
[2] Luminance is kept along a ray but for what is lost at the surfaces (the étendue is an invariant).
"""

from __future__ import annotations

import math
from typing import NamedTuple


def surface_radius_mm(width_mm: float, dome_mm: float) -> float:
    """Radius (mm) of the ball a dome of that width and height is cut from; infinite for a flat disc.

    A dome higher than half its width counts as half a ball.

    Parameters
    ----------
    width_mm : float
        Width of the dome, mm.
    dome_mm : float
        Its height, mm; 0 for a flat disc.

    Returns
    -------
    float
        Radius, mm.
    """
    half = width_mm / 2.0
    if dome_mm <= 0.0:
        return math.inf
    high = min(dome_mm, half)
    return (half * half + high * high) / (2.0 * high)


def focal_mm(width_mm: float, dome_mm: float, index: float) -> float:
    """Focal length (mm) of a plano-convex lens [1]_; infinite for a flat disc, or for what bends no light.

    Parameters
    ----------
    width_mm : float
        Width of the lens, mm.
    dome_mm : float
        Height of its dome, mm.
    index : float
        Refractive index, 1 at the least.

    Returns
    -------
    float
        Focal length, mm.

    Raises
    ------
    ValueError
        For an index below 1.
    """
    if index < 1.0:
        raise ValueError("an index of refraction is 1 or more")
    radius = surface_radius_mm(width_mm, dome_mm)
    return math.inf if math.isinf(radius) or index == 1.0 else radius / (index - 1.0)


def shown_mm(face_mm: float, width_mm: float, behind_mm: float, focal: float) -> float:
    """Diameter (mm) of the part of a lens that is as bright as the face of a lamp straight behind it, from far and straight on.

    Traced back from the eye, a ray that meets the lens h off its axis meets the face's plane at h·(1 − s/f): it is on the face for
    h up to a/|1 − s/f|. In the focus the whole lens flashes. The luminance is the face's own [2]_, so the intensity grows with the
    square of this diameter.

    Parameters
    ----------
    face_mm, width_mm : float
        Diameters of the lamp's face and of the lens.
    behind_mm : float
        From the lens back to the face.
    focal : float
        Focal length, mm; infinite for a flat pane.

    Returns
    -------
    float
        Diameter, mm; 0 to ``width_mm``.
    """
    stretch = 1.0 if math.isinf(focal) else abs(1.0 - behind_mm / focal)
    if stretch * width_mm <= face_mm:
        return width_mm
    return min(face_mm / stretch, width_mm)


def _overlap(a: float, b: float, apart: float) -> float:
    """Area that two rounds of radius ``a`` and ``b`` have in common, their middles ``apart``."""
    if apart >= a + b:
        return 0.0
    if apart <= abs(a - b):
        return math.pi * min(a, b) ** 2
    x = (apart**2 + a**2 - b**2) / (2.0 * apart)
    y = apart - x
    root = math.sqrt(max(a * a - x * x, 0.0))
    return a * a * math.acos(max(min(x / a, 1.0), -1.0)) + b * b * math.acos(max(min(y / b, 1.0), -1.0)) - apart * root


def aside(face_mm: float, width_mm: float, behind_mm: float, focal: float, degrees: float) -> float:
    """Intensity of a lens with a lamp behind it, seen from an angle, over that straight on.

    A ray traced back from the eye that meets the lens h off its axis meets the face's plane at h·(1 − s/f) − s·tan θ: the part of
    the lens that flashes wanders to its rim and off it, and is seen aslant [1]_, [2]_.

    Parameters
    ----------
    face_mm, width_mm, behind_mm, focal : float
        As for ``shown_mm`` (mm).
    degrees : float
        Between the line of sight and the axis, under 90.

    Returns
    -------
    float
        Ratio, 1 straight on.
    """
    angle = math.radians(degrees)
    if degrees >= 90.0:
        return 0.0
    shift = behind_mm * math.tan(angle)
    stretch = 1.0 if math.isinf(focal) else abs(1.0 - behind_mm / focal)
    if stretch < 1e-6:  # in the focus all of it flashes, or nothing
        return math.cos(angle) if shift < face_mm / 2.0 else 0.0
    lens, spot = width_mm / 2.0, face_mm / 2.0 / stretch
    return _overlap(lens, spot, shift / stretch) / _overlap(lens, spot, 0.0) * math.cos(angle)


class Front(NamedTuple):
    """A lens of a lamp's own.

    What is open of it and its focal length (mm), from it back to the lamp's face (mm), the share of light that it lets through, and that
    straight through.
    """

    width_mm: float
    focal_mm: float
    behind_mm: float
    transmittance: float
    straight: float


def through_front(face_mm: float, order: float, flux_lm: float, front: Front) -> tuple[float, float, float]:
    """A lamp's light behind a lens in a hole of its own.

    The hole takes in the cone that its rim spans from the lamp, 1 − cosᵐ⁺¹ of it; the luminance of the face is kept [2]_, so on the axis
    the intensity grows with the area that flashes; its beam is as narrow as what leaves allows.

    Parameters
    ----------
    face_mm : float
        Width of the lamp's lit face, mm.
    order : float
        Exponent m of its cosᵐ.
    flux_lm : float
        Its light, lm.
    front : Front
        The lens.

    Returns
    -------
    tuple[float, float, float]
        Exponent of the light that leaves the lens, light (lm), intensity on the axis (cd).
    """
    rim = math.cos(math.atan2(front.width_mm / 2.0, front.behind_mm))
    taken = flux_lm * (1.0 - rim ** (order + 1.0))
    bare = flux_lm * (order + 1.0) / (2.0 * math.pi)
    shown = shown_mm(face_mm, front.width_mm, front.behind_mm, front.focal_mm)
    axial = bare * (shown / face_mm) ** 2 * front.straight
    out = falls_off(face_mm, front.width_mm, front.behind_mm, front.focal_mm)
    leaves = taken * front.transmittance
    # All of the beam is no more than what leaves: where its rim cuts it off it is narrower than its half.
    return max(out, 2.0 * math.pi * axial / leaves - 1.0 if leaves > 0.0 else out), leaves, axial


def falls_off(face_mm: float, width_mm: float, behind_mm: float, focal: float) -> float:
    """The m of the cosᵐ that has half its intensity where a lens with a lamp behind it has, sizes as for ``shown_mm`` (mm).

    Parameters
    ----------
    face_mm : float
        Width of the lamp's lit face, mm.
    width_mm : float
        Width of the lens, mm.
    behind_mm : float
        From lens to lamp, mm.
    focal : float
        Focal length, mm.

    Returns
    -------
    float
        Exponent m, no unit.
    """
    low, high = 1.0, 89.0
    for _ in range(40):
        middle = 0.5 * (low + high)
        wide = aside(face_mm, width_mm, behind_mm, focal, middle) > 0.5
        low, high = (middle, high) if wide else (low, middle)
    return math.log(0.5) / math.log(math.cos(math.radians(0.5 * (low + high))))
