"""Looms under the hands: passages dragged, hubs, leads by hand, the drawer's passages, what goes out."""

from __future__ import annotations

import pypdfium2
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QPushButton

from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Lamp
from gwiazda.core.plan.storage import load


@pytest.fixture
def loom(empty):
    """Two sections side by side, drawn by hand, two lamps in the left one, the source in the right one; at Wire."""
    empty.window.set_station("measure")
    for a, b in (((100, 140), (350, 330)), ((360, 140), (620, 330))):
        empty.key(Qt.Key.Key_B)
        empty.drag(QPoint(*a), QPoint(*b))
    left, right = empty.document.plan.sections
    x, y, z = left.box.centre
    for k, dx in enumerate((-8.0, 8.0)):
        lamp = Lamp(id=f"lamp.{k + 1}", part="chip-0805-warm-white", at=(x + dx, y, z))
        empty.document.edit("lamp", lambda plan, lamp=lamp: edits.add_lamp(plan, lamp))
    empty.document.edit("home", lambda plan: edits.set_feed(plan, "supply", home=right.id))
    empty.window.set_station("wire")
    empty.plate.set_wipe(1.0)
    empty.settle(night=False)
    return empty


def drill(bench) -> str:
    bench.bot.keyClick(bench.window, Qt.Key.Key_P, Qt.KeyboardModifier.ShiftModifier)
    assert bench.plate.tool.id == "passage"
    bench.drag(bench.spot(0.3, 0.5, 0), bench.spot(0.7, 0.5, 1))
    bench.settle(night=False)
    return bench.document.plan.passages[-1].id


def test_a_passage_dragged_gives_every_wire_a_way(loom, tmp_path):
    bench = loom
    assert next(m for m in bench.document.assessment.meters if m.id == "passage").value is None
    passage = drill(bench)
    runs = bench.document.assessment.loom.runs
    assert (
        bench.document.selection == (passage,)
        and len(runs) == 4
        and all(r.through == (passage,) for r in runs.values())
    )
    meter = bench.window.meters.faces["passage"]
    assert "% full" in meter.accessibleName() and "4 wires" in meter.accessibleName()
    bench.type_into("Width", "0.4")
    bench.settle(night=False)
    assert "passage-full" in {f.rule for f in bench.document.findings}
    bench.choose("How it looks", "hose")
    bench.choose("Made", "notch")
    bench.type_into("Taken off", "0.6")
    bench.type_into("Of a wall of", "1.2")
    bench.choose("Joint", "swings")
    bench.type_into("Slack", "3")
    bench.settle(night=False)
    p = find(bench.document.plan, passage)
    assert (p.width_mm, p.look, p.make, p.take_mm, p.wall_mm, p.joint, p.slack_mm) == (
        0.4,
        "dressed",
        "notch",
        0.6,
        1.2,
        "hinge",
        3.0,
    )
    assert {"wall-left", "hinge-slack"} <= {f.rule for f in bench.document.findings}
    path = tmp_path / "l.gwiazda"
    assert bench.window.files._save(path) and load(path).plan == bench.document.plan
    while bench.document.undo_label:
        bench.document.undo()
    assert not bench.document.plan.passages


def test_drags_that_make_no_passage_are_said(loom):
    bench = loom
    bench.bot.keyClick(bench.window, Qt.Key.Key_P, Qt.KeyboardModifier.ShiftModifier)
    bench.drag(bench.spot(0.3, 0.5, 0), bench.spot(0.7, 0.5, 0))
    assert not bench.document.plan.passages and "Drag from inside one section" in bench.window.message.text
    bench.drag(bench.spot(0.5, 0.5, 0), bench.spot(0.5, 1.6, 0))
    assert bench.document.plan.passages[0].into == "", "out of the kit"


def test_a_hub_joins_and_its_panel_says_what(loom):
    bench = loom
    drill(bench)
    bench.bot.keyClick(bench.window, Qt.Key.Key_H, Qt.KeyboardModifier.ShiftModifier)
    bench.click(bench.spot(0.4, 0.4, 0))
    bench.settle(night=False)
    (hub,) = bench.document.plan.hubs
    assert bench.document.selection == (hub.id,)
    trunks = [r for r in bench.document.assessment.loom.runs.values() if r.kind == "trunk"]
    assert len(trunks) == 2 and "3 wires of plus joined" in bench.part("HubCard").words.text()
    bench.choose("Joins", "minuses alone")
    bench.settle(night=False)
    assert len([r for r in bench.document.assessment.loom.runs.values() if r.kind == "trunk"]) == 1
    assert [j.kind for j in bench.document.assessment.loom.joints].count("hub") == 1


def test_the_drawer_turns_to_the_passages_and_back(loom):
    bench = loom
    passage = drill(bench)
    bench.document.select(())
    bench.key(Qt.Key.Key_5, widget=bench.window)
    bench.settle(night=False)
    bench.window.drawer.grab()
    ((rect, item, spoken),) = bench.window.drawer.places
    assert item == passage and "4 wires" in spoken
    bench.bot.mouseClick(bench.window.drawer, Qt.MouseButton.LeftButton, pos=rect.center().toPoint())
    assert bench.document.selection == (passage,)
    bench.key(Qt.Key.Key_G, widget=bench.window)
    bench.window.drawer.grab()
    bench.key(Qt.Key.Key_G, widget=bench.window)
    bench.key(Qt.Key.Key_5, widget=bench.window)
    bench.window.drawer.grab()
    assert bench.window.drawer.sheet is not None


def test_leads_by_hand(loom):
    bench = loom
    first = drill(bench)
    bench.drag(bench.spot(0.3, 0.2, 0), bench.spot(0.7, 0.2, 1))
    second = bench.document.plan.passages[-1].id
    bench.document.select(["lamp.1"])
    bench.settle(night=False)
    used = bench.document.assessment.loom.runs["lamp.1.plus"].through[0]
    other = second if used == first else first
    bench.key(Qt.Key.Key_Z)
    bench.click(bench.px(*find(bench.document.plan, other).at))
    bench.settle(night=False)
    assert bench.document.assessment.loom.runs["lamp.1.plus"].through == (other,)
    bench.click(bench.px(*find(bench.document.plan, other).at))
    bench.settle(night=False)
    assert bench.document.assessment.loom.runs["lamp.1.plus"].through == (used,)
    bench.click(bench.spot(0.5, 0.9, 0))
    bench.settle(night=False)
    assert len(bench.document.assessment.loom.runs["lamp.1.minus"].points) == 4
    bench.choose("Wire of its leads", "Wrapping")
    bench.choose("Colour of the plus lead", "yellow")
    bench.settle(night=False)
    run = bench.document.assessment.loom.runs["lamp.1.plus"]
    assert (run.part, run.colour) == ("wrap-30", "yellow")
    bench.press("Led by the loom")
    assert not any(x.way or x.through for x in bench.document.plan.leads)


def test_a_common_return_settles_szrons_keel(shipped):
    bench = shipped
    bench.bot.mouseClick(bench.window.meters.faces["passage"], Qt.MouseButton.LeftButton)
    assert bench.window.station == "wire" and bench.document.selection == ("keel",)
    bench.settle(night=False)
    bench.press("A common return")
    state = bench.document.assessment.loom.passages["keel"]
    assert not state.full and len(state.runs) == 41
    bench.document.undo()
    bench.settle(night=False)
    bench.document.select(())
    bench.settle(night=False)
    bench.press("What joining leads would save")
    bench.bot.waitUntil(
        lambda: any(b.text().startswith("Join ") for b in bench.window.inspector.findChildren(QPushButton)),
        timeout=20_000,
    )
    bench.settle(night=False)
    bench.press("Join both, Hull")
    assert len(bench.document.assessment.loom.passages["keel"].runs) == 2


def test_sheets_and_tables_go_out(shipped, tmp_path):
    bench = shipped
    bench.window.files.write_export("sheets", tmp_path / "s.pdf")
    assert len(pypdfium2.PdfDocument(str(tmp_path / "s.pdf"))) > 10
    bench.window.files.write_export("sheets", tmp_path / "s.odt")
    assert "“.odt”" in bench.window.message.text and ".pdf or .svg" in bench.window.message.text


def test_a_pack_in_the_base_is_given_a_name_and_stands_in_the_way(shipped):
    bench = shipped
    bench.window.set_station("wire")
    bench.document.select(["base"])
    bench.settle(night=False)
    bench.type_into("Name of Eight AA cells", "Cells")
    bench.type_into("Length of Cells", "240")
    bench.settle(night=False)
    assert "body-too-large" in {f.rule for f in bench.document.findings}
    bench.choose("Add an obstacle", "speaker")
    bench.settle(night=False)
    assert any(o.kind == "speaker" for o in find(bench.document.plan, "base").obstacles)
