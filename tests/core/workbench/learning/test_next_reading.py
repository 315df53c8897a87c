"""What to read next: what matters, the narrowing that comes true, minutes, and silence where nothing is undecided."""

from __future__ import annotations

import math

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Done, Layer, Plan, Seal, Wanted, copy_unchecked, new_plan
from gwiazda.core.plan.storage import load
from gwiazda.core.workbench.learning.lesson import house_of, lesson_of
from gwiazda.core.workbench.learning.next_reading import narrows_words, next_reading_words, next_readings, undecided
from gwiazda.demos import path_of

CAT = built_in()
LAMPS = tuple(f"deck1.lamp.{k:02d}" for k in (1, 2, 3))


def deck(share: float = 1.0, **section) -> Plan:
    """A deck whose windows come out at so much of what is wanted of them."""
    plan = edits.set_wanted(deck_plan(windows=4, lamps=3), LAMPS, Wanted(cd_m2=30.0))
    assessment = assess(plan, CAT)
    ohm = assessment.lamps[LAMPS[0]].resistor_ohm / share
    for lamp in LAMPS:
        plan = edits.set_fields(plan, [lamp], resistor_ohm=ohm)
    return copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], **section),)) if section else plan


def test_undecided_is_most_where_it_is_even_and_nothing_where_it_is_sure():
    """By hand: the middle of a band that begins at 0 and never ends has p = ½, so 4·¼ = 1; three sigmas inside, p = .99865."""
    assert undecided(0.0, 0.3, 0.0, math.inf) == pytest.approx(1.0)
    assert undecided(0.9, 0.3, 0.0, math.inf) == pytest.approx(4 * 0.99865 * 0.00135, rel=1e-3)
    assert undecided(0.5, 0.0, 0.0, 1.0) == 0.0


def test_a_look_that_may_miss_is_settled_by_a_reading_of_its_windows_and_what_it_says_comes_true():
    plan = deck(0.75)
    first = next_readings(plan, CAT)
    best = next(n for n in first if n.what == "cd_m2")
    ((of, before, after), *_) = best.narrows
    assert of == "deck1" and after < 0.5 * before and best.settles > 0.3
    assert before == pytest.approx(assess(plan, CAT).sections["deck1"].sigma, rel=0.05)
    pane = next(o for o in plan.openings if o.id == best.of)
    read, _ = edits.add_entry(
        plan, "reading", what="cd_m2", place=pane.id, value=assess(plan, CAT).openings[pane.id].luminance_cd_m2
    )
    (learned,) = (x for x in lesson_of(read, CAT).learned if x.kind == "section")
    # Told beforehand, and so it is; what is learned is a little wider, as one reading tells little of its own spread.
    assert after <= learned.sigma < 1.35 * after
    again = next_readings(read, CAT)
    assert all(n.settles < best.settles for n in again if n.what == "cd_m2")
    words = next_reading_words(plan, best), narrows_words(plan, house_of(plan, CAT), best)
    assert words[0].startswith("The luminance of Deck 1") and words[1].startswith("Deck 1 ±") and "then ±" in words[1]


def test_a_leak_that_may_show_asks_for_coats_first():
    plan = edits.set_room(deck(1.0, inside=(Layer(coat="flat-black", coats=1),)), lux=1.0)
    (leak, *_) = [x for x in assess(plan, CAT).leaks if x.kind == "wall"]
    assert leak.safe_times > 1.0
    found = next_readings(plan, CAT)
    assert "coats" in [n.what for n in found]
    coats = next(n for n in found if n.what == "coats")
    assert coats.minutes == 1.0 and "Count the coats Deck 1 takes" in next_reading_words(plan, coats)
    assert "leaks of Deck 1" in narrows_words(plan, house_of(plan, CAT), coats)
    # Once they are on, or were counted, there is nothing to count.
    counted, _ = edits.add_entry(plan, "coat", "black", section="deck1", value=2.0)
    painted = copy_unchecked(plan, done=(Done(id="done.1", step="deck1:block.1", at="2026-11-26 20:00"),))
    for later in (counted, painted):
        assert all(n.what != "coats" for n in next_readings(later, CAT))


def test_closed_sections_lamps_are_not_asked_for_and_one_section_is_asked_for_itself():
    plan = load(path_of("perkoz")).plan
    hull = next_readings(plan, CAT, "hull")
    assert hull and all(n.of == "hull" or n.of.startswith("hull.") or n.what == "photo" for n in hull)
    every = next_readings(plan, CAT, most=50)
    assert every[0].settles / every[0].minutes >= max(n.settles / n.minutes for n in every) - 1e-9
    # Each is what is worth it once those before it are made: none says again what another has said.
    assert sum(n.settles for n in every) < 1.0 and len({(n.what, n.of) for n in every}) == len(every)
    inside = {i for i, s in assess(plan, CAT).lamps.items() if s.section}
    closed = copy_unchecked(plan, seals=tuple(Seal(id=f"seal.{s.id}", section=s.id) for s in plan.sections))
    later = next_readings(closed, CAT, most=50)
    assert later and not any(n.what == "coats" or n.of in inside for n in later), "what is closed is read from outside"


def test_where_nothing_is_lit_or_undecided_nothing_is_asked():
    assert next_readings(new_plan(), CAT) == () and next_readings(Plan(), CAT) == ()
    sure = deck(1.0)
    for o in sure.openings:
        sure, _ = edits.add_entry(
            sure, "reading", what="cd_m2", place=o.id, value=assess(sure, CAT).openings[o.id].luminance_cd_m2
        )
    assert not any(n.what == "cd_m2" for n in next_readings(sure, CAT))
