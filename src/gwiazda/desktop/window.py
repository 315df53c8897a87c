"""The main window: feed line, plate with its wipe, meters, drawer, inspector."""

from __future__ import annotations

import importlib
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEvent, QObject, QSettings, QSize, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QIcon, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QStackedLayout,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find
from gwiazda.core.quantities import format_scale
from gwiazda.desktop.document import Document
from gwiazda.desktop.feedline import FeedLine
from gwiazda.desktop.files import Files
from gwiazda.desktop.inspector.inspector import Inspector
from gwiazda.desktop.meters.bar import MeterBar
from gwiazda.desktop.plate.bar import PlateBar
from gwiazda.desktop.plate.plate import Plate
from gwiazda.desktop.plate.toolbox import TOOLBOX
from gwiazda.desktop.stations.drawer import Drawer
from gwiazda.desktop.stations.registry import BY_ID, STATIONS
from gwiazda.desktop.theme.palette import BENCH, DARKROOM, THEMES, Palette, style_sheet
from gwiazda.desktop.widgets.message import MessageStrip

AUTOSAVE_MS = 20_000


class MainWindow(QMainWindow):
    """One plan, one window."""

    def __init__(self, document: Document | None = None) -> None:
        super().__init__()
        self.document = document or Document()
        self.palette_: Palette = BENCH
        self.station = ""
        self._title: object = None
        self._drawers: dict[str, Drawer] = {}
        self.files = Files(self)
        self.setObjectName("window")
        self.resize(1280, 800)
        self.setMinimumSize(QSize(960, 620))
        # The style sheet before the widgets: they are polished once then, and not twice.
        theme = str(QSettings().value("theme", "bench"))
        self._style(THEMES.get(theme, BENCH))
        self._build()
        self._actions()
        self._connect()
        self.set_theme(theme)
        self.set_station("light")
        self._update_title()
        self._update_meters()

    # -- building ----------------------------------------------------------------------------------------

    def _build(self) -> None:
        bench = QWidget()
        bench.setObjectName("bench")
        self.setCentralWidget(bench)
        outer = QVBoxLayout(bench)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        outer.addWidget(self._topbar())
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 10, 10)
        row.setSpacing(10)
        outer.addLayout(row, 1)
        self.feedline = FeedLine()
        row.addWidget(self.feedline)
        middle = QVBoxLayout()
        middle.setContentsMargins(0, 10, 0, 0)
        middle.setSpacing(10)
        row.addLayout(middle, 1)
        self.plate = Plate(self.document)
        middle.addWidget(self.plate, 1)
        self.meters = MeterBar()
        middle.addWidget(self.meters)
        self._drawer_place = QStackedLayout()
        holder = QWidget()
        holder.setLayout(self._drawer_place)
        middle.addWidget(holder)
        side = QVBoxLayout()
        side.setContentsMargins(0, 10, 0, 0)
        row.addLayout(side)
        self.inspector = Inspector(self.document)
        side.addWidget(self.inspector)
        # The figures first, the fields of the inspector right after the first picture.
        self.plate.first_painted.connect(lambda: QTimer.singleShot(0, self.inspector.begin))
        self.bar = PlateBar(self.plate)
        self._message_strip()
        self.bar.placed.connect(self.message.place)
        self.plate.installEventFilter(self)
        self.plate.setFocus()

    def _topbar(self) -> QWidget:
        bar = QFrame()
        bar.setObjectName("topbar")
        bar.setFixedHeight(46)
        layout = QHBoxLayout(bar)
        layout.setContentsMargins(12, 0, 12, 0)
        layout.setSpacing(6)
        star = QLabel()
        star.setPixmap(QIcon(str(Path(__file__).parent / "assets" / "star.svg")).pixmap(28, 28))
        layout.addWidget(star)
        layout.addSpacing(28)
        self.kit_label = QLabel()
        self.kit_label.setObjectName("kit")
        self.about_label = QLabel()
        self.about_label.setObjectName("about")
        layout.addWidget(self.kit_label)
        layout.addSpacing(4)
        layout.addWidget(self.about_label)
        layout.addStretch(1)
        self.bar_layout = layout
        return bar

    def _bar_button(self, text: str, tip: str) -> QToolButton:
        button = QToolButton()
        button.setText(text)
        button.setToolTip(tip)
        button.setAccessibleName(text)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.bar_layout.addWidget(button)
        return button

    def _action(self, text: str, keys: str | QKeySequence.StandardKey, take: Callable[[], object]) -> QAction:
        action = QAction(text, self)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda _=False: take())
        self.addAction(action)
        return action

    def _actions(self) -> None:
        document, plate = self.document, self.plate
        self.undo_action = self._action("Undo", QKeySequence.StandardKey.Undo, document.undo)
        self.redo_action = self._action("Redo", "Ctrl+Shift+Z", document.redo)
        new = self._action("New plan", QKeySequence.StandardKey.New, self.files.new)
        opens = self._action("Open…", QKeySequence.StandardKey.Open, self.files.ask_open)
        self.save_action = self._action("Save", QKeySequence.StandardKey.Save, self.files.save)
        save_as = self._action("Save as…", "Ctrl+Shift+S", self.files.ask_save)
        ship = self._action("Look at the ship Szron", "", lambda: self.files.open_demo("szron"))
        boat = self._action("Look at the flying boat Perkoz", "", lambda: self.files.open_demo("perkoz"))
        drawing = self._action("Drawing behind the view…", "Ctrl+I", self.files.ask_picture_file)
        self._action("Paste a drawing", QKeySequence.StandardKey.Paste, self.files.paste)
        shopping = self._action("Shopping list (CSV)…", "Ctrl+L", self.files.ask_shopping)
        picture = self._action("Night picture (PNG)…", "Ctrl+P", self.files.ask_picture)
        theme = self._action("Dark room", "Ctrl+R", self.toggle_theme)
        self._action("Delete", QKeySequence.StandardKey.Delete, self.delete_selected)
        self._action("Duplicate", "Ctrl+D", self.duplicate_selected)
        self._action("Pick all", QKeySequence.StandardKey.SelectAll, self.select_all)
        self._action("Fit", "F", plate.fit_view)
        self._action("Next view", "V", plate.next_view)
        self._action("Close", QKeySequence.StandardKey.Quit, self.close)

        plan_menu = QMenu(self)
        plan_menu.addActions([new, opens, ship, boat])
        plan_menu.addSeparator()
        plan_menu.addActions([self.save_action, save_as])
        plan_menu.addSeparator()
        parts_in = self._action("Take in your own parts (CSV)…", "", self.files.ask_parts_in)
        parts_out = self._action("Your own parts (CSV)…", "", self.files.ask_parts_out)
        plan_menu.addActions([drawing, parts_in])
        out_menu = QMenu(self)
        out_menu.addActions([shopping, picture, parts_out])
        for text, tip, menu in (
            ("Plan", "New, open, save", plan_menu),
            ("Take out", "Shopping list, night picture", out_menu),
        ):
            button = self._bar_button(text, tip)
            button.setMenu(menu)
            button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.undo_button = self._bar_button("Undo", "Undo (Ctrl+Z)")
        self.undo_button.clicked.connect(document.undo)
        self.redo_button = self._bar_button("Redo", "Redo (Ctrl+Shift+Z)")
        self.redo_button.clicked.connect(document.redo)
        self.theme_button = self._bar_button("Dark room", "Dim, warm colours that spare the eye (Ctrl+R)")
        self.theme_button.clicked.connect(theme.trigger)
        for station in STATIONS:
            QShortcut(QKeySequence(station.key), self, activated=lambda s=station.id: self.set_station(s))
        for tool in TOOLBOX:
            QShortcut(QKeySequence(tool.key), self, activated=lambda t=tool.id: self._tool_key(t))

    def _message_strip(self) -> None:
        self.message = MessageStrip(self.plate)
        self.message_label, self.message_action = self.message.label, self.message.action

    def _connect(self) -> None:
        document, plate = self.document, self.plate
        document.message.connect(self.show_message)
        document.plan_changed.connect(self._update_title)
        document.plan_changed.connect(self.bar.views_changed)
        document.file_changed.connect(self._update_title)
        document.file_changed.connect(self.bar.rebuild_views)
        document.assessed.connect(self._update_meters)
        plate.view_changed.connect(self.bar.rebuild_views)
        plate.tool_changed.connect(self._update_tools)
        plate.files_dropped.connect(self.files.open)
        self.feedline.chosen.connect(self.set_station)
        self.meters.culprit.connect(self._go_to)
        self.inspector.weights_changed.connect(self._set_weights)
        self._autosave = QTimer(self)
        self._autosave.setInterval(AUTOSAVE_MS)
        self._autosave.timeout.connect(self.files.autosave_now)
        self._autosave.start()

    # -- stations, tools, theme --------------------------------------------------------------------------

    def set_station(self, station_id: str) -> None:
        station = BY_ID[station_id]
        if station_id == self.station:
            return
        self.station = station_id
        drawer = self._drawers.get(station_id)
        if drawer is None:
            module, name = station.drawer
            drawer = getattr(importlib.import_module(module), name)(self.document)
            drawer.set_palette(self.palette_)
            drawer.setAccessibleName(f"{station.name} drawer")
            drawer.picked.connect(self.pick)
            self._drawers[station_id] = drawer
            self._drawer_place.addWidget(drawer)
        self._drawer_place.setCurrentWidget(drawer)
        self.feedline.set_station(station_id)
        self.inspector.set_station(station_id)
        self.plate.row_curve = station_id in ("light", "block")
        if self.plate.tool.id not in station.tools:
            self.plate.set_tool("pick")
        self._update_tools()

    @property
    def drawer(self) -> Drawer:
        return self._drawers[self.station]

    def _tool_key(self, tool_id: str) -> None:
        if tool_id not in BY_ID[self.station].tools:
            home = next(s.id for s in STATIONS if tool_id in s.tools)
            self.set_station(home)
        self.plate.set_tool(tool_id)
        self.plate.setFocus()

    def _update_tools(self) -> None:
        self.bar.show_tools(BY_ID[self.station].tools)

    @property
    def tool_buttons(self) -> dict[str, QToolButton]:
        return self.bar.tool_buttons

    @property
    def view_buttons(self) -> dict[str, QToolButton]:
        return self.bar.view_buttons

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.plate and event.type() == QEvent.Type.Resize:
            self.bar.place()
            self.message.place()
        return super().eventFilter(watched, event)

    def _style(self, palette: Palette) -> None:
        self.palette_ = palette
        if self.property("theme") != palette.name:
            self.setProperty("theme", palette.name)
            self.setStyleSheet(style_sheet(palette))

    def set_theme(self, name: str) -> None:
        palette = THEMES.get(name, BENCH)
        self._style(palette)
        for part in (self.plate, self.feedline, self.meters, *self._drawers.values()):
            part.set_palette(palette)
        self.bar.set_palette(palette)
        self.theme_button.setText("Bench light" if palette is DARKROOM else "Dark room")
        self.theme_button.setAccessibleName(self.theme_button.text())

    def toggle_theme(self) -> None:
        self.set_theme(BENCH.name if self.palette_ is DARKROOM else DARKROOM.name)
        QSettings().setValue("theme", self.palette_.name)

    # -- following the document --------------------------------------------------------------------------

    def _update_title(self) -> None:
        document = self.document
        kit = document.plan.kit
        state = "demo" if document.is_demo else (document.path.name if document.path else "not saved yet")
        if document.dirty:
            state += ", changed"
        shown = (kit, document.path, document.is_demo, document.dirty, document.undo_label, document.redo_label)
        if shown == self._title:
            return
        self._title = shown
        self.kit_label.setText(kit.name)
        parts = [p for p in (kit.subtitle, format_scale(kit.scale), state) if p]
        self.about_label.setText(" · ".join(parts))
        self.setWindowTitle(f"{kit.name} – Gwiazda")
        for button, words, what in (
            (self.undo_button, "Undo", document.undo_label),
            (self.redo_button, "Redo", document.redo_label),
        ):
            button.setEnabled(bool(what))
            keys = "Ctrl+Z" if words == "Undo" else "Ctrl+Shift+Z"
            button.setToolTip(f"{words}: {what} ({keys})" if what else f"Nothing to {words.lower()} ({keys})")

    def _update_meters(self) -> None:
        self.meters.set_meters(self.document.assessment.meters)
        counts: dict[str, tuple[int, bool]] = {}
        for f in self.document.findings:
            count, stop = counts.get(f.station, (0, False))
            counts[f.station] = (count + 1, stop or f.severity == "stop")
        plan = self.document.assessed_plan
        if not plan.sections:
            counts["measure"] = (counts.get("measure", (0, False))[0] + 1, False)
        if not plan.lamps:
            counts["light"] = (counts.get("light", (0, False))[0] + 1, counts.get("light", (0, False))[1])
        self.feedline.set_counts(counts)

    def _set_weights(self, weights: dict[str, float]) -> None:
        self.inspector.set_weights(weights)
        self.plate.night.set_weights(weights)
        self.plate.update()

    def pick(self, item_id: str) -> None:
        """Pick an item from anywhere in the window."""
        if find(self.document.plan, item_id) is not None:
            self.document.select([item_id])
        else:
            self.document.select(())

    def _go_to(self, meter_id: str, subject: str) -> None:
        self.set_station({"draw": "power", "run_time": "power", "leak": "block"}.get(meter_id, "light"))
        self.pick(subject)

    # -- messages ----------------------------------------------------------------------------------------

    def show_message(
        self, sentence: str, kind: str = "info", action: tuple[str, Callable[[], object]] | None = None
    ) -> None:
        """Show a sentence at the foot of the plate; a stop stays until it is closed."""
        self.message.say(sentence, kind, action)

    # -- edits -------------------------------------------------------------------------------------------

    def delete_selected(self) -> None:
        ids = self.document.selection
        if ids:
            self.document.edit(
                "Delete" if len(ids) == 1 else f"Delete {len(ids)} items",
                lambda plan: edits.delete(plan, ids),
            )

    def duplicate_selected(self) -> None:
        ids = self.document.selection
        if not ids:
            return
        from gwiazda.desktop.plate.tools import sheet_delta

        delta = sheet_delta(self.plate.view.side, 4.0, 0.0)
        new: list[str] = []

        def change(plan):  # type: ignore[no-untyped-def]
            plan, made = edits.duplicate(plan, ids, delta)
            new.extend(made)
            return plan

        if self.document.edit("Duplicate", change):
            self.document.select(new)

    def select_all(self) -> None:
        plan = self.document.plan
        self.document.select([*(p.id for p in plan.lamps), *(o.id for o in plan.openings)])

    def closeEvent(self, event: QCloseEvent) -> None:
        # Nothing is asked and nothing lost: what is unsaved is in the autosave and offered at the next start.
        self.files.autosave_now()
        self._autosave.stop()
        self.plate.close_workers()
        self.inspector.close_workers()
        self.document.close()
        super().closeEvent(event)
        application = QApplication.instance()
        if application is not None and not application.property("keep"):
            application.quit()
