"""How far parts from the drawer stray: seeded draws over resistors, forward voltages and the supply, all solved at once.

Resistors lie evenly within their tolerance (±5 %, E96 ±1 %), an adapter within ±5 %, a battery anywhere between fresh and
cut-off; forward voltages are normal, half of their variance common to a bag (physics: the spread given is two sigma).
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.electrics.netlist import MINUS, PLUS, Netlist
from gwiazda.core.assess.electrics.sources import DEPTHS, SourceState
from gwiazda.core.assess.electrics.stage import netlists
from gwiazda.core.assess.lamp.lamp_models import LampModel, known_lamps, lamp_model_of, wired
from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit import network as solver
from gwiazda.core.circuit.parts.diode import VT_300K
from gwiazda.core.circuit.shelf import shelf_of
from gwiazda.core.light.photometry import relative_light
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Feed, Lamp, Plan
from gwiazda.core.quantities import figure

Array = npt.NDArray[np.float64]
DRAWS, SEED = 1000, 1
ADAPTER = 0.05
REGULATOR, LOW_DROP, LOW_DROP_V = (
    0.04,
    0.02,
    0.5,
)  # of what it holds; a low-drop one needs less than so many volts to spare
VISIBLE = 0.20  # difference in luminance between neighbours that is seen
DARK = 99.0  # times as bright: beside such a one a lamp is dark
MOST = 400  # lamps on a feed: beyond, the draws would take seconds


class Spread(NamedTuple):
    """Light of a lamp over that at its rated current, 5, 50 and 95 % of the draws; the same of its current (A)."""

    light: tuple[float, float, float]
    current_a: tuple[float, float, float]


class Mismatch(NamedTuple):
    """Lamps meant alike, in one section or outside: brightest over dimmest less one, 50 and 95 % of the draws.

    It comes of the circuit alone; lamps of one bag differ by some 10 % at the same current besides.
    """

    lamps: tuple[str, ...]
    likely: float
    most: float

    @property
    def visible(self) -> bool:
        return self.likely > VISIBLE

    @property
    def words(self) -> str:
        """“the brightest gives 2.3 × the dimmest: it shows”."""
        if self.likely > DARK:
            return "some stay dark"
        if self.visible:
            return f"the brightest gives {figure(1.0 + self.likely)} × the dimmest: it shows"
        if self.most > VISIBLE:
            return f"the brightest gives {figure(1.0 + self.likely)} × the dimmest, {figure(1.0 + self.most)} × with bad luck"
        return "they look alike"


class Tolerance(NamedTuple):
    lamps: Mapping[str, Spread]
    mismatches: tuple[Mismatch, ...]


def tolerance_of(plan: Plan, assessment: Assessment, draws: int = DRAWS, seed: int = SEED) -> Tolerance:
    """Spread of every lamp's light, and mismatches between lamps that are meant alike; worst first.

    The same plan and seed give the same figures. Feeds with more than ``MOST`` lamps are left out.
    """
    catalogue = assessment.catalogue
    lamps = known_lamps(catalogue, plan.lamps)
    states = [assessment.lamps[p.id] for p in lamps]
    drawn = tuple((p, s.wanted_share, s.section or "") for p, s in zip(lamps, states, strict=True))
    extra_ohm = tuple(sorted(assessment.loom.extra_ohm.items()))
    return _drawn(catalogue, plan.feeds, plan.drawer.series, drawn, extra_ohm, (draws, seed))


@memoize(slots=4, same=lambda a, b: a is b or a == b)
def _drawn(
    catalogue: Catalogue, feeds: tuple[Feed, ...], series: str, drawn: tuple[tuple[Lamp, float, str], ...],
    extra_ohm: tuple[tuple[str, float], ...], count: tuple[int, int],
) -> Tolerance:  # fmt: skip
    """``drawn``: each lamp with the light wanted of it and its section; ``count``: how many draws, by which seed."""
    lamps, homes = tuple(p for p, _, _ in drawn), [home for _, _, home in drawn]
    draws, seed = count
    kinds = wired({p.id: lamp_model_of(catalogue, p) for p in lamps}, dict(extra_ohm))
    shares = {p.id: wanted for p, wanted, _ in drawn}
    rng = np.random.default_rng(seed)
    light: dict[str, Array] = {}
    spreads: dict[str, Spread] = {}
    for _, source, sized in netlists(catalogue, feeds, shelf_of(series, catalogue.resistors), lamps, kinds, shares):
        net = sized.net
        if source is None or not net.lamps or len(net.lamps) > MOST:
            continue
        current = _currents(catalogue, source, net, kinds, series, draws, rng)
        here = np.abs(current[:, list(net.lamps.values())]).T
        bright = np.array([
            relative_light(amps, kinds[i].rated_a, kinds[i].droop) for i, amps in zip(net.lamps, here, strict=True)
        ])  # fmt: skip
        # All at once: a call for each lamp takes longer than solving the thousand networks.
        of_light, of_current = (np.quantile(x, (0.05, 0.5, 0.95), axis=1).T.tolist() for x in (bright, here))
        for lamp_id, row, lit, amp in zip(net.lamps, bright, of_light, of_current, strict=True):
            light[lamp_id] = row
            spreads[lamp_id] = Spread((lit[0], lit[1], lit[2]), (amp[0], amp[1], amp[2]))
    groups: dict[tuple[object, ...], list[str]] = {}
    for lamp, home in zip(lamps, homes, strict=True):
        if lamp.id in light:
            alike = (lamp.part, lamp.units, lamp.wanted, lamp.sanded, lamp.filed_mm, lamp.tint, lamp.frosted_cap)
            groups.setdefault((home, *alike), []).append(lamp.id)
    found = [_mismatch(tuple(ids), light) for ids in groups.values() if len(ids) > 1]
    return Tolerance(spreads, tuple(sorted(found, key=lambda m: -m.likely)))


def _mismatch(ids: tuple[str, ...], light: Mapping[str, Array]) -> Mismatch:
    each = np.array([light[i] for i in ids])
    dimmest = np.maximum(each.min(axis=0), 1e-9)
    apart = each.max(axis=0) / dimmest - 1.0
    return Mismatch(ids, float(np.quantile(apart, 0.5)), float(np.quantile(apart, 0.95)))


def _currents(
    catalogue: Catalogue, source: SourceState, net: Netlist, kinds: Mapping[str, LampModel], series: str, draws: int,
    rng: np.random.Generator,
) -> Array:  # fmt: skip
    """Currents (A) of a feed's elements, source left out, for every draw: (draws, elements)."""
    network = solver.Network([solver.Source("source", PLUS, MINUS, source.volts, source.ohms), *net.elements])
    volts, ohms = np.tile(network.volts, (draws, 1)), np.tile(network.ohms, (draws, 1))
    is_a = np.tile(network.is_a, (draws, 1))
    if source.along_v:
        depth = rng.random(draws)
        volts[:, 0] = np.interp(depth, DEPTHS, source.along_v)
        ohms[:, 0] = np.interp(depth, DEPTHS, source.along_ohm)
    else:
        volts[:, 0] *= 1.0 + ADAPTER * rng.uniform(-1.0, 1.0, draws)
    stray = 0.01 if series == "E96" else 0.05
    for i, element in enumerate(net.elements, 1):
        if isinstance(element, solver.Resistor):
            ohms[:, i] *= 1.0 + stray * rng.uniform(-1.0, 1.0, draws)
        elif isinstance(element, solver.Regulator) and element.id.startswith("u."):
            held = LOW_DROP if element.dropout_v < LOW_DROP_V else REGULATOR
            volts[:, i] *= 1.0 + held * rng.uniform(-1.0, 1.0, draws)
    bags: dict[str, Array] = {}
    for lamp_id, column in net.lamps.items():
        part = kinds[lamp_id].part
        sigma = catalogue.families[part.family].spread_v / 2.0
        bag = bags.setdefault(part.id, rng.standard_normal(draws))
        for j in range(part.leds):
            i = column + j + 1
            # ΔV = n·Vt·ln(Is/Is'): a shift in voltage is a factor on the saturation current.
            shift = sigma * np.sqrt(0.5) * (bag + rng.standard_normal(draws))
            is_a[:, i] *= np.exp(-shift / (network.n[i] * VT_300K))
    return network.solve(volts=volts, ohms=ohms, is_a=is_a).currents[:, 1:]
