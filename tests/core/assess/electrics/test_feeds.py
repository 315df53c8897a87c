"""From the plan's feeds to currents: what hangs how, which column is whose, what is said about it."""

from __future__ import annotations

import math
import re

import numpy as np
import pytest
from scipy.optimize import brentq

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.uncertainty import draw_sigma
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import (
    Feed,
    Fuse,
    Lamp,
    LampRef,
    Parallel,
    Resistor,
    Series,
    Supply,
    Switch,
    copy_unchecked,
    lamps_in,
)

ONE, TWO, THREE = "deck1.lamp.01", "deck1.lamp.02", "deck1.lamp.03"


def state(plan):
    return assess(plan, built_in())


def hung(plan, *items):
    """The plan with these in its first feed."""
    feed = copy_unchecked(plan.feeds[0], items=items)
    return validate_edit(plan, copy_unchecked(plan, feeds=(feed, *plan.feeds[1:])))


def rules(plan):
    return {f.rule for f in evaluate_rules(plan, state(plan))}


def test_a_lamp_that_no_feed_names_is_as_one_with_a_resistor_of_its_own():
    plan = edits.set_resistor(deck_plan(lamps=1), [ONE], 680.0)
    own = state(plan).lamps[ONE]
    strung = hung(plan, Series(id="a", items=(Resistor(id="a.r", ohm=680.0), LampRef(lamp=ONE))))
    assert state(strung).lamps[ONE].current_a == pytest.approx(own.current_a, rel=1e-9)
    # Ohm's law by hand: what the lamp leaves of the supply lies across its resistor.
    assert own.current_a == pytest.approx((9.0 - own.forward_v) / 680.0, rel=1e-6)


def test_in_series_one_current_flows_and_voltages_add_up():
    plan = hung(
        deck_plan(lamps=2), Series(id="a", items=(Resistor(id="a.r", ohm=470.0), LampRef(lamp=ONE), LampRef(lamp=TWO)))
    )
    assessment = state(plan)
    a, b = assessment.lamps[ONE], assessment.lamps[TWO]
    assert a.current_a == pytest.approx(b.current_a, rel=1e-12)
    assert a.current_a * 470.0 + a.forward_v + b.forward_v == pytest.approx(9.0, abs=1e-6)
    assert assessment.supply.draw_a == pytest.approx(a.current_a, rel=1e-9)


def test_side_by_side_behind_one_resistor_share_its_current():
    plan = hung(deck_plan(lamps=2), Series(id="a", items=(Resistor(id="a.r", ohm=470.0), Parallel(id="p", items=(LampRef(lamp=ONE), LampRef(lamp=TWO))))))  # fmt: skip
    assessment = state(plan)
    a, b = assessment.lamps[ONE], assessment.lamps[TWO]
    assert a.current_a == pytest.approx(b.current_a, rel=1e-9) and a.forward_v == pytest.approx(b.forward_v, rel=1e-9)
    assert (a.current_a + b.current_a) * 470.0 + a.forward_v == pytest.approx(9.0, abs=1e-6)


def test_a_lamp_turned_round_darkens_its_string_and_is_named():
    plan = edits.wire_in_series(deck_plan(lamps=2), [ONE, TWO])
    turned = edits.reverse(plan, TWO)
    assessment = state(turned)
    assert abs(assessment.lamps[ONE].current_a) < 1e-6 and "backwards" in rules(turned)
    fix = next(f for f in evaluate_rules(turned, assessment) if f.rule == "backwards").fixes[0]
    assert state(fix.applied(turned)).lamps[ONE].current_a > 1e-4


def test_a_switch_that_is_open_leaves_its_lamps_dark_and_others_alone():
    base = hung(deck_plan(lamps=3), Series(id="a", items=(Switch(id="s", closed=False), Resistor(id="a.r", ohm=470.0), LampRef(lamp=ONE))))  # fmt: skip
    assessment = state(base)
    assert assessment.lamps[ONE].current_a < 1e-9 and assessment.lamps[TWO].current_a > 1e-4
    closed = hung(base, Series(id="a", items=(Switch(id="s"), Resistor(id="a.r", ohm=470.0), LampRef(lamp=ONE))))
    assert state(closed).lamps[ONE].current_a > 1e-3


def test_a_fuse_takes_next_to_nothing():
    bare = hung(deck_plan(lamps=1), Series(id="a", items=(Resistor(id="a.r", ohm=470.0), LampRef(lamp=ONE))))
    fused = hung(
        bare, Series(id="a", items=(Fuse(id="f", rated_a=0.5), Resistor(id="a.r", ohm=470.0), LampRef(lamp=ONE)))
    )
    share = state(fused).lamps[ONE].current_a / state(bare).lamps[ONE].current_a
    assert 0.99 < share < 1.0


def test_a_second_source_feeds_what_hangs_on_it_and_nothing_else():
    plan, other = edits.add_feed(deck_plan(lamps=3), "usb-5v")
    plan = validate_edit(deck_plan(lamps=3), edits.hang_on(plan, [TWO], other))
    assessment = state(plan)
    assert assessment.lamps[TWO].feed == other and assessment.lamps[ONE].feed == plan.feeds[0].id
    assert set(assessment.feeds) == {f.id for f in plan.feeds}
    assert assessment.feeds[other].draw_a == pytest.approx(assessment.lamps[TWO].current_a, rel=1e-6)
    assert assessment.feeds[plan.feeds[0].id].draw_a == pytest.approx(assessment.lamps[ONE].current_a + assessment.lamps[THREE].current_a, rel=1e-6)  # fmt: skip
    back = edits.drop_feed(plan, other)
    assert [f.id for f in back.feeds] == [plan.feeds[0].id] and state(back).lamps[TWO].feed == plan.feeds[0].id
    with pytest.raises(PlanError, match="only one"):
        edits.drop_feed(back, back.feeds[0].id)


def test_a_lamp_hangs_in_one_place():
    plan = deck_plan(lamps=2)
    with pytest.raises(PlanError, match="two places"):
        hung(plan, LampRef(lamp=ONE), Series(id="a", items=(LampRef(lamp=ONE),)))
    with pytest.raises(PlanError, match="isn't there"):
        hung(plan, LampRef(lamp="nobody"))


def test_a_tree_is_saved_and_loaded_unchanged():
    plan = hung(
        deck_plan(lamps=3),
        Series(id="a", items=(Fuse(id="f"), Switch(id="s", kind="reed", group="main"), Parallel(id="p", items=(
            Series(id="b", items=(Resistor(id="r1"), LampRef(lamp=ONE))), Series(id="c", items=(Resistor(id="r2", ohm=330.0), LampRef(lamp=TWO, reversed=True))))))),
    )  # fmt: skip
    again = storage.plan_from_json(storage.plan_to_json(plan).encode(), "x")
    assert again == plan and [x.lamp for x in lamps_in(again.feeds[0].items[0])] == [ONE, TWO]
    copied, (new,) = edits.duplicate(plan, [ONE], (5.0, 0.0, 0.0))
    assert find_lamp(copied, new) == 0, "a copy has a resistor of its own"


def find_lamp(plan, lamp_id):
    return sum(x.lamp == lamp_id for f in plan.feeds for item in f.items for x in lamps_in(item))


def test_resistors_shared_are_sized_for_all_behind_them():
    """Two lamps side by side behind one resistor reach the wanted light together: its value is near half of one's own."""
    plan = deck_plan(lamps=2)
    single = state(plan)
    shared = state(edits.wire_side_by_side(plan, [ONE, TWO]))
    half = single.lamps[ONE].resistor_ohm / 2
    assert half / 1.25 <= shared.lamps[ONE].resistor_ohm <= half * 1.25
    assert shared.lamps[ONE].current_a == pytest.approx(single.lamps[ONE].current_a, rel=0.2)


def test_a_white_lamp_on_one_fresh_lithium_cell_is_judged_fresh():
    plan = edits.set_resistor(deck_plan(lamps=1, supply="li-ion-18650"), [ONE], 15.0)
    plan = edits.set_fields(plan, [ONE], part="chip-0603-warm-white")
    assessment = state(plan)
    lamp = assessment.lamps[ONE]
    assert lamp.fresh_a > lamp.current_a
    # By hand: 4.2 V less what the lamp takes at that current, across 15 Ω and the cell's own 0.08 Ω.
    family = built_in().families[built_in().lamps[lamp.part].family]
    slope = (family.v20_v - family.v1_v - 0.019 * family.rs_ohm) / math.log(20.0)
    volts = lambda i: family.v20_v + slope * math.log(i / 0.02) + family.rs_ohm * (i - 0.02)  # noqa: E731
    assert lamp.fresh_a == pytest.approx(brentq(lambda i: 4.2 - volts(i) - 15.08 * i, 1e-4, 0.2), rel=0.01)
    assert lamp.fresh_a > 1.5 * lamp.rated_a and "over-rated" in rules(plan)


@pytest.mark.parametrize("supply", ["block-9v", "coin-cr2032", "aa-alkaline", "li-ion-18650"])
def test_batteries_empty_and_say_so(supply):
    plan = deck_plan(lamps=1)
    plan = copy_unchecked(
        plan, feeds=(Feed(id="supply", supply=Supply(part=supply, in_series=4 if "aa" in supply else 1)),)
    )
    whole = state(plan)
    found, meter = whole.supply, next(m for m in whole.meters if m.id == "run_time")
    assert found.is_battery and np.isfinite(found.hours) and meter.value == found.hours
    # 15 % of capacity, lognormal: 5 and 95 % lie e^(±1.645 × 0.15) = 0.781 and 1.280 times from the middle; what is drawn strays as well.
    low, high = meter.band
    strays = draw_sigma(whole.branches, whole.lamps, "supply")
    assert low / meter.share == pytest.approx(math.exp(-1.645 * math.hypot(0.15, strays)), abs=1e-3)
    assert 0.0 < strays < 0.5 and low / meter.share < 0.781 + 1e-3 and high / meter.share > 1.280 - 1e-3
    assert np.all(np.diff(found.curve_terminal_v) <= 1e-9)


@pytest.mark.parametrize("supply", ["block-9v", "coin-cr2032"])
def test_lamps_that_are_alike_are_solved_as_one_and_come_out_as_each(supply):
    """Five lamps behind resistors of their own against the same five drawn out one by one, on a soft source."""
    plan = edits.set_resistor(deck_plan(supply=supply), [f"deck1.lamp.0{i}" for i in range(1, 6)], 330.0)
    assessment = state(plan)
    drawn = hung(
        plan, *(Series(id=f"s{i}", items=(Resistor(id=f"s{i}.r", ohm=330.0), LampRef(lamp=f"deck1.lamp.0{i}"))) for i in range(1, 6))
    )  # fmt: skip
    singly = state(drawn)
    for key, lamp in assessment.lamps.items():
        assert lamp.current_a == pytest.approx(singly.lamps[key].current_a, rel=1e-9)
        assert lamp.fresh_a == pytest.approx(singly.lamps[key].fresh_a, rel=1e-9)
    assert assessment.supply.draw_a == pytest.approx(5 * assessment.lamps[ONE].current_a, rel=1e-9)
    assert assessment.supply.hours == pytest.approx(singly.supply.hours, rel=1e-9)
    assert assessment.supply.curve_light == pytest.approx(singly.supply.curve_light, rel=1e-9)


def test_very_little_current_is_said_once_for_a_section():
    plan = edits.set_resistor(deck_plan(), [f"deck1.lamp.0{i}" for i in range(1, 6)], 220_000.0)
    said = [f for f in evaluate_rules(plan, state(plan)) if f.rule == "very-little-current"]
    assert len(said) == 1 and "and 4 more" in said[0].sentence
    one = edits.set_resistor(deck_plan(), [TWO], 220_000.0)
    said = [f for f in evaluate_rules(one, state(one)) if f.rule == "very-little-current"]
    assert [f.subject for f in said] == [TWO] and "more" not in said[0].sentence


def test_two_colours_back_to_back_are_no_mistake():
    """One body, two colours, one of them turned: it lights when the rails are swapped, and is only told."""
    red = Lamp(id="duo.red", part="duo-5-red-green-red", at=(80.0, 0.0, 18.0))
    green = Lamp(id="duo.green", part="duo-5-red-green-green", at=(80.0, 0.0, 18.0))
    plan = edits.add_lamp(edits.add_lamp(deck_plan(lamps=0), red), green)
    pair = Series(id="a", items=(Resistor(id="a.r", ohm=470.0), Parallel(id="p", items=(LampRef(lamp="duo.red"), LampRef(lamp="duo.green", reversed=True)))))  # fmt: skip
    plan = hung(plan, pair)
    assessment = state(plan)
    assert assessment.lamps["duo.red"].current_a > 5e-3 and abs(assessment.lamps["duo.green"].current_a) < 1e-9
    assert "back-to-back" in rules(plan) and "backwards" not in rules(plan)


def test_a_strip_under_its_volts_says_its_band():
    strip = Lamp(id="strip", part="strip-12v-60-warm-white", at=(80.0, 0.0, 18.0))
    plan = edits.add_lamp(deck_plan(lamps=0, supply="adapter-9v-0.5a"), strip)
    found = next(f for f in evaluate_rules(plan, state(plan)) if f.rule == "under-volts")
    low, high = map(float, re.search(r"From (\d+) to (\d+) %", found.sentence).groups())
    bare = state(edits.set_resistor(plan, ["strip"], 0.001)).lamps["strip"].share * 100
    assert low < bare < high
    left = float(re.search(r"leave ([\d.]+) %", found.sentence).group(1))
    assert left == pytest.approx(state(plan).lamps["strip"].share * 100, rel=0.02), "the resistor chosen for its look"
