"""What all readings of a plan teach together: told apart, used, kept, taken back; and whether it holds."""

from __future__ import annotations

import math

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.bands import bands_of
from gwiazda.core.assess.uncertainty import point_sigma
from gwiazda.core.parts.catalogue import Known, built_in
from gwiazda.core.parts.spreads import BAG
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Laid, PaneTold, Plan, Wanted, copy_unchecked
from gwiazda.core.plan.storage import load, plan_from_json
from gwiazda.core.workbench.builds.taught import Evening, verify_taught
from gwiazda.core.workbench.learning.lesson import house_of, lesson_of
from gwiazda.core.workbench.log import read_on, times_house
from gwiazda.demos import path_of

CAT = built_in()
LAMPS = tuple(f"deck1.lamp.{k:02d}" for k in (1, 2, 3, 4))


def deck() -> Plan:
    return edits.set_wanted(deck_plan(windows=4, lamps=4), LAMPS, Wanted(current_ma=8.0))


def read(plan: Plan, what: str, place: str, times: float) -> Plan:
    """A reading of so many times what is predicted, kept as the bench does."""
    assessment = assess(plan, CAT)
    kept = read_on(plan, assessment, what, place)
    value = float(kept["said"]) * times_house(assessment, what, place) * times
    return edits.add_entry(plan, "reading", what=what, place=place, value=value, **kept)[0]


def learned(plan: Plan) -> Plan:
    return edits.learn(plan, lesson_of(plan, CAT).learned)


def photographed(plan: Plan, times: dict[str, float], level: float, sigma: float = 0.05) -> Plan:
    told = tuple(PaneTold(on=o.id, ratio=times.get(o.id, 1.0) * level, sigma=sigma) for o in plan.openings)
    plan, entry = edits.add_entry(plan, "note", "lit", photo="lit.jpg", laid=Laid())
    return edits.photo_told(plan, entry, told)


@settings(deadline=None, max_examples=12)
@given(st.floats(0.5, 2.0))
def test_lux_before_the_lamps_moves_all_of_the_bag_part_of_the_way(times):
    """By hand: three lamps of a bag, each straying by itself .1 and read to .1 (currents hardly count): their mean to √(.02/3) = .0816, the
    bag itself .2; so 1/(1 + (.0816/.2)²) = .857 of the way, a little less for what their currents stray by."""
    plan = deck()
    house = assess(plan, CAT)
    for lamp in LAMPS[:3]:
        plan = read(plan, "lux", lamp, times)
    after = assess(learned(plan), CAT)
    part = house.lamps[LAMPS[0]].part
    bag = next(x for x in learned(plan).learned if x.kind == "light" and x.of == part)
    assert bag.shift == pytest.approx(math.log(times), abs=0.2 * abs(math.log(times)) + 1e-6)
    assert bag.sigma < 0.6 * BAG and bag.readings == 3
    # A lamp that was read follows its own reading further than one that wasn't, and is surer.
    read_one, other = (math.log(after.lamps[k].axial_cd / house.lamps[k].axial_cd) for k in (LAMPS[0], LAMPS[3]))
    assert abs(other) <= abs(read_one) + 1e-6 <= abs(math.log(times)) + 2e-3
    assert point_sigma(after.catalogue, after.lamps[LAMPS[0]]) < point_sigma(after.catalogue, after.lamps[LAMPS[3]])
    # The deck's windows follow, with the same light.
    pane = plan.openings[0].id
    more = math.log(after.openings[pane].luminance_cd_m2 / house.openings[pane].luminance_cd_m2)
    assert (
        abs(more - bag.shift) <= abs(read_one - bag.shift) + 1e-3
        and after.openings[pane].sigma < house.openings[pane].sigma
    )


def test_one_window_read_moves_its_section_and_its_band_and_no_more():
    plan = read(deck(), "cd_m2", "deck1.window.01", 1.3)
    house, after = assess(deck(), CAT), assess(learned(plan), CAT)
    mean = after.sections["deck1"].mean_cd_m2 / house.sections["deck1"].mean_cd_m2
    assert 1.2 < mean < 1.3, "what all panes have in common is most of what strays"
    assert after.sections["deck1"].sigma < 0.4 * house.sections["deck1"].sigma
    assert after.openings["deck1.window.01"].sigma < after.openings["deck1.window.04"].sigma
    assert after.feeds["supply"].draw_a == pytest.approx(house.feeds["supply"].draw_a)


def test_a_photo_alone_says_which_pane_is_brighter_and_nothing_of_how_bright_all_are():
    plan = photographed(deck(), {"deck1.window.02": 1.25}, level=3.0)
    house, after = assess(deck(), CAT), assess(learned(plan), CAT)
    ratio = {o.id: after.openings[o.id].luminance_cd_m2 / house.openings[o.id].luminance_cd_m2 for o in plan.openings}
    others = [v for k, v in ratio.items() if k != "deck1.window.02"]
    assert ratio["deck1.window.02"] > 1.04 * max(others) and max(others) < 1.15, "three times as bright is the exposure"
    assert after.sections["deck1"].sigma > 0.9 * house.sections["deck1"].sigma
    # With a reading, the level is known too, and every pane's band is narrow.
    both = assess(learned(read(plan, "cd_m2", "deck1.window.01", 1.2)), CAT)
    assert all(both.openings[o.id].sigma < 0.13 for o in plan.openings)
    assert both.sections["deck1"].mean_cd_m2 / house.sections["deck1"].mean_cd_m2 == pytest.approx(1.2, rel=0.06)


def test_a_photo_with_a_patch_of_known_grey_says_how_bright_all_are():
    plan = photographed(deck(), {}, level=1.4)
    entry = plan.log[-1].id
    plan = edits.lay_photo(plan, entry, Laid(grey_lux=20.0))
    after, house = assess(learned(plan), CAT), assess(deck(), CAT)
    assert after.sections["deck1"].mean_cd_m2 / house.sections["deck1"].mean_cd_m2 == pytest.approx(1.4, rel=0.05)


def test_what_was_learned_is_not_learned_again_and_is_taken_back_whole():
    plan = deck()
    for lamp in LAMPS[:3]:
        plan = read(plan, "lux", lamp, 1.4)
    once = learned(plan)
    assert learned(once).learned == once.learned, "the house's figure is what a reading is held against"
    # A reading that agrees with what was learned is held against the house too.
    surer = read(once, "lux", LAMPS[3], 1.0)
    assert surer.log[-1].said == pytest.approx(float(plan.log[0].said or 0.0), rel=0.02)
    assert next(x.sigma for x in learned(surer).learned if x.kind == "light") < next(
        x.sigma for x in once.learned if x.kind == "light"
    )
    back = edits.learn(once, ())
    assert assess(back, CAT).sections == assess(plan, CAT).sections
    assert house_of(once, CAT).sections == assess(deck(), CAT).sections


def test_it_is_saved_and_read_again_and_old_plans_have_learned_nothing():
    plan = learned(read(photographed(deck(), {}, 1.0), "cd_m2", "deck1.window.01", 1.2))
    again = plan_from_json(msgspec.json.encode(plan), "here")
    assert again.learned == plan.learned and again.log == plan.log and plan.learned
    assert assess(again, CAT).openings == assess(plan, CAT).openings


def test_what_is_changed_since_it_was_read_counts_no_more():
    plan = learned(read(deck(), "cd_m2", "deck1.window.01", 1.3))
    other = copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], lining="silver"),))
    fresh = edits.learn(other, ())
    now, bare = assess(other, CAT), assess(fresh, CAT)
    # What was said of the section is gone; what was said of the bag of lamps stays.
    bag = next(x for x in plan.learned if x.kind == "light")
    assert now.sections["deck1"].mean_cd_m2 / bare.sections["deck1"].mean_cd_m2 == pytest.approx(
        math.exp(bag.shift), rel=0.01
    )
    assert now.sections["deck1"].sigma > 0.9 * bare.sections["deck1"].sigma * bag.sigma / BAG
    assert lesson_of(other, CAT).moved == (), "and a reading of the old lining teaches nothing of the new one"


def test_a_wild_reading_is_left_out_and_said_so():
    plan = deck()
    for o in plan.openings[:4]:
        plan = read(plan, "cd_m2", o.id, 1.1)
    wild = read(plan, "cd_m2", plan.openings[2].id, 3.0)
    lesson = lesson_of(wild, CAT)
    assert lesson.left_out == (plan.openings[2].id,)
    assert lesson.learned == lesson_of(plan, CAT).learned
    dead = read(deck(), "lux", LAMPS[0], 0.01)
    assert lesson_of(dead, CAT).moved == (), "a broken lamp teaches nothing of its kind"


def test_settled_readings_and_an_empty_log_teach_nothing():
    assert lesson_of(deck(), CAT) == ((), (), (), False)
    assert lesson_of(edits.settle_readings(read(deck(), "cd_m2", "deck1.window.01", 1.3)), CAT).learned == ()


def test_an_adapter_s_volts_once_read_are_its_own():
    plan = edits.set_supply(deck(), part="adapter-12v-1a")
    plan, _ = edits.add_entry(plan, "reading", what="volts", place="supply", value=12.4)
    house, after = assess(plan, CAT), assess(learned(plan), CAT)
    (found,) = learned(plan).learned
    assert found.kind == "source" and found.shift == pytest.approx(math.log(12.4 / 12.0), abs=1e-4)
    draws = {b.kind: b for b in bands_of(plan, after)}, {b.kind: b for b in bands_of(plan, house)}
    assert draws[0]["draw"].width < draws[1]["draw"].width
    assert after.lamps[LAMPS[0]].current_sigma[0] < 0.3 * house.lamps[LAMPS[0]].current_sigma[0]


def test_other_plans_say_less_than_ones_own_readings():
    plan = deck()
    part = plan.lamps[0].part
    others = {("light", part): Known(0.3, 0.15, 6)}
    said = assess(plan, CAT.with_known(others))
    house = assess(plan, CAT)
    assert said.lamps[LAMPS[0]].axial_cd / house.lamps[LAMPS[0]].axial_cd == pytest.approx(math.exp(0.3), rel=1e-3)
    assert said.sections["deck1"].sigma < house.sections["deck1"].sigma
    mine = read(read(plan, "lux", LAMPS[0], 1.0), "lux", LAMPS[1], 1.0)
    alone, with_others = (next(x for x in lesson_of(mine, CAT, o).learned if x.kind == "light") for o in ({}, others))
    assert abs(alone.shift) < with_others.shift < 0.3 and with_others.sigma < 0.15


def test_a_dragged_lamp_makes_no_other_catalogue():
    plan = learned(read(deck(), "cd_m2", "deck1.window.01", 1.3))
    moved = edits.move(plan, (LAMPS[0],), (1.0, 0.0, 0.0))
    assert assess(moved, CAT).catalogue is assess(plan, CAT).catalogue
    assert assess(plan, CAT).catalogue.base is CAT


@pytest.mark.parametrize(("name", "seed"), [("perkoz", 7), ("swistak", 11)])
def test_after_an_evening_a_pane_is_known_to_fifteen_percent_and_it_holds(name, seed):
    """One photo of the whole, three panes of each section by a meter: of forty builds each."""
    verdict = verify_taught(name, load(path_of(name)).plan, CAT, 40, seed, Evening(1, 3))
    window = next(c for c in verdict.kinds if c.kind == "window")
    assert window.width <= 0.30 and window.readings >= 400
    assert 0.85 < window.inside <= 0.97, "nine in ten, and what four hundred readings of forty builds leave to chance"
