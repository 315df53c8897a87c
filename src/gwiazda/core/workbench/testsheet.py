"""What to clip where, and what should be read: the test sheet of a section and of each joint, with the band that good parts may stray in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.assess.electrics.tolerance import Spread, tolerance_of
from gwiazda.core.assess.states import Assessment, LampState
from gwiazda.core.plan.lookup import built_into
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of

HUB_BAND = 0.1  # of what flows through a hub: many strings stray less together than each alone
SAFE = 1.5  # times what flows: the limit a bench supply is set to


class Line(NamedTuple):
    """One test: a string or lamp, the supply to clip on (V) with its limit (A), what flows and what is over the first lamp, each with
    5 and 95 %, and which lamps should light."""

    branch: str
    lamps: tuple[str, ...]
    supply_v: float
    limit_a: float
    current_a: float
    low_a: float
    high_a: float
    volts: float


def sheet_of(plan: Plan, assessment: Assessment, section: str = "") -> tuple[Line, ...]:
    """The tests of a section's strings, of all where none is named."""
    homes = built_into(plan.sections, plan.lamps)
    spread = tolerance_of(plan, assessment).lamps
    out = []
    for branch in assessment.branches.values():
        lamps = tuple(i for i in branch.lamps if not section or homes.get(i) == section)
        if not lamps:
            continue
        first = assessment.lamps[lamps[0]]
        bands = [spread[i].current_a for i in lamps if i in spread]
        low = min((b[0] for b in bands), default=first.current_a)
        high = max((b[2] for b in bands), default=first.current_a)
        limit = _limit(max(high, branch.current_a))
        out.append(Line(branch.id, lamps, branch.supply_v, limit, first.current_a, low, high, first.forward_v))
    return tuple(out)


class JointTest(NamedTuple):
    """A test after a joint: what was joined, where the leads are clipped, the supply (V) and its limit (A), what flows with 5 and 95 %, and
    the lamps that light then."""

    joint: str
    plus: str
    minus: str
    supply_v: float
    limit_a: float
    current_a: float
    low_a: float
    high_a: float
    lamps: tuple[str, ...]
    hub: bool = False


def joint_tests(plan: Plan, assessment: Assessment, section: str = "") -> tuple[JointTest, ...]:
    """A test after every joint of a section's strings and groups, and of the hubs, of all where no section is named.

    A string half built is lit from a supply set so that its lamps get the current they will have: its resistor's drop and the forward
    voltages of those that are in it, V = I·R + ΣVf; side by side the resistor carries them all, V = k·I·R + Vf. Clipped to the full
    supply the first lamp of a string would get all that is meant for the others.
    """
    homes = built_into(plan.sections, plan.lamps)
    spread = tolerance_of(plan, assessment).lamps
    out: list[JointTest] = []
    for branch in assessment.branches.values():
        if section and all(homes.get(i) != section for i in branch.lamps):
            continue
        states = [assessment.lamps[i] for i in branch.lamps]
        for k, last in enumerate(states, start=1):
            mine = states[:k]
            if branch.side_by_side:
                supply = sum(s.current_a for s in mine) * branch.resistor_ohm + last.forward_v
                current = sum(s.current_a for s in mine)
            else:
                supply = last.current_a * branch.resistor_ohm + sum(s.forward_v for s in mine)
                current = last.current_a
            low, high = _band(mine, spread, branch.side_by_side)
            name = name_of(plan, last.id)
            what = name if len(states) == 1 else f"{name}, {k} of {len(states)}"
            out.append(
                JointTest(
                    what, "the free end of the resistor", f"the lead behind {name}", round(supply, 2), _limit(high), current, low, high,
                    tuple(s.id for s in mine),
                )
            )  # fmt: skip
    branches = {i: r for r in assessment.branches.values() for i in r.lamps}
    for joint in assessment.loom.joints:
        if joint.kind != "hub" or (section and joint.section != section):
            continue
        runs = [assessment.loom.runs[w] for w in joint.wires if w in assessment.loom.runs]
        lamps = tuple(dict.fromkeys(i for run in runs for i in run.lamps if i in branches))
        behind = {branches[i].id: branches[i] for i in lamps}
        current = sum(r.current_a for r in behind.values())
        if not behind:
            continue
        ends = {run.end for run in runs}
        at = next((h for h in plan.hubs if joint.id.startswith(f"{h.id}.")), None)
        hub, other = f"the hub {name_of(plan, at.id if at is not None else joint.id)}", "the other side’s leads, joined"
        plus, minus = (other, hub) if ends == {"minus"} else (hub, other)
        first = next(iter(behind.values()))
        low, high = current * (1.0 - HUB_BAND), current * (1.0 + HUB_BAND)
        out.append(JointTest(joint.id, plus, minus, first.supply_v, _limit(high), current, low, high, lamps, True))
    return tuple(out)


def _band(states: Sequence[LampState], spread: Mapping[str, Spread], side_by_side: bool) -> tuple[float, float]:
    """5 and 95 % of what flows through lamps in one string, or in all of them side by side."""
    lows = [spread[s.id].current_a[0] if s.id in spread else s.current_a for s in states]
    highs = [spread[s.id].current_a[2] if s.id in spread else s.current_a for s in states]
    return (sum(lows), sum(highs)) if side_by_side else (min(lows), max(highs))


def _limit(high_a: float) -> float:
    return round(max(SAFE * high_a, 0.005), 3)
