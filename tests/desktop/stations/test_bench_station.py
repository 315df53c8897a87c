"""The Bench station in a window: readings, suspects, the next measurement, the log, a hidden fault found."""

from __future__ import annotations

import datetime

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from decks import deck_plan
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Wanted
from gwiazda.core.plan.storage import PlanFile, load
from gwiazda.desktop.stations.bench.session import session_of

ONE, TWO, THREE = (f"deck1.lamp.{k:02d}" for k in (1, 2, 3))


@pytest.fixture
def deck(empty):
    plan = deck_plan(windows=4, lamps=3)
    plan = edits.set_wanted(plan, [ONE, TWO, THREE], Wanted(current_ma=8.0))
    empty.document.clock = lambda: datetime.datetime(2026, 11, 27, 20, 15, 31, 4200)
    empty.document.take_file(PlanFile(edits.wire_in_series(plan, [ONE, TWO])), None)
    empty.window.set_station("bench")
    empty.settle()
    empty.window.drawer.grab()
    return empty


def pick(bench, *ids: str) -> None:
    bench.document.select(ids)
    bench.settle()


def suspects(bench) -> list[str]:
    pick(bench)
    card = bench.part("SuspectsCard")
    return [card.rows.itemAt(k).widget().text() for k in range(card.rows.count())]


def test_readings_of_lamps_name_the_fault_and_what_to_measure_next(deck, tmp_path):
    assert "Nothing is read yet" in deck.part("SuspectsCard").words.text()
    pick(deck, ONE, TWO)
    deck.press("Dark")
    pick(deck, THREE)
    deck.press("Good")
    assert [(e.what, e.place, e.value) for e in deck.document.plan.log] == [
        ("lit", ONE, 0.0),
        ("lit", TWO, 0.0),
        ("lit", THREE, 1.0),
    ]
    assert deck.document.plan.log[0].at == "2026-11-27 20:15"
    pick(deck, ONE)
    deck.type_into("Volts read", "9.0 V")
    deck.settle()
    said = suspects(deck)
    assert said[0].startswith("Deck 1, lamp 1") and ("reversed" in said[0] or "open" in said[0])
    card = deck.part("SuspectsCard")
    assert card.next.isVisibleTo(deck.window) and card.next.text().startswith("Next:")
    assert "Deck 1, lamp 1" in deck.window.drawer.subtitle()
    deck.window.drawer.grab()
    words = next(text for _, item, text in deck.window.drawer.places if item == ONE)
    assert "9 V read" in words and "suspect" in words and "looks dark" in words
    path = tmp_path / "b.gwiazda"
    assert deck.document.save(path) and load(path).plan == deck.document.plan
    deck.press("Repaired")
    assert (
        all(e.settled for e in deck.document.plan.log)
        and "Nothing is read yet" in deck.part("SuspectsCard").words.text()
    )
    deck.document.undo()
    deck.settle()
    assert suspects(deck)[0].startswith("Deck 1, lamp 1")


def test_suspects_glow_on_the_plate(deck):
    deck.plate.set_wipe(1.0)
    deck.settle()
    before = deck.plate.grab().toImage()
    pick(deck, THREE)
    deck.press("Dark")
    pick(deck)
    assert deck.plate.grab().toImage() != before


def test_bad_readings_are_said(deck):
    pick(deck, ONE)
    deck.type_into("Volts read", "lots")
    assert deck.window.message.text and deck.document.plan.log == ()
    deck.type_into("Volts read", "30")
    deck.settle()
    assert "can’t be on a source of 9 V" in session_of(deck.document).fault
    assert "can’t be" in deck.window.drawer.subtitle()
    deck.document.undo()
    deck.settle()
    assert session_of(deck.document).fault == ""


def test_the_test_sheet_of_a_lamp_stands_on_its_card(deck):
    pick(deck, THREE)
    words = deck.part("ReadingCard").sheet.text()
    assert "To test: 9 V, limit" in words and "Deck 1, lamp 3 should light" in words


def test_the_log_is_written_searched_and_summed(deck):
    pick(deck)
    deck.type_into("Write in the log", "Two coats on the roof, thinned 1:1")
    deck.choose("Kind of entry", "hours")
    deck.type_into("Write in the log", "1.5 masking")
    deck.choose("Kind of entry", "cost")
    deck.type_into("Write in the log", "dear")
    assert deck.window.message.text and len(deck.document.plan.log) == 2
    deck.type_into("Write in the log", "12.40 fibre")
    deck.settle()
    card = deck.part("LogCard")
    assert "Two coats" in card.list.text() and "In all 1.5 h, cost 12.4" in card.list.text()
    deck.type_into("Search the log", "coats roof")
    assert "Two coats" in card.list.text() and "masking" not in card.list.text()
    deck.type_into("Search the log", "nothing like it")
    assert "Nothing with these words" in card.list.text()
    deck.document.undo()
    assert len(deck.document.plan.log) == 2


def test_a_hidden_fault_is_found(deck):
    plan = deck.document.plan
    pick(deck)
    deck.press("Hide a fault")
    session = session_of(deck.document)
    fault = session.hidden.fault
    deck.press("Look at all lamps")
    assert session.steps == 1 and len(session.practised) == 3
    for _ in range(3):
        button = next(
            (
                b
                for b in deck.window.inspector.findChildren(QPushButton)
                if b.text().startswith("Measure:") and b.isVisibleTo(deck.window)
            ),
            None,
        )
        if button is None:
            break
        deck.bot.mouseClick(button, Qt.MouseButton.LeftButton)
        deck.settle()
        pick(deck)
    assert fault in [f for s in session.diagnosis.suspects[:3] for f in s.faults]
    deck.press("What was it")
    assert fault.words in deck.part("PracticeCard").words.text() and session.hidden is None
    assert deck.document.plan is plan, "nothing of it is in the plan"


def test_an_empty_plan_has_nothing_to_read(empty):
    empty.window.set_station("bench")
    empty.settle()
    empty.window.drawer.grab()
    assert "no lamp hangs on a source" in empty.window.drawer.subtitle()
    empty.press("Hide a fault")
    assert "nothing to break" in empty.window.message.text


def test_the_readings_teach_the_catalogue(deck, tmp_path):
    deck.document.load_workshop(tmp_path)
    part = deck.document.plan.lamps[0].part
    for lamp in (ONE, TWO, THREE):
        state = deck.document.assessment.lamps[lamp]
        pick(deck, lamp)
        deck.type_into("Volts read", f"{state.forward_v + 0.12:.2f} V")
        deck.type_into("Current read", f"{state.current_a * 1e3:.2f} mA")
        deck.settle()
    pick(deck)
    shown = deck.part("LearnCard").picture.changes
    (volts,) = (c for c in shown if c.words.endswith(" V"))
    assert volts.name == deck.document.catalogue.lamps[part].name
    deck.press("Use it")
    deck.settle()
    house, now = deck.document.catalogue, deck.document.assessment.catalogue
    more = now.families[now.lamps[part].family].v20_v - house.families[house.lamps[part].family].v20_v
    assert more == pytest.approx(0.12, abs=0.01) and volts.after[0] - volts.before[0] == pytest.approx(more, abs=1e-3)
    deck.document.undo()
    deck.settle()
    assert deck.document.assessment.catalogue is deck.document.catalogue


def test_a_photo_goes_into_the_log_and_into_the_file(deck, tmp_path):
    from PIL import Image

    Image.new("RGB", (2400, 1800), (200, 120, 40)).save(tmp_path / "first light.jpg")
    (tmp_path / "odd.heic").write_bytes(b"\0\0\0\x18ftypheic" + bytes(50))
    pick(deck)
    card = deck.part("LogCard")
    card.take_photo(tmp_path / "odd.heic")
    assert "HEIC" in deck.window.message.text and not deck.document.plan.log
    card.take_photo(tmp_path / "gone.jpg")
    assert "can’t be read" in deck.window.message.text
    card.take_photo(tmp_path / "first light.jpg")
    deck.settle()
    (entry,) = deck.document.plan.log
    card = deck.part("LogCard")
    assert entry.photo == "first-light.jpg" and entry.text == "first light" and "first light" in card.list.text()
    path = tmp_path / "p.gwiazda"
    assert deck.document.save(path)
    again = load(path)
    assert again.plan == deck.document.plan and again.pictures[entry.photo] == deck.document.pictures[entry.photo]
    thumb = next(
        b for b in deck.window.inspector.findChildren(QPushButton) if b.accessibleName() == "Photo: first light"
    )
    deck.bot.mouseClick(thumb, Qt.MouseButton.LeftButton)
    assert card.shown.isVisible() and card.shown.windowTitle() == "first light"
    deck.bot.keyClick(card.shown, Qt.Key.Key_Escape)
    deck.document.undo()
    deck.settle()
    assert not deck.document.plan.log and "Nothing is written" in deck.part("LogCard").list.text()


def test_cards_that_were_put_away_follow_nothing_more(deck):
    from PySide6.QtCore import QEvent
    from PySide6.QtWidgets import QApplication

    old = deck.window.inspector.panel
    gone = [c for c in old.here if type(c).__name__ in ("SuspectsCard", "ReadingCard")]
    deck.window.inspector.renew()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    deck.settle()
    pick(deck, ONE)
    deck.press("Dark")  # the session says that it changed: cards of deleted widgets would raise
    deck.document.pick_step("deck1:open")
    deck.settle()
    assert len(gone) == 2
    assert session_of(deck.document).readings()
