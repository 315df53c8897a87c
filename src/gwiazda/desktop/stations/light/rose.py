"""The rose of an opening: from which directions it is seen lit, and from which a lamp shows behind it; a click walks there."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QWidget

from gwiazda.core.assess.sight.rose import COUNT, Look, Rose, rose_of, words_of
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.desktop.panels.panel import PanelCard, label
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import SMALL_PX
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import theme_of

SIZE = QSize(132, 132)
HOLE = 20.0  # px: its own place in the middle


class RosePicture(Guarded, QWidget):
    """Seen from above, the bow to the left as in the view from above: the inner ring at its level, the outer from 30° above."""

    taken = Signal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self.rose: Rose | None = None
        self._plan = Plan()
        self.setFixedSize(SIZE)
        self.setMouseTracking(True)

    def show_rose(self, plan: Plan, rose: Rose | None) -> None:
        self._plan, self.rose = plan, rose
        self.setAccessibleName(words_of(plan, rose) if rose is not None else "No rose")
        self.update()

    def _rings(self) -> list[tuple[float, float, tuple[Look, ...]]]:
        """Inner and outer radius of each ring, and what is in it."""
        looks = self.rose.looks if self.rose is not None else ()
        count = max(len(looks) // COUNT, 1)
        wide = (SIZE.width() / 2 - 16 - HOLE) / count
        return [
            (HOLE + k * wide, HOLE + (k + 1) * wide, looks[k * COUNT : (k + 1) * COUNT]) for k in range(len(looks) // COUNT)
        ]  # fmt: skip

    @staticmethod
    def _angle(look: Look) -> float:
        """Where a direction lies in the picture, degrees anticlockwise from the right; port is below, as the view from above lays it."""
        return 270.0 - look.azimuth_deg

    def paintEvent(self, event: QPaintEvent) -> None:
        palette, painter = theme_of(self), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = QPointF(SIZE.width() / 2, SIZE.height() / 2)
        painter.setFont(text_font(SMALL_PX))
        painter.setPen(palette.colour("muted"))
        for words, box in (
            ("bow", QRectF(0, middle.y() - 50, 30, 16)),
            ("port", QRectF(middle.x() + 12, SIZE.height() - 16.0, 34, 16)),
        ):
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        for inner, outer, looks in self._rings():
            for look in looks:
                start, span = self._angle(look) - 180.0 / COUNT + 1.0, 360.0 / COUNT - 2.0
                path = QPainterPath()
                big = QRectF(middle.x() - outer, middle.y() - outer, 2 * outer, 2 * outer)
                small = QRectF(middle.x() - inner - 1.5, middle.y() - inner - 1.5, 2 * inner + 3, 2 * inner + 3)
                path.arcMoveTo(big, start)
                path.arcTo(big, start, span)
                path.arcTo(small, start + span, -span)
                path.closeSubpath()
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(palette.colour("pane" if look.lit else ("pane_dark" if look.seen else "line")))
                painter.setOpacity(1.0 if look.seen else 0.45)
                painter.drawPath(path)
                painter.setOpacity(1.0)
                if look.lamp:
                    # A dot as well as a colour: nobody has to tell it by colour alone.
                    at, mid = math.radians(self._angle(look)), (inner + outer) / 2
                    painter.setBrush(palette.colour("stop"))
                    painter.drawEllipse(middle + QPointF(mid * math.cos(at), -mid * math.sin(at)), 3.4, 3.4)
        painter.setBrush(palette.colour("ink"))
        painter.drawRect(QRectF(middle.x() - 3, middle.y() - 3, 6, 6))
        painter.setPen(QPen(palette.colour("muted"), 1))
        painter.drawLine(QPointF(2, middle.y()), QPointF(11, middle.y()))
        painter.drawLine(QPointF(2, middle.y()), QPointF(6, middle.y() - 3))
        painter.drawLine(QPointF(2, middle.y()), QPointF(6, middle.y() + 3))
        painter.end()

    def look_at(self, x: float, y: float) -> Look | None:
        """The direction drawn at a place."""
        dx, dy = x - SIZE.width() / 2, SIZE.height() / 2 - y
        far, angle = math.hypot(dx, dy), math.degrees(math.atan2(dy, dx))
        for inner, outer, looks in self._rings():
            if inner <= far < outer:
                return min(looks, key=lambda k: abs((self._angle(k) - angle + 180.0) % 360.0 - 180.0))
        return None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        look = self.look_at(event.position().x(), event.position().y())
        if look is None:
            self.setToolTip("")
            return
        what = "not seen" if not look.seen else ("seen lit" if look.lit else "seen dark")
        if look.lamp:
            what = f"{name_of(self._plan, look.lamp)} shows"
        self.setToolTip(f"{look.height_deg:g}° up: {what}. A click walks there.")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        look = self.look_at(event.position().x(), event.position().y())
        if look is not None:
            self.taken.emit(look.azimuth_deg, look.height_deg)


class RoseCard(PanelCard):
    """From where it is seen lit, and from where a lamp shows."""

    title = "From where it shows"
    extra = True

    def build(self) -> None:
        card = self.card
        row = QHBoxLayout()
        self.picture = RosePicture()
        self.picture.taken.connect(self._walk)
        row.addWidget(self.picture)
        key = label("Inner ring: eye at its level. Outer: 30° above. Dots: a lamp in plain sight.", "muted", wrap=True)
        row.addWidget(key, 1)
        card.outer.addLayout(row)
        self.words = card.consequence()

    def say(self) -> None:
        plan = self.document.assessed_plan
        rose = rose_of(plan, self.panel.assessment, self.first.id)
        self.picture.show_rose(plan, rose)
        self.picture.setVisible(rose is not None)
        self.words.setText(words_of(plan, rose) if rose is not None else "It leads into another section.")

    def _walk(self, azimuth_deg: float, height_deg: float) -> None:
        window = self.picture.window()
        look = getattr(window, "look_from", None)
        if look is not None:
            look(azimuth_deg, height_deg)
