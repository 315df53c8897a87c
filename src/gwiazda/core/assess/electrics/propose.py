"""Circuits proposed: which lamps in strings, on which source, behind which resistors; several, with figures side by side.

Lamps that are switched together and want the same current may share a string. How they are put together is a cutting-stock
problem, solved exactly as an integer programme over the fillings of a string [1]. What has a value fixed by hand, or hangs
behind a switch, a regulator or an output, stays as it is.

Sources
-------
[1] P. C. Gilmore, R. E. Gomory, "A linear programming approach to the cutting-stock problem", Oper. Res. 9 (1961).
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence
from itertools import product
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.electrics.evening import ENOUGH, options_for, short_list
from gwiazda.core.assess.electrics.junctions import forward_v
from gwiazda.core.assess.electrics.stage import Circuits, Given, circuits_of, given_by
from gwiazda.core.assess.lamp.lamp_models import LampModel
from gwiazda.core.assess.states import Assessment
from gwiazda.core.light.photometry import current_for_light, relative_light
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import joints_by_lamp, string_of
from gwiazda.core.plan.model import LampRef, Plan, Resistor, Series, Supply, copy_unchecked, parts_in
from gwiazda.core.quantities import counted, figure, format_hours

HEADROOM = 0.2  # of the supply at the end of its life: what should be left for the resistor
EVENINGS = 5.0  # that other cells should last
MOST_SHOWN = 6
SAME_CURRENT = 1.05  # currents that differ by less share a string
MOST_FILLINGS = 4000
Stop = Callable[[], bool]


class Figures(NamedTuple):
    """What a proposal takes and gives: parts and work, draw (A), what of it warms resistors, hours, light, headroom.

    ``headroom`` is the least share of the source's last voltage that is left for a string's resistor; ``dimmest`` the
    worst lamp's light over that wanted.
    """

    resistors: int
    values: int
    joints: int
    draw_a: float
    lost_share: float
    hours: float
    dimmest: float
    headroom: float


class Proposal(NamedTuple):
    """A way to wire: its name, the plan with it, its figures, and why one would take it."""

    name: str
    plan: Plan
    figures: Figures
    words: str


def _free(plan: Plan) -> list[str]:
    """Lamps that may be wired anew: on their own or in a plain string, with no value fixed by hand, none turned round."""
    out = []
    for lamp in plan.lamps:
        string = string_of(plan, lamp.id)
        if string is None:
            if lamp.resistor_ohm is None:
                out.append(lamp.id)
            continue
        parts = list(parts_in(string))
        plain = all(isinstance(x, (Series, LampRef, Resistor)) for x in parts)
        fixed = any(isinstance(x, Resistor) and x.ohm is not None for x in parts)
        turned = any(isinstance(x, LampRef) and x.reversed for x in parts)
        if plain and not fixed and not turned:
            out.append(lamp.id)
    return out


def _groups(plan: Plan, assessment: Assessment, given: Given, ids: Sequence[str]) -> list[list[str]]:
    """Lamps that may share a string: of one channel and feed, at currents as good as equal; no strips, no flashing ones."""
    groups: dict[tuple[str, str, int], list[str]] = defaultdict(list)
    alone = []
    for lamp_id in ids:
        state, part = assessment.lamps.get(lamp_id), None
        if state is None:
            continue
        part = given.kinds[lamp_id].part
        if part.shape.in_units or part.flash_hz or part.rectified or part.volts:
            alone.append([lamp_id])
            continue
        step = round(math.log(max(state.wanted_a, 1e-9)) / math.log(SAME_CURRENT))
        groups[state.channel, state.feed, step].append(lamp_id)
    return [*groups.values(), *alone]


def _current(given: Given, lamp_id: str) -> float:
    kind = given.kinds[lamp_id]
    return float(current_for_light(min(given.wanted[lamp_id], 1.0), kind.rated_a, kind.droop))


def fewest_strings(volts: Sequence[float], capacity_v: float) -> list[list[int]]:
    """Lamps of these forward voltages (V) in as few strings as possible, none over ``capacity_v`` (V) unless alone.

    Exact (an integer programme) as long as a string has under some thousands of fillings; else first fit, decreasing.
    """
    return [list(s) for s in _fewest(tuple(round(v, 3) for v in volts), round(capacity_v, 3))]


@memoize_by_value(512)
def _fewest(volts: tuple[float, ...], capacity_v: float) -> tuple[tuple[int, ...], ...]:
    kinds = Counter(volts)
    if len(kinds) == 1 or not volts:
        # All alike: as many as go into a string, spread evenly over as few as that takes.
        longest = max(1, int((capacity_v + 1e-9) / volts[0])) if volts else 1
        count = -(-len(volts) // longest)
        return tuple(tuple(range(k, len(volts), count)) for k in range(count))
    return tuple(map(tuple, _programme(volts, capacity_v, kinds)))


def _programme(volts: tuple[float, ...], capacity_v: float, kinds: Counter[float]) -> list[list[int]]:
    sizes = sorted(kinds, reverse=True)
    most = [max(1, min(kinds[s], int(capacity_v / s) if s > 0 else kinds[s])) for s in sizes]
    if math.prod(m + 1 for m in most) > MOST_FILLINGS or len(volts) < 2:
        return _first_fit(volts, capacity_v)
    fillings = [
        f for f in product(*(range(m + 1) for m in most))
        if sum(f) == 1 or 0 < sum(n * s for n, s in zip(f, sizes, strict=True)) <= capacity_v + 1e-9
    ]  # fmt: skip
    from scipy.optimize import Bounds, LinearConstraint, milp  # slow to import: at first use

    matrix = np.array(fillings, dtype=float).T
    wanted = np.array([kinds[s] for s in sizes], dtype=float)
    # Of as few strings, those evenly filled: the fuller a string the less its resistor burns, and the same for all.
    uneven = np.array([1e-4 * (capacity_v - sum(n * s for n, s in zip(f, sizes, strict=True))) ** 2 for f in fillings])
    found = milp(
        np.ones(len(fillings)) + uneven / max(uneven.max(), 1e-9) * 1e-3, integrality=np.ones(len(fillings)),
        constraints=LinearConstraint(matrix, wanted, wanted), bounds=Bounds(0, np.inf), options={"time_limit": 1.0},
    )  # fmt: skip
    if found.x is None:
        return _first_fit(volts, capacity_v)
    waiting = {s: [i for i, v in enumerate(volts) if v == s] for s in sizes}
    out = []
    for filling, count in zip(fillings, np.round(found.x).astype(int).tolist(), strict=True):
        for _ in range(count):
            out.append([waiting[s].pop(0) for n, s in zip(filling, sizes, strict=True) for _ in range(n)])
    return out


def _first_fit(volts: Sequence[float], capacity_v: float) -> list[list[int]]:
    strings: list[tuple[float, list[int]]] = []
    for i in sorted(range(len(volts)), key=lambda k: -volts[k]):
        for k, (full, members) in enumerate(strings):
            if full + volts[i] <= capacity_v + 1e-9:
                strings[k] = (full + volts[i], [*members, i])
                break
        else:
            strings.append((volts[i], [i]))
    return [sorted(members) for _, members in strings]


def _strung(plan: Plan, given: Given, groups: Sequence[Sequence[str]], capacity_v: float) -> Plan:
    """The plan with each group in as few strings as its capacity allows; what is left alone has a resistor of its own."""
    free = [i for g in groups for i in g]
    plan = edits.hang_into(plan, [i for i in free if string_of(plan, i) is not None], plan.feeds[0].id)
    items = []
    taken = edits.taken_ids(plan)
    for group in groups:
        volts = [forward_v(given.kinds[i].junctions, _current(given, i)) for i in group]
        for members in fewest_strings(volts, capacity_v):
            if len(members) < 2:
                continue
            stem = f"{group[members[0]][:60]}.string"
            name = next(n for k in range(100_000) if (n := f"{stem}{k or ''}") not in taken)
            taken |= {name, f"{name}.r"}
            items.append(Series(id=name, items=(Resistor(id=f"{name}.r"), *(LampRef(lamp=group[m]) for m in members))))
    if not items:
        return plan
    first = plan.feeds[0]
    return copy_unchecked(plan, feeds=(copy_unchecked(first, items=(*first.items, *items)), *plan.feeds[1:]))


def figures_of(plan: Plan, given: Given) -> Figures:
    """What a plan's circuits take and give, worked out anew."""
    circuits = circuits_of(
        given.catalogue, plan.feeds, given.shelf, given.lamps, given.kinds, given.wanted, given.mean_current_share
    )
    hung = joints_by_lamp(plan.feeds)
    return _figures(circuits, given.kinds, given.wanted, sum(hung.get(p.id, 3) for p in given.lamps))


def _figures(circuits: Circuits, kinds: Mapping[str, LampModel], wanted: Mapping[str, float], joints: int) -> Figures:
    branches = circuits.branches.values()
    ohms = [r.resistor_ohm for r in branches if r.resistor_ohm > 0]
    draw = sum(f.draw_a for f in circuits.feeds.values())
    power = sum(f.draw_a * f.terminal_v for f in circuits.feeds.values())
    lost = sum(r.current_a**2 * r.resistor_ohm for r in branches)
    reached = [
        float(relative_light(np.array([max(c.current_a, 0.0)]), kinds[i].rated_a, kinds[i].droop)[0]) / min(wanted[i], 1.0)
        for i, c in circuits.lamps.items()
    ]  # fmt: skip
    left = [1.0 - (r.supply_v - r.headroom_v) / r.last_v for r in branches if r.last_v > 0 and r.resistor_ohm > 0]
    return Figures(
        len(ohms), len(set(ohms)), joints, draw, lost / power if power > 0 else 0.0,
        min((f.hours for f in circuits.feeds.values() if f.draw_a > 0), default=math.inf), min(reached, default=1.0),
        min(left, default=1.0),
    )  # fmt: skip


def _supplies(plan: Plan, assessment: Assessment) -> Iterator[Supply]:
    """One's own source first, then others that serve: two adapters, the smallest cells that last some evenings."""
    own = plan.feeds[0].supply
    yield own
    listed = [o for o in short_list(options_for(plan, assessment, plan.feeds[0].id), own) if o.fits and o.supply != own]
    adapters = [o for o in listed if o.part.kind == "regulated"]
    cells = sorted(
        (o for o in listed if o.part.kind == "battery" and o.evenings >= EVENINGS), key=lambda o: o.volume_cm3
    )
    high = [
        Supply(part=s.id) for s in assessment.catalogue.sources.values()
        if s.kind == "regulated" and not s.adjustable and s.nominal_v >= 12.0 and s.rated_a <= 1.0
    ]  # fmt: skip
    yield from (o.supply for o in adapters[:1])
    yield from (s for s in high[:1] if s.part != own.part and s.part not in {o.supply.part for o in adapters[:1]})
    yield from (o.supply for o in cells[:2])


def proposals(
    plan: Plan, assessment: Assessment, stop: Stop = lambda: False, own_source: bool = False
) -> tuple[Proposal, ...]:
    """Ways to wire what is free in an assessed plan, best first; the plan as it is comes last, to compare with.

    ``stop`` is asked between them: what is found until then is given. Other sources are tried too, unless only one's
    ``own_source`` counts.
    """
    given = given_by(plan, assessment)
    free = _free(plan)
    groups = _groups(plan, assessment, given, free)
    out: list[Proposal] = []
    own = plan.feeds[0].supply
    for supply in (own,) if own_source else _supplies(plan, assessment):
        if stop():
            break
        base = copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], supply=supply), *plan.feeds[1:]))
        last = _last_v(given, supply)
        source = given.catalogue.sources[supply.part]
        cells = supply.in_series * supply.in_parallel
        name = f"{cells} × {source.name}" if cells > 1 else source.name
        single = _strung(base, given, groups, 0.0)
        strung = _strung(base, given, groups, (1.0 - HEADROOM) * last)
        one = figures_of(single, given)
        mine = supply == own
        if one.dimmest >= ENOUGH and (mine or one.headroom >= HEADROOM):
            words = "each lamp on its own: nothing darkens another, any may be changed later"
            out.append(Proposal(f"A resistor each, {name}", single, one, words))
        if strung is not single and strung != single:
            many = figures_of(strung, given)
            if many.dimmest >= ENOUGH and (mine or many.headroom >= HEADROOM):
                spared = one.resistors - many.resistors
                words = f"{counted(spared, 'resistor')} and {counted(one.joints - many.joints, 'joint')} spared"
                if many.draw_a < 0.97 * one.draw_a:
                    words += f", {figure((1.0 - many.draw_a / one.draw_a) * 100, 2)} % less drawn"
                words += "; one lamp that fails darkens its string"
                out.append(Proposal(f"Strings, {name}", strung, many, words))
    now = figures_of(plan, given)
    best = sorted(out, key=lambda p: _cost(p.figures, copy_unchecked(own) == p.plan.feeds[0].supply))
    same = [p for p in best if p.plan.feeds == plan.feeds]
    shown = [p for p in best if p not in same][:MOST_SHOWN]
    return (*shown, Proposal("As it is", plan, now, "to compare with"))


def _cost(f: Figures, own: bool) -> float:
    """Lower is better: joints and resistors as minutes of work, hours up to a good evening's worth, headroom, one's own source."""
    hours = min(f.hours, 100.0)
    short = 60.0 * max(0.0, 1.0 - hours / 20.0)
    dim = 80.0 * max(0.0, 0.9 - f.dimmest)
    tight = 60.0 * max(0.0, HEADROOM - f.headroom)
    return 3.0 * f.joints / 2.0 + 1.0 * f.values + short + dim + tight + 10.0 * f.lost_share + (0.0 if own else 12.0)


def _last_v(given: Given, supply: Supply) -> float:
    from gwiazda.core.assess.electrics.sources import source_of

    source = source_of(given.catalogue, supply)
    return source.last_v if source is not None else 0.0


def hours_words(hours: float) -> str:
    """Hours, or that nothing ends."""
    return format_hours(hours) if math.isfinite(hours) else "no end"
