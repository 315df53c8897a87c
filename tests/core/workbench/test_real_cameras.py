"""Photos by cameras that aren't the application's own: their curve, lens, bloom, balance and file; two exposures, a grey card, what is refused."""

from __future__ import annotations

import io
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from cameras import Maker, curve, shoot
from gwiazda.core.assess.assessment import assess
from gwiazda.core.errors import GwiazdaError, PlanError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.model import Laid
from gwiazda.core.plan.storage import load
from gwiazda.core.render.camera_curve import BRIGHTEST, DARKEST, PLAIN, Curve, basis, curve_by_exposures, curve_fitted
from gwiazda.core.render.photomap import PhotoMap, laid, mapped
from gwiazda.core.render.tone import from_srgb
from gwiazda.core.workbench.photo.camera import leaks_told
from gwiazda.core.workbench.photo.photocurve import STEPS, Camera, curve_of_card, reflectance_of
from gwiazda.core.workbench.photo.photoread import curve_by_pair, read_photo
from gwiazda.core.workbench.photo.photos import Taken, parse_exposure, taken
from gwiazda.core.workbench.photo.photowords import summary
from gwiazda.demos import path_of

CAT = built_in()
PHONE = Maker()


@pytest.fixture(scope="module")
def ship():
    plan = load(path_of("szron")).plan
    return plan, assess(plan, CAT)


@pytest.fixture(scope="module")
def boat():
    plan = load(path_of("perkoz")).plan
    return plan, assess(plan, CAT)


def ratios(reading) -> np.ndarray:
    found = np.array([p.ratio for p in reading.told])
    return found / np.median(found)


# -- the curve -------------------------------------------------------------------------------------------------


@settings(deadline=None, max_examples=30)
@given(st.floats(0.3, 2.5), st.floats(-0.5, 2.0), st.floats(0.0, 1.0))
def test_a_curve_s_table_rises_and_is_that_of_its_three_figures(gamma, toe, shoulder):
    made = Curve(gamma, toe, shoulder)
    if not made.rises:
        return
    table = made.table
    assert table[0] == 0.0 and table[255] == pytest.approx(1.0) and (np.diff(table[1:].astype(float)) > 0).all()
    y = from_srgb(np.array([90, 180]) / 255.0)
    said = (basis(y[1:]) - basis(y[:1])) @ np.array(made)
    assert math.log(table[180] / table[90]) == pytest.approx(float(said[0]), abs=1e-4)


def test_the_plain_curve_is_srgb_s():
    assert np.allclose(PLAIN.table, from_srgb(np.arange(256) / 255.0), atol=1e-6)
    code = np.arange(48, dtype=np.uint8).reshape(4, 4, 3)
    assert np.allclose(Camera().linear(code), from_srgb(code / 255.0), atol=1e-6)


@settings(deadline=None, max_examples=20)
@given(st.floats(0.0, 0.6), st.floats(0.0, 0.05), st.floats(1.8, 2.6), st.integers(0, 99))
def test_two_exposures_tell_any_camera_s_curve(contrast, toe, gamma, seed):
    """Light at forty places, four times as much in the second; held against the camera's own curve, not ours."""
    rng = np.random.default_rng(seed)
    maker = Maker(contrast=contrast, toe=toe, gamma=gamma)
    light = np.exp(rng.uniform(math.log(0.01), math.log(0.22), 40))
    short, long_ = (from_srgb(np.round(curve(maker, light * k) * 255.0) / 255.0) for k in (1.0, 4.0))
    fit = curve_by_exposures(short, long_, 4.0)
    good = (short > DARKEST) & (long_ < BRIGHTEST)
    told = fit.curve.table[np.round(curve(maker, light) * 255.0).astype(int)]
    off = np.log(told[good] / light[good])
    assert np.abs(off - np.median(off)).max() < 0.15 and np.std(off) < 0.06
    plain = np.log(short[good] / light[good])
    assert np.std(off) < max(0.5 * np.std(plain), 0.02)


def test_a_curve_that_little_tells_stays_the_usual_one_and_too_little_is_said():
    fit = curve_fitted(np.full(8, 0.2), np.zeros(8), np.ones((8, 1)), (np.zeros(1), np.full(1, 9.0)), 0.05)
    assert fit.curve.gamma == pytest.approx(0.8, abs=0.01) and fit.sigma(np.array([0.02, 0.6])) > 0.5
    with pytest.raises(ValueError, match="fewer than four"):
        curve_by_exposures(np.full(9, 0.5), np.full(9, 0.99), 2.0)


# -- the lens --------------------------------------------------------------------------------------------------


@settings(deadline=None, max_examples=20)
@given(st.floats(-0.03, 0.03), st.integers(0, 99))
def test_what_a_lens_bends_is_told_by_many_points(bend, seed):
    rng = np.random.default_rng(seed)
    true = PhotoMap(np.array([[5.0, 0.2, 800.0], [-0.1, 5.1, 450.0], [1e-5, 2e-5, 1.0]]), bend, (799.5, 449.5), 800.0)
    sheet = rng.uniform([-140, -70], [140, 70], (40, 2))
    fitted = laid(sheet, mapped(true, sheet) + rng.normal(0.0, 0.2, (40, 2)), 0.2, size=(1600.0, 900.0))
    assert fitted.map.bend == pytest.approx(bend, abs=0.003)
    assert np.abs(mapped(fitted.map, sheet) - mapped(true, sheet)).max() < 0.6
    straight = laid(sheet, mapped(true._replace(bend=0.0), sheet), 0.2)
    assert straight.map.bend == 0.0


# -- whole photos ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "maker", [PHONE, PHONE._replace(gamma=1.9, contrast=0.3), PHONE._replace(balance=(1.25, 1.0, 0.8))]
)
def test_every_pane_is_told_to_ten_percent_and_the_hull_s_ends_to_twenty(ship, maker):
    """Gamma with a toe, an S-curve, 2 % barrel, bloom, dark corners, noise, JPEG 85; the panes' own ratios are the truth."""
    plan, found = ship
    reading = read_photo(plan, found, *shoot(plan, found, "port", 5, maker)[:2])
    by_id = {o.id: o for o in plan.openings}
    ends = [p.id for p in reading.told if not 60.0 < by_id[p.id].at[0] < 300.0]
    off = dict(zip((p.id for p in reading.told), np.abs(ratios(reading) - 1.0), strict=True))
    assert len(reading.told) >= 30
    assert max(v for k, v in off.items() if k not in ends) < 0.12 and sorted(off.values())[int(0.95 * len(off))] < 0.10
    assert all(off[k] < 0.20 for k in ends)
    assert reading.sigma < 0.1 and "camera’s curve told" in summary(plan, reading)


def test_panes_that_differ_from_the_plan_are_told_so(boat):
    plan, found = boat
    dim = [o.id for o in plan.openings if o.side == "port" and o.lit == 1.0 and o.section == "hull"][1:3]
    shot = shoot(plan, found, "port", 3, PHONE, times=dict.fromkeys(dim, 0.6))
    reading = read_photo(plan, found, shot.code, shot.laid)
    off = dict(zip((p.id for p in reading.told), ratios(reading), strict=True))
    assert all(0.5 < off[i] < 0.72 for i in dim if i in off) and any(i in off for i in dim)
    # Of so few panes the curve is told less well, and the reading says so.
    assert all(abs(v - 1.0) < 0.20 for k, v in off.items() if k not in dim) and 0.07 < reading.sigma < 0.12


def test_leaks_are_found_and_none_is_made_up(boat, ship):
    planted = hit = false = 0
    for k, (plan, found) in enumerate((boat, boat, ship)):
        shot = shoot(plan, found, "port", 40 + k, PHONE, leaks=3)
        found_here, made_up = leaks_told(read_photo(plan, found, shot.code, shot.laid).leaks, shot.planted)
        hit, false, planted = hit + found_here, false + made_up, planted + len(shot.planted)
    assert planted == 9 and hit >= 8 and false == 0


def test_two_photos_of_one_side_tell_the_curve_without_the_prediction(boat):
    """The plan says nothing of the level of its sections here: their panes are all another than predicted."""
    plan, found = boat
    times = {o.id: (1.8 if o.section == "hull" else 0.6) for o in plan.openings}
    short, long_ = (shoot(plan, found, "port", 7, PHONE, brightest=b, times=times) for b in (0.15, 0.45))
    told = curve_by_pair(plan, found, (short.code, short.laid), (long_.code, long_.laid), 3.0)
    reading = read_photo(plan, found, long_.code, long_.laid, told)
    by_id = {o.id: o.section for o in plan.openings}
    level = {
        s: np.median([p.ratio for p in reading.told if by_id[p.id] == s]) for s in {by_id[p.id] for p in reading.told}
    }
    if len(level) == 2:
        assert level["hull"] / level["cabin"] == pytest.approx(3.0, rel=0.15)
    assert all(abs(p.ratio / level[by_id[p.id]] - 1.0) < 0.12 for p in reading.told)
    with pytest.raises(PlanError, match="nearly alike"):
        curve_by_pair(plan, found, (short.code, short.laid), (long_.code, long_.laid), 1.1)


# -- the grey card ---------------------------------------------------------------------------------------------


def card(maker: Maker, light: float = 0.9, upside_down: bool = False) -> np.ndarray:
    """A photo of the card: patches side by side in even light, darkened a little towards the corners."""
    picture = np.full((300, 1000), reflectance_of(0.0))
    for n, black in enumerate(STEPS):
        picture[100:200, 100 + 100 * n : 200 + 100 * n] = reflectance_of(black)
    if upside_down:
        picture = picture[:, ::-1]
    rng = np.random.default_rng(1)
    seen = picture * light + rng.normal(0.0, 0.002, picture.shape)
    return np.repeat((curve(maker, seen)[..., None] * 255.0 + 0.5).astype(np.uint8), 3, axis=2)


ENDS = ((0.15, 0.5), (0.85, 0.5))


@pytest.mark.parametrize("upside_down", [False, True])
def test_the_grey_card_tells_the_curve_whichever_way_round_it_lies(upside_down):
    told = curve_of_card(card(PHONE, upside_down=upside_down), ENDS)
    light = np.array([0.05, 0.1, 0.2, 0.4, 0.7])
    found = told.table[np.round(curve(PHONE, light) * 255.0).astype(int)]
    off = np.log(found / light)
    assert np.abs(off - np.median(off)).max() < 0.12


@pytest.mark.parametrize(
    ("picture", "ends", "words"),
    [
        (card(PHONE), ((0.5, 0.5), (0.51, 0.5)), "too near"),
        (card(PHONE, light=3.0), ENDS, "don’t grow darker|burnt out|too long"),
        (card(PHONE, light=0.001), ENDS, "don’t grow darker|too long or too short"),
        (np.random.default_rng(2).integers(0, 255, (300, 1000, 3), dtype=np.uint8), ENDS, "don’t grow darker"),
    ],
)
def test_a_card_that_can_not_be_told_is_said_so(picture, ends, words):
    with pytest.raises(GwiazdaError, match=words):
        curve_of_card(picture, ends)


# -- how it was taken ------------------------------------------------------------------------------------------


def photo_with(**tags) -> bytes:
    image, exif = Image.new("RGB", (40, 30)), Image.Exif()
    block = exif.get_ifd(0x8769)
    for tag, value in tags.items():
        block[int(tag[1:])] = value
    out = io.BytesIO()
    image.save(out, "JPEG", exif=exif)
    return out.getvalue()


def test_exposure_and_hdr_are_read_from_the_file():
    """1/15 s at ISO 400 and f/2: 1/15·4/4 = 1/15 of a second at ISO 100 and f/1."""
    found = taken(photo_with(t33434=1 / 15, t34855=400, t33437=2.0))
    assert found.exposure == pytest.approx(1 / 15, rel=1e-3) and not found.merged
    assert taken(photo_with(t33434=0.5, t41985=3)).merged and taken(photo_with(t41990=3)).merged
    assert taken(photo_with()) == Taken() == taken(b"no photo") == taken(b"")


@pytest.mark.parametrize(
    ("text", "value"), [("1/15", 1 / 15), ("0.5 s", 0.5), (" 4 ", 4.0), ("", None), ("1/8 s", 0.125)]
)
def test_an_exposure_is_typed_as_one_writes_it(text, value):
    assert parse_exposure(text) == (value if value is None else pytest.approx(value))


@pytest.mark.parametrize("text", ["fast", "1/0", "-1", "1/15/2"])
def test_what_is_no_exposure_is_said(text):
    with pytest.raises(GwiazdaError):
        parse_exposure(text)


def test_a_camera_that_evens_out_light_and_dark_is_said_to_and_one_that_does_not_isn_t(ship):
    plan, found = ship
    for local, said in ((0.0, False), (0.5, True)):
        shot = shoot(plan, found, "port", 2, PHONE._replace(local=local))
        assert ("HDR or night mode" in summary(plan, read_photo(plan, found, shot.code, shot.laid))) == said


def test_a_laid_card_holds_something_and_needs_no_marks():
    assert Laid(steps=ENDS).holds_something and not Laid().holds_something
