"""The kit, the views of it and the drawings behind them, and where it is looked at."""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.frame import Side
from gwiazda.core.plan.model.base import Id, Model, Name80, Name100, Name200, PictureName, SizeMm, Units

KitKind = Literal["ship", "spacecraft", "vehicle", "aircraft", "other"]


class Kit(Model, frozen=True, kw_only=True):
    """The kit as it comes out of the box; ``scale`` is the denominator (200 for 1/200)."""

    name: Name200 = "Untitled"
    subtitle: Annotated[str, Meta(max_length=200)] = ""
    scale: Annotated[float, Meta(ge=1.0, le=100_000.0)] = 72.0
    kind: KitKind = "other"
    material: Name80 = "light-grey"


class Drawing(Model, frozen=True, kw_only=True):
    """A picture behind a view.

    ``origin`` is where the model's origin lies in it, in drawing units; the picture is turned about that point by
    ``rotation_deg`` (clockwise on the sheet), so that a line that should be level is.
    """

    picture: PictureName
    mm_per_unit: SizeMm
    origin: tuple[Units, Units] = (0.0, 0.0)
    rotation_deg: Annotated[float, Meta(ge=-180.0, le=180.0)] = 0.0
    fade: Annotated[float, Meta(ge=0.0, le=1.0)] = 0.0
    calibrated: bool = True  # False: just dropped, of a width that nobody measured
    crop: tuple[Units, Units, Units, Units] | None = None  # left, top, right, bottom that are shown, drawing units

    def __post_init__(self) -> None:
        if self.crop is not None and not (self.crop[0] < self.crop[2] and self.crop[1] < self.crop[3]):
            raise ValueError("the crop has no size")


class View(Model, frozen=True, kw_only=True):
    """One side of the kit on the plate."""

    id: Id
    name: Name100
    side: Side
    drawing: Drawing | None = None


class ViewingConditions(Model, frozen=True, kw_only=True):
    """Where the model is looked at. ``looks``: whether the words for a look, as soft, are figures fixed for the night or follow this room."""

    lux: Annotated[float, Meta(ge=0, le=5000)] = 2.0
    distance_m: Annotated[float, Meta(gt=0.05, le=10)] = 0.6
    exposure_ev: Annotated[float, Meta(ge=-8, le=8)] = 0.0
    looks: Literal["fixed", "room"] = "fixed"


class Effort(Model, frozen=True, kw_only=True):
    """The user's own minutes: a pane in each school of window work, a round hole, a joint, a lamp set in place, a fibre fed, glued and
    trimmed (its hole apart)."""

    drill_min: Annotated[float, Meta(ge=0, le=600)] = 3.0
    hole_min: Annotated[float, Meta(ge=0, le=600)] = 1.5
    mask_min: Annotated[float, Meta(ge=0, le=600)] = 1.5
    scratch_min: Annotated[float, Meta(ge=0, le=600)] = 1.5
    joint_min: Annotated[float, Meta(ge=0, le=600)] = 3.0
    lamp_min: Annotated[float, Meta(ge=0, le=600)] = 4.0
    dot_min: Annotated[float, Meta(ge=0, le=600)] = 3.0
