"""The guides are true: each thing they name is on the screen, and each numbered step can be done as it is written."""

from __future__ import annotations

import ast
import re
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

import gwiazda
from gwiazda.core.plan.frame import NORMALS
from gwiazda.demos import path_of
from gwiazda.desktop.stations.registry import STATIONS, cards_of

DOCS = Path(__file__).parents[3] / "docs"
GUIDES = sorted(DOCS.glob("guide*.md"))
SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
_NAMED = re.compile(r"(?<!\*)\*(?!\*)([^*\n]+)\*(?!\*)")
_STEP = re.compile(r"^(\d+)\. ", re.M)
STEPS: dict[str, list[Callable]] = {}


def step(guide: str) -> Callable[[Callable], Callable]:
    """The next numbered step of a guide."""

    def register(function: Callable) -> Callable:
        STEPS.setdefault(guide, []).append(function)
        return function

    return register


@pytest.fixture(scope="module")
def on_screen() -> str:
    """All texts of the program, in lower case."""
    texts: list[str] = []
    root = Path(gwiazda.__file__).parent
    for path in root.rglob("*.py"):
        texts += [
            n.value
            for n in ast.walk(ast.parse(path.read_text()))
            if isinstance(n, ast.Constant) and isinstance(n.value, str)
        ]
    texts += [path.read_text() for path in (root / "core").rglob("*.json")]
    for station in STATIONS:
        for cards in cards_of(station.id).cards.values():
            texts += [field.label for card in cards for field in card.fields]
    return "\n".join(texts).replace("&&", "&").replace("’", "'").lower()


@pytest.mark.parametrize("guide", GUIDES, ids=lambda path: path.stem)
def test_what_a_guide_names_is_on_the_screen(guide, on_screen):
    named = [m.replace("’", "'").strip() for m in _NAMED.findall(guide.read_text())]
    parts = [part.strip().rstrip("….") for name in named for part in re.split(r"\s*[→›]\s*", name)]
    assert [part for part in parts if part.lower() not in on_screen] == []


def test_every_numbered_step_is_done_below():
    written = {path.stem: len(_STEP.findall(path.read_text())) for path in GUIDES}
    assert {name: count for name, count in written.items() if count} == {k: len(v) for k, v in STEPS.items()}


@pytest.mark.parametrize("guide", ["guide", "guide-measure", "guide-block", "guide-animate"])
def test_the_steps_of_a_guide_can_be_done_one_after_another(guide, opened):
    if guide in ("guide-block",):
        opened.document.open(path_of(), as_demo=True)
    if guide == "guide-animate":
        opened.document.open(path_of("bryla"), as_demo=True)
    opened.plate.set_wipe(1.0)
    opened.settle(night=False)
    for number, done in enumerate(STEPS[guide], 1):
        try:
            done(opened)
        except Exception as error:
            raise AssertionError(f"{guide}.md, step {number}") from error


def say(bench, key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    bench.key(key, modifier, widget=bench.window)


def press(bench, words: str) -> None:
    bench.press(words)


# -- From an empty plan to a lit model ---------------------------------------------------------------------------


@step("guide")
def a_section(bench):
    say(bench, Qt.Key.Key_B)
    bench.drag(QPoint(180, 150), QPoint(640, 300))
    (section,) = bench.document.plan.sections
    assert bench.document.selection == (section.id,)
    for text, mm in (("38.1", 38.1), ("3 mm", 3.0), ("1 1/2 in", 38.1)):
        bench.type_into("height in mm", text)
        assert bench.document.plan.sections[0].box.size[2] == pytest.approx(mm)


@step("guide")
def a_row_and_a_window(bench):
    section = bench.document.plan.sections[0]
    say(bench, Qt.Key.Key_R)
    start, end = bench.spot(0.1, 0.5), bench.spot(0.9, 0.5)
    bench.drag(start, end, drop=False)
    before = len(bench.plate.tool.places) if hasattr(bench.plate.tool, "places") else None
    bench.key(Qt.Key.Key_Up)
    bench.bot.mouseRelease(bench.plate, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, end)
    row = bench.document.plan.openings
    assert len(row) > 3 and before != len(row)
    say(bench, Qt.Key.Key_W)
    bench.click(bench.spot(0.5, 0.85))
    assert len(bench.document.plan.openings) == len(row) + 1
    bench.key(Qt.Key.Key_Escape)
    bench.document.select([row[0].id, row[1].id])
    bench.settle(night=False)
    press(bench, "Dark")
    assert [o.lit for o in bench.document.plan.openings[:3]] == [0.0, 0.0, 1.0]
    assert section.id == bench.document.plan.openings[0].section


@step("guide")
def lamps(bench):
    say(bench, Qt.Key.Key_L)
    bench.click(bench.spot(0.5, 0.3))
    say(bench, Qt.Key.Key_P)
    at = bench.spot(0.7, 0.6)
    bench.click(at)
    behind, seen = bench.document.plan.lamps
    assert (behind.mount, seen.mount) == ("inside", "outside")
    say(bench, Qt.Key.Key_S)
    side = bench.plate.view.side
    bench.drag(at, bench.spot(0.7, 1.2))
    moved = bench.document.plan.lamps[1]
    assert moved.at[2] > seen.at[2] and NORMALS[side] is not None


@step("guide")
def how_bright(bench):
    behind, seen = bench.document.plan.lamps
    bench.document.select([behind.id])
    bench.settle(night=False)
    bench.choose("Wanted look", "soft")
    assert bench.document.plan.lamps[0].wanted.look == "soft"
    for lamp, text, field, value in (
        (behind, "30 cd/m²", "cd_m2", 30.0),
        (seen, "2.4 mcd", "mcd", 2.4),
        (behind, "5 mA", "current_ma", 5.0),
    ):
        bench.document.select([lamp.id])
        bench.settle(night=False)
        bench.type_into("Wanted figure", text)
        now = next(p for p in bench.document.plan.lamps if p.id == lamp.id)
        assert getattr(now.wanted, field) == pytest.approx(value)
    bench.settle(night=False)
    assert bench.document.assessment.lamps[behind.id].resistor_ohm > 100
    bench.type_into("Resistor", "4k7")
    bench.settle(night=False)
    assert bench.document.assessment.lamps[behind.id].resistor_ohm == 4700.0


@step("guide")
def scale_supply_room(bench):
    bench.key(Qt.Key.Key_Escape)
    bench.key(Qt.Key.Key_Escape)
    assert bench.document.selection == ()
    bench.settle(night=False)
    bench.type_into("Scale", "1/200")
    assert bench.document.plan.kit.scale == 200.0
    bench.window.set_station("power")
    bench.settle(night=False)
    bench.choose("Source", "9 V block")
    bench.window.set_station("light")
    bench.settle(night=False)
    assert bench.part("RoomCard") in bench.window.inspector.panel.here


# -- Measure: from a drawing on the bench ------------------------------------------------------------------------


def sketch_px(bench, u: float, v: float) -> QPoint:
    d = bench.plate.view.drawing
    return bench.plate.extent.to_px((u - d.origin[0]) * d.mm_per_unit, (v - d.origin[1]) * d.mm_per_unit).toPoint()


@step("guide-measure")
def drop(bench):
    bench.plate.files_dropped.emit(str(path_of().parent / "sketch.png"))
    assert bench.plate.view.drawing is not None and bench.window.station == "measure"
    bench.plate.set_wipe(1.0)


@step("guide-measure")
def level_square_crop(bench):
    say(bench, Qt.Key.Key_H)
    bench.drag(QPoint(200, 200), QPoint(500, 204))
    assert bench.plate.view.drawing.rotation_deg != 0
    bench.document.undo()
    say(bench, Qt.Key.Key_Q)
    for x, y in ((200, 150), (500, 160), (505, 300), (205, 290)):
        bench.click(QPoint(x, y))
    field = bench.plate.tools["square"].field
    field.selectAll()
    bench.bot.keyClicks(field, "120 x 40 mm")
    bench.bot.keyClick(field, Qt.Key.Key_Return)
    assert bench.plate.view.drawing.calibrated and bench.plate.view.drawing.picture.endswith("-square.png")
    bench.document.undo()
    bench.plate.fit_view()
    say(bench, Qt.Key.Key_C)
    bench.drag(QPoint(60, 60), QPoint(600, 380))
    assert bench.plate.view.drawing.crop is not None
    bench.click(QPoint(300, 200))
    assert bench.plate.view.drawing.crop is None


@step("guide-measure")
def calibrate(bench):
    bench.key(Qt.Key.Key_Escape)
    bench.document.select(())
    bench.settle(night=False)
    bench.type_into("Scale", "1/72")
    bench.plate.fit_view()
    for text, mm in (("18.8 m", 18.8e3 / 72), ("60 cm full size", 600 / 72), ("94 mm", 94.0)):
        say(bench, Qt.Key.Key_K)
        bench.drag(sketch_px(bench, 400, 294), sketch_px(bench, 1000, 294))
        field = bench.plate.tools["calibrate"].field
        field.selectAll()
        bench.bot.keyClicks(field, text)
        bench.bot.keyClick(field, Qt.Key.Key_Return)
        assert 600 * bench.plate.view.drawing.mm_per_unit == pytest.approx(mm, rel=0.02)
        bench.plate.fit_view()
    bench.key(Qt.Key.Key_Escape)
    bench.document.select(())
    bench.part("ViewCard").fade.setValue(4)
    assert bench.plate.view.drawing.fade == pytest.approx(0.4)


@step("guide-measure")
def trace(bench):
    say(bench, Qt.Key.Key_T)
    for u, v in ((400, 256), (540, 250), (780, 255), (780, 350), (420, 345)):
        bench.click(sketch_px(bench, u, v))
    bench.key(Qt.Key.Key_Backspace)
    assert len(bench.plate.tool.points) == 4
    bench.click(sketch_px(bench, 420, 345))
    bench.key(Qt.Key.Key_Return)
    (section,) = bench.document.plan.sections
    box = section.box
    bench.settle(night=False)
    press(bench, "Propose it from the outlines")
    assert bench.document.plan.sections[0].box.size[0] == pytest.approx(box.size[0], rel=0.1)
    say(bench, Qt.Key.Key_T)
    for u, v in ((500, 240), (520, 120), (530, 240)):
        bench.click(sketch_px(bench, u, v))
    bench.key(Qt.Key.Key_F)
    (fitting,) = bench.document.plan.fittings
    assert fitting.section == section.id
    bench.settle(night=False)
    bench.type_into("Thickness", "20 cm full size")
    assert bench.document.plan.fittings[0].thick_mm == pytest.approx(200 / 72, rel=0.01)
    say(bench, Qt.Key.Key_D, Qt.KeyboardModifier.ShiftModifier)
    assert bench.plate.tool.id == "wand"


@step("guide-measure")
def shape(bench):
    bench.key(Qt.Key.Key_Escape)
    bench.key(Qt.Key.Key_Escape)
    bench.document.select(())
    bench.settle(night=False)
    count = len(bench.document.plan.sections)
    press(bench, "Add the section")
    assert len(bench.document.plan.sections) == count + 1
    bench.document.undo()


@step("guide-measure")
def views_come_together(bench):
    say(bench, Qt.Key.Key_J)
    assert bench.plate.tool.id == "align"
    bench.key(Qt.Key.Key_Escape)


@step("guide-measure")
def turn_and_copy(bench):
    bench.document.select([bench.document.plan.sections[0].id])
    bench.settle(night=False)
    for words in ("Turn round", "Copy to other side"):
        buttons = bench.window.inspector.findChildren(QPushButton)
        assert [b for b in buttons if b.text().startswith(words)], words


@step("guide-measure")
def how_closed(bench):
    bench.part("ClosureCard").card.set_open(True)
    bench.settle(night=False)
    bench.choose("Glue", "epoxy")
    assert "epoxy" in bench.document.plan.sections[0].closure.glue


# -- Block: an evening, step by step -----------------------------------------------------------------------------


@step("guide-block")
def look(bench):
    bench.bot.mouseClick(bench.window.meters.faces["leak"], Qt.MouseButton.LeftButton)
    bench.settle(night=False)
    assert bench.window.station == "block" and bench.document.selection


@step("guide-block")
def torch(bench):
    bench.document.select(())
    bench.settle(night=False)
    words = " ".join(w.text() for w in bench.window.inspector.findChildren(QPushButton) if w.isVisibleTo(bench.window))
    assert words


@step("guide-block")
def skin(bench):
    bench.document.select(["deck1"])
    bench.settle(night=False)
    bench.choose("Lining", "silver")
    bench.choose("Add a coat inside", "silver")
    bench.choose("Add a coat outside", "grey primer")
    section = next(s for s in bench.document.plan.sections if s.id == "deck1")
    assert (section.lining, section.inside[-1].coat, section.outside[-1].coat) == ("silver", "silver", "grey-primer")
    for _ in range(3):
        bench.document.undo()
    bench.settle(night=False)
    press(bench, "Find the fewest coats")


@step("guide-block")
def seams(bench):
    bench.choose("Add a seam", "front wall")
    bench.choose("Add a patch", "roof")
    section = next(s for s in bench.document.plan.sections if s.id == "deck1")
    assert section.seams and section.patches
    bench.document.undo()
    bench.document.undo()


@step("guide-block")
def lenses(bench):
    bench.document.select(["hangar.window.02"])
    bench.settle(night=False)
    bench.field("Gap around the lens")


@step("guide-block")
def hot_spots(bench):
    assert bench.document.findings
    bench.field("Softened by")
    press(bench, "Move that lamp clear of it")


@step("guide-block")
def even_rows(bench):
    from gwiazda.desktop.plate.rowcurve import row_of

    bench.document.select(["deck1"])
    bench.settle(night=False)
    assert row_of(bench.plate) is not None


@step("guide-block")
def in_the_dark(bench):
    name = bench.plate.palette_.name
    say(bench, Qt.Key.Key_R, CTRL)
    assert bench.plate.palette_.name != name
    say(bench, Qt.Key.Key_R, CTRL)


# -- Animate: a start-up in five stages --------------------------------------------------------------------------


@step("guide-animate")
def five_lamps(bench):
    bench.window.set_station("animate")
    lamps = [p.id for p in bench.document.plan.lamps][:5]
    bench.document.select(lamps)
    bench.settle(night=False)
    bench.choose("Ready pattern", "Start-up")
    cue = bench.document.plan.cues[-1]
    assert len(cue.channels) == 5


@step("guide-animate")
def the_cue(bench):
    bench.document.select([bench.document.plan.cues[-1].id])
    bench.settle(night=False)
    bench.type_into("A step", "0.8 s")
    bench.type_into("Fades in", "200 ms")
    does = bench.document.plan.cues[-1].does
    assert does.step_s == pytest.approx(0.8)


@step("guide-animate")
def it_plays(bench):
    player = bench.window.drawer.player
    assert not player.playing
    QTest.keyClick(bench.plate, Qt.Key.Key_Space)
    assert player.playing
    bench.bot.waitUntil(lambda: bool(bench.plate.night_note))
    bench.key(Qt.Key.Key_Escape)
    assert not player.playing


@step("guide-animate")
def by_keys(bench):
    count = len(bench.document.plan.cues)
    drawer = bench.window.drawer
    drawer.setFocus()
    QTest.keyClick(drawer, Qt.Key.Key_Down)
    QTest.keyClick(drawer, Qt.Key.Key_Return)
    assert len(bench.document.plan.cues) == count + 1
    bench.document.undo()


@step("guide-animate")
def out_and_in(bench):
    from gwiazda.desktop.shell.export.exports import BY_ID

    assert set(BY_ID["show"].suffixes) == {".csv", ".json", ".h", ".md"}
