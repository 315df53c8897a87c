"""Patterns, scores, timers: against closed forms and what must always hold."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gwiazda.core.effect import patterns, timers
from gwiazda.core.effect.noise import uniform
from gwiazda.core.effect.score import Part, Score, changes_per_s, levels, means


def over(seconds: float, channels: int = 1, count: int = 200_000) -> np.ndarray:
    return np.broadcast_to((np.arange(count) + 0.5) * (seconds / count), (channels, count))


def part(rows, light, **fields) -> Part:
    given_ = {"start_s": 0.0, "length_s": math.inf, "again_s": math.inf, "stack": "base", "speeds": (1.0,) * len(rows)}
    return Part(tuple(rows), light, None, **{**given_, **fields})


def lit(level: float):
    return lambda t: patterns.steady(t, level)


# -- patterns ---------------------------------------------------------------------------------------------


@given(st.floats(0.05, 20), st.floats(0, 1), st.floats(0, 1), st.floats(0, 0.4), st.floats(0.4, 1))
@settings(max_examples=40, deadline=None)
def test_a_blink_has_the_mean_of_its_duty(period, duty, phase, low, high):
    found = patterns.blink(over(period), patterns.Rhythm(period, phase, 0.0), duty, patterns.Levels(low, high)).mean()
    assert found == pytest.approx(patterns.mean_of_blink(duty, low, high), abs=2e-5)


@given(st.integers(1, 6), st.floats(0.01, 0.2), st.floats(0.01, 0.2), st.floats(0.01, 2))
@settings(max_examples=40, deadline=None)
def test_flashes_have_the_mean_of_their_time(count, on, gap, rest):
    period = count * on + (count - 1) * gap + rest
    found = patterns.flashes(
        over(period, 2), patterns.Rhythm(period, 0.3, 0.25), count, on, gap, patterns.Levels(0.0, 1.0)
    ).mean(axis=1)
    assert found == pytest.approx([patterns.mean_of_flashes(period, count, on, 0.0, 1.0)] * 2, abs=1e-4)


def test_a_double_flash_is_lit_when_it_says():
    at = np.array([[0.0, 0.049, 0.051, 0.199, 0.201, 0.249, 0.251, 0.999, 1.001]])
    found = patterns.flashes(at, patterns.Rhythm(1.0, 0.0, 0.0), 2, 0.05, 0.15, patterns.Levels(0.0, 1.0))[0]
    assert found.tolist() == [1, 1, 0, 0, 1, 1, 0, 0, 1]


@given(st.floats(0, 1), st.floats(0, 1), st.booleans())
@settings(max_examples=40, deadline=None)
def test_a_ramp_has_the_mean_of_its_integral(low, high, eye):
    found = patterns.pulse(over(3.0), patterns.Rhythm(3.0, 0.0, 0.0), patterns.Levels(low, high), False, eye)
    assert found.mean() == pytest.approx(patterns.mean_of_ramp(low, high, eye), abs=1e-6)
    assert found.min() >= min(low, high) - 1e-9 and found.max() <= max(low, high) + 1e-9


def test_half_way_to_the_eye_is_a_fifth_of_the_light():
    """L* of 50 is a luminance of 18.4 %: the grey card's well-known figure."""
    assert float(patterns.light_for_eye(0.5)) == pytest.approx(0.184, abs=0.001)
    levels_ = np.linspace(0, 1, 101)
    assert patterns.eye_for_light(patterns.light_for_eye(levels_)) == pytest.approx(levels_, abs=1e-4)


def test_two_colours_throb_against_each_other():
    a, b = patterns.pulse(over(2.0, 2), patterns.Rhythm(2.0, 0.0, 0.5), patterns.Levels(0.0, 1.0), True, False)
    assert a + b == pytest.approx(np.ones_like(a), abs=1e-9)


@pytest.mark.parametrize("smooth", [True, False])
def test_flicker_is_even_between_its_levels_and_each_channel_its_own(smooth):
    found = patterns.flicker(over(3000.0, 3), 8.0, patterns.Levels(0.2, 0.8), smooth, 5)
    assert found.mean(axis=1) == pytest.approx([0.5] * 3, abs=0.01)
    assert found.min() >= 0.2 and found.max() <= 0.8 and abs(np.corrcoef(found)[0, 1]) < 0.02


@pytest.mark.parametrize(("program", "count"), [("run", 1), ("bounce", 1), ("walk", 1)])
def test_a_chase_has_one_lit_at_a_time_and_goes_step_by_step(program, count):
    found = patterns.chase(
        over(60.0, 7, 6000), 0.1, patterns.Runner(program, 1, 0.0, False), patterns.Levels(0.0, 1.0), 3
    )
    assert (found.sum(axis=0) == count).all()
    head = found.argmax(axis=0)
    jumps = np.abs(np.diff(head))
    assert set(jumps.tolist()) <= ({0, 1, 6} if program == "run" else {0, 1})
    assert set(head.tolist()) == set(range(7)), "it comes to every channel"


def test_a_chase_backwards_is_its_mirror():
    on, back = (
        patterns.chase(over(5.0, 5, 500), 0.1, patterns.Runner("run", 2, 0.5, b), patterns.Levels(0.0, 1.0), 1)
        for b in (False, True)
    )
    assert np.array_equal(on, back[::-1])


def test_fill_sparkle_and_mixed():
    fill = patterns.chase(
        np.broadcast_to(np.arange(6) * 0.1 + 0.01, (5, 6)),
        0.1,
        patterns.Runner("fill", 1, 0.0, False),
        patterns.Levels(0.0, 1.0),
        1,
    )
    assert fill.sum(axis=0).tolist() == [0, 1, 2, 3, 4, 5]
    sparkle = patterns.chase(
        over(500.0, 10, 5000), 0.1, patterns.Runner("sparkle", 3, 0.0, False), patterns.Levels(0.0, 1.0), 1
    )
    assert sparkle.mean() == pytest.approx(0.3, abs=0.01)
    mixed = patterns.chase(
        over(10.0, 5, 1000), 0.1, patterns.Runner("mixed", 1, 0.0, False), patterns.Levels(0.0, 1.0), 1
    )
    assert mixed.shape == (5, 1000) and 0 < mixed.mean() < 1


@given(st.integers(0, 10**6), st.integers(-5, 5000))
@settings(max_examples=60, deadline=None)
def test_noise_is_the_same_wherever_it_is_asked_for(seed, moment):
    assert uniform(seed, 3, np.arange(moment, moment + 4))[2] == uniform(seed, 3, moment + 2)
    assert 0.0 <= float(uniform(seed, 3, moment)) < 1.0


def test_stages_come_one_after_another():
    found = patterns.stages(np.broadcast_to(np.array([0.0, 0.5, 1.5, 2.5, 9.0]), (5, 5)), 1.0, 0.4, 0)
    assert (found[:, 1:] > 0.99).sum(axis=0).tolist() == [1, 2, 3, 5]
    two = patterns.stages(np.broadcast_to(np.array([0.5, 1.5]), (4, 2)), 1.0, 0.0, 2)
    assert two.sum(axis=0).tolist() == [2, 4]


def test_steps_are_held_or_glide():
    t = np.array([[0.0, 1.0, 1.5, 2.0, 9.0]])
    assert patterns.steps(t, [1.0, 2.0], [0.2, 0.8], False)[0].tolist() == [0.0, 0.2, 0.2, 0.8, 0.8]
    assert patterns.steps(t, [1.0, 2.0], [0.2, 0.8], True)[0] == pytest.approx([0.0, 0.2, 0.5, 0.8, 0.8])


def test_who_is_awake_is_a_share_and_changes_one_by_one():
    found = patterns.awake(over(4000.0, 40, 4000), 0.6, 20.0, 2)
    assert found.mean() == pytest.approx(0.6, abs=0.02)
    changed = np.abs(np.diff(found, axis=1)).sum(axis=0)
    assert changed.max() <= 8, "they don't all go at once"


# -- scores -----------------------------------------------------------------------------------------------


def test_cues_stack_base_modifier_mask():
    score = Score(
        ("a", "b"),
        (1.0, 0.0),
        (
            part([0, 1], lit(0.5), start_s=2.0, length_s=2.0),
            part([0], lit(0.5), start_s=3.0, stack="modifier"),
            part(
                [1],
                lambda t: patterns.blink(t, patterns.Rhythm(1.0, 0.0, 0.0), 0.5, patterns.Levels(0.0, 1.0)),
                stack="mask",
            ),
        ),
    )
    light, draw = levels(score, [0.0, 2.1, 3.1, 3.6, 5.1])
    assert light[0].tolist() == [1.0, 0.5, 0.25, 0.25, 0.5]
    assert light[1].tolist() == [0.0, 0.5, 0.5, 0.0, 0.0] and np.array_equal(light, draw)


def test_again_speed_and_events():
    blink = part(
        [0], lambda t: patterns.blink(t, patterns.Rhythm(1.0, 0.0, 0.0), 0.5, patterns.Levels(0.0, 1.0)), speeds=(2.0,)
    )
    assert levels(Score(("a",), (0.0,), (blink,)), [0.2, 0.3, 0.6])[0][0].tolist() == [1, 0, 1]
    again = part([0], lit(1.0), start_s=1.0, length_s=0.5, again_s=2.0)
    assert levels(Score(("a",), (0.0,), (again,)), [0.5, 1.2, 1.8, 3.2, 3.6])[0][0].tolist() == [0, 1, 0, 1, 0]
    pressed = part([0], lit(1.0), start_s=0.5, length_s=1.0, events=(2.0, 2.8))
    at = [0.6, 2.4, 2.6, 3.2, 3.4, 4.2, 4.4]
    assert levels(Score(("a",), (0.0,), (pressed,)), at)[0][0].tolist() == [0, 0, 1, 1, 1, 1, 0]


def test_a_lamp_that_flashes_by_itself_needs_its_channel_lit():
    own = part([1], lambda t: patterns.blink(t, patterns.Rhythm(1.0, 0.0, 0.0), 0.5, patterns.Levels(0.0, 1.0)))
    off = part([0], lit(0.0), start_s=5.0)
    light, _ = levels(Score(("a", "lamp"), (1.0, 0.0), (own, off), ((1, 0),)), [1.2, 1.7, 6.2])
    assert light[1].tolist() == [1, 0, 0]


def test_means_of_an_hour():
    flash = part(
        [0],
        lambda t: patterns.flashes(t, patterns.Rhythm(1.1, 0.0, 0.0), 1, 0.05, 0.1, patterns.Levels(0.0, 1.0)),
        period_s=1.1,
    )
    begun = part([1], lambda t: patterns.fade(t, 5.0, 0.0, 1.0, False), start_s=1800.0)
    dimmed = [
        part(
            [2],
            lambda t: patterns.blink(t, patterns.Rhythm(0.7, 0.0, 0.0), 0.3, patterns.Levels(0.0, 1.0)),
            period_s=0.7,
        ),
        part([2], lit(0.5), stack="modifier"),
    ]
    light, draw = means(Score(("a", "b", "c", "d"), (1.0, 0.0, 0.0, 1.0), (flash, begun, *dimmed)), 3600.0)
    assert light[0] == pytest.approx(0.05 / 1.1, rel=0.005)
    assert light[1] == pytest.approx((1800.0 - 2.5) / 3600.0, rel=0.002)
    assert light[2] == pytest.approx(0.15, rel=0.03) and light[3] == 1.0
    assert np.array_equal(light, draw)


@given(st.lists(st.floats(0, 500), min_size=1, max_size=8), st.integers(0, 1000))
@settings(max_examples=30, deadline=None)
def test_a_moment_is_the_same_in_any_company(moments, seed):
    """Asked for alone or among others, in any order: no state."""
    score = Score(
        ("a", "b", "c"),
        (1.0, 1.0, 1.0),
        (
            part(
                [0, 1, 2],
                lambda t: patterns.chase(
                    t, 0.13, patterns.Runner("mixed", 1, 0.6, False), patterns.Levels(0.0, 1.0), seed
                ),
            ),
            part([1], lambda t: patterns.flicker(t, 9.0, patterns.Levels(0.2, 1.0), True, seed), stack="modifier"),
        ),
    )
    together, _ = levels(score, moments)
    for k, t in enumerate(moments):
        assert np.array_equal(levels(score, [t])[0][:, 0], together[:, k])


@pytest.mark.parametrize("program", ["run", "bounce", "fill", "mixed"])
@pytest.mark.parametrize("n", [1, 2, 7])
def test_the_mean_of_a_chase_is_that_of_a_long_look(program, n):
    """One round against twenty minutes of it, tail and all."""
    from gwiazda.core.assess.show.scoring import period_of
    from gwiazda.core.plan.model import Chase

    does = Chase(step_s=0.1, program=program, tail=0.6, width=2)
    level = lambda t: patterns.chase(t, 0.1, patterns.Runner(program, 2, 0.6, False), patterns.Levels(0.0, 1.0), 1)  # noqa: E731
    once = part(range(n), level, period_s=period_of(does, n))
    names, rest = tuple(map(str, range(n))), (1.0,) * n
    found, _ = means(Score(names, rest, (once,)), 3600.0)
    assert found == pytest.approx(level(over(1200.0, n, 120_000)).mean(axis=1), abs=0.01)


def test_how_often_it_flashes():
    ten = part(
        [0],
        lambda t: patterns.blink(t, patterns.Rhythm(0.1, 0.0, 0.0), 0.5, patterns.Levels(0.0, 1.0)),
        start_s=5.0,
        length_s=2.0,
    )
    rate, swing = changes_per_s(Score(("a", "b"), (0.0, 1.0), (ten,)), 0.0, 20.0)
    assert rate.tolist() == [10.0, 0.0] and swing.tolist() == [1.0, 0.0]


# -- timers -----------------------------------------------------------------------------------------------


def test_a_timer_by_its_charging_curve():
    """Against the capacitor's own curve, stepped: from a third to two thirds of the supply and back."""
    r1, r2, c, v, dt = 10e3, 47e3, 1e-6, 1 / 3, 1e-6
    up = down = 0.0
    while v < 2 / 3:
        v += (1.0 - v) / ((r1 + r2) * c) * dt
        up += dt
    while v > 1 / 3:
        v -= v / (r2 * c) * dt
        down += dt
    found = timers.timer_555(r1, r2, c)
    assert (found.high_s, found.low_s) == (pytest.approx(up, rel=1e-3), pytest.approx(down, rel=1e-3))
    assert found.rate_hz == pytest.approx(1.443 / ((r1 + 2 * r2) * c), rel=1e-3) and found.duty > 0.5
    assert timers.timer_555(r1, r2, c, diode=True).duty == pytest.approx(r1 / (r1 + r2))
    assert timers.one_shot_s(100e3, 10e-6) == pytest.approx(1.1, rel=0.002)
    assert timers.divider_4060_hz(100e3, 10e-9, 14) == pytest.approx(1 / (2.3 * 1e-3) / 16384)


@given(st.floats(0.2, 200))
@settings(max_examples=40, deadline=None)
def test_parts_for_a_rate_come_near_it(rate):
    from gwiazda.core.circuit.series import values

    shelf = values("E24")
    found = timers.parts_for(rate, shelf, (0.01, 0.1, 1.0, 10.0, 100.0))
    assert found is not None and found.timing.rate_hz == pytest.approx(rate, rel=0.06)
    assert found.r1_ohm >= 1e3 and found.r1_ohm + found.r2_ohm <= 1e6 * 1.001


def test_a_counters_output_gets_weaker_with_less_supply():
    assert timers.output_ohm(5.0) == 400.0 and timers.output_ohm(12.0) == 200.0 and 200 < timers.output_ohm(9.0) < 400
