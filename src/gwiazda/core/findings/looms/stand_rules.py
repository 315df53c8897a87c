"""What is judged of stands: whether they reach, and part where they come off."""

from __future__ import annotations

import math
from collections.abc import Iterator

from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits.stands import ends_between
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure

OFF_MM = 1.0  # more than that off its place an end is in the air, or stands into what is inside


def does_not_reach(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A stand whose ends are not where the two parts are that it joins."""
    for p in plan.passages:
        if p.tube is None or not p.into:
            continue
        a, b = section_of(plan, p.section), section_of(plan, p.into)
        at, to = ends_between(a, b, p.at, p.tube.to, p.tube.outer_mm)
        off = {a.name: math.dist(at, p.at), b.name: math.dist(to, p.tube.to)}
        worst = max(off, key=off.__getitem__)
        # Half of its own wall is as good as there: the end is glued into it.
        if off[worst] <= OFF_MM + (a if worst == a.name else b).wall_mm:
            continue
        yield Finding(
            "stand-off", "stop", "loom", p.id, off[worst], f"{name_of(plan, p.id)} ends {figure(off[worst], 2)} mm off {worst}.",
            (Fix("Fit it between the two", lambda plan, i=p.id: edits.fit_stand(plan, i)),),  # type: ignore[misc]
        )  # fmt: skip


STAND_RULES = (does_not_reach,)
