"""Motors by what they turn: their current and speed in closed form, in networks, with their heat; stages and relays as warm as they are."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.gears import motor_of, speed_of, volts_for
from gwiazda.core.assess.heat import heat_of
from gwiazda.core.circuit import network as net
from gwiazda.core.circuit.network import Motor, Network, Source
from gwiazda.core.errors import CircuitError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import LampRef, Load, Regulated, Resistor, Series, Supply, Switched, Wanted, copy_unchecked

SMALL = built_in().loads["motor-3v"]  # 3 V, 80 mA, 30 mA with nothing to turn, 600 mA held fast: 5 Ω


def hung(plan, *items, supply="usb-5v", home=""):
    feed = copy_unchecked(plan.feeds[0], items=items, supply=Supply(part=supply), home=home)
    return copy_unchecked(plan, feeds=(feed,))


@pytest.mark.parametrize("gears", [(), ((10, 40),)])
def test_at_its_own_voltage_it_takes_its_running_current(gears):
    motor = motor_of(SMALL, bool(gears))
    assert motor.current(np.array([3.0]))[0][0] == pytest.approx(0.08, rel=1e-9)
    assert speed_of(SMALL, 3.0, gears).motor_rpm == pytest.approx(9000 * 2.6 / 2.85)


def test_half_the_voltage_by_hand():
    # In air: I = .03 + .05·(n/nn)², V − 5·I = 2.6·n/nn: 1.5 = 2.6·x + 5·(.03 + .05·x²), x = .4956, I = 42.3 mA.
    x = (-2.6 + math.sqrt(2.6**2 + 4 * 0.25 * 1.35)) / 0.5
    air, geared = (motor_of(SMALL, g).current(np.array([1.5]))[0][0] for g in (False, True))
    assert air == pytest.approx(0.03 + 0.05 * x**2, rel=1e-9) and air == pytest.approx(0.0423, abs=1e-4)
    # Through gears it takes nearly as much as ever, and so turns slower than half.
    assert geared == pytest.approx(0.0795, abs=1e-4)
    assert speed_of(SMALL, 1.5, ((1, 2),)).motor_rpm < 0.43 * speed_of(SMALL, 3.0, ((1, 2),)).motor_rpm
    assert speed_of(built_in().loads["gear-motor-6v"], 3.0).motor_rpm < 0.47 * 150, "one with gears of its own likewise"


@given(st.floats(-12.0, 12.0), st.booleans())
def test_current_never_falls_with_voltage_and_energy_is_kept(volts, geared):
    motor = motor_of(SMALL, geared)
    v = np.array([volts, volts + 1e-6])
    current, slope = motor.current(v)
    assert current[1] >= current[0] and current[0] == pytest.approx(-motor.current(-v)[0][0])
    assert (current[1] - current[0]) / 1e-6 == pytest.approx(slope[0], rel=1e-3, abs=1e-5) or abs(
        abs(volts) - 0.39
    ) < 0.3
    # What goes in is lost over the winding or turns it: never more than came.
    assert volts * current[0] >= current[0] ** 2 * 5.0 - 1e-12


def test_motors_in_a_network():
    def solved(*elements):
        return Network([Source("s", "p", "0", 6.0, 0.5), *elements], "0").solve().currents[0]

    motor = motor_of(SMALL, True, "m", "p", "0")
    amps = solved(motor)
    assert amps[0] == pytest.approx(amps[1]) and amps[1] == pytest.approx(
        motor.current(np.array([6.0 - 0.5 * amps[0]]))[0][0]
    )
    two = solved(motor_of(SMALL, True, "m", "p", "x"), motor_of(SMALL, True, "n", "x", "0"))
    assert two[1] == pytest.approx(two[2]) and two[1] == pytest.approx(0.08, rel=0.01), "each has about half"
    slow = solved(net.Resistor("r", "p", "x", 60.0), motor_of(SMALL, False, "m", "x", "0"))
    left = 6.0 - 60.5 * slow[1]
    assert slow[2] == pytest.approx(motor_of(SMALL, False).current(np.array([left]))[0][0], rel=1e-6)
    with pytest.raises(CircuitError, match="out of range"):
        solved(Motor("m", "p", "0", 3.0, 0.08, 0.09, 5.0))


def test_the_voltage_for_a_speed_is_what_gives_it():
    for name in ("motor-3v", "gear-motor-6v", "coreless-3v"):
        part = built_in().loads[name]
        for gears in ((), ((10, 40),)):
            wanted = 0.6 * speed_of(part, part.volts, gears).part_rpm
            assert speed_of(part, volts_for(part, gears, wanted), gears).part_rpm == pytest.approx(wanted, rel=1e-9)


def test_what_a_motor_and_a_relay_lose_warms_the_section_they_are_in():
    plan = deck_plan(lamps=1)
    lamp = plan.lamps[0].id
    plan = edits.set_wanted(plan, [lamp], Wanted(current_ma=1.0))
    plan = hung(plan, LampRef(lamp=lamp), Load(id="m", part="motor-6v", home="deck1"), supply="usb-5v")
    assessment = assess(plan, built_in())
    box = heat_of(plan, assessment).of("deck1")
    m = assessment.parts["m"]
    # By hand: 10 Ω of winding; the rest of V·I turns something.
    assert (
        m.heat_w == pytest.approx(m.current_a**2 * 10.0 + 0.03 * m.volts, rel=1e-9) and m.heat_w < m.volts * m.current_a
    )
    assert box.devices_w == pytest.approx(m.heat_w)
    relay = hung(
        deck_plan(lamps=1),
        Switched(id="k", part="relay-5v", items=(LampRef(lamp=lamp),)),
        supply="usb-5v",
        home="deck1",
    )
    assessment = assess(relay, built_in())
    assert heat_of(relay, assessment).of("deck1").devices_w == pytest.approx(
        assessment.parts["k"].in_v ** 2 / 70.0, rel=0.01
    )
    elsewhere = hung(
        deck_plan(lamps=1), Switched(id="k", part="relay-5v", items=(LampRef(lamp=lamp),)), supply="usb-5v"
    )
    assert heat_of(elsewhere, assess(elsewhere, built_in())).of("deck1").devices_w == 0.0


def test_a_relay_on_far_too_many_volts_makes_its_section_warm():
    plan = deck_plan(lamps=1)
    relay = Switched(id="k", part="relay-5v", items=(LampRef(lamp=plan.lamps[0].id),))
    inside = hung(
        plan,
        Regulated(id="u", part="regulator-classic", volts=5.0, home="deck1", items=(relay,)),
        supply="adapter-12v-1a",
    )
    assessment = assess(inside, built_in())
    # 71 mA of the coil and the lamp's own from 12 V: all of it but what the lamp's wires lose is warmth in there.
    assert assessment.supply.draw_a > 0.0714
    assert heat_of(inside, assessment).of("deck1").watt == pytest.approx(12.0 * assessment.supply.draw_a, rel=0.02)
    assert "relay-volts" not in {f.rule for f in evaluate_rules(inside, assess(inside, built_in()))}


@pytest.mark.parametrize(("part", "ohm"), [("npn-small", 1.0), ("npn-medium", 0.2)])
def test_a_stage_is_sized_for_the_drop_it_has(part, ohm):
    plan = deck_plan(lamps=5)
    ids = [p.id for p in plan.lamps]
    plan = edits.set_wanted(plan, ids, Wanted(current_ma=16.0))
    strings = tuple(Series(id=f"s{k}", items=(Resistor(id=f"r{k}"), LampRef(lamp=i))) for k, i in enumerate(ids))
    plan = hung(plan, Switched(id="q", part=part, items=strings), supply="adapter-9v-0.5a")
    assessment = assess(plan, built_in())
    q, lamp = assessment.parts["q"], assessment.lamps[ids[0]]
    solved_drop = q.in_v - q.volts
    # By hand: V_CE of Ebers and Moll with a tenth of the current at the base, and what the collector's resistance takes.
    assert solved_drop == pytest.approx(0.036 + ohm * q.current_a, abs=0.012)
    # The resistor was chosen for that drop: of a shelf without gaps it gives the current that was asked.
    exact = (q.in_v - (0.036 + ohm * 5 * 0.016) - lamp.forward_v) / 0.016
    assert lamp.resistor_ohm == pytest.approx(exact, rel=0.1) and lamp.resistor_ohm >= 0.99 * exact
