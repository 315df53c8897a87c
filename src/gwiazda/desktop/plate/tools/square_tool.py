"""Squaring up a photo taken at an angle: the four corners of a rectangle whose size is known."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPen, QPolygonF, QTransform

from gwiazda.core.errors import GwiazdaError, PlanError, QuantityError
from gwiazda.core.plan.edits import views
from gwiazda.core.plan.model import Drawing
from gwiazda.core.quantities import is_full_size, parse_length_mm, plain_length
from gwiazda.desktop.plate.drawings import png_of
from gwiazda.desktop.plate.sheet import decoded, size_of
from gwiazda.desktop.plate.tools.tool import Tool
from gwiazda.desktop.widgets.fields import ValueField

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

MOST_PX = 4096


def read_rectangle(text: str, scale: float = 1.0) -> tuple[float, float]:
    """``120 x 40 mm`` as width and height in mm on the model; one unit counts for both when the first has none.

    ``scale`` divides what is given at full size: from a metre on, or where it says so.
    """
    parts = re.split(r"\s*[x×]\s*", text.strip())
    if len(parts) != 2:
        raise QuantityError("Rectangle", f"“{text.strip()}” is not a size", "width x height, such as 120 x 40 mm")
    unit = re.sub(r"[\d.,\s/+-]", "", plain_length(parts[1]))
    first = parts[0] if re.search(r"[^\d.,\s/+-]", parts[0]) else f"{parts[0]} {unit}"
    full = is_full_size(parts[1])
    width, height = parse_length_mm(plain_length(first), "Width"), parse_length_mm(plain_length(parts[1]), "Height")
    if not (width > 0 and height > 0):
        raise QuantityError("Rectangle", f"“{text.strip()}” has no size", "width x height above zero")
    if full:
        return width / scale, height / scale
    return width, height


def squared(image: QImage, corners: list[QPointF], width_mm: float, height_mm: float) -> tuple[QImage, float, QPointF]:
    """A photo as seen straight on.

    ``corners`` are the rectangle's in the image, clockwise from its upper left. Returns the picture, mm per px, and
    where the middle of the rectangle lies in it. Raises PlanError for corners that make no rectangle.
    """
    quad = QPolygonF(corners)
    across = max((corners[1] - corners[0]).manhattanLength(), (corners[2] - corners[3]).manhattanLength())
    scale = across / width_mm
    flat = QPolygonF(QRectF(0, 0, width_mm * scale, height_mm * scale))
    flat.remove(4)
    made = QTransform.quadToQuad(quad, flat)
    turn = made[0] if isinstance(made, tuple) else made
    if not isinstance(turn, QTransform) or not turn.isInvertible():
        raise PlanError("Photo", "the four corners make no rectangle", "four corners, one after the other")
    area = turn.mapRect(QRectF(image.rect()))
    if not (area.width() < 8 * MOST_PX and area.height() < 8 * MOST_PX) or area.width() < 2 or area.height() < 2:
        raise PlanError("Photo", "the corners are too askew to square it up", "a photo taken more from the front")
    shrink = min(1.0, MOST_PX / max(area.width(), area.height()))
    out = QImage(
        max(1, int(area.width() * shrink)),
        max(1, int(area.height() * shrink)),
        QImage.Format.Format_ARGB32_Premultiplied,
    )
    out.fill(Qt.GlobalColor.transparent)
    painter = QPainter(out)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.setTransform(
        turn * QTransform.fromTranslate(-area.left(), -area.top()) * QTransform.fromScale(shrink, shrink)
    )
    painter.drawImage(0, 0, image)
    painter.end()
    middle = (QPointF(width_mm * scale / 2, height_mm * scale / 2) - area.topLeft()) * shrink
    return out, 1.0 / (scale * shrink), middle


class SquareTool(Tool):
    id = "square"

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self.points: list[tuple[float, float]] = []  # sheet, mm
        self.field: ValueField | None = None

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if len(self.points) >= 4:
            self.cancel()
        self.points.append(self.plate.extent.to_mm(at.x(), at.y()))
        if len(self.points) == 4:
            self.field = ValueField(
                "Size of the rectangle",
                lambda t: read_rectangle(t, self.plate.document.plan.kit.scale),
                self._take,
                self.plate,
            )
            self.field.set_hint("120 x 40 mm on the kit, or 24 x 8 m at full size")
            self.field.setPlaceholderText("120 x 40 mm")
            self.field.refused.connect(self.plate.document.message_stop)
            self.field.setFixedWidth(160)
            self.field.move(
                int(min(max(at.x() - 60, 10), self.plate.width() - 170)),
                int(min(at.y() + 24, self.plate.height() - 40)),
            )
            self.field.show()
            self.field.setFocus()
        self.plate.update()

    def _take(self, value: object) -> None:
        width, height = cast("tuple[float, float]", value)
        document, view = self.plate.document, self.plate.view
        try:
            self._square(width, height)
        except GwiazdaError as error:
            document.message.emit(str(error), "stop")
            return
        document.message.emit(
            f"{view.name} is squared up and calibrated: the rectangle is {width:g} × {height:g} mm.", "info"
        )
        self.cancel()
        self.plate.setFocus()

    def _square(self, width: float, height: float) -> None:
        document, view = self.plate.document, self.plate.view
        drawing = view.drawing
        data = document.pictures.get(drawing.picture, b"") if drawing else b""
        image = decoded(data)
        if drawing is None or image is None or image.isNull():
            raise PlanError(f"View {view.name}", "has no photo to square up", "a PNG or JPEG behind the view")
        turn = QTransform().rotate(-drawing.rotation_deg)
        corners = [turn.map(QPointF(*p)) / drawing.mm_per_unit + QPointF(*drawing.origin) for p in self.points]
        shown = image.width() / size_of(data)[0]
        out, mm_per_px, middle = squared(image, [c * shown for c in corners], width, height)
        name = document.add_picture(re.sub(r"\.\w+$", "", drawing.picture) + "-square.png", png_of(out))
        made = Drawing(picture=name, mm_per_unit=mm_per_px, origin=(middle.x(), middle.y()), fade=drawing.fade)
        document.edit("Square up the photo", lambda plan: views.set_view(plan, view.id, drawing=made))
        self.plate.fit_view()

    def paint(self, painter: QPainter) -> None:
        palette = self.plate.palette_
        painter.setPen(QPen(palette.colour("choice"), 1.6))
        painter.setBrush(palette.colour("card"))
        px = [self.plate.extent.to_px(*p) for p in self.points]
        for a, b in zip(px, [*px[1:], *px[:1]] if len(px) == 4 else px[1:], strict=False):
            painter.drawLine(a, b)
        for p in px:
            painter.drawEllipse(p, 4, 4)

    def cancel(self) -> None:
        self.points = []
        if self.field is not None:
            self.field.hide()
            self.field.deleteLater()
            self.field = None
        self.plate.update()
