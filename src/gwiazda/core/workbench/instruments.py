"""A simulated bench supply with a current limit, and a meter, clipped onto any two points of the plan's circuits.

The plan's own source is off while the bench supply is on, as at the bench.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.electrics.netlist import MINUS, PLUS, Netlist, solve
from gwiazda.core.assess.electrics.stage import FeedCircuit, Given, given_by, netlists
from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit import network as solver
from gwiazda.core.errors import CircuitError
from gwiazda.core.light.photometry import relative_light
from gwiazda.core.plan.model import Plan

OWN_OHM = 0.05  # of the bench supply's leads and terminals
LIT = 1e-4  # of its rated light: below, a lamp is called dark
STEPS = 60


class Clip(NamedTuple):
    """A point of the drawn circuit: an end of a lamp or part (0: where plus comes in, 1: the other), or of a source."""

    id: str
    end: int


class MeterReading(NamedTuple):
    """What a meter shows between two clips (V), and through what both are on, if it is one part (A)."""

    volts: float
    current_a: float | None


class SupplyReading(NamedTuple):
    """What a bench supply shows: V, A, whether its limit holds it back; the light of each lamp over its rated light."""

    volts: float
    current_a: float
    limited: bool
    light: Mapping[str, float]
    currents: Mapping[str, float]

    @property
    def lit(self) -> tuple[str, ...]:
        """Lamps that can be seen to light."""
        return tuple(i for i, share in self.light.items() if share > LIT)


def _circuits(plan: Plan, assessment: Assessment) -> tuple[Given, list[FeedCircuit]]:
    given = given_by(plan, assessment)
    return given, netlists(given.catalogue, plan.feeds, given.shelf, given.lamps, given.kinds, given.wanted)


def _node(feed_id: str, net: Netlist, clip: Clip) -> str | None:
    """The node a clip is on in a feed's netlist, if it is there."""
    if clip.id == feed_id:
        return PLUS if clip.end == 0 else MINUS
    ends = net.ends.get(clip.id)
    return ends[min(clip.end, 1)] if ends is not None else None


def _on(circuits: list[FeedCircuit], a: Clip, b: Clip) -> tuple[FeedCircuit, str, str]:
    for one in circuits:
        first, second = _node(one.feed.id, one.drawn.net, a), _node(one.feed.id, one.drawn.net, b)
        if first is not None and second is not None:
            return one, first, second
    raise CircuitError("Clips", "they aren't on one circuit", "two points that hang on the same source")


def measure(plan: Plan, assessment: Assessment, a: Clip, b: Clip) -> MeterReading:
    """What a meter reads with the plan's sources on, red on ``a``, black on ``b``.

    Raises
    ------
    CircuitError
        When both aren't points of one circuit.
    """
    _, circuits = _circuits(plan, assessment)
    one, first, second = _on(circuits, a, b)
    if one.source is None:
        raise CircuitError("Clips", "the source isn't known", "a source of the catalogue")
    solved = solve(one.source, one.drawn.net.elements, one.drawn.net.alike)
    current: float | None = None
    if a.id == b.id:
        column = one.drawn.net.lamps.get(a.id, one.drawn.net.parts.get(a.id))
        current = float(solved.now[column]) if column is not None else solved.draw_a
    volts = solved.volts
    return MeterReading(volts.get(first, 0.0) - volts.get(second, 0.0), current)


def supply_on(
    plan: Plan, assessment: Assessment, red: Clip, black: Clip, volts: float, limit_a: float
) -> SupplyReading:
    """What a bench supply shows, and what lights, clipped onto two points with the plan's own sources off.

    Raises
    ------
    CircuitError
        When both aren't points of one circuit, or are the same one.
    """
    given, circuits = _circuits(plan, assessment)
    one, plus, minus = _on(circuits, red, black)
    if plus == minus:
        # Both clips on one piece of wire: all of the limit flows, and nothing is left over it.
        return SupplyReading(0.0, limit_a, True, {}, {})
    net = one.drawn.net
    network = solver.Network([solver.Source("bench", plus, minus, volts, OWN_OHM), *net.elements], ground=minus)

    def at(emf: float) -> solver.Operating:
        values = network.volts.copy()
        values[0] = emf
        return network.solve(volts=values)

    answer = at(volts)
    limited = bool(answer.currents[0, 0] > limit_a)
    if limited:
        low, high = 0.0, volts
        for _ in range(STEPS):
            middle = 0.5 * (low + high)
            low, high = (low, middle) if at(middle).currents[0, 0] > limit_a else (middle, high)
        answer = at(low)
        shown = low
    else:
        shown = volts
    drawn = float(answer.currents[0, 0])
    light, currents = {}, {}
    for lamp_id, column in net.lamps.items():
        kind = given.kinds[lamp_id]
        current = max(float(answer.currents[0, column + 1]), 0.0)
        currents[lamp_id] = current
        light[lamp_id] = float(relative_light(np.array([current]), kind.rated_a, kind.droop)[0])
    return SupplyReading(shown - OWN_OHM * drawn, drawn, limited, light, currents)
