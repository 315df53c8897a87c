"""What points down: belly windows, floods under a hull, leaks of a floor, as seen from below."""

from __future__ import annotations

import pytest

from decks import cabin, deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.night.around import eye_for, item_at, looked_at
from gwiazda.core.assess.night.scene import scene_of
from gwiazda.core.assess.night.solids import model_of
from gwiazda.core.assess.optics.leaks import place_name
from gwiazda.core.assess.view_index import hit, opening_shapes
from gwiazda.core.drawing.sheets import PAPERS
from gwiazda.core.drawing.sheets.kinds import window_masks
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.optics.sight_rules import looks_through
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import twins, views
from gwiazda.core.plan.edits.patterns import copy_to_other_side
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Lamp, Opening, copy_unchecked


@pytest.fixture(scope="module")
def belly():
    """A deck with five windows in its floor and three in its roof, with a view from below."""
    plan, _ = views.add_view(deck_plan(), "bottom")
    deck = section_of(plan, "deck1")
    shape = Opening(id="t", section="deck1", width_mm=4.0, height_mm=4.0, at=(0, 0, 0))
    plan, floor = edits.add_row(plan, deck, "bottom", (30, 0), (130, 0), 5, shape)
    plan, roof = edits.add_row(plan, deck, "top", (40, 8), (120, 8), 3, shape)
    return plan, floor, roof, assess(plan, built_in())


def test_belly_windows_face_the_one_who_looks_from_below(belly):
    plan, floor, roof, assessment = belly
    below, above = (opening_shapes(plan.openings, plan.sections, side) for side in ("bottom", "top"))
    assert [i for i, f in zip(below.ids, below.facing, strict=True) if f] == floor and not set(roof) & set(below.ids)
    assert [i for i, f in zip(above.ids, above.facing, strict=True) if f] == roof and not set(floor) & set(above.ids)
    assert all(next(o for o in plan.openings if o.id == i).at[2] == 0.0 for i in floor), "on the floor, not the roof"
    assert all(assessment.openings[i].luminance_cd_m2 > 1.0 for i in floor)
    assert hit(built_in(), plan, "bottom", -55.0, 0.0, 1.0) == floor[1]


def test_they_shine_in_the_night_from_below_alone(belly):
    plan, floor, _, assessment = belly
    places = {(round(-o.at[0] - 2.0, 3), round(-o.at[1] - 2.0, 3)) for o in plan.openings if o.id in floor}
    seen = {side: {(round(p[0], 3), round(p[2], 3)) for light in scene_of(plan, assessment, side) for p in light.panes} for side in ("bottom", "top")}  # fmt: skip
    assert places <= seen["bottom"] and not places & seen["top"]


def test_a_flood_under_the_hull_washes_what_is_seen_from_below(belly):
    flood = Lamp(id="flood", part="chip-0603-warm-white", at=(80.0, 0.0, -6.0), aim=(0.0, 0.0, 1.0), mount="outside")
    plan = edits.add_lamp(belly[0], flood)
    assessment = assess(plan, built_in())
    lit = {side: [w for light in scene_of(plan, assessment, side) for w in light.washes] for side in ("bottom", "top")}
    assert len(lit["bottom"]) == 1 and assessment.lamps["flood"].flux_lm > 0


def test_a_floor_leaks_where_somebody_looks_at_it(belly):
    plan, *_, assessment = belly
    floor = next(x for x in assessment.leaks if x.face == "bottom")
    assert place_name(plan, floor) == "Deck 1, floor" and floor.times > 1.0
    unseen = copy_unchecked(plan, views=tuple(v for v in plan.views if v.side != "bottom"))
    before = assess(unseen, built_in())
    assert not [x for x in before.leaks if x.face == "bottom"]
    others = [(x.id, x.luminance_cd_m2) for x in assessment.leaks if x.face != "bottom"]
    assert others == [(x.id, x.luminance_cd_m2) for x in before.leaks], "the other walls leak as before"


def test_the_round_shows_and_picks_them_from_under_the_keel(belly):
    plan, floor, *_ = belly
    model = model_of(plan.sections, plan.openings)
    eye = eye_for(model, 0.0, -60.0, 600.0, 400, 300)
    looked = looked_at(model, eye)
    seen = {item_at(looked, x, y) for x in range(0, 400, 2) for y in range(0, 300, 2)}
    assert set(floor) <= seen
    above = looked_at(model, eye_for(model, 0.0, 60.0, 600.0, 400, 300))
    assert not set(floor) & {item_at(above, x, y) for x in range(0, 400, 2) for y in range(0, 300, 2)}


def test_they_are_masked_mirrored_and_not_copied_across(belly):
    plan, floor, roof, assessment = belly
    assert "Masks: Deck 1, bottom" in [d.title for d in window_masks(plan, assessment, PAPERS["a4"])]
    window = next(o for o in plan.openings if o.id == floor[0])
    up = twins.mirrored(window, 2, 9.5)
    assert up.side == "top" and up.at == (window.at[0], window.at[1], 19.0) and twins.mirrored(up, 2, 9.5) == window
    with pytest.raises(PlanError, match="no opening on a side wall"):
        copy_to_other_side(plan, [floor[0], roof[0]])


def test_one_looks_through_a_clear_roof_and_floor():
    plan = cabin(side="top", at=(30.0, 0.0, 20.0))
    low = copy_unchecked(plan.openings[0], id="floor", side="bottom", at=(30.0, 0.0, 0.0))
    both = (plan.openings[0], low)
    assert looks_through(built_in(), plan.sections[0], both, plan.kit.material) == (("w", "floor"),)
    aside = copy_unchecked(low, at=(50.0, 0.0, 0.0))
    assert looks_through(built_in(), plan.sections[0], (both[0], aside), plan.kit.material) == ()
