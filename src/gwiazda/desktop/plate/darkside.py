"""What the plate paints on the dark side of its wipe: the night picture, what is picked in it, and what it stands for."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.assess.view_index import opening_shapes
from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Lamp
from gwiazda.core.quantities import figure
from gwiazda.desktop.plate.lines.works import grid_step_mm
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import SMALL_PX

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate


def paint_night(plate: Plate, painter: QPainter, cut: int) -> None:
    """The night picture; one of another part of the sheet stands in until the new one is there."""
    area = QRect(cut, 0, plate.width() - cut, plate.height())
    image, shot = plate.night.image, plate.night.shot
    if image is None or shot is None or shot.view.id != plate.view.id:
        painter.fillRect(area, plate.palette_.colour("night"))
        return
    ratio = plate.devicePixelRatioF()
    want = plate.extent.scaled(ratio) if ratio != 1.0 else plate.extent
    if shot.window == want:
        painter.drawImage(QRectF(area), image, QRectF(cut * ratio, 0, area.width() * ratio, area.height() * ratio))
        return
    painter.save()
    painter.setClipRect(area)
    painter.fillRect(area, plate.palette_.colour("night"))
    old = shot.window
    a = want.to_px(old.left_mm, old.top_mm) / ratio
    k = want.scale / old.scale / ratio
    painter.drawImage(QRectF(a.x(), a.y(), old.width * k, old.height * k), image)
    painter.restore()


def paint_selection(plate: Plate, painter: QPainter, cut: int) -> None:
    """What is picked shows on the night side too, as a thin frame."""
    if cut >= plate.width() or not plate.document.selection:
        return
    shapes = opening_shapes(plate.document.plan.openings, plate.document.plan.sections, plate.view.side)
    painter.save()
    painter.setClipRect(QRect(cut, 0, plate.width() - cut, plate.height()))
    painter.setPen(QPen(plate.palette_.colour("live", 200), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    rects = []
    for item_id in plate.document.selection:
        i = shapes.number.get(item_id)
        if i is not None:
            a, b = plate.extent.to_px(*shapes.rects[i, :2]), plate.extent.to_px(*shapes.rects[i, 2:])
            rects.append(QRectF(a, b).adjusted(-3, -3, 3, 3))
    for item in (find(plate.document.plan, i) for i in plate.document.marked):
        if isinstance(item, Lamp):
            x, y, _ = to_sheet(plate.view.side, item.at)
            centre = plate.extent.to_px(x, y)
            rects.append(QRectF(centre.x() - 8, centre.y() - 8, 16, 16))
    painter.drawRects(rects)
    painter.restore()


def paint_notes(plate: Plate, painter: QPainter, cut: int) -> None:
    """The grid's step, and under which light and from how far the dark is shown."""
    room = plate.document.plan.room
    if cut > plate.note_left + 120:
        plate.paint_tag(
            painter,
            QPointF(plate.note_left, plate.height() - 33),
            f"1 square = {grid_step_mm(plate.extent.scale):g} mm",
        )
    if plate.width() - cut > 260:
        lux = room.lux if plate.night.lux is None else plate.night.lux
        text = f"room {figure(lux, 2)} lx · seen from {room.distance_m * 100:g} cm"
        if room.exposure_ev:
            text += f" · exposure {room.exposure_ev:+g} EV"
        as_wired = all(w == 1.0 for w in plate.night.weights.values())
        text += f" · {plate.night_note}" if plate.night_note else " · as wired" if as_wired else " · some channels off"
        painter.setFont(text_font(SMALL_PX))
        width = painter.fontMetrics().horizontalAdvance(text) + 16
        plate.paint_tag(painter, QPointF(plate.width() - width - 10, 10), text, dark=True)
