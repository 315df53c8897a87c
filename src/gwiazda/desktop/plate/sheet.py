"""How a view's sheet (mm) lies on the plate (px): pan, zoom, fit, and the drawing behind it."""

from __future__ import annotations

import math
import struct
import threading
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QBuffer, QByteArray, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QImage, QImageReader, QPainter, QTransform
from PySide6.QtSvg import QSvgRenderer

from gwiazda.core.memo import memoize
from gwiazda.core.plan.frame import PLANES, SHEET, Side, to_sheet
from gwiazda.core.plan.model import Plan, View
from gwiazda.core.plan.outline.svg_clean import svg_size
from gwiazda.core.plan.storage import picture_size
from gwiazda.desktop.svg_trial import shown

if TYPE_CHECKING:
    from gwiazda.core.render.layers import Camera

# Lamps and nothing else (mm): as they lie on the bench. From nearer their glare is all there is to see.
BARE = QRectF(0.0, 0.0, 160.0, 90.0)
LEAST_SCALE, MOST_SCALE = 0.05, 60.0
MOST_SHOWN_PX = 16_000_000  # of a raster picture: more can’t be seen on a plate, and takes gigabytes
EMPTY = QRectF(-110.0, -70.0, 220.0, 140.0)


@dataclass(frozen=True)
class Window:
    """Part of a sheet shown: px = (mm − origin) · scale."""

    width: int
    height: int
    left_mm: float
    top_mm: float
    scale: float

    def to_px(self, right: float, down: float) -> QPointF:
        return QPointF((right - self.left_mm) * self.scale, (down - self.top_mm) * self.scale)

    def to_mm(self, x: float, y: float) -> tuple[float, float]:
        return x / self.scale + self.left_mm, y / self.scale + self.top_mm

    def transform(self) -> QTransform:
        return QTransform(self.scale, 0, 0, self.scale, -self.left_mm * self.scale, -self.top_mm * self.scale)

    def zoomed(self, factor: float, x: float, y: float) -> Window:
        """Zoom about a place on the plate."""
        scale = min(max(self.scale * factor, LEAST_SCALE), MOST_SCALE)
        u, v = self.to_mm(x, y)
        return replace(self, scale=scale, left_mm=u - x / scale, top_mm=v - y / scale)

    def panned(self, dx: float, dy: float) -> Window:
        return replace(self, left_mm=self.left_mm - dx / self.scale, top_mm=self.top_mm - dy / self.scale)

    def resized(self, width: int, height: int) -> Window:
        """Another size about the same centre."""
        return replace(
            self,
            width=width,
            height=height,
            left_mm=self.left_mm + (self.width - width) / (2 * self.scale),
            top_mm=self.top_mm + (self.height - height) / (2 * self.scale),
        )

    def scaled(self, ratio: float) -> Window:
        """The same part of the sheet on a screen of ``ratio`` device pixels to one."""
        return replace(
            self, width=round(self.width * ratio), height=round(self.height * ratio), scale=self.scale * ratio
        )

    def camera(self, distance_m: float) -> Camera:
        from gwiazda.core.render.layers import Camera

        return Camera(self.width, self.height, (self.left_mm, self.top_mm), self.scale, distance_m)


def fit(area: QRectF, width: int, height: int, margin_px: float = 34.0) -> Window:
    """The window that shows an area of the sheet with a margin around it."""
    area = area if area.width() > 0 and area.height() > 0 else EMPTY
    inner_w, inner_h = max(width - 2 * margin_px, 40.0), max(height - 2 * margin_px, 40.0)
    scale = min(max(min(inner_w / area.width(), inner_h / area.height()), LEAST_SCALE), MOST_SCALE)
    centre = area.center()
    return Window(width, height, centre.x() - width / (2 * scale), centre.y() - height / (2 * scale), scale)


def area_of(plan: Plan, view: View, pictures: dict[str, bytes]) -> QRectF:
    """All of a view that has something on it, in sheet mm."""
    area = QRectF()
    a, b, _ = SHEET[view.side]
    for section in plan.sections:
        for outline in section.drawn(view.side):
            for h, v in outline.points:
                area = area.united(QRectF(a * h - 0.5, b * v - 0.5, 1.0, 1.0))
        area = area.united(box_on_sheet(view.side, section.box.at, section.box.size))
    for lamp in plan.lamps:
        x, y, _ = to_sheet(view.side, lamp.at)
        area = area.united(QRectF(x - 2, y - 2, 4, 4))
    if view.drawing is not None and view.drawing.picture in pictures:
        area = area.united(shown_area(view, pictures[view.drawing.picture]))
    elif plan.lamps and not plan.sections:
        wide = BARE.translated(area.center() - BARE.center())
        area = area.united(wide)
    return area


def box_on_sheet(side: Side, at: tuple[float, float, float], size: tuple[float, float, float]) -> QRectF:
    """A box as its rectangle on a sheet."""
    h, v, _ = PLANES[side]
    a, b, _ = SHEET[side]
    x0, x1 = sorted((a * at[h], a * (at[h] + size[h])))
    y0, y1 = sorted((b * at[v], b * (at[v] + size[v])))
    return QRectF(x0, y0, x1 - x0, y1 - y0)


def _is_svg(data: bytes) -> bool:
    return not data.startswith((b"\x89PNG", b"\xff\xd8"))


def drawing_area(view: View, data: bytes) -> QRectF:
    """Where a view's drawing lies on its sheet (mm)."""
    drawing = view.drawing
    assert drawing is not None
    return _in_mm(view, QRectF(0.0, 0.0, *size_of(data)))


@memoize(slots=4)  # large pictures: tens of megabytes each
def _decoded(data: bytes) -> QImage:
    """A raster picture, no larger than can be looked at: ``picture_size`` says how large it is in its own units."""
    buffer = QBuffer()
    buffer.setData(QByteArray(data))
    reader = QImageReader(buffer)
    size = reader.size()
    if size.isValid() and size.width() * size.height() > MOST_SHOWN_PX:
        k = math.sqrt(MOST_SHOWN_PX / (size.width() * size.height()))
        reader.setScaledSize(QSize(max(round(size.width() * k), 1), max(round(size.height() * k), 1)))
    return reader.read()


def decoded(data: bytes) -> QImage | None:
    """A raster picture of a plan, None for an SVG or nothing."""
    return None if not data or _is_svg(data) else _decoded(data)


def size_of(data: bytes) -> tuple[float, float]:
    """Width and height of a picture in its own units."""
    if not _is_svg(data):
        try:
            size = picture_size(data)
        except (ValueError, struct.error):
            size = None
        return (0.0, 0.0) if size is None else (float(size[0]), float(size[1]))
    how = shown(data, wait=False)
    if how and how.plain:
        box = QSvgRenderer(QByteArray(data)).viewBoxF()
        return box.width(), box.height()
    return how.size if how else svg_size(data) or (0.0, 0.0)


def _in_mm(view: View, area: QRectF) -> QRectF:
    """An area of a drawing, in its own units, on the sheet before it is turned."""
    drawing = view.drawing
    assert drawing is not None
    k, (ox, oy) = drawing.mm_per_unit, drawing.origin
    return QRectF((area.left() - ox) * k, (area.top() - oy) * k, area.width() * k, area.height() * k)


def shown_area(view: View, data: bytes) -> QRectF:
    """What of a view's drawing is shown: all of it, or what the crop keeps."""
    area = drawing_area(view, data)
    crop = view.drawing.crop if view.drawing else None
    if crop is None:
        return area
    return area.intersected(_in_mm(view, QRectF(crop[0], crop[1], crop[2] - crop[0], crop[3] - crop[1])))


def on_trial(view: View, pictures: dict[str, bytes]) -> bool:
    """Whether a view's drawing still waits for its trial, and can't be shown yet."""
    data = pictures.get(view.drawing.picture) if view.drawing is not None else None
    return data is not None and _is_svg(data) and shown(data, wait=False) is None


def render_drawing(view: View, pictures: dict[str, bytes], window: Window) -> QImage | None:
    """The part of a view's drawing that the window shows, at the window's own size; None without a drawing."""
    if view.drawing is None or view.drawing.picture not in pictures:
        return None
    data = pictures[view.drawing.picture]
    area = drawing_area(view, data)
    target = QRectF(window.to_px(area.left(), area.top()), window.to_px(area.right(), area.bottom()))
    turn = view.drawing.rotation_deg
    image = QImage(window.width, window.height, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    if turn:
        # About the model's origin, where the calibration holds it.
        origin = window.to_px(0.0, 0.0)
        painter.translate(origin)
        painter.rotate(turn)
        painter.translate(-origin)
    if view.drawing.crop is not None:
        kept = shown_area(view, data)
        painter.setClipRect(QRectF(window.to_px(kept.left(), kept.top()), window.to_px(kept.right(), kept.bottom())))
    if _is_svg(data):
        how = shown(data, wait=threading.current_thread() is not threading.main_thread())
        if how and how.plain:
            QSvgRenderer(QByteArray(data)).render(painter, target)
        elif how:
            painter.drawImage(target, _decoded(how.png))
    else:
        painter.drawImage(target, _decoded(data))
    painter.end()
    return image
