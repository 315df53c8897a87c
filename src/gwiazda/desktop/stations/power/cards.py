"""Cards of the Power station: the sources, and what a lamp draws."""

from __future__ import annotations

from typing import Any

from gwiazda.core.assess.electrics.tolerance import MOST, tolerance_of
from gwiazda.core.assess.heat import heat_of
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Feed, Lamp, Plan, Supply
from gwiazda.core.plan.naming import name_of
from gwiazda.core.power.heat import AIR_LIMIT_C, ROOM_C
from gwiazda.core.quantities import figure, format_current, parse_voltage_v
from gwiazda.core.workshop.jotted import read_stock, stock_words
from gwiazda.desktop.forms.common import parts, sections
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import SEVERAL, Choice, Number, Quantity, whole
from gwiazda.desktop.panels.panel import PanelCard, button_of, side_by_side


def feed_names(plan: Plan) -> dict[str, str]:
    """The plan's sources by id, named as one would at the bench."""
    return {
        f.id: f.name or (f"source {i}" if len(plan.feeds) > 1 else "the source") for i, f in enumerate(plan.feeds, 1)
    }


def _feeds(card: PanelCard) -> list[tuple[str, str]]:
    return list(feed_names(card.plan).items())


def _on_battery(card: SupplyCard) -> bool:
    return card.source is not None and card.source.kind == "battery"


def _of_feed(path: str) -> dict[str, Any]:
    """Where a field of the supply is read from, and how it is written: a feed holds it."""
    return {
        "get": lambda feed: getattr(feed.supply, path),
        "put": lambda plan, feeds, v: edits.set_supply(plan, feeds[0].id, **{path: v}),
    }


class SupplyCard(PanelCard):
    """The plan's sources, one at a time: cells or adapter, and the drawer of resistors."""

    title = "Supply"
    model = Supply
    fields = (
        Field("feed", "Which source", Choice(_feeds), "The source whose fields follow", get=lambda f: f.id, takes=lambda card, v: card.show_feed(v),
              shown=lambda card: len(card.plan.feeds) > 1),
        Field("part", "Source", Choice(parts("sources")), "Cells, a pack or an adapter", "Change supply", get=lambda f: f.supply.part,
              put=lambda plan, feeds, v: edits.set_supply(plan, feeds[0].id, part=v, volts=None, in_parallel=1)),
        Field("in_series", "Cells in series", whole(), "One after the other: their volts add up", "Change cells", enabled=_on_battery, **_of_feed("in_series")),
        Field("in_parallel", "Sets in parallel", whole(), "Side by side: they last longer", "Change cells", enabled=_on_battery, **_of_feed("in_parallel")),
        Field("volts", "Output voltage", Quantity(parse_voltage_v), "What an adjustable adapter is set to", "Change voltage", name="Adapter voltage",
              get=lambda f: None, put=lambda plan, feeds, v: edits.set_supply(plan, feeds[0].id, volts=v),
              enabled=lambda card: card.source is not None and card.source.adjustable),
        Field("series", "Resistors", Choice((*((s, f"{s} series") for s in ("E6", "E12", "E24", "E96")), ("stock", "my own stock"))),
              "Which values are at hand: the chosen ones come from them", name="Resistors in the drawer", get=lambda f: None,
              takes=lambda card, v: card.document.edit("Change series", lambda plan: edits.set_drawer(plan, series=v))),
        Field("stock", "In stock", Quantity(read_stock, placeholder="220 x20, 470, 1k x5"), "What is in the drawer: 220 x20, 470, 1k x5", name="Resistors in stock",
              takes=lambda card, v: card.take_stock(v), shown=lambda card: card.plan.drawer.series == "stock"),
        Field("hours_a_day", "Hours per evening", Number("h", low=0.1, high=24), "How long it is lit on a day it is shown", "Hours an evening", name="Hours an evening",
              put=lambda plan, feeds, v: edits.set_feed(plan, feeds[0].id, hours_a_day=v)),
        Field("home", "Located in", Choice(sections(("", "the base, outside"))), "Where the source stands: its leads begin there", "Move the source",
              name="Where the source sits", put=lambda plan, feeds, v: edits.set_feed(plan, feeds[0].id, home=v)),
    )  # fmt: skip

    def build(self) -> None:
        self._feed = ""
        self.supply_facts = self.card.consequence()
        more = button_of(
            "Another source",
            "A second battery or adapter; lamps are put on it one by one, with a lamp picked",
            self._add,
        )
        self.less = button_of("Take it away", "What it powers goes to the first source then", self._drop)
        self.card.outer.addLayout(side_by_side(more, self.less))

    def show_feed(self, feed_id: str) -> None:
        """Show one of the sources."""
        self._feed = feed_id
        self.refresh()

    def items(self) -> list[Any]:
        """The source that is shown: the one picked in the circuit, or the one chosen here."""
        if self.panel.kind == "circuit":
            return [f for f in self.panel.items()[:1] if isinstance(f, Feed)]
        return [next((f for f in self.plan.feeds if f.id == self._feed), self.plan.feeds[0])]

    @property
    def source(self) -> Any:
        """The part of the source shown."""
        return self.document.catalogue.sources.get(self.first.supply.part)

    def take_stock(self, stock: dict[float, int]) -> None:
        """Keep what is in the drawer."""
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
        feed = self.first.id
        self.document.edit("Take the source away", lambda plan: edits.drop_feed(plan, feed))

    def refresh(self) -> None:
        self.card.setVisible(bool(self.items()))
        if self.items():
            super().refresh()

    def say(self) -> None:
        plan, feed = self.plan, self.first
        self.less.setEnabled(len(plan.feeds) > 1)
        s = self.panel.assessment.feeds.get(feed.id, self.panel.assessment.supply)
        self.form.typed("volts").show_value(f"{figure(s.nominal_v)} V")
        self.form.chosen("series").show_value(plan.drawer.series)
        self.form.typed("stock").show_value(stock_words(self.document.workshop.stock))
        care = f"{self.source.care} {self.source.charging}".strip() if self.source is not None else ""
        self.supply_facts.setText(f"<b>{s.terminal_v:.2f} V</b> under {figure(s.draw_a * 1e3)} mA. {care}")


def _feed_of(card: LampPowerCard) -> Any:
    homes = {edits.feed_of(card.plan, p.id).id for p in card.items()}
    return homes.pop() if len(homes) == 1 else SEVERAL


def _put_on(card: LampPowerCard, feed_id: str) -> None:
    ids = [p.id for p in card.items()]
    card.document.edit("Put it on another source", lambda plan: edits.hang_on(plan, ids, feed_id))


class LampPowerCard(PanelCard):
    """Volts, draw and heat of a lamp, and which source it is powered by."""

    title = "Volts, draw and heat"
    fields = (
        Field("feed", "Powered by", Choice(_feeds), "Which source it is on", name="Source it hangs on", takes=_put_on),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()
        self.turn = self.button(
            "Turn it the other way round", "Plus and minus swapped: dark, unless it has a rectifier in its lead", self._turn
        )  # fmt: skip

    def _turn(self) -> None:
        ids = [p.id for p in self.items()]

        def change(plan: Plan) -> Plan:
            for lamp_id in ids:
                plan = edits.reverse(plan, lamp_id)
            return plan

        self.document.edit("Turn round", change)

    def say(self) -> None:
        self.form.chosen("feed").offer(_feeds(self))
        home = _feed_of(self)
        self.form.chosen("feed").show_value("several" if home is SEVERAL else home)
        lamps: list[Lamp] = self.items()
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
        if len(plan.lamps) > MOST or document.drag_start is not document.plan:
            return ""
        drawn = tolerance_of(plan, self.panel.assessment)
        spread = drawn.lamps.get(lamp_id)
        if spread is None:
            return ""
        low, _, high = spread.light
        words = f" Parts and source stray: <b>{figure(low * 100, 2)} to {figure(high * 100, 2)} %</b> of its light."
        among = next((m for m in drawn.mismatches if lamp_id in m.lamps), None)
        return words + (f" Of the {len(among.lamps)} meant alike {among.words}." if among is not None else "")


class WarmthCard(PanelCard):
    """How warm it gets in closed sections, and in regulators; the warmest first."""

    title = "Warmth"
    extra = True

    def build(self) -> None:
        self.words = self.card.consequence()

    def refresh(self) -> None:
        plan = self.document.assessed_plan
        heat = heat_of(plan, self.panel.assessment)
        names = {s.id: s.name for s in plan.sections}
        warm = sorted(heat.sections, key=lambda s: -s.air_c)[:4]
        lines = [f"{names[s.id]}: <b>{s.air_c:.0f} °C</b> inside, {figure(s.watt * 1e3)} mW" for s in warm]
        lines += [
            f"{name_of(plan, r.id)}: {r.junction_c:.0f} °C in it, {figure(r.watt * 1e3)} mW"
            + (f"; not in {', '.join(names[i] for i in r.not_in)}" if r.not_in else "")
            for r in heat.regulators
        ]
        self.words.setText(
            "<br>".join([*lines, f"In a room of {ROOM_C:.0f} °C; under {AIR_LIMIT_C:.0f} is safe for plastic."])
            if lines
            else "Nothing in a closed section gets warm."
        )
