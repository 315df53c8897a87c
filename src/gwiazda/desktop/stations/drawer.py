"""What the drawers of all stations share: a heading, a painted picture, and things in it that can be picked."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gwiazda.core.plan.model import Section
from gwiazda.core.turns import showing
from gwiazda.desktop.document import Document
from gwiazda.desktop.theme.fonts import figure_font, text_font
from gwiazda.desktop.theme.palette import BENCH, Palette
from gwiazda.desktop.theme.sizes import scaled, text_factor
from gwiazda.desktop.widgets.guard import Guarded

HEIGHT = 118
HEAD = 30
MARGIN, FOOT = 14, 10  # px: free beside a picture, and under it
LEAST_PX = 96.0  # of a section's column: narrower, its name can't be read


class StationDrawer(Guarded, QWidget):
    """A picture that computes. Subclasses paint into ``body`` and name the places that can be picked."""

    picked = Signal(str)
    weights_changed = Signal(dict)  # of channels on the night side, by what the drawer shows; empty: as wired
    title = ""
    night_note = ""  # what the night side shows with its weights
    grows = False  # whether its picture can use the room of the plate
    needs = HEIGHT  # px at 100 % text, while it has not grown

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.palette_: Palette = BENCH
        self.places: list[tuple[QRectF, str, str]] = []  # rectangle, item id, spoken text
        self.focus = 0
        self.grown = False
        self.setFixedHeight(self.needs)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMouseTracking(True)
        # The plate comes first while something is dragged; the drawer follows some twenty times a second.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(50)
        self._soon.timeout.connect(self.update)
        document.assessed.connect(self._assessed)
        document.selection_changed.connect(self.update)

    def back_to_wired(self) -> None:
        """Let the night side show the plan as wired again."""

    def measure(self) -> None:
        if self.grown:
            self.setMinimumHeight(scaled(self.needs))
            self.setMaximumHeight(16_777_215)
        else:
            self.setFixedHeight(scaled(self.needs))
        self.update()

    def set_grown(self, on: bool) -> None:
        """Take the room of the plate, or give it back."""
        self.grown = on
        self.measure()

    def wants(self, room: float) -> float:
        """How high it would be, of so much room (px at 100 % text), once it has grown: all of it, where its picture fills any."""
        return room

    def turn(self) -> None:
        """Show the next of its pictures, where it has several."""

    @property
    def idle(self) -> bool:
        """Whether nothing is being reckoned for it off the interface thread."""
        return True

    def close_workers(self) -> None:
        """Stop what is being reckoned."""

    @property
    def high(self) -> float:
        """Its height in units of 100 % text."""
        return self.height() / text_factor()

    def set_palette(self, palette: Palette) -> None:
        self.palette_ = palette
        self.update()

    def _assessed(self) -> None:
        if not self._soon.isActive():
            self._soon.start()

    def subtitle(self) -> str:
        return ""

    def paint_body(self, painter: QPainter, body: QRectF) -> None:
        """Paint the picture; each drawer has its own."""

    def paintEvent(self, event: QPaintEvent) -> None:
        with showing():
            self._paint()

    def _paint(self) -> None:
        painter, p = QPainter(self), self.palette_
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        k = text_factor()
        painter.scale(k, k)
        wide = self.width() / k
        painter.setPen(QPen(p.colour("live" if self.hasFocus() else "line"), 1))
        painter.setBrush(p.colour("panel"))
        painter.drawRoundedRect(QRectF(0.5, 0.5, wide - 1, self.high - 1), 8, 8)
        painter.setPen(p.colour("ink"))
        painter.setFont(text_font(14, text_font().Weight.DemiBold, plain=True))
        painter.drawText(QPointF(14, 21), self.title)
        advance = painter.fontMetrics().horizontalAdvance(self.title)
        painter.setPen(p.colour("muted"))
        painter.setFont(text_font(13, plain=True))
        left = 14 + advance + 12
        words = painter.fontMetrics().elidedText(self.subtitle(), Qt.TextElideMode.ElideRight, int(wide - left - 12))
        painter.drawText(QPointF(left, 21), words)
        self.places = []
        self.paint_body(painter, QRectF(MARGIN, HEAD, wide - 2 * MARGIN, self.high - HEAD - FOOT))
        if self.hasFocus() and self.places:
            rect = self.places[min(self.focus, len(self.places) - 1)][0]
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(p.colour("live"), 1.5))
            painter.drawRoundedRect(rect.adjusted(-3, -2, 3, 2), 4, 4)
        painter.end()

    def columns(
        self, painter: QPainter, body: QRectF, rows: list[Section], least: int, matters: Callable[[Section], float]
    ) -> tuple[list[Section], float]:
        """The sections that have room side by side, and the width of each: at least as wide as for ``least`` of them.

        Where there are too many, those picked and those that matter most are shown, in the plan's order; how many more
        there are is said behind them.
        """
        room = int(body.width() // LEAST_PX)
        more = len(rows) - room
        if more <= 0:
            return rows, body.width() / max(len(rows), least)
        chosen = set(self.document.selection)
        ranked = sorted(rows, key=lambda s: (s.id in chosen, matters(s)), reverse=True)
        shown = {s.id for s in ranked[: room - 1]}
        cell = body.width() / room
        place = QRectF(body.left() + (room - 1) * cell, body.top() + 22, cell - 18, 20)
        self.words(painter, place, f"and {more + 1} more")
        return [s for s in rows if s.id in shown], cell

    def figure(self, painter: QPainter, rect: QRectF, text: str, colour: str = "ink", px: int = 15) -> None:
        painter.setPen(self.palette_.colour(colour))
        painter.setFont(figure_font(px, plain=True))
        painter.drawText(rect, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)

    def words(self, painter: QPainter, rect: QRectF, text: str, colour: str = "muted", bold: bool = False) -> None:
        painter.setPen(self.palette_.colour(colour))
        weight = text_font().Weight.DemiBold if bold else text_font().Weight.Normal
        painter.setFont(text_font(12 if not bold else 13, weight, plain=True))
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(rect.width()))
        painter.drawText(rect, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for i, (rect, item_id, _) in enumerate(self.places):
            if rect.contains(event.position() / text_factor()):
                self.focus = i
                self.picked.emit(item_id)
                return

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = next((text for rect, _, text in self.places if rect.contains(event.position() / text_factor())), "")
        self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)
        self.setToolTip(over)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and self.places:
            self.focus = (self.focus + (1 if event.key() == Qt.Key.Key_Right else -1)) % len(self.places)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space) and self.places:
            self.picked.emit(self.places[min(self.focus, len(self.places) - 1)][1])
        else:
            super().keyPressEvent(event)
