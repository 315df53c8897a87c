"""The card of the loom as a whole: the usual wire, joints, and what joining leads would save."""

from __future__ import annotations

from collections import Counter

from PySide6.QtWidgets import QCheckBox, QPushButton, QVBoxLayout

from gwiazda.core.assess.loom.savings import Saving, savings
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.quantities import counted, figure, parse_number
from gwiazda.desktop.inspector.cards import Panel, clear, label
from gwiazda.desktop.widgets.offer import OfferButton

SHOWN = 5


class LoomCard:
    """All wires of the plan together."""

    def __init__(self, panel: Panel) -> None:
        self.panel, self.document = panel, panel.document
        card = self.card = panel.card("Loom", "wire")
        self.words = card.consequence()
        wires = [(w.id, w.name) for w in self.document.catalogue.wires.values()]
        self.wire = panel.choice("Usual wire", wires, lambda v: self._set("Change the usual wire", wire=v))
        card.row("Wire", self.wire)
        self.spare = panel.value(
            "Spare pairs", lambda t: int(parse_number(t, "Spare pairs", 0, 20)), lambda v: self._set("Spare leads", spare=v),
            "pairs of leads from each section for later lights",
        )  # fmt: skip
        self.insulate = panel.choice(
            "Joints insulated by", [("heat-shrink", "heat-shrink"), ("liquid insulation", "liquid")], lambda v: self._set("Insulate joints", insulate=v)
        )  # fmt: skip
        card.row("Spare", self.spare)
        card.row("Joint insulation", self.insulate)
        self.spare.setMaximumWidth(56)
        self.relief = panel.choice(
            "Strain relief", [("knot", "a knot inside"), ("glue", "a drop of glue"), ("none", "none")], lambda v: self._set("Strain relief", relief=v)
        )  # fmt: skip
        card.row("Strain relief", self.relief)
        self.bench = QCheckBox("Lamps are soldered on the bench first")
        self.bench.setToolTip("A joint soldered within 25 mm of plastic already in place softens it")
        self.bench.clicked.connect(lambda on: self._set("Solder on the bench first", bench_first=bool(on)))
        card.outer.addWidget(self.bench)
        self.ask = QPushButton("What joining leads would save")
        self.ask.setToolTip("A common return or a hub in each section is tried; the tightest passage counts")
        self.ask.clicked.connect(self._ask)
        card.outer.addWidget(self.ask)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(4)
        card.outer.addLayout(self.rows)
        self._asked: object = None

    def _set(self, what: str, **fields: object) -> None:
        self.document.edit(what, lambda plan: edits.set_loom(plan, **fields))

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
        for field, value in (
            (self.wire, plan.loom.wire),
            (self.insulate, plan.loom.insulate),
            (self.relief, plan.loom.relief),
        ):
            field.show_value(value)
        self.spare.show_value(str(plan.loom.spare))
        self.bench.setChecked(plan.loom.bench_first)
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
