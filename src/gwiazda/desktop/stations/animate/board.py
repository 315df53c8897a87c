"""The inspector's panel for a board: its part, what hangs on its outputs, its timer."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QCheckBox, QPushButton

from gwiazda.core.assess.effect.outputs import board_name, channel_name, outputs_of
from gwiazda.core.assess.effect.scoring import timing_of
from gwiazda.core.effect.timers import rate_band
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Board
from gwiazda.core.quantities import counted, figure, format_current, letter_code, parse_number, parse_resistance_ohm
from gwiazda.desktop.inspector.cards import Panel


class BoardPanel(Panel):
    """One board."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        card = self.card("Board", "animate")
        self.part = self.choice(
            "Kind of board",
            [(b.id, b.name) for b in document.catalogue.boards.values()],
            lambda v: self._set("Change board", part=v),
        )
        card.row("Kind", self.part)
        self.speed = self.value(
            "Speed", lambda t: parse_number(t.replace("×", ""), "Speed", 0.05, 20.0), lambda v: self._set("Change speed", speed=v),
            "how much faster than written it runs: two boards are never alike, 1.03",
        )  # fmt: skip
        card.row("Times the speed", self.speed)
        self.name = self.value("Name of the board", lambda t: t.strip()[:100], lambda v: self._set("Name board", name=v), "what it is called")  # fmt: skip
        card.row("Name", self.name)
        self.outputs = card.consequence()
        self.timer = self.card("Timer", "animate")
        ohm = lambda t: parse_resistance_ohm(t) if t.strip() else None  # noqa: E731
        self.r1 = self.value("R1", ohm, lambda v: self._set("Change R1", r1_ohm=v), "10k; from 1 kΩ on")
        self.r2 = self.value("R2", ohm, lambda v: self._set("Change R2", r2_ohm=v), "47k; both together up to 1 MΩ")
        self.timer.row("R1", self.r1)
        self.timer.row("R2", self.r2)
        self.c = self.value(
            "Capacitor in µF", lambda t: parse_number(t.replace("uF", "").replace("µF", ""), "Capacitor", 1e-4, 1e5) if t.strip() else None,
            lambda v: self._set("Change capacitor", c_uf=v), "µF: 10",
        )  # fmt: skip
        self.timer.row("C, µF", self.c)
        self.diode = QCheckBox("a diode across R2")
        self.diode.setToolTip("It charges through R1 alone then: on for less than half the time is possible")
        self.diode.clicked.connect(lambda on: self._set("Diode", diode=bool(on)))
        self.timer.row("", self.diode)
        self.rate = self.timer.consequence()
        self.gone = QPushButton("Take the board out")
        self.gone.clicked.connect(self._delete)
        card.outer.addWidget(self.gone)

    def board(self) -> Board | None:
        return next((b for i in self.document.selection for b in self.plan.boards if b.id == i), None)

    def _set(self, what: str, **fields: Any) -> None:
        board = self.board()
        if board is not None:
            self.document.edit(what, lambda plan: edits.set_board(plan, board.id, **fields))

    def _delete(self) -> None:
        board = self.board()
        if board is not None:
            self.document.edit("Take a board out", lambda plan: edits.drop_board(plan, board.id))

    def refresh(self) -> None:
        board = self.board()
        if board is None:
            return
        part = self.document.catalogue.boards.get(board.part)
        mine = [o for o in outputs_of(self.plan, self.assessment) if o.board == board.id]
        self.heading.setText(board_name(self.plan, board.id, self.document.catalogue))
        used = f"{len(mine)} of {counted(part.outputs, 'output')} used" if part is not None else ""
        self.about.setText(f"Board, {used}")
        self.part.show_value(board.part)
        self.speed.show_value(figure(board.speed))
        self.name.show_value(board.name)
        lines = [
            f"<b>{o.output}</b> {channel_name(self.plan, o.channel)}: {format_current(o.full_a)} of {format_current(o.limit_a)}"
            + (" through a stage" if o.stage else "")
            for o in mine[:20]
        ]
        self.outputs.setText("<br>".join(lines) or "No channel is on it yet.")
        is_timer = part is not None and part.kind in ("timer", "counter")
        self.timer.setVisible(is_timer)
        if not is_timer:
            return
        self.r1.show_value(letter_code(board.r1_ohm) if board.r1_ohm else "")
        self.r2.show_value(letter_code(board.r2_ohm) if board.r2_ohm else "")
        self.c.show_value(figure(board.c_uf) if board.c_uf else "")
        self.diode.setChecked(board.diode)
        timing = timing_of(board)
        if timing is None:
            self.rate.setText("R1, R2 and the capacitor give its rate.")
            return
        low, high = (timing.rate_hz * x for x in rate_band(board.c_uf or 1.0))
        self.rate.setText(
            f"<b>{figure(timing.rate_hz)} Hz</b>, on for {timing.duty * 100:.0f} % of it; by its capacitor {figure(low, 2)} to {figure(high, 2)} Hz."
        )
