"""Strips beside chips where the fewest lamps are looked for: which, how long, and straight on the rails only where that is as bright as wanted."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.choices import fewest
from gwiazda.core.assess.electrics.on_rails import on_rails, part_on_v, rails_light
from gwiazda.core.drawing.sheets.kinds import bench_lists
from gwiazda.core.drawing.sheets.page import PAPERS
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits

CAT = built_in()


def test_the_strip_beside_is_one_the_source_lights():
    """Three lamps in series want some 8 V: not from 5 V, from 9 V dim, from 12 V as made; a chip stands beside a strip."""
    found = {
        s: fewest.beside(CAT, edits.set_supply(deck_plan(), part=s), "chip-1206-warm-white")
        for s in ("adapter-12v-1a", "block-9v", "usb-5v", "aa-alkaline")
    }
    assert found == {
        "adapter-12v-1a": "strip-12v-120-warm-white",
        "block-9v": "strip-12v-120-warm-white",
        "usb-5v": "strip-5v-60-warm-white",
        "aa-alkaline": "",
    }
    assert fewest.beside(CAT, deck_plan(), "strip-12v-60-red") == "chip-1206-red"
    assert (
        fewest.beside(CAT, edits.set_supply(deck_plan(), part="adapter-12v-1a"), "chip-0402-red") == "strip-12v-60-red"
    )


@pytest.mark.parametrize("source", ["block-9v", "adapter-12v-1a"])
def test_a_strip_is_one_lamp_of_units_and_does_what_is_said(source):
    plan = edits.set_supply(deck_plan(), part=source)
    proposals = fewest.propose(CAT, plan, "deck1", "strip-12v-120-warm-white")
    part = CAT.lamps["strip-12v-120-warm-white"]
    assert proposals and all(p.strip and p.lamp_count == 1 and "a strip of" in p.words for p in proposals)
    for p in proposals:
        assert p.lamps[0].units * part.size_mm[0] <= plan.sections[0].box.size[0]
        on = p.reached * part_on_v(CAT, part, {"block-9v": 9.0, "adapter-12v-1a": 12.0}[source])
        assert p.rails == (0.8 <= on <= 3.0)
        taken = fewest.take(plan, "deck1", p)
        (lamp,) = taken.lamps
        assert lamp.units == p.lamps[0].units and on_rails(taken, lamp.id) == p.rails
        section = assess(taken, CAT).sections["deck1"]
        assert section.evenness == pytest.approx(p.evenness, rel=0.02)


def test_one_strip_on_volts_is_as_bright_as_its_card_says():
    plan = fewest.take(
        edits.set_supply(deck_plan(), part="adapter-12v-1a"),
        "deck1",
        fewest.propose(CAT, edits.set_supply(deck_plan(), part="adapter-12v-1a"), "deck1", "strip-12v-120-warm-white")[
            0
        ],
    )
    plan = edits.put_on_rails(plan, [plan.lamps[0].id])
    light = rails_light(plan, assess(plan, CAT), plan.lamps[0].id)
    assert light is not None and light.nominal == pytest.approx(
        part_on_v(CAT, CAT.lamps["strip-12v-120-warm-white"], 12.0), rel=1e-6
    )


def test_the_bench_lists_say_where_a_strip_is_cut():
    plan = fewest.take(deck_plan(), "deck1", fewest.propose(CAT, deck_plan(), "deck1", "strip-12v-120-warm-white")[-1])
    units = plan.lamps[0].units
    words = " ".join(m.text for d in bench_lists(plan, assess(plan, CAT), PAPERS["a4"]) for m in d.marks if m.text)
    assert (
        f" {units} {units * 25:g} mm " in words
        and "between their copper pads" in " ".join(d.title for d in bench_lists(plan, assess(plan, CAT), PAPERS["a4"]))
        and "20 mm, never sideways" in words
    )
