"""The Power station: the evening under the hand, other sources taken by a click."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from gwiazda.core.plan import edits
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


def test_the_source_is_put_into_its_section_turned_exchanged_and_undone(power, tmp_path):
    from gwiazda.core.assess.bodies.rooms import rooms_of
    from gwiazda.core.plan.lookup import section_of
    from gwiazda.core.plan.storage import load

    document = power.document
    document.edit("Take it out", lambda plan: edits.set_fields(plan, ["hull"], obstacles=()))
    power.settle()
    before, catalogue = document.plan, document.catalogue
    power.press("Put it in")
    (body,) = [o for o in section_of(document.plan, "hull").obstacles if o.of == "supply"]
    assert sorted(body.box.size) == pytest.approx([18.0, 27.0, 56.0]) and document.undo_label == "Give it a place"
    power.press("Turn it")
    (now,) = [o for o in section_of(document.plan, "hull").obstacles if o.of == "supply"]
    assert now.box.size != body.box.size and rooms_of(catalogue, document.plan)[0].put
    # Another source from the list: it goes in, and its place is its own.
    others = power.part("BodiesCard").rows
    buttons = [others.itemAt(i).widget() for i in range(others.count())]
    wanted = next(b for b in buttons if getattr(b, "outcome", ""))
    name = wanted.title
    power.bot.mouseClick(wanted, Qt.MouseButton.LeftButton)
    power.settle()
    assert document.undo_label == f"Source: {name}"
    (room,) = rooms_of(catalogue, document.plan)
    assert room.put and room.box is not None and name in room.body.name
    assert document.save(tmp_path / "s.gwiazda")
    assert load(tmp_path / "s.gwiazda").plan == document.plan
    for _ in range(3):
        document.undo()
    assert document.plan == before


def test_a_source_that_does_not_go_in_is_said_and_mended_by_an_offer(power):
    power.type_into("Sets in parallel", "12")
    power.settle()
    assert "no-room" in {f.rule for f in power.document.findings}
    power.press("It stays outside")
    assert power.document.plan.feeds[0].home == "" and "no-room" not in {f.rule for f in power.document.findings}


def test_a_hull_on_a_stand_from_an_empty_plan(empty, tmp_path):
    """Hull and base drawn, a stand dragged between them, a lamp in the hull, the cells into the base: saved and opened equal."""
    from gwiazda.core.assess.bodies.rooms import rooms_of
    from gwiazda.core.plan.storage import load

    bench, plan = empty, lambda: empty.document.plan
    bench.window.tool_key("section")
    bench.drag(bench.px(0, 0, 60), bench.px(180, 0, 100))
    bench.window.tool_key("section")
    bench.drag(bench.px(30, 0, 0), bench.px(150, 0, 25))
    bench.settle(night=False)
    hull, base = plan().sections
    bench.window.set_station("power")
    bench.window.tool_key("stand")
    bench.drag(bench.px(90, 0, 80), bench.px(90, 0, 12))
    bench.settle(night=False)
    (stand,) = [p for p in plan().passages if p.tube is not None]
    assert (stand.section, stand.into) == (hull.id, base.id) and bench.document.selection == (stand.id,)
    assert stand.length_mm == pytest.approx(stand.at[2] - stand.tube.to[2]) and stand.length_mm > 30.0
    bench.type_into("Tube, bore", "5 mm")
    bench.choose("Tube, made of", "plastic")
    assert stand.id in {p.id for p in plan().passages if p.width_mm == 5.0 and p.tube.material == "plastic"}
    bench.choose("Tube, made of", "metal")
    bench.choose("Tube carries", "minus")
    assert plan().passages[0].tube.conductor == "minus" and "low voltage only" in bench.part("StandCard").words.text()
    bench.choose("Tube carries", "nothing")
    bench.type_into("Tube, bore", "8 mm")
    assert plan().passages[0].width_mm == 5.0, "no wall would be left"
    bench.window.set_station("light")
    bench.window.tool_key("lamp")
    bench.click(bench.px(90, 0, 90))
    bench.window.set_station("power")
    bench.document.select(())
    bench.choose("Where the source sits", base.name)
    bench.settle(night=False)
    bench.press("Put it in")
    (room,) = rooms_of(bench.document.catalogue, plan())
    assert room.put and room.box is not None
    bench.settle()
    assert len(bench.document.assessment.loom.passages[stand.id].runs) == 2, "its two leads go down the stand"
    kept = plan()
    assert bench.document.save(tmp_path / "s.gwiazda") and load(tmp_path / "s.gwiazda").plan == kept
    while bench.document.undo_label:
        bench.document.undo()
    assert plan().sections == () and plan().passages == ()
    bench.window.tool_key("stand")
    bench.drag(bench.px(90, 0, 80), bench.px(90, 0, 12))
    assert plan().passages == (), "between nothing and nothing there is no stand"
