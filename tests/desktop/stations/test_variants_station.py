"""Variants, twins and what is learned, by hand: kept, tried on the plate, decided for; another kit on the bench."""

from __future__ import annotations

import datetime

import pytest

from decks import deck_plan
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Wanted
from gwiazda.core.plan.storage import PlanFile, load, save
from gwiazda.demos import path_of

LAMPS = tuple(f"deck1.lamp.{k:02d}" for k in (1, 2, 3))


@pytest.fixture
def deck(empty):
    plan = edits.set_wanted(deck_plan(windows=4, lamps=3), LAMPS, Wanted(current_ma=8.0))
    empty.document.clock = lambda: datetime.datetime(2026, 11, 27, 20, 15, 31, 4200)
    empty.document.take_file(PlanFile(plan), None)
    empty.window.set_station("bench")
    empty.settle(night=False)
    return empty


def keep(deck, name: str) -> None:
    deck.type_into("Keep what is there as", name)
    deck.settle(night=False)


def test_two_variants_side_by_side_tried_and_decided_for(deck, tmp_path):
    document = deck.document
    document.select(["deck1"])
    deck.settle(night=False)
    card = deck.part("VariantsCard")
    assert card.of.currentData() == "deck1" and "Keep what is there" in card.words.text()
    keep(deck, "own resistors")
    single = document.plan
    document.edit("Side by side", lambda plan: edits.wire_side_by_side(plan, LAMPS))
    document.select(["deck1"])
    deck.settle(night=False)
    keep(deck, "one resistor")
    deck.settle(night=False)
    assert [(f.name, f.now) for f in card.figures] == [("own resistors", False), ("one resistor", True)]
    heads = [card.heads.itemAt(k).widget().text() for k in range(card.heads.count())]
    assert heads == ["A  own resistors", "B  one resistor (now)"]
    cells = {
        card.table.itemAtPosition(r, 0).widget().text(): r for r in range(1, 10) if card.table.itemAtPosition(r, 0)
    }
    joints = [card.table.itemAtPosition(cells["Joints"], c).widget().text() for c in (1, 2)]
    assert "<b>" in joints[1] and "<b>" not in joints[0], "fewer joints is the better"
    deck.press("A  own resistors")
    assert document.on_trial and document.plan.feeds == single.feeds, "it is on the plate"
    assert document.undo_label == "Keep a variant"
    deck.type_into("Decide for it, because", "each as bright as the other")
    deck.settle(night=False)
    assert not document.on_trial and document.plan.feeds == single.feeds
    assert (
        document.plan.variants[0].chosen
        and document.plan.log[-1].kind == "decision"
        and document.plan.log[-1].at == "2026-11-27 20:15"
    )
    path = tmp_path / "v.gwiazda"
    assert document.save(path) and load(path).plan == document.plan
    document.undo()
    deck.settle(night=False)
    assert not document.plan.variants[0].chosen and document.plan.log == ()


def test_a_trial_goes_with_another_edit_and_a_variant_is_forgotten(deck):
    document = deck.document
    card = deck.part("VariantsCard")
    deck.choose("Variants of", "Source")
    deck.settle(night=False)
    keep(deck, "as is")
    document.edit("String", lambda plan: edits.wire_in_series(plan, LAMPS[:2]))
    deck.settle(night=False)
    keep(deck, "string of two")
    deck.press("A  as is")
    assert document.on_trial
    deck.press("A  as is")
    assert not document.on_trial, "pressed again, it is as it was"
    assert not card.reason.isEnabled(), "nothing is tried, so nothing is decided for"
    deck.press("A  as is")
    deck.press("Forget it")
    assert [v.name for v in document.plan.variants] == ["string of two"] and not document.on_trial
    keep(deck, "")
    assert [v.name for v in document.plan.variants] == ["string of two"]


def test_twins_and_another_kit_come_into_the_evenings(deck, tmp_path):
    document, window = deck.document, deck.window
    window.set_station("build")
    deck.settle(night=False)
    drawer = window.drawer
    drawer.grab()
    alone = drawer.subtitle()
    deck.type_into("Number of kits", "2")
    deck.settle(night=False)
    assert document.plan.bench.alike == 2 and drawer.subtitle() != alone
    deck.type_into("Number of kits", "half")
    assert document.plan.bench.alike == 2 and window.message.text
    document.put_beside(path_of("swistak"))
    deck.settle(night=False)
    drawer.grab()
    assert "beside it Świstak" in drawer.subtitle()
    document.put_beside(tmp_path / "none.gwiazda")
    assert "none.gwiazda" in window.message.text and len(document.beside) == 1
    deck.press("Świstak: take it off the bench")
    assert document.beside == () and "beside" not in drawer.subtitle()
    other = tmp_path / "o.gwiazda"
    save(PlanFile(document.plan), other)
    document.put_beside(other)
    document.new()
    assert document.beside == ()
