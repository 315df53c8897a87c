"""Rules about places and looks: what fits, what is out of scale, who is awake."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.lamp.fit import fit_of, half_sizes, leads_mm, most_filed_mm, smaller_parts, touch
from gwiazda.core.assess.lamp.modified_lamp import body_mm, front_mm
from gwiazda.core.assess.lamp.realism import REAL_LIGHT_M, full_size_m
from gwiazda.core.assess.lights.kinds import OTHER
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import occupancy
from gwiazda.core.plan.lookup import lamp_of, lamps_by_section, section_of
from gwiazda.core.plan.model import Lamp, Plan, Section
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure


def does_not_fit(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A lamp thicker than its gap, or standing in another."""
    homes = lamps_by_section(plan.sections, plan.lamps)
    standing = furnished(assessment.catalogue, plan)
    inside: dict[str, list[Lamp]] = {}
    for lamp in plan.lamps:
        home = homes.get(lamp.id)
        if home is not None and lamp.part in assessment.catalogue.lamps:
            inside.setdefault(home, []).append(lamp)
    for home, lamps in inside.items():
        yield from (f.called(plan) for f in _fits_of(assessment.catalogue, section_of(standing, home), tuple(lamps)))


@memoize(slots=3, by=lambda catalogue, section, lamps: section.id, places=4096)
def _fits_of(catalogue: Catalogue, section: Section, lamps: tuple[Lamp, ...]) -> tuple[Finding, ...]:
    """Kept for as long as neither the section nor a lamp in it changes."""
    parts = catalogue.lamps
    found = []
    for lamp in lamps:
        fit = fit_of(catalogue, section, lamp)
        if fit.clearance_mm < 0:
            bow = " and would bow the seam open" if fit.bows else ""
            fixes = []
            smaller = smaller_parts(catalogue, section, lamp)
            if smaller:
                fixes.append(Fix(f"The next smaller: {smaller[0].name}", _part(lamp.id, smaller[0].id)))
            saved = leads_mm(parts[lamp.part], lamp.bend_deg) - leads_mm(parts[lamp.part], 90.0)
            if saved > 0.1 and not fit.across:
                fixes.append(Fix("Bend its head 90° on its leads", _bend(lamp.id)))
            if parts[lamp.part].shape.domed and not lamp.sanded and not fit.across:
                fixes.append(Fix("Sand its dome flat", _sand(lamp.id)))
            found.append(
                Finding(
                    "does-not-fit", "stop", "fit", lamp.id, fit.clearance_mm,
                    f"{lamp.id} needs {fit.needed_mm:.1f} mm and has {fit.gap_mm:.1f}: {-fit.clearance_mm:.1f} mm too {'wide, however it is turned' if fit.across else 'thick'}{bow}. "
                    f"A notch {fit.notch_mm:.1f} mm deep would let it in.",
                    tuple(fixes),
                    better="more",
                )
            )  # fmt: skip
        most = most_filed_mm(parts[lamp.part], lamp.sanded)
        if lamp.filed_mm > most + 1e-9:
            left = (
                f"at most {most:.1f} mm may come off it{' with its dome gone' if lamp.sanded else ''}"
                if most > 0
                else "nothing may come off it"
            )
            found.append(
                Finding(
                    "filed-past-die", "stop", "fit", lamp.id, lamp.filed_mm - most,
                    f"{lamp.id} is filed {lamp.filed_mm:.1f} mm: that is into its die or the wire on it; {left}.",
                    (Fix(f"File {most:.1f} mm, no more" if most > 0 else "Leave it unfiled", _file(lamp.id, round(most, 2))),),
                )
            )  # fmt: skip
        if fit.too_long_mm > 0:
            found.append(
                Finding(
                    "too-long", "stop", "fit", lamp.id, fit.too_long_mm,
                    f"{lamp.id} is {body_mm(catalogue, lamp)[0]:.0f} mm long and sticks {fit.too_long_mm:.1f} mm out of its section.",
                    (Fix("One unit less", _shorter(lamp.id)),) if lamp.units > 1 else (),
                )
            )  # fmt: skip
    if len(lamps) > 1:
        at = np.array([p.at for p in lamps])
        half = np.array([half_sizes(catalogue, p) for p in lamps])
        near = (np.abs(at[:, None] - at[None]) < half[:, None] + half[None]).all(axis=2)
        for i, j in zip(*np.nonzero(np.triu(near, 1)), strict=True):
            if touch(catalogue, lamps[i], lamps[j]):
                words = f"{lamps[i].id} and {lamps[j].id} are in the same place."
                found.append(Finding("lamps-touch", "look", "fit", lamps[i].id, 0.0, words, also=(lamps[j].id,)))
    return tuple(found)


def _shorter(lamp_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, [lamp_id], units=max(lamp_of(plan, lamp_id).units - 1, 1))


def _part(lamp_id: str, part: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, [lamp_id], part=part, sanded=False, filed_mm=0.0)


def _bend(lamp_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, [lamp_id], bend_deg=90.0)


def _file(lamp_id: str, mm: float) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, [lamp_id], filed_mm=mm)


def _sand(lamp_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, [lamp_id], sanded=True)


def out_of_scale(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A lamp that is seen itself and would be a giant on the prototype."""
    usual = REAL_LIGHT_M[plan.kit.kind]
    parts, kinds = assessment.catalogue.lamps, {x.id: x.kind for x in plan.lights}
    for lamp in plan.lamps:
        if lamp.mount != "outside" or lamp.part not in parts:
            continue
        size = full_size_m(front_mm(assessment.catalogue, lamp), plan.kit.scale)
        kind = assessment.catalogue.light_kinds.get(kinds.get(lamp.light, ""))
        real, limit = (
            (kind.real_m, max(2.0 * kind.real_m, usual[1])) if kind is not None and kind.id != OTHER else usual
        )
        if size > limit:
            small = min((p for p in parts.values() if p.colour == parts[lamp.part].colour), key=lambda p: p.face_mm)
            fixes = (
                (Fix(f"{small.name}", _part(lamp.id, small.id)),)
                if lamp.lens is None and small.face_mm < parts[lamp.part].face_mm
                else ()
            )
            yield Finding(
                "out-of-scale", "look", "scale", lamp.id, size / real,
                f"{name_of(plan, lamp.id)} would be {figure(size, 2)} m across at full size; a real light is about {real:g} m.",
                fixes,
            )  # fmt: skip


def everything_lit(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """With every window lit, scale and belief are gone."""
    count = len(plan.openings)
    if count >= 12 and all(o.lit > 0 for o in plan.openings):
        yield Finding(
            "everything-lit", "look", "awake", "", float(count),
            f"All {count} windows are lit: a few dark ones make the rest look larger and lived in.",
            (Fix("Light six in ten, in clumps", lambda p: occupancy.fill(p, [o.id for o in p.openings])),),
        )  # fmt: skip


def same_on_both_sides(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """The same pattern to port and to starboard is never seen on a real one."""
    for section_id in occupancy.twin_sections(plan):
        name = section_of(plan, section_id).name
        yield Finding(
            "same-on-both-sides", "look", "awake", section_id, 0.0,
            f"{name} carries the same pattern of lit windows to port and to starboard.",
            (Fix("Another pattern to starboard", _other_pattern(section_id)),),
        )  # fmt: skip


def _other_pattern(section_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        ids = [o.id for o in plan.openings if o.section == section_id and o.side == "starboard"]
        lit = sum(o.lit > 0 for o in plan.openings if o.id in set(ids))
        for seed in range(2, 40):
            after = occupancy.fill(plan, ids, share=lit / max(len(ids), 1), seed=seed)
            if section_id not in occupancy.twin_sections(after):
                return after
        return plan

    return edit
