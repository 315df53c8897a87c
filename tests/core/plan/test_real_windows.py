"""Windows as the real thing has them, at the model's scale."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.plan.model import Box, Kit, Section
from gwiazda.core.plan.real_windows import BUILT_MM, WINDOW_M, real_words, usual_window, window_mm

DECK = Section(id="deck", name="Deck", box=Box(at=(0.0, 0.0, 0.0), size=(165.0, 44.0, 19.0)))


@pytest.mark.parametrize(("kind", "scale", "size"), [("ship", 200.0, (4.5, 5.0)), ("aircraft", 72.0, (3.5, 4.9)), ("vehicle", 35.0, (14.0, 10.45)), ("spacecraft", 1000.0, (1.2, 1.2))])  # fmt: skip
def test_a_row_is_of_windows_that_are_real(kind, scale, size):
    """By hand: 0.9 m over 200 is 4.5 mm; a cab's 0.7 m at 1/35 would be 20 mm, more than is built, and as high as its wall allows."""
    window = usual_window(Kit(kind=kind, scale=scale), DECK, "port")
    assert (window.width_mm, window.height_mm) == pytest.approx(size, abs=0.06)


def test_it_is_said_what_that_is_on_the_real_one():
    assert real_words(4.5, 5.0, 200.0) == "0.9 × 1 m on the real one"
    assert real_words(3.0, 3.0, 1000.0) == "3 × 3 m on the real one", "one sees that it is too large"


@given(st.sampled_from(sorted(WINDOW_M)), st.floats(1.0, 20_000.0), st.floats(2.0, 80.0), st.sampled_from(["port", "bow", "top", "bottom"]))  # fmt: skip
def test_it_always_can_be_cut_and_has_room(kind, scale, high, side):
    section = Section(id="s", name="S", box=Box(at=(0.0, 0.0, 0.0), size=(60.0, 20.0, high)))
    window = usual_window(Kit(kind=kind, scale=scale), section, side)
    assert 0.0 < window.width_mm <= BUILT_MM[1] and 0.0 < window.height_mm <= BUILT_MM[1]
    low, most = BUILT_MM
    assert all(low <= x <= most for x in window_mm(WINDOW_M[kind], scale))
    if side == "port":
        assert window.height_mm <= 0.55 * high + 0.06
