"""What is judged of stands: whether they reach, and part where they come off."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import partial

from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit.fuses import fuse_for
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits.stands import ends_between
from gwiazda.core.plan.lookup import item_of, section_of
from gwiazda.core.plan.model import Fuse, Plan, parts_in
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure, format_current

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


def live_tube(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A tube that carries one side of the circuit: with two nets on it, or no fuse before it."""
    for p in plan.passages:
        if p.tube is None or not p.tube.conductor:
            continue
        nets = {r.net for r in assessment.loom.runs.values() if r.kind == "trunk" and r.id.startswith(f"{p.id}.")}
        away = Fix("Leads through its bore instead", partial(edits.set_tube, passage_id=p.id, carries=""))
        if len(nets) > 1:
            yield Finding(
                "tube-two-nets", "stop", "loom", p.id, float(len(nets)),
                f"{name_of(plan, p.id)} carries {p.tube.conductor}, and {len(nets)} circuits that are apart would meet on it.", (away,),
            )  # fmt: skip
        feeds = [f for f in plan.feeds if not any(isinstance(x, Fuse) for item in f.head for x in parts_in(item))]
        if nets and feeds:
            feed = feeds[0]
            fuse = fuse_for(assessment.feeds[feed.id].draw_a)
            yield Finding(
                "tube-no-fuse", "look", "loom", p.id, 0.0,
                f"{name_of(plan, p.id)} is a bare conductor, and {name_of(plan, feed.id)} has no fuse: what touches it with the other side heats a thin wire.",
                (Fix(f"A fuse of {format_current(fuse)}", partial(_fused, feed.id, fuse)), away),
            )  # fmt: skip


def _fused(feed_id: str, rated_a: float, plan: Plan) -> Plan:
    feed = item_of(plan.feeds, feed_id, "feed")
    return edits.set_feed(plan, feed_id, head=(Fuse(id=edits.fresh_ids(plan, "fuse")[0], rated_a=rated_a), *feed.head))


STAND_RULES = (does_not_reach, live_tube)
