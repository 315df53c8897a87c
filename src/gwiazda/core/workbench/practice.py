"""A hidden fault in one's own plan, with parts as they stray and a meter as it reads: to find with few readings.

Everything comes from the seed: the same one hides the same fault and reads the same.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.electrics.sources import DEPTHS
from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit.parts.diode import VT_300K
from gwiazda.core.light.photometry import relative_light
from gwiazda.core.plan.model import Plan
from gwiazda.core.workbench.diagnosis import REFINED, benches_of
from gwiazda.core.workbench.faults import Fault
from gwiazda.core.workbench.hypotheses import (
    AMP_DIGITS,
    AMP_SHARE,
    LOW_DEPTH,
    VOLT_DIGITS,
    VOLT_SHARE,
    Bench,
    Measurement,
    What,
    looks,
)

RESISTOR = 0.05  # evenly within
SHOWS = 0.2  # of a lamp's light: what the eye sees beside another
LAMP_LIGHT = 0.1  # one sigma of a lamp's light within its bag
LAMP_V = 0.05  # one sigma of a forward voltage (V), half of the spread of a bag


class Trial(NamedTuple):
    """How a search went: whether the fault was among the first three, after how many readings, and the fault."""

    found: bool
    place: int
    readings: int
    fault: Fault


def shown_by(bench: Bench) -> tuple[int, ...]:
    """The single faults that show: some lamp's light is off by a fifth or more. Others nobody looks for."""
    off = np.zeros(len(bench.hypotheses))
    for lamp in bench.lamps:
        light = bench.light(lamp)
        off = np.maximum(off, np.abs(light / max(float(light[0]), 1e-12) - 1.0))
    return tuple(
        k
        for k, h in enumerate(bench.hypotheses)
        if len(h) == 1 and h[0].kind != "source low" and off[k] >= SHOWS and np.isfinite(bench.priors[k])
    )


class Hidden:
    """A circuit with one fault in it, to be measured; its battery as far down as the seed has it, or at ``depth``."""

    def __init__(self, bench: Bench, seed: int, depth: float | None = None) -> None:
        self.bench, self.seed = bench, seed
        rng = np.random.default_rng(seed)
        which = shown_by(bench)
        singles = [bench.hypotheses[k][0] for k in which]
        weights = np.exp(bench.priors[list(which)])
        self.fault: Fault = singles[int(rng.choice(len(singles), p=weights / weights.sum()))]
        self._rows: list[tuple[Fault, ...]] = [(), (self.fault,)]
        over = bench.overlay(self._rows)
        ohms, is_a = over.ohms.copy(), over.is_a.copy()
        for r in bench.resistors.values():
            for c in r.columns:
                ohms[:, c] *= 1.0 + RESISTOR * rng.uniform(-1.0, 1.0)
        for p in bench.lamps.values():
            shift = float(rng.normal(0.0, LAMP_V))
            for c in p.columns:
                is_a[:, c] *= np.exp(-shift / (over.n[0, c] * VT_300K))
        self.depth = float(rng.uniform(0.0, LOW_DEPTH)) if depth is None else depth
        volts = over.volts.copy()
        if bench.is_battery:
            volts[:, 0] = np.interp(self.depth, DEPTHS, bench.source.along_v)
            ohms[:, 0] = np.interp(self.depth, DEPTHS, bench.source.along_ohm)
        self._over = over._replace(volts=volts, ohms=ohms, is_a=is_a)
        self._currents, _ = bench.solved(self._rows, self._over)
        # Lamps of a bag give unlike light at the same current: what the eye compares has that in it.
        self._bag = {i: float(np.exp(rng.normal(0.0, LAMP_LIGHT))) for i in bench.lamps}
        self._rng = rng

    def read(self, what: What, at: str) -> Measurement:
        """One measurement, with the meter's own error."""
        bench, rng = self.bench, self._rng
        if what == "lit":
            return Measurement(what, at, self.seen(at))
        if what == "volts":
            true = float(bench.metered(at, self._rows, self._currents, self._over)[1])
            error = 0.5 * (VOLT_SHARE * abs(true) + VOLT_DIGITS) * float(rng.normal())
            return Measurement(what, at, round(true + error, 2))
        column = 0 if at == bench.feed else (bench.lamps.get(at) or bench.resistors[at]).columns[0]
        true = abs(float(self._currents[1, column]))
        error = 0.5 * (AMP_SHARE * true + AMP_DIGITS) * float(rng.normal())
        return Measurement(what, at, round(max(true + error, 0.0), 5))

    def seen(self, lamp: str) -> float:
        """What the eye says of a lamp: lit (1), dim (.5), dark (0)."""
        kind, c = self.bench.kinds[lamp], self.bench.lamps[lamp].columns[0]
        sound, now = relative_light(np.maximum(self._currents[:, c], 0.0), kind.rated_a, kind.droop)
        if self.fault.kind == "short" and self.fault.at[0] == lamp:
            now = 0.0
        return float(looks(np.array([now * self._bag[lamp]]), float(sound))[0])

    def look(self) -> list[Measurement]:
        """A look at all lamps: one reading at the bench."""
        return [self.read("lit", i) for i in self.bench.lamps]


def searched(bench: Bench, seed: int, readings: int = 3, depth: float | None = None) -> Trial:
    """A search by the best next measurement each: a look first, then the meter."""
    hidden = Hidden(bench, seed, depth)
    seen = hidden.look()
    for _ in range(readings - 1):
        joint = bench.joint(seen)
        asked = {(r.what, r.at) for r in seen}
        left = [(w, a) for w, a in bench.measurable() if w != "lit" and (w, a) not in asked]
        left.sort(key=lambda x: -bench.information_gain(x[0], x[1], joint))
        for w, a in left[:REFINED]:
            bench.over_states(w, a)
        what, at = max(left[:REFINED], key=lambda x: bench.information_gain(x[0], x[1], joint))
        seen.append(hidden.read(what, at))
    share = bench.posterior(seen)
    order = list(np.argsort(-share, kind="stable"))
    place = next(k for k, h in enumerate(order) if bench.hypotheses[h] == (hidden.fault,))
    return Trial(place < 3, place, readings, hidden.fault)


def trials(plan: Plan, assessment: Assessment, count: int, seed: int = 1, depth: float | None = None) -> list[Trial]:
    """So many hidden faults searched for, in the plan's first feed."""
    bench = benches_of(plan, assessment)[0]
    return [searched(bench, seed * 100_000 + k, depth=depth) for k in range(count)]
