"""How a carrier gets to its place: the opening it is slid in by, and what stands on its way."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.assess.carriers.standing import PLAY_MM
from gwiazda.core.carrier.design import others
from gwiazda.core.plan.frame import PLANES, face_number
from gwiazda.core.plan.model import Carrier, Opening, Section

MEETS_MM = 0.05


class WayIn(NamedTuple):
    """``mouth`` is the size of the opening along the two axes across the way (mm), ``clear`` how much room is left in each (below 0: that much
    too large), ``blocked`` what it meets on its way, as (name, mm deep)."""

    axis: int
    mouth: tuple[float, float]
    clear: tuple[float, float]
    blocked: tuple[tuple[str, float], ...]

    @property
    def fits(self) -> bool:
        return min(self.clear) >= -1e-9

    @property
    def most(self) -> tuple[float, float]:
        """The largest that would go through, mm."""
        return tuple(max(m - 2 * PLAY_MM, 0.0) for m in self.mouth)  # type: ignore[return-value]


def way_in(section: Section, carrier: Carrier, through: Opening | None = None) -> WayIn:
    """The way of a carrier into its section: by a face of the inner box, or through one opening."""
    face = face_number(through.side) if through is not None else face_number(carrier.enters)
    axis, end = face // 2, face % 2
    u, v = others(axis)
    if through is not None:
        h, _, _ = PLANES[through.side]
        mouth = (through.width_mm, through.height_mm) if h == u else (through.height_mm, through.width_mm)
        middle = (through.at[u], through.at[v])
    else:
        mouth = (section.box.size[u], section.box.size[v])
        middle = (section.box.centre[u], section.box.centre[v])
    clear = tuple(m - carrier.size[a] - 2 * PLAY_MM for m, a in zip(mouth, (u, v), strict=True))
    # It goes straight in by the mouth, and inside it may still be moved sideways: what stands before its place is in the way.
    low, high = list(carrier.low), [a + s for a, s in zip(carrier.low, carrier.size, strict=True)]
    wall = section.box.at[axis] + end * section.box.size[axis]
    if end:
        low[axis], high[axis] = high[axis], max(wall, high[axis])
    else:
        low[axis], high[axis] = min(wall, low[axis]), low[axis]
    if through is not None:
        for k, a in enumerate((u, v)):
            low[a], high[a] = min(low[a], middle[k]), max(high[a], middle[k])
    blocked = []
    for o in section.obstacles:
        if o.action != "keep":
            continue
        deep = [min(h, a + s) - max(lo, a) for lo, h, a, s in zip(low, high, o.box.at, o.box.size, strict=True)]
        if min(deep) > MEETS_MM:
            blocked.append((o.name or o.kind, round(min(d for k, d in enumerate(deep) if k != axis), 2)))
    return WayIn(axis, mouth, (clear[0], clear[1]), tuple(blocked))


def outside_mm(section: Section, carrier: Carrier) -> tuple[float, float, float]:
    """How far a carrier stands out of the inner box along x, y and z; 0 where it doesn't."""
    out = []
    for a in range(3):
        low, size = section.box.at[a], section.box.size[a]
        first, last = carrier.low[a], carrier.low[a] + carrier.size[a]
        out.append(max(low - first, last - low - size, 0.0))
    return out[0], out[1], out[2]
