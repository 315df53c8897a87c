"""Cards of the Build station: in what order, and in which evenings."""

from __future__ import annotations

import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QToolButton, QVBoxLayout

from gwiazda.core.assess.assembly.learned import LearnedMinutes, learned
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import EveningSettings, Orders, Plan
from gwiazda.core.quantities import counted, figure, parse_number
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, Number, Quantity, Text, whole
from gwiazda.desktop.panels.panel import PanelCard, clear
from gwiazda.desktop.stations.build.days import days_of
from gwiazda.desktop.theme.sizes import scaled

DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


LEARN_TIP = "Minutes noted at steps, as your own for a pane, a joint, a lamp"
OF = {
    "drill_min": "a window", "hole_min": "a hole", "mask_min": "a masked pane", "scratch_min": "a scraped pane", "joint_min": "a joint",
    "lamp_min": "a lamp", "dot_min": "a fibre",
}  # fmt: skip


def minutes_words(field: str, x: LearnedMinutes) -> str:
    """Minutes before and after, with where the next will fall, by how many notes."""
    what = OF.get(field, field.removesuffix("_min"))
    return f"{what}: {figure(x.house)} min before, {figure(x.minutes)} by {counted(x.notes, 'note')}, the next likely {figure(x.low, 2)} to {figure(x.high, 2)}"


def _hour(text: str) -> float:
    """``19``, ``18.5`` or ``18:30`` as hours."""
    hours, colon, minutes = text.strip().partition(":")
    low = parse_number(hours, "Begins at", 0, 23.75)
    return low + parse_number(minutes, "Begins at", 0, 59) / 60.0 if colon and minutes else low


class OrdersCard(PanelCard):
    """The kit's choices of order."""

    title = "In what order"
    extra = True
    model = Orders
    fields = (
        Field("paint", "Paint", Choice((("after joining", "the whole, after joining"), ("before joining", "sub-assemblies, before"), ("my own way", "my own way, no steps"))), "When the outside is painted",
              "Change the order"),
        Field("glaze", "Glaze", Choice((("before lamps", "before the lamps"), ("after lamps", "after the lamps"))), "When the windows are glazed", "Change the order"),
        Field("circuit", "Circuit", Choice((("in place", "wired in place, lit each time"), ("breadboard first", "all on the bench first"))),
              "Where the circuit is tried first", "Change the order"),
        Field("base", "Base", Choice((("last", "last"), ("first", "first"))), "When the base is made", "Change the order"),
        Field("bare", "", Flag("lit bare once, before the black"), "A look at every leak before any paint", "Change the order"),
        Field("rebuild", "", Flag("a finished model, taken apart first"), "Steps for taking it apart come before all others", "Change the order"),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()

    def items(self) -> list[Any]:
        return [self.plan.orders]

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return edits.set_orders(plan, **fields)

    def say(self) -> None:
        orders = self.plan.orders
        words = []
        if orders.paint == "before joining":
            words.append("Seams filled later touch the finish up.")
        if orders.glaze == "before lamps":
            words.append("Glazed first, you see how many lamps it takes.")
        if orders.circuit == "in place":
            words.append("A fault is always in the last thing done.")
        self.words.setText(" ".join(words))


class EveningsCard(PanelCard):
    """When there is time for the bench; steps of one's own."""

    title = "Evenings"
    model = EveningSettings
    fields = (
        Field("from_h", "Begins at", Quantity(_hour, lambda v: f"{int(v):d}:{round(v % 1 * 60):02d}"), "When you sit down at the bench: 19 or 18.5", "Change the evenings",
              name="From o’clock"),
        Field("hours", "Hours", Number("h"), "How long an evening at the bench is", "Change the evenings", name="Hours at the bench"),
        Field("air_c", "Room temperature", Number("°C"), "10 °C colder, and all dries half as fast", "Change the evenings", name="Air in the room in °C"),
        Field("damp", "", Flag("damp"), "In damp air paint and glue take longer", "Change the evenings"),
        Field("begins", "Begins on", Text(10, placeholder="today"), "The first evening: 2026-12-01; empty: today", "Change the evenings"),
        Field("tests_with", "Lamps tested with", Choice((("limited supply", "a supply with a limit"), ("coin cell", "a coin cell, each"), ("battery", "the battery itself"))),
              "How each lamp is lit before it is closed in: the test sheet says what to expect", "Change how lamps are tested"),
        Field("alike", "Number of kits", whole(), "How many of this kit are built in one go, as twins are: set up once, done to each", "Change the evenings"),
        Field("own", "Own step", Text(100), "Its name: it comes into the evenings; for what is ordered: Set the etched railings, arrives 2026-12-10",
              name="A step of your own", takes=lambda card, name: card.add(name)),
    )  # fmt: skip

    def build(self) -> None:
        self.days = []
        row = QHBoxLayout()
        row.setSpacing(3)
        for k, name in enumerate(DAYS):
            box = QToolButton()
            box.setText(name[0])
            box.setObjectName("strip")
            box.setCheckable(True)
            box.setFixedWidth(scaled(32))
            box.setToolTip(f"Time for the bench on {name}")
            box.setAccessibleName(f"Free on {name}")
            box.clicked.connect(lambda on, k=k: self._day(k, bool(on)))
            self.days.append(box)
            row.addWidget(box)
        self.card.outer.insertLayout(0, row)
        self.beside = self.button(
            "Another kit…", "A plan of another kit that the same hands build meanwhile: its steps come into these evenings, until this plan is put away",
            self._ask_beside,
        )  # fmt: skip
        self.others = QVBoxLayout()
        self.others.setSpacing(3)
        self.card.outer.addLayout(self.others)
        self.learn = self.button(
            "Learn from what it took", "Minutes for a pane, a joint, a lamp, a fibre by what was noted at the steps", self._learn
        )  # fmt: skip
        self.rows = QVBoxLayout()
        self.card.outer.addLayout(self.rows)

    def items(self) -> list[Any]:
        return [self.plan.bench]

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return edits.set_bench(plan, **fields)

    def _ask_beside(self) -> None:
        path, _ = QFileDialog.getOpenFileName(
            self.panel.window(), "Another kit on the bench", "", "Plans (*.gwiazda *.json)"
        )
        if path:
            self.document.put_beside(Path(path))

    def _learned(self) -> Mapping[str, LearnedMinutes]:
        return learned(self.document.plan, self.document.catalogue, days_of(self.document).steps)

    def _learn(self) -> None:
        fields = {field: x.minutes for field, x in self._learned().items()}
        self.document.edit("Learn from what it took", lambda plan: edits.set_effort(plan, **fields))

    def _day(self, k: int, on: bool) -> None:
        days = list(self.document.plan.bench.days)
        days[k] = on
        if not any(days):
            self.document.message_stop("One evening a week at least, or nothing is ever built.")
            self.refresh()
            return
        self.set("Change the evenings", days=tuple(days))

    def add(self, name: str) -> None:
        """A step of one's own, or something that was ordered."""
        arriving = re.fullmatch(r"(.+?),?\s+arrives\s+(\S+)", name)
        name, arrives = arriving.groups() if arriving else (name, "")
        if name:
            section = next(
                (i for i in self.document.selection if any(s.id == i for s in self.document.plan.sections)), ""
            )
            self.document.edit(
                "Add a step", lambda plan: edits.add_own_step(plan, name, section=section, arrives=arrives)[0]
            )

    def say(self) -> None:
        bench = self.document.plan.bench
        self.form.typed("own").show_value("")
        for k, box in enumerate(self.days):
            box.setChecked(bench.days[k])
        clear(self.others)
        for other in self.document.beside:
            off = QPushButton(f"{other.name}: take it off the bench")
            off.clicked.connect(lambda _=False, name=other.name: self.document.take_from_beside(name))
            self.others.addWidget(off)
        fields = self._learned()
        self.learn.setVisible(any(getattr(self.document.plan.effort, k) != x.minutes for k, x in fields.items()))
        self.learn.setToolTip("; ".join(minutes_words(k, x) for k, x in fields.items()) or LEARN_TIP)
        clear(self.rows)
        for o in self.document.plan.own_steps[:6]:
            gone = QPushButton(f"{o.name}, {o.minutes:g} min: take it out")
            gone.clicked.connect(
                lambda _=False, i=o.id: self.document.edit("Take a step out", lambda plan: edits.delete(plan, [i]))
            )
            self.rows.addWidget(gone)
