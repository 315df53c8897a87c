"""What soft or bright means in the room a model is for."""

from __future__ import annotations

import math

import pytest

from gwiazda.core.assess.aims import NIGHT, PANE_TIMES, looks_in
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.lamp.realism import looks_of
from gwiazda.core.assess.lights.build import place
from gwiazda.core.assess.lights.looks import look_now, look_of_tips, tried_lamps, tried_tips, with_look, words_kept
from gwiazda.core.assess.lights.place import Spot
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.light.dusk import Seen, level_of
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Dot, Plan, ViewingConditions, Wanted, new_plan
from gwiazda.core.starter.forms import FORMS, Sizes
from gwiazda.core.starter.start import shaped, start

CATALOGUE = built_in()


def room(lux: float, **fields: object) -> ViewingConditions:
    return ViewingConditions(lux=lux, looks="room", **fields)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("lux", "soft", "normal", "bright"),
    # By hand, hull .5: .5·E/π, twice, five and fifteen times that; in the dark what a cabin has at night.
    [(1.0, 12.0, 30.0, 80.0), (50.0, 15.9, 39.8, 119.0), (200.0, 63.7, 159.2, 477.5), (500.0, 159.2, 397.9, 1193.7)],
)
def test_the_words_follow_the_room_and_never_fall_under_the_night(lux, soft, normal, bright):
    looks = looks_in(room(lux), 0.5 * lux / math.pi)
    assert [looks.pane(k) for k in ("soft", "normal", "bright")] == pytest.approx([soft, normal, bright], rel=0.01)
    assert looks.pane("full") == looks.pane("bright")
    assert all(looks.cd_m2[k] >= NIGHT.cd_m2[k] and looks.mcd[k] >= NIGHT.mcd[k] for k in PANE_TIMES)


def test_a_point_seen_from_across_a_bright_room_wants_more():
    # 0.242e-6·(1 + √(.4·80))² = 1.072e-5 lx just seen; a thousand times that at 3 m is 96.5 mcd.
    looks = looks_in(room(500.0, distance_m=3.0), 80.0)
    assert looks.point("normal") == pytest.approx(96.5, rel=0.005)
    assert looks_in(room(500.0, distance_m=0.3), 80.0).point("normal") == NIGHT.point("normal")


@pytest.mark.parametrize("lux", [50.0, 200.0, 1000.0])
def test_what_is_asked_by_a_word_looks_so_in_that_room(lux):
    hull = 0.5 * lux / math.pi
    looks = looks_in(room(lux), hull)
    levels = [level_of(Seen("pane", looks.pane(k), 0.5), lux) for k in ("barely", "soft", "normal", "bright")]
    assert levels == [1, 1, 2, 2], "shows, shows, clearly lit, and not yet striking"


def test_an_old_plan_keeps_its_figures_and_a_new_one_follows():
    old = edits.set_room(Plan(), lux=500.0)
    assert looks_of(CATALOGUE, old) is NIGHT and new_plan().room.looks == "room"
    new = edits.set_room(new_plan(), lux=500.0)
    assert looks_of(CATALOGUE, new).pane("normal") > 300.0
    assert assess(new, CATALOGUE).looks == looks_of(CATALOGUE, new)


def test_tips_of_fibres_keep_their_word_when_the_room_changes():
    plan, body = shaped(Sizes("ship"))
    section = body.sections[0]
    at = (section.box.centre[0], section.box.at[1] + section.box.size[1], section.box.centre[2])
    plan, ids = place(CATALOGUE, plan, "masthead-light", Spot("port", at, section.id), "tip")
    plan = with_look(CATALOGUE, plan, ids[0], "normal")
    assert any(isinstance(d, Dot) and d.light == ids[0] for d in plan.dots)
    far = words_kept(CATALOGUE, plan, edits.set_room(plan, lux=1000.0, distance_m=4.0))
    mine = [d.wanted_mcd for d in far.dots if d.light == ids[0]]
    assert mine == [looks_of(CATALOGUE, far).point("normal")] * len(mine) and mine[0] > 100.0
    assert look_now(CATALOGUE, far, ids[0]) == "normal"
    own = edits.set_fields(plan, [d.id for d in plan.dots if d.light == ids[0]], wanted_mcd=7.0)
    kept = words_kept(CATALOGUE, own, edits.set_room(own, lux=1000.0, distance_m=4.0))
    assert [d.wanted_mcd for d in kept.dots if d.light == ids[0]] == [7.0] * len(mine), "a figure is a figure"


@pytest.mark.parametrize("form", ["ship", "vehicle"])
def test_a_shape_for_an_exhibition_is_lit_for_it_and_settled(form):
    started = start(CATALOGUE, FORMS[form].sizes._replace(lux=200.0))
    found = assess(started.plan, CATALOGUE)
    assert not [f for f in evaluate_rules(started.plan, found) if f.rule == "outshone"] and not started.left
    lit = [s for s in found.sections.values() if s.lit and s.wanted_cd_m2 > 0]
    assert lit and all(s.mean_cd_m2 >= 0.8 * s.wanted_cd_m2 for s in lit)
    assert max(s.wanted_cd_m2 for s in lit) > 150.0


def test_three_looks_of_a_lamp_each_with_resistor_draw_and_hours():
    from decks import deck_plan

    plan = edits.set_supply(deck_plan(), part="block-9v")
    found = assess(plan, CATALOGUE)
    ids = [p.id for p in plan.lamps]
    barely, normal, full = tried_lamps(plan, found, ids)
    assert barely.state.value < normal.state.value < full.state.value
    assert barely.resistor_ohm > normal.resistor_ohm > full.resistor_ohm > 0
    assert barely.current_a < normal.current_a < full.current_a
    assert barely.hours > normal.hours > full.hours
    # Taken, the plan is as it was said to be.
    taken = assess(edits.set_wanted(plan, ids, Wanted(look="barely")), CATALOGUE)
    assert taken.sections["deck1"].mean_cd_m2 == pytest.approx(barely.state.value)
    assert taken.lamps[ids[0]].resistor_ohm == barely.resistor_ohm
    assert tried_lamps(plan, found, ["nobody"]) == ()


def test_three_looks_of_a_tip_are_what_the_plan_comes_to(demo):
    found = assess(demo, CATALOGUE)
    dots = [d for d in demo.dots if d.lamp][:1]
    tried = tried_tips(demo, found, [d.id for d in dots])
    assert [t.state.wanted for t in tried] == [found.looks.point(k) for k in ("barely", "normal", "full")]
    taken = assess(edits.set_fields(demo, [dots[0].id], wanted_mcd=tried[0].state.wanted), CATALOGUE)
    assert taken.tips[dots[0].id].cd * 1e3 == pytest.approx(tried[0].state.value)
    assert taken.lamps[dots[0].lamp].resistor_ohm == tried[0].resistor_ohm
    assert look_of_tips(CATALOGUE, demo, dots) == ""
    asked = edits.set_fields(demo, [dots[0].id], wanted_mcd=20.0)
    assert look_of_tips(CATALOGUE, asked, [find(asked, dots[0].id)]) == "normal"
    assert tried_tips(demo, found, ["nobody"]) == ()
