"""Panel for openings."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton

from gwiazda.core.plan import edits
from gwiazda.core.plan.decks import name_of
from gwiazda.core.plan.edits import patterns
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Opening, Plan
from gwiazda.core.quantities import figure, parse_number
from gwiazda.desktop.inspector.cards import Panel, common
from gwiazda.desktop.inspector.features import FeatureChoice
from gwiazda.desktop.inspector.lens_card import LensCard
from gwiazda.desktop.inspector.pane_cards import ColourCard, PaneCard
from gwiazda.desktop.inspector.reading import read_mm, read_size
from gwiazda.desktop.inspector.rose_card import RoseCard
from gwiazda.desktop.inspector.shell_card import ShellCard

SHAPES = [("rect", "rectangle"), ("round", "round"), ("slot", "slot, round ends"), ("traced", "as traced")]


def read_gap(text: str) -> float:
    return parse_number(text, "Gap", 0, 2, "mm")


class OpeningPanel(Panel):
    """One or several openings: shape, size, glazing, how much of them is lit."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        card = self.card("Opening", "measure", "light")
        self.shape = self.choice("Shape", SHAPES, self._take_shape)
        card.row("Shape", self.shape)
        self.wide = self.value("Width", read_size, lambda v: self._set("Change width", width_mm=v), "3 mm or 1/8 in")
        self.high = self.value("Height", read_size, lambda v: self._set("Change height", height_mm=v), "3 mm or 1/8 in")
        card.row("Size, mm", self.wide, self.high)
        self.glazing = self.choice(
            "Glazing",
            [("", "as its section"), *((g.id, g.name) for g in self.document.catalogue.glazings.values())],
            lambda v: self._set("Change glazing", glazing=v or None),
        )
        card.row("Glazing", self.glazing)
        self.hole = QCheckBox("no hole: lit through the plastic")
        self.hole.setToolTip("The wall itself shines, bare of paint; a glazing chosen for it is a film laid on it")
        self.hole.clicked.connect(lambda on: self._set("Lit through the wall" if on else "Cut it", hole=not on))
        card.row("", self.hole)
        self.soften = self.choice(
            "Softened by",
            [
                ("as", "as its section"),
                ("", "nothing"),
                *((g.id, g.name) for g in self.document.catalogue.glazings.values() if g.scattered >= 0.4),
            ],
            lambda v: self._set("Soften", soften=None if v == "as" else ((v,) if v else ())),
        )
        card.row("Diffuser behind", self.soften)
        self.gap = self.value(
            "Gap around the lens", read_gap, lambda v: self._set("Change the gap", gap_mm=v),
            "0 to 2 mm: what light gets past around a lens set into it",
        )  # fmt: skip
        card.row("Gap, mm", self.gap)
        self.into = self.choice("Opens into", [("", "the outside")], lambda v: self._set("Lead into", into=v))
        card.row("Opens into", self.into)
        self.feature = FeatureChoice(self)
        card.row("Feature", self.feature)
        self.facts = card.consequence()
        lit = self.card("Which windows are lit", "measure", "light")
        buttons = QHBoxLayout()
        for words, share in (("Lit", 1.0), ("Dim", 0.35), ("Dark", 0.0)):
            button = QPushButton(words)
            button.setToolTip(f"{words}: {share * 100:.0f} % of the pane let through")
            button.clicked.connect(lambda _=False, s=share, w=words: self._set(w, lit=s))
            buttons.addWidget(button)
        lit.outer.addLayout(buttons)
        self.share = self.value(
            "Lit share",
            lambda t: parse_number(t, "Lit share", 0, 100, "%") / 100,
            lambda v: self._set("Change lit share", lit=v),
            "0 to 100 % of the pane let through",
        )
        lit.row("Lit share", self.share)
        self.room = self.value(
            "Room behind it", lambda t: t.strip()[:80], lambda v: self._set("Name the room", room=v),
            "corridor, mess, cabin 4: windows of one room are lit alike",
        )  # fmt: skip
        self.room.setPlaceholderText("corridor, mess…")
        lit.row("Room", self.room)
        across = QPushButton("Copy to the other side")
        across.setToolTip("The same openings on the wall across, lit as they are")
        across.clicked.connect(self._copy_across)
        card.outer.addWidget(across)
        self.lens = LensCard(self)
        self.shell = ShellCard(self, self._set)
        self.pane = PaneCard(self)
        self.rose = RoseCard(self)
        self.colour = ColourCard(self)
        place = self.card("Place", "measure")
        self.place = [
            self.value(f"{a} in mm", read_mm, lambda v, i=i: self.take_axis(self.openings(), i, v), "mm on the model")
            for i, a in enumerate("xyz")
        ]
        place.row("x y z, mm", *self.place)

    def _take_shape(self, shape: str) -> None:
        if shape == "traced" and not all(o.points for o in self.openings()):
            self.document.message_stop("Nothing was traced here yet: X traces an opening of any shape.")
            self.refresh()
            return
        self._set("Change shape", shape=shape)

    def _show_into(self, openings: list[Opening]) -> None:
        """Sections a hole may lead into: those whose wall is near this one."""
        mine = {o.section for o in openings}
        others = [(s.id, s.name) for s in self.plan.sections if s.id not in mine]
        if [self.into.itemData(i) for i in range(1, self.into.count())] != [i for i, _ in others]:
            self.into.clear()
            for value, words in (("", "the outside"), *others):
                self.into.addItem(words, value)
        into = common([o.into for o in openings])
        self.into.show_value(str(into) if into is not None else "several")

    def openings(self) -> list[Opening]:
        return [i for i in self.document.selected_items() if isinstance(i, Opening)]

    def _set(self, what: str, **fields: object) -> None:
        ids = [o.id for o in self.openings()]
        self.document.edit(what, lambda plan: edits.set_fields(plan, ids, **fields))

    def _copy_across(self) -> None:
        ids = [o.id for o in self.openings()]
        made: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, new = patterns.copy_to_other_side(plan, ids)
            made.extend(new)
            return plan

        if self.document.edit("Copy to the other side", change):
            self.document.select(made)

    def refresh(self) -> None:
        openings = self.openings()
        if not openings:
            return
        first = openings[0]
        name = name_of(self.plan.sections, self.plan.openings, first.id)
        self.heading.setText(name if len(openings) == 1 else f"{len(openings)} openings")
        self.feature.refresh()
        self.shell.refresh(openings)
        self.lens.refresh(openings)
        names = sorted({section_of(self.plan, o.section).name for o in openings})
        where = f"{', '.join(names[:3])}, {', '.join(sorted({o.side for o in openings}))}"
        self.about.setText(first.id if len(openings) == 1 else where)
        self.shape.show_value(str(common([o.shape for o in openings]) or ""))
        for field, values in (
            (self.wide, [o.width_mm for o in openings]),
            (self.high, [o.height_mm for o in openings]),
        ):
            value = common(values)
            field.show_value(f"{value:g}" if value is not None else "")
        glazing = common([o.glazing or "" for o in openings])
        self.glazing.show_value(str(glazing) if glazing is not None else "several")
        self.hole.setChecked(all(not o.hole for o in openings))
        soft = common([("as" if o.soften is None else (o.soften[0] if o.soften else "")) for o in openings])
        self.soften.show_value(str(soft) if soft is not None else "several")
        gap = common([o.gap_mm for o in openings])
        self.gap.show_value(f"{gap:g}" if gap is not None else "")
        self._show_into(openings)
        self.room.show_value(str(common([o.room for o in openings]) or ""))
        share = common([o.lit for o in openings])
        self.share.show_value(f"{share * 100:g} %" if isinstance(share, float) else "")
        for axis, field in enumerate(self.place):
            value = common([o.at[axis] for o in openings])
            field.show_value(f"{value:g}" if value is not None else "")
        self.pane.refresh(openings)
        self.rose.refresh(openings)
        self.colour.refresh(openings)
        bright = [self.assessment.openings[o.id].luminance_cd_m2 for o in openings if o.id in self.assessment.openings]
        full = first.width_mm * self.plan.kit.scale / 1000, first.height_mm * self.plan.kit.scale / 1000
        text = f"At full size {figure(full[0], 2)} × {figure(full[1], 2)} m. "
        if bright:
            text += (
                f"<b>{figure(max(bright))} cd/m²</b>"
                if len(bright) == 1
                else f"<b>{figure(min(bright))} to {figure(max(bright))} cd/m²</b>"
            )
        self.facts.setText(text)
