"""The night side: builds the basis pictures of a view off the interface thread and keeps them current."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPolygonF

from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.lookup import standing
from gwiazda.core.plan.model import Plan, View
from gwiazda.core.render.tone import ScreenTable, from_srgb, middle_luminance, screen_table
from gwiazda.core.turns import give_way, showing
from gwiazda.desktop.plate.sheet import Window, render_drawing
from gwiazda.desktop.worker import NewestWins

if TYPE_CHECKING:
    from gwiazda.core.render.layers import Camera, ChannelLight, Relief, Surface
    from gwiazda.core.render.night import Layer, NightPicture

LIGHT_FILL = 0.78  # linear reflectance of the lightest fill of a drawing, which stands for the bare hull


@dataclass(frozen=True)
class Shot:
    """What is asked of the renderer."""

    plan: Plan
    assessment: Assessment
    view: View
    window: Window
    pictures: dict[str, bytes]
    darkest_lux: float | None = (
        None  # as dark as the room may get without another picture; the plan's room where none is said
    )


@dataclass
class Update:
    """What came of it: a whole new picture, or the channels of the old one that changed."""

    shot: Shot
    picture: NightPicture | None
    changed: list[Layer]
    removed: list[str]


_LINEAR = from_srgb(np.arange(256) / 255.0).astype(np.float32)


def hull_tone(shot: Shot, surfaces: tuple[Surface, ...]) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.float32]]:
    """How strongly each pixel of the hull throws light back against what it is made of, 0 off the hull; and the share of it that is hull.

    From the view's drawing where there is one, else from the sections' outlines.
    """
    image = render_drawing(shot.view, shot.pictures, shot.window)
    if image is None:
        image = QImage(shot.window.width, shot.window.height, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QColor("#5a5e5b"))
        painter.setBrush(QColor("#e4e4e0"))
        for surface in sorted(surfaces, key=lambda s: s.toward_mm):
            painter.drawPolygon(QPolygonF([shot.window.to_px(x, y) for x, y in surface.polygon]))
        painter.end()
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
    b, g, r = (_LINEAR[pixels[:, : image.width(), i]] for i in range(3))
    # Premultiplied, so the soft edge of the hull is soft here too.
    lightness: npt.NDArray[np.float32] = (0.2126 * r + 0.7152 * g + 0.0722 * b) / np.float32(LIGHT_FILL)
    return lightness, pixels[:, : image.width(), 3].astype(np.float32) / np.float32(255.0)


def hull_share(shot: Shot) -> float:
    """Luminance of the bare hull, cd/m² for each lx of the room."""
    if shot.plan.room.lux > 0.0:
        return shot.assessment.hull_cd_m2 / shot.plan.room.lux
    from gwiazda.core.assess.optics.skin import bare_reflectance
    from gwiazda.core.render.tone import hull_luminance

    return hull_luminance(1.0, bare_reflectance(shot.assessment.catalogue, shot.plan.kit.material))


def behind(shot: Shot, surfaces: tuple[Surface, ...]) -> npt.NDArray[np.float32]:
    """Wall and table behind the model, cd/m² for each lx of the room."""
    from gwiazda.core.render.backdrop import flat

    foot = max((float(y) for s in surfaces for _, y in s.polygon), default=0.0)
    level = None if shot.view.side in ("top", "bottom") else shot.window.to_px(0.0, foot).y()
    return flat(shot.window.height, shot.window.width, level)


class NightRenderer(QObject):
    """Keeps the layers of the last shot and renders only what the next one changes. Lives on its worker's thread."""

    def __init__(self) -> None:
        super().__init__()
        self._camera: Camera | None = None
        self._view: View | None = None
        self._surfaces: tuple[Surface, ...] | None = None
        self._relief: Relief | None = None
        self._least = 0.0
        self._hull: npt.NDArray[np.float32] = np.zeros((1, 1), np.float32)
        self._hull_key: object = None
        self._lights: dict[tuple[str, tuple[float, float, float]], tuple[ChannelLight, Layer | None]] = {}

    def __call__(self, shot: Shot) -> Update:
        # Imported here: the first picture of the works does not wait for what draws the night.
        from gwiazda.core.assess.night.scene import scene_of, surfaces_of
        from gwiazda.core.assess.night.unlit import lay_unlit, unlit_shares
        from gwiazda.core.assess.sight.throw import sheet_bodies
        from gwiazda.core.render.layers import Relief, render
        from gwiazda.core.render.night import NightPicture

        camera = shot.window.camera(shot.plan.room.distance_m)
        surfaces = surfaces_of(shot.assessment.catalogue, shot.plan, shot.view.side)
        plan = shot.plan
        shares = unlit_shares(shot.assessment.catalogue, plan.sections, plan.openings, plan.kit.material)
        hull_key = (shot.assessment.hull_cd_m2, shot.view.drawing, tuple(shot.pictures), plan.openings, shares)
        # A quarter of a code value at the dark end of the screen is the least that could ever be seen.
        darkest = shot.plan.room.lux if shot.darkest_lux is None else min(shot.darkest_lux, shot.plan.room.lux)
        least = middle_luminance(hull_share(shot) * darkest, shot.plan.room.exposure_ev) * 0.25 / 255 / 12.92
        whole = (
            camera != self._camera
            or surfaces is not self._surfaces
            or hull_key != self._hull_key
            or shot.view.id != (self._view.id if self._view else None)
            or least < self._least
        )
        if whole:
            self._camera, self._view, self._surfaces = camera, shot.view, surfaces
            self._hull_key = hull_key
            # Half as much again, so that a turn of the exposure needs no new pictures at once.
            self._least = least / 2
            self._lights.clear()
            tone, cover = hull_tone(shot, surfaces)
            # For each lx of the room, so that it can get darker in it.
            self._hull = tone * np.float32(hull_share(shot)) + (1.0 - cover) * behind(shot, surfaces)
            lay_unlit(self._hull, camera, shot.view.side, shot.plan.openings, shares)
            # What the drawing shows dark throws less of a lamp's wash back too.
            self._relief = Relief(
                surfaces, camera, sheet_bodies(shot.plan.sections, shot.view.side, standing(shot.plan))
            )
            self._relief.reflectance *= np.minimum(tone, 1.25)
        assert self._relief is not None
        scene = scene_of(shot.plan, shot.assessment, shot.view.side)
        changed_channels: set[str] = set()
        fresh: dict[tuple[str, tuple[float, float, float]], tuple[ChannelLight, Layer | None]] = {}
        for light in scene:
            give_way()
            key = (light.channel, light.rgb)
            kept = self._lights.get(key)
            if kept is not None and kept[0].same_as(light):
                fresh[key] = kept
            else:
                fresh[key] = (light, render(light, camera, self._relief, self._least))
                changed_channels.add(light.channel)
        changed_channels |= {key[0] for key in self._lights if key not in fresh}
        self._lights = fresh
        layers = [layer for _, layer in fresh.values() if layer is not None]
        if whole:
            return Update(shot, NightPicture(self._hull, layers, lux=shot.plan.room.lux), [], [])
        present = {layer.channel for layer in layers}
        changed = [layer for layer in layers if layer.channel in changed_channels]
        return Update(shot, None, changed, sorted(changed_channels - present))


class NightSide(QObject):
    """The night picture of the plate: feed it shots, and draw its image."""

    ready = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._render = NightRenderer()
        self._worker = NewestWins("night", self)
        self._worker.done.connect(self._take)
        self.failed = self._worker.failed
        self.picture: NightPicture | None = None
        self.shot: Shot | None = None
        self.weights: dict[str, float] = {}
        self.lux: float | None = None  # the room's light while dusk is shown; the plan's own where there is none
        self._table: ScreenTable | None = None
        self._middle = 0.0
        self._buffer: npt.NDArray[np.uint8] | None = None
        self.image: QImage | None = None

    def request(self, shot: Shot) -> None:
        self._worker.submit(lambda: self._render(shot))

    @property
    def idle(self) -> bool:
        return self._worker.idle

    def _take(self, update: Update) -> None:
        with showing():
            self._show(update)

    def _show(self, update: Update) -> None:
        self.shot = update.shot
        if update.picture is not None:
            self.picture = update.picture
            h, w = update.picture.height, update.picture.width
            self._buffer = np.empty((h, w, 4), np.uint8)
            self.image = QImage(self._buffer.data, w, h, w * 4, QImage.Format.Format_RGB32)
        elif self.picture is not None:
            for channel in update.removed:
                self.picture.remove(channel)
            self.picture.set_layers(update.changed, self.weights)
        self.draw()
        self.ready.emit()

    def set_weights(self, weights: dict[str, float]) -> None:
        """Weight of each channel; what is not named is as wired."""
        self.weights = dict(weights)
        self.draw()
        self.ready.emit()

    def set_lux(self, lux: float | None) -> None:
        """Another light of the room, while dusk is shown; None goes back to the plan's."""
        if lux != self.lux:
            self.lux = lux
            self.draw()
            self.ready.emit()

    def draw(self) -> None:
        """Compose the current frame into ``image``."""
        if self.picture is None or self.shot is None or self._buffer is None:
            return
        lux = self.shot.plan.room.lux if self.lux is None else self.lux
        self.picture.set_lux(lux)
        middle = middle_luminance(hull_share(self.shot) * lux, self.shot.plan.room.exposure_ev)
        if self._table is None or middle != self._middle:
            self._table, self._middle = screen_table(middle), middle
        full = {c: self.weights.get(c, 1.0) for c in self.picture.channels}
        self.picture.frame(self._table, full, self._buffer)

    def luminance_at(self, x: int, y: int) -> float | None:
        """Luminance (cd/m², photometric weights of the screen primaries) at a pixel of the picture, as drawn."""
        if self.picture is None or not (0 <= x < self.picture.width and 0 <= y < self.picture.height):
            return None
        return self.picture.luminance_at(x, y)

    def load_kernel_later(self) -> None:
        """Load the compiled loops on a thread of their own, those of the round view behind these; NumPy draws until then."""
        from gwiazda.core.render import night as night_core

        def load() -> None:
            from gwiazda.core.render import round as round_core

            night_core.load_kernel()
            round_core.load_kernel()

        threading.Thread(target=load, name="kernel", daemon=True).start()

    def close(self) -> None:
        self._worker.close()
