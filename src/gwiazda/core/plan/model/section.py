"""Sections: a box inside, outlines outside, the skin between, what stands in it and what closes it."""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.frame import OPPOSITE, Face, Side
from gwiazda.core.plan.model.base import Coats, Id, Model, Name80, Name100, Part, Point, Point2, SizeMm
from gwiazda.core.plan.refs import Ref

School = Literal["drill", "mask", "scratch"]
Closing = Literal["", "glue", "solder", "screws", "magnets", "push fit", "hinge", "open"]
ObstacleKind = Literal[
    "bulkhead",
    "pin",
    "tab",
    "rib",
    "board",
    "pack",
    "speaker",
    "switch",
    "interior",
    "figure",
    "seat",
    "engine",
    "motor",
    "regulator",
    "socket",
]


class Box(Model, frozen=True, kw_only=True):
    """Inner box of a section: lowest corner and size in mm."""

    at: Point
    size: tuple[SizeMm, SizeMm, SizeMm]

    @property
    def centre(self) -> tuple[float, float, float]:
        (x, y, z), (a, b, c) = self.at, self.size
        return (x + a / 2, y + b / 2, z + c / 2)

    def contains(self, point: Point, slack_mm: float = 1e-6) -> bool:
        return all(
            low - slack_mm <= p <= low + size + slack_mm for p, low, size in zip(point, self.at, self.size, strict=True)
        )


class Outline(Model, frozen=True, kw_only=True):
    """Outer contour of a section in one view, in that view's two model axes, mm."""

    side: Side
    points: Annotated[tuple[Point2, ...], Meta(min_length=3, max_length=4000)]


class Obstacle(Model, frozen=True, kw_only=True):
    """Something that stands inside a section, of the kit or put there, and what will be done to it.

    ``thin_mm`` is what may be taken off the wall of a board's, pack's or interior's own body where it is in the way;
    ``reached``: cells in it are changed, so what closes the section must come off. ``of`` names the source, board, motor or
    regulator whose body it is.
    """

    id: Id
    kind: ObstacleKind = "bulkhead"
    name: Name80 = ""
    box: Box
    action: Literal["keep", "notch", "file", "cut"] = "keep"
    thin_mm: Annotated[float, Meta(ge=0, le=20)] = 0.0
    reached: bool = False
    of: Name80 = ""


class FaceLining(Model, frozen=True, kw_only=True):
    """A face of a section lined otherwise than the rest."""

    face: Face
    lining: Part


class Layer(Model, frozen=True, kw_only=True):
    """Coats of one paint."""

    coat: Part
    coats: Coats = 1


class Patch(Model, frozen=True, kw_only=True):
    """Something laid on a part of a wall from inside: paste, foil, putty.

    ``low`` and ``high`` are its corners on the face, mm from the inner box's lowest corner, along the face's two axes.
    """

    id: Id
    face: Face
    low: Point2
    high: Point2
    coat: Part = "thick-paste"
    coats: Coats = 1
    thickness_mm: Annotated[float, Meta(gt=0, le=20)] = 1.0

    def __post_init__(self) -> None:
        if not (self.low[0] < self.high[0] and self.low[1] < self.high[1]):
            raise ValueError("the patch has no size")


class Seam(Model, frozen=True, kw_only=True):
    """The joint round one face of a section, or a hinge along it; ``bridged`` is what covers it from inside."""

    id: Id
    face: Face
    gap_mm: Annotated[float, Meta(gt=0, le=5)] = 0.1
    bridged: Name80 = ""


class Hatch(Model, frozen=True, kw_only=True):
    """A lid of its own in a wall of a section, through which cells are changed: its clear opening (mm) along the face's two axes about its
    centre, mm from the inner box's lowest corner, and what holds it."""

    face: Face = "bottom"
    at: Point2
    size: tuple[SizeMm, SizeMm]
    by: Literal["screws", "magnets", "push fit", "hinge"] = "magnets"


OPENS: tuple[Closing, ...] = ("", "screws", "magnets", "push fit", "hinge", "open")  # what can be opened again


class Closure(Model, frozen=True, kw_only=True):
    """What closes a section, how, and what of it can still be taken off afterwards. ``face``: the wall that is open until then; left out, that of
    its seam, else the roof."""

    part: Name100 = ""
    by: Closing = ""
    glue: Name80 = ""  # an adhesive of the catalogue
    removable: Annotated[str, Meta(max_length=200)] = ""
    hatch: Hatch | None = None
    face: Face | Literal[""] = ""

    @property
    def opens(self) -> bool:
        """Whether it can be opened as a whole; what isn't decided can."""
        return self.by in OPENS

    @property
    def sealed(self) -> bool:
        """Whether nothing of it comes off once it is closed."""
        return not (self.opens or self.removable or self.hatch is not None)

    def __post_init__(self) -> None:
        if self.glue and self.by != "glue":
            raise ValueError("a glue is named, and it isn't closed by glue")


class Section(Model, frozen=True, kw_only=True):
    """A part of the kit that is lit as one room and closed as one.

    Its skin from inside out: the lining, the coats ``inside``, the plastic, the coats ``outside``; ``soften`` are
    diffusers behind its glazing.

    ``material`` is empty where it is the kit's; ``colour`` is that of the paint outside (``#rrggbb``), for the plate.
    """

    id: Id
    name: Name100
    box: Box
    outlines: Annotated[tuple[Outline, ...], Meta(max_length=200)] = ()
    lining: Part = "flat-white"
    glazing: Part = "mist-2"
    wall_mm: SizeMm = 1.2
    obstacles: Annotated[tuple[Obstacle, ...], Meta(max_length=500)] = ()
    school: School = "drill"
    material: Name80 = ""
    colour: Annotated[str, Meta(pattern=r"^(#[0-9a-fA-F]{6})?$")] = ""
    closure: Closure = Closure()
    light: Annotated[Name80, Ref("lights")] = ""
    lining_coats: Coats = 2
    face_linings: Annotated[tuple[FaceLining, ...], Meta(max_length=6)] = ()
    inside: Annotated[tuple[Layer, ...], Meta(max_length=12)] = ()
    outside: Annotated[tuple[Layer, ...], Meta(max_length=12)] = ()
    patches: Annotated[tuple[Patch, ...], Meta(max_length=100)] = ()
    seams: Annotated[tuple[Seam, ...], Meta(max_length=30)] = ()
    soften: Annotated[tuple[Part, ...], Meta(max_length=6)] = ()

    @property
    def lid(self) -> Face:
        """The wall that is open until it is closed."""
        return self.closure.face or (self.seams[0].face if self.seams else "top")

    def drawn(self, side: Side) -> tuple[Outline, ...]:
        """Its outlines as a side shows them: its own, or those of the side across, the same seen the other way round."""
        own = tuple(o for o in self.outlines if o.side == side)
        return own or tuple(o for o in self.outlines if o.side == OPPOSITE[side])
