"""Rooms that people know, by their light."""

from __future__ import annotations

import math
from typing import NamedTuple

from gwiazda.core.quantities import figure


class Room(NamedTuple):
    """A room people know, by its light (lx)."""

    name: str
    lux: float


# After docs/computation.md, when a light shows: typical, at the model.
ROOMS = (
    Room("window", 2000.0), Room("office", 500.0), Room("exhibition", 200.0), Room("evening lamp", 50.0), Room("cinema", 2.0), Room("candle", 1.0),
    Room("dark", 0.1),
)  # fmt: skip


def room_words(room: Room) -> str:
    """A room to choose, with its light.

    Parameters
    ----------
    room : Room
        One of ``ROOMS``.

    Returns
    -------
    str
        As “office, 500 lx”.
    """
    return f"{room.name}, {room.lux:g} lx"


def lux_words(lux: float) -> str:
    """A room's light as one says it, with the room that it is nearest to in steps of the eye.

    Parameters
    ----------
    lux : float
        Light of the room, lx.

    Returns
    -------
    str
        As “office, 500 lx”.
    """
    nearest = min(ROOMS, key=lambda r: abs(math.log(max(lux, 1e-3) / r.lux)))
    return f"{nearest.name}, {figure(lux, 2)} lx"
