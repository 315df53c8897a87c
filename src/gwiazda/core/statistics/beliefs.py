"""A belief about many things that stray at once, and how a reading moves it.

Everything is a standard normal before anything is read; a figure's logarithm is a sum of them, each times what it moves the figure by. So what all
lamps of a bag have in common is told apart from what is one lamp's own: the readings of all of them speak.

Sources
-------
[1] A. Gelman et al., Bayesian Data Analysis (2013): normal linear models, chapter 14; variances with an inverse gamma, 2.6; intervals, 3.8.
[2] R. E. Kalman (1960): the mean and covariance of a linear model after a reading.
[3] T. Minka, Expectation Propagation (2001): a normal of the mean and variance that an interval leaves.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
WILD = 3.5  # sigmas from what all other readings say: it is something else that was read, or broken
HOUSE = 4.0  # readings that a spread of the house's is worth


class Belief(NamedTuple):
    """The mean (F,) and covariance (F, F) of what strays."""

    mean: Array
    covariance: Array

    @staticmethod
    def before(count: int) -> Belief:
        """Before anything is read."""
        return Belief(np.zeros(count), np.eye(count))

    def of(self, on: Array, own: Array | float = 0.0) -> tuple[Array, Array]:
        """Mean and one sigma (rows,) of the logarithm of figures.

        Parameters
        ----------
        on : array
            What each thing moves each figure by (rows, F), one sigma.
        own : array or float
            One sigma (rows,) of what is each figure's alone.

        Returns
        -------
        mean, sigma : arrays
            (rows,) each.
        """
        variance = np.einsum("ij,jk,ik->i", on, self.covariance, on) + np.square(own)
        return on @ self.mean, np.sqrt(np.maximum(variance, 0.0))

    def after(self, on: Array, read: Array, noise: Array) -> Belief:
        """The belief after readings [2]_.

        Parameters
        ----------
        on : array
            What each thing moves each figure that was read by (readings, F).
        read : array
            The logarithm of each reading over what the house says (readings,).
        noise : array
            One sigma (readings,) of each reading by itself.

        Returns
        -------
        Belief
            What is thought now.
        """
        if not len(read):
            return self
        spread = self.covariance @ on.T
        total = on @ spread + np.diag(np.square(noise))
        gain = np.linalg.solve(total, spread.T).T
        covariance = self.covariance - gain @ spread.T
        return Belief(self.mean + gain @ (read - on @ self.mean), (covariance + covariance.T) / 2.0)

    def within(self, on: Array, low: float, high: float, own: float) -> Belief:
        """The belief once a figure's logarithm is known to lie between two ends [3]_.

        Parameters
        ----------
        on : array
            What each thing moves the figure by (F,).
        low, high : float
            From and to; infinite where it is only known to be more or less.
        own : float
            One sigma of what is the figure's alone.

        Returns
        -------
        Belief
            What is thought now: the normal of the same mean and variance along that figure.
        """
        spread = self.covariance @ on
        variance = float(on @ spread) + own * own
        sigma = math.sqrt(max(variance, 1e-18))
        mean, left = truncated((low - float(on @ self.mean)) / sigma, (high - float(on @ self.mean)) / sigma)
        gain = spread / sigma
        return Belief(self.mean + gain * mean, self.covariance - np.outer(gain, gain) * (1.0 - left))


def truncated(low: float, high: float) -> tuple[float, float]:
    """Mean and variance of a standard normal between two ends.

    Parameters
    ----------
    low, high : float
        In sigmas; may be infinite.

    Returns
    -------
    mean, variance : float
        Of what lies between. Far out, where next to nothing does, the nearer end is taken.
    """
    from scipy.special import ndtr

    inside = float(ndtr(high) - ndtr(low)) if low < 0 else float(ndtr(-low) - ndtr(-high))
    if inside < 1e-9:
        return (low if low > 0 else high), 1e-3
    at = [math.exp(-0.5 * x * x) / math.sqrt(2.0 * math.pi) if math.isfinite(x) else 0.0 for x in (low, high)]
    moved = [x * p if math.isfinite(x) else 0.0 for x, p in zip((low, high), at, strict=True)]
    mean = (at[0] - at[1]) / inside
    return mean, max(1.0 + (moved[0] - moved[1]) / inside - mean * mean, 1e-4)


def wild(belief: Belief, on: Array, read: Array, noise: Array) -> list[int]:
    """Which readings are wild: farther than WILD sigmas from what all the others and the house say of them, the worst first, one by one.

    Parameters
    ----------
    belief : Belief
        Before the readings.
    on, read, noise : arrays
        As in ``Belief.after``.

    Returns
    -------
    list of int
        Their numbers.
    """
    left = list(range(len(read)))
    out: list[int] = []
    while left:
        rows = on[left]
        total = rows @ belief.covariance @ rows.T + np.diag(np.square(noise[left]))
        inverse = np.linalg.inv(total)
        # Each against what all the others say of it.
        off = np.abs(inverse @ (read[left] - rows @ belief.mean)) / np.sqrt(np.diag(inverse))
        worst = int(np.argmax(off))
        if off[worst] <= WILD:
            break
        out.append(left.pop(worst))
    return out


def scale_of(belief: Belief, on: Array, read: Array, noise: Array) -> tuple[float, int]:
    """How many times the house's own spread readings scatter, and how many degrees of freedom tell it [1]_.

    The readings' scatter round what they have in common, with the house's own as HOUSE readings more.

    Parameters
    ----------
    belief : Belief
        After the readings.
    on, read, noise : arrays
        As in ``Belief.after``; ``noise`` what is each reading's alone.

    Returns
    -------
    scale : float
        Of the noise; 1 where nothing was read.
    degrees : int
        Of Student's t.
    """
    count = len(read)
    if not count:
        return 1.0, int(HOUSE) - 1
    left = (read - on @ belief.mean) / noise
    # What the belief took from the readings itself is missing from their scatter.
    taken = np.einsum("ij,jk,ik->i", on, belief.covariance, on) / np.square(noise)
    free = max(float(np.sum(1.0 - np.minimum(taken, 1.0))), 0.0)
    return math.sqrt((HOUSE + float(left @ left)) / (HOUSE + free)), int(HOUSE + free) - 1


def widened(sigma: float, degrees: int) -> float:
    """One sigma of the normal whose 5 and 95 % values are those of Student's t of so many degrees.

    Parameters
    ----------
    sigma : float
        Of Student's t.
    degrees : int
        At least 3.

    Returns
    -------
    float
        At most a third more than it was.
    """
    from scipy.special import stdtrit

    return sigma * float(stdtrit(degrees, 0.95) / stdtrit(1e9, 0.95))


def elsewhere(found: Sequence[tuple[float, float]], tau: float, kind_share: float = 0.5) -> tuple[float, float]:
    """What bags that were read say of the next one of that kind: half of what a bag strays by is its kind's, the other half its own.

    Parameters
    ----------
    found : pairs
        Mean and one sigma of each bag that was read, thought of with a prior of 0 and ``tau``.
    tau : float
        One sigma of a bag before anything is read.
    kind_share : float
        Of its variance, what all bags of a kind have in common.

    Returns
    -------
    mean, sigma : float
        Of the next bag: wider than that of any that was read.
    """
    common, apart = kind_share * tau * tau, (1.0 - kind_share) * tau * tau
    precision, moment = 1.0 / common, 0.0
    for mean, sigma in found:
        told = 1.0 / (sigma * sigma) - 1.0 / (tau * tau)
        if told <= 1e-9:
            continue
        # What its own readings say of a bag, without the house.
        read, noise = mean / (sigma * sigma) / told, 1.0 / told
        weight = 1.0 / (apart + noise)
        precision, moment = precision + weight, moment + weight * read
    return moment / precision, math.sqrt(1.0 / precision + apart)


def moved(readings: Sequence[float], sigma: float, tau: float) -> tuple[float, float, float]:
    """A house value of 0 moved by readings of it, and the spread of the next one.

    Parameters
    ----------
    readings : sequence of float
        What was read, as differences from the house value.
    sigma : float
        The house's spread from one thing to the next of a kind (one sigma); worth HOUSE readings.
    tau : float
        How far whole kinds stray from the house value (one sigma).

    Returns
    -------
    mean, spread, unsure : float
        The mean as it is thought to be now, one sigma of the next reading, and one of the mean: Student's t with n + 3 degrees, s·√(1 + 1/n). Sources: normal
        mean with an inverse-gamma variance, as in A. Gelman et al., Bayesian Data Analysis (2013), 2.5 and 3.3.
    """
    n, mean = len(readings), math.fsum(readings) / len(readings)
    variance = (HOUSE * sigma**2 + sum((x - mean) ** 2 for x in readings)) / (HOUSE + n - 1)
    told, held = n / max(variance, 1e-12), 1.0 / max(tau, 1e-6) ** 2
    return mean * told / (told + held), math.sqrt(variance * (1.0 + 1.0 / n)), math.sqrt(1.0 / (told + held))
