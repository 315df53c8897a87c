"""The card of a lamp's leads: their wire and tags, the passages they go through, their lengths."""

from __future__ import annotations

from gwiazda.core.assess.states import WireRun
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Lamp, Lead
from gwiazda.core.quantities import counted
from gwiazda.desktop.forms.common import parts
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice
from gwiazda.desktop.panels.panel import PanelCard, button_of, common, side_by_side

COLOURS = ("", "red", "black", "white", "yellow", "green", "blue", "brown", "grey", "copper")
ENDS = ("plus", "minus")


def _decided(card: LeadCard, ends: tuple[str, ...]) -> list[Lead | None]:
    known: dict[tuple[str, str], Lead] = {(x.lamp, x.end): x for x in card.plan.leads}
    return [known.get((p.id, end)) for p in card.items() for end in ends]


def _colour_field(end: str) -> Field:
    return Field(
        f"colour.{end}", f"{end.capitalize()} colour", Choice([(c, c or "usual") for c in COLOURS]), f"The colour of its {end} lead",
        name=f"Colour of the {end} lead", takes=lambda card, v: card.change("Colour a lead", (end,), colour=v),
    )  # fmt: skip


class LeadCard(PanelCard):
    """What is decided of the leads of the lamps at hand."""

    title = "Leads"
    extra = True
    fields = (
        Field("wire", "Wire", Choice(parts("wires", ("", "the usual one"))), "What its leads are made of", name="Wire of its leads",
              takes=lambda card, v: card.change("Change the wire", ENDS, wire=v or None)),
        *(_colour_field(end) for end in ENDS),
    )  # fmt: skip

    def build(self) -> None:
        self.free = button_of(
            "Led by the loom", "Let the loom lead them again: forget passages and places chosen by hand (Z leads them by hand)",
            lambda: self.change("Let the loom lead them", ENDS, through=(), way=()),
        )  # fmt: skip
        tuck = button_of("Tuck them", "Clear of the panes, along the middle, the roof or the floor", self._tuck)
        self.card.outer.addLayout(side_by_side(self.free, tuck))
        self.words = self.card.consequence()

    def change(self, what: str, ends: tuple[str, ...], **fields: object) -> None:
        """Decide something of the leads."""
        ids = [p.id for p in self.items()]
        self.document.edit(what, lambda plan: edits.set_lead(plan, ids, ends, **fields))

    def _tuck(self) -> None:
        from gwiazda.core.assess.looms.tuck import tucked

        ids = [p.id for p in self.items()]
        assessment, catalogue = self.document.assessment, self.document.catalogue
        self.document.edit("Tuck wires", lambda plan: tucked(catalogue, plan, assessment, ids))

    def runs(self, lamp_id: str) -> list[WireRun]:
        """The leads that a lamp itself has."""
        runs = self.panel.assessment.loom.runs
        return [runs[i] for i in (f"{lamp_id}.plus", f"{lamp_id}.minus") if i in runs]

    def refresh(self) -> None:
        lamps: list[Lamp] = self.items()
        loom = self.panel.assessment.loom
        self.card.setVisible(bool(lamps) and bool(loom.passages))
        if not lamps or not loom.passages:
            return
        mine = _decided(self, ENDS)
        ids = [p.id for p in lamps]
        wire = common([(x.wire or "") if x else "" for x in mine])
        self.form.chosen("wire").show_value(str(wire) if wire is not None else "several")
        for end in ENDS:
            colour = common([x.colour if x else "" for x in _decided(self, (end,))])
            self.form.chosen(f"colour.{end}").show_value(str(colour) if colour is not None else "several")
        self.free.setEnabled(any(x is not None and (x.through or x.way) for x in mine))
        names = {p.id: p.name or p.id for p in self.panel.plan.passages}
        runs = self.runs(ids[0])
        if len(ids) > 1 or not runs:
            every = [r for i in ids for r in self.runs(i)]
            metres = sum(r.cut_mm for r in every) / 1000.0
            self.words.setText(
                f"{counted(len(every), 'lead')}, {metres:.2f} m to cut."
                if every
                else "Its leads are those of the string it hangs in."
            )
            return
        first = runs[0]
        if first.through is None:
            self.words.setText("No passage leads from here to its source.")
            return
        by = ", ".join(names[i] for i in first.through) or "no passage: its source is in the same section"
        cut = (
            "The leads it comes with reach"
            if not any(r.cut_mm for r in runs)
            else "Cut " + " and ".join(f"{r.tag} {r.cut_words}" for r in runs if r.cut_mm)
        )
        self.words.setText(f"Through {by}. {cut}; {2e3 * first.ohm * first.current_a:.2g} mV go lost there and back.")
