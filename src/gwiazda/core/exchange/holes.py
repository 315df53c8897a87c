"""Every hole taken out as a table: what it is for, its drill in mm, by number and in inches, and where it is bored."""

from __future__ import annotations

from gwiazda.core.assess.assembly.holes import chosen_holes, numbered_holes
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.tables import Table

COLUMNS = (
    "tag",
    "for",
    "pieces",
    "hole_mm",
    "metric_mm",
    "number",
    "inch",
    "own",
    "section",
    "side",
    "from",
    "from_mm",
    "up_mm",
    "pilot",
)


def hole_table(plan: Plan, assessment: Assessment) -> str:
    """Every hole as CSV with a heading row; those without a place of their own come last."""
    table = Table(COLUMNS)
    for x in numbered_holes(assessment.catalogue, plan):
        d, b = x.bore.drill, x.bore
        table.row((
            x.tag, x.name, 1, f"{d.hole_mm:g}", "" if b.given else f"{d.metric_mm:g}", d.number or "", d.inch, d.own, name_of(plan, b.section) if b.section else "",
            b.side, x.end, "" if x.along_mm is None else f"{x.along_mm:g}", "" if x.up_mm is None else f"{x.up_mm:g}", "yes" if x.pilot else "",
        ))  # fmt: skip
    for c in chosen_holes(assessment.catalogue, plan):
        d = c.drill
        table.row(
            (
                "",
                c.use,
                c.pieces,
                f"{d.hole_mm:g}",
                f"{d.metric_mm:g}",
                d.number or "",
                d.inch,
                d.own,
                c.where,
                "",
                "where you choose",
                "",
                "",
                "",
            )
        )
    return table.text()
