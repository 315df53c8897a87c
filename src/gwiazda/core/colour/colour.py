"""Colour of lamps: spectrum → CIE XYZ → linear sRGB of unit luminance.

Sources
-------
[1] CIE 015:2018, Colorimetry: 1931 2° observer (table in ``data``, from the colour-science package).
[2] IEC 61966-2-1: sRGB.
[3] M. Planck's law for the chromaticity of a colour temperature, c2 = 1.4388e-2 m·K.
"""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import numpy as np
import numpy.typing as npt

from gwiazda.core.memo import memoize_by_value

Array = npt.NDArray[np.float64]

XYZ_TO_SRGB = np.array(
    [
        [3.2404542, -1.5371385, -0.4985314],
        [-0.9692660, 1.8760108, 0.0415560],
        [0.0556434, -0.2040259, 1.0572252],
    ]
)
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])  # of the sRGB primaries
PUMP_NM, PUMP_WIDTH_NM, PHOSPHOR_WIDTH_NM = 450.0, 22.0, 115.0


@memoize_by_value()
def observer() -> tuple[Array, Array]:
    """Wavelengths (81,) in nm and the colour-matching functions (81, 3) [1]_."""
    path = Path(__file__).parent / "data" / "cie1931_2deg_5nm.csv"
    rows = [r.split(",") for r in path.read_text().splitlines() if r and r[0].isdigit()]
    table = np.array(rows, dtype=float)
    return table[:, 0], table[:, 1:]


def gaussian(peak_nm: float, width_nm: float) -> Array:
    """Spectrum (81,) of a coloured lamp: a Gaussian of full width at half maximum ``width_nm``.

    Parameters
    ----------
    peak_nm : float
        Wavelength of the peak, nm.
    width_nm : float
        Full width at half maximum, nm.

    Returns
    -------
    array
        Spectrum (81,), 1 at its peak, at the wavelengths of ``observer``.
    """
    wavelength, _ = observer()
    return np.asarray(np.exp(-4.0 * np.log(2.0) * ((wavelength - peak_nm) / width_nm) ** 2))


def xyz(spectrum: Array) -> Array:
    """CIE XYZ (3,) of a spectrum (81,), unnormalised.

    Parameters
    ----------
    spectrum : array
        Power at the observer's wavelengths (81,), any unit.

    Returns
    -------
    array
        X, Y, Z (3,) in that unit.
    """
    return np.asarray(spectrum @ observer()[1])


def planck_xy(cct_k: float) -> Array:
    """Chromaticity (2,) of a black body [3]_.

    Parameters
    ----------
    cct_k : float
        Temperature, K.

    Returns
    -------
    array
        CIE 1931 x, y (2,).
    """
    wavelength, _ = observer()
    lam = wavelength * 1e-9
    found = xyz(lam**-5 / np.expm1(1.4388e-2 / (lam * cct_k)) * 1e-30)
    return np.asarray(found[:2] / found.sum())


@memoize_by_value()
def white_parameters(cct_k: float) -> tuple[float, float]:
    """Pump share and phosphor peak (nm) whose mix lies on the black-body locus at ``cct_k``.

    Two unknowns, two chromaticity coordinates: Newton with a numerical Jacobian.

    Parameters
    ----------
    cct_k : float
        Correlated colour temperature, K.

    Returns
    -------
    tuple[float, float]
        Share of the pump (0 to 1) and peak of the phosphor, nm.
    """
    target = planck_xy(cct_k)
    x = np.array([0.3, 575.0])
    step = np.array([1e-4, 0.05])

    def miss(p: Array) -> Array:
        found = xyz(_mix(float(p[0]), float(p[1])))
        return np.asarray(found[:2] / found.sum() - target)

    for _ in range(40):
        base = miss(x)
        if np.abs(base).max() < 1e-9:
            break
        jacobian = np.column_stack([(miss(x + step * e) - base) / step[i] for i, e in enumerate(np.eye(2))])
        move = np.linalg.solve(jacobian, -base)
        x = x + np.clip(move, [-0.1, -15.0], [0.1, 15.0])
        x = np.clip(x, [0.0, 540.0], [3.0, 640.0])
    return float(x[0]), float(x[1])


def _mix(pump: float, peak_nm: float) -> Array:
    return pump * gaussian(PUMP_NM, PUMP_WIDTH_NM) + gaussian(peak_nm, PHOSPHOR_WIDTH_NM)


def white(cct_k: float) -> Array:
    """Spectrum (81,) of a white lamp: blue pump and a phosphor hump, at a colour temperature (2700–7000 K).

    Parameters
    ----------
    cct_k : float
        Correlated colour temperature, K.

    Returns
    -------
    array
        Spectrum (81,), any unit.
    """
    return _mix(*white_parameters(cct_k))


def spectrum_of(parameters: Mapping[str, float]) -> Array:
    """Spectrum from a catalogue entry: ``peak_nm`` and ``width_nm``, or ``cct_k``.

    Parameters
    ----------
    parameters : Mapping[str, float]
        ``peak_nm`` and ``width_nm``, or ``cct_k`` (K).

    Returns
    -------
    array
        Spectrum (81,), any unit.
    """
    if "cct_k" in parameters:
        return white(parameters["cct_k"])
    return gaussian(parameters["peak_nm"], parameters["width_nm"])


def linear_srgb(spectrum: Array) -> tuple[float, float, float]:
    """Linear sRGB of unit luminance [2]_; what is out of gamut is mixed with white until it isn't: hue and luminance stay.

    Parameters
    ----------
    spectrum : array
        Power at the observer's wavelengths (81,), any unit.

    Returns
    -------
    tuple[float, float, float]
        Red, green, blue, none below zero.
    """
    tristimulus = xyz(spectrum)
    rgb = XYZ_TO_SRGB @ (tristimulus / tristimulus[1])
    rgb = rgb / float(rgb @ LUMINANCE)
    lowest = float(rgb.min())
    if lowest < 0.0:
        rgb = np.maximum(1.0 + (rgb - 1.0) / (1.0 - lowest), 0.0)
    return float(rgb[0]), float(rgb[1]), float(rgb[2])
