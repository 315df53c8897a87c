"""The stage of circuits: from the feeds of a plan and the wanted light to currents, resistors and loads."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from gwiazda.core.assess.circuit.junctions import junctions
from gwiazda.core.assess.circuit.netlist import Netlist, Solved, netlist, solve
from gwiazda.core.assess.circuit.runtime import Burning, supply_state
from gwiazda.core.assess.circuit.sizing import HungLamp, Sizing, size_resistor, size_tree
from gwiazda.core.assess.circuit.sources import SourceState, source_of
from gwiazda.core.assess.lamp.lampwork import rated_a, worked
from gwiazda.core.assess.states import RungState, SupplyState
from gwiazda.core.light.photometry import current_for_light
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Feed, Hangs, Hung, Lamp, Parallel, Resistor, Series, lamps_in


class Current(NamedTuple):
    """A lamp's place in the circuit: its rung, currents now and while the source is fresh (A), its resistor."""

    rung: str
    sizing: Sizing
    current_a: float
    fresh_a: float
    feed: str
    reversed: bool


class Circuits(NamedTuple):
    lamps: Mapping[str, Current]
    rungs: Mapping[str, RungState]
    feeds: Mapping[str, SupplyState]


def _as_hung(catalogue: Catalogue, lamp: Lamp, wanted: float) -> HungLamp:
    part = catalogue.lamps[lamp.part]
    rated = rated_a(catalogue, lamp)
    current = current_for_light(min(wanted, 1.0), rated, catalogue.families[part.family].droop)
    return HungLamp(junctions(catalogue, part, lamp.units), current, rated, part.rectified)


def circuits_of(
    catalogue: Catalogue, feeds: tuple[Feed, ...], series: str, lamps: tuple[Lamp, ...], wanted: Mapping[str, float]
) -> Circuits:
    """Currents of all lamps; ``lamps`` are those whose part is known, ``wanted`` their light over that at rated current."""
    by_id = {p.id: p for p in lamps}
    hung = {p.id: _as_hung(catalogue, p, wanted[p.id]) for p in lamps}
    named = {leaf.lamp for f in feeds for item in f.items for leaf in lamps_in(item)}
    out: dict[str, Current] = {}
    rungs: dict[str, RungState] = {}
    states: dict[str, SupplyState] = {}
    for i, feed in enumerate(feeds):
        singles = tuple(p for p in lamps if p.id not in named) if i == 0 else ()
        source = source_of(catalogue, feed.supply)
        net, sizings, own = _sized(feed, singles, hung, source, series)
        solved = solve(source, net.elements) if source is not None else None
        _read(feed, singles, net, {**sizings, **own}, solved, source, hung, out, rungs)
        burning, draws = [], 0.0
        for lamp_id, column in net.lamps.items():
            lamp = by_id[lamp_id]
            part = catalogue.lamps[lamp.part]
            burning.append(
                Burning(
                    column, part.colour, catalogue.families[part.family].droop, hung[lamp_id].rated_a,
                    worked(catalogue, lamp).flux_lm, part.duty,
                )
            )  # fmt: skip
            draws += abs(out[lamp_id].current_a)
        spent = sum(abs(out[x].current_a) * b.duty for x, b in zip(net.lamps, burning, strict=True))
        states[feed.id] = supply_state(feed.id, source, solved, tuple(burning), spent / draws if draws > 0 else 1.0)
    return Circuits(out, rungs, states)


def _sized(
    feed: Feed, singles: tuple[Lamp, ...], hung: Mapping[str, HungLamp], source: SourceState | None, series: str
) -> tuple[Netlist, dict[str, Sizing], dict[str, Sizing]]:
    """Resistors of a feed: those in its tree, and those of lamps on their own (by lamp id), and the netlist with them."""
    volts = source.volts if source else 0.0
    highest = source.highest_v if source else 0.0
    wanted = sum(hung[p.id].wanted_a for p in singles)
    wanted += sum(hung[leaf.lamp].wanted_a for x in feed.items for leaf in _carriers(x) if leaf.lamp in hung)
    # All of it flows together, and the source's own resistance takes its part.
    left = max(volts - (source.ohms * wanted if source else 0.0), 0.25 * volts)
    sizings: dict[str, Sizing] = {}
    for item in feed.items:
        sizings.update(size_tree(item, hung, left, highest, series))
    own = {
        p.id: size_resistor(
            left, hung[p.id].junctions, hung[p.id].wanted_a, series, p.resistor_ohm, hung[p.id].rated_a, highest
        )
        for p in singles
    }
    net = netlist(feed.items, [(p.id, own[p.id]) for p in singles], hung, sizings)
    return net, sizings, own


def _carriers(node: Hangs) -> tuple[Hung, ...]:
    """One lamp for each current that a part of the tree takes from its rail: the first of a string."""
    if isinstance(node, Series):
        for item in node.items:
            if found := _carriers(item):
                return found
        return ()
    if isinstance(node, Parallel):
        return tuple(leaf for item in node.items for leaf in _carriers(item))
    return (node,) if isinstance(node, Hung) else ()


def _first_resistor(node: Hangs) -> Resistor | None:
    if isinstance(node, Resistor):
        return node
    if isinstance(node, (Series, Parallel)):
        return next((r for x in node.items if (r := _first_resistor(x)) is not None), None)
    return None


def _rungs_in(node: Hangs) -> list[tuple[Hangs, tuple[Hung, ...]]]:
    """The parts of the tree that stand for a rung: strings, groups behind one resistor, bare lamps."""
    if isinstance(node, Parallel) and not any(isinstance(x, Resistor) for x in node.items):
        return [r for x in node.items for r in _rungs_in(x)]
    leaves = lamps_in(node)
    return [(node, leaves)] if leaves else []


def _read(
    feed: Feed, singles: tuple[Lamp, ...], net: Netlist, sizings: Mapping[str, Sizing], solved: Solved | None,
    source: SourceState | None, hung: Mapping[str, HungLamp], out: dict[str, Current], rungs: dict[str, RungState],
) -> None:  # fmt: skip
    """Read the currents off the solved columns."""
    nothing = Sizing(0.0, 0.0, 0.0, 0.0, False)
    now = solved.now.tolist() if solved is not None and len(solved.now) else [0.0] * len(net.elements)
    fresh = solved.along[0].tolist() if solved is not None and len(solved.along) else now
    volts, last = (source.volts, source.last_v) if source else (0.0, 0.0)

    def put(rung: str, resistor: str, leaves: tuple[tuple[str, bool], ...], shared: bool) -> None:
        leaves = tuple(x for x in leaves if x[0] in net.lamps)
        if not leaves:
            return
        sizing = sizings.get(resistor, nothing)
        column = net.parts.get(resistor, net.lamps[leaves[0][0]])
        most = max(abs(fresh[column]), abs(now[column]))
        rungs[rung] = RungState(
            rung, tuple(i for i, _ in leaves), sizing.wanted_a or hung[leaves[0][0]].wanted_a, sizing.needed_ohm,
            sizing.resistor_ohm, sizing.chosen, sizing.headroom_v, now[column], most**2 * sizing.resistor_ohm, feed.id,
            volts, last, shared,
        )  # fmt: skip
        for lamp_id, turned in leaves:
            at = net.lamps[lamp_id]
            mine = sizing._replace(wanted_a=hung[lamp_id].wanted_a)
            out[lamp_id] = Current(rung, mine, now[at], fresh[at], feed.id, turned)

    for item in feed.items:
        for node, leaves in _rungs_in(item):
            first = _first_resistor(node)
            name = node.lamp if isinstance(node, Hung) else node.id
            shared = isinstance(node, Series) and any(isinstance(x, Parallel) for x in node.items)
            put(name, first.id if first else "", tuple((x.lamp, x.reversed) for x in leaves), shared)
    for lamp in singles:
        put(lamp.id, lamp.id, ((lamp.id, False),), False)
