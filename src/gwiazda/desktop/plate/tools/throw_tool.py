"""Where a lamp's own light lands: the faces it reaches past what stands in between, as light on the plate; drag to aim it."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.assess.sight.throw import Landing, higher, home_of, landing
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import PLANES, from_sheet, to_sheet
from gwiazda.core.plan.model import Lamp
from gwiazda.core.quantities import figure
from gwiazda.desktop.plate.tools.tool import Tool

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate


class ThrowTool(Tool):
    drags = True
    id = "throw"

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self._to: QPointF | None = None
        self.reach_words = ""
        self._found: Landing | None = None

    @property
    def lit_share(self) -> float:
        """Share of the faces seen here that are lit."""
        return self._found.lit_share if self._found else 0.0

    @property
    def peak_lx(self) -> float:
        return self._found.peak_lx if self._found else 0.0

    def _lamp(self) -> Lamp | None:
        document = self.plate.document
        lamp = next((i for i in document.selected_items() if isinstance(i, Lamp)), None)
        return lamp if lamp is not None and lamp.part in document.catalogue.lamps else None

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._lamp() is None:
            self.plate.document.message.emit("Pick a lamp first (S), then drag.", "stop")
            return
        self.move(at, modifiers)

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        lamp = self._lamp()
        if lamp is None:
            return
        h, v, _ = PLANES[self.plate.view.side]
        u, w = self._place(at)
        aim = [0.0, 0.0, 0.0]
        aim[h], aim[v] = u - lamp.at[h], w - lamp.at[v]
        length = math.hypot(aim[h], aim[v])
        if length < 0.5:
            return
        aim = [round(a / length, 4) for a in aim]
        self._to = at
        document = self.plate.document
        document.preview(edits.set_fields(document.plan, [lamp.id], aim=(aim[0], aim[1], aim[2])))
        self._look()
        self.plate.update()

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        self.plate.document.commit("Aim the lamp")

    def _place(self, at: QPointF) -> tuple[float, float]:
        return from_sheet(self.plate.view.side, *self.plate.extent.to_mm(at.x(), at.y()))

    def _look(self) -> None:
        lamp, document = self._lamp(), self.plate.document
        self._found, self.reach_words = None, ""
        if lamp is None:
            return
        state = document.assessment.lamps.get(lamp.id)
        side = self.plate.view.side
        self._found = landing(document.catalogue, document.plan, lamp, side, state.share if state else 1.0)
        if self._to is not None:
            more = higher(document.plan, lamp, side, self._place(self._to))
            inside = home_of(document.plan, lamp) is not None
            if more is None:
                self.reach_words = f"no height {'in this section ' if inside else ''}reaches it over the lip"
            elif more > 0:
                self.reach_words = f"a lip is in the way: {more:g} mm higher would reach it"

    def paint(self, painter: QPainter) -> None:
        lamp = self._lamp()
        if lamp is None or self._found is None:
            return
        palette, side = self.plate.palette_, self.plate.view.side
        for strip in self._found.strips:
            share = strip.lux / self._found.peak_lx if self._found.peak_lx > 0 else 0.0
            if share > 0.003:
                colour = palette.colour("live", int(60 + 195 * share**0.5))
                painter.setPen(QPen(colour, 2 + 7 * share**0.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
                ends = (self.plate.extent.to_px(*to_sheet(side, p)[:2]) for p in (strip.a, strip.b))
                painter.drawLine(*ends)
        centre = self.plate.extent.to_px(*to_sheet(side, lamp.at)[:2])
        painter.setPen(QPen(palette.colour("live"), 1.2, Qt.PenStyle.DashLine))
        if self._to is not None:
            painter.drawLine(centre, self._to)
            words = f"up to {figure(self.peak_lx)} lx direct, {self.lit_share * 100:.0f} % of the faces seen here"
            self.plate.paint_tag(painter, self._to + QPointF(14, -12), words)
            if self.reach_words:
                self.plate.paint_tag(painter, self._to + QPointF(14, 14), self.reach_words)

    def cancel(self) -> None:
        self.plate.document.revert()
        self._to, self._found, self.reach_words = None, None, ""
        self.plate.update()
