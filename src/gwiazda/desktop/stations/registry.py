"""The stations that exist, in working order. A new station is a new folder and one line here."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Station:
    """``tools`` are the plate's tools at this station; ``drawer`` the module and class of its picture."""

    id: str
    key: str
    name: str
    about: str
    tools: tuple[str, ...]
    drawer: tuple[str, str]


STATIONS: tuple[Station, ...] = (
    Station(
        "measure", "1", "Measure", "sections and the windows in them", ("pick", "crop", "calibrate", "level", "square", "align", "wand", "trace", "section", "window", "cut", "row", "curve", "brush"),
        ("gwiazda.desktop.stations.measure.drawer", "MeasureDrawer"),
    ),
    Station(
        "light", "2", "Light", "lamps, their look and their resistors", ("pick", "lamp", "point", "window", "row", "brush", "eye", "throw"),
        ("gwiazda.desktop.stations.light.drawer", "LightDrawer"),
    ),
    Station(
        "block", "3", "Block", "skins, leaks and what softens the light", ("pick", "lamp", "window", "eye"),
        ("gwiazda.desktop.stations.block.drawer", "BlockDrawer"),
    ),
    Station(
        "power", "6", "Power", "the supply and how long it lasts", ("pick",),
        ("gwiazda.desktop.stations.power.drawer", "PowerDrawer"),
    ),
)  # fmt: skip
BY_ID = {s.id: s for s in STATIONS}
