"""Channels and what they do in time: boards that drive them, patterns placed on them as cues, events that start cues.

Levels are shares of the light a channel gives as wired, 0 dark and 1 full. Times are seconds.
"""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.model.base import Id, Model, Name80, Name100, Ohm, Part, Share
from gwiazda.core.plan.refs import Ref

LONGEST_S = 86_400.0
Moment = Annotated[float, Meta(ge=0.0, le=LONGEST_S)]
Period = Annotated[float, Meta(ge=0.001, le=LONGEST_S)]
Seed = Annotated[int, Meta(ge=0, le=1_000_000)]
Rate = Annotated[float, Meta(gt=0.0, le=1_000.0)]


class Board(Model, frozen=True, kw_only=True):
    """What drives channels: a flasher, a chaser, a controller, a relay, a timer with a counter.

    ``speed``: how much faster than written it runs; boards side by side are never alike. Where its rate is set by a resistor
    and a capacitor, ``r1_ohm``, ``r2_ohm`` and ``c_uf`` are they, ``diode`` one across the second. ``home`` is the section it
    stands in, the base or the table if none. ``made``: bought ready, or soldered on a board of holes with tracks or with pads.
    """

    id: Id
    name: Name100 = ""
    part: Part = "controller-5v"
    speed: Annotated[float, Meta(gt=0.0, le=20.0)] = 1.0
    r1_ohm: Ohm | None = None
    r2_ohm: Ohm | None = None
    c_uf: Annotated[float, Meta(gt=0.0, le=100_000.0)] | None = None
    diode: bool = False
    home: Annotated[Name80, Ref("sections")] = ""
    made: Literal["bought", "strip board", "pad board"] = "bought"


class Channel(Model, frozen=True, kw_only=True):
    """Lamps that do the same at the same time. ``output`` counts from 1 on its board, 0 where none is chosen yet; ``rest`` is what
    it does where no cue is on it."""

    id: Id
    name: Name100 = ""
    board: Annotated[Name80, Ref("boards")] = ""
    output: Annotated[int, Meta(ge=0, le=256)] = 0
    rest: Literal["lit", "dark"] = "lit"


class Trigger(Model, frozen=True, kw_only=True):
    """An event that starts cues: a button, a magnet passing a reed switch. ``at_s``: when it comes in the rehearsal."""

    id: Id
    name: Name100 = ""
    by: Literal["button", "magnet"] = "button"
    at_s: Annotated[tuple[Moment, ...], Meta(max_length=200)] = ()


class Pattern(Model, tag_field="is", frozen=True, kw_only=True):
    """What a cue does."""


class Steady(Pattern, tag="steady", frozen=True, kw_only=True):
    """One level."""

    level: Share = 1.0


class Blink(Pattern, tag="blink", frozen=True, kw_only=True):
    """On for ``duty`` of each period. Each further channel is ``lag`` of a period behind the one before."""

    period_s: Period = 1.0
    duty: Share = 0.5
    phase: Share = 0.0
    lag: Share = 0.0
    low: Share = 0.0
    high: Share = 1.0


class Flashes(Pattern, tag="flashes", frozen=True, kw_only=True):
    """So many short flashes, then dark: one for a strobe, two for a double flash."""

    period_s: Period = 1.2
    count: Annotated[int, Meta(ge=1, le=12)] = 2
    on_s: Period = 0.05
    gap_s: Period = 0.15
    phase: Share = 0.0
    lag: Share = 0.0
    low: Share = 0.0
    high: Share = 1.0

    def __post_init__(self) -> None:
        if self.count * self.on_s + (self.count - 1) * self.gap_s > self.period_s + 1e-9:
            raise ValueError("the flashes last longer than their period")


class Pulse(Pattern, tag="pulse", frozen=True, kw_only=True):
    """Up and down between two levels, as a sine or a ramp, even to the eye or in light. With two channels and a lag of a half
    it throbs between their colours."""

    period_s: Period = 2.0
    low: Share = 0.1
    high: Share = 1.0
    shape: Literal["sine", "ramp"] = "sine"
    even: Literal["eye", "light"] = "eye"
    phase: Share = 0.0
    lag: Share = 0.0


class Flicker(Pattern, tag="flicker", frozen=True, kw_only=True):
    """A level drawn anew ``rate_hz`` times a second, each channel for itself; ``smooth``: going from one to the next."""

    rate_hz: Rate = 8.0
    low: Share = 0.3
    high: Share = 1.0
    smooth: bool = True
    seed: Seed = 1


class Counter(Pattern, tag="counter", frozen=True, kw_only=True):
    """A counter stepped by a timer, each output with a resistor of its own to the same lamps: a flicker without a program.

    ``ohms``: one resistor a step in turn, 0 for a step with none, which is dark. The rate is the board's where its parts say
    one.
    """

    rate_hz: Rate = 8.0
    ohms: Annotated[
        tuple[Annotated[float, Meta(ge=0.0, le=1e9)], ...], Meta(min_length=2, max_length=10)
    ] = (330.0, 1000.0, 470.0, 2200.0, 330.0, 680.0, 0.0, 1500.0, 390.0, 1000.0)  # fmt: skip


class Chase(Pattern, tag="chase", frozen=True, kw_only=True):
    """Light that runs over the channels in order. ``width`` are lit at once, behind them ``tail`` is left at each further step;
    mixed: run, bounce, fill and sparkle in turn."""

    step_s: Period = 0.1
    program: Literal["run", "bounce", "fill", "sparkle", "walk", "mixed"] = "run"
    width: Annotated[int, Meta(ge=1, le=100)] = 1
    tail: Annotated[float, Meta(ge=0.0, le=0.9)] = 0.0
    low: Share = 0.0
    high: Share = 1.0
    back: bool = False
    seed: Seed = 1


class Fade(Pattern, tag="fade", frozen=True, kw_only=True):
    """From one level to another within ``seconds``, and there it stays while the cue lasts."""

    seconds: Period = 2.0
    start: Share = 0.0
    end: Share = 1.0
    even: Literal["eye", "light"] = "eye"


class Stages(Pattern, tag="stages", frozen=True, kw_only=True):
    """A start-up: the channels come on one after another, every ``step_s``, each within ``fade_s``; ``stages``: how many, the
    channels spread evenly over them, each its own where it is 0."""

    step_s: Period = 1.0
    fade_s: Moment = 0.4
    stages: Annotated[int, Meta(ge=0, le=200)] = 0


class Awake(Pattern, tag="awake", frozen=True, kw_only=True):
    """Who is awake: a share of the channels lit, drawn anew every so often, each at a moment of its own."""

    share: Share = 0.6
    every_s: Period = 20.0
    seed: Seed = 1


class Steps(Pattern, tag="steps", frozen=True, kw_only=True):
    """Levels at moments, held until the next, or going there evenly."""

    at_s: Annotated[tuple[Moment, ...], Meta(min_length=1, max_length=2_000)] = (0.0,)
    levels: Annotated[tuple[Share, ...], Meta(min_length=1, max_length=2_000)] = (1.0,)
    glide: bool = False

    def __post_init__(self) -> None:
        if len(self.at_s) != len(self.levels):
            raise ValueError("a level for each moment")
        if any(b <= a for a, b in zip(self.at_s, self.at_s[1:], strict=False)):
            raise ValueError("the moments don't go forward")


class Sound(Pattern, tag="sound", frozen=True, kw_only=True):
    """A sound module played: its output is on for as long as the cue lasts."""

    what: Name100 = ""


Does = (
    Steady | Blink | Flashes | Pulse | Flicker | Counter | Chase | Fade | Stages | Awake | Steps | Sound
)  # fmt: skip


class Cue(Model, frozen=True, kw_only=True):
    """A pattern on channels, from a moment on (of the show, or after its trigger), for a length or for good, once or again and
    again. A base says what the channels do, a modifier is multiplied onto it, a mask lets it through or not."""

    id: Id
    name: Name100 = ""
    channels: Annotated[
        tuple[Annotated[Id, Ref("channels", "drop")], ...], Meta(min_length=1, max_length=256)
    ]  # fmt: skip
    does: Does = Steady()
    start_s: Moment = 0.0
    length_s: Period | None = None
    again_s: Period | None = None
    stack: Literal["base", "modifier", "mask"] = "base"
    trigger: Annotated[Name80, Ref("triggers", "cascade")] = ""

    def __post_init__(self) -> None:
        if self.again_s is not None and (self.length_s is None or self.length_s > self.again_s + 1e-9):
            raise ValueError("what comes again has a length, and no more than until it comes again")
