"""The Power station: the evening under the hand, other sources taken by a click."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from gwiazda.demos import path_of
from gwiazda.desktop.theme.sizes import text_factor


@pytest.fixture
def power(empty):
    empty.document.open(path_of("swistak"), as_demo=True)
    empty.window.set_station("power")
    empty.settle()
    empty.window.drawer.grab()
    return empty


def test_scrubbing_dims_the_night_side_and_says_the_hour(power):
    drawer, night = power.window.drawer, power.plate.night
    plot = drawer._plot
    before = night.image.copy()
    at = QPointF(plot.left() + plot.width() * 0.8, plot.center().y()) * text_factor()
    power.bot.mousePress(drawer, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at.toPoint())
    assert drawer.hour == pytest.approx(0.8 * drawer._end, rel=0.02)
    assert 0.3 < night.weights["headlamps"] < 0.95 and night.weights["search.lamps"] > night.weights["headlamps"]
    assert power.plate.night_note.startswith("after") and night.image != before
    there = QPointF(plot.left() + plot.width() * 0.2, plot.center().y()) * text_factor()
    QApplication.sendEvent(drawer, QMouseEvent(QEvent.Type.MouseMove, there, drawer.mapToGlobal(there), Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier))  # fmt: skip
    power.bot.mouseRelease(drawer, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, there.toPoint())
    assert drawer.hour == pytest.approx(0.2 * drawer._end, rel=0.05)
    drawer.setFocus()
    power.bot.keyClick(drawer, Qt.Key.Key_Right)
    assert drawer.hour > 0.2 * drawer._end
    power.bot.keyClick(drawer, Qt.Key.Key_Escape)
    assert drawer.hour is None and not night.weights and power.plate.night_note == ""


def test_leaving_the_station_shows_the_plate_as_wired(power):
    power.window.drawer.set_hour(5.0)
    assert power.plate.night.weights
    power.window.set_station("light")
    assert not power.plate.night.weights and power.plate.night_note == ""


def test_hours_go_with_channels_switched_by_hand(power):
    power.window._set_weights({"search": 0.0})
    power.window.drawer.set_hour(5.0)
    assert power.plate.night.weights["search"] == 0.0 and 0 < power.plate.night.weights["cab"] < 1
    power.window.drawer.set_hour(None)
    assert power.plate.night.weights == {"search": 0.0}


def test_another_source_is_taken_by_a_click_and_undone(power):
    window, drawer = power.window, power.window.drawer
    window.toggle_drawer()
    for _ in range(3):
        drawer.grab()
        power.settle()
    drawer.grab()
    rows = [p for p in drawer.places if p[1].startswith("source:")]
    assert len(rows) >= 6 and "9 V block" in rows[0][2], "one's own first"
    wanted = next(i for i, o in enumerate(drawer._rows) if o.part.id == "aa-alkaline")
    cells = drawer._rows[wanted].supply.in_series
    rect = next(r for r, name, _ in drawer.places if name == f"source:{wanted}")
    power.bot.mouseClick(
        drawer, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, (rect.center() * text_factor()).toPoint()
    )
    power.settle()
    supply = power.document.plan.feeds[0].supply
    assert supply.part == "aa-alkaline" and supply.in_series == cells
    assert power.document.undo_label.startswith("Take")
    power.document.undo()
    assert power.document.plan.feeds[0].supply.part == "block-9v"


def test_evenings_follow_the_hours_a_day(power):
    assert "0.5 h an evening" in power.window.drawer.subtitle()
    power.type_into("Hours an evening", "2 h")
    power.settle()
    assert power.document.plan.feeds[0].hours_a_day == 2.0 and "2 h an evening" in power.window.drawer.subtitle()
    power.type_into("Hours an evening", "a while")
    assert power.document.plan.feeds[0].hours_a_day == 2.0
