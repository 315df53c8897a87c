"""The build as a calendar (iCalendar, RFC 5545) and as a table: local times, no zone, as the clock on the wall has them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from gwiazda.core.assess.assembly.progress import Calendar, Other, progress_of
from gwiazda.core.assess.assembly.step import Step
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Plan
from gwiazda.core.schedule.evenings import DAY_MIN, Laid, sessions
from gwiazda.core.tables import Table

COLUMNS = ("step", "section", "name", "state", "begins", "ends", "dry", "minutes", "wait_h", "needs", "with", "care")


def _where(plan: Plan, step: Step) -> str:
    return next((s.name for s in plan.sections if s.id == step.section), plan.kit.name or "the kit")


def steps_csv(plan: Plan, catalogue: Catalogue, steps: tuple[Step, ...], calendar: Calendar, now: str = "") -> str:
    """All steps in the order the hands come to them, those that are done first."""
    table = Table(COLUMNS)
    when = {x.key: x for x in calendar.laid}
    states = {x.step.key: x for x in progress_of(plan, steps, now)}
    for s in sorted(steps, key=lambda s: when[s.key].begins_min if s.key in when else -1.0):
        x, state = when.get(s.key), states[s.key]
        times = ["", "", ""]
        if x is not None:
            times = [calendar.moment(m).strftime("%Y-%m-%d %H:%M") for m in (x.begins_min, x.ends_min, x.done_min)]
        elif state.done is not None:
            times = [state.done.at, "", ""]
        care = catalogue.cares.get(s.care, "")
        table.row([s.key, _where(plan, s), s.name, state.state, *times, f"{s.minutes:g}", f"{s.wait_h:g}", " ".join(s.needs), s.detail, care])  # fmt: skip
    return table.text()


class _Worked(NamedTuple):
    """A step in its time, of this kit or of one beside it."""

    kit: str
    where: str
    step: Step
    laid: Laid


def _worked(plan: Plan, steps: tuple[Step, ...], calendar: Calendar, others: tuple[Other, ...]) -> Iterator[_Worked]:
    """What the hands do, kit by kit; a kit's name is said where there are several."""
    kits = [("", plan, steps, calendar.laid)]
    if others:
        kits[0] = (plan.kit.name or "this kit", plan, steps, calendar.laid)
        kits += [(o.name, o.plan, o.steps, x) for o, (_, x) in zip(others, calendar.beside, strict=True)]
    for name, its_plan, its_steps, laid in kits:
        by_key = {s.key: s for s in its_steps}
        for x in laid:
            where = _where(its_plan, by_key[x.key])
            yield _Worked(name, f"{name}, {where}" if name and where != name else where, by_key[x.key], x)


def calendar_ics(
    plan: Plan, catalogue: Catalogue, steps: tuple[Step, ...], calendar: Calendar, others: tuple[Other, ...] = ()
) -> bytes:
    """What is done in one go as an event, with its steps and the cautions in their words; one that goes on another evening has one there too."""
    from icalendar import Calendar as Sheet
    from icalendar import Event

    sheet = Sheet()
    sheet.add("prodid", "-//Gwiazda//build//EN")
    sheet.add("version", "2.0")
    stamp = calendar.moment(0.0)
    for name, gathered in _gathered(list(_worked(plan, steps, calendar, others))):
        parts = _by_evening(gathered)
        for n, (a, b) in enumerate(parts):
            event = Event()
            event.add("uid", f"{gathered[0].laid.key}.{n}@{gathered[0].kit or plan.kit.name or 'kit'}.gwiazda")
            event.add("dtstamp", stamp)
            event.add("dtstart", calendar.moment(a))
            event.add("dtend", calendar.moment(b))
            more = f" ({n + 1} of {len(parts)})" if len(parts) > 1 else ""
            kind = catalogue.sessions.get(name)
            places = ", ".join(dict.fromkeys(w.where for w in gathered))
            what = kind.name if kind is not None and len(gathered) > 1 else gathered[0].step.name
            event.add("summary", f"{places}: {what}{more}")
            words = _described(catalogue, gathered)
            if words:
                event.add("description", words)
            sheet.add_component(event)
    return bytes(sheet.to_ical())


def _gathered(worked: list[_Worked]) -> Iterator[tuple[str, list[_Worked]]]:
    """What is done in one go, by when it begins: the session's kind and its steps, of this kit and of those beside it."""
    by_laid = {id(w.laid): w for w in worked}
    for s in sessions(sorted((w.laid for w in worked), key=lambda x: x.begins_min)):
        keys = set(s.keys)
        mine = [
            w for w in by_laid.values()
            if w.laid.key in keys and w.laid.session == s.kind and s.begins_min - 1e-6 <= w.laid.begins_min <= s.ends_min + 1e-6
        ]  # fmt: skip
        if mine:
            yield s.kind, sorted(mine, key=lambda w: w.laid.begins_min)
        for w in mine:
            by_laid.pop(id(w.laid))


def _by_evening(gathered: list[_Worked]) -> list[tuple[float, float]]:
    """From when to when the hands are at it, evening by evening."""
    out: dict[int, tuple[float, float]] = {}
    for a, b in (p for w in gathered for p in w.laid.pieces):
        day = int(a // DAY_MIN)
        low, high = out.get(day, (a, b))
        out[day] = (min(low, a), max(high, b))
    return [out[day] for day in sorted(out)]


def _described(catalogue: Catalogue, gathered: list[_Worked]) -> str:
    """Its steps with what they take and what is waited for, then the cautions, each once."""
    lines = []
    for w in gathered:
        s = w.step
        wait = f"Then leave it {s.wait_h:g} h." if s.wait_h else ""
        what = f"{w.where}: {s.name}, {s.minutes:.0f} min." if len(gathered) > 1 else ""
        lines.append(" ".join(x for x in (what, s.detail, wait) if x))
    cares = dict.fromkeys(catalogue.cares.get(w.step.care, "") for w in gathered)
    return "\n".join(x for x in (*lines, *cares) if x)


def steps_text(
    plan: Plan, catalogue: Catalogue, steps: tuple[Step, ...], calendar: Calendar, others: tuple[Other, ...] = ()
) -> str:
    """The evenings in words, one under the other: what is done in one go under its heading."""
    lines: list[str] = []
    day = None
    worked = list(_worked(plan, steps, calendar, others))
    pieces = sorted((a, b, k) for k, w in enumerate(worked) for a, b in w.laid.pieces)
    for a, b, k in pieces:
        at = calendar.moment(a)
        if at.date() != day:
            day = at.date()
            lines.append(f"{'' if not lines else chr(10)}{at:%A %Y-%m-%d}")
        _, where, step, laid = worked[k]
        if laid.set_up_min and a == laid.begins_min:
            lines.append(
                f"  {at:%H:%M}  {catalogue.sessions[step.session].name}, {laid.set_up_min:.0f} min to set up and put away"
            )
        late = " *" if step.key in calendar.critical and worked[k].laid in calendar.laid else ""
        wait = f", then {step.wait_h:g} h alone" if step.wait_h else ""
        set_up = laid.set_up_min if a == laid.begins_min else 0.0
        lines.append(f"  {at:%H:%M}  {max(b - a - set_up, 0.0):4.0f} min  {where}: {step.name}{wait}{late}")
    if calendar.ends is not None:
        hours = sum(b - a for x in calendar.laid for a, b in x.pieces) / 60.0
        lines += [
            "",
            f"{len(steps)} steps in {len(calendar.sessions)} sessions, {hours:.0f} h of hands, done by {calendar.ends:%Y-%m-%d}. * decides how long it takes.",
        ]
    return "\n".join(lines) + "\n" if lines else "Nothing is left to do.\n"
