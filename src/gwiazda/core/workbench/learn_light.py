"""What the log teaches of light: how bright a lamp really is, how much a coat really blocks."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from statistics import median
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.optics.leaks import BLOCK_COAT
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import Plan, Section, copy_unchecked
from gwiazda.core.workbench.log import light_said

LEAST = 2  # lamps, or sections: of one alone nobody knows what it is that differs
TELLS = 1.1  # times: less isn't worth a part of one's own
FAR = 4.0  # times: this far off, it isn't this part, or it is broken
MOST_COATS = 12


class LearnedLight(NamedTuple):
    """A part's light as read over what the catalogue says, with its spread (one sigma of the logarithm) among the ``places``."""

    part: str
    name: str
    ratio: float
    spread: float
    places: tuple[str, ...]

    @property
    def tells(self) -> bool:
        return max(self.ratio, 1.0 / self.ratio) >= TELLS


def learned_light(plan: Plan, assessment: Assessment) -> tuple[LearnedLight, ...]:
    """What readings of light say of parts, those with the most places first.

    A lamp counts by the lux read before it; a section all of whose lamps are of one part counts once, by the middle of what was read
    of its openings: what its lining and glazing are off by is in that too, so it takes two sections or more.
    """
    homes = lamps_by_section(plan.sections, plan.lamps)
    parts: dict[str, set[str]] = {}
    for p in plan.lamps:
        if home := homes.get(p.id):
            parts.setdefault(home, set()).add(p.part)
    sections = {o.id: o.section for o in plan.openings}
    by_lamp: dict[tuple[str, str], list[float]] = {}
    for e in plan.log:
        if e.kind != "reading" or e.settled or not e.value or e.value <= 0 or e.what not in ("lux", "cd_m2"):
            continue
        said = light_said(assessment, e.what, e.place)
        if not said:
            continue
        ratio = math.log(e.value / said)
        if abs(ratio) > math.log(FAR):
            continue
        if e.what == "lux":
            by_lamp[assessment.lamps[e.place].part, e.place] = [ratio]
        else:
            home = sections.get(e.place, "")
            if len(mine := parts.get(home, set())) == 1:
                by_lamp.setdefault((next(iter(mine)), home), []).append(ratio)
    each: dict[str, dict[str, float]] = {}
    for (part, place), ratios in by_lamp.items():
        each.setdefault(part, {})[place] = median(ratios)
    out = []
    for part, ratios_of in each.items():
        if len(ratios_of) < LEAST:
            continue
        middle = median(ratios_of.values())
        spread = math.sqrt(sum((r - middle) ** 2 for r in ratios_of.values()) / (len(ratios_of) - 1))
        name = assessment.catalogue.lamps[part].name
        out.append(LearnedLight(part, name, math.exp(middle), spread, tuple(sorted(ratios_of))))
    return tuple(sorted(out, key=lambda x: (-len(x.places), x.part)))


class LearnedCoat(NamedTuple):
    """What a coat of the light block really blocks (optical density) by how many it took in some sections; ``said`` by the catalogue."""

    coat: str
    name: str
    density: float
    spread: float
    said: float
    sections: tuple[str, ...]

    @property
    def tells(self) -> bool:
        return max(self.density / self.said, self.said / self.density) >= TELLS


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


HOUSE_SIGMA, HAND_SIGMA = 0.25, 0.15  # of the logarithm: a paint and its hand from the house's, a section from the next


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


def with_coat(coat: str, other: str, plan: Plan) -> Plan:
    """The plan with one coat in place of another in all its skins."""
    return copy_unchecked(
        plan,
        sections=tuple(
            copy_unchecked(
                s,
                inside=tuple(copy_unchecked(x, coat=other) if x.coat == coat else x for x in s.inside),
                outside=tuple(copy_unchecked(x, coat=other) if x.coat == coat else x for x in s.outside),
            )
            if any(x.coat == coat for x in _layers(s))
            else s
            for s in plan.sections
        ),
    )
