"""The evening on a source: light by the hour, who draws what, other sources side by side; gears."""

from __future__ import annotations

import math

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.evening import draws_of, evening_of, options_for, same_source, short_list
from gwiazda.core.assess.electrics.gears import ratio_of, speed_of, volts_for
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import Closure, Load, Supply, Wanted, copy_unchecked


def on(plan, **supply):
    return copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], supply=Supply(**supply)),))


def test_the_evening_agrees_with_the_curve_of_the_source():
    """With one channel the plan's light by the hour is the source's own curve."""
    plan = on(deck_plan(lamps=3), part="aa-alkaline", in_series=4)
    assessment = assess(plan, built_in())
    evening = evening_of(plan, assessment)
    assert set(evening.share) == {"deck1"}
    for hour in (0.0, assessment.supply.hours / 2, assessment.supply.hours):
        assert evening.at(hour)["deck1"] == pytest.approx(
            float(np.interp(hour, assessment.supply.curve_hours, assessment.supply.curve_light)), abs=0.02
        )
    assert evening.at(assessment.supply.hours)["deck1"] == pytest.approx(0.5, abs=0.02)


def test_on_an_adapter_nothing_changes():
    plan = deck_plan(lamps=3)
    assert evening_of(plan, assess(plan, built_in())).at(9.0)["deck1"] == pytest.approx(1.0, rel=1e-6)


def test_who_draws_what_adds_up_to_the_draw():
    plan = edits.wire_in_series(deck_plan(lamps=5), ["deck1.lamp.01", "deck1.lamp.02"])
    plan = edits.play_on(plan, ["deck1.lamp.05"], "stern")
    plan, _ = edits.put_before(plan, "deck1.lamp.03", "motor")
    plan, _ = edits.put_before(plan, "deck1.lamp.04", "regulator")
    assessment = assess(validate_edit(deck_plan(lamps=5), plan), built_in())
    draws = draws_of(plan, assessment)
    assert sum(d.current_a for d in draws) == pytest.approx(assessment.supply.draw_a, rel=1e-6)
    assert sum(d.share for d in draws) == pytest.approx(1.0, rel=1e-6)
    assert {"motor.01", "deck1", "stern", "regulators and boards"} == {d.of for d in draws}


def test_other_sources_side_by_side():
    plan = edits.set_wanted(on(deck_plan(lamps=5), part="aa-alkaline", in_series=4), ["deck1"], Wanted(current_ma=4.0))
    assessment = assess(plan, built_in())
    options = options_for(plan, assessment, "supply")
    mine = next(o for o in options if same_source(o.supply, plan.feeds[0].supply))
    assert mine.hours == pytest.approx(assessment.supply.hours, rel=1e-6) and mine.evenings == pytest.approx(
        mine.hours / 2.0
    )
    # Four AA are 42 cm³ and 92 g.
    assert mine.volume_cm3 == pytest.approx(4 * 50.5 * 14.5 * 14.5e-3, rel=1e-6) and mine.weight_g == 92
    # Each is as the plan itself would be with it.
    nine = next(o for o in options if same_source(o.supply, Supply(part="block-9v")))
    swapped = assess(on(plan, part="block-9v"), built_in())
    assert nine.hours == pytest.approx(swapped.supply.hours, rel=1e-6) and nine.fits
    two = next(o for o in options if same_source(o.supply, Supply(part="aa-alkaline", in_series=2)))
    assert two.hours < 0.3 * mine.hours, "it lights, and is soon out"
    coin = next(o for o in options if same_source(o.supply, Supply(part="coin-cr2032", in_series=2)))
    assert not coin.fits and coin.why == "too much is drawn"
    listed = short_list(options, plan.feeds[0].supply)
    others = [o.part.id for o in listed[1:] if o.part.kind == "battery"]
    assert listed[0] is mine and len(set(others)) == len(others)
    assert any(math.isinf(o.hours) for o in listed)


def test_a_source_in_a_section_goes_in_or_not_and_is_changed_or_not():
    plan = edits.set_feed(on(deck_plan(lamps=2), part="block-9v"), "supply", home="deck1")
    plan = copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], closure=Closure(by="glue")),))
    options = options_for(plan, assess(plan, built_in()), "supply")
    by = {(o.supply.part, o.supply.in_series, o.supply.in_parallel): o for o in options}
    # 165 × 44 × 19 mm: a block of 17.5 goes in, D cells of 34 don't, two blocks side by side do.
    assert by["block-9v", 1, 1].fits and by["block-9v", 1, 2].fits and by["block-9v", 1, 1].changed == "closed for good"
    assert by["d-alkaline", 4, 1].why == "doesn’t go into Deck 1" and by["adapter-9v-0.5a", 1, 1].changed == "outside"
    rules = {f.rule: f for f in evaluate_rules(plan, assess(plan, built_in()))}
    moved = rules["sealed-cells"].fixes[0].applied(plan)
    assert moved.feeds[0].home == "" and "sealed-cells" not in {
        f.rule for f in evaluate_rules(moved, assess(moved, built_in()))
    }
    assert edits.delete(plan, ["deck1"]).feeds[0].home == ""


def test_gears_and_speed():
    motor = built_in().loads["motor-3v"]
    assert ratio_of(((10, 40), (12, 36))) == pytest.approx(1.0 / 12.0)
    # By hand: 5 Ω of winding; at 3 V and 80 mA 2.6 V are left of the 2.85 that give 9,000 with 30 mA.
    full = speed_of(motor, 3.0, ((10, 40),))
    assert full.motor_rpm == pytest.approx(9000 * 2.6 / 2.85, rel=1e-9) and full.part_rpm == pytest.approx(
        full.motor_rpm / 4
    )
    assert full.start_a == pytest.approx(0.6)
    assert speed_of(motor, 0.5).motor_rpm == 0.0, "under its least voltage it stands"
    volts = volts_for(motor, ((10, 40),), 1000.0)
    assert speed_of(motor, volts, ((10, 40),)).part_rpm == pytest.approx(1000.0, rel=1e-9)
    assert volts_for(motor, (), 1e6) is None and volts_for(built_in().loads["sound-chip"], (), 10.0) is None
    assert speed_of(built_in().loads["sound-chip"], 5.0) is None


def test_a_load_in_a_plan_turns():
    plan, motor = edits.put_before(on(deck_plan(lamps=1), part="aa-alkaline", in_series=2), "deck1.lamp.01", "motor")
    plan = edits.set_part(plan, motor, gears=((8, 40), (10, 60)))
    assessment = assess(plan, built_in())
    load = next(x for f in plan.feeds for x in edits.parts_of(f) if isinstance(x, Load))
    speed = speed_of(built_in().loads[load.part], assessment.parts[motor].volts, load.gears)
    assert 200 < speed.part_rpm < 300
