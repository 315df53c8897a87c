"""Cues picked: what they do, when, on which channels."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QLabel, QWidget

from gwiazda.core.assess.show.words import KINDS, STACKS, kind_of, pattern_words, when_words
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Cue, Plan
from gwiazda.core.plan.naming import channel_name, name_of
from gwiazda.core.quantities import counted, figure, format_current, format_seconds, parse_seconds
from gwiazda.desktop.forms.form import Field, Form
from gwiazda.desktop.forms.kinds import Choice, Quantity, Text
from gwiazda.desktop.panels.panel import Card, Panel, PanelCard, button_of, clear, side_by_side
from gwiazda.desktop.stations.animate.fields import FIELDS, LONGEST_S
from gwiazda.desktop.stations.animate.intime import prototype_entries


def heading(panel: Panel) -> tuple[str, str]:
    cue: Cue = panel.items()[0]
    about = f"Cue, {when_words(cue)}, on {counted(len(cue.channels), 'channel')}"
    return cue.name or pattern_words(cue.does).capitalize(), about


class CueCard(PanelCard):
    """One card of a cue, or of the first of several."""

    model = Cue

    def items(self) -> list[Any]:
        return self.panel.items()[:1]

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return edits.set_cue(plan, items[0].id, **fields)


class _Pattern:
    """Whose fields the form of a pattern shows: what the cue does."""

    def __init__(self, card: CueCard) -> None:
        self.card, self.document = card, card.document

    def items(self) -> list[Any]:
        return [cue.does for cue in self.card.items()]


class CueDoesCard(CueCard):
    """What it does: the pattern and its fields."""

    title = "What it does"
    fields = (
        Field("kind", "Pattern", Choice(list(KINDS.items())), "What its light does in time", "Change pattern", get=lambda cue: kind_of(cue.does),
              put=lambda plan, items, kind: edits.turn_into(plan, items[0].id, kind)),
        Field("ready", "Or", Choice(prototype_entries), "One that is ready, with all its figures", name="Ready pattern", takes=lambda card, v: card.take_ready(v)),
    )  # fmt: skip

    def build(self) -> None:
        self._holder = Card("")
        self._holder.setObjectName("")
        frame = self._holder.layout()
        if frame is not None:
            frame.setContentsMargins(0, 0, 0, 0)
        self.card.outer.addWidget(self._holder)
        self.pattern: Form | None = None
        self._fields_of = ""
        self.words = self.card.consequence()

    def take_ready(self, prototype_id: str) -> None:
        """Have it do what a ready pattern does."""
        cue, prototype = self.first, self.document.catalogue.prototypes.get(prototype_id)
        if prototype is not None:
            does = edits.ready(prototype.does)
            self.document.edit(f"Play {prototype.name}", lambda plan: edits.set_cue(plan, cue.id, does=does))

    def _set_pattern(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        # Steps are read as moments and levels at once.
        steps = fields.get("at_s")
        return edits.set_pattern(plan, self.first.id, **(steps if steps is not None else fields))

    def _row(self, name: str, widget: QWidget) -> tuple[QLabel, QWidget]:
        return self._holder.row(name, widget)

    def say(self) -> None:
        cue: Cue = self.first
        kind = kind_of(cue.does)
        if kind != self._fields_of:
            self._fields_of = kind
            clear(self._holder.grid)
            fields = [FIELDS[n] for n in cue.does.__struct_fields__ if n != "levels"]
            self.pattern = Form(_Pattern(self), fields, self._row, write=self._set_pattern)
        assert self.pattern is not None
        self.pattern.show()
        self.form.chosen("ready").setCurrentIndex(0)
        self.words.setText(self._outcome(cue))

    def _outcome(self, cue: Cue) -> str:
        """What comes of it: light and current on average."""
        states = [s for c in cue.channels if (s := self.panel.assessment.effects.channels.get(c)) is not None]
        full, mean = sum(s.full_a for s in states), sum(s.mean_a for s in states)
        if not full:
            return "No lamp is on its channels yet."
        light = sum(s.light * s.full_a for s in states) / full
        return (
            f"On average <b>{format_current(mean)}</b> of {format_current(full)}, "
            f"{figure(light * 100)} % of the light, over an hour."
        )


def _seconds(what: str, low: float, none: bool = False) -> Quantity:
    """A time; where ``none`` may be, an empty field is none."""
    return Quantity(
        lambda t: None if none and not t.strip() else parse_seconds(t, what, low, LONGEST_S), format_seconds
    )


def _triggers(card: PanelCard) -> list[tuple[str, str]]:
    there = ((t.id, name_of(card.plan, t.id)) for t in card.plan.triggers)
    return [("", "the clock"), *there, ("button", "a new button"), ("magnet", "a new magnet and reed")]


def _start_by(plan: Plan, items: list[Cue], trigger: str) -> Plan:
    """Let a trigger start a cue, or the clock again; ``button`` and ``magnet`` make a new one."""
    cue = items[0].id
    if trigger in ("button", "magnet"):
        plan, new_id = edits.add_trigger(plan, trigger.capitalize(), trigger)
        plan = edits.set_trigger(plan, new_id, at_s=(2.0,))
        return edits.set_cue(plan, cue, trigger=new_id, again_s=None)
    return edits.set_cue(plan, cue, trigger=trigger, **({"again_s": None} if trigger else {}))


class CueWhenCard(CueCard):
    """When it comes."""

    title = "When"
    fields = (
        Field("start_s", "Start", _seconds("Start", 0.0), "From the start of the show, or after its trigger", "Move cue", name="Starts at"),
        Field("length_s", "Length", _seconds("Length", 0.001, none=True), "2 s; empty: for good", "Stretch cue", name="Lasts",
              # Without a length nothing comes again.
              put=lambda plan, items, v: edits.set_cue(plan, items[0].id, length_s=v, **({"again_s": None} if v is None else {}))),
        Field("again_s", "Again every", _seconds("Again", 0.001, none=True), "10 s; empty: once. It needs a length; Shift and drag its end", "Repeat cue"),
        Field("trigger", "Started by", Choice(_triggers), "The clock of the show, a button or a magnet", "Choose trigger", put=_start_by),
        Field("stack", "Combines as", Choice(list(STACKS.items())), "What it does with cues that are on at the same time", "Stack cue", name="Lies as"),
    )  # fmt: skip

    def say(self) -> None:
        self.form.typed("length_s").setPlaceholderText("for good")
        self.form.typed("again_s").setPlaceholderText("once" if self.first.length_s is not None else "needs a length")


class CueChannelsCard(CueCard):
    """On which channels it is."""

    title = "On channels"
    fields = (
        Field("more", "Add", Choice(lambda card: [
                  ("", "choose"), *((c.id, channel_name(card.plan, c.id)) for c in card.plan.channels if c.id not in card.first.channels)
              ]), "One channel more, behind the others", name="Add a channel", takes=lambda card, v: card.take(v, True)),
        Field("less", "Take out", Choice(lambda card: [("", "choose"), *((c, channel_name(card.plan, c)) for c in card.first.channels)]),
              "One channel less", name="Take a channel out", takes=lambda card, v: card.take(v, False)),
        Field("name", "Name", Text(100), "What it is called on its strip", "Name cue", name="Name of the cue"),
    )  # fmt: skip

    def build(self) -> None:
        self.on = self.card.consequence()
        self.turned = button_of("Turn the order", "From the last channel to the first", self._turn_order)
        gone = button_of("Delete the cue", "Take the cue out (Delete)", self._delete)
        self.card.outer.addLayout(side_by_side(self.turned, gone))

    def take(self, channel: str, add: bool) -> None:
        """One channel more or less."""
        cue: Cue = self.first
        if not channel:
            return
        new = (*cue.channels, channel) if add else tuple(c for c in cue.channels if c != channel)
        if not new:
            self.document.message_stop("A cue is on one channel at least. Delete the cue instead.")
            return
        self.set("Change channels", channels=new)

    def _turn_order(self) -> None:
        self.set("Turn the order", channels=tuple(reversed(self.first.channels)))

    def _delete(self) -> None:
        cue = self.first
        self.document.edit("Delete cue", lambda plan: edits.delete(plan, [cue.id]))

    def say(self) -> None:
        cue: Cue = self.first
        for path in ("more", "less"):
            self.form.chosen(path).setCurrentIndex(0)
        names = ", ".join(channel_name(self.plan, c) for c in cue.channels[:12])
        self.on.setText(names + (" …" if len(cue.channels) > 12 else ""))
        self.turned.setEnabled(len(cue.channels) > 1)
