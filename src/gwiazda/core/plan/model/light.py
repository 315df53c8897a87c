"""Lights: what is meant to glow, and what it is carried by."""

from typing import Annotated

from msgspec import Meta

from gwiazda.core.plan.model.base import Id, Model, Name80, Name100, Part, PictureName
from gwiazda.core.plan.model.lamp import Look
from gwiazda.core.plan.refs import Ref


class Count(Model, frozen=True, kw_only=True):
    """A light by numbers, before any geometry: rows of dots in so many colours, a share of them dead."""

    rows: Annotated[int, Meta(ge=1, le=500)] = 1
    columns: Annotated[int, Meta(ge=1, le=500)] = 1
    colours: Annotated[int, Meta(ge=1, le=12)] = 1
    dead_share: Annotated[float, Meta(ge=0, le=0.99)] = 0.0
    part: Part = "chip-0603-red"
    current_ma: Annotated[float, Meta(gt=0, le=1000)] = 5.0


class Light(Model, frozen=True, kw_only=True):
    """Something that is to glow, and why: a headlamp, a row of cabins, an engine. Its parts name it: lamps, openings, dots, and sections
    whose windows belong to it.

    ``kind`` is one of the catalogue's kinds of light; ``means`` what carries it, empty where its parts were put together by hand.
    ``whole``: its parts make one thing that is moved, copied and taken out together. ``twin``: its image on the other side.
    ``sources_show``: its single lamps are meant to be seen (a cluster of burners, a panel), and aren't found fault with.
    ``matches``: another light that it is to look like, as bright and of the same colour.
    """

    id: Id
    name: Name100
    kind: Part = "other"
    means: Name80 = ""
    whole: bool = False
    look: Look = "normal"
    twin: Annotated[Name80, Ref("lights", "clear", "clear")] = ""
    animated: bool = False
    note: Annotated[str, Meta(max_length=2000)] = ""
    picture: PictureName | None = None
    sources_show: bool = False
    matches: Annotated[Name80, Ref("lights")] = ""
    count: Count | None = None
