"""How full a passage is of wires and fibres: by area, and as they really lie in it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from gwiazda.core.loom.routes import LIMIT
from gwiazda.core.space.pack import Packing, pack_rect, pack_round, surely_goes_in

COMFORT = (0.53, 0.31, 0.40)  # share of the area that one, two, three and more wires fill with ease
MOST_DRAWN = 60  # wires that are really packed; beyond, the area has to do


def clear_mm2(round_: bool, width_mm: float, height_mm: float) -> float:
    """Clear area (mm²) of a passage: ``width_mm`` is the bore of a round one.

    Parameters
    ----------
    round_ : bool
        Whether the passage is round.
    width_mm : float
        Width, or bore of a round one, mm.
    height_mm : float
        Height, mm; not used for a round one.

    Returns
    -------
    float
        Area, mm².
    """
    return math.pi * width_mm**2 / 4.0 if round_ else width_mm * height_mm


def area_mm2(outside_mm: float) -> float:
    """Area (mm²) that a wire takes.

    Parameters
    ----------
    outside_mm : float
        Outer diameter, mm.

    Returns
    -------
    float
        Area, mm².
    """
    return math.pi * outside_mm**2 / 4.0


def fill_share(outsides_mm: Sequence[float], clear: float) -> float:
    """Share of a clear area (mm²) that wires of these outer diameters (mm) fill.

    Parameters
    ----------
    outsides_mm : Sequence[float]
        Outer diameter of each wire, mm.
    clear : float
        Clear area, mm².

    Returns
    -------
    float
        Share; above 1 for more than goes in.
    """
    return sum(area_mm2(d) for d in outsides_mm) / clear if clear > 0 else math.inf


def comfortable(count: int) -> float:
    """The share that so many wires fill with ease.

    Parameters
    ----------
    count : int
        Number of wires.

    Returns
    -------
    float
        Share of the clear area, 0 to 1.
    """
    return COMFORT[min(max(count, 1), 3) - 1]


def packed(outsides_mm: Sequence[float], round_: bool, width_mm: float, height_mm: float) -> Packing:
    """The wires as they lie in the passage, the thickest 60 of them where there are more.

    Parameters
    ----------
    outsides_mm : Sequence[float]
        Outer diameter of each wire, mm.
    round_ : bool
        Whether the passage is round.
    width_mm : float
        Width, or bore of a round one, mm.
    height_mm : float
        Height, mm.

    Returns
    -------
    Packing
        Where each lies, mm, and how far they overlap.
    """
    thick = tuple(sorted(outsides_mm, reverse=True)[:MOST_DRAWN])
    return pack_round(thick, width_mm) if round_ else pack_rect(thick, width_mm, height_mm)


def goes_in(outsides_mm: Sequence[float], round_: bool, width_mm: float, height_mm: float) -> bool:
    """Whether wires can lie beside one another in a passage; really packed only where that isn't sure anyhow.

    Parameters
    ----------
    outsides_mm : Sequence[float]
        Outer diameter of each wire, mm.
    round_ : bool
        Whether the passage is round.
    width_mm : float
        Width, or bore of a round one, mm.
    height_mm : float
        Height, mm.

    Returns
    -------
    bool
        True where they do.
    """
    thick = tuple(sorted(outsides_mm, reverse=True)[:MOST_DRAWN])
    if round_ and surely_goes_in(thick, width_mm):
        return True
    return packed(thick, round_, width_mm, height_mm).fits


__all__ = ["LIMIT", "area_mm2", "clear_mm2", "comfortable", "fill_share", "goes_in", "packed"]


PUSHED_BORES = 10.0  # so many bores long a tube may be that wires are pushed through, where they lie easily in it


def goes_through(count: int, fill: float, length_mm: float, bore_mm: float) -> Literal["pushed", "pulled", "not"]:
    """How wires get through a tube: pushed, pulled by a thread, or not at all.

    Parameters
    ----------
    count : int
        How many.
    fill : float
        Their share of the clear area.
    length_mm, bore_mm : float
        Of the tube, mm.

    Returns
    -------
    str
        ``pushed`` where they lie easily in a short one (house value: ten bores), ``pulled`` up to the limit of fill, ``not`` beyond.
    """
    if fill > LIMIT:
        return "not"
    return "pushed" if fill <= comfortable(count) and length_mm <= PUSHED_BORES * bore_mm else "pulled"
