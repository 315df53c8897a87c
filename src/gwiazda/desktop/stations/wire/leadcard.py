"""The card of a lamp's leads: their wire and tags, the passages they go through, their lengths."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy

from gwiazda.core.assess.states import WireRun
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Lamp, Lead
from gwiazda.core.quantities import counted
from gwiazda.desktop.inspector.cards import Panel, common

COLOURS = ("", "red", "black", "white", "yellow", "green", "blue", "brown", "grey", "copper")
ENDS = ("plus", "minus")


class LeadCard:
    """What is decided of the leads of the lamps at hand."""

    def __init__(self, panel: Panel) -> None:
        self.panel, self.document = panel, panel.document
        self.card = panel.card("Leads", "wire")
        wires = [("", "the usual one"), *((w.id, w.name) for w in self.document.catalogue.wires.values())]
        self.wire = panel.choice(
            "Wire of its leads", wires, lambda v: self._set("Change the wire", ENDS, wire=v or None)
        )
        self.card.row("Wire", self.wire)
        self.colours = {
            end: panel.choice(f"Colour of the {end} lead", [(c, c or "usual") for c in COLOURS], lambda v, e=end: self._set("Colour a lead", (e,), colour=v))
            for end in ENDS
        }  # fmt: skip
        for name, field in zip(("Plus colour", "Minus colour"), self.colours.values(), strict=True):
            self.card.row(name, field)
        row = QHBoxLayout()
        self.free = QPushButton("Let the loom lead them")
        self.free.setToolTip("Forget passages and places chosen by hand (Z leads them by hand)")
        self.free.clicked.connect(lambda: self._set("Let the loom lead them", ENDS, through=(), way=()))
        self.tuck = QPushButton("Tuck them")
        self.tuck.setToolTip("Clear of the panes, along the middle, the roof or the floor")
        self.tuck.clicked.connect(self._tuck)
        for button in (self.free, self.tuck):
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            row.addWidget(button)
        self.card.outer.addLayout(row)
        self.words = self.card.consequence()

    def lamps(self) -> list[Lamp]:
        return [i for i in self.document.selected_items() if isinstance(i, Lamp)]

    def _set(self, what: str, ends: tuple[str, ...], **fields: object) -> None:
        ids = [p.id for p in self.lamps()]
        self.document.edit(what, lambda plan: edits.set_lead(plan, ids, ends, **fields))

    def _tuck(self) -> None:
        from gwiazda.core.assess.loom.tuck import tucked

        ids = [p.id for p in self.lamps()]
        assessment, catalogue = self.document.assessment, self.document.catalogue
        self.document.edit("Tuck wires", lambda plan: tucked(catalogue, plan, assessment, ids))

    def runs(self, lamp_id: str) -> list[WireRun]:
        """The leads that a lamp itself has."""
        runs = self.panel.assessment.loom.runs
        return [runs[i] for i in (f"{lamp_id}.plus", f"{lamp_id}.minus") if i in runs]

    def refresh(self) -> None:
        lamps = self.lamps()
        loom = self.panel.assessment.loom
        self.card.setVisible(bool(lamps) and bool(loom.passages))
        if not lamps or not loom.passages:
            return
        decided: dict[tuple[str, str], Lead] = {(x.lamp, x.end): x for x in self.panel.plan.leads}
        ids = [p.id for p in lamps]
        mine = [decided.get((i, e)) for i in ids for e in ENDS]
        wire = common([(x.wire or "") if x else "" for x in mine])
        self.wire.show_value(str(wire) if wire is not None else "several")
        for end, choice in self.colours.items():
            colour = common([(x.colour if (x := decided.get((i, end))) else "") for i in ids])
            choice.show_value(str(colour) if colour is not None else "several")
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
        cut = " and ".join(f"{r.tag} {r.cut_mm:g} mm" for r in runs)
        self.words.setText(
            f"Through {by}. Cut {cut}; {2e3 * first.ohm * first.current_a:.2g} mV go lost there and back."
        )
