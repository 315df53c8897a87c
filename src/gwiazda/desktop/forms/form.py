"""A form: declared fields become rows, show what several things have in common, and make edits of what is typed."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, Protocol

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Plan
from gwiazda.desktop.document import Document
from gwiazda.desktop.forms.kinds import SEVERAL, Choice, Flag, Kind
from gwiazda.desktop.widgets.fields import ChoiceField, ValueField

BESIDE = 86  # px: a field that shares its row with a slider
Write = Callable[[Plan, list[Any], dict[str, Any]], Plan]


class Owner(Protocol):
    """Who shows a form: it knows the document and the things whose fields they are."""

    document: Document

    def items(self) -> list[Any]:
        """The things shown, all of one kind."""


@dataclass(frozen=True)
class Field:
    """One label, one value.

    ``path``: the attribute of the thing. ``help``: what it is and what it changes. ``edit``: what undo calls a change.
    ``name``: as it is read aloud, where the label alone would not do. ``get`` and ``put``: where the value is no
    attribute of its own. ``takes``: called in place of an edit, with the card and the value; without a ``get`` the field shows nothing of
    the thing. ``enabled`` and ``shown``: asked of the card; ``read``: asked of it and of a thing, for what the thing alone can't say.
    """

    path: str
    label: str
    kind: Kind
    help: str
    edit: str = ""
    name: str = ""
    get: Callable[[Any], Any] | None = None
    read: Callable[[Any, Any], Any] | None = None
    put: Callable[[Plan, list[Any], Any], Plan] | None = None
    takes: Callable[[Any, Any], object] | None = None
    enabled: Callable[[Any], bool] | None = None
    shown: Callable[[Any], bool] | None = None

    @property
    def spoken(self) -> str:
        return self.name or self.label or (self.kind.words if isinstance(self.kind, Flag) else "")


def set_fields(plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
    """The same fields set on things that have a place, the usual way to write a form."""
    return edits.set_fields(plan, [i.id for i in items], **fields)


@dataclass
class Form:
    """The rows of some fields.

    ``model`` gives the bounds of numbers. ``row`` lays out a label and a widget. ``write`` makes the edit of a field
    without a ``put`` of its own.
    """

    owner: Owner
    fields: Sequence[Field]
    row: Callable[[str, QWidget], tuple[QLabel, QWidget]]
    model: type | None = None
    write: Write = set_fields
    widgets: dict[str, QWidget] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._kinds: dict[str, Kind] = {}
        self._rows: dict[str, tuple[QLabel, QWidget]] = {}
        for entry in self.fields:
            self._add(entry)

    def _add(self, entry: Field) -> None:
        kind = self._kinds[entry.path] = entry.kind.bounded(self.model, entry.path)
        widget = kind.widget(self.owner, entry.spoken, lambda value: self.take(entry, value))
        widget.setObjectName(entry.spoken)
        widget.setAccessibleName(entry.spoken)
        if isinstance(widget, ValueField):
            widget.set_hint(entry.help)
            widget.refused.connect(self.owner.document.message_stop)
        else:
            widget.setToolTip(entry.help)
        self.widgets[entry.path] = widget
        self._rows[entry.path] = self.row("" if isinstance(kind, Flag) else entry.label, widget)

    def take(self, entry: Field, value: Any) -> None:
        """Make a change of what was typed or chosen."""
        if entry.takes is not None:
            entry.takes(self.owner, value)
            return
        document, items = self.owner.document, self.owner.items()
        if items:
            document.edit(entry.edit or f"Change {entry.label.lower()}", lambda plan: self._written(entry, plan, items, value))  # fmt: skip

    def _written(self, entry: Field, plan: Plan, items: list[Any], value: Any) -> Plan:
        if entry.put is not None:
            return entry.put(plan, items, value)
        return self.write(plan, items, {entry.path: value})

    def value(self, entry: Field) -> Any:
        """What the things shown have in common, or ``SEVERAL``."""
        if entry.read is not None:
            values = [entry.read(self.owner, i) for i in self.owner.items()]
        else:
            get = entry.get if entry.get is not None else lambda item: getattr(item, entry.path)
            values = [get(i) for i in self.owner.items()]
        return values[0] if values and all(v == values[0] for v in values) else SEVERAL

    def show(self) -> None:
        """Show the things as they are."""
        for entry in self.fields:
            widget = self.widgets[entry.path]
            if entry.shown is not None:
                on = entry.shown(self.owner)
                for part in self._rows[entry.path]:
                    part.setVisible(on)
                if not on:
                    continue
            if entry.enabled is not None:
                widget.setEnabled(entry.enabled(self.owner))
            kind = self._kinds[entry.path]
            if entry.takes is None or entry.get is not None:
                kind.show(self.owner, widget, self.value(entry))
            elif isinstance(kind, Choice) and isinstance(widget, ChoiceField) and callable(kind.entries):
                widget.offer(kind.of(self.owner))  # it only takes: nothing of the things is shown in it

    def beside(self, path: str, control: QWidget) -> None:
        """Put another control for the same value, such as a slider, before a field."""
        label, widget = self._rows[path]
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        grid = label.parentWidget()
        layout = grid.layout() if grid is not None else None
        assert layout is not None
        layout.replaceWidget(widget, holder, Qt.FindChildOption.FindChildrenRecursively)
        row.addWidget(control, 1)
        row.addWidget(widget)
        widget.setMaximumWidth(BESIDE)
        self._rows[path] = label, holder

    # -- widgets by what they are -------------------------------------------------------------------------

    def typed(self, path: str) -> ValueField:
        """The widget of a field that is typed."""
        widget = self.widgets[path]
        assert isinstance(widget, ValueField)
        return widget

    def read(self, path: str) -> Any:
        """What stands in a field that is typed, read as its kind reads it.

        Raises
        ------
        GwiazdaError
            For what can't be read.
        """
        return self.typed(path).read()

    def chosen(self, path: str) -> ChoiceField:
        """The widget of a choice."""
        widget = self.widgets[path]
        assert isinstance(widget, ChoiceField)
        return widget
