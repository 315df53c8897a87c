"""The six sides of the model, and how a view of each lies on its sheet."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.plan.frame import DRAWN_AS, NORMALS, OPPOSITE, PLANES, SHEET, SIDES, face_number, from_sheet, to_sheet
from gwiazda.core.plan.model import Box, Outline, Section

PLACE = st.tuples(*[st.floats(-500.0, 500.0)] * 3)


def axis(side, which):
    """One of a sheet's own directions (right, down, toward the viewer) on the model."""
    out = np.zeros(3)
    out[PLANES[side][which]] = SHEET[side][which]
    return out


@pytest.mark.parametrize("side", SIDES)
def test_a_sheet_is_seen_as_the_model_is_and_not_in_a_mirror(side):
    right, down, toward = (axis(side, k) for k in range(3))
    assert np.array_equal(np.cross(right, -down), toward), "right and up make toward the viewer"
    assert np.array_equal(toward, NORMALS[side]), "one looks at it from where it faces"


@pytest.mark.parametrize("side", SIDES)
def test_sides_across_face_away_from_each_other(side):
    other = OPPOSITE[side]
    assert OPPOSITE[other] == side and np.array_equal(NORMALS[side], -np.array(NORMALS[other]))
    assert face_number(side) ^ 1 == face_number(other) and DRAWN_AS[side] == DRAWN_AS[other] in (side, other)


@given(st.sampled_from(SIDES), PLACE)
def test_a_place_comes_back_from_the_sheet(side, place):
    right, down, _ = to_sheet(side, place)
    h, v, _ = PLANES[side]
    assert from_sheet(side, right, down) == (place[h], place[v])


def test_the_bow_lies_left_from_below_and_port_on_top():
    bow, port = to_sheet("bottom", (100.0, 0.0, 0.0)), to_sheet("bottom", (0.0, 20.0, 0.0))
    assert bow[0] < 0.0 and port[1] < 0.0 and to_sheet("top", (0.0, 20.0, 0.0))[1] > 0.0


def test_outlines_of_the_side_across_serve_where_there_are_none_of_its_own():
    square = ((0.0, 0.0), (9.0, 0.0), (9.0, 9.0))
    above, port = Outline(side="top", points=square), Outline(side="port", points=square)
    section = Section(id="s", name="S", box=Box(at=(0.0, 0.0, 0.0), size=(9.0, 9.0, 9.0)), outlines=(above, port))
    assert (
        section.drawn("bottom") == (above,) and section.drawn("starboard") == (port,) and section.drawn("stern") == ()
    )
    keel = Outline(side="bottom", points=((1.0, 1.0), *square[1:]))
    both = Section(id="s", name="S", box=section.box, outlines=(above, keel))
    assert both.drawn("bottom") == (keel,) and both.drawn("top") == (above,)
