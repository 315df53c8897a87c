"""Strips straight on the rails: as bright as the solver says, along the life of the source, and back again."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.on_rails import built_in_resistor, on_rails, rails_light
from gwiazda.core.light.photometry import light_share
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.model import Lamp, Plan
from gwiazda.core.plan.storage import PlanFile

CATALOGUE = built_in()
PART = "strip-12v-60-warm-white"


def with_strip(supply: str, units: int = 2) -> Plan:
    plan = deck_plan(lamps=1, supply=supply)
    return edits.add_lamp(plan, Lamp(id="s", part=PART, units=units, at=(80.0, 0.0, 18.0)))


def test_on_twelve_volts_a_unit_takes_its_rated_current_by_hand():
    """Three white dice at about 3.08 V and 150 Ω: (12 − 9.24)/150 is 18.4 mA a unit; two units 36.9."""
    plan = edits.put_on_rails(with_strip("adapter-12v-1a"), ["s"])
    lamp = assess(plan, CATALOGUE).lamps["s"]
    assert lamp.current_a == pytest.approx(2 * 18.45e-3, rel=0.01) and on_rails(plan, "s")


@pytest.mark.parametrize("supply", ["adapter-12v-1a", "adapter-9v-0.5a", "block-9v"])
def test_what_the_card_says_is_what_the_solver_gives(supply):
    plan = edits.put_on_rails(with_strip(supply), ["s"])
    assessment = assess(plan, CATALOGUE)
    light, lamp = rails_light(plan, assessment, "s"), assessment.lamps["s"]
    family = CATALOGUE.families[CATALOGUE.lamps[PART].family]
    # The other lamp and the source's own resistance take a few hundredths of a volt.
    assert light.nominal == pytest.approx(light_share(lamp.current_a, lamp.rated_a, family.droop), rel=0.06)
    assert light.fresh >= light.nominal >= light.empty
    assert 7.0 < light.dark_v < 8.0, "three dice at some 2.5 V"
    if supply == "block-9v":
        assert light.empty < 0.01 and light.fresh > 1.2 * light.nominal, "a block ends far below what three dice need"
        assert light.volts == pytest.approx((9.6, 9.0, 5.4))


def test_it_keeps_its_source_and_goes_back(tmp_path):
    plan = with_strip("adapter-9v-0.5a")
    plan, second = edits.add_feed(plan, "adapter-12v-1a")
    there = edits.put_on_rails(edits.hang_on(plan, ["s"], second), ["s"])
    assert edits.feed_of(there, "s").id == second and on_rails(there, "s") and not on_rails(there, "deck1.lamp.01")
    storage.save(PlanFile(there, {}), tmp_path / "s.gwiazda")
    assert storage.load(tmp_path / "s.gwiazda").plan == there
    back = edits.wire_singly(there, ["s"])
    assert not on_rails(back, "s") and edits.feed_of(back, "s").id == second
    assert edits.delete(there, ["s"]).feeds[1].items == ()


def test_a_chip_is_never_offered_the_rails():
    plan = with_strip("adapter-9v-0.5a")
    assessment = assess(plan, CATALOGUE)
    assert built_in_resistor(assessment, "s") and not built_in_resistor(assessment, "deck1.lamp.01")
    assert rails_light(plan, assessment, "deck1.lamp.01") is None


def test_a_strip_is_drawn_and_met_as_long_as_it_is():
    """Two units of 50 × 8 mm: 100 mm along the side view, met at its ends and not beside them."""
    from gwiazda.core.assess.view_index import hit, lamp_shapes

    plan = with_strip("adapter-12v-1a")
    rects = dict(zip([p.id for p in plan.lamps], lamp_shapes(CATALOGUE, plan.lamps, "port").rects, strict=True))
    left, top, right, bottom = rects["s"]
    assert right - left == pytest.approx(100.0) and bottom - top == pytest.approx(2.2)
    assert hit(CATALOGUE, plan, "port", left + 3.0, (top + bottom) / 2, 0.5) == "s"
    assert hit(CATALOGUE, plan, "port", left - 12.0, (top + bottom) / 2, 0.5) != "s"
