"""The fewest lamps that light a section, in each layout of them."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout

from gwiazda.core.assess.choices import fewest
from gwiazda.core.plan.model import Section
from gwiazda.desktop.panels.panel import PanelCard, clear, label


class FewestCard(PanelCard):
    """The fewest lamps in each layout."""

    title = "Fewest lamps"

    def build(self) -> None:
        self.button(
            "Propose lamps for each layout", "The fewest of the part of its first lamp that reach its wanted look, evenly, and a strip beside them", self._propose
        )  # fmt: skip
        self._proposals = QVBoxLayout()
        self.card.outer.addLayout(self._proposals)
        self._proposed_for = ""

    def _propose(self) -> None:
        section: Section = self.first
        clear(self._proposals)
        plan, assessment, catalogue = self.plan, self.panel.assessment, self.document.catalogue
        mine = [p for p in plan.lamps if (s := assessment.lamps.get(p.id)) is not None and s.section == section.id]
        part = mine[0].part if mine else "chip-1206-warm-white"
        # The assessment may still be on its way for a section that is new.
        state = assessment.sections.get(section.id)
        looks = assessment.looks
        said = {p.wanted.look for p in mine} or {"normal"}
        word = said.pop() if len(said) == 1 else None
        wanted = (state.wanted_cd_m2 if state else 0.0) or looks.pane("normal")
        aim = fewest.Aim(wanted, look=word if word is not None and word in looks.cd_m2 else None)
        parts = [p for p in (part, fewest.beside(catalogue, plan, part)) if p]
        self._proposals.addWidget(label("Trying lamps and strips in each layout…", "muted", wrap=True))

        def job() -> tuple[fewest.Proposal, ...]:
            return tuple(x for p in parts for x in fewest.propose(catalogue, plan, section.id, p, aim))

        self._proposed_for = section.id
        self.panel.task("fewest").ask(plan, job, partial(self._show, section.id), lambda: clear(self._proposals))

    def _show(self, section_id: str, proposals: tuple[fewest.Proposal, ...]) -> None:
        if section_id != self._proposed_for:
            return
        clear(self._proposals)
        if not proposals:
            self._proposals.addWidget(label("It has no lit window yet.", "muted"))
        for proposal in proposals:
            reach = "" if proposal.reached >= 1 else f", only {proposal.reached * 100:.0f} % bright"
            words = f"{proposal.words[:1].upper()}{proposal.words[1:]}: {proposal.evenness:.2f} even{reach}"
            button = QPushButton(words)
            button.setObjectName("proposal")
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            how = " It hangs straight on the rails, at the brightness the source gives it." if proposal.rails else ""
            button.setToolTip(f"{words}.{how} Takes the place of the lamps it has; undo takes it back")
            button.clicked.connect(lambda _=False, p=proposal: self._take(p))
            self._proposals.addWidget(button)

    def _take(self, proposal: fewest.Proposal) -> None:
        section: Section = self.first
        self.document.edit("Take the proposed lamps", lambda plan: fewest.take(plan, section.id, proposal))

    def say(self) -> None:
        if self._proposed_for != self.first.id:
            clear(self._proposals)
            self._proposed_for = ""
