"""A slim slider in the colours of the theme."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSlider, QWidget

from gwiazda.desktop.theme.palette import BENCH, THEMES, Palette
from gwiazda.desktop.widgets.guard import Guarded

KNOB = 7.0


class Slider(Guarded, QSlider):
    """Drawn here because a style sheet fills the whole height of Qt's own one."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(Qt.Orientation.Horizontal, parent)

    def sizeHint(self) -> QSize:
        return QSize(80, 24)

    def _palette(self) -> Palette:
        return THEMES.get(str(self.window().property("theme")), BENCH)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = self._palette()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        span = int(self.width() - 2 * KNOB - 4)
        share = (self.sliderPosition() - self.minimum()) / max(self.maximum() - self.minimum(), 1)
        x = KNOB + 2 + span * share
        y = self.height() / 2
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.colour("line"))
        painter.drawRoundedRect(QRectF(KNOB, y - 2, self.width() - 2 * KNOB, 4), 2, 2)
        painter.setBrush(p.colour("live"))
        painter.drawRoundedRect(QRectF(KNOB, y - 2, x - KNOB, 4), 2, 2)
        painter.setPen(QPen(p.colour("live"), 2))
        painter.setBrush(p.colour("live" if self.hasFocus() else "card"))
        painter.drawEllipse(QPointF(x, y), KNOB - 1, KNOB - 1)
        painter.end()


def slider(top: int, name: str, take: Callable[[int], object]) -> Slider:
    """A slider from 0 to ``top``, named, that says each step."""
    made = Slider()
    made.setRange(0, top)
    made.setPageStep(1)
    made.setAccessibleName(name)
    made.setToolTip(f"{name}: Left and Right")
    made.valueChanged.connect(take)
    return made
