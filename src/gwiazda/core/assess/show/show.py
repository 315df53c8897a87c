"""What the channels do to power: averages, peaks, what is spent; from the score and the currents of the circuits."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.states import (
    BranchState,
    ChannelState,
    EffectState,
    FeedShow,
    LampState,
    PartState,
    SupplyState,
)
from gwiazda.core.effect.score import Score, levels, means
from gwiazda.core.memo import memoize, same_figures
from gwiazda.core.plan.model import CircuitNode, Cue, Feed, Lamp, Load, Plan, Switched

Array = npt.NDArray[np.float64]
HOUR_S = 3600.0
LOOK_HZ = 50.0  # at which a show is looked at for its peaks
LEAST_S, MOST_S = 20.0, 120.0  # of a show


@memoize(slots=4)
def hour_of(score: Score) -> tuple[Array, Array]:
    """Mean light and current of each channel over an hour."""
    return means(score, HOUR_S)


def length_of(cues: tuple[Cue, ...]) -> float:
    """How long a show is looked at (s): past its last beginning and end, within reason."""
    ends = [c.start_s + (c.length_s or 0.0) for c in cues]
    return min(max(max(ends, default=0.0) * 1.25, LEAST_S), MOST_S)


@memoize(slots=2, same=same_figures)
def _looked_at(score: Score, seconds: float) -> Array:
    """Current of each channel over that as wired, along the show; (C, T)."""
    return levels(score, np.arange(int(seconds * LOOK_HZ)) / LOOK_HZ)[1]


def mean_current_share_of(score: Score, lamps: tuple[Lamp, ...]) -> dict[str, float]:
    """The share of its current that each lamp spends on average, where that isn't all of it."""
    if not score.parts and all(r == 1.0 for r in score.rest):
        return {}
    draw, rows = hour_of(score)[1], score.rows
    out = {}
    for p in lamps:
        row = rows.get(p.id, rows.get(p.channel))
        if row is not None and draw[row] != 1.0:
            out[p.id] = float(draw[row])
    return out


def channels_of_loads(feeds: tuple[Feed, ...]) -> dict[str, str]:
    """The channel that each motor or sound module behind an output is switched by."""

    def below(item: CircuitNode, channel: str) -> Iterator[tuple[str, str]]:
        if isinstance(item, Load) and channel:
            yield item.id, channel
        own = item.channel if isinstance(item, Switched) and item.channel else channel
        for x in getattr(item, "items", ()):
            yield from below(x, own)

    return {load: channel for f in feeds for item in f.items for load, channel in below(item, "")}


def effects_of(
    score: Score, plan: Plan, lamps: Mapping[str, LampState], branches: Mapping[str, BranchState],
    parts: Mapping[str, PartState], feeds: Mapping[str, SupplyState], mean_current_share: Mapping[str, float],
) -> EffectState:  # fmt: skip
    """What the channels of a plan draw in time."""
    light, draw = hour_of(score)
    rows = score.rows
    full: dict[tuple[str, str], float] = defaultdict(float)  # by feed and channel
    count: dict[str, int] = defaultdict(int)
    for state in lamps.values():
        count[state.channel] += 1
    for branch in branches.values():
        # A string's current counts once, for its first lamp.
        full[branch.feed, lamps[branch.lamps[0]].channel] += abs(branch.current_a)
    loads = channels_of_loads(plan.feeds)
    for part in parts.values():
        if part.kind == "load":
            full[part.feed, loads.get(part.id, "")] += abs(part.current_a)
    by_channel: dict[str, float] = defaultdict(float)
    for (_, channel), amps in full.items():
        by_channel[channel] += amps
    channels = {
        name: ChannelState(name, count[name], by_channel[name], float(light[row]), float(draw[row]))
        for name, row in rows.items()
    }
    seconds = length_of(plan.cues)
    shows = {}
    for feed, supply in feeds.items():
        mine = {c: amps for (f, c), amps in full.items() if f == feed and c in rows}
        # What no channel moves, regulators and boards among it, flows all the time.
        still = max(supply.draw_a - sum(mine.values()), 0.0)
        if not score.parts or not mine:
            mean = still + sum(amps * draw[rows[c]] for c, amps in mine.items())
            shows[feed] = FeedShow(supply.draw_a, float(mean), float(mean), 0.0)
            continue
        names = list(mine)
        along = np.array([mine[c] for c in names]) @ _looked_at(score, seconds)[[rows[c] for c in names]]
        at = int(along.argmax())
        mean = still + sum(amps * draw[rows[c]] for c, amps in mine.items())
        shows[feed] = FeedShow(supply.draw_a, float(mean), still + float(along[at]), at / LOOK_HZ)
    return EffectState(score, channels, shows, mean_current_share, seconds)


def end_of(cues: tuple[Cue, ...]) -> float:
    """When the last cue that ends does (s); 0 where none does."""
    return max(
        (c.start_s + c.length_s for c in cues if c.length_s is not None and math.isfinite(c.length_s)), default=0.0
    )
