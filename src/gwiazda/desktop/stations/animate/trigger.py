"""Triggers picked: what they are, when they come in the rehearsal, what they start."""

from __future__ import annotations

import re
from typing import Any

from gwiazda.core.assess.show.words import pattern_words
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Plan, Trigger
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure, parse_seconds
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Quantity, Text
from gwiazda.desktop.panels.panel import Panel, PanelCard

BY = (("button", "a button"), ("magnet", "a magnet at a reed switch"))


def read_moments(text: str) -> tuple[float, ...]:
    """``2, 8.5, 20`` as moments (s), in order."""
    pieces = re.split(r"[,;\s]+", text.replace("s", " ").strip())
    return tuple(sorted(parse_seconds(p, "Pressed at", 0.0, 86_400.0) for p in pieces if p))


def heading(panel: Panel) -> tuple[str, str]:
    trigger: Trigger = panel.items()[0]
    return name_of(panel.plan, trigger.id), "Trigger: what starts cues"


class TriggerCard(PanelCard):
    """One trigger."""

    title = "Trigger"
    model = Trigger
    fields = (
        Field("by", "Worked by", Choice(BY), "What works it", "Change trigger", name="What it is"),
        Field("at_s", "Comes at", Quantity(read_moments, lambda v: ", ".join(f"{figure(t)} s" for t in v)), "Moments of the rehearsal, in seconds: 2, 8.5",
              "Rehearse trigger"),
        Field("name", "Name", Text(100), "What the trigger is called everywhere", "Name trigger", name="Name of the trigger"),
    )  # fmt: skip

    def build(self) -> None:
        self.starts = self.card.consequence()
        self.button("Delete it and its cues", "Take it out, and the cues that it starts", self._delete)

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return edits.set_trigger(plan, items[0].id, **fields)

    def _delete(self) -> None:
        trigger = self.first
        self.document.edit("Delete trigger", lambda plan: edits.delete(plan, [trigger.id]))

    def say(self) -> None:
        mine = [c.name or pattern_words(c.does) for c in self.plan.cues if c.trigger == self.first.id]
        self.starts.setText("It starts " + "; ".join(mine) + "." if mine else "It starts nothing yet.")
