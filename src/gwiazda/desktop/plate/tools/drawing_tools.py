"""Tools that deal with the drawing behind a view: crop it, align it with another view, let the wand read it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPen, QPolygonF

from gwiazda.core.errors import GwiazdaError, PlanError
from gwiazda.core.plan.edits import views
from gwiazda.core.plan.frame import PLANES, Side, from_sheet
from gwiazda.core.plan.model import Drawing
from gwiazda.core.plan.outline import outlines, svg_shapes, wand
from gwiazda.desktop.plate.sheet import decoded, size_of
from gwiazda.desktop.plate.tools.outline_tools import CutTool, TraceTool
from gwiazda.desktop.plate.tools.tool import DRAG_PX, DragTool, Tool, rounded
from gwiazda.desktop.svg_trial import few_shapes, shapes_within_limits
from gwiazda.desktop.tasks import PlanTask

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

WAND_PX = 1600  # the wand reads a picture at this size at most: as fine as lines are drawn, and at once
AXES = "xyz"


class CropTool(DragTool):
    id = "crop"

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._start is None:
            return
        window, view = self.plate.extent, self.plate.view
        dragged = (at - self._start).manhattanLength() >= DRAG_PX
        a = window.to_mm(self._start.x(), self._start.y()) if dragged else None
        b = window.to_mm(at.x(), at.y())
        self._start = None
        words = "Crop the drawing" if dragged else "Show all of the drawing"
        self.plate.document.edit(words, lambda plan: views.crop(plan, view.id, a, b))
        self.plate.update()

    def paint(self, painter: QPainter) -> None:
        if self._start is None:
            return
        painter.setPen(QPen(self.plate.palette_.colour("choice"), 1.5))
        painter.setBrush(self.plate.palette_.colour("choice", 26))
        painter.drawRect(QRectF(self._start, self._end).normalized())
        self.plate.paint_tag(painter, self._end + QPointF(12, 12), "keep this part")


class AlignTool(Tool):
    """One point, clicked in two views: the second view's drawing moves to where the first says it is."""

    id = "align"

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self.mark: tuple[str, Side, tuple[float, float]] | None = None

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        document, view = self.plate.document, self.plate.view
        here = from_sheet(view.side, *self.plate.extent.to_mm(at.x(), at.y()))
        here = (rounded(here[0]), rounded(here[1]))
        if self.mark is None or self.mark[0] == view.id or all(v.id != self.mark[0] for v in document.plan.views):
            self.mark = (view.id, view.side, here)
            document.message.emit("Marked. Go to another view (V) and click the same point there.", "info")
        else:
            _, side, there = self.mark
            if document.edit("Align the views", lambda plan: views.align(plan, view.id, here, side, there)):
                axes = " and ".join(AXES[a] for a in views.shared_axes(view.side, side))
                document.message.emit(f"{view.name} agrees with the point marked, along {axes}.", "info")
                self.mark = None
        self.plate.update()

    def leave_view(self) -> None:
        """The mark stays: it is made in one view for another."""

    def cancel(self) -> None:
        self.mark = None
        self.plate.update()

    def paint(self, painter: QPainter) -> None:
        if self.mark is None:
            return
        view_id, side, there = self.mark
        view = self.plate.view
        palette = self.plate.palette_
        painter.setPen(QPen(palette.colour("choice"), 1.6, Qt.PenStyle.DashLine))
        h, v, _ = PLANES[view.side]
        width, height = self.plate.width(), self.plate.height()
        for i, axis in enumerate((h, v)):
            if axis in PLANES[side][:2]:
                value = there[PLANES[side].index(axis)]
                at = self._px((value, 0.0) if i == 0 else (0.0, value))
                if i == 0:
                    painter.drawLine(QPointF(at.x(), 0), QPointF(at.x(), height))
                else:
                    painter.drawLine(QPointF(0, at.y()), QPointF(width, at.y()))
        words = "the point" if view_id == view.id else "it lies on this line: click it in the drawing"
        self.plate.paint_tag(painter, QPointF(14, 52), words)


class WandTool(TraceTool):
    """Proposes the outline around a place of the drawing; Enter makes a section of it, Space an opening, F a fitting."""

    id = "wand"
    follows = False
    _task: PlanTask[tuple[tuple[float, float], ...]] | None = None

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        document, view = self.plate.document, self.plate.view
        try:
            drawing = view.drawing
            data = document.pictures.get(drawing.picture) if drawing else None
            if drawing is None or data is None:
                raise PlanError(
                    f"View {view.name}", "has no drawing for the wand to read", "a picture dropped on the plate"
                )
        except GwiazdaError as error:
            document.message_stop(str(error))
            return
        x, y = views.drawing_place(drawing, *self.plate.extent.to_mm(at.x(), at.y()))
        if self._task is None:
            self._task = PlanTask(document, "wand", "The outline", self.plate)
        quick = data.startswith((b"\x89PNG", b"\xff\xd8")) or few_shapes(data)
        self._task.ask(
            document.plan,
            lambda: self._around(data, x, y),
            lambda assessment: self._take(view.side, drawing, assessment),
            at_once=quick,
        )

    def _take(self, side: Side, drawing: Drawing, found: tuple[tuple[float, float], ...]) -> None:
        flat = [from_sheet(side, *views.sheet_place(drawing, *p)) for p in found]
        self.points = [(rounded(u), rounded(w)) for u, w in outlines.simplified(flat, 0.6 / self.plate.extent.scale)]
        self._steps = [1] * len(self.points)
        self.plate.update()

    @staticmethod
    def _around(data: bytes, x: float, y: float) -> tuple[tuple[float, float], ...]:
        """The outline around a place, in drawing units: a shape of the SVG itself, or what the lines enclose."""
        if not data.startswith((b"\x89PNG", b"\xff\xd8")):
            shape = svg_shapes.smallest_around(shapes_within_limits(data), x, y)
            if shape is None:
                raise PlanError(
                    "Wand", "no closed shape of the drawing holds this place", "a place inside a closed line"
                )
            return shape.points
        image, (wide, high) = decoded(data) or QImage(), size_of(data)
        k = min(1.0, WAND_PX / max(wide, high, 1.0))
        size = QSize(max(round(wide * k), 1), max(round(high * k), 1))
        on_paper = QImage(size, QImage.Format.Format_RGB32)
        on_paper.fill(Qt.GlobalColor.white)
        painter = QPainter(on_paper)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(on_paper.rect()), image)
        painter.end()
        grey = on_paper.convertToFormat(QImage.Format.Format_Grayscale8)
        rows = np.frombuffer(grey.constBits(), np.uint8).reshape(grey.height(), grey.bytesPerLine())
        found = wand.outline_at(wand.ink_of(rows[:, : grey.width()]), x * k, y * k)
        return tuple((u / k, v / k) for u, v in found)

    def key_press(self, key: int) -> bool:
        if self.points and key == Qt.Key.Key_Space:
            cut = self.plate.tools["cut"]
            assert isinstance(cut, CutTool)
            cut.take(tuple(self.points))
            self.cancel()
            return True
        return key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_F) and super().key_press(key)

    def paint(self, painter: QPainter) -> None:
        if not self.points:
            return
        palette = self.plate.palette_
        shape = QPolygonF([self._px(p) for p in self.points])
        painter.setPen(QPen(palette.colour("choice"), 2))
        painter.setBrush(palette.colour("choice", 40))
        painter.drawPolygon(shape)
        spans = [max(p[i] for p in self.points) - min(p[i] for p in self.points) for i in (0, 1)]
        words = f"{spans[0]:.1f} × {spans[1]:.1f} mm, {len(self.points)} corners · Enter: a section · Space: an opening · F: a fitting"
        box = shape.boundingRect()
        self.plate.paint_tag(painter, QPointF(max(box.left(), 12.0), max(box.top() - 28, 52.0)), words)
