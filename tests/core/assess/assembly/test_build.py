"""Steps from the plan, seals, roll-calls, evenings of a real plan."""

from __future__ import annotations

import datetime
import itertools
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.cli import main
from gwiazda.core.assess.assembly.contents import contents_of
from gwiazda.core.assess.assembly.glues import advise, glue_words
from gwiazda.core.assess.assembly.learned import learned, took
from gwiazda.core.assess.assembly.progress import (
    Report,
    afterwards,
    calendar_of,
    close,
    mark,
    open_tests,
    progress_of,
    roll_call,
    tonight_of,
    unmark,
)
from gwiazda.core.assess.assembly.step import GATES
from gwiazda.core.assess.assembly.steps import steps_of, tasks_of
from gwiazda.core.assess.assembly.together import together
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.reach.reached import spots_of
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import Box, Closure, Hatch, Lamp, Layer, Obstacle, Plan, Seal, StepDay, copy_unchecked
from gwiazda.core.plan.storage import load, plan_from_json, plan_to_json
from gwiazda.core.schedule.graph import in_order
from gwiazda.core.starter.forms import FORMS
from gwiazda.core.starter.start import start
from gwiazda.core.workbench.testsheet import sheet_of
from gwiazda.demos import path_of

CAT = built_in()
NAMES = ("szron", "perkoz", "swistak", "bryla")


def deck(**section) -> Plan:
    plan = deck_plan(windows=6, lamps=3)
    fields = {"inside": (Layer(coat="flat-black", coats=2),), "outside": (Layer(coat="grey-primer"),), "closure": Closure(by="glue", glue="solvent cement", part="roof"), **section}  # fmt: skip
    return copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], **fields),))


def rules(plan: Plan) -> dict:
    return {f.rule: f for f in evaluate_rules(plan, assess(plan, CAT))}


def keys(plan: Plan) -> list[str]:
    return [s.key for s in steps_of(CAT, plan)]


def before(plan: Plan, first: str, second: str) -> bool:
    """Whether a step must come before another, directly or through others."""
    needs = {s.key: s.needs for s in steps_of(CAT, plan)}
    seen, todo = set(), [second]
    while todo:
        for n in needs[todo.pop()]:
            if n not in seen:
                seen.add(n)
                todo.append(n)
    return first in seen


@pytest.mark.parametrize("name", NAMES)
def test_every_demo_has_an_order_that_can_be_worked(name):
    plan = load(path_of(name)).plan
    steps = steps_of(CAT, plan)
    order = in_order(tasks_of(steps))
    place = {k: n for n, k in enumerate(order)}
    assert len(order) == len(steps) == len(set(order)) > 30
    assert all(place[n] < place[s.key] for s in steps for n in s.needs)
    assert all(s.minutes > 0 and s.wait_h >= 0 for s in steps) and order[-1] == ":final"
    found = calendar_of(plan, steps, "2026-11-26")
    assert len(found.laid) == len(steps) and found.ends is not None and found.critical


def test_the_usual_order_of_one_deck():
    plan = deck()
    chain = ["open", "deburr", "block.1", "block.2", "line.1", "line.2", "glaze", "lamps", "wires", "label", "test", "leak", "tuck", "roll-call", "close", "seam", "cover"]  # fmt: skip
    assert all(before(plan, f"deck1:{a}", f"deck1:{b}") for a, b in itertools.pairwise(chain))
    assert before(plan, "deck1:cover", ":paint.1"), "all of the model in one go"
    by_key = {s.key: s for s in steps_of(CAT, plan)}
    assert by_key["deck1:open"].minutes == 6 * 3 and by_key["deck1:open"].session == "drill"
    black = by_key["deck1:block.1"]
    assert (black.minutes, black.wait_h, black.again_h, black.session) == (4, 0.5, 1.0, "spray"), "acrylic, a coat"
    assert by_key["deck1:close"].wait_h == 4 and "solvent cement" in by_key["deck1:close"].detail


def test_schools_and_orders_change_what_comes_when():
    masked, scratched = deck(school="mask"), deck(school="scratch")
    assert before(masked, "deck1:mask", "deck1:block.1") and before(masked, ":paint.1", "deck1:unmask")
    assert before(scratched, ":paint.1", "deck1:scratch") and "deck1:open" not in keys(scratched)
    first = edits.set_orders(deck(), paint="before joining")
    assert before(first, "deck1:paint.1", "deck1:lamps") and "finish-handled" in rules(first)
    assert "finish-handled" not in rules(rules(first)["finish-handled"].fixes[0].applied(first))
    after = edits.set_orders(deck(), glaze="after lamps")
    assert before(after, "deck1:lamps", "deck1:glaze") and before(deck(), "deck1:glaze", "deck1:lamps")
    bench = edits.set_orders(edits.set_loom(deck(), bench_first=True), circuit="breadboard first", base="first")
    assert before(bench, ":breadboard", "deck1:solder") and not before(bench, "deck1:close", ":base")
    assert before(deck(), "deck1:close", ":base")
    again = edits.set_orders(deck(), rebuild=True, bare=True)
    assert before(again, "deck1:strip", "deck1:open") and before(again, ":bare", ":paint.1")
    late = edits.set_order(deck(), "deck1", late=True)
    assert before(late, "deck1:close", "deck1:join") and before(late, "deck1:join", ":final")
    assert edits.set_order(late, "deck1", late=False).section_orders == ()


def test_cold_and_damp_dry_slower():
    warm, cold = deck(), edits.set_bench(deck(), air_c=10.0, damp=True)
    wait = [next(s.wait_h for s in steps_of(CAT, p) if s.key == "deck1:block.1") for p in (warm, cold)]
    assert wait[1] == pytest.approx(3.0 * wait[0])


def all_but(plan: Plan, *left: str) -> Plan:
    """All steps of the deck up to its closing done, but for some."""
    steps = steps_of(CAT, plan)
    for s in steps:
        if s.section == "deck1" and s.kind not in ("close", "seam", "cover", "paint") and s.key not in left:
            plan = mark(plan, steps, s.key, Report(at="2026-11-20 19:00"))
    return plan


def test_a_section_is_not_closed_untested():
    plan = all_but(deck(), "deck1:leak")
    steps = steps_of(CAT, plan)
    with pytest.raises(PlanError, match="leak test in the dark"):
        mark(plan, steps, "deck1:close")
    forced = mark(plan, steps, "deck1:close", Report(at="2026-11-21 20:00", reason="The owner waits"))
    assert forced.seals[0].despite == ("deck1:leak",) and forced.seals[0].reason == "The owner waits"
    assert "closed-untested" not in rules(forced), "it is kept with its reason"
    tested = close(mark(plan, steps, "deck1:leak"), steps, "deck1")
    assert tested.seals[0].despite == () and validate_edit(plan, tested) is tested
    opened = unmark(tested, "deck1:close")
    assert opened.seals == () and plan_from_json(plan_to_json(tested).encode(), "x") == tested
    by_hand = copy_unchecked(plan, seals=(Seal(id="s", section="deck1"),))
    assert rules(by_hand)["closed-untested"].severity == "stop"


@given(st.integers(0, 10**6))
@settings(max_examples=60, deadline=None)
def test_no_path_closes_an_untested_section_unlogged(seed):
    """Steps marked, unmarked, failed and closed at random: a closed section's tests are passed or named with a reason, or it is found."""
    rng = random.Random(seed)
    plan = deck()
    steps = steps_of(CAT, plan)
    for _ in range(40):
        s = rng.choice(steps)
        try:
            if rng.random() < 0.2:
                plan = unmark(plan, s.key)
            elif rng.random() < 0.15:
                plan = edits.move(plan, ["deck1.lamp.01"], (rng.choice([1.0, -1.0]), 0.0, 0.0))
                steps = steps_of(CAT, plan)
            else:
                plan = mark(plan, steps, s.key, Report(result=rng.choice(["", "passed", "failed"]) if s.is_test else "", reason=rng.choice(["", "In haste"])))  # fmt: skip
        except PlanError as error:
            assert s.kind == "close" and "isn’t tested" in str(error)
    for seal in plan.seals:
        lacking = set(open_tests(plan, steps, seal.section)) - set(seal.despite)
        if lacking:
            assert "closed-untested" in rules(plan)
        assert not seal.despite or seal.reason
    closed = any(d.step == "deck1:close" for d in plan.done)
    assert closed == bool(plan.seals)


def test_a_change_voids_what_was_done_to_it_and_only_that():
    plan = all_but(deck())
    moved = edits.move(plan, ["deck1.lamp.01"], (2.0, 0.0, 0.0))
    states = {x.step.key: x.state for x in progress_of(moved, steps_of(CAT, moved), "")}
    assert states["deck1:lamps"] == "void" and states["deck1:test"] == "void" and states["deck1:block.1"] == "done"
    assert "void-steps" in rules(moved)
    held = rules(moved)["void-steps"].fixes[0].applied(moved)
    assert "void-steps" not in rules(held)
    assert {
        x.state
        for x in progress_of(plan, steps_of(CAT, plan), "")
        if x.step.section == "deck1" and x.step.kind in GATES
    } == {"done"}


def test_a_failed_test_is_said_and_paint_dries():
    plan = deck()
    steps = steps_of(CAT, plan)
    plan = mark(plan, steps, "deck1:test", Report(result="failed", note="lamp 2 stays dark"))
    assert "lamp 2 stays dark" in rules(plan)["test-failed"].sentence
    plan = mark(plan, steps, "deck1:open", Report(at="2026-11-26 19:00"))
    plan = mark(plan, steps, "deck1:deburr", Report(at="2026-11-26 19:40"))
    states = {x.step.key: x.state for x in progress_of(plan, steps, "2026-11-26 20:00")}
    assert states["deck1:block.1"] == "waiting" and states["deck1:lamps"] == "open"
    assert {x.step.key: x.state for x in progress_of(plan, steps, "2026-11-26 21:00")}["deck1:block.1"] == "ready"


def test_steps_of_ones_own_and_what_is_still_to_arrive():
    plan, mine = edits.add_own_step(deck(), "Etch the railings", section="deck1", minutes=40.0, after=("deck1:open",), before=("deck1:block.1",), arrives="2026-12-10")  # fmt: skip
    assert before(plan, "deck1:open", f"own:{mine}") and before(plan, f"own:{mine}", "deck1:close")
    found = calendar_of(plan, steps_of(CAT, plan), "2026-11-26")
    own = next(x for x in found.laid if x.key == f"own:{mine}")
    assert found.moment(own.begins_min).date().isoformat() >= "2026-12-10"
    circle = edits.set_own_step(plan, mine, after=("deck1:close",))
    assert "circle" in rules(circle)["circular-steps"].sentence
    assert "circular-steps" not in rules(rules(circle)["circular-steps"].fixes[0].applied(circle))


def test_a_date_in_no_calendar_is_refused_and_does_no_harm_in_a_file_from_elsewhere():
    plan, mine = edits.add_own_step(deck(), "Etch the railings")
    for attempt in (
        lambda: edits.set_bench(plan, begins="2026-99-99"),
        lambda: edits.add_own_step(plan, "Another", arrives="2026-02-31"),
        lambda: edits.set_own_step(plan, mine, arrives="9999-12-31"),
    ):
        with pytest.raises(PlanError, match="in no calendar"):
            attempt()
    odd = copy_unchecked(plan, own_steps=(copy_unchecked(plan.own_steps[0], arrives="2026-02-31"),))
    found = calendar_of(odd, steps_of(CAT, odd), "2026-02-20")
    own = next(x for x in found.laid if x.key == f"own:{mine}")
    assert found.moment(own.begins_min).date().isoformat() >= "2026-02-28"
    odd = copy_unchecked(plan, bench=copy_unchecked(plan.bench, begins="2026-99-99"))
    assert calendar_of(odd, steps_of(CAT, odd), "2026-11-26").laid


def test_tonight_with_forty_minutes():
    plan = deck()
    found = tonight_of(plan, steps_of(CAT, plan), "2026-11-26 20:00", 45.0)
    assert (
        found
        and sum(s.minutes for s in found) <= 45.0
        and all(not s.needs or set(s.needs) <= {f.key for f in found} for s in found)
    )
    assert tonight_of(plan, steps_of(CAT, plan), "2026-11-26 20:00", 1.0) == ()


def test_roll_call_and_what_cannot_be_reached_afterwards():
    plan = deck()
    words = " ".join(roll_call(plan, "deck1"))
    assert "3 lamps" in words and "6 panes" in words and "6 leads" in words and "glue faces" in words
    assert afterwards(plan, "deck1") == ("3 lamps", "")
    lid = deck(closure=Closure(by="screws", part="roof"))
    assert afterwards(lid, "deck1") == ("", "3 lamps by roof")


def test_left_and_right_get_a_hand():
    plan = load(path_of("bryla")).plan
    assert "no-hand" not in rules(plan)
    plan = copy_unchecked(plan, section_orders=())
    finding = rules(plan)["no-hand"]
    mended = finding.fixes[0].applied(plan)
    hands = {o.section: o.hand for o in mended.section_orders}
    assert hands["pod.port"] == "port" and hands["engine.starboard"] == "starboard" and "no-hand" not in rules(mended)


def test_an_evening_week_is_kept_to():
    plan = edits.set_bench(deck(), days=(False, False, False, False, False, True, True), from_h=10.0, hours=4.0)
    found = calendar_of(plan, steps_of(CAT, plan), "2026-11-26")
    days = {found.moment(a).weekday() for x in found.laid for a, _ in x.pieces}
    assert days <= {5, 6} and all(10 <= found.moment(a).hour < 14 for x in found.laid for a, _ in x.pieces)


def test_the_calendar_is_read_back_and_the_command_says_the_steps(tmp_path, capsys):
    import csv

    from icalendar import Calendar

    path = str(path_of("swistak"))
    assert (
        main(
            ["steps", path, "--from", "2026-12-01", "--ics", str(tmp_path / "b.ics"), "--csv", str(tmp_path / "b.csv")]
        )
        == 0
    )
    plan = load(path).plan
    steps = steps_of(CAT, plan)
    laid_ = calendar_of(plan, steps, "2026-12-01")
    events = list(Calendar.from_ical((tmp_path / "b.ics").read_bytes()).walk("VEVENT"))
    times = sorted((e.decoded("dtstart"), e.decoded("dtend")) for e in events)
    assert len(laid_.sessions) <= len(events) < len(steps), "an event for what is done in one go"
    hands = sum((laid_.moment(b) - laid_.moment(a) for x in laid_.laid for a, b in x.pieces), datetime.timedelta())
    spent = sum((b - a for a, b in times), datetime.timedelta())
    assert abs(spent - hands) < datetime.timedelta(minutes=45), "and no more than that but for a pause within"
    text = "\n".join(f"{e['summary']} {e.get('description', '')}" for e in events)
    assert all(s.name in text for s in steps)
    assert len({str(e["uid"]) for e in events}) == len(events) and any(
        "fresh blade" in str(e.get("description", "")) for e in events
    )
    rows = list(csv.DictReader((tmp_path / "b.csv").open()))
    assert {r["step"] for r in rows} == {s.key for s in steps} and rows[-1]["step"] == ":final"
    assert main(["steps", path, "--from", "2026-12-01"]) == 0
    said = capsys.readouterr().out
    assert "Tuesday 2026-12-01" in said and "Cab: Open the windows" in said and "done by" in said
    assert main(["steps", path, "--tonight", "40", "--from", "2026-12-01"]) == 0
    assert sum(float(line.split(" min")[0]) for line in capsys.readouterr().out.splitlines()) <= 40
    assert main(["steps", path, "--from", "soon"]) == 2 and "no date" in capsys.readouterr().err


def test_a_glue_that_eats_fibres_is_found():
    plan = load(path_of("bryla")).plan
    pod = next(s for s in plan.sections if s.id == "pod.port")
    glued = copy_unchecked(
        plan,
        sections=tuple(
            copy_unchecked(s, closure=Closure(by="glue", glue="thin solvent cement")) if s is pod else s
            for s in plan.sections
        ),
    )
    finding = rules(glued)["glue-attacks"]
    assert "fibres" in finding.sentence and finding.subject == "pod.port"
    assert "glue-attacks" not in rules(finding.fixes[0].applied(glued)) and "glue-attacks" not in rules(plan)


def test_sheets_to_tick_are_printed():
    from gwiazda.core.drawing.sheets import PAPERS, pages_of

    plan = all_but(deck(), "deck1:leak")
    pages = pages_of(plan, assess(plan, CAT), PAPERS["a4"], ("steps", "tests", "closings", "care"))
    words = " ".join(m.text for p in pages for m in (*p.frame, *p.body) if m.kind == "text")
    assert all(
        w in words
        for w in ("Steps of the build", "Test sheet", "Before Deck 1 is closed", "fresh blade", "Leak test in the dark")
    )
    boxes = [m for p in pages for m in p.body if m.kind == "outline" and len(m.points) == 4]
    ticked = [m for m in boxes if m.fill is not None]
    assert len(boxes) > len(steps_of(CAT, plan)) and len(ticked) == len(plan.done)


def test_minutes_are_learned_from_what_it_took_and_go_into_the_next_kit():
    plan = all_but(deck())
    steps = steps_of(CAT, plan)
    work = {s.key: s for s in steps}
    assert learned(plan, CAT, steps) == {}
    house = plan.effort
    plan = took(plan, "deck1:open", 9.0 * work["deck1:open"].many)
    plan = took(plan, "deck1:lamps", 2.5 * work["deck1:lamps"].many)
    found = learned(plan, CAT, steps)
    # One note each: .8 of the way from the house's minutes, by their logarithms.
    assert found["drill_min"].minutes == pytest.approx(house.drill_min * (9.0 / house.drill_min) ** 0.8, abs=0.02)
    assert found["lamp_min"].minutes == pytest.approx(house.lamp_min * (2.5 / house.lamp_min) ** 0.8, abs=0.02)
    assert found["drill_min"].low < 9.0 < found["drill_min"].high and found["drill_min"].notes == 1
    fields = {k: x.minutes for k, x in found.items()}
    again = edits.once_more(edits.set_effort(plan, **fields))
    assert (
        again.done == again.seals == again.log == ()
        and again.effort.drill_min == fields["drill_min"]
        and again.kit.name.endswith("once more")
    )
    assert {s.key: s.minutes for s in steps_of(CAT, again)}["deck1:open"] == pytest.approx(
        fields["drill_min"] * 6, abs=0.05
    )


def test_how_it_goes_together():
    plan = load(path_of("szron")).plan
    words = " ".join(together(plan, assess(plan, CAT), "deck1"))
    assert "lamps at the" in words and "goes on last" in words and "wires leave by" in words and "bow it open" in words
    assert "full strength after 24 h" in words


def test_glues_are_chosen_by_what_they_join():
    by = {
        pair: {x.glue.id: x.verdict for x in advise(CAT, *pair)}
        for pair in (("body", "body"), ("clear", "body"), ("fibre", "body"), ("lamp", "body"), ("paint", "body"))
    }
    assert advise(CAT, "body", "body")[0].glue.id == "thin solvent cement" and by["body", "body"]["UV resin"] == "no"
    assert by["body", "body"]["white glue"] == "weak" and by["fibre", "body"]["white glue"] == "holds", (
        "weak where it carries, right at a fibre"
    )
    assert (
        by["fibre", "body"]["cyanoacrylate"]
        == by["fibre", "body"]["solvent cement"]
        == by["clear", "body"]["cyanoacrylate"]
        == "hurts"
    )
    assert by["lamp", "body"]["solvent cement"] == "no" and by["paint", "body"]["solvent cement"] == "hurts"
    assert by["clear", "body"]["UV resin"] == by["lamp", "body"]["hot glue"] == "holds"
    for pair in by:
        assert [x.verdict for x in advise(CAT, *pair)] == [x.verdict for x in advise(CAT, *reversed(pair))]


@pytest.mark.parametrize("name", NAMES)
def test_every_section_of_the_demos_has_a_glue_for_all_it_joins(name):
    plan = load(path_of(name)).plan
    for c in contents_of(plan).values():
        lines = glue_words(CAT, c, plan.kit.material)
        assert all("held" in line or "hinge" in line for line in lines)
        assert any("Fibres: " in line and "Not " in line for line in lines) == bool(c.dots)
        assert any("hinge" in line for line in lines) == any(w.joint == "hinge" for w in c.passages)


# -- lamps that are seen themselves ----------------------------------------------------------------------------


def sailing(late: bool) -> Plan:
    """The deck with a running light on its port wall, wired with the first lamp inside."""
    plan = deck()
    plan = edits.add_lamp(
        plan,
        Lamp(
            id="deck1.port_light",
            part="chip-0603-red",
            at=(80.0, 22.0, 12.0),
            aim=(0, 1, 0),
            mount="outside",
            late=late,
        ),
    )
    validate_edit(deck(), plan)
    return plan


def test_a_running_light_is_drilled_for_set_wired_and_tested_with_its_section():
    early, late, without = (steps_of(CAT, p) for p in (sailing(False), sailing(True), deck()))

    def count(steps, kind: str, section: str = "deck1") -> int:
        return sum(s.many for s in steps if s.section == section and s.kind == kind)

    assert count(early, "lamps") == count(without, "lamps") + 1 and count(late, "lamps") == count(without, "lamps")
    assert count(early, "holes") == 1 and count(late, "holes") == 0
    holes = next(s for s in early if s.kind == "holes")
    assert holes.name == "Drill for the lamps"
    assert before(sailing(False), holes.key, next(s.key for s in early if s.kind == "lamps"))
    assert any(s.section == "" and s.kind == "lamps" for s in late)
    assert not any(s.section == "" and s.kind == "lamps" for s in early)


def test_a_running_light_is_on_the_test_sheet_and_in_the_roll_call_of_its_section():
    early, late = sailing(False), sailing(True)

    def tested(plan: Plan) -> set[str]:
        return {i for line in sheet_of(plan, assess(plan, CAT), "deck1") for i in line.lamps}

    assert "deck1.port_light" in tested(early) and "deck1.port_light" not in tested(late)
    assert "deck1.port_light" in {p.id for p in contents_of(early)["deck1"].lamps}
    assert "deck1.port_light" not in {p.id for p in contents_of(late)["deck1"].lamps}


def test_parts_that_hold_no_light_have_no_steps_and_the_model_is_painted_in_one_go_or_ones_own_way():
    made = start(CAT, FORMS["vehicle"].sizes).plan
    steps = steps_of(CAT, made)
    wheels = [s.id for s in made.sections if s.id.startswith("wheel")]
    assert wheels and not [s.key for s in steps if s.section in wheels]
    (paint,) = [s for s in steps if s.kind == "paint"]
    assert paint.section == "" and paint.many == sum(bool(s.outside) for s in made.sections) > len(wheels)
    mine = steps_of(CAT, edits.set_orders(made, paint="my own way"))
    assert not [s.key for s in mine if s.kind in ("paint", "cover")] and len(mine) < len(steps)
    assert mine[-1].key == ":final" and any(s.kind == "seam" for s in mine)


def test_the_box_vehicle_is_done_in_a_week_of_evenings_and_each_kind_of_work_in_one_go():
    """What no one would follow was 106 steps, 27 hours, fifteen days."""
    made = start(CAT, FORMS["vehicle"].sizes).plan
    found = calendar_of(made, steps_of(CAT, made), "2026-12-01")
    hands = sum(b - a for x in found.laid for a, b in x.pieces) / 60.0
    assert hands <= 11.0 and (found.ends - found.moment(0)).days < 7
    kinds = [s.kind for s in found.sessions]
    assert kinds.count("drill") == kinds.count("wash") == 1 and kinds.count("solder") <= 2 and len(kinds) <= 32
    black = [s for s in found.sessions if s.kind == "spray"]
    assert len(black[0].keys) == 4 and all(k.endswith("block.1") for k in black[0].keys), "all parts in one go"


def test_two_coats_an_evening_where_the_paint_allows_it():
    acrylic, enamel = deck(), edits.set_fields(deck(), ["deck1"], inside=(Layer(coat="flat-black-enamel", coats=2),))
    days = []
    for plan in (acrylic, enamel):
        at = {x.key: x for x in calendar_of(plan, steps_of(CAT, plan), "2026-12-01").laid}
        first, second = at["deck1:block.1"], at["deck1:block.2"]
        days.append(second.begins_min // 1440 - first.begins_min // 1440)
    assert days == [0, 1]
    damp = [
        next(s.wait_h for s in steps_of(CAT, edits.set_bench(p, damp=True)) if s.key == "deck1:block.1")
        for p in (acrylic, enamel)
    ]
    assert damp == [0.75, 6.0], "only what is made with water minds the damp"


def test_a_step_put_on_a_day_waits_for_it_and_all_that_needs_it():
    plan = edits.put_on_day(deck(), ["deck1:block.1"], "2026-12-09")
    found = calendar_of(plan, steps_of(CAT, plan), "2026-12-01")
    at = {x.key: found.moment(x.begins_min).date().isoformat() for x in found.laid}
    assert (
        at["deck1:block.1"] == "2026-12-09" and at["deck1:open"] == "2026-12-01" and at["deck1:lamps"] >= "2026-12-09"
    )
    assert edits.put_on_day(plan, ["deck1:block.1"], "") == deck()
    moved = edits.put_on_day(plan, ["deck1:block.1"], "2026-12-05")
    assert [(x.step, x.day) for x in moved.step_days] == [("deck1:block.1", "2026-12-05")]
    with pytest.raises(PlanError, match="calendar"):
        edits.put_on_day(deck(), ["deck1:open"], "2026-02-30")
    # A file from elsewhere: no day, a day that no calendar has, a step that isn't there.
    odd = copy_unchecked(
        deck(), step_days=tuple(StepDay(id=f"d{k}", step=s, day=d) for k, (s, d) in enumerate([("deck1:open", ""), ("deck1:lamps", "2026-02-31"), ("gone:open", "2026-12-09")]))
    )  # fmt: skip
    assert len(calendar_of(odd, steps_of(CAT, odd), "2026-12-01").laid) == len(steps_of(CAT, odd))


def test_tonight_without_the_iron():
    plan = deck()
    steps = steps_of(CAT, plan)
    usual = tonight_of(plan, steps, "2026-11-26 20:00", 90.0)
    quiet = tonight_of(plan, steps, "2026-11-26 20:00", 90.0, ["solder"])
    assert any(s.session == "solder" for s in usual) and quiet and not any(s.session == "solder" for s in quiet)
    assert all(
        s.session not in ("drill", "spray")
        for s in tonight_of(plan, steps, "2026-11-26 20:00", 20.0, ["drill", "spray"])
    )


def closed(plan):
    """What gets to each lamp once its section is closed."""
    return {s.id: s.closed for s in spots_of(plan, assess(plan, CAT)) if not s.joint}


def test_what_is_got_at_through_a_hatch_and_what_stands_before_it():
    box = deck().sections[0].box
    hatch = Hatch(face="bottom", at=(box.size[0] / 2, box.size[1] / 2), size=(24.0, 20.0))
    plan = deck(closure=Closure(by="glue", part="roof", hatch=hatch))
    gone, still = afterwards(plan, "deck1")
    assert gone == "3 lamps" and "the cells by the hatch" in still and "fingers to" in still
    assert closed(plan) == {p.id: "fingers" for p in plan.lamps}
    narrow = deck(closure=Closure(by="glue", part="roof", hatch=copy_unchecked(hatch, size=(24.0, 5.0))))
    assert set(closed(narrow).values()) == {"tweezers"}
    wall = Obstacle(
        id="wall",
        name="Bulkhead",
        box=Box(at=(box.at[0] + box.size[0] * 0.4, box.at[1], box.at[2]), size=(2.0, box.size[1], box.size[2])),
    )
    parted = edits.set_fields(plan, ["deck1"], obstacles=(wall,))
    assert "" in closed(parted).values() and "nothing to" in afterwards(parted, "deck1")[1]
    glued = deck(closure=Closure(by="glue", part="roof"))
    assert set(closed(glued).values()) == {""} and afterwards(glued, "deck1")[1] == ""
    # With its roof off fingers get everywhere, but past the bulkhead only from above.
    assert {s.open for s in spots_of(glued, assess(glued, CAT)) if not s.joint} == {"fingers"}
