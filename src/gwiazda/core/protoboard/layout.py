"""A circuit on a board of holes, and what of it is joined to what: told by its holes, tracks, cuts and links alone.

Sources
-------
[1] Boards of holes 2.54 mm apart with a track along each row, or with a pad at each hole; bodies after common outlines (dual in line with rows
    7.62 mm apart, axial parts lying over three pitches or more or standing over one, radial ones over one or two).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Literal, NamedTuple

PITCH_MM = 2.54
Kind = Literal["strip", "pad"]
Shape = Literal["axial", "diode", "disc", "can", "dip", "to92", "lead"]
Hole = tuple[int, int]  # column, row


class Component(NamedTuple):
    """A part by the nets of its pins in order; "" for a pin that is joined to nothing.

    A diode's first pin is its anode, a can's its plus; ``dip`` counts its pins round from the notch; ``to92`` from left to right with the flat towards
    one; a ``lead`` is a wire that leaves the board.
    """

    ref: str
    value: str
    shape: Shape
    nets: tuple[str, ...]


class Placed(NamedTuple):
    """A part on its holes, one a pin."""

    part: Component
    holes: tuple[Hole, ...]


class Layout(NamedTuple):
    """Parts, cuts and links on a board of so many columns and rows. On strip board a track runs along each row but at its cuts; on pad board ``runs``
    (row, first and last column) are bare wire from pad to pad."""

    kind: Kind
    columns: int
    rows: int
    placed: tuple[Placed, ...]
    cuts: tuple[Hole, ...] = ()
    links: tuple[tuple[Hole, Hole], ...] = ()
    runs: tuple[tuple[int, int, int], ...] = ()

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height of the board with half a pitch round it."""
        return self.columns * PITCH_MM, self.rows * PITCH_MM


class _Sets:
    """What is joined to what."""

    def __init__(self) -> None:
        self.parent: dict[Hole, Hole] = {}

    def root(self, hole: Hole) -> Hole:
        up = self.parent.setdefault(hole, hole)
        while up != self.parent[up]:
            up = self.parent[up]
        self.parent[hole] = up
        return up

    def join(self, a: Hole, b: Hole) -> None:
        self.parent[self.root(a)] = self.root(b)


def joined(layout: Layout) -> frozenset[frozenset[tuple[str, int]]]:
    """Which pins (part, number from 1) are joined, found from the board alone.

    Parameters
    ----------
    layout : Layout
        The board.

    Returns
    -------
    frozenset
        One set of pins for each node that has any.
    """
    sets = _Sets()
    cut = set(layout.cuts)
    if layout.kind == "strip":
        for row in range(layout.rows):
            for column in range(1, layout.columns):
                a, b = (column - 1, row), (column, row)
                if a not in cut and b not in cut:
                    sets.join(a, b)
    for row, first, last in layout.runs:
        for column in range(first + 1, last + 1):
            sets.join((column - 1, row), (column, row))
    for a, b in layout.links:
        sets.join(a, b)
    nodes: dict[Hole, set[tuple[str, int]]] = {}
    for p in layout.placed:
        for number, hole in enumerate(p.holes, 1):
            nodes.setdefault(sets.root(hole), set()).add((p.part.ref, number))
    return frozenset(frozenset(pins) for pins in nodes.values())


def wanted(components: Iterable[Component]) -> frozenset[frozenset[tuple[str, int]]]:
    """Which pins are to be joined: one set for each net, and one for each pin that is joined to nothing.

    Parameters
    ----------
    components : Iterable[Component]
        The netlist.

    Returns
    -------
    frozenset
        As of ``joined``.
    """
    nets: dict[str, set[tuple[str, int]]] = {}
    alone = []
    for c in components:
        for number, net in enumerate(c.nets, 1):
            if net:
                nets.setdefault(net, set()).add((c.ref, number))
            else:
                alone.append(frozenset({(c.ref, number)}))
    return frozenset([*map(frozenset, nets.values()), *alone])


def faults(layout: Layout) -> Iterator[str]:
    """What of a board can't be built: two pins in one hole, a pin in a cut or off the board, a body over another.

    Parameters
    ----------
    layout : Layout
        The board.

    Yields
    ------
    str
        A sentence for each.
    """
    taken: dict[Hole, str] = {}
    for p in layout.placed:
        for hole in p.holes:
            if hole in taken:
                yield f"{p.part.ref} and {taken[hole]} are in one hole"
            if hole in layout.cuts:
                yield f"{p.part.ref} sits in a cut"
            if not (0 <= hole[0] < layout.columns and 0 <= hole[1] < layout.rows):
                yield f"{p.part.ref} is off the board"
            taken[hole] = p.part.ref
    for a, b in layout.links:
        for hole in (a, b):
            if hole in taken:
                yield f"a link and {taken[hole]} are in one hole"
            if hole in layout.cuts:
                yield "a link sits in a cut"
            taken[hole] = "a link"
    bodies: dict[Hole, str] = {}
    for p in layout.placed:
        for cell in body(p):
            if cell in bodies:
                yield f"{p.part.ref} lies over {bodies[cell]}"
            bodies[cell] = p.part.ref
    for a, b in layout.links:
        for cell in between(a, b):
            if cell in bodies:
                yield f"a link lies under {bodies[cell]}"


def between(a: Hole, b: Hole) -> list[Hole]:
    """All holes from one to another in a row or a column.

    Parameters
    ----------
    a, b : Hole
        Two holes of one row or one column.

    Returns
    -------
    list[Hole]
        Both, and those between.
    """
    (x0, x1), (y0, y1) = sorted((a[0], b[0])), sorted((a[1], b[1]))
    return [(x, y) for x in range(x0, x1 + 1) for y in range(y0, y1 + 1)]


def body(placed: Placed) -> list[Hole]:
    """The holes that a part stands over.

    Parameters
    ----------
    placed : Placed
        The part on its holes.

    Returns
    -------
    list[Hole]
        Its own holes among them.
    """
    shape, holes = placed.part.shape, placed.holes
    low = (min(h[0] for h in holes), min(h[1] for h in holes))
    high = (max(h[0] for h in holes), max(h[1] for h in holes))
    if shape == "can":  # its can is wider than its pins are apart
        if low[0] == high[0]:
            low, high = (low[0] - 1, low[1]), (high[0] + 1, high[1])
        else:
            low, high = (low[0], low[1] - 1), (high[0], high[1] + 1)
    return between(low, high)
