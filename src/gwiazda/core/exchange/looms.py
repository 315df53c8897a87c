"""The loom taken out as a table: wires, joints, connectors."""

from __future__ import annotations

from gwiazda.core.assess.states import Assessment, WireRun
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import joint_name, meeting_of, name_of
from gwiazda.core.tables import Table

COLUMNS = (
    "what",
    "name",
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


def _home(plan: Plan, section: str) -> str:
    return name_of(plan, section) if section else "outside"


def _wire(plan: Plan, run: WireRun) -> str:
    """What a wire is called: “Deck 1, lamp 3, plus”; a trunk by its hub, or the tube it goes on from."""
    of = meeting_of(plan, run.id) or (run.lamps[0] if run.lamps else run.id)
    return f"{name_of(plan, of)}, {run.end}" if run.end else name_of(plan, of)


def loom_table(plan: Plan, assessment: Assessment) -> str:
    """Every wire with its way and length, every joint with its sleeve, every connector, as CSV with a heading row."""
    table = Table(COLUMNS)
    for r in assessment.loom.runs.values():
        if r.kind == "fibre":
            continue
        table.row((
            r.kind, _wire(plan, r), r.tag, r.end, r.part, r.colour, f"{r.outside_mm:g}", f"{r.cut_mm:g}", f"{r.current_a * 1e3:.4g}", f"{r.ohm:.3g}",
            _home(plan, r.start), _home(plan, r.goal), " > ".join(name_of(plan, i) for i in r.through) if r.through is not None else "no way",
            "; ".join(name_of(plan, i) for i in r.lamps),
        ))  # fmt: skip
    for j in assessment.loom.joints:
        sleeve = f"{j.sleeve_mm:g}" if j.sleeve_mm else ""
        table.row((f"joint, {j.kind}", joint_name(plan, j.id), "", "", f"heat-shrink {sleeve} mm" if sleeve else "", "", "", "", "", "", _home(plan, j.section), "", "", "; ".join(_wire(plan, assessment.loom.runs[w]) if w in assessment.loom.runs else w for w in j.wires)))  # fmt: skip
    for p in plan.passages:
        if p.connector:
            table.row(
                (
                    "connector",
                    name_of(plan, p.id),
                    "",
                    "",
                    p.connector,
                    "",
                    "",
                    "",
                    "",
                    "",
                    _home(plan, p.section),
                    _home(plan, p.into),
                    "",
                    "",
                )
            )
    return table.text()
