"""A slider through the build: what is open at a step, what is still got at with what, what hangs free, what must be threaded first."""

from __future__ import annotations

from typing import Any

from gwiazda.core.assess.reach.during import moment_words
from gwiazda.desktop.panels.panel import PanelCard
from gwiazda.desktop.stations.build.days import Days, days_of, moment_at, order_of, where_of
from gwiazda.desktop.widgets.slider import slider

KEY = "● an iron gets there, ▲ tweezers do, ■ nothing does; dotted: open."


class ThroughBuildCard(PanelCard):
    """What can still be reached, step by step."""

    title = "What is still reached"

    def build(self) -> None:
        card = self.card
        self.slider = slider(0, "Through the build", self._moved)
        card.row("Step", self.slider)
        self.words = card.consequence()
        self._order: tuple[str, ...] = ()
        self.panel.follow(self.document.step_changed, self.refresh)

    def take_over(self, old: Any) -> None:
        self.refresh()

    def _moved(self, at: int) -> None:
        """As it stands at the left end, then step by step."""
        key = self._order[at - 1] if 0 < at <= len(self._order) else ""
        self.document.pick_step(key)

    def say(self) -> None:
        days = days_of(self.document)
        self._order = order_of(days)
        step = self.document.step
        self.slider.blockSignals(True)
        self.slider.setRange(0, len(self._order))
        self.slider.setValue(self._order.index(step) + 1 if step in self._order else 0)
        self.slider.blockSignals(False)
        self.words.setText("<br>".join(self._lines(days, step)))
        self.words.setVisible(True)

    def _lines(self, days: Days, step: str) -> list[str]:
        plan = self.document.plan
        if not days.steps:
            return ["The steps come from the plan: draw a section first."]
        now = moment_at(self.document, days)
        state = days.states.get(step)
        head = (
            f"Before <b>{where_of(plan, state.step)}: {state.step.name.lower()}</b>."
            if state is not None
            else "As it stands."
        )
        lines = list(moment_words(plan, self.document.assessment, now))
        return [head, *lines, *([KEY] if state is not None and lines else [])]
