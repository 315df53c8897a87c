"""A light by numbers: full, shared, faked; and its lamps when it is taken."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.choices.count import live, read_dots, versions_of
from gwiazda.core.errors import PlanError, QuantityError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import Count


def test_twelve_by_eight_in_three_colours_a_third_dead():
    count = Count(rows=8, columns=12, colours=3, dead_share=1 / 3, part="flat-3-red", current_ma=5.0)
    assert live(count) == 64
    full, shared, faked = versions_of(count, built_in(), deck_plan().effort)
    assert (full.lamps, full.fibres, full.outputs, full.joints) == (64, 0, 64, 192) and full.draw_a == pytest.approx(
        0.32
    )
    # By hand: 64 holes of 1.5 min, 192 joints of 3, 64 lamps of 4.
    assert full.hours == pytest.approx((64 * 1.5 + 192 * 3 + 64 * 4) / 60)
    # 0.5 mm fibres on a 3 mm face: 27 at the most, 24 by hand; 22 of each colour, so one lamp a colour.
    assert "up to 24 fibres" in shared.words and (shared.lamps, shared.fibres, shared.outputs) == (3, 64, 3)
    assert shared.hours == pytest.approx((64 * 1.5 + 9 * 3 + 3 * 4 + 64 * 3) / 60) and shared.hours < full.hours
    assert (faked.lamps, faked.fibres, faked.draw_a) == (3, 0, pytest.approx(0.015))


def test_dots_are_read_as_they_are_said():
    assert read_dots("12 x 8") == (12, 8) and read_dots("30") == (30, 1) and read_dots("4×4") == (4, 4)
    for text in ("", "many", "0 x 4", "900 x 2", "3 x"):
        with pytest.raises(QuantityError, match="no grid"):
            read_dots(text)


def test_a_taken_count_becomes_lamps_of_the_plan():
    plan, _ = edits.add_light(deck_plan(lamps=1), "panel-dots", "Console")
    (light,) = plan.lights
    with pytest.raises(PlanError, match="isn't counted"):
        edits.take_count(plan, light.id, 3, 3)
    plan = edits.set_light(plan, light.id, count=Count(rows=2, columns=4, colours=2, part="chip-0402-red"))
    full = versions_of(plan.lights[0].count, built_in(), plan.effort)[0]
    taken = validate_edit(plan, edits.take_count(plan, light.id, full.lamps, full.outputs))
    mine = [p for p in taken.lamps if p.light == light.id]
    assert len(mine) == 8 and len({p.channel for p in mine}) == 8 and len({p.at for p in mine}) == 8
    assert assess(taken, built_in()).lamps[mine[0].id].wanted_a == pytest.approx(5e-3, rel=1e-6)
    with pytest.raises(PlanError, match="already"):
        edits.take_count(taken, light.id, 3, 3)
