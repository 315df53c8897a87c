"""A feed with every fault it may have solved, at each state its source may be in, and what readings are worth under each.

The source's state is not known: of a battery its depth of discharge is integrated out, evenly up to where a battery is called
low, which is a hypothesis of its own. Currents and volts of a faulty circuit along the depth are led by those of the sound one:
solved at the nominal state and at ``FAR_DEPTH``, and between them each goes as far as the same current of the sound circuit
has gone.
"""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.electrics.netlist import MINUS, PLUS
from gwiazda.core.assess.electrics.sources import DEPTHS, SourceState
from gwiazda.core.assess.electrics.stage import FeedCircuit
from gwiazda.core.circuit.network import Network, Operating, Resistor, Source
from gwiazda.core.errors import CircuitError
from gwiazda.core.light.photometry import relative_light
from gwiazda.core.workbench.fault_kinds import BY_NAME
from gwiazda.core.workbench.faults import (
    BRIDGE_OHM,
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
LOW_SOURCE = 0.1  # prior that the source is low, or gives too little: beside all broken parts together
LIT = 1e-3  # of its rated light: below, a lamp is called dark
DIM, BRIGHT = 0.75, 1.4  # of what it should give: beyond these it is called dim, or too bright; a bag strays by a tenth
BESIDE = 0.7  # of looks compare with like lamps, the rest with what is remembered or planned
METER_OHM = 10e6
ALIKE_V = 1e-3
TRICKLE_A = 2e-5  # twenty times what a meter takes
DEAD_A = 1e-6  # from the source: less is a way that is open
TELLS = 0.02  # of a lamp's current: a bridge that changes less is never noticed
VOLT_SHARE, VOLT_DIGITS = 0.008, 0.02
AMP_SHARE, AMP_DIGITS = 0.015, 3e-5
VOLT_TOLERANCE, VOLT_SPREAD = 0.04, 0.06  # of parts: share of what is read, and a forward voltage's own
AMP_TOLERANCE = 0.07
MOST_DOUBLES, MOST_BRIDGED = 600, 2
GOOD_STATES, LOW_STATES = 14, 5
LOW_DEPTH, FAR_DEPTH = 0.8, 0.85  # from here on a battery is called low; where the second solution lies
SPENT = (0.85, 0.7, 0.55, 0.4, 0.2)  # of the volts at the end of its life
WEAK = (0.35, 0.5, 0.65, 0.8)  # of its volts: an adapter that gives too little
LOOKED_AT = 300  # likeliest hypotheses by which the next measurement is chosen


class Measurement(NamedTuple):
    """One look or measurement: volts over a lamp, resistor or source, amps through it, or how a lamp looks: as it should (1),
    too bright (2), dim (.5), dark (0)."""

    what: What
    at: str
    value: float


class States(NamedTuple):
    """What a source may be like (K,): its EMF (V) and resistance (Ω), how likely each is while it is good, and when it is low, and a
    battery's depth of discharge."""

    volts: Array
    ohms: Array
    good: Array
    low: Array
    depth: Array

    @property
    def number(self) -> int:
        """How many."""
        return len(self.volts)


def states_of(source: SourceState) -> States:
    """A battery along its depth of discharge; an adapter as its name says, or weak."""
    if not source.along_v:
        weak = np.array(WEAK) * source.volts
        volts = np.concatenate([[source.volts], weak])
        good = np.array([1.0, *[0.0] * len(weak)])
        return States(volts, np.full(len(volts), source.ohms), good, (1.0 - good) / len(weak), 0.0 * volts)
    good_at = (np.arange(GOOD_STATES) + 0.5) / GOOD_STATES * LOW_DEPTH
    low_at = np.linspace(LOW_DEPTH, 1.0, LOW_STATES + 1)[1:]
    at = np.concatenate([good_at, low_at])
    spent = source.along_v[-1] * np.array(SPENT)  # left on, or one cell the wrong way round
    many = LOW_STATES + len(spent)
    good = np.array([1.0 / GOOD_STATES] * GOOD_STATES + [0.0] * many)
    low = np.array([0.0] * GOOD_STATES + [1.0 / many] * many)
    ohms = [*np.interp(at, DEPTHS, source.along_ohm), *[source.along_ohm[-1]] * len(spent)]
    volts = np.concatenate([np.interp(at, DEPTHS, source.along_v), spent])
    return States(volts, np.array(ohms), good, low, np.concatenate([at, np.ones(len(spent))]))


def looks(light: Array, sound: Array | float) -> Array:
    """What the eye says of a light (over rated) that should be ``sound``."""
    sound = np.maximum(sound, 1e-12)
    dim = np.where(light < DIM * sound, 0.5, np.where(light > BRIGHT * sound, 2.0, 1.0))
    return np.where(light < LIT, 0.0, dim)


def sigma_of(what: What, said: Array | float) -> Array:
    """One sigma of a reading (V or A): the meter's and the parts' together."""
    size = np.abs(np.asarray(said, np.float64))
    if what == "volts":
        return np.sqrt((0.5 * (VOLT_SHARE * size + VOLT_DIGITS)) ** 2 + (VOLT_TOLERANCE * size) ** 2 + VOLT_SPREAD**2)
    return np.sqrt((0.5 * (AMP_SHARE * size + AMP_DIGITS)) ** 2 + (AMP_TOLERANCE * size) ** 2)


class Solved(NamedTuple):
    """Currents (H, elements) and volts of the nodes (H, nodes) of hypotheses, at one state of the source."""

    currents: Array
    volts: Array


class Bench:
    """A feed with all its hypotheses solved.

    Parameters
    ----------
    circuit : FeedCircuit
    given : what the circuit was drawn from: rated current (A), droop, colour and units of each lamp
    """

    def __init__(self, circuit: FeedCircuit, given) -> None:  # type: ignore[no-untyped-def]
        source, net = circuit.source, circuit.drawn.net
        assert source is not None
        self.feed, self.source = circuit.feed.id, source
        self.states = states_of(source)
        self.network = Network([Source("source", PLUS, MINUS, source.volts, source.ohms), *net.elements])
        self.ends = {**net.ends, self.feed: (PLUS, MINUS)}
        lamps, resistors = columns_of(self.network)
        units = {p.id: p.units for p in given.lamps}
        self.lamps = {
            i: c._replace(colour=given.kinds[i].part.colour, units=units.get(i, 1))
            for i, c in lamps.items()
            if i in given.kinds
        }
        self.resistors = resistors
        self.kinds = {i: given.kinds[i] for i in self.lamps}
        self.bridges = bridges(list(self.lamps.values()), self.ends)
        self.node = {name: k for k, name in enumerate(self.network.nodes)}
        self._said: dict[tuple[What, str], Array] = {}
        self._shorts: dict[str, list[int]] | None = None  # the hypotheses under which a lamp is shorted
        self._base: Bench | None = None  # the singles, where pairs are beside them
        low = Fault("source low", (self.feed,))
        singles = single_faults(list(self.lamps.values()), list(self.resistors.values()))
        self.hypotheses: list[tuple[Fault, ...]] = [(), (low,), *((f,) for f in singles)]
        self._along = self._sound_along()
        self.now = self._solved_at(self.hypotheses, None)
        self._bridged()
        self.far = self._solved_at(self.hypotheses, self._far_state()) if self.is_battery else self.now
        self.priors = np.log([SOUND, SOUND * LOW_SOURCE, *(self._prior(h[0]) for h in self.hypotheses[2:])])
        self._forget_lost()

    @property
    def is_battery(self) -> bool:
        """Whether its source runs down."""
        return bool(self.source.along_v)

    @property
    def currents(self) -> Array:
        """Currents (H, elements) at the source's nominal state."""
        return self.now.currents

    # -- solving -------------------------------------------------------------------------------------------

    def _far_state(self) -> tuple[float, float]:
        return (
            float(np.interp(FAR_DEPTH, DEPTHS, self.source.along_v)),
            float(np.interp(FAR_DEPTH, DEPTHS, self.source.along_ohm)),
        )

    def _sound_along(self) -> Solved:
        """The sound circuit at each of the source's states, then at the nominal one, then at ``FAR_DEPTH``."""
        far = self._far_state() if self.is_battery else (self.source.volts, self.source.ohms)
        volts = np.concatenate([self.states.volts, [self.source.volts, far[0]]])
        ohms = np.concatenate([self.states.ohms, [self.source.ohms, far[1]]])
        over = self.overlay([()] * len(volts))
        over.volts[:, 0], over.ohms[:, 0] = volts, ohms
        answer = self._patiently(self.network, over, list(range(len(volts))))
        return Solved(answer.currents, answer.volts)

    def _bridged(self) -> None:
        """Bridges between neighbours that change something come among the hypotheses: many join like to like, and nobody ever knows."""
        across: list[tuple[Fault, ...]] = [
            (Fault("bridge", pair),)
            for pair, (a, b) in self.bridges.items()
            if abs(float(self._at(self.now, a)[0] - self._at(self.now, b)[0])) > ALIKE_V  # else nothing flows over it
        ]
        if not across:
            return
        made = self._solved_at(across, None)
        columns = [c.columns[0] for c in self.lamps.values()]
        sound = np.maximum(np.abs(self.currents[0, columns]), 1e-9)
        tells = (np.abs(made.currents[:, columns] - self.currents[0, columns]) / sound).max(axis=1) > TELLS
        self.hypotheses += [h for h, on in zip(across, tells, strict=True) if on]
        self.now = _stacked(self.now, Solved(made.currents[tells], made.volts[tells]))

    def _prior(self, fault: Fault) -> float:
        count = max(len(self.lamps), 1)
        return (1.0 - SOUND) * BY_NAME[fault.kind].prior / count

    def _forget_lost(self) -> None:
        """What comes to rest nowhere is no likely state of a circuit on a bench."""
        lost = ~(np.isfinite(self.now.currents).all(axis=1) & np.isfinite(self.far.currents).all(axis=1))
        if lost.any():
            self.priors = np.where(lost, -np.inf, self.priors)
            self.now, self.far = (
                Solved(np.nan_to_num(s.currents), np.nan_to_num(s.volts)) for s in (self.now, self.far)
            )

    def overlay(self, hypotheses: Sequence[tuple[Fault, ...]]) -> Overlay:
        """The network's numbers under each hypothesis."""
        return overlaid(self.network, self.lamps, self.resistors, hypotheses)

    def _at_state(self, hypotheses: Sequence[tuple[Fault, ...]], state: tuple[float, float] | None) -> Overlay:
        """The numbers with the source at a state (V, Ω); as it nominally is where none is given, and low where that is the fault."""
        over = self.overlay(hypotheses)
        if state is not None:
            over.volts[:, 0], over.ohms[:, 0] = state
        for row, faults in enumerate(hypotheses):
            if any(f.kind == "source low" for f in faults):
                over.volts[row, 0] = float(self.states.volts @ self.states.low)
                over.ohms[row, 0] = float(self.states.ohms @ self.states.low)
        return over

    def _solved_at(self, hypotheses: Sequence[tuple[Fault, ...]], state: tuple[float, float] | None) -> Solved:
        return self.solved(hypotheses, self._at_state(hypotheses, state))

    def solved(self, hypotheses: Sequence[tuple[Fault, ...]], over: Overlay | None = None) -> Solved:
        """Hypotheses solved; ``over``: their numbers, where they stray. What finds no rest is not a number."""
        over = over or self.overlay(hypotheses)
        currents = np.empty((len(hypotheses), len(self.network.elements)))
        volts = np.empty((len(hypotheses), len(self.network.nodes)))
        for across, rows in self._by_bridge(hypotheses).items():
            network, answer = self._answer(across, over, rows)
            currents[rows] = answer.currents[:, : currents.shape[1]]
            place = [network.nodes.index(name) for name in self.network.nodes]
            volts[rows] = answer.volts[:, place]
        return Solved(currents, volts)

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
        none = np.zeros((len(over.volts), len(more)))
        ohms = none + np.array([BRIDGE_OHM] * len(across) + [METER_OHM] * (meter is not None))
        wide = Overlay(*(np.hstack([x, y]) for x, y in zip(over, (none, ohms, none, none + 1.0), strict=True)))
        return network, self._patiently(network, wide, rows)

    @staticmethod
    def _patiently(network: Network, over: Overlay, rows: list[int]) -> Operating:
        volts, ohms, n, is_a = (x[rows] for x in over)
        return network.solve(volts=volts, ohms=ohms, n=n, is_a=is_a, patient=False)

    def with_doubles(self, likely: Sequence[int]) -> Bench:
        """The same feed with pairs of the likeliest single faults, by their rows, among the hypotheses as well."""
        singles = [self.hypotheses[k][0] for k in likely if len(self.hypotheses[k]) == 1]
        bridged = [f for f in singles if f.kind == "bridge"][
            MOST_BRIDGED:
        ]  # each is a network of its own: a few are tried
        singles = [f for f in singles if f.kind != "source low" and f not in bridged]
        pairs = [(a, b) for i, a in enumerate(singles) for b in singles[i + 1 :] if a.at != b.at][:MOST_DOUBLES]
        out = copy(self)
        if pairs:
            out.hypotheses = [*self.hypotheses, *pairs]
            prior = np.array([self._prior(a) * self._prior(b) for a, b in pairs])
            out.priors = np.concatenate([self.priors, np.log(prior)])
            out._base, out._said, out._shorts = self, {}, None
            out.now = _stacked(self.now, self._solved_at(pairs, None))
            out.far = _stacked(self.far, self._solved_at(pairs, self._far_state())) if self.is_battery else out.now
            out._forget_lost()
        return out

    # -- what each hypothesis says -------------------------------------------------------------------------

    def _led(self, now: Array, far: Array, sound: Array) -> Array:
        """Along the source's states (H, K), from what is at the nominal state and far along (H,); ``sound``: the sound circuit's (K + 2,)."""
        if not self.is_battery:
            # An adapter that gives too little: as it does to the sound circuit. The rest is at its nominal state.
            here = sound[-2]
            share = sound[:-2] / here if abs(here) > 1e-12 else np.ones(self.states.number)
            return np.asarray(now[:, None] * share)
        span = sound[-1] - sound[-2]
        volts = self.states.volts
        if abs(span) > 1e-6 * max(abs(sound[-2]), 1e-9):
            share = (sound[:-2] - sound[-2]) / span
        else:
            far_v = self._far_state()[0]
            share = (volts - self.source.volts) / (far_v - self.source.volts)
        return np.asarray(now[:, None] + (far - now)[:, None] * share)

    def _along_column(self, column: int) -> Array:
        led = self._led(self.now.currents[:, column], self.far.currents[:, column], self._along.currents[:, column])
        led[1] = self._along.currents[:-2, column]  # the source itself is what is wrong: the sound circuit, as it is
        return led

    def predicted(self, what: What, at: str) -> Array:
        """What a measurement would be under each hypothesis (H,), at the source's nominal state."""
        if what == "volts":
            return self._metered_now(at)[0]
        if what == "amps":
            return np.abs(self.currents[:, self._column(at)])
        light = self.light(at)
        return looks(light, float(light[0]))

    def over_states(self, what: What, at: str) -> Array:
        """What a measurement would be under each hypothesis at each state of the source (H, K)."""
        key = (what, at)
        if key not in self._said:
            if what == "volts":
                now, far, sound = self._metered_now(at)
                led = self._led(now, far, sound)
                led[1] = sound[:-2]
            elif what == "amps":
                led = np.abs(self._along_column(self._column(at)))
            else:
                led = self._light_over_states(at)
            self._said[key] = led
        return self._said[key]

    def _column(self, at: str) -> int:
        return 0 if at == self.feed else (self.lamps.get(at) or self.resistors[at]).columns[0]

    def _light_over_states(self, lamp: str) -> Array:
        kind = self.kinds[lamp]
        current = np.maximum(self._along_column(self.lamps[lamp].columns[0]), 0.0)
        light = relative_light(current, kind.rated_a, kind.droop)
        return np.where(self._shorted(lamp)[:, None], 0.0, light)

    def _metered_now(self, at: str) -> tuple[Array, Array, Array]:
        """Volts with a meter on a part: at the nominal state and far along (H,), and of the sound circuit at each state (K + 2,)."""
        first = 0 if self._base is None else len(self._base.hypotheses)
        now = self._metered_at(at, first, self.now, None)
        far = self._metered_at(at, first, self.far, self._far_state()) if self.is_battery else now
        if self._base is not None:
            base = self._base._metered_now(at)
            return np.concatenate([base[0], now]), np.concatenate([base[1], far]), base[2]
        sound = [()] * (self.states.number + 2)
        over = self.overlay(sound)
        last = self._far_state() if self.is_battery else (self.source.volts, self.source.ohms)
        over.volts[:, 0] = np.concatenate([self.states.volts, [self.source.volts, last[0]]])
        over.ohms[:, 0] = np.concatenate([self.states.ohms, [self.source.ohms, last[1]]])
        return now, far, self.metered(at, sound, self._along.currents, over)

    def _metered_at(self, at: str, first: int, solved: Solved, state: tuple[float, float] | None) -> Array:
        """Volts with a meter on a part, of the hypotheses from ``first`` on. Where more than a trickle flows the meter changes nothing."""
        a, b = self.ends[at][:2]
        plain = (self._at(solved, a) - self._at(solved, b))[first:]
        currents = solved.currents[first:]
        if at == self.feed:
            return plain
        rows = np.arange(len(plain))
        if at in self.lamps or at in self.resistors:
            rows = np.flatnonzero(np.abs(currents[:, self._column(at)]) < TRICKLE_A)
        if len(rows):
            faults = [self.hypotheses[first + k] for k in rows]
            plain[rows] = self.metered(at, faults, currents[rows], self._at_state(faults, state))
        return plain

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
        dead = np.zeros(len(out), bool)
        if abs(self.currents[0, 0]) > 100.0 * DEAD_A and at != self.feed:
            dead = np.abs(currents[:, 0]) < DEAD_A
        for across, rows in self._by_bridge(hypotheses).items():
            live = [k for k in rows if not dead[k] or any(at in f.at for f in hypotheses[k])]
            if not live:
                continue
            read = self._read(across, over, live, (a, b))
            out[live] = read
        return out

    def _read(
        self, across: tuple[tuple[str, str], ...], over: Overlay, live: list[int], ends: tuple[str, str]
    ) -> Array:
        """What a meter shows; where parts hang in the air and settle nowhere, as if it took nothing."""
        read = np.full(len(live), np.nan)
        try:
            read = self._answer(across, over, live, ends)[1].currents[:, -1] * METER_OHM
        except CircuitError:
            pass
        lost = np.flatnonzero(~np.isfinite(read))
        if len(lost):
            network, answer = self._answer(across, over, [live[k] for k in lost])
            where = {name: k for k, name in enumerate(network.nodes)}
            first, second = (answer.volts[:, where[x]] if x in where else np.zeros(len(lost)) for x in ends)
            read[lost] = np.nan_to_num(first - second)
        return np.asarray(read)

    def roughly(self, at: str) -> Array:
        """Volts over a part (H, K) as if the meter took nothing: near enough to tell which measurement says most."""
        a, b = self.ends[at][:2]
        now, far, sound = (self._at(s, a) - self._at(s, b) for s in (self.now, self.far, self._along))
        led = self._led(now, far, sound)
        led[1] = sound[:-2]
        return led

    def light(self, lamp: str) -> Array:
        """A lamp's light over that at its rated current, under each hypothesis (H,); one that is shorted gives none."""
        return np.where(self._shorted(lamp), 0.0, self._light_at(lamp, self.currents))

    def _light_at(self, lamp: str, currents: Array) -> Array:
        kind = self.kinds[lamp]
        return relative_light(np.maximum(currents[:, self.lamps[lamp].columns[0]], 0.0), kind.rated_a, kind.droop)

    def _shorted(self, lamp: str) -> npt.NDArray[np.bool_]:
        if self._shorts is None:
            self._shorts = {}
            for row, hypothesis in enumerate(self.hypotheses):
                for f in hypothesis:
                    if f.kind == "short":
                        self._shorts.setdefault(f.at[0], []).append(row)
        out = np.zeros(len(self.hypotheses), dtype=bool)
        out[self._shorts.get(lamp, [])] = True
        return out

    def _at(self, solved: Solved, node: str) -> Array:
        return solved.volts[:, self.node[node]] if node in self.node else np.zeros(len(solved.volts))

    # -- what readings are worth ---------------------------------------------------------------------------

    def log_likelihood(self, r: Measurement) -> Array:
        """Log of what a reading is worth under each hypothesis at each state of the source (H, K)."""
        said = self.over_states(r.what, r.at)
        if r.what == "lit":
            beside = _look_worth(looks(said, said[:1]), r.value)
            planned = _look_worth(looks(said, float(self._light_at(r.at, self.currents[:1])[0])), r.value)
            return np.asarray(np.log(BESIDE * beside + (1.0 - BESIDE) * planned))
        sigma = sigma_of(r.what, said)
        good = (1.0 - WILD) * np.exp(-0.5 * ((r.value - said) / sigma) ** 2) / (sigma * np.sqrt(2.0 * np.pi))
        wide = max(float(np.abs(said).max()), abs(r.value), 1e-9)
        return np.asarray(np.log(good + WILD / (2.0 * wide)))

    def weights(self) -> Array:
        """How likely each state of the source is under each hypothesis, before anything is read (H, K)."""
        out = np.tile(self.states.good, (len(self.hypotheses), 1))
        out[1] = self.states.low
        return out

    def joint(self, readings: Sequence[Measurement]) -> Array:
        """How likely each hypothesis with each state of the source is, after readings (H, K)."""
        with np.errstate(divide="ignore"):
            log = self.priors[:, None] + np.log(self.weights())
        for r in readings:
            log = log + self.log_likelihood(r)
        share = np.exp(log - log.max())
        return np.asarray(share / share.sum())

    def posterior(self, readings: Sequence[Measurement]) -> Array:
        """How likely each hypothesis is (H,), after readings: the source's state integrated out."""
        return np.asarray(self.joint(readings).sum(axis=1))

    def told_by(self, row: int, state: int, r: Measurement) -> bool:
        """Whether a hypothesis tells a reading: a look as it is, a figure within three sigma."""
        said = self.over_states(r.what, r.at)
        if r.what == "lit":
            return bool(float(looks(said, said[:1])[row, state]) == r.value)
        return abs(float(said[row, state]) - r.value) < 3.0 * float(sigma_of(r.what, said[row, state]))

    def measurable(self) -> list[tuple[What, str]]:
        """All that can be measured here."""
        out: list[tuple[What, str]] = [("volts", self.feed), ("amps", self.feed)]
        out += [("lit", i) for i in self.lamps]
        out += [("volts", i) for i in (*self.lamps, *(f for f in self.resistors if f in self.ends))]
        return list(dict.fromkeys(out))

    def information_gain(self, what: What, at: str, joint: Array) -> float:
        """How much a measurement would tell (bits): of what is broken, not of the state the source is in."""
        share = joint.sum(axis=1)
        rows = np.argsort(-share)[:LOOKED_AT]
        rows = rows[share[rows] > 1e-6]
        rough = what == "volts" and (what, at) not in self._said
        said = (self.roughly(at) if rough else self.over_states(what, at))[rows]
        if what == "lit":
            bins = np.rint(looks(said, (self.over_states(what, at))[:1]) * 2.0)
        else:
            bins = np.rint(said / np.maximum(4.0 * sigma_of(what, said), 1e-12))
        _, place = np.unique(bins, return_inverse=True)
        place = place.reshape(said.shape)
        table = np.zeros((len(rows), int(place.max()) + 1))
        np.add.at(table, (np.arange(len(rows))[:, None], place), joint[rows])
        own = table.sum(axis=1, keepdims=True)
        within = float((own[:, 0] * _entropy(table / np.maximum(own, 1e-300))).sum())
        return max(float(_entropy(table.sum(axis=0, keepdims=True))[0]) - within, 0.0)


def _entropy(shares: Array) -> Array:
    """Entropy (bits) of each row."""
    return np.asarray(-(shares * np.log2(np.maximum(shares, 1e-300))).sum(axis=1))


def _stacked(a: Solved, b: Solved) -> Solved:
    return Solved(np.vstack([a.currents, b.currents]), np.vstack([a.volts, b.volts]))


def _look_worth(said: Array, value: float) -> Array:
    """Likelihood of a look. Whether a lamp burns nobody mistakes; how brightly, beside what it should, one may."""
    burns = (said > 0.25) == (value > 0.25)
    return np.where(np.abs(said - value) < 0.25, 1.0 - WILD, np.where(burns, WILD, WILD_LOOK))
