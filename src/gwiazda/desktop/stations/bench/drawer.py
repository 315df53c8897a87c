"""The Bench drawer: what was read as dots against the band that good parts stray in, a column a lamp; suspects as bars."""

from __future__ import annotations

import math

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen

from gwiazda.core.assess.electrics.tolerance import tolerance_of
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, figure, format_current
from gwiazda.core.workbench.diagnosis import suspect_words
from gwiazda.core.workbench.hypotheses import Measurement
from gwiazda.desktop.plate.lines.works import lamp_colour
from gwiazda.desktop.stations.bench.photoview import NEEDS, PhotoPage
from gwiazda.desktop.stations.bench.session import session_of
from gwiazda.desktop.stations.drawer import StationDrawer
from gwiazda.desktop.theme.sizes import text_factor

NAME, FOOT, HEAD_ROOM = 46.0, 18.0, 30.0
LEAST_COLUMN = 13.0
STEPS: dict[int, tuple[int, int]] = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}  # px of a photo
OTHERS = 420  # px at 100 % text that plate, meters and bars need beside a photo
TOP = 10.0  # times what is predicted, at the top; a tenth at the bottom
LOOKS = {0.0: "dark", 0.5: "dim", 1.0: "as it should", 2.0: "too bright"}


class BenchDrawer(StationDrawer):
    title = "Bench"
    grows = True
    needs = 190

    def __init__(self, document, parent=None) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document, parent)
        self.session = session_of(document)
        self.page = PhotoPage(self, self.session)
        self.session.changed.connect(self._changed)
        self.top = 0

    def _changed(self) -> None:
        needs = type(self).needs
        if self.page.entry is not None:
            # The plate keeps its share where text is large; G gives the photo all the room there is.
            needs = max(needs, min(NEEDS, round(self.window().height() / text_factor()) - OTHERS))
        if needs != self.needs:
            self.needs = needs
            self.measure()
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.page.entry is not None and self.page.press(event.position() / text_factor()):
            self.setFocus()
            self.update()
            return
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.page.move(event.position() / text_factor()):
            self.update()
            return
        super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.page.release():
            self.update()
            return
        super().mouseReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = STEPS.get(event.key())
        if self.page.entry is not None and step and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.page.step(*step)
        elif self.page.entry is not None and event.key() == Qt.Key.Key_Period:
            self.page.next_mark()
        else:
            super().keyPressEvent(event)
            return
        self.update()

    @property
    def idle(self) -> bool:
        return self.session.idle

    def close_workers(self) -> None:
        self.session.close()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self.session.look()

    def subtitle(self) -> str:
        s, diagnosis = self.session, self.session.diagnosis
        if self.page.entry is not None:
            return self.page.subtitle()
        if s.fault:
            return s.fault
        many = len(s.readings())
        head = "practice: a fault is hidden · " if s.hidden is not None else ""
        if diagnosis is None or not many:
            return head + "read something: pick a lamp and say how it looks, or measure"
        first = diagnosis.suspects[0]
        words = f"{head}{counted(many, 'reading')}; likeliest, {first.share * 100:.0f} %: {suspect_words(self.document.plan, first)}"
        return words + (" · neither one fault nor two tell this well" if diagnosis.misfit > 3.0 else "")

    # -- painting ------------------------------------------------------------------------------------------

    def paint_body(self, painter: QPainter, body: QRectF) -> None:
        if self.page.entry is not None:
            self.page.paint(painter, body)
            return
        plan, assessed = self.document.assessed_plan, self.document.assessment
        benches = self.session.benches
        if not benches:
            self.words(
                painter,
                QRectF(body.left(), body.top() + 8, body.width(), 20),
                "No lamp hangs on a source yet: there is nothing to read." if self.session.idle else "…",
                "ink",
            )
            return
        readings = self.session.readings()
        bench = next((b for b in benches if any(r.at in b.ends for r in readings)), benches[0])
        shares = self._shares()
        lamps = [i for i in bench.lamps if i in assessed.lamps]
        room = max(int((body.width() - NAME) // LEAST_COLUMN), 1)
        if len(lamps) > room:  # those that matter most, in their order
            keep = set(sorted(lamps, key=lambda i: (-shares.get(i, 0.0), not any(r.at == i for r in readings)))[:room])
            lamps = [i for i in lamps if i in keep]
        plot = QRectF(body.left() + NAME, body.top() + HEAD_ROOM, body.width() - NAME, body.height() - FOOT - HEAD_ROOM)
        self._scale(painter, body, plot)
        spread = tolerance_of(plan, assessed).lamps
        wide = plot.width() / max(len(lamps), 1)
        for k, i in enumerate(lamps):
            column = QRectF(plot.left() + k * wide, plot.top(), wide, plot.height())
            mine = [r for r in readings if r.at == i]
            self._column(painter, column, i, bench, spread.get(i), mine, shares.get(i, 0.0))

    def _shares(self) -> dict[str, float]:
        out: dict[str, float] = {}
        for s in self.session.diagnosis.suspects if self.session.diagnosis is not None else ():
            for f in s.faults:
                for i in f.at:
                    out[i] = out.get(i, 0.0) + s.share
        return out

    def _y(self, plot: QRectF, ratio: float) -> float:
        share = math.log(min(max(ratio, 1.0 / TOP), TOP) * TOP) / math.log(TOP * TOP)
        return plot.bottom() - plot.height() * share

    def _scale(self, painter: QPainter, body: QRectF, plot: QRectF) -> None:
        for ratio, words in ((TOP, "10 ×"), (1.0, "as it should"), (1.0 / TOP, "a tenth")):
            y = self._y(plot, ratio)
            painter.setPen(
                QPen(self.palette_.colour("line"), 1, Qt.PenStyle.SolidLine if ratio == 1.0 else Qt.PenStyle.DotLine)
            )
            painter.drawLine(QLineF(plot.left(), y, plot.right(), y))
            self.words(
                painter,
                QRectF(body.left() - 2, y - 9, NAME - 2, 18),
                {"as it should": "1 ×", "a tenth": "0.1 ×"}.get(words, words),
            )

    def _column(self, painter, column, lamp, bench, spread, readings: list[Measurement], share: float) -> None:  # type: ignore[no-untyped-def]
        p, mid = self.palette_, column.center().x()
        state = self.document.assessment.lamps[lamp]
        if lamp in self.document.selection:
            painter.fillRect(column.adjusted(0, -HEAD_ROOM + 2, 0, FOOT), p.colour("choice", 36))
        predicted = max(abs(state.current_a), 1e-9)
        low, high = (
            (spread.current_a[0] / predicted, spread.current_a[2] / predicted) if spread is not None else (0.9, 1.1)
        )
        top, bottom = self._y(column, high), self._y(column, low)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.colour("fine", 90))
        painter.drawRect(
            QRectF(mid - min(column.width() * 0.3, 9), top, min(column.width() * 0.6, 18), max(bottom - top, 2.0))
        )
        spoken = [
            f"{name_of(self.document.plan, lamp)}: {format_current(low * predicted)} to {format_current(high * predicted)} predicted"
        ]
        looks = 1.0
        for r in readings:
            said = float(bench.predicted(r.what, r.at)[0])
            if r.what == "lit":
                looks = r.value
                spoken.append(f"looks {LOOKS.get(r.value, '')}")
                continue
            ratio = abs(r.value) / max(abs(said), 1e-9)
            y = self._y(column, ratio)
            inside = low * 0.95 <= ratio <= high * 1.05 if r.what == "amps" else 0.85 <= ratio <= 1.15
            painter.setPen(QPen(p.colour("ink"), 1))
            painter.setBrush(p.colour("fine" if inside else "stop"))
            painter.drawEllipse(QPointF(mid, y), 4.5, 4.5)
            spoken.append(f"{figure(r.value)} {'V' if r.what == 'volts' else 'A'} read, {figure(said)} predicted")
        if share > 0.005:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.colour("stop", 200))
            high_px = (HEAD_ROOM - 6) * min(share, 1.0)
            painter.drawRect(QRectF(mid - 4, column.top() - 4 - high_px, 8, high_px))
            spoken.append(f"{share * 100:.0f} % suspect")
        disc = QPointF(mid, column.bottom() + FOOT - 7)
        seen = any(r.what == "lit" for r in readings)
        painter.setPen(QPen(p.colour("ink" if seen else "muted"), 1.4 if seen else 0.8))
        colour = lamp_colour(state.rgb, p)
        painter.setBrush(
            {0.0: p.colour("night"), 0.5: colour.darker(180), 2.0: colour.lighter(140)}.get(looks, colour)
            if seen
            else p.colour("card")
        )
        painter.drawEllipse(disc, 5, 5)
        self.places.append((column.adjusted(0, -HEAD_ROOM, 0, FOOT), lamp, "; ".join(spoken)))
