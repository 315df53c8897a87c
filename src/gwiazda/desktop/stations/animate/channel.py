"""The inspector's panel for channels: their lamps, their output, patterns to put on them."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QPushButton

from gwiazda.core.assess.effect.outputs import board_name, cues_on, outputs_of
from gwiazda.core.assess.effect.words import pattern_words, when_words
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Channel
from gwiazda.core.quantities import counted, figure, format_current, parse_number
from gwiazda.desktop.inspector.cards import Panel, common
from gwiazda.desktop.stations.animate.intime import show_prototypes, take_pattern


class ChannelPanel(Panel):
    """One channel or several."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        does = self.card("What it does", "animate")
        self.pattern = self.choice("Ready pattern", [], self._take)
        does.row("Add", self.pattern)
        self.rest = self.choice(
            "Otherwise", [("lit", "lit, as wired"), ("dark", "dark")], lambda v: self._set("Change rest", rest=v)
        )
        does.row("Otherwise", self.rest)
        self.cues = does.consequence()
        driven = self.card("Driven by", "animate")
        self.board = self.choice("Board", [], self._set_board)
        driven.row("Board", self.board)
        self.output = self.value(
            "Output", lambda t: int(parse_number(t, "Output", 0, 256, whole=True)), lambda v: self._set("Change output", output=v),
            "number of its output on the board, 0 for none",
        )  # fmt: skip
        driven.row("Output", self.output)
        self.flows = driven.consequence()
        who = self.card("Lamps", "animate")
        self.lamps = who.consequence()
        self.name = self.value(
            "Name of the channel", lambda t: t.strip()[:100], lambda v: self._set("Name channel", name=v), "what it is called"
        )  # fmt: skip
        who.row("Name", self.name)
        row = QHBoxLayout()
        self.pick = QPushButton("Pick its lamps")
        self.pick.setToolTip("Pick them on the plate")
        self.pick.clicked.connect(self._pick)
        self.gone = QPushButton("Delete the channel")
        self.gone.setToolTip("Its lamps are lit steadily then (Delete)")
        self.gone.clicked.connect(self._delete)
        row.addWidget(self.pick)
        row.addWidget(self.gone)
        who.outer.addLayout(row)

    def channels(self) -> list[Channel]:
        table = {c.id: c for c in self.plan.channels}
        return [table[i] for i in self.document.selection if i in table]

    def _set(self, what: str, **fields: Any) -> None:
        ids = [c.id for c in self.channels()]

        def change(plan):  # type: ignore[no-untyped-def]
            for i in ids:
                plan = edits.set_channel(plan, i, **fields)
            return plan

        self.document.edit(what, change)

    def _set_board(self, board: str) -> None:
        ids = [c.id for c in self.channels()]
        if not board:
            self._set("No board", board="", output=0)
            return

        def change(plan):  # type: ignore[no-untyped-def]
            if board.startswith("+"):
                plan, board_id = edits.add_board(plan, board[1:])
            else:
                board_id = board
            taken = [c.output for c in plan.channels if c.board == board_id and c.id not in ids]
            return edits.drive_by(plan, ids, board_id, max(taken, default=0) + 1)

        self.document.edit("Choose board", change)

    def _take(self, prototype_id: str) -> None:
        take_pattern(self, [c.id for c in self.channels()], prototype_id)

    def _pick(self) -> None:
        on = {c.id for c in self.channels()}
        self.document.select([p.id for p in self.plan.lamps if p.channel in on])

    def _delete(self) -> None:
        ids = [c.id for c in self.channels()]
        self.document.edit("Delete channel", lambda plan: edits.delete(plan, ids))

    def refresh(self) -> None:
        picked, plan, assessment = self.channels(), self.plan, self.assessment
        if not picked:
            return
        first = picked[0]
        self.heading.setText(first.name or first.id if len(picked) == 1 else counted(len(picked), "channel"))
        states = [s for c in picked if (s := assessment.effects.channels.get(c.id)) is not None]
        full, mean = sum(s.full_a for s in states), sum(s.mean_a for s in states)
        self.about.setText(f"Channel, {counted(sum(s.lamps for s in states), 'lamp')}, {format_current(full)} fully on")
        show_prototypes(self.pattern, self.document.catalogue, plan.kit.kind)
        self.rest.show_value(str(common([c.rest for c in picked]) or ""))
        lines = [f"{c.name or pattern_words(c.does)}, {when_words(c)}" for c in cues_on(plan, first.id)]
        more = f"On average <b>{format_current(mean)}</b>, {figure(100 * mean / full if full else 0)} % of fully on."
        self.cues.setText("<br>".join([*(lines or ["Steady: no cue is on it."]), more]))
        entries = [
            ("", "no board"),
            *((b.id, board_name(plan, b.id, self.document.catalogue)) for b in plan.boards),
            *((f"+{b.id}", f"new: {b.name}") for b in self.document.catalogue.boards.values()),
        ]
        if [(self.board.itemData(i), self.board.itemText(i)) for i in range(self.board.count())] != entries:
            self.board.clear()
            for value, words in entries:
                self.board.addItem(words, value)
        self.board.show_value(str(common([c.board for c in picked]) or ""))
        self.output.show_value(str(first.output) if len(picked) == 1 else "")
        self.flows.setText(self._output_words(first))
        mine = [p.id for p in plan.lamps if p.channel in {c.id for c in picked}]
        self.lamps.setText(
            ", ".join(mine[:8]) + (f" and {len(mine) - 8} more" if len(mine) > 8 else "") or "No lamp is on it yet."
        )
        self.name.show_value(first.name or first.id if len(picked) == 1 else "")

    def _output_words(self, channel: Channel) -> str:
        for o in outputs_of(self.plan, self.assessment):
            if o.channel == channel.id and o.output:
                behind = f" through {self.document.catalogue.drives[o.stage].name}" if o.stage else ""
                wired = "" if o.wired else " In the circuit it hangs on no output yet."
                return f"{format_current(o.full_a)} of {format_current(o.limit_a)}{behind}.{wired}"
        return "What moves needs an output of a board." if cues_on(self.plan, channel.id) else ""
