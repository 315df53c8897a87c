"""Kinds of lights, and what each can be carried by: the tables behind ``Light.kind`` and ``Light.means``."""

from __future__ import annotations

from typing import Literal, NamedTuple


class LightKind(NamedTuple):
    """A kind of light: what a person calls it, what the real one gives and by which rule, and how a model's is usually made.

    ``kits`` that have it, any where empty; ``words`` it is looked for by too. ``colours`` of the lamp, of a pair to port and to
    starboard. ``arc``: from and to, degrees clockwise from ahead, of a pair that to starboard. ``faces`` it sits on, the usual one
    first; ``centre``: on the model's middle line. ``placing``: a point, a row along a wall, or an opening of a lit room.
    ``real_cd``, ``real_cd_m2``, ``real_m``: of the real one. ``means`` that suit, the usual first; ``putty``: light it throws back is
    stopped behind it. ``test`` is what to see before its section is closed.
    """

    id: str
    name: str
    group: str
    kits: tuple[str, ...] = ()
    words: str = ""
    colours: tuple[str, ...] = ("warm white",)
    arc: tuple[float, float] = (0.0, 360.0)
    pair: bool = False
    centre: bool = False
    faces: tuple[str, ...] = ()
    placing: Literal["point", "row", "room"] = "point"
    real_cd: float = 0.0
    real_cd_m2: float = 0.0
    real_m: float = 0.3
    rule: str = ""
    rhythm: str = ""
    look: Literal["barely", "soft", "normal", "bright", "full"] = "normal"
    means: tuple[str, ...] = ()
    putty: bool = False
    sources_show: bool = False
    washes: bool = False  # what it lights is what is looked at
    test: str = ""
    basis: Literal["typical", "measured"] = "typical"

    @property
    def one(self) -> str:
        """What one of them is called: of a pair without the plural."""
        return self.name.removesuffix("s") if self.pair and not self.name.endswith("ss") else self.name

    @property
    def arc_deg(self) -> float:
        """How wide the arc is in which it shows, degrees."""
        return self.arc[1] - self.arc[0]


class LightMeans(NamedTuple):
    """What carries a light: the ``form`` of its own lamp, or where the light comes from that it ``feeds`` on; ``whole``: its parts make one
    thing."""

    id: str
    name: str
    form: str
    about: str
    whole: bool
    feeds: Literal["lamp", "section", ""] = ""
