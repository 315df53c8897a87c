"""The figures under the plate: what decides whether the build succeeds, each with its limit and state."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

from gwiazda.core.assess.leaks import place_name
from gwiazda.core.assess.states import LampState, Meter, SectionState, State, SupplyState
from gwiazda.core.plan.models import Plan
from gwiazda.core.quantities import format_hours

if TYPE_CHECKING:
    from gwiazda.core.assess.lighting import Light

EVENNESS_AIM, EVENNESS_STOP = 0.50, 0.25
REACHED_LOW, REACHED_HIGH, REACHED_STOP = 0.8, 1.25, 0.3


def reached_state(ratio: float) -> State:
    """How far reached brightness may be from the wanted one: a fifth, which the eye hardly notices."""
    if REACHED_LOW <= ratio <= REACHED_HIGH:
        return "fine"
    return "stop" if ratio < REACHED_STOP else "look"


def meters_of(supply: SupplyState, light: Light, lamps: Mapping[str, LampState], plan: Plan) -> tuple[Meter, ...]:
    names = {s.id: s.name for s in plan.sections}
    return (
        _draw(supply),
        _run_time(supply),
        _evenness(light.sections, names),
        _leak(light, plan),
        _reached(light.sections, lamps, names),
    )


LEAK_STOP = 10.0  # times what is seen: nobody could miss it


def leak_state(times: float) -> State:
    """From 1 on a leak shows."""
    return "fine" if times < 1.0 else ("look" if times < LEAK_STOP else "stop")


def _leak(light: Light, plan: Plan) -> Meter:
    if not any(s.lamps for s in light.sections.values()):
        return Meter("leak", "Worst leak", None, "–", "", "no lamp inside yet", "fine", 0.0)
    if not light.leaks:
        return Meter("leak", "Worst leak", 0.0, "0", "× seen", "nothing comes near", "fine", 0.04)
    worst = light.leaks[0]
    coats = f", +{worst.coats} coat{'s' if worst.coats > 1 else ''}" if worst.coats else ""
    text = f"{worst.times:.0f}" if worst.times >= 10 else f"{worst.times:.1f}"
    return Meter(
        "leak", "Worst leak", worst.times, text, "× seen", place_name(plan, worst) + coats, leak_state(worst.times),
        min(worst.times / 2.0, 1.0), worst.subject,
    )  # fmt: skip


def _draw(supply: SupplyState) -> Meter:
    used = supply.draw_a / supply.limit_a if supply.limit_a else 0.0
    state: State = "fine" if used <= 1.0 else ("look" if used <= 1.5 else "stop")
    if supply.is_battery:
        note = f"cells lose half at {supply.limit_a * 1e3:.0f} mA"
    else:
        note = f"adapter gives {supply.limit_a * 1e3:.0f}" if supply.limit_a else "no supply"
    draw_ma = supply.draw_a * 1e3
    text = f"{draw_ma:.0f}" if draw_ma >= 10 else f"{draw_ma:.2g}"
    return Meter("draw", "Draw", draw_ma, text, "mA", note, state, min(used, 1.0), "supply")


def _run_time(supply: SupplyState) -> Meter:
    if not supply.is_battery:
        return Meter("run_time", "Run time", None, "steady", "", "from an adapter", "fine", 1.0, "supply")
    if math.isinf(supply.hours):
        return Meter("run_time", "Run time", None, "–", "", "nothing drawn yet", "fine", 0.0, "supply")
    text, _, unit = format_hours(supply.hours).partition(" ")
    state: State = "fine" if supply.hours >= 4 else ("look" if supply.hours >= 1 else "stop")
    note = f"{supply.first_out} goes first" if supply.first_out else f"to {supply.ends}"
    return Meter("run_time", "Run time", supply.hours, text, unit, note, state, min(supply.hours / 24, 1.0), "supply")


def _evenness(sections: Mapping[str, SectionState], names: Mapping[str, str]) -> Meter:
    known = [s for s in sections.values() if s.evenness is not None]
    if not known:
        return Meter("evenness", "Evenness", None, "–", "", "no lit row yet", "fine", 0.0)
    worst = min(known, key=lambda s: s.evenness or 0.0)
    value = worst.evenness or 0.0
    state: State = "fine" if value >= EVENNESS_AIM else ("look" if value >= EVENNESS_STOP else "stop")
    note = f"{names.get(worst.id, worst.id)}, aim {EVENNESS_AIM:.2f}"
    return Meter(
        "evenness",
        "Evenness",
        value,
        f"{value:.2f}",
        "min/avg",
        note,
        state,
        value,
        worst.darkest or worst.id,
    )


def _reached(sections: Mapping[str, SectionState], lamps: Mapping[str, LampState], names: Mapping[str, str]) -> Meter:
    """Reached over wanted, of the section or outside lamp that is furthest off."""
    ratios: dict[str, tuple[float, str]] = {}
    for s in sections.values():
        if s.wanted_cd_m2 > 0:
            ratios[s.id] = (s.mean_cd_m2 / s.wanted_cd_m2, names.get(s.id, s.id))
    for lamp in lamps.values():
        if lamp.section is None and lamp.wanted_share > 0:
            ratios[lamp.id] = (lamp.share / lamp.wanted_share, lamp.id)
    if not ratios:
        return Meter("reached", "Reached", None, "–", "", "no lamps yet", "fine", 0.0)
    worst = max(ratios, key=lambda i: abs(math.log(max(ratios[i][0], 1e-6))))
    value, name = ratios[worst]
    return Meter(
        "reached", "Reached", value, f"{value * 100:.0f}", "% of wanted", f"furthest off: {name}",
        reached_state(value), min(value, 1.0), worst,
    )  # fmt: skip
