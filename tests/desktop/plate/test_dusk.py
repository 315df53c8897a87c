"""Dusk on the real window: the handle by mouse and keys, the picture that follows, the strips, the minute that plays, round and flat."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from gwiazda.core.assess.sight.dusk import dusk_of
from gwiazda.core.light.dusk import LEAST_LX, MOST_LX
from gwiazda.desktop.theme.sizes import text_factor


@pytest.fixture
def dusk(bench):
    bench.plate.set_wipe(0.0)
    bench.settle()
    bench.key(Qt.Key.Key_Escape)
    bench.bot.mouseClick(bench.window.bar.dusk_button, Qt.MouseButton.LeftButton)
    bench.settle()
    bench.bot.waitUntil(lambda: bench.window.dusk.idle and bool(bench.window.dusk.strips))
    bench.settle()
    yield bench
    bench.window.dusk.close_bar()


def grey(bench, x: int, y: int) -> int:
    return bench.plate.night.image.pixelColor(x, y).lightness()


def at(bar, lux: float) -> QPoint:
    return QPoint(round(bar.x_of(lux) * text_factor()), round(14 * text_factor()))


def test_the_picture_follows_the_handle_and_goes_back(dusk):
    bar, night = dusk.window.dusk, dusk.plate.night
    own = dusk.document.plan.room.lux
    assert bar.lux == own and night.lux == own and dusk.window.bar.dusk_button.isChecked()
    corner = (night.image.width() - 20, 60)
    dark = grey(dusk, *corner)
    dusk.bot.mouseClick(bar, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at(bar, 500.0))
    assert bar.lux == pytest.approx(500.0, rel=0.03) and night.lux == bar.lux
    lit = grey(dusk, *corner)
    assert lit > dark + 20, "the wall behind is lit too"
    dusk.bot.keyClick(bar, Qt.Key.Key_End)
    assert bar.lux == LEAST_LX and grey(dusk, *corner) < dark + 3
    dusk.bot.keyClick(bar, Qt.Key.Key_Home)
    assert bar.lux == MOST_LX
    before = bar.lux
    dusk.bot.keyClick(bar, Qt.Key.Key_Right)
    assert 0.8 * before < bar.lux < before
    dusk.bot.keyClick(bar, Qt.Key.Key_Escape)
    dusk.settle()
    assert not bar.on and night.lux is None and not dusk.window.bar.dusk_button.isChecked()
    assert abs(grey(dusk, *corner) - dark) <= 2 and not dusk.document.dirty, "the plan's room is as it was"


def test_the_same_light_gives_the_same_picture_whichever_way_one_comes(dusk):
    bar, night = dusk.window.dusk, dusk.plate.night
    for lux in (MOST_LX, 30.0, 0.5, 200.0, 1.0):
        bar.set_lux(lux)
    there = np.array(night._buffer)
    bar.set_lux(MOST_LX)
    bar.set_lux(1.0)
    assert np.abs(there.astype(int) - night._buffer.astype(int)).max() <= 1


def test_strips_say_what_the_core_says_and_a_name_picks_its_lights(dusk):
    bar = dusk.window.dusk
    rows = {r.of: r for r in dusk_of(dusk.document.plan, dusk.document.assessment)}
    assert {i for s in bar.strips for i in s.ids} == set(rows)
    for strip in bar.strips:
        assert all(rows[i].until == pytest.approx(strip.shows.until, rel=0.06) for i in strip.ids)
    y = round((50 + 20 + 8) * text_factor())
    dusk.bot.mouseClick(bar, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(40, y))
    assert set(dusk.document.selection) == set(bar.strips[0].ids)
    bar.mouseMoveEvent(mouse(bar, QPoint(400, y)))
    assert bar.strips[0].name in bar.toolTip() and "lx" in bar.toolTip()


def mouse(widget, place: QPoint):
    from PySide6.QtCore import QEvent, QPointF
    from PySide6.QtGui import QMouseEvent

    where = QPointF(place)
    return QMouseEvent(
        QEvent.Type.MouseMove,
        where,
        widget.mapToGlobal(where),
        Qt.MouseButton.NoButton,
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
    )


def test_a_minute_of_dusk_plays_and_stops(dusk):
    bar = dusk.window.dusk
    dusk.bot.keyClick(bar, Qt.Key.Key_D)
    assert bar.playing and bar.lux == MOST_LX
    dusk.bot.waitUntil(lambda: bar.lux < 0.98 * MOST_LX)
    dusk.bot.keyClick(bar, Qt.Key.Key_D)
    assert not bar.playing
    bar.set_lux(LEAST_LX * 1.001)
    bar._clock.start()
    dusk.bot.waitUntil(lambda: not bar.playing)
    assert bar.lux == LEAST_LX


def test_d_opens_it_from_anywhere_and_the_round_follows(bench):
    bench.settle()
    bench.key(Qt.Key.Key_D)
    bar = bench.window.dusk
    assert bar.on and bar.playing
    bench.key(Qt.Key.Key_D)
    bench.window.bar.toggle_round()
    bench.settle()
    bar.set_lux(400.0)
    bench.settle()
    assert bench.plate.round.frame.picture.lux == 400.0
    assert bench.plate.round.frame.wish.darkest_lux == LEAST_LX, "what shows in the dark is there before it gets dark"
    bright = bench.plate.round.image.pixelColor(5, 60).lightness()
    bar.set_lux(1.0)
    bench.settle()
    assert bench.plate.round.image.pixelColor(5, 60).lightness() < bright - 20
    bench.window.bar.toggle_round()
    bar.close_bar()
    bench.settle()


def test_an_empty_plan_has_the_handle_and_no_strips(opened):
    opened.document.new()
    opened.window.toggle_dusk()
    opened.settle(night=False)
    assert opened.window.dusk.on and opened.window.dusk.strips == ()
    opened.window.toggle_dusk()
    assert not opened.window.dusk.on
