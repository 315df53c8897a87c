"""The inspector's panel for a hub where leads are joined."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox

from gwiazda.core.plan.model import Hub
from gwiazda.core.quantities import counted, format_current
from gwiazda.desktop.inspector.cards import common
from gwiazda.desktop.inspector.items_panel import ItemsPanel


class HubPanel(ItemsPanel[Hub]):
    """One or several hubs: which side they join, what is joined, the sleeve over each joint."""

    kind = Hub

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        card = self.card("Hub", "wire")
        self.name = self.value("Name", lambda t: t.strip()[:100], lambda v: self._set("Name the hub", name=v))
        card.row("Name", self.name)
        self.joins = self.choice(
            "Joins", [("both", "pluses and minuses"), ("minus", "minuses alone"), ("plus", "pluses alone")], lambda v: self._set("Change what it joins", joins=v)
        )  # fmt: skip
        card.row("Joins", self.joins)
        self.board = QCheckBox("A module with a board of its own")
        self.board.setToolTip("Resistors and joints sit on a card made on the bench; a pigtail of two leads goes on")
        self.board.clicked.connect(lambda on: self._set("A module" if on else "A hub", board=bool(on)))
        card.outer.addWidget(self.board)
        self.words = card.consequence()
        self.place_card("wire", "measure")

    def refresh(self) -> None:
        hubs = self.items()
        if not hubs:
            return
        first, loom = hubs[0], self.assessment.loom
        names = {s.id: s.name for s in self.plan.sections}
        self.heading.setText((first.name or first.id) if len(hubs) == 1 else counted(len(hubs), "hub"))
        self.about.setText(f"in {names.get(first.section, first.section)}")
        self.name.show_value(str(common([h.name for h in hubs]) or ""))
        joins = common([h.joins for h in hubs])
        self.joins.show_value(str(joins) if joins is not None else "several")
        self.board.setChecked(all(h.board for h in hubs))
        self.show_place(hubs)
        lines = []
        for joint in loom.joints:
            if joint.id.startswith(f"{first.id}."):
                runs = [loom.runs[i] for i in joint.wires]
                on = next((r for r in runs if r.id.startswith(f"{first.id}.")), None)
                side = runs[0].end
                flows = f"; {format_current(on.current_a)} go on in one" if on is not None else ""
                sleeve = (
                    f", sleeve {joint.sleeve_mm:g} mm"
                    if joint.sleeve_mm
                    else ", too thick for a sleeve: put it on a card"
                )
                lines.append(f"{len(runs)} wires of {side} joined{flows}{sleeve}.")
        plus = (
            " The resistors of its lamps sit here: their pluses are one wire from here on."
            if first.joins != "minus"
            else ""
        )
        self.words.setText(
            "<br>".join(lines) + plus if lines else "It joins nothing yet: no two leads of one net come by."
        )
