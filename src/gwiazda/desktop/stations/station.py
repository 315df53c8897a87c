"""What a station is: what the window needs of it before it is shown, and what it brings once it is."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtGui import QPainter

if TYPE_CHECKING:
    from gwiazda.desktop.document import Document
    from gwiazda.desktop.panels.panel import Heading, PanelCard
    from gwiazda.desktop.plate.plate import Plate
    from gwiazda.desktop.plate.stage import Stage
    from gwiazda.desktop.stations.drawer import StationDrawer

Overlay = Callable[[QPainter, "Plate", int], None]  # painter, plate, wipe in px


class Contribution(NamedTuple):
    """What a station brings where it is shown: its picture, what it lays over the works, and how far the kit is built."""

    drawer: type[StationDrawer]
    overlays: tuple[Overlay, ...] = ()
    stage: Callable[[Document], Stage] | None = None


class Cards(NamedTuple):
    """What a station has for the panel: cards by kind of what is picked, "plan" for nothing; and what the panel says
    above them, of the kinds at home here."""

    cards: Mapping[str, tuple[type[PanelCard], ...]]
    headings: Mapping[str, Heading] = MappingProxyType({})


@dataclass(frozen=True)
class Station:
    """A place to work at.

    ``tools``: the plate's tools, those of a group sharing one button. ``topics``: what findings that are settled here
    are about. ``meters``: those whose culprit is looked for here. ``bring`` and ``cards`` load what it brings, each at its
    first use.
    ``homes``: kinds of things at home here. ``shows_opened``: walked round, sections that aren't closed yet are without
    their roofs. ``wants``: the group of the plan that must hold something before nothing is left to settle here.
    """

    id: str
    key: str
    name: str
    about: str
    tools: tuple[tuple[str, ...], ...]
    topics: tuple[str, ...]
    bring: Callable[[], Contribution]
    cards: Callable[[], Cards]
    meters: tuple[str, ...] = ()
    homes: tuple[str, ...] = ()
    shows_opened: bool = False
    wants: str = ""

    @property
    def all_tools(self) -> tuple[str, ...]:
        return tuple(t for group in self.tools for t in group)
