"""The way of each wire over rooms and the passages between them, with no passage fuller than it may be.

Passages are edges between rooms. What is long or full is dear: every wire takes the cheapest way, what is too full gets dearer
round by round, and wires give way until nothing is too full or no round helps any more [1]. A wire for which there is no other
way stays where it is: the passage is then too full, and said to be.

Sources
-------
[1] L. McMurchie, C. Ebeling, "PathFinder: a negotiation-based performance-driven router for FPGAs", Proc. FPGA '95.
[2] E. W. Dijkstra, "A note on two problems in connexion with graphs", Numer. Math. 1 (1959). Twenty lines here: a library of
    graphs takes a third of a second to load, and the first picture of a plan waits for its loom.
"""

from __future__ import annotations

import heapq
import itertools
import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

Place = tuple[float, float, float]
Node = tuple[str, str]
START: Node = ("", "")
LIMIT = 0.60  # share of a passage's clear area that wires may fill
ROUNDS, PATIENCE = 12, 4
NOTHING: frozenset[str] = frozenset()
FIRST_MM, GROWTH = 20.0, 1.6  # what an over-full passage costs more, and how that grows


class Way(NamedTuple):
    """A passage between two rooms ("" is outside): its middle, its length, its clear area (mm²)."""

    id: str
    a: str
    b: str
    at: Place
    length_mm: float
    area_mm2: float


class Run(NamedTuple):
    """Something that has to go from one place to another: rooms, places, and its outer area (mm²)."""

    id: str
    start: str
    end: str
    start_at: Place
    end_at: Place | None
    area_mm2: float


class Routed(NamedTuple):
    """The passages of each run, in order (None where there is no way), its length along them (mm), and the area in each."""

    through: Mapping[str, tuple[str, ...] | None]
    length_mm: Mapping[str, float]
    filled_mm2: Mapping[str, float]


def length_of(run: Run, ways: Sequence[Way]) -> float:
    """Length (mm) of a run through passages: straight from place to place, and each passage's own length.

    Parameters
    ----------
    run : Run
        Where it starts and ends, mm.
    ways : Sequence[Way]
        The passages it goes through, in order.

    Returns
    -------
    float
        Length, mm.
    """
    points = [run.start_at, *(w.at for w in ways)]
    if run.end_at is not None:
        points.append(run.end_at)
    return sum(math.dist(p, q) for p, q in itertools.pairwise(points)) + sum(w.length_mm for w in ways)


def route(
    ways: Sequence[Way], runs: Sequence[Run], limit: float = LIMIT, taken_mm2: Mapping[str, float] | None = None
) -> Routed:
    """Ways for runs, no passage filled beyond ``limit`` of its area where that can be helped.

    ``taken_mm2`` is what lies in passages already, whatever comes; it counts among what fills them.

    Parameters
    ----------
    ways : Sequence[Way]
        All passages.
    runs : Sequence[Run]
        What is to be laid, with its own area.
    limit : float
        Share of a passage's area that may be filled, 0 to 1.
    taken_mm2 : Mapping[str, float] or None
        Area of what lies in each passage already, mm².

    Returns
    -------
    Routed
        The passages of each run, and what couldn't be kept.
    """
    by_id = {w.id: w for w in ways}
    graph = _Graph(ways)
    room = {w.id: limit * w.area_mm2 + 1e-12 for w in ways}
    dear = dict.fromkeys(by_id, 0.0)
    through: dict[str, tuple[str, ...] | None] = {}
    filled = {i: (taken_mm2 or {}).get(i, 0.0) for i in by_id}
    best: tuple[float, float, dict[str, tuple[str, ...] | None], dict[str, float]] | None = None
    step, idle = FIRST_MM, 0
    no_choice = not _has_rings(ways)
    # What comes again round by round is worked out once: how far a run is from the passages of its room, how long its ways are.
    near = {r.id: graph.near(r) for r in runs}
    long_mm: dict[tuple[str, tuple[str, ...] | None], float] = {}

    def length(run: Run, found: tuple[str, ...] | None) -> float:
        key = run.id, found
        if key not in long_mm:
            long_mm[key] = length_of(run, [by_id[i] for i in found or ()])
        return long_mm[key]

    for _ in range(ROUNDS):
        trees: dict[tuple[object, ...], _Tree] = {}
        for run in runs:
            for i in through.get(run.id) or ():
                filled[i] -= run.area_mm2
            full = frozenset(i for i in by_id if filled[i] + run.area_mm2 > room[i]) if not no_choice else NOTHING
            key = (run.end, run.end_at, full)
            if key not in trees:
                extra = {i: dear[i] + (step if i in full else 0.0) for i in by_id}
                trees[key] = graph.tree(run.end, run.end_at, extra)
            found = through[run.id] = trees[key].way(run.start, near[run.id])
            for i in found or ():
                filled[i] += run.area_mm2
        over = {i: filled[i] - room[i] for i in by_id if filled[i] > room[i]}
        long = sum(length(r, through[r.id]) for r in runs)
        score = (sum(over.values()), long)
        if best is None or score < best[:2]:
            best, idle = (*score, dict(through), dict(filled)), 0
        else:
            idle += 1
        if not over or no_choice or idle >= PATIENCE:
            break
        for i in over:
            dear[i] += step
        step *= GROWTH
    if best is None:
        return Routed({}, {}, filled)
    _, _, chosen, areas = best
    lengths = {r.id: length(r, chosen[r.id]) for r in runs}
    return Routed(chosen, lengths, {i: max(v, 0.0) for i, v in areas.items()})


def _has_rings(ways: Sequence[Way]) -> bool:
    """Whether there is more than one way between any two rooms; where there isn't, no round changes anything."""
    over: dict[str, str] = {}

    def top(room: str) -> str:
        while over.setdefault(room, room) != room:
            room = over[room]
        return room

    for w in ways:
        a, b = top(w.a), top(w.b)
        if a == b:
            return True
        over[a] = b
    return False


class _Tree:
    """The cheapest ways from everywhere to one end."""

    def __init__(self, end: str, cost: Mapping[Node, float], on: Mapping[Node, Node]) -> None:
        self.end, self.cost, self.on = end, cost, on

    def way(self, start: str, near: Sequence[tuple[float, Node]]) -> tuple[str, ...] | None:
        """The passages of the cheapest way, none where both ends are in one room, None where there is no way."""
        if start == self.end:
            return ()
        nodes = [(mm + self.cost[node], node) for mm, node in near if node in self.cost]
        if not nodes:
            return None
        path: list[Node] = []
        node = min(nodes)[1]
        while node != START:
            path.append(node)
            node = self.on[node]
        return tuple(u[0] for u, v in itertools.pairwise(path) if u[0] == v[0])


class _Graph:
    """The sides of passages as nodes, joined through each passage and where passages meet in a room."""

    def __init__(self, ways: Sequence[Way]) -> None:
        self.rooms: dict[str, list[Way]] = {}
        for w in ways:
            for room in (w.a, w.b):
                self.rooms.setdefault(room, []).append(w)
        # From each side of a passage: through it (named, for that may be dearer), and to the passages of the same room.
        self.steps: dict[Node, list[tuple[Node, str, float]]] = {}
        for w in ways:
            for here, there in ((w.a, w.b), (w.b, w.a)):
                out = self.steps.setdefault((w.id, here), [])
                out.append(((w.id, there), w.id, w.length_mm))
                out += [((v.id, here), "", math.dist(w.at, v.at)) for v in self.rooms[here] if v.id != w.id]

    def near(self, run: Run) -> list[tuple[float, Node]]:
        """The passages of the room a run starts in, and how far they are, mm."""
        return [(math.dist(run.start_at, w.at), (w.id, run.start)) for w in self.rooms.get(run.start, ())]

    def tree(self, end: str, end_at: Place | None, extra: Mapping[str, float]) -> _Tree:
        """The cheapest ways to a place in a room [2], passages being dearer by ``extra`` (mm). What is dear one way is so the other."""
        heap: list[tuple[float, Node, Node]] = [
            (math.dist(w.at, end_at) if end_at is not None else 0.0, (w.id, end), START)
            for w in self.rooms.get(end, ())
        ]
        heapq.heapify(heap)
        cost: dict[Node, float] = {}
        on: dict[Node, Node] = {}
        while heap:
            far, node, back = heapq.heappop(heap)
            if node in cost:
                continue
            cost[node], on[node] = far, back
            for near, passage, mm in self.steps[node]:
                if near not in cost:
                    heapq.heappush(heap, (far + mm + (extra[passage] if passage else 0.0), near, node))
        return _Tree(end, cost, on)
