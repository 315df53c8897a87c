"""Drills for a hole: metric, numbered, and fractions of an inch."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.fibre.drills import drill_of


@pytest.mark.parametrize(
    ("hole", "inch", "inch_mm"),
    [(1.55, "1/16 in", 1.5875), (3.1, "1/8 in", 3.175), (2.3, "3/32 in", 2.381), (0.55, "", 0.0), (4.7, "3/16 in", 4.7625), (12.9, "", 0.0), (6.35, "1/4 in", 6.35)],
)  # fmt: skip
def test_the_next_fraction_of_an_inch_where_it_is_near(hole, inch, inch_mm):
    """By hand: 1/16 in is 25.4 / 16 = 1.5875 mm; for 0.55 mm the next is 1/32 in, 0.794 mm: far too wide."""
    found = drill_of(hole)
    assert (found.inch, found.inch_mm) == (inch, pytest.approx(inch_mm, abs=6e-4))


@given(st.floats(0.2, 14.0))
def test_no_drill_is_narrower_than_the_hole_nor_much_wider(hole):
    found = drill_of(hole)
    assert hole - 1e-6 <= found.metric_mm <= hole + 0.0501
    if found.number:
        assert hole - 1e-6 <= found.number_mm <= hole + 0.121
    if found.inch:
        parts = Fraction(found.inch.removesuffix(" in"))
        assert parts.denominator in (1, 2, 4, 8, 16, 32, 64) and float(parts) * 25.4 == pytest.approx(
            found.inch_mm, abs=1e-3
        )
        assert hole - 1e-3 <= found.inch_mm <= hole + max(0.121, 0.0601 * hole)
