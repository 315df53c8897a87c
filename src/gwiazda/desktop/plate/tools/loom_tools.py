"""Tools for looms: passages from section to section, hubs."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.assess.view_index import section_at
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import PLANES, from_sheet
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Plan, Point
from gwiazda.desktop.plate.tools.tool import DRAG_PX, DragTool, Tool, rounded


class PassageTool(DragTool):
    """A drag from one section into another makes a passage between them."""

    id = "passage"

    def _section(self, at: QPointF) -> str:
        x, y = self.plate.extent.to_mm(at.x(), at.y())
        return section_at(self.plate.document.plan, self.plate.view.side, x, y) or ""

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._start is None:
            return
        start, self._start = self._start, None
        self.plate.update()
        document = self.plate.document
        a, b = self._section(start), self._section(at)
        if (at - start).manhattanLength() < DRAG_PX or a == b or not (a or b):
            document.message.emit("Drag from inside one section into another one, or out of the kit.", "info")
            return
        if not a:
            a, b = b, a
        self._make(start, at, a, b)

    def _make(self, start: QPointF, end: QPointF, a: str, b: str) -> None:
        place = self._place(start, end, a, b)
        made: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, new = edits.add_passage(plan, a, b, place)
            made.append(new)
            return plan

        if self.plate.document.edit("Add a passage", change):
            self.plate.document.select(made)

    def _place(self, start: QPointF, end: QPointF, a: str, b: str) -> Point:
        """Where the drag crosses from one to the other, at the depth that both share."""
        from gwiazda.core.plan.edits.loom import between

        plan, side = self.plate.document.plan, self.plate.view.side
        first = self._section(start)
        low, high = 0.0, 1.0
        for _ in range(14):
            middle = (low + high) / 2
            if self._section(start + (end - start) * middle) == first:
                low = middle
            else:
                high = middle
        cross = start + (end - start) * low
        h, v, _ = PLANES[side]
        here = section_of(plan, a)
        depth = between(here, section_of(plan, b)) if b else here.box.centre
        place = list(depth)
        place[h], place[v] = (rounded(k) for k in from_sheet(side, *self.plate.extent.to_mm(cross.x(), cross.y())))
        return (place[0], place[1], place[2])

    def paint(self, painter: QPainter) -> None:
        if self._start is None:
            return
        painter.setPen(QPen(self.plate.palette_.colour("wire_plus"), 2))
        painter.drawLine(self._start, self._end)
        plan = self.plate.document.plan
        names = [
            section_of(plan, i).name if i else "outside" for i in (self._section(self._start), self._section(self._end))
        ]
        self.plate.paint_tag(painter, self._end + QPointF(12, -12), " to ".join(names))


class StandTool(PassageTool):
    """A drag from the model to its base sets a tube between them: its ends are where the drag begins and ends."""

    id = "stand"

    def _make(self, start: QPointF, end: QPointF, a: str, b: str) -> None:
        document = self.plate.document
        if not b:
            document.message.emit(
                "Drag from the model to the base it stands on; draw the base as a section first.", "info"
            )
            return
        first = self._section(start)
        ends = [self._at(point, section) for point, section in ((start, a), (end, b))]
        if first != a:
            ends.reverse()
        made: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, new = edits.add_stand(plan, a, b, ends[0], ends[1])
            made.append(new)
            return plan

        if document.edit("Add a stand", change):
            document.select(made)

    def _at(self, point: QPointF, section_id: str) -> Point:
        """A place of the sheet, midway through a section along the line of sight."""
        side = self.plate.view.side
        h, v, _ = PLANES[side]
        place = list(section_of(self.plate.document.plan, section_id).box.centre)
        place[h], place[v] = (rounded(k) for k in from_sheet(side, *self.plate.extent.to_mm(point.x(), point.y())))
        return (place[0], place[1], place[2])


class HubTool(Tool):
    """A click inside a section puts a hub there."""

    id = "hub"

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        section = self._section_under(at, "Hub")
        if section is None:
            return
        document, side = self.plate.document, self.plate.view.side
        h, v, _ = PLANES[side]
        place = list(section.box.centre)
        u, w = from_sheet(side, *self.plate.extent.to_mm(at.x(), at.y()))
        for axis, value in ((h, u), (v, w)):
            low, size = section.box.at[axis], section.box.size[axis]
            place[axis] = rounded(min(max(value, low), low + size))
        made: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, new = edits.add_hub(plan, section.id, at=(place[0], place[1], place[2]))
            made.append(new)
            return plan

        if document.edit("Add a hub", change):
            document.select(made)
