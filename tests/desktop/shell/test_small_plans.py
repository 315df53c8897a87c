"""A small plan shows a small program: few cards, and those that come when there is something to say."""

from __future__ import annotations

from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.lookup import SMALL, is_small
from gwiazda.core.quick.answer import added
from gwiazda.core.quick.ask import read

STATIONS = ("measure", "light", "block", "fibre", "wire", "power", "animate", "build", "bench")


def asked(plan, words: str):
    return added(plan, read(words, built_in()), (0.0, 0.0, 0.0))


def titles(bench) -> list[str]:
    panel = bench.window.inspector.panel
    return [card.title for card in panel.here if card.title and card.card.isVisibleTo(bench.window)]


def test_three_lamps_show_four_cards_at_most_and_the_rest_behind_one_line(empty):
    made: list[str] = []

    def put(plan):
        plan, ids = asked(plan, "3 white on 9 V")
        made.extend(ids)
        return plan

    empty.document.edit("A circuit", put)
    assert is_small(empty.document.plan)
    for picked in ([], made[:1]):
        empty.document.select(picked)
        for station in STATIONS:
            empty.window.set_station(station)
            empty.settle(night=False)
            assert len(titles(empty)) <= 4, (station, titles(empty))
    empty.window.set_station("wire")
    panel = empty.window.inspector.panel
    assert all(type(c).__name__ != "DimmingCard" for c in panel.here)
    panel.toggle_more()
    dimming = next(c for c in panel.more if type(c).__name__ == "DimmingCard")
    assert dimming.card.is_open, "nothing is lost: one line brings it, open"


def test_as_the_plan_grows_its_cards_come_and_what_was_typed_stays(empty):
    empty.window.set_station("wire")
    empty.document.edit("A circuit", lambda plan: asked(plan, "3 white on 9 V")[0])
    empty.settle(night=False)
    assert "Proposed circuits" not in titles(empty)
    empty.document.edit("More", lambda plan: asked(plan, f"{SMALL} white on 9 V")[0])
    empty.settle(night=False)
    assert "Proposed circuits" in titles(empty) and not is_small(empty.document.plan)
    empty.document.undo()
    empty.settle(night=False)
    assert "Proposed circuits" not in titles(empty)


def test_the_demo_has_them_all(bench):
    bench.window.set_station("bench")
    bench.settle(night=False)
    assert {"Practice", "Variants", "Light by a photo"} <= set(titles(bench))
