"""Clear panes from aside: the wall the line of sight ends on, lamps where they stand, what stands between."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from decks import cabin
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.night import around as ar
from gwiazda.core.assess.night.shine import Lights, lights_of
from gwiazda.core.assess.night.solids import model_of
from gwiazda.core.assess.optics.lighting import lit_sections_of
from gwiazda.core.assess.sight.rose import rose_of
from gwiazda.core.assess.sight.through import cell_met, seen_through
from gwiazda.core.light.sightline import hit_inside
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.model import Box, Obstacle, Plan, TintCoat, copy_unchecked
from gwiazda.core.render import round as core_round
from gwiazda.core.render.solid import Eye

CAT = built_in()


def lit(plan: Plan):
    assessment = assess(plan, CAT)
    model = model_of(plan.sections, plan.openings)
    return assessment, model, lights_of(plan, assessment, model)


def eye_at(azimuth: float, height: float = 0.0, px_mm: float = 8.0, far: float = 600.0) -> Eye:
    return Eye(azimuth, height, far, (30.0, 21.2, 10.0), px_mm * far, 240, 160)


@given(st.tuples(*[st.floats(0.0, 1.0)] * 3), st.tuples(*[st.floats(-1.0, 1.0)] * 3))
def test_a_line_inside_a_box_ends_on_one_of_its_faces(share, away):
    low, high = np.array([0.0, -20.0, 0.0]), np.array([60.0, 20.0, 20.0])
    start = low + np.array(share) * (high - low)
    if np.abs(away).max() < 1e-3:
        return
    place, face = hit_inside(start[None], np.array([away]), low, high)
    assert ((place[0] >= low) & (place[0] <= high)).all()
    if face[0] >= 0:
        axis, end = divmod(int(face[0]), 2)
        assert place[0][axis] == pytest.approx((high if end else low)[axis], abs=1e-6)
        assert np.linalg.norm(np.cross(place[0] - start, away)) < 1e-6 * max(np.linalg.norm(place[0] - start), 1.0), (
            "on the line"
        )
    else:
        outward = [(s in (0.0, 1.0)) and a * (1 if s == 1.0 else -1) >= 0 for s, a in zip(share, away, strict=True)]
        assert any(outward) or min(np.minimum(start - low, high - start)) < 1e-6, "only from a face, and outward"


def test_aslant_a_clear_pane_shows_the_wall_on_which_the_sight_ends():
    """By hand: from 50 degrees the sight goes on 40 mm deep and 47.7 mm aside, so it ends on the end wall."""
    plan = copy_unchecked(
        cabin(), lamps=(copy_unchecked(cabin().lamps[0], at=(10.0, -15.0, 10.0), aim=(1.0, 0.0, 0.0)),)
    )
    found, _, lights = lit(plan)
    room = lit_sections_of(CAT, plan.sections, plan.openings, plan.lamps, plan.kit.material, found.cells)["s"]
    box = room.cavity.box
    flux = found.lamps["p"].flux_lm
    for azimuth in (-50.0, 50.0, 0.0, 20.0):
        eye = eye_at(azimuth)
        away = np.array([30.0, 20.0, 10.0]) - eye.place
        t = min(((60.0 if away[0] > 0 else 0.0) - 30.0) / away[0] if abs(away[0]) > 1e-9 else math.inf, -40.0 / away[1])
        place = np.array([30.0, 20.0, 10.0]) + t * away
        cell = int(np.linalg.norm(room.cavity.corner + box.centre - place, axis=1).argmin())
        clear = plan.openings[0].lit * room.cavity.panes[0].clear
        by_hand = clear / math.pi * box.reflectance[cell] * room.cells_per_lm[cell, 0] * flux
        behind = clear / math.pi * box.reflectance[room.behind[0]] * room.cells_per_lm[room.behind[0], 0] * flux
        more = seen_through(lights.insides, eye.place, lights.panes.shape)[0, 0]
        assert more == pytest.approx(by_hand - behind, rel=1e-5, abs=1e-9), azimuth
        if azimuth == 0.0:
            assert more == pytest.approx(0.0, abs=0.02 * lights.panes[0, 0]), "straight on as on the plate"


def test_a_lamp_shows_through_its_pane_from_where_the_rose_says():
    core_round.load_kernel()
    plan = cabin()
    found, model, lights = lit(plan)
    rose = rose_of(plan, found, "w", (0.0,))
    shown, agreed = [], 0
    for look in rose.looks:
        looked = ar.looked_at(model, eye_at(look.azimuth_deg))
        spots = ar._points_seen(looked, lights)
        shown.append(bool(len(spots.number)))
        agreed += shown[-1] == bool(look.lamp)
    core_round.without_kernel()
    assert any(shown) and not all(shown)
    # The rose takes the inner edge of the hole, the round the pane on the skin, 1.2 mm further out.
    assert agreed >= len(rose.looks) - 2


def bright(plan: Plan, eye: Eye) -> tuple[float, float]:
    """The picture's brightest luminance, and where it lies along it (px)."""
    found, model, lights = lit(plan)
    picture = ar.night_around(plan, found, ar.looked_at(model, eye), lights, weights={}).base.sum(axis=0)
    return float(picture.max()), float(np.unravel_index(picture.argmax(), picture.shape)[1])


def test_the_hot_spot_moves_with_the_eye_and_goes_behind_a_screen_or_frosting():
    core_round.load_kernel()
    plan = cabin()
    straight, left, right = (bright(plan, eye_at(a)) for a in (0.0, -7.0, 7.0))
    px = 15.0 * math.tan(math.radians(7.0)) * 8.0
    assert left[1] - straight[1] == pytest.approx(straight[1] - right[1], abs=3.0)
    assert abs(left[1] - straight[1]) == pytest.approx(px, rel=0.35), "the lamp is 16 mm behind the pane"
    frosted = bright(cabin(glazing="styrene"), eye_at(0.0))
    assert frosted[0] < 0.2 * straight[0]
    screen = Obstacle(id="o", box=Box(at=(20.0, 8.0, 2.0), size=(20.0, 1.0, 16.0)))
    screened = copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], obstacles=(screen,)),))
    assert bright(screened, eye_at(0.0))[0] < 0.5 * straight[0]
    core_round.without_kernel()


def test_behind_a_tint_the_lamp_has_the_panes_colour():
    red = cabin(tints=(TintCoat(colour="red", coats=2),))
    _, _, lights = lit(red)
    (number,) = set(lights.points.key[lights.points.pane >= 0].tolist())
    key = lights.keys[number]
    assert key[1][0] > 3 * key[1][1]


def test_a_dark_pane_and_one_that_leads_on_are_not_looked_through():
    for plan in (cabin(lit=0.0), cabin(glazing="styrene")):
        _, _, lights = lit(plan)
        assert not (lights.points.pane >= 0).any() and not any(len(x.panes) for x in lights.insides)


def test_cells_are_those_nearest_to_where_the_sight_ends():
    _, _, lights = lit(cabin())
    (room,) = lights.insides
    for away in ((0.2, -1.0, 0.1), (-2.0, -0.5, 0.0), (0.0, -1.0, 2.0), (0.0, 1.0, 0.0)):
        cell = int(cell_met(room, np.array([away]))[0])
        if away[1] > 0:
            assert cell == -1
            continue
        place, _ = hit_inside(room.at, np.array([away]), room.low, room.high)
        gaps = np.linalg.norm(room.cells - place[0], axis=1)
        assert gaps[cell] == pytest.approx(gaps.min(), abs=0.3)


def test_lights_of_a_frosted_plan_are_as_ever():
    _, _, lights = lit(cabin(glazing="styrene"))
    assert isinstance(lights, Lights) and lights.insides == () and lights.panes.sum() > 0
