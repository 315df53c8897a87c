"""The meters under the plate: the figures that decide, with limit, state and the way to the culprit."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractButton, QGridLayout, QWidget

from gwiazda.core.assess.states import Meter
from gwiazda.desktop.theme.fonts import figure_font, text_font
from gwiazda.desktop.theme.palette import BENCH, FIGURE_PX, Palette
from gwiazda.desktop.theme.sizes import scaled, text_factor
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.sign import paint_sign
from gwiazda.desktop.widgets.whisker import paint_whisker

HEIGHT, SMALL = 98, 66  # px of a face, and of one of two rows, which has no note
TIGHT_PX = 130  # narrower, a meter's words are set in the condensed cut
LEAST_PX = 128  # of a face: narrower, its title or unit would be cut, and the meters stand in two rows
FULL = {"leak": 2.0, "reached": 1.5}  # share of the limit that fills a meter
WORDS = {"fine": "fine", "look": "worth a look", "stop": "stop"}


class MeterFace(Guarded, QAbstractButton):
    """One figure. Disc = fine, triangle = look, square = stop."""

    def __init__(self, meter: Meter, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.palette_: Palette = BENCH
        self.first = self.small = False
        self.setFixedHeight(HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.set_meter(meter)

    def set_meter(self, meter: Meter) -> None:
        if meter == getattr(self, "meter", None):
            return
        self.meter = meter
        spoken = f"{meter.label} {meter.text} {meter.unit}".strip()
        self.setAccessibleName(f"{spoken}, {'no figure' if meter.silent else WORDS[meter.state]}, {meter.note}")
        sure = f" Likely {meter.spoken_band}; one in ten lies outside." if meter.spoken_band else ""
        if meter.band is None and meter.spoken_band:
            sure = f" It has no band: {meter.spoken_band}."
        self.setToolTip(f"{spoken}: {meter.note}.{sure} Click goes to the culprit.")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, p, m = QPainter(self), self.palette_, self.meter
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(text_factor(), text_factor())
        width, high = round(self.width() / text_factor()), SMALL if self.small else HEIGHT
        # Where there is little room the condensed cut says more of it.
        tight = width < TIGHT_PX
        words = partial(figure_font, weight=figure_font().Weight.Normal) if tight else text_font
        left, right = (9, width - 9) if tight else (16, width - 16)
        if not self.first:
            painter.setPen(QPen(p.colour("bar_line"), 1))
            painter.drawLine(0, 14, 0, high - 14)
        if self.hasFocus() or self.underMouse():
            painter.setPen(QPen(p.colour("live" if self.hasFocus() else "bar_line"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(4, 4, width - 8, high - 8), 6, 6)
        painter.setPen(p.colour("bar_muted"))
        painter.setFont(words(13, plain=True))
        painter.drawText(QRectF(left, 7, width, 20), Qt.AlignmentFlag.AlignVCenter, m.label)
        self._sign(painter, QPointF(right - 6, 17))
        painter.setPen(p.colour("bar_ink"))
        painter.setFont(figure_font(FIGURE_PX, plain=True))
        figure = QRectF(left, 25, width - 24, 32)
        painter.drawText(figure, Qt.AlignmentFlag.AlignVCenter, m.text)
        advance = painter.fontMetrics().horizontalAdvance(m.text)
        painter.setPen(p.colour("bar_muted"))
        painter.setFont(words(13, plain=True))
        gap = 3 if tight else 6
        if painter.fontMetrics().horizontalAdvance(m.unit) > right - left - advance - gap:
            painter.setFont(figure_font(13, figure_font().Weight.Normal, plain=True))
        painter.drawText(QRectF(left + advance + gap, 30, width, 26), Qt.AlignmentFlag.AlignVCenter, m.unit)
        track = QRectF(left, 58, right - left, 4)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.colour("bar_line"))
        painter.drawRoundedRect(track, 2, 2)
        painter.setBrush(p.colour(m.state))
        full = FULL.get(m.id, 1.0)
        share = min((m.share or 0.0) / full, 1.0)
        painter.drawRoundedRect(
            QRectF(track.left(), track.top(), max(track.width() * share, 4 if share else 0), 4), 2, 2
        )
        if m.band is not None:
            self._whisker(painter, track, m.band[0] / full, m.band[1] / full)
        if not self.small:
            painter.setPen(p.colour("bar_muted"))
            painter.setFont(figure_font(12, figure_font().Weight.Normal, plain=True))
            wrap = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft
            painter.drawText(QRectF(left, 64, right - left + 4, 32), int(wrap), m.note)
        painter.end()

    def measure(self, small: bool = False) -> None:
        self.small = small
        self.setFixedHeight(scaled(SMALL if small else HEIGHT))
        self.update()

    def _whisker(self, painter: QPainter, track: QRectF, low: float, high: float) -> None:
        """How sure the figure is, 5 to 95 %; open at the end of the bar where it goes beyond."""
        a, b = (track.left() + track.width() * min(max(x, 0.0), 1.0) for x in (low, high))
        paint_whisker(painter, (a, b), track.center().y(), self.palette_.colour("bar_ink"), beyond=high > 1.0)

    def _sign(self, painter: QPainter, centre: QPointF) -> None:
        if self.meter.silent:  # an unlit ring: nothing was found fine
            painter.setPen(QPen(self.palette_.colour("bar_muted"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(centre, 4.5, 4.5)
            return
        painter.setPen(Qt.PenStyle.NoPen)
        paint_sign(painter, centre, self.meter.state, self.palette_)


class MeterBar(Guarded, QWidget):
    """All meters side by side; in two rows where a title would be cut."""

    culprit = Signal(str, str)  # meter id, subject

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.palette_: Palette = BENCH
        self.setFixedHeight(HEIGHT)
        self.setAccessibleName("Meters")
        self._layout = QGridLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.setSpacing(0)
        self.faces: dict[str, MeterFace] = {}
        self._columns = 0

    def set_palette(self, palette: Palette) -> None:
        self.palette_ = palette
        for face in self.faces.values():
            face.palette_ = palette
        self.update()

    @property
    def rows(self) -> int:
        """How many rows there are."""
        return -(-len(self.faces) // max(self._columns, 1)) if self.faces else 1

    def measure(self) -> None:
        """Sizes that go with the text, and as many columns as there is room for."""
        count = max(len(self.faces), 1)
        each = self.width() / text_factor() / count
        self._columns = count if each >= LEAST_PX or self.width() < 200 else -(-count // 2)
        self.setFixedHeight(scaled(HEIGHT if self.rows == 1 else SMALL * self.rows))
        for k, face in enumerate(self.faces.values()):
            face.first = k % self._columns == 0
            face.measure(self.rows > 1)
            self._layout.addWidget(face, k // self._columns, k % self._columns)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self.measure()

    def set_meters(self, meters: tuple[Meter, ...]) -> None:
        known = len(self.faces)
        for meter in meters:
            face = self.faces.get(meter.id)
            if face is None:
                face = self.faces[meter.id] = MeterFace(meter, self)
                face.palette_ = self.palette_
                face.clicked.connect(lambda _=False, f=face: self.culprit.emit(f.meter.id, f.meter.subject))
            else:
                face.set_meter(meter)
        if len(self.faces) != known:
            self.measure()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.palette_.colour("bar"))
        painter.drawRoundedRect(self.rect(), 8, 8)
        painter.end()
