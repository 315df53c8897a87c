"""Steps laid into evenings, in sessions: one pair of hands, work of one kind in one go, and waiting is free.

List scheduling (Graham 1966) with set-ups (as Allahverdi, Ng, Cheng, Kovalyov 2008 survey it): whenever the hands are free, of what can be done the
step with the longest tail behind it comes first, unless more of what is set up can be done, or a session would begin of which more is on
its way. How strongly is tried in a few ways, and the best is kept: late ends and minutes of the hands are weighed against each other. What doesn't fit into what is left of
an evening lets a shorter step go before; a step longer than a whole evening is begun with one and goes on the next.
"""

from __future__ import annotations

import heapq
import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.schedule.graph import Task, generations, in_order, tails

DAY_MIN = 1440.0
NO_END_DAYS = 3650
DAY_WORTH_MIN = 30.0  # of the hands: what a day sooner done is worth
SWITCH_WORTH_MIN = 5.0  # what one session less is worth, besides what is set up for it
IDLE_MIN = 10.0  # hands away from it so long put a session away
# Minutes of tail that staying with what is set up is worth; whether a session is held back for more of its kind: no, while there is something else, or
# as well while it dries.
WAYS = ((0.0, 0), (120.0, 1), (120.0, 2), (1e9, 0), (1e9, 1), (1e9, 2))
FEW_WAYS, MANY = ((1e9, 2), (120.0, 1)), 600  # steps


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

    ``pieces``: the evenings it is worked at (begin, end), what is set up for it counted in: ``set_up_min`` of them.
    """

    key: str
    begins_min: float
    ends_min: float
    done_min: float
    pieces: tuple[tuple[float, float], ...]
    session: str = ""
    set_up_min: float = 0.0


class Session(NamedTuple):
    """Work of one kind in one go: from when to when (min of the clock), minutes to set up and put away, its steps' keys."""

    kind: str
    begins_min: float
    ends_min: float
    set_up_min: float
    keys: tuple[str, ...]


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


class _Work:
    """Steps and all that is known of them before they are laid."""

    def __init__(self, tasks: Sequence[Task], done: Mapping[str, float]) -> None:
        self.tasks, self.done = tasks, dict(done)
        self.by_key = {t.key: t for t in tasks}
        self.tail = tails(tasks)
        self.place = {key: k for k, key in enumerate(in_order(tasks))}
        self.generation = generations(tasks)
        self.needs = {
            t.key: tuple(dict.fromkeys(n for n in t.needs if n in self.by_key or n in self.done)) for t in tasks
        }
        self.after: dict[str, list[str]] = {}
        for key, needed in self.needs.items():
            for n in needed:
                self.after.setdefault(n, []).append(key)


class _Hands:
    """One pair of hands going through the evenings once."""

    def __init__(self, work: _Work, free: Sequence[Evening], longest_min: float, stay_min: float, held: int) -> None:
        self.work, self.free, self.longest = work, free, longest_min
        self.stay, self.held = stay_min, held
        self.ended: dict[str, float] = dict(work.done)  # since when it is done with, for all but the next of its kind
        self.left = {
            t.key: sum(n not in self.ended for n in work.needs[t.key]) for t in work.tasks if t.key not in self.ended
        }
        self.waiting = [(self._opens(k), k) for k, n in self.left.items() if n == 0]
        heapq.heapify(self.waiting)
        self.ready: list[str] = []
        self.coming: dict[str, list[int]] = {}  # by kind: generations of what others must make ready yet
        for key, n in self.left.items():
            if n and (kind := work.by_key[key].session):
                self.coming.setdefault(kind, []).append(work.generation[key])
        self.kind, self.idle_from = "", -math.inf
        self.evening_at, self.evening_ends = -math.inf, -math.inf
        self.seen: dict[str, float] = {}  # by kind: the evening it was last set up in, by its begin
        self.out: list[Laid] = []

    def _opens(self, key: str) -> float:
        """When it may begin."""
        task, by_key = self.work.by_key[key], self.work.by_key
        found = [task.earliest_min]
        for n in self.work.needs[key]:
            before = by_key.get(n)
            off = before.wait_min - before.lag_min(task) if before is not None else 0.0
            found.append(self.ended[n] - off)
        return max(found)

    def _set_up(self, key: str, now: float) -> float:
        """Minutes to set up for a step, and to put away after it."""
        task = self.work.by_key[key]
        tonight_too = self.seen.get(task.session) == self.evening_at
        if not task.session or (tonight_too and task.session == self.kind and now <= self.idle_from + IDLE_MIN):
            return 0.0
        return task.set_up_again_min if tonight_too else task.set_up_min

    def _rank(self, key: str, now: float) -> tuple[int, bool, float, int]:
        """What comes first has the least."""
        task = self.work.by_key[key]
        going = bool(task.session) and not self._set_up(key, now) and task.session == self.kind
        held = bool(self.held and task.session and not going)
        wait_for_more = self._more_comes(task, self.work.generation[key]) if held else 0
        twin = going and bool(task.twin) and bool(self.out) and self.out[-1].key == task.twin
        return wait_for_more, not twin, -self.work.tail[key] - (self.stay if going else 0.0), self.work.place[key]

    def _more_comes(self, task: Task, generation: int) -> int:
        """Whether more of its kind and generation is on its way: 2 dry before the evening is over, 1 made ready by what can be done, 0 none."""
        by_key, mine = self.work.by_key, self.work.generation
        if any(
            by_key[k].session == task.session and mine[k] <= generation
            for at, k in self.waiting
            if at + by_key[k].minutes <= self.evening_ends
        ):
            return 2
        return int(any(g <= generation for g in self.coming.get(task.session, ())))

    def _chosen(self, now: float, evening: Evening) -> str | None:
        """Of what is ready, the first that fits, or is longer than any evening and begins with one."""
        fresh = now <= evening.begins_min + 1e-9
        best: tuple[tuple[int, bool, float, int], str] | None = None
        for key in self.ready:
            minutes = self.work.by_key[key].minutes + self._set_up(key, now)
            if minutes > evening.ends_min - now + 1e-9 and not (fresh and minutes > self.longest + 1e-9):
                continue
            rank = self._rank(key, now)
            if best is None or rank < best[0]:
                best = (rank, key)
        if best is None or (self.held > 1 and best[0][0] > 1):
            return None  # the hands rest until what dries can go along
        return best[1]

    def go(self) -> tuple[Laid, ...]:
        """All evenings, one after another."""
        k, now = 0, self.free[0].begins_min if self.free else 0.0
        while (self.waiting or self.ready) and k < len(self.free):
            evening = self.free[k]
            now = max(now, evening.begins_min)
            self.evening_at, self.evening_ends = evening.begins_min, evening.ends_min
            while self.waiting and self.waiting[0][0] <= now + 1e-9:
                self.ready.append(heapq.heappop(self.waiting)[1])
            chosen = self._chosen(now, evening) if self.ready else None
            if chosen is not None:
                pieces, k, now = self._worked(chosen, k, now)
                if not pieces:
                    break
                self._take(chosen, pieces, now)
            elif self.waiting and self.waiting[0][0] < evening.ends_min - 1e-9:
                now = max(now, self.waiting[0][0])
            else:
                k += 1
        return tuple(self.out)

    def _worked(self, key: str, k: int, now: float) -> tuple[list[tuple[float, float]], int, float]:
        """The evenings that a step is worked at from ``now`` on, what is set up on each of them counted in; none where they come to an end before."""
        task = self.work.by_key[key]
        pieces: list[tuple[float, float]] = []
        rest, set_up = task.minutes, self._set_up(key, now)
        self._set_up_min = 0.0
        while True:
            end = min(now + set_up + rest, self.free[k].ends_min)
            pieces.append((now, end))
            self._set_up_min += min(set_up, end - now)
            rest -= max(end - now - set_up, 0.0)
            if rest <= 1e-9:
                return pieces, k, end
            k += 1
            if k >= len(self.free):
                return [], k, end
            now, set_up = self.free[k].begins_min, task.set_up_min if task.session else 0.0
            self.evening_at = now
            if set_up >= self.free[k].ends_min - now:
                set_up = 0.0  # an evening too short to set up in: it stays as it lies

    def _take(self, key: str, pieces: list[tuple[float, float]], now: float) -> None:
        work = self.work
        task = work.by_key[key]
        self.ready.remove(key)
        self.ended[key] = now + task.wait_min
        set_up = self._set_up_min
        self.out.append(Laid(key, pieces[0][0], pieces[-1][1], self.ended[key], tuple(pieces), task.session, set_up))
        if task.session:
            self.kind = task.session
            self.seen[task.session] = self.evening_at
        self.idle_from = now
        for following in (f for f in work.after.get(key, ()) if f in self.left):
            self.left[following] -= 1
            if self.left[following] == 0 and following not in self.ended:
                heapq.heappush(self.waiting, (self._opens(following), following))
                if kind := work.by_key[following].session:
                    self.coming[kind].remove(work.generation[following])


def laid(
    tasks: Sequence[Task], free: Sequence[Evening], done: Mapping[str, float] | None = None, longest_min: float | None = None,
) -> tuple[Laid, ...]:  # fmt: skip
    """Steps in their time, in the order the hands come to them.

    Parameters
    ----------
    tasks : sequence of Task
        All steps.
    free : sequence of Evening
        When the hands are free, rising.
    done : mapping, optional
        Steps that are done, and since which minute they may be built upon.
    longest_min : float, optional
        What takes longer than this is begun with an evening and goes on the next; the longest of the evenings given.

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
    work = _Work(tasks, done or {})
    longest = _longest(free) if longest_min is None else longest_min
    ways = FEW_WAYS if len(tasks) > MANY else WAYS if any(t.session for t in tasks) else WAYS[:1]
    found = [_Hands(work, free, longest, stay, held).go() for stay, held in ways]
    return min(found, key=price)


def price(found: Sequence[Laid]) -> tuple[int, float]:
    """What a way to lay steps costs: first how many are left out; minutes of the hands with what they set up, and something for each day and each session.

    Parameters
    ----------
    found : Sequence[Laid]
        Steps in their time.

    Returns
    -------
    tuple of int and float
        The less the better.
    """
    hands = math.fsum(b - a for x in found for a, b in x.pieces)
    days = max((x.done_min for x in found), default=0.0) / DAY_MIN
    return -len(found), hands + DAY_WORTH_MIN * days + SWITCH_WORTH_MIN * sum(x.set_up_min > 0.0 for x in found)


def sessions(found: Sequence[Laid]) -> tuple[Session, ...]:
    """What is done in one go: steps of one kind that follow each other in an evening; a step of no kind stands by itself.

    Parameters
    ----------
    found : Sequence[Laid]
        Steps in their time, in the order of the hands.

    Returns
    -------
    tuple[Session, ...]
        In the same order.
    """
    out: list[Session] = []
    going: int | None = None  # the one that is set up
    for x in found:
        before = out[going] if going is not None and x.session and out[going].kind == x.session else None
        if before is not None and not x.set_up_min and x.begins_min <= before.ends_min + DAY_MIN / 4.0:
            out[going] = before._replace(ends_min=x.ends_min, keys=(*before.keys, x.key))  # type: ignore[index]
            continue
        out.append(Session(x.session, x.begins_min, x.ends_min, x.set_up_min, (x.key,)))
        if x.session:
            going = len(out) - 1
    return tuple(out)


def _longest(free: Sequence[Evening]) -> float:
    return max((e.ends_min - e.begins_min for e in free[:14]), default=0.0)


def tonight(
    tasks: Sequence[Task], done: Mapping[str, float], now_min: float, minutes: float
) -> tuple[str, ...]:  # fmt: skip
    """What can be done in so many minutes from now on.

    Of what is ready, those with the longest tails that fit, in sessions; where nothing is left to do while something dries, what follows
    once it has, if that is still tonight.

    Parameters
    ----------
    tasks : Sequence[Task]
        All steps.
    done : Mapping[str, float]
        Minute since which each finished step may be built upon, by key.
    now_min : float
        Now, min.
    minutes : float
        How long the evening still is, min.

    Returns
    -------
    tuple[str, ...]
        Keys in the order to do them.
    """
    return tuple(x.key for x in laid(tasks, (Evening(now_min, now_min + minutes),), done, math.inf))
