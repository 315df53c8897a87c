"""The solver against networks solved independently."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from gwiazda.core.circuit.exchange import network_from, solved, worst_deviation
from gwiazda.core.exchange.cases.reference import verify_file

FILE = Path(__file__).parent / "data" / "circuits.json"
CASES = json.loads(FILE.read_text())


@pytest.mark.parametrize("case", CASES, ids=lambda c: c["name"])
def test_case_agrees(case):
    found = solved(case)["solution"]
    assert found["currents"].keys() == case["solution"]["currents"].keys()
    for name, expected in case["solution"]["currents"].items():
        if abs(expected) > 1e-6:
            assert found["currents"][name] == pytest.approx(expected, rel=1e-6)
        else:
            assert found["currents"][name] == pytest.approx(expected, abs=1e-9)
    for name, expected in case["solution"]["nodes"].items():
        assert found["nodes"][name] == pytest.approx(expected, abs=1e-7)


@pytest.mark.parametrize("case", CASES, ids=lambda c: c["name"])
def test_kirchhoffs_laws_hold(case):
    network = network_from(case)
    answer = network.solve()
    volts, currents = network.node_volts(answer), network.element_currents(answer)
    balance = dict.fromkeys(network.nodes, 0.0)
    for element in network.elements:
        a, b = element.ends
        balance[a] -= currents[element.id]
        balance[b] += currents[element.id]
        if type(element).__name__ == "Resistor":
            assert volts[a] - volts[b] == pytest.approx(currents[element.id] * element.ohms, abs=1e-6)
        if type(element).__name__ == "Source":
            assert volts[b] - volts[a] == pytest.approx(element.volts - currents[element.id] * element.ohms, abs=1e-6)
    assert max(abs(v) for v in balance.values()) < 1e-6


def test_verify_reads_the_whole_file():
    cases, lines, worst, good = verify_file(FILE)
    assert len(cases) == len(CASES) and len(lines) == len(CASES) + 1
    assert worst < 1e-3 and good


def test_a_wrong_answer_is_seen():
    case = json.loads(json.dumps(CASES[0]))
    case["solution"]["currents"]["R1"] *= 1.5
    assert worst_deviation(case["solution"], solved(case)["solution"]) == pytest.approx(1 / 3, rel=1e-6)


def test_many_points_at_once_equal_one_by_one():
    rng = np.random.default_rng(4)
    for case in CASES:
        network = network_from(case)
        volts = network.volts * rng.uniform(0.9, 1.1, (7, 1))
        ohms = network.ohms * rng.uniform(0.9, 1.1, (7, len(network.elements)))
        together = network.solve(volts=volts, ohms=ohms)
        for s in range(7):
            alone = network.solve(volts=volts[s], ohms=ohms[s])
            np.testing.assert_allclose(together.currents[s], alone.currents[0], rtol=1e-8, atol=1e-12)
            np.testing.assert_allclose(together.volts[s], alone.volts[0], atol=1e-8)
