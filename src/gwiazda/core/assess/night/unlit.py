"""Panes with their lamps off, in the light of the room: what is dark inside stays dark, white inside shines grey."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.night.scene import pane_shapes
from gwiazda.core.assess.optics.glazed import pane_of
from gwiazda.core.assess.optics.skin import lining_reflectance
from gwiazda.core.light.dusk import glow_back
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import Side
from gwiazda.core.plan.lookup import openings_by_section
from gwiazda.core.plan.model import Opening, Section
from gwiazda.core.render.laid import lay
from gwiazda.core.render.layers import Camera


@memoize(slots=8)
def unlit_shares(
    catalogue: Catalogue, sections: tuple[Section, ...], openings: tuple[Opening, ...], kit_material: str
) -> Mapping[str, float]:
    """The share of the room's light that each pane throws back with its section dark, by its id: its own, and what comes out from inside."""
    out, panes = {}, openings_by_section(openings)
    for s in sections:
        mine = [o for o in panes.get(s.id, ()) if not o.into]
        lining = lining_reflectance(catalogue, s, kit_material)
        x, y, z = s.box.size
        holes = min(sum(o.area_mm2 for o in mine) / (2.0 * (x * y + y * z + z * x)), 1.0)
        for o in mine:
            pane = pane_of(catalogue, o, s, lining, kit_material)
            out[o.id] = min(pane.reflectance + glow_back(holes, pane.transmittance, lining), 1.0)
    return out


def lay_unlit(
    picture: npt.NDArray[np.float32],
    camera: Camera,
    side: Side,
    openings: tuple[Opening, ...],
    shares: Mapping[str, float],
    per: float = 1.0 / math.pi,
) -> None:
    """Put the panes of a side into a picture of what the room's light shows, ``per`` of their share each, in place."""
    mine = [o for o in openings if o.side == side and o.id in shares]
    shapes = pane_shapes(mine, side)
    values = np.array([shares[o.id] * per for o in mine])
    lay(picture, camera, shapes.rects, values[shapes.rect_of], shapes.discs, values[shapes.disc_of])
