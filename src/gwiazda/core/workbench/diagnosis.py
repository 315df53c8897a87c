"""From readings to what is broken: every fault of a feed solved, and pairs of them where one leaves a reading unsaid, scored by how well
they tell the readings, ranked; and what to measure next.

log P(fault | readings) = log prior + Σ log of what each reading is worth, σ² = meter² + tolerance²; a wild reading has 2 %, a dark lamp
called lit 0.1 %.
The meter: V ±(0.8 % + 2 digits), A ±(1.5 % + 3 digits), σ half of them. The next measurement is the one whose outcomes, under the
faults as likely as they are now, tell most: the entropy of the outcomes, as noise is small beside what parts them.
"""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.circuit.netlist import MINUS, PLUS
from gwiazda.core.assess.circuit.stage import FeedCircuit, given_by, netlists
from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit.network import Network, Operating, Resistor, Source
from gwiazda.core.errors import CircuitError, PlanError
from gwiazda.core.light.photometry import relative_light
from gwiazda.core.memo import kept
from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import figure
from gwiazda.core.workbench.faults import (
    BRIDGE_OHM,
    PRIOR,
    Fault,
    Overlay,
    bridges,
    columns_of,
    overlaid,
    single_faults,
)

Array = npt.NDArray[np.float64]
What = Literal["volts", "amps", "lit"]
WILD, WILD_LOOK = 0.02, 0.001  # of a meter or of how bright; of dark called lit, or the other way round
SOUND = 0.5  # prior that nothing is broken, before anything is read
LIT = 1e-3  # of its rated light: below, a lamp is called dark
DIM, BRIGHT = (
    0.75,
    1.4,
)  # of what it should give: beyond these it is called dim, or too bright, beside its like; a bag strays by a tenth
METER_OHM = 10e6
ALIKE_V = 1e-3
DEAD_A = 1e-6  # from the source: less is a way that is open
TELLS = 0.02  # of a lamp's current: a bridge that changes less is never noticed
VOLT_SHARE, VOLT_DIGITS = 0.008, 0.02
AMP_SHARE, AMP_DIGITS = 0.015, 3e-5
VOLT_TOLERANCE, VOLT_SPREAD = 0.04, 0.06  # of parts: share of what is read, and a forward voltage's own
AMP_TOLERANCE = 0.07
LIKELY, MOST_DOUBLES = 20, 600
REFINED = 3  # measurements worked out with the meter on them before the best is named


class Reading(NamedTuple):
    """One look or measurement: volts over a lamp, resistor or source, amps through it, or how a lamp looks: as it should (1),
    too bright (2), dim (.5), dark (0)."""

    what: What
    at: str
    value: float


class Suspect(NamedTuple):
    """A hypothesis: its faults, how likely it is now."""

    faults: tuple[Fault, ...]
    share: float

    @property
    def words(self) -> str:
        return "; and ".join(f.words for f in self.faults) or "nothing is broken"


class Next(NamedTuple):
    """What to measure next, and how much it tells (bits)."""

    what: What
    at: str
    bits: float


class Diagnosis(NamedTuple):
    """Suspects, likeliest first; measurements, most telling first; how well the best one tells the readings (σ, rms)."""

    suspects: tuple[Suspect, ...]
    next: tuple[Next, ...]
    misfit: float


class Bench:
    """A feed with all its hypotheses solved.

    Parameters
    ----------
    circuit : FeedCircuit
    kinds : rated current (A) and droop of each lamp, and its colour and units
    """

    def __init__(self, circuit: FeedCircuit, given) -> None:  # type: ignore[no-untyped-def]
        source, net = circuit.source, circuit.drawn.net
        assert source is not None
        self.feed = circuit.feed.id
        self.network = Network([Source("source", PLUS, MINUS, source.volts, source.ohms), *net.elements])
        self.ends = {**net.ends, self.feed: (PLUS, MINUS)}
        lamps, resistors = columns_of(self.network)
        self.lamps = {
            i: c._replace(colour=given.kinds[i].part.colour, units=_units(given, i))
            for i, c in lamps.items()
            if i in given.kinds
        }
        self.resistors = resistors
        self.kinds = {i: given.kinds[i] for i in self.lamps}
        singles = single_faults(list(self.lamps.values()), list(self.resistors.values()))
        self.bridges = bridges(list(self.lamps.values()), self.ends)
        self.hypotheses: list[tuple[Fault, ...]] = [(), *((f,) for f in singles)]
        self.node = {name: k for k, name in enumerate(self.network.nodes)}
        self._base: Bench | None = None  # the singles, where pairs are beside them
        self._said: dict[tuple[What, str], Array] = {}
        self.currents, self.volts = self.solved(self.hypotheses)
        self._bridged()
        self.priors = np.log(np.array([SOUND, *(self._prior(h[0]) for h in self.hypotheses[1:])]))

    def _bridged(self) -> None:
        """Bridges between neighbours that change something come among the hypotheses: many join like to like, and nobody ever knows."""
        across: list[tuple[Fault, ...]] = [
            (Fault("bridge", pair),)
            for pair, (a, b) in self.bridges.items()
            if abs(float(self._at(a)[0] - self._at(b)[0])) > ALIKE_V  # else nothing flows over it
        ]
        if not across:
            return
        currents, volts = self.solved(across)
        columns = [c.columns[0] for c in self.lamps.values()]
        sound = np.maximum(np.abs(self.currents[0, columns]), 1e-9)
        tells = (np.abs(currents[:, columns] - self.currents[0, columns]) / sound).max(axis=1) > TELLS
        self.hypotheses += [h for h, on in zip(across, tells, strict=True) if on]
        self.currents = np.vstack([self.currents, currents[tells]])
        self.volts = np.vstack([self.volts, volts[tells]])

    def _prior(self, fault: Fault) -> float:
        count = max(len(self.lamps), 1)
        return (1.0 - SOUND) * PRIOR[fault.kind] / count

    def overlay(self, hypotheses: Sequence[tuple[Fault, ...]]) -> Overlay:
        """The network's numbers under each hypothesis."""
        return overlaid(self.network, self.lamps, self.resistors, hypotheses)

    def solved(self, hypotheses: Sequence[tuple[Fault, ...]], over: Overlay | None = None) -> tuple[Array, Array]:
        """Currents (H, elements) and volts of the nodes (H, nodes) under each hypothesis; ``over``: its numbers, where they stray."""
        over = over or self.overlay(hypotheses)
        currents = np.empty((len(hypotheses), len(self.network.elements)))
        volts = np.empty((len(hypotheses), len(self.network.nodes)))
        for across, rows in self._by_bridge(hypotheses).items():
            network, answer = self._answer(across, over, rows)
            currents[rows] = answer.currents[:, : currents.shape[1]]
            place = [network.nodes.index(name) for name in self.network.nodes]
            volts[rows] = answer.volts[:, place]
        return currents, volts

    def _by_bridge(self, hypotheses: Sequence[tuple[Fault, ...]]) -> dict[tuple[tuple[str, str], ...], list[int]]:
        """Rows of the hypotheses by the nodes that solder joins in them: each is a network of its own."""
        out: dict[tuple[tuple[str, str], ...], list[int]] = {}
        for row, several in enumerate(hypotheses):
            across = tuple(self.bridges[f.at[0], f.at[-1]] for f in several if f.kind == "bridge")
            out.setdefault(across, []).append(row)
        return out

    def _answer(
        self, across: tuple[tuple[str, str], ...], over: Overlay, rows: list[int], meter: tuple[str, str] | None = None
    ) -> tuple[Network, Operating]:
        """Some rows solved in the network with bridges, and a meter behind them, in it."""
        more = [Resistor(f"bridge{k}", *nodes, BRIDGE_OHM) for k, nodes in enumerate(across)]
        if meter is not None:
            more.append(Resistor("meter", *meter, METER_OHM))
        network = Network([*self.network.elements, *more]) if more else self.network
        none = np.zeros((len(rows), len(more)))
        ohms = none + np.array([BRIDGE_OHM] * len(across) + [METER_OHM] * (meter is not None))
        values = [np.hstack([x[rows], y]) for x, y in zip(over, (none, ohms, none, none + 1.0), strict=True)]
        volts, ohms, n, is_a = values
        return network, network.solve(volts=volts, ohms=ohms, n=n, is_a=is_a)

    def with_doubles(self, likely: Sequence[int]) -> Bench:
        """The same feed with pairs of the likeliest single faults, by their rows, among the hypotheses as well."""
        singles = [self.hypotheses[k][0] for k in likely if len(self.hypotheses[k]) == 1]
        pairs = [(a, b) for i, a in enumerate(singles) for b in singles[i + 1 :] if a.at != b.at][:MOST_DOUBLES]
        out = copy(self)
        if pairs:
            out.hypotheses = [*self.hypotheses, *pairs]
            prior = np.array([self._prior(a) * self._prior(b) for a, b in pairs])
            out.priors = np.concatenate([self.priors, np.log(prior)])
            out._base = self
            currents, volts = self.solved(pairs)
            out.currents = np.vstack([self.currents, currents])
            out.volts = np.vstack([self.volts, volts])
            out._said = {}
        return out

    def told_by(self, row: int, r: Reading) -> bool:
        """Whether a hypothesis tells a reading: a look as it is, a figure within three sigma."""
        said = float(self.predicted(r.what, r.at)[row])
        return abs(said - r.value) < (0.25 if r.what == "lit" else 3.0 * float(sigma_of(r.what, said)))

    # -- what each hypothesis says -------------------------------------------------------------------------

    def predicted(self, what: What, at: str) -> Array:
        """What a measurement would be under each hypothesis (H,)."""
        key = (what, at)
        if key not in self._said:
            self._said[key] = self._predicted(what, at)
        return self._said[key]

    def _predicted(self, what: What, at: str) -> Array:
        if what == "volts":
            first = 0 if self._base is None else len(self._base.hypotheses)
            own = self.metered(at, self.hypotheses[first:], self.currents[first:])
            return own if self._base is None else np.concatenate([self._base.predicted(what, at), own])
        if what == "amps":
            if at == self.feed:
                return np.abs(self.currents[:, 0])
            columns = (self.lamps.get(at) or self.resistors[at]).columns
            return np.abs(self.currents[:, columns[0]])
        light = self.light(at)
        return looks(light, float(light[0]))

    def metered(
        self, at: str, hypotheses: Sequence[tuple[Fault, ...]], currents: Array, over: Overlay | None = None
    ) -> Array:
        """Volts (H,) between the ends of a part with a meter on them, under each hypothesis with its ``currents``: where nothing flows,
        the meter's own resistance decides what it shows."""
        a, b = self.ends[at][:2]
        out = np.zeros(len(hypotheses))
        if a == b:
            return out
        over = over or self.overlay(hypotheses)
        # With the way from the source open there is nothing to read behind it: only over what is open itself.
        dead = (
            np.abs(currents[:, 0]) < DEAD_A if abs(self.currents[0, 0]) > 100.0 * DEAD_A else np.zeros(len(out), bool)
        )
        for across, rows in self._by_bridge(hypotheses).items():
            live = [k for k in rows if not dead[k] or any(at in f.at for f in hypotheses[k])]
            if not live:
                continue
            try:
                out[live] = self._answer(across, over, live, (a, b))[1].currents[:, -1] * METER_OHM
            except CircuitError:
                # Parts that hang in the air settle nowhere: as if the meter took nothing.
                network, answer = self._answer(across, over, live)
                where = {name: k for k, name in enumerate(network.nodes)}
                first, second = (answer.volts[:, where[x]] if x in where else np.zeros(len(live)) for x in (a, b))
                out[live] = first - second
        return out

    def roughly(self, at: str) -> Array:
        """Volts over a part as if the meter took nothing: near enough to tell which measurement says most."""
        a, b = self.ends[at][:2]
        return self._at(a) - self._at(b)

    def light(self, lamp: str) -> Array:
        """A lamp's light over that at its rated current, under each hypothesis (H,); one that is shorted gives none."""
        kind = self.kinds[lamp]
        light = relative_light(np.maximum(self.currents[:, self.lamps[lamp].columns[0]], 0.0), kind.rated_a, kind.droop)
        return np.where(self._shorted(lamp), 0.0, light)

    def _shorted(self, lamp: str) -> npt.NDArray[np.bool_]:
        return np.array([any(f.kind == "short" and f.at[0] == lamp for f in h) for h in self.hypotheses])

    def _at(self, node: str) -> Array:
        return self.volts[:, self.node[node]] if node in self.node else np.zeros(len(self.volts))

    def worth(self, r: Reading) -> Array:
        """Log of what a reading is worth under each hypothesis (H,)."""
        said = self.predicted(r.what, r.at)
        if r.what == "lit":
            # Whether a lamp burns nobody mistakes; how brightly, beside what it should, one may.
            burns = (said > 0.25) == (r.value > 0.25)
            return np.asarray(
                np.log(np.where(np.abs(said - r.value) < 0.25, 1.0 - WILD, np.where(burns, WILD, WILD_LOOK)))
            )
        sigma = sigma_of(r.what, said)
        good = (1.0 - WILD) * np.exp(-0.5 * ((r.value - said) / sigma) ** 2) / (sigma * np.sqrt(2.0 * np.pi))
        wide = max(float(np.abs(said).max()), abs(r.value), 1e-9)
        return np.asarray(np.log(good + WILD / (2.0 * wide)))

    def measurable(self) -> list[tuple[What, str]]:
        """All that can be measured here."""
        out: list[tuple[What, str]] = [("amps", self.feed)]
        out += [("lit", i) for i in self.lamps]
        out += [("volts", i) for i in (*self.lamps, *(f for f in self.resistors if f in self.ends))]
        return list(dict.fromkeys(out))

    def judged(self, readings: Sequence[Reading]) -> Array:
        """How likely each hypothesis is (H,), after readings."""
        log = self.priors + sum((self.worth(r) for r in readings), np.zeros(len(self.priors)))
        share = np.exp(log - log.max())
        return np.asarray(share / share.sum())

    def told(self, what: What, at: str, share: Array) -> float:
        """How much a measurement would tell (bits)."""
        rough = what == "volts" and (what, at) not in self._said
        said = self.roughly(at) if rough else self.predicted(what, at)
        if what == "lit":
            bins = np.rint(said * 2.0)
        else:
            step = 4.0 * sigma_of(what, said)
            bins = np.rint(said / np.maximum(step, 1e-12))
        _, place = np.unique(bins, return_inverse=True)
        mass = np.bincount(place, weights=share)
        mass = mass[mass > 1e-12]
        return float(-(mass * np.log2(mass)).sum())


def looks(light: Array, sound: float) -> Array:
    """What the eye says of a light (over rated) that should be ``sound``."""
    sound = max(sound, 1e-12)
    dim = np.where(light < DIM * sound, 0.5, np.where(light > BRIGHT * sound, 2.0, 1.0))
    return np.where(light < LIT, 0.0, dim)


def sigma_of(what: What, said: Array | float) -> Array:
    """One sigma of a reading (V or A): the meter's and the parts' together."""
    size = np.abs(np.asarray(said, np.float64))
    if what == "volts":
        return np.sqrt((0.5 * (VOLT_SHARE * size + VOLT_DIGITS)) ** 2 + (VOLT_TOLERANCE * size) ** 2 + VOLT_SPREAD**2)
    return np.sqrt((0.5 * (AMP_SHARE * size + AMP_DIGITS)) ** 2 + (AMP_TOLERANCE * size) ** 2)


def _units(given, lamp_id: str) -> int:  # type: ignore[no-untyped-def]
    lamp = next((p for p in given.lamps if p.id == lamp_id), None)
    return lamp.units if lamp is not None else 1


@kept(slots=2)
def benches_of(plan: Plan, found: Assessment) -> tuple[Bench, ...]:
    """All feeds of an assessed plan with lamps on them."""
    given = given_by(plan, found)
    circuits = netlists(given.catalogue, plan.feeds, given.shelf, given.lamps, given.kinds, given.wanted)
    return tuple(Bench(c, given) for c in circuits if c.source is not None and c.drawn.net.lamps)


def bench_for(plan: Plan, found: Assessment, readings: Sequence[Reading]) -> Bench:
    """The feed that readings are of.

    Raises
    ------
    PlanError
        For a place that isn't in the circuit, an impossible value, or readings of two feeds; said which.
    """
    benches = benches_of(plan, found)
    if not benches:
        raise PlanError("Diagnosis", "no lamp hangs on a source", "a plan with a circuit")
    chosen: Bench | None = None
    for n, r in enumerate(readings, 1):
        here = [b for b in benches if r.at in b.ends or r.at in b.lamps]
        if not here:
            known = ", ".join([*list(benches[0].lamps)[:3], benches[0].feed])
            raise PlanError(
                f"Reading {n}", f"“{r.at}” is not in the circuit", f"a lamp, resistor or source, such as {known}"
            )
        if r.what == "lit" and r.at not in here[0].lamps:
            raise PlanError(f"Reading {n}", f"“{r.at}” is no lamp", "a lamp for lit or dark")
        if r.what == "amps" and r.at not in here[0].lamps and r.at not in here[0].resistors and r.at != here[0].feed:
            raise PlanError(
                f"Reading {n}", f"no current is worked out for “{r.at}”", "a lamp, a resistor or the source"
            )
        most = 2.0 * max(float(here[0].network.volts.max()), 1.0)
        if r.what == "volts" and abs(r.value) > most:
            raise PlanError(
                f"Reading {n}",
                f"{figure(r.value)} V can’t be on a source of {figure(most / 2.0)} V",
                f"up to {figure(most)} V",
            )
        if r.what == "amps" and not 0.0 <= r.value <= 50.0:
            raise PlanError(f"Reading {n}", f"{figure(r.value)} A is impossible here", "amperes, such as 0.012")
        if chosen is not None and here[0] is not chosen:
            raise PlanError(f"Reading {n}", f"“{r.at}” hangs on another source", "readings of one source at a time")
        chosen = here[0]
    return chosen or benches[0]


def diagnose(plan: Plan, found: Assessment, readings: Sequence[Reading], most: int = 12) -> Diagnosis:
    """What is likely to be broken, and what to measure next.

    Raises
    ------
    PlanError
        See ``bench_for``.
    """
    bench = bench_for(plan, found, readings)
    share = bench.judged(readings)
    order = np.argsort(-share, kind="stable")
    if not all(bench.told_by(int(order[0]), r) for r in readings):
        # One fault leaves something unsaid: two at once, of those that say a part of it.
        bench = bench.with_doubles([int(k) for k in order if len(bench.hypotheses[k]) == 1][:LIKELY])
        share = bench.judged(readings)
        order = np.argsort(-share, kind="stable")
    suspects = [Suspect(bench.hypotheses[k], float(share[k])) for k in order[:most]]
    asked = {(r.what, r.at) for r in readings}
    told = [Next(w, a, bench.told(w, a, share)) for w, a in bench.measurable() if (w, a) not in asked]
    # Of measurements that tell as much, a look is easier than a meter.
    told.sort(key=lambda x: -x.bits)
    for k, x in enumerate(told[:REFINED]):
        if x.what == "volts":
            bench.predicted(x.what, x.at)
            told[k] = x._replace(bits=bench.told(x.what, x.at, share))
    told.sort(key=lambda x: (-round(x.bits, 2), {"lit": 0, "volts": 1, "amps": 2}[x.what]))
    best = int(order[0])
    misses = [
        float(
            ((r.value - bench.predicted(r.what, r.at)[best]) / sigma_of(r.what, bench.predicted(r.what, r.at)[best]))
            ** 2
        )
        for r in readings
        if r.what != "lit"
    ]
    misfit = float(np.sqrt(np.mean(misses))) if misses else 0.0
    return Diagnosis(tuple(suspects), tuple(x for x in told[:8] if x.bits > 0.01), misfit)


def next_words(n: Next) -> str:
    """What to do for a measurement."""
    return {"lit": f"see whether {n.at} is lit", "volts": f"volts over {n.at}", "amps": f"the current of {n.at}"}[
        n.what
    ]
