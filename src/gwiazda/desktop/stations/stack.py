"""The place of the drawers under the plate: one at a time, made at first use, grown over the plate by a key."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PySide6.QtWidgets import QVBoxLayout, QWidget

from gwiazda.desktop.document import Document
from gwiazda.desktop.plate.bar import PlateBar
from gwiazda.desktop.plate.plate import Plate
from gwiazda.desktop.stations.drawer import StationDrawer
from gwiazda.desktop.stations.registry import BY_ID, load
from gwiazda.desktop.theme.palette import Palette
from gwiazda.desktop.theme.sizes import scaled

SMALL_PLATE = 168  # px: the plate while a drawer has grown over it
ALL = 16_777_215  # px: no limit


class DrawerStack(QWidget):
    """All drawers, that of the station shown."""

    def __init__(
        self,
        document: Document,
        plate: Plate,
        picked: Callable[[str], object],
        weights: Callable[[dict[str, float]], object],
    ) -> None:
        super().__init__()
        self.document, self.plate = document, plate
        self._picked, self._weights = picked, weights
        # Not a stack of pages: that is as high as the highest of them, and would leave a gap below all others.
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self.drawers: dict[str, StationDrawer] = {}
        self.station = ""

    def show_station(self, station_id: str, palette: Palette) -> None:
        """Show a station's drawer."""
        drawer = self.drawers.get(station_id)
        if drawer is None:
            station = BY_ID[station_id]
            drawer = load(station.drawer)(self.document)
            drawer.set_palette(palette)
            drawer.setAccessibleName(f"{station.name} drawer")
            drawer.picked.connect(self._picked)
            drawer.weights_changed.connect(self._weights)
            drawer.measure()
            self.drawers[station_id] = drawer
            self._layout.addWidget(drawer)
        self.station = station_id
        for other in self.drawers.values():
            other.setVisible(other is drawer)

    @property
    def drawer(self) -> StationDrawer:
        """That of the station shown."""
        return self.drawers[self.station]

    def arrange(self, middle: QVBoxLayout, bar: PlateBar) -> None:
        """Give the drawer the room of the plate where it has grown, and the plate its own where it hasn't."""
        grown = self.drawer.grown
        self.plate.setMaximumHeight(scaled(SMALL_PLATE) if grown else ALL)
        self.plate.setMinimumHeight(scaled(SMALL_PLATE) if grown else 0)
        middle.setStretchFactor(self, 1 if grown else 0)
        middle.setStretchFactor(self.plate, 0 if grown else 1)
        bar.set_shown(not grown)

    def __iter__(self) -> Iterator[StationDrawer]:
        return iter(self.drawers.values())
