"""Tools and views: buttons that lie on the plate itself, on the works side."""

from __future__ import annotations

from collections.abc import Collection

from PySide6.QtCore import QObject, QSize, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from gwiazda.desktop.plate.plate import Plate
from gwiazda.desktop.plate.toolbox import TOOLBOX
from gwiazda.desktop.theme.palette import Palette
from gwiazda.desktop.widgets.icons import tool_icon


def _strip(plate: Plate) -> tuple[QWidget, QHBoxLayout]:
    strip = QWidget(plate)
    row = QHBoxLayout(strip)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(4)
    return strip, row


class PlateBar(QObject):
    """The strip of tools at the head of the plate, and that of views at its foot."""

    placed = Signal()

    def __init__(self, plate: Plate) -> None:
        super().__init__(plate)
        self.plate = plate
        self.tool_strip, tools = _strip(plate)
        self.tool_buttons: dict[str, QToolButton] = {}
        for tool in TOOLBOX:
            button = QToolButton()
            button.setObjectName("tool")
            button.setCheckable(True)
            button.setFixedSize(34, 32)
            button.setIconSize(QSize(24, 24))
            button.setAccessibleName(tool.name)
            button.setToolTip(f"{tool.name} ({tool.key}). {tool.hint}.")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, t=tool.id: plate.set_tool(t))
            tools.addWidget(button)
            self.tool_buttons[tool.id] = button
        self.view_strip, self._views = _strip(plate)
        self.view_buttons: dict[str, QToolButton] = {}
        self.rebuild_views()

    def set_palette(self, palette: Palette) -> None:
        for tool_id, button in self.tool_buttons.items():
            button.setIcon(tool_icon(tool_id, palette))

    def show_tools(self, allowed: Collection[str]) -> None:
        """Show the tools of a station, the one in hand pressed."""
        for tool_id, button in self.tool_buttons.items():
            button.setVisible(tool_id in allowed)
            button.setChecked(tool_id == self.plate.tool.id)
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
            button.setChecked(view_id == self.plate.view.id)
        self.place()

    def place(self) -> None:
        """Put both strips where they belong on the plate."""
        self._views.activate()
        self.tool_strip.adjustSize()
        self.view_strip.adjustSize()
        self.tool_strip.move(10, 10)
        self.view_strip.move(10, self.plate.height() - self.view_strip.height() - 10)
        self.plate.note_left = self.view_strip.width() + 20
        self.placed.emit()
