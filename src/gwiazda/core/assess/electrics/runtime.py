"""The load on a source, and for a battery its evening: light and voltage along the hours."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.electrics.netlist import Solved
from gwiazda.core.assess.electrics.sources import DEPTHS, SourceState
from gwiazda.core.assess.states import SupplyState
from gwiazda.core.light.photometry import Droop, relative_light
from gwiazda.core.memo import memoize
from gwiazda.core.power.discharge import DARK_SHARE, first_crossing, hours_at_depth
from gwiazda.core.quantities import figure

Array = npt.NDArray[np.float64]


class Burning(NamedTuple):
    """A lamp on a source: its column, and what its light depends on."""

    column: int
    colour: str
    droop: Droop
    rated_a: float
    flux_lm: float


def _same(a: object, b: object) -> bool:
    return a is b or (not isinstance(a, Solved) and a == b)


@memoize(slots=8, same=_same)
def supply_state(
    feed: str, source: SourceState | None, solved: Solved | None, burning: tuple[Burning, ...], duty: float
) -> SupplyState:
    """Load on a source, all lamps lit.

    Reached light and half of it count from one state: the source's nominal one. What flashes or is dimmed counts with its
    share on average (``duty``, of all current drawn) in what is used up.
    """
    if source is None or solved is None:
        return SupplyState("unknown supply", 0.0, 0.0, 0.0, 0.0, False, feed=feed)
    terminal = source.volts - source.ohms * solved.draw_a
    state = SupplyState(
        source.part.name, source.volts, terminal, solved.draw_a, source.limit_a, bool(source.along_v), feed=feed
    )
    if not source.along_v or solved.draw_a <= 0:
        return state
    along_draw = (np.array(source.along_v) - solved.terminal_v) / np.maximum(np.array(source.along_ohm), 1e-12)
    hours = hours_at_depth(DEPTHS, along_draw * duty, source.capacity_ah, source.i50_a, source.part.lost_a_year)
    colours, nominal = _lights(solved, burning)
    total, now = np.sum(list(colours.values()), axis=0), sum(nominal.values())
    if now <= 0:
        return state._replace(curve_hours=hours, curve_terminal_v=solved.terminal_v)
    light = total / now
    dark = first_crossing(hours, light, DARK_SHARE)
    empty = min(first_crossing(hours, solved.terminal_v, source.cutoff_v), float(hours[-1]))
    outs = {
        name: first_crossing(hours, c / nominal[name], DARK_SHARE) for name, c in colours.items() if nominal[name] > 0
    }
    first = min(outs, key=lambda name: outs[name], default="")
    return state._replace(
        hours=min(dark, empty),
        ends=f"half its light at {figure(source.volts)} V" if dark <= empty else "the cells' end",
        first_out=first if first and math.isfinite(outs[first]) and len(outs) > 1 else "",
        curve_hours=hours,
        curve_light=light,
        curve_terminal_v=solved.terminal_v,
        curve_colours={name: c / nominal[name] for name, c in colours.items() if nominal[name] > 0},
    )


def _lights(solved: Solved, burning: Sequence[Burning]) -> tuple[dict[str, Array], dict[str, float]]:
    """Light (lm) of each colour along the discharge, and at the nominal state. Lamps that are alike go together."""
    groups: dict[tuple[str, Droop], list[Burning]] = {}
    for b in burning:
        groups.setdefault((b.colour, b.droop), []).append(b)
    colours: dict[str, Array] = {}
    nominal: dict[str, float] = {}
    for (colour, droop), group in groups.items():
        columns = np.array([b.column for b in group])
        rated, flux = np.array([b.rated_a for b in group]), np.array([b.flux_lm for b in group])
        along = relative_light(solved.along[:, columns], rated, droop) @ flux
        colours[colour] = along + colours.get(colour, 0.0)
        nominal[colour] = float(relative_light(solved.now[columns], rated, droop) @ flux) + nominal.get(colour, 0.0)
    return colours, nominal
