"""What there is to say of a fitting: how large, how large the real one is, what it stands before."""

from __future__ import annotations

from gwiazda.core.assess.lamp.realism import full_size_m
from gwiazda.core.plan.frame import PLANES, SHEET
from gwiazda.core.plan.model import Fitting, Opening, Plan
from gwiazda.core.quantities import figure


def words_of(plan: Plan, fitting: Fitting) -> str:
    """Its size, and that of the real one."""
    h, v, _ = PLANES[fitting.side]
    size = fitting.size
    real = figure(full_size_m(max(size[h], size[v]), plan.kit.scale), 2)
    return f"{size[h]:.1f} × {size[v]:.1f} mm, {fitting.thick_mm:g} mm thick · {real} m on the real one"


def stands_before(plan: Plan, fitting: Fitting) -> tuple[Opening, ...]:
    """Openings of the view it was drawn in whose middle lies behind it, seen straight on."""
    from shapely import Point, Polygon

    h, v, d = PLANES[fitting.side]
    toward = SHEET[fitting.side][2]
    shape = Polygon(fitting.seen(fitting.side))
    return tuple(
        o
        for o in plan.openings
        if o.side == fitting.side
        and toward * o.at[d] < toward * fitting.at[d]
        and shape.contains(Point(o.at[h], o.at[v]))
    )
