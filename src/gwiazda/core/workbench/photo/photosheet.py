"""The view a photo lies on, as predicted at the photo's own scale."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.night.picture import night_luminance
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.frame import Side
from gwiazda.core.plan.model import Plan
from gwiazda.core.render import photograph as ph
from gwiazda.core.render import photomap as pm
from gwiazda.core.render.layers import Camera as View
from gwiazda.core.workbench.photo.photomarks import sheet_place

Array = npt.NDArray[np.float64]
MOST_PX = 1_600_000  # of the sheet that leaks are looked for on


class Sheet:
    """The view as predicted at the photo's scale, tight: luminance (h, w) in cd/m², and where the hull is."""

    def __init__(
        self, plan: Plan, assessment: Assessment, side: Side, to_photo: pm.PhotoMap, width: int, height: int
    ) -> None:
        self.side = side
        self.camera = sheet_camera(plan, assessment, side, to_photo, width, height)
        said, relief = night_luminance(plan, assessment, side, self.camera, leaks=False)
        self.grey, self.hull = ph.grey_of(np.moveaxis(said, 0, -1)), relief.reflectance > 0

    def at(self, places: Array) -> float:
        """The mean predicted at places (N, 2) of the sheet, mm; 0 outside of it."""
        px = (places - np.array(self.camera.origin_mm)) * self.camera.scale - 0.5
        return float(np.nan_to_num(ph.sampled(self.grey[..., None], px)).mean())


def sheet_camera(
    plan: Plan, assessment: Assessment, side: Side, to_photo: pm.PhotoMap, width: int, height: int
) -> View:
    """The part of a view's sheet that a photo shows, at about the photo's own scale."""
    from gwiazda.core.assess.night.scene import surfaces_of

    surfaces = surfaces_of(assessment.catalogue, plan, side)
    points = (
        np.concatenate([s.polygon for s in surfaces]) if surfaces else np.array([sheet_place(o) for o in plan.openings])
    )
    corners = pm.mapped(
        np.asarray(np.linalg.inv(to_photo.matrix), dtype=float),
        np.array([[0, 0], [width, 0], [width, height], [0, height]], dtype=float),
    )
    low = np.maximum(points.min(axis=0), corners.min(axis=0)) - 1.0
    high = np.minimum(points.max(axis=0), corners.max(axis=0)) + 1.0
    middle: Array = (low + high) / 2.0
    step = pm.mapped(to_photo, np.asarray(middle + np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]), dtype=float))
    scale = float(np.sqrt(abs(np.linalg.det(np.stack([step[1] - step[0], step[2] - step[0]])))))
    wide = np.maximum(high - low, 1.0)
    scale = min(scale, math.sqrt(MOST_PX / float(wide.prod())))
    w, h = (max(math.ceil(x * scale), 4) for x in wide)
    return View(w, h, (float(low[0]), float(low[1])), scale, plan.room.distance_m)
