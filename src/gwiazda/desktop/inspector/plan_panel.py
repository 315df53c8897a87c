"""Panel for the plan itself, shown when nothing is picked: kit, supply, room, channels."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QPushButton, QToolButton

from gwiazda.core.assess.light.scene import channels_of
from gwiazda.core.plan import edits, shapes
from gwiazda.core.plan.edits import views
from gwiazda.core.plan.model import Plan, View
from gwiazda.core.quantities import format_scale, parse_number, parse_scale, parse_voltage_v
from gwiazda.desktop.inspector.block_cards import LeakCard, SwatchCard
from gwiazda.desktop.inspector.cards import Panel, label
from gwiazda.desktop.inspector.features import EffortCard, FeatureCard
from gwiazda.desktop.inspector.reading import read_size
from gwiazda.desktop.widgets.slider import Slider

KINDS = ("ship", "spacecraft", "vehicle", "aircraft", "other")
LUX_STOPS = (0.0, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 300.0)


class PlanPanel(Panel):
    """Kit, supply, the room the model is looked at in, and the channels of the night side."""

    weights_changed = Signal(dict)

    def __init__(self, document, station: str) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        self._weights: dict[str, float] = {}
        self.measuring = station == "measure"
        if self.measuring:
            self._view_card()
            self._shape_card()
            self.features = FeatureCard(self)
        self.block = (LeakCard(self), SwatchCard(self)) if station == "block" else ()
        self._room_card()
        if station == "power":
            self._supply_card()
            self._kit_card()
        else:
            self._kit_card()
            self._supply_card()
        self._channel_card()
        if self.measuring:
            self.effort = EffortCard(self)

    def _view_card(self) -> None:
        card = self.card("Views and drawing")
        sides = [
            ("", "add a view…"),
            *(
                (s, n)
                for s, n in (
                    ("port", "port side"),
                    ("starboard", "starboard side"),
                    ("top", "from above"),
                    ("bow", "from ahead"),
                    ("stern", "from astern"),
                )
            ),
        ]
        self.more_views = self.choice("Add a view", sides, self._add_view)
        card.row("Views", self.more_views)
        self.fade = self._slider(10, "Fade of the drawing", self._take_fade)
        card.row("Fade", self.fade)
        self.view_words = card.consequence()

    def _add_view(self, side: str) -> None:
        if side:
            self.document.edit("Add a view", lambda plan: views.add_view(plan, side)[0])  # type: ignore[arg-type]
            self.more_views.setCurrentIndex(0)

    def _take_fade(self, step: int) -> None:
        view = self._view()
        if view is not None and view.drawing is not None:
            drawing = edits.revise(view.drawing, fade=step / 10)
            self.document.edit("Fade the drawing", lambda plan: views.set_view(plan, view.id, drawing=drawing))

    def _view(self) -> View | None:
        return next((v for v in self.plan.views if v.side == self.document.shown_side), None)

    def _shape_card(self) -> None:
        card = self.card("A section from a shape")
        self.shape = self.choice("Shape", [(s, s) for s in shapes.SHAPES], lambda v: None)
        card.row("Shape", self.shape)
        self.shape_sizes = [
            self.value(f"Outer {w}", read_size, lambda v: None, f"outer {w}, 3 mm or 1 1/2 in")
            for w in ("length", "breadth", "height")
        ]
        for field, text in zip(self.shape_sizes, ("120", "40", "30"), strict=True):
            field.setText(text)
        card.row("l b h, mm", *self.shape_sizes)
        add = QPushButton("Add the section")
        add.clicked.connect(self._add_shape)
        card.outer.addWidget(add)

    def _add_shape(self) -> None:
        new: list[str] = []

        def change(plan: Plan) -> Plan:
            length, breadth, height = (read_size(f.text()) for f in self.shape_sizes)
            shape = str(self.shape.currentData())
            top = max(
                (p[1] for s in plan.sections for o in s.outlines if o.side == "port" for p in o.points), default=0.0
            )
            section = shapes.section_from_shape(plan, shape, length, breadth, height, at=(0.0, 0.0, top))  # type: ignore[arg-type]
            new.append(section.id)
            return edits.add_section(plan, section)

        if self.document.edit("Add a section", change):
            self.document.select(new)

    def _refresh_measuring(self) -> None:
        self.features.refresh()
        view = self._view()
        drawing = view.drawing if view else None
        blocked = self.fade.blockSignals(True)
        self.fade.setEnabled(drawing is not None)
        self.fade.setValue(round(drawing.fade * 10) if drawing else 0)
        self.fade.blockSignals(blocked)
        if drawing is None:
            self.view_words.setText(
                "No drawing behind this view: drop a PNG, JPEG, SVG or PDF on the plate, or paste one."
            )
        else:
            self.view_words.setText(
                f"{drawing.picture}: 1 unit is {drawing.mm_per_unit:.4g} mm, turned by {drawing.rotation_deg:.1f}°. K calibrates, H levels."
            )
        self.effort.refresh()

    def _edit(self, what: str, change, **fields: object) -> None:  # type: ignore[no-untyped-def]
        self.document.edit(what, lambda plan: change(plan, **fields))

    def _kit_card(self) -> None:
        card = self.card("Kit")
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

    def _supply_card(self) -> None:
        card = self.card("Supply")
        self.supply = self.choice(
            "Source",
            [(s.id, s.name) for s in self.document.catalogue.sources.values()],
            lambda v: self._edit("Change supply", edits.set_supply, part=v, volts=None, in_parallel=1),
        )
        card.row("Source", self.supply)
        read = lambda t: int(parse_number(t, "Cells", 1, 40))  # noqa: E731
        self.in_series = self.value(
            "Cells in series",
            read,
            lambda v: self._edit("Change cells", edits.set_supply, in_series=v),
            "1 to 40",
        )
        self.in_parallel = self.value(
            "Sets in parallel",
            read,
            lambda v: self._edit("Change cells", edits.set_supply, in_parallel=v),
            "1 to 40",
        )
        self.cells_words = label("in series, sets", "unit")
        card.row("Cells", self.in_series, self.cells_words, self.in_parallel)
        self.volts = self.value(
            "Adapter voltage",
            parse_voltage_v,
            lambda v: self._edit("Change voltage", edits.set_supply, volts=v),
            "set voltage of an adjustable adapter, 9 V",
        )
        card.row("Set to", self.volts)
        self.series = self.choice(
            "Resistors in the drawer",
            [(s, f"{s} series") for s in ("E6", "E12", "E24", "E96")],
            lambda v: self._edit("Change series", edits.set_drawer, series=v),
        )
        card.row("Resistors", self.series)
        self.supply_facts = card.consequence()

    def _room_card(self) -> None:
        card = self.card("The room it is seen in")
        self.lux_slider = self._slider(
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
        self.ev_slider = self._slider(
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

    def _slider(self, top: int, name: str, take) -> Slider:  # type: ignore[no-untyped-def]
        slider = Slider()
        slider.setRange(0, top)
        slider.setPageStep(1)
        slider.setAccessibleName(name)
        slider.setToolTip(f"{name}: Left and Right")
        slider.valueChanged.connect(take)
        return slider

    def _channel_card(self) -> None:
        card = self.channel_card = self.card("Channels on the night side")
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
        self.supply.show_value(plan.supply.part)
        source = self.document.catalogue.sources.get(plan.supply.part)
        battery = source is not None and source.kind == "battery"
        self.in_series.show_value(str(plan.supply.in_series))
        self.in_parallel.show_value(str(plan.supply.in_parallel))
        self.in_series.setEnabled(battery)
        self.in_parallel.setEnabled(battery)
        adjustable = source is not None and source.adjustable
        self.volts.setEnabled(adjustable)
        self.volts.show_value(f"{self.found.supply.nominal_v:.3g} V")
        self.series.show_value(plan.drawer.series)
        s = self.found.supply
        self.supply_facts.setText(
            f"<b>{s.terminal_v:.2f} V</b> under {s.draw_a * 1e3:.0f} mA. {source.care if source else ''}"
        )
        for slider, value in (
            (self.lux_slider, min(range(len(LUX_STOPS)), key=lambda i: abs(LUX_STOPS[i] - plan.room.lux))),
            (self.ev_slider, round(plan.room.exposure_ev * 4) + 16),
        ):
            blocked = slider.blockSignals(True)
            slider.setValue(value)
            slider.blockSignals(blocked)
        self.lux.show_value(f"{plan.room.lux:g} lx")
        self.exposure.show_value(f"{plan.room.exposure_ev:+g} EV" if plan.room.exposure_ev else "0 EV")
        self.distance.show_value(f"{plan.room.distance_m * 100:g} cm")
        self._refresh_channels()
        if self.block:
            self.block[0].refresh()
        if self.measuring:
            self._refresh_measuring()

    def _refresh_channels(self) -> None:
        wanted = channels_of(self.found)
        self.channel_card.setVisible(bool(wanted))
        if tuple(self.channel_buttons) != wanted:
            for button in self.channel_buttons.values():
                button.deleteLater()
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
