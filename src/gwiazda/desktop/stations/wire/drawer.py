"""The Wire drawer: the plan's circuits as rails and rungs, picked and changed by hand."""

from __future__ import annotations

import re
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PySide6.QtWidgets import QApplication, QMenu

from gwiazda.core.drawing.rail_marks import RailMark, Sheet
from gwiazda.core.drawing.rails import rails_of
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import circuit_part, feed_with
from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import counted, figure, format_current
from gwiazda.core.workbench.instruments import Clip
from gwiazda.desktop.stations.drawer import FOOT, HEAD, MARGIN, StationDrawer
from gwiazda.desktop.stations.wire.clips import clips_of
from gwiazda.desktop.stations.wire.loomview import LoomPainter
from gwiazda.desktop.stations.wire.painter import RailsPainter
from gwiazda.desktop.stations.wire.words import PUT, mark_words
from gwiazda.desktop.theme.sizes import text_factor

ABOVE, ASIDE = 4.0, 8.0  # the sheet begins a little higher than other drawers' pictures, and further out
SLACK = 4.0  # px around a symbol that still are it


class WireDrawer(StationDrawer):
    title = "Wire"
    grows = True
    needs = 178

    def __init__(self, document, parent=None) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document, parent)
        self._scrolled = 0.0
        self.sheet: Sheet | None = None
        self._shown_plan: Plan | None = None
        self._press: tuple[QPointF, RailMark] | None = None
        self._carried: tuple[str, ...] = ()
        self._over = ""
        self._at = QPointF()
        self.loom = False  # whether passages are shown, and not the circuit
        self.clips = clips_of(document)
        self.clips.changed.connect(self.update)

    def wants(self, room: float) -> float:
        plan, around = self.document.assessed_plan, HEAD + FOOT - 2.0 * ABOVE
        if self._carried:
            return self.high  # nothing moves under the hand
        if self.loom or not plan.lamps:
            return room
        wide = self.width() / text_factor() - 2.0 * MARGIN + 2.0 * ASIDE
        return (
            rails_of(plan, self.document.assessment, wide, room - around).height + around + 2.0
        )  # nothing lost to rounding

    # -- what is shown -----------------------------------------------------------------------------------

    def turn(self) -> None:
        """From the circuit to the passages and back."""
        self.loom = not self.loom
        self.sheet = None
        self.update()

    def subtitle(self) -> str:
        assessment = self.document.assessment
        if self.loom:
            runs = [r for r in assessment.loom.runs.values() if r.kind != "fibre"]
            return f"passages from the source on, {counted(len(runs), 'wire')} in all · 5 shows the circuit again"
        if self._carried:
            return self._carried_words()
        if self.clips.next or self.clips.red is not None:
            return re.sub(r"</?b>", "", self.clips.words)
        folded = "alike ones drawn once · " if self.sheet is not None and self.sheet.folded else ""
        room = "G gives the plate its room back" if self.grown else "G gives it the room of the plate"
        branches = counted(len(assessment.branches), "string")
        turned = "5 again shows the passages · " if assessment.loom.passages else ""
        return (
            f"{branches}, {format_current(sum(f.draw_a for f in assessment.feeds.values()))} · {folded}{turned}{room}"
        )

    def _carried_words(self) -> str:
        """What comes of a lamp where it is held."""
        what = self._carried[0] if len(self._carried) == 1 else counted(len(self._carried), "lamp")
        if not self._over or not self._over_target():
            return f"{what}: drop it on a lamp or resistor to join its string, on a source, regulator or output to hang there"
        state = self.document.assessment.lamps.get(self._carried[0])
        if self.document.assessed_plan is not self.document.plan or state is None:
            return f"{what} here …"
        return (
            f"{what} here: {format_current(max(state.current_a, 0.0))}, {figure(state.share * 100, 2)} % of its light"
        )

    def paint_body(self, painter: QPainter, body: QRectF) -> None:
        plan, assessment = self.document.assessed_plan, self.document.assessment
        if self.loom:
            LoomPainter(self).paint(painter, body)
            return
        if not plan.lamps and not any(f.items for f in plan.feeds):
            self.sheet = None
            self.words(
                painter, body, "Nothing to wire yet: lamps come first (L on a section, P for those seen themselves)."
            )
            return
        body = body.adjusted(-ASIDE, -ABOVE, ASIDE, ABOVE)
        if not self._carried or self.sheet is None:
            # While a lamp is carried the drawing stays as it was under the hand.
            self.sheet, self._shown_plan = rails_of(plan, assessment, body.width(), body.height()), plan
        sheet = self.sheet
        self._scrolled = min(max(self._scrolled, 0.0), max(sheet.height - body.height(), 0.0))
        wrong = {
            subject
            for f in self.document.findings
            for subject in f.subjects
            if f.topic in ("wiring", "rating", "supply") and f.severity == "stop"
        }
        origin = QPointF(body.left(), body.top() - self._scrolled)
        painter.save()
        painter.setClipRect(body)
        painter.translate(origin)
        shown_plan = self._shown_plan if self._shown_plan is not None else plan
        rails = RailsPainter(painter, self.palette_, shown_plan, assessment, self.document.selection, wrong, self._over)
        rails.light = self.clips.light
        rails.sheet(sheet)
        for clip, colour in ((self.clips.red, "wire_plus"), (self.clips.black, "wire_minus")):
            if clip is not None:
                rails.clip(sheet, clip, colour)
        painter.restore()
        for mark in sheet.marks:
            rect = QRectF(mark.x, mark.y, mark.w, mark.h).translated(origin).adjusted(-SLACK, -SLACK, SLACK, SLACK)
            if body.intersects(rect):
                self.places.append((rect, mark.id, mark_words(shown_plan, assessment, mark)))
        if sheet.height > body.height() + 1:
            self._scroll_bar(painter, body, sheet)

    def _scroll_bar(self, painter: QPainter, body: QRectF, sheet: Sheet) -> None:
        share = body.height() / sheet.height
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.palette_.colour("line"))
        top = body.top() + body.height() * self._scrolled / sheet.height
        painter.drawRoundedRect(QRectF(body.right() - 5, top, 4, body.height() * share), 2, 2)

    # -- picking -----------------------------------------------------------------------------------------

    def _mark_at(self, at: QPointF) -> RailMark | None:
        if self.sheet is None:
            return None
        at = at / text_factor()
        origin = self._origin()
        marks = [
            m for m in self.sheet.marks
            if QRectF(m.x, m.y, m.w, m.h).translated(origin).adjusted(-SLACK, -SLACK, SLACK, SLACK).contains(at)
        ]  # fmt: skip
        return min(marks, key=lambda m: m.w * m.h) if marks else None

    def _origin(self) -> QPointF:
        return QPointF(MARGIN - ASIDE, HEAD - ABOVE - self._scrolled)

    def mark_centre(self, mark_id: str, kind: str = "") -> QPointF:
        """Where a symbol is in the widget, px."""
        assert self.sheet is not None
        mark = next(
            m for m in self.sheet.marks if (mark_id == m.id or mark_id in m.lamps) and (not kind or m.kind == kind)
        )
        at = QPointF(mark.x + mark.w / 2, mark.y + mark.h / 2) + self._origin()
        return at * text_factor()

    def _ids(self, mark: RailMark) -> tuple[str, ...]:
        if mark.kind == "lamp":
            return mark.lamps
        if circuit_part(self.document.plan, mark.id) is None and feed_with(self.document.plan, mark.id) is None:
            return mark.lamps  # the resistor of lamps on their own
        return (mark.id,)

    def _pick(self, mark: RailMark, more: bool) -> None:
        ids = self._ids(mark)
        chosen = self.document.selection
        if more:
            same = set(ids) <= set(chosen)
            self.document.select([i for i in chosen if i not in ids] if same else [*chosen, *ids])
        else:
            self.document.select(ids)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.loom:
            StationDrawer.mousePressEvent(self, event)
            return
        mark = self._mark_at(event.position())
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self.clips.next:
            if mark is not None:
                self.clips.place(self._clip_at(mark, event.position()))
            return
        if mark is None:
            self.document.select(())
            return
        self.focus = next((i for i, p in enumerate(self.places) if p[1] == mark.id), 0)
        already = set(self._ids(mark)) <= set(self.document.selection)
        self._press = (event.position(), mark)
        if not already or event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._pick(mark, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def _clip_at(self, mark: RailMark, at: QPointF) -> Clip:
        """The end of a part that is nearer: the upper one is where plus comes in."""
        y = at.y() / text_factor() - self._origin().y()
        x = at.x() / text_factor() - self._origin().x()
        lower = x > mark.x + mark.w / 2 if mark.flat else y > mark.y + mark.h / 2
        name = mark.lamps[0] if mark.kind in ("lamp", "resistor") and mark.lamps else mark.id
        if mark.kind == "resistor" and circuit_part(self.document.plan, mark.id) is None:
            # The resistor of a lamp on its own: its upper end is the rail, its lower one the lamp's plus.
            return Clip(name, 0) if lower else Clip(self._feed_of(name), 0)
        return Clip(name if mark.kind == "lamp" else mark.id, int(lower))

    def _feed_of(self, lamp_id: str) -> str:
        state = self.document.assessment.lamps.get(lamp_id)
        return state.feed if state is not None else self.document.plan.feeds[0].id

    # -- carrying lamps to another place ---------------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.loom:
            StationDrawer.mouseMoveEvent(self, event)
        elif self._press is None:
            mark = self._mark_at(event.position())
            self.setCursor(Qt.CursorShape.PointingHandCursor if mark else Qt.CursorShape.ArrowCursor)
            self.setToolTip(mark_words(self.document.plan, self.document.assessment, mark) if mark else "")
        else:
            self._carry(event, *self._press)

    def _carry(self, event: QMouseEvent, at: QPointF, mark: RailMark) -> None:
        """Lamps are held over what they might hang on."""
        if not self._carried:
            if (event.position() - at).manhattanLength() < QApplication.startDragDistance() or mark.kind != "lamp":
                return
            lamps = {p.id for p in self.document.plan.lamps}
            self._carried = tuple(i for i in self.document.selection if i in lamps) or mark.lamps
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        target = self._mark_at(event.position())
        over = self._target_of(target)
        if over != self._over:
            self._over = over
            self.document.revert()
            if over:
                self._try(lambda plan: edits.hang_into(plan, self._carried, over))
        self.update()

    def _target_of(self, mark: RailMark | None) -> str:
        """What a symbol under the pointer stands for as a place to hang at; nothing for the lamps carried themselves."""
        if mark is None or (mark.kind == "lamp" and set(mark.lamps) & set(self._carried)):
            return ""
        if mark.kind == "lamp":
            return mark.lamps[0]
        ids = self._ids(mark)
        return ids[0] if ids and not set(ids) & set(self._carried) else ""

    def _over_target(self) -> bool:
        return bool(self._over)

    def _try(self, change: Callable[[Plan], Plan]) -> None:
        """Show what a change comes to, while it is held."""
        try:
            self.document.preview(change(self.document.drag_start))
        except GwiazdaError as error:
            self.document.message_stop(str(error))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        carried, over = self._carried, self._over
        self._press, self._carried, self._over = None, (), ""
        self.setCursor(Qt.CursorShape.ArrowCursor)
        if carried and over:
            self.document.commit("Hang " + (carried[0] if len(carried) == 1 else counted(len(carried), "lamp")))
        elif carried:
            self.document.revert()
        self.update()

    # -- keys, menu, wheel ---------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._carried:
            self._press, self._carried, self._over = None, (), ""
            self.document.revert()
            self.update()
        elif self.loom:
            StationDrawer.keyPressEvent(self, event)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space) and self.places and self.sheet is not None:
            wanted = self.places[min(self.focus, len(self.places) - 1)]
            mark = next((m for m in self.sheet.marks if m.id == wanted[1] and mark_words(self._plan(), self.document.assessment, m) == wanted[2]), None)  # fmt: skip
            if mark is not None:
                self._pick(mark, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif event.key() == Qt.Key.Key_Menu:
            self._menu(self.mapToGlobal(self.rect().center()))
        else:
            super().keyPressEvent(event)

    def _plan(self) -> Plan:
        return self._shown_plan if self._shown_plan is not None else self.document.plan

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._scrolled -= event.angleDelta().y() / 3.0
        self.update()
        event.accept()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        mark = self._mark_at(QPointF(event.pos()))
        if mark is not None and not set(self._ids(mark)) <= set(self.document.selection):
            self._pick(mark, False)
        self._menu(event.globalPos())

    def _menu(self, at) -> None:  # type: ignore[no-untyped-def]
        menu = self.make_menu()
        if menu is not None:
            menu.popup(at)

    def make_menu(self) -> QMenu | None:
        """What can be done with what is picked."""
        from gwiazda.desktop.stations.wire.actions import actions_for

        menu = QMenu(self)
        for words, take in actions_for(self.document):
            menu.addAction(words).triggered.connect(lambda _=False, t=take: t())
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        return menu if not menu.isEmpty() else None


__all__ = ["PUT", "WireDrawer"]
