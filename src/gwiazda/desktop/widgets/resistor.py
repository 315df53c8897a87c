"""A resistor drawn with its colour bands (IEC 60062)."""

from __future__ import annotations

from PySide6.QtCore import QLineF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gwiazda.core.circuit.series import bands
from gwiazda.core.quantities import format_resistance
from gwiazda.desktop.widgets.guard import Guarded

# The bands' own colours: a standard's, the same in every theme.
BAND_COLOURS = {
    "black": "#1a1a1a", "brown": "#7a4a21", "red": "#c0302a", "orange": "#e2761b", "yellow": "#e6c21f",
    "green": "#3a8a3f", "blue": "#2d5fb3", "violet": "#7d4ca0", "grey": "#8a8a8a", "white": "#f2f2f2",
    "gold": "#b8923a", "silver": "#b9bcc0",
}  # fmt: skip


WIDE = 164.0  # px: as it is drawn; smaller where there is less


class ResistorPicture(Guarded, QWidget):
    """Body, leads and bands of one value."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bands: tuple[str, ...] = ()
        self._ohm: float | None = None
        self.setFixedHeight(26)

    def sizeHint(self) -> QSize:
        return QSize(150, 26)

    def show_ohm(self, ohm: float | None, series: str) -> None:
        self.show_bands(ohm, bands(ohm, series) if ohm else ())

    def show_bands(self, ohm: float | None, colours: tuple[str, ...]) -> None:
        self._ohm, self._bands = ohm, colours
        text = f"{format_resistance(ohm)}: {', '.join(self._bands)}" if ohm else "no single value"
        self.setAccessibleName(f"Resistor {text}")
        self.setToolTip(text)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        small = min(self.width() / WIDE, 1.0)
        painter.scale(small, small)
        middle = self.height() / 2 / small
        body = QRectF(34, middle - 8, 96, 16)
        painter.setPen(QPen(QColor("#8d918b"), 2))
        painter.drawLine(QLineF(6, middle, body.left(), middle))
        painter.drawLine(QLineF(body.right(), middle, body.right() + 28, middle))
        painter.setPen(QPen(QColor("#7d6f52"), 1))
        painter.setBrush(QColor("#d9c79d"))
        painter.drawRoundedRect(body, 6, 6)
        painter.setPen(Qt.PenStyle.NoPen)
        for i, name in enumerate(self._bands):
            last = i == len(self._bands) - 1
            x = body.left() + (12 + 15 * i if not last else 78)
            painter.setBrush(QColor(BAND_COLOURS[name]))
            painter.drawRect(QRectF(x, body.top() + 0.5, 7, body.height() - 1))
        painter.end()
