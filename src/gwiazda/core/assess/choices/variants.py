"""Variants side by side: each put in place, the whole plan assessed with it, and what matters of it in figures."""

from __future__ import annotations

import math
from typing import NamedTuple

from gwiazda.core.assess.assembly.effort import effort_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.sight.dark import dark_panes
from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan.edits.variants import stands, subject_of, with_variant
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.lookup import built_into
from gwiazda.core.plan.model import Plan, Variant


class Figures(NamedTuple):
    """A variant in figures; ``id`` is empty for what the plan has now. Light: of the section's openings (cd/m², darkest over mean, hot
    spot, worst leak over what shows), of a circuit its lamps' light over what is wanted, the mean and the least. ``draw_a`` and ``hours``
    of run time are of the whole plan; joints, lamps and hours of work of the section, or of the whole. ``fault``: why there are none."""

    id: str
    name: str
    now: bool
    light: float = 0.0
    reached: float = 0.0
    evenness: float | None = None
    hot_spot: float = 1.0
    leak: float = 0.0
    draw_a: float = 0.0
    run_h: float = math.inf
    lamps: int = 0
    joints: int = 0
    work_h: float = 0.0
    fault: str = ""


def _figures(
    plan: Plan, assessment: Assessment, subject: str, kind: str, name: str, variant_id: str, now: bool
) -> Figures:
    draw = sum(s.draw_a for s in assessment.feeds.values())
    run = min((s.hours for s in assessment.feeds.values()), default=math.inf)
    if kind == "section":
        state = assessment.sections.get(subject)
        effort = next((e for e in effort_of(plan, assessment.catalogue) if e.of == subject), None)
        panes = {o.id for o in plan.openings if o.section == subject}
        dark = dark_panes(assessment.catalogue, plan, assessment.openings)
        shows = [t for i, t in dark.items() if i in panes and t >= 1.0]
        leak = max([*(x.times for x in assessment.leaks if x.section == subject), *shows], default=0.0)
        homes = built_into(plan.sections, plan.lamps)
        lamps = sum(home == subject for home in homes.values())
        if state is None:
            return Figures(variant_id, name, now, draw_a=draw, run_h=run, lamps=lamps)
        reached = state.mean_cd_m2 / state.wanted_cd_m2 if state.wanted_cd_m2 > 0 else 0.0
        return Figures(
            variant_id, name, now, state.mean_cd_m2, reached, state.evenness, state.hot_spot, leak, draw, run, lamps,
            effort.joints if effort else 0, effort.hours if effort else 0.0,
        )  # fmt: skip
    mine = [s for s in assessment.lamps.values() if s.feed == subject]
    shares = [s.share / s.wanted_share for s in mine if s.wanted_share > 0]
    every = effort_of(plan, assessment.catalogue)
    mean = sum(shares) / len(shares) if shares else 0.0
    return Figures(
        variant_id, name, now, sum(s.flux_lm for s in mine), mean, min(shares) / mean if shares and mean > 0 else None, 1.0,
        max((x.times for x in assessment.leaks), default=0.0), draw, run, len(mine), sum(e.joints for e in every), sum(e.hours for e in every),
    )  # fmt: skip


def compared(plan: Plan, assessment: Assessment, subject: str) -> tuple[Figures, ...]:
    """What the plan has now and each variant of it, in the order they were kept; what it has now comes first where it is none of them."""
    mine = [v for v in plan.variants if v.subject == subject]
    kind = subject_of(plan, subject) or (mine[0].of if mine else "section")
    out = []
    held: Variant | None = next((v for v in mine if stands(plan, v)), None)
    if held is None and subject_of(plan, subject):
        out.append(_figures(plan, assessment, subject, kind, "as it is now", "", True))
    for v in mine:
        if v is held:
            out.append(_figures(plan, assessment, subject, kind, v.name, v.id, True))
            continue
        try:
            tried = validate_edit(plan, with_variant(plan, v.id))
        except GwiazdaError as error:
            out.append(Figures(v.id, v.name, False, fault=str(error)))
            continue
        out.append(_figures(tried, assess(tried, assessment.catalogue), subject, kind, v.name, v.id, False))
    return tuple(out)


def least_of(figures: tuple[Figures, ...], name: str) -> float:
    """The best of a figure among variants: the least of draw, joints, work, leak; the most of light, evenness and run time."""
    values = [float(v) for f in figures if not f.fault and (v := getattr(f, name)) is not None]
    if not values:
        return math.nan
    return max(values) if name in ("evenness", "run_h") else min(values)
