"""Turning parts: a motor's speed at its voltage, through gears; and the voltage for a wanted speed.

Sources
-------
[1] Brushed motor with constant field: n = n0·(V − I·Ra)/(Vn − I0·Ra), Ra = Vn/I_stall (any text on machines).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.circuit.parts.motor import Motor
from gwiazda.core.parts.electrics import LoadPart


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


def motor_of(part: LoadPart, geared: bool, name: str = "motor", a: str = "a", b: str = "b") -> Motor | None:
    """A motor of the catalogue between two nodes; None for what is no motor, or none that its figures can make."""
    if part.kind != "motor" or part.stall_a <= 0:
        return None
    motor = Motor(
        name, a, b, part.volts, part.running_a, min(part.idle_a, part.running_a), part.volts / part.stall_a, geared or part.geared
    )  # fmt: skip
    return None if motor.values_ok() else motor


def speed_of(part: LoadPart, volts: float, gears: Sequence[tuple[int, int]] = ()) -> Speed | None:
    """Speed of a motor on ``volts`` (V) with the load that makes it take its running current at its own voltage [1].

    None for what is no motor. Below the voltage it starts at it stands.
    """
    motor = motor_of(part, bool(gears))
    if motor is None:
        return None
    current = float(motor.current(np.array([volts]))[0][0])
    left = volts - current * motor.winding_ohm
    rpm = part.rpm * left / (part.volts - part.idle_a * motor.winding_ohm) if volts >= part.least_v else 0.0
    return Speed(max(rpm, 0.0), max(rpm, 0.0) * ratio_of(gears), volts / motor.winding_ohm)


def volts_for(part: LoadPart, gears: Sequence[tuple[int, int]], part_rpm: float) -> float | None:
    """Voltage (V) at which the last wheel turns so fast (turns a minute); None where the motor can't, slow or fast."""
    low, high = part.least_v, 1.2 * part.volts
    ends = [speed_of(part, v, gears) for v in (low, high)]
    if ends[0] is None or ends[1] is None or not ends[0].part_rpm <= part_rpm <= ends[1].part_rpm:
        return None
    for _ in range(60):
        middle = (low + high) / 2.0
        speed = speed_of(part, middle, gears)
        low, high = (middle, high) if speed is not None and speed.part_rpm < part_rpm else (low, middle)
    return (low + high) / 2.0
