"""Openings picked: shape and size, glazing, how much of them is lit, where they lead."""

from __future__ import annotations

from functools import partial
from typing import Any

from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import patterns
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Opening, Plan, Wanted
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, figure
from gwiazda.desktop.forms.common import LIGHT, name_field, parts, place_fields
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, Text, millimetres, per_cent
from gwiazda.desktop.panels.panel import Panel, PanelCard, button_of, side_by_side
from gwiazda.desktop.stations.light.look_tile import LookChoices
from gwiazda.desktop.stations.measure.section import lamps_in, show_looks

SHAPES = (("rect", "rectangle"), ("round", "round"), ("slot", "slot, round ends"), ("traced", "as traced"))
LIT = (("Lit", 1.0), ("Dim", 0.35), ("Dark", 0.0))


def heading(panel: Panel) -> tuple[str, str]:
    """What it is called; of several, in which sections and sides they are."""
    openings: list[Opening] = panel.items()
    if len(openings) == 1:
        return name_of(panel.plan, openings[0].id), _where(panel, openings[0])
    names = sorted({section_of(panel.plan, o.section).name for o in openings})
    return f"{len(openings)} openings", f"{', '.join(names[:3])}, {', '.join(sorted({o.side for o in openings}))}"


def _where(panel: Panel, o: Opening) -> str:
    state = panel.assessment.openings.get(o.id)
    shape = dict(SHAPES)[o.shape]
    return f"{shape}, {'lit' if o.lit > 0 else 'dark'}" + (f", {figure(state.luminance_cd_m2)} cd/m²" if state else "")


def _take_shape(card: OpeningCard, shape: str) -> None:
    if shape == "traced" and not all(o.points for o in card.items()):
        card.document.message_stop("Nothing was traced here yet: X traces an opening of any shape.")
        card.refresh()
        return
    card.set("Change shape", shape=shape)


def _diffusers(card: OpeningCard) -> list[tuple[str, str]]:
    glazings = card.document.catalogue.glazings.values()
    return [("as", "as its section"), ("", "nothing"), *((g.id, g.name) for g in glazings if g.scattered >= 0.4)]


def _leads_into(card: OpeningCard) -> list[tuple[str, str]]:
    mine = {o.section for o in card.items()}
    return [("", "the outside"), *((s.id, s.name) for s in card.plan.sections if s.id not in mine)]


def set_on(path: str, change: Any) -> Any:
    """A ``put`` that sets one attribute to what ``change`` makes of the value."""
    return lambda plan, items, value: edits.set_fields(plan, [i.id for i in items], **{path: change(value)})


class OpeningCard(PanelCard):
    """Its shape, size and glazing."""

    title = "Opening"
    model = Opening
    fields = (
        name_field("opening"),
        Field("shape", "Shape", Choice(SHAPES), "The form of the hole", get=lambda o: o.shape, takes=_take_shape),
        Field("width_mm", "Width", millimetres(), "How wide it is on the model: 3 mm or 1/8 in", "Change width"),
        Field("height_mm", "Height", millimetres(), "How high it is on the model: 3 mm or 1/8 in", "Change height"),
        Field(
            "glazing", "Glazing", Choice(parts("glazings", ("", "as its section"))), "What stands in it: how much light it lets through",
            "Change glazing", get=lambda o: o.glazing or "", put=set_on("glazing", lambda v: v or None),
        ),
        Field(
            "hole", "", Flag("no hole: lit through the plastic"), "The wall itself shines, bare of paint; a glazing chosen for it is a film laid on it",
            "Lit through the wall", get=lambda o: not o.hole, put=set_on("hole", lambda v: not v),
        ),
        Field(
            "soften", "Diffuser behind", Choice(_diffusers), "What stands behind the pane and spreads the light", "Soften", name="Softened by",
            get=lambda o: "as" if o.soften is None else (o.soften[0] if o.soften else ""),
            put=set_on("soften", lambda v: None if v == "as" else ((v,) if v else ())),
        ),
        Field("gap_mm", "Gap around lens", millimetres(), "What light gets past around a lens set into it", "Change the gap", name="Gap around the lens"),
        Field("into", "Opens into", Choice(_leads_into), "Into which section light goes through it", "Lead into"),
        LIGHT,
    )  # fmt: skip

    def build(self) -> None:
        self.facts = self.card.consequence()
        self.button(
            "Copy to the other side", "The same openings on the wall across, lit as they are", self._copy_across
        )

    def _copy_across(self) -> None:
        ids = [o.id for o in self.items()]
        made: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, new = patterns.copy_to_other_side(plan, ids)
            made.extend(new)
            return plan

        if self.document.edit("Copy to the other side", change):
            self.document.select(made)

    def say(self) -> None:
        openings: list[Opening] = self.items()
        one = len(openings) == 1
        self.form.typed("name").setPlaceholderText(name_of(self.plan, openings[0].id) if one else "several")
        first, states = openings[0], self.panel.assessment.openings
        bright = [states[o.id].luminance_cd_m2 for o in openings if o.id in states]
        full = first.width_mm * self.plan.kit.scale / 1000, first.height_mm * self.plan.kit.scale / 1000
        text = f"At full size {figure(full[0], 2)} × {figure(full[1], 2)} m. "
        if len(bright) == 1:
            text += f"<b>{figure(bright[0])} cd/m²</b>"
        elif bright:
            text += f"<b>{figure(min(bright))} to {figure(max(bright))} cd/m²</b>"
        self.facts.setText(text)


class LitCard(PanelCard):
    """How much of the pane is let through, and which room is behind it."""

    title = "Which windows are lit"
    model = Opening
    fields = (
        Field("lit", "Lit share", per_cent(), "How much of the pane is let through", "Change lit share"),
        Field(
            "room", "Room behind it", Text(80, placeholder="corridor, mess…"), "corridor, mess, cabin 4: windows of one room are lit alike", "Name the room"
        ),
    )  # fmt: skip

    def build(self) -> None:
        row = side_by_side(
            *(
                button_of(words, f"{words}: {share * 100:.0f} % of the pane let through", partial(self.set, words, lit=share))
                for words, share in LIT
            )
        )  # fmt: skip
        self.card.outer.addLayout(row)


class WindowLookCard(PanelCard):
    """How bright the windows are to be: a matter of all lamps behind them."""

    title = "How bright its windows are"

    def build(self) -> None:
        self.words = self.card.consequence()
        self.choices = LookChoices(self, self._take)

    def _sections(self) -> list[str]:
        return list(dict.fromkeys(o.section for o in self.items()))

    def _take(self, look: Any) -> None:
        sections = self._sections()
        self.document.edit("Change look", lambda plan: edits.set_wanted(plan, sections, Wanted(look=look)))

    def say(self) -> None:
        mine = self._sections()
        inside = lamps_in(self, mine)
        names = ", ".join(section_of(self.plan, s).name for s in mine[:3])
        show_looks(self, self.choices, inside)
        asked = bool(inside) and not self.choices.row.isHidden()
        self.words.setText(
            f"All windows of {names}, by {counted(len(inside), 'lamp')}:" if asked
            else f"The lamps of {names} are asked for in figures, or differ: pick them to change it." if inside
            else f"No lamp is inside {names} yet."
        )  # fmt: skip


class OpeningPlaceCard(PanelCard):
    """Where it is."""

    title = "Place"
    model = Opening
    fields = place_fields()
