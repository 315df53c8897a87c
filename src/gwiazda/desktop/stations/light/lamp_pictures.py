"""A lamp as a picture: its body to scale in its gap, its beam round it, its curve through the data sheet's points."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from gwiazda.core.assess.lamp.fit import Fit
from gwiazda.core.assess.lamp.modified_lamp import body_mm, worked
from gwiazda.core.circuit.parts import datasheet
from gwiazda.core.light.photometry import beam_profile
from gwiazda.core.parts.catalogue import Catalogue, built_in
from gwiazda.core.plan.model import Lamp
from gwiazda.core.quantities import figure, format_intensity
from gwiazda.desktop.plate.lines.works import lamp_colour
from gwiazda.desktop.theme.fonts import figure_font, text_font
from gwiazda.desktop.theme.palette import SMALL_PX, Palette
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import theme_of


class LampPicture(Guarded, QWidget):
    """Left the body, upright, between the walls of its gap; right the beam."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._lamp: Lamp | None = None
        self._fit: Fit | None = None
        self._catalogue = built_in()
        self.setFixedHeight(118)

    def sizeHint(self) -> QSize:
        return QSize(258, 118)

    def show_lamp(self, catalogue: Catalogue, lamp: Lamp | None, fit: Fit | None) -> None:
        self._catalogue = catalogue
        self._lamp = lamp if lamp is not None and lamp.part in self._catalogue.lamps else None
        self._fit = fit
        self.setVisible(self._lamp is not None)
        if self._lamp is not None:
            size = " × ".join(f"{figure(v)}" for v in body_mm(catalogue, self._lamp))
            room = f" in a gap of {fit.gap_mm:.1f} mm" if fit else ""
            self.setAccessibleName(f"Body of {size} mm{room}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._lamp is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        half = self.width() * 0.56
        self._paint_body(painter, QRectF(0, 0, half, self.height()), self._lamp)
        self._paint_beam(painter, QRectF(half + 6, 0, self.width() - half - 6, self.height()), self._lamp)
        painter.end()

    def _paint_body(self, painter: QPainter, area: QRectF, lamp: Lamp) -> None:
        p, fit = theme_of(self), self._fit
        part, (length, width, height) = self._catalogue.lamps[lamp.part], body_mm(self._catalogue, lamp)
        needed = fit.needed_mm if fit else height + 3.0
        gap = fit.gap_mm if fit else needed
        room = area.adjusted(4, 8, -4, -20)
        across = length if part.shape.long else max(length, width)
        scale = min(room.height() / max(gap, needed, 1.0), (room.width() - 34) / max(across, 1.0), 9.0)
        left, floor = room.left() + 6, room.bottom()
        wall = QRectF(left, floor - gap * scale, room.width() - 40, gap * scale)
        if fit is not None:
            painter.setPen(QPen(p.colour("ink"), 1.6))
            painter.drawLine(wall.bottomLeft(), wall.bottomRight())
            painter.drawLine(wall.topLeft(), wall.topRight())
        middle = wall.center().x()
        below = (needed - height) * scale
        leads = QRectF(middle - across * scale / 2, floor - below, across * scale, below)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QBrush(p.colour("wire_plus", 110), Qt.BrushStyle.BDiagPattern))
        painter.drawRect(leads)
        body = QRectF(leads.left(), floor - needed * scale, across * scale, height * scale)
        self._paint_form(painter, body, lamp, p)
        painter.setFont(figure_font(12))
        painter.setPen(p.colour("stop_ink" if fit is not None and fit.clearance_mm < 0 else "muted"))
        words = f"{needed:.1f} of {figure(gap)} mm" if fit is not None else f"{figure(height, 2)} mm high"
        painter.drawText(QRectF(area.left(), area.bottom() - 18, area.width(), 18), Qt.AlignmentFlag.AlignLeft, words)
        bar = 1.0 if scale > 5 else (5.0 if scale > 1.2 else 20.0)
        x = room.right() - 4
        painter.setPen(QPen(p.colour("muted"), 1))
        painter.drawLine(QLineF(x, floor, x, floor - bar * scale))
        for y in (floor, floor - bar * scale):
            painter.drawLine(QLineF(x - 3, y, x + 3, y))
        painter.drawText(QPointF(x - 26, floor - bar * scale / 2 + 4), f"{bar:g}")

    def _paint_form(self, painter: QPainter, body: QRectF, lamp: Lamp, p: Palette) -> None:
        part = self._catalogue.lamps[lamp.part]
        painter.setPen(QPen(p.colour("ink"), 1.2))
        painter.setBrush(lamp_colour(worked(self._catalogue, lamp).rgb, p))
        if part.shape.domed and not lamp.sanded and not lamp.filed_mm:
            r = min(body.width() / 2, body.height())
            path = QPainterPath(body.bottomLeft())
            path.lineTo(body.left(), body.top() + r)
            path.arcTo(QRectF(body.left(), body.top(), body.width(), 2 * r), 180, -180)
            path.lineTo(body.bottomRight())
            path.closeSubpath()
            painter.drawPath(path)
        elif part.shape.picture == "wedge":
            top = body.width() * 0.25
            painter.drawPolygon(
                QPolygonF([body.bottomLeft(), QPointF(body.left() + top, body.top()), QPointF(body.right() - top, body.top()), body.bottomRight()])
            )  # fmt: skip
        elif part.shape.picture == "strip":
            painter.setBrush(p.colour("paper"))
            board = QRectF(
                body.left(),
                body.bottom() - max(body.height() * 0.25, 2.0),
                body.width(),
                max(body.height() * 0.25, 2.0),
            )
            painter.drawRect(board)
            painter.setBrush(lamp_colour(worked(self._catalogue, lamp).rgb, p))
            count = part.leds * lamp.units
            step = body.width() / count
            for i in range(min(count, 60)):
                wide = min(step * 0.6, body.height() * 1.5)
                painter.drawRect(
                    QRectF(body.left() + (i + 0.5) * step - wide / 2, body.top(), wide, body.height() * 0.75)
                )
        elif part.shape.picture == "filament":
            painter.drawRoundedRect(body, body.height() / 2, body.height() / 2)
        else:
            painter.drawRect(body)
            if part.shape.picture == "chip":
                painter.setBrush(p.colour("card"))
                foot = body.width() * 0.18
                for x in (body.left(), body.right() - foot):
                    painter.drawRect(QRectF(x, body.top(), foot, body.height()))

    def _paint_beam(self, painter: QPainter, area: QRectF, lamp: Lamp) -> None:
        p, done = theme_of(self), worked(self._catalogue, lamp)
        radius = min(area.width() / 2 - 2, area.height() - 34)
        foot = QPointF(area.center().x(), area.bottom() - 22)
        painter.setPen(QPen(p.colour("line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for share in (0.5, 1.0):
            box = QRectF(foot.x() - radius * share, foot.y() - radius * share, 2 * radius * share, 2 * radius * share)
            painter.drawArc(box, 0, 180 * 16)
        for degrees in (-60, -30, 0, 30, 60):
            t = math.radians(degrees)
            painter.drawLine(foot, foot + QPointF(math.sin(t) * radius, -math.cos(t) * radius))
        angles = np.radians(np.linspace(-90, 90, 91))
        shape = beam_profile(done.order, angles)
        points = [
            foot + QPointF(math.sin(t) * s * radius, -math.cos(t) * s * radius)
            for t, s in zip(angles, shape, strict=True)
        ]
        painter.setPen(QPen(p.colour("live"), 1.6))
        painter.setBrush(p.colour("glow", 150))
        painter.drawPolygon(QPolygonF([foot, *points]))
        painter.setFont(figure_font(12))
        painter.setPen(p.colour("muted"))
        words = (
            "all round" if done.order < 0 else f"{2 * math.degrees(math.acos(0.5 ** (1 / max(done.order, 0.05)))):.0f}°"
        )
        words += f", {format_intensity(done.axial_cd)}"
        painter.drawText(
            QRectF(area.left(), area.bottom() - 18, area.width(), 18), Qt.AlignmentFlag.AlignHCenter, words
        )


class CurvePicture(Guarded, QWidget):
    """Forward voltage against current: the fitted curve and the points it was fitted to."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._fit: datasheet.Fit | None = None
        self._points: tuple[tuple[float, float], ...] = ()
        self.setFixedHeight(120)

    def sizeHint(self) -> QSize:
        return QSize(240, 120)

    def show_fit(self, fit: datasheet.Fit | None, points: Sequence[tuple[float, float]]) -> None:
        self._fit, self._points = fit, tuple(points)
        self.setAccessibleName(
            f"Curve through {len(points)} points, {fit.miss_v * 1e3:.0f} mV off" if fit else "No curve yet"
        )
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        p = theme_of(self)
        plot = QRectF(36, 6, self.width() - 48, self.height() - 28)
        painter.setPen(QPen(p.colour("line"), 1))
        painter.drawLine(plot.bottomLeft(), plot.bottomRight())
        painter.drawLine(plot.bottomLeft(), plot.topLeft())
        if self._fit is None or not self._points:
            painter.end()
            return
        top = max(i for i, _ in self._points) * 1.15
        low = min(v for _, v in self._points) - 0.15
        high = max(*(v for _, v in self._points), self._fit.volts(top)) + 0.05

        def at(amp: float, volts: float) -> QPointF:
            return QPointF(
                plot.left() + plot.width() * (volts - low) / (high - low), plot.bottom() - plot.height() * amp / top
            )

        currents = np.linspace(0.0, top, 80)
        shown = [at(float(i), self._fit.volts(float(i))) for i in currents if self._fit.volts(float(i)) > low]
        painter.setPen(QPen(p.colour("choice"), 1.8))
        painter.drawPolyline(QPolygonF(shown))
        painter.setBrush(p.colour("live"))
        painter.setPen(QPen(p.colour("ink"), 1))
        for amp, volts in self._points:
            painter.drawEllipse(at(amp, volts), 3.5, 3.5)
        painter.setFont(text_font(SMALL_PX))
        painter.setPen(p.colour("muted"))
        painter.drawText(QRectF(0, plot.top() - 4, 34, 16), Qt.AlignmentFlag.AlignRight, f"{top * 1e3:.0f} mA")
        painter.drawText(QPointF(plot.left(), self.height() - 6.0), f"{low:.2f} V")
        painter.drawText(
            QRectF(plot.right() - 60, self.height() - 20, 60, 16), Qt.AlignmentFlag.AlignRight, f"{high:.2f} V"
        )
        painter.end()
