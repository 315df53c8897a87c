"""The tool for what holds lamps: drawn over them, or an edge of one dragged to another size."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.assess.carriers.propose import propose
from gwiazda.core.assess.view_index import carrier_shapes
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import PLANES, SHEET
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Carrier, Plan, copy_unchecked
from gwiazda.desktop.plate.tools.tool import DRAG_PX, Tool, rounded

EDGE_PX = 6.0
LEAST_MM = 0.5


class CarrierTool(Tool):
    """A drag over a section's lamps cuts a carrier to what it covers; an edge or corner of a carrier is dragged to its new place; a click
    proposes one for all lamps."""

    drags = True
    id = "carrier"

    def __init__(self, plate) -> None:  # type: ignore[no-untyped-def]
        super().__init__(plate)
        self._start: QPointF | None = None
        self._end = QPointF()
        self._held: tuple[str, int, int] | None = None  # a carrier, and which of its edges across and down
        self._plan: Plan | None = None

    def _edge_under(self, at: QPointF) -> tuple[str, int, int] | None:
        """The carrier whose edge lies under the pointer, the picked one first: −1 left or upper, 1 right or lower, 0 neither."""
        plate = self.plate
        shapes = carrier_shapes(plate.document.plan.carriers, plate.view.side)
        order = sorted(range(len(shapes.ids)), key=lambda i: shapes.ids[i] not in plate.document.selection)
        for i in order:
            left, top, right, bottom = shapes.rects[i]
            a, b = plate.extent.to_px(left, top), plate.extent.to_px(right, bottom)
            rect = QRectF(a, b).normalized()
            if not rect.adjusted(-EDGE_PX, -EDGE_PX, EDGE_PX, EDGE_PX).contains(at):
                continue
            across = -1 if abs(at.x() - rect.left()) <= EDGE_PX else (1 if abs(at.x() - rect.right()) <= EDGE_PX else 0)
            down = -1 if abs(at.y() - rect.top()) <= EDGE_PX else (1 if abs(at.y() - rect.bottom()) <= EDGE_PX else 0)
            if across or down:
                return shapes.ids[i], across, down
        return None

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        document = self.plate.document
        self._held = self._edge_under(at)
        self._start = self._end = at
        if self._held is not None:
            self._plan = document.plan
            document.select([self._held[0]])

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._start is None:
            return
        self._end = at
        if self._held is not None and self._plan is not None:
            self.plate.document.preview(self._sized(self._plan, at))
        self.plate.update()

    def _sized(self, plan: Plan, at: QPointF) -> Plan:
        """The plan with the held edges where the pointer is; the others stay."""
        assert self._held is not None and self._start is not None
        item_id, across, down = self._held
        c = find(plan, item_id)
        if not isinstance(c, Carrier):
            return plan
        h, v, _ = PLANES[self.plate.view.side]
        a, b, _ = SHEET[self.plate.view.side]
        delta = (at - self._start) / self.plate.extent.scale
        size, place = list(c.size), list(c.at)
        for axis, turn, edge, shift in ((h, a, across, delta.x()), (v, b, down, delta.y())):
            if edge:
                grown = max(rounded(size[axis] + edge * shift), LEAST_MM)
                place[axis] = round(place[axis] + turn * edge * (grown - size[axis]) / 2, 4)
                size[axis] = grown
        return edits.set_fields(plan, [item_id], size=tuple(size), at=tuple(place))

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._start is None:
            return
        start, self._start, self._end = self._start, None, at
        document = self.plate.document
        if self._held is not None:
            self._held = None
            document.commit("Change the carrier's size")
            self.plate.update()
            return
        section = self._section_under(start, "Carrier")
        if section is None:
            return
        try:
            carrier = propose(document.catalogue, document.plan, section.id)
        except GwiazdaError as error:
            document.message_stop(str(error))
            return
        if (at - start).manhattanLength() >= DRAG_PX:
            carrier = self._drawn(carrier, start, at)
        if document.edit("Add a carrier", lambda plan: edits.add_carrier(plan, carrier)):
            document.select([carrier.id])
        self.plate.update()

    def _drawn(self, carrier: Carrier, start: QPointF, end: QPointF) -> Carrier:
        """As proposed, but as large in this view as what was drawn, thickness apart."""
        (ah, av), (bh, bv) = self._in_view(start, end)
        h, v, _ = PLANES[self.plate.view.side]
        size, place = list(carrier.size), list(carrier.at)
        flat = carrier.form in ("strip", "firewall")
        thin = min(range(3), key=lambda k: carrier.size[k]) if flat else -1
        for axis, low, high in ((h, min(ah, bh), max(ah, bh)), (v, min(av, bv), max(av, bv))):
            if axis != thin and high - low >= LEAST_MM:
                size[axis], place[axis] = round(high - low, 3), round((low + high) / 2, 3)
        return copy_unchecked(carrier, size=(size[0], size[1], size[2]), at=(place[0], place[1], place[2]))

    def paint(self, painter: QPainter) -> None:
        if self._start is None or self._held is not None:
            return
        rect = QRectF(self._start, self._end).normalized()
        painter.setPen(QPen(self.plate.palette_.colour("choice"), 1.5))
        painter.setBrush(self.plate.palette_.colour("carrier", 80))
        painter.drawRect(rect)
        wide, high = rect.width() / self.plate.extent.scale, rect.height() / self.plate.extent.scale
        self.plate.paint_tag(painter, self._end + QPointF(12, 12), f"{wide:.1f} × {high:.1f} mm")

    def cancel(self) -> None:
        if self._held is not None and self._start is not None:
            self.plate.document.revert()
        self._start, self._held, self._plan = None, None, None
        self.plate.update()
