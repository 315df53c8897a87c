"""A photo as a meter: laid on a view by points, made linear, its vignetting taken out; and a camera to try it with.

Sources
-------
[1] R. Hartley, A. Zisserman, Multiple View Geometry, 2nd ed., chapter 4: projective maps, and their covariance.
[2] IEC 61966-2-1: sRGB. A camera's own curve is only roughly that.
[3] Natural vignetting: cos⁴ of the angle to the axis, (1 + r²/f²)⁻² with r and f in px.
[4] P. Huber, Robust Statistics: a soft limit on what outliers weigh.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.colour.colour import LUMINANCE
from gwiazda.core.render.tone import from_srgb, to_srgb

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]
Bytes = npt.NDArray[np.uint8]

CLIPPED = 250  # code value from which on a pixel tells only that it is brighter still
SHORTEST_F = 0.7  # of a lens in lengths of the picture's longer side: shorter ones bend lines
OUTLIER = 0.12  # of a logarithm: what is off by more than this weighs less and less
LEAST_FIT = 8  # openings: of fewer, a darkened corner and a dim lamp can't be told apart


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


class Fitted(NamedTuple):
    """A projective map (3, 3) from a sheet to a picture, and what is not known of it.

    ``root`` (8, 8) makes the covariance of its ``parameters`` (8,); ``frame`` (middle right, down, half length) is what they belong to.
    """

    map: Array
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
        base, step = _placed(self.parameters, s), 1e-5
        each = np.stack([(_placed(self.parameters + step * e, s) - base) / step for e in np.eye(8)], axis=-1)
        return np.asarray(np.sqrt(((each @ self.root) ** 2).sum(axis=-1)).max(axis=-1))


def _placed(p: Array, s: Array) -> Array:
    """Points (N, 2) of a sheet, in half lengths from its middle, in px: turned and of one scale, skewed, in perspective."""
    a, b, x, y, c, d, g, h = p
    u, v = (1.0 + c) * s[:, 0] + d * s[:, 1], d * s[:, 0] + (1.0 - c) * s[:, 1]
    w = 1.0 + g * s[:, 0] + h * s[:, 1]
    return np.column_stack([x + (a * u - b * v) / w, y + (b * u + a * v) / w])


SKEW, PERSPECTIVE = (
    0.05,
    0.15,
)  # one sigma, before any point is known: a camera at arm's length, held some degrees askew


def laid(sheet: Array, px: Array, sigma_px: Array | float, robust: bool = False) -> Fitted:
    """The likeliest map of a sheet onto a photo, from points that lie on both.

    Turn, place and scale are free; skew and perspective are small unless the points say otherwise, so that points nearly in a line,
    or two alone, don't make a wild one [1]_.

    Parameters
    ----------
    sheet, px : (N, 2) arrays, N ≥ 2
    sigma_px : float or (N,) array
        How far the points may be off.
    robust : bool
        Whether single points may be wrong altogether [4]_.

    Returns
    -------
    Fitted
        The map (3, 3) and how sure it is.

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
    start = np.array([k.real, k.imag, to[0], to[1], 0.0, 0.0, 0.0, 0.0])
    each = np.broadcast_to(np.asarray(sigma_px, dtype=float), len(s))[:, None]
    prior = np.array([SKEW, SKEW, PERSPECTIVE, PERSPECTIVE])

    def off(x: Array) -> Array:
        return np.concatenate([((_placed(x, s) - px) / each).ravel(), x[4:] / prior])

    found = least_squares(off, start, loss="soft_l1" if robust else "linear", f_scale=3.0, x_scale="jac")
    _, size, right = np.linalg.svd(found.jac, full_matrices=False)
    root = right.T / np.maximum(size, 1e-12)
    a, b, x, y, c, d, g, h = found.x
    into = np.array([[1.0, 0.0, -middle[0]], [0.0, 1.0, -middle[1]], [0.0, 0.0, half]]) / half
    turn = np.array([[a, -b], [b, a]]) @ np.array([[1.0 + c, d], [d, 1.0 - c]])
    full = np.array([
        [turn[0, 0] + x * g, turn[0, 1] + x * h, x], [turn[1, 0] + y * g, turn[1, 1] + y * h, y], [g, h, 1.0],
    ])  # fmt: skip
    return Fitted(full @ into, found.x, root, (float(middle[0]), float(middle[1]), half))


def mapped(h: Array, points: Array) -> Array:
    """Points (…, 2) through a projective map.

    Parameters
    ----------
    h : array
        Projective map (3, 3).
    points : array
        Points (…, 2).

    Returns
    -------
    array
        Where they go (…, 2).
    """
    x = points[..., 0] * h[0, 0] + points[..., 1] * h[0, 1] + h[0, 2]
    y = points[..., 0] * h[1, 0] + points[..., 1] * h[1, 1] + h[1, 2]
    w = points[..., 0] * h[2, 0] + points[..., 1] * h[2, 1] + h[2, 2]
    return np.stack([x / w, y / w], axis=-1)


def developed(code: Bytes) -> Array32:
    """Linear values (0–1) of a photo's code values (0–255), by sRGB [2]_.

    Parameters
    ----------
    code : array of bytes
        sRGB code values, 0 to 255, any shape.

    Returns
    -------
    array
        Linear values, 0 to 1, of that shape.
    """
    return np.asarray(from_srgb(np.arange(256) / 255.0).astype(np.float32)[code])


def vignetting(height: int, width: int, focal_px: float) -> Array32:
    """Share of light (height, width) that natural vignetting leaves [3]_; all of it for an infinite focal length.

    Parameters
    ----------
    height : int
        Of the picture, px.
    width : int
        Of the picture, px.
    focal_px : float
        Focal length, px.

    Returns
    -------
    array
        Share (height, width), 1 in the middle.
    """
    y, x = np.ogrid[:height, :width]
    r2 = (x - (width - 1) / 2.0) ** 2 + (y - (height - 1) / 2.0) ** 2
    return ((1.0 + r2 / focal_px**2) ** -2).astype(np.float32)


def sampled(picture: Array32, points: Array) -> Array32:
    """Values (…, C) of a picture (h, w, C) at places (…, 2) right, down in px of pixel centres, between them linearly; NaN outside.

    Parameters
    ----------
    picture : array
        Values (h, w, C).
    points : array
        Places right and down (…, 2), px.

    Returns
    -------
    array
        Values (…, C).
    """
    h, w = picture.shape[:2]
    x, y = points[..., 0], points[..., 1]
    with np.errstate(invalid="ignore"):
        out = ~((x >= 0) & (y >= 0) & (x <= w - 1) & (y <= h - 1))
    x, y = np.where(out, 0.0, x), np.where(out, 0.0, y)
    i, j = np.minimum(y.astype(np.intp), h - 2), np.minimum(x.astype(np.intp), w - 2)
    a, b = (x - j).astype(np.float32)[..., None], (y - i).astype(np.float32)[..., None]
    found = (picture[i, j] * (1 - a) + picture[i, j + 1] * a) * (1 - b) + (
        picture[i + 1, j] * (1 - a) + picture[i + 1, j + 1] * a
    ) * b
    found[out] = np.nan
    return np.asarray(found)


class Exposure(NamedTuple):
    """What a photo's linear values are over luminance (per cd/m²), in the middle of it; ``focal_px`` infinite where no corner is darkened.

    ``spread`` is one sigma of the openings' logarithms about it: how well the prediction tells the photo.
    """

    per_cd_m2: float
    focal_px: float
    spread: float


def exposure_fitted(read: Array, said: Array, r_px: Array, longer_px: float) -> Exposure:
    """The exposure at which most openings look as predicted, and the darkening of corners that tells the rest.

    Single openings that are off don't matter [4]_. A lens is only made out from eight openings on.

    Parameters
    ----------
    read, said : (N,) arrays
        Linear values and predicted luminances (cd/m²), all above 0.
    r_px : (N,) array
        Distances from the picture's middle.
    longer_px : float
        The longer side of the picture.

    Returns
    -------
    Exposure
        Linear value of a cd/m² in the middle, the lens, and which openings are off.

    Raises
    ------
    ValueError
        Where there is none.
    """
    if len(read) == 0:
        raise ValueError("no opening to fit to")
    ratio = np.log(read) - np.log(said)
    level = float(np.median(ratio))
    focal = np.inf
    if len(read) >= LEAST_FIT and np.ptp(r_px) > 0.15 * longer_px:
        from scipy.optimize import least_squares

        shortest = SHORTEST_F * longer_px
        r2 = (r_px / shortest) ** 2

        def off(p: Array) -> Array:
            return np.asarray(ratio - p[0] + 2.0 * np.log1p(p[1] * r2))

        found = least_squares(off, [level, 0.2], bounds=([-60.0, 0.0], [60.0, 1.0]), loss="soft_l1", f_scale=OUTLIER).x
        level = float(found[0])
        focal = shortest / float(np.sqrt(found[1])) if found[1] > 1e-3 else np.inf
        ratio = off(found) + level
    spread = 1.4826 * float(np.median(np.abs(ratio - level)))
    return Exposure(float(np.exp(level)), focal, spread)


class Spot(NamedTuple):
    """Light where none should be: its place and size (px of the picture looked at), its peak and its sum over its area."""

    x: float
    y: float
    left: int
    top: int
    right: int
    bottom: int
    peak: float
    mean: float


def spots(
    picture: Array32, looked_at: npt.NDArray[np.bool_], least: float, sigmas: float = 6.0, least_px: int = 4
) -> tuple[list[Spot], float]:
    """Patches of a picture (h, w) that stand out of its noise and above ``least``, brightest first; and from which value on they do.

    The noise is that of the part looked at: its median absolute deviation after smoothing, so that a few patches don't matter.
    Patches nearer than two pixels are one.

    Parameters
    ----------
    picture : array
        Linear values (h, w).
    looked_at : array of bool
        Which pixels count (h, w).
    least : float
        Least value of a spot, in the picture's unit.
    sigmas : float
        How many times the noise it stands out.
    least_px : int
        Least area, px.

    Returns
    -------
    tuple[list[Spot], float]
        Spots, and the least value that counted.
    """
    from scipy import ndimage

    if not looked_at.any():
        return [], float(least)
    clean = np.where(looked_at, picture, 0.0).astype(np.float32)
    smooth = ndimage.gaussian_filter(clean, 1.0)
    weight = ndimage.gaussian_filter(looked_at.astype(np.float32), 1.0)
    smooth = np.where(looked_at, smooth / np.maximum(weight, 1e-3), 0.0)
    inside = smooth[looked_at]
    middle = float(np.median(inside))
    noise = 1.4826 * float(np.median(np.abs(inside - middle)))
    floor = max(float(least), middle + sigmas * noise)
    over = looked_at & (smooth > floor)
    labels, count = ndimage.label(ndimage.binary_dilation(over, iterations=1, mask=looked_at))
    out = []
    for k, where in enumerate(ndimage.find_objects(labels, count), start=1):
        mine = (labels[where] == k) & over[where]
        if int(mine.sum()) < least_px:
            continue
        rows, columns = where
        values = np.where(mine, smooth[where], 0.0)
        y, x = np.unravel_index(int(np.argmax(values)), values.shape)
        total = float(values.sum())
        grid_y, grid_x = np.mgrid[rows, columns]
        out.append(
            Spot(
                float((grid_x * values).sum() / total), float((grid_y * values).sum() / total),
                columns.start, rows.start, columns.stop, rows.stop, float(values[y, x]), total / int(mine.sum()),
            )
        )  # fmt: skip
    return sorted(out, key=lambda s: -s.peak), floor


def photographed(
    luminance: Array32, to_photo: Array, size: tuple[int, int], per_cd_m2: float, seed: int, focal_px: float = np.inf,
    noise: float = 0.004,
) -> Bytes:  # fmt: skip
    """A photo (h, w, 3) as a plain camera would take it: perspective, darkened corners, shot and read noise, clipping, sRGB.

    Parameters
    ----------
    luminance : (3, H, W) array
        Linear sRGB planes in cd/m².
    to_photo : (3, 3) array
        From pixels of ``luminance`` to those of the photo.
    size : (w, h) of the photo
    per_cd_m2 : float
        Linear value of a cd/m² in the middle; 1 is where it clips.
    seed : int
        Of the noise.
    focal_px : float
        Of the lens; infinite darkens no corner.
    noise : float
        One sigma of the read noise, in linear values; shot noise is of a well of 20,000 electrons.

    Returns
    -------
    array of bytes
        sRGB code values (h, w, 3).
    """
    width, height = size
    back: Array = np.asarray(np.linalg.inv(to_photo), dtype=float)
    grid = np.stack(np.meshgrid(np.arange(width, dtype=float), np.arange(height, dtype=float)), axis=-1)
    found = np.nan_to_num(sampled(np.moveaxis(luminance, 0, -1), mapped(back, grid)))
    found = found * (per_cd_m2 * vignetting(height, width, focal_px))[..., None]
    rng = np.random.default_rng(seed)
    full_well = 20_000.0
    shot = rng.standard_normal(found.shape, dtype=np.float32) * np.sqrt(np.maximum(found, 0.0) / full_well)
    found = found + shot + noise * rng.standard_normal(found.shape, dtype=np.float32)
    return np.asarray((to_srgb(np.clip(found, 0.0, 1.0).astype(float)) * 255.0 + 0.5).astype(np.uint8))


def grey_of(linear: Array32) -> Array32:
    """Luminance (…) of linear sRGB values (…, 3).

    Parameters
    ----------
    linear : array
        Linear sRGB (…, 3).

    Returns
    -------
    array
        Luminance (…), in the same unit.
    """
    return np.asarray(linear @ LUMINANCE.astype(np.float32))
