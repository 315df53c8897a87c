"""What is worth doing next: from what is missing in the plan and from what its findings offer. One thing, said in one line."""

from __future__ import annotations

from collections.abc import Callable, Container, Sequence
from typing import NamedTuple

from gwiazda.core.assess.choices import fewest
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import lamps_by_section, openings_by_section
from gwiazda.core.plan.model import Plan


class NextStep(NamedTuple):
    """The next thing. It is done by ``fix`` where that is an edit, else by taking up ``tool``, going to ``topic``'s station, or ``does``
    (``shape``: starting from one; ``half``: half a page for the bench). ``subject`` is what it is about."""

    words: str
    fix: Fix | None = None
    tool: str = ""
    topic: str = ""
    does: str = ""
    subject: str = ""


def _light(catalogue: Catalogue, section_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        ways = fewest.propose(catalogue, plan, section_id)
        return fewest.take(plan, section_id, ways[0]) if ways else plan

    return edit


def missing(plan: Plan, catalogue: Catalogue) -> NextStep | None:
    """What the plan can't be lit without: a section, windows, lamps behind them."""
    if not plan.sections:
        drawn = [v for v in plan.views if v.drawing is not None]
        if any(v.drawing is not None and not v.drawing.calibrated for v in drawn):
            return NextStep("Calibrate the drawing: drag along a length you know", tool="calibrate")
        if drawn:
            return NextStep("Trace a section along the drawing", tool="trace")
        if plan.lamps:
            return None  # a circuit from the scratch line: no shape is wanted
        return NextStep("Start from a shape, lit in one step", does="shape")
    if not plan.openings and not plan.dots and not plan.lamps:
        return NextStep("Drag a row of windows along a section", tool="row")
    homes = set(lamps_by_section(plan.sections, plan.lamps).values())
    windows = openings_by_section(plan.openings)
    for section in plan.sections:
        lit = [o for o in windows.get(section.id, ()) if o.lit > 0 and not o.into]
        if lit and section.id not in homes:
            fix = Fix(f"Light {section.name}", _light(catalogue, section.id))
            return NextStep(f"Light {section.name} with the fewest lamps", fix, subject=section.id)
    return None


def ahead(
    plan: Plan, assessment: Assessment, findings: Sequence[Finding], here: Callable[[str], bool], tried: Container[tuple[str, str]] = (),
) -> NextStep | None:  # fmt: skip
    """The next thing worth doing, or None when there is nothing: what is missing, what stops the build here, what deserves a look
    here, then what waits at another station.

    ``here`` says whether a topic is of the station one is at; ``tried`` are subjects and labels of offers that were taken
    and left their finding standing: the next one is said then.
    """
    first = missing(plan, assessment.catalogue)
    if first is not None:
        return first
    mine = [f for f in findings if here(f.topic)]
    for severity in ("stop", "look"):
        for f in mine:
            for fix in f.fixes if f.severity == severity else ():
                if (f.subject, fix.label) not in tried:
                    return NextStep(f"{fix.label}. {f.sentence}", fix, subject=f.subject)
    if mine:
        return NextStep(mine[0].sentence, subject=mine[0].subject)
    others = sorted(findings, key=lambda f: f.severity != "stop")
    if others:
        return NextStep(others[0].sentence, topic=others[0].topic, subject=others[0].subject)
    if plan.lamps and not plan.sections:
        return NextStep("Half a page for the bench: what to drill, solder and test", does="half")
    return None
