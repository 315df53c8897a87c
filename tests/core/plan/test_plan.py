"""The plan and its edits."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.errors import PlanError
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import NORMALS, PLANES, SHEET, from_sheet, to_sheet
from gwiazda.core.plan.gate import check_consistent, check_item
from gwiazda.core.plan.lookup import find, lamps_by_section, string_of
from gwiazda.core.plan.model import (
    Box,
    Feed,
    Kit,
    Lamp,
    LampRef,
    Opening,
    Plan,
    Seam,
    Section,
    Series,
    Wanted,
    copy_unchecked,
    lamps_in,
)


def names_in(item):
    return [x.lamp for x in lamps_in(item)]


def test_models_are_frozen(deck):
    with pytest.raises(AttributeError):
        deck.kit.name = "other"


@pytest.mark.parametrize(
    "make",
    [
        lambda: Kit(scale=0.5),
        lambda: Box(at=(0, 0, 0), size=(10, -1, 5)),
        lambda: Box(at=(0, 0, float("nan")), size=(1, 1, 1)),
        lambda: Box(at=(0, float("inf"), 0), size=(1, 1, 1)),
        lambda: Opening(id="a", section="s", at=(0, 0, 0), width_mm=-3),
        lambda: Opening(id="a b", section="s", at=(0, 0, 0)),
        lambda: Section(id="s", name="n" * 101, box=Box(at=(0, 0, 0), size=(1, 1, 1))),
    ],
)
def test_impossible_values_are_refused(make):
    with pytest.raises(PlanError):
        check_item(make())


@pytest.mark.parametrize(
    "make",
    [
        lambda: Lamp(id="a", part="x", at=(0, 0, 0), aim=(0, 0, 0)),
        Wanted,
        lambda: Wanted(look="soft", mcd=3),
        lambda: Opening(id="a", section="s", at=(0, 0, 0), into="s"),
    ],
)
def test_contradictions_are_refused_at_once(make):
    with pytest.raises(ValueError):
        make()


def test_a_plan_must_be_consistent():
    box = Box(at=(0, 0, 0), size=(10, 10, 10))
    section = Section(id="s", name="S", box=box)
    lamp = Lamp(id="l", part="x", at=(0, 0, 0))
    seam = Seam(id="a", face="top")
    twice = tuple(Feed(id=i, items=(Series(id=f"{i}1", items=(LampRef(lamp="l"),)),)) for i in "ab")
    for plan, words in (
        (Plan(sections=(section, section)), "used twice"),
        (Plan(sections=(copy_unchecked(section, seams=(seam, seam)),)), "used twice"),
        (Plan(openings=(Opening(id="w", section="nowhere", at=(0, 0, 0)),)), "isn't there"),
        (Plan(feeds=(Feed(id="a", items=(LampRef(lamp="l"),)),)), "isn't there"),
    ):
        with pytest.raises(PlanError, match=words):
            check_consistent(plan)
    with pytest.raises(PlanError, match="two places"):
        check_consistent(Plan(lamps=(lamp,), feeds=twice), Plan(lamps=(lamp,)))


def test_edits_share_what_they_do_not_touch(deck):
    after = edits.move(deck, ["deck1.lamp.01"], (1, 0, 0))
    assert after.sections is deck.sections and after.openings is deck.openings and after.feeds is deck.feeds
    assert [a is b for a, b in zip(after.lamps, deck.lamps, strict=True)] == [False, True, True, True, True]


def test_a_section_takes_its_contents_along(deck):
    after = edits.move(deck, ["deck1"], (5.0, 0.0, 2.0))
    assert all(b.at[0] - a.at[0] == pytest.approx(5) for a, b in zip(deck.openings, after.openings, strict=True))
    assert all(b.at[2] - a.at[2] == pytest.approx(2) for a, b in zip(deck.lamps, after.lamps, strict=True))
    assert after.sections[0].outlines[0].points[0][0] == pytest.approx(deck.sections[0].outlines[0].points[0][0] + 5)


def test_deleting_a_section_leaves_nothing_dangling(deck):
    deck = edits.wire_in_series(deck, ["deck1.lamp.01", "deck1.lamp.02"])
    after = edits.delete(deck, ["deck1"])
    assert not after.openings and not after.lamps and not after.feeds[0].items
    check_consistent(after)


def test_deleting_a_lamp_shortens_its_string(deck):
    deck = edits.wire_in_series(deck, ["deck1.lamp.01", "deck1.lamp.02", "deck1.lamp.03"])
    after = edits.delete(deck, ["deck1.lamp.02"])
    assert names_in(after.feeds[0].items[0]) == ["deck1.lamp.01", "deck1.lamp.03"]


def test_strings_are_made_and_taken_apart(deck):
    wired = edits.wire_in_series(deck, ["deck1.lamp.03", "deck1.lamp.01"])
    assert names_in(string_of(wired, "deck1.lamp.01")) == ["deck1.lamp.03", "deck1.lamp.01"]
    again = edits.wire_in_series(wired, ["deck1.lamp.01", "deck1.lamp.05"])
    assert string_of(again, "deck1.lamp.03") is None
    assert edits.wire_singly(again, ["deck1.lamp.05"]).feeds[0].items == ()
    with pytest.raises(PlanError, match="two or more"):
        edits.wire_in_series(deck, ["deck1.lamp.01"])


def test_rows_are_even_and_named_on(deck):
    section = deck.sections[0]
    plan, ids = edits.add_row(deck, section, "starboard", (10, 8), (50, 8), 5)
    assert ids == [f"deck1.window.{n}" for n in range(25, 30)]
    row = [find(plan, i) for i in ids]
    assert [o.at[0] for o in row] == pytest.approx([10, 20, 30, 40, 50])
    assert all(o.at[1] == section.box.at[1] for o in row)
    with pytest.raises(PlanError):
        edits.add_row(deck, section, "port", (0, 0), (1, 1), 0)


def test_duplicates_get_ids_of_their_own(deck):
    plan, new = edits.duplicate(deck, ["deck1.lamp.01", "deck1.window.03"], (4, 0, 0))
    assert sorted(new) == ["deck1.lamp.06", "deck1.window.25"]
    assert find(plan, "deck1.lamp.06").at[0] == find(deck, "deck1.lamp.01").at[0] + 4
    copied, new = edits.duplicate(deck, ["deck1"], (0, 0, 30))
    assert len(copied.sections) == 2 and len(copied.openings) == 48 and len(copied.lamps) == 10
    check_consistent(copied)


def test_revise_names_item_and_field(deck):
    with pytest.raises(PlanError, match=r"deck1\.window\.01, width_mm"):
        edits.set_fields(deck, ["deck1.window.01"], width_mm=-3.0)
    with pytest.raises(PlanError, match="scale"):
        edits.set_kit(deck, scale=0.1)


def test_box_section_has_walls_and_refuses_a_sliver():
    section = edits.box_section(Plan(), "port", (0, 0), (50, 20), 30)
    assert section.box.size == pytest.approx((47.6, 30, 17.6))
    with pytest.raises(PlanError, match="no room"):
        edits.box_section(Plan(), "port", (0, 0), (2, 20), 30)


def test_the_smallest_box_holds_a_lamp(deck):
    inner = Section(id="inner", name="Inner", box=Box(at=(10, -5, 10), size=(30, 10, 9)))
    plan = edits.add_section(deck, inner)
    assert lamps_by_section(plan.sections, plan.lamps)["deck1.lamp.01"] == "inner"
    assert lamps_by_section(plan.sections, plan.lamps)["deck1.lamp.05"] == "deck1"


@given(st.sampled_from(sorted(NORMALS)), st.tuples(*[st.floats(-500, 500)] * 3))
def test_sheet_and_model_agree(side, point):
    right, down, toward = to_sheet(side, point)
    h, v, d = PLANES[side]
    assert from_sheet(side, right, down) == pytest.approx((point[h], point[v]))
    # Towards the viewer is along the side's outward normal.
    assert toward == pytest.approx(sum(n * p for n, p in zip(NORMALS[side], point, strict=True)))
    assert SHEET[side][2] == NORMALS[side][d]


@given(st.lists(st.tuples(st.integers(1, 5), st.floats(-20, 20)), max_size=8))
def test_moves_there_and_back_end_where_they_began(steps):
    plan = start = deck_plan()
    for n, dx in steps:
        plan = edits.move(plan, [f"deck1.lamp.{n:02d}"], (dx, 0, 0))
    for n, dx in reversed(steps):
        plan = edits.move(plan, [f"deck1.lamp.{n:02d}"], (-dx, 0, 0))
    for a, b in zip(plan.lamps, start.lamps, strict=True):
        assert a.at == pytest.approx(b.at, abs=1e-9)


def test_wanted_look_of_a_section_reaches_its_lamps(deck):
    plan = edits.set_wanted(deck, ["deck1"], Wanted(look="soft"))
    assert {p.wanted.look for p in plan.lamps} == {"soft"}
