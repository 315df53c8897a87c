"""The build along its steps: what is open, reached, hanging, to be threaded; what will not be got at, found while planning."""

from __future__ import annotations

import pytest

from gwiazda.core.assess.assembly.progress import calendar_of
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assembly.threading import threaded_through
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.reach.during import moment, moment_words, threaded
from gwiazda.core.assess.reach.reached import spots_of
from gwiazda.core.findings.assembly.reach_rules import joints_shut_in, joints_unreached, lamps_unreached
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import (
    Box,
    Closure,
    Feed,
    Hub,
    Lamp,
    Loom,
    Obstacle,
    Passage,
    Plan,
    Section,
    SectionOrder,
    Supply,
    copy_unchecked,
)
from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of

CAT = built_in()
GLUED = Closure(part="roof", by="glue", glue="solvent cement")


def two_decks(**fields) -> Plan:
    """A lower deck and one upon it, whose wires go down through it to a source below."""
    lower = Section(
        id="lower", name="Lower deck", box=Box(at=(0.0, -20.0, 0.0), size=(80.0, 40.0, 20.0)), closure=GLUED
    )
    upper = Section(
        id="upper", name="Upper deck", box=Box(at=(0.0, -20.0, 25.0), size=(80.0, 40.0, 20.0)), closure=GLUED
    )
    lamps = tuple(
        Lamp(id=f"{s}.{k}", part="chip-0603-warm-white", at=(20.0 + 40.0 * k, 0.0, z))
        for s, z in (("lower", 18.0), ("upper", 43.0))
        for k in range(2)
    )
    passages = (
        Passage(id="down", section="upper", into="lower", at=(40.0, 0.0, 22.5), width_mm=4.0),
        Passage(id="out", section="lower", at=(40.0, 0.0, -1.0), width_mm=5.0),
    )  # fmt: skip
    return Plan(
        **(
            {
                "sections": (lower, upper),
                "lamps": lamps,
                "passages": passages,
                "feeds": (Feed(id="feed", supply=Supply()),),
            }
            | fields
        )
    )


def test_a_deck_is_closed_once_the_wires_from_above_are_through_it():
    plan = two_decks()
    assert threaded_through(CAT, plan) == {"lower": ("upper",)}
    steps = {s.key: s for s in steps_of(CAT, plan)}
    assert "upper:wires" in steps["lower:close"].needs
    laid = {x.key: x for x in calendar_of(plan, tuple(steps.values()), "2026-12-01").laid}
    assert laid["lower:close"].begins_min >= laid["upper:wires"].ends_min - 1e-6
    # Nothing waits where the deck can be opened, where a plug parts the wires at the hole between, or where it comes in late.
    screwed = edits.set_fields(plan, ["lower"], closure=Closure(by="screws", part="roof"))
    assert threaded_through(CAT, screwed) == {}
    plugged = edits.set_fields(plan, ["down"], connector="4-pin header")
    steps = {s.key: s for s in steps_of(CAT, plugged)}
    assert threaded_through(CAT, edits.set_fields(plugged, ["down"], connector=None)) == {"lower": ("upper",)}
    late = copy_unchecked(plan, section_orders=(SectionOrder(id="order", section="upper", late=True),))
    assert threaded_through(CAT, late) == {}
    assert "upper:wires" not in {s.key: s for s in steps_of(CAT, late)}["lower:close"].needs


@pytest.mark.parametrize("name", ["szron", "perkoz", "swistak", "bryla"])
def test_in_every_demo_nothing_is_closed_before_what_goes_through_it_is_in(name):
    plan = load(path_of(name)).plan
    assessment, steps = assess(plan, CAT), steps_of(CAT, plan)
    laid = {x.key: x for x in calendar_of(plan, steps, "2026-12-01").laid}
    for t in threaded(plan, assessment):
        if f"{t.of}:wires" in laid:
            assert laid[f"{t.section}:close"].begins_min >= laid[f"{t.of}:wires"].ends_min - 1e-6, t
    # Every step can be looked at; what is got at only ever becomes less as sections are closed.
    done: set[str] = set()
    before = None
    for x in sorted(laid.values(), key=lambda x: x.begins_min):
        now = moment(plan, assessment, steps, done)
        assert set(now.open) | set(now.closed) == {s.id for s in plan.sections} and not set(now.open) & set(now.closed)
        wide = {"": 0, "tweezers": 1, "an iron": 2, "fingers": 3}
        if before is not None:
            assert all(wide[now.reached[i]] <= wide[tool] for i, tool in before.items())
        before = dict(now.reached)
        done.add(x.key)


def test_a_moment_says_what_is_open_reached_hanging_and_to_be_threaded():
    plan = two_decks()
    assessment, steps = assess(plan, CAT), steps_of(CAT, plan)
    start = moment(plan, assessment, steps, ())
    assert start.open == ("lower", "upper") and set(start.reached.values()) == {"fingers"}
    assert [(t.section, t.of) for t in start.thread] == [("lower", "upper")]
    soldered = moment(plan, assessment, steps, {"lower:solder"})
    assert soldered.hanging and all(j.startswith("lower.") for j in soldered.hanging)
    assert not moment(plan, assessment, steps, {"lower:solder", "lower:lamps"}).hanging
    shut = moment(plan, assessment, steps, {"upper:wires", "lower:close"})
    assert shut.closed == ("lower",) and not shut.thread
    assert {tool for i, tool in shut.reached.items() if i.startswith("lower")} == {""}
    words = " ".join(moment_words(plan, assessment, shut))
    assert (
        "Lower deck</b>, closed: nothing to 2 lamps and 4 joints" in words
        and "Upper deck</b>, open at its roof: fingers" in words
    )
    assert "thread 4 wires of Upper deck" in " ".join(moment_words(plan, assessment, start))


def test_the_wall_that_is_open_is_the_one_that_is_said_or_that_of_the_seam():
    shelf = Obstacle(id="shelf", name="Shelf", box=Box(at=(0.0, -20.0, 10.0), size=(80.0, 40.0, 1.0)))
    plan = edits.set_fields(two_decks(), ["lower"], obstacles=(shelf,))
    below = tuple(copy_unchecked(p, at=(p.at[0], p.at[1], 3.0)) if p.id.startswith("lower") else p for p in plan.lamps)
    plan = copy_unchecked(plan, lamps=below)
    found = {s.id: s.open for s in spots_of(plan, assess(plan, CAT)) if not s.joint}
    assert found["lower.0"] == "" and found["upper.0"] == "fingers"
    finding = next(lamps_unreached(plan, assess(plan, CAT)))
    assert set(finding.subjects) == {"lower.0", "lower.1"} and "Shelf stands in the way" in finding.sentence
    assert [f.label for f in finding.fixes][-1] == "Cut Shelf out" and "floor" in " ".join(
        f.label for f in finding.fixes
    )
    for fix in finding.fixes:
        mended = fix.applied(plan)
        assert not list(lamps_unreached(mended, assess(mended, CAT))), fix.label


def test_a_joint_that_the_iron_does_not_get_to_is_soldered_on_the_bench():
    walls = tuple(
        Obstacle(id=f"rib.{k}", name=f"Rib {k}", kind="rib", box=Box(at=(x, -20.0, 0.0), size=(1.0, 40.0, 20.0)))
        for k, x in enumerate((17.0, 22.0))
    )
    plan = edits.set_fields(two_decks(loom=Loom(bench_first=False)), ["lower"], obstacles=walls)
    low = tuple(copy_unchecked(p, at=(20.0, 0.0, 3.0)) if p.id == "lower.0" else p for p in plan.lamps)
    plan = copy_unchecked(plan, lamps=low)
    finding = next(joints_unreached(plan, assess(plan, CAT)))
    assert "the iron does not get to" in finding.sentence and "tweezers" in finding.sentence
    assert finding.fixes[0].label == "Solder lamps on the bench first"
    for fix in finding.fixes:
        mended = fix.applied(plan)
        assert not list(joints_unreached(mended, assess(mended, CAT))), fix.label


def test_a_joint_shut_in_before_a_late_unit_comes_is_found_and_each_offer_lets_it_in():
    hub = Hub(id="hub", section="lower", at=(40.0, 0.0, 10.0))
    late = (SectionOrder(id="order", section="upper", late=True),)
    plan = two_decks(hubs=(hub,), section_orders=late)
    assessment = assess(plan, CAT)
    assert any(j.kind == "hub" for j in assessment.loom.joints)
    finding = next(joints_shut_in(plan, assessment))
    assert "Once Lower deck is closed" in finding.sentence and "Upper deck comes in later" in finding.sentence
    labels = [f.label for f in finding.fixes]
    assert (
        any("goes in before" in x for x in labels)
        and any("plug" in x for x in labels)
        and any("hatch" in x for x in labels)
        and any("Longer leads" in x for x in labels)
    )
    for fix in finding.fixes:
        mended = fix.applied(plan)
        assert not list(joints_shut_in(mended, assess(mended, CAT))), fix.label
    assert not list(joints_shut_in(two_decks(hubs=(hub,)), assessment))
