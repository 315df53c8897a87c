"""From readings to faults: against networks solved apart, hidden faults searched for, and readings that can't be."""

from __future__ import annotations

import itertools
import random

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.cli import main
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.sources import DEPTHS
from gwiazda.core.circuit.network import Diode, Network, Resistor, Source
from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Wanted
from gwiazda.core.plan.storage import PlanFile, load, save
from gwiazda.core.workbench.diagnosis import benches_of, diagnose, next_words
from gwiazda.core.workbench.fault_kinds import COLD_OHM
from gwiazda.core.workbench.faults import Fault
from gwiazda.core.workbench.hypotheses import Measurement, sigma_of
from gwiazda.core.workbench.practice import Hidden, searched, shown_by, trials
from gwiazda.core.workbench.readings_csv import read_readings
from gwiazda.demos import path_of

CAT = built_in()
ONE, TWO, THREE = (f"deck1.lamp.{k:02d}" for k in (1, 2, 3))


@pytest.fixture(scope="module")
def deck():
    plan = deck_plan(windows=4, lamps=3)
    plan = edits.set_wanted(plan, [ONE, TWO, THREE], Wanted(current_ma=8.0))
    plan = edits.wire_in_series(plan, [ONE, TWO])
    return plan, assess(plan, CAT)


def top(plan, assessment, *readings, count=3):
    return [s.faults for s in diagnose(plan, assessment, readings).suspects[:count]]


def test_each_fault_is_solved_as_the_network_it_makes(deck):
    """By another way: the network built anew with the part taken out, bridged or enlarged."""
    bench = benches_of(*deck)[0]
    row = {h: k for k, h in enumerate(bench.hypotheses)}

    def current(elements) -> float:
        return float(Network(elements).solve().currents[0, 0])

    def without(change):
        return [change(e) for e in bench.network.elements]

    lamp = [e.id for e in bench.network.elements if isinstance(e, Diode) and e.id.endswith(f".{THREE}")]
    cases = {
        "open": lambda e: Resistor(e.id, e.anode, e.cathode, 1e9) if e.id in lamp[:1] else e,
        "short": lambda e: Resistor(e.id, e.anode, e.cathode, 1e-3) if e.id in lamp else e,
        "cold joint": lambda e: e._replace(rs=e.rs + COLD_OHM) if e.id in lamp[:1] else e,
        "resistor high": lambda e: e._replace(ohms=e.ohms * 10) if e.id == f"r.{THREE}" else e,
    }
    for kind, change in cases.items():
        there = float(bench.currents[row[(Fault(kind, (THREE,)),)], 0])
        assert there == pytest.approx(current(without(change)), rel=2e-3), kind
    assert float(bench.currents[0, 0]) == pytest.approx(deck[1].supply.draw_a, rel=1e-6)


def test_a_dark_string_and_the_voltage_over_its_lamps_tell_which(deck):
    plan, found = deck
    dark = [Measurement("lit", ONE, 0.0), Measurement("lit", TWO, 0.0), Measurement("lit", THREE, 1.0)]
    first = diagnose(plan, found, dark)
    kinds = {f.kind for s in first.suspects[:5] for f in s.faults}
    assert kinds & {"reversed", "open", "resistor open"} and all(
        THREE not in f.at for s in first.suspects[:4] for f in s.faults
    )
    assert first.next and first.next[0].what in ("volts", "amps")
    told = [*dark, Measurement("volts", ONE, 9.0), Measurement("volts", TWO, 0.0)]
    assert {f[0].kind for f in top(plan, found, *told, count=2)} == {"reversed", "open"}
    assert all(f[0].at == (ONE,) for f in top(plan, found, *told, count=2))


def test_a_sound_circuit_is_called_sound(deck):
    plan, found = deck
    lit = [Measurement("lit", i, 1.0) for i in (ONE, TWO, THREE)]
    said = diagnose(plan, found, [*lit, Measurement("amps", "supply", round(found.supply.draw_a, 4))])
    assert said.suspects[0].faults == () and said.suspects[0].words == "nothing is broken" and said.misfit < 1.0


def test_contradictions_show_as_a_misfit(deck):
    plan, found = deck
    lit = [Measurement("lit", i, 1.0) for i in (ONE, TWO, THREE)]
    assert diagnose(plan, found, [*lit, Measurement("amps", "supply", 0.9)]).misfit > 3.0


@pytest.mark.parametrize("depth", [0.0, 0.5, 0.8])
@pytest.mark.parametrize("name", ["szron", "swistak", "perkoz"])
def test_hidden_faults_are_found_however_far_the_battery_is_down(name, depth):
    plan = load(path_of(name)).plan
    found = trials(plan, assess(plan, CAT), 12, depth=depth)
    assert sum(t.found for t in found) >= 10


@pytest.mark.parametrize("depth", [0.02, 0.3, 0.55, 0.8])
def test_a_sound_model_on_a_battery_half_used_is_called_sound(depth):
    """Read off the network itself at that depth, by another way than the bench's along the depth."""
    plan = load(path_of("szron")).plan
    bench = benches_of(plan, assess(plan, CAT))[0]
    volts, ohms = (float(np.interp(depth, DEPTHS, x)) for x in (bench.source.along_v, bench.source.along_ohm))
    network = Network([Source("source", "plus", "0", volts, ohms), *bench.network.elements[1:]])
    answer = network.solve()
    current, node = network.element_currents(answer), network.node_volts(answer)
    some = list(bench.lamps)[:12:3]
    readings = [Measurement("lit", i, 1.0 if abs(current[bench.network.elements[bench.lamps[i].columns[0]].id]) > 1e-6 else 0.0) for i in some]  # fmt: skip
    readings += [Measurement("volts", i, round(node[bench.ends[i][0]] - node[bench.ends[i][1]], 2)) for i in some]
    readings.append(Measurement("amps", bench.feed, round(abs(current["source"]), 5)))
    said = diagnose(plan, assess(plan, CAT), readings)
    assert said.suspects[0].faults == () and said.suspects[0].share > 0.5 and said.misfit < 1.5


def test_a_battery_that_is_low_is_named_before_any_part():
    plan = load(path_of("szron")).plan
    assessment = assess(plan, CAT)
    low = diagnose(plan, assessment, [Measurement("volts", "supply", 6.9)])  # eight cells at 0.86 V: past their end
    assert (
        low.suspects[0].words == "the battery is low, or the adapter gives too little" and low.suspects[0].share > 0.8
    )
    dim = [
        Measurement("lit", i, 0.5) for i in benches_of(plan, assessment)[0].lamps if assessment.lamps[i].share > 0.01
    ]
    all_dim = diagnose(plan, assessment, dim)
    assert all_dim.used > 0.6 and {f.kind for f in all_dim.suspects[0].faults} <= {"source low"}, "no matter of parts"
    assert diagnose(plan, assessment, []).used is None
    half = diagnose(plan, assessment, [Measurement("volts", "supply", 9.9)])  # 1.24 V a cell: a good half
    assert half.used == pytest.approx(0.55, abs=0.12)


def test_the_source_s_own_volts_are_asked_first_and_nothing_where_nothing_tells(deck):
    plan, found = deck
    dark = [Measurement("lit", ONE, 0.0), Measurement("lit", TWO, 0.0), Measurement("lit", THREE, 1.0)]
    assert diagnose(plan, found, dark).next[0].source == benches_of(plan, found)[0].is_battery
    szron = load(path_of("szron")).plan
    first = diagnose(szron, assess(szron, CAT), [Measurement("lit", "hull.lamp.01", 0.0)]).next[0]
    assert first.source and next_words(szron, first) == "volts over Source: all else hangs on the source"
    told = [*dark, Measurement("volts", ONE, 9.0), Measurement("volts", TWO, 0.0)]
    done = diagnose(plan, found, told)
    assert [n.at for n in done.next] == ["deck1.string.01.r"], (
        "whether anything flows tells open from reversed no better"
    )
    last = diagnose(plan, found, [*told, Measurement("volts", "deck1.string.01.r", 0.0)])
    assert last.next == () and "turn" in last.instead and ONE in last.instead
    assert all(n.bits >= 0.05 or n.source for n in diagnose(plan, found, dark).next)


def test_looks_alone_end_in_suspects_on_every_demo():
    """Two dark lamps of Perkoz, whose regulators let Newton find no rest with some pairs of faults."""
    plan = load(path_of("perkoz")).plan
    assessment = assess(plan, CAT)
    lamps = list(benches_of(plan, assessment)[0].lamps)
    pairs = list(itertools.combinations(lamps, 2))
    for a, b in random.Random(4).sample(pairs, 5):
        said = diagnose(plan, assessment, [Measurement("lit", i, 0.0 if i in (a, b) else 1.0) for i in lamps])
        assert said.suspects and {i for f in said.suspects[0].faults for i in f.at} & {a, b}, (a, b)


@pytest.mark.parametrize("name", ["szron", "swistak", "perkoz"])
def test_hidden_faults_are_found_in_three_readings(name):
    plan = load(path_of(name)).plan
    found = trials(plan, assess(plan, CAT), 25)
    assert sum(t.found for t in found) >= 23 and all(t.readings == 3 for t in found)


def test_hidden_faults_of_a_large_circuit_are_found_too():
    plan = load(path_of("bryla")).plan
    assert sum(t.found for t in trials(plan, assess(plan, CAT), 3)) >= 3


def test_a_bridge_between_neighbours_is_solved_as_the_network_it_makes(deck):
    """By another way: the network with a wire more, and by eye what it does: the string's lamps or both are affected."""
    bench = benches_of(*deck)[0]
    across = [(k, h[0]) for k, h in enumerate(bench.hypotheses) if h and h[0].kind == "bridge"]
    assert across and all(f.at[0] != f.at[1] for _, f in across)
    for row, fault in across:
        a, b = bench.bridges[fault.at[0], fault.at[1]]
        elements = [*bench.network.elements, Resistor("bridge", a, b, 0.05)]
        answer = Network(elements).solve()
        assert bench.currents[row] == pytest.approx(answer.currents[0, :-1], rel=1e-4, abs=1e-9)
        assert np.abs(bench.currents[row] / np.where(bench.currents[0], bench.currents[0], 1.0) - 1.0).max() > 0.02
        metered = Network([*elements, Resistor("meter", *bench.ends[ONE][:2], 10e6)]).solve()
        assert bench.predicted("volts", ONE)[row] == pytest.approx(float(metered.currents[0, -1]) * 10e6, abs=2e-3)


def test_a_bridge_is_among_the_suspects_when_the_readings_are_those_of_one(deck):
    plan, found = deck
    bench = benches_of(plan, found)[0]
    row, fault = next((k, h[0]) for k, h in enumerate(bench.hypotheses) if h and h[0].kind == "bridge")
    readings = [Measurement("lit", i, float(bench.predicted("lit", i)[row])) for i in (ONE, TWO, THREE)]
    readings += [Measurement("volts", i, round(float(bench.predicted("volts", i)[row]), 2)) for i in (ONE, TWO, THREE)]
    assert (fault,) in top(plan, found, *readings, count=4) and "bridges" in fault.words


def test_behind_an_open_switch_nothing_is_read_and_over_it_the_source():
    plan = load(path_of("swistak")).plan
    bench = benches_of(plan, assess(plan, CAT))[0]
    dead = [k for k in range(len(bench.hypotheses)) if abs(bench.currents[k, 0]) < 1e-6]
    assert dead, "it has a part that all goes through"
    lamp = next(iter(bench.lamps))
    assert np.all(bench.predicted("volts", lamp)[dead] == 0.0)
    part = bench.hypotheses[dead[0]][0].at[0]
    over = float(bench.predicted("volts", part)[dead[0]])
    assert 0.5 * float(bench.network.volts.max()) < over < 1.01 * float(bench.network.volts.max())


def test_a_band_misread_is_told_from_a_decade(deck):
    plan, found = deck
    bench = benches_of(plan, found)[0]
    for kind in ("band high", "band low", "resistor low"):
        row = next(k for k, h in enumerate(bench.hypotheses) if h == (Fault(kind, (THREE,)),))
        readings = [Measurement("amps", THREE, round(float(bench.predicted("amps", THREE)[row]), 5))]
        readings += [Measurement("volts", THREE, round(float(bench.predicted("volts", THREE)[row]), 2))]
        assert (Fault(kind, (THREE,)),) in top(plan, found, *readings), kind


def test_a_hidden_fault_is_the_same_for_its_seed(deck):
    bench = benches_of(*deck)[0]
    a, b = Hidden(bench, 7), Hidden(bench, 7)
    assert a.fault == b.fault and a.read("volts", ONE) == b.read("volts", ONE) and a.look() == b.look()
    assert searched(bench, 3) == searched(bench, 3)
    assert {Hidden(bench, k).fault.kind for k in range(30)} > {"reversed"}
    assert all(len(bench.hypotheses[k]) == 1 for k in shown_by(bench))


def test_two_faults_at_once(deck):
    plan, found = deck
    bench = benches_of(plan, found)[0]
    likely = [k for k, h in enumerate(bench.hypotheses) if h and h[0].kind in ("reversed", "short")]
    bench = bench.with_doubles(likely)
    dark = [Measurement("lit", i, 0.0) for i in (ONE, TWO, THREE)]
    share = bench.posterior(dark)
    best = bench.hypotheses[int(share.argmax())]
    assert len(best) == 2 or best[0].kind in ("resistor open",), "one fault doesn’t darken both strings"
    assert not any(len(h) == 2 for h in benches_of(plan, found)[0].hypotheses), "the bench that is kept stays as it was"


@pytest.mark.parametrize("name", ["szron", "bryla"])
def test_two_faults_of_a_demo_are_named_together(name):
    plan = load(path_of(name)).plan
    assessment = assess(plan, CAT)
    bench = benches_of(plan, assessment)[0]
    behind = {i: branch.id for branch in assessment.branches.values() for i in branch.lamps}
    a, b = next(
        (x, y)
        for x, y in itertools.pairwise(bench.lamps)
        if behind[x] != behind[y]
        and len(assessment.branches[behind[x]].lamps) == 1 == len(assessment.branches[behind[y]].lamps)
    )
    # As it would be, from a network with both of them out.
    both = bench.with_doubles(
        [k for k, h in enumerate(bench.hypotheses) if h and h[0].kind == "open" and h[0].at[0] in (a, b)]
    )
    row = both.hypotheses.index(next(h for h in both.hypotheses if len(h) == 2))
    looks = [Measurement("lit", i, float(both.predicted("lit", i)[row])) for i in both.lamps]
    volts = [Measurement("volts", i, round(float(both.predicted("volts", i)[row]), 2)) for i in (a, b)]
    said = diagnose(plan, assessment, [*looks, *volts])
    assert {i for f in said.suspects[0].faults for i in f.at} == {a, b} and "; and " in said.suspects[0].words
    assert {f.kind for s in said.suspects[:4] for f in s.faults} <= {"open", "reversed"} and said.misfit < 1.0
    seen = diagnose(plan, assessment, looks).suspects[0]
    assert {i for f in seen.faults for i in f.at} == {a, b}, "two dark lamps are two faults, not two looks gone wrong"
    one = diagnose(plan, assessment, [r if r.at != b else r._replace(value=1.0) for r in looks] + volts[:1])
    assert [len(s.faults) for s in one.suspects[:2]] == [1, 1], "one fault where one tells all"


def test_the_meter_is_surer_of_small_values_than_of_large():
    assert sigma_of("amps", 0.001) < sigma_of("amps", 0.1) and sigma_of("volts", 0.0) >= 0.06
    assert np.all(np.diff(sigma_of("volts", np.linspace(0, 12, 20))) > 0)


@pytest.mark.parametrize(
    ("readings", "words"),
    [
        ([Measurement("volts", "nowhere", 3.0)], "“nowhere” is not in the circuit"),
        ([Measurement("volts", ONE, 900.0)], "can’t be on a source of 9 V"),
        ([Measurement("amps", ONE, -1.0)], "impossible"),
        ([Measurement("lit", "supply", 1.0)], "is no lamp"),
    ],
)  # fmt: skip
def test_impossible_readings_are_named(deck, readings, words):
    with pytest.raises(PlanError, match=words):
        diagnose(*deck, readings)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "line 1"),
        ("at,what\n", "line 1"),
        ("what,at,value\nohms,a,3\n", "line 2: “ohms” is not measured here"),
        ("what,at,value\nvolts,a\n", "line 2: 2 cells"),
        ("what,at,value\n\nvolts,a,lots\n", "line 3: “lots” is not a number"),
    ],
)  # fmt: skip
def test_bad_tables_of_readings_are_refused_with_their_line(text, words):
    with pytest.raises(PlanError) as refused:
        read_readings(text)
    assert words in str(refused.value)


def test_the_command_names_the_suspects(deck, tmp_path, capsys):
    save(PlanFile(deck[0]), tmp_path / "p.gwiazda")
    (tmp_path / "r.csv").write_text(
        f"what,at,value\nlit,{ONE},dark\nlit,{TWO},dark\nlit,{THREE},lit\nvolts,{ONE},9.0\n"
    )
    assert main(["diagnose", str(tmp_path / "p.gwiazda"), str(tmp_path / "r.csv")]) == 1
    said = capsys.readouterr().out
    assert "Deck 1, lamp 1 is reversed" in said and "To measure next" in said
    assert main(["diagnose", str(tmp_path / "p.gwiazda"), str(tmp_path / "none.csv")]) == 2
