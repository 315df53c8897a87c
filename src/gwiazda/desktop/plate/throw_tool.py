"""Where a lamp's own light lands: the faces it reaches past the lips, as light on the plate; drag to aim it."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.assess.lamp.lampwork import worked
from gwiazda.core.light.sightline import throw
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import PLANES, SHEET, from_sheet, to_sheet
from gwiazda.core.plan.lookup import find, lamps_by_section
from gwiazda.core.plan.model import Lamp, Section
from gwiazda.desktop.plate.tools import Tool

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

SAMPLES = 40
RAISE_MM, MOST_RAISED_MM = 0.5, 60.0


class ThrowTool(Tool):
    id = "throw"

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self._to: QPointF | None = None
        self.lit_share = 0.0
        self.reach_words = ""
        self._strips: list[tuple[QPointF, QPointF, float]] = []

    def _lamp(self) -> tuple[Lamp, Section] | None:
        document = self.plate.document
        lamp = next((i for i in document.selected_items() if isinstance(i, Lamp)), None)
        if lamp is None or lamp.part not in self.plate.document.catalogue.lamps:
            return None
        home = lamps_by_section(document.plan.sections, document.plan.lamps).get(lamp.id)
        section = find(document.plan, home) if home else None
        return (lamp, section) if isinstance(section, Section) else None

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._lamp() is None:
            self.plate.document.message.emit(
                "Pick a lamp first (S), then drag.", "stop"
            )
            return
        self.move(at, modifiers)

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        found = self._lamp()
        if found is None:
            return
        lamp, _ = found
        side = self.plate.view.side
        h, v, _ = PLANES[side]
        u, w = from_sheet(side, *self.plate.extent.to_mm(at.x(), at.y()))
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

    def _look(self) -> None:
        """Light on the four edges of the box in this view, past the obstacles that are kept."""
        found = self._lamp()
        self._strips, self.reach_words = [], ""
        if found is None:
            return
        lamp, section = found
        side = self.plate.view.side
        h, v, _ = PLANES[side]
        low = np.array(section.box.at)
        high = low + np.array(section.box.size)
        lips = tuple(
            (np.array(o.box.at), np.array(o.box.at) + np.array(o.box.size))
            for o in section.obstacles
            if o.action == "keep"
        )
        light = worked(self.plate.document.catalogue, lamp)
        state = self.plate.document.assessment.lamps.get(lamp.id)
        share = state.share if state else 1.0
        at, aim = np.array(lamp.at), np.array(lamp.aim)
        order = max(light.order, 0.0)
        t = (np.arange(SAMPLES) + 0.5) / SAMPLES
        a, b, _ = SHEET[side]
        best, lit, total = 0.0, 0.0, 0.0
        edges = []
        for fixed, along, value, inward in (
            (h, v, low[h], 1.0),
            (h, v, high[h], -1.0),
            (v, h, low[v], 1.0),
            (v, h, high[v], -1.0),
        ):
            points = np.tile(at, (SAMPLES, 1))
            points[:, fixed] = value
            points[:, along] = low[along] + t * (high[along] - low[along])
            normal = np.zeros(3)
            normal[fixed] = inward
            lux = throw(at, aim, order, light.axial_cd * share, points, normal, lips)
            best = max(best, float(lux.max()))
            edges.append((points, lux, along))
        for points, lux, along in edges:
            half = (high[along] - low[along]) / SAMPLES / 2
            total += 2 * half * SAMPLES
            lit += 2 * half * float((lux > 0.05 * best).sum()) if best > 0 else 0.0
            for point, value in zip(points, lux, strict=True):
                ends = []
                for sign in (-1, 1):
                    end = point.copy()
                    end[along] += sign * half
                    ends.append(self.plate.extent.to_px(a * end[h], b * end[v]))
                self._strips.append((ends[0], ends[1], value / best if best > 0 else 0.0))
        self.lit_share = lit / total if total else 0.0
        self.peak_lx = best
        self.reach_words = self._higher(lamp, section, lips)

    def _higher(self, lamp: Lamp, section: Section, lips: tuple[tuple[np.ndarray, np.ndarray], ...]) -> str:
        """How much higher the lamp would have to sit for its light to reach what it is aimed at."""
        if self._to is None or not lips:
            return ""
        side = self.plate.view.side
        h, v, _ = PLANES[side]
        u, w = from_sheet(side, *self.plate.extent.to_mm(self._to.x(), self._to.y()))
        target = np.array(lamp.at)
        target[h], target[v] = u, w
        top = section.box.at[v] + section.box.size[v]
        for step in range(int(MOST_RAISED_MM / RAISE_MM)):
            at = np.array(lamp.at)
            at[v] += step * RAISE_MM
            if at[v] > top:
                return "no height in this section reaches it over the lip"
            aim = target - at
            if float(np.linalg.norm(aim)) < 1e-6:
                return ""
            if throw(at, aim, 1.0, 1.0, target[None], -aim / np.linalg.norm(aim), lips)[0] > 0:
                return "" if step == 0 else f"a lip is in the way: {step * RAISE_MM:g} mm higher would reach it"
        return "no height reaches it over the lip"

    def paint(self, painter: QPainter) -> None:
        found = self._lamp()
        if found is None or not self._strips:
            return
        palette = self.plate.palette_
        for a, b, share in self._strips:
            if share > 0.003:
                colour = palette.colour("live", int(60 + 195 * share**0.5))
                painter.setPen(QPen(colour, 2 + 7 * share**0.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
                painter.drawLine(a, b)
        x, y, _ = to_sheet(self.plate.view.side, found[0].at)
        centre = self.plate.extent.to_px(x, y)
        painter.setPen(QPen(palette.colour("live"), 1.2, Qt.PenStyle.DashLine))
        if self._to is not None:
            painter.drawLine(centre, self._to)
            words = f"up to {self.peak_lx:.3g} lx direct, {self.lit_share * 100:.0f} % of the faces seen here"
            self.plate.paint_tag(painter, self._to + QPointF(14, -12), words)
            if self.reach_words:
                self.plate.paint_tag(painter, self._to + QPointF(14, 14), self.reach_words)

    def cancel(self) -> None:
        self.plate.document.revert()
        self._to, self._strips, self.reach_words = None, [], ""
        self.plate.update()
