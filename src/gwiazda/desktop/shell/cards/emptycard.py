"""What lies on an empty plate: ways to begin, and the plans opened lately as they look at night."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from gwiazda.desktop.shell import recent
from gwiazda.desktop.shell.cards.doors import Doors
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import SMALL_PX
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import theme_of

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow

WIDTH, TILES, TOP = 680, 4, 46  # TOP: of the tools, px


class Tile(Guarded, QPushButton):
    """A plan opened lately: its night, and its name."""

    def __init__(self, path: Path) -> None:
        super().__init__()
        self.path, self.image = path, recent.night_of(path)
        self.setObjectName("tile")
        self.setFixedSize(scaled(140), scaled(96))
        self.setToolTip(str(path))
        self.setAccessibleName(f"Open {path.stem}")

    def sizeHint(self) -> QSize:
        return QSize(scaled(140), scaled(96))

    def paintEvent(self, event: QPaintEvent) -> None:
        palette, painter = theme_of(self), QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        picture = QRectF(1, 1, self.width() - 2, self.width() / 2 - 2)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.colour("night"))
        painter.drawRoundedRect(picture, 3, 3)
        painter.setFont(text_font(SMALL_PX))
        if self.image is not None:
            painter.drawImage(picture, self.image)
        else:
            painter.setPen(palette.colour("bar_muted"))
            painter.drawText(picture, Qt.AlignmentFlag.AlignCenter, "no picture yet")
        painter.setPen(palette.colour("ink"))
        words = painter.fontMetrics().elidedText(self.path.stem, Qt.TextElideMode.ElideMiddle, self.width() - 6)
        painter.drawText(QRectF(3, picture.bottom() + 2, self.width() - 6, 22), Qt.AlignmentFlag.AlignCenter, words)
        if self.hasFocus() or self.underMouse():
            painter.setPen(palette.colour("live"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(picture, 3, 3)
        painter.end()


class EmptyCard(QFrame):
    """Lies in the middle of a plate with nothing on it, and goes with the first section or drawing."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window.plate)
        self.window_ = window
        self.setObjectName("card")
        self.setAccessibleName("An empty plate")
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 14, 18, 14)
        box.setSpacing(9)
        self.doors = Doors(window)
        box.addWidget(self.doors)
        self._tiles = QWidget()
        self._tile_row = QHBoxLayout(self._tiles)
        self._tile_row.setContentsMargins(0, 4, 0, 0)
        self.tiles: list[Tile] = []
        box.addWidget(self._tiles)
        self.hide()

    def show_if_empty(self) -> None:
        """Be there while nothing else is."""
        plan = self.window_.document.plan
        starter = self.window_.starter
        covered = self.window_.plate.rounding or (starter is not None and starter.isVisible())
        bare = not (plan.sections or plan.lamps or plan.dots or any(v.drawing for v in plan.views))
        empty = bare and not covered
        if empty and not self.isVisible():
            self._fill()
        self.setVisible(empty)
        if empty:
            self.place()

    def _fill(self) -> None:
        for tile in self.tiles:
            self._tile_row.removeWidget(tile)
            tile.deleteLater()
        self.tiles = [Tile(p) for p in recent.paths()[:TILES]]
        for k, tile in enumerate(self.tiles):
            tile.clicked.connect(lambda _=False, p=tile.path: self.window_.files.open(p))
            self._tile_row.insertWidget(k, tile)
        if self._tile_row.count() == len(self.tiles):
            self._tile_row.addStretch(1)
        self._tiles.setVisible(bool(self.tiles))

    def place(self) -> None:
        plate = self.window_.plate
        self.setFixedWidth(min(scaled(WIDTH), max(plate.width() - 20, 200)))
        for pictures in (True, False):
            self.doors.show_pictures(pictures)
            self.adjustSize()
            if self.height() <= plate.height() - TOP:
                break
        self.move((plate.width() - self.width()) // 2, max((plate.height() - self.height()) // 2, TOP))
        self.raise_()
