"""The fields of patterns: what each is called, how it is read and shown; one table for all of them."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any, NamedTuple

from gwiazda.core.errors import QuantityError
from gwiazda.core.quantities import (
    figure,
    format_seconds,
    letter_code,
    parse_number,
    parse_resistance_ohm,
    parse_seconds,
    read_number,
)

LONGEST_S = 86_400.0


class PatternForm(NamedTuple):
    """How a field is read and shown; ``choices`` where it is a choice."""

    name: str
    hint: str
    read: Callable[[str], Any] = str
    show: Callable[[Any], str] = str
    choices: tuple[tuple[str, str], ...] = ()
    is_flag: bool = False


def read_share(text: str) -> float:
    """``40 %``, ``40`` or ``0.4`` as a share.

    Raises
    ------
    QuantityError
        For what is no share.
    """
    accepted = "0 to 100 %"
    value, rest = read_number(text, "Share", accepted)
    if rest not in ("", "%"):
        raise QuantityError("Share", f"“{text.strip()}” is not a share", accepted)
    share = value / 100.0 if rest == "%" or value > 1.0 else value
    if not 0.0 <= share <= 1.0:
        raise QuantityError("Share", f"{figure(value)} is out of range", accepted)
    return round(share, 4)


def read_ohms(text: str) -> tuple[float, ...]:
    """``330, 1k, -, 470``: a resistor for each step, a dash for a dark one.

    Raises
    ------
    QuantityError
        For fewer than two steps, more than ten, or what is no value.
    """
    pieces = [p for p in re.split(r"[,;\s]+", text.strip()) if p]
    if not 2 <= len(pieces) <= 10:
        raise QuantityError("Resistors", f"{len(pieces)} steps", "two to ten, such as 330, 1k, -, 470")
    return tuple(0.0 if p in ("-", "–", "0") else parse_resistance_ohm(p) for p in pieces)


def show_ohms(ohms: tuple[float, ...]) -> str:
    return ", ".join(letter_code(o) if o > 0 else "-" for o in ohms)


def read_steps(text: str) -> dict[str, Any]:
    """``0: 0, 1.5: 100, 3: 40`` as moments (s) and levels (%).

    Raises
    ------
    QuantityError
        For what is no step, or time that doesn't go forward: said which.
    """
    at, levels = [], []
    for n, piece in enumerate((p for p in re.split(r"[,;\n]+", text.strip()) if p.strip()), 1):
        time, colon, level = piece.partition(":")
        if not colon:
            raise QuantityError(
                "Steps", f"step {n}, “{piece.strip()}”, has no level", "a moment and a level, such as 1.5: 40 %"
            )
        at.append(parse_seconds(time, f"Step {n}", 0.0, LONGEST_S))
        levels.append(read_share(level))
        if n > 1 and at[-1] <= at[-2]:
            raise QuantityError(
                "Steps", f"step {n} is at {figure(at[-1])} s, after {figure(at[-2])} s", "moments that go forward"
            )
        if n > 2_000:
            raise QuantityError("Steps", "more than 2,000 steps", "up to 2,000")
    if not at:
        raise QuantityError("Steps", "there is none", "a moment and a level, such as 0: 0, 1.5: 100")
    return {"at_s": tuple(at), "levels": tuple(levels)}


def show_steps(does: Any) -> str:
    return ", ".join(f"{figure(t)}: {figure(x * 100)}" for t, x in zip(does.at_s, does.levels, strict=True))


def _time(name: str, hint: str, low: float = 0.001, rate: bool = False) -> PatternForm:
    return PatternForm(name, hint, lambda t: parse_seconds(t, name, low, LONGEST_S, rate), format_seconds)


def _percent(name: str, hint: str) -> PatternForm:
    return PatternForm(name, hint, read_share, lambda v: f"{figure(v * 100)} %")


def _whole(name: str, hint: str, low: int, high: int) -> PatternForm:
    return PatternForm(name, hint, lambda t: int(parse_number(t, name, low, high, whole=True)), str)


FIELDS: dict[str, PatternForm] = {
    "period_s": _time("Period", "how long a round takes: 1.2 s, or as a rate: 2 Hz, 50 /min", rate=True),
    "duty": _percent("On for", "share of the round it is on, 50 %"),
    "phase": _percent("Phase", "how far into its round it begins, 25 %; Alt and drag in the strip"),
    "lag": _percent("Lag", "how far each next channel is behind, in shares of the round: 50 % for two in turn"),
    "low": _percent("Low", "share of the light as wired"),
    "high": _percent("High", "share of the light as wired"),
    "level": _percent("Level", "share of the light as wired"),
    "count": _whole("Flashes", "how many one after the other, 1 to 12", 1, 12),
    "on_s": _time("Lit for", "each flash, 50 ms"),
    "gap_s": _time("Gap", "between two flashes, 150 ms"),
    "shape": PatternForm("Shape", "how it goes up and down", choices=(("sine", "soft, a sine"), ("ramp", "even, a ramp"))),
    "even": PatternForm("Even", "in steps even to the eye, or in light", choices=(("eye", "to the eye"), ("light", "in light"))),
    "rate_hz": PatternForm("Rate", "changes a second, 8 Hz", lambda t: parse_number(t, "Rate", 0.01, 1000.0, "Hz"), lambda v: f"{figure(v)} Hz"),
    "smooth": PatternForm("Smooth", "goes from one level to the next", is_flag=True),
    "seed": _whole("Seed", "another number, another pattern; the same number, the same", 0, 1_000_000),
    "ohms": PatternForm("Resistors", "one for each step, a dash for a dark one: 330, 1k, -, 470", read_ohms, show_ohms),
    "step_s": _time("A step", "how long each step takes: 0.1 s, or as a rate: 10 Hz", rate=True),
    "program": PatternForm("Program", "how it goes over the channels", choices=(
        ("run", "runs round"), ("bounce", "to and fro"), ("fill", "fills up"), ("sparkle", "sparkles"), ("walk", "random walk"), ("mixed", "one after another"),
    )),
    "width": _whole("Lit at once", "how many channels, 1 to 100", 1, 100),
    "tail": _percent("Tail", "what is left at each further step, up to 90 %"),
    "back": PatternForm("Backwards", "from the last channel to the first", is_flag=True),
    "seconds": _time("Takes", "how long the fade takes, 2 s"),
    "start": _percent("From", "share of the light as wired"),
    "end": _percent("To", "share of the light as wired"),
    "fade_s": _time("Fades in", "how long each takes to come on, 0.4 s", 0.0),
    "stages": _whole("Stages", "how many; 0: each channel its own", 0, 200),
    "share": _percent("Awake", "share of the channels that are lit"),
    "every_s": _time("Anew every", "how often each is drawn anew, 20 s"),
    "glide": PatternForm("Glide", "goes evenly from one level to the next", is_flag=True),
    "what": PatternForm("Sound", "what is played, for the cue sheet", lambda t: t.strip()[:100], str),
}  # fmt: skip
