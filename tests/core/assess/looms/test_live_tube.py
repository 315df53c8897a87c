"""A stand's metal tube as one of the two conductors: leads of that side end at it, one wire goes on, the bore is freer; by hand."""

from __future__ import annotations

import math

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.exchange.looms import loom_table
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.loom.fill import area_mm2, goes_through
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.lookup import item_of
from gwiazda.core.plan.model import Box, Fuse, Section, copy_unchecked
from gwiazda.core.plan.storage import PlanFile

CAT = built_in()


def on_a_stand(lamps: int = 3, bore_mm: float = 3.0):
    base = Section(id="base", name="Base", box=Box(at=(0.0, -22.0, -90.0), size=(120.0, 44.0, 30.0)))
    deck = deck_plan(lamps=lamps)
    plan = copy_unchecked(deck, sections=(*deck.sections, edits.outline_from_box(base)))
    plan = edits.set_feed(
        edits.set_supply(plan, part="block-9v"), "supply", home="base", head=(Fuse(id="fuse", rated_a=0.1),)
    )
    plan, tube = edits.add_stand(plan, "deck1", "base")
    return edits.set_tube(plan, tube, outer_mm=bore_mm + 1.0, bore_mm=bore_mm, material="metal"), tube


def of(plan, rule):
    return [f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule == rule]


def test_leads_of_its_side_end_at_it_and_one_wire_goes_on():
    plan, tube = on_a_stand()
    before, after = (assess(p, CAT).loom for p in (plan, edits.set_tube(plan, tube, carries="minus")))
    passage = item_of(plan.passages, tube, "passage")
    assert len(before.passages[tube].runs) == 6 and len(after.passages[tube].runs) == 3
    outside = CAT.wires[plan.loom.wire].outside_mm
    # Six wires in the bore, then three: half of the fill.
    assert before.passages[tube].fill == pytest.approx(6 * area_mm2(outside) / (math.pi * passage.width_mm**2 / 4.0))
    assert after.passages[tube].fill == pytest.approx(before.passages[tube].fill / 2.0)
    minus = [r for r in after.runs.values() if r.kind == "lead" and r.end == "minus"]
    assert len(minus) == 3 and all(r.points[-1] == passage.at and not r.through for r in minus)
    (onward,) = [r for r in after.runs.values() if r.kind == "trunk"]
    assert (
        onward.points[0] == passage.tube.to
        and onward.start == "base"
        and onward.current_a == pytest.approx(sum(r.current_a for r in minus))
    )
    for r in minus:
        was = before.runs[r.id]
        assert r.length_mm < was.length_mm - passage.length_mm + 1e-6, (
            "neither the tube nor the way in the base is in it"
        )
    ends = [j for j in after.joints if j.kind == "hub"]
    assert {j.section for j in ends} == {"deck1", "base"} and all(j.at in (passage.at, passage.tube.to) for j in ends)


def test_currents_stay_and_the_list_names_it(tmp_path):
    plan, tube = on_a_stand()
    live = edits.set_tube(plan, tube, carries="minus")
    a, b = assess(plan, CAT), assess(live, CAT)
    for i in a.lamps:
        assert b.lamps[i].current_a == pytest.approx(a.lamps[i].current_a, rel=0.01), "a wire's fraction of an ohm"
    assert "trunk" in loom_table(live, b)
    storage.save(PlanFile(live, {}), tmp_path / "l.gwiazda")
    assert storage.load(tmp_path / "l.gwiazda").plan == live


def test_plastic_and_wood_carry_nothing():
    plan, tube = on_a_stand()
    for material in ("plastic", "wood"):
        made = edits.set_tube(plan, tube, carries="minus", material=material)
        assert not of(made, "tube-no-fuse") and len(assess(made, CAT).loom.passages[tube].runs) == 6


def test_a_bare_conductor_wants_a_fuse_and_one_circuit():
    plan, tube = on_a_stand()
    live = edits.set_tube(plan, tube, carries="minus")
    assert not of(live, "tube-no-fuse")
    bare = edits.set_feed(live, "supply", head=())
    (found,) = of(bare, "tube-no-fuse")
    for fix in found.fixes:
        assert not of(fix.applied(bare), "tube-no-fuse"), fix.label
    two, other = edits.add_feed(live, "block-9v")
    two = edits.set_feed(two, other, home="base", head=(Fuse(id="f2", rated_a=0.1),))
    two = edits.hang_on(two, ["deck1.lamp.02"], other)
    (both,) = of(two, "tube-two-nets")
    assert both.severity == "stop" and not of(both.fixes[0].applied(two), "tube-two-nets")


def test_a_full_bore_is_freed_by_letting_the_tube_carry_minus():
    plan, tube = on_a_stand(lamps=8, bore_mm=0.9)
    (found,) = of(plan, "passage-full")
    fix = next(f for f in found.fixes if f.label == "The tube itself carries minus")
    done = fix.applied(plan)
    assert item_of(done.passages, tube, "passage").tube.carries == "minus"
    assert assess(done, CAT).loom.passages[tube].fill < 0.51 * assess(plan, CAT).loom.passages[tube].fill


def test_short_and_easy_is_pushed_long_or_full_is_pulled_and_over_the_limit_it_does_not_go():
    # Three wires and more lie easily up to 40 % of the bore; 60 % is the most that goes through at all.
    assert goes_through(6, 0.3, 30.0, 4.0) == "pushed" and goes_through(6, 0.3, 41.0, 4.0) == "pulled"
    assert goes_through(6, 0.45, 30.0, 4.0) == "pulled" and goes_through(6, 0.61, 30.0, 4.0) == "not"
    assert goes_through(1, 0.5, 30.0, 4.0) == "pushed", "one wire alone lies easily up to 53 %"
