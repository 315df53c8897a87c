"""References declared on fields: finding, deleting and copying follow from one table."""

from __future__ import annotations

import msgspec
import pytest

from decks import deck_plan
from gwiazda.core.errors import PlanError
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import skins
from gwiazda.core.plan.gate import check_item, validate_edit
from gwiazda.core.plan.model import (
    GROUPS,
    Feed,
    Lamp,
    LampRef,
    Opening,
    Parallel,
    Plan,
    Section,
    Series,
    copy_unchecked,
)
from gwiazda.core.plan.refs import nested, references, renamed, without


def test_each_group_of_a_plan_has_its_references_in_the_table():
    opening = Opening(id="o", section="s", into="t", light="f", at=(0.0, 0.0, 0.0), width_mm=2.0, height_mm=2.0)
    assert {(r.to, target) for r, target in references(opening)} >= {
        ("sections", "s"),
        ("sections", "t"),
        ("lights", "f"),
    }
    assert {(r.to, t) for r, t in references(Lamp(id="l", part="chip-0603-red", light="f", at=(0.0, 0.0, 0.0)))} == {
        ("lights", "f")
    }
    tree = Feed(
        id="x", items=(Series(id="a", items=(LampRef(lamp="l"), Parallel(id="p", items=(LampRef(lamp="m"),)))),)
    )
    assert [t for _, t in references(tree)] == ["l", "m"]
    assert [n.id for n in nested(tree)] == ["a", "p"]
    for name in GROUPS:
        assert name in Plan.__struct_fields__


def test_what_refers_to_what_is_gone_goes_or_is_cleared():
    opening = Opening(id="o", section="s", into="t", light="f", at=(0.0, 0.0, 0.0), width_mm=2.0, height_mm=2.0)
    assert without(opening, {"sections": {"s"}}) is None, "an opening goes with its section"
    assert without(opening, {"sections": {"t"}}) is None, "and with the one it leads into"
    assert without(opening, {"lights": {"f"}}) is None
    assert without(opening, {"lamps": {"x"}}) is opening, "what is untouched is the very same"


def test_a_tree_loses_its_lamps_and_then_itself():
    tree = Feed(id="x", items=(Series(id="a", items=(LampRef(lamp="l"), LampRef(lamp="m"))), LampRef(lamp="n")))
    left = without(tree, {"lamps": {"l"}})
    assert left is not None and [t for _, t in references(left)] == ["m", "n"]
    bare = without(tree, {"lamps": {"l", "m", "n"}})
    assert bare is not None and bare.items == () and bare.id == "x"


def test_a_renamed_copy_has_no_id_of_its_original():
    plan = skins.add_patch(skins.add_seam(deck_plan(), "deck1", "top"), "deck1", "top", (1.0, 1.0), (5.0, 5.0), "putty")
    section = plan.sections[0]
    names = {i: f"{i}.copy" for i in ("deck1", *(n.id for n in nested(section)))}
    copy = renamed(section, names)
    assert copy.id == "deck1.copy" and {n.id for n in nested(copy)} == {f"{n.id}.copy" for n in nested(section)}
    assert copy.box == section.box and isinstance(copy, Section)


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"name": "n" * 101}, "deck1, name: 101 letters"), ({"wall_mm": -1.0}, "deck1, wall_mm"), ({"wall_mm": float("nan")}, "finite number"),
        ({"material": 7}, "deck1, material"), ({"lining_coats": 99}, "deck1, lining_coats"),
    ],
)  # fmt: skip
def test_a_value_that_cannot_be_is_named_by_item_and_field(fields, words):
    bad = msgspec.structs.replace(deck_plan().sections[0], **fields)
    with pytest.raises(PlanError, match=words):
        check_item(bad)


def test_the_gate_looks_at_what_changed_only():
    plan = deck_plan()
    odd = copy_unchecked(plan, lamps=(copy_unchecked(plan.lamps[0], units=-3), *plan.lamps[1:]))
    with pytest.raises(PlanError, match=plan.lamps[0].id):
        validate_edit(plan, odd)
    moved = edits.move(plan, ["deck1.lamp.02"], (1.0, 0.0, 0.0))
    assert validate_edit(plan, moved) is moved and validate_edit(plan, plan) is plan
    lost = copy_unchecked(plan, openings=(copy_unchecked(plan.openings[0], section="nowhere"), *plan.openings[1:]))
    with pytest.raises(PlanError, match="names the section “nowhere”, which isn't there"):
        validate_edit(plan, lost)


def test_too_many_of_a_kind_are_refused():
    plan = deck_plan()
    many = copy_unchecked(plan, views=tuple(copy_unchecked(plan.views[0], id=f"v{i}") for i in range(101)))
    with pytest.raises(PlanError, match="101 views"):
        validate_edit(plan, many)
