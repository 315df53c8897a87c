"""Sight through a window, and which part to take for a place."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.lamp.choice import choices
from gwiazda.core.assess.sight.eye import sight_at
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Box, copy_unchecked


def test_the_wedge_behind_a_window_by_hand():
    """An eye 20 mm before a port window 3 mm wide, seen from above: past both edges to the far wall 44 mm behind."""
    plan = deck_plan(windows=1, lamps=0)
    window = plan.openings[0]
    x, y, _ = window.at
    out = -1.0 if y < 0 else 1.0
    found = sight_at(plan, window, "top", x, y + out * 20.0)
    assert found.wedge is not None and 0 < found.share < 1
    xs = sorted({round(p[0] - x, 6) for p in found.wedge})
    # Edges at ±1.5; rays grow by (20 + 44)/20 on their way to the far wall.
    assert xs == pytest.approx([-4.8, -1.5, 1.5, 4.8])
    assert {round(p[1], 6) for p in found.wedge} == {y, -y}


def test_from_behind_the_wall_nothing_is_seen():
    plan = deck_plan(windows=1)
    window = plan.openings[0]
    assert sight_at(plan, window, "top", window.at[0], 0.0) == (0.0, (), None)


def test_a_lamp_straight_behind_the_window_is_seen_and_one_beside_it_is_not():
    plan = deck_plan(windows=1, lamps=2)
    window = plan.openings[0]
    behind = copy_unchecked(plan.lamps[0], at=(window.at[0], 0.0, window.at[2]))
    beside = copy_unchecked(plan.lamps[1], at=(window.at[0] + 60.0, 0.0, window.at[2]))
    plan = edits.replace(plan, {p.id: p for p in (behind, beside)})
    out = -1.0 if window.at[1] < 0 else 1.0
    found = sight_at(plan, window, "top", window.at[0], window.at[1] + out * 200.0)
    assert found.lamps == (behind.id,)
    # Straight onto it, as in its own view, there is no wedge to draw.
    assert sight_at(plan, window, "port", window.at[0], window.at[2]).wedge is None


def test_what_serves_comes_first_and_says_why_the_rest_does_not():
    plan = deck_plan(lamps=1)
    lamp = plan.lamps[0]
    low = copy_unchecked(plan.sections[0], box=Box(at=(0, -22, 0), size=(165, 44, 3.0)))
    found = choices(built_in(), lamp, low, 0.2)
    serves = [c.serves for c in found]
    assert serves == sorted(serves, reverse=True) and 0 < sum(serves) < len(serves)
    assert found[0].part.colour == "warm white" and found[0].part.form == "chip"
    assert {c.part.id for c in found} == set(built_in().lamps)
    assert any(c.clearance_mm is not None and c.clearance_mm < 0 and c.part.form == "round" for c in found)
    assert any(not c.bright_enough for c in choices(built_in(), lamp, None, 5.0))
    # Outside there is no gap to fit; of a part nobody knows nothing is wanted.
    assert all(c.clearance_mm is None for c in choices(built_in(), lamp, None, 1.0))
    assert all(c.bright_enough for c in choices(built_in(), copy_unchecked(lamp, part="lost"), None, 1.0))
