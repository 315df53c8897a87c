"""The plate under mouse and keys."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from gwiazda.core.assess.view_index import hit, section_at
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.desktop.plate.sheet import Window, fit


def lamp_px(bench, lamp_id: str) -> QPoint:
    return bench.px(*find(bench.document.plan, lamp_id).at)


def test_click_picks_lamp_then_window_then_section(bench):
    bench.click(lamp_px(bench, "deck1.lamp.03"))
    assert bench.document.selection == ("deck1.lamp.03",)
    opening = find(bench.document.plan, "deck1.window.12")
    bench.click(bench.px(*opening.at))
    assert bench.document.selection == ("deck1.window.12",)
    bench.click(bench.px(60, 0, 15))
    assert bench.document.selection == ("hull",)
    bench.click(QPoint(300, 60))
    assert bench.document.selection == ()


def test_shift_click_adds_and_takes_away(bench):
    bench.click(lamp_px(bench, "deck1.lamp.01"))
    bench.click(lamp_px(bench, "deck1.lamp.02"), Qt.KeyboardModifier.ShiftModifier)
    assert bench.document.selection == ("deck1.lamp.01", "deck1.lamp.02")
    bench.click(lamp_px(bench, "deck1.lamp.01"), Qt.KeyboardModifier.ShiftModifier)
    assert bench.document.selection == ("deck1.lamp.02",)


def test_rubber_band_picks_what_lies_inside(bench):
    bench.drag(bench.px(310, 0, 63.5), bench.px(110, 0, 57.5))
    assert len(bench.document.selection) == 25
    assert all(i.startswith("deck1.window") for i in bench.document.selection)


@pytest.mark.usefixtures("own_window")
def test_dragging_a_lamp_is_one_step_and_follows_on_the_night_side(bench):
    bench.plate.set_wipe(0.0)
    bench.settle()
    before = np.array(bench.plate.night._buffer)
    start = find(bench.document.plan, "deck1.lamp.03").at
    end = bench.px(start[0] + 8, start[1], start[2] - 5)
    seen = []
    bench.document.assessed.connect(
        lambda: seen.append(bench.document.assessment.openings["deck1.window.09"].luminance_cd_m2)
    )
    bench.drag(lamp_px(bench, "deck1.lamp.03"), end, steps=12, drop=False)
    bench.settle()
    assert bench.document.undo_label == "" and len(set(seen)) >= 1
    assert (np.array(bench.plate.night._buffer) != before).any(), "the night picture follows while the lamp is dragged"
    bench.bot.mouseRelease(bench.plate, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, end)
    moved = find(bench.document.plan, "deck1.lamp.03").at
    assert moved[0] == pytest.approx(start[0] + 8, abs=0.5) and moved[2] == pytest.approx(start[2] - 5, abs=0.5)
    assert moved[1] == start[1]
    assert bench.document.undo_label == "Move"
    bench.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier, bench.window)
    assert find(bench.document.plan, "deck1.lamp.03").at == start


def test_shift_keeps_a_drag_level(bench):
    start = find(bench.document.plan, "deck1.lamp.03").at
    bench.click(lamp_px(bench, "deck1.lamp.03"))
    bench.drag(lamp_px(bench, "deck1.lamp.03"), lamp_px(bench, "deck1.lamp.03") + QPoint(40, 9))
    bench.document.undo()
    from gwiazda.desktop.plate.tools.tool import PickTool

    tool: PickTool = bench.plate.tools["pick"]
    at = QPointF(lamp_px(bench, "deck1.lamp.03"))
    tool.press(at, Qt.KeyboardModifier.NoModifier)
    tool.move(at + QPointF(40, 9), Qt.KeyboardModifier.ShiftModifier)
    tool.release(at + QPointF(40, 9), Qt.KeyboardModifier.ShiftModifier)
    moved = find(bench.document.plan, "deck1.lamp.03").at
    assert moved[2] == start[2] and moved[0] != start[0]


def test_escape_takes_a_drag_back(bench):
    before = bench.document.plan
    bench.drag(lamp_px(bench, "deck1.lamp.03"), QPoint(200, 200), drop=False)
    assert bench.document.plan is not before
    bench.key(Qt.Key.Key_Escape)
    assert bench.document.plan is before and bench.document.undo_label == ""


def test_nudge_duplicate_delete(bench):
    bench.click(lamp_px(bench, "deck1.lamp.03"))
    x = find(bench.document.plan, "deck1.lamp.03").at[0]
    bench.key(Qt.Key.Key_Right)
    assert find(bench.document.plan, "deck1.lamp.03").at[0] == pytest.approx(x - 0.5)
    bench.key(Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert find(bench.document.plan, "deck1.lamp.03").at[0] == pytest.approx(x + 4.5)
    count = len(bench.document.plan.lamps)
    bench.key(Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier, bench.window)
    assert len(bench.document.plan.lamps) == count + 1 and bench.document.selection == ("deck1.lamp.07",)
    bench.key(Qt.Key.Key_Delete, widget=bench.window)
    assert len(bench.document.plan.lamps) == count and bench.document.selection == ()
    for _ in range(4):
        bench.document.undo()
    assert find(bench.document.plan, "deck1.lamp.03").at[0] == x and len(bench.document.plan.lamps) == count


def test_a_section_moves_with_all_in_it_once_it_is_picked(bench):
    at = bench.px(60, 0, 15)
    bench.click(at)
    before = bench.document.plan
    bench.drag(at, at + QPoint(-20, 0))
    moved = [
        b.at[0] - a.at[0]
        for a, b in zip(before.openings, bench.document.plan.openings, strict=True)
        if a.section == "hull"
    ]
    assert len(set(np.round(moved, 6))) == 1 and moved[0] > 0


def test_zoom_pan_and_fit(bench):
    first = bench.plate.extent
    at = bench.px(241, 0, 160)
    bench.plate.zoom(2.0, QPointF(at))
    assert (bench.px(241, 0, 160) - at).manhattanLength() <= 1
    assert bench.plate.extent.scale == pytest.approx(first.scale * 2)
    bench.key(Qt.Key.Key_Right)
    assert abs(bench.px(241, 0, 160).x() - (at.x() - 40)) <= 1
    bench.bot.mousePress(bench.plate, Qt.MouseButton.MiddleButton, Qt.KeyboardModifier.NoModifier, QPoint(300, 300))
    bench._move(QPointF(330, 310), Qt.KeyboardModifier.NoModifier)
    bench.bot.mouseRelease(bench.plate, Qt.MouseButton.MiddleButton, Qt.KeyboardModifier.NoModifier, QPoint(330, 310))
    assert (bench.px(241, 0, 160) - QPoint(at.x() - 10, at.y() + 10)).manhattanLength() <= 2
    bench.key(Qt.Key.Key_F, widget=bench.window)
    assert bench.plate.extent == first
    for _ in range(60):
        bench.key(Qt.Key.Key_Plus)
    assert bench.plate.extent.scale == 60.0
    bench.settle()


def test_the_wipe_is_dragged_and_held(bench):
    plate = bench.plate
    plate.set_wipe(0.5)
    handle = plate.handle_rect().center().toPoint()
    bench.drag(handle, QPoint(200, handle.y()))
    assert plate.wipe == pytest.approx(200 / plate.width(), abs=0.01)
    assert bench.document.undo_label == ""
    QTest.keyPress(plate, Qt.Key.Key_N)
    assert plate.wipe_px() == 0
    QTest.keyRelease(plate, Qt.Key.Key_N)
    QTest.keyPress(plate, Qt.Key.Key_M)
    assert plate.wipe_px() == plate.width()
    QTest.keyRelease(plate, Qt.Key.Key_M)
    bench.key(Qt.Key.Key_BracketRight)
    assert plate.wipe_px() == pytest.approx(200 + 0.05 * plate.width(), abs=2)


def names_picked(bench) -> list[str]:
    return [name_of(bench.document.plan, i) for i in bench.document.selection]


def test_views_change_by_key_and_button(bench):
    bench.key(Qt.Key.Key_V, widget=bench.window)
    assert bench.plate.view.id == "view.top"
    bench.settle()
    assert bench.plate.night.shot.view.id == "view.top"
    bench.click(lamp_px(bench, "hangar.deckflood.01"))
    assert names_picked(bench) == ["Aft deck flood 1"]
    bench.bot.mouseClick(bench.window.view_buttons["view.port"], Qt.MouseButton.LeftButton)
    assert bench.plate.view.id == "view.port"


def test_lamp_tool_puts_a_lamp_inside_and_refuses_elsewhere(bench):
    bench.key(Qt.Key.Key_L, widget=bench.window)
    assert bench.plate.tool.id == "lamp" and bench.window.station == "light"
    bench.click(bench.px(200, 0, 78))
    lamp = bench.document.plan.lamps[-1]
    assert lamp.id == "deck2.lamp.05" and lamp.mount == "inside" and bench.document.selection == (lamp.id,)
    assert lamp.at[0] == pytest.approx(200, abs=0.5) and lamp.at[1] == 0
    before = bench.document.plan
    bench.click(QPoint(200, 110))
    assert bench.document.plan is before
    assert "no section here" in bench.window.message.text and bench.window.message.isVisible()


def test_point_light_sits_proud_of_the_hull(bench):
    bench.key(Qt.Key.Key_P, widget=bench.window)
    bench.click(bench.px(150, 0, 36))
    lamp = bench.document.plan.lamps[-1]
    assert lamp.mount == "outside" and lamp.at[1] > 41.0
    bench.settle()
    assert lamp.id in bench.document.assessment.lamps


def test_window_and_row_tools(bench):
    bench.key(Qt.Key.Key_W, widget=bench.window)
    bench.click(bench.px(250, 0, 15))
    window = bench.document.plan.openings[-1]
    assert window.section == "hull" and window.side == "port" and window.at[1] == pytest.approx(40.8)
    bench.key(Qt.Key.Key_R, widget=bench.window)
    bench.drag(bench.px(260, 0, 20), bench.px(80, 0, 21), drop=False)
    for _ in range(3):
        bench.key(Qt.Key.Key_Up)
    bench.key(Qt.Key.Key_Down)
    expected = bench.plate.tool.count()
    end = bench.px(80, 0, 21)
    bench.bot.mouseRelease(bench.plate, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, end)
    assert len(bench.document.selection) == expected
    row = [find(bench.document.plan, i) for i in bench.document.selection]
    assert len({o.at[2] for o in row}) == 1, "a row runs level"
    assert bench.document.undo_label == f"Add a row of {expected} windows"


def test_picks_survive_undo_only_if_they_still_exist(bench):
    bench.key(Qt.Key.Key_W, widget=bench.window)
    bench.click(bench.px(250, 0, 15))
    assert bench.document.selection
    bench.document.undo()
    assert bench.document.selection == ()


def test_hover_tells_what_and_how_bright(bench):
    bench.plate.set_wipe(0.0)
    bench.settle()
    opening = next(
        o for o in bench.document.plan.openings if o.id.startswith("deck1") and o.side == "port" and o.lit == 1
    )
    text = bench.plate.hover_text(QPointF(bench.px(*opening.at)))
    assert text.startswith("Deck 1, port, ") and "cd/m²" in text and "here" in text
    assert "wipe" in bench.plate.hover_text(bench.plate.handle_rect().center())


def test_a_starboard_light_is_hidden_from_port(bench):
    at = find(bench.document.plan, "bridge.sidelight.01").at
    bench.click(bench.px(*at))
    assert names_picked(bench) == ["Port sidelight"]


def test_hit_testing_prefers_lamps_and_what_is_nearer(demo: Plan):
    assert hit(built_in(), demo, "port", -241.0, -117.0, 1.0).startswith("bridge")
    assert section_at(demo, "port", -150.0, -60.0) == "deck1"
    assert section_at(demo, "port", 100.0, 100.0) is None


def test_windows_fit_and_turn_back():
    from PySide6.QtCore import QRectF

    window = fit(QRectF(-100, -50, 200, 100), 800, 400)
    assert window.to_mm(400, 200) == pytest.approx((0, 0))
    zoomed = window.zoomed(3.0, 123, 77)
    assert zoomed.to_mm(123, 77) == pytest.approx(window.to_mm(123, 77))
    x, y = window.to_mm(10, 20)
    assert window.to_px(x, y) == QPointF(10, 20)
    assert isinstance(window.resized(900, 500), Window) and window.resized(900, 500).to_mm(450, 250) == pytest.approx(
        (0, 0)
    )
    assert fit(QRectF(), 800, 400).scale > 0


def test_a_row_takes_its_size_from_the_scale_and_says_it(bench):
    """The demo is a ship at 1/200: its cabin windows are 0.9 × 1 m, 4.5 × 5 mm; one that is picked is copied instead."""
    plan = bench.document.plan
    hull = next(s for s in plan.sections if s.id == "hull")
    x, y, z = hull.box.centre
    bench.document.select([])
    bench.key(Qt.Key.Key_R, widget=bench.window)
    bench.drag(bench.px(x + 60.0, y, z - 4.0), bench.px(x - 60.0, y, z - 4.0), drop=False)
    tool = bench.plate.tools["row"]
    assert tool.words().endswith("windows of 4.5 × 5 mm, 0.9 × 1 m on the real one")
    bench.bot.mouseRelease(bench.plate, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, bench.px(x - 60.0, y, z - 4.0))  # fmt: skip
    made = [o for o in bench.document.plan.openings if o not in plan.openings]
    assert {(o.width_mm, o.height_mm) for o in made} == {(4.5, 5.0)} and len(made) == round(120.0 / 9.0) + 1
    bench.document.undo()
    round_one = next(o for o in plan.openings if o.shape == "round")
    bench.document.select([round_one.id])
    bench.key(Qt.Key.Key_R, widget=bench.window)
    bench.drag(bench.px(x + 60.0, y, z - 4.0), bench.px(x - 60.0, y, z - 4.0))
    again = [o for o in bench.document.plan.openings if o not in plan.openings]
    assert {(o.shape, o.width_mm) for o in again} == {("round", round_one.width_mm)}


def test_a_label_is_whole_wherever_it_is_asked_for(bench):
    from PySide6.QtGui import QImage, QPainter

    plate = bench.plate
    image = QImage(plate.size(), QImage.Format.Format_RGB32)
    painter = QPainter(image)
    for at in (QPointF(plate.width() - 10.0, 40.0), QPointF(-60.0, -9.0), QPointF(50.0, plate.height() + 30.0)):
        box = plate.paint_tag(painter, at, "35 windows of 4.5 × 5 mm, 0.9 × 1 m on the real one")
        assert box.left() >= 0 and box.right() <= plate.width() and box.top() >= 0 and box.bottom() <= plate.height()
    painter.end()
