"""Opening a plan again: what was kept of it is shown at once, proven, and never believed where it isn't so."""

from __future__ import annotations

import shutil

import pytest

from gwiazda.core.assess import assessment as pipeline
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.kept import same_figures
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.storage import PlanFile, load, save
from gwiazda.core.radiosity.fineness import CELLS, QUICK_CELLS
from gwiazda.demos import path_of
from gwiazda.desktop import appraisal
from gwiazda.desktop.document import Document


@pytest.fixture(autouse=True)
def own_cache(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))


@pytest.fixture
def saved(deck, tmp_path):
    """A plan in a file, and as it is read from there."""
    path = tmp_path / "deck.gwiazda"
    save(PlanFile(deck), path)
    return path, load(path).plan


@pytest.fixture
def opened(qapp):
    made = []

    def open_(path, as_demo=False):
        document = Document()
        made.append(document)
        assert document.open(path, as_demo=as_demo)
        return document

    yield open_
    for document in made:
        document.close()


def settled(qtbot, document):
    qtbot.waitUntil(lambda: document.settled, timeout=30_000)


@pytest.fixture
def counted(monkeypatch):
    asked = []

    def counting(*arguments):
        asked.append(arguments)
        return assess(*arguments)

    monkeypatch.setattr(pipeline, "assess", counting)
    return asked


def test_a_demo_is_there_with_its_figures_before_anything_is_worked_out(opened, qtbot, counted):
    document = opened(path_of(), as_demo=True)
    assert not any(plan is document.plan for plan, *_ in counted)
    assert document.assessment.cells == 420 and document.assessment.sections
    shown = document.assessment
    settled(qtbot, document)
    assert len([1 for plan, *_ in counted if plan is document.plan]) == 1 and document.findings
    assert same_figures(document.assessment, assess(document.plan, built_in()))
    assert document.assessment is shown or not same_figures(shown, document.assessment)


def test_a_plan_opened_once_needs_nothing_the_second_time(opened, qtbot, counted, saved, monkeypatch):
    path, deck = saved
    # As where nothing of it was worked out before, whatever ran before this test.
    monkeypatch.setattr("gwiazda.desktop.document.first_look", lambda *of: appraisal.appraise(*of, QUICK_CELLS))
    settled(qtbot, opened(path))
    counted.clear()
    again = opened(path)
    assert counted == [] and again.assessment.cells == 420
    settled(qtbot, again)
    assert same_figures(again.assessment, assess(deck, built_in())) and again.findings


def test_what_was_kept_wrongly_is_put_right_and_kept_rightly(opened, qtbot, saved, tmp_path):
    path, deck = saved
    fresh = assess(deck, built_in())
    appraisal.keep(deck, fresh._replace(hull_cd_m2=77.0))
    document = opened(path)
    assert document.assessment.hull_cd_m2 == 77.0  # as it was kept
    settled(qtbot, document)
    assert same_figures(document.assessment, fresh)
    kept = appraisal.recall(deck, built_in())
    assert kept is not None and same_figures(kept, fresh)


def test_an_edit_made_at_once_is_not_brought_back_by_the_proof(opened, qtbot):
    document = opened(path_of(), as_demo=True)
    lamp = document.plan.lamps[0].id
    assert document.edit("Move", lambda plan: edits.move(plan, (lamp,), (1.0, 0.0, 0.0)))
    edited = document.plan
    settled(qtbot, document)
    assert document.plan is edited and document.assessed_plan is edited
    assert same_figures(document.assessment, assess(edited, built_in())) and document.findings


def test_a_damaged_file_is_as_good_as_none(opened, qtbot, counted, saved, tmp_path):
    path, deck = saved
    appraisal.keep(deck, assess(deck, built_in()))
    (file,) = (tmp_path / "cache" / "gwiazda" / "figures").iterdir()
    file.write_bytes(file.read_bytes()[:-7])
    document = opened(path)
    assert counted
    settled(qtbot, document)
    assert document.findings and same_figures(document.assessment, assess(deck, built_in()))


def test_a_folder_that_cannot_be_written_loses_nothing(opened, qtbot, saved, tmp_path, monkeypatch):
    path, deck = saved
    (tmp_path / "cache").write_text("in the way")
    appraisal.keep(deck, assess(deck, built_in()))  # on the interface thread too, as a window closes
    monkeypatch.setattr("gwiazda.desktop.document.first_look", lambda *of: appraisal.appraise(*of, QUICK_CELLS))
    document = opened(path)
    said = []
    document.message.connect(lambda words, _: said.append(words))
    settled(qtbot, document)
    assert document.findings and document.assessment.cells == CELLS and said == []
    assert appraisal.recall(deck, built_in()) is None


def test_only_the_newest_are_kept(deck, tmp_path, monkeypatch):
    monkeypatch.setattr(appraisal, "MOST_KEPT", 3)
    fresh = assess(deck, built_in())
    for shift in range(6):
        moved = edits.move(deck, (deck.lamps[0].id,), (0.1 * shift, 0.0, 0.0))
        appraisal.keep(moved, fresh)
    assert len(list((tmp_path / "cache" / "gwiazda" / "figures").iterdir())) == 3


def test_a_copy_of_a_demo_is_known_by_what_is_in_it(opened, counted, tmp_path):
    copy = tmp_path / "another name.gwiazda"
    shutil.copy(path_of("bryla"), copy)
    document = opened(copy)
    assert counted == [] and document.assessment.lamps


def test_the_figures_of_an_unsaved_plan_are_not_kept(opened, qtbot, saved, monkeypatch):
    path, _ = saved
    # A first look, and a close one after it, of every plan: that is when figures are kept.
    monkeypatch.setattr("gwiazda.desktop.document.first_look", lambda *of: appraisal.appraise(*of, QUICK_CELLS))
    document = opened(path)
    settled(qtbot, document)
    assert appraisal.recall(document.plan, built_in()) is not None
    document.edit("Move", lambda plan: edits.move(plan, (plan.lamps[0].id,), (1.0, 0.0, 0.0)))
    settled(qtbot, document)
    assert document.dirty and appraisal.recall(document.plan, built_in()) is None
