"""Building blocks of the inspector: cards with rows of label, field and consequence."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QLayout, QVBoxLayout, QWidget

from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Lamp, Opening, Plan
from gwiazda.desktop.document import Document
from gwiazda.desktop.widgets.fields import ChoiceField, ValueField


def label(text: str, name: str = "", wrap: bool = False) -> QLabel:
    found = QLabel(text)
    if name:
        found.setObjectName(name)
    found.setWordWrap(wrap)
    return found


def clear(layout: QLayout) -> None:
    """Take all widgets out of a layout."""
    while layout.count():
        widget = layout.takeAt(0).widget()  # type: ignore[union-attr]
        if widget is not None:
            widget.hide()
            widget.deleteLater()


class Card(QFrame):
    """A titled group of rows."""

    def __init__(self, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(11, 8, 11, 10)
        outer.setSpacing(5)
        if title:
            outer.addWidget(label(title, "cardtitle"))
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(8)
        self.grid.setVerticalSpacing(5)
        self.grid.setColumnStretch(1, 1)
        outer.addLayout(self.grid)
        self.outer = outer

    def row(self, name: str, *widgets: QWidget) -> None:
        """A label, and the fields that belong to it side by side."""
        line = self.grid.rowCount()
        caption = label(name, "muted")
        caption.setBuddy(widgets[0])
        self.grid.addWidget(caption, line, 0)
        if len(widgets) == 1:
            self.grid.addWidget(widgets[0], line, 1)
            return
        holder = QWidget()
        inner = QHBoxLayout(holder)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(5)
        for widget in widgets:
            inner.addWidget(widget, 0 if isinstance(widget, QLabel) else 1)
        self.grid.addWidget(holder, line, 1)

    def consequence(self) -> QLabel:
        """A line under the last row that says what comes of it."""
        text = label("", "", wrap=True)
        self.grid.addWidget(text, self.grid.rowCount(), 0, 1, 2)
        return text


class Panel(QWidget):
    """What the inspector shows for one kind of selection; ``refresh`` follows plan and assessment."""

    refused = Signal(str)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(0, 0, 0, 0)
        self.body.setSpacing(8)
        self.heading = label("", "heading", wrap=True)
        self.about = label("", "muted", wrap=True)
        head = QVBoxLayout()
        head.setContentsMargins(4, 0, 4, 0)
        head.setSpacing(0)
        head.addWidget(self.heading)
        head.addWidget(self.about)
        self.body.addLayout(head)

    @property
    def plan(self) -> Plan:
        return self.document.plan

    @property
    def found(self) -> Assessment:
        return self.document.assessment

    def card(self, title: str) -> Card:
        card = Card(title)
        self.body.addWidget(card)
        return card

    def value(
        self, name: str, read: Callable[[str], object], take: Callable[[object], object], hint: str = ""
    ) -> ValueField:
        field = ValueField(name, read, take)
        field.setObjectName(name)
        field.set_hint(hint or name)
        field.refused.connect(self.document.message_stop)
        return field

    def choice(self, name: str, choices: Sequence[tuple[str, str]], take: Callable[[str], object]) -> ChoiceField:
        field = ChoiceField(name, choices, take)
        field.setObjectName(name)
        return field

    def take_axis(self, items: Sequence[Lamp | Opening], axis: int, value: object) -> None:
        """Put ``items`` at one coordinate, mm."""
        ids = [i.id for i in items]
        self.document.edit("Change place", lambda plan: edits.set_axis(plan, ids, axis, float(value)))  # type: ignore[arg-type]

    def refresh(self) -> None:
        """Show the current plan and assessment."""


def common(values: Sequence[object]) -> object | None:
    """The value all share, or None."""
    return values[0] if values and all(v == values[0] for v in values) else None


ALIGN_TOP = Qt.AlignmentFlag.AlignTop
