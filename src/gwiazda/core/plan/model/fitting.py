"""What stands on the outside and is no section: masts, yards, cranes, rails, aerials, fins."""

from typing import Annotated

from msgspec import Meta

from gwiazda.core.plan.frame import PLANES, Side
from gwiazda.core.plan.model.base import Id, Model, Name100, Point, Point2
from gwiazda.core.plan.refs import Ref


class Fitting(Model, frozen=True, kw_only=True):
    """A solid part of the outside, with no room inside: an outline in one view, as thick as it is.

    ``points`` are its outline about ``at``, along the two axes of the view from its ``side``, mm; ``at`` is its middle, across the view too.
    What it stands on moves it along.
    """

    id: Id
    name: Name100 = ""
    section: Annotated[str, Meta(max_length=80), Ref("sections", "clear", "keep")] = ""
    side: Side = "port"
    at: Point
    points: Annotated[tuple[Point2, ...], Meta(min_length=3, max_length=2000)]
    thick_mm: Annotated[float, Meta(ge=0.05, le=1000.0)] = 2.0

    def seen(self, side: Side) -> tuple[Point2, ...]:
        """Its outline along the two axes of a view, mm on the model: as it was drawn, or the rectangle it fills seen from another side."""
        h, v, _ = PLANES[side]
        if PLANES[self.side][:2] == (h, v):
            return tuple((self.at[h] + p, self.at[v] + q) for p, q in self.points)
        low, size = self.low, self.size
        (a, b), (c, d) = ((low[k], low[k] + size[k]) for k in (h, v))
        return (a, c), (b, c), (b, d), (a, d)

    @property
    def low(self) -> tuple[float, float, float]:
        """Its lowest corner, mm."""
        return self._corner(min, -1.0)

    @property
    def size(self) -> tuple[float, float, float]:
        """How far it reaches along each axis, mm."""
        (a, b, c), (x, y, z) = self.low, self._corner(max, 1.0)
        return x - a, y - b, z - c

    def _corner(self, end, sign: float) -> tuple[float, float, float]:  # type: ignore[no-untyped-def]
        h, v, d = PLANES[self.side]
        out = [0.0, 0.0, 0.0]
        out[h], out[v] = (self.at[a] + end(p[i] for p in self.points) for i, a in ((0, h), (1, v)))
        out[d] = self.at[d] + sign * self.thick_mm / 2
        return out[0], out[1], out[2]
