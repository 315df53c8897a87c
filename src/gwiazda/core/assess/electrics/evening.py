"""The plan's light along the hours on its sources: what each channel gives, who draws what, what other sources would do."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.bodies.rooms import goes_in
from gwiazda.core.assess.electrics.netlist import solve
from gwiazda.core.assess.electrics.stage import circuits_of, given_by, netlists
from gwiazda.core.assess.states import Assessment
from gwiazda.core.light.photometry import relative_light
from gwiazda.core.memo import memoize
from gwiazda.core.parts.electrics import SourcePart
from gwiazda.core.plan.frame import FACE_WORDS
from gwiazda.core.plan.model import Plan, Section, Supply, copy_unchecked

Array = npt.NDArray[np.float64]
ENOUGH = 0.7  # of the light wanted, in the worst lamp: a source that gives less doesn't serve
ADAPTER_H = 12.0  # how far along the hours are shown where nothing ends


class Evening(NamedTuple):
    """Light of each channel over that at the nominal state, along the hours (h): ``share`` (hours,) by channel."""

    hours: Array
    share: Mapping[str, Array]

    def at(self, hour: float) -> dict[str, float]:
        """Each channel's share at an hour."""
        return {name: float(np.interp(hour, self.hours, s)) for name, s in self.share.items()}


@memoize(slots=2)
def evening_of(plan: Plan, assessment: Assessment) -> Evening:
    """The evening of an assessed plan, all lamps lit from fresh sources on; what hangs on adapters stays as it is."""
    given = given_by(plan, assessment)
    ends = [f.hours for f in assessment.feeds.values() if math.isfinite(f.hours)]
    hours = np.linspace(0.0, 1.25 * max(ends, default=ADAPTER_H / 1.25), 161)
    light: dict[str, Array] = defaultdict(lambda: np.zeros(len(hours)))
    nominal: dict[str, float] = defaultdict(float)
    circuits = netlists(given.catalogue, plan.feeds, given.shelf, given.lamps, given.kinds, given.wanted, apart=False)
    for feed, source, drawn in circuits:
        if source is None or not drawn.net.lamps:
            continue
        solved, state = solve(source, drawn.net.elements, drawn.net.alike), assessment.feeds[feed.id]
        for lamp_id, column in drawn.net.lamps.items():
            kind, lamp = given.kinds[lamp_id], assessment.lamps[lamp_id]
            flux = kind.light.flux_lm
            now = float(relative_light(solved.now[column : column + 1], kind.rated_a, kind.droop)[0]) * flux
            nominal[lamp.channel] += now
            finite = np.isfinite(state.curve_hours)
            if not len(solved.along) or finite.sum() < 2:
                light[lamp.channel] += now
                continue
            along = relative_light(solved.along[:, column], kind.rated_a, kind.droop) * flux
            light[lamp.channel] += np.interp(hours, state.curve_hours[finite], along[finite])
    return Evening(hours, {k: v / nominal[k] for k, v in light.items() if nominal[k] > 0})


class Draw(NamedTuple):
    """Who draws what (A), by its share of all that is drawn; ``of`` is a channel, or a part that is no lamp."""

    of: str
    current_a: float
    share: float


def draws_of(plan: Plan, assessment: Assessment) -> tuple[Draw, ...]:
    """Who draws what from the sources, most first: each string's current counts once, for its first lamp's channel."""
    each: dict[str, float] = defaultdict(float)
    for branch in assessment.branches.values():
        each[assessment.lamps[branch.lamps[0]].channel] += abs(branch.current_a)
    for part in assessment.parts.values():
        if part.kind == "load":
            each[part.id] += abs(part.current_a)
    total = sum(f.draw_a for f in assessment.feeds.values())
    own = total - sum(each.values())
    if own > 1e-4:
        each["regulators and boards"] = own
    listed = (Draw(k, v, v / total if total > 0 else 0.0) for k, v in each.items() if v > 0)
    return tuple(sorted(listed, key=lambda d: -d.current_a))


class Option(NamedTuple):
    """Another source for a feed: how long, how bright, how large; ``fits`` says whether it serves, ``why`` if not.

    ``reached`` is the worst lamp's light over that wanted; ``evenings`` how many at the plan's hours a day; ``changed``
    says how it is changed, where that matters.
    """

    supply: Supply
    part: SourcePart
    hours: float
    evenings: float
    reached: float
    draw_a: float
    volume_cm3: float
    weight_g: float
    cost: int
    fits: bool
    why: str
    changed: str = ""

    @property
    def name(self) -> str:
        count = self.supply.in_series * self.supply.in_parallel
        return f"{count} × {self.part.name}" if count > 1 else self.part.name


def _candidates(plan: Plan, assessment: Assessment) -> Iterator[Supply]:
    """Sources worth a look: every adapter, and cells in the numbers people put together."""
    for part in assessment.catalogue.sources.values():
        if part.kind != "battery":
            if not part.adjustable and part.kind != "ac":
                yield Supply(part=part.id)
        elif part.nominal_v < 2.0:
            yield from (Supply(part=part.id, in_series=n) for n in (2, 3, 4, 6, 8))
        elif part.nominal_v < 4.0:
            yield from (Supply(part=part.id, in_series=n) for n in (1, 2, 3))
        else:
            yield from (Supply(part=part.id, in_parallel=n) for n in (1, 2))


def _changed(home: Section | None, part: SourcePart, supply: Supply) -> str:
    """How a source is changed: from outside, through what comes off, or not without opening what is glued."""
    if part.kind != "battery" or home is None:
        return "outside"
    closure = home.closure
    if closure.hatch is not None:
        return f"by the hatch in its {FACE_WORDS[closure.hatch.face]}"
    if closure.opens:
        return f"open {home.name}"
    return f"by its {closure.removable}" if closure.removable else "closed for good"


def options_for(plan: Plan, assessment: Assessment, feed_id: str) -> tuple[Option, ...]:
    """All sources for a feed, each with its resistors chosen anew; those that serve first, longest first.

    Fixed resistors stay as they are.
    """
    given = given_by(plan, assessment)
    at = next(i for i, f in enumerate(plan.feeds) if f.id == feed_id)
    home = next((s for s in plan.sections if s.id == plan.feeds[at].home), None)
    out = []
    for supply in _candidates(plan, assessment):
        feed = copy_unchecked(plan.feeds[at], supply=supply)
        feeds = (*plan.feeds[:at], feed, *plan.feeds[at + 1 :])
        circuits = circuits_of(
            given.catalogue, feeds, given.shelf, given.lamps, given.kinds, given.wanted, given.mean_current_share
        )
        state, part = circuits.feeds[feed_id], given.catalogue.sources[supply.part]
        mine = [i for i, c in circuits.lamps.items() if c.feed == feed_id]
        if not mine and state.draw_a <= 0:
            continue
        reached = [
            float(relative_light(np.array([max(circuits.lamps[i].current_a, 0.0)]), given.kinds[i].rated_a, given.kinds[i].droop)[0])
            / min(given.wanted[i], 1.0)
            for i in mine
        ]  # fmt: skip
        worst = min(reached, default=1.0)
        over = any(
            max(c.current_a, c.fresh_a) > 1.02 * given.kinds[i].rated_a
            for i, c in circuits.lamps.items()
            if i in set(mine)
        )
        why = ""
        if home is not None and not goes_in(given.catalogue, plan, plan.feeds[at], supply):
            why = f"doesn’t go into {home.name}"
        elif worst < ENOUGH:
            why = "too few volts"
        elif over:
            why = "too many volts for fixed resistors"
        elif state.limit_a and state.draw_a > state.limit_a:
            why = "too much is drawn" if part.kind == "battery" else "too weak"
        cells = supply.in_series * supply.in_parallel
        x, y, z = part.size_mm
        out.append(
            Option(
                supply, part, state.hours, state.hours / plan.feeds[at].hours_a_day, worst, state.draw_a, cells * x * y * z * 1e-3,
                cells * part.weight_g, part.cost, not why, why, _changed(home, part, supply),
            )
        )  # fmt: skip
    return tuple(sorted(out, key=lambda o: (not o.fits, -min(o.hours, 1e9), o.volume_cm3)))


def same_source(a: Supply, b: Supply) -> bool:
    """Whether two sources are the same cells in the same numbers."""
    return (a.part, a.in_series, a.in_parallel) == (b.part, b.in_series, b.in_parallel)


def short_list(options: tuple[Option, ...], own: Supply) -> tuple[Option, ...]:
    """What is worth seeing side by side: one's own, of each kind the one that lasts longest for its size, then one of each that doesn't.

    Of adapters that serve, the regulated one of the lowest voltage and the unregulated one alike.
    """
    mine = [o for o in options if same_source(o.supply, own)]
    groups: dict[str, list[Option]] = defaultdict(list)
    for o in options:
        groups[o.part.id if o.part.kind == "battery" else o.part.kind].append(o)
    serve, rest = [], []
    for found in groups.values():
        good = [o for o in found if o.fits]
        if good:
            serve.append(max(good, key=lambda o: (min(o.hours, 1e9) / max(o.volume_cm3, 1.0), -o.part.nominal_v)))
        else:
            rest.append(max(found, key=lambda o: o.reached))
    serve.sort(key=lambda o: -min(o.hours, 1e9))
    seen = [*mine, *(o for o in [*serve, *rest] if not any(same_source(o.supply, m.supply) for m in mine))]
    return tuple(seen)
