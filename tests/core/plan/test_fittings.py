"""Masts and other fittings: their solids, what they move with, how they are found, the shadow they throw."""

from __future__ import annotations

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.fitted import covered, stands_before, words_of
from gwiazda.core.assess.night import around as ar
from gwiazda.core.assess.night.picture import night_luminance
from gwiazda.core.assess.night.scene import scene_of, surfaces_of
from gwiazda.core.assess.night.shine import lights_of
from gwiazda.core.assess.night.solids import model_of
from gwiazda.core.assess.view_index import hit, inside_rect
from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.edits.twins import mirrored
from gwiazda.core.plan.model import Fitting, Lamp, Plan, Wanted, copy_unchecked
from gwiazda.core.render import round as core_round
from gwiazda.core.render.layers import Camera
from gwiazda.core.render.solid import Eye, normals_of, slab

CAT = built_in()
# A mast with a yard: drawn from port on deck1's roof, which lies at z 20.2.
MAST = ((80.0, 20.0), (82.0, 20.0), (82.0, 50.0), (90.0, 50.0), (90.0, 52.0), (82.0, 52.0), (82.0, 70.0), (80.0, 70.0), (80.0, 52.0), (72.0, 52.0), (72.0, 50.0), (80.0, 50.0))  # fmt: skip
AREA = 2 * 50 + 2 * 8 * 2


def with_mast(thick: float = 2.0) -> Plan:
    plan = deck_plan(windows=6, lamps=1)
    return edits.add_fitting(plan, edits.fitting_from(plan, "port", MAST, thick))


def volume(triangles: np.ndarray) -> float:
    return float(np.einsum("ij,ij->i", triangles[:, 0], np.cross(triangles[:, 1], triangles[:, 2])).sum() / 6.0)


def test_a_slab_has_its_volume_and_a_closed_skin():
    solid = slab(np.array(MAST), 3.0)
    edges = np.cross(solid[:, 1] - solid[:, 0], solid[:, 2] - solid[:, 0])
    assert volume(solid) == pytest.approx(AREA * 3.0, rel=1e-3)
    assert np.linalg.norm(edges.sum(axis=0)) < 1e-6 * np.abs(edges).sum()
    assert np.ptp(solid[..., 1]) == pytest.approx(3.0) and len(normals_of(solid)) == len(solid)


@pytest.mark.parametrize("side", ["port", "starboard", "top", "bow", "stern"])
def test_drawn_in_any_view_it_stands_in_the_model_the_right_way_out(side):
    plan = Plan()
    fitting = edits.fitting_from(plan, side, [(10.0, 5.0), (30.0, 5.0), (30.0, 9.0)], 2.0)
    skin = model_of((), (), (fitting,)).skins
    assert volume(skin) == pytest.approx(20 * 4 / 2 * 2.0, rel=1e-3), "outward all round"
    low, high = skin.reshape(-1, 3).min(axis=0), skin.reshape(-1, 3).max(axis=0)
    assert low == pytest.approx(fitting.low, abs=1e-4) and high - low == pytest.approx(fitting.size, abs=1e-4)


def test_a_new_one_stands_on_what_is_nearest_in_the_middle_of_it():
    plan = with_mast()
    (mast,) = plan.fittings
    deck = plan.sections[0]
    assert mast.section == deck.id and mast.at[1] == pytest.approx(deck.box.centre[1]) and mast.thick_mm == 2.0
    assert np.array(mast.seen("port")) == pytest.approx(np.array(MAST)), "its outline is the one drawn"
    assert np.array(mast.seen("top")).min(axis=0) == pytest.approx((72.0, mast.at[1] - 1.0))
    thin = edits.fitting_from(plan, "port", [(0, 0), (0.2, 0), (0.2, 30), (0, 30)])
    broad = edits.fitting_from(plan, "port", [(0, 0), (30, 0), (30, 30), (0, 30)])
    assert (thin.thick_mm, broad.thick_mm) == (0.5, 4.0)
    with pytest.raises(PlanError, match="no area"):
        edits.fitting_from(plan, "port", [(0, 0), (5, 0), (9, 0)])
    with pytest.raises(PlanError, match="in use"):
        edits.add_fitting(plan, mast)
    assert "18 × 50" not in words_of(plan, mast) and "18.0 × 50.0 mm" in words_of(plan, mast)


def test_it_goes_along_with_what_it_stands_on():
    plan = with_mast()
    deck, (mast,) = plan.sections[0], plan.fittings
    moved = edits.move(plan, [deck.id], (5.0, -3.0, 2.0)).fittings[0]
    assert moved.at == pytest.approx(np.add(mast.at, (5.0, -3.0, 2.0))) and moved.points == mast.points
    copied, new = edits.duplicate(plan, [deck.id], (0.0, 60.0, 0.0))
    assert len(copied.fittings) == 2 and copied.fittings[1].section == new[0] != deck.id
    assert edits.delete(plan, [deck.id]).fittings == ()
    free = edits.set_fields(plan, [mast.id], section="")
    assert edits.delete(free, [deck.id]).fittings == free.fittings and edits.delete(free, [mast.id]).fittings == ()
    image = mirrored(mast, 0, 81.0)
    there, here = (np.array(sorted(x)) for x in (image.seen("port"), MAST))
    assert there == pytest.approx(here), "its own image in the plane through it"


def test_saved_and_opened_and_refused_where_it_is_impossible(tmp_path):
    plan = with_mast()
    storage.save(storage.PlanFile(plan), tmp_path / "mast.gwiazda")
    assert storage.load(tmp_path / "mast.gwiazda").plan == plan
    (mast,) = plan.fittings
    for wrong in ({"thick_mm": 0.0}, {"points": mast.points[:2]}, {"side": "below"}):
        with pytest.raises(PlanError):
            edits.set_fields(plan, [mast.id], **wrong)


def test_found_on_the_plate_before_what_it_hides():
    plan = with_mast()
    (mast,) = plan.fittings
    assert hit(CAT, plan, "port", -81.0, -60.0, 0.4) == mast.id, "the sheet has the bow on the left and up above"
    assert hit(CAT, plan, "port", -82.15, -60.0, 0.4) == mast.id, "a little beside it"
    assert hit(CAT, plan, "port", -86.0, -60.0, 0.4) is None and hit(CAT, plan, "port", -120.0, -15.0, 0.4) == "deck1"
    assert mast.id in inside_rect(CAT, plan, "port", (-100.0, -80.0, -60.0, -30.0))
    assert hit(CAT, plan, "top", -75.0, mast.at[1], 0.4) == mast.id
    near = copy_unchecked(mast, at=(plan.openings[0].at[0], 40.0, plan.openings[0].at[2]))
    assert stands_before(edits.replace(plan, {mast.id: near}), near) == (plan.openings[0],)
    assert stands_before(plan, mast) == ()


def test_what_stands_before_a_pane_covers_its_share_on_the_plate():
    plan = deck_plan(windows=6, lamps=1)
    o = plan.openings[2]
    x, z = o.at[0], o.at[2]
    half = edits.fitting_from(plan, "port", [(x, z - 9), (x + 9, z - 9), (x + 9, z + 9), (x, z + 9)], 1.0)
    half = copy_unchecked(half, at=(half.at[0], 40.0, half.at[2]))
    assert covered((half,), plan.openings, "port") == {o.id: pytest.approx(0.5, abs=0.11)}
    behind = copy_unchecked(half, at=(half.at[0], -40.0, half.at[2]))
    assert covered((behind,), plan.openings, "port") == {} == covered((half,), plan.openings, "top")
    assessment = assess(plan, CAT)
    bare, hung = (scene_of(p, assessment, "port") for p in (plan, edits.add_fitting(plan, half)))
    lost = sum(float(np.sum(a.pane_cd_m2)) - float(np.sum(b.pane_cd_m2)) for a, b in zip(bare, hung, strict=True))
    each = assessment.openings[o.id].luminance_cd_m2
    assert lost == pytest.approx(each * covered((half,), plan.openings, "port")[o.id], rel=0.02)


def flooded(plan: Plan) -> Plan:
    lamp = Lamp(id="flood", part="chip-0603-cool-white", at=(60.0, 0.0, 40.0), aim=(1.0, 0.0, -0.6), mount="outside", wanted=Wanted(mcd=200.0))  # fmt: skip
    return edits.add_lamp(plan, lamp)


def test_in_the_round_it_is_seen_picked_and_throws_its_shadow():
    core_round.load_kernel()
    bare, plan = (flooded(p) for p in (deck_plan(windows=6, lamps=1), with_mast(6.0)))
    lux = []
    for p in (bare, plan):
        model = model_of(p.sections, p.openings, p.fittings)
        eye = Eye(0.0, 90.0, 5000.0, (80.0, 0.0, 20.0), 4.0 * 5000.0, 700, 300)
        looked = ar.looked_at(model, eye)
        lights = lights_of(p, assess(p, CAT), model)
        falls = np.zeros(eye.height * eye.width)
        fallen = core_round.fallen(
            eye, looked.shown, core_round.Shining(lights.lamps, lights.lamp_key * 0, 1), model.bodies, 1e-6
        )
        falls[looked.shown.flat] = fallen[0]
        px = eye.project(np.array([(100.0, 0.0, 20.2), (100.0, 18.0, 20.2)]))[:, :2].astype(int)
        lux.append([float(falls[y * eye.width + x]) for x, y in px.tolist()])
    core_round.without_kernel()
    assert lux[0][0] > 0.0 == lux[1][0], "behind the mast it is dark"
    assert lux[1][1] == pytest.approx(lux[0][1], rel=1e-3), "beside it as before"
    side = ar.looked_at(model, ar.eye_for(model, 0.0, 5.0, 600.0, 300, 200))
    x, y = side.eye.project(np.array([81.0, 3.0, 60.0]))[:2].astype(int).tolist()
    assert ar.item_at(side, x, y) == plan.fittings[0].id


def test_on_the_plate_it_is_a_face_of_its_own_and_throws_a_shadow_too():
    plan = flooded(with_mast(6.0))
    faces = surfaces_of(CAT, plan, "top")
    assert len(faces) == len(surfaces_of(CAT, deck_plan(windows=6, lamps=1), "top")) + 1
    assert surfaces_of(CAT, plan, "top") is faces, "kept while nothing changes"
    assessment = assess(plan, CAT)
    without = copy_unchecked(plan, fittings=())
    camera = Camera(320, 120, (-160.0, -30.0), 2.0, 0.6)  # the bow lies on the left
    dark, free = (night_luminance(p, assessment, "top", camera, leaks=False)[0].sum(axis=0) for p in (plan, without))
    (y0, x0), (y1, x1) = ((int((y + 30.0) * 2), int((-x + 160.0) * 2)) for x, y in ((100.0, 0.0), (100.0, 18.0)))
    assert dark[y0, x0] < 0.6 * free[y0, x0] and dark[y1, x1] == pytest.approx(free[y1, x1], rel=0.05)


def test_a_plan_of_version_8_opens_unchanged():
    """A real file of version 8: it knew no fittings."""
    import json
    import zipfile
    from pathlib import Path

    path = Path(__file__).parent / "data" / "swistak-version-8.gwiazda"
    raw = json.loads(zipfile.ZipFile(path).read("plan.json"))
    plan = storage.load(path).plan
    assert raw.pop("version") == 8 and plan.fittings == ()
    again = json.loads(storage.plan_to_json(plan))
    assert again.pop("version") == storage.PLAN_VERSION and again.pop("bench") == {"hours": 2.0}
    del again["lights"]  # of what were lamps by themselves
    for lamp in again["lamps"]:
        lamp.pop("light", None)
    assert again == raw


def test_hundreds_of_them_make_a_model():
    plan = deck_plan(windows=2, lamps=1)
    many = tuple(
        Fitting(id=f"rail.{i:03d}", at=(0.3 * i, 20.0, 25.0), points=((-0.1, -2.0), (0.1, -2.0), (0.1, 2.0), (-0.1, 2.0)), thick_mm=0.2)
        for i in range(400)
    )  # fmt: skip
    model = model_of(plan.sections, plan.openings, many)
    assert model.section.max() == len(plan.sections) + 399
