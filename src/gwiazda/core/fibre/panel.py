"""Points of a panel found in a picture of its face: by colour, or as round spots.

Sources
-------
[1] Connected components and their centres of mass, ``scipy.ndimage``.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.errors import PlanError

MOST_DOTS = 5_000
MOST_PX = 4_000_000
COLOURS: dict[str, float] = {"red": 0.0, "orange": 28.0, "amber": 48.0, "green": 125.0, "blue": 220.0}  # hue, degrees


class Spot(NamedTuple):
    """A point found: its middle as shares of the picture's width and height, its diameter as a share of the width."""

    across: float
    down: float
    wide: float
    colour: str


def spots_in(picture: npt.NDArray[np.uint8], colour: str = "", least_px: float = 2.0) -> tuple[Spot, ...]:
    """Points of a face picture (H, W, 3), row by row.

    ``colour`` empty takes all that stands out from the background (the picture's commonest tone) and is about round; the
    name of a colour takes what has its hue.

    Parameters
    ----------
    picture : array of bytes
        sRGB code values (H, W, 3).
    colour : str
        Name of the colour looked for; empty for all that stands out.
    least_px : float
        Diameter below which a spot is noise, px.

    Returns
    -------
    tuple[Spot, ...]
        The spots.

    Raises
    ------
    PlanError
        Where nothing is found, or far too much.
    """
    from scipy import ndimage  # heavy: at its first use

    data = np.asarray(picture, dtype=float)
    step = max(1, math.ceil(math.sqrt(data.shape[0] * data.shape[1] / MOST_PX)))
    data = data[::step, ::step]
    high, low = data.max(axis=2), data.min(axis=2)
    strong = (high - low > 45.0) & (high > 60.0)
    hue = _hue(data, high, low)
    if colour:
        if colour not in (*COLOURS, "white"):
            raise PlanError("Panel picture", f"“{colour}” is no colour to look for", f"{', '.join(COLOURS)} or white")
        if colour == "white":
            mask = (low > 200.0) & (high - low < 30.0)
        else:
            away = np.abs((hue - COLOURS[colour] + 180.0) % 360.0 - 180.0)
            nearest = np.min([np.abs((hue - h + 180.0) % 360.0 - 180.0) for h in COLOURS.values()], axis=0)
            mask = strong & (away <= nearest + 1e-9) & (away < 40.0)
    else:
        back = _ground(data)
        mask = np.abs(data - back).max(axis=2) > 60.0
    labels, count = ndimage.label(mask)
    if count > 20 * MOST_DOTS:
        raise PlanError(
            "Panel picture", "it breaks up into far too many specks", "a smoother picture, or one colour of it"
        )
    out = []
    numbers = np.arange(1, count + 1)
    areas = ndimage.sum_labels(mask, labels, numbers) if count else np.zeros(0)
    middles = ndimage.center_of_mass(mask, labels, numbers) if count else []
    height, width = mask.shape
    for area, (y, x), box in zip(areas.tolist(), middles, ndimage.find_objects(labels), strict=True):
        tall, wide = (s.stop - s.start for s in box)
        if min(tall, wide) < least_px or max(tall, wide) > 1.6 * min(tall, wide) or area < 0.55 * tall * wide:
            continue  # a line, a letter, a frame
        if max(tall, wide) > 0.5 * max(height, width):
            continue
        tone = colour or _name(data[box][mask[box]].mean(axis=0))
        out.append(Spot(float(x + 0.5) / width, float(y + 0.5) / height, 2.0 * math.sqrt(area / math.pi) / width, tone))
    if not out:
        raise PlanError(
            "Panel picture", f"there is no {f'{colour} spot' if colour else 'round spot'} in it",
            "filled round spots, two pixels wide or more, that stand out from what is around them",
        )  # fmt: skip
    if len(out) > MOST_DOTS:
        raise PlanError("Panel picture", f"it has {len(out)} spots", f"up to {MOST_DOTS}; look for one colour")
    return in_rows(tuple(out))


def in_rows(spots: tuple[Spot, ...]) -> tuple[Spot, ...]:
    """Spots as they are counted: row by row from the top, each from the left.

    Parameters
    ----------
    spots : tuple[Spot, ...]
        In any order.

    Returns
    -------
    tuple[Spot, ...]
        The same, in order.
    """
    left = sorted(spots, key=lambda s: s.down)
    rows: list[list[Spot]] = []
    for spot in left:
        if rows and spot.down - rows[-1][0].down < max(0.6 * max(spot.wide, rows[-1][0].wide), 0.004):
            rows[-1].append(spot)
        else:
            rows.append([spot])
    return tuple(s for row in rows for s in sorted(row, key=lambda s: s.across))


def _ground(data: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """The commonest tone of a picture."""
    coarse = (data // 32).astype(np.int64)
    key = coarse[..., 0] * 64 + coarse[..., 1] * 8 + coarse[..., 2]
    common = np.bincount(key.ravel()).argmax()
    found: npt.NDArray[np.float64] = data[key == common].mean(axis=0)
    return found


def _hue(
    data: npt.NDArray[np.float64], high: npt.NDArray[np.float64], low: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    """Hue in degrees, anything where a place has none."""
    r, g, b = np.moveaxis(data, -1, 0)
    span = np.maximum(high - low, 1e-9)
    hue = np.where(high == r, ((g - b) / span) % 6.0, np.where(high == g, (b - r) / span + 2.0, (r - g) / span + 4.0))
    found: npt.NDArray[np.float64] = hue * 60.0
    return found


def _name(tone: npt.NDArray[np.float64]) -> str:
    """The lamp colour that a spot's tone stands for; nothing for greys and darks."""
    high, low = float(tone.max()), float(tone.min())
    if high - low <= 45.0:
        return "white" if low > 180.0 else ""
    hue = float(_hue(tone.reshape(1, 1, 3), np.array([[high]]), np.array([[low]]))[0, 0])
    return min(COLOURS, key=lambda c: abs((hue - COLOURS[c] + 180.0) % 360.0 - 180.0))
