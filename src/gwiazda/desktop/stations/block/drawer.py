"""Block: what each skin lets through, section by section: layers from inside out, the light fading through them."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QLinearGradient, QPainter, QPen

from gwiazda.core.assess.aims import leak_state
from gwiazda.core.assess.optics.skin import SkinLayer, skin_of
from gwiazda.core.assess.sight.dark import dark_panes
from gwiazda.core.quantities import figure
from gwiazda.desktop.stations.drawer import StationDrawer
from gwiazda.desktop.theme.palette import Palette

DECADES = 7.0  # of light the picture spans


def layer_colour(layer: SkinLayer, palette: Palette) -> QColor:
    """Grey as light as the layer's reflectance; foil and silver a little blue; dim and warm in the dark room."""
    value = round(255 * min(max(layer.reflectance, 0.0), 1.0) ** (1 / 2.2))
    if palette.name == "darkroom":
        return QColor(round(value * 0.5), round(value * 0.36), round(value * 0.26))
    if layer.id in ("silver", "foil", "foil-tape"):
        return QColor(min(value, 200), min(value + 4, 206), min(value + 12, 216))
    return QColor(value, value, round(value * 0.97))


class BlockDrawer(StationDrawer):
    title = "Block"

    def subtitle(self) -> str:
        return "what each skin lets through, inside to outside; the amber is the light left"

    def paint_body(self, painter: QPainter, body: QRectF) -> None:
        plan, assessment = self.document.assessed_plan, self.document.assessment
        rows = [s for s in plan.sections if s.id in assessment.sections and assessment.sections[s.id].lamps]
        if not rows:
            self.words(painter, body, "Nothing to block yet: no section has a lamp inside.")
            return
        chosen = set(self.document.selection)
        worst: dict[str, float] = {}
        for leak in assessment.leaks:
            worst[leak.section] = max(worst.get(leak.section, 0.0), leak.times)
        dark = dark_panes(self.document.catalogue, plan, assessment.openings)
        for o in plan.openings:
            worst[o.section] = max(worst.get(o.section, 0.0), dark.get(o.id, 0.0))
        rows, cell = self.columns(painter, body, rows, 5, lambda s: worst.get(s.id, 0.0))
        for i, section in enumerate(rows):
            left, width = body.left() + i * cell, cell - 18
            times = worst.get(section.id, 0.0)
            state = leak_state(times)
            self.words(
                painter, QRectF(left, body.top() - 2, width, 18), section.name,
                "choice" if section.id in chosen else "ink", bold=True,
            )  # fmt: skip
            verdict = (
                "no leak"
                if state == "fine"
                else f"{figure(times)} × visible limit"
                if times >= 10
                else f"{times:.1f} × visible limit"
            )
            ink = {"fine": "fine_ink", "look": "look_ink", "stop": "stop_ink"}[state]
            self.words(painter, QRectF(left, body.top() + 58, width, 18), verdict, ink, bold=True)
            layers = skin_of(self.document.catalogue, section, plan.kit.material)
            self._skin(painter, QRectF(left, body.top() + 20, width, 36), layers)
            total = sum(x.density for x in layers)
            words = ", ".join(f"{x.name} {x.amount}".strip() for x in layers)
            spoken = f"{section.name}: {verdict}; {words}; density {total:.1f} in all"
            self.places.append((QRectF(left - 4, body.top() - 4, cell - 8, body.height() + 8), section.id, spoken))

    def _skin(self, painter: QPainter, area: QRectF, layers: tuple[SkinLayer, ...]) -> None:
        """Layers as wide as they block, but never too thin to see; above them the light, by decades."""
        if not layers:
            return
        p = self.palette_
        shares = [0.35 + min(x.density, 4.0) for x in layers]
        scale = area.width() / sum(shares)
        x, gone = area.left(), 0.0
        for layer, share in zip(layers, shares, strict=True):
            box = QRectF(x, area.top() + 16, share * scale, area.height() - 16)
            painter.setPen(QPen(p.colour("ink", 150), 1))
            painter.setBrush(layer_colour(layer, p))
            painter.drawRect(box)
            before, after = (max(1.0 - d / DECADES, 0.0) for d in (gone, gone + layer.density))
            gone += layer.density
            painter.setPen(Qt.PenStyle.NoPen)
            gradient = QLinearGradient(box.topLeft(), box.topRight())
            for at, level in ((0.0, before), (1.0, after)):
                gradient.setColorAt(at, p.colour("live", round(255 * level**0.6)))
            painter.setBrush(gradient)
            top = area.top() + 14
            painter.drawPolygon(
                [QPointF(box.left(), top), QPointF(box.left(), top - 14 * before), QPointF(box.right(), top - 14 * after), QPointF(box.right(), top)]
            )  # fmt: skip
            x += share * scale
        painter.setPen(QPen(p.colour("muted"), 1))
        painter.drawLine(QPointF(area.left(), area.top() + 14.5), QPointF(area.right(), area.top() + 14.5))
