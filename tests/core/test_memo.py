"""The one memo: exact, bounded, the same for all threads."""

from __future__ import annotations

import threading
import time
from typing import NamedTuple

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.memo import memoize, same_figures, same_value


def counted(**settings):
    calls = []

    @memoize(**settings)
    def double(a, b=()):
        calls.append(a)
        return [a, b]

    return double, calls


def test_the_very_same_arguments_give_the_very_same_value():
    double, calls = counted(slots=2)
    a = (1.5, "x")
    assert double(a) is double(a) and len(calls) == 1
    assert double((a[0], a[1])) is double(a), "a tuple of the very same entries"
    assert double(([],)) is not double(([],)), "equal is not the same"


@given(st.lists(st.integers(0, 6), max_size=40))
def test_it_never_answers_for_another_and_never_grows(asked):
    things = [object() for _ in range(7)]
    double, _ = counted(slots=3)
    for k in asked:
        assert double(things[k])[0] is things[k] and len(double) <= 3


def test_what_is_asked_for_moves_to_the_front():
    double, calls = counted(slots=2)
    a, b, c = object(), object(), object()
    for x in (a, b, a, c, a):
        double(x)
    assert calls == [a, b, c], "b fell off, a did not"
    double(b)
    assert calls[-1] is b


def test_places_are_bounded_too():
    double, _ = counted(slots=1, by=lambda a, b=(): b, places=2)
    things = [object() for _ in range(3)]
    for place in ("x", "y", "z"):
        for t in things:
            double(t, place)
    assert len(double) == 2 and double.peek(things[2], "z") is not None and double.peek(things[2], "x") is None
    double.clear()
    assert len(double) == 0


def test_threads_get_one_value():
    made = []

    @memoize(slots=2)
    def slow(a):
        time.sleep(0.01)
        made.append(a)
        return object()

    key, found = object(), []
    threads = [threading.Thread(target=lambda: found.append(slow(key))) for _ in range(8)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert len(found) == 8 and len({id(x) for x in found}) == 1


def test_values_may_count_as_the_same_by_what_they_hold():
    assert same_value((1, "a", np.arange(3)), (1, "a", np.arange(3)))
    assert not same_value((1, np.arange(3)), (1, np.arange(4)))
    assert not same_value(1, 1.0) and not same_value([1], [1])


def test_a_stage_value_in_another_counts_by_identity():
    """What a named tuple holds is not looked through: an equal copy deep inside is another value."""

    class Inner(NamedTuple):
        values: tuple[int, ...]

    class Outer(NamedTuple):
        name: str
        inner: Inner
        light: np.ndarray

    inner = Inner((1, 2))
    assert same_value(Outer("a", inner, np.ones(3)), Outer("a", inner, np.ones(3)))
    assert not same_value(Outer("a", inner, np.ones(3)), Outer("a", inner, np.zeros(3)))
    assert not same_value(Outer("a", inner, np.ones(3)), Outer("a", Inner((1, 2)), np.ones(3)))
    assert same_figures((1.0, 2.0), (1.0, 2.0)) and not same_figures((1.0, 2.0), (1.0, 2.5))
    assert not same_figures((1.0,), 1.0)


def test_what_no_plan_opened_lately_asks_for_is_forgotten():
    """Closed plans hold nothing: what is asked for again in each generation stays, the rest goes after some."""
    from gwiazda.core.memo import KEPT_GENERATIONS, new_generation

    double, calls = counted(slots=2, by=lambda a, b=(): a[0], places=10)
    kept, closed = ("kept",), ("closed",)
    double(kept), double(closed)
    for _ in range(KEPT_GENERATIONS + 1):
        new_generation()
        double(kept)
    assert double.peek(closed) is None and double.peek(kept) is not None and calls == [kept, closed]
    soon = ("soon",)
    double(soon)
    for _ in range(KEPT_GENERATIONS - 1):
        new_generation()
    assert double.peek(soon) is not None, "opened again soon it is warm"


def test_named_tuples_of_figures_hold_no_arrays():
    from gwiazda.core.assess.states import LampState, OpeningState, SupplyState
    from gwiazda.core.memo import _may_hold

    assert not _may_hold(LampState) and not _may_hold(OpeningState) and not _may_hold(float)
    assert _may_hold(SupplyState) and _may_hold(np.ndarray) and _may_hold(tuple) and _may_hold(dict)
    made = memoize(slots=1)(lambda k: (OpeningState("o", "s", 1.0), np.zeros(2)))(object())
    assert not made[1].flags.writeable


def test_what_gathers_leaves_its_parts_as_others_keep_them():
    part = memoize(slots=2)(lambda k: np.zeros(3))
    whole = memoize(slots=2, gathers=True)(lambda k: {"a": part(k)})
    key = object()
    made = whole(key)
    assert made["a"] is part(key) and not made["a"].flags.writeable and whole(key) is made and whole._bytes == 0
