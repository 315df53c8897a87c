"""The plate: the kit to scale, the works on one side of the wipe, the same model in the dark on the other."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from gwiazda.core.assess.view_index import hit
from gwiazda.core.plan.model import View
from gwiazda.core.quantities import figure
from gwiazda.core.turns import showing
from gwiazda.desktop.document import Document
from gwiazda.desktop.plate.darkside import paint_night, paint_notes, paint_selection
from gwiazda.desktop.plate.keycursor import STEPS, KeyCursor, step_to
from gwiazda.desktop.plate.lines.marks import paint_tag, paint_wipe, tag_size
from gwiazda.desktop.plate.lines.works import Works
from gwiazda.desktop.plate.night import NightSide, Shot
from gwiazda.desktop.plate.picture import WorksPicture
from gwiazda.desktop.plate.sheet import Window, area_of, fit
from gwiazda.desktop.plate.tools.tool import PickTool, Tool, sheet_delta
from gwiazda.desktop.plate.tools.toolbox import Tools
from gwiazda.desktop.theme.palette import BENCH, Palette
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.worker import failure_words

if TYPE_CHECKING:
    from gwiazda.desktop.plate.round.view import RoundView
    from gwiazda.desktop.plate.stage import Stage

WIPE_GRAB_PX, HANDLE = 9, QSize(26, 52)
LATER_MS, FLAT_AFTER_MS = 90, 400  # until the flat night picture follows; and while the round lies over it
NUDGE_MM, NUDGE_FAR_MM = 0.5, 5.0
TAG_EDGE = 4.0  # px: between a label and the plate's edge


class Plate(Guarded, QWidget):
    """Shows one view of the document and edits it with tools."""

    view_changed = Signal()
    first_painted = Signal()
    tool_changed = Signal()
    files_dropped = Signal(str)
    wired_again = Signal()  # the moment or hour that the night side shows is let go

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.palette_: Palette = BENCH
        self.view: View = document.plan.views[0]
        self.extent: Window = fit(area_of(document.plan, self.view, document.pictures), 800, 480)
        self.wipe = 0.5
        self.hold: str = ""  # "night" or "works" while a key shows all of one side
        self.night = NightSide(self)
        self.tools = Tools(self)
        self.tool: Tool = self.tools["pick"]
        self._fitted = True
        self._picture = WorksPicture(document)
        self._wiping = False
        self._panning: QPointF | None = None
        self.shows_opened = False  # walked round, sections that aren't closed yet are without their roofs
        self.stage: Callable[[Document], Stage] | None = None  # how far the kit is built, where a station knows
        self.night_note = ""  # what the night side stands for, where it isn't the plan as wired
        self.note_left = 10
        self.overlays: tuple[
            Callable[[QPainter, Plate, int], None], ...
        ] = ()  # painters of what the station lays over the works
        self._painted = False
        self.cursor_ = KeyCursor(self)
        self.setObjectName("plate")
        self.setAccessibleName("Plate: drawing of the kit, works left of the wipe, night picture right of it")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.installEventFilter(self)
        self.setAcceptDrops(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(320, 200)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self.request_night)
        self._later.timeout.connect(self.update)
        self._repaint = QTimer(self)
        self._repaint.setSingleShot(True)
        self._repaint.setInterval(30)
        self._repaint.timeout.connect(self.update)
        self.view_changed.connect(self._say_side)
        document.plan_changed.connect(self._plan_changed)
        document.assessed.connect(self._assessed)
        document.selection_changed.connect(self.update)
        document.file_changed.connect(self._file_changed)
        self.night.ready.connect(self._night_ready)
        self._round: RoundView | None = None
        self.night.failed.connect(lambda text: document.message.emit(failure_words("The night picture", text), "stop"))

    # -- what is shown -----------------------------------------------------------------------------------

    def set_palette(self, palette: Palette) -> None:
        self.palette_ = palette
        self.update()
        if self.rounding:
            self.round.request(1)

    @property
    def round(self) -> RoundView:
        """The model walked round; made when it is first asked for."""
        if self._round is None:
            from gwiazda.desktop.plate.round.view import RoundView  # not needed for the first picture

            self._round = RoundView(self)
            self._round.changed.connect(self.view_changed)
        return self._round

    @property
    def rounding(self) -> bool:
        """Whether the round lies over the flat views."""
        return self._round is not None and self._round.on

    def set_view(self, view_id: str) -> None:
        if self.rounding:
            self.round.end()
        view = next((v for v in self.document.plan.views if v.id == view_id), None)
        if view is not None and view.id != self.view.id:
            self.tool.leave_view()
            self.view = view
            self.fit_view()
            self.view_changed.emit()

    def _say_side(self) -> None:
        self.document.shown_side = self.view.side

    def next_view(self) -> None:
        views = self.document.plan.views
        if self.rounding:
            self.round.end()
            return
        i = next((i for i, v in enumerate(views) if v.id == self.view.id), 0)
        self.set_view(views[(i + 1) % len(views)].id)

    def set_tool(self, tool_id: str) -> None:
        if self.tool.id != tool_id:
            self.tool.cancel()
            self.cursor_.put_away()
            self.tool = self.tools[tool_id]
            self.setCursor(self.tool.cursor)
            self.tool_changed.emit()
            self.update()
        self.tool.begin()

    def fit_view(self) -> None:
        """Show all of the view."""
        area = area_of(self.document.plan, self.view, self.document.pictures)
        self._set_window(fit(area, max(self.width(), 40), max(self.height(), 40)))
        self._fitted = True

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        at = at or QPointF(self.width() / 2, self.height() / 2)
        self._set_window(self.extent.zoomed(factor, at.x(), at.y()))
        self._fitted = False

    @property
    def fitted(self) -> bool:
        """Whether all of the view is shown, whatever the plate's size."""
        return self._fitted

    def show_part(self, window: Window) -> None:
        """Show a part of the sheet."""
        self._set_window(window)
        self._fitted = False

    def set_wipe(self, share: float) -> None:
        self.wipe = min(max(share, 0.0), 1.0)
        self.update()

    def wipe_px(self) -> int:
        if self.hold:
            return 0 if self.hold == "night" else self.width()
        return round(self.wipe * self.width())

    def _set_window(self, window: Window) -> None:
        if window != self.extent:
            self.extent = window
            self._later.start(LATER_MS)
            self.update()

    def _plan_changed(self) -> None:
        view = next((v for v in self.document.plan.views if v.id == self.view.id), self.document.plan.views[0])
        if view is not self.view:
            self.view = view
            self.view_changed.emit()
        # The assessment and the night picture are on their way: one repaint for all three, if they don't take long.
        self._repaint.start()

    def _file_changed(self) -> None:
        if self.rounding:
            # Another plan opens where it was left itself; an empty one has nothing to walk round.
            self.round.end()
        if not any(v is self.view for v in self.document.plan.views):
            self.view = self.document.plan.views[0]
            self.fit_view()
            self.view_changed.emit()
        self.update()

    def _assessed(self) -> None:
        if self.document.loading or self.rounding:
            # The part of the sheet that will be shown isn't known yet; or the round lies over it and goes first.
            self._later.start(FLAT_AFTER_MS if self.rounding else LATER_MS)
        else:
            self.request_night()
        self._repaint.start()

    def _night_ready(self) -> None:
        self._repaint.stop()
        self.update()

    def shot(self) -> Shot:
        document, ratio = self.document, self.devicePixelRatioF()
        window = self.extent if ratio == 1.0 else self.extent.scaled(ratio)
        return Shot(document.assessed_plan, document.assessment, self.view, window, document.pictures, self.darkest_lux)

    @property
    def darkest_lux(self) -> float | None:
        """The darkest room the dark side is to be shown in: under dusk all of it; None for the plan's own."""
        if self.night.lux is None:
            return None
        from gwiazda.core.light.dusk import LEAST_LX  # the first picture doesn't wait for it

        return LEAST_LX

    def set_dusk(self, lux: float | None) -> None:
        """The dark side in another light of the room; None goes back to the plan's own."""
        began = (lux is None) != (self.night.lux is None)
        self.night.set_lux(lux)
        if began:
            self.request_night()  # in a darker room fainter light shows

    def request_night(self) -> None:
        # Not before the first picture of the works: two threads at once would keep each other waiting then.
        known = not self.document.plan.sections or self.document.assessed_plan.sections
        if self._painted and known and self.width() > 8 and self.height() > 8:
            self.night.request(self.shot())

    # -- painting ----------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        with showing():  # a drag is to stay smooth, whatever is assessed meanwhile
            self._paint()

    def _paint(self) -> None:
        painter = QPainter(self)
        cut = self.wipe_px()
        if cut > 0:
            plan, assessment = self.document.plan, self.document.assessment
            scene = Works(
                plan,
                assessment,
                self.view,
                self.extent,
                self.palette_,
                self.document.marked,
                pictures=self.document.pictures,
            )
            self._picture.paint(painter, scene, cut, self.devicePixelRatioF(), self._later.isActive())
            if self._picture.waits:
                self._later.start(LATER_MS)
        if cut < self.width():
            paint_night(self, painter, cut)
        if cut > 0:
            for overlay in self.overlays:
                overlay(painter, self, cut)
        paint_selection(self, painter, cut)
        self.tool.paint(painter)
        self.cursor_.paint(painter)
        paint_notes(self, painter, cut)
        if not self.hold:
            paint_wipe(painter, cut, self.handle_rect(), self.height(), self.palette_)
        painter.setPen(QPen(self.palette_.colour("live" if self.hasFocus() else "line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.end()
        self.painted()

    def painted(self) -> None:
        """Something is shown for the first time, here or by what lies over it: the rest of the window may follow."""
        if not self._painted:
            self._painted = True
            self._later.start(LATER_MS)
            self.first_painted.emit()

    def paint_tag(self, painter: QPainter, at: QPointF, text: str, dark: bool = False) -> QRectF:
        """A small label on the plate, whole wherever it is asked for; returns where it is."""
        size = tag_size(text)
        right, low = self.width() - size.width() - TAG_EDGE, self.height() - size.height() - TAG_EDGE
        place = QPointF(max(min(at.x(), right), TAG_EDGE), max(min(at.y(), low), TAG_EDGE))
        return paint_tag(painter, place, text, self.palette_, dark)

    def handle_rect(self) -> QRectF:
        # Kept whole inside the plate, so that it can be grabbed at both ends.
        half = HANDLE.width() / 2
        x = min(max(self.wipe_px(), half + 1), self.width() - half - 1)
        y = self.height() * 0.82
        return QRectF(x - half, y - HANDLE.height() / 2, HANDLE.width(), HANDLE.height())

    # -- mouse -------------------------------------------------------------------------------------------

    def on_wipe(self, at: QPointF) -> bool:
        return self.handle_rect().adjusted(-3, -3, 3, 3).contains(at)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        self.setFocus()
        if event.button() in (Qt.MouseButton.MiddleButton, Qt.MouseButton.RightButton):
            self._panning = at
        elif event.button() == Qt.MouseButton.LeftButton:
            if not self.hold and self.on_wipe(at):
                self._wiping = True
            else:
                self.cursor_.put_away()
                self.tool.press(at, event.modifiers())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        with showing():
            self._moved_to(event)

    def _moved_to(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._panning is not None:
            d = at - self._panning
            self._panning = at
            self._fitted = False
            self._set_window(self.extent.panned(d.x(), d.y()))
        elif self._wiping:
            self.set_wipe(at.x() / max(self.width(), 1))
        elif event.buttons() & Qt.MouseButton.LeftButton:
            self.tool.move(at, event.modifiers())
        else:
            if self.tool.follows:
                self.tool.move(at, event.modifiers())
            on_wipe = not self.hold and self.on_wipe(at)
            self.setCursor(Qt.CursorShape.SplitHCursor if on_wipe else self.tool.cursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._panning is not None and event.button() != Qt.MouseButton.LeftButton:
            self._panning = None
        elif event.button() == Qt.MouseButton.LeftButton:
            if self._wiping:
                self._wiping = False
            else:
                self.tool.release(event.position(), event.modifiers())

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom(1.0015 ** event.angleDelta().y(), event.position())

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        # On itself, where others override ``event``: Qt's own handling then is no call nested in this one.
        if watched is not self:
            return False
        plain = Qt.KeyboardModifier.NoModifier
        if (
            event.type() == QEvent.Type.ShortcutOverride
            and event.modifiers() == plain  # type: ignore[attr-defined]
            and self.tool.wants(event.key())  # type: ignore[attr-defined]
        ):
            event.accept()
            return True
        if event.type() == QEvent.Type.ToolTip:
            at = event.pos()  # type: ignore[attr-defined]
            QToolTip.showText(event.globalPos(), self.hover_text(QPointF(at)), self)  # type: ignore[attr-defined]
            return True
        return False

    def hover_text(self, at: QPointF) -> str:
        """What lies at a place of the plate, and on the night side how bright the picture is there."""
        from gwiazda.desktop.plate.lines.describe import describe  # not needed for the first picture

        if not self.hold and self.on_wipe(at):
            return "Drag the wipe; hold N for all of the night, M for all of the works; [ and ] move it"
        x, y = self.extent.to_mm(at.x(), at.y())
        found = hit(self.document.catalogue, self.document.plan, self.view.side, x, y, 5.0 / self.extent.scale)
        text = describe(self.document.plan, self.document.assessment, found) if found else ""
        if at.x() > self.wipe_px():
            ratio = self.devicePixelRatioF()
            value = self.night.luminance_at(int(at.x() * ratio), int(at.y() * ratio))
            if value is not None:
                text = f"{text}\nhere {figure(value)} cd/m²".strip()
        return text

    # -- keys --------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        from gwiazda.core.plan import edits

        key, document = event.key(), self.document
        if self.tool.key_press(key):
            return
        if not isinstance(self.tool, PickTool) and self.cursor_.key(key, event.modifiers()):
            return
        if key in (Qt.Key.Key_PageDown, Qt.Key.Key_PageUp):
            by = 1 if key == Qt.Key.Key_PageDown else -1
            step_to(self, by, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        elif key in STEPS:
            dx, dy = STEPS[Qt.Key(key)]
            if document.selection:
                far = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
                mm = NUDGE_FAR_MM if far else NUDGE_MM
                delta = sheet_delta(self.view.side, dx * mm, dy * mm)
                ids = document.selection
                document.edit("Nudge", lambda plan: edits.move(plan, ids, delta))
            else:
                self._fitted = False
                self._set_window(self.extent.panned(-40 * dx, -40 * dy))
        elif key == Qt.Key.Key_N and not event.isAutoRepeat():
            self._hold("night")
        elif key == Qt.Key.Key_M and not event.isAutoRepeat():
            self._hold("works")
        elif key == Qt.Key.Key_BracketLeft:
            self.set_wipe(self.wipe - 0.05)
        elif key == Qt.Key.Key_BracketRight:
            self.set_wipe(self.wipe + 0.05)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom(1.25)
        elif key == Qt.Key.Key_Minus:
            self.zoom(0.8)
        elif key == Qt.Key.Key_Escape and self.night_note and isinstance(self.tool, PickTool):
            self.wired_again.emit()
        elif key == Qt.Key.Key_Escape:
            self.tool.cancel()
            self.cursor_.put_away()
            if not isinstance(self.tool, PickTool):
                self.set_tool("pick")
            else:
                document.select(())
        else:
            super().keyPressEvent(event)

    def _hold(self, side: str) -> None:
        self.hold = side
        self.update()

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_N, Qt.Key.Key_M) and not event.isAutoRepeat():
            self._hold("")
        else:
            super().keyReleaseEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._hold("")
        super().focusOutEvent(event)

    # -- the rest ----------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._round is not None:
            self._round.fill_plate()
        if self._fitted:
            self.fit_view()
        else:
            self._set_window(self.extent.resized(self.width(), self.height()))

    def dragEnterEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if any(u.isLocalFile() for u in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        path = next((u.toLocalFile() for u in event.mimeData().urls() if u.isLocalFile()), "")
        if path:
            self.files_dropped.emit(path)

    def close_workers(self) -> None:
        if self._round is not None:
            self._round.close_workers()
        self.night.close()
