"""The feed line: a wire with a lamp for each station, in working order. A lamp glows when nothing is left to settle."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QRadialGradient
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QVBoxLayout, QWidget

from gwiazda.desktop.stations.registry import STATIONS, Station
from gwiazda.desktop.theme.fonts import figure_font, text_font
from gwiazda.desktop.theme.palette import BENCH, Palette
from gwiazda.desktop.theme.sizes import scaled, text_factor
from gwiazda.desktop.widgets.guard import Guarded

WIDTH, STEP, WIRE_X = 78, 72, 14


class StationLamp(Guarded, QAbstractButton):
    """One station on the wire."""

    def __init__(self, station: Station, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.station = station
        self.palette_: Palette = BENCH
        self.open_count = 0
        self.has_stop = False
        self.setCheckable(True)
        self.setFixedSize(QSize(WIDTH, STEP))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.set_count(0, False)

    def set_count(self, count: int, has_stop: bool) -> None:
        if (count, has_stop) == (self.open_count, self.has_stop) and self.toolTip():
            return  # each painting of it would be one more in every step of a drag
        self.open_count, self.has_stop = count, has_stop
        left = "nothing left to settle" if not count else f"{count} to settle"
        self.setAccessibleName(f"{self.station.name} station, {left}")
        self.setToolTip(f"{self.station.name}: {self.station.about} (key {self.station.key}); {left}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, p = QPainter(self), self.palette_
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(text_factor(), text_factor())
        area = QRect(0, 0, WIDTH, STEP)
        if self.isChecked():
            painter.fillRect(area, p.colour("card"))
        elif self.underMouse():
            painter.fillRect(area, p.colour("card", 120))
        painter.setPen(QPen(p.colour("wire_plus"), 3))
        painter.drawLine(WIRE_X, 0, WIRE_X, STEP)
        centre = QPointF(WIRE_X, 24)
        lit = self.open_count == 0
        if lit:
            glow = QRadialGradient(centre, 14)
            glow.setColorAt(0.3, p.colour("glow", 190))
            glow.setColorAt(1.0, p.colour("glow", 0))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(glow)
            painter.drawEllipse(centre, 14, 14)
        painter.setPen(QPen(p.colour("ink"), 1.6))
        painter.setBrush(p.colour("glow") if lit else p.colour("muted"))
        painter.drawEllipse(centre, 6.5, 6.5)
        painter.setPen(p.colour("muted"))
        painter.setFont(figure_font(13, plain=True))
        painter.drawText(QRectF(26, 14, 20, 20), Qt.AlignmentFlag.AlignVCenter, self.station.key)
        painter.setPen(p.colour("ink"))
        weight = text_font().Weight.DemiBold if self.isChecked() else text_font().Weight.Medium
        painter.setFont(text_font(13, weight, plain=True))
        painter.drawText(QRectF(26, 36, WIDTH - 26, 20), Qt.AlignmentFlag.AlignVCenter, self.station.name)
        if self.open_count:
            tag = QRectF(45, 14, 21, 19)
            painter.setPen(QPen(p.colour("stop" if self.has_stop else "look"), 1.2))
            painter.setBrush(p.colour("card"))
            painter.drawRoundedRect(tag, 4, 4)
            painter.setPen(p.colour("stop_ink" if self.has_stop else "look_ink"))
            painter.setFont(figure_font(13, plain=True))
            painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, str(self.open_count))
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(p.colour("live"), 1.5))
            painter.drawRect(area.adjusted(1, 1, -2, -2))
        painter.end()


class FeedLine(Guarded, QWidget):
    """All stations that exist."""

    chosen = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.palette_: Palette = BENCH
        self.setFixedWidth(WIDTH)
        self.setAccessibleName("Feed line: the stations in working order")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 8, 0, 0)
        layout.setSpacing(0)
        self._group = QButtonGroup(self)
        self.lamps: dict[str, StationLamp] = {}
        for station in STATIONS:
            lamp = StationLamp(station, self)
            lamp.clicked.connect(lambda _=False, s=station.id: self.chosen.emit(s))
            self._group.addButton(lamp)
            self.lamps[station.id] = lamp
            layout.addWidget(lamp)
        layout.addStretch(1)

    def set_palette(self, palette: Palette) -> None:
        self.palette_ = palette
        for lamp in self.lamps.values():
            lamp.palette_ = palette
        self.update()

    def measure(self) -> None:
        self.setFixedWidth(scaled(WIDTH))
        for lamp in self.lamps.values():
            lamp.setFixedSize(QSize(scaled(WIDTH), scaled(STEP)))

    def set_station(self, station_id: str) -> None:
        self.lamps[station_id].setChecked(True)

    def set_counts(self, counts: Mapping[str, tuple[int, bool]]) -> None:
        for station_id, lamp in self.lamps.items():
            lamp.set_count(*counts.get(station_id, (0, False)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.focusNextPrevChild(event.key() == Qt.Key.Key_Down)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        event.ignore()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, p = QPainter(self), self.palette_
        painter.fillRect(self.rect(), p.colour("panel", 120))
        painter.scale(text_factor(), text_factor())
        painter.setPen(QPen(p.colour("wire_plus"), 3))
        end = 8 + STEP * len(self.lamps)
        painter.drawLine(WIRE_X, 0, WIRE_X, end + 12)
        # The wire ends at a terminal: what comes later is joined there.
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(p.colour("bench"))
        painter.drawEllipse(QPointF(WIRE_X, end + 15), 4, 4)
        painter.end()
