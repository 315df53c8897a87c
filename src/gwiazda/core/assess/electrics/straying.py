"""How far each lamp's current strays, to first order: from its source, the volts of its bag and its own, its resistor.

A string's current is what is left of the source over its resistor and the slopes of its lamps, I = (Vs − ΣVf)/(R + N·(n·Vt/I + Rs)): what moves Vs or
Vf by ΔV moves it by ΔV/(I·R + N·(n·Vt + I·Rs)). The source and a bag move all lamps alike; each lamp's own volts and its resistor move one string.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

from gwiazda.core.assess.electrics.tolerance import ADAPTER, LOW_DROP, LOW_DROP_V, REGULATOR
from gwiazda.core.assess.lamp.lamp_models import LampModel
from gwiazda.core.assess.states import BranchState, Strays
from gwiazda.core.circuit.parts.diode import VT_300K
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.spreads import MEASURED
from gwiazda.core.plan.model import BRANCHING, CircuitNode, Feed, LampRef, Regulated, Switched

EVEN = 1.0 / math.sqrt(3.0)  # one sigma of what lies evenly within ± 1
MOST = 0.8  # beyond, a first order says nothing
RESISTOR = {"E96": 0.01}  # within; ±5 % for the others


def current_spreads(
    catalogue: Catalogue, feeds: tuple[Feed, ...], series: str, branches: Mapping[str, BranchState], kinds: Mapping[str, LampModel],
) -> dict[str, Strays]:  # fmt: skip
    """One sigma of each lamp's current over itself: what it shares with all on its source, with others of its bag, and its own.

    Parameters
    ----------
    catalogue, feeds, series
        The parts, the sources, the series that resistors are of.
    branches : mapping
        The strings and groups as they are solved.
    kinds : mapping
        The lamps' models by id.

    Returns
    -------
    dict
        Three shares (0 to .8) a lamp.
    """
    volts = {lamp: v for f in feeds for item in f.items for lamp, v in _behind(catalogue, item, None)}
    straight = {f.id: _source_v(catalogue, f) for f in feeds}
    within = RESISTOR.get(series, 0.05) * EVEN
    out: dict[str, Strays] = {}
    for b in branches.values():
        mine = [kinds[i] for i in b.lamps if i in kinds]
        if not mine or b.current_a <= 0.0:
            continue
        lamps_a = b.current_a / len(mine) if b.side_by_side else b.current_a
        head = b.resistor_ohm * b.current_a
        dies = [(j, _own_v(catalogue, k)) for k in (mine[:1] if b.side_by_side else mine) for j in k.junctions]
        slope = math.fsum(j.n * VT_300K + lamps_a * j.rs_ohm for j, _ in dies)
        room = max(head + slope, 0.05)
        held = volts.get(b.lamps[0])
        source = held if held is not None else straight.get(b.feed, 0.0) * b.supply_v
        bag = math.fsum(_bag_v(catalogue, k) for k in (mine[:1] if b.side_by_side else mine) for _ in k.junctions)
        own = math.sqrt(0.5) * math.sqrt(math.fsum(v * v for _, v in dies))
        if b.side_by_side and len(mine) > 1:
            # They share what the resistor passes: the one with the lower volts takes from the others.
            apart = own * math.sqrt(1.0 - 1.0 / len(mine)) / max(slope, 0.02)
            own_share = math.hypot(apart, within * head / room)
        else:
            own_share = math.hypot(own, within * head) / room
        found = (min(source / room, MOST), min(bag / room, MOST), min(own_share, MOST))
        out.update(dict.fromkeys(b.lamps, found))
    return out


def _behind(catalogue: Catalogue, node: CircuitNode, held: float | None) -> Iterator[tuple[str, float | None]]:
    """The lamps of a part of the tree, with one sigma of the volts (V) that something holds before them; None for the source's own."""
    if isinstance(node, LampRef):
        yield node.lamp, held
        return
    if isinstance(node, Regulated):
        part = catalogue.regulators.get(node.part)
        held = (LOW_DROP if part is not None and part.dropout_v < LOW_DROP_V else REGULATOR) * EVEN * node.volts
    elif isinstance(node, Switched):
        drive = catalogue.drives.get(node.part)
        held = 0.0 if drive is not None and drive.volts > 0 else held  # a board's own rail
    for item in node.items if isinstance(node, BRANCHING) else ():
        yield from _behind(catalogue, item, held)


def _own_v(catalogue: Catalogue, kind: LampModel) -> float:
    """One sigma of a die's forward voltage, V."""
    family = catalogue.families[kind.part.family]
    return (MEASURED if family.basis == "measured" else 1.0) * family.spread_v / 2.0


def _bag_v(catalogue: Catalogue, kind: LampModel) -> float:
    """What of that its bag has in common."""
    known = catalogue.known.get(("volts", kind.part.id))
    return known.sigma if known is not None else math.sqrt(0.5) * _own_v(catalogue, kind)


def _source_v(catalogue: Catalogue, feed: Feed) -> float:
    """One sigma of a source's volts over its nominal ones: an adapter's. A battery's go with its depth, which is said with the figure."""
    if (known := catalogue.known.get(("source", feed.supply.part))) is not None:
        return known.sigma
    part = catalogue.sources.get(feed.supply.part)
    return ADAPTER * EVEN if part is not None and part.kind != "battery" and not part.adjustable else 0.0
