"""What hangs on a feed besides lamps: regulators, outputs, stages, wires, loads; closed forms, laws, findings."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import lambertw

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.junctions import junctions
from gwiazda.core.assess.electrics.sizing import FUSE_V
from gwiazda.core.assess.heat import heat_of, outer_area_m2
from gwiazda.core.circuit.parts import wire
from gwiazda.core.circuit.parts.diode import VT_300K
from gwiazda.core.circuit.shelf import pair_for, shelf_of
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import (
    Fuse,
    LampRef,
    Load,
    Parallel,
    Regulated,
    Resistor,
    Series,
    Supply,
    Switch,
    Switched,
    Wanted,
    Wire,
    copy_unchecked,
)

ONE, TWO, THREE = "deck1.lamp.01", "deck1.lamp.02", "deck1.lamp.03"


def state(plan):
    return assess(plan, built_in())


def hung(plan, *items, head=(), supply=None):
    """The plan with these in its first feed."""
    feed = copy_unchecked(plan.feeds[0], items=items, head=tuple(head), supply=supply or plan.feeds[0].supply)
    return validate_edit(plan, copy_unchecked(plan, feeds=(feed, *plan.feeds[1:])))


def string(name, *lamps, ohm=None):
    return Series(id=name, items=(Resistor(id=f"{name}.r", ohm=ohm), *(LampRef(lamp=i) for i in lamps)))


def finding(plan, rule):
    return next(f for f in evaluate_rules(plan, state(plan)) if f.rule == rule)


def rules(plan):
    return {f.rule for f in evaluate_rules(plan, state(plan))}


# -- closed forms -------------------------------------------------------------------------------------------


@given(st.floats(4.0, 30.0), st.floats(50.0, 20_000.0))
def test_one_lamp_and_a_resistor_by_the_lambert_function(volts, ohm):
    """I = n·Vt/R·W(Is·R/(n·Vt)·exp((V + Is·R)/(n·Vt))) − Is, with the lamp's own resistance in R."""
    plan = hung(
        deck_plan(lamps=1), string("a", ONE, ohm=ohm), supply=Supply(part="adapter-adjustable-0.5a", volts=volts)
    )
    (d,) = junctions(built_in(), built_in().lamps["chip-1206-warm-white"])
    scale, total = d.n * VT_300K, ohm + d.rs_ohm
    log_argument = math.log(d.is_a * total / scale) + (volts + d.is_a * total) / scale
    w = lambertw(math.exp(log_argument)).real if log_argument < 700 else _large_w(log_argument)
    assert state(plan).lamps[ONE].current_a == pytest.approx(scale / total * w - d.is_a, rel=1e-9)


def _large_w(log_argument):
    """W of a number whose logarithm is given: w + ln w = log_argument."""
    w = log_argument
    for _ in range(100):
        w = w - (w + math.log(w) - log_argument) / (1.0 + 1.0 / w)
    return w


def test_a_regulator_holds_its_volts_and_loses_the_rest():
    plan = hung(
        deck_plan(lamps=1), Regulated(id="u", part="regulator-classic", volts=5.0, items=(string("a", ONE, ohm=470.0),))
    )
    assessment = state(plan)
    lamp, part = assessment.lamps[ONE], assessment.parts["u"]
    assert lamp.current_a * 470.0 + lamp.forward_v == pytest.approx(part.volts, abs=1e-6)
    # Its output is 0.05 Ω soft.
    assert part.volts == pytest.approx(5.0 - 0.05 * lamp.current_a, abs=1e-6)
    # By energy: what comes in less what goes out.
    assert part.heat_w == pytest.approx(9.0 * assessment.supply.draw_a - part.volts * lamp.current_a, rel=1e-4)
    assert assessment.supply.draw_a == pytest.approx(lamp.current_a + 0.005, rel=1e-6)


def test_in_dropout_a_regulator_gives_what_comes_in_less_its_dropout():
    supply = Supply(part="adapter-adjustable-0.5a", volts=6.0)
    plan = hung(deck_plan(lamps=1), Regulated(id="u", part="regulator-classic", volts=5.0, items=(string("a", ONE, ohm=470.0),)), supply=supply)  # fmt: skip
    assert state(plan).parts["u"].volts == pytest.approx(4.0, abs=2e-3)
    low = finding(plan, "regulator-headroom")
    assert low.severity == "stop"
    mended = low.fixes[0].applied(plan)
    assert state(mended).parts["u"].volts == pytest.approx(5.0, abs=2e-3) and "regulator-headroom" not in rules(mended)


def test_a_saturated_stage_leaves_its_lamps_the_supply_less_a_little():
    plan = edits.set_wanted(deck_plan(lamps=1), [ONE], Wanted(current_ma=17.0))
    plan = hung(plan, Switched(id="q", part="npn-small", items=(string("a", ONE, ohm=330.0),)))
    assessment = state(plan)
    lamp, part = assessment.lamps[ONE], assessment.parts["q"]
    over = 9.0 - lamp.current_a * 330.0 - lamp.forward_v  # collector to emitter
    assert 0.0 < over < 0.2 and over == pytest.approx(9.0 - part.volts, abs=1e-6)
    # The base's resistor gives a tenth of the current: the pin behind its own resistance, a junction's 0.7 V taken off.
    assert part.drive_a == pytest.approx(lamp.current_a / 10.0, rel=0.35)
    dark = hung(plan, Switched(id="q", part="npn-small", on=False, items=(string("a", ONE, ohm=330.0),)))
    assert abs(state(dark).lamps[ONE].current_a) < 1e-8


@pytest.mark.parametrize(("load_a", "least", "most"), [(0.05, 300.0, 900.0), (5.0, 100.0, 100.0)])
def test_a_stage_s_base_gets_a_tenth_and_never_less_than_a_hundred_ohms(load_a, least, most):
    from types import SimpleNamespace

    from gwiazda.core.assess.electrics.stage import _base_ohm

    node = Switched(id="q", part="npn-small", items=(string("a", ONE, ohm=330.0),))
    ohm = _base_ohm(built_in(), SimpleNamespace(current=lambda item: load_a), node, shelf_of("E12", ()))
    assert least <= ohm <= most


def test_a_mosfet_is_its_own_resistance_in_the_way():
    plan = hung(deck_plan(lamps=1), Switched(id="q", part="mosfet-logic", items=(string("a", ONE, ohm=330.0),)))
    bare = hung(deck_plan(lamps=1), string("a", ONE, ohm=330.05))
    assert state(plan).lamps[ONE].current_a == pytest.approx(state(bare).lamps[ONE].current_a, rel=1e-6)
    assert "half-driven" in rules(validate_edit(plan, edits.set_part(plan, "q", part="mosfet-plain")))


def test_a_pin_is_its_board_s_voltage_behind_a_resistance():
    plan = hung(deck_plan(lamps=1), Switched(id="p", part="pin-5v", items=(string("a", ONE, ohm=100.0),)))
    lamp = state(plan).lamps[ONE]
    assert lamp.current_a * 125.0 + lamp.forward_v == pytest.approx(5.0, abs=1e-6)


def test_wire_and_fuse_are_ohms():
    assert wire.diameter_mm(36) == pytest.approx(0.127) and wire.ohm_per_m(30) == pytest.approx(0.339, rel=5e-3)
    for awg, limit in (
        (26, 0.64),
        (28, 0.40),
        (30, 0.25),
        (32, 0.16),
        (34, 0.10),
        (36, 0.063),
        (38, 0.040),
        (40, 0.025),
    ):
        assert wire.limit_a(awg) == pytest.approx(limit, rel=0.05)
    plan = hung(deck_plan(lamps=1), Series(id="s", items=(Fuse(id="f", rated_a=0.1), Wire(id="w", awg=40, length_mm=2000.0), string("a", ONE, ohm=100.0))))  # fmt: skip
    assessment = state(plan)
    i, ohms = assessment.lamps[ONE].current_a, FUSE_V / 0.1 + 2.0 * wire.ohm_per_m(40)
    assert i * (100.0 + ohms) + assessment.lamps[ONE].forward_v == pytest.approx(9.0, abs=1e-6)


def test_a_motor_takes_its_running_current_and_leaves_the_source_less():
    plan = hung(deck_plan(lamps=0), Load(id="m", part="motor-6v"), supply=Supply(part="aa-alkaline", in_series=4))
    assessment = state(plan)
    # Some 75 Ω of motor behind four cells' 0.6 Ω: .03 + .05·(n/nn)² A, what is over 10 Ω of winding of 5.2 V at 6.
    amps = assessment.parts["m"].current_a
    assert amps == pytest.approx(0.03 + 0.05 * ((6.0 - 10.6 * amps) / 5.2) ** 2, rel=1e-6)
    assert amps == pytest.approx(6.0 / (75.0 + 0.6), rel=2e-3)
    assert assessment.supply.draw_a == pytest.approx(assessment.parts["m"].current_a, rel=1e-9)


def test_what_all_goes_through_carries_the_whole_draw():
    plan = hung(deck_plan(lamps=3), string("a", ONE), head=(Fuse(id="f", rated_a=0.1), Switch(id="s")))
    assessment = state(plan)
    assert assessment.parts["f"].current_a == pytest.approx(assessment.supply.draw_a, rel=1e-9)
    assert assessment.parts["s"].current_a == pytest.approx(
        sum(p.current_a for p in assessment.lamps.values()), rel=1e-6
    )
    off = validate_edit(plan, edits.set_part(plan, "s", closed=False))
    assert all(abs(p.current_a) < 1e-9 for p in state(off).lamps.values()) and state(off).supply.draw_a < 1e-9


def test_strings_behind_a_regulator_are_sized_for_what_it_holds():
    plan = hung(deck_plan(lamps=2), Regulated(id="u", part="regulator-low-drop", volts=5.0, items=(string("a", ONE),)))
    assessment = state(plan)
    assert assessment.branches["a"].supply_v == pytest.approx(5.0) and assessment.branches[
        TWO
    ].supply_v == pytest.approx(9.0)
    assert assessment.branches["a"].resistor_ohm < assessment.branches[TWO].resistor_ohm
    assert assessment.lamps[ONE].current_a == pytest.approx(assessment.lamps[TWO].current_a, rel=0.15)


def test_a_pair_of_resistors_counts_as_one():
    both = Series(
        id="a",
        items=(
            Parallel(id="p", items=(Resistor(id="r1", ohm=1000.0), Resistor(id="r2", ohm=470.0))),
            LampRef(lamp=ONE),
        ),
    )
    assessment = state(hung(deck_plan(lamps=1), both))
    ohm = 1000.0 * 470.0 / 1470.0
    assert assessment.branches["a"].resistor_ohm == pytest.approx(ohm)
    assert assessment.lamps[ONE].current_a * ohm + assessment.lamps[ONE].forward_v == pytest.approx(9.0, abs=1e-6)


@given(st.floats(12.0, 900_000.0))
def test_no_two_of_a_shelf_come_nearer_than_the_pair_found(ohm):
    shelf = shelf_of("E6")
    pair = pair_for(ohm, shelf)
    together = pair.a_ohm + pair.b_ohm if pair.how == "series" else pair.a_ohm * pair.b_ohm / (pair.a_ohm + pair.b_ohm)
    assert pair.ohm == pytest.approx(together) and pair.a_ohm in shelf.ohms and pair.b_ohm in shelf.ohms
    off = min(
        min(abs(math.log((a + b) / ohm)), abs(math.log(a * b / (a + b) / ohm)))
        for a in shelf.ohms for b in shelf.ohms
    )  # fmt: skip
    assert abs(math.log(pair.ohm / ohm)) == pytest.approx(off, abs=1e-9)
    assert pair_for(ohm, shelf, least_ohm=ohm).ohm >= ohm * (1 - 1e-9)


# -- findings, each with what settles it ----------------------------------------------------------------------


def settled(plan, rule, choice=0):
    """The plan after an offer of a finding, which is gone then."""
    mended = finding(plan, rule).fixes[choice].applied(plan)
    assert rule not in rules(mended), rule
    return mended


def bright(plan, *ids):
    return edits.set_wanted(plan, ids, Wanted(current_ma=18.0))


def test_a_pin_that_gives_too_much_goes_through_a_stage():
    plan = bright(deck_plan(lamps=3), ONE, TWO, THREE)
    plan = hung(plan, Switched(id="p", part="pin-5v", items=(string("a", ONE), string("b", TWO), string("c", THREE))))
    assert finding(plan, "overloaded-output").severity in ("look", "stop")
    mended = settled(plan, "overloaded-output")
    assert mended.feeds[0].items[0].drive == "pin-5v"


def test_outputs_of_one_chip_add_up():
    plan = deck_plan(lamps=6)
    ids = [p.id for p in plan.lamps]
    plan = edits.set_wanted(plan, ids, Wanted(current_ma=10.0))
    plan = hung(
        plan, *(Switched(id=f"p{k}", part="pin-3v3", items=(string(f"s{k}", i, ohm=10.0),)) for k, i in enumerate(ids))
    )
    assert state(plan).parts["p0"].chip_a > 0.05 and "overloaded-chip" in rules(plan)


def test_a_reed_contact_a_fuse_and_a_thin_wire_are_judged():
    motors = tuple(Load(id=f"m{k}", part="motor-6v") for k in range(8))
    plan = hung(deck_plan(lamps=0), Series(id="s", items=(Switch(id="reed", kind="reed"), Parallel(id="p", items=motors))), supply=Supply(part="adapter-6v-0.5a"))  # fmt: skip
    assert "overloaded-contact" in rules(plan)
    fused = hung(plan, Load(id="m", part="motor-6v"), head=(Fuse(id="f", rated_a=0.05),))
    assert finding(fused, "fuse").severity == "stop"
    assert settled(fused, "fuse").feeds[0].head[0].rated_a == pytest.approx(0.125)
    thin = hung(plan, Series(id="s", items=(Wire(id="w", awg=40, length_mm=600.0), Load(id="m", part="motor-6v"))))
    settled(thin, "thin-wire")


def test_a_regulator_too_warm_and_a_section_too_warm():
    plan = deck_plan(lamps=5)
    ids = [p.id for p in plan.lamps]
    plan = edits.set_wanted(plan, ids, Wanted(look="full"))
    plan = hung(
        plan, Regulated(id="u", part="regulator-classic-small", volts=3.5, home="deck1", items=tuple(string(f"s{k}", i) for k, i in enumerate(ids))),
        supply=Supply(part="adapter-adjustable-0.5a", volts=24.0),
    )  # fmt: skip
    assessment = state(plan)
    heat = heat_of(plan, assessment)
    (box,) = heat.sections
    # By hand: all that comes from the supply is warmth in there.
    watt = 24.0 * assessment.supply.draw_a
    assert box.watt == pytest.approx(watt, rel=0.02)
    area = (167.4 * 46.4 + 2 * 167.4 * 21.4 + 2 * 46.4 * 21.4) * 1e-6
    assert outer_area_m2(plan.sections[0]) == pytest.approx(area, rel=1e-9)
    assert box.air_c == pytest.approx(20.0 + watt / (3.5 * area), rel=0.01)
    (one,) = heat.regulators
    assert one.junction_c == pytest.approx(box.air_c + one.watt * 180.0, rel=1e-6) and one.not_in == ("deck1",)
    assert {"hot-regulator", "warm-section"} <= rules(plan)
    assert settled(plan, "warm-section").feeds[0].items[0].home == ""


def test_sources_that_don_t_suit():
    plan = deck_plan(lamps=1, supply="adapter-9v-0.3a-unregulated")
    # Nine volts and nearly four tenths more with next to nothing on it.
    assert state(plan).supply.terminal_v > 12.0
    assert settled(plan, "unregulated").feeds[0].supply.part == "adapter-9v-0.5a"
    coin = edits.set_wanted(deck_plan(lamps=1, supply="coin-cr2032"), [ONE], Wanted(current_ma=4.0))
    assert "coin-cell" in rules(edits.set_resistor(coin, [ONE], 10.0))
    motor = hung(deck_plan(lamps=1, supply="usb-5v"), Load(id="m", part="motor-3v"))
    assert "motor-start" in rules(motor) and "idle-load" in rules(motor)
    apart = settled(motor, "motor-start")
    assert len(apart.feeds) == 2 and state(apart).parts["m"].feed == apart.feeds[1].id
    slowed = settled(motor, "idle-load")
    assert state(slowed).parts["m"].volts == pytest.approx(3.0, abs=0.01)


def test_a_switched_motor_wants_its_diode():
    plan = hung(deck_plan(lamps=0), Switched(id="q", part="mosfet-logic", items=(Load(id="m", part="motor-6v"),)))
    assert settled(plan, "flyback").feeds[0].items[0].items[0].flyback


def test_a_short_is_named_and_the_rest_worked_out():
    plan = hung(
        deck_plan(lamps=1), Wire(id="bridge"), Series(id="s", items=(Switch(id="sw"), Fuse(id="f"))), string("a", ONE)
    )
    lit = state(plan).lamps[ONE].current_a
    assert lit == pytest.approx(state(hung(plan, string("a", ONE))).lamps[ONE].current_a, rel=1e-9)
    assert [f.subject for f in evaluate_rules(plan, state(plan)) if f.rule == "short"] == ["bridge", "s"]
    # A switch across a lamp behind its resistor is no short: it puts the lamp out.
    across = Series(
        id="s", items=(Resistor(id="r", ohm=470.0), Parallel(id="p", items=(LampRef(lamp=ONE), Switch(id="sw"))))
    )
    by = hung(plan, across)
    assert "short" not in rules(by) and state(by).lamps[ONE].current_a < 1e-6


def test_a_file_that_hangs_a_lamp_twice_opens_and_is_told():
    plan = hung(deck_plan(lamps=2), string("a", ONE), string("b", TWO))
    text = storage.plan_to_json(plan).replace(f'"lamp": "{TWO}"', f'"lamp": "{ONE}"')
    twice = storage.plan_from_json(text.encode(), "x")
    assessment = state(twice)
    assert assessment.lamps[ONE].current_a > 1e-4
    mended = settled(twice, "hung-twice")
    assert state(mended).lamps[ONE].current_a == pytest.approx(assessment.lamps[ONE].current_a, rel=1e-6)


def test_bad_values_are_named():
    plan = deck_plan(lamps=1)
    with pytest.raises(PlanError, match="r, ohm"):
        hung(plan, Series(id="s", items=(Resistor(id="r", ohm=-5.0), LampRef(lamp=ONE))))
    unknown = hung(plan, Load(id="m", part="motor-9000"), supply=Supply(part="no-such-cell"))
    words = " ".join(f.sentence for f in evaluate_rules(unknown, state(unknown)) if f.rule == "unknown-part")
    assert "motor-9000" in words and "no-such-cell" in words


# -- laws on random trees -------------------------------------------------------------------------------------


def random_tree(rng, lamps, depth, names):
    """A part of a tree of all kinds, with some of the lamps in it."""
    kind = rng.choice(
        ["string", "string", "shared", "regulated", "switched", "switch", "wire", "load"]
        if depth
        else ["string", "load"]
    )
    name = f"{kind}{next(names)}"
    if kind == "load":
        return Load(id=name, part=str(rng.choice(["motor-3v", "sound-chip"])))
    if kind == "string":
        take = [lamps.pop() for _ in range(min(len(lamps), int(rng.integers(1, 3))))]
        inner = tuple(LampRef(lamp=i, reversed=bool(rng.random() < 0.1)) for i in take)
        return (
            Series(id=name, items=(Resistor(id=f"{name}.r", ohm=float(rng.choice([100.0, 470.0, 2200.0]))), *inner))
            if inner
            else Load(id=name)
        )
    if kind == "shared":
        take = [lamps.pop() for _ in range(min(len(lamps), 3))]
        if not take:
            return Load(id=name)
        return Series(
            id=name,
            items=(
                Resistor(id=f"{name}.r", ohm=330.0),
                Parallel(id=f"{name}.p", items=tuple(LampRef(lamp=i) for i in take)),
            ),
        )
    inside = tuple(random_tree(rng, lamps, depth - 1, names) for _ in range(int(rng.integers(1, 3))))
    if kind == "regulated":
        return Regulated(
            id=name,
            part=str(rng.choice(["regulator-classic", "regulator-low-drop"])),
            volts=float(rng.uniform(2.5, 8.0)),
            items=inside,
        )
    if kind == "switched":
        return Switched(
            id=name,
            part=str(rng.choice(["pin-5v", "counter-cmos", "npn-small", "mosfet-logic", "relay-5v", "timer-bipolar"])),
            on=bool(rng.random() < 0.8),
            items=inside,
        )
    first = (
        Switch(id=f"{name}.s", closed=bool(rng.random() < 0.8)) if kind == "switch" else Wire(id=f"{name}.w", awg=36)
    )
    return Series(id=name, items=(first, *inside[:1]))


def network_lamps(drawn, answer):
    """Lamps of a feed with their currents, sources left out of the columns."""
    return {i: float(answer.currents[0, column + 1]) for i, column in drawn.net.lamps.items()}


@given(st.integers(0, 10_000))
def test_kirchhoff_s_laws_hold_in_random_trees_of_all_kinds(seed):
    """Currents at every node add up to nothing; power that comes from the source is what all elements take."""
    import itertools

    from gwiazda.core.assess.electrics.stage import given_by, netlists
    from gwiazda.core.assess.lamp.lamp_models import lamp_model_of
    from gwiazda.core.circuit import network as solver
    from gwiazda.core.circuit.stamps import Stamped

    rng = np.random.default_rng(seed)
    plan = deck_plan(lamps=8)
    lamps, names = [p.id for p in plan.lamps], itertools.count()
    plan = hung(
        plan,
        *(random_tree(rng, lamps, 2, names) for _ in range(4)),
        head=(Fuse(id="fuse"),),
        supply=Supply(part="block-9v"),
    )
    catalogue = built_in()
    kinds = {p.id: lamp_model_of(catalogue, p) for p in plan.lamps}
    ((_, source, drawn),) = netlists(
        catalogue, plan.feeds, shelf_of("E12"), plan.lamps, kinds, dict.fromkeys(kinds, 0.1)
    )
    network = solver.Network([solver.Source("source", "plus", "0", source.volts, source.ohms), *drawn.net.elements])
    answer = network.solve()
    volts, currents = network.node_volts(answer), network.element_currents(answer)
    residual = dict.fromkeys(volts, 0.0)
    for e in network.elements:
        if isinstance(e, Stamped):
            at = np.array([[volts[t] for t in e.terminals]])
            ones = np.ones(1)
            into, _ = e.stamp(
                at,
                VT_300K,
                ones * getattr(e, "volts", 0.0),
                ones * getattr(e, "ohms", 0.0),
                ones * getattr(e, "n", 1.0),
                ones * getattr(e, "is_a", 1e-14),
            )
            for node, i in zip(e.terminals, into[0], strict=True):
                residual[node] += i
        else:
            a, b = e.ends
            residual[a] += currents[e.id]
            residual[b] -= currents[e.id]
    assert max(map(abs, residual.values())) < 1e-6
    # Each lamp apart, with what the assessment wants of them: the currents it shows, alike ones folded into one branch.
    assessment = state(plan)
    given_ = given_by(plan, assessment)
    ((_, source, drawn),) = netlists(
        given_.catalogue, plan.feeds, given_.shelf, given_.lamps, given_.kinds, given_.wanted
    )
    apart = solver.Network(
        [solver.Source("source", "plus", "0", source.volts, source.ohms), *drawn.net.elements]
    ).solve()
    for lamp_id, current in network_lamps(drawn, apart).items():
        assert assessment.lamps[lamp_id].current_a == pytest.approx(current, rel=1e-6, abs=1e-9)


def test_a_circuit_that_settles_nowhere_is_left_dark_and_said(monkeypatch):
    from gwiazda.core.circuit import network as solver
    from gwiazda.core.circuit import newton
    from gwiazda.core.errors import CircuitError

    plan = hung(deck_plan(lamps=1), string("a", ONE, ohm=471.0))

    def lost(self, *values, **more):
        raise CircuitError(*newton.LOST)

    monkeypatch.setattr(solver.Network, "solve", lost)
    assessment = state(plan)
    assert assessment.lamps[ONE].current_a == 0.0 and not assessment.supply.settled
    assert "unsettled" in {f.rule for f in evaluate_rules(plan, assessment)}


def test_parts_nested_without_end_are_refused():
    plan, item = deck_plan(lamps=1), LampRef(lamp=ONE)
    for k in range(60):
        item = Series(id=f"s{k}", items=(item,))
    with pytest.raises(PlanError, match="deep in one another"):
        hung(plan, item)
    deep = copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], items=(item,)),))
    with pytest.raises(Exception, match="deep in one another"):
        storage.plan_from_json(storage.plan_to_json(deep).encode(), "x")


def test_a_resistor_is_chosen_for_a_motor_or_told_to_have_nothing_behind_it():
    """By hand: 3 of 9 V at 80 mA are 37.5 Ω, so 39."""
    plan = hung(deck_plan(lamps=1), Series(id="s", items=(Resistor(id="r"), Load(id="m", part="motor-6v"))))
    assert "lone-resistor" not in rules(plan)
    assert state(plan).parts["m"].current_a == pytest.approx(9.0 / (75.0 + 39.0), rel=2e-3)
    alone = hung(deck_plan(lamps=1), Parallel(id="p", items=(Resistor(id="r"), Resistor(id="r2", ohm=1000.0))))
    settled(alone, "lone-resistor")


ODD = {
    "empty": [{"is": "series", "id": "a", "items": []}, {"is": "parallel", "id": "b", "items": []}, {"is": "regulated", "id": "c"}],
    "unknown parts": [
        {"is": "switched", "id": "a", "part": "x", "items": [{"is": "lamp", "lamp": ONE}]},
        {"is": "regulated", "id": "b", "part": "y", "items": [{"is": "lamp", "lamp": TWO}]}, {"is": "load", "id": "c", "part": "z"},
    ],
    "unknown drive": [{"is": "switched", "id": "a", "part": "npn-small", "drive": "nothing", "items": [{"is": "lamp", "lamp": ONE}]}],
    "lamp before a regulator": [
        {"is": "series", "id": "a", "items": [{"is": "lamp", "lamp": ONE}, {"is": "regulated", "id": "u", "items": [{"is": "lamp", "lamp": TWO}]}]},
    ],
    "lamp shorted": [{"is": "parallel", "id": "a", "items": [{"is": "lamp", "lamp": ONE}, {"is": "wire", "id": "w"}]}],
}  # fmt: skip


@pytest.mark.parametrize("part", ["block-9v", "nonsense"])
@pytest.mark.parametrize("name", list(ODD))
def test_odd_circuits_from_elsewhere_are_assessed_judged_and_drawn(name, part):
    import json

    from gwiazda.core.drawing.rails import rails_of
    from gwiazda.core.exchange.circuits import circuit_json, circuit_table

    data = json.loads(storage.plan_to_json(deck_plan(windows=2, lamps=3)))
    data["feeds"] = [
        {"id": "supply", "supply": {"part": part}, "items": ODD[name], "head": [{"is": "fuse", "id": "hf"}]}
    ]
    plan = storage.plan_from_json(json.dumps(data).encode(), "x")
    assessment = state(plan)
    assert set(assessment.lamps) == {ONE, TWO, THREE} and all(
        math.isfinite(s.current_a) for s in assessment.lamps.values()
    )
    told = {(f.rule, f.subject) for f in evaluate_rules(plan, assessment)}
    assert {i for r, i in told if r == "unknown-part" and i in "abc"} == {"unknown parts": {"a", "b", "c"}, "unknown drive": {"a"}}.get(name, set())  # fmt: skip
    assert not any(r == "short" for r, _ in told) or name == "lamp shorted"
    sheet = rails_of(plan, assessment, 850.0, 300.0)
    assert {i for m in sheet.marks for i in m.lamps} == {ONE, TWO, THREE}
    assert (
        circuit_table(plan, assessment).count("lamp,") == 3 and json.loads(circuit_json(plan, assessment)) is not None
    )


@pytest.mark.parametrize(("supply", "severity"), [("adapter-12v-1a", "stop"), ("adapter-6v-0.5a", "look"), ("usb-5v", ""), ("adapter-3v-0.5a", "stop")])  # fmt: skip
def test_a_relay_off_its_coils_volts_is_found(supply, severity):
    """A coil of 5 V and 70 Ω on 12 V: 2.06 W instead of 0.36."""
    plan = deck_plan(lamps=1, supply=supply)
    relay = Switched(id="relay", part="relay-5v", items=(Series(id="s", items=(Resistor(id="r"), LampRef(lamp="deck1.lamp.01"))),))  # fmt: skip
    plan = copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], items=(relay,)),))
    found = [f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "relay-coil"]
    assert [f.severity for f in found] == ([severity] if severity else [])
    for f in found:
        assert supply != "adapter-12v-1a" or "2057 mW" in f.sentence
        for fix in f.fixes:
            after = fix.applied(plan)
            assert "relay-coil" not in {x.rule for x in evaluate_rules(after, assess(after, built_in()))}
