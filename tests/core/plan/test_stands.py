"""Stands: a tube between two parts, its ends, its length, and what moves with it."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.assess.assembly.holes import bores_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.errors import GwiazdaError, PlanError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.edits import twins
from gwiazda.core.plan.lookup import find, standing
from gwiazda.core.plan.model import Box, Feed, Lamp, Plan, Section, View
from gwiazda.core.plan.storage import PlanFile

CATALOGUE = built_in()


def on_a_base(gap: float = 30.0) -> Plan:
    """A hull 200 × 60 × 40 mm over a base 120 × 80 × 20, walls of 1.2 mm, so far apart."""
    hull = Section(id="hull", name="Hull", box=Box(at=(0.0, -30.0, 0.0), size=(200.0, 60.0, 40.0)))
    base = Section(id="base", name="Base", box=Box(at=(40.0, -40.0, -gap - 20.0), size=(120.0, 80.0, 20.0)))
    plan = Plan(
        views=(View(id="port", name="Port side", side="port"), View(id="bow", name="Bow", side="bow")),
        sections=tuple(map(edits.outline_from_box, (hull, base))), feeds=(Feed(id="supply", home="base"),),
        lamps=(Lamp(id="l", part="chip-1206-warm-white", at=(100.0, 0.0, 38.0)),),
    )  # fmt: skip
    return edits.add_stand(plan, "hull", "base", (100.0, 0.0, 0.0))[0]


def stand(plan: Plan):
    (found,) = [p for p in plan.passages if p.tube is not None]
    return found


def rules(plan: Plan) -> set[str]:
    return {f.rule for f in evaluate_rules(plan, assess(plan, CATALOGUE))}


def test_it_bridges_the_gap_and_is_as_long_as_that():
    p = stand(on_a_base())
    assert (p.at, p.tube.to) == ((100.0, 0.0, 0.0), (100.0, 0.0, -30.0))
    assert p.length_mm == 30.0 and p.width_mm == 6.0 and p.tube.outer_mm == 8.0
    # Leaning: 30 down and 40 aft is 50 long.
    leaning = edits.set_tube(on_a_base(), p.id, to=(60.0, 0.0, -30.0))
    assert stand(leaning).length_mm == pytest.approx(50.0)
    with pytest.raises(PlanError, match="there is nothing for it to bridge"):
        edits.add_stand(on_a_base(0.0), "hull", "base")
    with pytest.raises(PlanError, match="leaves no wall"):
        edits.set_tube(on_a_base(), p.id, bore_mm=7.9)


def test_leads_go_through_it_and_both_holes_are_as_wide_as_the_tube():
    plan = on_a_base()
    assessment = assess(plan, CATALOGUE)
    assert len(assessment.loom.passages[stand(plan).id].runs) == 2, "plus and minus of the one lamp"
    bores = [b for b in bores_of(CATALOGUE, plan) if b.of == stand(plan).id]
    assert [(b.section, b.side, b.at) for b in bores] == [
        ("hull", "bottom", (100.0, 0.0, 0.0)),
        ("base", "top", (100.0, 0.0, -30.0)),
    ]
    assert all(b.drill.hole_mm >= 8.0 for b in bores)


def test_it_keeps_to_both_parts_when_one_of_them_moves():
    plan = on_a_base()
    up = stand(edits.move(plan, ["hull"], (10.0, 0.0, 5.0)))
    assert (up.at, up.tube.to, up.length_mm) == ((110.0, 0.0, 5.0), (110.0, 0.0, -30.0), 35.0)
    down = stand(edits.move(plan, ["base"], (0.0, 0.0, -7.0)))
    assert (down.at, down.tube.to, down.length_mm) == ((100.0, 0.0, 0.0), (100.0, 0.0, -37.0), 37.0)
    both = stand(edits.move(plan, ["hull", "base"], (3.0, 4.0, 5.0)))
    assert (both.at, both.tube.to, both.length_mm) == ((103.0, 4.0, 5.0), (103.0, 4.0, -25.0), 30.0)
    # Dragged itself it stays between them.
    aside = stand(edits.move(plan, [stand(plan).id], (12.0, 3.0, 9.0)))
    assert (aside.at, aside.tube.to) == ((112.0, 3.0, 0.0), (112.0, 3.0, -30.0))
    assert "stand-off" not in rules(edits.move(plan, ["hull"], (10.0, 0.0, 5.0)))


def test_an_end_in_the_air_is_found_and_mended():
    plan = edits.set_tube(on_a_base(), stand(on_a_base()).id, to=(100.0, 0.0, -18.0))
    (finding,) = [f for f in evaluate_rules(plan, assess(plan, CATALOGUE)) if f.rule == "stand-off"]
    assert finding.sentence == "Stand ends 12 mm off Base." and finding.number == pytest.approx(12.0)
    after = finding.fixes[0].applied(plan)
    assert stand(after).tube.to == (100.0, 0.0, -30.0) and "stand-off" not in rules(after)
    beside = edits.set_axis(on_a_base(), [stand(plan).id], 0, 230.0)
    assert "stand-off" in rules(beside), "30 mm before the hull"


def test_a_model_that_comes_off_wants_a_plug():
    plan = edits.set_tube(on_a_base(), stand(on_a_base()).id, comes_off=True)
    (finding,) = [f for f in evaluate_rules(plan, assess(plan, CATALOGUE)) if f.rule == "parts-come-off"]
    assert finding.sentence.startswith("The model comes off its stand, and 2 wires")
    assert "parts-come-off" not in rules(finding.fixes[0].applied(plan))


def test_it_is_drawn_as_thick_and_long_as_it_is_mirrored_copied_deleted_and_kept(tmp_path):
    plan = on_a_base()
    (drawn,) = standing(plan)
    assert (
        drawn.id == stand(plan).id
        and drawn.low == pytest.approx((96.0, -4.0, -30.0))
        and drawn.size == pytest.approx((8.0, 8.0, 30.0))
    )
    image = twins.mirrored(edits.set_axis(plan, [drawn.id], 1, 5.0).passages[0], 1, 0.0)
    assert image.at[1] == -5.0 and image.tube.to[1] == 0.0
    storage.save(PlanFile(plan, {}), tmp_path / "s.gwiazda")
    assert storage.load(tmp_path / "s.gwiazda").plan == plan
    assert stand(edits.make_stand(edits.set_fields(plan, [drawn.id], tube=None), drawn.id)).length_mm == 30.0
    assert edits.delete(plan, ["base"]).passages == () or find(edits.delete(plan, ["base"]), drawn.id) is None
    assert edits.delete(plan, [drawn.id]).passages == ()


SHIFT = st.floats(-40.0, 40.0).map(lambda v: round(v, 2))


@given(st.lists(st.tuples(st.sampled_from(["hull", "base", "stand"]), SHIFT, SHIFT, SHIFT), max_size=4))
def test_whatever_is_moved_its_length_is_the_way_between_its_ends(moves):
    plan = on_a_base(60.0)
    for what, x, y, z in moves:
        plan = edits.move(plan, [stand(plan).id if what == "stand" else what], (x, y, z))
        p = stand(plan)
        assert p.length_mm == pytest.approx(math.dist(p.at, p.tube.to), abs=1e-2)
        hull, base = (next(s for s in plan.sections if s.id == i) for i in ("hull", "base"))
        assert p.at[2] == pytest.approx(hull.box.at[2], abs=1e-6) and p.tube.to[2] == pytest.approx(
            base.box.at[2] + 20.0, abs=1e-6
        )


def test_a_file_whose_bore_is_wider_than_its_tube_is_refused_in_words():
    plan = on_a_base()
    text = storage.plan_to_json(plan).replace('"width_mm": 6.0', '"width_mm": 9.0')
    with pytest.raises(GwiazdaError, match="the bore is as wide as its tube"):
        storage.plan_from_json(text.encode(), "s.gwiazda")
