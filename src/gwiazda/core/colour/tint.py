"""Clear colours on a lamp's tip or a lens: transmission by wavelength, and what is seen through them.

Sources
-------
[1] Bouguer's law: n coats transmit t(λ)^n.
[2] CIE 015:2018: chromaticity, excitation purity.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.colour.colour import linear_srgb, observer, xyz

Array = npt.NDArray[np.float64]

# House values of one coat of clear colour: edges in nm (pass above the first, below the second), 12 nm soft.
EDGES: dict[str, tuple[float, float]] = {
    "red": (600.0, 900.0), "orange": (570.0, 900.0), "yellow": (515.0, 900.0), "green": (490.0, 570.0), "blue": (300.0, 490.0),
}  # fmt: skip
SOFT_NM, PEAK, FLOOR = 12.0, 0.90, 0.01
SMOKE = 0.45  # grey: the same for every wavelength
COLOURS = (*EDGES, "smoke")


class Seen(NamedTuple):
    """A light through tint coats: share of its light kept, linear sRGB of unit luminance, saturation 0 to 1."""

    kept: float
    rgb: tuple[float, float, float]
    richness: float


def through(spectrum: Array, tints: Sequence[tuple[str, int]]) -> Array:
    """Spectrum (81,) behind so many coats of each tint: transmission to the power of coats, wavelength by wavelength.

    Parameters
    ----------
    spectrum : array
        Power at the observer's wavelengths (81,), any unit.
    tints : Sequence[tuple[str, int]]
        Name of each tint and its coats.

    Returns
    -------
    array
        Spectrum (81,) in the same unit.
    """
    out = np.asarray(spectrum, dtype=float)
    for name, coats in tints:
        out = out * transmission(name) ** coats
    return out


def richness(xyz_found: Array) -> float:
    """Excitation purity: how far a colour lies from equal-energy white towards the spectral locus, 0 to 1.

    Parameters
    ----------
    xyz_found : array
        X, Y, Z (3,), any unit.

    Returns
    -------
    float
        Purity, 0 (white) to 1 (one wavelength).
    """
    total = float(xyz_found.sum())
    if total <= 0.0:
        return 0.0
    at = xyz_found[:2] / total - 1.0 / 3.0
    locus = observer()[1][:, :2] / np.maximum(observer()[1].sum(axis=1, keepdims=True), 1e-12) - 1.0 / 3.0
    # The line of purples closes the locus; 380 to 700 nm is where it is well defined.
    nodes = locus[(observer()[0] >= 400.0) & (observer()[0] <= 700.0)]
    ring = np.vstack([nodes, nodes[:1]])
    best = 0.0
    length = float(np.hypot(*at))
    if length < 1e-9:
        return 0.0
    unit = at / length
    for a, b in itertools.pairwise(ring):
        edge = b - a
        det = unit[0] * -edge[1] + unit[1] * edge[0]
        if abs(det) < 1e-12:
            continue
        s = (a[0] * -edge[1] + a[1] * edge[0]) / det
        t = (unit[0] * a[1] - unit[1] * a[0]) / det
        if s > 0.0 and -1e-6 <= t <= 1.0 + 1e-6:
            best = max(best, float(s))
    return min(length / best, 1.0) if best > 0.0 else 0.0


def seen(spectrum: Array, tints: Sequence[tuple[str, int]]) -> Seen:
    """What the eye gets of a lamp behind tint coats.

    Parameters
    ----------
    spectrum : array
        Power at the observer's wavelengths (81,), any unit.
    tints : Sequence[tuple[str, int]]
        Name of each tint and its coats.

    Returns
    -------
    Seen
        Share of the light left, and its colour.
    """
    behind = through(spectrum, tints)
    found = xyz(behind)
    kept = float(found[1] / xyz(spectrum)[1])
    return Seen(kept, linear_srgb(behind) if kept > 1e-9 else (1.0, 1.0, 1.0), richness(found))


def mixed(spectra: Sequence[Array], shares: Sequence[float]) -> Array:
    """Spectrum of several lamps behind one lens, ``shares`` being their light (lm).

    Parameters
    ----------
    spectra : Sequence[array]
        Spectrum (81,) of each lamp.
    shares : Sequence[float]
        Light of each, lm or in shares.

    Returns
    -------
    array
        Spectrum (81,) whose light is the sum of ``shares``.
    """
    out = np.zeros_like(observer()[0])
    for spectrum, share in zip(spectra, shares, strict=True):
        out = out + spectrum * (share / float(xyz(spectrum)[1]))
    return out


def transmission(tint: str) -> Array:
    """Transmission (81,) of one coat of a tint; ones for no tint. Raises KeyError for one that isn't known.

    Parameters
    ----------
    tint : str
        Its name.

    Returns
    -------
    array
        Share (81,), 0 to 1.
    """
    wavelength, _ = observer()
    if not tint:
        return np.ones_like(wavelength)
    if tint == "smoke":
        return np.full_like(wavelength, SMOKE)
    low, high = EDGES[tint]
    passed = 1.0 / (1.0 + np.exp(-(wavelength - low) / SOFT_NM)) / (1.0 + np.exp((wavelength - high) / SOFT_NM))
    return np.asarray(FLOOR + (PEAK - FLOOR) * passed)
