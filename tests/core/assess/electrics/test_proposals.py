"""Circuits proposed, habits tried, dimming compared, stock and pairs, unknown lamps, instruments."""

from __future__ import annotations

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assembly.effort import effort_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.dimming import dimmings
from gwiazda.core.assess.electrics.propose import HEADROOM, fewest_strings, figures_of, proposals
from gwiazda.core.assess.electrics.stage import given_by
from gwiazda.core.circuit.parts.identify import Points, identified
from gwiazda.core.circuit.shelf import shelf_of
from gwiazda.core.errors import CircuitError, PlanError, QuantityError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.findings.what_if import HABITS, habits_for, tried
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.lookup import string_of
from gwiazda.core.plan.model import Lamp, Supply, Wanted, copy_unchecked, lamps_in
from gwiazda.core.workbench.instruments import Clip, measure, supply_on
from gwiazda.core.workshop.jotted import read_stock, stock_words
from gwiazda.core.workshop.workshop import Workshop, load_workshop, save_workshop

ONE, TWO, THREE = (f"deck1.lamp.0{i}" for i in range(1, 4))


def on(plan, **supply):
    return copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], supply=Supply(**supply)),))


def lit(plan, ma):
    return edits.set_wanted(plan, [p.id for p in plan.lamps], Wanted(current_ma=ma))


def state(plan):
    return assess(plan, built_in())


# -- proposals ------------------------------------------------------------------------------------------------


@given(st.lists(st.sampled_from([1.8, 2.0, 2.7, 3.0]), min_size=1, max_size=9), st.floats(2.0, 12.0))
def test_strings_are_full_and_as_few_as_can_be(volts, capacity):
    """Against every way to divide them, for small numbers."""
    strings = fewest_strings(volts, capacity)
    assert sorted(itertools.chain(*strings)) == list(range(len(volts)))
    assert all(len(s) == 1 or sum(volts[i] for i in s) <= capacity + 0.01 for s in strings)
    if len(volts) <= 6:
        assert len(strings) == _fewest_by_trying(tuple(sorted(volts, reverse=True)), capacity)


def _fewest_by_trying(volts, capacity):
    best = len(volts)

    def place(i, loads):
        nonlocal best
        if len(loads) >= best:
            return
        if i == len(volts):
            best = len(loads)
            return
        for k in range(len(loads)):
            if loads[k] + volts[i] <= capacity:
                place(i + 1, [*loads[:k], loads[k] + volts[i], *loads[k + 1 :]])
        place(i + 1, [*loads, volts[i]])

    place(0, [])
    return best


def test_proposals_spare_resistors_and_keep_headroom():
    plan = lit(on(deck_plan(lamps=5), part="adapter-12v-1a"), 5.0)
    assessment = state(plan)
    offered = proposals(plan, assessment)
    assert offered[-1].name == "As it is" and offered[-1].plan is plan
    strings = next(p for p in offered if p.name.startswith("Strings, Adapter 12 V"))
    # Five whites of about 2.8 V: three go into 80 % of 12 V, so two strings.
    assert strings.figures.resistors == 2 and strings.figures.draw_a < 0.5 * assessment.supply.draw_a
    assert strings.figures.headroom >= HEADROOM - 1e-9 and "resistors and" in strings.words
    after = state(validate_edit(plan, strings.plan))
    assert after.supply.draw_a == pytest.approx(strings.figures.draw_a, rel=1e-6)
    assert not [
        f
        for f in evaluate_rules(strings.plan, after)
        if f.severity == "stop" and f.topic in ("wiring", "rating", "supply")
    ]
    assert sum(e.joints for e in effort_of(strings.plan, built_in())) == strings.figures.joints
    assert min(s.share / s.wanted_share for s in after.lamps.values()) == pytest.approx(
        strings.figures.dimmest, rel=1e-3
    )


def test_what_is_pinned_stays():
    plan = lit(on(deck_plan(lamps=5), part="adapter-12v-1a"), 5.0)
    plan = edits.set_resistor(plan, [ONE], 820.0)
    plan, _ = edits.put_before(plan, TWO, "regulator")
    kept_one, kept_two = string_of(plan, ONE), string_of(plan, TWO)
    for p in proposals(plan, state(plan)):
        assert string_of(p.plan, ONE) == kept_one and string_of(p.plan, TWO) == kept_two
        if p.plan.lamps:
            assert next(x for x in p.plan.lamps if x.id == ONE).resistor_ohm == 820.0


def test_lamps_of_other_channels_or_currents_are_not_strung_together():
    plan = lit(on(deck_plan(lamps=5), part="adapter-12v-1a"), 5.0)
    plan = edits.play_on(plan, [ONE, TWO], "bow")
    plan = edits.set_wanted(plan, [THREE], Wanted(current_ma=12.0))
    for p in proposals(plan, state(plan)):
        for feed in p.plan.feeds:
            for item in feed.items:
                mine = {leaf.lamp for leaf in lamps_in(item)}
                assert not (mine & {ONE, TWO} and mine - {ONE, TWO}) and mine <= {THREE} | (mine - {THREE}) and (THREE not in mine or mine == {THREE})  # fmt: skip


def test_proposing_can_be_stopped():
    plan = lit(deck_plan(lamps=3), 5.0)
    assert [p.name for p in proposals(plan, state(plan), stop=lambda: True)] == ["As it is"]


def test_figures_count_what_is_there():
    plan = lit(deck_plan(lamps=3), 5.0)
    assessment = state(plan)
    f = figures_of(plan, given_by(plan, assessment))
    assert (f.resistors, f.joints) == (3, 9) and math.isinf(f.hours)
    # By hand: what each resistor takes of its 9 V.
    lost = sum(s.current_a**2 * s.resistor_ohm for s in assessment.lamps.values()) / (9.0 * assessment.supply.draw_a)
    assert f.lost_share == pytest.approx(lost, rel=1e-6)


# -- wired their way --------------------------------------------------------------------------------------------


def mixed():
    plan = edits.add_lamp(deck_plan(windows=4, lamps=2), Lamp(id="red.01", part="chip-0805-red", at=(80.0, 0.0, 18.0)))
    return lit(plan, 5.0)


def test_one_resistor_for_all_of_a_kind_does_no_harm():
    plan = lit(deck_plan(lamps=3), 5.0)
    assessment = state(plan)
    t = tried(plan, assessment, (ONE, TWO, THREE), "shared", built_in())
    assert not t.harm and "shared out among 3" in t.sentence
    assert t.assessment.lamps[ONE].current_a < 0.5 * assessment.lamps[ONE].current_a


def test_red_beside_white_on_one_resistor_takes_it_all():
    plan = mixed()
    t = tried(plan, state(plan), (ONE, "red.01"), "shared", built_in())
    assert not t.harm and t.sentence.startswith("Red needs less voltage") and "stays dark" in t.sentence
    assert t.assessment.lamps["red.01"].current_a > 50 * t.assessment.lamps[ONE].current_a


def test_no_resistor_kills_on_an_adapter_and_works_on_a_soft_cell():
    plan = lit(deck_plan(lamps=1), 5.0)
    t = tried(plan, state(plan), (ONE,), "bare", built_in())
    assert t.harm and "× what it is rated for" in t.sentence and t.assessment.lamps[ONE].resistor_ohm == 0
    soft = lit(on(deck_plan(lamps=1), part="coin-cr2032"), 5.0)
    assert not tried(soft, state(soft), (ONE,), "bare", built_in()).harm


def test_the_side_of_the_resistor_changes_nothing():
    plan = lit(deck_plan(lamps=1), 5.0)
    assessment = state(plan)
    t = tried(plan, assessment, (ONE,), "minus-side", built_in())
    assert not t.harm and "the light stays as it was" in t.sentence
    assert t.assessment.lamps[ONE].current_a == pytest.approx(assessment.lamps[ONE].current_a, rel=1e-9)


def test_one_more_resistor_beside_is_brighter_and_behind_is_dimmer():
    plan = lit(deck_plan(lamps=1), 5.0)
    assessment = state(plan)
    beside = tried(plan, assessment, (ONE,), "one-beside", built_in())
    behind = tried(plan, assessment, (ONE,), "one-behind", built_in())
    now = assessment.lamps[ONE]
    assert not beside.harm and beside.assessment.lamps[ONE].current_a == pytest.approx((9.0 - beside.assessment.lamps[ONE].forward_v) / (now.resistor_ohm / 2), rel=1e-6)  # fmt: skip
    assert behind.assessment.lamps[ONE].current_a < 0.55 * now.current_a and "× the light" in behind.sentence
    bright = lit(deck_plan(lamps=1), 18.0)
    assert tried(bright, state(bright), (ONE,), "one-beside", built_in()).harm


def test_the_slip_s_least_voltage_is_answered_with_figures():
    plan = lit(deck_plan(lamps=1), 5.0)
    t = tried(plan, state(plan), (ONE,), "slip", built_in())
    # 9 V less 2.95 over 20 mA: 302.5 Ω, and the current it gives by Ohm's law.
    lamp = t.assessment.lamps[ONE]
    assert lamp.resistor_ohm == pytest.approx(302.5) and lamp.current_a == pytest.approx(
        (9.0 - lamp.forward_v) / 302.5, rel=1e-6
    )
    assert not t.harm and "the light it has now" in t.sentence


def test_backwards_stays_dark():
    plan = lit(deck_plan(lamps=1), 5.0)
    t = tried(plan, state(plan), (ONE,), "turned", built_in())
    assert t.harm and "stays dark" in t.sentence
    three = lit(deck_plan(lamps=1, supply="adapter-3v-0.5a"), 2.0)
    assert not tried(three, state(three), (ONE,), "turned", built_in()).harm


def test_habits_ask_for_as_many_lamps_as_they_take():
    assert {h.id for h in habits_for((ONE,))} == {h.id for h in HABITS} - {"shared"}
    plan = deck_plan(lamps=1)
    with pytest.raises(PlanError, match="1 lamp picked"):
        tried(plan, state(plan), (ONE,), "shared", built_in())


# -- dimming, stock, pairs ----------------------------------------------------------------------------------------


def test_three_ways_to_one_look():
    plan = edits.set_wanted(deck_plan(lamps=1), [ONE], Wanted(current_ma=2.0))
    assessment = state(plan)
    by = {d.way: d for d in dimmings(plan, assessment, ONE)}
    share = assessment.lamps[ONE].wanted_share
    assert by["resistor"].current_a == pytest.approx(2e-3, rel=1e-6) and by["duty"].duty == pytest.approx(share)
    # Energy: what is drawn at the rail's volts is what lamp and loss take.
    for d in by.values():
        assert d.draw_w == pytest.approx(d.volts * d.current_a, rel=1e-6)
    # A white gives more light for its current when driven gently: a duty draws more for the same look.
    assert by["duty"].current_a > by["resistor"].current_a
    assert by["supply"].volts < by["resistor"].volts and by["supply"].draw_w < by["resistor"].draw_w
    full = edits.set_wanted(plan, [ONE], Wanted(look="full"))
    assert dimmings(full, state(full), ONE) == ()


def test_stock_is_read_as_it_is_jotted_down():
    stock = read_stock("220 x20, 470; 1k × 5, 4k7")
    assert stock == {220.0: 20, 470.0: 1, 1000.0: 5, 4700.0: 1} and read_stock(" ") == {}
    assert read_stock(stock_words(stock)) == stock
    for text in ("220, many", "470 x", "1k x9999999"):
        with pytest.raises(QuantityError):
            read_stock(text)


def test_resistors_come_from_the_user_s_own_stock(tmp_path):
    shop = Workshop().with_stock({220.0: 4, 1200.0: 2, 3300.0: 0})
    save_workshop(shop, tmp_path)
    again, said = load_workshop(tmp_path)
    assert again.stock == shop.stock and said == () and again.catalogue.resistors == (220.0, 1200.0)
    plan = lit(deck_plan(lamps=1), 5.0)
    plan = edits.set_drawer(plan, series="stock")
    assert assess(plan, again.catalogue).lamps[ONE].resistor_ohm == 1200.0
    assert assess(plan, built_in()).lamps[ONE].resistor_ohm == 1500.0, "an empty stock counts as E12"
    assert shelf_of("stock", ()).name == "E12"
    (tmp_path / "drawer.csv").write_text("nonsense")
    broken, said = load_workshop(tmp_path)
    assert not broken.stock and "drawer.csv can't be read" in said[0]


def test_a_pair_taken_gives_what_was_wanted():
    plan = lit(deck_plan(lamps=1), 5.0)
    for how, a, b in (("series", 1000.0, 220.0), ("parallel", 2200.0, 2700.0)):
        paired = validate_edit(plan, edits.set_pair(plan, ONE, how, a, b))
        assessment = state(paired)
        ohm = a + b if how == "series" else a * b / (a + b)
        lamp = assessment.lamps[ONE]
        assert lamp.current_a == pytest.approx((9.0 - lamp.forward_v) / ohm, rel=1e-6)
        branch = assessment.branches[lamp.branch]
        assert branch.resistor_ohm == pytest.approx(ohm) and branch.current_a == pytest.approx(lamp.current_a, rel=1e-6)
        assert branch.needed_ohm == pytest.approx((9.0 - 2.83) / 5e-3, rel=0.02)
        assert branch.resistor_w == pytest.approx(lamp.current_a**2 * ohm, rel=1e-6)


# -- unknown lamps --------------------------------------------------------------------------------------------------


def families():
    return {f.id: Points(f.v20_v, f.v1_v, f.rs_ohm, f.spread_v) for f in built_in().families.values()}


@pytest.mark.parametrize("family", [f.id for f in built_in().families.values()])
def test_a_lamp_is_known_by_two_readings(family):
    points = families()
    readings = [(i, points[family].volts(i)) for i in (0.002, 0.015)]
    guesses = identified(readings, points)
    same = points[family]
    alike = {k for k, p in points.items() if abs(p.v20_v - same.v20_v) < 0.16 and abs(p.v1_v - same.v1_v) < 0.16}
    assert guesses[0].family in alike and sum(g.likely for g in guesses if g.family in alike) > 0.8
    assert sum(g.likely for g in guesses) == pytest.approx(1.0)


def test_readings_that_are_none_are_refused():
    for readings in ([], [(0.0, 2.0)], [(0.01, 0.2)], [(5.0, 3.0)]):
        with pytest.raises(CircuitError, match="Readings"):
            identified(readings, families())


# -- instruments ------------------------------------------------------------------------------------------------------


def test_a_meter_reads_what_the_circuit_has():
    plan = edits.wire_in_series(lit(deck_plan(lamps=3), 5.0), [ONE, TWO])
    assessment = state(plan)
    one = assessment.lamps[ONE]
    across = measure(plan, assessment, Clip(ONE, 0), Clip(ONE, 1))
    assert across.volts == pytest.approx(one.forward_v, abs=1e-6) and across.current_a == pytest.approx(
        one.current_a, rel=1e-9
    )
    assert measure(plan, assessment, Clip(ONE, 1), Clip(ONE, 0)).volts == pytest.approx(-one.forward_v, abs=1e-6)
    both = measure(plan, assessment, Clip(ONE, 0), Clip(TWO, 1))
    assert both.volts == pytest.approx(2 * one.forward_v, abs=1e-6) and both.current_a is None
    source = measure(plan, assessment, Clip("supply", 0), Clip("supply", 1))
    assert source.volts == pytest.approx(9.0) and source.current_a == pytest.approx(assessment.supply.draw_a, rel=1e-9)
    with pytest.raises(CircuitError, match="one circuit"):
        measure(plan, assessment, Clip("nobody", 0), Clip(ONE, 1))


def test_a_bench_supply_lights_one_string_up_to_its_limit():
    plan = edits.set_resistor(lit(deck_plan(lamps=3), 5.0), [ONE], 470.0)
    assessment = state(plan)
    # Across lamp one alone, 2.8 V: some milliamps, and only it lights.
    bare = supply_on(plan, assessment, Clip(ONE, 0), Clip(ONE, 1), 2.8, 0.1)
    assert max(bare.light, key=bare.light.get) == ONE and not bare.limited and 1e-3 < bare.current_a < 20e-3
    # Through its resistor a little creeps back into the rail and makes the others glimmer.
    assert all(bare.light[i] < 0.05 * bare.light[ONE] for i in (TWO, THREE))
    # On the rails at 9 V: as the plan's own source, but for the leads' 0.05 Ω.
    rails = supply_on(plan, assessment, Clip("supply", 0), Clip("supply", 1), 9.0, 1.0)
    assert rails.current_a == pytest.approx(assessment.supply.draw_a, rel=1e-3) and set(rails.lit) == {ONE, TWO, THREE}
    # With 3 mA as its limit it holds back to that, and says so.
    held = supply_on(plan, assessment, Clip("supply", 0), Clip("supply", 1), 9.0, 3e-3)
    assert held.limited and held.current_a == pytest.approx(3e-3, rel=1e-3) and held.volts < 5.0
    # Backwards nothing lights, on one wire the limit flows.
    assert supply_on(plan, assessment, Clip(ONE, 1), Clip(ONE, 0), 4.0, 0.1).lit == ()
    short = supply_on(plan, assessment, Clip(ONE, 1), Clip(TWO, 1), 5.0, 0.02)
    assert short.limited and short.volts == 0.0 and short.current_a == 0.02


def test_a_bench_supply_reaches_behind_an_open_switch():
    plan, switch = edits.put_before(lit(deck_plan(lamps=2), 5.0), ONE, "switch")
    plan = edits.set_part(plan, switch, closed=False)
    assessment = state(plan)
    assert abs(assessment.lamps[ONE].current_a) < 1e-9
    over = supply_on(plan, assessment, Clip(switch, 1), Clip("supply", 1), 9.0, 0.1)
    assert ONE in over.lit
