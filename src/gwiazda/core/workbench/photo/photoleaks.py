"""Light on a photo where none should be: beside all that shines, over the noise, and over what would be seen."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.view_index import section_at
from gwiazda.core.light.visibility import visible_luminance
from gwiazda.core.plan.frame import Side, from_sheet, to_sheet
from gwiazda.core.plan.model import Plan
from gwiazda.core.render import photograph as ph
from gwiazda.core.render import photomap as pm
from gwiazda.core.render.layers import Camera as View
from gwiazda.core.workbench.photo.photomarks import glows_of, sheet_place
from gwiazda.core.workbench.photo.photosheet import Sheet

Array = npt.NDArray[np.float64]
EDGE_MM, EDGE_PX = 0.4, 3.0  # round an opening, where light is its own
OVER = 1.4  # times what is predicted there: less is a bloom that was told a little too faint
AS_PREDICTED_MM = 6.0
BURNT_LINEAR = 0.4  # of the brightest there is
BLIND = 0.016  # of the photo's longer side: so near to a point that is burnt out, its bloom can't be told from a leak
ASTRAY_PX = 3  # that a place on the sheet may lie off in the photo: where it may be more, leaks aren't looked for


class LeakRead(NamedTuple):
    """Light outside of any opening: on the sheet (mm: right, down) and the model, its size, brightest and mean luminance (cd/m²);
    ``times`` over what just shows; ``section`` it is on; ``predicted``: the leak of the assessment it is, or ""."""

    right: float
    down: float
    at: tuple[float, float]
    size_mm: tuple[float, float]
    peak_cd_m2: float
    mean_cd_m2: float
    times: float
    section: str
    predicted: str


class Developed(NamedTuple):
    """A photo as light: its linear values, those of the dark, the darkening of its corners, and the value of a cd/m²."""

    linear: ph.Array32
    dark: ph.Array32
    field: ph.Array32
    level: float
    bloom: float = 1.0  # of the camera, over an eye's


def leaks_on(
    plan: Plan, assessment: Assessment, sheet: Sheet, fitted: pm.Fitted, photo: Developed
) -> tuple[tuple[LeakRead, ...], float]:
    """Light on the hull that neither an opening nor a lamp outside explains, and the luminance from which it would be seen."""
    linear, dark, field, level, bloom = photo
    side, camera, predicted = sheet.side, sheet.camera, sheet.grey
    grid = np.stack(np.meshgrid(np.arange(camera.width) + 0.5, np.arange(camera.height) + 0.5), axis=-1) / camera.scale
    grid = grid + np.array(camera.origin_mm)
    px = pm.mapped(fitted.map, grid)
    values = ph.sampled(linear, px)
    shade = ph.sampled(field[..., None], px)[..., 0]
    seen = ph.grey_of(values - dark) / (level * shade)
    looked = sheet.hull & np.isfinite(seen) & (np.nan_to_num(values).max(axis=-1) < 0.9)
    step = max(min(looked.shape) // 24, 1)
    unsure = fitted.sigma_px(grid[::step, ::step].reshape(-1, 2)).reshape(grid[::step, ::step].shape[:2])
    looked &= np.repeat(np.repeat(unsure <= ASTRAY_PX, step, axis=0), step, axis=1)[
        : looked.shape[0], : looked.shape[1]
    ]
    if not looked.any():
        return (), math.inf
    looked &= ~_explained(plan, assessment, side, camera) & ~_blinded(plan, assessment, sheet, photo, fitted.map)
    room = float(np.median(predicted[looked])) if looked.any() else 0.0
    from scipy import ndimage

    # A bloom is steep: what lies a few pixels off in the photo isn't to be taken for a leak.
    around = ndimage.maximum_filter(predicted, 2 * ASTRAY_PX + 1)
    left = np.where(looked, seen - OVER * max(bloom, 1.0) * np.maximum(around - room, 0.0), 0.0).astype(np.float32)
    least = 0.5 * visible_luminance(assessment.hull_cd_m2)
    found_spots, floor = ph.spots(left, looked, least)
    out = []
    for s in found_spots:
        right, down = (
            camera.origin_mm[0] + (s.x + 0.5) / camera.scale,
            camera.origin_mm[1] + (s.y + 0.5) / camera.scale,
        )
        out.append(_leak(plan, assessment, side, camera, s, right, down))
    return tuple(out), floor


def _blinded(
    plan: Plan, assessment: Assessment, sheet: Sheet, photo: Developed, to_photo: pm.PhotoMap
) -> npt.NDArray[np.bool_]:
    """Pixels of the sheet round points and lamps that are burnt out on the photo: how bright they are, and so their bloom, isn't known."""
    view = sheet.camera
    out = np.zeros((view.height, view.width), dtype=bool)
    high, wide = photo.linear.shape[:2]
    reach = BLIND * max(high, wide) / max(_px_per_mm(to_photo, view), 1e-6) * view.scale
    y, x = np.ogrid[: view.height, : view.width]
    for g in glows_of(plan, assessment, sheet.side):
        if g.id in assessment.openings:
            continue
        u, v = np.rint(pm.mapped(to_photo, np.array(g.at))).astype(int)
        part = photo.linear[max(v - 5, 0) : max(v + 6, 0), max(u - 5, 0) : max(u + 6, 0)]
        if part.size and float(part.max()) >= BURNT_LINEAR * float(photo.linear.max()):
            cx, cy = (np.array(g.at) - np.array(view.origin_mm)) * view.scale
            out |= (x - cx) ** 2 + (y - cy) ** 2 <= reach**2
    return out


def _px_per_mm(to_photo: pm.PhotoMap, view: View) -> float:
    """Of the photo, at the middle of the view."""
    middle = np.array(view.origin_mm) + np.array([view.width, view.height]) / 2.0 / view.scale
    ends = pm.mapped(to_photo, middle + np.array([[0.0, 0.0], [1.0, 0.0]]))
    return float(np.linalg.norm(ends[1] - ends[0]))


def _leak(
    plan: Plan, assessment: Assessment, side: Side, camera: View, s: ph.Spot, right: float, down: float
) -> LeakRead:
    known = ""
    for leak in assessment.leaks:
        x, y, _ = to_sheet(side, leak.at)
        if leak.face == side and math.hypot(x - right, y - down) < AS_PREDICTED_MM and leak.times >= 1.0:
            known = leak.id
    size = ((s.right - s.left) / camera.scale, (s.bottom - s.top) / camera.scale)
    return LeakRead(
        right, down, from_sheet(side, right, down), size, s.peak, s.mean, s.peak / visible_luminance(assessment.hull_cd_m2),
        section_at(plan, side, right, down) or "", known,
    )  # fmt: skip


def _explained(plan: Plan, assessment: Assessment, side: Side, camera: View) -> npt.NDArray[np.bool_]:
    """Pixels of the sheet within an opening, a fibre's tip or a lamp seen itself, their edges among them."""
    out = np.zeros((camera.height, camera.width), dtype=bool)
    edge = EDGE_MM * camera.scale + EDGE_PX

    def stamp(right: float, down: float, half_w: float, half_h: float) -> None:
        x, y = (right - camera.origin_mm[0]) * camera.scale, (down - camera.origin_mm[1]) * camera.scale
        a, b = half_w * camera.scale + edge, half_h * camera.scale + edge
        out[max(int(y - b), 0) : max(int(y + b) + 1, 0), max(int(x - a), 0) : max(int(x + a) + 1, 0)] = True

    for o in plan.openings:
        if o.side == side:
            stamp(*sheet_place(o), o.width_mm / 2, o.height_mm / 2)
    for d in plan.dots:
        right, down, _ = to_sheet(side, d.at)
        stamp(right, down, 0.5, 0.5)
    for lamp in plan.lamps:
        if lamp.mount == "outside":
            right, down, _ = to_sheet(side, lamp.at)
            part = assessment.catalogue.lamps[lamp.part]
            stamp(right, down, part.face_mm, part.face_mm)
    return out
