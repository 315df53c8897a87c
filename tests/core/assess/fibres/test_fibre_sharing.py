"""Dots, bundles, grouping, panels, lists: what the plan's fibres come to."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gwiazda.core.assess.assembly.holes import holes_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.fibres import sharing
from gwiazda.core.assess.fibres.faces import circles_in
from gwiazda.core.assess.fibres.lists import bought_of, cuts_of, map_of, tags_of
from gwiazda.core.assess.night.scene import scene_of
from gwiazda.core.errors import PlanError
from gwiazda.core.exchange.fibres import fibre_table
from gwiazda.core.fibre.drills import drill_for
from gwiazda.core.fibre.grouping import BLOCKED, Wishes, _exact, _quick, group, room_left
from gwiazda.core.fibre.light import Course, coupled_share, domed_share, losses, mixing, tip_cd
from gwiazda.core.fibre.panel import in_rows, spots_in
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import twins
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.lookup import housed
from gwiazda.core.plan.model import (
    Box,
    Dot,
    Lamp,
    LampRef,
    Panel,
    Passage,
    Plan,
    Resistor,
    Section,
    Series,
    Switched,
    copy_unchecked,
)
from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of

CAT = built_in()


def hull(count: int = 12, **fields: object) -> Plan:
    """A hull with a row of dots on its port side and no lamp."""
    plan = Plan(sections=(Section(id="hull", name="Hull", box=Box(at=(0, 0, 0), size=(200, 60, 40))),))
    dot = Dot(id="t", at=(0, 0, 0), section="hull", **fields)
    plan, _ = edits.row_of_dots(plan, dot, (30.0, 61.2, 20.0), (170.0, 61.2, 20.0), count, "hull.dot")
    return validate_edit(Plan(), plan)


def lit(count: int = 12, part: str = "flat-5-warm-white", **fields: object) -> Plan:
    """The same with one lamp behind the dots."""
    plan = hull(count, **fields)
    return edits.fibre_lamp(plan, [d.id for d in plan.dots], part)[0]


def rules(plan: Plan) -> dict[str, object]:
    return {f.rule: f for f in evaluate_rules(plan, assess(plan, CAT))}


# -- light ---------------------------------------------------------------------------------------------------


@given(st.floats(0.2, 1.5), st.floats(2.0, 10.0), st.floats(0.5, 30.0))
def test_domed_fibres_take_no_more_than_the_beam_has(fibre, face, order):
    from gwiazda.core.fibre.bundle import fibres_by_hand
    from gwiazda.core.space.pack import known_places

    count = min(fibres_by_hand(face, fibre), 37)
    if count < 1:
        return
    places = known_places(count) * fibre / 2
    shares = [domed_share(fibre, float(np.hypot(*p)), face, order) for p in places]
    assert 0.0 <= sum(shares) <= 1.0 + 1e-9 and all(s >= 0 for s in shares)


def seen_die(points, back, face, deep, die=0.9, n=1.5):
    """Rays run backwards from ``points`` along ``back`` (unit) into a dome: which of them end on its die."""
    radius = face / 2
    b = (points * back).sum(1)
    root = b * b - (points * points).sum(1) + radius**2
    ok = root > 0
    way = -b - np.sqrt(np.maximum(root, 0))
    hit = points + way[:, None] * back
    normal = hit / radius
    cosine = -(back * normal).sum(1)
    into = back / n + (cosine / n - np.sqrt(1 - (1 - cosine**2) / n**2))[:, None] * normal
    far = (-deep - hit[:, 2]) / into[:, 2]
    at = hit[:, :2] + far[:, None] * into[:, :2]
    # What meets the cylinder below the dome on its way comes from no die.
    at_rim = hit[:, :2] + (-hit[:, 2] / into[:, 2])[:, None] * into[:, :2]
    inside = (hit[:, 2] > 0) & ((np.hypot(*at_rim.T) < radius) | (deep <= 0))
    return ok & (cosine > 0) & inside & (np.hypot(*at.T) < die / 2)


def intensity(face, deep, degrees, rng):
    """Intensity (of radiance 1) of the dome at an angle: the area, across it, of all rays that end on the die."""
    t = math.radians(degrees)
    back = -np.array([math.sin(t), 0.0, math.cos(t)])
    across, up = np.array([math.cos(t), 0.0, -math.sin(t)]), np.array([0.0, 1.0, 0.0])
    u, v = rng.uniform(-face / 2, face / 2, (2, 60_000))
    points = u[:, None] * across + v[:, None] * up - 10 * face * back
    return seen_die(points, np.broadcast_to(back, points.shape), face, deep).mean() * face**2


@pytest.mark.parametrize(("face", "half", "fibre", "aside"), [(3.0, 15.0, 0.5, 0.0), (3.0, 15.0, 0.5, 0.7), (5.0, 15.0, 1.0, 0.0), (3.0, 30.0, 0.25, 0.3)])  # fmt: skip
def test_a_domed_lamp_seen_from_the_fibre(face, half, fibre, aside):
    """By another way: rays from the fibre's core back through the dome, those that end on the die; radiance is kept."""
    rng = np.random.default_rng(4)
    low, high = 0.0, 1.5 * face
    for _ in range(12):
        deep = (low + high) / 2
        wide = intensity(face, deep, half, rng) > 0.5 * intensity(face, deep, 1.0, rng)
        low, high = (deep, high) if wide else (low, deep)
    order = math.log(0.5) / math.log(math.cos(math.radians(half)))
    beam = 2 * math.pi * np.mean([intensity(face, deep, d, rng) for d in (0.5, 1.5, 2.5, 3.5)]) / (order + 1)
    n, core = 400_000, (fibre - 0.02) / 2
    r, turn, around = core * np.sqrt(rng.random(n)), *(2 * math.pi * rng.random((2, n)))
    sine2 = rng.random(n) * math.sin(math.radians(30)) ** 2
    back = -np.stack([np.sqrt(sine2) * np.cos(around), np.sqrt(sine2) * np.sin(around), np.sqrt(1 - sine2)], 1)
    points = np.stack([aside + r * np.cos(turn), r * np.sin(turn), np.full(n, face / 2 + 1e-9)], 1)
    etendue = math.pi * core**2 * math.pi * math.sin(math.radians(30)) ** 2
    share = seen_die(points, back, face, deep).mean() * etendue / beam
    assert domed_share(fibre, aside, face, order) == pytest.approx(share, rel=0.12)


def test_a_domed_lamp_is_no_point():
    """A 0.5 mm fibre on the axis of a 3 mm lamp of 30° takes about one part in eighty, and less than an even face would give."""
    order = math.log(0.5) / math.log(math.cos(math.radians(15.0)))
    assert 0.009 < domed_share(0.5, 0.0, 3.0, order) < 0.015 < (0.5 / 3.0) ** 2


@pytest.mark.parametrize(("count", "ratio"), [(61, 8.66), (91, 10.57), (100, 11.08)])
def test_bundles_beyond_the_table_as_they_are_known(count, ratio):
    from gwiazda.core.fibre.bundle import bundle_mm, most_fibres

    assert bundle_mm(count, 0.5) == pytest.approx(0.5 * ratio, rel=2e-3)
    assert most_fibres(0.5 * ratio * 1.003, 0.5) == count or most_fibres(0.5 * ratio * 1.003, 0.5) == count + 1


@given(st.floats(0, 0.2), st.floats(0, 3000), st.floats(0, 8), st.floats(0, 200), st.floats(0, 1))
def test_tip_and_side_together_give_no_more_than_goes_in(coupling, length, bends, glow, tip):
    found = losses(1.0, coupling, Course(length, bends, glow_mm=glow, tip=tip))
    assert 0 <= found.flux_lm + found.side_lm + found.bend_lm <= coupling * found.near_end + 1e-12
    assert mixing(bends, True) <= mixing(bends, False) <= 1.0


def test_a_dome_spreads_what_a_flush_tip_sends_ahead():
    """sin² 45° over sin² 30°: half the intensity, twice the solid angle of its square."""
    assert tip_cd(1.0, 1.0, domed=True) == pytest.approx(tip_cd(1.0, 1.0) / 2)


def test_the_chain_of_a_plan_by_hand():
    """0.5 mm fibres on a flat 3 mm lamp of 120°, cut ends, straight on: (0.5/3)²·0.25·0.96²·0.81, no bend."""
    plan = Plan(sections=(Section(id="s", name="S", box=Box(at=(0, 0, 0), size=(60, 60, 40))),))
    lamp = Lamp(id="lamp", part="flat-3-warm-white", at=(30, 30, 20), aim=(0, 1, 0), mount="fibre")
    plan = edits.add_lamp(plan, lamp)
    plan = edits.add_dots(plan, [Dot(id="dot", at=(30, 61.2, 20), section="s", lamp="lamp", wanted_mcd=1.0)])
    assessment = assess(plan, CAT)
    tip, state = assessment.tips["dot"], assessment.lamps["lamp"]
    part = CAT.lamps["flat-3-warm-white"]
    order = math.log(0.5) / math.log(math.cos(math.radians(part.beam_deg / 2)))
    guided = 1 - math.cos(math.radians(30)) ** (order + 1)
    share = (0.5 / 3) ** 2 * guided * (0.48 / 0.5) ** 2 * 0.81 * 10 ** (-0.25 * 0.0312 / 10)
    assert tip.share == pytest.approx(share, rel=1e-6) and tip.length_mm == pytest.approx(31.2)
    assert tip.flux_lm == pytest.approx(share * state.flux_lm * 2 * math.pi * part.axial_mcd * 1e-3 / (order + 1) / max(part.flux_lm, 2 * math.pi * part.axial_mcd * 1e-3 / (order + 1)), rel=0.01)  # fmt: skip
    assert tip.cd * 1e3 == pytest.approx(1.0, rel=0.12), "the resistor is chosen for what the tip wants"
    assert tip.cut_mm == 65.0 and math.isinf(tip.tightest), "31.2 mm, 20 slack, 10 to trim: the next 5 mm"


def test_smoke_tint_and_sleeves_cost_what_they_cost():
    plain = assess(lit(), CAT)
    first = next(iter(plain.tips))
    lamp = plain.tips[first].lamp

    def share(plan: Plan) -> float:
        return assess(plan, CAT).tips[first].share / plain.tips[first].share

    assert share(edits.set_fields(lit(), [first], smoke=2)) == pytest.approx(0.45**2)
    assert share(edits.set_bundle(lit(), lamp, joined="sleeve")) == pytest.approx(0.6)
    assert share(edits.set_bundle(lit(), lamp, ends="polished")) == pytest.approx((0.96 / 0.9) ** 2)
    assert share(edits.set_bundle(lit(), lamp, overheated=True)) == pytest.approx(10**-0.3)
    assert share(edits.set_fields(lit(), [first], tint="red")) < 0.6
    scratched = assess(edits.set_fields(lit(), [first], glow_mm=10.0), CAT).tips[first]
    assert scratched.loss.side == pytest.approx(10**-0.1) and scratched.loss.side_lm > 0


def test_a_lit_edge_shows_where_it_is_bent():
    plan = edits.set_fields(lit(), ["hull.dot.06"], bent="lit edge", bend_mm=2.0, way=((100.0, 61.5, 39.0),))
    assessment = assess(plan, CAT)
    tip = assessment.tips["hull.dot.06"]
    assert tip.loss.bend_lm > 0 and "tight-bend" not in rules(plan)
    shown = [c for c in scene_of(plan, assessment, "port") if c.channel == "fibre"]
    assert sum(len(c.discs) for c in shown) == 13
    meant = edits.set_fields(plan, ["hull.dot.06"], bent="warm")
    assert sum(len(c.discs) for c in scene_of(meant, assess(meant, CAT), "port") if c.channel == "fibre") == 12


def test_tips_are_seen_in_the_night_picture():
    plan = lit()
    assessment = assess(plan, CAT)
    lights = [c for c in scene_of(plan, assessment, "port") if c.channel == "fibre"]
    assert sum(len(c.discs) for c in lights) == 12 and not [
        c for c in scene_of(plan, assessment, "top") if c.channel == "fibre"
    ]
    tip = next(iter(assessment.tips.values()))
    assert tip.cd_m2 == pytest.approx(tip.cd / (math.pi * 0.25e-3**2))


# -- grouping ------------------------------------------------------------------------------------------------


def task(n: int, m: int, seed: int, wishes: int = 1, groups: int = 0, face: float = 2.0) -> Wishes:
    rng = np.random.default_rng(seed)
    dots, lamps = rng.random((n, 3)) * [200, 40, 40], rng.random((m, 3)) * [200, 40, 40]
    together = np.full(n, -1)
    for g in range(groups):
        together[3 * g : 3 * g + 3] = g
    gaps = np.linalg.norm(dots[:, None] - lamps[None], axis=2)
    need = 2.0 ** rng.integers(0, wishes, n)
    return Wishes(gaps, np.ones((n, m), bool), need, np.full(n, 0.5), np.full(m, face), together, np.full(n, -1))


@pytest.mark.parametrize("seed", range(8))
def test_assignment_comes_within_a_twentieth_of_the_optimum(seed):
    w = task(40, 8, seed, groups=2)
    cost = np.where(w.allowed, w.length_mm, BLOCKED)
    best, quick = (w.length_mm[np.arange(40), way(cost, w)].sum() for way in (_exact, _quick))
    assert best <= quick * 1.0001 and quick <= 1.05 * best


@settings(max_examples=25, deadline=None)
@given(st.integers(1, 60), st.integers(1, 6), st.integers(0, 1000), st.integers(1, 4))
def test_no_bundle_gets_more_than_fits_and_groups_stay_together(n, m, seed, wishes):
    w = task(n, m, seed, wishes, groups=min(3, n // 3))
    found = group(w)
    for j in range(m):
        assert room_left(2.0, [0.5] * int((found.lamp == j).sum())) >= -1e-9
    for g in range(min(3, n // 3)):
        assert len(set(found.lamp[w.together == g].tolist())) == 1
    assert found.fibre_mm <= found.cost_mm + 1e-9


def test_dots_of_one_wish_share_a_lamp():
    """Bright and dim dots side by side, two lamps side by side: a few mm of fibre are less than one current for both."""
    at = np.arange(12.0)
    gaps = np.abs(at[:, None] - np.array([5.0, 6.0])[None, :]) + 10.0
    need = np.where(np.arange(12) % 2 == 0, 1.0, 8.0)
    found = group(Wishes(gaps, np.ones((12, 2), bool), need, np.full(12, 0.5), np.full(2, 3.0), np.full(12, -1), np.full(12, -1)))  # fmt: skip
    assert (
        len({int(found.lamp[i]) for i in range(0, 12, 2)}) == 1
        and len({int(found.lamp[i]) for i in range(1, 12, 2)}) == 1
    )
    assert found.lamp[0] != found.lamp[1]


def test_colours_channels_pins_and_fullness():
    plan = hull(6, colour="red")
    plan = edits.add_lamp(
        plan, Lamp(id="white", part="flat-5-cool-white", at=(100, 30, 20), aim=(0, 1, 0), mount="fibre")
    )
    plan = edits.add_lamp(
        plan, Lamp(id="red", part="flat-5-red", at=(20, 30, 20), aim=(0, 1, 0), mount="fibre", channel="alarm")
    )
    after, _ = sharing.grouped(CAT, plan)
    assert {d.lamp for d in after.dots} == {"red"}
    assert "nearer and of another colour" in sharing.why(CAT, after, after.dots[-1])
    tinted = edits.set_fields(plan, ["hull.dot.03"], tint="red")
    assert {d.id: d.lamp for d in sharing.grouped(CAT, tinted)[0].dots}["hull.dot.03"] == "white", (
        "white through red is red, and nearer"
    )
    pinned = edits.pin(plan, ["hull.dot.01"], "white")
    assert sharing.grouped(CAT, pinned)[0].dots[0].lamp == "white" and "Pinned" in sharing.why(
        CAT, pinned, pinned.dots[0]
    )
    none, found = sharing.grouped(CAT, edits.play_on(plan, [d.id for d in plan.dots], "bridge"))
    assert all(not d.lamp for d in none.dots) and (found.lamp == -1).all()
    assert "none gives red on bridge" in sharing.why(CAT, none, none.dots[0])
    thick = edits.set_fields(plan, [d.id for d in plan.dots], fibre="fibre-3")
    on = sharing.grouped(CAT, thick)[0]
    assert [d.lamp for d in on.dots].count("red") == 1 and "has no room" in sharing.why(
        CAT, on, next(d for d in on.dots if not d.lamp)
    )


def test_without_dots_or_lamps_grouping_says_what_is_missing():
    with pytest.raises(PlanError, match="no dot yet"):
        sharing.grouped(CAT, Plan())
    with pytest.raises(PlanError, match="no lamp for fibres"):
        sharing.grouped(CAT, hull())


def test_splitting_keeps_groups_and_takes_the_bundle_along():
    plan = edits.set_fields(lit(12), ["hull.dot.11", "hull.dot.12"], group="pair")
    lamp = plan.lamps[0].id
    after = validate_edit(plan, sharing.split(CAT, edits.set_bundle(plan, lamp, ends="polished"), lamp))
    by = {d.id: d.lamp for d in after.dots}
    assert len(after.lamps) == 2 and by["hull.dot.11"] == by["hull.dot.12"] and 4 <= list(by.values()).count(lamp) <= 8
    assert {b.ends for b in after.bundles} == {"polished"} and len(after.bundles) == 2
    with pytest.raises(PlanError, match="act together"):
        sharing.split(CAT, edits.set_fields(plan, [d.id for d in plan.dots], group="all"), lamp)


# -- what is found -------------------------------------------------------------------------------------------


def settles(plan: Plan, rule: str, fix: int = 0) -> bool:
    finding = rules(plan)[rule]
    return rule not in rules(validate_edit(plan, finding.fixes[fix].edit(plan)))


def test_dots_without_lamp_are_found_and_given_one():
    plan = hull()
    assert rules(plan)["dot-without-lamp"].severity == "stop" and settles(plan, "dot-without-lamp")


def test_a_dot_on_no_skin():
    plan = edits.set_fields(lit(), ["hull.dot.01"], section="")
    assert "no section" in rules(plan)["dot-on-no-skin"].sentence and settles(plan, "dot-on-no-skin")


def test_fibres_and_holes_that_come_with_the_part():
    plan = lit(hole="given", hole_mm=0.4)
    finding = rules(plan)["fibre-too-thick"]
    assert "0.5 mm fibre" in finding.sentence and "0.4 mm hole" in finding.sentence
    assert settles(plan, "fibre-too-thick", 0) and settles(plan, "fibre-too-thick", 1)
    loose = lit(hole="given", hole_mm=1.1)
    assert settles(loose, "fibre-loose")
    with pytest.raises(ValueError, match="has a size"):
        Dot(id="d", at=(0, 0, 0), hole="given")


def test_a_bundle_too_thick_for_its_lamp():
    plan = lit(40, "flat-3-warm-white")
    finding = rules(plan)["bundle-too-thick"]
    assert "40 fibres" in finding.sentence and "takes 24 by hand" in finding.sentence and finding.severity == "stop"
    assert settles(plan, "bundle-too-thick", 0)
    thinner = finding.fixes[-1]
    assert "0.25" in thinner.label and "bundle-too-thick" not in rules(thinner.edit(plan))


def test_cold_creases_and_tight_bends():
    plan = edits.set_fields(lit(), ["hull.dot.06"], bent="cold", bend_mm=1.0)
    finding = rules(plan)["crease"]
    tip = assess(plan, CAT).tips["hull.dot.06"]
    assert (
        finding.severity == "stop"
        and tip.creased
        and tip.cd == 0.0
        and settles(plan, "crease", 0)
        and settles(plan, "crease", 1)
    )
    warm = edits.set_fields(plan, ["hull.dot.06"], bent="warm")
    assert (
        rules(warm)["tight-bend"].severity == "look"
        and settles(warm, "tight-bend", 0)
        and settles(warm, "tight-bend", 1)
    )
    held = edits.set_fields(warm, ["hull.dot.06"], held=True)
    assert assess(held, CAT).tips["hull.dot.06"].share < assess(warm, CAT).tips["hull.dot.06"].share


def test_a_way_that_comes_back_on_itself():
    there, back = (100.0, 30.0, 20.0), (20.0, 10.0, 5.0)
    plan = edits.set_fields(lit(), ["hull.dot.06"], way=(there, back, there))
    assert "one place twice" in rules(plan)["loop"].sentence and settles(plan, "loop")


def test_groups_apart_wrong_colours_and_hot_sleeves():
    plan = lit(4)
    plan, other = edits.fibre_lamp(plan, ["hull.dot.04"], "flat-3-red")
    plan = edits.play_on(plan, [other], "alarm")
    apart = edits.set_fields(plan, ["hull.dot.01", "hull.dot.04"], group="pair")
    assert settles(apart, "group-apart", 0) and settles(apart, "group-apart", 1)
    blue = edits.set_fields(plan, ["hull.dot.01"], colour="blue")
    assert "asks for blue light" in rules(blue)["wrong-colour"].sentence
    tint = next(f for f in rules(blue)["wrong-colour"].fixes if "Clear blue" in f.label)
    assert "wrong-colour" not in rules(tint.edit(blue))
    hot = edits.set_bundle(plan, other, overheated=True)
    assert settles(hot, "overheated-sleeve")


def test_tips_too_dim_and_too_bright():
    plan = edits.set_resistor(lit(), [lit().lamps[0].id], 47_000.0)
    finding = rules(plan)["tip-dim"]
    assert finding.fixes[0].label.startswith("Choose") and settles(plan, "tip-dim", 0)
    uneven = edits.set_fields(lit(), ["hull.dot.06"], wanted_mcd=9.0)
    assert "× what is wanted" in rules(uneven)["tip-bright"].sentence and settles(uneven, "tip-bright")
    smoked = rules(uneven)["tip-bright"].fixes[0].edit(uneven)
    assert sum(d.smoke for d in smoked.dots) >= 11


def test_a_lamp_can_not_light_a_room_and_fibres():
    plan = edits.set_fields(lit(), [lit().lamps[0].id], mount="inside")
    assert "can’t do both" in rules(plan)["lamp-and-fibres"].sentence and settles(plan, "lamp-and-fibres")


def test_unknown_fibres_are_named_and_the_rest_assessed():
    plan = edits.set_fields(lit(), ["hull.dot.01"], fibre="fibre-9")
    assert "fibre-9" in rules(plan)["unknown-part"].sentence
    assert len(assess(plan, CAT).tips) == 11


# -- through passages, copies, deletes ---------------------------------------------------------------------------


def test_fibres_go_through_passages_and_fill_them():
    plan = Plan(
        sections=tuple(Section(id=i, name=i.upper(), box=Box(at=(x, 0, 0), size=(50, 40, 30))) for i, x in (("a", 0.0), ("b", 60.0))),
        passages=(Passage(id="door", section="a", into="b", at=(55.0, 5.0, 5.0), width_mm=2.0),),
    )  # fmt: skip
    plan = edits.add_lamp(plan, Lamp(id="lamp", part="flat-3-red", at=(10, 20, 15), aim=(1, 0, 0), mount="fibre"))
    plan = edits.add_dots(plan, [Dot(id="dot", at=(80, 41.2, 15), section="b", lamp="lamp", fibre="fibre-1")])
    assessment = assess(plan, CAT)
    state = assessment.loom.passages["door"]
    assert state.runs[-1] == "dot.fibre" or "dot.fibre" in state.runs
    assert 1.0 in state.diameters_mm and assessment.tips["dot"].length_mm > math.dist((10, 20, 15), (80, 41.2, 15))
    by_hand = edits.set_fields(plan, ["dot"], way=((55.0, 20.0, 15.0),))
    assert assess(by_hand, CAT).tips["dot"].length_mm < assessment.tips["dot"].length_mm


def test_dots_move_and_go_with_their_section_and_panel():
    plan = edits.add_panel(lit(), Panel(id="p", name="P", section="hull", at=(100, 61.2, 20)))
    plan, ids = edits.fill_panel(plan, "p", [(0.25, 0.5, "red"), (0.75, 0.5, "")], Dot(id="t", at=(0, 0, 0)))
    moved = edits.move(plan, ["p"], (1.0, 0.0, 0.0))
    at = {d.id: d.at for d in moved.dots}
    assert at[ids[0]][0] == pytest.approx(next(d.at[0] for d in plan.dots if d.id == ids[0]) + 1.0)
    wide = edits.resize_panel(plan, "p", width_mm=40.0)
    xs = [next(d.at[0] for d in wide.dots if d.id == i) for i in ids]
    assert abs(xs[0] - xs[1]) == pytest.approx(20.0)
    assert edits.delete(plan, ["hull"]).dots == () and edits.delete(plan, ["p"]).panels == ()
    gone = edits.delete(plan, [plan.lamps[0].id])
    assert all(d.lamp == "" for d in gone.dots) and gone.bundles == ()
    twice, new = edits.duplicate(plan, ["hull"], (0.0, 200.0, 0.0))
    copies = [d for d in twice.dots if d.id in new]
    assert len(copies) == len(plan.dots) and {d.section for d in copies} == {"hull.01"}


# -- faces, drills, lists --------------------------------------------------------------------------------------


def face(colours=((215, 60, 50), (60, 190, 80)), radius: int = 5):
    picture = np.full((60, 160, 3), 40, dtype=np.uint8)
    y, x = np.mgrid[0:60, 0:160]
    for k in range(8):
        cx, cy = 20 + 40 * (k % 4), 18 + 26 * (k // 4)
        picture[(x - cx) ** 2 + (y - cy) ** 2 <= radius**2] = colours[k % 2]
    picture[:, 0:2] = 255  # a frame line is no dot
    picture[54:57, 30:120] = (240, 240, 240)
    return picture


def test_spots_of_a_face_by_colour_and_by_shape():
    spots = spots_in(face())
    assert len(spots) == 8 and [s.colour for s in spots[:4]] == ["red", "green", "red", "green"]
    assert spots[0].across == pytest.approx(20.5 / 160, abs=0.005) and spots[4].down > spots[0].down
    assert len(spots_in(face(), "green")) == 4 and spots[0].wide == pytest.approx(10 / 160, rel=0.15)
    with pytest.raises(PlanError, match="no blue spot"):
        spots_in(face(), "blue")
    with pytest.raises(PlanError, match="no round spot"):
        spots_in(np.full((40, 40, 3), 120, dtype=np.uint8))
    with pytest.raises(PlanError, match="no colour to look for"):
        spots_in(face(), "mauve")


def test_noise_is_said_and_not_hung_on():
    rng = np.random.default_rng(1)
    with pytest.raises(PlanError, match=r"specks|no round spot|spots"):
        spots_in(rng.integers(0, 255, (700, 700, 3)).astype(np.uint8))


def test_circles_of_an_svg():
    circles = "".join(f'<circle cx="{10 + 20 * i}" cy="{10 + 20 * j}" r="2"/>' for j in range(2) for i in range(5))
    data = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 40"><rect width="100" height="40"/>{circles}</svg>'
    )
    spots = circles_in(data.encode())
    assert len(spots) == 10 and spots[0].across == pytest.approx(0.1) and spots[5].down == pytest.approx(0.75)
    assert list(spots) == list(in_rows(tuple(reversed(spots))))
    with pytest.raises(PlanError, match="no circle"):
        circles_in(b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><rect width="9" height="9"/></svg>')


def test_drills_a_hair_over_the_fibre():
    assert drill_for(0.5)[:4] == pytest.approx((0.55, 0.55, 74, 0.572)) and drill_for(0.25).metric_mm == 0.3
    assert drill_for(1.5).hole_mm == pytest.approx(1.6) and drill_for(2.0).number == 0
    for mm in np.arange(0.2, 3.0, 0.07):
        d = drill_for(float(mm))
        assert d.metric_mm >= d.hole_mm - 1e-9 and (d.number == 0 or d.number_mm >= d.hole_mm - 1e-9)


def test_lists_for_the_bench():
    plan = edits.set_fields(lit(), ["hull.dot.01"], hole="given", hole_mm=0.5)
    assessment = assess(plan, CAT)
    cuts = cuts_of(plan, assessment)
    assert sum(c.pieces for c in cuts) == 12 and [c.length_mm for c in cuts] == sorted(
        (c.length_mm for c in cuts), reverse=True
    )
    for c in cuts:
        for i in c.dots:
            dot, tip = next(d for d in plan.dots if d.id == i), assessment.tips[i]
            assert tip.length_mm + dot.slack_mm + 10 <= c.length_mm < tip.length_mm + dot.slack_mm + 15
    assert [(h.pieces, h.given) for h in holes_of(plan, assessment.catalogue)] == [(11, False), (1, True)]
    (bought,) = bought_of(plan, assessment)
    assert (
        bought.length_mm == sum(c.length_mm * c.pieces for c in cuts) and bought.metres * 1000 >= bought.length_mm * 1.1
    )
    text = fibre_table(plan, assessment)
    assert text.count("\nmap,") == 12 and "no. 74" in text and "comes with the part" in text


def test_the_map_names_lamp_channel_and_output():
    plan = lit(2)
    lamp = plan.lamps[0].id
    string = Series(id="s", items=(Resistor(id="r"), LampRef(lamp=lamp)))
    feed = copy_unchecked(plan.feeds[0], items=(Switched(id="out.3", part="pin-5v", items=(string,)),))
    plan = edits.play_on(copy_unchecked(plan, feeds=(feed,)), [lamp], "chase.3")
    rows = map_of(plan, assess(plan, CAT))
    assert [(r.tag, r.lamp, r.channel, r.output) for r in rows] == [
        ("1", lamp, "chase.3", "out.3"),
        ("2", lamp, "chase.3", "out.3"),
    ]
    with_panel = edits.add_panel(plan, Panel(id="p", name="P", at=(0, 0, 0)))
    with_panel, ids = edits.fill_panel(with_panel, "p", [(0.5, 0.5, "")], Dot(id="t", at=(0, 0, 0)))
    assert tags_of(with_panel)[ids[0]] == "A1"


def test_ten_thousand_dots_are_worked_out():
    plan = lit(1)
    model = copy_unchecked(plan.dots[0], lamp=plan.lamps[0].id)
    dots = [copy_unchecked(model, id=f"d{k}", at=(k % 190 + 5.0, 61.2, 5.0 + k % 30)) for k in range(10_000)]
    assessment = assess(validate_edit(plan, edits.add_dots(plan, dots)), CAT)
    assert len(assessment.tips) == 10_001 and assessment.bundles[plan.lamps[0].id].left < -10
    assert coupled_share(0.5, 5.0, 1.0) == pytest.approx(0.01 * 0.25 * 0.96**2)


def test_a_section_turned_round_keeps_the_length_of_its_fibres_and_its_dots_face_the_other_way():
    plan = load(path_of()).plan
    before, home = assess(plan, built_in()), housed(plan.sections, plan.lamps)
    inside = [d for d in plan.dots if d.lamp and home[d.lamp] == d.section]
    turned = twins.turn_round(plan, {d.section for d in inside}, 1)
    after, now = assess(turned, built_in()), {d.id: d for d in turned.dots}
    opposite = {"port": "starboard", "starboard": "port"}
    assert inside
    for d in inside:
        assert now[d.id].side == opposite.get(d.side, d.side)
        assert after.tips[d.id].length_mm == pytest.approx(before.tips[d.id].length_mm, abs=0.01)


def test_a_section_moved_takes_its_fibre_lamps_and_the_leads_led_by_hand_along():
    plan = load(path_of()).plan
    lamp = next(p for p in plan.lamps if p.mount == "fibre")
    home = housed(plan.sections, plan.lamps)[lamp.id]
    plan = edits.set_lead(plan, [lamp.id], ["plus"], way=((1.0, 2.0, 3.0),))
    moved = edits.move(plan, [home], (10.0, -1.0, 0.5))
    assert next(p for p in moved.lamps if p.id == lamp.id).at == pytest.approx(
        [a + b for a, b in zip(lamp.at, (10.0, -1.0, 0.5), strict=True)]
    )
    assert moved.leads[-1].way == ((11.0, 1.0, 3.5),)
    assert edits.move(plan, [lamp.id], (5.0, 0.0, 0.0)).leads[-1].way == ((1.0, 2.0, 3.0),)  # a lamp alone leaves it
    turned = twins.turn_round(plan, [home], 1)
    assert twins.turn_round(turned, [home], 1).leads == plan.leads != turned.leads
