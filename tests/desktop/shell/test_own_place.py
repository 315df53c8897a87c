"""What the window keeps of its user's habits: folded cards, text size, recent plans; and the line that speaks."""

from __future__ import annotations

import os
import subprocess
import sys

import pytest
from PySide6.QtCore import QSettings, Qt
from PySide6.QtWidgets import QToolButton

from gwiazda.core.assess.aims import NIGHT
from gwiazda.core.errors import PlanError
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Lamp, Wanted
from gwiazda.core.workshop.workshop import load_workshop
from gwiazda.demos import path_of
from gwiazda.desktop.forms.readers import read_wanted, wanted_text
from gwiazda.desktop.panels.panel import Card
from gwiazda.desktop.shell import recent
from gwiazda.desktop.theme.sizes import TEXT_SIZES, scaled, set_text_percent, text_percent


def cards(window):
    return {c.title: c for c in window.inspector.panel.findChildren(Card) if c.fold is not None}


# -- the inspector ------------------------------------------------------------------------------------------


def test_a_card_stays_as_it_was_left_at_each_station(bench):
    bench.document.select(["deck1"])
    bench.settle()
    assert "Inner box" not in cards(bench.window), "at Light there are the cards of Light"
    bench.window.inspector.panel.toggle_more()
    box = cards(bench.window)["Inner box"]
    assert not box.is_open, "behind the line of all the others it is folded"
    bench.bot.mouseClick(box.fold, Qt.MouseButton.LeftButton)
    assert box.is_open
    bench.document.select([])
    bench.document.select(["deck1"])
    bench.settle()
    bench.window.inspector.panel.toggle_more()
    assert cards(bench.window)["Inner box"].is_open
    bench.key(Qt.Key.Key_Space, widget=cards(bench.window)["Inner box"].fold)
    assert not cards(bench.window)["Inner box"].is_open
    bench.window.set_station("measure")
    bench.settle()
    assert cards(bench.window)["Inner box"].is_open, "at Measure it is what one came for"


def test_offers_stand_first(shipped):
    spot = next(f for f in shipped.document.findings if f.rule == "hot-spot")
    shipped.document.select([spot.subject])
    shipped.settle()
    inspector = shipped.window.inspector
    offers = inspector.offers
    assert offers.isVisible()
    top = offers.mapTo(inspector, offers.rect().topLeft()).y()
    others = [c for c in inspector.panel.findChildren(Card) if c.isVisible() and c is not offers and not offers.isAncestorOf(c)]  # fmt: skip
    assert all(c.mapTo(inspector, c.rect().topLeft()).y() > top for c in others)
    assert top < 250, "without scrolling"


def test_several_lamps_say_how_many_and_show_no_id(bench):
    lamps = [p.id for p in bench.document.plan.lamps][:3]
    bench.document.select(lamps)
    bench.settle()
    shown = " ".join(
        label.text() for label in bench.window.inspector.panel.findChildren(type(bench.window.message.label))
    )
    assert "3 lamps" in shown and not any(i in shown for i in lamps)


# -- the line that speaks -----------------------------------------------------------------------------------


def test_what_is_said_goes_with_the_next_action(bench):
    line = bench.window.message
    bench.document.message.emit("Something was said.", "info")
    assert line.text == "Something was said." and line.label.text()
    bench.document.select(["deck1"])
    bench.key(Qt.Key.Key_Right)
    assert line.text == ""
    assert line.geometry().top() >= bench.plate.geometry().bottom() - 1, "it covers nothing of the plate"


def test_a_refusal_is_a_sentence_and_changes_nothing(bench):
    before = bench.document.plan
    bench.document.select(["deck1"])
    bench.window.set_station("measure")
    bench.settle()
    bench.type_into("length in mm", "1.500")
    assert bench.document.plan is before
    field = bench.field("length in mm")
    said = bench.window.message.text or field.toolTip()
    assert said and "accepted" not in said


def test_an_exception_in_an_edit_ends_in_one_sentence(bench):
    before = bench.document.plan

    def broken(plan):
        raise KeyError("gone")

    assert not bench.document.edit("Break it", broken)
    assert bench.document.plan is before and bench.window.message.text.endswith(".")

    def refused(plan):
        raise PlanError("Lamp x", "it isn't there", "another one")

    assert not bench.document.edit("Ask for it", refused)
    assert bench.window.message.text == "Lamp x: it isn't there. It takes another one."


def test_an_offer_taken_late_is_refused_in_a_sentence(shipped):
    finding = next(f for f in shipped.document.findings if f.fixes and f.rule == "hot-spot")
    shipped.document.new()
    empty = shipped.document.plan
    for fix in finding.fixes:
        shipped.document.edit(fix.label, fix.applied)
        assert shipped.document.plan.lamps == empty.lamps


def test_several_in_a_list_is_no_choice(bench):
    lamps = bench.document.plan.lamps
    two = [lamps[0], next(p for p in lamps if p.part != lamps[0].part)]
    bench.document.select([p.id for p in two])
    bench.settle()
    from gwiazda.desktop.widgets.fields import ChoiceField

    before = bench.document.plan
    for box in bench.window.inspector.panel.findChildren(ChoiceField):
        for index in range(box.count()):
            if box.itemText(index).startswith("several"):
                box.setCurrentIndex(index)
                box.activated.emit(index)
    assert bench.document.plan is before


# -- text size, recent plans ---------------------------------------------------------------------------------


@pytest.fixture
def usual_size():
    yield
    set_text_percent(100)


def test_text_of_ones_own_size_is_kept(empty, usual_size):
    buttons = {a.text(): a for b in empty.window.findChildren(QToolButton) if b.menu() for m in [b.menu(), *(x.menu() for x in b.menu().actions() if x.menu())] for a in m.actions()}  # fmt: skip
    name = next(t for t in buttons if t.startswith("150"))
    height = empty.window.message.height()
    buttons[name].trigger()
    empty.settle()
    assert text_percent() == 150 and empty.window.message.height() == round(height * 1.5)
    assert str(QSettings().value("text_percent")) == "150"
    next(a for t, a in buttons.items() if t.startswith("100")).trigger()
    assert text_percent() == 100


@pytest.mark.parametrize("value", ["", "junk", 95, None, "1e9", "nan"])
def test_a_size_that_is_none_counts_as_usual(value, usual_size):
    set_text_percent(150)
    try:
        set_text_percent(value)
    except (ValueError, OverflowError):
        pytest.fail("raised")
    assert text_percent() == 100 and scaled(10.0) == 10 and 90 in TEXT_SIZES


def test_recent_plans_are_newest_first_and_only_those_there(empty, tmp_path):
    places = [tmp_path / f"{k}.gwiazda" for k in "abc"]
    for place in places:
        assert empty.document.save(place)
        recent.add(place)
    assert recent.paths()[:3] == places[::-1]
    recent.add(places[0])
    places[2].unlink()
    assert recent.paths()[:2] == [places[0], places[1]]
    empty.window.recent_menu.aboutToShow.emit()
    names = [a.text() for a in empty.window.recent_menu.actions()]
    assert names[:2] == ["a.gwiazda", "b.gwiazda"]
    empty.window.recent_menu.actions()[1].trigger()
    assert empty.document.path == places[1]


# -- own things and the start ---------------------------------------------------------------------------------


def test_a_paint_kept_from_the_window_is_there_next_time(empty, tmp_path):
    from gwiazda.core.colour.swatch import Swatch
    from gwiazda.core.workshop.own import with_swatch

    assert empty.document.load_workshop(tmp_path) == ()
    workshop, new_id = with_swatch(empty.document.workshop, "Hull blue", Swatch(1.2, 0.05, 1.0, ()), 0.2)
    empty.document.change_workshop(workshop)
    assert new_id in empty.document.catalogue.coats and new_id in load_workshop(tmp_path)[0].coats


def test_the_demo_starts_paints_and_ends(tmp_path):
    """The real start, as a process of its own: workshop, window, first picture, and out again by the close of a window."""
    script = (
        "import sys\nfrom PySide6.QtCore import QTimer\nimport gwiazda.desktop.shell.window as w\n"
        "made = w.MainWindow.__init__\n"
        "def init(self, *a):\n    made(self, *a)\n    self.plate.first_painted.connect(lambda: QTimer.singleShot(300, self.close))\n"
        "w.MainWindow.__init__ = init\n"
        "from gwiazda.desktop.shell.application import run\nsys.exit(run(sys.argv[1], as_demo=True))\n"
    )
    env = {**os.environ, "GWIAZDA_MARK_FIRST_FRAME": "1", "XDG_DATA_HOME": str(tmp_path)}
    folder = tmp_path / "gwiazda"
    folder.mkdir()
    (folder / "coats.json").write_text("{")
    done = subprocess.run([sys.executable, "-c", script, str(path_of())], capture_output=True, text=True, env=env, timeout=120, check=False)  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert "painted" in done.stdout and (folder / "coats.unreadable-1.json").exists()


def test_a_drawing_that_is_not_plain_comes_as_a_picture_from_a_process_of_its_own():
    from PySide6.QtGui import QImage

    from gwiazda.desktop.svg_trial import Shown, shown

    head = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 90 30">'
    assert shown(head + b'<rect width="9" height="9"/></svg>', wait=False) == Shown(True)
    tiled = (
        head
        + b'<defs><pattern id="p" width="2" height="2"><rect width="1" height="1"/></pattern></defs><rect width="9" height="9" fill="url(#p)"/></svg>'
    )
    found = shown(tiled, wait=True)
    assert found is not None and not found.plain and found.size == (90.0, 30.0)
    picture = QImage.fromData(found.png)
    assert (picture.width(), picture.height()) == (3000, 1000)
    # A tile's corner is black, between the tiles nothing is.
    assert picture.pixelColor(10, 10).alpha() == 255 and picture.pixelColor(50, 50).alpha() == 0
    bomb = head + b'<g id="a"><use href="#a"/></g></svg>'
    assert not shown(bomb, wait=True)


def test_a_view_shows_the_picture_of_a_drawing_that_is_not_plain():
    from gwiazda.core.plan.model import Drawing, View
    from gwiazda.desktop.plate.sheet import Window, drawing_area, render_drawing
    from gwiazda.desktop.svg_trial import shown

    masked = (
        b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><mask id="m"><rect width="20" height="20" fill="#fff"/></mask>'
        b'<rect width="40" height="20" fill="#c00" mask="url(#m)"/></svg>'
    )
    view = View(id="v", name="V", side="port", drawing=Drawing(picture="m.svg", mm_per_unit=1.0, origin=(0.0, 0.0)))
    assert (drawing_area(view, masked).width(), drawing_area(view, masked).height()) == (40.0, 20.0)  # at once
    assert shown(masked, wait=True)
    image = render_drawing(view, {"m.svg": masked}, Window(80, 40, 0.0, 0.0, 2.0))
    assert image is not None
    assert image.pixelColor(10, 20).red() > 150 and image.pixelColor(70, 20).alpha() == 0


def test_a_lamp_that_comes_to_no_resistor_shows_in_the_inspector(bench):
    lamp = bench.document.plan.lamps[0]
    assert isinstance(lamp, Lamp)
    bench.document.edit("Dim supply", lambda plan: plan)
    from gwiazda.core.plan import edits

    bench.document.edit("One cell", lambda plan: edits.set_supply(plan, part="aa-alkaline", in_series=1))
    bench.document.select([lamp.id])
    bench.settle()
    assert bench.window.inspector.panel.isVisible()


def test_a_fault_anywhere_is_said_once(bench, monkeypatch):
    from gwiazda.desktop.shell.application import say_faults

    heard = []
    monkeypatch.setattr(sys, "excepthook", lambda *args: heard.append(args[0]))
    say_faults(bench.window)
    before = bench.document.plan
    for _ in range(3):
        sys.excepthook(ZeroDivisionError, ZeroDivisionError("x"), None)
    bench.bot.waitUntil(lambda: bool(bench.window.message.text))
    assert heard == [ZeroDivisionError] * 3
    assert "ZeroDivisionError" in bench.window.message.text and "as it was" in bench.window.message.text
    assert bench.document.plan is before


@pytest.mark.parametrize(
    "wanted",
    [Wanted(cd_m2=3000.0), Wanted(mcd=25_000.0), Wanted(current_ma=1200.0), Wanted(cd_m2=0.012), Wanted(mcd=2.4)],
)
def test_what_a_field_shows_it_reads_again(wanted):
    shown = wanted_text(NIGHT, Lamp(id="x", part="chip-0603-red", at=(0.0, 0.0, 0.0), wanted=wanted))
    assert "e+" not in shown and read_wanted(shown) == wanted


def test_a_plan_that_was_saved_and_closed_opens_with_its_figures(empty, tmp_path, monkeypatch):
    from gwiazda.core.assess.kept import same_figures

    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    window, document = empty.window, empty.document
    assert document.open(path_of("perkoz"))
    lamp = document.plan.lamps[0].id
    document.edit("Move", lambda plan: edits.move(plan, (lamp,), (0.5, 0.0, 0.0)))
    path = tmp_path / "mine.gwiazda"
    assert document.save(path)
    empty.settle(night=False)
    recent.leave(window)
    asked = []
    monkeypatch.setattr("gwiazda.desktop.document.first_look", lambda *_: asked.append(1))
    before = document.assessment
    assert document.open(path) and asked == []
    assert same_figures(document.assessment, before)
    monkeypatch.undo()  # the next plan is looked at again
