"""Beliefs against closed forms, and against draws."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import t, truncnorm

from gwiazda.core.statistics.beliefs import Belief, elsewhere, scale_of, truncated, widened, wild


def test_two_readings_of_one_thing_are_the_textbook_s_weighted_mean():
    """By hand: prior 0 ± .2, readings .1 and .3 with ±.1 each: (.1 + .3)/.01 over 1/.04 + 2/.01 = 40/225 = .1778, ± √(1/225)."""
    on = np.full((2, 1), 0.2)
    belief = Belief.before(1).after(on, np.array([0.1, 0.3]), np.array([0.1, 0.1]))
    (mean,), (sigma,) = belief.of(on[:1])
    assert mean == pytest.approx(40.0 / 225.0) and sigma == pytest.approx(1.0 / 15.0)


def test_what_is_common_is_told_from_what_is_one_lamps_own():
    """Five lamps of a bag read half as bright again: it is the bag. One of five: it is the lamp."""
    bag, own = 0.2, 0.1
    on = np.hstack([np.full((5, 1), bag), np.eye(5) * own])
    noise = np.full(5, 0.05)
    all_of_them = Belief.before(6).after(on, np.full(5, 0.4), noise)
    assert all_of_them.mean[0] * bag > 0.33
    one = Belief.before(6).after(on, np.array([0.4, 0.0, 0.0, 0.0, 0.0]), noise)
    assert one.mean[0] * bag < 0.08 and one.mean[1] * own > 0.2


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 12))
def test_readings_all_at_once_or_one_by_one_teach_the_same_and_never_unteach(seed, n):
    rng = np.random.default_rng(seed)
    on, read, noise = rng.normal(size=(n, 4)), rng.normal(size=n), rng.uniform(0.1, 1.0, n)
    whole, single = Belief.before(4).after(on, read, noise), Belief.before(4)
    for k in range(n):
        before = single
        single = single.after(on[k : k + 1], read[k : k + 1], noise[k : k + 1])
        assert (np.diag(single.covariance) <= np.diag(before.covariance) + 1e-12).all()
    assert np.allclose(whole.mean, single.mean) and np.allclose(whole.covariance, single.covariance)
    assert (np.linalg.eigvalsh(whole.covariance) > 0).all()


@pytest.mark.parametrize(("low", "high"), [(-1.0, 0.5), (0.2, math.inf), (-math.inf, -1.0), (2.0, 2.5), (-0.1, 0.1)])
def test_a_normal_between_two_ends(low, high):
    mean, variance = truncated(low, high)
    assert mean == pytest.approx(truncnorm.mean(low, high), abs=1e-6)
    assert variance == pytest.approx(truncnorm.var(low, high), abs=1e-6)


def test_a_reading_far_off_what_all_others_say_is_wild_and_a_bag_that_is_off_is_not():
    on, noise = np.full((6, 1), 0.2), np.full(6, 0.1)
    together = np.array([0.5, 0.52, 0.45, 0.5, 0.55, 0.49])
    assert wild(Belief.before(1), on, together, noise) == []
    alone = together.copy()
    alone[3] = -0.4
    assert wild(Belief.before(1), on, alone, noise) == [3]


def test_an_interval_leaves_the_mean_and_variance_of_what_lies_between():
    belief = Belief.before(2).within(np.array([0.2, 0.0]), 0.0, math.inf, 0.0)
    assert belief.mean[0] == pytest.approx(math.sqrt(2.0 / math.pi), rel=1e-6), "a half normal"
    assert belief.covariance[0, 0] == pytest.approx(1.0 - 2.0 / math.pi) and belief.covariance[1, 1] == 1.0


def test_scatter_that_is_twice_the_house_s_is_said_so_with_the_house_as_four_readings():
    rng = np.random.default_rng(3)
    noise = np.full(400, 0.1)
    scale, degrees = scale_of(Belief.before(1), np.zeros((400, 1)), rng.normal(0.0, 0.2, 400), noise)
    assert scale == pytest.approx(2.0, rel=0.06) and degrees > 390
    assert scale_of(Belief.before(1), np.zeros((0, 1)), np.zeros(0), np.zeros(0)) == (1.0, 3)
    assert widened(1.0, 3) == pytest.approx(t.ppf(0.95, 3) / 1.6449, rel=1e-3)


def test_another_bag_is_told_half_as_much_and_with_a_wider_band():
    """By hand for one bag known exactly: half of .2² is its kind's, so half of what it is off by, ± √(.75)·.2."""
    mean, sigma = elsewhere([(0.3, 1e-6)], 0.2)
    assert mean == pytest.approx(0.15, rel=1e-3) and sigma == pytest.approx(0.2 * math.sqrt(0.75), rel=1e-3)
    assert elsewhere([], 0.2) == pytest.approx((0.0, 0.2))
    many, surer = elsewhere([(0.3, 0.05)] * 20, 0.2)
    # Each bag was read as .32: its own prior had drawn it down to .3.
    assert 0.29 < many < 0.32 and 0.2 * math.sqrt(0.5) < surer < sigma


@settings(max_examples=3, deadline=None)
@given(st.integers(0, 1000))
def test_the_next_bag_lies_in_its_band_nine_times_in_ten(seed):
    rng = np.random.default_rng(seed)
    tau, noise, inside = 0.2, 0.05, 0
    for _ in range(2000):
        kind = rng.normal(0.0, tau * math.sqrt(0.5))
        bags = kind + rng.normal(0.0, tau * math.sqrt(0.5), 3)
        read = bags[:2] + rng.normal(0.0, noise, 2)
        held = 1.0 / tau**2 + 1.0 / noise**2
        mean, sigma = elsewhere([(float(r) / noise**2 / held, held**-0.5) for r in read], tau)
        inside += abs(bags[2] - mean) < 1.645 * sigma
    assert 0.875 < inside / 2000 < 0.925
