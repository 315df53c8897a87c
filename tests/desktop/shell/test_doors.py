"""The three ways to begin on an empty plate."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from gwiazda.core.quantities import format_resistance
from gwiazda.core.quick.answer import answer
from gwiazda.desktop.shell.cards.doors import QUESTIONS
from gwiazda.desktop.widgets.resistor import ResistorPicture


def click(bench, button) -> None:
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    bench.settle(night=False)


@pytest.fixture
def doors(empty):
    empty.window.show_empty()
    assert empty.window.empty_card.isVisible()
    return empty.window.empty_card.doors


@pytest.mark.parametrize("k", range(len(QUESTIONS)))
def test_a_question_opens_the_scratch_line_with_its_answer(empty, doors, k):
    click(empty, doors.doors[0].buttons[k])
    scratch = empty.window._scratch
    assert scratch.isVisible() and scratch.field.text() == QUESTIONS[k]
    assert scratch.found is not None and scratch.title.text()


def test_the_picture_of_a_question_shows_what_the_core_answers(empty, doors):
    first = answer(QUESTIONS[0], empty.document.catalogue).resistors[0]
    picture = doors.doors[0].findChild(ResistorPicture)
    assert format_resistance(first.ohm) in picture.toolTip()
    texts = [label.text() for label in doors.doors[0].findChildren(type(doors.doors[0].children()[1]))]
    assert f"{first.number} × {format_resistance(first.ohm)}" in texts


def test_a_lit_ship_is_one_click_away_and_the_doors_go(empty, doors):
    click(empty, doors.demo)
    empty.settle()
    assert empty.document.is_demo and len(empty.document.plan.lamps) > 10
    assert not empty.window.empty_card.isVisible()


def test_a_drawing_is_asked_for_and_goes_behind_the_view(empty, doors, tmp_path, monkeypatch):
    from PySide6.QtGui import QImage

    path = tmp_path / "side.png"
    image = QImage(300, 100, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    assert image.save(str(path))
    monkeypatch.setattr(empty.window.files, "_which", lambda *_: path)
    click(empty, doors.drawing)
    empty.settle(night=False)
    assert any(v.drawing is not None for v in empty.document.plan.views)
    assert not empty.window.empty_card.isVisible()


def test_nothing_is_judged_of_a_plan_with_nothing_in_it(empty):
    meters = empty.document.assessment.meters
    assert all(m.value is None for m in meters), [m.title for m in meters if m.value is not None]


def test_the_room_is_chosen_by_its_name_and_the_words_follow_it(empty):
    window, document = empty.window, empty.document
    document.select([])
    card = next(c for c in window.inspector.panel.all_cards if type(c).__name__ == "RoomCard")
    room = card.form.chosen("room")
    room.setCurrentIndex(room.findText("exhibition, 200 lx"))
    room.activated.emit(room.currentIndex())
    empty.settle(night=False)
    assert document.plan.room.lux == 200.0 and document.assessment.looks.pane("normal") > 150.0
    words = card.form.chosen("looks")
    words.setCurrentIndex(words.findText("as at night"))
    words.activated.emit(words.currentIndex())
    empty.settle(night=False)
    assert document.assessment.looks.pane("normal") == 30.0
    document.undo()
    document.undo()
    assert document.plan.room.lux == 2.0 and document.plan.room.looks == "room"


def test_a_shape_for_an_office_is_lit_for_one(empty, doors):
    click(empty, doors.shape)
    card = empty.window.starter
    card.room.setCurrentIndex(card.room.findText("office, 500 lx"))
    click(empty, card.make_button)
    while not card.idle:
        empty.settle(night=False)
    empty.settle(night=False)
    assert empty.document.plan.room.lux == 500.0
    assert max(s.wanted_cd_m2 for s in empty.document.assessment.sections.values()) > 350.0


def test_with_large_text_the_pictures_make_room_for_what_is_clicked(empty, doors):
    window, card = empty.window, empty.window.empty_card
    assert all(d.picture.isVisible() for d in doors.doors)
    try:
        window.set_text_size(150)
        empty.settle(night=False)
        window.show_empty()
        assert card.y() + card.height() <= window.plate.height()
        assert all(b.isVisible() for d in doors.doors for b in d.buttons)
    finally:
        window.set_text_size(100)
        empty.settle(night=False)
