"""Building the plan many times from the window: progress, stop, what came of it, and the plan changed meanwhile."""

from __future__ import annotations

import time

import pytest

import gwiazda.desktop.stations.bench.builds as station
from decks import deck_plan
from gwiazda.core.errors import StoppedError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.storage import PlanFile
from gwiazda.core.workbench.builds.coverage import verify_builds
from gwiazda.desktop.longjob import LongJob


@pytest.fixture
def deck(empty, monkeypatch):
    """A small deck, built by this process alone: others take their time to begin."""

    def few(name, plan, catalogue, builds, seed, told):
        return verify_builds(name, plan, catalogue, 20, seed, told, workers=0)

    monkeypatch.setattr(station, "verify_builds", few)
    empty.document.take_file(PlanFile(deck_plan(windows=4, lamps=3)), None)
    empty.window.set_station("bench")
    empty.settle()
    return empty


def test_builds_say_how_many_fell_within_and_that_the_plan_has_changed_since(deck, qtbot):
    card = deck.part("BuildsCard")
    assert "200 models" in card.words.text() and not card.bar.isVisibleTo(deck.window)
    before = deck.document.plan
    deck.press("Build it 200 times")
    qtbot.waitUntil(lambda: deck.part("BuildsCard").verdict is not None, timeout=60_000)
    card = deck.part("BuildsCard")
    assert card.words.text().startswith("20 builds:") and "Windows: <b>" in card.words.text()
    assert card.begin.isEnabled() and deck.document.plan is before, "the plan stays as it is"
    deck.document.edit("Dark", lambda plan: edits.set_room(plan, lux=1.0))
    deck.settle()
    assert "changed since" in deck.part("BuildsCard").words.text()


def test_builds_can_be_stopped(deck, qtbot, monkeypatch):
    def endless(name, plan, catalogue, builds, seed, told):
        while told(0.5):
            time.sleep(0.01)
        raise StoppedError

    monkeypatch.setattr(station, "verify_builds", endless)
    deck.press("Build it 200 times")
    card = deck.part("BuildsCard")
    qtbot.waitUntil(lambda: card.bar.value() == 500, timeout=20_000)
    deck.press("Stop")
    qtbot.waitUntil(card.begin.isEnabled, timeout=20_000)
    assert card.verdict is None and not card.running


def test_a_long_job_that_fails_says_so(qtbot):
    said: list[str] = []
    job = LongJob("The builds", lambda told: 1 / 0)
    job.failed.connect(said.append)
    job.start()
    qtbot.waitUntil(lambda: bool(said), timeout=20_000)
    assert said == ["The builds could not be done (ZeroDivisionError)."]


def test_an_empty_plan_says_that_nothing_has_a_band():
    verdict = verify_builds("none", edits.set_kit(deck_plan(windows=0, lamps=0), name="x"), built_in(), 2, 1, workers=0)
    assert "light something first" in station.words_of(verdict)
