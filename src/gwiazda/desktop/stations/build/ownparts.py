"""The card of one's own parts: of which kind, like which one, and the figures that differ."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QVBoxLayout, QWidget

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.workshop.own_parts import KINDS, Figure, OwnPart, likes, made_like
from gwiazda.desktop.forms.form import Field, Form
from gwiazda.desktop.forms.kinds import Choice, Number, Text
from gwiazda.desktop.panels.panel import Card, Panel, PanelCard, button_of, clear, label, side_by_side


def _figure_field(figure: Figure) -> Field:
    return Field(
        figure.id,
        figure.words,
        Number(figure.unit, figure.low, figure.high, whole=figure.id == "outputs"),
        f"{figure.words} of your part; as the one it is like has it until you type another",
        name=f"{figure.words} of your own part",
        get=lambda card: card.shown_figure(figure),
        takes=lambda card, value: card.typed.__setitem__(figure.id, float(value)),
        shown=lambda card: card.shown_figure(figure) is not None,  # an adapter has no capacity
    )


class OwnPartsCard(PanelCard):
    """A part like one of the catalogue with figures of its own, kept in the workshop for every plan."""

    title = "Your own parts"
    fields = (
        Field("kind", "Kind", Choice(tuple((k.id, k.name) for k in KINDS.values())), "What kind of part it is; lamps have a card of their own, at Light",
              name="Kind of your own part", get=lambda card: card.kind, takes=lambda card, kind: card.choose(kind)),
        Field("like", "Like", Choice(lambda card: card.likes()), "Which part of the catalogue it is like: what you don’t type is as that has it",
              name="Like which part", get=lambda card: card.like, takes=lambda card, like: card.be_like(like), shown=lambda card: len(card.likes()) > 1),
        Field("name", "Name", Text(80, placeholder="what you call it"), "What it is called wherever one chooses", name="Name of your own part",
              get=lambda card: card.name, takes=lambda card, name: card.call(name)),
    )  # fmt: skip

    def __init__(self, panel: Panel) -> None:
        self.kind, self.like, self.name = "source", "", ""
        self.typed: dict[str, float] = {}
        super().__init__(panel)

    def build(self) -> None:
        self._form: Form | None = None
        self._rows = QVBoxLayout()
        self._rows.setSpacing(4)
        self.card.outer.addLayout(self._rows)
        self.button("Keep it", "Beside the generic parts, wherever one of its kind is chosen", self._keep)
        self._own = QVBoxLayout()
        self._own.setSpacing(4)
        self.card.outer.addLayout(self._own)
        self._listed: object = None
        self.card.set_open(False)
        self.choose(self.kind)

    def take_over(self, old: OwnPartsCard) -> None:
        super().take_over(old)
        self.choose(old.kind)
        self.like, self.name, self.typed = old.like, old.name, dict(old.typed)
        self.refresh()

    def items(self) -> list[Any]:
        return [self]

    def likes(self) -> list[tuple[str, str]]:
        """The generic parts of the kind chosen."""
        return [(i, p.name) for i, p in likes(self.document.catalogue, self.kind).items()]

    def choose(self, kind: str) -> None:
        """Another kind of part: other figures."""
        self.kind = kind
        clear(self._rows)
        figures = Card("")
        figures.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        figures.setObjectName("")
        self._rows.addWidget(figures)
        self._form = Form(self, [_figure_field(f) for f in KINDS[kind].figures], figures.row)
        self.be_like(self.likes()[0][0])

    def be_like(self, like: str) -> None:
        """Like another part: its figures."""
        self.like, self.typed = like, {}
        self.refresh()

    def call(self, name: str) -> None:
        """Its name; that of one kept shows that one's figures again."""
        self.name = name
        kept = next((p for p in self.document.workshop.own.values() if p.name == name and p.kind == self.kind), None)
        if kept is not None:
            self.like, self.typed = kept.like, dict(kept.figures)
        self.refresh()

    def shown_figure(self, figure: Figure) -> float | None:
        """What is typed, or what the part it is like has; nothing where that has none (an adapter's capacity)."""
        value = self.typed.get(figure.id, figure.of(likes(self.document.catalogue, self.kind)[self.like]))
        return value if value >= figure.low else None

    def refresh(self) -> None:
        super().refresh()
        if self._form is not None:
            self._form.show()
        own = tuple(p for p in self.document.workshop.own.values() if p.kind == self.kind)
        if own == self._listed:
            return
        self._listed = own
        clear(self._own)
        for part in own:
            self._own.addWidget(label(self._said(part), "muted", wrap=True))
            change = button_of("Change it", f"Show the figures of {part.name} above", self._again(part.name))
            out = button_of("Take it out", f"{part.name} out of your catalogue", self._out(part))
            holder = QWidget()
            row = side_by_side(change, out)
            row.setContentsMargins(0, 0, 0, 0)
            holder.setLayout(row)
            self._own.addWidget(holder)

    def _said(self, part: OwnPart) -> str:
        found = [f for f in KINDS[part.kind].figures if f.id in part.figures]
        figures = ", ".join(f"{f.words.lower()} {part.figures[f.id]:g} {f.unit}".strip() for f in found)
        like = likes(self.document.catalogue, part.kind).get(part.like)
        return ": ".join(
            w
            for w in (
                part.name,
                ", ".join(x for x in (f"like {like.name}" if part.like and like else "", figures) if x),
            )
            if w
        )

    def _again(self, name: str) -> Callable[[], None]:
        return lambda: self.call(name)

    def _out(self, part: OwnPart) -> Callable[[], None]:
        def take_out() -> None:
            self.like, self.typed, self.name = part.like, dict(part.figures), part.name
            if self._change(lambda w: w.without_own_part(part.id)):
                self.document.message.emit(
                    f"{part.name} is out of your catalogue; its figures stand in the card, and Keep it puts it back.",
                    "info",
                )

        return take_out

    def _change(self, change: Callable[[Any], Any]) -> bool:
        try:
            self.document.change_workshop(change(self.document.workshop))
        except GwiazdaError as error:
            self.document.message_stop(str(error))
            return False
        return True

    def _keep(self) -> None:
        catalogue = self.document.catalogue
        try:
            part = made_like(catalogue, self.kind, self.like, str(self.form.typed("name").text()), self.typed)
        except GwiazdaError as error:
            self.document.message_stop(str(error))
            return
        name, typed, self.name, self.typed = (
            self.name,
            self.typed,
            "",
            {},
        )  # a changed catalogue builds the panel anew: the card is ready for the next
        if not self._change(lambda w: w.with_own_part(part)):
            self.name, self.typed = name, typed
        else:
            self.document.message.emit(f"{part.name} is in your catalogue now.", "info")
