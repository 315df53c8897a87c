"""The Animate station in a window, by mouse and keys."""

from __future__ import annotations

import csv
import time

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from decks import deck_plan
from gwiazda.core.effect.score import levels
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Chase, Flashes, Pulse, Stages
from gwiazda.core.plan.storage import PlanFile, load
from gwiazda.demos import path_of
from gwiazda.desktop.stations.animate import player as playing
from gwiazda.desktop.theme.sizes import text_factor

LAMPS = [f"deck1.lamp.{k:02d}" for k in range(1, 6)]


@pytest.fixture
def deck(empty):
    empty.document.take_file(PlanFile(deck_plan(windows=6, lamps=5)), None)
    empty.window.set_station("animate")
    empty.settle()
    empty.window.drawer.grab()
    return empty


def drag(bench, start: QPointF, end: QPointF, keys=Qt.KeyboardModifier.NoModifier) -> None:
    """A drag on the drawer, in steps, places in units of 100 % text."""
    drawer, k = bench.window.drawer, text_factor()
    bench.bot.mousePress(drawer, Qt.MouseButton.LeftButton, keys, (start * k).toPoint())
    for step in range(1, 6):
        at = (start + (end - start) * (step / 5)) * k
        event = QMouseEvent(
            QEvent.Type.MouseMove, at, QPointF(drawer.mapToGlobal(at)), Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, keys
        )  # fmt: skip
        QApplication.sendEvent(drawer, event)
    bench.bot.mouseRelease(drawer, Qt.MouseButton.LeftButton, keys, (end * k).toPoint())
    bench.settle()
    drawer.grab()


def bar_of(bench, cue: str):
    bench.window.drawer.grab()
    return next(b.rect for b in bench.window.drawer.bars if b.cue == cue)


def start_up(bench) -> str:
    """Five lamps picked, a start-up chosen on their card: a channel each and one cue."""
    bench.document.select(LAMPS)
    bench.settle()
    bench.choose("Ready pattern", "Start-up")
    bench.settle()
    bench.window.drawer.grab()
    return bench.document.plan.cues[0].id


def test_an_empty_plan_says_what_to_do_first(empty):
    empty.bot.keyClick(empty.window, "7")
    empty.settle()
    assert empty.window.station == "animate" and "no channel yet" in empty.window.drawer.subtitle()
    empty.window.drawer.grab()
    empty.window.drawer.setFocus()
    empty.bot.keyClick(empty.window.drawer, Qt.Key.Key_Space)
    assert not empty.window.drawer.player.playing and "Nothing moves yet" in empty.window.message.text
    empty.bot.keyClick(empty.window.drawer, Qt.Key.Key_Return)
    assert "Pick lamps" in empty.window.message.text and empty.document.plan.cues == ()


def test_a_start_up_in_five_stages(deck, tmp_path):
    """Made, seen, dragged, played, taken out as a cue sheet and taken in again; undone to the plan it began with."""
    document, drawer = deck.document, deck.window.drawer
    before = document.plan
    cue_id = start_up(deck)
    cue = document.plan.cues[0]
    assert isinstance(cue.does, Stages) and len(cue.channels) == 5 and document.selection == (cue_id,)
    assert [next(p.channel for p in document.plan.lamps if p.id == i) for i in LAMPS] == list(cue.channels)
    deck.type_into("A step", "0.8 s")
    deck.type_into("Fades in", "200 ms")
    deck.settle()
    assert document.plan.cues[0].does == Stages(step_s=0.8, fade_s=0.2)

    # Dragged a second later, and as one step that can be undone.
    bar = bar_of(deck, cue_id)
    one_s = drawer.time_x(1.0) - drawer.time_x(0.0)
    drag(deck, QPointF(bar.left() + 30, bar.center().y()), QPointF(bar.left() + 30 + one_s, bar.center().y()))
    assert document.plan.cues[0].start_s == pytest.approx(1.0, abs=0.06) and document.undo_label == "Move cue"
    document.undo()
    assert document.plan.cues[0].start_s == 0.0
    deck.settle()

    # Played: the night side gets brighter stage by stage, and the plan is as it was.
    plan = document.plan
    drawer.setFocus()
    deck.bot.keyClick(drawer, Qt.Key.Key_Home)
    deck.bot.keyClick(drawer, Qt.Key.Key_Space)
    assert drawer.player.playing and drawer.play_button.accessibleName() == "Pause"
    lit = []
    for _ in range(5):
        drawer.player.step(0.8)
        lit.append(sum(w > 0.99 for c, w in deck.plate.night.weights.items() if c in cue.channels))
    deck.bot.keyClick(drawer, Qt.Key.Key_Space)
    assert lit == [1, 2, 3, 4, 5] and not drawer.player.playing and document.plan is plan
    assert deck.plate.night_note.startswith("at ")

    path = tmp_path / "cues.csv"
    deck.window.files.write_export("show", path)
    assert "Written" in deck.window.message.text
    rows = list(csv.DictReader(path.open()))
    assert rows[0]["pattern"] == "stages" and len(rows[0]["channels"].split("; ")) == 5
    document.edit("Delete", lambda p: edits.delete(p, [cue_id]))
    assert document.plan.cues == ()
    deck.window.files.take_in_cues(path)
    assert [(c.channels, c.does, c.start_s) for c in document.plan.cues] == [
        (cue.channels, Stages(step_s=0.8, fade_s=0.2), 0.0)
    ]

    saved = tmp_path / "show.gwiazda"
    assert document.save(saved) and load(saved).plan == document.plan
    while document.undo_label:
        document.undo()
    assert document.plan == before
    deck.settle()


def test_a_cue_is_stretched_repeated_copied_and_nudged(deck):
    document, drawer = deck.document, deck.window.drawer
    document.select(LAMPS[:1])
    deck.settle()
    deck.choose("Ready pattern", "Steady")
    deck.settle()
    cue_id = document.plan.cues[0].id
    deck.type_into("Lasts", "2")
    deck.settle()
    bar = bar_of(deck, cue_id)
    one_s = drawer.time_x(1.0) - drawer.time_x(0.0)
    drag(deck, QPointF(bar.right() - 1, bar.center().y()), QPointF(bar.right() + one_s, bar.center().y()))
    assert document.plan.cues[0].length_s == pytest.approx(3.0, abs=0.06) and document.undo_label == "Stretch cue"
    bar = bar_of(deck, cue_id)
    drag(deck, QPointF(bar.right() - 1, bar.center().y()), QPointF(bar.right() + one_s, bar.center().y()), Qt.KeyboardModifier.ShiftModifier)  # fmt: skip
    assert document.plan.cues[0].again_s == pytest.approx(4.0, abs=0.06) and document.undo_label == "Repeat cue"
    assert len([b for b in drawer.bars if b.cue == cue_id]) >= 2, "it is seen as often as it comes"
    document.undo()
    deck.settle()
    bar = bar_of(deck, cue_id)
    drag(deck, bar.center(), bar.center() + QPointF(4 * one_s, 0), Qt.KeyboardModifier.ControlModifier)
    assert [c.start_s for c in document.plan.cues] == [0.0, pytest.approx(4.0, abs=0.06)]
    drawer.setFocus()
    document.select([cue_id])
    deck.bot.keyClick(drawer, Qt.Key.Key_Right)
    deck.bot.keyClick(drawer, Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    assert document.plan.cues[0].start_s == pytest.approx(0.1)
    deck.bot.keyClick(drawer, Qt.Key.Key_Delete)
    assert len(document.plan.cues) == 1
    deck.settle()


def test_space_loops_and_halves_the_speed_and_a_cue_is_doubled_behind_itself(deck):
    cue_id = start_up(deck)
    drawer, document = deck.window.drawer, deck.document
    drawer.setFocus()
    deck.bot.keyClick(drawer, Qt.Key.Key_Space, Qt.KeyboardModifier.ShiftModifier)
    deck.bot.keyClick(drawer, Qt.Key.Key_Space, Qt.KeyboardModifier.ControlModifier)
    assert not drawer.player.loop and drawer.player.speed == 0.5 and deck.window.station == "animate"
    drawer.player.play()
    drawer.player.step(1.0)
    assert drawer.player.at_s == pytest.approx(0.5)
    drawer.player.step(1000.0)
    assert drawer.player.at_s == drawer.player.end_s and not drawer.player.playing
    document.edit("x", lambda p: edits.set_cue(p, cue_id, length_s=5.0))
    document.select([cue_id])
    deck.settle()
    deck.bot.keyClick(drawer, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)
    assert [c.start_s for c in document.plan.cues] == [0.0, 5.0] and document.selection == (document.plan.cues[1].id,)
    deck.settle()


def test_channels_are_picked_by_their_names_several_at_once(deck):
    start_up(deck)
    drawer, document = deck.window.drawer, deck.document
    names = [s.id for s in drawer.channels()]

    def click(row, keys=Qt.KeyboardModifier.NoModifier):
        drawer.grab()
        at = QPointF(40.0, drawer._plot.top() + (row + 0.5) * drawer._tall) * text_factor()
        deck.bot.mouseClick(drawer, Qt.MouseButton.LeftButton, keys, at.toPoint())

    click(1)
    assert document.selection == (names[1],)
    click(3, Qt.KeyboardModifier.ShiftModifier)
    assert set(document.selection) == set(names[1:4])
    click(2, Qt.KeyboardModifier.ControlModifier)
    assert set(document.selection) == {names[1], names[3]}
    deck.settle()
    deck.choose("Ready pattern", "Fire")
    assert set(document.plan.cues[-1].channels) == {names[1], names[3]}
    deck.settle()


def test_phase_is_dragged_with_alt(deck):
    document = deck.document
    document.select(LAMPS[:2])
    deck.settle()
    deck.choose("Ready pattern", "Throb between")
    deck.settle()
    cue = document.plan.cues[0]
    assert isinstance(cue.does, Pulse) and cue.does.lag == 0.5 and len(cue.channels) == 2
    bar, drawer = bar_of(deck, cue.id), deck.window.drawer
    quarter = (drawer.time_x(1.0) - drawer.time_x(0.0)) * cue.does.period_s / 4
    drag(deck, bar.center(), bar.center() + QPointF(quarter, 0), Qt.KeyboardModifier.AltModifier)
    assert document.plan.cues[0].does.phase == pytest.approx(0.75, abs=0.01) and document.undo_label == "Shift phase"


def test_bad_values_are_said_and_lose_nothing(deck):
    start_up(deck)
    plan = deck.document.plan
    deck.type_into("A step", "0")
    assert "out of range" in deck.window.message.text and deck.document.plan is plan
    deck.type_into("A step", "soon")
    assert deck.document.plan is plan
    deck.choose("Pattern", "steps")
    deck.settle()
    deck.type_into("Steps", "0: 0, 2: 50, 1: 100")
    assert "step 3 is at 1 s" in deck.window.message.text
    deck.type_into("Steps", "0: 0, 2: 50 %, 3: 100")
    assert deck.document.plan.cues[0].does.levels == (0.0, 0.5, 1.0)


def test_a_rate_may_be_typed_for_a_period(deck):
    deck.document.select(LAMPS[:1])
    deck.settle()
    deck.choose("Ready pattern", "Indicators")
    deck.settle()
    deck.type_into("Period", "120 /min")
    assert deck.document.plan.cues[0].does.period_s == pytest.approx(0.5)
    deck.type_into("Period", "4 Hz")
    assert deck.document.plan.cues[0].does.period_s == pytest.approx(0.25)


def test_it_never_starts_by_itself_and_warns_of_fast_flashing(deck):
    document, drawer = deck.document, deck.window.drawer
    document.select(LAMPS)
    deck.settle()
    deck.press("One channel")
    document.edit("x", lambda p: edits.add_cue(p, [p.channels[0].id], Flashes(period_s=0.1, count=1, on_s=0.03))[0])
    deck.settle()
    assert "flashing" in {f.rule for f in document.findings} and not drawer.player.playing
    drawer.setFocus()
    deck.bot.keyClick(drawer, Qt.Key.Key_Space)
    assert not drawer.player.playing and "photosensitive" in deck.window.message.text
    deck.bot.keyClick(drawer, Qt.Key.Key_Space)
    assert drawer.player.playing
    deck.window.set_station("light")
    assert not drawer.player.playing and deck.plate.night_note == "" and not deck.plate.night.weights


def test_a_board_is_proposed_and_taken(deck):
    document = deck.document
    start_up(deck)
    document.select(())
    deck.settle()
    deck.press("Controller, 5 V")
    assert [c.output for c in document.plan.channels] == [1, 2, 3, 4, 5] and document.plan.boards[
        0
    ].part == "controller-5v"
    assert set(edits.outputs_of_channels(document.plan)) == {c.id for c in document.plan.channels}
    assert "no-output" not in {f.rule for f in document.findings}
    document.undo()
    assert document.plan.boards == () and edits.outputs_of_channels(document.plan) == {}
    deck.settle()


def test_the_boards_card_follows_another_assessment_with_nothing_picked(shipped):
    """Assessments hold arrays: two of them are told apart by identity."""
    shipped.document.open(path_of("bryla"), as_demo=True)
    shipped.window.set_station("animate")
    shipped.settle()
    cue = shipped.document.plan.cues[1].id
    for k in range(3):
        shipped.document.edit("x", lambda p, k=k: edits.set_pattern(p, cue, period_s=2.0 + k))
        shipped.settle()
    shipped.document.open(path_of("perkoz"), as_demo=True)
    shipped.settle()
    assert "2 channels move" in shipped.part("ShowCard").words.text()


def test_channels_boards_and_triggers_have_cards(deck):
    document = deck.document
    cue_id = start_up(deck)
    first = document.plan.channels[0].id
    document.select([first])
    deck.settle()
    deck.choose("Board", "new: Flasher, 4")
    deck.settle()
    assert document.plan.channels[0].output == 1
    assert {"cannot-dim", "not-its-program"} & {f.rule for f in document.findings}
    deck.type_into("Name of the channel", "Bow")
    assert document.plan.channels[0].name == "Bow"
    document.select([document.plan.boards[0].id])
    deck.settle()
    deck.choose("Kind of board", "Timer, CMOS")
    deck.settle()
    deck.type_into("R1", "10k")
    deck.type_into("R2", "47k")
    deck.type_into("Capacitor", "10")
    deck.settle()
    assert "1.39 Hz" in deck.part("TimerCard").rate.text()
    document.select([cue_id])
    deck.settle()
    deck.choose("Started by", "a new magnet")
    deck.settle()
    trigger = document.plan.triggers[0]
    assert document.plan.cues[0].trigger == trigger.id and trigger.at_s == (2.0,)
    document.select([trigger.id])
    deck.settle()
    deck.type_into("Comes at", "3, 1")
    assert document.plan.triggers[0].at_s == (1.0, 3.0)
    deck.press("Delete it and its cues")
    assert document.plan.triggers == () and document.plan.cues == ()


def test_the_night_side_shows_the_moment_scrubbed_to(deck):
    drawer, night = deck.window.drawer, deck.plate.night
    start_up(deck)
    drawer.grab()
    ruler = QPointF(drawer.time_x(0.5), drawer._plot.top() - 8)
    drag(deck, ruler, QPointF(drawer.time_x(4.5), ruler.y()))
    assert drawer.player.at_s == pytest.approx(4.5, abs=0.1)
    bright = night.image.copy()
    drawer.player.go_to(0.2)
    assert night.image != bright
    channels = deck.document.plan.cues[0].channels
    expected = levels(deck.document.assessment.effects.score, [0.2])[0][:5, 0]
    assert [night.weights[c] for c in channels] == pytest.approx(expected.tolist())
    deck.bot.keyClick(drawer, Qt.Key.Key_Escape)
    assert not night.weights and deck.plate.night_note == ""


def test_the_drawer_grows_and_shows_the_current(shipped):
    shipped.document.open(path_of("bryla"), as_demo=True)
    shipped.window.set_station("animate")
    shipped.settle()
    drawer = shipped.window.drawer
    small = drawer.grab()
    shipped.window.toggle_drawer()
    shipped.settle()
    assert drawer.grab().height() > small.height() and len(drawer.channels()) == len(shipped.document.plan.channels)
    names = [text for _, item, text in drawer.places if item == "cores"]
    assert names and "on average" in names[0] and "output 1" in names[0]
    shipped.window.toggle_drawer()


def test_any_keys_and_clicks_leave_a_plan_that_saves(deck, tmp_path):
    start_up(deck)
    drawer = deck.window.drawer
    drawer.setFocus()
    rng = np.random.default_rng(5)
    keys = [Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Plus, Qt.Key.Key_Minus,
            Qt.Key.Key_L, Qt.Key.Key_H, Qt.Key.Key_Home]  # fmt: skip
    for _ in range(60):
        deck.bot.keyClick(drawer, keys[rng.integers(len(keys))], Qt.KeyboardModifier.ShiftModifier if rng.random() < 0.3 else Qt.KeyboardModifier.NoModifier)  # fmt: skip
        if rng.random() < 0.3:
            at = QPointF(rng.uniform(10, drawer.width() / text_factor() - 10), rng.uniform(36, drawer.high - 6))
            drag(deck, at, QPointF(rng.uniform(10, 700), at.y()))
    deck.settle()
    path = tmp_path / "x.gwiazda"
    assert deck.document.save(path) and load(path).plan == deck.document.plan


def test_a_moving_picture_is_written_and_can_be_stopped(deck, tmp_path):
    deck.document.select(LAMPS)
    deck.settle()
    deck.choose("Ready pattern", "Chase, one")
    assert isinstance(deck.document.plan.cues[0].does, Chase)
    for name in ("a.gif", "a.png"):
        path = tmp_path / name
        deck.window.files.write_export("moving", path, seconds=0.6)
        job = deck.window.files.writing
        deck.bot.waitUntil(lambda job=job: not job.running, timeout=60_000)
        deck.settle()
        assert "Written" in deck.window.message.text
        with Image.open(path) as picture:
            assert picture.size == (960, 480) and picture.n_frames >= 4
            picture.seek(picture.n_frames - 1)
            assert np.asarray(picture.convert("RGB")).max() > 60
    stopped = tmp_path / "b.gif"
    deck.window.files.write_export("moving", stopped, seconds=60.0)
    job = deck.window.files.writing
    time.sleep(0.05)
    job.stop()
    deck.bot.waitUntil(lambda: not job.running, timeout=60_000)
    deck.settle()
    assert not stopped.exists() and "stopped" in deck.window.message.text
    deck.window.files.write_export("moving", tmp_path / "c.webm", seconds=1.0)
    deck.bot.waitUntil(lambda: not deck.window.files.writing.running, timeout=60_000)
    deck.settle()
    assert "can't be written as" in deck.window.message.text


def test_a_hitch_does_not_make_the_show_jump(deck):
    start_up(deck)
    player = deck.window.drawer.player
    player.play()
    player._before = time.perf_counter() - 30.0
    player._tick()
    assert player.at_s <= playing.LONGEST_S + 0.1
    player.pause()
