"""Panel for lamps."""

from __future__ import annotations

from collections import Counter
from typing import Any

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton

from gwiazda.core.assess.lamp.choice import choices
from gwiazda.core.assess.uncertainty import band
from gwiazda.core.circuit.series import bands
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find, string_of
from gwiazda.core.plan.model import Lamp, Section, Wanted
from gwiazda.core.quantities import (
    figure,
    format_current,
    format_intensity,
    format_resistance,
    parse_number,
    parse_resistance_ohm,
)
from gwiazda.desktop.inspector.cards import Panel, common
from gwiazda.desktop.inspector.features import FeatureChoice
from gwiazda.desktop.inspector.lamp_cards import OwnPartCard, RealCard, WorkedCard
from gwiazda.desktop.inspector.reading import AIMS, LOOKS, read_mm, read_wanted, same_way, wanted_text
from gwiazda.desktop.inspector.resistor import ResistorPicture
from gwiazda.desktop.stations.animate.intime import InTimeCard
from gwiazda.desktop.stations.bench.cards import ReadingCard
from gwiazda.desktop.stations.fibre.cards import BundleCard
from gwiazda.desktop.stations.power.cards import LampPowerCard
from gwiazda.desktop.stations.wire.cards import LampWiringCard
from gwiazda.desktop.stations.wire.ideas import DimmingCard, HabitCard
from gwiazda.desktop.stations.wire.leadcard import LeadCard


class LampPanel(Panel):
    """One or several lamps: part, place, the chain from wanted look to resistor."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        self._parts_key: object = None
        self._look_card()
        self._part_card()
        self.in_time = InTimeCard(self)
        self.reading = ReadingCard(self)
        self.worked = WorkedCard(self)
        self.true = RealCard(self)
        self._place_card()
        self.own = OwnPartCard(self)
        self.power = LampPowerCard(self, self.lamps)
        self.bundle = BundleCard(self)
        self.leads = LeadCard(self)
        self.wiring = LampWiringCard(self)
        self.habits = HabitCard(self)
        self.dimming = DimmingCard(self)

    def _look_card(self) -> None:
        """What is wanted, and the resistor that gives it."""
        chain = self.card("Look, and what it takes", "light", "power", "wire")
        self.look = self.choice("Wanted look", [*LOOKS, ("figure", "a figure")], self._take_look)
        self.figure = self.value(
            "Wanted figure",
            read_wanted,
            self._take_wanted,
            "30 cd/m² for windows, 2.4 mcd for a point, 5 mA for a current",
        )
        chain.row("Wanted", self.look, self.figure)
        self.reached = chain.consequence()
        self.resistor = self.value(
            "Resistor",
            self._read_ohm,
            self._take_ohm,
            "4k7 fixes it; empty lets Gwiazda choose from the drawer",
        )
        chain.row("Resistor", self.resistor)
        self.picture = ResistorPicture()
        chain.row("", self.picture)
        self.taken = chain.consequence()
        buttons = QHBoxLayout()
        self.series = QPushButton("Wire in series")
        self.series.setToolTip("One string, one resistor for the lamps picked")
        self.series.clicked.connect(
            lambda: self.document.edit("Wire in series", lambda p: edits.wire_in_series(p, self.document.selection))
        )
        self.single = QPushButton("A resistor each")
        self.single.setToolTip("Take these lamps out of their string")
        self.single.clicked.connect(
            lambda: self.document.edit("A resistor each", lambda p: edits.wire_singly(p, self.document.selection))
        )
        buttons.addWidget(self.series)
        buttons.addWidget(self.single)
        chain.outer.addLayout(buttons)

    def _part_card(self) -> None:
        """The part, how it is mounted and what it plays on."""
        part = self.card("Lamp", "light", "measure")
        self.part = self.choice(
            "Part",
            [(p.id, p.name) for p in self.document.catalogue.lamps.values()],
            self._take_part,
        )
        part.row("Part", self.part)
        self.units = self.value(
            "Units of the strip",
            lambda t: int(parse_number(t, "Units", 1, 200)),
            lambda v: self._set("Change the strip’s length", units=v),
            "1 to 200: a strip is cut between its units",
        )
        part.row("Units", self.units)
        self.mount = self.choice(
            "Mount",
            [
                ("inside", "inside, behind windows"),
                ("outside", "seen itself"),
                ("late", "seen itself, fitted late"),
                ("fibre", "feeds fibres"),
            ],
            lambda v: self._set("Change mount", mount="outside" if v == "late" else v, late=v == "late"),
        )
        part.row("Mount", self.mount)
        self.cap = QCheckBox("frosted cap, even all round")
        self.cap.clicked.connect(lambda on: self._set("Frosted cap", frosted_cap=bool(on)))
        part.row("", self.cap)
        self.channel = self.value(
            "Channel",
            lambda t: t.strip()[:80],
            self._play_on,
            "Lamps of one channel are switched together; empty: by section",
        )
        part.row("Channel", self.channel)
        self.feature = FeatureChoice(self)
        part.row("Feature", self.feature)
        self.facts = part.consequence()

    def _place_card(self) -> None:
        place = self.card("Place", "measure")
        self.place = [
            self.value(
                f"{axis} in mm", read_mm, lambda v, i=i: self.take_axis(self.lamps(), i, v), f"{words}, mm on the model"
            )
            for i, (axis, words) in enumerate((("x", "from stern to bow"), ("y", "to port"), ("z", "up")))
        ]
        place.row("x y z, mm", *self.place)
        self.aim = self.choice("Aim", [(k, k) for k in AIMS], lambda v: self._set("Change aim", aim=AIMS[v]))
        place.row("Aim", self.aim)

    def _show_parts(self, lamp: Lamp) -> None:
        """Mark in the chooser what fits here and reaches the wanted light, easiest first, and why the rest doesn't."""
        state = self.assessment.lamps.get(lamp.id)
        key = (
            lamp.id,
            lamp.part,
            lamp.aim,
            state.section if state else None,
            self.plan.sections,
            round(state.wanted_share, 4) if state else 0,
        )
        if key == self._parts_key:
            return
        self._parts_key = key
        section = find(self.plan, state.section) if state and state.section else None
        self.part.clear()
        for choice in choices(
            self.document.catalogue, lamp, section if isinstance(section, Section) else None,
            state.wanted_share if state else 0.0,
        ):  # fmt: skip
            room = choice.clearance_mm
            why = f" – {-room:.1f} mm too large" if room is not None and room < 0 else ""
            why += "" if choice.bright_enough else " – too dim"
            self.part.addItem(choice.part.name + why, choice.part.id)

    def lamps(self) -> list[Lamp]:
        return [i for i in self.document.selected_items() if isinstance(i, Lamp)]

    def _several(self, lamps: list[Lamp]) -> str:
        """How many of which parts are picked: “4 × 1206 chip, warm white”."""
        parts = self.document.catalogue.lamps
        counts = Counter(parts[p.part].name if p.part in parts else p.part for p in lamps)
        words = [f"{n} × {name}" for name, n in counts.most_common(3)]
        return "; ".join(words) + (f" and {len(counts) - 3} more kinds" if len(counts) > 3 else "")

    def _set(self, what: str, **fields: object) -> None:
        ids = [p.id for p in self.lamps()]
        self.document.edit(what, lambda plan: edits.set_fields(plan, ids, **fields))

    def _play_on(self, words: str) -> None:
        ids = [p.id for p in self.lamps()]
        self.document.edit("Change channel", lambda plan: edits.play_on(plan, ids, words))

    def _take_part(self, part_id: str) -> None:
        # Only strips have units, and only domes were sanded.
        part = self.document.catalogue.lamps.get(part_id)
        if part is None:
            return
        units = {} if part.form == "strip" else {"units": 1}
        self._set("Change part", part=part_id, **units)

    def _take_look(self, value: Any) -> None:
        if value == "figure":
            self.figure.setFocus()
            self.figure.selectAll()
            return
        self._take_wanted(Wanted(look=value))

    def _take_wanted(self, wanted: object) -> None:
        ids = [p.id for p in self.lamps()]
        self.document.edit("Change look", lambda plan: edits.set_wanted(plan, ids, wanted))  # type: ignore[arg-type]

    @staticmethod
    def _read_ohm(text: str) -> float | None:
        return parse_resistance_ohm(text) if text.strip() else None

    def _take_ohm(self, ohm: object) -> None:
        ids = [p.id for p in self.lamps()]
        self.document.edit("Change resistor", lambda plan: edits.set_resistor(plan, ids, ohm))  # type: ignore[arg-type]

    def refresh(self) -> None:
        lamps = self.lamps()
        if not lamps:
            return
        first = lamps[0]
        one = len(lamps) == 1
        self.heading.setText(first.id if one else f"{len(lamps)} lamps")
        parts = self.document.catalogue.lamps
        part = parts.get(first.part)
        homes = {s.id: s.name for s in self.plan.sections}
        state = self.assessment.lamps.get(first.id)
        where = homes.get(state.section or "", "feeds fibres" if first.mount == "fibre" else "outside") if state else ""
        self.about.setText(f"{part.name if part else first.part}, {where}" if one else self._several(lamps))
        looks = {p.wanted.look or "figure" for p in lamps}
        self.look.show_value(looks.pop() if len(looks) == 1 else "")
        self.figure.show_value(str(common([wanted_text(p) for p in lamps]) or ""))
        self._show_parts(first)
        for card in (self.worked, self.true, self.own, self.power):
            card.refresh(lamps)
        self.wiring.refresh()
        self.bundle.refresh()
        self.leads.refresh()
        self.habits.refresh()
        self.in_time.refresh()
        self.reading.refresh()
        self.dimming.refresh(lamps)
        long = all(p.part in parts and parts[p.part].form == "strip" for p in lamps)
        units = common([p.units for p in lamps])
        self.units.setEnabled(long)
        self.units.show_value(str(units) if units is not None else "")
        self.part.show_value(str(common([p.part for p in lamps]) or ""))
        self.mount.show_value(
            str(common(["late" if p.late and p.mount == "outside" else p.mount for p in lamps]) or "")
        )
        self.cap.setChecked(all(p.frosted_cap for p in lamps))
        self.channel.show_value(str(common([p.channel for p in lamps]) or ""))
        self.feature.refresh()
        self.channel.setPlaceholderText(state.channel if state else "")
        for axis, field in enumerate(self.place):
            value = common([p.at[axis] for p in lamps])
            field.show_value(f"{value:g}" if value is not None else "")
        self.aim.show_value(next((k for k, v in AIMS.items() if all(same_way(p.aim, v) for p in lamps)), ""))
        for button in (self.series, self.single):
            button.setVisible(self.document.station != "wire")  # there it is among what can be done in the circuit
        self.series.setEnabled(len(lamps) > 1)
        self.single.setEnabled(any(string_of(self.plan, p.id) for p in lamps))
        self._show_chain(lamps, one)

    def _show_chain(self, lamps: list[Lamp], one: bool) -> None:
        states = [self.assessment.lamps[p.id] for p in lamps if p.id in self.assessment.lamps]
        if not states:
            self.reached.setText("Not in the catalogue, so nothing is reckoned.")
            self.taken.setText("")
            self.picture.show_ohm(None, "E12")
            return
        state = states[0]
        branch = self.assessment.branches[state.branch]
        fixed = common([self.assessment.branches[s.branch].chosen for s in states])
        ohm = common([s.resistor_ohm for s in states])
        self.resistor.show_value("" if fixed is not False or ohm is None else format_resistance(float(ohm)))  # type: ignore[arg-type]
        self.resistor.setPlaceholderText(f"{format_resistance(float(ohm))}, chosen" if ohm is not None else "several")  # type: ignore[arg-type]
        self.picture.show_ohm(float(ohm) if ohm is not None else None, self.plan.drawer.series)  # type: ignore[arg-type]
        section = self.assessment.sections.get(state.section or "")
        if section is not None:
            low, high = band(section.mean_cd_m2, section.sigma)
            text = (
                f"Its windows reach <b>{figure(section.mean_cd_m2)} cd/m²</b> of {figure(section.wanted_cd_m2)}, likely "
                f"{figure(low, 2)} to {figure(high, 2)}; this lamp gives {figure(state.share * 100, 2)} % of its full light."
            )
        else:
            text = f"It gives <b>{format_intensity(state.axial_cd)}</b> on its axis, {state.share / state.wanted_share * 100:.0f} % of what is wanted."
        self.reached.setText(text)
        string = (
            f" {'for' if branch.side_by_side else 'in a string of'} {len(branch.lamps)}"
            if len(branch.lamps) > 1
            else ""
        )
        colours = ", ".join(bands(branch.resistor_ohm, self.plan.drawer.series)) if branch.resistor_ohm > 0 else ""
        self.taken.setText(
            f"Wanted {format_current(branch.wanted_a)}, that needs {format_resistance(max(branch.needed_ohm, 0.0))}; "
            f"gets <b>{format_current(branch.current_a)}</b>{string}, {state.forward_v:.2f} V forward, "
            f"{figure(branch.resistor_w * 1e3, 2)} mW in the resistor. Bands: {colours or 'none'}."
        )
        part = self.document.catalogue.lamps[lamps[0].part]
        size = " × ".join(f"{v:g}" for v in part.size_mm)
        extra = []
        if part.form == "strip":
            extra.append(
                f"{lamps[0].units} × {part.size_mm[0]:g} mm, {part.leds * lamps[0].units} lamps, made for {part.volts:g} V"
            )
        elif part.volts:
            extra.append(f"{part.inner_ohm:g} Ω built in for {part.volts:g} V")
        if part.rectified:
            extra.append("either way round")
        if part.flash_hz:
            extra.append(f"flashes {part.flash_hz:g} times a second by itself")
        if part.body:
            extra.append("its other colours go in the same place")
        made = f" {'; '.join(extra)[:1].upper()}{'; '.join(extra)[1:]}." if extra else ""
        full_size = max(part.face_mm * self.plan.kit.scale / 1000, 0.0)
        self.facts.setText(
            f"{size} mm, {part.beam_deg:g}° beam, {format_intensity(part.axial_mcd * 1e-3)} at {part.rated_ma * lamps[0].units:g} mA ({part.basis}).{made} "
            f"At full size it would be {figure(full_size, 2)} m across."
            if one
            else ""
        )
