"""From the tree of what hangs on a feed to the solver's elements, and back: which column is whose current."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.electrics.gears import motor_of
from gwiazda.core.assess.electrics.sizing import HungLamp, Sizing, ohms_of
from gwiazda.core.assess.electrics.sources import SourceState
from gwiazda.core.circuit import network as solver
from gwiazda.core.errors import CircuitError
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.electrics import DrivePart, LoadPart
from gwiazda.core.plan.model import (
    BRANCHING,
    CircuitNode,
    Feed,
    Fuse,
    LampRef,
    Load,
    Parallel,
    Regulated,
    Resistor,
    Series,
    Switch,
    Switched,
    Wire,
)

Array = npt.NDArray[np.float64]
OPEN_OHM = 1e12  # of an open switch: no current that anything here could tell from none
PLUS, MINUS = "plus", "0"
UNLIMITED_V = 1e3  # what an output "holds" that follows its rail
OUTPUT_OHM = 0.05
FORCED_GAIN = 10.0  # load current over base current of a stage that is driven well
BASE_V = 0.7


class Netlist(NamedTuple):
    """Elements between the rails, the source left to ``solve``; the column of each lamp and of each part of the tree.

    A lamp's current counts from its anode on, whichever way round it hangs. Lamps on their own that are alike in all,
    resistor included, are one branch that stands for them side by side: ``alike`` says of each column for how many.
    ``ends`` are the nodes of lamps and parts, plus side first; of a regulator, an output or a stage those of what hangs
    on it, with the node it is fed from last. ``bases`` are the columns of what drives a stage.
    """

    elements: tuple[solver.Element, ...]
    lamps: Mapping[str, int]
    parts: Mapping[str, int]
    alike: tuple[int, ...]
    ends: Mapping[str, tuple[str, ...]]
    bases: Mapping[str, int]


def shorted(node: CircuitNode) -> bool:
    """Whether a part of the tree leads from one end to the other with nothing in the way."""
    if isinstance(node, Switch):
        return node.closed
    if isinstance(node, (Fuse, Wire)):
        return True
    if isinstance(node, Series):
        return bool(node.items) and all(map(shorted, node.items))
    return isinstance(node, Parallel) and any(map(shorted, node.items))


class _Builder:
    def __init__(
        self,
        catalogue: Catalogue,
        lamps: Mapping[str, HungLamp],
        sizings: Mapping[str, Sizing],
        stages: Mapping[str, float],
    ) -> None:
        self.catalogue, self.given, self.sizings, self.stages = catalogue, lamps, sizings, stages
        self.elements: list[solver.Element] = []
        self.lamps: dict[str, int] = {}
        self.parts: dict[str, int] = {}
        self.ends: dict[str, tuple[str, ...]] = {}
        self.bases: dict[str, int] = {}
        self._nodes = 0

    def node(self) -> str:
        self._nodes += 1
        return f"n{self._nodes}"

    def resistor(self, name: str, a: str, b: str, ohm: float) -> None:
        self.parts[name] = len(self.elements)
        self.ends[name] = (a, b)
        self.elements.append(solver.Resistor(f"r.{name}", a, b, ohm))

    def lamp(self, lamp_id: str, a: str, b: str, turned: bool) -> None:
        given = self.given[lamp_id]
        if lamp_id in self.lamps:
            # Hung twice, as a file from elsewhere may have it: the first place counts, this one stays open.
            self.elements.append(solver.Resistor(f"x{len(self.elements)}.{lamp_id}", a, b, OPEN_OHM))
            return
        self.lamps[lamp_id] = len(self.elements)
        self.ends[lamp_id] = (a, b)
        if turned:
            a, b = b, a
        at = a
        for j, d in enumerate(given.junctions):
            after = b if j == len(given.junctions) - 1 else self.node()
            self.elements.append(solver.Diode(f"d{j}.{lamp_id}", at, after, d.n, d.is_a, d.rs_ohm))
            at = after

    def group(self, ids: Sequence[str], ohm: float, plus: str) -> None:
        """Lamps that are alike, each behind a resistor of its own, as one branch with so many times the area."""
        first, count, between = ids[0], len(ids), self.node()
        self.resistor(first, plus, between, ohm / count)
        at = between
        for j, d in enumerate(self.given[first].junctions):
            after = MINUS if j == len(self.given[first].junctions) - 1 else self.node()
            self.elements.append(solver.Diode(f"d{j}.{first}", at, after, d.n, d.is_a * count, d.rs_ohm / count))
            at = after
        column, ends = self.parts[first], (between, MINUS)
        for lamp_id in ids:
            self.parts[lamp_id], self.lamps[lamp_id], self.ends[lamp_id] = column, column + 1, ends

    def hang(self, node: CircuitNode, a: str, b: str) -> None:
        if isinstance(node, LampRef):
            # A lamp with a rectifier in its lead lights either way round.
            self.lamp(node.lamp, a, b, node.reversed and not self.given[node.lamp].rectified)
        elif isinstance(node, Resistor):
            sizing = self.sizings.get(node.id)
            # One that is to be chosen, with nothing to choose it by, isn't there yet.
            self.resistor(node.id, a, b, sizing.resistor_ohm if sizing else (node.ohm or OPEN_OHM))
        elif isinstance(node, Switch):
            self.resistor(node.id, a, b, ohms_of(node) if node.closed else OPEN_OHM)
        elif isinstance(node, (Fuse, Wire)):
            self.resistor(node.id, a, b, ohms_of(node))
        elif isinstance(node, Load):
            self.load(node, self.catalogue.loads[node.part], a, b)
        elif isinstance(node, Regulated):
            self.regulated(node, a, b)
        elif isinstance(node, Switched):
            self.switched(node, self.catalogue.drives[node.part], a, b)
        elif isinstance(node, Parallel):
            self.side_by_side(node.items, a, b)
        else:
            self.chain([x for x in node.items if self.holds(x)], a, b)

    def load(self, node: Load, part: LoadPart, a: str, b: str) -> None:
        """A motor with what it turns; a sound module as the resistance it is at its voltage."""
        motor = motor_of(part, bool(node.gears), f"m.{node.id}", a, b)
        if motor is None:
            self.resistor(node.id, a, b, part.volts / part.running_a)
            return
        self.parts[node.id], self.ends[node.id] = len(self.elements), (a, b)
        self.elements.append(motor)

    def side_by_side(self, items: Sequence[CircuitNode], a: str, b: str) -> None:
        for item in items:
            if self.holds(item):
                self.hang(item, a, b)

    def rail(self, items: Sequence[CircuitNode], a: str, b: str) -> None:
        """What lies between two rails; a short across them is left out, so that the rest can be worked out."""
        self.side_by_side([x for x in items if not shorted(x)], a, b)

    def chain(self, items: Sequence[CircuitNode], a: str, b: str) -> None:
        at = a
        for i, item in enumerate(items):
            after = b if i == len(items) - 1 else self.node()
            self.hang(item, at, after)
            at = after

    def regulated(self, node: Regulated, a: str, b: str) -> None:
        part, out = self.catalogue.regulators[node.part], self.node()
        self.parts[node.id], self.ends[node.id] = len(self.elements), (out, b, a)
        self.elements.append(
            solver.Regulator(f"u.{node.id}", a, out, b, node.volts, part.dropout_v, part.quiescent_a, OUTPUT_OHM)
        )
        self.rail(node.items, out, b)

    def output(self, name: str, drive: DrivePart, a: str, out: str, b: str) -> int:
        """A pin: its board's voltage, or its rail's, behind its resistance. Returns its column."""
        self.elements.append(
            solver.Regulator(f"o.{name}", a, out, b, drive.volts or UNLIMITED_V, drive.drop_v, drive.own_a, max(drive.ohms, 0.01))
        )  # fmt: skip
        return len(self.elements) - 1

    def switched(self, node: Switched, drive: DrivePart, a: str, b: str) -> None:
        if drive.kind == "pin":
            out = self.node()
            if node.on:
                self.parts[node.id] = self.output(node.id, drive, a, out, b)
            else:
                self.resistor(node.id, a, out, OPEN_OHM)
            self.ends[node.id] = (out, b, a)
            self.rail(node.items, out, b)
            return
        low = self.node()
        if drive.kind == "npn":
            base = self.node()
            self.parts[node.id] = len(self.elements)
            collector = self.node() if drive.ohms > 0 else low
            self.elements.append(solver.Transistor(f"t.{node.id}", collector, base, b, beta=drive.gain))
            if collector != low:
                self.elements.append(solver.Resistor(f"q.{node.id}", low, collector, drive.ohms))
            pin = self.catalogue.drives.get(node.drive)
            if node.on and pin is not None and pin.kind == "pin":
                driven = self.node()
                self.output(f"{node.id}.pin", pin, a, driven, b)
                self.elements.append(solver.Resistor(f"b.{node.id}", driven, base, node.ohm or self.stages[node.id]))
                self.bases[node.id] = len(self.elements) - 1
            else:
                self.elements.append(solver.Resistor(f"b.{node.id}", b, base, 1e4))
        else:
            self.resistor(node.id, low, b, max(drive.ohms, 1e-3) if node.on else OPEN_OHM)
            if drive.coil_ohm > 0 and node.on:
                self.elements.append(solver.Resistor(f"c.{node.id}", a, b, drive.coil_ohm))
                self.bases[node.id] = len(self.elements) - 1
        self.ends[node.id] = (a, low, b)
        self.rail(node.items, a, low)

    def holds(self, node: CircuitNode) -> bool:
        """Whether there is anything of a part of the tree that takes current: unknown parts are left out."""
        if isinstance(node, LampRef):
            return node.lamp in self.given
        if isinstance(node, Load):
            return node.part in self.catalogue.loads
        if isinstance(node, Regulated):
            return node.part in self.catalogue.regulators
        if isinstance(node, Switched):
            return node.part in self.catalogue.drives and any(map(self.holds, node.items))
        if isinstance(node, Parallel) and node.items and all(isinstance(x, Resistor) for x in node.items):
            return True
        if isinstance(node, BRANCHING):
            return any(self.holds(x) for x in node.items if isinstance(x, (*BRANCHING, LampRef, Load)))
        return True


def netlist(
    catalogue: Catalogue,
    feed: Feed,
    singles: Sequence[tuple[str, Sizing]],
    lamps: Mapping[str, HungLamp],
    sizings: Mapping[str, Sizing],
    stages: Mapping[str, float],
    apart: bool = False,
) -> Netlist:
    """The elements of a feed: what all goes through, its tree, the lamps with a resistor of their own (ids, sizings).

    ``stages`` are the base resistors (Ω) of transistor stages that name none. Lamps that are alike are one branch, unless
    they are to be told ``apart``.
    """
    builder = _Builder(catalogue, lamps, sizings, stages)
    plus = PLUS
    hung = [
        x
        for x in feed.items
        if isinstance(x, (*BRANCHING, LampRef, Load, Resistor)) and builder.holds(x) and not shorted(x)
    ]
    if feed.head and (hung or singles):
        plus = builder.node()
        builder.chain(feed.head, PLUS, plus)
    for item in hung:
        builder.hang(item, plus, MINUS)
    alike = [1] * len(builder.elements)
    groups: dict[tuple[HungLamp, float, str], list[str]] = {}
    for lamp_id, sizing in singles:
        key = (lamps[lamp_id], sizing.resistor_ohm, lamp_id if apart else "")
        groups.setdefault(key, []).append(lamp_id)
    for (_, ohm, _), ids in groups.items():
        builder.group(ids, ohm, plus)
        alike += [len(ids)] * (len(builder.elements) - len(alike))
    return Netlist(tuple(builder.elements), builder.lamps, builder.parts, tuple(alike), builder.ends, builder.bases)


@dataclass(frozen=True, eq=False)
class Solved:
    """Currents (A) of the elements, of one each where a column stands for several: ``now`` (elements,) at the nominal
    state, ``along`` (depths, elements) as a battery empties; the terminal voltage (V) there, and the sum drawn."""

    now: Array
    along: Array
    terminal_v: Array
    draw_a: float
    settled: bool = True
    network: solver.Network | None = None
    nominal: solver.Operating | None = None
    emptying: solver.Operating | None = None

    @cached_property
    def volts(self) -> Mapping[str, float]:
        """V of every node at the nominal state, against the minus rail."""
        return self._volts(self.nominal)

    @cached_property
    def fresh_volts(self) -> Mapping[str, float]:
        """V of every node while the source is fresh."""
        return self._volts(self.emptying.at(0)) if self.emptying is not None else self.volts

    def _volts(self, answer: solver.Operating | None) -> Mapping[str, float]:
        return self.network.node_volts(answer) if self.network is not None and answer is not None else {}


@memoize(slots=8, same=lambda a, b: a is b or a == b)
def solve(source: SourceState, elements: tuple[solver.Element, ...], alike: tuple[int, ...]) -> Solved:
    """Operating points of a feed: at the nominal state of its source, and at every depth of discharge."""
    if not elements:
        empty = np.zeros((len(source.along_v), 0))
        return Solved(np.zeros(0), empty, np.array(source.along_v), 0.0)
    try:
        return _solved(source, elements, alike)
    except CircuitError:
        # Regulators that fight one another: said, and left dark, rather than no assessment at all.
        shape = (len(source.along_v), len(elements))
        return Solved(np.zeros(len(elements)), np.zeros(shape), np.array(source.along_v), 0.0, False)


def _solved(source: SourceState, elements: tuple[solver.Element, ...], alike: tuple[int, ...]) -> Solved:
    network = solver.Network([solver.Source("source", PLUS, MINUS, source.volts, source.ohms), *elements])
    count = np.array(alike, dtype=float)
    answer = network.solve()
    now, draw = answer.currents[0, 1:] / count, float(answer.currents[0, 0])
    if not source.along_v:
        return Solved(now, np.zeros((0, len(elements))), np.zeros(0), draw, True, network, answer)
    emf = np.tile(network.volts, (len(source.along_v), 1))
    ohms = np.tile(network.ohms, (len(source.along_v), 1))
    emf[:, 0], ohms[:, 0] = source.along_v, source.along_ohm
    along = network.solve(volts=emf, ohms=ohms)
    terminal = np.array(source.along_v) - np.array(source.along_ohm) * along.currents[:, 0]
    return Solved(now, along.currents[:, 1:] / count, terminal, draw, True, network, answer, along)
