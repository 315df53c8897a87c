"""The loom taken out as a table: wires, joints, connectors."""

from __future__ import annotations

from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.model import Plan
from gwiazda.core.tables import Table

COLUMNS = (
    "what",
    "id",
    "tag",
    "end",
    "wire",
    "colour",
    "outside_mm",
    "cut_mm",
    "current_ma",
    "ohm",
    "from",
    "to",
    "through",
    "lamps",
)


def loom_table(plan: Plan, assessment: Assessment) -> str:
    """Every wire with its way and length, every joint with its sleeve, every connector, as CSV with a heading row."""
    table = Table(COLUMNS)
    for r in assessment.loom.runs.values():
        if r.kind == "fibre":
            continue
        table.row((
            r.kind, r.id, r.tag, r.end, r.part, r.colour, f"{r.outside_mm:g}", f"{r.cut_mm:g}", f"{r.current_a * 1e3:.4g}", f"{r.ohm:.3g}",
            r.start or "outside", r.goal or "outside", " > ".join(r.through) if r.through is not None else "no way", " ".join(r.lamps),
        ))  # fmt: skip
    for j in assessment.loom.joints:
        sleeve = f"{j.sleeve_mm:g}" if j.sleeve_mm else ""
        table.row((f"joint, {j.kind}", j.id, "", "", f"heat-shrink {sleeve} mm" if sleeve else "", "", "", "", "", "", j.section, "", "", " ".join(j.wires)))  # fmt: skip
    for p in plan.passages:
        if p.connector:
            table.row(
                ("connector", p.id, "", "", p.connector, "", "", "", "", "", p.section, p.into or "outside", "", "")
            )
    return table.text()
