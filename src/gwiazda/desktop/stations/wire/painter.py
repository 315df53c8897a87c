"""Paints rails and rungs: standard symbols, bands on resistors, wires as thick as their currents, lamps as they will be."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit.series import bands
from gwiazda.core.drawing.rail_marks import RailMark, Sheet, StringPlace
from gwiazda.core.plan.lookup import circuit_part, feed_with
from gwiazda.core.plan.model import Load, Plan, Regulated, Switch
from gwiazda.core.plan.naming import names_of
from gwiazda.core.quantities import figure, letter_code
from gwiazda.core.workbench.instruments import Clip
from gwiazda.desktop.plate.lines.works import lit_colour
from gwiazda.desktop.theme.fonts import figure_font, text_font
from gwiazda.desktop.theme.palette import Palette
from gwiazda.desktop.widgets.resistor import BAND_COLOURS

Align = Qt.AlignmentFlag


def thickness(current_a: float) -> float:
    """Width of a wire's line (px): it grows with the logarithm of its current, a milliamp is 1.4 px."""
    return 1.0 + 0.9 * math.log2(1.0 + max(current_a, 0.0) * 1e3) / 2.2


def tags_of_strings(assessment: Assessment) -> dict[str, str]:
    """The tags on the leads of lamps, plus before minus, by the lamp; none without a loom."""
    found: dict[str, list[str]] = {}
    for run in sorted(assessment.loom.runs.values(), key=lambda r: r.end != "plus"):
        if run.kind == "lead" and run.tag:
            for lamp in run.lamps:
                found.setdefault(lamp, []).append(run.tag)
    return {lamp: " ".join(dict.fromkeys(tags)) for lamp, tags in found.items()}


class RailsPainter:
    """Paints a sheet; what is picked is framed, what is wrong stands in red."""

    def __init__(
        self, painter: QPainter, palette: Palette, plan: Plan, assessment: Assessment, chosen: Collection[str] = (),
        wrong: Collection[str] = (), target: str = "",
    ) -> None:  # fmt: skip
        self.painter, self.palette, self.plan, self.assessment = painter, palette, plan, assessment
        self.chosen, self.wrong, self.target = set(chosen), set(wrong), target
        self.ohms = {r.resistor: r.resistor_ohm for r in assessment.branches.values() if r.resistor}
        self.column = 0.0
        self.light: dict[str, float] | None = None  # what a bench supply makes of the lamps, while one is on

    def sheet(self, sheet: Sheet) -> None:
        self.column = sheet.column
        painter, p = self.painter, self.palette
        roles = {"plus": p.colour("wire_plus"), "minus": p.colour("wire_minus"), "wire": p.colour("ink")}
        for lead in sheet.leads:
            pen = QPen(roles[lead.role], thickness(lead.current_a))
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawLine(QLineF(lead.x0, lead.y0, lead.x1, lead.y1))
        for label in sheet.labels:
            self._text(QRectF(label.x, label.y - 2, label.w, 15), label.text, "muted")
        for mark in sheet.marks:
            self._mark(mark)
        if sheet.strings:
            tags = tags_of_strings(self.assessment)
            for place in sheet.strings:
                self._string(place, tags)

    def _string(self, place: StringPlace, tags: Mapping[str, str]) -> None:
        """The tags of a string's leads and the names of its lamps, below it."""
        tag = " ".join(dict.fromkeys(tags[i] for i in place.lamps if i in tags))
        painter, left = self.painter, QRectF(place.x + 2, place.y, place.w - 4, place.h)
        painter.setPen(self.palette.colour("ink"))
        if tag:
            painter.setFont(figure_font(10, plain=True))
            painter.drawText(left, Align.AlignHCenter | Align.AlignTop, tag)
            left.setTop(left.top() + 11)
        painter.setFont(text_font(8, plain=True))
        words = names_of(self.plan, place.lamps, 1)
        painter.drawText(left, int(Align.AlignHCenter | Align.AlignTop | Qt.TextFlag.TextWordWrap), words)

    def _pen(self, mark: RailMark, width: float = 1.3) -> QPen:
        return QPen(self.palette.colour("stop" if mark.id in self.wrong else "ink"), width)

    def _mark(self, mark: RailMark) -> None:
        rect = QRectF(mark.x, mark.y, mark.w, mark.h)
        painter, p = self.painter, self.palette
        picked = mark.id in self.chosen and not (
            mark.lamps and mark.kind == "resistor" and circuit_part(self.plan, mark.id) is None
        )
        picked = picked or (mark.kind == "lamp" and bool(self.chosen.intersection(mark.lamps)))
        if picked or mark.id == self.target:
            painter.setPen(QPen(p.colour("choice" if picked else "live"), 2))
            painter.setBrush(p.colour("choice" if picked else "live", 36))
            painter.drawRoundedRect(rect.adjusted(-4, -3, 4, 3), 4, 4)
        painter.setPen(self._pen(mark))
        painter.setBrush(p.colour("card"))
        getattr(self, f"_{mark.kind}")(mark, rect)

    def _text(self, rect: QRectF, text: str, colour: str = "ink", align: Align = Align.AlignLeft, px: int = 12) -> None:
        painter = self.painter
        painter.setFont(text_font(px, plain=True) if colour == "muted" else figure_font(px, plain=True))
        painter.setPen(self.palette.colour(colour))
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(rect.width()) + 1)
        painter.drawText(rect, align | Align.AlignVCenter, shown)

    def _beside(self, rect: QRectF, text: str, colour: str = "ink") -> None:
        """A value right of a symbol, where columns are wide enough."""
        room = self.column - rect.width() - 8
        self.painter.setFont(text_font(12, plain=True) if colour == "muted" else figure_font(12, plain=True))
        if self.painter.fontMetrics().horizontalAdvance(text) <= room:
            self._text(QRectF(rect.right() + 4, rect.center().y() - 8, room, 16), text, colour)

    def clip(self, sheet: Sheet, clip: Clip, colour: str) -> None:
        """A clip of an instrument at an end of a part."""
        mine = [m for m in sheet.marks if clip.id == m.id or clip.id in m.lamps]
        mark = next((m for m in mine if m.kind == "lamp"), mine[0] if mine else None)
        if mark is None:
            return
        x, y = mark.x + mark.w / 2, mark.y + (mark.h + 3 if clip.end else -3)
        if mark.flat:
            x, y = mark.x + (mark.w + 2 if clip.end else -2), mark.y + mark.h / 2
        painter = self.painter
        painter.setPen(QPen(self.palette.colour("card"), 1.2))
        painter.setBrush(self.palette.colour(colour))
        at = QPointF(x, y)
        painter.drawPolygon(QPolygonF([at, at + QPointF(-16, -5), at + QPointF(-22, 0), at + QPointF(-16, 5)]))

    # -- symbols (IEC 60617) -----------------------------------------------------------------------------

    def _lamp(self, mark: RailMark, rect: QRectF) -> None:
        painter, p = self.painter, self.palette
        state = self.assessment.lamps.get(mark.lamps[0] if mark.lamps else mark.id)
        rgb, share = (state.rgb, max(state.share, 0.0)) if state is not None else ((0.5, 0.5, 0.5), 0.0)
        if self.light is not None:
            share = self.light.get(mark.lamps[0] if mark.lamps else mark.id, 0.0)
        wrong = mark.id in self.wrong or bool(self.wrong.intersection(mark.lamps))
        painter.setPen(QPen(p.colour("stop" if wrong else "ink"), 2.0 if wrong else 1.2))
        colour = lit_colour(rgb, share, p)
        painter.setBrush(colour)
        painter.drawEllipse(rect)
        # The diode's sign inside: an arrow the way the current may go, a bar where it comes out.
        ink = QColor("#14181a") if colour.lightnessF() > 0.45 else QColor("#c9cdc8")
        c, r = rect.center(), rect.width() * 0.24
        down = -1.0 if mark.turned else 1.0
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        painter.drawPolygon(
            QPolygonF([c + QPointF(-r, -r * down), c + QPointF(r, -r * down), c + QPointF(0, r * 0.8 * down)])
        )
        painter.setPen(QPen(ink, 1.3))
        painter.drawLine(QLineF(c.x() - r, c.y() + r * down, c.x() + r, c.y() + r * down))
        if mark.number > 1:
            self._number(rect, f"×{mark.number}")
        elif state is not None:
            self._beside(rect, f"{figure(max(state.current_a, 0.0) * 1e3, 2)} mA", "muted")

    def _number(self, rect: QRectF, text: str) -> None:
        """How many a symbol stands for: beside it, or on a tag below where columns are narrow."""
        self.painter.setFont(figure_font(12, plain=True))
        wide = self.painter.fontMetrics().horizontalAdvance(text) + 4
        if wide <= self.column - rect.width() - 2:
            self._text(QRectF(rect.right() + 2, rect.top() - 1, wide, rect.height() + 2), text)
            return
        tag = QRectF(rect.center().x() - wide / 2, rect.bottom() + 1, wide, 13)
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(self.palette.colour("panel"))
        self.painter.drawRect(tag)
        self._text(tag.adjusted(2, 0, 0, 0), text)

    def _resistor(self, mark: RailMark, rect: QRectF) -> None:
        painter, p = self.painter, self.palette
        ohm = self._ohm(mark)
        painter.setOpacity(1.0 if p.name == "bench" else 0.45)  # a standard's colours, too bright for the dark
        painter.setPen(QPen(p.colour("stop") if mark.id in self.wrong else QColor("#7d6f52"), 1.2))
        painter.setBrush(QColor("#d9c79d"))
        painter.drawRect(rect)
        painter.setPen(Qt.PenStyle.NoPen)
        colours = bands(ohm, self.plan.drawer.series) if ohm > 0 else ()
        step = rect.height() / (len(colours) + 1.6) if colours else 0.0
        for i, name in enumerate(colours):
            y = rect.top() + step * (0.7 + i + (0.6 if i == len(colours) - 1 else 0.0))
            painter.setBrush(QColor(BAND_COLOURS[name]))
            painter.drawRect(QRectF(rect.left() + 0.6, y, rect.width() - 1.2, max(step * 0.62, 1.6)))
        painter.setOpacity(1.0)
        self._beside(rect, letter_code(ohm) if ohm > 0 else "?")

    def _ohm(self, mark: RailMark) -> float:
        part = circuit_part(self.plan, mark.id)
        fixed = getattr(part, "ohm", None)
        if fixed:
            return float(fixed)
        if mark.lamps and mark.lamps[0] in self.assessment.lamps:
            return self.assessment.lamps[mark.lamps[0]].resistor_ohm
        return self.ohms.get(mark.id, 0.0)

    def _fuse(self, mark: RailMark, rect: QRectF) -> None:
        self.painter.drawRect(rect)
        line = (
            QLineF(rect.left(), rect.center().y(), rect.right(), rect.center().y())
            if mark.flat
            else QLineF(rect.center().x(), rect.top(), rect.center().x(), rect.bottom())
        )
        self.painter.drawLine(line)
        if not mark.flat:
            self._beside(rect, f"{figure(getattr(circuit_part(self.plan, mark.id), 'rated_a', 0.0))} A")

    def _switch(self, mark: RailMark, rect: QRectF) -> None:
        painter, part = self.painter, circuit_part(self.plan, mark.id)
        closed = part.closed if isinstance(part, Switch) else True
        reed = isinstance(part, Switch) and bool(self.assessment.catalogue.switch(part.kind).reach_mm)
        lift = 2.5 if closed else 8.0
        if mark.flat:
            a, b = QPointF(rect.left() + 3, rect.center().y()), QPointF(rect.right() - 3, rect.center().y())
            arm = b + QPointF(0, -lift)
        else:
            a, b = QPointF(rect.center().x(), rect.bottom() - 3), QPointF(rect.center().x(), rect.top() + 3)
            arm = b + QPointF(lift, 0)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.palette.colour("panel"))
        painter.drawRect(rect.adjusted(1, -1, -1, 1) if mark.flat else rect.adjusted(-1, 1, 1, -1))
        painter.setPen(self._pen(mark, 1.6))
        painter.drawLine(a, arm)
        painter.setBrush(self.palette.colour("card"))
        painter.drawEllipse(a, 2.2, 2.2)
        painter.drawEllipse(b, 2.2, 2.2)
        if reed:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(rect.adjusted(-1, -1, 1, 1), 6, 6)
        if not mark.flat and isinstance(part, Switch):
            self._beside(rect, part.group or ("" if closed else "open"), "muted")

    def _wire(self, mark: RailMark, rect: QRectF) -> None:
        part = circuit_part(self.plan, mark.id)
        c = rect.center()
        painter = self.painter
        painter.setPen(self._pen(mark, 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        long, wide = (rect.width() / 2, 4.0) if mark.flat else (rect.height() / 2, 4.0)
        points = [(-long, 0.0), (-long / 3, wide), (long / 3, -wide), (long, 0.0)]
        painter.drawPolyline(QPolygonF([c + (QPointF(a, b) if mark.flat else QPointF(b, a)) for a, b in points]))
        if not mark.flat:
            self._beside(rect, f"AWG {getattr(part, 'awg', '')}", "muted")

    def _load(self, mark: RailMark, rect: QRectF) -> None:
        part = circuit_part(self.plan, mark.id)
        kind = self.assessment.catalogue.loads.get(part.part) if isinstance(part, Load) else None
        motor = kind is None or kind.kind == "motor"
        if motor:
            self.painter.drawEllipse(rect)
        else:
            self.painter.drawRect(rect)
        self._text(rect, "M" if motor else "♪", align=Align.AlignHCenter)
        state = self.assessment.parts.get(mark.id)
        if state is not None:
            self._beside(rect, f"{figure(state.current_a * 1e3, 2)} mA", "muted")

    def _regulator(self, mark: RailMark, rect: QRectF) -> None:
        part, state = circuit_part(self.plan, mark.id), self.assessment.parts.get(mark.id)
        self.painter.drawRect(rect)
        volts = f"{figure(part.volts)} V" if isinstance(part, Regulated) else ""
        if state is not None and isinstance(part, Regulated) and state.volts < part.volts - 0.1:
            volts = f"{figure(state.volts)} of {volts}"
        self._text(rect.adjusted(3, 0, -3, 0), volts, align=Align.AlignHCenter)

    def _pin(self, mark: RailMark, rect: QRectF) -> None:
        state = self.assessment.parts.get(mark.id)
        part = self.assessment.catalogue.drives.get(state.part) if state is not None else None
        self.painter.drawPolygon(
            QPolygonF([rect.topLeft(), rect.topRight(), QPointF(rect.right(), rect.bottom() - 5), rect.center() + QPointF(0, rect.height() / 2), QPointF(rect.left(), rect.bottom() - 5)])
        )  # fmt: skip
        words = f"{figure(part.volts)} V pin" if part is not None and part.volts else "output"
        self._text(rect.adjusted(2, -2, -2, -4), words, align=Align.AlignHCenter)

    def _npn(self, mark: RailMark, rect: QRectF) -> None:
        painter, c = self.painter, rect.center()
        painter.drawEllipse(c, 12, 12)
        painter.setPen(self._pen(mark, 1.8))
        painter.drawLine(QLineF(c.x() - 4, c.y() - 7, c.x() - 4, c.y() + 7))
        painter.setPen(self._pen(mark, 1.3))
        painter.drawLine(QLineF(c.x() - 15, c.y(), c.x() - 4, c.y()))
        painter.drawLine(QLineF(c.x() - 4, c.y() - 3, c.x(), c.y() - 12))
        painter.drawLine(QLineF(c.x() - 4, c.y() + 3, c.x(), c.y() + 12))
        painter.setBrush(self.palette.colour("ink"))
        painter.drawPolygon(QPolygonF([c + QPointF(0, 12), c + QPointF(-4.4, 8.6), c + QPointF(0.6, 7.2)]))

    def _mosfet(self, mark: RailMark, rect: QRectF) -> None:
        painter, c = self.painter, rect.center()
        painter.drawEllipse(c, 12, 12)
        painter.setPen(self._pen(mark, 1.6))
        painter.drawLine(QLineF(c.x() - 5, c.y() - 7, c.x() - 5, c.y() + 7))
        for y in (-6.0, 0.0, 6.0):
            painter.drawLine(QLineF(c.x() - 2, c.y() + y - 2, c.x() - 2, c.y() + y + 2))
        painter.setPen(self._pen(mark, 1.2))
        painter.drawLine(QLineF(c.x() - 15, c.y() + 6, c.x() - 5, c.y() + 6))
        painter.drawLine(QLineF(c.x() - 2, c.y() - 6, c.x(), c.y() - 6))
        painter.drawLine(QLineF(c.x(), c.y() - 6, c.x(), c.y() - 12))
        painter.drawLine(QLineF(c.x() - 2, c.y() + 6, c.x(), c.y() + 6))
        painter.drawLine(QLineF(c.x(), c.y(), c.x(), c.y() + 12))
        painter.drawLine(QLineF(c.x() - 2, c.y(), c.x(), c.y()))

    def _relay(self, mark: RailMark, rect: QRectF) -> None:
        self.painter.drawRect(rect.adjusted(0, 4, -12, -4))
        self._text(rect.adjusted(1, 4, -12, -4), "K", align=Align.AlignHCenter)
        c = QPointF(rect.center().x(), rect.center().y())
        self.painter.setPen(self._pen(mark, 1.6))
        self.painter.drawLine(c + QPointF(0, 10), c + QPointF(5, -9))

    def _source(self, mark: RailMark, rect: QRectF) -> None:
        """Cells as long and short plates; an adapter as a box."""
        painter, p = self.painter, self.palette
        feed, c = feed_with(self.plan, mark.id), rect.center()
        state = self.assessment.feeds.get(mark.id)
        source = self.assessment.catalogue.sources.get(feed.supply.part) if feed is not None else None
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.colour("panel"))
        painter.drawRect(QRectF(c.x() - 14, c.y() - 6, 28, 12))
        painter.setPen(self._pen(mark, 2.2))
        if source is None or source.kind == "battery":
            painter.drawLine(QLineF(c.x() - 13, c.y() - 5, c.x() + 13, c.y() - 5))
            painter.setPen(self._pen(mark, 4.0))
            painter.drawLine(QLineF(c.x() - 7, c.y() + 4, c.x() + 7, c.y() + 4))
        else:
            painter.setPen(self._pen(mark, 1.6))
            painter.setBrush(p.colour("card"))
            painter.drawRect(QRectF(c.x() - 13, c.y() - 7, 26, 14))
            painter.drawLine(QLineF(c.x() - 7, c.y() - 2, c.x() + 7, c.y() - 2))
            pen = self._pen(mark, 1.6)
            pen.setStyle(Qt.PenStyle.DotLine)
            painter.setPen(pen)
            painter.drawLine(QLineF(c.x() - 7, c.y() + 3, c.x() + 7, c.y() + 3))
        if state is not None:
            self._text(QRectF(c.x() + 17, c.y() - 17, 44, 16), f"{figure(state.terminal_v, 3)} V")
            self._text(QRectF(c.x() + 17, c.y() + 1, 44, 16), f"{figure(state.draw_a * 1e3, 3)} mA", "muted")
