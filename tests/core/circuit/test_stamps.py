"""Regulator and transistor in networks: closed forms, another solver, Kirchhoff's laws at any values."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from gwiazda.core.circuit.exchange import element_from, element_to
from gwiazda.core.circuit.network import Diode, Motor, Network, Regulator, Resistor, Source, Transistor
from gwiazda.core.errors import CircuitError

LOAD = 100.0


def regulated(volts: float, **values: float) -> Network:
    return Network(
        [Source("s", "in", "0", volts), Regulator("r", "in", "out", "0", 5.0, **values), Resistor("load", "out", "0", LOAD)]
    )  # fmt: skip


@pytest.mark.parametrize(
    ("volts", "held"), [(12.0, 5.0), (7.01, 5.0), (6.0, 4.0), (2.5, 0.5), (1.5, 0.0)], ids=lambda v: f"{v} V"
)
def test_a_regulator_holds_its_voltage_or_the_input_less_the_dropout(volts, held):
    """A divider of its output resistance and the load; the source gives the load's current and the regulator's own."""
    network = regulated(volts, dropout_v=2.0, quiescent_a=0.005, ohms=0.05)
    answer = network.solve()
    currents = network.element_currents(answer)
    assert currents["load"] == pytest.approx(held / (LOAD + 0.05), abs=1e-12)
    assert currents["r"] == pytest.approx(currents["load"], abs=1e-12)
    assert currents["s"] == pytest.approx(currents["load"] + 0.005, abs=1e-12)
    assert network.node_volts(answer)["out"] == pytest.approx(held * LOAD / (LOAD + 0.05), abs=1e-9)


def test_a_regulator_takes_no_current_in():
    network = Network(
        [Source("s", "in", "0", 9.0, 0.2), Regulator("r", "in", "out", "0", 5.0), Source("other", "x", "0", 7.0),
         Resistor("back", "x", "out", 1000.0), Resistor("leak", "out", "0", 1e6)]
    )  # fmt: skip
    answer = network.solve()
    assert network.element_currents(answer)["r"] == 0.0
    assert network.node_volts(answer)["out"] == pytest.approx(7.0 * 1e6 / (1e6 + 1000.0), rel=1e-6)


def test_lamps_behind_a_regulator_on_a_sagging_battery():
    """Found by hand with a root finder: what enters the node behind the regulator leaves through the lamps."""
    lamp = {"n": 2.1, "is_a": 1e-18, "rs": 8.0}
    network = Network(
        [Source("b", "in", "0", 6.2, 1.7), Regulator("r", "in", "out", "0", 5.0, dropout_v=1.2, quiescent_a=0.006),
         *(Resistor(f"r{k}", "out", f"n{k}", 120.0) for k in range(3)), *(Diode(f"d{k}", f"n{k}", "0", **lamp) for k in range(3))],
        vt=0.02585,
    )  # fmt: skip
    answer = network.solve()
    found = network.element_currents(answer)

    def behind(current: float) -> float:
        """What is left over of the lamps' branch at this current of one of them."""
        held = min(5.0, 6.2 - 1.7 * (3 * current + 0.006) - 1.2) - 0.05 * 3 * current
        return held - (128.0 * current + 2.1 * 0.02585 * np.log1p(current / 1e-18))

    expected = brentq(behind, 1e-9, 0.05, xtol=1e-15)
    assert found["d0"] == pytest.approx(expected, rel=1e-8) and found["d2"] == pytest.approx(expected, rel=1e-8)
    assert found["b"] == pytest.approx(3 * expected + 0.006, rel=1e-8)


def switched(pin_v: float, base_ohm: float, load_ohm: float, **values: float) -> Network:
    return Network(
        [Source("s", "plus", "0", 12.0), Resistor("load", "plus", "c", load_ohm), Source("pin", "p", "0", pin_v),
         Resistor("base", "p", "b", base_ohm), Transistor("t", "c", "b", "0", **values)],
        vt=0.02585,
    )  # fmt: skip


def test_a_transistor_far_from_saturation_gives_its_gain():
    network = switched(5.0, 1e6, 100.0, beta=150.0)
    currents = network.element_currents(network.solve())
    assert currents["t"] == pytest.approx(150.0 * currents["base"], rel=1e-6)
    # The base sits where its junction carries the current: (5 − V)/1 MΩ, V = vt·ln(I_c/is).
    assert 5.0 - 1e6 * currents["base"] == pytest.approx(0.02585 * np.log(currents["t"] / 1e-14), abs=1e-6)


def test_a_transistor_driven_with_a_tenth_is_a_closed_switch():
    """R_base = (V_pin − 0.7)/(I/10): the lamps see the supply less about 0.2 V at the most."""
    wanted_a = 0.1
    network = switched(5.0, (5.0 - 0.7) / (wanted_a / 10), 12.0 / wanted_a)
    answer = network.solve()
    volts, currents = network.node_volts(answer), network.element_currents(answer)
    assert 0.0 < volts["c"] < 0.2 and currents["load"] == pytest.approx((12.0 - volts["c"]) / 120.0)
    assert currents["load"] > 0.98 * wanted_a and volts["b"] == pytest.approx(0.75, abs=0.08)
    # Ebers and Moll in closed form: what the two junctions' voltages and the base current say of each other.
    forced = currents["t"] / currents["base"]
    ratio = (1 + (forced + 1) / 4.0) / (1 - forced / 150.0)
    assert volts["c"] == pytest.approx(0.02585 * np.log(ratio), rel=1e-6)


def test_a_transistor_without_drive_is_open():
    network = switched(0.0, 1e4, 100.0)
    assert abs(network.element_currents(network.solve())["load"]) < 1e-12


def test_an_emitter_follower_carries_its_load_from_the_collector():
    network = Network(
        [Source("s", "plus", "0", 9.0), Source("pin", "p", "0", 5.0), Resistor("base", "p", "b", 470.0),
         Transistor("t", "plus", "b", "e", beta=200.0), Resistor("load", "e", "0", 220.0)]
    )  # fmt: skip
    currents = network.element_currents(network.solve())
    assert currents["load"] == pytest.approx(201.0 * currents["base"], rel=1e-6)
    assert currents["s"] == pytest.approx(currents["t"], rel=1e-9)  # nothing else hangs on the supply


values = st.floats(0.05, 1.0)


@given(
    supply=st.floats(0.0, 24.0), pin=st.floats(-5.0, 12.0), scale=st.tuples(values, values, values),
    beta=st.floats(5.0, 800.0), held=st.floats(0.5, 15.0),
)  # fmt: skip
@settings(max_examples=40, deadline=None)
def test_kirchhoff_holds_at_every_node_and_no_power_is_made(supply, pin, scale, beta, held):
    elements = [
        Source("s", "plus", "0", supply, 0.5 * scale[0]), Regulator("r", "plus", "rail", "0", held),
        Resistor("lamp-r", "rail", "a", 400.0 * scale[1]), Diode("lamp", "a", "c", 2.0, 1e-16, 5.0),
        Source("pin", "p", "0", pin), Resistor("base", "p", "b", 5000.0 * scale[2]), Transistor("t", "c", "b", "e", beta=beta),
        Resistor("emitter", "e", "0", 10.0 * scale[0]), Resistor("bleed", "rail", "b", 1e5),
    ]  # fmt: skip
    network = Network(elements)
    answer = network.solve()
    volts, i = network.node_volts(answer), network.element_currents(answer)
    base = i["base"] + i["bleed"]
    assert i["r"] == pytest.approx(i["lamp-r"] + i["bleed"], abs=2e-9)
    assert i["lamp"] == pytest.approx(i["lamp-r"], abs=2e-9)
    assert i["t"] == pytest.approx(i["lamp"], abs=2e-9)
    assert i["emitter"] == pytest.approx(i["t"] + base, abs=2e-9)
    into = volts["plus"] * i["s"] + volts["p"] * i["pin"]
    mean_current_share = (
        i["base"] ** 2 * elements[5].ohms + i["emitter"] ** 2 * elements[7].ohms + i["lamp-r"] ** 2 * elements[2].ohms
    )
    assert mean_current_share <= into + 1e-7


def test_many_points_at_once_equal_them_one_by_one():
    network = regulated(12.0, dropout_v=1.2)
    volts = np.tile(network.volts, (25, 1))
    volts[:, 0] = np.linspace(0.5, 12.0, 25)
    ohms = np.tile(network.ohms, (25, 1))
    ohms[:, 2] = np.linspace(20.0, 400.0, 25)
    together = network.solve(volts=volts, ohms=ohms).currents
    single = np.concatenate([network.solve(volts=v, ohms=o).currents for v, o in zip(volts, ohms, strict=True)])
    assert together == pytest.approx(single, abs=1e-12)


def test_a_large_network_takes_stamps_on_the_sparse_path():
    elements = [Source("s", "in", "0", 12.0, 0.1), Regulator("r", "in", "n0", "0", 5.0, ohms=0.1)]
    for k in range(220):
        elements += [Resistor(f"a{k}", f"n{k}", f"n{k + 1}", 1.0), Resistor(f"b{k}", f"n{k + 1}", "0", 10_000.0)]
    network = Network(elements)
    found = network.element_currents(network.solve())
    assert found["r"] == pytest.approx(sum(found[f"b{k}"] for k in range(220)), rel=1e-9)


@pytest.mark.parametrize(
    "element",
    [Regulator("x", "a", "a", "0", 5.0), Regulator("x", "a", "b", "0", -5.0), Transistor("x", "a", "b", "c", beta=0.0),
     Transistor("x", "a", "b", "c", is_a=float("nan"))],
)  # fmt: skip
def test_impossible_values_are_named(element):
    with pytest.raises(CircuitError, match="Element x"):
        Network([Source("s", "a", "0", 5.0), Resistor("q", "b", "0", 1.0), Resistor("p", "c", "0", 1.0), element])


def test_both_are_read_from_a_file_of_cases():
    regulator = element_from({"kind": "regulator", "id": "r", "vin": "a", "vout": "b", "gnd": "0", "volts": 5, "dropout": 1.2, "iq": 0.005})  # fmt: skip
    assert regulator == Regulator("r", "a", "b", "0", 5.0, 1.2, 0.005)
    motor = {"kind": "motor", "id": "m", "a": "p", "b": "0", "volts": 3.0, "running": 0.08, "idle": 0.03, "winding": 5.0, "geared": True}  # fmt: skip
    assert (
        element_from(motor) == Motor("m", "p", "0", 3.0, 0.08, 0.03, 5.0, True)
        and element_to(element_from(motor)) == motor
    )
    npn = element_from({"kind": "npn", "id": "t", "collector": "c", "base": "b", "emitter": "e", "is": 1e-14, "beta": 100})  # fmt: skip
    assert npn == Transistor("t", "c", "b", "e", 1e-14, beta=100.0)
    with pytest.raises(CircuitError, match="Element t, base: found None"):
        element_from({"kind": "npn", "id": "t", "collector": "c", "emitter": "e", "is": 1e-14, "beta": 100})


SOURCES = {
    "block": (9.0, 1.7),
    "tired block": (5.4, 5.0),
    "two cells": (3.0, 0.3),
    "coin": (2.0, 100.0),
    "adapter": (12.0, 0.0),
}


@pytest.mark.parametrize("source", list(SOURCES))
@pytest.mark.parametrize("held", [2.5, 5.0])
def test_a_lamp_behind_a_regulator_on_any_source(source, held):
    """By a root finder on the lamp's current, in and out of dropout, while other lamps hang on the same source."""
    emf, ohm = SOURCES[source]
    lamp = {"n": 3.36, "is_a": 6.2e-17, "rs": 10.0}
    network = Network(
        [Source("s", "in", "0", emf, ohm), Regulator("r", "in", "out", "0", held, dropout_v=2.0, quiescent_a=0.0),
         Resistor("r1", "out", "a", 150.0), Diode("d1", "a", "0", **lamp), Resistor("r2", "in", "b", 470.0), Diode("d2", "b", "0", **lamp)],
        vt=0.02585,
    )  # fmt: skip
    found = network.element_currents(network.solve())

    def through(volts: float, ohms: float) -> float:
        if volts <= 0:
            return 0.0
        return brentq(
            lambda i: volts - (ohms + 10.0) * i - 3.36 * 0.02585 * np.log1p(i / 6.2e-17),
            0.0,
            volts / ohms + 1e-12,
            xtol=1e-16,
        )

    def left(vin: float) -> float:
        """What is over at the source's terminals at this voltage there."""
        behind = through(max(min(held, vin - 2.0), 0.0), 150.05)
        return (emf - vin) / max(ohm, 1e-9) - behind - through(vin, 470.0)

    vin = emf if ohm == 0 else brentq(left, 0.0, emf, xtol=1e-14)
    expected = through(max(min(held, vin - 2.0), 0.0), 150.05)
    assert found["d1"] == pytest.approx(expected, rel=1e-6, abs=1e-11)
    assert found["d2"] == pytest.approx(through(vin, 470.0), rel=1e-6, abs=1e-11)


def test_many_points_with_a_regulator_are_those_of_each_alone():
    """A battery from fresh to empty in one go: the same as depth by depth, through the bend into dropout and below."""
    lamp = {"n": 3.36, "is_a": 6.2e-17, "rs": 10.0}
    network = Network(
        [Source("s", "in", "0", 6.4, 0.6), Regulator("r", "in", "out", "0", 3.3, dropout_v=1.2), Resistor("r1", "out", "a", 47.0),
         Diode("d1", "a", "0", **lamp), Transistor("t", "c", "b", "0"), Resistor("load", "in", "c", 220.0), Resistor("base", "out", "b", 4700.0)],
        vt=0.02585,
    )  # fmt: skip
    volts = np.tile(network.volts, (41, 1))
    volts[:, 0] = np.linspace(6.4, 0.4, 41)
    together = network.solve(volts=volts).currents
    for k in range(0, 41, 5):
        assert together[k] == pytest.approx(network.solve(volts=volts[k]).currents[0], rel=1e-6, abs=1e-10)


def test_a_regulator_that_feeds_nothing_holds_its_voltage():
    """Nothing but the source and the regulator: no branch carries current, and the solver comes to rest all the same."""
    network = Network([Source("s", "in", "0", 9.0), Regulator("r", "in", "out", "0", 5.0, quiescent_a=0.004)])
    found = network.solve()
    assert network.node_volts(found)["out"] == pytest.approx(5.0, abs=1e-6)
    assert found.currents[0, 0] == pytest.approx(0.004, rel=1e-6)  # its own current, and no other
    assert found.currents[0, 1] == pytest.approx(0.0, abs=1e-9)
