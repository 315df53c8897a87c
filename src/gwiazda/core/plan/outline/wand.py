"""The wand: from a place between the lines of a clean drawing to the outline around it."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.model import Point2

INK_SHARE = 0.55  # darker than this share of the way from the darkest to the paper counts as a line


def ink_of(grey: npt.NDArray[np.uint8]) -> npt.NDArray[np.bool_]:
    """Where a drawing has lines: (H, W) grey levels → bool. The paper is its commonest light tone."""
    paper, darkest = float(np.percentile(grey, 90)), float(grey.min())
    if paper - darkest < 40.0:
        return np.zeros(grey.shape, dtype=bool)
    return np.asarray(grey < darkest + INK_SHARE * (paper - darkest))


def outline_at(
    ink: npt.NDArray[np.bool_], x: float, y: float, gap_px: int = 2, tolerance_px: float = 1.2
) -> tuple[Point2, ...]:
    """The outline, in px, of the area between lines that holds a place.

    Parameters
    ----------
    ink : (H, W) bool
        Where the drawing has lines.
    x, y : float
        A place in px, right and down.
    gap_px : int
        Lines broken by up to about twice this many px still count as closed.
    tolerance_px : float
        How far the outline's corners may simplify away from the line.

    What is drawn inside (windows, rivets) belongs to the area. The outline runs along the middle of the lines.
    Raises PlanError for a place outside the picture, on a line, or in an area that isn't closed.
    """
    from scipy import ndimage
    from shapely import box, unary_union

    accepted = "a place inside a closed line of the drawing"
    height, width = ink.shape
    col, row = int(np.floor(x)), int(np.floor(y))
    if not (0 <= row < height and 0 <= col < width):
        raise PlanError("Wand", "this place lies off the drawing", accepted)
    if ink[row, col]:
        raise PlanError("Wand", "this place lies on a line", accepted)
    square = np.ones((3, 3), dtype=bool)
    thick = ndimage.binary_dilation(ink, square, iterations=gap_px) if gap_px else ink
    reach = gap_px
    if thick[row, col]:
        # Too near a line for gaps to be closed beside it.
        thick, reach = ink, 0
    labels, _ = ndimage.label(~thick)
    area = labels == labels[row, col]
    if area[0].any() or area[-1].any() or area[:, 0].any() or area[:, -1].any():
        raise PlanError("Wand", "the line around this place isn't closed", accepted)
    area = ndimage.binary_fill_holes(area)
    if reach:
        area = ndimage.binary_dilation(area, square, iterations=reach)
    # To the middle of the line: half its thickness further, measured where the area touches it.
    rim = ndimage.binary_dilation(area, square) & ink
    if rim.any():
        depth = ndimage.distance_transform_edt(ink)
        band = ndimage.binary_dilation(area, square, iterations=6) & ink
        half = round(float(np.median(depth[band & (depth >= depth[band].max() * 0.6)])))
        if half > 0:
            grown = ndimage.binary_dilation(area, square, iterations=min(half, 6))
            area = area | (grown & ink)
            area = ndimage.binary_fill_holes(area)
    runs = []
    for r in np.flatnonzero(area.any(axis=1)):
        line = np.diff(np.concatenate([[0], area[r].astype(np.int8), [0]]))
        for a, b in zip(np.flatnonzero(line == 1), np.flatnonzero(line == -1), strict=True):
            runs.append(box(float(a), float(r), float(b), float(r + 1)))
    merged = unary_union(runs)
    piece = max(getattr(merged, "geoms", [merged]), key=lambda g: g.area)
    found = piece.exterior.simplify(tolerance_px)
    return tuple((float(u), float(v)) for u, v in found.coords[:-1])
