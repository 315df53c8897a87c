"""The lights that plans from shapes come with, their base and stand, and the drawings behind their views."""

from __future__ import annotations

import re

import pytest

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.bodies.rooms import goes_in
from gwiazda.core.assess.lights.states import state_of
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.lookup import find, parts_of, section_of
from gwiazda.core.plan.model import Fuse, Switch
from gwiazda.core.plan.storage import PlanFile, check_picture, load, save
from gwiazda.core.starter.forms import FORMS
from gwiazda.core.starter.start import start

CATALOGUE = built_in()
KINDS = {
    "ship": {"masthead", "sidelight", "stern-light", "anchor-light", "deck-flood"},
    "fuselage": {"position-light", "tail-position", "red-beacon", "landing-light"},
    "vehicle": {"headlamp", "indicator", "tail-lamp", "beacon"},
    "truss": {"running-light", "docking-light", "navigation-beacon", "engine-core"},
    "tower": {"navigation-beacon", "running-light", "engine-core"},
}


@pytest.mark.parametrize("form", FORMS)
def test_each_has_the_lights_of_its_kind_bright_enough_and_in_pairs(form):
    plan = start(CATALOGUE, FORMS[form].sizes).plan
    assessment = assess(plan, CATALOGUE)
    assert {x.kind for x in plan.lights} == KINDS[form]
    for x in plan.lights:
        assert x.whole and x.means and parts_of(plan, x.id)
        assert state_of(plan, assessment, x.id).reached >= 0.67, x.name
        if CATALOGUE.light_kinds[x.kind].pair:
            assert x.twin and next(t for t in plan.lights if t.id == x.twin).twin == x.id
    assert len({x.name for x in plan.lights}) == len(plan.lights)


def test_a_vehicle_has_two_true_headlamps_that_look_ahead():
    plan = start(CATALOGUE, FORMS["vehicle"].sizes).plan
    lamps = [find(plan, i) for x in plan.lights if x.kind == "headlamp" for i in parts_of(plan, x.id)]
    assert len(lamps) == 2 and {p.aim for p in lamps} == {(1.0, 0.0, 0.0)} and lamps[0].at[1] == -lamps[1].at[1] != 0.0
    assert all(p.mount == "outside" and p.behind == "putty" for p in lamps)
    assert [x.name for x in plan.lights][:2] == ["Left headlamp", "Right headlamp"]


@pytest.mark.parametrize("form", FORMS)
def test_it_stands_on_a_base_with_its_source_fuse_and_switch(form):
    plan = start(CATALOGUE, FORMS[form].sizes).plan
    feed, base = plan.feeds[0], section_of(plan, "base")
    assert feed.home == "base" and {type(x) for x in feed.head} == {Fuse, Switch}
    part = CATALOGUE.sources[feed.supply.part]
    assert part.kind != "battery" or goes_in(CATALOGUE, plan, feed, feed.supply)
    top = base.box.at[2] + base.box.size[2]
    assert all(s.box.at[2] > top for s in plan.sections if s.id != "base")
    (stand,) = [w for w in plan.passages if w.tube is not None]
    assert stand.into == "base" and stand.tube.to[2] == pytest.approx(top) and stand.at[2] > top
    assert stand.length_mm == pytest.approx(stand.at[2] - top) and stand.width_mm < stand.tube.outer_mm


@pytest.mark.parametrize("form", FORMS)
def test_a_drawing_lies_behind_each_view_true_to_scale(form, tmp_path):
    made = start(CATALOGUE, FORMS[form].sizes)
    path = tmp_path / "s.gwiazda"
    save(PlanFile(made.plan, made.pictures), path)
    kept = load(path)
    assert kept.plan == made.plan and dict(kept.pictures) == {k: check_picture(k, v) for k, v in made.pictures.items()}
    drawn = [v for v in made.plan.views if v.drawing is not None]
    assert {v.side for v in drawn} >= {"port", "starboard", "top"}
    for view in drawn:
        text = made.pictures[view.drawing.picture].decode()
        x0, y0 = view.drawing.origin
        placed = {
            (round(float(x) - x0, 1), round(float(y) - y0, 1)) for x, y in re.findall(r"[ML]([\d.-]+) ([\d.-]+)", text)
        }
        for s in made.plan.sections:
            for outline in s.drawn(view.side):
                h, v = outline.points[0]
                at = [0.0, 0.0, 0.0]
                axes = {
                    "port": (0, 2),
                    "starboard": (0, 2),
                    "top": (0, 1),
                    "bottom": (0, 1),
                    "bow": (1, 2),
                    "stern": (1, 2),
                }[view.side]
                at[axes[0]], at[axes[1]] = h, v
                right, down, _ = to_sheet(view.side, (at[0], at[1], at[2]))
                assert any(abs(right - x) <= 0.11 and abs(down - y) <= 0.11 for x, y in placed), (view.side, s.id)
        assert text.count('stroke-width="0.22"') >= 1, "there is more to trace than the outlines"
