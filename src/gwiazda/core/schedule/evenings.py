"""Steps laid into evenings: one pair of hands, and waiting is free.

List scheduling (Graham 1966): whenever the hands are free, of what can be done the step with the longest tail behind it comes
first. What doesn't fit into what is left of an evening lets a shorter one go before; a step longer than a whole evening is
begun with one and goes on the next.
"""

from __future__ import annotations

import heapq
import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.schedule.graph import Task, in_order, tails

DAY_MIN = 1440.0
NO_END_DAYS = 3650


class Evening(NamedTuple):
    """Time for the bench: minutes of the clock since the first midnight."""

    begins_min: float
    ends_min: float

    @property
    def day(self) -> int:
        """Days since the first midnight."""
        return int(self.begins_min // DAY_MIN)


class Laid(NamedTuple):
    """A step in its time: when the hands begin and end, and when it is done with, drying and all; minutes of the clock.

    ``pieces``: the evenings it is worked at (begin, end).
    """

    key: str
    begins_min: float
    ends_min: float
    done_min: float
    pieces: tuple[tuple[float, float], ...]


def evenings(days: Sequence[bool], begins_h: float, hours: float, count: int = NO_END_DAYS) -> tuple[Evening, ...]:
    """Evenings by the days of the week that are free, the first day's weekday first; so many days on.

    Parameters
    ----------
    days : Sequence[bool]
        Whether each day of the week is free (7,), the first day's weekday first.
    begins_h : float
        Hour of the day they begin, h.
    hours : float
        Length of an evening, h.
    count : int
        How many days.

    Returns
    -------
    tuple[Evening, ...]
        The evenings, rising.
    """
    out = []
    for day in range(count):
        if days[day % 7]:
            at = day * DAY_MIN + begins_h * 60.0
            out.append(Evening(at, at + hours * 60.0))
    return tuple(out)


def laid(tasks: Sequence[Task], free: Sequence[Evening], done: Mapping[str, float] | None = None) -> tuple[Laid, ...]:
    """Steps in their time, in the order the hands come to them.

    Parameters
    ----------
    tasks : sequence of Task
    free : sequence of Evening, rising
    done : mapping, optional
        Steps that are done, and since which minute they may be built upon.

    Returns
    -------
    tuple of Laid
        Each step with its begin and end, min.

    Raises
    ------
    PlanError
        When steps need each other in a circle.

    Notes
    -----
    What doesn't fit into the evenings given is left out of the answer.
    """
    tail = tails(tasks)
    place = {key: k for k, key in enumerate(in_order(tasks))}
    by_key = {t.key: t for t in tasks}
    ended: dict[str, float] = dict(done or {})
    left = {t.key: sum(n in by_key and n not in ended for n in set(t.needs)) for t in tasks if t.key not in ended}
    after: dict[str, list[str]] = {}
    for key, needed in ((t.key, n) for t in tasks for n in set(t.needs)):
        after.setdefault(needed, []).append(key)

    def opens(key: str) -> float:
        t = by_key[key]
        return max([t.earliest_min, *(ended[n] for n in t.needs if n in ended)])

    # What all is ready for, by when it may begin; of those that may, the one with the longest tail.
    waiting = [(opens(k), k) for k, n in left.items() if n == 0]
    heapq.heapify(waiting)
    ready: list[tuple[float, int, str]] = []
    out: list[Laid] = []
    k, now = 0, free[0].begins_min if free else 0.0
    while (waiting or ready) and k < len(free):
        evening = free[k]
        now = max(now, evening.begins_min)
        while waiting and waiting[0][0] <= now + 1e-9:
            key = heapq.heappop(waiting)[1]
            heapq.heappush(ready, (-tail[key], place[key], key))
        if not ready and waiting[0][0] >= evening.ends_min:
            k += 1
            continue
        if not ready:
            now = waiting[0][0]
            continue
        # Longer than any evening: begun when one begins, or when nothing else fits.
        least = _longest(free) if now <= evening.begins_min + 1e-9 else math.inf
        chosen = _first_that_fits(ready, by_key, evening.ends_min - now, least)
        if chosen is None:
            if waiting and waiting[0][0] < evening.ends_min:
                now = max(now, waiting[0][0])
                continue
            k += 1
            continue
        pieces, k, now = _worked(by_key[chosen].minutes, free, k, now)
        if pieces is None:
            break
        done_at = now + by_key[chosen].wait_min
        ended[chosen] = done_at
        out.append(Laid(chosen, pieces[0][0], pieces[-1][1], done_at, tuple(pieces)))
        for following in (f for f in after.get(chosen, ()) if f in left):
            left[following] -= 1
            if left[following] == 0 and following not in ended:
                heapq.heappush(waiting, (opens(following), following))
    return tuple(out)


def _first_that_fits(
    ready: list[tuple[float, int, str]], by_key: Mapping[str, Task], room: float, least: float
) -> str | None:
    """Taken out of ``ready``: the first that takes no more than ``room`` minutes, or more than ``least``."""
    aside, chosen = [], None
    while ready and chosen is None:
        entry = heapq.heappop(ready)
        minutes = by_key[entry[2]].minutes
        if minutes <= room + 1e-9 or minutes > least:
            chosen = entry[2]
        else:
            aside.append(entry)
    for entry in aside:
        heapq.heappush(ready, entry)
    return chosen


def _longest(free: Sequence[Evening]) -> float:
    return max((e.ends_min - e.begins_min for e in free[:14]), default=0.0)


def _worked(
    minutes: float, free: Sequence[Evening], k: int, now: float
) -> tuple[list[tuple[float, float]] | None, int, float]:
    """The evenings that a step is worked at from ``now`` on; None where they come to an end before it does."""
    pieces: list[tuple[float, float]] = []
    rest = minutes
    while True:
        end = min(now + rest, free[k].ends_min)
        pieces.append((now, end))
        rest -= end - now
        if rest <= 1e-9:
            return pieces, k, end
        k += 1
        if k >= len(free):
            return None, k, end
        now = free[k].begins_min


def tonight(tasks: Sequence[Task], done: Mapping[str, float], now_min: float, minutes: float) -> tuple[str, ...]:
    """What can be done in so many minutes from now on.

    Of what is ready, those with the longest tails that fit, one after the other; where nothing is left to do while
    something dries, what follows once it has, if that is still tonight.

    Parameters
    ----------
    tasks : Sequence[Task]
        All steps.
    done : Mapping[str, float]
        Minute at which each finished step was finished, by key.
    now_min : float
        Now, min.
    minutes : float
        How long the evening still is, min.

    Returns
    -------
    tuple[str, ...]
        Keys in the order to do them.
    """
    tail, by_key = tails(tasks), {t.key: t for t in tasks}
    order = in_order(tasks)
    out: list[str] = []
    ended = dict(done)
    now, left = now_min, minutes
    while True:
        can = [
            key
            for key in order
            if key not in ended
            and by_key[key].earliest_min <= now
            and all(ended.get(n, float("inf")) <= now + 1e-9 for n in by_key[key].needs if n in by_key)
            and by_key[key].minutes <= left + 1e-9
        ]
        if not can:
            turns = (*ended.values(), *(t.earliest_min for t in tasks if t.key not in ended))
            ahead = min((t for t in turns if now + 1e-9 < t < now + left), default=None)
            if ahead is None:
                return tuple(out)
            now, left = ahead, left - (ahead - now)
            continue
        key = max(can, key=lambda k: tail[k])
        out.append(key)
        now, left = now + by_key[key].minutes, left - by_key[key].minutes
        ended[key] = now + by_key[key].wait_min
