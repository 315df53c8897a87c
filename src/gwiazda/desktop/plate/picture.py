"""The works side as kept pictures: the ground, the lamps over it, and what a drag or a pan needs of them."""

from __future__ import annotations

import time
from dataclasses import replace

from PySide6.QtCore import QRect, QRectF, QSize
from PySide6.QtGui import QImage, QPainter

from gwiazda.core.plan.model import Section
from gwiazda.desktop.document import Document
from gwiazda.desktop.plate.lines.works import Works, paint_dragged, paint_ground, paint_lamps
from gwiazda.desktop.plate.sheet import Window, on_trial, render_drawing

SLOW_MS = 12.0  # a ground that takes longer is not painted anew for every step of a pan
_BY_VALUE = (str, tuple, Window)


def _same(a: tuple[object, ...] | None, b: tuple[object, ...]) -> bool:
    """Whether two keys hold the very same plan pieces and equal values beside them."""
    return a is not None and all(
        x is y or (type(x) in _BY_VALUE and not _heavy(x) and x == y) for x, y in zip(a, b, strict=True)
    )


def _heavy(value: object) -> bool:
    # Tuples of models are compared by identity: equality would look through every one of them.
    return type(value) is tuple and bool(value) and not isinstance(value[0], str)


def _canvas(old: QImage | None, window: Window, ratio: float) -> QImage:
    """A picture of the window's device pixels that is painted in points."""
    if old is not None and old.size() == QSize(window.width, window.height) and old.devicePixelRatio() == ratio:
        return old
    image = QImage(window.width, window.height, QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(ratio)
    return image


class WorksPicture:
    """Paints the works with as little as has changed."""

    def __init__(self, document: Document) -> None:
        self.document = document
        self._ground: QImage | None = None
        self._ground_key: tuple[object, ...] | None = None
        self._ground_ms = 0.0
        self._drag: QImage | None = None
        self._drag_key: tuple[object, ...] | None = None
        self._works: QImage | None = None
        self._works_key: tuple[object, ...] | None = None
        self._works_window: Window | None = None
        self._drawing: QImage | None = None
        self._drawing_key: object = None
        self.waits = False  # for the drawing's trial

    def paint(self, painter: QPainter, scene: Works, cut: int, ratio: float, moving: bool) -> None:
        """Paint the works left of ``cut``; ``moving`` while the view is panned or zoomed."""
        window = scene.window.scaled(ratio) if ratio != 1.0 else scene.window
        waits = on_trial(scene.view, self.document.pictures)
        drawing_key = (window, scene.view, id(self.document.pictures), waits)
        self.waits = waits
        if drawing_key != self._drawing_key:
            self._drawing = render_drawing(scene.view, self.document.pictures, window)
            if self._drawing is not None:
                self._drawing.setDevicePixelRatio(ratio)
            self._drawing_key = drawing_key
        if self._ground_ms > SLOW_MS and moving and self._works_window not in (None, window):
            self._paint_stale(painter, scene, cut, ratio)
            return
        dragging = scene.plan is not self.document.drag_start
        if dragging and not any(isinstance(i, Section) for i in self.document.selected_items()):
            self._paint_drag(scene, window, ratio)
        else:
            self._paint_all(scene, window, ratio)
        assert self._works is not None
        painter.drawImage(
            QRectF(0, 0, cut, scene.window.height), self._works, QRectF(0, 0, cut * ratio, scene.window.height * ratio)
        )

    def _paint_all(self, works: Works, window: Window, ratio: float) -> None:
        """All of the works into ``_works``: the ground when it is another, and the lamps over it."""
        chosen = tuple(i for i in works.selection if i not in works.assessment.lamps)
        ground = (works.plan.sections, works.plan.openings, window, works.view, works.palette.name, chosen, self.waits)
        if not _same(self._ground_key, ground):
            start = time.perf_counter()
            self._ground = _canvas(self._ground, window, ratio)
            inner = QPainter(self._ground)
            paint_ground(inner, works, self._drawing)
            inner.end()
            self._ground_key, self._works_key = ground, None
            self._ground_ms = (time.perf_counter() - start) * 1e3
        key = (works.plan, works.assessment, works.selection)
        if not _same(self._works_key, key):
            assert self._ground is not None
            self._works = _canvas(self._works, window, ratio)
            inner = QPainter(self._works)
            inner.drawImage(0, 0, self._ground)
            paint_lamps(inner, works)
            inner.end()
            self._works_key = key
            self._works_window = window

    def _paint_drag(self, works: Works, window: Window, ratio: float) -> None:
        """While something is dragged: the rest as it was when the drag began, and what is dragged over it."""
        key = (self.document.drag_start, works.selection, window, works.view, works.palette.name)
        if not _same(self._drag_key, key):
            rest = replace(works, skip=frozenset(works.selection))
            self._drag = _canvas(self._drag, window, ratio)
            inner = QPainter(self._drag)
            paint_ground(inner, rest, self._drawing)
            paint_lamps(inner, rest)
            inner.end()
            self._drag_key = key
        assert self._drag is not None
        self._works = _canvas(self._works, window, ratio)
        inner = QPainter(self._works)
        inner.drawImage(0, 0, self._drag)
        paint_dragged(inner, replace(works, only=frozenset(works.selection)))
        inner.end()
        self._works_key = None
        self._works_window = window

    def _paint_stale(self, painter: QPainter, scene: Works, cut: int, ratio: float) -> None:
        """While a large plan is panned or zoomed, its last picture moves along; the true one follows when it rests."""
        assert self._works is not None and self._works_window is not None
        old, now = self._works_window, scene.window.scaled(ratio)
        a = now.to_px(old.left_mm, old.top_mm) / ratio
        k = now.scale / old.scale / ratio
        painter.save()
        painter.setClipRect(QRect(0, 0, cut, scene.window.height))
        painter.fillRect(0, 0, cut, scene.window.height, scene.palette.colour("paper"))
        painter.drawImage(QRectF(a.x(), a.y(), old.width * k, old.height * k), self._works)
        painter.restore()
