"""Windows, portholes, lenses, holes between sections."""

import math
from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.frame import Side, polygon_area
from gwiazda.core.plan.model.base import Id, Model, Name80, Name100, Part, Point, Share, Share2, SizeMm
from gwiazda.core.plan.model.lamp import Lens
from gwiazda.core.plan.refs import Ref

Shape = Literal["rect", "round", "slot", "traced"]


class TintCoat(Model, frozen=True, kw_only=True):
    """Coats of clear colour on a lens."""

    colour: Literal["red", "orange", "yellow", "green", "blue", "smoke"]
    coats: Annotated[int, Meta(ge=1, le=8)] = 1


class Opening(Model, frozen=True, kw_only=True):
    """A window, porthole or lens. ``at`` is its centre; ``lit`` the share of it that is left clear.

    A slot is a rectangle with half-round ends; a traced one has its ``points`` about its centre, in the two model
    axes of its side's view, as shares of its width and height (−0.5 to 0.5). ``into`` names the section it leads
    into, where it is a hole in a wall between two; ``room`` what lies behind it, as "corridor" or "mess"; ``gap_mm``
    is what light gets past around a lens set into it.

    In a clear shell a pane is bare of paint outside; ``reach_mm`` is how far what is done behind it on the inside, the black of a dark one or
    the hole in the paint of a lit one, reaches past its edge. ``closed``: a dark one is blackened inside, or painted over outside.
    Without a ``hole`` it is lit through the plastic, and ``glazing`` is a film laid on it.
    """

    id: Id
    name: Name100 = ""
    section: Annotated[Id, Ref("sections", "cascade")]
    shape: Shape = "rect"
    width_mm: SizeMm = 3.0
    height_mm: SizeMm = 3.0
    at: Point
    side: Side = "port"
    lit: Share = 1.0
    glazing: Part | None = None
    points: Annotated[tuple[Share2, ...], Meta(max_length=400)] = ()
    soften: Annotated[tuple[Part, ...], Meta(max_length=6)] | None = None
    tints: Annotated[tuple[TintCoat, ...], Meta(max_length=6)] = ()
    gap_mm: Annotated[float, Meta(ge=0, le=2)] = 0.0
    into: Annotated[Name80, Ref("sections", "cascade", "clear")] = ""
    room: Name80 = ""
    light: Annotated[Name80, Ref("lights", "cascade")] = ""
    hole: bool = True
    reach_mm: Annotated[float, Meta(ge=-5.0, le=20.0)] = 0.0
    closed: Literal["inside", "outside"] = "inside"
    lens: Lens | None = None

    def __post_init__(self) -> None:
        if self.shape == "traced" and len(self.points) < 3:
            raise ValueError("a traced opening has three points or more")
        if self.into and self.into == self.section:
            raise ValueError("it leads into the section it is in")
        if self.into and not self.hole:
            raise ValueError("what leads into another section is a hole")
        if self.lens is not None:
            room = min(self.width_mm, self.height_mm)
            wide, lip = self.lens.width_mm, self.lens.lip_mm
            if wide is not None and wide > room + 1e-9:
                raise ValueError(
                    f"a lens {wide:g} mm wide doesn't go into a hole of {room:g} mm; {room:g} mm would fit"
                )
            if 2.0 * lip >= room:
                raise ValueError(
                    f"a lip of {lip:g} mm all round leaves no hole in {room:g} mm; {room / 4:.2g} mm would leave half of it"
                )
            if not self.hole or self.into:
                raise ValueError("a lens is set into a hole that leads outside")

    @property
    def area_mm2(self) -> float:
        """Area of the pane: a rectangle, the ellipse inside it, a rectangle with round ends, or what was traced."""
        full = self.width_mm * self.height_mm
        if self.shape == "rect":
            return full
        if self.shape == "round":
            return full * math.pi / 4
        if self.shape == "slot":
            return full - (1.0 - math.pi / 4) * min(self.width_mm, self.height_mm) ** 2
        return full * polygon_area(self.points)
