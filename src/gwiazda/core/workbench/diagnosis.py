"""From readings to what is broken: every fault of a feed solved, and pairs of them where one leaves a reading unsaid, scored by how well
they tell the readings, ranked; and what to measure next, or to do where nothing is worth measuring.

log P(fault | readings) = log prior + log ∫ Π what each reading is worth d(state of the source), σ² = meter² + tolerance²; a wild reading
has 2 %, a dark lamp called lit 0.1 %. The meter: V ±(0.8 % + 2 digits), A ±(1.5 % + 3 digits), σ half of them. The next measurement
is the one that tells most of what is broken: the entropy of its outcomes less what is left of it once the fault is known.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.electrics.stage import FeedCircuit, given_by, netlists
from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import PlanError
from gwiazda.core.memo import memoize
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of, said
from gwiazda.core.quantities import figure
from gwiazda.core.workbench.faults import Fault
from gwiazda.core.workbench.hypotheses import Array, Bench, Measurement, What, sigma_of

LIKELY = 20  # single faults that pairs are made of
REFINED = 3  # measurements worked out with the meter on them before the best is named
USED_KNOWN = 0.17  # one sigma of a battery’s depth of discharge: more, and nothing is said of it
WORTH_BITS = 0.05  # less is not worth measuring


class Suspect(NamedTuple):
    """A hypothesis: its faults, how likely it is now."""

    faults: tuple[Fault, ...]
    share: float

    @property
    def words(self) -> str:
        return "; and ".join(f.words for f in self.faults) or "nothing is broken"


class Next(NamedTuple):
    """What to measure next, and how much it tells (bits)."""

    what: What
    at: str
    bits: float
    source: bool = False  # whether it is of the source that all hangs on


class Diagnosis(NamedTuple):
    """Suspects, likeliest first; measurements worth making, most telling first; how well the best one tells the readings (σ,
    rms); what to do where nothing is worth measuring; how far a battery is used up (0 to 1), where the readings tell."""

    suspects: tuple[Suspect, ...]
    next: tuple[Next, ...]
    misfit: float
    instead: str = ""
    used: float | None = None


@memoize(slots=2)
def benches_of(plan: Plan, assessment: Assessment) -> tuple[Bench, ...]:
    """All feeds of an assessed plan with lamps on them."""
    given = given_by(plan, assessment)
    return tuple(Bench(c, given) for c in circuits_of(plan, assessment))


def circuits_of(plan: Plan, assessment: Assessment) -> list[FeedCircuit]:
    """The circuits of all feeds with a source and lamps on them."""
    given = given_by(plan, assessment)
    drawn = netlists(given.catalogue, plan.feeds, given.shelf, given.lamps, given.kinds, given.wanted)
    return [c for c in drawn if c.source is not None and c.drawn.net.lamps]


def bench_for(plan: Plan, assessment: Assessment, readings: Sequence[Measurement]) -> Bench:
    """The feed that readings are of.

    Raises
    ------
    PlanError
        For a place that isn't in the circuit, an impossible value, or readings of two feeds; said which.
    """
    benches = benches_of(plan, assessment)
    if not benches:
        raise PlanError("Diagnosis", "no lamp hangs on a source", "a plan with a circuit")
    chosen: Bench | None = None
    for n, r in enumerate(readings, 1):
        here = [b for b in benches if r.at in b.ends or r.at in b.lamps]
        if not here:
            known = ", ".join([*list(benches[0].lamps)[:3], benches[0].feed])
            raise PlanError(
                f"Reading {n}", f"“{r.at}” is not in the circuit", f"a lamp, resistor or source, such as {known}"
            )
        if r.what == "lit" and r.at not in here[0].lamps:
            raise PlanError(f"Reading {n}", f"“{r.at}” is no lamp", "a lamp for lit or dark")
        if r.what == "amps" and r.at not in here[0].lamps and r.at not in here[0].resistors and r.at != here[0].feed:
            raise PlanError(
                f"Reading {n}", f"no current is worked out for “{r.at}”", "a lamp, a resistor or the source"
            )
        most = 2.0 * max(float(here[0].network.volts.max()), 1.0)
        if r.what == "volts" and abs(r.value) > most:
            raise PlanError(
                f"Reading {n}",
                f"{figure(r.value)} V can’t be on a source of {figure(most / 2.0)} V",
                f"up to {figure(most)} V",
            )
        if r.what == "amps" and not 0.0 <= r.value <= 50.0:
            raise PlanError(f"Reading {n}", f"{figure(r.value)} A is impossible here", "amperes, such as 0.012")
        if chosen is not None and here[0] is not chosen:
            raise PlanError(f"Reading {n}", f"“{r.at}” hangs on another source", "readings of one source at a time")
        chosen = here[0]
    return chosen or benches[0]


def diagnose(plan: Plan, assessment: Assessment, readings: Sequence[Measurement], most: int = 12) -> Diagnosis:
    """What is likely to be broken, and what to measure next.

    Raises
    ------
    PlanError
        See ``bench_for``.
    """
    bench = bench_for(plan, assessment, readings)
    joint = bench.joint(readings)
    if not _told(bench, joint, readings):
        # One fault leaves something unsaid, whatever state the source is in: two at once, of those that say a part of it.
        order = np.argsort(-joint.sum(axis=1), kind="stable")
        bench = bench.with_doubles([int(k) for k in order if len(bench.hypotheses[k]) == 1][:LIKELY])
        joint = bench.joint(readings)
    share = joint.sum(axis=1)
    order = np.argsort(-share, kind="stable")
    suspects = tuple(Suspect(bench.hypotheses[k], float(share[k])) for k in order[:most])
    following = _next(bench, joint, readings)
    best = int(order[0])
    state = int(joint[best].argmax())
    misses = [
        float(((r.value - told) / sigma_of(r.what, told)) ** 2)
        for r in readings
        if r.what != "lit"
        for told in (float(bench.over_states(r.what, r.at)[best, state]),)
    ]
    misfit = float(np.sqrt(np.mean(misses))) if misses else 0.0
    return Diagnosis(suspects, following, misfit, "" if following else instead_of(suspects), _used(bench, joint))


def _used(bench: Bench, joint: Array) -> float | None:
    """How far the battery is used up, where that is known to a sixth."""
    if not bench.is_battery:
        return None
    share, depth = joint.sum(axis=0), bench.states.depth
    mean = float(share @ depth)
    return mean if float(share @ (depth - mean) ** 2) < USED_KNOWN**2 else None


def _told(bench: Bench, joint: Array, readings: Sequence[Measurement]) -> bool:
    """Whether the likeliest hypothesis, with the source in its likeliest state, says all of the readings."""
    row, state = np.unravel_index(int(joint.argmax()), joint.shape)
    return all(bench.told_by(int(row), int(state), r) for r in readings)


def _next(bench: Bench, joint: Array, readings: Sequence[Measurement]) -> tuple[Next, ...]:
    """Measurements worth making, the most telling first; the source's own volts before any other, where it runs down."""
    asked = {(r.what, r.at) for r in readings}
    proposed = [
        Next(w, a, bench.information_gain(w, a, joint), (w, a) == ("volts", bench.feed))
        for w, a in bench.measurable()
        if (w, a) not in asked
    ]
    proposed.sort(key=lambda x: -x.bits)
    for k, x in enumerate(proposed[:REFINED]):
        if x.what == "volts":
            bench.over_states(x.what, x.at)
            proposed[k] = x._replace(bits=bench.information_gain(x.what, x.at, joint))
    # Of measurements that tell as much, a look is easier than a meter.
    proposed.sort(key=lambda x: (-round(x.bits, 2), {"lit": 0, "volts": 1, "amps": 2}[x.what]))
    worthwhile = [x for x in proposed if x.bits >= WORTH_BITS]
    if worthwhile and bench.is_battery and not any(r.what != "lit" for r in readings):
        worthwhile = [*(x for x in proposed if x.source), *(x for x in worthwhile if not x.source)]
    return tuple(worthwhile[:8])


def instead_of(suspects: Sequence[Suspect]) -> str:
    """What to do where no measurement would tell more: the remedy of the likeliest itself tells."""
    if not suspects or not suspects[0].faults:
        return "Nothing worth measuring is left, and nothing seems broken."
    if suspects[0].share < 0.2:
        return (
            "Nothing that can be measured here tells them apart: feed one lamp alone through a resistor, then the next."
        )
    return f"Nothing worth measuring is left: {suspects[0].faults[0].remedy}."


def suspect_words(plan: Plan, suspect: Suspect) -> str:
    """What may be broken, with the names of what it is about."""
    words = said(plan, suspect.words, (i for f in suspect.faults for i in f.at))
    return words[:1].upper() + words[1:]


APART_BITS, HELPS_BITS = 0.7, 0.25  # of one bit, which would tell two equally likely faults apart for sure


def tells(n: Next) -> str:
    """How much a measurement is expected to tell, in words."""
    if n.bits >= APART_BITS:
        return "tells the likeliest apart"
    return "tells a good part" if n.bits >= HELPS_BITS else "tells a little"


def next_words(plan: Plan, n: Next) -> str:
    """What to do for a measurement."""
    at = name_of(plan, n.at)
    where = {"lit": f"see whether {at} is lit", "volts": f"volts over {at}", "amps": f"the current of {at}"}
    return f"{where[n.what]}: all else hangs on the source" if n.source else where[n.what]
