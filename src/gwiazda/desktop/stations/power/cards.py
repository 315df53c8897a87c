"""Cards of the Power station: the sources, and what a lamp draws."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QPushButton

from gwiazda.core.assess.circuit.tolerance import MOST, tolerance_of
from gwiazda.core.assess.heat import heat_of
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Feed, Lamp, Plan
from gwiazda.core.power.heat import AIR_LIMIT_C, ROOM_C
from gwiazda.core.quantities import figure, format_current, parse_number, parse_voltage_v
from gwiazda.core.workshop.jotted import read_stock, stock_words
from gwiazda.desktop.inspector.cards import Panel, label
from gwiazda.desktop.widgets.fields import ChoiceField


def feed_names(plan: Plan) -> dict[str, str]:
    """The plan's sources by id, named as one would at the bench."""
    return {
        f.id: f.name or (f"source {i}" if len(plan.feeds) > 1 else "the source") for i, f in enumerate(plan.feeds, 1)
    }


def show_feeds(field: ChoiceField, plan: Plan) -> None:
    """Offer the plan's sources in a field."""
    names = feed_names(plan)
    if [(field.itemData(i), field.itemText(i)) for i in range(field.count())] != list(names.items()):
        field.clear()
        for value, words in names.items():
            field.addItem(words, value)


def show_homes(field: ChoiceField, plan: Plan, none: str = "the base, outside") -> None:
    """Offer the plan's sections as places for a part, and in words where it is without one."""
    names = [("", none), *((s.id, s.name) for s in plan.sections)]
    if [(field.itemData(i), field.itemText(i)) for i in range(field.count())] != names:
        field.clear()
        for value, words in names:
            field.addItem(words, value)


class SupplyCard:
    """The plan's sources, one at a time: cells or adapter, and the drawer of resistors."""

    def __init__(self, panel: Panel) -> None:
        self.panel, self.document = panel, panel.document
        card = panel.card("Supply", "power")
        self._feed = ""
        self.feed = panel.choice("Which source", [], self._choose)
        card.row("Of", self.feed)
        self.supply = panel.choice(
            "Source",
            [(s.id, s.name) for s in self.document.catalogue.sources.values()],
            lambda v: self._edit("Change supply", part=v, volts=None, in_parallel=1),
        )
        card.row("Source", self.supply)
        read = lambda t: int(parse_number(t, "Cells", 1, 40, whole=True))  # noqa: E731
        self.in_series = panel.value(
            "Cells in series", read, lambda v: self._edit("Change cells", in_series=v), "1 to 40"
        )
        self.in_parallel = panel.value(
            "Sets in parallel", read, lambda v: self._edit("Change cells", in_parallel=v), "1 to 40"
        )
        self.cells_words = label("in series, sets", "unit")
        card.row("Cells", self.in_series, self.cells_words, self.in_parallel)
        self.volts = panel.value(
            "Adapter voltage", parse_voltage_v, lambda v: self._edit("Change voltage", volts=v),
            "set voltage of an adjustable adapter, 9 V",
        )  # fmt: skip
        card.row("Output voltage", self.volts)
        self.series = panel.choice(
            "Resistors in the drawer",
            [*((s, f"{s} series") for s in ("E6", "E12", "E24", "E96")), ("stock", "my own stock")],
            lambda v: self.document.edit("Change series", lambda plan: edits.set_drawer(plan, series=v)),
        )
        card.row("Resistors", self.series)
        self.stock = panel.value(
            "Resistors in stock", read_stock, self._take_stock, "what is in the drawer: 220 x20, 470, 1k x5"
        )
        self.stock.setPlaceholderText("220 x20, 470, 1k x5")
        card.row("In stock", self.stock)
        self.a_day = panel.value(
            "Hours an evening", lambda t: parse_number(t, "Hours an evening", 0.1, 24, "h"), self._take_day,
            "how long it is lit on a day it is shown, 0.1 to 24 h",
        )  # fmt: skip
        card.row("Hours per evening", self.a_day)
        self.home = panel.choice("Where the source sits", [], self._move)
        card.row("Located in", self.home)
        self.supply_facts = card.consequence()
        buttons = QHBoxLayout()
        more = QPushButton("Another source")
        more.setToolTip("A second battery or adapter; lamps are hung on it one by one, with a lamp picked")
        more.clicked.connect(self._add)
        self.less = QPushButton("Take it away")
        self.less.setToolTip("What hangs on it hangs on the first source then")
        self.less.clicked.connect(self._drop)
        buttons.addWidget(more)
        buttons.addWidget(self.less)
        card.outer.addLayout(buttons)

    def _choose(self, feed_id: str) -> None:
        self._feed = feed_id
        self.refresh()

    def show_feed(self, feed_id: str) -> None:
        """Show one of the sources."""
        self._feed = feed_id
        self.refresh()

    def _shown(self) -> Feed:
        feeds = self.panel.plan.feeds
        return next((f for f in feeds if f.id == self._feed), feeds[0])

    def _edit(self, what: str, **fields: Any) -> None:
        feed = self._shown().id
        self.document.edit(what, lambda plan: edits.set_supply(plan, feed, **fields))

    def _take_day(self, hours: float) -> None:
        feed = self._shown().id
        self.document.edit("Hours an evening", lambda plan: edits.set_feed(plan, feed, hours_a_day=hours))

    def _move(self, home: str) -> None:
        feed = self._shown().id
        self.document.edit("Move the source", lambda plan: edits.set_feed(plan, feed, home=home))

    def _take_stock(self, stock: dict[float, int]) -> None:
        try:
            self.document.change_workshop(self.document.workshop.with_stock(stock))
        except GwiazdaError as error:
            self.document.message_stop(str(error))

    def _add(self) -> None:
        made: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, new = edits.add_feed(plan, "block-9v")
            made.append(new)
            return plan

        if self.document.edit("Another source", change):
            self._feed = made[0]
            self.refresh()

    def _drop(self) -> None:
        feed = self._shown().id
        self.document.edit("Take the source away", lambda plan: edits.drop_feed(plan, feed))

    def refresh(self) -> None:
        plan, feed = self.panel.plan, self._shown()
        show_feeds(self.feed, plan)
        self.feed.show_value(feed.id)
        self.less.setEnabled(len(plan.feeds) > 1)
        supply = feed.supply
        self.supply.show_value(supply.part)
        source = self.document.catalogue.sources.get(supply.part)
        battery = source is not None and source.kind == "battery"
        self.in_series.show_value(str(supply.in_series))
        self.in_parallel.show_value(str(supply.in_parallel))
        self.in_series.setEnabled(battery)
        self.in_parallel.setEnabled(battery)
        self.volts.setEnabled(source is not None and source.adjustable)
        s = self.panel.assessment.feeds.get(feed.id, self.panel.assessment.supply)
        self.volts.show_value(f"{figure(s.nominal_v)} V")
        self.series.show_value(plan.drawer.series)
        self.stock.setEnabled(plan.drawer.series == "stock")
        self.stock.show_value(stock_words(self.document.workshop.stock))
        show_homes(self.home, plan)
        self.home.show_value(feed.home)
        self.a_day.show_value(f"{figure(feed.hours_a_day)} h an evening")
        self.supply_facts.setText(
            f"<b>{s.terminal_v:.2f} V</b> under {figure(s.draw_a * 1e3)} mA. {source.care if source else ''}"
        )


class LampPowerCard:
    """Volts, draw and heat of a lamp, and which source it hangs on."""

    def __init__(self, panel: Panel, lamps: Callable[[], list[Lamp]]) -> None:
        self.panel, self.document, self.lamps = panel, panel.document, lamps
        card = panel.card("Volts, draw and heat", "power")
        self.words = card.consequence()
        self.feed = panel.choice("Source it hangs on", [], self._hang)
        card.row("Powered by", self.feed)
        self.turn = QPushButton("Turn it the other way round")
        self.turn.setToolTip("Plus and minus swapped: dark, unless it has a rectifier in its lead")
        self.turn.clicked.connect(self._turn)
        card.outer.addWidget(self.turn)

    def _hang(self, feed_id: str) -> None:
        ids = [p.id for p in self.lamps()]
        self.document.edit("Hang on another source", lambda plan: edits.hang_on(plan, ids, feed_id))

    def _turn(self) -> None:
        ids = [p.id for p in self.lamps()]

        def change(plan: Plan) -> Plan:
            for lamp_id in ids:
                plan = edits.reverse(plan, lamp_id)
            return plan

        self.document.edit("Turn round", change)

    def refresh(self, lamps: list[Lamp]) -> None:
        show_feeds(self.feed, self.panel.plan)
        homes = {edits.feed_of(self.panel.plan, p.id).id for p in lamps}
        self.feed.show_value(homes.pop() if len(homes) == 1 else "several")
        assessment = self.panel.assessment
        states = [assessment.lamps[p.id] for p in lamps if p.id in assessment.lamps]
        if not states:
            self.words.setText("")
            return
        branches = {s.branch: assessment.branches[s.branch] for s in states}
        draw, heat = sum(r.current_a for r in branches.values()), sum(r.resistor_w for r in branches.values())
        one = states[0]
        hot = one.fresh_a > 1.02 * one.current_a
        fresh = f", {format_current(one.fresh_a)} while the cells are fresh" if hot else ""
        volts = ""
        if len(states) == 1:
            volts = f"<b>{one.forward_v:.2f} V</b> at {format_current(max(one.current_a, 0.0))}{fresh}. "
        self.words.setText(
            f"{volts}Draw <b>{format_current(abs(draw))}</b>; {figure(heat * 1e3)} mW of heat in "
            f"{'its resistor' if len(branches) == 1 else 'their resistors'} at most.{self._strays(one.id)}"
        )

    def _strays(self, lamp_id: str) -> str:
        """What the tolerances of parts and source make of the lamp, and of those meant alike."""
        plan, document = self.document.assessed_plan, self.document
        # A thousand draws take some 60 ms: not while something is dragged, nor where the card is folded.
        if len(plan.lamps) > MOST or document.station != "power" or document.drag_start is not document.plan:
            return ""
        drawn = tolerance_of(plan, self.panel.assessment)
        spread = drawn.lamps.get(lamp_id)
        if spread is None:
            return ""
        low, _, high = spread.light
        words = f" Parts and source stray: <b>{figure(low * 100, 2)} to {figure(high * 100, 2)} %</b> of its light."
        among = next((m for m in drawn.mismatches if lamp_id in m.lamps), None)
        return words + (f" Of the {len(among.lamps)} meant alike {among.words}." if among is not None else "")


class WarmthCard:
    """How warm it gets in closed sections, and in regulators; the warmest first."""

    def __init__(self, panel: Panel) -> None:
        self.panel, self.document = panel, panel.document
        self.card = panel.card("Warmth", "power")
        self.words = self.card.consequence()

    def refresh(self) -> None:
        if self.document.station != "power":
            return
        plan = self.document.assessed_plan
        heat = heat_of(plan, self.panel.assessment)
        names = {s.id: s.name for s in plan.sections}
        warm = sorted(heat.sections, key=lambda s: -s.air_c)[:4]
        lines = [f"{names[s.id]}: <b>{s.air_c:.0f} °C</b> inside, {figure(s.watt * 1e3)} mW" for s in warm]
        lines += [
            f"{r.id}: {r.junction_c:.0f} °C in it, {figure(r.watt * 1e3)} mW"
            + (f"; not in {', '.join(names[i] for i in r.not_in)}" if r.not_in else "")
            for r in heat.regulators
        ]
        self.words.setText(
            "<br>".join([*lines, f"In a room of {ROOM_C:.0f} °C; under {AIR_LIMIT_C:.0f} is safe for plastic."])
            if lines
            else "Nothing in a closed section gets warm."
        )
