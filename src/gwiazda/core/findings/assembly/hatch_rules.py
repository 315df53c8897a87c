"""What is judged of how cells are changed: a hatch that isn't over them, screws undone every few evenings."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from gwiazda.core.assess.bodies.hatches import SLACK_MM, access_of, under_hatch, with_hatch_over
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import closed_by
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import FACE_WORDS
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Plan, copy_unchecked
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, figure

OFTEN = 6.0  # evenings: cells changed sooner want a lid that opens by hand


def hatch_misses(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A hatch that does not lie over the whole of its cells, or with something between."""
    catalogue = assessment.catalogue
    for access in access_of(plan, assessment):
        section = section_of(plan, access.section)
        hatch = section.closure.hatch
        if hatch is None or access.pack is None or (access.outside_mm <= SLACK_MM and not access.between):
            continue
        what = access.pack.name or "the pack"
        why = (
            f"{what} reaches {figure(access.outside_mm, 2)} mm past it"
            if access.outside_mm > SLACK_MM
            else f"{access.between} stands between it and {what}"
        )
        fixes = []
        if access.outside_mm > SLACK_MM:
            over = partial(with_hatch_over, section_id=access.section, of=access.feed, face=hatch.face)
            fixes.append(Fix("A hatch over all of it", over))
        under = partial(under_hatch, catalogue, of=access.feed)
        if under(plan) is not plan:
            fixes.append(Fix("Stand the cells under the hatch", under))
        yield Finding(
            "hatch-misses", "look", "supply", access.feed, access.outside_mm,
            f"The hatch in the {FACE_WORDS[hatch.face]} of {section.name} is {' × '.join(figure(x, 3) for x in hatch.size)} mm, and {why}: "
            "cells don’t lift out.",
            tuple(fixes),
        )  # fmt: skip


def cells_changed_often(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Screws to be undone every few evenings for fresh cells."""
    for access in access_of(plan, assessment):
        section = section_of(plan, access.section)
        hatch = section.closure.hatch
        by = hatch.by if hatch is not None else section.closure.by
        if access.evenings >= OFTEN or by != "screws":
            continue
        if hatch is not None:
            held = copy_unchecked(hatch, by="magnets")
            fix = Fix("The hatch held by magnets", partial(edits.set_hatch, section_id=access.section, hatch=held))
        else:
            fix = Fix("Hold it by magnets", closed_by(access.section, "magnets"))
        yield Finding(
            "cells-changed-often", "look", "supply", access.feed, access.evenings,
            f"The cells of {name_of(plan, access.feed)} last {counted(max(int(access.evenings), 1), 'evening')}, and each time the screws of "
            f"{section.name} are undone: threads in plastic don’t bear that for long.",
            (fix,), better="more",
        )  # fmt: skip


HATCH_RULES = (hatch_misses, cells_changed_often)
