"""How the lamps hang on the supply: strings, their resistors, the network and its operating points."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.circuit.diode import VT_300K, parameters_from_points
from gwiazda.core.circuit.network import Diode, Element, Network, Resistor, Source
from gwiazda.core.circuit.series import at_or_above
from gwiazda.core.parts.catalogue import Family, LampPart, SourcePart, discharge_depths, families
from gwiazda.core.plan.models import Lamp as PlanLamp
from gwiazda.core.plan.models import LampString, Supply
from gwiazda.core.power.discharge import unregulated

Array = npt.NDArray[np.float64]

HALF_TOLERANCE = {"E6": 0.025, "E12": 0.025, "E24": 0.025, "E96": 0.005}  # of 5 % and 1 % parts
BUILT_IN_OHM, BUILT_IN_SHARE = 40.0, 0.02  # from here on a lamp counts as having a resistor of its own
DEPTHS = np.linspace(0.0, 1.0, 81)


class Junction(NamedTuple):
    """A lamp part as a diode; several dies side by side count as one larger one."""

    n: float
    is_a: float
    rs_ohm: float

    def volts(self, current_a: float) -> float:
        # One number: math is ten times as fast as NumPy here, and a plan asks for hundreds.
        return self.n * VT_300K * math.log1p(current_a / self.is_a) + self.rs_ohm * current_a


# The bridge in the lead of a rectified lamp: silicon diodes as physics gives them, two of them in the current's way.
BRIDGE = (1.75, 2.5e-9, 0.6)


@lru_cache(maxsize=512)
def _junctions(
    data: Family, dies: int, leds: int, inner_ohm: float, rectified: bool, units: int
) -> tuple[Junction, ...]:
    n, is_a = parameters_from_points(data.v20_v, data.v1_v, data.rs_ohm)
    side_by_side = dies * units
    led = Junction(n, is_a * side_by_side, data.rs_ohm / side_by_side)
    first = led._replace(rs_ohm=led.rs_ohm + inner_ohm / units)
    bridge = (Junction(*BRIDGE),) * 2 if rectified else ()
    return (first, *(led,) * (leds - 1), *bridge)


def junctions(part: LampPart, units: int = 1) -> tuple[Junction, ...]:
    """The diodes of a lamp in series, built-in resistors counted with the first of them.

    More than one die side by side from 40 mA rated on, 20 mA each; units of a strip lie side by side.
    """
    dies = max(1, round(part.rated_ma / 20.0))
    return _junctions(families()[part.family], dies, part.leds, part.inner_ohm, part.rectified, units)


def forward_v(diodes: tuple[Junction, ...], current_a: float) -> float:
    """Voltage (V) over a lamp at a current."""
    return sum(j.volts(current_a) for j in diodes)


class Feed(NamedTuple):
    """The supply as the network sees it: EMF and resistance at its nominal state, and along its discharge."""

    volts: float
    ohms: float
    part: SourcePart
    capacity_ah: float = 0.0
    i50_a: float = 1.0
    cutoff_v: float = 0.0
    along_v: tuple[float, ...] = ()
    along_ohm: tuple[float, ...] = ()

    @property
    def limit_a(self) -> float:
        """Current (A) an adapter should give at most; a battery's I50, where half its capacity is lost."""
        return self.part.rated_a * self.part.use_share if self.part.rated_a else self.i50_a


def feed_of(supply: Supply, part: SourcePart) -> Feed:
    """Series cells add voltage and resistance, parallel ones capacity."""
    s, p = supply.in_series, supply.in_parallel
    if part.kind != "battery":
        volts = supply.volts if supply.volts is not None and part.adjustable else part.nominal_v
        if part.kind == "unregulated":
            emf, ohm = unregulated(volts, part.rated_a)
            return Feed(emf, ohm, part)
        return Feed(volts, 0.0, part)
    emf_along = np.interp(DEPTHS, discharge_depths(), part.open_v) * s
    ohm_along = (part.r_fresh_ohm + (part.r_end_ohm - part.r_fresh_ohm) * DEPTHS) * s / p
    return Feed(
        part.nominal_v * s,
        part.r_fresh_ohm * s / p,
        part,
        part.capacity_mah * 1e-3 * p,
        part.i50_a * p,
        part.cutoff_v * s,
        tuple(emf_along.tolist()),
        tuple(ohm_along.tolist()),
    )


class Rung(NamedTuple):
    """One string across the rails: lamps in series behind one resistor."""

    id: str
    lamps: tuple[str, ...]
    fixed_ohm: float | None


def rungs_of(lamps: tuple[PlanLamp, ...], strings: tuple[LampString, ...]) -> tuple[Rung, ...]:
    """The strings of the plan, and each other lamp on its own."""
    strung = {lamp for string in strings for lamp in string.lamps}
    named = [Rung(s.id, s.lamps, s.resistor_ohm) for s in strings]
    single = [Rung(lamp.id, (lamp.id,), lamp.resistor_ohm) for lamp in lamps if lamp.id not in strung]
    return (*named, *single)


class Sizing(NamedTuple):
    """Resistor of a rung: what the wanted current needs, and what is put in."""

    wanted_a: float
    needed_ohm: float
    resistor_ohm: float
    headroom_v: float
    chosen: bool


@lru_cache(maxsize=8192)
def size_resistor(
    feed_v: float,
    junctions: tuple[Junction, ...],
    wanted_a: float,
    series: str,
    fixed_ohm: float | None,
    rated_a: float = float("inf"),
) -> Sizing:
    """R = (Vs − ΣVf(I))/I at the wanted current, next value of the series at or above.

    A value that falls short by less than half its own tolerance counts as reached, as long as it keeps the
    lamps under ``rated_a`` (A): the part from the drawer is no truer than that.
    """
    headroom = feed_v - sum(j.volts(wanted_a) for j in junctions)
    needed = headroom / wanted_a
    if fixed_ohm is not None:
        return Sizing(wanted_a, needed, fixed_ohm, headroom, False)
    if needed <= BUILT_IN_SHARE * sum(j.rs_ohm for j in junctions) and any(j.rs_ohm >= BUILT_IN_OHM for j in junctions):
        # Its own resistors are enough: nothing is put before it.
        return Sizing(wanted_a, needed, 0.0, headroom, True)
    slack = HALF_TOLERANCE[series] if wanted_a * (1.0 + HALF_TOLERANCE[series]) <= rated_a else 0.0
    return Sizing(wanted_a, needed, at_or_above(max(needed * (1.0 - slack), 1.0), series), headroom, True)


class Solved(NamedTuple):
    """Currents of the rungs: ``now`` (rungs,) at the nominal state, ``along`` (depths, rungs) as a battery empties."""

    now: Array
    along: Array
    terminal_v: Array


RungKey = tuple[float, tuple[Junction, ...]]


@lru_cache(maxsize=8)
def solve_rungs(feed: Feed, rungs: tuple[RungKey, ...]) -> Solved:
    """Solve the network of all rungs on one supply, at its nominal state and at every depth of discharge."""
    if not rungs:
        empty = np.zeros((len(feed.along_v), 0))
        return Solved(np.zeros(0), empty, np.array(feed.along_v))
    elements: list[Element] = [Source("supply", "plus", "0", feed.volts, feed.ohms)]
    for i, (ohm, junctions) in enumerate(rungs):
        elements.append(Resistor(f"r{i}", "plus", f"n{i}.0", ohm))
        for j, d in enumerate(junctions):
            after = "0" if j == len(junctions) - 1 else f"n{i}.{j + 1}"
            elements.append(Diode(f"d{i}.{j}", f"n{i}.{j}", after, d.n, d.is_a, d.rs_ohm))
    network = Network(elements)
    columns = [i for i, e in enumerate(elements) if isinstance(e, Resistor)]
    now = network.solve().currents[0, columns]
    if not feed.along_v:
        return Solved(now, np.zeros((0, len(rungs))), np.zeros(0))
    volts = np.tile(network.volts, (len(feed.along_v), 1))
    ohms = np.tile(network.ohms, (len(feed.along_v), 1))
    volts[:, 0], ohms[:, 0] = feed.along_v, feed.along_ohm
    answer = network.solve(volts=volts, ohms=ohms)
    terminal = np.array(feed.along_v) - np.array(feed.along_ohm) * answer.currents[:, 0]
    return Solved(now, answer.currents[:, columns], terminal)
