"""A look as a small picture of the light in the dark, to be chosen by a click."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QRadialGradient
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QWidget

from gwiazda.core.assess.aims import NIGHT
from gwiazda.core.assess.lights.looks import TRIED, Tried, worth_showing
from gwiazda.core.assess.lights.states import LightState
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import figure, format_current, format_hours, format_resistance
from gwiazda.desktop.panels.panel import PanelCard
from gwiazda.desktop.plate.lines.works import lamp_colour
from gwiazda.desktop.theme.fonts import figure_font, text_font
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import theme_of

LOOK_WORDS = {"barely": "barely", "soft": "soft", "normal": "clear", "bright": "bright", "full": "full"}


class LookTile(Guarded, QAbstractButton):
    """A look as a small picture of the light in the dark, with what it takes under it."""

    def __init__(self, look: str) -> None:
        super().__init__()
        self.look, self._now = look, False
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._tried: Tried | None = None

    def sizeHint(self) -> QSize:
        return QSize(70, scaled(114))

    def show_tried(self, found: Tried | None, now: bool) -> None:
        """What comes of the look, or that it is on its way; whether it is the one there is."""
        self._tried, self._now = found, now
        words = LOOK_WORDS[self.look]
        self.setAccessibleName(f"{words}{', chosen' if now else ''}: {self.words()}")
        self.setToolTip(f"{words}: {self.words()}. A click takes it")
        self.update()

    def words(self) -> str:
        """How bright, by which resistor, what it draws and how long its source lasts then."""
        if self._tried is None or self._tried.state is None:
            return "…"
        state, ohm = self._tried.state, self._tried.resistor_ohm
        hours = self._tried.hours
        said = [
            f"{figure(state.value, 2)} {state.unit}",
            *([format_resistance(ohm)] if ohm else []),
            format_current(self._tried.current_a),
        ]
        return ", ".join([*said, *([format_hours(hours)] if math.isfinite(hours) else [])])

    def paintEvent(self, event: QPaintEvent) -> None:
        palette = theme_of(self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        high = scaled(44)
        box = QRectF(1, 1, self.width() - 2, high)
        live = self._now or self.underMouse() or self.hasFocus()
        painter.setPen(QPen(palette.colour("live" if live else "line"), 2 if self._now else 1))
        painter.setBrush(palette.colour("night"))
        painter.drawRoundedRect(box, 4, 4)
        if self._tried is not None and self._tried.state is not None:
            self._glow(painter, box, self._tried.state)
        painter.setPen(palette.colour("ink"))
        painter.setFont(text_font())
        painter.drawText(QRectF(2, high + 3, self.width() - 2, 18), Qt.AlignmentFlag.AlignLeft, LOOK_WORDS[self.look])
        painter.setPen(palette.colour("muted"))
        painter.setFont(figure_font(12))
        for k, words in enumerate(self.words().split(", ")):
            painter.drawText(QRectF(2, high + 19 + 13 * k, self.width() - 2, 16), Qt.AlignmentFlag.AlignLeft, words)
        painter.end()

    def _glow(self, painter: QPainter, box: QRectF, state: LightState) -> None:
        """The light in the dark: its halo grows with the logarithm of what it gives over what is normal at night."""
        share = min(
            max(
                0.5
                + 0.25
                * math.log10(
                    max(state.value, 1e-3) / (NIGHT.pane("normal") if state.unit == "cd/m²" else NIGHT.point("normal"))
                ),
                0.06,
            ),
            1.0,
        )
        colour = lamp_colour(state.rgb, theme_of(self))
        glow = QRadialGradient(box.center(), box.height() * (0.18 + 0.5 * share))
        for at, alpha in ((0.0, share), (0.35, 0.35 * share), (1.0, 0.0)):
            shade = QColor(colour)
            shade.setAlphaF(alpha)
            glow.setColorAt(at, shade)
        painter.save()
        painter.setClipRect(box)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(glow)
        painter.drawRect(box)
        painter.setBrush(colour)
        painter.drawEllipse(QPointF(box.center()), 1.6, 1.6)
        painter.restore()


class LookRow(QWidget):
    """The looks to choose from, side by side; those that come out alike are one."""

    taken = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        self.tiles = {str(look): LookTile(look) for look in TRIED}
        for look, tile in self.tiles.items():
            tile.clicked.connect(lambda _=False, v=look: self.taken.emit(v))
            row.addWidget(tile)

    def show_looks(self, found: tuple[Tried, ...], now: str) -> None:
        """What was found, or that it is on its way; ``now`` is the look there is."""
        mine = {str(t.look): t for t in found}
        shown = {str(t.look) for t in worth_showing(found, now)}
        for look, tile in self.tiles.items():
            tile.show_tried(mine.get(look), look == now)
            tile.setVisible(not mine or look in shown)


Job = Callable[[Plan, Assessment], tuple[Tried, ...]]


class LookChoices:
    """The looks to choose from for what is picked, on its card; they are tried in the whole plan, beside, each time it has gone on."""

    def __init__(
        self, card: PanelCard, take: Callable[[str], object], after: Callable[[], object] | None = None
    ) -> None:
        self.panel, self.document, self._after = card.panel, card.document, after
        self.row = LookRow()
        self.row.taken.connect(take)
        card.card.outer.addWidget(self.row)
        self.found: tuple[Tried, ...] = ()
        self._of: object = None
        self._now = ""
        self._asked: tuple[Plan, object] | None = None

    def show(self, of: object, now: str, job: Job | None) -> None:
        """Of what they are, the look there is now, and how they are tried; None where there is nothing to choose."""
        self.row.setVisible(job is not None)
        if of != self._of:
            self.found, self._of, self._asked = (), of, None
        self._now = now
        if job is None:
            return
        self.row.show_looks(self.found, now)
        plan, assessment, asked = self.document.assessed_plan, self.panel.assessment, self._asked
        fresh = asked is None or asked[0] is not plan or asked[1] is not assessment.catalogue
        if fresh and not self.document.dragging:
            self._asked = (plan, assessment.catalogue)
            self.panel.task("looks").ask_soon(plan, lambda: job(plan, assessment), partial(self._have, of))

    def _have(self, of: object, found: tuple[Tried, ...]) -> None:
        if of == self._of:
            self.found = found
            self.row.show_looks(found, self._now)
            if self._after is not None:
                self._after()
