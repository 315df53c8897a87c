"""Readings written down: of lamps and sources by a meter, of windows by their luminance."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QPushButton

from gwiazda.core.assess.uncertainty import band
from gwiazda.core.errors import QuantityError
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Lamp, Opening, Plan
from gwiazda.core.plan.naming import name_of, names_of
from gwiazda.core.quantities import figure, parse_current_a, parse_voltage_v
from gwiazda.core.workbench.lamp_tests import how_words, joint_lines, lamp_tests, told
from gwiazda.core.workbench.log import CIRCUIT, NEAR_MM, read_on
from gwiazda.core.workbench.testsheet import sheet_of
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Number, Quantity
from gwiazda.desktop.panels.panel import PanelCard, label
from gwiazda.desktop.stations.bench.session import session_of
from gwiazda.desktop.stations.build.days import now_of

LOOKS = [(0.0, "Dark"), (0.5, "Dim"), (1.0, "Good"), (2.0, "Bright")]


def _volts(text: str) -> float:
    """``2.9`` or ``2.9 V``; raises QuantityError where there is none."""
    if not text.strip():
        raise QuantityError("Volts", "there is none", "what the meter shows, such as 2.9")
    return parse_voltage_v(text)


class ReadingCard(PanelCard):
    """A reading written down: of the lamp that is picked, or of a source."""

    title = "A reading"
    fields = (
        Field("volts", "Voltage", Quantity(_volts), "What the meter shows over it: 2.9", name="Volts read", takes=lambda card, v: card.take("volts", v)),
        Field("amps", "Current", Quantity(parse_current_a), "Through it: 4.2mA; of the source with nothing picked", name="Current read",
              takes=lambda card, v: card.take("amps", v)),
        Field("lux", f"Light at {NEAR_MM:.0f} mm", Number("lx", 0.001, 1e6), f"On a meter {NEAR_MM:.0f} mm before the bare lamp, on its axis, in the dark",
              name="Light read", takes=lambda card, v: card.take("lux", v)),
    )  # fmt: skip

    def build(self) -> None:
        card = self.card
        self.of = card.consequence()
        row = QHBoxLayout()
        row.setSpacing(3)
        self.looks = []
        for value, words in LOOKS:
            button = QPushButton(words)
            button.setToolTip("How it looks beside what it should be")
            button.setSizePolicy(button.sizePolicy().Policy.Ignored, button.sizePolicy().Policy.Fixed)
            button.clicked.connect(lambda _=False, v=value: self.take("lit", v))
            self.looks.append(button)
            row.addWidget(button)
        card.outer.addLayout(row)
        self.sheet = label("", "muted", wrap=True)
        card.outer.addWidget(self.sheet)

    def places(self) -> list[str]:
        """What is read: the lamps and resistors picked, else the first source."""
        plan = self.document.plan
        picked = [i.id for i in self.document.selected_items() if isinstance(i, Lamp)]
        picked += [str(getattr(x, "id", "")) for x in self.document.selected_parts()]
        return picked or [plan.feeds[0].id]

    def take(self, what: str, value: float) -> None:
        """Write a reading down."""
        document = self.document
        places, at = self.places(), now_of(document)
        known = {i for b in session_of(document).benches for i in (*b.ends, *b.lamps)}
        if (what in CIRCUIT and any(i not in known for i in places)) or (
            what in ("lit", "lux") and all(p.id not in places for p in document.plan.lamps)
        ):
            document.message_stop("Pick a lamp that hangs on a source first.")
            return

        shown, assessment = document.assessed_plan, document.assessment

        def change(plan):  # type: ignore[no-untyped-def]
            for i in places:
                lamp = i if any(p.id == i for p in plan.lamps) else ""
                plan, _ = edits.add_entry(
                    plan,
                    "reading",
                    what=what,
                    place=i,
                    value=value,
                    at=at,
                    lamp=lamp,
                    **read_on(shown, assessment, what, i),
                )
            return plan

        document.edit("Write down a reading", change)

    def refresh(self) -> None:
        places = self.places()
        lamps = [i for i in places if any(p.id == i for p in self.document.plan.lamps)]
        self.of.setText("Of " + names_of(self.plan, places, 4))
        for button in self.looks:
            button.setEnabled(bool(lamps))
        self.form.typed("lux").setEnabled(bool(lamps))
        for path in ("volts", "amps", "lux"):
            self.form.typed(path).show_value("")
        assessment = self.panel.assessment
        lines = []
        for line in sheet_of(self.document.assessed_plan, assessment) if lamps else ():
            if lamps[0] in line.lamps:
                lines.append(
                    f"To test: {figure(line.supply_v)} V, limit {figure(line.limit_a * 1e3)} mA over {name_of(self.plan, line.branch)}. "
                    f"{figure(line.low_a * 1e3, 2)} to {figure(line.high_a * 1e3, 2)} mA, {figure(line.volts)} V over {name_of(self.plan, line.lamps[0])}; {names_of(self.plan, line.lamps)} should light."
                )
        for single in lamp_tests(self.document.assessed_plan, assessment) if lamps else ():
            if lamps[0] in single.lamps:
                lines.append(f"By itself, {how_words(self.plan)}: {told(self.plan, single)}.")
        for test in joint_lines(self.document.assessed_plan, assessment) if lamps else ():
            if test.lamps[-1] == lamps[0] and " of " in test.joint:
                clips = f"{test.clips}; " if test.flows else ""
                lines.append(f"After its joint ({test.joint}): {clips}{test.source}, {test.flows}; {test.seen}.")
        self.sheet.setText(" ".join(lines))
        self.sheet.setVisible(bool(lines))


class PaneReadingCard(PanelCard):
    """The luminance of the window that is picked, as a meter shows it."""

    title = "A reading"
    fields = (
        Field("cd_m2", "Luminance", Number("cd/m²", 1e-4, 1e6), "As a luminance meter, or a camera that was tried against one, shows it in the dark",
              name="Luminance read", takes=lambda card, v: card.take(v)),
    )  # fmt: skip

    def build(self) -> None:
        self.said = self.card.consequence()

    def _picked(self) -> list[Opening]:
        states = self.panel.assessment.openings
        return [o for o in self.document.selected_items() if isinstance(o, Opening) and o.id in states]

    def take(self, value: float) -> None:
        """Write down what each of those picked was read to have."""
        document, at = self.document, now_of(self.document)
        shown, assessment, picked = document.assessed_plan, document.assessment, self._picked()
        if not picked:
            document.message_stop("Pick a window first.")
            return

        def change(plan: Plan) -> Plan:
            for o in picked:
                more = read_on(shown, assessment, "cd_m2", o.id)
                plan, _ = edits.add_entry(
                    plan, "reading", what="cd_m2", place=o.id, value=value, at=at, section=o.section, **more
                )
            return plan

        document.edit("Write down a reading", change)

    def refresh(self) -> None:
        picked = self._picked()
        self.form.typed("cd_m2").show_value("")
        self.form.typed("cd_m2").setEnabled(bool(picked))
        state = self.panel.assessment.openings[picked[0].id] if picked else None
        if state is None or state.luminance_cd_m2 <= 0:
            self.said.setText("Dark, as planned." if picked else "Pick a window.")
            return
        low, high = band(state.luminance_cd_m2, state.sigma, state.lean)
        self.said.setText(
            f"{name_of(self.plan, picked[0].id)}: {figure(state.luminance_cd_m2)} cd/m² predicted, likely {figure(low, 2)} to {figure(high, 2)}"
        )
