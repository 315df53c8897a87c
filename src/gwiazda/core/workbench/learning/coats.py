"""What the log teaches of coats: how much one really blocks."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.optics.leaks import BLOCK_COAT
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.model import Plan, Section

MOST_COATS = 12


class LearnedCoat(NamedTuple):
    """What a coat of the light block really blocks (optical density) by how many it took in some sections; ``said`` by the catalogue."""

    coat: str
    name: str
    density: float
    spread: float
    said: float
    sections: tuple[str, ...]


def learned_coat(plan: Plan, assessment: Assessment) -> LearnedCoat | None:
    """What the coats noted say of the light block; None where there are none to learn from.

    ``n`` coats hid a leak and ``n − 1`` did not: each has between 1/n and 1/(n − 1) of the density that was needed, and where one was enough,
    all of it or more. Such an interval moves what the house says of a coat; it doesn't replace it.
    """
    black = assessment.catalogue.coats[BLOCK_COAT]
    each: dict[str, tuple[float, float]] = {}
    for e in plan.log:
        if e.kind != "coat" or e.value is None or not 1 <= e.value <= MOST_COATS or not e.section:
            continue
        section = next((s for s in plan.sections if s.id == e.section), None)
        worst = max((x.times for x in assessment.leaks if x.kind == "wall" and x.section == e.section), default=0.0)
        if section is None or worst <= 0:
            continue
        planned = sum(x.coats for x in _layers(section) if x.coat == BLOCK_COAT)
        needed = planned * black.density + math.log10(worst)
        if needed > 0:
            each[e.section] = needed / e.value, needed / (e.value - 1.0) if e.value > 1 else math.inf
    if not each:
        return None
    density, spread = within_intervals(black.density, tuple(each.values()))
    return LearnedCoat(BLOCK_COAT, black.name, density, spread, black.density, tuple(sorted(each)))


HOUSE_SIGMA, HAND_SIGMA = (
    0.20,
    0.15,
)  # together what a coat strays by; of the logarithm: a paint and its hand from the house's, a section from the next


def within_intervals(house: float, intervals: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """A house value moved by intervals that it was found to lie in.

    Parameters
    ----------
    house : float
        Above zero; it strays by HOUSE_SIGMA (one sigma of the logarithm).
    intervals : pairs
        From and to, to infinity where it is only known to be more; each with a stray of HAND_SIGMA of its own.

    Returns
    -------
    value, spread
        Posterior mean of the logarithm as a value, and its spread (one sigma of the logarithm), on a grid of five sigmas. Source: Bayes' rule
        for interval-censored readings, as in A. Gelman et al., Bayesian Data Analysis (2013), 3.8.
    """
    from scipy.special import ndtr

    x = np.linspace(-5.0 * HOUSE_SIGMA, 5.0 * HOUSE_SIGMA, 801)
    weight = np.exp(-0.5 * (x / HOUSE_SIGMA) ** 2)
    for low, high in intervals:
        ends = [ndtr((math.log(e / house) - x) / HAND_SIGMA) if math.isfinite(e) else 1.0 for e in (low, high)]
        weight = weight * np.maximum(ends[1] - ends[0], 1e-12)
    weight = weight / weight.sum()
    mean = float(weight @ x)
    return house * math.exp(mean), math.sqrt(float(weight @ (x - mean) ** 2))


def _layers(section: Section) -> Iterable:  # type: ignore[type-arg]
    return (*section.inside, *section.outside)
