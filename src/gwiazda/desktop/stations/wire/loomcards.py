"""The card of the loom as a whole: the usual wire, joints, and what joining leads would save."""

from __future__ import annotations

from collections import Counter
from typing import Any

from PySide6.QtWidgets import QPushButton, QVBoxLayout

from gwiazda.core.assess.looms.savings import Saving, savings
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Loom, Plan
from gwiazda.core.quantities import counted, figure
from gwiazda.desktop.forms.common import parts
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, whole
from gwiazda.desktop.panels.panel import PanelCard, clear, label
from gwiazda.desktop.widgets.offer import OfferButton

SHOWN = 5


class LoomCard(PanelCard):
    """All wires of the plan together."""

    title = "Loom"
    extra = True

    model = Loom
    fields = (
        Field("wire", "Usual wire", Choice(parts("wires")), "What leads are made of where nothing else is said", "Change the usual wire"),
        Field("spare", "Spare pairs", whole(), "Pairs of leads from each section for later lights", "Spare leads"),
        Field("insulate", "Joint insulation", Choice((("heat-shrink", "heat-shrink"), ("liquid insulation", "liquid"))), "What goes over each joint",
              "Insulate joints", name="Joints insulated by"),
        Field("relief", "Strain relief", Choice((("knot", "a knot inside"), ("glue", "a drop of glue"), ("none", "none"))), "What takes the pull off the joints",
              "Strain relief"),
        Field("bench_first", "", Flag("Lamps are soldered on the bench first"), "A joint soldered within 25 mm of plastic already in place softens it",
              "Solder on the bench first"),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()
        self.ask = QPushButton("What joining leads would save")
        self.ask.setToolTip("A common return or a hub in each section is tried; the tightest passage counts")
        self.ask.clicked.connect(self._ask)
        self.card.outer.addWidget(self.ask)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(4)
        self.card.outer.addLayout(self.rows)
        self._asked: object = None

    def items(self) -> list[Any]:
        return [self.plan.loom]

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return edits.set_loom(plan, **fields)

    def _ask(self) -> None:
        plan, assessment = self.document.assessed_plan, self.document.assessment
        self._asked = plan
        self.panel.task("savings").ask(plan, lambda: savings(plan, assessment), self._done)

    def _done(self, result: tuple[Saving, ...]) -> None:
        clear(self.rows)
        plan = self.document.plan
        if not result:
            self.rows.addWidget(label("No joining would take a wire out of the tightest passage.", "muted", wrap=True))
        shown: list[Saving] = sorted(result, key=lambda s: (s.after, s.joints))[:SHOWN]
        for s in shown:
            what = "minuses" if s.joins == "minus" else "both"
            button = OfferButton(f"Join {what}, {section_of(plan, s.section).name}")
            state = "fine" if s.fill_after <= 0.4 else "look"
            button.show_outcome(f"{s.before} → {s.after}", state)
            button.setToolTip(
                f"{s.before} wires become {s.after} in {s.passage}, {s.fill_before * 100:.0f} % full becomes {s.fill_after * 100:.0f}; "
                f"{s.wire_mm / 1000:.1f} m of wire less, {counted(s.joints, 'joint')} more"
            )
            button.clicked.connect(lambda _=False, x=s: self._take(x))
            self.rows.addWidget(button)

    def _take(self, s: Saving) -> None:
        clear(self.rows)
        self.document.edit("Join leads at a hub", lambda plan: edits.add_hub(plan, s.section, s.joins)[0])

    def refresh(self) -> None:
        plan, loom = self.panel.plan, self.panel.assessment.loom
        self.form.show()
        self.ask.setEnabled(bool(loom.passages))
        if self._asked is not None and self._asked is not plan:
            clear(self.rows)
            self._asked = None
        if not loom.passages:
            self.words.setText(
                "No passages yet, so wires have no way and no length. Shift+P and a drag from one section into the next makes one; 5 "
                "again turns the drawer to them."
            )
            return
        runs = [r for r in loom.runs.values() if r.kind != "fibre"]
        metres = sum(r.cut_mm for r in runs) / 1000.0
        sleeves = Counter(j.sleeve_mm for j in loom.joints if j.sleeve_mm)
        bores = ", ".join(f"{n} of {bore:g} mm" for bore, n in sorted(sleeves.items()))
        pins = [p.connector for p in plan.passages if p.connector]
        lost = max((2e3 * r.ohm * r.current_a for r in runs), default=0.0)
        self.words.setText(
            f"<b>{counted(len(runs), 'wire')}, {figure(metres, 3)} m</b> with what a hand needs more; {counted(len(loom.joints), 'joint')}"
            + (f", sleeves {bores}" if bores and plan.loom.insulate == "heat-shrink" else "")
            + (f"; {', '.join(pins)}" if pins else "")
            + f". At most {figure(lost, 2)} mV go lost on a wire and its way back."
        )
