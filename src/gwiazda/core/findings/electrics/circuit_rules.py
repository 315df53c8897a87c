"""What is judged of the circuit: voltages, currents, resistors, who takes whose light."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

from gwiazda.core.assess.electrics.junctions import junctions
from gwiazda.core.assess.electrics.on_rails import DARK_LIGHT, dark_below_v, light_on_v
from gwiazda.core.assess.states import Assessment, BranchState, LampState
from gwiazda.core.circuit.parts.diode import VT_300K
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import lamp_of
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, figure, format_current, format_resistance

RESISTOR_RATED_W = 0.25


def supply_too_low(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """The lamps of a string need more voltage than there is, or leave too little of it at the end of the source's life."""
    for branch in assessment.branches.values():
        volts = branch.supply_v
        if volts <= 0:
            continue
        need = volts - branch.headroom_v
        meant_for = [assessment.catalogue.lamps[assessment.lamps[i].part].volts for i in branch.lamps]
        if all(meant_for):
            # Resistors built in: too low a supply only makes them dimmer.
            if volts < UNDER_SHARE * sum(meant_for):
                yield _under_volts(plan, assessment, branch, sum(meant_for), volts)
            yield from _own_resistor(plan, assessment, branch, volts)
        elif branch.headroom_v <= 0:
            fixes = [Fix("A resistor for each lamp", _singly(branch.lamps))] if len(branch.lamps) > 1 else []
            higher = _higher_supply(assessment, need * 1.2)
            if higher is not None:
                fixes.append(higher)
            yield Finding(
                "supply-too-low", "stop", "supply", branch.lamps[0], branch.headroom_v,
                f"{_name(plan, branch.lamps)}: needs {need:.1f} V forward and the supply has {volts:.1f} V. A supply above "
                f"{need * 1.2:.1f} V or fewer lamps in the string would do.",
                tuple(fixes),
                better="more",
            )  # fmt: skip
        elif branch.last_v - need < HEADROOM * branch.last_v:
            yield _little_headroom(plan, assessment, branch, need)


HEADROOM = 0.2  # of the supply at the end of its life: what should be left for the resistor


def _higher_supply(assessment: Assessment, least_v: float) -> Fix | None:
    for s in sorted(assessment.catalogue.sources.values(), key=lambda s: s.nominal_v):
        if s.kind == "regulated" and s.nominal_v >= least_v:
            return Fix(s.name, _supply(s.id))
    return None


def _little_headroom(plan: Plan, assessment: Assessment, branch: BranchState, need: float) -> Finding:
    """A string, or a single lamp, that goes out long before its source is empty."""
    left = branch.last_v - need
    fixes = [Fix("A resistor for each lamp", _singly(branch.lamps))] if len(branch.lamps) > 1 else []
    higher = _higher_supply(assessment, need / (1.0 - HEADROOM))
    if higher is not None:
        fixes.append(higher)
    if branch.last_v < branch.supply_v:
        spare = "no voltage is left" if left < 0.05 else f"only {left:.1f} V are left"
        words = (
            f"{_name(plan, branch.lamps)}: {spare} for the resistor when the cells are low, at {branch.last_v:.1f} V. "
            "The light goes out long before they are empty."
        )
    else:
        words = f"{_name(plan, branch.lamps)}: {left:.1f} V are left for the resistor, under a fifth of the supply. Brightness will hang on every tenth of a volt."
    return Finding(
        "little-headroom", "look", "supply", branch.lamps[0], left / branch.last_v, words, tuple(fixes), better="more"
    )


UNDER_SHARE = 0.9


def _under_volts(plan: Plan, assessment: Assessment, branch: BranchState, meant_for: float, volts: float) -> Finding:
    """Strips on a source of less than their voltage: how bright they are with no other resistor, and where they go dark."""
    first = assessment.lamps[branch.lamps[0]]
    dark = dark_below_v(assessment, plan, branch.lamps)
    low, bare, high = (light_on_v(assessment, plan, branch.lamps, volts, sign) for sign in (-1.0, 0.0, 1.0))
    hangs = "how fresh the cells are" if assessment.feeds[branch.feed].is_battery else "the kind of adapter"
    higher = tuple(
        Fix(s.name, _supply(s.id))
        for s in assessment.catalogue.sources.values()
        if s.kind == "regulated" and abs(s.nominal_v - meant_for) < 0.05 * meant_for
    )
    each = meant_for / len(branch.lamps)
    singly = (
        [Fix("Each on its own", _singly(branch.lamps))] if len(branch.lamps) > 1 and volts >= UNDER_SHARE * each else []
    )
    who, fixes = _name(plan, branch.lamps), (*singly, *higher[:1])
    made = f"{who}: made for {meant_for:g} V" + (f", {each:g} V each" if len(branch.lamps) > 1 else "")
    if high < DARK_LIGHT:
        words = f"{made}, and dark below about {dark:.1f} V; the source has {figure(volts)} V."
        return Finding("under-volts", "stop", "supply", branch.lamps[0], volts / meant_for, words, fixes, better="more")
    return Finding(
        "under-volts", "look", "supply", branch.lamps[0], volts / meant_for,
        f"{made}; the source’s {figure(volts)} V give {bare * 100:.0f} % of its light. From "
        f"{low * 100:.0f} to {high * 100:.0f} %: it hangs on {hangs} and on the volts its lamps need at small currents. Dark below "
        f"about {dark:.1f} V."
        + (f" Its {format_resistance(branch.resistor_ohm)} leave {figure(first.share * 100, 2)} %." if branch.resistor_ohm > 0 else ""),
        fixes,
        better="more",
    )  # fmt: skip


TAKES = 0.5  # of what is wanted: a resistor of one's own that leaves less before a lamp with its resistors built in is one too many


def _own_resistor(plan: Plan, assessment: Assessment, branch: BranchState, volts: float) -> Iterator[Finding]:
    """A resistor before what has its resistors built in, and far too dim by it."""
    first = assessment.lamps[branch.lamps[0]]
    if branch.chosen or branch.resistor_ohm <= 0.0 or first.share >= TAKES * first.wanted_share:
        return
    bare = light_on_v(assessment, plan, branch.lamps, volts, 0.0)
    if bare > first.share / TAKES and bare >= DARK_LIGHT:
        yield Finding(
            "resistor-before-strip", "look", "supply", branch.lamps[0], first.share,
            f"{_name(plan, branch.lamps)} has its resistors built in; the {format_resistance(branch.resistor_ohm)} before it takes its light from "
            f"{bare * 100:.0f} % to {figure(first.share * 100, 2)} %.",
            (Fix("The resistor that suits its look, or none", choose_resistor(branch.lamps)),),
            better="more",
        )  # fmt: skip


def _name(plan: Plan, lamps: tuple[str, ...], where: str = "in its string") -> str:
    first = name_of(plan, lamps[0])
    return first if len(lamps) == 1 else f"{first} and {len(lamps) - 1} more {where}"


def _singly(lamps: tuple[str, ...]) -> Callable[[Plan], Plan]:
    return lambda plan: edits.wire_singly(plan, lamps)


def _supply(part: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_supply(plan, part=part, in_series=1, in_parallel=1, volts=None)


OVER = 1.02  # times the rated current: what a resistor's own tolerance makes of it


def over_rated(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A lamp that gets more than its rated current: as it is, or while the source is fresh."""
    for branch in assessment.branches.values():
        for lamp_id in branch.lamps:
            lamp = assessment.lamps[lamp_id]
            most = max(lamp.current_a, lamp.fresh_a)
            if most > lamp.rated_a * OVER:
                when = "" if lamp.current_a > lamp.rated_a * OVER else " while the cells are fresh"
                behind = (
                    f"behind {format_resistance(branch.resistor_ohm)}"
                    if branch.resistor_ohm > 0
                    else "with no resistor"
                )
                yield Finding(
                    "over-rated", "stop", "rating", lamp_id, most / lamp.rated_a,
                    f"{name_of(plan, lamp_id)} gets {format_current(most)}{when} and is rated for {format_current(lamp.rated_a)}: it "
                    f"will age fast or burn out {behind}.",
                    (Fix("Choose the resistor again", choose_resistor(branch.lamps)),),
                )  # fmt: skip


def backwards(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A lamp the wrong way round: it stays dark, and with it all that is in its string."""
    for lamp in assessment.lamps.values():
        if lamp.reversed and (other := _back_to_back(plan, assessment, lamp)):
            yield Finding(
                "back-to-back", "look", "wiring", lamp.id, 0.0,
                f"{name_of(plan, lamp.id)} hangs back to back with {name_of(plan, other)}: it lights with plus and minus swapped, and {name_of(plan, other)} doesn’t then.",
                (Fix("Turn it round", _turn(lamp.id)),),
            )  # fmt: skip
        elif lamp.reversed and not assessment.catalogue.lamps[lamp.part].rectified:
            others = [i for i in assessment.branches[lamp.branch].lamps if i != lamp.id]
            with_it = f", and {counted(len(others), 'lamp')} in its string with it" if others else ""
            yield Finding(
                "backwards", "stop", "rating", lamp.id, 0.0, f"{name_of(plan, lamp.id)} is the wrong way round: it stays dark{with_it}.",
                (Fix("Turn it round", _turn(lamp.id)),),
            )  # fmt: skip


def _back_to_back(plan: Plan, assessment: Assessment, lamp: LampState) -> str:
    """The other colour of a two-colour body that hangs the other way round beside it; empty when there is none."""
    body, at = assessment.catalogue.lamps[lamp.part].body, lamp_of(plan, lamp.id).at
    for other_id in assessment.branches[lamp.branch].lamps:
        other = assessment.lamps[other_id]
        alike = body and assessment.catalogue.lamps[other.part].body == body and lamp_of(plan, other_id).at == at
        if other_id != lamp.id and alike and not other.reversed:
            return other_id
    return ""


def _turn(lamp_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.reverse(plan, lamp_id)


FAINT = 0.02  # of the rated current: below it two lamps of a bag may differ by a factor of two


def very_little_current(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """So little current that nobody can say how bright it will be; said once for the lamps of a section."""
    faint: dict[tuple[str | None, float], list[LampState]] = {}
    for lamp in assessment.lamps.values():
        if 0 < lamp.current_a < FAINT * lamp.rated_a and not lamp.reversed:
            faint.setdefault((lamp.section, lamp.rated_a), []).append(lamp)
    for lamps in faint.values():
        least = min(lamps, key=lambda p: p.current_a / p.rated_a)
        who = _name(plan, (least.id,)) if len(lamps) == 1 else f"{_name(plan, (least.id,))} and {len(lamps) - 1} more"
        yield Finding(
            "very-little-current", "look", "rating", least.id, least.current_a / least.rated_a,
            f"{who}: {format_current(least.current_a)} is under {format_current(FAINT * least.rated_a)}, where "
            "two lamps of one bag may differ by a factor of two. Try it on the bench.",
            better="more",
        )  # fmt: skip


def choose_resistor(lamps: tuple[str, ...]) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_resistor(plan, lamps, None)


def hot_resistor(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """More than half a quarter-watt resistor's rating."""
    for branch in assessment.branches.values():
        if branch.resistor_w > RESISTOR_RATED_W / 2:
            yield Finding(
                "hot-resistor", "look", "rating", branch.lamps[0], branch.resistor_w,
                f"The resistor of {_name(plan, branch.lamps, 'on it' if branch.side_by_side else 'in its string')} takes {branch.resistor_w * 1e3:.0f} mW, over half of a quarter-watt one: "
                "take a larger body and keep it off the plastic.",
            )  # fmt: skip


STEALS = 3.0  # times the light of the dimmest beside it on the same resistor, each over its own rated light


def stolen_light(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Lamps of unlike forward voltage side by side behind one resistor: the lowest takes it all."""
    for branch in assessment.branches.values():
        if not branch.side_by_side or len(branch.lamps) < 2:
            continue
        lamps = [assessment.lamps[i] for i in branch.lamps]
        most, least = max(lamps, key=lambda p: p.share), min(lamps, key=lambda p: p.share)
        if most.current_a <= 0 or most.share <= STEALS * max(least.share, 0.0) or most.reversed or least.reversed:
            continue
        taken = sum(p.current_a for p in lamps if p.colour == most.colour) / sum(p.current_a for p in lamps)
        yield Finding(
            "stolen-light", "look", "wiring", least.id, most.share / max(least.share, 1e-12),
            f"{_name(plan, branch.lamps, 'on its resistor')}: {most.colour} needs less voltage and takes {taken * 100:.0f} % of the "
            f"current, {least.colour} gets {format_current(max(least.current_a, 0.0))}. It does no harm, but only a resistor "
            "each lights both.",
            (Fix("A resistor for each lamp", _singly(branch.lamps)),),
        )  # fmt: skip


SHOWS = 0.20  # difference in luminance between neighbours that is seen
# Mean range of k draws from a normal, in sigmas (Tippett 1925), for 2 to 10; beyond it grows by little.
RANGE = (1.128, 1.693, 2.059, 2.326, 2.534, 2.704, 2.847, 2.970, 3.078)


def unlike_neighbours(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Lamps of one kind side by side behind one resistor: their voltages stray, and the lowest shines brightest.

    They share a voltage, so ln I strays by σ_V/(n·Vt + I·Rs); half of a bag's variance is common to it and drops out.
    """
    catalogue = assessment.catalogue
    for branch in assessment.branches.values():
        lamps = [assessment.lamps[i] for i in branch.lamps]
        first = lamps[0]
        if not branch.side_by_side or len(lamps) < 2 or any(p.part != first.part or p.reversed for p in lamps):
            continue
        if first.current_a <= 0:
            continue
        part = catalogue.lamps[first.part]
        diodes = junctions(catalogue, part, lamp_of(plan, first.id).units)
        sigma = math.sqrt(0.5 * len(diodes)) * catalogue.families[part.family].spread_v / 2.0
        slope = sum(d.n * VT_300K + d.rs_ohm * first.current_a for d in diodes)
        apart = math.exp(catalogue.families[part.family].k * RANGE[min(len(lamps), 10) - 2] * sigma / slope)
        if apart - 1.0 <= SHOWS:
            continue
        yield Finding(
            "unlike-neighbours", "look", "wiring", first.id, apart,
            f"{_name(plan, branch.lamps, 'on one resistor')}: they stray by ±{figure(catalogue.families[part.family].spread_v)} V, so "
            f"the brightest gives about {figure(apart, 2)} × the dimmest. It does no harm; a resistor each evens it out.",
            (Fix("A resistor for each lamp", _singly(branch.lamps)),),
        )  # fmt: skip


CIRCUIT_RULES = (
    supply_too_low,
    over_rated,
    backwards,
    stolen_light,
    unlike_neighbours,
    very_little_current,
    hot_resistor,
)
