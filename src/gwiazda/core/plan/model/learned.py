"""What readings taught of one plan's things, as it is used: beside the log that it comes from, and taken back at once."""

from typing import Annotated, Literal, get_args

from msgspec import Meta

from gwiazda.core.plan.model.base import Model, Name80

LearnedKind = Literal["light", "volts", "lamp", "lining", "glazing", "section", "pane", "coat", "source"]
LEARNED_KINDS: tuple[LearnedKind, ...] = get_args(LearnedKind)


class Learned(Model, frozen=True, kw_only=True):
    """How far a thing is off what the house says of it, and one sigma of what remains unknown: of the natural logarithm, in V for ``volts``.

    Of a lamp's part its ``light`` and its ``volts``, of one ``lamp`` its light against its kind's; of a section the light that its ``lining``
    leaves inside, what its ``glazing`` lets out, and the whole of a ``section`` or ``pane`` (its sigma counts for all that goes into it);
    of a ``coat`` its density, of an adapter (``source``) its volts. ``make`` is what it was read on: once that is changed, it counts no more.
    """

    kind: LearnedKind
    of: Name80
    shift: Annotated[float, Meta(ge=-5.0, le=5.0)] = 0.0
    sigma: Annotated[float, Meta(gt=0.0, le=5.0)]
    readings: Annotated[int, Meta(ge=0, le=100_000)] = 0
    make: Annotated[str, Meta(max_length=400)] = ""
