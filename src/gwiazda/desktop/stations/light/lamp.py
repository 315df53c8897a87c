"""Lamps picked: the chain from the wanted look to the resistor, the part, its place."""

from __future__ import annotations

from collections import Counter
from functools import partial
from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QWidget

from gwiazda.core.assess.lamp.choice import choices
from gwiazda.core.assess.lights.looks import tried_lamps
from gwiazda.core.assess.uncertainty import band
from gwiazda.core.circuit.series import bands
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find, string_of
from gwiazda.core.plan.model import Lamp, Plan, Section, Wanted
from gwiazda.core.plan.naming import channel_name, name_of
from gwiazda.core.quantities import figure, format_current, format_intensity, format_resistance, parse_resistance_ohm
from gwiazda.desktop.forms.common import LIGHT, name_field, place_fields
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, Quantity, Text, fixed, whole
from gwiazda.desktop.forms.readers import AIMS, LOOKS, read_wanted, same_way, wanted_text
from gwiazda.desktop.panels.panel import Panel, PanelCard, button_of, common, label, side_by_side
from gwiazda.desktop.stations.light.look_tile import LookChoices
from gwiazda.desktop.widgets.marks import PolarityPicture
from gwiazda.desktop.widgets.resistor import ResistorPicture

MOUNTS = (
    ("inside", "inside, behind windows"),
    ("outside", "seen itself"),
    ("late", "seen itself, fitted late"),
    ("fibre", "feeds fibres"),
)


def heading(panel: Panel) -> tuple[str, str]:
    """What is picked, of which part, in which section."""
    lamps: list[Lamp] = panel.items()
    first, parts = lamps[0], panel.document.catalogue.lamps
    if len(lamps) > 1:
        counts = Counter(parts[p.part].name if p.part in parts else p.part for p in lamps)
        words = "; ".join(f"{n} × {name}" for name, n in counts.most_common(3))
        return f"{len(lamps)} lamps", words + (f" and {len(counts) - 3} more kinds" if len(counts) > 3 else "")
    homes = {s.id: s.name for s in panel.plan.sections}
    state = panel.assessment.lamps.get(first.id)
    where = homes.get(state.section or "", "feeds fibres" if first.mount == "fibre" else "outside") if state else ""
    return name_of(panel.plan, first.id), f"{parts[first.part].name if first.part in parts else first.part}, {where}"


def ids_of(items: list[Any]) -> list[str]:
    return [i.id for i in items]


def _take_look(card: LookCard, look: Any) -> None:
    if look == "figure":
        field = card.form.typed("figure")
        field.setFocus()
        field.selectAll()
        return
    ids = ids_of(card.items())
    card.document.edit("Change look", lambda plan: edits.set_wanted(plan, ids, Wanted(look=look)))


class LookCard(PanelCard):
    """What is wanted, and the resistor that gives it."""

    title = "Look, and what it takes"
    model = Lamp
    fields = (
        Field(
            "look", "Brightness", Choice((*LOOKS, ("figure", "a figure"))), "How bright it is to be, in words; the resistor follows",
            name="Wanted look", get=lambda p: p.wanted.look or "figure", takes=_take_look,
        ),
        Field(
            "figure", "As a figure", Quantity(read_wanted), "30 cd/m² for windows, 2.4 mcd for a point, 5 mA for a current", "Change look",
            name="Wanted figure", read=lambda card, p: wanted_text(card.panel.assessment.looks, p), put=lambda plan, items, v: edits.set_wanted(plan, ids_of(items), v),
        ),
        Field(
            "resistor", "Resistor", Quantity(lambda t: parse_resistance_ohm(t) if t.strip() else None, format_resistance),
            "4k7 fixes it; empty lets Gwiazda choose from the drawer", "Change resistor",
            get=lambda p: None, put=lambda plan, items, v: edits.set_resistor(plan, ids_of(items), v),
        ),
    )  # fmt: skip

    def build(self) -> None:
        self.choices = LookChoices(self, lambda look: _take_look(self, look))
        self.looks = self.choices.row
        self.picture = ResistorPicture()
        self.card.row("", self.picture)
        self.reached = self.card.consequence()
        self.taken = self.card.consequence()
        self.series = button_of(
            "Wire in series", "One string, one resistor for the lamps picked", lambda: self._wire(edits.wire_in_series)
        )
        self.single = button_of(
            "A resistor each", "Take these lamps out of their string", lambda: self._wire(edits.wire_singly)
        )
        self.card.outer.addLayout(side_by_side(self.series, self.single))

    def _wire(self, change: Any) -> None:
        ids = self.document.selection
        words = "Wire in series" if change is edits.wire_in_series else "A resistor each"
        self.document.edit(words, lambda plan: change(plan, ids))

    def _show_looks(self, lamps: list[Lamp]) -> None:
        """Three looks with what each takes, where a word says how bright and the resistor is left to the drawer."""
        said = {p.wanted.look for p in lamps}
        mine = tuple(p.id for p in lamps)
        now = said.pop() if len(said) == 1 else None
        open_ = now is not None and all(p.resistor_ohm is None and not string_of(self.plan, p.id) for p in lamps)
        known = all(i in self.panel.assessment.lamps for i in mine)
        self.choices.show(mine, now or "", partial(tried_lamps, lamp_ids=mine) if open_ and known else None)

    def say(self) -> None:
        lamps: list[Lamp] = self.items()
        for button in (self.series, self.single):
            button.setVisible(self.document.station != "wire")  # there it is among what can be done in the circuit
        self.series.setEnabled(len(lamps) > 1)
        self.single.setEnabled(any(string_of(self.plan, p.id) for p in lamps))
        self._show_looks(lamps)
        assessment = self.panel.assessment
        states = [assessment.lamps[p.id] for p in lamps if p.id in assessment.lamps]
        if not states:
            self.reached.setText("Not in the catalogue, so nothing is reckoned.")
            self.taken.setText("")
            self.picture.show_ohm(None, "E12")
            return
        state = states[0]
        branch = assessment.branches[state.branch]
        chosen = common([assessment.branches[s.branch].chosen for s in states])
        ohms = {s.resistor_ohm for s in states}
        ohm = states[0].resistor_ohm if len(ohms) == 1 else None
        field = self.form.typed("resistor")
        field.show_value("" if chosen is not False or ohm is None else format_resistance(ohm))
        field.setPlaceholderText(f"{format_resistance(ohm)}, chosen" if ohm is not None else "several")
        self.picture.show_ohm(ohm, self.plan.drawer.series)
        section = assessment.sections.get(state.section or "")
        if section is not None:
            low, high = band(section.mean_cd_m2, section.sigma, section.lean)
            text = (
                f"Its windows reach <b>{figure(section.mean_cd_m2)} cd/m²</b> of {figure(section.wanted_cd_m2)}, likely "
                f"{figure(low, 2)} to {figure(high, 2)}; this lamp gives {figure(state.share * 100, 2)} % of its full light."
            )
        else:
            text = f"It gives <b>{format_intensity(state.axial_cd)}</b> on its axis, {state.share / state.wanted_share * 100:.0f} % of what is wanted."
        self.reached.setText(text)
        several = len(branch.lamps) > 1
        string = f" {'for' if branch.side_by_side else 'in a string of'} {len(branch.lamps)}" if several else ""
        colours = ", ".join(bands(branch.resistor_ohm, self.plan.drawer.series)) if branch.resistor_ohm > 0 else ""
        self.taken.setText(
            f"Wanted {format_current(branch.wanted_a)}, that needs {format_resistance(max(branch.needed_ohm, 0.0))}; "
            f"gets <b>{format_current(branch.current_a)}</b>{string}, {state.forward_v:.2f} V forward, "
            f"{figure(branch.resistor_w * 1e3, 2)} mW in the resistor. Bands: {colours or 'none'}."
        )


def _set_part(plan: Plan, items: list[Lamp], value: tuple[str, bool]) -> Plan:
    part, strip = value
    # Only strips have units.
    return edits.set_fields(plan, ids_of(items), part=part, **({} if strip else {"units": 1}))


def _take_part(card: PartCard, part_id: str) -> None:
    part, items = card.document.catalogue.lamps.get(part_id), card.items()
    if part is not None:
        card.document.edit("Change part", lambda plan: _set_part(plan, items, (part_id, part.shape.in_units)))


def _is_strip(card: PartCard) -> bool:
    parts = card.document.catalogue.lamps
    return all(p.part in parts and parts[p.part].shape.in_units for p in card.items())


class PartCard(PanelCard):
    """The part, how it is mounted and what it plays on."""

    title = "Lamp"
    model = Lamp
    fields = (
        name_field("lamp"),
        Field("part", "Part", Choice(()), "Which lamp it is; those that fit here and reach the wanted look come first",
              get=lambda p: p.part, takes=_take_part),
        Field(
            "units", "Units of strip", whole(), "How long the strip is: it is cut between its units", "Change the strip’s length",
            name="Units of the strip", shown=_is_strip,
        ),
        Field(
            "mount", "Mount", Choice(MOUNTS), "Whether it stands behind windows, is seen itself, or feeds fibres", "Change mount",
            get=lambda p: "late" if p.late and p.mount == "outside" else p.mount,
            put=lambda plan, items, v: edits.set_fields(
                plan, ids_of(items), mount="outside" if v == "late" else v, late=v == "late"
            ),
        ),
        Field("frosted_cap", "", Flag("frosted cap, even all round"), "A cap over it that sends its light all round", "Frosted cap"),
        Field(
            "channel", "Channel", Text(80), "Lamps of one channel are switched together; empty: by section", "Change channel",
            put=lambda plan, items, v: edits.play_on(plan, ids_of(items), v),
        ),
        LIGHT,
    )  # fmt: skip

    def build(self) -> None:
        self._parts_key: object = None
        self.facts = self.card.consequence()
        holder = QWidget()
        line = QHBoxLayout(holder)
        line.setContentsMargins(0, 0, 0, 0)
        self.polarity, self.plus = PolarityPicture(), label("", "", wrap=True)
        line.addWidget(self.polarity)
        line.addWidget(self.plus, 1)
        self.card.row("", holder)

    @property
    def part(self) -> Any:
        """The choice of the part."""
        return self.form.chosen("part")

    def refresh(self) -> None:
        self._show_parts(self.first)
        super().refresh()

    def _show_parts(self, lamp: Lamp) -> None:
        """Mark in the chooser what fits here and reaches the wanted light, easiest first, and why the rest doesn't.

        Not while it is dragged: nobody chooses meanwhile, and all parts are tried in each place.
        """
        if self.document.dragging and self._parts_key is not None:
            return
        state = self.panel.assessment.lamps.get(lamp.id)
        wanted = round(state.wanted_share, 4) if state else 0
        key = (lamp.id, lamp.part, lamp.aim, state.section if state else None, self.plan.sections, wanted)
        if key == self._parts_key:
            return
        self._parts_key = key
        section = find(self.plan, state.section) if state and state.section else None
        entries = []
        for choice in choices(
            self.document.catalogue, lamp, section if isinstance(section, Section) else None,
            state.wanted_share if state else 0.0,
        ):  # fmt: skip
            room = choice.clearance_mm
            why = f" – {-room:.1f} mm too large" if room is not None and room < 0 else ""
            why += "" if choice.bright_enough else " – too dim"
            entries.append((choice.part.id, choice.part.name + why))
        self.part.set_choices(entries)

    def show_channel(self, channel: object) -> None:
        """Its channel by name."""
        self.form.typed("channel").show_value(channel_name(self.plan, str(channel)) if channel else "")

    def say(self) -> None:
        lamps: list[Lamp] = self.items()
        state = self.panel.assessment.lamps.get(lamps[0].id)
        self.form.typed("name").setPlaceholderText(name_of(self.plan, lamps[0].id) if len(lamps) == 1 else "several")
        self.show_channel(common([p.channel for p in lamps]))
        self.form.typed("channel").setPlaceholderText(channel_name(self.plan, state.channel) if state else "")
        part = self.document.catalogue.lamps.get(lamps[0].part)
        alike = part is not None and all(p.part == lamps[0].part for p in lamps)
        told = part is not None and alike and not part.rectified
        self.polarity.show_form(
            part.shape if part is not None and told else None, part.plus if part is not None else ""
        )
        self.plus.setText(f"Plus: {part.plus}." if part is not None and alike else "")
        if part is None or len(lamps) > 1 or state is None:
            self.facts.setText("")
            return
        size = " × ".join(f"{v:g}" for v in part.size_mm)
        units = lamps[0].units
        extra = []
        if part.shape.in_units:
            extra.append(f"{units} × {part.size_mm[0]:g} mm, {part.leds * units} lamps, made for {part.volts:g} V")
            extra.append(
                f"cut after unit {units}, {part.size_mm[0] * units:g} mm from its end, between the copper pads"
            )
            extra.append(f"bent along itself round {part.shape.bend_mm:g} mm or more, never sideways")
        elif part.volts:
            extra.append(f"{part.inner_ohm:g} Ω built in for {part.volts:g} V")
        if part.flash_hz:
            extra.append(f"flashes {part.flash_hz:g} times a second by itself")
        if part.body:
            extra.append("its other colours go in the same place")
        made = f" {'; '.join(extra)[:1].upper()}{'; '.join(extra)[1:]}." if extra else ""
        full_size = max(part.face_mm * self.plan.kit.scale / 1000, 0.0)
        self.facts.setText(
            f"{size} mm, {part.beam_deg:g}° beam, {format_intensity(part.axial_mcd * 1e-3)} at {part.rated_ma * units:g} mA ({part.basis}).{made} "
            f"At full size it would be {figure(full_size, 2)} m across."
        )


class LampPlaceCard(PanelCard):
    """Where a lamp is, and which way it looks."""

    title = "Place"
    model = Lamp
    fields = (
        *place_fields(),
        Field(
            "aim", "Looks", Choice(fixed(*AIMS)), "Which way its light goes", "Change aim", name="Aim",
            get=lambda p: next((k for k, v in AIMS.items() if same_way(p.aim, v)), ""),
            put=lambda plan, items, v: edits.set_fields(plan, ids_of(items), aim=AIMS[v]),
        ),
    )  # fmt: skip
