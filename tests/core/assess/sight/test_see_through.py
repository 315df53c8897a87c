"""Clear panes that face each other: found along the line of sight, and what mends it."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.findings.optics.sight_rules import looks_through
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import patterns
from gwiazda.core.plan.model import Box, Obstacle, Plan, copy_unchecked

CAT = built_in()


def both_sides(glazing: str = "clear", shift: float = 0.0) -> Plan:
    plan = deck_plan(windows=4, lamps=2)
    plan = copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], glazing=glazing),))
    plan, new = patterns.copy_to_other_side(plan, [o.id for o in plan.openings])
    return edits.move(plan, new, (shift, 0.0, 0.0))


def pairs(plan: Plan) -> int:
    return len(looks_through(CAT, plan.sections[0], plan.openings, "light-grey"))


def found(plan: Plan):
    return next((f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule == "see-through"), None)


def test_panes_across_from_each_other_are_looked_through_if_both_are_clear():
    assert pairs(both_sides()) == 4 and pairs(both_sides("open")) == 4
    for veiled in ("mist-1", "frosted-1", "vellum", "liquid"):
        assert (pairs(both_sides(veiled)) == 0) == (veiled != "liquid")
    one_side = both_sides("mist-2")
    first = [o.id for o in one_side.openings if o.side == "port"]
    assert pairs(edits.set_fields(one_side, first, glazing="clear")) == 0, "the far one veils it"
    dark = edits.set_fields(both_sides(), [both_sides().openings[0].id], lit=0.0)
    assert pairs(dark) == 3


@pytest.mark.parametrize(("shift", "many"), [(0.0, 4), (1.0, 4), (2.6, 0)])
def test_what_is_not_straight_across_isnt_seen(shift, many):
    assert pairs(both_sides(shift=shift)) == many


def test_a_body_between_hides_it_unless_it_is_cut_away():
    plan = both_sides()
    section = plan.sections[0]
    x = plan.openings[0].at[0]
    wall = Obstacle(
        id="deck1.wall",
        kind="bulkhead",
        box=Box(at=(x - 3.0, -1.0, section.box.at[2]), size=(6.0, 2.0, section.box.size[2])),
    )
    stands = copy_unchecked(plan, sections=(copy_unchecked(section, obstacles=(wall,)),))
    assert pairs(stands) == 3
    assert (
        pairs(
            copy_unchecked(plan, sections=(copy_unchecked(section, obstacles=(copy_unchecked(wall, action="cut"),)),))
        )
        == 4
    )


def test_the_finding_and_each_of_its_offers():
    plan = both_sides()
    finding = found(plan)
    assert finding is not None and finding.number == 4 and finding.topic == "pane" and "4 pairs" in finding.sentence
    for fix in finding.fixes:
        mended = fix.applied(plan)
        assert found(mended) is None, fix.label
    screen = finding.fixes[2].applied(plan).sections[0].obstacles[0]
    assert screen.box.size[1] == 0.5 and screen.box.size[0] == plan.sections[0].box.size[0]
