"""The card that answers a scratch line: the circuit drawn up as a plan of its own, assessed and judged like any other."""

from __future__ import annotations

import math
import re
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.tolerance import Mismatch, tolerance_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit.series import bands
from gwiazda.core.effect.patterns import light_for_eye
from gwiazda.core.findings.electrics.circuit_rules import OVER
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.light.photometry import current_for_light
from gwiazda.core.parts.catalogue import Catalogue, built_in
from gwiazda.core.parts.lamps import LampPart
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import NORMALS, PLANES, Side
from gwiazda.core.plan.model import (
    Feed,
    Lamp,
    LampRef,
    Parallel,
    Plan,
    Resistor,
    Series,
    Supply,
    Wanted,
    copy_unchecked,
)
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure, format_current, format_hours, format_resistance
from gwiazda.core.quick.ask import STEPS, UNSAID, Asked, Bands, Identified, QuickError, parted, plain, read, words_of
from gwiazda.core.quick.bench import Told, told

APART_MM, BARE_APART_MM = 6.0, 15.0  # among other things of a plan, and where there is nothing else
MINDED = ("rating", "supply", "wiring")  # topics of findings that are about the circuit


class Value(NamedTuple):
    """A resistor of the answer: Ω, its bands, how many of it, its heat (W) while the source is fresh."""

    ohm: float
    bands: tuple[str, ...]
    number: int
    watt: float


class LampGroup(NamedTuple):
    """Lamps of the answer that come out alike: current (A), light over that at rated current."""

    name: str
    number: int
    current_a: float
    share: float
    rgb: tuple[float, float, float]


class Choice(NamedTuple):
    """One of three looks to choose from: its word for the line, what it is called, the value most of the lamps hang on (Ω), each lamp's current (A), draw
    (A) and hours."""

    word: str
    name: str
    ohm: float
    current_a: float
    draw_a: float
    hours: float

    def said(self, series: str) -> str:
        """As a line."""
        read_as = (
            ", ".join(x for x in (format_resistance(self.ohm), " ".join(bands(self.ohm, series))) if x)
            if self.ohm
            else "no resistor"
        )
        safe = ", the usual safe value" if self.word == "full" else ""
        hours = f", {format_hours(self.hours)}" if math.isfinite(self.hours) else ""
        return f"{self.name}: {read_as}; {format_current(self.current_a)} each{hours}{safe}"


THREE = (("quarter", "a quarter as bright to the eye"), ("half", "half as bright to the eye"), ("full", "full light"))


class Answer(NamedTuple):
    """What a line comes to. ``title`` says it in words, ``taken`` what was assumed, ``mind`` what to mind."""

    title: str
    resistors: tuple[Value, ...]
    lights: tuple[LampGroup, ...]
    draw_a: float
    hours: float
    ends: str
    taken: tuple[str, ...]
    mind: tuple[str, ...]
    asked: Asked
    choices: tuple[Choice, ...]  # where nothing was said of how bright
    stray: tuple[float, float]  # 5 and 95 % of the first lamp's current (A), with what parts and source stray
    mismatch: Mismatch | None

    def lines(self) -> tuple[str, ...]:
        """The card as text."""
        out = [self.title, *(c.said("E24") for c in self.choices)]
        for r in self.resistors:
            several = f"{r.number} × " if r.number > 1 else ""
            read_as = f", {' '.join(r.bands)}" if r.bands else ""
            out.append(f"{several}{format_resistance(r.ohm)}{read_as}; {figure(r.watt * 1e3)} mW each")
        if not self.resistors:
            out.append("no resistor")
        for x in self.lights:
            out.append(
                f"{x.number} × {x.name}: {format_current(x.current_a)}, {figure(x.share * 100.0, 2)} % of its light"
            )
        out.append(
            f"draws {format_current(self.draw_a)}"
            + (f", {format_hours(self.hours)} to {self.ends}" if math.isfinite(self.hours) else "")
        )
        stray = f"parts and source stray: {format_current(self.stray[0])} to {format_current(self.stray[1])}"
        out.append(stray + (f"; {self.mismatch.words}" if self.mismatch is not None else ""))
        if self.taken:
            out.append("taken: " + "; ".join(self.taken))
        out += self.mind
        return tuple(out)


def answer(text: str, catalogue: Catalogue, series: str = "E12") -> Answer | Bands | Identified | Told:
    """Answer a scratch line; ``series`` is what the drawer holds.

    Raises
    ------
    QuickError
        When the line isn't clear.
    """
    other = told(plain(text), catalogue, series)
    if other is not None:
        return other
    asked = read(text, catalogue, series)
    if isinstance(asked, (Bands, Identified)):
        return asked
    plan = plan_of(asked, series, catalogue)
    assessment = assess(plan, catalogue)
    _within_rating(asked, assessment, catalogue, series)
    names = {name_of(plan, lamp.id): catalogue.lamps[lamp.part].colour for lamp in plan.lamps}
    mind = tuple(_plainly(f.sentence, names) for f in evaluate_rules(plan, assessment) if f.topic in MINDED)
    spread = tolerance_of(plan, assessment)
    low, _, high = spread.lamps[plan.lamps[0].id].current_a
    return Answer(
        words_of(asked, catalogue), _resistors(plan, assessment, series), _lights(assessment, catalogue), assessment.supply.draw_a,
        assessment.supply.hours, assessment.supply.ends, asked.taken, mind, asked, _three(asked, catalogue, series), (low, high),
        spread.mismatches[0] if spread.mismatches else None,
    )  # fmt: skip


def _three(asked: Asked, catalogue: Catalogue, series: str) -> tuple[Choice, ...]:
    """The three looks to choose from, where nothing was said of how bright."""
    if UNSAID not in asked.taken:
        return ()
    out = []
    for word, name in THREE:
        assessment = assess(plan_of(asked._replace(look=word), series, catalogue), catalogue)
        ohms = [b.resistor_ohm for b in assessment.branches.values()]
        first = next(iter(assessment.lamps.values()))
        out.append(
            Choice(
                word,
                name,
                max(set(ohms), key=ohms.count, default=0.0),
                first.current_a,
                assessment.supply.draw_a,
                assessment.supply.hours,
            )
        )
    return tuple(out)


def _within_rating(asked: Asked, assessment: Assessment, catalogue: Catalogue, series: str) -> None:
    """Raise QuickError where what was named would burn lamps out: that is no answer to give."""
    rated = min(g.part.rated_ma for g in asked.groups) / 1e3
    if asked.current_a is not None and asked.current_a > rated * OVER:
        raise QuickError(
            "Current", f"{format_current(asked.current_a)} are more than the {format_current(rated)} these lamps are rated for",
            f"{format_current(rated)} or less",
        )  # fmt: skip
    worst = max(assessment.lamps.values(), key=lambda s: s.current_a / s.rated_a)
    if asked.ohm is None or worst.current_a <= worst.rated_a * OVER:
        return
    safe = assess(plan_of(asked._replace(ohm=None, current_a=rated, look=None), series, catalogue), catalogue)
    ohm = max((r.resistor_ohm for r in safe.branches.values()), default=0.0)
    raise QuickError(
        "Resistor", f"{format_resistance(asked.ohm)} would let {format_current(worst.current_a)} through each lamp, which is rated for "
        f"{format_current(worst.rated_a)}: it would burn out", f"{format_resistance(ohm)}, or leave the resistor out, and the value is found",
    )  # fmt: skip


def _plainly(sentence: str, names: dict[str, str]) -> str:
    """A finding's sentence without the lamps' names, which nobody has seen: “these 3 lamps” or “the red one”."""

    def word(found: re.Match[str]) -> str:
        return f"these {int(found[2]) + 1} lamps" if found[2] else f"the {names[found[1]]} one"

    every = "|".join(re.escape(name) for name in sorted(names, key=len, reverse=True))
    said = re.sub(rf"({every})(?!\d)(?: and (\d+) more(?: in its string| on its resistor| on it)?)?", word, sentence)
    return said[:1].upper() + said[1:]


def plan_of(asked: Asked, series: str = "E12", catalogue: Catalogue | None = None) -> Plan:
    """The circuit as a plan: its lamps in a row, seen themselves, and its one feed."""
    plan = Plan(
        feeds=(Feed(id="supply", supply=Supply(part=asked.source, in_series=asked.in_series, volts=asked.volts)),)
    )
    plan = copy_unchecked(plan, drawer=copy_unchecked(plan.drawer, series=series))
    return added(plan, asked, (0.0, 0.0, 0.0), catalogue=catalogue or built_in())[0]


def added(
    plan: Plan, asked: Asked, at: tuple[float, float, float], side: Side = "port", catalogue: Catalogue | None = None
) -> tuple[Plan, list[str]]:
    """A plan with the circuit's lamps in a row from ``at`` on (mm), looking out of ``side``, hung on its first feed; and
    their ids.

    The plan's own source stays, unless nothing has been chosen or hung on it yet: it is that of the circuit then.
    """
    catalogue = catalogue or built_in()
    count = sum(g.number for g in asked.groups)
    ids = edits.fresh_ids(plan, "scratch.lamp", count)
    parts = [g.part for g in asked.groups for _ in range(g.number)]
    own = asked.ohm if asked.hang == "each" or count == 1 else None
    x, y, z = (float(n) for n in NORMALS[side])
    along = np.eye(3)[PLANES[side][0]] * (APART_MM if plan.sections else BARE_APART_MM)

    def place(i: int) -> tuple[float, float, float]:
        a, b, c = (np.array(at) + along * i).tolist()
        return a, b, c

    lamps = [
        Lamp(
            id=key, part=part.id, at=place(i), aim=(x, y, z), mount="outside",
            wanted=wanted_of(asked, part, catalogue), resistor_ohm=own,
        )
        for i, (key, part) in enumerate(zip(ids, parts, strict=True))
    ]  # fmt: skip
    if not plan.lamps and plan.feeds == Plan().feeds:
        supply = Supply(part=asked.source, in_series=asked.in_series, volts=asked.volts)
        plan = copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], supply=supply),))
    plan = copy_unchecked(plan, lamps=(*plan.lamps, *lamps))
    if asked.hang == "each" or count == 1:
        return plan, ids
    items: list[Series] = []
    names = edits.fresh_ids(plan, "scratch.string", asked.shares)
    for name, share in zip(names, parted(ids, asked.shares), strict=True):
        hung = tuple(LampRef(lamp=i) for i in share)
        inner = hung if asked.hang == "series" or len(hung) == 1 else (Parallel(id=f"{name}.p", items=hung),)
        items.append(Series(id=name, items=(Resistor(id=f"{name}.r", ohm=asked.ohm), *inner)))
    first = plan.feeds[0]
    return copy_unchecked(plan, feeds=(copy_unchecked(first, items=(*first.items, *items)), *plan.feeds[1:])), ids


def wanted_of(asked: Asked, part: LampPart, catalogue: Catalogue) -> Wanted:
    """What is wanted of a lamp: the current that was said, or that which is as bright to the eye as was said."""
    if asked.current_a is not None:
        return Wanted(current_ma=asked.current_a * 1e3)
    step = STEPS[asked.look or "half"]
    if step >= 1.0:
        return Wanted(look="full")
    rated = part.rated_ma * 1e-3
    share = float(light_for_eye(np.array([step]))[0])
    return Wanted(current_ma=round(current_for_light(share, rated, catalogue.families[part.family].droop) * 1e3, 6))


def _resistors(plan: Plan, assessment: Assessment, series: str) -> tuple[Value, ...]:
    groups: dict[tuple[float, float], int] = {}
    for branch in assessment.branches.values():
        if branch.resistor_ohm > 0:
            key = (branch.resistor_ohm, round(branch.resistor_w, 9))
            groups[key] = groups.get(key, 0) + 1
    return tuple(Value(ohm, bands(ohm, series), count, watt) for (ohm, watt), count in groups.items())


def _lights(assessment: Assessment, catalogue: Catalogue) -> tuple[LampGroup, ...]:
    groups: dict[tuple[str, float], LampGroup] = {}
    for lamp in assessment.lamps.values():
        key = (lamp.part, round(lamp.current_a, 9))
        count = groups[key].number if key in groups else 0
        groups[key] = LampGroup(catalogue.lamps[lamp.part].name, count + 1, lamp.current_a, lamp.share, lamp.rgb)
    return tuple(groups.values())
