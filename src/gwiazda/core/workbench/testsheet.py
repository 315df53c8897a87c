"""What to clip where, and what should be read: the test sheet of a section, with the band that good parts may stray in."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.assess.circuit.tolerance import tolerance_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import Plan

SAFE = 1.5  # times what flows: the limit a bench supply is set to


class Line(NamedTuple):
    """One test: a string or lamp, the supply to clip on (V) with its limit (A), what flows and what is over the first lamp, each with
    5 and 95 %, and which lamps should light."""

    rung: str
    lamps: tuple[str, ...]
    supply_v: float
    limit_a: float
    current_a: float
    low_a: float
    high_a: float
    volts: float


def sheet_of(plan: Plan, found: Assessment, section: str = "") -> tuple[Line, ...]:
    """The tests of a section's strings, of all where none is named."""
    homes = lamps_by_section(plan.sections, plan.lamps, ("inside", "fibre"))
    spread = tolerance_of(plan, found).lamps
    out = []
    for rung in found.rungs.values():
        lamps = tuple(i for i in rung.lamps if not section or homes.get(i) == section)
        if not lamps:
            continue
        first = found.lamps[lamps[0]]
        bands = [spread[i].current_a for i in lamps if i in spread]
        low = min((b[0] for b in bands), default=first.current_a)
        high = max((b[2] for b in bands), default=first.current_a)
        limit = round(max(SAFE * max(high, rung.current_a), 0.005), 3)
        out.append(Line(rung.id, lamps, rung.supply_v, limit, first.current_a, low, high, first.forward_v))
    return tuple(out)
