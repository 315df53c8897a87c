"""Lamps as beams: direct light, I = I0·cosᵐα, of points that look along an axis.

Sources
-------
[1] The inverse square and cosine laws; order m from the beam's half angle as in ``photometry``.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.radiosity.shadow import Baffle, blocked

Array = npt.NDArray[np.float64]
OFF_WALL_MM = 0.05


class Beams(NamedTuple):
    """L emitters: places (L, 3) in mm from the box's lowest corner, aims (L, 3), orders (L,); below zero all round."""

    at: Array
    aim: Array
    order: Array


def _power(cosine: Array, order: Array) -> Array:
    """``cosine ** order`` along the last axis, or the first for orders (n, 1); half of all lamps have 1, which is free."""
    values = set(order.ravel().tolist())
    if len(values) == 1:
        value = values.pop()
        return cosine if value == 1.0 else np.asarray(cosine**value)
    out = cosine.copy()
    for value in values - {1.0}:
        mine = np.flatnonzero(order.ravel() == value)
        if order.ndim == 2:
            out[mine] = cosine[mine] ** value
        else:
            out[:, mine] = cosine[:, mine] ** value
    return out


def lux_of(d: tuple[Array, Array, Array], toward: Array, aim: Array, order: Array) -> Array:
    """Illuminance (lx) for 1 lm: ``d`` from lamp to point along x, y, z (mm), ``toward`` its length against the normal.

    ``aim`` (…, 3) of length 1 and ``order`` are the lamps'; orders below zero shine evenly all round.

    Parameters
    ----------
    d : tuple[array, array, array]
        From lamp to point along x, y and z, each of one shape, mm.
    toward : array
        Length of that against the surface's normal, same shape, mm.
    aim : array
        Axes of the lamps (…, 3), of length 1.
    order : array
        Exponent m of their cosᵐ; below zero for all round.

    Returns
    -------
    array
        Illuminance, lx for 1 lm, of the shape they broadcast to.
    """
    x, y, z = d
    r2 = x * x + y * y + z * z
    np.maximum(r2, 1e-6, out=r2)
    r = np.sqrt(r2)
    around = order < 0.0
    m = np.where(around, 0.0, order)
    cos_a = x * aim[..., 0] + y * aim[..., 1] + z * aim[..., 2]
    before = cos_a > 0.0
    np.maximum(cos_a, 0.0, out=cos_a)
    cos_a /= r
    lux = _power(cos_a, m) * ((m + 1.0) * (1e6 / (2.0 * np.pi)))
    # Order 0 gives light in all of the half before it, and none behind.
    lux *= before
    if around.any():
        lux = np.where(around, 1e6 / (4.0 * np.pi), lux)
    lux *= np.maximum(toward, 0.0)
    r2 *= r
    lux /= r2
    return np.asarray(lux)


def illuminance(points: Array, normal: Array, beams: Beams, baffles: Sequence[Baffle]) -> Array:
    """Illuminance (lx) of points (P, 3) with normals (P, 3) along an axis for 1 lm of each lamp: (P, L).

    Parameters
    ----------
    points : array
        Where it is asked (P, 3), mm.
    normal : array
        Normals there (P, 3).
    beams : Beams
        The lamps, L of them.
    baffles : Sequence[Baffle]
        Boxes that cast shadows.

    Returns
    -------
    array
        Illuminance (P, L), lx for 1 lm.
    """
    x, y, z = (points[:, i, None] - beams.at[None, :, i] for i in range(3))
    aim = beams.aim / np.linalg.norm(beams.aim, axis=1, keepdims=True)
    n = -normal
    toward = x * n[:, 0, None] + y * n[:, 1, None] + z * n[:, 2, None]
    lux = lux_of((x, y, z), toward, aim, beams.order)
    if baffles:
        lux *= ~blocked(beams.at[None], points[:, None, :], baffles)
    return lux


def within(beams: Beams, size: Array) -> Beams:
    """Lamps brought a hair inside the box: one that touches a wall still lights the others.

    Parameters
    ----------
    beams : Beams
        The lamps.
    size : array
        Size of the box (3,), mm.

    Returns
    -------
    Beams
        The lamps, moved.
    """
    least = np.minimum(OFF_WALL_MM, size / 4.0)
    return beams._replace(at=np.clip(beams.at, least, size - least))
