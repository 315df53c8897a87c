"""The fewest lamps that light a section, in each layout of them."""

from __future__ import annotations

from PySide6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout

from gwiazda.core.assess.aims import LOOK_CD_M2
from gwiazda.core.assess.choices import fewest
from gwiazda.core.plan.model import Section
from gwiazda.desktop.panels.panel import PanelCard, clear, label


class FewestCard(PanelCard):
    """The fewest lamps in each layout."""

    title = "Fewest lamps"

    def build(self) -> None:
        self.button(
            "Propose lamps for each layout", "The fewest of the part of its first lamp that reach its wanted look, evenly", self._propose
        )  # fmt: skip
        self._proposals = QVBoxLayout()
        self.card.outer.addLayout(self._proposals)
        self._proposed_for = ""

    def _propose(self) -> None:
        section: Section = self.first
        clear(self._proposals)
        plan, assessment = self.plan, self.panel.assessment
        mine = [p for p in plan.lamps if (s := assessment.lamps.get(p.id)) is not None and s.section == section.id]
        part = mine[0].part if mine else "chip-1206-warm-white"
        # The assessment may still be on its way for a section that is new.
        state = assessment.sections.get(section.id)
        wanted = (state.wanted_cd_m2 if state else 0.0) or LOOK_CD_M2["normal"]
        proposals = fewest.propose(self.document.catalogue, plan, section.id, part, fewest.Aim(wanted))
        if not proposals:
            self._proposals.addWidget(label("It has no lit window yet.", "muted"))
        for proposal in proposals:
            lamps = "1 lamp" if proposal.lamp_count == 1 else f"{proposal.lamp_count} lamps"
            reach = "" if proposal.reached >= 1 else f", only {proposal.reached * 100:.0f} % bright"
            words = f"{lamps} {fewest.SCHOOLS[proposal.school]}: {proposal.evenness:.2f} even{reach}"
            button = QPushButton(words)
            button.setObjectName("proposal")
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.setToolTip(f"{words}. Takes the place of the lamps it has; undo takes it back")
            button.clicked.connect(lambda _=False, p=proposal: self._take(p))
            self._proposals.addWidget(button)
        self._proposed_for = section.id

    def _take(self, proposal: fewest.Proposal) -> None:
        section: Section = self.first
        self.document.edit("Take the proposed lamps", lambda plan: fewest.take(plan, section.id, proposal))

    def say(self) -> None:
        if self._proposed_for != self.first.id:
            clear(self._proposals)
            self._proposed_for = ""
