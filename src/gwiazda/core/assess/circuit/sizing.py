"""Resistors for the wanted currents, from the tree of what hangs on a feed.

The wanted currents flow together: each resistor is sized for what the source's own resistance leaves of its voltage.
A battery is sized at its nominal state; a fresh one must not drive a lamp beyond its rating.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from typing import NamedTuple

from gwiazda.core.assess.circuit.junctions import BUILT_IN_OHM, BUILT_IN_SHARE, Junction, forward_v
from gwiazda.core.circuit.series import at_or_above
from gwiazda.core.plan.model import Fuse, Hangs, Hung, Parallel, Resistor, Series, Switch

HALF_TOLERANCE = {"E6": 0.025, "E12": 0.025, "E24": 0.025, "E96": 0.005}  # of 5 % and 1 % parts
FUSE_V = 0.1  # what a fuse drops at its rated current: house value of small glass ones
CONTACT_OHM = 0.05


class HungLamp(NamedTuple):
    """A lamp as its place in the circuit asks for it."""

    junctions: tuple[Junction, ...]
    wanted_a: float
    rated_a: float
    rectified: bool = False


class Sizing(NamedTuple):
    """Resistor of a rung: what the wanted current needs, and what is put in.

    ``headroom_v`` is what the nominal supply leaves for the resistor at the wanted current; ``least_ohm`` what keeps
    the lamps within their rating while the source is fresh.
    """

    wanted_a: float
    needed_ohm: float
    resistor_ohm: float
    headroom_v: float
    chosen: bool
    least_ohm: float = 0.0


@lru_cache(maxsize=16_384)
def size_resistor(
    feed_v: float,
    junctions: tuple[Junction, ...],
    wanted_a: float,
    series: str,
    fixed_ohm: float | None,
    rated_a: float = float("inf"),
    highest_v: float | None = None,
) -> Sizing:
    """R = (Vs − ΣVf(I))/I at the wanted current, next value of the series at or above.

    Parameters
    ----------
    feed_v : float
        Voltage (V) at the source's terminals with all wanted currents flowing.
    highest_v : float, optional
        EMF (V) of the source while it is fresh; the chosen value keeps the lamps under ``rated_a`` (A) there.

    A value that falls short by less than half its own tolerance counts as reached, as long as it keeps the
    lamps under ``rated_a`` (A): the part from the drawer is no truer than that.
    """
    return _sized(
        feed_v - forward_v(junctions, wanted_a),
        wanted_a,
        (highest_v if highest_v is not None else feed_v) - forward_v(junctions, rated_a) if rated_a < 1e9 else 0.0,
        rated_a,
        series,
        fixed_ohm,
        any(j.rs_ohm >= BUILT_IN_OHM for j in junctions),
        sum(j.rs_ohm for j in junctions),
    )


def _sized(
    headroom_v: float, wanted_a: float, fresh_room_v: float, rated_a: float, series: str, fixed_ohm: float | None,
    built_in: bool, own_ohm: float,
) -> Sizing:  # fmt: skip
    needed = headroom_v / wanted_a
    least = max(fresh_room_v / rated_a, 0.0) if rated_a < 1e9 else 0.0
    if fixed_ohm is not None:
        return Sizing(wanted_a, needed, fixed_ohm, headroom_v, False, least)
    if built_in and max(needed, least) <= BUILT_IN_SHARE * own_ohm:
        # Its own resistors are enough: nothing is put before it.
        return Sizing(wanted_a, needed, 0.0, headroom_v, True, least)
    slack = HALF_TOLERANCE[series] if wanted_a * (1.0 + HALF_TOLERANCE[series]) <= rated_a else 0.0
    # The rating is a limit for light, not for life: within a hundredth of it nothing is gained by the next value.
    value = at_or_above(max(needed * (1.0 - slack), least * 0.99, 1.0), series)
    return Sizing(wanted_a, needed, value, headroom_v, True, least)


def current_in(node: Hangs, lamps: Mapping[str, HungLamp]) -> float:
    """Current (A) wanted through a part of the tree: side by side they add, in series their mean; 0 without a lamp."""
    if isinstance(node, Hung):
        return lamps[node.lamp].wanted_a if node.lamp in lamps else 0.0
    if isinstance(node, Parallel):
        return sum(current_in(x, lamps) for x in node.items)
    if isinstance(node, Series):
        each = [i for x in node.items if (i := current_in(x, lamps)) > 0]
        return sum(each) / len(each) if each else 0.0
    return 0.0


def rated_in(node: Hangs, lamps: Mapping[str, HungLamp]) -> float:
    """Current (A) a part of the tree may take at most, shared evenly where it divides; infinite without a lamp."""
    if isinstance(node, Hung):
        return lamps[node.lamp].rated_a if node.lamp in lamps else float("inf")
    if isinstance(node, Parallel):
        each = [r for x in node.items if (r := rated_in(x, lamps)) < 1e9]
        return len(each) * min(each) if each else float("inf")
    if isinstance(node, Series):
        return min((rated_in(x, lamps) for x in node.items), default=float("inf"))
    return float("inf")


def volts_at(node: Hangs, current_a: float, lamps: Mapping[str, HungLamp]) -> float:
    """Voltage (V) over a part of the tree at a current; where it divides, as the wanted currents do."""
    if isinstance(node, Hung):
        return forward_v(lamps[node.lamp].junctions, current_a) if node.lamp in lamps else 0.0
    if isinstance(node, Resistor):
        return (node.ohm or 0.0) * current_a
    if isinstance(node, Fuse):
        return FUSE_V / node.rated_a * current_a
    if isinstance(node, Switch):
        return CONTACT_OHM * current_a
    if isinstance(node, Parallel):
        total = current_in(node, lamps)
        each = [volts_at(x, current_a * i / total, lamps) for x in node.items if (i := current_in(x, lamps)) > 0]
        return sum(each) / len(each) if each else 0.0
    return sum(volts_at(x, current_a, lamps) for x in node.items)


def size_tree(
    node: Hangs, lamps: Mapping[str, HungLamp], feed_v: float, highest_v: float, series: str
) -> dict[str, Sizing]:
    """Sizings of the resistors in a part of the tree between its rails, by resistor id."""
    out: dict[str, Sizing] = {}
    if isinstance(node, Parallel):
        for item in node.items:
            out.update(size_tree(item, lamps, feed_v, highest_v, series))
    if not isinstance(node, Series):
        return out
    current, rated = current_in(node, lamps), rated_in(node, lamps)
    mine = [x for x in node.items if isinstance(x, Resistor)]
    chosen = [x for x in mine if x.ohm is None]
    if current > 0:
        headroom = feed_v - volts_at(node, current, lamps)
        fresh = highest_v - volts_at(node, rated, lamps) if rated < 1e9 else 0.0
        parts = [lamps[x.lamp] for x in node.items if isinstance(x, Hung) and x.lamp in lamps]
        own = [j.rs_ohm for p in parts for j in p.junctions]
        for r in mine:
            if r.ohm is None:
                k = len(chosen)
                out[r.id] = _sized(
                    headroom / k, current, fresh / k, rated, series, None, any(x >= BUILT_IN_OHM for x in own), sum(own)
                )
            else:
                room = headroom + r.ohm * current
                out[r.id] = _sized(room, current, fresh + r.ohm * rated if rated < 1e9 else 0.0, rated, series, r.ohm, False, 0.0)  # fmt: skip
    if not chosen:
        # A branch within has what the rest of its string leaves.
        rest = sum(volts_at(x, current, lamps) for x in node.items if not isinstance(x, (Series, Parallel)))
        for item in node.items:
            out.update(size_tree(item, lamps, feed_v - rest, highest_v - rest, series))
    return out
