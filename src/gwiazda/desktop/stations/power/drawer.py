"""Power: the evening as a strip, who draws what, and other sources side by side."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QLinearGradient, QMouseEvent, QPainter, QPen, QPolygonF

from gwiazda.core.assess.electrics.evening import Option, draws_of, evening_of, options_for, same_source, short_list
from gwiazda.core.assess.states import SupplyState
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Feed
from gwiazda.core.plan.naming import name_of
from gwiazda.core.power.discharge import DARK_SHARE
from gwiazda.core.quantities import counted, figure, format_current, format_hours
from gwiazda.core.render.tone import to_srgb
from gwiazda.desktop.plate.lines.works import lamp_colour
from gwiazda.desktop.stations.drawer import HEAD, StationDrawer
from gwiazda.desktop.tasks import PlanTask
from gwiazda.desktop.theme.sizes import text_factor

EVENING_H = 142.0  # px of the evening's strip, also while the drawer has grown
ROW = 19.0
COST = {0: "", 1: "little", 2: "some", 3: "much"}
HOURS_SHOWN = (0.5, 500.0)  # of the bars of sources, on a logarithmic scale


class PowerDrawer(StationDrawer):
    title = "Power"
    grows = True
    needs = 178

    def __init__(self, document, parent=None) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document, parent)
        self.hour: float | None = None
        self._end, self._plot = 1.0, QRectF()
        self._scrubbing = False
        self.options: tuple[Option, ...] = ()
        self._options_of: object = None
        self._rows: list[Option] = []
        self._task: PlanTask[tuple[Option, ...]] | None = None
        document.assessed.connect(self._follow)

    def feed(self) -> Feed:
        """The source that is shown: the one picked, else the first."""
        feeds = self.document.assessed_plan.feeds
        return next((f for f in feeds if f.id in self.document.selection), feeds[0])

    def state(self) -> SupplyState:
        assessment = self.document.assessment
        return assessment.feeds.get(self.feed().id, assessment.supply)

    def subtitle(self) -> str:
        s, supply = self.state(), self.feed().supply
        count = supply.in_series * supply.in_parallel
        cells = f"{count} × " if count > 1 else ""
        text = f"{cells}{s.name}, {figure(s.nominal_v)} V"
        if s.is_battery and not math.isinf(s.hours):
            a_day = self.feed().hours_a_day
            evenings = int(s.hours / a_day)
            text += (
                f" · {format_hours(s.hours)} to {s.ends}; {figure(a_day)} h an evening: {counted(evenings, 'evening')}"
            )
            if s.first_out:
                text += f", {s.first_out} fades first"
        return text + ("" if self.grown else " · G: other sources")

    # -- painting ----------------------------------------------------------------------------------------

    def paint_body(self, painter: QPainter, body: QRectF) -> None:
        high = min(body.height(), EVENING_H)
        wide = body.width() * 0.62
        self._evening(painter, QRectF(body.left(), body.top(), wide, high))
        self._draws(painter, QRectF(body.left() + wide + 22, body.top() - 2, body.width() - wide - 22, high))
        if self.grown and body.height() > high + 60:
            self._sources(painter, QRectF(body.left(), body.top() + high + 14, body.width(), body.height() - high - 14))

    def _evening(self, painter: QPainter, body: QRectF) -> None:
        s, p = self.state(), self.palette_
        self._plot = QRectF()
        if not s.is_battery or math.isinf(s.hours) or not len(s.curve_hours):
            self._steady(painter, body, s)
            return
        hours, light = s.curve_hours, s.curve_light
        end = float(min(hours[-1], s.hours * 1.25))
        end = max(end, 1.0 / 60.0) if math.isfinite(end) else 1.0  # one that is flat at once has no curve to speak of
        plot = QRectF(body.left() + 44, body.top() + 8, body.width() - 60, body.height() - 44)
        self._end, self._plot = end, plot

        def at(hour: float, share: float) -> QPointF:
            return QPointF(
                plot.left() + plot.width() * hour / end, plot.bottom() - plot.height() * min(share, 1.1) / 1.1
            )

        painter.setPen(QPen(p.colour("line"), 1))
        for share, name in ((1.0, "100 %"), (DARK_SHARE, "50 %")):
            y = at(0, share).y()
            painter.drawLine(QLineF(plot.left(), y, plot.right(), y))
            self.words(painter, QRectF(body.left() - 2, y - 9, 44, 18), name)
            painter.setPen(QPen(p.colour("line"), 1))
        shown = hours <= end
        families = {part.colour: part for part in self.document.catalogue.lamps.values()}
        for name, curve in s.curve_colours.items():
            colour = lamp_colour(self._rgb(name), p) if name in families else QColor(p.muted)
            pen = QPen(colour.darker(125) if p.name == "bench" else colour, 1.4, Qt.PenStyle.DotLine)
            painter.setPen(pen)
            painter.drawPolyline(QPolygonF([at(h, v) for h, v in zip(hours[shown], curve[shown], strict=True)]))
        painter.setPen(QPen(p.colour("ink"), 2))
        painter.drawPolyline(QPolygonF([at(h, v) for h, v in zip(hours[shown], light[shown], strict=True)]))
        stop = at(s.hours, 0).x()
        painter.setPen(QPen(p.colour("stop"), 1.6))
        painter.drawLine(QLineF(stop, plot.top(), stop, plot.bottom()))
        self.words(painter, QRectF(stop + 5, plot.top() - 4, 120, 16), format_hours(s.hours), "stop_ink", bold=True)
        # The strip: the model's own light, at the screen value of its share.
        strip = QRectF(plot.left(), plot.bottom() + 5, plot.width(), 11)
        gradient = QLinearGradient(strip.topLeft(), strip.topRight())
        base = QColor(p.pane)
        for h in np.linspace(0.0, end, 24):
            share = float(np.interp(h, hours, light))
            level = float(to_srgb(np.array(min(share, 1.0) * 0.9)))
            gradient.setColorAt(
                h / end, QColor.fromRgbF(base.redF() * level, base.greenF() * level, base.blueF() * level)
            )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(gradient)
        painter.drawRoundedRect(strip, 3, 3)
        self.words(painter, QRectF(strip.left(), strip.bottom() + 2, 60, 16), "0 h")
        self.words(painter, QRectF(strip.right() - 30, strip.bottom() + 2, 50, 16), f"{end:.0f} h")
        if self.hour is None:
            middle = QRectF(strip.left() + 40, strip.bottom() + 2, strip.width() - 80, 16)
            self.words(painter, middle, "drag along the curve: the night side follows")
        else:
            self._needle(painter, plot, strip, at)
        place = QRectF(plot.left(), body.top(), plot.width(), body.height())
        self.places.append((place, self.feed().id, f"Light along the evening: {format_hours(s.hours)} to {s.ends}"))

    def _needle(self, painter: QPainter, plot: QRectF, strip: QRectF, at) -> None:  # type: ignore[no-untyped-def]
        assert self.hour is not None
        s, p = self.state(), self.palette_
        x = at(self.hour, 0).x()
        painter.setPen(QPen(p.colour("live"), 2))
        painter.drawLine(QLineF(x, plot.top() - 6, x, strip.bottom() + 1))
        volts = float(np.interp(self.hour, s.curve_hours, s.curve_terminal_v))
        light = float(np.interp(self.hour, s.curve_hours, s.curve_light))
        words = f"{format_hours(self.hour)}: {volts:.2f} V, {light * 100:.0f} % of its light"
        left = min(max(x - 90, strip.left() + 34), strip.right() - 210)
        self.words(painter, QRectF(left, strip.bottom() + 2, 230, 16), words, "ink")

    def _steady(self, painter: QPainter, body: QRectF, s: SupplyState) -> None:
        """An adapter, or a source with nothing on it."""
        p = self.palette_
        share = s.draw_a / s.limit_a if s.limit_a else 0.0
        text = "Nothing is drawn yet."
        if s.draw_a > 0:
            text = f"From an adapter the light stays as it is. It gives {share * 100:.0f} % of what it should at most."
        self.words(painter, QRectF(body.left(), body.top() + 4, body.width(), 20), text, "ink")
        if s.is_battery:
            return
        track = QRectF(body.left(), body.top() + 34, body.width() * 0.7, 10)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.colour("line"))
        painter.drawRoundedRect(track, 5, 5)
        painter.setBrush(p.colour("fine" if share <= 1 else "stop"))
        painter.drawRoundedRect(QRectF(track.left(), track.top(), track.width() * min(share, 1.0), 10), 5, 5)
        self.words(
            painter,
            QRectF(track.right() + 12, track.top() - 5, 200, 20),
            f"{s.draw_a * 1e3:.0f} of {s.limit_a * 1e3:.0f} mA",
        )

    def _draws(self, painter: QPainter, body: QRectF) -> None:
        """Who draws what, as bars."""
        p, plan = self.palette_, self.document.assessed_plan
        draws = draws_of(plan, self.document.assessment)
        if not draws:
            return
        self.words(
            painter, QRectF(body.left(), body.top() - 2, body.width(), 16), "Who draws what", bold=True, colour="ink"
        )
        room = max(int((body.height() - 20) // 16), 1)
        rows = list(draws[:room])
        if len(draws) > room:
            rest = draws[room - 1 :]
            rows = [
                *draws[: room - 1],
                type(draws[0])(f"{len(rest)} more", sum(d.current_a for d in rest), sum(d.share for d in rest)),
            ]
        most = max(d.current_a for d in rows)
        for i, d in enumerate(rows):
            y = body.top() + 18 + 16 * i
            self.words(painter, QRectF(body.left(), y, 112, 16), d.of if " " in d.of else name_of(plan, d.of))
            track = QRectF(body.left() + 116, y + 5, max(body.width() - 116 - 62, 20.0), 6)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.colour("muted" if d.of.endswith(" more") else "live"))
            painter.drawRoundedRect(
                QRectF(track.left(), track.top(), max(track.width() * d.current_a / most, 2.0), 6), 3, 3
            )
            self.words(painter, QRectF(track.right() + 6, y, 58, 16), format_current(d.current_a), "ink")

    # -- other sources -----------------------------------------------------------------------------------

    def _sources(self, painter: QPainter, body: QRectF) -> None:
        """Sources side by side: hours as bars, whether they serve, how large they are."""
        self._ask_options()
        p = self.palette_
        columns = (0.0, 0.24, 0.49, 0.58, 0.67, 0.76, 0.84, 0.91)
        heads = (
            "Other sources", "hours, as long as half its light lasts", "evenings", "dimmest", "space", "weight", "cost", "changed",
        )  # fmt: skip
        lefts = [body.left() + body.width() * c for c in columns]
        for x, words in zip(lefts, heads, strict=True):
            room = 212.0 if words.startswith("hours") else 120.0
            self.words(painter, QRectF(x, body.top(), room, 16), words, "ink", bold=words == "Other sources")
        if not self.options:
            self.words(painter, QRectF(body.left(), body.top() + 20, 300, 18), "… being reckoned")
            return
        own = self.feed().supply
        rows = list(short_list(self.options, own))
        for i, o in enumerate(rows[: int((body.height() - 22) // ROW)]):
            y = body.top() + 20 + ROW * i
            mine = same_source(o.supply, own)
            colour = "ink" if o.fits else "muted"
            if mine:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(p.colour("choice", 30))
                painter.drawRoundedRect(QRectF(body.left() - 6, y - 1, body.width() + 12, ROW - 1), 4, 4)
            self.words(painter, QRectF(lefts[0], y, body.width() * 0.24 - 8, 17), o.name, colour)
            self._hours_bar(painter, QRectF(lefts[1], y + 5, body.width() * 0.17, 7), o)
            many = "no end" if math.isinf(o.evenings) else (str(int(o.evenings)) if o.evenings >= 1 else "under one")
            self.words(
                painter, QRectF(lefts[2], y, 100, 17), many if o.fits else o.why, colour if o.fits else "look_ink"
            )
            if o.fits:
                self.words(
                    painter,
                    QRectF(lefts[3], y, 80, 17),
                    f"{o.reached * 100:.0f} %" if not math.isinf(o.hours) or o.reached else "",
                )
            self.words(
                painter,
                QRectF(lefts[4], y, 90, 17),
                f"{figure(o.volume_cm3, 2)} cm³" if o.volume_cm3 else "outside",
                colour,
            )
            self.words(painter, QRectF(lefts[5], y, 70, 17), f"{figure(o.weight_g, 2)} g" if o.weight_g else "", colour)
            self.words(painter, QRectF(lefts[6], y, 50, 17), COST[o.cost], colour)
            self.words(painter, QRectF(lefts[7], y, body.right() - lefts[7], 17), o.changed, colour)
            words = f"{o.name}: {format_hours(o.hours) if math.isfinite(o.hours) else 'does not run down'}; {o.why or 'serves'}. Click to take it."
            self.places.append((QRectF(body.left() - 6, y - 1, body.width() + 12, ROW - 1), f"source:{i}", words))
        self._rows = rows

    def _hours_bar(self, painter: QPainter, track: QRectF, o: Option) -> None:
        low, high = HOURS_SHOWN
        hours = min(o.hours, high)
        share = math.log(max(hours, low) / low) / math.log(high / low)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.palette_.colour("line"))
        painter.drawRoundedRect(track, 3, 3)
        painter.setBrush(self.palette_.colour("fine" if o.fits else "muted"))
        painter.drawRoundedRect(
            QRectF(track.left(), track.top(), max(track.width() * share, 3.0), track.height()), 3, 3
        )
        words = format_hours(o.hours) if math.isfinite(o.hours) else "∞"
        self.words(painter, QRectF(track.right() + 6, track.top() - 5, 60, 17), words, "ink" if o.fits else "muted")

    def _ask_options(self) -> None:
        plan, assessment, feed = self.document.assessed_plan, self.document.assessment, self.feed().id
        key = (id(plan), id(assessment), feed)
        if key != self._options_of:
            self._options_of = key
            if self._task is None:
                self._task = PlanTask(self.document, "sources", "Other sources", self)
            self._task.ask(plan, lambda: options_for(plan, assessment, feed), self._take_options, self._forget_options)

    def _forget_options(self) -> None:
        self._options_of = None

    def _take_options(self, options: tuple[Option, ...]) -> None:
        self.options = options
        self.update()

    @property
    def idle(self) -> bool:
        return self._task is None or self._task.idle

    def close_workers(self) -> None:
        if self._task is not None:
            self._task.close()

    # -- the hour ----------------------------------------------------------------------------------------

    def _follow(self) -> None:
        if self.hour is not None:
            self.set_hour(self.hour)

    def set_hour(self, hour: float | None) -> None:
        """Show the night side as it is at an hour of the evening; None: as wired."""
        self.hour = hour
        self.night_note = "" if hour is None else f"after {format_hours(hour)}"
        plan, assessment = self.document.assessed_plan, self.document.assessment
        self.weights_changed.emit({} if hour is None else evening_of(plan, assessment).at(hour))
        self.update()

    def _hour_at(self, x: float) -> float:
        share = (x / text_factor() - self._plot.left()) / max(self._plot.width(), 1.0)
        return min(max(share, 0.0), 1.0) * self._end

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position() / text_factor()
        if self._plot.adjusted(0, -10, 0, 24).contains(at):
            self._scrubbing = True
            self.set_hour(self._hour_at(event.position().x()))
            return
        for i, (rect, item_id, _) in enumerate(self.places):
            if rect.contains(at):
                self.focus = i
                self._choose(item_id)
                return
        if at.y() > HEAD:
            self.set_hour(None)

    def _choose(self, item_id: str) -> None:
        if not item_id.startswith("source:"):
            self.picked.emit(item_id)
            return
        option, feed = self._rows[int(item_id.split(":")[1])], self.feed().id
        s = option.supply
        self.document.edit(
            f"Take {option.name}",
            lambda plan: edits.set_supply(
                plan, feed, part=s.part, in_series=s.in_series, in_parallel=s.in_parallel, volts=None
            ),
        )

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._scrubbing:
            self.set_hour(self._hour_at(event.position().x()))
        else:
            super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._scrubbing = False

    def back_to_wired(self) -> None:
        self.set_hour(None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        first = not self.places or self.focus == 0
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and first and not self._plot.isEmpty():
            step = self._end / 40.0 * (1 if event.key() == Qt.Key.Key_Right else -1)
            self.set_hour(min(max((self.hour or 0.0) + step, 0.0), self._end))
        elif event.key() == Qt.Key.Key_Escape and self.hour is not None:
            self.set_hour(None)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.places:
            self.focus = (self.focus + (1 if event.key() == Qt.Key.Key_Down else -1)) % len(self.places)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space) and self.places:
            self._choose(self.places[min(self.focus, len(self.places) - 1)][1])
        else:
            super().keyPressEvent(event)

    def hideEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.hour = None  # the window shows the plate as wired again
        super().hideEvent(event)

    def _rgb(self, colour: str) -> tuple[float, float, float]:
        return next((s.rgb for s in self.document.assessment.lamps.values() if s.colour == colour), (1.0, 1.0, 1.0))
