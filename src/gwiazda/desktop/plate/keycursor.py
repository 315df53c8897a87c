"""The plate by keys: a cursor for tools that the arrows move, and the way from one thing to the next."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import PLACED, Section
from gwiazda.core.plan.naming import name_of

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

STEP_MM, FAR_MM = 1.0, 10.0
ARM_PX, GAP_PX = 11.0, 3.0
PLAIN = Qt.KeyboardModifier.NoModifier
STEPS = {
    Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
}  # fmt: skip
PRESSES = (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter)


class KeyCursor:
    """Where the keys are on the plate while a tool that draws is in hand."""

    def __init__(self, plate: Plate) -> None:
        self.plate = plate
        self.at: QPointF | None = None  # px
        self.down = False  # whether a drag is under way

    def put_away(self) -> None:
        """The mouse has come, or another tool."""
        self.at, self.down = None, False

    def key(self, key: int, modifiers: Qt.KeyboardModifier) -> bool:
        """Take a key for the tool in hand; False where it isn't the cursor's."""
        if key in STEPS:
            dx, dy = STEPS[Qt.Key(key)]
            mm = FAR_MM if modifiers & Qt.KeyboardModifier.ShiftModifier else STEP_MM
            self._move(QPointF(dx, dy) * mm * self.plate.extent.scale)
        elif key in PRESSES:
            self._press(modifiers)
        else:
            return False
        self.plate.update()
        return True

    def _start(self) -> QPointF:
        """The middle of what is picked, of the first section, or of the plate."""
        plate = self.plate
        plan = plate.document.plan
        item = next((x for i in plate.document.selection if (x := find(plan, i)) is not None), None)
        item = item or next(iter(plan.sections), None)
        if item is None:
            return QPointF(plate.rect().center())
        place = item.box.centre if isinstance(item, Section) else item.at
        right, down, _ = to_sheet(plate.view.side, place)
        return plate.extent.to_px(right, down)

    def _move(self, by: QPointF) -> None:
        start = self.at if self.at is not None else self._start()
        to = start + by
        self.at = QPointF(min(max(to.x(), 0.0), self.plate.width()), min(max(to.y(), 0.0), self.plate.height()))
        if self.down or self.plate.tool.follows:
            self.plate.tool.move(self.at, PLAIN)

    def _press(self, modifiers: Qt.KeyboardModifier) -> None:
        """The button: a click, or of a tool that drags its beginning and its end."""
        if self.at is None:
            self.at = self._start()
        tool = self.plate.tool
        if not tool.drags:
            tool.press(self.at, modifiers)
            tool.release(self.at, modifiers)
        elif not self.down:
            tool.press(self.at, modifiers)
            self.down = True
        else:
            self.down = False
            tool.move(self.at, modifiers)
            tool.release(self.at, modifiers)

    def paint(self, painter: QPainter) -> None:
        """A cross with an open middle, bold while a drag is under way."""
        if self.at is None or not self.plate.hasFocus():
            return
        painter.setPen(QPen(self.plate.palette_.colour("choice"), 2.4 if self.down else 1.4))
        for dx, dy in STEPS.values():
            arm = QPointF(dx, dy)
            painter.drawLine(self.at + arm * GAP_PX, self.at + arm * ARM_PX)


def step_to(plate: Plate, by: int, other_kind: bool) -> None:
    """Pick the next thing (``by`` 1) or the one before (−1): of the same kind, or the first of the next kind there is."""
    document = plate.document
    plan = document.plan
    kinds = [k for k in PLACED if getattr(plan, k.group)]
    if not kinds:
        return
    now = next((k for k in kinds for i in document.selection if i in {x.id for x in getattr(plan, k.group)}), None)
    if now is None or other_kind:
        place = kinds.index(now) + by if now is not None else 0
        picked = getattr(plan, kinds[place % len(kinds)].group)[0].id
    else:
        ids = [x.id for x in getattr(plan, now.group)]
        at = ids.index(next(i for i in document.selection if i in ids))
        picked = ids[(at + by) % len(ids)]
    document.select([picked])
    document.message.emit(f"{name_of(plan, picked)}.", "info")
