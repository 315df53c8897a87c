"""Readings learned from in a window: light read of windows and lamps, before and after, used, taken back, undone, saved."""

from __future__ import annotations

import datetime

import pytest
from PySide6.QtCore import QPoint, Qt

from decks import deck_plan
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Wanted
from gwiazda.core.plan.storage import PlanFile

ONE, TWO, THREE = (f"deck1.lamp.{k:02d}" for k in (1, 2, 3))
PANES = tuple(f"deck1.window.{k:02d}" for k in (1, 2, 3, 4))


@pytest.fixture
def deck(empty, tmp_path):
    plan = edits.set_wanted(deck_plan(windows=4, lamps=3), [ONE, TWO, THREE], Wanted(current_ma=8.0))
    empty.document.clock = lambda: datetime.datetime(2026, 11, 27, 20, 15, 31, 4200)
    empty.document.load_workshop(tmp_path / "workshop")
    empty.document.take_file(PlanFile(edits.set_kit(plan, name="Deck")), None)
    empty.window.set_station("bench")
    empty.settle()
    return empty


def read_pane(bench, pane: str, times: float) -> float:
    bench.document.select([pane])
    bench.settle()
    said = bench.document.assessment.openings[pane].luminance_cd_m2
    bench.type_into("Luminance read", f"{said * times:.4g}")
    bench.settle()
    return said


def card(bench):
    bench.document.select([])
    bench.settle()
    return bench.part("LearnCard")


def test_windows_read_narrow_the_band_of_all_of_their_section_and_it_can_be_taken_back(deck, tmp_path):
    document = deck.document
    assert "Read the light of a lamp" in card(deck).words.text() and not card(deck).use.isEnabled()
    before = document.assessment.sections["deck1"]
    for pane in PANES[:3]:
        read_pane(deck, pane, 1.3)
    entry = document.plan.log[0]
    assert (
        (entry.what, entry.place, entry.section) == ("cd_m2", PANES[0], "deck1")
        and entry.said
        and "flat-white" in entry.make
    )
    found = card(deck)
    (section, part) = found.picture.changes
    assert section.name == "Deck 1" and section.after[0] > 1.2 * section.before[0]
    assert section.after[2] - section.after[1] < 0.4 * (section.before[2] - section.before[1])
    assert "3 readings" in section.tip and "cd/m²" in section.words and part.words.endswith("× the light")
    assert document.assessment.sections["deck1"] == before, "nothing follows before one says so"
    deck.press("Use it")
    deck.settle()
    after = document.assessment.sections["deck1"]
    assert after.mean_cd_m2 == pytest.approx(section.after[0], rel=0.01) and after.sigma < 0.4 * before.sigma
    # What was read is soldered: its resistors stay.
    assert all(p.resistor_ohm for p in document.plan.lamps)
    assert card(deck).words.text() == "In use." and not card(deck).use.isEnabled()
    # It says the same again, and the log agrees with it now.
    document.save(tmp_path / "deck.gwiazda")
    kept = document.plan.learned
    document.open(tmp_path / "deck.gwiazda")
    deck.settle()
    assert document.plan.learned == kept and document.assessment.sections["deck1"].sigma == after.sigma
    deck.press("Take it back")
    deck.settle()
    assert document.plan.learned == () and not document.workshop.learned
    assert document.assessment.sections["deck1"].sigma == pytest.approx(before.sigma)
    document.undo()
    deck.settle()
    assert document.plan.learned == kept


def test_another_plan_begins_with_what_a_bag_taught_less_sure(deck):
    document = deck.document
    for lamp in (ONE, TWO, THREE):
        document.select([lamp])
        deck.settle()
        lux = document.assessment.lamps[lamp].axial_cd / 0.01
        deck.type_into("Light read", f"{1.5 * lux:.4g} lx")
        deck.settle()
    card(deck)
    deck.press("Use it")
    deck.settle()
    mine = document.assessment.lamps[ONE].axial_cd
    bare = edits.learn(document.plan, ())
    assert not document.catalogue.known, "what a plan has learned itself it holds itself"
    document.take_file(PlanFile(edits.set_kit(bare, name="Another")), None)
    deck.settle()
    other = document.assessment.lamps[ONE].axial_cd
    house = mine / 1.45
    assert house < other < 0.9 * mine
    ((key, known),) = document.catalogue.known.items()
    assert key == ("light", document.plan.lamps[0].part) and 0.1 < known.sigma < 0.2


def test_a_reading_that_fits_nothing_else_is_left_out_and_said(deck):
    for pane in PANES[:3]:
        read_pane(deck, pane, 1.05)
    read_pane(deck, PANES[3], 4.0)
    found = card(deck)
    assert "Left out" in found.words.text() and "4 of 4" in found.words.text()
    assert found.picture.changes[0].after[0] == pytest.approx(found.picture.changes[0].before[0] * 1.05, rel=0.03)


def test_nonsense_typed_as_a_luminance_changes_nothing(deck):
    deck.document.select([PANES[0]])
    deck.settle()
    for text in ("bright", "-3", "0", "1e99"):
        deck.type_into("Luminance read", text)
        deck.settle()
    assert deck.document.plan.log == ()


def test_what_is_worth_reading_next_is_offered_at_the_bench_and_before_closing(shipped):
    document = shipped.document
    shipped.window.set_station("bench")
    document.select([])
    shipped.settle()
    found = shipped.part("LearnCard")
    offers = [found.next_rows.itemAt(k).widget() for k in range(found.next_rows.count())]
    assert found.next_words.isVisibleTo(shipped.window) and 1 <= len(offers) <= 3
    assert all(" min" in o.text() and o.toolTip().startswith("It narrows most") for o in offers)
    best = found.next[0]
    offers[0].click()
    shipped.settle()
    assert document.selection == (best.of,) or best.what == "photo"
    shipped.window.set_station("build")
    document.select(["deck1"])
    shipped.settle()
    text = shipped.part("SectionBuildCard").read.text()
    assert text.startswith("<b>Worth reading before it is closed:</b>") and "Deck 1" in text


def test_what_is_undone_here_can_still_be_taken_back_from_other_plans(deck):
    document = deck.document
    for pane in PANES[:2]:
        read_pane(deck, pane, 1.3)
    card(deck)
    deck.press("Use it")
    deck.settle()
    assert document.workshop.learned
    document.undo()
    deck.settle()
    assert document.plan.learned == () and document.workshop.learned, "the workshop knows no undo"
    assert "other plans still begin" in card(deck).words.text()
    deck.press("Take it back")
    deck.settle()
    assert not document.workshop.learned and not card(deck).back.isEnabled()


def test_a_plan_that_has_just_changed_is_not_soldered_as_it_was(deck):
    document = deck.document
    read_pane(deck, PANES[0], 1.3)
    found = card(deck)
    document.edit("Another resistor", lambda plan: edits.set_fields(plan, [ONE], resistor_ohm=1234.0))
    assert document.assessed_plan is not document.plan
    found._use()
    assert document.plan.learned == () and next(p for p in document.plan.lamps if p.id == ONE).resistor_ohm == 1234.0
    deck.settle()
    card(deck)
    deck.press("Use it")
    deck.settle()
    assert document.plan.learned and next(p for p in document.plan.lamps if p.id == ONE).resistor_ohm == 1234.0


def test_from_an_empty_plan_a_deck_is_drawn_lit_read_and_learned_from(empty, tmp_path):
    """With mouse and keys from nothing: a section, a row of windows, a lamp; windows read, used, saved, opened again."""
    document, window, plate = empty.document, empty.window, empty.plate
    empty.key(Qt.Key.Key_B, widget=window)
    middle = plate.rect().center()
    empty.drag(middle - QPoint(150, 50), middle + QPoint(60, 30))
    empty.settle()
    empty.key(Qt.Key.Key_R, widget=window)
    empty.drag(empty.spot(0.9, 0.55), empty.spot(0.1, 0.55))
    empty.settle()
    empty.key(Qt.Key.Key_L, widget=window)
    empty.click(empty.spot(0.5, 0.9))
    empty.settle()
    window.set_station("bench")
    panes = [o for o in document.plan.openings if document.assessment.openings[o.id].luminance_cd_m2 > 0]
    assert len(panes) >= 3 and document.plan.lamps
    before = document.assessment.sections[panes[0].section]
    empty.key(Qt.Key.Key_Escape, widget=window)
    for o in panes[:2]:
        empty.click(empty.px(*o.at))
        empty.settle()
        assert document.selection == (o.id,)
        empty.type_into("Luminance read", f"{1.4 * document.assessment.openings[o.id].luminance_cd_m2:.4g}")
        empty.settle()
    empty.key(Qt.Key.Key_Escape, widget=window)
    found = card(empty)
    assert found.picture.changes
    empty.press("Use it")
    empty.settle()
    after = document.assessment.sections[before.id]
    assert after.mean_cd_m2 > 1.2 * before.mean_cd_m2 and after.sigma < 0.5 * before.sigma
    document.save(tmp_path / "mine.gwiazda")
    kept = document.plan
    document.open(tmp_path / "mine.gwiazda")
    empty.settle()
    assert document.plan == kept and document.assessment.sections[before.id] == after
