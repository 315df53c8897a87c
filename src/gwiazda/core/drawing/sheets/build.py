"""Sheets for the build: steps with boxes to tick, test sheets, roll-calls, cautions."""

from __future__ import annotations

from gwiazda.core.assess.assembly.progress import afterwards, progress_of, roll_call
from gwiazda.core.assess.assembly.steps import steps_of, tasks_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets.page import Drawing, Paper, SheetMark, rect, table, text
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import names_of
from gwiazda.core.quantities import figure
from gwiazda.core.schedule.graph import in_order
from gwiazda.core.workbench.lamp_tests import how_words, lamp_tests
from gwiazda.core.workbench.log import words_of
from gwiazda.core.workbench.testsheet import joint_tests, sheet_of

BOX_MM = 3.2


def _boxed(drawings: list[Drawing], ticked: list[bool]) -> list[Drawing]:
    """A box to tick before each row of a table, filled where it is done."""
    out, at = [], 0
    for d in drawings:
        count = max(int((d.height_mm - 8.0) // 5.0), 0)
        marks: list[SheetMark] = list(d.marks)
        for k in range(count):
            done = ticked[at] if at < len(ticked) else False
            marks.append(rect(0.4, 7.4 + 5.0 * k, BOX_MM, BOX_MM, fill=0.3 if done else None, wide=0.25))
            at += 1
        out.append(d._replace(marks=tuple(marks)))
    return out


def step_list(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """All steps in an order that can be worked, with what each waits for."""
    steps = {s.key: s for s in steps_of(assessment.catalogue, plan)}
    if not steps:
        return []
    states = {x.step.key: x.state for x in progress_of(plan, tuple(steps.values()), "")}
    names = {s.id: s.name for s in plan.sections}
    rows, ticked = [], []
    for key in in_order(tasks_of(tuple(steps.values()))):
        s = steps[key]
        wait = f"{s.wait_h:g} h" if s.wait_h else ""
        rows.append(("", names.get(s.section, "all"), s.name, f"{s.minutes:.0f} min", wait, s.detail))
        ticked.append(states[key] == "done")
    columns = (("", 7.0), ("section", 30.0), ("step", 62.0), ("hands", 17.0), ("then wait", 19.0), ("with", 50.0))
    return _boxed(table("Steps of the build", columns, rows, paper), ticked)


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
        *_boxed(table("Test sheet: clip on, read, note", columns, rows, paper), []),
        *(_boxed(table(f"Lamp by lamp: {how_words(plan)}", ALONE, alone, paper), []) if alone else []),
        *_after_joints(plan, assessment, paper),
    ]


ALONE = (("", 7.0), ("lamps", 62.0), ("should flow", 24.0), ("should look", 66.0), ("seen", 26.0))


def _after_joints(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """A test after each joint of what takes more than one, for then a fault is in the last thing done."""
    rows = [
        ("", x.joint, f"+ {x.plus}, − {x.minus}", f"{figure(x.supply_v)} V, {figure(x.limit_a * 1e3)} mA", f"{figure(x.low_a * 1e3, 2)} to {figure(x.high_a * 1e3, 2)} mA", "")
        for x in joint_tests(plan, assessment)
        if len(x.lamps) > 1 or " of " in x.joint
    ]  # fmt: skip
    if not rows:
        return []
    columns = (
        ("", 7.0),
        ("after joining", 42.0),
        ("clips", 56.0),
        ("supply, limit", 30.0),
        ("should flow", 30.0),
        ("read", 20.0),
    )
    return _boxed(table("After each joint: set the supply, light it", columns, rows, paper), [])


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
        out += _boxed(table(f"Before {section.name} is closed", (("", 7.0), ("", 170.0)), rows, paper), [])
    return out


def cautions(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """The cautions of the steps there are, once."""
    kinds = dict.fromkeys(s.care for s in steps_of(assessment.catalogue, plan))
    lines = [assessment.catalogue.cares[c] for c in kinds if c]
    if not lines:
        return []
    lines.append("Local rules come first; mains work is for the qualified.")
    marks = tuple(text(0.0, 5.0 + 6.0 * k, words, 3.2) for k, words in enumerate(lines))
    return [Drawing("Care", marks, paper.room[0], 8.0 + 6.0 * len(lines), False)]


def log_pages(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """The log, oldest first: what was read, decided, mixed, moved."""
    names = {s.id: s.name for s in plan.sections}
    rows = [(e.at, e.kind, names.get(e.section, ""), words_of(plan, e)[:160]) for e in plan.log]
    if not rows:
        return []
    return table("Log", (("when", 30.0), ("what", 20.0), ("where", 30.0), ("", 105.0)), rows, paper)
