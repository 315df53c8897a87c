"""What lamps do in time, on the card of a lamp or dot: their channel, and ready patterns for it."""

from __future__ import annotations

from collections.abc import Sequence

from gwiazda.core.assess.show.outputs import cues_on
from gwiazda.core.assess.show.words import pattern_words
from gwiazda.core.parts.catalogue import Catalogue, Prototype
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import channel_name
from gwiazda.core.quantities import figure, format_current
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice
from gwiazda.desktop.panels.panel import Panel, PanelCard, button_of, side_by_side


def prototypes_for(catalogue: Catalogue, kind: str) -> list[Prototype]:
    """Ready patterns, those of a kind of kit first."""
    return sorted(catalogue.prototypes.values(), key=lambda p: (p.kind != kind, p.kind != "", p.kind))


def prototype_entries(card: PanelCard) -> list[tuple[str, str]]:
    """Entries of a choice of ready patterns, under a first one that stands for none."""
    ready = prototypes_for(card.document.catalogue, card.plan.kit.kind)
    return [("", "choose a ready pattern"), *((p.id, p.name) for p in ready)]


def take_pattern(panel: Panel, ids: Sequence[str], prototype_id: str) -> None:
    """Put a ready pattern on what is picked, and pick its cue."""
    document = panel.document
    if not prototype_id:
        return
    prototype = document.catalogue.prototypes[prototype_id]
    made: list[str] = []

    def change(plan: Plan) -> Plan:
        plan, new_id = edits.play(plan, ids, prototype.does, prototype.name)
        made.append(new_id)
        return plan

    if document.edit(f"Play {prototype.name[0].lower()}{prototype.name[1:]}", change):
        document.select(made)


class InTimeCard(PanelCard):
    """Channel of the lamps picked, and a pattern for them."""

    title = "In time"
    fields = (
        Field("pattern", "Pattern", Choice(prototype_entries), "A ready pattern put on them", name="Ready pattern", takes=lambda card, v: card.take(v)),
    )  # fmt: skip

    def build(self) -> None:
        card = self.card
        self.one = button_of("One channel", "All of them do the same at the same time", self._one)
        self.each = button_of(
            "A channel each", "Each by itself, in the order picked: for chases and start-ups", self._each
        )
        card.outer.addLayout(side_by_side(self.one, self.each))
        self.words = card.consequence()

    def _ids(self) -> list[str]:
        return list(self.document.selection)

    def take(self, prototype_id: str) -> None:
        """Put a ready pattern on what is picked."""
        take_pattern(self.panel, self._ids(), prototype_id)

    def _one(self) -> None:
        ids, made = self._ids(), list[str]()

        def change(plan: Plan) -> Plan:
            plan, new_id = edits.add_channel(plan, edits.fresh_ids(plan, "channel")[0], ids)
            made.append(new_id)
            return plan

        if self.document.edit("One channel", change):
            self.document.select(made)

    def _each(self) -> None:
        ids, made = self._ids(), list[str]()

        def change(plan: Plan) -> Plan:
            plan, new = edits.channel_each(plan, ids, "channel")
            made.extend(new)
            return plan

        if self.document.edit("A channel each", change):
            self.document.select(made)

    def say(self) -> None:
        plan = self.document.plan
        lamps = edits.lamps_of(plan, self.document.selection)
        self.one.setEnabled(bool(lamps))
        self.each.setEnabled(len(lamps) > 1)
        parts = self.document.catalogue.lamps
        own = {
            p.channel: f"flashes by itself, {figure(parts[p.part].flash_hz)} Hz"
            for p in plan.lamps
            if p.part in parts and parts[p.part].flash_hz
        }
        on = dict.fromkeys(p.channel for p in plan.lamps if p.id in set(lamps))
        lines = []
        for channel in list(on)[:3]:
            if not channel:
                lines.append(f"On no channel: {own.get('', 'steady, as wired')}.")
                continue
            does = "; ".join(pattern_words(c.does) for c in cues_on(plan, channel))
            does = "; ".join(x for x in (does, own.get(channel, "")) if x) or "steady"
            state = self.panel.assessment.effects.channels.get(channel)
            amps = f", {format_current(state.mean_a)} on average" if state is not None and state.full_a else ""
            lines.append(f"<b>{channel_name(plan, channel)}</b>: {does}{amps}.")
        if len(on) > 3:
            lines.append(f"and {len(on) - 3} more channels")
        self.words.setText("<br>".join(lines))
