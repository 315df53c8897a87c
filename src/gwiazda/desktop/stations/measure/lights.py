"""Lights: what is to glow and why, what belongs to each, and what it takes."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QLabel, QVBoxLayout

from gwiazda.core.assess.assembly.effort import effort_by_light, effort_of
from gwiazda.core.assess.choices.count import read_dots, versions_of
from gwiazda.core.assess.lights.kinds import kinds_for
from gwiazda.core.assess.lights.looks import with_look
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Count, Effort, Light, Plan, copy_unchecked
from gwiazda.core.plan.model.lamp import Look
from gwiazda.core.quantities import counted, format_current, parse_current_a
from gwiazda.desktop.forms.common import name_field, parts
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, Number, Quantity, Text
from gwiazda.desktop.forms.readers import LOOKS
from gwiazda.desktop.panels.panel import PanelCard, button_of, clear, label, side_by_side
from gwiazda.desktop.widgets.offer import OfferButton

PICTURE_WIDTH = 216
MINUTES = (
    ("drill_min", "open a pane"),
    ("hole_min", "drill a hole"),
    ("mask_min", "mask a pane"),
    ("scratch_min", "scratch a pane"),
    ("joint_min", "a joint"),
    ("lamp_min", "set a lamp"),
    ("dot_min", "feed a fibre"),
)


def _kinds(owner: Any) -> list[tuple[str, str]]:
    """Kinds of lights, those of this kind of kit first."""
    return [("", "add…"), *((k.id, k.name) for k in kinds_for(owner.document.catalogue, owner.document.plan.kit.kind))]


class LightsCard(PanelCard):
    """The plan's lights, one a line; a click opens one."""

    title = "Lights, and why"
    fields = (
        Field("kind", "Add a light", Choice(_kinds), "What is meant to glow, and why; its parts say they belong to it",
              name="Add a light", takes=lambda card, kind: card.add(kind)),
    )  # fmt: skip

    def build(self) -> None:
        self._rows = QVBoxLayout()
        self._rows.setSpacing(3)
        self.card.outer.addLayout(self._rows)
        self._shown: object = None

    def add(self, kind: str) -> None:
        """One more, of a kind; it is picked."""
        known = self.document.catalogue.light_kinds.get(kind)
        if known is None:
            return
        new: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, light_id = edits.add_light(plan, kind, known.name, look=known.look, sources_show=known.sources_show)
            new.append(light_id)
            return plan

        self.form.chosen("kind").setCurrentIndex(0)
        if self.document.edit("Add a light", change):
            self.document.select(new)

    def say(self) -> None:
        lights = self.panel.plan.lights
        efforts = {e.of: e.hours for e in effort_by_light(self.panel.plan, self.document.catalogue)}
        shown = tuple((x.id, x.name, round(efforts.get(x.id, 0.0), 1)) for x in lights)
        if self._shown == shown:
            return
        self._shown = shown
        clear(self._rows)
        for light_id, name, hours in shown:
            button = OfferButton(name)
            button.show_outcome(f"{hours:.1f} h" if hours else "no parts yet", "fine" if hours else "look")
            button.setToolTip(f"{name}: open it, with what is wanted of it and why")
            button.clicked.connect(partial(self.document.select, [light_id]))
            self._rows.addWidget(button)


def _take_look(card: Any, look: Look) -> None:
    def edit(plan: Plan) -> Plan:
        for x in card.items():
            plan = with_look(card.document.catalogue, plan, x.id, look)
        return plan

    card.document.edit("Change the light’s look", edit)


def _others(card: Any) -> list[tuple[str, str]]:
    return [("", "nothing"), *((x.id, x.name) for x in card.plan.lights if x.id != card.first.id)]


class ReasonCard(PanelCard):
    """What is wanted of a light, and why: so that later choices agree with it."""

    title = "What is wanted, and why"
    model = Light
    fields = (
        name_field("light"),
        Field("look", "Brightness", Choice(LOOKS), "How bright it is to be, in words; its lamps want it too",
              name="Look of the light", get=lambda x: x.look, takes=_take_look),
        Field("animated", "", Flag("animated"), "Whether it is to move in time", "Change the light"),
        Field("sources_show", "", Flag("its single lamps may show"), "As in a cluster of burners or a panel: a spot in a pane of it is meant, and no finding says so",
              "Change the light"),
        Field("matches", "Matches", Choice(_others), "As bright and of the same colour: a finding says where an eye would notice a difference",
              "Change the light", name="What the light matches"),
        Field("note", "Note", Text(2000, placeholder="what the reference shows"), "What the reference shows, and why you decided so", "Note the light",
              name="Note of the light"),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()
        self.picture = QLabel()
        self.card.outer.addWidget(self.picture)
        self.take = button_of("Reference picture…", "A picture of the real one, kept with the plan", self._ask_picture)
        self.drop = button_of("Without", "Keep no picture with it", lambda: self._set(picture=None))
        self.card.outer.addLayout(side_by_side(self.take, self.drop))

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        for x in items:
            plan = edits.set_light(plan, x.id, **fields)
        return plan

    def _set(self, **fields: Any) -> None:
        items = self.items()
        self.document.edit("Change the light", lambda plan: self.write(plan, items, fields))

    def say(self) -> None:
        light: Light = self.first
        e = next((e for e in effort_by_light(self.plan, self.document.catalogue) if e.of == light.id), None)
        self.words.setText(
            f"{counted(e.panes, 'pane')}, {counted(e.lamps, 'lamp')}, {counted(e.joints, 'joint')}: about <b>{e.hours:.1f} h</b>."
            if e
            else "Nothing belongs to it yet: place it with Light (Shift+L), or pick a section or a lamp and choose it there."
        )
        self.take.setText("Another picture…" if light.picture else "Reference picture…")
        self.drop.setVisible(light.picture is not None)
        pixmap = QPixmap()
        known = light.picture is not None and pixmap.loadFromData(self.document.pictures.get(light.picture, b""))
        self.picture.setVisible(known)
        if known:
            self.picture.setPixmap(pixmap.scaledToWidth(PICTURE_WIDTH, Qt.TransformationMode.SmoothTransformation))
            self.picture.setAccessibleName(f"Reference picture of {light.name}")

    def _ask_picture(self) -> None:
        from PySide6.QtWidgets import QFileDialog

        path, _ = QFileDialog.getOpenFileName(
            self.panel, "Reference picture", str(Path.home()), "Pictures (*.png *.jpg *.jpeg *.svg)"
        )
        if path:
            self.take_picture(Path(path))

    def take_picture(self, path: Path) -> None:
        """Keep a picture with the plan as the light's reference."""
        from gwiazda.desktop.plate.drawings import take_in

        light_id = self.first.id

        def done(name: str, data: bytes, *_: object) -> None:
            kept = self.document.add_picture(name, data)
            self.document.edit("Change the light", lambda plan: edits.set_light(plan, light_id, picture=kept))

        try:
            take_in(self.panel.task("picture"), path, done)
        except GwiazdaError as error:
            self.document.message_stop(str(error))


def _counted(plan: Plan, items: list[Any], **fields: Any) -> Plan:
    for x in items:
        plan = edits.set_light(plan, x.id, count=copy_unchecked(x.count or Count(), **fields))
    return plan


def _part_of_count(name: str) -> Callable[[Light], Any]:
    return lambda x: getattr(x.count or Count(), name)


def _is_counted(card: CountCard) -> bool:
    return card.first.count is not None


class CountCard(PanelCard):
    """A light by numbers, before any geometry: dots, colours, the dead ones, and what three ways to build it take."""

    title = "By numbers"
    model = Light
    fields = (
        Field("dots", "Dots", Quantity(read_dots, lambda v: f"{v[0]} x {v[1]}" if v else "", placeholder="12 x 8 dots"), "Columns x rows: 12 x 8", "Count dots", name="Dots of the light",
              get=lambda x: (x.count.columns, x.count.rows) if x.count else None,
              put=lambda plan, items, v: _counted(plan, items, columns=v[0], rows=v[1])),
        Field("colours", "Colours", Number("", 1, 12), "How many colours of dots", "Count dots", name="Colours of the light", get=_part_of_count("colours"),
              put=lambda plan, items, v: _counted(plan, items, colours=int(v)), shown=_is_counted),
        Field("dead", "Stay dark", Number("%", 0, 99), "Per cent that stay dark", "Count dots", name="Dead share of the light",
              get=lambda x: round((x.count or Count()).dead_share * 100.0, 3),
              put=lambda plan, items, v: _counted(plan, items, dead_share=v / 100.0), shown=_is_counted),
        Field("current", "Current of each", Quantity(lambda t: parse_current_a(t) * 1e3, lambda v: f"{v:g} mA"), "Of one lamp: 5 mA", "Count dots", name="Current of the light",
              get=_part_of_count("current_ma"), put=lambda plan, items, v: _counted(plan, items, current_ma=v), shown=_is_counted),
        Field("part", "Lamp", Choice(parts("lamps")), "The lamp of each dot", "Count dots", name="Lamp of the light", get=_part_of_count("part"),
              put=lambda plan, items, v: _counted(plan, items, part=v), shown=_is_counted),
    )  # fmt: skip

    def build(self) -> None:
        self._ways = QVBoxLayout()
        self.card.outer.addLayout(self._ways)
        self._shown: object = None

    def say(self) -> None:
        light: Light = self.first
        empty = not any(p.light == light.id for p in self.plan.lamps)
        shown = (light.id, light.count, self.plan.effort, empty)
        if shown == self._shown:
            return
        self._shown = shown
        clear(self._ways)
        for v in versions_of(light.count, self.document.catalogue, self.plan.effort) if light.count is not None else ():
            button = OfferButton({"full": "In full", "shared": "Shared by fibre", "faked": "Faked"}[v.way])
            button.show_outcome(f"{counted(v.lamps, 'lamp')}, {format_current(v.draw_a)}, {v.hours:.0f} h", "look")
            about = (
                f"{counted(v.fibres, 'fibre')}, {counted(v.outputs, 'output')}, {counted(v.joints, 'joint')}; {v.words}"
            )
            button.setToolTip(f"{about}. Click to make its lamps.")
            button.setEnabled(empty)
            button.clicked.connect(partial(self._take, light.id, v.lamps, v.outputs))
            self._ways.addWidget(button)
            self._ways.addWidget(label(about, "muted", wrap=True))

    def _take(self, light_id: str, lamps: int, outputs: int) -> None:
        self.document.edit("Take the count", lambda plan: edits.take_count(plan, light_id, lamps, outputs))


class EffortCard(PanelCard):
    """Holes, panes, joints and hours, with the user's own minutes."""

    title = "Effort"
    extra = True
    model = Effort
    fields = tuple(
        Field(name, words.capitalize(), Number("min"), f"Your own minutes to {words}: the hours follow", "Change minutes", name=f"Minutes to {words}")
        for name, words in MINUTES
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()

    def items(self) -> list[Any]:
        return [self.plan.effort]

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return copy_unchecked(plan, effort=edits.copy_checked(plan.effort, **fields))

    def say(self) -> None:
        plan, catalogue = self.plan, self.document.catalogue
        work = effort_of(plan, catalogue)
        text = (
            f"{sum(e.holes for e in work)} holes, {sum(e.panes for e in work)} panes, {sum(e.joints for e in work)} joints: "
            f"about <b>{sum(e.hours for e in work):.0f} h</b> at the bench."
        )
        named = {f.id: f.name for f in plan.lights}
        rest = [e for e in effort_by_light(plan, catalogue) if e.of in named or named]
        text += "".join(f"<br>{named.get(e.of, 'the rest')}: {e.hours:.1f} h" for e in rest)
        self.words.setText(text)
