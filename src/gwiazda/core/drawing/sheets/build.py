"""Sheets for the build: steps with boxes to tick, test sheets, roll-calls, cautions."""

from __future__ import annotations

from gwiazda.core.assess.assembly.progress import afterwards, calendar_of, progress_of, roll_call
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets.page import Drawing, Paper, table, text
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import names_of
from gwiazda.core.quantities import figure
from gwiazda.core.workbench.lamp_tests import how_words, joint_lines, lamp_tests
from gwiazda.core.workbench.log import words_of
from gwiazda.core.workbench.testsheet import sheet_of

ANY_DAY = "2026-01-05"  # the order of the steps, not their dates, is on the sheet


def step_list(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """All steps in the order of the evenings, what is done in one go together, with what each waits for."""
    steps = {s.key: s for s in steps_of(assessment.catalogue, plan)}
    if not steps:
        return []
    states = {x.step.key: x.state for x in progress_of(plan, tuple(steps.values()), "")}
    names = {s.id: s.name for s in plan.sections}
    rows, ticked = [], []
    done = [k for k in steps if states[k] == "done"]
    found = calendar_of(plan, tuple(steps.values()), plan.bench.begins or ANY_DAY)
    opens = {s.keys[0]: s for s in found.sessions}
    for key in (*done, *(k for s in found.sessions for k in s.keys)):
        s = steps[key]
        session = opens.get(key)
        kind = assessment.catalogue.sessions.get(session.kind) if session is not None else None
        wait = f"{s.wait_h:g} h" if s.wait_h else ""
        rows.append(
            (
                "",
                kind.name if kind is not None else "",
                names.get(s.section, "all"),
                s.name,
                f"{s.minutes:.0f} min",
                wait,
                s.detail,
            )
        )
        ticked.append(states[key] == "done")
    columns = (
        ("", 7.0),
        ("in one go", 26.0),
        ("section", 28.0),
        ("step", 50.0),
        ("hands", 15.0),
        ("then wait", 18.0),
        ("with", 40.0),
    )
    return table("Steps of the build", columns, rows, paper, ticked)


def test_sheets(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """What to clip on and what should be read, a line for what was."""
    rows = [
        (
            "", names_of(plan, x.lamps), f"{figure(x.supply_v)} V, {figure(x.limit_a * 1e3)} mA", f"{figure(x.low_a * 1e3, 2)} to {figure(x.high_a * 1e3, 2)} mA",
            f"{figure(x.volts)} V", "",
        )
        for x in sheet_of(plan, assessment)
    ]  # fmt: skip
    if not rows:
        return []
    each = lamp_tests(plan, assessment)
    alone = [
        ("", names_of(plan, x.lamps, 4), f"{figure(x.current_a * 1e3, 2)} mA", x.words, "") for x in each
    ]  # fmt: skip
    columns = (
        ("", 7.0),
        ("lamps that light", 62.0),
        ("supply, limit", 34.0),
        ("should flow", 34.0),
        ("over one", 20.0),
        ("read", 28.0),
    )
    return [
        *table("Test sheet: clip on, read, note", columns, rows, paper, []),
        *(table(f"Lamp by lamp: {how_words(plan)}", ALONE, alone, paper, []) if alone else []),
        *_after_joints(plan, assessment, paper),
    ]


ALONE = (("", 7.0), ("lamps", 62.0), ("should flow", 24.0), ("should look", 66.0), ("seen", 26.0))


AFTER = {
    "limited supply": "set the supply, light it",
    "battery": "from its own battery",
    "coin cell": "the lamp just joined, on a coin cell",
}


def _after_joints(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """A test after each joint of what takes more than one, for then a fault is in the last thing done."""
    rows = [
        ("", x.joint, x.clips, x.source, x.flows, x.seen, "") for x in joint_lines(plan, assessment) if len(x.lamps) > 1 or " of " in x.joint
    ]  # fmt: skip
    if not rows:
        return []
    columns = (
        ("", 7.0),
        ("after joining", 38.0),
        ("clips", 46.0),
        ("from", 30.0),
        ("should flow", 24.0),
        ("should look", 26.0),
        ("read", 14.0),
    )
    return table(f"After each joint: {AFTER[plan.bench.tests_with]}", columns, rows, paper, [])


def roll_calls(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """Before each closing: what belongs inside, what can't be reached afterwards."""
    closed = {s.section for s in steps_of(assessment.catalogue, plan) if s.kind == "close"}
    out = []
    for section in plan.sections:
        if section.id not in closed:
            continue
        rows = [("", line) for line in roll_call(plan, section.id)]
        gone, still = afterwards(plan, section.id)
        if gone:
            rows.append(("", f"not to be reached afterwards: {gone}"))
        if still:
            rows.append(("", f"still to be reached: {still}"))
        out += table(f"Before {section.name} is closed", (("", 7.0), ("", 170.0)), rows, paper, [])
    return out


def cautions(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """The cautions of the steps there are, once."""
    kinds = dict.fromkeys(s.care for s in steps_of(assessment.catalogue, plan))
    lines = [assessment.catalogue.cares[c] for c in kinds if c]
    if not lines:
        return []
    lines.append("Local rules come first; mains work is for the qualified.")
    marks = tuple(text(0.0, 5.0 + 6.0 * k, words, 3.2) for k, words in enumerate(lines))
    return [Drawing("Care", marks, paper.room[0], 8.0 + 6.0 * len(lines), False, True)]


def log_pages(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """The log, oldest first: what was read, decided, mixed, moved."""
    names = {s.id: s.name for s in plan.sections}
    rows = [(e.at, e.kind, names.get(e.section, ""), words_of(plan, e)[:160]) for e in plan.log]
    if not rows:
        return []
    return table("Log", (("when", 30.0), ("what", 20.0), ("where", 30.0), ("", 105.0)), rows, paper)
