"""The main window: feed line, plate with its wipe, meters, drawer, inspector."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QSettings, QSize, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QIcon, QKeyEvent, QShortcut
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from gwiazda.core.files import shown_name
from gwiazda.core.plan.lookup import known
from gwiazda.core.quantities import format_scale
from gwiazda.desktop.document import Document
from gwiazda.desktop.panels.inspector import WIDTH as INSPECTOR_WIDTH
from gwiazda.desktop.panels.inspector import Inspector
from gwiazda.desktop.plate.bar import PlateBar, ToolGroup
from gwiazda.desktop.plate.plate import Plate
from gwiazda.desktop.plate.tools.toolbox import BY_ID as TOOLS
from gwiazda.desktop.shell import recent
from gwiazda.desktop.shell.feedline import FeedLine
from gwiazda.desktop.shell.files import Files
from gwiazda.desktop.shell.menus import Menus
from gwiazda.desktop.shell.meters import MeterBar
from gwiazda.desktop.shell.next_steps import NextLine
from gwiazda.desktop.shell.stack import DrawerStack
from gwiazda.desktop.stations import registry
from gwiazda.desktop.stations.drawer import StationDrawer
from gwiazda.desktop.stations.registry import BY_ID, STATIONS, brought, station_of_meter, station_of_topic
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import ASSETS, BENCH, DARKROOM, THEMES, Palette, style_sheet, system_palette
from gwiazda.desktop.theme.sizes import scaled, set_text_percent, text_factor
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.message import HEIGHT as MESSAGE_HEIGHT
from gwiazda.desktop.widgets.message import MessageLine

if TYPE_CHECKING:
    from gwiazda.desktop.plate.duskbar import DuskBar
    from gwiazda.desktop.shell.cards.emptycard import EmptyCard
    from gwiazda.desktop.shell.cards.finder import FinderCard
    from gwiazda.desktop.shell.cards.scratch import ScratchCard
    from gwiazda.desktop.shell.cards.starter import StarterCard

AUTOSAVE_MS = 20_000

# The plate's own keys, that work wherever the keys are.
PLATE_KEYS = (
    Qt.Key.Key_N, Qt.Key.Key_M, Qt.Key.Key_BracketLeft, Qt.Key.Key_BracketRight, Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus,
    Qt.Key.Key_PageUp, Qt.Key.Key_PageDown,
)  # fmt: skip


class MainWindow(Guarded, QMainWindow):
    """One plan, one window."""

    def __init__(self, document: Document | None = None) -> None:
        super().__init__()
        self.document = document or Document(self)
        self.palette_: Palette = BENCH
        self.station = ""
        self._title: object = None
        self._scratch: ScratchCard | None = None
        self.finder: FinderCard | None = None
        self.starter: StarterCard | None = None
        self.empty_card: EmptyCard | None = None
        self.undo_button: QToolButton
        self.redo_button: QToolButton
        self.ask_button: QToolButton
        self.find_button: QToolButton
        self.settings_button: QToolButton
        self.delete_action: QAction
        self.play_key: QShortcut
        self.theme_button: QToolButton
        self.recent_menu: QMenu
        self._switched: dict[str, float] = {}  # channels switched by hand
        self._at_hour: dict[str, float] = {}  # what an hour of the evening leaves of them
        self.files = Files(self)
        self.setObjectName("window")
        self.resize(1280, 800)
        self.setMinimumSize(QSize(960, 620))
        # The style sheet before the widgets: they are polished once then, and not twice.
        theme = str(QSettings().value("theme", "bench"))
        set_text_percent(QSettings().value("text_percent", 100))
        self._style(THEMES.get(theme, BENCH))
        self._build()
        self.next_line = NextLine(self)
        Menus(self)
        self._connect()
        self.set_theme(theme)
        self.set_station("light")
        self._measure()
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
        middle.setSpacing(7)
        row.addLayout(middle, 1)
        self.plate = Plate(self.document)
        middle.addWidget(self.plate, 1)
        self.dusk: DuskBar | None = None
        self.message = MessageLine()
        middle.addWidget(self.message)
        self.meters = MeterBar()
        middle.addWidget(self.meters)
        self._stack = DrawerStack(self.document, self.plate, self.pick, self._set_hour)
        middle.addWidget(self._stack)
        self._middle = middle
        side = QVBoxLayout()
        side.setContentsMargins(0, 10, 0, 0)
        row.addLayout(side)
        self.inspector = Inspector(self.document, registry)
        side.addWidget(self.inspector)
        # The figures first, the fields of the inspector right after the first picture.
        self.plate.wired_again.connect(self._wired_again)
        self.plate.first_painted.connect(lambda: QTimer.singleShot(0, self.inspector.begin))
        self.bar = PlateBar(self.plate)
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
        star.setPixmap(QIcon(str(ASSETS / "star.svg")).pixmap(28, 28))
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

    def ask(self, text: str = "") -> None:
        """Open the scratch line, with a question where there is one."""
        if self._scratch is None:
            from gwiazda.desktop.shell.cards.scratch import ScratchCard  # not needed for the first picture

            self._scratch = ScratchCard(self)
        self._scratch.open(text)

    def open_finder(self) -> None:
        """Open the finder."""
        if self.finder is None:
            from gwiazda.desktop.shell.cards.finder import FinderCard  # not needed for the first picture

            self.finder = FinderCard(self)
        self.finder.open()

    def start_from_shape(self) -> None:
        """Offer a first plan from a shape."""
        if self.starter is None:
            from gwiazda.desktop.shell.cards.starter import StarterCard  # not needed for the first picture

            self.starter = StarterCard(self)
        self.starter.open()

    def toggle_dusk(self, play: bool = False) -> None:
        """The room from noon to dark along the foot of the plate; ``play``: a minute of it, or a stop."""
        from gwiazda.desktop.shell.dusk import toggle  # not needed for the first picture

        toggle(self, play)

    def show_empty(self) -> None:
        """What lies on a plate with nothing on it; made when it is first needed."""
        if self.empty_card is None and self.document.plan.sections:
            return
        if self.empty_card is None:
            from gwiazda.desktop.shell.cards.emptycard import EmptyCard

            self.empty_card = EmptyCard(self)
        self.empty_card.show_if_empty()

    def set_text_size(self, percent: int) -> None:
        """Text of another size, kept for the next start."""
        QSettings().setValue("text_percent", percent)
        set_text_percent(percent)
        self.setProperty("theme", None)
        application = QApplication.instance()
        if isinstance(application, QApplication):
            application.setFont(text_font())
        self.set_theme(self.palette_.name)
        self._measure()

    def _measure(self) -> None:
        """Sizes that go with the text."""
        self.inspector.setFixedWidth(scaled(INSPECTOR_WIDTH))
        self.message.setFixedHeight(scaled(MESSAGE_HEIGHT))
        for part in self._drawn():
            part.measure()

    def _drawn(self) -> Iterator[FeedLine | MeterBar | StationDrawer | DuskBar]:
        """What paints itself around the plate."""
        if self.dusk is not None:
            yield self.dusk
        yield self.feedline
        yield self.meters
        yield from self._stack

    def _connect(self) -> None:
        document, plate = self.document, self.plate
        document.message.connect(self.show_message)
        document.message_with_way_back.connect(lambda said, back: self.show_message(said, "info", ("Take back", back)))
        # What was said goes with the next action.
        document.plan_changed.connect(lambda: self.message.acted(True))
        document.selection_changed.connect(lambda: self.message.acted(False))
        plate.tool_changed.connect(lambda: self.message.acted(False))
        plate.view_changed.connect(lambda: self.message.acted(False))
        document.step_changed.connect(self.plate.update)
        document.plan_changed.connect(self._update_title)
        document.stepped.connect(self._update_title)
        document.plan_changed.connect(self.bar.views_changed)
        document.file_changed.connect(self.files.sit)
        document.file_changed.connect(self._update_title)
        document.file_changed.connect(self.bar.rebuild_views)
        document.file_changed.connect(self.show_empty)
        document.plan_changed.connect(self.show_empty)
        plate.view_changed.connect(self.show_empty)
        plate.first_painted.connect(self.show_empty)
        document.assessed.connect(self._update_meters)
        plate.view_changed.connect(self.bar.rebuild_views)
        plate.tool_changed.connect(self._update_tools)
        plate.files_dropped.connect(self.files.open)
        self.feedline.chosen.connect(self.set_station)
        self.bar.dusk_button.clicked.connect(lambda _=False: self.toggle_dusk())
        self.meters.culprit.connect(self.go_to_meter)
        self.inspector.weights_changed.connect(self._set_weights)
        self._autosave = QTimer(self)
        self._autosave.setInterval(AUTOSAVE_MS)
        self._autosave.timeout.connect(self.files.autosave_now)
        self._autosave.start()

    # -- stations, tools, theme --------------------------------------------------------------------------

    def set_station(self, station_id: str) -> None:
        station = BY_ID[station_id]
        if station_id == self.station:
            self.drawer.turn()
            return
        self.station = station_id
        self._stack.show_station(station_id, self.palette_)
        self.drawer.addAction(self.delete_action)
        self.play_key.setEnabled(station_id == "animate")
        self._stack.arrange(self._middle, self.bar)
        if self._at_hour or self.plate.night_note:
            self._set_hour({})
        self.feedline.set_station(station_id)
        self.inspector.set_station(station_id)
        self.plate.overlays = brought(station_id).overlays
        self.plate.stage = brought(station_id).stage
        if self.plate.shows_opened != station.shows_opened:
            self.plate.shows_opened = station.shows_opened
            if self.plate.rounding:
                self.plate.round.request(1)
        if self.plate.tool.id not in station.all_tools:
            self.plate.set_tool("pick")
        self._update_tools()
        self.plate.update()
        self.message.acted(False)
        self.next_line.soon()

    def toggle_drawer(self) -> None:
        """Let the drawer grow over the plate, which stays as a small picture, or shrink again."""
        drawer = self.drawer
        if not drawer.grows or (not drawer.grown and drawer.wants(self.height() / text_factor()) <= drawer.needs):
            self.show_message(f"The picture of {BY_ID[self.station].name} has all the room it needs.", "info")
            return
        drawer.set_grown(not drawer.grown)
        self._stack.arrange(self._middle, self.bar)

    @property
    def drawer(self) -> StationDrawer:
        return self._stack.drawer

    def walk_round(self) -> None:
        """Look at the model from anywhere, or back to the flat view."""
        self.bar.toggle_round()

    def look_from(self, azimuth_deg: float, height_deg: float) -> None:
        """Look at the model from a direction."""
        if not self.plate.rounding:
            self.bar.toggle_round()
        self.plate.round.look_from(azimuth_deg, height_deg)

    def tool_key(self, tool_id: str) -> None:
        if tool_id not in BY_ID[self.station].all_tools:
            home = next(s.id for s in STATIONS if tool_id in s.all_tools)
            self.set_station(home)
        if self.plate.rounding and tool_id != "pick":
            self.show_message(f"{TOOLS[tool_id].name} draws on the flat views: V or Home goes back to one.")
            return
        self.plate.set_tool(tool_id)
        self.plate.setFocus()

    def _update_tools(self) -> None:
        self.bar.show_tools(BY_ID[self.station].tools)
        entry = TOOLS[self.plate.tool.id]
        self.message.set_hint(f"{entry.name}: {entry.hint[:1].lower()}{entry.hint[1:]}.")

    @property
    def tool_buttons(self) -> dict[str, ToolGroup]:
        return self.bar.tool_buttons

    @property
    def view_buttons(self) -> dict[str, QToolButton]:
        return self.bar.view_buttons

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """What no widget has taken: Escape leads back to the plate, Enter presses, the plate's own keys work from anywhere."""
        focus = self.focusWidget()
        if event.key() == Qt.Key.Key_Escape and focus is not self.plate:
            self.plate.setFocus()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and isinstance(focus, QAbstractButton):
            focus.click()
        elif event.key() in PLATE_KEYS and focus is not self.plate:
            self.plate.keyPressEvent(event)
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() in PLATE_KEYS and self.focusWidget() is not self.plate:
            self.plate.keyReleaseEvent(event)
        else:
            super().keyReleaseEvent(event)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.plate and event.type() == QEvent.Type.Resize:
            self.bar.place()
            for card in (self._scratch, self.starter, self.empty_card):
                if card is not None and card.isVisible():
                    card.place()
        return False

    def _style(self, palette: Palette) -> None:
        self.palette_ = palette
        if self.property("theme") != palette.name:
            self.setProperty("theme", palette.name)
            QApplication.setPalette(system_palette(palette))
            dark = palette is DARKROOM
            QApplication.styleHints().setColorScheme(Qt.ColorScheme.Dark if dark else Qt.ColorScheme.Light)
            self.setStyleSheet(style_sheet(palette))

    def set_theme(self, name: str) -> None:
        palette = THEMES.get(name, BENCH)
        self._style(palette)
        self.plate.set_palette(palette)
        for part in self._drawn():
            part.set_palette(palette)
        self.bar.set_palette(palette)
        self.theme_button.setText("Light colours" if palette is DARKROOM else "Dark colours")
        self.theme_button.setAccessibleName(self.theme_button.text())

    def toggle_theme(self) -> None:
        self.set_theme(BENCH.name if self.palette_ is DARKROOM else DARKROOM.name)
        QSettings().setValue("theme", self.palette_.name)

    # -- following the document --------------------------------------------------------------------------

    def _update_title(self) -> None:
        document = self.document
        kit = document.plan.kit
        state = "demo" if document.is_demo else (shown_name(document.path) if document.path else "not saved yet")
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
            station = station_of_topic(f.topic)
            count, stop = counts.get(station, (0, False))
            counts[station] = (count + 1, stop or f.severity == "stop")
        plan = self.document.assessed_plan
        for s in STATIONS:
            if s.wants and not getattr(plan, s.wants):
                count, stop = counts.get(s.id, (0, False))
                counts[s.id] = (count + 1, stop)
        self.feedline.set_counts(counts)

    def _set_weights(self, weights: dict[str, float]) -> None:
        self._switched = dict(weights)
        self.inspector.set_weights(weights)
        self._show_weights()

    def _set_hour(self, weights: dict[str, float]) -> None:
        """The night side as it is at an hour of the evening; nothing named: as wired."""
        self._at_hour = dict(weights)
        self.plate.night_note = self.drawer.night_note if weights else ""
        self._show_weights()

    def _show_weights(self) -> None:
        both = {k: self._switched.get(k, 1.0) * self._at_hour.get(k, 1.0) for k in {**self._switched, **self._at_hour}}
        self.plate.night.set_weights(both)
        self.plate.update()

    def pick(self, item_id: str) -> None:
        """Pick an item from anywhere in the window."""
        if known(self.document.plan, item_id):
            self.document.select([item_id])
        else:
            self.document.select(())

    def go_to_meter(self, meter_id: str, subject: str) -> None:
        self.set_station(station_of_meter(meter_id))
        self.pick(subject)

    def name_it(self) -> None:
        """The keys into the name of what is picked, or of the kit."""
        panel = self.inspector.panel
        card = next((c for c in panel.all_cards if "name" in c.form_widgets), None) if panel is not None else None
        if card is None and panel is not None and not panel.more:
            panel.toggle_more()
            card = next((c for c in panel.all_cards if "name" in c.form_widgets), None)
        if card is None:
            self.show_message("What is picked has no name of its own.")
            return
        card.card.set_open(True)
        field = card.form.typed("name")
        self.inspector.show_widget(field)
        field.setFocus()
        field.selectAll()

    def _wired_again(self) -> None:
        self.drawer.back_to_wired()

    def play(self) -> None:
        """At Animate: play or pause, wherever the keys are."""
        drawer = self.drawer
        if self.station == "animate" and hasattr(drawer, "play_or_pause"):
            drawer.play_or_pause()

    # -- messages ----------------------------------------------------------------------------------------

    def show_message(
        self, sentence: str, kind: str = "info", action: tuple[str, Callable[[], object]] | None = None
    ) -> None:
        """Say a sentence under the plate; it goes with the next action."""
        self.message.say(sentence, kind, action)

    # -- edits -------------------------------------------------------------------------------------------

    def delete_selected(self) -> None:
        from gwiazda.core.plan import edits

        ids = self.document.selection
        if ids:
            self.document.edit(
                "Delete" if len(ids) == 1 else f"Delete {len(ids)} items",
                lambda plan: edits.delete(plan, ids),
            )

    def duplicate_selected(self) -> None:
        from gwiazda.core.plan import edits

        ids = self.document.selection
        if not ids:
            return
        from gwiazda.desktop.plate.tools.tool import sheet_delta

        delta = sheet_delta(self.plate.view.side, 4.0, 0.0)
        new: list[str] = []
        cues = [i for i in ids if any(c.id == i for c in self.document.plan.cues)]

        def change(plan):  # type: ignore[no-untyped-def]
            # What belongs to time is doubled in time: behind itself.
            plan, made = edits.copy_cues(plan, cues) if cues else edits.duplicate(plan, ids, delta)
            new.extend(made)
            return plan

        if self.document.edit("Duplicate", change):
            self.document.select(new)

    def select_all(self) -> None:
        plan = self.document.plan
        self.document.select([i.id for group in (plan.lamps, plan.dots, plan.openings) for i in group])

    def closeEvent(self, event: QCloseEvent) -> None:
        # Nothing is asked and nothing lost: what is unsaved is in the autosave and offered at the next start. Only where
        # it can't be kept there, closing asks.
        if not self.files.close():
            event.ignore()
            return
        recent.leave(self)
        self._autosave.stop()
        if self.starter is not None:
            self.starter.close_workers()
        self.plate.close_workers()
        self.inspector.close_workers()
        for drawer in self._stack:
            drawer.close_workers()
        self.files.reading.close()
        self.document.close()
        super().closeEvent(event)
        application = QApplication.instance()
        if application is not None and not application.property("keep"):
            application.quit()
