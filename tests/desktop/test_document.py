"""Document and worker without a window."""

from __future__ import annotations

import threading
import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Kit, Plan, copy_unchecked, new_plan
from gwiazda.core.plan.storage import PlanFile
from gwiazda.desktop.document import Document
from gwiazda.desktop.worker import NewestWins


@pytest.fixture
def document(qapp):
    made = Document()
    made.take_file(PlanFile(deck_plan()), None)
    yield made
    made.close()


def test_history_goes_back_and_forth(document):
    start = document.plan
    document.edit("one", lambda p: edits.set_kit(p, name="One"))
    document.edit("two", lambda p: edits.set_kit(p, name="Two"))
    two = document.plan
    document.undo()
    document.undo()
    assert document.plan is start and document.redo_label == "one"
    document.redo()
    document.redo()
    assert document.plan is two
    document.undo()
    document.edit("three", lambda p: edits.set_kit(p, name="Three"))
    assert document.redo_label == ""


def test_an_edit_that_changes_nothing_is_no_step(document):
    document.edit("nothing", lambda p: edits.set_kit(p, name=p.kit.name))
    assert document.undo_label == "" and not document.dirty


def test_a_refused_edit_is_said_and_changes_nothing(document, qtbot):
    before = document.plan
    with qtbot.waitSignal(document.message) as heard:
        assert not document.edit("bad", lambda p: edits.set_kit(p, scale="1:0"))
    assert "scale" in heard.args[0] and heard.args[1] == "stop" and document.plan is before


def test_previews_collapse_into_one_step(document):
    start = document.plan
    for i in range(1, 6):
        document.preview(edits.move(start, ["deck1.lamp.01"], (i, 0, 0)))
    assert document.undo_label == ""
    document.commit("Move")
    document.undo()
    assert document.plan is start and document.undo_label == ""


def test_the_newest_assessment_wins(document, qtbot):
    for i in range(30):
        document.edit("x", lambda p, i=i: edits.set_kit(p, name=f"n{i}"))
    qtbot.waitUntil(lambda: document.settled, timeout=10_000)
    assert document.assessed_plan is document.plan


def test_selection_drops_what_is_gone(document):
    document.select(["deck1.lamp.01", "deck1.lamp.01", "deck1.window.02"])
    assert document.selection == ("deck1.lamp.01", "deck1.window.02")
    document.edit("Delete", lambda p: edits.delete(p, ["deck1.lamp.01"]))
    assert document.selection == ("deck1.window.02",)


def test_save_and_open_again(document, tmp_path):
    path = tmp_path / "d.gwiazda"
    document.edit("one", lambda p: edits.set_kit(p, name="One"))
    assert document.dirty and document.save(path) and not document.dirty
    other = document.plan
    document.new()
    assert document.plan == new_plan() and document.open(path) and document.plan == other
    assert not document.open(tmp_path / "missing.gwiazda")
    assert document.plan == other


@given(st.lists(st.sampled_from(["edit", "undo", "redo"]), max_size=25))
def test_any_walk_through_history_keeps_its_order(steps):
    document = Document()
    try:
        past, future, now = [], [], document.plan
        for i, step in enumerate(steps):
            if step == "edit":
                document.edit("e", lambda p, i=i: copy_unchecked(p, kit=Kit(name=f"k{i}")))
                past, future, now = [*past, now], [], document.plan
            elif step == "undo":
                document.undo()
                if past:
                    future, now, past = [now, *future], past[-1], past[:-1]
            else:
                document.redo()
                if future:
                    past, now, future = [*past, now], future[0], future[1:]
            assert document.plan is now
    finally:
        document.close()


def test_worker_drops_what_is_outdated_and_reports_failures(qtbot):
    worker = NewestWins("test")
    gate = threading.Event()
    results, failures = [], []
    worker.done.connect(results.append)
    worker.failed.connect(failures.append)
    worker.submit(lambda: (gate.wait(5), "first")[1])
    qtbot.wait(30)
    for i in range(20):
        worker.submit(lambda i=i: f"job {i}")
    gate.set()
    qtbot.waitUntil(lambda: worker.idle and len(results) == 2, timeout=5_000)
    assert results == ["first", "job 19"]
    worker.submit(lambda: 1 / 0)
    qtbot.waitUntil(lambda: bool(failures), timeout=5_000)
    assert "ZeroDivisionError" in failures[0]
    worker.close()
    worker.close()


def test_what_is_reckoned_of_a_closed_plan_comes_too_late(qtbot):
    """A plan opened while another is still being assessed keeps its own figures."""
    document = Document()
    document.take_file(PlanFile(deck_plan(lamps=5)), None)
    document.edit("Move", lambda p: edits.move(p, ["deck1.lamp.01"], (5.0, 0.0, 0.0)))
    document.take_file(PlanFile(deck_plan(lamps=2)), None)
    qtbot.waitUntil(lambda: document.settled, timeout=20_000)
    qtbot.wait(300)
    assert document.assessed_plan is document.plan and len(document.assessment.lamps) == 2
    document.close()


@pytest.mark.parametrize("calm", [True, False])
@pytest.mark.parametrize("ends", ["committed", "reverted", "undone"])
def test_the_figures_after_a_drag_are_those_of_the_plan_it_ended_with(qtbot, ends, calm):
    """While dragged they come now and then; those of the end come whatever was under way."""
    document = Document()
    document.take_file(PlanFile(deck_plan(lamps=3)), None)
    seen: list[Plan] = []
    document.assessed.connect(lambda: seen.append(document.assessed_plan))
    lamp = document.plan.lamps[0]
    start = document.plan
    for k in range(60):
        at = (lamp.at[0] + 0.1 * (k + 1), *lamp.at[1:])
        document.preview(edits.set_fields(document.drag_start, [lamp.id], at=at), calm)
        qtbot.wait(5)
    last = document.plan
    if ends == "reverted":
        document.revert()
    else:
        document.commit("Move")
        if ends == "undone":
            document.undo()
    qtbot.waitUntil(lambda: document.settled, timeout=20_000)
    assert document.assessed_plan is (last if ends == "committed" else start)
    assert any(p not in (start, last) for p in seen[:-1])  # the figures changed while it was dragged
    document.close()


def test_figures_that_arrive_after_one_has_gone_back_are_not_left_standing(document, qtbot):
    """The figures of a plan are done and not yet taken when it is undone: those of the plan before follow."""
    start = document.plan
    qtbot.waitUntil(lambda: document.settled, timeout=20_000)  # kept figures of the same plan are worked out anew
    document.try_out(lambda plan: edits.move(plan, ["deck1.lamp.01"], (5.0, 0.0, 0.0)))
    while not document._worker.idle:
        time.sleep(0.005)
    document.end_trial()
    assert document.plan is start
    qtbot.wait(50)
    qtbot.waitUntil(lambda: document.settled, timeout=20_000)
    assert document.assessed_plan is start
