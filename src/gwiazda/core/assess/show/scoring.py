"""From the plan's cues to a score: models read, numbers handed to ``core.effect``."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from functools import partial
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.electrics.sources import source_of
from gwiazda.core.assess.lamp.lamp_models import LampModel
from gwiazda.core.circuit.network import Diode, Network, Resistor, Source
from gwiazda.core.effect import patterns as shapes
from gwiazda.core.effect.noise import uniform
from gwiazda.core.effect.score import Level, Part, Score
from gwiazda.core.effect.timers import Timing, output_ohm, timer_555
from gwiazda.core.light.photometry import light_share
from gwiazda.core.memo import memoize, same_figures
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import (
    Awake,
    Blink,
    Board,
    Channel,
    Chase,
    Counter,
    Cue,
    Fade,
    Flashes,
    Flicker,
    Lamp,
    Pattern,
    Plan,
    Pulse,
    Sound,
    Stages,
    Steady,
    Steps,
    Trigger,
    lamps_in,
)

Array = npt.NDArray[np.float64]
DRIFT = 0.08  # how far the rate of a lamp that flashes by itself lies off, either way (house value of cheap ones)


def timing_of(board: Board | None) -> Timing | None:
    """The timing that a board's resistors and capacitor give, None where it has none."""
    if board is None or not (board.r1_ohm and board.r2_ohm and board.c_uf):
        return None
    return timer_555(board.r1_ohm, board.r2_ohm, board.c_uf * 1e-6, board.diode)


class Steps10(NamedTuple):
    """What each step of a counter gives a channel's lamps: shares of light and of current over those as wired, and the
    current (A) of the strongest lamp."""

    light: tuple[float, ...]
    draw: tuple[float, ...]
    most_a: float


@memoize(slots=16, same=same_figures)
def counter_steps(kind: LampModel, lamps: int, volts: float, ohms: tuple[float, ...], wired_a: float) -> Steps10:
    """So many lamps of a kind side by side on a counter's outputs, each output with a resistor of its own; 0 Ω is dark."""
    out = output_ohm(volts)
    currents = []
    for ohm in ohms:
        if ohm <= 0.0:
            currents.append(0.0)
            continue
        elements: list[Any] = [Source("s", "p", "0", volts), Resistor("o", "p", "n", out + ohm)]
        for k in range(lamps):
            node = "n"
            for j, d in enumerate(kind.junctions):
                end = "0" if j == len(kind.junctions) - 1 else f"{k}.{j}"
                elements.append(Diode(f"d{k}.{j}", node, end, d.n, d.is_a, d.rs_ohm))
                node = end
        currents.append(float(Network(elements).solve().currents[0, 2]))
    now = light_share(wired_a, kind.rated_a, kind.droop) if wired_a > 0 else 0.0
    light = tuple(light_share(i, kind.rated_a, kind.droop) / now if now > 0 and i > 0 else 0.0 for i in currents)
    draw = tuple(i / wired_a if wired_a > 0 else 0.0 for i in currents)
    return Steps10(light, draw, max(currents))


def level_of(does: Pattern, rate_hz: float | None = None) -> Level:
    """A pattern as a function of the seconds since it began; ``rate_hz`` where the board's parts set it.

    A partial and no lambda: a score can be written down.
    """
    if isinstance(does, Steady):
        return partial(shapes.steady, level=does.level)
    if isinstance(does, Blink | Flashes | Pulse):
        rhythm = shapes.Rhythm(does.period_s, does.phase, does.lag)
        levels = shapes.Levels(does.low, does.high)
        if isinstance(does, Blink):
            return partial(shapes.blink, rhythm=rhythm, duty=does.duty, levels=levels)
        if isinstance(does, Flashes):
            return partial(
                shapes.flashes, rhythm=rhythm, count=does.count, on_s=does.on_s, gap_s=does.gap_s, levels=levels
            )
        return partial(shapes.pulse, rhythm=rhythm, levels=levels, sine=does.shape == "sine", eye=does.even == "eye")
    if isinstance(does, Flicker):
        levels = shapes.Levels(does.low, does.high)
        return partial(shapes.flicker, rate_hz=does.rate_hz, levels=levels, smooth=does.smooth, seed=does.seed)
    if isinstance(does, Chase):
        step_s = does.step_s if rate_hz is None else 1.0 / rate_hz
        runner = shapes.Runner(does.program, does.width, does.tail, does.back)
        levels = shapes.Levels(does.low, does.high)
        return partial(shapes.chase, step_s=step_s, runner=runner, levels=levels, seed=does.seed)
    if isinstance(does, Fade):
        return partial(shapes.fade, seconds=does.seconds, start=does.start, end=does.end, eye=does.even == "eye")
    if isinstance(does, Stages):
        return partial(shapes.stages, step_s=does.step_s, fade_s=does.fade_s, count=does.stages)
    if isinstance(does, Awake):
        return partial(shapes.awake, share=does.share, every_s=does.every_s, seed=does.seed)
    if isinstance(does, Steps):
        return partial(shapes.steps, at_s=np.array(does.at_s), levels=np.array(does.levels), glide=does.glide)
    return partial(shapes.steady, level=1.0)  # a sound: its output is on


def period_of(does: Pattern, channels: int, rate_hz: float | None = None) -> float:
    """After how many seconds a pattern begins anew; infinite where it never does."""
    if isinstance(does, Steady | Sound):
        return 1.0
    if isinstance(does, Blink | Flashes | Pulse):
        return does.period_s
    if isinstance(does, Counter):
        return len(does.ohms) / (rate_hz or does.rate_hz)
    if isinstance(does, Chase):
        step = does.step_s if rate_hz is None else 1.0 / rate_hz
        there_and_back = max(2 * (channels - 1), 1)
        rounds = {"run": channels, "bounce": there_and_back, "fill": channels + 1, "mixed": shapes.TURNS * (3 * channels + 1 + there_and_back)}  # fmt: skip
        if does.program in rounds:
            return rounds[does.program] * step
    return math.inf


class Counted(NamedTuple):
    """A channel that a counter may step: so many lamps of a kind, the current (A) of each as wired, its source's voltage."""

    channel: str
    kind: LampModel
    lamps: int
    wired_a: float
    volts: float


def _counted(cue: Cue, does: Counter, rate_hz: float, counted: Mapping[str, Counted]) -> tuple[Level, Level]:
    """Light and current of a counter's steps on each channel of a cue."""
    dark = Steps10((0.0,) * len(does.ohms), (0.0,) * len(does.ohms), 0.0)
    each = [
        counter_steps(c.kind, c.lamps, c.volts, does.ohms, c.wired_a) if c is not None else dark
        for c in map(counted.get, cue.channels)
    ]
    light, draw = np.array([s.light for s in each]), np.array([s.draw for s in each])
    return partial(shapes.counter, rate_hz=rate_hz, share=light), partial(shapes.counter, rate_hz=rate_hz, share=draw)


def events_of(plan_triggers: tuple[Trigger, ...], cue: Cue) -> tuple[float, ...] | None:
    """When a cue's trigger comes, None for a cue on the clock."""
    if not cue.trigger:
        return None
    return next((tuple(sorted(x.at_s)) for x in plan_triggers if x.id == cue.trigger), ())


@memoize(slots=4, same=same_figures)
def _score(
    boards: tuple[Board, ...], channels: tuple[Channel, ...], triggers: tuple[Trigger, ...], cues: tuple[Cue, ...],
    flashing: tuple[tuple[str, str, float, float], ...], counted: tuple[Counted, ...],
) -> Score:  # fmt: skip
    names = (*(c.id for c in channels), *(f[0] for f in flashing))
    row = {name: k for k, name in enumerate(names)}
    by_board = {b.id: b for b in boards}
    board_of = {c.id: by_board.get(c.board) for c in channels}
    by_channel = {c.channel: c for c in counted}
    parts = []
    for cue in sorted(cues, key=lambda c: (c.trigger != "", c.start_s)):
        boards_here = [board_of[c] for c in cue.channels]
        timing = timing_of(boards_here[0])
        rate = timing.rate_hz if timing is not None else None
        draw: Level | None = None
        if isinstance(cue.does, Counter):
            light, draw = _counted(cue, cue.does, rate or cue.does.rate_hz, by_channel)
        else:
            light = level_of(cue.does, rate)
        again = cue.again_s if cue.again_s is not None else math.inf
        length = cue.length_s if cue.length_s is not None else math.inf
        whole = cue.start_s == 0.0 and not cue.trigger and math.isinf(length)
        parts.append(
            Part(
                tuple(row[c] for c in cue.channels), light, draw, cue.start_s, length, again, cue.stack,
                tuple(b.speed if b is not None else 1.0 for b in boards_here), events_of(triggers, cue),
                period_of(cue.does, len(cue.channels), rate) if whole else math.inf,
            )
        )  # fmt: skip
    follows = []
    for lamp_id, channel, hz, duty in flashing:
        # Each has a rate of its own a little off the others': together at first, apart a minute later.
        own = hz * (1.0 + DRIFT * (2.0 * float(uniform(7, sum(map(ord, lamp_id)), len(lamp_id))) - 1.0))
        parts.append(
            Part(
                (row[lamp_id],), _blinks(own, duty), None, 0.0,
                math.inf, math.inf, "base", (1.0,), None, 1.0 / own,
            )
        )  # fmt: skip
        if channel in row:
            follows.append((row[lamp_id], row[channel]))
    rest = (*(0.0 if c.rest == "dark" else 1.0 for c in channels), *(0.0 for _ in flashing))
    return Score(names, rest, tuple(parts), tuple(follows))


def _blinks(hz: float, duty: float) -> Level:
    return partial(shapes.blink, rhythm=shapes.Rhythm(1.0 / hz), duty=duty, levels=shapes.Levels(0.0, 1.0))


def _flashing(catalogue: Catalogue, lamps: tuple[Lamp, ...]) -> Iterator[tuple[str, str, float, float]]:
    for p in lamps:
        part = catalogue.lamps[p.part]
        if part.flash_hz > 0:
            yield p.id, p.channel, part.flash_hz, part.duty


def score_of(
    catalogue: Catalogue,
    plan: Plan,
    lamps: tuple[Lamp, ...],
    kinds: Mapping[str, LampModel],
    wired_a: Mapping[str, float],
) -> Score:
    """All that a plan's channels do, and its lamps that flash by themselves; the same object while that stays the same.

    ``wired_a`` is each lamp's current as it is wired.
    """
    wanted = {c for cue in plan.cues if isinstance(cue.does, Counter) for c in cue.channels}
    counted: dict[str, Counted] = {}
    if wanted:
        feeds = {leaf.lamp: f for f in plan.feeds for item in f.items for leaf in lamps_in(item)}
        for p in lamps:
            if p.channel not in wanted:
                continue
            before = counted.get(p.channel)
            if before is not None:
                counted[p.channel] = before._replace(lamps=before.lamps + 1)
                continue
            source = source_of(catalogue, feeds.get(p.id, plan.feeds[0]).supply)
            volts = source.volts if source is not None else 0.0
            counted[p.channel] = Counted(p.channel, kinds[p.id], 1, wired_a.get(p.id, 0.0), volts)
    return _score(
        plan.boards,
        plan.channels,
        plan.triggers,
        plan.cues,
        tuple(_flashing(catalogue, lamps)),
        tuple(counted.values()),
    )
