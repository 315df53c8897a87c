"""Hatches: over the cells or not, how often they are opened, mirrored, on the template, in the steps; by hand."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.bodies.hatches import access_of, outside_mm, under_hatch, with_hatch_over
from gwiazda.core.assess.bodies.places import put_there
from gwiazda.core.drawing.sheets.kinds import drill_templates
from gwiazda.core.drawing.sheets.page import PAPERS
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.edits import twins
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Box, Closure, Hatch, Obstacle, Section, copy_unchecked
from gwiazda.core.plan.storage import PlanFile

CAT = built_in()


def powered(closure: Closure, size=(120.0, 44.0, 30.0), cells: int = 4):
    """A deck over a base with its cells in a place of their own."""
    base = Section(id="base", name="Base", box=Box(at=(0.0, -22.0, -60.0), size=size), closure=closure)
    deck = deck_plan(lamps=3)
    plan = copy_unchecked(deck, sections=(*deck.sections, edits.outline_from_box(base)))
    plan = edits.set_feed(edits.set_supply(plan, part="aa-alkaline", in_series=cells), "supply", home="base")
    return put_there(CAT, plan, "supply")


def of(plan, rule):
    return [f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule == rule]


def test_a_hatch_beside_the_cells_is_found_by_hand_and_each_offer_ends_it():
    plan = powered(Closure(by="glue", glue="two-part epoxy"))
    (pack,) = section_of(plan, "base").obstacles
    # Four AA two by two: 116 × 32.1 × 15.3 or 58 × 32.1 × 30.6; in 30 mm of height the long one. It stands from the corner of the box.
    assert pack.box.size == pytest.approx((116.0, 32.1, 15.3)) and pack.box.at == pytest.approx((0.0, -22.0, -60.0))
    plan = edits.set_hatch(plan, "base", Hatch(face="bottom", at=(60.0, 22.0), size=(110.0, 40.0)))
    # Its opening reaches from 5 to 115 mm along and 2 to 42 across: 5 mm of the pack lie outside at the end, 2 at the side.
    assert outside_mm(section_of(plan, "base"), pack, section_of(plan, "base").closure.hatch) == pytest.approx(5.0)
    (found,) = of(plan, "hatch-misses")
    assert (
        "5 mm past it" in found.sentence
        and found.subject == "supply"
        and [f.label for f in found.fixes] == ["A hatch over all of it"]
    )
    for fix in found.fixes:
        assert not of(fix.applied(plan), "hatch-misses"), fix.label


def test_cells_are_moved_under_a_hatch_that_is_large_enough():
    plan = powered(Closure(by="glue", glue="two-part epoxy"), size=(160.0, 50.0, 20.0))
    plan = edits.set_hatch(plan, "base", Hatch(face="bottom", at=(95.0, 35.0), size=(120.0, 40.0)))
    (found,) = of(plan, "hatch-misses")
    moved = under_hatch(CAT, plan, "supply")
    assert found.fixes[-1].label == "Stand the cells under the hatch" and moved == found.fixes[-1].applied(plan)
    assert (
        not of(moved, "hatch-misses")
        and section_of(moved, "base").obstacles[0].box.size == section_of(plan, "base").obstacles[0].box.size
    )


def test_what_stands_between_is_named():
    plan = powered(Closure(by="screws"))
    s = section_of(plan, "base")
    raised = copy_unchecked(s.obstacles[0], box=copy_unchecked(s.obstacles[0].box, at=(0.0, -22.0, -50.0)))
    shelf = Obstacle(
        id="shelf", kind="bulkhead", name="the shelf", box=Box(at=(0.0, -22.0, -58.0), size=(120.0, 44.0, 1.0))
    )
    plan = edits.set_fields(plan, ["base"], obstacles=(raised, shelf))
    plan = with_hatch_over(plan, "base", "supply")
    (found,) = of(plan, "hatch-misses")
    assert "the shelf stands between" in found.sentence
    above = with_hatch_over(plan, "base", "supply", "top")
    assert not of(above, "hatch-misses"), "from above nothing does"


def test_a_sealed_base_is_offered_a_hatch_and_then_is_none():
    plan = powered(Closure(by="glue", glue="solvent cement"))
    (found,) = of(plan, "sealed-cells")
    assert found.severity == "stop" and "closed for good" in found.sentence
    hatched = next(f for f in found.fixes if f.label.startswith("A hatch")).applied(plan)
    assert not of(hatched, "sealed-cells") and not of(hatched, "hatch-misses")
    (access,) = access_of(hatched, assess(hatched, CAT))
    assert access.way.startswith("by the hatch in its floor, 118 × ") or access.way.startswith(
        "by the hatch in its floor, 1"
    ), access.way
    hours = assess(hatched, CAT).feeds["supply"].hours
    assert access.evenings == pytest.approx(hours / hatched.feeds[0].hours_a_day)
    assert access.words.startswith("Cells are changed by the hatch") and access.words.endswith("evenings.")


def test_screws_undone_every_few_evenings_are_found_and_magnets_end_it():
    plan = powered(Closure(by="screws", part="bottom plate"))
    assert not of(plan, "cells-changed-often"), "three chips draw little: months"
    daily = edits.set_feed(plan, "supply", hours_a_day=24.0)
    evenings = access_of(daily, assess(daily, CAT))[0].evenings
    assert evenings < access_of(plan, assess(plan, CAT))[0].evenings
    hungry = edits.set_supply(
        edits.set_feed(plan, "supply", hours_a_day=24.0), "supply", part="aaa-alkaline", in_series=4
    )
    wanted = edits.set_resistor(hungry, [p.id for p in hungry.lamps], 150.0)
    (found,) = of(wanted, "cells-changed-often")
    assert not of(found.fixes[0].applied(wanted), "cells-changed-often")


def test_it_is_cut_as_a_step_drawn_on_the_template_mirrored_and_kept(tmp_path):
    plan = edits.set_hatch(
        powered(Closure(by="glue")), "base", Hatch(face="bottom", at=(40.0, 15.0), size=(60.0, 30.0))
    )
    step = {s.key: s for s in steps_of(CAT, plan)}.get("base:hatch")
    assert step is not None and "60 × 30 mm in the floor" in step.detail and step.minutes == 25.0
    sheets = [d for d in drill_templates(plan, assess(plan, CAT), PAPERS["a4"]) if "Base" in d.title]
    (sheet,) = sheets
    assert any(
        m.kind == "outline" and {round(max(a) - min(a), 3) for a in zip(*m.points, strict=True)} == {60.0, 30.0}
        for m in sheet.marks
    )
    turned = twins.turn_round(plan, ["base"], 0)
    assert section_of(turned, "base").closure.hatch.at == (80.0, 15.0) and twins.turn_round(turned, ["base"], 0) == plan
    storage.save(PlanFile(plan, {}), tmp_path / "h.gwiazda")
    assert storage.load(tmp_path / "h.gwiazda").plan == plan


def test_a_hatch_stays_within_its_wall():
    plan = powered(Closure(by="glue"))
    at_edge = edits.set_hatch(plan, "base", Hatch(face="bottom", at=(0.0, 0.0), size=(60.0, 30.0)))
    assert section_of(at_edge, "base").closure.hatch.at == (30.0, 15.0)
    with pytest.raises(PlanError, match="44 mm"):
        edits.set_hatch(plan, "base", Hatch(face="bottom", at=(0.0, 0.0), size=(60.0, 50.0)))
    assert section_of(edits.set_hatch(at_edge, "base", None), "base").closure.hatch is None
