"""One person's own brightness: how much more or less than usual they want of a word, from which of three levels they take.

An adaptive staircase: each answer moves a posterior, and the next three levels are those that are expected to narrow it most. Behind an answer stands
a momentary ideal, ln x = ln s + ε with ε normal: whose level is nearest is taken, and none where even that is too far off.

Sources
-------
[1] A. Watson, D. Pelli, "QUEST: a Bayesian adaptive psychometric method", Perception & Psychophysics 33 (1983): posterior on a logarithmic scale,
    next level by what is known so far.
[2] A small share of answers is a slip of the tongue, as in any psychometric function with a lapse rate (F. Wichmann, N. Hill, 2001).
Spreads are house values: people differ by a factor of two, one person's choice from one look to the next by a fifth, and what is further off than
1.8 times is called none of them. How steady and how easily content this person is isn't known either: three kinds of each are weighed.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal, NamedTuple, get_args

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Answer = Literal["left", "middle", "right", "none"]
ANSWERS: tuple[Answer, ...] = get_args(Answer)

PEOPLE = math.log(2.0)  # one sigma of ln s between people
MOMENT = 0.2  # one sigma of a person's own choice
TOO_FAR = math.log(1.8)  # from where on none of the three will do
_KINDS = [
    (MOMENT * m, TOO_FAR * f, a * b)
    for m, a in ((0.5, 0.25), (1.0, 0.5), (1.7, 0.25))
    for f, b in ((0.6, 0.25), (1.0, 0.5), (1.7, 0.25))
]
SLIP = 0.02  # of the answers are just wrong
SETUP = 0.25  # one sigma of what is computed of one lamp behind one pane: flux 20 %, glazing 15 %
Z90 = 1.645
SURE = math.log(1.25) / Z90  # one sigma at which it is known within 25 %, nine times in ten

_GRID = np.arange(-3.6, 3.6001, 0.03)
# The normal distribution function as a table, to 2e-6: a user's answers are read at every start, and SciPy's would take a third of it.
_AT = np.linspace(-8.0, 8.0, 4001)
_BELOW = np.array([0.5 * math.erfc(-x / math.sqrt(2.0)) for x in _AT])
_GAPS = (0.2, 0.35, 0.5, 0.7, 1.0)


class Comparison(NamedTuple):
    """Three levels held side by side, rising, over what the word usually means; which of them was right.

    ``setup`` names the lamp and what it was held behind, whose own error all comparisons with it share.
    """

    levels: tuple[float, float, float]
    answer: Answer
    setup: str = ""


class BrightnessScale(NamedTuple):
    """How much brighter than usual a person wants what a word says.

    ``here``: one sigma of the value's logarithm for the same lamp in the same place, ``elsewhere`` for any other.
    """

    value: float
    here: float
    elsewhere: float
    answers: int

    @property
    def sure(self) -> bool:
        """Whether it is known within 25 %, nine times in ten, for the same lamp in the same place."""
        return self.here <= SURE

    def band(self, elsewhere: bool = False) -> tuple[float, float]:
        """From where to where it is likely, 5 to 95 %.

        Parameters
        ----------
        elsewhere : bool
            For another lamp, or another place.

        Returns
        -------
        tuple of float
            The least and the most, over the usual.
        """
        off = math.exp(Z90 * (self.elsewhere if elsewhere else self.here))
        return self.value / off, self.value * off


USUAL = BrightnessScale(1.0, PEOPLE, math.hypot(PEOPLE, SETUP), 0)


def _normal(x: Array) -> Array:
    return np.asarray(np.interp(x, _AT, _BELOW))


def answer_chances(levels: Array, ideal: Array, moment: float = MOMENT, too_far: float = TOO_FAR) -> Array:
    """How likely each answer is.

    Parameters
    ----------
    levels : Array
        (..., 3) logarithms of the levels, rising.
    ideal : Array
        (N,) logarithms of what the person wants.
    moment : float
        One sigma of what they want from one look to the next, as a logarithm.
    too_far : float
        From where on none will do, as a logarithm.

    Returns
    -------
    Array
        (..., 4, N) chances of left, middle, right, none; they add up to 1.
    """
    mid = (levels[..., 1:] + levels[..., :-1]) / 2.0
    low = levels - too_far
    high = levels + too_far
    low[..., 1:] = np.maximum(low[..., 1:], mid)
    high[..., :-1] = np.minimum(high[..., :-1], mid)
    taken = _normal((high[..., None] - ideal) / moment) - _normal((low[..., None] - ideal) / moment)
    none = 1.0 - taken.sum(axis=-2, keepdims=True)
    return np.asarray((1.0 - SLIP) * np.concatenate([taken, none], axis=-2) + SLIP / len(ANSWERS))


def _posterior(comparisons: Sequence[Comparison]) -> Array:
    if not comparisons:
        p = np.exp(-0.5 * (_GRID / PEOPLE) ** 2)
        return np.asarray(p / p.sum())
    levels, answers = np.log([c.levels for c in comparisons]), [ANSWERS.index(c.answer) for c in comparisons]
    rows = np.arange(len(answers))
    # In logarithms: of thousands of answers, however odd, none may underflow.
    log_p = np.array([
        math.log(weight) + np.log(answer_chances(levels, _GRID, moment, too_far)[rows, answers]).sum(axis=0)
        for moment, too_far, weight in _KINDS
    ]) - 0.5 * (_GRID / PEOPLE) ** 2  # fmt: skip
    p = np.exp(log_p - log_p.max()).sum(axis=0)
    return np.asarray(p / p.sum())


def estimate(comparisons: Sequence[Comparison]) -> BrightnessScale:
    """A person's scale from their answers, before which people differ as ``PEOPLE`` says.

    Parameters
    ----------
    comparisons : Sequence[Comparison]
        What was compared, and the answers.

    Returns
    -------
    BrightnessScale
        Posterior mean of the logarithm, and its spread; what is computed of a lamp is in error by ``SETUP`` elsewhere, less with several setups.
    """
    if not comparisons:
        return USUAL
    p = _posterior(comparisons)
    mean = float(p @ _GRID)
    sigma = math.sqrt(max(float(p @ (_GRID - mean) ** 2), 1e-6))
    setups = len({c.setup for c in comparisons})
    value = float(f"{math.exp(mean):.3g}")
    return BrightnessScale(value, sigma, math.hypot(sigma, SETUP / math.sqrt(setups)), len(comparisons))


def next_three(comparisons: Sequence[Comparison], levels: Sequence[float]) -> tuple[int, int, int] | None:
    """Which three levels to compare next: those after whose answer the scale is expected to be known best.

    Parameters
    ----------
    comparisons : Sequence[Comparison]
        What was compared before.
    levels : Sequence[float]
        (N,) levels that can be shown, over what the word usually means; rising.

    Returns
    -------
    tuple of int or None
        Where they stand in ``levels``, rising; None where there are fewer than three.
    """
    at = np.log(np.asarray(levels, dtype=float))
    if len(at) < 3:
        return None
    found = set()
    for middle in range(1, len(at) - 1):
        for gap in _GAPS:
            left = min(int(np.abs(at[:middle] - at[middle] + gap).argmin()), middle - 1)
            right = middle + 1 + int(np.abs(at[middle + 1 :] - at[middle] - gap).argmin())
            found.add((left, middle, right))
    triples = np.array(sorted(found))
    joint = answer_chances(at[triples], _GRID) * _posterior(comparisons)
    share = joint.sum(axis=-1)
    mean = (joint @ _GRID) / share
    # Σ P(answer)·variance after it: E[x²] is the same for all triples, what is known of the mean isn't
    gain = (share * mean**2).sum(axis=-1)
    a, b, c = (int(i) for i in triples[int(gain.argmax())])
    return a, b, c
