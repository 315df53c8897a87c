"""A controller that isn't there: it steps a clock, asks its cue sheet for levels, and gives them as its outputs can.

What it can't keep up with it leaves out, as a real one does: an update takes time for each channel, and a refresh that comes
before the last one is done is dropped.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.effect.score import Score, levels

Array = npt.NDArray[np.float64]
UPDATE_S = 60e-6  # of any update: the loop, reading the clock (house value of small controllers)
CHANNEL_S = 25e-6  # of each channel in it: looking the level up, setting the output
ON = 0.5  # from which level on an output that can't dim is on


class Output(NamedTuple):
    """What drives a channel.

    ``bits`` of dimming (0: on or off; −1: nothing drives it, it is as written), refreshed ``hz`` times a second.
    """

    bits: int
    hz: float


AS_WRITTEN = Output(-1, 0.0)


def quantised(level: Array, bits: int) -> Array:
    """A level as an output of so many bits gives it: to the nearest step, or on and off.

    Parameters
    ----------
    level : array
        Levels, 0 to 1, any shape.
    bits : int
        Bits of the output; 0 for on and off, below 0 for one without steps.

    Returns
    -------
    array
        Levels it gives, of that shape.
    """
    if bits < 0:
        return level
    if bits <= 0:
        return (level >= ON).astype(np.float64)
    steps = 2**bits - 1
    return np.asarray(np.rint(np.clip(level, 0.0, None) * steps) / steps)


class Controller:
    """A cue sheet played by outputs.

    Parameters
    ----------
    score : Score
        The cue sheet, of C channels.
    outputs : tuple of Output
        One a channel; those of one rate are refreshed together, as by one board.

    Attributes
    ----------
    time_s : float
        Its clock.
    frames, dropped : int
        Refreshes that were made, and that were left out for want of time.
    """

    def __init__(self, score: Score, outputs: tuple[Output, ...]) -> None:
        if len(outputs) != len(score.names):
            raise ValueError("one output for each channel")
        self.score = score
        self.outputs = outputs
        self.time_s = 0.0
        self.frames = self.dropped = 0
        self._rates = sorted({o.hz for o in outputs if o.bits >= 0 and o.hz > 0})
        self._rows = {hz: [k for k, o in enumerate(outputs) if o.bits >= 0 and o.hz == hz] for hz in self._rates}
        self._last = dict.fromkeys(self._rates, -1)
        self._held = levels(score, [0.0])[0][:, 0]

    def update_s(self, hz: float) -> float:
        """How long (s) an update of the board that refreshes at ``hz`` takes.

        Parameters
        ----------
        hz : float
            Refreshes a second, Hz.

        Returns
        -------
        float
            Time, s.
        """
        return UPDATE_S + CHANNEL_S * len(self._rows[hz])

    def every(self, hz: float) -> int:
        """Each how manyeth refresh is made: 1 where there is time for all.

        Parameters
        ----------
        hz : float
            Refreshes a second, Hz.

        Returns
        -------
        int
            A whole number, 1 at the least.
        """
        return max(1, int(np.ceil(self.update_s(hz) * hz - 1e-9)))

    def to(self, time_s: float) -> Array:
        """Step the clock to a moment, back too; the level (C,) of each output then.

        Parameters
        ----------
        time_s : float
            Moment, s.

        Returns
        -------
        array
            Levels (C,), 0 to 1.
        """
        now, _ = levels(self.score, [time_s])
        free = [k for k, o in enumerate(self.outputs) if o.bits < 0 or o.hz <= 0]
        self._held[free] = now[free, 0]
        for hz in self._rates:
            every = self.every(hz)
            tick = int(time_s * hz + 1e-9) // every * every
            if tick == self._last[hz]:
                continue
            if self._last[hz] >= 0 and tick > self._last[hz]:
                made = (tick - self._last[hz]) // every
                self.frames += made
                self.dropped += tick - self._last[hz] - made
            self._last[hz] = tick
            rows = self._rows[hz]
            at, _ = levels(self.score, [tick / hz])
            for k in rows:
                self._held[k] = quantised(at[k : k + 1, 0], self.outputs[k].bits)[0]
        self.time_s = time_s
        return self._held.copy()
