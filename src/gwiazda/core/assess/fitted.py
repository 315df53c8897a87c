"""What there is to say of a fitting: how large, how large the real one is, what it stands before."""

from __future__ import annotations

import numpy as np

from gwiazda.core.assess.lamp.realism import full_size_m
from gwiazda.core.memo import memoize
from gwiazda.core.plan.frame import PLANES, SHEET, Side
from gwiazda.core.plan.model import Fitting, Opening, Plan
from gwiazda.core.quantities import figure
from gwiazda.core.render.raster import within


def words_of(plan: Plan, fitting: Fitting) -> str:
    """Its size, and that of the real one."""
    h, v, _ = PLANES[fitting.side]
    size = fitting.size
    real = figure(full_size_m(max(size[h], size[v]), plan.kit.scale), 2)
    return f"{size[h]:.1f} × {size[v]:.1f} mm, {fitting.thick_mm:g} mm thick · {real} m on the real one"


SAMPLES = 5  # a side of a pane, by which what is covered of it is told


@memoize(slots=6)
def covered(fittings: tuple[Fitting, ...], openings: tuple[Opening, ...], side: Side) -> dict[str, float]:
    """The share of each opening of a side that fittings stand before, seen straight on; those that nothing stands before left out."""
    h, v, d = PLANES[side]
    toward = SHEET[side][2]
    mine = [o for o in openings if o.side == side]
    if not fittings or not mine:
        return {}
    at, half = np.array([o.at for o in mine]), np.array([(o.width_mm / 2, o.height_mm / 2) for o in mine])
    step = (np.arange(SAMPLES) + 0.5) / SAMPLES * 2.0 - 1.0
    u, w = (g.ravel() for g in np.meshgrid(step, step))
    hidden = np.zeros((len(mine), SAMPLES**2), dtype=bool)
    for f in fittings:
        low, size = f.low, f.size
        (a, b), (c, e) = ((low[k], low[k] + size[k]) for k in (h, v))
        near = toward * f.at[d] > toward * at[:, d]
        near &= (
            (at[:, h] + half[:, 0] > a)
            & (at[:, h] - half[:, 0] < b)
            & (at[:, v] + half[:, 1] > c)
            & (at[:, v] - half[:, 1] < e)
        )
        here = np.flatnonzero(near)
        if len(here):
            places = np.stack([at[here, h, None] + half[here, :1] * u, at[here, v, None] + half[here, 1:] * w], axis=-1)
            hidden[here] |= within(np.array(f.seen(side)), places.reshape(-1, 2)).reshape(len(here), -1)
    share = hidden.mean(axis=1)
    return {mine[i].id: float(share[i]) for i in np.flatnonzero(share > 0).tolist()}


def stands_before(plan: Plan, fitting: Fitting) -> tuple[Opening, ...]:
    """Openings of the view it was drawn in of which it hides a half or more, seen straight on."""
    found = covered((fitting,), plan.openings, fitting.side)
    return tuple(o for o in plan.openings if found.get(o.id, 0.0) >= 0.5)
