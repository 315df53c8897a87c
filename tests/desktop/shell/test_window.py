"""The window: stations, inspector, meters, offers, files, themes; and the whole job from an empty plan."""

from __future__ import annotations

import gc
import json
import weakref
from functools import partial

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtWidgets import QAbstractButton, QApplication, QFileDialog, QLabel, QPushButton, QWidget

from gwiazda.cli import main
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Wanted, lamps_in
from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of
from gwiazda.desktop.plate.tools.toolbox import BY_ID as TOOLS
from gwiazda.desktop.shell import autosave
from gwiazda.desktop.shell.export.pictures import settle
from gwiazda.desktop.shell.window import MainWindow
from gwiazda.desktop.stations.registry import BY_ID, STATIONS


def test_from_an_empty_plan_to_a_lit_model_by_mouse_and_keys(empty, tmp_path, capsys):
    bench, window = empty, empty.window
    assert not bench.document.plan.sections
    bench.plate.set_wipe(1.0)
    bench.key(Qt.Key.Key_B, widget=window)
    assert window.station == "measure" and bench.plate.tool.id == "section"
    bench.drag(QPoint(200, 150), QPoint(700, 300))
    section = bench.document.plan.sections[0]
    assert bench.document.selection == (section.id,)
    bench.type_into("Name", "Cabin")
    bench.type_into("breadth in mm", "1 1/2 in")
    assert bench.document.plan.sections[0].box.size[1] == pytest.approx(38.1)
    bench.choose("Lining", "silver")
    bench.key(Qt.Key.Key_R, widget=window)
    bench.drag(QPoint(260, 230), QPoint(640, 230))
    windows = bench.document.selection
    assert len(windows) > 5
    bench.type_into("Height", "4 mm")
    assert all(o.height_mm == 4 for o in bench.document.plan.openings)
    bench.press("Dark")
    assert all(o.lit == 0 for o in bench.document.plan.openings)
    bench.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier, window)
    bench.key(Qt.Key.Key_L, widget=window)
    bench.click(QPoint(350, 180))
    bench.click(QPoint(560, 180))
    assert len(bench.document.plan.lamps) == 2
    bench.choose("Part", "0805 chip, warm white")
    bench.type_into("Wanted figure", "25 cd/m2")
    bench.settle()
    state = bench.document.assessment.lamps[bench.document.selection[0]]
    assert state.resistor_ohm > 0 and state.current_a > 0
    bench.type_into("Resistor", "4k7")
    assert bench.document.plan.lamps[-1].resistor_ohm == 4700
    bench.key(Qt.Key.Key_Escape)
    bench.key(Qt.Key.Key_Escape)
    bench.type_into("Scale", "1:48")
    bench.type_into("Kit name", "Harbour tug")
    bench.choose("Source", "AA alkaline")
    bench.type_into("Cells in series", "6")
    bench.settle()
    assert bench.document.assessment.supply.is_battery and bench.document.assessment.supply.hours > 1
    path = tmp_path / "tug.gwiazda"
    assert bench.window.files._save(path)
    assert load(path).plan == bench.document.plan and not bench.document.dirty
    capsys.readouterr()
    assert main(["check", "--json", str(path)]) in (0, 1)
    data = json.loads(capsys.readouterr().out)
    assert data["kit"] == {"name": "Harbour tug", "scale": "1/48"} and len(data["lamps"]) == 2
    steps = 0
    while bench.document.undo_label:
        bench.document.undo()
        steps += 1
    assert not bench.document.plan.sections and steps > 10
    while bench.document.redo_label:
        bench.document.redo()
    assert bench.document.plan == load(path).plan


def test_meters_show_the_assessment_and_lead_to_the_culprit(shipped):
    bench = shipped
    faces = bench.window.meters.faces
    assert set(faces) == {"draw", "run_time", "evenness", "leak", "reached", "passage"}
    assert faces["draw"].meter.value == pytest.approx(bench.document.assessment.supply.draw_a * 1e3)
    assert "mA" in faces["draw"].accessibleName()
    bench.bot.mouseClick(faces["evenness"], Qt.MouseButton.LeftButton)
    assert bench.document.selection == (bench.document.assessment.sections["hull"].darkest,)
    bench.bot.mouseClick(faces["leak"], Qt.MouseButton.LeftButton)
    assert bench.window.station == "block" and bench.document.selection == ("deck1",)
    bench.bot.mouseClick(faces["run_time"], Qt.MouseButton.LeftButton)
    assert bench.window.station == "power" and bench.document.selection == ("supply",)


def test_stations_by_key_and_click(bench):
    for station in STATIONS:
        bench.key(getattr(Qt.Key, f"Key_{station.key}"), widget=bench.window)
        assert bench.window.station == station.id
        assert bench.window.drawer.isVisible()
        assert tuple(bench.window.tool_buttons) == station.all_tools
        assert all(b.isVisible() for b in bench.window.tool_buttons.values())
        assert len(set(bench.window.tool_buttons.values())) == len(station.tools) <= 6
    bench.bot.mouseClick(bench.window.feedline.lamps["measure"], Qt.MouseButton.LeftButton)
    assert bench.window.station == "measure"


def test_drawers_can_be_picked_with_mouse_and_keys(bench):
    bench.window.set_station("measure")
    bench.settle()
    rect, item, _ = bench.window.drawer.places[2]
    bench.bot.mouseClick(bench.window.drawer, Qt.MouseButton.LeftButton, pos=rect.center().toPoint())
    assert bench.document.selection == (item,)
    bench.key(Qt.Key.Key_Right, widget=bench.window.drawer)
    bench.key(Qt.Key.Key_Return, widget=bench.window.drawer)
    assert bench.document.selection == (bench.window.drawer.places[3][1],)


def test_feed_line_counts_what_is_left(shipped):
    bench = shipped
    open_counts = {key: lamp.open_count for key, lamp in bench.window.feedline.lamps.items()}
    assert open_counts == {
        "measure": 0,
        "light": 1,
        "block": 2,
        "fibre": 1,
        "wire": 2,
        "power": 0,
        "animate": 0,
        "build": 0,
        "bench": 0,
    }
    bench.document.edit("Spoil", lambda p: edits.set_resistor(p, ["deck1.lamp.01"], 100.0))
    bench.settle()
    wire = bench.window.feedline.lamps["wire"]
    assert wire.open_count >= 1 and wire.has_stop and "to settle" in wire.accessibleName()


def test_offers_show_their_outcome_and_settle(bench):
    bench.document.edit("Spoil", lambda p: edits.set_resistor(p, ["deck1.lamp.01"], 100.0))
    bench.document.select(["deck1.lamp.01"])
    bench.settle()
    offers = [b for b in bench.window.inspector.offers.findChildren(QPushButton) if b.isVisible()]
    chosen = next(b for b in offers if b.text().startswith("Choose the resistor again"))
    assert "fixed" in chosen.text()
    bench.bot.mouseClick(chosen, Qt.MouseButton.LeftButton)
    bench.settle()
    assert bench.document.findings == () and find(bench.document.plan, "deck1.lamp.01").resistor_ohm is None
    assert bench.document.undo_label == "Choose the resistor again"


@pytest.mark.parametrize(
    ("select", "name", "text", "words"),
    [
        ("deck1.lamp.01", "Resistor", "many", "It takes"),
        ("deck1.lamp.01", "Wanted figure", "12", "no unit"),
        ("deck1.window.01", "Width", "-3 mm", "not above zero"),
        ("deck1.window.01", "Lit share", "140 %", "0 to 100 %"),
        ("deck1", "length in mm", "0", "not above zero"),
        ("", "Scale", "1:0", "1/N"),
        ("", "Room light in lx", "9000", "0 to 5000 lx"),
        ("", "Cells in series", "99", "1 to 40"),
    ],
)
def test_bad_input_keeps_the_plan_and_the_text(bench, select, name, text, words):
    bench.document.select([select] if select else [])
    before = bench.document.plan
    bench.type_into(name, text)
    assert bench.document.plan is before
    field = bench.field(name)
    assert field.text() == text and field.property("wrong") == "true" and words in field.toolTip()
    assert words in bench.window.message.text
    bench.key(Qt.Key.Key_Escape, widget=field)
    assert field.text() != text and field.property("wrong") == "false"


def test_fields_read_what_modellers_write(bench):
    bench.document.select(["deck1.lamp.01"])
    for text, ohm in (("4k7", 4700.0), ("470", 470.0), ("R47", 0.47)):
        bench.type_into("Resistor", text)
        assert find(bench.document.plan, "deck1.lamp.01").resistor_ohm == ohm
    bench.type_into("Wanted figure", "20mA")
    assert find(bench.document.plan, "deck1.lamp.01").wanted == Wanted(current_ma=20.0)
    bench.type_into("Fore and aft", "1/8 in")
    assert find(bench.document.plan, "deck1.lamp.01").at[0] == pytest.approx(3.175)


def test_a_refused_lamp_place_is_said_and_offers_help(bench):
    bench.document.edit("Away", lambda p: edits.set_fields(p, ["deck1.lamp.01"], at=(900.0, 0.0, 0.0)))
    bench.document.select(["deck1.lamp.01"])
    bench.settle()
    texts = [w.text() for w in bench.window.inspector.offers.findChildren(QLabel)]
    assert any("outside every section" in t for t in texts)


def test_strings_from_the_inspector(bench):
    bench.document.select(["deck1.lamp.01", "deck1.lamp.02"])
    card = bench.part("LookCard")
    bench.bot.mouseClick(card.series, Qt.MouseButton.LeftButton)
    assert [x.lamp for x in lamps_in(bench.document.plan.feeds[0].items[-1])] == ["deck1.lamp.01", "deck1.lamp.02"]
    bench.settle()
    bench.bot.mouseClick(card.single, Qt.MouseButton.LeftButton)
    assert len(bench.document.plan.feeds[0].items) == 2


def test_channels_are_switched_on_the_night_side_only(bench):
    bench.plate.set_wipe(0.0)
    bench.settle()
    before, plan = bench.plate.night._buffer.copy(), bench.document.plan
    button = bench.part("ChannelsCard").buttons["boatdeck"]
    bench.bot.mouseClick(button, Qt.MouseButton.LeftButton)
    # Less light everywhere. (One colour may come out a little purer where another is gone: the curve is on all of it.)
    luma = np.array([0.0722, 0.7152, 0.2126])
    now = bench.plate.night._buffer
    assert ((now[..., :3] / 255.0) ** 2.2 @ luma <= (before[..., :3] / 255.0) ** 2.2 @ luma + 0.01).all()
    assert (now != before).any()
    assert bench.document.plan is plan
    bench.bot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert abs(bench.plate.night._buffer.astype(int) - before).max() <= 1


def test_room_light_and_exposure_change_the_picture(bench):
    bench.plate.set_wipe(0.0)
    bench.settle()
    hull = bench.px(60, 0, 15)
    dark = int(bench.plate.night._buffer[hull.y(), hull.x(), 1])
    panel = bench.part("RoomCard")
    panel.lux_slider.setValue(panel.lux_slider.maximum())
    bench.settle()
    assert bench.document.plan.room.lux == 2000
    bright = int(bench.plate.night._buffer[hull.y(), hull.x(), 1])
    assert bright > dark + 20
    panel.ev_slider.setValue(panel.ev_slider.value() - 8)
    bench.settle()
    assert bench.document.plan.room.exposure_ev == -2
    assert bench.plate.night._buffer[hull.y(), hull.x(), 1] < bright


def test_themes_are_told_apart_and_kept(bench):
    bench.key(Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier, bench.window)
    bench.settle()
    image = bench.window.grab().toImage()
    assert image.pixelColor(5, 790).lightness() < 30
    bench.key(Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier, bench.window)
    image = bench.window.grab().toImage()
    assert image.pixelColor(5, 790).lightness() > 150


def test_everything_that_can_be_used_has_a_name_and_a_tip(bench):
    for select in ([], ["deck1.lamp.01"], ["deck1.window.01"], ["deck1"]):
        bench.document.select(select)
        bench.settle()
        for widget in bench.window.findChildren(QWidget):
            if (
                widget.focusPolicy() & Qt.FocusPolicy.TabFocus
                and widget.isVisible()
                and isinstance(widget, QAbstractButton)
            ):
                assert widget.accessibleName() or widget.text(), widget
        for name, button in bench.window.tool_buttons.items():
            assert f"({TOOLS[name].key})" in button.toolTip()


def test_tab_reaches_plate_meters_and_inspector(bench):
    bench.document.select(["deck1.lamp.03"])
    bench.settle()
    bench.plate.setFocus()
    seen = set()
    for _ in range(120):
        widget = bench.window.focusWidget()
        seen.add(type(widget).__name__)
        bench.window.focusNextChild()
    assert {"Plate", "MeterFace", "ValueField", "ChoiceField", "LightDrawer", "StationLamp"} <= seen


@pytest.mark.parametrize("content", [b"", b"PK\x03\x04rubbish", b'{"version": 99}', b'{"kit": {"scale": "1:0"}}'])
def test_a_bad_file_leaves_window_and_plan_as_they_are(bench, tmp_path, content):
    path = tmp_path / "bad.gwiazda"
    path.write_bytes(content)
    before = bench.document.plan
    bench.window.files.open(str(path))
    assert bench.document.plan is before and bench.window.isVisible()
    assert "bad.gwiazda" in bench.window.message.text and path.read_bytes() == content


def test_autosave_and_recovery_after_a_kill(bench, tmp_path):
    path = tmp_path / "mine.gwiazda"
    assert bench.window.files._save(path)
    bench.document.edit("Rename kit", lambda p: edits.set_kit(p, name="Not saved"))
    bench.window.files.autosave_now()
    assert autosave.waiting(path) is None, "a window sits at it: it is offered to no other"
    # As after a kill: the file is opened anew.
    bench.document.open(path)
    assert bench.document.plan.kit.name == "Szron"
    bench.window.files.offer_recovery()
    assert "without saving" in bench.window.message.text
    bench.bot.mouseClick(bench.window.message.action, Qt.MouseButton.LeftButton)
    assert bench.document.plan.kit.name == "Not saved" and bench.document.dirty
    assert bench.window.files._save(path)
    assert autosave.waiting(path) is None and load(path).plan.kit.name == "Not saved"
    assert not list(autosave.folder().glob("*"))


def test_leaving_unsaved_changes_can_be_taken_back(bench):
    bench.document.edit("Rename kit", lambda p: edits.set_kit(p, name="Half done"))
    bench.key(Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier, bench.window)
    assert bench.document.plan.kit.name == "Untitled"
    bench.bot.mouseClick(bench.window.message.action, Qt.MouseButton.LeftButton)
    assert bench.document.plan.kit.name == "Half done" and bench.document.dirty


def test_take_out_files(bench, tmp_path):
    bench.window.files.write_export("shopping", tmp_path / "s.csv")
    assert "resistor" in (tmp_path / "s.csv").read_text()
    bench.window.files.write_export("night", tmp_path / "n.png")
    assert (tmp_path / "n.png").read_bytes()[:4] == b"\x89PNG"
    bench.window.files.write_export("shopping", tmp_path / "no" / "s.csv")
    assert "there is no folder" in bench.window.message.text


def test_only_the_oldest_of_many_autosaves_are_dropped(monkeypatch):
    """By how many there are, and not by a clock that may have been set back or on."""
    import os
    import time

    monkeypatch.setattr(autosave, "MOST_KEPT", 3)
    folder = autosave.folder()
    folder.mkdir(parents=True)
    for k, days in enumerate((400, 40, 2, -30)):
        (folder / f"{k}.gwiazda").write_bytes(b"x")
        os.utime(folder / f"{k}.gwiazda", (time.time() - days * 86400,) * 2)
    (folder / "0.lock").write_bytes(b"")
    autosave.tidy()
    assert sorted(p.name for p in folder.iterdir()) == ["1.gwiazda", "2.gwiazda", "3.gwiazda"]


def test_dropping_a_plan_opens_it(empty):
    empty.plate.files_dropped.emit(str(path_of()))
    assert empty.document.plan.kit.name == "Szron"


def test_meters_with_nothing_to_say_are_not_called_fine(empty):
    empty.settle()
    faces = empty.window.meters.faces
    assert [i for i, face in faces.items() if "no figure" in face.accessibleName()] == [
        "draw",
        "run_time",
        "evenness",
        "leak",
        "reached",
        "passage",
    ]
    before = faces["reached"].grab().toImage()
    empty.document.open(path_of(), as_demo=True)
    empty.settle()
    assert "no figure" not in faces["reached"].accessibleName() and "% of wanted" in faces["reached"].accessibleName()
    assert faces["reached"].grab().toImage() != before


def test_an_adapter_runs_steadily_and_is_not_silent(bench):
    bench.document.edit("Adapter", lambda plan: edits.set_supply(plan, part="adapter-12v-1a"))
    bench.settle()
    assert bench.window.meters.faces["run_time"].meter.text == "no limit"
    assert not bench.window.meters.faces["run_time"].meter.silent


def test_files_are_asked_for_and_a_second_thought_changes_nothing(bench, tmp_path, monkeypatch):
    files, document = bench.window.files, bench.document
    answer = [""]
    asked = []

    def dialog(parent, title, start, kinds):
        asked.append(title)
        return answer[0], kinds

    monkeypatch.setattr(QFileDialog, "getSaveFileName", dialog)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", dialog)
    plan, path = document.plan, document.path
    assert files.ask_save() is False
    for ask in (
        files.ask_open,
        files.ask_picture_file,
        partial(files.ask_export, "shopping"),
        files.ask_parts_in,
        partial(files.ask_export, "parts"),
        partial(files.ask_export, "night"),
    ):
        ask()
    assert len(asked) == 7 and document.plan is plan and document.path == path and not list(tmp_path.iterdir())
    answer[0] = str(tmp_path / "my.kit.v2.gwiazda")
    assert files.ask_save() and document.path == tmp_path / "my.kit.v2.gwiazda"
    answer[0] = str(tmp_path / "plain")
    assert files.ask_save() and document.path == tmp_path / "plain.gwiazda"
    document.new()
    answer[0] = str(tmp_path / "plain.gwiazda")
    files.ask_open()
    assert document.plan == plan
    answer[0] = str(tmp_path / "list.csv")
    files.ask_export("shopping")
    assert (tmp_path / "list.csv").read_text().count("\n") > 1


def test_a_closed_window_is_gone(application):
    """Ten windows one after the other take no more than one: nothing holds on to a closed one."""
    gone = []
    for _ in range(2):
        window = MainWindow()
        window.show()
        settle(window)
        gone += [weakref.ref(x) for x in (window, window.document, window.plate, window.plate.night, window.inspector)]
        window.close()
        window.deleteLater()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        QApplication.processEvents()
        del window
    gc.collect()
    assert [x() for x in gone] == [None] * len(gone)


def test_a_station_with_a_high_drawer_leaves_no_gap_below_the_next(bench):
    bench.window.set_station("light")
    bench.settle()
    high = bench.plate.height()
    bench.window.set_station("animate")
    bench.settle()
    assert bench.plate.height() < high
    bench.window.set_station("light")
    bench.settle()
    assert bench.plate.height() == high


@pytest.mark.parametrize("name", ["swistak", "szron"])
def test_no_card_is_wider_than_its_panel(empty, name):
    assert empty.document.open(path_of(name), as_demo=True)
    inspector, wide = empty.window.inspector, {}
    for station in BY_ID:
        empty.window.set_station(station)
        empty.document.select(())
        empty.settle(night=False)
        needs, has = inspector._scroll.widget().minimumSizeHint().width(), inspector._scroll.viewport().width()
        if needs > has:
            wide[station] = needs - has
    assert wide == {}
