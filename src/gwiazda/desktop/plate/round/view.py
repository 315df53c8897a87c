"""The model walked round: one more view over the plate, the wipe between works and night as everywhere, turned by dragging."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QEvent, QObject, QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QToolTip, QWidget

from gwiazda.core.plan.lookup import open_sections
from gwiazda.core.quantities import counted, figure
from gwiazda.core.render.tone import ScreenTable, middle_luminance, screen_table
from gwiazda.core.turns import OvertakenError, showing
from gwiazda.desktop.plate.lines.describe import describe
from gwiazda.desktop.plate.lines.marks import paint_wipe
from gwiazda.desktop.plate.lines.works import lamp_colour
from gwiazda.desktop.plate.round.frame import Frame, Renderer, Wish
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import SMALL_PX, Palette
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.sign import paint_sign
from gwiazda.desktop.worker import NewestWins, failure_words

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

STEP_DEG, DRAG_DEG = 15.0, 0.4  # an arrow key's turn; degrees for a pixel dragged
LOWEST_DEG, HIGHEST_DEG = -89.0, 89.0
COARSE = 4  # times fewer pixels each way while it moves
SHARP_AFTER_MS = 140
LAYERS_AFTER_MS = 250  # of rest: then each channel gets a picture of its own, to be dimmed by
CLICK_PX = 4
NEAREST, FARTHEST = 0.4, 12.0


SIGN_PX = 9.0


class Stand(NamedTuple):
    """A place to look from: its name, round, up, and how near."""

    name: str
    azimuth_deg: float
    height_deg: float
    near: float
    tip: str


STANDS = (
    Stand("Bow", 90.0, 8.0, 1.0, "from ahead"), Stand("Quarter", 48.0, 20.0, 1.0, "over the bow, from the quarter"),
    Stand("Beam", 0.0, 4.0, 1.0, "from the side"), Stand("Above", 0.0, 89.0, 1.0, "from straight above"),
    Stand("Sofa", 25.0, 12.0, 0.55, "from across the room"), Stand("Below", 0.0, -60.0, 1.0, "from below"),
)  # fmt: skip


class RoundView(Guarded, QWidget):
    """Lies over the plate while the round is shown."""

    changed = Signal()

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self.plate, self.document = plate, plate.document
        self.azimuth, self.height_deg, self.near = 48.0, 20.0, 1.0
        self.frame: Frame | None = None
        self.image: QImage | None = None
        self._buffer: npt.NDArray[np.uint8] | None = None
        self._table: tuple[float, ScreenTable] | None = None
        self._from: QPointF | None = None
        self._last = QPointF()
        self._turning = self._wiping = False
        self.setObjectName("round")
        self.setAccessibleName("The model from anywhere: drag to turn, wheel to come nearer")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.installEventFilter(self)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._render = Renderer()
        self.worker = NewestWins("round", self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(lambda text: self.document.message_stop(failure_words("The round", text)))
        self._sharp = QTimer(self)
        self._sharp.setSingleShot(True)
        self._sharp.setInterval(SHARP_AFTER_MS)
        self._sharp.timeout.connect(lambda: self.request(1))
        self._layers = QTimer(self)
        self._layers.setSingleShot(True)
        self._layers.timeout.connect(lambda: self.request(1, layered=True))
        self.document.assessed.connect(lambda: self.request(1))
        self.document.selection_changed.connect(self.update)
        self.document.step_changed.connect(self._stage_changed)
        plate.night.ready.connect(self._weigh)
        self.stands = self._strip()
        self.hide()

    def _stage_changed(self) -> None:
        """Another step of the build is looked at."""
        if self.on and self.plate.stage is not None:
            self.request(1)

    def _strip(self) -> QWidget:
        """Buttons of the places to look from, at the head of the plate."""
        strip = QWidget(self.plate)
        row = QHBoxLayout(strip)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        for number, stand in enumerate(STANDS, 1):
            button = QToolButton()
            button.setObjectName("view")
            button.setText(stand.name)
            button.setAccessibleName(f"Look {stand.tip}")
            button.setToolTip(f"Look {stand.tip} (Alt+{number})")
            button.setShortcut(f"Alt+{number}")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, s=stand: self.stand_at(s))
            row.addWidget(button)
        strip.hide()
        return strip

    # -- on and off ---------------------------------------------------------------------------------------

    @property
    def on(self) -> bool:
        return not self.isHidden()

    @property
    def idle(self) -> bool:
        return self.worker.idle and not self._sharp.isActive() and not self._layers.isActive()

    def begin(self) -> None:
        """Walk round the model."""
        self.setGeometry(self.plate.rect())
        self.show()
        self.lower()
        self.stands.adjustSize()
        self.stands.show()
        self.stands.raise_()
        self._place_strip()
        self.setFocus()
        self.request(1)
        self.changed.emit()
        from gwiazda.core.render import round as core_round

        if not core_round.kernel_loaded():
            import threading

            threading.Thread(target=self._load, name="kernel", daemon=True).start()

    def _load(self) -> None:
        from gwiazda.core.render import round as core_round

        core_round.load_kernel()

    def end(self) -> None:
        """Back to the flat view one came from."""
        if self.on:
            self.hide()
            self.stands.hide()
            self.plate.setFocus()
            self.changed.emit()

    def _place_strip(self) -> None:
        self.stands.move(self.plate.width() - self.stands.width() - 10, self.plate.height() - self.stands.height() - 10)

    def fill_plate(self) -> None:
        """Follow the plate's size."""
        if self.on:
            self.setGeometry(self.plate.rect())
            self._place_strip()

    # -- the eye ------------------------------------------------------------------------------------------

    def look_from(self, azimuth_deg: float, height_deg: float) -> None:
        self.azimuth = (azimuth_deg + 180.0) % 360.0 - 180.0
        self.height_deg = min(max(height_deg, LOWEST_DEG), HIGHEST_DEG)
        self.request(1)

    def stand_at(self, stand: Stand) -> None:
        self.azimuth, self.height_deg, self.near = stand.azimuth_deg, stand.height_deg, stand.near
        self.request(1)

    def turn(self, across_deg: float, up_deg: float, moving: bool = False) -> None:
        """Walk round and up by so much."""
        self.azimuth = (self.azimuth + across_deg + 180.0) % 360.0 - 180.0
        self.height_deg = min(max(self.height_deg + up_deg, LOWEST_DEG), HIGHEST_DEG)
        self._moved(moving)

    def come(self, factor: float) -> None:
        """Nearer, or farther."""
        self.near = min(max(self.near * factor, NEAREST), FARTHEST)
        self._moved(True)

    def _moved(self, moving: bool) -> None:
        if moving:
            self.request(COARSE)
            self._sharp.start()
        else:
            self.request(1)

    def request(self, coarse: int, layered: bool = False) -> None:
        """Ask for a picture; the newest wish wins. All channels come at once, which is sooner, and a little later channel by channel."""
        self._layers.stop()
        if not self.on or self.width() < 16 or self.document.loading:
            return
        ratio = self.devicePixelRatioF()
        size = (round(self.width() * ratio), round(self.height() * ratio))
        plan = self.document.assessed_plan
        stage = self.plate.stage
        opened = (
            frozenset(stage(self.document).opened)
            if stage is not None
            else open_sections(plan)
            if self.plate.shows_opened
            else frozenset()
        )
        # Put together here: on the other thread the assessment could be another plan's already.
        wish = Wish(
            plan, self.document.assessment, self.azimuth, self.height_deg, self.near, size, coarse, self.plate.palette_,
            dict(self.document.pictures), dict(self.plate.night.weights), layered, opened, self.plate.darkest_lux,
        )  # fmt: skip
        self.worker.submit(lambda: self._rendered(wish))

    def _rendered(self, wish: Wish) -> Frame | None:
        """A picture, or none where another is wanted already."""
        try:
            return self._render(wish, lambda: self.worker.overtaken)
        except OvertakenError:
            return None

    def _take(self, frame: Frame) -> None:
        self.frame = frame
        h, w = frame.picture.height, frame.picture.width
        self._buffer = np.empty((h, w, 4), np.uint8)
        self.image = QImage(self._buffer.data, w, h, w * 4, QImage.Format.Format_RGB32)
        self.draw()
        if frame.wish.coarse == 1 and not frame.wish.layered and self.worker.idle:
            self._layers.start(LAYERS_AFTER_MS)

    def _weigh(self) -> None:
        """The channels' weights have changed, as while the show plays, or the light of the room."""
        if self.on and self.frame is not None and self.frame.wish.darkest_lux != self.plate.darkest_lux:
            self.request(1)  # in a darker room fainter light shows
        if (
            self.on
            and self.frame is not None
            and (self.frame.wish.layered or self.frame.picture.lux != self.plate.night.lux is not None)
        ):
            self.draw()
        elif self._layers.isActive():
            self._layers.start(0)

    def draw(self) -> None:
        """Compose the night from its layers, at the weights of the plate's night side."""
        if self.frame is None or self._buffer is None:
            return
        with showing():
            wish = self.frame.wish
            own = wish.plan.room.lux
            lux = own if self.plate.night.lux is None else self.plate.night.lux
            self.frame.picture.set_lux(lux)
            hull = wish.assessment.hull_cd_m2 * lux / own if own > 0.0 else 0.0
            middle = middle_luminance(hull, wish.plan.room.exposure_ev)
            if self._table is None or self._table[0] != middle:
                self._table = (middle, screen_table(middle))
            weights = self.plate.night.weights
            full = {c: weights.get(c, 1.0) for c in self.frame.picture.channels}
            self.frame.picture.frame(self._table[1], full, self._buffer)
        self.update()

    # -- painting -----------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, palette = QPainter(self), self.plate.palette_
        cut = self.plate.wipe_px()
        whole = QRectF(self.rect())
        painter.fillRect(self.rect(), palette.colour("night"))
        painter.fillRect(QRect(0, 0, cut, self.height()), palette.colour("paper"))
        if self.frame is not None and self.image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.frame.wish.coarse > 1)
            painter.save()
            painter.setClipRect(QRect(0, 0, cut, self.height()))
            painter.drawImage(whole, self.frame.works)
            self._paint_lamps(painter, palette)
            self._paint_signs(painter, palette)
            painter.restore()
            painter.save()
            painter.setClipRect(QRect(cut, 0, self.width() - cut, self.height()))
            painter.drawImage(whole, self.image)
            painter.restore()
            self._paint_picked(painter, palette)
        self._paint_note(painter, cut)
        if not self.plate.hold:
            paint_wipe(painter, cut, self.plate.handle_rect(), self.height(), palette)
        painter.setPen(QPen(palette.colour("live" if self.hasFocus() else "line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.end()
        self.plate.painted()

    def _on_screen(self, places: npt.NDArray[np.float64]) -> list[tuple[QPointF, bool]]:
        """Places of the model on the plate, and whether anything stands before them."""
        assert self.frame is not None
        eye, seen = self.frame.works_looked.eye, self.frame.works_looked.seen
        px = eye.project(places)
        k = self.width() / eye.width
        out = []
        for x, y, depth in px.tolist():
            i, j = int(y), int(x)
            inside = 0 <= i < eye.height and 0 <= j < eye.width and depth > 1.0
            w = float(seen.depth[i, j]) if inside else 0.0
            out.append((QPointF(x * k, y * k), not inside or (w > 0 and 1.0 / w < depth - 2.0)))
        return out

    def _outside(self) -> list[tuple[npt.NDArray[np.float64], str, tuple[float, float, float]]]:
        """Lights that are seen themselves, not through a pane: place, id, colour."""
        assert self.frame is not None
        p = self.frame.lights.points
        return [(p.at[i], p.ids[i], p.rgb[i]) for i in np.flatnonzero(p.pane < 0).tolist()]

    def _paint_lamps(self, painter: QPainter, palette: Palette) -> None:
        """Lamps and points that are seen themselves, on the works side."""
        assert self.frame is not None
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        shown = {o.id for o in self.frame.looked.model.openings}
        marks = self._outside()
        if self.frame.wish.opened:
            states = self.frame.wish.assessment.lamps
            inside = [p for p in self.frame.wish.plan.lamps if p.id in states and states[p.id].section in self.frame.wish.opened]  # fmt: skip
            marks += [(np.array(p.at, dtype=float), p.id, states[p.id].rgb) for p in inside if p.mount != "outside"]
        places = self._on_screen(np.array([at for at, _, _ in marks]).reshape(-1, 3))
        for (at, hidden), (_, name, rgb) in zip(places, marks, strict=True):
            if hidden or name in shown:
                continue
            painter.setPen(QPen(palette.colour("ink"), 1.0))
            painter.setBrush(lamp_colour(rgb, palette))
            painter.drawEllipse(at, 3.5, 3.5)

    def _paint_signs(self, painter: QPainter, palette: Palette) -> None:
        """What is got at, and what isn't, at a step of the build."""
        stage = self.plate.stage(self.document) if self.plate.stage is not None else None
        if stage is None or not stage.signs:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(palette.colour("card"), 1.0))
        places = self._on_screen(np.array([s.at for s in stage.signs], dtype=float).reshape(-1, 3))
        for (at, _), sign in zip(places, stage.signs, strict=True):
            paint_sign(painter, at, sign.state, palette, SIGN_PX)

    def _paint_picked(self, painter: QPainter, palette: Palette) -> None:
        """A ring round what is picked."""
        assert self.frame is not None
        model, chosen = self.frame.looked.model, set(self.document.selection)
        places = [model.at[i] for i, o in enumerate(model.openings) if o.id in chosen]
        places += [at for at, name, _ in self._outside() if name in chosen]
        places += [np.array(s.box.centre) for s in model.sections if s.id in chosen]
        places += [np.array(f.at) for f in model.fittings if f.id in chosen]
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if places:
            for at, hidden in self._on_screen(np.array(places)):
                painter.setPen(
                    QPen(palette.colour("live"), 2, Qt.PenStyle.DotLine if hidden else Qt.PenStyle.SolidLine)
                )
                painter.drawEllipse(at, 9, 9)

    def eye_words(self) -> str:
        """Where the eye is: “60 cm, eye 21 cm above the middle”."""
        if self.frame is None:
            return ""
        eye = self.frame.looked.eye
        up = math.sin(math.radians(eye.height_deg)) * eye.distance_mm / 10.0
        over = f"eye {abs(up):.0f} cm {'above' if up >= 0 else 'below'} its middle"
        words = f"{eye.distance_mm / 10.0:.0f} cm · {over}"
        if eye.distance_mm > 1000.0 * self.frame.wish.plan.room.distance_m / min(self.frame.wish.near, 1.0) + 0.5:
            words += " · as near as it goes without standing in the model"
        from gwiazda.core.assess.night.solids import boxed

        plain = len(boxed(self.frame.looked.model.sections))
        if plain:
            words += f" · {counted(plain, 'section')} without an outline as plain {'box' if plain == 1 else 'boxes'}"
        return words

    def _paint_note(self, painter: QPainter, cut: int) -> None:
        words = self.eye_words()
        if words:
            painter.setFont(text_font(SMALL_PX))
            room = self.document.plan.room
            text = f"room {room.lux:g} lx · {words}"
            width = painter.fontMetrics().horizontalAdvance(text) + 16
            self.plate.paint_tag(painter, QPointF(self.width() - width - 10, 10), text, dark=self.width() - cut > width)

    # -- hands --------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        at = event.position()
        if event.button() == Qt.MouseButton.LeftButton and not self.plate.hold and self.plate.on_wipe(at):
            self._wiping = True
            return
        self._from, self._last, self._turning = at, at, False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._wiping:
            self.plate.set_wipe(at.x() / max(self.width(), 1))
            self.update()
        elif self._from is not None:
            if not self._turning and (at - self._from).manhattanLength() < CLICK_PX:
                return
            self._turning = True
            d, self._last = at - self._last, at
            self.turn(-d.x() * DRAG_DEG, d.y() * DRAG_DEG, moving=True)
        else:
            on_wipe = not self.plate.hold and self.plate.on_wipe(at)
            self.setCursor(Qt.CursorShape.SplitHCursor if on_wipe else Qt.CursorShape.OpenHandCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._wiping:
            self._wiping = False
            return
        start, self._from = self._from, None
        if start is not None and not self._turning and event.button() == Qt.MouseButton.LeftButton:
            found = self.found_at(event.position())
            more = bool(event.modifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier))
            chosen = [i for i in self.document.selection if i != found] if more else []
            self.document.select([*chosen, found] if found else chosen)

    def found_at(self, at: QPointF) -> str | None:
        """What lies under a place of the view: a light that is seen itself, a pane, a section."""
        if self.frame is None:
            return None
        from gwiazda.core.assess.night.around import item_at

        marks, near = self._outside(), (6.0, "")
        places = self._on_screen(np.array([place for place, _, _ in marks]).reshape(-1, 3))
        for (place, hidden), (_, name, _) in zip(places, marks, strict=True):
            away = (place - at).manhattanLength()
            if not hidden and away < near[0]:
                near = (away, name)
        if near[1]:
            return near[1]
        k = self.frame.looked.eye.width / max(self.width(), 1)
        return item_at(self.frame.looked, int(at.x() * k), int(at.y() * k))

    def hover_text(self, at: QPointF) -> str:
        """What it is, and how bright the picture is there."""
        found = self.found_at(at)
        text = describe(self.document.plan, self.document.assessment, found) if found else ""
        if at.x() > self.plate.wipe_px() and self.frame is not None:
            k = self.frame.looked.eye.width / max(self.width(), 1)
            x, y = int(at.x() * k), int(at.y() * k)
            if 0 <= x < self.frame.picture.width and 0 <= y < self.frame.picture.height:
                text = f"{text}\nhere {figure(self.frame.picture.luminance_at(x, y))} cd/m²".strip()
        return text

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.come(1.0012 ** event.angleDelta().y())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (STEP_DEG, 0.0), Qt.Key.Key_Right: (-STEP_DEG, 0.0), Qt.Key.Key_Up: (0.0, STEP_DEG), Qt.Key.Key_Down: (0.0, -STEP_DEG),
        }  # fmt: skip
        key = event.key()
        if key in steps:
            self.turn(*steps[Qt.Key(key)])
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.come(1.25)
        elif key == Qt.Key.Key_Minus:
            self.come(0.8)
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_Escape):
            self.end()
        else:
            super().keyPressEvent(event)  # N, M and the brackets are the plate's

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self and event.type() == QEvent.Type.ToolTip:
            QToolTip.showText(event.globalPos(), self.hover_text(QPointF(event.pos())), self)  # type: ignore[attr-defined]
            return True
        return False

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._moved(True)

    def close_workers(self) -> None:
        self.worker.close()
