"""Lamps tested one by one on a coin cell: by hand, and what is never done bare."""

from __future__ import annotations

import math

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.drawing.sheets.build import test_sheets as sheets_of
from gwiazda.core.drawing.sheets.page import PAPERS
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find
from gwiazda.core.workbench.lamp_tests import lamp_tests

CAT = built_in()


def deck(part: str, how: str = "coin cell"):
    plan = edits.set_bench(deck_plan(), tests_with=how)
    plan = edits.set_fields(plan, [p.id for p in plan.lamps], part=part)
    return plan, assess(plan, CAT)


def test_a_red_lamp_on_a_coin_cell_by_hand():
    plan, found = deck("round-3-red")
    (test,) = lamp_tests(plan, found)
    # V(I) = 1.75 + .05808·ln I + .004·(I − 1), I in mA; on 3.1 V behind 15 Ω that is 58.8 mA: three times what it is made for. With 39 Ω
    # 3.1 − .054·I = V gives 20.3 mA, with 47 Ω 18.0: the first of the series that keeps it within 20.
    assert test.before_ohm == 47.0 and test.current_a * 1e3 == pytest.approx(17.97, abs=0.05)
    assert "put 47 Ω before it" in test.words and len(test.lamps) == len(plan.lamps)
    volts = 1.75 + 0.05808 * math.log(test.current_a * 1e3) + 0.004 * (test.current_a * 1e3 - 1)
    assert 3.1 - (15 + 47) * test.current_a == pytest.approx(volts, abs=0.005)


def test_a_white_one_lights_bare_and_is_told_against_what_it_will_be():
    plan, found = deck("chip-1206-warm-white")
    (test,) = lamp_tests(plan, found, "deck1")
    assert test.before_ohm == 0.0 and 0.008 < test.current_a < 0.013 and "will be" in test.words
    full = edits.set_wanted(plan, [p.id for p in plan.lamps], find(plan, plan.lamps[0].id).wanted)
    assert lamp_tests(full, assess(full, CAT))[0].share == pytest.approx(test.share)
    assert lamp_tests(plan, found, "nowhere") == ()


def test_one_for_twelve_volts_stays_dark_on_three():
    twelve = next(i for i, p in CAT.lamps.items() if p.volts >= 9 and p.inner_ohm)
    plan, found = deck(twelve)
    assert any("stays dark" in t.words or "dimmer" in t.words for t in lamp_tests(plan, found))


def test_on_its_own_battery_it_is_as_it_will_be_and_a_limited_supply_has_its_own_sheet():
    plan, found = deck("chip-1206-warm-white", "battery")
    assert {t.ratio for t in lamp_tests(plan, found)} == {1.0} and "about as bright" in lamp_tests(plan, found)[0].words
    limited, found = deck("chip-1206-warm-white", "limited supply")
    assert lamp_tests(limited, found) == ()
    titles = [[d.title for d in sheets_of(p, assess(p, CAT), PAPERS["a4"])] for p in (plan, limited)]
    assert any("own resistor" in t for t in titles[0]) and not any("Lamp by lamp" in t for t in titles[1])
