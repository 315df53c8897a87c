"""The show in each of its forms, by the suffix of the file asked for."""

from __future__ import annotations

from collections.abc import Callable

from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import PlanError
from gwiazda.core.exchange.brief import brief
from gwiazda.core.exchange.cues import cue_csv, cue_json
from gwiazda.core.exchange.header import c_header
from gwiazda.core.plan.model import Plan

FORMS: dict[str, Callable[[Plan, Assessment], str]] = {
    "csv": lambda plan, _: cue_csv(plan),
    "json": lambda plan, _: cue_json(plan),
    "h": c_header,
    "md": brief,
}


def show_text(plan: Plan, assessment: Assessment, name: str) -> str:
    """The show as the file name's suffix asks for it; raises PlanError for another."""
    suffix = name.rpartition(".")[2].lower()
    form = FORMS.get(suffix)
    if form is None:
        raise PlanError(
            "Cue sheet", f"“{name}” is of no form it goes out in", "a name that ends in ." + ", .".join(FORMS)
        )
    return form(plan, assessment)
