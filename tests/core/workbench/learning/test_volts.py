"""Forward voltages learned from the log."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import t

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.netlist import MINUS, PLUS
from gwiazda.core.assess.electrics.sources import DEPTHS
from gwiazda.core.circuit.network import Network, Source
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Learned, Plan, Wanted
from gwiazda.core.statistics.beliefs import moved
from gwiazda.core.workbench.diagnosis import circuits_of
from gwiazda.core.workbench.learning.volts import learned_volts

LAMPS = tuple(f"deck1.lamp.{k:02d}" for k in (1, 2, 3, 4))


def deck() -> Plan:
    return edits.set_wanted(deck_plan(windows=4, lamps=4), LAMPS, Wanted(current_ma=8.0))


def read(plan: Plan, assessment, off: tuple[float, ...], with_amps: bool) -> Plan:
    """The readings over lamps that are off by so much, at the currents that they really draw."""
    for lamp, extra in zip(LAMPS, off, strict=True):
        true = assessment.lamps[lamp]
        plan, _ = edits.add_entry(plan, "reading", what="volts", place=lamp, value=true.forward_v + extra)
        if with_amps:
            plan, _ = edits.add_entry(plan, "reading", what="amps", place=lamp, value=true.current_a)
    return plan


@settings(max_examples=15, deadline=None)
@given(shift=st.floats(-0.3, 0.3), with_amps=st.booleans())
def test_a_part_that_is_off_is_learned_whether_its_current_is_read_or_not(shift, with_amps):
    plan = deck()
    part = plan.lamps[0].part
    known = (Learned(kind="volts", of=part, shift=shift, sigma=0.02, readings=4),)
    real = assess(edits.learn(plan, known), built_in())
    # The resistors stay what they were: only where they do is what is read that of this plan.
    fixed = plan
    for lamp in LAMPS:
        fixed = edits.set_fields(fixed, [lamp], resistor_ohm=real.lamps[lamp].resistor_ohm)
    real = assess(edits.learn(fixed, known), built_in())
    (found,) = learned_volts(read(fixed, real, (0.0,) * 4, with_amps), assess(fixed, built_in()))
    assert found.part == part and found.lamps == LAMPS and found.left_out == 0
    # The house counts still: with spread s of one lamp in a bag and twice that of bags, four readings alike leave s²·4/7.
    s = built_in().families[built_in().lamps[part].family].spread_v / 2.0
    told, held = 4.0 / (s * s * 4.0 / 7.0), 1.0 / (2.0 * s) ** 2
    assert found.shift_v == pytest.approx(shift * told / (told + held), abs=0.004) and told > 20 * held
    assert found.spread_v == pytest.approx(s * math.sqrt(4.0 / 7.0 * 1.25), abs=0.002)


def test_one_lamp_teaches_nothing_and_a_broken_one_is_left_out():
    plan = deck()
    assessment = assess(plan, built_in())
    one, _ = edits.add_entry(plan, "reading", what="volts", place=LAMPS[0], value=2.0)
    assert learned_volts(one, assessment) == ()
    (x,) = learned_volts(read(plan, assessment, (0.10, 0.12, 0.08, 1.9), True), assessment)
    assert x.left_out == 1 and x.shift_v == pytest.approx(0.10, rel=0.06) and x.spread_v > 0.02 and x.tells
    assert learned_volts(edits.settle_readings(read(plan, assessment, (0.1,) * 4, True)), assessment) == ()


def test_two_lamps_alike_are_no_spread_of_nothing():
    """0.10 V of both: by hand, σ² = 4·0.05²/5 = 0.002, and the next lamp strays by √(0.002·1.5) = 55 mV."""
    mean, spread, unsure = moved((0.10, 0.10), 0.05, 0.10)
    assert unsure == pytest.approx(1.0 / math.sqrt(1100.0))
    assert spread == pytest.approx(math.sqrt(0.003))
    assert mean == pytest.approx(0.10 * 1000.0 / 1100.0)


@settings(max_examples=5, deadline=None)
@given(seed=st.integers(0, 10_000), n=st.integers(2, 12))
def test_nine_in_ten_of_the_next_lamps_fall_into_the_band(seed, n):
    """Bags drawn as the house thinks they are: mean from tau, lamps from sigma; Student's t with n + 3 degrees."""
    rng = np.random.default_rng(seed)
    inside, many = 0, 2000
    for _ in range(many):
        mean = rng.normal(0.0, 0.1)
        middle, spread, _ = moved(tuple(rng.normal(mean, 0.05, n)), 0.05, 0.1)
        inside += abs(rng.normal(mean, 0.05) - middle) < t.ppf(0.95, n + 3) * spread
    assert 0.87 < inside / many < 0.965, "a house right about its spread is a little sure of itself"


def at_depth(plan: Plan, depth: float):
    """What a meter reads over the lamps and the source with the battery so far down: by the diagnosis' own network, at that state."""
    assessment = assess(plan, built_in())
    circuit = circuits_of(plan, assessment)[0]
    source = circuit.source
    emf, ohm = (float(np.interp(depth, DEPTHS, x)) for x in (source.along_v, source.along_ohm))
    net = Network([Source("source", PLUS, MINUS, emf, ohm), *circuit.drawn.net.elements])
    answer = net.solve()
    nodes = net.node_volts(answer)
    ends = circuit.drawn.net.ends
    volts = {i: nodes[ends[i][0]] - nodes[ends[i][1]] for i in LAMPS}
    return assessment, volts, emf - ohm * float(answer.currents[0, 0])


@pytest.mark.parametrize("depth", [0.0, 0.4, 0.75])
def test_a_source_that_sagged_teaches_nothing_of_its_lamps(depth):
    """Lamps just as the catalogue has them, on cells that are fresh, half down or nearly flat: the shift is theirs and not the cells'."""
    plan = edits.set_supply(deck(), part="aa-alkaline", in_series=3)
    found, volts, terminal = at_depth(plan, depth)
    for lamp in LAMPS:
        plan, _ = edits.add_entry(plan, "reading", what="volts", place=lamp, value=volts[lamp])
    (blind,) = learned_volts(plan, found)
    assert abs(blind.shift_v) < 2.5 * blind.unsure_v and blind.unsure_v > 0.005 and not blind.tells
    read_too, _ = edits.add_entry(plan, "reading", what="volts", place=plan.feeds[0].id, value=terminal)
    (told,) = learned_volts(read_too, found)
    assert abs(told.shift_v) < 0.002 and told.unsure_v == 0.0 and told.spread_v < blind.spread_v
