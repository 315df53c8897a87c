"""Hubs picked: where leads are joined."""

from __future__ import annotations

from gwiazda.core.plan.model import Hub
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, format_current
from gwiazda.desktop.forms.common import name_field, place_fields
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag
from gwiazda.desktop.panels.panel import Panel, PanelCard

JOINS = (("both", "pluses and minuses"), ("minus", "minuses alone"), ("plus", "pluses alone"))


def heading(panel: Panel) -> tuple[str, str]:
    hubs: list[Hub] = panel.items()
    first, names = hubs[0], {s.id: s.name for s in panel.plan.sections}
    name = name_of(panel.plan, first.id) if len(hubs) == 1 else counted(len(hubs), "hub")
    return name, f"in {names.get(first.section, first.section)}"


class HubCard(PanelCard):
    """Which side it joins, what is joined, the sleeve over each joint."""

    title = "Hub"
    model = Hub
    fields = (
        name_field("hub"),
        Field("joins", "Joins", Choice(JOINS), "Which leads are joined here, so that one of each net goes on", "Change what it joins"),
        Field("board", "", Flag("A module with a board of its own"),
              "Resistors and joints sit on a card made on the bench; a pigtail of two leads goes on", "A module or a hub"),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()

    def say(self) -> None:
        first, loom = self.first, self.panel.assessment.loom
        lines = []
        for joint in loom.joints:
            if joint.id.startswith(f"{first.id}."):
                runs = [loom.runs[i] for i in joint.wires]
                on = next((r for r in runs if r.id.startswith(f"{first.id}.")), None)
                flows = f"; {format_current(on.current_a)} go on in one" if on is not None else ""
                thick = ", too thick for a sleeve: put it on a card"
                sleeve = f", sleeve {joint.sleeve_mm:g} mm" if joint.sleeve_mm else thick
                lines.append(f"{len(runs)} wires of {runs[0].end} joined{flows}{sleeve}.")
        plus = (
            " The resistors of its lamps sit here: their pluses are one wire from here on."
            if first.joins != "minus"
            else ""
        )
        self.words.setText(
            "<br>".join(lines) + plus if lines else "It joins nothing yet: no two leads of one net come by."
        )


class HubPlaceCard(PanelCard):
    """Where it is."""

    title = "Place"
    model = Hub
    fields = place_fields()
