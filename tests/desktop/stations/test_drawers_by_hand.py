"""Drawers under the wheel and the keys."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication

from gwiazda.desktop.stations.build.days import days_of

PLAIN, CONTROL, SHIFT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier  # fmt: skip


@pytest.fixture
def at(shipped):
    """The drawer of a station, on the demo."""

    def show(station: str):
        shipped.window.set_station(station)
        shipped.settle(night=False)
        shipped.window.drawer.repaint()
        return shipped.window.drawer

    return show


def wheel(widget, steps: float, keys=PLAIN, x: float | None = None) -> None:
    where = QPointF(widget.width() / 2 if x is None else x, widget.height() / 2)
    turned = QPoint(0, round(120 * steps))
    event = QWheelEvent(where, QPointF(widget.mapToGlobal(where)), QPoint(), turned, Qt.MouseButton.NoButton, keys, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(widget, event)


def test_the_wheel_scrolls_channels_and_zooms_time_about_the_hand(shipped, at):
    drawer = at("animate")
    first, shown = drawer.first_s, drawer.shown_s
    wheel(drawer, -2.0)
    assert drawer.row == 2 and drawer.shown_s == shown
    wheel(drawer, 50.0)
    assert drawer.row == 0
    there = drawer.time_at(drawer.width() / 2)
    wheel(drawer, 1.0, CONTROL)
    assert drawer.shown_s == pytest.approx(shown / 1.25)
    assert drawer.time_at(drawer.width() / 2) == pytest.approx(there, abs=0.02 * shown)
    wheel(drawer, -60.0, CONTROL)
    assert drawer.shown_s == 86_400.0, "a day at the most"
    drawer.first_s, drawer.shown_s = first, shown


def test_the_wheel_scrolls_sections_slides_days_and_zooms_them(shipped, at):
    drawer = at("build")
    assert drawer.days_shown == 0.0 and drawer.first_day == 0.0, "all days at first"
    wheel(drawer, 2.0, CONTROL)
    near = drawer.days_shown
    assert 0.0 < near < drawer._end()
    wheel(drawer, -1.0, SHIFT)
    assert drawer.first_day > 0.0 and drawer.days_shown == near
    wheel(drawer, 100.0, SHIFT)
    assert drawer.first_day == 0.0
    wheel(drawer, -30.0, CONTROL)
    assert drawer.days_shown == 0.0, "never more than there are"
    top = drawer.top
    wheel(drawer, -1.0)
    assert drawer.top == top + 1


def test_keys_walk_through_the_steps_of_the_build_and_let_go(shipped, at):
    drawer = at("build")
    order = [x.key for x in days_of(shipped.document).calendar.laid]
    for key in order[:3]:
        shipped.bot.keyClick(drawer, Qt.Key.Key_Right)
        assert shipped.document.step == key
    shipped.bot.keyClick(drawer, Qt.Key.Key_Left)
    assert shipped.document.step == order[1]
    shipped.bot.keyClick(drawer, Qt.Key.Key_Minus, CONTROL)
    shipped.bot.keyClick(drawer, Qt.Key.Key_Plus, CONTROL)
    assert 0.0 < drawer.days_shown < drawer._end()
    shipped.bot.keyClick(drawer, Qt.Key.Key_Escape)
    assert shipped.document.step == ""


def test_keys_walk_along_the_evening_and_choose_a_source(shipped, at):
    drawer = at("power")
    assert drawer.hour is None
    shipped.bot.keyClick(drawer, Qt.Key.Key_Right)
    shipped.bot.keyClick(drawer, Qt.Key.Key_Right)
    assert drawer.hour == pytest.approx(drawer._end / 20.0)
    shipped.bot.keyClick(drawer, Qt.Key.Key_Left)
    assert drawer.hour == pytest.approx(drawer._end / 40.0)
    shipped.bot.keyClick(drawer, Qt.Key.Key_Escape)
    assert drawer.hour is None


def test_the_wheel_scrolls_the_circuit_no_further_than_it_goes(shipped, at):
    drawer = at("wire")
    drawer.setFixedHeight(100)  # less than it needs: something is left to scroll to
    QApplication.processEvents()

    def places() -> list[tuple[float, float]]:
        drawer.repaint()
        return [(rect.left(), rect.top()) for rect, _, _ in drawer.places]

    wheel(drawer, 50.0)
    first = places()
    wheel(drawer, -1.0)
    moved = places()
    wheel(drawer, 50.0)
    assert places() == first
    wheel(drawer, -500.0)
    last = places()
    wheel(drawer, -500.0)
    assert places() == last
    assert moved != first and last != first
    drawer.measure()


def test_enter_picks_the_part_of_the_circuit_that_is_in_focus(shipped, at):
    drawer = at("wire")
    shipped.bot.keyClick(drawer, Qt.Key.Key_Right)
    shipped.bot.keyClick(drawer, Qt.Key.Key_Return)
    assert shipped.document.selection


def test_the_wheel_zooms_the_plate_about_the_hand(shipped):
    plate = shipped.plate
    scale = plate.shot().window.scale
    there = QPointF(200.0, 150.0)
    before = plate.shot().window.to_mm(there.x(), there.y())
    event = QWheelEvent(there, QPointF(plate.mapToGlobal(there)), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton, PLAIN, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(plate, event)
    after = plate.shot().window
    assert after.scale == pytest.approx(scale * 1.0015**240)
    assert after.to_mm(there.x(), there.y()) == pytest.approx(before, abs=1e-6)
