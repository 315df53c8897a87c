"""The stage of circuits: from the feeds of a plan and the wanted light to currents, resistors and loads."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from gwiazda.core.assess.circuit.netlist import Netlist, Solved, netlist, solve
from gwiazda.core.assess.circuit.runtime import Burning, supply_state
from gwiazda.core.assess.circuit.sizing import HungLamp, Sizing, size_resistor, size_tree
from gwiazda.core.assess.circuit.sources import SourceState, source_of
from gwiazda.core.assess.lamp.kinds import Kind
from gwiazda.core.assess.states import RungState, SupplyState
from gwiazda.core.light.photometry import current_for_light
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Feed, Hangs, Hung, Lamp, Parallel, Resistor, Series, lamps_in


class Current(NamedTuple):
    """A lamp's place in the circuit: its rung and resistor, currents wanted, now and while the source is fresh (A)."""

    rung: str
    wanted_a: float
    resistor_ohm: float
    current_a: float
    fresh_a: float
    feed: str
    reversed: bool


class Circuits(NamedTuple):
    lamps: Mapping[str, Current]
    rungs: Mapping[str, RungState]
    feeds: Mapping[str, SupplyState]


def _hung(lamps: tuple[Lamp, ...], kinds: Mapping[str, Kind], wanted: Mapping[str, float]) -> dict[str, HungLamp]:
    """Lamps as their places ask for them; one object for all that are alike."""
    alike: dict[tuple[int, float], HungLamp] = {}
    out: dict[str, HungLamp] = {}
    for lamp in lamps:
        kind, share = kinds[lamp.id], wanted[lamp.id]
        key = (id(kind), share)
        found = alike.get(key)
        if found is None:
            current = current_for_light(min(share, 1.0), kind.rated_a, kind.droop)
            found = alike[key] = HungLamp(kind.junctions, current, kind.rated_a, kind.part.rectified)
        out[lamp.id] = found
    return out


def circuits_of(
    catalogue: Catalogue, feeds: tuple[Feed, ...], series: str, lamps: tuple[Lamp, ...], kinds: Mapping[str, Kind],
    wanted: Mapping[str, float],
) -> Circuits:  # fmt: skip
    """Currents of all lamps; ``lamps`` are those whose part is known, ``wanted`` their light over that at rated current."""
    hung = _hung(lamps, kinds, wanted)
    named = {leaf.lamp for f in feeds for item in f.items for leaf in lamps_in(item)}
    out: dict[str, Current] = {}
    rungs: dict[str, RungState] = {}
    states: dict[str, SupplyState] = {}
    for i, feed in enumerate(feeds):
        singles = tuple(p for p in lamps if p.id not in named) if i == 0 else ()
        source = source_of(catalogue, feed.supply)
        net, sizings, own = _sized(feed, singles, hung, source, series)
        solved = solve(source, net.elements, net.alike) if source is not None else None
        _read(feed, singles, net, {**sizings, **own}, solved, source, hung, out, rungs)
        burning, share = _burning(net, kinds, out)
        states[feed.id] = supply_state(feed.id, source, solved, burning, share)
    return Circuits(out, rungs, states)


def netlists(
    catalogue: Catalogue, feeds: tuple[Feed, ...], series: str, lamps: tuple[Lamp, ...], kinds: Mapping[str, Kind],
    wanted: Mapping[str, float],
) -> list[tuple[SourceState | None, Netlist]]:  # fmt: skip
    """Each feed's source and elements, every lamp with a branch of its own: for what tells lamps that are alike apart."""
    hung = _hung(lamps, kinds, wanted)
    named = {leaf.lamp for f in feeds for item in f.items for leaf in lamps_in(item)}
    out = []
    for i, feed in enumerate(feeds):
        singles = tuple(p for p in lamps if p.id not in named) if i == 0 else ()
        source = source_of(catalogue, feed.supply)
        out.append((source, _sized(feed, singles, hung, source, series, apart=True)[0]))
    return out


def _burning(
    net: Netlist, kinds: Mapping[str, Kind], currents: Mapping[str, Current]
) -> tuple[tuple[Burning, ...], float]:
    """The lamps of a feed, those that are alike and on one column together; the share of the draw that is spent."""
    groups: dict[tuple[int, int], tuple[Kind, int, float]] = {}
    for lamp_id, column in net.lamps.items():
        kind = kinds[lamp_id]
        _, count, draw = groups.get((column, id(kind)), (kind, 0, 0.0))
        groups[column, id(kind)] = (kind, count + 1, draw + abs(currents[lamp_id].current_a))
    burning = tuple(
        Burning(column, k.part.colour, k.droop, k.rated_a, k.light.flux_lm * n, k.part.duty)
        for (column, _), (k, n, _) in groups.items()
    )
    draws = sum(draw for *_, draw in groups.values())
    spent = sum(draw * kind.part.duty for kind, _, draw in groups.values())
    return burning, spent / draws if draws > 0 else 1.0


def _sized(
    feed: Feed,
    singles: tuple[Lamp, ...],
    hung: Mapping[str, HungLamp],
    source: SourceState | None,
    series: str,
    apart: bool = False,
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
    own: dict[str, Sizing] = {}
    alike: dict[tuple[int, float | None], Sizing] = {}
    for p in singles:
        lamp, key = hung[p.id], (id(hung[p.id]), p.resistor_ohm)
        found = alike.get(key)
        if found is None:
            found = alike[key] = size_resistor(
                left, lamp.junctions, lamp.wanted_a, series, p.resistor_ohm, lamp.rated_a, highest
            )
        own[p.id] = found
    net = netlist(feed.items, [(p.id, own[p.id]) for p in singles], hung, sizings, apart)
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
            out[lamp_id] = Current(
                rung, hung[lamp_id].wanted_a, sizing.resistor_ohm, now[at], fresh[at], feed.id, turned
            )

    for item in feed.items:
        for node, leaves in _rungs_in(item):
            first = _first_resistor(node)
            name = node.lamp if isinstance(node, Hung) else node.id
            shared = isinstance(node, Series) and any(isinstance(x, Parallel) for x in node.items)
            put(name, first.id if first else "", tuple((x.lamp, x.reversed) for x in leaves), shared)
    for lamp in singles:
        # As ``put`` would, without its questions: a large plan has thousands of these.
        key, own, at = lamp.id, sizings[lamp.id], net.lamps[lamp.id]
        i, i_fresh = now[at], fresh[at]
        rungs[key] = RungState(
            key, (key,), own.wanted_a, own.needed_ohm, own.resistor_ohm, own.chosen, own.headroom_v, i,
            max(abs(i), abs(i_fresh)) ** 2 * own.resistor_ohm, feed.id, volts, last,
        )  # fmt: skip
        out[key] = Current(key, hung[key].wanted_a, own.resistor_ohm, i, i_fresh, feed.id, False)
