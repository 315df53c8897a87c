"""What to read next: of all that could be read, that which narrows most of what isn't decided yet, for the minutes it takes.

A figure matters where it may or may not come out right: a leak that may show, a look that may miss. How far its band would narrow by a reading is
known before the reading is made, as it doesn't hang on what is read.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.optics.leaks import BLOCK_COAT
from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.uncertainty import Z95, Influences, Thing, leak_sigma
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.materials import COAT_SPREAD
from gwiazda.core.parts.spreads import BAG
from gwiazda.core.plan.model import Plan, copy_unchecked
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure
from gwiazda.core.statistics.beliefs import Belief
from gwiazda.core.workbench.learning.coats import HAND_SIGMA, HOUSE_SIGMA, learned_coat
from gwiazda.core.workbench.learning.evidence import EXPOSED, evidence_of, lamp_on, mean_on, pane_on
from gwiazda.core.workbench.learning.lesson import house_of
from gwiazda.core.workbench.log import LUMINANCE, LUX, NEAR_MM
from gwiazda.core.workbench.photo.photocurve import FITTED
from gwiazda.core.workbench.photo.photomarks import lit_of

Array = npt.NDArray[np.float64]
Lit = Mapping[str, tuple[Influences, tuple[str, ...], Array]]  # as of ``Evidence.panes``
What = Literal["photo", "cd_m2", "lux", "coats"]
MINUTES: dict[What, float] = {
    "photo": 6.0,
    "cd_m2": 2.0,
    "lux": 3.0,
    "coats": 1.0,
}  # house values, with what is got out for it
RIGHT = math.log(1.5)  # a look that is brighter or dimmer by more misses
WORTH = 0.03  # of what is undecided, by one reading: less isn't worth getting the meter out
MOST_THINGS = 700
UNDECIDED = 0.05
POINT_COUNTS = 0.5  # of a point against a row of windows


class Target(NamedTuple):
    """A figure that may or may not come out right.

    ``of`` what it is; ``log_ratio`` its logarithm over what it should be, right from ``low`` to ``high``; ``counts`` how much it matters; ``on`` what
    moves it.
    """

    of: str
    log_ratio: float
    low: float
    high: float
    counts: float
    on: Mapping[Thing, float]


class Candidate(NamedTuple):
    """A reading that could be made: of what, which figures it reads (each with what moves it), the noise of each."""

    what: What
    of: str
    rows: tuple[Mapping[Thing, float], ...]
    noise: float


class NextReading(NamedTuple):
    """A reading worth making: its minutes, how much of what is undecided it settles (0 to 1), and the figures it narrows most: each with its
    sigma before and after."""

    what: What
    of: str
    minutes: float
    settles: float
    narrows: tuple[tuple[str, float, float], ...]


def next_readings(plan: Plan, catalogue: Catalogue, section: str = "", most: int = 3) -> tuple[NextReading, ...]:
    """What is worth reading, the most for its minutes first; of one section where it is named. None where nothing is undecided."""
    bare = copy_unchecked(plan, learned=())
    house = house_of(plan, catalogue)
    evidence = evidence_of(bare, house, {})
    targets = [t for t in _targets(house, evidence.panes) if not section or _home(house, t.of) == section]
    candidates = list(_candidates(bare, house, evidence.panes, section))
    names = [*evidence.things, *(t for x in targets for t in x.on), *(t for c in candidates for r in c.rows for t in r)]
    things = {t: k for k, t in enumerate(dict.fromkeys(names))}
    if not targets or not candidates or len(things) > MOST_THINGS:
        return ()

    def row(on: Mapping[Thing, float]) -> Array:
        out = np.zeros(len(things))
        for thing, much in on.items():
            out[things[thing]] = much
        return out

    belief = Belief.before(len(things))
    coat = learned_coat(bare, house)
    if coat is not None and ("paint", "") in things:
        at = things["paint", ""]
        belief.covariance[at, at] = (coat.spread / HOUSE_SIGMA) ** 2
    read = np.array([row(r.on) for r in evidence.readings]).reshape(-1, len(things))
    ratios, noise = (np.array([getattr(r, name) for r in evidence.readings]) for name in ("log_ratio", "noise"))
    belief = belief.after(read, ratios, noise)
    on = np.array([row(t.on) for t in targets])
    moved, before = belief.of(on)
    weight = np.array([
        t.counts * undecided(t.log_ratio + m, sigma, t.low, t.high)
        for t, m, sigma in zip(targets, moved.tolist(), before.tolist(), strict=True)
    ])  # fmt: skip
    if float(weight.max()) < UNDECIDED:
        return ()
    return _best_first(belief, on, weight, [(c, np.array([row(r) for r in c.rows])) for c in candidates], targets, most)


def _best_first(
    belief: Belief, on: Array, weight: Array, candidates: list[tuple[Candidate, Array]], targets: Sequence[Target], most: int,
) -> tuple[NextReading, ...]:  # fmt: skip
    """The reading that settles most for its minutes, then what does once that is made: of three that say the same, one is enough."""
    _, whole = belief.of(on)
    before, left, found = whole, list(candidates), list[NextReading]()
    while left and len(found) < most:
        after = [belief.after(rows, rows @ belief.mean, np.full(len(rows), c.noise)).of(on)[1] for c, rows in left]
        gains = [weight * (before - a) / whole for a in after]
        best = max(range(len(left)), key=lambda k: float(gains[k].sum()) / MINUTES[left[k][0].what])
        (c, rows), gain = left.pop(best), gains[best]
        settles = float(gain.sum() / weight.sum())
        if settles < WORTH:
            break
        order = [k for k in np.argsort(-gain)[:3].tolist() if gain[k] > 0.1 * gain.max()]
        narrows = tuple((targets[k].of, float(before[k]), float(after[best][k])) for k in order)
        found.append(NextReading(c.what, c.of, MINUTES[c.what], settles, narrows))
        belief, before = belief.after(rows, rows @ belief.mean, np.full(len(rows), c.noise)), after[best]
    return tuple(found)


def _home(house: Assessment, of: str) -> str:
    """The section a figure belongs to."""
    leak = next((x for x in house.leaks if x.id == of), None)
    return leak.section if leak is not None else of


def undecided(log_ratio: float, sigma: float, low: float, high: float) -> float:
    """How undecided it is whether a figure lies between two ends: 4·p·(1 − p), 1 where it is even."""
    if sigma <= 0.0:
        return 0.0

    def below(x: float) -> float:
        return 0.5 * (1.0 + math.erf((x - log_ratio) / sigma / math.sqrt(2.0)))

    p = below(high) - below(low)
    return 4.0 * p * (1.0 - p)


def _targets(house: Assessment, lit: Lit) -> Iterator[Target]:
    for s in house.sections.values():
        if s.id in lit and s.mean_cd_m2 > 0 and s.wanted_cd_m2 > 0:
            yield Target(s.id, math.log(s.mean_cd_m2 / s.wanted_cd_m2), -RIGHT, RIGHT, 1.0, mean_on(lit[s.id]))
    for leak in house.leaks:
        if leak.times <= 0.0 or leak.safe_times <= leak.times:
            continue
        sigma = leak_sigma(leak.times, leak.safe_times)
        inner = (
            {t: v for t, v in mean_on(lit[leak.section]).items() if t[0] in ("light", "volts", "source", "lining")}
            if leak.section in lit
            else {}
        )
        coats = math.sqrt(max(sigma * sigma - BAG * BAG, 0.0))
        on = {
            **inner,
            ("paint", ""): coats * HOUSE_SIGMA / COAT_SPREAD,
            ("hand", leak.section): coats * HAND_SIGMA / COAT_SPREAD,
        }
        yield Target(leak.id, math.log(leak.times), -math.inf, 0.0, 1.0, on)
    ends = {t.lamp for t in house.tips.values()}
    for lamp in house.lamps.values():
        if lamp.section is None and lamp.id not in ends and lamp.wanted_share > 0 and lamp.share > 0:
            ratio = math.log(lamp.share / lamp.wanted_share)
            yield Target(lamp.id, ratio, -RIGHT, RIGHT, POINT_COUNTS, lamp_on(house, lamp))


def _candidates(plan: Plan, house: Assessment, lit: Lit, section: str) -> Iterator[Candidate]:
    sealed = {s.section for s in plan.seals}
    homes = {o.id: o.section for o in plan.openings}
    for side in dict.fromkeys(o.side for o in plan.openings):
        shown = [
            o.id for o in lit_of(plan, house, side) if homes[o.id] in lit and (not section or homes[o.id] == section)
        ]
        if len(shown) >= 2:
            level: Thing = ("exposure", f"next {side}")
            rows = tuple({**pane_on(lit[homes[i]], lit[homes[i]][1].index(i)), level: EXPOSED} for i in _few(shown))
            yield Candidate("photo", side, rows, FITTED)
    for key, found in lit.items():
        if section and key != section:
            continue
        panes = [i for i in found[1] if house.openings[i].luminance_cd_m2 > 0]
        if panes:
            middle = sorted(panes, key=lambda i: house.openings[i].luminance_cd_m2)[len(panes) // 2]
            yield Candidate("cd_m2", middle, (pane_on(found, found[1].index(middle)),), LUMINANCE)
    seen: set[str] = set()
    for lamp in house.lamps.values():
        if lamp.part in seen or lamp.section in sealed or lamp.flux_lm <= 0 or (section and lamp.section != section):
            continue
        seen.add(lamp.part)
        yield Candidate("lux", lamp.id, (lamp_on(house, lamp),), LUX)
    # Coats are counted while they are laid: not those that were, nor those of a section that is closed.
    counted = sealed | {e.section for e in plan.log if e.kind == "coat"}
    counted |= {s.id for s in plan.sections if any(d.step.startswith(f"{s.id}:block.") for d in plan.done)}
    for s in plan.sections:
        coats = sum(x.coats for x in (*s.inside, *s.outside) if x.coat == BLOCK_COAT)
        if coats and s.id not in counted and (not section or s.id == section):
            # So many were enough and one less wasn't: an interval of so much, even within it.
            width = math.log(coats / (coats - 1.0)) if coats > 1 else 2.0 * COAT_SPREAD
            on: dict[Thing, float] = {("paint", ""): HOUSE_SIGMA, ("hand", s.id): HAND_SIGMA}
            yield Candidate("coats", s.id, (on,), max(width / math.sqrt(12.0), 0.05))


def _few(ids: Sequence[str], most: int = 60) -> list[str]:
    return list(ids)[:: max(len(ids) // most, 1)]


def next_reading_words(plan: Plan, n: NextReading) -> str:
    """What to do for a reading, as one would say it."""
    if n.what == "photo":
        return f"A photo of the lit model from {SEEN_FROM.get(n.of, n.of)}"
    name = name_of(plan, n.of)
    if n.what == "coats":
        return f"Count the coats {name} takes until nothing shines through"
    return f"The light of {name}, {NEAR_MM:.0f} mm before it" if n.what == "lux" else f"The luminance of {name}"


def narrows_words(plan: Plan, house: Assessment, n: NextReading) -> str:
    """What a reading would narrow most, and to what."""
    leaks = {x.id: x for x in house.leaks}

    def named(of: str) -> str:
        return f"leaks of {name_of(plan, leaks[of].section)}" if of in leaks else name_of(plan, of)

    return ", ".join(
        dict.fromkeys(f"{named(of)} {_within(before)}, then {_within(after)}" for of, before, after in n.narrows[:2])
    )


SEEN_FROM = {"top": "above", "bottom": "below", "bow": "the bow", "stern": "the stern"}
FACTOR = 2.0  # from here on a band is said as a factor


def _within(sigma: float) -> str:
    """A band as one says it: so many percent either way, or within so many times."""
    times = math.exp(Z95 * sigma)
    if times < FACTOR:
        return f"±{(times - 1.0) * 100:.0f} %"
    return f"within {figure(min(times, 100.0), 2)} ×" if times < 100.0 else "hardly known"
