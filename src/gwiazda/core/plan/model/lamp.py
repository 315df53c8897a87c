"""Lamps in their places, and the light wanted of them."""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.model.base import Aim, Id, Model, Name80, Name100, Ohm, Part, Point, SizeMm
from gwiazda.core.plan.refs import Ref

Look = Literal["barely", "soft", "normal", "bright", "full"]
Tint = Literal["", "red", "orange", "yellow", "green", "blue"]


class Wanted(Model, frozen=True, kw_only=True):
    """How bright: a word of the bench, or one figure. Exactly one of them."""

    look: Look | None = None
    cd_m2: Annotated[float, Meta(gt=0, le=1e6)] | None = None
    mcd: Annotated[float, Meta(gt=0, le=1e7)] | None = None
    current_ma: Annotated[float, Meta(gt=0, le=1e4)] | None = None

    def __post_init__(self) -> None:
        given = sum(v is not None for v in (self.look, self.cd_m2, self.mcd, self.current_ma))
        if given != 1:
            raise ValueError("give exactly one of look, cd_m2, mcd, current_ma")


class Lens(Model, frozen=True, kw_only=True):
    """A lens set into an opening: what it is made from, the bearing lip it sits on, how far its dome stands out.

    It is as wide as the opening where ``width_mm`` is None. ``lip_mm`` is left all round when the hole is cut, so the hole behind the lens is
    that much smaller at each edge. ``backed``: the silver on its back isn't scraped off yet, and no light comes through.
    """

    made: Part = "sprue"
    width_mm: SizeMm | None = None
    lip_mm: Annotated[float, Meta(ge=0, le=10)] = 1.0
    dome_mm: Annotated[float, Meta(ge=0, le=20)] = 0.0
    backed: bool = False


class Lamp(Model, frozen=True, kw_only=True):
    """A lamp in its place. Inside, it lights a section's windows; outside, it is seen itself; with ``fibre`` its
    light goes into the fibres on its face alone.

    ``sanded``: the dome taken off and left matt; ``filed_mm``: taken off the top beyond that; ``tint``: a clear
    colour on the tip. ``late``: seen itself, and fitted from outside after its section is closed. ``units``: how many
    units of a strip, one after the other along the model (across it where the lamp looks along). ``bend_deg``: its head bent on its leads by so much, which then leave that far from straight back.
    ``lens``: set before it in a hole of its own. ``behind``: what keeps the light that it throws back out of the section.
    """

    id: Id
    name: Name100 = ""
    part: Part
    at: Point
    units: Annotated[int, Meta(ge=1, le=200)] = 1
    aim: tuple[Aim, Aim, Aim] = (0.0, 0.0, -1.0)
    mount: Literal["inside", "outside", "fibre"] = "inside"
    frosted_cap: bool = False
    sanded: bool = False
    filed_mm: Annotated[float, Meta(ge=0.0, le=10.0)] = 0.0
    bend_deg: Annotated[float, Meta(ge=0.0, le=90.0)] = 0.0
    tint: Tint = ""
    late: bool = False
    wanted: Wanted = Wanted(look="normal")
    resistor_ohm: Ohm | None = None
    channel: Annotated[Name80, Ref("channels")] = ""
    light: Annotated[Name80, Ref("lights", "cascade")] = ""
    lens: Lens | None = None
    behind: Literal["", "putty", "paint", "sleeve"] = ""

    def __post_init__(self) -> None:
        if sum(a * a for a in self.aim) < 1e-12:
            raise ValueError("the aim has no length")
        if self.lens is not None and self.mount != "outside":
            raise ValueError("a lens of its own is for a lamp that is seen itself")
        if self.lens is not None and self.lens.width_mm is not None and 2.0 * self.lens.lip_mm >= self.lens.width_mm:
            raise ValueError("the lip all round leaves no hole behind the lens")
