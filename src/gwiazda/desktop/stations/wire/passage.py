"""The inspector's panel for a passage."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout

from gwiazda.core.plan.model import Passage
from gwiazda.core.quantities import counted, parse_number
from gwiazda.desktop.inspector.cards import common
from gwiazda.desktop.inspector.items_panel import ItemsPanel
from gwiazda.desktop.inspector.reading import read_size

MAKES = ("as it is", "drill", "file", "notch", "channel")


class PassagePanel(ItemsPanel[Passage]):
    """One or several passages: what they join, their size, how they are made, what is in them."""

    kind = Passage

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        self._size_card()
        self._made_card()
        wires = self.card("What goes through", "wire")
        self.list = QVBoxLayout()
        self.list.setSpacing(2)
        wires.outer.addLayout(self.list)
        self.tags = wires.consequence()
        self.place_card("measure")

    def _size_card(self) -> None:
        """From where to where, and how wide."""
        card = self.card("Passage", "wire")
        self.name = self.value(
            "Name", lambda t: t.strip()[:100], lambda v: self._set("Name the passage", name=v), "keel tube, mast foot"
        )
        card.row("Name", self.name)
        self.start = self.choice("From", [("", "")], lambda v: self._set("Lead from", section=v))
        card.row("From", self.start)
        self.into = self.choice("Into", [("", "out of the kit")], lambda v: self._set("Lead into", into=v))
        card.row("Into", self.into)
        self.shape = self.choice(
            "Shape", [("round", "round"), ("rect", "rectangle")], lambda v: self._set("Change shape", shape=v)
        )
        self.wide = self.value(
            "Width",
            read_size,
            lambda v: self._set("Change size", width_mm=v),
            "clear width, or the bore where it is round",
        )
        self.high = self.value("Height", read_size, lambda v: self._set("Change size", height_mm=v), "clear height")
        card.row("Shape", self.shape, self.wide, self.high)
        for field in (self.wide, self.high):
            field.setMaximumWidth(52)
        self.long = self.value(
            "Length",
            lambda t: parse_number(t, "Length", 0, 10000, "mm"),
            lambda v: self._set("Change length", length_mm=v),
            "mm along it",
        )
        self.look = self.choice(
            "How it looks", [("hidden", "hidden"), ("seen", "seen"), ("dressed", "dressed as a hose")], lambda v: self._set("Change its look", look=v)
        )  # fmt: skip
        card.row("Length, mm", self.long, self.look)
        self.long.setMaximumWidth(64)
        self.words = card.consequence()

    def _made_card(self) -> None:
        """Filed, drilled or as it is; what covers it; whether it swings."""
        made = self.card("How it is made", "wire")
        self.make = self.choice("Made", [(m, m) for m in MAKES], lambda v: self._set("Change how it is made", make=v))
        made.row("Made", self.make)
        self.take = self.value(
            "Taken off",
            lambda t: parse_number(t, "Taken off", 0, 100, "mm"),
            lambda v: self._set("Take off", take_mm=v),
            "how much is filed off the wall, mm",
        )
        self.wall = self.value(
            "Of a wall of",
            lambda t: parse_number(t, "Wall", 0, 100, "mm"),
            lambda v: self._set("Change the wall", wall_mm=v),
            "how thick the wall is there, mm",
        )
        made.row("Cut from wall", self.take)
        made.row("Wall", self.wall)
        coats = [("", "nothing"), *((x.id, x.name) for x in self.document.catalogue.coats.values())]
        self.cover = self.choice("Covered by", coats, lambda v: self._set("Cover the channel", cover=v))
        self.cover.setToolTip(
            "What is laid over a channel from inside, so that no light gets out through the thin wall"
        )
        made.row("Covered by", self.cover)
        self.joint = self.choice(
            "Joint", [("fixed", "fixed"), ("hinge", "swings")], lambda v: self._set("Change the joint", joint=v)
        )
        self.slack = self.value(
            "Slack",
            lambda t: parse_number(t, "Slack", 0, 1000, "mm"),
            lambda v: self._set("Change slack", slack_mm=v),
            "mm at each end of the swing",
        )
        made.row("Joint", self.joint)
        made.row("Slack", self.slack)
        self.slack.setMaximumWidth(64)
        self.connector = self.value(
            "Connector",
            lambda t: t.strip()[:80] or None,
            lambda v: self._set("Change the connector", connector=v),
            "6-pin header, where its sections part",
        )
        made.row("Connector", self.connector)

    def refresh(self) -> None:
        here = self.items()
        if not here:
            return
        first = here[0]
        names = {s.id: s.name for s in self.plan.sections}
        self.heading.setText((first.name or first.id) if len(here) == 1 else counted(len(here), "passage"))
        self.about.setText(f"{names.get(first.section, first.section)} to {names.get(first.into, 'the outside')}")
        for choice, none in ((self.start, None), (self.into, "out of the kit")):
            entries = [*((("", none),) if none else ()), *names.items()]
            if [choice.itemData(i) for i in range(choice.count())] != [i for i, _ in entries]:
                choice.clear()
                for value, words in entries:
                    choice.addItem(words, value)
        for field, values in (
            (self.start, [p.section for p in here]), (self.into, [p.into for p in here]), (self.shape, [p.shape for p in here]),
            (self.look, [p.look for p in here]), (self.cover, [p.cover for p in here]), (self.make, [p.make for p in here]), (self.joint, [p.joint for p in here]),
        ):  # fmt: skip
            value = common(values)
            field.show_value(str(value) if value is not None else "several")
        for number, amounts in (
            (self.wide, [p.width_mm for p in here]), (self.high, [p.height_mm for p in here]), (self.long, [p.length_mm for p in here]),
            (self.take, [p.take_mm for p in here]), (self.wall, [p.wall_mm for p in here]), (self.slack, [p.slack_mm for p in here]),
        ):  # fmt: skip
            amount = common(amounts)
            number.show_value(f"{amount:g}" if amount is not None else "")
        self.high.setEnabled(first.shape == "rect")
        self.cover.setEnabled(all(p.make == "channel" for p in here))
        self.name.show_value(str(common([p.name for p in here]) or ""))
        self.connector.show_value(str(common([p.connector or "" for p in here]) or ""))
        self.show_place(here)
        self._say(first)

    def _say(self, first: Passage) -> None:
        loom = self.assessment.loom
        state = loom.passages.get(first.id)
        if state is None or not state.runs:
            self.words.setText("Nothing goes through it yet.")
            self.tags.setText("")
            return
        left = f" {state.wall_left_mm:.1f} mm of the wall are left." if state.wall_left_mm is not None else ""
        lie = "They lie in it as drawn." if state.fits else "They don’t go in: some lie over one another as drawn."
        self.words.setText(
            f"<b>{counted(len(state.runs), 'wire')}, {state.fill * 100:.0f} % full</b>; {state.comfortable * 100:.0f} % goes in with ease, "
            f"60 % at most. {lie}{left}"
        )
        runs = [loom.runs[i] for i in state.runs]
        tags = [r.tag for r in runs if r.tag]
        fibres = sum(1 for r in runs if r.kind == "fibre")
        trunks = sum(1 for r in runs if r.kind == "trunk")
        plus = sum(1 for r in runs if r.end == "plus")
        minus = sum(1 for r in runs if r.end == "minus")
        text = (
            f"{plus} plus, {minus} minus"
            + (f", {trunks} of them trunks" if trunks else "")
            + (f", {fibres} fibres" if fibres else "")
        )
        self.tags.setText(f"{text}. Tags: {', '.join(tags[:40])}{' …' if len(tags) > 40 else ''}")
