"""Work beside the interface: what comes too late brings no older plan back, and nobody waits for it."""

from __future__ import annotations

import threading

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from decks import deck_plan
from gwiazda.core.assess.fibres import sharing
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Dot, Kit, copy_unchecked
from gwiazda.core.plan.storage import PlanFile
from gwiazda.core.turns import give_way
from gwiazda.desktop.document import Document
from gwiazda.desktop.stations.wire import ideas
from gwiazda.desktop.tasks import PlanTask
from gwiazda.desktop.worker import NewestWins


def rename(name):
    return lambda plan: copy_unchecked(plan, kit=copy_unchecked(plan.kit, name=name))


@pytest.fixture
def document(qtbot):
    made = Document()
    yield made
    made.close()


@pytest.fixture
def gate():
    made = threading.Event()
    yield made
    made.set()


def asked(document, gate, value="old"):
    """A task under way for the plan that is open, with what came of it and how often it was dropped."""
    task, done, dropped = PlanTask(document, "test"), [], []
    task.ask(document.plan, lambda: (gate.wait(10), value)[1], done.append, lambda: dropped.append(1))
    return task, done, dropped


def test_a_result_is_taken_while_its_plan_is_the_current_one(document, gate, qtbot):
    task, done, dropped = asked(document, gate)
    gate.set()
    qtbot.waitUntil(lambda: done == ["old"])
    assert task.idle and not dropped


@pytest.mark.parametrize(
    "goes_on", [lambda d: d.edit("Rename", rename("other")), lambda d: d.new(), lambda d: d.take_file(PlanFile(deck_plan()), None)]
)  # fmt: skip
def test_a_result_is_dropped_once_the_plan_has_gone_on(document, gate, qtbot, goes_on):
    task, done, dropped = asked(document, gate)
    goes_on(document)
    gate.set()
    qtbot.waitUntil(lambda: bool(dropped))
    assert task.idle and not done


@pytest.mark.parametrize("ends", ["reverted", "committed"])
def test_while_something_is_dragged_a_result_waits_for_its_plan(document, gate, qtbot, ends):
    task, done, dropped = asked(document, gate)
    document.preview(rename("dragged")(document.plan))
    gate.set()
    qtbot.waitUntil(lambda: task._worker.idle)
    qtbot.wait(50)
    assert not done and not dropped and not task.idle
    document.revert() if ends == "reverted" else document.commit("Move")
    assert (done, dropped) == ((["old"], []) if ends == "reverted" else ([], [1]))


def test_the_newer_question_counts_and_ends_the_older_one(document, gate, qtbot):
    task, done, dropped = asked(document, gate)
    task.ask(document.plan, lambda: "new", done.append)
    gate.set()
    qtbot.waitUntil(lambda: done == ["new"])
    assert not dropped and task.idle


def test_closing_waits_for_no_job_and_ends_it_where_it_gives_way(document, gate, qtbot):
    begun, ended = threading.Event(), threading.Event()

    def job():
        begun.set()
        gate.wait(10)
        try:
            while True:
                give_way()
        finally:
            ended.set()

    worker, heard = NewestWins("test"), []
    worker.done.connect(heard.append)
    worker.failed.connect(heard.append)
    worker.submit(job)
    assert begun.wait(5)
    worker.close()
    assert not ended.is_set(), "closing has come back while the job stands still"
    gate.set()
    assert ended.wait(5)
    qtbot.wait(30)
    assert not heard


def test_a_failed_job_is_said_and_forgotten(document, qtbot):
    task, dropped, said = PlanTask(document, "test", "The sum"), [], []
    document.message.connect(lambda words, kind: said.append((words, kind)))
    task.ask(document.plan, lambda: 1 / 0, lambda value: None, lambda: dropped.append(1))
    qtbot.waitUntil(lambda: bool(said))
    assert said == [("The sum could not be worked out (ZeroDivisionError). The plan is as it was.", "stop")]
    assert dropped == [1] and task.idle


# -- what the stations ask ---------------------------------------------------------------------------------------


def dotted():
    plan = deck_plan(windows=4, lamps=1, supply="adapter-12v-1a")
    face = plan.sections[0].box
    start, end = ((face.at[0] + x, face.at[1], face.at[2] + 4.0) for x in (10.0, 50.0))
    plan, ids = edits.row_of_dots(
        plan, Dot(id="dot", at=start, side="port", section=plan.sections[0].id), start, end, 4, "dot"
    )
    return edits.fibre_lamp(plan, ids, "flat-5-warm-white")[0], ids


@pytest.mark.usefixtures("own_window")
def test_an_edit_between_two_groupings_stays(empty, monkeypatch):
    """The first grouping's result, asked for before an edit, arrives after the second was asked for."""
    plan, ids = dotted()
    plan = edits.set_fields(plan, ids, lamp="")
    empty.document.take_file(PlanFile(plan), None)
    empty.window.set_station("fibre")
    empty.settle()
    gate, real = threading.Event(), sharing.grouped
    monkeypatch.setattr(sharing, "grouped", lambda *a: (gate.wait(10), real(*a))[1])

    def group():
        button = next(b for b in empty.window.inspector.findChildren(QPushButton) if b.text() == "Group the dots")
        empty.bot.mouseClick(button, Qt.MouseButton.LeftButton)

    group()
    empty.document.edit("Rename the kit", lambda p: copy_unchecked(p, kit=Kit(name="Renamed meanwhile")))
    group()
    gate.set()
    empty.settle()
    assert empty.document.plan.kit.name == "Renamed meanwhile"
    assert all(d.lamp for d in empty.document.plan.dots), "the second one, of the plan as it is, was taken"
    empty.document.undo()
    assert empty.document.plan.kit.name == "Renamed meanwhile"


@pytest.mark.usefixtures("own_window")
def test_a_way_to_wire_tried_before_an_edit_is_not_kept_over_it(empty, monkeypatch):
    plan = deck_plan(windows=6, lamps=5, supply="adapter-12v-1a")
    empty.document.take_file(PlanFile(plan), None)
    empty.window.set_station("wire")
    empty.document.select(["deck1.lamp.01", "deck1.lamp.02"])
    empty.settle()
    gate, real = threading.Event(), ideas.tried
    monkeypatch.setattr(ideas, "tried", lambda *a: (gate.wait(10), real(*a))[1])
    card = empty.part("HabitCard")
    card.choice.setCurrentIndex(card.choice.findData("shared"))
    card.choice.activated.emit(card.choice.currentIndex())
    empty.document.edit("Rename the kit", rename("Renamed meanwhile"))
    gate.set()
    empty.settle()
    assert not empty.document.on_trial and card.shown is None, "of an older plan: not shown at all"
    card._keep()
    assert empty.document.plan.kit.name == "Renamed meanwhile" and empty.document.undo_label == "Rename the kit"


@pytest.mark.usefixtures("own_window")
def test_picking_something_else_waits_for_no_simulated_photo(shipped, monkeypatch):
    from gwiazda.desktop.stations.bench import photocard

    shipped.window.set_station("bench")
    shipped.document.select(())
    shipped.settle()
    gate = threading.Event()
    monkeypatch.setattr(photocard, "simulated", lambda *a, **k: gate.wait(30))
    button = next(b for b in shipped.window.inspector.findChildren(QPushButton) if b.text().startswith("Simulated"))
    button.click()
    plan = shipped.document.plan
    shipped.document.select([plan.lamps[0].id])  # would come back after half a minute only
    assert not gate.is_set() and shipped.window.inspector.panel.kind == "lamp"
    gate.set()
    shipped.settle()
    assert shipped.document.plan is plan
