"""Steps with what they need, in an order that can be worked, and the chain that decides how long it takes."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.errors import PlanError


class Task(NamedTuple):
    """A piece of work: minutes of hands on it, minutes it is left alone afterwards (drying, curing), what must be done before.

    ``earliest_min``: not before this minute of the clock, as what is still to arrive.
    """

    key: str
    minutes: float
    wait_min: float
    needs: tuple[str, ...]
    earliest_min: float = 0.0


def in_order(tasks: Sequence[Task]) -> tuple[str, ...]:
    """Keys so that each comes after what it needs, otherwise as they are given.

    Raises
    ------
    PlanError
        When steps need each other in a circle: named, in the circle's order.
    """
    known = {t.key for t in tasks}
    needs = {t.key: [n for n in dict.fromkeys(t.needs) if n in known] for t in tasks}
    left = {key: len(n) for key, n in needs.items()}
    after: dict[str, list[str]] = {t.key: [] for t in tasks}
    for key, wanted in needs.items():
        for n in wanted:
            after[n].append(key)
    place = {t.key: k for k, t in enumerate(tasks)}
    import heapq

    ready = [place[key] for key, n in left.items() if n == 0]
    heapq.heapify(ready)
    out: list[str] = []
    while ready:
        key = tasks[heapq.heappop(ready)].key
        out.append(key)
        for following in after[key]:
            left[following] -= 1
            if left[following] == 0:
                heapq.heappush(ready, place[following])
    if len(out) < len(tasks):
        circle = _circle({k: needs[k] for k in needs if k not in set(out)})
        raise PlanError("Build order", " needs ".join(circle), "steps that don't need each other in a circle")
    return tuple(out)


def _circle(needs: Mapping[str, Iterable[str]]) -> list[str]:
    """Steps of a circle, the first again at the end."""
    key = next(iter(needs))
    seen: dict[str, int] = {}
    path: list[str] = []
    while key not in seen:
        seen[key] = len(path)
        path.append(key)
        key = next(n for n in needs[key] if n in needs)
    return [*path[seen[key] :], key]


def tails(tasks: Sequence[Task]) -> dict[str, float]:
    """Minutes from the beginning of each step to the end of all, if hands and evenings were endless."""
    by_key = {t.key: t for t in tasks}
    out: dict[str, float] = {}
    after: dict[str, list[str]] = {t.key: [] for t in tasks}
    for t in tasks:
        for n in t.needs:
            if n in after:
                after[n].append(t.key)
    for key in reversed(in_order(tasks)):
        own = by_key[key].minutes + by_key[key].wait_min
        out[key] = own + max((out[k] for k in after[key]), default=0.0)
    return out


def critical_path(tasks: Sequence[Task]) -> tuple[str, ...]:
    """The chain of steps, waiting counted, that takes longest: what is late on it makes all late."""
    if not tasks:
        return ()
    tail = tails(tasks)
    after: dict[str, list[str]] = {t.key: [] for t in tasks}
    for t in tasks:
        for n in t.needs:
            if n in after:
                after[n].append(t.key)
    known = set(after)
    key = max((t.key for t in tasks if not any(n in known for n in t.needs)), key=lambda k: tail[k])
    out = [key]
    while after[key]:
        key = max(after[key], key=lambda k: tail[k])
        out.append(key)
    return tuple(out)
