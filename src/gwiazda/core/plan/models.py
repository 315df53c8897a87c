"""What the modeller decides. Everything here is frozen; a change makes a new Plan (see ``edits``).

Coordinates: x along the model from stern to bow, y across to port, z up; millimetres on the model.
Names carry their unit where it isn't SI.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    PlainSerializer,
    WithJsonSchema,
    model_validator,
)

from gwiazda.core.errors import QuantityError
from gwiazda.core.quantities import format_scale, parse_scale

PLAN_VERSION = 2
LIMIT_MM = 100_000.0

Side = Literal["port", "starboard", "top", "bow", "stern"]
Look = Literal["barely", "soft", "normal", "bright", "full"]
School = Literal["drill", "mask", "scratch"]
Purpose = Literal[
    "cabin", "bridge", "navigation", "strobe", "engine", "headlamp", "tail lamp", "instrument", "flood", "sign", "fire",
    "other",
]  # fmt: skip
Tint = Literal["", "red", "orange", "yellow", "green", "blue"]
Face = Literal["stern", "bow", "starboard", "port", "bottom", "top"]  # x0, x1, y0, y1, z0, z1 of a box
FACE_NAMES: tuple[Face, ...] = ("stern", "bow", "starboard", "port", "bottom", "top")
Shape = Literal["rect", "round", "slot", "traced"]
Closing = Literal["", "glue", "screws", "magnets", "push fit", "hinge", "open"]
Glue = Literal[
    "", "solvent cement", "thin solvent cement", "cyanoacrylate", "two-part epoxy", "white glue", "contact glue"
]
Kind = Literal["ship", "spacecraft", "vehicle", "aircraft", "other"]

# The outward normal of each side, and the two model axes (0 = x, 1 = y, 2 = z) seen in its view.
NORMALS: dict[Side, tuple[int, int, int]] = {
    "port": (0, 1, 0), "starboard": (0, -1, 0), "top": (0, 0, 1), "bow": (1, 0, 0), "stern": (-1, 0, 0),
}  # fmt: skip
PLANES: dict[Side, tuple[int, int, int]] = {
    # (horizontal axis, vertical axis, depth axis)
    "port": (0, 2, 1), "starboard": (0, 2, 1), "top": (0, 1, 2), "bow": (1, 2, 0), "stern": (1, 2, 0),
}  # fmt: skip
OPPOSITE: dict[Side, Side] = {"port": "starboard", "starboard": "port", "bow": "stern", "stern": "bow"}

# How a view lays those axes on the sheet: right, down and towards the viewer, each +1 or −1. The bow of port and top
# views lies on the left.
SHEET: dict[Side, tuple[int, int, int]] = {
    "port": (-1, -1, 1), "starboard": (1, -1, -1), "top": (-1, 1, 1), "bow": (1, -1, 1), "stern": (-1, -1, -1),
}  # fmt: skip


def to_sheet(side: Side, point: tuple[float, float, float]) -> tuple[float, float, float]:
    """A point of the model on a view's sheet: (right, down, towards the viewer), mm."""
    h, v, d = PLANES[side]
    a, b, c = SHEET[side]
    return a * point[h], b * point[v], c * point[d]


def from_sheet(side: Side, right: float, down: float) -> tuple[float, float]:
    """The view's two model coordinates (horizontal, vertical) of a place on its sheet."""
    a, b, _ = SHEET[side]
    return a * right, b * down


def polygon_area(points: Sequence[tuple[float, float]]) -> float:
    """Area of a closed polygon, the unit that of its points squared."""
    return 0.5 * abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, [*points[1:], *points[:1]], strict=True)))


class Model(BaseModel):
    """Frozen, and strict about unknown fields so that a misspelt one is named and not lost."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, defer_build=True)


def _scale(value: object) -> float:
    try:
        return parse_scale(value)  # type: ignore[arg-type]
    except QuantityError as error:
        raise ValueError(f"{error.found}; accepted: {error.accepted}") from None


def _id(value: str) -> str:
    if not value or len(value) > 80 or not all(c.isalnum() or c in "._-" for c in value):
        raise ValueError("an id is 1 to 80 letters, digits, dots, dashes and underscores")
    return value


Scale = Annotated[
    float,
    BeforeValidator(_scale),
    PlainSerializer(format_scale, return_type=str, when_used="json"),
    WithJsonSchema({"type": ["string", "number"], "examples": ["1/200"]}),
]
Id = Annotated[str, AfterValidator(_id)]
Mm = Annotated[float, Field(ge=-LIMIT_MM, le=LIMIT_MM)]
SizeMm = Annotated[float, Field(gt=0.0, le=LIMIT_MM)]
Point = tuple[Mm, Mm, Mm]
Point2 = tuple[Mm, Mm]
Share2 = tuple[Annotated[float, Field(ge=-0.5001, le=0.5001)], Annotated[float, Field(ge=-0.5001, le=0.5001)]]


class Kit(Model):
    """The kit as it comes out of the box."""

    name: str = Field("Untitled", max_length=200)
    subtitle: str = Field("", max_length=200)
    scale: Scale = 72.0
    kind: Kind = "other"
    plastic: str = "light-grey"


class Drawing(Model):
    """A picture behind a view.

    ``origin`` is where the model's origin lies in it, in drawing units; the picture is turned about that point by
    ``rotation_deg`` (clockwise on the sheet), so that a line that should be level is.
    """

    picture: str = Field(pattern=r"^[A-Za-z0-9._-]{1,120}$")
    mm_per_unit: SizeMm
    origin: tuple[float, float] = (0.0, 0.0)
    rotation_deg: Annotated[float, Field(ge=-180.0, le=180.0)] = 0.0
    fade: Annotated[float, Field(ge=0.0, le=1.0)] = 0.0
    crop: tuple[float, float, float, float] | None = None  # left, top, right, bottom that are shown, drawing units

    @model_validator(mode="after")
    def _cropped(self) -> Drawing:
        if self.crop is not None and not (self.crop[0] < self.crop[2] and self.crop[1] < self.crop[3]):
            raise ValueError("the crop has no size")
        return self


class View(Model):
    """One side of the kit on the plate."""

    id: Id
    name: str = Field(max_length=100)
    side: Side
    drawing: Drawing | None = None


class Box(Model):
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


class Outline(Model):
    """Outer contour of a section in one view, in that view's two model axes, mm."""

    side: Side
    points: tuple[Point2, ...] = Field(min_length=3, max_length=4000)


class Obstacle(Model):
    """Something of the kit that stands inside a section, and what will be done to it."""

    id: Id
    kind: Literal["bulkhead", "pin", "tab", "rib"] = "bulkhead"
    box: Box
    action: Literal["keep", "notch", "file", "cut"] = "keep"


class FaceLining(Model):
    """A face of a section lined otherwise than the rest."""

    face: Face
    lining: str = Field(min_length=1, max_length=80)


class Layer(Model):
    """Coats of one paint."""

    coat: str = Field(min_length=1, max_length=80)
    coats: Annotated[int, Field(ge=1, le=12)] = 1


class Patch(Model):
    """Something laid on a part of a wall from inside: paste, foil, putty.

    ``low`` and ``high`` are its corners on the face, mm from the inner box's lowest corner, along the face's two axes.
    """

    id: Id
    face: Face
    low: Point2
    high: Point2
    coat: str = Field("thick-paste", min_length=1, max_length=80)
    coats: Annotated[int, Field(ge=1, le=12)] = 1
    thickness_mm: Annotated[float, Field(gt=0, le=20)] = 1.0

    @model_validator(mode="after")
    def _sized(self) -> Patch:
        if not (self.low[0] < self.high[0] and self.low[1] < self.high[1]):
            raise ValueError("the patch has no size")
        return self


class Seam(Model):
    """The joint round one face of a section, or a hinge along it; ``bridged`` is what covers it from inside."""

    id: Id
    face: Face
    gap_mm: Annotated[float, Field(gt=0, le=5)] = 0.1
    bridged: str = Field("", max_length=80)


class TintCoat(Model):
    """Coats of clear colour on a lens."""

    colour: Literal["red", "orange", "yellow", "green", "blue", "smoke"]
    coats: Annotated[int, Field(ge=1, le=8)] = 1


class Closure(Model):
    """What closes a section, how, and what of it can still be taken off afterwards."""

    part: str = Field("", max_length=100)
    by: Closing = ""
    glue: Glue = ""
    removable: str = Field("", max_length=200)

    @model_validator(mode="after")
    def _glued(self) -> Closure:
        if self.glue and self.by != "glue":
            raise ValueError("a glue is named, and it isn't closed by glue")
        return self


class Section(Model):
    """A part of the kit that is lit as one room and closed as one.

    Its skin from inside out: the lining, the coats ``inside``, the plastic, the coats ``outside``; ``soften`` are
    diffusers behind its glazing.

    ``plastic`` is empty where it is the kit's; ``colour`` is that of the paint outside (``#rrggbb``), for the plate.
    """

    id: Id
    name: str = Field(max_length=100)
    box: Box
    outlines: tuple[Outline, ...] = ()
    lining: str = "flat-white"
    glazing: str = "mist-2"
    wall_mm: SizeMm = 1.2
    obstacles: tuple[Obstacle, ...] = ()
    school: School = "drill"
    plastic: str = Field("", max_length=80)
    colour: str = Field("", pattern=r"^(#[0-9a-fA-F]{6})?$")
    closure: Closure = Closure()
    feature: str = Field("", max_length=80)
    lining_coats: Annotated[int, Field(ge=1, le=12)] = 2
    face_linings: tuple[FaceLining, ...] = Field((), max_length=6)
    inside: tuple[Layer, ...] = Field((), max_length=12)
    outside: tuple[Layer, ...] = Field((), max_length=12)
    patches: tuple[Patch, ...] = Field((), max_length=100)
    seams: tuple[Seam, ...] = Field((), max_length=30)
    soften: tuple[str, ...] = Field((), max_length=6)


class Opening(Model):
    """A window, porthole or lens. ``at`` is its centre; ``lit`` the share of it that is left clear.

    A slot is a rectangle with half-round ends; a traced one has its ``points`` about its centre, in the two model
    axes of its side's view, as shares of its width and height (−0.5 to 0.5). ``into`` names the section it leads
    into, where it is a hole in a wall between two; ``room`` what lies behind it, as "corridor" or "mess"; ``gap_mm`` is what light gets past around a lens set into it.
    """

    id: Id
    section: Id
    shape: Shape = "rect"
    width_mm: SizeMm = 3.0
    height_mm: SizeMm = 3.0
    at: Point
    side: Side = "port"
    lit: Annotated[float, Field(ge=0.0, le=1.0)] = 1.0
    glazing: str | None = None
    points: tuple[Share2, ...] = Field((), max_length=400)
    soften: tuple[str, ...] | None = Field(None, max_length=6)
    tints: tuple[TintCoat, ...] = Field((), max_length=6)
    gap_mm: Annotated[float, Field(ge=0, le=2)] = 0.0
    into: str = Field("", max_length=80)
    room: str = Field("", max_length=80)
    feature: str = Field("", max_length=80)

    @model_validator(mode="after")
    def _traced(self) -> Opening:
        if self.shape == "traced" and len(self.points) < 3:
            raise ValueError("a traced opening has three points or more")
        return self

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


class Wanted(Model):
    """How bright: a word of the bench, or one figure. Exactly one of them."""

    look: Look | None = None
    cd_m2: Annotated[float, Field(gt=0, le=1e6)] | None = None
    mcd: Annotated[float, Field(gt=0, le=1e7)] | None = None
    current_ma: Annotated[float, Field(gt=0, le=1e4)] | None = None

    @model_validator(mode="after")
    def _one(self) -> Wanted:
        given = sum(v is not None for v in (self.look, self.cd_m2, self.mcd, self.current_ma))
        if given != 1:
            raise ValueError("give exactly one of look, cd_m2, mcd, current_ma")
        return self


class Lamp(Model):
    """A lamp in its place. Inside, it lights a section's windows; outside, it is seen itself.

    ``sanded``: the dome taken off and left matt; ``filed_mm``: taken off the top beyond that; ``tint``: a clear
    colour on the tip. ``units``: how many units of a strip, one after the other along the model (across it where the
    lamp looks along).
    """

    id: Id
    part: str = Field(min_length=1, max_length=80)
    at: Point
    units: Annotated[int, Field(ge=1, le=200)] = 1
    aim: tuple[float, float, float] = (0.0, 0.0, -1.0)
    mount: Literal["inside", "outside"] = "inside"
    frosted_cap: bool = False
    sanded: bool = False
    filed_mm: Annotated[float, Field(ge=0.0, le=10.0)] = 0.0
    tint: Tint = ""
    wanted: Wanted = Wanted(look="normal")
    resistor_ohm: Annotated[float, Field(gt=0, le=1e9)] | None = None
    channel: str = Field("", max_length=80)
    feature: str = Field("", max_length=80)

    @model_validator(mode="after")
    def _aimed(self) -> Lamp:
        if sum(a * a for a in self.aim) < 1e-12:
            raise ValueError("the aim has no length")
        return self


class LampString(Model):
    """Lamps in series behind one resistor."""

    id: Id
    lamps: tuple[Id, ...] = Field(min_length=1, max_length=200)
    resistor_ohm: Annotated[float, Field(gt=0, le=1e9)] | None = None


class Supply(Model):
    """One source; ``volts`` sets an adapter whose voltage is adjustable."""

    part: str = "block-9v"
    in_series: Annotated[int, Field(ge=1, le=40)] = 1
    in_parallel: Annotated[int, Field(ge=1, le=40)] = 1
    volts: Annotated[float, Field(gt=0, le=60)] | None = None


class Drawer(Model):
    """What resistors are at hand."""

    series: Literal["E6", "E12", "E24", "E96"] = "E12"
    spare_share: Annotated[float, Field(ge=0, le=1)] = 0.1


class Feature(Model):
    """Something that is to glow, and why: so that later choices agree with it."""

    id: Id
    name: str = Field(max_length=100)
    purpose: Purpose = "cabin"
    look: Look = "normal"
    animated: bool = False
    note: str = Field("", max_length=2000)
    picture: str | None = Field(None, pattern=r"^[A-Za-z0-9._-]{1,120}$")


class Effort(Model):
    """The user's own minutes: a pane in each school of window work, a joint, a lamp set in place."""

    drill_min: Annotated[float, Field(ge=0, le=600)] = 6.0
    mask_min: Annotated[float, Field(ge=0, le=600)] = 4.0
    scratch_min: Annotated[float, Field(ge=0, le=600)] = 1.5
    joint_min: Annotated[float, Field(ge=0, le=600)] = 3.0
    lamp_min: Annotated[float, Field(ge=0, le=600)] = 5.0


class Room(Model):
    """Where the model is looked at."""

    lux: Annotated[float, Field(ge=0, le=300)] = 2.0
    distance_m: Annotated[float, Field(gt=0.05, le=10)] = 0.6
    exposure_ev: Annotated[float, Field(ge=-8, le=8)] = 0.0


class Plan(Model):
    """The whole plan of one kit."""

    version: Literal[2] = 2
    kit: Kit = Kit()
    views: tuple[View, ...] = (View(id="port", name="Port side", side="port"),)
    sections: tuple[Section, ...] = Field((), max_length=2_000)
    openings: tuple[Opening, ...] = Field((), max_length=50_000)
    lamps: tuple[Lamp, ...] = Field((), max_length=20_000)
    strings: tuple[LampString, ...] = Field((), max_length=20_000)
    supply: Supply = Supply()
    drawer: Drawer = Drawer()
    room: Room = Room()
    effort: Effort = Effort()
    features: tuple[Feature, ...] = Field((), max_length=2_000)

    @model_validator(mode="after")
    def _consistent(self) -> Plan:
        seen: set[str] = set()
        for group in (self.views, self.sections, self.openings, self.lamps, self.strings, self.features):
            for item in group:
                if item.id in seen:
                    raise ValueError(f"the id “{item.id}” is used twice")
                seen.add(item.id)
        sections = {s.id for s in self.sections}
        for opening in self.openings:
            if opening.into and (opening.into not in sections or opening.into == opening.section):
                raise ValueError(f"opening {opening.id} leads into section “{opening.into}”, which isn't there")
            if opening.section not in sections:
                raise ValueError(f"opening {opening.id} is in section “{opening.section}”, which isn't there")
        features = {f.id for f in self.features} | {""}
        belonging: tuple[Section | Opening | Lamp, ...] = (*self.sections, *self.openings, *self.lamps)
        for glowing in belonging:
            if glowing.feature not in features:
                raise ValueError(f"{glowing.id} belongs to feature “{glowing.feature}”, which isn't there")
        lamps = {lamp.id for lamp in self.lamps}
        strung: set[str] = set()
        for string in self.strings:
            for lamp_id in string.lamps:
                if lamp_id not in lamps:
                    raise ValueError(f"string {string.id} names lamp “{lamp_id}”, which isn't there")
                if lamp_id in strung:
                    raise ValueError(f"lamp {lamp_id} is in two strings")
                strung.add(lamp_id)
        if not self.views:
            raise ValueError("a plan has at least one view")
        return self


Item = Section | Opening | Lamp
