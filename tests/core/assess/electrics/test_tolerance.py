"""What parts from the drawer and the source stray by: seeded, by hand, and what shows of it."""

from __future__ import annotations

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.tolerance import MOST, tolerance_of
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import LampRef, Regulated, Resistor, Series, copy_unchecked
from gwiazda.core.quick.answer import plan_of
from gwiazda.core.quick.ask import Asked, read


def drawn(text: str, **options):
    asked = read(text, built_in())
    assert isinstance(asked, Asked)
    plan = plan_of(asked, options.pop("series", "E12"))
    assessment = assess(plan, built_in())
    return plan, assessment, tolerance_of(plan, assessment, **options)


def test_one_lamp_by_hand():
    """First order: dI/I = √((5 %·√3⁻¹)² + (5 %·9/ΔV·√3⁻¹)² + (σ_V/ΔV)²) over the volts ΔV across the resistor, which the
    lamp's own slope takes some of."""
    plan, found, spread = drawn("white on 9 V at 5 mA", draws=4000)
    lamp = found.lamps[plan.lamps[0].id]
    across = lamp.current_a * lamp.resistor_ohm
    family = built_in().families["white"]
    slope = 3.36 * 0.025852 / lamp.current_a + family.rs_ohm  # dV/dI of the diode, by its n
    own = lamp.resistor_ohm / (lamp.resistor_ohm + slope)
    even = 0.05 / np.sqrt(3.0)
    sigma = own * np.sqrt(even**2 + (even * 9.0 / across) ** 2 + (family.spread_v / 2.0 / across) ** 2)
    low, middle, high = spread.lamps[lamp.id].current_a
    assert middle == pytest.approx(lamp.current_a, rel=0.01)
    # Even spreads have no tails: 5 and 95 % lie a little within those of a bell.
    assert (high - low) / (2 * 1.645 * middle) == pytest.approx(sigma, rel=0.12)
    assert spread.mismatches == ()


def test_in_series_they_are_alike_and_behind_one_resistor_they_are_not():
    _, _, string = drawn("3 red in series on 9 V at 10 mA")
    assert string.mismatches[0].most == pytest.approx(0.0, abs=1e-9) and string.mismatches[0].words == "they look alike"
    _, _, shared = drawn("3 red sharing on 9 V at 10 mA")
    assert (
        shared.mismatches[0].visible and shared.mismatches[0].likely > 0.5 and "it shows" in shared.mismatches[0].words
    )
    _, _, each = drawn("3 red each on 9 V at 10 mA")
    assert not each.mismatches[0].visible and each.mismatches[0].likely < shared.mismatches[0].likely / 5


def test_the_same_seed_gives_the_same_and_another_much_the_same():
    plan, found, first = drawn("4 white each on 9V block soft")
    again = tolerance_of(plan, found)
    assert again == first
    other = tolerance_of(plan, found, seed=7)
    assert other != first
    for key, spread in first.lamps.items():
        assert other.lamps[key].light == pytest.approx(spread.light, rel=0.12)


def test_finer_resistors_stray_less_and_a_battery_more_than_an_adapter():
    def width(text, series):
        plan, _, spread = drawn(text, series=series)
        low, middle, high = spread.lamps[plan.lamps[0].id].current_a
        return (high - low) / middle

    assert width("red on 12 V at 10 mA", "E96") < width("red on 12 V at 10 mA", "E12")
    assert width("red on 9V block at 10 mA", "E12") > 1.5 * width("red on 9 V at 10 mA", "E12")


def test_unknown_parts_dead_sources_and_thousands_are_no_trouble():
    plan = deck_plan(lamps=3)
    lost = copy_unchecked(plan, lamps=(copy_unchecked(plan.lamps[0], part="no-such-lamp"), *plan.lamps[1:]))
    assert set(tolerance_of(lost, assess(lost, built_in())).lamps) == {p.id for p in plan.lamps[1:]}
    nowhere = edits.set_supply(plan, part="no-such-source")
    assert tolerance_of(nowhere, assess(nowhere, built_in())).lamps == {}
    empty = deck_plan(lamps=0)
    assert tolerance_of(empty, assess(empty, built_in())) == ({}, ())
    many = deck_plan(windows=1, lamps=MOST + 1)
    assert tolerance_of(many, assess(many, built_in(), 60)).lamps == {}


@pytest.mark.parametrize(
    "text", ["5 red sharing on 9 V at 10 mA", "3 white sharing on 9 V at 4 mA", "8 green sharing on 9 V at 8 mA"]
)
def test_what_is_said_of_a_shared_resistor_is_what_draws_give(text):
    """The finding's closed form against a thousand networks solved."""
    plan, found, spread = drawn(text)
    said = [f for f in evaluate_rules(plan, found) if f.rule == "unlike-neighbours"]
    assert len(said) == 1
    assert said[0].number == pytest.approx(1.0 + spread.mismatches[0].likely, rel=0.12)
    apart = said[0].fixes[0].applied(plan)
    assert not [f for f in evaluate_rules(apart, assess(apart, built_in())) if f.rule == "unlike-neighbours"]


def test_beside_one_the_wrong_way_round_no_figure_is_made_up():
    plan = edits.reverse(deck_plan(lamps=3), "deck1.lamp.02")
    spread = tolerance_of(plan, assess(plan, built_in()))
    assert spread.mismatches[0].words == "some stay dark"
    assert spread.lamps["deck1.lamp.02"].light[2] < 1e-6 < spread.lamps["deck1.lamp.01"].light[0]


def test_what_a_regulator_holds_strays_too():
    """3.3 V ± 4 % before 100 Ω: nine tenths of 132 mV either way over 100 Ω and the lamp's own slope, beside what lamp and resistor stray by; ± 2 % of a
    low-drop one. Widths from 5 to 95 % add by squares, as near as a flat and a normal spread do."""
    widths = {}
    for part in ("regulator-adjustable", "regulator-low-drop"):
        plan = deck_plan(lamps=1, supply="adapter-12v-1a")
        string = Series(id="s", items=(Resistor(id="r", ohm=100.0), LampRef(lamp="deck1.lamp.01")))
        plan = copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], items=(Regulated(id="reg", part=part, volts=3.3, items=(string,)),)),))  # fmt: skip
        low, middle, high = tolerance_of(plan, assess(plan, built_in())).lamps["deck1.lamp.01"].current_a
        assert middle == pytest.approx(4.77e-3, rel=0.01)
        widths[part] = high - low
    slope = 1.0 / 118.0
    classic, low_drop = (2 * 0.9 * slope * 3.3 * share for share in (0.04, 0.02))  # nine tenths of a flat one
    assert widths["regulator-adjustable"] ** 2 - widths["regulator-low-drop"] ** 2 == pytest.approx(
        classic**2 - low_drop**2, rel=0.2
    )
    assert widths["regulator-low-drop"] > low_drop
