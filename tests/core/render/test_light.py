"""Photometry, cavity, colour, glare, tone and the night picture, against closed forms and invariants."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter
from scipy.special import erf

from gwiazda.core.colour import colour
from gwiazda.core.light import photometry
from gwiazda.core.light.glazing import Pane, stack
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.radiosity import cavity
from gwiazda.core.render import glare, night, raster, tone
from gwiazda.core.render import layers as render
from gwiazda.core.render.night import Layer, NightPicture


def test_beam_of_120_degrees_is_lambertian():
    assert photometry.beam_order(120.0) == pytest.approx(1.0)
    assert photometry.beam_flux_lm(0.300, 1.0) == pytest.approx(0.942, abs=1e-3)


@given(st.floats(5, 170))
def test_half_intensity_is_at_half_the_beam(beam):
    m = photometry.beam_order(beam)
    assert math.cos(math.radians(beam / 2)) ** m == pytest.approx(0.5)


@given(st.floats(0, 30))
def test_flux_is_the_integral_of_the_beam(m):
    angle = np.linspace(0, np.pi / 2, 20_001)
    integral = np.trapezoid(np.cos(angle) ** m * 2 * np.pi * np.sin(angle), angle)
    assert photometry.beam_flux_lm(1.0, m) == pytest.approx(integral, rel=1e-4)


def test_inverse_square_and_cosine():
    at, aim, up = np.array([0.0, 0, 0]), np.array([0.0, 0, 1]), np.array([0.0, 0, -1])
    assert photometry.illuminance_lx(1.0, 1.0, at, aim, np.array([0, 0, 1000.0]), up) == pytest.approx(1.0)
    assert photometry.illuminance_lx(1.0, 1.0, at, aim, np.array([0, 0, 500.0]), up) == pytest.approx(4.0)
    # 45° off, on a plane at 1 m: cos 45 of the beam, cos 45 of the patch, half of 1/r².
    assert photometry.illuminance_lx(1.0, 1.0, at, aim, np.array([1000.0, 0, 1000.0]), up) == pytest.approx(0.25)
    assert photometry.illuminance_lx(1.0, 1.0, at, aim, np.array([0, 0, -500.0]), -up) == 0
    assert photometry.illuminance_lx(1.0, 1.0, at, aim, np.array([0, 0, 500.0]), -up) == 0


@given(st.floats(0.0001, 1.0), st.sampled_from(sorted(built_in().families)))
def test_current_and_light_are_inverse(share, family):
    droop = built_in().families[family].droop
    current = photometry.current_for_light(share, 0.02, droop)
    assert float(photometry.relative_light(current, 0.02, droop)) == pytest.approx(share)
    assert photometry.light_share(current, 0.02, droop) == pytest.approx(share)


def test_small_currents_lose_efficiency_again():
    """White: k .88 to a tenth of the rated current, 1.15 below; at 1 % that is .1^.88 · .1^1.15 = .00933."""
    white, red = (built_in().families[f].droop for f in ("white", "red"))
    assert photometry.light_share(0.0002, 0.02, white) == pytest.approx(0.1**0.88 * 0.1**1.15)
    assert photometry.light_share(0.0002, 0.02, red) == pytest.approx(0.05 * 0.2**1.1)
    efficiency = [photometry.light_share(x, 0.02, white) / x for x in (0.0002, 0.002, 0.02)]
    assert efficiency[0] < efficiency[1] > efficiency[2], "most light for the current lies between"


@given(st.floats(0.0, 0.95), st.floats(0.0, 0.95), st.floats(0.0, 2.0))
def test_mean_reflectance_lies_between(lining, pane, share):
    found = cavity.mean_reflectance(1.0, lining, np.array([share]), np.array([pane]))
    assert min(lining, pane) - 1e-12 <= found <= max(lining, pane) + 1e-12


def test_mist_coats_stack():
    """Each coat on top of the others, with the reflections between them: not 0.72 to the power of coats."""
    table = built_in().glazings
    one = Pane(table["mist-1"].transmittance, table["mist-1"].scattered, table["mist-1"].reflectance)
    for n in range(1, 6):
        found, listed = stack((one,) * n), table[f"mist-{n}"]
        assert (found.transmittance, found.reflectance) == pytest.approx(
            (listed.transmittance, listed.reflectance), abs=0.004
        )
        assert found.scattered == pytest.approx(listed.scattered, abs=1e-3)
    assert all(g.transmittance + g.reflectance <= 1.0 for g in table.values())


@pytest.mark.parametrize("cct", [2700, 2900, 4000, 5000, 6500, 7000])
def test_whites_lie_on_the_black_body_locus(cct):
    found = colour.xyz(colour.white(cct))
    assert found[:2] / found.sum() == pytest.approx(colour.planck_xy(cct), abs=1e-6)
    pump, peak = colour.white_parameters(cct)
    assert pump > 0 and 540 < peak < 640


def test_equal_energy_is_a_third_each():
    total = colour.xyz(np.ones(81))
    assert total / total.sum() == pytest.approx([1 / 3] * 3, abs=2e-4)


def test_black_body_chromaticity_of_illuminant_a():
    assert colour.planck_xy(2855.5) == pytest.approx([0.4476, 0.4074], abs=5e-4)


@pytest.mark.parametrize("part", [p.id for p in built_in().lamps.values()])
def test_lamp_colours_have_unit_luminance(part):
    rgb = np.array(colour.linear_srgb(colour.spectrum_of(built_in().lamps[part].spectrum)))
    assert rgb @ colour.LUMINANCE == pytest.approx(1.0) and (rgb >= 0).all()


def test_lamp_hues_are_what_they_are_called():
    hue = {p.colour: colour.linear_srgb(colour.spectrum_of(p.spectrum)) for p in built_in().lamps.values()}
    assert np.argmax(hue["red"]) == 0 and np.argmax(hue["green"]) == 1 and np.argmax(hue["blue"]) == 2
    assert hue["warm white"][0] / hue["warm white"][2] > hue["neutral white"][0] / hue["neutral white"][2] > 1.2
    assert hue["amber"][1] > hue["orange"][1] > hue["red"][1]


def test_error_function():
    x = np.linspace(-8, 8, 4001)
    assert np.abs(glare.erf(x) - erf(x)).max() < 3e-6


def test_spread_follows_the_glare_function():
    """Encircled light of the sum of Gaussians against the CIE function it stands for."""
    angle = np.geomspace(0.1, 20, 4000)
    age, pigment = 35.0, 0.5
    density = 10 / angle**3 + (5 / angle**2 + 0.1 * pigment / angle) * (1 + (age / 62.5) ** 4) + 0.0025 * pigment
    ring = density * 2 * np.pi * np.sin(np.radians(angle))
    inside = np.concatenate([[0], np.cumsum(0.5 * (ring[1:] + ring[:-1]) * np.diff(np.radians(angle)))])
    for theta in (0.1, 0.3, 1.0, 3.0, 9.0):
        beyond = inside[-1] - np.interp(theta, angle, inside)
        sigma = np.array(glare.SIGMA_ARCMIN) / 60
        ours = np.array(glare.WEIGHT) @ np.exp(-(theta**2) / (2 * sigma**2))
        assert ours == pytest.approx(beyond, rel=0.08)
    assert sum(glare.WEIGHT) == pytest.approx(1.0)


def test_spread_keeps_the_light_and_matches_a_convolution():
    sigma, weights = np.array([1.5, 4.0]), np.array([0.7, 0.3])
    x0, x1, y0, y1 = (np.array([v]) for v in (40.0, 52.0, 30.0, 41.0))
    found = glare.spread(glare.Rects(x0, x1, y0, y1), np.array([10.0]), glare.Blur(sigma, weights), (100, 80))
    sharp = np.zeros((80, 100))
    sharp[30:41, 40:52] = 10.0
    expected = sum(
        w * gaussian_filter(sharp, s, mode="constant", truncate=8) for s, w in zip(sigma, weights, strict=True)
    )
    assert np.abs(found - expected).max() < 0.08
    assert found.sum() == pytest.approx(10.0 * 12 * 11, rel=1e-3)


@given(
    st.floats(0.6, 200.0), st.floats(-20.0, 320.0), st.floats(0.5, 50.0), st.sampled_from(["along", "down"])
)  # fmt: skip
def test_a_blurred_slab_is_its_closed_form_at_any_width(sigma, low, wide, way):
    """However its blur is worked out, and wherever it lies between the pixels or beyond the picture's edge."""
    edges, ends = (np.array([low]), np.array([low + wide])), (np.array([-9e3]), np.array([9e3]))
    args = (*edges, *ends, 300, 5) if way == "along" else (*ends, *edges, 5, 300)
    found = glare.spread(glare.Rects(*args[:4]), np.ones(1), glare.Blur(np.array([sigma]), np.ones(1)), args[4:])
    line = found[2] if way == "along" else found[:, 2]
    x = np.arange(300) + 0.5
    exact = 0.5 * (erf((x - low) / sigma / 2**0.5) - erf((x - low - wide) / sigma / 2**0.5))
    np.testing.assert_allclose(line, exact, atol=0.01 * erf(wide / 2 / sigma / 2**0.5))


@given(st.lists(st.tuples(st.floats(0, 60), st.floats(0, 40), st.floats(0.1, 9)), min_size=1, max_size=7))
def test_light_adds(lights):
    a = np.array(lights)
    rects = glare.Rects(a[:, 0], a[:, 0] + 5, a[:, 1], a[:, 1] + 3)
    blur = glare.Blur(np.array([1.0, 6.0]), np.array([0.8, 0.2]))
    together = glare.spread(rects, a[:, 2], blur, (64, 48))
    one = [glare.Rects(*(v[i : i + 1] for v in rects)) for i in range(len(a))]
    alone = sum(glare.spread(r, a[i : i + 1, 2], blur, (64, 48)) for i, r in enumerate(one))
    np.testing.assert_allclose(together, alone, atol=2e-4)


@given(
    st.lists(st.tuples(st.floats(-20, 120), st.floats(-20, 90), st.floats(0.1, 9), st.floats(0, 5)), min_size=1, max_size=6),
    st.lists(st.floats(0.5, 120.0), min_size=1, max_size=4),
)  # fmt: skip
def test_lights_apart_are_spread_as_those_in_rows_are(lights, sigma):
    """One light at a time, in two colours, by patches and on coarser grids, against the closed form along both ways."""
    a, s = np.array(lights), np.array(sigma)
    x0, y0, value = a[:, 0], a[:, 1], np.column_stack([a[:, 2], a[:, 3]])
    weights = np.tile((np.arange(len(s)) + 1.0)[:, None], (1, len(a)))
    found = np.zeros((2, 70, 100), np.float32)
    glare.spread_apart(found, glare.Rects(x0, x0 + 5, y0, y0 + 3), value, glare.Blur(s, weights))
    exact = np.zeros((2, 70, 100))
    peak = 0.0

    def share(low, wide, width, places):
        return 0.5 * (erf((places - low) / width / 2**0.5) - erf((places - low - wide) / width / 2**0.5))

    for n in range(len(a)):
        for k, width in enumerate(s):
            part = np.outer(share(y0[n], 3, width, np.arange(70) + 0.5), share(x0[n], 5, width, np.arange(100) + 0.5))
            exact += (k + 1.0) * value[n][:, None, None] * part
            peak += (k + 1.0) * value[n].max() * erf(1.5 / width / 2**0.5) * erf(2.5 / width / 2**0.5)
    np.testing.assert_allclose(found, exact, atol=0.005 * peak + 1e-6)


def test_strips_of_a_disc_have_its_area():
    x0, x1, y0, y1 = glare.disc_strips(10, 20, 6.0, 9)
    assert np.sum((x1 - x0) * (y1 - y0)) == pytest.approx(np.pi * 36)


def test_polygon_mask():
    mask = raster.polygon_mask(np.array([[2, 2], [12, 2], [12, 7], [2, 7.0]]), 20, 10)
    assert mask.sum() == 50 and mask[2:7, 2:12].all()
    triangle = raster.polygon_mask(np.array([[0, 0], [40, 0], [0, 40.0]]), 50, 50)
    assert triangle.sum() == pytest.approx(800, abs=41)
    off = raster.polygon_mask(np.array([[-10, -10], [5, -10], [5, 5], [-10, 5.0]]), 20, 20)
    assert off.sum() == 25


def test_screen_table_rises_and_halves_at_the_middle():
    value = np.geomspace(1e-6, 1e6, 500).astype(np.float32)
    shown = on_screen(np.stack([value] * 3)[:, None], tone.screen_table(10.0))[0, 0]
    # The two tables together may round one code value down where they meet.
    assert (np.diff(shown.astype(int)) >= -1).all() and shown[0] == 0 and shown[-1] == 255
    (middle, none) = on_screen(
        np.array([10.0, 0.0], np.float32) * np.ones((3, 1, 1), np.float32), tone.screen_table(10.0)
    )[0, 0]
    assert middle == pytest.approx(255 * tone.to_srgb(np.array(0.5)), abs=1) and none == 0


@pytest.mark.parametrize("compiled", [False, True])
@pytest.mark.parametrize(
    ("name", "peak", "width"), [("amber", 590, 16), ("blue", 468, 24), ("red", 630, 20), ("green", 525, 33)]
)
def test_a_bright_light_keeps_its_hue(name, peak, width, compiled, monkeypatch):
    """From dim to glaring a colour goes lighter and never another way round: amber isn't yellow, blue isn't cyan."""
    if compiled:
        night.load_kernel()
    else:
        monkeypatch.setattr(night, "_kernel", None)
    rgb = np.array(colour.linear_srgb(colour.gaussian(peak, width)))
    assert rgb.min() >= 0 and rgb @ night.LUMINANCE == pytest.approx(1.0)
    hues = []
    for cd_m2 in (0.05, 0.5, 5.0, 100.0):
        hull = (rgb[:, None, None] * np.full((1, 1), cd_m2)).astype(np.float32)
        b, g, r, _ = NightPicture(hull).frame(tone.screen_table(10.0))[0, 0].astype(float)
        linear = np.where(
            np.array([r, g, b]) <= 10,
            np.array([r, g, b]) / 255 / 12.92,
            ((np.array([r, g, b]) / 255 + 0.055) / 1.055) ** 2.4,
        )
        spread = linear - linear.min()
        if spread.max() > 0.01:
            hues.append(spread / spread.max())
    assert len(hues) >= 2 and all(np.abs(h - hues[-2]).max() < 0.06 for h in hues), name


def test_exposure_steps_are_factors_of_two():
    assert tone.middle_luminance(0.3, 1.0) == pytest.approx(tone.middle_luminance(0.3, 0.0) / 2)
    assert tone.hull_luminance(100.0, 0.5) == pytest.approx(15.915, abs=1e-3)


def layers(seed: int = 0, count: int = 6, height: int = 90, width: int = 130) -> list[Layer]:
    rng = np.random.default_rng(seed)
    out = []
    for i in range(count):
        y0, x0 = int(rng.integers(0, 40)), int(rng.integers(0, 60))
        h, w = int(rng.integers(1, height - y0)), int(rng.integers(1, width - x0))
        rgb = ((1.8, 0.8, 0.2), (0.0, 1.3, 0.4))[i % 2]
        out.append(Layer(f"c{i // 2}", rgb, y0, x0, rng.random((h, w), dtype=np.float32)))
    return out


def on_screen(total: np.ndarray, table: tone.ScreenTable) -> np.ndarray:
    """The tone curve on the luminance, colours scaled with it and mixed with white where the screen ends; as written down."""
    y = np.tensordot(night.LUMINANCE.astype(float), total.astype(float), axes=1)
    scale = table.scale[y.astype(np.float32).view(np.uint32) >> 15]
    rgb, y = total * scale, y * scale
    most = rgb.max(axis=0)
    share = np.where(most > 1, (1 - np.minimum(y, 1)) / np.maximum(most - np.minimum(y, 1), 1e-12), 1.0)
    rgb = np.where(most > 1, np.minimum(y, 1) + (rgb - np.minimum(y, 1)) * share, rgb)
    return table.code[np.maximum(rgb, 0).astype(np.float32).view(np.uint32) >> 15]


def direct(hull: np.ndarray, parts: list[Layer], weights: dict[str, float], table: tone.ScreenTable) -> np.ndarray:
    total = np.stack([hull] * 3).astype(np.float64)
    for layer in parts:
        h, w = layer.pixels.shape
        for plane in range(3):
            total[plane, layer.y0 : layer.y0 + h, layer.x0 : layer.x0 + w] += (
                weights.get(layer.channel, 1.0) * layer.rgb[plane] * layer.pixels
            )
    return on_screen(total.astype(np.float32), table)


@pytest.mark.parametrize("compiled", [False, True])
def test_a_frame_is_the_weighted_sum(compiled, monkeypatch):
    if compiled:
        night.load_kernel()
    else:
        monkeypatch.setattr(night, "_kernel", None)
    hull = np.full((90, 130), 0.05, np.float32)
    table = tone.screen_table(1.0)
    picture = NightPicture(hull, layers())
    rng = np.random.default_rng(1)
    weights: dict[str, float] = {}
    for frame in range(40 + night.QUIET_FRAMES):
        if frame < 30 and frame % 3 == 0:
            weights = {**weights, f"c{rng.integers(0, 3)}": float(rng.uniform(0, 1.5))}
        found = picture.frame(table, weights)
        expected = direct(hull, layers(), weights, table)
        for plane, place in ((0, 2), (1, 1), (2, 0)):
            # Sums in another order may round to the neighbouring code value.
            assert np.abs(found[:, :, place].astype(int) - expected[plane].astype(int)).max() <= 1
    assert not picture._moving, "channels that stand still are summed into the base again"


def test_channels_are_replaced_and_removed():
    hull = np.zeros((90, 130), np.float32)
    table = tone.screen_table(1.0)
    parts = layers()
    picture = NightPicture(hull, parts)
    other = [layer._replace(pixels=layer.pixels * np.float32(0.3)) for layer in parts if layer.channel == "c1"]
    picture.set_layers(other)
    kept = [layer for layer in parts if layer.channel != "c1"]
    assert (
        np.abs(picture.frame(table)[:, :, 2].astype(int) - direct(hull, kept + other, {}, table)[0].astype(int)).max()
        <= 1
    )
    picture.remove("c1")
    picture.remove("never there")
    assert np.abs(picture.frame(table)[:, :, 2].astype(int) - direct(hull, kept, {}, table)[0].astype(int)).max() <= 1
    luminance = picture.luminance_at(70, 50)
    assert luminance == pytest.approx(sum(
        sum(c * k for c, k in zip(layer.rgb, (0.2126, 0.7152, 0.0722), strict=True)) * layer.pixels[50 - layer.y0, 70 - layer.x0]
        for layer in kept
        if layer.y0 <= 50 < layer.y0 + layer.pixels.shape[0] and layer.x0 <= 70 < layer.x0 + layer.pixels.shape[1]
    ), rel=1e-4)  # fmt: skip


def test_layers_are_cropped_to_where_they_can_be_seen():
    picture = np.zeros((40, 50), np.float32)
    picture[10:15, 20:30] = 1.0
    layer = night.cropped("a", (1, 1, 1), picture, 0.5, y0=100, x0=200)
    assert (layer.y0, layer.x0, layer.pixels.shape) == (110, 220, (5, 10))
    assert night.cropped("a", (1, 1, 1), picture, 2.0) is None


CAMERA = render.Camera(200, 120, (0.0, 0.0), 2.0, 0.6)


def channel(panes=(), values=(), discs=(), disc_values=(), washes=()):
    return render.ChannelLight(
        "c", (1.0, 1.0, 1.0), np.array(panes, float).reshape(-1, 4), np.array(values, float),
        np.array(discs, float).reshape(-1, 4), np.array(disc_values, float), tuple(washes),
    )  # fmt: skip


def test_a_large_pane_shows_its_own_luminance():
    relief = render.Relief((), CAMERA)
    layer = render.render(channel([(20, 80, 10, 50)], [30.0]), CAMERA, relief, 1e-6)
    # What spreads far is lost from the middle; most of it is still there.
    assert 0.75 * 30 < layer.pixels[60 - layer.y0, 100 - layer.x0] < 30


def test_a_point_keeps_its_intensity_whatever_the_scale():
    relief = render.Relief((), CAMERA)
    for scale in (1.0, 2.0, 5.0):
        camera = CAMERA._replace(scale=scale, width=int(100 * scale), height=int(60 * scale))
        layer = render.render(channel(discs=[(50, 30, 0.25, math.inf)], disc_values=[1000.0]), camera, relief, 1e-9)
        near = layer.pixels.sum() / scale**2
        # The widest part of the glare falls outside the frame.
        assert near == pytest.approx(1000 * math.pi * 0.25**2 * 0.97, rel=0.03)


def test_wash_is_the_inverse_square_law_on_the_hull():
    surface = render.Surface(np.array([[0, 0], [100, 0], [100, 60], [0, 60.0]]), 0.0, 0.5)
    relief = render.Relief((surface,), CAMERA)
    wash = render.Wash((50.0, 30.0, 10.0), (0.0, 0.0, -1.0), 1.0, 0.010)
    layer = render.render(channel(washes=[wash]), CAMERA, relief, 1e-9)
    straight = 0.5 * 0.010 / 0.010**2 / math.pi
    assert layer.pixels[60 - layer.y0, 100 - layer.x0] == pytest.approx(straight, rel=0.01)
    # Aside, cos⁴ for a Lambertian lamp; the middle of a pixel lies a quarter of a mm on.
    square = 10.0**2 + 10.25**2 + 0.25**2
    assert layer.pixels[60 - layer.y0, 120 - layer.x0] == pytest.approx(straight * (100 / square) ** 2, rel=1e-3)


def test_a_lamp_behind_the_hull_is_not_seen():
    surface = render.Surface(np.array([[0, 0], [100, 0], [100, 60], [0, 60.0]]), 5.0, 0.5)
    relief = render.Relief((surface,), CAMERA)
    hidden = channel(discs=[(50, 30, 1.0, -5.0)], disc_values=[50.0])
    assert render.render(hidden, CAMERA, relief, 1e-6) is None
    seen = channel(discs=[(50, 30, 1.0, 9.0)], disc_values=[50.0])
    assert render.render(seen, CAMERA, relief, 1e-6) is not None
