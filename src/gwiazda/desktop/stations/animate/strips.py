"""Strips of light over time, one a channel, and the cues that make them: the picture of the Animate drawer."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPen, QPolygonF

from gwiazda.core.assess.show.outputs import board_name
from gwiazda.core.assess.show.playing import Strip, strips_of
from gwiazda.core.assess.show.words import pattern_words, when_words
from gwiazda.core.effect.score import levels
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Cue
from gwiazda.core.quantities import figure, format_current
from gwiazda.core.render.tone import to_srgb
from gwiazda.desktop.stations.animate.player import Player
from gwiazda.desktop.stations.drawer import StationDrawer
from gwiazda.desktop.theme.sizes import text_factor

NAME = 128.0  # px of the names beside the strips
ROW, LEAST_ROW = 21.0, 13.0
RULER = 18.0
POWER = 74.0  # px of the current's curve, while the drawer has grown
ROUNDS = (0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 60.0, 120.0, 300.0, 600.0, 1800.0, 3600.0)


class Bar(NamedTuple):
    """A cue on a channel's strip, where it is drawn."""

    rect: QRectF
    cue: str
    channel: str


class StripsDrawer(StationDrawer):
    """Paints the show; what moves it is in ``drawer``."""

    player: Player

    def __init__(self, document, parent=None) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document, parent)
        self.first_s, self.shown_s = 0.0, 12.0
        self.top_row = 0
        self.row = 0  # the channel the keys are at
        self._plot, self._tall = QRectF(), ROW
        self.bars: list[Bar] = []
        self._strips: tuple[tuple[object, ...], QImage] | None = None

    def channels(self) -> tuple[Strip, ...]:
        """The strips: channels, those that move first, and lamps that flash by themselves."""
        return strips_of(self.document.assessed_plan, self.document.assessment)

    def subtitle(self) -> str:
        plan, assessment = self.document.assessed_plan, self.document.assessment
        if not plan.channels:
            return "no channel yet: pick lamps on the plate and give them one"
        if not assessment.effects.moves:
            return "nothing moves yet: pick a channel and add a cue (Enter)"
        shows = assessment.effects.feeds.values()
        mean, peak = sum(s.mean_a for s in shows), sum(s.peak_a for s in shows)
        return f"{figure(self.player.at_s)} s · on average {format_current(mean)}, at most {format_current(peak)}"

    def time_x(self, seconds: float) -> float:
        return self._plot.left() + (seconds - self.first_s) / self.shown_s * self._plot.width()

    def time_at(self, x: float) -> float:
        return self.first_s + (x - self._plot.left()) / max(self._plot.width(), 1.0) * self.shown_s

    def paint_body(self, painter: QPainter, body: QRectF) -> None:
        self.bars = []
        rows = self.channels()
        if not rows:
            self._plot, self.row, self.top_row = QRectF(), 0, 0
            self._teach(painter, body)
            return
        power = POWER if self.grown and self.document.assessed_plan.cues else 0.0
        high = body.height() - RULER - power - (8 if power else 0)
        tall = min(ROW, max(LEAST_ROW, high / len(rows)))
        room = max(int(high // tall), 1)
        self._tall = tall
        self.row = min(self.row, len(rows) - 1)
        self.top_row = min(max(self.top_row, self.row - room + 1, 0), max(len(rows) - room, 0), self.row)
        shown = rows[self.top_row : self.top_row + room]
        self._plot = QRectF(body.left() + NAME, body.top() + RULER, body.width() - NAME, tall * len(shown))
        self._ruler(painter, body)
        self._paint_strips(painter, shown, tall)
        for k, c in enumerate(shown):
            self._name(painter, c, QRectF(body.left(), self._plot.top() + k * tall, NAME - 8, tall))
        self._paint_cues(painter, shown, tall)
        if len(rows) > len(shown):
            left = len(rows) - len(shown)
            place = QRectF(body.left(), body.top(), NAME - 8, RULER)
            self.words(painter, place, f"and {left} more (↑ ↓)")
        if power:
            self._paint_power(painter, QRectF(self._plot.left(), body.bottom() - power, self._plot.width(), power))
        self._needle(painter, body)

    def _teach(self, painter: QPainter, body: QRectF) -> None:
        lines = (
            "Pick lamps or dots on the plate; the card “In time” on the right puts them on one channel, or on one each.",
            "A channel is a strip of its own light here. Cues on it say what it does: blink, throb, chase, start up in stages.",
            "Then Space plays it, and the night side with it.",
        )
        for k, line in enumerate(lines):
            self.words(
                painter,
                QRectF(body.left(), body.top() + 8 + 22 * k, body.width(), 20),
                line,
                "ink" if not k else "muted",
            )

    def _ruler(self, painter: QPainter, body: QRectF) -> None:
        p, plot = self.palette_, self._plot
        step = next((r for r in ROUNDS if r / self.shown_s * plot.width() >= 62), ROUNDS[-1])
        first = math.ceil(self.first_s / step - 1e-9)
        painter.setPen(QPen(p.colour("line"), 1))
        for k in range(first, int((self.first_s + self.shown_s) / step + 1e-9) + 1):
            x = self.time_x(k * step)
            painter.setPen(QPen(p.colour("line"), 1))
            painter.drawLine(QLineF(x, body.top() + 11, x, plot.bottom()))
            if x < plot.right() - 30:
                self.words(painter, QRectF(x + 3, body.top() - 2, 60, 16), f"{figure(k * step)} s")

    def _name(self, painter: QPainter, c: Strip, place: QRectF) -> None:
        p, plan = self.palette_, self.document.assessed_plan
        picked = c.id in self.document.selection
        if picked or (self.hasFocus() and self.channels()[min(self.row, len(self.channels()) - 1)].id == c.id):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.colour("choice" if picked else "live", 40))
            painter.drawRoundedRect(place.adjusted(-4, 1, 4, -1), 4, 4)
        channel = next((x for x in plan.channels if x.id == c.id), None)
        numbered = channel is not None and channel.board != "" and channel.output > 0
        self.words(painter, place.adjusted(0, 0, -22 if numbered else 4, 0), c.name, "ink")
        if numbered and channel is not None:
            self.words(painter, QRectF(place.right() - 18, place.top(), 20, place.height()), f"{channel.output}")
        state = self.document.assessment.effects.channels.get(c.id)
        words = c.name
        if state is not None:
            words += f": {format_current(state.full_a)} fully on, {format_current(state.mean_a)} on average"
        if channel is not None and channel.board:
            words += f"; output {channel.output} of {board_name(plan, channel.board, self.document.catalogue)}"
        self.places.append((place, c.id, words))

    def _colours(self, shown: tuple[Strip, ...]) -> npt.NDArray[np.float64]:
        """Colour of each channel's light (linear), the mean of its lamps'."""
        lamps, rows = self.document.assessment.lamps.values(), self.document.assessment.effects.score.rows
        out = np.ones((len(shown), 3))
        for k, c in enumerate(shown):
            mine = [np.array(s.rgb) * s.flux_lm for s in lamps if rows.get(s.channel, -1) in c.rows]
            if mine and (total := np.sum(mine, axis=0)).max() > 0:
                out[k] = total / total.max()
        return out

    def _paint_strips(self, painter: QPainter, shown: tuple[Strip, ...], tall: float) -> None:
        """The light of each channel along the time shown: each column the mean of its moments, as an eye would have it."""
        score = self.document.assessment.effects.score
        k = text_factor()
        wide = max(int(self._plot.width() * k), 1)
        key = (score, shown, wide, self.first_s, self.shown_s, self.palette_.name)
        if self._strips is None or self._strips[0] != key:
            self._strips = (key, self._strip_image(shown, wide))
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        image: QImage = self._strips[1]
        for i in range(len(shown)):
            place = QRectF(self._plot.left(), self._plot.top() + i * tall + 2, self._plot.width(), tall - 4)
            painter.drawImage(place, image, QRectF(0, i, wide, 1))
        painter.restore()

    def _strip_image(self, shown: tuple[Strip, ...], wide: int) -> QImage:
        score = self.document.assessment.effects.score
        fine = 4 if self.shown_s / wide > 0.004 else 1  # so that short flashes aren't missed
        t = self.first_s + (np.arange(wide * fine) + 0.5) / (wide * fine) * self.shown_s
        light, _ = levels(score, t)
        mine: npt.NDArray[np.float64] = np.array(
            [light[list(c.rows)].mean(axis=0) if c.rows else np.ones(len(t)) for c in shown]
        )
        column = mine.reshape(len(shown), wide, fine).max(axis=2)
        dark = self.palette_.colour("night")
        night = np.array([dark.redF(), dark.greenF(), dark.blueF()])
        dim = 1.0 if self.palette_.name == "bench" else 0.45
        colour = to_srgb(self._colours(shown)[:, None, :] * np.minimum(column, 1.0)[:, :, None] * dim)
        shade = np.maximum(colour, night[None, None, :])
        pixels = np.full((len(shown), wide, 4), 255, np.uint8)
        pixels[:, :, :3] = np.rint(shade[:, :, ::-1] * 255).astype(np.uint8)
        image = QImage(pixels.tobytes(), wide, len(shown), wide * 4, QImage.Format.Format_RGB32)
        return image.copy()

    def _spans(self, cue: Cue) -> list[tuple[float, float]]:
        """When a cue is on within the time shown."""
        plan, end = self.document.assessed_plan, self.first_s + self.shown_s
        length = cue.length_s if cue.length_s is not None else math.inf
        begins = [cue.start_s]
        if cue.trigger:
            begins = [t + cue.start_s for x in plan.triggers if x.id == cue.trigger for t in x.at_s]
        elif cue.again_s is not None:
            first = max(math.floor((self.first_s - cue.start_s) / cue.again_s), 0)
            begins = [cue.start_s + k * cue.again_s for k in range(first, first + 200)]
        return [(b, min(b + length, end)) for b in begins if b < end and b + length > self.first_s]

    def _paint_cues(self, painter: QPainter, shown: tuple[Strip, ...], tall: float) -> None:
        p = self.palette_
        painter.save()
        painter.setClipRect(self._plot.adjusted(-1, -1, 1, 1))
        picked = set(self.document.selection)
        for i, c in enumerate(shown):
            for cue in self.document.assessed_plan.cues:
                if c.id not in cue.channels:
                    continue
                for first, last in self._spans(cue):
                    inset = {"base": 1.0, "modifier": 4.0, "mask": 6.0}[cue.stack]
                    rect = QRectF(
                        QPointF(self.time_x(first), self._plot.top() + i * tall + inset),
                        QPointF(self.time_x(last), self._plot.top() + (i + 1) * tall - inset),
                    )
                    on = cue.id in picked
                    pen = QPen(p.colour("live" if on else "muted"), 2.0 if on else 1.0)
                    if cue.stack != "base":
                        pen.setStyle(Qt.PenStyle.DotLine)
                    painter.setPen(pen)
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.drawRoundedRect(rect, 3, 3)
                    self.bars.append(Bar(rect, cue.id, c.id))
        painter.restore()
        for bar in self.bars:
            if bar.cue in picked and bar.rect.width() > 40:
                cue = edits.cue_of(self.document.assessed_plan, bar.cue)
                if bar.channel == cue.channels[0]:
                    self._cue_words(painter, bar.rect, cue)
        for bar in self.bars:
            cue = edits.cue_of(self.document.assessed_plan, bar.cue)
            text = f"{cue.name or pattern_words(cue.does)}; {when_words(cue)}. Drag it, or its end; Shift: its rounds; Ctrl: a copy; Alt: its phase"
            self.places.append((bar.rect, bar.cue, text))

    def _cue_words(self, painter: QPainter, rect: QRectF, cue: Cue) -> None:
        """What the picked cue does, on its bar."""
        words = cue.name or pattern_words(cue.does)
        place = QRectF(
            max(rect.left(), self._plot.left()) + 5, rect.top() + 1, min(rect.width() - 10, 300), rect.height() - 2
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.palette_.colour("night", 170))
        metrics = painter.fontMetrics()
        painter.drawRoundedRect(QRectF(place.left() - 2, place.top() + 1, min(metrics.horizontalAdvance(words) + 8, place.width()), place.height() - 2), 3, 3)  # fmt: skip
        self.words(painter, place, words, "night_ink")

    def _paint_power(self, painter: QPainter, place: QRectF) -> None:
        """What the sources give along the time, against what they may."""
        p, assessment = self.palette_, self.document.assessment
        wide = max(int(place.width()), 2)
        t = self.first_s + (np.arange(wide) + 0.5) / wide * self.shown_s
        _, draw = levels(assessment.effects.score, t)
        full = np.array([assessment.effects.channels[n].full_a for n in assessment.effects.score.names])
        total = sum(s.full_a for s in assessment.effects.feeds.values())
        along = total - full.sum() + full @ draw
        limits = [s.limit_a for s in assessment.feeds.values() if s.limit_a]
        limit = sum(limits)
        top = max(float(along.max()), total, 1e-6) * 1.15
        base = place.bottom() - 2

        def y(amps: float) -> float:
            return base - (place.height() - 16) * min(amps / top, 1.0)

        painter.setPen(QPen(p.colour("line"), 1))
        painter.drawLine(QLineF(place.left(), base, place.right(), base))
        line = QPolygonF([QPointF(place.left() + k, y(float(a))) for k, a in enumerate(along)])
        painter.setPen(QPen(p.colour("wire_plus"), 1.4))
        painter.drawPolyline(line)
        mean = sum(s.mean_a for s in assessment.effects.feeds.values())
        painter.setPen(QPen(p.colour("muted"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QLineF(place.left(), y(mean), place.right(), y(mean)))
        left = QRectF(place.left() - NAME, place.top(), NAME - 8, 17)
        self.words(painter, left, "Current", "ink", bold=True)
        self.words(painter, left.translated(0, 17), f"mean {format_current(mean)}")
        self.words(painter, left.translated(0, 33), f"peak {format_current(float(along.max()))}")
        if limit and limit < top:
            painter.setPen(QPen(p.colour("stop"), 1.4))
            painter.drawLine(QLineF(place.left(), y(limit), place.right(), y(limit)))
            self.words(
                painter,
                QRectF(place.right() - 150, y(limit) - 16, 148, 16),
                f"sources give {format_current(limit)}",
                "stop_ink",
            )

    def _needle(self, painter: QPainter, body: QRectF) -> None:
        x = self.time_x(self.player.at_s)
        if self._plot.left() - 1 <= x <= self._plot.right() + 1:
            painter.setPen(QPen(self.palette_.colour("live"), 2))
            painter.drawLine(QLineF(x, body.top() + 2, x, body.bottom() if self.grown else self._plot.bottom() + 2))
            painter.setBrush(self.palette_.colour("live"))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawPolygon(
                QPolygonF([QPointF(x - 5, body.top()), QPointF(x + 5, body.top()), QPointF(x, body.top() + 7)])
            )
