"""Cards of the Wire station: how lamps hang, and the plan's circuits as a whole."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout

from gwiazda.core.quantities import counted, format_current
from gwiazda.desktop.panels.panel import PanelCard, clear
from gwiazda.desktop.stations.wire.actions import actions_for, put_before
from gwiazda.desktop.stations.wire.words import PUT


class ActionsCard(PanelCard):
    """Buttons for what can be done with what is picked in the circuit."""

    title = "In the circuit"

    def build(self) -> None:
        self.put = self.panel.choice("Put something in", [("", "choose"), *PUT], self._put)
        self.card.row("Put in before", self.put)
        self.buttons = QVBoxLayout()
        self.buttons.setSpacing(4)
        self.card.outer.addLayout(self.buttons)
        self._shown: tuple[str, ...] = ()
        self._row: list[QPushButton] = []

    def _put(self, kind: str) -> None:
        if kind:
            put_before(self.document, kind)

    def refresh(self) -> None:
        self.put.show_value("")
        actions = [(w, t) for w, t in actions_for(self.document) if not w.startswith("Put in ")]
        self.put.setEnabled(bool(self.document.selection))
        words = tuple(w for w, _ in actions)
        if words != self._shown:
            self._shown = words
            clear(self.buttons)
            self._row = []
            for k, w in enumerate(words):
                button = QPushButton(w)
                button.setToolTip(w)
                button.clicked.connect(lambda _=False, i=k: self._take(i))
                self._row.append(button)
                self.buttons.addWidget(button)
        self.card.setVisible(bool(self.document.selection))

    def _take(self, index: int) -> None:
        actions: list[tuple[str, Callable[[], object]]] = [
            (w, t) for w, t in actions_for(self.document) if not w.startswith("Put in ")
        ]
        if index < len(actions):
            actions[index][1]()


class PlanWiringCard(PanelCard):
    """The plan's circuits as a whole: what is there, and how to begin."""

    title = "Circuits"

    def build(self) -> None:
        card = self.card
        self.words = card.consequence()
        row = QHBoxLayout()
        self.fuse = QPushButton("A fuse by the source")
        self.fuse.setToolTip("Half as much again as what runs, and under what the thinnest wire bears")
        self.fuse.clicked.connect(lambda: self._head("fuse"))
        self.switch = QPushButton("A switch for all")
        self.switch.setToolTip("One switch that all of the first source’s current goes through")
        self.switch.clicked.connect(lambda: self._head("switch"))
        row.addWidget(self.fuse)
        row.addWidget(self.switch)
        card.outer.addLayout(row)

    def _head(self, kind: str) -> None:
        from gwiazda.core.circuit.fuses import fuse_for
        from gwiazda.core.plan import edits
        from gwiazda.core.plan.model import Plan

        feed = self.panel.plan.feeds[0].id
        draw = self.panel.assessment.feeds[feed].draw_a if feed in self.panel.assessment.feeds else 0.0

        def change(plan: Plan) -> Plan:
            plan, new = edits.put_before(plan, feed, kind)
            if kind == "fuse":
                rated = fuse_for(draw)
                plan = edits.set_part(plan, new, rated_a=rated)
            return plan

        self.document.edit("A fuse by the source" if kind == "fuse" else "A switch for all", change)

    def refresh(self) -> None:
        assessment, plan = self.panel.assessment, self.panel.plan
        shared = sum(1 for r in assessment.branches.values() if len(r.lamps) > 1)
        parts = counted(len(assessment.parts), "other part") if assessment.parts else "no other parts"
        draw = sum(f.draw_a for f in assessment.feeds.values())
        self.words.setText(
            f"{counted(len(assessment.lamps), 'lamp')} in {counted(len(assessment.branches), 'string')}, {shared} of them with several; {parts}. "
            f"All lit, they draw <b>{format_current(draw)}</b>. Pick lamps in the drawer or on the plate; drag one onto another to "
            "join its string."
        )
        head = {type(x).__name__ for x in plan.feeds[0].head}
        self.fuse.setEnabled("Fuse" not in head)
        self.switch.setEnabled("Switch" not in head)
