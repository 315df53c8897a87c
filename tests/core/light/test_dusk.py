"""From which light of the room down a light shows: by hand at five rooms, monotone, and by the thresholds it is made of."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.light.dusk import LEAST_LX, LEVELS, MOST_LX, Seen, glow_back, level_of, until_lx
from gwiazda.core.light.visibility import contrast

PANE = Seen("pane", 30.0, 0.5, 0.2)


def test_a_pane_by_hand_at_five_rooms():
    """30 cd/m² before a hull of .5, its pane throwing .2 back: at E the hull has .5·E/π, the pane 30 + .2·E/π.

    Window 2,000 lx: 318 against 157, darker than the hull: looks dark. Office 500: 79.6 against 61.8, dark. Exhibition 200: 31.8 against
    42.7, shows; clearly would be 159. Evening lamp 30: 4.8, clearly (23.9), not striking (95). Candle 1: .16, striking (3.2); under 100 it
    glares in no room.
    """
    assert [level_of(PANE, lux) for lux in (2000.0, 500.0, 200.0, 30.0, 1.0)] == [0, 0, 1, 2, 3]
    # It shows while 30 ≥ .3·E/π + C·(.5·E/π + .05), C = .01 where the hull has over 3 cd/m²: 309 lx.
    shows = until_lx(PANE, 1)
    assert pytest.approx(
        0.3 * shows / math.pi + 0.01 * (0.5 * shows / math.pi + 0.05), rel=1e-6
    ) == 30.0 and shows == pytest.approx(309.0, abs=1.0)
    assert until_lx(PANE, 2) == pytest.approx(30.0 * math.pi / 2.5) == pytest.approx(37.7, abs=0.05)
    assert until_lx(PANE, 3) == pytest.approx(30.0 * math.pi / 10.0) and until_lx(PANE, 4) == 0.0


def test_a_point_by_hand_against_the_thresholds():
    """2.35 mcd at 0.6 m give the eye 6.53 mlx: clearly until 1 + √(.4·L) = 16.4, L = 596 (over noon), striking 5.19 and 44.1.

    Its veil a degree off is .065 cd/m²: over .05 + .5·E/π only under 0.1 lx. A flood of 60 mcd lays 1.67: until 10 lx.
    """
    masthead = Seen("point", 2.35e-3, 0.5)
    assert until_lx(masthead, 2) == MOST_LX
    ground = (math.sqrt(2.35e-3 / 0.36 / (1e3 * 0.242e-6)) - 1.0) ** 2 / 0.4
    assert until_lx(masthead, 3) == pytest.approx(ground * math.pi / 0.5, rel=1e-6) == pytest.approx(277.0, abs=2.0)
    assert until_lx(masthead, 4) == 0.0
    assert until_lx(Seen("point", 0.06, 0.5), 4) == pytest.approx((10.0 * 0.06 / 0.36 - 0.05) * math.pi / 0.5, rel=1e-6)


@pytest.mark.parametrize(("hull", "mcd"), [(0.32, 0.016), (4.5, 0.048), (32.0, 0.18)])
def test_clearly_seen_points_of_the_published_figures(hull, mcd):
    """Before so many cd/m² at 0.6 m a point of so many mcd is clearly seen, and a tenth less is not."""
    lux = hull * math.pi / 0.5
    assert (
        level_of(Seen("point", mcd * 1.06e-3, 0.5), lux) == 2 and level_of(Seen("point", mcd * 0.93e-3, 0.5), lux) == 1
    )


def test_what_is_dark_inside_stays_dark_and_white_inside_shines_grey():
    """A pane of T .85: with black behind next to nothing comes back, with white lined walls and large windows much."""
    assert glow_back(0.02, 0.85, 0.04) < 0.001
    assert glow_back(0.2, 0.85, 0.88) == pytest.approx(0.85**2 * 0.2 * 0.88 / (1.0 - 0.88 * 0.8))
    # The lighter the inside, the less light of the room its own lamps stand out against.
    shows = [until_lx(Seen("pane", 5.0, 0.1, 0.1 + glow_back(0.2, 0.85, r)), 1) for r in (0.04, 0.5, 0.88)]
    assert shows == sorted(shows, reverse=True) and shows[0] > shows[-1]


@given(st.floats(0.0, 1.0), st.floats(0.0, 1.0), st.floats(0.0, 1.0))
def test_no_more_comes_back_than_falls_in(share, through, inside):
    assert 0.0 <= glow_back(share, through, min(inside, 0.999)) <= through**2 + 1e-9


lights = st.builds(
    Seen,
    st.sampled_from(["pane", "point", "wash"]),
    st.floats(-6.0, 4.0).map(lambda x: 10.0**x),
    st.floats(0.02, 0.9),
    st.floats(0.0, 0.9),
    st.floats(0.2, 3.0),
)


@given(lights, st.floats(-1.0, 3.4), st.floats(-1.0, 3.4))
def test_the_darker_the_room_the_more_it_shows(light, a, b):
    bright, dark = 10.0 ** max(a, b), 10.0 ** min(a, b)
    assert level_of(light, dark) >= level_of(light, bright)


@given(lights)
def test_the_limits_are_where_the_level_changes(light):
    limits = [until_lx(light, level) for level in range(1, len(LEVELS) + 1)]
    assert limits == sorted(limits, reverse=True)
    for level, lux in enumerate(limits, 1):
        if LEAST_LX < lux < MOST_LX:
            assert level_of(light, lux * 0.999) >= level > level_of(light, lux * 1.001)


def test_a_wash_shows_where_it_adds_the_contrast_that_is_seen():
    wash = Seen("wash", 1.0, 0.4)
    lux = until_lx(wash, 1)
    hull = 0.4 * lux / math.pi
    assert contrast(hull) * (hull + 0.05) == pytest.approx(1.0, rel=1e-6)
