"""A light picked: how bright, what carries it, its rhythm and twin, what it takes."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtWidgets import QSizePolicy, QVBoxLayout

from gwiazda.core.assess.lights.build import means_of
from gwiazda.core.assess.lights.choices import Choice as MeansChoice
from gwiazda.core.assess.lights.choices import choices_of, described, outcome_words
from gwiazda.core.assess.lights.exchange import exchanged_both
from gwiazda.core.assess.lights.kinds import arc_words, kind_of, kinds_for
from gwiazda.core.assess.lights.looks import (
    as_the_real_one,
    both,
    look_now,
    tried,
    true_to_scale,
    with_look,
)
from gwiazda.core.assess.lights.rhythm import rhythm_now, with_rhythm
from gwiazda.core.assess.lights.states import state_of
from gwiazda.core.assess.lights.twins import with_twin
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find, light_of, parts_of
from gwiazda.core.plan.model import Lamp, Light, Opening, Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, figure
from gwiazda.desktop.forms.common import name_field
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag
from gwiazda.desktop.panels.panel import Panel, PanelCard, button_of, clear, label, side_by_side
from gwiazda.desktop.stations.light.look_tile import LookChoices
from gwiazda.desktop.widgets.choice_button import ChoiceButton

FULL = 1.05  # times what a lamp gives at its rated current: more it can't
BEHIND = (("", "nothing"), ("putty", "putty"), ("paint", "paint"), ("sleeve", "a sleeve"))


def heading(panel: Panel) -> tuple[str, str]:
    """What it is called; its kind, its arc and its twin."""
    lights: list[Light] = panel.items()
    first, kind = lights[0], kind_of(panel.document.catalogue, lights[0].kind)
    if len(lights) > 1:
        return counted(len(lights), "light"), ""
    twin = f"twin: {name_of(panel.plan, first.twin)}" if first.twin else ""
    return first.name, " · ".join(w for w in (kind.one, arc_words(kind), twin) if w)


def own_lamps(plan: Plan, lights: list[Light]) -> list[Lamp]:
    """The lamps of lights that are seen themselves."""
    parts = (find(plan, i) for x in lights for i in parts_of(plan, x.id))
    return [p for p in parts if isinstance(p, Lamp) and p.mount == "outside"]


def _owned(plan: Plan, lights: list[Light], **fields: Any) -> Plan:
    """Fields of the lamps of lights, and of those of their twins."""
    every = [light_of(plan, i) for x in lights for i in both(plan, x.id)]
    return edits.set_fields(plan, [p.id for p in own_lamps(plan, every)], **fields)


def _rhythms(card: LightCard) -> list[tuple[str, str]]:
    kit = card.plan.kit.kind
    ready = card.document.catalogue.prototypes.values()
    return [("", "of its own"), *((p.id, p.name) for p in ready if p.kind in ("", kit))]


def _take_rhythm(card: LightCard, value: str) -> None:
    if value:
        light_id, catalogue = card.first.id, card.document.catalogue
        card.document.edit("Change rhythm", lambda plan: with_rhythm(catalogue, plan, light_id, value))


def _take_kind(card: LightCard, value: str) -> None:
    ids = [x.id for x in card.items()]

    def change(plan: Plan) -> Plan:
        for i in ids:
            plan = edits.set_light(plan, i, kind=value)
        return plan

    card.document.edit("Change the kind of light", change)


def _has_lamp(card: LightCard) -> bool:
    return bool(own_lamps(card.plan, card.items()))


def _of_lamp(card: LightCard, name: str) -> Any:
    return getattr(own_lamps(card.plan, card.items())[0], name)


class LightCard(PanelCard):
    """What it is, its rhythm, its twin, and what stops its light behind."""

    title = "Light"
    model = Light
    fields = (
        name_field("light"),
        Field(
            "kind", "Kind", Choice(lambda card: [(k.id, k.name) for k in kinds_for(card.document.catalogue, card.plan.kit.kind)]),
            "What the real one is: its colour, brightness, arc and rhythm are looked up by it", get=lambda x: x.kind, takes=_take_kind,
        ),
        Field("rhythm", "Rhythm", Choice(_rhythms), "Steady, or one of the ready patterns; its twin follows", name="Rhythm of the light",
              takes=_take_rhythm),
        Field("behind", "Behind it", Choice(BEHIND), "What keeps the light that a lamp throws back out of the section it is in",
              "Stop the light behind", name="Behind the light", takes=lambda card, v: card.set_lamps("Stop the light behind", behind=v), shown=_has_lamp),
        Field("late", "", Flag("fitted from outside, after closing"), "Its lamp goes in from outside once its section is closed, with steps of its own",
              "Fit it late", name="Fitted late", takes=lambda card, v: card.set_lamps("Fit it late", late=v), shown=_has_lamp),
        Field("sources_show", "", Flag("its single lamps may show"), "As in a cluster of burners: a spot is meant, and no finding says so"),
    )  # fmt: skip

    def build(self) -> None:
        self.twin = button_of(
            "Add its twin", "Its image on the other side of the model, with all its parts", self._twin
        )
        self.apart = button_of("Take it apart", "Its parts stay where they are and stand by themselves", self._apart)
        self.card.outer.addLayout(side_by_side(self.twin, self.apart))
        self.keep = self.button(
            "Keep as a kind of mine", "Beside the generic kinds, under its name: with its colour and what carries it first", self._keep
        )  # fmt: skip

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        for x in items:
            plan = edits.set_light(plan, x.id, **fields)
        return plan

    def set_lamps(self, words: str, **fields: Any) -> None:
        """Set fields of its lamps and of those of its twin."""
        items = self.items()
        self.document.edit(words, lambda plan: _owned(plan, items, **fields))

    def _twin(self) -> None:
        light_id, catalogue = self.first.id, self.document.catalogue
        self.document.edit("Add its twin", lambda plan: with_twin(catalogue, plan, light_id)[0])

    def _keep(self) -> None:
        from gwiazda.core.workshop.own import with_kind_of_light

        light: Light = self.first
        catalogue = self.document.catalogue
        kind, lamps = kind_of(catalogue, light.kind), own_lamps(self.plan, [light])
        colour = catalogue.lamps[lamps[0].part].colour if lamps and lamps[0].part in catalogue.lamps else ""
        try:
            workshop, kind_id = with_kind_of_light(self.document.workshop, kind, light.name, light.means, colour)
            self.document.change_workshop(workshop)
        except GwiazdaError as error:
            self.document.message_stop(str(error))
            return
        self.document.edit("Make it a kind of your own", lambda plan: edits.set_light(plan, light.id, kind=kind_id))
        self.document.message.emit(f"“{light.name}” is among the kinds of lights now.", "info")

    def _apart(self) -> None:
        ids = [x.id for x in self.items()]

        def change(plan: Plan) -> Plan:
            for i in ids:
                plan = edits.take_apart(plan, i)
            return plan

        self.document.edit("Take it apart", change)

    def say(self) -> None:
        one = len(self.items()) == 1
        self.twin.setEnabled(one and not self.first.twin and bool(parts_of(self.plan, self.first.id)))
        self.form.chosen("rhythm").show_value(rhythm_now(self.document.catalogue, self.plan, self.first.id))
        if _has_lamp(self):
            self.form.chosen("behind").show_value(_of_lamp(self, "behind"))
            self.form.widgets["late"].setChecked(_of_lamp(self, "late"))  # type: ignore[attr-defined]


class BrightCard(PanelCard):
    """How bright it is to be, as pictures to choose from."""

    title = "How bright"

    def build(self) -> None:
        self.choices = LookChoices(self, self._take, self.say)
        self.tiles = self.choices.row.tiles
        self.words = self.card.consequence()
        self.real = self.button(
            "As bright as the real one, to scale", "By its rule and the square of the scale", self._take_real
        )

    def _take(self, look: Any) -> None:
        light_id = self.first.id
        self.document.edit("Change how bright", lambda plan: with_look(self.document.catalogue, plan, light_id, look))

    def _take_real(self) -> None:
        light_id, catalogue = self.first.id, self.document.catalogue
        self.document.edit("As bright as the real one", lambda plan: as_the_real_one(catalogue, plan, light_id))

    def say(self) -> None:
        light: Light = self.first
        plan, assessment, catalogue = self.document.assessed_plan, self.panel.assessment, self.document.catalogue
        known = any(x.id == light.id for x in plan.lights)
        state = state_of(plan, assessment, light.id) if known else None
        mcd = true_to_scale(catalogue, self.plan, light.id)
        lamps = state is not None and bool(own_lamps(self.plan, [light]) or state.unit == "mcd")
        self.real.setVisible(mcd > 0 and lamps)
        words = ""
        if state is not None:
            words = (
                f"It gives <b>{figure(state.value, 2)} {state.unit}</b>, {state.reached * 100:.0f} % of what is wanted."
            )
        kind = kind_of(catalogue, light.kind)
        now = look_now(catalogue, self.plan, light.id)
        self.choices.show(light.id, now, partial(tried, light_id=light.id) if state is not None else None)
        full = next((t.state for t in self.choices.found if t.look == "full"), None)
        beyond = full is not None and full.unit == "mcd" and mcd > FULL * full.value
        self.real.setEnabled(not beyond)
        if mcd > 0:
            words += f" True to scale: {figure(mcd, 2)} mcd{', more than it can give' if beyond else ''}."
            self.real.setToolTip(f"The real one: {kind.real_cd:g} cd. {kind.rule}")
        self.words.setText(words)


def means_button(choice: MeansChoice) -> ChoiceButton:
    """A means with its outcome and its minutes."""
    parts = f"; {', '.join(choice.parts)}" if choice.parts else ""
    return ChoiceButton(
        choice.means.name,
        f"{choice.minutes:.0f} min" if choice.minutes >= 0.5 and not choice.blocked else "",
        outcome_words(choice),
        choice.blocked or f"{choice.means.about or choice.means.name}{parts}; {choice.later}.",
        now=choice.now,
        blocked=bool(choice.blocked),
        fine=choice.fine,
    )


class CarriedCard(PanelCard):
    """What may carry it, side by side; a click rebuilds it."""

    title = "Carried by"

    def build(self) -> None:
        self.rows = QVBoxLayout()
        self.rows.setSpacing(5)
        self.card.outer.addLayout(self.rows)
        self.found: tuple[MeansChoice, ...] = ()
        self._asked: object = None

    def say(self) -> None:
        light: Light = self.first
        plan, assessment = self.document.assessed_plan, self.panel.assessment
        key = (light.id, plan, assessment.catalogue)
        if key == self._asked or self.document.dragging or not any(x.id == light.id for x in plan.lights):
            return
        self._asked = key
        self.panel.task("means").ask_soon(plan, lambda: choices_of(plan, assessment, light.id), self._show)

    def _show(self, found: tuple[MeansChoice, ...]) -> None:
        self.found = found
        clear(self.rows)
        if not found:
            self.rows.addWidget(
                label("It has no place yet: take Light (Shift+L) and click where it sits.", "muted", wrap=True)
            )
        for choice in found:
            button = means_button(choice)
            button.clicked.connect(lambda _=False, m=choice.means.id: self.take(m))
            self.rows.addWidget(button)

    def take(self, means_id: str) -> None:
        """Use another means, for its twin too."""
        light_id, catalogue = self.first.id, self.document.catalogue
        name = means_of(catalogue, means_id).name
        if self.document.edit(
            f"Use this instead: {name.lower()}", lambda plan: exchanged_both(catalogue, plan, light_id, means_id)
        ):
            self.document.select([light_id])


class TakesCard(PanelCard):
    """What it takes: hole, parts, joints, steps; and its parts, to be opened singly."""

    title = "What it takes"

    def build(self) -> None:
        self.words = self.card.consequence()
        self.parts = QVBoxLayout()
        self.parts.setSpacing(3)
        self.card.outer.addLayout(self.parts)
        self._shown: object = None

    def say(self) -> None:
        light: Light = self.first
        plan = self.document.assessed_plan
        if any(x.id == light.id for x in plan.lights):
            self.words.setText(self._words(plan, light))
        mine = parts_of(self.plan, light.id)
        shown = (light.id, mine)
        if shown != self._shown:
            self._shown = shown
            clear(self.parts)
            for part_id in mine[:12]:
                part = find(self.plan, part_id)
                noun = "lamp" if isinstance(part, Lamp) else "opening" if isinstance(part, Opening) else "fibre"
                name = name_of(self.plan, part_id)
                button = button_of(
                    f"Its {noun}: {name}", "Open this part by itself", partial(self.document.select, [part_id])
                )
                button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
                self.parts.addWidget(button)
            if len(mine) > 12:
                self.parts.addWidget(label(f"and {len(mine) - 12} more parts", "muted"))

    def _words(self, plan: Plan, light: Light) -> str:
        catalogue = self.document.catalogue
        now = described(catalogue, plan, self.panel.assessment, light.id)
        kind = kind_of(catalogue, light.kind)
        lines = [f"{now.hole[:1].upper()}{now.hole[1:]}.", ", ".join(now.parts).capitalize() + "." if now.parts else ""]
        lines.append(
            f"{counted(now.joints, 'joint')}; {now.later}."
            if now.joints
            else f"{now.later[:1].upper()}{now.later[1:]}."
        )
        lines.append(f"Test: {kind.test}" if kind.test else "")
        return "<br>".join(x for x in lines if x)
