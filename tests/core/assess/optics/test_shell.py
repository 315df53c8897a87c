"""Clear shells in a plan: panes meant dark, how far black must reach, lamps on the wall, and what mends it."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.night.scene import scene_of
from gwiazda.core.assess.optics.lighting import lit_sections_of
from gwiazda.core.assess.optics.shell import dark_shares, is_shell, on_wall, shell_of
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.light import wall as w
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import Layer, Plan, copy_unchecked
from gwiazda.core.plan.storage import plan_from_json, plan_to_json

CAT = built_in()
DARK = "deck1.window.03"


def shell(**section) -> Plan:
    fields = {"material": "clear", "school": "mask", "lining": "bare", "glazing": "frosted-2", "wall_mm": 1.5, "outside": (Layer(coat="flat-black", coats=2),), **section}  # fmt: skip
    plan = deck_plan(windows=6, lamps=3)
    plan = copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], **fields),))
    return edits.set_fields(plan, [DARK], lit=0.0)


def light(plan: Plan, opening: str = DARK) -> float:
    return assess(plan, CAT).openings[opening].luminance_cd_m2


def rule(plan: Plan, name: str = "dark-pane-shows"):
    assessment = assess(plan, CAT)
    return next((f for f in evaluate_rules(plan, assessment) if f.rule == name), None), assessment


def test_which_sections_are_clear_shells():
    assert is_shell(CAT, shell().sections[0], "light-grey")
    for other in ({"school": "drill"}, {"material": "light-grey"}, {"material": "white"}, {"material": "unknown"}):
        section = shell(**other).sections[0]
        assert not is_shell(CAT, section, "light-grey") and shell_of(CAT, section, "light-grey") is None
    assert is_shell(CAT, copy_unchecked(shell(material="").sections[0]), "clear"), "as the kit's"


def test_a_dab_as_large_as_the_pane_leaves_what_the_wall_carries_round_it():
    """The light on the pane times the wall's own share for that pane, worked out apart."""
    plan = shell(glazing="clear")
    assessment = assess(plan, CAT)
    room = lit_sections_of(CAT, plan.sections, plan.openings, plan.lamps)["deck1"]
    i = next(k for k, o in enumerate(room.openings) if o.id == DARK)
    o = room.openings[i]
    lux = float(room.lux[i] @ np.array([assessment.lamps[p.id].flux_lm for p in room.lamps]))
    x, z = o.at[0], o.at[2]
    pane = w.rectangle(x, z, o.width_mm, o.height_mm)
    box = (x - o.width_mm / 2, x + o.width_mm / 2, z - o.height_mm / 2, z + o.height_mm / 2)
    absorb = CAT.materials["clear"].density_per_mm * math.log(10.0)
    wall = w.Wall(1.5, "bare", 0.04, 0.04, "clear", 0.0, 0.0, absorb)
    share = w.dab_share(wall, pane, box, pane)
    assert 0.05 < share < 0.5
    assert assessment.openings[DARK].luminance_cd_m2 == pytest.approx(lux * share / math.pi, rel=0.03)


@settings(deadline=None, max_examples=5)
@given(st.floats(0.5, 3.0))
def test_black_that_reaches_a_wall_farther_hides_it_and_less_shows_more(t):
    plans = [edits.set_fields(shell(wall_mm=t, glazing="clear"), [DARK], reach_mm=m * t) for m in (-0.2, 0.0, 0.4, 1.0)]
    lights = [light(p) for p in plans]
    assert lights[0] > lights[1] > lights[2] > lights[3] == 0.0
    assert light(edits.set_fields(plans[1], [DARK], closed="outside")) == 0.0


def test_lit_panes_and_other_sections_are_as_they_were():
    plan = shell()
    drilled = copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], school="drill"),))
    a, b = assess(plan, CAT), assess(drilled, CAT)
    for o in plan.openings:
        if o.id != DARK:
            assert a.openings[o.id].luminance_cd_m2 == pytest.approx(b.openings[o.id].luminance_cd_m2, rel=1e-9)
    assert b.openings[DARK].luminance_cd_m2 == 0.0 < a.openings[DARK].luminance_cd_m2
    assert (
        a.sections["deck1"].mean_cd_m2 == pytest.approx(b.sections["deck1"].mean_cd_m2) and a.sections["deck1"].lit == 5
    )


def test_black_inside_leaves_only_the_holes_of_lit_neighbours():
    inside = (Layer(coat="flat-black", coats=3),)
    far = shell(inside=inside, lining="flat-white")
    near = far.openings[3]
    plan = edits.set_fields(far, [near.id], at=(far.openings[2].at[0] + near.width_mm + 0.6, *near.at[1:]))
    assert light(plan) > 3.0 * light(far), "a lit window right beside it feeds it through the wall"
    hull = assess(far, CAT)
    assert light(far) < 0.05 * hull.sections["deck1"].mean_cd_m2
    shares = dark_shares(CAT, plan.sections[0], plan.openings, tuple(lit_sections_of(CAT, plan.sections, plan.openings, plan.lamps)["deck1"].cavity.panes), "light-grey")  # fmt: skip
    assert (shares > 0).tolist() == [o.id == DARK for o in plan.openings]


def test_a_hole_in_the_inner_paint_as_small_as_the_pane_dims_it():
    """By the same figures as the dab's: what comes round a dab of that size is what a hole of that size lacks."""
    inside = (Layer(coat="flat-black", coats=3),)
    plan = shell(inside=inside, lining="flat-white", glazing="clear")
    pane = plan.openings[0]
    lights = [light(edits.set_fields(plan, [pane.id], reach_mm=m), pane.id) for m in (0.0, 0.5, 1.5, 3.0)]
    assert lights[0] < lights[1] < lights[2] == pytest.approx(lights[3], rel=0.01)
    x, z, a, b = pane.at[0], pane.at[2], pane.width_mm, pane.height_mm
    wall = shell_of(CAT, plan.sections[0], "light-grey").wall._replace(inner="bare")
    rect, box = w.rectangle(x, z, a, b), (x - a / 2, x + a / 2, z - b / 2, z + b / 2)
    lacking = w.dab_share(wall, rect, box, rect) / w.total(w.kernel(wall))
    assert lights[0] / lights[3] == pytest.approx(1.0 - lacking, abs=0.05)


def test_a_lamp_on_the_wall_feeds_panes_all_round_and_one_off_it_does_not():
    plan = edits.set_fields(shell(), [DARK], reach_mm=1.5)
    dark = next(o for o in plan.openings if o.id == DARK)
    wall_y = plan.sections[0].box.at[1] + plan.sections[0].box.size[1]
    lamp = plan.lamps[0].id
    on = edits.set_fields(plan, [lamp], at=(dark.at[0] + 5.0, wall_y - 0.3, dark.at[2]), aim=(0.0, 1.0, 0.0))
    off = edits.set_fields(on, [lamp], at=(dark.at[0] + 5.0, wall_y - 4.0, dark.at[2]))
    assert on_wall(on.sections[0], on.lamps[0]) == 3 and on_wall(off.sections[0], off.lamps[0]) is None
    assert on_wall(on.sections[0], copy_unchecked(on.lamps[0], aim=(0.0, -1.0, 0.0))) is None
    assert light(on) > 10.0 * max(light(off), 1e-6)
    shown = {tuple(p) for c in scene_of(on, assess(on, CAT), "port") for p in c.panes}
    dark_shown = {tuple(p) for c in scene_of(off, assess(off, CAT), "port") for p in c.panes}
    assert len(shown) >= len(dark_shown), "it glows in the night picture too"


def test_the_finding_its_offers_and_their_outcome():
    plan = shell()
    finding, found = rule(plan)
    meter = next(m for m in found.meters if m.id == "leak")
    assert meter.value == pytest.approx(finding.number) and meter.state == "stop", (
        "the meter counts what the finding says"
    )
    assert (
        finding is not None
        and finding.severity == "stop"
        and "1.5 mm wall" in finding.sentence
        and "Deck 1, port, 3 of 6" in finding.sentence
    )
    assert finding.subject == DARK and finding.number == pytest.approx(finding.measure(found))
    labels = [f.label for f in finding.fixes]
    assert labels[0].startswith("Black that reaches") and "Clear panes" in labels[1] and "outside" in labels[2]
    outcomes = [finding.measure(rule(f.applied(plan))[1]) for f in finding.fixes]
    assert outcomes[0] < finding.number / 100.0, "a frosted pane takes light of all angles: far helps, and isn't all"
    assert outcomes[1] < 1.0 and outcomes[2] == 0.0 and rule(finding.fixes[1].applied(plan))[0] is None
    clear = rule(shell(glazing="clear"))[0]
    assert "1.5 mm past" in clear.fixes[0].label and rule(clear.fixes[0].applied(shell(glazing="clear")))[0] is None
    bare_shell = copy_unchecked(plan, openings=tuple(copy_unchecked(o, lit=1.0) for o in plan.openings))
    assert rule(bare_shell)[0] is None


def test_a_lamp_of_another_colour_on_the_wall_is_found_and_taken_off():
    plan = shell()
    box = plan.sections[0].box
    red = next(p.id for p in CAT.lamps.values() if p.colour == "red" and p.form == "chip")
    sitting = edits.set_fields(
        plan,
        [plan.lamps[0].id],
        part=red,
        at=(60.0, box.at[1] + box.size[1] - 0.4, box.at[2] + 9.0),
        aim=(0.0, 1.0, 0.0),
    )
    finding, _ = rule(sitting, "lamp-on-clear-wall")
    assert finding is not None and plan.lamps[0].id in finding.sentence
    assert rule(finding.fixes[0].applied(sitting), "lamp-on-clear-wall")[0] is None


def test_it_is_kept_in_files_and_refused_where_it_is_no_length():
    plan = edits.set_fields(shell(), [DARK], reach_mm=1.25, closed="outside")
    assert plan_from_json(plan_to_json(plan).encode(), "x") == plan and validate_edit(shell(), plan) is plan
    from gwiazda.core.errors import PlanError

    for bad in ({"reach_mm": 50.0}, {"closed": "sideways"}):
        with pytest.raises(PlanError):
            edits.set_fields(plan, [DARK], **bad)
