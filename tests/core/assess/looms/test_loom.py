"""Looms: routes against brute force, fill, hubs, joints, crossings, what is found and what settles it."""

import csv
import io
import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.looms.detour import by_way_of
from gwiazda.core.assess.looms.lines import lines_of
from gwiazda.core.assess.looms.savings import savings
from gwiazda.core.assess.looms.ways import valid_way
from gwiazda.core.circuit.parts.wire import limit_a, ohm_per_m
from gwiazda.core.errors import PlanError
from gwiazda.core.exchange.looms import loom_table
from gwiazda.core.exchange.report import shopping_rows
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.loom.fill import clear_mm2, comfortable, fill_share
from gwiazda.core.loom.routes import Run, Way, length_of, route
from gwiazda.core.loom.sleeves import joint_mm, sleeve_for, warmth_c
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import (
    Box,
    Closure,
    Dot,
    Feed,
    Lamp,
    LampRef,
    Lead,
    Load,
    Loom,
    Obstacle,
    Opening,
    Passage,
    Plan,
    Regulated,
    Resistor,
    Seam,
    Section,
    Series,
    Supply,
    Switched,
    Wanted,
    copy_unchecked,
)

CAT = built_in()


def row(lamps: int = 6, **passage: object) -> Plan:
    """Three sections in a row: the source in the first, lamps in the third, a passage from each to the next."""
    sections = tuple(
        Section(id=i, name=i.capitalize(), box=Box(at=(x, 0, 0), size=(50, 40, 30)), closure=Closure(part="roof", by="screws", removable="roof"))
        for i, x in (("base", 0.0), ("hull", 54.0), ("deck", 108.0))
    )  # fmt: skip
    passages = (
        Passage(id="base.hull", name="Keel", section="base", into="hull", at=(52.0, 20.0, 5.0), **{"width_mm": 3.0, "length_mm": 4.0, **passage}),
        Passage(id="hull.deck", name="Stair", section="hull", into="deck", at=(106.0, 20.0, 25.0), width_mm=3.0, length_mm=4.0),
    )  # fmt: skip
    plan = Plan(
        sections=sections, passages=passages, feeds=(Feed(id="supply", home="base"),), loom=Loom(wire="wrap-30")
    )
    for k in range(lamps):
        lamp = Lamp(
            id=f"deck.lamp.{k + 1:02d}",
            part="chip-0805-warm-white",
            at=(114.0 + 6 * k, 20.0, 28.0),
            wanted=Wanted(current_ma=5.0),
        )
        plan = edits.add_lamp(plan, lamp)
    return validate_edit(Plan(), plan)


def rules(plan: Plan) -> dict[str, object]:
    return {f.rule: f for f in evaluate_rules(plan, assess(plan, CAT))}


def settles(plan: Plan, rule: str, fix: int = 0) -> bool:
    return rule not in rules(validate_edit(plan, rules(plan)[rule].fixes[fix].edit(plan)))


# -- routes --------------------------------------------------------------------------------------------------


def brute(ways: list[Way], run: Run) -> float:
    """The shortest of all ways that come by no room twice, every one tried."""
    best = math.inf

    def go(room: str, seen: set[str], path: list[Way]) -> None:
        nonlocal best
        if room == run.end:
            best = min(best, length_of(run, path))
            return
        for w in ways:
            if room in (w.a, w.b):
                on = w.b if room == w.a else w.a
                if on not in seen:
                    go(on, seen | {on}, [*path, w])

    go(run.start, {run.start}, [])
    return best


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000))
def test_the_shortest_way_as_by_trying_all(seed):
    rng = np.random.default_rng(seed)
    rooms = [f"r{k}" for k in range(rng.integers(2, 7))]
    ways = [
        Way(f"w{k}", *rng.choice(rooms, 2, replace=False).tolist(), tuple(rng.random(3) * 100), float(rng.random() * 20), 10.0)
        for k in range(rng.integers(1, 10))
    ]  # fmt: skip
    runs = [
        Run(f"x{k}", *rng.choice(rooms, 2).tolist(), tuple(rng.random(3) * 100), tuple(rng.random(3) * 100), 1e-6)
        for k in range(4)
    ]
    found = route(ways, runs)
    for run in runs:
        best = brute(ways, run) if run.start != run.end else length_of(run, [])
        if math.isinf(best):
            assert found.through[run.id] is None
        else:
            assert found.length_mm[run.id] == pytest.approx(best)


def test_wires_give_way_where_a_passage_is_full():
    """Two passages side by side, the shorter with room for two of four wires at 60 %: as many go round, by the least detour."""
    ways = [Way("near", "a", "b", (0.0, 0.0, 0.0), 0.0, 4.0), Way("far", "a", "b", (0.0, 30.0, 0.0), 0.0, 40.0)]
    runs = [Run(f"x{k}", "a", "b", (-10.0, float(k), 0.0), (10.0, 0.0, 0.0), 1.0) for k in range(4)]
    found = route(ways, runs)
    by = [found.through[r.id] for r in runs]
    assert by.count(("near",)) == 2 and by.count(("far",)) == 2
    best = min(
        sum(length_of(r, [ways[0] if k in pair else ways[1]]) for k, r in enumerate(runs))
        for pair in itertools.combinations(range(4), 2)
    )
    assert sum(found.length_mm.values()) <= best * 1.05
    assert found.filled_mm2["near"] == pytest.approx(2.0)


@given(st.integers(0, 10_000))
def test_where_there_is_one_way_it_is_taken_however_full(seed):
    """Rooms joined with no ring: each wire goes the one way there is, found here by going from room to room."""
    rng = np.random.default_rng(seed)
    rooms = ["", *(f"r{i}" for i in range(int(rng.integers(2, 7))))]
    ways = [
        Way(f"p{k}", room, rooms[int(rng.integers(k))], tuple(rng.uniform(0, 90, 3).tolist()), float(rng.uniform(0, 20)), 2.0)
        for k, room in enumerate(rooms) if k
    ]  # fmt: skip
    runs = [
        Run(f"w{i}", *(rooms[int(x)] for x in rng.integers(0, len(rooms), 2)), tuple(rng.uniform(0, 90, 3).tolist()), (5.0, 5.0, 5.0), 0.7)
        for i in range(9)
    ]  # fmt: skip
    found = route(ways, runs)

    def the_way(here: str, goal: str, been: tuple[str, ...] = ()) -> tuple[str, ...] | None:
        if here == goal:
            return ()
        for w in ways:
            if w.id not in been and here in (w.a, w.b):
                rest = the_way(w.b if here == w.a else w.a, goal, (*been, w.id))
                if rest is not None:
                    return (w.id, *rest)
        return None

    for run in runs:
        assert found.through[run.id] == the_way(run.start, run.end)
    for w in ways:
        inside = sum(run.area_mm2 for run in runs if w.id in (found.through[run.id] or ()))
        assert found.filled_mm2[w.id] == pytest.approx(inside, abs=1e-9)


def test_what_has_no_other_way_stays_and_is_too_full():
    ways = [Way("only", "a", "b", (0.0, 0.0, 0.0), 0.0, 1.0)]
    found = route(ways, [Run(f"x{k}", "a", "b", (0.0, 0.0, 0.0), None, 0.5) for k in range(4)], taken_mm2={"only": 0.1})
    assert set(found.through.values()) == {("only",)} and found.filled_mm2["only"] == pytest.approx(2.1)
    assert route([], [Run("x", "a", "b", (0, 0, 0), None, 1.0)]).through["x"] is None
    assert route(ways, [Run("x", "a", "a", (0, 0, 0), (3, 4, 0), 1.0)]).length_mm["x"] == pytest.approx(5.0)
    assert route(ways, []).through == {}


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000))
def test_what_fills_passages_is_what_goes_through(seed):
    rng = np.random.default_rng(seed)
    rooms = [f"r{k}" for k in range(6)]
    ways = [
        Way(
            f"w{k}",
            *rng.choice(rooms, 2, replace=False).tolist(),
            tuple(rng.random(3) * 100),
            1.0,
            float(1 + 5 * rng.random()),
        )
        for k in range(9)
    ]
    runs = [
        Run(f"x{k}", *rng.choice(rooms, 2, replace=False).tolist(), tuple(rng.random(3) * 100), None, 0.3)
        for k in range(20)
    ]
    found = route(ways, runs)
    for w in ways:
        inside = 0.3 * sum((found.through[r.id] or ()).count(w.id) for r in runs)
        assert found.filled_mm2[w.id] == pytest.approx(inside, abs=1e-9)


# -- fill, sleeves, heat ----------------------------------------------------------------------------------------


def test_fill_by_hand():
    assert clear_mm2(True, 4.0, 9.0) == pytest.approx(4 * math.pi) and clear_mm2(False, 4.0, 2.0) == 8.0
    assert fill_share([1.0] * 4, math.pi) == pytest.approx(1.0) and fill_share([1.0], 0.0) == math.inf
    assert [comfortable(n) for n in (1, 2, 3, 40)] == [0.53, 0.31, 0.40, 0.40]


def test_sleeves_and_how_far_heat_reaches():
    assert (
        sleeve_for(0.7, 0.5)[:2] == (1.0, 0.5)
        and sleeve_for(1.0, 0.5)[:2] == (1.2, 0.6)
        and sleeve_for(6.0, 1.0) is None
    )
    assert joint_mm((0.5, 0.5)) > 0.5 and joint_mm((0.5,)) == pytest.approx(0.575)
    warm = [warmth_c(mm) for mm in range(0, 80, 5)]
    assert warm == sorted(warm, reverse=True) and warm[0] == 350.0 and warmth_c(200.0) == pytest.approx(20.0, abs=1.0)
    # By hand at 20 mm, 2 s: erfc(0.02/(2·√(1.16e-4·2))) = erfc(.6565) = .353, e^(−20/25) = .449: 20 + 330·.353.
    assert warmth_c(20.0) == pytest.approx(20 + 330 * 0.353, rel=0.01)


# -- the wires of a plan -----------------------------------------------------------------------------------------


def test_two_leads_a_lamp_and_their_lengths_by_hand():
    plan = row(1)
    loom = assess(plan, CAT).loom
    plus, minus = loom.runs["deck.lamp.01.plus"], loom.runs["deck.lamp.01.minus"]
    assert plus.through == minus.through == ("hull.deck", "base.hull") and (plus.start, plus.goal) == ("deck", "base")
    way = [(114, 20, 28), (106, 20, 25), (52, 20, 5), (25, 20, 15)]
    length = sum(math.dist(a, b) for a, b in itertools.pairwise(way)) + 8.0
    assert plus.length_mm == pytest.approx(length)
    assert plus.cut_mm == math.ceil((1.15 * length + 80) / 5) * 5
    assert plus.ohm == pytest.approx(ohm_per_m(30) * plus.cut_mm * 1e-3)
    assert (plus.tag, minus.tag, plus.colour, minus.colour) == ("1+", "1−", "red", "black")
    assert loom.passages["base.hull"].fill == pytest.approx(2 * 0.25 / 9.0)


def test_wires_add_to_the_circuit():
    """The lamp's current falls as much as the resistance of its leads says, and no more."""
    thin = edits.set_resistor(row(1), ["deck.lamp.01"], 100.0)
    assessment = assess(thin, CAT)
    bare = assess(copy_unchecked(thin, passages=()), CAT)
    lamp, without = assessment.lamps["deck.lamp.01"], bare.lamps["deck.lamp.01"]
    ohm = sum(assessment.loom.runs[f"deck.lamp.01.{e}"].ohm for e in ("plus", "minus"))
    assert assessment.loom.extra_ohm["deck.lamp.01"] == pytest.approx(ohm, abs=0.05)
    assert lamp.current_a < without.current_a
    # dI/I = −R/(R + r) to first order, r the diode's own slope (some 13 Ω here) and the source's.
    drop = 1 - lamp.current_a / without.current_a
    assert 0.7 * ohm / 130 < drop < ohm / 100
    assert lamp.forward_v == pytest.approx(without.forward_v, abs=0.01), "the lamp's own volts, without its leads"


def test_a_string_has_two_leads_and_jumpers():
    plan = edits.wire_in_series(row(3), ["deck.lamp.01", "deck.lamp.02", "deck.lamp.03"])
    kinds = sorted((r.kind, r.end) for r in assess(plan, CAT).loom.runs.values())
    assert kinds == [("jumper", ""), ("jumper", ""), ("lead", "minus"), ("lead", "plus")]


def test_nets_of_regulators_and_outputs():
    string = Series(id="s", items=(Resistor(id="r"), LampRef(lamp="deck.lamp.01")))
    other = Series(id="t", items=(Resistor(id="u"), LampRef(lamp="deck.lamp.02")))
    items = (
        Regulated(id="reg", part="regulator-classic", home="hull", items=(string,)),
        Switched(id="fet", part="mosfet-logic", items=(other,)),
    )
    plan = row(3)
    plan = copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], items=items),))
    lines, ties = lines_of(CAT, plan.feeds, plan.lamps)
    assert {(x.lamps, x.home, x.plus, x.minus) for x in lines} == {
        (("deck.lamp.01",), "hull", "reg", "supply-"), (("deck.lamp.02",), "base", "supply+", "fet"), (("deck.lamp.03",), "base", "supply+", "supply-"),
    }  # fmt: skip
    assert [(t.id, t.home, t.to) for t in ties] == [("reg", "base", "hull")]
    runs = assess(plan, CAT).loom.runs
    assert runs["reg.plus"].kind == "trunk" and runs["reg.plus"].through == ("base.hull",)


def test_hubs_join_leads_of_one_net_and_one_goes_on():
    plan, hub = edits.add_hub(row(6), "hull", "minus")
    assessment = assess(plan, CAT)
    before = assess(row(6), CAT)
    assert len(before.loom.passages["base.hull"].runs) == 12 and len(assessment.loom.passages["base.hull"].runs) == 7
    (trunk,) = [r for r in assessment.loom.runs.values() if r.kind == "trunk"]
    assert trunk.end == "minus" and trunk.current_a == pytest.approx(6 * assessment.lamps["deck.lamp.01"].wanted_a)
    (joint,) = [j for j in assessment.loom.joints if j.kind == "hub"]
    assert len(joint.wires) == 7 and joint.id.startswith(hub)
    both = assess(edits.set_fields(plan, [hub], joins="both"), CAT)
    assert len(both.loom.passages["base.hull"].runs) == 2
    assert assessment.loom.extra_ohm["deck.lamp.06"] > before.loom.extra_ohm["deck.lamp.06"], (
        "the trunk's drop counts for each"
    )


def test_savings_are_what_comes_of_them():
    plan = row(6)
    assessment = assess(plan, CAT)
    ways = savings(plan, assessment)
    assert ways and all(s.after < s.before for s in ways)
    for s in ways:
        after = assess(edits.add_hub(plan, s.section, s.joins)[0], CAT)
        assert len(after.loom.passages[s.passage].runs) == s.after
        assert after.loom.passages[s.passage].fill == pytest.approx(s.fill_after)


def test_spares_and_thicker_trunks():
    plan = edits.set_loom(row(6), spare=2, wire="enamel-40")
    plan, _ = edits.add_hub(plan, "hull", "both")
    runs = assess(plan, CAT).loom.runs
    assert sum(r.kind == "spare" for r in runs.values()) == 4
    trunk = next(r for r in runs.values() if r.kind == "trunk")
    assert trunk.part == "enamel-38" and limit_a(38) > trunk.current_a > limit_a(40)


def test_no_passages_no_loom():
    assessment = assess(copy_unchecked(row(3), passages=()), CAT)
    assert not assessment.loom.runs and next(m for m in assessment.meters if m.id == "passage").value is None


# -- what is found -------------------------------------------------------------------------------------------------


def test_a_keel_too_full_until_a_common_return_is_made():
    plan = row(8, width_mm=2.5)
    finding = rules(plan)["passage-full"]
    assert "16 wires" in finding.sentence and finding.fixes[0].label.startswith("A common return: join minuses in Hull")
    meter = next(m for m in assess(plan, CAT).meters if m.id == "passage")
    assert (
        meter.subject == "base.hull"
        and meter.state in ("look", "stop")
        and meter.value == pytest.approx(finding.number)
    )
    for k in range(len(finding.fixes)):
        assert settles(plan, "passage-full", k), finding.fixes[k].label


def test_lamps_that_nothing_leads_to():
    plan = edits.delete(row(2), ["hull.deck"])
    finding = rules(plan)["no-way"]
    assert "no passage leads from Deck to Base" in finding.sentence and settles(plan, "no-way")
    outside = copy_unchecked(row(2), feeds=(Feed(id="supply"),))
    assert "the outside" in rules(outside)["no-way"].sentence


def test_passages_to_nowhere_and_routes_that_break():
    plan = edits.set_fields(row(2), ["hull.deck"], at=(300.0, 0.0, 0.0))
    assert "leads nowhere" in rules(plan)["passage-nowhere"].sentence
    assert settles(plan, "passage-nowhere", 0) and settles(plan, "passage-nowhere", 1)
    loop = edits.set_lead(row(2), ["deck.lamp.01"], ("plus",), through=("hull.deck", "base.hull", "base.hull"))
    assert "one passage twice" in rules(loop)["route-breaks"].sentence and settles(loop, "route-breaks")
    assert assess(loop, CAT).loom.runs["deck.lamp.01.plus"].through == ("hull.deck", "base.hull"), (
        "it finds its own way"
    )
    by_id = {p.id: p for p in plan.passages}
    assert valid_way(by_id, ("hull.deck", "base.hull"), "deck", "base")
    assert not valid_way(by_id, ("base.hull",), "deck", "base") and not valid_way(by_id, ("nothing",), "deck", "base")


def test_a_way_chosen_by_hand_is_taken():
    plan, second = edits.add_passage(row(1), "deck", "hull", (106.0, 35.0, 5.0))
    chosen = edits.set_lead(
        plan, ["deck.lamp.01"], ("minus",), through=(second, "base.hull"), colour="blue", tag="N", wire="thin-28"
    )
    run = assess(chosen, CAT).loom.runs["deck.lamp.01.minus"]
    assert run.through == (second, "base.hull") and (run.colour, run.tag, run.part) == ("blue", "N", "thin-28")
    assert edits.set_lead(chosen, ["deck.lamp.01"], ("minus",), through=(), colour="", tag="", wire=None).leads == ()


def test_walls_filed_too_thin():
    plan = edits.set_fields(row(2), ["base.hull"], make="file", take_mm=1.0, wall_mm=1.4)
    assert "leaves 0.4 mm" in rules(plan)["wall-left"].sentence and settles(plan, "wall-left")
    through = edits.set_fields(plan, ["base.hull"], take_mm=1.5)
    assert rules(through)["wall-left"].severity == "stop"


def test_wires_too_thin_and_too_long():
    hungry = edits.set_wanted(edits.set_loom(row(1), wire="enamel-40"), ["deck.lamp.01"], Wanted(current_ma=30.0))
    hungry = edits.set_fields(hungry, ["deck.lamp.01"], part="chip-5050-warm-white")
    hungry = edits.set_wanted(hungry, ["deck.lamp.01"], Wanted(current_ma=55.0))
    assert "bears" in rules(hungry)["wire-limit"].sentence and settles(hungry, "wire-limit")
    far = edits.set_fields(edits.set_loom(row(1), wire="enamel-40"), ["hull.deck"], length_mm=4000.0)
    far = edits.set_wanted(
        edits.set_fields(far, ["deck.lamp.01"], part="chip-5050-warm-white"), ["deck.lamp.01"], Wanted(current_ma=24.0)
    )
    assert "lose" in rules(far)["wire-drop"].sentence and settles(far, "wire-drop")
    state = assess(far, CAT)
    worst = max(2.0 * r.ohm * r.current_a / 9.0 for r in state.loom.runs.values() if r.lamps)
    assert rules(far)["wire-drop"].number == pytest.approx(worst, rel=0.05) and worst > 0.03, "there and back, over 9 V"


def test_wires_over_panes_are_seen_in_the_night_and_tucked():
    plan = row(2)
    pane = Opening(id="pane", section="deck", width_mm=6.0, height_mm=4.0, at=(120.0, 0.0, 20.0), side="starboard")
    plan = edits.add_openings(plan, [pane])
    led = edits.set_lead(plan, ["deck.lamp.02"], way=((120.0, 1.0, 27.0), (120.0, 1.0, 10.0)))
    assessment, clear = assess(led, CAT), assess(plan, CAT)
    share = sum(c.share for c in assessment.crossings if c.opening == "pane")
    assert share == pytest.approx(2 * 4.0 * 0.5 / 24.0, rel=0.15), "two leads of 0.5 mm across 4 mm of a pane of 24 mm²"
    assert assessment.openings["pane"].luminance_cd_m2 == pytest.approx(
        clear.openings["pane"].luminance_cd_m2 * (1 - share), rel=0.02
    )
    finding = rules(led)["wire-over-pane"]
    assert finding.subject == "pane" and settles(led, "wire-over-pane")


def test_wires_in_view_through_clear_glass():
    plan = edits.add_openings(
        row(2),
        [
            Opening(
                id="pane",
                section="deck",
                width_mm=30.0,
                height_mm=22.0,
                at=(130.0, 0.0, 18.0),
                side="starboard",
                glazing="clear",
            )
        ],
    )
    assert "is in view through Deck, starboard, 1 of 1" in rules(plan)["wire-in-view"].sentence


def test_hinges_seams_joints_and_parts_that_come_off():
    plan = row(2)
    swing = edits.set_fields(plan, ["base.hull"], joint="hinge", slack_mm=2.0)
    assert settles(swing, "hinge-slack")
    longer = assess(edits.set_fields(swing, ["base.hull"], slack_mm=10.0), CAT).loom.runs["deck.lamp.01.plus"].length_mm
    assert longer - assess(swing, CAT).loom.runs["deck.lamp.01.plus"].length_mm == pytest.approx(16.0)
    glued = copy_unchecked(
        next(s for s in plan.sections if s.id == "deck"),
        closure=Closure(part="wall", by="glue", glue="solvent cement"),
        seams=(Seam(id="seam", face="stern"),),
    )
    seam = edits.replace(
        edits.set_fields(plan, ["hull.deck"], make="as it is", at=(107.9, 20.0, 25.0), length_mm=1.0), {"deck": glued}
    )
    assert "pinched" in rules(seam)["seam-pinch"].sentence and settles(seam, "seam-pinch")
    hot = edits.set_loom(plan, bench_first=False)
    assert "within 25 mm of plastic" in rules(hot)["joint-near-plastic"].sentence and settles(hot, "joint-near-plastic")
    off = edits.replace(plan, {"deck": copy_unchecked(glued, closure=Closure(part="roof", by="magnets"), seams=())})
    assert "4 pins" in rules(off)["parts-come-off"].sentence and settles(off, "parts-come-off")


def test_a_lead_sent_by_a_passage_of_ones_choice():
    plan, second = edits.add_passage(row(1), "deck", "hull", (106.0, 38.0, 2.0))
    assessment = assess(plan, CAT)
    assert assessment.loom.runs["deck.lamp.01.plus"].through == ("hull.deck", "base.hull")
    through = by_way_of(plan, assessment, "deck.lamp.01.plus", second)
    assert through == (second, "base.hull")
    blind, hole = edits.add_passage(plan, "hull", "", (80.0, 0.0, 0.0))
    with pytest.raises(PlanError, match="lead nowhere"):
        by_way_of(blind, assess(blind, CAT), "deck.lamp.01.plus", hole)


def test_fibres_beside_a_hot_regulator():
    plan = row(1)
    hot = Series(id="s", items=(Resistor(id="r"), LampRef(lamp="deck.lamp.01")))
    regulator = Regulated(id="reg", part="regulator-classic-small", volts=5.0, home="hull", items=(hot,))
    plan = edits.set_fields(plan, ["deck.lamp.01"], part="chip-5050-warm-white", wanted=Wanted(current_ma=55.0))
    plan = copy_unchecked(
        plan, feeds=(copy_unchecked(plan.feeds[0], items=(regulator,), supply=Supply(part="adapter-12v-1a")),)
    )
    plan = edits.add_lamp(
        plan, Lamp(id="fed", part="flat-3-red", at=(55.0, 20.0, 15.0), aim=(1.0, 0.0, 0.0), mount="fibre")
    )
    plan = edits.add_dots(plan, [Dot(id="dot", at=(104.0, 20.0, 15.0), side="bow", section="hull", lamp="fed")])
    finding = rules(plan)["beside-hot"]
    assert "dot passes" in finding.sentence and "PMMA" in finding.sentence and settles(plan, "beside-hot")
    cool = copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], supply=Supply(part="adapter-6v-0.5a")),))
    assert "beside-hot" not in rules(cool)


def test_leads_that_cannot_be_told_apart():
    plan = edits.set_lead(row(2), ["deck.lamp.01"], tag="A", colour="white")
    assert "look alike" in rules(plan)["leads-alike"].sentence and settles(plan, "leads-alike")


def test_hubs_that_join_nothing_and_unknown_wires():
    plan, _ = edits.add_hub(row(1), "hull", "minus")
    assert settles(plan, "hub-idle")
    odd = edits.set_lead(row(1), ["deck.lamp.01"], wire="spaghetti")
    assert "spaghetti" in rules(odd)["unknown-part"].sentence and assess(odd, CAT).loom.runs
    assert not assess(edits.set_loom(row(1), wire="spaghetti"), CAT).loom.runs


def test_bodies_fit_meet_and_can_be_reached():
    plan = row(1)
    pack = Obstacle(
        id="pack", kind="pack", name="Cells", box=Box(at=(30, 2, 2), size=(30, 20, 10)), reached=True, thin_mm=12.0
    )
    large = edits.set_fields(plan, ["base"], obstacles=(pack,))
    finding = rules(large)["body-too-large"]
    assert (
        "10.0 mm into a wall" in finding.sentence
        and "leave 2.0" in finding.sentence
        and settles(large, "body-too-large")
    )
    board = Obstacle(id="board", kind="board", box=Box(at=(2, 2, 2), size=(20, 20, 5)))
    other = Obstacle(id="other", kind="speaker", box=Box(at=(20, 2, 2), size=(10, 10, 10)))
    assert (
        "2.0 mm into each other"
        in rules(edits.set_fields(plan, ["base"], obstacles=(board, other)))["bodies-meet"].sentence
    )
    shut = copy_unchecked(plan.sections[0], obstacles=(copy_unchecked(pack, box=Box(at=(2, 2, 2), size=(30, 20, 10))),), closure=Closure(part="lid", by="glue", glue="solvent cement"))  # fmt: skip
    assert settles(edits.replace(plan, {"base": shut}), "cells-shut-in", 1)


# -- edits, tables ---------------------------------------------------------------------------------------------------


def test_passages_and_hubs_go_with_their_sections():
    plan, hub = edits.add_hub(row(2), "hull")
    gone = edits.delete(plan, ["hull"])
    assert gone.passages == () and gone.hubs == ()
    led = edits.set_lead(plan, ["deck.lamp.01"], through=("hull.deck", "base.hull"))
    after = edits.delete(led, ["hull.deck"])
    assert all("hull.deck" not in x.through for x in after.leads)
    assert edits.delete(led, ["deck.lamp.01"]).leads == ()
    twin, new = edits.duplicate(plan, ["deck"], (0.0, 100.0, 0.0))
    assert len(twin.passages) == 2 and "deck.01" in new
    with pytest.raises(PlanError, match="no section"):
        edits.add_passage(plan, "attic", "hull")
    with pytest.raises(PlanError, match="into itself"):
        edits.add_passage(plan, "hull", "hull")
    with pytest.raises(ValueError, match="another one"):
        Passage(id="p", section="a", into="a", at=(0, 0, 0))
    assert edits.move(plan, [hub], (1.0, 0.0, 0.0)).hubs[0].at[0] == plan.hubs[0].at[0] + 1.0
    assert Lead(id="x", lamp="deck.lamp.01").wire is None


def test_the_loom_as_a_table_and_on_the_shopping_list():
    plan, _ = edits.add_hub(row(6), "hull", "minus")
    plan = edits.set_fields(plan, ["base.hull"], connector="8-pin header")
    assessment = assess(plan, CAT)
    rows = list(csv.DictReader(io.StringIO(loom_table(plan, assessment))))
    assert sum(r["what"] == "lead" for r in rows) == 12 and sum(r["what"].startswith("joint") for r in rows) == 13
    assert [r["wire"] for r in rows if r["what"] == "connector"] == ["8-pin header"]
    kinds = {r[0] for r in shopping_rows(plan, assessment)}
    assert {"wire", "sleeve", "connector"} <= kinds


def test_a_motor_in_another_section_brings_its_two_wires():
    """A turning radar: both wires go through every passage between, as thick as its current asks, and a hub takes them."""
    plan, motor = row(2), Load(id="radar.motor", part="coreless-3v", home="deck")
    slowed = Regulated(id="radar.regulator", part="regulator-adjustable", volts=3.0, items=(motor,))

    def wired(home: str) -> Plan:
        part = copy_unchecked(slowed, items=(copy_unchecked(motor, home=home),))
        return validate_edit(plan, copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], items=(part,)),)))

    alone, there = assess(wired(""), CAT).loom, assess(wired("deck"), CAT).loom
    for i in ("base.hull", "hull.deck"):
        assert len(there.passages[i].runs) == len(alone.passages[i].runs) + 2
    plus = there.runs["radar.motor.plus"]
    assert plus.through == ("hull.deck", "base.hull") and plus.current_a == CAT.loads["coreless-3v"].running_a
    assert plus.limit_a >= plus.current_a and plus.net != there.runs["radar.motor.minus"].net
    lighting = {i: r.ohm for i, r in alone.runs.items()}
    assert {i: there.runs[i].ohm for i in lighting} == lighting  # the lamps' own wires stay what they were


def test_a_lump_in_the_leads_wants_its_own_room():
    """A rectifier of 3.2 mm in the leads does not go through a hole of 3 mm, alone or not; one of 3.4 lets it by."""
    plan = edits.set_fields(row(2), ["deck.lamp.01"], part="wide-chip-0603-warm-white")
    stuck = [f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule == "lump-stuck"]
    assert [f.subject for f in stuck] == ["base.hull", "hull.deck"]
    assert (
        "is 3.2 mm thick and does not go through Keel" in stuck[0].sentence
        and stuck[0].fixes[0].label == "Open it to 3.3 mm"
    )
    for f in stuck:
        plan = f.fixes[0].applied(plan)
    assert "lump-stuck" not in {f.rule for f in evaluate_rules(plan, assess(plan, CAT))}
    assert "lump-stuck" not in {f.rule for f in evaluate_rules(row(2), assess(row(2), CAT))}
    slot = edits.set_fields(
        edits.set_fields(row(1, width_mm=8.0), ["deck.lamp.01"], part="wide-round-3-red"),
        ["base.hull"],
        shape="rect",
        height_mm=2.0,
    )
    (flat,) = [
        f for f in evaluate_rules(slot, assess(slot, CAT)) if f.rule == "lump-stuck" and f.subject == "base.hull"
    ]
    after = flat.fixes[0].applied(slot)
    way = next(p for p in after.passages if p.id == "base.hull")
    assert way.width_mm == 8.0 and way.height_mm >= 3.2, "a slot is filed higher, not wider"
