"""The build as a calendar (iCalendar, RFC 5545) and as a table: local times, no zone, as the clock on the wall has them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from gwiazda.core.assess.assembly.progress import Calendar, Other, progress_of
from gwiazda.core.assess.assembly.step import Step
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Plan
from gwiazda.core.schedule.evenings import Laid
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
    """Each evening's steps as events, with the caution in their words."""
    from icalendar import Calendar as Sheet
    from icalendar import Event

    sheet = Sheet()
    sheet.add("prodid", "-//Gwiazda//build//EN")
    sheet.add("version", "2.0")
    stamp = calendar.moment(0.0)
    for kit, where, step, x in _worked(plan, steps, calendar, others):
        for n, (a, b) in enumerate(x.pieces):
            event = Event()
            event.add("uid", f"{x.key}.{n}@{kit or plan.kit.name or 'kit'}.gwiazda")
            event.add("dtstamp", stamp)
            event.add("dtstart", calendar.moment(a))
            event.add("dtend", calendar.moment(b))
            more = f" ({n + 1} of {len(x.pieces)})" if len(x.pieces) > 1 else ""
            event.add("summary", f"{where}: {step.name}{more}")
            care = catalogue.cares.get(step.care, "")
            wait = f"Then leave it {step.wait_h:g} h." if step.wait_h else ""
            words = " ".join(w for w in (step.detail, wait, care) if w)
            if words:
                event.add("description", words)
            sheet.add_component(event)
    return bytes(sheet.to_ical())


def steps_text(plan: Plan, steps: tuple[Step, ...], calendar: Calendar, others: tuple[Other, ...] = ()) -> str:
    """The evenings in words, one under the other."""
    lines: list[str] = []
    day = None
    worked = list(_worked(plan, steps, calendar, others))
    pieces = sorted((a, b, k) for k, w in enumerate(worked) for a, b in w.laid.pieces)
    for a, b, k in pieces:
        at = calendar.moment(a)
        if at.date() != day:
            day = at.date()
            lines.append(f"{'' if not lines else chr(10)}{at:%A %Y-%m-%d}")
        _, where, step, _ = worked[k]
        late = " *" if step.key in calendar.critical and worked[k].laid in calendar.laid else ""
        wait = f", then {step.wait_h:g} h alone" if step.wait_h else ""
        lines.append(f"  {at:%H:%M}  {b - a:4.0f} min  {where}: {step.name}{wait}{late}")
    if calendar.ends is not None:
        hours = sum(s.minutes for s in steps) / 60.0
        lines += [
            "",
            f"{len(steps)} steps, {hours:.0f} h of hands, done by {calendar.ends:%Y-%m-%d}. * decides how long it takes.",
        ]
    return "\n".join(lines) + "\n" if lines else "Nothing is left to do.\n"
