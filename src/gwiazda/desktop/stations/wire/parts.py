"""Parts of circuits and sources picked: their values, what flows, what they do."""

from __future__ import annotations

import re
from typing import Any

from gwiazda.core.assess.bodies.reed import reed_of
from gwiazda.core.assess.electrics.gears import speed_of, volts_for
from gwiazda.core.assess.heat import heat_of
from gwiazda.core.assess.show.outputs import board_name
from gwiazda.core.circuit.fuses import FUSES
from gwiazda.core.circuit.series import bands
from gwiazda.core.errors import QuantityError
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Feed, Fuse, Load, Node, Plan, Regulated, Resistor, Switch, Switched, Wire
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import (
    figure,
    format_current,
    format_resistance,
    parse_number,
    parse_resistance_ohm,
    parse_voltage_v,
)
from gwiazda.desktop.forms.common import parts, sections
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, Number, Quantity, Text, millimetres
from gwiazda.desktop.panels.panel import Panel, PanelCard
from gwiazda.desktop.stations.wire.words import kind_words
from gwiazda.desktop.widgets.resistor import ResistorPicture


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


def heading(panel: Panel) -> tuple[str, str]:
    here = panel.items()
    part = here[0]
    name = (part.name or "Source") if isinstance(part, Feed) else name_of(panel.plan, part.id)
    return name, kind_words(panel.assessment, part) + (f", and {len(here) - 1} more picked" if len(here) > 1 else "")


class FlowCard(PanelCard):
    """What flows through the part that is picked."""

    def build(self) -> None:
        self.card = self.panel.card("")
        self.words = self.card.consequence()

    @property
    def assessment(self) -> Any:
        return self.panel.assessment

    def refresh(self) -> None:
        self.words.setText(self._flow_words(self.first))
        self.card.setVisible(bool(self.words.text()))

    def _flow_words(self, part: Node | Feed) -> str:
        state = self.assessment.parts.get(getattr(part, "id", ""))
        if state is None:
            return ""
        words = f"<b>{format_current(abs(state.current_a))}</b> through it"
        if abs(state.fresh_a) > 1.02 * abs(state.current_a):
            words += f", {format_current(abs(state.fresh_a))} while the cells are fresh"
        if isinstance(part, Regulated):
            kind = self.assessment.catalogue.regulators[part.part]
            heat = next(
                (r for r in heat_of(self.document.assessed_plan, self.assessment).regulators if r.id == part.id), None
            )
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


class PartKindCard(PanelCard):
    """The card of one kind of part; it shows where one is picked."""

    def items(self) -> list[Any]:
        first = self.panel.items()[:1]
        return [p for p in first if isinstance(p, self.model or ())]

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return edits.set_part(plan, items[0].id, **fields)

    def refresh(self) -> None:
        self.card.setVisible(bool(self.items()))
        if self.items():
            super().refresh()


def _ohm(text: str) -> float | None:
    return parse_resistance_ohm(text) if text.strip() else None


class ResistorCard(PartKindCard):
    """A resistor of the circuit."""

    title = "Resistor"
    model = Resistor
    fields = (
        Field("ohm", "Value", Quantity(_ohm, format_resistance), "4k7 fixes it; empty lets Gwiazda choose from the drawer", "Change resistor",
              get=lambda p: p.ohm or None),
    )  # fmt: skip

    def build(self) -> None:
        self.picture = ResistorPicture()
        self.card.row("", self.picture)

    def say(self) -> None:
        part: Resistor = self.first
        branches = self.panel.assessment.branches.values()
        branch = next((r for r in branches if r.resistor == part.id), None)
        ohm = part.ohm or (branch.resistor_ohm if branch is not None else 0.0)
        self.form.typed("ohm").setPlaceholderText(f"{format_resistance(ohm)}, chosen" if ohm else "chosen")
        self.picture.show_ohm(ohm or None, self.plan.drawer.series)


class FuseCard(PartKindCard):
    """A fuse."""

    title = "Fuse"
    model = Fuse
    fields = (
        Field("rated_a", "Rated current", Choice([(str(f), format_current(f)) for f in FUSES]), "It blows when about twice as much goes through it",
              "Change fuse", put=lambda plan, items, v: edits.set_part(plan, items[0].id, rated_a=float(v))),
    )  # fmt: skip


class SwitchCard(PartKindCard):
    """A switch."""

    title = "Switch"
    model = Switch
    fields = (
        Field("kind", "Kind", Choice(parts("switches")), "How it is worked", "Change switch", name="Kind of switch"),
        Field("group", "Worked with", Text(80), "Switches of one name are worked together", "Group switches"),
        Field("home", "Located in", Choice(sections(("", "not said"))), "Where it stands: its place, and whether a magnet reaches a reed there, is said at Power", "Move the switch",
              name="Where the switch stands"),
        Field("closed", "", Flag("closed"), "Whether it lets current through as the plan is shown", "Work the switch"),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()

    def say(self) -> None:
        part, found = (
            self.document.catalogue.switch(self.first.kind),
            reed_of(self.document.catalogue, self.plan, self.first),
        )
        hole = f" Hole {figure(part.hole_mm)} mm." if part.hole_mm else ""
        deep = ""
        if found is not None:
            magnets = " or a ".join(found.works)
            deep = f"<b>{figure(found.depth_mm, 2)} mm</b> behind the outside: " + (
                f"a {magnets} closes it. " if magnets else "no magnet closes it there. "
            )
        self.words.setText(f"{deep}{part.about}{hole}")


def read_gauge(text: str) -> int:
    """``AWG 30`` or ``30``."""
    return int(parse_number(text.upper().removeprefix("AWG").strip(), "Gauge", 18, 44, whole=True))


class WireCard(PartKindCard):
    """A length of wire in the circuit."""

    title = "Wire"
    model = Wire
    fields = (
        Field("awg", "Wire gauge", Quantity(read_gauge, lambda v: f"AWG {v}"), "AWG 18 to 44; a higher number is thinner and loses more", "Change wire", name="Gauge"),
        Field("length_mm", "Length", millimetres(1), "There and back", "Change wire", name="Length of the wire"),
    )  # fmt: skip


def _is_motor(card: PartKindCard) -> bool:
    kind = card.document.catalogue.loads.get(card.first.part)
    return kind is not None and kind.kind == "motor"


def _slow(card: PartKindCard, rpm: float) -> None:
    part: Load = card.first
    kind = card.document.catalogue.loads.get(part.part)
    volts = volts_for(kind, part.gears, rpm) if kind is not None else None
    if volts is None:
        card.document.message_stop("Only a motor turns, and this one can’t turn so fast.")
        return
    card.document.edit("Slow it with a regulator", lambda plan: edits.regulate(plan, part.id, round(volts, 2)))


class LoadCard(PartKindCard):
    """A motor or a sound module."""

    title = "Motor or sound"
    model = Load
    fields = (
        Field("part", "Part", Choice(parts("loads")), "Which motor or sound module it is", "Change part"),
        Field("flyback", "", Flag("diode across it, ring to plus"), "Takes the kick of a motor that is switched off; without it a transistor dies",
              "Flyback diode", enabled=_is_motor),
        Field("gears", "Gears", Quantity(read_gears, lambda v: ", ".join(f"{a}:{b}" for a, b in v), placeholder="10:40, 12:36"),
              "Teeth, driver first: 10:40, 12:36", "Change gears", enabled=_is_motor),
        Field("turns", "To turn at", Number("", 0.01, 100_000), "Turns a minute; the regulator that gives it is put in", name="Wanted turns a minute",
              takes=_slow, enabled=_is_motor),
        Field("home", "Located in", Choice(sections(("", "with its source"))), "Its two wires go there through the passages", "Move the motor or sound",
              name="Where it is"),
    )  # fmt: skip

    def build(self) -> None:
        self.form.typed("turns").setPlaceholderText("turns a minute")

    def say(self) -> None:
        self.form.typed("turns").show_value("")


class RegulatorCard(PartKindCard):
    """A regulator with what hangs behind it."""

    title = "Regulator"
    model = Regulated
    fields = (
        Field("part", "Kind", Choice(parts("regulators")), "Which regulator it is", "Change regulator"),
        Field("volts", "Holds", Quantity(parse_voltage_v, lambda v: f"{figure(v)} V"), "The voltage at its output", "Change voltage"),
        Field("home", "Located in", Choice(sections(("", "the base, outside"))), "Where it gets warm", "Move the regulator", name="Where it sits"),
    )  # fmt: skip


def _drive(card: PartKindCard) -> Any:
    return card.document.catalogue.drives.get(card.first.part)


class StageCard(PartKindCard):
    """An output or a stage that switches what hangs behind it."""

    title = "Output or stage"
    model = Switched
    fields = (
        Field("part", "Kind", Choice(parts("drives")), "A pin, a transistor, a relay, a reed", "Change output"),
        Field("drive", "Driven by", Choice(lambda card: [(p.id, p.name) for p in card.document.catalogue.drives.values() if p.kind == "pin"]),
              "The pin that works it", "Change what drives it", enabled=lambda card: (d := _drive(card)) is not None and d.kind != "pin"),
        Field("ohm", "Base resistor", Quantity(_ohm, format_resistance, placeholder="chosen"), "Empty: chosen for a tenth of the load’s current", "Base resistor",
              get=lambda p: p.ohm or None, enabled=lambda card: (d := _drive(card)) is not None and d.kind == "npn"),
        Field("on", "", Flag("on"), "Whether it is on as the plan is shown", "Work the output"),
        Field("chip", "Board", Text(80), "Outputs of one board add up", "Name the board"),
    )  # fmt: skip

    def say(self) -> None:
        chip = self.first.chip
        if any(b.id == chip for b in self.plan.boards):
            self.form.typed("chip").show_value(board_name(self.plan, chip, self.document.catalogue))
