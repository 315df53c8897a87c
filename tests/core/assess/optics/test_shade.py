"""What stands in the light: strips, chips on panes, boxes inside; lamps outside behind a lip; and how sure it all is."""

from __future__ import annotations

import math

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.sight.throw import higher, landing
from gwiazda.core.assess.uncertainty import band
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.parts.spreads import BAG, BETWEEN, GLAZING
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Box, Lamp, Obstacle, Opening, Plan, Section, View, copy_unchecked

STRIP = "strip-12v-60-warm-white"


def state(plan):
    return assess(plan, built_in())


def row_of(plan):
    assessment = state(plan)
    return np.array([assessment.openings[o.id].luminance_cd_m2 for o in plan.openings])


def strip_deck(y: float, aim=(0.0, 1.0, 0.0), z: float = 10.0, units: int = 3) -> Plan:
    """A row of windows in the port wall (y = 22) and a strip along the deck at the windows' height, looking at them."""
    plan = deck_plan(windows=16, lamps=0, supply="adapter-12v-1a")
    strip = Lamp(id="s", part=STRIP, at=(82.0, y, z), aim=aim, units=units, resistor_ohm=470.0)
    return edits.add_lamp(plan, strip)


def test_a_strip_on_the_windows_wall_covers_them():
    """Its opaque carrier lies on the panes: turned to the shell across, the room lights the row instead."""
    on_it, across = row_of(strip_deck(21.5, aim=(0.0, -1.0, 0.0))), row_of(strip_deck(-21.0))
    covered = slice(3, 13)
    assert on_it[covered].max() < 0.05 * across[covered].min()


def test_a_strip_turned_to_the_shell_or_set_off_is_offered_and_evens_the_row():
    """Before the windows and looking at them it makes a bright middle; by way of the shell the row evens out."""
    plan = strip_deck(18.0)
    finding = next(f for f in evaluate_rules(plan, state(plan)) if f.rule == "uneven")
    offers = {fix.label: fix for fix in finding.fixes}
    before = state(plan).sections["deck1"].evenness
    for words, least in (
        ("Turn the strip to face the shell across", 0.9),
        ("Set the strip off the wall", before + 0.1),
    ):
        after = offers[words].applied(plan)
        assert state(after).sections["deck1"].evenness > least
        assert not any(f.rule == "uneven" for f in evaluate_rules(after, state(after)))


def test_a_chip_in_front_of_a_pane_takes_light_from_that_pane_only():
    plan = deck_plan(windows=8, lamps=4)
    target = plan.openings[3]
    x, _, z = target.at
    # A dark chip: its resistor leaves it next to nothing, only its body is there.
    chip = Lamp(id="c", part="round-5-red", at=(x, 18.0, z), aim=(0.0, -1.0, 0.0), resistor_ohm=1e8)
    bare, with_it = row_of(plan), row_of(edits.add_lamp(plan, chip))
    share = with_it / bare
    assert share[3] < 0.8 and np.all(share[[0, 1, 6, 7]] > 0.93)
    assert np.all(share < 1.001), "nothing gains by a dark body"


def test_a_box_inside_shades_as_a_baffle_does():
    plan = deck_plan(windows=12, lamps=0)
    plan = edits.add_lamp(plan, Lamp(id="l", part="chip-1206-warm-white", at=(10.0, 0.0, 10.0), aim=(1.0, 0.0, 0.0)))
    box = Obstacle(id="deck1.bulkhead.09", kind="bulkhead", box=Box(at=(60.0, -22.0, 0.0), size=(4.0, 44.0, 17.0)))
    before, after = row_of(plan), row_of(edits.set_fields(plan, ["deck1"], obstacles=(box,)))
    far = np.array([o.at[0] for o in plan.openings]) > 80
    assert after[far].mean() < 0.7 * before[far].mean() and after[~far].mean() > 0.9 * before[~far].mean()


# -- lamps outside --------------------------------------------------------------------------------------------


def hull_with_lip(lip: bool) -> Plan:
    """A long hull, a flood on its deck near the stern, and a coaming between the two that may hide it."""
    hull = edits.outline_from_box(
        Section(id="hull", name="Hull", box=Box(at=(0, -10, 0), size=(200, 20, 20)), wall_mm=1.0)
    )
    house = edits.outline_from_box(Section(id="house", name="House", box=Box(at=(120, -8, 22), size=(40, 16, 30)), wall_mm=1.0))  # fmt: skip
    sections = [hull, house]
    if lip:
        sections.append(
            edits.outline_from_box(
                Section(id="lip", name="Lip", box=Box(at=(60, -10, 22), size=(4, 20, 12)), wall_mm=1.0)
            )
        )
    flood = Lamp(id="flood", part="round-5-warm-white", at=(30.0, 0.0, 26.0), aim=(1.0, 0.0, 0.05), mount="outside")
    return Plan(views=(View(id="port", name="Port", side="port"),), sections=tuple(sections), lamps=(flood,))


def lit_on_house(plan: Plan) -> float:
    found = landing(built_in(), plan, plan.lamps[0], "port")
    return max((s.lux for s in found.strips if 118 < s.a[0] < 122 and s.a[2] > 24), default=0.0)


def test_a_flood_outside_lands_on_the_outlines_of_other_sections():
    """Inverse square and cosine by hand, at the middle of the house's front."""
    plan = hull_with_lip(False)
    found = landing(built_in(), plan, plan.lamps[0], "port")
    assert found.peak_lx > 0 and 0 < found.lit_share < 1 and lit_on_house(plan) > 0
    from gwiazda.core.assess.lamp.modified_lamp import worked

    light, aim = worked(built_in(), plan.lamps[0]), np.array((1.0, 0.0, 0.05))
    strip = min((s for s in found.strips if abs(s.a[0] - 119) < 0.5), key=lambda s: abs((s.a[2] + s.b[2]) / 2 - 30))
    way = (np.array(strip.a) + np.array(strip.b)) / 2 - np.array(plan.lamps[0].at)
    far = np.linalg.norm(way)
    off = float(way @ aim / far / np.linalg.norm(aim))
    expected = light.axial_cd * off**light.order * (way[0] / far) / (far / 1000) ** 2
    assert strip.lux == pytest.approx(expected, rel=0.02)


def test_a_flood_hidden_behind_a_lip_washes_nothing_until_it_is_raised():
    open_, hidden = hull_with_lip(False), hull_with_lip(True)
    low = landing(built_in(), hidden, hidden.lamps[0], "port")
    near_deck = [s for s in low.strips if 118 < s.a[0] < 122 and s.a[2] < 40]
    assert lit_on_house(open_) > 0 and all(s.lux == 0 for s in near_deck)
    up = higher(hidden, hidden.lamps[0], "port", (119.0, 30.0))
    assert up is not None and up > 5
    raised = edits.move(hidden, ["flood"], (0.0, 0.0, up + 1.0))
    found = landing(built_in(), raised, raised.lamps[0], "port")
    assert any(118 < s.a[0] < 122 and s.a[2] < 32 and s.lux > 0 for s in found.strips)
    assert higher(open_, open_.lamps[0], "port", (119.0, 30.0)) == 0.0


def test_every_view_has_its_own_landing():
    plan = hull_with_lip(False)
    for side in ("port", "starboard", "top"):
        found = landing(
            built_in(), copy_unchecked(plan, views=(View(id="v", name="V", side=side),)), plan.lamps[0], side
        )
        assert all(math.isfinite(s.lux) and s.lux >= 0 for s in found.strips)
    one, other = (landing(built_in(), plan, plan.lamps[0], s) for s in ("port", "starboard"))
    assert one.peak_lx == pytest.approx(other.peak_lx, rel=1e-9), "the same plane from both sides"


# -- how sure -------------------------------------------------------------------------------------------------


def test_a_band_is_that_of_a_lognormal():
    rng = np.random.default_rng(5)
    drawn = 30.0 * np.exp(0.25 * rng.standard_normal(200_000))
    low, high = band(30.0, 0.25)
    assert np.percentile(drawn, [5, 95]) == pytest.approx([low, high], rel=0.01)


def test_the_spread_of_a_row_by_drawing_lots():
    """First order against 20,000 draws of what goes into it: one bag, five lamps of it, the glazing, the lining."""
    plan = deck_plan()
    assessment = state(plan)
    section, states = assessment.sections["deck1"], [assessment.lamps[p.id] for p in plan.lamps]
    sigma = section.sigma if hasattr(section, "sigma") else math.log(section.band[1] / section.band[0]) / (2 * 1.645)
    rng = np.random.default_rng(1)
    n = 20_000
    share = np.array([s.flux_lm for s in states]) / sum(s.flux_lm for s in states)
    light = np.exp(BAG * rng.standard_normal(n)) * (np.exp(BETWEEN * rng.standard_normal((n, len(states)))) @ share)
    drawn = np.log(light * np.exp(GLAZING * rng.standard_normal(n))).std()
    assert sigma > drawn * 0.98, "lining and forward voltage come on top"
    assert sigma < math.hypot(drawn, 0.5) + 0.05


@pytest.mark.parametrize(
    "size", [(0.02, 60, 60), (900, 60, 0.02), (900, 0.02, 900), (60, 0.5, 60), (2000, 5, 5), (5e4, 5e4, 0.01)], ids=str
)
def test_flat_and_long_boxes_come_to_an_end_with_finite_light(size):
    plan = deck_plan(windows=6, lamps=3)
    section = plan.sections[0]
    box = section.box

    def inside(at):
        return tuple(
            box.at[k] + min(max(at[k] - box.at[k], 0.0), box.size[k]) / box.size[k] * size[k] for k in range(3)
        )

    plan = copy_unchecked(
        plan, sections=(copy_unchecked(section, box=copy_unchecked(box, size=tuple(map(float, size))), outlines=()),),
        lamps=tuple(copy_unchecked(p, at=inside(p.at)) for p in plan.lamps), openings=tuple(copy_unchecked(o, at=inside(o.at)) for o in plan.openings),
    )  # fmt: skip
    assessment = state(plan)
    evaluate_rules(plan, assessment)
    assert all(math.isfinite(o.luminance_cd_m2) and o.luminance_cd_m2 >= 0 for o in assessment.openings.values())


def test_an_opening_in_no_wall_is_dark_and_no_trouble():
    plan = deck_plan(windows=2, lamps=1)
    stray = Opening(id="far", section="deck1", side="port", at=(900.0, 22.0, 10.0), width_mm=3.0, height_mm=3.0)
    assessment = state(edits.add_openings(plan, [stray]))
    assert math.isfinite(assessment.openings["far"].luminance_cd_m2)
    assert all(assessment.openings[o.id].luminance_cd_m2 > 0 for o in plan.openings), "the others are lit as before"
