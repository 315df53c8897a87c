"""Light: what each section's windows were asked for and what they reach, in the colour of their own lamps."""

from __future__ import annotations

import math

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from gwiazda.core.assess.aims import reached_state
from gwiazda.core.assess.states import SectionState
from gwiazda.core.assess.uncertainty import band
from gwiazda.core.plan.model import Section
from gwiazda.core.quantities import figure
from gwiazda.desktop.plate.lines.works import lamp_colour
from gwiazda.desktop.stations.drawer import StationDrawer
from gwiazda.desktop.widgets.whisker import paint_whisker

LOW, HIGH = 0.3, 300.0  # cd/m², the range of the scale


class LightDrawer(StationDrawer):
    title = "Light"

    def subtitle(self) -> str:
        return "mean luminance of each section’s windows: bar reached, notch wanted"

    def paint_body(self, painter: QPainter, body: QRectF) -> None:
        assessment, p = self.document.assessment, self.palette_
        rows = [
            s
            for s in self.document.assessed_plan.sections
            if s.id in assessment.sections and (assessment.sections[s.id].openings or assessment.sections[s.id].lamps)
        ]
        if not rows:
            self.words(
                painter,
                body,
                "Nothing to light yet: a section needs windows (W, R) and a lamp behind them (L).",
            )
            return
        chosen = set(self.document.selection)
        rows, cell = self.columns(painter, body, rows, 4, self._off)
        first = {lamp.section: lamp.rgb for lamp in reversed(list(assessment.lamps.values()))}
        for i, section in enumerate(rows):
            state = assessment.sections[section.id]
            left, width = body.left() + i * cell, cell - 18
            self.words(
                painter,
                QRectF(left, body.top() - 2, width, 18),
                section.name,
                "choice" if section.id in chosen else "ink",
                bold=True,
            )
            colour = lamp_colour(first[section.id], p) if section.id in first else QColor(p.pane_dark)
            track = QRectF(left, body.top() + 22, width, 13)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.colour("night"))
            painter.drawRoundedRect(track, 3, 3)
            reached = self._along(state.mean_cd_m2)
            if reached > 0:
                painter.setBrush(colour)
                painter.drawRoundedRect(QRectF(track.left(), track.top() + 2, track.width() * reached, 9), 3, 3)
            self._whisker(painter, track, state)
            self._notch(painter, track, state)
            value = f"{figure(state.mean_cd_m2)}"
            line = QRectF(left, body.top() + 46, width, 20)
            self.figure(painter, line, value, "ink", 16)
            advance = painter.fontMetrics().horizontalAdvance(value)
            self.words(
                painter,
                line.adjusted(advance + 5, 1, 0, 1),
                f"of {figure(state.wanted_cd_m2)} cd/m²" if state.wanted_cd_m2 else "cd/m²",
            )
            self.words(
                painter,
                QRectF(left, body.top() + 63, width, 16),
                f"{state.lamps} {'lamp' if state.lamps == 1 else 'lamps'}, {state.lit} of {state.openings} lit",
            )
            even = f", darkest window {state.evenness:.2f} of the mean" if state.evenness is not None else ""
            likely = " to ".join(figure(x, 2) for x in band(state.mean_cd_m2, state.sigma, state.lean))
            sure = f", likely {likely}" if state.sigma > 0 else ""
            spoken = f"{section.name}: {value} of {figure(state.wanted_cd_m2)} cd/m² wanted{sure}{even}"
            self.places.append((QRectF(left - 4, body.top() - 4, cell - 8, body.height() + 8), section.id, spoken))

    def _notch(self, painter: QPainter, track: QRectF, state: SectionState) -> None:
        """What is wanted, and how far the bar is from it."""
        if state.wanted_cd_m2 <= 0:
            return
        at = track.left() + track.width() * self._along(state.wanted_cd_m2)
        painter.setPen(QPen(self.palette_.colour("ink"), 1.5))
        painter.setBrush(self.palette_.colour(reached_state(state.mean_cd_m2 / state.wanted_cd_m2)))
        foot = track.bottom()
        painter.drawPolygon(QPolygonF([QPointF(at, foot - 1), QPointF(at - 5, foot + 8), QPointF(at + 5, foot + 8)]))
        painter.drawLine(QLineF(at, track.top() - 2, at, foot))

    def _whisker(self, painter: QPainter, track: QRectF, state: SectionState) -> None:
        """How sure the bar is."""
        if state.mean_cd_m2 > 0 and state.sigma > 0:
            low, high = (
                track.left() + track.width() * self._along(x) for x in band(state.mean_cd_m2, state.sigma, state.lean)
            )
            paint_whisker(
                painter,
                (low, high),
                track.top() + 6.5,
                self.palette_.colour("card"),
                under=self.palette_.colour("night"),
            )

    def _off(self, section: Section) -> float:
        """How far a section is from what was wanted of it."""
        state = self.document.assessment.sections[section.id]
        if state.wanted_cd_m2 <= 0:
            return 0.0
        return abs(math.log(max(state.mean_cd_m2, 1e-6) / state.wanted_cd_m2))

    @staticmethod
    def _along(cd_m2: float) -> float:
        """Place on a logarithmic scale, 0 to 1."""
        if cd_m2 <= LOW:
            return 0.0
        return min(math.log(cd_m2 / LOW) / math.log(HIGH / LOW), 1.0)
