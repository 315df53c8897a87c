"""Strips and lamps with their resistors built in: straight on the rails, and how bright that is along the life of the source."""

from __future__ import annotations

from gwiazda.core.assess.electrics.on_rails import built_in_resistor, on_rails, rails_light
from gwiazda.core.plan import edits
from gwiazda.core.quantities import figure
from gwiazda.desktop.panels.panel import PanelCard


class RailsCard(PanelCard):
    """Shown for lamps that have their resistors built in."""

    title = "Straight on the rails"

    def build(self) -> None:
        self.words = self.card.consequence()
        self.put = self.button(
            "No resistor of ours",
            "It hangs between plus and minus as it is, dimmer where the source has fewer volts",
            self._put,
        )
        self.back = self.button(
            "A resistor for its look", "Its look is reached by a resistor before it again", self._back
        )

    def refresh(self) -> None:
        here = self.items()
        fits = bool(here) and all(built_in_resistor(self.panel.assessment, p.id) for p in here)
        self.card.setVisible(fits)
        if fits:
            super().refresh()

    def _ids(self) -> list[str]:
        return [p.id for p in self.items()]

    def _put(self) -> None:
        ids = self._ids()
        self.document.edit("Straight on the rails", lambda plan: edits.put_on_rails(plan, ids))

    def _back(self) -> None:
        ids = self._ids()
        self.document.edit("A resistor before it", lambda plan: edits.wire_singly(plan, ids))

    def say(self) -> None:
        plan, assessment = self.document.assessed_plan, self.panel.assessment
        there = [on_rails(self.plan, i) for i in self._ids()]
        self.put.setVisible(not all(there))
        self.back.setVisible(any(there))
        known = any(p.id == self.first.id for p in plan.lamps)
        light = rails_light(plan, assessment, self.first.id) if known else None
        if light is None:
            self.words.setText("")
            return
        fresh, nominal, empty = (f"<b>{x * 100:.0f} %</b>" for x in (light.fresh, light.nominal, light.empty))
        at = [f"{figure(v, 2)} V" for v in light.volts]
        along = (
            f"fresh {fresh} of its light ({at[0]}), at its nominal {at[1]} {nominal}, at the end {empty} ({at[2]})"
            if light.volts[0] != light.volts[2]
            else f"{nominal} of its light on {at[1]}"
        )
        self.words.setText(f"With no resistor of ours: {along}. Dark below {figure(light.dark_v, 2)} V.")
