"""A photo read at the bench, by hand: laid on with the mouse and keys, read, logged, taken back, saved."""

from __future__ import annotations

import datetime

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Laid, copy_unchecked
from gwiazda.core.plan.storage import load
from gwiazda.core.render.camera_curve import Curve
from gwiazda.core.render.tone import to_srgb
from gwiazda.core.workbench.photo.camera import simulated
from gwiazda.core.workbench.photo.photocurve import STEPS, reflectance_of
from gwiazda.core.workbench.photo.photos import jpeg_of
from gwiazda.demos import path_of
from gwiazda.desktop.stations.bench.session import session_of


@pytest.fixture
def boat(empty):
    empty.document.clock = lambda: datetime.datetime(2026, 11, 27, 20, 15, 31, 4200)
    empty.document.open(path_of("perkoz"), as_demo=True)
    empty.window.set_station("bench")
    empty.settle()
    return empty


@pytest.fixture
def photo(boat, tmp_path):
    """A photo file as from a camera, and where its marks belong."""
    document = boat.document
    shot = simulated(document.plan, document.assessment, "port", 7, leaks=3, width=1300, stray_px=0.0)
    path = tmp_path / "lit.jpg"
    path.write_bytes(jpeg_of(shot.code))
    return path, shot


def laid(boat) -> Laid:
    return next(e.laid for e in boat.document.plan.log if e.photo)


def drag(drawer, start: QPointF, end: QPointF) -> None:
    QTest.mousePress(drawer, Qt.MouseButton.LeftButton, pos=start.toPoint())
    QTest.mouseMove(drawer, ((start + end) / 2).toPoint())
    QTest.mouseMove(drawer, end.toPoint())
    drawer.grab()  # the loupe
    QTest.mouseRelease(drawer, Qt.MouseButton.LeftButton, pos=end.toPoint())


def test_a_photo_is_laid_on_by_mouse_and_keys_read_logged_and_kept(boat, photo, tmp_path):
    path, shot = photo
    boat.part("LogCard").take_photo(path)
    card, drawer = boat.part("PhotoCard"), boat.window.drawer
    assert "Lock exposure" in card.words.text() and not card.keep.isEnabled()
    card.which.setCurrentIndex(1)
    card.which.activated.emit(1)
    boat.settle()
    drawer.grab()
    page = drawer.page
    assert [m.on for m in laid(boat).marks] == [
        m.on for m in shot.laid.marks
    ] and boat.document.undo_label == "Lay the photo on the view"
    for k, m in enumerate(shot.laid.marks):
        drag(drawer, page._px(page.spots()[k]), page._px(m.at))
    boat.settle()
    drawer.setFocus()
    first = laid(boat).marks[0].at
    page.focus = 0
    QTest.keyClick(drawer, Qt.Key.Key_Period)
    assert page.focus == 1
    before = laid(boat).marks[1].at
    QTest.keyClick(drawer, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    boat.settle()
    assert laid(boat).marks[1].at[0] == pytest.approx(before[0] + 1 / 1300) and laid(boat).marks[0].at == first
    shown = card.session.shot
    assert shown is not None and not card.session.shot_fault
    assert "100 % of them within 10 %" in card.words.text() and len(shown.leaks) == len(shot.planted) == 3
    drawer.grab()
    pane = shown.told[0]
    words = next(text for _, item, text in drawer.places if item == pane.id and "read" in text)
    assert "predicted" in words and "3 leaks" in drawer.subtitle()
    boat.window.plate.grab()
    boat.press("Log it")
    entries = boat.document.plan.log
    assert entries[0].text.startswith("lit | ") and "3 leaks, 3 not predicted" in entries[0].text
    assert [e.kind for e in entries[1:]] == ["leak"] * 3 and all(
        "seen from port" in e.text and e.section for e in entries[1:]
    )
    file = tmp_path / "b.gwiazda"
    assert boat.document.save(file)
    again = load(file)
    assert again.plan == boat.document.plan and entries[0].photo in again.pictures
    boat.document.undo()
    assert len(boat.document.plan.log) == 1
    boat.press("Put away")
    boat.settle()
    assert card.session.photo_entry is None and "Lock exposure" in card.words.text()
    assert drawer.needs == type(drawer).needs


def test_another_side_a_grey_patch_and_what_cant_be_read(boat, tmp_path):
    path = tmp_path / "small.jpg"
    path.write_bytes(jpeg_of(simulated(boat.document.plan, boat.document.assessment, "port", 7, width=640).code))
    boat.part("LogCard").take_photo(path)
    card = boat.part("PhotoCard")
    entry = boat.document.plan.log[0]
    card.session.read(entry.id)
    boat.settle()
    card.side.setCurrentIndex(card.side.findData("bow"))
    card.side.activated.emit(card.side.currentIndex())
    boat.settle()
    assert laid(boat).side == "bow" or "fewer than two" in boat.window.message.text
    boat.document.undo()
    boat.settle()
    assert laid(boat).side == "port"
    boat.type_into("Light on the grey patch", "40 lx")
    boat.settle()
    assert laid(boat).grey_lux == 40.0 and "grey" in boat.window.drawer.page.names()
    assert card.session.shot is None or card.session.shot.absolute or card.session.shot_fault
    boat.type_into("Light on the grey patch", "bright")
    assert laid(boat).grey_lux == 40.0
    field = boat.field("Light on the grey patch")
    field.selectAll()
    boat.bot.keyClick(field, Qt.Key.Key_Backspace)
    boat.bot.keyClick(field, Qt.Key.Key_Return)
    boat.settle()
    assert laid(boat).grey_lux is None
    while boat.document.plan.log:
        boat.document.undo()
    boat.settle()
    assert card.session.photo_entry is None, "its entry is gone"
    boat.window.drawer.grab()


def test_a_simulated_photo_to_try_it_with(boat):
    card = boat.part("PhotoCard")
    boat.press("Simulated")
    boat.settle()
    boat.settle()
    assert card.session.shot is not None and len(card.session.shot.told) >= 10
    assert (
        boat.document.plan.log[0].text == "Simulated photo of this plan"
        and boat.document.undo_label == "Simulated photo"
    )
    boat.document.undo()
    boat.settle()
    assert boat.document.plan.log == () and card.session.photo_entry is None


def test_an_empty_plan_says_what_a_photo_needs(empty):
    empty.window.set_station("bench")
    empty.settle()
    empty.press("Simulated")
    empty.settle()
    assert "fewer than two" in empty.window.message.text and empty.document.plan.log == ()


def read_first(boat) -> None:
    card = boat.part("PhotoCard")
    card.which.setCurrentIndex(1)
    card.which.activated.emit(1)
    boat.settle()


def test_what_a_photo_says_is_kept_in_the_log_and_taught(boat, photo):
    """The marks where they belong; what is logged is each opening over what the house said of it."""
    path, shot = photo
    boat.part("LogCard").take_photo(path)
    read_first(boat)
    entry = boat.document.plan.log[-1]
    boat.document.edit("Lay it on", lambda plan: edits.lay_photo(plan, entry.id, shot.laid))
    boat.settle()
    boat.press("Log it")
    boat.settle()
    told = next(e for e in boat.document.plan.log if e.photo).told
    assert len(told) >= 8 and all(0.7 < t.ratio < 1.4 and t.sigma <= 0.12 for t in told)
    assert boat.part("LearnCard").lesson.moved, "and it is learned from"


def test_a_photo_of_the_grey_card_tells_the_curve_that_others_are_read_by(boat, photo, tmp_path):
    path, shot = photo
    boat.part("LogCard").take_photo(path)
    first = boat.document.plan.log[-1].id
    boat.document.edit("Lay it on", lambda plan: edits.lay_photo(plan, first, shot.laid))
    card_at = tmp_path / "card.jpg"
    card_at.write_bytes(jpeg_of(grey_card()))
    boat.part("LogCard").take_photo(card_at)
    read_first(boat)
    card, page = boat.part("PhotoCard"), boat.window.drawer.page
    boat.choose("What the photo shows", "Printed grey card")
    boat.settle()
    assert page.names() == ["white patch", "black patch"] and not card.side.isEnabled()
    boat.window.drawer.grab()
    page.press(page._px(page.spots()[1]))
    page.move(page._px((0.85, 0.5)))
    page.release()
    page.press(page._px(page.spots()[0]))
    page.move(page._px((0.15, 0.5)))
    page.release()
    boat.settle()
    assert "curve is told" in boat.part("PhotoCard").words.text()
    boat.press("Use it")
    boat.settle()
    curve = next(e.laid.curve for e in boat.document.plan.log if e.id == first)
    assert curve is not None and curve[0] > 0
    session_of(boat.document).read(first)
    boat.settle()
    assert session_of(boat.document).shot.camera.curve == Curve(*curve)
    boat.document.undo()
    boat.settle()
    assert next(e.laid.curve for e in boat.document.plan.log if e.id == first) is None


def test_a_photo_of_several_exposures_is_refused_and_an_exposure_is_typed(boat, photo):
    path, _ = photo
    boat.part("LogCard").take_photo(path)
    read_first(boat)
    entry = boat.document.plan.log[-1]
    boat.type_into("Exposure of the photo", "1/8")
    boat.settle()
    assert boat.document.plan.log[-1].exposure == pytest.approx(0.125)
    boat.type_into("Exposure of the photo", "quick")
    assert boat.document.plan.log[-1].exposure == pytest.approx(0.125), "nonsense changes nothing"
    merged = tuple(copy_unchecked(e, merged=True) if e.id == entry.id else e for e in boat.document.plan.log)
    boat.document.edit("As a camera says", lambda plan: copy_unchecked(plan, log=merged))
    boat.settle()
    assert "HDR or night mode" in boat.part("PhotoCard").words.text() and session_of(boat.document).shot is None


def grey_card():
    """A plain camera's photo of the card: patches side by side in even light."""
    light = np.full((200, 1000), reflectance_of(0.0))
    for n, black in enumerate(STEPS):
        light[60:140, 100 + 100 * n : 200 + 100 * n] = reflectance_of(black)
    return np.repeat((to_srgb(light)[..., None] * 255.0 + 0.5).astype(np.uint8), 3, axis=2)
