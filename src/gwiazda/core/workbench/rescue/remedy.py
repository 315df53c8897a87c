"""A remedy: the steps of a way in, or of what stands in for it; its price in evenings, and how it is taken into the build."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Literal, NamedTuple

from gwiazda.core.assess.assembly.maker import UNKNOWN_H
from gwiazda.core.assess.assembly.progress import calendar_of
from gwiazda.core.assess.assembly.step import WHOLE, slower
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import EveningSettings, Plan, Section
from gwiazda.core.quantities import counted
from gwiazda.core.schedule.evenings import DAY_MIN

Kind = Literal["dark", "dim", "leak", "mirrored"]


class Trouble(NamedTuple):
    """What is wrong: with which lamps, dots or leak, in which section; ``told`` by what it is known."""

    kind: Kind
    subjects: tuple[str, ...]
    section: str
    words: str
    told: str = ""


class MendingStep(NamedTuple):
    """A step of a remedy: its kind of work, its own name where it has one, how many pieces; hours left alone where they aren't the usual ones."""

    kind: str
    name: str = ""
    pieces: float = 1.0
    wait_h: float | None = None


class Remedy(NamedTuple):
    """A way in, or what stands in for it (``instead``). ``harm``: the less, the sooner it is tried. ``repaint``, ``risk`` and ``outcome`` in words;
    ``change``: what of the plan is another afterwards."""

    id: str
    name: str
    harm: float
    steps: tuple[MendingStep, ...]
    risk: str = ""
    repaint: str = ""
    outcome: str = ""
    instead: bool = False
    change: Callable[[Plan], Plan] | None = None


class Price(NamedTuple):
    """What a remedy takes: minutes of hands with what is set up, evenings on which there is something to do, days from the first to the last."""

    minutes: float
    evenings: int
    days: int

    @property
    def short(self) -> str:
        """Its evenings."""
        return counted(self.evenings, "evening") if self.evenings else "nothing to do"

    @property
    def words(self) -> str:
        """As one says it, beside its evenings."""
        over = f", over {counted(self.days, 'day')}" if self.days > max(self.evenings, 1) else ""
        return f"{self.minutes:.0f} min of hands{over}" if self.minutes else ""


def repainted(catalogue: Catalogue, section: Section, bench: EveningSettings) -> tuple[MendingStep, ...]:
    """The coats outside that a place needs once more, one after another."""
    out = []
    for layer in section.outside:
        coat = catalogue.coats.get(layer.coat)
        hours = UNKNOWN_H if coat is None else (coat.next_h or coat.dry_h)
        wait = hours * slower(bench, coat is None or coat.water)
        name = coat.name if coat is not None else layer.coat
        out += [MendingStep("paint", f"Paint it again, {name}", 1.0, wait) for _ in range(layer.coats)]
    return tuple(out)


def _added(catalogue: Catalogue, plan: Plan, section: str, steps: Sequence[MendingStep], last: bool) -> Plan:
    """A plan with these steps one after another, before its last test where it has one."""
    after: tuple[str, ...] = ()
    for k, m in enumerate(steps):
        work = catalogue.work[m.kind]
        wait = work.wait_h * slower(plan.bench) if m.wait_h is None else m.wait_h
        minutes = round(work.set_min + m.pieces * work.each_min, 1)
        before = (f"{WHOLE}:final",) if last and k == len(steps) - 1 else ()
        plan, step = edits.add_own_step(
            plan, m.name or work.name, section=section, minutes=minutes, wait_h=round(wait, 2), after=after, before=before, kind=m.kind
        )  # fmt: skip
        after = (f"own:{step}",)
    return plan


@memoize(slots=40)
def price_of(catalogue: Catalogue, bench: EveningSettings, steps: tuple[MendingStep, ...]) -> Price:
    """What steps take, laid into evenings by themselves."""
    if not steps:
        return Price(0.0, 0, 0)
    alone = _added(catalogue, Plan(bench=bench), "", steps, False)
    calendar = calendar_of(alone, steps_of(catalogue, alone), "2026-01-05")
    starts = sorted(math.floor(x.begins_min / DAY_MIN) for x in calendar.laid)
    hands = sum(x.ends_min - x.begins_min for x in calendar.laid) + sum(s.set_up_min for s in calendar.sessions)
    return Price(hands, len(set(starts)), starts[-1] - starts[0] + 1)


def taken(catalogue: Catalogue, plan: Plan, trouble: Trouble, remedy: Remedy, at: str = "") -> Plan:
    """The plan with a remedy: what of it is another afterwards, its steps as mending in the build, a line in the log."""
    if remedy.change is not None:
        plan = remedy.change(plan)
    final = any(s.key == f"{WHOLE}:final" for s in steps_of(catalogue, plan))
    plan = _added(catalogue, plan, trouble.section, remedy.steps, final)
    words = f"{trouble.words} {remedy.name}."
    plan, _ = edits.add_entry(plan, "decision", text=words, section=trouble.section, at=at)
    return plan
