"""The eye anywhere: facing, hidden by other parts, a lamp on the straight line through the opening, energy of nothing."""

from __future__ import annotations

import math

import pytest

from decks import cabin
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.sight.rose import COUNT, rose_of, words_of
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Box, Obstacle, Plan, Section, copy_unchecked
from gwiazda.core.plan.naming import name_of


def rose(plan: Plan, heights=(0.0,)):
    return rose_of(plan, assess(plan, built_in()), "w", heights)


def test_a_lamp_shows_where_its_line_passes_the_pane():
    found = rose(cabin())
    for look in found.looks:
        facing = math.cos(math.radians(look.azimuth_deg)) > 0.05
        assert look.seen == facing == look.lit, look
        # By hand: the line from lamp to an eye at 600 mm crosses the wall 15 mm on, tan(az)·15 aside; the pane has 3 mm.
        aside = abs(math.tan(math.radians(look.azimuth_deg))) * 15.0
        if facing and abs(aside - 3.0) > 0.5:
            assert bool(look.lamp) == (aside < 3.0), look
    assert found.lamps == ("p",) and f"{name_of(cabin(), 'p')} shows in plain sight" in words_of(cabin(), found)
    assert 0.0 < found.lamp_shows < 0.5


def test_from_above_the_line_is_steeper():
    level, above = rose(cabin(), (0.0,)), rose(cabin(), (30.0,))
    straight = next(x for x in above.looks if x.azimuth_deg == 0.0)
    assert not straight.lamp, "15 mm · tan 30° = 8.7 mm above the line: past the pane’s edge"
    assert next(x for x in level.looks if x.azimuth_deg == 0.0).lamp == "p"


def test_behind_what_scatters_all_no_lamp_shows_and_nothing_changes_where_it_is_seen():
    clear, white = rose(cabin()), rose(cabin(glazing="styrene"))
    assert [x.seen for x in clear.looks] == [x.seen for x in white.looks]
    assert not white.lamps and "no lamp shows" in words_of(cabin(), white)


def test_what_stands_between_hides():
    plan = cabin()
    screen = Obstacle(id="o", box=Box(at=(20.0, 8.0, 2.0), size=(20.0, 1.0, 16.0)))
    screened = copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], obstacles=(screen,)),))
    assert rose(plan).lamps and not rose(screened).lamps
    # A house beside it, as high as it: what looked from there sees it no more.
    beside = edits.outline_from_box(
        Section(id="h", name="House", box=Box(at=(-60.0, 40.0, -20.0), size=(180.0, 40.0, 60.0)))
    )
    hidden = rose(copy_unchecked(plan, sections=(*plan.sections, beside)))
    assert not next(x for x in hidden.looks if x.azimuth_deg == 0.0).seen
    assert hidden.seen < rose(plan).seen


def test_dark_ones_and_those_that_lead_inside():
    dark = rose(copy_unchecked(cabin(), lamps=()))
    assert any(x.seen for x in dark.looks) and not any(x.lit for x in dark.looks)
    assert "no light falls" in words_of(cabin(), dark)
    plan = cabin()
    assert rose_of(plan, assess(plan, built_in()), "nothing") is None


@pytest.mark.parametrize("side", ["port", "starboard", "top", "bow", "stern"])
def test_half_the_ring_sees_a_wall_and_all_of_it_a_roof(side):
    at = {"port": (30.0, 20.0, 10.0), "starboard": (30.0, -20.0, 10.0), "top": (30.0, 0.0, 20.0), "bow": (60.0, 0.0, 10.0), "stern": (0.0, 0.0, 10.0)}[side]  # fmt: skip
    found = rose(cabin(side=side, at=at), (30.0,))
    seen = sum(x.seen for x in found.looks)
    assert seen == COUNT if side == "top" else seen == pytest.approx(COUNT / 2, abs=1)
