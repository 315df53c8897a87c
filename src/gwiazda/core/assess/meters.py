"""The figures under the plate: what decides whether the build succeeds, each with its limit, state and band."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING, NamedTuple

from gwiazda.core.assess.aims import EVENNESS_AIM, EVENNESS_STOP, coats_words, leak_state, reached_state
from gwiazda.core.assess.optics.leaks import place_name
from gwiazda.core.assess.sight.dark import dark_panes
from gwiazda.core.assess.states import (
    BranchState,
    EffectState,
    LampState,
    LoomState,
    Meter,
    SectionState,
    State,
    SupplyState,
    TipState,
)
from gwiazda.core.assess.uncertainty import band, draw_sigma, point_sigma
from gwiazda.core.loom.routes import LIMIT as FILL_LIMIT
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.spreads import CAPACITY, COUPLED
from gwiazda.core.plan.lookup import item_of
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure, format_hours

if TYPE_CHECKING:
    from gwiazda.core.assess.optics.lighting import Lighting

BY_MEASURE = "it follows from what was measured"
LONG_H = 24.0  # a run time that fills its meter


class Assessed(NamedTuple):
    """What the figures are taken from."""

    feeds: Mapping[str, SupplyState]
    branches: Mapping[str, BranchState]
    light: Lighting
    lamps: Mapping[str, LampState]
    tips: Mapping[str, TipState]
    loom: LoomState
    effects: EffectState


def meters_of(catalogue: Catalogue, plan: Plan, assessed: Assessed) -> tuple[Meter, ...]:
    """The figures of a plan, of its worst feed, section or place each."""
    feeds, branches, light, lamps, tips, loom, _ = assessed
    names = {s.id: s.name for s in plan.sections}
    return (
        _draw(assessed),
        _run_time(feeds, {f: draw_sigma(branches, lamps, f) for f in feeds}),
        _evenness(light.sections, names),
        _leak(catalogue, light, plan),
        _reached(catalogue, light.sections, lamps, tips, plan),
        _passage(loom, plan),
    )


def _leak(catalogue: Catalogue, light: Lighting, plan: Plan) -> Meter:
    """The worst of what shows and isn't meant to: of walls and seams, and of panes that are meant dark."""
    if not any(s.lamps for s in light.sections.values()):
        return Meter("leak", "Worst leak", None, "–", "", "no lamp inside yet", "fine", None)
    dark = dark_panes(catalogue, plan, light.openings)
    pane = max(dark, key=dark.__getitem__, default="")
    if pane and dark[pane] >= max(1.0, light.leaks[0].times if light.leaks else 0.0):
        times, section = dark[pane], item_of(plan.openings, pane, "opening").section
        name = item_of(plan.sections, section, "section").name
        return Meter("leak", "Worst leak", times, figure(times, 2), "× visible limit", f"{name}, dark pane", leak_state(times), times, pane)  # fmt: skip
    if not light.leaks:
        return Meter("leak", "Worst leak", 0.0, "0", "× visible limit", "nothing comes near", "fine", 0.0)
    worst = light.leaks[0]
    coats = coats_words(worst)
    text = f"{worst.times:.0f}" if worst.times >= 10 else f"{worst.times:.1f}"
    note = place_name(plan, worst) + (f", {coats}" if coats else "")
    low = worst.times * worst.times / max(worst.safe_times, 1e-12)
    return Meter(
        "leak", "Worst leak", worst.times, text, "× visible limit", note, leak_state(worst.times, worst.safe_times), worst.times,
        worst.subject, (low, worst.safe_times), f"{figure(low, 2)} to {figure(worst.safe_times, 2)} ×",
    )  # fmt: skip


def _passage(loom: LoomState, plan: Plan) -> Meter:
    if not loom.passages:
        return Meter("passage", "Fullest passage", None, "–", "", "no passage yet", "fine", None)
    worst = max(loom.passages.values(), key=lambda p: p.fill)
    name = next((p.name for p in plan.passages if p.id == worst.id), "") or worst.id
    state: State = "fine"
    if worst.full:
        state = "stop" if not worst.fits else "look"
    elif worst.fill > worst.comfortable:
        state = "look"
    count = len(worst.runs)
    return Meter(
        "passage", "Fullest passage", worst.fill * 100, figure(worst.fill * 100, 3), "% full",
        f"{name}, {count} {'wire' if count == 1 else 'wires'}", state, worst.fill / FILL_LIMIT, worst.id, None, BY_MEASURE,
    )  # fmt: skip


def _draw(assessed: Assessed) -> Meter:
    """What flows at most at once: all of it, or the peak of the show where channels move."""
    feeds, effects = assessed.feeds, assessed.effects
    most = {f: effects.feeds[f].peak_a for f in feeds}
    supply = max(feeds.values(), key=lambda s: most[s.feed] / s.limit_a if s.limit_a else 0.0)
    used = most[supply.feed] / supply.limit_a if supply.limit_a else 0.0
    state: State = "fine" if used <= 1.0 else ("look" if used <= 1.5 else "stop")
    if supply.is_battery:
        note = f"strong drain above {supply.limit_a * 1e3:.0f} mA"
    else:
        note = f"adapter gives {supply.limit_a * 1e3:.0f}" if supply.limit_a else "no supply"
    total = sum(most.values())
    if total <= 0.0:
        return Meter("draw", "Current used", None, "–", "", "nothing drawn yet", "fine", None, "supply")
    if effects.moves:
        note = f"at most, mean {figure(sum(e.mean_a for e in effects.feeds.values()) * 1e3)}"
    elif len(feeds) > 1:
        note = f"{supply.name}: {figure(most[supply.feed] * 1e3)}"
    sigma = draw_sigma(assessed.branches, assessed.lamps, supply.feed)
    low, high = band(used, sigma)
    return Meter(
        "draw", "Current used", total * 1e3, figure(total * 1e3), "mA", note, state, used, "supply", (low, high),
        f"{supply.name}: {figure(most[supply.feed] * 1e3 * low / used)} to {figure(most[supply.feed] * 1e3 * high / used)} mA" if used > 0 else "",
    )  # fmt: skip


def _run_time(feeds: Mapping[str, SupplyState], strays: Mapping[str, float]) -> Meter:
    batteries = [s for s in feeds.values() if s.is_battery]
    if not batteries:
        return Meter("run_time", "Run time", None, "no limit", "", "from an adapter", "fine", 1.0, "supply")
    supply = min(batteries, key=lambda s: s.hours)
    if math.isinf(supply.hours):
        return Meter("run_time", "Run time", None, "–", "", "nothing drawn yet", "fine", None, "supply")
    text, _, unit = format_hours(supply.hours).partition(" ")
    state: State = "fine" if supply.hours >= 4 else ("look" if supply.hours >= 1 else "stop")
    note = f"{supply.first_out} fades first" if supply.first_out else f"to {supply.ends}"
    low, high = band(supply.hours, math.hypot(CAPACITY, strays[supply.feed]))
    return Meter(
        "run_time", "Run time", supply.hours, text, unit, note, state, supply.hours / LONG_H, "supply",
        (low / LONG_H, high / LONG_H), f"{format_hours(low)} to {format_hours(high)}",
    )  # fmt: skip


def _evenness(sections: Mapping[str, SectionState], names: Mapping[str, str]) -> Meter:
    known = [s for s in sections.values() if s.evenness is not None]
    if not known:
        return Meter("evenness", "Evenness", None, "–", "", "no lit row yet", "fine", None)
    worst = min(known, key=lambda s: s.evenness or 0.0)
    value = worst.evenness or 0.0
    state: State = "fine" if value >= EVENNESS_AIM else ("look" if value >= EVENNESS_STOP else "stop")
    note = f"{names.get(worst.id, worst.id)}, aim {EVENNESS_AIM:.2f}"
    return Meter(
        "evenness",
        "Evenness",
        value,
        f"{value:.2f}",
        "of average",
        note,
        state,
        value,
        worst.darkest or worst.id,
        (worst.evenness_low, worst.evenness_high),
        f"{worst.evenness_low:.2f} to {worst.evenness_high:.2f}",
    )


def _reached(
    catalogue: Catalogue, sections: Mapping[str, SectionState], lamps: Mapping[str, LampState], tips: Mapping[str, TipState],
    plan: Plan,
) -> Meter:  # fmt: skip
    """Reached over wanted, of the section, outside lamp or fibre's tip that is furthest off."""
    ratios: dict[str, tuple[float, float, float]] = {}
    for s in sections.values():
        if s.wanted_cd_m2 > 0 and s.lit:
            ratios[s.id] = (s.mean_cd_m2 / s.wanted_cd_m2, s.sigma, s.lean)
    ends = {t.lamp for t in tips.values()}
    for tip in tips.values():
        if tip.creased or not tip.lamp:
            continue  # dark for good, or free light: that is found, and no resistor mends it
        lamp = lamps[tip.lamp]
        ratios[tip.id] = (tip.reached, math.hypot(COUPLED, point_sigma(catalogue, lamp)), 0.0)
    for lamp in lamps.values():
        if lamp.section is None and lamp.wanted_share > 0 and lamp.id not in ends:
            ratios[lamp.id] = (lamp.share / lamp.wanted_share, point_sigma(catalogue, lamp), 0.0)
    if not ratios:
        return Meter("reached", "Brightness", None, "–", "", "no lamps yet", "fine", None)
    worst = max(ratios, key=lambda i: abs(math.log(max(ratios[i][0], 1e-6))))
    value, sigma, lean = ratios[worst]
    low, high = band(value, sigma, lean)
    return Meter(
        "reached", "Brightness", value, f"{value * 100:.0f}", "% of wanted", f"worst: {name_of(plan, worst)}", reached_state(value),
        value, worst, (low, high), f"{low * 100:.0f} to {high * 100:.0f} %",
    )  # fmt: skip
