"""Ctrl+F finds a field, a tool, a thing, a finding, a chapter, and goes there."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QDialog

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def find(shipped):
    def find(words: str, row: int = 0):
        shipped.key(Qt.Key.Key_F, CTRL, shipped.window)
        card = shipped.window.finder
        shipped.bot.keyClicks(card.line, words)
        for _ in range(row):
            shipped.bot.keyClick(card.line, Qt.Key.Key_Down)
        shipped.bot.keyClick(card.line, Qt.Key.Key_Return)
        shipped.settle(night=False)
        assert not card.isVisible()

    return find


def test_a_field_is_gone_to_with_its_station_and_something_of_its_kind(find, shipped):
    find("hours per evening")
    assert shipped.window.station == "power" and not shipped.document.selection
    assert QApplication.focusWidget() is shipped.field("Hours an evening")
    find("filed off")
    (picked,) = shipped.document.selection
    assert any(p.id == picked for p in shipped.document.plan.lamps) and shipped.window.station == "light"
    assert QApplication.focusWidget().accessibleName() == "Filed off"


def test_what_is_picked_stays_picked_where_it_has_the_field(find, shipped):
    lamp = shipped.document.plan.lamps[7].id
    shipped.document.select([lamp])
    find("frosted cap")
    assert shipped.document.selection == (lamp,)


def test_a_thing_a_tool_a_station_and_a_figure(find, shipped):
    find("keel tube")
    assert shipped.document.selection == ("keel",)
    find("calibrate")
    assert shipped.plate.tool.id == "calibrate"
    find("bench readings")
    find("how long does the pack last", 1)
    assert shipped.window.station == "power"


def test_a_chapter_of_the_guide_opens(find, shipped):
    find("torch test")
    pages = [d for d in shipped.window.findChildren(QDialog) if d.objectName() == "guide"]
    assert pages and "Light-tight" in pages[0].windowTitle()
    pages[0].close()


def test_escape_goes_back_and_nothing_found_is_said(shipped):
    shipped.key(Qt.Key.Key_F, CTRL, shipped.window)
    card = shipped.window.finder
    shipped.bot.keyClicks(card.line, "xylophone")
    assert card.none.isVisible() and not card.list.isVisible()
    shipped.bot.keyClick(card.line, Qt.Key.Key_Return)
    shipped.bot.keyClick(card.line, Qt.Key.Key_Escape)
    assert not card.isVisible() and QApplication.focusWidget() is shipped.plate


def test_a_field_of_something_the_plan_has_not_is_said(empty):
    empty.key(Qt.Key.Key_F, CTRL, empty.window)
    card = empty.window.finder
    empty.bot.keyClicks(card.line, "notch width")
    empty.bot.keyClick(card.line, Qt.Key.Key_Return)
    assert "carrier" in empty.window.message.text
