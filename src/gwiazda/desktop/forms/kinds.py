"""What a field holds: how it is read from what a modeller types, shown, and drawn."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, Protocol

import msgspec
from PySide6.QtWidgets import QCheckBox, QWidget

from gwiazda.core.errors import QuantityError
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.plan.model import LIMIT_MM
from gwiazda.core.quantities import parse_length_mm, parse_number
from gwiazda.desktop.widgets.fields import ChoiceField, ValueField

if TYPE_CHECKING:
    from gwiazda.desktop.forms.form import Owner

SEVERAL = object()  # what is shown where those that are picked have not one value in common
Take = Callable[[Any], object]
Entries = Sequence[tuple[str, str]]


class Kind(Protocol):
    """A kind of value: makes its widget and shows a value in it; ``SEVERAL`` where there is none in common."""

    def widget(self, owner: Owner, name: str, take: Take) -> QWidget: ...
    def show(self, owner: Owner, widget: Any, value: Any) -> None: ...
    def bounded(self, model: type | None, path: str) -> Kind: ...


@memoize_by_value()
def bounds(model: type, path: str) -> tuple[float | None, float | None, bool]:
    """Least and greatest value of a model's field by its own type, and whether the least itself is left out."""
    field = next((f for f in msgspec.inspect.type_info(model).fields if f.name == path), None)  # type: ignore[attr-defined]
    if field is None:
        return None, None, False
    kinds = field.type.types if isinstance(field.type, msgspec.inspect.UnionType) else (field.type,)
    kind = next((k for k in kinds if isinstance(k, (msgspec.inspect.FloatType, msgspec.inspect.IntType))), None)
    if kind is None:
        return None, None, False
    low = kind.ge if kind.ge is not None else kind.gt
    high = kind.le if kind.le is not None else kind.lt
    return low, high, kind.ge is None and kind.gt is not None


@dataclass(frozen=True)
class Text:
    """A line of words; ``empty`` stands for none."""

    limit: int = 100
    empty: str = ""
    placeholder: str = ""

    def bounded(self, model: type | None, path: str) -> Text:
        return self

    def widget(self, owner: Owner, name: str, take: Take) -> QWidget:
        field = ValueField(name, lambda t: t.strip()[: self.limit] or self.empty, take)
        field.setPlaceholderText(self.placeholder)
        return field

    def show(self, owner: Owner, widget: ValueField, value: Any) -> None:
        widget.show_value("" if value is SEVERAL or value is None else str(value))


@dataclass(frozen=True)
class Number:
    """A figure with its unit. Of a model's field the bounds are those of its own type, unless they are said.

    ``factor``: how many of the unit shown make one of the plan's, 100 for shares shown in per cent. ``length``: also
    read in inches. ``none``: an empty field is no value; the words are what stands in it then.
    """

    unit: str = ""
    low: float | None = None
    high: float | None = None
    factor: float = 1.0
    whole: bool = False
    length: bool = False
    none: str | None = None
    above: bool = False  # whether the least itself is left out
    digits: int = 6

    def bounded(self, model: type | None, path: str) -> Number:
        if model is None or (self.low is not None and self.high is not None):
            return self
        low, high, above = bounds(model, path)
        low = self.low if self.low is not None else (low * self.factor if low is not None else None)
        high = self.high if self.high is not None else (high * self.factor if high is not None else None)
        return replace(self, low=low, high=high, above=above or self.above)

    def read(self, name: str, text: str) -> float | int | None:
        """A value from what was typed.

        Raises
        ------
        QuantityError
            For what is no number, has another unit, or is out of bounds.
        """
        if self.none is not None and not text.strip():
            return None
        low = self.low if self.low is not None else -1e9
        high = self.high if self.high is not None else 1e9
        value = parse_length_mm(text, name) if self.length else None
        if self.above and low == 0.0 and value is not None and value <= 0.0:
            raise QuantityError(name, f"{value:g} mm is not above zero", "a size such as 3 mm")
        if value is None:
            value = parse_number(text, name, low, high, self.unit, whole=self.whole)
        elif not low <= value <= high:
            raise QuantityError(name, f"{value:g} mm is out of range", f"{low:g} to {high:g} mm")
        if self.above and value <= low:
            raise QuantityError(name, f"{value:g} {self.unit} is not above {low:g}", f"up to {high:g} {self.unit}")
        return int(value) if self.whole else value / self.factor

    def written(self, value: float) -> str:
        text = f"{value * self.factor:.{self.digits}g}"
        return f"{text} {self.unit}" if self.unit else text

    def widget(self, owner: Owner, name: str, take: Take) -> QWidget:
        field = ValueField(name, lambda t: self.read(name, t), take)
        field.setPlaceholderText(self.none or "")
        return field

    def show(self, owner: Owner, widget: ValueField, value: Any) -> None:
        widget.show_value(self.written(value) if isinstance(value, (int, float)) else "")


@dataclass(frozen=True)
class Quantity:
    """Anything else that is read from text: ``read`` raises a GwiazdaError for what can't be; ``show`` writes it back."""

    read: Callable[[str], Any]
    written: Callable[[Any], str] = str
    placeholder: str = ""

    def bounded(self, model: type | None, path: str) -> Quantity:
        return self

    def widget(self, owner: Owner, name: str, take: Take) -> QWidget:
        field = ValueField(name, self.read, take)
        field.setPlaceholderText(self.placeholder)
        return field

    def show(self, owner: Owner, widget: ValueField, value: Any) -> None:
        widget.show_value("" if value is SEVERAL or value is None else self.written(value))


@dataclass(frozen=True)
class Choice:
    """One of several; ``entries`` are value and words, or are asked of whoever shows the form."""

    entries: Entries | Callable[[Any], Entries]

    def bounded(self, model: type | None, path: str) -> Choice:
        return self

    def of(self, owner: Owner) -> list[tuple[str, str]]:
        return list(self.entries(owner) if callable(self.entries) else self.entries)

    def widget(self, owner: Owner, name: str, take: Take) -> QWidget:
        return ChoiceField(name, self.of(owner), take)

    def show(self, owner: Owner, widget: ChoiceField, value: Any) -> None:
        if callable(self.entries):
            widget.offer(self.of(owner))
        widget.show_value("several" if value is SEVERAL else "" if value is None else str(value))


@dataclass(frozen=True)
class Flag:
    """Yes or no; ``words`` stand beside the box."""

    words: str

    def bounded(self, model: type | None, path: str) -> Flag:
        return self

    def widget(self, owner: Owner, name: str, take: Take) -> QWidget:
        box = QCheckBox(self.words)
        box.clicked.connect(lambda on: take(bool(on)))
        return box

    def show(self, owner: Owner, widget: QCheckBox, value: Any) -> None:
        widget.setChecked(value is not SEVERAL and bool(value))


def millimetres(low: float | None = None, high: float | None = None, none: str | None = None) -> Number:
    """A length on the model, also in inches."""
    return Number("mm", low, high, length=True, none=none)


def size() -> Number:
    """A length on the model that is above zero, where no model's field says so."""
    return Number("mm", 0.0, LIMIT_MM, length=True, above=True)


def per_cent(low: float | None = None, high: float | None = None) -> Number:
    """A share, kept from 0 to 1."""
    return Number("%", low, high, factor=100.0)


def whole(low: float | None = None, high: float | None = None, unit: str = "") -> Number:
    """A whole number."""
    return Number(unit, low, high, whole=True)


def fixed(*values: str, **words: str) -> Entries:
    """Entries of a choice: those that are their own words, then value=words."""
    return (*((v, v) for v in values), *words.items())
