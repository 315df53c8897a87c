"""The inspector's panel for a cue: what it does, when, on which channels."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QPushButton, QWidget

from gwiazda.core.assess.effect.outputs import channel_name
from gwiazda.core.assess.effect.words import KINDS, STACKS, kind_of, pattern_words, when_words
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Cue, Steps
from gwiazda.core.quantities import counted, figure, format_current, format_seconds, parse_seconds
from gwiazda.desktop.inspector.cards import Panel, clear, label
from gwiazda.desktop.stations.animate.fields import FIELDS, LONGEST_S, PatternForm, read_steps, show_steps
from gwiazda.desktop.stations.animate.intime import show_prototypes
from gwiazda.desktop.widgets.fields import ChoiceField, ValueField

STEPS = PatternForm("Steps", "moments and levels: 0: 0, 1.5: 100, 3: 40 %", read_steps, str)


class CuePanel(Panel):
    """One cue, or the first of several."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        what = self.card("What it does", "animate")
        self.kind = self.choice("Pattern", list(KINDS.items()), self._turn)
        what.row("Pattern", self.kind)
        self.ready = self.choice("Ready pattern", [], self._take_ready)
        what.row("Or", self.ready)
        holder = QWidget()
        self.grid = QGridLayout(holder)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setHorizontalSpacing(8)
        self.grid.setVerticalSpacing(5)
        self.grid.setColumnStretch(1, 1)
        self.grid.setColumnStretch(3, 1)
        what.outer.addWidget(holder)
        self.words = label("", "", wrap=True)
        what.outer.addWidget(self.words)
        self.fields: dict[str, ValueField | ChoiceField | QCheckBox] = {}
        self._fields_of = ""

        when = self.card("When", "animate")
        self.start = self.value("Starts at", partial(self._time, "Start"), lambda v: self._set("Move cue", start_s=v), "seconds from the start of the show, or after its trigger")  # fmt: skip
        self.length = self.value(
            "Lasts", partial(self._time_or_none, "Length"), self._set_length, "2 s; empty: for good"
        )
        when.row("Start", self.start)
        when.row("Length", self.length)
        self.again = self.value("Again every", partial(self._time_or_none, "Again"), lambda v: self._set("Repeat cue", again_s=v), "10 s; empty: once. It needs a length; Shift and drag its end")  # fmt: skip
        when.row("Again every", self.again)
        self.trigger = self.choice("Started by", [], self._set_trigger)
        when.row("Started by", self.trigger)
        self.stack = self.choice("Lies as", list(STACKS.items()), lambda v: self._set("Stack cue", stack=v))
        when.row("Combines as", self.stack)

        on = self.card("On channels", "animate")
        self.on = on.consequence()
        self.more = self.choice("Add a channel", [], lambda v: self._channels(v, True))
        self.less = self.choice("Take a channel out", [], lambda v: self._channels(v, False))
        on.row("Add", self.more)
        on.row("Take out", self.less)
        row = QHBoxLayout()
        self.turned = QPushButton("Turn the order")
        self.turned.setToolTip("From the last channel to the first")
        self.turned.clicked.connect(self._turn_order)
        self.gone = QPushButton("Delete the cue")
        self.gone.setToolTip("Take the cue out (Delete)")
        self.gone.clicked.connect(self._delete)
        row.addWidget(self.turned)
        row.addWidget(self.gone)
        on.outer.addLayout(row)
        self.name = self.value("Name of the cue", lambda t: t.strip()[:100], lambda v: self._set("Name cue", name=v), "what it is called on its strip")  # fmt: skip
        on.row("Name", self.name)

    def _time(self, what: str, text: str) -> float:
        return parse_seconds(text, what, 0.0, LONGEST_S)

    def _time_or_none(self, what: str, text: str) -> float | None:
        return parse_seconds(text, what, 0.001, LONGEST_S) if text.strip() else None

    def cue(self) -> Cue | None:
        """The cue that is picked."""
        return next((c for i in self.document.selection for c in self.document.plan.cues if c.id == i), None)

    def _set(self, what: str, **fields: Any) -> None:
        cue = self.cue()
        if cue is not None:
            self.document.edit(what, lambda plan: edits.set_cue(plan, cue.id, **fields))

    def _set_length(self, seconds: float | None) -> None:
        """Without a length nothing comes again."""
        self._set("Stretch cue", length_s=seconds, **({"again_s": None} if seconds is None else {}))

    def _set_field(self, field: str, value: Any) -> None:
        cue = self.cue()
        if cue is None:
            return
        fields = value if field == "at_s" else {field: value}
        name = "Steps" if field == "at_s" else FIELDS[field].name
        self.document.edit(f"Change {name.lower()}", lambda plan: edits.set_pattern(plan, cue.id, **fields))

    def _turn(self, kind: str) -> None:
        cue = self.cue()
        if cue is not None:
            self.document.edit("Change pattern", lambda plan: edits.turn_into(plan, cue.id, kind))

    def _take_ready(self, prototype_id: str) -> None:
        cue, prototype = self.cue(), self.document.catalogue.prototypes.get(prototype_id)
        if cue is not None and prototype is not None:
            does = edits.ready(prototype.does)
            self.document.edit(f"Play {prototype.name}", lambda plan: edits.set_cue(plan, cue.id, does=does))

    def _set_trigger(self, trigger: str) -> None:
        cue = self.cue()
        if cue is None:
            return
        if trigger in ("button", "magnet"):

            def change(plan):  # type: ignore[no-untyped-def]
                plan, new_id = edits.add_trigger(plan, trigger.capitalize(), trigger)
                plan = edits.set_trigger(plan, new_id, at_s=(2.0,))
                return edits.set_cue(plan, cue.id, trigger=new_id, again_s=None)

            self.document.edit("A trigger", change)
        else:
            fields: dict[str, Any] = {"trigger": trigger, **({"again_s": None} if trigger else {})}
            self._set("Choose trigger", **fields)

    def _channels(self, channel: str, add: bool) -> None:
        cue = self.cue()
        if cue is None or not channel:
            return
        new = (*cue.channels, channel) if add else tuple(c for c in cue.channels if c != channel)
        if not new:
            self.document.message_stop("A cue is on one channel at least. Delete the cue instead.")
            return
        self._set("Change channels", channels=new)

    def _turn_order(self) -> None:
        cue = self.cue()
        if cue is not None:
            self._set("Turn the order", channels=tuple(reversed(cue.channels)))

    def _delete(self) -> None:
        cue = self.cue()
        if cue is not None:
            self.document.edit("Delete cue", lambda plan: edits.delete(plan, [cue.id]))

    # -- showing ------------------------------------------------------------------------------------------

    def _build_fields(self, cue: Cue) -> None:
        """Fields of the pattern: made anew when it is another."""
        kind = kind_of(cue.does)
        if kind == self._fields_of:
            return
        self._fields_of = kind
        clear(self.grid)
        self.fields = {}
        names = [n for n in cue.does.__struct_fields__ if n != "levels"]
        for k, name in enumerate(names):
            entry = STEPS if name == "at_s" else FIELDS[name]
            field: ValueField | ChoiceField | QCheckBox
            if entry.is_flag:
                field = QCheckBox(entry.name.lower())
                field.setAccessibleName(entry.name)
                field.setToolTip(entry.hint)
                field.clicked.connect(lambda on, n=name: self._set_field(n, bool(on)))
            elif entry.choices:
                field = self.choice(entry.name, entry.choices, partial(self._set_field, name))
                field.setToolTip(entry.hint)
                field.setMinimumContentsLength(3)
            else:
                field = self.value(entry.name, entry.read, partial(self._set_field, name), entry.hint)
            line, side = (k, 0) if name in ("ohms", "at_s", "what") else (k // 2, 2 * (k % 2))
            if name in ("ohms", "at_s", "what"):
                self.grid.addWidget(label(entry.name, "muted"), line, 0)
                self.grid.addWidget(field, line, 1, 1, 3)
            else:
                self.grid.addWidget(label("" if entry.is_flag else entry.name, "muted"), line, side)
                self.grid.addWidget(field, line, side + 1)
            self.fields[name] = field

    def refresh(self) -> None:
        cue, plan = self.cue(), self.plan
        if cue is None:
            return
        self.heading.setText(cue.name or pattern_words(cue.does).capitalize())
        self.about.setText(f"Cue, {when_words(cue)}, on {counted(len(cue.channels), 'channel')}")
        self._build_fields(cue)
        self.kind.show_value(kind_of(cue.does))
        show_prototypes(self.ready, self.document.catalogue, plan.kit.kind)
        for name, field in self.fields.items():
            if name == "at_s" and isinstance(cue.does, Steps) and isinstance(field, ValueField):
                field.show_value(show_steps(cue.does))
                continue
            value = getattr(cue.does, name)
            if isinstance(field, QCheckBox):
                field.setChecked(bool(value))
            elif isinstance(field, ChoiceField):
                field.show_value(value)
            else:
                field.show_value(FIELDS[name].show(value))
        self.words.setText(self._outcome(cue))
        self.start.show_value(format_seconds(cue.start_s))
        self.length.show_value(format_seconds(cue.length_s) if cue.length_s is not None else "")
        self.length.setPlaceholderText("for good")
        self.again.show_value(format_seconds(cue.again_s) if cue.again_s is not None else "")
        self.again.setPlaceholderText("once" if cue.length_s is not None else "needs a length")
        self.stack.show_value(cue.stack)
        self.name.show_value(cue.name)
        self.on.setText(
            ", ".join(channel_name(plan, c) for c in cue.channels[:12]) + (" …" if len(cue.channels) > 12 else "")
        )
        self._offer(self.trigger, [("", "the clock"), *((t.id, t.name or t.id) for t in plan.triggers), ("button", "a new button"), ("magnet", "a new magnet and reed")])  # fmt: skip
        self.trigger.show_value(cue.trigger)
        self._offer(
            self.more, [("", "choose"), *((c.id, c.name or c.id) for c in plan.channels if c.id not in cue.channels)]
        )
        self._offer(self.less, [("", "choose"), *((c, channel_name(plan, c)) for c in cue.channels)])
        self.turned.setEnabled(len(cue.channels) > 1)

    def _offer(self, field: ChoiceField, entries: list[tuple[str, str]]) -> None:
        if [(field.itemData(i), field.itemText(i)) for i in range(field.count())] != entries:
            field.clear()
            for value, words in entries:
                field.addItem(words, value)
        field.setCurrentIndex(0)

    def _outcome(self, cue: Cue) -> str:
        """What comes of it: light and current on average."""
        states = [s for c in cue.channels if (s := self.assessment.effects.channels.get(c)) is not None]
        full, mean = sum(s.full_a for s in states), sum(s.mean_a for s in states)
        if not full:
            return "No lamp is on its channels yet."
        light = sum(s.light * s.full_a for s in states) / full
        return (
            f"On average <b>{format_current(mean)}</b> of {format_current(full)}, "
            f"{figure(light * 100)} % of the light, over an hour."
        )
