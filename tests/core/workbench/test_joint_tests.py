"""A test after each joint: by networks built anew, half as far as the joint is."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.circuit.network import Diode, Network, Resistor, Source
from gwiazda.core.circuit.parts.diode import parameters_from_points
from gwiazda.core.drawing.sheets.build import test_sheets as sheets_of_tests
from gwiazda.core.drawing.sheets.page import PAPERS
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Wanted
from gwiazda.core.plan.naming import name_of
from gwiazda.core.plan.storage import load
from gwiazda.core.quantities import parse_resistance_ohm
from gwiazda.core.workbench.lamp_tests import joint_lines
from gwiazda.core.workbench.testsheet import joint_tests, sheet_of
from gwiazda.demos import path_of

CAT = built_in()
LAMPS = tuple(f"deck1.lamp.{k:02d}" for k in (1, 2))


def diode(name: str, a: str, b: str, part: str) -> Diode:
    f = CAT.families[CAT.lamps[part].family]
    n, is_a = parameters_from_points(f.v20_v, f.v1_v, f.rs_ohm)
    return Diode(name, a, b, n, is_a, f.rs_ohm)


@pytest.mark.parametrize("how", ["string", "group", "own"])
def test_half_built_strings_and_groups_flow_as_the_sheet_says(how):
    plan = edits.set_wanted(deck_plan(windows=4, lamps=2), LAMPS, Wanted(current_ma=8.0))
    plan = {"string": edits.wire_in_series, "group": edits.wire_side_by_side, "own": lambda p, _: p}[how](plan, LAMPS)
    assessment = assess(plan, CAT)
    tests = joint_tests(plan, assessment, "deck1")
    assert len(tests) == 2
    for test in tests:
        part = plan.lamps[0].part
        ohm = assessment.lamps[test.lamps[0]].resistor_ohm or next(
            r.resistor_ohm for r in assessment.branches.values() if test.lamps[0] in r.lamps
        )
        elements = [Source("s", "p", "0", test.supply_v, 0.0), Resistor("r", "p", "n0", ohm)]
        for k, lamp in enumerate(test.lamps):
            ends = (f"n{k}", "0" if k == len(test.lamps) - 1 else f"n{k + 1}") if how == "string" else ("n0", "0")
            elements.append(diode(lamp, *ends, part))
        flows = -float(Network(elements).solve().currents[0, 0])
        assert abs(flows) == pytest.approx(test.current_a, rel=0.02), "a rounded supply"
        assert test.low_a < abs(flows) < test.high_a < test.limit_a
    full = assessment.feeds["supply"].nominal_v
    if how == "string":
        assert tests[0].supply_v < tests[1].supply_v <= full + 0.1
        whole = sheet_of(plan, assessment, "deck1")[0]
        assert tests[1].supply_v == pytest.approx(assessment.supply.terminal_v, abs=0.1) and tests[
            1
        ].current_a == pytest.approx(whole.current_a)


def test_every_demo_has_tests_after_its_joints_and_they_are_on_the_sheets():
    for name in ("szron", "perkoz", "swistak", "bryla"):
        plan = load(path_of(name)).plan
        assessment = assess(plan, CAT)
        tests = joint_tests(plan, assessment)
        assert {i for t in tests for i in t.lamps} <= set(assessment.lamps) and len(tests) >= len(assessment.branches)
        assert all(0 < t.supply_v < 30 and t.low_a <= t.current_a * 1.01 and t.current_a <= t.limit_a for t in tests)
    plan = load(path_of("szron")).plan
    titles = [d.title for d in sheets_of_tests(plan, assess(plan, CAT), PAPERS["a4"])]
    assert any("After each joint" in t for t in titles) and any("Test sheet" in t for t in titles)


def test_a_hub_is_tested_by_what_hangs_behind_it():
    """The currents of all strings on it, together: less than the source's, and lit lamps named."""
    plan = load(path_of("bryla")).plan
    assessment = assess(plan, CAT)
    hubs = [t for t in joint_tests(plan, assessment) if "hub" in t.plus or "hub" in t.minus]
    assert hubs
    for test in hubs:
        branches = {r.id: r for r in assessment.branches.values() if set(r.lamps) & set(test.lamps)}
        assert test.current_a == pytest.approx(sum(r.current_a for r in branches.values()))
        assert test.low_a < test.current_a < test.high_a < test.limit_a
        assert ("hub" in test.plus) != ("hub" in test.minus)
    inside = joint_tests(plan, assessment, "engine.port")
    assert inside and any(i.startswith("engine.port") for t in inside for i in t.lamps)


def test_a_lamp_on_its_own_is_tested_at_the_full_supply():
    plan = edits.set_wanted(deck_plan(windows=4, lamps=2), LAMPS, Wanted(current_ma=8.0))
    assessment = assess(plan, CAT)
    for test in joint_tests(plan, assessment):
        assert len(test.lamps) == 1 and test.supply_v == pytest.approx(assessment.supply.terminal_v, abs=0.06)
        assert "resistor" in test.plus and name_of(plan, test.lamps[0]) in test.minus
    assert joint_tests(plan, assessment, "nowhere") == ()


def test_after_a_joint_a_battery_gets_a_resistor_for_what_is_still_to_come_and_a_coin_cell_lights_one_lamp():
    plan = edits.wire_in_series(edits.set_wanted(deck_plan(windows=4, lamps=2), LAMPS, Wanted(current_ma=8.0)), LAMPS)
    battery = edits.set_bench(plan, tests_with="battery")
    assessment = assess(battery, CAT)
    first, second = joint_lines(battery, assessment, "deck1")
    assert "before it" in first.source and second.source == "its own battery"
    ohm = parse_resistance_ohm(first.source.split(", ")[1].removesuffix(" before it"))
    branch = next(b for b in assessment.branches.values() if LAMPS[0] in b.lamps)
    part = plan.lamps[0].part
    elements = [
        Source("s", "p", "0", branch.supply_v, 0.0), Resistor("more", "p", "a", ohm), Resistor("r", "a", "b", branch.resistor_ohm), diode("d", "b", "0", part),
    ]  # fmt: skip
    flows = abs(float(Network(elements).solve().currents[0, 0]))
    # The next value up: no more than it will have, and no less than a step of the series below.
    assert 0.75 * branch.current_a < flows <= 1.05 * branch.current_a
    coin = edits.set_bench(plan, tests_with="coin cell")
    lines = joint_lines(coin, assess(coin, CAT), "deck1")
    assert len(lines) == 2 and all(x.source.startswith("coin cell") for x in lines)
    pages = sheets_of_tests(coin, assess(coin, CAT), PAPERS["a4"])
    assert any("on a coin cell" in d.title and d.title.startswith("After each joint") for d in pages)
