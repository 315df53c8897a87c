"""How far a build is: what is done and still counts, what can be done, what a closing needs; and marking it in the plan."""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Sequence
from datetime import date, datetime, timedelta
from typing import Literal, NamedTuple

from gwiazda.core.assess.assembly.contents import BODIES, contents_of, handed_pairs
from gwiazda.core.assess.assembly.maker import failures
from gwiazda.core.assess.assembly.step import GATES, Step
from gwiazda.core.assess.assembly.steps import steps_of, tasks_of
from gwiazda.core.assess.reach.reached import reach_words
from gwiazda.core.errors import PlanError
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits.assembly import FIRST_YEAR, LAST_YEAR
from gwiazda.core.plan.frame import FACE_WORDS
from gwiazda.core.plan.model import Done, Plan, Seal, copy_unchecked
from gwiazda.core.plan.naming import names_of
from gwiazda.core.quantities import counted
from gwiazda.core.schedule.evenings import DAY_MIN, Evening, Laid, Session, evenings, laid, sessions, tonight
from gwiazda.core.schedule.graph import Task, critical_path

State = Literal["done", "void", "failed", "ready", "waiting", "open"]


class StepState(NamedTuple):
    """A step and how it stands: ``done`` and counting; ``void``: done to something that has changed since; a test that
    ``failed``; ``ready`` to be done; ``waiting`` for what dries; ``open``: others come first. ``lacks`` are those."""

    step: Step
    state: State
    lacks: tuple[str, ...]
    done: Done | None


def _last(plan: Plan) -> dict[str, Done]:
    """The last record of each step."""
    return {d.step: d for d in plan.done}


def counts(step: Step, done: Done | None) -> bool:
    """Whether a record of a step stands: of what is there now, and passed where it is a test."""
    return done is not None and (not done.of or done.of == step.of) and (not step.is_test or done.result == "passed")


@memoize(slots=4)
def progress_of(plan: Plan, steps: tuple[Step, ...], now: str) -> tuple[StepState, ...]:
    """All steps with how they stand at a moment (``2026-11-26 20:15``)."""
    last = _last(plan)
    good = {s.key for s in steps if counts(s, last.get(s.key))}
    by_key = {s.key: s for s in steps}
    out = []
    for s in steps:
        done = last.get(s.key)
        lacks = tuple(n for n in s.needs if n not in good)
        if s.key in good:
            out.append(StepState(s, "done", (), done))
            continue
        state: State = "open" if lacks else "ready"
        if not lacks and any(_dries(by_key[n], last.get(n), now) for n in s.needs if n in by_key):
            state = "waiting"
        if done is not None:
            state = (
                "failed"
                if done.result == "failed" and (not done.of or done.of == s.of)
                else ("void" if not lacks else state)
            )
            if done.of and done.of != s.of:
                state = "void"
        out.append(StepState(s, state, lacks, done))
    return tuple(out)


def _dries(step: Step, done: Done | None, now: str) -> bool:
    """Whether what a step left to dry isn't dry yet."""
    if not step.wait_h or done is None or not done.at or not now:
        return False
    return when(done.at) + timedelta(hours=step.wait_h) > when(now)


def when(text: str) -> datetime:
    """A local date, with its time where one is given, as a moment.

    One that no calendar has, as a file from elsewhere may hold, counts as the nearest that there is.
    """
    year, month, day, *rest = (int(n) for n in re.split(r"[-: ]", text))
    year, month = min(max(year, FIRST_YEAR), LAST_YEAR), min(max(month, 1), 12)
    hour, minute = (min(rest[0], 23), min(rest[1], 59)) if len(rest) == 2 else (0, 0)
    from calendar import monthrange  # not before the first picture

    return datetime(year, month, min(max(day, 1), monthrange(year, month)[1]), hour, minute)


# -- marking ----------------------------------------------------------------------------------------------


class Report(NamedTuple):
    """What is said of a step that is done: when, minutes it took, how a test ended, a note, why a section is closed all the same."""

    at: str = ""
    minutes: float | None = None
    result: str = ""
    note: str = ""
    reason: str = ""


def mark(plan: Plan, steps: Sequence[Step], key: str, report: Report = Report()) -> Plan:  # noqa: B008
    """The plan with a step done. A closing goes through ``close``.

    Raises
    ------
    PlanError
        For a step that isn't there; for a closing with tests open and no reason.
    """
    at, minutes, result, note, reason = report
    step = next((s for s in steps if s.key == key), None)
    if step is None:
        raise PlanError(f"Step {key}", "isn’t there", "a step of the build")
    if step.kind == "close":
        return close(plan, steps, step.section, at, reason, minutes, note)
    return _marked(plan, step, at, minutes, result or ("passed" if step.is_test else ""), note)


def _marked(plan: Plan, step: Step, at: str, minutes: float | None, result: str, note: str) -> Plan:
    new_id = edits.fresh_ids(plan, "done")[0]
    done = edits.copy_checked(
        Done(id=new_id, step=step.key), at=at, minutes=minutes, result=result, note=note, of=step.of
    )
    return copy_unchecked(plan, done=(*plan.done, done))


def unmark(plan: Plan, key: str) -> Plan:
    """The plan with a step as if it had not been done; a closing is no longer one either."""
    section = key.removesuffix(":close") if key.endswith(":close") else None
    seals = tuple(s for s in plan.seals if s.section != section) if section is not None else plan.seals
    return copy_unchecked(plan, done=tuple(d for d in plan.done if d.step != key), seals=seals)


def open_tests(plan: Plan, steps: Sequence[Step], section: str) -> tuple[str, ...]:
    """Tests of a section that are not passed, or no longer count."""
    last = _last(plan)
    return tuple(s.key for s in steps if s.section == section and s.kind in GATES and not counts(s, last.get(s.key)))


def close(
    plan: Plan, steps: Sequence[Step], section: str, at: str = "", reason: str = "", minutes: float | None = None, note: str = "",
) -> Plan:  # fmt: skip
    """The plan with a section closed. With tests of it undone, failed or void it takes a reason, which is kept with them.

    Raises
    ------
    PlanError
        Naming the tests, where there is no reason.
    """
    step = next((s for s in steps if s.section == section and s.kind == "close"), None)
    if step is None:
        raise PlanError(f"Section {section}", "has nothing to close", "a section that is closed in the build")
    despite = open_tests(plan, steps, section)
    names = {s.key: s.name.lower() for s in steps}
    if despite and not reason.strip():
        raise PlanError(
            f"Section {section}",
            f"isn’t tested: {', '.join(names[k] for k in despite)}",
            "the tests first, or a reason to close it all the same",
        )
    new_id = edits.fresh_ids(plan, "seal")[0]
    seal = edits.copy_checked(
        Seal(id=new_id, section=section), at=at, despite=despite, reason=reason.strip() if despite else ""
    )
    plan = copy_unchecked(plan, seals=(*(s for s in plan.seals if s.section != section), seal))
    return _marked(plan, step, at, minutes, "", note)


# -- a closing --------------------------------------------------------------------------------------------


def roll_call(plan: Plan, section: str) -> tuple[str, ...]:
    """All that belongs inside a section before it is closed."""
    c = contents_of(plan)[section]
    s = c.section
    out = []
    if c.lamps:
        out.append(
            f"{counted(len(c.lamps), 'lamp')}, each lit once with its own resistor: {names_of(plan, (p.id for p in c.lamps), 6)}"
        )
    if c.openings:
        out.append(f"{counted(len(c.openings), 'pane')} glazed, none cracked or fogged")
    if c.dots:
        out.append(f"{counted(len(c.dots), 'fibre')} through the skin, long enough to trim")
    bodies = [o for o in s.obstacles if o.kind in BODIES]
    if bodies:
        out.append("inside: " + ", ".join(o.name or o.kind for o in bodies))
    if c.carriers:
        out.append("what holds the lamps, and they on it: " + ", ".join(k.name or k.form for k in c.carriers))
    if c.lamps:
        out.append(
            f"{counted(2 * len(c.lamps), 'lead')} out, labelled, knotted behind the wall; none over a pane or a seam"
        )
    if plan.loom.spare:
        out.append(f"{counted(plan.loom.spare, 'spare lead')} out and labelled")
    if s.closure.by == "glue":
        out.append("glue faces bare, masks off them, pins eased")
    out += [f"{h.name or 'a hinge'}: slack at both ends of its swing" for h in c.passages if h.joint == "hinge"]
    return tuple(out)


def afterwards(plan: Plan, section: str) -> tuple[str, str]:
    """What can't be reached once it is closed, and what still can and by which way."""
    c = contents_of(plan)[section]
    closure = c.section.closure
    inside = ", ".join(x for x in (counted(len(c.lamps), "lamp"), counted(len(c.dots), "fibre") if c.dots else "") if x)
    if closure.opens:
        way = closure.part or closure.removable or "what closes it"
        return "", f"{inside} by {way}" if inside else ""
    if closure.removable:
        return "", f"{inside} by {closure.removable}"
    reached = reach_words(plan, section)
    if closure.hatch is not None:
        cells = f"the cells by the hatch in its {FACE_WORDS[closure.hatch.face]}"
        return inside, "; ".join(x for x in (cells, reached) if x)
    return inside, reached


# -- evenings ---------------------------------------------------------------------------------------------


class Other(NamedTuple):
    """Another kit on the same bench: its name, plan and steps."""

    name: str
    plan: Plan
    steps: tuple[Step, ...]


class Calendar(NamedTuple):
    """The build laid into evenings, from a first day on; ``critical`` steps decide when it is done. ``beside``: what the same hands do
    to other kits, by their names."""

    first: date
    laid: tuple[Laid, ...]
    critical: frozenset[str]
    free: tuple[Evening, ...]
    sessions: tuple[Session, ...] = ()
    beside: tuple[tuple[str, tuple[Laid, ...]], ...] = ()

    def moment(self, minutes: float) -> datetime:
        """A moment of the clock as a local date and time."""
        return datetime(self.first.year, self.first.month, self.first.day) + timedelta(minutes=minutes)

    @property
    def ends(self) -> datetime | None:
        """When all is done."""
        return self.moment(max(x.done_min for x in self.laid)) if self.laid else None


EVENINGS = 1500  # days looked ahead


@memoize(slots=6)
def calendar_of(plan: Plan, steps: tuple[Step, ...], today: str, others: tuple[Other, ...] = ()) -> Calendar:
    """What is left of a build in evenings from a day on: the day it is to begin, or today where that is past.

    One pair of hands does the ``others`` as well: whichever step has the longest way to its kit's end comes first, and what dries here
    leaves the hands free there.
    """
    begins = max(plan.bench.begins or today, today)
    first = when(begins).date()
    monday = first.weekday()
    days = [plan.bench.days[(monday + k) % 7] for k in range(7)]
    if not any(days):
        days = [True] * 7
    free = evenings(days, plan.bench.from_h, plan.bench.hours, EVENINGS)
    start = datetime(first.year, first.month, first.day)
    tasks, ended = _tasks(plan, steps, start)
    left = [t for t in tasks if t.key not in ended]
    critical = frozenset(critical_path(left))
    if not others:
        found_alone = laid(tasks, free, ended)
        return Calendar(first, found_alone, critical, free, sessions(found_alone))
    every, done = list(tasks), dict(ended)
    for k, other in enumerate(others):
        theirs, over = _tasks(other.plan, other.steps, start)
        every += [t._replace(key=f"{k}/{t.key}", needs=tuple(f"{k}/{n}" for n in t.needs)) for t in theirs]
        done |= {f"{k}/{key}": at for key, at in over.items()}
    found: dict[str, list[Laid]] = {}
    mine = {t.key for t in tasks}
    for x in laid(every, free, done):
        at, _, key = x.key.partition("/")
        if x.key in mine:
            found.setdefault("", []).append(x)
        else:
            found.setdefault(at, []).append(x._replace(key=key))
    beside = tuple((o.name, tuple(found.get(str(k), ()))) for k, o in enumerate(others))
    mine_laid = tuple(found.get("", ()))
    return Calendar(first, mine_laid, critical, free, sessions(mine_laid), beside)


def _tasks(plan: Plan, steps: tuple[Step, ...], start: datetime) -> tuple[list[Task], dict[str, float]]:
    """A kit's steps for the schedule, and since which minute from ``start`` on those that are done may be built upon."""
    last = _last(plan)
    ended: dict[str, float] = {}
    for s in steps:
        d = last.get(s.key)
        if counts(s, d) and d is not None:
            dry = (when(d.at) - start).total_seconds() / 60.0 + s.wait_h * 60.0 if d.at else 0.0
            ended[s.key] = dry
    return tasks_of(steps, _not_before(plan, steps, start), handed_pairs(plan)), ended


def _not_before(plan: Plan, steps: Sequence[Step], start: datetime) -> dict[str, float]:
    """Minute from ``start`` on before which a step isn't begun: what it needs arrives, or it was put on a day."""
    days = {s.key: s.arrives for s in steps if s.arrives}
    days |= {x.step: max(x.day, days.get(x.step, "")) for x in plan.step_days if x.day}
    return {key: (when(day) - start).total_seconds() / 60.0 for key, day in days.items()}


class Slip(NamedTuple):
    """What failed tests cost: days by which the end moves, the tests by their steps' keys."""

    days: int
    tests: tuple[str, ...]


@memoize(slots=2)
def slip_of(catalogue: Catalogue, plan: Plan, today: str, others: tuple[Other, ...] = ()) -> Slip:
    """By how many days the end moves because tests failed: against the same build with them still to be done and nothing to mend."""
    failed = failures(plan)
    if not failed:
        return Slip(0, ())
    hoped = copy_unchecked(plan, done=tuple(d for d in plan.done if d.step not in failed))
    ends = [calendar_of(p, steps_of(catalogue, p), today, others).ends for p in (plan, hoped)]
    if ends[0] is None or ends[1] is None:
        return Slip(0, tuple(failed))
    return Slip((ends[0].date() - ends[1].date()).days, tuple(failed))


def tonight_of(
    plan: Plan, steps: tuple[Step, ...], now: str, minutes: float, without: Collection[str] = ()
) -> tuple[Step, ...]:
    """What can be done from now on in so many minutes, ``without`` some kinds of sessions."""
    start = when(now)
    last = _last(plan)
    done: dict[str, float] = {}
    for s in steps:
        d = last.get(s.key)
        if counts(s, d) and d is not None:
            done[s.key] = ((when(d.at) - start).total_seconds() / 60.0 if d.at else -DAY_MIN) + s.wait_h * 60.0 * bool(
                d.at
            )
    by_key = {s.key: s for s in steps}
    left_out = {s.key: math.inf for s in steps if s.session in without}
    tasks = tasks_of(steps, _not_before(plan, steps, start) | left_out, handed_pairs(plan))
    return tuple(by_key[k] for k in tonight(tasks, done, 0.0, minutes))
