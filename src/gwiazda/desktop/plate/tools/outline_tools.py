"""Tools that draw lines corner by corner: sections, openings of any shape, rows along a curve."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import patterns
from gwiazda.core.plan.frame import from_sheet
from gwiazda.core.plan.model import Fitting, Opening, Plan
from gwiazda.core.plan.outline import outlines, shapes
from gwiazda.core.quantities import parse_length_mm
from gwiazda.desktop.plate.tools.tool import Tool, rounded
from gwiazda.desktop.widgets.fields import ValueField

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

SNAP_PX = 7.0


class OutlineTool(Tool):
    """Corners by clicks. Ctrl puts a point an arc runs through; a digit starts the length of a straight run."""

    follows = True

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self.points: list[tuple[float, float]] = []  # the view's model coordinates
        self._steps: list[int] = []  # how many of them each click put there
        self._via: tuple[float, float] | None = None
        self._at: QPointF | None = None
        self.field: ValueField | None = None

    # -- places ------------------------------------------------------------------------------------------

    def _snapped(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[float, float]:
        """To corners of other outlines, level or upright with the last corner or the first, then to straight runs.

        Shift switches it off.
        """
        side, window = self.plate.view.side, self.plate.extent
        u, w = from_sheet(side, *window.to_mm(at.x(), at.y()))
        if modifiers & Qt.KeyboardModifier.ShiftModifier:
            return rounded(u), rounded(w)
        for section in self.plate.document.plan.sections:
            for outline in section.drawn(side):
                for corner in outline.points:
                    if (self._px(corner) - at).manhattanLength() < SNAP_PX:
                        return corner
        if not self.points:
            return rounded(u), rounded(w)
        level = upright = False
        for corner in (self.points[0], self.points[-1]):
            last = self._px(corner)
            if abs(last.x() - at.x()) < SNAP_PX:
                u, upright = corner[0], True
            if abs(last.y() - at.y()) < SNAP_PX:
                w, level = corner[1], True
        if level or upright:
            return rounded(u), rounded(w)
        u, w = outlines.straight_run(self.points[-1], (u, w))
        return rounded(u), rounded(w)

    # -- mouse and keys ----------------------------------------------------------------------------------

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        self._drop_field()
        if len(self.points) >= 3 and (self._px(self.points[0]) - at).manhattanLength() < SNAP_PX + 3:
            if self._via is not None:
                self._add(self.points[0])
                self.points.pop()
                self._steps[-1] -= 1
            self.close()
            return
        point = self._snapped(at, modifiers)
        self._at = at
        if modifiers & Qt.KeyboardModifier.ControlModifier and self.points:
            side = self.plate.view.side
            u, w = from_sheet(side, *self.plate.extent.to_mm(at.x(), at.y()))
            self._via = (rounded(u), rounded(w))
        else:
            self._add(point)
        self.plate.update()

    def _add(self, point: tuple[float, float]) -> None:
        """A corner, or the end of an arc whose middle was set before."""
        if self.points and point == self.points[-1]:
            return
        if self._via is not None and self.points:
            new = outlines.arc(self.points[-1], self._via, point)
            self._via = None
        else:
            new = (point,)
        self.points += [(rounded(u), rounded(w)) if len(new) == 1 else (u, w) for u, w in new]
        self._steps.append(len(new))

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        self._at = at
        self.plate.update()

    def wants(self, key: int) -> bool:
        # The length of a run is typed while it is drawn, and M mirrors.
        return bool(self.points) and (Qt.Key.Key_0 <= key <= Qt.Key.Key_9 or key == Qt.Key.Key_M)

    def key_press(self, key: int) -> bool:
        if not self.points:
            return False
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.close()
        elif key == Qt.Key.Key_Backspace:
            self.back()
        elif key == Qt.Key.Key_M:
            self.mirror()
        elif Qt.Key.Key_0 <= key <= Qt.Key.Key_9:
            self._ask_length(chr(key))
        else:
            return False
        return True

    def back(self) -> None:
        """Take the last corner or arc back."""
        if self._via is not None:
            self._via = None
        elif self._steps:
            del self.points[-self._steps.pop() :]
        self.plate.update()

    def mirror(self) -> None:
        """Close half an outline by its image across the line between its ends."""
        try:
            whole = outlines.mirrored_half(self.points)
        except GwiazdaError as error:
            self.plate.document.message_stop(str(error))
            return
        self._steps.append(len(whole) - len(self.points))
        self.points = list(whole)
        self.plate.update()

    def _ask_length(self, first: str) -> None:
        """A field for the length of the run towards the pointer."""
        self._drop_field()
        plate = self.plate
        at = self._at or self._px(self.points[-1])
        self.field = ValueField("Length of this run", lambda t: parse_length_mm(t, "Run"), self._take_length, plate)
        self.field.set_hint("42 mm towards the pointer, from the last corner")
        self.field.refused.connect(plate.document.message_stop)
        self.field.setFixedWidth(110)
        self.field.move(int(min(at.x() + 14, plate.width() - 120)), int(min(at.y() + 14, plate.height() - 40)))
        self.field.setText(first)
        self.field.setModified(True)
        self.field.away = self._leave_field
        self.field.show()
        self.field.setFocus()

    def _take_length(self, value: object) -> None:
        length = float(value)  # type: ignore[arg-type]
        start = self.points[-1]
        toward = self._snapped(self._at, Qt.KeyboardModifier.NoModifier) if self._at is not None else start
        if toward == start or length <= 0:
            self.plate.document.message_stop("Point away from the last corner first, then type the length.")
            return
        angle = math.degrees(math.atan2(toward[1] - start[1], toward[0] - start[0]))
        self._add(outlines.run_of(start, angle, length))
        self._drop_field()
        self.plate.setFocus()
        self.plate.update()

    def _leave_field(self) -> None:
        """Escape in the field puts it away; what is drawn stays."""
        self._drop_field()
        self.plate.setFocus()

    def _drop_field(self) -> None:
        field, self.field = self.field, None  # first: a field that is hidden loses the focus, and comes by here
        if field is not None:
            field.blockSignals(True)
            field.hide()
            field.deleteLater()

    def close(self) -> None:
        """What the outline becomes."""

    def cancel(self) -> None:
        self._drop_field()
        self.points, self._steps, self._via = [], [], None
        self.plate.update()

    # -- painting ----------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        if not self.points:
            return
        palette = self.plate.palette_
        painter.setPen(QPen(palette.colour("choice"), 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF([self._px(p) for p in self.points]))
        self._paint_next(painter)
        painter.setPen(QPen(palette.colour("choice"), 1.8))
        painter.setBrush(palette.colour("card"))
        corner = 0
        for i, count in enumerate(self._steps):
            corner += count
            painter.drawEllipse(self._px(self.points[corner - 1]), 4 if i else 6, 4 if i else 6)
        where = shapes.crossing(self.points)
        if where is not None:
            painter.setPen(QPen(palette.colour("stop"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(self._px(where), 9, 9)
            self.plate.paint_tag(painter, self._px(where) + QPointF(12, -26), "crosses itself here")

    def _paint_next(self, painter: QPainter) -> None:
        """The run, or the arc, from the last corner to the pointer, and how long it is."""
        if self._at is None:
            return
        end = self._snapped(self._at, Qt.KeyboardModifier.NoModifier)
        start = self.points[-1]
        if end == start:
            return
        painter.setPen(QPen(self.plate.palette_.colour("choice", 150), 1.4, Qt.PenStyle.DashLine))
        if self._via is not None:
            run = [start, *outlines.arc(start, self._via, end)]
            text = f"arc {outlines.length(run):.1f} mm"
        else:
            run = [start, end]
            angle = math.degrees(math.atan2(end[1] - start[1], end[0] - start[0]))
            text = f"{math.dist(start, end):.1f} mm · {(angle + 90) % 180 - 90:.0f}°"
        painter.drawPolyline(QPolygonF([self._px(p) for p in run]))
        self.plate.paint_tag(painter, self._at + QPointF(14, 10), text)


class TraceTool(OutlineTool):
    """An outline that becomes a section, or with F a fitting: a mast, a crane, solid and thin."""

    id = "trace"

    def wants(self, key: int) -> bool:
        return super().wants(key) or (len(self.points) >= 3 and key == Qt.Key.Key_F)

    def key_press(self, key: int) -> bool:
        if len(self.points) >= 3 and key == Qt.Key.Key_F:
            self.fit(tuple(self.points))
            return True
        return super().key_press(key)

    def fit(self, points: tuple[tuple[float, float], ...]) -> None:
        """Make a fitting of an outline."""
        document, side = self.plate.document, self.plate.view.side
        where = shapes.crossing(points)
        if where is not None:
            document.message_stop(
                f"This outline crosses itself at {where[0]:.1f}, {where[1]:.1f} mm. Take the last corners back with Backspace."
            )
            return
        new: list[Fitting] = []

        def change(plan: Plan) -> Plan:
            new.append(edits.fitting_from(plan, side, points))
            return edits.add_fitting(plan, new[-1])

        if document.edit("Make a fitting", change):
            self.cancel()
            document.select([new[-1].id])
            home = next((s.name for s in document.plan.sections if s.id == new[-1].section), "")
            document.message.emit(f"A fitting, {new[-1].thick_mm:g} mm thick{f', on {home}' if home else ''}.", "info")
        self.plate.update()

    def close(self) -> None:
        self.take(tuple(self.points))

    def take(self, points: tuple[tuple[float, float], ...]) -> None:
        document, side = self.plate.document, self.plate.view.side
        spans = [max(p[i] for p in points) - min(p[i] for p in points) for i in range(2)] if points else [0.0, 0.0]
        depth = max(3.0, rounded(min(spans) * 1.5))
        new: list[str] = []

        def change(plan: Plan) -> Plan:
            section = shapes.traced_section(plan, side, points, depth)
            new.append(section.id)
            return edits.add_section(plan, section)

        if document.edit("Trace a section", change):
            self.cancel()
            document.select(new)
            document.message.emit(f"Traced, {depth:g} mm deep. Type its real inner size in the panel.", "info")
        self.plate.update()


class CutTool(OutlineTool):
    """An opening of any shape, traced on a section."""

    id = "cut"

    def close(self) -> None:
        self.take(tuple(self.points))

    def take(self, points: tuple[tuple[float, float], ...]) -> None:
        document, side = self.plate.document, self.plate.view.side
        middle = (sum(p[0] for p in points) / len(points), sum(p[1] for p in points) / len(points))
        section = self._section_under(self._px(middle), "Traced opening")
        if section is None:
            return
        new: list[str] = []

        def change(plan: Plan) -> Plan:
            opening = patterns.traced_opening(plan, section, side, points)
            new.append(opening.id)
            return edits.add_openings(plan, (opening,))

        if document.edit("Trace an opening", change):
            self.cancel()
            document.select(new)


class CurveTool(OutlineTool):
    """A row of openings along a curve drawn on a section."""

    id = "curve"

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self._more = 0

    def _template(self) -> Opening | None:
        return next((i for i in self.plate.document.selected_items() if isinstance(i, Opening)), None)

    def count(self) -> int:
        """One opening about every two widths, and what Up and Down added."""
        template = self._template()
        width = template.width_mm if template else 3.0
        return max(1, min(1000, round(outlines.length(self.points) / (2.0 * width)) + 1 + self._more))

    def key_press(self, key: int) -> bool:
        if self.points and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._more += 1 if key == Qt.Key.Key_Up else -1
            self.plate.update()
            return True
        return super().key_press(key)

    def mirror(self) -> None:
        self.plate.document.message_stop("A row along a curve isn’t closed. Enter places the openings.")

    def close(self) -> None:
        document, side, points, count = self.plate.document, self.plate.view.side, tuple(self.points), self.count()
        section = self._section_under(self._px(points[len(points) // 2]), "Row along a curve")
        if section is None:
            return
        template, new = self._template(), []

        def change(plan: Plan) -> Plan:
            plan, ids = patterns.add_along(plan, section, side, points, count, template)
            new.extend(ids)
            return plan

        if document.edit(f"Add {count} openings along a curve", change):
            self.cancel()
            document.select(new)

    def cancel(self) -> None:
        self._more = 0
        super().cancel()

    def paint(self, painter: QPainter) -> None:
        super().paint(painter)
        if len(self.points) < 2:
            return
        template = self._template()
        w, h = (template.width_mm, template.height_mm) if template else (3.0, 3.0)
        scale = self.plate.extent.scale
        painter.setPen(QPen(self.plate.palette_.colour("choice"), 1.2))
        painter.setBrush(self.plate.palette_.colour("pane", 160))
        count = self.count()
        for place, _ in outlines.along(self.points, count):
            at = self._px(place)
            painter.drawRect(int(at.x() - w * scale / 2), int(at.y() - h * scale / 2), int(w * scale), int(h * scale))
        self.plate.paint_tag(
            painter, self._px(self.points[-1]) + QPointF(12, -30), f"{count} openings, Enter places them"
        )
