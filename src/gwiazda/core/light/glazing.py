"""Panes and diffusers: what goes through, how much of it is scattered, what comes back; stacks of them; hot spots.

Sources
-------
[1] Two layers with reflections between them: the plate theory of G. Stokes (1862), T = T₁T₂/(1 − R₁R₂).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.light.scatter import over
from gwiazda.core.memo import memoize_by_value

Array = npt.NDArray[np.float64]


class Pane(NamedTuple):
    """Shares of light: through, scattered of what goes through, thrown back (the same from both sides).

    ``straight`` is what goes through seen straight on; as the diffuse share where it is left at 0.
    """

    transmittance: float
    scattered: float
    reflectance: float
    straight: float = 0.0

    @property
    def clear(self) -> float:
        """Share of what stands straight behind that shows."""
        return (self.straight or self.transmittance) * (1.0 - self.scattered)


@memoize_by_value(512)
def stack(layers: tuple[Pane, ...]) -> Pane:
    """Layers one behind the other [1]_. Light that one of them scatters stays scattered.

    Parameters
    ----------
    layers : tuple[Pane, ...]
        Layers from the inside to the outside.

    Returns
    -------
    Pane
        One pane that does what they do together.
    """
    light, h, straight = (1.0, 0.0), 0.0, 1.0
    for layer in layers:
        light = over(light, (layer.transmittance, layer.reflectance))
        h = 1.0 - (1.0 - h) * (1.0 - layer.scattered)
        straight *= layer.straight or layer.transmittance
    return Pane(light[0], h, light[1], straight)


def pane_profile(
    pane: Pane, direct_lx: Array, even_lx: float, behind_cd_m2: Array | float, face_cd_m2: Array | float = 0.0
) -> Array:
    """Luminance (cd/m²) over a pane as seen from straight outside.

    The scattered share shows the light that falls on the pane, the rest what stands behind it.

    Parameters
    ----------
    pane : Pane
        Its transmittance, and which share of it is scattered.
    direct_lx : (P,) array
        Direct illuminance at points of the pane, from inside.
    even_lx : float
        Illuminance from all bounces, even over the pane.
    behind_cd_m2 : (P,) array or float
        Luminance of what stands straight behind each point: the lining.
    face_cd_m2 : (P,) array or float
        Luminance of a lamp's own face where it stands straight behind a point, 0 elsewhere.

    Returns
    -------
    array (P,)
        Luminance at each point, cd/m².
    """
    scattered = pane.scattered * (direct_lx + even_lx) / np.pi
    return np.asarray(pane.transmittance * scattered + pane.clear * (np.asarray(behind_cd_m2) + face_cd_m2))


def hot_spot(profile: Array) -> float:
    """Brightest over mean of a pane's profile; 1 for a dark one.

    Parameters
    ----------
    profile : array
        Luminance over a pane, any shape, any unit.

    Returns
    -------
    float
        Ratio, 1 at the least.
    """
    mean = float(np.mean(profile))
    return float(np.max(profile)) / mean if mean > 0.0 else 1.0


def panes(entries: Sequence[tuple[float, float, float]]) -> tuple[Pane, ...]:
    """Panes from (transmittance, reflectance, absorptance) or the like, in the order of ``Pane``.

    Parameters
    ----------
    entries : Sequence[tuple[float, float, float]]
        Three shares (0 to 1) of each layer.

    Returns
    -------
    tuple[Pane, ...]
        The layers.
    """
    return tuple(Pane(*e) for e in entries)
