"""What is judged of channels in time: cues that contradict each other, peaks that meet, flashing that harms."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

from gwiazda.core.assess.show.outputs import cues_on
from gwiazda.core.assess.show.show import length_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.effect.score import changes_per_s
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import without
from gwiazda.core.memo import memoize
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import (
    Blink,
    Cue,
    Flashes,
    Plan,
)
from gwiazda.core.plan.naming import channel_name, name_of
from gwiazda.core.quantities import figure, format_current

# Large flashes harm from about 3 a second, worst between 15 and 25, hardly beyond 30 (docs/computation.md, flashing).
RISK_HZ = (3.0, 30.0)
LARGE_SR = 0.006  # a quarter of the middle 10° of sight (WCAG 2.3.1)


def _name(cue: Cue) -> str:
    return cue.name or cue.id


def _end(cue: Cue) -> float:
    """When a cue ends for good (s)."""
    return math.inf if cue.length_s is None or cue.again_s is not None else cue.start_s + cue.length_s


def _meet(a: Cue, b: Cue) -> float | None:
    """When two cues are first on at once (s); None where they never are."""
    first, second = sorted((a, b), key=lambda c: c.start_s)
    if first.trigger != second.trigger:
        return None  # what a trigger starts goes before what is on the clock, as long as it lasts
    if first.again_s is None or first.length_s is None:
        return second.start_s if second.start_s < _end(first) - 1e-9 else None
    at, until = second.start_s, min(_end(second), second.start_s + (second.length_s or first.again_s))
    while at < until:
        within = (at - first.start_s) % first.again_s
        if within < first.length_s - 1e-9:
            return at
        at += first.again_s - within
    return None


def overlapping(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Two base cues on one channel at once: the later one wins, and that is seldom what was meant."""
    said: set[tuple[str, str]] = set()
    for channel in plan.channels:
        mine = [c for c in cues_on(plan, channel.id) if c.stack == "base"]
        for i, a in enumerate(mine):
            for b in mine[i + 1 :]:
                at = _meet(a, b)
                first, second = sorted((a, b), key=lambda c: c.start_s)
                if at is None or (first.id, second.id) in said:
                    continue
                said.add((first.id, second.id))
                fixes = [Fix(f"Lay {_name(second)} over it as a modifier", _cue(second.id, stack="modifier"))]
                if second.start_s > first.start_s and first.again_s is None:
                    length = round(second.start_s - first.start_s, 3)
                    fixes.insert(0, Fix(f"End {_name(first)} there", _cue(first.id, length_s=length)))
                yield Finding(
                    "cues-overlap", "stop", "cue", second.id, at,
                    f"{_name(first)} and {_name(second)} are both on {channel_name(plan, channel.id)} from {figure(at)} s on. "
                    "One channel can do one thing at a time.",
                    tuple(fixes),
                )  # fmt: skip


def _cue(cue_id: str, **fields: object) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_cue(plan, cue_id, **fields)


def empty_channel(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A cue on channels that no lamp plays on."""
    played = {p.channel for p in plan.lamps} | set(edits.outputs_of_channels(plan))
    for cue in plan.cues:
        empty = [c for c in cue.channels if c not in played]
        if empty:
            names = ", ".join(channel_name(plan, c) for c in empty[:3]) + (" …" if len(empty) > 3 else "")
            yield Finding(
                "empty-channel", "look", "cue", cue.id, float(len(empty)),
                f"{_name(cue)} plays on {names}, and no lamp is on {'it' if len(empty) == 1 else 'them'}.",
                (Fix("Take the empty channels out", without(*empty)),),
            )  # fmt: skip


@memoize(slots=2)
def _busy(score: object, seconds: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
    rate, swing = changes_per_s(score, 0.0, seconds)  # type: ignore[arg-type]
    return tuple(rate.tolist()), tuple(swing.tolist())


def flash_rates(plan: Plan, assessment: Assessment) -> dict[str, float]:
    """Flashes a second of each channel in its busiest second, of those that swing by half or more of their light."""
    rate, swing = _busy(assessment.effects.score, length_of(plan.cues))
    return {
        name: r for name, r, s in zip(assessment.effects.score.names, rate, swing, strict=True) if s >= 0.5 and r > 0
    }


def lit_sr(plan: Plan, assessment: Assessment, channels: set[str]) -> float:
    """How large what channels light is to the eye (sr): their openings' and lamps' area over the distance squared."""
    area = 0.0
    homes = {s.section for s in assessment.lamps.values() if s.channel in channels and s.section}
    for o in plan.openings:
        if o.section in homes and o.lit > 0:
            area += o.area_mm2
    for lamp in assessment.lamps.values():
        if lamp.channel in channels and lamp.section is None:
            part = assessment.catalogue.lamps[lamp.part]
            area += math.pi * part.face_mm**2 / 4.0
    return area * 1e-6 / plan.room.distance_m**2


def fast_flashing(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Flashing of a rate that harms photosensitive viewers; the more the larger it is."""
    if not assessment.effects.moves:
        return
    rates = {c: r for c, r in flash_rates(plan, assessment).items() if RISK_HZ[0] < r <= RISK_HZ[1]}
    if not rates:
        return
    size = lit_sr(plan, assessment, set(rates))
    worst = max(rates, key=lambda c: rates[c])
    subject = next((c.id for c in plan.cues if worst in c.channels), worst)
    large = size >= LARGE_SR
    slower = [c for c in plan.cues if worst in c.channels and isinstance(c.does, Blink | Flashes)]
    fixes = tuple(
        Fix("Slow it to 2 a second", _slowed(c.id, rates[worst] / 2.0)) for c in slower[:1]
    )  # fmt: skip
    yield Finding(
        "flashing", "stop" if large else "look", "cue", subject, rates[worst],
        f"{channel_name(plan, worst)} flashes {rates[worst]:.0f} times a second, between 3 and 30: that can harm photosensitive viewers"
        + (f", and it fills {size / LARGE_SR:.1f} × the part of sight that is held safe. Slow it down." if large
           else ". It is small from where it is seen; warn before showing it close up or filmed."),
        fixes,
    )  # fmt: skip


def _slowed(cue_id: str, times: float) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        does = edits.cue_of(plan, cue_id).does
        assert isinstance(does, Blink | Flashes)
        period = round(does.period_s * times, 3)
        return edits.set_pattern(plan, cue_id, period_s=period)

    return edit


def peaks(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Peaks that coincide and ask more of a source than it gives, where apart they would do."""
    for feed in plan.feeds:
        show, supply = assessment.effects.feeds[feed.id], assessment.feeds[feed.id]
        if (
            not assessment.effects.moves
            or not supply.limit_a
            or show.peak_a <= supply.limit_a
            or show.mean_a > supply.limit_a
        ):
            continue
        flashing = [c for c in plan.cues if isinstance(c.does, Blink | Flashes)]
        fixes = (
            (Fix("Put the flashes after one another", _staggered),)
            if len(flashing) > 1 or any(len(c.channels) > 1 for c in flashing)
            else ()
        )
        yield Finding(
            "peaks", "look", "cue", flashing[0].id if flashing else feed.id, show.peak_a / supply.limit_a,
            f"At {figure(show.peak_s)} s the channels take {format_current(show.peak_a)} together from {feed.name or supply.name}, which gives "
            f"{format_current(supply.limit_a)}; on average they take {format_current(show.mean_a)}.",
            fixes,
        )  # fmt: skip


def _staggered(plan: Plan) -> Plan:
    """Flashes of all cues spread over their periods: within a cue by a lag, among cues by their phase."""
    flashing = [c for c in plan.cues if isinstance(c.does, Blink | Flashes)]
    for k, cue in enumerate(flashing):
        n = len(cue.channels)
        plan = edits.set_pattern(
            plan, cue.id, phase=round(k / len(flashing), 3), lag=round(1.0 / n, 3) if n > 1 else 0.0
        )
    return plan


def _pressed(trigger_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_trigger(plan, trigger_id, at_s=(2.0,))


def idle_cue(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A cue that a trigger starts which never comes in the rehearsal."""
    for t in plan.triggers:
        mine = [c for c in plan.cues if c.trigger == t.id]
        if mine and not t.at_s:
            yield Finding(
                "never-pressed", "look", "cue", mine[0].id, float(len(mine)),
                f"{name_of(plan, t.id)} is never pressed in the rehearsal: {_name(mine[0])} isn’t seen.",
                (Fix("Press it at 2 s", _pressed(t.id)), Fix("Take it out", without(t.id))),
            )  # fmt: skip


EFFECT_RULES = (overlapping, empty_channel, fast_flashing, peaks, idle_cue)
