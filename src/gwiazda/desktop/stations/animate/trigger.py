"""The inspector's panel for a trigger: what it is, when it comes in the rehearsal, what it starts."""

from __future__ import annotations

import re
from typing import Any

from PySide6.QtWidgets import QPushButton

from gwiazda.core.assess.effect.words import pattern_words
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Trigger
from gwiazda.core.quantities import figure, parse_seconds
from gwiazda.desktop.inspector.cards import Panel


def read_moments(text: str) -> tuple[float, ...]:
    """``2, 8.5, 20`` as moments (s), in order."""
    return tuple(sorted(parse_seconds(p, "Pressed at", 0.0, 86_400.0) for p in re.split(r"[,;\s]+", text.strip()) if p))


class TriggerPanel(Panel):
    """One trigger."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        card = self.card("Trigger", "animate")
        self.by = self.choice("What it is", [("button", "a button"), ("magnet", "a magnet at a reed switch")], lambda v: self._set("Change trigger", by=v))  # fmt: skip
        card.row("By", self.by)
        self.at = self.value("Comes at", read_moments, lambda v: self._set("Rehearse trigger", at_s=v), "moments of the rehearsal, in seconds: 2, 8.5")  # fmt: skip
        card.row("Comes at, s", self.at)
        self.name = self.value("Name of the trigger", lambda t: t.strip()[:100], lambda v: self._set("Name trigger", name=v), "what it is called")  # fmt: skip
        card.row("Name", self.name)
        self.starts = card.consequence()
        gone = QPushButton("Delete it and its cues")
        gone.clicked.connect(self._delete)
        card.outer.addWidget(gone)

    def trigger(self) -> Trigger | None:
        return next((t for i in self.document.selection for t in self.plan.triggers if t.id == i), None)

    def _set(self, what: str, **fields: Any) -> None:
        trigger = self.trigger()
        if trigger is not None:
            self.document.edit(what, lambda plan: edits.set_trigger(plan, trigger.id, **fields))

    def _delete(self) -> None:
        trigger = self.trigger()
        if trigger is not None:
            self.document.edit("Delete trigger", lambda plan: edits.delete(plan, [trigger.id]))

    def refresh(self) -> None:
        trigger = self.trigger()
        if trigger is None:
            return
        self.heading.setText(trigger.name or trigger.id)
        self.about.setText("Trigger: what starts cues")
        self.by.show_value(trigger.by)
        self.at.show_value(", ".join(figure(t) for t in trigger.at_s))
        self.name.show_value(trigger.name)
        mine = [c.name or pattern_words(c.does) for c in self.plan.cues if c.trigger == trigger.id]
        self.starts.setText("It starts " + "; ".join(mine) + "." if mine else "It starts nothing yet.")
