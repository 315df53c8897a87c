"""Cards that try things on the circuit: their way of wiring, proposals, three ways to dim, clips of a supply or meter."""

from __future__ import annotations

import math
import threading

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout

from gwiazda.core.assess.electrics.dimming import dimmings
from gwiazda.core.assess.electrics.propose import Proposal, hours_words, proposals
from gwiazda.core.circuit.shelf import pair_for, shelf_of
from gwiazda.core.findings.what_if import Tried, habits_for, tried
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Lamp
from gwiazda.core.quantities import (
    counted,
    figure,
    format_current,
    format_resistance,
    letter_code,
    parse_current_a,
    parse_voltage_v,
)
from gwiazda.desktop.panels.panel import PanelCard, clear, label
from gwiazda.desktop.stations.wire.clips import clips_of
from gwiazda.desktop.widgets.offer import OfferButton

OFF = 0.08  # a single value off by more has a pair offered


class HabitCard(PanelCard):
    """What if it's wired their way: tried on the plan, shown as light, answered in a sentence."""

    title = "Common wiring habits"
    extra = True

    def build(self) -> None:
        panel = self.panel
        self.choice = panel.choice("A way to wire", [], self._try)
        self.card.row("Try", self.choice)
        self.words = self.card.consequence()
        row = QHBoxLayout()
        self.keep = QPushButton("Keep it so")
        self.keep.setToolTip("Wire the plan that way")
        self.keep.clicked.connect(self._keep)
        self.back = QPushButton("Back to the plan")
        self.back.setToolTip("Leave the plan as it was")
        self.back.clicked.connect(self._back)
        row.addWidget(self.keep)
        row.addWidget(self.back)
        self.card.outer.addLayout(row)
        self.shown: Tried | None = None
        self._waits = False
        self._ids: tuple[str, ...] = ()
        self._buttons(False)

    def _buttons(self, on: bool) -> None:
        self.keep.setVisible(on)
        self.back.setVisible(on)

    def _lamps(self) -> tuple[str, ...]:
        return tuple(i.id for i in self.document.selected_items() if isinstance(i, Lamp))

    def _try(self, habit: str) -> None:
        self.document.end_trial()
        self._waits = False
        if not habit:
            self.words.setText("")
            self._buttons(False)
            return
        plan, catalogue, ids = self.document.plan, self.document.catalogue, self._lamps()
        found = self.document.assessment if self.document.assessed_plan is plan else None
        self.words.setText("…")
        self._waits = found is None
        if found is None:  # its figures are under way: tried when they are here
            return
        self.panel.task("habit").ask(plan, lambda: tried(plan, found, ids, habit, catalogue), self._show, self._done)

    def _show(self, result: Tried) -> None:
        if result.habit.id != self.choice.currentData() or not self.document.try_out(result.edit):
            return
        self.shown = result
        self.words.setObjectName("stop" if result.harm else "fine")
        self.words.style().polish(self.words)
        self.words.setText(result.sentence)
        self._buttons(True)

    def _keep(self) -> None:
        if self.shown is not None and self.document.on_trial:
            self.document.commit(f"Wire it: {self.shown.habit.words.lower()}")
        self._done()

    def _back(self) -> None:
        self.document.end_trial()
        self._done()

    def _done(self) -> None:
        self.shown, self._waits = None, False
        self.choice.setCurrentIndex(0)
        self.words.setText("")
        self._buttons(False)

    def refresh(self) -> None:
        ids = self._lamps()
        if self.shown is not None and not self.document.on_trial:
            self._done()
        if ids == self._ids:
            if self._waits and self.document.assessed_plan is self.document.plan:
                self._try(self.choice.currentData())
            return
        self._ids = ids
        self.choice.clear()
        for value, words in [("", "choose"), *((h.id, h.words) for h in habits_for(ids))]:
            self.choice.addItem(words, value)
        self._done()


class DimmingCard(PanelCard):
    """Three ways to one look, and a pair of resistors where no single one comes near."""

    title = "Dimmed three ways"
    extra = True

    def build(self) -> None:
        self.words = self.card.consequence()
        self.pair = QPushButton("")
        self.pair.clicked.connect(self._take)
        self.card.outer.addWidget(self.pair)
        self._pair: tuple[str, str, float, float] | None = None

    def refresh(self) -> None:
        lamps = self.items()
        assessment, plan = self.panel.assessment, self.document.assessed_plan
        first = next((p.id for p in lamps if p.id in assessment.lamps), None)
        if first is None:
            self.pair.setVisible(False)
            return
        ways = dimmings(plan, assessment, first)
        lines = []
        for d in ways:
            how = {
                "resistor": f"By resistor: {format_resistance(d.ohm)}",
                "supply": f"By supply: {figure(d.volts)} V, {format_resistance(d.ohm)}",
                "duty": f"By duty: on {figure(d.duty * 100, 2)} % of the time, {format_resistance(d.ohm)}",
            }[d.way]
            lines.append(
                f"{how}; {format_current(d.current_a)}, <b>{figure(d.draw_w * 1e3, 2)} mW</b>, {figure(d.lost_w * 1e3, 2)} lost"
            )
        self.words.setText("<br>".join(lines) or "It is wanted at full: there is nothing to dim.")
        self._offer_pair(first, [p.id for p in lamps])

    def _offer_pair(self, lamp_id: str, ids: list[str]) -> None:
        assessment = self.panel.assessment
        branch = assessment.branches[assessment.lamps[lamp_id].branch]
        self._pair = None
        off = abs(branch.resistor_ohm / branch.needed_ohm - 1.0) if branch.needed_ohm > 0 else 0.0
        if branch.chosen and off > OFF:
            shelf = shelf_of(self.panel.plan.drawer.series, self.document.catalogue.resistors)
            pair = pair_for(branch.needed_ohm, shelf, 0.99 * branch.needed_ohm)
            if pair is not None and abs(pair.ohm / branch.needed_ohm - 1.0) < 0.5 * off:
                self._pair = (lamp_id, pair.how, pair.a_ohm, pair.b_ohm)
                sign = " + " if pair.how == "series" else " beside "
                self.pair.setText(
                    f"{letter_code(pair.a_ohm)}{sign}{letter_code(pair.b_ohm)}: {format_resistance(pair.ohm)} instead"
                )
                self.pair.setToolTip(
                    f"{format_resistance(branch.resistor_ohm)} is {off * 100:.0f} % off the {format_resistance(branch.needed_ohm)} it takes"
                )
        self.pair.setVisible(self._pair is not None)

    def _take(self) -> None:
        if self._pair is not None:
            lamp_id, how, a, b = self._pair
            self.document.edit("Take a pair of resistors", lambda plan: edits.set_pair(plan, lamp_id, how, a, b))


class ProposalsCard(PanelCard):
    """Circuits proposed, several with their figures; a click takes one."""

    title = "Proposed circuits"
    extra = True

    def build(self) -> None:
        row = QHBoxLayout()
        self.ask = QPushButton("Propose circuits")
        self.ask.setToolTip(
            "Strings and sources that spare resistors, joints and loss; what has a value fixed by hand stays"
        )
        self.ask.clicked.connect(self._ask)
        self.halt = QPushButton("Stop")
        self.halt.setToolTip("Show what is found until now")
        self.halt.clicked.connect(self._halt)
        row.addWidget(self.ask)
        row.addWidget(self.halt)
        self.card.outer.addLayout(row)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(3)
        self.card.outer.addLayout(self.rows)
        self._stop: threading.Event = threading.Event()
        self._for: object = None
        self.shown: tuple[Proposal, ...] = ()
        self.halt.setVisible(False)

    def _halt(self) -> None:
        self._stop.set()

    def _ask(self) -> None:
        self._stop.set()
        stop = self._stop = threading.Event()
        plan, assessment = self.document.assessed_plan, self.document.assessment
        self._for = plan
        self.halt.setVisible(True)
        self.panel.task("proposals").ask(
            plan, lambda: proposals(plan, assessment, stop.is_set), self._show, lambda: self.halt.setVisible(False)
        )

    def _show(self, result: tuple[Proposal, ...]) -> None:
        self.halt.setVisible(False)
        clear(self.rows)
        self.shown = result
        table = label(_table(result))
        table.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        table.setToolTip(
            "R: resistors; lost: in them; hours to half the light; least: the dimmest lamp over what is wanted"
        )
        self.rows.addWidget(table)
        for k, p in enumerate(result):
            f = p.figures
            button = OfferButton(f"{k + 1}  {p.name}")
            button.show_outcome("", "fine" if k == 0 else "look")
            words = (
                f"{counted(f.resistors, 'resistor')} of {counted(f.values, 'value')}, {counted(f.joints, 'joint')}; {format_current(f.draw_a)}, "
                f"{f.lost_share * 100:.0f} % lost; {hours_words(f.hours)}; the dimmest gives {f.dimmest * 100:.0f} % of what is wanted. "
                f"{p.words[:1].upper()}{p.words[1:]}."
            )
            button.setToolTip(words)
            button.clicked.connect(lambda _=False, i=k: self._take(i))
            button.setEnabled(p.plan is not self._for)
            self.rows.addWidget(button)
            about = label(f"{p.words[:1].upper()}{p.words[1:]}.", "muted", wrap=True)
            self.rows.addWidget(about)

    def _take(self, index: int) -> None:
        if index < len(self.shown) and self._for is self.document.plan:
            proposal = self.shown[index]
            self.document.edit(f"Wire it: {proposal.name}", edits.as_edit(self.document.plan, proposal.plan))

    def refresh(self) -> None:
        if self.shown and self._for is not self.document.plan:
            clear(self.rows)
            self.shown = ()
        self.ask.setEnabled(bool(self.panel.assessment.lamps))


def _table(shown: tuple[Proposal, ...]) -> str:
    """The figures of proposals side by side."""
    cell = "<td align='right' style='padding-right:6px'>"
    heads = "".join(f"{cell}{w}</td>" for w in ("", "R", "joints", "mA", "wasted", "hours", "least"))
    rows = []
    for k, p in enumerate(shown):
        f = p.figures
        figures = (
            f"<b>{k + 1}</b>", f"{f.resistors}", f"{f.joints}", figure(f.draw_a * 1e3), f"{f.lost_share * 100:.0f} %",
            figure(f.hours) if math.isfinite(f.hours) else "no end", f"{f.dimmest * 100:.0f} %",
        )  # fmt: skip
        rows.append("<tr>" + "".join(f"{cell}{w}</td>" for w in figures) + "</tr>")
    return f"<table><tr>{heads}</tr>{''.join(rows)}</table>"


class ClipsCard(PanelCard):
    """A simulated bench supply, or a meter, clipped onto two points of the drawing."""

    title = "Bench supply and meter"
    extra = True

    def build(self) -> None:
        panel = self.panel
        self.clips = clips_of(self.document)
        self.use = panel.choice(
            "Instrument",
            [("", "a meter"), ("supply", "a bench supply, own source off")],
            lambda v: self.clips.set(supply=bool(v)),
        )
        self.card.row("Instrument", self.use)
        self.volts = panel.value("Supply voltage", parse_voltage_v, lambda v: self.clips.set(volts=v), "0.001 to 60 V")
        self.limit = panel.value(
            "Current limit", parse_current_a, lambda v: self.clips.set(limit_a=v), "20 mA is safe for most lamps"
        )
        self.card.row("Voltage", self.volts)
        self.card.row("Current limit", self.limit)
        row = QHBoxLayout()
        self.begin = QPushButton("Place the clips")
        self.begin.setToolTip("Click two points in the drawing: red first, then black")
        self.begin.clicked.connect(self.clips.begin)
        self.off = QPushButton("Take them off")
        self.off.clicked.connect(self.clips.take_off)
        row.addWidget(self.begin)
        row.addWidget(self.off)
        self.card.outer.addLayout(row)
        self.words = self.card.consequence()
        self.clips.changed.connect(self.refresh)

    def refresh(self) -> None:
        try:
            self.use.show_value("supply" if self.clips.supply else "")
            self.volts.show_value(f"{figure(self.clips.volts)} V")
            self.limit.show_value(format_current(self.clips.limit_a))
            self.volts.setEnabled(self.clips.supply)
            self.limit.setEnabled(self.clips.supply)
            self.off.setEnabled(self.clips.red is not None)
            self.words.setText(self.clips.words)
        except RuntimeError:
            self.clips.changed.disconnect(self.refresh)  # the panel is gone
