"""A view in the dark as a picture in cd/m², for what is compared with a photo."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.night.scene import scene_of, surfaces_of
from gwiazda.core.assess.night.unlit import lay_unlit, unlit_shares
from gwiazda.core.assess.sight.throw import sheet_bodies
from gwiazda.core.assess.states import Assessment
from gwiazda.core.light.visibility import visible_luminance
from gwiazda.core.plan.frame import Side
from gwiazda.core.plan.lookup import standing
from gwiazda.core.plan.model import Plan
from gwiazda.core.render.layers import Camera, ChannelLight, Relief, render
from gwiazda.core.render.tone import hull_luminance
from gwiazda.core.turns import give_way

Array32 = npt.NDArray[np.float32]
FAINT = 0.1  # of what is seen on a hull: fainter light is left out


def night_luminance(
    plan: Plan,
    assessment: Assessment,
    side: Side,
    camera: Camera,
    leaks: bool = True,
    more: Iterable[ChannelLight] = (),
) -> tuple[Array32, Relief]:
    """Linear sRGB planes (3, h, w) of a view in cd/m², all channels lit, and the faces that are turned to the viewer.

    ``leaks``: whether walls and seams let light out; ``more``: lights laid over the plan's own.
    """
    relief = Relief(
        surfaces_of(assessment.catalogue, plan, side), camera, sheet_bodies(plan.sections, side, standing(plan))
    )
    out = np.empty((3, camera.height, camera.width), np.float32)
    ground = relief.reflectance.copy()
    lay_unlit(
        ground,
        camera,
        side,
        plan.openings,
        unlit_shares(assessment.catalogue, plan.sections, plan.openings, plan.kit.material),
        1.0,
    )
    out[:] = ground * np.float32(hull_luminance(plan.room.lux, 1.0))
    least = FAINT * visible_luminance(assessment.hull_cd_m2)
    for light in (*scene_of(plan, assessment, side, leaks), *more):
        give_way()
        layer = render(light, camera, relief, least)
        if layer is not None:
            h, w = layer.pixels.shape
            for plane, share in enumerate(layer.rgb):
                out[plane, layer.y0 : layer.y0 + h, layer.x0 : layer.x0 + w] += np.float32(share) * layer.pixels
    return out, relief
