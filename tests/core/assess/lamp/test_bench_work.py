"""Worked lamps, fit, scale, effort, fewest lamps, shapes, patterns, who is awake, views, sightlines."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assembly import effort
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.choices import fewest
from gwiazda.core.assess.lamp import realism
from gwiazda.core.assess.lamp.fit import axis_of, fit_of, gap_of, most_filed_mm, needed_mm, smaller_parts
from gwiazda.core.assess.lamp.modified_lamp import plain, worked
from gwiazda.core.colour.tint import EDGES, transmission
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.light import sightline, visibility
from gwiazda.core.light.photometry import beam_flux_lm
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import occupancy, patterns, views
from gwiazda.core.plan.gate import check_consistent
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Box, Drawing, Lamp, Obstacle, Plan, View, copy_unchecked
from gwiazda.core.plan.outline import shapes


def lamp(part: str = "round-5-warm-white", **fields) -> Lamp:
    return Lamp(**{"id": "l", "part": part, "at": (82, 0, 9), **fields})


# -- worked lamps ----------------------------------------------------------------------------------------


def test_a_sanded_dome_widens_dims_and_shortens():
    before, after = worked(built_in(), lamp()), worked(built_in(), lamp(sanded=True))
    assert after.flux_lm == pytest.approx(0.85 * before.flux_lm)
    assert after.axial_cd < before.axial_cd / 10, "the spot is gone"
    assert 2 * math.degrees(math.acos(0.5 ** (1 / after.order))) == pytest.approx(110, abs=0.1)
    assert after.height_mm == pytest.approx(8.6 - 2.5)
    flat = worked(built_in(), lamp("chip-1206-warm-white", sanded=True))
    assert flat.order == pytest.approx(1.0), "a beam that is wider already stays"


def test_filing_takes_height_and_a_little_light():
    assert worked(built_in(), lamp(filed_mm=1.5)).height_mm == pytest.approx(7.1)
    assert worked(built_in(), lamp(filed_mm=1.5)).flux_lm == pytest.approx(0.95 * worked(built_in(), lamp()).flux_lm)
    assert worked(built_in(), lamp(filed_mm=9.9, sanded=True)).height_mm == 0.3


@pytest.mark.parametrize("tint", sorted(EDGES))
def test_a_tint_takes_light_and_gives_colour(tint):
    passed = transmission(tint)
    assert passed.max() <= 0.9001 and passed.min() > 0
    clear, tinted = (
        worked(built_in(), lamp("chip-1206-cool-white")),
        worked(built_in(), lamp("chip-1206-cool-white", tint=tint)),
    )
    assert tinted.flux_lm < clear.flux_lm
    channel = {"red": 0, "orange": 0, "yellow": 0, "green": 1, "blue": 2}[tint]
    assert np.argmax(tinted.rgb) == channel
    assert (transmission("") == 1).all()


def test_a_tinted_lamp_shows_in_the_assessment(deck):
    plan = edits.set_fields(deck, ["deck1.lamp.01"], tint="red")
    rgb = assess(plan, built_in()).lamps["deck1.lamp.01"].rgb
    assert rgb[0] > 3 and rgb[2] < 0.1


def test_a_part_as_it_comes():
    for part in built_in().lamps.values():
        done = plain(part)
        # A dome sends the rest of its light sideways, evenly: on the axis it adds a little.
        side = done.flux_lm * (1 - done.beam_share) / (4 * math.pi)
        assert done.axial_cd == pytest.approx(part.axial_mcd * 1e-3 + side)
        assert done.flux_lm >= max(part.flux_lm, beam_flux_lm(part.axial_mcd * 1e-3, done.order)) * (1 - 1e-9)
        assert plain(part).height_mm == part.size_mm[2]


# -- fit -------------------------------------------------------------------------------------------------


def test_gap_is_the_box_less_what_is_kept(deck):
    section = deck.sections[0]
    assert gap_of(built_in(), section, lamp()).clear == 19
    rib = Obstacle(id="rib", kind="rib", box=Box(at=(80, -5, 0), size=(4, 10, 3)), action="keep")
    with_rib = copy_unchecked(section, obstacles=(rib,))
    assert gap_of(built_in(), with_rib, lamp()).clear == 16
    assert gap_of(built_in(), with_rib, lamp(aim=(1.0, 0.0, 0.0))).clear == 165, (
        "lamps that look along don't meet the rib"
    )
    cut = copy_unchecked(section, obstacles=(copy_unchecked(rib, action="cut"),))
    assert gap_of(built_in(), cut, lamp()).clear == 19
    across = Obstacle(id="b", box=Box(at=(60, -22, 0), size=(44, 44, 19)))
    assert gap_of(built_in(), copy_unchecked(section, obstacles=(across,)), lamp()).clear == 0


def test_fit_says_by_how_much_and_what_would_help():
    plan = deck_plan(lamps=0)
    low = copy_unchecked(plan.sections[0], box=Box(at=(0, -22, 0), size=(165, 44, 7)))
    tall = lamp()
    fit = fit_of(built_in(), low, tall)
    assert fit.needed_mm == pytest.approx(8.6 + 2.5 + 0.3) and fit.clearance_mm == pytest.approx(7 - 11.4)
    assert fit.notch_mm == pytest.approx(4.4) and fit.bows
    smaller = smaller_parts(built_in(), low, tall)
    assert smaller and all(needed_mm(p, p.size_mm[2]) <= 7 and p.colour == "warm white" for p in smaller)
    assert smaller[0].size_mm[2] == max(p.size_mm[2] for p in smaller)
    beside = copy_unchecked(lamp(), id="m", at=(83.0, 0.0, 9.0))
    assert fit_of(built_in(), low, tall, (tall, beside)).touches == ("m",)
    assert axis_of((0.1, -0.9, 0.2)) == 1


def test_what_does_not_fit_is_found_and_settled(deck):
    plan = edits.replace(deck, {"deck1": copy_unchecked(deck.sections[0], box=Box(at=(0, -22, 10), size=(165, 44, 9)))})
    plan = edits.set_fields(plan, ["deck1.lamp.01"], part="round-5-warm-white")
    finding = next(f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "does-not-fit")
    assert "too thick" in finding.sentence and "bow" in finding.sentence
    for fix in finding.fixes:
        after = fix.edit(plan)
        left = [f for f in evaluate_rules(after, assess(after, built_in())) if f.rule == "does-not-fit"]
        assert not left or left[0].number > finding.number
    touching = edits.set_fields(deck, ["deck1.lamp.02"], at=find(deck, "deck1.lamp.01").at)
    assert any(f.rule == "lamps-touch" for f in evaluate_rules(touching, assess(touching, built_in())))


# -- scale and realism -----------------------------------------------------------------------------------


def test_worked_masthead_light():
    assert realism.model_mcd(94.0, 200.0) == pytest.approx(2.35)
    assert realism.full_size_m(3.0, 350.0) == pytest.approx(1.05)


def test_threshold_rises_with_the_background():
    dark, dusk, day = (visibility.point_threshold_lx(v) for v in (0.0, 0.1, 1000.0))
    assert dark == pytest.approx(0.242e-6) and dark < dusk < day
    # Clearly seen at 0.6 m before three hulls, by hand.
    for hull, mcd in ((0.32, 0.016), (4.5, 0.048), (32.0, 0.18)):
        assert realism.visible_mcd(hull, 0.6) == pytest.approx(mcd, rel=0.04)
    assert [visibility.point_words(x) for x in (0.5, 2, 200, 2000)] == [
        "not seen",
        "just seen",
        "clearly seen",
        "striking",
    ]
    assert realism.visible_mcd(0.1, 1.2) == pytest.approx(4 * realism.visible_mcd(0.1, 0.6))
    assert realism.visible_cd_m2(0.01) == 3.0 and realism.visible_cd_m2(10.0) == 50.0


def test_giants_are_found(demo):
    plan = edits.set_fields(demo, ["mast.masthead.01"], part="round-5-warm-white")
    finding = next(f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "out-of-scale")
    assert "1 m across" in finding.sentence
    after = finding.fixes[0].edit(plan)
    assert not any(f.rule == "out-of-scale" for f in evaluate_rules(after, assess(after, built_in())))


def test_a_lamp_fits_on_all_three_axes_after_turning(deck):
    """A chip 1.25 mm wide looking out along a gap of 0.6 mm between two floors: no way of turning it gets it in."""
    flat = copy_unchecked(deck.sections[0], box=Box(at=(0, -22, 0), size=(165, 44, 0.6)))
    chip = lamp("chip-0805-warm-white", at=(80.0, 0.0, 0.3), aim=(0.0, 1.0, 0.0))
    fit = fit_of(built_in(), flat, chip)
    assert fit.across and fit.needed_mm == pytest.approx(1.25) and fit.clearance_mm == pytest.approx(0.6 - 1.25)
    # On edge it goes between floors that are as far apart as it is wide.
    tight = copy_unchecked(flat, box=Box(at=(0, -22, 0), size=(165, 44, 1.3)))
    assert fit_of(built_in(), tight, chip).clearance_mm >= 0
    plan = copy_unchecked(edits.replace(deck, {"deck1": flat}), lamps=(copy_unchecked(chip, id="deck1.lamp.01"),))
    finding = next(f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "does-not-fit")
    assert "too wide, however it is turned" in finding.sentence
    assert all("Bend" not in f.label and "Sand" not in f.label for f in finding.fixes)


def test_a_lamp_filed_into_its_die_is_found(deck):
    """5 mm round: two thirds of its width lie over the die; sanded flat half of it is gone already."""
    assert most_filed_mm(built_in().lamps["round-5-warm-white"], False) == pytest.approx(0.65 * 5.0 - 0.4)
    for filed, sanded, part, found in ((2.8, False, "round-5-warm-white", False), (3.0, False, "round-5-warm-white", True), (0.5, True, "round-5-warm-white", True), (0.2, False, "chip-1206-warm-white", True)):  # fmt: skip
        plan = edits.set_fields(deck, ["deck1.lamp.01"], part=part, filed_mm=filed, sanded=sanded)
        mine = [f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "filed-past-die"]
        assert bool(mine) == found, (filed, sanded, part)
        for f in mine:
            after = f.fixes[0].applied(plan)
            assert "filed-past-die" not in {x.rule for x in evaluate_rules(after, assess(after, built_in()))}


# -- effort and fewest lamps -----------------------------------------------------------------------------


def test_effort_counts_and_follows_the_school(deck):
    drill, whole = effort.effort_of(deck, built_in())
    assert (drill.holes, drill.panes, drill.lamps, drill.joints) == (24, 24, 5, 15) and whole.of == ""
    counted = (
        24 * 3 + 15 * 3 + 5 * 4 + 24 * 1.5 + 24 * 0.3 + 10 * 1.35 + 5 * 0.5
    )  # panes, joints, lamps, glazing, burrs, leads, tests
    assert counted / 60 < drill.hours < (counted + 90) / 60, "the rest is paint, the leak test and what closes it"
    scratch = effort.effort_of(edits.set_fields(deck, ["deck1"], school="scratch"), built_in())[0]
    assert scratch.holes == 0 and scratch.hours < drill.hours
    strung = edits.wire_in_series(deck, ["deck1.lamp.01", "deck1.lamp.02"])
    assert effort.effort_of(strung, built_in())[0].joints == 13


def test_fewest_lamps_are_enough_and_fewest():
    plan = deck_plan(lamps=0)
    for proposal in fewest.propose(built_in(), plan, "deck1", aim=fewest.Aim(60.0, 0.9)):
        taken = fewest.take(plan, "deck1", proposal)
        state = assess(edits.set_drawer(taken, series="E96"), built_in()).sections["deck1"]
        assert state.evenness == pytest.approx(proposal.evenness, abs=1e-6)
        if proposal.good:
            assert state.evenness >= 0.9 and state.mean_cd_m2 == pytest.approx(60.0, rel=0.05)
    best = fewest.propose(built_in(), plan, "deck1", aim=fewest.Aim(60.0, 0.9))[0]
    assert best.good and all(
        p.lamp_count >= best.lamp_count
        for p in fewest.propose(built_in(), plan, "deck1", aim=fewest.Aim(60.0, 0.9))
        if p.good
    )
    dim = fewest.propose(built_in(), plan, "deck1", part_id="chip-0402-warm-white", aim=fewest.Aim(500.0))
    assert dim and not any(p.good for p in dim)
    assert fewest.propose(built_in(), deck_plan(windows=0), "deck1") == ()
    assert fewest.propose(built_in(), plan, "deck1", cancelled=lambda: True) == ()


def test_proposals_replace_only_their_own_section(demo):
    proposal = fewest.propose(built_in(), demo, "deck2")[0]
    after = fewest.take(demo, "deck2", proposal)
    others = [p for p in demo.lamps if not p.id.startswith("deck2.lamp")]
    assert [p for p in after.lamps if not p.id.startswith("deck2.lamp")] == others
    check_consistent(after)


# -- shapes ----------------------------------------------------------------------------------------------


@given(st.sampled_from(shapes.SHAPES), st.floats(10, 300), st.floats(10, 300), st.floats(10, 300))
def test_inner_boxes_of_shapes_lie_inside(shape, length, breadth, height):
    section = shapes.section_from_shape(Plan(), shape, length, breadth, height)
    for outline in section.outlines:
        hs, vs = [p[0] for p in outline.points], [p[1] for p in outline.points]
        from gwiazda.core.plan.frame import PLANES

        h, v, _ = PLANES[outline.side]
        assert min(hs) - 1e-6 <= section.box.at[h] and section.box.at[h] + section.box.size[h] <= max(hs) + 1e-6
        assert min(vs) - 1e-6 <= section.box.at[v] and section.box.at[v] + section.box.size[v] <= max(vs) + 1e-6
    assert assess(edits.add_section(Plan(), section), built_in()).sections[section.id].area_m2 > 0


def test_slivers_and_crossings_are_refused():
    with pytest.raises(PlanError, match="no room"):
        shapes.section_from_shape(Plan(), "tube", 50, 2, 50)
    with pytest.raises(PlanError, match=r"crosses itself at 5\.0, 5\.0"):
        shapes.traced_section(Plan(), "port", ((0, 0), (10, 10), (10, 0), (0, 10)), 20)
    with pytest.raises(PlanError, match="three or more"):
        shapes.traced_section(Plan(), "port", ((0, 0), (10, 10)), 20)
    assert shapes.crossing(((0, 0), (10, 0), (10, 10), (0, 10))) is None


def test_a_traced_section_gets_its_box():
    section = shapes.traced_section(Plan(), "port", ((0, 0), (100, 0), (80, 40), (0, 40)), 30, "Nose")
    assert section.name == "Nose" and section.box.size[1] == 30
    (x, _, z), (a, _, c) = section.box.at, section.box.size
    for corner in ((x, z), (x + a, z), (x, z + c), (x + a, z + c)):
        assert 1.1 <= corner[0] <= 100 - corner[1] / 2 - 1.0 and 1.1 <= corner[1] <= 38.9
    assert a * c > 0.55 * 100 * 40
    assert {o.side for o in section.outlines} == {"port", "top"}


# -- patterns and who is awake ---------------------------------------------------------------------------


def test_grid_ring_and_the_other_side(deck):
    section = deck.sections[0]
    plan, grid = patterns.add_grid(deck, section, "starboard", (10, 4), (100, 14), (10, 3))
    assert len(grid) == 30 and len({find(plan, i).at[2] for i in grid}) == 3
    plan, ring = patterns.add_ring(plan, section, "bow", (0, 9), 6.0, 8)
    centre = np.mean([find(plan, i).at for i in ring], axis=0)
    assert centre == pytest.approx((165, 0, 9)) and len(ring) == 8
    assert all(math.dist(find(plan, i).at, (165, 0, 9)) == pytest.approx(6) for i in ring)
    plan, copies = patterns.copy_to_other_side(plan, grid[:4])
    assert [find(plan, i).at[1] for i in copies] == [22.0] * 4 and all(find(plan, i).side == "port" for i in copies)
    check_consistent(plan)
    for bad in (
        lambda: patterns.add_grid(deck, section, "port", (0, 0), (1, 1), (0, 3)),
        lambda: patterns.add_ring(deck, section, "port", (0, 0), -1, 3),
        lambda: patterns.copy_to_other_side(deck, ["deck1.lamp.01"]),
    ):
        with pytest.raises(PlanError):
            bad()


@given(st.floats(0, 1), st.floats(1, 8), st.integers(0, 1000))
def test_rules_light_the_share_asked_for(share, clump, seed):
    plan = deck_plan(windows=40)
    ids = [o.id for o in plan.openings]
    after = occupancy.fill(plan, ids, share, clump, seed, dim_share=0.0)
    assert sum(o.lit > 0 for o in after.openings) == round(40 * share)
    assert occupancy.fill(plan, ids, share, clump, seed, dim_share=0.0) == after, "the same seed, the same pattern"


def test_larger_clumps_make_longer_runs():
    def runs(clump: float) -> float:
        total = 0
        for seed in range(12):
            after = occupancy.fill(
                deck_plan(windows=60), [f"deck1.window.{i:02d}" for i in range(1, 61)], 0.5, clump, seed
            )
            lit = [o.lit > 0 for o in after.openings]
            total += sum(a != b for a, b in pairwise(lit))
        return total

    assert runs(6.0) < 0.7 * runs(1.0)


def test_some_are_always_awake(demo):
    ids = [o.id for o in demo.openings]
    after = occupancy.fill(demo, ids, share=0.3, always={"bridge": 1.0, "hull": 0.0})
    assert all(o.lit == 1.0 for o in after.openings if o.section == "bridge")
    assert all(o.lit == 0.0 for o in after.openings if o.section == "hull")
    for share, clump in ((1.4, 2), (0.5, 0.2)):
        with pytest.raises(PlanError):
            occupancy.fill(demo, ids, share, clump)


def test_twins_are_found_and_parted(deck):
    plan = occupancy.fill(deck, [o.id for o in deck.openings], 0.5)
    plan, _ = patterns.copy_to_other_side(plan, [o.id for o in plan.openings])
    assert occupancy.twin_sections(plan) == ("deck1",)
    finding = next(f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "same-on-both-sides")
    assert occupancy.twin_sections(finding.fixes[0].edit(plan)) == ()
    lit = next(f for f in evaluate_rules(deck, assess(deck, built_in())) if f.rule == "everything-lit")
    assert not any(
        f.rule == "everything-lit" for f in evaluate_rules(lit.fixes[0].edit(deck), assess(deck, built_in()))
    )


# -- views -----------------------------------------------------------------------------------------------


def drawn(rotation: float = 0.0) -> Plan:
    drawing = Drawing(picture="a.png", mm_per_unit=0.4, origin=(250, 150), rotation_deg=rotation)
    return Plan(views=(View(id="port", name="Port side", side="port", drawing=drawing),))


def on_sheet(plan: Plan, unit: tuple[float, float]) -> tuple[float, float]:
    d = plan.views[0].drawing
    x, y = ((u - o) * d.mm_per_unit for u, o in zip(unit, d.origin, strict=True))
    t = math.radians(d.rotation_deg)
    return x * math.cos(t) - y * math.sin(t), x * math.sin(t) + y * math.cos(t)


@given(st.sampled_from([0.0, 12.5, -40.0]), st.floats(5, 900))
def test_calibration_makes_the_line_as_long_as_said(rotation, length):
    plan = drawn(rotation)
    a, b = (30.0, 40.0), (420.0, 250.0)
    start = on_sheet(plan, a)
    after = views.calibrate(plan, "port", start, on_sheet(plan, b), length)
    assert math.dist(on_sheet(after, a), on_sheet(after, b)) == pytest.approx(length)
    assert on_sheet(after, a) == pytest.approx(start, abs=1e-6), "the first point stays where it is"


@given(st.floats(-170, 170).filter(lambda t: abs(abs(t) - 90) > 1))
def test_levelling_makes_the_line_level(angle):
    plan = drawn()
    a = (250.0, 150.0)
    b = (250 + 100 * math.cos(math.radians(angle)), 150 + 100 * math.sin(math.radians(angle)))
    after = views.straighten(plan, "port", on_sheet(plan, a), on_sheet(plan, b))
    assert on_sheet(after, a)[1] == pytest.approx(on_sheet(after, b)[1], abs=1e-6)
    assert abs(after.views[0].drawing.rotation_deg) <= 90.001


def test_what_can_t_be_calibrated():
    with pytest.raises(PlanError, match="two points are the same"):
        views.calibrate(drawn(), "port", (1, 1), (1, 1), 94)
    with pytest.raises(PlanError, match="no drawing"):
        views.calibrate(Plan(), "port", (1, 1), (2, 1), 94)
    with pytest.raises(PlanError, match="above zero"):
        views.calibrate(drawn(), "port", (1, 1), (2, 1), 0)
    with pytest.raises(PlanError, match="no drawing"):
        views.straighten(Plan(), "port", (1, 1), (2, 1))
    plan, item_id = views.add_view(drawn(), "bow")
    assert plan.views[1].id == item_id == "bow" and plan.views[1].side == "bow"
    assert views.put_drawing(plan, "bow", "b.png", 800, 400).views[1].drawing.mm_per_unit == pytest.approx(0.25)


# -- sightlines ------------------------------------------------------------------------------------------

LOW, HIGH = np.array([0.0, 0.0, 0.0]), np.array([100.0, 50.0, 40.0])


def test_an_eye_close_up_sees_most_and_far_away_the_far_wall():
    gate_low, gate_high = np.array([45.0, 50.0, 15.0]), np.array([55.0, 50.0, 25.0])
    close = sightline.seen_share(np.array([50.0, 50.5, 20.0]), LOW, HIGH, sightline.Gate(1, 50.0, gate_low, gate_high))
    far = sightline.seen_share(np.array([50.0, 1e5, 20.0]), LOW, HIGH, sightline.Gate(1, 50.0, gate_low, gate_high))
    total = 2 * (100 * 50 + 50 * 40 + 100 * 40) - 100 * 40
    assert far == pytest.approx(10 * 10 / total, rel=0.01), "from far away: the opening's own size on the far wall"
    assert 0.6 < close <= 1.0
    assert (
        sightline.seen_share(np.array([50.0, 20.0, 20.0]), LOW, HIGH, sightline.Gate(1, 50.0, gate_low, gate_high)) == 0
    )


def test_sight_through_an_opening():
    gate_low, gate_high = np.array([40.0, 50.0, 10.0]), np.array([60.0, 50.0, 30.0])
    eye = np.array([50.0, 150.0, 20.0])
    points = np.array([[50.0, 25.0, 20.0], [5.0, 25.0, 20.0], [50.0, 120.0, 20.0], [56.0, 2.0, 26.0]])
    assert sightline.through_opening(eye, points, sightline.Gate(1, 50.0, gate_low, gate_high)).tolist() == [
        True,
        False,
        False,
        True,
    ]


def test_a_lip_shades_what_is_behind_it():
    lamp_at, aim = np.array([0.0, 0.0, 5.0]), np.array([1.0, 0.0, 0.0])
    floor = np.array([[20.0, 0.0, 0.0], [40.0, 0.0, 0.0], [120.0, 0.0, 0.0]])
    up = np.array([0.0, 0.0, 1.0])
    bare = sightline.throw(lamp_at, aim, 1.0, 1.0, floor, up)
    assert (bare > 0).all()
    lip = (np.array([30.0, -10.0, 0.0]), np.array([31.0, 10.0, 4.0]))
    shaded = sightline.throw(lamp_at, aim, 1.0, 1.0, floor, up, (lip,))
    assert shaded[0] == bare[0] and shaded[1] == 0 and shaded[2] == 0
    higher = sightline.throw(np.array([0.0, 0.0, 9.0]), aim, 1.0, 1.0, floor, up, (lip,))
    assert higher[2] > 0, "a higher lamp reaches over the lip"
    assert not sightline.blocked(np.zeros(3), np.array([[10.0, 0, 0]]), np.array([2.0, 5, 5]), np.array([3.0, 6, 6]))[0]


def test_rooms_are_lit_by_name_and_alike():
    plan = deck_plan()
    ids = [o.id for o in plan.openings]
    plan = edits.set_fields(plan, ids[:4], room="Corridor")
    plan = edits.set_fields(plan, ids[4:7], room="mess")
    plan = edits.set_fields(plan, ids[7:9], room="store")
    always = {**occupancy.names("corridor, ", 1.0), **occupancy.names("store", 0.0)}
    seen = set()
    for seed in range(12):
        lit = [o.lit for o in occupancy.fill(plan, ids, share=0.4, seed=seed, always=always).openings]
        assert lit[:4] == [1.0] * 4 and lit[7:9] == [0.0] * 2 and len(set(lit[4:7])) == 1
        seen.add(lit[4])
    assert len(seen) > 1
    assert occupancy.names(" , ", 1.0) == {}
