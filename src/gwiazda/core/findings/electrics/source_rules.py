"""What is judged of sources and regulators: what they bear, hold and lose, and how warm it gets."""

from __future__ import annotations

from collections.abc import Iterator

from gwiazda.core.assess.bodies.hatches import with_hatch_over
from gwiazda.core.assess.heat import heat_of, homes_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import Edit, most_a, with_part, with_source
from gwiazda.core.parts.electrics import LoadPart
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import circuit_part, item_of, section_of
from gwiazda.core.plan.model import (
    Load,
    Plan,
    Regulated,
    Switched,
    parts_in,
)
from gwiazda.core.plan.naming import and_others, name_of
from gwiazda.core.power.heat import AIR_LIMIT_C, JUNCTION_LIMIT_C
from gwiazda.core.quantities import figure, format_current

LIGHT_LOAD = 1.1  # times the nominal voltage


def overloaded(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """More drawn than a source should give."""
    for feed in plan.feeds:
        supply, part = assessment.feeds[feed.id], assessment.catalogue.sources.get(feed.supply.part)
        if part is None or not supply.limit_a or supply.draw_a <= supply.limit_a:
            continue
        larger = sorted(
            (s for s in assessment.catalogue.sources.values()
             if s.rated_a * s.use_share >= supply.draw_a and abs(s.nominal_v - supply.nominal_v) < 0.5),
            key=lambda s: s.rated_a,
        )  # fmt: skip
        fixes = [
            Fix(s.name, with_source(feed.id, part=s.id, in_series=1, in_parallel=1, volts=None)) for s in larger[:1]
        ]
        if supply.is_battery:
            fixes.append(
                Fix("Another set of cells beside it", with_source(feed.id, in_parallel=feed.supply.in_parallel + 1))
            )
        what = "loses half its capacity at that rate" if supply.is_battery else "should give"
        limit = format_current(supply.limit_a)
        yield Finding(
            "overloaded", "stop" if supply.draw_a > 1.5 * supply.limit_a else "look", "supply", feed.id,
            supply.draw_a / supply.limit_a,
            f"The model draws {format_current(supply.draw_a)}; {supply.name} "
            + (f"{what} ({limit})." if supply.is_battery else f"{what} {limit} at most."),
            tuple(fixes),
        )  # fmt: skip


def regulator_headroom(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A regulator that has too little to spare, now or when the cells are low: it lets the light follow the source."""
    for part in assessment.parts.values():
        if part.kind != "regulator":
            continue
        node, kind = circuit_part(plan, part.id), assessment.catalogue.regulators[part.part]
        assert isinstance(node, Regulated)
        supply = assessment.feeds[part.feed]
        lost = supply.nominal_v - part.in_v
        last = float(supply.curve_terminal_v[-1]) - max(lost, 0.0) if len(supply.curve_terminal_v) else part.in_v
        spare, at_last = part.in_v - node.volts, last - node.volts
        if at_last >= kind.dropout_v - 1e-6:
            continue
        low = assessment.catalogue.regulators["regulator-low-drop"]
        fixes = []
        if kind.dropout_v > low.dropout_v and most_a(part) <= low.limit_a:
            fixes.append(Fix(low.name, with_part(part.id, part=low.id)))
        if spare < kind.dropout_v:
            words = (
                f"{name_of(plan, part.id)} is to hold {figure(node.volts)} V and gets {figure(part.in_v)}: it needs {figure(kind.dropout_v)} V to spare, "
                f"and gives {figure(part.volts)}."
            )
        else:
            words = (
                f"{name_of(plan, part.id)} holds {figure(node.volts)} V until the cells are down to {figure(node.volts + kind.dropout_v + max(lost, 0.0))} V; "
                "from there on the light goes down with them."
            )
        stop = spare < kind.dropout_v - 0.05
        yield Finding(
            "regulator-headroom",
            "stop" if stop else "look",
            "supply",
            part.id,
            spare,
            words,
            tuple(fixes),
            better="more",
        )


def hot_regulator(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A regulator over 100 °C inside, or over its current."""
    for one in heat_of(plan, assessment).regulators:
        part = assessment.parts[one.id]
        if one.junction_c >= JUNCTION_LIMIT_C:
            where = f" in {section_of(plan, one.home).name}" if one.home else ""
            fixes = [Fix("Into the base", with_part(one.id, home=""))] if one.home else []
            if assessment.catalogue.regulators[part.part].theta_k_w > 65:
                fixes.append(Fix("One with a large body", with_part(one.id, part="regulator-classic")))
            yield Finding(
                "hot-regulator", "stop", "supply", one.id, one.junction_c,
                f"{name_of(plan, one.id)} loses {figure(one.watt)} W{where}: about {one.junction_c:.0f} °C inside it, and {JUNCTION_LIMIT_C:.0f} is where "
                "to stop. A source nearer its voltage loses less.",
                tuple(fixes),
            )  # fmt: skip
        if most_a(part) > part.limit_a:
            yield Finding(
                "overloaded-regulator", "stop", "wiring", one.id, most_a(part) / part.limit_a,
                f"{name_of(plan, one.id)} gives {format_current(most_a(part))} and bears {format_current(part.limit_a)}.",
                (Fix("A classic one with a large body", with_part(one.id, part="regulator-classic")),),
            )  # fmt: skip


def warm_section(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Air of 50 °C or more in a closed section."""
    for s in heat_of(plan, assessment).sections:
        if s.air_c < AIR_LIMIT_C:
            continue
        moved = [x.id for x, home in homes_of(plan.feeds) if isinstance(x, Regulated) and home == s.id]
        fixes = tuple(Fix(f"{i} into the base", with_part(i, home="")) for i in moved)
        yield Finding(
            "warm-section", "stop", "supply", s.id, s.air_c,
            f"{section_of(plan, s.id).name}: {figure(s.watt)} W in a closed box brings its air to about {s.air_c:.0f} °C; under "
            f"{AIR_LIMIT_C:.0f} is safe for plastic. Leave it an opening, or move what is warm.",
            fixes,
        )  # fmt: skip


def cells_sealed_in(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Cells in a section that is glued shut, with no way to change them; lithium ones in any closed section."""
    for feed in plan.feeds:
        part = assessment.catalogue.sources.get(feed.supply.part)
        if not feed.home or part is None or part.kind != "battery":
            continue
        home = section_of(plan, feed.home)
        sealed = home.closure.sealed
        lithium = part.id.startswith("li-ion")
        if sealed or lithium:
            why = "and are never sealed in" if lithium else "and can’t be changed without breaking it open"
            yield Finding(
                "sealed-cells", "stop" if sealed else "look", "supply", feed.id, 0.0,
                f"{part.name}: the cells sit in {home.name}, {'closed for good, ' if sealed else ''}{why}.",
                (
                    *((Fix("A hatch underneath, over the cells", lambda p, h=home.id, f=feed.id: with_hatch_over(p, h, f)),) if sealed and any(o.of == feed.id for o in home.obstacles) else ()),  # type: ignore[misc]
                    Fix("Into the base", lambda p, f=feed.id: edits.set_feed(p, f, home="")),  # type: ignore[misc]
                ),
            )  # fmt: skip


def unregulated_light_load(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """An unregulated adapter that so little hangs on that its voltage is far over its name."""
    for feed in plan.feeds:
        source, supply = assessment.catalogue.sources.get(feed.supply.part), assessment.feeds[feed.id]
        if source is None or source.kind != "unregulated" or supply.draw_a <= 0:
            continue
        if supply.terminal_v <= LIGHT_LOAD * source.nominal_v:
            continue
        like = [
            s
            for s in assessment.catalogue.sources.values()
            if s.kind == "regulated" and s.nominal_v == source.nominal_v
        ]
        fixes = tuple(
            Fix(s.name, lambda p, f=feed.id, i=s.id: edits.set_supply(p, f, part=i, volts=None))  # type: ignore[misc]
            for s in like[:1]
        )
        yield Finding(
            "unregulated", "look", "supply", feed.id, supply.terminal_v / source.nominal_v,
            f"{source.name}: so lightly loaded it gives {figure(supply.terminal_v, 3)} V, and the light hangs on what else is on it.",
            fixes,
        )  # fmt: skip


def alternating(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """What isn't made for alternating current on a transformer: lamps light half the time and break down backwards, boards burn."""
    catalogue = assessment.catalogue
    for feed in plan.feeds:
        source = catalogue.sources.get(feed.supply.part)
        if source is None or source.kind != "ac":
            continue
        own = [p for p in plan.lamps if (state := assessment.lamps.get(p.id)) is not None and state.feed == feed.id]
        wrong = [p.id for p in own if p.part in catalogue.lamps and not catalogue.lamps[p.part].rectified]
        others = [
            x.id
            for item in (*feed.head, *feed.items)
            for x in parts_in(item)
            if isinstance(x, (Load, Regulated, Switched))
        ]
        if not wrong and not others:
            continue
        steady = min(
            (s for s in catalogue.sources.values() if s.kind == "regulated" and not s.adjustable and s.rated_a * s.use_share >= assessment.feeds[feed.id].draw_a),
            key=lambda s: (abs(s.nominal_v - 12.0), s.rated_a),
        )  # fmt: skip
        yield Finding(
            "alternating", "stop", "supply", feed.id, float(len(wrong) + len(others)),
            f"{source.name} gives alternating current, and {and_others(plan, [*wrong, *others], '')} {'is' if len(wrong) + len(others) == 1 else 'are'} not made for it: "
            "only lamps with a rectifier in their leads are.",
            (Fix(f"{steady.name} instead", with_source(feed.id, part=steady.id, in_series=1, in_parallel=1, volts=None)),),
        )  # fmt: skip


def coin_cell(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A coin cell asked for more than a test."""
    for feed in plan.feeds:
        source, supply = assessment.catalogue.sources.get(feed.supply.part), assessment.feeds[feed.id]
        if source is None or not source.id.startswith("coin") or supply.draw_a <= 0.4 * supply.limit_a:
            continue
        yield Finding(
            "coin-cell", "look", "supply", feed.id, supply.draw_a / supply.limit_a,
            f"A coin cell gives {format_current(supply.draw_a)} for a test, not for evenings. Keep it away from children.",
            (Fix("Two AA cells", lambda p, f=feed.id: edits.set_supply(p, f, part="aa-alkaline", in_series=2, in_parallel=1)),),  # type: ignore[misc]
        )  # fmt: skip


def start_up_a(load: LoadPart, volts: float) -> float:
    """What a motor takes from a rail (A) at the moment it starts: its winding alone."""
    return volts * load.stall_a / load.volts


def motor_start(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A motor whose start its source or output can't bear."""
    for part in assessment.parts.values():
        load = assessment.catalogue.loads.get(part.part) if part.kind == "load" else None
        if load is None or load.kind != "motor" or part.volts <= 0:
            continue
        start, supply = start_up_a(load, part.volts), assessment.feeds[part.feed]
        source = item_of(plan.feeds, part.feed, "feed").supply
        rated = (
            assessment.catalogue.sources[source.part].rated_a if source.part in assessment.catalogue.sources else 0.0
        )
        limit = rated or 2.0 * supply.limit_a
        total = supply.draw_a - part.current_a + start
        if total > limit:
            yield Finding(
                "motor-start", "look", "supply", part.id, total / limit,
                f"{name_of(plan, part.id)} takes {format_current(start)} when it starts, {start / max(part.current_a, 1e-9):.0f} times its running "
                f"current; with the rest that is more than {supply.name} gives: lamps dip, or an adapter cuts out.",
                (Fix("A source of its own: 2 AA cells", lambda p, i=part.id: edits.own_source(p, i)),),  # type: ignore[misc]
            )  # fmt: skip


def idle_load(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A motor or module on too few or too many volts."""
    for part in assessment.parts.values():
        load = assessment.catalogue.loads.get(part.part) if part.kind == "load" else None
        if load is None or part.volts <= 1e-3:
            continue
        if part.volts < load.least_v:
            words = f"{name_of(plan, part.id)} gets {figure(part.volts)} V and needs {figure(load.least_v)} to {'turn' if load.kind == 'motor' else 'sound'}."
            yield Finding("idle-load", "look", "supply", part.id, part.volts / load.volts, words, better="more")
        elif part.volts > 1.2 * load.volts:
            fixes = (Fix(f"A regulator of {figure(load.volts)} V before it", _regulate(part.id, load.volts)),)
            words = f"{name_of(plan, part.id)} is made for {figure(load.volts)} V and gets {figure(part.volts)}: too fast, and soon worn."
            yield Finding("idle-load", "stop", "supply", part.id, part.volts / load.volts, words, fixes)


def _regulate(part_id: str, volts: float) -> Edit:
    return lambda plan: edits.regulate(plan, part_id, volts)


SOURCE_RULES = (
    overloaded,
    regulator_headroom,
    hot_regulator,
    warm_section,
    cells_sealed_in,
    alternating,
    unregulated_light_load,
    coin_cell,
    motor_start,
    idle_load,
)
