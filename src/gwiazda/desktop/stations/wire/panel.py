"""The inspector's panel for a part of a circuit, or its source."""

from __future__ import annotations

import re
from typing import Any

from PySide6.QtWidgets import QCheckBox

from gwiazda.core.assess.circuit.gears import speed_of
from gwiazda.core.assess.heat import heat_of
from gwiazda.core.circuit.series import bands
from gwiazda.core.errors import QuantityError
from gwiazda.core.findings.device_rules import FUSES
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Feed, Fuse, Load, Node, Plan, Regulated, Resistor, Switch, Switched, Wire
from gwiazda.core.quantities import (
    figure,
    format_current,
    format_resistance,
    parse_number,
    parse_resistance_ohm,
    parse_voltage_v,
)
from gwiazda.desktop.inspector.cards import Card, Panel
from gwiazda.desktop.inspector.resistor import ResistorPicture
from gwiazda.desktop.stations.bench.variants import VariantsCard
from gwiazda.desktop.stations.power.cards import SupplyCard, show_homes
from gwiazda.desktop.stations.wire.cards import ActionsCard
from gwiazda.desktop.stations.wire.ideas import ClipsCard
from gwiazda.desktop.stations.wire.words import kind_words


def read_gears(text: str) -> tuple[tuple[int, int], ...]:
    """``10:40, 12:36`` as pairs of teeth, driver first; empty for none.

    Raises
    ------
    QuantityError
        For what is no train of gears.
    """
    out = []
    for piece in filter(None, re.split(r"[,;\s]+", text.strip())):
        match = re.fullmatch(r"(\d{1,4})[:/](\d{1,4})", piece)
        if match is None or not all(1 <= int(g) <= 1000 for g in match.groups()):
            raise QuantityError(
                "Gears", f"“{piece}” is no pair of wheels", "teeth of driver and driven, such as 10:40, 12:36"
            )
        out.append((int(match[1]), int(match[2])))
    return tuple(out)


class CircuitPanel(Panel):
    """What is picked in a circuit: its values, what flows, what it does."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        self.flows = self.card("", "wire", "power")
        self.words = self.flows.consequence()
        self.kinds: dict[type, Card] = {}
        self._resistor()
        self._small()
        self._load()
        self._regulated()
        self._switched()
        self.supply = SupplyCard(self)
        self.supply_card = self.cards_[-1]
        self.kinds[Feed] = self.supply_card
        self.doing = ActionsCard(self)
        self.clips = ClipsCard(self)
        self.variants = VariantsCard(self)

    def _set(self, what: str, **fields: Any) -> None:
        part = self.part()
        if part is not None and not isinstance(part, Feed):
            part_id = part.id  # type: ignore[attr-defined]
            self.document.edit(what, lambda plan: edits.set_part(plan, part_id, **fields))

    def part(self) -> Node | Feed | None:
        parts = self.document.selected_parts()
        return parts[0] if parts else None

    def _resistor(self) -> None:
        card = self.kinds[Resistor] = self.card("Resistor", "wire", "power")
        self.ohm = self.value(
            "Value", lambda t: parse_resistance_ohm(t) if t.strip() else None, lambda v: self._set("Change resistor", ohm=v),
            "4k7 fixes it; empty lets Gwiazda choose from the drawer",
        )  # fmt: skip
        card.row("Value", self.ohm)
        self.picture = ResistorPicture()
        card.row("", self.picture)

    def _small(self) -> None:
        fuse = self.kinds[Fuse] = self.card("Fuse", "wire", "power")
        self.fuse = self.choice(
            "Rated current",
            [(str(f), format_current(f)) for f in FUSES],
            lambda v: self._set("Change fuse", rated_a=float(v)),
        )
        fuse.row("Rated", self.fuse)
        switch = self.kinds[Switch] = self.card("Switch", "wire", "power")
        self.switch = self.choice(
            "Kind of switch", [(k, k) for k in ("slide", "push", "reed")], lambda v: self._set("Change switch", kind=v)
        )
        switch.row("Kind", self.switch)
        self.group = self.value(
            "Worked with", lambda t: t.strip()[:80], lambda v: self._set("Group switches", group=v),
            "switches of one name are worked together",
        )  # fmt: skip
        switch.row("Worked with", self.group)
        self.closed = QCheckBox("closed")
        self.closed.clicked.connect(lambda on: self._set("Work the switch", closed=bool(on)))
        switch.row("", self.closed)
        wire = self.kinds[Wire] = self.card("Wire", "wire", "power")
        self.awg = self.value(
            "Gauge", lambda t: int(parse_number(t.upper().removeprefix("AWG").strip(), "Gauge", 18, 44, whole=True)),
            lambda v: self._set("Change wire", awg=v), "AWG 18 to 44; a higher number is thinner",
        )  # fmt: skip
        self.length = self.value(
            "Length in mm", lambda t: parse_number(t, "Length", 1, 100_000, "mm"), lambda v: self._set("Change wire", length_mm=v),
            "mm there and back",
        )  # fmt: skip
        wire.row("Wire gauge", self.awg)
        wire.row("Length", self.length)

    def _load(self) -> None:
        card = self.kinds[Load] = self.card("Motor or sound", "wire", "power")
        self.load = self.choice(
            "Part",
            [(p.id, p.name) for p in self.document.catalogue.loads.values()],
            lambda v: self._set("Change part", part=v),
        )
        card.row("Part", self.load)
        self.flyback = QCheckBox("diode across it, ring to plus")
        self.flyback.setToolTip("Takes the kick of a motor that is switched off; without it a transistor dies")
        self.flyback.clicked.connect(lambda on: self._set("Flyback diode", flyback=bool(on)))
        card.row("", self.flyback)
        self.gears = self.value(
            "Gears", read_gears, lambda v: self._set("Change gears", gears=v), "teeth, driver first: 10:40, 12:36"
        )
        self.gears.setPlaceholderText("10:40, 12:36")
        card.row("Gears", self.gears)
        self.turns = self.value(
            "Wanted turns a minute",
            lambda t: parse_number(t, "Turns", 0.01, 100_000),
            self._slow,
            "the regulator that gives it is put in",
        )
        self.turns.setPlaceholderText("turns a minute")
        card.row("To turn at", self.turns)
        self.load_home = self.choice("Where it is", [], lambda v: self._set("Move the motor or sound", home=v))
        self.load_home.setToolTip("Its two wires go there through the passages")
        card.row("Located in", self.load_home)

    def _slow(self, rpm: object) -> None:
        from gwiazda.core.assess.circuit.gears import volts_for

        part = self.part()
        if not isinstance(part, Load):
            return
        kind = self.document.catalogue.loads.get(part.part)
        volts = volts_for(kind, part.gears, float(rpm)) if kind is not None else None  # type: ignore[arg-type]
        if volts is None:
            self.document.message_stop("Only a motor turns, and this one can’t turn so fast.")
            return
        part_id = part.id
        self.document.edit("Slow it with a regulator", lambda plan: edits.regulate(plan, part_id, round(volts, 2)))

    def _regulated(self) -> None:
        card = self.kinds[Regulated] = self.card("Regulator", "wire", "power")
        self.regulator = self.choice(
            "Kind", [(p.id, p.name) for p in self.document.catalogue.regulators.values()],
            lambda v: self._set("Change regulator", part=v),
        )  # fmt: skip
        card.row("Kind", self.regulator)
        self.volts = self.value(
            "Holds", parse_voltage_v, lambda v: self._set("Change voltage", volts=v), "volts on its output"
        )
        card.row("Holds", self.volts)
        self.home = self.choice("Where it sits", [], lambda v: self._set("Move the regulator", home=v))
        card.row("Located in", self.home)

    def _switched(self) -> None:
        card = self.kinds[Switched] = self.card("Output or stage", "wire", "power")
        drives = self.document.catalogue.drives.values()
        self.drive_part = self.choice(
            "Kind", [(p.id, p.name) for p in drives], lambda v: self._set("Change output", part=v)
        )
        card.row("Kind", self.drive_part)
        self.driven = self.choice(
            "Driven by",
            [(p.id, p.name) for p in drives if p.kind == "pin"],
            lambda v: self._set("Change what drives it", drive=v),
        )
        card.row("Driven by", self.driven)
        self.base = self.value(
            "Base resistor", lambda t: parse_resistance_ohm(t) if t.strip() else None, lambda v: self._set("Base resistor", ohm=v),
            "empty: chosen for a tenth of the load’s current",
        )  # fmt: skip
        self.base.setPlaceholderText("chosen")
        card.row("Base", self.base)
        self.on = QCheckBox("on")
        self.on.clicked.connect(lambda on: self._set("Work the output", on=bool(on)))
        self.chip = self.value(
            "Board",
            lambda t: t.strip()[:80],
            lambda v: self._set("Name the board", chip=v),
            "outputs of one board add up",
        )
        card.row("Board", self.chip, self.on)

    def refresh(self) -> None:
        part = self.part()
        if part is None:
            return
        several = len(self.document.selected_parts())
        self.heading.setText((part.name or "Source") if isinstance(part, Feed) else getattr(part, "id", ""))
        self.about.setText(
            kind_words(self.assessment, part) + (f", and {several - 1} more picked" if several > 1 else "")
        )
        for kind, card in self.kinds.items():
            card.setVisible(isinstance(part, kind))
        self.words.setText(self._flow_words(part))
        self.flows.setVisible(bool(self.words.text()))
        self.doing.refresh()
        self.clips.refresh()
        self.variants.refresh()
        if isinstance(part, Feed):
            self.supply.show_feed(part.id)
        else:
            self._show(part)

    def _show(self, part: Node) -> None:
        if isinstance(part, Resistor):
            branch = next((r for r in self.assessment.branches.values() if r.resistor == part.id), None)
            ohm = part.ohm or (branch.resistor_ohm if branch is not None else 0.0)
            self.ohm.show_value(format_resistance(part.ohm) if part.ohm else "")
            self.ohm.setPlaceholderText(f"{format_resistance(ohm)}, chosen" if ohm else "chosen")
            self.picture.show_ohm(ohm or None, self.plan.drawer.series)
        elif isinstance(part, Fuse):
            self.fuse.show_value(str(part.rated_a))
        elif isinstance(part, Switch):
            self.switch.show_value(part.kind)
            self.group.show_value(part.group)
            self.closed.setChecked(part.closed)
        elif isinstance(part, Wire):
            self.awg.show_value(str(part.awg))
            self.length.show_value(f"{part.length_mm:g}")
        elif isinstance(part, Load):
            self.load.show_value(part.part)
            self.flyback.setChecked(part.flyback)
            self.gears.show_value(", ".join(f"{a}:{b}" for a, b in part.gears))
            kind = self.document.catalogue.loads.get(part.part)
            motor = kind is not None and kind.kind == "motor"
            for field in (self.gears, self.turns, self.flyback):
                field.setEnabled(motor)
            self.turns.show_value("")
            show_homes(self.load_home, self.plan, "with its source")
            self.load_home.show_value(part.home)
        elif isinstance(part, Regulated):
            self.regulator.show_value(part.part)
            self.volts.show_value(f"{figure(part.volts)} V")
            show_homes(self.home, self.plan)
            self.home.show_value(part.home)
        elif isinstance(part, Switched):
            drive = self.document.catalogue.drives.get(part.part)
            self.drive_part.show_value(part.part)
            self.driven.show_value(part.drive)
            self.driven.setEnabled(drive is not None and drive.kind != "pin")
            self.base.setEnabled(drive is not None and drive.kind == "npn")
            self.base.show_value(format_resistance(part.ohm) if part.ohm else "")
            self.on.setChecked(part.on)
            self.chip.show_value(part.chip)

    def _flow_words(self, part: Node | Feed) -> str:
        state = self.assessment.parts.get(getattr(part, "id", ""))
        if state is None:
            return ""
        words = f"<b>{format_current(abs(state.current_a))}</b> through it"
        if abs(state.fresh_a) > 1.02 * abs(state.current_a):
            words += f", {format_current(abs(state.fresh_a))} while the cells are fresh"
        if isinstance(part, Regulated):
            kind = self.assessment.catalogue.regulators[part.part]
            heat = next((r for r in heat_of(self._assessed(), self.assessment).regulators if r.id == part.id), None)
            words += f". It gets {figure(state.in_v, 3)} V, gives {figure(state.volts, 3)} and needs {figure(kind.dropout_v)} to spare"
            if heat is not None:
                words += f"; it loses <b>{figure(heat.watt * 1e3)} mW</b>, about {heat.junction_c:.0f} °C inside."
                bad = [s.name for s in self.plan.sections if s.id in heat.not_in]
                words += f" Not in {', '.join(bad)}: the air there would pass 50 °C." if bad else ""
            return words
        if isinstance(part, Load):
            words += f" at {figure(state.volts, 3)} V"
            kind_ = self.assessment.catalogue.loads.get(part.part)
            speed = speed_of(kind_, state.volts, part.gears) if kind_ is not None else None
            if speed is not None:
                words += f". It turns at {figure(speed.motor_rpm, 3)} a minute"
                words += f", the last wheel at <b>{figure(speed.part_rpm, 3)}</b>" if part.gears else ""
                words += f"; it takes {format_current(speed.start_a)} to start"
        if isinstance(part, Resistor):
            colours = (
                bands(abs(state.volts / state.current_a), self.plan.drawer.series)
                if abs(state.current_a) > 1e-9
                else ()
            )
            words += f", {figure(abs(state.volts), 3)} V over it, {figure(state.heat_w * 1e3, 2)} mW" + (
                " at most" if colours else ""
            )
        if isinstance(part, Switched) and state.drive_a > 0:
            words += f"; {format_current(state.drive_a)} drives it"
        if state.limit_a:
            words += f". It bears {format_current(state.limit_a)}"
        return words + "."

    def _assessed(self) -> Plan:
        return self.document.assessed_plan
