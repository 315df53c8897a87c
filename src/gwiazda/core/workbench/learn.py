"""What the log teaches of a part: its forward voltage, by the readings over sound lamps of it, with their spread."""

from __future__ import annotations

import math
from collections.abc import Sequence
from statistics import fmean
from typing import NamedTuple

from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit.diode import forward_voltage, parameters_from_points
from gwiazda.core.plan.model import Plan

LEAST = 2  # lamps: of one alone nobody knows whether it is the part or the lamp
METER_V = 0.01  # below this a meter and its leads tell nothing of a part
FAR_V = 0.5  # from here on it isn't this part, or a fault


class Learned(NamedTuple):
    """A part's forward voltage as learned: ``shift_v`` to what the catalogue says, ``spread_v`` (one sigma) of the next lamp of it; ``left_out``
    of the lamps read are off by so much that they are another part or broken."""

    part: str
    name: str
    shift_v: float
    spread_v: float
    lamps: tuple[str, ...]
    left_out: int

    @property
    def tells(self) -> bool:
        """Whether the shift is more than a meter's own."""
        return abs(self.shift_v) > METER_V


HOUSE = 4  # readings that the house's own spread is worth


def moved(readings: Sequence[float], sigma: float, tau: float) -> tuple[float, float]:
    """A house value of 0 moved by readings of it, and the spread of the next one.

    Parameters
    ----------
    readings
        What was read, as differences from the house value.
    sigma
        The house's spread from one thing to the next of a kind (one sigma); worth HOUSE readings.
    tau
        How far whole kinds stray from the house value (one sigma).

    Returns
    -------
    mean, spread
        The mean as it is thought to be now, and one sigma of the next reading: Student's t with n + 3 degrees, s·√(1 + 1/n). Sources: normal
        mean with an inverse-gamma variance, as in A. Gelman et al., Bayesian Data Analysis (2013), 2.5 and 3.3.
    """
    n, mean = len(readings), fmean(readings)
    variance = (HOUSE * sigma**2 + sum((x - mean) ** 2 for x in readings)) / (HOUSE + n - 1)
    told, held = n / max(variance, 1e-12), 1.0 / max(tau, 1e-6) ** 2
    return mean * told / (told + held), math.sqrt(variance * (1.0 + 1.0 / n))


def learned_volts(plan: Plan, found: Assessment) -> tuple[Learned, ...]:
    """What the readings of volts over lamps say of their parts, those with the most lamps first.

    A lamp's current is that read through it, or else the predicted one less what the other voltage leaves to its resistor. Strips, bridges
    and lamps with resistors built in are left out: what is read over them isn't a diode's. Readings of before a fault was mended don't count.
    """
    volts: dict[str, float] = {}
    amps: dict[str, float] = {}
    for e in plan.log:
        if e.kind == "reading" and not e.settled and e.value is not None and e.what in ("volts", "amps"):
            (volts if e.what == "volts" else amps)[e.place] = e.value
    shifts: dict[str, dict[str, float]] = {}
    for lamp_id, read_v in volts.items():
        state = found.lamps.get(lamp_id)
        part = found.catalogue.lamps.get(state.part) if state is not None else None
        if (
            state is None
            or part is None
            or part.leds != 1
            or part.inner_ohm
            or part.rectified
            or part.volts
            or part.form == "filament"
        ):
            continue
        current = amps.get(
            lamp_id, state.current_a - ((read_v - state.forward_v) / state.resistor_ohm if state.resistor_ohm else 0.0)
        )
        if current <= 0 or read_v <= 0 or state.reversed:
            continue
        family = found.catalogue.families[part.family]
        n, is_a = parameters_from_points(family.v20_v, family.v1_v, family.rs_ohm)
        shifts.setdefault(part.id, {})[lamp_id] = read_v - float(forward_voltage(current, n, is_a, family.rs_ohm))
    out = []
    for part_id, by_lamp in shifts.items():
        good = {i: v for i, v in by_lamp.items() if abs(v) < FAR_V}
        if len(good) < LEAST:
            continue
        family = found.catalogue.families[found.catalogue.lamps[part_id].family]
        middle, spread = moved(tuple(good.values()), family.spread_v / 2.0, family.spread_v)
        out.append(
            Learned(
                part_id,
                found.catalogue.lamps[part_id].name,
                middle,
                spread,
                tuple(sorted(good)),
                len(by_lamp) - len(good),
            )
        )
    return tuple(sorted(out, key=lambda x: (-len(x.lamps), x.part)))
