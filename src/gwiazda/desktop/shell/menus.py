"""The window's menus, keys and buttons on its bar."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QAction, QActionGroup, QKeySequence, QShortcut
from PySide6.QtWidgets import QMenu, QToolButton

from gwiazda.core.files import shown_name
from gwiazda.desktop.plate.tools.toolbox import TOOLBOX
from gwiazda.desktop.shell import recent
from gwiazda.desktop.shell.export.exports import EXPORTS
from gwiazda.desktop.stations.registry import STATIONS
from gwiazda.desktop.theme.sizes import TEXT_SIZES, text_percent

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow

DEMOS = (
    ("szron", "the ship Szron"), ("perkoz", "the flying boat Perkoz"), ("swistak", "the crawler Świstak"), ("bryla", "the ore hauler Bryła"),
)  # fmt: skip


class Menus:
    """Puts them on the window, which keeps the buttons that change with the plan."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        self._fill()

    def _bar_button(self, text: str, tip: str) -> QToolButton:
        button = QToolButton()
        button.setText(text)
        button.setToolTip(tip)
        button.setAccessibleName(text)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.window.bar_layout.addWidget(button)
        return button

    def _action(self, text: str, keys: str | QKeySequence.StandardKey, take: Callable[[], object]) -> QAction:
        action = QAction(text, self.window)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda _=False: take())
        self.window.addAction(action)
        return action

    def _fill(self) -> None:
        self._editing_keys()
        self._plan_button()
        self._export_button()
        self._bar_buttons()
        self._settings_button()
        self._other_keys()

    def _editing_keys(self) -> None:
        """What has keys and no place in a menu."""
        window = self.window
        self._action("Undo", QKeySequence.StandardKey.Undo, window.document.undo)
        self._action("Redo", "Ctrl+Shift+Z", window.document.redo)
        self._action("Paste a drawing", QKeySequence.StandardKey.Paste, window.files.paste)
        # Only where things are picked: on the plate and in the drawers.
        window.delete_action = QAction("Delete", window)
        window.delete_action.setShortcut(QKeySequence(QKeySequence.StandardKey.Delete))
        window.delete_action.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
        window.delete_action.triggered.connect(window.delete_selected)
        window.plate.addAction(window.delete_action)
        self._action("Name it", "F2", window.name_it)
        self._action("Duplicate", "Ctrl+D", window.duplicate_selected)
        self._action("Pick all", QKeySequence.StandardKey.SelectAll, window.select_all)
        self._action("Fit", "F", window.plate.fit_view)
        self._action("Next view", "V", window.plate.next_view)
        self._action("Walk round", "Shift+V", window.walk_round)
        self._action("Close", QKeySequence.StandardKey.Quit, window.close)

    def _plan_button(self) -> None:
        window, files = self.window, self.window.files
        menu = QMenu(window)
        menu.addAction(self._action("New plan", QKeySequence.StandardKey.New, files.new))
        menu.addAction(self._action("New from a shape…", "Ctrl+Shift+N", window.start_from_shape))
        menu.addAction(self._action("Build again", "", files.once_more))
        menu.addAction(self._action("Open…", QKeySequence.StandardKey.Open, files.ask_open))
        window.recent_menu = menu.addMenu("Open again")
        window.recent_menu.aboutToShow.connect(self._fill_recent)
        for name, words in DEMOS:
            menu.addAction(self._action(f"Look at {words}", "", partial(files.open_demo, name)))
        menu.addSeparator()
        menu.addAction(self._action("Save", QKeySequence.StandardKey.Save, files.save))
        menu.addAction(self._action("Save as…", "Ctrl+Shift+S", files.ask_save))
        menu.addSeparator()
        menu.addAction(self._action("Drawing behind the view…", "Ctrl+I", files.ask_picture_file))
        menu.addAction(self._action("Import your own parts (CSV)…", "", files.ask_parts_in))
        menu.addAction(self._action("Import your stock (CSV)…", "", files.ask_drawer_in))
        menu.addAction(self._action("Import a cue sheet (CSV, JSON)…", "", files.ask_cues_in))
        button = self._bar_button("Plan", "New, open, save")
        button.setMenu(menu)
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)

    def _export_button(self) -> None:
        files = self.window.files
        exports = self._action("Export…", "Ctrl+E", files.open_exports)
        for export in EXPORTS:
            if export.key:
                self._action(f"{export.label}…", export.key, partial(files.ask_export, export.id))
        out = self._bar_button(
            "Export", "Lists, sheets, circuits, pictures: all that can go out, and what it is for (Ctrl+E)"
        )
        out.clicked.connect(exports.trigger)

    def _bar_buttons(self) -> None:
        window = self.window
        window.undo_button = self._bar_button("Undo", "Undo (Ctrl+Z)")
        window.undo_button.clicked.connect(window.document.undo)
        window.redo_button = self._bar_button("Redo", "Redo (Ctrl+Shift+Z)")
        window.redo_button.clicked.connect(window.document.redo)
        find = self._action("Find…", QKeySequence.StandardKey.Find, window.open_finder)
        window.find_button = self._bar_button(
            "Find", "A field, tool, thing, finding or guide chapter, by its words (Ctrl+F)"
        )
        window.find_button.clicked.connect(find.trigger)
        window.ask_button = self._bar_button("Ask a circuit", "A circuit or a resistor’s bands, asked in words (/)")
        window.ask_button.clicked.connect(lambda _=False: window.ask())
        theme = self._action("Dark colours", "Ctrl+R", window.toggle_theme)
        window.theme_button = self._bar_button("Dark colours", "Dim, warm colours that spare the eye (Ctrl+R)")
        window.theme_button.clicked.connect(theme.trigger)

    def _settings_button(self) -> None:
        window, menu = self.window, QMenu(self.window)
        button = window.settings_button = self._bar_button(
            "Settings", "Text size, paper, what the line under the plate says"
        )
        button.setMenu(menu)
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        saying = menu.addAction("Say what is next")
        saying.setCheckable(True)
        saying.setChecked(window.next_line.on)
        saying.toggled.connect(window.next_line.switch)
        self._size_menu(menu)
        self._paper_menu(menu)

    def _other_keys(self) -> None:
        """Keys that are letters, digits and the like, and give way to a field that is typed into."""
        window = self.window
        QShortcut(QKeySequence("/"), window).activated.connect(window.ask)
        QShortcut(QKeySequence("G"), window).activated.connect(window.toggle_drawer)
        QShortcut(QKeySequence("D"), window).activated.connect(lambda: window.toggle_dusk(play=True))
        window.play_key = QShortcut(QKeySequence("Space"), window)
        window.play_key.activated.connect(window.play)
        window.play_key.setEnabled(window.station == "animate")
        for station in STATIONS:
            QShortcut(QKeySequence(station.key), window).activated.connect(partial(window.set_station, station.id))
        for tool in TOOLBOX:
            QShortcut(QKeySequence(tool.key), window).activated.connect(partial(window.tool_key, tool.id))

    def _fill_recent(self) -> None:
        window = self.window
        window.recent_menu.clear()
        for path in recent.paths():
            action = window.recent_menu.addAction(shown_name(path))
            action.setToolTip(str(path))
            action.triggered.connect(lambda _=False, p=path: self.window.files.open(p))
        if window.recent_menu.isEmpty():
            window.recent_menu.addAction("no plan yet").setEnabled(False)

    def _paper_menu(self, menu: QMenu) -> None:
        papers = QMenu("Paper of sheets", menu)
        group = QActionGroup(papers)
        for paper, name in (("a4", "A4"), ("letter", "Letter")):
            action = papers.addAction(name)
            action.setCheckable(True)
            action.setChecked(str(QSettings().value("paper", "a4")) == paper)
            action.triggered.connect(lambda _=False, p=paper: QSettings().setValue("paper", p))
            group.addAction(action)
        menu.addMenu(papers)

    def _size_menu(self, menu: QMenu) -> None:
        sizes = QMenu("Text size", menu)
        group = QActionGroup(sizes)
        for percent in TEXT_SIZES:
            action = sizes.addAction(f"{percent} %")
            action.setCheckable(True)
            action.setChecked(percent == text_percent())
            action.triggered.connect(lambda _=False, p=percent: self.window.set_text_size(p))
            group.addAction(action)
        menu.addMenu(sizes)
