"""By keys alone: Escape is the way back, the plate's keys work from anywhere, and a model is built with no mouse."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog

from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of

CTRL, SHIFT, NONE = (Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.NoModifier)  # fmt: skip


@pytest.fixture
def press(bench):
    """A key to whatever has the keys, as at a real keyboard."""

    def press(key, modifiers=NONE, times: int = 1):
        for _ in range(times):
            QTest.keyClick(QApplication.focusWidget() or bench.window, key, modifiers)
        bench.settle(night=False)

    return press


def test_escape_reverts_then_goes_to_the_plate_then_lets_go(bench, press):
    bench.document.select(["deck1.lamp.01"])
    field = bench.field("Wanted figure")
    before = field.text()
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "99")
    press(Qt.Key.Key_Escape)
    assert field.text() == before and QApplication.focusWidget() is field
    press(Qt.Key.Key_Escape)
    assert QApplication.focusWidget() is bench.plate and bench.document.selection
    press(Qt.Key.Key_Escape)
    assert not bench.document.selection


@pytest.mark.parametrize("where", ["choice", "fold", "button", "drawer", "feedline"])
def test_escape_leads_back_to_the_plate_from_everywhere(bench, press, where):
    bench.document.select(["deck1.lamp.01"])
    bench.settle(night=False)
    card = bench.part("LookCard").card
    widget = {
        "choice": bench.field("Wanted look"),
        "fold": card.fold,
        "button": bench.window.find_button,
        "drawer": bench.window.drawer,
        "feedline": bench.window.feedline,
    }[where]
    widget.setFocus()
    press(Qt.Key.Key_Escape)
    assert QApplication.focusWidget() is bench.plate and bench.document.selection == ("deck1.lamp.01",)


def test_escape_puts_the_field_of_a_run_away_and_keeps_what_is_drawn(empty):
    empty.key(Qt.Key.Key_T, widget=empty.window)
    for x, y in ((200, 150), (300, 150), (300, 220)):
        empty.click(empty.plate.rect().topLeft() + type(empty.plate.rect().topLeft())(x, y))
    tool = empty.plate.tool
    QTest.keyClick(empty.plate, Qt.Key.Key_4)
    assert tool.field is not None
    QTest.keyClick(tool.field, Qt.Key.Key_Escape)
    QTest.keyClick(tool.field, Qt.Key.Key_Escape)
    assert tool.field is None and len(tool.points) == 3 and empty.plate.tool is tool
    QTest.keyClick(empty.plate, Qt.Key.Key_5)
    QTest.keyClick(tool.field, Qt.Key.Key_Return)
    assert len(tool.points) <= 4 and not empty.document.plan.sections, "Enter took the length, and closed nothing"


def test_undo_from_a_field_nothing_was_typed_into_is_the_plans(bench, press):
    bench.document.select(["deck1.lamp.01"])
    bench.type_into("Wanted figure", "25 cd/m2")
    field = bench.field("Wanted figure")
    field.setFocus()
    press(Qt.Key.Key_Z, CTRL)
    assert bench.document.undo_label == "" and field.text() == "30 cd/m²"


def test_delete_works_where_things_are_picked_and_nowhere_else(bench, press):
    bench.document.select(["deck1.lamp.01"])
    bench.settle(night=False)
    bench.part("LookCard").card.fold.setFocus()
    press(Qt.Key.Key_Delete)
    assert any(p.id == "deck1.lamp.01" for p in bench.document.plan.lamps)
    bench.plate.setFocus()
    press(Qt.Key.Key_Delete)
    assert all(p.id != "deck1.lamp.01" for p in bench.document.plan.lamps)


def test_enter_presses_a_button_that_has_the_keys(bench, press):
    bench.document.select(["deck1.lamp.01", "deck1.lamp.02"])
    bench.settle(night=False)
    bench.part("LookCard").series.setFocus()
    press(Qt.Key.Key_Return)
    assert bench.document.undo_label == "Wire in series"


def test_the_plates_keys_work_from_anywhere(bench, press):
    bench.window.feedline.setFocus()
    wipe = bench.plate.wipe
    press(Qt.Key.Key_BracketLeft)
    assert bench.plate.wipe == pytest.approx(wipe - 0.05)
    scale = bench.plate.extent.scale
    press(Qt.Key.Key_Plus)
    assert bench.plate.extent.scale > scale
    QTest.keyPress(bench.window.feedline, Qt.Key.Key_N)
    assert bench.plate.hold == "night"
    QTest.keyRelease(bench.window.feedline, Qt.Key.Key_N)
    assert bench.plate.hold == ""


def test_from_thing_to_thing_of_any_kind(bench, press):
    bench.plate.setFocus()
    press(Qt.Key.Key_PageDown)
    plan = bench.document.plan
    assert bench.document.selection == (plan.lamps[0].id,)
    press(Qt.Key.Key_PageDown)
    assert bench.document.selection == (plan.lamps[1].id,) and "lamp 2" in bench.window.message.text
    press(Qt.Key.Key_PageUp, times=2)
    assert bench.document.selection == (plan.lamps[-1].id,)
    press(Qt.Key.Key_PageDown, CTRL)
    (picked,) = bench.document.selection
    assert all(p.id != picked for p in plan.lamps)


def test_space_plays_at_animate_wherever_the_keys_are(shipped):
    shipped.document.open(path_of("bryla"), as_demo=True)
    shipped.window.set_station("animate")
    shipped.settle(night=False)
    shipped.plate.setFocus()
    QTest.keyClick(shipped.plate, Qt.Key.Key_Space)
    assert shipped.window.drawer.player.playing
    QTest.keyClick(shipped.window.feedline, Qt.Key.Key_Space)
    assert not shipped.window.drawer.player.playing


def test_no_key_has_two_meanings(bench):
    from PySide6.QtGui import QShortcut

    # A dialog that another test opened has keys of its own, in its own window.
    mine = [s for s in bench.window.findChildren(QShortcut) if s.parent().window() is bench.window]
    keys = [s.key().toString() for s in mine]
    assert len(keys) > 20
    keys += [a.shortcut().toString() for a in bench.window.actions() if a.shortcut().toString()]
    assert len(keys) == len(set(keys)), sorted(k for k in keys if keys.count(k) > 1)


def test_from_empty_to_lit_wired_built_and_saved_with_no_mouse(empty, tmp_path, monkeypatch):
    window, document = empty.window, empty.document

    def press(key, modifiers=NONE, times: int = 1):
        for _ in range(times):
            QTest.keyClick(QApplication.focusWidget() or window, key, modifiers)
        empty.settle(night=False)

    def find(words: str):
        press(Qt.Key.Key_F, CTRL)
        QTest.keyClicks(QApplication.focusWidget(), words)
        press(Qt.Key.Key_Return)

    def write(text: str):
        QApplication.focusWidget().selectAll()
        QTest.keyClicks(QApplication.focusWidget(), text)
        press(Qt.Key.Key_Return)
        press(Qt.Key.Key_Escape)

    window.plate.setFocus()
    press(Qt.Key.Key_B)  # a section: its corner, across, its other corner
    press(Qt.Key.Key_Space)
    press(Qt.Key.Key_Right, SHIFT, times=6)
    press(Qt.Key.Key_Down, SHIFT, times=2)
    press(Qt.Key.Key_Space)
    (section,) = document.plan.sections
    assert section.box.size[0] > 40
    press(Qt.Key.Key_F2)
    write("Saloon")
    assert document.plan.sections[0].name == "Saloon"
    press(Qt.Key.Key_R)  # a row of windows through its middle
    press(Qt.Key.Key_Left, SHIFT, times=2)
    press(Qt.Key.Key_Space)
    press(Qt.Key.Key_Right, SHIFT, times=4)
    press(Qt.Key.Key_Space)
    assert len(document.plan.openings) >= 3
    document.select([section.id])  # the cursor begins in the middle of what is picked
    press(Qt.Key.Key_L)
    press(Qt.Key.Key_Return)
    press(Qt.Key.Key_Right, SHIFT)
    press(Qt.Key.Key_Return)
    assert len(document.plan.lamps) == 2
    empty.settle(night=False)
    assert document.assessment.sections[section.id].mean_cd_m2 > 0
    press(Qt.Key.Key_Escape, times=2)
    find("where is the battery")
    assert window.station in ("power", "wire")
    document.select([p.id for p in document.plan.lamps])
    window.set_station("light")
    empty.settle(night=False)
    empty.part("LookCard").series.setFocus()
    press(Qt.Key.Key_Return)
    assert document.undo_label == "Wire in series"
    press(Qt.Key.Key_Escape, times=2)
    press(Qt.Key.Key_8)
    box = next(b for b in window.inspector.panel.findChildren(type(empty.part("OrdersCard").form.widgets["bare"])) if b.accessibleName().startswith("Done: "))  # fmt: skip
    box.setFocus()
    press(Qt.Key.Key_Space)
    assert len(document.plan.done) == 1
    path = tmp_path / "keys.gwiazda"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(path), a[3]))
    press(Qt.Key.Key_S, CTRL)
    assert load(path).plan == document.plan
