"""Coats learned from the log, and light read beside what was predicted."""

from __future__ import annotations

import math

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Layer, Wanted, copy_unchecked
from gwiazda.core.workbench.learning.coats import learned_coat, within_intervals
from gwiazda.core.workbench.learning.lesson import lesson_of
from gwiazda.core.workbench.log import LUMINANCE, beside, words_of

CAT = built_in()
LAMPS = tuple(f"deck1.lamp.{k:02d}" for k in (1, 2, 3, 4))


def deck(**section):
    plan = edits.set_wanted(deck_plan(windows=4, lamps=4), LAMPS, Wanted(current_ma=8.0))
    return copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], **section),)) if section else plan


def test_light_read_stands_beside_what_was_predicted():
    plan = deck()
    assessment = assess(plan, CAT)
    lux = assessment.lamps[LAMPS[0]].axial_cd * 100.0
    plan, _ = edits.add_entry(plan, "reading", what="lux", place=LAMPS[0], value=lux)
    plan, _ = edits.add_entry(
        plan,
        "reading",
        what="cd_m2",
        place=plan.openings[0].id,
        value=assessment.openings[plan.openings[0].id].luminance_cd_m2 / 3,
    )
    plan, _ = edits.add_entry(plan, "reading", what="cd_m2", place="gone", value=3.0)
    good, off, none = beside(plan, (), assessment)
    assert (
        good.agrees
        and good.predicted == pytest.approx(lux)
        and not off.agrees
        and none.predicted is None
        and none.agrees
    )
    assert off.off == pytest.approx(
        math.log(3.0) / math.hypot(assessment.openings[plan.openings[0].id].sigma, LUMINANCE)
    )
    assert "lx 100 mm before" in words_of(plan, plan.log[0]) and "cd/m² of" in words_of(plan, plan.log[1])


def test_coats_that_it_took_teach_how_much_one_blocks():
    """By hand: the wall needs D in black; three coats hid it and two did not, so each has between D/3 and D/2."""
    plan = deck(inside=(Layer(coat="flat-black", coats=1),))
    plan = edits.set_room(plan, lux=1.0)
    assessment = assess(plan, CAT)
    worst = max(x.times for x in assessment.leaks if x.kind == "wall")
    needed = CAT.coats["flat-black"].density + math.log10(worst)
    plan, _ = edits.add_entry(plan, "coat", "black", section="deck1", value=3.0)
    said = learned_coat(plan, assessment)
    # One count moves what the house says part of the way, and is no more sure than such an interval is.
    house = CAT.coats["flat-black"].density
    assert said is not None and said.sections == ("deck1",) and 0.08 < said.spread < 0.25
    assert min(house, needed / 3) < said.density < max(house, needed / 2)
    lesson = lesson_of(plan, CAT)
    (coat,) = (x for x in lesson.learned if x.kind == "coat")
    assert math.exp(coat.shift) == pytest.approx(said.density / house, rel=1e-3) and coat.of == "flat-black"
    used = edits.learn(plan, lesson.learned)
    film = assess(used, CAT).catalogue.coats["flat-black"].film(2)
    assert film.sigma == pytest.approx(coat.sigma * 2 * said.density, rel=1e-3), "what remains unknown of it"
    more = copy_unchecked(
        used, sections=(copy_unchecked(used.sections[0], inside=(Layer(coat="flat-black", coats=3),)),)
    )
    shows = [max((x.times for x in assess(p, CAT).leaks if x.kind == "wall"), default=0.0) for p in (used, more)]
    assert shows[1] < 1.0 < shows[0], "three hide it now, one does not"
    for value in (0.0, 40.0):
        odd, _ = edits.add_entry(deck(), "coat", "x", section="deck1", value=value)
        assert learned_coat(odd, assessment) is None
    assert words_of(plan, plan.log[-1]) == "3 coats: black"


def test_counts_of_coats_are_intervals():
    """Against draws: paints as the house says, each hides in so many coats; what is learned holds the truth nine times in ten."""
    rng = np.random.default_rng(4)
    needed = (2.4, 3.1, 1.9, 4.2)
    inside, wide, plain = 0, [], 0.0
    for _ in range(600):
        true = 1.6 * np.exp(0.20 * rng.normal())
        counts = [math.ceil(n / (true * np.exp(0.15 * rng.normal()))) for n in needed]
        intervals = tuple((n / c, n / (c - 1) if c > 1 else math.inf) for n, c in zip(needed, counts, strict=True))
        value, spread = within_intervals(1.6, intervals)
        inside += abs(math.log(true / value)) < 1.645 * spread
        wide.append(spread)
        plain += math.log(true / value) ** 2
    assert 0.86 < inside / 600 < 0.94
    assert np.mean(wide) < 0.16 and math.sqrt(plain / 600) < 0.16, "from 20 % to some 15 %"
    # "One was enough" says it is that or more; nothing at all leaves the house's value.
    more, _ = within_intervals(1.6, ((1.5, math.inf),))
    assert 1.6 < more < 2.1 and within_intervals(1.6, ())[0] == pytest.approx(1.6)
    assert within_intervals(1.6, ())[1] == pytest.approx(0.20, rel=1e-3)
