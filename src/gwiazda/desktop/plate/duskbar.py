"""Dusk along the foot of the plate: one handle from noon at a window to a dark room, and for each light a strip that says where it shows."""

from __future__ import annotations

import math
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QKeyEvent, QLinearGradient, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from gwiazda.core.assess.sight.dusk import Shows, dusk_of, until_words
from gwiazda.core.light.dusk import LEAST_LX, LEVELS, MOST_LX
from gwiazda.core.light.rooms import ROOMS, lux_words
from gwiazda.core.quantities import figure
from gwiazda.desktop.document import Document
from gwiazda.desktop.tasks import PlanTask
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import BENCH, SMALL_PX, Palette
from gwiazda.desktop.theme.sizes import text_factor
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.whisker import paint_whisker

HEAD, ROW, MOST_ROWS, NAMES = 50, 17, 7, 168
MINUTE_S, FRAME_MS, KEY_STEPS = 60.0, 33, 60
FULL = 2000  # of the accessible value


class Strip(NamedTuple):
    """Lights that show alike, as one row: what it is called, which they are, when they show."""

    name: str
    ids: tuple[str, ...]
    shows: Shows


def strips_of(rows: tuple[Shows, ...]) -> tuple[Strip, ...]:
    """Rows of lights that show alike and are called alike but for their number folded into one."""
    out: dict[tuple[object, ...], list[Shows]] = {}
    for row in rows:
        stem = row.name.rstrip("0123456789 ")
        out.setdefault((stem, tuple(f"{x:.2g}" for x in row.until)), []).append(row)
    return tuple(
        Strip(mine[0].name if len(mine) == 1 else f"{key[0]}, {len(mine)}", tuple(r.of for r in mine), mine[0])
        for key, mine in out.items()
    )


class DuskBar(Guarded, QWidget):
    """The handle, the rooms people know, and the strips. ``changed`` says another light of the room."""

    changed = Signal()
    closed = Signal()
    picked = Signal(tuple)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.palette_: Palette = BENCH
        self.strips: tuple[Strip, ...] = ()
        self.lux = document.plan.room.lux
        self._first = 0
        self._drawn: object = None
        self._task: PlanTask[tuple[Shows, ...]] = PlanTask(document, "dusk", parent=self)
        self._clock = QTimer(self)
        self._clock.setInterval(FRAME_MS)
        self._clock.timeout.connect(self._tick)
        self.setObjectName("dusk")
        self.setAccessibleName("Light of the room, from noon to a dark room")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        document.assessed.connect(self.follow)
        self.hide()

    # -- the light of the room ------------------------------------------------------------------------------

    @property
    def on(self) -> bool:
        return not self.isHidden()

    @property
    def playing(self) -> bool:
        return self._clock.isActive()

    def open(self) -> None:
        """Show it, at the room the model is for."""
        self.set_lux(self.document.plan.room.lux)
        self.show()
        self.follow()
        self.setFocus()

    def close_bar(self) -> None:
        """Put it away: the night is that of the plan's room again."""
        self._clock.stop()
        if self.on:
            self.hide()
            self.closed.emit()

    def set_lux(self, lux: float) -> None:
        """Another light of the room."""
        self.lux = min(max(lux, LEAST_LX), MOST_LX)
        self.setAccessibleDescription(
            f"{lux_words(self.lux)}; arrow keys change it, D plays a minute of dusk, Escape puts it away"
        )
        self.update()
        self.changed.emit()

    def play(self) -> None:
        """A minute of dusk, from noon to the dark; again stops it."""
        if self.playing:
            self._clock.stop()
            return
        if self.lux <= LEAST_LX * 1.01 or math.isclose(self.lux, self.document.plan.room.lux):
            self.set_lux(MOST_LX)
        self._clock.start()

    def _tick(self) -> None:
        step = (LEAST_LX / MOST_LX) ** (FRAME_MS / 1000.0 / MINUTE_S)
        self.set_lux(self.lux * step)
        if self.lux <= LEAST_LX:
            self._clock.stop()

    def follow(self) -> None:
        """The strips of the plan as it is assessed now."""
        if not self.on:
            return
        plan, assessment = self.document.assessed_plan, self.document.assessment
        self._task.ask(plan, lambda: dusk_of(plan, assessment), self._take)

    def _take(self, rows: tuple[Shows, ...]) -> None:
        self.strips = strips_of(rows)
        self._first = min(self._first, max(len(self.strips) - MOST_ROWS, 0))
        self.measure()
        self.update()

    @property
    def idle(self) -> bool:
        return self._task.idle

    def measure(self) -> None:
        """As high as its rows."""
        rows = min(len(self.strips), MOST_ROWS)
        self.setFixedHeight(round((HEAD + (22 + rows * ROW + 6 if rows else 0)) * text_factor()))

    def set_palette(self, palette: Palette) -> None:
        self.palette_ = palette
        self.update()

    # -- painting -------------------------------------------------------------------------------------------

    def _span(self) -> tuple[float, float]:
        """The handle's way, px before the text's size."""
        wide = self.width() / text_factor()
        return (NAMES + 14.0, wide - 16.0) if self.strips else (16.0, wide - 16.0)

    def x_of(self, lux: float) -> float:
        """Where a light of the room lies along the bar, px before the text's size."""
        left, right = self._span()
        return left + (right - left) * math.log(MOST_LX / min(max(lux, LEAST_LX), MOST_LX)) / math.log(
            MOST_LX / LEAST_LX
        )

    def lux_at(self, x: float) -> float:
        left, right = self._span()
        share = min(max((x - left) / max(right - left, 1.0), 0.0), 1.0)
        return float(MOST_LX * (LEAST_LX / MOST_LX) ** share)

    def row_at(self, y: float) -> Strip | None:
        number = int((y - HEAD - 20) // ROW)
        shown = self.strips[self._first : self._first + MOST_ROWS]
        return shown[number] if 0 <= number < len(shown) else None

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(text_factor(), text_factor())
        p = self.palette_
        wide, tall = self.width() / text_factor(), self.height() / text_factor()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.colour("bar"))
        painter.drawRoundedRect(QRectF(0, 0, wide, tall), 7, 7)
        self._paint_axis(painter)
        self._paint_strips(painter)
        painter.end()

    def _paint_axis(self, painter: QPainter) -> None:
        p = self.palette_
        left, right = self._span()
        painter.setFont(text_font(SMALL_PX))
        painter.setPen(p.colour("bar_ink"))
        words = f"{figure(self.lux, 2)} lx"
        painter.drawText(
            QRectF(14, 4, max(left - 24, 60), 22),
            int(Qt.AlignmentFlag.AlignVCenter),
            f"Room {words}" if self.strips else "",
        )
        ramp = QLinearGradient(left, 0, right, 0)
        for k in range(9):
            # As bright as the room looks: the eye takes a tenth of the light for half.
            level = (1.0 - k / 8.0) ** 1.6
            ramp.setColorAt(k / 8.0, p.colour("glow").darker(round(100 + 900 * (1.0 - level))))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ramp)
        painter.drawRect(QRectF(left, 9, right - left, 11))
        painter.setFont(text_font(SMALL_PX))
        taken = -1e9
        for room in ROOMS:
            x = self.x_of(room.lux)
            painter.setPen(QPen(p.colour("bar_muted"), 1))
            painter.drawLine(QPointF(x, 20), QPointF(x, 25))
            across = painter.fontMetrics().horizontalAdvance(room.name)
            at = min(max(x - across / 2, left - 4), right + 6 - across)
            if at > taken:
                painter.drawText(QPointF(at, 38), room.name)
                taken = at + across + 8
        for lux, name in ((self.document.plan.room.lux, "bar_ink"),):
            x = self.x_of(lux)
            painter.setPen(QPen(p.colour(name), 2))
            painter.drawLine(QPointF(x, 5), QPointF(x, 24))
        x = self.x_of(self.lux)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.colour("live"))
        painter.drawRoundedRect(QRectF(x - 7, 2, 14, 26), 6, 6)
        painter.setPen(QPen(p.colour("live_ink"), 1.4))
        for k in (-3, 0, 3):
            painter.drawLine(QPointF(x + k, 10), QPointF(x + k, 20))
        if self.hasFocus():
            painter.setPen(QPen(p.colour("live"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(left - 6, 1, right - left + 12, 28), 6, 6)

    def level_colours(self) -> tuple[QColor, ...]:
        """The colours of unseen, shows, clearly lit, striking, glares: deeper with more light, and red where it hurts."""
        p = self.palette_
        live = p.colour("live")
        stop = p.colour("stop")
        mixed = [
            round(0.6 * a + 0.4 * b)
            for a, b in zip(
                (live.red(), live.green(), live.blue()), (stop.red(), stop.green(), stop.blue()), strict=True
            )
        ]
        between = QColor(*mixed)
        return p.colour("bar_faint"), p.colour("glow"), live.lighter(118), between, stop

    def _paint_strips(self, painter: QPainter) -> None:
        if not self.strips:
            return
        p = self.palette_
        left, right = self._span()
        shown = self.strips[self._first : self._first + MOST_ROWS]
        top = HEAD - 4.0
        painter.setPen(p.colour("bar_muted"))
        painter.drawText(QRectF(14, top, left - 20, 22), int(Qt.AlignmentFlag.AlignVCenter), "When each light shows")
        x = left
        for level, word in enumerate(("unseen", *LEVELS)):
            painter.fillRect(QRectF(x, top + 6, 12, 10), self.level_colours()[level])
            painter.drawText(QPointF(x + 17, top + 15), word)
            x += 27 + painter.fontMetrics().horizontalAdvance(word)
        rest = len(self.strips) - len(shown)
        tail = f"line: its room{f'; {rest} more by the wheel' if rest else ''}"
        if x + painter.fontMetrics().horizontalAdvance(tail) < right:
            painter.drawText(
                QRectF(x, top, right - x, 22), int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight), tail
            )
        for k, strip in enumerate(shown):
            y = HEAD + 20.0 + k * ROW
            picked = bool(set(strip.ids) & set(self.document.selection))
            painter.setPen(p.colour("live" if picked else "bar_ink"))
            name = painter.fontMetrics().elidedText(strip.name, Qt.TextElideMode.ElideRight, round(left - 22))
            painter.drawText(QRectF(14, y, left - 20, ROW), int(Qt.AlignmentFlag.AlignVCenter), name)
            edges = [left, *(self.x_of(lux) if lux > 0 else right for lux in strip.shows.until), right]
            for level, colour in enumerate(self.level_colours()):
                a, b = edges[level], edges[level + 1]
                if b > a:
                    painter.fillRect(QRectF(a, y + 3, b - a, ROW - 6), colour)
            low, high = strip.shows.shows_from
            if LEAST_LX < low < high:  # noon is at the left: what shows in more light reaches further there
                a, b = self.x_of(min(high, MOST_LX)), self.x_of(low)
                paint_whisker(painter, (a, b), y + ROW / 2, p.colour("bar_ink"), under=p.colour("bar"))
        for lux, name, thick in ((self.document.plan.room.lux, "bar_ink", 2.0), (self.lux, "live", 1.2)):
            x = self.x_of(lux)
            painter.setPen(QPen(p.colour(name), thick))
            painter.drawLine(QPointF(x, HEAD + 20), QPointF(x, HEAD + 20 + len(shown) * ROW))

    # -- hands ----------------------------------------------------------------------------------------------

    def _place(self, event: QMouseEvent) -> QPointF:
        return event.position() / text_factor()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = self._place(event)
        strip = self.row_at(at.y()) if at.x() < self._span()[0] else None
        if strip is not None:
            self.picked.emit(strip.ids)
            return
        self._clock.stop()
        self.set_lux(self.lux_at(at.x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = self._place(event)
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.set_lux(self.lux_at(at.x()))
            QToolTip.showText(event.globalPosition().toPoint(), lux_words(self.lux), self)
            return
        strip = self.row_at(at.y())
        words = (
            f"{strip.name}: {until_words(strip.shows)}; {strip.shows.words(self.lux)} at {figure(self.lux, 2)} lx"
            if strip is not None
            else ""
        )
        if words != self.toolTip():
            self.setToolTip(words)

    def wheelEvent(self, event: QWheelEvent) -> None:
        step = -1 if event.angleDelta().y() > 0 else 1
        self._first = min(max(self._first + step, 0), max(len(self.strips) - MOST_ROWS, 0))
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = (MOST_LX / LEAST_LX) ** (1.0 / KEY_STEPS)
        moves = {
            Qt.Key.Key_Left: self.lux * step,
            Qt.Key.Key_Right: self.lux / step,
            Qt.Key.Key_Home: MOST_LX,
            Qt.Key.Key_End: LEAST_LX,
        }
        key = Qt.Key(event.key())
        if key in moves:
            self._clock.stop()
            self.set_lux(moves[key])
        elif key == Qt.Key.Key_Escape:
            self.close_bar()
        else:
            super().keyPressEvent(event)
