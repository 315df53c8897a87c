"""A first evening on real widgets: a plan from a shape, what is next, a plan that opens where it was left, its night on the empty plate."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, QSettings, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from gwiazda.core.assess.assessment import assess
from gwiazda.core.findings.next_steps import ahead
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of
from gwiazda.desktop.shell import recent
from gwiazda.desktop.shell.export.pictures import settle
from gwiazda.desktop.shell.window import MainWindow


def click(bench, button) -> None:
    bench.bot.mouseClick(button, Qt.MouseButton.LeftButton)


def made(bench) -> None:
    """Wait for the plan that is being made."""
    bench.bot.waitUntil(lambda: bench.window.starter.idle and not bench.window.starter.isVisible(), timeout=60_000)
    bench.settle()


def typed(field, text: str) -> None:
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)


@pytest.mark.parametrize("form", ["ship", "vehicle"])
def test_from_an_empty_plate_to_a_lit_plan_saved_and_opened_again(empty, form, tmp_path):
    window = empty.window
    window.show_empty()
    assert window.empty_card.isVisible()
    click(empty, window.empty_card.doors.shape)
    card = window.starter
    assert card.isVisible() and not window.empty_card.isVisible()
    click(empty, card.buttons[form])
    typed(card.fields["name"], "Dudek")
    if form == "ship":
        typed(card.fields["windows"], "8")
    assert len(card.picture.plan.sections) == len({s.id for s in card.picture.plan.sections}) > 3
    click(empty, card.make_button)
    made(empty)
    plan = window.document.plan
    assert plan.kit.name == "Dudek" and window.document.dirty and not window.document.findings
    assert form != "ship" or sum(o.section == "deck1" and o.side == "port" for o in plan.openings) == 8
    assert not window.empty_card.isVisible()
    window.document.save(tmp_path / "dudek.gwiazda")
    assert load(tmp_path / "dudek.gwiazda").plan == plan
    # Changed at will, and back.
    lamp = plan.lamps[0].id
    window.document.select([lamp])
    window.delete_selected()
    assert window.document.plan != plan
    window.document.undo()
    assert window.document.plan == plan
    # The shape itself too, and what was on the plate before it: nothing.
    assert window.document.undo_label == "New from a shape"
    window.document.undo()
    assert not window.document.plan.sections and window.plate.view in window.document.plan.views
    empty.settle(night=False)
    window.document.redo()
    assert window.document.plan == plan and window.plate.view in plan.views


def test_sizes_that_cannot_be_are_said_on_the_card(empty):
    window = empty.window
    window.start_from_shape()
    card = window.starter
    for name, text, words in (
        ("length", "abc", "be read"),
        ("windows", "1e999", "out of range"),
        ("decks", "inf", "be read"),
        ("length", "3", "60 to 2000"),
        ("decks", "2.5", "a whole number"),
        ("decks", "99", "1 to 8"),
        ("windows", "90", "don’t fit"),
        ("scale", "1/0", "cale"),
    ):
        card.take_form("ship")
        typed(card.fields[name], text)
        assert words in card.words.text() and not card.make_button.isEnabled(), (name, text)
        QTest.keyClick(card.fields[name], Qt.Key.Key_Return)
    card.take_form("tower")
    assert card.make_button.isEnabled() and card.labels["length"].text() == "Height, mm"
    QTest.keyClick(card, Qt.Key.Key_Escape)
    assert not card.isVisible() and not window.document.plan.sections


def test_a_plan_with_changes_is_offered_back(bench):
    window = bench.window
    before = window.document.plan
    window.document.edit("Name", lambda plan: edits.set_kit(plan, name="Mine"))
    mine = window.document.plan
    assert mine != before
    window.start_from_shape()
    click(bench, window.starter.make_button)
    made(bench)
    assert window.document.plan.kit.name == "Ship with decks"
    assert "Mine" in window.message.text
    click(bench, window.message.action)
    bench.settle()
    assert window.document.plan == mine


def next_words(bench) -> str:
    bench.settle()
    bench.window.next_line.show()
    line = bench.window.message
    return line.next_button.accessibleName() if not line.next_button.isHidden() else ""


def test_what_is_next_from_nothing_to_lit(empty):
    window, document = empty.window, empty.window.document
    assert "Start from a shape" in next_words(empty)
    section = edits.box_section(Plan(), "port", (0.0, 0.0), (120.0, 20.0), 30.0)
    document.edit("Section", lambda plan: edits.add_section(plan, section))
    assert "row of windows" in next_words(empty)
    click(empty, window.message.next_button)
    assert window.plate.tool.id == "row"
    document.edit("Row", lambda plan: edits.add_row(plan, section, "port", (10.0, 10.0), (110.0, 10.0), 10)[0])
    assert f"Light {section.name}" in next_words(empty)
    click(empty, window.message.next_button)
    empty.settle()
    assert document.plan.lamps and document.undo_label == f"Light {section.name}"
    document.undo()
    assert not document.plan.lamps
    # It can be hidden, and stays so.
    window.next_line.switch(False)
    assert window.message.next_button.isHidden() and str(QSettings().value("say_next")) == "no"
    window.next_line.switch(True)


def test_after_a_drawing_is_dropped_next_says_calibrate_and_then_trace(empty):
    empty.window.set_station("measure")
    empty.plate.files_dropped.emit(str(path_of().parent / "sketch.png"))
    empty.window.message.clear()
    assert "Calibrate the drawing" in next_words(empty)
    click(empty, empty.window.message.next_button)
    assert empty.plate.tool.id == "calibrate"
    empty.plate.set_wipe(1.0)
    empty.drag(QPoint(200, 200), QPoint(500, 200))
    field = empty.plate.tool.field
    typed(field, "94 mm")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert empty.document.plan.views[0].drawing.calibrated
    empty.window.message.clear()
    assert "Trace a section" in next_words(empty)
    empty.document.undo()
    empty.window.message.clear()
    assert "Calibrate" in next_words(empty), "what is undone is to be done again"


def test_what_is_next_does_each_offer_once_and_ends(shipped):
    """Clicked on and on it goes through the offers of the station, and never the same again and again."""
    window = shipped.window
    window.set_station("block")
    seen: list[str] = []
    for _ in range(12):
        words = next_words(shipped)
        if not words or window.station != "block":
            break
        seen.append(words)
        click(shipped, window.message.next_button)
        shipped.settle()
    assert len(set(seen)) == len(seen)
    assert seen


def test_nothing_is_next_where_nothing_is_missing(deck):
    assessment = assess(deck, built_in())
    assert ahead(deck, assessment, (), lambda topic: True) is None


def test_a_plan_opens_where_it_was_left(shipped, tmp_path):
    window, plate = shipped.window, shipped.window.plate
    path = tmp_path / "left.gwiazda"
    window.document.save(path)
    window.files.open(path)
    shipped.settle()
    window.set_station("block")
    plate.set_view("view.top")
    plate.set_wipe(0.25)
    plate.zoom(3.0)
    shipped.settle()
    extent = plate.extent
    window.files.new()
    shipped.settle()
    window.set_station("light")
    plate.set_wipe(0.6)
    assert window.empty_card.isVisible() and [t.path for t in window.empty_card.tiles] == [path]
    tile = window.empty_card.tiles[0]
    assert tile.image is not None and tile.image.size() == recent.NIGHT
    click(shipped, tile)
    shipped.settle()
    assert window.document.path == path and window.station == "block" and plate.view.id == "view.top"
    assert plate.wipe == pytest.approx(0.25)
    assert plate.extent.scale == pytest.approx(extent.scale) and plate.extent.left_mm == pytest.approx(
        extent.left_mm, abs=0.6
    )


@pytest.mark.parametrize(
    "kept", ["", "null", "[]", '{"zoom": ["a"]}', '{"station": 3, "view": [], "wipe": "x"}', '{"wipe": NaN, "zoom": [1, 2, 0]}']
)  # fmt: skip
def test_settings_somebody_else_wrote_are_passed_over(bench, tmp_path, kept):
    path = tmp_path / "odd.gwiazda"
    bench.window.document.save(path)
    QSettings().setValue(f"left/{recent._mark(path)}", kept)
    station = bench.window.station
    bench.window.files.open(path)
    bench.settle()
    assert bench.window.document.path == path and bench.window.station == station


def test_a_plan_left_while_walked_round_opens_so_at_the_start(opened, tidy, tmp_path):
    """The window of the next day: nothing of the flat plate is ever painted, and all the rest is there."""
    window = opened.window
    path = tmp_path / "walked.gwiazda"
    window.document.take_file(tidy, None)
    window.document.save(path)
    QSettings().setValue(f"left/{recent._mark(path)}", '{"station": "light", "round": true}')
    other = MainWindow()
    opened.bot.addWidget(other)
    assert other.document.open(path)
    recent.come_back(other)
    other.show()
    settle(other)
    assert other.plate.rounding and other.plate.round.frame is not None
    assert other.inspector.panel is not None and other.inspector.findChildren(QLineEdit)
    other.close()
