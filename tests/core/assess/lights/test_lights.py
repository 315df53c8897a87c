"""Lights as things: each kind placed, carried by all of its means, mirrored, moved, copied and taken out whole."""

from __future__ import annotations

import math
from functools import cache
from itertools import pairwise

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.lights.build import built, place, true_mm, usual_means
from gwiazda.core.assess.lights.choices import choices_of, described, outcome_words
from gwiazda.core.assess.lights.exchange import exchanged, exchanged_both
from gwiazda.core.assess.lights.kinds import arc_words, kinds_for, matching, usual
from gwiazda.core.assess.lights.looks import as_the_real_one, look_now, tried, with_look, worth_showing
from gwiazda.core.assess.lights.place import Spot, across, spot_at, spot_of
from gwiazda.core.assess.lights.rhythm import rhythm_now, with_rhythm
from gwiazda.core.assess.lights.states import state_of
from gwiazda.core.assess.lights.twins import with_twin
from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.edits import variants
from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.lookup import find, light_of, parts_of, whole_light
from gwiazda.core.plan.model import Box, Dot, Kit, Lamp, Opening, Outline, Plan, Section, View, Wanted, copy_unchecked
from gwiazda.core.plan.naming import name_of
from gwiazda.core.plan.outline.shapes import rectangle

CATALOGUE = built_in()
CELLS = 60


@cache
def hull(kit: str = "vehicle", scale: float = 48.0, lit: bool = True) -> Plan:
    """A box 200 × 60 × 40 mm across the middle, lit from inside, with a window to port."""
    section = Section(
        id="hull", name="Hull", box=Box(at=(0.0, -30.0, 0.0), size=(200.0, 60.0, 40.0)),
        outlines=(Outline(side="port", points=rectangle(-1.2, 201.2, -1.2, 41.2)), Outline(side="top", points=rectangle(-1.2, 201.2, -31.2, 31.2))),
    )  # fmt: skip
    lamp = Lamp(id="hull.lamp.01", part="chip-1206-warm-white", at=(100.0, 0.0, 39.0))
    window = Opening(id="hull.window.01", section="hull", at=(60.0, 30.0, 20.0), side="port")
    return Plan(
        kit=Kit(name="Box", kind=kit, scale=scale), views=tuple(View(id=f"view.{s}", name=s, side=s) for s in ("port", "starboard", "top", "bow", "stern", "bottom")),
        sections=(section,), lamps=(lamp,) if lit else (), openings=(window,),
    )  # type: ignore[arg-type]  # fmt: skip


def on(plan: Plan, kind_id: str, side: str = "port", at: tuple[float, float, float] = (150.0, 20.0, 25.0)) -> Spot:
    x, y, _ = to_sheet(side, at)  # type: ignore[arg-type]
    return spot_at(plan, CATALOGUE.light_kinds[kind_id], side, x, y)  # type: ignore[arg-type]


def placed(
    kind_id: str, plan: Plan | None = None, means: str = "", alone: bool = True, side: str = "port"
) -> tuple[Plan, str]:
    before = plan or hull()
    after, ids = place(CATALOGUE, before, kind_id, on(before, kind_id, side), means, alone)
    return validate_edit(before, after), ids[0]


def whole_or_gone(plan: Plan) -> None:
    """Of every light that is one thing the parts are there, and no part is of a light that isn't."""
    known = {x.id for x in plan.lights}
    assert all(p.light in known for g in (plan.lamps, plan.openings, plan.dots) for p in g if p.light)
    for x in plan.lights:
        if x.whole:
            assert parts_of(plan, x.id), f"{x.name} has no parts left"


# -- kinds -----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind_id", CATALOGUE.light_kinds)
def test_every_kind_is_placed_and_carried_by_each_of_its_means(kind_id, tmp_path):
    kind = CATALOGUE.light_kinds[kind_id]
    kit = kind.kits[0] if kind.kits else "ship"
    plan, light_id = placed(kind_id, hull(kit, 150.0))
    assert light_of(plan, light_id).kind == kind_id and parts_of(plan, light_id)
    place_before = spot_of(plan, light_id)
    name = light_of(plan, light_id).name
    plan = edits.set_light(plan, light_id, note="kept")
    for means in kind.means:
        other = validate_edit(plan, exchanged(CATALOGUE, plan, light_id, means))
        light = light_of(other, light_id)
        assert (light.means, light.name, light.note, light.look) == (means, name, "kept", kind.look)
        assert parts_of(other, light_id)
        now = spot_of(other, light_id)
        assert now.side == place_before.side
        if kind.placing == "point":
            assert math.dist(now.at, place_before.at) < 2.5
        state = state_of(other, assess(other, CATALOGUE, CELLS), light_id)
        assert state is not None and state.value >= 0.0
        assert len(other.lights) == 1
        plan = other
    keys = {x.key for x in steps_of(CATALOGUE, plan)}
    if kind.placing == "point" and kind.pair:
        plan, twin_id = with_twin(CATALOGUE, plan, light_id)
        validate_edit(Plan(), plan)
        twin = spot_of(plan, twin_id)
        assert (
            twin.at[1] == pytest.approx(-spot_of(plan, light_id).at[1])
            and light_of(plan, twin_id).means == light_of(plan, light_id).means
        )
    assert "hull:leak" in keys or not any(p.light for p in plan.lamps), (
        "what is lit is tested before its section is closed"
    )
    path = tmp_path / "a.gwiazda"
    storage.save(storage.PlanFile(plan), path)
    assert storage.load(path).plan == plan
    assert all(x.twin == "" for x in edits.delete(plan, [light_id]).lights)


def test_the_kinds_of_this_kit_come_first_and_are_found_by_what_people_type():
    ship = [k.id for k in kinds_for(CATALOGUE, "ship")]
    assert ship.index("masthead") < ship.index("headlamp") and ship[-1] == "other"
    assert usual(CATALOGUE.light_kinds["screen"], "ship")
    for typed, kit, wanted in (
        ("headl", "vehicle", "headlamp"), ("sidel", "ship", "sidelight"), ("port", "ship", "sidelight"), ("brake", "vehicle", "stop-lamp"),
        ("turn sig", "vehicle", "indicator"), ("strobe", "aircraft", "anti-collision"), ("engine", "spacecraft", "engine-core"),
        ("cabin", "ship", "cabin-row"), ("windows", "spacecraft", "window-row"), ("landing", "aircraft", "landing-light"),
    ):  # fmt: skip
        assert matching(CATALOGUE, kit, typed)[0].id == wanted, typed
    assert matching(CATALOGUE, "ship", "xylophone") == ()
    assert len(matching(CATALOGUE, "ship", "  ")) == len(CATALOGUE.light_kinds)


def test_real_figures_are_those_of_the_rules():
    """COLREG Annex I, 8: I = 3.43e6 · T · D² · 0.8^−D with T 2e-7 lx; D in nautical miles. The rest are the rules' own figures."""
    miles = lambda d: 3.43e6 * 2e-7 * d * d * 0.8**-d  # noqa: E731
    for kind, d in (("masthead", 6), ("sidelight", 3), ("stern-light", 3), ("anchor-light", 3), ("towing-light", 3)):
        assert CATALOGUE.light_kinds[kind].real_cd == pytest.approx(miles(d), rel=0.02)
    for kind, low, high in (
        ("tail-lamp", 4, 17),
        ("stop-lamp", 60, 260),
        ("indicator", 175, 1000),
        ("reversing-lamp", 80, 300),
    ):
        assert low <= CATALOGUE.light_kinds[kind].real_cd <= high
    arcs = {
        k: CATALOGUE.light_kinds[k].arc_deg
        for k in ("masthead", "sidelight", "stern-light", "position-light", "tail-position")
    }
    assert arcs == {
        "masthead": 225.0,
        "sidelight": 112.5,
        "stern-light": 135.0,
        "position-light": 110.0,
        "tail-position": 140.0,
    }
    assert arc_words(CATALOGUE.light_kinds["anchor-light"]) == "all round"


# -- placing ---------------------------------------------------------------------------------------------------


def test_a_pair_brings_its_twin_in_its_colours():
    plan, ids = place(CATALOGUE, hull("ship", 200.0), "sidelight", on(hull("ship", 200.0), "sidelight"), "chip")
    port, starboard = (light_of(plan, i) for i in ids)
    assert (port.name, starboard.name) == ("Port sidelight", "Starboard sidelight")
    assert (port.twin, starboard.twin) == (starboard.id, port.id)
    lamps = {p.light: p for p in plan.lamps}
    assert (
        CATALOGUE.lamps[lamps[port.id].part].colour == "red"
        and CATALOGUE.lamps[lamps[starboard.id].part].colour == "green"
    )
    assert lamps[port.id].at[1] == -lamps[starboard.id].at[1] and lamps[starboard.id].aim == (0.0, -1.0, 0.0)


def test_headlamps_from_the_side_sit_on_the_bow_and_look_ahead():
    plan = hull()
    spot = on(plan, "headlamp", "port", (190.0, 0.0, 20.0))
    assert spot.side == "bow" and spot.at[0] == pytest.approx(201.2) and 15.0 < spot.at[1] < 25.0
    other = across(plan, spot)
    assert other is not None and other.at[1] == -spot.at[1] and other.side == "bow"
    seen, _ = place(CATALOGUE, plan, "headlamp", spot)
    assert {p.aim for p in seen.lamps if p.light} == {(1.0, 0.0, 0.0)} and len(seen.lights) == 2
    assert [x.name for x in seen.lights] == ["Left headlamp", "Right headlamp"]


def test_a_place_beside_the_hull_snaps_to_its_outline_and_one_far_off_stays():
    plan = hull("ship", 200.0)
    near = on(plan, "signal-light", "port", (100.0, 0.0, 43.0))
    assert near.section == "hull" and near.at[2] == pytest.approx(41.2)
    far = on(plan, "signal-light", "port", (100.0, 0.0, 80.0))
    assert far.section == "" and far.at == (100.0, 0.0, 80.0)


def test_what_sits_in_the_middle_has_no_twin():
    plan = hull("ship", 200.0)
    plan, (light_id,) = place(
        CATALOGUE, plan, "anchor-light", on(plan, "anchor-light", "top", (150.0, 0.0, 40.0)), "chip"
    )
    with pytest.raises(PlanError, match="middle"):
        with_twin(CATALOGUE, plan, light_id)
    assert across(plan, Spot("top", (0.0, 0.0, 41.0), "hull")) is None


def test_means_that_need_a_lit_section_say_so():
    plan, light_id = placed("tail-lamp", hull(lit=False), "lens")
    with pytest.raises(PlanError, match="isn’t lit"):
        exchanged(CATALOGUE, plan, light_id, "spill")
    blocked = {c.means.id: c.blocked for c in choices_of(plan, assess(plan, CATALOGUE, CELLS), light_id)}
    assert blocked["spill"] == "Hull isn’t lit" and blocked["tip"] == ""
    with pytest.raises(PlanError, match="nothing called"):
        exchanged(CATALOGUE, plan, light_id, "magic")


def test_tiny_lights_get_a_fibre_and_large_ones_a_lamp():
    ship = hull("ship", 700.0)
    assert usual_means(CATALOGUE, ship, CATALOGUE.light_kinds["sidelight"], on(ship, "sidelight")).id == "tip"
    truck = hull("vehicle", 24.0)
    assert usual_means(CATALOGUE, truck, CATALOGUE.light_kinds["headlamp"], on(truck, "headlamp")).id == "lens"
    assert true_mm(CATALOGUE.light_kinds["headlamp"], 24.0) == pytest.approx(6.25)


# -- all or nothing --------------------------------------------------------------------------------------------


@st.composite
def shuffled(draw):
    return draw(st.lists(st.tuples(st.sampled_from(["move", "copy", "delete", "delete part", "twin", "means", "look", "rhythm", "apart", "variant", "section", "undo part"]), st.integers(0, 50), st.integers(0, 9)), min_size=3, max_size=14))  # fmt: skip


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(
    shuffled(),
    st.lists(
        st.sampled_from(["sidelight", "cabin-row", "anti-collision", "deck-flood", "hangar", "signal-light"]),
        min_size=1,
        max_size=4,
    ),
)
def test_after_any_edits_a_lights_parts_are_all_there_or_all_gone(steps, kinds):
    plan = hull("ship", 200.0)
    for kind in kinds:
        plan, _ = placed(kind, plan)
    kept: Plan | None = None
    for what, pick, number in steps:
        lights, before = plan.lights, plan
        if not lights:
            break
        light = lights[pick % len(lights)]
        parts = parts_of(plan, light.id)
        try:
            if what == "move":
                plan = edits.move(plan, [light.id], (float(number) - 4.0, 0.0, 1.0))
            elif what == "copy":
                plan, _ = edits.duplicate(plan, [light.id], (5.0, 0.0, 0.0))
            elif what == "delete":
                plan = edits.delete(plan, [light.id])
                assert not any(find(plan, i) for i in parts)
            elif what == "delete part" and parts:
                plan = edits.delete(plan, [parts[number % len(parts)]])
                if light.whole:
                    assert not any(find(plan, i) for i in parts) and all(x.id != light.id for x in plan.lights)
            elif what == "twin":
                plan, _ = with_twin(CATALOGUE, plan, light.id)
            elif what == "means":
                means = CATALOGUE.light_kinds[light.kind].means
                plan = exchanged_both(CATALOGUE, plan, light.id, means[number % len(means)])
            elif what == "look":
                plan = with_look(CATALOGUE, plan, light.id, "soft")
            elif what == "rhythm":
                plan = with_rhythm(CATALOGUE, plan, light.id, ("steady", "ship-flashing", "fire")[number % 3])
            elif what == "apart":
                plan = edits.take_apart(plan, light.id)
                assert all(find(plan, i) is not None for i in parts)
            elif what == "variant":
                plan, _ = variants.keep_variant(plan, "hull", f"v{number}")
            elif what == "section" and plan.variants:
                plan = variants.with_variant(plan, plan.variants[number % len(plan.variants)].id)
            elif what == "undo part":
                kept, plan = plan, kept or plan
        except PlanError as error:
            assert str(error).endswith(".")
            continue
        validate_edit(before, plan)
        whole_or_gone(plan)
    assert storage.plan_from_json(storage.plan_to_json(plan).encode(), "x") == plan
    assess(plan, CATALOGUE, CELLS)


def test_a_light_is_moved_copied_and_taken_out_as_one_thing():
    plan, light_id = placed("tail-lamp", means="lens")
    (part,) = parts_of(plan, light_id)
    moved = edits.move(plan, [light_id], (0.0, 0.0, 3.0))
    assert find(moved, part).at[2] == find(plan, part).at[2] + 3.0
    copied, new = edits.duplicate(plan, [part], (0.0, 0.0, 5.0))
    twin = whole_light(copied, new[0])
    assert twin is not None and twin.id != light_id and twin.name == f"{light_of(plan, light_id).name} copy"
    assert edits.delete(plan, [part]).lights == () and name_of(plan, part) == light_of(plan, light_id).name


def test_a_row_loses_a_window_and_stays():
    plan, light_id = placed("cabin-row", hull("ship", 200.0))
    row = parts_of(plan, light_id)
    assert len(row) > 5
    less = edits.delete(plan, [row[0]])
    assert len(parts_of(less, light_id)) == len(row) - 1


def test_what_flashes_has_a_channel_of_its_own_that_goes_with_it():
    plan, light_id = placed("anti-collision", hull("aircraft", 72.0))
    assert len(plan.channels) == len(plan.cues) == 1 and rhythm_now(CATALOGUE, plan, light_id) == "air-double"
    steady = with_rhythm(CATALOGUE, plan, light_id, "steady")
    assert steady.cues == () and rhythm_now(CATALOGUE, steady, light_id) == "steady"
    again = with_rhythm(CATALOGUE, steady, light_id, "air-strobe")
    assert rhythm_now(CATALOGUE, again, light_id) == "air-strobe" and len(again.channels) == 1
    gone = edits.delete(plan, [light_id])
    assert not gone.channels and not gone.cues and [p.id for p in gone.lamps] == ["hull.lamp.01"]


def test_another_means_keeps_the_lamp_its_place_in_the_circuit_its_rhythm_and_its_log():
    plan, light_id = placed("anti-collision", hull("aircraft", 72.0), "pushed")
    (lamp,) = parts_of(plan, light_id)
    plan = edits.wire_in_series(plan, [lamp, "hull.lamp.01"])
    plan, _ = edits.add_entry(plan, "note", "too blue", lamp=lamp)
    chip = exchanged(CATALOGUE, plan, light_id, "chip")
    assert parts_of(chip, light_id) == (lamp,) and chip.feeds == plan.feeds and chip.cues == plan.cues
    tip = exchanged(CATALOGUE, chip, light_id, "tip")
    assert all(isinstance(find(tip, i), Dot) for i in parts_of(tip, light_id))
    assert tip.log[0].light == light_id and tip.log[0].text == "too blue"
    assert {find(tip, i).channel for i in parts_of(tip, light_id)} == {plan.cues[0].channels[0]}
    back = exchanged(CATALOGUE, tip, light_id, "lens")
    assert not back.dots and [p.mount for p in back.lamps].count("fibre") == 0, (
        "the lamp that fed the tip alone goes with it"
    )


def test_fibre_tips_share_a_lamp_and_one_that_flashes_has_its_own():
    plan, ids = place(CATALOGUE, hull("ship", 700.0), "signal-light", on(hull("ship", 700.0), "signal-light"), "tip")
    both, more = place(CATALOGUE, plan, "signal-light", on(plan, "signal-light", "port", (120.0, 20.0, 25.0)), "tip")
    lamps = {find(both, i).lamp for light in (*ids, *more) for i in parts_of(both, light)}
    assert len(lamps) == 1
    blinking = with_rhythm(CATALOGUE, both, more[0], "ship-flashing")
    assert {d.channel for d in blinking.dots} == {"", blinking.channels[0].id}


# -- how bright ------------------------------------------------------------------------------------------------


def test_a_chip_behind_a_lens_gives_no_more_light_than_it_has():
    bare, light_id = placed("headlamp", means="chip")
    chip = find(bare, parts_of(bare, light_id)[0])
    for made in CATALOGUE.lenses:
        for wide in (1.0, 2.0, 4.0):
            from gwiazda.core.assess.lamp.modified_lamp import worked
            from gwiazda.core.plan.model import Lens

            lamp = copy_unchecked(chip, frosted_cap=False, lens=Lens(made=made, width_mm=wide, lip_mm=0.1))
            plain, behind = worked(CATALOGUE, copy_unchecked(lamp, lens=None)), worked(CATALOGUE, lamp)
            assert 0.0 < behind.flux_lm < plain.flux_lm
            # Integrated over the half space its beam never holds more than leaves it.
            beam = behind.flux_lm * behind.beam_share
            assert behind.axial_cd * 2.0 * math.pi / (behind.order + 1.0) <= behind.flux_lm * 1.0001
            assert beam <= behind.flux_lm


def test_a_flat_disc_before_a_chip_dims_it_by_what_its_faces_take():
    """By hand: a flat pane leaves the face as it is, .91 of its luminance; on the axis nothing else changes."""
    from gwiazda.core.light.lens import Front, through_front

    order, flux, axial = through_front(0.8, 1.0, 0.5, Front(3.0, math.inf, 0.5, 0.85, 0.91))
    assert axial == pytest.approx(0.5 * 2.0 / (2.0 * math.pi) * 0.91)
    assert flux == pytest.approx(0.5 * 0.85 * (1.0 - math.cos(math.atan(3.0)) ** 2))
    assert order > 0


def test_a_tip_fed_by_its_section_is_as_bright_as_the_walls_less_its_losses():
    """Luminance is kept along a fibre: E/π of the walls, times both cut ends (.9²), the length, the core's share."""
    plan, light_id = placed("panel-dots", hull("ship", 48.0), "section-tip")
    found = assess(plan, CATALOGUE)
    (tip,) = (found.tips[i] for i in parts_of(plan, light_id))
    dot = find(plan, tip.id)
    section = found.sections["hull"]
    inside = section.flux_lm / (section.area_m2 * (1.0 - section.reflectance))  # of a closed cavity
    thick = CATALOGUE.fibres[dot.fibre].diameter_mm
    kept = 0.9**2 * 10 ** (-0.25 * 0.045 / 10.0) * ((thick - 0.02) / thick) ** 2
    assert tip.cd_m2 == pytest.approx(inside / math.pi * kept, rel=0.15)
    dark = assess(copy_unchecked(plan, lamps=()), CATALOGUE)
    assert tip.id not in dark.tips


def test_what_is_pushed_through_lights_the_section_behind_until_putty_stops_it():
    """8 % of a clear body's light: as much as a chip on the inside of that wall would give of as many lumens; and within a factor of two
    what a closed cavity of that area gives, E = Φ/(A·(1 − ρ))."""
    dark = hull(lit=False)
    plan, (light_id,) = place(CATALOGUE, dark, "other", on(dark, "other", "starboard", (60.0, -20.0, 20.0)), "pushed")
    (lamp,) = parts_of(plan, light_id)
    plan = edits.set_fields(plan, [lamp], part="round-3-warm-white")
    found = assess(plan, CATALOGUE)
    pane, section = found.openings["hull.window.01"].luminance_cd_m2, found.sections["hull"]
    thrown = 0.08 * found.lamps[lamp].flux_lm
    inside = thrown / (section.area_m2 * (1.0 - section.reflectance))
    assert 0.5 < pane / (inside * 0.554 / math.pi) < 2.0 and section.lamps == 0
    chip = Lamp(id="chip", part="chip-1206-warm-white", at=(60.0, -29.9, 20.0), aim=(0.0, 1.0, 0.0))
    instead = assess(edits.add_lamp(dark, chip), CATALOGUE)
    each = instead.openings["hull.window.01"].luminance_cd_m2 / instead.lamps["chip"].flux_lm
    assert pane / thrown == pytest.approx(each, rel=0.05)
    frosted = assess(edits.set_fields(plan, [lamp], part="round-3-frosted-warm-white"), CATALOGUE)
    share = frosted.openings["hull.window.01"].luminance_cd_m2 / frosted.lamps[lamp].flux_lm
    assert share / (pane / found.lamps[lamp].flux_lm) == pytest.approx(0.25 / 0.08, rel=1e-6)
    stopped = assess(edits.set_fields(plan, [lamp], behind="putty"), CATALOGUE)
    assert stopped.openings["hull.window.01"].luminance_cd_m2 == 0.0
    late = assess(edits.set_fields(plan, [lamp], late=True), CATALOGUE)
    assert late.openings["hull.window.01"].luminance_cd_m2 == 0.0
    chip = assess(edits.set_fields(plan, [lamp], part="chip-0603-warm-white"), CATALOGUE)
    assert chip.openings["hull.window.01"].luminance_cd_m2 == 0.0


def test_looks_are_tried_with_their_resistors_and_go_to_the_twin_too():
    plan, ids = place(CATALOGUE, hull(), "tail-lamp", on(hull(), "tail-lamp", "stern"), "pushed")
    found = tried(plan, assess(plan, CATALOGUE, CELLS), ids[0])
    assert [t.look for t in found] == ["barely", "normal", "full"]
    values = [t.state.value for t in found]
    assert values[0] < values[1] <= values[2] and found[0].resistor_ohm > found[2].resistor_ohm
    assert values[0] == pytest.approx(1.0, rel=0.35), "barely is a millicandela"
    bright = with_look(CATALOGUE, plan, ids[0], "bright")
    assert [look_now(CATALOGUE, bright, i) for i in ids] == ["bright", "bright"]
    real = as_the_real_one(CATALOGUE, plan, ids[0])
    assert all(p.wanted.mcd == pytest.approx(10.0 / 48.0**2 * 1e3) for p in real.lamps if p.light)
    assert look_now(CATALOGUE, real, ids[0]) == ""


def test_means_stand_side_by_side_with_hole_joints_minutes_and_parts():
    plan, light_id = placed("tail-lamp", means="lens")
    found = {c.means.id: c for c in choices_of(plan, assess(plan, CATALOGUE, CELLS), light_id)}
    assert (
        next(iter(found)) == "lens"
        and found["lens"].now
        and set(found) == set(CATALOGUE.light_kinds["tail-lamp"].means)
    )
    lens, tip, spill = found["lens"], found["tip"], found["spill"]
    assert lens.joints == 3 and tip.joints == spill.joints == 0
    assert lens.hole == "hole 2.5 mm" and "joints can be reached until Hull is closed" in lens.later
    assert spill.later == "nothing of its own can fail" and spill.state.reached < lens.state.reached
    assert any("white glue" in p or "bead" in p for p in lens.parts) and lens.minutes > found["chip"].minutes
    assert "no joint" in outcome_words(tip)
    now = described(CATALOGUE, plan, assess(plan, CATALOGUE, CELLS), light_id)
    assert now.state.reached == pytest.approx(lens.state.reached)


def test_steps_follow_a_light_lens_putty_and_its_name():
    plan, light_id = placed("headlamp", means="lens")
    steps = {s.kind: s for s in steps_of(CATALOGUE, plan)}
    assert "putty behind" in steps["putty"].detail and light_of(plan, light_id).name in steps["putty"].detail
    assert steps["lenses"].many == 1 and steps["holes"].many == 1
    leak = steps["leak"]
    assert steps["putty"].key in leak.needs
    bare = {s.kind for s in steps_of(CATALOGUE, edits.delete(plan, [light_id]))}
    assert "lenses" not in bare and "putty" not in bare


def test_lights_go_with_a_sections_variant_and_come_back():
    plan, light_id = placed("sidelight", hull("ship", 200.0), "chip")
    kept, variant = variants.keep_variant(plan, "hull", "with a chip")
    gone = edits.delete(kept, [light_id])
    back = validate_edit(gone, variants.with_variant(gone, variant))
    assert light_of(back, light_id) == light_of(plan, light_id) and parts_of(back, light_id) == parts_of(plan, light_id)
    assert variants.stands(back, back.variants[0])


def test_a_light_is_gathered_from_what_is_there():
    plan, light_id = edits.gather_light(hull(), "cabin-row", "Cabin", ["hull.window.01", "hull.lamp.01"], whole=True)
    assert set(parts_of(plan, light_id)) == {"hull.window.01", "hull.lamp.01"}
    with pytest.raises(PlanError, match="nothing is picked"):
        edits.gather_light(hull(), "cabin-row", "Cabin", ["view.port"])
    with pytest.raises(PlanError, match="no place yet"):
        plan, wish = edits.add_light(hull(), "other", "A wish")
        exchanged(CATALOGUE, plan, wish, "chip")
    assert choices_of(plan, assess(plan, CATALOGUE, CELLS), wish) == ()


def test_building_where_it_cannot_be_says_why():
    plan, light_id = edits.add_light(hull(), "other", "Somewhere")
    with pytest.raises(PlanError, match="isn’t on a section"):
        built(CATALOGUE, plan, light_id, "opening", Spot("port", (0.0, 90.0, 0.0), ""))


def test_a_figure_that_is_asked_goes_from_means_to_means():
    plan, light_id = placed("headlamp", means="chip")
    (lamp,) = parts_of(plan, light_id)
    plan = edits.set_wanted(plan, [lamp], Wanted(mcd=123.0))
    for means in ("tip", "pushed", "lens", "tip"):
        plan = exchanged(CATALOGUE, plan, light_id, means)
        (part,) = (find(plan, i) for i in parts_of(plan, light_id))
        assert (part.wanted_mcd if isinstance(part, Dot) else part.wanted.mcd) == 123.0


def test_looks_that_come_out_alike_are_not_offered_twice():
    """Where the lamp can give no more, clear and full are one; the look there is now stays."""
    plan, ids = place(
        CATALOGUE, hull("vehicle", 48.0), "headlamp", Spot("bow", (201.2, 0.0, 20.0), "hull"), "chip", False
    )
    plan = edits.set_fields(
        plan, [i for i in parts_of(plan, ids[0]) if isinstance(find(plan, i), Lamp)], part="chip-0402-red"
    )
    found = tried(plan, assess(plan, CATALOGUE, CELLS), ids[0])
    got = [t.state.value for t in worth_showing(found, "barely")]
    assert len(got) >= 2 and all(b > 1.03 * a for a, b in pairwise(got))
    clear = found[1]
    twice = (found[0], clear, clear._replace(look="full"))
    assert [t.look for t in worth_showing(twice, "barely")] == ["barely", "full"]
    assert [t.look for t in worth_showing(twice, "normal")] == ["barely", "normal"]
