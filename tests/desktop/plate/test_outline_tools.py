"""Drawing by hand on the plate: arcs, runs, mirrors, traced openings, curves, crop, align, the wand."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QPushButton

from gwiazda.core.plan.frame import polygon_area
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.storage import load
from gwiazda.desktop.plate.drawings import png_of

CTRL = Qt.KeyboardModifier.ControlModifier

SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 100">
<rect x="20" y="20" width="160" height="60" fill="none" stroke="black"/>
<rect x="40" y="40" width="8" height="10" fill="none" stroke="black"/>
<circle cx="80" cy="45" r="5" fill="none" stroke="black"/>
<path d="M110 40 h14 l-4 12 h-6 z" fill="none" stroke="black"/></svg>"""


def button(bench, words: str) -> QPushButton:
    return next(b for b in bench.window.inspector.panel.findChildren(QPushButton) if b.text().startswith(words))


def tool(bench, key) -> None:
    bench.key(key, widget=bench.window)


@pytest.fixture
def board(empty):
    empty.plate.set_wipe(1.0)
    empty.window.set_station("measure")
    return empty


def put(board, name: str, data: bytes, tmp_path) -> None:
    path = tmp_path / name
    path.write_bytes(data)
    board.plate.files_dropped.emit(str(path))


def at_drawing(board, u: float, v: float) -> QPoint:
    d = board.plate.view.drawing
    return board.plate.extent.to_px((u - d.origin[0]) * d.mm_per_unit, (v - d.origin[1]) * d.mm_per_unit).toPoint()


def house(board) -> str:
    """A section drawn as a rectangle of the plate."""
    tool(board, Qt.Key.Key_B)
    board.drag(QPoint(200, 180), QPoint(600, 400))
    return board.document.plan.sections[0].id


def test_an_outline_with_an_arc_and_a_run_of_typed_length(board):
    tool(board, Qt.Key.Key_T)
    board.click(QPoint(200, 400))
    board.bot.mouseMove(board.plate, QPoint(400, 402))
    board.key(Qt.Key.Key_4)
    field = board.plate.tool.field
    assert field.text() == "4" and board.window.station == "measure", "a digit is a length here, and no station"
    board.key(Qt.Key.Key_7, widget=board.plate)  # the hand is back on the plate, the number is begun anew
    assert field is not board.plate.tool.field and len(board.plate.tool.points) == 1, "nothing half typed was taken"
    field = board.plate.tool.field
    board.bot.keyClick(field, Qt.Key.Key_Backspace)
    board.bot.keyClicks(field, "4")
    board.bot.keyClicks(field, "2 mm")
    board.bot.keyClick(field, Qt.Key.Key_Return)
    (a, b) = board.plate.tool.points
    assert abs(b[0] - a[0]) == pytest.approx(42.0) and b[1] == a[1]
    end = board.plate.tool._px(b).toPoint()
    board.click(end + QPoint(60, -60), CTRL)
    board.click(end + QPoint(0, -120))
    assert len(board.plate.tool.points) > 8, "the arc is a chain of short runs"
    board.key(Qt.Key.Key_Backspace)
    assert board.plate.tool.points == [a, b], "an arc is taken back as one"
    board.click(end + QPoint(60, -60), CTRL)
    board.click(end + QPoint(0, -120))
    board.click(QPoint(200, 280))
    board.key(Qt.Key.Key_Return)
    section = board.document.plan.sections[0]
    plain = 42.0 * (120 / board.plate.extent.scale)
    assert polygon_area(section.outlines[0].points) > plain * 1.05
    board.document.undo()
    assert not board.document.plan.sections


def test_half_an_outline_is_mirrored_with_one_key(board):
    tool(board, Qt.Key.Key_T)
    for x, y in ((200, 300), (260, 240), (520, 240), (560, 300)):
        board.click(QPoint(x, y), Qt.KeyboardModifier.ShiftModifier)
    board.key(Qt.Key.Key_M)
    assert len(board.plate.tool.points) == 6
    board.key(Qt.Key.Key_Return)
    (section,) = board.document.plan.sections
    zs = [p[1] for p in section.outlines[0].points]
    middle = section.outlines[0].points[0][1]
    assert max(zs) - middle == pytest.approx(middle - min(zs))
    board.key(Qt.Key.Key_T)
    board.click(QPoint(100, 100))
    board.key(Qt.Key.Key_M)
    assert "half an outline" in board.window.message.text


def test_an_opening_of_any_shape_is_cut_and_kept_in_the_file(board, tmp_path):
    house(board)
    tool(board, Qt.Key.Key_X)
    for x, y in ((300, 250), (360, 250), (340, 300)):
        board.click(QPoint(x, y), Qt.KeyboardModifier.ShiftModifier)
    board.key(Qt.Key.Key_Return)
    (opening,) = board.document.plan.openings
    assert opening.shape == "traced" and opening.area_mm2 == pytest.approx(
        opening.width_mm * opening.height_mm / 2, rel=0.01
    )
    board.settle()
    path = tmp_path / "cut.gwiazda"
    assert board.window.files._save(path) and load(path).plan == board.document.plan
    board.choose("Shape", "slot")
    assert board.document.plan.openings[0].shape == "slot"
    tool(board, Qt.Key.Key_X)
    for x, y in ((20, 20), (60, 20), (40, 60)):
        board.click(QPoint(x, y), Qt.KeyboardModifier.ShiftModifier)
    board.key(Qt.Key.Key_Return)
    assert "no section here" in board.window.message.text and len(board.document.plan.openings) == 1


def test_a_plain_window_cannot_be_made_a_traced_one(board):
    house(board)
    tool(board, Qt.Key.Key_W)
    board.click(QPoint(300, 280))
    before = board.document.plan
    board.choose("Shape", "as traced")
    assert board.document.plan is before and "Nothing was traced" in board.window.message.text


def test_a_row_along_a_curve(board):
    house(board)
    tool(board, Qt.Key.Key_U)
    board.click(QPoint(240, 340))
    board.click(QPoint(400, 240), CTRL)
    board.click(QPoint(560, 340), Qt.KeyboardModifier.ShiftModifier)
    count = board.plate.tool.count()
    board.key(Qt.Key.Key_Down)
    assert board.plate.tool.count() == count - 1
    board.key(Qt.Key.Key_Return)
    made = board.document.plan.openings
    assert len(made) == count - 1 and len({round(o.at[2], 2) for o in made}) > 3
    assert max(o.at[2] for o in made) == pytest.approx(made[len(made) // 2].at[2], abs=2.0)
    tool(board, Qt.Key.Key_U)
    board.click(QPoint(240, 340))
    board.key(Qt.Key.Key_Return)
    assert "no length" in board.window.message.text


# -- the drawing ------------------------------------------------------------------------------------------


def test_a_drawing_is_cropped_and_shown_whole_again(board, tmp_path):
    put(board, "kit.svg", SVG, tmp_path)
    whole = board.plate.extent
    tool(board, Qt.Key.Key_C)
    board.drag(at_drawing(board, 15, 15), at_drawing(board, 100, 85))
    crop = board.plate.view.drawing.crop
    assert crop == pytest.approx((15, 15, 100, 85), abs=0.6)
    board.plate.fit_view()
    assert board.plate.extent.scale > whole.scale * 1.1
    board.click(QPoint(300, 300))
    assert board.plate.view.drawing.crop is None
    board.document.undo()
    assert board.plate.view.drawing.crop == crop


def test_two_views_are_aligned_by_one_point(board, tmp_path):
    put(board, "side.svg", SVG, tmp_path)
    board.document.select(())
    board.choose("Add a view", "from above")
    tool(board, Qt.Key.Key_J)
    board.click(at_drawing(board, 20, 20))
    assert "another view" in board.window.message.text
    board.plate.set_view("top")
    put(board, "top.svg", SVG, tmp_path)
    board.plate.set_tool("align")
    assert board.plate.tool.mark is not None, "the mark waits while the view changes"
    board.click(at_drawing(board, 120, 50))
    d = board.plate.view.drawing
    port = next(v for v in board.document.plan.views if v.id == "port").drawing
    # Both show x, port with the bow to the left as from above: the same place right of the origin.
    assert (120 - d.origin[0]) * d.mm_per_unit == pytest.approx((20 - port.origin[0]) * port.mm_per_unit, abs=0.3)
    assert "along x" in board.window.message.text
    board.document.undo()
    assert board.plate.view.drawing.origin == (100, 50)


def test_the_wand_reads_an_svg_and_openings_come_from_its_shapes(board, tmp_path):
    put(board, "kit.svg", SVG, tmp_path)
    board.window.tool_key("wand")
    board.click(at_drawing(board, 150, 70))
    assert len(board.plate.tool.points) == 4
    board.key(Qt.Key.Key_Return)
    (section,) = board.document.plan.sections
    assert section.box.size[0] == pytest.approx(160 - 2.4, abs=0.3)
    board.plate.set_tool("pick")
    board.document.select([section.id])
    board.bot.mouseClick(button(board, "Take them from the drawing"), Qt.MouseButton.LeftButton)
    assert sorted(o.shape for o in board.document.plan.openings) == ["rect", "round", "traced"]
    board.bot.mouseClick(button(board, "Take them from the drawing"), Qt.MouseButton.LeftButton)
    assert len(board.document.plan.openings) == 3 and "no further closed shape" in board.window.message.text
    board.settle()
    assert "1 of 3" in board.plate.hover_text(QPointF(board.px(*max(o.at for o in board.document.plan.openings)))) or (
        "3 of 3" in board.plate.hover_text(QPointF(board.px(*max(o.at for o in board.document.plan.openings))))
    )


def lines(*boxes: tuple[int, int, int, int]) -> QImage:
    """A drawing of rectangles in thin black lines."""
    image = QImage(400, 200, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    painter.setPen(QColor("black"))
    for box in boxes:
        painter.drawRect(*box)
    painter.end()
    return image


def test_the_wand_reads_lines_of_a_picture_and_says_what_it_cannot(board, tmp_path):
    board.window.tool_key("wand")
    board.click(QPoint(300, 300))
    assert "no drawing for the wand" in board.window.message.text
    image = lines((60, 40, 240, 100), (100, 60, 20, 20))
    put(board, "kit.png", png_of(image), tmp_path)
    board.plate.set_tool("wand")
    board.click(at_drawing(board, 20, 20))
    assert "isn't closed" in board.window.message.text and not board.plate.tool.points
    board.click(at_drawing(board, 200, 120))
    board.key(Qt.Key.Key_Return)
    assert board.document.plan.sections[0].box.size[0] == pytest.approx(240 * 0.5 - 2.4, abs=1.0)
    board.click(at_drawing(board, 110, 70))
    board.key(Qt.Key.Key_Space)
    assert board.document.plan.openings[0].width_mm == pytest.approx(10, abs=0.8)


def test_a_mast_of_the_drawing_becomes_a_fitting(board, tmp_path):
    """Read by the wand or traced by hand: F makes it solid and thin; it has its own panel, and is undone as one step."""
    image = lines((60, 100, 240, 60), (150, 30, 12, 66))
    put(board, "kit.png", png_of(image), tmp_path)
    board.window.tool_key("wand")
    board.click(at_drawing(board, 200, 120))
    board.key(Qt.Key.Key_Return)
    board.click(at_drawing(board, 156, 60))
    board.key(Qt.Key.Key_F)
    (deck,), (mast,) = board.document.plan.sections, board.document.plan.fittings
    assert mast.section == deck.id and mast.size[0] == pytest.approx(6.0, abs=0.8) and mast.thick_mm == 4.0
    assert board.document.selection == (mast.id,) and "A fitting, 4 mm thick, on" in board.window.message.text
    board.type_into("Name", "Foremast")
    board.type_into("Thickness", "20 cm full size")
    mast = board.document.plan.fittings[0]
    assert mast.name == "Foremast" and mast.thick_mm == pytest.approx(200 / 72)
    board.type_into("Thickness", "no idea")
    assert board.document.plan.fittings[0] is mast and board.window.message.text
    board.choose("Stands on", "nothing")
    board.document.select([deck.id])
    board.key(Qt.Key.Key_Delete)
    assert not board.document.plan.sections and board.document.plan.fittings
    for _ in range(5):
        board.document.undo()
    assert board.document.plan.fittings == () and board.document.plan.sections == (deck,)
    board.plate.set_tool("trace")
    for x, y in ((20, 20), (40, 20), (20, 90), (40, 90)):
        board.click(at_drawing(board, x, y))
    board.key(Qt.Key.Key_F)
    assert "crosses itself" in board.window.message.text and not board.document.plan.fittings
    for _ in range(2):
        board.key(Qt.Key.Key_Backspace)
    for x, y in ((40, 90), (20, 90)):
        board.click(at_drawing(board, x, y))
    board.key(Qt.Key.Key_F)
    assert len(board.document.plan.fittings) == 1 and not board.plate.tool.points


@pytest.mark.parametrize(("text", "mm"), [("60 cm full size", 600 / 72), ("94 mm", 94.0), ("2 m real", 2000 / 72)])
def test_calibrating_by_a_short_length_at_full_size(board, tmp_path, text, mm):
    put(board, "kit.svg", SVG, tmp_path)
    tool(board, Qt.Key.Key_K)
    board.drag(at_drawing(board, 20, 20), at_drawing(board, 180, 20))
    field = board.plate.tools["calibrate"].field
    board.bot.keyClicks(field, text)
    board.bot.keyClick(field, Qt.Key.Key_Return)
    assert board.plate.view.drawing.mm_per_unit * 160 == pytest.approx(mm, rel=0.02)


# -- sections ---------------------------------------------------------------------------------------------


def test_how_a_section_is_closed_and_what_it_is_made_of(board, tmp_path):
    section = house(board)
    board.choose("Glue", "Cyanoacrylate")
    assert find(board.document.plan, section).closure.by == "glue"
    board.type_into("Closed by which part", "roof")
    board.type_into("What stays removable", "mast")
    words = board.part("ClosureCard").words.text()
    assert "Only mast comes off" in words and "Gloves" in words
    board.choose("Held by", "magnets")
    assert find(board.document.plan, section).closure.glue == ""
    board.choose("Material of this part", "white")
    board.type_into("Paint colour", "#8A6F4D")
    assert find(board.document.plan, section).colour == "#8a6f4d"
    board.type_into("Paint colour", "brown")
    assert "six hex digits" in board.window.message.text
    path = tmp_path / "made.gwiazda"
    assert board.window.files._save(path) and load(path).plan == board.document.plan


def test_a_section_is_turned_copied_and_its_box_proposed(board):
    section = house(board)
    board.type_into("breadth in mm", "10")
    board.type_into("Corner, sideways", "4")
    board.bot.mouseClick(button(board, "Copy to other side"), Qt.MouseButton.LeftButton)
    plan = board.document.plan
    assert len(plan.sections) == 2 and plan.sections[1].box.at[1] == -14
    board.document.select([section])
    board.type_into("length in mm", "5")
    board.document.undo()
    board.bot.mouseClick(button(board, "Turn round"), Qt.MouseButton.LeftButton)
    board.bot.mouseClick(button(board, "Propose it from the outlines"), Qt.MouseButton.LeftButton)
    assert find(board.document.plan, section).box.size[0] == pytest.approx(plan.sections[0].box.size[0], abs=0.2)


def test_lights_have_pictures_and_their_own_effort(bench, tmp_path):
    bench.window.set_station("measure")
    bench.settle()
    bench.choose("Add a light", "Row of cabins")
    bench.type_into("Name", "Saloon")
    light = bench.document.plan.lights[-1].id
    image = QImage(40, 20, QImage.Format.Format_RGB32)
    image.fill(QColor("orange"))
    path = tmp_path / "seen.png"
    path.write_bytes(png_of(image))
    bench.part("ReasonCard").take_picture(path)
    assert bench.document.plan.lights[-1].picture == "seen.png" and "seen.png" in bench.document.pictures
    bench.part("ReasonCard").take_picture(tmp_path / "none.png")
    assert "can't be opened" in bench.window.message.text
    bench.document.select(["deck1"])
    bench.choose("Light it belongs to", "Saloon")
    bench.document.select(())
    bench.settle()
    assert "Saloon: " in bench.part("EffortCard").words.text()
    bench.document.select(["deck1.lamp.01"])
    bench.choose("Light it belongs to", "Saloon")
    assert find(bench.document.plan, "deck1.lamp.01").light == light
