"""Tools of the measuring bench: calibrate, level, the brush of who is awake, and the eye at a window."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from gwiazda.core.assess.sight.eye import Sight, sight_at
from gwiazda.core.assess.view_index import opening_shapes
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import views
from gwiazda.core.plan.edits.occupancy import DIM
from gwiazda.core.plan.frame import SHEET, from_sheet
from gwiazda.core.plan.model import Opening
from gwiazda.core.quantities import echo_kit_length, figure, parse_kit_length_mm
from gwiazda.desktop.plate.tools.tool import DragTool, Tool
from gwiazda.desktop.widgets.fields import ValueField

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate


class LineTool(DragTool):
    """A line drawn between two points."""

    def _sheet(self) -> tuple[tuple[float, float], tuple[float, float]]:
        assert self._start is not None
        window = self.plate.extent
        return window.to_mm(self._start.x(), self._start.y()), window.to_mm(self._end.x(), self._end.y())

    def _line_text(self) -> str:
        (ax, ay), (bx, by) = self._sheet()
        return f"{math.hypot(bx - ax, by - ay):.1f} mm as it is now"

    def paint(self, painter: QPainter) -> None:
        if self._start is None:
            return
        painter.setPen(QPen(self.plate.palette_.colour("choice"), 1.6))
        painter.drawLine(self._start, self._end)
        for point in (self._start, self._end):
            painter.drawLine(point + QPointF(-5, 0), point + QPointF(5, 0))
            painter.drawLine(point + QPointF(0, -5), point + QPointF(0, 5))
        self.plate.paint_tag(painter, self._end + QPointF(12, 8), self._line_text())


class CalibrateTool(LineTool):
    id = "calibrate"

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self.field: ValueField | None = None

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        self.cancel()
        super().press(at, modifiers)

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._start is None:
            return
        self._end = at
        plate = self.plate
        scale = plate.document.plan.kit.scale
        self.field = ValueField(
            "Length of the line", lambda t: parse_kit_length_mm(t, scale, "Calibration"), self._take, plate
        )
        self.field.set_hint("94 mm on the kit; 18.8 m, or 60 cm full size, where that is the size of the real one")
        self.field.setPlaceholderText("94 mm or 18.8 m")
        self.field.refused.connect(plate.document.message_stop)
        self.field.setFixedWidth(150)
        x = min(max(at.x() - 60, 10), plate.width() - 160)
        self.field.move(int(x), int(min(at.y() + 34, plate.height() - 40)))
        self.field.away = self._leave_field
        self.field.show()
        self.field.setFocus()

    def _take(self, value: object) -> None:
        length = float(value)  # type: ignore[arg-type]
        document, view = self.plate.document, self.plate.view
        a, b = self._sheet()
        if document.edit("Calibrate", lambda plan: views.calibrate(plan, view.id, a, b, length)):
            read = echo_kit_length(self.field.text(), document.plan.kit.scale) if self.field else ""
            document.message.emit(f"Read as {read}: the line is {figure(length, 4)} mm long now.", "info")
            self.cancel()
            self.plate.setFocus()

    def _leave_field(self) -> None:
        self.cancel()
        self.plate.setFocus()

    def cancel(self) -> None:
        if self.field is not None:
            self.field.hide()
            self.field.deleteLater()
            self.field = None
        super().cancel()


class LevelTool(LineTool):
    id = "level"

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._start is None:
            return
        self._end = at
        a, b = self._sheet()
        view = self.plate.view
        self._start = None
        self.plate.document.edit("Level the drawing", lambda plan: views.straighten(plan, view.id, a, b))
        self.plate.update()

    def _line_text(self) -> str:
        (ax, ay), (bx, by) = self._sheet()
        angle = math.degrees(math.atan2(by - ay, bx - ax))
        return f"{(angle + 90) % 180 - 90:.1f}°"


class BrushTool(Tool):
    drags = True
    id = "brush"

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self._share = 1.0
        self._done: set[str] = set()

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        dark, dim = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
        self._share = 0.0 if modifiers & dark else (DIM if modifiers & dim else 1.0)
        self._done = set()
        self.move(at, modifiers)

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        document, side = self.plate.document, self.plate.view.side
        found = opening_shapes(document.plan.openings, document.plan.sections, side)
        if not found.ids:
            return
        x, y = self.plate.extent.to_mm(at.x(), at.y())
        slack = 2.0 / self.plate.extent.scale
        r = found.rects
        over = (r[:, 0] - slack <= x) & (x <= r[:, 2] + slack) & (r[:, 1] - slack <= y) & (y <= r[:, 3] + slack)
        new = [found.ids[i] for i in np.flatnonzero(over) if found.ids[i] not in self._done]
        if new:
            self._done.update(new)
            document.preview(edits.set_fields(document.plan, new, lit=self._share))

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        words = {0.0: "Leave dark", 1.0: "Light"}.get(self._share, "Dim")
        self.plate.document.commit(f"{words} {len(self._done)} windows")
        self._done = set()

    def cancel(self) -> None:
        self.plate.document.revert()


class EyeTool(Tool):
    drags = True
    id = "eye"

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self._eye: QPointF | None = None
        self.sight: Sight | None = None

    def _opening(self) -> Opening | None:
        items = self.plate.document.selected_items()
        return next((i for i in items if isinstance(i, Opening)), None)

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._opening() is None:
            self.plate.document.message.emit("Pick a window first (S), then drag the eye.", "stop")
            return
        self.move(at, modifiers)

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        opening = self._opening()
        if opening is None:
            return
        self._eye = at
        side = self.plate.view.side
        try:
            place = from_sheet(side, *self.plate.extent.to_mm(at.x(), at.y()))
            self.sight = sight_at(self.plate.document.plan, opening, side, *place)
        except GwiazdaError as error:
            self.plate.document.message.emit(str(error), "stop")
        self.plate.update()

    def paint(self, painter: QPainter) -> None:
        if self._eye is None:
            return
        palette = self.plate.palette_
        sight = self.sight
        if sight is not None and sight.wedge is not None:
            a, b, _ = SHEET[self.plate.view.side]
            wedge = QPolygonF([self.plate.extent.to_px(a * x, b * y) for x, y in sight.wedge])
            painter.setPen(QPen(palette.colour("live"), 1.2))
            painter.setBrush(palette.colour("glow", 130))
            painter.drawPolygon(wedge)
            painter.setPen(QPen(palette.colour("live"), 1, Qt.PenStyle.DotLine))
            for i in (0, 1):
                painter.drawLine(self._eye, wedge.at(i))
        painter.setPen(QPen(palette.colour("ink"), 1.5))
        painter.setBrush(palette.colour("card"))
        painter.drawEllipse(self._eye, 9, 6)
        painter.setBrush(palette.colour("ink"))
        painter.drawEllipse(self._eye, 3, 3)
        if sight is not None:
            text = f"sees {figure(sight.share * 100, 2)} % of the inside"
            if sight.lamps:
                text += f", {len(sight.lamps)} lamp{'s' if len(sight.lamps) > 1 else ''} in plain sight"
            self.plate.paint_tag(painter, self._eye + QPointF(14, -12), text)

    def cancel(self) -> None:
        self._eye, self.sight = None, None
        self.plate.update()
