"""Lamps that come with leads: no joint at them, nothing cut where the leads reach, a splice where they don't; lamps for 5 to 12 V; AC."""

from __future__ import annotations

import math

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Board, Box, Load, Passage, Section, copy_unchecked
from gwiazda.core.workshop.parts_csv import parts_from_csv, parts_to_csv

CAT = built_in()
LAMP = "deck1.lamp.01"


def over_a_base(part: str, tube_mm: float = 30.0):
    """The worked deck with one lamp, over a base with its source, a tube between."""
    base = Section(id="base", name="Base", box=Box(at=(0.0, -22.0, -80.0), size=(120.0, 44.0, 30.0)))
    deck = edits.set_fields(deck_plan(lamps=1), [LAMP], part=part)
    tube = Passage(id="tube", section="deck1", into="base", at=(60.0, 0.0, 0.0), width_mm=4.0, length_mm=tube_mm)
    plan = copy_unchecked(deck, sections=(*deck.sections, edits.outline_from_box(base)), passages=(tube,))
    return edits.set_feed(edits.set_supply(plan, part="block-9v"), "supply", home="base")


def of(plan, rule):
    return [f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule == rule]


def test_where_its_leads_reach_nothing_is_cut_and_no_joint_is_made():
    bare, wired = (assess(over_a_base(p), CAT).loom for p in ("chip-0402-warm-white", "wired-0402-warm-white"))
    assert len([j for j in bare.joints if j.kind == "lamp"]) == 2 and all(r.cut_mm > 0 for r in bare.runs.values())
    for end in ("plus", "minus"):
        before, now = bare.runs[f"{LAMP}.{end}"], wired.runs[f"{LAMP}.{end}"]
        assert now.own_mm == 200.0 and now.part == "enamel-34" and before.own_mm == 0.0
        whole = math.ceil((now.length_mm * 1.15 + 80.0) / 5.0) * 5.0
        assert now.cut_mm == (0.0 if whole <= 200.0 else math.ceil((whole - 200.0 + 40.0) / 5.0) * 5.0)


def test_leads_that_fall_short_are_spliced_on_their_way():
    loom = assess(over_a_base("wired-0402-warm-white", tube_mm=300.0), CAT).loom
    run = loom.runs[f"{LAMP}.plus"]
    assert (
        run.cut_mm == math.ceil((math.ceil((run.length_mm * 1.15 + 80.0) / 5.0) * 5.0 - 200.0 + 40.0) / 5.0) * 5.0 > 0
    )
    splices = [j for j in loom.joints if j.kind == "splice"]
    assert {j.id for j in splices} == {f"{LAMP}.plus", f"{LAMP}.minus"} and not [
        j for j in loom.joints if j.kind == "lamp"
    ]
    assert math.dist(splices[0].at, run.points[0]) <= 200.0, "no further off than the leads are long"


def test_soldering_takes_less():
    def minutes(part: str) -> float:
        return sum(s.minutes for s in steps_of(CAT, over_a_base(part)) if s.kind == "solder")

    each = over_a_base("chip-0402-warm-white").effort.joint_min
    assert minutes("chip-0402-warm-white") - minutes("wired-0402-warm-white") == pytest.approx(each)
    # With its resistor in the lead another joint goes; a step of one joint is left.
    assert minutes("round-3-warm-white") - minutes("volts-5-12-round-3-warm-white") == pytest.approx(2 * each)


def test_a_lamp_for_5_to_12_volts_takes_the_current_of_the_voltage_at_hand():
    currents = {}
    for source in ("usb-5v", "adapter-9v-0.5a", "adapter-12v-1a"):
        plan = edits.set_resistor(
            edits.set_supply(over_a_base("volts-5-12-round-3-warm-white"), part=source), [LAMP], 0.01
        )
        currents[source] = assess(plan, CAT).lamps[LAMP].current_a
    # By hand: (12 − 3.1)/470 = 18.9 mA at about 20 mA's 3.1 V; (5 − 2.8)/470 = 4.7 mA; (9 − 2.97)/470 = 12.8 mA.
    assert [round(1e3 * currents[s], 1) for s in currents] == pytest.approx([4.7, 12.8, 18.9], rel=0.04)


def test_the_mean_of_a_rectified_sine_stands_for_ac():
    """Against the sine itself: a bridge of 1.5 V with its lamp and resistor on 16 V AC, averaged over a half wave."""
    ac = CAT.sources["railway-16v-ac"]
    assert ac.nominal_v == pytest.approx(0.9 * ac.ac_v)
    plan = edits.set_resistor(
        edits.set_supply(over_a_base("wide-round-3-warm-white"), part="railway-16v-ac"), [LAMP], 0.01
    )
    assessment = assess(plan, CAT)
    got = assessment.lamps[LAMP].current_a
    t = np.linspace(0.0, np.pi, 20_001)
    drop = 1.5 + 2.95
    sine = np.maximum(math.sqrt(2.0) * ac.ac_v * np.sin(t) - drop, 0.0) / 1000.0
    assert got == pytest.approx(float(sine.mean()), rel=0.06)
    assert not of(plan, "alternating")


def test_only_what_is_made_for_it_is_put_on_ac():
    plan = edits.set_supply(over_a_base("chip-0402-warm-white"), part="railway-16v-ac")
    (found,) = of(plan, "alternating")
    assert (
        found.severity == "stop"
        and "not made for it" in found.sentence
        and not of(found.fixes[0].applied(plan), "alternating")
    )
    wide = edits.set_supply(over_a_base("wide-chip-0603-red"), part="railway-16v-ac")
    assert not of(wide, "alternating")
    feeds = tuple(copy_unchecked(f, items=(*f.items, Load(id="m", part="motor-3v"))) for f in wide.feeds)
    assert len(of(copy_unchecked(wide, feeds=feeds), "alternating")) == 1
    assert copy_unchecked(wide, boards=(Board(id="b", part="flasher-2"),)).boards


def test_ones_own_lamps_may_come_with_leads():
    part = CAT.lamps["wired-0402-red"]._replace(id="mine-wired", leads_mm=150.0)
    text = parts_to_csv([part], CAT)
    assert "leads_mm" in text.splitlines()[0] and parts_from_csv(text)[0]["mine-wired"].leads_mm == 150.0
