"""What stands in the way of the selection, and offers that show their outcome before they are taken."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from gwiazda.core.findings.finding import Finding
from gwiazda.core.findings.outcome import Outcome, outcome_of
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import with_parts
from gwiazda.core.plan.model import Plan
from gwiazda.core.turns import OvertakenError
from gwiazda.desktop.document import Document
from gwiazda.desktop.panels.panel import Card, label
from gwiazda.desktop.tasks import PlanTask
from gwiazda.desktop.widgets.offer import OfferButton

if TYPE_CHECKING:
    from gwiazda.desktop.panels.inspector import CardSource

MOST_FINDINGS = 4


Outcomes = tuple[Plan, dict[tuple[int, int], Outcome | None]]  # by finding and fix


class OutcomeFinder(QObject):
    """Reckons outcomes off the interface thread."""

    ready = Signal(object)

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self._task: PlanTask[Outcomes] = PlanTask(document, "offers", "What offers come to", self)

    def ask(self, plan: Plan, catalogue: Catalogue, findings: tuple[Finding, ...]) -> None:
        """Ask once nothing has changed for a moment."""
        known = frozenset((f.rule, i) for f in self._document.findings for i in f.subjects)

        def job() -> Outcomes:
            out: dict[tuple[int, int], Outcome | None] = {}
            for i, f in enumerate(findings):
                for j, fix in enumerate(f.fixes):
                    if self._task.overtaken:
                        raise OvertakenError  # the plan has gone on: nobody waits for this one's
                    out[i, j] = outcome_of(plan, catalogue, f, fix, known)
            return plan, out

        self._task.ask_soon(plan, job, self.ready.emit)

    @property
    def idle(self) -> bool:
        return self._task.idle

    def close(self) -> None:
        self._task.close()


class OffersCard(Card):
    """Findings of the selection with their offers."""

    def __init__(self, document: Document, finder: OutcomeFinder, stations: CardSource) -> None:
        super().__init__("")
        self.document, self._finder, self.stations = document, finder, stations
        self._shown: tuple[Finding, ...] = ()
        self._said: object = None
        self._plan: Plan | None = None
        self._holder: QWidget | None = None
        self._buttons: dict[tuple[int, int], tuple[OfferButton, str]] = {}
        finder.ready.connect(self._take)

    def relevant(self) -> list[Finding]:
        """Findings of what is picked, and of what lies in a picked section; all of them when nothing is."""
        chosen = {*self.document.selection, *with_parts(self.document.plan, self.document.selection)}
        if not chosen:
            return [
                f for f in self.document.findings if self.stations.station_of_topic(f.topic) == self.document.station
            ]
        assessment = self.document.assessment
        out = []
        for f in self.document.findings:
            lamp, opening = assessment.lamps.get(f.subject), assessment.openings.get(f.subject)
            homes = {*f.subjects, lamp.section if lamp else None, opening.section if opening else None}
            if homes & chosen:
                out.append(f)
        return out

    def _elsewhere(self) -> str:
        """With nothing picked: where else something is to be settled."""
        if self.document.selection:
            return ""
        counts = Counter(self.stations.station_of_topic(f.topic) for f in self.document.findings)
        words = [f"{n} at {self.stations.name_of_station(s)}" for s, n in counts.items() if s != self.document.station]
        return f"Fix at other stations: {', '.join(words)}." if words else ""

    def refresh(self) -> None:
        relevant = self.relevant()
        shown = tuple(relevant[:MOST_FINDINGS])
        elsewhere = self._elsewhere()
        said = (
            elsewhere,
            len(relevant),
            tuple((f.severity, f.sentence, tuple(x.label for x in f.fixes)) for f in shown),
        )
        same = said == self._said and self._holder is not None
        fresh = self._plan is not self.document.assessed_plan
        self._plan, self._shown, self._said = self.document.assessed_plan, shown, said
        if same:
            # The same words: only what the offers would come to may be different.
            if fresh and self._buttons:
                self._finder.ask(self._plan, self.document.assessment.catalogue, shown)
            return
        if self._holder is not None:
            self._holder.hide()
            self._holder.deleteLater()
        self._holder = QWidget()
        box = QVBoxLayout(self._holder)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        self._buttons = {}
        title = "To fix" if shown else "Nothing to fix"
        box.addWidget(label(title, "cardtitle"))
        if elsewhere:
            box.addWidget(label(elsewhere, "muted", wrap=True))
        for i, finding in enumerate(shown):
            sentence = label(finding.sentence, finding.severity, wrap=True)
            sentence.setAccessibleName(f"{finding.severity}: {finding.sentence}")
            box.addWidget(sentence)
            for j, fix in enumerate(finding.fixes):
                button = OfferButton(fix.label)
                button.setToolTip(f"{fix.label}: takes this one step, undo takes it back")
                button.clicked.connect(lambda _=False, k=(i, j): self._take_offer(k))
                box.addWidget(button)
                self._buttons[(i, j)] = (button, fix.label)
        if len(relevant) > len(shown):
            box.addWidget(label(f"and {len(relevant) - len(shown)} more", "muted"))
        self.outer.addWidget(self._holder)
        if self._buttons:
            self._finder.ask(self._plan, self.document.assessment.catalogue, shown)

    def _take_offer(self, key: tuple[int, int]) -> None:
        if key[0] < len(self._shown) and key[1] < len(self._shown[key[0]].fixes):
            fix = self._shown[key[0]].fixes[key[1]]
            self.document.edit(fix.label, fix.applied)

    def _take(self, result: Outcomes) -> None:
        plan, outcomes = result
        if plan is not self._plan:
            return
        before = self.document.assessment.supply.draw_a * 1e3
        for key, outcome in outcomes.items():
            if key not in self._buttons:
                continue
            button, _ = self._buttons[key]
            # An offer that can't be taken, or changes nothing of what it names, is none.
            button.setVisible(outcome is not None and outcome.helps)
            if outcome is not None:
                button.show_outcome(*outcome.words(before))
