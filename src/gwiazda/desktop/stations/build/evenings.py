"""Cards of the Build station: in what order, and in which evenings."""

from __future__ import annotations

import re
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QPushButton, QToolButton, QVBoxLayout

from gwiazda.core.assess.assembly.learned import learned
from gwiazda.core.plan import edits
from gwiazda.core.quantities import figure, parse_number
from gwiazda.desktop.inspector.cards import Panel, clear
from gwiazda.desktop.stations.build.days import days_of
from gwiazda.desktop.theme.sizes import scaled

DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


class OrdersCard:
    """The kit's choices of order."""

    def __init__(self, panel: Panel) -> None:
        self.panel, self.document = panel, panel.document
        card = panel.card("In what order", "build")
        self.fields = {
            "paint": panel.choice("Paint", [("after joining", "the whole, after joining"), ("before joining", "sub-assemblies, before")], partial(self._set, "paint")),
            "glaze": panel.choice("Glaze", [("before lamps", "before the lamps"), ("after lamps", "after the lamps")], partial(self._set, "glaze")),
            "circuit": panel.choice("Circuit", [("in place", "wired in place, lit each time"), ("breadboard first", "all on the bench first")], partial(self._set, "circuit")),
            "base": panel.choice("Base", [("last", "last"), ("first", "first")], partial(self._set, "base")),
        }  # fmt: skip
        for name, field in self.fields.items():
            card.row(name.capitalize(), field)
        self.bare = QCheckBox("lit bare once, before the black")
        self.bare.clicked.connect(lambda on: self._set("bare", bool(on)))
        self.rebuild = QCheckBox("a finished model, taken apart first")
        self.rebuild.clicked.connect(lambda on: self._set("rebuild", bool(on)))
        card.row("", self.bare)
        card.row("", self.rebuild)
        self.words = card.consequence()

    def _set(self, name: str, value: Any) -> None:
        self.document.edit("Change the order", lambda plan: edits.set_orders(plan, **{name: value}))

    def refresh(self) -> None:
        orders = self.document.plan.orders
        for name, field in self.fields.items():
            field.show_value(getattr(orders, name))
        self.bare.setChecked(orders.bare)
        self.rebuild.setChecked(orders.rebuild)
        words = []
        if orders.paint == "before joining":
            words.append("Seams filled later touch the finish up.")
        if orders.glaze == "before lamps":
            words.append("Glazed first, you see how many lamps it takes.")
        if orders.circuit == "in place":
            words.append("A fault is always in the last thing done.")
        self.words.setText(" ".join(words))


class EveningsCard:
    """When there is time for the bench; steps of one's own."""

    def __init__(self, panel: Panel) -> None:
        self.panel, self.document = panel, panel.document
        card = panel.card("Evenings", "build")
        row = QHBoxLayout()
        row.setSpacing(3)
        self.days = []
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
        card.outer.addLayout(row)
        hour = lambda t: parse_number(t.replace(":00", ""), "From", 0, 23.75)  # noqa: E731
        self.begins = panel.value("From o’clock", hour, lambda v: self._set(from_h=v), "19 or 18.5")
        self.hours = panel.value(
            "Hours an evening",
            lambda t: parse_number(t.replace("h", ""), "Hours", 0.25, 16),
            lambda v: self._set(hours=v),
            "2",
        )
        card.row("From", self.begins)
        card.row("Hours", self.hours)
        self.air = panel.value("Air in the room in °C", lambda t: parse_number(t.replace("°C", ""), "Air", 5, 35), lambda v: self._set(air_c=v), "20; 10 K colder, all dries half as fast")  # fmt: skip
        self.damp = QCheckBox("damp")
        self.damp.clicked.connect(lambda on: self._set(damp=bool(on)))
        card.row("Air, °C", self.air, self.damp)
        self.first = panel.value(
            "Begins on", lambda t: t.strip(), lambda v: self._set(begins=v), "2026-12-01; empty: today"
        )
        card.row("Begins on", self.first)
        self.alike = panel.value(
            "Number of kits", lambda t: int(parse_number(t, "Number of kits", 1, 20, whole=True)), lambda v: self._set(alike=v),
            "how many of this kit are built in one go, as twins are: set up once, done to each",
        )  # fmt: skip
        self.beside = QPushButton("Another kit…")
        self.beside.setToolTip(
            "A plan of another kit that the same hands build meanwhile: its steps come into these evenings, until this plan is put away"
        )
        self.beside.clicked.connect(self._ask_beside)
        card.row("Number of kits", self.alike, self.beside)
        self.others = QVBoxLayout()
        self.others.setSpacing(3)
        card.outer.addLayout(self.others)
        self.learn = QPushButton("Learn from what it took")
        self.learn.setToolTip("Minutes for a pane, a joint, a lamp, a fibre by what was noted at the steps")
        self.learn.clicked.connect(self._learn)
        card.outer.addWidget(self.learn)
        self.own = panel.value(
            "A step of your own",
            lambda t: t.strip()[:100],
            self._add,
            "its name: it comes into the evenings; for what is ordered: Set the etched railings, arrives 2026-12-10",
        )
        card.row("Own step", self.own)
        self.rows = QVBoxLayout()
        card.outer.addLayout(self.rows)

    def _set(self, **fields: Any) -> None:
        self.document.edit("Change the evenings", lambda plan: edits.set_bench(plan, **fields))

    def _ask_beside(self) -> None:
        path, _ = QFileDialog.getOpenFileName(
            self.panel.window(), "Another kit on the bench", "", "Plans (*.gwiazda *.json)"
        )
        if path:
            self.document.put_beside(Path(path))

    def _learned(self) -> dict[str, float]:
        return learned(self.document.plan, self.document.catalogue, days_of(self.document).steps)

    def _learn(self) -> None:
        fields = self._learned()
        self.document.edit("Learn from what it took", lambda plan: edits.set_effort(plan, **fields))

    def _day(self, k: int, on: bool) -> None:
        days = list(self.document.plan.bench.days)
        days[k] = on
        if not any(days):
            self.document.message_stop("One evening a week at least, or nothing is ever built.")
            self.refresh()
            return
        self._set(days=tuple(days))

    def _add(self, name: str) -> None:
        arriving = re.fullmatch(r"(.+?),?\s+arrives\s+(\S+)", name)
        name, arrives = arriving.groups() if arriving else (name, "")
        if name:
            section = next(
                (i for i in self.document.selection if any(s.id == i for s in self.document.plan.sections)), ""
            )
            self.document.edit(
                "Add a step", lambda plan: edits.add_own_step(plan, name, section=section, arrives=arrives)[0]
            )

    def refresh(self) -> None:
        bench = self.document.plan.bench
        for k, box in enumerate(self.days):
            box.setChecked(bench.days[k])
        self.begins.show_value(f"{figure(bench.from_h)}")
        self.hours.show_value(f"{figure(bench.hours)} h")
        self.air.show_value(f"{figure(bench.air_c)}")
        self.damp.setChecked(bench.damp)
        self.first.show_value(bench.begins)
        self.own.show_value("")
        self.alike.show_value(str(bench.alike))
        clear(self.others)
        for other in self.document.beside:
            off = QPushButton(f"{other.name}: take it off the bench")
            off.clicked.connect(lambda _=False, name=other.name: self.document.take_from_beside(name))
            self.others.addWidget(off)
        fields = self._learned()
        self.learn.setVisible(any(getattr(self.document.plan.effort, k) != v for k, v in fields.items()))
        clear(self.rows)
        for o in self.document.plan.own_steps[:6]:
            gone = QPushButton(f"{o.name}, {o.minutes:g} min: take it out")
            gone.clicked.connect(
                lambda _=False, i=o.id: self.document.edit("Take a step out", lambda plan: edits.delete(plan, [i]))
            )
            self.rows.addWidget(gone)
