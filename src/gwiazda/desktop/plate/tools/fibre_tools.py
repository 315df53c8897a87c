"""Tools for fibres: dots one by one or in rows, panels, and the way of a fibre led by hand."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.assess.view_index import section_at
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import PLANES, from_sheet
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Dot, Panel, Plan, Point, copy_unchecked
from gwiazda.desktop.plate.tools.tool import DRAG_PX, DragTool, rounded

GRAB_PX = 7.0


class DotTool(DragTool):
    """A click puts a dot, a drag a row of them."""

    id = "dot"
    _more = 0

    def template(self) -> Dot:
        """A dot like the one last picked."""
        side = self.plate.view.side
        model = next((i for i in self.plate.document.selected_items() if isinstance(i, Dot)), None)
        if model is not None:
            return copy_unchecked(model, side=side, lamp="", pinned=False, way=(), panel="", name="")
        return Dot(id="dot", at=(0.0, 0.0, 0.0), side=side)

    def _count(self) -> int:
        assert self._start is not None
        (ah, av), (bh, bv) = self._in_view(self._start, self._end)
        length = math.hypot(bh - ah, bv - av)
        if (self._end - self._start).manhattanLength() < DRAG_PX:
            return 1
        return max(2, min(500, round(length / 4.0) + 1 + self._more))

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        super().press(at, modifiers)
        self._more = 0

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._start is not None and not modifiers & Qt.KeyboardModifier.ShiftModifier:
            d = at - self._start
            at = QPointF(at.x(), self._start.y()) if abs(d.x()) >= abs(d.y()) else QPointF(self._start.x(), at.y())
        super().move(at, modifiers)

    def key_press(self, key: int) -> bool:
        if self._start is None or key not in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            return False
        self._more += 1 if key == Qt.Key.Key_Up else -1
        self.plate.update()
        return True

    def _on_skin(self, at: QPointF) -> tuple[str, Point]:
        """The section under a place, and the place on its skin that faces the viewer; the middle plane off all sections."""
        plate, side = self.plate, self.plate.view.side
        x, y = plate.extent.to_mm(at.x(), at.y())
        section_id = section_at(plate.document.plan, side, x, y)
        h, v, _ = PLANES[side]
        u, w = (rounded(k) for k in from_sheet(side, x, y))
        if section_id is None:
            place = [0.0, 0.0, 0.0]
            place[h], place[v] = u, w
            return "", (place[0], place[1], place[2])
        return section_id, edits.skin_place(section_of(plate.document.plan, section_id), side, u, w)

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._start is None:
            return
        self.move(at, modifiers)
        document, count = self.plate.document, self._count()
        (section, start), (_, end) = self._on_skin(self._start), self._on_skin(self._end)
        if section:
            axis = PLANES[self.plate.view.side][2]
            level = list(end)
            level[axis] = start[axis]
            end = (level[0], level[1], level[2])
        self._start = None
        model = copy_unchecked(self.template(), section=section)
        new: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, ids = edits.row_of_dots(plan, model, start, end, count, f"{section or 'free'}.dot")
            new.extend(ids)
            return plan

        if document.edit("Add a dot" if count == 1 else f"Add a row of {count} dots", change):
            document.select(new)
        self.plate.update()

    def paint(self, painter: QPainter) -> None:
        if self._start is None:
            return
        n = self._count()
        painter.setPen(QPen(self.plate.palette_.colour("fibre"), 1.4))
        painter.setBrush(self.plate.palette_.colour("pane"))
        for i in range(n):
            t = i / (n - 1) if n > 1 else 0.0
            painter.drawEllipse(self._start + (self._end - self._start) * t, 2.6, 2.6)
        self.plate.paint_tag(painter, self._end + QPointF(12, -12), "1 dot" if n == 1 else f"{n} dots")


class PanelTool(DragTool):
    """A drag over the place of a panel's face."""

    id = "panel"

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._start is None:
            return
        start, end = self._start, at
        self._start = None
        self.plate.update()
        if min(abs(end.x() - start.x()), abs(end.y() - start.y())) < DRAG_PX:
            self.plate.document.message.emit("Drag over the place of the panel’s face, corner to corner.", "info")
            return
        document, side = self.plate.document, self.plate.view.side
        (ah, av), (bh, bv) = self._in_view(start, end)
        middle = (start + end) / 2
        x, y = self.plate.extent.to_mm(middle.x(), middle.y())
        section_id = section_at(document.plan, side, x, y) or ""
        h, v, _ = PLANES[side]
        if section_id:
            place = edits.skin_place(section_of(document.plan, section_id), side, (ah + bh) / 2, (av + bv) / 2)
        else:
            flat = [0.0, 0.0, 0.0]
            flat[h], flat[v] = (ah + bh) / 2, (av + bv) / 2
            place = (flat[0], flat[1], flat[2])
        panel_id = edits.fresh_ids(document.plan, f"{section_id or 'free'}.panel")[0]
        number = len(document.plan.panels) + 1
        panel = Panel(
            id=panel_id, name=f"Panel {number}", section=section_id, side=side, at=place,
            width_mm=round(abs(bh - ah), 2), height_mm=round(abs(bv - av), 2),
        )  # fmt: skip
        if document.edit("Add a panel", lambda plan: edits.add_panel(plan, panel)):
            document.select([panel_id])

    def paint(self, painter: QPainter) -> None:
        if self._start is None:
            return
        painter.setPen(QPen(self.plate.palette_.colour("fibre"), 1.4, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(self._start, self._end).normalized())
        (ah, av), (bh, bv) = self._in_view(self._start, self._end)
        self.plate.paint_tag(painter, self._end + QPointF(12, -12), f"{abs(bh - ah):.1f} × {abs(bv - av):.1f} mm")
