"""Fittings picked: a mast, a crane, a rail; how thick it is, where across the model it stands, what on."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gwiazda.core.assess.fitted import stands_before, words_of
from gwiazda.core.plan.model import Fitting
from gwiazda.core.quantities import counted, parse_kit_length_mm
from gwiazda.desktop.forms.common import name_field, place_fields, sections
from gwiazda.desktop.forms.form import Field, Owner
from gwiazda.desktop.forms.kinds import Choice, Number, Take
from gwiazda.desktop.panels.panel import Panel, PanelCard
from gwiazda.desktop.widgets.fields import ValueField


def heading(panel: Panel) -> tuple[str, str]:
    here: list[Fitting] = panel.items()
    name = (here[0].name or "Fitting") if len(here) == 1 else counted(len(here), "fitting")
    return name, "solid, with no room inside; it throws a shadow and is seen in the round"


class KitLength(Number):
    """A length on the model, or at full size: 18.8 m."""

    def widget(self, owner: Owner, name: str, take: Take) -> QWidget:
        return ValueField(name, lambda t: parse_kit_length_mm(t, owner.document.plan.kit.scale, name), take)


class FittingCard(PanelCard):
    """What it is, how thick, what it stands on."""

    title = "Fitting"
    model = Fitting
    fields = (
        name_field("fitting", "mast, crane, rail"),
        Field("thick_mm", "Thickness", KitLength("mm", length=True), "As seen from the side it wasn’t drawn from", "Change its thickness"),
        Field(
            "section", "Stands on", Choice(sections(("", "nothing"))), "What it stands on takes it along when it is moved, copied or deleted",
            "Stand it elsewhere",
        ),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()

    def say(self) -> None:
        here: list[Fitting] = self.items()
        if len(here) > 1:
            self.words.setText("")
            return
        lines = [words_of(self.plan, here[0]) + "."]
        before = stands_before(self.plan, here[0])
        if before:
            lines.append(f"It stands before {counted(len(before), 'opening')}, seen from {here[0].side}.")
        self.words.setText("<br>".join(lines))


class FittingPlaceCard(PanelCard):
    """Where it is."""

    title = "Place"
    model = Fitting
    fields = place_fields()
