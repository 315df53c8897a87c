"""Try it with one resistor after another: one lamp, held where it will shine, and which three values of the drawer to compare next."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.aims import looks_in
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.lamp.lamp_models import lamp_model_of
from gwiazda.core.assess.lamp.realism import hull_of
from gwiazda.core.assess.optics.panes import room_behind
from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit.shelf import shelf_of
from gwiazda.core.light.photometry import relative_light
from gwiazda.core.light.rooms import lux_words
from gwiazda.core.light.staircase import Answer, Comparison, next_three
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Feed, Lamp, Look, Plan, ViewingConditions, copy_unchecked
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, figure

LEAST_SHARE = 0.004  # of its rated light: dimmer, lamps differ too much to be told by a figure
LADDER = 12  # circuits solved between the safe value and the highest; what lies between is read off a curve


class Bench(NamedTuple):
    """One lamp alone on a source of so many ``volts``: the resistors that can be held before it (Ω, falling) and what each gives over what the word usually means
    (rising). ``held``: what the lamp is held behind, or in; ``unit`` and ``usual`` what the word usually is, in this room."""

    lamp: str
    part: str
    volts: float
    held: str
    room: str
    word: Look
    unit: str
    usual: float
    ohms: tuple[float, ...]
    levels: tuple[float, ...]

    @property
    def setup(self) -> str:
        """What comparisons with it have in common."""
        return f"{self.part}, {self.held}"


class Three(NamedTuple):
    """Three resistors (Ω) from left to right, dimmest first, with their levels over what the word usually means."""

    ohms: tuple[float, float, float]
    levels: tuple[float, float, float]

    def answered(self, answer: Answer, bench: Bench) -> Comparison:
        """The comparison as it is kept."""
        return Comparison(self.levels, answer, bench.setup)


def alone(plan: Plan, lamp: Lamp, feed: Feed, ohm: float) -> Plan:
    """A plan of this lamp and nothing else, straight on its source behind one resistor."""
    held = copy_unchecked(lamp, mount="outside", late=False, resistor_ohm=ohm, channel="", light="", lens=None)
    return Plan(kit=plan.kit, room=plan.room, feeds=(Feed(id=feed.id, supply=feed.supply),), lamps=(held,))


def _at_rated(plan: Plan, assessment: Assessment, lamp: Lamp) -> tuple[str, str, float] | None:
    """What it is held behind, the unit, and what that gives at the rated current: of its windows the one it lights most."""
    state = assessment.lamps[lamp.id]
    if lamp.mount == "outside":
        return "in its own hole, seen straight on", "mcd", state.axial_cd / state.share * 1e3
    best: tuple[float, str] | None = None
    panes = [o for o in plan.openings if o.section == state.section and o.lit > 0]
    if panes and (found := room_behind(plan, assessment, panes[0].id)) is not None:
        room, _ = found
        at = next((k for k, p in enumerate(room.lamps) if p.id == lamp.id), None)
        if at is not None:
            for k, o in enumerate(room.openings):
                if room.lit[k]:
                    best = max(best or (0.0, ""), (float(room.luminance_per_lm[k, at]), o.id))
    if best is None or best[0] <= 0.0:
        return None
    return f"behind the pane {name_of(plan, best[1])}", "cd/m²", best[0] * state.flux_lm / state.share


def _usual(catalogue: Catalogue, plan: Plan, word: Look, unit: str) -> float:
    """What a word usually means in the room of the plan."""
    room = ViewingConditions(lux=plan.room.lux, distance_m=plan.room.distance_m, looks="room")
    looks = looks_in(room, hull_of(catalogue, plan))
    return looks.pane(word) if unit == "cd/m²" else looks.point(word)


@memoize()
def bench_for(plan: Plan, assessment: Assessment, lamp_id: str) -> Bench | str:
    """The lamp on the bench with all resistors that can be tried, or why there is nothing to try."""
    lamp, state = find(plan, lamp_id), assessment.lamps.get(lamp_id)
    if not isinstance(lamp, Lamp) or state is None:
        return "Its part is in no catalogue here: choose another, and it can be tried."
    if lamp.mount == "fibre":
        return "What feeds fibres is judged at their tips. Pick a lamp behind windows, or one that is seen itself."
    lit = _at_rated(plan, assessment, lamp)
    if lit is None:
        return "No lit window is before this lamp yet: open one, or pick a lamp that is seen itself."
    held, unit, rated = lit
    word: Look = lamp.wanted.look if lamp.wanted.look not in (None, "full") else "normal"
    usual = _usual(assessment.catalogue, plan, word, unit)
    feed = next((f for f in plan.feeds if f.id == state.feed), plan.feeds[0])
    shelf = [ohm for ohm in shelf_of(plan.drawer.series, assessment.catalogue.resistors).ohms if ohm > 0.0]
    volts = assessment.feeds[feed.id].nominal_v if feed.id in assessment.feeds else 0.0
    ohms, shares = _shares(assessment.catalogue, plan, lamp, feed, shelf)
    if len(ohms) < 3:
        return (
            f"Of the drawer’s resistors {counted(len(ohms), 'value')} can be tried with this lamp on "
            f"{figure(volts)} V; it takes three."
        )
    part = assessment.catalogue.lamps[lamp.part].name
    levels = tuple(rated * s / usual for s in shares)
    return Bench(lamp_id, part, volts, held, lux_words(plan.room.lux), word, unit, usual, ohms, levels)


def _shares(
    catalogue: Catalogue, plan: Plan, lamp: Lamp, feed: Feed, shelf: list[float]
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Resistors that are safe for the lamp alone and leave it light enough, falling, each with its share of the rated light."""
    solved = {}
    low, high = shelf[0], shelf[-1]
    rungs = sorted({min(shelf, key=lambda v: abs(math.log(v / x))) for x in np.geomspace(low, high, LADDER)})
    for ohm in rungs:
        found = assess(alone(plan, lamp, feed, ohm), catalogue).lamps.get(lamp.id)
        if found is not None and found.share > 0.0:
            solved[ohm] = (found.current_a, found.fresh_a)
    if len(solved) < 2:
        return (), ()
    # Currents between the rungs, not light: what a lamp gives has a bend where its droop sets in.
    at, kind = np.log(list(solved)), lamp_model_of(catalogue, lamp)
    now, fresh = (np.exp(np.interp(np.log(shelf), at, np.log([x[k] for x in solved.values()]))) for k in (0, 1))
    share, load = relative_light(now, kind.rated_a, kind.droop), fresh / kind.rated_a
    kept = [(ohm, float(s)) for ohm, s, x in zip(shelf, share, load, strict=True) if x <= 1.0 and s >= LEAST_SHARE]
    kept = [
        k for n, k in enumerate(kept) if n + 1 == len(kept) or kept[n + 1][1] < k[1]
    ]  # each dimmer than the one before
    return tuple(o for o, _ in reversed(kept)), tuple(s for _, s in reversed(kept))


def three_of(bench: Bench, compared: tuple[Comparison, ...]) -> Three:
    """Which three to hold next, by what has been answered so far."""
    at = next_three(compared, bench.levels)
    assert at is not None  # a bench has three
    a, b, c = at
    ohms, levels = bench.ohms, bench.levels
    return Three((ohms[a], ohms[b], ohms[c]), (levels[a], levels[b], levels[c]))


class Changed(NamedTuple):
    """What one's own scale makes of a plan: what the word usually is and now is; how many resistors are others, of how many; the first of them
    with its value by the usual (Ω) and now."""

    usual: float
    now: float
    resistors: int
    of: int
    name: str = ""
    before_ohm: float = 0.0
    after_ohm: float = 0.0


def changed_by(plan: Plan, assessment: Assessment, bench: Bench) -> Changed:
    """A plan by one's own scale beside the same by the usual one, both assessed."""
    usual = assess(plan, assessment.catalogue.with_scale(1.0), assessment.cells)
    looks = assessment.looks
    now = looks.pane(bench.word) if bench.unit == "cd/m²" else looks.point(bench.word)
    both = [
        (i, usual.branches[i].resistor_ohm, b.resistor_ohm)
        for i, b in assessment.branches.items()
        if i in usual.branches and b.resistor_ohm > 0.0
    ]
    others = [x for x in both if x[1] != x[2]]
    if not others:
        return Changed(bench.usual, now, 0, len(both))
    first, before, after = others[0]
    named = assessment.branches[first].lamps
    return Changed(bench.usual, now, len(others), len(both), name_of(plan, named[0]) if named else "", before, after)
