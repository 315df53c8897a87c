"""Work gives way to what shows its picture, and never for good."""

from __future__ import annotations

import threading

from gwiazda.core import turns
from gwiazda.core.memo import memoize


def _worker(steps: list[str], go: threading.Event) -> threading.Thread:
    def work() -> None:
        go.wait(5)
        turns.give_way()
        steps.append("work")

    thread = threading.Thread(target=work)
    thread.start()
    return thread


def test_work_waits_for_the_picture(monkeypatch):
    monkeypatch.setattr(turns, "LONGEST_S", 5.0)
    steps: list[str] = []
    go = threading.Event()
    thread = _worker(steps, go)
    with turns.showing():
        go.set()
        thread.join(0.2)
        assert thread.is_alive()
        steps.append("shown")
    thread.join(5)
    assert steps == ["shown", "work"]


def test_a_picture_that_never_ends_holds_nothing_up():
    go = threading.Event()
    go.set()
    with turns.showing():
        steps: list[str] = []
        _worker(steps, go).join(5)
        assert steps == ["work"]


def test_what_shows_does_not_wait_for_itself_and_may_nest():
    @memoize()
    def double(x: float) -> float:
        return 2 * x

    with turns.showing():
        with turns.showing():
            turns.give_way()
        assert turns._turns.shower == threading.get_ident()  # the inner end is not the end
        assert double(2.0) == 4.0
    assert turns._turns.shower is None and turns._turns.free.is_set()


def test_a_fault_while_showing_lets_the_work_go_on():
    try:
        with turns.showing():
            raise ValueError
    except ValueError:
        pass
    assert turns._turns.shower is None and turns._turns.free.is_set()
