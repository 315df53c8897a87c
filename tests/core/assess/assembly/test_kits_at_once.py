"""Several kits on one bench: twins in one go, another kit's steps meanwhile; what a failed test costs."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.cli import main
from gwiazda.core.assess.assembly.maker import failures
from gwiazda.core.assess.assembly.progress import Other, Report, calendar_of, mark, progress_of, slip_of
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Closure, Layer, Plan, copy_unchecked
from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of

CAT = built_in()
TODAY = "2026-11-26"


def deck(name: str = "Deck") -> Plan:
    plan = edits.set_kit(deck_plan(windows=6, lamps=3), name=name)
    section = copy_unchecked(
        plan.sections[0],
        inside=(Layer(coat="flat-black", coats=2),),
        closure=Closure(by="glue", glue="solvent cement", part="roof"),
    )
    return copy_unchecked(plan, sections=(section,))


def by_key(plan: Plan) -> dict:
    return {s.key: s for s in steps_of(CAT, plan)}


def test_twins_are_set_up_once_and_done_twice():
    one, two = by_key(deck()), by_key(edits.set_bench(deck(), alike=2))
    assert list(one) == list(two)
    work = CAT.work
    for key, step in one.items():
        twin = two[key]
        assert twin.wait_h == step.wait_h, "they dry side by side"
        if step.many and step.minutes > work[step.kind].set_min:
            assert (
                twin.minutes == pytest.approx(2 * step.minutes - work[step.kind].set_min, abs=0.11)
                and twin.many == 2 * step.many
            )
        else:
            assert twin.minutes == pytest.approx(2 * step.minutes), key
    ends = [calendar_of(p, steps_of(CAT, p), TODAY).ends for p in (deck(), edits.set_bench(deck(), alike=2))]
    alone = (ends[0] - calendar_of(deck(), steps_of(CAT, deck()), TODAY).moment(0)).days
    both = (ends[1] - calendar_of(deck(), steps_of(CAT, deck()), TODAY).moment(0)).days
    assert alone <= both < 2 * alone


@settings(deadline=None, max_examples=15)
@given(
    st.lists(st.sampled_from(["deck1:open", "deck1:deburr", "deck1:block.1"]), max_size=3, unique=True),
    st.integers(1, 3),
)
def test_one_pair_of_hands_serves_all_kits_and_no_step_is_lost(done, many):
    mine, others = deck(), []
    for k in range(many):
        plan = deck(f"Other {k}")
        for key in done:
            plan = mark(plan, steps_of(CAT, plan), key, Report(at="2026-11-20 20:00"))
        others.append(Other(plan.kit.name, plan, steps_of(CAT, plan)))
    steps = steps_of(CAT, mine)
    found = calendar_of(mine, steps, TODAY, tuple(others))
    assert {x.key for x in found.laid} == {s.key for s in steps}
    assert [name for name, _ in found.beside] == [o.name for o in others]
    for (_, laid), other in zip(found.beside, others, strict=True):
        assert {x.key for x in laid} == {s.key for s in other.steps} - set(done)
    pieces = sorted(p for x in (*found.laid, *(x for _, laid in found.beside for x in laid)) for p in x.pieces)
    assert all(a[1] <= b[0] + 1e-6 for a, b in pairwise(pieces)), "hands do one thing at a time"
    for laid, its in ((found.laid, steps), *((x, o.steps) for (_, x), o in zip(found.beside, others, strict=True))):
        when = {x.key: x for x in laid}
        for s in its:
            for n in s.needs:
                if s.key in when and n in when:
                    assert when[s.key].begins_min >= when[n].done_min - 1e-6
    alone = calendar_of(mine, steps, TODAY)
    assert found.ends >= alone.ends and alone.beside == ()


def test_drying_here_leaves_the_hands_free_there():
    """Two kits take less than one after the other: while one dries the other is worked on."""
    a, b = deck("A"), deck("B")
    steps = steps_of(CAT, a)
    both = calendar_of(a, steps, TODAY, (Other("B", b, steps_of(CAT, b)),))
    last = max(x.done_min for x in (*both.laid, *both.beside[0][1]))
    alone = max(x.done_min for x in calendar_of(a, steps, TODAY).laid)
    assert last < 2 * alone - 1440.0


def test_a_failed_test_puts_mending_before_it_and_says_what_it_costs():
    plan = deck()
    for s in steps_of(CAT, plan):
        if s.section == "deck1" and s.kind not in ("leak", "glue-faces", "roll-call", "close", "seam"):
            plan = mark(plan, steps_of(CAT, plan), s.key, Report(at="2026-11-20 20:00"))
    assert slip_of(CAT, plan, TODAY) == (0, ())
    failed = mark(
        plan, steps_of(CAT, plan), "deck1:leak", Report(at="2026-11-25 21:00", result="failed", note="glow at the seam")
    )
    assert failures(failed) == {"deck1:leak": 1}
    steps = by_key(failed)
    mend = steps["deck1:leak.mend.1"]
    assert (
        mend.detail == "glow at the seam"
        and mend.wait_h == CAT.coats["flat-black"].dry_h
        and "deck1:leak.mend.1" in steps["deck1:leak"].needs
    )
    assert slip_of(CAT, failed, TODAY) == (0, ("deck1:leak",)), "of acrylic the coat is dry the same evening"
    short = edits.set_bench(failed, hours=0.5)
    slip = slip_of(CAT, short, TODAY)
    assert slip.tests == ("deck1:leak",) and slip.days >= 1, "not in half an hour"
    states = {x.step.key: x.state for x in progress_of(failed, steps_of(CAT, failed), "2026-11-26 20:00")}
    assert states["deck1:leak.mend.1"] == "ready" and states["deck1:leak"] == "failed"
    mended = mark(failed, steps_of(CAT, failed), "deck1:leak.mend.1", Report(at="2026-11-26 20:00"))
    again = mark(mended, steps_of(CAT, mended), "deck1:leak", Report(at="2026-11-27 20:00", result="failed"))
    assert "deck1:leak.mend.2" in by_key(again) and "deck1:leak.mend.1" not in by_key(again)
    well = mark(again, steps_of(CAT, again), "deck1:leak", Report(at="2026-11-28 20:00"))
    assert not any("mend" in k for k in by_key(well)) and slip_of(CAT, well, "2026-11-28") == (0, ())


def test_the_command_plans_several_kits(tmp_path, capsys):
    from icalendar import Calendar

    paths = [str(path_of(n)) for n in ("swistak", "perkoz")]
    assert main(["steps", *paths, "--from", TODAY, "--ics", str(tmp_path / "b.ics")]) == 0
    events = Calendar.from_ical((tmp_path / "b.ics").read_bytes()).walk("VEVENT")
    names = {load(p).plan.kit.name for p in paths}
    assert {str(e["summary"]).split(",")[0].split(":")[0] for e in events} >= names
    assert len({str(e["uid"]) for e in events}) == len(events)
    assert main(["steps", *paths, "--from", TODAY]) == 0
    out = capsys.readouterr().out
    assert all(f"{n}, " in out for n in names)
    assert main(["steps", paths[0], str(tmp_path / "none.gwiazda")]) == 2


def test_the_command_says_what_failed_tests_cost(tmp_path, capsys):
    from gwiazda.core.plan.storage import PlanFile, save

    plan = deck()
    for s in steps_of(CAT, plan):
        if s.section == "deck1" and s.kind not in ("leak", "glue-faces", "roll-call", "close", "seam"):
            plan = mark(plan, steps_of(CAT, plan), s.key, Report(at="2026-11-20 20:00"))
    failed = mark(plan, steps_of(CAT, plan), "deck1:leak", Report(at="2026-11-25 21:00", result="failed"))
    path = tmp_path / "f.gwiazda"
    save(PlanFile(failed), path)
    assert main(["steps", str(path), "--from", TODAY]) == 0
    out = capsys.readouterr().out
    assert "Failed tests put it back by" in out and "deck1:leak" in out and "Mend what the test found" in out
    save(PlanFile(plan), path)
    assert main(["steps", str(path), "--from", TODAY]) == 0
    assert "Failed tests" not in capsys.readouterr().out
