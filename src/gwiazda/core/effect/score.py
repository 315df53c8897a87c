"""A score: all cues of all channels, ready to be asked for the levels at any moments."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.memo import memoize_by_value

Array = npt.NDArray[np.float64]
Level = Callable[[Array], Array]  # (C, T) seconds since it began → (C, T) levels
SETTLED = 64  # rounds after which a pattern is looked at for its mean
MOST_LEVELS, LEAST_COUNT = 3_000_000, 4_001  # levels worked out for means of many channels, moments at least
ROUND = 8192  # moments of one round of a pattern, for its mean
BLOCK = 4096  # moments worked out in one go: they stay in the processor's cache


class Part(NamedTuple):
    """One cue as numbers: on ``rows`` of the score, from ``start_s`` on for ``length_s``, each ``again_s``.

    ``speeds`` of the boards of its channels; ``events`` (s) where a trigger starts it, None for one that is on the clock.
    ``light`` gives levels of light, ``draw`` those of current where they differ.
    """

    rows: tuple[int, ...]
    light: Level
    draw: Level | None
    start_s: float
    length_s: float
    again_s: float
    stack: str
    speeds: tuple[float, ...]
    events: tuple[float, ...] | None = None
    period_s: float = math.inf  # after which it begins anew, of one that is on all the time


class Score(NamedTuple):
    """Channels by name in order, what each does where no cue is on it, and the parts, those that begin later last.

    ``follows``: rows that are lit only while another one is, as a lamp that flashes by itself on a channel that is switched.
    """

    names: tuple[str, ...]
    rest: tuple[float, ...]
    parts: tuple[Part, ...]
    follows: tuple[tuple[int, int], ...] = ()

    @property
    def rows(self) -> Mapping[str, int]:
        """The row of each name."""
        return _rows(self.names)


@memoize_by_value(8)
def _rows(names: tuple[str, ...]) -> dict[str, int]:
    return {name: k for k, name in enumerate(names)}


def _since(part: Part, t: Array) -> tuple[Array, npt.NDArray[np.bool_]]:
    """Seconds since a part began, and where it is on; (T,) each."""
    if part.events is not None:
        # The last event starts it anew, as a pressed button does.
        times = np.asarray(part.events, np.float64) + part.start_s
        k = np.searchsorted(times, t, side="right") - 1
        since = t - times[np.maximum(k, 0)] if len(times) else np.full(t.shape, -1.0)
        since = np.where(k >= 0, since, -1.0)
    else:
        since = t - part.start_s
    on = since >= 0.0
    if math.isfinite(part.again_s):
        since = np.where(on, since % part.again_s, since)
    return since, on & (since < part.length_s)


def levels(score: Score, t: npt.ArrayLike) -> tuple[Array, Array]:
    """Light and current of each channel over those as wired.

    Parameters
    ----------
    score : Score
        Of C channels.
    t : (T,) array
        Moments (s).

    Returns
    -------
    light, draw : (C, T) arrays
    """
    t = np.atleast_1d(np.asarray(t, np.float64))
    light = np.repeat(np.asarray(score.rest, np.float64)[:, None], len(t), axis=1)
    draw = light.copy()
    apart = any(p.draw is not None for p in score.parts)
    for stack in ("base", "modifier", "mask"):
        for part in score.parts:
            if part.stack != stack:
                continue
            since, on = _since(part, t)
            if not on.any():
                continue
            rows = list(part.rows)
            first = part.speeds[0]
            if all(s == first for s in part.speeds):
                local = np.broadcast_to(np.maximum(since, 0.0) * first, (len(rows), len(t)))
            else:
                local = np.maximum(since, 0.0) * np.asarray(part.speeds)[:, None]
            level = part.light(local)
            _laid(light, rows, on, level, stack)
            if apart:
                _laid(draw, rows, on, part.draw(local) if part.draw is not None else level, stack)
    for row, of in score.follows:
        light[row] *= light[of]
        if apart:
            draw[row] *= draw[of]
    return light, draw if apart else light


def _laid(out: Array, rows: list[int], on: npt.NDArray[np.bool_], level: Array, stack: str) -> None:
    """Lay a cue's levels onto what is there, where it is on."""
    if stack == "base":
        out[rows] = np.where(on, level, out[rows])
    elif stack == "modifier":
        out[rows] *= np.where(on, level, 1.0)
    else:
        out[rows] *= np.where(on & (level < 0.5), 0.0, 1.0)


def means(score: Score, seconds: float, count: int = 36_007) -> tuple[Array, Array]:
    """Mean light and current of each channel over a time (s), (C,) each.

    A channel with one cue that is on all the time and begins anew by itself has the mean of one round, of ``ROUND`` moments.
    Others are looked at in each of ``count`` equal slices of the time, at a moment moved by multiples of the golden section
    so that it is in step with no period: of an hour, flashes of 50 ms a second come out within some 3 %, what lasts
    longer far nearer.

    Parameters
    ----------
    score : Score
        Cues of C channels.
    seconds : float
        How long, s.
    count : int
        Slices of that time.

    Returns
    -------
    tuple[array, array]
        Mean light and mean current (C,) each, shares of full.
    """
    touched: dict[int, list[Part]] = {}
    for part in score.parts:
        for row in part.rows:
            touched.setdefault(row, []).append(part)
    followers = {row for row, _ in score.follows}
    light, draw = np.array(score.rest, np.float64), np.array(score.rest, np.float64)
    rest = []
    for part in score.parts:
        if (
            math.isfinite(part.period_s)
            and part.stack == "base"
            and all(len(touched[r]) == 1 and r not in followers for r in part.rows)
        ):
            # A round some way on: a tail has to have begun.
            moments = (SETTLED + (np.arange(ROUND) + 0.5) / ROUND) * part.period_s
            t = np.broadcast_to(moments, (len(part.rows), ROUND))
            rows = list(part.rows)
            light[rows] = part.light(t).mean(axis=1)
            draw[rows] = part.draw(t).mean(axis=1) if part.draw is not None else light[rows]
        else:
            rest.append(part)
    if not rest:
        return light, draw
    rows = sorted({r for part in rest for r in part.rows} | followers | {of for _, of in score.follows})
    number = {r: k for k, r in enumerate(rows)}
    some = Score(
        tuple(score.names[r] for r in rows),
        tuple(score.rest[r] for r in rows),
        tuple(
            p._replace(rows=tuple(number[r] for r in p.rows)) for p in score.parts if all(r in number for r in p.rows)
        ),
        tuple((number[a], number[b]) for a, b in score.follows),
    )
    light[rows], draw[rows] = _sampled(some, seconds, max(min(count, MOST_LEVELS // len(rows)), LEAST_COUNT))
    return light, draw


def _sampled(score: Score, seconds: float, count: int) -> tuple[Array, Array]:
    slices = np.arange(count)
    t = (slices + (slices * 0.6180339887498949) % 1.0) * (seconds / count)
    light, draw = np.zeros(len(score.names)), np.zeros(len(score.names))
    for k in range(0, count, BLOCK):
        a, b = levels(score, t[k : k + BLOCK])
        light += a.sum(axis=1)
        draw += b.sum(axis=1)
    return light / count, draw / count


def changes_per_s(score: Score, t0_s: float, seconds: float, rate_hz: float = 120.0) -> tuple[Array, Array]:
    """How often each channel goes from dark to lit in its busiest second, and how far it swings; (C,) each.

    A flash is a rise through the middle of its swing, so that a ripple on a steady light isn't one.

    Parameters
    ----------
    score : Score
        Cues of C channels.
    t0_s : float
        From when on, s.
    seconds : float
        How long, s.
    rate_hz : float
        Moments looked at a second, Hz.

    Returns
    -------
    tuple[array, array]
        Flashes a second, and the swing as a share of full light, (C,) each.
    """
    t = t0_s + np.arange(int(seconds * rate_hz)) / rate_hz
    light, _ = levels(score, t)
    low, high = light.min(axis=1), light.max(axis=1)
    middle = 0.5 * (low + high)[:, None]
    rises = np.diff((light > middle).astype(np.int8), axis=1) > 0
    total = np.cumsum(np.pad(rises, ((0, 0), (1, 0))), axis=1)
    window = min(int(rate_hz) - 1, total.shape[1] - 1)  # short of a second: both its ends would count
    busiest = (total[:, window:] - total[:, : total.shape[1] - window]).max(axis=1, initial=0)
    return busiest.astype(np.float64), high - low
