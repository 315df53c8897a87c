"""What a drawing of rails and rungs is made of."""

from __future__ import annotations

from typing import NamedTuple

SLOT = {"resistor": 34.0, "lamp": 23.0, "fuse": 28.0, "switch": 28.0, "wire": 18.0, "load": 28.0}
BOX, STAGE, BUS = 25.0, 32.0, 8.0


class RailMark(NamedTuple):
    """Something that is drawn and can be picked: a symbol in its rectangle, for so many of its kind.

    ``id`` is that of a part, of a lamp, or of a feed; ``lamps`` those it stands for.
    """

    kind: str
    id: str
    x: float
    y: float
    w: float
    h: float
    lamps: tuple[str, ...] = ()
    number: int = 1
    turned: bool = False
    flat: bool = False  # drawn along a rail


class Lead(NamedTuple):
    """A piece of wire with its current (A); ``role`` says which rail it belongs to, if any."""

    x0: float
    y0: float
    x1: float
    y1: float
    current_a: float
    role: str = "wire"


class Label(NamedTuple):
    """Words over a stretch of a rail."""

    x: float
    y: float
    w: float
    text: str


class StringPlace(NamedTuple):
    """Where a string hangs between the rails, and its lamps: what is written under it on paper."""

    x: float
    y: float
    w: float
    h: float
    lamps: tuple[str, ...]


class Sheet(NamedTuple):
    """The whole drawing, and how it came to fit: width of a column, how much is folded (0: nothing). ``strings`` where there is room for names
    under them; ``rows`` end at these heights."""

    marks: tuple[RailMark, ...]
    leads: tuple[Lead, ...]
    labels: tuple[Label, ...]
    width: float
    height: float
    column: float
    folded: int
    strings: tuple[StringPlace, ...] = ()
    rows: tuple[float, ...] = ()
