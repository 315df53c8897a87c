"""Heat-shrink for joints, and how far the heat of a joint reaches along a lead.

Sources
-------
[1] Common 2:1 heat-shrink: bore as supplied and after recovery, mm; it recovers at 70 to 125 °C.
[2] H. S. Carslaw, J. C. Jaeger, "Conduction of Heat in Solids" (1959): a half space whose face is held at a temperature, and
    the fin that loses heat to the air along its length.
"""

from __future__ import annotations

import math
from typing import NamedTuple

SLEEVES = ((1.0, 0.5), (1.2, 0.6), (1.6, 0.8), (2.4, 1.2), (3.2, 1.6), (4.8, 2.4), (6.4, 3.2))
WALL_MM = 0.45
OVER = 1.2  # the bore over the joint
DIFFUSIVITY_M2_S = 1.16e-4  # of copper
FIN_MM = 25.0  # along AWG 30, over which a long dwell falls to a third; thicker wire reaches further
TIP_C, ROOM_C = 350.0, 20.0  # iron, room
DWELL_S = 2.0
NEAR_MM = 25.0


class Sleeve(NamedTuple):
    """A size of heat-shrink (mm): bore as it comes, after recovery, and outside then."""

    bore_mm: float
    recovered_mm: float
    outside_mm: float


def sleeve_for(joint_mm: float, wire_mm: float) -> Sleeve | None:
    """The smallest that goes over a joint and shrinks onto its wire, or the smallest that goes over it; None where none does.

    Parameters
    ----------
    joint_mm : float
        Diameter of the joint, mm.
    wire_mm : float
        Outer diameter of the wire, mm.

    Returns
    -------
    Sleeve or None
        The sleeve, or None.
    """
    over = [s for s in SLEEVES if s[0] >= OVER * joint_mm - 1e-9]
    if not over:
        return None
    bore, recovered = next((s for s in over if s[1] <= wire_mm + 1e-9), over[0])
    return Sleeve(bore, recovered, max(recovered, joint_mm) + 2.0 * WALL_MM)


def joint_mm(wires_mm: tuple[float, ...]) -> float:
    """Diameter (mm) of a joint of these wires laid side by side and soldered: a round of their area and a third more.

    Parameters
    ----------
    wires_mm : tuple[float, ...]
        Diameter of the metal of each wire, mm.

    Returns
    -------
    float
        Diameter, mm.
    """
    return math.sqrt(sum(d * d for d in wires_mm)) * 1.15


def warmth_c(away_mm: float, dwell_s: float = DWELL_S) -> float:
    """Temperature (°C) of a lead so far from where it is soldered, after such a dwell [2].

    Parameters
    ----------
    away_mm : float
        From the joint along the lead, mm.
    dwell_s : float
        How long the iron stays, s.

    Returns
    -------
    float
        Temperature, °C.
    """
    if away_mm <= 0:
        return TIP_C
    spread = math.erfc(away_mm * 1e-3 / (2.0 * math.sqrt(DIFFUSIVITY_M2_S * max(dwell_s, 1e-6))))
    lost = math.exp(-away_mm / FIN_MM)
    return ROOM_C + (TIP_C - ROOM_C) * min(spread, lost)
