"""Building blocks of panels: cards with rows of label, field and consequence, and the panel that holds them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, ClassVar, TypeVar

from PySide6.QtCore import QSettings, Signal
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.lookup import is_small
from gwiazda.core.plan.model import Plan
from gwiazda.desktop.document import Document
from gwiazda.desktop.forms.form import Field, Form, set_fields
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
    """A titled group of rows that folds: a click on its title, or Space on it, opens and closes it."""

    def __init__(self, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.title = title
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

    def come_to(self, group: str, home: bool) -> None:
        """Stand open or folded as the user left it, or as it is meant: open where it belongs to the station shown."""
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

    def row(self, name: str, *widgets: QWidget) -> tuple[QLabel, QWidget]:
        """A label, and the fields that belong to it side by side; returns the label and what stands beside it."""
        line = self.grid.rowCount()
        caption = label(name, "muted")
        caption.setBuddy(widgets[0])
        if not name and len(widgets) == 1:  # its words stand beside the box itself
            caption.hide()
            self.grid.addWidget(widgets[0], line, 0, 1, 2)
            return caption, widgets[0]
        self.grid.addWidget(caption, line, 0)
        if len(widgets) == 1:
            self.grid.addWidget(widgets[0], line, 1)
            return caption, widgets[0]
        holder = QWidget()
        inner = QHBoxLayout(holder)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(5)
        for widget in widgets:
            if isinstance(widget, ChoiceField):
                widget.setMinimumContentsLength(3)  # side by side they share the width there is
            inner.addWidget(widget, 0 if isinstance(widget, QLabel) else 1)
        self.grid.addWidget(holder, line, 1)
        return caption, holder

    def consequence(self) -> QLabel:
        """A line under the last row that says what comes of it."""
        text = label("", "", wrap=True)
        self.grid.addWidget(text, self.grid.rowCount(), 0, 1, 2)
        return text


class Panel(QWidget):
    """What is shown for one kind of things that are picked: what they are called, and the cards that stations have for them.

    ``here`` are the cards of the station shown; ``more`` gives those of the others, made when they are asked for.
    """

    weights_changed = Signal(dict)  # of channels on the night side

    def __init__(self, document: Document, kind: str, heading: Heading, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document, self.kind, self.say_heading = document, kind, heading
        self.weights: dict[str, float] = {}
        self.here: list[PanelCard] = []
        self.more: list[PanelCard] = []
        self.tasks: dict[str, PlanTask[Any]] = {}
        self._followed: list[tuple[Any, Callable[[], object]]] = []
        self._added: list[Card] = []
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
        self._rest = QPushButton("", self)
        self._rest.setObjectName("fold")
        self._rest.clicked.connect(self.toggle_more)
        self._quiet: list[type[PanelCard]] = []
        self._others: Callable[[], Sequence[type[PanelCard]]] = tuple

    # -- cards -------------------------------------------------------------------------------------------

    def fill(
        self, cards: Sequence[type[PanelCard]], others: Callable[[], Sequence[type[PanelCard]]], rest: str
    ) -> None:
        """Make the cards of the station shown that have something to say; ``rest`` is what the line is called that stands for those that haven't, and
        for the ``others``."""
        self.here = [self._make(card, True) for card in cards if card.speaks(self.plan)]
        self._quiet = [card for card in cards if not card.speaks(self.plan)]
        self._others, self._rest_name = others, rest
        self.body.addWidget(self._rest)
        self._show_rest()

    def _make(self, card: type[PanelCard], home: bool) -> PanelCard:
        self._added = []
        made = card(self)
        for widget in self._added:
            self.body.addWidget(widget)
            widget.come_to(card.__name__, home and not card.folds)
        return made

    def card(self, title: str) -> Card:
        """A card of this panel, made by whoever contributes it."""
        card = Card(title)
        self._added.append(card)
        return card

    @property
    def all_cards(self) -> list[PanelCard]:
        return [*self.here, *self.more]

    def toggle_more(self) -> None:
        """Show what the other stations have to say of it, or put it away again."""
        if self.more:
            for card in self.more:
                card.take_away()
            self.more = []
        else:
            self.more = [self._make(card, True) for card in self._quiet]
            self.more += [self._make(card, False) for card in self._others()]
            for card in self.more:
                card.refresh()
        self._show_rest()

    def _show_rest(self) -> None:
        on = bool(self.more)
        self._rest.setText(f"{'▾' if on else '▸'}  {self._rest_name}")
        self._rest.setAccessibleName(f"{self._rest_name}, {'open' if on else 'folded'}")
        self._rest.setToolTip("What the other stations have to say of it (Space)")

    def find_card(self, kind: type[CardT]) -> CardT:
        """The card of a kind, from behind the line of the others where it is there."""
        for card in self.here:
            if isinstance(card, kind):
                return card
        if not self.more:
            self.toggle_more()
        return next(card for card in self.more if isinstance(card, kind))

    # -- what cards use ----------------------------------------------------------------------------------

    def items(self) -> list[Any]:
        """What is picked of its kind."""
        return self.document.picked(self.kind)

    def task(self, name: str) -> PlanTask[Any]:
        """A task of this panel by its name; it ends with the panel."""
        task = self.tasks.get(name)
        if task is None:
            task = self.tasks[name] = PlanTask(self.document, name, parent=self)
        return task

    def follow(self, signal: Any, slot: Callable[..., object]) -> None:
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

    def refresh(self) -> None:
        """Show the current plan and assessment."""
        if self.kind != "plan" and not self.items():
            return
        heading, about = self.say_heading(self)
        self.heading.setText(heading)
        self.about.setText(about)
        for card in self.all_cards:
            card.refresh()


Heading = Callable[[Panel], tuple[str, str]]
CardT = TypeVar("CardT", bound="PanelCard")


class PanelCard:
    """What a station has to say of one kind of thing, as one card (or several that belong together).

    Its ``fields`` become rows; what else it shows is made in ``build`` and said in ``say``.
    """

    title: ClassVar[str] = ""
    fields: ClassVar[tuple[Field, ...]] = ()
    model: ClassVar[type | None] = None
    folds: ClassVar[bool] = False  # at its own station too, until it is opened
    extra: ClassVar[bool] = False  # in a small plan it stands behind the line of all the rest

    @classmethod
    def speaks(cls, plan: Plan) -> bool:
        """Whether it has something to say of such a plan; else it stands behind the line of all the rest."""
        return not (cls.extra and is_small(plan))

    def __init__(self, panel: Panel) -> None:
        self.panel, self.document = panel, panel.document
        if self.title:
            self.card = panel.card(self.title)
            self.form = Form(self, self.fields, self.card.row, self.model, self.write)
        self.build()

    def build(self) -> None:
        """Make what is no declared field."""

    @property
    def form_widgets(self) -> dict[str, QWidget]:
        """The widgets of its declared fields."""
        return self.form.widgets if self.title else {}

    def items(self) -> list[Any]:
        """The things it shows."""
        return self.panel.items()

    @property
    def first(self) -> Any:
        """The first of what is picked."""
        return self.items()[0]

    @property
    def plan(self) -> Plan:
        return self.document.plan

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        """Set fields of the things shown, as one step."""
        return set_fields(plan, items, fields)

    def set(self, what: str, **fields: Any) -> bool:
        """Set fields of what is picked, as one step of the history."""
        items = self.items()
        return bool(items) and self.document.edit(what, lambda plan: self.write(plan, items, fields))

    def button(self, words: str, tip: str, press: Callable[[], object]) -> QPushButton:
        """A button at the foot of the card."""
        made = button_of(words, tip, press)
        self.card.outer.addWidget(made)
        return made

    def refresh(self) -> None:
        """Show the current plan and assessment."""
        if self.title:
            self.form.show()
        self.say()

    def say(self) -> None:
        """Show what is computed."""

    def take_over(self, old: Any) -> None:
        """Stand as the same card of the panel before stood: folded or open, and with what was typed there and is not in the plan."""
        if self.title:
            self.card.set_open(old.card.is_open)

    def take_away(self) -> None:
        """Take it off the panel."""
        for name in ("card", "picked", "close_card", "glues_card"):
            card = getattr(self, name, None)
            if isinstance(card, Card):
                card.hide()
                card.deleteLater()


def button_of(words: str, tip: str, press: Callable[[], object]) -> QPushButton:
    """A button that says in its tip what it does."""
    made = QPushButton(words)
    made.setToolTip(tip)
    made.clicked.connect(lambda _=False: press())
    return made


def side_by_side(*buttons: QWidget) -> QHBoxLayout:
    """Buttons that share a row, whatever their words."""
    row = QHBoxLayout()
    for button in buttons:
        button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        row.addWidget(button, 1)
    return row


def common(values: Sequence[object]) -> object | None:
    """The value all share, or None."""
    return values[0] if values and all(v == values[0] for v in values) else None
