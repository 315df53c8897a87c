"""Light and coats learned from the log."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.choices.substitute import with_part
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Layer, Wanted, copy_unchecked
from gwiazda.core.workbench.learn_light import learned_coat, learned_light, with_coat, within_intervals
from gwiazda.core.workbench.log import beside, words_of
from gwiazda.core.workshop.own import with_density, with_light
from gwiazda.core.workshop.workshop import Workshop, load_workshop, save_workshop

CAT = built_in()
LAMPS = tuple(f"deck1.lamp.{k:02d}" for k in (1, 2, 3, 4))


def deck(**section):
    plan = edits.set_wanted(deck_plan(windows=4, lamps=4), LAMPS, Wanted(current_ma=8.0))
    return copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], **section),)) if section else plan


@settings(deadline=None, max_examples=15)
@given(st.floats(0.4, 2.5))
def test_lux_before_the_lamp_teaches_its_light_and_the_own_part_then_agrees(ratio):
    plan = deck()
    assessment = assess(plan, CAT)
    for k, lamp in enumerate(LAMPS[:3]):
        lux = assessment.lamps[lamp].axial_cd / 0.1**2  # I = E·r², 100 mm away
        plan, _ = edits.add_entry(plan, "reading", what="lux", place=lamp, value=lux * ratio * (1.0 + 0.02 * (k - 1)))
    (said,) = learned_light(plan, assessment)
    assert said.ratio == pytest.approx(ratio, rel=0.001) and len(said.places) == 3 and 0.01 < said.spread < 0.03
    workshop, part = with_light(Workshop(), CAT.lamps[said.part], said.ratio)
    own = with_part(said.part, part)(plan)
    again = assess(own, workshop.catalogue)
    assert again.lamps[LAMPS[0]].axial_cd == pytest.approx(assessment.lamps[LAMPS[0]].axial_cd * ratio, rel=0.002)
    assert again.lamps[LAMPS[0]].flux_lm == pytest.approx(assessment.lamps[LAMPS[0]].flux_lm * ratio, rel=0.01)
    assert not any(x.tells for x in learned_light(own, again))


def test_an_own_part_keeps_its_place_over_a_restart(tmp_path):
    workshop, part = with_light(
        Workshop(),
        CAT.lamps["dome-3-warm-white"] if "dome-3-warm-white" in CAT.lamps else next(iter(CAT.lamps.values())),
        0.8,
    )
    save_workshop(workshop, tmp_path)
    again, said = load_workshop(tmp_path)
    assert said == () and again.lamps[part].axial_mcd == pytest.approx(workshop.lamps[part].axial_mcd, rel=1e-3)
    better, same = with_light(again, again.lamps[part], 1.1)
    assert same == part and better.lamps[part].axial_mcd == pytest.approx(1.1 * again.lamps[part].axial_mcd, rel=1e-3)


def test_one_lamp_or_one_section_alone_teaches_nothing_and_broken_ones_are_left_out():
    plan = deck()
    assessment = assess(plan, CAT)
    lux = assessment.lamps[LAMPS[0]].axial_cd * 100.0
    one, _ = edits.add_entry(plan, "reading", what="lux", place=LAMPS[0], value=lux * 0.5)
    assert learned_light(one, assessment) == ()
    dead, _ = edits.add_entry(one, "reading", what="lux", place=LAMPS[1], value=lux * 0.01)
    assert learned_light(dead, assessment) == ()
    pane = plan.openings[0].id
    section, _ = edits.add_entry(
        one, "reading", what="cd_m2", place=pane, value=assessment.openings[pane].luminance_cd_m2 * 0.5
    )
    (said,) = learned_light(section, assessment)
    assert said.places == ("deck1", LAMPS[0]) and said.ratio == pytest.approx(0.5)
    settled = edits.settle_readings(section)
    assert learned_light(settled, assessment) == ()


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
    assert off.off == pytest.approx(math.log(3.0) / math.hypot(0.2, 0.1))
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
    workshop, coat = with_density(Workshop(), CAT.coats["flat-black"], said.density, said.spread)
    used = with_coat("flat-black", coat, plan)
    assert used.sections[0].inside[0].coat == coat and workshop.catalogue.coats[coat].basis == "measured"
    more = copy_unchecked(used, sections=(copy_unchecked(used.sections[0], inside=(Layer(coat=coat, coats=3),)),))
    shows = [
        max((x.times for x in assess(p, workshop.catalogue).leaks if x.kind == "wall"), default=0.0)
        for p in (used, more)
    ]
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
        true = 1.6 * np.exp(0.25 * rng.normal())
        counts = [math.ceil(n / (true * np.exp(0.15 * rng.normal()))) for n in needed]
        intervals = tuple((n / c, n / (c - 1) if c > 1 else math.inf) for n, c in zip(needed, counts, strict=True))
        value, spread = within_intervals(1.6, intervals)
        inside += abs(math.log(true / value)) < 1.645 * spread
        wide.append(spread)
        plain += math.log(true / value) ** 2
    assert 0.86 < inside / 600 < 0.94
    assert np.mean(wide) < 0.16 and math.sqrt(plain / 600) < 0.16, "from 25 % to some 15 %"
    # "One was enough" says it is that or more; nothing at all leaves the house's value.
    more, _ = within_intervals(1.6, ((1.5, math.inf),))
    assert 1.6 < more < 2.1 and within_intervals(1.6, ())[0] == pytest.approx(1.6)
    assert within_intervals(1.6, ())[1] == pytest.approx(0.25, rel=1e-3)
