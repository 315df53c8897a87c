"""Bundles, light along a fibre, bends: the worked chain, tables and invariants."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.fibre.bundle import RATIOS, bundle_mm, fibres_by_hand, most_fibres
from gwiazda.core.fibre.light import (
    BEND_DB,
    BEND_RATIOS,
    NA,
    POLISHED,
    SLEEVED,
    Course,
    at_tip,
    bend_db,
    coupled_share,
    guided_share,
    tip_cd,
)


def test_the_worked_chain():
    """0.5 mm, 200 mm long, cut ends, butted to a 3 mm face giving 1 lm with m = 1: 5.12 mlm and 6.5 mcd."""
    tip = at_tip(1.0, 0.5, 3.0, 1.0, Course(200.0))
    assert tip.flux_lm == pytest.approx(5.12e-3, rel=2e-3) and tip_cd(tip.flux_lm, 1.0) == pytest.approx(
        6.5e-3, rel=5e-3
    )
    # By hand: (1/6)² of the face, a quarter of a Lambertian within 30°, 0.96² of core, two ends of 0.9, 0.05 dB.
    assert tip.flux_lm == pytest.approx((1 / 36) * 0.25 * 0.96**2 * 0.81 * 10**-0.005, rel=1e-6)


def test_what_is_guided_of_a_lambertian_is_the_square_of_its_aperture():
    assert guided_share(1.0) == pytest.approx(NA**2, rel=1e-9)
    # A Lambertian keeps its luminance through the fibre: on the axis both ways of mixing agree.
    assert tip_cd(1.0, 1.0, 0.0) == pytest.approx(tip_cd(1.0, 1.0, 1.0), rel=1e-9)


def test_tables_of_bundles():
    assert [most_fibres(d, 1.0) for d in (1.0, 1.99, 2.0, 2.16, 3.0, 4.87, 6.76)] == [1, 1, 2, 3, 7, 19, 37]
    assert fibres_by_hand(3.0, 0.5) == 24 and bundle_mm(7, 0.5) == pytest.approx(1.5) and bundle_mm(0, 1.0) == 0.0
    assert list(RATIOS) == sorted(RATIOS)
    with pytest.raises(ValueError, match="above zero"):
        most_fibres(0.0, 0.5)


@given(st.floats(0.6, 40.0), st.floats(0.25, 3.0))
def test_no_bundle_holds_more_than_its_area(face, fibre):
    most = most_fibres(face, fibre)
    assert most * fibre**2 <= face**2 * 1.001 and 0 <= fibres_by_hand(face, fibre) <= most
    if most:
        assert bundle_mm(most, fibre) <= face * 1.01 and most_fibres(face * 1.5, fibre) >= most


@given(st.floats(0.25, 2.0), st.floats(2.0, 10.0), st.floats(0.0, 20.0), st.floats(1.0, 3000.0), st.floats(0.0, 10.0))
def test_no_light_is_made_on_the_way(fibre, face, order, length, bends):
    tip = at_tip(1.0, fibre, face, order, Course(length, bends))
    assert all(0.0 <= f <= 1.0 for f in tip[:8])
    assert tip.flux_lm == pytest.approx(math.prod(tip[:8]), rel=1e-9) and tip.flux_lm <= (fibre / face) ** 2
    better = at_tip(1.0, fibre, face, order, Course(length / 2, bends / 2, (POLISHED, POLISHED)))
    assert better.flux_lm > tip.flux_lm > 0.0


def test_bends_by_their_radius():
    assert [bend_db(r) for r in BEND_RATIOS] == pytest.approx(BEND_DB)
    # Bent cold and too tight it is dark for good; made warm it is lossy, the more the tighter.
    assert (
        bend_db(5.9, warm=False) == math.inf
        and at_tip(1.0, 0.5, 3.0, 1.0, Course(200.0, bend_db(4.0, warm=False))).flux_lm == 0.0
    )
    assert bend_db(6.0, warm=False) == bend_db(6.0) and bend_db(3.0) > bend_db(4.0) > bend_db(5.9) > 3.0
    falling = [bend_db(r) for r in (6, 8, 10, 12, 15, 20, 25, 40, 100)]
    assert falling == sorted(falling, reverse=True) and falling[-1] < 0.02
    assert all(bend_db(r, held=True) > bend_db(r) for r in (6, 10, 15, 25))
    assert bend_db(10.0, degrees=180.0) == pytest.approx(1.2) and bend_db(10.0, degrees=0.0) == 0.0


def test_a_gap_and_a_hot_sleeve_cost_what_they_cost():
    plain = at_tip(1.0, 0.5, 3.0, 1.0, Course(100.0))
    assert at_tip(1.0, 0.5, 3.0, 1.0, Course(100.0), SLEEVED).flux_lm == pytest.approx(0.6 * plain.flux_lm)
    assert at_tip(1.0, 0.5, 3.0, 1.0, Course(100.0, overheated=True)).flux_lm == pytest.approx(
        plain.flux_lm / 2, rel=3e-3
    )
    with pytest.raises(ValueError, match="no thicker than the face"):
        coupled_share(4.0, 3.0, 1.0)
