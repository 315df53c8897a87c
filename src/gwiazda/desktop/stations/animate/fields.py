"""The fields of patterns: what each is called, how it is read and shown; one table for all of them."""

from __future__ import annotations

import re
from typing import Any

from gwiazda.core.errors import QuantityError
from gwiazda.core.quantities import (
    figure,
    format_seconds,
    letter_code,
    parse_resistance_ohm,
    parse_seconds,
    read_number,
)
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, Number, Quantity, Text, whole

LONGEST_S = 86_400.0


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


def _time(path: str, label: str, help_: str, low: float = 0.001, rate: bool = False) -> Field:
    read = Quantity(lambda t: parse_seconds(t, label, low, LONGEST_S, rate), format_seconds)
    return Field(path, label, read, help_)


def _share(path: str, label: str, help_: str) -> Field:
    return Field(path, label, Quantity(read_share, lambda v: f"{figure(v * 100)} %"), help_)


def _whole(path: str, label: str, help_: str, low: int, high: int) -> Field:
    return Field(path, label, whole(low, high), help_)


OF_THE_LIGHT = "Share of the light as wired"
_ALL = (
    _time("period_s", "Period", "How long a round takes: 1.2 s, or as a rate: 2 Hz, 50 /min", rate=True),
    _share("duty", "On for", "Share of the round it is on, 50 %"),
    _share("phase", "Phase", "How far into its round it begins, 25 %; Alt and drag in the strip"),
    _share("lag", "Lag", "How far each next channel is behind, in shares of the round: 50 % for two in turn"),
    _share("low", "Low", OF_THE_LIGHT),
    _share("high", "High", OF_THE_LIGHT),
    _share("level", "Level", OF_THE_LIGHT),
    _whole("count", "Flashes", "How many one after the other", 1, 12),
    _time("on_s", "Lit for", "Each flash, 50 ms"),
    _time("gap_s", "Gap", "Between two flashes, 150 ms"),
    Field("shape", "Shape", Choice((("sine", "soft, a sine"), ("ramp", "even, a ramp"))), "How it goes up and down"),
    Field("even", "Even", Choice((("eye", "to the eye"), ("light", "in light"))), "In steps even to the eye, or in light"),
    Field("rate_hz", "Rate", Number("Hz", 0.01, 1000.0), "Changes a second, 8 Hz"),
    Field("smooth", "", Flag("smooth"), "Goes from one level to the next", name="Smooth"),
    _whole("seed", "Pattern number", "Another number, another pattern; the same number, the same", 0, 1_000_000),
    Field("ohms", "Resistors", Quantity(read_ohms, show_ohms), "One for each step, a dash for a dark one: 330, 1k, -, 470"),
    _time("step_s", "A step", "How long each step takes: 0.1 s, or as a rate: 10 Hz", rate=True),
    Field("program", "Program", Choice((
        ("run", "runs round"), ("bounce", "to and fro"), ("fill", "fills up"), ("sparkle", "sparkles"), ("walk", "random walk"), ("mixed", "one after another"),
    )), "How it goes over the channels"),
    _whole("width", "Lit at once", "How many channels", 1, 100),
    _share("tail", "Tail", "What is left at each further step, up to 90 %"),
    Field("back", "", Flag("backwards"), "From the last channel to the first", name="Backwards"),
    _time("seconds", "Takes", "How long the fade takes, 2 s"),
    _share("start", "From", OF_THE_LIGHT),
    _share("end", "To", OF_THE_LIGHT),
    _time("fade_s", "Fades in", "How long each takes to come on, 0.4 s", 0.0),
    _whole("stages", "Stages", "How many; 0: each channel its own", 0, 200),
    _share("share", "Awake", "Share of the channels that are lit"),
    _time("every_s", "Anew every", "How often each is drawn anew, 20 s"),
    Field("glide", "", Flag("glide"), "Goes evenly from one level to the next", name="Glide"),
    Field("what", "Sound", Text(100), "What is played, for the cue sheet"),
    Field("at_s", "Steps", Quantity(read_steps, str), "Moments and levels: 0: 0, 1.5: 100, 3: 40 %", get=show_steps),
)  # fmt: skip
FIELDS: dict[str, Field] = {f.path: f for f in _ALL}
