"""What joining leads would save: each hub tried, the wires in the tightest passage counted before and after."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.assess.electrics.stage import wanted_currents
from gwiazda.core.assess.lamp.lamp_models import known_lamps, lamp_model_of
from gwiazda.core.assess.looms.weave import loom_of
from gwiazda.core.assess.states import Assessment, LoomState
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Plan

JOINS = ("minus", "both")
MOST_TRIED = 24  # sections: beyond, those with the most lamps


class Saving(NamedTuple):
    """A hub in a section: wires and fill in the tightest passage before and after, wire in all (m), joints more."""

    section: str
    joins: str
    passage: str
    before: int
    after: int
    fill_before: float
    fill_after: float
    wire_mm: float
    joints: int
    plan: Plan


def woven(plan: Plan, assessment: Assessment) -> LoomState:
    """The loom of a plan at the currents that an assessed one like it wants: no light is reckoned anew."""
    catalogue = assessment.catalogue
    lamps = known_lamps(catalogue, plan.lamps)
    kinds = {p.id: lamp_model_of(catalogue, p) for p in lamps}
    wanted = {p.id: assessment.lamps[p.id].wanted_share for p in lamps if p.id in assessment.lamps}
    here = tuple(p for p in lamps if p.id in wanted)
    return (
        loom_of(catalogue, plan, lamps, wanted_currents(here, kinds, wanted))
        if len(here) == len(lamps)
        else assessment.loom
    )


def tightest(loom: LoomState) -> str:
    """The passage that is fullest, or ""."""
    return max(loom.passages, key=lambda i: loom.passages[i].fill, default="")


def savings(plan: Plan, assessment: Assessment, passage: str = "") -> tuple[Saving, ...]:
    """Hubs that would cut the count in a passage (the tightest unless one is named), the one that saves most first."""
    now = assessment.loom
    passage = passage or tightest(now)
    if not passage:
        return ()
    before = now.passages[passage]
    wire = sum(r.cut_mm for r in now.runs.values() if r.kind != "fibre")
    lamps: dict[str, int] = {}
    for r in now.runs.values():
        if r.kind == "lead" and passage in (r.through or ()):
            for room in _rooms(plan, r.start, r.through or ()):
                lamps[room] = lamps.get(room, 0) + 1
    have = {(h.section, h.joins) for h in plan.hubs}
    out = []
    for section in sorted(lamps, key=lambda s: -lamps[s])[:MOST_TRIED]:
        for joins in JOINS:
            if (section, joins) in have or (section, "both") in have or not section:
                continue
            tried, _ = edits.add_hub(plan, section, joins)
            loom = woven(tried, assessment)
            after = loom.passages[passage]
            if len(after.runs) < len(before.runs):
                out.append(
                    Saving(
                        section, joins, passage, len(before.runs), len(after.runs), before.fill, after.fill,
                        wire - sum(r.cut_mm for r in loom.runs.values() if r.kind != "fibre"),
                        len(loom.joints) - len(now.joints), tried,
                    )
                )  # fmt: skip
    return tuple(sorted(out, key=lambda s: (s.after, -s.wire_mm)))


def _rooms(plan: Plan, start: str, through: tuple[str, ...]) -> list[str]:
    by_id = {p.id: p for p in plan.passages}
    out, room = [start], start
    for i in through:
        p = by_id[i]
        room = p.into if room == p.section else p.section
        out.append(room)
    return out[:-1]
