"""What all readings of a plan teach, together: before and after, and what is used of it from then on."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Literal, NamedTuple

import numpy as np

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.known import makes_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.uncertainty import Thing, bag_sigma, band
from gwiazda.core.parts.catalogue import NOTHING_READ, Catalogue, Known
from gwiazda.core.parts.materials import COAT_SPREAD
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Learned, LearnedKind, Plan, copy_unchecked
from gwiazda.core.statistics.beliefs import HOUSE, Belief, scale_of, widened, wild
from gwiazda.core.workbench.learning.coats import HAND_SIGMA, learned_coat
from gwiazda.core.workbench.learning.evidence import (
    Evidence,
    Reading,
    evidence_of,
    mean_on,
    pane_on,
)
from gwiazda.core.workbench.learning.volts import LearnedVolts, learned_volts
from gwiazda.core.workbench.soldered import as_built

LEAST_SIGMA = 0.004
VOLTMETER = 0.004  # one sigma of a voltage read, over itself: ±0.8 %
FAR_SOURCE = 0.25  # of the logarithm: further off it is another adapter
Subject = Literal["section", "light", "volts", "coat", "source"]


class Moved(NamedTuple):
    """A figure before and after the readings, with its 5 and 95 % values: cd/m² of a section, times the house's of a part's light, V, density
    of a coat."""

    subject: Subject
    of: str
    before: tuple[float, float, float]
    after: tuple[float, float, float]
    readings: int


class Lesson(NamedTuple):
    """What readings teach: what is used of it, which figures it moves, and which readings it leaves out as they fit nothing else."""

    learned: tuple[Learned, ...]
    moved: tuple[Moved, ...]
    left_out: tuple[str, ...]
    unread_source: bool = False  # whether volts of lamps were read, and not those of the cells behind them

    @property
    def readings(self) -> int:
        """The most that any one figure hangs on."""
        return max((m.readings for m in self.moved), default=0)


def with_lesson(plan: Plan, assessment: Assessment, lesson: Lesson) -> Plan:
    """The plan that uses what was learned. What was read is soldered: its resistors stay what they are, and don't follow the new figures.

    Parameters
    ----------
    plan, assessment
        The plan as it was when it was read, and it assessed.
    lesson
        What its readings teach.
    """
    sections = {x.of for x in lesson.learned if x.kind == "section"}
    lamps = {x.of for x in lesson.learned if x.kind == "lamp"}
    lamps |= {i for i, s in assessment.lamps.items() if s.section in sections}
    return edits.learn(as_built(plan, assessment, lamps), lesson.learned)


def house_of(plan: Plan, catalogue: Catalogue) -> Assessment:
    """The plan assessed by the house's values alone, whatever has been learned."""
    return assess(copy_unchecked(plan, learned=()), catalogue.unread)


def lesson_of(plan: Plan, catalogue: Catalogue, others: Mapping[Thing, Known] = NOTHING_READ) -> Lesson:
    """What the log teaches.

    Parameters
    ----------
    plan
        With its log; what it has learned before doesn't count again.
    catalogue
        All parts.
    others
        What other plans say of parts: the belief to begin with.
    """
    house = house_of(plan, catalogue)
    bare = copy_unchecked(plan, learned=())
    evidence = evidence_of(bare, house, others)
    on, read, noise = evidence.rows(evidence.readings)
    out = set(wild(evidence.before, on, read, noise))
    kept = tuple(r for k, r in enumerate(evidence.readings) if k not in out)
    learned, moved = _of_light(bare, house, evidence, kept)
    volts = learned_volts(bare, house)
    for x in volts:
        if x.tells:
            learned.append(_of_volts(x, others))
            moved.append(_moved_volts(house, x, learned[-1]))
    _of_sources(bare, house, learned, moved)
    _of_coats(bare, house, learned, moved)
    left = tuple(evidence.readings[k].place for k in sorted(out))
    return Lesson(tuple(learned), tuple(moved), left, any(x.unsure_v > 0 and not x.tells for x in volts))


def _told(kind: LearnedKind, of: str, shift: float, sigma: float, readings: int, make: str = "") -> Learned:
    return Learned(
        kind=kind, of=of, shift=round(min(max(shift, -5.0), 5.0), 5), sigma=round(min(max(sigma, LEAST_SIGMA), 5.0), 5), readings=readings,
        make=make,
    )  # fmt: skip


def _settled(evidence: Evidence, kept: tuple[Reading, ...]) -> tuple[Belief, float, int]:
    """The belief after the readings, how many times the house's spread they scatter, and by how many degrees of freedom."""
    on, read, noise = evidence.rows(kept)
    belief = evidence.before.after(on, read, noise)
    # How panes scatter in photos tells how much of the house's spread of them is true; what a meter strays by is its own.
    shot = np.array([("exposure", r.entry) in r.on for r in kept], dtype=bool)
    if not shot.any():
        return belief, 1.0, int(HOUSE) - 1 + len(kept)
    alone = np.array([t[0] == "pane" for t in evidence.things], dtype=bool)
    own = np.sqrt(np.square(on[:, alone]).sum(axis=1) + np.square(noise))
    common = np.where(alone, 0.0, on)
    scale, degrees = scale_of(evidence.before.after(common, read, own), common[shot], read[shot], own[shot])
    each = np.where(alone, scale, 1.0)
    before = Belief(evidence.before.mean, evidence.before.covariance * np.outer(each, each))
    return before.after(on, read, np.where(shot, noise * scale, noise)), scale, degrees


def _of_light(
    plan: Plan, house: Assessment, evidence: Evidence, kept: tuple[Reading, ...]
) -> tuple[list[Learned], list[Moved]]:
    """What readings of light and current say of parts, lamps, sections and their panes."""
    if not kept:
        return [], []
    belief, scale, degrees = _settled(evidence, kept)
    learned: list[Learned] = []
    moved: list[Moved] = []
    at = {t: k for k, t in enumerate(evidence.things)}
    makes = makes_of(plan.sections, plan.lamps)
    shifts: dict[Thing, float] = {}  # of one sigma: what is used of it from now on
    for thing, k in at.items():
        if thing[0] == "light":
            tau = bag_sigma(house.catalogue, thing[1])
            count = sum(thing in r.on for r in kept)
            sigma = math.sqrt(max(float(belief.covariance[k, k]), 0.0)) * tau
            shifts[thing] = float(belief.mean[k])
            learned.append(_told("light", thing[1], shifts[thing] * tau, widened(sigma, degrees), count))
            moved.append(
                Moved(
                    "light", thing[1], (1.0, *band(1.0, tau)), _banded(1.0, learned[-1].shift, learned[-1].sigma), count
                )
            )
    for lamp_id in dict.fromkeys(r.place for r in kept if r.place in house.lamps):
        lamp = house.lamps[lamp_id]
        on = next(dict(r.on) for r in kept if r.place == lamp_id)
        if ("light", lamp.part) not in on:
            continue
        (mean,), (sigma,) = belief.of(evidence.row(on)[None])
        mine = sum(r.place == lamp_id for r in kept)
        rest = float(mean) - on["light", lamp.part] * shifts["light", lamp.part]
        learned.append(_told("lamp", lamp_id, rest, widened(float(sigma), degrees), mine, makes.get(lamp_id, "")))
    for key in dict.fromkeys(k for r in kept for k, s in evidence.panes.items() if r.place in s[1]):
        more, figure = _of_section(
            house, evidence, key, _Taught(belief, shifts, scale, degrees, kept), makes.get(key, "")
        )
        learned += more
        moved.append(figure)
    return learned, moved


def _banded(value: float, shift: float, sigma: float) -> tuple[float, float, float]:
    middle = value * math.exp(shift)
    return (middle, *band(middle, sigma))


class _Taught(NamedTuple):
    """What is thought after the readings that are kept: what is used of each thing from then on (in its sigmas), how many times the house's spread
    they scatter, by how many degrees of freedom."""

    belief: Belief
    shifts: Mapping[Thing, float]
    scale: float
    degrees: int
    kept: Sequence[Reading]


def _of_section(
    house: Assessment, evidence: Evidence, key: str, taught: _Taught, make: str
) -> tuple[list[Learned], Moved]:
    belief, shifts, scale, degrees, kept = taught
    section = evidence.panes[key]
    at = {t: k for k, t in enumerate(evidence.things)}
    count = sum(r.place in section[1] for r in kept)
    whole = mean_on(section)
    used = dict(shifts)
    learned = []
    for kind in ("lining", "glazing"):
        k = at.get((kind, key))
        if k is not None and whole.get((kind, key)):
            used[kind, key] = float(belief.mean[k])
            sigma = math.sqrt(max(float(belief.covariance[k, k]), 0.0)) * whole[kind, key]
            learned.append(_told(kind, key, used[kind, key] * whole[kind, key], sigma, count, make))
    rows = [whole, *(pane_on(section, n) for n in range(len(section[1])))]
    # What nothing was read of strays as before: it is each figure's alone.
    apart = np.array(
        [
            math.sqrt(sum(v * v * (scale * scale if t[0] == "pane" else 1.0) for t, v in on.items() if t not in at))
            for on in rows
        ]
    )
    means, sigmas = belief.of(np.array([evidence.row(on) for on in rows]), apart)
    for n, opening in enumerate(section[1]):
        state = house.openings.get(opening)
        if state is None or state.luminance_cd_m2 <= 0.0:
            continue
        on = rows[1 + n]
        rest = float(means[1 + n]) - sum(on.get(t, 0.0) * z for t, z in used.items())
        mine = sum(r.place == opening for r in kept)
        learned.append(_told("pane", opening, rest, widened(float(sigmas[1 + n]), degrees), mine, make))
    learned.append(_told("section", key, 0.0, widened(float(sigmas[0]), degrees), count, make))
    state_of = house.sections[key]
    before = (state_of.mean_cd_m2, *band(state_of.mean_cd_m2, state_of.sigma, state_of.lean))
    return learned, Moved(
        "section", key, before, _banded(state_of.mean_cd_m2, float(means[0]), learned[-1].sigma), count
    )


def _of_volts(x: LearnedVolts, others: Mapping[Thing, Known]) -> Learned:
    shift, sigma = x.shift_v, max(x.bag_v, LEAST_SIGMA)
    known = others.get(("volts", x.part))
    if known is not None:
        held, told = 1.0 / known.sigma**2, 1.0 / sigma**2
        shift, sigma = (shift * told + known.shift * held) / (told + held), math.sqrt(1.0 / (told + held))
    return _told("volts", x.part, shift, sigma, len(x.lamps))


def _moved_volts(house: Assessment, x: LearnedVolts, found: Learned) -> Moved:
    part = house.catalogue.lamps[x.part]
    family = house.catalogue.families[part.family]
    spread = family.spread_v / 2.0
    wide = 1.645
    before = (family.v20_v, family.v20_v - wide * spread, family.v20_v + wide * spread)
    after = family.v20_v + found.shift
    return Moved("volts", x.part, before, (after, after - wide * x.spread_v, after + wide * x.spread_v), found.readings)


def _of_sources(plan: Plan, house: Assessment, learned: list[Learned], moved: list[Moved]) -> None:
    """An adapter's volts, where they were read."""
    for feed in plan.feeds:
        part = house.catalogue.sources.get(feed.supply.part)
        if part is None or part.kind == "battery" or part.adjustable or not part.nominal_v:
            continue
        read = [
            e.value
            for e in plan.log
            if e.kind == "reading" and not e.settled and e.what == "volts" and e.place == feed.id and e.value
        ]
        ratios = [math.log(v / part.nominal_v) for v in read if v > 0]
        ratios = [r for r in ratios if abs(r) < FAR_SOURCE]
        if not ratios or any(x.kind == "source" and x.of == part.id for x in learned):
            continue
        shift, sigma = float(np.mean(ratios)), VOLTMETER
        learned.append(_told("source", part.id, shift, sigma, len(ratios)))
        volts = part.nominal_v
        moved.append(
            Moved("source", part.id, (volts, 0.95 * volts, 1.05 * volts), _banded(volts, shift, sigma), len(ratios))
        )


def _of_coats(plan: Plan, house: Assessment, learned: list[Learned], moved: list[Moved]) -> None:
    coat = learned_coat(plan, house)
    if coat is None:
        return
    sigma = math.hypot(coat.spread, HAND_SIGMA)
    shift = math.log(coat.density / coat.said)
    learned.append(_told("coat", coat.coat, shift, sigma, len(coat.sections)))
    moved.append(
        Moved(
            "coat",
            coat.coat,
            (coat.said, *band(coat.said, COAT_SPREAD)),
            _banded(coat.said, shift, sigma),
            len(coat.sections),
        )
    )
