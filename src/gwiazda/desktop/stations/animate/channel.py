"""Channels picked: their lamps, their output, patterns to put on them."""

from __future__ import annotations

from typing import Any

from gwiazda.core.assess.show.outputs import board_name, cues_on, outputs_of
from gwiazda.core.assess.show.words import pattern_words, when_words
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Channel, Plan
from gwiazda.core.plan.naming import name_of, names_of
from gwiazda.core.quantities import counted, figure, format_current
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Text, whole
from gwiazda.desktop.panels.panel import Panel, PanelCard, button_of, side_by_side
from gwiazda.desktop.stations.animate.intime import prototype_entries, take_pattern


def heading(panel: Panel) -> tuple[str, str]:
    picked: list[Channel] = panel.items()
    first, states = picked[0], panel.assessment.effects.channels
    mine = [s for c in picked if (s := states.get(c.id)) is not None]
    name = name_of(panel.plan, first.id) if len(picked) == 1 else counted(len(picked), "channel")
    full = format_current(sum(s.full_a for s in mine))
    return name, f"Channel, {counted(sum(s.lamps for s in mine), 'lamp')}, {full} fully on"


class ChannelCard(PanelCard):
    """One card of channels."""

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        for channel in items:
            plan = edits.set_channel(plan, channel.id, **fields)
        return plan


class ChannelDoesCard(ChannelCard):
    """What it does."""

    title = "What it does"
    model = Channel
    fields = (
        Field("pattern", "Add", Choice(prototype_entries), "A ready pattern put on it", name="Ready pattern", takes=lambda card, v: card.take(v)),
        Field("rest", "Otherwise", Choice((("lit", "lit, as wired"), ("dark", "dark"))), "What its lamps do while no cue is on", "Change rest"),
    )  # fmt: skip

    def build(self) -> None:
        self.cues = self.card.consequence()

    def take(self, prototype_id: str) -> None:
        """Put a ready pattern on it."""
        take_pattern(self.panel, [c.id for c in self.items()], prototype_id)

    def say(self) -> None:
        picked, states = self.items(), self.panel.assessment.effects.channels
        mine = [s for c in picked if (s := states.get(c.id)) is not None]
        full, mean = sum(s.full_a for s in mine), sum(s.mean_a for s in mine)
        lines = [f"{c.name or pattern_words(c.does)}, {when_words(c)}" for c in cues_on(self.plan, picked[0].id)]
        more = f"On average <b>{format_current(mean)}</b>, {figure(100 * mean / full if full else 0)} % of fully on."
        self.cues.setText("<br>".join([*(lines or ["Steady: no cue is on it."]), more]))


def _boards(card: PanelCard) -> list[tuple[str, str]]:
    plan, catalogue = card.plan, card.document.catalogue
    there = ((b.id, board_name(plan, b.id, catalogue)) for b in plan.boards)
    return [("", "no board"), *there, *((f"+{b.id}", f"new: {b.name}") for b in catalogue.boards.values())]


def _drive_by(plan: Plan, channels: list[Channel], board: str) -> Plan:
    """Put channels on the next free outputs of a board; ``+part`` for one more board."""
    ids = [c.id for c in channels]
    if board.startswith("+"):
        plan, board = edits.add_board(plan, board[1:])
    taken = [c.output for c in plan.channels if c.board == board and c.id not in ids]
    return edits.drive_by(plan, ids, board, max(taken, default=0) + 1)


class DrivenCard(ChannelCard):
    """What drives it."""

    title = "Driven by"
    model = Channel
    fields = (
        Field("board", "Board", Choice(_boards), "The controller whose output it is on", "Choose board", put=_drive_by),
        Field("output", "Output", whole(), "The number of its output on the board, 0 for none", "Change output"),
    )  # fmt: skip

    def build(self) -> None:
        self.flows = self.card.consequence()

    def say(self) -> None:
        self.flows.setText(self._output_words(self.first))

    def _output_words(self, channel: Channel) -> str:
        for o in outputs_of(self.plan, self.panel.assessment):
            if o.channel == channel.id and o.output:
                behind = f" through {self.document.catalogue.drives[o.stage].name}" if o.stage else ""
                wired = "" if o.wired else " In the circuit it hangs on no output yet."
                return f"{format_current(o.full_a)} of {format_current(o.limit_a)}{behind}.{wired}"
        return "What moves needs an output of a board." if cues_on(self.plan, channel.id) else ""


class ChannelLampsCard(ChannelCard):
    """Its lamps and its name."""

    title = "Lamps"
    model = Channel
    fields = (
        Field("name", "Name", Text(100), "What the channel is called everywhere", "Name channel", name="Name of the channel",
              enabled=lambda card: len(card.items()) == 1),
    )  # fmt: skip

    def build(self) -> None:
        self.lamps = self.card.consequence()
        pick = button_of("Pick its lamps", "Pick them on the plate", self._pick)
        gone = button_of("Delete the channel", "Its lamps are lit steadily then (Delete)", self._delete)
        self.card.outer.addLayout(side_by_side(pick, gone))

    def _pick(self) -> None:
        on = {c.id for c in self.items()}
        self.document.select([p.id for p in self.plan.lamps if p.channel in on])

    def _delete(self) -> None:
        ids = [c.id for c in self.items()]
        self.document.edit("Delete channel", lambda plan: edits.delete(plan, ids))

    def say(self) -> None:
        on = {c.id for c in self.items()}
        mine = [p.id for p in self.plan.lamps if p.channel in on]
        self.lamps.setText(names_of(self.plan, mine, 8) or "No lamp is on it yet.")
