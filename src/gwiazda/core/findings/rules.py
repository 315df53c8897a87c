"""The rules. Each is a small function from a plan and its assessment to findings; wording stands beside its rule."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import numpy as np

from gwiazda.core.assess import fewest
from gwiazda.core.assess.meters import EVENNESS_AIM, EVENNESS_STOP, reached_state
from gwiazda.core.assess.states import Assessment, RungState
from gwiazda.core.assess.wiring import forward_v, junctions
from gwiazda.core.findings.bench_rules import does_not_fit, everything_lit, out_of_scale, same_on_both_sides
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.skin_rules import SKIN_RULES
from gwiazda.core.light.photometry import current_for_light
from gwiazda.core.parts.catalogue import families, glazings, lamp_parts, linings, plastics, sources, unknown
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import lamp_of, lamps_by_section, section_of
from gwiazda.core.plan.models import Lamp, Model, Plan, Wanted
from gwiazda.core.quantities import format_current, format_resistance

RESISTOR_RATED_W = 0.25
Rule = Callable[[Plan, Assessment], Iterator[Finding]]


def unknown_part(plan: Plan, found: Assessment) -> Iterator[Finding]:
    """A part the catalogue hasn't got: it is left dark, and named."""
    lamps = lamp_parts()
    for lamp in plan.lamps:
        if lamp.part not in lamps:
            error = unknown(f"Lamp {lamp.id}, part", lamp.part, lamps)
            yield Finding("unknown-part", "stop", "light", lamp.id, 0.0, str(error))
    named: list[tuple[str, str, Mapping[str, object], str, str]] = [
        ("Supply", plan.supply.part, sources(), "power", "supply"),
        ("Kit, plastic", plan.kit.plastic, plastics(), "measure", "kit"),
    ]
    for s in plan.sections:
        named.append((f"Section {s.id}, lining", s.lining, linings(), "measure", s.id))
        named.append((f"Section {s.id}, glazing", s.glazing, glazings(), "measure", s.id))
        named += [(f"Section {s.id}, lining", x.lining, linings(), "block", s.id) for x in s.face_linings]
    for o in plan.openings:
        if o.glazing is not None:
            named.append((f"Opening {o.id}, glazing", o.glazing, glazings(), "measure", o.id))
    for where, part, table, station, subject in named:
        if part not in table:
            yield Finding("unknown-part", "stop", station, subject, 0.0, str(unknown(where, part, table)))


def lamp_nowhere(plan: Plan, found: Assessment) -> Iterator[Finding]:
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
            "lamp-nowhere", "stop", "light", lamp_id, 0.0,
            f"Lamp {lamp_id}: lies outside every section and lights nothing; accepted: a place inside a section's "
            "inner box, or mounted outside.",
            tuple(fixes),
        )  # fmt: skip


def _outside(lamp_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, [lamp_id], mount="outside")


def _into(lamp_id: str, section_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, [lamp_id], at=section_of(plan, section_id).box.centre)


def supply_too_low(plan: Plan, found: Assessment) -> Iterator[Finding]:
    """The lamps of a string need more voltage than there is, or nearly all of it."""
    volts = found.supply.nominal_v
    if volts <= 0:
        return
    for rung in found.rungs.values():
        need = volts - rung.headroom_v
        meant_for = [lamp_parts()[found.lamps[i].part].volts for i in rung.lamps]
        if all(meant_for):
            # Resistors built in: too low a supply only makes them dimmer.
            if volts < UNDER_SHARE * sum(meant_for):
                yield _under_volts(plan, found, rung, sum(meant_for), volts)
        elif rung.headroom_v <= 0:
            fixes = [Fix("A resistor for each lamp", _singly(rung.lamps))] if len(rung.lamps) > 1 else []
            higher = next(
                (
                    s
                    for s in sorted(sources().values(), key=lambda s: s.nominal_v)
                    if s.kind == "regulated" and s.nominal_v >= need * 1.2
                ),
                None,
            )
            if higher is not None:
                fixes.append(Fix(f"{higher.name}", _supply(higher.id)))
            yield Finding(
                "supply-too-low", "stop", "power", rung.lamps[0], rung.headroom_v,
                f"{_name(rung.lamps)}: needs {need:.1f} V forward and the supply has {volts:.1f} V; accepted: a supply "
                f"above {need * 1.2:.1f} V or fewer lamps in the string.",
                tuple(fixes),
            )  # fmt: skip
        elif rung.headroom_v < 0.2 * volts and len(rung.lamps) > 1:
            yield Finding(
                "little-headroom", "look", "power", rung.lamps[0], rung.headroom_v / volts,
                f"{_name(rung.lamps)} leave {rung.headroom_v:.1f} V for the resistor, under a fifth of the supply: it "
                "will be out long before the battery is.",
                (Fix("A resistor for each lamp", _singly(rung.lamps)),),
            )  # fmt: skip


UNDER_SHARE = 0.9
DARK_LIGHT = 0.01  # of its full light: below this a lamp is as good as dark


def _under_volts(plan: Plan, found: Assessment, rung: RungState, meant_for: float, volts: float) -> Finding:
    """Strips on less than their voltage: how bright they are, and where they go dark."""
    first = found.lamps[rung.lamps[0]]
    dark = sum(
        forward_v(
            junctions(lamp_parts()[found.lamps[i].part], lamp_of(plan, i).units),
            current_for_light(DARK_LIGHT, first.rated_a, families()[lamp_parts()[first.part].family].k),
        )
        for i in rung.lamps
    )
    fixes = tuple(
        Fix(s.name, _supply(s.id))
        for s in sources().values()
        if s.kind == "regulated" and abs(s.nominal_v - meant_for) < 0.05 * meant_for
    )
    return Finding(
        "under-volts", "look", "power", rung.lamps[0], volts / meant_for,
        f"{_name(rung.lamps)}: made for {meant_for:g} V; on {volts:.3g} V it gives {first.share * 100:.0f} % of its light, "
        f"and is dark below about {dark:.1f} V.",
        fixes[:1],
    )  # fmt: skip


def _name(lamps: tuple[str, ...]) -> str:
    return lamps[0] if len(lamps) == 1 else f"{lamps[0]} and {len(lamps) - 1} more in its string"


def _singly(lamps: tuple[str, ...]) -> Callable[[Plan], Plan]:
    return lambda plan: edits.wire_singly(plan, lamps)


def _supply(part: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_supply(plan, part=part, in_series=1, in_parallel=1, volts=None)


def over_rated(plan: Plan, found: Assessment) -> Iterator[Finding]:
    """A lamp that gets more than its rated current."""
    for rung in found.rungs.values():
        for lamp_id in rung.lamps:
            lamp = found.lamps[lamp_id]
            if lamp.current_a > lamp.rated_a * 1.02:
                yield Finding(
                    "over-rated", "stop", "light", lamp_id, lamp.current_a / lamp.rated_a,
                    f"{lamp_id} gets {format_current(lamp.current_a)} and is rated for {format_current(lamp.rated_a)}: it "
                    f"will age fast or burn out behind {format_resistance(rung.resistor_ohm)}.",
                    (Fix("Choose the resistor again", _choose(rung.lamps)),),
                )  # fmt: skip


def _choose(lamps: tuple[str, ...]) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_resistor(plan, lamps, None)


def hot_resistor(plan: Plan, found: Assessment) -> Iterator[Finding]:
    """More than half a quarter-watt resistor's rating."""
    for rung in found.rungs.values():
        if rung.resistor_w > RESISTOR_RATED_W / 2:
            yield Finding(
                "hot-resistor", "look", "power", rung.lamps[0], rung.resistor_w,
                f"The resistor of {_name(rung.lamps)} takes {rung.resistor_w * 1e3:.0f} mW, over half of a quarter-watt one: "
                "take a larger body and keep it off the plastic.",
            )  # fmt: skip


def out_of_reach(plan: Plan, found: Assessment) -> Iterator[Finding]:
    """A section or a lamp whose wanted light is not reached, or overshot."""
    for s in found.sections.values():
        name = section_of(plan, s.id).name
        if s.wanted_cd_m2 <= 0 or not s.lit:
            continue
        ratio = s.mean_cd_m2 / s.wanted_cd_m2
        state = reached_state(ratio)
        if state != "fine":
            yield Finding(
                "out-of-reach", state, "light", s.id, ratio,
                f"{name} reaches {s.mean_cd_m2:.3g} cd/m² of the {s.wanted_cd_m2:.3g} wanted.",
                _reach_fixes(plan, found, s.id, ratio),
            )  # fmt: skip
    for lamp in found.lamps.values():
        if lamp.section is None and lamp_of(plan, lamp.id).mount == "outside":
            ratio = lamp.share / lamp.wanted_share
            state = reached_state(ratio)
            if state != "fine":
                yield Finding(
                    "out-of-reach", state, "light", lamp.id, ratio,
                    f"{lamp.id} gives {ratio * 100:.0f} % of the light wanted.",
                    (Fix("Choose the resistor again", _choose((lamp.id,))),),
                )  # fmt: skip


def _reach_fixes(plan: Plan, found: Assessment, section_id: str, ratio: float) -> tuple[Fix, ...]:
    inside = [
        i for i, home in lamps_by_section(plan.sections, plan.lamps).items() if home == section_id and i in found.lamps
    ]
    fixes = []
    if any(not found.rungs[found.lamps[i].rung].chosen for i in inside):
        fixes.append(Fix("Choose the resistors again", _choose(tuple(inside))))
    if ratio < 1 and inside:
        fixes.append(Fix("One more lamp like the first", _another(inside[0], section_id)))
    for look, words in (("soft", "Ask for soft light"), ("barely", "Ask for barely lit")):
        if ratio < 1:
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
        return edits.add_lamp(plan, model.model_copy(update={"id": new_id, "at": place, "resistor_ohm": None}))

    return edit


def _ask(section_id: str, look: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_wanted(plan, [section_id], Wanted.model_validate({"look": look}))


def dark_section(plan: Plan, found: Assessment) -> Iterator[Finding]:
    """Windows meant to be lit, and no lamp behind them."""
    for s in found.sections.values():
        if s.lit and not s.lamps:
            name = section_of(plan, s.id).name
            yield Finding(
                "dark-section", "stop", "light", s.id, float(s.lit),
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


def uneven(plan: Plan, found: Assessment) -> Iterator[Finding]:
    """A row whose darkest window falls too far behind."""
    for s in found.sections.values():
        if s.evenness is not None and s.evenness < EVENNESS_AIM:
            name = section_of(plan, s.id).name
            yield Finding(
                "uneven", "stop" if s.evenness < EVENNESS_STOP else "look", "light", s.darkest or s.id, s.evenness,
                f"{name}: the darkest window has {s.evenness:.2f} of the mean; {EVENNESS_AIM:.2f} is the aim.",
                (
                    Fix("Spread its lamps evenly", _spread(s.id)),
                    Fix("The fewest lamps that light it evenly", _fewest(s.id, s.wanted_cd_m2)),
                    Fix("Turn its lamps to face the floor", _face_down(s.id)),
                    Fix("One more lamp", _another_in(s.id)),
                ),
            )  # fmt: skip


def _fewest(section_id: str, wanted_cd_m2: float) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        homes = lamps_by_section(plan.sections, plan.lamps)
        first = next(i for i, home in homes.items() if home == section_id)
        found = fewest.propose(plan, section_id, lamp_of(plan, first).part, wanted_cd_m2 or 30.0)
        return fewest.take(plan, section_id, found[0]) if found else plan

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
            changed[lamp.id] = edits.revise(lamp, at=tuple(at))
        return edits.replace(plan, changed)

    return edit


def _face_down(section_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        homes = lamps_by_section(plan.sections, plan.lamps)
        return edits.set_fields(plan, [i for i, home in homes.items() if home == section_id], aim=(0.0, 0.0, -1.0))

    return edit


def _another_in(section_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        first = next(i for i, home in lamps_by_section(plan.sections, plan.lamps).items() if home == section_id)
        return _another(first, section_id)(plan)

    return edit


def overloaded(plan: Plan, found: Assessment) -> Iterator[Finding]:
    """More drawn than the source should give."""
    supply = found.supply
    if not supply.limit_a or supply.draw_a <= supply.limit_a:
        return
    fixes = []
    larger = sorted(
        (
            s
            for s in sources().values()
            if s.rated_a * s.use_share >= supply.draw_a and abs(s.nominal_v - supply.nominal_v) < 0.5
        ),
        key=lambda s: s.rated_a,
    )
    if larger:
        fixes.append(Fix(larger[0].name, _supply(larger[0].id)))
    if supply.is_battery:
        fixes.append(
            Fix(
                "Another set of cells beside it",
                lambda p: edits.set_supply(p, in_parallel=p.supply.in_parallel + 1),
            )
        )
    what = "loses half its capacity at that rate" if supply.is_battery else "should give"
    limit = format_current(supply.limit_a)
    yield Finding(
        "overloaded", "stop" if supply.draw_a > 1.5 * supply.limit_a else "look", "power", "supply", supply.draw_a / supply.limit_a,
        f"The model draws {format_current(supply.draw_a)}; {supply.name} "
        + (f"{what} ({limit})." if supply.is_battery else f"{what} {limit} at most."),
        tuple(fixes),
    )  # fmt: skip


RULES: tuple[Rule, ...] = (
    unknown_part,
    lamp_nowhere,
    supply_too_low,
    over_rated,
    overloaded,
    dark_section,
    out_of_reach,
    uneven,
    hot_resistor,
    does_not_fit,
    out_of_scale,
    everything_lit,
    same_on_both_sides,
    *SKIN_RULES,
)


def judge(plan: Plan, found: Assessment) -> tuple[Finding, ...]:
    """All findings, what stops the build first."""
    out = [finding for rule in RULES for finding in rule(plan, found)]
    return tuple(sorted(out, key=lambda f: f.severity != "stop"))
