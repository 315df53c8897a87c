"""The same thing of several lamps is said once: “each of these 8 lamps”, with one offer for all of them."""

from __future__ import annotations

import re
from collections.abc import Iterable

from gwiazda.core.errors import PlanError
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of

_OTHERS = r"(?: and (?P<more>\d+) more(?: in its string| on its resistor| on one resistor| on it)?)?"


def _without_name(plan: Plan, finding: Finding) -> tuple[str, int]:
    """The sentence with a gap where it names its lamp or string, and how many lamps hang with that one."""
    found = re.search(re.escape(name_of(plan, finding.subject)) + r"(?!\w)" + _OTHERS, finding.sentence)
    if found is None:
        return "", 0
    return finding.sentence[: found.start()] + "\0" + finding.sentence[found.end() :], int(found["more"] or 0)


def _all(fixes: tuple[Fix, ...]) -> Fix:
    def edit(plan: Plan) -> Plan:
        done = 0
        for fix in fixes:
            try:
                plan = fix.edit(plan)
                done += 1
            except PlanError:
                continue  # settled with one before it
        if not done:
            raise PlanError("Offer", "what it was about is not there any more")
        return plan

    return Fix(fixes[0].label, edit)


def _together(plan: Plan, alike: list[Finding], with_each: int) -> Finding:
    first = alike[0]
    what = f"these {len(alike)} lamps" if not with_each else f"these {len(alike)} groups of {with_each + 1} lamps"
    gap, _ = _without_name(plan, first)
    words = gap.replace("\0", f"each of {what}")
    shared = [tuple(x for f in alike for x in f.fixes if x.label == fix.label) for fix in first.fixes]
    return first._replace(
        sentence=words[:1].upper() + words[1:],
        fixes=tuple(_all(fixes) for fixes in shared if len(fixes) >= len(alike)),
        also=tuple(f.subject for f in alike[1:]),
        measure=None,
    )


def folded(plan: Plan, findings: Iterable[Finding]) -> list[Finding]:
    """Findings of which those of one section's lamps that say the same are one."""
    homes = lamps_by_section(plan.sections, plan.lamps)
    lamps = {p.id for p in plan.lamps}
    groups: dict[object, list[Finding]] = {}
    for f in findings:
        gap, more = _without_name(plan, f) if f.subject in lamps else ("", 0)
        key: object = id(f) if not gap else (f.rule, f.severity, f.topic, homes.get(f.subject), gap, more)
        groups.setdefault(key, []).append(f)
    return [
        alike[0] if len(alike) == 1 else _together(plan, alike, _without_name(plan, alike[0])[1])
        for alike in groups.values()
    ]
