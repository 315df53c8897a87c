"""How a kit is put together: orders that were chosen, what is done, seals, evenings."""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.model.base import Id, Model, Name80, Name100
from gwiazda.core.plan.refs import Ref

Day = Annotated[str, Meta(pattern=r"^(\d{4}-\d{2}-\d{2})?$")]  # a local date
Moment = Annotated[str, Meta(pattern=r"^(\d{4}-\d{2}-\d{2}( \d{2}:\d{2})?)?$")]  # local date and time
Minutes = Annotated[float, Meta(ge=0.0, le=100_000.0)]
StepKey = Annotated[str, Meta(min_length=1, max_length=160)]
Text = Annotated[str, Meta(max_length=2_000)]


class Orders(Model, frozen=True, kw_only=True):
    """Choices of order. Each has its reasons; what follows from it is in the steps.

    ``paint``: sub-assemblies before they are joined, or the whole after, or in one's own way, with no steps for it. ``glaze``: before the lamps, to see how many it takes,
    or after. ``circuit``: on a breadboard first, or wired in place and lit after every joint. ``base``: first or last.
    ``rebuild``: a finished model taken apart. ``bare``: closed and lit once before it is blackened, as clear shells are.
    """

    paint: Literal["after joining", "before joining", "my own way"] = "after joining"
    glaze: Literal["before lamps", "after lamps"] = "before lamps"
    circuit: Literal["in place", "breadboard first"] = "in place"
    base: Literal["last", "first"] = "last"
    rebuild: bool = False
    bare: bool = False


class SectionOrder(Model, frozen=True, kw_only=True):
    """A section whose order differs from the kit's; ``late``: a unit that is pushed in ready after the rest is closed. ``hand``:
    which side it belongs to, where a left and a right look alike."""

    id: Id
    section: Annotated[Id, Ref("sections", "cascade")]
    paint: Literal["", "after joining", "before joining"] = ""
    glaze: Literal["", "before lamps", "after lamps"] = ""
    late: bool = False
    hand: Literal["", "port", "starboard"] = ""


class OwnStep(Model, frozen=True, kw_only=True):
    """A step of one's own: after some, before others. ``arrives``: not before that day, as what is ordered. ``kind``: the kind of step it is
    done like, with its session and its caution."""

    id: Id
    name: Name100
    section: Annotated[Name80, Ref("sections")] = ""
    minutes: Minutes = 30.0
    wait_h: Annotated[float, Meta(ge=0.0, le=1000.0)] = 0.0
    after: Annotated[tuple[StepKey, ...], Meta(max_length=50)] = ()
    before: Annotated[tuple[StepKey, ...], Meta(max_length=50)] = ()
    arrives: Day = ""
    kind: Name80 = ""


class Done(Model, frozen=True, kw_only=True):
    """A step that is done: when, how many minutes it took, how a test came out. ``of`` is what it was done to: where the plan
    has changed since, it no longer counts."""

    id: Id
    step: StepKey
    at: Moment = ""
    minutes: Minutes | None = None
    result: Literal["", "passed", "failed"] = ""
    note: Text = ""
    of: Annotated[str, Meta(max_length=64)] = ""


class StepDay(Model, frozen=True, kw_only=True):
    """A step that was put on a day: it isn't begun before."""

    id: Id
    step: StepKey
    day: Day


class Seal(Model, frozen=True, kw_only=True):
    """A section closed for good. ``despite``: tests that were not passed then, ``reason``: why it was closed all the same."""

    id: Id
    section: Annotated[Id, Ref("sections", "cascade")]
    at: Moment = ""
    despite: Annotated[tuple[StepKey, ...], Meta(max_length=100)] = ()
    reason: Text = ""


class EveningSettings(Model, frozen=True, kw_only=True):
    """Evenings: from which day on, which days of the week (Monday first), from when, for how long; ``alike`` kits at once, as twins are.

    ``tests_with``: a supply with a limit, a coin cell on the leads of each lamp, or the battery itself.
    """

    begins: Day = ""
    days: Annotated[tuple[bool, ...], Meta(min_length=7, max_length=7)] = (True, True, True, True, True, True, True)
    from_h: Annotated[float, Meta(ge=0.0, le=24.0)] = 19.0
    hours: Annotated[float, Meta(ge=0.25, le=16.0)] = 3.0
    air_c: Annotated[float, Meta(ge=5.0, le=35.0)] = 20.0
    damp: bool = False
    alike: Annotated[int, Meta(ge=1, le=20)] = 1
    tests_with: Literal["limited supply", "coin cell", "battery"] = "limited supply"
