"""The tool that leads fibres and wires by hand."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.assess.fibres.ways import places_of
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import PLANES, from_sheet, to_sheet
from gwiazda.core.plan.lookup import dot_of, lamps_table
from gwiazda.core.plan.model import Dot, Lamp, Plan, Point
from gwiazda.desktop.plate.tools.tool import Tool, rounded

GRAB_PX = 7.0
Way = tuple[Point, ...]


def way_by_hand(plan: Plan, item: Dot | Lamp) -> Way:
    """The places that a dot's fibre, or a lamp's leads, are led through by hand."""
    if isinstance(item, Dot):
        return dot_of(plan, item.id).way
    return next((x.way for x in plan.leads if x.lamp == item.id and x.way), ())


def led(plan: Plan, item: Dot | Lamp, way: Way) -> Plan:
    """The plan with a fibre, or both leads of a lamp, led through these places."""
    if isinstance(item, Dot):
        return edits.set_fields(plan, [item.id], way=way)
    return edits.set_lead(plan, [item.id], way=way)


class WayTool(Tool):
    """The way of the picked fibres, or of the leads of picked lamps, led by hand.

    A click leads it through there, on a passage by that one; a drag moves a place of it, Backspace takes the last one out. The depth of a new place is
    half-way between those it comes between.
    """

    id = "way"

    def __init__(self, plate) -> None:  # type: ignore[no-untyped-def]
        super().__init__(plate)
        self._held: int | None = None
        self._plan: Plan | None = None

    def items(self) -> list[Dot | Lamp]:
        """Dots on a lamp; where there is none, lamps whose leads have a way."""
        picked = self.plate.document.selected_items()
        dots: list[Dot | Lamp] = [i for i in picked if isinstance(i, Dot) and i.lamp]
        runs = self.plate.document.assessment.loom.runs
        return dots or [
            i for i in picked if isinstance(i, Lamp) and (f"{i.id}.plus" in runs or f"{i.id}.minus" in runs)
        ]

    def _at(self, point: Point) -> QPointF:
        x, y, _ = to_sheet(self.plate.view.side, point)
        return self.plate.extent.to_px(x, y)

    def _ends(self, plan: Plan, item: Dot | Lamp) -> tuple[Point, Point]:
        """Where a way by hand begins, and where it goes on to."""
        if isinstance(item, Dot):
            return lamps_table(plan.lamps)[item.lamp].at, item.at
        runs = self.plate.document.assessment.loom.runs
        run = runs.get(f"{item.id}.plus") or runs[f"{item.id}.minus"]
        on = len(way_by_hand(plan, item)) + 1
        return item.at, run.points[min(on, len(run.points) - 1)]

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        document = self.plate.document
        items = self.items()
        if not items:
            document.message.emit(
                "Pick dots on a lamp first, or lamps in a section with passages; then click where their fibres or wires are to run.",
                "info",
            )
            return
        first = items[0]
        way = way_by_hand(document.plan, first)
        near = [((self._at(p) - at).manhattanLength(), k) for k, p in enumerate(way)]
        self._plan = document.plan
        passage = self._passage_at(at)
        if passage and isinstance(first, Lamp):
            self._by_way_of([i.id for i in items], passage)
            return
        if near and min(near)[0] <= GRAB_PX:
            self._held = min(near)[1]
            return
        self._held = self._nearest_gap(first, way, at)
        self._place(at, insert=True)

    def _passage_at(self, at: QPointF) -> str:
        """The passage under a place of the plate, or ""."""
        near = [((self._at(p.at) - at).manhattanLength(), p.id) for p in self.plate.document.plan.passages]
        return min(near)[1] if near and min(near)[0] <= GRAB_PX else ""

    def _by_way_of(self, lamps: list[str], passage: str) -> None:
        """Send the leads of lamps by a passage, or let the loom choose again where they are sent by it already."""
        from gwiazda.core.assess.looms.detour import by_way_of

        document = self.plate.document
        assessment = document.assessment
        sent = {(x.lamp, x.end) for x in document.plan.leads if passage in x.through}

        def change(plan: Plan) -> Plan:
            for i in lamps:
                for end in ("plus", "minus"):
                    if (i, end) in sent:
                        plan = edits.set_lead(plan, [i], (end,), through=())
                    elif f"{i}.{end}" in assessment.loom.runs:
                        plan = edits.set_lead(
                            plan, [i], (end,), through=by_way_of(plan, assessment, f"{i}.{end}", passage)
                        )
            return plan

        document.edit("Send leads by a passage", change)

    def _nearest_gap(self, item: Dot | Lamp, way: Way, at: QPointF) -> int:
        """The place in the way at which a new one belongs."""
        plan = self.plate.document.plan
        if isinstance(item, Dot):
            fibre = self.plate.document.catalogue.fibres.get(item.fibre)
            whole = places_of(item, lamps_table(plan.lamps)[item.lamp], fibre.diameter_mm if fibre else 0.5)[1:-1]
        else:
            start, end = self._ends(plan, item)
            whole = (start, *way, end)
        px = [self._at(p) for p in whole]
        gaps = [(_away(px[k], px[k + 1], at), k) for k in range(len(px) - 1)] or [(0.0, 0)]
        return min(gaps)[1]

    def _place(self, at: QPointF, insert: bool = False) -> None:
        assert self._plan is not None and self._held is not None
        document, side = self.plate.document, self.plate.view.side
        h, v, d = PLANES[side]
        u, w = (rounded(k) for k in from_sheet(side, *self.plate.extent.to_mm(at.x(), at.y())))
        plan, held = self._plan, self._held
        for item in self.items():
            way = list(way_by_hand(plan, item))
            if insert:
                start, end = self._ends(plan, item)
                before = way[held - 1] if 0 < held <= len(way) else start
                after = way[held] if held < len(way) else end
                place = [(a + b) / 2 for a, b in zip(before, after, strict=True)]
                place[h], place[v] = u, w
                place[d] = round(place[d], 2)
                way.insert(min(held, len(way)), (place[0], place[1], place[2]))
            elif held < len(way):
                old = list(way[held])
                old[h], old[v] = u, w
                way[held] = (old[0], old[1], old[2])
            plan = led(plan, item, tuple(way))
        if insert:
            self._plan = plan
        document.preview(plan, calm=True)

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._held is not None:
            self._place(at)

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._held is not None:
            self._held, self._plan = None, None
            self.plate.document.commit("Lead the fibre" if isinstance(self.items()[0], Dot) else "Lead the wires")

    def key_press(self, key: int) -> bool:
        plan = self.plate.document.plan
        items = [i for i in self.items() if way_by_hand(plan, i)]
        if key != Qt.Key.Key_Backspace or not items:
            return False

        def change(plan: Plan) -> Plan:
            for i in items:
                plan = led(plan, i, way_by_hand(plan, i)[:-1])
            return plan

        self.plate.document.edit("Take a place out of the way", change)
        return True

    def cancel(self) -> None:
        if self._held is not None:
            self.plate.document.revert()
        self._held, self._plan = None, None
        self.plate.update()

    def paint(self, painter: QPainter) -> None:
        items = self.items()
        if not items:
            return
        painter.setPen(QPen(self.plate.palette_.colour("ink"), 1))
        painter.setBrush(self.plate.palette_.colour("fibre" if isinstance(items[0], Dot) else "wire_plus"))
        for point in way_by_hand(self.plate.document.plan, items[0]):
            c = self._at(point)
            painter.drawRect(QRectF(c.x() - 3.5, c.y() - 3.5, 7, 7))


def _away(a: QPointF, b: QPointF, p: QPointF) -> float:
    """How far a place is from a stretch (px)."""
    d, q = b - a, p - a
    length = d.x() ** 2 + d.y() ** 2
    t = min(max((q.x() * d.x() + q.y() * d.y()) / length, 0.0), 1.0) if length > 0 else 0.0
    e = q - d * t
    return math.hypot(e.x(), e.y())
