"""What holds lamps in a section: strips of card, sleds, risers, firewalls, light boxes, trays, brackets."""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.frame import Face
from gwiazda.core.plan.model.base import Half, Id, Model, Name80, Name100, Part, Point, SizeMm
from gwiazda.core.plan.refs import Ref

CarrierForm = Literal["strip", "sled", "riser", "firewall", "light box", "tray", "bracket"]


class Carrier(Model, frozen=True, kw_only=True):
    """Something that holds lamps: it fills a box of ``size`` about ``at``, and its lamps look the way of ``facing``.

    What it holds is what stands in it or on it. ``divider`` is where a wall parts a tray in two, as a share of its longer side from the middle
    (−0.5 to 0.5), None for no wall; ``notch_mm`` how wide and high the notch for wires is; ``tabs`` how many tongues hold each wall in the floor.
    It is slid in from the face it ``enters`` by, or ``through`` one opening. A bracket of the kit (``own`` false) isn't cut, only drilled.
    """

    id: Id
    name: Name100 = ""
    section: Annotated[Id, Ref("sections", "cascade")]
    form: CarrierForm = "strip"
    at: Point
    size: tuple[SizeMm, SizeMm, SizeMm]
    facing: Face = "top"
    sheet: Part = "card-05"
    enters: Face = "top"
    through: Annotated[Name80, Ref("openings")] = ""
    divider: Half | None = None
    notch_mm: tuple[Annotated[float, Meta(ge=0, le=100)], Annotated[float, Meta(ge=0, le=100)]] = (2.0, 1.0)
    tabs: Annotated[int, Meta(ge=0, le=12)] = 2
    own: bool = True

    @property
    def low(self) -> tuple[float, float, float]:
        """Its lowest corner, mm."""
        (x, y, z), (a, b, c) = self.at, self.size
        return x - a / 2, y - b / 2, z - c / 2
