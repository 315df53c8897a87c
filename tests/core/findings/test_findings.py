"""Each finding of the circuit and of light: a plan that has it, why, and that its offers settle it."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Lamp, Opening, Wanted, copy_unchecked

ONE, TWO, THREE = "deck1.lamp.01", "deck1.lamp.02", "deck1.lamp.03"


def of(plan, rule):
    return [f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == rule]


def series_of_three(supply):
    return edits.wire_in_series(deck_plan(lamps=3, supply=supply), [ONE, TWO, THREE])


PLANS = {
    "over-rated": lambda: edits.set_resistor(deck_plan(lamps=1), [ONE], 47.0),
    "supply-too-low": lambda: series_of_three("usb-5v"),
    "little-headroom": lambda: series_of_three("block-9v"),
    "hot-resistor": lambda: edits.set_fields(
        edits.set_resistor(deck_plan(lamps=1, supply="adapter-12v-2a"), [ONE], 470.0), [ONE], part="chip-5050-warm-white"
    ),
    "dark-section": lambda: deck_plan(lamps=0),
    "very-little-current": lambda: edits.set_resistor(deck_plan(lamps=1), [ONE], 220_000.0),
    "backwards": lambda: edits.reverse(deck_plan(lamps=2), ONE),
    "unknown-part": lambda: edits.set_fields(deck_plan(lamps=1), [ONE], part="no-such-lamp"),
    "out-of-reach": lambda: edits.set_fields(deck_plan(lamps=1), [ONE], part="chip-0402-warm-white", wanted=Wanted(cd_m2=3000.0)),
    "stolen-light": lambda: edits.wire_side_by_side(
        edits.set_fields(deck_plan(lamps=2), [TWO], part="chip-1206-red"), [ONE, TWO]
    ),
    "unlike-neighbours": lambda: edits.wire_side_by_side(
        edits.set_fields(deck_plan(lamps=3), [ONE, TWO, THREE], wanted=Wanted(current_ma=8.0)), [ONE, TWO, THREE]
    ),
    "lamp-nowhere": lambda: edits.move(deck_plan(lamps=1), [ONE], (0.0, 0.0, 400.0)),
    "overloaded": lambda: edits.set_fields(
        deck_plan(lamps=8, supply="coin-cr2032"), [f"deck1.lamp.{k + 1:02d}" for k in range(8)], part="round-5-red", wanted=Wanted(look="full")
    ),
}  # fmt: skip


@pytest.mark.parametrize("rule", PLANS)
def test_a_plan_that_has_it_says_so_in_a_sentence(rule):
    found = of(PLANS[rule](), rule)
    assert found, f"{rule} is not found"
    for finding in found:
        assert finding.sentence.endswith(".") and finding.severity in ("stop", "look") and finding.subject
        assert finding.topic and "{" not in finding.sentence and "e+0" not in finding.sentence
    assert not of(deck_plan(), rule), "the worked deck has none of it"


WITHOUT_OFFERS = ("unknown-part", "hot-resistor", "very-little-current")  # it takes another plan


def test_some_things_take_another_plan():
    assert not any(of(PLANS[rule](), rule)[0].fixes for rule in WITHOUT_OFFERS)


@pytest.mark.parametrize("rule", [r for r in PLANS if r not in WITHOUT_OFFERS])
def test_one_of_its_offers_settles_it(rule):
    plan = PLANS[rule]()
    finding = of(plan, rule)[0]
    left = [len([f for f in of(fix.applied(plan), rule) if f.subject == finding.subject]) for fix in finding.fixes]
    assert min(left) == 0, [fix.label for fix in finding.fixes]


def test_a_resistor_too_small_by_hand():
    """9 V less what the lamp takes over 47 Ω: far over the 20 mA it stands."""
    plan = PLANS["over-rated"]()
    lamp = assess(plan, built_in()).lamps[ONE]
    assert (
        lamp.current_a == pytest.approx((9.0 - lamp.forward_v) / 47.0, rel=1e-3) and lamp.current_a > 5 * lamp.rated_a
    )
    assert f"{round(lamp.current_a * 1e3)}"[:2] in of(plan, "over-rated")[0].sentence


def test_headroom_is_a_fifth_of_the_last_volts():
    """Two whites on a 9 V block: at 5.4 V some 5.3 V of them leave next to nothing for the resistor."""
    pair = edits.wire_in_series(deck_plan(lamps=2, supply="block-9v"), [ONE, TWO])
    assert of(pair, "little-headroom") and not of(deck_plan(lamps=2, supply="block-9v"), "little-headroom")
    branch = next(r for r in assess(pair, built_in()).branches.values() if len(r.lamps) == 2)
    assert branch.last_v == pytest.approx(5.4) and branch.headroom_v < 0.2 * 9.0 + 4.0


def test_a_hot_spot_is_where_a_lamp_stands_in_plain_sight(demo):
    (spot,) = of(demo, "hot-spot")
    assessment = assess(demo, built_in())
    assert any(o.sight and o.hot_spot > 2 for o in assessment.openings.values()) and spot.number > 2
    assert any(not of(fix.applied(demo), "hot-spot") for fix in spot.fixes)


def test_only_what_is_dark_and_meant_to_be_lit_counts():
    plan = deck_plan(lamps=0)
    dark = copy_unchecked(plan, openings=tuple(copy_unchecked(o, lit=0.0) for o in plan.openings))
    assert of(plan, "dark-section") and not of(dark, "dark-section")


def test_findings_come_worst_first_and_each_has_a_topic_with_a_station(demo):
    from gwiazda.desktop.stations.registry import station_of_topic

    for plan in (demo, *(make() for make in PLANS.values())):
        findings = evaluate_rules(plan, assess(plan, built_in()))
        ranks = [f.severity for f in findings]
        assert ranks == sorted(ranks, key=("stop", "look").index)
        assert all(station_of_topic(f.topic) for f in findings)


def test_a_window_without_a_section_beside_it_is_no_trouble():
    plan = deck_plan(windows=1, lamps=1)
    extra = Opening(id="x", section="deck1", side="top", at=(80.0, 0.0, 19.0), width_mm=500.0, height_mm=0.1)
    lamp = Lamp(id="y", part="chip-0603-red", at=(1e4, 1e4, 1e4), mount="outside", wanted=Wanted(mcd=1e7))
    odd = edits.add_lamp(edits.add_openings(plan, [extra]), lamp)
    assert all(f.sentence for f in evaluate_rules(odd, assess(odd, built_in())))
