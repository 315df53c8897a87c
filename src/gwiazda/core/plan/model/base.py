"""What all models of a plan have in common, and the kinds of value they are made of."""

from typing import Annotated, Any, TypeVar

import msgspec
from msgspec import Meta

from gwiazda.core.errors import PlanError

LIMIT_MM = 100_000.0


class Model(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, gc=False):
    """Frozen, and strict about unknown fields so that a misspelt one is named and not lost.

    Values are checked where a plan is read, and by the gate that every edit passes (``plan.gate``).
    """


Id = Annotated[str, Meta(min_length=1, max_length=80, pattern=r"^[\w.\-]+$")]
_ONE_LINE = r"^[^\x00-\x1f\x7f]*$"
Name80 = Annotated[str, Meta(max_length=80, pattern=_ONE_LINE)]
Name100 = Annotated[str, Meta(max_length=100, pattern=_ONE_LINE)]
Name200 = Annotated[str, Meta(max_length=200, pattern=_ONE_LINE)]
Part = Annotated[str, Meta(min_length=1, max_length=80)]
PictureName = Annotated[str, Meta(pattern=r"^[A-Za-z0-9._-]{1,120}$")]
Mm = Annotated[float, Meta(ge=-LIMIT_MM, le=LIMIT_MM)]
SizeMm = Annotated[float, Meta(gt=0.0, le=LIMIT_MM)]
Units = Annotated[float, Meta(ge=-1e7, le=1e7)]  # of a drawing
Point = tuple[Mm, Mm, Mm]
Point2 = tuple[Mm, Mm]
Half = Annotated[float, Meta(ge=-0.5001, le=0.5001)]
Share2 = tuple[Half, Half]
Share = Annotated[float, Meta(ge=0.0, le=1.0)]
Coats = Annotated[int, Meta(ge=1, le=12)]
Ohm = Annotated[float, Meta(gt=0, le=1e9)]
Aim = Annotated[float, Meta(ge=-1e6, le=1e6)]


S = TypeVar("S", bound=msgspec.Struct)


def copy_unchecked(item: S, **fields: Any) -> S:
    """A copy with some fields set; their values are unchecked, for the gate checks the outcome of edits.

    Raises
    ------
    PlanError
        Where fields contradict each other.
    """
    try:
        return msgspec.structs.replace(item, **fields)
    except ValueError as error:
        raise PlanError(str(getattr(item, "id", type(item).__name__)), str(error)) from None
