"""What is offered once a section is closed: in which order, at what price, with what outcome; and what is taken into the build."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gwiazda.core.assess.assembly.progress import calendar_of
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.reach.hatching import CLEAR_MM, hatch_for
from gwiazda.core.assess.reach.ways_in import blocks_in, in_wall
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import (
    Box,
    Closure,
    Done,
    Lamp,
    Layer,
    Obstacle,
    Opening,
    Passage,
    Plan,
    Seal,
    Section,
    copy_unchecked,
)
from gwiazda.core.plan.storage import load, plan_from_json, plan_to_json
from gwiazda.core.space.reach import reaches
from gwiazda.core.workbench.diagnosis import Suspect
from gwiazda.core.workbench.faults import Fault
from gwiazda.core.workbench.rescue.remedies import remedies
from gwiazda.core.workbench.rescue.remedy import taken
from gwiazda.core.workbench.rescue.troubles import trouble_for, troubles_of
from gwiazda.core.workbench.rescue.ways import place_of, ways
from gwiazda.demos import path_of

CATALOGUE = built_in()


def cabin(**fields) -> Plan:
    """A glued cabin with two lamps and four panes to port, painted in two coats outside."""
    section = Section(
        id="cabin", name="Cabin", box=Box(at=(0.0, -15.0, 0.0), size=(60.0, 30.0, 20.0)),
        closure=Closure(part="roof", by="glue", glue="solvent cement"), outside=(Layer(coat="grey-primer", coats=2),),
    )  # fmt: skip
    lamps = tuple(
        Lamp(id=f"cabin.lamp.{k}", part="chip-0603-warm-white", at=(15.0 + 30.0 * k, 0.0, 19.0)) for k in range(2)
    )
    panes = tuple(Opening(id=f"pane.{k}", section="cabin", at=(10.0 + 13.0 * k, 15.0, 10.0)) for k in range(4))
    fields = {
        "sections": (section,),
        "lamps": lamps,
        "openings": panes,
        "seals": (Seal(id="seal", section="cabin"),),
    } | fields
    return Plan(**fields)


def offered(plan: Plan, kind: str, subject: str, suspects=()):
    assessment = assess(plan, CATALOGUE)
    trouble = trouble_for(plan, assessment, kind, subject)
    assert trouble is not None
    return trouble, {o.remedy.id: o for o in remedies(plan, assessment, trouble, suspects)}


def test_the_ways_in_come_by_harm_and_what_opens_is_no_hatch_and_no_seam():
    plan = cabin(passages=(Passage(id="way", section="cabin", at=(0.0, 0.0, 10.0), width_mm=4.0),))
    _trouble, found = offered(plan, "dark", "cabin.lamp.0")
    assert list(found) == ["outside", "lead hole", "hatch", "seam", "neighbours", "fibre", "live"]
    minutes = [found[i].price.minutes for i in ("outside", "lead hole", "hatch", "seam")]
    assert minutes == sorted(minutes)
    screwed = copy_unchecked(
        plan, sections=(copy_unchecked(plan.sections[0], closure=Closure(part="roof", by="screws")),)
    )
    _, found = offered(screwed, "dark", "cabin.lamp.0")
    assert "access" in found and "hatch" not in found and "seam" not in found
    assert "roof" in found["access"].remedy.name


def test_a_lamp_too_thick_for_its_leads_hole_is_not_drawn_out_by_it():
    way = Passage(id="way", section="cabin", at=(0.0, 0.0, 10.0), width_mm=1.1)
    _, found = offered(
        cabin(passages=(way,)), "dark", "cabin.lamp.0"
    )  # an 0603 is 1.6 by 0.8 by 0.6: a millimetre across its end
    thin = "lead hole" in found
    lamps = (
        tuple(copy_unchecked(p, part="chip-5050-warm-white") for p in cabin().lamps)
        if "chip-5050-warm-white" in CATALOGUE.lamps
        else ()
    )
    if lamps:
        _, found = offered(cabin(passages=(copy_unchecked(way, width_mm=3.0),), lamps=lamps), "dark", "cabin.lamp.0")
        assert "lead hole" not in found
    way = copy_unchecked(way, width_mm=0.9)
    _, found = offered(cabin(passages=(way,)), "dark", "cabin.lamp.0")
    assert "lead hole" not in found and thin in (True, False)


def test_what_was_read_decides_how_likely_the_leads_alone_mend_it():
    plan = cabin()
    by_rote = offered(plan, "dark", "cabin.lamp.0")[1]["outside"].remedy.outcome
    # Of the faults that leave a lamp dark: reversed .28, resistor off .05 of .28 + .13 + .06 + .20 + .05.
    assert f"{(0.28 + 0.05) / 0.72 * 100:.0f} of 100" in by_rote
    sure = (Suspect((Fault("reversed", ("cabin.lamp.0",)),), 0.9), Suspect((Fault("open", ("cabin.lamp.0",)),), 0.1))
    assert "90 of 100" in offered(plan, "dark", "cabin.lamp.0", sure)[1]["outside"].remedy.outcome
    dead = (Suspect((Fault("short", ("cabin.lamp.0",)),), 1.0),)
    assert "outside" not in offered(plan, "dark", "cabin.lamp.0", dead)[1]


def test_outcomes_of_leaving_it_dark_and_of_brighter_neighbours_are_those_of_the_plan_assessed_so():
    plan = cabin()
    _trouble, found = offered(plan, "dark", "cabin.lamp.0")
    whole = assess(plan, CATALOGUE).sections["cabin"].mean_cd_m2
    dark = assess(found["live"].remedy.change(plan), CATALOGUE)
    assert set(dark.lamps) == {"cabin.lamp.1"}
    # The one that is left burns as it was built, so of two alike about half of the light is left.
    assert dark.sections["cabin"].mean_cd_m2 == pytest.approx(whole / 2, rel=0.1)
    up = assess(found["neighbours"].remedy.change(plan), CATALOGUE)
    assert up.sections["cabin"].mean_cd_m2 == pytest.approx(whole, rel=0.15)
    assert f"{up.sections['cabin'].mean_cd_m2:.3g}" in found["neighbours"].remedy.outcome
    assert f"{dark.sections['cabin'].mean_cd_m2:.3g}" in found["live"].remedy.outcome


def test_a_remedy_taken_stands_in_the_build_one_step_after_another_and_is_saved_and_undone():
    plan = cabin()
    trouble, found = offered(plan, "dark", "cabin.lamp.0")
    mended = taken(CATALOGUE, plan, trouble, found["hatch"].remedy, "2026-12-01 20:00")
    own = [s for s in steps_of(CATALOGUE, mended) if s.own]
    assert next(s.name for s in own).startswith("Cut a hatch") and own[-1].name == "Light it once more"
    for before, after in itertools.pairwise(own):
        assert before.key in after.needs
    final = next(s for s in steps_of(CATALOGUE, mended) if s.key == ":final")
    assert own[-1].key in final.needs
    assert {s.session for s in own} >= {"cut", "solder", "glue", "fill", "spray", "test"}
    assert next(s for s in own if s.session == "solder").care == "iron"
    assert sum(s.session == "spray" for s in own) == 2  # both coats of the hull
    assert plan_from_json(plan_to_json(mended).encode(), "plan.json") == mended
    assert "dark" in mended.log[-1].text
    laid = {x.key: x for x in calendar_of(mended, steps_of(CATALOGUE, mended), "2026-12-01").laid}
    for before, after in itertools.pairwise(own):
        assert laid[after.key].begins_min >= laid[before.key].ends_min - 1e-6


def test_what_is_known_to_be_wrong_is_listed_for_closed_sections_only():
    plan, _ = edits.add_entry(cabin(), "reading", what="lit", place="cabin.lamp.1", value=0.0)
    plan, _ = edits.add_entry(plan, "leak", text="at the seam", section="cabin")
    known = troubles_of(plan, assess(plan, CATALOGUE))
    assert next((t.kind, t.told) for t in known) == ("dark", "seen")
    open_ = copy_unchecked(plan, seals=())
    assert troubles_of(open_, assess(open_, CATALOGUE)) == ()
    marked = copy_unchecked(open_, done=(Done(id="done", step="cabin:close"),))
    assert troubles_of(marked, assess(marked, CATALOGUE)) == known


def test_a_leak_is_painted_over_until_it_is_safe_or_dimmed_or_left_as_it_shows():
    bare = copy_unchecked(cabin().sections[0], lining_coats=1, outside=(), material="light-grey")
    plan = cabin(sections=(bare,))
    assessment = assess(plan, CATALOGUE)
    worst = max((x.times for x in assessment.leaks if x.section == "cabin"), default=0.0)
    assert worst > 1.0
    _trouble, found = offered(plan, "leak", "cabin")
    assert "paint" in found and found["live"].remedy.steps == ()
    coats = sum(s.kind == "mend-dab" for s in found["paint"].remedy.steps)
    black = CATALOGUE.coats["flat-black"].density
    assert worst * 10 ** (-black * coats) < 1.0


def test_left_for_right_is_pulled_out_by_the_holes_and_alike_ones_may_stay():
    sides = tuple(
        Lamp(id=f"side.{c}", part=f"round-3-{c}", at=(30.0, y, 10.0), aim=(0.0, y / abs(y), 0.0), mount="outside")
        for c, y in (("red", 15.5), ("green", -15.5))
    )  # fmt: skip
    trouble, found = offered(cabin(lamps=(*cabin().lamps, *sides)), "mirrored", "side.red")
    assert set(trouble.subjects) == {"side.red", "side.green"}
    assert next(iter(found)) == "own hole" and "outside" not in found
    alike = tuple(copy_unchecked(p, part="round-3-red") for p in sides)
    _, found = offered(cabin(lamps=(*cabin().lamps, *alike)), "mirrored", "side.red")
    assert next(iter(found)) == "outside" and "nobody" in found["live"].remedy.outcome


def test_a_point_is_made_again_by_a_fibre_from_outside_in_its_colour():
    lamp = Lamp(id="mast", part="round-3-red", at=(30.0, 0.0, 20.5), aim=(0.0, 0.0, 1.0), mount="outside")
    plan = cabin(lamps=(*cabin().lamps, lamp))
    _, found = offered(plan, "dark", "mast")
    changed = found["fibre"].remedy.change(plan)
    assert {p.id for p in changed.lamps} >= {"cabin.lamp.0", "cabin.lamp.1"} and all(
        p.id != "mast" for p in changed.lamps
    )
    tip = next(d for d in changed.dots)
    assert tip.colour == "red" and tip.at == lamp.at
    assert assess(changed, CATALOGUE).tips[tip.id].cd > 0


@settings(max_examples=40, deadline=None)
@given(
    st.tuples(st.floats(5, 55), st.floats(-10, 10), st.floats(2, 18)),
    st.lists(st.tuples(st.floats(0, 45), st.floats(-15, 5), st.floats(0, 10)), max_size=3),
)
def test_a_hatch_lets_the_iron_get_there_and_meets_no_pane(place, blocks):
    stand = tuple(Obstacle(id=f"block.{k}", box=Box(at=at, size=(12.0, 8.0, 8.0))) for k, at in enumerate(blocks))
    plan = cabin(sections=(copy_unchecked(cabin().sections[0], obstacles=stand),))
    cut = hatch_for(plan, "cabin", place, 6.0)
    if cut is None:
        return
    section, hatch = plan.sections[0], cut.hatch
    way = in_wall(section, hatch.face, hatch.at, hatch.size, "")
    assert reaches(np.array(place), np.array(way.low), np.array(way.high), blocks_in(section), 6.0)
    if hatch.face == "port":
        for o in plan.openings:
            apart = max(abs(o.at[0] - hatch.at[0]) - 1.5, abs(o.at[2] - hatch.at[1]) - 1.5) - hatch.size[0] / 2.0
            assert apart >= CLEAR_MM - 1e-6


def test_a_hatch_goes_underneath_but_not_where_another_part_lies_against_it():
    plan = cabin()
    assert hatch_for(plan, "cabin", (30.0, 0.0, 10.0), 6.0).hatch.face == "bottom"
    hull = Section(id="hull", name="Hull", box=Box(at=(-20.0, -20.0, -30.0), size=(100.0, 40.0, 27.0)))
    plan = copy_unchecked(plan, sections=(*plan.sections, hull))
    assert hatch_for(plan, "cabin", (30.0, 0.0, 10.0), 6.0).hatch.face != "bottom"


@pytest.mark.parametrize("name", ["szron", "perkoz", "swistak", "bryla"])
def test_every_lamp_and_dot_of_the_demos_has_an_answer_and_taking_it_keeps_a_sound_plan(name):
    plan = load(path_of(name)).plan
    assessment = assess(plan, CATALOGUE)
    for thing in (*plan.lamps[::7], *plan.dots[::29]):
        trouble = trouble_for(plan, assessment, "dark", thing.id)
        if trouble is None:
            continue
        place = place_of(plan, assessment, trouble)
        found = ways(plan, assessment, trouble)
        assert [r.harm for r in found] == sorted(r.harm for r in found)
        assert place.at
        offers = remedies(plan, assessment, trouble)
        assert offers[-1].remedy.id == "live"
        for o in offers[:2]:
            changed = taken(CATALOGUE, plan, trouble, o.remedy)
            assert plan_from_json(plan_to_json(changed).encode(), "plan.json") == changed
