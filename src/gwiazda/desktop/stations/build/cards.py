"""Cards of the Build station: tonight, the step picked, a section's steps and its closing, orders, evenings."""

from __future__ import annotations

from datetime import timedelta
from functools import partial
from typing import Any

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from gwiazda.core.assess.assembly.contents import contents_of
from gwiazda.core.assess.assembly.glues import glue_words
from gwiazda.core.assess.assembly.learned import took
from gwiazda.core.assess.assembly.progress import (
    Report,
    StepState,
    afterwards,
    mark,
    open_tests,
    roll_call,
    tonight_of,
    unmark,
)
from gwiazda.core.assess.assembly.step import Step
from gwiazda.core.assess.assembly.together import together
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import counted, figure, parse_number
from gwiazda.core.workbench.learning.next_reading import NextReading, narrows_words, next_reading_words, next_readings
from gwiazda.desktop.panels.panel import Panel, PanelCard, clear, label
from gwiazda.desktop.stations.build.days import Days, days_of, now_of, where_of
from gwiazda.desktop.widgets.offer import OfferButton

SEEN = "cares/seen"
MOST = 9  # steps of a list; the rest is in the drawer


class StepRows:
    """Steps as rows: a box to tick, for tests how they came out. A click on the words picks the step."""

    def __init__(self, panel: Panel, layout: QVBoxLayout) -> None:
        self.panel, self.document = panel, panel.document
        self.rows = layout
        self.reason = ""
        self._shown: object = None

    def show(self, states: list[StepState], with_section: bool) -> None:
        key = (tuple((x.step.key, x.state, x.step.minutes) for x in states), with_section, self.document.step)
        if key == self._shown:
            return
        self._shown = key
        clear(self.rows)
        for x in states:
            self.rows.addWidget(self._row(x, with_section))

    def _row(self, x: StepState, with_section: bool) -> QWidget:
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        step = x.step
        words = f"{where_of(self.panel.plan, step)}: {step.name}" if with_section else step.name
        box = QCheckBox()
        box.setChecked(x.state == "done")
        box.setAccessibleName(f"Done: {words}")
        box.setToolTip("Mark it as done; for a test: as passed")
        box.clicked.connect(lambda on, s=step: self.tick(s, on))
        row.addWidget(box)
        name = OfferButton(words)
        name.setAccessibleName(words)
        name.setToolTip(
            f"{words}, {step.minutes:.0f} min" + (f", then {step.wait_h:g} h left alone" if step.wait_h else "")
        )
        name.clicked.connect(lambda _=False, s=step: self.document.pick_step(s.key))
        row.addWidget(name, 1)
        if x.state in ("failed", "void", "waiting"):
            row.addWidget(label({"failed": "failed", "void": "changed since", "waiting": "dries"}[x.state], {"failed": "stop", "void": "look"}.get(x.state, "muted")))  # fmt: skip
        if step.is_test and x.state != "done":
            failed = QPushButton("Failed")
            failed.setAccessibleName(f"Failed: {words}")
            failed.setToolTip("Note that the test failed: the gate stays shut")
            failed.clicked.connect(lambda _=False, s=step: self.tick(s, True, "failed"))
            row.addWidget(failed)
        row.addWidget(label(f"{step.minutes:.0f} min", "unit"))
        return holder

    def tick(self, step: Step, on: bool, result: str = "") -> None:
        """Mark a step in the plan, as one edit; a closing that may not be is said."""
        document = self.document
        steps = days_of(document).steps
        if not on:
            document.edit(f"Undone: {step.name.lower()}", lambda plan: unmark(plan, step.key))
        else:
            at, reason = now_of(document), self.reason
            label_ = f"Done: {step.name.lower()}" if result != "failed" else f"Failed: {step.name.lower()}"
            document.edit(label_, lambda plan: mark(plan, steps, step.key, Report(at=at, result=result, reason=reason)))
        self._shown = None
        self.panel.refresh()


WITHOUT = (
    ("", "anything goes"),
    ("solder", "no iron"),
    ("spray", "no spraying"),
    ("solder spray", "no iron, no spraying"),
    ("spray drill cut fill", "no dust, no spraying"),
)


class TonightCard(PanelCard):
    """What can be done tonight, and the step that is picked."""

    def build(self) -> None:
        panel = self.panel
        self.picked = panel.card("The step")
        self.words = self.picked.consequence()
        self.one = QVBoxLayout()
        self.picked.outer.addLayout(self.one)
        self.step_rows = StepRows(panel, self.one)
        self.took = panel.value(
            "Minutes taken", lambda t: parse_number(t.replace("min", ""), "Minutes", 0, 6000), self._took, "what it really took: Gwiazda learns from it"
        )  # fmt: skip
        self.picked.row("Minutes taken", self.took)
        self.card = panel.card("Tonight")
        self.minutes = 40.0
        self._cares: tuple[str, ...] = ()
        self.time = panel.value(
            "Minutes at hand", lambda t: parse_number(t.replace("min", ""), "Minutes", 5, 960), self._set_minutes, "how long you have: 40"
        )  # fmt: skip
        self.card.row("Minutes at hand", self.time)
        self.without = panel.choice("Tonight without", WITHOUT, self._set_without)
        self.without.setToolTip("Leave out what makes noise, smells, or wants the iron")
        self.card.row("Without", self.without)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.card.outer.addLayout(self.rows)
        self.list = StepRows(panel, self.rows)
        self.note = label("", "muted", wrap=True)
        self.card.outer.addWidget(self.note)
        self.seen = QPushButton("")
        self.seen.clicked.connect(self._turn_cares)
        self.card.outer.addWidget(self.seen)
        panel.follow(self.document.step_changed, self.refresh)

    def _took(self, minutes: float) -> None:
        key = self.document.step
        self.document.edit("Note the minutes", lambda plan: took(plan, key, minutes))

    def _set_without(self, kinds: str) -> None:
        self.refresh()

    def take_over(self, old: Any) -> None:
        self.minutes = old.minutes
        self.without.show_value(str(old.without.currentData()))
        self.refresh()

    def _set_minutes(self, minutes: float) -> None:
        self.minutes = minutes
        self.refresh()

    def refresh(self) -> None:
        days = days_of(self.document)
        self.time.show_value(f"{self.minutes:g}")
        self._show_step(days)
        if days.fault:
            self.note.setText(days.fault)
            return
        without = str(self.without.currentData() or "").split()
        found = tonight_of(self.document.plan, days.steps, days.now, self.minutes, without)
        self.list.show([days.states[s.key] for s in found[:MOST]], True)
        cares = [c for c in dict.fromkeys(self._care(s) for s in found) if c]
        seen = self._seen()
        unseen = [c for c in cares if c not in seen]
        self.seen.setVisible(bool(cares))
        self.seen.setText(
            "Cautions seen, for tonight" if unseen else f"{counted(len(cares), 'caution')} for tonight: show again"
        )
        self.seen.setToolTip("They are shown once an evening, at each step, and on the sheets")
        self._cares = tuple(cares)
        set_up = {s.session: s.set_up_min for s in found if s.session}
        spent = sum(s.minutes for s in found) + sum(set_up.values())
        names = [self.document.catalogue.sessions[k].name.lower() for k in set_up]
        words = (
            f"{counted(len(found), 'step')}, {spent:.0f} min with what is set up"
            + (f" for {', '.join(names)}. " if names else ". ")
            if found
            else "Nothing is ready that fits. "
        )
        self.note.setText(words + " ".join(unseen))

    def _evening(self) -> str:
        """The evening by its date; the hours after midnight belong to the day before."""
        return (self.document.clock() - timedelta(hours=5)).date().isoformat()

    def _seen(self) -> set[str]:
        """Cautions that were said to be seen this evening."""
        kept = str(QSettings().value(SEEN, "")).split("\n")
        return set(kept[1:]) if kept[0] == self._evening() else set()

    def _turn_cares(self) -> None:
        seen = self._seen()
        now = seen - set(self._cares) if set(self._cares) <= seen else seen | set(self._cares)
        QSettings().setValue(SEEN, "\n".join([self._evening(), *sorted(now)]))
        self.refresh()

    def _care(self, s: Step) -> str:
        return self.document.catalogue.cares.get(s.care, "")

    def _show_step(self, days: Days) -> None:
        x = days.states.get(self.document.step)
        self.picked.setVisible(x is not None)
        if x is None:
            return
        s = x.step
        lines = [f"<b>{where_of(self.document.plan, s)}: {s.name}</b>", f"{s.minutes:.0f} min of hands" + (f", then {s.wait_h:g} h left alone" if s.wait_h else "")]  # fmt: skip
        if s.detail:
            lines.append(s.detail)
        if x.lacks:
            names = [
                f"{where_of(self.document.plan, days.states[k].step)}: {days.states[k].step.name.lower()}"
                for k in x.lacks
                if k in days.states
            ]
            lines.append("After " + "; ".join(names[:4]) + ("; …" if len(names) > 4 else ""))
        if x.done is not None and x.done.at:
            lines.append(f"Done {x.done.at}" + (f": {x.done.result}" if x.done.result else ""))
        care = self._care(s)
        if care:
            lines.append(f"<i>{care}</i>")
        self.took.setEnabled(x.done is not None)
        self.took.show_value(figure(x.done.minutes) if x.done is not None and x.done.minutes is not None else "")
        self.words.setText("<br>".join(lines))
        self.step_rows.show([x], False)


class SectionBuildCard(PanelCard):
    """A section's own steps, its roll-call and what its closing means."""

    def build(self) -> None:
        panel = self.panel
        self.card = panel.card("Its build")
        rows = QVBoxLayout()
        rows.setSpacing(2)
        self.card.outer.addLayout(rows)
        self.list = StepRows(panel, rows)
        self.close_card = panel.card("Before it is closed")
        self.words = self.close_card.consequence()
        self.hand = panel.choice(
            "Left or right",
            [("", "neither"), ("port", "port"), ("starboard", "starboard")],
            partial(self._order, "hand"),
        )
        self.close_card.row("Left or right", self.hand)
        self.paint = panel.choice("Painted", [("", "as the kit"), ("after joining", "after joining"), ("before joining", "before joining")], partial(self._order, "paint"))  # fmt: skip
        self.close_card.row("Painted", self.paint)
        self.late = QCheckBox("pushed in last, ready made")
        self.late.clicked.connect(lambda on: self._order("late", bool(on)))
        self.close_card.row("", self.late)
        self.reason = panel.value(
            "Reason to close it untested",
            lambda t: t.strip()[:500],
            self._set_reason,
            "kept in the plan with the tests that lack",
        )
        self.close_card.row("Reason", self.reason)
        self.read = self.close_card.consequence()
        self.glues_card = panel.card("What glues what")
        self.glues = self.glues_card.consequence()
        self._section = ""
        self._read_of: tuple[Plan, str] | None = None

    def _order(self, name: str, value: Any) -> None:
        section = self._section
        self.document.edit("Change its order", lambda plan: edits.set_order(plan, section, **{name: value}))

    def _set_reason(self, text: str) -> None:
        self.list.reason = text
        self.refresh_words()

    def refresh(self) -> None:
        section = self.first
        if section.id != self._section:
            self.list.reason = ""
        self._section = section.id
        days = days_of(self.document)
        mine = [days.states[s.key] for s in days.steps if s.section == section.id]
        # What is next first: those that are done are said as a number.
        left = [x for x in mine if x.state != "done"]
        done = [x for x in mine if x.state == "done"]
        self.list.show([*done[-2:], *left[:MOST]], False)
        order = next((o for o in self.document.plan.section_orders if o.section == section.id), None)
        self.hand.show_value(order.hand if order is not None else "")
        self.paint.show_value(order.paint if order is not None else "")
        self.late.setChecked(order is not None and order.late)
        self.reason.show_value(self.list.reason)
        self.refresh_words()
        self._ask_readings()

    def _ask_readings(self) -> None:
        """What is worth reading while it is open: asked once of each plan and section."""
        plan, section, catalogue = self.document.assessed_plan, self._section, self.document.catalogue
        if self._read_of is not None and self._read_of[0] is plan and self._read_of[1] == section:
            return
        self._read_of = (plan, section)
        self.read.setVisible(False)
        if all(s.section != section for s in plan.seals):
            self.panel.task("readings").ask(
                plan, lambda: (section, next_readings(plan, catalogue, section, 2)), self._take_readings
            )

    def _take_readings(self, found: tuple[str, tuple[NextReading, ...]]) -> None:
        section, readings = found
        plan, assessment = self.document.assessed_plan, self.document.assessment
        if section != self._section:
            return
        lines = [f"{next_reading_words(plan, n)}: {narrows_words(plan, assessment, n)}" for n in readings]
        self.read.setText("<br>".join(["<b>Worth reading before it is closed:</b>", *lines]))
        self.read.setVisible(bool(lines))

    def refresh_words(self) -> None:
        plan = self.document.plan
        if all(s.id != self._section for s in plan.sections):
            return
        days = days_of(self.document)
        names = {s.key: s.name.lower() for s in days.steps}
        tests = open_tests(plan, days.steps, self._section)
        seal = next((s for s in plan.seals if s.section == self._section), None)
        lines = []
        if seal is not None:
            lines.append(
                f"<b>Closed {seal.at}.</b>"
                + (
                    f" Despite {', '.join(names.get(k, k) for k in seal.despite)}: {seal.reason}"
                    if seal.despite
                    else ""
                )
            )
        elif tests:
            lines.append(f"<b>The gate is shut:</b> {', '.join(names[k] for k in tests)}.")
        else:
            lines.append("<b>The gate is open.</b>")
        lines += [f"☐ {line}" for line in roll_call(plan, self._section)]
        lines += together(plan, self.document.assessment, self._section)
        gone, still = afterwards(plan, self._section)
        if gone:
            lines.append(f"Not to be reached afterwards: {gone}.")
        if still:
            lines.append(f"Still to be reached: {still}.")
        order = next((o for o in plan.section_orders if o.section == self._section), None)
        if order is not None and order.hand:
            lines.append(self._power_on(order.hand))
        self.words.setText("<br>".join(lines))
        self.glues.setText(
            "<br>".join(glue_words(self.document.catalogue, contents_of(plan)[self._section], plan.kit.material))
        )

    def _power_on(self, hand: str) -> str:
        """Which light must face outboard before its half is glued."""
        plan = self.document.plan
        side = [d.id for d in plan.dots if d.section == self._section and d.side == hand]
        side += [o.id for o in plan.openings if o.section == self._section and o.side == hand]
        if side:
            return f"Lit, before glue: {side[0]} must face outboard, to {hand}."
        return f"It belongs to {hand}: hold it against its partner before glue."
