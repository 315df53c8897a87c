"""The scratch line in the window: typed anywhere, answered at once, put on the plate, taken back."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt

from gwiazda.core.assess.night.scene import scene_of
from gwiazda.core.plan.frame import NORMALS
from gwiazda.core.quick.answer import Answer
from gwiazda.core.quick.ask import Bands


def card(bench):
    return bench.window._scratch


@pytest.fixture
def asking(empty):
    empty.key(Qt.Key.Key_Slash, widget=empty.plate)
    assert card(empty).isVisible() and card(empty).field.hasFocus()
    return empty


def ask(bench, text: str) -> str:
    field = card(bench).field
    field.selectAll()
    bench.bot.keyClicks(field, text)
    return card(bench).words.text()


def test_an_answer_stands_there_while_it_is_typed(asking):
    words = ask(asking, "3 white in series on 9 V at 5 mA")
    answered = card(asking).found
    assert isinstance(answered, Answer) and answered.resistors[0].ohm == 100.0
    assert "100 Ω" in words and "in series" in card(asking).title.text()
    assert card(asking).resistor.isVisible() and "brown" in card(asking).resistor.toolTip()
    assert card(asking).discs.accessibleName() == "3 at 30 %"
    assert not asking.document.plan.lamps, "nothing happens to the plan by asking"


def test_bands_are_drawn_and_what_is_unclear_is_asked_back(asking):
    ask(asking, "yellow violet red gold")
    assert isinstance(card(asking).found, Bands) and "4.7 kΩ" in card(asking).title.text()
    assert card(asking).resistor.isVisible() and not card(asking).drop.isVisible()
    words = ask(asking, "3 white in serie on usb")
    assert "in series" in words and card(asking).found is None and not card(asking).resistor.isVisible()
    assert "&" not in words, "an apostrophe stays one"


def test_put_on_the_plate_and_taken_back(asking):
    ask(asking, "2 red in series on 9V block at 3 mA")
    asking.bot.mouseClick(card(asking).drop, Qt.MouseButton.LeftButton)
    plan = asking.document.plan
    assert len(plan.lamps) == 2 and set(asking.document.selection) == {p.id for p in plan.lamps}
    assert not card(asking).isVisible()
    asking.settle(night=False)
    # They look at the viewer, in this view as in another.
    side = asking.plate.view.side
    assert all(p.aim == tuple(float(n) for n in NORMALS[side]) for p in plan.lamps)
    shown = scene_of(plan, asking.document.assessment, side)
    assert sum(len(light.discs) for light in shown) == 2, "both are seen on the night side"
    lamp = asking.document.assessment.lamps[plan.lamps[0].id]
    assert lamp.current_a == pytest.approx(3e-3, rel=0.1)
    asking.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier, asking.window)
    assert not asking.document.plan.lamps


def test_an_empty_plan_takes_the_source_of_the_question_and_a_second_circuit_is_told_of_it(asking):
    ask(asking, "red on usb")
    asking.bot.mouseClick(card(asking).drop, Qt.MouseButton.LeftButton)
    assert asking.document.plan.supply.part == "usb-5v" and "own source" not in asking.window.message.label.text()
    asking.settle(night=False)
    asking.key(Qt.Key.Key_Slash, widget=asking.plate)
    ask(asking, "red on 12 V")
    asking.bot.mouseClick(card(asking).drop, Qt.MouseButton.LeftButton)
    assert asking.document.plan.supply.part == "usb-5v" and "own source" in asking.window.message.label.text()


def test_from_a_question_to_half_a_page_without_being_asked_for_a_shape(asking, tmp_path, monkeypatch):
    ask(asking, "3 white on 9 V")
    asking.bot.mouseClick(card(asking).drop, Qt.MouseButton.LeftButton)
    asking.settle(night=False)
    asking.window.next_line.show()
    line = asking.window.message
    assert "Half a page" in line.next_button.accessibleName()
    path = tmp_path / "half.pdf"
    monkeypatch.setattr(asking.window.files, "_where_to", lambda *_: path)
    asking.bot.mouseClick(line.next_button, Qt.MouseButton.LeftButton)
    asking.bot.waitUntil(path.exists, timeout=20_000)
    assert path.read_bytes().startswith(b"%PDF")


def test_tab_completes_arrows_bring_back_escape_leaves(asking):
    field = card(asking).field
    ask(asking, "3 wa")
    asking.bot.keyClick(field, Qt.Key.Key_Tab)
    assert field.text() == "3 warm white "
    ask(asking, "red on usb")
    asking.bot.keyClick(field, Qt.Key.Key_Return)
    ask(asking, "blue on usb")
    asking.bot.keyClick(field, Qt.Key.Key_Return)
    asking.bot.keyClick(field, Qt.Key.Key_Up)
    assert field.text() == "blue on usb"
    asking.bot.keyClick(field, Qt.Key.Key_Up)
    assert field.text() == "red on usb"
    asking.bot.keyClick(field, Qt.Key.Key_Down)
    assert field.text() == "blue on usb"
    asking.bot.keyClick(field, Qt.Key.Key_Escape)
    assert not card(asking).isVisible() and asking.plate.hasFocus()
    asking.bot.mouseClick(asking.window.ask_button, Qt.MouseButton.LeftButton)
    assert card(asking).isVisible() and field.text() == "blue on usb"


def test_it_stays_on_the_plate_when_the_window_shrinks(asking):
    ask(asking, "2 red + 1 blue on 6 V stack 330")
    asking.window.resize(960, 620)
    asking.settle(night=False)
    place, plate = card(asking).geometry(), asking.plate.geometry()
    assert place.width() <= plate.width() and place.right() <= asking.window.width()
    asking.window.toggle_theme()
    asking.window.ask()
    assert card(asking).discs.palette_ is asking.window.palette_


def test_at_power_a_lamp_says_what_its_parts_stray_by(bench):
    lamp = next(p for p in bench.document.plan.lamps if p.id.startswith("deck3"))
    bench.key(Qt.Key.Key_6, widget=bench.window)
    bench.document.select([lamp.id])
    bench.settle(night=False)
    words = bench.part("LampPowerCard").words.text()
    assert "stray" in words and "meant alike" in words
    bench.key(Qt.Key.Key_2, widget=bench.window)
    bench.settle(night=False)
    here = [type(c).__name__ for c in bench.window.inspector.panel.all_cards]
    assert "LampPowerCard" not in here, "a thousand draws only where they are looked at"


def test_three_looks_are_chosen_by_a_click_and_what_was_taken_is_changed(empty):
    """Nothing said of how bright: three values stand there; a click says which. What was taken for granted is a word to click."""
    empty.window.ask()
    card = empty.window._scratch
    card.field.setText("3 white on 9 V")
    buttons = card.looks
    assert [b.figure for b in buttons] == ["8.2 kΩ", "2.2 kΩ", "330 Ω"] and "safe" in buttons[2].outcome
    empty.bot.mouseClick(buttons[2], Qt.MouseButton.LeftButton)
    assert card.field.text() == "3 white on 9 V full" and not card.three.isVisible()
    assert card.found.resistors[0].ohm == 330.0
    card.field.setText("3 white on 9 V")
    assert 'href="3 mm lamps"' in card.words.text()
    card.words.linkActivated.emit("3 mm lamps")
    next(a for a in card.menu.actions() if a.text() == "0603").trigger()
    card.menu.close()
    assert card.field.text() == "3 white 0603 on 9 V" and "0603" in card.title.text()
    card.field.setText("drill for 0.5 fibre")
    assert "0.55 mm" in card.title.text() and not card.drop.isVisible() and not card.three.isVisible()
    card.field.setText("two 470 ohm in parallel")
    assert card.resistor.isVisible() and "235" in card.title.text()
    card.field.setText("red on 230 V")
    assert "mains" in card.words.text()
    card.leave()


def test_which_end_is_plus_is_drawn_and_said_where_all_lamps_tell_it_alike(asking):
    ask(asking, "3 white on 9 V")
    here = card(asking)
    assert here.ends.isVisible() and "longer leg" in here.plus.text() and "longer leg" in here.polarity.accessibleName()
    ask(asking, "yellow violet red gold")
    assert not here.ends.isVisible()
    ask(asking, "1 red 3 mm + 1 white 0603 on 9 V")
    assert isinstance(here.found, Answer) and not here.ends.isVisible(), "a leg and a dot are two ways to tell"
