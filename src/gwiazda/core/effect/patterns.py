"""Patterns: the level of each channel at each moment.

All take ``t`` (C, T): seconds since the pattern began, for each of the C channels it is on (boards run at speeds of their
own, so each has a time of its own), none negative; and give levels (C, T), 0 dark to 1 full, as shares of light. Nothing
is remembered from one moment to the next: any moment can be asked for, in any order, and comes out the same.

Sources
-------
[1] CIE 1976 lightness L* (CIE 15:2004): L*/100 = 1.16·Y^(1/3) − .16, 9.03·Y below Y = .008856.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.effect.noise import uniform
from gwiazda.core.memo import memoize_by_value

Array = npt.NDArray[np.float64]
LEAST_TAIL = 0.02  # of a chase's light; what is left below it counts as dark
WALK_STEPS = 4096  # of a random walk; then it goes on as it began, from where it is
TURNS = 2  # runs of each program in a mixed chase


class Levels(NamedTuple):
    """Shares of full light, 0 to 1, that a pattern goes between."""

    low: float
    high: float


class Rhythm(NamedTuple):
    """A period (s); where in it the first channel begins (0 to 1), and by how much of it each is later than the one before."""

    period_s: float
    phase: float = 0.0
    lag: float = 0.0


class Runner(NamedTuple):
    """What goes over channels: which way, how many it lights, the share of light left at each step behind, from which end."""

    program: str
    width: int
    tail: float
    back: bool = False


def light_for_eye(p: npt.ArrayLike) -> Array:
    """Share of light for a perceived level (0 to 1) [1]_.

    Parameters
    ----------
    p : array or float
        Perceived levels, 0 to 1, any shape.

    Returns
    -------
    array
        Shares of light, 0 to 1, of that shape.
    """
    p = np.asarray(p, np.float64)
    return np.where(p > 0.08, ((p + 0.16) / 1.16) ** 3, p / 9.03)


def eye_for_light(y: npt.ArrayLike) -> Array:
    """Perceived level for a share of light (0 to 1) [1]_.

    Parameters
    ----------
    y : array or float
        Shares of light, 0 to 1, any shape.

    Returns
    -------
    array
        Perceived levels, 0 to 1, of that shape.
    """
    y = np.asarray(y, np.float64)
    return np.where(y > 0.08 / 9.03, 1.16 * np.cbrt(y) - 0.16, y * 9.03)


def between(share: Array, low: float, high: float, eye: bool) -> Array:
    """From ``low`` to ``high`` by a share of the way, even to the eye or in light.

    Parameters
    ----------
    share : array
        How far on the way, 0 to 1, any shape.
    low : float
        Level at 0.
    high : float
        Level at 1.
    eye : bool
        Whether the way is even to the eye, else in light.

    Returns
    -------
    array
        Levels, 0 to 1, of that shape.
    """
    if not eye:
        return low + (high - low) * share
    a, b = (float(eye_for_light(x)) for x in (low, high))
    return light_for_eye(a + (b - a) * share)


def _cycle(t: Array, rhythm: Rhythm) -> Array:
    """Where in its period each channel is, 0 to 1."""
    behind = rhythm.phase - rhythm.lag * np.arange(t.shape[0])[:, None]
    return np.asarray((t / rhythm.period_s + behind) % 1.0)


def steady(t: Array, level: float) -> Array:
    """One level.

    Parameters
    ----------
    t : array
        Moments of each channel (C, T), s.
    level : float
        Share of full light, 0 to 1.

    Returns
    -------
    array
        Levels, shape of ``t``.
    """
    return np.full(t.shape, level)


def blink(t: Array, rhythm: Rhythm, duty: float, levels: Levels) -> Array:
    """``high`` for the first ``duty`` of each period, else ``low``.

    Parameters
    ----------
    t : array
        Moments of each channel (C, T), s.
    rhythm : Rhythm
        Its period, and where in it each channel begins.
    duty : float
        Share of it that is ``high``, 0 to 1.
    levels : Levels
        Between which shares of full light.

    Returns
    -------
    array
        Levels, shape of ``t``.
    """
    return np.where(_cycle(t, rhythm) < duty, levels.high, levels.low)


def flashes(t: Array, rhythm: Rhythm, count: int, on_s: float, gap_s: float, levels: Levels) -> Array:
    """``count`` flashes of ``on_s`` with ``gap_s`` between, at the start of each period.

    Parameters
    ----------
    t : array
        Moments of each channel (C, T), s.
    rhythm : Rhythm
        Its period, and where in it each channel begins.
    count : int
        Flashes in each.
    on_s : float
        Length of a flash, s.
    gap_s : float
        Between two of them, s.
    levels : Levels
        Share of full light between, and in a flash.

    Returns
    -------
    array
        Levels, shape of ``t``.
    """
    at = _cycle(t, rhythm) * rhythm.period_s
    number = np.floor(at / (on_s + gap_s))
    return np.where((number < count) & (at - number * (on_s + gap_s) < on_s), levels.high, levels.low)


def pulse(t: Array, rhythm: Rhythm, levels: Levels, sine: bool, eye: bool) -> Array:
    """From ``low`` up to ``high`` and down again in each period.

    Parameters
    ----------
    t : array
        Moments of each channel (C, T), s.
    rhythm : Rhythm
        Its period, and where in it each channel begins.
    levels : Levels
        Between which shares of full light.
    sine : bool
        Whether it swings as a sine, else in straight lines.
    eye : bool
        Whether it is even to the eye, else in light.

    Returns
    -------
    array
        Levels, shape of ``t``.
    """
    at = _cycle(t, rhythm)
    share = 0.5 - 0.5 * np.cos(2.0 * np.pi * at) if sine else 1.0 - np.abs(2.0 * at - 1.0)
    return between(share, *levels, eye)


def flicker(t: Array, rate_hz: float, levels: Levels, smooth: bool, seed: int) -> Array:
    """A level between two drawn anew at a rate, evenly; each channel draws its own. Its mean is midway.

    Parameters
    ----------
    t : array
        Moments of each channel (C, T), s.
    rate_hz : float
        Levels drawn a second, Hz.
    levels : Levels
        Between which shares of full light.
    smooth : bool
        Whether it glides from one to the next.
    seed : int
        Of the draw.

    Returns
    -------
    array
        Levels, shape of ``t``.
    """
    step = t * rate_hz
    number = np.floor(step)
    channel = np.arange(t.shape[0])[:, None]
    now = uniform(seed, channel, number)
    if smooth:
        now = now + (uniform(seed, channel, number + 1.0) - now) * (step - number)
    return levels.low + (levels.high - levels.low) * now


def counter(t: Array, rate_hz: float, share: Array) -> Array:
    """The steps of a counter in turn: ``share`` (steps,) or (C, steps) of light, or of current, at each.

    Parameters
    ----------
    t : array
        Moments of each channel (C, T), s.
    rate_hz : float
        Steps a second, Hz.
    share : array
        Level at each step (steps,), or by channel (C, steps).

    Returns
    -------
    array
        Levels, shape of ``t``.
    """
    share = np.atleast_2d(np.asarray(share, np.float64))
    number = np.floor(t * rate_hz).astype(np.int64) % share.shape[1]
    rows = np.arange(t.shape[0])[:, None] % share.shape[0]
    return np.asarray(share[rows, number])


@memoize_by_value(64)
def _walk(n: int, seed: int) -> tuple[Array, int]:
    """Places of a walk that steps one on or one back, before it is folded into n channels; and how far it is at the end."""
    steps = np.where(uniform(seed, n, np.arange(WALK_STEPS)) < 0.5, -1, 1)
    walked = np.concatenate([[0], np.cumsum(steps)])
    walked.flags.writeable = False
    return walked[:-1], int(walked[-1])


def _folded(place: npt.NDArray[np.int64], n: int) -> Array:
    """Back and forth between the first and the last of n."""
    if n == 1:
        return np.zeros_like(place)
    at = place % (2 * (n - 1))
    return np.where(at < n, at, 2 * (n - 1) - at)


def _head(program: str, step: npt.NDArray[np.int64], n: int, seed: int) -> Array:
    """The channel a run, bounce or walk has come to at each step; −1 before it began."""
    if program == "bounce":
        at: Array = _folded(step, n)
    elif program == "walk":
        walked, far = _walk(n, seed)
        rounds, within = np.divmod(np.maximum(step, 0), WALK_STEPS)
        at = _folded(walked[within] + rounds * far + n // 2, n)
    else:
        at = (step % n).astype(np.float64)
    return np.where(step < 0, -1, at)


def chase(t: Array, step_s: float, runner: Runner, levels: Levels, seed: int) -> Array:
    """Light that goes over the channels, a step each ``step_s``.

    Parameters
    ----------
    t : array
        Moments of each channel (C, T), s.
    step_s : float
        Time of a step, s.
    runner : Runner
        What goes over them, and which way.
    levels : Levels
        Share of full light of the others, and at its head.
    seed : int
        Of the draw, where the program draws.

    Returns
    -------
    array
        Levels, shape of ``t``.
    """
    n = t.shape[0]
    channel = np.arange(n)[:, None]
    if runner.back:
        channel = n - 1 - channel
    # Where all channels have one time, as on one board, the way over them is worked out once.
    step = np.floor((t if t.strides[0] else t[:1]) / step_s + 1e-9).astype(np.int64)
    play = _mixed if runner.program == "mixed" else _played
    return levels.low + (levels.high - levels.low) * play(runner, step, channel, seed)


def _mixed(runner: Runner, step: npt.NDArray[np.int64], channel: npt.NDArray[np.int64], seed: int) -> Array:
    """Run, bounce, fill and sparkle in turn, each for some rounds."""
    n = len(channel)
    lengths = [TURNS * n, TURNS * max(2 * (n - 1), 1), TURNS * (n + 1), TURNS * n]
    ends = np.cumsum(lengths)
    at = step % int(ends[-1])
    out = np.zeros((n, step.shape[1]))
    for k, program in enumerate(("run", "bounce", "fill", "sparkle")):
        begin = int(ends[k]) - lengths[k]
        mine = (at >= begin) & (at < ends[k])
        if mine.any():
            out = np.where(mine, _played(runner._replace(program=program), at - begin, channel, seed + k), out)
    return out


def _played(runner: Runner, step: npt.NDArray[np.int64], channel: npt.NDArray[np.int64], seed: int) -> Array:
    """Levels of one program, 0 to 1."""
    n, width = len(channel), runner.width
    if runner.program == "fill":
        return np.asarray((channel < step % (n + 1)).astype(np.float64))
    if runner.program == "sparkle":
        return np.asarray((uniform(seed, channel, step) < min(width / n, 1.0)).astype(np.float64))
    out = np.zeros((n, step.shape[1]))
    left, back = 1.0, 0
    while left > LEAST_TAIL and back <= n + width:
        out = np.maximum(out, np.where(_head(runner.program, step - back, n, seed) == channel, left, 0.0))
        back += 1
        if back >= width:
            left *= runner.tail
    return out


def fade(t: Array, seconds: float, start: float, end: float, eye: bool) -> Array:
    """From one level to another, and there it stays.

    Parameters
    ----------
    t : array
        Moments of each channel (C, T), s.
    seconds : float
        How long it takes, s.
    start : float
        Share of full light at first, 0 to 1.
    end : float
        Share of full light at last, 0 to 1.
    eye : bool
        Whether it is even to the eye, else in light.

    Returns
    -------
    array
        Levels, shape of ``t``.
    """
    return between(np.minimum(t / seconds, 1.0), start, end, eye)


def stages(t: Array, step_s: float, fade_s: float, count: int) -> Array:
    """The channels come on one after another, spread evenly over ``count`` stages; each its own where it is 0.

    Parameters
    ----------
    t : array
        Moments of each channel (C, T), s.
    step_s : float
        From one stage to the next, s.
    fade_s : float
        How long each takes to come on, s.
    count : int
        Stages; 0 for one a channel.

    Returns
    -------
    array
        Levels, shape of ``t``.
    """
    n = t.shape[0]
    stage = np.arange(n) if count == 0 else np.arange(n) * min(count, n) // n
    since = t - step_s * stage[:, None]
    share = np.clip(since / fade_s, 0.0, 1.0) if fade_s > 0 else (since >= 0.0).astype(np.float64)
    return light_for_eye(share)


def awake(t: Array, share: float, every_s: float, seed: int) -> Array:
    """A share of the channels lit, each drawn anew every so often at a moment of its own.

    Parameters
    ----------
    t : array
        Moments of each channel (C, T), s.
    share : float
        Share of the channels that is lit, 0 to 1.
    every_s : float
        How long each stays as it is, s.
    seed : int
        Of the draw.

    Returns
    -------
    array
        Levels, shape of ``t``.
    """
    channel = np.arange(t.shape[0])[:, None]
    turn = np.floor(t / every_s + uniform(seed, channel, 0))
    return np.asarray((uniform(seed + 1, channel, turn) < share).astype(np.float64))


def steps(t: Array, at_s: Array, levels: Array, glide: bool) -> Array:
    """Levels at moments, held until the next or going there evenly; dark before the first.

    Parameters
    ----------
    t : array
        Moments of each channel (C, T), s.
    at_s : array
        Moments of the levels, rising (K,), s.
    levels : array
        Shares of full light (K,), 0 to 1.
    glide : bool
        Whether it goes evenly from one to the next.

    Returns
    -------
    array
        Levels, shape of ``t``.
    """
    at_s, levels = np.asarray(at_s, np.float64), np.asarray(levels, np.float64)
    which = np.searchsorted(at_s, t, side="right") - 1
    held = np.interp(t, at_s, levels) if glide else levels[np.maximum(which, 0)]
    return np.where(which >= 0, held, 0.0)


def mean_of_blink(duty: float, low: float, high: float) -> float:
    """Mean level of a blink over whole periods.

    Parameters
    ----------
    duty : float
        Share of the period that is ``high``, 0 to 1.
    low : float
        Share of full light, 0 to 1.
    high : float
        Share of full light, 0 to 1.

    Returns
    -------
    float
        Mean level, 0 to 1.
    """
    return low + (high - low) * duty


def mean_of_flashes(period_s: float, count: int, on_s: float, low: float, high: float) -> float:
    """Mean level of flashes over whole periods.

    Parameters
    ----------
    period_s : float
        Period, s.
    count : int
        Flashes in each.
    on_s : float
        Length of a flash, s.
    low : float
        Share of full light between, 0 to 1.
    high : float
        Share of full light in a flash, 0 to 1.

    Returns
    -------
    float
        Mean level, 0 to 1.
    """
    return low + (high - low) * count * on_s / period_s


def mean_of_ramp(low: float, high: float, eye: bool) -> float:
    """Mean level of a ramp between two levels: of an even one midway, of one even to the eye by the integral of L*.

    Parameters
    ----------
    low : float
        Share of full light at one end, 0 to 1.
    high : float
        Share of full light at the other, 0 to 1.
    eye : bool
        Whether the ramp is even to the eye, else in light.

    Returns
    -------
    float
        Mean level, 0 to 1.
    """
    if not eye or low == high:
        return 0.5 * (low + high)
    a, b = (float(eye_for_light(x)) for x in (low, high))

    def under(p: float) -> float:
        """∫ of ``light_for_eye`` from 0: p²/18.06 up to .08, (p + .16)⁴/(4·1.16³) beyond."""
        knee = 0.08
        if p <= knee:
            return p * p / 18.06
        return knee * knee / 18.06 + ((p + 0.16) ** 4 - (knee + 0.16) ** 4) / (4.0 * 1.16**3)

    return (under(b) - under(a)) / (b - a)
