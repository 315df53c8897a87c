"""From the tree of what hangs on a feed to the solver's elements, and back: which column is whose current."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.circuit.sizing import CONTACT_OHM, FUSE_V, HungLamp, Sizing
from gwiazda.core.assess.circuit.sources import SourceState
from gwiazda.core.circuit import network as solver
from gwiazda.core.memo import kept
from gwiazda.core.plan.model import Fuse, Hangs, Hung, Parallel, Resistor, Series, Switch

Array = npt.NDArray[np.float64]
OPEN_OHM = 1e12  # of an open switch: no current that anything here could tell from none
PLUS, MINUS = "plus", "0"


class Netlist(NamedTuple):
    """Elements between the rails, the source left to ``solve``; the column of each lamp and of each part of the tree.

    A lamp's current counts from its anode on, whichever way round it hangs. Lamps on their own that are alike in all,
    resistor included, are one branch that stands for them side by side: ``alike`` says of each column for how many.
    """

    elements: tuple[solver.Element, ...]
    lamps: Mapping[str, int]
    parts: Mapping[str, int]
    alike: tuple[int, ...] = ()


class _Builder:
    def __init__(self, lamps: Mapping[str, HungLamp], sizings: Mapping[str, Sizing]) -> None:
        self.given, self.sizings = lamps, sizings
        self.elements: list[solver.Element] = []
        self.lamps: dict[str, int] = {}
        self.parts: dict[str, int] = {}
        self._nodes = 0

    def node(self) -> str:
        self._nodes += 1
        return f"n{self._nodes}"

    def resistor(self, name: str, a: str, b: str, ohm: float) -> None:
        self.parts[name] = len(self.elements)
        self.elements.append(solver.Resistor(f"r.{name}", a, b, ohm))

    def lamp(self, lamp_id: str, a: str, b: str, turned: bool) -> None:
        given = self.given[lamp_id]
        self.lamps[lamp_id] = len(self.elements)
        if turned:
            a, b = b, a
        at = a
        for j, d in enumerate(given.junctions):
            after = b if j == len(given.junctions) - 1 else self.node()
            self.elements.append(solver.Diode(f"d{j}.{lamp_id}", at, after, d.n, d.is_a, d.rs_ohm))
            at = after

    def group(self, ids: Sequence[str], ohm: float) -> None:
        """Lamps that are alike, each behind a resistor of its own, as one branch with so many times the area."""
        first, count, between = ids[0], len(ids), self.node()
        self.resistor(first, PLUS, between, ohm / count)
        at = between
        for j, d in enumerate(self.given[first].junctions):
            after = MINUS if j == len(self.given[first].junctions) - 1 else self.node()
            self.elements.append(solver.Diode(f"d{j}.{first}", at, after, d.n, d.is_a * count, d.rs_ohm / count))
            at = after
        column = self.parts[first]
        for lamp_id in ids:
            self.parts[lamp_id], self.lamps[lamp_id] = column, column + 1

    def hang(self, node: Hangs, a: str, b: str) -> None:
        if isinstance(node, Hung):
            # A lamp with a rectifier in its lead lights either way round.
            self.lamp(node.lamp, a, b, node.reversed and not self.given[node.lamp].rectified)
        elif isinstance(node, Resistor):
            sizing = self.sizings.get(node.id)
            self.resistor(node.id, a, b, sizing.resistor_ohm if sizing else (node.ohm or 0.0))
        elif isinstance(node, Fuse):
            self.resistor(node.id, a, b, FUSE_V / node.rated_a)
        elif isinstance(node, Switch):
            self.resistor(node.id, a, b, CONTACT_OHM if node.closed else OPEN_OHM)
        elif isinstance(node, Parallel):
            for item in node.items:
                if self.holds(item):
                    self.hang(item, a, b)
        else:
            items = [x for x in node.items if self.holds(x)]
            at = a
            for i, item in enumerate(items):
                after = b if i == len(items) - 1 else self.node()
                self.hang(item, at, after)
                at = after

    def holds(self, node: Hangs) -> bool:
        """Whether there is anything of a part of the tree: lamps of unknown parts are left out."""
        if isinstance(node, Hung):
            return node.lamp in self.given
        if isinstance(node, (Series, Parallel)):
            return any(self.holds(x) for x in node.items if not isinstance(x, Resistor))
        return True


def netlist(
    items: Sequence[Hangs],
    singles: Sequence[tuple[str, Sizing]],
    lamps: Mapping[str, HungLamp],
    sizings: Mapping[str, Sizing],
    apart: bool = False,
) -> Netlist:
    """The elements of a feed: its tree, and the lamps with a resistor of their own (their ids and sizings).

    Those that are alike are one branch, unless they are to be told ``apart``.
    """
    builder = _Builder(lamps, sizings)
    for item in items:
        if builder.holds(item):
            builder.hang(item, PLUS, MINUS)
    alike = [1] * len(builder.elements)
    groups: dict[tuple[HungLamp, float, str], list[str]] = {}
    for lamp_id, sizing in singles:
        key = (lamps[lamp_id], sizing.resistor_ohm, lamp_id if apart else "")
        groups.setdefault(key, []).append(lamp_id)
    for (_, ohm, _), ids in groups.items():
        builder.group(ids, ohm)
        alike += [len(ids)] * (len(builder.elements) - len(alike))
    return Netlist(tuple(builder.elements), builder.lamps, builder.parts, tuple(alike))


class Solved(NamedTuple):
    """Currents (A) of the elements, of one each where a column stands for several: ``now`` (elements,) at the nominal
    state, ``along`` (depths, elements) as a battery empties; the terminal voltage (V) there, and the sum drawn."""

    now: Array
    along: Array
    terminal_v: Array
    draw_a: float


@kept(slots=8, same=lambda a, b: a is b or a == b)
def solve(source: SourceState, elements: tuple[solver.Element, ...], alike: tuple[int, ...]) -> Solved:
    """Operating points of a feed: at the nominal state of its source, and at every depth of discharge."""
    if not elements:
        empty = np.zeros((len(source.along_v), 0))
        return Solved(np.zeros(0), empty, np.array(source.along_v), 0.0)
    network = solver.Network([solver.Source("source", PLUS, MINUS, source.volts, source.ohms), *elements])
    count = np.array(alike, dtype=float)
    answer = network.solve()
    now, draw = answer.currents[0, 1:] / count, float(answer.currents[0, 0])
    if not source.along_v:
        return Solved(now, np.zeros((0, len(elements))), np.zeros(0), draw)
    volts = np.tile(network.volts, (len(source.along_v), 1))
    ohms = np.tile(network.ohms, (len(source.along_v), 1))
    volts[:, 0], ohms[:, 0] = source.along_v, source.along_ohm
    along = network.solve(volts=volts, ohms=ohms).currents
    terminal = np.array(source.along_v) - np.array(source.along_ohm) * along[:, 0]
    return Solved(now, along[:, 1:] / count, terminal, draw)
