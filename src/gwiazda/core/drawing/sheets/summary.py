"""What the bench book has besides the sheets: how the plan stands, what is to be fixed, what to buy, what is where."""

from __future__ import annotations

from collections.abc import Sequence

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets.page import Drawing, Paper, table
from gwiazda.core.exchange.report import shopping_rows
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.plan.model import Plan

STATES = {"fine": "fine", "look": "deserves a look", "stop": "to be settled first"}
METERS, FINDINGS, SHOPPING = "How it stands", "To fix", "What to buy"


def meters_table(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """The figures that decide, each with its state."""
    rows = [
        (m.label, f"{m.text} {m.unit}".strip(), STATES[m.state], m.note) for m in assessment.meters if not m.silent
    ]  # fmt: skip
    return (
        _of(METERS, table(METERS, (("", 36.0), ("figure", 44.0), ("", 36.0), ("", 68.0)), rows, paper)) if rows else []
    )


def findings_table(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """What is found, what stops the build first, a box before each."""
    rows = [("", STATES[f.severity], f.sentence) for f in (x.called(plan) for x in evaluate_rules(plan, assessment))]
    return _of(FINDINGS, table(FINDINGS, (("", 7.0), ("", 34.0), ("", 143.0)), rows, paper, [])) if rows else []


def shopping_table(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """What to have or to buy, with spares, a box before each."""
    rows = [
        ("", kind, part, detail, str(needed), str(wanted))
        for kind, part, detail, needed, wanted in shopping_rows(plan, assessment)
    ]
    columns = (("", 7.0), ("", 22.0), ("part", 44.0), ("", 76.0), ("needed", 16.0), ("with spares", 20.0))
    return _of(SHOPPING, table(SHOPPING, columns, rows, paper, [])) if rows else []


def contents_table(entries: Sequence[tuple[str, int]], paper: Paper) -> list[Drawing]:
    """What is on which page."""
    rows = [(words, str(page)) for words, page in entries]
    return table("Contents", (("", 150.0), ("page", 20.0)), rows, paper)


def _of(kind: str, drawings: list[Drawing]) -> list[Drawing]:
    return [d._replace(kinds=(kind,)) for d in drawings]
