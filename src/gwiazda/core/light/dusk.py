"""From which light of the room down a light shows: panes, points and washes against a hull that the room lights.

Sources
-------
[1] Contrast and point thresholds of ``light.visibility`` (Blackwell; IALA E200-2).
[2] House values: clearly lit from 5 times what lies around, striking from 20; a point clearly seen from 100 times the threshold, striking
    from 1,000; a pane glares from 1,000 times its surroundings and 100 cd/m² on.
[3] Stiles and Holladay (CIE 1939; CIE 146:2002): a glare source of E lx at the eye lays a veil of 10·E/θ² cd/m² over what lies θ degrees off.
    A point glares where the veil one degree off outshines the hull.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal, NamedTuple

from gwiazda.core.light.visibility import CLEARLY, DARK_CD_M2, JUST, PANE_CLEAR, STRIKING, contrast, point_threshold_lx

Shape = Literal["pane", "point", "wash"]
LEVELS = ("shows", "clearly lit", "striking", "glares")
PANE_STRIKING, PANE_GLARES, GLARE_CD_M2 = 20.0, 1000.0, 100.0
VEIL, VEIL_DEG = 10.0, 1.0
WASH_CLEAR, WASH_STRIKING = 5.0, 20.0  # times what just shows
MOST_LX, LEAST_LX = 3000.0, 0.1  # noon at a window, and a dark room
_STEPS = 32  # halvings: to a hundred-millionth


class Seen(NamedTuple):
    """A light before its hull, as an eye in the room sees it.

    ``value``: luminance of a pane or a wash (cd/m²), intensity of a point (cd). ``hull`` and ``unlit``: the share of the room's light that the
    hull and the pane with its light off throw back, 0 to 1. ``distance_m``: of the eye.
    """

    shape: Shape
    value: float
    hull: float
    unlit: float = 0.0
    distance_m: float = 0.6


def _over(ground_cd_m2: float) -> float:
    """What must be added to a ground to show on it (cd/m²)."""
    return contrast(ground_cd_m2) * (ground_cd_m2 + DARK_CD_M2)


def level_of(seen: Seen, lux: float) -> int:
    """How a light looks in a room: 0 unseen, 1 shows, 2 clearly lit, 3 striking, 4 glares.

    Parameters
    ----------
    seen : Seen
        The light.
    lux : float
        Illuminance of the room, lx.

    Returns
    -------
    int
        Of ``LEVELS``, counted from 1; 0 where it does not show.
    """
    return sum(_reaches(seen, lux, level) for level in range(1, len(LEVELS) + 1))


def _reaches(seen: Seen, lux: float, level: int) -> bool:
    hull = seen.hull * lux / math.pi
    if seen.shape == "point":
        at_eye = seen.value / seen.distance_m**2
        if level == len(LEVELS):
            veil = VEIL * at_eye / VEIL_DEG**2
            return veil >= hull + DARK_CD_M2 and _reaches(seen, lux, level - 1)
        return at_eye / point_threshold_lx(hull) >= (JUST, CLEARLY, STRIKING)[level - 1]
    if seen.shape == "wash":
        if level == len(LEVELS):
            return False
        return seen.value >= (1.0, WASH_CLEAR, WASH_STRIKING)[level - 1] * _over(hull)
    unlit = seen.unlit * lux / math.pi
    if level == 1:
        return seen.value >= _over(unlit) and seen.value + unlit - hull >= _over(hull)
    around = max(hull, unlit)
    if not _reaches(seen, lux, 1) or seen.value < (PANE_CLEAR, PANE_STRIKING, PANE_GLARES)[level - 2] * around:
        return False
    return level < len(LEVELS) or seen.value >= GLARE_CD_M2


def drowned_mm(seen: Seen, lux: float) -> float:
    """How far round a point its veil outshines the hull [3]_: what lies nearer can't be made out.

    Parameters
    ----------
    seen : Seen
        The light.
    lux : float
        Illuminance of the room, lx.

    Returns
    -------
    float
        Radius on the model, mm; 0 for a pane and a wash, which dazzle no one.
    """
    if seen.shape != "point":
        return 0.0
    hull = seen.hull * lux / math.pi + DARK_CD_M2
    off_deg = math.sqrt(VEIL * seen.value / seen.distance_m**2 / hull)
    return seen.distance_m * 1e3 * math.tan(math.radians(min(off_deg, 45.0)))


def until_lx(seen: Seen, level: int) -> float:
    """The most light in a room (lx) in which a light reaches a level: from there down it does.

    Parameters
    ----------
    seen : Seen
        The light.
    level : int
        1 shows, 2 clearly lit, 3 striking, 4 glares.

    Returns
    -------
    float
        lx; ``MOST_LX`` where it does at noon already, 0 where it doesn't even in the dark.
    """
    return _last(lambda lux: _reaches(seen, lux, level))


def _last(holds: Callable[[float], bool]) -> float:
    if holds(MOST_LX):
        return MOST_LX
    low, high = LEAST_LX, MOST_LX
    if not holds(low):
        return 0.0
    for _ in range(_STEPS):
        middle = math.sqrt(low * high)
        low, high = (middle, high) if holds(middle) else (low, middle)
    return low


def glow_back(window_share: float, transmittance: float, inside: float) -> float:
    """The share of a room's light that comes back out of an unlit pane from the section behind it.

    What falls through all panes is spread over the inside and thrown about; what reaches a pane after that leaves by it.

    Parameters
    ----------
    window_share : float
        Area of all panes over that of the whole inside, 0 to 1.
    transmittance : float
        Of a pane, 0 to 1.
    inside : float
        Mean reflectance of the inside, 0 to 1.

    Returns
    -------
    float
        Over what falls on the pane, 0 to 1.
    """
    return transmittance**2 * window_share * inside / max(1.0 - inside * (1.0 - window_share), 1e-9)
