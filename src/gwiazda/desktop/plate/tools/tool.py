"""The tools of the plate. A tool turns mouse and keys into edits; the plate keeps the view and draws."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.assess.view_index import hit, inside_rect, proud_of_skin, section_at
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan.frame import NORMALS, PLANES, SHEET, from_sheet
from gwiazda.core.plan.lookup import find, section_of, whole_light
from gwiazda.core.plan.model import Lamp, Opening, Plan, Section, copy_unchecked
from gwiazda.core.quantities import counted

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

DRAG_PX = 4
ROUND_MM = 0.1


def rounded(value: float) -> float:
    return round(round(value / ROUND_MM) * ROUND_MM, 6)


class Tool:
    """A way of using the plate."""

    id = ""
    cursor = Qt.CursorShape.CrossCursor
    follows = False  # whether it hears of the pointer with no button down
    drags = False  # whether its work lies between where the button goes down and where it comes up

    def __init__(self, plate: Plate) -> None:
        self.plate = plate

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None: ...

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None: ...

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None: ...

    def paint(self, painter: QPainter) -> None: ...

    def cancel(self) -> None: ...

    def begin(self) -> None:
        """It was just taken in hand."""

    def leave_view(self) -> None:
        """Another view is about to be shown."""
        self.cancel()

    def key_press(self, key: int) -> bool:
        """Whether the tool took the key."""
        return False

    def wants(self, key: int) -> bool:
        """Whether a key that is a shortcut of the window elsewhere is the tool's now."""
        return False

    def _in_view(self, a: QPointF, b: QPointF) -> tuple[tuple[float, float], tuple[float, float]]:
        """Two places of the plate in the view's model coordinates, in tenths of a mm."""
        side, window = self.plate.view.side, self.plate.extent
        (ah, av), (bh, bv) = (from_sheet(side, *window.to_mm(p.x(), p.y())) for p in (a, b))
        return (rounded(ah), rounded(av)), (rounded(bh), rounded(bv))

    def _px(self, point: tuple[float, float]) -> QPointF:
        """A place in the view's model coordinates on the plate."""
        a, b, _ = SHEET[self.plate.view.side]
        return self.plate.extent.to_px(a * point[0], b * point[1])

    def _section_under(self, at: QPointF, what: str) -> Section | None:
        """The section at a place, or a sentence that there is none."""
        plate = self.plate
        x, y = plate.extent.to_mm(at.x(), at.y())
        section_id = section_at(plate.document.plan, plate.view.side, x, y)
        if section_id is None:
            plate.document.message.emit(
                "There is no section here. Draw one with B first, then click inside its outline.",
                "stop",
            )
            return None
        return section_of(plate.document.plan, section_id)


class PickTool(Tool):
    id = "pick"
    cursor = Qt.CursorShape.ArrowCursor

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self._start: QPointF | None = None
        self._moving = False
        self._band: QRectF | None = None
        self._add = False
        self._part = ""  # of the light that was picked already: a click picks it
        self._plan: Plan | None = None

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        plate, document = self.plate, self.plate.document
        x, y = plate.extent.to_mm(at.x(), at.y())
        found = hit(document.catalogue, document.plan, plate.view.side, x, y, 5.0 / plate.extent.scale)
        self._part = ""
        owner = whole_light(document.plan, found) if found is not None else None
        if owner is not None and found not in document.selection:
            # A light is picked as one thing; a click on one that is picked already picks the part.
            self._part = str(found) if document.selection == (owner.id,) else ""
            found = owner.id
        self._add = bool(modifiers & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier))
        self._start, self._moving, self._band = at, False, None
        is_section = found is not None and isinstance(find(document.plan, found), Section)
        if found is None or (is_section and found not in document.selection):
            # A section is picked by a click; a drag that starts on it draws a band over what it holds.
            self._band = QRectF(at, at)
            return
        if self._add:
            left = [i for i in document.selection if i != found]
            document.select(left if found in document.selection else [*document.selection, found])
        elif found not in document.selection:
            document.select([found])

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        from gwiazda.core.plan import edits

        if self._start is None:
            return
        if self._band is not None:
            self._band = QRectF(self._start, at).normalized()
            self.plate.update()
            return
        delta = at - self._start
        if not self._moving and delta.manhattanLength() < DRAG_PX:
            return
        document, side = self.plate.document, self.plate.view.side
        if not document.selection:
            return
        if not self._moving:
            self._moving, self._plan = True, document.plan
        du, dv = delta.x() / self.plate.extent.scale, delta.y() / self.plate.extent.scale
        if modifiers & Qt.KeyboardModifier.ShiftModifier:
            du, dv = (du, 0.0) if abs(du) > abs(dv) else (0.0, dv)
        assert self._plan is not None
        document.preview(edits.move(self._plan, document.selection, sheet_delta(side, du, dv)))

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        plate, document = self.plate, self.plate.document
        if self._band is not None and self._start is not None:
            band, self._band = self._band, None
            if band.width() < DRAG_PX and band.height() < DRAG_PX:
                x, y = plate.extent.to_mm(at.x(), at.y())
                section = section_at(document.plan, plate.view.side, x, y)
                document.select(
                    [*document.selection, section] if section and self._add else ([section] if section else [])
                )
            else:
                a, b = (
                    plate.extent.to_mm(band.left(), band.top()),
                    plate.extent.to_mm(band.right(), band.bottom()),
                )
                inside = inside_rect(
                    document.catalogue,
                    document.plan,
                    plate.view.side,
                    (min(a[0], b[0]), min(a[1], b[1]), max(a[0], b[0]), max(a[1], b[1])),
                )
                document.select([*document.selection, *inside] if self._add else inside)
            plate.update()
        elif self._part and not self._moving:
            document.select([self._part])
        elif self._moving:
            count = len(document.selection)
            document.commit("Move" if count == 1 else f"Move {count} items")
        self._start, self._moving, self._plan = None, False, None

    def paint(self, painter: QPainter) -> None:
        if self._band is not None and (self._band.width() > DRAG_PX or self._band.height() > DRAG_PX):
            palette = self.plate.palette_
            painter.setPen(QPen(palette.colour("choice"), 1, Qt.PenStyle.DashLine))
            painter.setBrush(palette.colour("choice", 30))
            painter.drawRect(self._band)

    def cancel(self) -> None:
        if self._moving:
            self.plate.document.revert()
        self._start, self._moving, self._band, self._plan = None, False, None, None
        self.plate.update()


def sheet_delta(side: str, du: float, dv: float) -> tuple[float, float, float]:
    """A shift on the sheet as a shift of the model, in tenths of a mm."""
    h, v, _ = PLANES[side]  # type: ignore[index]
    a, b, _ = SHEET[side]  # type: ignore[index]
    delta = [0.0, 0.0, 0.0]
    delta[h], delta[v] = a * rounded(du), b * rounded(dv)
    return delta[0], delta[1], delta[2]


class LampTool(Tool):
    id = "lamp"
    mount = "inside"

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        from gwiazda.core.plan import edits

        plate, document = self.plate, self.plate.document
        section = self._section_under(at, "Lamp")
        if section is None:
            return
        side = plate.view.side
        h, v, _ = PLANES[side]
        u, w = from_sheet(side, *plate.extent.to_mm(at.x(), at.y()))
        place = list(section.box.centre)
        for axis, value in ((h, u), (v, w)):
            low, size = section.box.at[axis], section.box.size[axis]
            place[axis] = rounded(min(max(value, low), low + size))
        lamp = self.template(section, (place[0], place[1], place[2]))
        if document.edit("Add lamp", lambda plan: edits.add_lamp(plan, lamp)):
            document.select([lamp.id])

    def template(self, section: Section, at: tuple[float, float, float]) -> Lamp:
        """A lamp like the one last picked, or a warm white chip."""
        from gwiazda.core.plan import edits

        model = next((i for i in self.plate.document.selected_items() if isinstance(i, Lamp)), None)
        new_id = edits.fresh_ids(self.plate.document.plan, f"{section.id}.lamp")[0]
        if model is not None and model.mount == "inside":
            return copy_unchecked(model, id=new_id, at=at, channel="")
        return Lamp(id=new_id, part="chip-1206-warm-white", at=at)


class PointLightTool(Tool):
    id = "point"

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        from gwiazda.core.plan import edits

        plate, document = self.plate, self.plate.document
        side = plate.view.side
        x, y = plate.extent.to_mm(at.x(), at.y())
        section_id = section_at(document.plan, side, x, y)
        new_id = edits.fresh_ids(document.plan, f"{section_id or 'point'}.light")[0]
        lamp = Lamp(
            id=new_id, part="chip-0603-warm-white", at=proud_of_skin(document.plan, side, x, y), mount="outside", frosted_cap=True,
            aim=(float(NORMALS[side][0]), float(NORMALS[side][1]), float(NORMALS[side][2])),
        )  # fmt: skip
        new: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, light_id = edits.gather_light(edits.add_lamp(plan, lamp), "other", "Light", [lamp.id], whole=True)
            new.append(light_id)
            return plan

        if document.edit("Add a lamp that is seen itself", change):
            document.select(new)


class WindowTool(Tool):
    id = "window"

    def template(self, section: Section) -> Opening:
        """Shape and size of the opening last picked; else a window as the real thing has them, at this scale."""
        from gwiazda.core.plan.real_windows import usual_window

        document = self.plate.document
        picked = next((i for i in document.selected_items() if isinstance(i, Opening)), None)
        return picked or usual_window(document.plan.kit, section, self.plate.view.side)

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        from gwiazda.core.plan import edits

        document, side = self.plate.document, self.plate.view.side
        section = self._section_under(at, "Window")
        if section is None:
            return
        u, w = from_sheet(side, *self.plate.extent.to_mm(at.x(), at.y()))
        try:
            opening = edits.window(document.plan, section, side, rounded(u), rounded(w), self.template(section))
        except GwiazdaError as error:
            document.message.emit(str(error), "stop")
            return
        if document.edit("Add window", lambda plan: edits.add_openings(plan, (opening,))):
            document.select([opening.id])


class RowTool(WindowTool):
    drags = True
    id = "row"

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self._start: QPointF | None = None
        self._end = QPointF()
        self._section: Section | None = None
        self._more = 0
        self._template: Opening | None = None

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        self._section = self._section_under(at, "Row of windows")
        if self._section is not None:
            self._start, self._end, self._more, self._template = at, at, 0, self.template(self._section)

    def _ends(self) -> tuple[tuple[float, float], tuple[float, float]]:
        assert self._start is not None
        return self._in_view(self._start, self._end)

    def count(self) -> int:
        """One window about every two widths, and what Up and Down added."""
        (ah, av), (bh, bv) = self._ends()
        length = math.hypot(bh - ah, bv - av)
        assert self._template is not None
        return max(1, min(1000, round(length / (2.0 * self._template.width_mm)) + 1 + self._more))

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._start is not None:
            # A row runs level or upright unless Shift lets it slant.
            if not modifiers & Qt.KeyboardModifier.ShiftModifier:
                d = at - self._start
                at = QPointF(at.x(), self._start.y()) if abs(d.x()) >= abs(d.y()) else QPointF(self._start.x(), at.y())
            self._end = at
            self.plate.update()

    def key_press(self, key: int) -> bool:
        if self._start is None or key not in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            return False
        self._more += 1 if key == Qt.Key.Key_Up else -1
        self.plate.update()
        return True

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        from gwiazda.core.plan import edits

        if self._start is None or self._section is None:
            return
        self.move(at, modifiers)
        document, side, section, count = (
            self.plate.document,
            self.plate.view.side,
            self._section,
            self.count(),
        )
        start, end = self._ends()
        template = self._template
        self._start = None
        new: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, ids = edits.add_row(plan, section, side, start, end, count, template)
            new.extend(ids)
            return plan

        if document.edit(f"Add a row of {count} windows", change):
            document.select(new)
        self.plate.update()

    def paint(self, painter: QPainter) -> None:
        if self._start is None or self._template is None:
            return
        window, n, pane = self.plate.extent, self.count(), self._template
        w, h = pane.width_mm * window.scale, pane.height_mm * window.scale
        painter.setPen(QPen(self.plate.palette_.colour("choice"), 1.2))
        painter.setBrush(self.plate.palette_.colour("pane", 160))
        for i in range(n):
            t = i / (n - 1) if n > 1 else 0.0
            centre = self._start + (self._end - self._start) * t
            painter.drawRect(QRectF(centre.x() - w / 2, centre.y() - h / 2, w, h))
        self.plate.paint_tag(painter, self._end + QPointF(12, -12), self.words())

    def words(self) -> str:
        """What is said at the end of the row while it is dragged: how many, how large, and what that is on the real one."""
        from gwiazda.core.plan.real_windows import real_words

        assert self._template is not None
        wide, high = self._template.width_mm, self._template.height_mm
        real = real_words(wide, high, self.plate.document.plan.kit.scale)
        return f"{counted(self.count(), 'window')} of {wide:g} × {high:g} mm, {real}"

    def cancel(self) -> None:
        self._start = None
        self.plate.update()


class DragTool(Tool):
    """A tool whose work lies between where the button goes down and where it comes up."""

    drags = True

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self._start: QPointF | None = None
        self._end = QPointF()

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        self._start = self._end = at

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self._start is not None:
            self._end = at
            self.plate.update()

    def cancel(self) -> None:
        self._start = None
        self.plate.update()


class SectionTool(DragTool):
    id = "section"

    def _corners(self) -> tuple[tuple[float, float], tuple[float, float]]:
        assert self._start is not None
        return self._in_view(self._start, self._end)

    def release(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        from gwiazda.core.plan import edits

        if self._start is None:
            return
        self._end = at
        a, b = self._corners()
        self._start = None
        document, side = self.plate.document, self.plate.view.side
        depth = max(3.0, rounded(min(abs(b[0] - a[0]), abs(b[1] - a[1])) * 1.5))
        new: list[str] = []

        def change(plan: Plan) -> Plan:
            section = edits.box_section(plan, side, a, b, depth)
            new.append(section.id)
            return edits.add_section(plan, section)

        if document.edit("Add section", change):
            document.select(new)
            document.message.emit(f"A section {depth:g} mm deep. Type its real inner size in the panel.", "info")
        self.plate.update()

    def paint(self, painter: QPainter) -> None:
        if self._start is None:
            return
        (ah, av), (bh, bv) = self._corners()
        painter.setPen(QPen(self.plate.palette_.colour("choice"), 1.5))
        painter.setBrush(self.plate.palette_.colour("choice", 30))
        painter.drawRect(QRectF(self._start, self._end).normalized())
        self.plate.paint_tag(painter, self._end + QPointF(12, 12), f"{abs(bh - ah):.1f} × {abs(bv - av):.1f} mm")
