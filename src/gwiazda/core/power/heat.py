"""Warmth: of a part by its body, and of the air in a closed box by all that is lost inside it.

Sources
-------
[1] Steady heat through a thin wall, films of still air on both sides in series with the plastic: U about 3.5 W/(m²·K).
"""

from __future__ import annotations

U_W_M2K = 3.5
ROOM_C = 20.0
AIR_LIMIT_C = 50.0  # surfaces of closed plastic boxes are kept under it
JUNCTION_LIMIT_C = 100.0


def box_air_c(power_w: float, area_m2: float, room_c: float = ROOM_C) -> float:
    """Temperature (°C) of the air in a closed box: ``power_w`` (W) leaves through ``area_m2`` (m²) [1].

    Parameters
    ----------
    power_w : float
        Electrical power that becomes heat in the box, W.
    area_m2 : float
        Outer area of the box, m².
    room_c : float
        Temperature of the room, °C.

    Returns
    -------
    float
        Temperature of the air in the box, °C.
    """
    return room_c + power_w / (U_W_M2K * area_m2) if area_m2 > 0 else room_c


def junction_c(power_w: float, theta_k_w: float, air_c: float = ROOM_C) -> float:
    """Temperature (°C) of a part that turns ``power_w`` (W) into warmth, ``theta_k_w`` (K/W) above the air around it.

    Parameters
    ----------
    power_w : float
        Electrical power of the part, W.
    theta_k_w : float
        Thermal resistance from junction to the air, K/W.
    air_c : float
        Temperature of the air around it, °C.

    Returns
    -------
    float
        Temperature of the junction, °C.
    """
    return air_c + power_w * theta_k_w
