"""The rules. Each is a small function from a plan and its assessment to findings; wording stands beside its rule."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import numpy as np

from gwiazda.core.assess.aims import EVENNESS_AIM, EVENNESS_STOP, reached_state
from gwiazda.core.assess.bodies.sizes import switches_of
from gwiazda.core.assess.choices import fewest
from gwiazda.core.assess.lamp.fit import axis_of
from gwiazda.core.assess.lamp.realism import looks_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import GoneError
from gwiazda.core.findings.alike import folded
from gwiazda.core.findings.assembly.assembly_rules import BUILD_RULES
from gwiazda.core.findings.assembly.bench_rules import (
    does_not_fit,
    everything_lit,
    out_of_scale,
    same_on_both_sides,
)
from gwiazda.core.findings.assembly.body_rules import BODY_RULES
from gwiazda.core.findings.assembly.carrier_rules import CARRIER_RULES
from gwiazda.core.findings.assembly.hatch_rules import HATCH_RULES
from gwiazda.core.findings.assembly.material_rules import MATERIAL_RULES
from gwiazda.core.findings.assembly.reach_rules import REACH_RULES
from gwiazda.core.findings.electrics.circuit_rules import CIRCUIT_RULES, choose_resistor
from gwiazda.core.findings.electrics.device_rules import DEVICE_RULES
from gwiazda.core.findings.electrics.output_rules import OUTPUT_RULES
from gwiazda.core.findings.electrics.source_rules import SOURCE_RULES
from gwiazda.core.findings.fibres.fibre_rules import FIBRE_RULES
from gwiazda.core.findings.fibres.tip_rules import TIP_RULES
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.looms.passage_rules import PASSAGE_RULES
from gwiazda.core.findings.looms.stand_rules import STAND_RULES
from gwiazda.core.findings.looms.wire_rules import WIRE_RULES
from gwiazda.core.findings.optics.back_rules import BACK_RULES
from gwiazda.core.findings.optics.dusk_rules import DUSK_RULES
from gwiazda.core.findings.optics.lens_rules import LENS_RULES
from gwiazda.core.findings.optics.likeness_rules import LIKENESS_RULES
from gwiazda.core.findings.optics.shell_rules import SHELL_RULES
from gwiazda.core.findings.optics.sight_rules import SIGHT_RULES
from gwiazda.core.findings.optics.skin_rules import SKIN_RULES
from gwiazda.core.findings.show.effect_rules import EFFECT_RULES
from gwiazda.core.parts.catalogue import Catalogue, unknown
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import NORMALS
from gwiazda.core.plan.lookup import lamp_of, lamps_by_section, section_of
from gwiazda.core.plan.model import Lamp, Look, Model, Plan, Wanted, copy_unchecked
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure

Rule = Callable[[Plan, Assessment], Iterator[Finding]]


def unknown_part(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A part the catalogue hasn't got: it is left dark, and named."""
    lamps = assessment.catalogue.lamps
    for lamp in plan.lamps:
        if lamp.part not in lamps:
            error = unknown(f"Lamp {lamp.id}, part", lamp.part, lamps)
            yield Finding("unknown-part", "stop", "lamp", lamp.id, 0.0, str(error))
    named: list[tuple[str, str, Mapping[str, object], str, str]] = [
        *(("Supply", f.supply.part, assessment.catalogue.sources, "supply", f.id) for f in plan.feeds),
        ("Kit, material", plan.kit.material, assessment.catalogue.materials, "shape", "kit"),
    ]
    named += [
        (f"{name_of(plan, x.id)}, kind", x.kind, assessment.catalogue.switches, "wiring", x.id)
        for x in switches_of(plan)
    ]
    for s in plan.sections:
        named.append((f"Section {s.id}, lining", s.lining, assessment.catalogue.linings, "shape", s.id))
        named.append((f"Section {s.id}, glazing", s.glazing, assessment.catalogue.glazings, "shape", s.id))
        named += [
            (f"Section {s.id}, lining", x.lining, assessment.catalogue.linings, "skin", s.id) for x in s.face_linings
        ]
    for o in plan.openings:
        if o.glazing is not None:
            named.append(
                (f"Opening {name_of(plan, o.id)}, glazing", o.glazing, assessment.catalogue.glazings, "shape", o.id)
            )
        if o.lens is not None:
            named.append(
                (
                    f"Opening {name_of(plan, o.id)}, lens made from",
                    o.lens.made,
                    assessment.catalogue.lenses,
                    "shape",
                    o.id,
                )
            )
    named += [(f"{c.name or c.id}, sheet", c.sheet, assessment.catalogue.sheets, "fit", c.id) for c in plan.carriers]
    for where, part, table, station, subject in named:
        if part not in table:
            yield Finding("unknown-part", "stop", station, subject, 0.0, str(unknown(where, part, table)))


def lamp_nowhere(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A lamp meant to be inside that lies in no section's inner box."""
    centres = np.array([s.box.centre for s in plan.sections]).reshape(-1, 3)
    for lamp_id, section in lamps_by_section(plan.sections, plan.lamps).items():
        if section is not None:
            continue
        fixes = [Fix("Mount it outside, to be seen itself", _outside(lamp_id))]
        if plan.sections:
            away = np.linalg.norm(centres - np.array(lamp_of(plan, lamp_id).at), axis=1)
            nearest = plan.sections[int(away.argmin())]
            fixes.insert(0, Fix(f"Move it into {nearest.name}", _into(lamp_id, nearest.id)))
        yield Finding(
            "lamp-nowhere", "stop", "lamp", lamp_id, 0.0,
            f"{name_of(plan, lamp_id)} lies outside every section and lights nothing. Put it inside a section's inner box, or mount it "
            "outside.",
            tuple(fixes),
        )  # fmt: skip


def _outside(lamp_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, [lamp_id], mount="outside")


def _into(lamp_id: str, section_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, [lamp_id], at=section_of(plan, section_id).box.centre)


def out_of_reach(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A section or a lamp whose wanted light is not reached, or overshot."""
    for s in assessment.sections.values():
        name = section_of(plan, s.id).name
        if s.wanted_cd_m2 <= 0 or not s.lit:
            continue
        ratio = s.mean_cd_m2 / s.wanted_cd_m2
        state = reached_state(ratio)
        if state != "fine":
            yield Finding(
                "out-of-reach", state, "look", s.id, ratio,
                f"{name} reaches {figure(s.mean_cd_m2)} cd/m² of the {figure(s.wanted_cd_m2)} wanted.",
                _reach_fixes(plan, assessment, s.id, ratio),
                better="more",
            )  # fmt: skip
    for lamp in assessment.lamps.values():
        if lamp.section is None and lamp_of(plan, lamp.id).mount == "outside":
            ratio = lamp.share / lamp.wanted_share
            state = reached_state(ratio)
            if state != "fine":
                yield Finding(
                    "out-of-reach", state, "look", lamp.id, ratio,
                    f"{name_of(plan, lamp.id)} gives {ratio * 100:.0f} % of the light wanted.",
                    (Fix("Choose the resistor again", choose_resistor((lamp.id,))),),
                    better="more",
                )  # fmt: skip


ALMOST = 1.25  # of what is reached: so much more is still near enough


def _reach_fixes(plan: Plan, assessment: Assessment, section_id: str, ratio: float) -> tuple[Fix, ...]:
    inside = [
        i
        for i, home in lamps_by_section(plan.sections, plan.lamps).items()
        if home == section_id and i in assessment.lamps
    ]
    fixes = []
    if any(not assessment.branches[assessment.lamps[i].branch].chosen for i in inside):
        fixes.append(Fix("Choose the resistors again", choose_resistor(tuple(inside))))
    if ratio < 1 and inside:
        fixes.append(Fix("One more lamp like the first", _another(inside[0], section_id)))
    reached = assessment.sections[section_id].mean_cd_m2
    asked: tuple[tuple[Look, str], ...] = (("soft", "Ask for soft light"), ("barely", "Ask for barely lit"))
    for look, words in asked:
        # What asks for more than there is now isn't reached either, or undoes a dimming.
        if ratio < 1 and assessment.looks.cd_m2[look] <= ALMOST * reached:
            fixes.append(Fix(words, _ask(section_id, look)))
    return tuple(fixes)


def _another(lamp_id: str, section_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        model = lamp_of(plan, lamp_id)
        box = section_of(plan, section_id).box
        homes = lamps_by_section(plan.sections, plan.lamps)
        taken = sorted(p.at[0] for p in plan.lamps if homes.get(p.id) == section_id)
        edges = [box.at[0], *taken, box.at[0] + box.size[0]]
        gap = max(range(len(edges) - 1), key=lambda i: edges[i + 1] - edges[i])
        place = ((edges[gap] + edges[gap + 1]) / 2, model.at[1], model.at[2])
        new_id = edits.fresh_ids(plan, lamp_id.rsplit(".", 1)[0])[0]
        return edits.add_lamp(plan, copy_unchecked(model, id=new_id, at=place, resistor_ohm=None))

    return edit


def _ask(section_id: str, look: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_wanted(plan, [section_id], edits.copy_checked(Wanted(look="normal"), look=look))


def dark_section(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Windows meant to be lit, and no lamp behind them."""
    for s in assessment.sections.values():
        if s.lit and not s.lamps:
            name = section_of(plan, s.id).name
            yield Finding(
                "dark-section", "stop", "look", s.id, float(s.lit),
                f"{name} has {s.lit} lit windows and no lamp inside.",
                (Fix("A warm white chip in the middle of its roof", _first_lamp(s.id)),),
            )  # fmt: skip


def _first_lamp(section_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        box = section_of(plan, section_id).box
        lamp_id = edits.fresh_ids(plan, f"{section_id}.lamp")[0]
        at = (box.centre[0], box.centre[1], box.at[2] + box.size[2] - min(1.0, box.size[2] / 4))
        return edits.add_lamp(plan, Lamp(id=lamp_id, part="chip-1206-warm-white", at=at))

    return edit


def uneven(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A row whose darkest window falls too far behind."""
    for s in assessment.sections.values():
        if s.evenness is not None and s.evenness < EVENNESS_AIM:
            name = section_of(plan, s.id).name
            yield Finding(
                "uneven", "stop" if s.evenness < EVENNESS_STOP else "look", "look", s.darkest or s.id, s.evenness,
                f"{name}: the darkest window has {s.evenness:.2f} of the mean; {EVENNESS_AIM:.2f} is the aim.",
                (
                    *_strip_fixes(plan, assessment, s.id),
                    Fix("Spread its lamps evenly", _spread(s.id)),
                    Fix("The fewest lamps that light it evenly", _fewest(assessment.catalogue, s.id, s.wanted_cd_m2)),
                    Fix("Turn its lamps to face the floor", _face_down(s.id)),
                    Fix("One more lamp", _another_in(s.id)),
                ),
                better="more",
            )  # fmt: skip


def _strip_fixes(plan: Plan, assessment: Assessment, section_id: str) -> tuple[Fix, ...]:
    """What helps a strip that shades the row it lights: its light sent to the far wall, or room between it and the panes."""
    homes = lamps_by_section(plan.sections, plan.lamps)
    strips = [
        p for p in plan.lamps
        if homes.get(p.id) == section_id and p.id in assessment.lamps and assessment.catalogue.lamps[p.part].shape.long
    ]  # fmt: skip
    if not strips:
        return ()
    return (
        Fix("Turn the strip to face the shell across", _turn_strips(section_id, tuple(p.id for p in strips))),
        Fix("Set the strip off the wall", _set_off(section_id, tuple(p.id for p in strips))),
    )


def _turn_strips(section_id: str, ids: tuple[str, ...]) -> Callable[[Plan], Plan]:
    """Away from the side where most of the section's windows are."""

    def edit(plan: Plan) -> Plan:
        sides = [o.side for o in plan.openings if o.section == section_id and o.lit > 0 and not o.into]
        if not sides:
            return plan
        normal = NORMALS[max(set(sides), key=sides.count)]
        return edits.set_fields(plan, ids, aim=tuple(-float(n) for n in normal))

    return edit


SET_OFF_MM = 4.0


def _set_off(section_id: str, ids: tuple[str, ...]) -> Callable[[Plan], Plan]:
    """A few millimetres from the nearest wall across the way it looks, as far as the section allows."""

    def edit(plan: Plan) -> Plan:
        box = section_of(plan, section_id).box
        for lamp_id in ids:
            lamp = lamp_of(plan, lamp_id)
            axis = axis_of(lamp.aim)
            middle = box.at[axis] + box.size[axis] / 2
            at = list(lamp.at)
            step = min(SET_OFF_MM, abs(middle - at[axis]))
            at[axis] += step if at[axis] < middle else -step
            plan = edits.set_fields(plan, [lamp_id], at=tuple(at))
        return plan

    return edit


def _first_in(plan: Plan, section_id: str) -> str:
    """The first lamp of a section; raises GoneError where it has none."""
    first = next((i for i, home in lamps_by_section(plan.sections, plan.lamps).items() if home == section_id), None)
    if first is None:
        raise GoneError("section", f"{section_id}, its lamps")
    return first


def _fewest(catalogue: Catalogue, section_id: str, wanted_cd_m2: float) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        first = _first_in(plan, section_id)
        aim = fewest.Aim(wanted_cd_m2 or looks_of(catalogue, plan).pane("normal"))
        ways = fewest.propose(catalogue, plan, section_id, lamp_of(plan, first).part, aim)
        return fewest.take(plan, section_id, ways[0]) if ways else plan

    return edit


def _spread(section_id: str) -> Callable[[Plan], Plan]:
    """Along the section's longer level side, evenly; their heights and the other side stay."""

    def edit(plan: Plan) -> Plan:
        box = section_of(plan, section_id).box
        along = 0 if box.size[0] >= box.size[1] else 1
        homes = lamps_by_section(plan.sections, plan.lamps)
        mine = sorted((p for p in plan.lamps if homes.get(p.id) == section_id), key=lambda p: p.at[along])
        changed: dict[str, Model] = {}
        for i, lamp in enumerate(mine):
            at = list(lamp.at)
            at[along] = round(box.at[along] + box.size[along] * (i + 0.5) / len(mine), 1)
            changed[lamp.id] = edits.copy_checked(lamp, at=tuple(at))
        return edits.replace(plan, changed)

    return edit


def _face_down(section_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        homes = lamps_by_section(plan.sections, plan.lamps)
        return edits.set_fields(plan, [i for i, home in homes.items() if home == section_id], aim=(0.0, 0.0, -1.0))

    return edit


def _another_in(section_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        return _another(_first_in(plan, section_id), section_id)(plan)

    return edit


RULES: tuple[Rule, ...] = (
    unknown_part,
    lamp_nowhere,
    *CIRCUIT_RULES,
    *DEVICE_RULES,
    *SOURCE_RULES,
    dark_section,
    out_of_reach,
    uneven,
    does_not_fit,
    out_of_scale,
    everything_lit,
    same_on_both_sides,
    *SKIN_RULES,
    *SHELL_RULES,
    *SIGHT_RULES,
    *LENS_RULES,
    *BACK_RULES,
    *LIKENESS_RULES,
    *CARRIER_RULES,
    *FIBRE_RULES,
    *TIP_RULES,
    *PASSAGE_RULES,
    *STAND_RULES,
    *WIRE_RULES,
    *BODY_RULES,
    *DUSK_RULES,
    *HATCH_RULES,
    *MATERIAL_RULES,
    *EFFECT_RULES,
    *OUTPUT_RULES,
    *BUILD_RULES,
    *REACH_RULES,
)


def evaluate_rules(plan: Plan, assessment: Assessment) -> tuple[Finding, ...]:
    """All findings, what stops the build first."""
    out = folded(plan, (finding for rule in RULES for finding in rule(plan, assessment)))
    return tuple(sorted(out, key=lambda f: f.severity != "stop"))
