"""A photo as a meter: made linear, its vignetting taken out; and a camera to try it with.

Sources
-------
[1] IEC 61966-2-1: sRGB. A camera's own curve is only roughly that.
[2] Natural vignetting: cos⁴ of the angle to the axis, (1 + r²/f²)⁻² with r and f in px.
[3] P. Huber, Robust Statistics: a soft limit on what outliers weigh.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.colour.colour import LUMINANCE
from gwiazda.core.render.photomap import mapped
from gwiazda.core.render.tone import from_srgb, to_srgb

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]
Bytes = npt.NDArray[np.uint8]

CLIPPED = 250  # code value from which on a pixel tells only that it is brighter still
SHORTEST_F = 0.7  # of a lens in lengths of the picture's longer side: shorter ones bend lines
OUTLIER = 0.12  # of a logarithm: what is off by more than this weighs less and less
LEAST_FIT = 8  # openings: of fewer, a darkened corner and a dim lamp can't be told apart


def developed(code: Bytes) -> Array32:
    """Linear values (0–1) of a photo's code values (0–255), by sRGB [1]_.

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
    """Share of light (height, width) that natural vignetting leaves [2]_; all of it for an infinite focal length.

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

    Single openings that are off don't matter [3]_. A lens is only made out from eight openings on.

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
