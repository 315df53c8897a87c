"""A domed lamp's light where a fibre meets its top: the die with its cup traced through the dome, and what was tabulated of it.

Sources
-------
[1] Snell's law at a hemisphere of resin, n 1.5; Fresnel's losses left out: they are alike for all rays that matter.
[2] House values: the die with its reflector cup is seen as an even disc of 0.9 mm, as deep in the body as its beam asks for.
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from gwiazda.core.fibre.dome_table import FACES, HALF_ANGLES_DEG, RADII, SHARES
from gwiazda.core.memo import memoize_by_value

Array = npt.NDArray[np.float64]
N, DIE_MM = 1.5, 0.9
ACCEPTED = math.cos(math.radians(30.0))


def traced(face_mm: float, depth_mm: float, rays: int = 200_000, die_mm: float = DIE_MM) -> tuple[Array, Array]:
    """Rays of a disc through a hemisphere, where they cross the plane that touches its top.

    Parameters
    ----------
    face_mm : float
        Diameter of the dome (mm).
    depth_mm : float
        How far behind the dome's centre the disc lies (mm).
    rays : int
        How many are traced.
    die_mm : float
        Diameter of the disc (mm).

    Returns
    -------
    radius, cosine : (n,) arrays
        Distance from the axis (mm) and cosine to it, of those that leave the dome forward; each of the disc's ``rays`` carries
        as much of its light.
    """
    from scipy.stats import qmc

    u = qmc.Sobol(4, seed=1, scramble=True).random(1 << math.ceil(math.log2(rays)))
    r, turn = die_mm / 2.0 * np.sqrt(u[:, 0]), 2.0 * np.pi * u[:, 1]
    # As cos of the angle from the disc, inside of the resin.
    sine = np.sqrt(u[:, 2])
    d = np.stack(
        [sine * np.cos(2.0 * np.pi * u[:, 3]), sine * np.sin(2.0 * np.pi * u[:, 3]), np.sqrt(1.0 - u[:, 2])], 1
    )
    p = np.stack([r * np.cos(turn), r * np.sin(turn), np.full(len(r), -depth_mm)], 1)
    radius = face_mm / 2.0
    b = (p * d).sum(1)
    c = (p * p).sum(1) - radius**2
    way = -b + np.sqrt(np.maximum(b * b - c, 0.0))
    hit = p + way[:, None] * d
    normal = hit / radius
    # Below the dome's rim the body is a cylinder, which sends light aside: that is no part of the beam.
    inside = hit[:, 2] > 0.0
    cos_in = (d * normal).sum(1)
    k = 1.0 - N**2 * (1.0 - cos_in**2)
    out = N * d + (np.sqrt(np.maximum(k, 0.0)) - N * cos_in)[:, None] * normal
    ok = inside & (k > 0.0) & (out[:, 2] > 1e-6)
    hit, out = hit[ok], out[ok]
    far = (radius - hit[:, 2]) / out[:, 2]
    at = hit[:, :2] + far[:, None] * out[:, :2]
    return np.hypot(at[:, 0], at[:, 1]), out[:, 2]


def half_angle_of(cosine: Array) -> tuple[float, float]:
    """Angle (degrees) at which traced rays have half their intensity on the axis, and rays a steradian on the axis.

    Parameters
    ----------
    cosine : array
        Cosine to the axis of each traced ray (N,).

    Returns
    -------
    tuple[float, float]
        Angle, degrees, and rays a steradian.
    """
    edges = np.cos(np.radians(np.arange(0.0, 91.0, 3.0)))
    count = np.histogram(cosine, edges[::-1])[0][::-1]
    per_sr = count / (2.0 * np.pi * (edges[:-1] - edges[1:]))
    axis = float(per_sr[:2].mean())
    middle = np.arange(1.5, 90.0, 3.0)
    below = np.flatnonzero(per_sr < 0.5 * axis)
    if not len(below):
        return 90.0, axis
    k = max(int(below[0]), 1)
    a, b = per_sr[k - 1], per_sr[k]
    return float(middle[k - 1] + 3.0 * (a - 0.5 * axis) / max(a - b, 1e-9)), axis


def profile(face_mm: float, half_angle_deg: float, rays: int = 200_000) -> Array:
    """Share of the beam that crosses within each of ``RADII`` (of the dome's radius) and within a fibre's acceptance.

    Parameters
    ----------
    face_mm : float
        Diameter of the dome, mm.
    half_angle_deg : float
        Between the axis and the direction of half intensity, degrees.
    rays : int
        How many are traced.

    Returns
    -------
    array
        Shares, one for each of ``RADII``.
    """
    low, high = 0.0, 1.5 * face_mm
    for _ in range(18):  # the deeper the die, the narrower the beam
        middle = 0.5 * (low + high)
        low, high = (
            (middle, high) if half_angle_of(traced(face_mm, middle, 1 << 16)[1])[0] > half_angle_deg else (low, middle)
        )
    radius, cosine = traced(face_mm, 0.5 * (low + high), rays)
    axis = half_angle_of(cosine)[1]
    order = math.log(0.5) / math.log(math.cos(math.radians(half_angle_deg)))
    beam = 2.0 * math.pi * axis / (order + 1.0)
    taken = np.sort(radius[cosine >= ACCEPTED])
    shares = np.searchsorted(taken, np.array(RADII) * face_mm / 2.0) / beam
    # A dome too small for so narrow a beam sends none: what it sends is then at most all of it.
    return np.asarray(shares / max(float(shares[-1]), 1.0))


@memoize_by_value(64)
def _within(face_mm: float, half_angle_deg: float) -> Array:
    """``profile`` from the table, between its entries."""
    table = np.array(SHARES)
    x = np.clip(math.log(face_mm), math.log(FACES[0]), math.log(FACES[-1]))
    faces = np.log(FACES)
    i = min(int(np.searchsorted(faces, x, side="right")) - 1, len(FACES) - 2)
    j = min(max(int(np.searchsorted(HALF_ANGLES_DEG, half_angle_deg, side="right")) - 1, 0), len(HALF_ANGLES_DEG) - 2)
    s = (x - faces[i]) / (faces[i + 1] - faces[i])
    t = np.clip((half_angle_deg - HALF_ANGLES_DEG[j]) / (HALF_ANGLES_DEG[j + 1] - HALF_ANGLES_DEG[j]), 0.0, 1.0)
    return np.asarray(
        (1 - s) * ((1 - t) * table[i, j] + t * table[i, j + 1])
        + s * ((1 - t) * table[i + 1, j] + t * table[i + 1, j + 1])
    )


def share_into(core_mm: float, aside_mm: float, face_mm: float, half_angle_deg: float) -> float:
    """Share of a domed lamp's beam that crosses a round of ``core_mm`` (diameter) at its top within a fibre's acceptance.

    Parameters
    ----------
    core_mm, aside_mm : float
        The fibre's core, and how far its middle lies from the lamp's axis (mm).
    face_mm, half_angle_deg : float
        The lamp's dome (mm), and the angle at which its intensity is half of that on the axis.

    Returns
    -------
    float
        Share, 0 to 1.
    """
    within = _within(face_mm, half_angle_deg)
    r = np.linspace(0.0, aside_mm + core_mm / 2.0, 97)
    total = np.interp((2.0 * r / face_mm) ** 2, np.square(RADII), within)  # even light goes with the area
    middle, a, s = 0.5 * (r[1:] + r[:-1]), core_mm / 2.0, aside_mm
    if s < 1e-9:
        covered = (middle <= a).astype(float)
    else:
        cosine = (middle**2 + s**2 - a**2) / (2.0 * middle * s)
        covered = np.arccos(np.clip(cosine, -1.0, 1.0)) / math.pi
    return float((np.diff(total) * covered).sum())
