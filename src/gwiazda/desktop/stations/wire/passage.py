"""Passages picked: what they join, their size, how they are made, what is in them."""

from __future__ import annotations

from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Passage
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted
from gwiazda.desktop.forms.common import name_field, parts, place_fields, sections
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Text, fixed, millimetres
from gwiazda.desktop.panels.panel import Panel, PanelCard

SHAPES = (("round", "round"), ("rect", "rectangle"))
LOOKS = (("hidden", "hidden"), ("seen", "seen"), ("dressed", "dressed as a hose"))


def heading(panel: Panel) -> tuple[str, str]:
    here: list[Passage] = panel.items()
    first, names = here[0], {s.id: s.name for s in panel.plan.sections}
    name = name_of(panel.plan, first.id) if len(here) == 1 else counted(len(here), "passage")
    return name, f"{names.get(first.section, first.section)} to {names.get(first.into, 'the outside')}"


class PassageCard(PanelCard):
    """From where to where, and how wide."""

    title = "Passage"
    model = Passage
    fields = (
        name_field("passage", "keel tube, mast foot"),
        Field("section", "From", Choice(sections()), "The section it begins in", "Lead from"),
        Field("into", "Into", Choice(sections(("", "out of the kit"))), "The section it leads to", "Lead into"),
        Field("shape", "Shape", Choice(SHAPES), "The form of its hole", "Change shape"),
        Field("width_mm", "Clear width", millimetres(), "Clear width, or the bore where it is round", "Change size", name="Width"),
        Field("height_mm", "Clear height", millimetres(), "Clear height where it isn’t round", "Change size", shown=lambda card: card.first.shape == "rect"),
        Field("length_mm", "Length", millimetres(), "How long the way through it is", "Change length", enabled=lambda card: all(p.tube is None for p in card.items())),
        Field("look", "Wires look", Choice(LOOKS), "Whether its wires are seen, hidden, or dressed as a hose", "Change its look", name="How it looks"),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()
        self.stand = self.button(
            "Make a stand of it", "A tube between the two parts that its wires go through", self._make
        )

    def _make(self) -> None:
        passage = self.first.id
        self.document.edit("Make a stand", lambda plan: edits.make_stand(plan, passage))

    def say(self) -> None:
        self.stand.setVisible(self.first.tube is None and bool(self.first.into))
        state = self.panel.assessment.loom.passages.get(self.first.id)
        if state is None or not state.runs:
            self.words.setText("Nothing goes through it yet.")
            return
        left = f" {state.wall_left_mm:.1f} mm of the wall are left." if state.wall_left_mm is not None else ""
        lie = "They lie in it as drawn." if state.fits else "They don’t go in: some lie over one another as drawn."
        self.words.setText(
            f"<b>{counted(len(state.runs), 'wire')}, {state.fill * 100:.0f} % full</b>; {state.comfortable * 100:.0f} % goes in with ease, "
            f"60 % at most. {lie}{left}"
        )


class PassageMadeCard(PanelCard):
    """Filed, drilled or as it is; what covers it; whether it swings."""

    title = "How it is made"
    model = Passage
    fields = (
        Field("make", "Made", Choice((*fixed("as it is", "drill", "file", "notch"), ("channel", "groove"))), "How the hole is made", "Change how it is made"),
        Field("take_mm", "Cut from wall", millimetres(), "How much is filed off the wall", "Take off", name="Taken off"),
        Field("wall_mm", "Wall", millimetres(), "How thick the wall is there", "Change the wall", name="Of a wall of"),
        Field("cover", "Covered by", Choice(parts("coats", ("", "nothing"))),
              "What is laid over a groove from inside, so that no light gets out through the thin wall", "Cover the groove",
              enabled=lambda card: all(p.make == "channel" for p in card.items())),
        Field("joint", "Joint", Choice((("fixed", "fixed"), ("hinge", "swings"))), "Whether the parts it joins swing", "Change the joint"),
        Field("slack_mm", "Slack", millimetres(), "More wire at each end of the swing", "Change slack"),
        Field("connector", "Connector", Text(80, placeholder="6-pin header"), "Where its sections part: 6-pin header", "Change the connector",
              put=lambda plan, items, v: edits.set_fields(plan, [p.id for p in items], connector=v or None)),
    )  # fmt: skip


class ThroughCard(PanelCard):
    """What goes through it."""

    title = "What goes through"

    def build(self) -> None:
        self.tags = self.card.consequence()

    def say(self) -> None:
        loom = self.panel.assessment.loom
        state = loom.passages.get(self.first.id)
        self.card.setVisible(state is not None and bool(state.runs))
        if state is None or not state.runs:
            return
        runs = [loom.runs[i] for i in state.runs]
        tags = [r.tag for r in runs if r.tag]
        fibres = sum(1 for r in runs if r.kind == "fibre")
        trunks = sum(1 for r in runs if r.kind == "trunk")
        plus = sum(1 for r in runs if r.end == "plus")
        minus = sum(1 for r in runs if r.end == "minus")
        more = (f", {trunks} of them trunks" if trunks else "") + (f", {fibres} fibres" if fibres else "")
        self.tags.setText(
            f"{plus} plus, {minus} minus{more}. Tags: {', '.join(tags[:40])}{' …' if len(tags) > 40 else ''}"
        )


class PassagePlaceCard(PanelCard):
    """Where it is."""

    title = "Place"
    model = Passage
    fields = place_fields()
