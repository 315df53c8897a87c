"""A panel for one or several things of one kind that have a place: their fields set together, their place typed."""

from __future__ import annotations

from typing import Any, ClassVar, Generic, TypeVar

from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Placed
from gwiazda.desktop.inspector.cards import Card, Panel, common
from gwiazda.desktop.inspector.reading import read_mm

T = TypeVar("T", bound=Placed)


class ItemsPanel(Panel, Generic[T]):
    """What is picked of ``kind``, edited together."""

    kind: ClassVar[type]

    def items(self) -> list[T]:
        return [i for i in self.document.selected_items() if isinstance(i, self.kind)]  # type: ignore[misc]

    def _set(self, what: str, **fields: object) -> None:
        """Set the same fields on all of them, as one step."""
        ids = [i.id for i in self.items()]
        self.document.edit(what, lambda plan: edits.set_fields(plan, ids, **fields))

    def place_card(self, *stations: str) -> Card:
        """A card with their place on the model."""
        card = self.card("Place", *stations)
        self.place = [
            self.value(f"{a} in mm", read_mm, lambda v, i=i: self.take_axis(self.items(), i, v), "mm on the model")
            for i, a in enumerate("xyz")
        ]
        card.row("x y z, mm", *self.place)
        return card

    def show_place(self, here: list[Any]) -> None:
        """The place they share, axis by axis; empty where they don't."""
        for axis, field in enumerate(self.place):
            at = common([i.at[axis] for i in here])
            field.show_value(f"{at:g}" if at is not None else "")
