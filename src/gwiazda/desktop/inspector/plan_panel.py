"""Panel for the plan itself, shown when nothing is picked: kit, supply, room, channels."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QToolButton

from gwiazda.core.assess.light.scene import channels_of
from gwiazda.core.plan import edits
from gwiazda.core.quantities import format_scale, parse_number, parse_scale
from gwiazda.desktop.document import Document
from gwiazda.desktop.inspector.cards import Panel, clear
from gwiazda.desktop.stations.registry import STATIONS, load
from gwiazda.desktop.widgets.slider import slider

KINDS = ("ship", "spacecraft", "vehicle", "aircraft", "other")
LUX_STOPS = (0.0, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 300.0)


class PlanPanel(Panel):
    """Kit, supply, the room the model is looked at in, and the channels of the night side."""

    weights_changed = Signal(dict)

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self._weights: dict[str, float] = {}
        # What the stations have to say with nothing picked.
        self.parts = [load(name)(self) for station in STATIONS for name in station.plan_cards]
        self._room_card()
        self._kit_card()
        self._channel_card()

    def _edit(self, what: str, change, **fields: object) -> None:  # type: ignore[no-untyped-def]
        self.document.edit(what, lambda plan: change(plan, **fields))

    def _kit_card(self) -> None:
        card = self.card("Kit", "measure", "power")
        self.name = self.value(
            "Kit name",
            lambda t: t.strip()[:200] or "Untitled",
            lambda v: self._edit("Rename kit", edits.set_kit, name=v),
        )
        card.row("Name", self.name)
        self.subtitle = self.value(
            "What it is",
            lambda t: t.strip()[:200],
            lambda v: self._edit("Describe kit", edits.set_kit, subtitle=v),
        )
        card.row("What", self.subtitle)
        self.scale = self.value(
            "Scale",
            parse_scale,
            lambda v: self._edit("Change scale", edits.set_kit, scale=v),
            "1/200 or 1:200",
        )
        self.kind = self.choice(
            "Kind", [(k, k) for k in KINDS], lambda v: self._edit("Change kind", edits.set_kit, kind=v)
        )
        card.row("Scale", self.scale, self.kind)
        self.plastic = self.choice(
            "Plastic",
            [(p.id, p.name) for p in self.document.catalogue.plastics.values()],
            lambda v: self._edit("Change plastic", edits.set_kit, plastic=v),
        )
        card.row("Plastic", self.plastic)

    def _room_card(self) -> None:
        card = self.card("The room it is seen in", "light", "block")
        self.lux_slider = slider(
            len(LUX_STOPS) - 1,
            "Room light",
            lambda i: self._edit("Change room light", edits.set_room, lux=LUX_STOPS[i]),
        )
        self.lux = self.value(
            "Room light in lx",
            lambda t: parse_number(t, "Room light", 0, 300, "lx"),
            lambda v: self._edit("Change room light", edits.set_room, lux=v),
            "0 to 300 lx: 0.1 moonlight, 2 dim room, 50 evening, 300 workshop",
        )
        card.row("Light", self.lux_slider, self.lux)
        self.ev_slider = slider(
            32, "Exposure", lambda i: self._edit("Change exposure", edits.set_room, exposure_ev=(i - 16) / 4)
        )
        self.exposure = self.value(
            "Exposure in EV",
            lambda t: parse_number(t, "Exposure", -8, 8, "EV"),
            lambda v: self._edit("Change exposure", edits.set_room, exposure_ev=v),
            "−8 to 8 EV; each step doubles the picture’s brightness",
        )
        card.row("Exposure", self.ev_slider, self.exposure)
        self.distance = self.value(
            "Viewing distance in cm",
            lambda t: parse_number(t, "Distance", 6, 1000, "cm") / 100,
            lambda v: self._edit("Change distance", edits.set_room, distance_m=v),
            "how far the eye is, in cm: it sets how wide lights glare",
        )
        card.row("Seen from", self.distance)
        for field in (self.lux, self.exposure, self.distance):
            field.setMaximumWidth(86)

    def _channel_card(self) -> None:
        card = self.channel_card = self.card("Channels on the night side", "light", "block", "power")
        self.channel_grid = QGridLayout()
        self.channel_grid.setSpacing(4)
        card.outer.addLayout(self.channel_grid)
        self.channel_buttons: dict[str, QToolButton] = {}

    def set_weights(self, weights: dict[str, float]) -> None:
        self._weights = dict(weights)

    def _toggle(self, channel: str, on: bool) -> None:
        self._weights[channel] = 1.0 if on else 0.0
        self.weights_changed.emit(dict(self._weights))

    def refresh(self) -> None:
        plan = self.plan
        self.heading.setText(plan.kit.name)
        kit = f"{plan.kit.subtitle}, " if plan.kit.subtitle else ""
        self.about.setText(f"{kit}{format_scale(plan.kit.scale)}. Pick something on the plate to change it.")
        self.name.show_value(plan.kit.name)
        self.subtitle.show_value(plan.kit.subtitle)
        self.scale.show_value(format_scale(plan.kit.scale))
        self.kind.show_value(plan.kit.kind)
        self.plastic.show_value(plan.kit.plastic)
        for control, value in (
            (self.lux_slider, min(range(len(LUX_STOPS)), key=lambda i: abs(LUX_STOPS[i] - plan.room.lux))),
            (self.ev_slider, round(plan.room.exposure_ev * 4) + 16),
        ):
            blocked = control.blockSignals(True)
            control.setValue(value)
            control.blockSignals(blocked)
        self.lux.show_value(f"{plan.room.lux:g} lx")
        self.exposure.show_value(f"{plan.room.exposure_ev:+g} EV" if plan.room.exposure_ev else "0 EV")
        self.distance.show_value(f"{plan.room.distance_m * 100:g} cm")
        self._refresh_channels()
        for part in self.parts:
            part.refresh()

    def _refresh_channels(self) -> None:
        wanted = channels_of(self.assessment)
        self.channel_card.setVisible(bool(wanted))
        if tuple(self.channel_buttons) != wanted:
            clear(self.channel_grid)
            self.channel_buttons = {}
            for i, channel in enumerate(wanted):
                button = QToolButton()
                button.setObjectName("channel")
                button.setText(channel)
                button.setCheckable(True)
                button.setAccessibleName(f"Channel {channel} on")
                button.setToolTip(f"Switch {channel} on the night side; the plan stays as it is")
                button.setSizePolicy(button.sizePolicy().Policy.Expanding, button.sizePolicy().Policy.Fixed)
                button.toggled.connect(lambda on, c=channel: self._toggle(c, on))
                self.channel_grid.addWidget(button, i // 2, i % 2)
                self.channel_buttons[channel] = button
        for channel, button in self.channel_buttons.items():
            blocked = button.blockSignals(True)
            button.setChecked(self._weights.get(channel, 1.0) > 0)
            button.blockSignals(blocked)
