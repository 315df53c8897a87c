"""Lights that are to look like another: as bright, and of the same colour, within what an eye just notices."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gwiazda.core.assess.sight.likeness import LightAppearance, look_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.colour.likeness import NOTICED_SHARE, NOTICED_STEPS, brighter_by, colour_steps
from gwiazda.core.findings.electrics.circuit_rules import choose_resistor
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import lamp_of
from gwiazda.core.plan.model import Light, Plan, Wanted
from gwiazda.core.quantities import figure


def unlike(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A light that matches another, and looks otherwise."""
    by_id = {f.id: f for f in plan.lights}
    for f in plan.lights:
        other = by_id.get(f.matches)
        if other is None or other.id == f.id:
            continue
        mine, theirs = look_of(plan, assessment, f.id), look_of(plan, assessment, other.id)
        if mine is None or theirs is None or mine.kind != theirs.kind:
            continue
        share, steps = brighter_by(mine.mean, theirs.mean), colour_steps(mine.rgb, theirs.rgb)
        if share > NOTICED_SHARE:
            unit, k = ("cd/m²", 1.0) if mine.kind == "pane" else ("mcd", 1e3)
            word = "brighter" if mine.mean > theirs.mean else "dimmer"
            yield Finding(
                "unlike-brightness", "look", "look", mine.shown[0], share,
                f"{f.name} is to match {other.name}, and is {word}: {figure(mine.mean * k)} against {figure(theirs.mean * k)} {unit}. "
                f"A difference of {NOTICED_SHARE * 100:.0f} % is just noticed.",
                (Fix(f"As bright as {other.name}", _as_bright(assessment, mine, theirs)),),
                _share(plan, f, other),
            )  # fmt: skip
        if steps > NOTICED_STEPS:
            yield Finding(
                "unlike-colour", "look", "look", mine.shown[0], steps,
                f"{f.name} is to match {other.name}, and its colour is off by {figure(steps, 2)} steps; {NOTICED_STEPS:g} are just noticed.",
                _same_parts(plan, mine, theirs, other),
            )  # fmt: skip


def _share(plan: Plan, f: Light, other: Light) -> Callable[[Assessment], float]:
    def measure(after: Assessment) -> float:
        mine, theirs = look_of(plan, after, f.id), look_of(plan, after, other.id)
        return brighter_by(mine.mean, theirs.mean) if mine and theirs else 0.0

    return measure


def _as_bright(assessment: Assessment, mine: LightAppearance, theirs: LightAppearance) -> Callable[[Plan], Plan]:
    """The lamps asked for as much more or less light as it takes, and their resistors chosen again."""

    def edit(plan: Plan) -> Plan:
        ratio = theirs.mean / mine.mean
        for lamp_id in mine.lamps:
            state = assessment.lamps.get(lamp_id)
            if state is None:
                continue
            if mine.kind == "pane":
                wanted = Wanted(cd_m2=round(theirs.mean, 3))
            elif lamp_of(plan, lamp_id).mount == "outside":
                wanted = Wanted(mcd=max(round(state.axial_cd * ratio * 1e3, 4), 1e-3))
            else:
                wanted = Wanted(current_ma=max(round(state.current_a * ratio * 1e3, 4), 1e-3))
            plan = edits.set_wanted(plan, [lamp_id], wanted)
        return choose_resistor(mine.lamps)(plan)

    return edit


def _same_parts(plan: Plan, mine: LightAppearance, theirs: LightAppearance, other: Light) -> tuple[Fix, ...]:
    parts = {lamp_of(plan, i).part for i in theirs.lamps}
    if len(parts) != 1:
        return ()
    part = next(iter(parts))
    change = [i for i in mine.lamps if lamp_of(plan, i).part != part]
    if not change:
        return ()
    return (Fix(f"The same lamps as {other.name}", lambda plan: edits.set_fields(plan, change, part=part)),)


LIKENESS_RULES = (unlike,)
