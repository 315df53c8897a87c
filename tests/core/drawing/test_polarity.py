"""Which end of a lamp is plus: every form has its picture and its words."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.drawing.sheets import PAPERS, pages_of
from gwiazda.core.drawing.sheets.kinds import wire_tags
from gwiazda.core.drawing.sheets.polarity import HIGH, MINUS, PLUS, WIDE, end_words, polarity_page, polarity_picture
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.parts.lamps import lamp_forms
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Plan


@pytest.mark.parametrize("form", lamp_forms().values(), ids=lambda f: f.id)
def test_every_form_is_drawn_within_its_frame_and_says_how(form):
    marks = polarity_picture(form)
    for m in marks:
        for x, y in m.points:
            assert x - (m.size if m.kind == "disc" else 0.0) >= 0.0 and x <= WIDE and 0.0 <= y <= HIGH
    signs = [m.text for m in marks if m.kind == "text"]
    assert form.plus and (signs.count(PLUS) >= 1 and signs.count(MINUS) >= 1 if form.plus_at else set(signs) == {"?"})


def test_the_longer_leg_stands_by_plus_and_the_flat_by_minus():
    for form in (f for f in lamp_forms().values() if f.plus_at == "leg"):
        marks = polarity_picture(form)
        legs = sorted((m for m in marks if m.kind == "line"), key=lambda m: m.points[1][1])
        plus = next(m for m in marks if m.text == PLUS)
        assert abs(legs[-1].points[0][0] - plus.points[0][0]) < abs(legs[0].points[0][0] - plus.points[0][0])
        rim = max(x for x, _ in marks[0].points) - 11.0, 11.0 - min(x for x, _ in marks[0].points)
        assert (rim[0] < rim[1] - 0.1) == form.round_face, "the rim is cut off flat over minus"


def test_parts_say_what_their_form_does_not():
    lamps = built_in().lamps
    assert "longer leg" in lamps["round-3-red"].plus and "meter" in lamps["round-3-red"].plus
    rectified = next(p for p in lamps.values() if p.rectified)
    assert rectified.plus.startswith("either way round")
    shared = next(p for p in lamps.values() if p.body and not p.rectified)
    assert "share a leg" in shared.plus


def test_a_page_has_each_kind_once_with_the_lamps_that_are_of_it():
    rectified = next(p.id for p in built_in().lamps.values() if p.rectified)
    plan = edits.set_fields(deck_plan(), ["deck1.lamp.02"], part="round-3-red")
    plan = edits.set_fields(plan, ["deck1.lamp.03"], part=rectified)
    (page,) = polarity_page(plan, assess(plan, built_in()), PAPERS["a4"])
    words = [m.text for m in page.marks if m.kind == "text"]
    assert words.count("Deck 1, lamp 1, Deck 1, lamp 4, Deck 1, lamp 5") == 1 and words.count("Round, domed") == 1
    assert words.count("Deck 1, lamp 2") == 1 and sum(w.startswith("Plus: either way") for w in words) == 1
    assert words.count(PLUS) == 2, "nothing is drawn for what lights either way round"
    assert max(y for m in page.marks for _, y in m.points) <= page.height_mm
    assert polarity_page(Plan(), assess(Plan(), built_in()), PAPERS["a4"]) == []
    assert len(pages_of(plan, assess(plan, built_in()), PAPERS["letter"], ["polarity"])) == 1


def test_a_wires_tag_says_its_sign_the_leg_and_the_lamp_by_name(demo):
    assessment = assess(demo, built_in())
    (page,) = wire_tags(demo, assessment, next(iter(PAPERS.values())))
    words = [m.text for m in page.marks if m.kind == "text"]
    leads = [r for r in assessment.loom.runs.values() if r.tag and r.kind == "lead"]
    assert leads and words.count("+") == words.count("−") > 0
    assert "across from mark" in words and "at its mark" in words
    assert not any("." in w and w.count(".") > 1 for w in words), "names, and no ids"
    parts = built_in().lamps
    assert (
        end_words(parts["round-3-red"], "plus") == "longer leg"
        and end_words(parts["strip-12v-60-red"], "minus") == "printed −"
    )
    assert (
        end_words(parts["wide-round-3-red"], "plus") == "either end"
        and end_words(parts["duo-3-red-green-red"], "plus") == ""
    )
