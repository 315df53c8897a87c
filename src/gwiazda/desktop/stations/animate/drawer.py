"""The Animate drawer: each channel as a strip of its own light over time, with the cues that make it."""

from __future__ import annotations

import math
from typing import NamedTuple

from PySide6.QtCore import QEvent, QObject, QPointF, QRect, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Cue
from gwiazda.desktop.stations.animate.player import Player
from gwiazda.desktop.stations.animate.strips import Bar, StripsDrawer
from gwiazda.desktop.stations.drawer import HEAD
from gwiazda.desktop.theme.sizes import scaled, text_factor

FACES = {"play": "▶", "pause": "❚❚"}
GRAB = 6.0  # px about the end of a cue
SNAP_S = 0.05
OWN_KEYS = (Qt.Key.Key_Space,)
ZOOMS = {Qt.Key.Key_Plus: 0.8, Qt.Key.Key_Equal: 0.8, Qt.Key.Key_Minus: 1.25}
CONTROL = Qt.KeyboardModifier.ControlModifier


class Held(NamedTuple):
    """What is dragged: a cue, which part of it, and where it was taken hold of."""

    cue: str
    what: str  # "move", "end", "again", "phase"
    at_s: float
    copied: bool


class AnimateDrawer(StripsDrawer):
    title = "Animate"
    grows = True
    needs = 208

    def __init__(self, document, parent=None) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document, parent)
        self.player = Player(document, self)
        self.player.moved.connect(self._moved)
        self.player.turned.connect(self._turned)
        self._held: Held | None = None
        self._scrubbing = False
        self._begun = False
        self._buttons()
        self.installEventFilter(self)
        document.assessed.connect(self._follow)
        document.file_changed.connect(self._new_plan)
        self._new_plan()

    # -- the buttons in its head --------------------------------------------------------------------------

    def _buttons(self) -> None:
        self.tools = QWidget(self)
        row = QHBoxLayout(self.tools)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.begin_button = self._button(
            row, "To start", "To the start", "To the start (Home)", lambda: self.player.go_to(0.0)
        )
        self.play_button = self._button(row, FACES["play"], "Play", "Play or pause (Space)", self.play_or_pause)
        self.loop_button = self._button(row, "Loop", "Loop", "Begin again at the end (Shift+Space)", self._loop)
        self.loop_button.setCheckable(True)
        self.loop_button.setChecked(True)
        self.half_button = self._button(row, "½ speed", "Half speed", "Half as fast (Ctrl+Space)", self._half)
        self.half_button.setCheckable(True)
        self.add_button = self._button(
            row, "+ Cue", "Add a cue", "A cue on this channel, from here on (Enter)", self.add_cue
        )
        self.wired_button = self._button(row, "As wired", "As wired", "The night side as wired again (Esc)", self.stop)

    def _button(self, row: QHBoxLayout, text: str, name: str, tip: str, take) -> QToolButton:  # type: ignore[no-untyped-def]
        button = QToolButton()
        button.setObjectName("strip")
        button.setText(text)
        button.setAccessibleName(name)
        button.setToolTip(tip)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(lambda _=False: take())
        row.addWidget(button)
        return button

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        size = self.tools.sizeHint()
        self.tools.setGeometry(QRect(self.width() - size.width() - scaled(12), scaled(3), size.width(), scaled(25)))

    def measure(self) -> None:
        super().measure()
        self.resizeEvent(QResizeEvent(self.size(), QSize()))

    def _new_plan(self) -> None:
        self.player.pause()
        self.player.at_s = 0.0
        self._begun = False
        self.first_s, self.top_row, self.row = 0.0, 0, 0
        self.shown_s = self.player.end_s = max(self._length(), 5.0)

    def _length(self) -> float:
        """How long the show is: to the last end or beginning, a few rounds of what goes on for good."""
        plan = self.document.assessed_plan
        ends = [c.start_s + (c.length_s or 0.0) for c in plan.cues]
        pressed = [t for x in plan.triggers for t in x.at_s]
        return float(math.ceil(max([8.0, *(e + 4.0 for e in ends), *(t + 4.0 for t in pressed)])))

    # -- playing ------------------------------------------------------------------------------------------

    def play_or_pause(self) -> None:
        """Start or halt; the first time with a caution where it flashes fast."""
        if self.player.playing:
            self.player.pause()
            return
        if not self.document.assessment.effects.moves:
            self.document.message.emit("Nothing moves yet: add a cue to a channel first.", "info")
            return
        self.player.end_s = max(self._length(), 1.0)
        fast = next((f for f in self.document.findings if f.rule == "flashing"), None)
        if fast is not None and not self._begun:
            self._begun = True
            self.document.message.emit(f"{fast.sentence} Press play once more to see it here.", "stop")
            return
        self._begun = True
        self.player.play()

    def stop(self) -> None:
        """The night side as wired again."""
        self.player.pause()
        self.night_note = ""
        self.weights_changed.emit({})
        self.update()

    def back_to_wired(self) -> None:
        self.stop()

    def _loop(self) -> None:
        self.player.loop = self.loop_button.isChecked()

    def _half(self) -> None:
        self.player.speed = 0.5 if self.half_button.isChecked() else 1.0

    def _turned(self, on: bool) -> None:
        self.play_button.setText(FACES["pause" if on else "play"])
        self.play_button.setAccessibleName("Pause" if on else "Play")

    def _moved(self) -> None:
        """Show the moment: the night side, and the needle."""
        at = self.player.at_s
        self.night_note = f"at {at:.1f} s"
        if self.player.playing and not self.first_s <= at <= self.first_s + self.shown_s:
            self.first_s = 0.0 if at < self.shown_s else at
        self.weights_changed.emit(self.player.weights())
        self.update()

    def _follow(self) -> None:
        """The plan has changed: the moment shown is shown anew."""
        self.player.end_s = max(self._length(), 1.0)
        if self.night_note:
            self._moved()

    def hideEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.player.pause()
        self.night_note = ""  # the window shows the plate as wired again
        super().hideEvent(event)

    def close_workers(self) -> None:
        self.player.pause()

    # -- mouse --------------------------------------------------------------------------------------------

    def _bar_at(self, at: QPointF) -> Bar | None:
        """The cue under the mouse; a picked one first, then what lies on top."""
        there = {c.id for c in self.document.plan.cues}  # what was painted may be gone since
        hits = [b for b in self.bars if b.cue in there and b.rect.adjusted(-2, 0, GRAB, 0).contains(at)]
        hits.sort(key=lambda b: (b.cue not in self.document.selection, -b.rect.top()))
        return hits[0] if hits else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position() / text_factor()
        self.setFocus()
        bar = self._bar_at(at)
        rows = self.channels()
        if self._plot.contains(at) and rows:
            self.row = self._row_at(at, len(rows))
        if at.y() <= self._plot.top() and at.x() >= self._plot.left() - 4 and at.y() > HEAD - 4:
            self._scrubbing = True
            self.player.go_to(self.time_at(at.x()))
        elif bar is not None:
            self._take_hold(bar, at, event.modifiers())
        elif rows and at.x() < self._plot.left() and self._plot.top() <= at.y() < self._plot.bottom():
            self._pick_row(self._row_at(at, len(rows)), event.modifiers())
        elif rows and self._plot.contains(at):
            self.picked.emit(rows[self.row].id)
        else:
            super().mousePressEvent(event)
        self.update()

    def _row_at(self, at: QPointF, count: int) -> int:
        """The row of the strips at a height, of so many as there are."""
        return min(max(self.top_row + int((at.y() - self._plot.top()) / self._tall), 0), count - 1)

    def _pick_row(self, row: int, keys: Qt.KeyboardModifier) -> None:
        """Pick a channel by its name: Ctrl one more, Shift all from the last one on."""
        rows = self.channels()
        last, self.row = min(self.row, len(rows) - 1), row
        document, chosen = self.document, rows[self.row].id
        if keys & Qt.KeyboardModifier.ShiftModifier:
            low, high = sorted((last, self.row))
            document.select([s.id for s in rows[low : high + 1]])
        elif keys & CONTROL:
            left = [i for i in document.selection if i != chosen]
            document.select(left if chosen in document.selection else [*left, chosen])
        else:
            self.picked.emit(chosen)

    def _take_hold(self, bar: Bar, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        if bar.cue not in self.document.selection:
            self.picked.emit(bar.cue)
        cue = edits.cue_of(self.document.plan, bar.cue)
        near_end = abs(at.x() - bar.rect.right()) <= GRAB and bar.rect.right() < self._plot.right() - 1
        what = "move"
        if keys & Qt.KeyboardModifier.AltModifier and hasattr(cue.does, "phase"):
            what = "phase"
        elif near_end:
            what = "again" if keys & Qt.KeyboardModifier.ShiftModifier and cue.length_s is not None else "end"
        self._held = Held(bar.cue, what, self.time_at(at.x()), bool(keys & Qt.KeyboardModifier.ControlModifier))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position() / text_factor()
        if self._scrubbing:
            self.player.go_to(self.time_at(at.x()))
        elif self._held is not None:
            self._drag_to(self.time_at(at.x()))
        else:
            super().mouseMoveEvent(event)
            bar = self._bar_at(at)
            if bar is not None and abs(at.x() - bar.rect.right()) <= GRAB and bar.rect.right() < self._plot.right() - 1:
                self.setCursor(Qt.CursorShape.SizeHorCursor)

    def _snapped(self, seconds: float) -> float:
        return round(round(seconds / SNAP_S) * SNAP_S, 3)

    def _drag_to(self, now_s: float) -> None:
        """Show the plan with the cue where it is dragged to."""
        held, document = self._held, self.document
        assert held is not None
        start = document.drag_start
        cue = edits.cue_of(start, held.cue)
        by = now_s - held.at_s
        plan = start
        if held.what == "move":
            if held.copied:
                plan, _ = edits.copy_cues(start, [held.cue], max(self._snapped(by), -cue.start_s))
            else:
                plan = edits.shift_cues(start, [held.cue], self._snapped(cue.start_s + by) - cue.start_s)
        elif held.what == "end":
            length = max(self._snapped(now_s - self._begun_at(cue, held.at_s)), SNAP_S)
            again = max(cue.again_s, length) if cue.again_s is not None else None
            plan = edits.set_cue(start, held.cue, length_s=length, again_s=again)
        elif held.what == "again" and cue.length_s is not None:
            again_s = max(self._snapped(now_s - cue.start_s), cue.length_s)
            plan = edits.set_cue(start, held.cue, again_s=again_s)
        elif held.what == "phase":
            period = getattr(cue.does, "period_s", 1.0)
            phase = (getattr(cue.does, "phase", 0.0) - by / period) % 1.0
            plan = edits.set_pattern(start, held.cue, phase=round(phase, 3))
        document.preview(plan, calm=True)

    def _begun_at(self, cue: Cue, at_s: float) -> float:
        """When the round of a cue began that is on at a moment."""
        spans = [a for a, _ in self._spans(cue) if a <= at_s]
        return max(spans, default=cue.start_s)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._scrubbing = False
        if self._held is not None:
            words = {"move": "Move cue", "end": "Stretch cue", "again": "Repeat cue", "phase": "Shift phase"}
            label = "Copy cue" if self._held.copied and self._held.what == "move" else words[self._held.what]
            self._held = None
            self.document.commit(label)

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120.0
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.25**-steps, self.time_at(event.position().x() / text_factor()))
        else:
            self.row = min(max(self.row - round(steps), 0), max(len(self.channels()) - 1, 0))
        self.update()

    def zoom(self, factor: float, about_s: float) -> None:
        """Show more or less of the time, a moment staying where it is."""
        new = min(max(self.shown_s * factor, 0.2), 86_400.0)
        share = (about_s - self.first_s) / self.shown_s
        self.first_s = max(about_s - share * new, 0.0)
        self.shown_s = new
        self.update()

    # -- keys ---------------------------------------------------------------------------------------------

    def picked_cue(self) -> Cue | None:
        """The cue that is picked, if any."""
        for item_id in self.document.selection:
            for cue in self.document.plan.cues:
                if cue.id == item_id:
                    return cue
        return None

    def add_cue(self) -> None:
        """A cue on the channel the keys are at, or on those picked, from the needle on."""
        rows = self.channels()
        if not rows:
            self.document.message.emit("Pick lamps on the plate first, and give them a channel.", "info")
            return
        picked = [c.id for c in rows if c.id in self.document.selection]
        on = picked or [rows[min(self.row, len(rows) - 1)].id]
        made: list[str] = []

        def change(plan):  # type: ignore[no-untyped-def]
            plan, new_id = edits.add_cue(plan, on, edits.PATTERNS["blink"](), start_s=self._snapped(self.player.at_s))
            made.append(new_id)
            return plan

        if self.document.edit("Add cue", change):
            self.document.select(made)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        # With Shift and Ctrl it is more than the window's own Space.
        if watched is not self or not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.ShortcutOverride:
            return False
        if event.key() not in OWN_KEYS:
            return False
        event.accept()
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, cue = event.key(), self.picked_cue()
        far = 1.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.1
        sign = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(key), 0)
        if key == Qt.Key.Key_Space:
            shift, control = event.modifiers() & Qt.KeyboardModifier.ShiftModifier, event.modifiers() & CONTROL
            (self.loop_button.click if shift else self.half_button.click if control else self.play_or_pause)()
        elif key == Qt.Key.Key_Home:
            self.player.go_to(0.0)
        elif sign and cue is not None:
            self._nudge(cue, sign * far, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        elif sign:
            self.player.go_to(self.player.at_s + sign * far)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.row = min(max(self.row + (1 if key == Qt.Key.Key_Down else -1), 0), max(len(self.channels()) - 1, 0))
            if self.channels():
                self.picked.emit(self.channels()[self.row].id)
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.add_cue()
        elif key == Qt.Key.Key_Escape:
            self.stop()
            self.picked.emit("")
        elif key in ZOOMS and event.modifiers() & CONTROL:
            self.zoom(ZOOMS[Qt.Key(key)], self.player.at_s)
        else:
            QWidget.keyPressEvent(self, event)

    def _nudge(self, cue: Cue, by: float, end: bool) -> None:
        if not end:
            self.document.edit("Move cue", lambda plan: edits.shift_cues(plan, [cue.id], by))
        elif cue.length_s is not None:
            length = max(round(cue.length_s + by, 3), SNAP_S)
            again = max(cue.again_s, length) if cue.again_s is not None else None
            self.document.edit("Stretch cue", lambda plan: edits.set_cue(plan, cue.id, length_s=length, again_s=again))
