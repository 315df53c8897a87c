"""The Fibre station under the hands: from an empty plan to points of light, and the demo's panel and mast."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QImage, QPainter

from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Lamp
from gwiazda.core.plan.naming import name_of
from gwiazda.core.plan.storage import load


@pytest.fixture
def fibre(empty):
    """A window at Fibre, with one section drawn on the plate."""
    empty.window.set_station("measure")
    empty.key(Qt.Key.Key_B)
    empty.drag(QPoint(120, 140), QPoint(620, 330))
    empty.window.set_station("fibre")
    empty.plate.set_wipe(1.0)
    empty.settle()
    return empty


def dots(bench):
    return bench.document.plan.dots


def test_from_an_empty_plan_to_points_of_light(fibre, tmp_path):
    """A dot by a click, a row by a drag, a lamp of their own, seen in the night; undone, saved and opened the same."""
    bench = fibre
    bench.key(Qt.Key.Key_I)
    assert bench.plate.tool.id == "dot"
    bench.click(bench.spot(0.8, 0.7))
    assert len(dots(bench)) == 1 and dots(bench)[0].section == bench.document.plan.sections[0].id
    section = bench.document.plan.sections[0]
    assert dots(bench)[0].at[1] == pytest.approx(section.box.at[1] + section.box.size[1] + section.wall_mm)
    bench.drag(bench.spot(0.85, 0.4), bench.spot(0.2, 0.4) + QPoint(0, 2))
    count = len(dots(bench)) - 1
    assert count > 3 and len({d.at[2] for d in dots(bench)[1:]}) == 1, "level without Shift"
    bench.document.select([d.id for d in dots(bench)])
    bench.settle()
    bench.press("A lamp of their own")
    assert len(bench.document.plan.lamps) == 1 and all(d.lamp for d in dots(bench))
    assessment = bench.document.assessment
    bench.plate.set_wipe(0.3)
    bench.settle()
    assert len(assessment.tips) == count + 1 and bench.plate.night.picture.layer_bytes > 0
    bench.window.drawer.grab()
    assert any("fibres" in spoken for _, _, spoken in bench.window.drawer.places)
    path = tmp_path / "f.gwiazda"
    assert bench.window.files._save(path) and load(path).plan == bench.document.plan
    while bench.document.undo_label:
        bench.document.undo()
    assert not dots(bench) and not bench.document.plan.sections
    while bench.document.redo_label:
        bench.document.redo()
    assert bench.document.plan == load(path).plan


def test_up_and_down_change_a_row_while_it_is_dragged(fibre):
    bench = fibre
    bench.key(Qt.Key.Key_I)
    bench.drag(bench.spot(0.9, 0.4), bench.spot(0.5, 0.4), drop=False)
    before = bench.plate.tool._count()
    bench.key(Qt.Key.Key_Up)
    bench.key(Qt.Key.Key_Up)
    bench.plate.grab()
    bench.bot.mouseRelease(bench.plate, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, bench.spot(0.5, 0.4))
    assert len(dots(bench)) == before + 2
    bench.key(Qt.Key.Key_I)
    bench.drag(bench.spot(0.9, 0.2), bench.spot(0.5, 0.2), drop=False)
    bench.key(Qt.Key.Key_Escape)
    assert len(dots(bench)) == before + 2


def test_a_dot_beside_the_model_is_said(fibre):
    bench = fibre
    bench.key(Qt.Key.Key_I)
    bench.click(bench.spot(1.15, 1.2))
    bench.settle()
    assert "dot-on-no-skin" in {f.rule for f in bench.document.findings}
    bench.press("Give them to the nearest section")
    assert dots(bench)[0].section


def lit(bench) -> None:
    bench.key(Qt.Key.Key_I)
    bench.drag(bench.spot(0.85, 0.4), bench.spot(0.2, 0.4))
    bench.key(Qt.Key.Key_S)
    bench.settle()
    bench.press("A lamp of their own")


def test_fields_of_a_dot(fibre):
    bench = fibre
    lit(bench)
    first = dots(bench)[0].id
    bench.document.select([first])
    bench.settle()
    bench.type_into("Name", "Masthead light")
    bench.choose("Fibre", "1 mm")
    bench.type_into("Coats of smoke", "2")
    bench.type_into("Wanted intensity", "2.4")
    bench.choose("Tip", "dome")
    bench.choose("Colour asked for", "red")
    bench.type_into("Radius of bends", "8")
    bench.choose("How it is bent", "cold")
    bench.type_into("Slack", "35")
    bench.choose("Hole", "comes with the part")
    bench.type_into("Size of the hole", "0.9")
    bench.settle()
    dot = find(bench.document.plan, first)
    assert (dot.name, dot.fibre, dot.smoke, dot.wanted_mcd, dot.tip, dot.colour) == ("Masthead light", "fibre-1", 2, 2.4, "domed", "red")  # fmt: skip
    assert (dot.bend_mm, dot.bent, dot.slack_mm, dot.hole, dot.hole_mm) == (8.0, "cold", 35.0, "given", 0.9)
    assert "fibre-too-thick" in {f.rule for f in bench.document.findings}
    bench.press("PMMA fibre 0.75 mm")
    assert find(bench.document.plan, first).fibre == "fibre-0.75"
    bench.type_into("Coats of smoke", "many")
    assert find(bench.document.plan, first).smoke == 2
    bench.choose("Lamp", "none")
    assert find(bench.document.plan, first).lamp == "" and not find(bench.document.plan, first).pinned


def test_grouping_all_dots_with_nothing_picked(fibre):
    bench = fibre
    bench.key(Qt.Key.Key_I)
    bench.drag(bench.spot(0.9, 0.4), bench.spot(0.1, 0.4))
    section = bench.document.plan.sections[0]
    x, y, z = section.box.centre
    for k, dx in enumerate((-20.0, 20.0)):
        lamp = Lamp(id=f"l{k}", part="flat-5-warm-white", at=(x + dx, y, z), aim=(0, 1, 0), mount="fibre")
        bench.document.edit("lamp", lambda plan, lamp=lamp: edits.add_lamp(plan, lamp))
    bench.document.select(())
    bench.settle()
    bench.bot.mouseClick(bench.part("GroupingCard").group, Qt.MouseButton.LeftButton)
    bench.bot.waitUntil(lambda: all(d.lamp for d in dots(bench)), timeout=10_000)
    bench.settle()
    assert {d.lamp for d in dots(bench)} == {"l0", "l1"}
    assert "on their lamps" in bench.window.message.text
    bench.document.select(["l0"])
    bench.settle()
    bench.press("Split it")
    assert len(bench.document.plan.lamps) == 3


def test_grouping_without_a_lamp_is_said(fibre):
    bench = fibre
    bench.key(Qt.Key.Key_I)
    bench.click(bench.spot(0.5, 0.4))
    bench.document.select(())
    bench.settle()
    bench.press("Group the dots")
    assert "No lamp feeds fibres yet" in bench.window.message.text
    bench.press("One more lamp")
    assert dots(bench)[0].lamp and bench.document.plan.lamps[0].mount == "fibre"


def face(path, spots: int = 6) -> None:
    image = QImage(300, 120, QImage.Format.Format_RGB32)
    image.fill(QColor("#202020"))
    painter = QPainter(image)
    painter.setBrush(QColor("#e03020"))
    for k in range(spots):
        painter.drawEllipse(QPointF(40 + 44 * k, 60), 9, 9)
    painter.end()
    image.save(str(path))


def test_a_panel_from_the_picture_of_its_face(fibre, tmp_path):
    bench = fibre
    bench.key(Qt.Key.Key_Y)
    bench.drag(bench.spot(0.7, 0.7), bench.spot(0.3, 0.3))
    (panel,) = bench.document.plan.panels
    assert bench.document.selection == (panel.id,)
    face(tmp_path / "face.png")
    bench.part("FaceDotsCard").load_picture(tmp_path / "face.png")
    bench.settle()
    assert len(dots(bench)) == 6 and {d.colour for d in dots(bench)} == {"red"}
    xs = sorted(d.at[0] for d in dots(bench))
    assert np.diff(xs) == pytest.approx(panel.width_mm * 44 / 300, rel=0.02)
    assert bench.document.plan.panels[0].picture in bench.document.pictures
    bench.type_into("Width", f"{panel.width_mm * 2:g}")
    assert np.diff(sorted(d.at[0] for d in dots(bench))) == pytest.approx(2 * panel.width_mm * 44 / 300, rel=0.02)
    face(tmp_path / "none.png", 0)
    bench.part("FaceDotsCard").load_picture(tmp_path / "none.png")
    assert "no round spot" in bench.window.message.text and len(dots(bench)) == 6
    (tmp_path / "odd.png").write_bytes(b"not a picture")
    bench.part("FaceDotsCard").load_picture(tmp_path / "odd.png")
    assert len(dots(bench)) == 6
    bench.press("Pick its dots")
    assert len(bench.document.selection) == 6
    path = tmp_path / "p.gwiazda"
    assert bench.window.files._save(path) and load(path).pictures.keys() == bench.document.pictures.keys()


def test_a_way_led_by_hand(fibre):
    bench = fibre
    lit(bench)
    first = dots(bench)[0].id
    bench.document.select([first])
    bench.key(Qt.Key.Key_Z)
    before = bench.document.assessment.tips[first].length_mm
    bench.click(bench.spot(0.5, 0.9))
    bench.settle()
    (place,) = find(bench.document.plan, first).way
    assert bench.document.assessment.tips[first].length_mm > before
    at = bench.px(*place)
    bench.drag(at, at + QPoint(0, 60))
    moved = find(bench.document.plan, first).way
    assert len(moved) == 1 and moved[0][2] < place[2] and moved[0][1] == place[1]
    bench.key(Qt.Key.Key_Backspace)
    assert find(bench.document.plan, first).way == ()
    bench.document.select(())
    bench.click(bench.spot(0.5, 0.9))
    assert "Pick dots on a lamp first" in bench.window.message.text


def test_dots_are_picked_moved_and_deleted_on_the_plate(fibre):
    bench = fibre
    lit(bench)
    bench.plate.set_tool("pick")
    dot = dots(bench)[0]
    bench.document.select(())
    bench.click(bench.px(*dot.at))
    assert bench.document.selection == (dot.id,)
    bench.drag(bench.px(*dot.at), bench.px(*dot.at) + QPoint(0, 30))
    assert find(bench.document.plan, dot.id).at[2] < dot.at[2]
    assert name_of(bench.document.plan, dot.id) in bench.plate.hover_text(
        QPointF(bench.px(*find(bench.document.plan, dot.id).at))
    )
    bench.key(Qt.Key.Key_Delete)
    assert find(bench.document.plan, dot.id) is None


def test_the_demos_panel_and_its_map(shipped):
    bench = shipped
    bench.window.set_station("fibre")
    bench.document.select(["bridge.panel.01"])
    bench.settle()
    bench.key(Qt.Key.Key_G, widget=bench.window)
    bench.settle()
    bench.window.drawer.grab()
    tags = [spoken.split(":")[0] for _, _, spoken in bench.window.drawer.places if spoken.startswith("A")]
    assert tags == [f"A{k}" for k in range(1, 25)]
    rect, item, _ = next(p for p in bench.window.drawer.places if p[2].startswith("A7:"))
    bench.bot.mouseClick(bench.window.drawer, Qt.MouseButton.LeftButton, pos=rect.center().toPoint())
    assert bench.document.selection == (item,) and item == "bridge.panel.01.dot.07"


def test_the_tight_bend_of_the_mast_is_settled_by_its_offer(shipped):
    bench = shipped
    bench.window.set_station("fibre")
    bench.document.select(["mast.signal.05"])
    bench.settle()
    assert bench.window.feedline.lamps["fibre"].open_count == 1
    bench.press("Lead it straight")
    assert bench.window.feedline.lamps["fibre"].open_count == 0
