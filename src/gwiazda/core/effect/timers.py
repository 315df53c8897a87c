"""Timers of resistors and capacitors: a 555, a 4060 with its divider, a 4017 counting them.

Sources
-------
[1] 555: capacitor charged through R1 + R2 and discharged through R2 between a third and two thirds of the supply, so
    ln 2 = .693 time constants each; one shot from nothing to two thirds, ln 3 = 1.1 of them.
[2] 4060: f = 1/(2.3·R·C), as its data sheets give it.
[3] 4017: one of up to ten outputs high for one period of the clock, then the next.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

LEAST_R1_OHM, MOST_OHM = 1e3, 1e6
CAPACITORS_UF = (0.01, 0.022, 0.047, 0.1, 0.22, 0.47, 1.0, 2.2, 4.7, 10.0, 22.0, 47.0, 100.0)  # usual values
OUT_OHM = ((5.0, 400.0), (10.0, 200.0))  # of a 4017's output, by its supply (V)


class Timing(NamedTuple):
    """A timer's times high and low, s."""

    high_s: float
    low_s: float

    @property
    def period_s(self) -> float:
        """From one time on to the next, s."""
        return self.high_s + self.low_s

    @property
    def rate_hz(self) -> float:
        """How often in a second it is on."""
        return 1.0 / self.period_s

    @property
    def duty(self) -> float:
        """The share of the time that it is on, 0 to 1."""
        return self.high_s / self.period_s


def timer_555(r1_ohm: float, r2_ohm: float, c_f: float, diode: bool = False) -> Timing:
    """A 555 that swings freely [1]_; with a diode across R2 it charges through R1 alone.

    Parameters
    ----------
    r1_ohm : float
        R1, Ω.
    r2_ohm : float
        R2, Ω.
    c_f : float
        Capacitance, F.
    diode : bool
        Whether a diode bridges R2.

    Returns
    -------
    Timing
        Time on and off, s.
    """
    charge = r1_ohm if diode else r1_ohm + r2_ohm
    return Timing(math.log(2.0) * charge * c_f, math.log(2.0) * r2_ohm * c_f)


def one_shot_s(r_ohm: float, c_f: float) -> float:
    """How long a triggered 555 stays on (s) [1]_.

    Parameters
    ----------
    r_ohm : float
        Resistance, Ω.
    c_f : float
        Capacitance, F.

    Returns
    -------
    float
        Time, s.
    """
    return math.log(3.0) * r_ohm * c_f


def divider_4060_hz(r_ohm: float, c_f: float, stage: int) -> float:
    """Rate (Hz) at output Q_n of an oscillator with divider [2]_.

    Parameters
    ----------
    r_ohm : float
        Resistance of the oscillator, Ω.
    c_f : float
        Its capacitance, F.
    stage : int
        n of the output Q_n.

    Returns
    -------
    float
        Rate, Hz.
    """
    return 1.0 / (2.3 * r_ohm * c_f) / 2.0**stage


def r2_for(rate_hz: float, r1_ohm: float, c_f: float, diode: bool = False) -> float:
    """R2 (Ω) that makes a 555 swing at a rate; negative where R1 alone is too much.

    Parameters
    ----------
    rate_hz : float
        Rate wanted, Hz.
    r1_ohm : float
        R1, Ω.
    c_f : float
        Capacitance, F.
    diode : bool
        Whether a diode bridges R2.

    Returns
    -------
    float
        R2, Ω.
    """
    total = 1.0 / (math.log(2.0) * rate_hz * c_f)
    return total - r1_ohm if diode else (total - r1_ohm) / 2.0


class TimerParts(NamedTuple):
    """Parts for a rate, and what they give."""

    r1_ohm: float
    r2_ohm: float
    c_uf: float
    timing: Timing


def parts_for(rate_hz: float, shelf_ohm: Sequence[float], capacitors_uf: Sequence[float]) -> TimerParts | None:
    """Resistors from a shelf and a capacitor that come nearest to a rate; None where nothing does.

    R1 is the least that may be, so that it is on for little more than half the time; both within what the part bears.

    Parameters
    ----------
    rate_hz : float
        The wanted rate, Hz.
    shelf_ohm, capacitors_uf : sequence of float
        What is at hand, Ω and µF.

    Returns
    -------
    TimerParts or None
        R1 and R2 (Ω), the capacitor (µF) and the rate (Hz) they come to.
    """
    fit = sorted(r for r in shelf_ohm if LEAST_R1_OHM <= r <= MOST_OHM)
    best: tuple[float, TimerParts] | None = None
    for c in capacitors_uf:
        for r1 in fit[:1]:
            wanted = r2_for(rate_hz, r1, c * 1e-6)
            if not fit[0] <= wanted <= MOST_OHM - r1:
                continue
            r2 = min((r for r in fit if r1 + r <= MOST_OHM), key=lambda r: abs(math.log(r / wanted)))
            made = timer_555(r1, r2, c * 1e-6)
            # Among those as near, the middle of what the part likes: neither much current nor a leaky capacitor's.
            off = abs(math.log(made.rate_hz / rate_hz)) + 0.002 * abs(math.log10(r2 / 1e5))
            if best is None or off < best[0]:
                best = (off, TimerParts(r1, r2, c, made))
    return best[1] if best is not None else None


def rate_band(c_uf: float) -> tuple[float, float]:
    """Least and most of a rate over its nominal one: electrolytics (from 1 µF) hold −20 to +50 %, others ±10 %.

    Parameters
    ----------
    c_uf : float
        Capacitance, µF.

    Returns
    -------
    tuple[float, float]
        Least and most, as shares of the nominal rate.
    """
    return (1.0 / 1.5, 1.0 / 0.8) if c_uf >= 1.0 else (1.0 / 1.1, 1.0 / 0.9)


def output_ohm(supply_v: float) -> float:
    """Resistance (Ω) of a 4017's output at its supply, between and beyond the two that are known.

    Parameters
    ----------
    supply_v : float
        Supply, V.

    Returns
    -------
    float
        Resistance, Ω.
    """
    (v0, r0), (v1, r1) = OUT_OHM
    share = min(max((supply_v - v0) / (v1 - v0), 0.0), 1.0)
    return r0 + (r1 - r0) * share
