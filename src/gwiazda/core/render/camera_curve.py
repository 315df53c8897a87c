"""A camera's own curve: how its code values follow light. No camera's is plainly sRGB; three figures tell most of what it does instead.

Sources
-------
[1] P. Debevec, J. Malik (1997): a camera's curve from several exposures of one scene.
[2] The form here: ln light = gamma·ln y − toe·ln(1 + y0/y) − shoulder·ln(1 − 0.9·y), y the sRGB-decoded value. Its slope is gamma in the middle, gamma + toe
    in the dark, more by the shoulder in the bright: an S-curve over any gamma is told within some 9 % from a hundredth to nine tenths of full scale.
[3] A. Gelman et al., Bayesian Data Analysis (2013), 14 and 15: regression with what a group has in common, and a prior.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.render.tone import from_srgb

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]
TOE, SHOULDER = 0.01, 0.9
DARKEST, BRIGHTEST = 0.003, 0.93  # decoded values between which a curve is told
USUAL, STRAYS = (
    np.array([0.8, 0.4, 0.2]),
    np.array([0.4, 0.5, 0.3]),
)  # of gamma, toe, shoulder among cameras; house values
LEAST_SLOPE = 0.1
ROUNDS, WILD = 6, 2.5
GRID = np.geomspace(DARKEST, 0.99, 60)


class Curve(NamedTuple):
    """A camera's curve; sRGB's own as it comes."""

    gamma: float = 1.0
    toe: float = 0.0
    shoulder: float = 0.0

    @property
    def table(self) -> Array32:
        """Light (256,), 0 to 1, of each code value."""
        y = from_srgb(np.arange(256) / 255.0)
        out = np.zeros(256)
        out[1:] = np.exp(basis(y[1:]) @ np.array(self) - basis(np.ones(1)) @ np.array(self))
        return out.astype(np.float32)

    @property
    def rises(self) -> bool:
        """Whether more light is a higher value everywhere."""
        slope = self.gamma + self.toe * TOE / (GRID + TOE) + self.shoulder * SHOULDER * GRID / (1.0 - SHOULDER * GRID)
        return bool((slope >= LEAST_SLOPE).all())


PLAIN = Curve()


def basis(y: Array) -> Array:
    """What gamma, toe and shoulder each add to the logarithm of light (…, 3) at decoded values (…), above 0 [2]_.

    Parameters
    ----------
    y : array
        sRGB-decoded values, above 0 to 1.

    Returns
    -------
    array
        (…, 3).
    """
    y = np.maximum(y, 1e-6)
    return np.stack([np.log(y), -np.log1p(TOE / y), -np.log1p(-SHOULDER * np.minimum(y, 1.0))], axis=-1)


class CurveFit(NamedTuple):
    """A curve, how well it is known (covariance (3, 3)), and what else was told with it: one figure for each further column."""

    curve: Curve
    covariance: Array
    rest: Array

    def sigma(self, y: Array) -> float:
        """One sigma of the logarithm of light between the darkest and the brightest of decoded values.

        Parameters
        ----------
        y : array
            Decoded values of what is compared.

        Returns
        -------
        float
            Of its logarithm.
        """
        ends = basis(np.array([np.min(y), np.max(y)]))
        apart = ends[1] - ends[0]
        return float(np.sqrt(max(apart @ self.covariance @ apart, 0.0)))


def curve_fitted(
    y: Array, said: Array, columns: Array, priors: tuple[Array, Array], noise: float, groups: tuple[tuple[Array, float], ...] = ()
) -> CurveFit:  # fmt: skip
    """The likeliest curve by which decoded values are of so much light [3]_.

    Parameters
    ----------
    y : array
        Decoded values (n,), DARKEST to BRIGHTEST.
    said : array
        The logarithm of the light of each (n,), as it is known beforehand.
    columns : array
        What else moves each (n, m): the exposure, the lens' corners, a colour channel.
    priors : pair of arrays
        Mean and one sigma of each of these (m,).
    noise : float
        One sigma of each by itself.
    groups : pairs
        Numbers (n,) of what each belongs to, and one sigma of what all of one group have in common.

    Returns
    -------
    CurveFit
        The curve, monotone; with few values or of one brightness it stays near the usual camera's.
    """
    on = np.hstack([basis(y), columns])
    mean, spread = np.concatenate([USUAL, priors[0]]), np.concatenate([STRAYS, priors[1]])
    total = np.zeros((len(y), len(y)))
    for number, sigma in groups:
        total += sigma**2 * (number[:, None] == number[None, :])
    weight = np.ones(len(y))
    precision = np.diag(1.0 / spread**2)
    for _ in range(ROUNDS):
        inverse = np.linalg.inv(total + np.diag(noise**2 / weight))
        covariance = np.linalg.inv(precision + on.T @ inverse @ on)
        found = covariance @ (precision @ mean + on.T @ inverse @ said)
        # What is far off what its group says weighs less: a lamp may be out.
        left = said - on @ found
        common = total @ (inverse @ left)
        off = np.abs(left - common) / noise
        weight = np.where(off > WILD, WILD / np.maximum(off, 1e-9), 1.0)
    return CurveFit(_rising(Curve(*(float(v) for v in found[:3]))), covariance[:3, :3], found[3:])


def _rising(curve: Curve) -> Curve:
    """The curve, or what lies so far towards the plain one that it rises everywhere."""
    for share in np.linspace(0.0, 1.0, 21):
        mixed = Curve(*(float((1.0 - share) * a + share * b) for a, b in zip(curve, PLAIN, strict=True)))
        if mixed.rises:
            return mixed
    return PLAIN


def curve_by_exposures(shorter: Array, longer: Array, times: float, noise: float = 0.03) -> CurveFit:
    """The curve by the same places in two exposures, of which one had ``times`` the light of the other [1]_.

    Parameters
    ----------
    shorter, longer : arrays
        Decoded values (n,) of each place.
    times : float
        How many times the light, above 1.
    noise : float
        One sigma of each pair's logarithm.

    Returns
    -------
    CurveFit
        The curve.

    Raises
    ------
    ValueError
        Where fewer than four places can be told in both.
    """
    good = (shorter > DARKEST) & (longer < BRIGHTEST) & (longer > shorter)
    if int(good.sum()) < 4:
        raise ValueError("fewer than four places can be told in both exposures")
    apart = basis(longer[good]) - basis(shorter[good])
    inverse, precision = np.eye(len(apart)) / noise**2, np.diag(1.0 / STRAYS**2)
    covariance = np.linalg.inv(precision + apart.T @ inverse @ apart)
    found = covariance @ (precision @ USUAL + apart.T @ inverse @ np.full(len(apart), np.log(times)))
    return CurveFit(_rising(Curve(*(float(v) for v in found))), np.asarray(covariance, dtype=float), np.zeros(0))


def curve_by_steps(y: Array, reflectance: Array, noise: float = 0.04) -> CurveFit:
    """The curve by patches of known grey in even light.

    Parameters
    ----------
    y : array
        Decoded values (n,) of the patches.
    reflectance : array
        Of each (n,), 0 to 1.
    noise : float
        One sigma of each patch's logarithm: print and light.

    Returns
    -------
    CurveFit
        The curve.

    Raises
    ------
    ValueError
        Where fewer than four patches can be told.
    """
    good = (y > DARKEST) & (y < BRIGHTEST)
    if int(good.sum()) < 4:
        raise ValueError("fewer than four of its patches can be told: the exposure is too long or too short")
    return curve_fitted(
        y[good], np.log(reflectance[good]), np.ones((int(good.sum()), 1)), (np.zeros(1), np.full(1, 5.0)), noise
    )
