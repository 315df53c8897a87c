"""Power: the evening as a strip, the model's light and the cells' voltage along the hours."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QLinearGradient, QPainter, QPen, QPolygonF

from gwiazda.core.light.tone import to_srgb
from gwiazda.core.power.discharge import DARK_SHARE
from gwiazda.core.quantities import figure, format_hours
from gwiazda.desktop.plate.works import lamp_colour
from gwiazda.desktop.stations.drawer import Drawer


class PowerDrawer(Drawer):
    title = "Power"

    def subtitle(self) -> str:
        s, plan = self.document.assessment.supply, self.document.assessed_plan
        count = plan.supply.in_series * plan.supply.in_parallel
        cells = f"{count} × " if count > 1 else ""
        text = f"{cells}{s.name}, {figure(s.nominal_v)} V"
        if s.is_battery and not math.isinf(s.hours):
            text += f" · {format_hours(s.hours)} to {s.ends}"
            if s.first_out:
                text += f", {s.first_out} goes first"
        return text

    def paint_body(self, painter: QPainter, body: QRectF) -> None:
        s, p = self.document.assessment.supply, self.palette_
        if not s.is_battery or math.isinf(s.hours) or not len(s.curve_hours):
            share = s.draw_a / s.limit_a if s.limit_a else 0.0
            text = (
                "Nothing is drawn yet."
                if s.draw_a <= 0
                else f"From an adapter the light stays as it is. It gives {share * 100:.0f} % of what it should at most."
            )
            self.words(painter, QRectF(body.left(), body.top(), body.width(), 20), text, "ink")
            if not s.is_battery:
                track = QRectF(body.left(), body.top() + 30, body.width() * 0.6, 10)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(p.colour("line"))
                painter.drawRoundedRect(track, 5, 5)
                painter.setBrush(p.colour("fine" if share <= 1 else "stop"))
                painter.drawRoundedRect(QRectF(track.left(), track.top(), track.width() * min(share, 1.0), 10), 5, 5)
                self.words(
                    painter,
                    QRectF(track.right() + 12, track.top() - 5, 200, 20),
                    f"{s.draw_a * 1e3:.0f} of {s.limit_a * 1e3:.0f} mA",
                )
            return
        hours, light = s.curve_hours, s.curve_light
        end = float(min(hours[-1], s.hours * 1.25))
        end = max(end, 1.0 / 60.0) if math.isfinite(end) else 1.0  # one that is flat at once has no curve to speak of
        plot = QRectF(body.left() + 44, body.top() - 2, body.width() - 60, body.height() - 26)

        def at(hour: float, share: float) -> QPointF:
            return QPointF(
                plot.left() + plot.width() * hour / end,
                plot.bottom() - plot.height() * min(share, 1.05) / 1.05,
            )

        painter.setPen(QPen(p.colour("line"), 1))
        for share, name in ((1.0, "100 %"), (DARK_SHARE, "50 %")):
            y = at(0, share).y()
            painter.drawLine(QLineF(plot.left(), y, plot.right(), y))
            self.words(painter, QRectF(body.left() - 2, y - 9, 44, 18), name)
        shown = hours <= end
        families = {part.colour: part for part in self.document.catalogue.lamps.values()}
        for name, curve in s.curve_colours.items():
            colour = lamp_colour(self._rgb(name), p) if name in families else QColor(p.muted)
            pen = QPen(colour.darker(125) if p.name == "bench" else colour, 1.4, Qt.PenStyle.DotLine)
            painter.setPen(pen)
            painter.drawPolyline(QPolygonF([at(h, v) for h, v in zip(hours[shown], curve[shown], strict=True)]))
        painter.setPen(QPen(p.colour("ink"), 2))
        painter.drawPolyline(QPolygonF([at(h, v) for h, v in zip(hours[shown], light[shown], strict=True)]))
        stop = at(s.hours, 0).x()
        painter.setPen(QPen(p.colour("stop"), 1.6))
        painter.drawLine(QLineF(stop, plot.top(), stop, plot.bottom()))
        self.words(painter, QRectF(stop + 5, plot.top() - 2, 120, 16), format_hours(s.hours), "stop_ink", bold=True)
        # The strip: the model's own light, at the screen value of its share.
        strip = QRectF(plot.left(), plot.bottom() + 4, plot.width(), 9)
        gradient = QLinearGradient(strip.topLeft(), strip.topRight())
        base = QColor(p.pane)
        for h in np.linspace(0.0, end, 24):
            share = float(np.interp(h, hours, light))
            level = float(to_srgb(np.array(min(share, 1.0) * 0.9)))
            gradient.setColorAt(
                h / end, QColor.fromRgbF(base.redF() * level, base.greenF() * level, base.blueF() * level)
            )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(gradient)
        painter.drawRoundedRect(strip, 3, 3)
        self.words(painter, QRectF(strip.left(), strip.bottom(), 60, 16), "0 h")
        self.words(painter, QRectF(strip.right() - 30, strip.bottom(), 50, 16), f"{end:.0f} h")
        self.places.append(
            (
                QRectF(plot.left(), body.top(), plot.width(), body.height()),
                "supply",
                f"Light along the evening: {format_hours(s.hours)} to {s.ends}",
            )
        )

    def _rgb(self, colour: str) -> tuple[float, float, float]:
        return next((s.rgb for s in self.document.assessment.lamps.values() if s.colour == colour), (1.0, 1.0, 1.0))
