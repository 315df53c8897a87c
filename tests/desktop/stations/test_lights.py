"""Lights on the real window: chosen by name, placed with their twins, picked as one thing, carried by another means."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find, light_of, parts_of, whole_light
from gwiazda.core.plan.model import Dot, Lamp, Wanted
from gwiazda.core.plan.storage import load
from gwiazda.desktop.shell.export.exports import EXPORTS

LEFT = Qt.MouseButton.LeftButton


def choose_kind(bench, typed: str) -> int:
    """Take the tool by its key and choose a kind by typing; returns the gestures it took: a key, a word, Enter."""
    bench.key(Qt.Key.Key_L, Qt.KeyboardModifier.ShiftModifier, bench.window)
    chooser = bench.plate.tool.chooser
    assert chooser.isVisible()
    bench.bot.keyClicks(chooser.line, typed)
    bench.bot.keyClick(chooser.line, Qt.Key.Key_Return)
    assert not chooser.isVisible()
    return 3


def at(bench, x: float, y: float, z: float) -> QPoint:
    return bench.px(x, y, z)


def waits(bench, found) -> None:
    """Until a card's figures have come."""
    bench.settle(night=False)
    bench.bot.waitUntil(found, timeout=20_000)


@pytest.fixture
def at_light(bench):
    bench.window.set_station("light")
    bench.settle(night=False)
    return bench


def test_a_pair_is_chosen_by_name_and_placed_with_one_click(at_light, tmp_path):
    bench = at_light
    before = bench.document.plan
    choose_kind(bench, "sidel")
    assert bench.plate.tool.kind.id == "sidelight" and "twin comes along" in bench.window.message.text
    assert bench.document.plan is before, "Enter in the line places nothing"
    spot = at(bench, 200.0, 40.0, 60.0)
    QTest.mouseMove(bench.plate, spot)
    bench.bot.mouseClick(bench.plate, LEFT, pos=spot)
    new = [x for x in bench.document.plan.lights if x not in before.lights]
    assert [x.name for x in new] == ["Port sidelight 2", "Starboard sidelight 2"] and new[0].twin == new[1].id
    assert bench.document.selection == (new[0].id,) and bench.document.picked_kind == "light"
    path = tmp_path / "l.gwiazda"
    assert bench.window.files._save(path) and load(path).plan == bench.document.plan
    bench.document.undo()
    assert bench.document.plan.lights == before.lights and bench.document.plan.dots == before.dots


def test_the_chooser_is_led_by_keys_and_leaves_by_escape(at_light):
    bench = at_light
    bench.key(Qt.Key.Key_L, Qt.KeyboardModifier.ShiftModifier, bench.window)
    chooser = bench.plate.tool.chooser
    first = chooser.list.item(0).text()
    assert first.startswith("Masthead light"), "of a ship what ships have comes first"
    bench.bot.keyClick(chooser.line, Qt.Key.Key_Down)
    assert chooser.list.currentRow() == 1
    bench.bot.keyClick(chooser.line, Qt.Key.Key_Up)
    bench.bot.keyClick(chooser.line, Qt.Key.Key_Up)
    assert chooser.list.currentRow() == chooser.list.count() - 1
    bench.bot.keyClicks(chooser.line, "qqq")
    assert chooser.none.isVisible() and chooser.list.count() == 0
    bench.bot.keyClick(chooser.line, Qt.Key.Key_Return)
    assert chooser.isVisible(), "nothing is chosen where nothing is found"
    bench.bot.keyClick(chooser.line, Qt.Key.Key_Escape)
    assert not chooser.isVisible() and bench.plate.tool.id == "pick"
    bench.key(Qt.Key.Key_L, Qt.KeyboardModifier.ShiftModifier, bench.window)
    bench.bot.mouseClick(chooser.list.viewport(), LEFT, pos=chooser.list.visualItemRect(chooser.list.item(1)).center())
    assert bench.plate.tool.kind.id == chooser.kinds[1].id


def test_a_light_is_picked_as_one_thing_and_its_part_by_another_click(at_light):
    bench = at_light
    lamp = find(bench.document.plan, "mast.masthead.01")
    light = whole_light(bench.document.plan, lamp.id)
    bench.plate.set_tool("pick")
    spot = at(bench, *lamp.at)
    bench.bot.mouseClick(bench.plate, LEFT, pos=spot)
    assert bench.document.selection == (light.id,)
    bench.settle(night=False)
    assert bench.window.inspector.panel.heading.text() == light.name
    bench.bot.mouseClick(bench.plate, LEFT, pos=spot)
    assert bench.document.selection == (lamp.id,)
    bench.document.select(())
    QTest.mousePress(bench.plate, LEFT, pos=spot)
    QTest.mouseMove(bench.plate, spot + QPoint(20, 0))
    QTest.mouseMove(bench.plate, spot + QPoint(40, 0))
    QTest.mouseRelease(bench.plate, LEFT, pos=spot + QPoint(40, 0))
    moved = find(bench.document.plan, lamp.id)
    assert moved.at[0] != lamp.at[0] and bench.document.selection == (light.id,)
    bench.window.delete_action.trigger()
    assert find(bench.document.plan, lamp.id) is None, bench.window.message.text
    assert all(x.id != light.id for x in bench.document.plan.lights)


def test_what_carries_it_stands_side_by_side_and_is_exchanged_by_a_click(at_light):
    bench = at_light
    light = whole_light(bench.document.plan, "bridge.sidelight.01")
    twin = light_of(bench.document.plan, light.twin)
    bench.document.select([light.id])
    card = bench.part("CarriedCard")
    waits(bench, lambda: len(card.found) == 7)
    tip = next(c for c in card.found if c.means.id == "tip")
    assert tip.hole.startswith("hole") and tip.joints == 0
    bench.press("Fibre tip, lamp shared")
    for x in (light, twin):
        parts = [find(bench.document.plan, i) for i in parts_of(bench.document.plan, x.id)]
        assert parts and all(isinstance(p, Dot) for p in parts)
        assert light_of(bench.document.plan, x.id).name == x.name and light_of(bench.document.plan, x.id).means == "tip"
    waits(bench, lambda: bool(card.found) and card.found[0].means.id == "tip")
    bench.document.undo()
    assert isinstance(find(bench.document.plan, "bridge.sidelight.01"), Lamp)


def test_how_bright_is_chosen_by_its_picture(at_light):
    bench = at_light
    light = whole_light(bench.document.plan, "bridge.sidelight.01")
    bench.document.select([light.id])
    card = bench.part("BrightCard")
    waits(bench, lambda: "mcd" in card.tiles["barely"].words())
    bench.bot.mouseClick(card.tiles["barely"], LEFT)
    plan = bench.document.plan
    assert [find(plan, i).wanted.look for i in ("bridge.sidelight.01", "bridge.sidelight.02")] == ["barely", "barely"]
    waits(bench, lambda: card.tiles["barely"].accessibleName().startswith("barely, chosen"))
    bench.press("As bright as the real one")
    assert find(bench.document.plan, "bridge.sidelight.01").wanted.mcd == pytest.approx(12.0 / 200.0**2 * 1e3)


def test_rhythm_putty_twin_and_taking_apart(at_light):
    bench = at_light
    light = whole_light(bench.document.plan, "hull.foreflood.01")
    bench.document.select([light.id])
    bench.settle(night=False)
    bench.choose("Rhythm of the light", "Signal lamp")
    cue = bench.document.plan.cues[-1]
    assert find(bench.document.plan, "hull.foreflood.01").channel == cue.channels[0]
    bench.choose("Rhythm of the light", "Steady")
    assert cue not in bench.document.plan.cues
    bench.choose("Behind the light", "putty")
    assert find(bench.document.plan, "hull.foreflood.01").behind == "putty"
    bench.choose("Kind", "Work lamp")
    assert light_of(bench.document.plan, light.id).kind == "work-lamp"
    bench.press("Take it apart")
    assert all(x.id != light.id for x in bench.document.plan.lights)
    assert find(bench.document.plan, "hull.foreflood.01").light == ""


def test_a_row_of_cabins_is_one_light_along_its_deck(at_light):
    bench = at_light
    before = bench.document.plan
    choose_kind(bench, "cabin")
    box = next(s for s in before.sections if s.id == "deck1").box
    bench.bot.mouseClick(bench.plate, LEFT, pos=at(bench, box.centre[0], 30.0, box.centre[2]))
    new = bench.document.plan.lights[-1]
    assert new.kind == "cabin-row" and len(parts_of(bench.document.plan, new.id)) > 10
    bench.document.undo()
    assert bench.document.plan.openings == before.openings


def test_a_truck_with_five_lights_from_an_empty_plan_to_half_a_page(empty, tmp_path, monkeypatch):
    """By hand: a section, a kit, five lights, each of a pair with its twin, and the page for the bench. Every key, word typed and click counts as one gesture."""
    bench = empty
    gestures = 0
    bench.window.set_station("measure")
    bench.settle(night=False)
    bench.choose("Kind", "vehicle")
    bench.type_into("Scale", "1/35")
    gestures += 4
    bench.key(Qt.Key.Key_B, widget=bench.window)
    middle = QPoint(bench.plate.width() // 2, bench.plate.height() // 2)
    QTest.mousePress(bench.plate, LEFT, pos=middle - QPoint(200, 70))
    QTest.mouseMove(bench.plate, middle)
    QTest.mouseMove(bench.plate, middle + QPoint(200, 70))
    QTest.mouseRelease(bench.plate, LEFT, pos=middle + QPoint(200, 70))
    gestures += 2
    bench.settle(night=False)
    assert len(bench.document.plan.sections) == 1
    box = bench.document.plan.sections[0].box
    bow, stern, low = box.at[0] + box.size[0] - 2.0, box.at[0] + 2.0, box.at[2]
    for typed, x, z in (
        ("headl", bow, low + 0.3 * box.size[2]), ("tail l", stern, low + 0.3 * box.size[2]), ("indic", bow, low + 0.5 * box.size[2]),
        ("beacon", box.centre[0], low + 0.9 * box.size[2]), ("work", bow - 4.0, low + 0.8 * box.size[2]),
    ):  # fmt: skip
        gestures += choose_kind(bench, typed) + 1
        bench.bot.mouseClick(bench.plate, LEFT, pos=at(bench, x, box.centre[1], z))
    plan = bench.document.plan
    assert {x.kind for x in plan.lights} == {"headlamp", "tail-lamp", "indicator", "beacon", "work-lamp"}, [
        x.name for x in plan.lights
    ]
    assert [x.name for x in plan.lights][:2] == ["Left headlamp", "Right headlamp"]
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "truck"), a[3]))
    bench.bot.keyClick(bench.window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    sheet = bench.window.files.export_sheet
    sheet.list.setCurrentRow(next(k for k, e in enumerate(EXPORTS) if e.id == "half"))
    sheet.write.click()
    gestures += 3
    bench.bot.waitUntil(
        lambda: (tmp_path / "truck.pdf").exists() and (tmp_path / "truck.pdf").read_bytes()[:5] == b"%PDF-",
        timeout=20_000,
    )
    sheet.close()
    assert gestures < 30, gestures
    path = tmp_path / "truck.gwiazda"
    assert bench.window.files._save(path)
    assert load(path).plan == plan
    bench.settle(night=False)
    assert all(s.current_a > 0 for s in bench.document.assessment.lamps.values())
    while bench.document.undo_label:
        bench.document.undo()
    assert not bench.document.plan.lights and not bench.document.plan.sections


def test_a_lamp_of_no_light_has_three_looks_too_until_a_figure_is_typed(at_light):
    bench = at_light
    bench.document.select(["deck1.lamp.03"])
    card = bench.part("LookCard")
    tile = card.looks.tiles["barely"]
    waits(bench, lambda: "kΩ" in tile.words() and " h" in tile.words())
    bench.bot.mouseClick(tile, LEFT)
    assert find(bench.document.plan, "deck1.lamp.03").wanted.look == "barely"
    waits(bench, lambda: tile.accessibleName().startswith("barely, chosen"))
    bench.document.select(["deck1.lamp.02"])  # another: nothing of the first is shown for it
    waits(bench, lambda: card.looks.tiles["normal"].accessibleName().startswith("clear, chosen"))
    bench.document.edit("Change look", lambda plan: edits.set_wanted(plan, ["deck1.lamp.02"], Wanted(cd_m2=25.0)))
    bench.settle(night=False)
    assert not card.looks.isVisible()


@pytest.mark.parametrize(("picked", "card"), [("deck1", "SectionLookCard"), ("deck1.port.05", "WindowLookCard")])
def test_of_a_section_and_of_its_windows_three_looks_stand_for_all_its_lamps(at_light, picked, card):
    bench = at_light
    plan = bench.document.plan
    if find(plan, picked) is None:
        picked = next(o.id for o in plan.openings if o.section == "deck1")
    bench.document.select([picked])
    bench.settle(night=False)
    choices = bench.part(card).choices
    tile = choices.row.tiles["barely"]
    waits(bench, lambda: "kΩ" in tile.words() and "cd/m²" in tile.words())
    bench.bot.mouseClick(tile, LEFT)
    inside = [p for p in bench.document.plan.lamps if bench.document.assessment.lamps[p.id].section == "deck1"]
    assert len(inside) > 1 and {p.wanted.look for p in inside} == {"barely"}
    waits(bench, lambda: tile.accessibleName().startswith("barely, chosen"))
    bench.document.undo()
    bench.document.edit("Figure", lambda plan: edits.set_wanted(plan, [inside[0].id], Wanted(cd_m2=25.0)))
    bench.settle(night=False)
    assert choices.row.isHidden(), "a figure was typed: nothing is offered over it"


def test_tips_of_fibres_have_three_looks_with_what_their_lamp_takes(at_light):
    bench = at_light
    dots = [d.id for d in bench.document.plan.dots if d.lamp][:2]
    bench.window.set_station("fibre")
    bench.document.select(dots)
    bench.settle(night=False)
    choices = bench.part("DotCard").choices
    tile = choices.row.tiles["barely"]
    waits(bench, lambda: "mcd" in tile.words() and "Ω" in tile.words())
    bench.bot.mouseClick(tile, LEFT)
    assert {find(bench.document.plan, i).wanted_mcd for i in dots} == {1.0}
    waits(bench, lambda: tile.accessibleName().startswith("barely, chosen"))
    bench.document.undo()
    assert {find(bench.document.plan, i).wanted_mcd for i in dots} != {1.0}
