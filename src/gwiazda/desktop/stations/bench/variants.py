"""Variants of a section or a circuit side by side: kept, tried on the plate, decided for with a reason."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from gwiazda.core.assess.choices.variants import Figures, compared, least_of
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan.edits import variants as edits
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure, format_hours
from gwiazda.desktop.panels.panel import PanelCard, clear, label
from gwiazda.desktop.stations.build.days import now_of

MOST = 3  # side by side: those kept last
NONE = "Keep what is there under a name, change it, keep that too: both stand side by side here."


class _Row(NamedTuple):
    """A figure of the table: its name, the field it is of, how it is written, whether one is better than another."""

    name: str
    field: str
    written: Callable[[Figures], str]
    judged: bool = True


ROWS = (
    _Row("Of wanted", "reached", lambda f: f"{f.reached * 100:.0f} %" if f.light else "dark", judged=False),
    _Row("Light", "light", lambda f: figure(f.light), judged=False),
    _Row("Evenness", "evenness", lambda f: "" if f.evenness is None else f"{f.evenness:.2f}"),
    _Row("Worst leak", "leak", lambda f: f"{figure(f.leak, 2)} ×" if f.leak else "none"),
    _Row("Current used", "draw_a", lambda f: f"{figure(f.draw_a * 1e3)} mA"),
    _Row("Run time", "run_h", lambda f: "never runs down" if math.isinf(f.run_h) else format_hours(f.run_h)),
    _Row("Lamps", "lamps", lambda f: str(f.lamps)),
    _Row("Joints", "joints", lambda f: str(f.joints)),
    _Row("Work", "work_h", lambda f: f"{figure(f.work_h, 2)} h"),
)


class VariantsCard(PanelCard):
    """The alternatives of what is picked, or of what is chosen here."""

    title = "Variants"
    extra = True

    def build(self) -> None:
        panel, card = self.panel, self.card
        self.words = card.consequence()
        self.of = panel.choice("Variants of", [("", "pick one")], self._of)
        card.row("Of", self.of)
        self.name = panel.value(
            "Keep what is there as", lambda t: t.strip(), self._keep, "a name: two lamps, shared resistor"
        )
        card.row("Keep as", self.name)
        self.heads = QVBoxLayout()
        self.heads.setSpacing(3)
        card.outer.addLayout(self.heads)
        holder = QWidget()
        self.table = QGridLayout(holder)
        self.table.setContentsMargins(0, 0, 0, 0)
        self.table.setHorizontalSpacing(6)
        self.table.setVerticalSpacing(2)
        card.outer.addWidget(holder)
        self.reason = panel.value(
            "Decide for it, because", lambda t: t.strip(), self._choose, "why: goes into the log with the decision"
        )
        self.row = QWidget()
        row = QHBoxLayout(self.row)
        row.setContentsMargins(0, 0, 0, 0)
        self.forget = QPushButton("Forget it")
        self.forget.setToolTip("Drop the variant that is picked here; the plan stays as it is")
        self.forget.clicked.connect(self._forget)
        card.row("Because", self.reason)
        row.addWidget(self.forget)
        row.addStretch(1)
        card.outer.addWidget(self.row)
        self._subject = self._picked = ""
        self._shown: object = None
        self._asked: tuple[Plan, int, str] | None = None
        self._choices: object = None
        self.figures: tuple[Figures, ...] = ()

    # -- what is looked at -----------------------------------------------------------------------------------

    def subject(self) -> str:
        """The section or source picked on the plate, else the one chosen here."""
        plan = self.document.plan
        picked = next((i for i in self.document.selection if edits.subject_of(plan, i)), "")
        return picked or self._subject

    def _of(self, subject: str) -> None:
        self._subject, self._picked = subject, ""
        self.refresh()

    def _pick(self, variant_id: str) -> None:
        """Try a variant on the plate; once more, and it is as it was."""
        document = self.document
        self._picked = "" if self._picked == variant_id else variant_id
        document.end_trial()
        if self._picked:
            try:
                document.try_out(lambda plan: edits.with_variant(plan, variant_id))
            except GwiazdaError as error:
                self._picked = ""
                document.message_stop(str(error))
        self.refresh()

    # -- edits -----------------------------------------------------------------------------------------------

    def _keep(self, name: str) -> None:
        document, subject = self.document, self.subject()
        document.end_trial()
        document.edit("Keep a variant", lambda plan: edits.keep_variant(plan, subject, name, now_of(document))[0])

    def _choose(self, reason: str) -> None:
        document, picked = self.document, self._picked
        document.end_trial()
        if not picked:
            document.message_stop("Pick one of the variants above first, by its name.")
            return
        if document.edit(
            "Decide for a variant", lambda plan: edits.choose_variant(plan, picked, reason, now_of(document))
        ):
            self._picked = ""

    def _forget(self) -> None:
        document, picked = self.document, self._picked
        document.end_trial()
        self._picked = ""
        if picked:
            document.edit("Forget a variant", lambda plan: edits.drop_variant(plan, picked))

    # -- picture ---------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        document = self.document
        plan = document.drag_start if document.on_trial else document.plan
        subject = self.subject()
        self._fill_choices(plan, subject)
        self.name.show_value("")
        self.reason.show_value("")
        self.name.setEnabled(bool(edits.subject_of(plan, subject)))
        mine = [v for v in plan.variants if v.subject == subject]
        self._picked = self._picked if any(v.id == self._picked for v in mine) else ""
        self.reason.setEnabled(bool(self._picked))
        self.row.setVisible(bool(self._picked))
        self.words.setText("" if mine else NONE)
        self.words.setVisible(not mine)
        of = (plan, id(document.catalogue), subject)
        if not mine:
            self.figures, self._asked = (), None
            self._paint()
        elif self._asked is None or not (plan is self._asked[0] and of[1:] == self._asked[1:]):
            self._asked = of
            self._reckon(plan, subject)
        else:
            self._paint()

    def _reckon(self, plan: Plan, subject: str) -> None:
        assessment = self.panel.assessment
        if self.document.assessed_plan is not plan:
            self._asked = None  # its own figures come first; this is asked for again with them
            if not self.document.on_trial:
                return
        self.panel.task("variants").ask(plan, lambda: compared(plan, assessment, subject), self._take)

    def _take(self, figures: tuple[Figures, ...]) -> None:
        self.figures = figures
        self._paint()

    def _fill_choices(self, plan: Plan, subject: str) -> None:
        choices = [
            ("", "pick one"),
            *((s.id, s.name) for s in plan.sections),
            *((f.id, f.name or "Source") for f in plan.feeds),
        ]
        known = {c[0] for c in choices}
        choices += [(v.subject, f"{name_of(plan, v.subject)} (gone)") for v in plan.variants if v.subject not in known]
        choices = list(dict(choices).items())
        if choices != self._choices:
            self._choices = choices
            self.of.set_choices(choices)
        self.of.show_value(subject if subject in dict(choices) else "")

    def _paint(self) -> None:
        names = {v.id: v for v in self.document.plan.variants}
        shown = (self.figures, self._picked, tuple(v.chosen for v in names.values()))
        if shown == self._shown:
            return
        self._shown = shown
        clear(self.heads)
        clear(self.table)
        columns = self.figures if len(self.figures) <= MOST else (*self.figures[:1], *self.figures[1 - MOST :])
        for k, f in enumerate(columns, start=1):
            letter = chr(ord("A") + k - 1)
            self.heads.addWidget(self._head(letter, f, bool(f.id in names and names[f.id].chosen)))
            top = label(f"<b>{letter}</b>", "muted")
            top.setAlignment(Qt.AlignmentFlag.AlignRight)
            self.table.addWidget(top, 0, k)
            self.table.setColumnStretch(k, 1)
        for r, row in enumerate(ROWS if columns else (), start=1):
            self.table.addWidget(label(row.name, "muted"), r, 0)
            best = least_of(columns, row.field) if row.judged and len(columns) > 1 else math.nan
            for k, f in enumerate(columns, start=1):
                value = getattr(f, row.field)
                text = row.written(f) if not f.fault else "?"
                good = value is not None and not f.fault and float(value) == best
                cell = label(f"<b>{text}</b>" if good else text, "", wrap=False)
                cell.setAlignment(Qt.AlignmentFlag.AlignRight)
                if f.fault:
                    cell.setToolTip(f.fault)
                self.table.addWidget(cell, r, k)
        if len(self.figures) > MOST:
            self.table.addWidget(
                label(f"and {len(self.figures) - MOST} kept before them", "muted"), len(ROWS) + 1, 0, 1, MOST + 1
            )

    def _head(self, letter: str, f: Figures, chosen: bool) -> QPushButton:
        words = f"{letter}  {f.name}" + (", decided for" if chosen else "") + (" (now)" if f.now and f.id else "")
        button = QPushButton(words)
        button.setSizePolicy(button.sizePolicy().Policy.Ignored, button.sizePolicy().Policy.Fixed)
        button.setAccessibleName(f"Variant {f.name}")
        button.setCheckable(True)
        button.setChecked(f.id == self._picked and bool(f.id))
        button.setEnabled(bool(f.id) and not f.fault)
        now = "what the plan has now. " if f.now else ""
        button.setToolTip(f.fault or f"{f.name}: {now}Press to see it on the plate, and to decide")
        button.clicked.connect(lambda _=False, i=f.id: self._pick(i))
        return button
