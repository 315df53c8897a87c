"""A simulated camera before one's own plan: the night picture in perspective, with noise, dark corners and burnt-out panes.

What reads photos is tried with it, where no photo is at hand: by the tests, and by who wants to see what comes out.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.night.picture import night_luminance
from gwiazda.core.assess.night.scene import surfaces_among, surfaces_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import PlanError
from gwiazda.core.plan.frame import Side, to_sheet
from gwiazda.core.plan.model import Dot, Laid, Lamp, PhotoMark, Plan
from gwiazda.core.render import photograph as ph
from gwiazda.core.render import photomap as pm
from gwiazda.core.render.layers import Camera, ChannelLight
from gwiazda.core.render.raster import within
from gwiazda.core.workbench.photo.photoleaks import LeakRead
from gwiazda.core.workbench.photo.photomarks import glows_of, landmarks

WHITE = (1.0, 1.0, 1.0)
OVERSAMPLED = 1.15  # of the picture that is photographed, to the photo
MIDDLE = 0.35  # of full scale: where the exposure puts the median pane
CLEAR_MM = 1.5  # between a planted leak and an opening or another leak
LEAK_SHARE = (0.05, 0.3)  # of the median pane's luminance


class Simulated(NamedTuple):
    """A photo (h, w, 3) of sRGB code values, how it is laid on by somebody who drags marks by hand, and the leaks that were planted:
    on the sheet (mm: right, down), luminance (cd/m²)."""

    code: ph.Bytes
    laid: Laid
    planted: tuple[tuple[float, float, float], ...]


def simulated(
    plan: Plan, assessment: Assessment, side: Side, seed: int, leaks: int = 0, width: int = 1600, stray_px: float = 3.0
) -> Simulated:
    """A photo of the plan lit in the dark.

    Parameters
    ----------
    side : the view it is taken of
    seed : int
        Of the perspective, the noise, the marks' stray and the leaks.
    leaks : int
        How many are planted, where nothing else shines.
    width : px
    stray_px : one sigma of how far the marks lie off

    Raises
    ------
    PlanError
        Where there are fewer than two lit openings on that side.
    """
    rng = np.random.default_rng(seed)
    ids = landmarks(plan, assessment, side)
    by_id = {g.id: g.at for g in glows_of(plan, assessment, side)}
    lit = [
        assessment.openings[o.id].luminance_cd_m2
        for o in plan.openings
        if o.side == side and o.lit > 0 and o.id in assessment.openings
    ]
    lit = [x for x in lit if x > 0]
    surfaces = surfaces_of(assessment.catalogue, plan, side)
    if len(ids) < 2 or not surfaces:
        raise PlanError("Photo", "fewer than two lit openings on this side", "a side with lit openings: light it first")
    points = np.concatenate([*(s.polygon for s in surfaces), np.array(list(by_id.values()))])
    low, high = points.min(axis=0) - 5.0, points.max(axis=0) + 5.0
    scale = OVERSAMPLED * width / float((high - low)[0])
    camera = Camera(
        int(OVERSAMPLED * width), max(int(float((high - low)[1]) * scale), 8), (float(low[0]), float(low[1])), scale,
        plan.room.distance_m,
    )  # fmt: skip
    pane = float(np.median(lit))
    planted = _planted(
        plan,
        side,
        rng,
        leaks,
        pane,
        [s.polygon for s in surfaces_among(assessment.catalogue, plan.sections, plan.kit.material, side)],
        assessment,
    )
    more = [
        ChannelLight(
            "leak", WHITE, np.array([[x - w / 2, x + w / 2, y - h / 2, y + h / 2]]), np.array([cd]), np.zeros((0, 4)), np.zeros(0)
        )
        for x, y, cd, w, h in planted
    ]  # fmt: skip
    luminance, _ = night_luminance(plan, assessment, side, camera, True, more)
    height = max(int(width * camera.height / camera.width), width // 4)
    corners = np.array([[0, 0], [camera.width, 0], [camera.width, camera.height], [0, camera.height]], dtype=float)
    shares = np.array([[0.03, 0.04], [0.97, 0.04], [0.97, 0.96], [0.03, 0.96]]) + rng.uniform(-0.03, 0.03, (4, 2))
    to_photo = pm.homography(corners, shares * np.array([width, height]))
    focal = float(rng.uniform(0.9, 1.6)) * width
    code = ph.photographed(luminance, to_photo, (width, height), MIDDLE / pane, seed, focal)
    marks = []
    for i in ids:
        at = pm.mapped(to_photo, (np.array(by_id[i]) - low) * scale - 0.5) + rng.normal(0.0, stray_px, 2)
        x, y = np.clip(at / np.array([width - 1, height - 1]), 0.0, 1.0)
        marks.append(PhotoMark(on=i, at=(float(x), float(y))))
    return Simulated(code, Laid(side=side, marks=tuple(marks)), tuple((x, y, cd) for x, y, cd, _, _ in planted))


def _planted(
    plan: Plan,
    side: Side,
    rng: np.random.Generator,
    many: int,
    pane_cd_m2: float,
    polygons: list[ph.Array],
    assessment: Assessment,
) -> list[tuple[float, float, float, float, float]]:
    """Leaks on the hull clear of all that shines: right, down, cd/m², width, height (mm)."""
    taken = [(*to_sheet(side, o.at)[:2], max(o.width_mm, o.height_mm) / 2) for o in plan.openings if o.side == side]
    others: tuple[Dot | Lamp, ...] = (*plan.dots, *(p for p in plan.lamps if p.mount == "outside"))
    taken += [(*to_sheet(side, x.at)[:2], 4.0) for x in others]
    taken += [
        (*to_sheet(side, leak.at)[:2], 8.0) for leak in assessment.leaks if leak.face == side and leak.times > 0.2
    ]
    every = np.concatenate(polygons)
    low, high = every.min(axis=0), every.max(axis=0)
    out: list[tuple[float, float, float, float, float]] = []
    for _ in range(400 * many):
        if len(out) == many:
            break
        x, y = rng.uniform(low, high)
        w, h = rng.uniform(0.8, 5.0, 2) if rng.random() < 0.5 else (rng.uniform(4.0, 15.0), rng.uniform(0.5, 1.0))
        reach = max(w, h) / 2 + CLEAR_MM
        if any(np.hypot(x - a, y - b) < reach + r for a, b, r in taken):
            continue
        box = np.array([[x - w / 2, y - h / 2], [x + w / 2, y + h / 2]]) + np.array([[-CLEAR_MM], [CLEAR_MM]])
        corners = np.array([box[0], [box[1, 0], box[0, 1]], box[1], [box[0, 0], box[1, 1]]])
        if not any(within(p, corners).all() for p in polygons):
            continue
        out.append((float(x), float(y), pane_cd_m2 * float(rng.uniform(*LEAK_SHARE)), float(w), float(h)))
        taken.append((float(x), float(y), max(w, h) / 2 + CLEAR_MM))
    return out


class Trial(NamedTuple):
    """How reading did on simulated photos: leaks planted and found, false ones, the openings' greatest error and how many counted."""

    pictures: int
    planted: int
    found: int
    false: int
    openings: int
    worst: float


def leaks_told(leaks: Sequence[LeakRead], planted: Sequence[tuple[float, float, float]]) -> tuple[int, int]:
    """How many of the leaks that were planted are among those that were read, and how many of these were not planted nor predicted."""
    spare, hit = [x for x in leaks if not x.predicted], 0
    for x, y, _ in planted:
        near = [s for s in spare if np.hypot(s.right - x, s.down - y) < max(*s.size_mm, 3.0)]
        hit += bool(near)
        spare = [s for s in spare if s not in near]
    return hit, len(spare)


def trial(
    plan: Plan, assessment: Assessment, side: Side, pictures: int, leaks: int, width: int = 1600, seed: int = 1
) -> Trial:
    """Read simulated photos with planted leaks."""
    from gwiazda.core.workbench.photo.photoread import read_photo

    planted = hit = false = openings = 0
    worst = 0.0
    for k in range(pictures):
        shot = simulated(plan, assessment, side, seed + k, leaks, width)
        reading = read_photo(plan, assessment, shot.code, shot.laid)
        found, made_up = leaks_told(reading.leaks, shot.planted)
        hit, false, planted = hit + found, false + made_up, planted + len(shot.planted)
        openings += len(reading.told)
        worst = max([worst, *(abs(p.ratio - 1.0) for p in reading.told)])
    return Trial(pictures, planted, hit, false, openings, worst)
