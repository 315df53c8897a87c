"""Building blocks of the inspector: cards with rows of label, field and consequence."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QSettings, Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QLayout, QPushButton, QVBoxLayout, QWidget

from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Placed, Plan
from gwiazda.desktop.document import Document
from gwiazda.desktop.tasks import PlanTask
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
    """A titled group of rows that folds: a click on its title, or Space on it, opens and closes it.

    ``stations`` are those it belongs to (none: all); it stands open there and folded elsewhere, unless the user has
    left it otherwise.
    """

    def __init__(self, title: str, parent: QWidget | None = None, stations: tuple[str, ...] = ()) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.title, self.stations = title, stations
        frame = QVBoxLayout(self)
        frame.setContentsMargins(11, 6, 11, 9 if title else 10)
        frame.setSpacing(3)
        self.fold: QPushButton | None = None
        self._key = ""
        if title:
            self.fold = QPushButton(title)
            self.fold.setObjectName("fold")
            self.fold.clicked.connect(self._toggle)
            frame.addWidget(self.fold)
        self.body = QWidget()
        outer = QVBoxLayout(self.body)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(5)
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(8)
        self.grid.setVerticalSpacing(5)
        self.grid.setColumnStretch(1, 1)
        outer.addLayout(self.grid)
        frame.addWidget(self.body)
        self.outer = outer
        self.set_open(True)

    @property
    def is_open(self) -> bool:
        return not self.body.isHidden()

    def at_home(self, station: str) -> bool:
        return not self.stations or station in self.stations

    def come_to(self, station: str, group: str) -> None:
        """Stand open or folded as the user left it at this station, or as it is meant there."""
        home = self.at_home(station)
        self._key = f"cards/{group}/{self.title}/{'home' if home else 'away'}".replace(",", "")
        if self.title:
            kept = QSettings().value(self._key)
            self.set_open(home if kept is None else str(kept) == "open")

    def set_open(self, on: bool) -> None:
        self.body.setVisible(on)
        if self.fold is not None:
            self.fold.setText(f"{'▾' if on else '▸'}  {self.title}")
            self.fold.setAccessibleName(f"{self.title}, {'open' if on else 'folded'}")
            self.fold.setToolTip("Fold it (Space)" if on else "Open it (Space)")

    def _toggle(self) -> None:
        self.set_open(not self.is_open)
        if self._key:
            QSettings().setValue(self._key, "open" if self.is_open else "folded")

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
            if isinstance(widget, ChoiceField):
                widget.setMinimumContentsLength(3)  # side by side they share the width there is
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
        self.cards_: list[Card] = []
        self.tasks: dict[str, PlanTask[Any]] = {}
        self._followed: list[tuple[Any, Callable[[], object]]] = []
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

    def task(self, name: str) -> PlanTask[Any]:
        """A task of this panel by its name; it ends with the panel."""
        task = self.tasks.get(name)
        if task is None:
            task = self.tasks[name] = PlanTask(self.document, name, parent=self)
        return task

    def follow(self, signal: Any, slot: Callable[[], object]) -> None:
        """Have a card follow a signal of what outlives it, until the panel goes: a card is no widget that Qt would let go of."""
        signal.connect(slot)
        self._followed.append((signal, slot))

    def close_workers(self) -> None:
        """End what goes on for this panel; it is about to be put away."""
        for task in self.tasks.values():
            task.close()
        for signal, slot in self._followed:
            signal.disconnect(slot)
        self._followed.clear()

    @property
    def plan(self) -> Plan:
        return self.document.plan

    @property
    def assessment(self) -> Assessment:
        return self.document.assessment

    def card(self, title: str, *stations: str) -> Card:
        """A card of this panel; it belongs to the stations named, or to all."""
        card = Card(title, stations=stations)
        self.body.addWidget(card)
        self.cards_.append(card)
        return card

    def arrange(self) -> None:
        """What belongs to the station first and open, the rest below and folded."""
        station = self.document.station
        for card in self.cards_:
            self.body.removeWidget(card)
        for card in sorted(self.cards_, key=lambda c: not c.at_home(station)):
            self.body.addWidget(card)
            card.come_to(station, type(self).__name__)

    def value(
        self, name: str, read: Callable[[str], object], take: Callable[..., object], hint: str = ""
    ) -> ValueField:
        field = ValueField(name, read, take)
        field.setObjectName(name)
        field.set_hint(hint or name)
        field.refused.connect(self.document.message_stop)
        return field

    def choice(self, name: str, choices: Sequence[tuple[str, str]], take: Callable[..., object]) -> ChoiceField:
        field = ChoiceField(name, choices, take)
        field.setObjectName(name)
        return field

    def take_axis(self, items: Sequence[Placed], axis: int, value: object) -> None:
        """Put ``items`` at one coordinate, mm."""
        ids = [i.id for i in items]
        self.document.edit("Change place", lambda plan: edits.set_axis(plan, ids, axis, float(value)))  # type: ignore[arg-type]

    def refresh(self) -> None:
        """Show the current plan and assessment."""


def common(values: Sequence[object]) -> object | None:
    """The value all share, or None."""
    return values[0] if values and all(v == values[0] for v in values) else None


ALIGN_TOP = Qt.AlignmentFlag.AlignTop
