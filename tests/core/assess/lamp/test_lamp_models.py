"""Strips, lamps with resistors and rectifiers built in, two colours in one body, flashing ones; data-sheet fits."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.junctions import forward_v, junctions
from gwiazda.core.assess.lamp.fit import fit_of, half_sizes, touch
from gwiazda.core.assess.lamp.modified_lamp import body_mm, rated_a, worked
from gwiazda.core.circuit.parts import datasheet
from gwiazda.core.errors import PlanError
from gwiazda.core.exchange.report import shopping_rows
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Box, Feed, Lamp, Plan, Section, Supply, Wanted, copy_unchecked


def lit(part: str, supply: str = "adapter-12v-1a", **fields) -> Plan:
    section = Section(id="bay", name="Bay", box=Box(at=(-100, -20, 0), size=(200, 40, 30)))
    lamp = Lamp(id="bay.lamp.01", part=part, at=(0, 0, 25), wanted=Wanted(look="full"), **fields)
    return Plan(sections=(section,), lamps=(lamp,), feeds=(Feed(id="supply", supply=Supply(part=supply)),))


@pytest.mark.parametrize("part", [p.id for p in built_in().lamps.values() if p.form == "strip"])
def test_a_strip_on_its_own_voltage_draws_about_its_rated_current(part):
    p = built_in().lamps[part]
    assert forward_v(junctions(built_in(), p), p.rated_ma * 1e-3) == pytest.approx(p.volts, rel=0.12)
    assert len(junctions(built_in(), p)) == p.leds


def test_units_of_a_strip_add_up():
    one, four = lit("strip-12v-60-warm-white"), lit("strip-12v-60-warm-white", units=4)
    a, b = (assess(plan, built_in()).lamps["bay.lamp.01"] for plan in (one, four))
    assert b.current_a == pytest.approx(4 * a.current_a, rel=1e-3)
    assert b.flux_lm == pytest.approx(4 * a.flux_lm, rel=1e-3)
    assert rated_a(built_in(), four.lamps[0]) == pytest.approx(0.080) and body_mm(built_in(), four.lamps[0])[0] == 200
    assert b.resistor_ohm == 0.0, "its own resistors are enough"
    assert a.current_a == pytest.approx(0.0181, abs=0.0025)


def test_a_strip_on_too_little_is_dimmer_and_says_where_it_goes_dark():
    plan = lit("strip-12v-60-warm-white", "block-9v")
    assessment = assess(plan, built_in())
    state = assessment.lamps["bay.lamp.01"]
    assert 0 < state.share < 0.3
    (finding,) = [f for f in evaluate_rules(plan, assessment) if f.rule == "under-volts"]
    assert "made for 12 V" in finding.sentence and finding.severity == "look"
    dark = float(finding.sentence.rsplit("about ", 1)[1].split(" ")[0])
    assert 7.2 < dark < 8.2, "three junctions at a hundredth of their light"
    fixed = finding.fixes[0].edit(plan)
    assert not [f for f in evaluate_rules(fixed, assess(fixed, built_in())) if f.rule == "under-volts"]


def test_a_strip_that_stays_dark_and_one_behind_our_own_resistor_are_two_things():
    """5 V are under what three junctions take; on 9 V it lights, until 1 kΩ more is put before it."""
    dead = lit("strip-12v-60-warm-white", "usb-5v")
    (finding,) = [f for f in evaluate_rules(dead, assess(dead, built_in())) if f.rule == "under-volts"]
    assert finding.severity == "stop" and "the source has 5 V" in finding.sentence and "From 0" not in finding.sentence
    choked = edits.set_resistor(lit("strip-12v-60-warm-white", "adapter-12v-1a"), ["bay.lamp.01"], 1000.0)
    found = {f.rule: f for f in evaluate_rules(choked, assess(choked, built_in()))}
    assert "under-volts" not in found and "1 kΩ before it" in found["resistor-before-strip"].sentence
    freed = found["resistor-before-strip"].fixes[0].applied(choked)
    assert assess(freed, built_in()).lamps["bay.lamp.01"].share > 3 * found["resistor-before-strip"].number
    assert "resistor-before-strip" not in {f.rule for f in evaluate_rules(freed, assess(freed, built_in()))}


def test_strips_in_a_row_are_offered_each_on_its_own():
    plan = lit("strip-12v-60-warm-white", "adapter-12v-1a")
    plan = edits.add_lamp(plan, copy_unchecked(plan.lamps[0], id="bay.lamp.02"))
    plan = edits.wire_in_series(plan, ["bay.lamp.01", "bay.lamp.02"])
    (finding,) = [f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "under-volts"]
    assert finding.severity == "stop" and "made for 24 V, 12 V each" in finding.sentence
    assert finding.fixes[0].label == "Each on its own"
    after = finding.fixes[0].applied(plan)
    assert not [f for f in evaluate_rules(after, assess(after, built_in())) if f.rule == "under-volts"]


def test_a_strip_too_long_for_its_section_loses_a_unit():
    plan = lit("strip-12v-60-warm-white", units=5)
    fit = fit_of(built_in(), plan.sections[0], plan.lamps[0])
    assert fit.too_long_mm == pytest.approx(25)
    finding = next(f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "too-long")
    assert finding.fixes[0].edit(plan).lamps[0].units == 4
    # One that looks along lies across.
    across = copy_unchecked(plan.lamps[0], aim=(1.0, 0.0, 0.0))
    assert half_sizes(built_in(), across)[1] == 125


def test_a_rectified_lamp_loses_two_diodes():
    p = built_in().lamps["wide-round-3-warm-white"]
    assert len(junctions(built_in(), p)) == 3
    plain = forward_v(junctions(built_in(), p._replace(rectified=False)), 0.01)
    assert forward_v(junctions(built_in(), p), 0.01) - plain == pytest.approx(2 * 0.70, abs=0.08)
    assert assess(lit("wide-round-3-warm-white"), built_in()).lamps["bay.lamp.01"].current_a == pytest.approx(
        0.0079, abs=0.001
    )


def test_a_flashing_lamp_draws_in_full_and_lasts_twice_as_long():
    steady, flashing = built_in().lamps["round-5-red"], built_in().lamps["flash-5-red"]
    assert flashing.duty == 0.5 and steady.duty == 1.0
    a = assess(lit("flash-5-red", "block-9v"), built_in())
    b = assess(lit("round-5-red", "block-9v"), built_in())
    assert a.supply.draw_a == pytest.approx(b.supply.draw_a, rel=1e-6)
    assert a.supply.hours / b.supply.hours == pytest.approx(2.0, rel=0.1)


def test_colours_of_one_body_share_its_place_and_are_bought_once():
    plan = lit("duo-3-red-green-red")
    other = copy_unchecked(plan.lamps[0], id="bay.lamp.02", part="duo-3-red-green-green")
    both = edits.add_lamp(plan, other)
    assert not touch(built_in(), *both.lamps)
    assessment = assess(both, built_in())
    assert not [f for f in evaluate_rules(both, assessment) if f.rule == "lamps-touch"]
    assert [r[3] for r in shopping_rows(both, assessment) if r[0] == "lamp"] == [1]
    twice = edits.add_lamp(plan, copy_unchecked(other, part="round-3-red"))
    assert [f.rule for f in evaluate_rules(twice, assess(twice, built_in())) if f.rule == "lamps-touch"]


@given(st.floats(1.5, 5.0), st.floats(-45, -25), st.floats(0.5, 15.0))
def test_a_fit_finds_the_diode_its_points_came_from(n, log_is, rs):
    true = datasheet.Fit(n, math.exp(log_is), rs, 0.0)
    points = [(i * 1e-3, true.volts(i * 1e-3)) for i in (1, 2, 5, 10, 20, 30)]
    found = datasheet.fit_points(points)
    assert found.miss_v < 1e-4 and found.rs_ohm == pytest.approx(rs, rel=0.02, abs=0.02)
    assert found.volts(0.015) == pytest.approx(true.volts(0.015), abs=1e-3)


@pytest.mark.parametrize(
    ("points", "words"),
    [([(0.02, 3.0)], "1 different"), ([(0.001, 2.7), (0.001, 2.7)], "different"), ([(0.001, 2.7), (0.02, 2.6)], "doesn't rise"),
     ([(-0.001, 2.7), (0.02, 3.0)], "above zero"), ([(0.001, 2.7), (0.02, 2.75)], "no junction")],
)  # fmt: skip
def test_points_that_make_no_diode_are_refused(points, words):
    with pytest.raises(PlanError, match=words):
        datasheet.fit_points(points, rs_ohm=10.0)


def test_worked_light_of_a_strip_counts_all_its_units():
    lamp = lit("strip-5v-60-red", units=3).lamps[0]
    assert worked(built_in(), lamp).flux_lm == pytest.approx(
        3 * worked(built_in(), copy_unchecked(lamp, units=1)).flux_lm
    )
