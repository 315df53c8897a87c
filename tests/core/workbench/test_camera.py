"""The simulated camera: the same for its seed, honest about what it plants, refusing what has no light; and odd photos read."""

from __future__ import annotations

import io

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.night.picture import night_luminance
from gwiazda.core.errors import PlanError, PlanFileError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Laid, PhotoMark, copy_unchecked
from gwiazda.core.plan.storage import load, plan_from_json, plan_to_json
from gwiazda.core.render import photograph as ph
from gwiazda.core.render.layers import Camera
from gwiazda.core.workbench.photo.camera import simulated
from gwiazda.core.workbench.photo.photomarks import laid_on
from gwiazda.core.workbench.photo.photoread import read_photo
from gwiazda.core.workbench.photo.photos import jpeg_of, pixels_of
from gwiazda.demos import path_of

CAT = built_in()


@pytest.fixture(scope="module")
def boat():
    plan = load(path_of("perkoz")).plan
    return plan, assess(plan, CAT)


def test_one_seed_one_photo_another_another(boat):
    a, b, c = (simulated(*boat, "port", seed, leaks=2, width=500) for seed in (4, 4, 5))
    assert np.array_equal(a.code, b.code) and a.laid == b.laid and a.planted == b.planted
    assert not np.array_equal(a.code, c.code) and a.laid != c.laid
    assert a.code.shape[1] == 500 and a.code.dtype == np.uint8


def test_planted_leaks_lie_on_the_hull_clear_of_openings_and_shine_there(boat):
    plan, found = boat
    shot = simulated(plan, found, "port", 8, leaks=5, width=1000)
    clean = simulated(plan, found, "port", 8, leaks=0, width=1000)
    assert len(shot.planted) == 5 and clean.planted == ()
    for x, y, cd in shot.planted:
        assert cd > 0
        for o in plan.openings:
            if o.side == "port":
                assert np.hypot(-o.at[0] - x, -o.at[2] - y) > min(o.width_mm, o.height_mm) / 2
    assert int((shot.code.astype(int) - clean.code.astype(int) > 25).any(axis=2).sum()) > 20


@pytest.mark.parametrize("side", ["top", "stern"])
def test_a_side_with_nothing_lit_can_not_be_taken(side):
    plan = deck_plan(windows=4, lamps=2)
    with pytest.raises(PlanError, match="fewer than two"):
        simulated(plan, assess(plan, CAT), side, 1)


def test_the_night_picture_in_cd_m2_has_each_pane_at_its_luminance_and_leaks_only_where_asked():
    plan = load(path_of("szron")).plan
    assessment = assess(plan, CAT)
    camera = Camera(900, 260, (-440.0, -100.0), 2.0, plan.room.distance_m)
    with_leaks, relief = night_luminance(plan, assessment, "port", camera)
    tight, _ = night_luminance(plan, assessment, "port", camera, leaks=False)
    assert (
        with_leaks.shape == (3, 260, 900) and np.all(with_leaks >= tight - 1e-6) and (with_leaks > tight + 1e-6).any()
    )
    hull = relief.reflectance > 0
    assert hull.any() and not hull.all()
    grey = ph.grey_of(np.moveaxis(tight, 0, -1))
    for o in plan.openings:
        if o.side == "port" and o.section == "deck1" and o.lit == 1.0:
            x, y = int((-o.at[0] + 440.0) * 2.0), int((-o.at[2] + 100.0) * 2.0)
            assert grey[y, x] == pytest.approx(assessment.openings[o.id].luminance_cd_m2, rel=0.35)


@settings(deadline=None, max_examples=25)
@given(
    st.lists(st.tuples(st.floats(0, 1), st.floats(0, 1)), max_size=6),
    st.floats(0.01, 1.0),
    st.one_of(st.none(), st.floats(0.1, 1000)),
)
def test_how_a_photo_lies_goes_round_in_a_file(spots, reflectance, lux):
    plan = deck_plan(windows=6, lamps=2)
    marks = tuple(PhotoMark(on=plan.openings[k].id, at=s) for k, s in enumerate(spots))
    laid = Laid(side="starboard", marks=marks, grey_reflectance=reflectance, grey_lux=lux)
    plan, entry = edits.add_entry(plan, "note", "a photo", photo="a.jpg", laid=laid)
    again = plan_from_json(plan_to_json(plan).encode(), "x")
    assert again == plan and again.log[0].laid == laid
    off = edits.lay_photo(plan, entry, None)
    assert off.log[0].laid is None and edits.lay_photo(plan, "other", None).log == plan.log


def test_marks_on_what_is_gone_are_left_out(boat):
    plan, found = boat
    shot = simulated(plan, found, "port", 3, width=700)
    first = shot.laid.marks[0].on
    lost = edits.delete(plan, [first]) if any(o.id == first for o in plan.openings) else plan
    laid = copy_unchecked(shot.laid, marks=(*shot.laid.marks, PhotoMark(on="never.was", at=(0.5, 0.5))))
    reading = read_photo(lost, assess(lost, CAT), shot.code, laid)
    assert len(reading.told) >= 8 and all(abs(p.ratio - 1.0) < 0.15 for p in reading.told)


@pytest.mark.parametrize("mode", ["L", "RGBA", "P", "CMYK"])
def test_photos_of_other_modes_are_read_as_colour(mode):
    out = io.BytesIO()
    image = Image.new("RGB", (30, 20), (200, 100, 50)).convert(mode)
    image.save(out, "PNG" if mode in ("RGBA", "P") else "JPEG")
    pixels = pixels_of("x", out.getvalue())
    assert pixels.shape == (20, 30, 3) and pixels.dtype == np.uint8
    if mode != "L":
        assert np.abs(pixels[10, 15].astype(int) - (200, 100, 50)).max() < 25


@pytest.mark.parametrize("data", [b"", b"GIF89a", b"\xff\xd8\xff", jpeg_of(np.zeros((30, 30, 3), np.uint8))[:60]])
def test_what_is_no_photo_is_said(data):
    with pytest.raises(PlanFileError, match="isn’t a photo"):
        pixels_of("odd.jpg", data)


def test_a_photo_of_another_model_ends_in_a_sentence_or_in_openings_that_are_off(boat):
    """Laid on by hand as well as one can: what it says is that little agrees."""
    plan, found = boat
    rng = np.random.default_rng(2)
    code = np.clip(rng.normal(12.0, 4.0, (300, 900, 3)), 0, 255).astype(np.uint8)
    for _ in range(40):
        x, y = int(rng.uniform(20, 860)), int(rng.uniform(20, 270))
        code[y : y + 8, x : x + 12] = int(rng.uniform(60, 240))
    try:
        reading = read_photo(plan, found, code, laid_on(plan, found, "port"))
    except PlanError as error:
        assert "Photo" in str(error)
    else:
        agree = [p for p in reading.told if abs(p.ratio - 1.0) < 0.1]
        assert len(agree) < 0.6 * max(len(reading.panes), 1)
