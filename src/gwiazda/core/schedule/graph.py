"""Steps with what they need, in an order that can be worked, and the chain that decides how long it takes."""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from graphlib import CycleError, TopologicalSorter
from typing import NamedTuple

from gwiazda.core.errors import PlanError


class Task(NamedTuple):
    """A piece of work: minutes of hands on it, minutes it is left alone afterwards (drying, curing), what must be done before.

    ``earliest_min``: not before this minute of the clock, as what is still to arrive. ``session``: the kind of work that it is done in one go
    with, "" for none; ``again_min``: minutes it is left alone before the next of that kind, where that is another time (the next coat);
    ``set_up_min``: minutes to set up for its session, and to put away after; ``set_up_again_min`` where that was done before the same evening. ``twin``: the same work on its mirror image, done right after it where that is ready.
    """

    key: str
    minutes: float
    wait_min: float
    needs: tuple[str, ...]
    earliest_min: float = 0.0
    session: str = ""
    again_min: float | None = None
    set_up_min: float = 0.0
    set_up_again_min: float = 0.0
    twin: str = ""

    def lag_min(self, following: Task) -> float:
        """Minutes it is left alone before another step.

        Parameters
        ----------
        following : Task
            The step that needs it.

        Returns
        -------
        float
            min.
        """
        same = self.session and self.session == following.session
        return self.wait_min if self.again_min is None or not same else self.again_min


def in_order(tasks: Sequence[Task]) -> tuple[str, ...]:
    """Keys so that each comes after what it needs, otherwise as they are given.

    Parameters
    ----------
    tasks : Sequence[Task]
        All steps.

    Returns
    -------
    tuple[str, ...]
        Keys in an order they can be done in.

    Raises
    ------
    PlanError
        When steps need each other in a circle: named, in the circle's order.
    """
    place = {t.key: k for k, t in enumerate(tasks)}
    sorter = TopologicalSorter({t.key: [n for n in t.needs if n in place] for t in tasks})
    try:
        sorter.prepare()
    except CycleError as error:
        circle = reversed(error.args[1])  # there each is needed by the next
        raise PlanError("Build order", " needs ".join(circle), "steps that don't need each other in a circle") from None
    ready: list[int] = []
    out: list[str] = []
    while sorter.is_active():
        for key in sorter.get_ready():
            heapq.heappush(ready, place[key])
        out.append(tasks[heapq.heappop(ready)].key)
        sorter.done(out[-1])
    return tuple(out)


def _needed_by(tasks: Sequence[Task]) -> dict[str, list[str]]:
    """For each step, those that need it."""
    after: dict[str, list[str]] = {t.key: [] for t in tasks}
    for t in tasks:
        for n in t.needs:
            if n in after:
                after[n].append(t.key)
    return after


def tails(tasks: Sequence[Task]) -> dict[str, float]:
    """Minutes from the beginning of each step to the end of all, if hands and evenings were endless.

    Parameters
    ----------
    tasks : Sequence[Task]
        All steps.

    Returns
    -------
    dict[str, float]
        Minutes by key.
    """
    by_key = {t.key: t for t in tasks}
    out: dict[str, float] = {}
    after = _needed_by(tasks)
    for key in reversed(in_order(tasks)):
        t = by_key[key]
        out[key] = t.minutes + max([t.wait_min, *(t.lag_min(by_key[k]) + out[k] for k in after[key])])
    return out


def critical_path(tasks: Sequence[Task]) -> tuple[str, ...]:
    """The chain of steps, waiting counted, that takes longest: what is late on it makes all late.

    Parameters
    ----------
    tasks : Sequence[Task]
        All steps.

    Returns
    -------
    tuple[str, ...]
        Keys in their order.
    """
    if not tasks:
        return ()
    tail = tails(tasks)
    after = _needed_by(tasks)
    known = set(after)
    by_key = {t.key: t for t in tasks}
    key = max((t.key for t in tasks if not any(n in known for n in t.needs)), key=lambda k: tail[k])
    out = [key]
    while after[key]:
        before = by_key[key]
        key = max(after[key], key=lambda k: before.lag_min(by_key[k]) + tail[k])
        if before.lag_min(by_key[key]) + tail[key] < before.wait_min:
            break  # it dries longer than all that follows takes
        out.append(key)
    return tuple(out)


def generations(tasks: Sequence[Task]) -> dict[str, int]:
    """How many sessions of its own kind at the least come before each step: those of one generation can be done in one go.

    Parameters
    ----------
    tasks : Sequence[Task]
        All steps.

    Returns
    -------
    dict[str, int]
        By key, from 0.
    """
    by_key = {t.key: t for t in tasks}
    deep: dict[str, dict[str, int]] = {}  # of each step, by kind: the generation that a step after it belongs to
    out: dict[str, int] = {}
    for key in in_order(tasks):
        t = by_key[key]
        found: dict[str, int] = {}
        for n in t.needs:
            for kind, at in deep.get(n, {}).items():
                found[kind] = max(found.get(kind, 0), at)
        out[key] = found.get(t.session, 0)
        if t.session:
            found[t.session] = out[key] + 1
        deep[key] = found
    return out
