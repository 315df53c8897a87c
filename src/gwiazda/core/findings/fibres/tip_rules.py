"""What is judged of the light at the tips of fibres."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

from gwiazda.core.assess.aims import REACHED_HIGH, REACHED_STOP
from gwiazda.core.assess.states import Assessment, TipState
from gwiazda.core.colour.tint import SMOKE
from gwiazda.core.findings.electrics.circuit_rules import choose_resistor
from gwiazda.core.findings.fibres.fibre_rules import more, with_bundle
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import with_fields
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import bundle_table, dot_of, lamp_of
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure

DIM = 0.67  # of what was wanted: the eye sees it at once beside another
TOO_BRIGHT = 1.5


def tips_off(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Tips too dim or too bright for what was wanted of them, lamp by lamp."""
    on: dict[str, list[TipState]] = {}
    for t in assessment.tips.values():
        if not t.creased:
            on.setdefault(t.lamp, []).append(t)
    for lamp_id, tips in on.items():
        dim = min(tips, key=lambda t: t.reached)
        if dim.reached < DIM:
            dot = dot_of(plan, dim.id)
            ids = tuple(t.id for t in tips if t.reached < DIM)
            yield Finding(
                "tip-dim", "stop" if dim.reached < REACHED_STOP else "look", "fibre", dim.id, dim.reached,
                f"{name_of(plan, dot.id)} gives {figure(dim.cd * 1e3, 2)} mcd of the {figure(dot.wanted_mcd, 2)} wanted.{more(len(ids))}",
                _brighter(plan, assessment, lamp_id, ids, dim) if lamp_id else (), _reached_of(dim.id), "× of what is wanted",
                better="more",
            )  # fmt: skip
        bright = max(tips, key=lambda t: t.reached)
        if bright.reached > TOO_BRIGHT:
            dot = dot_of(plan, bright.id)
            over = tuple(t.id for t in tips if t.reached > TOO_BRIGHT)
            least = min(t.reached for t in tips)
            fixes = []
            if lamp_id and least > REACHED_HIGH:
                fixes.append(Fix("Choose the lamp’s resistor again", choose_resistor((lamp_id,))))
            fixes.append(Fix("Smoke on the tips that are too bright", _smoked(assessment, over)))
            yield Finding(
                "tip-bright", "look", "fibre", bright.id, bright.reached,
                f"{name_of(plan, dot.id)} gives {figure(bright.cd * 1e3, 2)} mcd, {bright.reached:.1f} × what is wanted.{more(len(over))}",
                tuple(fixes), _reached_of(bright.id), "× of what is wanted",
            )  # fmt: skip


def _reached_of(dot_id: str) -> Callable[[Assessment], float]:
    return lambda assessment: assessment.tips[dot_id].reached if dot_id in assessment.tips else 0.0


def _smoked(assessment: Assessment, ids: tuple[str, ...]) -> Callable[[Plan], Plan]:
    """As many coats of smoke on each as bring it nearest to what is wanted."""
    coats = {i: round(math.log(assessment.tips[i].reached) / -math.log(SMOKE)) for i in ids}

    def edit(plan: Plan) -> Plan:
        for i in ids:
            dot = dot_of(plan, i)
            plan = edits.set_fields(plan, [i], smoke=min(max(dot.smoke + max(coats[i], 1), 0), 8))
        return plan

    return edit


def _brighter(plan: Plan, assessment: Assessment, lamp_id: str, ids: tuple[str, ...], dim: TipState) -> tuple[Fix, ...]:
    lamp, bundle = lamp_of(plan, lamp_id), bundle_table(plan.bundles).get(lamp_id)
    state = assessment.lamps[lamp_id]
    fixes = []
    if state.share < 0.9 * min(state.wanted_share, 1.0) and (lamp.resistor_ohm is not None or not assessment.branches[state.branch].chosen):  # fmt: skip
        fixes.append(Fix("Choose the lamp’s resistor again", choose_resistor((lamp_id,))))
    smoked = [i for i in ids if dot_of(plan, i).smoke]
    if smoked:
        fixes.append(Fix("Take the smoke off", with_fields(tuple(smoked), smoke=0)))
    if bundle is None or bundle.ends == "cut":
        fixes.append(Fix("Polish the ends", with_bundle(lamp_id, ends="polished")))
    if bundle is not None and bundle.joined == "sleeve":
        fixes.append(Fix("Butt the bundle to the lamp’s face", with_bundle(lamp_id, joined="butted")))
    thicker = _thicker(assessment.catalogue, plan, dim.id)
    if thicker is not None:
        fixes.append(Fix(f"{thicker[1]}", with_fields(ids, fibre=thicker[0])))
    part = assessment.catalogue.lamps[lamp.part]
    brighter = [
        p for p in assessment.catalogue.lamps.values()
        if p.form == part.form and p.colour == part.colour and p.face_mm == part.face_mm and p.axial_mcd > part.axial_mcd
    ]  # fmt: skip
    if brighter:
        best = max(brighter, key=lambda p: p.axial_mcd)
        fixes.append(Fix(best.name, with_fields((lamp_id,), part=best.id)))
    return tuple(fixes)


def _thicker(catalogue: Catalogue, plan: Plan, dot_id: str) -> tuple[str, str] | None:
    """The next thicker fibre, where the hole can be drilled for it."""
    dot = dot_of(plan, dot_id)
    if dot.hole == "given":
        return None
    own = catalogue.fibres[dot.fibre]
    above = [f for f in catalogue.fibres.values() if f.tint == own.tint and f.diameter_mm > own.diameter_mm + 1e-9]
    best = min(above, key=lambda f: f.diameter_mm, default=None)
    return (best.id, best.name) if best is not None else None


TIP_RULES = (tips_off,)
