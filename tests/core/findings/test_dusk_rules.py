"""Lights in the room the model is for: those it outshines, and those that glare in it."""

from __future__ import annotations

import pytest

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.lights.build import place
from gwiazda.core.assess.lights.looks import with_look
from gwiazda.core.assess.lights.place import Spot
from gwiazda.core.findings.outcome import outcome_of
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.light.dusk import Seen, drowned_mm
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.starter.forms import Sizes
from gwiazda.core.starter.start import shaped

CAT = built_in()


def ship(kind: str, look: str, lux: float, means: str = "pushed"):
    """A ship with one light of a kind, so bright, in such a room."""
    plan, body = shaped(Sizes("ship"))
    box = body.sections[0].box
    at = (box.centre[0], box.at[1] + box.size[1], box.centre[2])
    plan, ids = place(
        CAT, edits.set_room(plan, lux=lux, looks="room"), kind, Spot("port", at, body.sections[0].id), means
    )
    return with_look(CAT, plan, ids[0], look), ids[0]


def found(plan, rule: str):
    return [f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule == rule]


def test_by_hand_what_a_point_hides_round_it():
    # 0.1 cd at 0.5 m is 0.4 lx, its veil 4/θ² cd/m²; a hull of .5 in 2 lx has .318, with the dark .368; θ = √(4/.368) = 3.30°, 28.8 mm.
    assert drowned_mm(Seen("point", 0.1, 0.5, distance_m=0.5), 2.0) == pytest.approx(28.8, abs=0.1)
    # In 268 lx the hull has 42.7: θ = √(4/42.7) = .306°, 2.67 mm.
    assert drowned_mm(Seen("point", 0.1, 0.5, distance_m=0.5), 268.0) == pytest.approx(2.66, rel=0.02)
    assert drowned_mm(Seen("pane", 500.0, 0.5), 2.0) == 0.0


def test_a_bare_lamp_in_full_glares_in_a_dark_room_and_the_words_mend_it():
    plan, light = ship("masthead", "full", 2.0)
    (finding,) = found(plan, "glares")
    assert finding.subject == light and "hides what lies within" in finding.sentence and "cinema" in finding.sentence
    for fix in finding.fixes:
        outcome = outcome_of(plan, CAT, finding, fix)
        assert outcome is not None and not found(fix.edit(plan), "glares"), fix.label
    bright, _ = ship("masthead", "bright", 2.0)
    assert not found(bright, "glares"), "what a word asks for is no glare"


@pytest.mark.parametrize("kind", ["headlamp", "deck-flood", "landing-light", "engine-core"])
def test_what_dazzles_in_life_may_dazzle_here(kind):
    plan, _ = ship(kind, "full", 2.0)
    assert not found(plan, "glares")


def test_what_a_bright_room_outshines_is_found_with_how_far_it_shows():
    dark, light = ship("masthead", "barely", 2.0, "tip")
    assert not found(dark, "outshone")
    lit = edits.set_room(edits.set_fields(dark, [d.id for d in dark.dots], wanted_mcd=0.001), lux=2000.0)
    lit = edits.set_fields(lit, [d.id for d in lit.dots], smoke=8)
    rows = found(lit, "outshone")
    assert [f.subject for f in rows] == [light] and "outshines" in rows[0].sentence and "lx down" in rows[0].sentence
