"""Resistors for the wanted currents, from the tree of what hangs on a feed.

The wanted currents flow together: each resistor is sized for what the source's own resistance leaves of its voltage.
A battery is sized at its nominal state; a fresh one must not drive a lamp beyond its rating. Behind a regulator or an
output the rail is what that gives.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.assess.electrics.junctions import BUILT_IN_OHM, BUILT_IN_SHARE, forward_v
from gwiazda.core.circuit.parts.diode import Junction
from gwiazda.core.circuit.parts.wire import ohm_per_m
from gwiazda.core.circuit.shelf import Shelf
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.electrics import DrivePart
from gwiazda.core.plan.model import (
    BRANCHING,
    CircuitNode,
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
    lamps_in,
)

FUSE_V = 0.1  # what a fuse drops at its rated current: house value of small glass ones
CONTACT_OHM = 0.05
SATURATED_V = 0.036  # of an NPN stage driven with a tenth of its current: Ebers and Moll, besides what its collector's resistance takes


class HungLamp(NamedTuple):
    """A lamp as its place in the circuit asks for it."""

    junctions: tuple[Junction, ...]
    wanted_a: float
    rated_a: float
    rectified: bool = False


class Sizing(NamedTuple):
    """Resistor of a rung: what the wanted current needs, and what is put in.

    ``headroom_v`` is what the nominal supply leaves for the resistor at the wanted current; ``least_ohm`` what keeps
    the lamps within their rating while the source is fresh.
    """

    wanted_a: float
    needed_ohm: float
    resistor_ohm: float
    headroom_v: float
    chosen: bool
    least_ohm: float = 0.0


class Rail(NamedTuple):
    """Voltage (V) between two rails: nominal with all wanted currents flowing, of a fresh source, of one at its end."""

    volts: float
    highest_v: float
    last_v: float

    def less(self, volts: float) -> Rail:
        """After something that takes so much of it."""
        return Rail(max(self.volts - volts, 0.0), max(self.highest_v - volts, 0.0), max(self.last_v - volts, 0.0))

    def held(self, volts: float, dropout_v: float) -> Rail:
        """Behind what holds ``volts`` as long as it has ``dropout_v`` to spare."""
        return Rail(*(min(volts, max(v - dropout_v, 0.0)) for v in self))


class Branch(NamedTuple):
    """A part of the tree that lights lamps between two rails: a string, a group behind one resistor, a bare lamp."""

    node: CircuitNode
    lamps: tuple[LampRef, ...]
    rail: Rail


@memoize_by_value(16_384)
def size_resistor(
    feed_v: float,
    junctions: tuple[Junction, ...],
    wanted_a: float,
    shelf: Shelf,
    fixed_ohm: float | None,
    rated_a: float = float("inf"),
    highest_v: float | None = None,
) -> Sizing:
    """R = (Vs − ΣVf(I))/I at the wanted current, next value of the shelf at or above.

    Parameters
    ----------
    feed_v : float
        Voltage (V) at the source's terminals with all wanted currents flowing.
    highest_v : float, optional
        EMF (V) of the source while it is fresh; the chosen value keeps the lamps under ``rated_a`` (A) there.

    A value that falls short by less than half its own tolerance counts as reached, as long as it keeps the
    lamps under ``rated_a`` (A): the part from the drawer is no truer than that.
    """
    return _sized(
        feed_v - forward_v(junctions, wanted_a),
        wanted_a,
        (highest_v if highest_v is not None else feed_v) - forward_v(junctions, rated_a) if rated_a < 1e9 else 0.0,
        rated_a,
        shelf,
        fixed_ohm,
        [j.rs_ohm for j in junctions],
    )


def _sized(
    headroom_v: float, wanted_a: float, fresh_room_v: float, rated_a: float, shelf: Shelf, fixed_ohm: float | None,
    own: Sequence[float],
) -> Sizing:  # fmt: skip
    """``own``: the resistances (Ω) that the lamps have built in."""
    built_in, own_ohm = any(x >= BUILT_IN_OHM for x in own), sum(own)
    needed = headroom_v / wanted_a
    least = max(fresh_room_v / rated_a, 0.0) if rated_a < 1e9 else 0.0
    if fixed_ohm is not None:
        return Sizing(wanted_a, needed, fixed_ohm, headroom_v, False, least)
    if built_in and max(needed, least) <= BUILT_IN_SHARE * own_ohm:
        # Its own resistors are enough: nothing is put before it.
        return Sizing(wanted_a, needed, 0.0, headroom_v, True, least)
    slack = shelf.half_tolerance if wanted_a * (1.0 + shelf.half_tolerance) <= rated_a else 0.0
    # The rating is a limit for light, not for life: within a hundredth of it nothing is gained by the next value.
    value = shelf.at_or_above(max(needed * (1.0 - slack), least * 0.99, 1.0))
    return Sizing(wanted_a, needed, value, headroom_v, True, least)


class Sizer:
    """Walks the tree of a feed: currents wanted, voltages, the resistors' sizes, the rungs with their rails."""

    def __init__(self, catalogue: Catalogue, lamps: Mapping[str, HungLamp], shelf: Shelf) -> None:
        self.catalogue, self.lamps, self.shelf = catalogue, lamps, shelf
        self.sizings: dict[str, Sizing] = {}
        self.branches: list[Branch] = []

    # -- what a part of the tree asks for ----------------------------------------------------------------

    def current(self, node: CircuitNode) -> float:
        """Current (A) wanted through a part of the tree: side by side they add, in series their mean; 0 with nothing."""
        if isinstance(node, LampRef):
            return self.lamps[node.lamp].wanted_a if node.lamp in self.lamps else 0.0
        if isinstance(node, Load):
            part = self.catalogue.loads.get(node.part)
            return part.running_a if part is not None else 0.0
        if isinstance(node, Series):
            each = [i for x in node.items if (i := self.current(x)) > 0]
            return sum(each) / len(each) if each else 0.0
        if isinstance(node, Switched) and not node.on:
            return 0.0
        if isinstance(node, BRANCHING):
            return self.own_current(node) + sum(self.current(x) for x in node.items)
        return 0.0

    def own_current(self, node: CircuitNode) -> float:
        """What a regulator or a stage takes for itself (A)."""
        if isinstance(node, Regulated) and (part := self.catalogue.regulators.get(node.part)) is not None:
            return part.quiescent_a
        drive = self.drive(node)
        return drive.own_a if drive is not None else 0.0

    def drive(self, node: CircuitNode) -> DrivePart | None:
        """What switches a part of the tree, where the catalogue knows it."""
        return self.catalogue.drives.get(node.part) if isinstance(node, Switched) else None

    def rated(self, node: CircuitNode) -> float:
        """Current (A) a part of the tree may take at most, shared evenly where it divides; infinite without a lamp."""
        if isinstance(node, LampRef):
            return self.lamps[node.lamp].rated_a if node.lamp in self.lamps else float("inf")
        if isinstance(node, Parallel):
            each = [r for x in node.items if (r := self.rated(x)) < 1e9]
            return len(each) * min(each) if each else float("inf")
        if isinstance(node, Series):
            return min((self.rated(x) for x in node.items), default=float("inf"))
        return float("inf")

    def volts(self, node: CircuitNode, current_a: float) -> float:
        """Voltage (V) over a part of the tree at a current; where it divides, as the wanted currents do.

        What holds a rail of its own takes what is left: it counts as nothing here.
        """
        if isinstance(node, LampRef):
            return forward_v(self.lamps[node.lamp].junctions, current_a) if node.lamp in self.lamps else 0.0
        if isinstance(node, Resistor):
            return (node.ohm or 0.0) * current_a
        if isinstance(node, (Fuse, Switch, Wire)):
            return ohms_of(node) * current_a
        if isinstance(node, Load):
            part = self.catalogue.loads.get(node.part)
            return part.volts / part.running_a * current_a if part is not None else 0.0
        if isinstance(node, Parallel):
            if node.items and all(isinstance(x, Resistor) for x in node.items):
                return resistance_of((node,), {}) * current_a
            total = self.current(node)
            each = [self.volts(x, current_a * i / total) for x in node.items if (i := self.current(x)) > 0]
            return sum(each) / len(each) if each else 0.0
        if isinstance(node, Series):
            return sum(self.volts(x, current_a) for x in node.items)
        return 0.0

    # -- sizes -------------------------------------------------------------------------------------------

    def behind(self, node: Regulated | Switched, rail: Rail) -> Rail:
        """The rail that a regulator, an output or a stage gives on."""
        if isinstance(node, Regulated):
            part = self.catalogue.regulators.get(node.part)
            return rail.held(node.volts, part.dropout_v) if part is not None else rail
        drive = self.drive(node)
        if drive is None:
            return rail
        flowing = sum(self.current(x) for x in node.items)
        if drive.kind == "npn":
            return rail.less(SATURATED_V + drive.ohms * flowing)
        if drive.kind == "pin":
            rail = rail.held(drive.volts or float("inf"), drive.drop_v)
        return rail.less(drive.ohms * flowing)

    def walk(self, node: CircuitNode, rail: Rail) -> None:
        """Size what is in a part of the tree between its rails, and note its rungs."""
        if isinstance(node, (Regulated, Switched)):
            inner = self.behind(node, rail)
            for item in node.items:
                self.walk(item, inner)
        elif isinstance(node, Parallel):
            if any(isinstance(x, Resistor) for x in node.items):
                self._rung(node, rail)
            else:
                for item in node.items:
                    self.walk(item, rail)
        elif isinstance(node, Series):
            self._series(node, rail)
        elif isinstance(node, LampRef):
            self._rung(node, rail)
            if (lamp := self.lamps.get(node.lamp)) is not None:
                # Straight across its rails: what a resistor would have is left over all the same.
                room = rail.volts - forward_v(lamp.junctions, lamp.wanted_a)
                most = max((rail.highest_v - forward_v(lamp.junctions, lamp.rated_a)) / lamp.rated_a, 0.0)
                self.sizings[node.lamp] = Sizing(lamp.wanted_a, room / lamp.wanted_a, 0.0, room, False, most)

    def _rung(self, node: CircuitNode, rail: Rail) -> None:
        if leaves := tuple(x for x in lamps_in(node) if x.lamp in self.lamps):
            self.branches.append(Branch(node, leaves, rail))

    def _series(self, node: Series, rail: Rail) -> None:
        current, rated = self.current(node), self.rated(node)
        mine = list(_resistors(node))
        inner = [x for x in node.items if _has_rail(x)]
        if not mine and inner:
            # A switch, a fuse or a wire before what divides or holds a rail of its own: that has what they leave.
            left = rail.less(sum(self.volts(x, current) for x in node.items if x not in inner))
            for item in inner:
                self.walk(item, left)
            return
        self._rung(node, rail)
        if current <= 0:
            return
        chosen = [x for x in mine if x.ohm is None]
        headroom = rail.volts - self.volts(node, current)
        fresh = rail.highest_v - self.volts(node, rated) if rated < 1e9 else 0.0
        parts = [self.lamps[x.lamp] for x in node.items if isinstance(x, LampRef) and x.lamp in self.lamps]
        own = [j.rs_ohm for p in parts for j in p.junctions]
        for r in mine:
            if r.ohm is None:
                k = len(chosen)
                self.sizings[r.id] = _sized(
                    headroom / k, current, fresh / k, rated, self.shelf, None, own
                )  # fmt: skip
            else:
                room = headroom + r.ohm * current
                fresh_room = fresh + r.ohm * rated if rated < 1e9 else 0.0
                self.sizings[r.id] = _sized(room, current, fresh_room, rated, self.shelf, r.ohm, ())
        if not mine:
            pair = resistance_of(node.items, {})
            room = headroom + pair * current
            least = max((fresh + pair * rated) / rated, 0.0) if rated < 1e9 else 0.0
            self.sizings[node.id] = Sizing(current, room / current, pair, room, False, least)
        if any(isinstance(x, BRANCHING) for x in node.items):
            # A branch within has what the rest of its string leaves.
            rest = sum(self.volts(x, current) for x in node.items if not isinstance(x, BRANCHING))
            rest += sum(self.sizings[r.id].resistor_ohm for r in chosen) * current
            inside = Sizer(self.catalogue, self.lamps, self.shelf)
            for item in node.items:
                if isinstance(item, BRANCHING):
                    inside.walk(item, rail.less(rest))
            self.sizings.update(inside.sizings)


def ohms_of(node: CircuitNode) -> float:
    """Resistance (Ω) of a fuse, a closed switch, a run of wire."""
    if isinstance(node, Fuse):
        return FUSE_V / node.rated_a
    if isinstance(node, Switch):
        return CONTACT_OHM
    if isinstance(node, Wire):
        return ohm_per_m(node.awg) * node.length_mm * 1e-3
    return 0.0


def _resistors(node: Series) -> Iterator[Resistor]:
    return (x for x in node.items if isinstance(x, Resistor))


def _has_rail(node: CircuitNode) -> bool:
    """Whether a part of the tree goes on to several, or holds a rail of its own."""
    if isinstance(node, (Regulated, Switched)):
        return True
    if isinstance(node, Parallel):
        return any(isinstance(x, BRANCHING) or _resistors_in(x) for x in node.items) and bool(lamps_in(node))
    return isinstance(node, Series) and bool(lamps_in(node))


def _resistors_in(node: CircuitNode) -> bool:
    return isinstance(node, Resistor) or (isinstance(node, BRANCHING) and any(map(_resistors_in, node.items)))


def resistance_of(nodes: Sequence[CircuitNode], sizings: Mapping[str, Sizing]) -> float:
    """Resistance (Ω) of the resistors among parts in series, two side by side included."""
    total = 0.0
    for node in nodes:
        if isinstance(node, Resistor):
            found = sizings.get(node.id)
            total += found.resistor_ohm if found is not None else (node.ohm or 0.0)
        elif isinstance(node, Parallel) and node.items and all(isinstance(x, Resistor) for x in node.items):
            each = [resistance_of((x,), sizings) for x in node.items]
            total += 1.0 / sum(1.0 / r for r in each) if all(r > 0 for r in each) else 0.0
    return total
