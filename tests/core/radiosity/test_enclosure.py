"""The light solver: form factors and their invariants, energy, the closed cavity, adding densities, stacks of panes."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gwiazda.core.colour import recipes, swatch, tint
from gwiazda.core.colour.colour import white
from gwiazda.core.errors import PlanError
from gwiazda.core.light import leak, scatter, visibility
from gwiazda.core.light.glazing import Pane, hot_spot, pane_profile, stack
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.radiosity import cavity, shape
from gwiazda.core.radiosity import direct as dr
from gwiazda.core.radiosity import enclosure as en
from gwiazda.core.radiosity import formfactors as ff
from gwiazda.core.radiosity.beams import Beams, illuminance
from gwiazda.core.radiosity.shadow import Baffle

SIZE = st.floats(8.0, 200.0)
REFLECTANCE = st.floats(0.0, 0.92)
SHARE = st.floats(0.02, 0.98)


def beams(*at, aim=(0.0, 0.0, -1.0), order=1.0) -> Beams:
    n = len(at)
    return Beams(np.array(at, dtype=float), np.tile(np.array(aim, dtype=float), (n, 1)), np.full(n, order))


def line(*values: float) -> np.ndarray:
    return np.array(values)


# -- form factors -----------------------------------------------------------------------------------------


def test_the_unit_cube():
    unit = line(0.0, 1.0)
    floor, roof = ff.Grid(2, 0.0, 1, unit, unit), ff.Grid(2, 1.0, -1, unit, unit)
    wall = ff.Grid(0, 0.0, 1, unit, unit)
    assert ff.exchange(floor, roof)[0, 0] == pytest.approx(0.199825, abs=1e-6)
    assert ff.exchange(floor, wall)[0, 0] == pytest.approx(0.200044, abs=1e-6)
    assert not ff.exchange(floor, ff.Grid(2, 1.0, 1, unit, unit)).any(), "two that look the same way"
    assert not ff.exchange(roof, ff.Grid(2, 2.0, -1, unit, unit)).any()


@settings(max_examples=15, deadline=None)
@given(SIZE, SIZE, SIZE)
def test_a_closed_box_sees_itself_alone_and_alike_both_ways(a, b, c):
    lines = shape._lines((a, b, c), (), 150)
    grids = shape._grids(np.array([a, b, c]), lines, ())
    cells = [shape._cells_of(g) for g in grids]
    start = tuple(int(s) for s in np.concatenate([[0], np.cumsum([len(x[0]) for x in cells])]))
    even, plain = shape._exchanges(grids, start, True), shape._exchanges(grids, start, False)
    half = np.concatenate([x[1] for x in cells])
    area = 4.0 * np.prod(np.where(half == 0.0, 1.0, half), axis=1)
    assert np.allclose(even.sum(axis=1), area, rtol=1e-6), "what leaves a cell arrives somewhere"
    assert np.allclose(even, even.T), "reciprocity"
    assert np.allclose(even, plain, atol=1e-7 * area.max()), "the shortcut for even grids is no other result"


@given(st.floats(1, 40), st.floats(1, 40), st.floats(1, 40), SHARE)
def test_exchange_adds_up_over_pieces(w, d, h, share):
    whole = ff.Grid(2, 0.0, 1, line(0, w), line(0, d))
    cut = ff.Grid(2, 0.0, 1, line(0, share * w, w), line(0, d))
    for other in (ff.Grid(2, h, -1, line(0, w), line(0, d)), ff.Grid(0, 0.0, 1, line(0, d), line(0, h))):
        assert ff.exchange(cut, other).sum() == pytest.approx(ff.exchange(whole, other).sum(), rel=1e-6, abs=1e-9)


# -- the enclosure ----------------------------------------------------------------------------------------


@settings(max_examples=12, deadline=None)
@given(
    SIZE,
    SIZE,
    SIZE,
    st.lists(REFLECTANCE, min_size=6, max_size=6),
    SHARE,
    SHARE,
    SHARE,
    st.sampled_from([-1.0, 0.5, 1.0, 12.0]),
)
def test_all_light_is_swallowed_in_the_end(a, b, c, lining, x, y, z, order):
    box = en.enclosure((a, b, c), lining, cells=150)
    light = beams((x * a, y * b, z * c), aim=(0.3, -0.5, 0.8), order=order)
    direct = dr.direct_cells(box, light)
    assert box.area @ direct[:, 0] * 1e-6 == pytest.approx(1.0, rel=1e-6), "a lumen arrives as a lumen"
    _, cells = dr.lit(box, light)
    swallowed = float((box.area * (1.0 - box.reflectance)) @ cells[:, 0]) * 1e-6
    assert swallowed == pytest.approx(1.0, rel=2e-3)


@pytest.mark.parametrize("rho", [0.3, 0.6, 0.88])
def test_mean_illuminance_of_a_cube_is_the_cavity_formula(rho):
    box = en.enclosure((40, 40, 40), [rho] * 6, cells=300)
    _, cells = dr.lit(box, beams((20, 20, 20), order=-1.0))
    mean = float(box.area @ cells[:, 0] / box.area.sum())
    assert mean == pytest.approx(cavity.cavity_illuminance(1.0, 6 * 40 * 40 * 1e-6, rho), rel=2e-3)


@settings(max_examples=10, deadline=None)
@given(SHARE, SHARE, SHARE, SHARE)
def test_a_lamp_and_its_mirror_image_light_mirror_images(x, y, u, v):
    size = np.array([60.0, 30.0, 20.0])
    half = np.array([1.5, 1.5])
    middle = np.array([u * 54 + 3, v * 14 + 3])
    windows = shape.Windows(
        np.array([2, 3]), np.array([middle - half] * 2), np.array([middle + half] * 2), np.array([0.1, 0.1])
    )
    box = en.enclosure(size, [0.8] * 6, windows)
    near, far = beams((x * 60, y * 30, 10), aim=(0, 1, -1)), beams((x * 60, (1 - y) * 30, 10), aim=(0, -1, -1))
    a, b = dr.lit(box, near)[0][:, 0], dr.lit(box, far)[0][:, 0]
    assert a == pytest.approx(b[::-1], rel=1e-3)


def test_a_baffle_shades_and_one_of_no_size_does_not():
    windows = shape.Windows(np.array([3]), np.array([[28.0, 8.0]]), np.array([[32.0, 12.0]]), np.array([0.1]))
    light = beams((30, 5, 10), aim=(0, 1, 0))
    bare = dr.lit(en.enclosure((60, 30, 20), [0.04] * 6, windows), light)[0][0, 0]
    sheet = Baffle(1, 15.0, (0.0, 0.0), (60.0, 18.0), 0.04)
    shaded = dr.lit(en.enclosure((60, 30, 20), [0.04] * 6, windows, [sheet]), light)[0][0, 0]
    assert shaded < 0.05 * bare
    tiny = Baffle(1, 15.0, (0.0, 0.0), (0.5, 0.5), 0.04)
    assert dr.lit(en.enclosure((60, 30, 20), [0.04] * 6, windows, [tiny]), light)[0][0, 0] == pytest.approx(
        bare, rel=0.03
    )


def test_more_cells_change_little():
    windows = shape.Windows(
        np.array([3] * 5),
        np.array([[10.0 * i + 3, 8.0] for i in range(5)]),
        np.array([[10.0 * i + 6, 11.0] for i in range(5)]),
        np.full(5, 0.2),
    )
    light = beams((12, 10, 15), (40, 20, 15))
    few, many = (dr.lit(en.enclosure((56, 30, 20), [0.88] * 6, windows, cells=n), light)[0] for n in (420, 1200))
    assert np.abs(few / many - 1).max() < 0.02


def test_nothing_to_light_and_no_lamps_are_no_trouble():
    box = en.enclosure((30, 20, 10), [0.0] * 6)
    windows, cells = dr.lit(box, beams((5, 5, 5)))
    assert windows.shape == (0, 1) and np.isfinite(cells).all()
    none = Beams(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0))
    assert dr.lit(box, none)[1].shape == (len(box.area), 0)
    # A lamp in the wall still lights the rest.
    assert float(dr.lit(box, beams((0.0, 10, 5), aim=(1, 0, 0)))[1].max()) > 0


# -- panes ------------------------------------------------------------------------------------------------

LAYER = (
    st.tuples(st.floats(0, 1), st.floats(0, 1), st.floats(0, 1))
    .filter(lambda p: p[0] + p[2] <= 1)
    .map(lambda p: Pane(*p))
)


@given(st.lists(LAYER, min_size=1, max_size=5))
def test_a_stack_lets_no_more_through_than_its_best_layer(layers):
    layers = [p._replace(reflectance=min(p.reflectance, 0.98)) for p in layers]
    whole = stack(tuple(layers))
    assert -1e-9 <= whole.transmittance <= min(p.transmittance for p in layers) + 1e-9
    assert whole.transmittance + whole.reflectance <= 1.0 + 1e-9
    assert whole.scattered >= max(p.scattered for p in layers) - 1e-9
    assert stack((Pane(1.0, 0.0, 0.0), *layers)) == pytest.approx(whole)


def test_an_even_pane_has_no_hot_spot_and_a_lamp_in_sight_makes_one():
    pane = Pane(0.8, 0.5, 0.1)
    even = pane_profile(pane, np.full(16, 100.0), 50.0, 20.0)
    assert hot_spot(even) == pytest.approx(1.0) and hot_spot(np.zeros(4)) == 1.0
    face = np.zeros(16)
    face[5] = 5000.0
    assert hot_spot(pane_profile(pane, np.full(16, 100.0), 50.0, 20.0, face)) > 5
    # A pane that scatters all of it hides the lamp.
    assert hot_spot(pane_profile(pane._replace(scattered=1.0), np.full(16, 100.0), 50.0, 20.0, face)) == pytest.approx(
        1.0
    )


# -- leaks ------------------------------------------------------------------------------------------------


@given(st.floats(0, 6), st.floats(0, 6), st.floats(1, 1e4))
def test_densities_add(a, b, lux):
    once = leak.leak_luminance(lux, a + b)
    assert once == pytest.approx(float(leak.leak_luminance(lux, a)) * float(leak.transmitted(b)))


def test_the_worked_leak():
    """E inside 170.3 lx, two white coats (T .102) on 1.2 mm of light grey (D .66), seen in 2 lx."""
    seen = visibility.visible_luminance(2.0 * 0.5 / math.pi)
    assert seen == pytest.approx(0.0109, abs=1e-4), "the contrast has fallen from 3 to 2.95 % there"
    white, material = built_in().coats["flat-white"].film(2), built_in().materials["light-grey"].film(1.2)
    assert white[:2] == pytest.approx((0.102, 0.879), abs=6e-4)
    rest = leak.density_of(scatter.through([white, material]))
    times = [float(leak.leak_luminance(170.3, rest + 1.6 * n)) / seen for n in range(3)]
    # Densities alone would give 109 ×: what goes to and fro between the white and the light plastic makes it 1.78 × more.
    assert times[0] == pytest.approx(109 * 1.78 * 1.015, rel=0.03)
    black = [built_in().coats["flat-black"].film(n) for n in (1, 2)]
    coated = [170.3 * scatter.through([white, b, material]) / math.pi / seen for b in black]
    assert coated == pytest.approx([2.85, 0.0715], rel=0.04), "black ends that"
    assert leak.coats_needed(170.3, rest, 1.6, seen) == 2
    assert leak.coats_needed(0.0, rest, 1.6, seen) == 0
    with pytest.raises(ValueError, match="blocks nothing"):
        leak.coats_needed(100.0, 0.1, 0.0, seen)


@given(st.floats(1, 5e3), st.floats(0, 3), st.floats(0.2, 3))
def test_one_coat_less_than_needed_shows(lux, rest, coat):
    n = leak.coats_needed(lux, rest, coat, 0.01)
    assert float(leak.leak_luminance(lux, rest + n * coat)) <= 0.01 * 1.0001
    if n:
        assert float(leak.leak_luminance(lux, rest + (n - 1) * coat)) > 0.01 * 0.9999


def test_small_leaks_need_more_light_to_be_seen():
    hull = 2.0 * 0.5 / math.pi
    assert math.degrees(visibility.critical_angle_rad(hull)) * 60 == pytest.approx(11.1, abs=0.1)
    area = visibility.visible_luminance(hull)
    assert visibility.visible_slit(hull, 0.1, 0.6) / area == pytest.approx(15.2, rel=0.01)
    assert visibility.visible_slit(hull, 20.0, 0.6) == area == visibility.visible_spot(hull, 1e-2)
    # A small spot: its light at the eye, and not its luminance, is what counts.
    one, two = (visibility.visible_spot(hull, x) * x for x in (1e-8, 3e-8))
    assert one == pytest.approx(two)


@given(st.floats(0.01, 20), st.floats(0, 2), st.floats(0.01, 6))
def test_what_scatters_keeps_energy_and_stacks_as_one(s, k, d):
    t, r = scatter.kubelka_munk(s, k, d)
    assert t >= 0 and r >= 0 and t + r <= 1 + 1e-9
    half = scatter.kubelka_munk(s, k, d / 2)
    assert scatter.over(half, half) == pytest.approx((t, r), abs=1e-9), "two halves are the whole"


def test_white_by_scattering_as_worked_by_hand():
    for n, (t, r) in enumerate(((0.192, 0.798), (0.102, 0.879), (0.065, 0.907)), 1):
        assert scatter.kubelka_munk(4.1, 0.01, n) == pytest.approx((t, r), abs=6e-4)
    for mm, t in ((0.25, 0.447), (1.2, 0.136), (2.0, 0.079)):
        assert scatter.kubelka_munk(4.9, 0.02, mm)[0] == pytest.approx(t, abs=6e-4)
    assert leak.white_coats_needed(9.2, 4.1) == 2 and leak.white_coats_needed(0.5, 4.1) == 0


def test_nothing_in_the_catalogue_makes_light():
    for coat in built_in().coats.values():
        for n in (1, 2, 5):
            film = coat.film(n)
            assert film.transmittance + film.reflectance <= 1.0 + 1e-9, coat.id
    for material in built_in().materials.values():
        film = material.film(0.05)
        assert film.transmittance + film.reflectance <= 1.0 + 1e-9, material.id


# -- own swatches -----------------------------------------------------------------------------------------


@given(st.floats(0.2, 2.5), st.floats(0.0, 1.0), st.integers(0, 200))
def test_three_readings_give_the_density_within_its_spread(density, material, seed):
    readings = swatch.simulated_readings(density, material, (0, 1, 2), 1e5, seed)
    if min(r.with_lx for r in readings) < 2.0:
        return
    found = swatch.fit_density(readings)
    assert abs(found.density - density) < max(5 * found.spread, 0.12)
    assert found.wild == ()


def test_a_wild_reading_is_pointed_out():
    good = list(swatch.simulated_readings(0.5, 0.6, (0, 1, 2, 3, 4)))
    bad = [*good[:2], good[2]._replace(with_lx=good[2].with_lx * 4), *good[3:]]
    assert swatch.fit_density(bad).wild == (2,) and swatch.fit_density(good).wild == ()


@pytest.mark.parametrize(
    ("readings", "words"),
    [
        ([(0, 100, 50)] * 2, "2 readings"), ([(1, 100, 50)] * 3, "same number of coats"), ([(0, 100, 0), (1, 100, 5), (2, 100, 1)], "above zero"),
        ([(0, 100, 20), (1, 100, 40), (2, 100, 60)], "makes it brighter"), ([(0, 100, 200), (1, 100, 5), (2, 100, 1)], "more light with"),
        ([(40, 100, 50), (1, 100, 5), (2, 100, 1)], "40 coats"),
    ],
)  # fmt: skip
def test_readings_that_cannot_be_are_named(readings, words):
    with pytest.raises(PlanError, match=words):
        swatch.fit_density([swatch.SwatchReading(*r) for r in readings])


# -- colour -----------------------------------------------------------------------------------------------


@given(st.sampled_from(tint.COLOURS), st.integers(1, 4), st.integers(1, 4))
def test_coats_of_one_colour_multiply_and_only_take_light(colour, a, b):
    light = white(2900.0)
    assert tint.through(light, [(colour, a), (colour, b)]) == pytest.approx(tint.through(light, [(colour, a + b)]))
    assert tint.seen(light, [(colour, a + b)]).kept < tint.seen(light, [(colour, a)]).kept < 1.0


def test_warm_white_keeps_red_and_orange_richer_in_light_than_cool():
    for colour in ("red", "orange"):
        warm, cool = (tint.seen(white(k), [(colour, 1)]) for k in (2900.0, 6500.0))
        assert warm.kept > cool.kept
    assert tint.seen(white(2900.0), [("red", 2)]).richness > tint.seen(white(6500.0), []).richness
    assert tint.seen(white(2900.0), [("smoke", 1)]).kept == pytest.approx(tint.SMOKE)


def test_two_lamps_mix_by_their_light():
    red, green = (np.asarray(tint.through(white(4000.0), [(c, 3)])) for c in ("red", "green"))
    even = tint.mixed([red, green], [1.0, 1.0])
    from gwiazda.core.colour.colour import xyz

    assert float(xyz(even)[1]) == pytest.approx(2.0)
    assert tint.richness(xyz(tint.mixed([red, green], [1.0, 0.0]))) > tint.richness(xyz(even))


@pytest.mark.parametrize("rgb", [(1.0, 0.05, 0.02), (0.02, 0.6, 0.1), (1.0, 0.8, 0.5), (0.05, 0.1, 1.0)])
def test_recipes_come_near_the_wanted_colour_best_first(rgb):
    lamps = {p.colour: p.spectrum for p in built_in().lamps.values()}
    found = recipes.nearest(rgb, lamps)
    assert len(found) == 3 and len({r.lamp for r in found}) == 3
    assert found[0].apart < 0.08 and all(0 < r.kept <= 1 for r in found)
    again = recipes.uv_of_rgb(found[0].rgb)
    assert np.linalg.norm(again - recipes.uv_of_rgb(rgb)) < found[0].apart + 0.05


# -- flat, slender, small -----------------------------------------------------------------------------------


@pytest.mark.parametrize("size", [(150, 150, 12), (300, 20, 20), (220, 60, 8), (250, 40, 18)])
def test_flat_and_slender_boxes_are_cut_finer(size):
    assert shape.finer(size) > 1.2 and shape.finer((165, 44, 19)) == 1.0
    low = np.array([[0.1 * i * size[0], 0.3 * size[2]] for i in range(1, 9)])
    windows = shape.Windows(np.full(8, 3), low, low + np.array([3.0, 0.3 * size[2]]), np.full(8, 0.1))
    light = beams((0.3 * size[0], 0.5 * size[1], 0.4 * size[2]), aim=(1, 0, 0))
    ours = dr.lit(en.enclosure(size, [0.88] * 6, windows), light)[0]
    fine = dr.lit(en.enclosure(size, [0.88] * 6, windows, cells=round(4000 / shape.finer(size))), light)[0]
    assert np.abs(ours / fine - 1).max() < 0.04


@given(st.floats(0.05, 0.95), st.floats(0.05, 0.95), st.floats(0.2, 3.0), st.floats(0.2, 3.0), st.integers(0, 5))
def test_small_panes_see_what_panes_see(x, y, w, h, face):
    size, grids = (100.0, 40.0, 30.0), []
    lines = [np.linspace(0, s, n + 1) for s, n in zip(size, (10, 4, 3), strict=True)]
    for axis, end in shape.FACES:
        u, v = ff.in_plane(axis)
        grids.append(ff.Grid(axis, size[axis] * end, -1 if end else 1, lines[u], lines[v]))
    own = grids[face]
    u, v = ff.in_plane(own.axis)
    a, b = w + x * (size[u] - 2 * w), h + y * (size[v] - 2 * h)
    pane = own._replace(u=np.array([[a - w, a + w]]), v=np.array([[b - h, b + h]]))
    others = [g for i, g in enumerate(grids) if i != face]
    quick = np.concatenate([ff.exchange_of_small(pane, g)[0] for g in others])
    exact = np.concatenate([ff.exchange(pane, g)[0] for g in others])
    # Cell by cell a little off, but nothing is lost: all it sees is inside of the box.
    assert np.abs(quick - exact).max() < 0.004 * 4 * w * h
    assert quick.sum() == pytest.approx(4 * w * h, rel=3e-3)
    assert not ff.exchange_of_small(pane, own).any()


@given(st.integers(1, 200), st.integers(0, 10**6))
@settings(deadline=None, max_examples=25)
def test_the_inverse_factor_solves_the_system(n, seed):
    rng = np.random.default_rng(seed)
    a = rng.random((n, n))
    system = a @ a.T / n + np.eye(n)
    root = en._inverse_factor(system)
    assert np.allclose(root.T @ (root @ system), np.eye(n), atol=1e-8)
    with pytest.raises(np.linalg.LinAlgError):
        en._inverse_factor(system - 2.0 * np.linalg.eigvalsh(system)[-1] * np.eye(n))


def test_orders_of_beams_keep_their_light():
    """Lambertian, narrow, order 0 and all round: each lamp's light arrives once, whatever the others are."""
    box = en.enclosure((60, 50, 40), [0.5] * 6)
    mixed = Beams(
        np.tile([30.0, 25.0, 20.0], (4, 1)), np.tile([0.0, 0.6, 0.8], (4, 1)), np.array([1.0, 12.0, 0.0, -1.0])
    )
    together = dr.direct_cells(box, mixed)
    assert box.area @ together * 1e-6 == pytest.approx(np.ones(4))
    for i in range(4):
        alone = dr.direct_cells(box, Beams(*(x[i : i + 1] for x in mixed)))
        assert together[:, i] == pytest.approx(alone[:, 0], rel=1e-12)
    # Half of it goes before it, evenly, or on all sides alike.
    behind = (box.centre - mixed.at[0]) @ mixed.aim[0] < -20
    assert not together[behind, 2].any() and together[behind, 3].all()


def test_a_window_sees_through_a_slot_only_the_part_of_the_floor_that_it_can():
    """A sheet before a window leaves a slot of 1.9 mm: one bounce of a white floor, summed by hand over small patches of it.

    The near cells of the floor are lit on the side that the window doesn't see: their mean told a third too much.
    """
    size = (139.4, 37.2, 14.6)
    sheet = Baffle(1, 24.2, (91.2, 1.9), (139.4, 12.7), 0.0)
    windows = shape.Windows(np.array([1]), np.array([[12.8, 3.3]]), np.array([[17.8, 6.8]]), np.array([0.0]))
    box = en.enclosure(size, (0, 0, 0, 0, 0.6, 0), windows, [sheet])
    lamp = beams((122.6, 29.6, 14.1))
    found = float(dr.lit(box, lamp)[0][0, 0])
    n = 500
    x, y = (a.ravel() for a in np.meshgrid((np.arange(n) + 0.5) / n * size[0], (np.arange(n) + 0.5) / n * size[1]))
    floor = np.column_stack([x, y, np.zeros(n * n)])
    lux = illuminance(floor, np.tile([0.0, 0.0, 1.0], (n * n, 1)), lamp, [sheet])[:, 0]
    shares = (np.arange(8) + 0.5) / 8
    total = 0.0
    for a, b in ((a, b) for a in shares for b in shares):
        d = np.array([size[0], 12.8 + 5.0 * a, 3.3 + 3.5 * b]) - floor
        t = (24.2 - floor[:, 1]) / d[:, 1]
        px, pz = floor[:, 0] + t * d[:, 0], t * d[:, 2]
        hidden = (t > 0) & (t < 1) & (px > 91.2) & (pz > 1.9) & (pz < 12.7)
        total += float((lux * 0.6 * d[:, 2] * d[:, 0] / (d**2).sum(axis=1) ** 2 / math.pi * ~hidden).sum())
    known = total * size[0] * size[1] / n**2 / 64
    assert found == pytest.approx(known, rel=0.06)
