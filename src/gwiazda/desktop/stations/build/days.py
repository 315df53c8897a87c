"""What the Build station's pictures and cards have in common: the steps, how they stand now, the evenings."""

from __future__ import annotations

from datetime import datetime
from typing import NamedTuple

from gwiazda.core.assess.assembly.progress import Calendar, Slip, StepState, calendar_of, progress_of, slip_of
from gwiazda.core.assess.assembly.step import Step
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.reach.during import Moment, moment
from gwiazda.core.assess.reach.reached import spots_of
from gwiazda.core.assess.states import State
from gwiazda.core.errors import PlanError
from gwiazda.core.plan.model import Plan, Point
from gwiazda.desktop.document import Document
from gwiazda.desktop.plate.stage import Sign, Stage

STAGES = {
    "strip": "taken apart", "obstacles": "cut", "open": "opened", "mask": "masked", "holes": "drilled", "deburr": "clean", "passages": "ways made",
    "block": "blackened", "line": "lined", "patch": "patched", "glaze": "glazed", "solder": "soldered", "lamps": "lamps in", "fibres": "fibres in",
    "wires": "wired", "label": "labelled", "test": "tested", "leak": "dark", "handed": "handed", "glue-faces": "faces bare", "tuck": "tucked",
    "roll-call": "called", "close": "closed", "seam": "seam filled", "cover": "covered", "paint": "painted", "unmask": "unmasked",
    "scratch": "scratched", "trim": "trimmed", "join": "joined", "own": "done",
}  # fmt: skip


class Days(NamedTuple):
    """All of it at one moment; ``fault`` says why there is no calendar."""

    steps: tuple[Step, ...]
    states: dict[str, StepState]
    calendar: Calendar | None
    now: str
    fault: str
    slip: Slip = Slip(0, ())


def now_of(document: Document) -> str:
    """The moment on the clock of the wall, in local time."""
    at: datetime = document.clock()
    return at.strftime("%Y-%m-%d %H:%M")


def days_of(document: Document) -> Days:
    """The build as it stands."""
    plan, catalogue = document.plan, document.catalogue
    steps = steps_of(catalogue, plan)
    # A minute is a new moment; what it is worked out from stays for the quarter of an hour.
    now = now_of(document)
    states = {x.step.key: x for x in progress_of(plan, steps, now[:-1] + "0")}
    try:
        calendar = calendar_of(plan, steps, now[:10], document.beside)
        return Days(steps, states, calendar, now, "", slip_of(catalogue, plan, now[:10], document.beside))
    except PlanError as error:
        return Days(steps, states, None, now, str(error))


def done_by(days: Days, key: str) -> frozenset[str]:
    """The steps that are done, and, with a step picked, those before it in the evenings."""
    done = {s.key for s in days.steps if days.states[s.key].state == "done"}
    if key and days.calendar is not None:
        at = next((x.begins_min for x in days.calendar.laid if x.key == key), None)
        if at is not None:
            done |= {x.key for x in days.calendar.laid if x.ends_min <= at + 1e-9}
    return frozenset(done)


def order_of(days: Days) -> tuple[str, ...]:
    """All steps in the order they are done in: those that are done, then by the evenings."""
    done = tuple(s.key for s in days.steps if days.states[s.key].state == "done")
    laid = sorted(days.calendar.laid, key=lambda x: x.begins_min) if days.calendar is not None else ()
    return (*done, *(x.key for x in laid))


def moment_at(document: Document, days: Days) -> Moment:
    """The build at the step that is picked, or as it stands."""
    return moment(document.plan, document.assessment, days.steps, done_by(days, document.step))


# What gets to a place, as a state: an iron does, tweezers do, nothing does.
TOOL_STATES: dict[str, State] = {"fingers": "fine", "an iron": "fine", "tweezers": "look", "": "stop"}


def stage_of(document: Document) -> Stage:
    """Which sections are open, and with a step picked a sign at each lamp and joint: whether it is still got at."""
    plan, days = document.plan, days_of(document)
    now = moment_at(document, days)
    lids = {s.id: s.lid for s in plan.sections if s.closure.by not in ("", "open")}  # what nothing closes has none
    signs: dict[Point, State] = {}
    if document.step:
        for spot in spots_of(plan, document.assessment):
            signs[spot.at] = TOOL_STATES[now.reached[spot.id]]
    return Stage({i: lids[i] for i in now.open if i in lids}, tuple(Sign(at, state) for at, state in signs.items()))


def stages_at(days: Days, key: str) -> dict[str, str]:
    """How far each section is: by what is done, or, with a step picked, by what is before it in the evenings."""
    by = done_by(days, key)
    done = [s for s in days.steps if s.key in by]
    out: dict[str, str] = {}
    every = {s.section for s in days.steps if s.section}
    for s in done:
        if s.kind in STAGES:
            for section in [s.section] if s.section else every if s.kind == "paint" else []:
                out[section] = STAGES[s.kind]
    return out


def where_of(plan: Plan, step: Step) -> str:
    """The section of a step by its name, or the kit."""
    return next((s.name for s in plan.sections if s.id == step.section), "All together")
