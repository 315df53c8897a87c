"""The measuring bench: from a shipped sketch to a lit plan by mouse and keys; drawings, tracing, brush, eye, offers."""

from __future__ import annotations

import json
import math
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from gwiazda.cli import main
from gwiazda.core.errors import PlanFileError
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Count
from gwiazda.core.plan.naming import name_of
from gwiazda.core.plan.storage import load
from gwiazda.demos import NAMES, path_of
from gwiazda.desktop.plate.drawings import clean_svg, png_of, take_picture

SKETCH = path_of().parent / "sketch.png"


def sketch_px(bench, u: float, v: float) -> QPoint:
    """Where a pixel of the sketch lies on the plate."""
    d = bench.plate.view.drawing
    return bench.plate.extent.to_px((u - d.origin[0]) * d.mm_per_unit, (v - d.origin[1]) * d.mm_per_unit).toPoint()


def test_a_kit_of_ones_own_from_a_sketch(empty, tmp_path, capsys):
    bench, window = empty, empty.window
    bench.plate.set_wipe(1.0)
    bench.plate.files_dropped.emit(str(SKETCH))
    assert bench.plate.view.drawing.picture == "sketch.png" and window.station == "measure"
    bench.type_into("Scale", "1/72")
    bench.document.edit("Kind", lambda plan: edits.set_kit(plan, kind="aircraft"))  # its windows are those of one
    # The hull is drawn 230 mm long; it is 16.56 m at full size.
    bench.key(Qt.Key.Key_K, widget=window)
    bench.drag(sketch_px(bench, 720 - 118 * 3, 294), sketch_px(bench, 720 + 112 * 3, 294))
    field = bench.plate.tools["calibrate"].field
    bench.bot.keyClicks(field, "16.56 m")
    bench.bot.keyClick(field, Qt.Key.Key_Return)
    assert bench.plate.view.drawing.mm_per_unit == pytest.approx(1 / 3, rel=0.01)
    bench.key(Qt.Key.Key_F, widget=window)
    bench.key(Qt.Key.Key_T, widget=window)
    hull = [(400, 256), (540, 250), (780, 255), (780, 350), (420, 345)]
    for u, v in hull:
        bench.click(sketch_px(bench, u, v))
    bench.key(Qt.Key.Key_Return)
    assert len(bench.document.plan.sections) == 1, bench.window.message.text
    bench.type_into("Name", "Hull")
    bench.type_into("breadth in mm", "24")
    cabin = [(456, 250), (660, 252), (628, 212), (495, 212)]
    for u, v in cabin:
        bench.click(sketch_px(bench, u, v))
    bench.click(sketch_px(bench, *cabin[0]))
    assert len(bench.document.plan.sections) == 2
    first, second = bench.document.plan.sections
    assert second.box.size[0] < first.box.size[0]
    bench.key(Qt.Key.Key_R, widget=window)
    bench.drag(sketch_px(bench, 440, 300), sketch_px(bench, 750, 300))
    assert len(bench.document.selection) > 6
    bench.choose("Shape", "round")
    across = next(b for b in window.inspector.panel.findChildren(QPushButton) if b.text() == "Copy to the other side")
    bench.bot.mouseClick(across, Qt.MouseButton.LeftButton)
    assert {o.side for o in bench.document.plan.openings} == {"port", "starboard"}
    bench.key(Qt.Key.Key_S, widget=window)
    bench.click(sketch_px(bench, 600, 330))
    assert bench.document.selection == (first.id,)
    bench.type_into("Lit share", "60")
    bench.type_into("Pattern", "7")
    fill = next(b for b in window.inspector.panel.findChildren(QPushButton) if b.text().startswith("Light its windows"))
    bench.bot.mouseClick(fill, Qt.MouseButton.LeftButton)
    lit = [o.lit > 0 for o in bench.document.plan.openings if o.side == "port"]
    assert sum(lit) == round(0.6 * len(lit))
    bench.key(Qt.Key.Key_O, widget=window)
    dark = next(o for o in bench.document.plan.openings if o.side == "port" and o.lit == 0)
    bench.click(bench.px(*dark.at))
    assert find(bench.document.plan, dark.id).lit == 1.0 and bench.document.undo_label == "Light 1 windows"
    bench.key(Qt.Key.Key_S, widget=window)
    bench.click(sketch_px(bench, 600, 330))
    bench.part("FewestCard").card.set_open(True)
    ask = next(b for b in window.inspector.panel.findChildren(QPushButton) if b.text().startswith("Propose lamps"))
    bench.bot.mouseClick(ask, Qt.MouseButton.LeftButton)
    bench.settle(night=False)
    proposals = [b for b in window.inspector.panel.findChildren(QPushButton) if b.objectName() == "proposal"]
    assert len(proposals) >= 3
    bench.bot.mouseClick(proposals[0], Qt.MouseButton.LeftButton)
    bench.settle()
    assert bench.document.plan.lamps and bench.document.assessment.sections[first.id].mean_cd_m2 > 5
    path = tmp_path / "own.gwiazda"
    assert window.files._save(path)
    again = load(path)
    assert again.plan == bench.document.plan and again.pictures["sketch.png"] == SKETCH.read_bytes()
    capsys.readouterr()
    main(["check", "--json", str(path)])
    data = json.loads(capsys.readouterr().out)
    assert data["sections"][first.id]["lit"] == sum(
        o.lit > 0 for o in bench.document.plan.openings if o.section == first.id
    )


def test_both_demos_open_and_show_all_views(empty):
    for name in NAMES:
        assert empty.document.open(path_of(name), as_demo=True)
        empty.settle()
        assert len(empty.document.findings) == {"szron": 6, "perkoz": 4, "swistak": 2, "bryla": 4}[name]
        for view in empty.document.plan.views:
            empty.plate.set_view(view.id)
            empty.settle()
            assert empty.plate.night.picture.layer_bytes > 0


def test_a_drawing_is_levelled_faded_and_pasted(empty):
    bench = empty
    image = QImage(400, 200, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    QGuiApplication.clipboard().setImage(image)
    bench.window.files.paste()
    assert bench.plate.view.drawing.picture == "pasted.png"
    bench.window.set_station("measure")
    bench.key(Qt.Key.Key_H, widget=bench.window)
    bench.plate.set_wipe(1.0)
    bench.drag(QPoint(200, 200), QPoint(500, 260))
    turned = bench.plate.view.drawing.rotation_deg
    assert turned == pytest.approx(-math.degrees(math.atan2(60, 300)), abs=0.5)
    bench.key(Qt.Key.Key_Escape)
    bench.document.select(())
    bench.part("ViewCard").fade.setValue(7)
    assert bench.plate.view.drawing.fade == pytest.approx(0.7)
    bench.document.undo()
    bench.document.undo()
    assert bench.plate.view.drawing.rotation_deg == 0
    QGuiApplication.clipboard().clear()
    bench.window.files.paste()
    assert "no picture on the clipboard" in bench.window.message.text


def test_calibrating_with_equal_points_or_nonsense_is_refused(empty):
    bench = empty
    bench.plate.files_dropped.emit(str(SKETCH))
    bench.plate.set_wipe(1.0)
    bench.key(Qt.Key.Key_K, widget=bench.window)
    before = bench.document.plan
    bench.click(QPoint(300, 300))
    field = bench.plate.tools["calibrate"].field
    bench.bot.keyClicks(field, "94 mm")
    bench.bot.keyClick(field, Qt.Key.Key_Return)
    assert bench.document.plan is before and "two points are the same" in bench.window.message.text
    bench.drag(QPoint(300, 300), QPoint(500, 300))
    field = bench.plate.tools["calibrate"].field
    bench.bot.keyClicks(field, "long")
    bench.bot.keyClick(field, Qt.Key.Key_Return)
    assert bench.document.plan is before and "can't be read" in bench.window.message.text


def test_a_crossing_outline_is_shown_and_refused_and_its_corners_kept(empty):
    bench = empty
    bench.plate.set_wipe(1.0)
    bench.key(Qt.Key.Key_T, widget=bench.window)
    for x, y in ((200, 200), (400, 340), (420, 190), (210, 350)):
        QTest.mouseClick(bench.plate, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, QPoint(x, y))
    bench.key(Qt.Key.Key_Return)
    assert not bench.document.plan.sections
    assert "crosses itself at" in bench.window.message.text
    assert len(bench.plate.tool.points) == 4
    bench.key(Qt.Key.Key_Backspace)
    bench.key(Qt.Key.Key_Return)
    assert len(bench.document.plan.sections) == 1


def test_traces_snap_to_corners_and_level_lines(empty):
    bench = empty
    bench.plate.set_wipe(1.0)
    bench.key(Qt.Key.Key_B, widget=bench.window)
    bench.drag(QPoint(200, 200), QPoint(400, 300))
    corner = bench.document.plan.sections[0].outlines[0].points
    bench.key(Qt.Key.Key_T, widget=bench.window)
    bench.click(QPoint(402, 202))
    assert any(bench.plate.tool.points[0] == pytest.approx(c, abs=0.06) for c in corner)
    bench.click(QPoint(560, 204))
    assert bench.plate.tool.points[1][1] == bench.plate.tool.points[0][1]


@pytest.mark.parametrize("shape", ["box", "tube", "disc", "wedge", "dome"])
def test_sections_from_shapes(empty, shape):
    bench = empty
    bench.window.set_station("measure")
    bench.choose("Shape", shape)
    for path, text in zip(("length", "breadth", "height"), ("4 in", "38", "30 mm"), strict=True):
        bench.part("ShapeCard").form.typed(path).setText(text)
    add = next(b for b in bench.window.inspector.panel.findChildren(QPushButton) if b.text() == "Add the section")
    bench.bot.mouseClick(add, Qt.MouseButton.LeftButton)
    section = bench.document.plan.sections[0]
    assert section.name.lower().startswith(shape) and bench.document.selection == (section.id,)
    bench.type_into("Grid", "6 x 2")
    assert len(bench.document.plan.openings) == 12
    bench.type_into("Ring", "8 on 4 mm")
    assert len(bench.document.plan.openings) == 20
    bench.type_into("Grid", "lots")
    assert "such as 12 x 3" in bench.window.message.text


def test_views_are_added_and_share_one_coordinate_system(bench):
    bench.window.set_station("measure")
    bench.choose("Add a view", "starboard side")
    assert "starboard" in bench.window.view_buttons
    bench.bot.mouseClick(bench.window.view_buttons["starboard"], Qt.MouseButton.LeftButton)
    bench.settle()
    light = find(bench.document.plan, "bridge.sidelight.02")
    bench.click(bench.px(*light.at))
    assert bench.document.selection == (light.light,), "what makes one thing is picked as one"
    assert bench.plate.night.picture.layer_bytes > 0


def test_from_below_windows_and_floods_are_put_where_one_looks(bench, tmp_path):
    bench.window.set_station("measure")
    bench.choose("Add a view", "from below")
    bench.bot.mouseClick(bench.window.view_buttons["bottom"], Qt.MouseButton.LeftButton)
    bench.settle(night=False)
    before = bench.document.plan
    hull = next(s for s in before.sections if s.id == "hull")
    x, y, z = hull.box.centre
    bench.key(Qt.Key.Key_W, widget=bench.window)
    bench.click(bench.px(x + 30.0, y, z))
    (window,) = [o for o in bench.document.plan.openings if o.side == "bottom"]
    assert window.section == "hull" and window.at[2] == hull.box.at[2] and abs(window.at[0] - x - 30.0) < 2.0
    bench.key(Qt.Key.Key_P, widget=bench.window)
    bench.click(bench.px(x - 40.0, y, z))
    (flood,) = [p for p in bench.document.plan.lamps if p not in before.lamps]
    assert flood.aim == (0.0, 0.0, -1.0) and flood.at[2] < hull.box.at[2], "outside, under the hull, looking down"
    bench.settle()
    assert bench.document.assessment.openings[window.id].luminance_cd_m2 > 0
    path = tmp_path / "belly.gwiazda"
    assert bench.document.save(path) and load(path).plan == bench.document.plan
    bench.document.undo()
    bench.document.undo()
    assert bench.document.plan.openings == before.openings and bench.document.plan.lamps == before.lamps
    bench.document.redo()
    bench.bot.mouseClick(bench.window.bar.round_button, Qt.MouseButton.LeftButton)
    stands = bench.plate.round.stands
    below = next(b for b in stands.children() if getattr(b, "text", str)() == "Below")
    bench.bot.mouseClick(below, Qt.MouseButton.LeftButton)
    bench.settle()
    assert "below its middle" in bench.plate.round.eye_words()
    bench.plate.round.end()


def test_brush_leaves_dark_and_dims(bench):
    bench.key(Qt.Key.Key_O, widget=bench.window)
    row = [o for o in bench.document.plan.openings if o.id.startswith("deck1") and o.side == "port"]
    start, end = bench.px(*row[3].at), bench.px(*row[8].at)
    bench.drag(start, end, Qt.KeyboardModifier.ShiftModifier, steps=40)
    assert all(find(bench.document.plan, o.id).lit == 0 for o in row[3:9])
    bench.drag(start, end, Qt.KeyboardModifier.ControlModifier, steps=40)
    assert all(find(bench.document.plan, o.id).lit == 0.35 for o in row[3:9])
    bench.document.undo()
    bench.document.undo()
    assert bench.document.plan.openings == load(path_of()).plan.openings


def test_the_eye_sees_through_a_window_from_above(bench):
    bench.plate.set_view("view.top")
    bench.key(Qt.Key.Key_E, widget=bench.window)
    bench.click(QPoint(300, 500))
    assert "ick a " in bench.window.message.text
    bench.document.select(["bridge.window.06"])
    opening = find(bench.document.plan, "bridge.window.06")
    near = bench.px(opening.at[0], opening.at[1] + 4, opening.at[2])
    tool = bench.plate.tool
    bench.drag(near, near + QPoint(0, 2))
    close = tool.sight.share
    bench.drag(near, near + QPoint(0, 120))
    assert close > tool.sight.share > 0
    bench.drag(near, bench.px(opening.at[0], opening.at[1] - 8, opening.at[2]))
    assert tool.sight.share == 0, "from inside nothing is seen through it"


def test_worked_lamps_and_fit_in_the_inspector(bench):
    bench.document.select(["deck1.lamp.01"])
    bench.settle()
    assert "mm to spare" in bench.part("WorkedCard").words.text()
    part = bench.field("Part")
    texts = [part.itemText(i) for i in range(part.count())]
    assert texts[0].endswith("warm white") and any("too dim" in t for t in texts)
    bench.choose("Part", "5 mm round, warm white")
    bench.settle()
    assert "beam" in bench.part("WorkedCard").words.text() and "20°" in bench.part("WorkedCard").words.text()
    box = bench.field("dome sanded flat")
    bench.bot.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
    bench.settle()
    assert find(bench.document.plan, "deck1.lamp.01").sanded and "110°" in bench.part("WorkedCard").words.text()
    bench.choose("Tint of tip", "red")
    assert find(bench.document.plan, "deck1.lamp.01").tint == "red"


def test_true_to_scale_and_to_be_seen(bench):
    bench.document.select(["mast.masthead.01"])
    bench.settle()
    bench.choose("What it stands for", "Masthead light, 94 cd")
    assert find(bench.document.plan, "mast.masthead.01").wanted.mcd == pytest.approx(2.35)
    bench.bot.mouseClick(bench.part("RealCard").seen, Qt.MouseButton.LeftButton)
    assert find(bench.document.plan, "mast.masthead.01").wanted.mcd < 2.35


def test_effort_follows_minutes_and_school(bench):
    bench.window.set_station("measure")
    bench.settle()
    before = bench.part("EffortCard").words.text()
    bench.type_into("Minutes to open a pane", "12 min")
    assert bench.document.plan.effort.drill_min == 12
    assert bench.part("EffortCard").words.text() != before
    bench.document.select(["deck1"])
    bench.choose("Window method", "scratch free")
    assert "50 panes, 2 holes" in bench.part("PatternsCard").work.text(), "the ways of wires are left to drill"


# -- pictures --------------------------------------------------------------------------------------------

DIRTY = b"""<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 90 30">
<script>alert(1)</script><rect width="90" height="30" fill="#ccc" onclick="x()"/>
<image href="file:///etc/passwd" width="5" height="5"/><use xlink:href="http://example.invalid/a#b"/>
<a xlink:href="http://example.invalid"><circle r="4"/></a></svg>"""


def test_scripts_and_outside_links_are_left_out_and_said(empty, tmp_path):
    cleaned, dropped, plain = clean_svg(DIRTY, "x")
    assert dropped == 5 and plain
    for word in (b"script", b"onclick", b"passwd", b"invalid"):
        assert word not in cleaned
    assert b"rect" in cleaned and b"circle" in cleaned
    path = tmp_path / "dirty.svg"
    path.write_bytes(DIRTY)
    empty.plate.files_dropped.emit(str(path))
    assert "5 scripts or outside links" in empty.window.message.text
    assert b"script" not in empty.document.pictures["dirty.svg"]


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.png", b"not a picture", "not a PNG"), ("a.svg", b"<svg><rect></svg>", "not readable SVG"),
        ("a.svg", b"<svg xmlns='http://www.w3.org/2000/svg'/>", "nothing to show"),
        ("a.svg", b"<!DOCTYPE x [<!ENTITY a 'b'>]><svg>&a;</svg>", "not a PNG"), ("a.png", b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\0\x09\0\0\0\x09", "damaged"),
    ],
)  # fmt: skip
def test_bad_pictures_are_refused_with_a_sentence(empty, tmp_path, name, data, words):
    path: Path = tmp_path / name
    path.write_bytes(data)
    before = empty.document.plan
    empty.plate.files_dropped.emit(str(path))
    assert empty.document.plan is before and words in empty.window.message.text
    with pytest.raises(PlanFileError):
        take_picture(path.name, path.read_bytes())


def test_two_pictures_of_one_name_are_both_kept(empty):
    first, second = (QImage(4, 4, QImage.Format.Format_RGB32) for _ in range(2))
    first.fill(1)
    second.fill(200)
    names = [empty.document.add_picture("a.png", png_of(i)) for i in (first, second, first)]
    assert names == ["a.png", "a-2.png", "a.png"]


def test_night_of_a_levelled_drawing_is_turned_too(bench):
    bench.settle()
    before = bench.plate.night._render._hull.copy()
    view = bench.plate.view
    drawing = edits.copy_checked(view.drawing, rotation_deg=10.0)
    from gwiazda.core.plan.edits import views

    bench.document.edit("turn", lambda plan: views.set_view(plan, view.id, drawing=drawing))
    bench.settle()
    assert abs(bench.plate.night._render._hull - before).max() > 0.05
    assert QPointF(bench.px(0, 0, 0)).x() > 0


def test_own_parts_come_in_and_go_out(bench, tmp_path, monkeypatch):
    from gwiazda.core.workshop.parts_csv import COLUMNS

    document = bench.document
    document.load_workshop(tmp_path / "data")
    row = "drawer-1,From the drawer,round,3,3,5.3,clear,warm white,30,20,5000,3.05,2.6,9,measured"
    path = tmp_path / "mine.csv"
    path.write_text(",".join(COLUMNS) + "\n" + row + "\n")
    try:
        bench.document.select(["deck1.lamp.01"])
        bench.window.files.take_in_parts(path)
        assert "1 part of mine.csv" in bench.window.message.text
        bench.choose("Part", "From the drawer")
        bench.settle()
        assert bench.document.assessment.lamps["deck1.lamp.01"].part == "drawer-1"
        out = tmp_path / "out.csv"
        bench.window.files.write_export("parts", out)
        assert out.read_text() == path.read_text()
        assert document.load_workshop(tmp_path / "data") == () and "drawer-1" in document.catalogue.lamps
        path.write_text(path.read_text().replace("5000", "bright"))
        bench.window.files.take_in_parts(path)
        assert "row 2, axial_mcd" in bench.window.message.text and "drawer-1" in document.catalogue.lamps
    finally:
        document.load_workshop(tmp_path / "none")


def test_throw_aims_the_lamp_and_stops_at_a_lip(bench):
    bench.key(Qt.Key.Key_A, widget=bench.window)
    assert bench.plate.tool.id == "throw"
    bench.click(QPoint(300, 300))
    assert "ick a lamp" in bench.window.message.text
    bench.document.select(["hull"])
    bench.choose("Add an obstacle", "bulkhead")
    made = find(bench.document.plan, "hull").obstacles[0]
    assert made.kind == "bulkhead" and made.action == "keep"
    bench.document.select(["hull.lamp.02"])
    lamp = find(bench.document.plan, "hull.lamp.02")
    behind = bench.px(made.box.at[0] + 25, 0, 7)
    bench.drag(bench.px(lamp.at[0] - 3, 0, lamp.at[2] - 12), behind)
    tool = bench.plate.tool
    aimed = find(bench.document.plan, "hull.lamp.02").aim
    assert aimed[0] > 0 > aimed[2] and bench.document.undo_label == "Aim the lamp"
    assert "higher would reach it" in tool.reach_words or "no height" in tool.reach_words
    shaded = tool.lit_share
    bench.document.select(["hull"])
    bench.choose(f"What is done to {name_of(bench.document.plan, made.id)}", "is cut out")
    bench.document.select(["hull.lamp.02"])
    bench.drag(bench.px(lamp.at[0] - 3, 0, lamp.at[2] - 12), behind)
    assert tool.reach_words == "" and tool.lit_share >= shaded
    assert 0 < tool.peak_lx < 1e5


def test_obstacles_are_moved_resized_and_taken_away(bench):
    bench.document.select(["deck1"])
    bench.settle()
    before = bench.document.plan
    for kind in ("rib", "pin", "tab"):
        bench.choose("Add an obstacle", kind)
    obstacles = find(bench.document.plan, "deck1").obstacles
    assert [o.kind for o in obstacles] == ["rib", "pin", "tab"] and len({o.id for o in obstacles}) == 3
    bench.type_into(f"Height of {name_of(bench.document.plan, obstacles[0].id)}", "17 mm")
    assert find(bench.document.plan, "deck1").obstacles[0].box.size[2] == 17
    bench.type_into(f"Corner, fore and aft of {name_of(bench.document.plan, obstacles[0].id)}", "200")
    assert find(bench.document.plan, "deck1").obstacles[0].box.at[0] == 200
    bench.choose(f"What is done to {name_of(bench.document.plan, obstacles[1].id)}", "never there")
    assert [o.kind for o in find(bench.document.plan, "deck1").obstacles] == ["rib", "tab"]
    while bench.document.undo_label:
        bench.document.undo()
    assert bench.document.plan is before


def test_lights_say_what_is_to_glow_and_why(bench, tmp_path):
    bench.window.set_station("measure")
    bench.settle()
    before, there = bench.document.plan, len(bench.document.plan.lights)
    bench.choose("Add a light", "Masthead light")
    first = bench.document.plan.lights[-1]
    assert (first.kind, first.name, bench.document.selection) == ("masthead", "Masthead light", (first.id,))
    bench.type_into("Name", "Masthead lights")
    bench.type_into("Note of the light", "two, the after one higher")
    bench.choose("Look of the light", "barely")
    bench.type_into("Dots of the light", "2 x 1")
    assert bench.document.plan.lights[-1].count == Count(columns=2, rows=1)
    path = tmp_path / "f.gwiazda"
    assert bench.window.files._save(path)
    kept = load(path).plan.lights[-1]
    assert (kept.name, kept.note, kept.look) == ("Masthead lights", "two, the after one higher", "barely")
    bench.document.select(())
    bench.settle()
    lines = [
        b for b in bench.window.inspector.panel.findChildren(QPushButton) if b.text().startswith("Masthead lights")
    ]
    bench.bot.mouseClick(lines[-1], Qt.MouseButton.LeftButton)
    assert bench.document.selection == (first.id,)
    bench.key(Qt.Key.Key_Delete)
    assert len(bench.document.plan.lights) == there
    while bench.document.undo_label:
        bench.document.undo()
    assert bench.document.plan == before


def askew_photo(path: Path) -> list[tuple[float, float]]:
    """A photo of a board with a grid, taken at an angle; returns the corners of its 120 × 60 mm frame in it."""
    from PySide6.QtCore import QRectF
    from PySide6.QtGui import QColor, QPainter, QPolygonF, QTransform

    board = QImage(600, 300, QImage.Format.Format_RGB32)
    board.fill(QColor("#dddddd"))
    painter = QPainter(board)
    painter.fillRect(QRectF(290, 140, 20, 20), QColor("#c00000"))
    painter.end()
    flat = QPolygonF([QPointF(0, 0), QPointF(600, 0), QPointF(600, 300), QPointF(0, 300)])
    corners = [QPointF(80, 60), QPointF(520, 110), QPointF(500, 330), QPointF(60, 400)]
    made = QTransform.quadToQuad(flat, QPolygonF(corners))
    photo = QImage(640, 480, QImage.Format.Format_RGB32)
    photo.fill(QColor("#333333"))
    painter = QPainter(photo)
    painter.setTransform(made[0] if isinstance(made, tuple) else made)
    painter.drawImage(0, 0, board)
    painter.end()
    photo.save(str(path))
    return [(p.x(), p.y()) for p in corners]


def test_a_photo_taken_at_an_angle_is_squared_up(empty, tmp_path):
    from PySide6.QtGui import QColor

    bench = empty
    path = tmp_path / "photo.png"
    corners = askew_photo(path)
    bench.plate.files_dropped.emit(str(path))
    bench.plate.set_wipe(1.0)
    bench.key(Qt.Key.Key_Q, widget=bench.window)
    for u, v in corners:
        bench.click(sketch_px(bench, u, v))
    field = bench.plate.tool.field
    bench.bot.keyClicks(field, "120 by 60")
    bench.bot.keyClick(field, Qt.Key.Key_Return)
    assert "such as 120 x 40 mm" in bench.window.message.text
    field.selectAll()
    bench.bot.keyClicks(field, "120 x 60 mm")
    bench.bot.keyClick(field, Qt.Key.Key_Return)
    drawing = bench.plate.view.drawing
    assert drawing.picture == "photo-square.png" and bench.document.undo_label == "Square up the photo"
    image = QImage.fromData(bench.document.pictures[drawing.picture])
    middle = image.pixelColor(round(drawing.origin[0]), round(drawing.origin[1]))
    assert middle.red() > 150 > middle.green(), "the red square in the middle of the board is in the middle again"
    reds = [
        x
        for x in range(image.width())
        if image.pixelColor(x, round(drawing.origin[1])).red()
        > 150
        > image.pixelColor(x, round(drawing.origin[1])).green()
    ]
    assert len(reds) * drawing.mm_per_unit == pytest.approx(4.0, abs=0.8), (
        "20 of the board's 600 px are 4 of its 120 mm"
    )
    assert QColor("#333333").isValid()
    bench.document.undo()
    assert bench.plate.view.drawing.picture == "photo.png"


def test_corners_that_make_no_rectangle_are_refused(empty, tmp_path):
    bench = empty
    path = tmp_path / "photo.png"
    askew_photo(path)
    bench.plate.files_dropped.emit(str(path))
    bench.plate.set_wipe(1.0)
    bench.key(Qt.Key.Key_Q, widget=bench.window)
    before = bench.document.plan
    for at in (QPoint(200, 200), QPoint(300, 200), QPoint(400, 200), QPoint(500, 200)):
        bench.click(at)
    bench.bot.keyClicks(bench.plate.tool.field, "120 x 60 mm")
    bench.bot.keyClick(bench.plate.tool.field, Qt.Key.Key_Return)
    assert bench.document.plan is before
    assert "Photo" in bench.window.message.text


def pdf(width_pt: float = 288.0, height_pt: float = 144.0, content: bytes = b"1 0 0 rg 36 36 216 72 re f") -> bytes:
    """The smallest PDF of one page with a red rectangle of 3 × 1 inch."""
    objects = [
        b"<< /Type /Catalog /Pages 2 0 R >>",
        b"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
        f"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 {width_pt} {height_pt}] /Contents 4 0 R >>".encode(),
        b"<< /Length %d >>\nstream\n" % len(content) + content + b"\nendstream",
    ]
    out, offsets = b"%PDF-1.4\n", []
    for i, body in enumerate(objects, 1):
        offsets.append(len(out))
        out += b"%d 0 obj\n" % i + body + b"\nendobj\n"
    start = len(out)
    out += b"xref\n0 5\n0000000000 65535 f \n" + b"".join(b"%010d 00000 n \n" % o for o in offsets)
    return out + b"trailer << /Size 5 /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n" % start


def test_a_page_of_a_pdf_comes_at_its_size_on_paper(empty, tmp_path):
    bench = empty
    path = tmp_path / "plan sheet.pdf"
    path.write_bytes(pdf())
    bench.plate.files_dropped.emit(str(path))
    bench.bot.waitUntil(lambda: bench.window.files.pdf_process is None, timeout=60_000)
    drawing = bench.plate.view.drawing
    assert drawing.picture == "plan-sheet.png"
    image = QImage.fromData(bench.document.pictures[drawing.picture])
    assert image.width() * drawing.mm_per_unit == pytest.approx(4 * 25.4, rel=0.005)
    row = image.height() // 2
    red = [x for x in range(image.width()) if image.pixelColor(x, row).green() < 100 < image.pixelColor(x, row).red()]
    assert len(red) * drawing.mm_per_unit == pytest.approx(3 * 25.4, rel=0.01)


@pytest.mark.parametrize("data", [b"%PDF-1.4\nrubbish", b"", pdf(1e6, 1e6), pdf()[:200]])
def test_bad_pdfs_end_in_a_sentence(empty, tmp_path, data):
    bench = empty
    path = tmp_path / "bad.pdf"
    path.write_bytes(data)
    before = bench.document.plan
    bench.plate.files_dropped.emit(str(path))
    bench.bot.waitUntil(lambda: bench.window.files.pdf_process is None, timeout=60_000)
    text = bench.window.message.text
    if bench.document.plan is before:
        assert "bad.pdf" in text and "It takes" in text
    else:
        # A page cut short may still be mended by the reader; then it has a size like any other.
        assert bench.plate.view.drawing.mm_per_unit > 0


def test_a_part_of_ones_own_is_fitted_shown_and_kept(bench, tmp_path, monkeypatch):
    document = bench.document
    document.load_workshop(tmp_path / "data")
    try:
        bench.document.select(["deck1.lamp.01"])
        bench.settle()
        own = bench.part("OwnPartCard")
        own.card.set_open(True)
        keep = own.keep
        bench.bot.mouseClick(keep, Qt.MouseButton.LeftButton)
        assert "it has no name" in bench.window.message.text
        bench.type_into("Name of your part", "Blue bag")
        bench.type_into("Data-sheet points", "1 mA 2.6 V, 5 mA 2.78, 20 mA 3.05 V")
        assert "within" in own.words.text() and "3 points" in own.curve.accessibleName()
        bench.type_into("Beam of your part", "60")
        bench.bot.mouseClick(keep, Qt.MouseButton.LeftButton)
        assert find(bench.document.plan, "deck1.lamp.01").part == "my-blue-bag"
        part = document.catalogue.lamps["my-blue-bag"]
        assert part.beam_deg == 60 and part.basis == "measured"
        assert document.catalogue.families[part.family].v20_v == pytest.approx(3.05, abs=0.01)
        assert document.load_workshop(tmp_path / "data") == ()
        assert document.catalogue.lamps["my-blue-bag"].beam_deg == 60
        bench.document.undo()
        bench.type_into("Data-sheet points", "bright")
        assert "such as 1 mA 2.65 V" in bench.window.message.text
    finally:
        document.load_workshop(tmp_path / "none")


def test_a_strip_is_cut_to_units(bench):
    bench.document.select(["deck1.lamp.01"])
    bench.settle()
    assert bench.field("Units of the strip").isHidden()
    bench.choose("Part", "strip 12 V, 60 a metre, warm white")
    bench.settle()
    bench.type_into("Units of the strip", "2")
    bench.settle()
    assert find(bench.document.plan, "deck1.lamp.01").units == 2
    assert "2 × 50 mm, 6 lamps" in bench.part("PartCard").facts.text()
    bench.choose("Part", "1206 chip, warm white")
    assert find(bench.document.plan, "deck1.lamp.01").units == 1


def test_corridors_are_always_lit(bench):
    ids = [o.id for o in bench.document.plan.openings if o.section == "deck1" and o.side == "port"][:3]
    bench.document.select(ids)
    bench.type_into("Room behind it", "corridor")
    assert all(find(bench.document.plan, i).room == "corridor" for i in ids)
    bench.window.set_station("measure")
    bench.document.select(["deck1"])
    bench.type_into("Lit share", "5")
    bench.type_into("Always lit", "corridor")
    fill = next(
        b for b in bench.window.inspector.panel.findChildren(QPushButton) if b.text().startswith("Light its windows")
    )
    bench.bot.mouseClick(fill, Qt.MouseButton.LeftButton)
    assert all(find(bench.document.plan, i).lit == 1.0 for i in ids)


def test_a_window_closed_or_another_page_taken_while_one_is_read_leaves_nothing_behind(empty, tmp_path, monkeypatch):
    import tempfile

    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path / "t"))
    (tmp_path / "t").mkdir()
    for name in ("one.pdf", "two.pdf"):
        (tmp_path / name).write_bytes(pdf())
        empty.plate.files_dropped.emit(str(tmp_path / name))
    assert len(list((tmp_path / "t").iterdir())) == 1, "the first is let go of"
    reading = empty.window.files.pdf_process
    assert reading is not None
    empty.window.close()
    assert empty.window.files.pdf_process is None and not list((tmp_path / "t").iterdir())
    assert not empty.document.pictures


def test_a_lamps_card_says_and_draws_which_end_is_plus(bench):
    bench.window.set_station("light")
    plan = bench.document.plan
    domed = [p.id for p in plan.lamps if p.part == "round-3-red"]
    bench.document.select(domed[:1])
    card = bench.part("PartCard")
    assert "longer leg" in card.plus.text() and "longer leg" in card.polarity.accessibleName()
    assert not card.polarity.isHidden()
    drawn = card.polarity.grab().toImage()
    assert len({drawn.pixel(x, y) for x in range(drawn.width()) for y in range(drawn.height())}) > 3
    chip = next(p.id for p in plan.lamps if p.part == "chip-1206-warm-white")
    bench.document.select([domed[0], chip])
    card = bench.part("PartCard")
    assert card.plus.text() == "" and card.polarity.isHidden(), "of two kinds nothing is said"
