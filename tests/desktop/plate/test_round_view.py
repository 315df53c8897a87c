"""Walking round by mouse and keys: turned, neared, picked, wiped, back where one was; tools greyed with the reason."""

from __future__ import annotations

import math

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication

from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import open_sections
from gwiazda.core.plan.model import Seal, copy_unchecked
from gwiazda.desktop.stations.light.rose import RosePicture


@pytest.fixture
def walk(shipped):
    """Szron, walked round from the quarter."""
    shipped.bot.mouseClick(shipped.window.bar.round_button, Qt.MouseButton.LeftButton)
    shipped.settle()
    return shipped


def drag(walk, start: QPoint, end: QPoint) -> None:
    view = walk.plate.round
    walk.bot.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    from PySide6.QtCore import QEvent
    from PySide6.QtGui import QMouseEvent

    for k in (1, 2, 3):
        at = QPointF(start) + (QPointF(end) - QPointF(start)) * k / 3
        event = QMouseEvent(QEvent.Type.MouseMove, at, QPointF(view.mapToGlobal(at.toPoint())), Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)  # fmt: skip
        QApplication.sendEvent(view, event)
    walk.bot.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, end)


def test_turned_by_drag_keys_and_stands_and_back_home(walk):
    view, window = walk.plate.round, walk.window
    assert walk.plate.rounding and view.on and window.bar.round_button.isChecked() and view.frame is not None
    assert "cm" in view.eye_words() and "above its middle" in view.eye_words()
    first = (view.azimuth, view.height_deg)
    drag(walk, QPoint(300, 240), QPoint(400, 200))
    walk.settle()
    assert view.azimuth == pytest.approx(first[0] - 40.0) and view.height_deg == pytest.approx(first[1] - 16.0)
    assert view.frame.wish.coarse == 1, "sharp again at rest"
    walk.key(Qt.Key.Key_Left, widget=view)
    walk.key(Qt.Key.Key_Up, widget=view)
    walk.settle()
    assert view.azimuth == pytest.approx(first[0] - 25.0)
    before = view.frame.looked.eye
    QApplication.sendEvent(view, QWheelEvent(QPointF(300, 240), QPointF(view.mapToGlobal(QPoint(300, 240))), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False))  # fmt: skip
    walk.settle()
    assert view.frame.looked.eye.focal > before.focal
    walk.bot.mouseClick(
        next(b for b in view.stands.children() if getattr(b, "text", str)() == "Above"), Qt.MouseButton.LeftButton
    )
    walk.settle()
    assert view.height_deg == 89.0
    shown = walk.plate.view.id
    walk.key(Qt.Key.Key_Home, widget=view)
    assert not walk.plate.rounding and walk.plate.view.id == shown and window.bar.view_buttons[shown].isChecked()


def test_picked_and_hovered_as_on_the_plate(walk):
    view = walk.plate.round
    model, looked = view.frame.looked.model, view.frame.looked
    i = next(
        k for k, o in enumerate(model.openings) if o.id.startswith("deck1.window") and o.side == "port" and o.lit > 0
    )
    ((at, hidden),) = view._on_screen(model.at[i : i + 1])
    assert not hidden and view.found_at(at) == model.openings[i].id
    walk.bot.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at.toPoint())
    assert walk.document.selection == (model.openings[i].id,)
    walk.plate.set_wipe(0.0)
    words = view.hover_text(at)
    assert "Deck 1" in words and "cd/m²" in words
    assert "sidelight" in str(view.frame.lights.points.ids) or len(view.frame.lights.points.ids) > 5
    nothing = QPointF(view.width() - 5, view.height() / 2)
    walk.bot.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, nothing.toPoint())
    assert walk.document.selection == ()
    assert looked.eye.width == view.width()


def test_a_fitting_is_picked_and_ringed_and_the_layers_come_once_it_rests(walk):
    view = walk.plate.round
    mast = next(f for f in walk.document.plan.fittings if f.id == "mast.yard")
    ((at, hidden),) = view._on_screen(np.array([(mast.at[0], mast.at[1] + mast.thick_mm / 2 - 1.0, mast.at[2])]))
    assert view.found_at(at) == mast.id or hidden
    walk.bot.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at.toPoint())
    assert walk.document.selection == (mast.id,) and "on the real one" in view.hover_text(at)
    assert view.frame.wish.layered and len(view.frame.picture.channels) > 5
    whole = view.frame.picture.luminance_at(5, 5), view.grab().toImage()
    view.look_from(view.azimuth + 2.0, view.height_deg)
    while view.frame.wish.layered:
        QApplication.processEvents()
    assert view.frame.wish.coarse == 1 and view.frame.picture.channels == (), "sharp at once, all channels together"
    walk.window.plate.night.set_weights({"deck1.fore": 0.2})
    walk.settle()
    assert view.frame.wish.layered and whole[1].width() == view.width()


def test_tools_that_draw_flat_are_greyed_and_say_why(walk):
    window = walk.window
    buttons = window.tool_buttons
    assert buttons["pick"].isEnabled() and not buttons["lamp"].isEnabled() and "flat views" in buttons["lamp"].toolTip()
    walk.key(Qt.Key.Key_L, widget=window)
    assert window.plate.tool.id == "pick" and "flat views" in window.message.text
    walk.key(Qt.Key.Key_V, widget=window)
    assert not window.plate.rounding and buttons["lamp"].isEnabled() and "flat views" not in buttons["lamp"].toolTip()


def test_the_wipe_and_an_edit_show_in_the_round(walk):
    view, document = walk.plate.round, walk.document
    walk.plate.set_wipe(0.5)
    night = np.array(view._buffer[..., :3])
    document.select(["deck1"])
    walk.settle()
    from gwiazda.core.plan import edits

    dark = [o.id for o in document.plan.openings if o.side == "port"]
    document.edit("Dark", lambda p: edits.set_fields(p, dark, lit=0.0))
    walk.settle()
    assert view._buffer[..., :3].sum() < night.sum()
    document.undo()
    walk.settle()
    assert np.array_equal(view._buffer[..., :3], night)
    walk.plate.night.set_weights(dict.fromkeys(view.frame.picture.channels, 0.0))
    assert view._buffer[..., :3].sum() < 0.8 * night.sum(), "dimmed as the plate is"
    picture = view.grab().toImage()
    paper, dark_side = (
        picture.pixelColor(12, view.height() // 3),
        picture.pixelColor(view.width() - 12, view.height() // 3),
    )
    assert paper.lightness() > 200 > 60 > dark_side.lightness()


def test_an_empty_plan_and_a_new_one_can_be_walked_round(empty):
    empty.bot.mouseClick(empty.window.bar.round_button, Qt.MouseButton.LeftButton)
    empty.settle()
    assert empty.plate.round.frame is not None and empty.plate.round.found_at(QPointF(100, 100)) is None
    empty.key(Qt.Key.Key_Right, widget=empty.plate.round)
    empty.settle()
    empty.key(Qt.Key.Key_Home, widget=empty.plate.round)
    assert not empty.plate.rounding


def test_the_rose_of_an_opening_walks_there(shipped):
    window = shipped.window
    window.document.select(["bridge.window.01"])
    shipped.settle()
    picture = window.inspector.findChildren(RosePicture)[0]
    assert picture.rose is not None and len(picture.rose.looks) == 48
    lit = next(x for x in picture.rose.looks if x.lit and x.height_deg > 0)
    inner, outer, _ = picture._rings()[1]
    angle = math.radians(picture._angle(lit))
    at = QPointF(picture.width() / 2 + (inner + outer) / 2 * math.cos(angle), picture.height() / 2 - (inner + outer) / 2 * math.sin(angle))  # fmt: skip
    shipped.bot.mouseClick(picture, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at.toPoint())
    shipped.settle()
    view = window.plate.round
    assert window.plate.rounding and view.height_deg == lit.height_deg
    assert (view.azimuth - lit.azimuth_deg) % 360.0 == pytest.approx(0.0)


def test_at_build_what_is_not_closed_yet_is_without_its_roof(shipped):
    window, document = shipped.window, shipped.document
    window.set_station("build")
    window.look_from(30.0, 60.0)
    shipped.settle()
    view = window.plate.round
    still = open_sections(document.plan)
    assert still and view.frame.wish.opened == still
    before = view.frame.board.copy()
    # The bridge is closed for good: its roof is back on the works side.
    document.edit(
        "Close", lambda plan: copy_unchecked(plan, seals=(*plan.seals, Seal(id="bridge.seal", section="bridge")))
    )
    shipped.settle()
    assert "bridge" not in view.frame.wish.opened and (view.frame.board != before).any()
    window.set_station("light")
    shipped.settle()
    assert not view.frame.wish.opened


def test_another_plan_and_another_theme(walk):
    view, window = walk.plate.round, walk.window
    bench = view.frame.board.copy()
    window.set_theme("darkroom")
    walk.settle()
    assert view.frame.board[0, 0, :3].sum() < bench[0, 0, :3].sum() / 2, "no white paper in the dark room"
    window.set_theme("bench")
    window.files.new()
    walk.settle()
    assert not walk.plate.rounding and not window.bar.round_button.isChecked()


def test_what_cannot_be_shown_as_it_is_is_said(walk):
    document, view = walk.document, walk.plate.round
    assert "plain box" not in view.eye_words() and "as near" not in view.eye_words()
    bare = copy_unchecked(document.plan.sections[0], outlines=())
    plan = copy_unchecked(document.plan, sections=(bare, *document.plan.sections[1:]), room=copy_unchecked(document.plan.room, distance_m=0.06))  # fmt: skip
    document.edit("Bare and near", lambda _: plan)
    walk.settle()
    assert "1 section without an outline as plain box" in view.eye_words()
    assert "without standing in the model" in view.eye_words()


def test_a_wish_is_of_one_plan_even_where_that_goes_on_before_it_is_drawn(walk, monkeypatch):
    view, document = walk.plate.round, walk.document
    jobs = []
    monkeypatch.setattr(view.worker, "submit", jobs.append)
    view.request(1)
    plan, assessment = document.assessed_plan, document.assessment
    seen = []
    monkeypatch.setattr(view, "_rendered", seen.append)
    document.edit("Delete", lambda p: edits.delete(p, [p.lamps[0].id]))
    walk.bot.waitUntil(lambda: document.assessment is not assessment, timeout=20_000)
    jobs[0]()
    assert seen[0].plan is plan and seen[0].assessment is assessment
