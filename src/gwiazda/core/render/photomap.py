"""How a photo lies on a sheet: a projective map by points, and what the lens bends.

Sources
-------
[1] R. Hartley, A. Zisserman, Multiple View Geometry, 2nd ed., chapter 4: projective maps, and their covariance.
[2] P. Huber, Robust Statistics: a soft limit on what outliers weigh.
[3] D. C. Brown (1966), Decentering distortion of lenses: the first radial coefficient alone.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


def homography(source: Array, target: Array) -> Array:
    """The projective map (3, 3) that takes four points (4, 2) of a plane to those (4, 2) of a picture [1]_.

    Parameters
    ----------
    source : array
        Four points (4, 2).
    target : array
        Where they lie in the picture (4, 2), px.

    Returns
    -------
    array
        Matrix (3, 3), its last entry 1.
    """
    x, y, u, v = source[:, 0], source[:, 1], target[:, 0], target[:, 1]
    zero, one = np.zeros(4), np.ones(4)
    rows = np.vstack(
        [np.column_stack([x, y, one, zero, zero, zero, -u * x, -u * y]),
         np.column_stack([zero, zero, zero, x, y, one, -v * x, -v * y])]
    )  # fmt: skip
    return np.asarray(np.append(np.linalg.solve(rows, np.concatenate([u, v])), 1.0).reshape(3, 3))


class PhotoMap(NamedTuple):
    """From a sheet to a picture: a projective map (3, 3), then the lens.

    What lies at r from the picture's ``middle`` (in halves of its longer side) lies at r·(1 + bend·r²); below 0 a barrel [3]_.
    """

    matrix: Array
    bend: float = 0.0
    middle: tuple[float, float] = (0.0, 0.0)
    half: float = 1.0


def bent(points: Array, bend: float, middle: tuple[float, float], half: float) -> Array:
    """Where a lens puts what a pinhole would put at points (…, 2), px.

    Parameters
    ----------
    points : array
        Places in the picture of a pinhole (…, 2), px.
    bend : float
        As in ``PhotoMap``.
    middle : tuple
        Of the picture, px.
    half : float
        Half its longer side, px.

    Returns
    -------
    array
        Places (…, 2), px.
    """
    if bend == 0.0:
        return points
    u = (points - np.array(middle)) / half
    return np.asarray(points + u * (bend * half) * (u * u).sum(axis=-1, keepdims=True))


class Fitted(NamedTuple):
    """A map from a sheet to a picture, and what is not known of it.

    ``root`` (9, 9) makes the covariance of its ``parameters`` (9,); ``frame`` (middle right, down, half length) is what they belong to.
    """

    map: PhotoMap
    parameters: Array
    root: Array
    frame: tuple[float, float, float]

    def sigma_px(self, points: Array) -> Array:
        """One sigma (N,) of where points (N, 2) of the sheet lie in the picture, px, the worse of its two directions.

        Parameters
        ----------
        points : array
            Points of the sheet (N, 2), mm.

        Returns
        -------
        array
            Standard deviations (N,), px.
        """
        s = (points - np.array(self.frame[:2])) / self.frame[2]
        step, lens = 1e-5, (self.map.middle, self.map.half)
        base = _placed(self.parameters, s, *lens)
        each = np.stack([(_placed(self.parameters + step * e, s, *lens) - base) / step for e in np.eye(9)], axis=-1)
        return np.asarray(np.sqrt(((each @ self.root) ** 2).sum(axis=-1)).max(axis=-1))


def _placed(p: Array, s: Array, middle: tuple[float, float], half: float) -> Array:
    """Points (N, 2) of a sheet, in half lengths from its middle, in px: turned and of one scale, skewed, in perspective, bent by the lens."""
    a, b, x, y, c, d, g, h, bend = p
    u, v = (1.0 + c) * s[:, 0] + d * s[:, 1], d * s[:, 0] + (1.0 - c) * s[:, 1]
    w = 1.0 + g * s[:, 0] + h * s[:, 1]
    return bent(np.column_stack([x + (a * u - b * v) / w, y + (b * u + a * v) / w]), bend, middle, half)


# One sigma, before any point is known: a camera at arm's length, held some degrees askew, with a lens that bends by some hundredths at the edge.
SKEW, PERSPECTIVE, BEND = 0.05, 0.15, 0.015


def laid(
    sheet: Array, px: Array, sigma_px: Array | float, robust: bool = False, size: tuple[float, float] | None = None
) -> Fitted:
    """The likeliest map of a sheet onto a photo, from points that lie on both.

    Turn, place and scale are free; skew and perspective are small unless the points say otherwise, so that points nearly in a line,
    or two alone, don't make a wild one [1]_.

    Parameters
    ----------
    sheet, px : (N, 2) arrays, N ≥ 2
    sigma_px : float or (N,) array
        How far the points may be off.
    robust : bool
        Whether single points may be wrong altogether [2]_.
    size : (w, h), px
        Of the picture, for what its lens bends; without it nothing is bent.

    Returns
    -------
    Fitted
        The map and how sure it is.

    Raises
    ------
    ValueError
        For fewer than two, or all in one place.
    """
    from scipy.optimize import least_squares

    if len(sheet) < 2 or len(sheet) != len(px):
        raise ValueError("they are fewer than two")
    middle = (sheet.min(axis=0) + sheet.max(axis=0)) / 2.0
    half = float(np.ptp(sheet, axis=0).max()) / 2.0
    if not half > 0.0 or not float(np.ptp(px, axis=0).max()) > 1.0:
        raise ValueError("they are all in one place")
    s = (sheet - middle) / half
    p, q = ((z - z.mean(axis=0)) @ np.array([1.0, 1.0j]) for z in (s, px))
    k = complex(np.vdot(p, q) / np.vdot(p, p))
    if not abs(k) > 1.0:
        raise ValueError("they are not in the order of the openings they stand for")
    to = px.mean(axis=0) - np.array(
        [k.real * s[:, 0].mean() - k.imag * s[:, 1].mean(), k.imag * s[:, 0].mean() + k.real * s[:, 1].mean()]
    )
    start = np.array([k.real, k.imag, to[0], to[1], 0.0, 0.0, 0.0, 0.0, 0.0])
    each = np.broadcast_to(np.asarray(sigma_px, dtype=float), len(s))[:, None]
    prior = np.array([SKEW, SKEW, PERSPECTIVE, PERSPECTIVE, BEND if size is not None else 1e-9])
    wide, high = size or (2.0, 2.0)
    centre, longer = ((wide - 1.0) / 2.0, (high - 1.0) / 2.0), max(wide, high) / 2.0

    def off(x: Array) -> Array:
        return np.concatenate([((_placed(x, s, centre, longer) - px) / each).ravel(), x[4:] / prior])

    found = least_squares(off, start, loss="soft_l1" if robust else "linear", f_scale=3.0, x_scale="jac")
    _, scales, right = np.linalg.svd(found.jac, full_matrices=False)
    root = right.T / np.maximum(scales, 1e-12)
    a, b, x, y, c, d, g, h, bend = found.x
    into = np.array([[1.0, 0.0, -middle[0]], [0.0, 1.0, -middle[1]], [0.0, 0.0, half]]) / half
    turn = np.array([[a, -b], [b, a]]) @ np.array([[1.0 + c, d], [d, 1.0 - c]])
    full = np.array([
        [turn[0, 0] + x * g, turn[0, 1] + x * h, x], [turn[1, 0] + y * g, turn[1, 1] + y * h, y], [g, h, 1.0],
    ])  # fmt: skip
    lens = PhotoMap(full @ into, float(bend) if size is not None else 0.0, centre, longer)
    return Fitted(lens, found.x, root, (float(middle[0]), float(middle[1]), half))


def mapped(h: Array | PhotoMap, points: Array) -> Array:
    """Points (…, 2) through a projective map, and a lens where there is one.

    Parameters
    ----------
    h : array or PhotoMap
        Projective map (3, 3), alone or with its lens.
    points : array
        Points (…, 2).

    Returns
    -------
    array
        Where they go (…, 2).
    """
    if isinstance(h, PhotoMap):
        return bent(mapped(h.matrix, points), h.bend, h.middle, h.half)
    x = points[..., 0] * h[0, 0] + points[..., 1] * h[0, 1] + h[0, 2]
    y = points[..., 0] * h[1, 0] + points[..., 1] * h[1, 1] + h[1, 2]
    w = points[..., 0] * h[2, 0] + points[..., 1] * h[2, 1] + h[2, 2]
    return np.stack([x / w, y / w], axis=-1)
