"""With nothing picked: the room the model is looked at in, the kit, the channels of the night side."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QGridLayout, QToolButton

from gwiazda.core.assess.lights.looks import words_kept
from gwiazda.core.assess.night.scene import channels_of
from gwiazda.core.light.rooms import ROOMS, room_words
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Kit, Plan, ViewingConditions
from gwiazda.core.plan.naming import channel_name
from gwiazda.core.quantities import format_scale, parse_scale
from gwiazda.desktop.forms.common import parts
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Number, Quantity, Text, fixed
from gwiazda.desktop.panels.panel import Panel, PanelCard, clear
from gwiazda.desktop.widgets.slider import slider

LUX_STOPS = (0.0, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 2000.0)


def heading(panel: Panel) -> tuple[str, str]:
    kit = panel.plan.kit
    what = f"{kit.subtitle}, " if kit.subtitle else ""
    return kit.name, f"{what}{format_scale(kit.scale)}. Pick something on the plate to change it."


class KitCard(PanelCard):
    """What kit it is."""

    title = "Kit"
    model = Kit
    fields = (
        Field("name", "Name", Text(200, empty="Untitled"), "What the kit is called on screen and sheets", "Rename kit", name="Kit name"),
        Field("subtitle", "What it is", Text(200), "A few words beside the name", "Describe kit"),
        Field("scale", "Scale", Quantity(parse_scale, format_scale), "1/200 or 1:200: full-size lengths and real lights follow", "Change scale"),
        Field("kind", "Kind", Choice(fixed("ship", "spacecraft", "vehicle", "aircraft", "other")), "Which real lights and patterns are offered", "Change kind"),
        Field("material", "Made of", Choice(parts("materials")), "What the kit is made of: how much light it lets through, and how it is drilled and glued", "Change the material", name="Kit made of"),
    )  # fmt: skip

    def items(self) -> list[Any]:
        return [self.plan.kit]

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return words_kept(self.document.catalogue, plan, edits.set_kit(plan, **fields))


def _rooms(card: Any) -> list[tuple[str, str]]:
    lux = card.plan.room.lux
    known = [(f"{r.lux:g}", room_words(r)) for r in ROOMS]
    return known if f"{lux:g}" in dict(known) else [*known, (f"{lux:g}", f"another, {lux:g} lx")]


def _take_room(card: Any, lux: str) -> None:
    card.set("Change the room", lux=float(lux))


class RoomCard(PanelCard):
    """The light of the room, how far off the eye is, and how the picture is exposed."""

    title = "The room it is seen in"
    model = ViewingConditions
    fields = (
        Field("room", "The model is for", Choice(_rooms), "The room it will stand in: what shows there, and how bright soft or bright is",
              name="Room the model is for", get=lambda r: f"{r.lux:g}", takes=_take_room),
        Field("looks", "Soft, normal, bright", Choice(fixed(room="by this room", fixed="as at night")),
              "What the words for a brightness mean: figures that follow the room, or always those of a dim one", "Change what the words mean",
              name="What the words for a brightness mean"),
        Field("lux", "Room light", Number("lx"), "0.1 moonlight, 2 dim room, 50 evening, 300 workshop", "Change room light", name="Room light in lx"),
        Field("exposure_ev", "Exposure", Number("EV"), "Each step doubles the picture’s brightness; nothing of the model changes", "Change exposure",
              name="Exposure in EV"),
        Field("distance_m", "Seen from", Number("cm", factor=100.0), "How far the eye is: it sets how wide lights glare", "Change distance",
              name="Viewing distance in cm"),
    )  # fmt: skip

    def build(self) -> None:
        self.lux_slider = slider(
            len(LUX_STOPS) - 1, "Room light", lambda i: self.set("Change room light", lux=LUX_STOPS[i])
        )
        self.ev_slider = slider(32, "Exposure", lambda i: self.set("Change exposure", exposure_ev=(i - 16) / 4))
        for path, control in (("lux", self.lux_slider), ("exposure_ev", self.ev_slider)):
            self.form.beside(path, control)

    def items(self) -> list[Any]:
        return [self.plan.room]

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return words_kept(self.document.catalogue, plan, edits.set_room(plan, **fields))

    def say(self) -> None:
        room = self.plan.room
        for control, value in (
            (self.lux_slider, min(range(len(LUX_STOPS)), key=lambda i: abs(LUX_STOPS[i] - room.lux))),
            (self.ev_slider, round(room.exposure_ev * 4) + 16),
        ):
            blocked = control.blockSignals(True)
            control.setValue(value)
            control.blockSignals(blocked)


class ChannelsCard(PanelCard):
    """Channels switched on the night side; the plan stays as it is."""

    title = "Channels on the night side"

    def build(self) -> None:
        self.grid = QGridLayout()
        self.grid.setSpacing(4)
        self.card.outer.addLayout(self.grid)
        self.buttons: dict[str, QToolButton] = {}

    def _toggle(self, channel: str, on: bool) -> None:
        self.panel.weights[channel] = 1.0 if on else 0.0
        self.panel.weights_changed.emit(dict(self.panel.weights))

    def say(self) -> None:
        wanted = channels_of(self.panel.assessment)
        self.card.setVisible(bool(wanted))
        if tuple(self.buttons) != wanted:
            clear(self.grid)
            self.buttons = {}
            for i, channel in enumerate(wanted):
                button = QToolButton()
                button.setObjectName("channel")
                button.setText(channel_name(self.plan, channel))
                button.setCheckable(True)
                button.setAccessibleName(f"Channel {channel_name(self.plan, channel)} on")
                button.setToolTip(
                    f"Switch {channel_name(self.plan, channel)} on the night side; the plan stays as it is"
                )
                button.setSizePolicy(button.sizePolicy().Policy.Expanding, button.sizePolicy().Policy.Fixed)
                button.toggled.connect(lambda on, c=channel: self._toggle(c, on))
                self.grid.addWidget(button, i // 2, i % 2)
                self.buttons[channel] = button
        for channel, button in self.buttons.items():
            blocked = button.blockSignals(True)
            button.setChecked(self.panel.weights.get(channel, 1.0) > 0)
            button.blockSignals(blocked)
