"""Variants: kept, put back exactly, beside other changes, chosen with a reason; figures side by side."""

from __future__ import annotations

import contextlib
import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.choices.variants import compared
from gwiazda.core.errors import PlanError, PlanFileError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits.variants import (
    choose_variant,
    drop_variant,
    keep_variant,
    piece_of,
    stands,
    variant_of,
    with_variant,
)
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import copy_unchecked, lamps_in
from gwiazda.core.plan.storage import load, plan_from_json, plan_to_json
from gwiazda.demos import path_of

CAT = built_in()
LAMPS = tuple(f"deck1.lamp.{k:02d}" for k in range(1, 5))
DEMOS = ("szron", "perkoz", "bryla", "swistak")


def deck():
    return edits.wire_in_series(deck_plan(windows=4, lamps=4), LAMPS[:2])


@pytest.mark.parametrize("name", DEMOS)
def test_each_section_and_source_of_the_demos_comes_back_as_it_was(name):
    plan = load(path_of(name)).plan
    for subject in (*(s.id for s in plan.sections), *(f.id for f in plan.feeds)):
        with_it, made = keep_variant(plan, subject, "as it is")
        validate_edit(plan, with_it)
        assert stands(with_it, variant_of(with_it, made))
        again = with_variant(with_it, made)
        assert validate_edit(with_it, again) and copy_unchecked(again, variants=()) == plan, subject
        if any(s.id == subject for s in plan.sections):
            bare = edits.delete(with_it, [subject])
            back = with_variant(bare, made)
            validate_edit(bare, back)
            for group in ("sections", "openings", "dots", "lamps", "bundles"):
                assert {x.id for x in getattr(back, group)} == {x.id for x in getattr(plan, group)}, subject


def test_a_section_comes_back_and_what_else_was_changed_stays():
    plan, two = keep_variant(deck(), "deck1", "two strings")
    changed = edits.wire_side_by_side(edits.delete(plan, [LAMPS[3]]), LAMPS[:3])
    changed = edits.set_room(edits.set_kit(changed, name="Later"), lux=7.0)
    changed, one = keep_variant(changed, "deck1", "one group")
    back = with_variant(changed, two)
    assert validate_edit(changed, back) and piece_of(back, "deck1") == piece_of(plan, "deck1")
    assert back.kit.name == "Later" and back.room.lux == 7.0 and [p.id for p in back.lamps] == list(LAMPS)
    there = with_variant(back, one)
    assert piece_of(there, "deck1") == piece_of(changed, "deck1") and len(there.lamps) == 3
    hung = [leaf.lamp for f in there.feeds for x in f.items for leaf in lamps_in(x)]
    assert sorted(hung) == sorted(LAMPS[:3]), "each once"


def test_a_circuit_comes_back_without_lamps_that_are_gone_or_hang_elsewhere():
    plan, made = keep_variant(deck(), "supply", "a string")
    plan, other = edits.add_feed(edits.wire_singly(plan, LAMPS), "aa-alkaline")
    moved = edits.hang_on(edits.delete(plan, [LAMPS[0]]), [LAMPS[1]], other)
    back = with_variant(moved, made)
    validate_edit(moved, back)
    assert [leaf.lamp for f in back.feeds for x in f.items for leaf in lamps_in(x)].count(LAMPS[1]) == 1
    assert {f.id for f in back.feeds} == {"supply", other}
    whole = with_variant(plan, made)
    assert validate_edit(plan, whole) and whole.feeds[0] == deck().feeds[0]


DOES = {
    "series": edits.wire_in_series, "side": edits.wire_side_by_side, "single": edits.wire_singly,
    "drop": lambda plan, some: edits.delete(plan, some[:1]),
    "add": lambda plan, some: edits.duplicate(plan, some[:1], (3.0, 0.0, 0.0))[0],
    "row": lambda plan, _: edits.delete(plan, [plan.openings[0].id]),
    "lining": lambda plan, _: edits.set_fields(plan, ["deck1"], lining="silver"),
    "source": lambda plan, _: edits.add_feed(plan, "aa-alkaline")[0],
}  # fmt: skip


@settings(deadline=None, max_examples=40)
@given(
    st.lists(st.sampled_from(sorted(DOES)), max_size=6),
    st.integers(0, 3),
)
def test_whatever_was_done_a_variant_comes_back_and_the_plan_stays_whole(did, k):
    plan, made = keep_variant(deck(), "deck1", "first")
    for what in did:
        lamps = [p.id for p in plan.lamps]
        some = lamps[k : k + 2] if len(lamps[k : k + 2]) == 2 else lamps[:2]
        with contextlib.suppress(PlanError, IndexError):
            plan = DOES[what](plan, some)
    back = with_variant(plan, made)
    validate_edit(plan, back)
    assert stands(back, variant_of(back, made)) and len(back.feeds) == len(plan.feeds)


def test_a_decision_keeps_what_was_there_and_says_why():
    plan, two = keep_variant(deck(), "deck1", "two strings")
    plan = edits.wire_singly(plan, LAMPS)
    with pytest.raises(PlanError, match="no reason"):
        choose_variant(plan, two, "  ")
    decided = choose_variant(plan, two, "fewer joints", "2026-11-27 20:15")
    validate_edit(plan, decided)
    assert [v.name for v in decided.variants] == ["two strings", "before two strings"]
    assert (
        decided.variants[0].chosen and decided.variants[0].reason == "fewer joints" and not decided.variants[1].chosen
    )
    assert (
        decided.log[-1].kind == "decision"
        and decided.log[-1].section == "deck1"
        and "two strings: fewer joints" in decided.log[-1].text
    )
    again = choose_variant(decided, decided.variants[1].id, "brighter")
    assert [v.chosen for v in again.variants] == [False, True] and piece_of(again, "deck1") == piece_of(plan, "deck1")
    assert "against two strings" in again.log[-1].text
    assert [v.name for v in drop_variant(again, two).variants] == ["before two strings"]


def test_a_name_is_used_once_a_subject_and_has_to_be_one():
    plan, made = keep_variant(deck(), "deck1", " a   name ")
    assert plan.variants[0].name == "a name"
    later, same = keep_variant(edits.wire_singly(plan, LAMPS), "deck1", "a name")
    assert same == made and len(later.variants) == 1 and later.variants[0].pieces != plan.variants[0].pieces
    for subject, name, said in (
        ("deck1", " ", "no name"),
        ("nothing", "x", "no section and no source"),
        (LAMPS[0], "x", "no section"),
    ):
        with pytest.raises(PlanError, match=said):
            keep_variant(plan, subject, name)
    with pytest.raises(PlanError, match="no variant"):
        with_variant(plan, "variant.99")


def test_a_file_with_variants_goes_round_and_odd_ones_are_said():
    plan, made = keep_variant(deck(), "deck1", "one")
    text = plan_to_json(plan)
    assert plan_from_json(text.encode(), "x") == plan
    raw = json.loads(text)
    raw["variants"][0]["pieces"]["lamps"] = [{"id": "x", "nonsense": 1}]
    odd = plan_from_json(json.dumps(raw).encode(), "x")
    with pytest.raises(PlanFileError, match="Variant"):
        with_variant(odd, made)
    figures = compared(odd, assess(odd, CAT), "deck1")
    assert [bool(f.fault) for f in figures] == [False, True] and "Variant" in figures[1].fault


def test_ids_taken_meanwhile_by_something_else_are_named():
    plan, made = keep_variant(deck(), "deck1", "one")
    plan = edits.delete(plan, ["deck1"])
    other = deck_plan(windows=1, lamps=1)
    section = copy_unchecked(other.sections[0], id="elsewhere")
    taken = copy_unchecked(
        plan, sections=(section,), openings=(copy_unchecked(other.openings[0], section="elsewhere"),)
    )
    with pytest.raises(PlanError, match="something else"):
        with_variant(taken, made)


def test_figures_side_by_side_are_those_of_each_plan_alone():
    plan, _ = keep_variant(deck(), "deck1", "two strings")
    dim = edits.wire_side_by_side(edits.delete(plan, [LAMPS[3]]), LAMPS[:3])
    dim, _ = keep_variant(dim, "deck1", "a group")
    changed = edits.set_fields(dim, ["deck1"], lining="silver")
    figures = compared(changed, assess(changed, CAT), "deck1")
    assert [(f.name, f.now) for f in figures] == [("as it is now", True), ("two strings", False), ("a group", False)]
    for f, alone in zip(figures, (changed, plan, dim), strict=True):
        assessment = assess(alone, CAT)
        assert f.light == pytest.approx(assessment.sections["deck1"].mean_cd_m2, rel=1e-6)
        assert f.evenness == pytest.approx(assessment.sections["deck1"].evenness, rel=1e-6)
        assert f.draw_a == pytest.approx(assessment.supply.draw_a, rel=1e-6) and f.run_h == pytest.approx(
            assessment.supply.hours, rel=1e-6
        )
        assert f.lamps == len(alone.lamps)
    assert figures[2].joints < figures[1].joints and figures[2].work_h < figures[1].work_h
    circuit, _ = keep_variant(plan, "supply", "as is")
    alone = compared(circuit, assess(circuit, CAT), "supply")
    assert len(alone) == 1 and alone[0].now and alone[0].lamps == 4 and alone[0].light > 0
