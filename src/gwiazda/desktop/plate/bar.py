"""Tools and views: buttons that lie on the plate itself, on the works side."""

from __future__ import annotations

from PySide6.QtCore import QObject, QSize, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QHBoxLayout, QMenu, QToolButton, QWidget

from gwiazda.desktop.plate.plate import Plate
from gwiazda.desktop.plate.tools.toolbox import BY_ID
from gwiazda.desktop.theme.palette import BENCH, Palette
from gwiazda.desktop.widgets.icons import tool_icon


def _strip(plate: Plate) -> tuple[QWidget, QHBoxLayout]:
    strip = QWidget(plate)
    row = QHBoxLayout(strip)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(4)
    return strip, row


class ToolGroup(QToolButton):
    """Tools that do alike things behind one button: a click takes the one last used, its corner shows the others."""

    def __init__(self, plate: Plate, tools: tuple[str, ...]) -> None:
        super().__init__()
        self.plate, self.tools, self.shown = plate, tools, tools[0]
        self.palette_: Palette = BENCH
        self.setObjectName("tool")
        self.setCheckable(True)
        self.setIconSize(QSize(24, 24))
        self.setFixedSize(34 if len(tools) == 1 else 46, 32)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.clicked.connect(lambda: self.take(self.shown))
        self.actions_: dict[str, QAction] = {}
        if len(tools) > 1:
            menu = QMenu(self)
            for tool in tools:
                action = menu.addAction(f"{BY_ID[tool].name}\t{BY_ID[tool].key}")
                action.setToolTip(BY_ID[tool].hint)
                action.triggered.connect(lambda _=False, t=tool: self.take(t))
                self.actions_[tool] = action
            self.setMenu(menu)
            self.setPopupMode(QToolButton.ToolButtonPopupMode.MenuButtonPopup)
        self.show_tool(self.shown)

    def take(self, tool: str) -> None:
        self.plate.set_tool(tool)
        # A click on the tool in hand leaves it pressed.
        self.setChecked(self.plate.tool.id in self.tools)

    def show_tool(self, tool: str) -> None:
        entry = BY_ID[tool]
        self.shown = tool
        self.setAccessibleName(entry.name)
        more = "".join(f", {BY_ID[t].name} ({BY_ID[t].key})" for t in self.tools if t != tool)
        self.setToolTip(f"{entry.name} ({entry.key}). {entry.hint}.{' Beside it' + more[1:] + '.' if more else ''}")
        self.setIcon(tool_icon(tool, self.palette_))

    def set_palette(self, palette: Palette) -> None:
        self.palette_ = palette
        self.setIcon(tool_icon(self.shown, palette))
        for tool, action in self.actions_.items():
            action.setIcon(tool_icon(tool, palette))


class PlateBar(QObject):
    """The strip of tools at the head of the plate, and that of views at its foot."""

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self.plate = plate
        self.palette_: Palette = BENCH
        self.tool_strip, self._tools = _strip(plate)
        self._groups: dict[tuple[str, ...], ToolGroup] = {}
        self._shown: tuple[tuple[str, ...], ...] = ()
        self.view_strip, self._views = _strip(plate)
        self.view_buttons: dict[str, QToolButton] = {}
        self.round_button = QToolButton()
        self.round_button.setObjectName("view")
        self.round_button.setCheckable(True)
        self.round_button.setText("Round")
        self.round_button.setAccessibleName("Walk round the model")
        self.round_button.setToolTip("Walk round the model: drag turns it, wheel nears (Shift+V; Home or V goes back)")
        self.round_button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.round_button.clicked.connect(self.toggle_round)
        self.dusk_button = QToolButton()
        self.dusk_button.setObjectName("view")
        self.dusk_button.setCheckable(True)
        self.dusk_button.setText("Dusk")
        self.dusk_button.setAccessibleName("The room from noon to dark, and when each light shows")
        self.dusk_button.setToolTip("The room from noon to dark, and when each light shows (D plays a minute of it)")
        self.dusk_button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.rebuild_views()

    @property
    def tool_buttons(self) -> dict[str, ToolGroup]:
        """The button of each tool that is shown."""
        return {tool: self._groups[group] for group in self._shown for tool in group}

    def set_palette(self, palette: Palette) -> None:
        self.palette_ = palette
        for group in self._groups.values():
            group.set_palette(palette)

    def show_tools(self, groups: tuple[tuple[str, ...], ...]) -> None:
        """Show the tools of a station, the one in hand pressed."""
        for group in groups:
            if group not in self._groups:
                button = ToolGroup(self.plate, group)
                button.set_palette(self.palette_)
                self._groups[group] = button
        if groups != self._shown:
            for button in self._groups.values():
                self._tools.removeWidget(button)
                button.setVisible(False)
            for group in groups:
                self._tools.addWidget(self._groups[group])
                self._groups[group].setVisible(True)
            self._shown = groups
        for group in groups:
            button = self._groups[group]
            if self.plate.tool.id in group:
                button.show_tool(self.plate.tool.id)
            button.setChecked(self.plate.tool.id in group)
        self._grey_tools()
        self.place()

    def views_changed(self) -> None:
        if tuple(self.view_buttons) != tuple(v.id for v in self.plate.document.plan.views):
            self.rebuild_views()

    def rebuild_views(self) -> None:
        """A button for each view of the plan, the one shown pressed."""
        views = self.plate.document.plan.views
        if tuple(self.view_buttons) != tuple(v.id for v in views):
            for button in self.view_buttons.values():
                self._views.removeWidget(button)
                button.hide()
                button.deleteLater()
            self.view_buttons = {}
            for view in views:
                button = QToolButton()
                button.setObjectName("view")
                button.setCheckable(True)
                button.setText(view.name)
                button.setAccessibleName(f"View {view.name}")
                button.setToolTip(f"{view.name} (V goes to the next view)")
                button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
                button.clicked.connect(lambda _=False, v=view.id: self.plate.set_view(v))
                self._views.addWidget(button)
                button.show()
                self.view_buttons[view.id] = button
        for view_id, button in self.view_buttons.items():
            button.setChecked(view_id == self.plate.view.id and not self.plate.rounding)
        self.round_button.setChecked(self.plate.rounding)
        for button in (self.round_button, self.dusk_button):
            self._views.removeWidget(button)
            self._views.addWidget(button)
            button.show()
        self._grey_tools()
        self.place()

    def toggle_round(self) -> None:
        """Walk round the model, or back to the flat view one came from."""
        if self.plate.rounding:
            self.plate.round.end()
        else:
            if self.plate.tool.id != "pick":
                self.plate.set_tool("pick")
            self.plate.round.begin()
        self.rebuild_views()

    def _grey_tools(self) -> None:
        """Tools that make sense flat alone, greyed with the reason while one walks round."""
        flat = self.plate.rounding
        for group, button in self._groups.items():
            off = flat and group != ("pick",)
            if button.isEnabled() == off:
                button.setEnabled(not off)
                if off:
                    button.setToolTip("It draws on the flat views: V or Home goes back to one")
                else:
                    button.show_tool(button.shown)

    def set_shown(self, on: bool) -> None:
        """Show the strips, or leave a small plate to its picture."""
        self.tool_strip.setVisible(on)
        self.view_strip.setVisible(on)

    def place(self) -> None:
        """Put both strips where they belong on the plate."""
        self._views.activate()
        self._tools.activate()
        self.tool_strip.adjustSize()
        self.view_strip.adjustSize()
        self.tool_strip.move(10, 10)
        self.view_strip.move(10, self.plate.height() - self.view_strip.height() - 10)
        for strip in (self.tool_strip, self.view_strip):
            strip.raise_()
        self.plate.note_left = self.view_strip.width() + 20
