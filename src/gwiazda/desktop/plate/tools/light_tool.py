"""The tool that places lights: a kind is chosen by name, a click puts it where it sits, its twin with it."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QRadialGradient

from gwiazda.core.assess.lights.build import colour_at, name_for, place, true_mm
from gwiazda.core.assess.lights.kinds import arc_words, hue_of
from gwiazda.core.assess.lights.place import Spot, across, spot_at
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.parts.lights import LightKind
from gwiazda.core.plan.frame import SHEET, to_sheet
from gwiazda.core.plan.model import Plan
from gwiazda.desktop.plate.light_chooser import LightChooser
from gwiazda.desktop.plate.lines.works import lamp_colour
from gwiazda.desktop.plate.plate import Plate
from gwiazda.desktop.plate.tools.tool import Tool

REACH_PX = 14.0
GLOW_PX, ARC_PX = 26.0, 44.0


class LightTool(Tool):
    id = "light"
    follows = True

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self.kind: LightKind | None = None
        self._at: QPointF | None = None
        self._chooser: LightChooser | None = None

    @property
    def chooser(self) -> LightChooser:
        """Where a kind is chosen; made at its first use."""
        if self._chooser is None:
            self._chooser = LightChooser(self.plate, self.take, self._left)
        return self._chooser

    def begin(self) -> None:
        self.kind = None
        self.chooser.open()

    def _left(self) -> None:
        if self.kind is None:
            self.plate.set_tool("pick")

    def take(self, kind: LightKind) -> None:
        """Place lights of this kind from now on."""
        self.kind = kind
        twin = " Its twin comes along; Shift leaves that out." if kind.pair else ""
        self.plate.document.message.emit(
            f"{kind.name}: click where it sits, on the hull or on its outline.{twin}", "info"
        )
        self.plate.update()

    def spot(self, at: QPointF) -> Spot | None:
        """Where a light of the chosen kind goes for a place of the plate."""
        if self.kind is None:
            return None
        plate = self.plate
        x, y = plate.extent.to_mm(at.x(), at.y())
        return spot_at(plate.document.plan, self.kind, plate.view.side, x, y, REACH_PX / plate.extent.scale)

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        self._at = at
        self.plate.update()

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self.kind is None:
            self.chooser.open()
            return
        document, spot, kind = self.plate.document, self.spot(at), self.kind
        assert spot is not None
        alone = bool(modifiers & Qt.KeyboardModifier.ShiftModifier)
        new: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, ids = place(document.catalogue, plan, kind.id, spot, alone=alone)
            new.extend(ids)
            return plan

        if document.edit(f"Place {kind.name.lower()}", change):
            document.select(new[:1])
        self.plate.update()

    def key_press(self, key: int) -> bool:
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.kind is None:
            self.chooser.open()
            return True
        return False

    def cancel(self) -> None:
        self._at = None
        if self._chooser is not None and self._chooser.isVisible():
            self._chooser.hide()

    def leave_view(self) -> None:
        self._at = None

    def paint(self, painter: QPainter) -> None:
        if self.kind is None or self._at is None:
            return
        try:
            spot = self.spot(self._at)
        except GwiazdaError:
            return
        if spot is None:
            return
        plan = self.plate.document.plan
        twin = across(plan, spot) if self.kind.pair else None
        for s, strength in ((twin, 0.6), (spot, 1.0)):
            if s is not None:
                self._glow(painter, s, strength)
        name = name_for(plan, self.kind, spot, twin is not None)
        words = [name, arc_words(self.kind), f"{true_mm(self.kind, plan.kit.scale):.2g} mm to scale"]
        self.plate.paint_tag(painter, self._px_of(spot) + QPointF(16, -30), " · ".join(w for w in words if w))

    def _px_of(self, spot: Spot) -> QPointF:
        x, y, _ = to_sheet(self.plate.view.side, spot.at)
        return self.plate.extent.to_px(x, y)

    def _glow(self, painter: QPainter, spot: Spot, strength: float) -> None:
        """A light as it will stand: its arc where one looks along it, its glow, and its body to scale."""
        assert self.kind is not None
        palette, catalogue = self.plate.palette_, self.plate.document.catalogue
        at = self._px_of(spot)
        colour = lamp_colour(hue_of(catalogue, colour_at(self.kind, spot.at[1])), palette)
        painter.save()
        painter.setPen(Qt.PenStyle.NoPen)
        if self.plate.view.side in ("top", "bottom") and 0.0 < self.kind.arc_deg < 360.0:
            self._arc(painter, at, spot, colour, strength)
        glow = QRadialGradient(at, GLOW_PX)
        near, far = QColor(colour), QColor(colour)
        near.setAlphaF(0.75 * strength)
        far.setAlphaF(0.0)
        glow.setColorAt(0.0, near)
        glow.setColorAt(1.0, far)
        painter.setBrush(glow)
        painter.drawEllipse(at, GLOW_PX, GLOW_PX)
        painter.setPen(QPen(palette.colour("ink"), 1.2))
        painter.setBrush(colour)
        body = max(true_mm(self.kind, self.plate.document.plan.kit.scale) * self.plate.extent.scale / 2.0, 2.5)
        body = min(body, 12.0)
        painter.drawEllipse(at, body, body)
        painter.restore()

    def _arc(self, painter: QPainter, at: QPointF, spot: Spot, colour: QColor, strength: float) -> None:
        assert self.kind is not None
        first, last = self.kind.arc
        if self.kind.pair and spot.at[1] > 0:  # clockwise from ahead is that to starboard; to port its image
            first, last = -last, -first
        along, over, _ = SHEET[self.plate.view.side]
        ahead = 180.0 if along < 0 else 0.0
        turn = 1.0 if along * over > 0 else -1.0  # of the sheet, so that starboard lies where it is drawn

        def sheet_deg(degrees: float) -> float:
            return ahead + turn * degrees

        shade = QColor(colour)
        shade.setAlphaF(0.35 * strength)
        painter.setBrush(shade)
        start, end = sheet_deg(first), sheet_deg(last)
        rect = QRectF(at.x() - ARC_PX, at.y() - ARC_PX, 2 * ARC_PX, 2 * ARC_PX)
        painter.drawPie(rect, round(math.fmod(start, 360.0) * 16), round((end - start) * 16))
