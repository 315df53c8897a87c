"""Diodes, resistor series, and networks of any shape."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import root
from scipy.special import wrightomega

from gwiazda.core.circuit import series
from gwiazda.core.circuit.network import Diode, Network, Resistor, Source
from gwiazda.core.circuit.parts import diode
from gwiazda.core.circuit.shelf import shelf_of
from gwiazda.core.errors import CircuitError
from gwiazda.core.parts.catalogue import built_in

WHITE = diode.parameters_from_points(3.10, 2.65, 10.0)


def white(name: str, anode: str, cathode: str, rs: float = 10.0) -> Diode:
    return Diode(name, anode, cathode, WHITE[0], WHITE[1], rs)


def test_worked_parameters_of_a_white_lamp():
    assert WHITE[0] == pytest.approx(3.357, abs=1e-3)
    assert WHITE[1] == pytest.approx(6.16e-17, rel=5e-3)
    assert float(diode.forward_voltage(1.61e-3, *WHITE, 10.0)) == pytest.approx(2.697, abs=1e-3)


@pytest.mark.parametrize("family", sorted(built_in().families))
def test_each_family_goes_through_its_data_sheet_points(family):
    f = built_in().families[family]
    n, is_a = diode.parameters_from_points(f.v20_v, f.v1_v, f.rs_ohm)
    assert float(diode.forward_voltage(0.020, n, is_a, f.rs_ohm)) == pytest.approx(f.v20_v, abs=1e-9)
    assert float(diode.forward_voltage(0.001, n, is_a, f.rs_ohm)) == pytest.approx(f.v1_v, abs=2e-4)


def test_points_without_a_junction_are_refused():
    with pytest.raises(ValueError, match="no junction"):
        diode.parameters_from_points(2.0, 1.99, 10.0)


@given(st.floats(-600, 1e4), st.floats(-0.9, 0.9))
def test_wright_omega(u, off):
    exact = float(wrightomega(u))
    found = float(diode.wright_omega(np.array([u]))[0])
    assert found == pytest.approx(exact, rel=1e-13, abs=1e-290)
    near = diode.wright_omega(np.array([u + off]))
    assert float(diode.wright_omega(np.array([u]), near)[0]) == pytest.approx(exact, rel=1e-13, abs=1e-290)


def test_series_values():
    assert series.decade("E6") == (1.0, 1.5, 2.2, 3.3, 4.7, 6.8)
    assert len(series.decade("E12")) == 12 and len(series.decade("E24")) == 24
    e96 = series.decade("E96")
    assert len(e96) == 96 and e96[:4] == (1.0, 1.02, 1.05, 1.07) and e96[-1] == 9.76
    assert set(series.decade("E12")) <= set(series.decade("E24"))


@given(st.floats(1.0, 9.9e6), st.sampled_from(["E6", "E12", "E24", "E96"]))
def test_next_value_is_at_or_above_and_close(ohm, name):
    value = shelf_of(name).at_or_above(ohm)
    step = {"E6": 1.55, "E12": 1.26, "E24": 1.16, "E96": 1.03}[name]
    assert ohm * (1 - 1e-8) <= value <= ohm * step


def test_values_of_the_series_are_themselves():
    for name in ("E6", "E12", "E24", "E96"):
        assert all(shelf_of(name).at_or_above(v) == v for v in series.values(name))


@pytest.mark.parametrize(
    ("ohm", "name", "colours"),
    [
        (4700, "E12", ("yellow", "violet", "red", "gold")),
        (390, "E12", ("orange", "white", "brown", "gold")),
        (1e6, "E6", ("brown", "black", "green", "gold")),
        (4.7, "E12", ("yellow", "violet", "gold", "gold")),
        (10.0, "E24", ("brown", "black", "black", "gold")),
        (3920, "E96", ("orange", "white", "red", "brown", "brown")),
    ],
)
def test_colour_bands(ohm, name, colours):
    assert series.bands(ohm, name) == colours


def test_every_value_has_bands_that_spell_it():
    digits = {c: i for i, c in enumerate(series._BANDS)}
    for name in ("E12", "E96"):
        for value in series.values(name):
            *figure, multiplier, _ = series.bands(value, name)
            power = {"gold": -1, "silver": -2}.get(multiplier, digits.get(multiplier))
            spelled = int("".join(str(digits[c]) for c in figure)) * 10.0**power
            assert spelled == pytest.approx(value, rel=1e-9)


def test_one_lamp_in_closed_form():
    network = Network([Source("s", "p", "0", 9.0), Resistor("r", "p", "a", 3900.0), white("d", "a", "0")])
    current = network.element_currents(network.solve())["d"]
    assert current == pytest.approx(1.616e-3, rel=1e-3)
    assert 3900 * current + float(diode.forward_voltage(current, *WHITE, 10.0)) == pytest.approx(9.0, abs=1e-9)


def test_reversed_lamp_does_not_conduct():
    network = Network([Source("s", "p", "0", 5.0), Resistor("r", "p", "a", 100.0), white("d", "0", "a")])
    found = network.element_currents(network.solve())
    assert abs(found["d"]) < 1e-12
    assert network.node_volts(network.solve())["a"] == pytest.approx(5.0, abs=1e-6)


def test_two_lamps_head_to_head_stay_dark():
    network = Network(
        [Source("s", "p", "0", 9.0), Resistor("r", "p", "a", 100.0), white("d1", "a", "b"), white("d2", "0", "b")]
    )
    assert abs(network.element_currents(network.solve())["r"]) < 1e-12


def test_stacked_ideal_sources_and_a_divider():
    network = Network(
        [
            Source("s1", "a", "0", 3.0), Source("s2", "b", "a", 1.5), Source("s3", "0", "c", 2.0),
            Resistor("r1", "b", "m", 100.0), Resistor("r2", "m", "c", 300.0), Resistor("r3", "a", "0", 1000.0),
        ]
    )  # fmt: skip
    answer = network.solve()
    volts, currents = network.node_volts(answer), network.element_currents(answer)
    assert volts["b"] == 4.5 and volts["c"] == -2.0
    assert volts["m"] == pytest.approx(4.5 - 6.5 / 4)
    assert currents["s2"] == pytest.approx(6.5 / 400)
    assert currents["s1"] == pytest.approx(6.5 / 400 + 3e-3)
    assert currents["s3"] == pytest.approx(6.5 / 400)


def test_wheatstone_bridge():
    ohms = {"ab": 100.0, "ac": 220.0, "bd": 330.0, "cd": 470.0, "bc": 150.0}
    elements = [Source("s", "a", "d", 10.0, 5.0)] + [Resistor(k, k[0], k[1], v) for k, v in ohms.items()]
    network = Network(elements, ground="d")
    answer = network.solve()
    g = {k: 1 / v for k, v in ohms.items()} | {"s": 1 / 5.0}
    matrix = np.array(
        [
            [g["ab"] + g["ac"] + g["s"], -g["ab"], -g["ac"]],
            [-g["ab"], g["ab"] + g["bd"] + g["bc"], -g["bc"]],
            [-g["ac"], -g["bc"], g["ac"] + g["cd"] + g["bc"]],
        ]
    )
    expected = np.linalg.solve(matrix, [10.0 * g["s"], 0, 0])
    found = network.node_volts(answer)
    assert [found[n] for n in "abc"] == pytest.approx(expected, abs=1e-9)


def test_a_floating_ring_and_a_dead_end():
    network = Network(
        [
            Source("s", "p", "0", 5.0, 1.0), Resistor("r", "p", "0", 10.0), Resistor("stub", "p", "end", 10.0),
            Resistor("x", "m", "n", 1.0), Resistor("y", "n", "m", 1.0),
        ]
    )  # fmt: skip
    found = network.element_currents(network.solve())
    assert found["r"] == pytest.approx(5 / 11)
    assert found["stub"] == pytest.approx(0, abs=1e-12) and found["x"] == pytest.approx(0, abs=1e-12)


def test_mixed_lamps_in_one_string():
    red = diode.parameters_from_points(2.00, 1.75, 4.0)
    si = (1.75, 2.5e-9)
    network = Network(
        [
            Source("s", "p", "0", 9.0, 2.0), Resistor("r", "p", "a", 150.0), white("w", "a", "b"),
            Diode("red", "b", "c", *red, 4.0), Diode("si", "c", "0", *si, 0.6, "diode"),
        ]
    )  # fmt: skip
    current = network.element_currents(network.solve())["r"]
    drop = sum(float(diode.forward_voltage(current, n, i, r)) for n, i, r in ((*WHITE, 10.0), (*red, 4.0), (*si, 0.6)))
    assert current * 152.0 + drop == pytest.approx(9.0, abs=1e-9)
    backwards = network.solve(volts=-network.volts)
    assert abs(backwards.currents[0, 1]) < 3e-9


@pytest.mark.parametrize(
    "elements",
    [
        [Source("s", "a", "0", 5.0), Source("t", "a", "0", 6.0), Resistor("r", "a", "0", 1.0)],
        [Resistor("r", "a", "0", -1.0)],
        [Resistor("r", "a", "a", 1.0)],
        [Resistor("r", "a", "0", float("nan"))],
        [Resistor("r", "a", "0", 1.0), Resistor("r", "b", "0", 1.0)],
        [Diode("d", "a", "0", -1.0, 1e-12, 1.0)],
    ],
)
def test_impossible_networks_are_named(elements):
    with pytest.raises(CircuitError, match=r"(Element|Source) [a-z]"):
        Network(elements)


NODES = ("0", "a", "b", "c", "d")


@st.composite
def networks(draw):
    elements = [Source("s", "a", "0", draw(st.floats(-12, 12)), draw(st.floats(0.1, 20)))]
    for i in range(draw(st.integers(2, 9))):
        p, q = draw(st.permutations(NODES))[:2]
        if draw(st.booleans()):
            elements.append(Resistor(f"r{i}", p, q, draw(st.floats(1, 1e5))))
        else:
            rs = draw(st.floats(0.5, 20))
            elements.append(Diode(f"d{i}", p, q, draw(st.floats(1.2, 3.6)), 10 ** draw(st.floats(-18, -9)), rs))
    return elements


@given(networks())
def test_random_networks_obey_kirchhoff(elements):
    network = Network(elements)
    answer = network.solve()
    volts, currents = network.node_volts(answer), network.element_currents(answer)
    balance = dict.fromkeys(network.nodes, 0.0)
    for e in elements:
        a, b = e.ends
        i = currents[e.id]
        balance[a] -= i
        balance[b] += i
        if isinstance(e, Source):
            assert volts[b] - volts[a] == pytest.approx(e.volts - i * e.ohms, abs=1e-6)
        elif isinstance(e, Resistor):
            assert volts[a] - volts[b] == pytest.approx(i * e.ohms, abs=1e-6)
        elif i > 1e-9:
            assert volts[a] - volts[b] == pytest.approx(float(diode.forward_voltage(i, e.n, e.is_a, e.rs)), abs=1e-6)
        else:
            # In reverse no more than the saturation current flows.
            assert i >= -e.is_a - 1e-9
    assert max(map(abs, balance.values())) < 1e-6


@pytest.mark.parametrize("seed", [396, 2295, 2296])
def test_networks_that_stay_dark_settle_too(seed):
    """Nothing but blocked diodes around floating nodes: the straight-line start is far from the answer."""
    import random

    r = random.Random(seed)
    elements = [Source("s", "a", "0", r.choice([0.0, -0.04, 0.3]), 11.0)]
    for i in range(4):
        p, q = r.sample(NODES, 2)
        elements.append(Diode(f"d{i}", p, q, 2.0, 1e-18, r.choice([0.5, 1.0])))
    elements.append(Resistor("r", "a", "0", 11627.0))
    network = Network(elements)
    many = network.solve(volts=np.tile(network.volts, (3, 1)))
    assert np.abs(many.currents[:, 1:-1]).max() < 1e-9
    assert network.solve().currents[0] == pytest.approx(many.currents[1], abs=1e-9)


@given(networks(), st.floats(0.2, 0.9))
def test_a_network_is_the_same_however_it_is_listed(elements, share):
    cut = int(len(elements) * share)
    first, second = Network(elements), Network(elements[cut:] + elements[:cut])
    a, b = first.element_currents(first.solve()), second.element_currents(second.solve())
    for name, current in a.items():
        assert b[name] == pytest.approx(current, rel=1e-6, abs=1e-9)


def test_agrees_with_a_general_root_finder():
    rng = np.random.default_rng(8)
    elements = [Source("s", "p", "0", 9.0, 1.7)]
    for i in range(20):
        elements += [Resistor(f"r{i}", "p", f"a{i}", float(rng.uniform(200, 4000))), white(f"d{i}", f"a{i}", "0")]
    network = Network(elements)
    found = network.solve()
    r = network.ohms[1::2] + 10.0

    def miss(i):
        return 9.0 - 1.7 * i.sum() - r * i - WHITE[0] * diode.VT_300K * np.log1p(np.maximum(i, 0) / WHITE[1])

    other = root(miss, np.full(20, 1e-3), method="hybr", options={"xtol": 1e-12}).x
    np.testing.assert_allclose(found.currents[0, 1::2], other, rtol=1e-8)


def test_large_networks_go_through_the_sparse_path():
    elements = [Source("s", "n0", "0", 12.0, 0.1)]
    for i in range(260):
        elements += [
            Resistor(f"w{i}", f"n{i}", f"n{i + 1}", 0.02),
            Resistor(f"r{i}", f"n{i + 1}", f"a{i}", 3900.0),
            white(f"d{i}", f"a{i}", "0"),
        ]
    network = Network(elements)
    answer = network.solve()
    currents = network.element_currents(answer)
    assert currents["s"] == pytest.approx(sum(currents[f"d{i}"] for i in range(260)), rel=1e-9)
    assert currents["d0"] > currents["d259"] > 0.8 * currents["d0"]


def test_numbers_of_a_junction_match_the_array_form():
    from gwiazda.core.assess.electrics.junctions import forward_v, junctions

    for part in built_in().lamps.values():
        for j in junctions(built_in(), part):
            for amp in (1e-6, 1e-3, 0.02):
                assert j.volts(amp) == pytest.approx(
                    float(diode.forward_voltage(amp, j.n, j.is_a, j.rs_ohm)), rel=1e-12
                )
    chip = junctions(built_in(), built_in().lamps["chip-5050-warm-white"])
    assert math.isclose(forward_v(chip, 0.06), 3.10, rel_tol=1e-3)
