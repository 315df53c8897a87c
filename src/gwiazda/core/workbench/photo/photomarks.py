"""How a photo lies on a view: what shines in it, the marks to drag, and the map that marks and light together tell."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.view_index import hidden_lamps
from gwiazda.core.errors import PlanError
from gwiazda.core.plan.frame import NORMALS, Side, to_sheet
from gwiazda.core.plan.model import Laid, Opening, PhotoMark, Plan
from gwiazda.core.render import photograph as ph
from gwiazda.core.render import photomap as pm

Array = npt.NDArray[np.float64]
LANDMARKS = 4
MARK_PX, MIDDLE_PX = (
    0.0025,
    0.4,
)  # one sigma: of a mark dragged by hand, in lengths of the photo; of an opening's middle
ROUNDS = 10
THIN, LONG = 0.08, 0.6  # of landmarks: width over length, and length over all that shines


class Glow(NamedTuple):
    """Something that shines in a view and is told from its surroundings: its middle and half its size on the sheet, mm."""

    id: str
    at: tuple[float, float]
    half: tuple[float, float]


def glows_of(plan: Plan, assessment: Assessment, side: Side) -> tuple[Glow, ...]:
    """Lit openings, tips of fibres and lamps seen themselves that face the viewer."""
    out = [Glow(o.id, sheet_place(o), (o.width_mm / 2, o.height_mm / 2)) for o in lit_of(plan, assessment, side)]
    for d in plan.dots:
        tip = assessment.tips.get(d.id)
        if d.side == side and tip is not None and tip.cd > 0:
            half = assessment.catalogue.fibres[d.fibre].diameter_mm / 2
            out.append(Glow(d.id, to_sheet(side, d.at)[:2], (half, half)))
    hidden = hidden_lamps(plan.lamps, plan.sections, side)
    for p in plan.lamps:
        aims = p.frosted_cap or sum(a * n for a, n in zip(p.aim, NORMALS[side], strict=True)) > 0.2
        if p.mount == "outside" and aims and p.id not in hidden and assessment.lamps[p.id].axial_cd > 0:
            half = assessment.catalogue.lamps[p.part].face_mm / 2
            out.append(Glow(p.id, to_sheet(side, p.at)[:2], (half, half)))
    return tuple(out)


def lit_of(plan: Plan, assessment: Assessment, side: Side) -> list[Opening]:
    states = assessment.openings
    return [
        o for o in plan.openings if o.side == side and o.lit > 0 and o.id in states and states[o.id].luminance_cd_m2 > 0
    ]


def sheet_place(o: Opening) -> tuple[float, float]:
    right, down, _ = to_sheet(o.side, o.at)
    return right, down


def landmarks(plan: Plan, assessment: Assessment, side: Side) -> tuple[str, ...]:
    """Four of what shines, far apart, in reading order; two where all lie in a line; none where fewer than two do."""
    lit = glows_of(plan, assessment, side)
    # Panes are the easiest to hit with a mark; a tip may be too faint to see, and a bare lamp blinds the camera.
    every = np.array([g.at for g in lit]).reshape(-1, 2)
    long = float(np.ptp(every, axis=0).max()) if len(lit) else 0.0
    for kinds in (assessment.openings, {**assessment.openings, **assessment.tips}):
        calm = tuple(g for g in lit if g.id in kinds)
        spots = np.array([g.at for g in calm]).reshape(-1, 2)
        if len(calm) >= LANDMARKS and _thin(spots) > THIN and float(np.ptp(spots, axis=0).max()) > LONG * long:
            lit = calm
            break
    if len(lit) < 2:
        return ()
    at = np.array([o.at for o in lit])
    corners = dict.fromkeys(int(np.argmax(at @ np.array(d))) for d in ((-1, -1), (1, -1), (1, 1), (-1, 1)))
    # The longest diagonal first, then what lies farthest off it on either side.
    apart = np.linalg.norm(at[:, None, :] - at[None, list(corners), :], axis=2)
    i, k = np.unravel_index(int(np.argmax(apart)), apart.shape)
    a, b = at[int(i)], at[list(corners)[int(k)]]
    way = (b - a) / max(float(np.linalg.norm(b - a)), 1e-9)
    off = (at - a) @ np.array([-way[1], way[0]])
    first, last = int(i), list(corners)[int(k)]
    sides = [int(np.argmin(off)), int(np.argmax(off))]
    long = float(np.linalg.norm(b - a))
    four = [n for n in dict.fromkeys([first, last, *sides]) if n in (first, last) or abs(off[n]) > 0.01 * long]
    if len(four) == 3:  # one of the ends has all on one side: the farthest from the three others
        rest = [n for n in range(len(lit)) if n not in four]
        if rest:
            least = [_spread(at, [*four, n]) for n in rest]
            best = int(np.argmax(least))
            if least[best] > 1e-3:
                four.append(rest[best])
    if len(four) < LANDMARKS or _spread(at, four) < 1e-3:
        four = [first, last]  # all in a line
    middle = at[four].mean(axis=0)
    return tuple(lit[n].id for n in sorted(four, key=lambda n: (at[n, 1] > middle[1], at[n, 0])))


def _thin(points: Array) -> float:
    """How wide points lie across the line that fits them best, over how long: 0 for such in a line."""
    size = np.linalg.svd(points - points.mean(axis=0), compute_uv=False)
    return float(size[1] / size[0]) if size[0] > 0 else 0.0


def _spread(at: Array, four: list[int]) -> float:
    """The smallest triangle of any three of the points, over the square of their extent: 0 where three lie in a line."""
    p = at[four]
    extent = float(np.ptp(p, axis=0).max()) ** 2
    n = len(four)
    areas = [
        abs(float(np.linalg.det(np.stack([p[j] - p[i], p[k] - p[i]])))) / 2.0
        for i in range(n) for j in range(i + 1, n) for k in range(j + 1, n)
    ]  # fmt: skip
    return min(areas) / max(extent, 1e-12)


def laid_on(plan: Plan, assessment: Assessment, side: Side) -> Laid:
    """Marks to begin with: the landmarks, as if the photo were taken straight on and filled by them."""
    ids = landmarks(plan, assessment, side)
    if len(ids) < 2:
        raise PlanError("Photo", "fewer than two things shine on this side", "a side with lit openings: light it first")
    by_id = {g.id: g.at for g in glows_of(plan, assessment, side)}
    at = np.array([by_id[i] for i in ids])
    low, high = at.min(axis=0), at.max(axis=0)
    wide = np.maximum(high - low, 1e-6)
    share = 0.15 + 0.7 * (at - low) / wide
    if high[1] - low[1] < 1e-6:
        share[:, 1] = 0.5
    return Laid(
        side=side, marks=tuple(PhotoMark(on=i, at=(float(x), float(y))) for i, (x, y) in zip(ids, share, strict=True))
    )


def settled(
    linear: ph.Array32, lit: tuple[Glow, ...], marked: Array, px: Array, sigma_px: float
) -> tuple[pm.Fitted, float]:
    """The map by marks (N, 2) on the sheet and the photo, pulled straight by where the openings' light is, from the surest places
    outwards; how far the marks were off (px)."""
    grey = ph.grey_of(linear)
    sheet, half = np.array([g.at for g in lit]), np.array([g.half for g in lit])
    size = (float(linear.shape[1]), float(linear.shape[0]))
    now = pm.laid(marked, px, sigma_px, size=size)
    for _ in range(ROUNDS):
        at, unsure = pm.mapped(now.map, sheet), now.sigma_px(sheet)
        seen = np.array([_middle(grey, now.map, n, sheet, half, at, unsure) for n in range(len(lit))]).reshape(-1, 2)
        good = np.isfinite(seen).all(axis=1)
        if not good.any():
            break
        sigma = np.concatenate([np.full(len(marked), sigma_px), np.full(int(good.sum()), MIDDLE_PX)])
        now = pm.laid(
            np.concatenate([marked, sheet[good]]), np.concatenate([px, seen[good]]), sigma, robust=True, size=size
        )
    return now, float(np.median(np.linalg.norm(pm.mapped(now.map, marked) - px, axis=1)))


def _middle(
    grey: ph.Array32, to_photo: pm.PhotoMap, n: int, sheet: Array, half: Array, at: Array, unsure: Array
) -> tuple[float, float]:
    """Where the light of one of them has its middle on the photo; NaN where that can't be told safely."""
    corners = pm.mapped(to_photo, sheet[n] + half[n] * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]))
    size = np.ptp(corners, axis=0)
    near = np.linalg.norm(at - at[n], axis=1)
    near[n] = np.inf
    room = float(near.min()) / 2.0
    slack = 1.0 + 2.5 * float(unsure[n])
    if slack > room or min(size) < 1.0:
        return (math.nan, math.nan)  # its neighbour could be taken for it
    reach = np.minimum(size / 2 + slack, room * 1.2)
    left, top = np.floor(at[n] - reach).astype(int)
    right, bottom = np.ceil(at[n] + reach).astype(int) + 1
    if left < 0 or top < 0 or right > grey.shape[1] or bottom > grey.shape[0]:
        return (math.nan, math.nan)
    part = grey[top:bottom, left:right]
    top_value = float(part.max())
    if top_value < 0.01:
        return (math.nan, math.nan)
    # A burnt-out middle weighs no more than the rest, and what blooms around nothing.
    light = np.maximum(np.minimum(part, 0.9 * top_value) - 0.5 * top_value, 0.0)
    if float((light > 0).sum()) > 3.0 * float(np.prod(size + 3.0)):
        return (math.nan, math.nan)  # it blinds the camera
    yy, xx = np.mgrid[top:bottom, left:right]
    return (float((xx * light).sum() / light.sum()), float((yy * light).sum() / light.sum()))
