"""What is judged of passages and the ways through them."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from functools import partial

from gwiazda.core.assess.looms.ways import valid_way
from gwiazda.core.assess.states import Assessment, WireRun
from gwiazda.core.circuit.parts.wire import limit_a
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import with_fields, with_loom, without
from gwiazda.core.loom.routes import LIMIT
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits.loom import between, gap_mm, length_between
from gwiazda.core.plan.lookup import item_of, section_of
from gwiazda.core.plan.model import Passage, Plan
from gwiazda.core.plan.naming import and_others, name_of
from gwiazda.core.quantities import figure

DROP = 0.03  # of the supply, over both leads
THIN_WALL_MM = 0.8  # less left of a wall bends or breaks through while it is filed
FAR_MM = 8.0  # off a section's box: a passage there leads through nothing of it
HINGE_MM = 10.0  # of slack at each end of a hinge's swing
SHADE = 0.02  # of a pane: less is a hair nobody sees
BODIES = ("board", "pack", "speaker", "switch", "interior")


def no_way(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Lamps from which no passages lead to their source."""
    lost: dict[tuple[str, str], list[WireRun]] = {}
    for r in assessment.loom.runs.values():
        if r.through is None and r.kind in ("lead", "trunk"):
            lost.setdefault((r.start, r.goal), []).append(r)
    for (start, goal), runs in lost.items():
        lamps = tuple(dict.fromkeys(i for r in runs for i in r.lamps)) or (runs[0].id.rsplit(".", 1)[0],)
        a, b = section_name(plan, start), section_name(plan, goal)
        yield Finding(
            "no-way", "stop", "loom", lamps[0], float(len(lamps)),
            f"{and_others(plan, lamps)}: no passage leads from {a} to {b}.",
            _way_fixes(plan, assessment, start, goal),
        )  # fmt: skip


def section_name(plan: Plan, section: str) -> str:
    return section_of(plan, section).name if any(s.id == section for s in plan.sections) else "the outside"


def _way_fixes(plan: Plan, assessment: Assessment, start: str, goal: str) -> tuple[Fix, ...]:
    """A passage from where the lamps are to the nearest section that has a way on."""
    if not any(s.id == start for s in plan.sections):
        return ()
    reached = {goal}
    grown = True
    while grown:
        more = {p.into for p in plan.passages if p.section in reached} | {p.section for p in plan.passages if p.into in reached}  # fmt: skip
        grown = not more <= reached
        reached |= more
    here = section_of(plan, start)
    others = [s for s in plan.sections if s.id in reached and s.id != start]
    fixes = []
    if others:
        near = min(others, key=lambda s: gap_mm(here, s))
        fixes.append(Fix(f"A 3 mm hole from {here.name} to {near.name}", _drill(start, near.id)))
    if goal == "":
        fixes.append(Fix(f"A 3 mm hole out of {here.name}", _drill(start, "")))
    return tuple(fixes)


def _drill(section: str, into: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.add_passage(plan, section, into)[0]


def passage_full(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Passages with more in them than goes through: too full, or only with force."""
    for state in assessment.loom.passages.values():
        if state.fill <= LIMIT + 1e-9 and state.fits:
            continue
        passage = _passage(plan, state.id)
        count = len(state.runs)
        fits = "they don’t lie beside one another in it" if not state.fits else f"{LIMIT * 100:.0f} % is the most that pulls through"  # fmt: skip
        yield Finding(
            "passage-full", "stop" if not state.fits else "look", "loom", state.id, state.fill * 100,
            f"{name_of(plan, state.id)}: {count} wires fill {figure(state.fill * 100, 3)} % of it; {fits}.",
            _full_fixes(plan, assessment, passage), _fill_of(state.id), "% full",
        )  # fmt: skip


def _fill_of(passage: str) -> Callable[[Assessment], float]:
    return lambda assessment: (
        assessment.loom.passages[passage].fill * 100 if passage in assessment.loom.passages else 0.0
    )


def _passage(plan: Plan, passage_id: str) -> Passage:
    return item_of(plan.passages, passage_id, "passage")


def _full_fixes(plan: Plan, assessment: Assessment, passage: Passage) -> tuple[Fix, ...]:
    fixes = []
    before = _before(plan, assessment, passage)
    if before:
        # What exactly it would save is worked out when the offer is looked at: to try all sections takes a while.
        name, have = section_name(plan, before), {h.joins for h in plan.hubs if h.section == before}
        if not have:
            fixes.append(Fix(f"A common return: join minuses in {name}", _hub(before, "minus")))
        if "both" not in have:
            fixes.append(Fix(f"A hub: join both in {name}", _hub(before, "both")))
    thinner = _thinner(assessment.catalogue, plan.loom.wire, assessment)
    if thinner is not None:
        fixes.append(Fix(f"{assessment.catalogue.wires[thinner].name} for all", with_loom(wire=thinner)))
    state = assessment.loom.passages[passage.id]
    need = math.sqrt(state.fill / (0.9 * LIMIT))
    wide = math.ceil(passage.width_mm * need * 10) / 10
    if passage.tube is not None and passage.tube.material == "metal" and not passage.tube.carries:
        fixes.append(
            Fix("The tube itself carries minus", partial(edits.set_tube, passage_id=passage.id, carries="minus"))
        )
    words = f"A tube with a bore of {wide:g} mm" if passage.tube is not None else f"Open it to {wide:g} mm"
    fixes.append(Fix(words, _widen(passage.id, wide, need)))
    return tuple(fixes)


def _before(plan: Plan, assessment: Assessment, passage: Passage) -> str:
    """The section that most of a passage's wires come from."""
    rooms: dict[str, int] = {}
    for i in assessment.loom.passages[passage.id].runs:
        run = assessment.loom.runs[i]
        room = run.start
        for step in run.through or ():
            if step == passage.id:
                break
            p = _passage(plan, step)
            room = p.into if room == p.section else p.section
        rooms[room] = rooms.get(room, 0) + 1
    return max(rooms, key=lambda r: rooms[r], default="")


def _hub(section: str, joins: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.add_hub(plan, section, joins)[0]


def _thinner(catalogue: Catalogue, wire: str, assessment: Assessment) -> str | None:
    """The thickest wire that is thinner over all than this one and bears the most that a lead carries."""
    own = catalogue.wires.get(wire)
    most = max((r.current_a for r in assessment.loom.runs.values() if r.kind == "lead"), default=0.0)
    able = [
        w for w in catalogue.wires.values() if own and w.outside_mm < own.outside_mm - 1e-9 and limit_a(w.awg) >= most
    ]
    return max(able, key=lambda w: w.outside_mm).id if able else None


def _widen(passage_id: str, wide: float, need: float) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        p = _passage(plan, passage_id)
        if p.tube is not None:
            # A wider tube with the same wall: its wall is nothing to file away.
            return edits.set_tube(
                plan, passage_id, bore_mm=wide, outer_mm=round(wide + p.tube.outer_mm - p.width_mm, 2)
            )
        return edits.set_fields(plan, [passage_id], width_mm=wide, height_mm=max(round(p.height_mm * need, 1), 0.1))

    return edit


def nowhere(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Passages that lie away from a section they are to lead through."""
    for p in plan.passages:
        for section_id in (p.section, p.into):
            if not section_id:
                continue
            s = section_of(plan, section_id)
            gap = math.hypot(*(max(low - x, x - low - size, 0.0) for x, low, size in zip(p.at, s.box.at, s.box.size, strict=True)))  # fmt: skip
            if gap > FAR_MM + s.wall_mm + p.length_mm:
                yield Finding(
                    "passage-nowhere", "stop", "loom", p.id, gap,
                    f"{name_of(plan, p.id)} lies {gap:.0f} mm off {s.name}: it leads nowhere there.",
                    (Fix("Put it between its sections", _between(p.id)), Fix("Take it out", without(p.id))),
                )  # fmt: skip
                break


def _between(passage_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        p = _passage(plan, passage_id)
        a = section_of(plan, p.section)
        if not p.into:
            return edits.set_fields(plan, [passage_id], at=(a.box.centre[0], a.box.centre[1], a.box.at[2]))
        b = section_of(plan, p.into)
        return edits.set_fields(plan, [passage_id], at=between(a, b), length_mm=max(p.length_mm, length_between(a, b)))

    return edit


def route_breaks(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A lead told to go through passages that don't follow one another, or that come by a section twice."""
    passages = {p.id: p for p in plan.passages}
    for lead in plan.leads:
        run = assessment.loom.runs.get(f"{lead.lamp}.{lead.end}")
        if not lead.through or run is None:
            continue
        if not valid_way(passages, lead.through, run.start, run.goal):
            loop = len(set(lead.through)) < len(lead.through)
            words = (
                "goes through one passage twice"
                if loop
                else "doesn’t get from passage to passage, or comes by a section twice"
            )
            yield Finding(
                "route-breaks", "look", "loom", lead.lamp, float(len(lead.through)),
                f"The {lead.end} lead of {lead.lamp} {words}. The loom has found its own way instead.",
                (Fix("Let the loom find its way", _free(lead.lamp, lead.end)),),
            )  # fmt: skip


def _free(lamp: str, end: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_lead(plan, [lamp], (end,), through=())


def wall_left(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A filed passage, notch or channel that leaves little of its wall."""
    for p in plan.passages:
        state = assessment.loom.passages.get(p.id)
        if state is None or state.wall_left_mm is None or state.wall_left_mm >= THIN_WALL_MM - 1e-6:
            continue
        left = state.wall_left_mm
        deep = max(round(p.wall_mm - THIN_WALL_MM, 2), 0.0)
        stop = left <= 0
        yield Finding(
            "wall-left", "stop" if stop else "look", "loom", p.id, left,
            f"{name_of(plan, p.id)}: {p.take_mm:g} mm off a wall of {p.wall_mm:g} mm {'breaks through' if stop else f'leaves {left:.1f} mm'}"
            + (", and light shows along it." if p.make == "channel" else "."),
            (Fix(f"Take {deep:g} mm off, no more", with_fields((p.id,), take_mm=deep)),),
            better="more",
        )  # fmt: skip


def lump_stuck(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """The rectifier or resistor in the leads of a lamp wired at the works, too thick for a passage on their way."""
    table = {p.id: p for p in plan.passages}
    lumps = {
        p.id: part.lump_mm
        for p in plan.lamps
        if (part := assessment.catalogue.lamps.get(p.part)) is not None and part.lump_mm
    }
    if not lumps:
        return
    stuck: dict[str, list[str]] = {}
    for run in assessment.loom.runs.values():
        for lamp in run.lamps if run.kind == "lead" else ():
            for i in run.through or ():
                p = table[i]
                clear = p.width_mm if p.shape == "round" else min(p.width_mm, p.height_mm)
                if lamp in lumps and clear < lumps[lamp] and lamp not in stuck.setdefault(i, []):
                    stuck[i].append(lamp)
    for i, p in table.items():
        lamps = stuck.get(i)
        if not lamps:
            continue
        thick = max(lumps[x] for x in lamps)
        wide = math.ceil(thick * 10.0 + 1.0) / 10.0
        words = f"A tube with a bore of {wide:g} mm" if p.tube is not None else f"Open it to {wide:g} mm"
        need = wide / min(p.width_mm, p.height_mm if p.shape == "rect" else p.width_mm)
        yield Finding(
            "lump-stuck", "stop", "loom", i, thick,
            f"{and_others(plan, lamps)}: the lump in the leads is {thick:g} mm thick and does not go through {name_of(plan, i)}.",
            (Fix(words, _widen(i, max(wide, p.width_mm), max(need, 1.0))),),
        )  # fmt: skip


PASSAGE_RULES = (no_way, passage_full, lump_stuck, nowhere, route_breaks, wall_left)
