"""Skins, leaks, joints between sections, linings side by side: from the plan to what shows."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest

from decks import cabin, deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.choices import compare
from gwiazda.core.assess.night.scene import scene_of
from gwiazda.core.assess.optics import leaks, panes
from gwiazda.core.assess.optics.baffles import baffles_of
from gwiazda.core.assess.optics.cavities import cavity_of, port_light, reflectance_behind
from gwiazda.core.assess.optics.glazed import pane_of
from gwiazda.core.assess.optics.joints import covered_faces
from gwiazda.core.assess.optics.lighting import joints_in, lit_sections_of
from gwiazda.core.assess.optics.skin import outside_reflectance, skin_density, skin_of
from gwiazda.core.errors import PlanError
from gwiazda.core.exchange.report import as_dict
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.light.visibility import visible_luminance
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.parts.materials import Coat
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import skins, twins
from gwiazda.core.plan.lookup import opening_of, section_of
from gwiazda.core.plan.model import Box, Lamp, Obstacle, Opening, Plan, Section, TintCoat, Wanted, copy_unchecked
from gwiazda.core.plan.storage import plan_from_json, plan_to_json
from gwiazda.core.workshop.coats_json import coats_from_json, coats_to_json
from gwiazda.core.workshop.workshop import Workshop


def tight(plan: Plan, coats: int = 2) -> Plan:
    return skins.add_coats(plan, "deck1", "inside", "flat-black", coats)


def worst(plan: Plan, kind: str = "wall") -> float:
    return max((x.times for x in assess(plan, built_in()).leaks if x.kind == kind), default=0.0)


# -- layers -----------------------------------------------------------------------------------------------


def test_layers_run_from_inside_out_and_their_densities_add():
    plan = skins.add_coats(tight(deck_plan()), "deck1", "inside", "silver", 1)
    plan = skins.add_coats(plan, "deck1", "outside", "grey-primer", 2)
    layers = skin_of(built_in(), section_of(plan, "deck1"), "light-grey")
    assert [(x.where, x.id) for x in layers] == [
        ("lining", "flat-white"), ("inside", "silver"), ("inside", "flat-black"), ("wall", "light-grey"), ("outside", "grey-primer"),
    ]  # fmt: skip
    assert skin_density(built_in(), section_of(plan, "deck1"), "light-grey") == pytest.approx(
        0.9933 + 1.2 + 3.2 + 0.66 + 1.0 + math.log10((1 - 0.879 * 0.65) * (1 - 0.5 * 0.4)), abs=0.03
    ), "densities, less what goes to and fro between white and silver and between plastic and primer"
    assert outside_reflectance(built_in(), section_of(plan, "deck1"), "light-grey") == pytest.approx(0.4, abs=0.01)


def test_coats_are_added_taken_and_put_in_another_order():
    plan = tight(tight(deck_plan(), 1), 1)
    assert section_of(plan, "deck1").inside[0].coats == 2, "the same paint on top counts on"
    plan = skins.add_coats(plan, "deck1", "inside", "silver", 1)
    moved = skins.move_layer(plan, "deck1", "inside", 1, -1)
    assert [x.coat for x in section_of(moved, "deck1").inside] == ["silver", "flat-black"]
    assert skins.move_layer(plan, "deck1", "inside", 0, -1) is plan
    assert section_of(skins.set_coats(plan, "deck1", "inside", 1, 0), "deck1").inside[-1].coat == "flat-black"
    assert plan_from_json(plan_to_json(moved).encode(), "x") == moved


def test_every_coat_takes_its_density_off_the_leak():
    times = [worst(tight(deck_plan(), n) if n else deck_plan()) for n in (0, 1)]
    # Under white, black also throws less back into the section than bare plastic does.
    light = [assess(p, built_in()).sections["deck1"] for p in (deck_plan(), tight(deck_plan(), 1))]
    inside = light[1].reflectance, light[0].reflectance
    assert inside[0] < inside[1]
    # Without it light goes to and fro between the white and the light plastic, 1.78 times as much: black ends that too.
    assert times[0] / times[1] == pytest.approx(1.78 * 10**1.6, rel=0.25)
    assert worst(tight(deck_plan(), 2)) < 1 < times[1] < times[0]


def test_the_findings_offer_what_makes_it_tight():
    plan = deck_plan()
    finding = next(f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "leak-wall")
    assert finding.severity == "stop" and finding.topic == "leak" and "Deck 1" in finding.sentence
    for fix in finding.fixes:
        after = fix.edit(plan)
        left = finding.measure(assess(after, built_in()))
        assert left < finding.number
        if "to be safe" in fix.label:
            assert not [f for f in evaluate_rules(after, assess(after, built_in())) if f.rule == "leak-wall"], fix.label


def test_a_patch_hides_what_lies_behind_it():
    plan = tight(deck_plan(), 1)
    section = section_of(plan, "deck1")
    before = {x.face: x.times for x in assess(plan, built_in()).leaks}
    plan = skins.add_patch(plan, "deck1", "top", (0.0, 0.0), (section.box.size[0], section.box.size[1]), "foil-tape")
    after = {x.face: x.times for x in assess(plan, built_in()).leaks}
    assert "top" in before and "top" not in after and after["port"] == pytest.approx(before["port"])
    patch = section_of(plan, "deck1").patches[0]
    assert section_of(skins.drop_patch(plan, "deck1", patch.id), "deck1").patches == ()
    with pytest.raises(PlanError, match="no size"):
        skins.add_patch(plan, "deck1", "top", (5.0, 5.0), (5.0, 9.0), "putty")


def test_a_seam_glows_until_it_is_bridged_and_a_wider_one_more():
    plan = skins.add_seam(tight(deck_plan()), "deck1", "top", 0.02)
    narrow = worst(plan, "seam")
    wide = worst(skins.set_seam(plan, "deck1", "deck1.seam.01", gap_mm=0.1), "seam")
    assert wide / narrow == pytest.approx(5.0, rel=1e-3) and narrow > 1
    finding = next(f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "leak-seam")
    assert "seam round the roof" in finding.sentence
    bridged = finding.fixes[0].edit(plan)
    assert not [f for f in evaluate_rules(bridged, assess(bridged, built_in())) if f.rule == "leak-seam"]
    assert section_of(skins.drop_seam(plan, "deck1", "deck1.seam.01"), "deck1").seams == ()
    # It is seen from the sides, along the upper edge of the wall.
    tall = [p for light in scene_of(plan, assess(plan, built_in()), "port") for p in light.panes if p[3] - p[2] < 0.03]
    assert tall and all(-19.1 < p[2] < -18.9 for p in tall)


def test_a_ring_around_a_dark_lens_is_found_and_set_in_paste():
    plan = edits.set_fields(tight(deck_plan()), ["deck1.window.05"], lit=0.0, gap_mm=0.1)
    finding = next(f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "leak-ring")
    assert finding.subject == "deck1.window.05"
    done = finding.fixes[0].edit(plan)
    assert not [f for f in evaluate_rules(done, assess(done, built_in())) if f.rule == "leak-ring"]


def test_leaks_show_on_the_night_side_as_the_numbers_say():
    plan = tight(deck_plan(), 1)
    assessment = assess(plan, built_in())
    port = next(x for x in assessment.leaks if x.id == "deck1:port")
    windows = {(round(-o.at[0] - 1.5, 3), round(-o.at[0] + 1.5, 3)) for o in plan.openings}
    walls = [
        (p, v)
        for light in scene_of(plan, assessment, "port")
        for p, v in zip(light.panes, light.pane_cd_m2, strict=True)
        if (round(p[0], 3), round(p[1], 3)) not in windows
    ]
    assert max(v for _, v in walls) == pytest.approx(port.luminance_cd_m2, rel=1e-6)
    assert port.times == pytest.approx(port.luminance_cd_m2 / visible_luminance(assessment.hull_cd_m2), rel=1e-6)
    bare = sum(
        len(light.panes) for light in scene_of(tight(deck_plan(), 3), assess(tight(deck_plan(), 3), built_in()), "port")
    )
    assert bare == len(plan.openings)


def test_names_of_leaks_and_the_report():
    plan = deck_plan()
    assessment = assess(plan, built_in())
    assert leaks.place_name(plan, assessment.leaks[0]).startswith("Deck 1, ")
    data = json.loads(json.dumps(as_dict(plan, assessment, evaluate_rules(plan, assessment))))
    assert data["leaks"][0]["times"] >= data["leaks"][-1]["times"] > 0
    meter = next(m for m in assessment.meters if m.id == "leak")
    assert meter.state == "stop" and meter.value == assessment.leaks[0].times and "coat" in meter.note


def test_unknown_coats_and_diffusers_are_named():
    plan = skins.add_coats(deck_plan(), "deck1", "inside", "moonshine", 1)
    plan = edits.set_fields(plan, ["deck1"], soften=("gauze",))
    words = " ".join(f.sentence for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "unknown-part")
    assert "moonshine" in words and "gauze" in words and "flat-black" in words


# -- light next door --------------------------------------------------------------------------------------


def two(hole: bool = True, lamps: bool = True) -> Plan:
    a = Section(id="fore", name="Fore", box=Box(at=(0, -15, 0), size=(60, 30, 20)))
    b = Section(id="aft", name="Aft", box=Box(at=(-62.4, -15, 0), size=(60, 30, 20)))
    openings = [
        Opening(id="fore.w", section="fore", at=(30, 15, 10), side="port"), Opening(id="aft.w", section="aft", at=(-30, 15, 10), side="port"),
    ]  # fmt: skip
    if hole:
        openings.append(
            Opening(id="hole", section="fore", at=(0, 0, 10), side="stern", width_mm=8, height_mm=8, into="aft")
        )
    lamp = Lamp(id="fore.l", part="chip-1206-warm-white", at=(30, 0, 19))
    plan = Plan(sections=(a, b), openings=tuple(openings), lamps=(lamp,) if lamps else ())
    for key in ("fore", "aft"):
        plan = skins.add_coats(plan, key, "inside", "flat-black", 2)
    return plan


def test_a_hole_lights_the_section_next_door_for_free():
    assessment = assess(two(), built_in())
    own, free = assessment.openings["fore.w"].luminance_cd_m2, assessment.openings["aft.w"].luminance_cd_m2
    assert 0.005 * own < free < 0.5 * own
    assert assessment.sections["aft"].spill_cd_m2 == pytest.approx(free)
    assert assess(two(hole=False), built_in()).openings["aft.w"].luminance_cd_m2 == 0.0
    assert not [f for f in evaluate_rules(two(), assessment) if f.rule == "leak-next-door"], (
        "a window without lamps of its own is meant to be lit so"
    )
    assert assessment.sections["fore"].openings == 1, "a hole is no window"


def test_light_through_a_hole_is_not_made_of_nothing():
    """What both sections swallow and let out is what the lamp gives."""
    plan = two()
    assessment = assess(plan, built_in())
    rooms = lit_sections_of(built_in(), plan.sections, plan.openings, plan.lamps, plan.kit.material)
    joints = joints_in(built_in(), plan.sections, plan.openings, plan.kit.material)
    flux = assessment.lamps["fore.l"].flux_lm
    from gwiazda.core.assess.optics.cross_illumination import cross_illumination_of

    spill = cross_illumination_of(built_in(), rooms, joints, {"fore.l": np.array([flux])}, 1)
    swallowed = 0.0
    for key, room in rooms.items():
        box = room.cavity.box
        walls = spill[key].cells[:, 0] + (room.cells_per_lm[:, 0] * flux if room.lamps else 0.0)
        swallowed += float((box.area * (1.0 - box.reflectance)) @ walls) * 1e-6
    # The cells count the hole as swallowing what falls on it, on both sides; it comes out on the other.
    (into_fore,), (into_aft,) = (
        port_light(rooms[k].cavity.box, rooms[k].cavity.own)[0][len(rooms[k].openings) :, 0] for k in ("fore", "aft")
    )
    first = float(rooms["fore"].ports_per_lm[0, 0]) * flux
    fore = first / (1.0 - into_fore * into_aft)
    through = 64e-6 * (fore + into_aft * fore)
    assert swallowed == pytest.approx(flux + through, rel=0.02)


def test_bare_walls_let_light_through_into_a_neighbour_with_other_lamps():
    plan = two(hole=False)
    plan = edits.set_fields(plan, ["fore", "aft"], inside=(), lining="bare", wall_mm=0.6)
    plan = edits.add_lamp(plan, Lamp(id="aft.l", part="chip-0402-red", at=(-30, 0, 19), wanted=Wanted(cd_m2=0.2)))
    assessment = assess(plan, built_in())
    leak = next(x for x in assessment.leaks if x.kind == "next door")
    assert leak.subject == "aft.w"
    finding = next(f for f in evaluate_rules(plan, assessment) if f.rule == "leak-next-door")
    assert not [x for x in assess(finding.fixes[0].edit(plan), built_in()).leaks if x.kind == "next door"]
    key = {light.channel for light in scene_of(plan, assessment, "port") if len(light.panes)}
    assert key == {"fore", "aft"}


def test_parts_of_a_wall_that_another_section_stands_against_are_not_seen():
    plan = two()
    assert set(covered_faces(plan.sections)) == {("fore", 0), ("aft", 1)}
    bare = edits.set_fields(plan, ["fore", "aft"], inside=())
    assert "stern" not in {x.face for x in assess(bare, built_in()).leaks if x.section == "fore"}


def test_a_hole_into_a_section_that_is_gone_goes_with_it():
    plan = edits.delete(two(), ["aft"])
    assert [o.id for o in plan.openings] == ["fore.w"] and assess(plan, built_in()).openings[
        "fore.w"
    ].luminance_cd_m2 > 0
    with pytest.raises(PlanError):
        edits.set_fields(two(), ["fore.w"], tints=({"colour": "mauve"},))


# -- cavities ---------------------------------------------------------------------------------------------


def test_a_cavity_is_kept_while_nothing_that_light_depends_on_changes():
    plan = deck_plan()
    section, openings = plan.sections[0], plan.openings
    of = lambda s, o: cavity_of(built_in(), s, o, (), "light-grey").box  # noqa: E731
    first = of(section, openings)
    named = edits.set_fields(plan, ["deck1"], name="Another", light="")
    tinted = edits.set_fields(plan, ["deck1.window.03"], tints=(TintCoat(colour="red"),))
    assert of(named.sections[0], named.openings) is first
    assert of(tinted.sections[0], tinted.openings) is first
    black = edits.set_fields(plan, ["deck1"], lining="flat-black")
    assert of(black.sections[0], black.openings) is not first
    assert of(section, openings) is first, "what was before an edit is kept for its undo"
    twin, _ = edits.duplicate(plan, ["deck1"], (0.0, 0.0, 60.0))
    mine = tuple(o for o in twin.openings if o.section == twin.sections[1].id)
    assert of(twin.sections[1], mine) is first, "sections that are alike are solved once"


@pytest.mark.parametrize(("aside", "share"), [(0.0, 1.0), (3.0, 0.5), (6.0, 0.0), (-4.5, 0.25)])
def test_what_is_seen_through_a_clear_pane_is_the_wall_and_the_pane_across_by_how_much_of_the_view_they_fill(
    aside, share
):
    """Two clear panes of 6 mm face each other across a white box: a cell that mixes them with the wall beside them is no measure."""
    plan = cabin()
    across = Opening(id="x", section="s", side="starboard", at=(30.0 + aside, -20.0, 10.0), width_mm=6.0, height_mm=6.0)
    plan = copy_unchecked(
        plan,
        openings=(*plan.openings, across),
        lamps=(Lamp(id="p", part="chip-1206-warm-white", at=(10.0, 0.0, 18.0)),),
    )
    seen = {}
    for cells in (60, 130, 420):
        cavity = cavity_of(built_in(), plan.sections[0], plan.openings, (), "light-grey", (), cells)
        wall, glass = cavity.frame.lining[2], cavity.box.windows.back[1]
        assert wall > 0.8 and glass < 0.2
        assert reflectance_behind(cavity)[0] == pytest.approx(share * glass + (1.0 - share) * wall, rel=1e-9)
        seen[cells] = assess(plan, built_in(), cells).openings["w"].luminance_cd_m2
    assert seen[130] == pytest.approx(seen[420], rel=0.1)


def test_a_kept_bulkhead_shades_and_a_cut_one_does_not():
    plan = deck_plan(lamps=1)
    wall = Obstacle(id="deck1.bulkhead.01", box=Box(at=(80, -22, 0), size=(1, 44, 19)))
    light = {}
    for action in ("cut", "keep"):
        walled = edits.set_fields(plan, ["deck1"], obstacles=(copy_unchecked(wall, action=action),))
        light[action] = assess(walled, built_in()).openings
        assert len(baffles_of(walled.sections[0], 0.88)) == (action == "keep")
    assert light["keep"]["deck1.window.24"].luminance_cd_m2 < 0.05 * light["cut"]["deck1.window.24"].luminance_cd_m2
    assert light["keep"]["deck1.window.01"].luminance_cd_m2 > 0


def test_many_obstacles_are_reckoned_with_the_largest_first():
    ribs = tuple(
        Obstacle(id=f"deck1.rib.{i:02d}", kind="rib", box=Box(at=(8.0 * i, -22, 0), size=(3.0, 44, 4)))
        for i in range(20)
    )
    plan = edits.set_fields(deck_plan(lamps=2), ["deck1"], obstacles=ribs)
    sheets = baffles_of(plan.sections[0], 0.88)
    assert len(sheets) == 12 and all(s.axis == 0 for s in sheets)
    assessment = assess(plan, built_in(), cells=150)
    assert all(np.isfinite(o.luminance_cd_m2) and o.luminance_cd_m2 > 0 for o in assessment.openings.values())


def test_windows_off_their_wall_and_larger_than_it_still_give_a_result():
    plan = edits.set_fields(deck_plan(), ["deck1.window.01"], width_mm=400.0, height_mm=60.0)
    plan = edits.set_fields(plan, ["deck1.window.02"], at=(500.0, 22.0, 9.0))
    assessment = assess(plan, built_in())
    assert all(np.isfinite(o.luminance_cd_m2) and o.luminance_cd_m2 >= 0 for o in assessment.openings.values())
    assert {f.subject for f in evaluate_rules(plan, assessment) if f.rule == "off-its-face"} == {
        "deck1.window.01",
        "deck1.window.02",
    }


def test_black_everywhere_is_dark_and_no_trouble():
    plan = edits.set_fields(tight(deck_plan()), ["deck1"], lining="flat-black", glazing="open")
    assessment = assess(plan, built_in())
    assert assessment.sections["deck1"].mean_cd_m2 >= 0 and np.isfinite(assessment.sections["deck1"].hot_spot)
    box = cavity_of(built_in(), plan.sections[0], (), (), "light-grey").box
    assert box.reflectance.max() == pytest.approx(0.04, abs=1e-3)


def test_a_strip_lights_more_evenly_than_a_chip_of_its_light():
    def evenness(part: str, units: int = 1) -> float:
        plan = deck_plan(lamps=0)
        plan = edits.add_lamp(
            plan, Lamp(id="deck1.l", part=part, at=(82, 0, 17), units=units, wanted=Wanted(cd_m2=20.0))
        )
        return assess(plan, built_in()).sections["deck1"].evenness

    assert evenness("strip-12v-60-warm-white", 3) > evenness("chip-1206-warm-white") + 0.1


# -- panes, colours, comparisons --------------------------------------------------------------------------


def test_the_picture_of_a_pane_agrees_with_what_is_said_of_it():
    plan = deck_plan()
    assessment = assess(plan, built_in())
    picture = panes.picture_of(plan, assessment, "deck1.window.12")
    assert picture.cd_m2.shape == (panes.POINTS, panes.POINTS)
    assert float(picture.cd_m2.mean()) == pytest.approx(
        assessment.openings["deck1.window.12"].luminance_cd_m2, rel=0.02
    )
    dark = edits.set_fields(plan, ["deck1.window.12"], lit=0.0)
    assert panes.picture_of(dark, assess(dark, built_in()), "deck1.window.12") is None
    assert panes.picture_of(plan, assessment, "nowhere") is None


def test_a_lamp_in_plain_sight_is_a_hot_spot_and_offers_hide_it():
    plan = edits.set_fields(deck_plan(lamps=1), ["deck1"], glazing="clear")
    at = opening_of(plan, "deck1.window.06").at
    plan = edits.set_fields(plan, ["deck1.lamp.01"], at=(at[0], 0.0, at[2]), aim=(0.0, 1.0, 0.0))
    assessment = assess(plan, built_in())
    assert assessment.openings["deck1.window.06"].sight == "deck1.lamp.01"
    finding = next(f for f in evaluate_rules(plan, assessment) if f.rule == "hot-spot")
    assert finding.subject == "deck1.window.06" and "plain sight" in finding.sentence
    after = [finding.measure(assess(fix.edit(plan), built_in())) for fix in finding.fixes]
    assert min(after) < 2.5 and min(after) < finding.number
    discs = [light for light in scene_of(plan, assessment, "port") if len(light.discs)]
    assert (
        discs and max(float(light.disc_cd_m2.max()) for light in discs) > 10 * assessment.sections["deck1"].mean_cd_m2
    )


def test_tints_take_light_and_colour_the_night():
    plan = edits.set_fields(deck_plan(), ["deck1.window.05"], tints=(TintCoat(colour="red", coats=2),))
    plain, red = assess(deck_plan(), built_in()).openings, assess(plan, built_in()).openings
    kept = red["deck1.window.05"].luminance_cd_m2 / plain["deck1.window.05"].luminance_cd_m2
    seen = panes.swatches_of(plan, assess(plan, built_in()), opening_of(plan, "deck1.window.05"))
    assert kept == pytest.approx(seen.kept, rel=0.02) and kept < 0.5
    assert seen.dark[0][0] > 2 * seen.dark[0][2] and seen.richness > 0.9
    assert seen.room[1] > seen.dark[1]
    # In the room a plain pane adds the room's illuminance over π, times what it throws back.
    bare = assess(deck_plan(), built_in())
    plain_seen = panes.swatches_of(deck_plan(), bare, opening_of(deck_plan(), "deck1.window.05"))
    room, number = panes.room_behind(deck_plan(), bare, "deck1.window.05")
    added = plain_seen.room[1] - plain_seen.dark[1]
    assert added == pytest.approx(plan.room.lux / math.pi * room.cavity.panes[number].reflectance, rel=1e-6)
    assert 0.0 < seen.room[1] - seen.dark[1] < added
    colours = {light.rgb for light in scene_of(plan, assess(plan, built_in()), "port")}
    assert len(colours) == 2


def test_linings_side_by_side_and_the_fewest_coats():
    plan = deck_plan()
    assessment = assess(plan, built_in())
    rows = {r.lining: r for r in compare.compare_linings(plan, assessment, "deck1")}
    assert rows["flat-white"].mean_cd_m2 == pytest.approx(assessment.sections["deck1"].mean_cd_m2, rel=1e-3)
    assert rows["flat-white"].mean_cd_m2 > rows["silver"].mean_cd_m2 > rows["flat-black"].mean_cd_m2
    assert rows["silver"].leak_times < rows["flat-white"].leak_times
    best = compare.fewest_coats(plan, assessment, "deck1")
    for row in best:
        assert worst(compare.with_coats(plan, "deck1", row.coat, row.coats)) < 1.0
        if row.coats:
            assert worst(compare.with_coats(plan, "deck1", row.coat, row.coats - 1)) >= 1.0
    assert best[0].coats <= best[-1].coats


def test_glazing_with_a_diffuser_behind_it():
    plan = edits.set_fields(deck_plan(), ["deck1"], glazing="clear", soften=("vellum",))
    pane = pane_of(built_in(), plan.openings[0], plan.sections[0], 0.88, "light-grey")
    assert pane.scattered == pytest.approx(0.95) and pane.transmittance == pytest.approx(0.85 * 0.55 / (1 - 0.15 * 0.4))
    own = copy_unchecked(plan.openings[0], soften=())
    assert pane_of(built_in(), own, plan.sections[0], 0.88, "light-grey").scattered == 0.0
    assert (
        pane_of(built_in(), copy_unchecked(own, glazing="mirror"), plan.sections[0], 0.88, "light-grey").transmittance
        == 0.0
    )


def test_patches_and_seams_are_mirrored_with_their_section():
    plan = skins.add_patch(deck_plan(), "deck1", "bow", (1.0, 2.0), (5.0, 6.0), "putty")
    plan = skins.add_seam(plan, "deck1", "bow")
    turned = twins.turn_round(plan, ["deck1"], 0)
    assert section_of(turned, "deck1").patches[0].face == section_of(turned, "deck1").seams[0].face == "stern"
    assert section_of(turned, "deck1").patches[0].low == (1.0, 2.0)
    back = section_of(twins.turn_round(turned, ["deck1"], 0), "deck1")
    assert (back.patches, back.seams) == (section_of(plan, "deck1").patches, section_of(plan, "deck1").seams)
    across = twins.mirrored(section_of(plan, "deck1"), 1, 0.0)
    assert across.patches[0].low[0] == pytest.approx(44 - 5)


# -- own coats --------------------------------------------------------------------------------------------


def test_own_coats_go_out_and_come_in():
    own = Coat("my-lid", "blue lid", "paint", 1.42, 0.05, 12.0, "measured", 0.06)
    assert coats_from_json(coats_to_json([own])) == {"my-lid": own}
    plan = skins.add_coats(deck_plan(), "deck1", "inside", "my-lid", 2)
    catalogue = Workshop().with_coat(own).catalogue
    assert skin_of(catalogue, section_of(plan, "deck1"), "light-grey")[1].density == pytest.approx(2.84)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("nonsense", "can't be read"), ('{"coats": 3}', "can't be read"), ('{"coats": [{"id": "my-a"}]}', "other fields"),
        ('{"coats": [{"id": "my-a", "name": "a", "kind": "paint", "density": 99, "reflectance": 0.1}]}', "out of range"),
        ('{"coats": [{"id": "my-a", "name": "a", "kind": "paint", "density": 1, "reflectance": 1.2}]}', "out of range"),
        ('{"coats": [{"id": "flat-black", "name": "a", "kind": "paint", "density": 1, "reflectance": 0.1}]}', "begins with my-"),
    ],
)  # fmt: skip
def test_bad_own_coats_are_refused_with_their_row(text, words):
    with pytest.raises(PlanError, match=words):
        coats_from_json(text)


def test_one_face_lined_otherwise_changes_its_light_and_its_leak():
    plan = tight(deck_plan(), 1)
    black = skins.line_face(plan, "deck1", "bottom", "flat-black")
    assert (
        assess(black, built_in()).sections["deck1"].reflectance < assess(plan, built_in()).sections["deck1"].reflectance
    )
    needed = {
        k: assess(p, built_in()).branches["deck1.lamp.01"].wanted_a for k, p in (("white", plan), ("black", black))
    }
    assert needed["black"] > 1.2 * needed["white"], "a floor that swallows light costs current"
    silver = skins.line_face(plan, "deck1", "top", "silver")
    times = {x.face: x.times for x in assess(silver, built_in()).leaks}
    assert times["top"] < 0.1 * times["port"]
    assert skins.line_face(silver, "deck1", "top", "") == plan
    assert plan_from_json(plan_to_json(silver).encode(), "x") == silver
    assert (
        section_of(twins.turn_round(skins.line_face(plan, "deck1", "bow", "foil"), ["deck1"], 0), "deck1")
        .face_linings[0]
        .face
        == "stern"
    )
    odd = skins.line_face(plan, "deck1", "bow", "velvet")
    assert any("velvet" in f.sentence for f in evaluate_rules(odd, assess(odd, built_in())))


def test_a_torch_is_so_many_times_the_lamps_and_shows_what_they_dont():
    """By assessing the plan with as much light as a torch has: the same leaks show."""
    from gwiazda.core.assess.sight.torch import TORCH_LM, torch_test, torch_words

    plan = edits.set_room(tight(deck_plan(windows=6), 2), lux=2.0)
    assessment = assess(plan, built_in())
    torch = torch_test(assessment, "deck1")
    assert torch is not None and torch.times == pytest.approx(TORCH_LM / assessment.sections["deck1"].flux_lm)
    mine = [x for x in assessment.leaks if x.section == "deck1"]
    assert torch.with_lamps == sum(x.times >= 1 for x in mine)
    assert torch.only_torch == sum(x.times < 1 <= x.times * torch.times for x in mine)
    words = torch_words(torch, "Deck 1")
    assert "Torch test" in words and "Deck 1" in words and words.endswith(".")
    assert torch_test(assessment, "nowhere") is None
    dark = edits.delete(plan, [p.id for p in plan.lamps])
    assert torch_test(assess(dark, built_in()), "deck1") is None
