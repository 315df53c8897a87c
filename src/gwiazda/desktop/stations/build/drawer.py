"""The Build drawer: sections as lanes in time, work as blocks, drying hatched, closings as gates."""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF, QWheelEvent

from gwiazda.core.assess.assembly.progress import open_tests
from gwiazda.core.assess.assembly.step import WHOLE, Step
from gwiazda.core.quantities import counted
from gwiazda.core.schedule.evenings import DAY_MIN, Laid
from gwiazda.desktop.stations.build.days import Days, days_of
from gwiazda.desktop.stations.build.session_lane import LEAST_PX, SessionBlock, SessionLane
from gwiazda.desktop.theme.sizes import text_factor

NAME = 118.0
LANE, LEAST_LANE = 30.0, 13.0
RULER = 18.0
BESIDE = "/"  # no section's id begins so: a lane of another kit


class Block(NamedTuple):
    """A step where it is drawn."""

    rect: QRectF
    key: str


class BuildDrawer(SessionLane):
    title = "Build"
    grows = True
    needs = 208

    def __init__(self, document, parent=None) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document, parent)
        self.first_day, self.days_shown = 0.0, 0.0  # the whole build while it is 0
        self.top = 0
        self.blocks: list[Block] = []
        self.session_blocks: list[SessionBlock] = []
        self._held: tuple[SessionBlock, float] | None = None  # the session under the hand, and where it was taken
        self._held_px = 0.0
        self._plot = QRectF()
        self._days: Days | None = None
        document.step_changed.connect(self.update)
        document.plan_changed.connect(self.update)
        document.file_changed.connect(self._anew)

    def _anew(self) -> None:
        self.first_day, self.days_shown, self.top = 0.0, 0.0, 0

    def lanes(self, days: Days) -> list[tuple[str, str]]:
        """Sections that have steps, and the whole kit last; id and name."""
        used = {s.section for s in days.steps}
        out = [(s.id, s.name) for s in self.document.plan.sections if s.id in used]
        return [*out, (WHOLE, "All together")] if WHOLE in used else out

    def subtitle(self) -> str:
        days = days_of(self.document)
        if days.fault:
            return days.fault
        if not days.steps:
            return "the steps come from the plan: draw a section first"
        done = sum(x.state == "done" for x in days.states.values())
        ends = days.calendar.ends if days.calendar is not None else None
        at = [p for x in days.calendar.laid for p in x.pieces] if days.calendar is not None else []
        left, nights = sum(b - a for a, b in at) / 60.0, len({int(a // DAY_MIN) for a, _ in at})
        if ends is None:
            return f"all {len(days.steps)} steps are done"
        words = f"{done} of {counted(len(days.steps), 'step')} done, {left:.0f} h left in {counted(nights, 'evening')}, done by {ends:%d %b %Y}"
        if days.slip.tests:
            failed = counted(len(days.slip.tests), "failed test")
            words += (
                f"; {failed} put it back by {counted(days.slip.days, 'day')}"
                if days.slip.days
                else f"; {failed} to mend"
            )
        if days.calendar is not None and days.calendar.beside:
            words += f"; beside it {', '.join(name for name, _ in days.calendar.beside)}"
        return words

    # -- painting ------------------------------------------------------------------------------------------

    def paint_body(self, painter: QPainter, body: QRectF) -> None:
        self.blocks = []
        days = self._days = days_of(self.document)
        calendar = days.calendar
        if calendar is None or not days.steps:
            return
        lanes = [*self.lanes(days), *((f"{BESIDE}{k}", name) for k, (name, _) in enumerate(calendar.beside))]
        high = body.height() - RULER
        tall = min(LANE, max(LEAST_LANE, high / max(len(lanes) + 1, 1)))
        room = max(int(high // tall) - 1, 1)
        self.top = min(max(self.top, 0), max(len(lanes) - room, 0))
        shown = lanes[self.top : self.top + room]
        end = self._end()
        wide = self.days_shown or max(end, 1.0)
        self._plot = QRectF(body.left() + NAME, body.top() + RULER, body.width() - NAME, tall * (len(shown) + 1))
        self._ruler(painter, days, wide)
        self._sessions(painter, QRectF(self._plot.left(), self._plot.top(), self._plot.width(), tall), days, wide)
        self.words(painter, QRectF(body.left(), self._plot.top(), NAME - 6, tall), "In one go")
        below = self._plot.top() + tall
        place = {x.key: x for x in calendar.laid}
        painter.save()
        painter.setClipRect(self._plot.adjusted(-2, -2, 2, 2))
        for k, (section, _) in enumerate(shown):
            lane = QRectF(self._plot.left(), below + k * tall, self._plot.width(), tall)
            painter.setPen(QPen(self.palette_.colour("line"), 1))
            painter.drawLine(QLineF(lane.left(), lane.bottom(), lane.right(), lane.bottom()))
            if section.startswith(BESIDE):
                self._other(painter, lane, calendar.beside[int(section.removeprefix(BESIDE))][1], wide)
                continue
            for s in days.steps:
                if s.section == section and s.key in place:
                    self._step(painter, lane, s, place[s.key], days, wide)
        painter.restore()
        for k, (section, name) in enumerate(shown):
            self._lane_name(painter, QRectF(body.left(), below + k * tall, NAME - 6, tall), section, name, days)
        if len(lanes) > len(shown):
            self.words(
                painter, QRectF(body.left(), body.top(), NAME - 8, RULER), f"and {len(lanes) - len(shown)} more (↑ ↓)"
            )
        for block in self.blocks:
            step = days.states[block.key].step
            self.places.append((block.rect, block.key, self._spoken(step, place.get(block.key), days)))

    def _ruler(self, painter: QPainter, days: Days, wide: float) -> None:
        p, plot, calendar = self.palette_, self._plot, days.calendar
        assert calendar is not None
        a_day = plot.width() / wide
        step = next((n for n in (1, 2, 7, 14, 28, 56, 112) if n * a_day >= 74), 365)
        for e in calendar.free[:400]:
            x0, x1 = self._x(e.begins_min, wide), self._x(e.ends_min, wide)
            if x0 > plot.right():
                break
            if a_day >= 6:
                painter.fillRect(QRectF(x0, plot.top(), max(x1 - x0, 1.0), plot.height()), p.colour("live", 26))
        first = int(self.first_day)
        for day in range(first, int(self.first_day + wide) + 1):
            if day % step:
                continue
            x = self._x(day * DAY_MIN, wide)
            painter.setPen(QPen(p.colour("line"), 1))
            painter.drawLine(QLineF(x, plot.top() - 6, x, plot.bottom()))
            if x < plot.right() - 34:
                self.words(
                    painter, QRectF(x + 3, plot.top() - RULER - 1, 70, 16), f"{calendar.moment(day * DAY_MIN):%a %d %b}"
                )

    def _step(self, painter: QPainter, lane: QRectF, s: Step, x: Laid, days: Days, wide: float) -> None:
        p, calendar = self.palette_, days.calendar
        assert calendar is not None
        state = days.states[s.key].state
        picked = self.document.step == s.key
        ink = {"failed": "stop", "void": "look"}.get(state, "live" if s.key in calendar.critical else "wire_minus")
        inner = lane.adjusted(0, 3, 0, -3)
        if s.wait_h:
            a, b = self._x(x.ends_min, wide), self._x(x.done_min, wide)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QBrush(p.colour("muted", 110), Qt.BrushStyle.BDiagPattern))
            painter.drawRect(QRectF(a, inner.top() + 2, max(b - a, 1.0), inner.height() - 4))
        if s.kind == "close":
            self._gate(painter, self._x(x.begins_min, wide), lane, s, days, picked)
            return
        for begin, stop in x.pieces:
            a, b = self._x(begin, wide), self._x(stop, wide)
            rect = QRectF(a, inner.top(), max(b - a, LEAST_PX), inner.height())
            painter.setPen(QPen(p.colour("live" if picked else "ink"), 2.0 if picked else 0.6))
            painter.setBrush(p.colour(ink, 255 if not s.is_test else 90))
            painter.drawRect(rect)
            self.blocks.append(Block(rect, s.key))

    def _other(self, painter: QPainter, lane: QRectF, laid: tuple[Laid, ...], wide: float) -> None:
        """What the same hands do to another kit: pale, it is no part of this plan."""
        inner = lane.adjusted(0, 5, 0, -5)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.palette_.colour("muted", 120))
        for x in laid:
            for begin, stop in x.pieces:
                a, b = self._x(begin, wide), self._x(stop, wide)
                painter.drawRect(QRectF(a, inner.top(), max(b - a, LEAST_PX), inner.height()))

    def _gate(self, painter: QPainter, x: float, lane: QRectF, s: Step, days: Days, picked: bool) -> None:
        """A gate: open when the section's tests are passed, shut while one is not."""
        p = self.palette_
        shut = bool(open_tests(self.document.plan, days.steps, s.section))
        colour = p.colour("stop" if shut else "fine")
        painter.setPen(QPen(p.colour("live") if picked else colour, 3.0 if picked else 2.2))
        painter.drawLine(QLineF(x, lane.top() + 1, x, lane.bottom() - 1))
        painter.setBrush(colour if shut else p.colour("card"))
        painter.setPen(QPen(colour, 1.6))
        mid = lane.center().y()
        if shut:
            painter.drawRect(QRectF(x - 4, mid - 4, 8, 8))
        else:
            painter.drawPolygon(QPolygonF([QPointF(x, mid - 5), QPointF(x + 7, mid), QPointF(x, mid + 5)]))
        self.blocks.append(Block(QRectF(x - 5, lane.top(), 11, lane.height()), s.key))

    def _lane_name(self, painter: QPainter, place: QRectF, section: str, name: str, days: Days) -> None:
        if section.startswith(BESIDE):
            self.words(painter, place, name)
            return
        mine = [days.states[s.key] for s in days.steps if s.section == section]
        done = sum(x.state == "done" for x in mine)
        if section and section in self.document.selection:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self.palette_.colour("choice", 40))
            painter.drawRoundedRect(place.adjusted(-4, 1, 2, -1), 4, 4)
        self.words(painter, place.adjusted(0, 0, -34, 0), name, "ink")
        self.words(painter, QRectF(place.right() - 32, place.top(), 34, place.height()), f"{done}/{len(mine)}")
        if section:
            self.places.append((place, section, f"{name}: {done} of {counted(len(mine), 'step')} done"))

    def _spoken(self, s: Step, x: Laid | None, days: Days) -> str:
        where = next((n for i, n in self.lanes(days) if i == s.section), "")
        words = f"{where}: {s.name}, {s.minutes:.0f} min"
        if s.wait_h:
            words += f", then {s.wait_h:g} h left alone"
        if x is not None and days.calendar is not None:
            words += f"; {days.calendar.moment(x.begins_min):%a %d %b, %H:%M}"
        if s.kind == "close":
            tests = open_tests(self.document.plan, days.steps, s.section)
            words += f"; the gate is shut: {counted(len(tests), 'test')} to pass" if tests else "; the gate is open"
        return words

    # -- hands ---------------------------------------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None:
            super().mouseMoveEvent(event)
            return
        self._held_px = event.position().x() / text_factor() - self._held[1]
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, self._held = self._held, None
        if held is None:
            super().mouseReleaseEvent(event)
            return
        moved, self._held_px = event.position().x() / text_factor() - held[1], 0.0
        if abs(moved) >= 4.0:
            self.put_on(held[0].session, self._day_at(held[0].rect.left() + 2 + moved))
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position() / text_factor()
        for taken in reversed(self.session_blocks):
            if taken.rect.adjusted(-1, 0, 1, 0).contains(at):
                self._held, self._held_px = (taken, at.x()), 0.0
                self.document.pick_step(taken.session.keys[0])
                return
        for block in reversed(self.blocks):
            if block.rect.adjusted(-1, 0, 1, 0).contains(at):
                self.document.pick_step(block.key)
                return
        for i, (rect, item_id, _) in enumerate(self.places):
            if rect.contains(at) and ":" not in item_id:
                self.focus = i
                self.picked.emit(item_id)
                return
        self.document.pick_step("")

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120.0
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            x = event.position().x() / text_factor()
            self.zoom(1.25**-steps, (x - self._plot.left()) / max(self._plot.width(), 1.0))
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._slide(-steps * 0.1)
        else:
            self.top -= round(steps)
        self.update()

    def zoom(self, factor: float, share: float = 0.0) -> None:
        """Show more or fewer days, the one under the hand staying where it is."""
        end = self._end()
        wide = self.days_shown or end
        new = min(max(wide * factor, 0.25), max(end, 1.0))
        self.first_day = min(max(self.first_day + share * (wide - new), 0.0), max(end - new, 0.0))
        self.days_shown = 0.0 if new >= end else new
        self.update()

    def _slide(self, share: float) -> None:
        end = self._end()
        wide = self.days_shown or end
        self.first_day = min(max(self.first_day + share * wide, 0.0), max(end - wide, 0.0))
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        days = days_of(self.document)
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and control and days.calendar is not None:
            mine = next((s for s in days.calendar.sessions if self.document.step in s.keys), None)
            if mine is not None:
                day = int(mine.begins_min // DAY_MIN)
                self.put_on(mine, day + 1 if key == Qt.Key.Key_Right else day - 1)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and days.calendar is not None and days.calendar.laid:
            order = [x.key for x in days.calendar.laid]
            now = order.index(self.document.step) if self.document.step in order else -1
            self.document.pick_step(order[min(max(now + (1 if key == Qt.Key.Key_Right else -1), 0), len(order) - 1)])
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.top += 1 if key == Qt.Key.Key_Down else -1
            self.update()
        elif (
            key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus)
            and event.modifiers() & Qt.KeyboardModifier.ControlModifier
        ):
            self.zoom(1.25 if key == Qt.Key.Key_Minus else 0.8)
        elif key == Qt.Key.Key_Escape:
            self.document.pick_step("")
        else:
            super().keyPressEvent(event)
