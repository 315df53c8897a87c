"""What the log teaches of a part: its forward voltage, by the readings over sound lamps of it, with their spread."""

from __future__ import annotations

import math
from statistics import median
from typing import NamedTuple

from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit.diode import forward_voltage, parameters_from_points
from gwiazda.core.plan.model import Plan

LEAST = 2  # lamps: of one alone nobody knows whether it is the part or the lamp
METER_V = 0.01  # below this a meter and its leads tell nothing of a part
FAR_V = 0.5  # from here on it isn't this part, or a fault


class Learned(NamedTuple):
    """A part's forward voltage as read: ``shift_v`` to what the catalogue says, ``spread_v`` (one sigma) among its lamps; ``left_out``
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
        middle = median(good.values())
        spread = math.sqrt(sum((v - middle) ** 2 for v in good.values()) / (len(good) - 1))
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
