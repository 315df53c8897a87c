"""A lead sent by a passage of one's choice, the rest of its way found."""

from __future__ import annotations

import math

from gwiazda.core.assess.looms.ways import valid_way, ways_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import PlanError
from gwiazda.core.loom.routes import Run, length_of, route
from gwiazda.core.plan.model import Plan


def by_way_of(plan: Plan, assessment: Assessment, lead_id: str, passage_id: str) -> tuple[str, ...]:
    """The passages of a lead that goes by one of them: the shortest such way that comes by no section twice.

    Raises
    ------
    PlanError
        Where there is no such way, or no such lead.
    """
    run = assessment.loom.runs.get(lead_id)
    passage = next((p for p in plan.passages if p.id == passage_id), None)
    if run is None or passage is None:
        raise PlanError("Way of a lead", "it is not there any more", "a lamp and a passage of the plan")
    ways = ways_of(plan.passages)
    by_id, table = {w.id: w for w in ways}, {p.id: p for p in plan.passages}
    others = [w for w in ways if w.id != passage_id]
    best: tuple[float, tuple[str, ...]] | None = None
    for first, second in ((passage.section, passage.into), (passage.into, passage.section)):
        legs = route(
            others,
            [
                Run("there", run.start, first, run.points[0], passage.at, 0.0),
                Run("on", second, run.goal, passage.at, run.points[-1], 0.0),
            ],
        ).through
        there, on = legs["there"], legs["on"]
        if there is None or on is None:
            continue
        through = (*there, passage_id, *on)
        if not valid_way(table, through, run.start, run.goal):
            continue
        whole = Run("", run.start, run.goal, run.points[0], run.points[-1], 0.0)
        length = length_of(whole, [by_id[i] for i in through])
        if best is None or length < best[0]:
            best = (length, through)
    if best is None or math.isinf(best[0]):
        name = passage.name or passage.id
        raise PlanError(
            f"Way by {name}", "it would come by a section twice, or lead nowhere", "a passage on a way to the source"
        )
    return best[1]
