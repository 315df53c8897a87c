"""The place of the drawers under the plate: one at a time, made at first use, grown over the plate by a key."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PySide6.QtCore import QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from gwiazda.desktop.document import Document
from gwiazda.desktop.plate.bar import PlateBar
from gwiazda.desktop.plate.plate import Plate
from gwiazda.desktop.stations.drawer import StationDrawer
from gwiazda.desktop.stations.registry import BY_ID, brought
from gwiazda.desktop.theme.palette import Palette
from gwiazda.desktop.theme.sizes import scaled, text_factor
from gwiazda.desktop.widgets.guard import Guarded

SMALL_PLATE = 168  # px: the plate while a drawer has grown over it
ALL = 16_777_215  # px: no limit


class DrawerStack(Guarded, QWidget):
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
        self._middle: QVBoxLayout | None = None
        document.assessed.connect(self.fit)

    def show_station(self, station_id: str, palette: Palette) -> None:
        """Show a station's drawer."""
        drawer = self.drawers.get(station_id)
        if drawer is None:
            station = BY_ID[station_id]
            drawer = brought(station_id).drawer(self.document)
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
        self._middle = middle
        grown = self.drawer.grown
        self.plate.setMinimumHeight(scaled(SMALL_PLATE) if grown else 0)
        middle.setStretchFactor(self, 1 if grown else 0)
        middle.setStretchFactor(self.plate, 1)
        bar.set_shown(not grown)
        self.fit()

    def fit(self) -> None:
        """A drawer that has grown takes what its picture needs, and leaves the plate the rest."""
        if self._middle is None or not self.drawer.grown:
            return
        room = (self.height() + self.plate.height()) / text_factor()
        most = max(room - SMALL_PLATE, 1.0)
        high = min(max(self.drawer.wants(most), float(self.drawer.needs)), most)
        self._middle.setStretchFactor(self, round(high))
        self._middle.setStretchFactor(self.plate, max(round(room - high), 1))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self, self.fit)

    def __iter__(self) -> Iterator[StationDrawer]:
        return iter(self.drawers.values())
