"""What cues do, in words of the bench."""

from __future__ import annotations

import math

from gwiazda.core.plan.model import (
    Awake,
    Blink,
    Chase,
    Counter,
    Cue,
    Fade,
    Flashes,
    Flicker,
    Pattern,
    Pulse,
    Sound,
    Stages,
    Steady,
    Steps,
)
from gwiazda.core.quantities import counted, figure, format_seconds

KINDS: dict[str, str] = {
    "steady": "steady", "blink": "blink", "flashes": "flashes", "pulse": "pulse", "flicker": "flicker",
    "counter": "counter and resistors", "chase": "chase", "fade": "fade", "stages": "start-up", "awake": "who is awake",
    "steps": "steps", "sound": "sound",
}  # fmt: skip
STACKS = {"base": "what they do", "modifier": "dims what they do", "mask": "lets it through or not"}
PROGRAMS = {
    "run": "runs", "bounce": "runs to and fro", "fill": "fills up", "sparkle": "sparkles", "walk": "walks at random",
    "mixed": "runs, bounces, fills, sparkles",
}  # fmt: skip


def kind_of(does: Pattern) -> str:
    """The word a plan file has for a pattern."""
    return str(type(does).__struct_config__.tag)


def _rate(period_s: float) -> str:
    a_minute = 60.0 / period_s
    return f"{figure(a_minute, 3)} a minute" if 6 <= a_minute <= 300 else f"every {format_seconds(period_s)}"


def _levels(low: float, high: float) -> str:
    return "" if (low, high) == (0.0, 1.0) else f", {low * 100:.0f} to {high * 100:.0f} %"


def pattern_words(does: Pattern) -> str:
    """One pattern in a few words, for a tag or a table."""
    if isinstance(does, Steady):
        return "steady" if does.level == 1.0 else f"steady at {does.level * 100:.0f} %"
    if isinstance(does, Blink):
        return f"blinks {_rate(does.period_s)}, on {does.duty * 100:.0f} % of it{_levels(does.low, does.high)}"
    if isinstance(does, Flashes):
        many = {1: "flash", 2: "double flash", 3: "triple flash"}.get(does.count, f"{does.count} flashes")
        return f"{many} of {format_seconds(does.on_s)}, {_rate(does.period_s)}"
    if isinstance(does, Pulse):
        return f"pulses {_rate(does.period_s)}{_levels(does.low, does.high)}" + (", in turn" if does.lag else "")
    if isinstance(does, Flicker):
        return f"flickers {figure(does.rate_hz)} times a second{_levels(does.low, does.high)}"
    if isinstance(does, Counter):
        return f"{counted(len(does.ohms), 'resistor')} in turn, {figure(does.rate_hz)} a second"
    if isinstance(does, Chase):
        return f"{PROGRAMS[does.program]}, a step each {format_seconds(does.step_s)}"
    if isinstance(does, Fade):
        return f"{does.start * 100:.0f} to {does.end * 100:.0f} % in {format_seconds(does.seconds)}"
    if isinstance(does, Stages):
        return f"comes on in {f'{does.stages} stages' if does.stages else 'turn'}, every {format_seconds(does.step_s)}"
    if isinstance(does, Awake):
        return f"{does.share * 100:.0f} % awake, drawn anew every {format_seconds(does.every_s)}"
    if isinstance(does, Steps):
        return f"{counted(len(does.at_s), 'step')} to {format_seconds(does.at_s[-1])}"
    assert isinstance(does, Sound)
    return f"plays {does.what or 'its sound'}"


def when_words(cue: Cue) -> str:
    """When a cue is on."""
    begins = (
        f"{format_seconds(cue.start_s)} after {cue.trigger}" if cue.trigger else f"from {format_seconds(cue.start_s)}"
    )
    if cue.length_s is None or not math.isfinite(cue.length_s):
        return f"{begins} on"
    again = f", again every {format_seconds(cue.again_s)}" if cue.again_s is not None else ""
    return f"{begins} for {format_seconds(cue.length_s)}{again}"
