"""Parts from the drawer in place of one that lacks, each with what it changes: the whole plan assessed with it."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import NamedTuple

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.states import Assessment, State
from gwiazda.core.plan.edits import set_resistor
from gwiazda.core.plan.model import Plan, copy_unchecked
from gwiazda.core.quantities import format_resistance

MOST = 4  # tried at the most: each is a whole assessment


class Substitute(NamedTuple):
    """A lamp that may take another's place: its light as a share of the other's, all of it over the lamps concerned, and what the whole draws more (A)."""

    part: str
    name: str
    light: float
    more_a: float
    same_form: bool


def with_part(part: str, other: str) -> Callable[[Plan], Plan]:
    """An edit: every lamp of one part becomes one of another."""
    return lambda plan: copy_unchecked(
        plan, lamps=tuple(copy_unchecked(p, part=other) if p.part == part else p for p in plan.lamps)
    )


def substitutes(plan: Plan, assessment: Assessment, part: str, candidates: Sequence[str]) -> tuple[Substitute, ...]:
    """Lamps of the same colour among ``candidates`` (parts that are at hand in number), those of the same form and the nearest light first.

    Bodies of several colours and strips are left out: another one isn't put in their place one for one.
    """
    lamps = assessment.catalogue.lamps
    old = lamps.get(part)
    mine = [p.id for p in plan.lamps if p.part == part]
    if old is None or old.body or old.shape.in_units or not mine:
        return ()
    fit = [lamps[c] for c in candidates if c != part and c in lamps and lamps[c].colour == old.colour and not lamps[c].body
           and not lamps[c].shape.in_units]  # fmt: skip
    fit.sort(key=lambda p: (p.form != old.form, abs(p.size_mm[0] - old.size_mm[0]), p.id))
    before = sum(assessment.lamps[i].flux_lm for i in mine if i in assessment.lamps)
    draw = sum(s.draw_a for s in assessment.feeds.values())
    out = []
    for new in fit[:MOST]:
        tried = assess(with_part(part, new.id)(plan), assessment.catalogue)
        after = sum(tried.lamps[i].flux_lm for i in mine if i in tried.lamps)
        more = sum(s.draw_a for s in tried.feeds.values()) - draw
        out.append(Substitute(new.id, new.name, after / before if before > 0 else 0.0, more, new.form == old.form))
    return tuple(sorted(out, key=lambda s: (not s.same_form, abs(s.light - 1.0))))


class Swap(NamedTuple):
    """A part of another kind than a lamp that may take another's place: its name, what it changes in words, whether that is "fine", to be
    looked at, or wrong ("stop"), and the edit that does it."""

    part: str
    name: str
    outcome: str
    state: State
    edit: Callable[[Plan], Plan]


NEAR = 4.0  # times a resistor's value: beyond, it is another lamp current altogether
FINE_LIGHT = (0.7, 1.5)


def swaps(plan: Plan, assessment: Assessment, kind: str, part: str, candidates: Sequence[str]) -> tuple[Swap, ...]:
    """What of ``candidates`` (parts that are at hand in number) serves instead of a resistor, fibre or wire; ``part`` is a value in Ω for
    resistors. Those that change least first."""
    if kind == "resistor":
        return _resistors(plan, assessment, float(part), [float(c) for c in candidates])
    if kind == "fibre":
        return _fibres(plan, assessment, part, candidates)
    return _wires(plan, assessment, part, candidates) if kind == "wire" else ()


def _resistors(plan: Plan, assessment: Assessment, ohm: float, held: Sequence[float]) -> tuple[Swap, ...]:
    branches = [r for r in assessment.branches.values() if abs(r.resistor_ohm - ohm) < 1e-6 * ohm]
    lamps = [i for r in branches for i in r.lamps]
    before = sum(assessment.lamps[i].flux_lm for i in lamps)
    if not lamps or before <= 0:
        return ()
    near = sorted((v for v in held if v != ohm and ohm / NEAR <= v <= ohm * NEAR), key=lambda v: abs(math.log(v / ohm)))
    out = []
    for value in near[:MOST]:

        def edit(plan: Plan, value: float = value) -> Plan:
            return set_resistor(plan, lamps, value)

        tried = assess(edit(plan), assessment.catalogue)
        light = sum(tried.lamps[i].flux_lm for i in lamps) / before
        over = [i for i in lamps if tried.lamps[i].fresh_a > tried.lamps[i].rated_a * 1.001]
        words = f"{light:.2g} × light"
        state: State = "fine" if FINE_LIGHT[0] <= light <= FINE_LIGHT[1] else "look"
        if over:
            words, state = f"{words}, over {over[0]}’s rating", "stop"
        out.append(Swap(f"{value:g}", format_resistance(value), words, state, edit))
    return tuple(out)


def _fibres(plan: Plan, assessment: Assessment, part: str, held: Sequence[str]) -> tuple[Swap, ...]:
    mine = [d.id for d in plan.dots if d.fibre == part and d.id in assessment.tips]
    fibres = assessment.catalogue.fibres
    if part not in fibres or not mine:
        return ()
    old = fibres[part].diameter_mm
    before = sum(assessment.tips[i].cd for i in mine)
    out = []
    near = sorted(
        (c for c in held if c in fibres and c != part), key=lambda c: abs(math.log(fibres[c].diameter_mm / old))
    )
    for other in near[:MOST]:

        def edit(plan: Plan, other: str = other) -> Plan:
            return copy_unchecked(
                plan, dots=tuple(copy_unchecked(d, fibre=other) if d.fibre == part else d for d in plan.dots)
            )

        tried = assess(edit(plan), assessment.catalogue)
        light = sum(tried.tips[i].cd for i in mine if i in tried.tips) / before if before > 0 else 0.0
        full = [b for b in tried.bundles.values() if not b.fits]
        words = f"{light:.2g} × light, other holes"
        state: State = "fine" if FINE_LIGHT[0] <= light <= FINE_LIGHT[1] else "look"
        if full:
            words, state = f"{words}, no room on {full[0].lamp}", "stop"
        out.append(Swap(other, fibres[other].name, words, state, edit))
    return tuple(out)


def _wires(plan: Plan, assessment: Assessment, part: str, held: Sequence[str]) -> tuple[Swap, ...]:
    wires = assessment.catalogue.wires
    if part not in wires:
        return ()
    near = sorted(
        (c for c in held if c in wires and c != part), key=lambda c: abs(wires[c].outside_mm - wires[part].outside_mm)
    )
    out = []
    for other in near[:MOST]:

        def edit(plan: Plan, other: str = other) -> Plan:
            loom = copy_unchecked(plan.loom, wire=other) if plan.loom.wire == part else plan.loom
            leads = tuple(copy_unchecked(x, wire=other) if x.wire == part else x for x in plan.leads)
            return copy_unchecked(plan, loom=loom, leads=leads)

        tried = assess(edit(plan), assessment.catalogue)
        fill = max((p.fill for p in tried.loom.passages.values()), default=0.0)
        full = [p.id for p in tried.loom.passages.values() if p.full]
        hot = [r.id for r in tried.loom.runs.values() if r.kind != "fibre" and r.limit_a and r.current_a > r.limit_a]
        words = f"tightest way {fill * 100:.0f} % full"
        state: State = "fine"
        if hot:
            words, state = f"too thin for {hot[0]}", "stop"
        elif full:
            state = "look" if any(p.full for p in assessment.loom.passages.values()) else "stop"
        out.append(Swap(other, wires[other].name, words, state, edit))
    return tuple(out)
