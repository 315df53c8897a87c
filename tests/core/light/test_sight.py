"""What the eye picks out, what small currents and cells give, what lies on what: against figures worked by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.light.photometry import Droop, current_for_light, light_share, relative_light
from gwiazda.core.light.scatter import Film, backed, kubelka_munk, over, through
from gwiazda.core.light.visibility import (
    CLEARLY,
    JUST,
    SEARCHED,
    STRIKING,
    contrast,
    critical_angle_rad,
    point_threshold_lx,
    point_words,
    visible_luminance,
    visible_slit,
    visible_spot,
)
from gwiazda.core.power.discharge import capacity_ah, first_crossing, hours_at_depth, unregulated
from gwiazda.core.render.tone import hull_luminance, into_gamut, middle_luminance, screen_table, to_srgb

# -- the eye ------------------------------------------------------------------------------------------------


def test_the_threshold_of_a_point_by_hand():
    """In the dark 0.242 µlx; before 10 cd/m² (1 + √4)² = 9 times that."""
    assert point_threshold_lx(0.0) == pytest.approx(0.242e-6)
    assert point_threshold_lx(10.0) == pytest.approx(9 * 0.242e-6)


def test_a_candle_at_its_known_range():
    """A candle in a dark night is seen from some kilometres: E = I/r² at the threshold gives 2.03 km, found when searched for 4.5 km."""
    assert math.sqrt(1.0 / point_threshold_lx(0.0)) == pytest.approx(2033, rel=1e-3)
    assert math.sqrt(1.0 / (SEARCHED * point_threshold_lx(0.0))) == pytest.approx(4545, rel=1e-3)


def test_a_dim_lamp_on_a_model_at_an_arms_length_is_striking():
    """1 mcd at 0.6 m lights the eye with 2.8 mlx: ten thousand times the threshold, and not just at it."""
    at_eye = 1e-3 / 0.6**2
    times = at_eye / point_threshold_lx(0.16)
    assert times > 5_000 and point_words(times) == "striking"


@pytest.mark.parametrize(
    ("times", "words"), [(0.5, "not seen"), (JUST, "just seen"), (CLEARLY, "clearly seen"), (STRIKING, "striking"), (1e9, "striking")]
)  # fmt: skip
def test_words_of_a_point(times, words):
    assert point_words(times) == words


def test_the_critical_angle_by_hand():
    """0.32 cd/m²: 2.94 %, so 0.0109 cd/m² is seen of an area; a fifth of 0.242·(1 + √0.128)² µlx of a point: 3.2 mrad, 11 minutes of arc."""
    assert contrast(0.32) == pytest.approx(0.03 - 0.02 * math.log10(0.32 / 0.3))
    assert (contrast(0.0), contrast(0.3), contrast(3.0), contrast(80.0)) == pytest.approx((0.03, 0.03, 0.01, 0.01))
    assert contrast(math.sqrt(0.9)) == pytest.approx(0.02), "half way, in log L"
    assert visible_luminance(0.32) == pytest.approx(0.0109, abs=1e-4)
    point = 0.2 * 0.242e-6 * (1 + math.sqrt(0.128)) ** 2
    expected = math.sqrt(4 * point / (math.pi * 0.0109))
    assert critical_angle_rad(0.32) == pytest.approx(expected, rel=2e-3)
    assert math.degrees(expected) * 60 == pytest.approx(11, abs=0.5)


@given(hull=st.floats(0.0, 50.0), angle=st.floats(1e-10, 1e-2))
def test_small_spots_need_more_and_their_light_is_what_counts(hull, angle):
    least = visible_spot(hull, angle)
    assert least >= visible_luminance(hull) * (1 - 1e-12)
    critical = math.pi / 4 * critical_angle_rad(hull) ** 2
    if angle < critical:
        assert least * angle == pytest.approx(visible_luminance(hull) * critical, rel=1e-6)
    else:
        assert least == pytest.approx(visible_luminance(hull))


def test_a_slit_of_a_tenth_of_a_millimetre_by_hand():
    """0.1 mm at 0.6 m is 0.57′: 0.79 × 11′/0.57′ = 15 times what an area needs."""
    assert visible_slit(0.32, 0.1, 0.6) / visible_luminance(0.32) == pytest.approx(15, rel=0.05)
    assert visible_slit(0.32, 50.0, 0.6) == visible_luminance(0.32)
    assert visible_slit(0.32, 0.1, 0.3) < visible_slit(0.32, 0.1, 0.6), "nearer is seen sooner"


# -- the screen ---------------------------------------------------------------------------------------------


@given(st.floats(1e-4, 1e5), st.floats(1e-3, 1e3))
def test_the_curve_halves_at_its_middle_and_never_passes_one(luminance, middle):
    table = screen_table(middle)
    index = np.array([luminance], dtype=np.float32).view(np.uint32) >> 15
    shown = float(table.scale[index[0]]) * luminance
    assert shown == pytest.approx(luminance / (luminance + middle), rel=0.005) and shown < 1.003


@given(st.tuples(*[st.floats(0.0, 4.0)] * 3))
def test_mixing_with_white_keeps_luminance_and_order(rgb):
    weights = np.array([0.2126, 0.7152, 0.0722])
    before = np.array(rgb, dtype=np.float32).reshape(3, 1)
    luminance = (weights @ before).astype(np.float32)
    after = before.copy()
    into_gamut(after, luminance)
    assert after.max() <= 1.0 + 1e-4 and after.min() >= -1e-4
    if luminance[0] <= 1.0:
        assert weights @ after == pytest.approx(luminance, abs=2e-3)
    order = np.argsort(before[:, 0], kind="stable")
    assert np.all(np.diff(after[order, 0]) >= -1e-4), "the strongest stays the strongest: hue is kept"


def test_amber_stays_amber_and_blue_stays_blue():
    """A curve on each channel makes bright amber yellow and bright blue cyan: this one doesn't."""
    for rgb in ((1.9, 0.75, 0.0), (0.3, 0.25, 10.0)):
        colour = np.array(rgb)
        luminance = 0.2126 * colour[0] + 0.7152 * colour[1] + 0.0722 * colour[2]
        shown = (colour / luminance * 0.6).astype(np.float32).reshape(3, 1)
        into_gamut(shown, np.array([0.6], dtype=np.float32))
        most, least = np.argmax(colour), np.argmin(colour)
        assert np.argmax(shown[:, 0]) == most and np.argmin(shown[:, 0]) == least
        middle = 3 - most - least
        spread = (shown[middle] - shown[least]) / (shown[most] - shown[least])
        asked = (colour[middle] - colour[least]) / (colour[most] - colour[least])
        assert spread == pytest.approx(asked, abs=0.01), "what lies between keeps its share: the hue"


def test_the_matt_hull_and_the_adaptation():
    assert hull_luminance(math.pi, 0.5) == pytest.approx(0.5)
    assert middle_luminance(0.3, 1.0) == pytest.approx(middle_luminance(0.3, 0.0) / 2)
    assert to_srgb(np.array([0.0, 1.0, 0.2140])) == pytest.approx([0.0, 1.0, 0.5], abs=1e-3)


# -- small currents, cells ------------------------------------------------------------------------------------

WHITE = Droop(0.9, 0.05, 1.2)


def test_droop_by_hand():
    """Half of the current gives 0.5^0.9 = 0.536 of the light; below the knee it falls faster."""
    assert light_share(0.010, 0.020, WHITE) == pytest.approx(0.5359, abs=1e-4)
    knee = 0.05**0.9
    assert light_share(0.0005, 0.020, WHITE) == pytest.approx(knee * 0.5**1.2)
    assert light_share(-0.01, 0.02, WHITE) == 0.0


@given(st.floats(1e-6, 2.0), st.sampled_from([WHITE, Droop(1.0), Droop(1.1, 0.02, 1.5), Droop(0.85, 0.1, 1.0)]))
def test_light_rises_with_current_and_back_again(share, droop):
    current = current_for_light(share, 0.02, droop)
    assert light_share(current, 0.02, droop) == pytest.approx(share, rel=1e-9)
    many = relative_light(np.array([current, current * 1.01]), 0.02, droop)
    assert many[0] == pytest.approx(share, rel=1e-9) and many[1] > many[0]
    knee = droop.knee or 0.1
    assert light_share(0.02 * knee * (1 - 1e-9), 0.02, droop) == pytest.approx(
        light_share(0.02 * knee, 0.02, droop), rel=1e-6
    )


def test_capacity_and_hours_by_hand():
    """2.6 Ah at 0.1 A of I50 0.9 A: 2.34 Ah, 23.4 h; at I50 half is left."""
    assert float(capacity_ah(0.1, 2.6, 0.9)) == pytest.approx(2.34)
    assert float(capacity_ah(0.9, 2.6, 0.9)) == pytest.approx(1.3)
    hours = hours_at_depth(np.linspace(0, 1, 11), np.full(11, 0.1), 2.6, 0.9)
    assert hours[-1] == pytest.approx(23.4) and np.all(np.diff(hours) > 0)


def test_where_a_curve_crosses():
    hours, volts = np.array([0.0, 10.0, 20.0]), np.array([9.0, 7.0, 5.0])
    assert first_crossing(hours, volts, 6.0) == pytest.approx(15.0)
    assert first_crossing(hours, volts, 4.0) == math.inf and first_crossing(hours, volts, 9.5) == 0.0
    with np.errstate(all="raise"):
        never = np.array([0.0, math.inf, math.inf])
        assert first_crossing(never, volts, 6.0) == math.inf, "next to no current"


def test_an_unregulated_adapter_falls_to_its_nominal_voltage():
    emf, ohms = unregulated(12.0, 0.5)
    assert emf == pytest.approx(16.8) and emf - 0.5 * ohms == pytest.approx(12.0)


# -- layers ---------------------------------------------------------------------------------------------------


def test_a_layer_without_absorption_by_hand():
    """Without absorption R = S·d/(1 + S·d): 3 of scatter send 75 % back and let 25 % through."""
    t, r = kubelka_munk(3.0, 0.0, 1.0)
    assert (t, r) == pytest.approx((0.25, 0.75))


def test_a_layer_that_only_absorbs_follows_its_density():
    t, r = kubelka_munk(1e-9, 2.0, 1.0)
    assert t == pytest.approx(math.exp(-2.0), rel=1e-6) and r < 1e-8


@given(st.floats(0.0, 30.0), st.floats(0.0, 5.0), st.floats(0.0, 4.0))
def test_energy_is_kept_and_two_coats_are_one_of_twice_the_thickness(scatter, absorb, thickness):
    one, two = kubelka_munk(scatter, absorb, thickness), kubelka_munk(scatter, absorb, 2 * thickness)
    assert 0 <= one[0] <= 1 and 0 <= one[1] <= 1 and sum(one) <= 1 + 1e-9
    assert over(one, one) == pytest.approx(two, abs=1e-6)


def test_what_lies_behind_shows_through():
    """R + T²·Rb/(1 − R·Rb), with R .6, T .4 before black and before a mirror: .6, and 1."""
    film = Film(0.4, 0.6, True, 0.0)
    assert backed(film, 0.0) == pytest.approx(0.6) and backed(film, 1.0) == pytest.approx(1.0)
    assert through([film, film]) == pytest.approx(0.4 * 0.4 / (1 - 0.36))
    assert through([Film(0.1, 0.05, False, 0.0)] * 2) == pytest.approx(0.01, rel=3e-3), (
        "densities add where little comes back"
    )
    # A white lining (two coats) on light grey plastic, by hand: 1/(1 − .879·.5) = 1.78 times what densities would give.
    lining, grey = Film(0.102, 0.879, True), Film(10**-0.66, 0.5, False)
    assert through([lining, grey]) == pytest.approx(0.102 * 10**-0.66 * 1.784, rel=1e-3)
    # By another way: light bounced to and fro, followed one passage after the other.
    down, out = 0.102, 0.0
    for _ in range(60):
        out += down * 10**-0.66
        down *= 0.5 * 0.879
    assert through([lining, grey]) == pytest.approx(out, rel=1e-6)
