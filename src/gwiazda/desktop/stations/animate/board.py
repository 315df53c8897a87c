"""Boards picked: the part, what is on the outputs, the timer."""

from __future__ import annotations

from typing import Any

from gwiazda.core.assess.show.outputs import board_name, outputs_of
from gwiazda.core.assess.show.scoring import timing_of
from gwiazda.core.effect.timers import rate_band
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Board, Plan
from gwiazda.core.plan.naming import channel_name
from gwiazda.core.quantities import counted, figure, format_current, letter_code, parse_number, parse_resistance_ohm
from gwiazda.desktop.forms.common import parts, sections
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, Quantity, Text
from gwiazda.desktop.panels.panel import Panel, PanelCard


def heading(panel: Panel) -> tuple[str, str]:
    board: Board = panel.items()[0]
    catalogue = panel.document.catalogue
    part = catalogue.boards.get(board.part)
    mine = [o for o in outputs_of(panel.plan, panel.assessment) if o.board == board.id]
    used = f"{len(mine)} of {counted(part.outputs, 'output')} used" if part is not None else ""
    return board_name(panel.plan, board.id, catalogue), f"Board, {used}"


class OneBoardCard(PanelCard):
    """One card of a board."""

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return edits.set_board(plan, items[0].id, **fields)


def _speed(text: str) -> float:
    return parse_number(text.replace("×", ""), "Speed", 0.05, 20.0)


class BoardCard(OneBoardCard):
    """Which board it is, and what is on it."""

    title = "Board"
    model = Board
    fields = (
        Field("part", "Kind", Choice(parts("boards")), "Which controller it is", "Change board", name="Kind of board"),
        Field("speed", "Times the speed", Quantity(_speed, lambda v: f"{figure(v)} ×"),
              "How much faster than written it runs: two boards are never alike, 1.03", "Change speed", name="Speed"),
        Field("home", "Located in", Choice(sections(("", "the base, outside"))), "Where it stands: whether it goes in is said at Power", "Move the board",
              name="Where the board stands"),
        Field("name", "Name", Text(100), "What the board is called everywhere", "Name board", name="Name of the board"),
    )  # fmt: skip

    def build(self) -> None:
        self.outputs = self.card.consequence()
        self.button("Take the board out", "Its channels keep their cues, and are on no output", self._delete)

    def _delete(self) -> None:
        board = self.first
        self.document.edit("Take a board out", lambda plan: edits.drop_board(plan, board.id))

    def say(self) -> None:
        mine = [o for o in outputs_of(self.plan, self.panel.assessment) if o.board == self.first.id]
        lines = [
            f"<b>{o.output}</b> {channel_name(self.plan, o.channel)}: {format_current(o.full_a)} of {format_current(o.limit_a)}"
            + (" through a stage" if o.stage else "")
            for o in mine[:20]
        ]
        self.outputs.setText("<br>".join(lines) or "No channel is on it yet.")


def _ohm(text: str) -> float | None:
    return parse_resistance_ohm(text) if text.strip() else None


def _microfarads(text: str) -> float | None:
    bare = text.replace("uF", "").replace("µF", "")
    return parse_number(bare, "Capacitor", 1e-4, 1e5) if bare.strip() else None


class TimerCard(OneBoardCard):
    """The timer of a board that has one, by its resistors and capacitor."""

    title = "Timer"
    model = Board
    fields = (
        Field("r1_ohm", "R1", Quantity(_ohm, letter_code), "From 1 kΩ on: 10k", "Change R1", get=lambda b: b.r1_ohm or None),
        Field("r2_ohm", "R2", Quantity(_ohm, letter_code), "Both together up to 1 MΩ: 47k", "Change R2", get=lambda b: b.r2_ohm or None),
        Field("c_uf", "Capacitor", Quantity(_microfarads, lambda v: f"{figure(v)} µF"), "The larger, the slower: 10 µF", "Change capacitor",
              get=lambda b: b.c_uf or None),
        Field("diode", "", Flag("a diode across R2"), "It charges through R1 alone then: on for less than half the time is possible", "Diode"),
    )  # fmt: skip

    def build(self) -> None:
        self.rate = self.card.consequence()

    def refresh(self) -> None:
        part = self.document.catalogue.boards.get(self.first.part)
        self.card.setVisible(part is not None and part.kind in ("timer", "counter"))
        super().refresh()

    def say(self) -> None:
        timing = timing_of(self.first)
        if timing is None:
            self.rate.setText("R1, R2 and the capacitor give its rate.")
            return
        low, high = (timing.rate_hz * x for x in rate_band(self.first.c_uf or 1.0))
        self.rate.setText(
            f"<b>{figure(timing.rate_hz)} Hz</b>, on for {timing.duty * 100:.0f} % of it; by its capacitor {figure(low, 2)} to {figure(high, 2)} Hz."
        )
