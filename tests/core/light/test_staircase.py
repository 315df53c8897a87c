"""One's own brightness: simulated people of whom the truth is known, and what must hold of any answers."""

from __future__ import annotations

import math
import subprocess
import sys

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.light.staircase import (
    ANSWERS,
    MOMENT,
    PEOPLE,
    TOO_FAR,
    USUAL,
    Comparison,
    _normal,
    answer_chances,
    estimate,
    next_three,
)

E12 = tuple(0.03 * 10 ** (k / 12) for k in range(30))  # levels a drawer of E12 gives: 0.03 to 8 × the usual
rising = st.lists(st.floats(-2.5, 2.5), min_size=3, max_size=3, unique=True).map(sorted)


def said(rng: np.random.Generator, ideal: float, levels: tuple[float, ...], moment: float, too_far: float) -> str:
    """What a person answers who wants ``ideal`` × the usual, give or take from one look to the next."""
    now = math.log(ideal) + rng.normal(0.0, moment)
    off = [abs(math.log(x) - now) for x in levels]
    nearest = int(np.argmin(off))
    return ANSWERS[nearest] if off[nearest] <= too_far else "none"


def people(count: int, seed: int, moment: float = MOMENT, too_far: float = TOO_FAR, answers: int = 6) -> list[tuple]:
    rng = np.random.default_rng(seed)
    found = []
    for _ in range(count):
        truth = min(max(math.exp(rng.normal(0.0, PEOPLE)), 0.1), 5.0)
        compared: list[Comparison] = []
        for _ in range(answers):
            at = next_three(compared, E12)
            assert at is not None
            levels = tuple(E12[i] for i in at)
            compared.append(Comparison(levels, said(rng, truth, levels, moment, too_far), "a lamp"))
        found.append((truth, estimate(compared)))
    return found


@pytest.mark.parametrize(("moment", "too_far"), [(0.2, 1.8), (0.1, 1.8), (0.2, 2.6)])
def test_after_six_answers_nine_of_ten_are_known_within_a_quarter(moment: float, too_far: float) -> None:
    found = people(80, 11, moment, math.log(too_far))
    near = [abs(math.log(scale.value / truth)) <= math.log(1.25) for truth, scale in found]
    assert sum(near) >= 0.9 * len(near)
    inside = [scale.band()[0] <= truth <= scale.band()[1] for truth, scale in found]
    assert np.mean(inside) >= 0.82, "what is called likely is"


def test_more_answers_make_it_surer() -> None:
    three = np.mean([s.here for _, s in people(25, 3, answers=3)])
    nine = np.mean([s.here for _, s in people(25, 3, answers=9)])
    assert nine < 0.75 * three


@given(rising, st.floats(-2.5, 2.5), st.floats(0.05, 0.6), st.floats(0.1, 1.5))
def test_of_four_answers_one_is_given(levels: list[float], ideal: float, moment: float, too_far: float) -> None:
    chances = answer_chances(np.array(levels), np.array([ideal]), moment, too_far)
    assert chances.shape == (4, 1) and chances.sum() == pytest.approx(1.0, abs=1e-9) and (chances > 0.0).all()


@given(rising, st.sampled_from(ANSWERS))
def test_seen_in_a_mirror_it_is_the_inverse(levels: list[float], answer: str) -> None:
    mirrored = {"left": "right", "right": "left"}.get(answer, answer)
    a, b, c = (math.exp(v) for v in levels)
    one = estimate([Comparison((a, b, c), answer)])
    other = estimate([Comparison((1 / c, 1 / b, 1 / a), mirrored)])
    assert one.value * other.value == pytest.approx(1.0, rel=0.02)


def test_an_answer_pulls_where_it_points() -> None:
    levels = (0.5, 1.0, 2.0)
    low, mid, high = (estimate([Comparison(levels, a)] * 3).value for a in ANSWERS[:3])
    assert low < 0.75 < mid < 1.4 < high
    assert mid == pytest.approx(1.0, abs=0.03)
    up = estimate([Comparison((0.1, 0.2, 0.4), "none")])
    assert up.value > 1.0, "all three far below the usual, and none will do: more is wanted"


def test_with_no_answer_a_word_means_what_it_usually_does() -> None:
    assert estimate([]) == USUAL and USUAL.value == 1.0 and not USUAL.sure


def test_a_second_lamp_tells_its_own_light_from_the_person() -> None:
    levels = (0.8, 1.2, 1.8)
    one = estimate([Comparison(levels, "middle", "a lamp")] * 6)
    two = estimate([Comparison(levels, "middle", "a lamp")] * 3 + [Comparison(levels, "middle", "another")] * 3)
    assert one.value == two.value and one.here == two.here
    assert two.elsewhere < one.elsewhere


def test_the_next_three_stand_about_what_is_known() -> None:
    compared = [Comparison((0.5, 1.0, 2.0), "right")] * 4
    at = next_three(compared, E12)
    assert at is not None and at[0] < at[1] < at[2]
    assert E12[at[0]] < estimate(compared).value < E12[at[2]]


def test_two_levels_are_too_few() -> None:
    assert next_three([], (0.5, 1.0)) is None
    assert next_three([], (0.5, 1.0, 2.0)) == (0, 1, 2)


def test_thousands_of_odd_answers_still_give_a_figure():
    odd = [Comparison((1e-6, 2e-6, 1e6), "middle"), Comparison((1e5, 2e5, 1e6), "left")] * 1000
    scale = estimate(odd)
    assert math.isfinite(scale.value) and scale.value > 0.0 and scale.here > 0.0
    assert next_three(odd, E12) is not None


def test_what_a_start_needs_of_it_loads_no_scipy():
    code = (
        "import sys; from gwiazda.core.light.staircase import Comparison, estimate; "
        "estimate([Comparison((0.5, 1.0, 2.0), 'left')]); print('scipy' in sys.modules)"
    )
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert said.stdout.strip() == "False"


def test_the_table_is_the_normal_distribution():
    from scipy.special import ndtr

    x = np.linspace(-9.0, 9.0, 7777)
    assert np.abs(_normal(x) - ndtr(x)).max() < 5e-6
