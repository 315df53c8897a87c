"""Fields of the inspector: they read what modellers write, say what is wrong, and lose nothing."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QComboBox, QLineEdit, QWidget

from gwiazda.core.errors import GwiazdaError
from gwiazda.desktop.widgets.guard import Guarded

STAND_IN = int(Qt.ItemDataRole.UserRole) + 1  # marks an entry that says how things are and can't be chosen


class ValueField(Guarded, QLineEdit):
    """A field for one quantity.

    ``read`` turns text into a value or raises GwiazdaError; ``take`` gets the value on Enter or when the field is
    left. Text that can't be read stays, framed, with its sentence in the tooltip and in ``refused``.
    """

    refused = Signal(str)

    def __init__(
        self,
        name: str,
        read: Callable[[str], object],
        take: Callable[..., object],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._read, self._take, self._hint = read, take, ""
        self._shown = ""
        self.away: Callable[[], object] | None = None  # where Escape leads from a field that comes and goes
        self.setProperty("wrong", "false")
        self.setAccessibleName(name)
        self.editingFinished.connect(self._finished)
        self.installEventFilter(self)

    def set_hint(self, hint: str) -> None:
        self._hint = hint
        self.setToolTip(hint)

    def read(self) -> object:
        """What stands in it, as a value; raises GwiazdaError for what can't be read."""
        return self._read(self.text())

    def show_value(self, text: str) -> None:
        """Show a value of the plan, unless the user is just writing another."""
        self._shown = text
        if not (self.hasFocus() and self.isModified()):
            self.setText(text)
            self._mark("")

    def _mark(self, sentence: str) -> None:
        self.setToolTip(sentence or self._hint)
        wrong = "true" if sentence else "false"
        if self.property("wrong") != wrong:
            # A style sheet is asked again only here: it takes a millisecond a field.
            self.setProperty("wrong", wrong)
            self.style().unpolish(self)
            self.style().polish(self)

    def _finished(self) -> None:
        if not self.isModified():
            return
        if self.text() == self._shown:
            self.setModified(False)
            self._mark("")
            return
        try:
            value = self._read(self.text())
        except GwiazdaError as error:
            self._mark(str(error))
            self.refused.emit(str(error))
            return
        self.setModified(False)
        self._mark("")
        self._take(value)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        # Ctrl+Z in a field that nothing was typed into is the plan's.
        undoes = event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and (
            event.matches(QKeySequence.StandardKey.Undo) or event.matches(QKeySequence.StandardKey.Redo)
        )  # fmt: skip
        if undoes and not self.isModified():
            event.ignore()
            return True
        return False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            if self.isModified() or self.property("wrong") == "true":
                self.setText(self._shown)
                self.setModified(False)
                self._mark("")
            elif self.away is not None:
                self.away()
            else:
                event.ignore()  # the window takes the keys back to the plate
                return
            event.accept()
            return
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()  # Enter is the field's in which it was typed


class ChoiceField(Guarded, QComboBox):
    """A choice of named values. Scrolling past it does not change it."""

    def __init__(
        self,
        name: str,
        choices: Sequence[tuple[str, str]],
        take: Callable[..., object],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setToolTip(name)
        self.setMinimumContentsLength(6)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        for value, words in choices:
            self.addItem(words, value)
        self._take = take
        self._shown = ""
        self.activated.connect(lambda _: self._activated())
        self.installEventFilter(self)

    def _activated(self) -> None:
        if self.currentData(STAND_IN):
            # “several”, or a part the catalogue hasn't got, says how things are: it can't be chosen.
            self.show_value(self._shown)
            return
        self._take(str(self.currentData()))

    def set_choices(self, choices: Sequence[tuple[str, str]]) -> None:
        """Other choices, nothing chosen among them yet."""
        self.blockSignals(True)
        self.clear()
        for value, words in choices:
            self.addItem(words, value)
        self.blockSignals(False)

    def offer(self, choices: Sequence[tuple[str, str]]) -> None:
        """Other choices where they are others than those there."""
        held = [(self.itemData(i), self.itemText(i)) for i in range(self.count()) if not self.itemData(i, STAND_IN)]
        if held != list(choices):
            self.set_choices(choices)

    def show_value(self, value: str) -> None:
        self._shown = value
        for i in reversed(range(self.count())):
            if self.itemData(i, STAND_IN) and self.itemData(i) != value:
                self.removeItem(i)
        index = self.findData(value)
        if index < 0:
            words = "several" if value in ("", "several") else f"{value} (not in the catalogue)"
            self.addItem(words, value)
            index = self.count() - 1
            self.setItemData(index, True, STAND_IN)
        self.setCurrentIndex(index)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Wheel and not self.hasFocus():
            event.ignore()
            return True
        return False
