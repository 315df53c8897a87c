"""What is judged of wires, their joints, and what they cross."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from gwiazda.core.assess.fibres.ways import led_through, way_of
from gwiazda.core.assess.heat import heat_of
from gwiazda.core.assess.looms.tuck import CLEAR_MM, tucked
from gwiazda.core.assess.looms.ways import source_place
from gwiazda.core.assess.optics.skin import made_of
from gwiazda.core.assess.states import Assessment, Crossing, WireRun
from gwiazda.core.circuit.parts.wire import limit_a, ohm_per_m
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import with_fields, with_loom, without
from gwiazda.core.findings.looms.passage_rules import THIN_WALL_MM, section_name
from gwiazda.core.loom.sleeves import NEAR_MM
from gwiazda.core.parts.catalogue import Catalogue, unknown
from gwiazda.core.parts.electrics import WirePart
from gwiazda.core.parts.materials import material_kinds
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import FACE_NAMES, Face
from gwiazda.core.plan.lookup import lamps_table, section_of
from gwiazda.core.plan.model import Passage, Plan, Point, Section
from gwiazda.core.plan.naming import and_others, name_of
from gwiazda.core.quantities import counted, format_current
from gwiazda.core.space.run import distance_mm

DROP = 0.03  # of the supply, over both leads
HOT_C, HOT_MM = 70.0, CLEAR_MM  # a part so warm, and how near is beside it
HINGE_MM = 10.0  # of slack at each end of a hinge's swing
SHADE = 0.02  # of a pane: less is a hair nobody sees


def unknown_wire(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A wire the catalogue hasn't got."""
    known = assessment.catalogue.wires
    named = [("Wire of the loom", plan.loom.wire, plan.passages[0].id if plan.passages else "")]
    named += [(f"Lead of {x.lamp}", x.wire, x.lamp) for x in plan.leads if x.wire is not None]
    for where, part, subject in named:
        if part not in known:
            yield Finding("unknown-part", "stop", "loom", subject, 0.0, str(unknown(where, part, known)))


def wire_too_thin(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Wires that carry more than they bear, or lose too much on the way."""
    supply = {f.id: assessment.feeds[f.id].nominal_v for f in plan.feeds if f.id in assessment.feeds}
    volts = min((v for v in supply.values() if v > 0), default=0.0)
    for r in assessment.loom.runs.values():
        if r.kind in ("fibre", "spare") or not r.lamps:
            continue
        if r.current_a > r.limit_a * (1 + 1e-9):
            yield Finding(
                "wire-limit", "stop", "loom", r.lamps[0], r.current_a,
                f"{_called(plan, r)} carries {format_current(r.current_a)}; {assessment.catalogue.wires[r.part].name} bears "
                f"{format_current(r.limit_a)} in a bundle.",
                _thicker(assessment.catalogue, r),
            )  # fmt: skip
        elif volts > 0 and 2.0 * r.ohm * r.current_a > DROP * volts:
            yield Finding(
                "wire-drop", "look", "loom", r.lamps[0], 2.0 * r.ohm * r.current_a / volts,
                f"{_called(plan, r)} and its way back lose {2e3 * r.ohm * r.current_a:.0f} mV of {volts:.1f} V; 3 % is the most that goes unseen.",
                _thicker(assessment.catalogue, r, volts),
            )  # fmt: skip


def _called(plan: Plan, r: WireRun) -> str:
    return f"The {r.end} lead of {name_of(plan, r.lamps[0])}" if r.kind == "lead" else f"Wire {r.tag or r.id}"


def _thicker(catalogue: Catalogue, r: WireRun, volts: float = 0.0) -> tuple[Fix, ...]:
    """The thinnest wire, of the same kind if there is one, that bears the current and loses no more than may go unseen."""
    own = catalogue.wires[r.part]

    def serves(w: WirePart) -> bool:
        drop = 2.0 * r.ohm * r.current_a * ohm_per_m(w.awg) / ohm_per_m(own.awg)
        return w.awg < own.awg and limit_a(w.awg) >= r.current_a and (volts <= 0 or drop <= DROP * volts)

    able = [w for w in catalogue.wires.values() if serves(w)]
    able = [w for w in able if w.kind == own.kind] or able
    if not able:
        return ()
    best = max(able, key=lambda w: (w.awg, -w.outside_mm))
    if r.kind == "lead":
        return (Fix(f"{best.name} for it", _wired((r.lamps[0], r.lamps[-1]), best.id)),)
    return (Fix(f"{best.name} for all", with_loom(wire=best.id)),)


def _wired(lamps: tuple[str, ...], wire: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_lead(plan, dict.fromkeys(lamps), wire=wire)


def crosses_pane(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Wires and fibres that lie over lit panes, or in view through clear ones."""
    for kind in ("dark", "seen"):
        mine = [
            c
            for c in assessment.crossings
            if (c.dark if kind == "dark" else c.seen) and (c.share >= SHADE or kind == "seen")
        ]
        if not mine:
            continue
        worst = mine[0]
        lamps = tuple(i for i in dict.fromkeys(_lamp(assessment, c) for c in mine) if i)
        what = f"lies over {name_of(plan, worst.opening)} and takes {worst.share * 100:.0f} % of it" if kind == "dark" else f"is in view through {name_of(plan, worst.opening)}, {worst.behind_mm:.0f} mm behind it"  # fmt: skip
        yield Finding(
            f"wire-{'over-pane' if kind == 'dark' else 'in-view'}", "look", "loom", worst.opening, worst.share,
            f"{_run_name(plan, assessment, worst)} {what}.{_others(len(mine))}",
            (*((Fix("Tuck them clear of the panes", _tuck(assessment, lamps)),) if lamps else ()), *(_veils(mine) if kind == "seen" else ())),
            also=lamps,
        )  # fmt: skip


def _veils(mine: list[Crossing]) -> tuple[Fix, ...]:
    """What takes wires out of view where they can't be moved: mist on those panes, or a sleeve of vellum behind them."""
    panes = tuple(dict.fromkeys(c.opening for c in mine))
    return (
        Fix("White mist on those panes", with_fields(panes, soften=("mist-1",))),
        Fix("A sleeve of vellum behind them", with_fields(panes, soften=("vellum",))),
    )


def _lamp(assessment: Assessment, c: Crossing) -> str:
    """The lamp, or dot, whose wire or fibre it is; "" for a spare and for what has no lamp yet."""
    run = assessment.loom.runs.get(c.run)
    if run is None:
        return c.run
    if not run.lamps:
        return ""
    return run.lamps[-1] if run.end == "minus" else run.lamps[0]


def _run_name(plan: Plan, assessment: Assessment, c: Crossing) -> str:
    run = assessment.loom.runs.get(c.run)
    return _called(plan, run) if run is not None else f"The fibre of {name_of(plan, c.run)}"


def _others(count: int) -> str:
    return "" if count < 2 else f" So {'does' if count == 2 else 'do'} {count - 1} more."


def _tuck(assessment: Assessment, ids: tuple[str, ...], clear_of: Point | None = None) -> Callable[[Plan], Plan]:
    return lambda plan: tucked(assessment.catalogue, plan, assessment, ids, clear_of)


def hinge_slack(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Wires through a hinge without slack at both ends of its swing."""
    for p in plan.passages:
        state = assessment.loom.passages.get(p.id)
        if p.joint == "hinge" and state is not None and state.runs and p.slack_mm < HINGE_MM:
            yield Finding(
                "hinge-slack", "look", "loom", p.id, p.slack_mm,
                f"{name_of(plan, p.id)} swings, and its {counted(len(state.runs), 'wire')} {'has' if len(state.runs) == 1 else 'have'} "
                f"{p.slack_mm:g} mm of slack: they break where they bend. Leave {HINGE_MM:g} mm at each end.",
                (Fix(f"{HINGE_MM:g} mm of slack at each end", with_fields((p.id,), slack_mm=HINGE_MM)),),
                better="more",
            )  # fmt: skip


def pinched(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Wires led along a seam that is to be glued, with no notch for them: they pinch, and bow the seam."""
    for p in plan.passages:
        state = assessment.loom.passages.get(p.id)
        if state is None or not state.runs or p.make != "as it is" or p.joint == "hinge":
            continue
        for section_id in (p.section, p.into):
            if not section_id:
                continue
            s = section_of(plan, section_id)
            seams = {seam.face for seam in s.seams}
            at_seam = [f for f in seams if _on_face(s, f, p)]
            if s.closure.by == "glue" and at_seam:
                thick = max(state.diameters_mm)
                yield Finding(
                    "seam-pinch", "look", "loom", p.id, thick,
                    f"{name_of(plan, p.id)} runs in the seam at the {at_seam[0]} of {s.name}, which is to be glued: wires of {thick:g} mm "
                    "are pinched there and hold it open.",
                    (Fix(f"A notch, {thick * 1.2:.1f} mm deep", _notch(p.id, round(thick * 1.2, 2), s.wall_mm)),),
                )  # fmt: skip
                break


def _on_face(section: Section, face: Face, p: Passage) -> bool:
    k = FACE_NAMES.index(face)
    axis, far = k // 2, k % 2
    edge = section.box.at[axis] + (section.box.size[axis] if far else 0.0)
    return abs(p.at[axis] - edge) <= section.wall_mm + 0.5 and p.length_mm <= 2.0 * section.wall_mm + 0.5


def _notch(passage_id: str, deep: float, wall_mm: float) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, [passage_id], make="notch", take_mm=deep, wall_mm=max(wall_mm, deep + THIN_WALL_MM))  # fmt: skip


def joint_near_plastic(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Joints soldered in place, so near to plastic that it softens."""
    soft = {s.id: made_of(assessment.catalogue, s, plan.kit.material) for s in plan.sections}
    near = [
        j for j in assessment.loom.joints
        if j.near_mm < NEAR_MM and (j.kind == "hub" or not plan.loom.bench_first) and (j.section not in soft or soft[j.section].softens_c)
    ]  # fmt: skip
    in_place = [j for j in near if j.kind == "lamp" or not _pulled(plan, j.id)]
    if not in_place:
        return
    worst = min(in_place, key=lambda j: j.near_mm)
    kind = soft.get(worst.section, material_kinds()["plastic"])
    hubs = tuple(dict.fromkeys(h.id for h in plan.hubs for j in in_place if j.id.startswith(f"{h.id}.")))
    fixes = []
    if any(j.kind == "lamp" for j in in_place):
        fixes.append(Fix("Solder the lamps on the bench first", with_loom(bench_first=True)))
    if hubs:
        fixes.append(Fix("A board at the hub, soldered on the bench", with_fields(hubs, board=True)))
    yield Finding(
        "joint-near-plastic", "look", "loom", hubs[0] if hubs and worst.kind == "hub" else worst.section, worst.near_mm,
        f"{counted(len(in_place), 'joint')} {'is' if len(in_place) == 1 else 'are'} soldered within {NEAR_MM:g} mm of {kind.name}; the nearest, "
        f"{worst.near_mm:.0f} mm off in {section_name(plan, worst.section)}, warms it to some {worst.warm_c:.0f} °C, and {kind.softening} from "
        f"{kind.softens_c:.0f}. Hot and brief, with a heat sink between.",
        tuple(fixes),
        better="more",
    )  # fmt: skip


def _pulled(plan: Plan, joint_id: str) -> bool:
    return any(h.board for h in plan.hubs if joint_id.startswith(f"{h.id}."))


def leads_alike(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Both leads of a lamp in one bundle: of one colour and without a tag of their own, nobody can tell them apart at the far end."""
    by_lamp: dict[str, list[WireRun]] = {}
    for r in assessment.loom.runs.values():
        if r.kind == "lead":
            by_lamp.setdefault(r.lamps[0], []).append(r)
    bad = [
        i for i, runs in by_lamp.items()
        if len(runs) == 2 and runs[0].colour == runs[1].colour and runs[0].tag == runs[1].tag
    ]  # fmt: skip
    if bad:
        yield Finding(
            "leads-alike", "stop", "loom", bad[0], float(len(bad)),
            f"Both leads of {and_others(plan, bad)} look alike and would end in one "
            "bundle. Tag or colour them by side.",
            (Fix("Red for plus, black for minus", lambda p: _coloured(p, bad)),),
        )  # fmt: skip


def _coloured(plan: Plan, lamps: list[str]) -> Plan:
    plan = edits.set_lead(plan, lamps, ("plus",), colour="red", tag="")
    return edits.set_lead(plan, lamps, ("minus",), colour="black", tag="")


def beside_hot(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Wires and fibres that pass by a regulator hot enough to soften them; what ends there is no matter of its way."""
    hot = [r for r in heat_of(plan, assessment).regulators if r.junction_c >= HOT_C and r.home] if plan.feeds else []
    for regulator in hot:
        place = source_place(plan.sections, regulator.home)
        if place is None:
            continue
        by = [
            (away, name, is_fibre) for name, is_fibre, points in _passing(plan, assessment, regulator.home)
            if (away := distance_mm(points, place)) < HOT_MM
        ]  # fmt: skip
        if by:
            away, name, is_fibre = min(by)
            what = "PMMA bears 70 to 85 °C" if is_fibre else "thin insulation softens"
            yield Finding(
                "beside-hot", "look", "loom", name, away,
                f"{name} passes {away:.0f} mm from {name_of(plan, regulator.id)}, which gets to {regulator.junction_c:.0f} °C: {what}.{_others(len(by))}",
                (Fix("Lead them clear of it", _tuck(assessment, tuple(i for _, i, _ in by), place)),),
                better="more",
            )  # fmt: skip


def _passing(plan: Plan, assessment: Assessment, home: str) -> Iterator[tuple[str, bool, np.ndarray]]:
    """Fibres, and wires that only come by: what they belong to, and their ways."""
    lamps, led = lamps_table(plan.lamps), led_through(plan)
    for d in plan.dots:
        if d.id in assessment.tips:
            thick = assessment.catalogue.fibres[d.fibre].diameter_mm
            yield d.id, True, way_of(d, lamps[d.lamp], thick, led.get(d.id, ())).points
    for r in assessment.loom.runs.values():
        if r.kind == "lead" and r.through is not None and home not in (r.start, r.goal):
            yield r.lamps[0], False, np.array(r.points)


def hub_idle(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A hub that joins nothing."""
    for h in plan.hubs:
        joined = [
            sum(not i.startswith(f"{h.id}.") for i in j.wires)
            for j in assessment.loom.joints
            if j.id.startswith(f"{h.id}.")
        ]
        if assessment.loom.runs and max(joined, default=0) < 2:
            yield Finding(
                "hub-idle", "look", "loom", h.id, 0.0, f"{name_of(plan, h.id)} joins nothing: no two leads of one net come by it.",
                (Fix("Take it out", without(h.id)),),
            )  # fmt: skip


def parts_come_off(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Wires that go from one part to another that is to come off, with nothing to part them by."""
    for p in plan.passages:
        state = assessment.loom.passages.get(p.id)
        if state is None or not state.runs or p.connector or not p.into:
            continue
        if p.joint != "fixed":
            continue
        off = [
            s
            for s in (section_of(plan, p.section), section_of(plan, p.into))
            if s.closure.by in ("magnets", "push fit")
        ]
        stand = p.tube is not None and p.tube.comes_off
        if not off and not stand:
            continue
        pins = len([r for r in state.runs if assessment.loom.runs[r].kind != "fibre"])
        what = f"{off[0].name} comes off ({off[0].closure.by})" if off else "The model comes off its stand"
        yield Finding(
            "parts-come-off", "look", "loom", p.id, float(pins),
            f"{what}, and {counted(pins, 'wire')} through {name_of(plan, p.id)} hold it. A connector of {pins} pins parts them.",
            (Fix(f"A connector of {pins} pins", with_fields((p.id,), connector=f"{pins}-pin header")),),
        )  # fmt: skip


WIRE_RULES = (
    unknown_wire, wire_too_thin, crosses_pane, hinge_slack, pinched, joint_near_plastic, leads_alike, beside_hot, hub_idle, parts_come_off,
)  # fmt: skip
