"""What is behind a model: a plain wall, and the table it stands on, in the light of the room.

House values: both matt and dark grey, so that a hull of plastic stands out from them by day and lit windows by night.
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from gwiazda.core.render.solid import Eye

Array32 = npt.NDArray[np.float32]
WALL, TABLE = 0.15, 0.12  # diffuse reflectance


def flat(height: int, width: int, foot_row: float | None) -> Array32:
    """Luminance of wall and table for each lux of the room (cd/m² a lx), as a side view has them behind the model.

    Parameters
    ----------
    height, width : int
        Of the picture, px.
    foot_row : float or None
        Row of the model's lowest edge, px; None where one looks straight down: table all over.

    Returns
    -------
    array
        (height, width).
    """
    out = np.full((height, width), TABLE / math.pi, np.float32)
    if foot_row is not None:
        out[: max(min(round(foot_row), height), 0)] = WALL / math.pi
    return out


def around(eye: Eye, foot_mm: float) -> Array32:
    """The same from an eye: table where one looks down onto the plane the model stands on, wall above its horizon.

    Parameters
    ----------
    eye : Eye
        From where it is looked at.
    foot_mm : float
        Height of that plane, mm.

    Returns
    -------
    array
        (height, width) of the eye's picture, cd/m² a lx.
    """
    _, down, ahead = eye.axes
    # A table ends: what is farther off than a few times the eye's distance is wall again.
    y = (np.arange(eye.height) + 0.5 - eye.height / 2) / eye.focal
    drop = ahead[2] + y * down[2]
    above = float(eye.place[2]) - foot_mm
    with np.errstate(divide="ignore", invalid="ignore"):
        off = np.where(drop < -1e-6, above / -drop, np.inf)
    on_table = (off > 0) & (off < TABLE_REACH * eye.distance_mm)
    rows = np.where(on_table, TABLE, WALL) / math.pi
    return np.broadcast_to(rows.astype(np.float32)[:, None], (eye.height, eye.width))


TABLE_REACH = 2.5
