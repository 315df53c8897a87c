"""Turning parts: a motor's speed at its voltage, through gears; and the voltage for a wanted speed.

Sources
-------
[1] Brushed motor with constant field: n = n0·(V − I·Ra)/(Vn − I0·Ra), Ra = Vn/I_stall (any text on machines).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gwiazda.core.parts.catalogue import LoadPart


class Speed(NamedTuple):
    """Turns a minute of the motor and of the last wheel; what it takes to start (A)."""

    motor_rpm: float
    part_rpm: float
    start_a: float


def ratio_of(gears: Sequence[tuple[int, int]]) -> float:
    """Turns of the last wheel for one of the motor's."""
    ratio = 1.0
    for driver, driven in gears:
        ratio *= driver / driven
    return ratio


def speed_of(part: LoadPart, volts: float, gears: Sequence[tuple[int, int]] = ()) -> Speed | None:
    """Speed of a motor on ``volts`` (V) with the load that makes it take its running current, as a resistance [1].

    None for what is no motor. Below the voltage it starts at it stands.
    """
    if part.kind != "motor" or part.stall_a <= 0:
        return None
    ra = part.volts / part.stall_a
    current = volts * part.running_a / part.volts
    rpm = part.rpm * (volts - current * ra) / (part.volts - part.idle_a * ra) if volts >= part.least_v else 0.0
    return Speed(max(rpm, 0.0), max(rpm, 0.0) * ratio_of(gears), volts / ra)


def volts_for(part: LoadPart, gears: Sequence[tuple[int, int]], part_rpm: float) -> float | None:
    """Voltage (V) at which the last wheel turns so fast (turns a minute); None where the motor can't, slow or fast."""
    full = speed_of(part, part.volts, gears)
    if full is None or full.part_rpm <= 0:
        return None
    volts = part.volts * part_rpm / full.part_rpm  # speed goes with voltage while the load is a resistance
    return volts if part.least_v <= volts <= 1.2 * part.volts else None
