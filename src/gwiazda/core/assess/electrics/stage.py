"""The stage of circuits: from the feeds of a plan and the wanted light to currents, resistors and loads."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import NamedTuple

from gwiazda.core.assess.electrics.devices import part_states
from gwiazda.core.assess.electrics.netlist import BASE_V, FORCED_GAIN, Netlist, Solved, netlist, solve
from gwiazda.core.assess.electrics.runtime import Burning, supply_state
from gwiazda.core.assess.electrics.sizing import (
    Branch,
    HungLamp,
    Rail,
    Sizer,
    Sizing,
    ohms_of,
    resistance_of,
    size_resistor,
)
from gwiazda.core.assess.electrics.sources import SourceState, source_of
from gwiazda.core.assess.lamp.lamp_models import LampModel, known_lamps, lamp_model_of, wired
from gwiazda.core.assess.states import Assessment, BranchState, PartState, SupplyState
from gwiazda.core.circuit.shelf import Shelf, shelf_of
from gwiazda.core.light.photometry import Droop, current_for_light
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.electrics import DrivePart
from gwiazda.core.plan.model import (
    BRANCHING,
    CircuitNode,
    Feed,
    Lamp,
    LampRef,
    Parallel,
    Plan,
    Resistor,
    Series,
    Switched,
    lamps_in,
    parts_in,
)

ALL: Mapping[str, float] = MappingProxyType({})


class Current(NamedTuple):
    """A lamp's place in the circuit: its rung and resistor, currents wanted, now and while the source is fresh (A)."""

    branch: str
    wanted_a: float
    resistor_ohm: float
    current_a: float
    fresh_a: float
    feed: str
    reversed: bool


class Circuits(NamedTuple):
    lamps: Mapping[str, Current]
    branches: Mapping[str, BranchState]
    feeds: Mapping[str, SupplyState]
    parts: Mapping[str, PartState]


class SizedFeed(NamedTuple):
    """A feed as it is put together: elements, sizes of the tree's resistors and of single lamps' (by lamp), rungs."""

    net: Netlist
    sizings: Mapping[str, Sizing]
    own: Mapping[str, Sizing]
    branches: tuple[Branch, ...]
    rail: Rail


class FeedCircuit(NamedTuple):
    """A feed of a plan, its source and its elements."""

    feed: Feed
    source: SourceState | None
    drawn: SizedFeed


def wanted_currents(
    lamps: tuple[Lamp, ...], kinds: Mapping[str, LampModel], wanted: Mapping[str, float]
) -> dict[str, float]:
    """The current (A) each lamp is to get for its wanted light, no more than it is rated for."""
    alike: dict[tuple[float, Droop, float], float] = {}
    out = {}
    for lamp in lamps:
        kind, share = kinds[lamp.id], wanted[lamp.id]
        key = (kind.rated_a, kind.droop, share)
        if key not in alike:
            alike[key] = current_for_light(min(share, 1.0), kind.rated_a, kind.droop)
        out[lamp.id] = alike[key]
    return out


def _hung(lamps: tuple[Lamp, ...], kinds: Mapping[str, LampModel], wanted: Mapping[str, float]) -> dict[str, HungLamp]:
    """Lamps as their places ask for them; one object for all that are alike."""
    currents = wanted_currents(lamps, kinds, wanted)
    alike: dict[tuple[int, float], HungLamp] = {}
    out: dict[str, HungLamp] = {}
    for lamp in lamps:
        kind, share = kinds[lamp.id], wanted[lamp.id]
        key = (id(kind), share)
        found = alike.get(key)
        if found is None:
            found = alike[key] = HungLamp(kind.junctions, currents[lamp.id], kind.rated_a, kind.part.rectified)
        out[lamp.id] = found
    return out


def circuits_of(
    catalogue: Catalogue, feeds: tuple[Feed, ...], shelf: Shelf, lamps: tuple[Lamp, ...], kinds: Mapping[str, LampModel],
    wanted: Mapping[str, float], mean_current_share: Mapping[str, float] = ALL,
) -> Circuits:  # fmt: skip
    """Currents of all lamps; ``lamps`` are those whose part is known, ``wanted`` their light over that at rated current.

    ``mean_current_share``: the share of a lamp's current that is spent on average, where it isn't on all the time.
    """
    hung = _hung(lamps, kinds, wanted)
    out: dict[str, Current] = {}
    branches: dict[str, BranchState] = {}
    states: dict[str, SupplyState] = {}
    parts: dict[str, PartState] = {}
    for feed, source, drawn in _feeds(catalogue, feeds, shelf, lamps, hung):
        net = drawn.net
        solved = solve(source, net.elements, net.alike) if source is not None else None
        _read(feed, drawn, solved, source, hung, out, branches)
        burning, share = _burning(net, kinds, out, solved, mean_current_share)
        states[feed.id] = supply_state(feed.id, source, solved, burning, share)
        if solved is not None and not solved.settled:
            states[feed.id] = states[feed.id]._replace(settled=False)
        elif solved is not None and (feed.items or feed.head):
            parts.update(part_states(catalogue, feed, net, solved))
    return Circuits(out, branches, states, parts)


def netlists(
    catalogue: Catalogue, feeds: tuple[Feed, ...], shelf: Shelf, lamps: tuple[Lamp, ...], kinds: Mapping[str, LampModel],
    wanted: Mapping[str, float], apart: bool = True,
) -> list[FeedCircuit]:  # fmt: skip
    """Each feed's source and elements; every lamp with a branch of its own where what is alike is to be told ``apart``."""
    return _feeds(catalogue, feeds, shelf, lamps, _hung(lamps, kinds, wanted), apart)


class Given(NamedTuple):
    """What the circuits of an assessed plan are worked out from; ``mean_current_share`` as in ``circuits_of``."""

    catalogue: Catalogue
    shelf: Shelf
    lamps: tuple[Lamp, ...]
    kinds: Mapping[str, LampModel]
    wanted: Mapping[str, float]
    mean_current_share: Mapping[str, float]


def given_by(plan: Plan, assessment: Assessment) -> Given:
    """What an assessed plan's circuits are worked out from, to work them out again with something changed."""
    catalogue = assessment.catalogue
    lamps = known_lamps(catalogue, plan.lamps)
    return Given(
        catalogue, shelf_of(plan.drawer.series, catalogue.resistors), lamps,
        wired({p.id: lamp_model_of(catalogue, p) for p in lamps}, assessment.loom.extra_ohm),
        {p.id: assessment.lamps[p.id].wanted_share for p in lamps},
        assessment.effects.mean_current_share,
    )  # fmt: skip


def _feeds(
    catalogue: Catalogue, feeds: tuple[Feed, ...], shelf: Shelf, lamps: tuple[Lamp, ...], hung: Mapping[str, HungLamp],
    apart: bool = False,
) -> list[FeedCircuit]:  # fmt: skip
    named = {leaf.lamp for f in feeds for item in f.items for leaf in lamps_in(item)}
    out = []
    before: set[str] = set()
    for i, feed in enumerate(feeds):
        mine = {leaf.lamp for item in feed.items for leaf in lamps_in(item)}
        if before & mine:
            # Hung on an earlier feed too, as a file from elsewhere may have it: the first place counts.
            hung = {k: v for k, v in hung.items() if k not in before}
        before |= mine
        singles = tuple(p for p in lamps if p.id not in named) if i == 0 else ()
        source = source_of(catalogue, feed.supply)
        out.append(FeedCircuit(feed, source, _sized(catalogue, feed, singles, hung, source, shelf, apart)))
    return out


def _burning(
    net: Netlist,
    kinds: Mapping[str, LampModel],
    currents: Mapping[str, Current],
    solved: Solved | None,
    mean_current_share: Mapping[str, float],
) -> tuple[tuple[Burning, ...], float]:
    """The lamps of a feed, those that are alike and on one column together; the share of the draw that is spent."""
    groups: dict[tuple[int, int, float], tuple[LampModel, int, float]] = {}
    for lamp_id, column in net.lamps.items():
        kind = kinds[lamp_id]
        key = (column, id(kind), mean_current_share.get(lamp_id, 1.0))
        _, count, draw = groups.get(key, (kind, 0, 0.0))
        groups[key] = (kind, count + 1, draw + abs(currents[lamp_id].current_a))
    burning = tuple(
        Burning(column, k.part.colour, k.droop, k.rated_a, k.light.flux_lm * n)
        for (column, *_), (k, n, _) in groups.items()
    )
    draws = max(sum(draw for *_, draw in groups.values()), solved.draw_a if solved is not None else 0.0)
    saved = sum(draw * (1.0 - share) for (*_, share), (_, _, draw) in groups.items())
    return burning, 1.0 - saved / draws if draws > 0 else 1.0


def _sized(
    catalogue: Catalogue, feed: Feed, singles: tuple[Lamp, ...], hung: Mapping[str, HungLamp],
    source: SourceState | None, shelf: Shelf, apart: bool = False,
) -> SizedFeed:  # fmt: skip
    """Resistors of a feed: those in its tree, and those of lamps on their own (by lamp id), and the netlist with them."""
    sizer = Sizer(catalogue, hung, shelf)
    rail = Rail(source.volts, source.highest_v, source.last_v) if source else Rail(0.0, 0.0, 0.0)
    wanted = sum(hung[p.id].wanted_a for p in singles) + sum(sizer.current(x) for x in feed.items)
    # All of it flows together, and the source's own resistance and what is by it take their part.
    ohm = (source.ohms if source else 0.0) + sum(ohms_of(x) for x in feed.head)
    left = rail._replace(volts=max(rail.volts - ohm * wanted, 0.25 * rail.volts))
    for item in feed.items:
        sizer.walk(item, left)
    own: dict[str, Sizing] = {}
    alike: dict[tuple[int, float | None], Sizing] = {}
    for p in singles:
        lamp, key = hung[p.id], (id(hung[p.id]), p.resistor_ohm)
        found = alike.get(key)
        if found is None:
            found = alike[key] = size_resistor(
                left.volts, lamp.junctions, lamp.wanted_a, shelf, p.resistor_ohm, lamp.rated_a, left.highest_v
            )
        own[p.id] = found
    stages = {
        x.id: _base_ohm(catalogue, sizer, x, shelf) for item in feed.items for x in parts_in(item) if isinstance(x, Switched)
    }  # fmt: skip
    pairs = [(p.id, own[p.id]) for p in singles]
    net = netlist(catalogue, feed, pairs, hung, sizer.sizings, stages, apart)
    return SizedFeed(net, sizer.sizings, own, tuple(sizer.branches), rail)


def _base_ohm(catalogue: Catalogue, sizer: Sizer, node: Switched, shelf: Shelf) -> float:
    """The base resistor of an NPN stage for what its lamps take."""
    return base_ohm(catalogue.drives.get(node.drive), sum(sizer.current(x) for x in node.items), shelf)


def base_ohm(pin: DrivePart | None, amps: float, shelf: Shelf) -> float:
    """The base resistor of an NPN stage: a tenth of the load's current from its pin; the next value below or at."""
    if pin is None or amps <= 0:
        return 1e3
    ohm = max(((pin.volts or 5.0) - BASE_V) / (amps / FORCED_GAIN) - pin.ohms, 100.0)
    value = shelf.at_or_above(ohm)
    below = [v for v in shelf.ohms if v <= ohm * 1.001]
    return below[-1] if below else value


def _first_resistor(node: CircuitNode) -> Resistor | None:
    if isinstance(node, Resistor):
        return node
    if isinstance(node, (Series, Parallel)):
        return next((r for x in node.items if (r := _first_resistor(x)) is not None), None)
    return None


def _read(
    feed: Feed, drawn: SizedFeed, solved: Solved | None, source: SourceState | None, hung: Mapping[str, HungLamp],
    out: dict[str, Current], branches: dict[str, BranchState],
) -> None:  # fmt: skip
    """Read the currents off the solved columns."""
    net, nothing = drawn.net, Sizing(0.0, 0.0, 0.0, 0.0, False)
    now = solved.now.tolist() if solved is not None and len(solved.now) else [0.0] * len(net.elements)
    fresh = solved.along[0].tolist() if solved is not None and len(solved.along) else now

    def put(branch: Branch) -> None:
        node = branch.node
        leaves = [x for x in branch.lamps if x.lamp in net.lamps]
        if not leaves:
            return
        first = _first_resistor(node)
        name = node.lamp if isinstance(node, LampRef) else node.id
        sizing = drawn.sizings.get(first.id if first else name) or drawn.sizings.get(name, nothing)
        ohm = resistance_of(node.items, drawn.sizings) if isinstance(node, Series) else sizing.resistor_ohm
        ohm = ohm or sizing.resistor_ohm
        # Two resistors side by side carry half each: the lamp says what flows then.
        direct = first is not None and isinstance(node, BRANCHING) and any(x is first for x in node.items)
        column = net.parts[first.id] if direct and first is not None else net.lamps[leaves[0].lamp]
        most = max(abs(fresh[column]), abs(now[column]))
        shared = isinstance(node, Series) and any(isinstance(x, Parallel) and lamps_in(x) for x in node.items)
        branches[name] = BranchState(
            name, tuple(x.lamp for x in leaves), sizing.wanted_a or hung[leaves[0].lamp].wanted_a,
            sizing.needed_ohm + ohm - sizing.resistor_ohm, ohm,
            sizing.chosen, sizing.headroom_v, now[column], most**2 * ohm, feed.id, branch.rail.volts, branch.rail.last_v, shared,
            first.id if first else "",
        )  # fmt: skip
        for x in leaves:
            at = net.lamps[x.lamp]
            out[x.lamp] = Current(name, hung[x.lamp].wanted_a, ohm, now[at], fresh[at], feed.id, x.reversed)

    for branch in drawn.branches:
        put(branch)
    volts, last = drawn.rail.volts, drawn.rail.last_v
    for key, own in drawn.own.items():
        # As ``put`` would, without its questions: a large plan has thousands of these.
        at = net.lamps[key]
        i, i_fresh = now[at], fresh[at]
        branches[key] = BranchState(
            key, (key,), own.wanted_a, own.needed_ohm, own.resistor_ohm, own.chosen, own.headroom_v, i,
            max(abs(i), abs(i_fresh)) ** 2 * own.resistor_ohm, feed.id, volts, last,
        )  # fmt: skip
        out[key] = Current(key, hung[key].wanted_a, own.resistor_ohm, i, i_fresh, feed.id, False)
    for lamp_id in dict.fromkeys((*net.lamps, *(x.lamp for item in feed.items for x in lamps_in(item)))):
        # One that hangs where nothing is sized takes what it gets; one on a part that isn't known stays dark.
        if lamp_id in hung and lamp_id not in out:
            column = net.lamps.get(lamp_id)
            i, i_fresh = (now[column], fresh[column]) if column is not None else (0.0, 0.0)
            out[lamp_id] = Current(lamp_id, hung[lamp_id].wanted_a, 0.0, i, i_fresh, feed.id, False)
            branches[lamp_id] = BranchState(
                lamp_id,
                (lamp_id,),
                hung[lamp_id].wanted_a,
                0.0,
                0.0,
                False,
                0.0,
                i,
                0.0,
                feed.id,
                volts if column is not None else 0.0,
                last,
            )
