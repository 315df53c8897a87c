"""What the log teaches of a part: its forward voltage, by the readings over sound lamps of it, with their spread."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.electrics.netlist import MINUS, PLUS
from gwiazda.core.assess.electrics.sources import DEPTHS
from gwiazda.core.assess.states import Assessment, LampState
from gwiazda.core.circuit.network import Network, Source
from gwiazda.core.circuit.parts.diode import forward_voltage, parameters_from_points
from gwiazda.core.errors import CircuitError
from gwiazda.core.memo import memoize
from gwiazda.core.plan.model import Plan
from gwiazda.core.statistics.beliefs import moved
from gwiazda.core.workbench.diagnosis import circuits_of
from gwiazda.core.workbench.faults import columns_of
from gwiazda.core.workbench.hypotheses import LOW_DEPTH

Array = npt.NDArray[np.float64]

LEAST = 2  # lamps: of one alone nobody knows whether it is the part or the lamp
STATES = 25  # of a source, from fresh to low
SURE = 2.5  # sigmas: less is what the source made of it
METER_V = 0.01  # below this a meter and its leads tell nothing of a part
FAR_V = 0.5  # from here on it isn't this part, or a fault


class LearnedVolts(NamedTuple):
    """A part's forward voltage as learned: ``shift_v`` to what the catalogue says, ``spread_v`` (one sigma) of the next lamp of it; ``left_out``
    of the lamps read are off by so much that they are another part or broken."""

    part: str
    name: str
    shift_v: float
    spread_v: float
    lamps: tuple[str, ...]
    left_out: int
    unsure_v: float = 0.0  # one sigma of the shift, for a source whose volts weren't read
    bag_v: float = 0.0  # one sigma of the shift, all together

    @property
    def tells(self) -> bool:
        """Whether the shift is more than a meter's own, and more than a source that wasn't read makes of it."""
        return abs(self.shift_v) > max(METER_V, SURE * self.unsure_v)


def _plain(assessment: Assessment, state: LampState) -> bool:
    """Whether what is read over a lamp is that of one diode."""
    part = assessment.catalogue.lamps.get(state.part)
    if part is None or part.leds != 1 or part.inner_ohm or part.rectified or part.volts:
        return False
    return part.shape.one_diode


def _flowing(plan: Plan, assessment: Assessment, volts: Mapping[str, float]) -> dict[str, Array]:
    """Currents (A) of lamps for each state that their source may have been in (K,): one where its volts were read, in
    ``volts``, several down to a low battery where they weren't, the one of its name for an adapter."""
    out: dict[str, Array] = {}
    for circuit in circuits_of(plan, assessment):
        source, read_v = circuit.source, volts.get(circuit.feed.id)
        assert source is not None
        net = circuit.drawn.net
        network = Network([Source("source", PLUS, MINUS, source.volts, source.ohms), *net.elements])
        if source.along_v:
            depth = np.linspace(0.0, 1.0 if read_v is not None else LOW_DEPTH, STATES)
            emf, ohm = np.interp(depth, DEPTHS, source.along_v), np.interp(depth, DEPTHS, source.along_ohm)
        else:
            emf = np.linspace(0.3, 1.5, STATES) * source.volts if read_v is not None else np.array([source.volts])
            ohm = np.full(len(emf), source.ohms)
        all_v, all_ohm = np.tile(network.volts, (len(emf), 1)), np.tile(network.ohms, (len(emf), 1))
        all_v[:, 0], all_ohm[:, 0] = emf, ohm
        try:
            currents = network.solve(volts=all_v, ohms=all_ohm).currents
        except CircuitError:
            continue
        terminal = emf - ohm * currents[:, 0]
        order = np.argsort(terminal)
        for lamp_id, column in columns_of(network)[0].items():
            amps = currents[:, column.columns[0]]
            out[lamp_id] = amps if read_v is None else np.array([np.interp(read_v, terminal[order], amps[order])])
    return out


@memoize(slots=2)
def learned_volts(plan: Plan, assessment: Assessment) -> tuple[LearnedVolts, ...]:
    """What the readings of volts over lamps say of their parts, those with the most lamps first.

    A lamp's current is that read through it, or else the one of the circuit on the voltage that its source was read to have, less what the
    lamp's own voltage leaves to its resistor. A battery whose volts weren't read may be anywhere down to low: what that makes of the current is
    in the spread. Strips, bridges and lamps with resistors built in are left out: what is read over them isn't a diode's. Readings of before a
    fault was mended don't count.
    """
    volts: dict[str, float] = {}
    amps: dict[str, float] = {}
    for e in plan.log:
        if e.kind == "reading" and not e.settled and e.value is not None and e.what in ("volts", "amps"):
            (volts if e.what == "volts" else amps)[e.place] = e.value
    asked = [i for i in volts if i in assessment.lamps and _plain(assessment, assessment.lamps[i])]
    flows = _flowing(plan, assessment, volts) if set(asked) - set(amps) else {}
    shifts: dict[str, dict[str, Array]] = {}
    for lamp_id in asked:
        state, read_v = assessment.lamps[lamp_id], volts[lamp_id]
        part = assessment.catalogue.lamps[state.part]
        family = assessment.catalogue.families[part.family]
        n, is_a = parameters_from_points(family.v20_v, family.v1_v, family.rs_ohm)
        if lamp_id in amps:
            current = np.array([amps[lamp_id]])
        else:
            meant = flows.get(lamp_id, np.array([state.current_a]))
            over = np.array([forward_voltage(max(float(a), 1e-9), n, is_a, family.rs_ohm) for a in meant])
            current = meant - ((read_v - over) / state.resistor_ohm if state.resistor_ohm else 0.0)
        if (current <= 0).any() or read_v <= 0 or state.reversed:
            continue
        shifts.setdefault(part.id, {})[lamp_id] = read_v - np.array(
            [float(forward_voltage(float(a), n, is_a, family.rs_ohm)) for a in current]
        )
    out = []
    for part_id, by_lamp in shifts.items():
        good = {i: v for i, v in by_lamp.items() if abs(float(v.mean())) < FAR_V}
        if len(good) < LEAST:
            continue
        family = assessment.catalogue.families[assessment.catalogue.lamps[part_id].family]
        # For each state that the sources may have been in: what they share strays with it, what is one lamp's own doesn't.
        states, sigma, tau = max(len(v) for v in good.values()), family.spread_v / 2.0, family.spread_v
        read = np.array([[float(v[min(k, len(v) - 1)]) for v in good.values()] for k in range(states)])
        each = np.array([moved(r.tolist(), sigma, tau) for r in read])
        # A state counts by how well the house would have told what it makes of the lamps.
        weight = np.exp(-0.5 * read.mean(axis=1) ** 2 / (tau**2 + sigma**2 / len(good)))
        weight /= weight.sum()
        middle, own, mean_v = (float(x) for x in weight @ each)
        unsure = math.sqrt(float(weight @ (each[:, 0] - middle) ** 2))
        spread = math.hypot(own, unsure)
        out.append(
            LearnedVolts(
                part_id,
                assessment.catalogue.lamps[part_id].name,
                middle,
                spread,
                tuple(sorted(good)),
                len(by_lamp) - len(good),
                unsure,
                math.hypot(mean_v, unsure),
            )
        )
    return tuple(sorted(out, key=lambda x: (-len(x.lamps), x.part)))
